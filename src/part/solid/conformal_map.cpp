#include "part/solid/conformal_map.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr int most_gradient_steps = 1500;
// Of the first gradient: smaller, the map is as conformal as it gets.
constexpr double settled_share = 1e-6;

double twice_flat_area(const FlatTriangle& t, const std::vector<FlatPlace>& flat) {
    return (std::conj(flat[t[1]] - flat[t[0]]) * (flat[t[2]] - flat[t[0]])).imag();
}
bool has_double(const FlatTriangle& t) {
    return t[0] == t[1] || t[1] == t[2] || t[2] == t[0];
}

}  // namespace

void make_conformal(const std::vector<Vec3>& places, const std::vector<FlatTriangle>& triangles,
                    const std::array<std::size_t, 2>& held, std::vector<FlatPlace>& flat) {
    const std::size_t count = flat.size();
    std::vector<FlatPlace>& x = flat;
    struct Row {
        std::array<std::size_t, 3> v;
        std::array<FlatPlace, 3> w;
    };
    std::vector<Row> equations;
    std::vector<double> diagonal(count, 0);
    for (const auto& t : triangles) {
        Row r{t, {}};
        if (has_double(t)) continue;
        // The triangle in its own plane; how far a map from there is from turning and stretching it alone.
        const Vec3 a = places[t[0]], e = places[t[1]] - a, f = places[t[2]] - a;
        const double base = norm(e), twice_area = norm(cross(e, f));
        if (!(twice_area > 0)) continue;
        const std::array<FlatPlace, 3> z{{{0, 0}, {base, 0}, {dot(e, f) / base, twice_area / base}}};
        for (std::size_t k = 0; k < 3; ++k) {
            r.w[k] = (z[(k + 2) % 3] - z[(k + 1) % 3]) / std::sqrt(twice_area);
            diagonal[r.v[k]] += std::norm(r.w[k]);
        }
        equations.push_back(r);
    }
    const auto normal = [&](const std::vector<FlatPlace>& in) {
        std::vector<FlatPlace> out(count);
        for (const auto& r : equations) {
            const FlatPlace miss = r.w[0] * in[r.v[0]] + r.w[1] * in[r.v[1]] + r.w[2] * in[r.v[2]];
            for (std::size_t k = 0; k < 3; ++k) out[r.v[k]] += std::conj(r.w[k]) * miss;
        }
        for (const std::size_t v : held) out[v] = 0;
        return out;
    };
    const auto scaled = [&](std::vector<FlatPlace> g) {
        for (std::size_t v = 0; v < count; ++v) g[v] = diagonal[v] > 0 ? g[v] / diagonal[v] : FlatPlace{};
        return g;
    };
    const auto product = [&](const std::vector<FlatPlace>& a, const std::vector<FlatPlace>& b) {
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
}

bool all_upright(const std::vector<FlatTriangle>& triangles, const std::vector<FlatPlace>& flat) {
    return std::all_of(triangles.begin(), triangles.end(),
                       [&](const FlatTriangle& t) { return has_double(t) || twice_flat_area(t, flat) > 0; });
}

std::vector<double> scales_of(const std::vector<Vec3>& places, const std::vector<FlatTriangle>& triangles,
                              const std::vector<FlatPlace>& flat) {
    std::vector<double> space(flat.size(), 0), plane(flat.size(), 0), out;
    for (const auto& t : triangles) {
        const double area = norm(cross(places[t[1]] - places[t[0]], places[t[2]] - places[t[0]]));
        const double laid = twice_flat_area(t, flat);
        for (const auto v : t) {
            space[v] += area;
            plane[v] += laid;
        }
    }
    for (std::size_t v = 0; v < flat.size(); ++v) out.push_back(std::sqrt(space[v] / plane[v]));
    return out;
}

FlatSearch::FlatSearch(std::vector<FlatTriangle> triangles, std::vector<FlatPlace> flat)
    : triangles_(std::move(triangles)), flat_(std::move(flat)) {
    for (const auto& z : flat_) box_.add(Vec2{{z.real(), z.imag()}});
    bins_ = std::max<std::size_t>(1, static_cast<std::size_t>(std::sqrt(static_cast<double>(triangles_.size()))));
    in_bin_.resize(bins_ * bins_);
    for (std::size_t t = 0; t < triangles_.size(); ++t) {
        Box2 own;
        for (const auto v : triangles_[t]) own.add(Vec2{{flat_[v].real(), flat_[v].imag()}});
        const std::size_t low = bin_of(own.low), high = bin_of(own.high);
        for (std::size_t i = low / bins_; i <= high / bins_; ++i)
            for (std::size_t j = low % bins_; j <= high % bins_; ++j) in_bin_[i * bins_ + j].push_back(t);
    }
}

std::size_t FlatSearch::bin_of(const Vec2& flat) const {
    std::size_t bin = 0;
    for (std::size_t k = 0; k < 2; ++k) {
        const double share = (flat[k] - box_.low[k]) / box_.size()[k] * static_cast<double>(bins_);
        bin = bin * bins_ + static_cast<std::size_t>(std::clamp(share, 0.0, static_cast<double>(bins_ - 1)));
    }
    return bin;
}

std::array<double, 3> FlatSearch::shares(std::size_t triangle, const Vec2& at) const {
    const auto& v = triangles_[triangle];
    const FlatPlace p(at[0], at[1]), a = flat_[v[0]], b = flat_[v[1]], c = flat_[v[2]];
    const auto area = [](const FlatPlace& d, const FlatPlace& e) { return (std::conj(d) * e).imag(); };
    const double whole = area(b - a, c - a);
    if (!(whole > 0)) return {-INFINITY, 0, 0};
    const double second = area(p - a, c - a) / whole, third = area(b - a, p - a) / whole;
    return {1 - second - third, second, third};
}

WithinTriangle FlatSearch::find(const Vec2& at) const {
    WithinTriangle best;
    double most = -INFINITY;
    const auto look = [&](std::size_t t) {
        const auto s = shares(t, at);
        const double least = std::min({s[0], s[1], s[2]});
        if (!(least > most)) return;
        most = least;
        best = {t, s};
    };
    for (const auto t : in_bin_[bin_of(at)]) look(t);
    if (most >= 0) return best;
    for (std::size_t t = 0; t < triangles_.size(); ++t) look(t);
    return best;
}

bool FlatSearch::covers_itself() const {
    for (std::size_t t = 0; t < triangles_.size(); ++t) {
        FlatPlace middle;
        for (const auto v : triangles_[t]) middle += flat_[v] / 3.0;
        const Vec2 at{{middle.real(), middle.imag()}};
        for (const auto other : in_bin_[bin_of(at)]) {
            const auto s = shares(other, at);
            if (other != t && std::min({s[0], s[1], s[2]}) > 0) return true;
        }
    }
    return false;
}

}  // namespace dotsift
