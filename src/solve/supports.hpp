#pragma once
// Supports -> what each node may still do.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "study/study.hpp"

namespace dotsift {

/// displacement of a node = given + sum over k < free of direction[k] * unknown k
struct NodeFreedom {
    int free = 2;
    std::array<Vec2, 2> direction{{{{1, 0}}, {{0, 1}}}};
    Vec2 given{};
    int support = -1;  ///< the first support that holds the node; -1: none
};

/// Throws InputError if two supports contradict each other at a node, naming both.
std::vector<NodeFreedom> node_freedoms(const Mesh& mesh, const Study& study);

}  // namespace dotsift
