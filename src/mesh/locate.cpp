#include "mesh/locate.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace dotsift {

namespace {

// Curved sides reach a little over the box of their nodes.
constexpr double box_margin = 0.1;
// A point this far outside, in reference coordinates, is taken for one on the side that rounding moved.
constexpr double nearly_inside = 0.1;

// A point this near to another element than its own lies on the side between them.
constexpr double on_rim = 1e-6;

Box2 box_of(const Mesh& mesh, std::size_t e) {
    const auto p = mesh.positions(e);
    Box2 box;
    for (std::size_t i = 0; i < mesh.element(e).size(); ++i) box.add(p[i]);
    const double margin = box_margin * box.diagonal();
    const Vec2 more{{margin, margin}}, low = box.low - more, high = box.high + more;
    box.add(low);
    box.add(high);
    return box;
}

}  // namespace

ElementLocator::ElementLocator(const Mesh& mesh) : mesh_(mesh) {
    Box2 whole;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) whole.add(box_of(mesh, e));
    low_ = whole.low;
    const Vec2 extent = whole.high - whole.low;
    const double side = std::sqrt(std::max(extent[0] * extent[1], 1e-300) /
                                  static_cast<double>(std::max<std::size_t>(1, mesh.element_count())));
    for (std::size_t c = 0; c < 2; ++c) {
        count_[c] = static_cast<std::size_t>(std::clamp(extent[c] / side, 1.0, 4096.0));
        cell_[c] = std::max(extent[c], 1e-300) / static_cast<double>(count_[c]);
    }
    const auto cells_of = [&](std::size_t e, auto act) {
        const Box2 box = box_of(mesh, e);
        std::array<std::size_t, 2> from{}, to{};
        for (std::size_t c = 0; c < 2; ++c) {
            const auto last = static_cast<double>(count_[c] - 1);
            from[c] = static_cast<std::size_t>(std::clamp((box.low[c] - low_[c]) / cell_[c], 0.0, last));
            to[c] = static_cast<std::size_t>(std::clamp((box.high[c] - low_[c]) / cell_[c], 0.0, last));
        }
        for (std::size_t y = from[1]; y <= to[1]; ++y)
            for (std::size_t x = from[0]; x <= to[0]; ++x) act(y * count_[0] + x);
    };
    first_.assign(count_[0] * count_[1] + 1, 0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) cells_of(e, [&](std::size_t c) { ++first_[c + 1]; });
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    elements_.resize(static_cast<std::size_t>(first_.back()));
    auto next = first_;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        cells_of(e,
                 [&](std::size_t c) { elements_[static_cast<std::size_t>(next[c]++)] = static_cast<std::int32_t>(e); });
}

std::optional<Location> ElementLocator::best_of(const Vec2& point, std::span<const std::int32_t> elements) const {
    std::optional<Location> best;
    for (const auto k : elements) {
        const auto e = static_cast<std::size_t>(k);
        if (box_of(mesh_, e).distance_to(point) > 0) continue;
        bool good = false;
        const Vec2 xi = reference_point(mesh_.kinds[e], mesh_.positions(e), point, good);
        if (!good) continue;
        const double outside = std::max(reference_outside(mesh_.kinds[e], xi), 0.0);
        if (!best || outside < best->outside) best = Location{e, xi, outside};
    }
    return best;
}

std::span<const std::int32_t> ElementLocator::elements_near(const Vec2& point) const {
    std::array<std::size_t, 2> cell{};
    for (std::size_t c = 0; c < 2; ++c) {
        const double at = (point[c] - low_[c]) / cell_[c];
        if (!(at >= 0) || at > static_cast<double>(count_[c])) return {};
        cell[c] = std::min(static_cast<std::size_t>(at), count_[c] - 1);
    }
    const std::size_t k = cell[1] * count_[0] + cell[0];
    return std::span(elements_).subspan(static_cast<std::size_t>(first_[k]),
                                        static_cast<std::size_t>(first_[k + 1] - first_[k]));
}

std::optional<Location> ElementLocator::find(const Vec2& point) const {
    const auto found = best_of(point, elements_near(point));
    if (!found || found->outside > nearly_inside) return std::nullopt;
    return found;
}

std::vector<Location> ElementLocator::sides_of(const Vec2& point, const std::vector<std::string>& inside) const {
    std::vector<Location> out;
    std::vector<std::int32_t> own;
    // On a chord of a curved interface the point lies a little outside of one of the regions.
    const auto best = best_of(point, elements_near(point));
    const double reach = best ? best->outside + on_rim : 0;
    const Meant within(mesh_, inside);
    for (std::size_t r = 0; r < mesh_.region_names.size(); ++r) {
        if (!inside.empty() && !within.region(r)) continue;
        own.clear();
        for (const auto e : elements_near(point)) {
            if (mesh_.region[static_cast<std::size_t>(e)] == static_cast<std::int32_t>(r)) own.push_back(e);
        }
        const auto found = best_of(point, own);
        if (found && found->outside <= (inside.empty() ? reach : nearly_inside)) out.push_back(*found);
    }
    if (out.empty()) out.push_back(nearest(point));
    return out;
}

Location ElementLocator::nearest(const Vec2& point) const {
    if (const auto found = find(point)) return *found;
    Location best;
    double least = INFINITY;
    for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
        const double d = distance(mesh_.centre_of(e), point);
        if (d >= least) continue;
        least = d;
        best.element = e;
    }
    bool good = false;
    best.xi = reference_point(mesh_.kinds[best.element], mesh_.positions(best.element), point, good);
    best.outside = std::max(reference_outside(mesh_.kinds[best.element], best.xi), 0.0);
    if (!good || best.outside > 1) best.xi = reference_middle(mesh_.kinds[best.element]);
    return best;
}

}  // namespace dotsift
