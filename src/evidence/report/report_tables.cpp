#include "evidence/report/report_tables.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "base/numbers.hpp"
#include "evidence/report/error_shares.hpp"
#include "evidence/summary.hpp"
#include "statistics/verdict.hpp"

namespace dotsift {

namespace {

using Rows = std::vector<std::vector<TableCell>>;
using Headings = std::vector<TableHeading>;

TableCell count_cell(long long n) {
    return number_cell(static_cast<double>(n), grouped(n));
}
TableCell percent_cell(double v) {
    return number_cell(v, percent(v));
}
TableCell sensible_cell(double v, int digits = 4) {
    return number_cell(v, sensible(v, digits));
}
TableCell megabytes_cell(double bytes) {
    return number_cell(bytes, bytes > 0 ? fmt::format("{:.0f}", bytes / 1e6) : "-");
}
void add_quantities(Headings& headings, const Study& study) {
    for (const auto& q : study.quantities) headings.push_back({q.name, unit_of(study, q)});
}

std::vector<TableCell> comparison_row(const std::string& name, const Level& l, const SeriesResult* series) {
    std::vector<TableCell> row{text_cell(name), count_cell(static_cast<long long>(l.mesh.elements)),
                               count_cell(l.unknowns)};
    for (std::size_t q = 0; q < l.quantities.size(); ++q) {
        // What no longer changes is known to its rounding, which says nothing here.
        const QuantityVerdict* v = series ? &series->verdicts[q] : nullptr;
        const bool still = v && v->convergence.behaviour == Behaviour::settled;
        const double band = v && !still ? v->interval.half_width : NAN, value = l.quantities[q].value;
        const bool zero = std::fabs(value) <= rounding_share * l.quantities[q].scale;
        const bool shown = std::isfinite(band) && band > 0 && value != 0 && !zero;
        row.push_back(number_cell(value, zero ? "0" : with_uncertainty(value, band),
                                  shown ? "± " + percent(band / std::fabs(value)) : ""));
    }
    row.push_back(percent_cell(l.true_error ? l.true_error->relative() : l.estimated_error));
    row.push_back(sensible_cell(seconds_of(l), 2));
    row.push_back(megabytes_cell(peak_bytes_of(l)));
    return row;
}

std::string shown_beside(double v, double of) {
    return std::fabs(v) <= 1e-9 * of ? std::string("0") : sensible(v, 6);
}

}  // namespace

Table comparison_table(const Study& study, const StudyResult& result) {
    Headings headings{{"mesh", ""}, {"elements", ""}, {"unknowns", ""}};
    add_quantities(headings, study);
    headings.insert(headings.end(),
                    {{study.exact_stress ? "true error" : "estimated error", ""}, {"time", "s"}, {"memory", "MB"}});
    Rows rows;
    for (const auto& s : result.series) {
        if (s.levels.empty()) continue;
        if (rows.empty()) rows.push_back(comparison_row("first mesh", s.levels.front(), nullptr));
        rows.push_back(comparison_row(fmt::format("{}, level {}", s.name, s.levels.back().index), s.levels.back(), &s));
    }
    return {"", headings, rows};
}

Table levels_table(const Study& study, const SeriesResult& s) {
    Headings headings{
        {"level", ""}, {"h", study.units.label(dimension::length)}, {"nodes", ""}, {"elements", ""}, {"unknowns", ""}};
    add_quantities(headings, study);
    headings.push_back({"estimated error", ""});
    if (study.error_bound) headings.push_back({"bound", ""});
    if (study.exact_stress) headings.insert(headings.end(), {{"true error", ""}, {"effectivity", ""}});
    Rows rows;
    for (std::size_t k = 0; k < s.levels.size(); ++k) {
        const Level& l = s.levels[k];
        std::vector<TableCell> row{number_cell(l.index, std::to_string(l.index)),
                                   sensible_cell(l.mesh.characteristic_size),
                                   count_cell(static_cast<long long>(l.mesh.nodes)),
                                   count_cell(static_cast<long long>(l.mesh.elements)), count_cell(l.unknowns)};
        for (std::size_t q = 0; q < l.quantities.size(); ++q) {
            TableCell cell = number_cell(l.quantities[q].value, shown_value(l.quantities[q], 6));
            const double change = k > 0 ? relative_change(s.levels[k - 1].quantities[q], l.quantities[q]) : NAN;
            if (!std::isnan(change)) {
                cell.below = change == 0 ? "no change" : "changed " + percent(change);
                if (const auto& target = study.quantities[q].target)
                    cell.below_look =
                        change * std::fabs(l.quantities[q].value) <= target->allowed(l.quantities[q].value)
                            ? TableCell::Look::met
                            : TableCell::Look::missed;
            }
            row.push_back(std::move(cell));
        }
        row.push_back(percent_cell(l.estimated_error));
        if (study.error_bound) row.push_back(percent_cell(l.error_bound.value_or(NAN)));
        if (l.true_error) {
            row.push_back(percent_cell(l.true_error->relative()));
            row.push_back(sensible_cell(effectivity(l).value_or(NAN), 3));
        }
        rows.push_back(std::move(row));
    }
    return {"", headings, rows};
}

TableCell target_cell(const Study& study, const QuantitySpec& q) {
    if (!q.target) return text_cell("-");
    return q.target->absolute ? number_cell(q.target->value, shown_target(*q.target, unit_of(study, q)))
                              : percent_cell(q.target->value);
}

Table limits_table(const Study& study, const StudyResult& result) {
    struct Held {
        const QuantitySpec* quantity;
        const QuantityVerdict* verdict;
        [[nodiscard]] double used() const {
            const double most = verdict->limit->used_at_most;
            return std::isnan(most) ? -INFINITY : most;
        }
        /// What is not kept comes first, then what is not decided.
        [[nodiscard]] int rank() const {
            constexpr std::array ranks{2, 0, 1};
            return ranks[static_cast<std::size_t>(verdict->limit->answer)];
        }
    };
    std::vector<Held> list;
    for (std::size_t q = 0; q < result.headline.size(); ++q)
        if (result.headline[q].limit) list.push_back({&study.quantities[q], &result.headline[q]});
    const auto governing =
        std::max_element(list.begin(), list.end(), [](const Held& a, const Held& b) { return a.used() < b.used(); });
    const QuantityVerdict* governs = list.size() > 1 && std::isfinite(governing->used()) ? governing->verdict : nullptr;
    std::stable_sort(list.begin(), list.end(), [](const Held& a, const Held& b) {
        return std::pair(a.rank(), -a.used()) < std::pair(b.rank(), -b.used());
    });
    const bool cases = !study.cases.empty();
    Headings headings{{"quantity", ""}};
    if (cases) headings.push_back({"load case", ""});
    headings.insert(headings.end(),
                    {{"value", ""}, {"limit", ""}, {"used", ""}, {"at most", ""}, {"reserve", ""}, {"", ""}});
    Rows rows;
    for (const auto& held : list) {
        const QuantityVerdict& v = *held.verdict;
        const LimitVerdict& l = *v.limit;
        const auto with_unit = [&](const std::string& number) {
            return v.unit.empty() ? number : number + " " + v.unit;
        };
        std::vector<TableCell> row{text_cell(v.quantity)};
        if (cases)
            row.push_back(text_cell(held.quantity->formula             ? "-"
                                    : held.quantity->load_case.empty() ? study.cases.front().name
                                                                       : held.quantity->load_case));
        row.push_back(number_cell(v.interval.value,
                                  with_unit(with_uncertainty(v.interval.value, v.interval.half_width)),
                                  v.interval.known() ? "± " + with_unit(sensible(v.interval.half_width, 2)) : ""));
        row.push_back(number_cell(l.allowed, (l.highest ? "≤ " : "≥ ") + with_unit(as_given(l.allowed)),
                                  l.allowed != l.stated ? "of " + with_unit(as_given(l.stated)) : ""));
        row.push_back(percent_cell(l.used));
        row.push_back(percent_cell(l.used_at_most));
        row.push_back(number_cell(l.reserve, std::isnan(l.reserve) ? "-" : with_unit(sensible(l.reserve, 3))));
        TableCell answer = text_cell(name_of(l.answer));
        answer.look = l.answer == LimitAnswer::inside ? TableCell::Look::met : TableCell::Look::missed;
        if (&v == governs) answer.below = "governs";
        row.push_back(std::move(answer));
        rows.push_back(std::move(row));
    }
    return {"", headings, rows};
}

Table convergence_table(const Study& study, const SeriesResult& s) {
    Rows rows;
    for (std::size_t q = 0; q < s.verdicts.size(); ++q) {
        const auto& v = s.verdicts[q];
        const Convergence& c = v.convergence;
        TableCell verdict = text_cell(name_of(v.verdict));
        if (v.verdict == Verdict::met) verdict.look = TableCell::Look::met;
        if (v.verdict == Verdict::missed) verdict.look = TableCell::Look::missed;
        rows.push_back(
            {text_cell(v.quantity), text_cell(name_of(c.behaviour)),
             number_cell(v.interval.value, with_uncertainty(v.interval.value, v.interval.half_width)),
             c.behaviour == Behaviour::settled ? text_cell("rounding") : percent_cell(v.interval.relative()),
             sensible_cell(c.observed_order, 3), sensible_cell(c.expected_order, 3),
             number_cell(c.extrapolated, with_uncertainty(c.extrapolated, v.interval.half_width)),
             percent_cell(c.gci_fine), percent_cell(c.gci_coarse),
             number_cell(c.asymptotic_ratio, sensible(c.asymptotic_ratio, 3) +
                                                 (c.asymptotic && !std::isnan(c.asymptotic_ratio) ? ", in range" : "")),
             target_cell(study, study.quantities[q]), verdict});
    }
    return {"What the levels say",
            {{"quantity", ""},
             {"behaviour", ""},
             {"value", ""},
             {"± 95 %", ""},
             {"observed order", ""},
             {"expected order", ""},
             {"extrapolated", ""},
             {"GCI fine", ""},
             {"GCI coarse", ""},
             {"asymptotic ratio", ""},
             {"target", ""},
             {"verdict", ""}},
            rows};
}

Table fits_table(const SeriesResult& s) {
    Rows rows;
    for (const auto& v : s.verdicts) {
        if (!v.convergence.least_squares) continue;
        const LeastSquaresUncertainty& f = *v.convergence.least_squares;
        const double value = std::fabs(v.interval.value);
        rows.push_back(
            {text_cell(v.quantity), text_cell(f.fit.expansion() + (f.fit.weighted ? ", weighted" : "")),
             number_cell(f.fit.limit, with_uncertainty(f.fit.limit, f.half_width)), sensible_cell(f.observed_order, 3),
             percent_cell(value > 0 ? f.fit.deviation / value : f.fit.deviation), sensible_cell(f.safety_factor, 3),
             percent_cell(value > 0 ? f.half_width / value : f.half_width)});
    }
    if (rows.empty()) return {};
    return {"Fits by least squares through all levels, for comparison: the interval above counts",
            {{"quantity", ""},
             {"error as", ""},
             {"limit", ""},
             {"order", ""},
             {"standard deviation", ""},
             {"safety factor", ""},
             {"uncertainty", ""}},
            rows};
}

Table dual_table(const Study& study, const SeriesResult& s) {
    if (std::none_of(study.quantities.begin(), study.quantities.end(), [](const auto& q) { return q.dual; })) return {};
    const Level& last = s.levels.back();
    Rows rows;
    for (std::size_t q = 0; q < last.goals.size(); ++q) {
        const auto& spec = study.quantities[q];
        if (!last.goals[q]) {
            if (spec.dual)
                rows.push_back({text_cell(spec.name), text_cell("has no dual problem"), text_cell(""), text_cell(""),
                                text_cell("")});
            continue;
        }
        const GoalEstimate& g = *last.goals[q];
        const std::string unit = unit_of(study, spec);
        rows.push_back(
            {text_cell(spec.name), number_cell(g.value, fmt::format("{} {}", sensible(g.value, 6), unit)),
             sensible_cell(g.error, 2),
             number_cell(g.corrected(), fmt::format("{} ± {} {}", with_uncertainty(g.corrected(), g.half_width),
                                                    sensible(g.half_width, 2), unit)),
             text_cell(g.radius > 0 ? fmt::format("another quantity: the mean within {} {}", sensible(g.radius, 2),
                                                  study.units.label(dimension::length))
                                    : "-")});
    }
    return {fmt::format("Errors by dual problems, level {}: a part of the interval above, which counts", last.index),
            {{"quantity", ""},
             {"by the elements' own field", ""},
             {"estimated error", ""},
             {"corrected", ""},
             {"mean over", ""}},
            rows};
}

Table error_places_table(const SeriesResult& s) {
    const Level& last = s.levels.back();
    Table t{fmt::format("Where the estimated error of level {} sits", last.index),
            {{"place", ""}, {"share of the squared error", ""}, {"its part of the relative error", ""}},
            {}};
    for (const auto& e : error_shares(last))
        t.rows.push_back({text_cell(fmt::format("{} {}", e.of_boundary ? "elements along" : "region", e.name)),
                          percent_cell(e.share), percent_cell(last.estimated_error * std::sqrt(e.share))});
    return t;
}

Table cost_table(const SeriesResult& s) {
    if (s.levels.empty()) return {};
    Headings headings{{"level", ""}};
    for (const auto& c : s.levels.front().costs) headings.insert(headings.end(), {{c.stage, "s"}, {c.stage, "MB"}});
    headings.push_back({"all", "s"});
    Rows rows;
    for (const auto& l : s.levels) {
        std::vector<TableCell> row{number_cell(l.index, std::to_string(l.index))};
        for (const auto& c : l.costs) {
            row.push_back(sensible_cell(c.seconds, 2));
            row.push_back(megabytes_cell(c.peak_bytes));
        }
        row.push_back(sensible_cell(seconds_of(l), 2));
        rows.push_back(std::move(row));
    }
    return {"What the levels cost", headings, rows};
}

namespace {

std::string label_of(const Study& study, SharedMeasure::Unit unit) {
    switch (unit) {
        case SharedMeasure::Unit::none:
            return "";
        case SharedMeasure::Unit::area:
            return study.units.label(dimension::length) + "²";
        case SharedMeasure::Unit::length:
            return study.units.label(dimension::length);
        case SharedMeasure::Unit::force:
            return study.units.label(dimension::force);
        case SharedMeasure::Unit::moment:
            return study.units.label(dimension::moment);
        case SharedMeasure::Unit::flow:
            return unit_of(study, Field::reaction_flow);
        case SharedMeasure::Unit::volume:
            return study.units.label(dimension::length) + "³";
    }
    return "";
}

}  // namespace

Table shared_table(const Study& study, const std::vector<SharedMeasure>& shared) {
    Rows rows;
    for (const auto& m : shared) {
        const std::string wanted =
            m.unit == SharedMeasure::Unit::none ? "0" : sensible(m.wanted, 6) + " " + label_of(study, m.unit);
        const auto gap = [](double v) { return number_cell(v, v < 1e-12 ? "0" : percent(v)); };
        const bool of_solution = m.kind == SharedMeasure::Kind::reaction && m.worst > rounding_share;
        TableCell verdict = words_cell(m.drifts()    ? m.fault
                                       : of_solution ? "within the errors of fields and curves"
                                                     : "the same");
        if (m.drifts()) verdict.look = TableCell::Look::words_missed;
        rows.push_back({text_cell(fmt::format("{} {}", name_of(m.kind), m.name)), number_cell(m.wanted, wanted),
                        gap(m.worst), text_cell(m.level), gap(m.on_finest), verdict});
    }
    return {"",
            {{"measure", ""},
             {"of the part", ""},
             {"largest gap", ""},
             {"on", ""},
             {"gap on the finest", ""},
             {"verdict", ""}},
            rows};
}

Table loads_table(const Study& study, const StudyResult& result) {
    const Level* finest = finest_level(result);
    if (!finest) return {};
    Headings headings{{"name", ""}};
    if (study.elastic())
        for (const char* axis : study.solid() ? std::vector{"x", "y", "z"} : std::vector{"x", "y"})
            headings.push_back({fmt::format("along {}", axis), study.units.label(dimension::force)});
    if (study.elastic())
        for (const char* moment :
             study.solid() ? std::vector{"moment about x", "about y", "about z"} : std::vector{"moment"})
            headings.push_back({moment, study.units.label(dimension::moment)});
    if (study.conducts()) headings.push_back({"flow into the part", unit_of(study, Field::reaction_flow)});
    double scale = 0, moment_scale = 0, flow_scale = 0;
    const auto see = [&](const auto& t) {
        scale = std::max(scale, norm(t.force));
        moment_scale = std::max(moment_scale, norm(t.moment));
        flow_scale = std::max(flow_scale, std::fabs(t.flow));
    };
    for (const auto& t : finest->loads) see(t);
    for (const auto& r : finest->reactions) see(r);
    Rows rows;
    const auto add = [&](const char* kind, const auto& t) {
        std::vector<TableCell> row{text_cell(fmt::format("{} {}", kind, t.name))};
        if (study.elastic())
            for (std::size_t c = 0; c < (study.solid() ? 3U : 2U); ++c)
                row.push_back(number_cell(t.force[c], shown_beside(t.force[c], scale)));
        if (study.elastic())
            for (std::size_t c = study.solid() ? 0 : 2; c < 3; ++c)
                row.push_back(number_cell(t.moment[c], shown_beside(t.moment[c], moment_scale)));
        if (study.conducts()) row.push_back(number_cell(t.flow, shown_beside(t.flow, flow_scale)));
        rows.push_back(std::move(row));
    };
    for (const auto& t : finest->loads) add("load", t);
    for (std::size_t k = 0; k < finest->reactions.size(); ++k)
        add(k < study.supports.size() ? "support" : "tie", finest->reactions[k]);
    return {"On the level with the most unknowns" +
                (study.cases.empty() ? std::string() : ", load case " + study.cases.front().name),
            headings, rows};
}

Table singular_table(const Study& study, const StudyResult& result) {
    Rows rows;
    for (const auto& p : result.singular_places)
        rows.push_back(
            {text_cell(told_place(p.point)), words_cell(p.point.cause),
             number_cell(p.point.exponent, p.point.exponent > 0 ? fmt::format("{:.3f}", p.point.exponent) : "0"),
             words_cell(!p.shows()            ? "does not show"
                        : study.cases.empty() ? "shows"
                                              : fmt::format("shows in {}", fmt::join(p.shows_in, ", "))),
             words_cell(p.advice)});
    return {"", {{"place", ""}, {"cause", ""}, {"λ", ""}, {"in this solution", ""}, {"what helps", ""}}, rows};
}

namespace {

/// One number where all are the same.
std::string along_axes(const std::array<double, 3>& x) {
    return x[0] == x[1] && x[1] == x[2] ? fmt::format("{:g}", x[0]) : fmt::format("{:g}, {:g}, {:g}", x[0], x[1], x[2]);
}

/// In the order of the study file: planes 12, 23 and 13.
std::string orthotropic_law(const Study& study, const MaterialSpec& m) {
    const auto three = [](const std::array<double, 3>& x) { return fmt::format("{:g}, {:g}, {:g}", x[0], x[1], x[2]); };
    const std::string stress = study.units.label(dimension::stress);
    const auto& law = *m.orthotropy;
    std::string axes = fmt::format("first axis at {:.4g}°", m.angle * 180 / std::numbers::pi);
    if (m.axes)
        axes = fmt::format("first axis along ({}), second towards ({})", three((*m.axes)[0].c), three((*m.axes)[1].c));
    return fmt::format("orthotropic, moduli {} {}, ratios {}, shear {} {}, {}", three(law.moduli), stress,
                       three(law.ratios), study.solid() ? three(law.shears) : fmt::format("{:g}", law.shears[0]),
                       stress, axes);
}

}  // namespace

Table materials_table(const Study& study) {
    Rows rows;
    const std::string stress = study.units.label(dimension::stress);
    for (const auto& m : study.materials) {
        std::string laws;
        const auto add = [&](const std::string& text) { laws += (laws.empty() ? "" : ", ") + text; };
        if (m.youngs_modulus > 0) {
            add(m.modulus_of_temperature ? fmt::format("Young's modulus {}, {:g} {} at the reference",
                                                       m.modulus_of_temperature->source, m.youngs_modulus, stress)
                                         : fmt::format("Young's modulus {:g} {}", m.youngs_modulus, stress));
            add(fmt::format("Poisson's ratio {:g}", m.poissons_ratio));
        }
        if (m.orthotropy) add(orthotropic_law(study, m));
        if (m.expansion_of_temperature)
            add(fmt::format("expansion {}", m.expansion_of_temperature->source));
        else if (m.expansion != std::array<double, 3>{})
            add(fmt::format("expansion {} 1/K", along_axes(m.expansion)));
        if (m.conductivity_of_temperature && study.conducts())
            add(fmt::format("conductivity {}", m.conductivity_of_temperature->source));
        else if (m.conductivity && study.conducts())
            add(fmt::format("conductivity {} {}", along_axes(*m.conductivity),
                            study.conduction.of_heat() ? study.units.label(dimension::conductivity) : ""));
        if (m.density) add(fmt::format("density {:g} {}", *m.density, study.units.label(dimension::density)));
        rows.push_back({text_cell(m.name),
                        words_cell(m.on.empty() ? "all other regions" : fmt::format("{}", fmt::join(m.on, ", "))),
                        words_cell(laws)});
    }
    return {"Materials", {{"name", ""}, {"regions", ""}, {"law", ""}}, rows, false};
}

Table sizes_table(const Study& study) {
    const SizeSpec& sizes = study.sizes;
    const std::string length = study.units.label(dimension::length);
    Table t{"Sizes of the first mesh", {{"rule", ""}, {"where", ""}, {"asks for", ""}}, {}, false};
    const auto add = [&](const std::string& name, const std::string& where, const std::string& what) {
        t.rows.push_back({text_cell(name), words_cell(where), words_cell(what)});
    };
    add("global", "everywhere",
        fmt::format(
            "{}, growing by {:g} from element to element at most, {:g} elements round a full circle",
            sizes.global ? fmt::format("{:g} {}", *sizes.global, length) : std::string("a size chosen by the part"),
            sizes.growth, sizes.segments_per_circle));
    for (const auto& r : sizes.local) {
        std::string what = "a size";
        switch (r.demand) {
            case SizeDemand::size:
                what = "size " + r.size.text;
                break;
            case SizeDemand::table:
                what = "sizes of " + r.table.string();
                break;
            case SizeDemand::divisions:
                what = fmt::format("{} divisions of each edge", r.divisions);
                break;
            case SizeDemand::across:
                what = fmt::format("{:g} elements across", r.number);
                break;
            case SizeDemand::segments:
                what = fmt::format("{:g} elements round a full circle", r.number);
                break;
        }
        std::string where = fmt::format("{}", fmt::join(r.on, ", "));
        if (r.inside || r.inside_space) where += where.empty() ? "inside a shape" : ", inside a shape";
        if (r.along || r.along_in_space) where += where.empty() ? "along a line" : ", along a line";
        add(r.name, where, what);
    }
    for (const auto& l : sizes.layers)
        add(l.name, fmt::format("{}", fmt::join(l.on, ", ")),
            fmt::format("{} rows of layers, the first {:g} {} high", l.rows, l.first, length));
    return t;
}

Table quality_table(const Study& study, const StudyResult& result) {
    const std::string length = study.units.label(dimension::length);
    Headings headings{{"mesh", ""}, {"elements", ""}};
    if (!study.solid()) headings.push_back({"quadrilaterals among them", ""});
    headings.insert(headings.end(), {{"mean quality", ""},
                                     {"worst quality", ""},
                                     {"where", length},
                                     {study.solid() ? "smallest angle between sides" : "smallest angle", ""}});
    Rows rows;
    for (const auto& s : result.series)
        for (const auto& l : s.levels) {
            auto& row = rows.emplace_back();
            row = {text_cell(fmt::format("{}, level {}", s.name, l.index)),
                   count_cell(static_cast<long long>(l.mesh.elements))};
            if (!study.solid()) row.push_back(count_cell(static_cast<long long>(l.mesh.quadrilaterals)));
            const Vec3& worst = l.mesh.worst_position;
            row.insert(row.end(), {sensible_cell(l.mesh.mean_quality, 3), sensible_cell(l.mesh.worst_quality, 3),
                                   text_cell(study.solid() ? told_point(worst) : told_point(in_plane(worst))),
                                   number_cell(l.mesh.smallest_angle, fmt::format("{:.1f}°", l.mesh.smallest_angle))});
        }
    return {"", std::move(headings), std::move(rows)};
}

std::string no_singular_places(const Study& study) {
    return study.solid()
               ? "None: no edge, rim of a held face or junction of materials makes a stress or flux infinite. "
                 "(Corners at which edges end are not looked at by themselves.)"
               : "None: no corner, support end, junction of materials or load makes a stress or flux infinite.";
}

}  // namespace dotsift
