#include "quantities/field_values.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

/// The two components across z.
template <int D>
Vec2 across(const Vec<D>& v) {
    return {{v[0], v[1]}};
}

}  // namespace

template <int D>
double scalar(Field field, const FieldValues<D>& v, const RegionLawIn<D>& law, const Vec2& about) {
    const StressIn<D>& s = v.stress;
    const auto round = [&] {
        const Vec2 d = across(v.position) - about;
        return turned(s, std::atan2(d[1], d[0]));
    };
    const auto outward = [&] {
        const Vec2 d = across(v.position) - about;
        const double r = norm(d);
        return r > 0 ? d / r : Vec2{{1, 0}};
    };
    const auto strain = [&] { return law.elastic.strain(scaled(s, 1 / v.stiffness), v.change); };
    switch (field) {
        case Field::ux:
            return v.displacement[0];
        case Field::uy:
            return v.displacement[1];
        case Field::displacement:
            return norm(v.displacement);
        case Field::ur:
            return dot(across(v.displacement), outward());
        case Field::ut:
            return dot(across(v.displacement), turned_left(outward()));
        case Field::sxx:
            return s[0];
        case Field::syy:
            return s[1];
        case Field::sxy:
            return s[2];
        case Field::szz:
            return s[3];
        case Field::srr:
            return round()[0];
        case Field::stt:
            return round()[1];
        case Field::srt:
            return round()[2];
        case Field::von_mises:
            return von_mises(s);
        case Field::max_principal:
            return principal(s).front();
        case Field::min_principal:
            return principal(s).back();
        case Field::max_shear:
            return max_shear(s);
        case Field::exx:
            return strain()[0];
        case Field::eyy:
            return strain()[1];
        case Field::exy:
            return strain()[2];
        case Field::ezz:
            return strain()[3];
        case Field::potential:
            return v.potential;
        case Field::flux_x:
            return v.flux[0];
        case Field::flux_y:
            return v.flux[1];
        case Field::flux:
            return norm(v.flux);
        case Field::uz:
            return D == 3 ? v.displacement[D - 1] : 0;
        case Field::syz:
            return D == 3 ? s[s.size() - 2] : 0;
        case Field::szx:
            return D == 3 ? s[s.size() - 1] : 0;
        case Field::eyz:
            return D == 3 ? strain()[s.size() - 2] : 0;
        case Field::ezx:
            return D == 3 ? strain()[s.size() - 1] : 0;
        case Field::flux_z:
            return D == 3 ? v.flux[D - 1] : 0;
        default:
            return 0;
    }
}
template double scalar<2>(Field, const FieldValues<2>&, const RegionLawIn<2>&, const Vec2&);
template double scalar<3>(Field, const FieldValues<3>&, const RegionLawIn<3>&, const Vec2&);

template <int D>
FieldValues<D> values_at(const FieldSourceIn<D>& f, std::size_t e, const ElementPointIn<D>& p) {
    FieldValues<D> v;
    v.position = p.position;
    const auto& s = f.fields.solution;
    if (!s.displacement.empty()) {
        const auto nodes = f.mesh.element(e);
        for (std::size_t i = 0; i < nodes.size(); ++i)
            v.displacement += s.displacement[static_cast<std::size_t>(nodes[i])] * p.n[i];
        v.displacement -= f.datum;
    }
    const bool own = f.origin != FieldOrigin::recovered;
    if (!f.fields.stress.slots.empty())
        v.stress = own        ? stress_at(f.mesh, f.laws, s, e, p)
                   : f.finest ? f.fields.stress.finest(f.mesh, f.laws, s, e, p)
                              : recovered_stress(f.mesh, f.laws, s, f.fields.stress.slots, e, p);
    if (!f.fields.flux.slots.empty())
        v.flux = own        ? flux_at(f.mesh, f.laws, s, e, p)
                 : f.finest ? f.fields.flux.finest(f.mesh, f.laws, e, p)
                            : interpolate(f.mesh, f.fields.flux.slots, e, p);
    v.potential = slot_value(f.mesh, s.potential, e, p);
    v.change = slot_value(f.mesh, s.temperature_change, e, p);
    v.stiffness = stiffness_at(f.mesh, s, e, p);
    return v;
}
template FieldValues<2> values_at<2>(const FieldSourceIn<2>&, std::size_t, const ElementPointIn<2>&);
template FieldValues<3> values_at<3>(const FieldSourceIn<3>&, std::size_t, const ElementPointIn<3>&);

