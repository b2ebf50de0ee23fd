#include "part/part.hpp"

#include <algorithm>

#include "part/face_finder.hpp"

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

void Part::update_box() {
    box = {};
    for (const auto& e : edges) box.add(e.curve.box());
}

}  // namespace dotsift
