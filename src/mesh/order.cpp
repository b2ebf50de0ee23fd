#include "mesh/order.hpp"

#include <algorithm>
#include <array>
#include <cstdint>

namespace dotsift {

namespace {

constexpr std::uint32_t cells = 1U << 16;

std::uint32_t hilbert_index(std::uint32_t x, std::uint32_t y) {
    std::uint32_t d = 0;
    for (std::uint32_t s = cells / 2; s > 0; s /= 2) {
        const std::uint32_t rx = (x & s) ? 1 : 0, ry = (y & s) ? 1 : 0;
        d += s * s * ((3 * rx) ^ ry);
        if (ry == 0) {
            if (rx == 1) {
                x = cells - 1 - x;
                y = cells - 1 - y;
            }
            std::swap(x, y);
        }
    }
    return d;
}

}  // namespace

std::vector<int> hilbert_order(const std::vector<Vec2>& points) {
    Box2 box;
    for (const auto& p : points) box.add(p);
    const double extent = std::max({box.size()[0], box.size()[1], 1e-300});
    std::vector<std::uint64_t> keyed(points.size()), other(points.size());  // place on the curve, then the point
    for (std::size_t i = 0; i < points.size(); ++i) {
        const auto cell = [&](std::size_t axis) {
            return static_cast<std::uint32_t>((points[i][axis] - box.low[axis]) / extent * (cells - 1));
        };
        keyed[i] = static_cast<std::uint64_t>(hilbert_index(cell(0), cell(1))) << 32U | i;
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

}  // namespace dotsift