template <int D>
FieldGradientIn<D> field_gradient(Field field, const FieldSourceIn<D>& f, std::size_t e, const ElementPointIn<D>& p) {
    const FieldValues<D> at = values_at(f, e, p);
    const RegionLawIn<D>& law = f.laws.of(f.mesh.region[e]);
    FieldGradientIn<D> g;
    const auto by = [&](auto component, double size) {
        // A step at which rounding and curvature are about as small.
        const double step = 1e-5 * (size > 0 ? size : 1);
        FieldValues<D> more = at, less = at;
        component(more) += step;
        component(less) -= step;
        return (scalar(field, more, law, f.about) - scalar(field, less, law, f.about)) / (2 * step);
    };
    double largest = 0;
    for (const double s : at.stress) largest = std::max(largest, std::fabs(s));
    for (std::size_t c = 0; c < static_cast<std::size_t>(D); ++c) {
        g.displacement[c] = by([c](FieldValues<D>& v) -> double& { return v.displacement[c]; }, norm(at.displacement));
        g.flux[c] = by([c](FieldValues<D>& v) -> double& { return v.flux[c]; }, norm(at.flux));
    }
    for (std::size_t c = 0; c < g.stress.size(); ++c)
        g.stress[c] = by([c](FieldValues<D>& v) -> double& { return v.stress[c]; }, largest);
    g.potential = by([](FieldValues<D>& v) -> double& { return v.potential; }, std::fabs(at.potential));
    g.temperature_change = by([](FieldValues<D>& v) -> double& { return v.change; }, std::fabs(at.change));
    g.stiffness = by([](FieldValues<D>& v) -> double& { return v.stiffness; }, at.stiffness);
    return g;
}
template FieldGradientIn<2> field_gradient<2>(Field, const FieldSourceIn<2>&, std::size_t, const ElementPointIn<2>&);
template FieldGradientIn<3> field_gradient<3>(Field, const FieldSourceIn<3>&, std::size_t, const ElementPointIn<3>&);

template <int D>
std::vector<double> slot_field(Field field, const FieldSourceIn<D>& f) {
    std::vector<double> values(f.mesh.node_of_slot.size());
    const auto& c = f.fields;
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e)
        for (const auto k : f.mesh.slots_of(e)) {
            const auto slot = static_cast<std::size_t>(k);
            const auto node = static_cast<std::size_t>(f.mesh.node_of_slot[slot]);
            FieldValues<D> v;
            v.position = f.mesh.nodes[node];
            if (!c.solution.displacement.empty()) v.displacement = c.solution.displacement[node] - f.datum;
            if (!c.stress.slots.empty()) v.stress = c.stress.slots[slot];
            if (!c.flux.slots.empty()) v.flux = c.flux.slots[slot];
            if (!c.solution.potential.empty()) v.potential = c.solution.potential[slot];
            if (!c.solution.temperature_change.empty()) v.change = c.solution.temperature_change[slot];
            v.stiffness = factor_of(c.solution.stiffness_factor, slot);
            values[slot] = scalar<D>(field, v, f.laws.of(f.mesh.region[e]), f.about);
        }
    return values;
}
template std::vector<double> slot_field<2>(Field, const FieldSourceIn<2>&);
template std::vector<double> slot_field<3>(Field, const FieldSourceIn<3>&);

}  // namespace dotsift
