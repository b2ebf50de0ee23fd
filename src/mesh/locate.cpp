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

template <int D>
Box<D> box_of(const MeshIn<D>& mesh, std::size_t e) {
    const auto p = mesh.positions(e);
    Box<D> box;
    for (std::size_t i = 0; i < mesh.element(e).size(); ++i) box.add(p[i]);
    const double margin = box_margin * box.diagonal();
    Vec<D> more;
    more.c.fill(margin);
    const Vec<D> low = box.low - more, high = box.high + more;
    box.add(low);
    box.add(high);
    return box;
}

template <int D>
double product(const Vec<D>& extent) {
    double p = extent[0];
    for (std::size_t a = 1; a < extent.size(); ++a) p *= extent[a];
    return p;
}

}  // namespace

template <int D>
ElementLocatorIn<D>::ElementLocatorIn(const MeshIn<D>& mesh) : mesh_(mesh) {
    Box<D> whole;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) whole.add(box_of<D>(mesh, e));
    low_ = whole.low;
    const Vec<D> extent = whole.high - whole.low;
    // About one element a cell.
    const double share =
        std::max(product(extent), 1e-300) / static_cast<double>(std::max<std::size_t>(1, mesh.element_count()));
    const double side = D == 2 ? std::sqrt(share) : std::cbrt(share);
    constexpr double most_cells = D == 2 ? 4096 : 256;  // each way
    std::size_t cells = 1;
    for (std::size_t c = 0; c < count_.size(); ++c) {
        count_[c] = static_cast<std::size_t>(std::clamp(extent[c] / side, 1.0, most_cells));
        cell_[c] = std::max(extent[c], 1e-300) / static_cast<double>(count_[c]);
        cells *= count_[c];
    }
    const auto cells_of = [&](std::size_t e, auto act) {
        const Box<D> box = box_of<D>(mesh, e);
        std::array<std::size_t, 3> from{}, to{};
        for (std::size_t c = 0; c < count_.size(); ++c) {
            const auto last = static_cast<double>(count_[c] - 1);
            from[c] = static_cast<std::size_t>(std::clamp((box.low[c] - low_[c]) / cell_[c], 0.0, last));
            to[c] = static_cast<std::size_t>(std::clamp((box.high[c] - low_[c]) / cell_[c], 0.0, last));
        }
        for (std::size_t z = from[2]; z <= to[2]; ++z)
            for (std::size_t y = from[1]; y <= to[1]; ++y)
                for (std::size_t x = from[0]; x <= to[0]; ++x) act((z * count_[1] + y) * count_[0] + x);
    };
    first_.assign(cells + 1, 0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) cells_of(e, [&](std::size_t c) { ++first_[c + 1]; });
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    elements_.resize(static_cast<std::size_t>(first_.back()));
    auto next = first_;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        cells_of(e,
                 [&](std::size_t c) { elements_[static_cast<std::size_t>(next[c]++)] = static_cast<std::int32_t>(e); });
}

template <int D>
std::optional<LocationIn<D>> ElementLocatorIn<D>::best_of(const Vec<D>& point,
                                                          std::span<const std::int32_t> elements) const {
    std::optional<LocationIn<D>> best;
    for (const auto k : elements) {
        const auto e = static_cast<std::size_t>(k);
        if (box_of<D>(mesh_, e).distance_to(point) > 0) continue;
        bool good = false;
        const Vec<D> xi = reference_point<D>(mesh_.kinds[e], mesh_.positions(e), point, good);
        if (!good) continue;
        const double outside = std::max(reference_outside(mesh_.kinds[e], xi), 0.0);
        if (!best || outside < best->outside) best = LocationIn<D>{e, xi, outside};
    }
    return best;
}

template <int D>
std::span<const std::int32_t> ElementLocatorIn<D>::elements_near(const Vec<D>& point) const {
    std::array<std::size_t, 3> cell{};
    for (std::size_t c = 0; c < count_.size(); ++c) {
        const double at = (point[c] - low_[c]) / cell_[c];
        if (!(at >= 0) || at > static_cast<double>(count_[c])) return {};
        cell[c] = std::min(static_cast<std::size_t>(at), count_[c] - 1);
    }
    const std::size_t k = (cell[2] * count_[1] + cell[1]) * count_[0] + cell[0];
    return std::span(elements_).subspan(static_cast<std::size_t>(first_[k]),
                                        static_cast<std::size_t>(first_[k + 1] - first_[k]));
}

template <int D>
std::optional<LocationIn<D>> ElementLocatorIn<D>::find(const Vec<D>& point) const {
    const auto found = best_of(point, elements_near(point));
    if (!found || found->outside > nearly_inside) return std::nullopt;
    return found;
}

template <int D>
std::vector<LocationIn<D>> ElementLocatorIn<D>::sides_of(const Vec<D>& point,
                                                         const std::vector<std::string>& inside) const {
    std::vector<LocationIn<D>> out;
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

template <int D>
LocationIn<D> ElementLocatorIn<D>::nearest(const Vec<D>& point) const {
    if (const auto found = find(point)) return *found;
    LocationIn<D> best;
    double least = INFINITY;
    for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
        const double d = distance(mesh_.centre_of(e), point);
        if (d >= least) continue;
        least = d;
        best.element = e;
    }
    bool good = false;
    best.xi = reference_point<D>(mesh_.kinds[best.element], mesh_.positions(best.element), point, good);
    best.outside = std::max(reference_outside(mesh_.kinds[best.element], best.xi), 0.0);
    if (!good || best.outside > 1) best.xi = reference_middle<D>(mesh_.kinds[best.element]);
    return best;
}

template class ElementLocatorIn<2>;
template class ElementLocatorIn<3>;

}  // namespace dotsift
