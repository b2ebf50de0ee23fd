#include "evidence/summary.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/numbers.hpp"
#include "evidence/levels/csv.hpp"
#include "evidence/levels/json_values.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/statistics_files.hpp"
#include "series/meshing_notes.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

/// To two digits, as far as it is known.
long long rounded(double count) {
    const double unit = std::pow(10.0, std::max(std::floor(std::log10(std::max(count, 1.0))) - 1, 0.0));
    return std::llround(count / unit) * std::llround(unit);
}

/// " All 2 limits are kept.", " 1 of 3 limits is exceeded: peak."
std::string limits_in_words(const StudyResult& result) {
    std::size_t count = 0;
    std::map<LimitAnswer, std::vector<std::string>> by;
    for (const auto& v : result.headline)
        if (v.limit) {
            ++count;
            by[v.limit->answer].push_back(v.quantity);
        }
    if (count == 0) return "";
    const auto& outside = by[LimitAnswer::outside];
    const auto& undecided = by[LimitAnswer::undecided];
    if (outside.empty() && undecided.empty())
        return count == 1 ? " The limit is kept." : fmt::format(" All {} limits are kept.", count);
    std::string text;
    if (!outside.empty())
        text += count == 1 ? fmt::format(" The limit of {} is not kept.", outside.front())
                           : fmt::format(" {} of {} limits {} not kept: {}.", outside.size(), count,
                                         outside.size() == 1 ? "is" : "are", fmt::join(outside, ", "));
    if (!undecided.empty()) text += fmt::format(" Not decided is the limit of {}.", fmt::join(undecided, ", "));
    return text;
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

std::string study_verdict(const Study& study, const StudyResult& result) {
    std::size_t wanted = 0, met = 0;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto* v = best_verdict(result, q);
        if (!v || !v->has_target) continue;
        ++wanted;
        if (v->verdict == Verdict::met) ++met;
    }
    std::string text = wanted == 0 ? "No quantity has a target."
                       : met == wanted
                           ? fmt::format("Grid independence is shown: {} met.",
                                         wanted == 1 ? "the target is" : fmt::format("all {} targets are", wanted))
                           : fmt::format("Grid independence is not shown: {} of {} targets met.", met, wanted);
    text += limits_in_words(result);
    for (const auto& s : result.series)
        if (!s.target_met)
            text += fmt::format(" Series {} stopped short of its own target by {}.", s.name, s.stopped_by);
    return text;
}

std::vector<std::string> outlook_sentences(const Study& study, const StudyResult& result) {
    std::vector<std::string> out;
    std::int64_t most = 0;
    for (const auto& s : result.series)
        for (const auto& l : s.levels) most = std::max(most, l.unknowns);
    if (const Level* enough = recommended_level(study, result))
        out.push_back(
            fmt::format("The cheapest level that meets every target is level {} of series {}: {} unknowns, {} s{}.",
                        enough->index, enough->series, grouped(enough->unknowns), sensible(seconds_of(*enough), 2),
                        enough->unknowns < most ? fmt::format(" (the finest has {})", grouped(most)) : ""));
    const bool missed = std::any_of(result.headline.begin(), result.headline.end(), [](const QuantityVerdict& v) {
        return v.has_target && v.verdict != Verdict::met && v.verdict != Verdict::unbounded;
    });
    for (const auto& s : result.series)
        if (missed && s.kind == SeriesKind::adaptive && s.by_target)
            out.push_back(
                fmt::format("Series {} ended by {}, before the targets of all quantities were met: set "
                            "until_quantities = true in it, or lower that target.",
                            s.name, s.stopped_by));
    for (std::size_t k = 0; k < result.series.size(); ++k) {
        const SeriesResult& s = result.series[k];
        const auto spec = std::find_if(study.series.begin(), study.series.end(),
                                       [&](const SeriesSpec& x) { return x.name == s.name; });
        if (spec == study.series.end()) continue;
        const auto next = next_level(*spec, s);
        if (!next) continue;
        // The quantity that matters most: of those with a target the one that is farthest from it.
        std::size_t chosen = s.verdicts.size();
        double farthest = -1;
        for (std::size_t q = 0; q < s.verdicts.size(); ++q) {
            if (!std::isfinite(next->half_widths[q]) || next->half_widths[q] == 0) continue;
            const double ratio = study.quantities[q].target
                                     ? s.verdicts[q].interval.half_width /
                                           study.quantities[q].target->allowed(s.verdicts[q].interval.value)
                                     : 0;
            if (ratio > farthest) {
                farthest = ratio;
                chosen = q;
            }
        }
        std::string text = fmt::format("Another level of series {} would have about {} unknowns and take about {} s",
                                       s.name, grouped(rounded(next->unknowns)), sensible(next->seconds, 1));
        if (chosen < s.verdicts.size())
            text += fmt::format("; {} would then be known to about ± {} (now ± {})", s.verdicts[chosen].quantity,
                                percent(next->half_widths[chosen]), percent(s.verdicts[chosen].interval.relative()));
        out.push_back(text + ".");
    }
    return out;
}

ordered_json shared_json(const std::vector<SharedMeasure>& shared) {
    ordered_json list = ordered_json::array();
    for (const auto& m : shared)
        list.push_back({{"measure", name_of(m.kind)},
                        {"name", m.name},
                        {"wanted", m.wanted},
                        {"largest_gap", m.worst},
                        {"on", m.level},
                        {"gap_on_finest", m.on_finest},
                        {"drifts", m.drifts()},
                        {"why", m.fault}});
    return list;
}

