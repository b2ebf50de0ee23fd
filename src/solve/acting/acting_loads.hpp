#pragma once
// What acts on a part in one load case, as tables: tractions and fluxes on its outline, forces and sources inside.

#include <array>
#include <functional>
#include <vector>

#include "solve/acting/load_density.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// On one side of the outline, at its side_points.
struct SideLoad {
    std::int32_t element = 0, side = 0;
    std::array<SidePoint, 5> points{};
    std::array<Vec2, 5> traction{};              ///< that is known
    std::array<std::array<Vec2, 2>, 5> known{};  ///< directions in which the traction is known; zero vectors: none
    std::array<double, 5> flux{};                ///< into the part; of a transfer, less `transfer` times the potential
    std::array<double, 5> transfer{};
    bool flux_known = true;
};

/// Loads of a case with their factors.
class ActingLoads {
  public:
    /// Throws as LoadDensity does. Where supports, periodic pairs or remote points act, the traction is not known along
    /// the directions that they hold.
    ActingLoads(const Mesh& mesh, const Study& study, const Laws& laws, const std::string& load_case);
    /// Those of a dual problem: none but at the marked nodes, where what acts is not known.
    ActingLoads(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<char>& marked_nodes);

    [[nodiscard]] const std::vector<SideLoad>& sides() const { return sides_; }
    [[nodiscard]] bool any_in_volume() const { return !inside_.empty(); }
    /// Whether it is known what acts inside of an element.
    [[nodiscard]] bool known_inside(std::size_t element) const { return unknown_.empty() || !unknown_[element]; }
    /// Force and source per volume. Not to be called from several threads.
    [[nodiscard]] LoadDensity::Density inside(std::size_t element, const ElementPoint& point) const;

  private:
    struct Part {
        LoadDensity density;
        double factor;
    };
    /// `loads` with a factor each act.
    void fill_sides(const Mesh& mesh, const Study& study, const Laws& laws, const CaseSpec& load_case,
                    const std::vector<Part>& on_outline, bool remote_forces);

    std::vector<Part> inside_;
    std::vector<char> unknown_;  ///< of each element; empty: none
    std::vector<SideLoad> sides_;
};

}  // namespace dotsift
