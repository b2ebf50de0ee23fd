#include "evidence/raster.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace dotsift {

namespace {

constexpr int samples_each_way = 2;
constexpr int curved_pieces = 4;  // each way, for elements with a curved side

}  // namespace

Raster::Raster(const Box2& box)
    : box_(box),
      columns_(static_cast<int>(std::ceil(box.size()[0]))),
      rows_(static_cast<int>(std::ceil(box.size()[1]))),
      samples_(
          static_cast<std::size_t>(columns_) * samples_each_way * static_cast<std::size_t>(rows_) * samples_each_way,
          std::numeric_limits<float>::quiet_NaN()) {}

void Raster::paint(ElementKind kind, const std::array<Vec2, most_element_nodes>& positions,
                   const std::array<double, most_element_nodes>& values) {
    const int width = columns_ * samples_each_way, height = rows_ * samples_each_way;
    const auto count = static_cast<std::size_t>(node_count(kind));
    const bool flat = std::all_of(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(count),
                                  [&](double v) { return v == values[0]; });
    const auto sub_triangle = [&](const std::array<Vec2, 3>& xi) {
        std::array<Vec2, 3> p{};
        for (std::size_t k = 0; k < 3; ++k) {
            std::array<double, most_element_nodes> n{};
            shape_values(kind, xi[k], n);
            for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) p[k] += positions[i] * n[i];
            p[k] = (p[k] - box_.low) * samples_each_way - Vec2{{0.5, 0.5}};  // sample centres at whole numbers
        }
        const double area = cross(p[1] - p[0], p[2] - p[0]);
        if (area == 0) return;
        Box2 b;
        for (const auto& q : p) b.add(q);
        const int x0 = std::max(0, static_cast<int>(std::ceil(b.low[0]))),
                  x1 = std::min(width - 1, static_cast<int>(std::floor(b.high[0])));
        const int y0 = std::max(0, static_cast<int>(std::ceil(b.low[1]))),
                  y1 = std::min(height - 1, static_cast<int>(std::floor(b.high[1])));
        for (int y = y0; y <= y1; ++y) {
            for (int x = x0; x <= x1; ++x) {
                const Vec2 s{{static_cast<double>(x), static_cast<double>(y)}};
                const double w1 = cross(s - p[0], p[2] - p[0]) / area, w2 = cross(p[1] - p[0], s - p[0]) / area;
                constexpr double rim = 1e-9;  // of the triangle: neighbours overlap by it rather than leave gaps
                if (w1 < -rim || w2 < -rim || w1 + w2 > 1 + rim) continue;
                double v = values[0];
                if (!flat) {
                    const Vec2 at = xi[0] * (1 - w1 - w2) + xi[1] * w1 + xi[2] * w2;
                    std::array<double, most_element_nodes> n{};
                    shape_values(kind, at, n);
                    v = 0;
                    for (std::size_t i = 0; i < count; ++i) v += values[i] * n[i];
                }
                samples_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)] =
                    static_cast<float>(v);
            }
        }
    };
    const bool bilinear = corner_count(kind) == 4;
    bool curved = false;
    if (polynomial_degree(kind) == 2) {
        const auto corners = static_cast<std::size_t>(corner_count(kind));
        for (std::size_t s = 0; s < corners; ++s)
            curved =
                curved || distance(positions[s + corners], (positions[s] + positions[(s + 1) % corners]) * 0.5) > 0.05;
    }
    const int pieces = curved || bilinear ? curved_pieces : 1;
    for (const auto& t : reference_triangles(kind)) {
        for (int i = 0; i < pieces; ++i) {
            for (int j = 0; i + j < pieces; ++j) {
                const auto at = [&](int a, int b) {
                    return t[0] + (t[1] - t[0]) * (static_cast<double>(a) / pieces) +
                           (t[2] - t[0]) * (static_cast<double>(b) / pieces);
                };
                sub_triangle({at(i, j), at(i + 1, j), at(i, j + 1)});
                if (i + j + 1 < pieces) sub_triangle({at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)});
            }
        }
    }
}

template <class Lookup>
std::vector<std::uint32_t> Raster::average(Lookup colour) const {
    std::vector<std::uint32_t> out(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), 0);
    const auto width = static_cast<std::size_t>(columns_) * samples_each_way;
    constexpr double all = samples_each_way * samples_each_way;
    for (std::size_t y = 0; y < static_cast<std::size_t>(rows_); ++y) {
        for (std::size_t x = 0; x < static_cast<std::size_t>(columns_); ++x) {
            double r = 0, g = 0, b = 0, a = 0;
            for (std::size_t k = 0; k < samples_each_way; ++k) {
                for (std::size_t l = 0; l < samples_each_way; ++l) {
                    const float v = samples_[(y * samples_each_way + k) * width + x * samples_each_way + l];
                    if (std::isnan(v)) continue;
                    const Colour& c = colour(v);
                    r += c.r;
                    g += c.g;
                    b += c.b;
                    a += 1;
                }
            }
            if (a == 0) continue;
            const auto byte = [&](double v) { return static_cast<std::uint32_t>(std::lround(v / all * 255)); };
            out[y * static_cast<std::size_t>(columns_) + x] = byte(a) << 24U | byte(r) << 16U | byte(g) << 8U | byte(b);
        }
    }
    return out;
}

std::vector<std::uint32_t> Raster::pixels(ColourMap map) const {
    return average([map](float v) -> const Colour& { return colour_at(map, v); });
}
std::vector<std::uint32_t> Raster::pixels(const std::vector<Colour>& list) const {
    return average([&list](float v) -> const Colour& { return list[static_cast<std::size_t>(std::lround(v))]; });
}

}  // namespace dotsift
