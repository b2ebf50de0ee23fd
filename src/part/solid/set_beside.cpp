#include "part/solid/set_beside.hpp"

#include <algorithm>
#include <utility>

#include "base/errors.hpp"

namespace dotsift {

namespace {

bool apart(const Box<3>& a, const Box<3>& b) {
    for (std::size_t k = 0; k < 3; ++k)
        if (a.low[k] > b.high[k] || b.low[k] > a.high[k]) return true;
    return false;
}

/// The index of a name of edges, made if it is new.
int edge_name(SolidPart& part, const std::string& name) {
    const auto at = std::find(part.edge_names.begin(), part.edge_names.end(), name) - part.edge_names.begin();
    if (at == static_cast<std::ptrdiff_t>(part.edge_names.size())) part.edge_names.push_back(name);
    return static_cast<int>(at);
}

}  // namespace

void append_solid(SolidPart& part, const SolidPart& solid, const std::string& region) {
    const int vertices = static_cast<int>(part.vertices.size()), edges = static_cast<int>(part.edges.size()),
              bodies = static_cast<int>(part.bodies.size());
    part.vertices.insert(part.vertices.end(), solid.vertices.begin(), solid.vertices.end());
    for (SolidEdge e : solid.edges) {
        e.start += vertices;
        e.end += vertices;
        for (int& n : e.names) n = edge_name(part, solid.edge_names[static_cast<std::size_t>(n)]);
        part.edges.push_back(std::move(e));
    }
    for (SolidFace f : solid.faces) {
        for (auto& loop : f.loops)
            for (auto& use : loop) use.edge += edges;
        for (int* body : {&f.behind, &f.before})
            if (*body >= 0) *body += bodies;
        for (int& mark : f.marks) mark += vertices;
        const auto names = std::exchange(f.names, {});
        for (const int n : names) part.add_name(solid.boundary_names[static_cast<std::size_t>(n)], f.names);
        part.faces.push_back(std::move(f));
    }
    for (const auto& b : solid.bodies)
        part.bodies.push_back(
            {part.region_index(region.empty() ? solid.regions[static_cast<std::size_t>(b.region)] : region)});
    for (const auto& p : solid.points) part.points.push_back({p.name, p.vertex + vertices});
    part.box.add(solid.box);
}

bool has_facets(const SolidPart& part) {
    return std::any_of(part.faces.begin(), part.faces.end(),
                       [](const SolidFace& f) { return f.surface.kind() == Surface::Kind::facets; });
}

bool any_has_facets(const std::vector<SolidStep>& steps) {
    return std::any_of(steps.begin(), steps.end(),
                       [](const SolidStep& s) { return std::any_of(s.copies.begin(), s.copies.end(), has_facets); });
}

CombinedSolids set_beside(const std::vector<SolidStep>& steps, const std::vector<std::string>& known_regions) {
    CombinedSolids out;
    out.part.regions = known_regions;
    out.traces.assign(steps.size(), {true, true});
    std::vector<Box<3>> boxes;
    for (const auto& step : steps)
        for (const auto& copy : step.copies) {
            const bool meets =
                std::any_of(boxes.begin(), boxes.end(), [&](const auto& b) { return !apart(b, copy.box); });
            if (step.kind != StepRule::Kind::add || meets)
                throw InputError("solids from facets cannot be combined with others, only stand beside them", {},
                                 "combine them where the files come from, or take STEP files");
            boxes.push_back(copy.box);
            append_solid(out.part, copy, step.region);
        }
    return out;
}

}  // namespace dotsift
