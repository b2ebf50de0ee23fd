#include "series/next_mesh.hpp"

#include <algorithm>
#include <cmath>

#include "mesh/plane/generate.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/singular/singular_edges.hpp"

namespace dotsift {

namespace {

// One adaptive step aims at an error this many times smaller. Larger steps trust the coarse mesh's error map too far.
constexpr double boldest_step = 8;
// And at least this many: levels that hardly differ cost a solve and show no order.
constexpr double mildest_step = 2;
// Aims a little below the target, so that it is not missed by a hair and paid for with another level.
constexpr double aim = 0.85;

// At singular points, whose law is known, sizes go down to this share of the part's size in one step.
constexpr double smallest_share = 1e-5;

// Sizes that are limited by curvature or growth do not follow a common factor exactly.
constexpr int fitting_steps = 3;

// Rows of layers become finer from this factor on, and by no more than this in one step.
constexpr double worth_a_row = 0.9, finest_rows = 0.5;

// A step towards a budget multiplies the number of elements by at most this.
constexpr double boldest_growth = 4;

/// Of the next level, on the way to a budget.
double wanted_elements(const SeriesSpec& spec, const Level& last) {
    const auto have = static_cast<double>(last.mesh.elements);
    const double wanted = spec.budget_elements ? static_cast<double>(*spec.budget_elements)
                                               : static_cast<double>(*spec.budget_unknowns) * have /
                                                     static_cast<double>(std::max<std::int64_t>(last.unknowns, 1));
    return std::min(wanted, boldest_growth * have);
}

/// On the sizes of the last level's elements.
template <int D>
EvenShares factors(const SeriesSpec& spec, const Level& last, const DrivingError& driving) {
    const ErrorMap& map = driving.map;
    const Topology& mesh = topology_of(last);
    std::vector<char> changes(mesh.element_count(), 1);
    std::vector<double> error2 = map.element_error2;
    double kept = 0, elements = 0;  // squared error and number of what does not change
    const Meant within(mesh, spec.within);
    for (std::size_t e = 0; e < error2.size(); ++e) {
        if (spec.within.empty() || within.element(e)) continue;
        changes[e] = 0;
        kept += error2[e];
        elements += 1;
        error2[e] = 0;
    }
    const int degree = polynomial_degree(mesh.kinds.front());
    EvenShares even;
    std::vector<double>& factor = even.factor;
    switch (spec.strategy) {
        case Strategy::target: {
            const double wanted =
                std::clamp(aim * driving.target, map.relative() / boldest_step, map.relative() / mildest_step);
            const double least = (map.error2 - kept) / (boldest_step * boldest_step);
            even = factors_for_error(error2, std::max(wanted * wanted * (map.energy2 + map.error2) - kept, least),
                                     degree, D);
            break;
        }
        case Strategy::budget: {
            even = factors_for_count(error2, std::max(wanted_elements(spec, last) - elements, 1.0), degree, D);
            break;
        }
        case Strategy::share_of_elements:
            factor = factors_for_share(error2, spec.share, spec.finer);
            break;
        case Strategy::share_of_error:
            factor = factors_for_bulk(error2, spec.share, spec.finer);
            break;
    }
    for (std::size_t e = 0; e < factor.size(); ++e)
        if (!changes[e]) factor[e] = 1;
    return even;
}

/// The factor on sizes that the elements in rows of layers ask for, each counted by its error; 1 without layers. The
/// rows of a layer have no sizes that could follow single elements.
double layer_factor(const Topology& mesh, const std::vector<double>& error2, const std::vector<double>& factor) {
    double sum = 0, weight = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (mesh.row[e] == 0 || !(factor[e] > 0)) continue;
        sum += error2[e] * std::log(factor[e]);
        weight += error2[e];
    }
    return weight > 0 ? std::exp(sum / weight) : 1;
}

template <int D>
std::vector<int> layer_rules(const SizingIn<D>& sizes) {
    std::vector<int> rules;
    for (const auto& l : sizes.layers) rules.push_back(l.rule);
    return rules;
}

}  // namespace

template <int D>
MeshChooser<D>::MeshChooser(const Study& study, const PartIn<D>& part)
    : study_(study), part_(part), base_(sizing_of(part, study.sizes, study.path)) {
    if constexpr (D == 2)
        singular_ = singular_points(part, study);
    else
        singular_ = singular_edges(part, study);
}

template <int D>
SizingIn<D> MeshChooser<D>::first_sizes(const MeshIn<D>* start) const {
    if (!start) return base_;
    const MeshIn<D>& mesh = *start;
    ResizeLimits limits;
    limits.smallest = study_.sizes.smallest.value_or(smallest_of_diagonal * part_.box.diagonal());
    limits.largest = 2 * base_.field.global();
    limits.growth = study_.sizes.growth;
    SizingIn<D> sizes = base_;
    sizes.field = resize(mesh, std::vector<double>(mesh.element_count(), 1.0), limits);
    sizes.divisions.clear();
    return sizes;
}

