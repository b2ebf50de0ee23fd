#include "part/solid/flattening.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr int most_gradient_steps = 1500;
// Of the first gradient: smaller, the map is as conformal as it gets.
constexpr double settled_share = 1e-6;
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
            triangles_.push_back({{a, b, c}});
            triangles_.push_back({{a, c, d}});
        }
    begin(grid);
    const auto first = flat_;
    make_conformal(grid);
    if (!upright()) flat_ = first;
    find_scales(grid);
    fill_bins();
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
            flat_.push_back(own == 0 ? Complex(x, y) : Complex(y, x));
            std::size_t same = same_.size();
            if (i > 0 && distance(grid.place(i, j), grid.place(i - 1, j)) <= same_place_share * size)
                same = same_[same - count[1]];
            else if (j > 0 && distance(grid.place(i, j), grid.place(i, j - 1)) <= same_place_share * size)
                same = same_[same - 1];
            same_.push_back(same);
        }
}

void Flattening::make_conformal(const SurfaceGrid& grid) {
    const std::size_t row = lines_[1].size(), count = flat_.size();
    const auto place = [&](std::size_t v) { return grid.place(v / row, v % row); };
    // Of places that are one: their mean.
    std::vector<double> times(count, 0);
    std::vector<Complex> x(count);
    for (std::size_t v = 0; v < count; ++v) {
        x[same_[v]] += flat_[v];
        times[same_[v]] += 1;
    }
    for (std::size_t v = 0; v < count; ++v)
        if (times[v] > 0) x[v] /= times[v];
    struct Row {
        std::array<std::size_t, 3> v;
        std::array<Complex, 3> w;
    };
    std::vector<Row> equations;
    std::vector<double> diagonal(count, 0);
    for (const auto& t : triangles_) {
        Row r{{same_[t.v[0]], same_[t.v[1]], same_[t.v[2]]}, {}};
        if (r.v[0] == r.v[1] || r.v[1] == r.v[2] || r.v[2] == r.v[0]) continue;
        // The triangle in its own plane; how far a map from there is from turning and stretching it alone.
        const Vec3 a = place(t.v[0]), e = place(t.v[1]) - a, f = place(t.v[2]) - a;
        const double base = norm(e), twice_area = norm(cross(e, f));
        if (!(twice_area > 0)) continue;
        const std::array<Complex, 3> z{{{0, 0}, {base, 0}, {dot(e, f) / base, twice_area / base}}};
        for (std::size_t k = 0; k < 3; ++k) {
            r.w[k] = (z[(k + 2) % 3] - z[(k + 1) % 3]) / std::sqrt(twice_area);
            diagonal[r.v[k]] += std::norm(r.w[k]);
        }
        equations.push_back(r);
    }
    // Two places far apart stay where they are, or all would shrink to one.
    const std::size_t last = count - 1, end = row - 1, start = count - row;
    const bool across = std::abs(x[same_[0]] - x[same_[last]]) >= std::abs(x[same_[end]] - x[same_[start]]);
    const std::array<std::size_t, 2> pinned{same_[across ? 0 : end], same_[across ? last : start]};
    const auto normal = [&](const std::vector<Complex>& in) {
        std::vector<Complex> out(count);
        for (const auto& r : equations) {
            const Complex miss = r.w[0] * in[r.v[0]] + r.w[1] * in[r.v[1]] + r.w[2] * in[r.v[2]];
            for (std::size_t k = 0; k < 3; ++k) out[r.v[k]] += std::conj(r.w[k]) * miss;
        }
        for (const std::size_t v : pinned) out[v] = 0;
        return out;
    };
    const auto scaled = [&](std::vector<Complex> g) {
        for (std::size_t v = 0; v < count; ++v) g[v] = diagonal[v] > 0 ? g[v] / diagonal[v] : Complex{};
        return g;
    };
    const auto product = [&](const std::vector<Complex>& a, const std::vector<Complex>& b) {
        double sum = 0;
        for (std::size_t v = 0; v < count; ++v) sum += (std::conj(a[v]) * b[v]).real();
        return sum;
    };
    auto gradient = normal(x);
    for (auto& g : gradient) g = -g;
    auto s = scaled(gradient), way = s;
    double now = product(gradient, s);
    const double enough = settled_share * settled_share * now;
    for (int step = 0; step < most_gradient_steps && now > enough; ++step) {
        const auto image = normal(way);
        const double bend = product(way, image);
        if (!(bend > 0)) break;
        const double length = now / bend;
        for (std::size_t v = 0; v < count; ++v) {
            x[v] += length * way[v];
            gradient[v] -= length * image[v];
        }
        s = scaled(gradient);
        const double next = product(gradient, s), share = next / now;
        for (std::size_t v = 0; v < count; ++v) way[v] = s[v] + share * way[v];
        now = next;
    }
    for (std::size_t v = 0; v < count; ++v) flat_[v] = x[same_[v]];
}

