#include "base/predicates.hpp"

#include <algorithm>
#include <bit>
#include <boost/multiprecision/cpp_int.hpp>
#include <climits>
#include <cmath>
#include <cstdint>

namespace dotsift {

namespace {

// Without expression templates: sums of products are kept as values.
using LongInteger =
    boost::multiprecision::number<boost::multiprecision::cpp_int_backend<>, boost::multiprecision::et_off>;
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
        for (std::size_t i = 0; i < N; ++i) out[i] = static_cast<Int>(mantissa_[i]) << exponent_[i];
        return out;
    }

  private:
    std::array<std::int64_t, N> mantissa_{};
    std::array<int, N> exponent_{};
    int bits_ = 0;
};

/// Integers of a fixed number of words, in two's complement; a product has as many as both factors together, so that
/// each step takes no more than it needs. Differences of two bits less than a word leave room for the sums.
template <std::size_t words>
struct Fixed {
    static constexpr int most_bits = 62;
    std::array<std::uint64_t, words> word{};

    [[nodiscard]] bool negative() const { return word[words - 1] >> 63 != 0; }
    /// Less `other`, shifted by whole words.
    template <std::size_t n>
    void subtract(const Fixed<n>& other, std::size_t shift) {
        std::uint64_t borrow = 0;
        for (std::size_t i = shift; i < words; ++i) {
            const std::uint64_t o = i - shift < n ? other.word[i - shift] : other.negative() ? ~std::uint64_t{0} : 0;
            const unsigned __int128 d = static_cast<unsigned __int128>(word[i]) - o - borrow;
            word[i] = static_cast<std::uint64_t>(d);
            borrow = static_cast<std::uint64_t>(d >> 64) & 1;
        }
    }
    friend Fixed operator-(const Fixed& a, const Fixed& b) {
        Fixed out = a;
        out.subtract(b, 0);
        return out;
    }
    friend Fixed operator-(const Fixed& a) { return Fixed{} - a; }
    friend Fixed operator+(const Fixed& a, const Fixed& b) {
        Fixed out;
        unsigned __int128 carry = 0;
        for (std::size_t i = 0; i < words; ++i) {
            carry += static_cast<unsigned __int128>(a.word[i]) + b.word[i];
            out.word[i] = static_cast<std::uint64_t>(carry);
            carry >>= 64;
        }
        return out;
    }
    friend bool operator<(const Fixed& a, int) { return a.negative(); }
    friend bool operator>(const Fixed& a, int) {
        return !a.negative() && std::any_of(a.word.begin(), a.word.end(), [](std::uint64_t w) { return w != 0; });
    }
};
template <std::size_t n, std::size_t m>
Fixed<n + m> operator*(const Fixed<n>& a, const Fixed<m>& b) {
    Fixed<n + m> out;
    for (std::size_t i = 0; i < n; ++i) {
        std::uint64_t carry = 0;
        for (std::size_t j = 0; j < m; ++j) {
            const auto p = static_cast<unsigned __int128>(a.word[i]) * b.word[j] + out.word[i + j] + carry;
            out.word[i + j] = static_cast<std::uint64_t>(p);
            carry = static_cast<std::uint64_t>(p >> 64);
        }
        out.word[i + m] = carry;
    }
    // As if both had no sign; what that adds is taken away again.
    if (a.negative()) out.subtract(b, n);
    if (b.negative()) out.subtract(a, m);
    return out;
}

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

double sign_of(const auto& value) {
    return value > 0 ? 1.0 : value < 0 ? -1.0 : 0.0;
}

/// The differences of integers without the powers of two that all of them have, and how many bits they need.
template <std::size_t M>
struct ShortDifferences {
    std::array<ShortInteger, M> value{};
    int bits = 0;

    void trim() {
        unsigned __int128 all = 0;
        for (const auto v : value) all |= static_cast<unsigned __int128>(v < 0 ? -v : v);
        if (all == 0) return;
        const auto low = static_cast<std::uint64_t>(all), high = static_cast<std::uint64_t>(all >> 64);
        const int zeros = low != 0 ? std::countr_zero(low) : 64 + std::countr_zero(high);
        bits = (high != 0 ? 128 - std::countl_zero(high) : 64 - std::countl_zero(low)) - zeros;
        for (auto& v : value) v >>= zeros;  // exact, whatever the sign
    }
    [[nodiscard]] std::array<Fixed<1>, M> fixed() const {
        std::array<Fixed<1>, M> out;
        for (std::size_t i = 0; i < M; ++i) out[i].word[0] = static_cast<std::uint64_t>(value[i]);
        return out;
    }
};

