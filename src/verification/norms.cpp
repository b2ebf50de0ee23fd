#include "verification/norms.hpp"

#include <algorithm>
#include <cmath>

#include "recovery/recover.hpp"

namespace dotsift {

namespace {

/// A formula of the study's variables U and V, which are the exponentials of the manufactured solutions.
FormulaEvaluator evaluator(const Manufactured& known, const std::string& text) {
    Formula f;
    f.source = f.text = text;
    // The variables' definitions stand in the text as NAME = "formula".
    for (const std::string name : {"U", "V"}) {
        const auto at = known.text.find("\n" + name + " = \"");
        if (at == std::string::npos) continue;
        const auto begin = at + name.size() + 5;
        f.text = replace_identifier(f.text, name, known.text.substr(begin, known.text.find('"', begin) - begin));
    }
    return {f, "code verification"};
}

}  // namespace

ErrorNorms error_norms(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s,
                       const Manufactured& known) {
    constexpr int degree = 6;
    double error2 = 0, energy2 = 0, gap2 = 0, size2 = 0, recovered2 = 0, largest = 0, largest_known = 0;
    std::vector<FormulaEvaluator> value, field;
    const bool elastic = !known.ux.empty();
    if (elastic) {
        for (const auto& t : {known.ux, known.uy}) value.push_back(evaluator(known, t));
        for (const auto& t : {known.sxx, known.syy, known.sxy, known.szz}) field.push_back(evaluator(known, t));
    } else {
        value.push_back(evaluator(known, known.potential));
        for (const auto& t : {known.qx, known.qy}) field.push_back(evaluator(known, t));
    }
    const auto stress = elastic ? recover_stress(mesh, study, laws, s) : RecoveredStress{};
    const auto flux = elastic ? RecoveredFlux{} : recover_flux(mesh, study, laws, s);
    const auto note = [&](double own, double truth) {
        largest = std::max(largest, std::fabs(own - truth));
        largest_known = std::max(largest_known, std::fabs(truth));
    };
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const RegionLaw& law = laws.of(mesh.region[e]);
        for (const auto& q : tabulated(mesh.kinds[e], quadrature(mesh.kinds[e], degree))) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            const FormulaPlace place{p.position, {}, {}};
            if (elastic) {
                Vec2 u;
                for (std::size_t i = 0; i < mesh.element(e).size(); ++i)
                    u += s.displacement[static_cast<std::size_t>(mesh.element(e)[i])] * p.n[i];
                const Vec2 exact{{value[0](place), value[1](place)}};
                gap2 += w * dot(u - exact, u - exact);
                size2 += w * dot(exact, exact);
                const Stress own = stress_at(mesh, laws, s, e, p), smooth = stress.at(mesh, laws, s, e, p);
                Stress truth{}, a{}, b{};
                for (std::size_t c = 0; c < 4; ++c) {
                    truth[c] = field[c](place);
                    a[c] = own[c] - truth[c];
                    b[c] = smooth[c] - truth[c];
                    note(own[c], truth[c]);
                }
                error2 += w * law.elastic.energy_norm2(a);
                recovered2 += w * law.elastic.energy_norm2(b);
                energy2 += w * law.elastic.energy_norm2(truth);
            } else {
                const double exact = value[0](place), gap = slot_value(mesh, s.potential, e, p) - exact;
                gap2 += w * gap * gap;
                size2 += w * exact * exact;
                const Vec2 truth{{field[0](place), field[1](place)}};
                const Vec2 own = flux_at(mesh, laws, s, e, p), smooth = flux.at(mesh, laws, e, p);
                for (std::size_t c = 0; c < 2; ++c) note(own[c], truth[c]);
                error2 += w * law.conduction.energy_norm2(own - truth);
                recovered2 += w * law.conduction.energy_norm2(smooth - truth);
                energy2 += w * law.conduction.energy_norm2(truth);
            }
        }
    }
    return {std::sqrt(error2 / energy2), std::sqrt(gap2 / size2), std::sqrt(recovered2 / energy2),
            largest / largest_known};
}

}  // namespace dotsift
