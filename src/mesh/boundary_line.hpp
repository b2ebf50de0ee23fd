#pragma once
// Sides of a mesh's boundary, one after the other, as a line with its length.

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

/// A side, or a piece of it, as the line runs through it.
struct LinePiece {
    std::size_t boundary = 0;  ///< index into Mesh::boundary
    double from = 0, to = 1;   ///< shares of the side; falling where the line runs against it
    double begin = 0;          ///< distance along the line
    double length = 0;
};

struct BoundaryLine {
    std::vector<LinePiece> pieces;
    double length = 0;
    bool closed = false;
    std::vector<std::pair<double, int>> corners;  ///< distance and node where one edge of the part ends
};

/// The sides of edges whose names fit, with the material on the left, from `from` to `to` (the nearest places of the
/// line); without them from end to end, or round from a corner. Where `to` lies before `from` on an open line, it runs
/// back. Of several lines the one nearest to `from` counts. Empty if no side fits.
BoundaryLine boundary_line(const Mesh& mesh, const std::vector<std::string>& names, const std::optional<Vec2>& from,
                           const std::optional<Vec2>& to);

/// A point of a side of the mesh's boundary, and its derivative by the share of the side.
Vec2 point_on(const Mesh& mesh, const BoundarySide& side, double share);
Vec2 derivative_on(const Mesh& mesh, const BoundarySide& side, double share);

/// The share of a side at which it is nearest to a point.
double nearest_share(const Mesh& mesh, const BoundarySide& side, const Vec2& point);

/// The share of the side at a distance from the piece's beginning.
double share_at(const Mesh& mesh, const LinePiece& piece, double distance);

}  // namespace dotsift
