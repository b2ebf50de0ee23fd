#include "study/file/read_sizes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "study/file/read_shape.hpp"
#include "study/file/read_space_shape.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> finer_names{"ends", "middle"};
const std::vector<std::string> element_names{"triangles", "mostly_quadrilaterals", "quadrilaterals", "grid"};
constexpr double standard_layer_growth = 1.2;
constexpr double steepest_layer_growth = 3;
constexpr std::int64_t most_rows = 200;
constexpr std::int64_t most_retries = 20;

// What a sound mesh never needs, and what takes longer to divide than anybody waits.
constexpr std::int64_t most_divisions = 100'000;
constexpr double most_across = 200;

constexpr std::array<const char*, 5> demand_keys{"size", "table", "divisions", "across", "segments_per_circle"};

std::optional<double> at_least(const Section& s, std::string_view key, double least, Dimension dimension) {
    const auto value = s.number(key, dimension);
    if (value && !(*value >= least)) {
        s.fault(key, fmt::format("is {:g}, but at least {:g} is needed", *value, least));
        return std::nullopt;
    }
    return value;
}

void read_size(const Section& s, LocalSize& rule) {
    const auto formula = s.formula("size", dimension::length, true);
    if (!formula) return;
    rule.size = *formula;
    if (formula->constant && !(*formula->constant > 0))
        s.fault("size", fmt::format("is {:g}, but it must be greater than zero", *formula->constant));
}

void read_finer_at(const Section& s, LocalSize& rule) {
    if (!s.has("finer_at")) {
        rule.finer_at = rule.bias > 1 ? FinerAt::ends : FinerAt::nowhere;
        return;
    }
    if (rule.bias == 1) s.fault("finer_at", "goes with a bias greater than 1", "give the bias, or remove it");
    if (s.node("finer_at")->is_string()) {
        const std::string name = s.text("finer_at").value_or("");
        const auto known = std::find(finer_names.begin(), finer_names.end(), name);
        rule.finer_at = known == finer_names.end()     ? FinerAt::place
                        : known == finer_names.begin() ? FinerAt::ends
                                                       : FinerAt::middle;
        if (rule.finer_at == FinerAt::place) rule.finer_name = name;
        return;
    }
    rule.finer_at = FinerAt::place;
    if (s.context().in_space)
        rule.finer_place = s.point_in<3>("finer_at");
    else if (const auto place = s.point("finer_at"))
        rule.finer_place = in_space(*place);
}

std::optional<ShapeSpec> read_guide(const Section& s, std::string_view key, bool lines) {
    const auto* table = s.table(key);
    if (!table) return std::nullopt;
    return read_placed_shape(Section(s.context(), *table, "placed shape", fmt::format("{}.{}", s.shown(), key)), lines);
}

std::optional<SpaceShapeSpec> read_guide_in_space(const Section& s, std::string_view key) {
    const auto* table = s.table(key);
    if (!table) return std::nullopt;
    return read_placed_space_shape(Section(s.context(), *table, "placed shape", fmt::format("{}.{}", s.shown(), key)));
}

void read_guides_in_space(const Section& s, LocalSize& rule) {
    rule.inside_space = read_guide_in_space(s, "inside");
    if (const auto* table = s.table("along")) {
        const Section line(s.context(), *table, "placed shape", s.shown() + ".along");
        if (line.text("shape").value_or("line") != "line")
            line.fault("shape", "must be \"line\" here", "a size in a shape of space is given by inside");
        for (const auto& [key, node] : *table)
            if (key != "shape" && key != "from" && key != "to")
                line.fault(key.str(), "has no meaning for a line in space", "remove it");
        const auto from = line.point_in<3>("from"), to = line.point_in<3>("to");
        for (const char* key : {"from", "to"})
            if (!line.has(key)) line.missing(key, "a line has two ends, as in: from = [0, 0, 0]");
        if (from && to) rule.along_in_space = {*from, *to};
    }
}

