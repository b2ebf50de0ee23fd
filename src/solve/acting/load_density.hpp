#pragma once
// A load as what it brings per area of a boundary or per volume of a region.

#include <array>
#include <optional>

#include "mesh/mesh.hpp"
#include "solve/acting/mean_motion.hpp"
#include "solve/acting/side_measure.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Any load but a force at a point and a change of temperature. Not to be shared between threads.
template <int D>
class LoadDensityIn {
  public:
    /// Throws InputError if a spread integrates to zero. All arguments must outlive it.
    LoadDensityIn(const MeshIn<D>& mesh, const LoadSpec& load, const LawsIn<D>& laws, const std::string& file);

    struct Density {
        Vec<D> force{};
        double flow = 0;      ///< into the part
        double transfer = 0;  ///< flow that is lost per degree of the potential
    };
    [[nodiscard]] bool acts_on(const BoundarySide& side) const;
    [[nodiscard]] bool acts_in(std::size_t element) const;
    /// Throws InputError if a formula gives no number.
    [[nodiscard]] Density at(const SidePointIn<D>& point) const;
    [[nodiscard]] Density at(std::size_t element, const ElementPointIn<D>& point) const;
    /// Of its boundary: length times depth.
    [[nodiscard]] double area() const { return area_; }

  private:
    [[nodiscard]] double share(const FormulaPlaceIn<D>& place) const;
    [[nodiscard]] Vec<D> vector_at(const FormulaPlaceIn<D>& place) const;

    const MeshIn<D>& mesh_;
    const LoadSpec& load_;
    const LawsIn<D>& laws_;
    Meant meant_;
    std::array<std::optional<FormulaEvaluator>, 3> value_;
    std::optional<FormulaEvaluator> spread_;
    double area_ = 0, total_spread_ = 0;
    MeanMotionIn<D> mean_;
    Vec3 turn_;  ///< of a moment: the tractions are in proportion to the motion that it makes
};
using LoadDensity = LoadDensityIn<2>;

}  // namespace dotsift
