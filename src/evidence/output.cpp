#include "evidence/output.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/parallel.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/levels/path_files.hpp"
#include "evidence/levels/stored_level.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/pictures/draw_evidence.hpp"
#include "evidence/report/report.hpp"
#include "evidence/report/report_pdf.hpp"
#include "evidence/summary.hpp"
#include "study/compare.hpp"

namespace dotsift {

namespace {

namespace fs = std::filesystem;

/// Whether a folder holds nothing but folders of levels, whatever is in these: a run may have been killed while it
/// wrote or removed them.
bool is_of_series(const fs::path& folder) {
    std::error_code code;
    if (!fs::is_directory(folder, code) || fs::is_symlink(folder, code)) return false;
    for (const auto& entry : fs::directory_iterator(folder, code)) {
        const std::string name = entry.path().filename().string();
        const auto digits = name.rfind("level-", 0) == 0 ? name.substr(6) : "";
        if (digits.empty() || digits.find_first_not_of("0123456789") != std::string::npos) return false;
    }
    return !code;
}

/// Removes what this program writes and nothing else; the study's copy last, since it tells that a result is here.
void remove_result(const fs::path& directory) {
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(directory, code)) {
        const fs::path& p = entry.path();
        const fs::path name = p.extension() == unfinished_suffix ? p.stem() : p.filename();
        if (name != study_copy && (is_of_results(name) || is_of_series(p))) fs::remove_all(p, code);
    }
    fs::remove(directory / study_copy, code);
}

/// Whether nothing is in a directory but what is left of a run that was killed at its very first file.
bool holds_nothing(const fs::path& directory) {
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(directory, code))
        if (entry.path().filename() != std::string(study_copy) + unfinished_suffix) return false;
    return true;
}

}  // namespace

std::string level_folder(const std::string& series, int index) {
    return fmt::format("{}/level-{}", series, index);
}

Output::Output(fs::path directory, const StudyAndPart& opened, Provenance provenance)
    : directory_(std::move(directory)), opened_(opened), study_(opened.study), provenance_(std::move(provenance)) {}

void Output::begin(Earlier earlier) {
    std::error_code code;
    const bool used = fs::exists(directory_, code) && fs::is_directory(directory_, code) && !holds_nothing(directory_);
    const bool ours = used && fs::exists(directory_ / study_copy, code);
    Place place;
    place.file = directory_.string();
    if (used && !ours) throw InputError("the output directory is not empty", place, "choose another directory with -o");
    if (ours && earlier == Earlier::refuse)
        throw InputError("the output directory holds an earlier result, which is never overwritten", place,
                         "choose another directory with -o, give --resume to go on from its levels, or --replace to "
                         "remove it");
    if (ours && earlier == Earlier::replace) remove_result(directory_);
    resumed_ = ours && earlier == Earlier::resume;
    if (resumed_) check_comparable();
    make_directory(directory_);
    write_file(directory_ / study_copy, study_.source);
    write_file(directory_ / provenance_file, provenance_json(provenance_).dump(2) + "\n");
    for (const auto& file : input_files(study_)) {
        const fs::path target = directory_ / copied_as(file);
        make_directory(target.parent_path());
        write_file(target, read_input(study_.path, file));
    }
}

void Output::check_comparable() const {
    const auto stored_text = read_file(directory_ / study_copy);
    std::vector<std::string> differences;
    try {
        differences = differences_of_levels(stored_text, study_.source);
    } catch (const std::exception& e) {  // the copy is no study any more
        Place place;
        place.file = (directory_ / study_copy).string();
        throw InputError(fmt::format("the copy of the study that these levels belong to cannot be read: {}", e.what()),
                         place, "put the study's text back there, or choose another directory with -o");
    }
    for (const auto& file : input_files(study_)) {
        std::error_code code;
        if (fs::exists(directory_ / copied_as(file), code) &&
            read_file(directory_ / copied_as(file)) != read_input(study_.path, file))
            differences.push_back("the content of " + file.string());
    }
    if (differences.empty()) return;
    Place place;
    place.file = study_.path.string();
    throw InputError(fmt::format("the levels in {} are of another study; what differs: {}", directory_.string(),
                                 fmt::join(differences, ", ")),
                     place,
                     "a result can be resumed with other stop rules, targets and further series; for anything else "
                     "choose another directory with -o");
}

std::optional<Level> Output::stored(const std::string& series, int index) const {
    if (!resumed_) return {};
    return stored_level(directory_ / level_folder(series, index), opened_);
}

void Output::write_level(const Level& level) {
    const fs::path folder = directory_ / level_folder(level.series, level.index);
    make_directory(folder);
    const std::string mesh = level_vtu(study_, level);
    write_file(folder / "mesh.vtu", mesh);
    for (const auto& path : study_.paths) {
        write_file(folder / ("path-" + path.name + ".csv"), path_csv(study_, level, path));
        if (const Table wall = wall_table(study_, level, path); !wall.rows.empty())
            write_file(folder / ("wall-" + path.name + ".csv"), wall_csv(wall));
    }
    if (study_.integration_points) write_file(folder / "integration-points.csv", integration_points_csv(study_, level));
    const std::string numbers = level_json(study_, level).dump(2) + "\n";
    write_file(folder / checksums_file, fmt::format("{}  mesh.vtu\n{}  level.json\n", sha256(mesh), sha256(numbers)));
    write_file(folder / "level.json", numbers);  // last: with it the level is done
}

void Output::finish(const StudyResult& result) {
    provenance_.finished = utc_now();
    write_file(directory_ / provenance_file, provenance_json(provenance_).dump(2) + "\n");
    write_evidence(result);
}

void Output::remake(const StudyResult& result) {
    write_evidence(result);
}

void Output::write_evidence(const StudyResult& result) {
    const auto levels = std::any_of(result.series.begin(), result.series.end(),
                                    [](const SeriesResult& s) { return !s.levels.empty(); });
    write_file(directory_ / "summary.json", summary_json(opened_, result).dump(2) + "\n");
    write_file(directory_ / "levels.csv", levels_csv(study_, result));
    write_file(directory_ / "levels.md", levels_markdown(study_, result));
    if (!levels) return;
    const PartReport inspected = inspect_part(opened_);
    const ReportPictures pictures = draw_evidence(directory_, opened_, inspected, result);
    troubles_ = troubles_of(pictures);
    in_parallel(2, [&](std::size_t k) {
        if (k == 0)
            write_file(directory_ / "report.pdf", report_pdf(opened_, inspected, result, pictures, provenance_));
        else
            write_file(directory_ / "report.html", report_html(opened_, inspected, result, pictures, provenance_));
    });
}

}  // namespace dotsift
