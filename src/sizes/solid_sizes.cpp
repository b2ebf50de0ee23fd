#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

#include "base/errors.hpp"
#include "part/shapes/placement.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/space_distance.hpp"
#include "sizes/curve_sources.hpp"
#include "sizes/division_rules.hpp"
#include "sizes/face_sources.hpp"
#include "sizes/part_sizes.hpp"
#include "sizes/rule_size.hpp"
#include "sizes/volume_sources.hpp"
#include "sizes/wall_sources.hpp"

namespace dotsift {

namespace {

constexpr double suggested_share = 1.0 / 8;  // of the cube root of the volume

/// The sharpest bend of a surface at a place; infinity: none.
double sharpest_radius(const Surface& surface, const Vec2& at) {
    const auto r = surface.curvature_radii(at);
    return std::min(std::fabs(r[0]), std::fabs(r[1]));
}

/// Towards the tip of a cone the bend has no end; nearer to it than this share of its largest radius it counts as
/// there.
constexpr double tip_share = 1.0 / 8;
double least_radius(const Surface& surface) {
    if (surface.kind() != Surface::Kind::turned || !surface.profile().straight()) return 0;
    return tip_share * std::max(surface.profile().start()[0], surface.profile().end()[0]);
}

/// The bend is not the same everywhere: of what a profile makes along it, the only way in
/// which it can change.
bool bends_differently(const Surface& surface) {
    if (surface.kind() == Surface::Kind::spline || surface.kind() == Surface::Kind::facets) return true;
    const std::size_t along = surface.kind() == Surface::Kind::turned ? 1 : 0;
    double least = INFINITY, most = 0;
    for (const double t : {0.03, 0.2, 0.5, 0.8, 0.97}) {
        Vec2 at{};
        at[along] = t;
        const double bend = 1 / sharpest_radius(surface, at);
        least = std::min(least, bend);
        most = std::max(most, bend);
    }
    return least < 0.99 * most;
}

using SizeAt = std::function<double(const Vec3&)>;

/// In all copies of a shape that is no part of the part.
void add_in_shape(const SolidPart& part, const LocalSize& rule, int index, const SizeAt& size,
                  const std::filesystem::path& study_file, std::vector<SizeSourceIn<3>>& sources) {
    const SpaceShapeSpec& shape = *rule.inside_space;
    bool met = false;
    for (const auto& map : copies_of(shape.placement)) {
        const Box<3> own = box_round(shape);
        Box<3> there;
        for (int c = 0; c < 8; ++c)
            there.add(map(Vec3{{c & 1 ? own.high[0] : own.low[0], c & 2 ? own.high[1] : own.low[1],
                                c & 4 ? own.high[2] : own.low[2]}}));
        bool apart = false;
        for (std::size_t k = 0; k < 3; ++k)
            apart = apart || there.low[k] > part.box.high[k] || part.box.low[k] > there.high[k];
        met = met || !apart;
        add_volume_sources(
            {own,
             [&](const Vec3& p) { return distance_to(shape, p); },
             {},
             [&](const Vec3& p) { return size(map(p)); },
             varies(rule),
             index},
            [&](const Vec3& p) { return map(p); }, sources);
    }
    if (!met)
        throw InputError(
            fmt::format("size.local.{}: the shape lies wholly outside the part", rule.name),
            place_in(study_file, rule.where),
            fmt::format("the part reaches from ({:.4g}, {:.4g}, {:.4g}) to ({:.4g}, {:.4g}, {:.4g})", part.box.low[0],
                        part.box.low[1], part.box.low[2], part.box.high[0], part.box.high[1], part.box.high[2]));
}

/// In all bodies of a region.
void add_in_region(const SolidPart& part, int region, const LocalSize& rule, int index, const SizeAt& size,
                   std::vector<SizeSourceIn<3>>& sources) {
    const BodyFinder finder(part);
    for (std::size_t b = 0; b < part.bodies.size(); ++b) {
        if (part.bodies[b].region != region) continue;
        const int body = static_cast<int>(b);
        Box<3> box;
        std::vector<const Surface*> surfaces;
        for (const auto& f : part.faces) {
            if (f.behind != body && f.before != body) continue;
            surfaces.push_back(&f.surface);
            for (const auto& loop : f.loops)
                for (const auto& use : loop) box.add(part.edge(use.edge).curve.box());
        }
        const auto contains = [&](const Vec3& p) { return finder(p) == body; };
        const auto outside = [&](const Vec3& p) {
            double least = INFINITY;
            for (const Surface* s : surfaces) least = std::min(least, distance(s->point(s->project(p)), p));
            return contains(p) ? -least : least;
        };
        add_volume_sources(
            {box, outside, contains, size, varies(rule), index}, [](const Vec3& p) { return p; }, sources);
    }
}

/// A surface over facets knows its bends at their corners.
void add_facet_sources(const FacetSurface& surface, const std::function<double(double)>& of_radius, double largest,
                       int rule, std::vector<SizeSourceIn<3>>& sources) {
    for (const auto& f : surface.facets())
        add_triangle_source({surface.points()[f[0]], surface.points()[f[1]], surface.points()[f[2]]},
                            {std::min(of_radius(surface.least_radius_at(f[0])), largest),
                             std::min(of_radius(surface.least_radius_at(f[1])), largest),
                             std::min(of_radius(surface.least_radius_at(f[2])), largest)},
                            0, rule, sources);
}

}  // namespace

double suggested_size(const SolidPart& part) {
    return std::cbrt(measure(part).size) * suggested_share;
}

std::vector<SizeSourceIn<3>> curvature_sources(const SolidPart& part, const SizeSpec& sizes) {
    std::vector<SizeSourceIn<3>> sources;
    // A rule that names a face or edge takes the place of the number for all.
    struct Segments {
        double number, least = 0, most = INFINITY;
        int rule;
        [[nodiscard]] double of_radius(double r) const {
            return std::clamp(2 * std::numbers::pi * r / number, least, most);
        }
    };
    const Segments all{sizes.segments_per_circle, 0, INFINITY, static_cast<int>(sizes.local.size())};
    std::vector<Segments> of_edge(part.edges.size(), all), of_face(part.faces.size(), all);
    for (std::size_t i = 0; i < sizes.local.size(); ++i) {
        const LocalSize& rule = sizes.local[i];
        if (rule.demand != SizeDemand::segments) continue;
        const Segments own{rule.number, rule.smallest.value_or(0), rule.largest.value_or(INFINITY),
                           static_cast<int>(i)};
        for (const int f : part.faces_named(rule.on)) {
            of_face[static_cast<std::size_t>(f)] = own;
            for (const auto& loop : part.face(f).loops)
                for (const auto& use : loop) of_edge[static_cast<std::size_t>(use.edge)] = own;
        }
        for (const int e : part.edges_named(rule.on)) of_edge[static_cast<std::size_t>(e)] = own;
    }
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const auto& curve = part.edges[e].curve;
        if (curve.straight()) continue;
        add_curve_sources<3>(
            curve, [&](double t) { return of_edge[e].of_radius(curve.curvature_radius(t)); }, false, 0, of_edge[e].rule,
            sources);
    }
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const Surface& surface = part.faces[f].surface;
        if (surface.kind() == Surface::Kind::plane) continue;
        const double largest = part.box.diagonal();  // where it does not bend, any size will do
        if (surface.kind() == Surface::Kind::drawn && surface.profile().straight()) continue;
        const Segments& own = of_face[f];
        if (surface.kind() == Surface::Kind::facets) {
            add_facet_sources(
                surface.facets(), [&](double r) { return own.of_radius(r); }, largest, own.rule, sources);
            continue;
        }
        add_face_sources(
            part, f,
            [&](const Vec3&, const Vec2& at) {
                return std::min(own.of_radius(std::max(sharpest_radius(surface, at), least_radius(surface))), largest);
            },
            bends_differently(surface), 0, own.rule, sources);
    }
    sources.erase(std::remove_if(sources.begin(), sources.end(), [](const auto& s) { return !std::isfinite(s.size); }),
                  sources.end());
    return sources;
}

