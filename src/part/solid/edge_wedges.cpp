#include "part/solid/edge_wedges.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

EdgeFaces::EdgeFaces(const SolidPart& part) : part_(part), uses_(part.edges.size()) {
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const auto& loop : part.faces[f].loops)
            for (const EdgeUse& use : loop)
                uses_[static_cast<std::size_t>(use.edge)].push_back({static_cast<int>(f), use.forward});
}

std::vector<EdgeWedge> EdgeFaces::wedges(std::size_t edge, double t) const {
    const auto& curve = part_.edges[edge].curve;
    const Vec3 p = curve.point(t), d = curve.derivative(t);
    if (!(norm(d) > 0)) return {};
    const Vec3 along = d / norm(d);
    struct Ray {
        double angle;
        int face;
        int after, ahead;  ///< bodies as one goes round the edge: just past the face, and just short of it
    };
    std::vector<Ray> rays;
    Vec3 x{}, y{};
    for (const Use& use : uses_[edge]) {
        const SolidFace& face = part_.face(use.face);
        const Vec3 n = face.surface.normal(face.surface.project(p));
        Vec3 into = cross(n, use.forward ? along : -along);  // from the edge into the face
        const double length = norm(into);
        if (!(length > 0.5)) return {};
        into = into / length;
        if (rays.empty()) {
            x = into;
            y = cross(along, x);
        }
        const bool normal_past = dot(n, cross(along, into)) > 0;
        double angle = rays.empty() ? 0 : std::atan2(dot(into, y), dot(into, x));
        constexpr double same = 1e-9;  // radians: rounding is not to make a whole turn of nothing
        if (angle < -same) angle += 2 * std::numbers::pi;
        rays.push_back(
            {angle, use.face, normal_past ? face.before : face.behind, normal_past ? face.behind : face.before});
    }
    std::stable_sort(rays.begin(), rays.end(), [](const Ray& a, const Ray& b) { return a.angle < b.angle; });
    std::vector<EdgeWedge> out;
    for (std::size_t k = 0; k < rays.size(); ++k) {
        const Ray &a = rays[k], &b = rays[(k + 1) % rays.size()];
        double angle = b.angle - a.angle;
        if (k + 1 == rays.size()) angle += 2 * std::numbers::pi;
        if (a.after != b.ahead) return {};  // faces that touch along the edge, and rounding has changed their places
        out.push_back({a.after, a.face, b.face, angle});
    }
    return out;
}

}  // namespace dotsift
