#pragma once
// Where the exact stress or flux of a study is infinite.

#include <memory>
#include <string>
#include <vector>

#include "part/part.hpp"
#include "solve/singular/corner_exponents.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SingularPoint {
    enum class Kind { corner, crack, support_end, support_corner, junction, force };
    Kind kind = Kind::corner;
    Vec2 position;
    std::vector<CurveIn<3>> edges{};  ///< of a solid: along which it is so; `position` is the middle of the first
    double exponent = 1;              ///< of the displacement or potential: stress or flux rises as r^(exponent - 1)
    bool of_potential = false;        ///< it is the flux that is infinite
    std::string load;                 ///< of a force at a point: its name
    std::string cause;                ///< what is there, in words: "a re-entrant corner of 240°"
    std::shared_ptr<const CornerModes> modes;  ///< of one material; else null
    double reach = 0;  ///< so far its sides are straight and no others are near: there the modes hold
};

/// Re-entrant corners, crack tips, junctions of materials and ends of supports, from the part's angles, materials and
/// supports (see corner_exponents), and forces at points. What a load does there is not looked at: where it brings
/// nothing, the stress stays finite. In the order of the part's vertices.
std::vector<SingularPoint> singular_points(const Part& part, const Study& study);

/// Where it is, for people: the point, or the middle of the first edge.
std::string told_place(const SingularPoint& point);

/// What to do instead of reporting the peak there.
const char* advice_for(SingularPoint::Kind kind);

}  // namespace dotsift
