#include "evidence/report/report.hpp"
#include "inspect/inspect_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/levels/path_files.hpp"
#include "evidence/levels/xml_text.hpp"
#include "evidence/output.hpp"
#include "evidence/report/html.hpp"
#include "evidence/report/report_tables.hpp"
#include "evidence/summary.hpp"
#include "series/meshing_notes.hpp"

namespace dotsift {

namespace {

class Report {
  public:
    Report(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
           const ReportPictures& pictures, const Provenance& provenance)
        : opened_(opened),
          study_(opened.study),
          inspected_(inspected),
          result_(result),
          pictures_(pictures),
          provenance_(provenance) {}

    std::string html() {
        out_ = html_head(study_.title);
        verdict();
        const std::size_t contents = out_.size();
        limits();
        comparison();
        charts();
        paths();
        side_by_side();
        fields();
        series_tables();
        consistency();
        singular();
        balance();
        close_ups();
        level_pictures();
        quality();
        part();
        input();
        out_ += html_end();
        out_.insert(contents, contents_list());
        return std::move(out_);
    }

  private:
    /// A section that the list of contents leads to.
    void begin(const std::string& heading) {
        sections_.push_back(heading);
        out_ += fmt::format("<h2 id=\"part-{}\">{}</h2>\n", sections_.size(), heading);
    }

    [[nodiscard]] std::string contents_list() const {
        std::string out = "<nav aria-label=\"contents\"><ol>\n";
        for (std::size_t k = 0; k < sections_.size(); ++k)
            out += fmt::format("<li><a href=\"#part-{}\">{}</a></li>\n", k + 1, sections_[k]);
        return out + "</ol></nav>\n";
    }

    /// A quantity's name, as a link to its chart where there is one.
    [[nodiscard]] std::string linked(const std::string& sentence, const std::string& quantity) const {
        std::string text = escaped(sentence);
        const std::string name = escaped(quantity);
        if (pictures_.quantity_charts.count(quantity) == 0 || text.rfind(name, 0) != 0) return text;
        return fmt::format("<a href=\"#chart-{0}\">{0}</a>{1}", name, text.substr(name.size()));
    }

    void verdict() {
        const bool met = result_.all_targets_met() && result_.all_limits_kept();
        constexpr std::array planes{"Plane stress", "Plane strain", "Generalised plane strain", "Axisymmetric"};
        std::string what = planes[static_cast<std::size_t>(study_.plane)];
        if (study_.solid())
            what = study_.elastic() ? "Solid" : "Conduction in a solid";
        else if (!study_.elastic())
            what = study_.plane == Plane::axisymmetric ? "Axisymmetric conduction" : "Plane conduction";
        if (study_.plane != Plane::axisymmetric && !study_.solid())
            what += study_.thickness.constant ? fmt::format(", thickness {:g} {}", *study_.thickness.constant,
                                                            study_.units.label(dimension::length))
                                              : fmt::format(", thickness {}", study_.thickness.source);
        out_ += fmt::format("<h1>{}</h1>\n<p class=\"faint\">Grid-independence study. {}.</p>\n", escaped(study_.title),
                            what);
        out_ += fmt::format("<div class=\"verdict {}\"><strong>{}</strong>\n<ul>\n", met ? "met" : "missed",
                            escaped(study_verdict(study_, result_)));
        for (std::size_t q = 0; q < study_.quantities.size(); ++q)
            if (const auto* v = best_verdict(result_, q))
                out_ += fmt::format("<li>{} <span class=\"faint\">Series {}.</span></li>\n",
                                    linked(v->sentence, study_.quantities[q].name), escaped(v->series));
        out_ += "</ul></div>\n";
        for (const auto& m : result_.shared)
            if (m.drifts())
                out_ += fmt::format("<p class=\"warning\">Not the same on every mesh: {} {} {}.</p>\n", name_of(m.kind),
                                    escaped(m.name), escaped(m.fault));
        for (const auto& line : outlook_sentences(study_, result_)) out_ += fmt::format("<p>{}</p>\n", escaped(line));
    }

    void limits() {
        const Table limits = limits_table(study_, result_);
        if (limits.rows.empty()) return;
        begin("How much of its limit each quantity uses");
        out_ += html_table(limits);
    }