bool Flattening::upright() const {
    return std::all_of(triangles_.begin(), triangles_.end(), [&](const Triangle& t) {
        const auto a = same_[t.v[0]], b = same_[t.v[1]], c = same_[t.v[2]];
        if (a == b || b == c || c == a) return true;
        return (std::conj(flat_[b] - flat_[a]) * (flat_[c] - flat_[a])).imag() > 0;
    });
}

void Flattening::find_scales(const SurfaceGrid& grid) {
    const std::size_t row = lines_[1].size();
    std::vector<double> space(flat_.size(), 0), plane(flat_.size(), 0);
    for (const auto& t : triangles_) {
        const auto place = [&](std::size_t k) { return grid.place(t.v[k] / row, t.v[k] % row); };
        const double area = norm(cross(place(1) - place(0), place(2) - place(0)));
        const double laid = (std::conj(flat_[t.v[1]] - flat_[t.v[0]]) * (flat_[t.v[2]] - flat_[t.v[0]])).imag();
        for (const auto v : t.v) {
            space[same_[v]] += area;
            plane[same_[v]] += laid;
        }
    }
    for (std::size_t v = 0; v < flat_.size(); ++v) scale_.push_back(std::sqrt(space[same_[v]] / plane[same_[v]]));
    for (const auto& z : flat_) box_.add(Vec2{{z.real(), z.imag()}});
}

std::size_t Flattening::bin_of(const Vec2& flat) const {
    std::size_t bin = 0;
    for (std::size_t k = 0; k < 2; ++k) {
        const double share = (flat[k] - box_.low[k]) / box_.size()[k] * static_cast<double>(bins_);
        bin = bin * bins_ + static_cast<std::size_t>(std::clamp(share, 0.0, static_cast<double>(bins_ - 1)));
    }
    return bin;
}

void Flattening::fill_bins() {
    bins_ = std::max<std::size_t>(1, static_cast<std::size_t>(std::sqrt(static_cast<double>(triangles_.size()))));
    in_bin_.resize(bins_ * bins_);
    for (std::size_t t = 0; t < triangles_.size(); ++t) {
        Box2 own;
        for (const auto v : triangles_[t].v) own.add(Vec2{{flat_[v].real(), flat_[v].imag()}});
        const std::size_t low = bin_of(own.low), high = bin_of(own.high);
        for (std::size_t i = low / bins_; i <= high / bins_; ++i)
            for (std::size_t j = low % bins_; j <= high % bins_; ++j) in_bin_[i * bins_ + j].push_back(t);
    }
}

std::array<double, 3> Flattening::shares(std::size_t triangle, const Vec2& flat) const {
    const auto& v = triangles_[triangle].v;
    const Complex p(flat[0], flat[1]), a = flat_[v[0]], b = flat_[v[1]], c = flat_[v[2]];
    const auto area = [](const Complex& d, const Complex& e) { return (std::conj(d) * e).imag(); };
    const double whole = area(b - a, c - a);
    if (!(whole > 0)) return {-INFINITY, 0, 0};
    const double second = area(p - a, c - a) / whole, third = area(b - a, p - a) / whole;
    return {1 - second - third, second, third};
}

Flattening::Within Flattening::over(const Vec2& at) const {
    std::size_t i = 0, j = 0;
    const double u = share_in_cell(lines_[0], at[0], i), v = share_in_cell(lines_[1], at[1], j);
    Within w;
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
    const auto &first = triangles_[2 * cell].v, &second = triangles_[2 * cell + 1].v;
    const std::size_t a = same_[first[0]], b = same_[first[1]], c = same_[first[2]], d = same_[second[2]];
    if (c == d) return Pole::high_second;
    if (a == b) return Pole::low_second;
    if (a == d) return Pole::low_first;
    return b == c ? Pole::high_first : Pole::none;
}

Flattening::Within Flattening::under(const Vec2& flat) const {
    Within best;
    double most = -INFINITY;
    const auto look = [&](std::size_t t) {
        const auto s = shares(t, flat);
        const double least = std::min({s[0], s[1], s[2]});
        if (!(least > most)) return;
        most = least;
        best = {t, s};
    };
    for (const auto t : in_bin_[bin_of(flat)]) look(t);
    if (most >= 0) return best;
    // Outside: the one that it is least far out of.
    for (std::size_t t = 0; t < triangles_.size(); ++t) look(t);
    return best;
}

Vec2 Flattening::flat(const Vec2& at) const {
    const Within w = over(at);
    Complex sum;
    for (std::size_t k = 0; k < 3; ++k) sum += w.share[k] * flat_[triangles_[w.triangle].v[k]];
    return {{sum.real(), sum.imag()}};
}

Vec2 Flattening::parameters(const Vec2& flat) const {
    const Within w = under(flat);
    const std::size_t cell = w.triangle / 2;
    const Vec2 low = parameters_of(triangles_[2 * cell].v[0]), span = parameters_of(triangles_[2 * cell].v[2]) - low;
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
    const Within w = over(at);
    double sum = 0;
    for (std::size_t k = 0; k < 3; ++k) sum += w.share[k] * scale_[triangles_[w.triangle].v[k]];
    return sum;
}

}  // namespace dotsift
