#include "inspect/inspect.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "base/numbers.hpp"
#include "inspect/inspect_solid.hpp"
#include "mesh/plane/generate.hpp"
#include "part/shapes/corners.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/singular/singular_points.hpp"

namespace dotsift {

namespace {

constexpr double few_elements_across = 2;    // a wall with fewer elements cannot show how a field changes through it
constexpr double short_edge_share = 0.25;    // of the element size wanted there
constexpr double straight_angle = 175;       // degrees: not worth telling
constexpr double sharp_angle = 30;           // degrees of material
constexpr double tight_radius_share = 0.25;  // of the element size wanted there, without the curvature rule
constexpr std::size_t most_of_a_kind = 6;

std::string spot(const Vec2& p) {
    return fmt::format("({}, {})", sensible(p[0]), sensible(p[1]));
}

std::string region_of(const Part& part, int face) {
    return part.regions[static_cast<std::size_t>(part.faces[static_cast<std::size_t>(face)].region)];
}

/// Elements that the sizes put on the way from a to b.
double elements_between(const SizeField& sizes, const Vec2& a, const Vec2& b) {
    constexpr int steps = 32;
    double sum = 0;
    for (int k = 0; k < steps; ++k) sum += distance(a, b) / steps / sizes.at(a + (b - a) * ((k + 0.5) / steps));
    return sum;
}

class Inspector {
  public:
    explicit Inspector(const StudyAndPart& opened)
        : opened_(opened),
          study_(opened.study),
          part_(opened.part),
          sizing_(sizing_of(part_, study_.sizes, study_.path)),
          sizes_(sizing_.field) {
        length_ = study_.units.label(dimension::length);
    }

    PartReport run() {
        count();
        measure_regions();
        measure_boundaries();
        find_narrow();
        find_short_edges();
        find_sharp_corners();
        find_singular();
        find_tight_bends();
        find_unnamed();
        for (const auto& item : opened_.cleanup)
            if (!item.done) out_.findings.push_back({"kept", item.what, {item.at}, 0, std::nullopt});
        out_.unused_names = unused_names(study_, part_);
        constexpr double enough = 1e9;
        out_.global_size = sizes_.global();
        out_.estimated_elements = estimate_elements(part_, sizing_, enough);
        suggest(enough);
        if (opened_.original) out_.before_cleanup = measure(*opened_.original);
        return std::move(out_);
    }

  private:
    /// What is rounding beside the part's size is nothing.
    void tidy(AreaMeasures& m) const {
        constexpr double rounding = 1e-12;
        for (std::size_t axis = 0; axis < 2; ++axis)
            if (std::fabs(m.centroid[axis]) < rounding * part_.box.diagonal()) m.centroid[axis] = 0;
        if (std::fabs(m.ixy) < rounding * (m.ixx + m.iyy)) m.ixy = 0;
    }

    void count() {
        out_.low = part_.box.low;
        out_.high = part_.box.high;
        for (auto* corner : {&out_.low, &out_.high})
            for (auto& x : corner->c)
                if (std::fabs(x) < 1e-12 * part_.box.diagonal()) x = 0;
        out_.measures = measure(part_);
        tidy(out_.measures);
        out_.principal = principal_moments(out_.measures);
        out_.vertices = part_.vertices.size();
        for (const auto& e : part_.edges) {
            if (e.interior()) ++out_.interior_edges;
            switch (e.curve.kind()) {
                case Curve::Kind::line:
                    ++out_.lines;
                    break;
                case Curve::Kind::arc:
                    ++out_.arcs;
                    break;
                case Curve::Kind::spline:
                    ++out_.splines;
                    break;
                case Curve::Kind::chain:
                    ++out_.chains;
                    break;
            }
        }
        for (const auto& f : part_.faces)
            for (std::size_t l = 1; l < f.loops.size(); ++l)
                if (std::all_of(f.loops[l].begin(), f.loops[l].end(),
                                [&](const EdgeUse& u) { return !part_.edge(u.edge).interior(); }))
                    ++out_.holes;
    }