SizingIn<3> sizing_of(const SolidPart& part, const SizeSpec& sizes, const std::filesystem::path& study_file) {
    const double global = sizes.global.value_or(suggested_size(part));
    std::vector<SizeSourceIn<3>> sources;
    std::vector<EdgeDivision> divisions;
    std::optional<BodyFinder> finder;  // made when it is needed
    for (std::size_t i = 0; i < sizes.local.size(); ++i) {
        const LocalSize& rule = sizes.local[i];
        const int index = static_cast<int>(i);
        if (rule.demand == SizeDemand::segments) continue;  // with all other faces and edges that bend
        if (rule.demand == SizeDemand::divisions) {
            add_divisions<3>(part, sizes, index, study_file, divisions, sources);
            continue;
        }
        if (rule.demand == SizeDemand::across) {
            if (!finder) finder.emplace(part);
            add_wall_sources(part, *finder, rule, index, global, sources);
            continue;
        }
        const auto size = size_of_rule<3>(rule, study_file);
        const auto on_face = [&](std::size_t f) {
            add_face_sources(
                part, f, [&](const Vec3& p, const Vec2&) { return size(p); }, varies(rule), rule.within, index,
                sources);
        };
        if (rule.inside_space) {
            add_in_shape(part, rule, index, size, study_file, sources);
            continue;
        }
        if (rule.along_in_space) {
            const Vec3 from = (*rule.along_in_space)[0], to = (*rule.along_in_space)[1];
            add_curve_sources<3>(
                CurveIn<3>::line(from, to), [&](double t) { return size(from + (to - from) * t); }, varies(rule),
                rule.within, index, sources);
            continue;
        }
        if (rule.on.empty()) {  // everywhere
            add_volume_sources(
                {part.box, {}, {}, size, varies(rule), index}, [](const Vec3& p) { return p; }, sources);
            continue;
        }
        for (const int f : part.faces_named(rule.on)) on_face(static_cast<std::size_t>(f));
        for (const int e : part.edges_named(rule.on)) {
            const auto& curve = part.edge(e).curve;
            add_curve_sources<3>(
                curve, [&](double t) { return size(curve.point(t)); }, varies(rule), rule.within, index, sources);
        }
        for (const int r : part.regions_named(rule.on)) add_in_region(part, r, rule, index, size, sources);
        for (const int v : part.points_named(rule.on)) {
            SizeSourceIn<3> s;
            s.corners[0] = part.vertices[static_cast<std::size_t>(v)];
            s.size = size(s.corners[0]);
            s.reach = rule.within;
            s.rule = index;
            sources.push_back(s);
        }
    }
    const auto curved = curvature_sources(part, sizes);
    sources.insert(sources.end(), curved.begin(), curved.end());
    const double smallest = sizes.smallest.value_or(smallest_of_diagonal * part.box.diagonal());
    const SizingIn<3> sizing{{global, sizes.growth - 1, std::min(smallest, global), std::move(sources)},
                             std::move(divisions)};
    return sizing.scaled(sizes.factor);
}

}  // namespace dotsift
