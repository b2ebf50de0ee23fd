#include "evidence/pictures/level_pictures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "base/parallel.hpp"
#include "evidence/pictures/change.hpp"
#include "evidence/pictures/chart.hpp"
#include "evidence/pictures/solid_level_pictures.hpp"
#include "evidence/statistics_files.hpp"
#include "evidence/summary.hpp"

namespace dotsift {

namespace {

// Where the top of a field exceeds the value that this share of the area stays below by this ratio, a singular spot is
// at work, and the colour range ends at that value.
constexpr double hot_share = 0.999;
constexpr double hot_ratio = 1.6;

constexpr double close_up_elements = 10;

/// The value that a share of the area stays below; each element counts with the mean of its nodes.
template <int D>
double area_quantile(const MeshIn<D>& mesh, const std::vector<double>& slots, double share) {
    std::vector<std::pair<double, double>> elements;
    double whole = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        double mean = 0;
        for (const int s : mesh.slots_of(e))
            mean += slots[static_cast<std::size_t>(s)] / static_cast<double>(mesh.element(e).size());
        elements.emplace_back(mean, mesh.measure_of(e));
        whole += elements.back().second;
    }
    std::sort(elements.begin(), elements.end());
    double below = 0;
    for (const auto& [value, area] : elements) {
        below += area;
        if (below >= share * whole) return value;
    }
    return elements.back().first;
}

/// Each element's error per root of its area: what refinement evens out.
template <int D>
std::vector<double> density_of_error(const LevelFieldsIn<D>& f) {
    std::vector<double> values(f.mesh.element_count());
    const double whole = std::sqrt(f.error.energy2 + f.error.error2), area = f.mesh.measure();
    for (std::size_t e = 0; e < values.size(); ++e)
        values[e] = whole > 0 ? std::sqrt(f.error.element_error2[e] * area / f.mesh.measure_of(e)) / whole : 0;
    return values;
}

/// The finest value and its band, short enough for one line.
std::string chart_subtitle(const QuantityVerdict& v) {
    const Convergence& c = v.convergence;
    std::string s = fmt::format("series {}: {} on the finest of {} {}, {}", v.series,
                                with_uncertainty(c.finest, v.interval.half_width), c.levels,
                                c.levels == 1 ? "level" : "levels", name_of(c.behaviour));
    if (c.behaviour == Behaviour::monotone && std::isfinite(c.observed_order))
        s += fmt::format(", observed order {:.2f}", c.observed_order);
    if (v.has_target) s += fmt::format("; target {}", name_of(v.verdict));
    return s;
}

FieldPicture field_picture(const Study& study, const Level& l, const SharedRanges& ranges) {
    const FieldSource source = l.fields->source();
    FieldPicture p;
    p.title = level_title(study, l);
    p.subtitle = level_counts(l);
    p.legend = title_of(study, ranges.field);
    p.unit = unit_of(study, ranges.field);
    p.length_unit = study.units.label(dimension::length);
    p.slots = slot_field(ranges.field, source);
    p.low = ranges.low;
    p.high = ranges.high;
    p.clipped = ranges.clipped;
    const Extreme most = find_extreme(ranges.field, true, source, {});
    const Extreme least = find_extreme(ranges.field, false, source, {});
    p.largest = most.value;
    p.largest_at = most.position;
    p.smallest = least.value;
    p.smallest_at = least.position;
    p.largest_label = label_without_value(*l.fields, ranges.field, 0, true, most.position, ranges.places);
    p.smallest_label = label_without_value(*l.fields, ranges.field, 0, false, least.position, ranges.places);
    return p;
}

/// The load case of a quantity.
FieldSource source_of(const Study& study, const Level& level, std::size_t quantity) {
    return level.fields->source(place_of_case(level.fields->cases, study.quantities[quantity].load_case));
}

}  // namespace

std::string level_title(const Study& study, const Level& l) {
    return fmt::format("{}: {}, level {}", study.title, l.series, l.index);
}

