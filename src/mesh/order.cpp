#include "mesh/order.hpp"

#include <algorithm>
#include <array>
#include <cstdint>

namespace dotsift {

namespace {

/// A place takes 32 bits at most.
template <int D>
constexpr unsigned bits_each_way = 32 / D;

/// The number of a cell along the curve (Skilling 2004, AIP Conf. Proc. 707, 381).
template <int D>
std::uint32_t hilbert_index(std::array<std::uint32_t, D> x) {
    constexpr std::uint32_t top = 1U << (bits_each_way<D> - 1);
    for (std::uint32_t q = top; q > 1; q >>= 1U) {
        const std::uint32_t low = q - 1;
        for (auto& along : x) {
            if (along & q) {
                x[0] ^= low;
            } else {
                const std::uint32_t t = (x[0] ^ along) & low;
                x[0] ^= t;
                along ^= t;
            }
        }
    }
    for (std::size_t a = 1; a < x.size(); ++a) x[a] ^= x[a - 1];
    std::uint32_t turn = 0;
    for (std::uint32_t q = top; q > 1; q >>= 1U)
        if (x.back() & q) turn ^= q - 1;
    std::uint32_t place = 0;
    for (std::uint32_t q = top; q > 0; q >>= 1U)
        for (const auto along : x) place = place << 1U | ((along ^ turn) & q ? 1U : 0U);
    return place;
}

}  // namespace

template <int D>
std::vector<int> hilbert_order(const std::vector<Vec<D>>& points) {
    Box<D> box;
    for (const auto& p : points) box.add(p);
    double extent = 1e-300;
    for (std::size_t a = 0; a < box.low.size(); ++a) extent = std::max(extent, box.size()[a]);
    constexpr double cells = static_cast<double>((std::uint64_t{1} << bits_each_way<D>)-1);
    std::vector<std::uint64_t> keyed(points.size()), other(points.size());  // place on the curve, then the point
    for (std::size_t i = 0; i < points.size(); ++i) {
        std::array<std::uint32_t, D> cell{};
        for (std::size_t a = 0; a < cell.size(); ++a)
            cell[a] = static_cast<std::uint32_t>((points[i][a] - box.low[a]) / extent * cells);
        keyed[i] = static_cast<std::uint64_t>(hilbert_index<D>(cell)) << 32U | i;
    }
    // By digits of the place, lowest first: points at the same place keep their order.
    constexpr unsigned digit_bits = 11;
    constexpr std::size_t digits = 1U << digit_bits;
    for (unsigned shift = 32; shift < 64; shift += digit_bits) {
        std::array<std::size_t, digits + 1> first{};
        const auto digit = [&](std::uint64_t k) { return static_cast<std::size_t>(k >> shift) % digits; };
        for (const auto k : keyed) ++first[digit(k) + 1];
        for (std::size_t d = 0; d < digits; ++d) first[d + 1] += first[d];
        for (const auto k : keyed) other[first[digit(k)]++] = k;
        keyed.swap(other);
    }
    std::vector<int> order(points.size());
    for (std::size_t k = 0; k < order.size(); ++k) order[k] = static_cast<int>(keyed[k] & 0xFFFFFFFFU);
    return order;
}
template std::vector<int> hilbert_order<2>(const std::vector<Vec2>&);
template std::vector<int> hilbert_order<3>(const std::vector<Vec3>&);

}  // namespace dotsift