namespace {

ordered_json part_json(const StudyAndPart& opened) {
    if (opened.solid) {
        const SolidPart& s = *opened.solid;
        return {{"volume", measure(s).size},
                {"boundaries", s.boundary_names},
                {"regions", s.regions},
                {"low", {s.box.low[0], s.box.low[1], s.box.low[2]}},
                {"high", {s.box.high[0], s.box.high[1], s.box.high[2]}}};
    }
    const Part& part = opened.part;
    return {{"area", part.area()},
            {"boundaries", part.boundary_names},
            {"regions", part.regions},
            {"low", json_pair(part.box.low)},
            {"high", json_pair(part.box.high)}};
}

}  // namespace

ordered_json summary_json(const StudyAndPart& opened, const StudyResult& result) {
    const Study& study = opened.study;
    ordered_json j{{"format", 1},
                   {"program", "dotsift " DOTSIFT_VERSION},
                   {"title", study.title},
                   {"verdict", study_verdict(study, result)},
                   {"all_targets_met", result.all_targets_met()},
                   {"all_limits_kept", result.all_limits_kept()},
                   {"units",
                    {{"length", study.units.label(dimension::length)},
                     {"force", study.units.label(dimension::force)},
                     {"stress", study.units.label(dimension::stress)}}},
                   {"part", part_json(opened)}};
    for (const auto& item : opened.cleanup)
        j["part"]["cleanup"].push_back({{"what", item.what}, {"at", json_pair(item.at)}, {"done", item.done}});
    if (opened.original) j["part"]["area_as_drawn"] = opened.original->area();
    if (!result.failed_tries.empty()) j["tries"] = notes_on_retries(result.failed_tries, study, true);
    for (const auto& p : result.singular_places) {
        j["singular_places"].push_back({{"at", p.point.edges.empty() ? json_pair(p.point.position)
                                                                     : json_triple(p.point.edges.front().point(0.5))},
                                        {"cause", p.point.cause},
                                        {"exponent", p.point.exponent},
                                        {"of", p.point.of_potential ? "flux" : "stress"},
                                        {"shows", p.shows()},
                                        {"advice", p.advice}});
        if (!study.cases.empty()) j["singular_places"].back()["shows_in"] = p.shows_in;
    }
    if (const Level* enough = recommended_level(study, result))
        j["recommended"] = {{"series", enough->series}, {"level", enough->index}, {"unknowns", enough->unknowns}};
    j["headline"] = ordered_json::array();
    for (const auto& v : result.headline) {
        j["headline"].push_back(verdict_json(v));
        j["headline"].back()["series"] = v.series;
    }
    j["failures"] = ordered_json::array();
    for (const auto& e : result.failures) j["failures"].push_back({{"what", e.what()}, {"in", e.place().level}});
    j["shared"] = shared_json(result.shared);
    for (const auto& s : result.series) {
        ordered_json series{
            {"name", s.name}, {"kind", name_of(s.kind)}, {"stopped_by", s.stopped_by}, {"target_met", s.target_met}};
        for (const auto& l : s.levels) series["levels"].push_back(level_json(study, l));
        for (const auto& v : s.verdicts) series["verdicts"].push_back(verdict_json(v));
        const auto spec = std::find_if(study.series.begin(), study.series.end(),
                                       [&](const SeriesSpec& x) { return x.name == s.name; });
        if (const auto next = spec == study.series.end() ? std::nullopt : next_level(*spec, s)) {
            series["next_level"] = {{"unknowns", std::llround(next->unknowns)}, {"cost", {{"seconds", next->seconds}}}};
            for (std::size_t q = 0; q < next->half_widths.size(); ++q)
                series["next_level"]["quantities"].push_back(
                    {{"name", s.verdicts[q].quantity},
                     {"relative_uncertainty", std::isfinite(next->half_widths[q]) ? ordered_json(next->half_widths[q])
                                                                                  : ordered_json(nullptr)}});
        }
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
            text += fmt::format(",{},{},{}\n", csv_number(l.balance.relative_error), csv_number(seconds_of(l)),
                                csv_number(peak_bytes_of(l)));
        }
    }
    return text;
}

std::string levels_markdown(const Study& study, const StudyResult& result) {
    std::string text = fmt::format("# {}\n\n{}\n\n", study.title, study_verdict(study, result));
    for (std::size_t q = 0; q < study.quantities.size(); ++q)
        if (const auto* v = best_verdict(result, q)) text += fmt::format("- {} Series {}.\n", v->sentence, v->series);
    for (const auto& s : result.series) {
        std::vector<std::vector<std::string>> rows{
            {"level", "h " + study.units.label(dimension::length), "elements", "unknowns", "estimated error"}};
        for (const auto& q : study.quantities) {
            const std::string unit = unit_of(study, q);
            rows[0].push_back(fmt::format("{}{}{}", q.name, unit.empty() ? "" : " ", unit));
            rows[0].emplace_back("change");
        }
        for (std::size_t k = 0; k < s.levels.size(); ++k) {
            const Level& l = s.levels[k];
            std::vector<std::string> row{std::to_string(l.index), sensible(l.mesh.characteristic_size),
                                         grouped(static_cast<long long>(l.mesh.elements)), grouped(l.unknowns),
                                         percent(l.estimated_error)};
            for (std::size_t q = 0; q < l.quantities.size(); ++q) {
                row.push_back(shown_value(l.quantities[q], 6));
                const double change = k > 0 ? relative_change(s.levels[k - 1].quantities[q], l.quantities[q]) : NAN;
                row.push_back(std::isnan(change) ? "" : percent(change));
            }
            rows.push_back(std::move(row));
        }
        text += fmt::format("\n## Series {}\n\n{}\nStopped by {}.\n", s.name, markdown_table(rows), s.stopped_by);
        if (!s.verdicts.empty()) text += "\n" + markdown_table(statistics_rows(s.verdicts));
    }
    return text;
}

}  // namespace dotsift
