#pragma once
// On which side of curves a point lies.

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

    struct Hit {
        int id;
        bool rising;  ///< the curve runs upwards there, so that the ray's origin is on its left
        double x;
    };
    /// Calls act(hit) for every crossing to the right of p.
    template <class Act>
    void cast(const Vec2& p, Act act) const {
        for (const auto& c : curves_) {
            if (p[1] < c.box.low[1] || p[1] > c.box.high[1] || p[0] > c.box.high[0]) continue;
            for (std::size_t k = 1; k < c.marks.size(); ++k) {
                if ((c.points[k - 1][1] > p[1]) == (c.points[k][1] > p[1])) continue;
                const double x = crossing(c, k, p[1]);
                if (x > p[0]) act(Hit{c.id, c.points[k][1] > c.points[k - 1][1], x});
            }
        }
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
    [[nodiscard]] static double crossing(const Monotone& c, std::size_t piece, double y);
    std::vector<Monotone> curves_;
};

}  // namespace dotsift
