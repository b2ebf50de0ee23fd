#include "quality/quality.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <span>
#include <type_traits>

#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/elements/shape.hpp"
#include "part/shapes/placed_area.hpp"
#include "part/solid/space_distance.hpp"
#include "quality/causes.hpp"

namespace dotsift {

namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();

double& of(MeasureSet& values, Criterion m) {
    return values[static_cast<std::size_t>(m)];
}

}  // namespace

bool more_is_better(Criterion m) {
    return m <= Criterion::smallest_angle;
}

const char* title_of(Criterion m) {
    constexpr std::array<const char*, criterion_count> titles{
        "shape (mean ratio)", "scaled Jacobian", "Jacobian ratio", "smallest angle",         "largest angle",
        "edge ratio",         "skewness",        "taper",          "size against the wanted"};
    return titles[static_cast<std::size_t>(m)];
}

const char* unit_of(Criterion m) {
    return m == Criterion::smallest_angle || m == Criterion::largest_angle || m == Criterion::taper ? "°" : "";
}

Grade Limits::grade(Criterion m, double value) const {
    if (std::isnan(value)) return Grade::none;
    if (more_is_better(m)) return value >= good ? Grade::good : value >= acceptable ? Grade::acceptable : Grade::poor;
    return value <= good ? Grade::good : value <= acceptable ? Grade::acceptable : Grade::poor;
}

double Limits::badness(double value) const {
    const double span = acceptable - good;
    return span != 0 ? (value - good) / span : 0;
}

namespace {

Limits limits_of_tetrahedra(Criterion m) {
    switch (m) {
        case Criterion::shape:
            return {0.5, 0.2};
        case Criterion::scaled_jacobian:
            return {0.3, 0.1};
        case Criterion::jacobian_ratio:
            return {0.6, 0.2};
        case Criterion::smallest_angle:
            return {25, 10};
        case Criterion::largest_angle:
            return {135, 160};
        case Criterion::edge_ratio:
            return {2.5, 6};
        case Criterion::size_ratio:
            return {1.6, 3};
        default:
            return {};
    }
}

}  // namespace

Limits standard_limits(Criterion m, ElementKind kind) {
    if (dimension_of(kind) == 3) return limits_of_tetrahedra(m);
    const bool quad = corner_count(kind) == 4;
    switch (m) {
        case Criterion::shape:
            return {0.7, 0.3};
        case Criterion::scaled_jacobian:
            return {0.5, 0.2};
        case Criterion::jacobian_ratio:
            return quad ? Limits{0.4, 0.1} : Limits{0.6, 0.2};
        case Criterion::smallest_angle:
            return quad ? Limits{40, 20} : Limits{30, 15};
        case Criterion::largest_angle:
            return quad ? Limits{140, 160} : Limits{110, 140};
        case Criterion::edge_ratio:
            return quad ? Limits{3, 8} : Limits{2, 5};
        case Criterion::skewness:
            return {0.55, 0.85};
        case Criterion::taper:
            return {45, 90};
        case Criterion::size_ratio:
            return {1.6, 3};
    }
    return {};
}

MeasureSet measure_element(const Mesh& mesh, std::size_t e, double wanted) {
    MeasureSet values;
    values.fill(nothing);
    const auto p = mesh.positions(e);
    const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh.kinds[e])));
    const ShapeMeasures m = measure_shape(corners);
    of(values, Criterion::scaled_jacobian) = m.scaled_jacobian;
    of(values, Criterion::jacobian_ratio) = jacobian_bound(mesh.kinds[e], p);
    of(values, Criterion::smallest_angle) = m.smallest_angle;
    of(values, Criterion::largest_angle) = m.largest_angle;
    of(values, Criterion::skewness) = m.skewness;
    if (corners.size() == 4) of(values, Criterion::taper) = m.taper;
    if (mesh.row[e] > 0) return values;
    of(values, Criterion::shape) = m.mean_ratio;
    of(values, Criterion::edge_ratio) = m.edge_ratio;
    if (wanted > 0) of(values, Criterion::size_ratio) = mesh.size_of(e) / wanted;
    return values;
}

namespace {

/// Of a tetrahedron: the sine of the angle that three edges make in a corner, over that of the regular one, at worst.
double corner_sine(const std::array<Vec3, 4>& p) {
    double least = INFINITY;
    for (std::size_t i = 0; i < 4; ++i) {
        const Vec3 a = p[(i + 1) % 4] - p[i], b = p[(i + 2) % 4] - p[i], c = p[(i + 3) % 4] - p[i];
        const double volume = dot(cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0]);
        least = std::min(least, std::numbers::sqrt2 * volume / (norm(a) * norm(b) * norm(c)));
    }
    return least;
}

MeasureSet measure_element(const SolidMesh& mesh, std::size_t e, double wanted) {
    MeasureSet values;
    values.fill(nothing);
    const auto p = mesh.positions(e);
    of(values, Criterion::jacobian_ratio) =
        jacobian_bound(mesh.kinds[e], std::span(p).first(static_cast<std::size_t>(node_count(mesh.kinds[e]))));
    if (wanted > 0) of(values, Criterion::size_ratio) = mesh.size_of(e) / wanted;
    if (corner_count(mesh.kinds[e]) != 4) return values;
    const std::array<Vec3, 4> corners{p[0], p[1], p[2], p[3]};
    const auto angles = dihedral_angles(corners);
    double shortest = INFINITY, longest = 0;
    for (std::size_t i = 0; i < 4; ++i)
        for (std::size_t j = i + 1; j < 4; ++j) {
            shortest = std::min(shortest, distance(p[i], p[j]));
            longest = std::max(longest, distance(p[i], p[j]));
        }
    of(values, Criterion::shape) = mean_ratio(corners);
    of(values, Criterion::scaled_jacobian) = corner_sine(corners);
    of(values, Criterion::smallest_angle) = angles[0] * 180 / std::numbers::pi;
    of(values, Criterion::largest_angle) = angles[1] * 180 / std::numbers::pi;
    of(values, Criterion::edge_ratio) = longest / shortest;
    return values;
}

