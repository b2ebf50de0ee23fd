#include "evidence/levels/path_files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/levels/csv.hpp"
#include "evidence/pictures/chart.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "quantities/path.hpp"
#include "series/path_story.hpp"

namespace dotsift {

namespace {

std::vector<Field> fields_of(const Study& study) {
    std::vector<Field> list;
    if (study.elastic())
        list = {Field::ux,  Field::uy,        Field::sxx,           Field::syy,           Field::szz,
                Field::sxy, Field::von_mises, Field::max_principal, Field::min_principal, Field::max_shear};
    if (study.conducts()) list.insert(list.end(), {Field::potential, Field::flux_x, Field::flux_y});
    return list;
}

ElementPoint at(const Mesh& mesh, const Location& where) {
    return evaluate(mesh.kinds[where.element], mesh.positions(where.element), where.xi);
}

/// What is shown along a path.
struct FieldAlong {
    Field field = Field::von_mises;
    std::string load_case;  ///< empty: the first one
};

/// That of the first quantity along the path, else what the pictures show.
FieldAlong field_along(const Study& study, const PathSpec& path) {
    for (const auto& q : study.quantities)
        if (q.along == path.name && !is_section(q.field)) return {q.field, q.load_case};
    return {shown_field(study), {}};
}

/// The largest coordinate.
double size_of(const Mesh& mesh) {
    double size = 0;
    for (const auto& p : mesh.nodes) size = std::max({size, std::fabs(p[0]), std::fabs(p[1])});
    return size;
}

/// The heading of a column.
std::string column(const Study& study, const LevelFields& f, const CaseFields& c, Field field) {
    const std::string unit = unit_of(study, field);
    const std::string name =
        f.cases.size() == 1 ? std::string(name_of(field)) : fmt::format("{}.{}", name_of(field), c.solution.load_case);
    return unit.empty() ? name : fmt::format("{} [{}]", name, unit);
}

}  // namespace

std::string path_csv(const Study& study, const LevelFields& f, const PathSpec& path) {
    const double size = size_of(f.mesh);
    const ElementLocator locator(f.mesh);
    const auto fields = fields_of(study);
    const std::string length = study.units.label(dimension::length);
    std::string text = fmt::format("distance [{0}],x [{0}],y [{0}]", length);
    for (const auto& c : f.cases)
        for (const auto field : fields) text += "," + column(study, f, c, field);
    text += "\n";
    for (const auto& p : sample_path(path, locator)) {
        text += fmt::format("{:.10g},{:.10g},{:.10g}", p.distance, without_rounding(p.position[0], size),
                            without_rounding(p.position[1], size));
        for (const auto& c : f.cases)
            for (const auto field : fields)
                text += p.where ? fmt::format(",{:.10g}", field_at(field, {f.mesh, f.laws, c, {}}, p.where->element,
                                                                   at(f.mesh, *p.where)))
                                : std::string(",");
        text += "\n";
    }
    return text;
}

Table wall_table(const Study& study, const LevelFields& f, const PathSpec& path) {
    Table out;
    if (!study.elastic()) return out;
    const std::string unit = study.units.label(dimension::stress);
    const bool cases = f.cases.size() > 1;
    if (cases) out.headings.push_back({"load case", ""});
    out.headings.insert(out.headings.end(), {{"end", ""}, {"part of the stress", ""}});
    for (const auto* name :
         {"along the line", "across it", study.plane == Plane::axisymmetric ? "hoop" : "out of plane", "shear",
          "von Mises", "intensity"})
        out.headings.push_back({name, unit});
    const ElementLocator locator(f.mesh);
    for (const auto& c : f.cases) {
        const auto wall = wall_stress(path, {f.mesh, f.laws, c, {}}, locator);
        if (!wall) return {};
        double largest = 0;
        for (const auto* end : {&wall->start, &wall->end})
            for (const double x : end->whole) largest = std::max(largest, std::fabs(x));
        const auto add = [&](const char* end, const char* part, const Stress& t) {
            std::vector<TableCell> row;
            if (cases) row.push_back(text_cell(c.solution.load_case));
            row.push_back(text_cell(end));
            row.push_back(text_cell(part));
            for (const double x : {t[0], t[1], t[3], t[2], von_mises(t), 2 * max_shear(t)})
                row.push_back(number_cell(x, std::fabs(x) <= rounding_share * largest ? "0" : sensible(x, 4)));
            out.rows.push_back(std::move(row));
        };
        for (const auto& [name, end] : {std::pair{"start", &wall->start}, std::pair{"end", &wall->end}}) {
            add(name, "membrane", end->membrane);
            add(name, "bending", end->bending);
            add(name, "membrane + bending", end->linear);
            add(name, "peak", end->peak);
            add(name, "whole", end->whole);
        }
    }
    out.sortable = false;
    return out;
}

std::string wall_csv(const Table& table) {
    std::string text;
    for (std::size_t c = 0; c < table.headings.size(); ++c) {
        const auto& h = table.headings[c];
        text += (c > 0 ? "," : "") + csv_field(h.unit.empty() ? h.name : fmt::format("{} [{}]", h.name, h.unit));
    }
    text += "\n";
    for (const auto& row : table.rows) {
        for (std::size_t c = 0; c < row.size(); ++c)
            text += (c > 0 ? "," : "") +
                    (std::isnan(row[c].sorted_by) ? csv_field(row[c].text) : csv_number(row[c].sorted_by));
        text += "\n";
    }
    return text;
}

std::string integration_points_csv(const Study& study, const LevelFields& f) {
    const double size = size_of(f.mesh);
    std::vector<Field> fields;
    if (study.elastic()) fields = {Field::sxx, Field::syy, Field::szz, Field::sxy, Field::von_mises};
    if (study.conducts()) fields.insert(fields.end(), {Field::flux_x, Field::flux_y});
    const std::string length = study.units.label(dimension::length);
    std::string text = fmt::format("element,x [{0}],y [{0}]", length);
    for (const auto& c : f.cases)
        for (const auto field : fields) text += "," + column(study, f, c, field);
    text += "\n";
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e) {
        const auto positions = f.mesh.positions(e);
        for (const auto& q : integration_points(f.mesh, f.laws, e, positions)) {
            const ElementPoint p = evaluate(f.mesh.kinds[e], positions, q);
            text += fmt::format("{},{:.10g},{:.10g}", e, without_rounding(p.position[0], size),
                                without_rounding(p.position[1], size));
            for (const auto& c : f.cases)
                for (const auto field : fields)
                    text += fmt::format(
                        ",{:.10g}", field_at(field, {f.mesh, f.laws, c, {}, FieldOrigin::integration_points}, e, p));
            text += "\n";
        }
    }
    return text;
}