std::string level_counts(const Level& l) {
    return fmt::format("{} elements, {} unknowns, estimated error {} in the energy norm",
                       grouped(static_cast<long long>(l.mesh.elements)), grouped(l.unknowns),
                       percent(l.estimated_error));
}

bool is_plane_field(const QuantitySpec& q) {
    return !q.formula && q.take != Take::total;
}

Field shown_field(const Study& study) {
    const auto found = std::find_if(study.quantities.begin(), study.quantities.end(), is_plane_field);
    if (found != study.quantities.end()) return found->field;
    return study.elastic() ? Field::von_mises : Field::potential;
}

namespace {

/// Values of one or more meshes, seen together.
struct SeenValues {
    double lowest = INFINITY, highest = -INFINITY, quantile = -INFINITY;
    template <int D>
    void see(const MeshIn<D>& mesh, const std::vector<double>& slots) {
        for (const double v : slots) {
            lowest = std::min(lowest, v);
            highest = std::max(highest, v);
        }
        quantile = std::max(quantile, area_quantile(mesh, slots, hot_share));
    }
    [[nodiscard]] ColourRange range() const {
        const bool hot = quantile > lowest && highest - lowest > hot_ratio * (quantile - lowest);
        return {lowest, hot ? quantile : highest, hot, lowest, highest};
    }
};

}  // namespace

ColourRange colour_range(const Mesh& mesh, const std::vector<double>& slots) {
    SeenValues seen;
    seen.see(mesh, slots);
    return seen.range();
}
ColourRange colour_range(const SolidMesh& mesh, const std::vector<double>& slots) {
    SeenValues seen;
    seen.see(mesh, slots);
    return seen.range();
}

std::vector<double> error_density(const Level& level) {
    return level.solid ? density_of_error(*level.solid) : density_of_error(*level.fields);
}

namespace {

Vec3 to_space(const Vec2& p) {
    return in_space(p);
}
Vec3 to_space(const Vec3& p) {
    return p;
}

}  // namespace

template <int D>
std::string label_without_value(const LevelFieldsIn<D>& fields, Field field, std::size_t load_case, bool largest,
                                const Vec<D>& at, const std::vector<SingularPlace>& places) {
    if (places.empty()) return {};
    Box<D> box;
    for (const auto& p : fields.mesh.nodes) box.add(p);
    QuantitySpec peak;
    peak.field = field;
    peak.take = largest ? Take::maximum : Take::minimum;
    peak.load_case = fields.cases[load_case].solution.load_case;
    QuantityValue value;
    value.position = to_space(at);
    if (why_unbounded<D>(peak, value, fields, places, same_point_share * box.diagonal(), false).empty()) return {};
    return largest ? "no max: it grows with every mesh" : "no min: it falls with every mesh";
}
template std::string label_without_value<2>(const LevelFieldsIn<2>&, Field, std::size_t, bool, const Vec2&,
                                            const std::vector<SingularPlace>&);
template std::string label_without_value<3>(const LevelFieldsIn<3>&, Field, std::size_t, bool, const Vec3&,
                                            const std::vector<SingularPlace>&);

SharedRanges shared_ranges(const Study& study, const std::vector<const Level*>& levels,
                           std::vector<SingularPlace> places) {
    SharedRanges r;
    r.field = shown_field(study);
    r.places = std::move(places);
    std::vector<double> densities;
    SeenValues seen;
    for (const Level* l : levels) {
        const auto look = [&](const auto& fields) {
            seen.see(fields.mesh, slot_field(r.field, fields.source()));
            const auto d = density_of_error(fields);
            densities.insert(densities.end(), d.begin(), d.end());
        };
        if (l->solid)
            look(*l->solid);
        else
            look(*l->fields);
    }
    if (!levels.empty() && levels.back()->solid) r.camera = view_of_extremes(*levels.back(), r.field);
    const ColourRange range = seen.range();
    r.low = range.low;
    r.high = range.high;
    r.clipped = range.clipped;
    if (!densities.empty()) {
        const auto at = [&](double share) {
            const auto k = static_cast<std::ptrdiff_t>(share * static_cast<double>(densities.size() - 1));
            std::nth_element(densities.begin(), densities.begin() + k, densities.end());
            return densities[static_cast<std::size_t>(k)];
        };
        r.error_high = std::max(at(hot_share), 1e-300);
        r.error_low = std::clamp(at(0.01), r.error_high * 1e-4, r.error_high * 0.1);
    }
    return r;
}

