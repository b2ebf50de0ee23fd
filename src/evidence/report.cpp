#include "evidence/report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/output.hpp"
#include "evidence/report_style.hpp"
#include "evidence/summary.hpp"
#include "evidence/xml_text.hpp"
#include "series/meshing_notes.hpp"

namespace dotsift {

namespace {

std::string base64(const std::string& bytes) {
    static constexpr const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t k = 0; k < 3; ++k)
            group = group << 8U | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        for (std::size_t k = 0; k < 4; ++k) out += i + k <= bytes.size() ? digits[group >> (18 - 6 * k) & 63U] : '=';
    }
    return out;
}

std::string figure(const PictureFiles& p, bool vector, const std::string& alternative, const std::string& caption) {
    return fmt::format(
        "<figure><img src=\"data:image/{};base64,{}\" alt=\"{}\" width=\"{}\" "
        "height=\"{}\"><figcaption>{}</figcaption></figure>\n",
        vector ? "svg+xml" : "png", base64(vector ? p.svg : p.png), escaped(alternative), picture_width, picture_height,
        escaped(caption));
}

double total_seconds(const Level& l) {
    double s = 0;
    for (const auto& c : l.costs) s += c.seconds;
    return s;
}

double peak_bytes(const Level& l) {
    double peak = 0;
    for (const auto& c : l.costs) peak = std::max(peak, c.peak_bytes);
    return peak;
}

std::string megabytes(double bytes) {
    return bytes > 0 ? fmt::format("{:.0f}", bytes / 1e6) : "-";
}

class Report {
  public:
    Report(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
           const ReportPictures& pictures)
        : opened_(opened), study_(opened.study), inspected_(inspected), result_(result), pictures_(pictures) {}

    std::string html() {
        out_ = fmt::format(
            "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" "
            "content=\"width=device-width, "
            "initial-scale=1\">\n<title>{}</title>\n<style>{}</style>\n</head>\n<body>\n<main>\n",
            escaped(study_.title), report_style);
        verdict();
        comparison();
        charts();
        side_by_side();
        series_tables();
        singular_table();
        balance();
        level_pictures();
        part();
        input();
        out_ += "</main>\n</body>\n</html>\n";
        return std::move(out_);
    }

  private:
    std::string materials() const {
        std::string text;
        for (const auto& m : study_.materials) {
            std::string where;
            for (const auto& on : m.on) where += (where.empty() ? " (" : ", ") + escaped(on);
            text +=
                fmt::format("{}{}{}{}:", text.empty() ? "" : "; ", escaped(m.name), where, where.empty() ? "" : ")");
            const std::string stress = study_.units.label(dimension::stress);
            if (m.youngs_modulus > 0)
                text += fmt::format(" E = {:g} {}, ν = {:g}", m.youngs_modulus, stress, m.poissons_ratio);
            if (m.orthotropy)
                text += fmt::format(" E = {:g}, {:g}, {:g} {}, orthotropic", m.orthotropy->moduli[0],
                                    m.orthotropy->moduli[1], m.orthotropy->moduli[2], stress);
            if (m.conductivity && study_.conducts())
                text += fmt::format(
                    "{} k = {:g}{} {}", m.elastic() ? "," : "", (*m.conductivity)[0],
                    (*m.conductivity)[0] == (*m.conductivity)[1] ? "" : fmt::format(", {:g}", (*m.conductivity)[1]),
                    study_.conduction.of_heat() ? study_.units.label(dimension::conductivity) : "");
        }
        return text;
    }

