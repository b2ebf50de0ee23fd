#include "sizes/part_sizes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "base/errors.hpp"
#include "part/narrow.hpp"
#include "part/shapes/placement.hpp"
#include "part/shapes/shapes.hpp"
#include "sizes/area_sources.hpp"
#include "sizes/curve_sources.hpp"
#include "sizes/division_rules.hpp"
#include "sizes/rule_size.hpp"

namespace dotsift {

namespace {

class Rules {
  public:
    Rules(const Part& part, const SizeSpec& sizes, const std::filesystem::path& study_file)
        : part_(part), spec_(sizes), file_(study_file) {}

    Sizing run() {
        for (std::size_t i = 0; i < spec_.local.size(); ++i) add(spec_.local[i], static_cast<int>(i));
        const auto curved = curvature_sources(part_, spec_);
        sources_.insert(sources_.end(), curved.begin(), curved.end());
        for (std::size_t i = 0; i < spec_.layers.size(); ++i) add_layers(spec_.layers[i], static_cast<int>(i));
        const double smallest = spec_.smallest.value_or(smallest_of_diagonal * part_.box.diagonal());
        const double global = spec_.global.value_or(suggested_size(part_));
        return {SizeField(global, spec_.growth - 1, std::min(smallest, global), std::move(sources_)),
                std::move(divisions_), std::move(layers_)};
    }

  private:
    [[noreturn]] void refuse(const std::string& rule, Where where, const std::string& what,
                             const std::string& remedy) const {
        Place place = place_in(file_, where);
        throw InputError(fmt::format("{}: {}", rule, what), place, remedy);
    }

    void add(const LocalSize& rule, int index) {
        switch (rule.demand) {
            case SizeDemand::size:
            case SizeDemand::table:
                add_sizes(rule, index);
                break;
            case SizeDemand::divisions:
                add_divisions<2>(part_, spec_, index, file_, divisions_, sources_);
                break;
            case SizeDemand::across:
                add_across(rule, index);
                break;
            case SizeDemand::segments:
                break;  // with all other curves
        }
    }

    void add_sizes(const LocalSize& rule, int index) {
        const auto size = size_of_rule<2>(rule, file_);
        const auto along = [&](const Curve& curve) {
            add_curve_sources(
                curve, [&](double t) { return size(curve.point(t)); }, varies(rule), rule.within, index, sources_);
        };
        const auto over = [&](std::vector<Curve> rim, const Box2& box) {
            add_area_sources({std::move(rim), box, size, varies(rule), index}, sources_);
        };
        if (rule.inside || rule.along) {
            bool met = false;
            Problems problems(file_.string());
            const auto edges = outline_of(rule.inside ? *rule.inside : *rule.along, problems);
            problems.throw_if_any();
            for (const auto& map : copies_of(rule.inside ? rule.inside->placement : rule.along->placement)) {
                std::vector<Curve> curves;
                Box2 box;
                for (const auto& e : edges) {
                    curves.push_back(e.curve.transformed(map));
                    box.add(curves.back().box());
                }
                met = met ||
                      (box.low[0] - rule.within <= part_.box.high[0] && part_.box.low[0] <= box.high[0] + rule.within &&
                       box.low[1] - rule.within <= part_.box.high[1] && part_.box.low[1] <= box.high[1] + rule.within);
                if (rule.inside)
                    over(std::move(curves), box);
                else
                    for (const auto& c : curves) along(c);
            }
            if (!met)
                refuse("size.local." + rule.name, rule.where, "the shape lies wholly outside the part",
                       fmt::format("the part reaches from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})", part_.box.low[0],
                                   part_.box.low[1], part_.box.high[0], part_.box.high[1]));
            return;
        }
        if (rule.on.empty()) {
            over({}, part_.box);
            return;
        }
        for (const int e : part_.edges_named(rule.on)) along(part_.edge(e).curve);
        for (const int v : part_.points_named(rule.on)) {
            SizeSource s;
            s.corners[0] = part_.vertex(v);
            s.size = size(s.corners[0]);
            s.reach = rule.within;
            s.rule = index;
            sources_.push_back(s);
        }
        for (const int r : part_.regions_named(rule.on))
            for (std::size_t f = 0; f < part_.faces.size(); ++f) {
                if (part_.faces[f].region != r) continue;
                std::vector<Curve> rim;
                Box2 box;
                for (const auto& e : part_.edges) {
                    if (e.left == e.right || (e.left != static_cast<int>(f) && e.right != static_cast<int>(f)))
                        continue;
                    rim.push_back(e.curve);
                    box.add(e.curve.box());
                }
                over(std::move(rim), box);
            }
    }

