#include "evidence/drawing/raster.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace dotsift {

namespace {

constexpr int samples_each_way = 2;
constexpr int curved_pieces = 4;  // each way, for elements with a curved side

/// A polynomial of second degree over a triangle, by its values at the corners and the middles of the sides.
class Quadratic {
  public:
    Quadratic() = default;
    template <class Value>
    Quadratic(const std::array<Vec2, 3>& t, const Value& value) {
        const double c0 = value(t[0]), c1 = value(t[1]), c2 = value(t[2]), m01 = value((t[0] + t[1]) * 0.5),
                     m12 = value((t[1] + t[2]) * 0.5), m20 = value((t[2] + t[0]) * 0.5);
        at_first_ = c0;
        by_1_ = 4 * m01 - 3 * c0 - c1;
        by_2_ = 4 * m20 - 3 * c0 - c2;
        by_11_ = 2 * (c0 + c1 - 2 * m01);
        by_22_ = 2 * (c0 + c2 - 2 * m20);
        by_12_ = 4 * (c0 + m12 - m01 - m20);
    }
    /// Of the weights of the second and third corner.
    double operator()(double w1, double w2) const {
        return at_first_ + w1 * (by_1_ + by_11_ * w1 + by_12_ * w2) + w2 * (by_2_ + by_22_ * w2);
    }

  private:
    double at_first_ = 0, by_1_ = 0, by_2_ = 0, by_11_ = 0, by_12_ = 0, by_22_ = 0;
};

/// The samples of a row that a triangle may cover, or one more at either end.
std::array<int, 2> span_of_row(const std::array<Vec2, 3>& p, int y, int low, int high) {
    double left = high + 1, right = low - 1;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec2 &a = p[k], &b = p[(k + 1) % 3];
        // Where the side is within half a sample of the row
        const double from = std::max(std::min(a[1], b[1]), y - 0.5), to = std::min(std::max(a[1], b[1]), y + 0.5);
        if (from > to) continue;
        for (const double at : {from, to}) {
            const double t = a[1] == b[1] ? 0 : (at - a[1]) / (b[1] - a[1]), x = a[0] + (b[0] - a[0]) * t;
            left = std::min(left, x);
            right = std::max(right, x);
        }
        if (a[1] != b[1]) continue;
        left = std::min({left, a[0], b[0]});
        right = std::max({right, a[0], b[0]});
    }
    return {std::max(low, static_cast<int>(std::floor(left))), std::min(high, static_cast<int>(std::ceil(right)))};
}

}  // namespace

Raster::Raster(const Box2& box, double scale)
    : box_(box),
      scale_(scale),
      columns_(static_cast<int>(std::ceil(box.size()[0] * scale))),
      rows_(static_cast<int>(std::ceil(box.size()[1] * scale))),
      samples_(
          static_cast<std::size_t>(columns_) * samples_each_way * static_cast<std::size_t>(rows_) * samples_each_way,
          std::numeric_limits<float>::quiet_NaN()) {}

