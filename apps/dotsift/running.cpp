#include "running.hpp"

#include <fmt/format.h>

#include "evidence/levels/vtu_read.hpp"
#include "study/input_files.hpp"

namespace dotsift::app {

namespace {

/// Writes each level as soon as it is done.
class WritingProgress final : public Progress {
  public:
    WritingProgress(bool quiet, Output& output) : Progress(quiet), output_(output) {}
    std::optional<Level> stored(const std::string& series, int index) override {
        auto level = output_.stored(series, index);
        if (level) level_kept(*level);
        return level;
    }
    Mesh mesh_in(const std::filesystem::path& file) override {
        return read_vtu(input_path(output_.study().path, file)).mesh;
    }
    void level_done(Level& level) override {
        output_.write_level(level);
        Progress::level_done(level);
    }

  private:
    Output& output_;
};

}  // namespace

StudyResult run_into(Prepared& prepared, Output& output, bool quiet) {
    const std::string directory = output.directory().string();
    advise_on_interrupt(
        fmt::format("the levels that are done stay in {0}; --resume goes on from them, and `dotsift "
                    "report {0}` makes a report of what is there",
                    directory));
    try {
        // For the change that all levels then have in common.
        if (prepared.opened.study.mesh.retry) first_mesh_telling(prepared);
        WritingProgress progress(quiet, output);
        StudyResult result = run_study(prepared.opened, progress);
        result.failed_tries = prepared.failed;
        for (const auto& e : result.failures)
            if (e.place().position) show_failure(prepared.opened, e, output.directory());
        advise_on_interrupt(
            fmt::format("every level is done and stays in {0}; `dotsift report {0}` makes the report", directory));
        progress.evidence();
        output.finish(result);
        for (const auto& t : output.troubles()) fmt::print(stderr, "{}\n", t);
        return result;
    } catch (const MeshError& e) {
        show_failure(prepared.opened, e, output.directory());
        throw;
    }
}

Earlier earlier_of(const cxxopts::ParseResult& given) {
    if (given.count("replace") && given.count("resume"))
        throw InputError("--replace and --resume are both given", {},
                         "give one: remove the levels, or go on from them");
    return given.count("replace") ? Earlier::replace : given.count("resume") ? Earlier::resume : Earlier::refuse;
}

}  // namespace dotsift::app
