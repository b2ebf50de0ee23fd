#include "quantities/evaluate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "mesh/side_views.hpp"
#include "quantities/path.hpp"
#include "solve/side_geometry.hpp"

namespace dotsift {

namespace {

// Elements whose nodal values reach into this share of the field's range below the top are searched more finely.
constexpr double searched_share = 0.25;

/// What fields are made of at one place.
struct Values {
    Vec2 position, displacement, flux;
    Tensor4 stress{};
    double potential = 0, change = 0, stiffness = 1;
};

double scalar(Field field, const Values& v, const RegionLaw& law, const Vec2& about) {
    const Tensor4& s = v.stress;
    const auto round = [&] {
        const Vec2 d = v.position - about;
        return turned(s, std::atan2(d[1], d[0]));
    };
    const auto outward = [&] {
        const Vec2 d = v.position - about;
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
            return dot(v.displacement, outward());
        case Field::ut:
            return dot(v.displacement, turned_left(outward()));
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
            return principal(s)[0];
        case Field::min_principal:
            return principal(s)[1];
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
        default:
            return 0;
    }
}

Values values_at(const FieldSource& f, std::size_t e, const ElementPoint& p) {
    Values v;
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

/// The field whose size a component is to be held against.
Field magnitude_of(Field field) {
    if (is_of_potential(field)) return field == Field::potential ? Field::potential : Field::flux;
    if (dimension_of(field) == dimension::length) return Field::displacement;
    if (field == Field::exx || field == Field::eyy || field == Field::exy || field == Field::ezz) return field;
    return Field::von_mises;
}

/// What counts for a quantity over an area.
class AreaOf {
  public:
    AreaOf(const Mesh& mesh, const std::vector<std::string>& on) : all_(on.empty()), meant_(mesh, on) {}
    /// The names are those of regions, or there are none: the quantity is over an area.
    [[nodiscard]] bool any() const { return all_ || meant_.any_region(); }
    [[nodiscard]] bool has(std::size_t element) const { return all_ || meant_.element(element); }

  private:
    bool all_;
    Meant meant_;
};

/// Integral over the area or the boundaries, and the size of these.
std::array<double, 2> integral(const QuantitySpec& q, const FieldSource& f) {
    double sum = 0, size = 0;
    for_each_place(q, f.mesh, [&](std::size_t e, const ElementPoint& p, double w) {
        sum += w * field_at(q.field, f, e, p);
        size += w;
    });
    return {sum, size};
}

double reaction(const QuantitySpec& q, const Solution& s) {
    double sum = 0;
    for (const auto& r : s.reactions) {
        const bool counts = q.on.empty() || fits_any(r.name, q.on);
        if (!counts) continue;
        sum += q.field == Field::reaction_flow ? r.flow : r.force[q.field == Field::reaction_x ? 0 : 1];
    }
    return sum;
}

/// Of the elements' own field: over areas every element, over boundaries those beside them.
Extreme extreme_of_elements(Field field, bool largest, const FieldSource& f, const std::vector<std::string>& on,
                            const std::vector<std::string>& inside) {
    const Mesh& mesh = f.mesh;
    const double sign = largest ? 1 : -1;
    Extreme best{-INFINITY, {}, 0, {}};
    const auto look = [&](std::size_t e) {
        const auto positions = mesh.positions(e);
        const auto offer = [&](const ElementPoint& p, const Vec2& xi) {
            const double v = sign * field_at(field, f, e, p);
            if (v > best.value) best = {v, p.position, e, xi};
        };
        if (f.origin == FieldOrigin::integration_points) {
            for (const auto& q : integration_points(mesh, f.laws, e, positions))
                offer(evaluate(mesh.kinds[e], positions, q), q.xi);
            return;
        }
        for (std::size_t i = 0; i < mesh.element(e).size(); ++i)
            offer(evaluate(mesh.kinds[e], positions, reference_node(mesh.kinds[e], i)),
                  reference_node(mesh.kinds[e], i));
    };
    if (const AreaOf area(mesh, on); area.any()) {
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            if (area.has(e)) look(e);
    } else {
        for (const auto& view : side_views(mesh, on, inside)) look(view.element);
    }
    best.value *= sign;
    return best;
}

/// Over a path.
QuantityValue along_path(const QuantitySpec& q, const PathSpec& path, const FieldSource& f,
                         const ElementLocator& locator) {
    QuantityValue v{q.name, 0, 0, std::nullopt};
    if (is_section(q.field)) {
        const SectionForce s = section_force(path, f, locator);
        v.value = q.field == Field::section_moment ? s.moment : s.force[q.field == Field::section_force_x ? 0 : 1];
        v.scale = integrate_path(path, f, locator, [&](std::size_t e, const ElementPoint& p, const PathPoint& at) {
            return von_mises(recovered_stress(f.mesh, f.laws, f.fields.solution, f.fields.stress.slots, e, p)) *
                   f.laws.depth(f.mesh.region[e], at.position);
        });
        if (q.field == Field::section_moment) v.scale *= length_of(path, f.mesh) / 2;
        return v;
    }
    const auto value = [&](std::size_t e, const ElementPoint& p, const PathPoint&) {
        return field_at(q.field, f, e, p);
    };
    switch (q.take) {
        case Take::mean:
        case Take::integral: {
            v.value = integrate_path(path, f, locator, value);
            if (q.take == Take::mean)
                v.value /= integrate_path(path, f, locator,
                                          [](std::size_t, const ElementPoint&, const PathPoint&) { return 1.0; });
            break;
        }
        case Take::membrane:
        case Take::linearised: {
            const LinearisedStress s = linearise(path, f, locator);
            const auto of = [&](double share) {
                Values values;
                values.position = (path.points.front() + path.points.back()) * 0.5;
                for (std::size_t c = 0; c < 4; ++c) values.stress[c] = s.membrane[c] + share * s.bending[c];
                return scalar(q.field, values, f.laws.regions.front(), f.about);
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
            FieldSource finest = f;
            finest.finest = true;
            for (const auto& p : sample_path(path, locator)) {
                if (!p.where) continue;
                const auto e = p.where->element;
                const double x =
                    sign * field_at(q.field, finest, e, evaluate(f.mesh.kinds[e], f.mesh.positions(e), p.where->xi));
                if (x <= best) continue;
                best = x;
                v.position = p.position;
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

double field_at(Field field, const FieldSource& f, std::size_t e, const ElementPoint& p) {
    return scalar(field, values_at(f, e, p), f.laws.of(f.mesh.region[e]), f.about);
}

FieldGradient field_gradient(Field field, const FieldSource& f, std::size_t e, const ElementPoint& p) {
    const Values at = values_at(f, e, p);
    const RegionLaw& law = f.laws.of(f.mesh.region[e]);
    FieldGradient g;
    const auto by = [&](auto component, double size) {
        // A step at which rounding and curvature are about as small.
        const double step = 1e-5 * (size > 0 ? size : 1);
        Values more = at, less = at;
        component(more) += step;
        component(less) -= step;
        return (scalar(field, more, law, f.about) - scalar(field, less, law, f.about)) / (2 * step);
    };
    double largest = 0;
    for (const double s : at.stress) largest = std::max(largest, std::fabs(s));
    for (std::size_t c = 0; c < 2; ++c) {
        g.displacement[c] = by([c](Values& v) -> double& { return v.displacement[c]; }, norm(at.displacement));
        g.flux[c] = by([c](Values& v) -> double& { return v.flux[c]; }, norm(at.flux));
    }
    for (std::size_t c = 0; c < 4; ++c) g.stress[c] = by([c](Values& v) -> double& { return v.stress[c]; }, largest);
    g.potential = by([](Values& v) -> double& { return v.potential; }, std::fabs(at.potential));
    g.temperature_change = by([](Values& v) -> double& { return v.change; }, std::fabs(at.change));
    g.stiffness = by([](Values& v) -> double& { return v.stiffness; }, at.stiffness);
    return g;
}

void for_each_place(const QuantitySpec& q, const Mesh& mesh,
                    const std::function<void(std::size_t, const ElementPoint&, double)>& act) {
    if (const AreaOf area(mesh, q.on); area.any()) {
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            if (!area.has(e)) continue;
            const auto positions = mesh.positions(e);
            for (const auto& point : tabulated(mesh.kinds[e], quadrature(mesh.kinds[e], 4))) {
                const ElementPoint p = evaluate(mesh.kinds[e], positions, point);
                act(e, p, point.weight * p.jacobian);
            }
        }
        return;
    }
    for (const auto& view : side_views(mesh, q.on, q.inside)) {
        const auto positions = mesh.positions(view.element);
        const auto points = side_points(mesh, mesh.boundary[view.boundary]);
        for (std::size_t k = 0; k < points.size(); ++k)
            act(view.element, evaluate(mesh.kinds[view.element], positions, view.at(mesh, line_rule()[k].t)),
                view.share * points[k].length);
    }
}

std::vector<double> slot_field(Field field, const FieldSource& f) {
    std::vector<double> values(f.mesh.node_of_slot.size());
    const auto& c = f.fields;
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e)
        for (const auto k : f.mesh.slots_of(e)) {
            const auto slot = static_cast<std::size_t>(k);
            const auto node = static_cast<std::size_t>(f.mesh.node_of_slot[slot]);
            Values v;
            v.position = f.mesh.nodes[node];
            if (!c.solution.displacement.empty()) v.displacement = c.solution.displacement[node] - f.datum;
            if (!c.stress.slots.empty()) v.stress = c.stress.slots[slot];
            if (!c.flux.slots.empty()) v.flux = c.flux.slots[slot];
            if (!c.solution.potential.empty()) v.potential = c.solution.potential[slot];
            if (!c.solution.temperature_change.empty()) v.change = c.solution.temperature_change[slot];
            if (!c.solution.stiffness_factor.empty()) v.stiffness = c.solution.stiffness_factor[slot];
            values[slot] = scalar(field, v, f.laws.of(f.mesh.region[e]), f.about);
        }
    return values;
}

namespace {

/// From a point of an element uphill in ever smaller steps, as far as the element, or its side, reaches.
class Climb {
  public:
    Climb(Field field, double sign, const FieldSource& source) : field_(field), sign_(sign), source_(source) {}

    [[nodiscard]] double at(std::size_t e, const Vec2& xi) const {
        return sign_ * field_at(field_, source_, e, evaluate(source_.mesh.kinds[e], source_.mesh.positions(e), xi));
    }

    /// Along the side from the share t; `value` is the one there, and the best one at the end. Returns where that is.
    [[nodiscard]] Vec2 along(const SideView& view, double t, double& value) const {
        for (double step = 0.5 * side_step; step > smallest_step; step *= 0.5)
            for (const double next : {t - step, t + step}) {
                if (next < 0 || next > 1) continue;
                const double v = at(view.element, view.at(source_.mesh, next));
                if (v > value) value = v, t = next;
            }
        return view.at(source_.mesh, t);
    }

    /// The same inside of an element.
    [[nodiscard]] Vec2 inside(std::size_t e, Vec2 xi, double& value) const {
        for (double step = 0.5 * lattice_step; step > smallest_step; step *= 0.5)
            for (const Vec2& d :
                 {Vec2{{1, 0}}, Vec2{{-1, 0}}, Vec2{{0, 1}}, Vec2{{0, -1}}, Vec2{{1, -1}}, Vec2{{-1, 1}}}) {
                const Vec2 next = xi + d * step;
                if (reference_outside(source_.mesh.kinds[e], next) > 0) continue;
                const double v = at(e, next);
                if (v > value) value = v, xi = next;
            }
        return xi;
    }

    static constexpr double side_step = 1.0 / 8, lattice_step = 1.0 / 4;

  private:
    static constexpr double smallest_step = 1.0 / 2048;
    Field field_;
    double sign_;
    const FieldSource& source_;
};

}  // namespace

Extreme find_extreme(Field field, bool largest, const FieldSource& f, const std::vector<std::string>& on,
                     const std::vector<std::string>& inside) {
    if (f.origin != FieldOrigin::recovered) return extreme_of_elements(field, largest, f, on, inside);
    const Mesh& mesh = f.mesh;
    const double sign = largest ? 1 : -1;
    const Climb climb(field, sign, f);
    Extreme best{-INFINITY, {}, 0, {}};
    std::optional<std::pair<SideView, double>> on_side;  // the best point is there
    double lowest = INFINITY;
    const auto offer = [&](double value, std::size_t e, const Vec2& xi) {
        lowest = std::min(lowest, value);
        if (value <= best.value) return false;
        best.value = value;
        best.element = e;
        best.xi = xi;
        on_side.reset();
        return true;
    };
    const auto search_side = [&](const SideView& view) {
        for (double t = 0; t <= 1; t += Climb::side_step) {
            const Vec2 xi = view.at(mesh, t);
            if (offer(climb.at(view.element, xi), view.element, xi)) on_side = {view, t};
        }
    };
    const AreaOf area(mesh, on);
    if (!area.any()) {
        for (const auto& view : side_views(mesh, on, inside)) search_side(view);
    } else {
        const auto values = slot_field(field, f);
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            for (std::size_t i = 0; area.has(e) && i < mesh.element(e).size(); ++i)
                offer(sign * values[static_cast<std::size_t>(mesh.slots_of(e)[i])], e,
                      reference_node(mesh.kinds[e], i));
        const double floor = best.value - searched_share * (best.value - lowest);
        const auto near_top = [&](std::size_t e) {
            const auto slots = mesh.slots_of(e);
            return area.has(e) && std::any_of(slots.begin(), slots.end(), [&](int s) {
                       return sign * values[static_cast<std::size_t>(s)] >= floor;
                   });
        };
        for (std::size_t k = 0; k < mesh.boundary.size(); ++k) {
            const auto& side = mesh.boundary[k];
            const auto e = static_cast<std::size_t>(side.element);
            if (near_top(e)) search_side({k, e, side.side, true, 1});
        }
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            if (!near_top(e)) continue;
            for (double a = 0; a <= 1; a += Climb::lattice_step)
                for (double b = 0; b <= 1; b += Climb::lattice_step) {
                    const Vec2 xi{{a, b}};
                    if (reference_outside(mesh.kinds[e], xi) <= 0) offer(climb.at(e, xi), e, xi);
                }
        }
    }
    if (!std::isfinite(best.value)) return best;
    best.xi = on_side ? climb.along(on_side->first, on_side->second, best.value)
                      : climb.inside(best.element, best.xi, best.value);
    best.position = evaluate(mesh.kinds[best.element], mesh.positions(best.element), best.xi).position;
    best.value *= sign;
    return best;
}

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
    const bool area = q.along.empty() && q.on.empty();
    const std::string length = study.units.label(dimension::length);
    const std::string size = area ? length + "²" : length;
    return unit.empty() ? size : unit + " " + size;
}

std::size_t place_of_case(const std::vector<CaseFields>& cases, const std::string& load_case) {
    const auto found = std::find_if(cases.begin(), cases.end(),
                                    [&](const CaseFields& c) { return c.solution.load_case == load_case; });
    return found == cases.end() ? 0 : static_cast<std::size_t>(found - cases.begin());
}

namespace {

/// A value at a place, and what else is known of it there.
struct Local {
    double value = 0, spread = NAN;
};

Local local_value(Field field, const FieldSource& f, std::size_t e, const Vec2& xi) {
    const ElementPoint p = evaluate(f.mesh.kinds[e], f.mesh.positions(e), xi);
    Values values = values_at(f, e, p);
    const RegionLaw& law = f.laws.of(f.mesh.region[e]);
    Local out;
    out.value = scalar(field, values, law, f.about);
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
        out.spread = std::fmax(out.spread, std::fabs(scalar(field, values, law, f.about) - out.value));
    }
    return out;
}

Vec2 displacement_at(const ElementLocator& located, const Vec2& at, const FieldSource& f) {
    const Location where = located.sides_of(at, {}).front();  // it does not jump
    const auto e = where.element;
    return values_at(f, e, evaluate(f.mesh.kinds[e], f.mesh.positions(e), where.xi)).displacement;
}

/// The rigid motion nearest to that of the boundary, by least squares over its length.
QuantityValue turn_of(const QuantitySpec& q, const FieldSource& f) {
    double length = 0, moment = 0, turned = 0;
    Vec2 centre{}, moved{};
    for_each_place(q, f.mesh, [&](std::size_t e, const ElementPoint& p, double weight) {
        length += weight;
        centre += p.position * weight;
        moved += values_at(f, e, p).displacement * weight;
    });
    centre = centre / length;
    moved = moved / length;
    double largest = 0;
    for_each_place(q, f.mesh, [&](std::size_t e, const ElementPoint& p, double weight) {
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

std::vector<QuantityValue> evaluate_quantities(const Study& study, const Mesh& mesh, const Laws& laws,
                                               const std::vector<CaseFields>& cases) {
    std::vector<QuantityValue> out;
    std::vector<std::string> names;
    std::vector<double> values;
    std::optional<ElementLocator> locator;
    const auto located = [&]() -> const ElementLocator& {
        if (!locator) locator.emplace(mesh);
        return *locator;
    };
    for (const auto& q : study.quantities) {
        QuantityValue v{q.name, 0, 0, std::nullopt};
        FieldSource f{mesh, laws, cases[place_of_case(cases, q.load_case)], q.about, q.origin};
        if (q.relative_to) f.datum = displacement_at(located(), *q.relative_to, f);
        FieldSource finest = f;
        finest.finest = true;
        if (q.formula) {
            v.value = FormulaEvaluator(*q.formula, study.path.string(), names).with(values);
        } else if (is_energy(q.field)) {
            v.value = q.field == Field::strain_energy ? f.fields.solution.strain_energy : f.fields.solution.dissipation;
        } else if (q.field == Field::turn) {
            v = turn_of(q, f);
        } else if (is_reaction(q.field)) {
            v.value = reaction(q, f.fields.solution);
            const auto& b = f.fields.solution.balance;
            v.scale = q.field == Field::reaction_flow ? b.flow_magnitude : b.magnitude;
        } else if (!q.along.empty()) {
            const auto path = std::find_if(study.paths.begin(), study.paths.end(),
                                           [&](const PathSpec& p) { return p.name == q.along; });
            v = along_path(q, *path, f, located());
        } else if (q.take == Take::mean || q.take == Take::integral) {
            const auto [sum, size] = integral(q, f);
            v.value = q.take == Take::mean ? sum / size : sum;
        } else if (q.take == Take::value) {
            const auto places = located().sides_of(*q.at, q.inside);
            for (const Location& where : places) {
                const double share = 1 / static_cast<double>(places.size());
                const Local local = local_value(q.field, finest, where.element, where.xi);
                v.value += share * local.value;
                take_evidence(local, v);
            }
            v.position = q.at;
        } else {
            const Extreme x = find_extreme(q.field, q.take != Take::minimum, finest, q.on, q.inside);
            v.value = x.value;
            v.position = x.position;
            if (std::isfinite(x.value)) take_evidence(local_value(q.field, finest, x.element, x.xi), v);
        }
        if (!std::isfinite(v.value)) {
            Place place = place_in(study.path, q.where);
            throw InputError(fmt::format("quantity.{} gives no finite number", q.name), place,
                             q.along.empty() ? "is something divided by zero?" : "does its path lie in the part?");
        }
        if (!q.formula && v.scale == 0 && q.take != Take::total) {
            for (const double x : slot_field(magnitude_of(q.field), f)) v.scale = std::max(v.scale, std::fabs(x));
            if (q.take == Take::integral)  // over what the part is large
                v.scale *= q.along.empty() && AreaOf(mesh, q.on).any() ? mesh.area() : std::sqrt(mesh.area());
        }
        names.push_back(q.name);
        values.push_back(v.value);
        out.push_back(std::move(v));
    }
    return out;
}

}  // namespace dotsift
