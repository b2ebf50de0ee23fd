#include "evidence/pictures/draw_evidence.hpp"

#include <fmt/format.h>

#include <functional>
#include <future>
#include <map>

#include "base/files.hpp"
#include "base/parallel.hpp"
#include "evidence/drawing/not_drawn.hpp"
#include "evidence/drawing/page_pictures.hpp"
#include "evidence/levels/path_files.hpp"
#include "evidence/output.hpp"
#include "evidence/pictures/acting_picture.hpp"
#include "evidence/pictures/chosen_pictures.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "evidence/pictures/part_picture.hpp"
#include "evidence/pictures/solid_level_pictures.hpp"

namespace dotsift {

namespace {

namespace fs = std::filesystem;

/// A picture, or what is wrong with it.
PictureFiles drawn_or_told(const std::string& name, const std::function<PictureFiles()>& draw) {
    try {
        return draw();
    } catch (const std::exception& e) {
        return not_drawn(name, e.what());
    }
}

/// A level's pictures, or what is wrong with them.
LevelPictures draw_or_say(const Study& study, const Level& level, const SharedRanges& ranges, const Level* before,
                          PictureUse use) {
    try {
        return draw_level(study, level, ranges, before, use);
    } catch (const std::exception& e) {
        LevelPictures out;
        out.mesh = out.field = out.error = not_drawn(fmt::format("{}, level {}", level.series, level.index), e.what());
        return out;
    }
}

/// A level among all.
struct LevelPlace {
    const Level *level = nullptr, *before = nullptr;  ///< the one before it in its series
    bool first = false, last = false;                 ///< of all; of its series
};

std::vector<LevelPlace> levels_of(const StudyResult& result) {
    std::vector<LevelPlace> out;
    for (const auto& s : result.series)
        for (std::size_t k = 0; k < s.levels.size(); ++k)
            out.push_back({&s.levels[k], k > 0 ? &s.levels[k - 1] : nullptr, out.empty(), k + 1 == s.levels.size()});
    return out;
}

/// The same, written; of the levels that a page shows small, only small ones are made unless the study wants all.
LevelPictures write_level_pictures(const fs::path& directory, const Study& study, const LevelPlace& at,
                                   const SharedRanges& ranges) {
    const bool large =
        study.pictured == PicturedLevels::all || at.last || (study.pictured == PicturedLevels::ends && at.first);
    const bool changes = at.before && (at.last || study.pictured == PicturedLevels::all);
    LevelPictures drawn = draw_or_say(study, *at.level, ranges, changes ? at.before : nullptr,
                                      large ? PictureUse::files : PictureUse::page);
    const fs::path folder = directory / level_folder(at.level->series, at.level->index);
    write_picture(folder / "mesh", drawn.mesh);
    write_picture(folder / name_of(ranges.field), drawn.field);
    write_picture(folder / "error", drawn.error);
    if (drawn.change) write_picture(folder / "change", *drawn.change);
    const bool shown_small = !at.first && !at.last;
    for (PictureFiles* p : {&drawn.mesh, &drawn.field, &drawn.error}) {
        add_page_copy(*p, shown_small && large ? PageSize::half : PageSize::as_drawn);
        if (!shown_small) continue;
        p->png.clear();
        p->svg.clear();
    }
    if (!at.last) drawn.change.reset();
    if (drawn.change) add_page_copy(*drawn.change);
    return drawn;
}

void draw_charts(const Study& study, const StudyResult& result, ReportPictures& pictures) {
    pictures.quantity_charts = draw_quantity_charts(study, result);
    pictures.quantity_error_charts = draw_quantity_error_charts(study, result);
    pictures.path_charts = draw_path_charts(study, result);
    pictures.error_chart = draw_error_chart(study, result, CostAxis::unknowns);
    pictures.time_chart = draw_error_chart(study, result, CostAxis::seconds);
}

void write_charts(const fs::path& folder, const ReportPictures& pictures) {
    make_directory(folder);
    const auto write = [&](const std::map<std::string, PictureFiles>& drawn, const std::string& before,
                           const std::string& after) {
        for (const auto& [name, chart] : drawn)
            write_picture(folder / fmt::format("{}{}{}", before, name, after), chart);
    };
    write(pictures.quantity_charts, "", "");
    write(pictures.quantity_error_charts, "", "-error");
    write(pictures.path_charts, "path-", "");
    write(pictures.close_ups, "close-up-", "");
    write_picture(folder / "error-against-unknowns", pictures.error_chart);
    write_picture(folder / "error-against-time", pictures.time_chart);
}

}  // namespace

ReportPictures draw_evidence(const fs::path& directory, const StudyAndPart& opened, const PartReport& inspected,
                             const StudyResult& result) {
    const Study& study = opened.study;
    ReportPictures pictures;
    if (study.pictured == PicturedLevels::none) return pictures;
    const auto levels = levels_of(result);
    std::vector<const Level*> all;
    all.reserve(levels.size());
    for (const auto& at : levels) all.push_back(at.level);
    const SharedRanges ranges = shared_ranges(study, all, result.singular_places);
    // The charts wait for another program, beside all other work.
    std::future<void> charts;
    try {
        charts = std::async(std::launch::async, [&] { draw_charts(study, result, pictures); });
    } catch (const std::system_error&) {  // no more threads are to be had
        charts = std::async(std::launch::deferred, [&] { draw_charts(study, result, pictures); });
    }
    auto wanted = wanted_pictures(study);
    if (opened.solid)  // what several load cases have together is not drawn on solids yet
        std::erase_if(wanted, [](const PictureSpec& p) { return p.envelope != CaseEnvelope::none; });
    std::vector<LevelPictures> of_levels(levels.size());
    std::vector<PictureFiles> chosen(wanted.size()), close_ups(study.quantities.size());
    std::vector<std::function<void()>> drawings;  // the finest levels first
    for (std::size_t k = levels.size(); k-- > 0;)
        drawings.emplace_back([&, k] { of_levels[k] = write_level_pictures(directory, study, levels[k], ranges); });
    for (std::size_t k = 0; k < wanted.size(); ++k)
        drawings.emplace_back([&, k] {
            const bool asked_for = wanted[k].where.line > 0;
            chosen[k] = drawn_or_told(wanted[k].name, [&] {
                return draw_chosen(study, result, wanted[k], asked_for ? PictureUse::files : use_of_fields(study));
            });
            add_page_copy(chosen[k]);
        });
    for (std::size_t q = 0; q < close_ups.size() && !opened.solid; ++q)
        drawings.emplace_back([&, q] {
            const Level* level = level_of_peak(study, result, q);
            if (!level) return;
            close_ups[q] = drawn_or_told(study.quantities[q].name, [&] {
                return draw_close_up(study, *level, close_up_of(study, *level, q), result.singular_places);
            });
            add_page_copy(close_ups[q]);
        });
    drawings.emplace_back([&] {
        pictures.part = drawn_or_told("the part", [&] {
            return opened.solid ? draw_solid_part(study, *all.front()) : draw_part(opened, inspected);
        });
        add_page_copy(pictures.part);
        if (!opened.original) return;
        pictures.cleanup = drawn_or_told("the clean-up", [&] { return draw_cleanup(opened); });
        add_page_copy(*pictures.cleanup);
    });
    if (!opened.solid)
        drawings.emplace_back([&] {
            pictures.acting = drawn_or_told("what acts on the part", [&] { return draw_acting(opened); });
            add_page_copy(pictures.acting);
        });
    in_parallel(drawings.size(), [&](std::size_t k) { drawings[k](); });
    charts.get();
    std::vector<PictureFiles*> drawn_charts{&pictures.error_chart, &pictures.time_chart};
    for (auto* of : {&pictures.quantity_charts, &pictures.quantity_error_charts, &pictures.path_charts})
        for (auto& [name, chart] : *of) drawn_charts.push_back(&chart);
    in_parallel(drawn_charts.size(), [&](std::size_t k) { add_page_copy(*drawn_charts[k]); });
    for (std::size_t k = 0; k < levels.size(); ++k)
        pictures.levels[level_folder(all[k]->series, all[k]->index)] = std::move(of_levels[k]);
    for (std::size_t q = 0; q < close_ups.size(); ++q)
        if (close_ups[q].drawn()) pictures.close_ups[study.quantities[q].name] = std::move(close_ups[q]);
    for (std::size_t k = 0; k < wanted.size(); ++k)
        pictures.chosen.push_back({wanted[k].name, caption_of(study, wanted[k]), std::move(chosen[k])});
    write_picture(directory / "part", pictures.part);
    if (pictures.cleanup) write_picture(directory / "cleanup", *pictures.cleanup);
    make_directory(directory / "pictures");
    if (pictures.acting.drawn()) write_picture(directory / "pictures" / "acting", pictures.acting);
    for (const auto& p : pictures.chosen) write_picture(directory / "pictures" / p.name, p.files);
    write_charts(directory / "charts", pictures);
    return pictures;
}

std::vector<std::string> troubles_of(const ReportPictures& pictures) {
    std::vector<std::string> out;
    const auto look = [&](const std::string& name, const PictureFiles& p) {
        if (!p.trouble.empty()) out.push_back(fmt::format("{} is not drawn: {}", name, p.trouble));
    };
    look("the part", pictures.part);
    look("what acts on the part", pictures.acting);
    for (const auto* charts : {&pictures.quantity_charts, &pictures.quantity_error_charts, &pictures.path_charts})
        for (const auto& [name, p] : *charts) look("the chart of " + name, p);
    look("the chart of errors against unknowns", pictures.error_chart);
    look("the chart of errors against time", pictures.time_chart);
    for (const auto& [name, p] : pictures.levels) look("level " + name, p.mesh);
    for (const auto& p : pictures.chosen) look("the picture " + p.name, p.files);
    for (const auto& [name, p] : pictures.close_ups) look("the close-up of " + name, p);
    return out;
}

}  // namespace dotsift
