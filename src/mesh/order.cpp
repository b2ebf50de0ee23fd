#include "mesh/order.hpp"

#include <algorithm>
#include <cstdint>
#include <numeric>

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
    std::vector<std::uint32_t> key(points.size());
    for (std::size_t i = 0; i < points.size(); ++i) {
        const auto cell = [&](std::size_t axis) {
            return static_cast<std::uint32_t>((points[i][axis] - box.low[axis]) / extent * (cells - 1));
        };
        key[i] = hilbert_index(cell(0), cell(1));
    }
    std::vector<int> order(points.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int a, int b) {
        const auto ka = key[static_cast<std::size_t>(a)], kb = key[static_cast<std::size_t>(b)];
        return ka != kb ? ka < kb : a < b;
    });
    return order;
}

}  // namespace dotsift
