#include "evidence/drawing/depth_raster.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace dotsift {

namespace {

constexpr int each_way = 3;

}  // namespace

DepthRaster::DepthRaster(const Box2& box, double scale)
    : box_(box),
      scale_(scale),
      columns_(static_cast<int>(std::ceil(box.size()[0] * scale))),
      rows_(static_cast<int>(std::ceil(box.size()[1] * scale))),
      samples_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_) * each_way * each_way,
               {-std::numeric_limits<float>::infinity(), 0, 0, 0}) {}

/// Samples lie at whole numbers; the depth stays as it is.
Vec3 DepthRaster::sample_of(const Vec3& at) const {
    const double k = scale_ * each_way;
    return {{(at[0] - box_.low[0]) * k - 0.5, (at[1] - box_.low[1]) * k - 0.5, at[2]}};
}

void DepthRaster::paint(const std::array<Vec3, 3>& corners,
                        const std::function<Colour(double second, double third)>& colour) {
    const Vec3 a = sample_of(corners[0]), b = sample_of(corners[1]), c = sample_of(corners[2]);
    const double area = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);
    if (area == 0) return;
    const int width = columns_ * each_way, height = rows_ * each_way;
    const int top = std::max(0, static_cast<int>(std::ceil(std::min({a[1], b[1], c[1]})))),
              bottom = std::min(height - 1, static_cast<int>(std::floor(std::max({a[1], b[1], c[1]}))));
    const int left = std::max(0, static_cast<int>(std::ceil(std::min({a[0], b[0], c[0]})))),
              right = std::min(width - 1, static_cast<int>(std::floor(std::max({a[0], b[0], c[0]}))));
    for (int y = top; y <= bottom; ++y)
        for (int x = left; x <= right; ++x) {
            const double second = ((x - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (y - a[1])) / area,
                         third = ((b[0] - a[0]) * (y - a[1]) - (x - a[0]) * (b[1] - a[1])) / area;
            if (second < 0 || third < 0 || second + third > 1) continue;
            const auto depth = static_cast<float>(a[2] + second * (b[2] - a[2]) + third * (c[2] - a[2]));
            Sample& s =
                samples_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)];
            if (!(depth > s.depth)) continue;
            const Colour here = colour(second, third);
            s = {depth, static_cast<float>(here.r), static_cast<float>(here.g), static_cast<float>(here.b)};
        }
}

void DepthRaster::line(const Vec3& from, const Vec3& to, const Colour& colour, double width, double opacity,
                       double bias) {
    const Vec3 a = sample_of(from), b = sample_of(to);
    const double dx = b[0] - a[0], dy = b[1] - a[1], length = std::hypot(dx, dy);
    const double half = std::max(width * scale_ * each_way / 2, 0.5);
    const int columns = columns_ * each_way, rows = rows_ * each_way;
    const int top = std::max(0, static_cast<int>(std::floor(std::min(a[1], b[1]) - half))),
              bottom = std::min(rows - 1, static_cast<int>(std::ceil(std::max(a[1], b[1]) + half)));
    const auto share = static_cast<float>(opacity);
    for (int y = top; y <= bottom; ++y) {
        // The piece of the row that is nearer to the line than half its width.
        double low = std::min(a[0], b[0]) - half, high = std::max(a[0], b[0]) + half;
        if (std::fabs(dy) > 1e-9 * length) {
            const double across = half * length / std::fabs(dy), middle = a[0] + dx * (y - a[1]) / dy;
            low = std::max(low, middle - across);
            high = std::min(high, middle + across);
        }
        for (int x = std::max(0, static_cast<int>(std::ceil(low))); x <= std::min(columns - 1, static_cast<int>(high));
             ++x) {
            const double t =
                length > 0 ? std::clamp(((x - a[0]) * dx + (y - a[1]) * dy) / (length * length), 0.0, 1.0) : 0;
            if (std::hypot(a[0] + t * dx - x, a[1] + t * dy - y) > half) continue;
            Sample& s =
                samples_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(x)];
            const double depth = a[2] + t * (b[2] - a[2]);
            if (depth + bias < s.depth) continue;
            if (!std::isfinite(s.depth)) s = {static_cast<float>(depth), 1, 1, 1};  // beside the surface, on paper
            s.r += share * (static_cast<float>(colour.r) - s.r);
            s.g += share * (static_cast<float>(colour.g) - s.g);
            s.b += share * (static_cast<float>(colour.b) - s.b);
        }
    }
}

bool DepthRaster::hidden(const Vec3& at, double bias) const {
    const Vec3 p = sample_of(at);
    const auto x = std::lround(p[0]), y = std::lround(p[1]);
    if (x < 0 || y < 0 || x >= columns_ * each_way || y >= rows_ * each_way) return false;
    return samples_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_ * each_way) +
                    static_cast<std::size_t>(x)]
               .depth > at[2] + bias;
}

std::vector<std::uint32_t> DepthRaster::pixels() const {
    std::vector<std::uint32_t> out;
    out.reserve(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_));
    const auto width = static_cast<std::size_t>(columns_ * each_way);
    for (std::size_t y = 0; y < static_cast<std::size_t>(rows_); ++y)
        for (std::size_t x = 0; x < static_cast<std::size_t>(columns_); ++x) {
            float r = 0, g = 0, b = 0, count = 0;
            for (std::size_t j = 0; j < each_way; ++j)
                for (std::size_t i = 0; i < each_way; ++i) {
                    const Sample& s = samples_[(y * each_way + j) * width + x * each_way + i];
                    if (!std::isfinite(s.depth)) continue;
                    r += s.r;
                    g += s.g;
                    b += s.b;
                    count += 1;
                }
            constexpr float all = each_way * each_way;
            const auto byte = [&](float v) {
                return static_cast<std::uint32_t>(std::clamp(v / all * 255 + 0.5F, 0.0F, 255.0F));
            };
            out.push_back(byte(count) << 24 | byte(r) << 16 | byte(g) << 8 | byte(b));
        }
    return out;
}

}  // namespace dotsift
