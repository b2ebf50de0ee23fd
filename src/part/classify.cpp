#include "part/classify.hpp"

#include <cmath>

namespace dotsift {

void RayCaster::add(const Curve& curve, int id) {
    Monotone m{curve, id, curve.box(), {0}, {curve.start()}};
    for (const double t : curve.extremes(1)) m.marks.push_back(t);
    m.marks.push_back(1);
    for (std::size_t k = 1; k < m.marks.size(); ++k) m.points.push_back(curve.point(m.marks[k]));
    curves_.push_back(std::move(m));
}

double RayCaster::crossing(const Monotone& c, std::size_t piece, double y) {
    const Vec2 &a = c.points[piece - 1], &b = c.points[piece];
    if (c.curve.straight()) return a[0] + (b[0] - a[0]) * ((y - a[1]) / (b[1] - a[1]));
    double low = c.marks[piece - 1], high = c.marks[piece];
    const bool rising = b[1] > a[1];
    for (int k = 0; k < 100; ++k) {
        const double middle = 0.5 * (low + high);
        if (middle == low || middle == high) break;
        ((c.curve.point(middle)[1] > y) == rising ? high : low) = middle;
    }
    return c.curve.point(0.5 * (low + high))[0];
}

std::optional<RayCaster::Hit> RayCaster::nearest(const Vec2& p, const std::function<bool(int)>& accept) const {
    std::optional<Hit> best;
    cast(p, [&](const Hit& h) {
        if ((!best || h.x < best->x) && accept(h.id)) best = h;
    });
    return best;
}

bool RayCaster::inside(const Vec2& p) const {
    bool in = false;
    cast(p, [&](const Hit&) { in = !in; });
    return in;
}

}  // namespace dotsift
