#include "part/nurbs.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

template <int D>
std::array<Vec<D>, 3> NurbsIn<D>::at(double u) const {
    const auto p = static_cast<std::size_t>(degree), n = poles.size();
    u = std::clamp(u, low(), high());
    std::size_t k = static_cast<std::size_t>(std::upper_bound(knots.begin() + static_cast<std::ptrdiff_t>(p),
                                                              knots.begin() + static_cast<std::ptrdiff_t>(n), u) -
                                             knots.begin()) -
                    1;
    while (k > p && !(knots[k + 1] > knots[k])) --k;  // the end of the last span
    std::array<Vec<D>, most_degree + 1> d;
    std::array<double, most_degree + 1> w{};
    for (std::size_t j = 0; j <= p; ++j) {
        w[j] = weights.empty() ? 1.0 : weights[j + k - p];
        d[j] = poles[j + k - p] * w[j];
    }
    Vec<D> first, second;
    double w_first = 0, w_second = 0;
    for (std::size_t r = 1; r <= p; ++r) {
        const double q = static_cast<double>(p);
        if (r + 1 == p) {
            const double a = knots[k + 2] - knots[k], b = knots[k + 1] - knots[k - 1],
                         c = q * (q - 1) / (knots[k + 1] - knots[k]);
            second = ((d[p] - d[p - 1]) / a - (d[p - 1] - d[p - 2]) / b) * c;
            w_second = ((w[p] - w[p - 1]) / a - (w[p - 1] - w[p - 2]) / b) * c;
        }
        if (r == p) {
            const double c = q / (knots[k + 1] - knots[k]);
            first = (d[p] - d[p - 1]) * c;
            w_first = (w[p] - w[p - 1]) * c;
        }
        for (std::size_t j = p; j >= r; --j) {
            const double a = (u - knots[j + k - p]) / (knots[j + 1 + k - r] - knots[j + k - p]);
            d[j] = d[j - 1] * (1 - a) + d[j] * a;
            w[j] = w[j - 1] * (1 - a) + w[j] * a;
        }
    }
    if (weights.empty()) return {d[p], first, second};
    const Vec<D> point = d[p] / w[p];
    const Vec<D> slope = (first - point * w_first) / w[p];
    return {point, slope, (second - slope * (2 * w_first) - point * w_second) / w[p]};
}

template <int D>
NurbsIn<D> NurbsIn<D>::restricted(double from, double to) const {
    NurbsIn n = *this;
    const auto p = static_cast<std::size_t>(degree);
    if (n.weights.empty()) n.weights.assign(n.poles.size(), 1);
    for (const double u : {from, to}) {
        while (static_cast<std::size_t>(std::count(n.knots.begin(), n.knots.end(), u)) < p) {
            const auto k =
                static_cast<std::size_t>(std::upper_bound(n.knots.begin(), n.knots.end(), u) - n.knots.begin()) - 1;
            std::vector<Vec<D>> more;
            std::vector<double> more_weights;
            for (std::size_t i = 0; i <= n.poles.size(); ++i) {
                const double a = i + p <= k ? 1 : i > k ? 0 : (u - n.knots[i]) / (n.knots[i + p] - n.knots[i]);
                const std::size_t before = i > 0 ? i - 1 : 0, here = std::min(i, n.poles.size() - 1);
                const double v = (1 - a) * n.weights[before], w = a * n.weights[here];
                more.push_back((n.poles[before] * v + n.poles[here] * w) / (v + w));
                more_weights.push_back(v + w);
            }
            n.knots.insert(n.knots.begin() + static_cast<std::ptrdiff_t>(k) + 1, u);
            n.poles = std::move(more);
            n.weights = std::move(more_weights);
        }
    }
    const auto last_from = std::upper_bound(n.knots.begin(), n.knots.end(), from) - n.knots.begin() - 1,
               first_to = std::lower_bound(n.knots.begin(), n.knots.end(), to) - n.knots.begin();
    NurbsIn out;
    out.degree = degree;
    out.knots.assign(p + 1, from);
    out.knots.insert(out.knots.end(), n.knots.begin() + last_from + 1, n.knots.begin() + first_to);
    out.knots.insert(out.knots.end(), p + 1, to);
    out.poles.assign(n.poles.begin() + last_from - degree, n.poles.begin() + first_to);
    if (!weights.empty()) out.weights.assign(n.weights.begin() + last_from - degree, n.weights.begin() + first_to);
    return out;
}

template <int D>
const char* NurbsIn<D>::fault() const {
    if (degree < 1 || degree > most_degree) return "its degree is not between 1 and 15";
    if (poles.size() < static_cast<std::size_t>(degree) + 1) return "it has too few control points for its degree";
    if (knots.size() != poles.size() + static_cast<std::size_t>(degree) + 1)
        return "the number of its knots does not fit its control points and degree";
    if (!weights.empty() && weights.size() != poles.size()) return "it has not one weight for each control point";
    for (const double k : knots)
        if (!std::isfinite(k)) return "a knot is not a finite number";
    if (!std::is_sorted(knots.begin(), knots.end())) return "its knots do not ascend";
    if (!(high() > low())) return "its knots span nothing";
    for (std::size_t i = 1; i + static_cast<std::size_t>(degree) < knots.size() - 1; ++i)
        if (!(knots[i + static_cast<std::size_t>(degree)] > knots[i]))
            return "a knot is repeated so often that the curve falls apart";
    for (const double w : weights)
        if (!(w > 0) || !std::isfinite(w)) return "a weight is not greater than zero";
    for (const auto& p : poles)
        for (const double x : p.c)
            if (!std::isfinite(x)) return "a control point is not finite";
    return nullptr;
}