PictureUse use_of_fields(const Study& study) {
    return study.pictured == PicturedLevels::all ? PictureUse::files : PictureUse::pixels;
}

PictureFiles draw_change(const Study& study, const Level& level, const SharedRanges& ranges, const Level& before) {
    if (level.solid) return draw_solid_change(study, level, ranges, before);
    FieldPicture d;
    d.title = level_title(study, level);
    d.subtitle = fmt::format("difference to series {}, level {}, which has {} elements", before.series, before.index,
                             grouped(static_cast<long long>(before.mesh.elements)));
    d.legend = "difference of " + title_of(study, ranges.field);
    d.unit = unit_of(study, ranges.field);
    d.length_unit = study.units.label(dimension::length);
    d.map = ColourMap::swing;
    d.slots = change_of<2>(ranges.field, *before.fields, *level.fields);
    std::vector<double> sizes;
    sizes.reserve(d.slots.size());
    for (const double v : d.slots) sizes.push_back(std::fabs(v));
    const double largest = *std::max_element(sizes.begin(), sizes.end());
    const double most_places = area_quantile(level.fields->mesh, sizes, hot_share);
    d.clipped = most_places > 0 && largest > hot_ratio * most_places;
    d.high = d.clipped ? most_places : largest;
    d.low = -d.high;
    d.mark_extremes = false;
    return draw_field(level.fields->mesh, d, use_of_fields(study));
}

CloseUp close_up_of(const Study& study, const Level& level, std::size_t quantity) {
    const Mesh& mesh = level.fields->mesh;
    CloseUp view;
    view.quantity = quantity;
    view.circle.centre = in_plane(*level.quantities[quantity].position);
    std::size_t nearest = 0;
    double least = INFINITY;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (const double d = distance(mesh.centre_of(e), view.circle.centre); d < least) {
            least = d;
            nearest = e;
        }
    view.circle.radius = close_up_elements * mesh.size_of(nearest);
    const auto values = slot_field(study.quantities[quantity].field, source_of(study, level, quantity));
    view.low = INFINITY;
    view.high = -INFINITY;
    for (std::size_t s = 0; s < values.size(); ++s) {
        const Vec2& at = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])];
        if (distance(at, view.circle.centre) > view.circle.radius) continue;
        view.low = std::min(view.low, values[s]);
        view.high = std::max(view.high, values[s]);
    }
    return view;
}

PictureFiles draw_close_up(const Study& study, const Level& level, const CloseUp& view,
                           const std::vector<SingularPlace>& places) {
    const QuantitySpec& spec = study.quantities[view.quantity];
    const QuantityValue& value = level.quantities[view.quantity];
    FieldPicture p;
    p.title = fmt::format("{}: {}, level {}", spec.name, level.series, level.index);
    p.length_unit = study.units.label(dimension::length);
    p.subtitle = fmt::format("within {} {} of {}", sensible(view.circle.radius, 3), p.length_unit,
                             told_point(view.circle.centre));
    p.legend = title_of(study, spec.field);
    p.unit = unit_of(study, spec.field);
    p.slots = slot_field(spec.field, source_of(study, level, view.quantity));
    p.low = view.low;
    p.high = view.high;
    p.zoom = view.circle;
    if (value.position && distance(in_plane(*value.position), view.circle.centre) <= view.circle.radius) {
        (spec.take == Take::maximum ? p.largest : p.smallest) = value.value;
        (spec.take == Take::maximum ? p.largest_at : p.smallest_at) = in_plane(*value.position);
        const bool largest = spec.take == Take::maximum;
        (largest ? p.largest_label : p.smallest_label) =
            label_without_value(*level.fields, spec.field, place_of_case(level.fields->cases, spec.load_case), largest,
                                in_plane(*value.position), places);
    }
    return draw_field(level.fields->mesh, p, use_of_fields(study));
}