void read_local(const Section& s, const std::string& name, SizeSpec& sizes) {
    LocalSize rule;
    rule.name = name;
    rule.where = s.where();
    rule.on = s.names("on");
    if (s.context().in_space) {
        read_guides_in_space(s, rule);
    } else {
        rule.inside = read_guide(s, "inside", false);
        rule.along = read_guide(s, "along", true);
    }
    if (s.has("on") + s.has("inside") + s.has("along") > 1)
        s.fault("on", "and inside and along exclude each other", "make a rule for each place");
    if (s.has("within")) {
        rule.within = s.positive("within", dimension::length).value_or(0);
        if (!s.has("on") && !s.has("along")) s.fault("within", "goes with on or along");
    }
    int demands = 0;
    for (std::size_t d = 0; d < demand_keys.size(); ++d)
        if (s.has(demand_keys[d])) {
            rule.demand = static_cast<SizeDemand>(d);
            ++demands;
        }
    if (demands != 1) {
        if (demands == 0)
            s.missing("size", "or one of table, divisions, across, segments_per_circle");
        else
            s.fault(demand_keys[static_cast<std::size_t>(rule.demand)], "and other demands stand in one rule",
                    "make a rule for each of size, divisions, across ...");
    }
    rule.smallest = s.positive("smallest", dimension::length);
    rule.largest = s.positive("largest", dimension::length);
    if (rule.smallest && rule.largest && *rule.smallest > *rule.largest)
        s.fault("smallest", fmt::format("is {:g}, greater than the largest {:g}", *rule.smallest, *rule.largest));
    const bool edges_only = rule.demand == SizeDemand::divisions || rule.demand == SizeDemand::segments;
    if (edges_only && !s.has("on") && demands == 1) s.missing("on", "say along which boundaries");
    if (edges_only || rule.demand == SizeDemand::across)
        for (const auto* key : {"inside", "along", "within"})
            if (s.has(key))
                s.fault(key, fmt::format("has no meaning for {}", demand_keys[static_cast<std::size_t>(rule.demand)]),
                        "remove it");
    if (rule.demand != SizeDemand::divisions)
        for (const auto* key : {"bias", "finer_at"})
            if (s.has(key)) s.fault(key, "goes with divisions", "remove it");
    switch (rule.demand) {
        case SizeDemand::size:
            if (s.has("size")) read_size(s, rule);
            break;
        case SizeDemand::table:
            rule.table = s.text("table").value_or("");
            break;
        case SizeDemand::divisions:
            rule.divisions = s.whole("divisions", 1).value_or(1);
            if (rule.divisions > most_divisions) {
                s.fault("divisions", fmt::format("is {}, but an edge has at most {}", rule.divisions, most_divisions),
                        "ask for fewer");
                rule.divisions = most_divisions;
            }
            rule.bias = at_least(s, "bias", 1, dimension::none).value_or(1);
            read_finer_at(s, rule);
            for (const auto* key : {"smallest", "largest"})
                if (s.has(key)) s.fault(key, "has no meaning beside divisions, which are kept exactly", "remove it");
            break;
        case SizeDemand::across:
            rule.number = at_least(s, "across", 1, dimension::none).value_or(1);
            if (rule.number > most_across) {
                s.fault("across", fmt::format("is {:g}, but at most {:g} elements go across", rule.number, most_across),
                        "ask for fewer");
                rule.number = most_across;
            }
            break;
        case SizeDemand::segments:
            rule.number = at_least(s, "segments_per_circle", 3, dimension::none).value_or(3);
            break;
    }
    if (sizes.smallest && rule.size.constant && rule.demand == SizeDemand::size &&
        *rule.size.constant < *sizes.smallest)
        s.fault("size", fmt::format("is {:g}, below the smallest size {:g}", *rule.size.constant, *sizes.smallest));
    sizes.local.push_back(std::move(rule));
}

/// Height of rows 1, growth, growth^2 ... together.
double relative_total(double growth, std::int64_t rows) {
    return growth == 1 ? static_cast<double>(rows) : (std::pow(growth, static_cast<double>(rows)) - 1) / (growth - 1);
}

/// The growth at which so many rows from `first` make `total`.
std::optional<double> growth_for(double first, std::int64_t rows, double total) {
    double low = 1, high = steepest_layer_growth;
    if (total < first * relative_total(low, rows) * (1 - 1e-9) || total > first * relative_total(high, rows))
        return std::nullopt;
    for (int k = 0; k < 200; ++k) {
        const double middle = 0.5 * (low + high);
        (first * relative_total(middle, rows) < total ? low : high) = middle;
    }
    return 0.5 * (low + high);
}