template struct NurbsIn<2>;
template struct NurbsIn<3>;

namespace {

/// Replaces right sides by solutions. Rows are dominated by their middles, so no pivots are needed (Golub and Van Loan
/// 2013, Matrix Computations, sec. 4.3).
template <class Value>
void solve_tridiagonal(const std::vector<double>& below, std::vector<double> middle, const std::vector<double>& above,
                       std::vector<Value>& right) {
    const std::size_t n = middle.size();
    for (std::size_t i = 1; i < n; ++i) {
        const double factor = below[i] / middle[i - 1];
        middle[i] -= factor * above[i - 1];
        right[i] = right[i] - factor * right[i - 1];
    }
    right[n - 1] = (1 / middle[n - 1]) * right[n - 1];
    for (std::size_t i = n - 1; i-- > 0;) right[i] = (1 / middle[i]) * (right[i] - above[i] * right[i + 1]);
}

/// The same where the first row also has the last unknown (below) and the last row the first one (above): a
/// tridiagonal matrix and one of rank one (Sherman and Morrison 1950).
template <class Value>
void solve_cyclic(std::vector<double> below, std::vector<double> middle, std::vector<double> above,
                  std::vector<Value>& right) {
    const std::size_t n = middle.size();
    const double corner = below.front(), other = above.back(), gamma = -middle.front();
    below.front() = above.back() = 0;
    middle.front() -= gamma;
    middle.back() -= corner * other / gamma;
    std::vector<double> column(n, 0);
    column.front() = gamma;
    column.back() = other;
    solve_tridiagonal(below, middle, above, right);
    solve_tridiagonal(below, middle, above, column);
    const Value share =
        (right.front() + (corner / gamma) * right.back()) / (1 + column.front() + corner / gamma * column.back());
    for (std::size_t i = 0; i < n; ++i) right[i] = right[i] - column[i] * share;
}

}  // namespace

template <int D>
NurbsIn<D> spline_through(const std::vector<Vec<D>>& points) {
    const std::size_t n = points.size();
    const bool closed = n > 3 && points.front() == points.back();
    std::vector<double> t(n, 0);
    for (std::size_t i = 1; i < n; ++i) t[i] = t[i - 1] + distance(points[i - 1], points[i]);
    NurbsIn<D> s;
    if (n == 2) {
        s.degree = 1;
        s.knots = {0, 0, t[1], t[1]};
        s.poles = points;
        return s;
    }
    // Slopes m at the points from continuity of the second derivative (de Boor 1978, A Practical Guide to Splines,
    // ch. IV).
    const std::size_t unknowns = closed ? n - 1 : n;
    std::vector<double> below(unknowns, 0), middle(unknowns, 0), above(unknowns, 0);
    std::vector<Vec<D>> m(unknowns);
    const auto slope = [&](std::size_t i) { return (points[i + 1] - points[i]) / (t[i + 1] - t[i]); };
    for (std::size_t i = closed ? 0 : 1; i + 1 < n; ++i) {
        const std::size_t before = i == 0 ? n - 2 : i - 1;
        const double a = t[before + 1] - t[before], b = t[i + 1] - t[i];
        below[i] = b;
        middle[i] = 2 * (a + b);
        above[i] = a;
        m[i] = (slope(before) * b + slope(i) * a) * 3;
    }
    if (!closed) {  // no curvature at the ends
        middle.front() = middle.back() = 2;
        above.front() = below.back() = 1;
        m.front() = slope(0) * 3;
        m.back() = slope(n - 2) * 3;
    }
    if (closed)
        solve_cyclic(below, middle, above, m);
    else
        solve_tridiagonal(below, middle, above, m);
    const auto slope_at = [&](std::size_t i) { return m[i % unknowns]; };
    // Control points as blossoms of the pieces.
    s.knots.assign(4, t.front());
    s.knots.insert(s.knots.end(), t.begin() + 1, t.end() - 1);
    s.knots.insert(s.knots.end(), 4, t.back());
    for (std::size_t i = 0; i < n + 2; ++i) {
        const std::size_t piece = std::min(i > 1 ? i - 2 : 0, n - 2);
        const double h = t[piece + 1] - t[piece];
        std::array<Vec<D>, 4> b{points[piece], points[piece] + slope_at(piece) * (h / 3),
                                points[piece + 1] - slope_at(piece + 1) * (h / 3), points[piece + 1]};
        for (std::size_t r = 1; r <= 3; ++r) {
            const double x = (s.knots[i + r] - t[piece]) / h;
            for (std::size_t j = 0; j + r < 4; ++j) b[j] = b[j] * (1 - x) + b[j + 1] * x;
        }
        s.poles.push_back(b[0]);
    }
    return s;
}

template NurbsIn<2> spline_through<2>(const std::vector<Vec2>& points);
template NurbsIn<3> spline_through<3>(const std::vector<Vec3>& points);

}  // namespace dotsift
