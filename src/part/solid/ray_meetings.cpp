#include "part/solid/ray_meetings.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

namespace dotsift {

namespace {

constexpr int steps_of_profile = 24;  // between two of its knots
constexpr int halvings = 60;
// Nearer to where it would run along an axis a ray tells nothing.
constexpr double flattest_ray = 1e-3;
constexpr double beside_profile = 1e-9;  // of its parameter

/// Where a function of a profile's parameter changes its sign. Between two places with the same sign it may change
/// twice: that is looked for where it comes nearest to zero.
std::vector<double> roots(const Curve& profile, const std::function<double(double)>& g) {
    std::vector<double> at, value, found;
    const auto add = [&](double t) {
        at.push_back(t);
        value.push_back(g(t));
    };
    const auto marks = profile.smooth_pieces();
    add(0);
    for (std::size_t m = 1; m < marks.size(); ++m)
        for (int k = 1; k <= steps_of_profile; ++k)
            add(marks[m - 1] + (marks[m] - marks[m - 1]) * k / steps_of_profile);
    const auto between = [&](double low, double high, bool below) {  // below: the value at the lower one is < 0
        for (int h = 0; h < halvings; ++h) {
            const double middle = (low + high) / 2;
            ((g(middle) < 0) == below ? low : high) = middle;
        }
        found.push_back((low + high) / 2);
    };
    const std::size_t last = at.size() - 1;
    for (std::size_t k = 0; k <= last; ++k) {
        const bool below = value[k] < 0;
        if (k > 0 && (value[k - 1] < 0) != below) between(at[k - 1], at[k], value[k - 1] < 0);
        const auto nearer = [&](std::size_t other) {
            return (value[other] < 0) == below && std::fabs(value[k]) <= std::fabs(value[other]);
        };
        if ((k > 0 && !nearer(k - 1)) || (k < last && !nearer(k + 1))) continue;
        double low = at[k > 0 ? k - 1 : 0], high = at[std::min(k + 1, last)];
        const double golden = (std::sqrt(5.0) - 1) / 2, sign = below ? -1 : 1;
        for (int h = 0; h < halvings; ++h) {
            const double a = high - golden * (high - low), b = low + golden * (high - low);
            const double ga = sign * g(a), gb = sign * g(b);
            if (std::min(ga, gb) < 0) {
                const double inside = ga < 0 ? a : b;
                between(at[k > 0 ? k - 1 : 0], inside, below);
                between(inside, at[std::min(k + 1, last)], !below);
                break;
            }
            (ga < gb ? high : low) = ga < gb ? b : a;
        }
    }
    return found;
}

/// Where a polynomial of degree N, with the constant first, changes its sign between low and high: between the places
/// where its slope does.
template <std::size_t N>
std::vector<double> sign_changes(const std::array<double, N + 1>& c, double low, double high) {
    const auto value = [&](double s) {
        double v = c[N];
        for (std::size_t k = N; k-- > 0;) v = v * s + c[k];
        return v;
    };
    std::vector<double> marks{low}, found;
    if constexpr (N > 1) {
        std::array<double, N> slope{};
        for (std::size_t k = 1; k <= N; ++k) slope[k - 1] = static_cast<double>(k) * c[k];
        for (const double s : sign_changes<N - 1>(slope, low, high)) marks.push_back(s);
    }
    marks.push_back(high);
    for (std::size_t m = 1; m < marks.size(); ++m) {
        double a = marks[m - 1], b = marks[m];
        const bool below = value(a) < 0;
        if ((value(b) < 0) == below) continue;
        for (int h = 0; h < halvings; ++h) {
            const double middle = (a + b) / 2;
            ((value(middle) < 0) == below ? a : b) = middle;
        }
        found.push_back((a + b) / 2);
    }
    return found;
}

/// Where an arc of a circle that is turned is met: shares of the ray, by the equation of degree 4 of the whole ring,
/// (|p|^2 + R^2 - r^2)^2 = 4 R^2 (x^2 + y^2), as far as the profile goes.
std::vector<double> shares_of_ring(const Curve& profile, const Vec3& o, const Vec3& d) {
    constexpr double on_profile = 1e-6;  // of its radius: squares hold for the ring turned inside out, too
    const double big = profile.centre()[0], small = distance(profile.start(), profile.centre());
    const Vec3 from = o - Vec3{{0, 0, profile.centre()[1]}};
    const double a = dot(d, d), nearest = -dot(from, d) / a;
    const Vec3 p = from + d * nearest;  // shares count from here
    const double near2 = dot(p, p), reach2 = (big + small) * (big + small) - near2;
    std::vector<double> out;
    if (!(reach2 > 0)) return out;
    const double b = near2 + big * big - small * small, four = 4 * big * big, end = std::sqrt(reach2 / a) * (1 + 1e-9);
    const std::array<double, 5> c{b * b - four * (p[0] * p[0] + p[1] * p[1]), -2 * four * (p[0] * d[0] + p[1] * d[1]),
                                  2 * a * b - four * (d[0] * d[0] + d[1] * d[1]), 0, a * a};
    for (const double s : sign_changes<4>(c, -end, end)) {
        const Vec3 at = o + d * (s + nearest);
        const Vec2 flat{{std::hypot(at[0], at[1]), at[2]}};
        if (std::fabs(distance(flat, profile.centre()) - small) > on_profile * small) continue;
        const double t = profile.project(flat);  // beyond its ends: one of them
        if ((t > 0 && t < 1) || profile.closed()) out.push_back(s + nearest);
    }
    return out;
}

/// Where a straight profile that is turned, or an arc of a circle about the axis, or one that is drawn, is met: shares
/// of the ray, by the quadratic equation of the whole cone, sphere or cylinder, as far as the profile goes. Nothing:
/// another profile.
std::optional<std::vector<double>> exact_shares(const Surface& surface, const Vec3& o, const Vec3& d) {
    const Curve& profile = surface.profile();
    const bool turned = surface.kind() == Surface::Kind::turned;
    const bool arc = profile.kind() == Curve::Kind::arc && profile.circular();
    const bool ball =
        turned && arc && std::fabs(profile.centre()[0]) <= beside_profile * distance(profile.centre(), profile.start());
    if (turned && arc && !ball) return shares_of_ring(profile, o, d);
    if (turned ? !profile.straight() && !ball : !arc) return std::nullopt;
    // a share² + 2 b share + c = 0
    double a = 0, b = 0, c = 0, slope = 0, base = 0;
    const Vec2 first = profile.start(), last = profile.end();
    if (ball) {
        const Vec3 from = o - Vec3{{0, 0, profile.centre()[1]}};
        a = dot(d, d);
        b = dot(from, d);
        c = dot(from, from) - dot(first - profile.centre(), first - profile.centre());
    } else if (turned) {  // r = base + slope z
        slope = (last[0] - first[0]) / (last[1] - first[1]);
        base = first[0] - slope * first[1];
        const double r = base + slope * o[2], dr = slope * d[2];
        a = d[0] * d[0] + d[1] * d[1] - dr * dr;
        b = o[0] * d[0] + o[1] * d[1] - r * dr;
        c = o[0] * o[0] + o[1] * o[1] - r * r;
    } else {
        const Vec2 from = Vec2{{o[0], o[1]}} - profile.centre(), way{{d[0], d[1]}};
        a = dot(way, way);
        b = dot(from, way);
        c = dot(from, from) - dot(first - profile.centre(), first - profile.centre());
    }
    const double under = b * b - a * c;
    if (!(under > 0)) return std::vector<double>{};
    const double q = -(b + std::copysign(std::sqrt(under), b));
    std::vector<double> out;
    for (const double share : {q / a, c / q}) {
        if (!std::isfinite(share)) continue;
        const Vec3 at = o + d * share;
        if (ball) {
            const double t = profile.project({{std::hypot(at[0], at[1]), at[2]}});  // beyond its ends: one of them
            if (t > 0 && t < 1) out.push_back(share);
            continue;
        }
        if (turned) {
            const double t = (at[2] - first[1]) / (last[1] - first[1]);
            if (t >= 0 && t <= 1 && base + slope * at[2] >= 0) out.push_back(share);
            continue;
        }
        const double t = profile.project({{at[0], at[1]}});  // beyond its ends: one of them
        if ((t > 0 && t < 1) || profile.closed()) out.push_back(share);
    }
    return out;
}

/// Places of a ray on a spline surface: Newton's method from each cell of its grid that the ray comes near. Nothing if
/// it grazes the surface.
std::optional<std::vector<Vec3>> meetings_of_spline(const Surface& surface, const Vec3& from, const Vec3& along) {
    constexpr double reach = 1.2;  // cells bend less
    constexpr int rounds = 20;
    constexpr double closed = 1e-12, beyond = 1e-9, grazing = 1e-4;
    const SplineSurface& spline = surface.spline();
    const auto& grid = surface.grid();
    const auto &us = grid.lines(0), &vs = grid.lines(1);
    std::vector<Vec3> out;
    std::vector<Vec2> known;
    for (std::size_t i = 0; i + 1 < us.size(); ++i)
        for (std::size_t j = 0; j + 1 < vs.size(); ++j) {
            const std::array<Vec3, 4> corners{grid.place(i, j), grid.place(i + 1, j), grid.place(i, j + 1),
                                              grid.place(i + 1, j + 1)};
            const Vec3 middle = (corners[0] + corners[1] + corners[2] + corners[3]) * 0.25;
            double radius = 0;
            for (const Vec3& c : corners) radius = std::max(radius, distance(c, middle));
            const double ahead = dot(middle - from, along) / dot(along, along);
            if (distance(from + along * ahead, middle) > reach * radius) continue;
            const Vec2 cell{{us[i + 1] - us[i], vs[j + 1] - vs[j]}};
            Vec2 at{{(us[i] + us[i + 1]) / 2, (vs[j] + vs[j + 1]) / 2}};
            double share = ahead;
            bool found = false;
            for (int round = 0; round < rounds && !found; ++round) {
                const auto s = spline.at(at, 1);
                const Vec3 n = cross(s.du, s.dv), miss = s.point - from - along * share;
                const double det = dot(n, along), size = norm(n) * norm(along);
                if (!(std::fabs(det) > grazing * size)) return std::nullopt;
                // du x + dv y - along z = -miss, by Cramer's rule
                const double x = -dot(cross(s.dv, along), miss) / det, y = -dot(cross(along, s.du), miss) / det;
                share += dot(n, miss) / det;
                at += Vec2{{x, y}};
                found = std::fabs(x) <= closed * cell[0] && std::fabs(y) <= closed * cell[1];
                // It runs off to what another cell finds.
                if (std::fabs(at[0] - (us[i] + us[i + 1]) / 2) > 2 * cell[0] ||
                    std::fabs(at[1] - (vs[j] + vs[j + 1]) / 2) > 2 * cell[1])
                    break;
            }
            const Vec2 low = spline.low(), high = spline.high(), rim = (high - low) * beyond;
            if (!found || share <= 0 || at[0] < low[0] - rim[0] || at[0] > high[0] + rim[0] ||
                at[1] < low[1] - rim[1] || at[1] > high[1] + rim[1])
                continue;
            const bool again = std::any_of(known.begin(), known.end(), [&](const Vec2& k) {
                return std::fabs(k[0] - at[0]) <= beyond * (high[0] - low[0]) &&
                       std::fabs(k[1] - at[1]) <= beyond * (high[1] - low[1]);
            });
            if (again) continue;
            known.push_back(at);
            out.push_back(from + along * share);
        }
    return out;
}

}  // namespace

std::optional<std::vector<Vec3>> meetings(const Surface& surface, const Vec3& from, const Vec3& along) {
    if (surface.kind() == Surface::Kind::spline) return meetings_of_spline(surface, from, along);
    if (surface.kind() == Surface::Kind::facets) return surface.facets().crossings(from, along);
    const Frame& f = surface.frame();
    const Vec3 o = f.in(from), d{{dot(along, f.axis[0]), dot(along, f.axis[1]), dot(along, f.axis[2])}};
    std::vector<double> shares;
    if (surface.kind() == Surface::Kind::plane) {
        if (std::fabs(d[2]) < flattest_ray) return std::nullopt;
        shares.push_back(-o[2] / d[2]);
    } else if (surface.kind() == Surface::Kind::drawn) {
        const Vec2 origin{{o[0], o[1]}}, way{{d[0], d[1]}};
        if (norm(way) < flattest_ray) return std::nullopt;
        const Curve& profile = surface.profile();
        if (profile.straight()) {  // a plane
            const Vec2 side = profile.end() - profile.start();
            const double across = cross(way, side);
            if (std::fabs(across) < flattest_ray * norm(way) * norm(side)) return std::nullopt;
            const double share = cross(profile.start() - origin, side) / across;
            const double t = dot(origin + way * share - profile.start(), side) / dot(side, side);
            if (t >= -beside_profile && t <= 1 + beside_profile) shares.push_back(share);  // its rim decides
        } else if (auto exact = exact_shares(surface, o, d))
            shares = std::move(*exact);
        else
            for (const double t : roots(profile, [&](double s) { return cross(way, profile.point(s) - origin); }))
                shares.push_back(dot(profile.point(t) - origin, way) / dot(way, way));
    } else {
        if (std::fabs(d[2]) < flattest_ray) return std::nullopt;
        const Curve& profile = surface.profile();
        const auto share = [&](double t) { return (profile.point(t)[1] - o[2]) / d[2]; };
        // A profile across the axis keeps its height: the ray meets it once.
        const Vec2 a = profile.start(), b = profile.end();
        if (profile.straight() && std::fabs(b[1] - a[1]) <= flattest_ray * std::fabs(b[0] - a[0])) {
            shares.push_back(share(0.5));
        } else if (auto exact = exact_shares(surface, o, d)) {
            shares = std::move(*exact);
        } else {
            for (const double t : roots(profile, [&](double s) {
                     const double l = share(s), r = profile.point(s)[0];
                     return std::hypot(o[0] + d[0] * l, o[1] + d[1] * l) - r;
                 }))
                shares.push_back(share(t));
        }
    }
    std::vector<Vec3> out;
    for (const double s : shares)
        if (s > 0) out.push_back(from + along * s);
    return out;
}

}  // namespace dotsift
