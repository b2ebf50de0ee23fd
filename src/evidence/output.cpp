#include "evidence/output.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/parallel.hpp"
#include "evidence/level_pictures.hpp"
#include "evidence/part_picture.hpp"
#include "evidence/path_files.hpp"
#include "evidence/report.hpp"
#include "evidence/summary.hpp"
#include "evidence/vtu.hpp"

namespace dotsift {

namespace {

namespace fs = std::filesystem;

// Written first, so that a directory can be told to hold a result even if the program was killed.
constexpr const char* study_copy = "study-as-run.toml";

void write_picture(const fs::path& stem, const PictureFiles& files) {
    write_file(stem.string() + ".png", files.png);
    write_file(stem.string() + ".svg", files.svg);
}

/// Removes what this program writes and nothing else.
void remove_result(const fs::path& directory) {
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(directory, code)) {
        const fs::path& p = entry.path();
        const std::string name = p.filename().string();
        const bool file = name == study_copy || name == "summary.json" || name == "levels.csv" ||
                          name == "report.html" || name == "part.png" || name == "part.svg" || name == "cleanup.png" ||
                          name == "cleanup.svg";
        const bool folder =
            name == "charts" || (entry.is_directory(code) && fs::exists(p / "level-1" / "level.json", code));
        if (file || folder) fs::remove_all(p, code);
    }
}

}  // namespace

std::string level_folder(const std::string& series, int index) {
    return fmt::format("{}/level-{}", series, index);
}

Output::Output(fs::path directory, const StudyAndPart& opened)
    : directory_(std::move(directory)), opened_(opened), study_(opened.study) {}

void Output::begin(bool replace) {
    std::error_code code;
    if (fs::exists(directory_, code) && fs::is_directory(directory_, code) && !fs::is_empty(directory_, code)) {
        Place place;
        place.file = directory_.string();
        const bool ours = fs::exists(directory_ / study_copy, code);
        if (!replace || !ours)
            throw InputError(ours ? "the output directory holds an earlier result, which is never overwritten"
                                  : "the output directory is not empty",
                             place,
                             ours ? "choose another directory with -o, or give --replace to remove the earlier result"
                                  : "choose another directory with -o");
        remove_result(directory_);
    }
    make_directory(directory_);
    write_file(directory_ / study_copy, study_.source);
    for (const auto& shape : study_.shapes) {  // so that the copy can be run again
        const auto& file = shape.drawing.file;
        if (shape.primitive != Primitive::drawing || file.is_absolute()) continue;
        if (std::find(file.begin(), file.end(), "..") != file.end()) continue;  // nothing is written elsewhere
        const fs::path target = directory_ / file;
        make_directory(target.parent_path());
        write_file(target, read_file(study_.path.parent_path() / file));
    }
}

void Output::write_level(const Level& level) {
    const fs::path folder = directory_ / level_folder(level.series, level.index);
    make_directory(folder);
    write_file(folder / "mesh.vtu", level_vtu(*level.fields));
    for (const auto& path : study_.paths)
        write_file(folder / ("path-" + path.name + ".csv"), path_csv(study_, *level.fields, path));
    if (study_.integration_points)
        write_file(folder / "integration-points.csv", integration_points_csv(study_, *level.fields));
    write_file(folder / "level.json", level_json(study_, opened_.part, level).dump(2) + "\n");
}

void Output::finish(const StudyResult& result) {
    std::vector<const Level*> levels;
    for (const auto& s : result.series)
        for (const auto& l : s.levels) levels.push_back(&l);
    write_file(directory_ / "summary.json", summary_json(opened_, result).dump(2) + "\n");
    write_file(directory_ / "levels.csv", levels_csv(study_, result));
    if (levels.empty()) return;
    const SharedRanges ranges = shared_ranges(study_, levels);
    const PartReport inspected = inspect_part(opened_);
    ReportPictures pictures;
    pictures.part = draw_part(opened_, inspected);
    write_picture(directory_ / "part", pictures.part);
    if (opened_.original) {
        pictures.cleanup = draw_cleanup(opened_);
        write_picture(directory_ / "cleanup", *pictures.cleanup);
    }
    std::vector<LevelPictures> drawn_levels(levels.size());
    in_parallel(levels.size(), [&](std::size_t k) { drawn_levels[k] = draw_level(study_, *levels[k], ranges); });
    for (std::size_t k = 0; k < levels.size(); ++k) {
        const std::string folder = level_folder(levels[k]->series, levels[k]->index);
        LevelPictures drawn = std::move(drawn_levels[k]);
        write_picture(directory_ / folder / "mesh", drawn.mesh);
        write_picture(directory_ / folder / name_of(ranges.field), drawn.field);
        write_picture(directory_ / folder / "error", drawn.error);
        pictures.levels[folder] = std::move(drawn);
    }
    make_directory(directory_ / "charts");
    pictures.quantity_charts = draw_quantity_charts(study_, result);
    for (const auto& [name, chart] : pictures.quantity_charts) write_picture(directory_ / "charts" / name, chart);
    pictures.path_charts = draw_path_charts(study_, result);
    for (const auto& [name, chart] : pictures.path_charts)
        write_picture(directory_ / "charts" / ("path-" + name), chart);
    pictures.error_chart = draw_error_chart(study_, result);
    write_picture(directory_ / "charts" / "error-against-unknowns", pictures.error_chart);
    write_file(directory_ / "report.html", report_html(opened_, inspected, result, pictures));
}

}  // namespace dotsift
