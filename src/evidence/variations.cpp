#include "evidence/variations.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>

#include "evidence/levels/csv.hpp"
#include "evidence/levels/json_values.hpp"
#include "evidence/pictures/chart.hpp"
#include "evidence/summary.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

/// The number that a value begins with, and what follows it.
std::optional<std::pair<double, std::string>> number_of(const std::string& literal) {
    const std::string text = without_quotes(literal);
    double v = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (code != std::errc()) return {};
    std::string unit(end, text.data() + text.size());
    unit.erase(0, std::min(unit.find_first_not_of(' '), unit.size()));
    return std::pair(v, unit);
}

std::string label_of(const Study& study, const QuantitySpec& q) {
    const std::string unit = unit_of(study, q);
    return unit.empty() ? q.name : fmt::format("{} [{}]", q.name, unit);
}

}  // namespace

std::string without_quotes(const std::string& literal) {
    if (literal.size() < 2 || literal.front() != '"') return literal;
    return literal.substr(1, literal.size() - 2);
}

VariedOutputs outputs_of(const Study& study, const StudyResult& result) {
    VariedOutputs out;
    out.all_met = result.all_targets_met();
    out.limits_kept = result.all_limits_kept();
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        VariedOutputs::Quantity value{NAN, NAN, Verdict::undecided};
        if (const auto* best = best_verdict(result, q)) {
            value = {best->convergence.finest, best->interval.half_width, best->verdict, best->limit};
            for (const auto& s : result.series)
                if (s.name == best->series && !s.levels.empty()) value.value = s.levels.back().quantities[q].value;
        }
        out.quantities.push_back(value);
    }
    out.estimated_error = INFINITY;
    for (const auto& s : result.series) {
        if (s.levels.empty()) continue;
        const Level& l = s.levels.back();
        if (l.estimated_error >= out.estimated_error) continue;
        out.estimated_error = l.estimated_error;
        out.elements = static_cast<std::int64_t>(l.mesh.elements);
        out.unknowns = l.unknowns;
    }
    return out;
}

std::string variations_csv(const Study& study, const VarySpec& spec, const std::vector<VariedRun>& runs) {
    std::string text = "run";
    for (const auto& v : spec.values) text += "," + csv_field(v.variable);
    for (const auto& q : study.quantities)
        text += "," + csv_field(label_of(study, q)) + "," + csv_field(q.name + " uncertainty") + "," +
                csv_field(q.name + " verdict") + (q.limit ? "," + csv_field(q.name + " limit") : "");
    text += ",elements,unknowns,estimated_error,failure\n";
    for (std::size_t k = 0; k < runs.size(); ++k) {
        text += std::to_string(k + 1);
        for (const auto& literal : runs[k].inputs) text += "," + csv_field(without_quotes(literal));
        const auto& out = runs[k].outputs;
        for (std::size_t q = 0; q < study.quantities.size(); ++q) {
            text += out ? fmt::format(",{},{},{}", csv_number(out->quantities[q].value),
                                      csv_number(out->quantities[q].uncertainty), name_of(out->quantities[q].verdict))
                        : ",,,";
            if (!study.quantities[q].limit) continue;
            text += ",";
            if (out && out->quantities[q].limit) text += name_of(out->quantities[q].limit->answer);
        }
        text += out ? fmt::format(",{},{},{}", out->elements, out->unknowns, csv_number(out->estimated_error)) : ",,,";
        text += "," + csv_field(runs[k].failure) + "\n";
    }
    return text;
}

ordered_json variations_json(const Study& study, const VarySpec& spec, const std::vector<VariedRun>& runs) {
    ordered_json j{{"name", spec.name}, {"runs", ordered_json::array()}};
    for (const auto& run : runs) {
        ordered_json r;
        for (std::size_t v = 0; v < spec.values.size(); ++v) {
            const auto number = number_of(run.inputs[v]);
            r["inputs"][spec.values[v].variable] = number && number->second.empty()
                                                       ? ordered_json(number->first)
                                                       : ordered_json(without_quotes(run.inputs[v]));
        }
        if (run.outputs) {
            for (std::size_t q = 0; q < study.quantities.size(); ++q) {
                const auto& value = run.outputs->quantities[q];
                r["outputs"][study.quantities[q].name] = {{"value", json_number(value.value)},
                                                          {"unit", unit_of(study, study.quantities[q])},
                                                          {"uncertainty", json_number(value.uncertainty)},
                                                          {"verdict", name_of(value.verdict)}};
                if (value.limit)
                    r["outputs"][study.quantities[q].name]["limit"] = {
                        {"answer", name_of(value.limit->answer)},
                        {"used_at_most", json_number(value.limit->used_at_most)}};
            }
            r["elements"] = run.outputs->elements;
            r["unknowns"] = run.outputs->unknowns;
            r["estimated_error"] = json_number(run.outputs->estimated_error);
            r["all_targets_met"] = run.outputs->all_met;
            r["all_limits_kept"] = run.outputs->limits_kept;
        }
        if (!run.failure.empty()) r["failure"] = run.failure;
        j["runs"].push_back(r);
    }
    return j;
}

std::vector<std::pair<std::string, PictureFiles>> draw_variations(const Study& study, const VarySpec& spec,
                                                                  const std::vector<VariedRun>& runs) {
    std::vector<std::pair<std::string, PictureFiles>> out;
    // Over the variable with the most values, of those that are numbers.
    std::optional<std::size_t> along;
    std::string unit;
    for (std::size_t v = 0; v < spec.values.size(); ++v) {
        const auto& literals = spec.values[v].literals;
        if (!std::all_of(literals.begin(), literals.end(),
                         [](const std::string& l) { return number_of(l).has_value(); }))
            continue;
        if (along && literals.size() < spec.values[*along].literals.size()) continue;
        along = v;
        unit = number_of(literals.front())->second;
    }
    if (!along) return out;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        LineChart chart;
        chart.title = study.quantities[q].name;
        chart.subtitle = study.title;
        chart.points = true;
        chart.x_label =
            unit.empty() ? spec.values[*along].variable : fmt::format("{} [{}]", spec.values[*along].variable, unit);
        chart.y_label = label_of(study, study.quantities[q]);
        std::map<std::string, std::size_t> curve_of;
        std::size_t points = 0;
        for (const auto& run : runs) {
            std::string others;
            for (std::size_t v = 0; v < spec.values.size(); ++v)
                if (v != *along && !spec.together)
                    others += fmt::format("{}{} {}", others.empty() ? "" : ", ", spec.values[v].variable,
                                          without_quotes(run.inputs[v]));
            const auto [found, fresh] = curve_of.try_emplace(others, chart.curves.size());
            if (fresh)
                chart.curves.push_back(
                    {others.empty() ? study.quantities[q].name : others, {}, static_cast<int>(chart.curves.size())});
            const double value = run.outputs ? run.outputs->quantities[q].value : NAN;
            points += std::isfinite(value);
            chart.curves[found->second].points.push_back({{number_of(run.inputs[*along])->first, value}});
        }
        if (points >= 2) out.emplace_back(study.quantities[q].name, draw_chart(chart));
    }
    return out;
}

}  // namespace dotsift
