#include "part/solid/face_integral.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/gauss.hpp"

namespace dotsift {

namespace {

using Act = std::function<void(const Vec3&, const Vec3&, double)>;

/// A point of a loop in the surface's parameters, and how far the first of them goes there.
struct OnLoop {
    Vec2 at;
    double along = 0;
};

class FaceIntegral {
  public:
    FaceIntegral(const SolidPart& part, const SolidFace& face, int pieces, const Act& act)
        : part_(part),
          face_(face),
          surface_(face.surface),
          pieces_(face.surface.kind() == Surface::Kind::spline ? 1 : pieces),
          // Straight across, eight points are exact.
          across_pieces_(face.surface.kind() == Surface::Kind::turned ? pieces : 1),
          act_(act) {}

    void run() {
        if (surface_.kind() == Surface::Kind::facets) return surface_.facets().integrate(act_);
        if (face_.loops.empty()) {
            const Vec2 all = surface_.periods();
            each_point(0, 1, pieces_, [&](double u, double w) { across({{u * all[0], 0}}, 0, 1, w * all[0]); });
            return;
        }
        std::vector<OnLoop> points;
        double around = 0;  // turns of all loops together, and those that a pole on a loop cuts short
        for (const auto& loop : face_.loops) add_loop(loop, points, around);
        const double base = base_of(points, around);
        // The integral over the face is that along its loops of what is integrated across, from below.
        for (const auto& p : points) across(p.at, base, p.at[1], -p.along);
    }

  private:
    /// act(t, weight) between two parameters.
    template <class Each>
    static void each_point(double from, double to, int pieces, Each each) {
        for (int k = 0; k < pieces; ++k) {
            const double a = from + (to - from) * k / pieces, b = from + (to - from) * (k + 1) / pieces;
            gauss8(a, b, each);
        }
    }

    void add_loop(const std::vector<EdgeUse>& loop, std::vector<OnLoop>& points, double& around) const {
        Vec2 beside;
        bool begun = false;
        double turned = 0;
        for (const EdgeUse& use : loop) {
            const CurveIn<3>& own = part_.edge(use.edge).curve;
            const CurveIn<3> curve = use.forward ? own : own.reversed();
            const auto marks = curve.smooth_pieces();
            for (std::size_t m = 1; m < marks.size(); ++m)
                each_point(marks[m - 1], marks[m], pieces_, [&](double t, double w) {
                    const Vec3 p = curve.point(t), d = curve.derivative(t);
                    const Vec2 at = surface_.project(p, begun ? beside : Vec2{});
                    begun = true;
                    beside = at;
                    const auto [u, v] = surface_.derivatives(at);
                    const double e = dot(u, u), f = dot(u, v), g = dot(v, v);
                    const double speed = (dot(d, u) * g - dot(d, v) * f) / (e * g - f * f);
                    points.push_back({at, w * speed});
                    turned += w * speed;
                });
        }
        const double period = surface_.periods()[0];
        if (period > 0) around += turned / period;
    }

    /// From where it is integrated across. Loops that go round, with none that goes back, leave a pole inside, and a
    /// loop that does not come back to where it began passes over one: above where they go forward.
    [[nodiscard]] double base_of(const std::vector<OnLoop>& points, double around) const {
        constexpr double least_turn = 1e-6;  // quadrature leaves less
        if (surface_.kind() == Surface::Kind::turned && std::fabs(around) > least_turn) return around > 0 ? 1 : 0;
        return points.front().at[1];
    }

    /// Across the surface from one second parameter to another.
    void across(const Vec2& at, double from, double to, double weight) const {
        std::vector<double> marks{from};
        const auto kind = surface_.kind();
        if (kind == Surface::Kind::turned || kind == Surface::Kind::spline) {
            auto inner =
                kind == Surface::Kind::turned ? surface_.profile().smooth_pieces() : surface_.spline().breaks(1);
            if (to < from) std::reverse(inner.begin(), inner.end());
            for (const double m : inner)
                if (m > std::min(from, to) && m < std::max(from, to)) marks.push_back(m);
        }
        marks.push_back(to);
        for (std::size_t m = 1; m < marks.size(); ++m)
            each_point(marks[m - 1], marks[m], across_pieces_, [&](double v, double w) {
                const Vec2 here{{at[0], v}};
                const auto [p, du, dv] = surface_.tangents(here);
                const Vec3 area = cross(du, dv);
                act_(p, area * (w * weight), norm(area) * (w * weight));
            });
    }

    const SolidPart& part_;
    const SolidFace& face_;
    const Surface& surface_;
    int pieces_, across_pieces_;
    const Act& act_;
};

}  // namespace

void over_face(const SolidPart& part, std::size_t face, int pieces, const Act& act) {
    FaceIntegral(part, part.faces[face], pieces, act).run();
}

}  // namespace dotsift
