#include "part/solid/spline_surface.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr int most_newton_steps = 30;
// Of the parameters' span: a step smaller than this changes nothing.
constexpr double still_share = 1e-15;
constexpr double parallel_share = 1e-14;
constexpr int most_halvings = 12;
// How far normals of neighbouring lines of a grid may turn, and into how many pieces a smooth piece is parted.
constexpr double wanted_turn = 0.15;
constexpr int least_parts = 4, most_parts = 24;
constexpr std::size_t most_lines = 96;
constexpr int probes = 5;

struct SplineBasis {
    std::size_t first = 0;                                          ///< of the poles that count
    std::array<std::array<double, Nurbs::most_degree + 1>, 3> n{};  ///< values, first and second derivatives
};

/// Values of all B-splines of a degree that are not zero at u.
void values(const std::vector<double>& knots, std::size_t span, std::size_t degree, double u,
            std::array<double, Nurbs::most_degree + 1>& n) {
    n[0] = 1;
    for (std::size_t p = 1; p <= degree; ++p) {
        double carried = 0;
        for (std::size_t r = 0; r < p; ++r) {
            const double right = knots[span + r + 1], left = knots[span + 1 + r - p], share = n[r] / (right - left);
            n[r] = carried + (right - u) * share;
            carried = (u - left) * share;
        }
        n[p] = carried;
    }
}

/// The derivative of a spline is one of a degree less: d/du sum N_i,p c_i = sum N_i,p-1 p (c_i - c_i-1) / (t_i+p -
/// t_i). Here as a row of weights: of the B-splines of a degree less to those of this one.
void derive(const std::vector<double>& knots, std::size_t span, std::size_t degree,
            const std::array<double, Nurbs::most_degree + 1>& lower, std::array<double, Nurbs::most_degree + 1>& out) {
    std::fill(out.begin(), out.end(), 0.0);
    for (std::size_t r = 0; r < degree; ++r) {  // lower[r] is of the B-spline span - degree + 1 + r
        const std::size_t i = span + 1 + r - degree;
        const double w = lower[r] * static_cast<double>(degree) / (knots[i + degree] - knots[i]);
        out[r + 1] += w;
        out[r] -= w;
    }
}

SplineBasis basis(const std::vector<double>& knots, std::size_t degree, double u, int order) {
    const std::size_t count = knots.size() - degree - 1;
    auto span = static_cast<std::size_t>(std::upper_bound(knots.begin() + static_cast<std::ptrdiff_t>(degree),
                                                          knots.begin() + static_cast<std::ptrdiff_t>(count), u) -
                                         knots.begin()) -
                1;
    while (span > degree && !(knots[span + 1] > knots[span])) --span;
    SplineBasis b;
    b.first = span - degree;
    values(knots, span, degree, u, b.n[0]);
    std::array<double, Nurbs::most_degree + 1> lower{}, slope{};
    if (order >= 1) {
        values(knots, span, degree - 1, u, lower);
        derive(knots, span, degree, lower, b.n[1]);
    }
    if (order >= 2 && degree >= 2) {
        values(knots, span, degree - 2, u, lower);
        derive(knots, span, degree - 1, lower, slope);
        derive(knots, span, degree, slope, b.n[2]);
    }
    return b;
}

}  // namespace

std::vector<double> SplineSurface::breaks(std::size_t way) const {
    std::vector<double> out;
    for (const double k : knots[way])
        if (k >= low()[way] && k <= high()[way] && (out.empty() || k > out.back())) out.push_back(k);
    return out;
}