std::map<std::string, PictureFiles> draw_path_charts(const Study& study, const StudyResult& result) {
    std::map<std::string, PictureFiles> charts;
    for (const auto& path : study.paths) {
        const auto [field, load_case] = field_along(study, path);
        const PathStory story = path_story(result, path, field, load_case);
        if (story.curves.empty()) continue;
        LineChart chart;
        chart.title = path.name;
        chart.subtitle =
            path.on_boundary()
                ? fmt::format("{} along {}", title_of(study, field), fmt::format("{}", fmt::join(path.follow, ", ")))
                : fmt::format("{} from ({:g}, {:g}) to ({:g}, {:g})", title_of(study, field), path.points.front()[0],
                              path.points.front()[1], path.points.back()[0], path.points.back()[1]);
        if (!study.cases.empty())
            chart.subtitle += ", load case " + (load_case.empty() ? study.cases.front().name : load_case);
        chart.x_label = fmt::format("distance along the path in {}", study.units.label(dimension::length));
        const std::string unit = unit_of(study, field);
        chart.y_label = unit.empty() ? title_of(study, field) : fmt::format("{} in {}", title_of(study, field), unit);
        std::size_t next = 0;
        for (const auto& c : story.curves) {
            const bool told = c.series == story.told && c.finest;
            chart.curves.push_back({fmt::format("{}, level {}", c.series, c.level), c.points, static_cast<int>(next++),
                                    told ? CurveLook::main : CurveLook::other});
        }
        chart.band = story.band;
        chart.band_label = fmt::format("95 % interval of {}", story.told);
        chart.marks = story.corners;
        charts[path.name] = draw_chart(chart);
    }
    return charts;
}

}  // namespace dotsift
