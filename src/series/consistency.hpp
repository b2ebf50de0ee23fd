#pragma once
// Is it the same part under the same loads on every mesh?

#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SeriesResult;

/// A measure that every mesh should share.
struct SharedMeasure {
    enum class Kind { area, length, load, reaction, balance, volume };
    Kind kind = Kind::area;
    std::string name;   ///< of the region, boundary, load or support
    double wanted = 0;  ///< the part's own, of its true curves; of loads and reactions that on the finest level
    enum class Unit { none, area, length, force, moment, flow, volume };
    Unit unit = Unit::none;  ///< of `wanted`
    double worst = 0;  ///< largest relative gap of a level to it; loads: force and moment, so that the centre counts
    double on_finest = 0;  ///< the gap on the level with the most unknowns
    std::string level;     ///< where the largest gap is: "series, level k"
    std::string fault;     ///< why it drifts, in words; empty: it does not
    [[nodiscard]] bool drifts() const { return !fault.empty(); }
};

/// Areas of regions and lengths of boundaries, of solids volumes and areas, against the part: their gap is the error of
/// the geometry, which straight and parabolic sides make on curves; it has to fall as the mesh becomes finer, and is
/// none of the discretisation of the fields. Total loads against the finest level: they may differ by what their
/// boundary's length does. Reactions, and what flows through a transfer, follow from the solution: they may differ by
/// what the error of the fields explains, at most the sum of both levels' relative errors. The balance of loads and
/// reactions. A name without elements or sides on a level is a fault. `study` gives the kinds of the loads.
std::vector<SharedMeasure> shared_measures(const Study& study, const Part& part,
                                           const std::vector<SeriesResult>& series);
std::vector<SharedMeasure> shared_measures(const Study& study, const SolidPart& part,
                                           const std::vector<SeriesResult>& series);

/// The largest relative gap of a mesh's areas and lengths to the part's.
double geometry_gap(const Part& part, const Mesh& mesh);
double geometry_gap(const SolidPart& part, const SolidMesh& mesh);

const char* name_of(SharedMeasure::Kind kind);

}  // namespace dotsift
