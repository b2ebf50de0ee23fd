#include "goals/linear_sum.hpp"

#include <type_traits>

#include "solve/acting/supports.hpp"

namespace dotsift {

template <int D>
LinearSum<D>::LinearSum(const Study& study, const FieldSourceIn<D>& source) : source_(source) {
    std::size_t dofs = static_cast<std::size_t>(D) * source.mesh.nodes.size();
    if constexpr (D == 2) {
        layout_ = displacement_layout(source.mesh, study);
        dofs = static_cast<std::size_t>(layout_.dofs);
        arm_ = arm_of(source.mesh);
    } else {
        (void)study;
    }
    if (!source.fields.stress.slots.empty()) out.on_displacement.assign(dofs, 0.0);
    if (!source.fields.flux.slots.empty()) out.on_potential.assign(source.mesh.node_of_slot.size(), 0.0);
    heated_ = !out.on_potential.empty() && !source.fields.solution.temperature_change.empty();
    Box<D> box;
    for (const auto& p : source.mesh.nodes) box.add(p);
    centre_ = box.centre();
}

template <int D>
void LinearSum<D>::add(Field field, std::size_t e, const ElementPointIn<D>& p, double w) {
    out.value += w * field_at(field, source_, e, p);
    add_gradient(field_gradient(field, source_, e, p), e, p, w);
}

template <int D>
void LinearSum<D>::add_gradient(const FieldGradientIn<D>& g, std::size_t e, const ElementPointIn<D>& p, double w) {
    const auto& mesh = source_.mesh;
    const auto nodes = mesh.element(e);
    double by_temperature = g.potential;
    if (!out.on_displacement.empty()) {
        const auto& law = source_.laws.of(mesh.region[e]).elastic;
        const TensorMatrix<D>& d = law.stiffness;
        const SolutionIn<D>& s = source_.fields.solution;
        const double stiffness = stiffness_at(mesh, s, e, p);
        StressIn<D> by_strain{};  // the derivative by each strain, which acts like a stress
        for (std::size_t i = 0; i < tensor_components<D>; ++i)
            for (std::size_t k = 0; k < tensor_components<D>; ++k) by_strain[i] += d[k][i] * g.stress[k] * stiffness;
        if (heated_) {
            double by_change = g.temperature_change;
            for (std::size_t i = 0; i < tensor_components<D>; ++i) by_change -= by_strain[i] * law.expansion[i];
            by_temperature +=
                s.temperature_slope.empty() ? by_change : by_change * slot_value(mesh, s.temperature_slope, e, p);
            if (!s.stiffness_slope.empty()) {
                const StressIn<D> stress = stress_at(mesh, source_.laws, s, e, p);
                double by_stiffness = g.stiffness;
                for (std::size_t k = 0; k < tensor_components<D>; ++k)
                    by_stiffness += g.stress[k] * stress[k] / stiffness;
                by_temperature += by_stiffness * slot_value(mesh, s.stiffness_slope, e, p);
            }
        }
        for (std::size_t i = 0; i < nodes.size(); ++i) {
            Vec<D> force = g.displacement * p.n[i] + traction<D>(by_strain, p.dn[i]);
            if constexpr (D == 2)
                if (source_.laws.axisymmetric())  // on the axis its limit
                    force[0] += (p.position[0] > 0 ? p.n[i] / p.position[0] : p.dn[i][0]) * by_strain[3];
            add_at<D>(out.on_displacement, static_cast<std::size_t>(nodes[i]), force * w);
        }
        if (layout_.shared) {
            const Vec<D> from = (p.position - centre_) / arm_;
            const auto k = static_cast<std::size_t>(layout_.shared_first);
            out.on_displacement[k] += w * by_strain[3];
            out.on_displacement[k + 1] += w * by_strain[3] * from[0];
            out.on_displacement[k + 2] += w * by_strain[3] * from[1];
        }
    }
    if (out.on_potential.empty()) return;
    const auto& conductivity = source_.laws.of(mesh.region[e]).conduction.conductivity;
    const auto slots = mesh.slots_of(e);
    Vec<D> gradient{};
    for (std::size_t i = 0; i < D; ++i)
        for (std::size_t k = 0; k < D; ++k) gradient[i] -= conductivity[k][i] * g.flux[k];
    for (std::size_t i = 0; i < slots.size(); ++i)
        out.on_potential[static_cast<std::size_t>(slots[i])] += w * (p.n[i] * by_temperature + dot(p.dn[i], gradient));
}

template <int D>
Functional LinearSum<D>::finished(Field field) {
    if (is_of_potential(field))
        out.on_displacement.clear();
    else if (source_.fields.solution.temperature_change.empty())
        out.on_potential.clear();
    out.linearised = !row_of(field).linear;
    return std::move(out);
}

template class LinearSum<2>;
template class LinearSum<3>;

}  // namespace dotsift
