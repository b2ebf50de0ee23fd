#include "part/solid/left_out.hpp"

#include <algorithm>

#include "part/solid/placed_solid.hpp"
#include "part/solid/solid_box.hpp"

namespace dotsift {

SolidPart without_regions(const SolidPart& part, const std::vector<std::string>& patterns) {
    const auto gone = part.regions_named(patterns);
    SolidPart out;
    out.boundary_names = part.boundary_names;
    out.edge_names = part.edge_names;
    const auto leaves = [&](int region) { return std::find(gone.begin(), gone.end(), region) != gone.end(); };
    std::vector<int> body_now(part.bodies.size(), -1), edge_now(part.edges.size(), -1),
        vertex_now(part.vertices.size(), -1);
    for (std::size_t b = 0; b < part.bodies.size(); ++b) {
        if (leaves(part.bodies[b].region)) continue;
        body_now[b] = static_cast<int>(out.bodies.size());
        out.bodies.push_back({out.region_index(part.regions[static_cast<std::size_t>(part.bodies[b].region)])});
    }
    const auto vertex = [&](int v) {
        int& now = vertex_now[static_cast<std::size_t>(v)];
        if (now < 0) {
            now = static_cast<int>(out.vertices.size());
            out.vertices.push_back(part.vertices[static_cast<std::size_t>(v)]);
        }
        return now;
    };
    const auto body = [&](int b) { return b < 0 ? -1 : body_now[static_cast<std::size_t>(b)]; };
    for (SolidFace f : part.faces) {
        f.behind = body(f.behind);
        f.before = body(f.before);
        if (f.behind < 0 && f.before < 0) continue;
        for (auto& loop : f.loops)
            for (auto& use : loop) {
                int& now = edge_now[static_cast<std::size_t>(use.edge)];
                if (now < 0) {
                    now = static_cast<int>(out.edges.size());
                    SolidEdge e = part.edge(use.edge);
                    e.start = vertex(e.start);
                    e.end = vertex(e.end);
                    out.edges.push_back(std::move(e));
                }
                use.edge = now;
            }
        for (int& mark : f.marks) mark = vertex(mark);
        if (f.behind < 0) turn_over(f);  // it looks out of what is left
        out.faces.push_back(std::move(f));
    }
    for (const auto& p : part.points)
        if (const int now = vertex_now[static_cast<std::size_t>(p.vertex)]; now >= 0)
            out.points.push_back({p.name, now});
    out.box = box_of(out);
    return out;
}

}  // namespace dotsift