    void measure_regions() {
        double mass = 0;
        bool known = true;
        for (std::size_t r = 0; r < part_.regions.size(); ++r) {
            RegionReport report;
            report.name = part_.regions[r];
            std::vector<std::size_t> faces;
            for (std::size_t f = 0; f < part_.faces.size(); ++f)
                if (part_.faces[f].region == static_cast<int>(r)) faces.push_back(f);
            report.pieces = faces.size();
            report.measures = measure_faces(part_, faces);
            tidy(report.measures);
            const MaterialSpec* m = material_of(study_, report.name);
            if (m) report.material = m->name;
            const auto& thickness = study_.thickness_in(report.name).constant;
            if (m && m->density && (thickness || study_.plane == Plane::axisymmetric)) {
                // Of a body of revolution the volume is the area times the way of its centroid (Pappus).
                const double depth = study_.plane == Plane::axisymmetric
                                         ? 2 * std::numbers::pi * report.measures.centroid[0]
                                         : *thickness;
                report.mass = study_.units.to_si(*m->density * report.measures.area * depth, dimension::mass);
                mass += *report.mass;
            } else {
                known = false;
            }
            out_.regions.push_back(std::move(report));
        }
        if (known) out_.mass = mass;
    }

    void measure_boundaries() {
        for (const auto& name : part_.boundary_names) out_.boundaries.push_back({name, 0, 0});
        for (const auto& e : part_.edges)
            for (const int n : e.names) {
                auto& b = out_.boundaries[static_cast<std::size_t>(n)];
                b.length += e.curve.length();
                ++b.edges;
            }
    }

    void find_narrow() {
        for (const auto& place : narrow_places(part_)) {
            Finding f;
            f.value = place.width();
            f.places = {place.a, place.b};
            const std::string first = part_.name_of_edge(place.edge_a), second = part_.name_of_edge(place.edge_b);
            const std::string between =
                first == second ? fmt::format("two sides of {}", first) : fmt::format("{} and {}", first, second);
            if (place.face < 0) {
                f.kind = "gap";
                f.text = fmt::format("narrowest gap: {} {} between {}, at {}", sensible(f.value), length_, between,
                                     spot((place.a + place.b) * 0.5));
            } else {
                f.kind = "narrow";
                f.elements_across = elements_between(sizes_, place.a, place.b);
                const std::string region = region_of(part_, place.face);
                f.text = fmt::format(
                    "narrowest place of {}: {} {} between {}, at {}; the sizes put {} element{} across{}", region,
                    sensible(f.value), length_, between, spot((place.a + place.b) * 0.5),
                    sensible(*f.elements_across, 2), *f.elements_across == 1 ? "" : "s",
                    *f.elements_across < few_elements_across
                        ? fmt::format(": too few, ask for {} or less there", sensible(f.value / few_elements_across, 2))
                        : "");
            }
            out_.findings.push_back(std::move(f));
        }
        std::stable_sort(out_.findings.begin(), out_.findings.end(),
                         [](const Finding& a, const Finding& b) { return a.value < b.value; });
        if (out_.findings.size() > most_of_a_kind) out_.findings.resize(most_of_a_kind);
    }

    void find_short_edges() {
        std::vector<std::pair<double, std::size_t>> lengths;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) lengths.emplace_back(part_.edges[e].curve.length(), e);
        std::sort(lengths.begin(), lengths.end());
        // The element size is taken as if the edge were not there to ask for small ones.
        for (std::size_t k = 0; k < std::min(lengths.size(), most_of_a_kind); ++k) {
            const auto& [length, e] = lengths[k];
            const Vec2 at = part_.edges[e].curve.point(0.5);
            const double wanted = std::min(sizes_.at(part_.edges[e].curve.start()), sizes_.global());
            if (k > 0 && length >= short_edge_share * wanted) break;
            Finding f{"short edge", "", {at}, length, std::nullopt};
            f.text = fmt::format("{}: {} {} on {}, at {}{}", k == 0 ? "shortest edge" : "short edge", sensible(length),
                                 length_, part_.name_of_edge(static_cast<int>(e)), spot(at),
                                 length < short_edge_share * wanted
                                     ? fmt::format("; it forces elements far below the wanted {}", sensible(wanted, 3))
                                     : "");
            out_.findings.push_back(std::move(f));
        }
    }

    void find_sharp_corners() {
        struct Place {
            double angle;
            Vec2 at;
        };
        std::vector<Place> places;
        const auto angle = sharpest_angles(part_);
        for (std::size_t v = 0; v < angle.size(); ++v)
            if (angle[v] < straight_angle) places.push_back({angle[v], part_.vertices[v]});
        std::sort(places.begin(), places.end(), [](const Place& a, const Place& b) { return a.angle < b.angle; });
        for (std::size_t k = 0; k < std::min(places.size(), most_of_a_kind); ++k) {
            if (k > 0 && places[k].angle >= sharp_angle) break;
            Finding f{"sharp corner", "", {places[k].at}, places[k].angle, std::nullopt};
            f.text = fmt::format("{}: {}° of material at {}{}", k == 0 ? "smallest angle" : "sharp corner",
                                 sensible(places[k].angle, 3), spot(places[k].at),
                                 places[k].angle < sharp_angle ? "; elements there cannot have good shapes" : "");
            out_.findings.push_back(std::move(f));
        }
    }

