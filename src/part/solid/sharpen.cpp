#include "part/solid/sharpen.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "base/parallel.hpp"
#include "part/solid/merged_corners.hpp"

namespace dotsift {

namespace {

constexpr double wanted_share = 1e-9;    // of the part's size: nearer need no curve lie to its surfaces
constexpr double farthest_share = 5e-3;  // and nothing is moved farther
constexpr double flattest = 0.02;        // sine of the angle at which two surfaces still meet clearly
constexpr int most_rounds = 12;
constexpr std::size_t first_pieces = 4, most_pieces = 128;

/// Adds n n^T to a symmetric matrix of three rows, and n d to its right side.
struct Normals {
    std::array<std::array<double, 3>, 3> a{};
    Vec3 b{};
    void add(const Vec3& n, double d) {
        for (std::size_t i = 0; i < 3; ++i) {
            for (std::size_t j = 0; j < 3; ++j) a[i][j] += n[i] * n[j];
            b[i] += n[i] * d;
        }
    }
    /// By Cramer's rule; nothing if it is nearly singular.
    [[nodiscard]] std::optional<Vec3> solve() const {
        const Vec3 x{{a[0][0], a[1][0], a[2][0]}}, y{{a[0][1], a[1][1], a[2][1]}}, z{{a[0][2], a[1][2], a[2][2]}};
        const double det = dot(x, cross(y, z));
        if (!(std::fabs(det) > flattest * flattest * flattest)) return std::nullopt;
        return Vec3{{dot(b, cross(y, z)) / det, dot(x, cross(b, z)) / det, dot(x, cross(y, b)) / det}};
    }
};

class Sharpening {
  public:
    explicit Sharpening(SolidPart& part) : part_(part), size_(part.box.diagonal()) {}

    void run() {
        find_faces();
        in_parallel(part_.vertices.size(), [&](std::size_t v) { move_corner(v); });
        std::vector<CurveIn<3>> curves(part_.edges.size());
        in_parallel(part_.edges.size(), [&](std::size_t e) { curves[e] = curve_of(e); });
        for (std::size_t e = 0; e < curves.size(); ++e) part_.edges[e].curve = std::move(curves[e]);
    }

  private:
    void find_faces() {
        at_edge_.resize(part_.edges.size());
        at_vertex_.resize(part_.vertices.size());
        const auto add = [](std::vector<int>& list, std::size_t f) {
            if (list.empty() || list.back() != static_cast<int>(f)) list.push_back(static_cast<int>(f));
        };
        for (std::size_t f = 0; f < part_.faces.size(); ++f)
            for (const auto& loop : part_.faces[f].loops)
                for (const auto& use : loop) {
                    const SolidEdge& e = part_.edge(use.edge);
                    add(at_edge_[static_cast<std::size_t>(use.edge)], f);
                    add(at_vertex_[static_cast<std::size_t>(e.start)], f);
                    add(at_vertex_[static_cast<std::size_t>(e.end)], f);
                }
    }

    struct OnSurface {
        Vec3 point, normal;
    };
    [[nodiscard]] OnSurface nearest(int face, const Vec3& p) const {
        const Surface& s = part_.face(face).surface;
        const Vec2 at = s.project(p);
        return {s.point(at), s.normal(at)};
    }

    void move_corner(std::size_t v) {
        const Vec3 before = part_.vertices[v];
        Vec3 p = before;
        for (int round = 0; round < most_rounds; ++round) {
            Normals sum;
            double miss = 0;
            for (const int f : at_vertex_[v]) {
                const auto [q, n] = nearest(f, p);
                const double d = dot(n, q - p);
                sum.add(n, d);
                miss = std::max(miss, std::fabs(d));
            }
            if (miss <= wanted_share * wanted_share * size_) break;
            const auto step = sum.solve();
            if (!step || distance(p + *step, before) > farthest_share * size_) return;
            p += *step;
            if (norm(*step) <= wanted_share * wanted_share * size_) break;
        }
        part_.vertices[v] = p;
    }

    /// The nearest point of both surfaces, and the direction in which they meet; nothing where that is not clear.
    [[nodiscard]] std::optional<OnSurface> meeting(int f, int g, const Vec3& near) const {
        Vec3 p = near;
        for (int round = 0; round < most_rounds; ++round) {
            const auto [q, n] = nearest(f, p);
            const auto [r, m] = nearest(g, p);
            const Vec3 along = cross(n, m);
            const double sine = norm(along);
            if (!(sine > flattest)) return std::nullopt;
            // The step across the direction of meeting that brings it into both tangent planes.
            const double a = dot(n, q - p), b = dot(m, r - p), c = dot(n, m), det = 1 - c * c;
            const Vec3 step = n * ((a - c * b) / det) + m * ((b - c * a) / det);
            p += step;
            if (distance(p, near) > farthest_share * size_) return std::nullopt;
            if (norm(step) <= 1e-3 * wanted_share * size_) return OnSurface{p, along / sine};
        }
        return std::nullopt;
    }