void read_layer(const Section& s, const std::string& name, SizeSpec& sizes) {
    LayerSpec layer;
    layer.name = name;
    layer.where = s.where();
    layer.on = s.names("on");
    layer.inside = s.names("inside");
    if (!s.has("on")) s.missing("on", "say along which boundary");
    const auto first = s.positive("first", dimension::length), total = s.positive("total", dimension::length);
    const auto rows = s.whole("rows", 1);
    double growth = at_least(s, "growth", 1, dimension::none).value_or(standard_layer_growth);
    if (growth > steepest_layer_growth) {
        s.fault("growth", fmt::format("is {:g}, but a row may be at most {:g} times the one before", growth,
                                      steepest_layer_growth));
        growth = standard_layer_growth;
    }
    const int given = s.has("first") + s.has("total") + s.has("rows");
    if (given < 2) {
        s.missing(s.has("first") ? "rows" : "first", "two of first, rows and total are needed");
    } else if (given == 3) {
        if (s.has("growth")) s.fault("growth", "follows from first, rows and total", "remove one of the four");
        if (first && total && rows) {
            const auto g = growth_for(*first, *rows, *total);
            if (!g)
                s.fault("total", fmt::format("is {:g}, but {} rows from {:g} make between {:g} and {:g}", *total, *rows,
                                             *first, *first * static_cast<double>(*rows),
                                             *first * relative_total(steepest_layer_growth, *rows)));
            layer.first = *first;
            layer.rows = *rows;
            layer.growth = g.value_or(standard_layer_growth);
        }
    } else {
        layer.growth = growth;
        if (first && rows) {
            layer.first = *first;
            layer.rows = *rows;
        } else if (rows && total) {
            layer.rows = *rows;
            layer.first = *total / relative_total(layer.growth, *rows);
        } else if (first && total) {
            if (*total < *first) s.fault("total", fmt::format("is {:g}, less than the first row {:g}", *total, *first));
            const double exact = layer.growth == 1
                                     ? *total / *first
                                     : std::log1p(*total * (layer.growth - 1) / *first) / std::log(layer.growth);
            layer.rows = std::clamp<std::int64_t>(std::llround(exact), 1, most_rows + 1);
            layer.first = *first;
            if (layer.rows > 1) layer.growth = growth_for(*first, layer.rows, *total).value_or(layer.growth);
        }
    }
    if (layer.rows > most_rows)
        s.fault(s.has("rows") ? "rows" : "total",
                fmt::format("makes more than the {} rows that are possible", most_rows));
    sizes.layers.push_back(std::move(layer));
}

}  // namespace

SizeSpec read_sizes(const Section& top) {
    SizeSpec z;
    const auto* table = top.table("size");
    if (!table) return z;
    const Section s(top.context(), *table, "size", "size");
    z.where = s.where();
    z.global = s.positive("global", dimension::length);
    z.smallest = s.positive("smallest", dimension::length);
    if (const auto g = s.number("growth", dimension::none)) {
        if (*g <= 1)
            s.fault("growth", fmt::format("is {:g}, but it must be greater than 1", *g), "usual are 1.2 to 1.5");
        else
            z.growth = *g;
    }
    if (const auto n = s.number("segments_per_circle", dimension::none)) {
        if (*n < 3) s.fault("segments_per_circle", fmt::format("is {:g}, but at least 3 are needed", *n));
        z.segments_per_circle = *n;
    }
    z.most_elements = s.whole("most_elements", 1).value_or(z.most_elements);
    if (z.global && z.smallest && *z.smallest > *z.global)
        s.fault("smallest", fmt::format("is {:g}, greater than the global size {:g}", *z.smallest, *z.global));
    each_named(s, "local", [&](const Section& l, const std::string& name) { read_local(l, name, z); });
    each_named(s, "layers", [&](const Section& l, const std::string& name) { read_layer(l, name, z); });
    return z;
}

