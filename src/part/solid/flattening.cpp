#include "part/solid/flattening.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

// Of the grid's size: places nearer to each other than this are one, as at a pole.
constexpr double same_place_share = 1e-10;

double share_in_cell(const std::vector<double>& lines, double at, std::size_t& cell) {
    const auto above = static_cast<std::size_t>(std::upper_bound(lines.begin(), lines.end(), at) - lines.begin());
    cell = std::clamp<std::size_t>(above, 1, lines.size() - 1) - 1;
    return (at - lines[cell]) / (lines[cell + 1] - lines[cell]);
}

}  // namespace

Flattening::Flattening(const SurfaceGrid& grid) : lines_{grid.lines(0), grid.lines(1)} {
    const std::size_t rows = lines_[0].size(), row = lines_[1].size();
    for (std::size_t i = 0; i + 1 < rows; ++i)
        for (std::size_t j = 0; j + 1 < row; ++j) {
            const std::size_t a = i * row + j, b = a + row, c = b + 1, d = a + 1;
            triangles_.push_back({a, b, c});
            triangles_.push_back({a, c, d});
        }
    begin(grid);
    for (const auto& t : triangles_) joined_.push_back({same_[t[0]], same_[t[1]], same_[t[2]]});
    make_conformal_map(grid);
    search_ = FlatSearch(triangles_, flat_);
}

/// Lines of the way whose lengths differ most are laid out with their own lengths, each about its middle; across them
/// the mean distance counts. So a pole is a point, and no cell turns over.
void Flattening::begin(const SurfaceGrid& grid) {
    const std::array<std::size_t, 2> count{lines_[0].size(), lines_[1].size()};
    const auto place = [&](std::size_t way, std::size_t line, std::size_t k) {  // k-th on a line of that way
        return way == 0 ? grid.place(k, line) : grid.place(line, k);
    };
    // Lengths along each line up to each of its places.
    std::array<std::vector<std::vector<double>>, 2> along;
    std::array<double, 2> evenness{};
    for (std::size_t way = 0; way < 2; ++way) {
        double least = INFINITY, most = 0;
        for (std::size_t line = 0; line < count[1 - way]; ++line) {
            std::vector<double> sum{0};
            for (std::size_t k = 1; k < count[way]; ++k)
                sum.push_back(sum.back() + distance(place(way, line, k), place(way, line, k - 1)));
            least = std::min(least, sum.back());
            most = std::max(most, sum.back());
            along[way].push_back(std::move(sum));
        }
        evenness[way] = most > 0 ? least / most : 1;
    }
    const std::size_t own = evenness[0] <= evenness[1] ? 0 : 1, other = 1 - own;
    std::vector<double> mean(count[other], 0);
    for (const auto& line : along[other])
        for (std::size_t k = 0; k < mean.size(); ++k) mean[k] += line[k] / static_cast<double>(along[other].size());
    const double size = mean.back() + along[own].front().back() + along[own].back().back();
    for (std::size_t i = 0; i < count[0]; ++i)
        for (std::size_t j = 0; j < count[1]; ++j) {
            const std::size_t k = own == 0 ? i : j, line = own == 0 ? j : i;
            const double x = along[own][line][k] - along[own][line].back() / 2, y = mean[line];
            flat_.push_back(own == 0 ? FlatPlace(x, y) : FlatPlace(y, x));
            std::size_t same = same_.size();
            if (i > 0 && distance(grid.place(i, j), grid.place(i - 1, j)) <= same_place_share * size)
                same = same_[same - count[1]];
            else if (j > 0 && distance(grid.place(i, j), grid.place(i, j - 1)) <= same_place_share * size)
                same = same_[same - 1];
            same_.push_back(same);
        }
}

