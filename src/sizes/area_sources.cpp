#include "sizes/area_sources.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "part/classify.hpp"

namespace dotsift {

namespace {

constexpr double linear_enough = 0.05;    // of the size
constexpr double share_of_element = 0.5;  // triangles shorter than this share of the size are not halved
// The rim is followed to this share of the area's diagonal at the finest, however small the size: it may be asked for
// by mistake, and is refused later for its number of elements.
constexpr double finest_rim = 1e-3;
constexpr int least_depth = 8;  // a formula may have a narrow dip: at least so many halvings of the box
constexpr int most_depth = 48;

class Cover {
  public:
    Cover(const SizeArea& area, std::vector<SizeSource>& sources) : area_(area), sources_(sources) {
        for (const auto& curve : area.rim) {
            const int pieces = curve.straight() ? 1 : 1 + static_cast<int>(curve.turning() * 64 / std::numbers::pi);
            for (int k = 0; k < pieces; ++k) {
                const double from = static_cast<double>(k) / pieces, to = static_cast<double>(k + 1) / pieces;
                const Vec2 a = curve.point(from), b = curve.point(to);
                // The curve strays from its chord hardly more than in the middle.
                chords_.push_back({a, b, 2 * distance(curve.point((from + to) / 2), (a + b) * 0.5)});
            }
            rays_.add(curve, 0);
        }
        if (!area.rim.empty()) rays_.prepare();
    }

    void run() {
        Box2 box = area_.box;
        const double margin = 1e-3 * box.diagonal();
        box.add(box.low - Vec2{{margin, margin}});
        box.add(box.high + Vec2{{margin, margin}});
        const Vec2 a = box.low, c = box.high, b{{c[0], a[1]}}, d{{a[0], c[1]}};
        std::vector<int> all(chords_.size());
        for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);
        cover({b, c, a}, all, 0);
        cover({d, a, c}, all, 0);
    }

  private:
    double size(const Vec2& p) const { return area_.size(p); }

    /// The longest side is opposite to the first corner.
    void cover(const std::array<Vec2, 3>& t, const std::vector<int>& chords, int depth) {
        const Vec2 middle = (t[1] + t[2]) * 0.5, centre = (t[0] + t[1] + t[2]) / 3;
        const double around = distance(t[1], t[2]) / 2;  // a circle about the middle of the longest side holds it all
        std::vector<int> near;
        for (const int c : chords) {
            const auto& chord = chords_[static_cast<std::size_t>(c)];
            if (distance(nearest_on_segment(middle, chord.a, chord.b), middle) <= around + chord.stray)
                near.push_back(c);
        }
        if (near.empty() && !area_.rim.empty() && !rays_.inside(centre)) return;
        const std::array<double, 3> h{size(t[0]), size(t[1]), size(t[2])};
        const double least = std::min({h[0], h[1], h[2]}), long_side = distance(t[1], t[2]);
        bool halve = !near.empty();
        if (area_.varies && depth < least_depth) halve = true;
        const auto bent = [&](const Vec2& p, double linear) {
            return std::fabs(size(p) - linear) > linear_enough * linear;
        };
        if (!halve && area_.varies)
            halve = bent(middle, (h[1] + h[2]) / 2) || bent(centre, (h[0] + h[1] + h[2]) / 3) ||
                    bent((t[0] + t[1]) * 0.5, (h[0] + h[1]) / 2) || bent((t[0] + t[2]) * 0.5, (h[0] + h[2]) / 2);
        const double finest = near.empty() ? 0 : finest_rim * area_.box.diagonal();
        if (halve && long_side > std::max(share_of_element * least, finest) && depth < most_depth) {
            cover({middle, t[2], t[0]}, near, depth + 1);
            cover({middle, t[0], t[1]}, near, depth + 1);
            return;
        }
        if (!near.empty() && !touches(t)) return;
        SizeSource s;
        s.corners = t;
        s.form = SizeSource::Form::triangle;
        s.size = h[0];
        const Vec2 u = t[1] - t[0], v = t[2] - t[0];
        const double det = cross(u, v), hu = h[1] - h[0], hv = h[2] - h[0];
        s.gradient = {{(hu * v[1] - hv * u[1]) / det, (hv * u[0] - hu * v[0]) / det}};
        s.rule = area_.rule;
        sources_.push_back(s);
    }

    struct Chord {
        Vec2 a, b;
        double stray;
    };

    /// At the rim: some of the triangle is inside.
    [[nodiscard]] bool touches(const std::array<Vec2, 3>& t) const {
        for (std::size_t k = 0; k < 3; ++k)
            if (rays_.inside(t[k]) || rays_.inside((t[k] + t[(k + 1) % 3]) * 0.5)) return true;
        return rays_.inside((t[0] + t[1] + t[2]) / 3);
    }

    const SizeArea& area_;
    std::vector<SizeSource>& sources_;
    std::vector<Chord> chords_;
    RayCaster rays_;
};

}  // namespace

void add_area_sources(const SizeArea& area, std::vector<SizeSource>& sources) {
    Cover(area, sources).run();
}

}  // namespace dotsift