    void comparison() {
        begin("Is it the same answer for less?");
        out_ += html_table(comparison_table(study_, result_)) +
                "<p class=\"faint\">± is the 95 % interval of the numerical uncertainty, found from all levels of the "
                "series. Time and memory are those of the level itself, the ones before it not counted.</p>\n";
    }

    void charts() {
        if (!pictures_.error_chart.drawn()) return;
        begin("Convergence");
        out_ += "<div class=\"pair\">\n";
        for (const auto& q : study_.quantities) {
            const auto found = pictures_.quantity_charts.find(q.name);
            if (found != pictures_.quantity_charts.end())
                out_ += html_figure(found->second, true, "Chart: " + q.name + " against element size for every series",
                                    q.name + " on every mesh; the dashed line is the value on an infinitely fine one",
                                    "chart-" + q.name);
        }
        out_ += html_figure(pictures_.error_chart, true, "Chart: relative error against unknowns, logarithmic",
                            "What each series pays for its accuracy in unknowns");
        out_ += html_figure(pictures_.time_chart, true, "Chart: relative error against seconds, logarithmic",
                            "And in time");
        out_ += "</div>\n";
        if (!pictures_.quantity_error_charts.empty()) {
            out_ +=
                "<details><summary>Differences of each quantity against element size</summary>\n<div class=\"pair\">\n";
            for (const auto& [name, chart] : pictures_.quantity_error_charts)
                out_ +=
                    html_figure(chart, true, "Chart: difference of " + name + " to the best value known, logarithmic",
                                name + ": difference to the best value known");
            out_ += "</div></details>\n";
        }
    }

    void paths() {
        if (study_.paths.empty()) return;
        begin("Along paths");
        out_ += "<div class=\"pair\">\n";
        for (const auto& [name, chart] : pictures_.path_charts)
            out_ += html_figure(chart, true, "Chart: values along the path " + name + " on every level",
                                "Along the path " + name + "; the finest level thick, with its interval of 95 %");
        out_ += "</div>\n";
        for (const auto& path : study_.paths) {
            const Level* last = finest_level(result_);
            const Table wall = last ? wall_table(study_, *last, path) : Table{};
            if (wall.rows.empty()) continue;
            out_ += fmt::format(
                        "<details><summary>Stress through the wall along {}, taken apart ({}, level {})</summary>\n",
                        escaped(path.name), escaped(last->series), last->index) +
                    html_table(wall) + "</details>\n";
        }
    }

    void side_by_side() {
        if (pictures_.levels.empty()) return;
        begin("The same view, the same colours");
        out_ += "<div class=\"three\">\n";
        bool first = true;
        for (const auto& s : result_.series) {
            if (s.levels.empty()) continue;
            if (first) picture_of(s.levels.front(), "first mesh");
            first = false;
            if (s.levels.size() > 1)
                picture_of(s.levels.back(), fmt::format("{}, level {}", s.name, s.levels.back().index));
        }
        out_ += "</div>\n";
    }

    void fields() {
        if (pictures_.chosen.empty()) return;
        begin("Fields");
        out_ += "<div class=\"pair\">\n";
        for (const auto& p : pictures_.chosen) out_ += html_figure(p.files, false, p.caption, p.caption);
        out_ += "</div>\n";
    }

    void picture_of(const Level& l, const std::string& name) {
        const auto found = pictures_.levels.find(level_folder(l.series, l.index));
        if (found == pictures_.levels.end()) return;
        out_ += html_figure(found->second.field, false, "Field on " + name,
                            fmt::format("{}: {} elements", name, grouped(static_cast<long long>(l.mesh.elements))));
    }

    void meshing_list(const SeriesResult& s) {
        for (const auto& l : s.levels) {
            const auto& notes = l.notes;
            if (notes.empty()) continue;
            out_ += fmt::format("<details><summary>On level {}: {} note{}</summary>\n<ul>\n", l.index, notes.size(),
                                notes.size() == 1 ? "" : "s");
            for (const auto& n : notes) out_ += fmt::format("<li>{}</li>\n", escaped(n));
            out_ += "</ul></details>\n";
        }
    }

