#include "quantities/evaluate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "recovery/recover.hpp"
#include "solve/side_geometry.hpp"

namespace dotsift {

namespace {

// Elements whose nodal values reach into this share of the field's range below the top are searched more finely.
constexpr double searched_share = 0.25;

double scalar(Field field, const Vec2& u, const Plane3& s, const PlaneLaw& law) {
    switch (field) {
        case Field::ux:
            return u[0];
        case Field::uy:
            return u[1];
        case Field::displacement:
            return norm(u);
        case Field::sxx:
            return s[0];
        case Field::syy:
            return s[1];
        case Field::sxy:
            return s[2];
        case Field::szz:
            return law.out_of_plane * (s[0] + s[1]);
        case Field::von_mises:
            return von_mises(s, law);
        case Field::max_principal:
            return principal(s)[0];
        case Field::min_principal:
            return principal(s)[1];
        default:
            return 0;
    }
}

Vec2 displacement_at(const Mesh& mesh, const std::vector<Vec2>& displacement, std::size_t e, const ElementPoint& p) {
    Vec2 u;
    const auto nodes = mesh.element(e);
    for (std::size_t i = 0; i < nodes.size(); ++i) u += displacement[static_cast<std::size_t>(nodes[i])] * p.n[i];
    return u;
}

/// The field whose size a component is to be held against.
Field magnitude_of(Field field) {
    return dimension_of(field) == dimension::length ? Field::displacement : Field::von_mises;
}

/// The element that contains the point, or comes nearest to it, and the reference coordinates.
std::pair<std::size_t, Vec2> find_element(const Mesh& mesh, const Vec2& point) {
    std::size_t best = 0;
    Vec2 best_xi;
    double least = INFINITY;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        Box2 box;
        for (std::size_t i = 0; i < mesh.element(e).size(); ++i) box.add(p[i]);
        const double margin = 0.1 * box.diagonal();  // curved sides reach a little over their nodes
        if (box.distance_to(point) > margin) continue;
        bool good = false;
        const Vec2 xi = reference_point(mesh.kinds[e], p, point, good);
        if (!good) continue;
        const double outside = std::max(reference_outside(mesh.kinds[e], xi), 0.0);
        if (outside < least) {
            least = outside;
            best = e;
            best_xi = xi;
        }
    }
    return {best, best_xi};
}

/// The names are those of regions, or there are none: the quantity is over an area.
bool over_area(const Mesh& mesh, const std::vector<std::string>& on) {
    return on.empty() || std::any_of(mesh.region_names.begin(), mesh.region_names.end(),
                                     [&](const auto& name) { return fits_any(name, on); });
}

/// An element that counts for a quantity over an area.
bool counts(const Mesh& mesh, std::size_t e, const std::vector<std::string>& on) {
    return on.empty() || mesh.region_fits(e, on);
}

double mean_value(const QuantitySpec& q, const Mesh& mesh, const Solution& s, const std::vector<Plane3>& recovered,
                  const RegionLaws& laws) {
    double sum = 0, size = 0;
    if (over_area(mesh, q.on)) {
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            if (!counts(mesh, e, q.on)) continue;
            const auto positions = mesh.positions(e);
            for (const auto& point : quadrature(mesh.kinds[e], 4)) {
                const ElementPoint p = evaluate(mesh.kinds[e], positions, point.xi);
                const double w = point.weight * p.jacobian;
                sum += w * field_at(q.field, mesh, s.displacement, recovered, laws, e, p);
                size += w;
            }
        }
    } else {
        for (const auto& side : mesh.boundary) {
            if (!mesh.side_fits(side, q.on)) continue;
            const auto e = static_cast<std::size_t>(side.element);
            const auto local = side_nodes(mesh.kinds[e], side.side);
            for (const auto& p : side_points(mesh, side)) {
                Vec2 u;
                Plane3 stress{};
                for (std::size_t i = 0; i < side.count(); ++i) {
                    const auto slot = static_cast<std::size_t>(mesh.slots_of(e)[static_cast<std::size_t>(local[i])]);
                    u += s.displacement[static_cast<std::size_t>(side.nodes[i])] * p.n[i];
                    for (std::size_t c = 0; c < 3; ++c) stress[c] += recovered[slot][c] * p.n[i];
                }
                sum += scalar(q.field, u, stress, laws[static_cast<std::size_t>(mesh.region[e])]) * p.length;
                size += p.length;
            }
        }
    }
    return sum / size;
}

double reaction(const QuantitySpec& q, const Solution& s) {
    double sum = 0;
    for (const auto& r : s.reactions) {
        const bool counts = q.on.empty() || fits_any(r.name, q.on);
        if (counts) sum += r.force[q.field == Field::reaction_x ? 0 : 1];
    }
    return sum;
}

}  // namespace

double field_at(Field field, const Mesh& mesh, const std::vector<Vec2>& displacement,
                const std::vector<Plane3>& recovered, const RegionLaws& laws, std::size_t e, const ElementPoint& p) {
    return scalar(field, displacement_at(mesh, displacement, e, p), interpolate(mesh, recovered, e, p),
                  laws[static_cast<std::size_t>(mesh.region[e])]);
}

