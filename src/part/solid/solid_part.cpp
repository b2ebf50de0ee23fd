#include "part/solid/solid_part.hpp"

#include <algorithm>
#include <cmath>

#include "part/solid/face_integral.hpp"

namespace dotsift {

namespace {

constexpr int measured_pieces = 2;

/// Which way a face's normal points from a body: out of it, into it, or 0: it does not bound it.
double outward(const SolidFace& face, int body) {
    return (face.behind == body ? 1.0 : 0.0) - (face.before == body ? 1.0 : 0.0);
}

}  // namespace

SolidMeasures measure_face(const SolidPart& part, std::size_t face) {
    SolidMeasures m;
    const Vec3 about = part.box.centre();
    over_face(part, face, measured_pieces, [&](const Vec3& p, const Vec3&, double size) {
        m.size += size;
        m.centroid += (p - about) * size;
    });
    m.centroid = about + m.centroid / m.size;
    return m;
}

SolidMeasures measure_body(const SolidPart& part, std::size_t body) {
    SolidMeasures m;
    const Vec3 about = part.box.centre();
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const double sign = outward(part.faces[f], static_cast<int>(body));
        if (sign == 0) continue;
        over_face(part, f, measured_pieces, [&](const Vec3& p, const Vec3& area, double) {
            const Vec3 x = p - about;
            m.size += sign * dot(x, area) / 3;
            for (std::size_t a = 0; a < 3; ++a) m.centroid[a] += sign * x[a] * x[a] * area[a] / 2;
        });
    }
    m.centroid = about + m.centroid / m.size;
    return m;
}

SolidMeasures measure(const SolidPart& part) {
    SolidMeasures sum;
    for (std::size_t b = 0; b < part.bodies.size(); ++b) {
        const SolidMeasures m = measure_body(part, b);
        sum.size += m.size;
        sum.centroid += m.centroid * m.size;
    }
    sum.centroid = sum.centroid / sum.size;
    return sum;
}

}  // namespace dotsift
