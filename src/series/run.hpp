#pragma once
// A study and its part -> levels, series by series.

#include <functional>
#include <optional>
#include <vector>

#include "part/part.hpp"
#include "series/level.hpp"
#include "series/prepare.hpp"
#include "sizes/sizing.hpp"
#include "statistics/verdict.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Gets told how the work goes on. Called from the thread that runs the study.
class StudyObserver {
  public:
    virtual ~StudyObserver() = default;
    virtual void stage(const std::string& /*series*/, int /*level*/, const std::string& /*stage*/) {}
    /// A level is complete; it will not change any more.
    virtual void level_done(Level& /*level*/) {}
    /// A level that was solved before and need not be again.
    virtual std::optional<Level> stored(const std::string& /*series*/, int /*level*/) { return {}; }
    /// True once the user asked to stop; looked at between stages.
    virtual bool stop_requested() { return false; }
};

struct SeriesResult {
    std::string name;
    SeriesKind kind = SeriesKind::uniform;
    std::vector<Level> levels;
    std::string stopped_by;  ///< in words
    bool target_met = true;  ///< the series' own target (error or change); true if it has none
    std::vector<QuantityVerdict> verdicts;
};

struct StudyResult {
    std::vector<SeriesResult> series;
    std::vector<FailedTry> failed_tries;  ///< at the first mesh, before the change of sizes and part that led to one
    bool interrupted = false;
    [[nodiscard]] bool all_targets_met() const;
};

/// Runs every series of the study. The first mesh is made once and shared by all of them. If the observer asks to stop,
/// the levels done so far are returned.
StudyResult run_study(const Study& study, const Part& part, StudyObserver& observer);

/// Makes the mesh of a level.
using MeshMaker = std::function<MadeMesh(MeshingLog&)>;

/// Meshes and solves one level: the piece that every series is made of. The fields of another level are a guess to
/// begin an iteration with.
Level solve_level(const Study& study, const Part& part, const MeshMaker& make, const std::string& series, int index,
                  StudyObserver& observer, const LevelFields* before = nullptr);

}  // namespace dotsift
