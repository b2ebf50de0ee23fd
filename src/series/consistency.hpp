#pragma once
// Is it the same part under the same loads on every mesh?

#include <string>
#include <vector>

#include "part/part.hpp"

namespace dotsift {

struct SeriesResult;

/// A measure that every mesh should share.
struct SharedMeasure {
    enum class Kind { area, length, load, balance };
    Kind kind = Kind::area;
    std::string name;   ///< of the region, boundary or load
    double wanted = 0;  ///< the part's own, of its true curves; of a load the magnitude on the finest level
    double worst = 0;   ///< largest relative gap of a level to it; loads: force and moment, so that the centre counts
    double on_finest = 0;  ///< the gap on the level with the most unknowns
    std::string level;     ///< where the largest gap is: "series, level k"
    std::string fault;     ///< why it drifts, in words; empty: it does not
    [[nodiscard]] bool drifts() const { return !fault.empty(); }
};

/// Areas of regions and lengths of boundaries against the part: their gap is the error of the geometry, which straight
/// and parabolic sides make on curves; it has to fall as the mesh becomes finer, and is none of the discretisation of
/// the fields. Total loads against the finest level: they may differ by what their boundary's length does. The balance
/// of loads and reactions. A name without elements or sides on a level is a fault.
std::vector<SharedMeasure> shared_measures(const Part& part, const std::vector<SeriesResult>& series);

const char* name_of(SharedMeasure::Kind kind);

}  // namespace dotsift
