#include "base/predicates.hpp"

#include <algorithm>
#include <bit>
#include <boost/multiprecision/cpp_int.hpp>
#include <climits>
#include <cmath>
#include <cstdint>

namespace dotsift {

namespace {

using boost::multiprecision::cpp_int;
using boost::multiprecision::int512_t;
using ShortInteger = __int128;

/// Doubles as integers times one common power of two, so that sums and products are exact.
template <std::size_t N>
class CommonScale {
  public:
    explicit CommonScale(const std::array<double, N>& values) {
        constexpr int fraction_bits = 52, exponents = 0x7ff;
        int lowest = INT_MAX, highest = INT_MIN;
        for (std::size_t i = 0; i < N; ++i) {
            const auto bits = std::bit_cast<std::uint64_t>(values[i]);
            auto m = static_cast<std::int64_t>(bits & ((std::uint64_t{1} << fraction_bits) - 1));
            int e = static_cast<int>(bits >> fraction_bits) & exponents;
            if (e > 0)
                m |= std::int64_t{1} << fraction_bits;
            else
                e = 1;
            if (m == 0) continue;
            highest = std::max(highest, e + fraction_bits + 1);
            const int zeros = std::countr_zero(static_cast<std::uint64_t>(m));
            mantissa_[i] = std::signbit(values[i]) ? -(m >> zeros) : m >> zeros;
            exponent_[i] = e + zeros;
            lowest = std::min(lowest, exponent_[i]);
        }
        for (std::size_t i = 0; i < N; ++i)
            if (mantissa_[i] != 0) exponent_[i] -= lowest;
        bits_ = highest < lowest ? 0 : highest - lowest;
    }
    /// Every integer is less than 2 to the power of this.
    [[nodiscard]] int bits() const { return bits_; }
    template <class Int>
    [[nodiscard]] std::array<Int, N> integers() const {
        std::array<Int, N> out;
        for (std::size_t i = 0; i < N; ++i) out[i] = Int(mantissa_[i]) * (Int(1) << exponent_[i]);
        return out;
    }

  private:
    std::array<std::int64_t, N> mantissa_{};
    std::array<int, N> exponent_{};
    int bits_ = 0;
};

/// The sum of two doubles that do not overlap: 106 bits. Dekker 1971, Numer. Math. 18; the operations and their errors,
/// at most 7 roundoffs squared, Joldes, Muller & Popescu 2017, ACM Trans. Math. Softw. 44 (algorithms 6 and 10).
struct Twofold {
    double high = 0, low = 0;

