#pragma once
// On which side of curves a point lies.

#include <algorithm>
#include <functional>
#include <optional>
#include <vector>

#include "part/curve.hpp"

namespace dotsift {

/// Rays to the right through a set of curves. The curves are cut where they stop rising or falling, so that a ray
/// crosses each piece at most once; ends count half-open, so that none is counted twice or missed.
class RayCaster {
  public:
    void add(const Curve& curve, int id);
    /// Sorts the curves into rows, for many rays; after the last add.
    void prepare();

    struct Hit {
        int id;
        bool rising;  ///< the curve runs upwards there, so that the ray's origin is on its left
        double x;
    };
    /// Calls act(hit) for every crossing to the right of p.
    template <class Act>
    void cast(const Vec2& p, Act act) const {
        each_in_row(p, [&](const Monotone& c) {
            for (std::size_t k = 1; k < c.marks.size(); ++k) {
                if ((c.points[k - 1][1] > p[1]) == (c.points[k][1] > p[1])) continue;
                const double x = crossing(c, k, p[1]);
                if (x > p[0]) act(Hit{c.id, c.points[k][1] > c.points[k - 1][1], x});
            }
        });
    }
    /// The nearest crossing to the right whose id is accepted.
    [[nodiscard]] std::optional<Hit> nearest(const Vec2& p, const std::function<bool(int)>& accept) const;
    /// Even-odd rule.
    [[nodiscard]] bool inside(const Vec2& p) const;

  private:
    struct Monotone {
        Curve curve;
        int id;
        Box2 box;
        std::vector<double> marks;
        std::vector<Vec2> points;
    };
    /// Curves whose box the ray can meet.
    template <class Act>
    void each_in_row(const Vec2& p, Act act) const {
        const auto offer = [&](const Monotone& c) {
            if (p[1] >= c.box.low[1] && p[1] <= c.box.high[1] && p[0] <= c.box.high[0]) act(c);
        };
        if (rows_.empty()) {
            for (const auto& c : curves_) offer(c);
            return;
        }
        const double row = (p[1] - rows_low_) / row_height_;
        if (!(row >= 0) || row > static_cast<double>(rows_.size())) return;
        for (const int c : rows_[std::min(static_cast<std::size_t>(row), rows_.size() - 1)])
            offer(curves_[static_cast<std::size_t>(c)]);
    }
    [[nodiscard]] static double crossing(const Monotone& c, std::size_t piece, double y);
    std::vector<Monotone> curves_;
    std::vector<std::vector<int>> rows_;  ///< curves that reach into each row of equal height
    double rows_low_ = 0, row_height_ = 1;
};

}  // namespace dotsift
