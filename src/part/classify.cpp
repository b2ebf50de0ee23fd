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

void RayCaster::prepare() {
    Box2 whole;
    for (const auto& c : curves_) whole.add(c.box);
    const auto count = static_cast<std::size_t>(std::sqrt(static_cast<double>(curves_.size()))) + 1;
    if (whole.empty || !(whole.size()[1] > 0)) return;
    rows_low_ = whole.low[1];
    row_height_ = whole.size()[1] / static_cast<double>(count);
    rows_.assign(count, {});
    const auto row_of = [&](double y) {
        return std::min(static_cast<std::size_t>((y - rows_low_) / row_height_), count - 1);
    };
    for (std::size_t i = 0; i < curves_.size(); ++i)
        for (std::size_t r = row_of(curves_[i].box.low[1]); r <= row_of(curves_[i].box.high[1]); ++r)
            rows_[r].push_back(static_cast<int>(i));
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
    each_in_row(p, [&](const Monotone& c) {
        if ((best && c.box.low[0] > best->x) || !accept(c.id)) return;
        for (std::size_t k = 1; k < c.marks.size(); ++k) {
            if ((c.points[k - 1][1] > p[1]) == (c.points[k][1] > p[1])) continue;
            const double x = crossing(c, k, p[1]);
            if (x > p[0] && (!best || x < best->x)) best = Hit{c.id, c.points[k][1] > c.points[k - 1][1], x};
        }
    });
    return best;
}

bool RayCaster::inside(const Vec2& p) const {
    bool in = false;
    cast(p, [&](const Hit&) { in = !in; });
    return in;
}

}  // namespace dotsift
