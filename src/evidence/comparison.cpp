#include "evidence/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "base/parallel.hpp"
#include "evidence/levels/stored_result.hpp"
#include "evidence/levels/xml_text.hpp"
#include "evidence/output.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "evidence/report/html.hpp"
#include "evidence/report/report_tables.hpp"
#include "evidence/summary.hpp"
#include "study/compare.hpp"

namespace dotsift {

namespace fs = std::filesystem;
using nlohmann::ordered_json;

namespace {

/// A path taken apart: the result's directory, and what of it is named.
struct Named {
    fs::path directory;
    std::string series, level;
};

Named named_by(fs::path path) {
    std::error_code code;
    path = path.lexically_normal();
    if (!path.has_filename()) path = path.parent_path();
    const auto holds_result = [&](const fs::path& p) { return fs::exists(p / study_copy, code); };
    if (holds_result(path)) return {path, {}, {}};
    if (holds_result(path.parent_path())) return {path.parent_path(), path.filename().string(), {}};
    const fs::path above = path.parent_path().parent_path();
    if (holds_result(above)) return {above, path.parent_path().filename().string(), path.filename().string()};
    refuse_result(path, "names no result, series or level", "as in: out, out/uniform or out/uniform/level-2");
}

ComparedLevel level_of(const StoredResult& stored, const Named& named) {
    ComparedLevel chosen{{}, &stored, nullptr, nullptr};
    for (const auto& s : stored.result.series) {
        if (!named.series.empty() && s.name != named.series) continue;
        for (const auto& l : s.levels) {
            const bool fits = named.level.empty() || named.level == fmt::format("level-{}", l.index);
            const bool finer = !chosen.level || l.unknowns > chosen.level->unknowns || !named.series.empty();
            if (!fits || !finer) continue;
            chosen.series = &s;
            chosen.level = &l;
        }
    }
    if (chosen.level) return chosen;
    std::vector<std::string> known;
    for (const auto& s : stored.result.series) known.push_back(fmt::format("{} ({} levels)", s.name, s.levels.size()));
    refuse_result(named.directory / named.series / named.level, "there is no such level",
                  "series are " + fmt::format("{}", fmt::join(known, ", ")));
}

std::vector<std::string> differences(const StoredResult& a, const StoredResult& b) {
    auto found = differences_of_problems(a.opened.study.source, b.opened.study.source);
    const auto hash_of = [](const StoredResult& r, const std::string& name) {
        for (const auto& f : r.provenance.inputs)
            if (f.name == name) return f.sha256;
        return std::string();
    };
    for (std::size_t k = 1; k < a.provenance.inputs.size(); ++k) {
        const auto& f = a.provenance.inputs[k];
        const std::string other = hash_of(b, f.name);
        if (!other.empty() && other != f.sha256) found.push_back("the content of " + f.name);
    }
    return found;
}

std::size_t position_of(const Study& study, const std::string& quantity) {
    const auto found = std::find_if(study.quantities.begin(), study.quantities.end(),
                                    [&](const QuantitySpec& q) { return q.name == quantity; });
    return static_cast<std::size_t>(found - study.quantities.begin());
}

const QuantityValue& value_of(const ComparedLevel& l, const std::string& quantity) {
    return l.level->quantities[position_of(l.result->opened.study, quantity)];
}

/// Relative to the finest value; NaN where that is rounding.
double gap_of(const QuantityValue& value, const QuantityValue& finest) {
    return std::fabs(finest.value) <= rounding_share * finest.scale || finest.value == 0
               ? NAN
               : (value.value - finest.value) / std::fabs(finest.value);
}

/// Every series that a compared level is of, once, named by its label.
StudyResult series_of(const Comparison& c) {
    StudyResult out;
    std::vector<const SeriesResult*> seen;
    for (const auto& l : c.levels) {
        if (std::find(seen.begin(), seen.end(), l.series) != seen.end()) continue;
        seen.push_back(l.series);
        out.series.push_back(*l.series);
        auto& s = out.series.back();
        s.name = l.label.substr(0, l.label.rfind(','));
        for (auto& v : s.verdicts) v.series = s.name;
    }
    return out;
}

bool same_quantities(const Comparison& c) {
    return std::all_of(c.results.begin(), c.results.end(), [&](const StoredResult& r) {
        const auto &a = r.opened.study.quantities, &b = c.study().quantities;
        return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                          [](const auto& x, const auto& y) { return x.name == y.name; });
    });
}

/// The same as comparison_rows, with the gaps below the values.
Table comparison_table(const Comparison& c) {
    const Study& study = c.study();
    Table t;
    t.headings = {{"level", ""},
                  {"h", study.units.label(dimension::length)},
                  {"elements", ""},
                  {"unknowns", ""},
                  {"estimated error", ""}};
    for (const auto& name : c.quantities)
        t.headings.push_back({name, unit_of(study, study.quantities[position_of(study, name)])});
    t.headings.insert(t.headings.end(), {{"time", "s"}, {"memory", "MB"}});
    for (const auto& l : c.levels) {
        const Level& level = *l.level;
        std::vector<TableCell> row{
            text_cell(l.label), number_cell(level.mesh.characteristic_size, sensible(level.mesh.characteristic_size)),
            number_cell(static_cast<double>(level.mesh.elements), grouped(static_cast<long long>(level.mesh.elements))),
            number_cell(static_cast<double>(level.unknowns), grouped(level.unknowns)),
            number_cell(level.estimated_error, percent(level.estimated_error))};
        for (const auto& name : c.quantities) {
            const double gap = gap_of(value_of(l, name), value_of(c.levels[c.finest], name));
            const bool shown = l.level != c.levels[c.finest].level && std::isfinite(gap);
            row.push_back(number_cell(value_of(l, name).value, shown_value(value_of(l, name), 6),
                                      shown ? percent(gap) : std::string()));
        }
        row.push_back(number_cell(seconds_of(level), sensible(seconds_of(level), 2)));
        row.push_back(number_cell(peak_bytes_of(level), fmt::format("{:.0f}", peak_bytes_of(level) / 1e6)));
        t.rows.push_back(std::move(row));
    }
    return t;
}

}  // namespace

