#pragma once
// Edges of a solid along which the exact stress or flux is infinite.

#include <vector>

#include "part/solid/solid_part.hpp"
#include "solve/singular/singular_points.hpp"

namespace dotsift {

/// Re-entrant edges, rims of held faces, edges at which supports meet and at which materials do. Square to an edge a
/// solid is in plane strain, and along it in shear: the exponent is the least of both problems' (see corner_exponents),
/// the shear being a potential with the shear modulus as conductivity (Dauge 1988, Lect. Notes Math. 1341). It is that
/// in the middle of the edge or near its ends, the lowest of the three. Edges between faces of the same names are one
/// entry. What is special at corners where edges end is not looked for: in the energy and what follows from it edges
/// weigh more.
std::vector<SingularPoint> singular_edges(const SolidPart& part, const Study& study);

/// How far places lie from the nearest of some edges, which must outlive it.
class EdgeDistance {
  public:
    explicit EdgeDistance(const std::vector<CurveIn<3>>& edges);
    struct Nearest {
        double distance;  ///< infinity where it is more than `most`
        std::size_t edge = 0;
        double t = 0;  ///< parameter of its curve
    };
    [[nodiscard]] Nearest operator()(const Vec3& place, double most) const;

  private:
    const std::vector<CurveIn<3>>& edges_;
    std::vector<Box<3>> boxes_;
};

}  // namespace dotsift
