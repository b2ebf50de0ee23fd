#include "evidence/summary.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/meshing_notes.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

ordered_json finite(double v) {
    return std::isfinite(v) ? ordered_json(v) : ordered_json(nullptr);
}
ordered_json pair(const Vec2& v) {
    return ordered_json::array({v[0], v[1]});
}

/// A field of CSV, quoted where it must be.
std::string field(const std::string& text) {
    if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"') out += '"';
        out += c;
    }
    return out + "\"";
}

std::string exact(double v) {
    return std::isfinite(v) ? fmt::format("{:.17g}", v) : "";
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

/// Largest and smallest nodal values of what was solved for.
ordered_json extremes_json(const Study& study, const FieldSource& source) {
    std::vector<Field> fields;
    if (study.elastic())
        fields = {Field::displacement, Field::von_mises, Field::max_principal, Field::min_principal, Field::max_shear};
    if (study.conducts()) fields.insert(fields.end(), {Field::potential, Field::flux});
    ordered_json list = ordered_json::array();
    for (const auto f : fields) {
        const auto values = slot_field(f, source);
        const auto [low, high] = std::minmax_element(values.begin(), values.end());
        const auto place = [&](auto at) {
            return pair(source.mesh.nodes[static_cast<std::size_t>(
                source.mesh.node_of_slot[static_cast<std::size_t>(at - values.begin())])]);
        };
        list.push_back({{"field", name_of(f)},
                        {"unit", unit_of(study, f)},
                        {"smallest", *low},
                        {"smallest_at", place(low)},
                        {"largest", *high},
                        {"largest_at", place(high)}});
    }
    return list;
}

ordered_json cases_json(const Study& study, const LevelFields& fields) {
    ordered_json list = ordered_json::array();
    for (std::size_t k = 0; k < fields.cases.size(); ++k) {
        const Solution& s = fields.cases[k].solution;
        ordered_json c{{"name", s.load_case}};
        if (study.elastic()) c["strain_energy"] = s.strain_energy;
        if (study.conducts()) c["dissipation"] = s.dissipation;
        c["extremes"] = extremes_json(study, fields.source(k));
        for (const auto& r : s.reactions) {
            ordered_json reaction{{"name", r.name}, {"force", pair(r.force)}, {"moment", r.moment}};
            if (study.conducts()) reaction["flow"] = r.flow;
            c["reactions"].push_back(reaction);
        }
        for (const auto& m : s.remotes)
            c["remote_points"].push_back({{"name", m.name}, {"displacement", pair(m.displacement)}, {"turn", m.turn}});
        list.push_back(c);
    }
    return list;
}

/// Which share of the squared error lies in each region, and in the elements along each named boundary.
ordered_json error_shares(const LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const auto& error2 = fields.error.element_error2;
    ordered_json list = ordered_json::array();
    if (!(fields.error.error2 > 0)) return list;
    std::vector<double> of_region(mesh.region_names.size(), 0.0);
    for (std::size_t e = 0; e < error2.size(); ++e) of_region[static_cast<std::size_t>(mesh.region[e])] += error2[e];
    for (std::size_t r = 0; r < of_region.size(); ++r)
        list.push_back({{"region", mesh.region_names[r]}, {"share", of_region[r] / fields.error.error2}});
    // An element counts for a boundary if a node of it lies there.
    for (const auto& name : mesh.boundary_names) {
        std::vector<char> on(mesh.nodes.size(), 0);
        for (const auto& side : mesh.boundary)
            if (mesh.side_fits(side, {name}))
                for (std::size_t i = 0; i < side.count(); ++i) on[static_cast<std::size_t>(side.nodes[i])] = 1;
        double sum = 0;
        for (std::size_t e = 0; e < error2.size(); ++e) {
            const auto nodes = mesh.element(e);
            if (std::any_of(nodes.begin(), nodes.end(), [&](auto n) { return on[static_cast<std::size_t>(n)]; }))
                sum += error2[e];
        }
        list.push_back({{"boundary", name}, {"share", sum / fields.error.error2}});
    }
    return list;
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

ordered_json level_json(const Study& study, const Part& part, const Level& l) {
    ordered_json j{{"series", l.series},
                   {"level", l.index},
                   {"h", l.mesh.characteristic_size},
                   {"nodes", l.mesh.nodes},
                   {"elements", l.mesh.elements},
                   {"unknowns", l.unknowns},
                   {"area", l.mesh.area},
                   {"mean_quality", l.mesh.mean_quality},
                   {"worst_quality", l.mesh.worst_quality},
                   {"smallest_angle", l.mesh.smallest_angle},
                   {"estimated_error", l.estimated_error}};
    const auto notes = meshing_notes(l, study, part);
    if (!notes.empty()) j["meshing"] = notes;
    if (l.true_error) {
        j["true_error"] = l.true_error->relative();
        j["effectivity"] = l.true_error->error2 > 0 ? std::sqrt(l.fields->error.error2 / l.true_error->error2) : 0.0;
    }
    for (std::size_t q = 0; q < l.quantities.size(); ++q) {
        ordered_json value{{"name", l.quantities[q].name},
                           {"value", l.quantities[q].value},
                           {"unit", unit_of(study, study.quantities[q])}};
        if (l.quantities[q].position) value["position"] = pair(*l.quantities[q].position);
        if (q < l.goals.size() && l.goals[q]) {
            const GoalEstimate& g = *l.goals[q];
            value["dual"] = {
                {"value", g.value}, {"error", g.error}, {"corrected", g.corrected()}, {"half_width", g.half_width}};
            if (g.radius > 0) value["dual"]["mean_over_radius"] = g.radius;
        } else if (study.quantities[q].dual) {
            value["dual"] = nullptr;
        }
        j["quantities"].push_back(value);
    }
    for (const auto& t : l.loads) {
        ordered_json load{{"name", t.name}, {"force", pair(t.force)}, {"moment", t.moment}, {"area", t.boundary_area}};
        if (study.conducts()) load["flow"] = t.flow;
        j["loads"].push_back(load);
    }
    for (const auto& r : l.reactions) {
        ordered_json reaction{{"name", r.name}, {"force", pair(r.force)}, {"moment", r.moment}};
        if (study.conducts()) reaction["flow"] = r.flow;
        j["reactions"].push_back(reaction);
    }
    if (l.fields) {
        j["error_shares"] = error_shares(*l.fields);
        j["cases"] = cases_json(study, *l.fields);
    }
    j["balance"] = {{"applied", pair(l.balance.applied)},
                    {"reaction", pair(l.balance.reaction)},
                    {"applied_moment", l.balance.applied_moment},
                    {"reaction_moment", l.balance.reaction_moment},
                    {"relative_error", l.balance.relative_error}};
    j["solver"] = {{"factor_bytes", l.factor_bytes}, {"residual", l.residual}};
    for (const auto& c : l.costs)
        j["cost"].push_back({{"stage", c.stage}, {"seconds", c.seconds}, {"peak_bytes", c.peak_bytes}});
    return j;
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
    for (const auto& s : result.series) {
        ordered_json series{
            {"name", s.name}, {"kind", name_of(s.kind)}, {"stopped_by", s.stopped_by}, {"target_met", s.target_met}};
        for (const auto& l : s.levels) series["levels"].push_back(level_json(study, part, l));
        for (const auto& v : s.verdicts) series["verdicts"].push_back(verdict_json(v));
        j["series"].push_back(series);
    }
    return j;
}

std::string levels_csv(const Study& study, const StudyResult& result) {
    const std::string length = study.units.label(dimension::length);
    std::string text =
        fmt::format("series,level,{},nodes,elements,unknowns,estimated_error", field(fmt::format("h [{}]", length)));
    if (study.exact_stress) text += ",true_error";
    for (const auto& q : study.quantities) {
        const std::string unit = unit_of(study, q);
        text +=
            "," + field(unit.empty() ? q.name : fmt::format("{} [{}]", q.name, unit)) + "," + field(q.name + " change");
    }
    text += ",balance,seconds,peak_bytes\n";
    for (const auto& s : result.series) {
        for (std::size_t k = 0; k < s.levels.size(); ++k) {
            const Level& l = s.levels[k];
            text += fmt::format("{},{},{},{},{},{},{}", field(s.name), l.index, exact(l.mesh.characteristic_size),
                                l.mesh.nodes, l.mesh.elements, l.unknowns, exact(l.estimated_error));
            if (study.exact_stress) text += "," + (l.true_error ? exact(l.true_error->relative()) : "");
            for (std::size_t q = 0; q < l.quantities.size(); ++q) {
                text += "," + exact(l.quantities[q].value) + "," +
                        (k > 0 ? exact(relative_change(s.levels[k - 1].quantities[q], l.quantities[q])) : "");
            }
            double seconds = 0, peak = 0;
            for (const auto& c : l.costs) {
                seconds += c.seconds;
                peak = std::max(peak, c.peak_bytes);
            }
            text += fmt::format(",{},{},{}\n", exact(l.balance.relative_error), exact(seconds), exact(peak));
        }
    }
    return text;
}

}  // namespace dotsift