SplineSurface::Values SplineSurface::at(const Vec2& uv, int order) const {
    Vec2 in = uv;
    for (std::size_t k = 0; k < 2; ++k) in[k] = std::clamp(in[k], low()[k], high()[k]);
    const Vec2 beyond = uv - in;
    const bool goes_on = beyond[0] != 0 || beyond[1] != 0;
    if (goes_on) order = std::max(order, 1);
    const auto p = static_cast<std::size_t>(degree[0]), q = static_cast<std::size_t>(degree[1]);
    const SplineBasis bu = basis(knots[0], p, in[0], order), bv = basis(knots[1], q, in[1], order);
    const std::size_t row = count(1);
    // By the orders of both derivatives.
    constexpr std::array<std::array<std::size_t, 2>, 6> orders{{{0, 0}, {1, 0}, {0, 1}, {2, 0}, {1, 1}, {0, 2}}};
    const std::size_t wanted = order >= 2 ? 6 : order == 1 ? 3 : 1;
    std::array<Vec3, 6> sum{};
    std::array<double, 6> weight{};
    for (std::size_t i = 0; i <= p; ++i) {
        // Along a row first, by the order of the derivative.
        std::array<Vec3, 3> along{};
        std::array<double, 3> along_weight{};
        for (std::size_t j = 0; j <= q; ++j) {
            const std::size_t pole = (bu.first + i) * row + bv.first + j;
            const double w = weights.empty() ? 1 : weights[pole];
            for (std::size_t k = 0; k <= static_cast<std::size_t>(order); ++k) {
                along[k] += poles[pole] * (bv.n[k][j] * w);
                along_weight[k] += bv.n[k][j] * w;
            }
        }
        for (std::size_t k = 0; k < wanted; ++k) {
            sum[k] += along[orders[k][1]] * bu.n[orders[k][0]][i];
            weight[k] += along_weight[orders[k][1]] * bu.n[orders[k][0]][i];
        }
    }
    Values out;
    out.point = sum[0] / weight[0];
    if (order >= 1) {
        out.du = (sum[1] - out.point * weight[1]) / weight[0];
        out.dv = (sum[2] - out.point * weight[2]) / weight[0];
    }
    if (order >= 2) {
        out.duu = (sum[3] - out.du * (2 * weight[1]) - out.point * weight[3]) / weight[0];
        out.duv = (sum[4] - out.du * weight[2] - out.dv * weight[1] - out.point * weight[4]) / weight[0];
        out.dvv = (sum[5] - out.dv * (2 * weight[2]) - out.point * weight[5]) / weight[0];
    }
    if (goes_on) out.point += out.du * beyond[0] + out.dv * beyond[1];
    return out;
}

Vec2 SplineSurface::nearest_from(const Vec3& p, const Vec2& near) const {
    const Vec2 from = low(), to = high(), span = to - from;
    const auto inside = [&](const Vec2& uv) {
        return Vec2{{std::clamp(uv[0], from[0], to[0]), std::clamp(uv[1], from[1], to[1])}};
    };
    Vec2 at = inside(near);
    double best = distance(this->at(at, 0).point, p);
    for (int step = 0; step < most_newton_steps; ++step) {
        const Values s = this->at(at);
        const Vec3 d = s.point - p;
        // Of half the squared distance: gradient, and its second derivatives.
        Vec2 g{{dot(s.du, d), dot(s.dv, d)}};
        double a = dot(s.du, s.du), b = dot(s.du, s.dv), c = dot(s.dv, s.dv);
        const double full_a = a + dot(s.duu, d), full_b = b + dot(s.duv, d), full_c = c + dot(s.dvv, d);
        if (full_a > 0 && full_c > 0 && full_a * full_c > full_b * full_b) {
            a = full_a;
            b = full_b;
            c = full_c;
        }
        // What a bound holds does not move.
        for (std::size_t k = 0; k < 2; ++k) {
            if (!((at[k] <= from[k] && g[k] > 0) || (at[k] >= to[k] && g[k] < 0))) continue;
            g[k] = 0;
            b = 0;
            (k == 0 ? a : c) = 1;
        }
        const double det = a * c - b * b;
        Vec2 move{{(b * g[1] - c * g[0]) / det, (b * g[0] - a * g[1]) / det}};
        if (!(det > parallel_share * a * c))  // nearly along each other, as at a pole: each by itself
            move = {{a > 0 ? -g[0] / a : 0, c > 0 ? -g[1] / c : 0}};
        bool moved = false;
        for (int halving = 0; halving < most_halvings; ++halving) {
            const Vec2 next = inside(at + move);
            const double there = distance(this->at(next, 0).point, p);
            if (there <= best) {
                moved = std::fabs(next[0] - at[0]) > still_share * span[0] ||
                        std::fabs(next[1] - at[1]) > still_share * span[1];
                at = next;
                best = there;
                break;
            }
            move = move * 0.5;
        }
        if (!moved) break;
    }
    return at;
}

