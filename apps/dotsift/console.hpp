#pragma once
// How the program talks: results on stdout, everything else on stderr.

#include <cxxopts.hpp>
#include <filesystem>
#include <string>
#include <vector>

#include "base/errors.hpp"
#include "part/checks/check_study.hpp"
#include "series/prepare.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift::app {

/// "file:line:column: error: what" with place and remedy, on stderr. Returns the exit status.
int tell(const Error& error);

/// From now on Ctrl-C and SIGTERM end the program at once, in whatever stage it is, with exit status 130. Files are
/// written beside and renamed, so that all that were finished are whole.
void end_on_signals();
/// What is told then: how to go on.
void advise_on_interrupt(const std::string& advice);

/// Parses a command's options. Throws InputError with the nearest known option for one that is not known.
cxxopts::ParseResult parse(cxxopts::Options& options, const std::vector<std::string>& arguments);

/// A study that was read, built and checked, as far as its faults allow; warnings are told.
StudyAndPart open(const std::string& path, Problems& problems);

/// The same without faults; warnings are told, faults are thrown all at once.
StudyAndPart load(const std::string& path);

/// The same for a command that plane parts alone have. Throws InputError if the study's is a solid.
StudyAndPart load_plane(const std::string& path, const std::string& command);

/// The first mesh of a study (see first_mesh); tries that fail are told.
MadeMesh first_mesh_telling(Prepared& prepared, double finer = 1);
MadeMeshIn<3> first_solid_mesh_telling(Prepared& prepared, double finer = 1);

/// Draws where meshing failed to failure.png and failure.svg in `directory`, as far as the error tells.
void show_failure(const StudyAndPart& opened, const Error& error, const std::filesystem::path& directory);

/// The option --pictures in place of what the study says. Throws InputError.
void choose_pictures(const cxxopts::ParseResult& given, Study& study);

/// Refuses sizes that ask for more elements than the study allows, before anything is written. Throws InputError.
void check_sizes(const StudyAndPart& opened);

/// Libraries that only the solver's module sees, with their versions.
std::string solver_libraries();

/// Bold, or plain where there is no terminal or NO_COLOR is set.
std::string strong(const std::string& text);

/// A table with right-aligned columns; the first row is the heading. On a terminal that is too narrow for it, headings
/// stand one below the other.
std::string table(const std::vector<std::vector<std::string>>& rows);

/// A place as JSON lists it.
template <int D>
std::vector<double> coordinates_of(const Vec<D>& p) {
    std::vector<double> list;
    for (std::size_t k = 0; k < D; ++k) list.push_back(p[k]);
    return list;
}

/// Shows progress on a terminal, one line for each finished level elsewhere.
class Progress : public StudyObserver {
  public:
    explicit Progress(bool quiet);
    ~Progress() override { clear(); }
    void stage(const std::string& series, int level, const std::string& stage) override;
    void level_done(Level& level) override;
    /// After the last level: pictures and report are being made.
    void evidence();

  protected:
    /// A level that was solved before.
    void level_kept(const Level& level);

  private:
    void tell_level(const Level& level, const std::string& how);
    void clear();
    bool quiet_, terminal_;
};

}  // namespace dotsift::app