LevelPictures draw_level(const Study& study, const Level& l, const SharedRanges& ranges, const Level* before,
                         PictureUse use) {
    if (l.solid) return draw_solid_level(study, l, ranges, before, use);
    const LevelFields& f = *l.fields;
    const std::string length = study.units.label(dimension::length);
    const PictureUse of_fields = use == PictureUse::files ? use_of_fields(study) : use;
    LevelPictures out;
    out.mesh = draw_mesh(
        f.mesh, level_title(study, l),
        fmt::format("{} nodes, {} elements, mean shape quality {:.2f}, smallest angle {:.0f}°",
                    grouped(static_cast<long long>(l.mesh.nodes)), grouped(static_cast<long long>(l.mesh.elements)),
                    l.mesh.mean_quality, l.mesh.smallest_angle),
        length, use);
    out.field = draw_field(f.mesh, field_picture(study, l, ranges), of_fields);

    FieldPicture e;
    e.title = level_title(study, l);
    e.subtitle = level_counts(l) + "; where an even colour is reached, every element works equally hard";
    e.legend = "error density";
    e.unit = "share of whole";
    e.length_unit = length;
    e.map = ColourMap::heat;
    e.elementwise = density_of_error(f);
    e.low = ranges.error_low;
    e.high = ranges.error_high;
    e.logarithmic = true;
    e.mark_extremes = false;
    out.error = draw_field(f.mesh, e, of_fields);

    if (before) out.change = draw_change(study, l, ranges, *before);
    return out;
}

std::map<std::string, PictureFiles> draw_quantity_charts(const Study& study, const StudyResult& result) {
    std::vector<ConvergenceChart> list;
    const std::string length = study.units.label(dimension::length);
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto& quantity = study.quantities[q];
        const std::string unit = unit_of(study, quantity);
        ConvergenceChart chart;
        chart.title = quantity.name;
        chart.x_label = fmt::format("representative element size h in {}", length);
        chart.y_label = unit.empty() ? quantity.name : fmt::format("{} in {}", quantity.name, unit);
        chart.reference = quantity.reference;
        if (quantity.limit && quantity.limit->highest) chart.limits.push_back(quantity.limit->allowed_highest());
        if (quantity.limit && quantity.limit->lowest) chart.limits.push_back(quantity.limit->allowed_lowest());
        for (std::size_t s = 0; s < result.series.size(); ++s) {
            Curve2 curve;
            curve.name = result.series[s].name;
            curve.colour = static_cast<int>(s);
            for (const auto& l : result.series[s].levels)
                curve.points.push_back({{l.mesh.characteristic_size, l.quantities[q].value}});
            chart.curves.push_back(std::move(curve));
        }
        if (const auto* v = best_verdict(result, q)) {
            chart.subtitle = chart_subtitle(*v);
            show_interval(chart, *v, "extrapolated from " + v->series);
        }
        list.push_back(std::move(chart));
    }
    std::vector<PictureFiles> drawn(list.size());
    in_parallel(list.size(), [&](std::size_t q) { drawn[q] = draw_chart(list[q]); });
    std::map<std::string, PictureFiles> charts;
    for (std::size_t q = 0; q < list.size(); ++q) charts[study.quantities[q].name] = std::move(drawn[q]);
    return charts;
}

