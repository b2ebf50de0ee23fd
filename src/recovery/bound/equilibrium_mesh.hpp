#pragma once
// Elements cut into triangles of three parts each, with polynomial stress or flux in each part, and what acts on them.

#include <utility>
#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/bound/balanced_fields.hpp"
#include "solve/acting/acting_loads.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift::balanced {

/// A third of a triangle: two of its corners and its middle; polynomials are of (x - centre) / size.
struct Third {
    std::array<Vec2, 6> nodes;  ///< of a triangle of six nodes; only its first side may be curved
    Vec2 centre;
    double size = 1;
    std::array<std::array<double, 2>, 6> load{};  ///< coefficients of force or source per depth, degree 2 at most
};

struct Macro {
    std::size_t element = 0;
    std::array<std::size_t, 3> side{};  ///< shared
    std::array<char, 3> turned{};       ///< whether it runs against the side
    std::array<Third, 3> thirds;
};

/// Of one field. Sides and triangles are numbered in the order of the elements.
class EquilibriumMesh {
  public:
    EquilibriumMesh(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution, const Kind& kind);

    std::vector<Side> sides;
    std::vector<Macro> macros;
    std::vector<double> nodes;  ///< of each side, on [0, 1]

    [[nodiscard]] const std::vector<SideLoad>& loads() const { return acting_.sides(); }
    /// The number of the side on which a load acts.
    [[nodiscard]] std::size_t side_of(const SideLoad& load) const;
    /// A field that carries the load of a third.
    [[nodiscard]] Components carrying(const Third& t, const Vec2& x) const;

  private:
    /// Between two corners of the mesh: what is numbered `number`, or a new one.
    std::size_t side_between(std::size_t& number, std::int32_t a, std::int32_t b, std::int32_t middle);
    /// Of three of an element's corners; its sides between them, or -1 for a diagonal.
    void add_macro(std::size_t e, const std::array<int, 3>& corner, const std::array<int, 3>& side);
    void make_macros();
    /// The solution's displacement, or minus its potential, at a place on an element's side.
    [[nodiscard]] std::array<double, 2> motion(const SideLoad& load, double t) const;
    void hold_sides();
    /// Points that are held only against moving as a whole: the nearest node of a side that nothing holds is held
    /// instead.
    void hold_points(const Study& study);
    void fit_loads();

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    Kind kind_;
    ActingLoads acting_;
    std::vector<std::size_t> number_;  ///< of each of the mesh's sides, then of each element's diagonal
};

/// The point of an element at a place in it.
ElementPoint point_in(const Mesh& mesh, std::size_t element, const Vec2& position);

}  // namespace dotsift::balanced