    void verdict() {
        const bool met = result_.all_targets_met();
        constexpr std::array planes{"Plane stress", "Plane strain", "Generalised plane strain", "Axisymmetric"};
        std::string what = planes[static_cast<std::size_t>(study_.plane)];
        if (!study_.elastic())
            what = study_.plane == Plane::axisymmetric ? "Axisymmetric conduction" : "Plane conduction";
        if (study_.plane != Plane::axisymmetric)
            what += fmt::format(", thickness {:g} {}", study_.thickness, study_.units.label(dimension::length));
        out_ += fmt::format("<h1>{}</h1>\n<p class=\"faint\">Grid-independence study. {}, {}.</p>\n",
                            escaped(study_.title), what, materials());
        out_ += fmt::format("<div class=\"verdict {}\"><strong>{}</strong>\n<ul>\n", met ? "met" : "missed",
                            escaped(study_verdict(study_, result_)));
        for (std::size_t q = 0; q < study_.quantities.size(); ++q)
            if (const auto* v = best_verdict(result_, q))
                out_ += fmt::format("<li>{} <span class=\"faint\">Series {}.</span></li>\n", escaped(v->sentence),
                                    escaped(v->series));
        out_ += "</ul></div>\n";
    }

    void heading_cells() {
        for (const auto& q : study_.quantities) {
            const std::string unit = unit_of(study_, q);
            out_ += fmt::format("<th scope=\"col\">{}<span class=\"faint\">{}</span></th>", escaped(q.name),
                                unit.empty() ? "" : " " + escaped(unit));
        }
    }

    void comparison() {
        out_ +=
            "<h2>Is it the same answer for less?</h2>\n<div class=\"scroll\"><table><thead><tr><th "
            "scope=\"col\">mesh</th><th scope=\"col\">elements</th>"
            "<th scope=\"col\">unknowns</th>";
        heading_cells();
        out_ += fmt::format(
            "<th scope=\"col\">{} error</th><th scope=\"col\">time s</th><th scope=\"col\">memory "
            "MB</th></tr></thead><tbody>\n",
            study_.exact_stress ? "true" : "estimated");
        bool first = true;
        for (const auto& s : result_.series) {
            if (s.levels.empty()) continue;
            if (first) comparison_row("first mesh", s.levels.front(), nullptr);
            first = false;
            comparison_row(fmt::format("{}, level {}", s.name, s.levels.back().index), s.levels.back(), &s);
        }
        out_ +=
            "</tbody></table></div>\n<p class=\"faint\">± is the numerical uncertainty found from all levels of the "
            "series. Time and memory are those of the "
            "level itself, the ones before it not counted.</p>\n";
    }

    void comparison_row(const std::string& name, const Level& l, const SeriesResult* series) {
        out_ += fmt::format("<tr><td>{}</td><td>{}</td><td>{}</td>", escaped(name),
                            grouped(static_cast<long long>(l.mesh.elements)), grouped(l.unknowns));
        for (std::size_t q = 0; q < l.quantities.size(); ++q) {
            const double band = series ? series->verdicts[q].convergence.uncertainty : NAN;
            const double value = l.quantities[q].value;
            out_ += fmt::format(
                "<td>{}{}</td>",
                std::fabs(value) <= rounding_share * l.quantities[q].scale ? "0" : with_uncertainty(value, band),
                std::isfinite(band) && band > 0 && value != 0 &&
                        std::fabs(value) > rounding_share * l.quantities[q].scale
                    ? fmt::format("<span class=\"sub\">± {}</span>", percent(band / std::fabs(value)))
                    : "");
        }
        out_ += fmt::format("<td>{}</td><td>{}</td><td>{}</td></tr>\n",
                            percent(l.true_error ? l.true_error->relative() : l.estimated_error),
                            sensible(total_seconds(l), 2), megabytes(peak_bytes(l)));
    }

    void charts() {
        out_ += "<h2>Convergence</h2>\n<div class=\"pair\">\n";
        for (const auto& q : study_.quantities) {
            const auto found = pictures_.quantity_charts.find(q.name);
            if (found != pictures_.quantity_charts.end())
                out_ += figure(found->second, true, "Chart: " + q.name + " against element size for every series",
                               q.name + " on every mesh; the dashed line is the value on an infinitely fine one");
        }
        out_ += figure(pictures_.error_chart, true, "Chart: relative error against unknowns, logarithmic",
                       "What each series pays for its accuracy");
        out_ += "</div>\n";
        if (pictures_.path_charts.empty()) return;
        out_ += "<h2>Along paths</h2>\n<div class=\"pair\">\n";
        for (const auto& [name, chart] : pictures_.path_charts)
            out_ += figure(chart, true, "Chart: values along the path " + name + " on every level",
                           "Along the path " + name + "; the coarser levels thin, the finest thick");
        out_ += "</div>\n";
    }

