#pragma once
// Integration along boundary sides.

#include "mesh/mesh.hpp"

namespace dotsift {

/// A quadrature point on a boundary side.
struct SidePoint {
    std::array<double, 3> n{};  ///< shape values of start, end, middle node
    Vec2 position, normal;      ///< outward unit normal
    double length = 0;          ///< weight times length element
};

/// Five Gauss points: exact for polynomials of degree 9 on straight sides.
std::array<SidePoint, 5> side_points(const Mesh& mesh, const BoundarySide& side);

}  // namespace dotsift
