#include "part/solid/solid_part.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

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
    // What Green's theorem adds and takes away may point either way: its sum along the normal counts.
    over_face(part, face, measured_pieces, [&](const Vec3& p, const Vec3& area) {
        const Surface& s = part.faces[face].surface;
        const double size = dot(area, s.normal(s.project(p)));
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
        over_face(part, f, measured_pieces, [&](const Vec3& p, const Vec3& area) {
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

int body_at(const SolidPart& part, const Vec3& p) {
    constexpr int most_pieces = 64;
    constexpr double sure = 0.1;  // of a whole turn
    if (part.box.distance_to(p) > 0) return -1;
    std::vector<double> turns(part.bodies.size());
    for (int pieces = 1; pieces <= most_pieces; pieces *= 2) {
        std::fill(turns.begin(), turns.end(), 0.0);
        for (std::size_t f = 0; f < part.faces.size(); ++f) {
            double seen = 0;
            over_face(part, f, pieces, [&](const Vec3& x, const Vec3& area) {
                const Vec3 d = x - p;
                const double r = norm(d);
                if (r > 0) seen += dot(d, area) / (r * r * r);
            });
            for (std::size_t b = 0; b < turns.size(); ++b)
                turns[b] += outward(part.faces[f], static_cast<int>(b)) * seen / (4 * std::numbers::pi);
        }
        const bool settled =
            std::all_of(turns.begin(), turns.end(), [&](double t) { return std::fabs(t - std::round(t)) < sure; });
        if (settled && pieces > 1) break;
    }
    for (std::size_t b = 0; b < turns.size(); ++b)
        if (turns[b] > 0.5) return static_cast<int>(b);
    return -1;
}

}  // namespace dotsift
