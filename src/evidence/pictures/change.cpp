#include "evidence/pictures/change.hpp"

#include "quantities/field_values.hpp"
#include "solve/carry_over.hpp"

namespace dotsift {

namespace {

/// What fields are made from, on another mesh.
template <int D>
CaseFieldsIn<D> carried(const MeshIn<D>& from, const CaseFieldsIn<D>& fields, const MeshIn<D>& to,
                        const std::vector<char>& wanted) {
    using Carry = Carrier<D>;
    const auto& s = fields.solution;
    CaseFieldsIn<D> out;
    const Carry carry(from, to, Carry::Of::slots, wanted);
    const auto number = [&](const std::vector<double>& values, std::vector<double>& there) {
        if (values.empty()) return;
        std::vector<std::array<double, 1>> wrapped;
        wrapped.reserve(values.size());
        for (const double v : values) wrapped.push_back({v});
        for (const auto& v : carry(wrapped)) there.push_back(v[0]);
    };
    if (!s.displacement.empty()) {
        std::vector<char> nodes(wanted.empty() ? 0 : to.nodes.size(), 0);
        for (std::size_t k = 0; k < wanted.size(); ++k)
            if (wanted[k]) nodes[static_cast<std::size_t>(to.node_of_slot[k])] = 1;
        out.solution.displacement = Carry(from, to, Carry::Of::nodes, nodes)(s.displacement);
    }
    number(s.potential, out.solution.potential);
    number(s.temperature_change, out.solution.temperature_change);
    number(s.stiffness_factor, out.solution.stiffness_factor);
    number(s.conductivity_factor, out.solution.conductivity_factor);
    if (!fields.stress.slots.empty()) out.stress.slots = carry(fields.stress.slots);
    if (!fields.flux.slots.empty()) out.flux.slots = carry(fields.flux.slots);
    return out;
}

}  // namespace

template <int D>
std::vector<double> change_of(Field field, const LevelFieldsIn<D>& before, const LevelFieldsIn<D>& now,
                              const std::vector<char>& wanted) {
    const CaseFieldsIn<D> old = carried<D>(before.mesh, before.cases.front(), now.mesh, wanted);
    auto values = slot_field(field, now.source());
    const auto old_values = slot_field(field, FieldSourceIn<D>{now.mesh, now.laws, old, {}});
    for (std::size_t k = 0; k < values.size(); ++k)
        values[k] = wanted.empty() || wanted[k] ? values[k] - old_values[k] : 0;
    return values;
}
template std::vector<double> change_of(Field, const LevelFieldsIn<2>&, const LevelFieldsIn<2>&,
                                       const std::vector<char>&);
template std::vector<double> change_of(Field, const LevelFieldsIn<3>&, const LevelFieldsIn<3>&,
                                       const std::vector<char>&);

std::vector<char> outer_slots(const SolidMesh& mesh) {
    std::vector<char> outer(mesh.node_of_slot.size(), 0);
    for (std::size_t k = 0; k < mesh.sides.count(); ++k) {
        const auto& [first, second] = mesh.sides.beside(k);
        if (second) continue;
        const auto e = static_cast<std::size_t>(first.element);
        const auto slots = mesh.slots_of(e);
        for (const auto local : side_nodes(mesh.kinds[e], first.side))
            outer[static_cast<std::size_t>(slots[static_cast<std::size_t>(local)])] = 1;
    }
    return outer;
}

}  // namespace dotsift
