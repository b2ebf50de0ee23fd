#pragma once
// How the degrees of freedom of a field are numbered: the one place that knows.

#include <cstdint>
#include <span>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// How degrees of freedom belong to elements: `components` at each node of `connectivity` (laid out like the mesh's),
/// numbered by node, and some that all elements share.
struct FieldLayout {
    std::span<const std::int32_t> connectivity;
    int components = 1;
    std::int32_t nodes = 0;
    std::int32_t shared_first = 0;  ///< number of the first shared degree of freedom
    int shared = 0;
    std::int32_t dofs = 0;  ///< of all nodes, and others after them
    [[nodiscard]] std::int32_t dof(std::int32_t node, int component) const { return node * components + component; }
    /// Of a degree of freedom of a node; others have a node behind the last.
    [[nodiscard]] std::int32_t node_of(std::int32_t dof) const { return dof / components; }
    [[nodiscard]] int component_of(std::int32_t dof) const { return dof % components; }
};

/// Of a displacement in the plane; its degrees of freedom come first in every list of them.
inline constexpr int displacement_components = static_cast<int>(Vec2::size());

/// Where the components of a node's vector begin.
constexpr std::size_t first_of(std::size_t node) {
    return node * static_cast<std::size_t>(displacement_components);
}
/// The vector at a node, and the same to be added to.
template <int D = 2>
Vec<D> vector_at(std::span<const double> values, std::size_t node) {
    Vec<D> v;
    for (std::size_t c = 0; c < v.size(); ++c) v[c] = values[node * v.size() + c];
    return v;
}
/// Those at all nodes.
template <int D = 2>
std::vector<Vec<D>> vectors_at(std::span<const double> values, std::size_t nodes) {
    std::vector<Vec<D>> out(nodes);
    for (std::size_t n = 0; n < nodes; ++n) out[n] = vector_at<D>(values, n);
    return out;
}
template <int D>
void add_at(std::span<double> values, std::size_t node, const Vec<D>& v) {
    for (std::size_t c = 0; c < v.size(); ++c) values[node * v.size() + c] += v[c];
}

}  // namespace dotsift