std::map<std::string, PictureFiles> draw_quantity_error_charts(const Study& study, const StudyResult& result) {
    std::vector<std::pair<std::string, RateChart>> list;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto* best = best_verdict(result, q);
        if (!best || !best->interval.known() || best->convergence.behaviour == Behaviour::settled) continue;
        const Convergence& c = best->convergence;
        const bool extrapolated = std::isfinite(c.extrapolated);
        const double value = extrapolated ? c.extrapolated : c.finest;
        if (value == 0) continue;
        RateChart chart;
        chart.title = study.quantities[q].name + ", difference to the best value known";
        chart.subtitle = fmt::format("that is {}, {} {}", with_uncertainty(value, best->interval.half_width / 10),
                                     extrapolated ? "extrapolated from" : "the finest of", best->series);
        chart.x_label = fmt::format("representative element size h in {}", study.units.label(dimension::length));
        chart.y_label = "relative difference, %";
        std::size_t most = 0;
        for (std::size_t s = 0; s < result.series.size(); ++s) {
            Curve2 curve{result.series[s].name, {}, static_cast<int>(s)};
            for (const auto& l : result.series[s].levels) {
                const double gap = std::fabs(l.quantities[q].value - value);
                if (gap > rounding_share * std::max(std::fabs(value), l.quantities[q].scale))
                    curve.points.push_back({{l.mesh.characteristic_size, 100 * gap / std::fabs(value)}});
            }
            most = std::max(most, curve.points.size());
            if (!curve.points.empty()) chart.curves.push_back(std::move(curve));
        }
        if (most < 2) continue;
        chart.slope = c.expected_order;
        chart.slope_label = fmt::format("expected of {}: {:.3g}", best->series, c.expected_order);
        list.emplace_back(study.quantities[q].name, std::move(chart));
    }
    std::vector<PictureFiles> drawn(list.size());
    in_parallel(list.size(), [&](std::size_t k) { drawn[k] = draw_chart(list[k].second); });
    std::map<std::string, PictureFiles> charts;
    for (std::size_t k = 0; k < list.size(); ++k) charts[list[k].first] = std::move(drawn[k]);
    return charts;
}

bool is_peak(const QuantitySpec& q) {
    return !q.formula && (q.take == Take::maximum || q.take == Take::minimum);
}

const Level* level_of_peak(const Study& study, const StudyResult& result, std::size_t q) {
    if (!is_peak(study.quantities[q])) return nullptr;
    const auto* best = best_verdict(result, q);
    for (const auto& s : result.series)
        if (best && s.name == best->series && s.levels.back().quantities[q].position) return &s.levels.back();
    return nullptr;
}

PictureFiles draw_error_chart(const Study& study, const StudyResult& result, CostAxis axis) {
    RateChart chart;
    chart.title = "Error against cost";
    chart.subtitle = study.title;
    const bool by_time = axis == CostAxis::seconds;
    chart.x_label = by_time ? "seconds for the level" : "unknowns";
    chart.y_label =
        study.exact_stress ? "relative error in the energy norm, %" : "estimated relative error in the energy norm, %";
    for (std::size_t s = 0; s < result.series.size(); ++s) {
        Curve2 curve;
        curve.name = result.series[s].name;
        curve.colour = static_cast<int>(s);
        for (const auto& l : result.series[s].levels) {
            const double error = l.true_error ? l.true_error->relative() : l.estimated_error;
            curve.points.push_back({{by_time ? seconds_of(l) : static_cast<double>(l.unknowns), 100 * error}});
        }
        chart.curves.push_back(std::move(curve));
    }
    if (!by_time) {
        // Of degree p in a space of d dimensions: error ~ h^p ~ N^(-p/d).
        const double slope = -study.mesh.order / (study.solid() ? 3.0 : 2.0);
        chart.slope = slope;
        chart.slope_label = fmt::format("theory: {:.3g}", slope);
    }
    return draw_chart(chart);
}

}  // namespace dotsift
