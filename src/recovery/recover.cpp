#include "recovery/recover.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <iterator>
#include <span>

#include "solve/elasticity.hpp"

namespace dotsift {

namespace {

constexpr int most_terms = 6;
/// Of a complete polynomial of this degree (1 or 2) in the plane.
constexpr int terms_of(int degree) {
    return degree == 1 ? 3 : 6;
}
// A patch gets more elements until it has this many samples for each term. With fewer, the polynomial follows the
// scatter of the samples where it is extrapolated to the boundary.
constexpr std::size_t samples_per_term = 3;

using Basis = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, most_terms, 1>;
using Fit = Eigen::Matrix<double, Eigen::Dynamic, 3, 0, most_terms, 3>;

Basis basis(int degree, const Vec2& p) {
    Basis b(terms_of(degree));
    if (degree == 1)
        b << 1, p[0], p[1];
    else
        b << 1, p[0], p[1], p[0] * p[0], p[0] * p[1], p[1] * p[1];
    return b;
}

struct Sample {
    Vec2 position;
    Plane3 stress;
};

/// A polynomial about a node, in coordinates divided by the patch's size.
struct Patch {
    Vec2 centre;
    int degree = 1;
    double scale = 1;
    Fit fit;

    [[nodiscard]] Plane3 at(const Vec2& p) const {
        const Eigen::Matrix<double, 1, 3> v = basis(degree, (p - centre) / scale).transpose() * fit;
        return {v[0], v[1], v[2]};
    }
};

/// Stress at the sampling points of every element; those of element e are first[e] to first[e + 1].
struct Samples {
    std::vector<Sample> all;
    std::vector<std::int64_t> first{0};
    [[nodiscard]] std::span<const Sample> of(std::int32_t e) const {
        const auto k = static_cast<std::size_t>(e);
        return {all.data() + first[k], static_cast<std::size_t>(first[k + 1] - first[k])};
    }
    [[nodiscard]] std::size_t count(const std::vector<std::int32_t>& elements) const {
        std::size_t sum = 0;
        for (const auto e : elements) sum += of(e).size();
        return sum;
    }
};

Samples sample_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws) {
    Samples samples;
    samples.first.reserve(mesh.element_count() + 1);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        for (const auto& q : sampling_rule(mesh.kinds[e])) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q.xi);
            samples.all.push_back({p.position, laws[static_cast<std::size_t>(mesh.region[e])].stress(
                                                   strain_at(mesh, displacement, e, p))});
        }
        samples.first.push_back(static_cast<std::int64_t>(samples.all.size()));
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

Patch fit_patch(int degree, const Vec2& centre, const std::vector<std::int32_t>& elements, const Samples& samples) {
    Patch patch;
    patch.centre = centre;
    patch.degree = degree;
    const int terms = terms_of(degree);
    const std::size_t count = samples.count(elements);
    if (count < static_cast<std::size_t>(terms)) {  // a mesh of one element: its own mean is all there is
        patch.fit = Fit::Zero(terms, 3);
        for (const auto e : elements)
            for (const Sample& s : samples.of(e))
                patch.fit.row(0) += Eigen::Map<const Eigen::RowVector3d>(s.stress.data()) / static_cast<double>(count);
        return patch;
    }
    patch.scale = 0;
    for (const auto e : elements)
        for (const Sample& s : samples.of(e)) patch.scale = std::max(patch.scale, distance(s.position, centre));
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most_terms, most_terms> gram;
    gram.setZero(terms, terms);
    Fit right = Fit::Zero(terms, 3);
    for (const auto e : elements) {
        for (const Sample& s : samples.of(e)) {
            const Basis b = basis(degree, (s.position - centre) / patch.scale);
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
        const int degree = polynomial_degree(mesh.kinds[static_cast<std::size_t>(elements.front())]);
        while (samples.count(elements) < static_cast<std::size_t>(terms_of(degree)) * samples_per_term) {
            const std::size_t before = elements.size();
            grow(mesh, around, elements);
            if (elements.size() == before) break;
        }
        patches[s] = fit_patch(degree, mesh.nodes[node], elements, samples);
        recovered[s] = patches[s].at(mesh.nodes[node]);
    }
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (polynomial_degree(mesh.kinds[e]) == 1) continue;
        const auto list = mesh.slots_of(e);
        const int corners = corner_count(mesh.kinds[e]);
        const auto mean_of_patches = [&](int node, std::span<const int> of) {
            const auto slot = static_cast<std::size_t>(list[static_cast<std::size_t>(node)]);
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[slot])];
            Plane3 mean{};
            for (const int c : of) {
                const Plane3 v = patches[static_cast<std::size_t>(list[static_cast<std::size_t>(c)])].at(p);
                for (std::size_t k = 0; k < 3; ++k) mean[k] += v[k] / static_cast<double>(of.size());
            }
            recovered[slot] = mean;
        };
        for (int s = 0; s < corners; ++s) {
            const auto side = side_nodes(mesh.kinds[e], s);
            mean_of_patches(side[2], std::span(side).first(2));
        }
        static constexpr std::array<int, 4> all{0, 1, 2, 3};
        if (corners == 4) mean_of_patches(8, all);
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
