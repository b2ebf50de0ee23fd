#pragma once
// A size in a volume -> size sources that fill it.

#include <functional>
#include <vector>

#include "sizes/size_field.hpp"

namespace dotsift {

struct SizeVolume {
    Box<3> box;  ///< all of it lies in here
    /// How far outside a place lies, < 0 inside, and no more than the distance to the surface; empty: the whole box.
    std::function<double(const Vec3&)> outside;
    /// Where that distance may be to what is no surface of the volume: whether a place is in it. Empty: not needed.
    std::function<bool(const Vec3&)> contains;
    std::function<double(const Vec3&)> size;  ///< must be > 0
    bool varies = false;                      ///< the size is not the same everywhere
    int rule = -1;
};

/// Balls round cubes, which are cut into eight until the size in them is the same within a tenth, and at the surface
/// until they are an element wide: the volume is covered, and little beside it. `to_place`: from the volume's own
/// places to those of the part.
void add_volume_sources(const SizeVolume& volume, const std::function<Vec3(const Vec3&)>& to_place,
                        std::vector<SizeSourceIn<3>>& sources);

}  // namespace dotsift