    void find_singular() {
        if (!exponents_are_known(study_, part_)) return;
        auto points = singular_points(part_, study_);
        std::stable_sort(points.begin(), points.end(),
                         [](const auto& a, const auto& b) { return a.exponent < b.exponent; });
        for (std::size_t k = 0; k < std::min(points.size(), most_of_a_kind); ++k) {
            const auto& p = points[k];
            Finding f{"singular", "", {p.position}, p.exponent, std::nullopt};
            f.text = fmt::format("{} at {}: the exact {} is infinite{}; {}", p.cause, spot(p.position),
                                 p.of_potential ? "flux" : "stress",
                                 p.exponent > 0 ? fmt::format(", it rises as r^{:.2f}", p.exponent - 1) : "",
                                 advice_for(p.kind));
            if (k + 1 == most_of_a_kind && points.size() > most_of_a_kind)
                f.text += fmt::format(" ({} more such places)", points.size() - most_of_a_kind);
            out_.findings.push_back(std::move(f));
        }
    }

    void find_tight_bends() {
        double tightest = std::numeric_limits<double>::infinity();
        int edge = -1;
        Vec2 at;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            const Curve& c = part_.edges[e].curve;
            if (c.straight()) continue;
            const auto pieces = c.smooth_pieces();
            for (std::size_t i = 1; i < pieces.size(); ++i)
                for (int k = 0; k <= 8; ++k) {
                    const double t = pieces[i - 1] + (pieces[i] - pieces[i - 1]) * std::clamp(k / 8.0, 1e-6, 1 - 1e-6);
                    const double r = c.curvature_radius(t);
                    if (!(r < tightest * (1 - 1e-9))) continue;
                    tightest = r;
                    edge = static_cast<int>(e);
                    at = c.circular() ? c.point(0.5) : c.point(t);
                }
        }
        if (edge < 0) return;
        Finding f{"tight bend", "", {at}, tightest, std::nullopt};
        f.text = fmt::format(
            "tightest bend: radius {} {} on {}, at {}{}", sensible(tightest), length_, part_.name_of_edge(edge),
            spot(at),
            tightest < tight_radius_share * sizes_.global() ? "; a corner would do if no stress is read there" : "");
        out_.findings.push_back(std::move(f));
    }

    void find_unnamed() {
        std::vector<Vec2> places;
        double length = 0, whole = 0;
        for (const auto& e : part_.edges) {
            if (e.interior()) continue;
            whole += e.curve.length();
            if (!e.names.empty()) continue;
            length += e.curve.length();
            places.push_back(e.curve.point(0.5));
        }
        if (places.empty()) return;
        Finding f{"no name", "", {places.front()}, length, std::nullopt};
        f.text = fmt::format("{} edge{} of the outline {} no name: {} of {} {}, the first at {}", places.size(),
                             places.size() == 1 ? "" : "s", places.size() == 1 ? "has" : "have", sensible(length),
                             sensible(whole), length_, spot(places.front()));
        out_.findings.push_back(std::move(f));
    }

    void suggest(double enough) {
        auto& s = out_.suggestion;
        s = suggested_by(out_.findings, suggested_size(part_), "a twelfth of the square root of the area",
                         few_elements_across, "the narrowest place, which is {} {} wide", length_);
        SizeSpec spec = study_.sizes;
        spec.global = s.size;
        s.elements = estimate_elements(part_, sizing_of(part_, spec, study_.path), enough);
    }

    const StudyAndPart& opened_;
    const Study& study_;
    const Part& part_;
    const Sizing sizing_;
    const SizeField& sizes_;
    std::string length_;
    PartReport out_;
};

}  // namespace

SizeSuggestion suggested_by(const std::vector<Finding>& findings, double usual, std::string why, double elements,
                            const char* across, const std::string& length) {
    SizeSuggestion s{usual, std::move(why), 0};
    for (const auto& f : findings) {
        if (f.kind != "narrow" || f.value / elements >= s.size) continue;
        s.size = f.value / elements;
        s.reason = fmt::format("{} elements across ", sensible(elements, 1)) +
                   fmt::format(fmt::runtime(across), sensible(f.value, 3), length);
    }
    return s;
}

PartReport inspect_part(const StudyAndPart& opened) {
    if (opened.solid) return inspect_solid(opened.study, *opened.solid);
    return Inspector(opened).run();
}

}  // namespace dotsift
