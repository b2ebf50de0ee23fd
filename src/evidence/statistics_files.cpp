#include "evidence/statistics_files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/levels/json_values.hpp"

namespace dotsift {

using nlohmann::ordered_json;

ordered_json verdict_json(const QuantityVerdict& v) {
    const Convergence& c = v.convergence;
    ordered_json j{{"quantity", v.quantity},
                   {"verdict", name_of(v.verdict)},
                   {"sentence", v.sentence},
                   {"behaviour", name_of(c.behaviour)},
                   {"levels", c.levels},
                   {"finest", json_number(c.finest)},
                   {"change", json_number(c.change)},
                   {"expected_order", json_number(c.expected_order)},
                   {"observed_order", json_number(c.observed_order)},
                   {"earlier_order", json_number(c.earlier_order)},
                   {"used_order", json_number(c.used_order)},
                   {"extrapolated", json_number(c.extrapolated)},
                   {"safety_factor", c.safety_factor},
                   {"gci_fine", json_number(c.gci_fine)},
                   {"gci_coarse", json_number(c.gci_coarse)},
                   {"asymptotic_ratio", json_number(c.asymptotic_ratio)},
                   {"asymptotic", c.asymptotic},
                   {"uncertainty", json_number(v.interval.half_width)},
                   {"rule", v.interval.rule}};
    if (const auto held = v.holds_reference())
        j["reference"] = {
            {"value", *v.reference}, {"deviation", json_number(*v.reference - c.finest)}, {"inside", *held}};
    if (v.limit) {
        const LimitVerdict& l = *v.limit;
        j["limit"] = {{"answer", name_of(l.answer)},
                      {"side", l.highest ? "highest" : "lowest"},
                      {"stated", l.stated},
                      {"allowed", l.allowed},
                      {"reserve", json_number(l.reserve)},
                      {"used", json_number(l.used)},
                      {"used_at_most", json_number(l.used_at_most)},
                      {"deciding_uncertainty", json_number(l.deciding)}};
    }
    if (c.least_squares) {
        const LeastSquaresUncertainty& fit = *c.least_squares;
        j["least_squares"] = {{"expansion", fit.fit.expansion()},
                              {"limit", json_number(fit.fit.limit)},
                              {"observed_order", json_number(fit.observed_order)},
                              {"deviation", json_number(fit.fit.deviation)},
                              {"safety_factor", fit.safety_factor},
                              {"uncertainty", json_number(fit.half_width)}};
    }
    return j;
}

std::vector<std::vector<std::string>> statistics_rows(const std::vector<QuantityVerdict>& verdicts) {
    const bool fits = std::any_of(verdicts.begin(), verdicts.end(),
                                  [](const QuantityVerdict& v) { return v.convergence.least_squares.has_value(); });
    std::vector<std::vector<std::string>> rows{{"quantity", "finest", "± 95 %", "change", "behaviour", "order",
                                                "expected", "extrapolated", "GCI fine", "GCI coarse",
                                                "asymptotic ratio"}};
    if (fits) rows[0].insert(rows[0].end(), {"fit", "limit of the fit", "± of the fit"});
    for (const auto& v : verdicts) {
        const Convergence& c = v.convergence;
        std::vector<std::string> row{v.quantity,
                                     with_uncertainty(c.finest, v.interval.half_width),
                                     percent(v.interval.relative()),
                                     percent(c.change),
                                     name_of(c.behaviour),
                                     sensible(c.observed_order, 4),
                                     sensible(c.expected_order, 3),
                                     with_uncertainty(c.extrapolated, v.interval.half_width / 10),
                                     percent(c.gci_fine),
                                     percent(c.gci_coarse),
                                     sensible(c.asymptotic_ratio, 3)};
        if (fits && c.least_squares)
            row.insert(row.end(), {c.least_squares->fit.expansion(),
                                   with_uncertainty(c.least_squares->fit.limit, c.least_squares->half_width / 10),
                                   percent(c.finest != 0 ? c.least_squares->half_width / std::fabs(c.finest)
                                                         : c.least_squares->half_width)});
        else if (fits)
            row.insert(row.end(), {"-", "-", "-"});
        rows.push_back(std::move(row));
    }
    return rows;
}

void show_interval(ConvergenceChart& chart, const QuantityVerdict& v, const std::string& label) {
    const Interval& interval = v.interval;
    if (const double limit = v.convergence.extrapolated; std::isfinite(limit)) {
        chart.extrapolated = limit;
        chart.extrapolated_label = fmt::format("{}: {}", label, with_uncertainty(limit, interval.half_width));
    }
    if (!interval.known()) return;
    chart.value = interval.value;
    chart.half_width = interval.half_width;
    chart.band_label = fmt::format("95 %: {} ± {}", with_uncertainty(interval.value, interval.half_width),
                                   percent(interval.relative()));
}

std::string markdown_table(const std::vector<std::vector<std::string>>& rows) {
    std::string text;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        text += "|";
        for (std::string field : rows[k]) {
            for (std::size_t at = 0; (at = field.find('|', at)) != std::string::npos; at += 2) field.insert(at, "\\");
            text += " " + field + " |";
        }
        text += "\n";
        if (k > 0) continue;
        text += "|---|";
        for (std::size_t c = 1; c < rows[k].size(); ++c) text += "---:|";
        text += "\n";
    }
    return text;
}

}  // namespace dotsift
