#include "inspect/inspect_solid.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/numbers.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_names.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/singular/singular_edges.hpp"

namespace dotsift {

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
    // The exponents depend on the materials.
    if (std::all_of(part.regions.begin(), part.regions.end(),
                    [&](const std::string& r) { return material_of(study, r); })) {
        auto edges = singular_edges(part, study);
        std::stable_sort(edges.begin(), edges.end(),
                         [](const auto& a, const auto& b) { return a.exponent < b.exponent; });
        for (const auto& p : edges) {
            Finding f{"singular", "", {}, p.exponent, std::nullopt};
            f.text = fmt::format("{} at {}: the exact {} is infinite, it rises as r^{:.2f}; {}", p.cause, told_place(p),
                                 p.of_potential ? "flux" : "stress", p.exponent - 1, advice_for(p.kind));
            out.findings.push_back(std::move(f));
        }
    }
    out.unused_names = unused_boundary_names(study, part, names_given(part, part.faces));
    const auto sizing = sizing_of(part, study.sizes, study.path);
    out.global_size = sizing.field.global();
    out.estimated_elements =
        estimate_elements(part, sizing.field, plainly_too_many * static_cast<double>(study.sizes.most_elements));
    out.solid = std::move(solid);
    return out;
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