void Raster::paint(ElementKind kind, const std::array<Vec2, most_element_nodes>& positions,
                   const std::array<double, most_element_nodes>& values) {
    const int width = columns_ * samples_each_way, height = rows_ * samples_each_way;
    const auto count = static_cast<std::size_t>(node_count(kind));
    const bool flat = std::all_of(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(count),
                                  [&](double v) { return v == values[0]; });
    const auto value_at = [&](const Vec2& xi) {
        std::array<double, most_element_nodes> n{};
        shape_values(kind, xi, n);
        double v = 0;
        for (std::size_t i = 0; i < count; ++i) v += values[i] * n[i];
        return v;
    };
    const auto sub_triangle = [&](const std::array<Vec2, 3>& xi) {
        std::array<Vec2, 3> p{};
        for (std::size_t k = 0; k < 3; ++k) {
            std::array<double, most_element_nodes> n{};
            shape_values(kind, xi[k], n);
            for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) p[k] += positions[i] * n[i];
            p[k] =
                (p[k] - box_.low) * (samples_each_way * scale_) - Vec2{{0.5, 0.5}};  // sample centres at whole numbers
        }
        const double area = cross(p[1] - p[0], p[2] - p[0]);
        if (area == 0) return;
        // By their products with these a place has the weights of the second and third corner.
        const Vec2 to_second = (p[1] - p[0]) / area, to_third = (p[2] - p[0]) / area;
        const Quadratic quadratic = flat || corner_count(kind) != 3 ? Quadratic{} : Quadratic(xi, value_at);
        Box2 b;
        for (const auto& q : p) b.add(q);
        const int x_low = std::max(0, static_cast<int>(std::ceil(b.low[0]))),
                  x_high = std::min(width - 1, static_cast<int>(std::floor(b.high[0])));
        const int y0 = std::max(0, static_cast<int>(std::ceil(b.low[1]))),
                  y1 = std::min(height - 1, static_cast<int>(std::floor(b.high[1])));
        for (int y = y0; y <= y1; ++y) {
            const auto [x0, x1] = span_of_row(p, y, x_low, x_high);
            for (int x = x0; x <= x1; ++x) {
                const Vec2 s{{x - p[0][0], y - p[0][1]}};
                const double w1 = cross(s, to_third), w2 = cross(to_second, s);
                constexpr double rim = 1e-9;  // of the triangle: neighbours overlap by it rather than leave gaps
                if (w1 < -rim || w2 < -rim || w1 + w2 > 1 + rim) continue;
                const double v = flat                      ? values[0]
                                 : corner_count(kind) == 3 ? quadratic(w1, w2)
                                                           : value_at(xi[0] * (1 - w1 - w2) + xi[1] * w1 + xi[2] * w2);
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
                curved ||
                scale_ * distance(positions[s + corners], (positions[s] + positions[(s + 1) % corners]) * 0.5) > 0.05;
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
    constexpr std::size_t all = samples_each_way * samples_each_way;
    const auto byte = [](double v) { return static_cast<std::uint32_t>(std::lround(v / all * 255)); };
    const Colour* last = nullptr;  // mostly the pixel beside has the same
    std::uint32_t last_pixel = 0;
    for (std::size_t y = 0; y < static_cast<std::size_t>(rows_); ++y) {
        for (std::size_t x = 0; x < static_cast<std::size_t>(columns_); ++x) {
            std::array<const Colour*, all> found{};
            std::size_t count = 0;
            for (std::size_t k = 0; k < samples_each_way; ++k)
                for (std::size_t l = 0; l < samples_each_way; ++l) {
                    const float v = samples_[(y * samples_each_way + k) * width + x * samples_each_way + l];
                    if (!std::isnan(v)) found[count++] = &colour(v);
                }
            if (count == 0) continue;
            std::uint32_t& pixel = out[y * static_cast<std::size_t>(columns_) + x];
            const bool one = std::all_of(found.begin(), found.end(), [&](const Colour* c) { return c == found[0]; });
            if (one && found[0] == last) {
                pixel = last_pixel;
                continue;
            }
            double r = 0, g = 0, b = 0;
            for (std::size_t k = 0; k < count; ++k) {
                r += found[k]->r;
                g += found[k]->g;
                b += found[k]->b;
            }
            pixel = byte(static_cast<double>(count)) << 24U | byte(r) << 16U | byte(g) << 8U | byte(b);
            if (!one) continue;
            last = found[0];
            last_pixel = pixel;
        }
    }
    return out;
}

std::vector<std::uint32_t> Raster::pixels(ColourMap map) const {
    return average([look_up = ColourLookup(map)](float v) -> const Colour& { return look_up(v); });
}
std::vector<std::uint32_t> Raster::pixels(const std::vector<Colour>& list) const {
    return average([&list](float v) -> const Colour& { return list[static_cast<std::size_t>(std::lround(v))]; });
}

}  // namespace dotsift
