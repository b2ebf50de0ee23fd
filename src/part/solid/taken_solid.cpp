#include "part/solid/taken_solid.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/parallel.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/placed_solid.hpp"

namespace dotsift {

namespace {

constexpr double looked_beside = 1e-4, in_slivers = 1e-6;  // of the part's size
constexpr double stray_share = 5e-4;  // of the part's size: farther from its surface no edge may lie
constexpr int looked_along = 4, looked_along_of_many = 2;
constexpr std::size_t many_faces = 600;

}  // namespace

SolidPart taken_solid(const SolidKernelResult& made, int cell,
                      const std::function<const Surface&(const KernelFace&)>& surface_of) {
    SolidPart part;
    part.bodies.push_back({0});
    std::vector<int> edge_now(made.edges.size(), -1), vertex_now(made.vertices.size(), -1);
    const auto vertex = [&](int v) {
        int& now = vertex_now[static_cast<std::size_t>(v)];
        if (now < 0) {
            now = static_cast<int>(part.vertices.size());
            part.vertices.push_back(made.vertices[static_cast<std::size_t>(v)]);
        }
        return now;
    };
    for (const auto& f : made.faces) {
        if (f.behind != cell && f.before != cell) continue;
        SolidFace face;
        face.surface = surface_of(f);
        face.loops = f.loops;
        for (auto& loop : face.loops)
            for (auto& use : loop) {
                int& now = edge_now[static_cast<std::size_t>(use.edge)];
                if (now < 0) {
                    now = static_cast<int>(part.edges.size());
                    SolidEdge e = made.edges[static_cast<std::size_t>(use.edge)];
                    e.start = vertex(e.start);
                    e.end = vertex(e.end);
                    e.curve.set_ends(part.vertices[static_cast<std::size_t>(e.start)],
                                     part.vertices[static_cast<std::size_t>(e.end)]);
                    part.edges.push_back(std::move(e));
                }
                use.edge = now;
            }
        face.behind = f.behind == cell ? 0 : -1;
        face.before = f.before == cell ? 0 : -1;
        if (dot(face.surface.normal(face.surface.project(f.at)), f.normal) < 0)
            face.surface = face.surface.turned_over();
        if (face.behind < 0) turn_over(face);
        part.faces.push_back(std::move(face));
    }
    return part;
}

namespace {

/// An edge that does not lie on the surface of a face that it bounds.
std::string stray_edge(const SolidPart& part) {
    std::vector<std::string> found(part.faces.size());
    in_parallel(part.faces.size(), [&](std::size_t f) {
        const Surface& s = part.faces[f].surface;
        for (const auto& loop : part.faces[f].loops)
            for (const auto& use : loop)
                for (const double t : {0.0, 0.21, 0.5, 0.83}) {
                    const Vec3 p = part.edge(use.edge).curve.point(t);
                    if (distance(s.point(s.project(p)), p) <= stray_share * part.box.diagonal()) continue;
                    found[f] = fmt::format("its faces do not meet near ({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
                    return;
                }
    });
    for (auto& fault : found)
        if (!fault.empty()) return std::move(fault);
    return {};
}

}  // namespace

std::string fault_of(const SolidPart& part) {
    std::vector<int> balance(part.edges.size(), 0);
    for (const auto& f : part.faces)
        for (const auto& loop : f.loops)
            for (const auto& use : loop) balance[static_cast<std::size_t>(use.edge)] += use.forward ? 1 : -1;
    if (std::any_of(balance.begin(), balance.end(), [](int n) { return n != 0; })) return "it is not closed";
    if (!(measure(part).size > 0)) return "nothing would be left";
    if (auto fault = stray_edge(part); !fault.empty()) return fault;
    const BodyFinder finder(part);
    const int along = part.faces.size() > many_faces ? looked_along_of_many : looked_along;
    std::vector<std::string> found(part.faces.size());
    in_parallel(part.faces.size(), [&](std::size_t f) {
        const Surface& s = part.faces[f].surface;
        for (const Vec2& at : finder.places_on(f, along)) {
            const Vec3 p = s.point(at), normal = s.normal(at) * part.box.diagonal();
            const auto right = [&](double beside) {
                return finder(p - normal * beside) == 0 && finder(p + normal * beside) == -1;
            };
            if (right(looked_beside) || right(in_slivers)) continue;
            found[f] = fmt::format("its faces would cross each other near ({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
            return;
        }
    });
    for (auto& fault : found)
        if (!fault.empty()) return std::move(fault);
    return {};
}

}  // namespace dotsift