const char* SplineSurface::fault() const {
    for (std::size_t way = 0; way < 2; ++way) {
        const auto p = static_cast<std::size_t>(std::max(degree[way], 0));
        if (degree[way] < 1 || degree[way] > Nurbs::most_degree) return "its degree is not between 1 and 15";
        if (knots[way].size() < 2 * (p + 1)) return "it has too few control points for its degree";
        for (const double k : knots[way])
            if (!std::isfinite(k)) return "a knot is not a finite number";
        if (!std::is_sorted(knots[way].begin(), knots[way].end())) return "its knots do not ascend";
        if (!(high()[way] > low()[way])) return "its knots span nothing";
        for (std::size_t i = 1; i + p < knots[way].size() - 1; ++i)
            if (!(knots[way][i + p] > knots[way][i])) return "a knot is repeated so often that it falls apart";
    }
    if (poles.size() != count(0) * count(1)) return "the number of its knots does not fit its control points";
    if (!weights.empty() && weights.size() != poles.size()) return "it has not one weight for each control point";
    for (const double w : weights)
        if (!(w > 0) || !std::isfinite(w)) return "a weight is not greater than zero";
    for (const Vec3& p : poles)
        for (const double x : p.c)
            if (!std::isfinite(x)) return "a control point is not finite";
    return nullptr;
}

SurfaceGrid::SurfaceGrid(const SplineSurface& surface) {
    const std::array<std::vector<double>, 2> breaks{surface.breaks(0), surface.breaks(1)};
    for (std::size_t way = 0; way < 2; ++way) {
        const std::size_t other = 1 - way;
        const double low = surface.low()[other], high = surface.high()[other];
        const std::size_t smooth = breaks[way].size() - 1;
        const int most = std::max(least_parts, std::min<int>(most_parts, static_cast<int>(most_lines / smooth)));
        lines_[way].push_back(breaks[way][0]);
        for (std::size_t m = 0; m < smooth; ++m) {
            const double from = breaks[way][m], to = breaks[way][m + 1];
            double turn = 0;  // of the tangent, the largest on some lines across
            for (int k = 0; k < probes; ++k) {
                double sum = 0;
                Vec3 before{};
                for (int s = 0; s <= probes; ++s) {
                    Vec2 at;
                    at[way] = from + (to - from) * s / probes;
                    at[other] = low + (high - low) * (k + 0.5) / probes;
                    const auto v = surface.at(at, 1);
                    const Vec3 d = way == 0 ? v.du : v.dv;
                    if (s > 0 && norm(before) > 0 && norm(d) > 0)
                        sum += std::atan2(norm(cross(before, d)), dot(before, d));
                    before = d;
                }
                turn = std::max(turn, sum);
            }
            const int pieces = std::clamp(static_cast<int>(std::ceil(turn / wanted_turn)), least_parts, most);
            for (int k = 1; k <= pieces; ++k) lines_[way].push_back(from + (to - from) * k / pieces);
        }
    }
    for (const double u : lines_[0])
        for (const double v : lines_[1]) places_.push_back(surface.at({{u, v}}, 0).point);
    Box<3> box;
    for (const Vec3& p : places_) box.add(p);
    size_ = box.diagonal();
}

Vec2 SurfaceGrid::nearest(const Vec3& p) const {
    double least = INFINITY;
    std::size_t best = 0;
    for (std::size_t k = 0; k < places_.size(); ++k) {
        const Vec3 d = places_[k] - p;
        const double there = dot(d, d);
        if (!(there < least)) continue;
        least = there;
        best = k;
    }
    return {{lines_[0][best / lines_[1].size()], lines_[1][best % lines_[1].size()]}};
}

}  // namespace dotsift