Comparison compare_levels(const std::vector<fs::path>& paths) {
    if (paths.size() < 2)
        throw InputError("a comparison needs two levels or more", {},
                         "as in: dotsift compare out/uniform out/adaptive");
    Comparison c;
    std::map<std::string, const StoredResult*> opened;
    for (const auto& path : paths) {
        const Named named = named_by(path);
        std::error_code code;
        const std::string key = fs::weakly_canonical(named.directory, code).string();
        if (!opened.count(key)) {
            c.results.push_back(stored_result(named.directory));
            opened[key] = &c.results.back();
        }
        c.levels.push_back(level_of(*opened[key], named));
        const auto& now = c.levels.back();
        for (std::size_t k = 0; k + 1 < c.levels.size(); ++k)
            if (c.levels[k].level == now.level)
                refuse_result(path, "names a level that is compared already",
                              "name another one, as in out/uniform/level-2");
    }
    for (const auto& r : c.results) {
        const auto found = differences(c.results.front(), r);
        if (!found.empty())
            refuse_result(r.directory,
                          fmt::format("the levels are not those of {} on another mesh; what differs: {}",
                                      c.results.front().directory.string(), fmt::join(found, ", ")),
                          "compare levels of the same part, materials, supports and loads");
    }
    for (auto& l : c.levels) {
        l.label = fmt::format("{}, level {}", l.level->series, l.level->index);
        if (c.results.size() > 1) l.label = l.result->directory.filename().string() + " " + l.label;
    }
    for (const auto& q : c.study().quantities)
        if (std::all_of(c.results.begin(), c.results.end(), [&](const StoredResult& r) {
                return position_of(r.opened.study, q.name) < r.opened.study.quantities.size();
            }))
            c.quantities.push_back(q.name);
    SeriesResult all;
    for (std::size_t k = 0; k < c.levels.size(); ++k) {
        if (c.levels[k].level->unknowns > c.levels[c.finest].level->unknowns) c.finest = k;
        all.levels.push_back(*c.levels[k].level);
    }
    const StudyAndPart& whole = c.results.front().opened;
    c.shared =
        whole.solid ? shared_measures(c.study(), *whole.solid, {all}) : shared_measures(c.study(), whole.part, {all});
    return c;
}