    [[nodiscard]] CurveIn<3> curve_of(std::size_t e) const {
        const SolidEdge& edge = part_.edges[e];
        const Vec3 &from = part_.vertices[static_cast<std::size_t>(edge.start)],
                   &to = part_.vertices[static_cast<std::size_t>(edge.end)];
        CurveIn<3> curve = edge.curve;
        if (curve.kind() == CurveIn<3>::Kind::spline && at_edge_[e].size() == 2)
            if (auto made = spline_between(at_edge_[e][0], at_edge_[e][1], curve, from, to)) return *made;
        if (curve.kind() == CurveIn<3>::Kind::arc && !(curve.start() == from && curve.end() == to))
            curve = arc_between(curve, from, to);
        curve.set_ends(from, to);
        return curve;
    }

    /// The same circle or ellipse from one point of it to another.
    [[nodiscard]] static CurveIn<3> arc_between(const CurveIn<3>& arc, const Vec3& from, const Vec3& to) {
        const auto angle = [&](const Vec3& p, double beside) {
            const Vec3 d = p - arc.centre(), a = arc.axis_a(), b = arc.axis_b();
            const double t = std::atan2(dot(d, b) / dot(b, b), dot(d, a) / dot(a, a)), turn = 2 * std::acos(-1.0);
            return t + turn * std::round((beside - t) / turn);
        };
        return CurveIn<3>::arc(arc.centre(), arc.axis_a(), arc.axis_b(), angle(from, arc.from_angle()),
                               angle(to, arc.to_angle()));
    }

    /// Cubic pieces with the true places and directions at their ends, twice as many until their middles are true.
    [[nodiscard]] std::optional<CurveIn<3>> spline_between(int f, int g, const CurveIn<3>& old, const Vec3& from,
                                                           const Vec3& to) const {
        for (std::size_t pieces = first_pieces; pieces <= most_pieces; pieces *= 2) {
            std::vector<Vec3> points, slopes;
            for (std::size_t k = 0; k <= pieces; ++k) {
                const double t = static_cast<double>(k) / static_cast<double>(pieces);
                const Vec3 near = k == 0 ? from : k == pieces ? to : old.point(t);
                const auto at = meeting(f, g, near);
                if (!at) return std::nullopt;
                points.push_back(k == 0 ? from : k == pieces ? to : at->point);
                slopes.push_back(dot(at->normal, old.derivative(t)) < 0 ? -at->normal : at->normal);
            }
            NurbsIn<3> n;
            n.degree = 3;
            double t = 0;
            n.knots.assign(4, 0.0);
            n.poles.push_back(points.front());
            for (std::size_t k = 1; k < points.size(); ++k) {
                const double h = distance(points[k - 1], points[k]);
                if (!(h > 0)) return std::nullopt;
                n.poles.push_back(points[k - 1] + slopes[k - 1] * (h / 3));
                n.poles.push_back(points[k] - slopes[k] * (h / 3));
                t += h;
                n.knots.insert(n.knots.end(), k + 1 < points.size() ? 2 : 4, t);
            }
            n.poles.push_back(points.back());
            const double length = t;
            CurveIn<3> made = CurveIn<3>::spline(std::make_shared<const NurbsIn<3>>(std::move(n)), 0, length);
            double worst = 0;
            const auto& knots = made.nurbs().knots;
            for (std::size_t k = 0; k < pieces; ++k) {
                const double middle = (knots[3 + 2 * k] + knots[4 + 2 * k]) / 2;
                const Vec3 p = made.point(middle / length);
                for (const int face : {f, g}) {
                    const auto [q, normal] = nearest(face, p);
                    worst = std::max(worst, distance(p, q));
                }
            }
            if (worst <= wanted_share * size_ || pieces == most_pieces) {
                made.set_ends(from, to);
                return made;
            }
        }
        return std::nullopt;
    }

    SolidPart& part_;
    double size_;
    std::vector<std::vector<int>> at_edge_, at_vertex_;  ///< faces
};

}  // namespace

void sharpen(SolidPart& part) {
    Sharpening(part).run();
    merge_corners(part);
}

}  // namespace dotsift
