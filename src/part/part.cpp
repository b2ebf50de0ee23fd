#include "part/part.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "part/face_finder.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

double Part::area() const {
    double sum = 0;
    for (std::size_t f = 0; f < faces.size(); ++f) sum += area_of_face(f);
    return sum;
}

double Part::area_of_face(std::size_t face) const {
    double twice = 0;
    for (const auto& loop : faces[face].loops) {
        if (loop.empty()) continue;
        const Vec2 about = edge(loop.front().edge).curve.start();
        for (const auto& use : loop) twice += edge(use.edge).curve.twice_area(about) * (use.forward ? 1 : -1);
    }
    return twice / 2;
}

int Part::vertex_at(const Vec2& p) const {
    for (std::size_t v = 0; v < vertices.size(); ++v)
        if (distance(vertices[v], p) <= same_point_share * box.diagonal()) return static_cast<int>(v);
    return -1;
}

std::vector<int> Part::points_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (const auto& p : points)
        if (fits_any(p.name, patterns)) list.push_back(p.vertex);
    return list;
}

std::vector<int> Part::edges_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (std::size_t e = 0; e < edges.size(); ++e)
        if (std::any_of(edges[e].names.begin(), edges[e].names.end(),
                        [&](int n) { return fits_any(boundary_names[static_cast<std::size_t>(n)], patterns); }))
            list.push_back(static_cast<int>(e));
    return list;
}

std::vector<int> Part::regions_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (std::size_t r = 0; r < regions.size(); ++r)
        if (fits_any(regions[r], patterns)) list.push_back(static_cast<int>(r));
    return list;
}

int Part::boundary_name(const std::string& name) {
    const auto found = std::find(boundary_names.begin(), boundary_names.end(), name);
    if (found != boundary_names.end()) return static_cast<int>(found - boundary_names.begin());
    boundary_names.push_back(name);
    return static_cast<int>(boundary_names.size()) - 1;
}

void Part::name_edge(int e, const std::string& name) {
    const int n = boundary_name(name);
    auto& list = edges[static_cast<std::size_t>(e)].names;
    if (std::find(list.begin(), list.end(), n) == list.end()) list.push_back(n);
}

int Part::face_at(const Vec2& p) const {
    for (std::size_t f = 0; f < faces.size(); ++f)
        if (rays_of(*this, faces[f]).inside(p)) return static_cast<int>(f);
    return -1;
}

bool Part::holds(const Vec2& p, double tolerance) const {
    return FaceFinder(*this).holds(p, tolerance);
}

Vec2 Part::point_inside(std::size_t face) const {
    const RayCaster rays = rays_of(*this, faces[face]);
    Box2 around;
    for (const auto& use : faces[face].loops.front()) around.add(edge(use.edge).curve.box());
    Vec2 best = around.centre();
    double widest = -1;
    for (const double share : {0.5, 0.31, 0.69, 0.13, 0.87, 0.03, 0.97, 0.003, 0.997}) {
        const double y = around.low[1] + around.size()[1] * share;
        std::vector<double> crossings;
        rays.cast({{around.low[0] - around.diagonal(), y}}, [&](const RayCaster::Hit& h) { crossings.push_back(h.x); });
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t k = 1; k < crossings.size(); k += 2) {
            if (!(crossings[k] - crossings[k - 1] > widest)) continue;
            widest = crossings[k] - crossings[k - 1];
            best = {{0.5 * (crossings[k] + crossings[k - 1]), y}};
        }
    }
    return best;
}

std::string Part::name_of_edge(int e) const {
    const auto& names = edge(e).names;
    return names.empty() ? fmt::format("edge {}", e + 1)
                         : fmt::format("\"{}\"", boundary_names[static_cast<std::size_t>(names.front())]);
}

void Part::update_box() {
    box = {};
    for (const auto& e : edges) box.add(e.curve.box());
}

}  // namespace dotsift
