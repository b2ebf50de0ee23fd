#include "recovery/recover.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <iterator>
#include <span>

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
template <int components>
using Fit = Eigen::Matrix<double, Eigen::Dynamic, components, 0, most_terms, components>;

Basis basis(int degree, const Vec2& p) {
    Basis b(terms_of(degree));
    if (degree == 1)
        b << 1, p[0], p[1];
    else
        b << 1, p[0], p[1], p[0] * p[0], p[0] * p[1], p[1] * p[1];
    return b;
}

/// A polynomial about a node, in coordinates divided by the patch's size.
template <int components>
struct Patch {
    Vec2 centre;
    int degree = 1;
    double scale = 1;
    Fit<components> fit;

    template <class Value>
    void put(const Vec2& p, double share, Value& into) const {
        const Eigen::Matrix<double, 1, components> v = basis(degree, (p - centre) / scale).transpose() * fit;
        for (int c = 0; c < components; ++c) into[static_cast<std::size_t>(c)] += share * v[c];
    }
};

/// Values at the sampling points of every element; those of element e are first[e] to first[e + 1].
template <class Value>
struct Samples {
    struct Sample {
        Vec2 position;
        Value value;
    };
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

/// value(e, point) is what the solution has there.
template <class Value, class ValueAt>
Samples<Value> sample(const Mesh& mesh, ValueAt value) {
    Samples<Value> samples;
    samples.first.reserve(mesh.element_count() + 1);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        for (const auto& q : tabulated(mesh.kinds[e], sampling_rule(mesh.kinds[e]))) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            samples.all.push_back({p.position, value(e, p)});
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

template <int components, class Value>
Patch<components> fit_patch(int degree, const Vec2& centre, const std::vector<std::int32_t>& elements,
                            const Samples<Value>& samples) {
    using Row = Eigen::Map<const Eigen::Matrix<double, 1, components>>;
    Patch<components> patch;
    patch.centre = centre;
    patch.degree = degree;
    const int terms = terms_of(degree);
    const std::size_t count = samples.count(elements);
    if (count < static_cast<std::size_t>(terms)) {  // a mesh of one element: its own mean is all there is
        patch.fit = Fit<components>::Zero(terms, components);
        for (const auto e : elements)
            for (const auto& s : samples.of(e)) patch.fit.row(0) += Row(s.value.data()) / static_cast<double>(count);
        return patch;
    }
    patch.scale = 0;
    for (const auto e : elements)
        for (const auto& s : samples.of(e)) patch.scale = std::max(patch.scale, distance(s.position, centre));
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most_terms, most_terms> gram;
    gram.setZero(terms, terms);
    Fit<components> right = Fit<components>::Zero(terms, components);
    for (const auto e : elements) {
        for (const auto& s : samples.of(e)) {
            const Basis b = basis(degree, (s.position - centre) / patch.scale);
            gram.noalias() += b * b.transpose();
            right.noalias() += b * Row(s.value.data());
        }
    }
    patch.fit = gram.ldlt().solve(right);
    return patch;
}

template <class Value>
std::vector<Value> recover(const Mesh& mesh, const Samples<Value>& samples) {
    constexpr int components = static_cast<int>(Value{}.size());
    const NodeElements around = node_elements(mesh);
    const std::size_t slots = mesh.node_of_slot.size();
    constexpr std::int32_t no_corner = -1;
    std::vector<std::int32_t> region(slots, no_corner);  // of slots at corners
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c)
            region[static_cast<std::size_t>(mesh.slots_of(e)[c])] = mesh.region[e];

    std::vector<Patch<components>> patches(slots);
    std::vector<Value> recovered(slots);
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
        patches[s] = fit_patch<components>(degree, mesh.nodes[node], elements, samples);
        patches[s].put(mesh.nodes[node], 1, recovered[s]);
    }
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (polynomial_degree(mesh.kinds[e]) == 1) continue;
        const auto list = mesh.slots_of(e);
        const int corners = corner_count(mesh.kinds[e]);
        const auto mean_of_patches = [&](int node, std::span<const int> of) {
            const auto slot = static_cast<std::size_t>(list[static_cast<std::size_t>(node)]);
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[slot])];
            Value mean{};
            for (const int c : of)
                patches[static_cast<std::size_t>(list[static_cast<std::size_t>(c)])].put(
                    p, 1 / static_cast<double>(of.size()), mean);
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

}  // namespace

std::vector<Tensor4> recover_stress(const Mesh& mesh, const Laws& laws, const Solution& s) {
    return recover(mesh, sample<Tensor4>(mesh, [&](std::size_t e, const ElementPoint& p) {
                       return stress_at(mesh, laws, s, e, p);
                   }));
}

std::vector<Vec2> recover_flux(const Mesh& mesh, const Laws& laws, const Solution& s) {
    return recover(
        mesh, sample<Vec2>(mesh, [&](std::size_t e, const ElementPoint& p) { return flux_at(mesh, laws, s, e, p); }));
}

}  // namespace dotsift
