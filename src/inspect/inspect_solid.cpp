#include "inspect/inspect_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "base/numbers.hpp"
#include "inspect/thin_places.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_names.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/edge_wedges.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/singular/singular_edges.hpp"

namespace dotsift {

namespace {

constexpr std::size_t most_of_each = 5;  // findings of one kind
constexpr double few_across = 2;         // elements through a wall; with fewer they cannot show how a field changes
constexpr double short_share = 0.25;     // of the wanted size: an edge shorter than that asks for needless elements
const double sharp_edge_angle = 30 * std::numbers::pi / 180;
constexpr double bent_share = 0.5;  // of the wanted size: a bend tighter than that is no bend to the mesh

/// Elements that the sizes put between two places.
double elements_across(const SizeFieldIn<3>& sizes, const Vec3& a, const Vec3& b) {
    constexpr int steps = 8;
    double sum = 0;
    for (int k = 0; k < steps; ++k) sum += distance(a, b) / steps / sizes.at(a + (b - a) * ((k + 0.5) / steps));
    return sum;
}

class SolidFindings {
  public:
    SolidFindings(const Study& study, const SolidPart& part, const SizeFieldIn<3>& sizes, std::vector<Finding>& out)
        : part_(part), sizes_(sizes), out_(out), length_(study.units.label(dimension::length)) {}

    void run() {
        find_thin();
        find_short_edges();
        find_narrow_faces();
        find_sharp_edges();
        find_bends();
        find_unnamed();
    }

  private:
    void add(std::string kind, double value, std::string text, std::vector<Vec3> spots) {
        out_.push_back({std::move(kind), std::move(text), {}, value, std::nullopt, std::move(spots)});
    }

    /// Walls and gaps that are thin beside the part, the thinnest of each two names.
    void find_thin() {
        const double wide = std::cbrt(measure(part_).size);
        std::set<std::string> told;
        for (const auto& p : thin_places(part_)) {
            if (p.width() > wide / 3 || told.size() >= most_of_each) return;
            const std::string a = part_.name_of_face(p.face_a), b = part_.name_of_face(p.face_b);
            const std::string between = a == b ? "two sides of " + a : std::min(a, b) + " and " + std::max(a, b);
            if (!told.insert((p.body < 0 ? "gap " : "") + between).second) continue;
            const Vec3 middle = (p.a + p.b) * 0.5;
            if (p.body < 0) {
                add("gap", p.width(),
                    fmt::format("narrowest gap: {} {} between {}, at {}", sensible(p.width()), length_, between,
                                told_point(middle)),
                    {p.a, p.b});
                continue;
            }
            const auto& body = part_.bodies[static_cast<std::size_t>(p.body)];
            const double across = elements_across(sizes_, p.a, p.b);
            add("narrow", p.width(),
                fmt::format("thinnest wall of {}: {} {} between {}, at {}; the sizes put {} elements across{}",
                            part_.regions[static_cast<std::size_t>(body.region)], sensible(p.width()), length_, between,
                            told_point(middle), sensible(across, 2),
                            across < few_across ? fmt::format(": too few, ask for {} or less there",
                                                              sensible(p.width() / few_across, 2))
                                                : ""),
                {p.a, p.b});
            out_.back().elements_across = across;
        }
    }

    void find_short_edges() {
        std::vector<std::pair<double, std::size_t>> lengths;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) lengths.emplace_back(part_.edges[e].curve.length(), e);
        std::sort(lengths.begin(), lengths.end());
        for (std::size_t k = 0; k < std::min(lengths.size(), most_of_each); ++k) {
            const auto& [length, e] = lengths[k];
            if (length > short_share * sizes_.global()) return;
            add("short edge", length,
                fmt::format("short edge: {} {} at {}, where elements are to be {} {}", sensible(length), length_,
                            told_point(part_.edges[e].curve.point(0.5)), sensible(sizes_.global(), 3), length_),
                {part_.edges[e].curve.point(0.5)});
        }
    }

