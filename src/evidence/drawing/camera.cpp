#include "evidence/drawing/camera.hpp"

#include <cmath>

namespace dotsift {

Camera Camera::from(const Vec3& direction) {
    constexpr double upright = 1e-6;  // nearer to z there is no up
    Camera c;
    c.eye = direction / norm(direction);
    const Vec3 z = std::hypot(c.eye[0], c.eye[1]) > upright ? Vec3{{0, 0, 1}} : Vec3{{0, 1, 0}};
    const Vec3 right = cross(z, c.eye);
    c.right = right / norm(right);
    c.up = cross(c.eye, c.right);
    return c;
}

const std::vector<Camera>& common_views() {
    static const std::vector<Camera> views = [] {
        std::vector<Camera> out;
        // No two axes are shortened alike, so that a cube's corners do not fall on each other.
        constexpr double side = 0.5, front = 0.8, above = 0.6;
        for (const double z : {above, -above})
            for (const Vec3& d :
                 {Vec3{{side, -front, z}}, Vec3{{-front, -side, z}}, Vec3{{-side, front, z}}, Vec3{{front, side, z}}})
                out.push_back(Camera::from(d));
        return out;
    }();
    return views;
}

}  // namespace dotsift
