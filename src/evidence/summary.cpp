#include "evidence/summary.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/csv.hpp"
#include "evidence/level_json.hpp"
#include "series/meshing_notes.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

ordered_json finite(double v) {
    return std::isfinite(v) ? ordered_json(v) : ordered_json(nullptr);
}
ordered_json pair(const Vec2& v) {
    return ordered_json::array({v[0], v[1]});
}

ordered_json verdict_json(const QuantityVerdict& v) {
    const Convergence& c = v.convergence;
    return {{"quantity", v.quantity},
            {"verdict", name_of(v.verdict)},
            {"sentence", v.sentence},
            {"behaviour", name_of(c.behaviour)},
            {"levels", c.levels},
            {"finest", finite(c.finest)},
            {"change", finite(c.change)},
            {"observed_order", finite(c.observed_order)},
            {"earlier_order", finite(c.earlier_order)},
            {"used_order", finite(c.used_order)},
            {"extrapolated", finite(c.extrapolated)},
            {"safety_factor", c.safety_factor},
            {"gci_fine", finite(c.gci_fine)},
            {"gci_coarse", finite(c.gci_coarse)},
            {"asymptotic_ratio", finite(c.asymptotic_ratio)},
            {"asymptotic", c.asymptotic},
            {"uncertainty", finite(c.uncertainty)},
            {"rule", c.rule}};
}

}  // namespace

std::string shown_value(const QuantityValue& q, int digits) {
    return std::fabs(q.value) <= rounding_share * q.scale ? "0" : sensible(q.value, digits);
}

double relative_change(const QuantityValue& before, const QuantityValue& now) {
    return std::fabs(now.value) <= rounding_share * now.scale || now.value == 0
               ? NAN
               : std::fabs(now.value - before.value) / std::fabs(now.value);
}

const QuantityVerdict* best_verdict(const StudyResult& result, std::size_t quantity) {
    const QuantityVerdict* best = nullptr;
    const auto rank = [](const QuantityVerdict& v) {
        const double band = v.convergence.uncertainty;
        return std::pair(v.verdict == Verdict::met ? 0 : 1, std::isfinite(band) ? band : INFINITY);
    };
    for (const auto& s : result.series) {
        if (quantity >= s.verdicts.size()) continue;
        const auto& v = s.verdicts[quantity];
        if (!best || rank(v) < rank(*best)) best = &v;
    }
    return best;
}

std::string study_verdict(const Study& study, const StudyResult& result) {
    std::size_t wanted = 0, met = 0;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto* v = best_verdict(result, q);
        if (!v || !v->has_target) continue;
        ++wanted;
        if (v->verdict == Verdict::met) ++met;
    }
    if (result.interrupted) return "Interrupted: the levels that were finished are shown.";
    std::string text = wanted == 0 ? "No quantity has a target."
                       : met == wanted
                           ? fmt::format("Grid independence is shown: {} met.",
                                         wanted == 1 ? "the target is" : fmt::format("all {} targets are", wanted))
                           : fmt::format("Grid independence is not shown: {} of {} targets met.", met, wanted);
    for (const auto& s : result.series)
        if (!s.target_met)
            text += fmt::format(" Series {} stopped short of its own target by {}.", s.name, s.stopped_by);
    return text;
}

ordered_json summary_json(const StudyAndPart& opened, const StudyResult& result) {
    const Study& study = opened.study;
    const Part& part = opened.part;
    ordered_json j{{"format", 1},
                   {"program", "dotsift " DOTSIFT_VERSION},
                   {"title", study.title},
                   {"verdict", study_verdict(study, result)},
                   {"all_targets_met", result.all_targets_met()},
                   {"interrupted", result.interrupted},
                   {"units",
                    {{"length", study.units.label(dimension::length)},
                     {"force", study.units.label(dimension::force)},
                     {"stress", study.units.label(dimension::stress)}}},
                   {"part",
                    {{"area", part.area()},
                     {"boundaries", part.boundary_names},
                     {"regions", part.regions},
                     {"low", pair(part.box.low)},
                     {"high", pair(part.box.high)}}}};
    for (const auto& item : opened.cleanup)
        j["part"]["cleanup"].push_back({{"what", item.what}, {"at", pair(item.at)}, {"done", item.done}});
    if (opened.original) j["part"]["area_as_drawn"] = opened.original->area();
    if (!result.failed_tries.empty()) j["tries"] = notes_on_retries(result.failed_tries, study, true);
    for (const auto& p : result.singular_places)
        j["singular_places"].push_back({{"at", pair(p.point.position)},
                                        {"cause", p.point.cause},
                                        {"exponent", p.point.exponent},
                                        {"of", p.point.of_potential ? "flux" : "stress"},
                                        {"shows", p.shows},
                                        {"advice", p.advice}});
    for (const auto& s : result.series) {
        ordered_json series{
            {"name", s.name}, {"kind", name_of(s.kind)}, {"stopped_by", s.stopped_by}, {"target_met", s.target_met}};
        for (const auto& l : s.levels) series["levels"].push_back(level_json(study, l));
        for (const auto& v : s.verdicts) series["verdicts"].push_back(verdict_json(v));
        j["series"].push_back(series);
    }
    return j;
}

std::string levels_csv(const Study& study, const StudyResult& result) {
    const std::string length = study.units.label(dimension::length);
    std::string text = fmt::format("series,level,{},nodes,elements,unknowns,estimated_error",
                                   csv_field(fmt::format("h [{}]", length)));
    if (study.error_bound) text += ",error_bound";
    if (study.exact_stress) text += ",true_error";
    for (const auto& q : study.quantities) {
        const std::string unit = unit_of(study, q);
        text += "," + csv_field(unit.empty() ? q.name : fmt::format("{} [{}]", q.name, unit)) + "," +
                csv_field(q.name + " change");
    }
    text += ",balance,seconds,peak_bytes\n";
    for (const auto& s : result.series) {
        for (std::size_t k = 0; k < s.levels.size(); ++k) {
            const Level& l = s.levels[k];
            text +=
                fmt::format("{},{},{},{},{},{},{}", csv_field(s.name), l.index, csv_number(l.mesh.characteristic_size),
                            l.mesh.nodes, l.mesh.elements, l.unknowns, csv_number(l.estimated_error));
            if (study.error_bound) text += "," + (l.error_bound ? csv_number(*l.error_bound) : "");
            if (study.exact_stress) text += "," + (l.true_error ? csv_number(l.true_error->relative()) : "");
            for (std::size_t q = 0; q < l.quantities.size(); ++q) {
                text += "," + csv_number(l.quantities[q].value) + "," +
                        (k > 0 ? csv_number(relative_change(s.levels[k - 1].quantities[q], l.quantities[q])) : "");
            }
            double seconds = 0, peak = 0;
            for (const auto& c : l.costs) {
                seconds += c.seconds;
                peak = std::max(peak, c.peak_bytes);
            }
            text +=
                fmt::format(",{},{},{}\n", csv_number(l.balance.relative_error), csv_number(seconds), csv_number(peak));
        }
    }
    return text;
}

}  // namespace dotsift
