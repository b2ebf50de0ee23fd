#include "quantities/evaluate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "mesh/side_meeting.hpp"
#include "mesh/side_views.hpp"
#include "quantities/path.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

namespace {

/// The field whose size a component is to be held against.
Field magnitude_of(Field field) {
    if (is_of_potential(field)) return field == Field::potential ? Field::potential : Field::flux;
    if (dimension_of(field) == dimension::length) return Field::displacement;
    if (field == Field::exx || field == Field::eyy || field == Field::exy || field == Field::ezz) return field;
    return Field::von_mises;
}

template <int D>
double reaction(const QuantitySpec& q, const SolutionIn<D>& s) {
    double sum = 0;
    for (const auto& r : s.reactions) {
        const bool counts = q.on.empty() || fits_any(r.name, q.on);
        if (!counts) continue;
        sum += q.field == Field::reaction_flow ? r.flow
                                               : r.force[q.field == Field::reaction_x   ? 0
                                                         : q.field == Field::reaction_y ? 1
                                                                                        : 2];
    }
    return sum;
}

/// What one side of a path does to the other.
QuantityValue over_section(const QuantitySpec& q, const PathSpec& path, const FieldSource& f,
                           const ElementLocator& locator) {
    QuantityValue v{q.name, 0, 0, std::nullopt};
    const SectionForce s = section_force(path, f, locator);
    v.value = q.field == Field::section_moment ? s.moment : s.force[q.field == Field::section_force_x ? 0 : 1];
    v.scale = integrate_path<2>(path, f, locator, [&](std::size_t e, const ElementPoint& p, const PathPoint& at) {
        return von_mises(recovered_stress(f.mesh, f.laws, f.fields.solution, f.fields.stress.slots, e, p)) *
               f.laws.depth(f.mesh.region[e], at.position);
    });
    if (q.field == Field::section_moment) v.scale *= length_of(path, f.mesh) / 2;
    return v;
}

/// Over a path.
template <int D>
QuantityValue along_path(const QuantitySpec& q, const PathSpec& path, const FieldSourceIn<D>& f,
                         const ElementLocatorIn<D>& locator) {
    QuantityValue v{q.name, 0, 0, std::nullopt};
    if constexpr (D == 2)
        if (is_section(q.field)) return over_section(q, path, f, locator);
    const auto value = [&](std::size_t e, const ElementPointIn<D>& p, const PathPointIn<D>&) {
        return field_at(q.field, f, e, p);
    };
    switch (q.take) {
        case Take::mean:
        case Take::integral: {
            v.value = integrate_path<D>(path, f, locator, value);
            if (q.take == Take::mean)
                v.value /= integrate_path<D>(
                    path, f, locator, [](std::size_t, const ElementPointIn<D>&, const PathPointIn<D>&) { return 1.0; });
            break;
        }
        case Take::membrane:
        case Take::linearised: {
            const auto s = linearise<D>(path, f, locator);
            const auto of = [&](double share) {
                FieldValues<D> values;
                values.position = place_in_mesh<D>((path.points.front() + path.points.back()) * 0.5);
                for (std::size_t c = 0; c < values.stress.size(); ++c)
                    values.stress[c] = s.membrane[c] + share * s.bending[c];
                return scalar<D>(q.field, values, f.laws.regions.front(), f.about);
            };
            if (q.take == Take::membrane) {
                v.value = of(0);
            } else {
                const double start = of(1), end = of(-1);
                const bool first = first_end_counts(q, start, end);
                v.value = first ? start : end;
                v.position = first ? path.points.front() : path.points.back();
            }
            break;
        }
        default: {
            const double sign = q.take == Take::minimum ? -1 : 1;
            double best = -INFINITY;
            FieldSourceIn<D> finest = f;
            finest.finest = true;
            for (const auto& p : sample_path<D>(path, locator)) {
                if (!p.where) continue;
                const auto e = p.where->element;
                const double x =
                    sign * field_at(q.field, finest, e, evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), p.where->xi));
                if (x <= best) continue;
                best = x;
                v.position = in_space(p.position);
            }
            v.value = sign * best;
        }
    }
    return v;
}

}  // namespace