    void series_tables() {
        begin("Levels");
        for (const auto& line : notes_on_retries(result_.failed_tries, study_, true))
            out_ += fmt::format("<p>The first mesh: {}.</p>\n", escaped(line));
        for (const auto& s : result_.series) {
            if (s.levels.empty()) continue;
            const std::string kind = name_of(s.kind);
            out_ += fmt::format("<h3>Series {}{}</h3>\n<p>Stopped by {}.</p>\n", escaped(s.name),
                                s.name == kind ? "" : " (" + kind + ")", escaped(s.stopped_by));
            out_ += html_table(levels_table(study_, s));
            meshing_list(s);
            out_ += html_table(convergence_table(study_, s)) + rules(s) + html_table(fits_table(s)) +
                    html_table(dual_table(study_, s)) + html_table(error_places_table(s)) + html_table(cost_table(s));
        }
    }

    static std::string rules(const SeriesResult& s) {
        std::string out;
        for (const auto& v : s.verdicts)
            out += fmt::format("<p class=\"faint\">{}: {}.</p>\n", escaped(v.quantity), escaped(v.interval.rule));
        return out;
    }

    void consistency() {
        begin("The same part under the same loads");
        out_ += std::string(study_.solid()
                                ? "<p class=\"faint\">Volumes and areas of every mesh against the part's true faces"
                                : "<p class=\"faint\">Areas and lengths of every mesh against the part's true curves") +
                ": the gap is the error of the geometry, which falls with the elements there and is none of the error "
                "of the fields. Loads and reactions with force and moment, so that "
                "their line of action counts; reactions may differ by what the errors of the fields explain.</p>\n" +
                html_table(shared_table(study_, result_.shared));
    }

    void singular() {
        begin("Singular places");
        if (result_.singular_places.empty())
            out_ += fmt::format("<p>{}</p>\n", escaped(no_singular_places(study_)));
        else
            out_ +=
                "<p class=\"faint\">There the exact stress or flux rises as r<sup>λ-1</sup> without limit: a peak that "
                "sits on one grows with every finer mesh.</p>\n" +
                html_table(singular_table(study_, result_));
    }

    void balance() {
        double worst = 0;
        for (const auto& s : result_.series)
            for (const auto& l : s.levels) worst = std::max(worst, l.balance.relative_error);
        begin("Loads and reactions");
        if (pictures_.acting.drawn())
            out_ += html_figure(pictures_.acting, false, "The part with its supports and loads",
                                "What holds the part, and what acts on it");
        out_ += fmt::format(
            "<p>Every level carries the same loads by name. Moments are about the "
            "origin. Applied loads and reactions cancel to {} of all that acts on every level.</p>\n{}",
            sensible(worst, 2), html_table(loads_table(study_, result_)));
    }

    void close_ups() {
        if (pictures_.close_ups.empty()) return;
        begin("Round the peaks");
        out_ += "<div class=\"pair\">\n";
        for (const auto& [name, picture] : pictures_.close_ups)
            out_ += html_figure(picture, false, "The mesh and field round the peak of " + name,
                                name + " on the finest mesh of the series that answers best");
        out_ += "</div>\n";
    }

    void level_pictures() {
        if (pictures_.levels.empty()) return;
        begin("Every level");
        out_ += fmt::format(
            "<p class=\"faint\">Mesh, field, and where the error sits; {} large in SERIES/level-K beside this "
            "report.</p>\n",
            study_.pictured == PicturedLevels::all    ? "all of them"
            : study_.pictured == PicturedLevels::ends ? "those of the first level and of the last ones"
                                                      : "those of the last levels");
        const Level* shared = nullptr;
        // By its numbers: levels that were read back are not one object any more.
        const auto same = [](const Level& a, const Level& b) {
            return a.unknowns == b.unknowns && a.mesh.nodes == b.mesh.nodes &&
                   a.mesh.characteristic_size == b.mesh.characteristic_size && a.estimated_error == b.estimated_error;
        };
        for (const auto& s : result_.series) {
            out_ += fmt::format("<details><summary>Series {}</summary>\n", escaped(s.name));
            for (const auto& l : s.levels) {
                if (shared && same(l, *shared) && &l != &s.levels.back()) continue;
                if (!shared) shared = &l;
                const auto found = pictures_.levels.find(level_folder(l.series, l.index));
                if (found == pictures_.levels.end()) continue;
                const LevelPictures& p = found->second;
                out_ += fmt::format("<h3>Level {}</h3>\n<div class=\"three\">\n", l.index);
                out_ += html_figure(p.mesh, false, "Mesh", fmt::format("Mesh of level {}", l.index));
                out_ += html_figure(p.field, false, "Field", fmt::format("Field of level {}", l.index));
                out_ += html_figure(p.error, false, "Map of the estimated error",
                                    fmt::format("Where the error of level {} sits", l.index));
                if (&l == &s.levels.back() && p.change)
                    out_ += html_figure(*p.change, false, "Map of the change from the level before",
                                        fmt::format("What changed from level {} to {}", l.index - 1, l.index));
                out_ += "</div>\n";
            }
            out_ += "</details>\n";
        }
    }