    void add_across(const LocalSize& rule, int index) {
        if (!crossings_) crossings_ = crossings(part_);
        const auto edges = part_.edges_named(rule.on), regions = part_.regions_named(rule.on);
        for (const auto& c : *crossings_) {
            const int region = part_.faces[static_cast<std::size_t>(c.face)].region;
            if (!rule.on.empty() && std::find(edges.begin(), edges.end(), c.edge) == edges.end() &&
                std::find(regions.begin(), regions.end(), region) == regions.end())
                continue;
            SizeSource s;
            s.corners = {c.from, c.to, {}};
            s.form = SizeSource::Form::segment;
            s.size = within_limits(rule, c.width / rule.number);
            s.rule = index;
            sources_.push_back(s);
        }
    }

    void add_layers(const LayerSpec& rule, int index) {
        const auto regions = part_.regions_named(rule.inside);
        for (const int e : part_.edges_named(rule.on))
            for (const bool left : {true, false}) {
                const int face = left ? part_.edge(e).left : part_.edge(e).right;
                if (face < 0) continue;
                const int region = part_.faces[static_cast<std::size_t>(face)].region;
                if (!rule.inside.empty() && std::find(regions.begin(), regions.end(), region) == regions.end())
                    continue;
                for (const auto& other : layers_)
                    if (other.edge == e && other.left == left)
                        refuse("size.layers." + rule.name, rule.where,
                               fmt::format("{} already has the rows of size.layers.{}", part_.name_of_edge(e),
                                           spec_.layers[static_cast<std::size_t>(other.rule)].name),
                               "keep one of the two rules there");
                layers_.push_back({e, left, rule.first, rule.rows, rule.growth, index});
            }
    }

    const Part& part_;
    const SizeSpec& spec_;
    std::filesystem::path file_;
    std::vector<SizeSource> sources_;
    std::vector<EdgeDivision> divisions_;
    std::vector<EdgeLayers> layers_;
    std::optional<std::vector<Crossing>> crossings_;
};

}  // namespace

double suggested_size(const Part& part) {
    return std::sqrt(part.area()) / 12;
}

std::vector<SizeSource> curvature_sources(const Part& part, const SizeSpec& sizes) {
    std::vector<SizeSource> sources;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const Curve& curve = part.edges[e].curve;
        if (curve.straight()) continue;
        // A rule that names the edge takes the place of the number for all.
        double number = sizes.segments_per_circle, least = 0, most = INFINITY;
        int index = static_cast<int>(sizes.local.size());
        for (std::size_t i = 0; i < sizes.local.size(); ++i) {
            const auto& rule = sizes.local[i];
            if (rule.demand != SizeDemand::segments) continue;
            const auto edges = part.edges_named(rule.on);
            if (std::find(edges.begin(), edges.end(), static_cast<int>(e)) == edges.end()) continue;
            number = rule.number;
            least = rule.smallest.value_or(0);
            most = rule.largest.value_or(INFINITY);
            index = static_cast<int>(i);
        }
        add_curve_sources(
            curve,
            [&](double t) {
                return std::clamp(2 * std::numbers::pi * curve.curvature_radius(t) / number, least, most);
            },
            false, 0, index, sources);
    }
    sources.erase(
        std::remove_if(sources.begin(), sources.end(), [](const SizeSource& s) { return !std::isfinite(s.size); }),
        sources.end());
    return sources;
}

std::string name_of_rule(const SizeSpec& sizes, int rule) {
    if (rule < 0) return "the global size";
    const auto index = static_cast<std::size_t>(rule);
    if (index == sizes.local.size()) return "segments_per_circle";
    if (index > sizes.local.size()) return "the mesher, since the boundary was too coarse";
    return "size.local." + sizes.local[index].name;
}

Sizing sizing_of(const Part& part, const SizeSpec& sizes, const std::filesystem::path& study_file) {
    return Rules(part, sizes, study_file).run().scaled(sizes.factor);
}

}  // namespace dotsift
