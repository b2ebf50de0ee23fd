#pragma once
// Who watches a study run.

#include <filesystem>
#include <optional>
#include <string>

#include "base/errors.hpp"
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
    /// A mesh that a series begins with, as the study names its file. Throws FileError and InputError.
    virtual Mesh mesh_in(const std::filesystem::path& file) {
        Place place;
        place.file = file.string();
        throw InputError("a series begins with this mesh, but nothing reads mesh files here", place);
    }
    /// False: a level that is not stored ends its series.
    virtual bool may_solve() { return true; }
};

}  // namespace dotsift