    void quality() {
        begin("Shape of the elements");
        out_ +=
            "<p class=\"faint\">Mean ratio, 1 for the ideal shape; rows of layers "
            "do not count.</p>\n" +
            html_table(quality_table(study_, result_));
    }

    void part() {
        const Vec2 size = inspected_.high - inspected_.low;
        const std::string length = study_.units.label(dimension::length);
        const AreaMeasures& m = inspected_.measures;
        begin("Part");
        if (inspected_.solid)
            out_ += "<p>" + escaped(solid_sentence(inspected_, length)) + "</p>\n";
        else
            out_ += fmt::format("<p>{} × {} {}, area {} {}², centroid ({}, {}) {}{}.</p>\n", sensible(size[0]),
                                sensible(size[1]), length, sensible(m.area, 6), length, sensible(m.centroid[0]),
                                sensible(m.centroid[1]), length,
                                inspected_.mass ? fmt::format(", mass {} kg", sensible(*inspected_.mass)) : "");
        out_ += html_table(materials_table(study_)) + html_table(sizes_table(study_));
        for (const auto& note : opened_.notes) out_ += fmt::format("<p>From a drawing: {}.</p>\n", escaped(note));
        if (pictures_.part.drawn())
            out_ += html_figure(pictures_.part, false, "The part with its names and the places to look at",
                                "Names, overall dimensions, and the places to look at");
        if (inspected_.before_cleanup && pictures_.cleanup) {
            const AreaMeasures& b = *inspected_.before_cleanup;
            const Vec2 moved = m.centroid - b.centroid;
            out_ += fmt::format(
                "<h3>Clean-up</h3>\n<p>The part was simplified before it was meshed: the area changed by {} "
                "(from {} {}²), the centroid by {} {}.</p>\n<ul>\n",
                percent((m.area - b.area) / b.area), sensible(b.area, 6), length, sensible(norm(moved), 2), length);
            for (const auto& item : opened_.cleanup) out_ += fmt::format("<li>{}</li>\n", escaped(item.what));
            out_ += "</ul>\n";
            out_ += html_figure(*pictures_.cleanup, false, "The part as drawn and as meshed",
                                "As drawn, and as it was meshed");
        }
    }

    void input() {
        begin("Study file");
        out_ += fmt::format("<details><summary>{}</summary>\n<pre>{}</pre></details>\n", escaped(provenance_.study),
                            escaped(study_.source));
        begin("Code verification");
        out_ +=
            "<p>The program proves itself by problems with known answers: patch tests, "
            "orders "
            "of convergence for every element, closed forms. <code>dotsift verify-code</code> repeats them on this "
            "machine.</p>\n";
        begin("Provenance");
        out_ += "<dl>\n";
        for (const auto& [name, text] : provenance_items(provenance_))
            out_ += fmt::format("<dt>{}</dt><dd>{}</dd>\n", name, escaped(text));
        out_ +=
            "</dl>\n<p>All numbers stand in summary.json, the table of levels in levels.csv and levels.md, every mesh "
            "with "
            "its fields in SERIES/level-K/mesh.vtu.</p>\n";
    }

    const StudyAndPart& opened_;
    const Study& study_;
    const PartReport& inspected_;
    const StudyResult& result_;
    const ReportPictures& pictures_;
    const Provenance& provenance_;
    std::string out_;
    std::vector<std::string> sections_;
};

}  // namespace

std::string report_html(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
                        const ReportPictures& pictures, const Provenance& provenance) {
    return Report(opened, inspected, result, pictures, provenance).html();
}

}  // namespace dotsift
