#pragma once
// How shapes of a list take place from each other: the same for faces of the plane and for pieces of space.

#include <string>
#include <vector>

namespace dotsift {

struct StepRule {
    /// add: the shape becomes its region, cut: it is taken out, intersect: only what lies in it stays, line: its edges
    /// or faces stay in the part though the same region lies on both sides.
    enum class Kind { add, cut, intersect, line };
    Kind kind = Kind::add;
    std::string region;           ///< add: the region
    int priority = 0;             ///< add: does not take from regions of a higher one
    std::vector<std::string> of;  ///< cut, intersect: patterns of the regions concerned; empty: all
    int source = -1;              ///< told in the trace
};

/// What a step did.
struct StepTrace {
    bool changed = false;     ///< some face changed its region
    bool on_outline = false;  ///< an edge or face, or a point, of it is left in the part
    bool spots_inside = true;
};

/// What a face or piece of space belongs to.
struct Owned {
    int region = -1;  ///< -1: none
    int priority = 0;
};

/// One step for one of them. `inside`: it lies in the shape, `concerned`: its region fits `of`. Whether its region
/// changed.
inline bool play(const StepRule& step, int region, bool inside, bool concerned, Owned& piece) {
    const int before = piece.region;
    if (step.kind == StepRule::Kind::add && inside && (before < 0 || step.priority >= piece.priority))
        piece = {region, step.priority};
    if (step.kind == StepRule::Kind::cut && inside && concerned) piece.region = -1;
    if (step.kind == StepRule::Kind::intersect && !inside && concerned) piece.region = -1;
    return piece.region != before;
}

}  // namespace dotsift
