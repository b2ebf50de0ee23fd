#include "series/judgement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "statistics/combined.hpp"

namespace dotsift {

namespace {

/// Of the places that a quantity feels, as far as they show in its load case; the temperature is not felt by the places
/// of the stress. A formula may be made of any case.
double least_exponent(const QuantitySpec& quantity, const std::string& load_case,
                      const std::vector<SingularPlace>& places) {
    double least = 1;
    for (const auto& p : places) {
        if (!p.point.of_potential && !quantity.formula && is_of_potential(quantity.field)) continue;
        for (std::size_t k = 0; k < p.shows_in.size(); ++k)
            if (p.woken[k] > 0 && (quantity.formula || p.shows_in[k] == load_case)) least = std::min(least, p.woken[k]);
    }
    return least;
}

}  // namespace

int least_degree(const Topology& mesh) {
    int degree = polynomial_degree(mesh.kinds.front());
    for (const auto kind : mesh.kinds) degree = std::min(degree, polynomial_degree(kind));
    return degree;
}

namespace {

const std::string& case_of(const QuantitySpec& quantity, const Level& level) {
    const auto name = [&](const auto& cases) -> const std::string& {
        return cases[place_of_case(cases, quantity.load_case)].solution.load_case;
    };
    return level.solid ? name(level.solid->cases) : name(level.fields->cases);
}

}  // namespace

std::vector<SingularPlace> places_of(const Study& study, const Level& level, const SingularPoints& singular) {
    return level.solid ? singular_places(study, *level.solid, singular.list)
                       : singular_places(study, *level.fields, singular.list, singular.near);
}

QuantityEvidence evidence_of(const Study& study, SeriesKind kind, std::span<const Level> levels, std::size_t q,
                             const std::vector<SingularPlace>& places) {
    const auto& quantity = study.quantities[q];
    const Level& last = levels.back();
    QuantityEvidence evidence;
    evidence.series = last.series;
    evidence.unit = unit_of(study, quantity);
    evidence.measure = kind_of_quantity(quantity);
    evidence.kind = kind;
    for (const auto& l : levels) {
        evidence.terms = std::max(evidence.terms, l.quantities[q].scale);
        if (!evidence.levels.empty() && l.mesh.characteristic_size >= evidence.levels.back().h) continue;
        evidence.levels.push_back({l.mesh.characteristic_size, l.quantities[q].value});
        evidence.estimated_errors.push_back(l.estimated_error);
        evidence.unseen_errors.push_back(l.unseen_error);
    }
    const double exponent = least_exponent(quantity, case_of(quantity, last), places);
    const int degree = least_degree(topology_of(last));
    evidence.smooth = exponent >= 1;
    evidence.expected_order = kind == SeriesKind::adaptive
                                  ? graded_order(quantity, degree, exponent, last.solid != nullptr)
                                  : expected_order(quantity, degree, exponent);
    if (const auto& goal = last.goals[q]) {
        evidence.dual_error = goal->error;
        evidence.dual_radius = goal->radius;
        // The mean over a disc that stands for a point is another quantity; of others the value may differ as well.
        if (goal->radius == 0) evidence.dual_error = goal->corrected() - evidence.levels.back().value;
    }
    evidence.degree = least_degree(topology_of(last));
    evidence.quadrilaterals = static_cast<double>(last.mesh.quadrilaterals) / static_cast<double>(last.mesh.elements);
    evidence.spread = last.quantities[q].spread;
    if (kind == SeriesKind::local)
        evidence.caution =
            "Only what the rules name became finer: the error that the rest of the mesh makes is not seen.";
    return evidence;
}

namespace {

/// Of every quantity, with what is infinite.
std::vector<QuantityEvidence> evidence_of_all(const Study& study, const SeriesResult& done,
                                              const SingularPoints& singular) {
    const Level& last = done.levels.back();
    const auto places = places_of(study, last, singular);
    std::vector<QuantityEvidence> out;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto& quantity = study.quantities[q];
        QuantityEvidence evidence = evidence_of(study, done.kind, done.levels, q, places);
        const auto behaviour = judge_convergence(evidence.levels, evidence.expected_order, evidence.terms).behaviour;
        const bool grows = behaviour == Behaviour::diverging;
        evidence.unbounded =
            last.solid ? why_unbounded<3>(quantity, last.quantities[q], *last.solid, places, singular.near, grows)
                       : why_unbounded<2>(quantity, last.quantities[q], *last.fields, places, singular.near, grows);
        out.push_back(std::move(evidence));
    }
    return out;
}

/// Formulas of quantities that have no limit have none; quantities use those above them only.
void spread_to_formulas(const Study& study, std::vector<QuantityEvidence>& evidence) {
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto& formula = study.quantities[q].formula;
        if (!formula || !evidence[q].unbounded.empty()) continue;
        const auto used = identifiers(formula->text);
        for (std::size_t other = 0; other < q; ++other) {
            const auto& name = study.quantities[other].name;
            if (!evidence[other].unbounded.empty() && std::find(used.begin(), used.end(), name) != used.end())
                evidence[q].unbounded =
                    fmt::format("it is made of {}, which does not: {}", name, evidence[other].unbounded);
        }
    }
}

std::vector<QuantityVerdict> verdicts_of(const Study& study, const std::vector<QuantityEvidence>& evidence) {
    std::vector<QuantityVerdict> verdicts;
    for (std::size_t q = 0; q < evidence.size(); ++q)
        verdicts.push_back(judge_quantity(study.quantities[q], evidence[q]));
    return verdicts;
}

}  // namespace

std::vector<QuantityVerdict> judge(const Study& study, const SeriesResult& done, const SingularPoints& singular) {
    auto evidence = evidence_of_all(study, done, singular);
    spread_to_formulas(study, evidence);
    return verdicts_of(study, evidence);
}

void judge_all(const Study& study, std::vector<SeriesResult>& series, const SingularPoints& singular) {
    std::vector<std::vector<QuantityEvidence>> all;
    all.reserve(series.size());
    for (const auto& s : series)
        all.push_back(s.levels.empty() ? std::vector<QuantityEvidence>() : evidence_of_all(study, s, singular));
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        std::string why;
        for (const auto& evidence : all)
            if (!evidence.empty() && why.empty()) why = evidence[q].unbounded;
        for (auto& evidence : all)
            if (!evidence.empty() && evidence[q].unbounded.empty()) evidence[q].unbounded = why;
    }
    for (std::size_t k = 0; k < series.size(); ++k) {
        if (all[k].empty()) continue;
        spread_to_formulas(study, all[k]);
        series[k].verdicts = verdicts_of(study, all[k]);
    }
}

std::vector<QuantityVerdict> headline_of(const Study& study, const std::vector<SeriesResult>& series) {
    std::vector<QuantityVerdict> out;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        std::vector<QuantityVerdict> all;
        for (const auto& s : series)
            if (q < s.verdicts.size()) all.push_back(s.verdicts[q]);
        if (!all.empty()) out.push_back(combined_verdict(study.quantities[q], all));
    }
    return out;
}

}  // namespace dotsift
