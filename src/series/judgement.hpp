#pragma once
// The levels of a series -> what is known of each quantity, and the verdicts.

#include <span>
#include <vector>

#include "series/run.hpp"

namespace dotsift {

/// The study's singular points, and the distance within which a node is one.
struct SingularPoints {
    const std::vector<SingularPoint>& list;
    double near;
};

/// What levels of a series tell of a quantity, with the local evidence of the last one. `places` are the singular
/// places with what shows of them on the last level: those that the loads do not wake slow nothing. What is infinite is
/// not looked at: see judge.
QuantityEvidence evidence_of(const Study& study, SeriesKind kind, std::span<const Level> levels, std::size_t quantity,
                             const std::vector<SingularPlace>& places);

/// The singular points or edges of a study, and what a level shows of them.
std::vector<SingularPlace> places_of(const Study& study, const Level& level, const SingularPoints& singular);

/// The verdicts on all quantities of a study, into each series: a quantity that has no limit in one has none in any,
/// and what is made of it by a formula has none either.
void judge_all(const Study& study, std::vector<SeriesResult>& series, const SingularPoints& singular);

/// What all series together say of each quantity; nothing if none has a level.
std::vector<QuantityVerdict> headline_of(const Study& study, const std::vector<SeriesResult>& series);

/// The verdicts on all quantities after these levels of one series.
std::vector<QuantityVerdict> judge(const Study& study, const SeriesResult& done, const SingularPoints& singular);

/// The least polynomial degree of a mesh's elements.
int least_degree(const Topology& mesh);

}  // namespace dotsift
