#pragma once
// The elements' stress and flux -> continuous fields that are more accurate.

#include <optional>
#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/fit/polynomials.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// The polynomials round the corner nodes, by slot (see Mesh).
template <std::size_t fields>
struct Patches {
    std::vector<PatchPolynomial<fields>> all;
    std::vector<std::int32_t> of_slot;  ///< -1: no corner
    [[nodiscard]] const PatchPolynomial<fields>& at(std::int32_t slot) const {
        return all[static_cast<std::size_t>(of_slot[static_cast<std::size_t>(slot)])];
    }
};

/// Values at every slot, which is what results hold, and more inside the elements while the polynomials are there: with
/// quadratic elements, the polynomials of the element's corners blended; otherwise interpolated from the slots.
template <int D>
struct RecoveredStressIn;
template <>
struct RecoveredStressIn<2> {
    std::vector<Stress> slots;
    Patches<4> patches{};
    [[nodiscard]] Stress at(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                            const ElementPoint& point) const;
    /// As accurate as the polynomials allow in linear elements too: the mean of what is interpolated and what is
    /// blended, which errs on the other side, follows fields one degree above both. What `at` gives where there are no
    /// polynomials.
    [[nodiscard]] Stress finest(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                                const ElementPoint& point) const;
    /// What the polynomial round one of the element's corners says there; nothing where there is none.
    [[nodiscard]] std::optional<Stress> by_corner(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                                  std::size_t element, std::size_t corner,
                                                  const ElementPoint& point) const;
};
using RecoveredStress = RecoveredStressIn<2>;

template <int D>
struct RecoveredFluxIn;
template <>
struct RecoveredFluxIn<2> {
    std::vector<Vec2> slots;
    Patches<2> patches{};
    std::vector<double> factor{};  ///< of the conductivity, at the slots (see Solution)
    [[nodiscard]] Vec2 at(const Mesh& mesh, const Laws& laws, std::size_t element, const ElementPoint& point) const;
    /// See RecoveredStress.
    [[nodiscard]] Vec2 finest(const Mesh& mesh, const Laws& laws, std::size_t element, const ElementPoint& point) const;
    [[nodiscard]] std::optional<Vec2> by_corner(const Mesh& mesh, const Laws& laws, std::size_t element,
                                                std::size_t corner, const ElementPoint& point) const;

  private:
    [[nodiscard]] Vec2 flux_of(const Mesh& mesh, const Laws& laws, std::size_t element,
                               const std::array<double, 2>& gradient, const ElementPoint& point) const;
};
using RecoveredFlux = RecoveredFluxIn<2>;

/// Over the patch round each corner node, which grows by a ring of elements where it has few, as on the boundary, a
/// displacement or potential is fitted (see constrained_fit.hpp): one degree above the elements', and two above
/// quadratic ones; where the material is nearly incompressible, the stress at the sampling points (Zienkiewicz & Zhu
/// 1992, Int. J. Numer. Meth. Eng. 33, part 1). Middle nodes take the mean of the fits of the corners beside them.
/// Patches do not reach across regions: stress may jump there.
RecoveredStress recover_stress(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);
RecoveredFlux recover_flux(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);

/// The same of the solution of a dual problem, whose load acts at the marked nodes.
RecoveredStress recover_dual_stress(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution,
                                    const std::vector<char>& marked_nodes);
RecoveredFlux recover_dual_flux(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution,
                                const std::vector<char>& marked_nodes);

/// The recovered field inside an element: interpolated from the slots.
template <int D, class Value>
Value interpolate(const MeshIn<D>& mesh, const std::vector<Value>& slots, std::size_t element,
                  const ElementPointIn<D>& point) {
    Value value{};
    const auto list = mesh.slots_of(element);
    for (std::size_t i = 0; i < list.size(); ++i)
        for (std::size_t c = 0; c < value.size(); ++c)
            value[c] += point.n[i] * slots[static_cast<std::size_t>(list[i])][c];
    return value;
}

/// The recovered stress inside an element. Round an axis the strain zz is ux / r, and it is r times the strain that is
/// interpolated: near the axis the strain itself changes faster than any polynomial follows.
Stress recovered_stress(const Mesh& mesh, const Laws& laws, const Solution& solution, const std::vector<Stress>& slots,
                        std::size_t element, const ElementPoint& point);

}  // namespace dotsift
