#pragma once
// The field round a singular point: what rises as a power of the distance, and a polynomial.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/singular_points.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// The modes of a singular point (see CornerModes) and a polynomial one degree above the elements', fitted together to
/// the displacement or potential at the nodes of the elements round it, by least squares. What lies there between the
/// elements' field and this one is an error that no smooth recovered field shows; compare the splitting of Rodenas,
/// Gonzalez-Estrada, Tarancon & Fuenmayor 2008, Int. J. Numer. Meth. Eng. 76.
class SingularFit {
  public:
    /// From five layers of elements round the point, fewer where one of `all` points is nearer; `near` is the distance
    /// within which a node is the point. No elements if the point is no node of the mesh, they are too few, or
    /// polynomials alone do nearly as well.
    SingularFit(const Mesh& mesh, const Laws& laws, const Solution& solution, const SingularPoint& point,
                const std::vector<SingularPoint>& all, double near);

    /// Those that touch the point.
    [[nodiscard]] const std::vector<std::int32_t>& elements() const { return elements_; }
    [[nodiscard]] bool of_potential() const { return of_potential_; }
    [[nodiscard]] Tensor4 stress(std::size_t element, const ElementPoint& p) const;
    [[nodiscard]] Vec2 flux(std::size_t element, const ElementPoint& p) const;

  private:
    [[nodiscard]] std::array<Vec2, 2> gradient(const Vec2& position) const;

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    std::shared_ptr<const CornerModes> modes_;
    Vec2 centre_;
    double scale_ = 1;
    int degree_ = 1;
    bool of_potential_;
    std::int32_t node_ = -1;
    std::vector<std::int32_t> elements_;
    std::vector<double> factors_;                      ///< of the modes
    std::array<std::vector<double>, 2> coefficients_;  ///< of the polynomials
};

/// At every point that has modes.
std::vector<SingularFit> singular_fits(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                       const std::vector<SingularPoint>& points, double near);

}  // namespace dotsift
