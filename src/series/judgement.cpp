#include "series/judgement.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

/// Of the places that a quantity feels; the temperature is not felt by the places of the stress.
double least_exponent(const QuantitySpec& quantity, const std::vector<SingularPoint>& points) {
    double least = 1;
    for (const auto& p : points)
        if (p.exponent > 0 && (p.of_potential || quantity.formula || !is_of_potential(quantity.field)))
            least = std::min(least, p.exponent);
    return least;
}

int least_degree(const Mesh& mesh) {
    int degree = polynomial_degree(mesh.kinds.front());
    for (const auto kind : mesh.kinds) degree = std::min(degree, polynomial_degree(kind));
    return degree;
}

}  // namespace

QuantityEvidence evidence_of(const Study& study, SeriesKind kind, std::span<const Level> levels, std::size_t q,
                             const std::vector<SingularPoint>& singular) {
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
    }
    // Adaptive meshes are graded towards singular points, which takes back what these cost.
    const double exponent = least_exponent(quantity, singular);
    evidence.smooth = exponent >= 1;
    evidence.expected_order =
        expected_order(quantity, least_degree(last.fields->mesh), kind == SeriesKind::adaptive ? 1 : exponent);
    if (const auto& goal = last.goals[q]) {
        evidence.dual_error = goal->error;
        evidence.dual_radius = goal->radius;
        // The mean over a disc that stands for a point is another quantity; of others the value may differ as well.
        if (goal->radius == 0) evidence.dual_error = goal->corrected() - evidence.levels.back().value;
    }
    evidence.spread = last.quantities[q].spread;
    evidence.gap = last.quantities[q].gap;
    if (kind == SeriesKind::local)
        evidence.caution =
            "Only what the rules name became finer: the error that the rest of the mesh makes is not seen.";
    return evidence;
}

std::vector<QuantityVerdict> judge(const Study& study, const SeriesResult& done, const SingularPoints& singular) {
    const Level& last = done.levels.back();
    const LevelFields& finest = *last.fields;
    const auto places = singular_places(study, finest, singular.list, singular.near);
    std::vector<QuantityVerdict> verdicts;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto& quantity = study.quantities[q];
        QuantityEvidence evidence = evidence_of(study, done.kind, done.levels, q, singular.list);
        const auto behaviour = judge_convergence(evidence.levels, evidence.expected_order, evidence.terms).behaviour;
        evidence.unbounded = why_unbounded(quantity, last.quantities[q], finest, places, singular.near,
                                           behaviour == Behaviour::diverging);
        verdicts.push_back(judge_quantity(quantity, evidence));
    }
    return verdicts;
}

}  // namespace dotsift
