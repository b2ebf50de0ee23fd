#include "recovery/recover.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <iterator>

#include "solve/elasticity.hpp"

namespace dotsift {

namespace {

constexpr int terms = 6;  // of a complete quadratic in the plane
// A patch gets more elements until it has this many samples for each term. With fewer, the quadratic follows the
// scatter of the samples where it is extrapolated to the boundary.
constexpr std::size_t samples_per_term = 3;

using Basis = Eigen::Matrix<double, terms, 1>;
using Fit = Eigen::Matrix<double, terms, 3>;

Basis basis(const Vec2& p) {
    Basis b;
    b << 1, p[0], p[1], p[0] * p[0], p[0] * p[1], p[1] * p[1];
    return b;
}

struct Sample {
    Vec2 position;
    Plane3 stress;
};

/// A quadratic about a node, in coordinates divided by the patch's size.
struct Patch {
    Vec2 centre;
    double scale = 1;
    Fit fit;

    [[nodiscard]] Plane3 at(const Vec2& p) const {
        const Eigen::Matrix<double, 1, 3> v = basis((p - centre) / scale).transpose() * fit;
        return {v[0], v[1], v[2]};
    }
};

constexpr std::size_t samples_per_element = 3;

std::vector<Sample> sample_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws) {
    std::vector<Sample> samples;
    samples.reserve(mesh.element_count() * samples_per_element);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        for (const auto& q : triangle_rule(2)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q.xi);
            samples.push_back({p.position, laws[static_cast<std::size_t>(mesh.region[e])].stress(
                                               strain_at(mesh, displacement, e, p))});
        }
    }
    return samples;
}

/// Adds the elements of the same region round every corner of the patch's elements.
void grow(const Mesh& mesh, const NodeElements& around, std::vector<std::int32_t>& patch) {
    const auto old = patch;
    for (const auto e : old) {
        const auto nodes = mesh.element(static_cast<std::size_t>(e));
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[static_cast<std::size_t>(e)]));
             ++c) {
            const auto more = around.of(static_cast<std::size_t>(nodes[c]));
            std::copy_if(more.begin(), more.end(), std::back_inserter(patch), [&](std::int32_t m) {
                return mesh.region[static_cast<std::size_t>(m)] == mesh.region[static_cast<std::size_t>(e)];
            });
        }
    }
    std::sort(patch.begin(), patch.end());
    patch.erase(std::unique(patch.begin(), patch.end()), patch.end());
}

Patch fit_patch(const Vec2& centre, const std::vector<std::int32_t>& elements, const std::vector<Sample>& samples) {
    Patch patch;
    patch.centre = centre;
    patch.scale = 0;
    for (const auto e : elements)
        for (std::size_t k = 0; k < samples_per_element; ++k)
            patch.scale = std::max(
                patch.scale, distance(samples[static_cast<std::size_t>(e) * samples_per_element + k].position, centre));
    Eigen::Matrix<double, terms, terms> gram = Eigen::Matrix<double, terms, terms>::Zero();
    Fit right = Fit::Zero();
    for (const auto e : elements) {
        for (std::size_t k = 0; k < samples_per_element; ++k) {
            const Sample& s = samples[static_cast<std::size_t>(e) * samples_per_element + k];
            const Basis b = basis((s.position - centre) / patch.scale);
            gram.noalias() += b * b.transpose();
            right.noalias() += b * Eigen::Map<const Eigen::RowVector3d>(s.stress.data());
        }
    }
    patch.fit = gram.ldlt().solve(right);
    return patch;
}

}  // namespace

std::vector<Plane3> recover_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws) {
    const auto samples = sample_stress(mesh, displacement, laws);
    const NodeElements around = node_elements(mesh);
    const std::size_t slots = mesh.node_of_slot.size();
    constexpr std::int32_t no_corner = -1;
    std::vector<std::int32_t> region(slots, no_corner);  // of slots at corners
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c)
            region[static_cast<std::size_t>(mesh.slots_of(e)[c])] = mesh.region[e];

    std::vector<Patch> patches(slots);
    std::vector<Plane3> recovered(slots);
    for (std::size_t s = 0; s < slots; ++s) {
        if (region[s] == no_corner) continue;
        const auto node = static_cast<std::size_t>(mesh.node_of_slot[s]);
        const auto first = around.of(node);
        std::vector<std::int32_t> elements;
        std::copy_if(first.begin(), first.end(), std::back_inserter(elements),
                     [&](std::int32_t e) { return mesh.region[static_cast<std::size_t>(e)] == region[s]; });
        while (elements.size() * samples_per_element < terms * samples_per_term) {
            const std::size_t before = elements.size();
            grow(mesh, around, elements);
            if (elements.size() == before) break;
        }
        if (elements.size() * samples_per_element < terms) {  // a mesh of one element: its own mean is all there is
            patches[s].centre = mesh.nodes[node];
            patches[s].fit.setZero();
            for (const auto e : elements)
                for (std::size_t k = 0; k < samples_per_element; ++k)
                    for (Eigen::Index c = 0; c < 3; ++c)
                        patches[s].fit(0, c) += samples[static_cast<std::size_t>(e) * samples_per_element + k]
                                                    .stress[static_cast<std::size_t>(c)] /
                                                static_cast<double>(elements.size() * samples_per_element);
        } else {
            patches[s] = fit_patch(mesh.nodes[node], elements, samples);
        }
        recovered[s] = patches[s].at(mesh.nodes[node]);
    }
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto list = mesh.slots_of(e);
        for (int s = 0; s < corner_count(mesh.kinds[e]); ++s) {
            const auto side = side_nodes(mesh.kinds[e], s);
            const auto slot = [&](std::size_t k) {
                return static_cast<std::size_t>(list[static_cast<std::size_t>(side[k])]);
            };
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[slot(2)])];
            const Plane3 a = patches[slot(0)].at(p), b = patches[slot(1)].at(p);
            for (std::size_t c = 0; c < 3; ++c) recovered[slot(2)][c] = 0.5 * (a[c] + b[c]);
        }
    }
    return recovered;
}

Plane3 interpolate(const Mesh& mesh, const std::vector<Plane3>& slots, std::size_t e, const ElementPoint& p) {
    Plane3 value{};
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i)
        for (std::size_t c = 0; c < 3; ++c) value[c] += p.n[i] * slots[static_cast<std::size_t>(list[i])][c];
    return value;
}

}  // namespace dotsift