    void side_by_side() {
        out_ += "<h2>The same view, the same colours</h2>\n<div class=\"three\">\n";
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

    void picture_of(const Level& l, const std::string& name) {
        const auto found = pictures_.levels.find(level_folder(l.series, l.index));
        if (found == pictures_.levels.end()) return;
        out_ += figure(found->second.field, false, "Field on " + name,
                       fmt::format("{}: {} elements", name, grouped(static_cast<long long>(l.mesh.elements))));
    }

    void series_tables() {
        out_ += "<h2>Levels</h2>\n";
        for (const auto& line : notes_on_retries(result_.failed_tries, study_, true))
            out_ += fmt::format("<p>The first mesh: {}.</p>\n", escaped(line));
        for (const auto& s : result_.series) {
            const std::string kind = name_of(s.kind);
            out_ += fmt::format(
                "<h3>Series {}{}</h3>\n<p>Stopped by {}.</p>\n<div class=\"scroll\"><table><thead><tr><th "
                "scope=\"col\">level</th>"
                "<th scope=\"col\">h {}</th><th scope=\"col\">nodes</th><th scope=\"col\">elements</th><th "
                "scope=\"col\">unknowns</th>",
                escaped(s.name), s.name == kind ? "" : " (" + kind + ")", escaped(s.stopped_by),
                study_.units.label(dimension::length));
            heading_cells();
            out_ += fmt::format(
                "<th scope=\"col\">estimated error</th>{}{}</tr></thead><tbody>\n",
                study_.error_bound ? "<th scope=\"col\">bound</th>" : "",
                study_.exact_stress ? "<th scope=\"col\">true error</th><th scope=\"col\">effectivity</th>" : "");
            for (std::size_t k = 0; k < s.levels.size(); ++k) level_row(s, k);
            out_ += "</tbody></table></div>\n";
            meshing_list(s);
            convergence_table(s);
            dual_table(s);
            cost_table(s);
        }
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

    void level_row(const SeriesResult& s, std::size_t k) {
        const Level& l = s.levels[k];
        out_ += fmt::format("<tr><td>{}</td><td>{}</td><td>{}</td><td>{}</td><td>{}</td>", l.index,
                            sensible(l.mesh.characteristic_size), grouped(static_cast<long long>(l.mesh.nodes)),
                            grouped(static_cast<long long>(l.mesh.elements)), grouped(l.unknowns));
        for (std::size_t q = 0; q < l.quantities.size(); ++q) {
            std::string note;
            const double change = k > 0 ? relative_change(s.levels[k - 1].quantities[q], l.quantities[q]) : NAN;
            if (!std::isnan(change)) {
                const auto& target = study_.quantities[q].target;
                note = fmt::format("<span class=\"sub{}\">{}</span>",
                                   target ? (change <= *target ? " met" : " missed") : "",
                                   change == 0 ? "no change" : "changed " + percent(change));
            }
            out_ += fmt::format("<td>{}{}</td>", shown_value(l.quantities[q], 6), note);
        }
        out_ += fmt::format("<td>{}</td>", percent(l.estimated_error));
        if (study_.error_bound) out_ += fmt::format("<td>{}</td>", l.error_bound ? percent(*l.error_bound) : "-");
        if (l.true_error)
            out_ += fmt::format(
                "<td>{}</td><td>{}</td>", percent(l.true_error->relative()),
                l.true_error->error2 > 0 ? sensible(std::sqrt(l.fields->error.error2 / l.true_error->error2), 3) : "-");
        out_ += "</tr>\n";
    }

    /// Seconds and peak memory of each stage.
    void cost_table(const SeriesResult& s) {
        if (s.levels.empty()) return;
        out_ +=
            "<div class=\"scroll\"><table><caption>What the levels cost</caption><thead><tr><th "
            "scope=\"col\">level</th>";
        for (const auto& c : s.levels.front().costs)
            out_ += fmt::format("<th scope=\"col\">{0} s</th><th scope=\"col\">{0} MB</th>", escaped(c.stage));
        out_ += "<th scope=\"col\">all s</th></tr></thead><tbody>\n";
        for (const auto& l : s.levels) {
            out_ += fmt::format("<tr><td>{}</td>", l.index);
            for (const auto& c : l.costs)
                out_ += fmt::format("<td>{}</td><td>{}</td>", sensible(c.seconds, 2), megabytes(c.peak_bytes));
            out_ += fmt::format("<td>{}</td></tr>\n", sensible(total_seconds(l), 2));
        }
        out_ += "</tbody></table></div>\n";
    }

    void convergence_table(const SeriesResult& s) {
        out_ +=
            "<div class=\"scroll\"><table><caption>What the levels say</caption><thead><tr><th "
            "scope=\"col\">quantity</th><th scope=\"col\">behaviour</th>"
            "<th scope=\"col\">observed order</th><th scope=\"col\">extrapolated</th><th scope=\"col\">GCI</th><th "
            "scope=\"col\">asymptotic ratio</th>"
            "<th scope=\"col\">target</th><th scope=\"col\">verdict</th></tr></thead><tbody>\n";
        for (std::size_t q = 0; q < s.verdicts.size(); ++q) {
            const auto& v = s.verdicts[q];
            const Convergence& c = v.convergence;
            out_ += fmt::format(
                "<tr><td>{}</td><td>{}</td><td>{}</td><td>{}</td><td>{}</td><td>{}{}</td><td>{}</td><td "
                "class=\"{}\">{}</td></tr>\n",
                escaped(v.quantity), name_of(c.behaviour), sensible(c.observed_order, 3),
                with_uncertainty(c.extrapolated, c.uncertainty), percent(c.gci_fine), sensible(c.asymptotic_ratio, 3),
                c.asymptotic && !std::isnan(c.asymptotic_ratio) ? ", in range" : "",
                study_.quantities[q].target ? percent(*study_.quantities[q].target) : "-",
                v.verdict == Verdict::met      ? "met"
                : v.verdict == Verdict::missed ? "missed"
                                               : "",
                name_of(v.verdict));
        }
        out_ += "</tbody></table></div>\n";
        for (const auto& v : s.verdicts)
            out_ += fmt::format("<p class=\"faint\">{}: {}.</p>\n", escaped(v.quantity), escaped(v.convergence.rule));
    }

    /// What the dual problems say of the last level.
    void dual_table(const SeriesResult& s) {
        const Level& last = s.levels.back();
        if (std::none_of(study_.quantities.begin(), study_.quantities.end(), [](const auto& q) { return q.dual; }))
            return;
        out_ += fmt::format(
            "<div class=\"scroll\"><table><caption>Errors by dual problems, level {}</caption><thead><tr><th "
            "scope=\"col\">quantity</th><th scope=\"col\">by the elements' own field</th><th scope=\"col\">estimated "
            "error</th><th scope=\"col\">corrected</th><th scope=\"col\">mean over</th></tr></thead><tbody>\n",
            last.index);
        for (std::size_t q = 0; q < last.goals.size(); ++q) {
            if (!last.goals[q]) {
                if (study_.quantities[q].dual)
                    out_ += fmt::format("<tr><td>{}</td><td>has no dual problem</td><td></td><td></td><td></td></tr>\n",
                                        escaped(study_.quantities[q].name));
                continue;
            }
            const GoalEstimate& g = *last.goals[q];
            const std::string unit = unit_of(study_, study_.quantities[q]);
            out_ += fmt::format(
                "<tr><td>{}</td><td>{} {}</td><td>{}</td><td>{} ± {} {}</td><td>{}</td></tr>\n",
                escaped(study_.quantities[q].name), sensible(g.value, 6), unit, sensible(g.error, 2),
                with_uncertainty(g.corrected(), g.half_width), sensible(g.half_width, 2), unit,
                g.radius > 0 ? fmt::format("within {} {}", sensible(g.radius, 2), study_.units.label(dimension::length))
                             : "-");
        }
        out_ += "</tbody></table></div>\n";
    }

    void balance() {
        const std::string force = study_.units.label(dimension::force), moment = study_.units.label(dimension::moment);
        out_ +=
            "<h2>Loads and reactions</h2>\n<p>Every level carries the same loads by name. Moments are about the "
            "origin.</p>\n";
        const Level* finest = nullptr;
        double worst = 0;
        for (const auto& s : result_.series)
            for (const auto& l : s.levels) {
                worst = std::max(worst, l.balance.relative_error);
                if (!finest || l.unknowns > finest->unknowns) finest = &l;
            }
        if (!finest) return;
        out_ += fmt::format(
            "<p>Applied loads and reactions cancel to {} of all that acts on every level.</p>\n<div "
            "class=\"scroll\"><table><caption>On the level with the most unknowns{}</caption><thead><tr><th "
            "scope=\"col\">name</th>",
            sensible(worst, 2),
            study_.cases.empty() ? std::string() : ", load case " + escaped(study_.cases.front().name));
        if (study_.elastic())
            out_ += fmt::format(
                "<th scope=\"col\">along x {0}</th><th scope=\"col\">along y {0}</th><th "
                "scope=\"col\">moment {1}</th>",
                force, moment);
        if (study_.conducts())
            out_ += fmt::format("<th scope=\"col\">flow into the part {}</th>", unit_of(study_, Field::reaction_flow));
        out_ += "</tr></thead><tbody>\n";
        double scale = 0, moment_scale = 0, flow_scale = 0;
        const auto see = [&](const auto& t) {
            scale = std::max(scale, norm(t.force));
            moment_scale = std::max(moment_scale, std::fabs(t.moment));
            flow_scale = std::max(flow_scale, std::fabs(t.flow));
        };
        for (const auto& t : finest->loads) see(t);
        for (const auto& r : finest->reactions) see(r);
        const auto shown = [](double v, double of) {
            return std::fabs(v) <= 1e-9 * of ? std::string("0") : sensible(v, 6);
        };
        const auto row = [&](const char* kind, const auto& t) {
            out_ += fmt::format("<tr><td>{} {}</td>", kind, escaped(t.name));
            if (study_.elastic())
                out_ += fmt::format("<td>{}</td><td>{}</td><td>{}</td>", shown(t.force[0], scale),
                                    shown(t.force[1], scale), shown(t.moment, moment_scale));
            if (study_.conducts()) out_ += fmt::format("<td>{}</td>", shown(t.flow, flow_scale));
            out_ += "</tr>\n";
        };
        for (const auto& t : finest->loads) row("load", t);
        for (std::size_t k = 0; k < finest->reactions.size(); ++k)
            row(k < study_.supports.size() ? "support" : "tie", finest->reactions[k]);
        out_ += "</tbody></table></div>\n";
    }

    void singular_table() {
        out_ += "<h2>Singular places</h2>\n";
        if (result_.singular_places.empty()) {
            out_ +=
                "<p>None: no corner, support end, junction of materials or load makes a stress or flux infinite.</p>\n";
            return;
        }
        out_ +=
            "<p class=\"faint\">There the exact stress or flux rises as r<sup>λ-1</sup> without limit: a peak that "
            "sits on "
            "one grows with every finer mesh.</p>\n<div class=\"scroll\"><table><thead><tr><th "
            "scope=\"col\">place</th><th "
            "scope=\"col\">cause</th><th scope=\"col\">λ</th><th scope=\"col\">in this solution</th><th "
            "scope=\"col\">what helps</th></tr></thead><tbody>\n";
        for (const auto& p : result_.singular_places)
            out_ += fmt::format("<tr><td>({}, {})</td><td>{}</td><td>{}</td><td>{}</td><td>{}</td></tr>\n",
                                sensible(p.point.position[0]), sensible(p.point.position[1]), escaped(p.point.cause),
                                p.point.exponent > 0 ? fmt::format("{:.3f}", p.point.exponent) : "0",
                                p.shows ? "shows" : "does not show", escaped(p.advice));
        out_ += "</tbody></table></div>\n";
    }

    void level_pictures() {
        out_ +=
            "<h2>First mesh and last of each series</h2>\n<p class=\"faint\">Pictures of every level stand in "
            "SERIES/level-K beside this report.</p>\n";
        for (const auto& s : result_.series) {
            out_ += fmt::format("<details><summary>Series {}</summary>\n", escaped(s.name));
            for (const auto& l : s.levels) {
                const bool first =
                    &s == &result_.series.front() && &l == &s.levels.front();  // the same for every series
                if (!first && &l != &s.levels.back()) continue;                // the others are in their folders
                const auto found = pictures_.levels.find(level_folder(l.series, l.index));
                if (found == pictures_.levels.end()) continue;
                out_ += fmt::format("<h3>Level {}</h3>\n<div class=\"pair\">\n", l.index);
                out_ += figure(found->second.mesh, false, "Mesh", fmt::format("Mesh of level {}", l.index));
                out_ += figure(found->second.error, false, "Map of the estimated error",
                               fmt::format("Where the error of level {} sits", l.index));
                if (&l == &s.levels.back() && found->second.change)
                    out_ += figure(*found->second.change, false, "Map of the change from the level before",
                                   fmt::format("What changed from level {} to {}", l.index - 1, l.index));
                out_ += "</div>\n";
            }
            out_ += "</details>\n";
        }
    }

    void part() {
        const Vec2 size = inspected_.high - inspected_.low;
        const std::string length = study_.units.label(dimension::length);
        const AreaMeasures& m = inspected_.measures;
        out_ += fmt::format("<h2>Part</h2>\n<p>{} × {} {}, area {} {}², centroid ({}, {}) {}{}.</p>\n",
                            sensible(size[0]), sensible(size[1]), length, sensible(m.area, 6), length,
                            sensible(m.centroid[0]), sensible(m.centroid[1]), length,
                            inspected_.mass ? fmt::format(", mass {} kg", sensible(*inspected_.mass)) : "");
        for (const auto& note : opened_.notes) out_ += fmt::format("<p>From a drawing: {}.</p>\n", escaped(note));
        out_ += figure(pictures_.part, false, "The part with its names and the places to look at",
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
            out_ +=
                figure(*pictures_.cleanup, false, "The part as drawn and as meshed", "As drawn, and as it was meshed");
        }
    }

    void input() {
        out_ += fmt::format("<h2>Study file</h2>\n<details><summary>{}</summary>\n<pre>{}</pre></details>\n",
                            escaped(study_.path.filename().string()), escaped(study_.source));
        out_ += fmt::format(
            "<h2>Provenance</h2>\n<p>Made by dotsift {}. To repeat: <code>dotsift run {} -o DIRECTORY</code>. All "
            "numbers stand in summary.json, the table "
            "of levels in levels.csv, every mesh with its fields in SERIES/level-K/mesh.vtu.</p>\n",
            DOTSIFT_VERSION, escaped(study_.path.filename().string()));
    }

    const StudyAndPart& opened_;
    const Study& study_;
    const PartReport& inspected_;
    const StudyResult& result_;
    const ReportPictures& pictures_;
    std::string out_;
};

}  // namespace

std::string report_html(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
                        const ReportPictures& pictures) {
    return Report(opened, inspected, result, pictures).html();
}

}  // namespace dotsift