void Flattening::make_conformal_map(const SurfaceGrid& grid) {
    const std::size_t row = lines_[1].size(), count = flat_.size();
    // Of places that are one: their mean.
    std::vector<double> times(count, 0);
    std::vector<FlatPlace> x(count);
    std::vector<Vec3> places;
    for (std::size_t v = 0; v < count; ++v) {
        x[same_[v]] += flat_[v];
        times[same_[v]] += 1;
        places.push_back(grid.place(v / row, v % row));
    }
    for (std::size_t v = 0; v < count; ++v)
        if (times[v] > 0) x[v] /= times[v];
    // Two places far apart stay where they are, or all would shrink to one.
    const std::size_t last = count - 1, end = row - 1, start = count - row;
    const bool across = std::abs(x[same_[0]] - x[same_[last]]) >= std::abs(x[same_[end]] - x[same_[start]]);
    make_conformal(places, joined_, {same_[across ? 0 : end], same_[across ? last : start]}, x);
    if (all_upright(joined_, x)) flat_ = x;
    for (std::size_t v = 0; v < count; ++v) flat_[v] = flat_[same_[v]];
    const auto scales = scales_of(places, joined_, flat_);
    for (std::size_t v = 0; v < count; ++v) scale_.push_back(scales[same_[v]]);
}

WithinTriangle Flattening::over(const Vec2& at) const {
    std::size_t i = 0, j = 0;
    const double u = share_in_cell(lines_[0], at[0], i), v = share_in_cell(lines_[1], at[1], j);
    WithinTriangle w;
    const std::size_t cell = i * (lines_[1].size() - 1) + j;
    w.triangle = 2 * cell;
    switch (pole_of(cell)) {  // its only triangle is run over by lines through the pole
        case Pole::high_second:
            w.share = {(1 - v) * (1 - u), (1 - v) * u, v};
            return w;
        case Pole::low_first:
            w.share = {1 - u, u * (1 - v), u * v};
            return w;
        case Pole::low_second:
            ++w.triangle;
            w.share = {1 - v, v * u, v * (1 - u)};
            return w;
        case Pole::high_first:
            ++w.triangle;
            w.share = {(1 - u) * (1 - v), u, (1 - u) * v};
            return w;
        case Pole::none:
            break;
    }
    if (u >= v) {
        w.share = {1 - u, u - v, v};
    } else {
        ++w.triangle;
        w.share = {1 - v, u, v - u};
    }
    return w;
}

Flattening::Pole Flattening::pole_of(std::size_t cell) const {
    const auto &first = triangles_[2 * cell], &second = triangles_[2 * cell + 1];
    const std::size_t a = same_[first[0]], b = same_[first[1]], c = same_[first[2]], d = same_[second[2]];
    if (c == d) return Pole::high_second;
    if (a == b) return Pole::low_second;
    if (a == d) return Pole::low_first;
    return b == c ? Pole::high_first : Pole::none;
}

Vec2 Flattening::flat(const Vec2& at) const {
    const WithinTriangle w = over(at);
    FlatPlace sum;
    for (std::size_t k = 0; k < 3; ++k) sum += w.share[k] * flat_[triangles_[w.triangle][k]];
    return {{sum.real(), sum.imag()}};
}

Vec2 Flattening::parameters(const Vec2& flat) const {
    const WithinTriangle w = search_.find(flat);
    const std::size_t cell = w.triangle / 2;
    const Vec2 low = parameters_of(triangles_[2 * cell][0]), span = parameters_of(triangles_[2 * cell][2]) - low;
    const auto [r, s, t] = w.share;
    const auto of = [](double part, double rest) { return part + rest > 0 ? part / (part + rest) : 0.5; };
    const auto at = [&](double u, double v) { return Vec2{{low[0] + u * span[0], low[1] + v * span[1]}}; };
    switch (pole_of(cell)) {
        case Pole::high_second:
            return at(of(s, r), t);
        case Pole::low_first:
            return at(s + t, of(t, s));
        case Pole::low_second:
            return at(of(s, t), s + t);
        case Pole::high_first:
            return at(s, of(t, r));
        case Pole::none:
            break;
    }
    return w.triangle % 2 == 0 ? at(s + t, t) : at(s, s + t);
}

double Flattening::scale(const Vec2& at) const {
    const WithinTriangle w = over(at);
    double sum = 0;
    for (std::size_t k = 0; k < 3; ++k) sum += w.share[k] * scale_[triangles_[w.triangle][k]];
    return sum;
}

}  // namespace dotsift
