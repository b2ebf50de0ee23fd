#include "series/singular_places.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/numbers.hpp"
#include "recovery/estimate.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "solve/singular/singular_edges.hpp"

namespace dotsift {

namespace {

// Elements within this many times the size of those at the point show how the stress rises; at edges of solids, where
// meshes are coarser, within fewer. Stretches of an edge are so many elements long.
constexpr double reach = 8, reach_of_edges = 4, stretch = 2;
// Of the slope that the exponent says, this share has to be seen: what else acts there flattens it.
constexpr double least_slope = 0.5;
// Of edges less, as they are seen less sharply: one that is missed costs more than one that is suspected.
constexpr double least_slope_of_edges = 0.25;
// A squared error below this share of the energy is rounding: the elements hold the solution exactly.
constexpr double rounding_error = 1e-18;
// A peak this many elements from a singular point sits on it.
constexpr double beside = 2;

/// The largest size of an element that has the point; 0: none does.
double size_at(const Mesh& mesh, const Vec2& point, double near) {
    double size = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (mesh.touches(e, point, near)) size = std::max(size, mesh.size_of(e));
    return size;
}

/// What an element tells of how a field rises: the distance, infinity where it does not count; the field; and those
/// with which it shares the field's level.
struct Sample {
    double distance, value;
    std::size_t group;
};

/// Slope of the logarithms of the field over those of the distance, by least squares with a level of its own for each
/// group, as stress jumps between materials; NaN: too few. of(e) is the Sample of an element.
template <class Of>
double slope_of(std::size_t elements, std::size_t groups, Of of) {
    struct Sums {
        double n = 0, x = 0, y = 0, xx = 0, xy = 0;
    };
    std::vector<Sums> sums(groups);
    for (std::size_t e = 0; e < elements; ++e) {
        const Sample sample = of(e);
        if (!std::isfinite(sample.distance) || !(sample.value > 0)) continue;
        const double x = std::log(sample.distance), y = std::log(sample.value);
        Sums& sum = sums[sample.group];
        sum.n += 1;
        sum.x += x;
        sum.y += y;
        sum.xx += x * x;
        sum.xy += x * y;
    }
    double n = 0, spread = 0, together = 0;
    for (const auto& sum : sums) {
        if (sum.n < 2) continue;
        n += sum.n;
        spread += sum.xx - sum.x * sum.x / sum.n;
        together += sum.xy - sum.x * sum.y / sum.n;
    }
    return n >= 6 && spread > 0 ? together / spread : NAN;
}

/// That of the elements' stress or flux towards a point.
double slope_towards(const LevelFields& fields, const Solution& s, const SingularPoint& point, double near) {
    const Mesh& mesh = fields.mesh;
    const double size = size_at(mesh, point.position, near);
    return slope_of(mesh.element_count(), mesh.region_names.size(), [&](std::size_t e) {
        const double r = distance(mesh.centre_of(e), point.position);
        Sample sample{r <= reach * size ? r : INFINITY, 0, static_cast<std::size_t>(mesh.region[e])};
        if (!std::isfinite(sample.distance)) return sample;
        const ElementPoint p = evaluate(mesh.kinds[e], mesh.positions(e), reference_middle(mesh.kinds[e]));
        sample.value = point.of_potential ? norm(flux_at(mesh, fields.laws, s, e, p))
                                          : von_mises(stress_at(mesh, fields.laws, s, e, p));
        return sample;
    });
}

/// The exponent that a load case wakes; nothing: the solution does not rise towards the point.
std::optional<double> woken(const LevelFields& fields, const NodeElements& around, const CaseSpec& load_case,
                            const Solution& s, const SingularPoint& point, const std::vector<SingularPoint>& all,
                            double near) {
    if (point.kind == SingularPoint::Kind::force)
        return load_case.of_load(point.load) != 0 ? std::optional(point.exponent) : std::nullopt;
    if (point.modes && !fields.laws.axisymmetric()) {
        const SingularFit fit(fields.mesh, around, fields.laws, s, point, all, near);
        if (fit.fitted()) return fit.shows() ? std::optional(fit.woken_exponent()) : std::nullopt;
    }
    const double slope = slope_towards(fields, s, point, near);
    return slope < least_slope * (point.exponent - 1) ? std::optional(point.exponent) : std::nullopt;
}

}  // namespace

std::vector<SingularPlace> singular_places(const Study& study, const LevelFields& fields,
                                           const std::vector<SingularPoint>& points, double near) {
    std::vector<SingularPlace> out;
    if (points.empty()) return out;
    const NodeElements around = node_elements(fields.mesh);
    for (const auto& p : points) {
        SingularPlace place{p, {}, {}, advice_for(p.kind)};
        for (const auto& c : study.cases_to_solve()) {
            const auto exponent =
                woken(fields, around, c, fields.cases[place_of_case(fields.cases, c.name)].solution, p, points, near);
            if (!exponent || *exponent >= 1) continue;
            place.shows_in.push_back(c.name);
            place.woken.push_back(*exponent);
        }
        out.push_back(std::move(place));
    }
    return out;
}

std::vector<SingularPlace> singular_places(const Study& study, const LevelFieldsIn<3>& fields,
                                           const std::vector<SingularPoint>& edges) {
    const SolidMesh& mesh = fields.mesh;
    std::vector<SingularPlace> out;
    for (const auto& p : edges) {
        SingularPlace place{p, {}, {}, advice_for(p.kind)};
        if (p.kind == SingularPoint::Kind::force) {
            for (const auto& c : study.cases_to_solve()) {
                if (c.of_load(p.load) == 0) continue;
                place.shows_in.push_back(c.name);
                place.woken.push_back(p.exponent);
            }
            out.push_back(std::move(place));
            continue;
        }
        const EdgeDistance to(p.edges);
        std::vector<double> sizes;  // of the elements at the edge
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            const double size = mesh.size_of(e);
            if (std::isfinite(to(mesh.centre_of(e), size).distance)) sizes.push_back(size);
        }
        if (!sizes.empty()) {
            const auto middle = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2);
            std::nth_element(sizes.begin(), middle, sizes.end());
            // In stretches of the edges, since along them it may be another stress.
            std::vector<std::size_t> before{0};
            for (const auto& curve : p.edges)
                before.push_back(before.back() + 1 + static_cast<std::size_t>(curve.length() / (stretch * *middle)));
            std::vector<Sample> samples(mesh.element_count());
            for (std::size_t e = 0; e < samples.size(); ++e) {
                const auto near = to(mesh.centre_of(e), reach_of_edges * *middle);
                const std::size_t stretches = before[near.edge + 1] - before[near.edge];
                const auto along = static_cast<std::size_t>(near.t * static_cast<double>(stretches));
                samples[e] = {near.distance, 0,
                              (before[near.edge] + std::min(stretches - 1, along)) * mesh.region_names.size() +
                                  static_cast<std::size_t>(mesh.region[e])};
            }
            for (const auto& c : study.cases_to_solve()) {
                const auto& of_case = fields.cases[place_of_case(fields.cases, c.name)];
                const ErrorMap error = p.of_potential
                                           ? estimate_flux_error(mesh, fields.laws, of_case.solution, of_case.flux)
                                           : estimate_error(mesh, fields.laws, of_case.solution, of_case.stress);
                if (!(error.error2 > rounding_error * error.energy2)) continue;
                const double slope =
                    slope_of(samples.size(), before.back() * mesh.region_names.size(), [&](std::size_t e) {
                        if (!std::isfinite(samples[e].distance)) return samples[e];
                        samples[e].value = std::sqrt(error.element_error2[e] / mesh.measure_of(e)) /
                                           std::pow(mesh.size_of(e), polynomial_degree(mesh.kinds[e]));
                        return samples[e];
                    });
                if (!(slope < least_slope_of_edges * (p.exponent - 1 - polynomial_degree(mesh.kinds.front()))))
                    continue;
                place.shows_in.push_back(c.name);
                place.woken.push_back(p.exponent);
            }
        }
        out.push_back(std::move(place));
    }
    return out;
}

