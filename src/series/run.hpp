#pragma once
// A study and its part -> levels, series by series.

#include <vector>

#include "base/errors.hpp"
#include "part/part.hpp"
#include "series/consistency.hpp"
#include "series/level.hpp"
#include "series/observer.hpp"
#include "series/prepare.hpp"
#include "series/singular_places.hpp"
#include "statistics/verdict.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SeriesResult {
    std::string name;
    SeriesKind kind = SeriesKind::uniform;
    std::vector<Level> levels;
    std::string stopped_by;  ///< in words
    bool target_met = true;  ///< the series' own target (error or change); true if it has none
    bool by_target = false;  ///< see Stop
    std::vector<QuantityVerdict> verdicts;
};

struct StudyResult {
    std::vector<SeriesResult> series;
    std::vector<FailedTry> failed_tries;    ///< at the first mesh, before the change of sizes and part that led to one
    std::vector<QuantityVerdict> headline;  ///< of each quantity: what all series together say; empty without levels
    std::vector<SingularPlace> singular_places;  ///< and what the finest level shows of them
    std::vector<SharedMeasure> shared;           ///< what every mesh should have in common
    std::vector<Error> failures;                 ///< that ended series; of what was done before them everything is here
    [[nodiscard]] bool all_targets_met() const;
    /// Every quantity with a limit is shown to be inside it.
    [[nodiscard]] bool all_limits_kept() const;
};

/// The level with the most unknowns; null if there is none.
const Level* finest_level(const StudyResult& result);

/// Runs every series of the study. The first mesh is made once and shared by all of them. An error that ends a series
/// is thrown if no level is done yet; else it is kept, and the next series has its turn.
StudyResult run_study(const Study& study, const Part& part, StudyObserver& observer);
StudyResult run_study(const Study& study, const SolidPart& part, StudyObserver& observer);
/// Of the part or the solid of a study that was opened.
StudyResult run_study(const StudyAndPart& opened, StudyObserver& observer);

}  // namespace dotsift