template <int D>
NextMeshIn<D> MeshChooser<D>::next(const SeriesSpec& spec, const SizingIn<D>& first, const SizingIn<D>& sizes,
                                   const Level& last, const DrivingError& driving, int levels) const {
    const double finer = std::pow(spec.ratio, -levels);
    if (spec.kind == SeriesKind::uniform) return {first.scaled(finer), {}, {}};
    if (spec.kind == SeriesKind::local) {
        std::vector<int> rules, layers;
        const auto chosen = [&](const std::string& name) {
            return std::find(spec.rules.begin(), spec.rules.end(), name) != spec.rules.end();
        };
        for (std::size_t k = 0; k < study_.sizes.local.size(); ++k)
            if (chosen(study_.sizes.local[k].name)) rules.push_back(static_cast<int>(k));
        for (std::size_t k = 0; k < study_.sizes.layers.size(); ++k)
            if (chosen(study_.sizes.layers[k].name)) layers.push_back(static_cast<int>(k));
        return {base_.scaled(finer, rules, layers), {}, {}};
    }
    return adapted(spec, sizes, last, driving);
}

template <int D>
NextMeshIn<D> MeshChooser<D>::adapted(const SeriesSpec& spec, const SizingIn<D>& sizes, const Level& last,
                                      const DrivingError& driving) const {
    ResizeLimits limits;
    limits.smallest =
        spec.smallest.value_or(study_.sizes.smallest.value_or(smallest_of_diagonal * part_.box.diagonal()));
    limits.largest = spec.largest.value_or(2 * base_.field.global());
    limits.growth = spec.growth.value_or(study_.sizes.growth);
    if (!spec.coarsen) limits.most_coarser = 1;
    const EvenShares even = factors<D>(spec, last, driving);
    const MeshIn<D>& mesh = fields_of<D>(last)->mesh;
    SizeFieldIn<D> field = resize(mesh, even.factor, limits)
                               .with(curvature_sources(part_, study_.sizes))
                               .with(sources_at_points(spec, mesh, driving.map, even, limits));
    if (spec.strategy == Strategy::budget) field = fitted(field, wanted_elements(spec, last), sizes.field, last);
    NextMeshIn<D> next{sizes, {}, {}};
    next.sizes.field = std::move(field);
    next.sizes.divisions.clear();
    if (const double finer = layer_factor(mesh, driving.map.element_error2, even.factor); finer < worth_a_row)
        next.sizes = next.sizes.scaled(std::max(finer, finest_rows), {}, layer_rules(sizes));
    if (spec.keep_rest) next.anew = changing_elements(mesh, even.factor);
    return next;
}

/// All sizes changed alike until they ask for a number of elements, but growing from one to the next no faster than
/// they may; how many a mesh really gets is known from the last one.
template <int D>
SizeFieldIn<D> MeshChooser<D>::fitted(const SizeFieldIn<D>& field, double wanted, const SizeFieldIn<D>& sizes,
                                      const Level& last) const {
    const double many = 10 * std::max(wanted, static_cast<double>(last.mesh.elements));
    const double asked = estimate_elements(part_, sizes, many);
    const double made = asked > 0 ? static_cast<double>(last.mesh.elements) / asked : 1;
    SizeFieldIn<D> fit = field;
    double factor = 1;
    for (int k = 0; k < fitting_steps; ++k) {
        const double expected = made * estimate_elements(part_, fit, many);
        if (!(expected > 0)) break;
        factor *= D == 2 ? std::sqrt(expected / wanted) : std::cbrt(expected / wanted);
        fit = field.scaled(factor).no_steeper(field.steepest());
    }
    return fit;
}

/// Points where the error does not fall as elsewhere are sources of their own, so that the sizes grow from them.
template <int D>
std::vector<SizeSourceIn<D>> MeshChooser<D>::sources_at_points(const SeriesSpec& spec, const MeshIn<D>& mesh,
                                                               const ErrorMap& map, const EvenShares& even,
                                                               const ResizeLimits& limits) const {
    std::vector<SizeSourceIn<D>> out;
    // The law at the points is one of the energy norm.
    const bool by_energy = spec.drive == std::vector{of_energy} &&
                           std::all_of(spec.indicators.begin(), spec.indicators.end(), estimates_energy_norm);
    if (!by_energy || !(even.element_error2 > 0)) return out;
    if constexpr (D == 2) {
        const double near = same_point_share * part_.box.diagonal();
        const Meant within(mesh, spec.within);
        for (const auto& p : singular_) {
            if (!(p.exponent > 0)) continue;
            const auto source =
                point_source(mesh, map.element_error2, even.element_error2, p.position, p.exponent, near,
                             [&](std::size_t e) { return spec.within.empty() || within.element(e); });
            if (!source) continue;
            SizeSource held = *source;
            held.size = std::max({source->size, smallest_share * part_.box.diagonal(), limits.smallest});
            if (held.size < limits.largest) out.push_back(held);
        }
    }
    return out;
}

template class MeshChooser<2>;
template class MeshChooser<3>;

}  // namespace dotsift