std::vector<std::vector<std::string>> comparison_rows(const Comparison& c) {
    const Study& study = c.study();
    std::vector<std::vector<std::string>> rows{
        {"level", "h " + study.units.label(dimension::length), "elements", "unknowns", "est. error"}};
    for (const auto& name : c.quantities) {
        const std::string unit = unit_of(study, study.quantities[position_of(study, name)]);
        rows[0].push_back(fmt::format("{}{}{}", name, unit.empty() ? "" : " ", unit));
        rows[0].emplace_back("to finest");
    }
    rows[0].insert(rows[0].end(), {"time s", "MB"});
    for (const auto& l : c.levels) {
        std::vector<std::string> row{l.label, sensible(l.level->mesh.characteristic_size),
                                     grouped(static_cast<long long>(l.level->mesh.elements)),
                                     grouped(l.level->unknowns), percent(l.level->estimated_error)};
        for (const auto& name : c.quantities) {
            row.push_back(shown_value(value_of(l, name), 6));
            const double gap = gap_of(value_of(l, name), value_of(c.levels[c.finest], name));
            row.push_back(l.level == c.levels[c.finest].level || std::isnan(gap) ? "" : percent(gap));
        }
        row.insert(row.end(),
                   {sensible(seconds_of(*l.level), 2), fmt::format("{:.0f}", peak_bytes_of(*l.level) / 1e6)});
        rows.push_back(std::move(row));
    }
    return rows;
}

ordered_json comparison_json(const Comparison& c) {
    ordered_json j{{"format", 1}, {"program", "dotsift " DOTSIFT_VERSION}, {"finest", c.levels[c.finest].label}};
    for (const auto& l : c.levels) {
        ordered_json item{{"level", l.label},
                          {"directory", (l.result->directory / level_folder(l.level->series, l.level->index)).string()},
                          {"h", l.level->mesh.characteristic_size},
                          {"elements", l.level->mesh.elements},
                          {"unknowns", l.level->unknowns},
                          {"estimated_error", l.level->estimated_error},
                          {"cost", {{"seconds", seconds_of(*l.level)}, {"peak_bytes", peak_bytes_of(*l.level)}}}};
        for (const auto& name : c.quantities) {
            const double gap = gap_of(value_of(l, name), value_of(c.levels[c.finest], name));
            item["quantities"].push_back(
                {{"name", name},
                 {"value", value_of(l, name).value},
                 {"to_finest", std::isfinite(gap) ? ordered_json(gap) : ordered_json(nullptr)}});
        }
        j["levels"].push_back(std::move(item));
    }
    j["shared"] = shared_json(c.shared);
    return j;
}