/// The sign of a polynomial of the differences between points and the last of them; `dimension` numbers each. It sums
/// at most 2^carry products of `degree` differences. First by short integers, which lattices give, where filters fail
/// most, or by ones of a few words; where numbers of very different sizes meet, by twofold numbers, and what they do
/// not tell by integers as long as is needed.
template <std::size_t dimension, std::size_t N, class Polynomial>
double exact_sign(const std::array<double, N>& values, int degree, int carry, Polynomial polynomial) {
    const auto differences = [&]<class Number>(const std::array<Number, N>& v) {
        std::array<Number, N - dimension> out;
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = v[i] - v[N - dimension + i % dimension];
        return out;
    };
    const CommonScale<N> scale(values);
    const bool are_short = scale.bits() < 126;
    ShortDifferences<N - dimension> exact;
    if (are_short) {
        exact.value = differences(scale.template integers<ShortInteger>());
        exact.trim();
        if (degree * exact.bits + carry < 127) return sign_of(polynomial(exact.value));
        if (exact.bits <= Fixed<1>::most_bits) return sign_of(polynomial(exact.fixed()));
    }
    std::array<Twofold, N> twofold;
    for (std::size_t i = 0; i < N; ++i) twofold[i].high = values[i];
    const auto close = differences(twofold);
    std::array<Size, N - dimension> sizes;
    for (std::size_t i = 0; i < sizes.size(); ++i) sizes[i].value = std::fabs(close[i].high);
    // Seven roundoffs squared for each of at most nine operations that a term goes through, and as much again for the
    // size's own rounding.
    constexpr double bound = 2 * 7 * 9 * predicates::unit_roundoff * predicates::unit_roundoff;
    const double value = polynomial(close).high, size = polynomial(sizes).value;
    // Where products underflow, no bound holds.
    constexpr double safe = 1e-200;
    if (size > safe && size < 1 / safe && std::fabs(value) > bound * size) return sign_of(value);
    return sign_of(polynomial(differences(scale.template integers<LongInteger>())));
}

template <class Number>
struct Arrow {
    Number x, y, z;
    template <std::size_t N>
    Arrow(const std::array<Number, N>& d, std::size_t k) : x(d[3 * k]), y(d[3 * k + 1]), z(d[3 * k + 2]) {}
    [[nodiscard]] auto length2() const { return x * x + y * y + z * z; }
};
template <class Number>
auto determinant(const Arrow<Number>& a, const Arrow<Number>& b, const Arrow<Number>& c) {
    const auto ab = a.x * b.y - b.x * a.y, bc = b.x * c.y - c.x * b.y, ca = c.x * a.y - a.x * c.y;
    return bc * a.z + ca * b.z + ab * c.z;
}

}  // namespace

namespace predicates {

double exact_orientation(const Vec2& a, const Vec2& b, const Vec2& c) {
    return exact_sign<2, 6>({a[0], a[1], b[0], b[1], c[0], c[1]}, 2, 1,
                            [](const auto& d) { return d[0] * d[3] - d[1] * d[2]; });
}

double exact_in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    return exact_sign<2, 8>({a[0], a[1], b[0], b[1], c[0], c[1], d[0], d[1]}, 4, 4, [](const auto& v) {
        const auto &ax = v[0], &ay = v[1], &bx = v[2], &by = v[3], &cx = v[4], &cy = v[5];
        const auto aa = ax * ax + ay * ay, bb = bx * bx + by * by, cc = cx * cx + cy * cy;
        const auto bc = bx * cy - by * cx, ca = cx * ay - cy * ax, ab = ax * by - ay * bx;
        return aa * bc + bb * ca + cc * ab;
    });
}

double exact_orientation(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    return exact_sign<3, 12>({a[0], a[1], a[2], b[0], b[1], b[2], c[0], c[1], c[2], d[0], d[1], d[2]}, 3, 3,
                             [](const auto& v) { return -determinant(Arrow(v, 0), Arrow(v, 1), Arrow(v, 2)); });
}

double exact_in_sphere(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d, const Vec3& e) {
    return exact_sign<3, 15>({a[0], a[1], a[2], b[0], b[1], b[2], c[0], c[1], c[2], d[0], d[1], d[2], e[0], e[1], e[2]},
                             5, 7, [](const auto& v) {
                                 const Arrow p(v, 0), q(v, 1), r(v, 2), s(v, 3);
                                 const auto first = determinant(q, r, s) * p.length2(),
                                            second = determinant(r, s, p) * q.length2(),
                                            third = determinant(s, p, q) * r.length2(),
                                            fourth = determinant(p, q, r) * s.length2();
                                 return (first - second) + (third - fourth);
                             });
}

}  // namespace predicates

}  // namespace dotsift