template <int D>
MeasureValues measure_all(const MeshIn<D>& mesh, const std::vector<double>& wanted) {
    MeasureValues values;
    for (auto& v : values) v.resize(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const MeasureSet set = measure_element(mesh, e, wanted.empty() ? 0 : wanted[e]);
        for (std::size_t k = 0; k < criterion_count; ++k) values[k][e] = set[k];
    }
    return values;
}

}  // namespace

MeasureValues measure_quality(const Mesh& mesh, const std::vector<double>& wanted) {
    return measure_all(mesh, wanted);
}
MeasureValues measure_quality(const SolidMesh& mesh, const std::vector<double>& wanted) {
    return measure_all(mesh, wanted);
}

template <int D>
LimitFinderIn<D>::LimitFinderIn(const MeshIn<D>& mesh, const std::vector<QualitySpec>& specs)
    : mesh_(mesh), specs_(specs) {
    for (const auto& s : specs) {
        on_.emplace_back(mesh, s.on);
        inside_.emplace_back();
        if constexpr (D == 2) {
            if (s.inside) inside_.back() = PlacedArea(*s.inside);
        } else {
            if (s.inside_space) inside_.back() = PlacedVolume(*s.inside_space);
        }
    }
}

template <int D>
Limits LimitFinderIn<D>::at(Criterion measure, std::size_t e) const {
    const bool quad = corner_count(mesh_.kinds[e]) == 4;
    Limits limits = standard_limits(measure, mesh_.kinds[e]);
    for (std::size_t k = 0; k < specs_.size(); ++k) {
        const auto& s = specs_[k];
        if (s.measure != measure || (s.quadrilaterals && *s.quadrilaterals != quad)) continue;
        if (!s.on.empty() && !on_[k].element(e)) continue;
        if (inside_[k] && !inside_[k](mesh_.centre_of(e))) continue;
        limits = {s.good, s.acceptable};
    }
    return limits;
}
template class LimitFinderIn<2>;
template class LimitFinderIn<3>;

namespace {

template <int D>
QualityReportIn<D> judge(const MeshIn<D>& mesh, const std::vector<double>& wanted,
                         const std::vector<QualitySpec>& limits, const CausesIn<D>& causes, std::size_t worst_count,
                         bool every_poor) {
    QualityReportIn<D> r;
    r.values = measure_quality(mesh, wanted);
    r.grade.assign(mesh.element_count(), Grade::good);
    const LimitFinderIn<D> finder(mesh, limits);
    std::vector<double> worst_badness(mesh.element_count(), -INFINITY);
    std::vector<Criterion> worst_measure(mesh.element_count(), Criterion::shape);
    for (std::size_t k = 0; k < criterion_count; ++k) {
        const auto m = static_cast<Criterion>(k);
        auto& c = r.counts[k];
        double sum = 0;
        std::size_t count = 0;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            const double v = r.values[k][e];
            if (std::isnan(v)) continue;
            const Limits l = finder.at(m, e);
            const Grade g = l.grade(m, v);
            (g == Grade::good ? c.good : g == Grade::acceptable ? c.acceptable : c.poor) += 1;
            if (count == 0 || (more_is_better(m) ? v < c.worst : v > c.worst)) {
                c.worst = v;
                c.worst_element = e;
            }
            sum += v;
            ++count;
            r.grade[e] = std::max(r.grade[e], g);
            const double b = l.badness(v);
            if (b > worst_badness[e]) {
                worst_badness[e] = b;
                worst_measure[e] = m;
            }
        }
        c.mean = count > 0 ? sum / static_cast<double>(count) : nothing;
        if (count == 0) c.worst = nothing;
    }
    std::vector<std::size_t> order(mesh.element_count());
    for (std::size_t e = 0; e < order.size(); ++e) {
        order[e] = e;
        (r.grade[e] == Grade::good ? r.good : r.grade[e] == Grade::acceptable ? r.acceptable : r.poor) += 1;
    }
    const std::size_t shown = std::min(std::max(worst_count, every_poor ? r.poor : 0), order.size());
    std::partial_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(shown), order.end(),
                      [&](std::size_t a, std::size_t b) {
                          return worst_badness[a] != worst_badness[b] ? worst_badness[a] > worst_badness[b] : a < b;
                      });
    for (std::size_t k = 0; k < shown; ++k) {
        const std::size_t e = order[k];
        const Criterion m = worst_measure[e];
        r.worst.push_back({e, mesh.centre_of(e), m, r.values[static_cast<std::size_t>(m)][e], r.grade[e],
                           r.grade[e] == Grade::good ? "" : causes.of(e, m)});
    }
    return r;
}

}  // namespace

QualityReport judge_quality(const Mesh& mesh, const std::vector<double>& wanted, const std::vector<QualitySpec>& limits,
                            const Part* part, std::size_t worst_count, bool every_poor) {
    const CausesIn<2> causes(mesh, part);
    QualityReport r = judge(mesh, wanted, limits, causes, worst_count, every_poor);
    r.across = causes.counted_across();
    return r;
}
QualityReportIn<3> judge_quality(const SolidMesh& mesh, const std::vector<double>& wanted,
                                 const std::vector<QualitySpec>& limits, const SolidPart* part,
                                 std::size_t worst_count) {
    return judge(mesh, wanted, limits, CausesIn<3>(mesh, part), worst_count, false);
}

}  // namespace dotsift
