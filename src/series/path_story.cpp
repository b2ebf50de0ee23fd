#include "series/path_story.hpp"

#include <algorithm>
#include <cmath>

#include "mesh/boundary_line.hpp"
#include "quantities/path.hpp"
#include "series/judgement.hpp"
#include "statistics/interval.hpp"

namespace dotsift {

namespace {

template <int D>
std::vector<Vec2> values_along(const LevelFieldsIn<D>& f, const PathSpec& path, Field field,
                               const std::string& load_case) {
    const FieldSourceIn<D> source = f.source(place_of_case(f.cases, load_case));
    const ElementLocatorIn<D> locator(f.mesh);
    std::vector<Vec2> out;
    for (const auto& p : sample_path<D>(path, locator)) {
        double value = NAN;
        if (p.where) {
            const auto e = p.where->element;
            value = field_at(field, source, e, evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), p.where->xi));
        }
        out.push_back({{p.distance, value}});
    }
    return out;
}
std::vector<Vec2> values_along(const Level& level, const PathSpec& path, Field field, const std::string& load_case) {
    return level.solid ? values_along(*level.solid, path, field, load_case)
                       : values_along(*level.fields, path, field, load_case);
}

/// The interval at each sample, from the values of all levels there.
std::vector<std::array<double, 3>> band_of(const SeriesResult& series, const std::vector<std::vector<Vec2>>& levels,
                                           Field field) {
    double terms = 0;
    for (const auto& p : levels.back())
        if (std::isfinite(p[1])) terms = std::max(terms, std::fabs(p[1]));
    QuantitySpec at_a_point;
    at_a_point.field = field;
    at_a_point.take = Take::value;
    QuantityEvidence evidence;
    evidence.series = series.name;
    evidence.measure = kind_of_quantity(at_a_point);
    evidence.kind = series.kind;
    const Level& last = series.levels.back();
    evidence.degree = last.solid ? least_degree(last.solid->mesh) : least_degree(last.fields->mesh);
    evidence.expected_order = expected_order(at_a_point, evidence.degree, 1);
    evidence.terms = terms;
    std::vector<std::array<double, 3>> band;
    for (std::size_t i = 0; i < levels.back().size(); ++i) {
        evidence.levels.clear();
        evidence.estimated_errors.clear();
        evidence.unseen_errors.clear();
        for (std::size_t k = 0; k < levels.size(); ++k) {
            const Level& l = series.levels[k];
            if (i >= levels[k].size() || !std::isfinite(levels[k][i][1])) continue;
            if (!evidence.levels.empty() && l.mesh.characteristic_size >= evidence.levels.back().h) continue;
            evidence.levels.push_back({l.mesh.characteristic_size, levels[k][i][1]});
            evidence.estimated_errors.push_back(l.estimated_error);
            evidence.unseen_errors.push_back(l.unseen_error);
        }
        if (evidence.levels.size() < 3 || !std::isfinite(levels.back()[i][1])) continue;
        const Interval interval =
            interval_of(evidence, judge_convergence(evidence.levels, evidence.expected_order, evidence.terms));
        if (!interval.known()) continue;
        band.push_back(
            {levels.back()[i][0], interval.value - interval.half_width, interval.value + interval.half_width});
    }
    return band;
}

}  // namespace

PathStory path_story(const StudyResult& result, const PathSpec& path, Field field, const std::string& load_case) {
    PathStory out;
    const Level* finest = finest_level(result);
    if (!finest) return out;
    out.told = finest->series;
    for (const auto& s : result.series) {
        if (s.levels.empty()) continue;
        const bool told = s.name == out.told;
        std::vector<std::vector<Vec2>> values;
        for (std::size_t k = told ? 0 : s.levels.size() - 1; k < s.levels.size(); ++k)
            values.push_back(values_along(s.levels[k], path, field, load_case));
        if (told) {
            out.band = band_of(s, values, field);
            if (values.size() > 1)
                out.curves.push_back({s.name, s.levels[values.size() - 2].index, false, values[values.size() - 2]});
        }
        out.curves.push_back({s.name, s.levels.back().index, true, std::move(values.back())});
    }
    if (path.on_boundary()) {
        const Mesh& mesh = finest->fields->mesh;
        for (const auto& [at, node] : boundary_line(mesh, path.follow, path.from, path.to).corners) {
            const auto named = std::find_if(mesh.points.begin(), mesh.points.end(),
                                            [n = node](const MeshPoint& p) { return p.node == n; });
            out.corners.emplace_back(at, named == mesh.points.end() ? "" : named->name);
        }
    }
    return out;
}

}  // namespace dotsift
