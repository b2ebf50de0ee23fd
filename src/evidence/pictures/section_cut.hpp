#pragma once
// A plane through the elements of a solid's mesh.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "study/quantity_spec.hpp"

namespace dotsift {

/// Where the plane meets the line between two nodes of an element.
struct CutCorner {
    std::uint8_t a = 0, b = 0;  ///< local nodes
    double share = 0;           ///< of the way from a to b
};

/// What the plane cuts out of an element, or of a piece of one between its nodes. Its corners go round it.
struct CutPiece {
    std::size_t element = 0;
    int corners = 3;
    std::array<CutCorner, 4> corner{};
    std::array<int, 4> side{-1, -1, -1, -1};  ///< of the element, on which the piece's edge from each corner lies
};

/// Distances from the plane, > 0 where its normal points to.
std::vector<double> distances_from(const PlaneSpec& plane, const std::vector<Vec3>& places);

/// All pieces, where nodes lie so far from the plane. Curved elements are cut between all their nodes. Tetrahedra only.
std::vector<CutPiece> cut_elements(const SolidMesh& mesh, const std::vector<double>& distances);

/// The area that a plane cuts out of the mesh.
double cut_area(const SolidMesh& mesh, const PlaneSpec& plane);

}  // namespace dotsift
