#pragma once
// Random chains of booleans on named shapes of space, and what they must come to, told by the shapes' own equations.

#include <set>
#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SolidChain {
    std::vector<SpaceShapeSpec> shapes;
    Box<3> box;  ///< in which all shapes lie

    /// "" outside.
    [[nodiscard]] std::string region_at(const Vec3& p) const;
    /// Names of all sides of shapes on which a place lies.
    [[nodiscard]] std::set<std::string> names_at(const Vec3& p, double tolerance) const;
    /// How far away the nearest boundary of a shape is, but for those that lie at the place itself; a lower bound.
    [[nodiscard]] double clear_at(const Vec3& p, double tolerance) const;
};

/// Three to six shapes in two regions, turned at random: boxes, cylinders, cones, spheres and rings that are added, cut
/// out and intersected, some with a priority.
SolidChain random_chain(unsigned seed);

struct ChainReport {
    std::string fault;  ///< why there is no solid; empty if there is one
    int faces = 0, on_faces = 0, in_space = 0;
    int wrong_sides = 0, wrong_names = 0, wrong_regions = 0;
    [[nodiscard]] bool good() const { return fault.empty() && wrong_sides + wrong_names + wrong_regions == 0; }
};

/// Builds the chain, and looks at random places on each face: the regions on both sides, and the names; and at random
/// places in space.
ChainReport check_chain(const SolidChain& chain, int places_on_faces, int places_in_space);

}  // namespace dotsift
