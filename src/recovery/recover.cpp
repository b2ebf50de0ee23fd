#include "recovery/recover.hpp"

#include <Eigen/Dense>
#include <algorithm>

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

std::vector<Sample> sample_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const PlaneLaw& law) {
    std::vector<Sample> samples;
    samples.reserve(mesh.element_count() * samples_per_element);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        for (const auto& q : triangle_rule(2)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q.xi);
            samples.push_back({p.position, law.stress(strain_at(mesh, displacement, e, p))});
        }
    }
    return samples;
}

/// Adds the elements round every corner of the patch's elements.
void grow(const Mesh& mesh, const NodeElements& around, std::vector<std::int32_t>& patch) {
    const auto old = patch;
    for (const auto e : old) {
        const auto nodes = mesh.element(static_cast<std::size_t>(e));
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[static_cast<std::size_t>(e)]));
             ++c) {
            const auto more = around.of(static_cast<std::size_t>(nodes[c]));
            patch.insert(patch.end(), more.begin(), more.end());
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

std::vector<Plane3> recover_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const PlaneLaw& law) {
    const auto samples = sample_stress(mesh, displacement, law);
    const NodeElements around = node_elements(mesh);
    std::vector<char> corner(mesh.nodes.size(), 0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c)
            corner[static_cast<std::size_t>(mesh.element(e)[c])] = 1;

    std::vector<Patch> patches(mesh.nodes.size());
    std::vector<Plane3> recovered(mesh.nodes.size());
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        if (!corner[n]) continue;
        const auto first = around.of(n);
        std::vector<std::int32_t> elements(first.begin(), first.end());
        while (elements.size() * samples_per_element < terms * samples_per_term) {
            const std::size_t before = elements.size();
            grow(mesh, around, elements);
            if (elements.size() == before) break;
        }
        if (elements.size() * samples_per_element < terms) {  // a mesh of one element: its own mean is all there is
            patches[n].centre = mesh.nodes[n];
            patches[n].fit.setZero();
            for (const auto e : elements)
                for (std::size_t k = 0; k < samples_per_element; ++k)
                    for (Eigen::Index c = 0; c < 3; ++c)
                        patches[n].fit(0, c) += samples[static_cast<std::size_t>(e) * samples_per_element + k]
                                                    .stress[static_cast<std::size_t>(c)] /
                                                static_cast<double>(elements.size() * samples_per_element);
        } else {
            patches[n] = fit_patch(mesh.nodes[n], elements, samples);
        }
        recovered[n] = patches[n].at(mesh.nodes[n]);
    }
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        for (int s = 0; s < corner_count(mesh.kinds[e]); ++s) {
            const auto side = side_nodes(mesh.kinds[e], s);
            const auto middle = static_cast<std::size_t>(nodes[static_cast<std::size_t>(side[2])]);
            const Vec2& p = mesh.nodes[middle];
            const Plane3 a = patches[static_cast<std::size_t>(nodes[static_cast<std::size_t>(side[0])])].at(p);
            const Plane3 b = patches[static_cast<std::size_t>(nodes[static_cast<std::size_t>(side[1])])].at(p);
            for (std::size_t c = 0; c < 3; ++c) recovered[middle][c] = 0.5 * (a[c] + b[c]);
        }
    }
    return recovered;
}

Plane3 interpolate(const Mesh& mesh, const std::vector<Plane3>& nodal, std::size_t e, const ElementPoint& p) {
    Plane3 value{};
    const auto nodes = mesh.element(e);
    for (std::size_t i = 0; i < nodes.size(); ++i)
        for (std::size_t c = 0; c < 3; ++c) value[c] += p.n[i] * nodal[static_cast<std::size_t>(nodes[i])][c];
    return value;
}

}  // namespace dotsift
