#include "evidence/report/report_pdf.hpp"
#include "inspect/inspect_solid.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/numbers.hpp"
#include "evidence/output.hpp"
#include "evidence/report/paper.hpp"
#include "evidence/report/report_tables.hpp"
#include "evidence/summary.hpp"

namespace dotsift {

namespace {

class Document {
  public:
    Document(Paper& paper, const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
             const ReportPictures& pictures, const Provenance& provenance)
        : paper_(paper),
          study_(opened.study),
          inspected_(inspected),
          result_(result),
          pictures_(pictures),
          provenance_(provenance) {}

    void write() {
        verdict();
        charts();
        levels();
        paper_.heading("The same part under the same loads");
        paper_.paragraph(
            std::string(study_.solid() ? "Volumes and areas of every mesh against the part's true faces"
                                       : "Areas and lengths of every mesh against the part's true curves") +
                ": the gap is the error of the geometry and "
                "none "
                "of the error of the fields. Loads with force and moment, so that their line of action counts.",
            faint, 8.5);
        paper_.table(shared_table(study_, result_.shared));
        paper_.heading("Singular places");
        if (result_.singular_places.empty()) paper_.paragraph(no_singular_places(study_));
        paper_.table(singular_table(study_, result_));
        paper_.heading("Loads and reactions");
        paper_.table(loads_table(study_, result_));
        fields();
        paper_.heading("Shape of the elements");
        paper_.table(quality_table(study_, result_));
        part();
        origin();
        paper_.finish();
    }

  private:
    void verdict() {
        const bool met = result_.all_targets_met() && result_.all_limits_kept();
        paper_.title(study_.title, "Grid-independence study");
        paper_.paragraph(study_verdict(study_, result_), met ? Colour{0, 0.41, 0.31} : Colour{0.66, 0.26, 0}, 12, true);
        for (std::size_t q = 0; q < study_.quantities.size(); ++q)
            if (const auto* v = best_verdict(result_, q))
                paper_.bullet(fmt::format("{} Series {}.", v->sentence, v->series));
        if (const Table limits = limits_table(study_, result_); !limits.rows.empty()) {
            paper_.heading("How much of its limit each quantity uses");
            paper_.table(limits);
        }
        for (const auto& m : result_.shared)
            if (m.drifts())
                paper_.paragraph(fmt::format("Not the same on every mesh: {} {} {}.", name_of(m.kind), m.name, m.fault),
                                 {0.66, 0.26, 0}, 9.5, true);
        for (const auto& line : outlook_sentences(study_, result_)) paper_.paragraph(line);
        paper_.table(comparison_table(study_, result_));
        paper_.paragraph("± is the 95 % interval of the numerical uncertainty, found from all levels of the series.",
                         faint, 8);
    }

    void charts() {
        if (!pictures_.error_chart.drawn()) return;
        std::vector<PaperFigure> list;
        const auto add = [&](const PictureFiles& picture, const std::string& caption) {
            PaperFigure& figure = list.emplace_back();
            figure.picture = &picture;
            figure.caption = caption;
        };
        for (const auto& q : study_.quantities) {
            const auto found = pictures_.quantity_charts.find(q.name);
            if (found != pictures_.quantity_charts.end()) add(found->second, q.name);
        }
        for (const auto& [name, chart] : pictures_.quantity_error_charts)
            add(chart, name + ": difference to the best value");
        add(pictures_.error_chart, "what each series pays for its accuracy in unknowns");
        add(pictures_.time_chart, "and in time");
        for (const auto& [name, chart] : pictures_.path_charts) add(chart, "along the path " + name);
        paper_.heading("Convergence", Paper::figure_height);
        paper_.figures(list);
    }