    /// Faces so narrow beside the wanted size that elements along them are needles, or needlessly small.
    void find_narrow_faces() {
        std::vector<std::pair<double, std::size_t>> widths;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            double round = 0;
            for (const auto& loop : part_.faces[f].loops)
                for (const auto& use : loop) round += part_.edge(use.edge).curve.length();
            // Twice the area over what goes round it: of a long strip its width.
            if (round > 0) widths.emplace_back(2 * measure_face(part_, f).size / round, f);
        }
        std::sort(widths.begin(), widths.end());
        const BodyFinder finder(part_);
        for (std::size_t k = 0; k < std::min(widths.size(), most_of_each); ++k) {
            const auto& [width, f] = widths[k];
            if (width > short_share * sizes_.global()) return;
            const auto places = finder.places_on(f, 4);
            const Vec3 at = places.empty() ? measure_face(part_, f).centroid
                                           : part_.faces[f].surface.point(places[places.size() / 2]);
            add("narrow face", width,
                fmt::format("narrow face: {} is about {} {} wide, at {}, where elements are to be {} {}",
                            part_.name_of_face(static_cast<int>(f)), sensible(width, 3), length_, told_point(at),
                            sensible(sizes_.global(), 3), length_),
                {at});
        }
    }

    /// Material between two faces that meet at a small angle: its elements are as sharp.
    void find_sharp_edges() {
        const EdgeFaces faces(part_);
        struct Sharp {
            double angle;
            std::size_t edge;
            int a, b;
        };
        std::vector<Sharp> found;
        for (std::size_t e = 0; e < part_.edges.size(); ++e)
            for (const auto& w : faces.wedges(e, 0.5))
                if (w.body >= 0 && w.first != w.last && w.angle < sharp_edge_angle)
                    found.push_back({w.angle, e, w.first, w.last});
        std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.angle < b.angle; });
        for (std::size_t k = 0; k < std::min(found.size(), most_of_each); ++k) {
            const double degrees = found[k].angle * 180 / std::numbers::pi;
            const Vec3 at = part_.edges[found[k].edge].curve.point(0.5);
            add("sharp edge", degrees,
                fmt::format("sharp edge: {} and {} meet at {}°, at {}; elements there cannot be better",
                            part_.name_of_face(found[k].a), part_.name_of_face(found[k].b), sensible(degrees, 2),
                            told_point(at)),
                {at});
        }
    }

    void find_bends() {
        std::vector<std::pair<double, std::size_t>> bends;
        std::vector<Vec3> there(part_.faces.size());
        const BodyFinder finder(part_);
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            double least = INFINITY;
            for (const Vec2& at : finder.places_on(f, 4))
                for (const double r : part_.faces[f].surface.curvature_radii(at)) {
                    if (std::fabs(r) >= least) continue;
                    least = std::fabs(r);
                    there[f] = part_.faces[f].surface.point(at);
                }
            if (least < bent_share * sizes_.global()) bends.emplace_back(least, f);
        }
        std::sort(bends.begin(), bends.end());
        std::set<std::string> told;  // of a name once
        for (std::size_t k = 0; k < bends.size() && told.size() < most_of_each; ++k) {
            if (!told.insert(part_.name_of_face(static_cast<int>(bends[k].second))).second) continue;
            add("bend", bends[k].first,
                fmt::format("tight bend: radius {} {} of {}, about {}", sensible(bends[k].first), length_,
                            part_.name_of_face(static_cast<int>(bends[k].second)),
                            told_point(measure_face(part_, bends[k].second).centroid)),
                {there[bends[k].second]});
        }
    }

    void find_unnamed() {
        std::size_t count = 0;
        double area = 0, whole = 0;
        std::optional<std::size_t> first;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (part_.faces[f].interior()) continue;
            const double own = measure_face(part_, f).size;
            whole += own;
            if (!part_.faces[f].names.empty()) continue;
            ++count;
            area += own;
            if (!first) first = f;
        }
        if (count == 0) return;
        add("no name", area,
            fmt::format("{} face{} of the outside {} no name: {} of {} {}², the first about {}", count,
                        count == 1 ? "" : "s", count == 1 ? "has" : "have", sensible(area), sensible(whole), length_,
                        told_point(measure_face(part_, *first).centroid)),
            {});
    }

    const SolidPart& part_;
    const SizeFieldIn<3>& sizes_;
    std::vector<Finding>& out_;
    std::string length_;
};

void suggest(const Study& study, const SolidPart& part, PartReport& out) {
    SizeSuggestion& s = out.suggestion;
    s = suggested_by(out.findings, suggested_size(part), "an eighth of the cube root of the volume", few_across,
                     "the thinnest wall, which is {} {} thick", study.units.label(dimension::length));
    SizeSpec spec = study.sizes;
    spec.global = s.size;
    s.elements = estimate_elements(part, sizing_of(part, spec, study.path).field,
                                   plainly_too_many * static_cast<double>(study.sizes.most_elements));
}

}  // namespace

