#pragma once
// How a boundary moves on the whole.

#include <string>
#include <utility>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/solid_law.hpp"

namespace dotsift {

/// The middle of a boundary, and the weights by which its nodes make the mean motion.
template <int D>
struct MeanMotionIn {
    Vec<D> centre;
    double area = 0, inertia = 0;                         ///< integrals of 1 and of the distance squared
    SquareMatrix<D> spread{};                             ///< integrals of the products of the distance's components
    std::vector<std::pair<std::int32_t, double>> weight;  ///< of each node: the integral of its shape function
    std::vector<Vec<D>> lever;                            ///< of each of them: the integral of (x - centre) times it

    /// How the boundary would have to turn, so that tractions in proportion to the motion have this moment about its
    /// middle: in the plane about z. Zero where the boundary gives no lever.
    [[nodiscard]] Vec3 turn_for(const Vec3& moment) const;
};
using MeanMotion = MeanMotionIn<2>;

template <int D>
MeanMotionIn<D> mean_motion(const MeshIn<D>& mesh, const std::vector<std::string>& on, const LawsIn<D>& laws);

}  // namespace dotsift