    void levels() {
        for (const auto& s : result_.series) {
            if (s.levels.empty()) continue;
            paper_.heading("Series " + s.name);
            paper_.paragraph(fmt::format("{}; stopped by {}.", name_of(s.kind), s.stopped_by), faint, 8.5);
            paper_.table(levels_table(study_, s));
            for (const auto& l : s.levels)
                for (const auto& note : l.notes)
                    paper_.paragraph(fmt::format("Level {}: {}.", l.index, note), faint, 8);
            paper_.table(convergence_table(study_, s));
            for (const auto& v : s.verdicts)
                paper_.paragraph(fmt::format("{}: {}.", v.quantity, v.interval.rule), faint, 8);
            paper_.table(fits_table(s));
            paper_.table(dual_table(study_, s));
            paper_.table(error_places_table(s));
            paper_.table(cost_table(s));
        }
    }

    void fields() {
        std::vector<PaperFigure> list;
        const auto add = [&](const Level& l, const std::string& name) {
            const auto found = pictures_.levels.find(level_folder(l.series, l.index));
            if (found == pictures_.levels.end()) return;
            if (found->second.mesh.png.empty()) return;  // made small only
            list.push_back({&found->second.mesh, name + ": mesh"});
            list.push_back({&found->second.field, name + ": field"});
            list.push_back({&found->second.error, name + ": where the error sits"});
            if (found->second.change) list.push_back({&*found->second.change, name + ": change from the level before"});
        };
        bool first = true;
        for (const auto& s : result_.series) {
            if (s.levels.empty()) continue;
            if (first) add(s.levels.front(), "first mesh");
            first = false;
            if (s.levels.size() > 1) add(s.levels.back(), fmt::format("{}, level {}", s.name, s.levels.back().index));
        }
        for (const auto& p : pictures_.chosen) list.push_back({&p.files, p.caption});
        for (const auto& [name, picture] : pictures_.close_ups) list.push_back({&picture, "round the peak of " + name});
        if (list.empty()) return;
        paper_.heading("The same view, the same colours", Paper::figure_height);
        paper_.figures(list);
    }

    void part() {
        const std::string length = study_.units.label(dimension::length);
        const Vec2 size = inspected_.high - inspected_.low;
        paper_.heading("Part");
        if (inspected_.solid)
            paper_.paragraph(solid_sentence(inspected_, length));
        else
            paper_.paragraph(
                fmt::format("{} × {} {}, area {} {}²{}.", sensible(size[0]), sensible(size[1]), length,
                            sensible(inspected_.measures.area, 6), length,
                            inspected_.mass ? fmt::format(", mass {} kg", sensible(*inspected_.mass)) : ""));
        paper_.table(materials_table(study_));
        paper_.table(sizes_table(study_));
        if (pictures_.part.drawn())
            paper_.figures(
                {{&pictures_.part,
                  inspected_.solid ? "names of faces" : "names, overall dimensions, and the places to look at"}});
        if (pictures_.acting.drawn()) paper_.figures({{&pictures_.acting, "what holds the part, and what acts on it"}});
        if (pictures_.cleanup) paper_.figures({{&*pictures_.cleanup, "as drawn, and as it was meshed"}});
    }

    void origin() {
        paper_.heading("Provenance");
        for (const auto& [name, text] : provenance_items(provenance_))
            paper_.paragraph(fmt::format("{}: {}", name, text), ink, 8);
        paper_.paragraph("Code verification: `dotsift verify-code` repeats the problems with known answers.", ink, 8);
        paper_.heading("Study file");
        paper_.listing(study_.source);
    }

    Paper& paper_;
    const Study& study_;
    const PartReport& inspected_;
    const StudyResult& result_;
    const ReportPictures& pictures_;
    const Provenance& provenance_;
};

}  // namespace

std::string report_pdf(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
                       const ReportPictures& pictures, const Provenance& provenance) {
    return render_document(opened.study.title, Paper::width, Paper::height,
                           [&](Canvas& canvas, const std::function<void()>& next_page) {
                               Paper sheets(canvas, next_page, opened.study.title + "  ·  " + provenance.program);
                               Document(sheets, opened, inspected, result, pictures, provenance).write();
                           });
}

}  // namespace dotsift
