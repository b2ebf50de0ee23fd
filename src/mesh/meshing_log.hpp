#pragma once
// What happened on the way to a mesh.

#include <string>
#include <vector>

#include "base/errors.hpp"
#include "base/vec.hpp"

namespace dotsift {

/// A place where rows are thinner than asked.
struct ThinnedPlace {
    int rule = 0;       ///< index of the layer rule
    int edge = 0;       ///< of the part
    Vec2 position;      ///< where they are thinnest
    double factor = 1;  ///< over the height that was asked
};

struct MeshingLog {
    /// A try that led to no mesh: the sizes were halved where it failed.
    struct Try {
        std::string reason, boundary;
        Position position = Vec2{};
        std::size_t places = 0;  ///< that were too coarse: pieces of edges, or places on faces
        double size = 0;         ///< the smallest that is wanted there now
    };
    std::vector<Try> tries;
    std::vector<ThinnedPlace> thinned;  ///< rows of layers that are thinner than asked
    /// Edges of a solid's elements that are straight though their face bends: else an element would be spoilt, however
    /// small, as at the tip of a cone.
    std::size_t straightened = 0;
    Vec3 straightened_at;  ///< one of them
};

}  // namespace dotsift