bool first_end_counts(const QuantitySpec& q, double first, double last) {
    constexpr double clearly = 1.1;
    if (q.end) return *q.end == PathEnd::first;
    return std::fabs(last) <= clearly * std::fabs(first);
}

namespace {

/// act(element, point, weight) over the boundaries of a quantity.
void over_boundaries(const QuantitySpec& q, const Mesh& mesh,
                     const std::function<void(std::size_t, const ElementPoint&, double)>& act) {
    for (const auto& view : side_views(mesh, q.on, q.inside)) {
        const auto positions = mesh.positions(view.element);
        const auto points = side_points(mesh, mesh.boundary[view.boundary]);
        for (std::size_t k = 0; k < points.size(); ++k)
            act(view.element, evaluate(mesh.kinds[view.element], positions, view.at(mesh, line_rule()[k].t)),
                view.share * points[k].length);
    }
}
void over_boundaries(const QuantitySpec& q, const SolidMesh& mesh,
                     const std::function<void(std::size_t, const ElementPointIn<3>&, double)>& act) {
    for (const auto& view : side_views(mesh, q.on, q.inside))
        for (const auto& p : points_on_side(mesh, {static_cast<std::int32_t>(view.element), view.side}))
            act(view.element, p.point, view.share * p.weight);
}

}  // namespace

template <int D>
void for_each_place(const QuantitySpec& q, const MeshIn<D>& mesh,
                    const std::function<void(std::size_t, const ElementPointIn<D>&, double)>& act) {
    if (const RegionsOf regions(mesh, q.on); regions.any()) {
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            if (!regions.has(e)) continue;
            const auto positions = mesh.positions(e);
            for (const auto& point : tabulated<D>(mesh.kinds[e], quadrature<D>(mesh.kinds[e], 4))) {
                const auto p = evaluate<D>(mesh.kinds[e], positions, point);
                act(e, p, point.weight * p.jacobian);
            }
        }
        return;
    }
    over_boundaries(q, mesh, act);
}
template void for_each_place<2>(const QuantitySpec&, const MeshIn<2>&,
                                const std::function<void(std::size_t, const ElementPointIn<2>&, double)>&);
template void for_each_place<3>(const QuantitySpec&, const MeshIn<3>&,
                                const std::function<void(std::size_t, const ElementPointIn<3>&, double)>&);

template <int D>
IntegralOverPlaces integral_over(const QuantitySpec& q, const FieldSourceIn<D>& f) {
    IntegralOverPlaces out;
    for_each_place<D>(q, f.mesh, [&](std::size_t e, const ElementPointIn<D>& p, double w) {
        out.sum += w * field_at(q.field, f, e, p);
        out.size += w;
    });
    return out;
}
template IntegralOverPlaces integral_over<2>(const QuantitySpec&, const FieldSourceIn<2>&);
template IntegralOverPlaces integral_over<3>(const QuantitySpec&, const FieldSourceIn<3>&);

std::string unit_of(const Study& study, Field field) {
    if (field == Field::turn) return "rad";
    if (field == Field::potential && !study.conduction.unit.empty()) return study.conduction.unit;
    if (is_of_potential(field) && !study.conduction.of_heat()) return "";
    return study.units.label(dimension_of(field));
}

std::string unit_of(const Study& study, const QuantitySpec& q) {
    if (q.formula) return "";
    std::string unit = unit_of(study, q.field);
    if (q.take != Take::integral) return unit;
    const bool whole = q.along.empty() && q.on.empty();
    const std::string length = study.units.label(dimension::length);
    const std::string size = study.solid() ? length + (whole ? "³" : "²") : whole ? length + "²" : length;
    return unit.empty() ? size : unit + " " + size;
}