std::vector<double> slot_field(Field field, const Mesh& mesh, const std::vector<Vec2>& displacement,
                               const std::vector<Plane3>& recovered, const RegionLaws& laws) {
    std::vector<double> values(mesh.node_of_slot.size());
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : mesh.slots_of(e)) {
            const auto slot = static_cast<std::size_t>(s);
            values[slot] = scalar(field, displacement[static_cast<std::size_t>(mesh.node_of_slot[slot])],
                                  recovered[slot], laws[static_cast<std::size_t>(mesh.region[e])]);
        }
    return values;
}

Extreme find_extreme(Field field, bool largest, const Mesh& mesh, const std::vector<Vec2>& displacement,
                     const std::vector<Plane3>& recovered, const RegionLaws& laws, const std::vector<std::string>& on) {
    const double sign = largest ? 1 : -1;
    const auto values = slot_field(field, mesh, displacement, recovered, laws);
    Extreme best{-INFINITY, {}};
    double lowest = INFINITY;
    const auto offer = [&](double value, const Vec2& position) {
        if (sign * value > best.value) best = {sign * value, position};
        lowest = std::min(lowest, sign * value);
    };
    const auto search = [&](std::size_t e, const Vec2& xi) {
        const ElementPoint p = evaluate(mesh.kinds[e], mesh.positions(e), xi);
        offer(field_at(field, mesh, displacement, recovered, laws, e, p), p.position);
    };
    const auto search_side = [&](const BoundarySide& side) {
        constexpr int intervals = 8;
        const auto e = static_cast<std::size_t>(side.element);
        for (int k = 0; k <= intervals; ++k)
            search(e, reference_on_side(mesh.kinds[e], side.side, static_cast<double>(k) / intervals));
    };
    if (!over_area(mesh, on)) {
        for (const auto& side : mesh.boundary) {
            if (!mesh.side_fits(side, on)) continue;
            search_side(side);
        }
    } else {
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            for (std::size_t i = 0; counts(mesh, e, on) && i < mesh.element(e).size(); ++i)
                offer(values[static_cast<std::size_t>(mesh.slots_of(e)[i])],
                      mesh.nodes[static_cast<std::size_t>(mesh.element(e)[i])]);
        const double floor = best.value - searched_share * (best.value - lowest);
        const auto near_top = [&](std::size_t e) {
            const auto slots = mesh.slots_of(e);
            return counts(mesh, e, on) && std::any_of(slots.begin(), slots.end(), [&](int s) {
                       return sign * values[static_cast<std::size_t>(s)] >= floor;
                   });
        };
        for (const auto& side : mesh.boundary) {
            if (!near_top(static_cast<std::size_t>(side.element))) continue;
            search_side(side);
        }
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            if (!near_top(e)) continue;
            for (int i = 0; i <= 4; ++i)
                for (int j = 0; j <= 4; ++j) {
                    const Vec2 xi{{i / 4.0, j / 4.0}};
                    if (reference_outside(mesh.kinds[e], xi) <= 0) search(e, xi);
                }
        }
    }
    best.value *= sign;
    return best;
}

std::vector<QuantityValue> evaluate_quantities(const Study& study, const Mesh& mesh, const Solution& solution,
                                               const std::vector<Plane3>& recovered) {
    const RegionLaws laws = region_laws(study, mesh.region_names);
    std::vector<QuantityValue> out;
    std::vector<std::string> names;
    std::vector<double> values;
    for (const auto& q : study.quantities) {
        QuantityValue v{q.name, 0, 0, std::nullopt};
        if (q.formula) {
            v.value = FormulaEvaluator(*q.formula, study.path.string(), names).with(values);
        } else if (q.field == Field::strain_energy) {
            v.value = solution.strain_energy;
        } else if (q.field == Field::reaction_x || q.field == Field::reaction_y) {
            v.value = reaction(q, solution);
            v.scale = solution.balance.magnitude;
        } else if (q.take == Take::mean) {
            v.value = mean_value(q, mesh, solution, recovered, laws);
        } else if (q.take == Take::value) {
            const auto [e, xi] = find_element(mesh, *q.at);
            v.value = field_at(q.field, mesh, solution.displacement, recovered, laws, e,
                               evaluate(mesh.kinds[e], mesh.positions(e), xi));
            v.position = q.at;
        } else {
            const Extreme x =
                find_extreme(q.field, q.take == Take::maximum, mesh, solution.displacement, recovered, laws, q.on);
            v.value = x.value;
            v.position = x.position;
        }
        if (!std::isfinite(v.value)) {
            Place place;
            place.file = study.path.string();
            place.line = q.where.line;
            place.column = q.where.column;
            throw InputError(fmt::format("quantity.{} gives no finite number", q.name), place,
                             "is something divided by zero?");
        }
        if (!q.formula && v.scale == 0 && q.take != Take::total)
            for (const double x : slot_field(magnitude_of(q.field), mesh, solution.displacement, recovered, laws))
                v.scale = std::max(v.scale, std::fabs(x));
        names.push_back(q.name);
        values.push_back(v.value);
        out.push_back(std::move(v));
    }
    return out;
}

}  // namespace dotsift
