#pragma once
// Who watches a study run.

#include <optional>
#include <string>

#include "series/level.hpp"

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
    /// False: a level that is not stored ends its series.
    virtual bool may_solve() { return true; }
};

}  // namespace dotsift
