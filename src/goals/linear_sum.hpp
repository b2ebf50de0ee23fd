#pragma once
// What single points contribute to a quantity, and to the load of its dual problem, added up.

#include <algorithm>

#include "goals/functional.hpp"
#include "solve/system/field_layout.hpp"

namespace dotsift {

template <int D>
class LinearSum {
  public:
    LinearSum(const Study& study, const FieldSourceIn<D>& source);

    /// w times the field at a point of an element.
    void add(Field field, std::size_t element, const ElementPointIn<D>& point, double w);
    /// To the load alone: w times a field with these derivatives.
    void add_gradient(const FieldGradientIn<D>& gradient, std::size_t element, const ElementPointIn<D>& point,
                      double w);

    /// What has been added up, as a function of what the field depends on alone.
    [[nodiscard]] Functional finished(Field field);

    Functional out;

  private:
    const FieldSourceIn<D>& source_;
    FieldLayout layout_;  ///< of the displacements, in the plane
    double arm_ = 1;
    Vec<D> centre_;
    bool heated_ = false;
};

/// Forces at the supports: the work of the inner forces on a unit motion of what they hold. forces(unit) and
/// flows(unit) are the inner forces and flows of a motion. False: that is not such a force.
template <int D, class Forces, class Flows>
bool over_supports(const QuantitySpec& q, const Study& study, const MeshIn<D>& mesh, const SolutionIn<D>& solution,
                   Forces forces, Flows flows, Functional& out) {
    const bool flow = q.field == Field::reaction_flow;
    const std::size_t axis = q.field == Field::reaction_x ? 0 : q.field == Field::reaction_y ? 1 : 2;
    SolutionIn<D> unit;
    if (flow)
        unit.potential.assign(mesh.node_of_slot.size(), 0.0);
    else
        unit.displacement.assign(mesh.nodes.size(), {});
    if constexpr (D == 2) unit.axial.centre = solution.axial.centre;
    unit.stiffness_factor = solution.stiffness_factor;
    // What else holds the part has no such motion.
    const auto asked = [&](const std::string& name) { return q.on.empty() || fits_any(name, q.on); };
    if (std::any_of(study.remotes.begin(), study.remotes.end(), [&](const auto& r) { return asked(r.name); }) ||
        std::any_of(study.periodic.begin(), study.periodic.end(), [&](const auto& p) { return asked(p.name); }))
        return false;
    for (const auto& s : study.supports) {
        if (!asked(s.name)) continue;
        const bool whole = flow ? !!s.potential : s.hold == Hold::fixed || s.displacement[axis];
        if (s.at || !whole || s.founded()) return false;  // the force is not that of a unit motion along an axis
        const Meant meant(mesh, s.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const auto e = static_cast<std::size_t>(side.element);
            for (const auto i : side_nodes(mesh.kinds[e], side.side)) {
                if (flow)
                    unit.potential[static_cast<std::size_t>(mesh.slots_of(e)[i])] = 1;
                else
                    unit.displacement[static_cast<std::size_t>(mesh.element(e)[i])][axis] = 1;
            }
        }
    }
    if (flow) {
        out.on_potential = flows(unit);
        out.lift = unit.potential;
    } else {
        out.on_displacement = forces(unit);
        out.lift.assign(out.on_displacement.size(), 0.0);
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n) add_at<D>(out.lift, n, unit.displacement[n]);
    }
    for (const auto& r : solution.reactions)
        if (asked(r.name)) out.value += flow ? r.flow : r.force[axis];
    return true;
}

/// Falls smoothly from 1 to 0 as d goes from 0 to 1.
inline double kernel(double d) {
    const double x = 1 - d * d;
    return d < 1 ? x * x * x : 0;
}

// The disc or ball round a point, as a share of the part's diagonal; where the part is narrower it is cut.
inline constexpr double disc_share = 0.02;
// A disc or band holds at least so many elements in its radius: with fewer the dual solution is not resolved.
inline constexpr double elements_across = 4;

}  // namespace dotsift
