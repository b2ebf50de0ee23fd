#pragma once
// The direction in which quadrilaterals should lie at each place: along the boundary near it, and smooth in between.

#include <complex>
#include <vector>

#include "mesh/plane/outline.hpp"

namespace dotsift {

/// Four directions at right angles at every place of one face, kept as exp(4 i angle) at the vertices of a triangle
/// mesh of it (Hertzmann & Zorin 2000, SIGGRAPH; Palacios & Zhang 2007). On segments one of them runs along the
/// segment; in between the field is harmonic, with its values kept of length 1.
class CrossField {
  public:
    /// `background` is a filled triangulation; only triangles with a face count.
    explicit CrossField(Outline background);

    /// The angle of one of the four directions. `hint` is a triangle near p, for calls from neighbouring places.
    [[nodiscard]] double angle_at(const Vec2& p, int& hint) const;

  private:
    Outline background_;
    std::vector<std::complex<double>> value_;  ///< at each vertex
};

}  // namespace dotsift
