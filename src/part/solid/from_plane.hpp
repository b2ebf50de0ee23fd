#pragma once
// Plane part -> the solid that it makes when it is drawn along z, or turned about its axis y.

#include <string>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// The names of the two faces that a sweep begins and ends with; empty: none.
struct SweepNames {
    std::string start, end;
};

/// From one height to another, from < to. Sides keep the names of the part's edges, regions theirs; a named point is
/// the name of its lower end. Parts that split a region stay faces inside the solid.
SolidPart drawn_solid(const Part& part, double from, double to, const SweepNames& names = {});

/// About the part's line x = 0, by `angle` (radians, at most a whole turn), from the part's own plane towards -z: with
/// y as axis and x as radius the right-handed way. What lies on the axis makes no face. A whole turn has no start and
/// end; its round faces are parted into three, which the mesh follows. Throws InputError if the part crosses the axis
/// or only touches it along a curve.
SolidPart turned_solid(const Part& part, double angle, const SweepNames& names = {});

}  // namespace dotsift