template <int D>
std::size_t place_of_case(const std::vector<CaseFieldsIn<D>>& cases, const std::string& load_case) {
    const auto found = std::find_if(cases.begin(), cases.end(),
                                    [&](const CaseFieldsIn<D>& c) { return c.solution.load_case == load_case; });
    return found == cases.end() ? 0 : static_cast<std::size_t>(found - cases.begin());
}
template std::size_t place_of_case<2>(const std::vector<CaseFieldsIn<2>>&, const std::string&);
template std::size_t place_of_case<3>(const std::vector<CaseFieldsIn<3>>&, const std::string&);

namespace {

/// A value at a place, and what else is known of it there.
struct Local {
    double value = 0, spread = NAN;
};

template <int D>
Local local_value(Field field, const FieldSourceIn<D>& f, std::size_t e, const Vec<D>& xi) {
    const ElementPointIn<D> p = evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), xi);
    Local out;
    if constexpr (D == 3) {
        out.value = field_at(field, f, e, p);
        return out;
    } else {
        FieldValues<2> values = values_at(f, e, p);
        const RegionLaw& law = f.laws.of(f.mesh.region[e]);
        out.value = scalar<2>(field, values, law, f.about);
        const bool flux = is_of_potential(field) && field != Field::potential;
        if (f.origin != FieldOrigin::recovered || !(is_of_stress(field) || flux)) return out;
        const auto& s = f.fields.solution;
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(f.mesh.kinds[e])); ++c) {
            if (flux) {
                const auto by = f.fields.flux.by_corner(f.mesh, f.laws, e, c, p);
                if (!by) continue;
                values.flux = *by;
            } else {
                const auto by = f.fields.stress.by_corner(f.mesh, f.laws, s, e, c, p);
                if (!by) continue;
                values.stress = *by;
            }
            out.spread = std::fmax(out.spread, std::fabs(scalar<2>(field, values, law, f.about) - out.value));
        }
        return out;
    }
}

template <int D>
Vec<D> displacement_at(const ElementLocatorIn<D>& located, const Vec<D>& at, const FieldSourceIn<D>& f) {
    const LocationIn<D> where = located.sides_of(at, {}).front();  // it does not jump
    const auto e = where.element;
    return values_at(f, e, evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), where.xi)).displacement;
}

/// The rigid motion nearest to that of the boundary, by least squares over its length.
QuantityValue turn_of(const QuantitySpec& q, const FieldSource& f) {
    double length = 0, moment = 0, turned = 0;
    Vec2 centre{}, moved{};
    for_each_place<2>(q, f.mesh, [&](std::size_t e, const ElementPoint& p, double weight) {
        length += weight;
        centre += p.position * weight;
        moved += values_at(f, e, p).displacement * weight;
    });
    centre = centre / length;
    moved = moved / length;
    double largest = 0;
    for_each_place<2>(q, f.mesh, [&](std::size_t e, const ElementPoint& p, double weight) {
        const Vec2 arm = p.position - centre, u = values_at(f, e, p).displacement;
        moment += weight * dot(arm, arm);
        turned += weight * cross(arm, u - moved);
        largest = std::max(largest, norm(u));
    });
    QuantityValue v{q.name, turned / moment, largest / std::sqrt(moment / length), std::nullopt};
    return v;
}

/// The worst of the sides that count.
void take_evidence(const Local& local, QuantityValue& v) {
    v.spread = std::fmax(v.spread, local.spread);
}

}  // namespace

namespace {

/// At a point; where regions meet there, the mean of all that count.
template <int D>
QuantityValue value_at(const QuantitySpec& q, const FieldSourceIn<D>& finest, const ElementLocatorIn<D>& located) {
    QuantityValue v{q.name, 0, 0, std::nullopt};
    const auto places = located.sides_of(place_in_mesh<D>(*q.at), q.inside);
    for (const LocationIn<D>& where : places) {
        const double share = 1 / static_cast<double>(places.size());
        const Local local = local_value<D>(q.field, finest, where.element, where.xi);
        v.value += share * local.value;
        take_evidence(local, v);
    }
    v.position = *q.at;
    return v;
}

}  // namespace

