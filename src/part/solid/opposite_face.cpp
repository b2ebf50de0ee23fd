#include "part/solid/opposite_face.hpp"

#include <cmath>
#include <numbers>

namespace dotsift {

namespace {

const double least_opposite = std::cos(35 * std::numbers::pi / 180);
constexpr double tilt = 2e-3;  // so much off the normal; a ray is longer by 2e-6 of its length

Vec3 along_way(const Vec3& n, const Vec3& way) {
    return dot(n, way) > 0 ? n : -n;
}

}  // namespace

bool look_at_each_other(const Vec3& normal, const Vec3& other, const Vec3& way) {
    return dot(along_way(normal, way), along_way(other, way)) >= least_opposite;
}

std::optional<OppositePlace> opposite_of(const SolidPart& part, const BodyFinder& finder, const Vec3& from,
                                         const Vec3& way, int body) {
    const Vec3 across = cross(way, std::fabs(way[0]) < 0.7 ? Vec3{{1, 0, 0}} : Vec3{{0, 1, 0}}),
               beside = (across + cross(way, across)) * (tilt / norm(across));
    const Vec3 along = (way + beside) / norm(way + beside), start = from + along * (clear_share * part.box.diagonal());
    const auto first = finder.first_crossing(start, along);
    if (!first) return {};
    const SolidFace& face = part.face(first->first);
    const Vec3 normal = face.surface.normal(face.surface.project(first->second));
    if ((dot(normal, way) > 0 ? face.behind : face.before) != body || !look_at_each_other(way, normal, way)) return {};
    return OppositePlace{first->first, first->second};
}

}  // namespace dotsift
