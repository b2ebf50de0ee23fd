#include "series/singular_places.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/numbers.hpp"
#include "recovery/fit/singular_fit.hpp"

namespace dotsift {

namespace {

// Elements within this many times the size of those at the point show how the stress rises.
constexpr double reach = 8;
// Of the slope that the exponent says, this share has to be seen: what else acts there flattens it.
constexpr double least_slope = 0.5;
// A peak this many elements from a singular point sits on it.
constexpr double beside = 2;

/// The largest size of an element that has the point; 0: none does.
double size_at(const Mesh& mesh, const Vec2& point, double near) {
    double size = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (mesh.touches(e, point, near)) size = std::max(size, mesh.size_of(e));
    return size;
}

/// Slope of the logarithms of the elements' stress or flux over those of the distance, by least squares with a level of
/// its own for each material, since stress jumps between them; NaN: too few.
double slope_towards(const LevelFields& fields, const Solution& s, const SingularPoint& point, double near) {
    struct Sums {
        double n = 0, x = 0, y = 0, xx = 0, xy = 0;
    };
    const Mesh& mesh = fields.mesh;
    const double size = size_at(mesh, point.position, near);
    std::vector<Sums> sums(mesh.region_names.size());
    for (std::size_t e = 0; e < mesh.element_count() && size > 0; ++e) {
        const double r = distance(mesh.centre_of(e), point.position);
        if (r > reach * size) continue;
        const ElementPoint p = evaluate(mesh.kinds[e], mesh.positions(e), reference_middle(mesh.kinds[e]));
        const double value = point.of_potential ? norm(flux_at(mesh, fields.laws, s, e, p))
                                                : von_mises(stress_at(mesh, fields.laws, s, e, p));
        if (!(value > 0)) continue;
        const double x = std::log(r), y = std::log(value);
        Sums& of = sums[static_cast<std::size_t>(mesh.region[e])];
        of.n += 1;
        of.x += x;
        of.y += y;
        of.xx += x * x;
        of.xy += x * y;
    }
    double n = 0, spread = 0, together = 0;
    for (const auto& of : sums) {
        if (of.n < 2) continue;
        n += of.n;
        spread += of.xx - of.x * of.x / of.n;
        together += of.xy - of.x * of.y / of.n;
    }
    return n >= 6 && spread > 0 ? together / spread : NAN;
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

std::string why_unbounded(const QuantitySpec& quantity, const QuantityValue& value, const LevelFields& fields,
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
        const double gap = distance(in_plane(*value.position), place.point.position);
        if (gap > (extreme ? beside * size_at(fields.mesh, place.point.position, near) : near)) continue;
        const double exponent =
            shows ? place.woken[static_cast<std::size_t>(shown - place.shows_in.begin())] : place.point.exponent;
        return fmt::format("it {} {} at {}, where the exact {} is infinite{}; {}",
                           extreme ? "sits on" : "is asked for at", place.point.cause, told_point(place.point.position),
                           flux ? "flux" : "stress",
                           exponent > 0 ? fmt::format(" (it rises as r^{:.2f})", exponent - 1) : "", place.advice);
    }
    return {};
}

}  // namespace dotsift
