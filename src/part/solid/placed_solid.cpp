#include "part/solid/placed_solid.hpp"

#include <algorithm>
#include <cmath>

#include "part/solid/solid_box.hpp"

namespace dotsift {

namespace {

void reverse_loops(SolidFace& face) {
    for (auto& loop : face.loops) {
        std::reverse(loop.begin(), loop.end());
        for (auto& use : loop) use.forward = !use.forward;
    }
}

}  // namespace

void turn_over(SolidFace& face) {
    face.surface = face.surface.turned_over();
    reverse_loops(face);
    std::swap(face.behind, face.before);
}

SolidPart placed(const SolidPart& part, const AffineIn<3>& map) {
    SolidPart out = part;
    const bool mirrored = map.determinant() < 0;
    for (Vec3& v : out.vertices) v = map(v);
    for (auto& e : out.edges) {
        e.curve = e.curve.transformed(map);
        e.curve.set_ends(out.vertices[static_cast<std::size_t>(e.start)],
                         out.vertices[static_cast<std::size_t>(e.end)]);
    }
    for (auto& f : out.faces) {
        bool over = false;
        f.surface = f.surface.transformed(map, over);
        if (mirrored && !over)
            reverse_loops(f);  // the image of a loop goes the other way round the image of the normal
        if (over) std::swap(f.behind, f.before);
    }
    out.box = box_of(out);
    return out;
}

AffineIn<3> along_line(const Vec3& from, const Vec3& to) {
    const Vec3 d = (to - from) / norm(to - from);
    std::size_t least = 0;
    constexpr double clearly = 1e-9;  // smaller, so that rounding does not choose
    for (std::size_t k = 1; k < 3; ++k)
        if (std::fabs(d[k]) < std::fabs(d[least]) - clearly) least = k;
    Vec3 x{};
    x[least] = 1;
    x = x - d * dot(x, d);
    x = x / norm(x);
    AffineIn<3> map;
    map.column = {x, d, cross(x, d)};
    map.shift = from;
    return map;
}

}  // namespace dotsift
