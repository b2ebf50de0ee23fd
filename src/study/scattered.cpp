#include "study/scattered.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr std::size_t neighbours = 8;  // that a disc holds at least
constexpr double disc_margin = 1.001;  // beyond the last of them, which then counts a little
// Points on a line tell nothing of the slope across it: a fit worse conditioned than this has none there.
constexpr double flat = 1e-9;

}  // namespace

ScatteredValues::ScatteredValues(std::vector<Vec2> points, std::vector<double> values)
    : points_(std::move(points)), values_(std::move(values)) {
    sort_into_cells();
    find_discs();
    fit();
}

/// About as many cells as points.
void ScatteredValues::sort_into_cells() {
    for (const Vec2& p : points_) box_.add(p);
    const double cells = std::max(1.0, std::sqrt(static_cast<double>(points_.size())));
    for (std::size_t c = 0; c < 2; ++c) {
        count_[c] = box_.size()[c] > 0 ? static_cast<std::size_t>(cells) : 1;
        cell_[c] = box_.size()[c] > 0 ? box_.size()[c] / static_cast<double>(count_[c]) : 1;
    }
    in_cell_.resize(count_[0] * count_[1]);
    for (std::size_t k = 0; k < points_.size(); ++k) in_cell_[cell(points_[k])].push_back(static_cast<std::int32_t>(k));
}

std::vector<std::pair<double, std::int32_t>> ScatteredValues::nearest(const Vec2& place, std::size_t count,
                                                                      std::int32_t but) const {
    std::vector<std::pair<double, std::int32_t>> best;
    const auto column = static_cast<std::int64_t>(cell(place) % count_[0]),
               row = static_cast<std::int64_t>(cell(place) / count_[0]);
    const auto columns = static_cast<std::int64_t>(count_[0]), rows = static_cast<std::int64_t>(count_[1]);
    // What lies beyond a ring of cells is at least so many cells away, also from a place outside of the box.
    const double step = std::min(columns > 1 ? cell_[0] : INFINITY, rows > 1 ? cell_[1] : INFINITY);
    for (std::int64_t ring = 0; ring < std::max(columns, rows); ++ring) {
        for (std::int64_t j = std::max<std::int64_t>(row - ring, 0); j <= std::min(row + ring, rows - 1); ++j) {
            const bool whole = j == row - ring || j == row + ring;
            for (std::int64_t i = column - ring; i <= column + ring; i += whole || ring == 0 ? 1 : 2 * ring) {
                if (i < 0 || i >= columns) continue;
                for (const auto k : in_cell_[static_cast<std::size_t>(j * columns + i)])
                    if (k != but) best.emplace_back(distance(points_[static_cast<std::size_t>(k)], place), k);
            }
        }
        std::sort(best.begin(), best.end());
        if (best.size() > count) best.resize(count);
        if (best.size() == count && best.back().first <= static_cast<double>(ring) * step) break;
    }
    return best;
}

/// A disc reaches to the eighth neighbour.
void ScatteredValues::find_discs() {
    const std::size_t n = points_.size();
    radii_.assign(n, 0.0);
    for (std::size_t k = 0; k < n; ++k) {
        const auto around = nearest(points_[k], neighbours, static_cast<std::int32_t>(k));
        if (!around.empty()) radii_[k] = around.back().first * disc_margin;
    }
    discs_.resize(count_[0] * count_[1]);
    for (std::size_t k = 0; k < n; ++k) {
        const Vec2 r{{radii_[k], radii_[k]}};
        const std::size_t low = cell(points_[k] - r), high = cell(points_[k] + r);
        for (std::size_t j = low / count_[0]; j <= high / count_[0]; ++j)
            for (std::size_t i = low % count_[0]; i <= high % count_[0]; ++i)
                discs_[j * count_[0] + i].push_back(static_cast<std::int32_t>(k));
    }
}

/// The slope at each point: least squares over its disc with the weights of the method.
void ScatteredValues::fit() {
    slopes_.assign(points_.size(), {});
    for (std::size_t k = 0; k < points_.size(); ++k) {
        const double r = radii_[k];
        double xx = 0, xy = 0, yy = 0, xv = 0, yv = 0;
        const Vec2 reach{{r, r}};
        const std::size_t low = cell(points_[k] - reach), high = cell(points_[k] + reach);
        std::vector<std::int32_t> around;
        for (std::size_t j = low / count_[0]; j <= high / count_[0]; ++j)
            for (std::size_t i = low % count_[0]; i <= high % count_[0]; ++i)
                around.insert(around.end(), discs_[j * count_[0] + i].begin(), discs_[j * count_[0] + i].end());
        std::sort(around.begin(), around.end());
        around.erase(std::unique(around.begin(), around.end()), around.end());
        for (const auto other : around) {
            const auto o = static_cast<std::size_t>(other);
            const double d = distance(points_[o], points_[k]);
            if (o == k || !(d < r)) continue;
            const double w = (r - d) * (r - d) / (r * r * d * d);
            const Vec2 step = points_[o] - points_[k];
            const double rise = values_[o] - values_[k];
            xx += w * step[0] * step[0];
            xy += w * step[0] * step[1];
            yy += w * step[1] * step[1];
            xv += w * step[0] * rise;
            yv += w * step[1] * rise;
        }
        const double trace = xx + yy, det = xx * yy - xy * xy;
        if (!(trace > 0)) continue;
        if (det > flat * trace * trace) {
            slopes_[k] = {{(yy * xv - xy * yv) / det, (xx * yv - xy * xv) / det}};
        } else {  // along the line only: the matrix is trace * t t'
            Vec2 t = xx >= yy ? Vec2{{xx, xy}} : Vec2{{xy, yy}};
            t = t / norm(t);
            slopes_[k] = t * ((t[0] * xv + t[1] * yv) / trace);
        }
    }
}

std::size_t ScatteredValues::cell(const Vec2& p) const {
    std::array<std::size_t, 2> at{};
    for (std::size_t c = 0; c < 2; ++c)
        at[c] = static_cast<std::size_t>(
            std::clamp((p[c] - box_.low[c]) / cell_[c], 0.0, static_cast<double>(count_[c] - 1)));
    return at[1] * count_[0] + at[0];
}

double ScatteredValues::gap(const Vec2& p) const {
    return nearest(p, 1).front().first;
}

bool ScatteredValues::covers(const Vec2& p) const {
    const auto& here = discs_[cell(p)];
    return std::any_of(here.begin(), here.end(), [&](std::int32_t k) {
        return distance(points_[static_cast<std::size_t>(k)], p) < radii_[static_cast<std::size_t>(k)];
    });
}

double ScatteredValues::operator()(const Vec2& p) const {
    if (std::isnan(p[0]) || std::isnan(p[1])) return NAN;
    double sum = 0, weights = 0;
    for (const auto index : discs_[cell(p)]) {
        const auto k = static_cast<std::size_t>(index);
        const double d = distance(points_[k], p), r = radii_[k];
        if (d == 0) return values_[k];
        if (!(d < r)) continue;
        const double w = (r - d) * (r - d) / (r * r * d * d);
        sum += w * (values_[k] + dot(slopes_[k], p - points_[k]));
        weights += w;
    }
    if (weights > 0) return sum / weights;
    return values_[static_cast<std::size_t>(nearest(p, 1).front().second)];
}

}  // namespace dotsift
