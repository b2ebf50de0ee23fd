#pragma once
// Solids of many kinds, at random, as text of a study file.

#include <random>
#include <string>
#include <vector>

namespace dotsift {

struct RandomSolid {
    std::string kind;
    std::string shapes;              ///< [[part.shape]] and what belongs to it, without the [part] before them
    std::vector<std::string> names;  ///< of faces and regions, some of which may have been cut away
    double size = 1;                 ///< its extent, about
};

/// A solid of the kind seed % solid_kinds.
RandomSolid random_solid(unsigned seed);
inline constexpr int solid_kinds = 15;

/// Sizes that may be asked of it: a global one, and with `rules` one to three local ones of all sorts.
std::string random_sizes(const RandomSolid& solid, unsigned seed, bool rules);

}  // namespace dotsift