ComparisonPictures draw_comparison(const Comparison& c) {
    std::vector<const Level*> levels;
    for (const auto& l : c.levels) levels.push_back(l.level);
    const Study& study = c.study();
    const auto& places = c.levels[c.finest].result->result.singular_places;
    const SharedRanges ranges = shared_ranges(study, levels, places);
    ComparisonPictures out;
    out.levels.resize(c.levels.size());
    in_parallel(c.levels.size(), [&](std::size_t k) {
        const ComparedLevel& l = c.levels[k];
        LevelPictures drawn = draw_level(study, *l.level, ranges, nullptr);
        out.levels[k].field = std::move(drawn.field);
        out.levels[k].mesh = std::move(drawn.mesh);
        if (k != c.finest) out.levels[k].difference = draw_change(study, *levels[c.finest], ranges, *l.level);
        for (const auto& name : c.quantities) {
            // Each level has its own study's order of quantities; the view is that of the finest one.
            const Study& finest = c.levels[c.finest].result->opened.study;
            const std::size_t there = position_of(finest, name);
            if (l.level->solid || !is_peak(finest.quantities[there]) || !value_of(c.levels[c.finest], name).position)
                continue;
            CloseUp view = close_up_of(finest, *c.levels[c.finest].level, there);
            view.quantity = position_of(l.result->opened.study, name);
            out.levels[k].close_ups.emplace_back(name, draw_close_up(l.result->opened.study, *l.level, view, places));
        }
    });
    const StudyResult series = series_of(c);
    out.charts.emplace_back("error-against-unknowns", draw_error_chart(study, series, CostAxis::unknowns));
    out.charts.emplace_back("error-against-time", draw_error_chart(study, series, CostAxis::seconds));
    if (same_quantities(c))
        for (auto& [name, chart] : draw_quantity_charts(study, series)) out.charts.emplace_back(name, std::move(chart));
    return out;
}

std::string comparison_html(const Comparison& c, const ComparisonPictures& pictures) {
    std::string out = html_head("Comparison: " + c.study().title);
    out += fmt::format(
        "<h1>{}</h1>\n<p class=\"faint\">{} levels side by side: the same part, materials, supports and "
        "loads.</p>\n",
        escaped(c.study().title), c.levels.size());
    for (const auto& m : c.shared)
        if (m.drifts())
            out += fmt::format("<p class=\"warning\">Not the same on every mesh: {} {} {}.</p>\n", name_of(m.kind),
                               escaped(m.name), escaped(m.fault));
    out += html_table(comparison_table(c));
    out += fmt::format("<p class=\"faint\">Below each value its difference to {}.</p>\n",
                       escaped(c.levels[c.finest].label));
    const auto section = [&](const char* title, const char* columns, const auto& add) {
        out += fmt::format("<h2>{}</h2>\n<div class=\"{}\">\n", title, columns);
        add();
        out += "</div>\n";
    };
    const char* columns = c.levels.size() > 2 ? "three" : "pair";
    section("The same view, the same colours", columns, [&] {
        for (std::size_t k = 0; k < c.levels.size(); ++k)
            out += html_figure(pictures.levels[k].field, false, "Field on " + c.levels[k].label, c.levels[k].label);
    });
    section("What differs, on the finest mesh", columns, [&] {
        for (std::size_t k = 0; k < c.levels.size(); ++k)
            if (pictures.levels[k].difference)
                out += html_figure(*pictures.levels[k].difference, false, "Difference to " + c.levels[k].label,
                                   fmt::format("{} less {}", c.levels[c.finest].label, c.levels[k].label));
    });
    for (std::size_t q = 0; q < pictures.levels.front().close_ups.size(); ++q)
        section(fmt::format("Round the peak of {}", escaped(pictures.levels.front().close_ups[q].first)).c_str(),
                columns, [&] {
                    for (std::size_t k = 0; k < c.levels.size(); ++k)
                        out += html_figure(pictures.levels[k].close_ups[q].second, false,
                                           "Mesh and field round the peak", c.levels[k].label);
                });
    section("What it costs", "pair", [&] {
        for (const auto& [name, chart] : pictures.charts) out += html_figure(chart, true, "Chart: " + name, name);
    });
    section("Meshes", columns, [&] {
        for (std::size_t k = 0; k < c.levels.size(); ++k)
            out += html_figure(pictures.levels[k].mesh, false, "Mesh of " + c.levels[k].label, c.levels[k].label);
    });
    out += "<h2>The same part under the same loads</h2>\n" + html_table(shared_table(c.study(), c.shared));
    return out + html_end();
}

}  // namespace dotsift
