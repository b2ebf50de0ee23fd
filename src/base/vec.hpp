#pragma once
// Small fixed-size vectors. One template serves plane and solid parts alike.

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>

namespace dotsift {

/// A point or direction in D-dimensional space; lengths in the study's length unit.
template <int D>
struct Vec {
    std::array<double, D> c{};

    constexpr double& operator[](std::size_t i) { return c[i]; }
    constexpr double operator[](std::size_t i) const { return c[i]; }
    [[nodiscard]] static constexpr std::size_t size() { return static_cast<std::size_t>(D); }
    [[nodiscard]] constexpr const double* data() const { return c.data(); }
    [[nodiscard]] constexpr double x() const { return c[0]; }
    [[nodiscard]] constexpr double y() const { return c[1]; }
    bool operator==(const Vec&) const = default;

    constexpr Vec& operator+=(const Vec& o) {
        for (std::size_t i = 0; i < D; ++i) c[i] += o.c[i];
        return *this;
    }
    constexpr Vec& operator-=(const Vec& o) {
        for (std::size_t i = 0; i < D; ++i) c[i] -= o.c[i];
        return *this;
    }
    constexpr Vec& operator*=(double s) {
        for (auto& v : c) v *= s;
        return *this;
    }
    friend constexpr Vec operator+(Vec a, const Vec& b) { return a += b; }
    friend constexpr Vec operator-(Vec a, const Vec& b) { return a -= b; }
    friend constexpr Vec operator*(Vec a, double s) { return a *= s; }
    friend constexpr Vec operator*(double s, Vec a) { return a *= s; }
    friend constexpr Vec operator/(Vec a, double s) { return a *= 1.0 / s; }
    friend constexpr Vec operator-(Vec a) { return a *= -1.0; }
};

using Vec2 = Vec<2>;
using Vec3 = Vec<3>;

template <int D>
constexpr double dot(const Vec<D>& a, const Vec<D>& b) {
    double s = 0;
    for (std::size_t i = 0; i < D; ++i) s += a.c[i] * b.c[i];
    return s;
}
template <int D>
double norm(const Vec<D>& a) {
    return std::sqrt(dot(a, a));
}
template <int D>
double distance(const Vec<D>& a, const Vec<D>& b) {
    return norm(a - b);
}

/// z-component of the cross product of two plane vectors.
constexpr double cross(const Vec2& a, const Vec2& b) {
    return a.c[0] * b.c[1] - a.c[1] * b.c[0];
}

constexpr Vec3 cross(const Vec3& a, const Vec3& b) {
    return {{a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}};
}

/// A plane vector, and a moment in the plane, among those of space.
constexpr Vec3 in_space(const Vec2& v) {
    return {{v[0], v[1], 0}};
}
constexpr Vec3 in_space(const Vec3& v) {
    return v;
}
constexpr Vec2 in_plane(const Vec3& v) {
    return {{v[0], v[1]}};
}
constexpr Vec3 moment_in_space(double moment) {
    return {{0, 0, moment}};
}

/// A plane vector turned by +90 degrees.
constexpr Vec2 turned_left(const Vec2& a) {
    return {{-a.c[1], a.c[0]}};
}

/// The point of a segment that is nearest to p.
template <int D>
Vec<D> nearest_on_segment(const Vec<D>& p, const Vec<D>& a, const Vec<D>& b) {
    const Vec<D> d = b - a;
    const double l2 = dot(d, d);
    const double t = l2 > 0 ? std::clamp(dot(p - a, d) / l2, 0.0, 1.0) : 0.0;
    return a + d * t;
}

/// Axis-aligned bounding box; empty until the first point is added.
template <int D>
struct Box {
    Vec<D> low, high;
    bool empty = true;

    void add(const Vec<D>& p) {
        if (empty) {
            low = high = p;
            empty = false;
            return;
        }
        for (std::size_t i = 0; i < D; ++i) {
            if (p.c[i] < low.c[i]) low.c[i] = p.c[i];
            if (p.c[i] > high.c[i]) high.c[i] = p.c[i];
        }
    }
    void add(const Box& b) {
        if (b.empty) return;
        add(b.low);
        add(b.high);
    }
    [[nodiscard]] Vec<D> size() const { return high - low; }
    [[nodiscard]] Vec<D> centre() const { return (low + high) * 0.5; }
    [[nodiscard]] double diagonal() const { return norm(high - low); }
    /// Distance from a point to the box; 0 inside.
    [[nodiscard]] double distance_to(const Vec<D>& p) const { return std::sqrt(squared_distance_to(p)); }
    [[nodiscard]] double squared_distance_to(const Vec<D>& p) const {
        double s = 0;
        for (std::size_t i = 0; i < D; ++i) {
            const double d = std::max({low.c[i] - p.c[i], p.c[i] - high.c[i], 0.0});
            s += d * d;
        }
        return s;
    }
};
using Box2 = Box<2>;

}  // namespace dotsift
