#include "part/face_finder.hpp"

#include <algorithm>

namespace dotsift {

FaceFinder::FaceFinder(const Part& part) : part_(part) {
    rays_.reserve(part.faces.size());
    for (const auto& face : part.faces) rays_.push_back(rays_of(part, face));
    for (auto& rays : rays_) rays.prepare();
}

int FaceFinder::at(const Vec2& p) const {
    for (std::size_t f = 0; f < rays_.size(); ++f)
        if (rays_[f].inside(p)) return static_cast<int>(f);
    return -1;
}

bool FaceFinder::holds(const Vec2& p, double tolerance) const {
    return at(p) >= 0 || std::any_of(part_.edges.begin(), part_.edges.end(), [&](const PartEdge& e) {
               return e.curve.box().distance_to(p) <= tolerance &&
                      distance(e.curve.point(e.curve.project(p)), p) <= tolerance;
           });
}

RayCaster rays_of(const Part& part, const PartFace& face) {
    RayCaster rays;
    for (const auto& loop : face.loops)
        for (const auto& use : loop)
            if (part.edge(use.edge).left != part.edge(use.edge).right) rays.add(part.edge(use.edge).curve, use.edge);
    return rays;
}

}  // namespace dotsift
