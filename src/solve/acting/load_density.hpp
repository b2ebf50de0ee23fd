#pragma once
// A load as what it brings per area of a boundary or per volume of a region.

#include <array>
#include <optional>

#include "mesh/mesh.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/supports.hpp"
#include "solve/material/material.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Any load but a force at a point and a change of temperature. Not to be shared between threads.
class LoadDensity {
  public:
    /// Throws InputError if a spread integrates to zero. All arguments must outlive it.
    LoadDensity(const Mesh& mesh, const LoadSpec& load, const Laws& laws, const std::string& file);

    struct Density {
        Vec2 force{};
        double flow = 0;      ///< into the part
        double transfer = 0;  ///< flow that is lost per degree of the potential
    };
    [[nodiscard]] bool acts_on(const BoundarySide& side) const;
    [[nodiscard]] bool acts_in(std::size_t element) const;
    /// Throws InputError if a formula gives no number.
    [[nodiscard]] Density at(const SidePoint& point) const;
    [[nodiscard]] Density at(std::size_t element, const ElementPoint& point) const;
    /// Of its boundary: length times depth.
    [[nodiscard]] double area() const { return area_; }

  private:
    [[nodiscard]] double share(const FormulaPlace& place) const;

    const Mesh& mesh_;
    const LoadSpec& load_;
    const Laws& laws_;
    Meant meant_;
    std::array<std::optional<FormulaEvaluator>, 2> value_;
    std::optional<FormulaEvaluator> spread_;
    double area_ = 0, total_spread_ = 0;
    MeanMotion mean_;
};

}  // namespace dotsift
