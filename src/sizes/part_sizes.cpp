#include "sizes/part_sizes.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

namespace {

constexpr double smallest_of_diagonal = 1e-7;

/// Short chords along a curve, for sources that follow it.
template <class SizeAt>
void add_sources_along(const Curve& curve, SizeAt size_at, int rule, std::vector<SizeSource>& sources) {
    const int pieces = curve.straight() ? 1 : 1 + static_cast<int>(curve.turning() * 32 / std::numbers::pi);
    for (int k = 0; k < pieces; ++k) {
        const double a = static_cast<double>(k) / pieces, b = static_cast<double>(k + 1) / pieces;
        SizeSource s;
        s.corners = {curve.point(a), curve.point(b), {}};
        s.corner_count = 2;
        s.size = size_at(0.5 * (a + b));
        s.rule = rule;
        sources.push_back(s);
    }
}

}  // namespace

double suggested_size(const Part& part) {
    return std::sqrt(part.area()) / 12;
}

std::vector<SizeSource> curvature_sources(const Part& part, const SizeSpec& sizes) {
    std::vector<SizeSource> sources;
    for (const auto& edge : part.edges) {
        if (edge.curve.straight()) continue;
        add_sources_along(
            edge.curve,
            [&](double t) { return 2 * std::numbers::pi * edge.curve.curvature_radius(t) / sizes.segments_per_circle; },
            static_cast<int>(sizes.local.size()), sources);
    }
    return sources;
}

SizeField size_field_of(const Part& part, const SizeSpec& sizes) {
    const double global = sizes.global.value_or(suggested_size(part));
    std::vector<SizeSource> sources;
    for (std::size_t i = 0; i < sizes.local.size(); ++i)
        for (const int e : part.edges_named(sizes.local[i].on))
            add_sources_along(
                part.edges[static_cast<std::size_t>(e)].curve, [&](double) { return sizes.local[i].size; },
                static_cast<int>(i), sources);
    const auto curved = curvature_sources(part, sizes);
    sources.insert(sources.end(), curved.begin(), curved.end());
    const double smallest = sizes.smallest.value_or(smallest_of_diagonal * part.box.diagonal());
    return {global, sizes.growth - 1, std::min(smallest, global), std::move(sources)};
}

}  // namespace dotsift