MeshSpec read_mesh(const Section& top) {
    MeshSpec mesh;
    const auto* table = top.table("mesh");
    if (!table) return mesh;
    const Section s(top.context(), *table, "mesh", "mesh");
    mesh.where = s.where();
    if (const auto shape = s.choice("elements", element_names)) mesh.shape = static_cast<ElementShape>(*shape);
    if (const auto order = s.whole("order", 1)) {
        if (*order > 2) s.fault("order", fmt::format("is {}, but elements have order 1 or 2", *order));
        mesh.order = *order == 1 ? 1 : 2;
    }
    each_named(s, "region", [&](const Section& r, const std::string& name) {
        RegionElements region;
        region.name = name;
        region.where = r.where();
        if (!r.has("elements")) r.missing("elements", "as in: elements = \"quadrilaterals\"");
        if (const auto shape = r.choice("elements", element_names)) region.shape = static_cast<ElementShape>(*shape);
        region.corners = r.points("corners");
        if (r.has("corners")) {
            if (region.shape != ElementShape::grid) r.fault("corners", "goes with elements = \"grid\"");
            if (region.corners.size() != 4)
                r.fault("corners", fmt::format("has {} points, but a grid has four corners", region.corners.size()));
        }
        mesh.regions.push_back(std::move(region));
    });
    if (const auto* retry = s.table("retry")) {
        const Section r(s.context(), *retry, "mesh.retry", "mesh.retry");
        if (!r.has("tries")) r.missing("tries", "as in: tries = 3");
        RetrySpec spec;
        spec.tries = r.whole("tries", 1).value_or(1);
        if (spec.tries > most_retries)
            r.fault("tries", fmt::format("is {}, but more than {} tries are not made", spec.tries, most_retries));
        if (!r.has("sizes") && !r.has("merge_points"))
            r.missing("sizes", "or merge_points: a try that changes nothing fails again");
        spec.sizes = r.positive("sizes", dimension::none).value_or(1);
        spec.merge_points = r.positive("merge_points", dimension::none).value_or(1);
        if (spec.sizes == 1 && spec.merge_points == 1 && (r.has("sizes") || r.has("merge_points")))
            r.fault("sizes", "and merge_points are 1: a try that changes nothing fails again");
        mesh.retry = spec;
    }
    each_named(s, "remesh", [&](const Section& r, const std::string& name) {
        RemeshZone zone;
        zone.rule.name = name;
        zone.rule.where = r.where();
        zone.rule.on = r.names("on");
        zone.rule.inside = read_guide(r, "inside", false);
        if (r.has("on") == r.has("inside")) {
            if (r.has("on"))
                r.fault("on", "and inside exclude each other", "make a zone for each place");
            else
                r.missing("on", "region names, or inside, a placed shape");
        }
        zone.sized = r.has("size");
        if (zone.sized) read_size(r, zone.rule);
        zone.blend = r.flag("blend").value_or(true);
        mesh.remesh.push_back(std::move(zone));
    });
    return mesh;
}

QualitySpec read_quality(const Section& s, const std::string& name) {
    QualitySpec q;
    q.name = name;
    q.where = s.where();
    static const std::vector<std::string> measures = [] {
        std::vector<std::string> list;
        for (std::size_t m = 0; m < criterion_count; ++m) list.emplace_back(name_of(static_cast<Criterion>(m)));
        return list;
    }();
    static const std::vector<std::string> kinds{"triangles", "quadrilaterals"};
    if (!s.has("of")) s.missing("of", "as in: of = \"shape\"");
    if (const auto m = s.choice("of", measures)) q.measure = static_cast<Criterion>(*m);
    for (const auto* key : {"good", "acceptable"})
        if (!s.has(key)) s.missing(key);
    q.good = s.number("good", dimension::none).value_or(0);
    q.acceptable = s.number("acceptable", dimension::none).value_or(0);
    if (const auto kind = s.choice("elements", kinds)) q.quadrilaterals = *kind == 1;
    q.on = s.names("on");
    if (s.context().in_space)
        q.inside_space = read_guide_in_space(s, "inside");
    else
        q.inside = read_guide(s, "inside", false);
    const bool more_is_better = q.measure <= Criterion::smallest_angle;
    if (s.has("good") && s.has("acceptable") && (more_is_better ? q.good < q.acceptable : q.good > q.acceptable))
        s.fault("good", fmt::format("is {:g} and acceptable is {:g}, but for {} good must be {}", q.good, q.acceptable,
                                    name_of(q.measure), more_is_better ? "the larger one" : "the smaller one"));
    return q;
}

}  // namespace dotsift
