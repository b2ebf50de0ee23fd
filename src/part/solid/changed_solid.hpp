#pragma once
// Rounds and bevels on the edges of a solid, walls instead of a full body, inclined faces.

#include <array>
#include <string>
#include <vector>

#include <optional>

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The edges that a round or bevel is for; smooth ones and those of more than two faces do not count. Throws InputError
/// if none fits, if the number is another than expected, or if a place or name is not there.
std::vector<int> chosen_edges(const SolidPart& part, const CornerSpecIn<3>& choice);

/// What a change does: its size is a radius, the length of a bevel along both faces, or the thickness of a wall.
struct SolidChange {
    Change change = Change::round;
    double size = 0;
    std::string name;  ///< of the faces that it makes
};

/// Throws InputError with the place, and the largest size that fits, if one does not fit. The part is one body.
SolidPart with_changed_edges(const SolidPart& part, const std::vector<int>& edges, const SolidChange& change);

/// Only a wall is left along all faces, and none along those that carry an open name. Throws InputError.
SolidPart hollowed(const SolidPart& part, const std::vector<std::string>& open, const SolidChange& change);

/// All faces along z inclined to the inside, by an angle in radians, from the height `from` on. Throws InputError.
SolidPart tapered(const SolidPart& part, double from, double angle);

/// Without some of its faces, whose neighbours go on until they meet. Nothing if they do not.
std::optional<SolidPart> without_faces(const SolidPart& part, const std::vector<int>& faces);

}  // namespace dotsift