    static Twofold sum(double a, double b) {
        const double s = a + b, part = s - a;
        return {s, (a - (s - part)) + (b - part)};
    }
    static Twofold ordered_sum(double larger, double smaller) {
        const double s = larger + smaller;
        return {s, smaller - (s - larger)};
    }
    static Twofold product(double a, double b) {
        constexpr double splitter = 134217729;  // 2^27 + 1
        const double ca = splitter * a, cb = splitter * b, a1 = ca - (ca - a), b1 = cb - (cb - b), a2 = a - a1,
                     b2 = b - b1, p = a * b;
        return {p, ((a1 * b1 - p) + a1 * b2 + a2 * b1) + a2 * b2};
    }
    friend Twofold operator+(const Twofold& a, const Twofold& b) {
        const Twofold high = sum(a.high, b.high), low = sum(a.low, b.low);
        const Twofold first = ordered_sum(high.high, high.low + low.high);
        return ordered_sum(first.high, low.low + first.low);
    }
    friend Twofold operator-(const Twofold& a) { return {-a.high, -a.low}; }
    friend Twofold operator-(const Twofold& a, const Twofold& b) { return a + -b; }
    friend Twofold operator*(const Twofold& a, const Twofold& b) {
        const Twofold p = product(a.high, b.high);
        return ordered_sum(p.high, p.low + (a.high * b.low + a.low * b.high));
    }
};

/// What the terms of a polynomial can sum up to.
struct Size {
    double value = 0;
    friend Size operator+(const Size& a, const Size& b) { return {a.value + b.value}; }
    friend Size operator-(const Size& a, const Size& b) { return a + b; }
    friend Size operator-(const Size& a) { return a; }
    friend Size operator*(const Size& a, const Size& b) { return {a.value * b.value}; }
};

/// The sign of a polynomial of the differences between points and the last of them; `dimension` numbers each. It sums
/// at most 2^carry products of `degree` differences. First by short integers, which lattices give, where filters fail
/// most; then by twofold numbers; at last by integers as wide as is needed, nearly always of a fixed width, which take
/// no memory.
template <std::size_t dimension, std::size_t N, class Polynomial>
double exact_sign(const std::array<double, N>& values, int degree, int carry, Polynomial polynomial) {
    const auto differences = [&]<class Number>(const std::array<Number, N>& v) {
        std::array<Number, N - dimension> out;
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = v[i] - v[N - dimension + i % dimension];
        return out;
    };
    const auto sign = [](const auto& value) { return value > 0 ? 1.0 : value < 0 ? -1.0 : 0.0; };
    const CommonScale<N> scale(values);
    const int needed = degree * (scale.bits() + 1) + carry;
    if (needed < 127) return sign(polynomial(differences(scale.template integers<ShortInteger>())));
    std::array<Twofold, N> twofold;
    for (std::size_t i = 0; i < N; ++i) twofold[i].high = values[i];
    const auto exact = differences(twofold);
    std::array<Size, N - dimension> sizes;
    for (std::size_t i = 0; i < sizes.size(); ++i) sizes[i].value = std::fabs(exact[i].high);
    // Seven roundoffs squared for each of at most nine operations that a term goes through, and as much again for the
    // size's own rounding.
    constexpr double bound = 2 * 7 * 9 * predicates::unit_roundoff * predicates::unit_roundoff;
    const double value = polynomial(exact).high, size = polynomial(sizes).value;
    // Where products underflow, no bound holds.
    constexpr double safe = 1e-200;
    if (size > safe && size < 1 / safe && std::fabs(value) > bound * size) return sign(value);
    if (needed < 512) return sign(polynomial(differences(scale.template integers<int512_t>())));
    return sign(polynomial(differences(scale.template integers<cpp_int>())));
}

template <class Number>
struct Arrow {
    Number x, y, z;
    template <std::size_t N>
    Arrow(const std::array<Number, N>& d, std::size_t k) : x(d[3 * k]), y(d[3 * k + 1]), z(d[3 * k + 2]) {}
    [[nodiscard]] Number length2() const { return Number(x * x) + Number(y * y) + Number(z * z); }
};
template <class Number>
Number determinant(const Arrow<Number>& a, const Arrow<Number>& b, const Arrow<Number>& c) {
    const Number ab = a.x * b.y - b.x * a.y, bc = b.x * c.y - c.x * b.y, ca = c.x * a.y - a.x * c.y;
    return Number(a.z * bc) + Number(b.z * ca) + Number(c.z * ab);
}

}  // namespace

namespace predicates {

double exact_orientation(const Vec2& a, const Vec2& b, const Vec2& c) {
    return exact_sign<2, 6>({a[0], a[1], b[0], b[1], c[0], c[1]}, 2, 1, [](const auto& d) {
        using Number = std::decay_t<decltype(d[0])>;
        return Number(d[0] * d[3] - d[1] * d[2]);
    });
}

double exact_in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    return exact_sign<2, 8>({a[0], a[1], b[0], b[1], c[0], c[1], d[0], d[1]}, 4, 4, [](const auto& v) {
        using Number = std::decay_t<decltype(v[0])>;
        const Number &ax = v[0], &ay = v[1], &bx = v[2], &by = v[3], &cx = v[4], &cy = v[5];
        const Number aa = ax * ax + ay * ay, bb = bx * bx + by * by, cc = cx * cx + cy * cy;
        const Number bc = bx * cy - by * cx, ca = cx * ay - cy * ax, ab = ax * by - ay * bx;
        return Number(aa * bc + bb * ca + cc * ab);
    });
}

double exact_orientation(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    return exact_sign<3, 12>(
        {a[0], a[1], a[2], b[0], b[1], b[2], c[0], c[1], c[2], d[0], d[1], d[2]}, 3, 3, [](const auto& v) {
            using Number = std::decay_t<decltype(v[0])>;
            return Number(-determinant(Arrow<Number>(v, 0), Arrow<Number>(v, 1), Arrow<Number>(v, 2)));
        });
}

double exact_in_sphere(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d, const Vec3& e) {
    return exact_sign<3, 15>({a[0], a[1], a[2], b[0], b[1], b[2], c[0], c[1], c[2], d[0], d[1], d[2], e[0], e[1], e[2]},
                             5, 7, [](const auto& v) {
                                 using Number = std::decay_t<decltype(v[0])>;
                                 const Arrow<Number> p(v, 0), q(v, 1), r(v, 2), s(v, 3);
                                 const Number first = p.length2() * determinant(q, r, s),
                                              second = q.length2() * determinant(r, s, p),
                                              third = r.length2() * determinant(s, p, q),
                                              fourth = s.length2() * determinant(p, q, r);
                                 return Number(Number(first - second) + Number(third - fourth));
                             });
}

}  // namespace predicates

}  // namespace dotsift
