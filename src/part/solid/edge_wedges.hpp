#pragma once
// What lies round an edge of a solid: the bodies and the room between the faces that meet there.

#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// The room between two faces that follow each other round an edge.
struct EdgeWedge {
    int body = -1;  ///< -1: no material
    int first = 0,
        last = 0;      ///< faces; from the first to the last it goes round the edge as a right-handed screw goes on
    double angle = 0;  ///< radians; of a single face all round 2 pi
};

/// The faces at every edge, each as often as its loops use it.
class EdgeFaces {
  public:
    explicit EdgeFaces(const SolidPart& part);

    struct Use {
        int face = 0;
        bool forward = true;
    };
    [[nodiscard]] const std::vector<Use>& at(std::size_t edge) const { return uses_[edge]; }
    /// The wedges round the edge at the parameter t of its curve, in order. Empty: the faces' normals are not clear.
    [[nodiscard]] std::vector<EdgeWedge> wedges(std::size_t edge, double t) const;

  private:
    const SolidPart& part_;
    std::vector<std::vector<Use>> uses_;
};

}  // namespace dotsift