PartReport inspect_solid(const Study& study, const SolidPart& part) {
    PartReport out;
    SolidReport solid;
    solid.size = part.box.size();
    solid.volume = measure(part);
    solid.faces = part.faces.size();
    solid.edges = part.edges.size();
    solid.bodies = part.bodies.size();
    std::vector<double> areas;
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        areas.push_back(measure_face(part, f).size);
        if (!part.faces[f].interior()) solid.surface += areas.back();
    }
    for (std::size_t r = 0; r < part.regions.size(); ++r) {
        SolidReport::Region region{part.regions[r], {}, 0, {}};
        for (std::size_t b = 0; b < part.bodies.size(); ++b)
            if (part.bodies[b].region == static_cast<int>(r)) region.volume += measure_body(part, b).size;
        if (const MaterialSpec* m = material_of(study, part.regions[r])) {
            region.material = m->name;
            if (m->density) region.mass = study.units.to_si(*m->density * region.volume, dimension::mass);
        }
        solid.regions.push_back(std::move(region));
    }
    for (std::size_t n = 0; n < part.boundary_names.size(); ++n) {
        SolidReport::Boundary boundary{part.boundary_names[n], 0, 0};
        for (std::size_t f = 0; f < part.faces.size(); ++f) {
            const auto& names = part.faces[f].names;
            if (std::find(names.begin(), names.end(), static_cast<int>(n)) == names.end()) continue;
            ++boundary.faces;
            boundary.area += areas[f];
        }
        solid.boundaries.push_back(std::move(boundary));
    }
    for (const auto& name : part.edge_names) {
        const auto edges = part.edges_named({name});
        double length = 0;
        for (const int e : edges) length += part.edge(e).curve.length();
        solid.named_edges.push_back({name, edges.size(), length});
    }
    if (std::all_of(solid.regions.begin(), solid.regions.end(), [](const auto& r) { return r.mass.has_value(); })) {
        out.mass = 0;
        for (const auto& r : solid.regions) *out.mass += *r.mass;
    }
    if (exponents_are_known(study, part)) {
        auto edges = singular_edges(part, study);
        std::stable_sort(edges.begin(), edges.end(),
                         [](const auto& a, const auto& b) { return a.exponent < b.exponent; });
        for (const auto& p : edges) {
            Finding f{"singular", "", {}, p.exponent, std::nullopt};
            if (!p.edges.empty()) f.spots = {p.edges.front().point(0.5)};
            f.text = fmt::format("{} at {}: the exact {} is infinite, it rises as r^{:.2f}; {}", p.cause, told_place(p),
                                 p.of_potential ? "flux" : "stress", p.exponent - 1, advice_for(p.kind));
            out.findings.push_back(std::move(f));
        }
    }
    const auto sizing = sizing_of(part, study.sizes, study.path);
    SolidFindings(study, part, sizing.field, out.findings).run();
    const std::vector<double> weights(part.bodies.size(), 1);
    solid.moments = moments_about(part, solid.volume.centroid, weights);
    solid.principal = principal_axes(solid.moments);
    solid.tightest = tightest_box(part, solid.principal.axes);
    out.unused_names = unused_boundary_names(study, part, names_given(part, part.faces));
    out.global_size = sizing.field.global();
    out.estimated_elements =
        estimate_elements(part, sizing.field, plainly_too_many * static_cast<double>(study.sizes.most_elements));
    suggest(study, part, out);
    out.solid = std::move(solid);
    return out;
}

bool exponents_are_known(const Study& study, const PartNames& part) {
    return std::all_of(part.regions.begin(), part.regions.end(), [&](const std::string& r) {
        const MaterialSpec* m = material_of(study, r);
        return m && (!study.elastic() || m->elastic());
    });
}

std::string solid_sentence(const PartReport& r, const std::string& length) {
    const SolidReport& s = *r.solid;
    const auto coordinate = [&](std::size_t k) {
        return sensible(without_rounding(s.volume.centroid[k], norm(s.size)));
    };
    return fmt::format("{} × {} × {} {}, volume {} {}³, outside {} {}², centroid ({}, {}, {}) {}{}.",
                       sensible(s.size[0]), sensible(s.size[1]), sensible(s.size[2]), length,
                       sensible(s.volume.size, 6), length, sensible(s.surface, 6), length, coordinate(0), coordinate(1),
                       coordinate(2), length, r.mass ? fmt::format(", mass {} kg", sensible(*r.mass)) : "");
}

}  // namespace dotsift
