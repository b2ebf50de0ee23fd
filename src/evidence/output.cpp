#include "evidence/output.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <future>
#include <map>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/parallel.hpp"
#include "evidence/level_json.hpp"
#include "evidence/level_pictures.hpp"
#include "evidence/not_drawn.hpp"
#include "evidence/part_picture.hpp"
#include "evidence/path_files.hpp"
#include "evidence/report.hpp"
#include "evidence/report_pdf.hpp"
#include "evidence/stored_level.hpp"
#include "evidence/summary.hpp"
#include "evidence/vtu.hpp"
#include "evidence/webp.hpp"
#include "study/compare.hpp"

namespace dotsift {

namespace {

namespace fs = std::filesystem;

constexpr int small_width = 480;  // of pictures of the levels between the first and the last

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

/// A level's pictures, or what is wrong with them.
LevelPictures draw_or_say(const Study& study, const Level& level, const SharedRanges& ranges, const Level* before) {
    try {
        return draw_level(study, level, ranges, before);
    } catch (const std::exception& e) {
        LevelPictures out;
        out.mesh = out.field = out.error = not_drawn(fmt::format("{}, level {}", level.series, level.index), e.what());
        return out;
    }
}

/// The same, written; of the levels that a page shows small, only the small ones are kept.
LevelPictures write_pictures(const fs::path& directory, const Study& study, const std::vector<const Level*>& levels,
                             std::size_t k, const SharedRanges& ranges) {
    const bool later = k > 0 && levels[k - 1]->series == levels[k]->series;
    const bool last = k + 1 == levels.size() || levels[k + 1]->series != levels[k]->series;
    LevelPictures drawn = draw_or_say(study, *levels[k], ranges, later ? levels[k - 1] : nullptr);
    const fs::path folder = directory / level_folder(levels[k]->series, levels[k]->index);
    write_picture(folder / "mesh", drawn.mesh);
    write_picture(folder / name_of(ranges.field), drawn.field);
    write_picture(folder / "error", drawn.error);
    if (drawn.change) write_picture(folder / "change", *drawn.change);
    // The page shows the first mesh and the last ones large, the others small.
    const bool small = k > 0 && !last;
    for (PictureFiles* p : {&drawn.mesh, &drawn.field, &drawn.error}) {
        add_webp(*p, small ? small_width : picture_width);
        if (!small) continue;
        p->png.clear();
        p->svg.clear();
    }
    if (!last) drawn.change.reset();
    if (drawn.change) add_webp(*drawn.change);
    return drawn;
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
    return stored_level(directory_ / level_folder(series, index), study_, opened_.part);
}

void Output::write_level(const Level& level) {
    const fs::path folder = directory_ / level_folder(level.series, level.index);
    make_directory(folder);
    const std::string mesh = level_vtu(study_, level);
    write_file(folder / "mesh.vtu", mesh);
    for (const auto& path : study_.paths) {
        write_file(folder / ("path-" + path.name + ".csv"), path_csv(study_, *level.fields, path));
        if (const Table wall = wall_table(study_, *level.fields, path); !wall.rows.empty())
            write_file(folder / ("wall-" + path.name + ".csv"), wall_csv(wall));
    }
    if (study_.integration_points)
        write_file(folder / "integration-points.csv", integration_points_csv(study_, *level.fields));
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

void Output::note_troubles(const ReportPictures& pictures, const std::vector<LevelPictures>& levels,
                           const std::vector<std::pair<std::string, PictureFiles>>& close_ups) {
    const auto look = [&](const std::string& name, const PictureFiles& p) {
        if (!p.trouble.empty()) troubles_.push_back(fmt::format("{} is not drawn: {}", name, p.trouble));
    };
    look("the part", pictures.part);
    for (const auto* charts : {&pictures.quantity_charts, &pictures.quantity_error_charts, &pictures.path_charts})
        for (const auto& [name, p] : *charts) look("the chart of " + name, p);
    look("the chart of errors against unknowns", pictures.error_chart);
    look("the chart of errors against time", pictures.time_chart);
    for (const auto& p : levels) look("a level", p.mesh);
    for (const auto& [name, p] : close_ups) look("the close-up of " + name, p);
}

void Output::write_evidence(const StudyResult& result) {
    std::vector<const Level*> levels;
    for (const auto& s : result.series)
        for (const auto& l : s.levels) levels.push_back(&l);
    write_file(directory_ / "summary.json", summary_json(opened_, result).dump(2) + "\n");
    write_file(directory_ / "levels.csv", levels_csv(study_, result));
    write_file(directory_ / "levels.md", levels_markdown(study_, result));
    if (levels.empty()) return;
    const SharedRanges ranges = shared_ranges(study_, levels);
    const PartReport inspected = inspect_part(opened_);
    ReportPictures pictures;
    try {
        pictures.part = draw_part(opened_, inspected);
    } catch (const std::exception& e) {
        pictures.part = not_drawn("the part", e.what());
    }
    write_picture(directory_ / "part", pictures.part);
    if (opened_.original) {
        pictures.cleanup = draw_cleanup(opened_);
        write_picture(directory_ / "cleanup", *pictures.cleanup);
    }
    // The charts wait for another program, beside the work for the levels; of these the finest first.
    make_directory(directory_ / "charts");
    const auto draw_charts = [&] {
        pictures.quantity_charts = draw_quantity_charts(study_, result);
        pictures.quantity_error_charts = draw_quantity_error_charts(study_, result);
        pictures.path_charts = draw_path_charts(study_, result);
        pictures.error_chart = draw_error_chart(study_, result, CostAxis::unknowns);
        pictures.time_chart = draw_error_chart(study_, result, CostAxis::seconds);
    };
    std::future<void> charts;
    try {
        charts = std::async(std::launch::async, draw_charts);
    } catch (const std::system_error&) {  // no more threads are to be had
        charts = std::async(std::launch::deferred, draw_charts);
    }
    std::vector<LevelPictures> drawn_levels(levels.size());
    std::vector<std::pair<std::string, PictureFiles>> close_ups(study_.quantities.size());
    std::vector<std::function<void()>> drawings;
    for (std::size_t k = levels.size(); k-- > 0;)
        drawings.emplace_back([&, k] { drawn_levels[k] = write_pictures(directory_, study_, levels, k, ranges); });
    for (std::size_t q = 0; q < close_ups.size(); ++q)
        drawings.emplace_back([&, q] {
            const Level* level = level_of_peak(study_, result, q);
            if (!level) return;
            const std::string& name = study_.quantities[q].name;
            try {
                close_ups[q] = {name, draw_close_up(study_, *level, close_up_of(study_, *level, q))};
            } catch (const std::exception& e) {
                close_ups[q] = {name, not_drawn(name, e.what())};
            }
            add_webp(close_ups[q].second);
        });
    in_parallel(drawings.size(), [&](std::size_t k) { drawings[k](); });
    charts.get();
    note_troubles(pictures, drawn_levels, close_ups);
    for (std::size_t k = 0; k < levels.size(); ++k)
        pictures.levels[level_folder(levels[k]->series, levels[k]->index)] = std::move(drawn_levels[k]);
    const auto write_charts = [&](const std::map<std::string, PictureFiles>& drawn, const std::string& before,
                                  const std::string& after) {
        for (const auto& [name, chart] : drawn)
            write_picture(directory_ / "charts" / fmt::format("{}{}{}", before, name, after), chart);
    };
    write_charts(pictures.quantity_charts, "", "");
    write_charts(pictures.quantity_error_charts, "", "-error");
    write_charts(pictures.path_charts, "path-", "");
    write_picture(directory_ / "charts" / "error-against-unknowns", pictures.error_chart);
    write_picture(directory_ / "charts" / "error-against-time", pictures.time_chart);
    for (auto& [name, picture] : close_ups) {
        if (name.empty()) continue;
        write_picture(directory_ / "charts" / ("close-up-" + name), picture);
        pictures.close_ups[name] = std::move(picture);
    }
    in_parallel(2, [&](std::size_t k) {
        if (k == 0)
            write_file(directory_ / "report.pdf", report_pdf(opened_, inspected, result, pictures, provenance_));
        else
            write_file(directory_ / "report.html", report_html(opened_, inspected, result, pictures, provenance_));
    });
}

}  // namespace dotsift