template <int D>
std::vector<QuantityValue> evaluate_quantities(const Study& study, const MeshIn<D>& mesh, const LawsIn<D>& laws,
                                               const std::vector<CaseFieldsIn<D>>& cases) {
    std::vector<QuantityValue> out;
    std::vector<std::string> names;
    std::vector<double> values;
    std::optional<ElementLocatorIn<D>> locator;
    const auto located = [&]() -> const ElementLocatorIn<D>& {
        if (!locator) locator.emplace(mesh);
        return *locator;
    };
    for (const auto& q : study.quantities) {
        QuantityValue v{q.name, 0, 0, std::nullopt};
        FieldSourceIn<D> f{mesh, laws, cases[place_of_case(cases, q.load_case)], q.about, q.origin};
        if (q.relative_to) f.datum = displacement_at<D>(located(), place_in_mesh<D>(*q.relative_to), f);
        FieldSourceIn<D> finest = f;
        finest.finest = true;
        const bool of_field = !q.formula && !is_energy(q.field) && !is_reaction(q.field);
        if (of_field && q.field == Field::turn) {
            if constexpr (D == 2) v = turn_of(q, f);
        } else if (of_field && !q.along.empty()) {
            const auto path = std::find_if(study.paths.begin(), study.paths.end(),
                                           [&](const PathSpec& p) { return p.name == q.along; });
            v = along_path<D>(q, *path, f, located());
        } else if (!q.formula && q.take == Take::value && q.at) {
            v = value_at<D>(q, finest, located());
        } else if (q.formula) {
            v.value = FormulaEvaluator(*q.formula, study.path.string(), names).with(values);
        } else if (is_energy(q.field)) {
            v.value = q.field == Field::strain_energy ? f.fields.solution.strain_energy : f.fields.solution.dissipation;
        } else if (is_reaction(q.field)) {
            v.value = reaction(q, f.fields.solution);
            const auto& b = f.fields.solution.balance;
            v.scale = q.field == Field::reaction_flow ? b.flow_magnitude : b.magnitude;
        } else if (q.take == Take::mean || q.take == Take::integral) {
            const auto [sum, size] = integral_over(q, f);
            v.value = q.take == Take::mean ? sum / size : sum;
        } else {
            const ExtremeIn<D> x = find_extreme(q.field, q.take != Take::minimum, finest, q.on, q.inside);
            v.value = x.value;
            v.position = in_space(x.position);
            if constexpr (D == 2)
                if (std::isfinite(x.value)) take_evidence(local_value<2>(q.field, finest, x.element, x.xi), v);
        }
        if (!std::isfinite(v.value)) {
            Place place = place_in(study.path, q.where);
            throw InputError(fmt::format("quantity.{} gives no finite number", q.name), place,
                             q.along.empty() ? "is something divided by zero?" : "does its path lie in the part?");
        }
        if (!q.formula && v.scale == 0 && q.take != Take::total) {
            for (const double x : slot_field(magnitude_of(q.field), f)) v.scale = std::max(v.scale, std::fabs(x));
            if (q.take == Take::integral)  // over what the part is large
                v.scale *= q.along.empty() && RegionsOf(mesh, q.on).any() ? mesh.measure()
                           : D == 2                                       ? std::sqrt(mesh.measure())
                                                                          : std::pow(mesh.measure(), 2.0 / 3);
        }
        names.push_back(q.name);
        values.push_back(v.value);
        out.push_back(std::move(v));
    }
    return out;
}

template std::vector<QuantityValue> evaluate_quantities<2>(const Study&, const MeshIn<2>&, const LawsIn<2>&,
                                                           const std::vector<CaseFieldsIn<2>>&);
template std::vector<QuantityValue> evaluate_quantities<3>(const Study&, const MeshIn<3>&, const LawsIn<3>&,
                                                           const std::vector<CaseFieldsIn<3>>&);

}  // namespace dotsift