namespace {

/// Whether a peak, or a point, sits on a singular place.
bool sits_on(const LevelFields& fields, const SingularPoint& point, const Vec3& at, bool extreme, double near) {
    return distance(in_plane(at), point.position) <=
           (extreme ? beside * size_at(fields.mesh, point.position, near) : near);
}
bool sits_on(const LevelFieldsIn<3>& fields, const SingularPoint& point, const Vec3& at, bool extreme, double near) {
    double most = near;
    if (extreme) {
        double least = INFINITY;
        for (std::size_t e = 0; e < fields.mesh.element_count(); ++e) {
            const double r = distance(fields.mesh.centre_of(e), at);
            if (r >= least) continue;
            least = r;
            most = beside * fields.mesh.size_of(e);
        }
    }
    return std::isfinite(EdgeDistance(point.edges)(at, most).distance);
}

}  // namespace

template <int D>
std::string why_unbounded(const QuantitySpec& quantity, const QuantityValue& value, const LevelFieldsIn<D>& fields,
                          const std::vector<SingularPlace>& places, double near, bool grows) {
    const bool extreme = quantity.take == Take::maximum || quantity.take == Take::minimum;
    if (quantity.formula || !value.position || (!extreme && quantity.take != Take::value)) return {};
    const bool flux = is_of_potential(quantity.field) && quantity.field != Field::potential;
    if (!flux && !is_of_stress(quantity.field)) return {};
    const std::string& load_case = fields.cases[place_of_case(fields.cases, quantity.load_case)].solution.load_case;
    for (const auto& place : places) {
        const auto shown = std::find(place.shows_in.begin(), place.shows_in.end(), load_case);
        const bool shows = shown != place.shows_in.end();
        if ((!shows && !grows) || place.point.of_potential != flux) continue;
        if (!sits_on(fields, place.point, *value.position, extreme, near)) continue;
        const double exponent =
            shows ? place.woken[static_cast<std::size_t>(shown - place.shows_in.begin())] : place.point.exponent;
        return fmt::format("it {} {} at {}, where the exact {} is infinite{}; {}",
                           extreme ? "sits on" : "is asked for at", place.point.cause,
                           D == 2 ? told_place(place.point) : told_point(*value.position), flux ? "flux" : "stress",
                           exponent > 0 ? fmt::format(" (it rises as r^{:.2f})", exponent - 1) : "", place.advice);
    }
    return {};
}

template std::string why_unbounded<2>(const QuantitySpec&, const QuantityValue&, const LevelFieldsIn<2>&,
                                      const std::vector<SingularPlace>&, double, bool);
template std::string why_unbounded<3>(const QuantitySpec&, const QuantityValue&, const LevelFieldsIn<3>&,
                                      const std::vector<SingularPlace>&, double, bool);

}  // namespace dotsift
