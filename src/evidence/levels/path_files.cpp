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

/// Components, and in tables of paths the displacement and what is made of the stress.
std::vector<Field> fields_of(const Study& study, bool all) {
    std::vector<Field> list;
    const bool solid = study.solid();
    const auto add = [&](std::initializer_list<Field> more) { list.insert(list.end(), more); };
    if (study.elastic()) {
        if (all) add({Field::ux, Field::uy});
        if (all && solid) add({Field::uz});
        add({Field::sxx, Field::syy, Field::szz, Field::sxy});
        if (solid) add({Field::syz, Field::szx});
        add({Field::von_mises});
        if (all) add({Field::max_principal, Field::min_principal, Field::max_shear});
    }
    if (study.conducts()) {
        if (all) add({Field::potential});
        add({Field::flux_x, Field::flux_y});
        if (solid) add({Field::flux_z});
    }
    return list;
}

std::span<const ShapePoint> rule_points(const LevelFields& f, std::size_t e, std::span<const Vec2> positions) {
    return integration_points(f.mesh, f.laws, e, positions);
}
std::span<const ShapePointIn<3>> rule_points(const LevelFieldsIn<3>& f, std::size_t e,
                                             std::span<const Vec3> positions) {
    const ElementKind kind = f.mesh.kinds[e];
    return tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)));
}

/// act(fields) with those of a level, whatever its dimension.
template <class Act>
auto with_fields(const Level& level, Act act) {
    return level.solid ? act(*level.solid) : act(*level.fields);
}

std::string told(const Vec3& p, bool in_space) {
    return in_space ? fmt::format("({:g}, {:g}, {:g})", p[0], p[1], p[2]) : fmt::format("({:g}, {:g})", p[0], p[1]);
}

/// "x [mm],y [mm]", in space z too.
template <int D>
std::string place_columns(const std::string& length) {
    std::string out;
    for (std::size_t c = 0; c < static_cast<std::size_t>(D); ++c)
        out += fmt::format("{}{} [{}]", c > 0 ? "," : "", "xyz"[c], length);
    return out;
}
template <int D>
std::string place_values(const Vec<D>& p, double size) {
    std::string out;
    for (const double x : p.c) out += fmt::format(",{:.10g}", without_rounding(x, size));
    return out;
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
template <int D>
double size_of(const MeshIn<D>& mesh) {
    double size = 0;
    for (const auto& p : mesh.nodes)
        for (const double x : p.c) size = std::max(size, std::fabs(x));
    return size;
}

/// The heading of a column.
template <int D>
std::string column(const Study& study, const LevelFieldsIn<D>& f, const CaseFieldsIn<D>& c, Field field) {
    const std::string unit = unit_of(study, field);
    const std::string name =
        f.cases.size() == 1 ? std::string(name_of(field)) : fmt::format("{}.{}", name_of(field), c.solution.load_case);
    return unit.empty() ? name : fmt::format("{} [{}]", name, unit);
}

template <int D>
std::string path_rows(const Study& study, const LevelFieldsIn<D>& f, const PathSpec& path) {
    const double size = size_of(f.mesh);
    const ElementLocatorIn<D> locator(f.mesh);
    const auto fields = fields_of(study, true);
    const std::string length = study.units.label(dimension::length);
    std::string text = fmt::format("distance [{}],", length) + place_columns<D>(length);
    for (const auto& c : f.cases)
        for (const auto field : fields) text += "," + column<D>(study, f, c, field);
    text += "\n";
    for (const auto& p : sample_path<D>(path, locator)) {
        text += fmt::format("{:.10g}", p.distance) + place_values<D>(p.position, size);
        for (const auto& c : f.cases)
            for (const auto field : fields) {
                text += ",";
                if (!p.where) continue;
                const auto e = p.where->element;
                const FieldSourceIn<D> source{f.mesh, f.laws, c, {}};
                text += fmt::format(
                    "{:.10g}",
                    field_at<D>(field, source, e, evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), p.where->xi)));
            }
        text += "\n";
    }
    return text;
}

/// What a table of a wall shows of a stress, and the headings of its columns.
std::vector<double> shown_of(const Stress& t) {
    return {t[0], t[1], t[3], t[2], von_mises(t), 2 * max_shear(t)};
}
std::vector<double> shown_of(const Stress3& t) {
    return {t[0], t[1], t[3], t[2], t[4], t[5], von_mises(t), 2 * max_shear(t)};
}
std::vector<const char*> wall_headings(const Study& study) {
    if (study.solid()) return {"sxx", "syy", "szz", "sxy", "syz", "szx", "von Mises", "intensity"};
    return {"along the line", "across it", study.plane == Plane::axisymmetric ? "hoop" : "out of plane",
            "shear",          "von Mises", "intensity"};
}

template <int D>
Table wall_rows(const Study& study, const LevelFieldsIn<D>& f, const PathSpec& path) {
    Table out;
    if (!study.elastic()) return out;
    const std::string unit = study.units.label(dimension::stress);
    const bool cases = f.cases.size() > 1;
    if (cases) out.headings.push_back({"load case", ""});
    out.headings.insert(out.headings.end(), {{"end", ""}, {"part of the stress", ""}});
    for (const auto* name : wall_headings(study)) out.headings.push_back({name, unit});
    const ElementLocatorIn<D> locator(f.mesh);
    for (const auto& c : f.cases) {
        const auto wall = wall_stress<D>(path, FieldSourceIn<D>{f.mesh, f.laws, c, {}}, locator);
        if (!wall) return {};
        double largest = 0;
        for (const auto* end : {&wall->start, &wall->end})
            for (const double x : end->whole) largest = std::max(largest, std::fabs(x));
        const auto add = [&](const char* end, const char* part, const StressIn<D>& t) {
            std::vector<TableCell> row;
            if (cases) row.push_back(text_cell(c.solution.load_case));
            row.push_back(text_cell(end));
            row.push_back(text_cell(part));
            for (const double x : shown_of(t))
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

template <int D>
std::string integration_rows(const Study& study, const LevelFieldsIn<D>& f) {
    const double size = size_of(f.mesh);
    const auto fields = fields_of(study, false);
    std::string text = "element," + place_columns<D>(study.units.label(dimension::length));
    for (const auto& c : f.cases)
        for (const auto field : fields) text += "," + column<D>(study, f, c, field);
    text += "\n";
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e) {
        const auto positions = f.mesh.positions(e);
        for (const auto& q : rule_points(f, e, positions)) {
            const auto p = evaluate<D>(f.mesh.kinds[e], positions, q);
            text += fmt::format("{}", e) + place_values<D>(p.position, size);
            for (const auto& c : f.cases) {
                const FieldSourceIn<D> own{f.mesh, f.laws, c, {}, FieldOrigin::integration_points};
                for (const auto field : fields) text += fmt::format(",{:.10g}", field_at<D>(field, own, e, p));
            }
            text += "\n";
        }
    }
    return text;
}

}  // namespace

std::string path_csv(const Study& study, const Level& level, const PathSpec& path) {
    return with_fields(level, [&](const auto& f) { return path_rows(study, f, path); });
}

Table wall_table(const Study& study, const Level& level, const PathSpec& path) {
    return with_fields(level, [&](const auto& f) { return wall_rows(study, f, path); });
}

std::string integration_points_csv(const Study& study, const Level& level) {
    return with_fields(level, [&](const auto& f) { return integration_rows(study, f); });
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
                : fmt::format("{} from {} to {}", title_of(study, field), told(path.points.front(), study.solid()),
                              told(path.points.back(), study.solid()));
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
