#pragma once
// What is to be found out: quantities, paths and pictures, as plain data. Every number is in the study's units.

#include <array>
#include <cmath>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/vec.hpp"
#include "study/diagnostics.hpp"
#include "study/field.hpp"
#include "study/formula.hpp"

namespace dotsift {

struct LineSpec {
    Vec2 from, to;
};

/// A point of a plane and where it faces; of a picture's section without a direction: one through the largest value.
struct PlaneSpec {
    Vec3 at{}, normal{{0, 0, 1}};
};

/// `membrane` and `linearised`: of the stress linearised across a path.
enum class Take { maximum, minimum, mean, value, integral, membrane, linearised, total };

/// Whether stress and flux are the recovered ones, the elements' own (which jump from one to the next), or the
/// elements' own at their integration points only.
enum class FieldOrigin { recovered, elements, integration_points };

/// A line through the part, or along its boundaries, on which results are listed.
struct PathSpec {
    std::string name;
    Where where;
    std::vector<Vec3> points;         ///< its corners, in the plane with z = 0; of a boundary none
    std::vector<std::string> follow;  ///< patterns of boundary names: instead of corners, the edges of these names
    std::optional<Vec2> from, to;     ///< of a boundary: where it begins and ends; nothing: its whole length
    std::string from_name, to_name;   ///< the same by the names of points
    std::int64_t samples = 101;
    [[nodiscard]] bool on_boundary() const { return !follow.empty(); }
};

/// The uncertainty that a quantity may have.
struct QuantityTarget {
    double value = 0;
    bool absolute = false;  ///< in the quantity's unit; else a share of its value
    /// The half-width that is allowed about a value.
    [[nodiscard]] double allowed(double about) const { return absolute ? value : value * std::fabs(about); }
};

/// What a quantity may be; at least one of the two is given.
struct QuantityLimit {
    std::optional<double> highest, lowest;
    double safety = 1;  ///< both become stricter by this factor
    [[nodiscard]] double allowed_highest() const { return *highest > 0 ? *highest / safety : *highest * safety; }
    [[nodiscard]] double allowed_lowest() const { return *lowest > 0 ? *lowest * safety : *lowest / safety; }
};

enum class PathEnd { first, last };

struct QuantitySpec {
    std::string name;
    Where where;
    Field field = Field::von_mises;
    Take take = Take::maximum;
    std::vector<std::string> on;      ///< boundaries or supports; empty: the whole part
    std::vector<std::string> inside;  ///< patterns of regions: on which side of an interface; empty: on both
    std::string along;                ///< the name of a path
    std::optional<PathEnd> end;       ///< of it, for Take::linearised; nothing: the one with the larger value
    std::string load_case;            ///< its name; empty: the first one
    FieldOrigin origin = FieldOrigin::recovered;
    Vec2 about{};                    ///< centre of radial and tangential components
    std::string about_name;          ///< the same by the name of a point
    std::optional<Vec3> at;          ///< for Take::value; in the plane z is 0
    std::string at_name;             ///< the same by the name of a point
    std::optional<Formula> formula;  ///< of other quantities; then the fields above mean nothing
    std::optional<QuantityTarget> target;
    bool dual = false;                ///< its error is estimated by a dual problem
    std::optional<double> reference;  ///< a value known from elsewhere, shown beside the result
    std::optional<QuantityLimit> limit;
    std::optional<Vec3> relative_to;  ///< displacements are less the one here
    std::string relative_to_name;     ///< the same by the name of a point
};

/// Of which levels pictures are made, beside the small ones of the report. Meshes and numbers are kept of all.
enum class PicturedLevels { none, last, ends, all };

/// What a picture of several load cases shows at each place: the largest or smallest of their values, or which of them
/// gives the largest.
enum class CaseEnvelope { none, largest, smallest, governing };

/// A picture of one's choice.
struct PictureSpec {
    std::string name;
    Where where;
    Field field = Field::von_mises;
    std::string load_case;  ///< its name; empty: the first one
    CaseEnvelope envelope = CaseEnvelope::none;
    Vec2 about{};                                ///< centre of radial and tangential components
    std::string about_name;                      ///< the same by the name of a point
    std::string series;                          ///< empty: that of the finest level
    std::optional<std::int64_t> level;           ///< nothing: the last
    std::optional<std::array<double, 2>> range;  ///< of the colours; nothing: that of the field
    std::optional<LineSpec> box;                 ///< opposite corners of what is shown; nothing: all
    std::optional<PlaneSpec> section;            ///< of a solid: what lies before this plane is taken away
    std::optional<double> deformed;              ///< factor on the displacements; 0: one that can be seen
    bool sides = true;                           ///< of the elements are drawn
};

}  // namespace dotsift
