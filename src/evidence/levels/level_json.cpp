#include "evidence/levels/level_json.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "evidence/levels/json_values.hpp"
#include "evidence/report/error_shares.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

double number(const ordered_json& j) {
    return j.is_null() ? NAN : j.get<double>();
}
Vec2 vector(const ordered_json& j) {
    return {{number(j.at(0)), number(j.at(1))}};
}

/// Of a plane part two components, and moments are one number.
ordered_json json_vector(const Vec3& v, const Study& study) {
    return study.solid() ? ordered_json{v[0], v[1], v[2]} : json_pair(in_plane(v));
}
ordered_json json_moment(const Vec3& m, const Study& study) {
    return study.solid() ? ordered_json{m[0], m[1], m[2]} : ordered_json(m[2]);
}
Vec3 vector_from(const ordered_json& j) {
    return j.size() == 2 ? in_space(vector(j)) : Vec3{{number(j.at(0)), number(j.at(1)), number(j.at(2))}};
}
Vec3 moment_from(const ordered_json& j) {
    return j.is_array() ? vector_from(j) : moment_in_space(number(j));
}

ordered_json load_json(const LoadTotal& t, const Study& study) {
    ordered_json j{{"name", t.name},
                   {"force", json_vector(t.force, study)},
                   {"moment", json_moment(t.moment, study)},
                   {"area", t.boundary_area},
                   {"magnitude", t.magnitude}};
    if (study.conducts()) j["flow"] = t.flow;
    return j;
}
LoadTotal load_from(const ordered_json& j) {
    return {j.at("name"),         vector_from(j.at("force")), moment_from(j.at("moment")),
            j.value("flow", 0.0), number(j.at("area")),       number(j.at("magnitude"))};
}

ordered_json reaction_json(const SupportReaction& r, const Study& study) {
    ordered_json j{{"name", r.name}, {"force", json_vector(r.force, study)}, {"moment", json_moment(r.moment, study)}};
    if (study.conducts()) j["flow"] = r.flow;
    return j;
}
SupportReaction reaction_from(const ordered_json& j) {
    return {j.at("name"), vector_from(j.at("force")), moment_from(j.at("moment")), j.value("flow", 0.0)};
}

ordered_json balance_json(const LoadBalance& b, const Study& study) {
    ordered_json j{{"applied", json_vector(b.applied, study)},
                   {"reaction", json_vector(b.reaction, study)},
                   {"applied_moment", json_moment(b.applied_moment, study)},
                   {"reaction_moment", json_moment(b.reaction_moment, study)},
                   {"relative_error", b.relative_error},
                   {"magnitude", b.magnitude}};
    if (study.conducts()) {
        j["applied_flow"] = b.applied_flow;
        j["reaction_flow"] = b.reaction_flow;
        j["flow_magnitude"] = b.flow_magnitude;
    }
    return j;
}
LoadBalance balance_from(const ordered_json& j) {
    LoadBalance b;
    b.applied = vector_from(j.at("applied"));
    b.reaction = vector_from(j.at("reaction"));
    b.applied_moment = moment_from(j.at("applied_moment"));
    b.reaction_moment = moment_from(j.at("reaction_moment"));
    b.relative_error = number(j.at("relative_error"));
    b.magnitude = number(j.at("magnitude"));
    b.applied_flow = j.value("applied_flow", 0.0);
    b.reaction_flow = j.value("reaction_flow", 0.0);
    b.flow_magnitude = j.value("flow_magnitude", 0.0);
    return b;
}

/// Largest and smallest nodal values of what was solved for.
template <int D>
ordered_json extremes_json(const Study& study, const FieldSourceIn<D>& source) {
    std::vector<Field> fields;
    if (study.elastic())
        fields = {Field::displacement, Field::von_mises, Field::max_principal, Field::min_principal, Field::max_shear};
    if (study.conducts()) fields.insert(fields.end(), {Field::potential, Field::flux});
    ordered_json list = ordered_json::array();
    for (const auto f : fields) {
        const auto values = slot_field(f, source);
        const auto [low, high] = std::minmax_element(values.begin(), values.end());
        const auto place = [&](auto at) {
            return json_vector(in_space(source.mesh.nodes[static_cast<std::size_t>(
                                   source.mesh.node_of_slot[static_cast<std::size_t>(at - values.begin())])]),
                               study);
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

template <int D>
ordered_json cases_json(const Study& study, const LevelFieldsIn<D>& fields) {
    const bool conducts = study.conducts();
    ordered_json list = ordered_json::array();
    for (std::size_t k = 0; k < fields.cases.size(); ++k) {
        const SolutionIn<D>& s = fields.cases[k].solution;
        ordered_json c{{"name", s.load_case}};
        if (study.elastic()) c["strain_energy"] = s.strain_energy;
        if (conducts) c["dissipation"] = s.dissipation;
        c["extremes"] = extremes_json(study, fields.source(k));
        for (const auto& t : s.loads) c["loads"].push_back(load_json(t, study));
        for (const auto& r : s.reactions) c["reactions"].push_back(reaction_json(r, study));
        if constexpr (D == 2) {
            for (const auto& m : s.remotes)
                c["remote_points"].push_back(
                    {{"name", m.name}, {"displacement", json_pair(m.displacement)}, {"turn", m.turn}});
            if (study.plane == Plane::generalised_strain)
                c["axial_strain"] = {
                    {"mean", s.axial.e}, {"tilt", json_pair(s.axial.tilt)}, {"centre", json_pair(s.axial.centre)}};
        }
        c["balance"] = balance_json(s.balance, study);
        c["unknowns"] = s.unknowns;
        c["solver"] = {{"method", s.solver.method},
                       {"steps", s.solver.steps},
                       {"factor_bytes", s.solver.factor_bytes},
                       {"residual", s.solver.residual}};
        list.push_back(c);
    }
    return list;
}

Solution solution_from(const ordered_json& j) {
    Solution s;
    s.load_case = j.at("name");
    s.strain_energy = j.value("strain_energy", 0.0);
    s.dissipation = j.value("dissipation", 0.0);
    if (j.contains("loads"))
        for (const auto& l : j.at("loads")) s.loads.push_back(load_from(l));
    if (j.contains("reactions"))
        for (const auto& r : j.at("reactions")) s.reactions.push_back(reaction_from(r));
    if (j.contains("remote_points"))
        for (const auto& m : j.at("remote_points"))
            s.remotes.push_back({m.at("name"), vector(m.at("displacement")), number(m.at("turn"))});
    if (j.contains("axial_strain")) {
        const auto& a = j.at("axial_strain");
        s.axial = {number(a.at("mean")), vector(a.at("tilt")), vector(a.at("centre"))};
    }
    s.balance = balance_from(j.at("balance"));
    s.unknowns = j.at("unknowns");
    const auto& solver = j.at("solver");
    s.solver.method = solver.at("method");
    s.solver.steps = solver.at("steps");
    s.solver.factor_bytes = number(solver.at("factor_bytes"));
    s.solver.residual = number(solver.at("residual"));
    return s;
}

}  // namespace

ordered_json level_json(const Study& study, const Level& l) {
    ordered_json j{{"series", l.series},
                   {"level", l.index},
                   {"h", l.mesh.characteristic_size},
                   {"nodes", l.mesh.nodes},
                   {"elements", l.mesh.elements},
                   {"unknowns", l.unknowns},
                   {study.solid() ? "volume" : "area", l.mesh.measure},
                   {"mean_quality", l.mesh.mean_quality},
                   {"worst_quality", l.mesh.worst_quality},
                   {"smallest_angle", l.mesh.smallest_angle},
                   {"estimated_error", l.estimated_error},
                   {"unseen_error", l.unseen_error}};
    if (!l.notes.empty()) j["meshing"] = l.notes;
    if (l.error_bound) j["error_bound"] = *l.error_bound;
    if (l.true_error) {
        j["true_error"] = l.true_error->relative();
        j["true_error_squared"] = l.true_error->error2;
        j["true_energy_squared"] = l.true_error->energy2;
        j["effectivity"] = effectivity(l).value_or(0);
    }
    for (std::size_t q = 0; q < l.quantities.size(); ++q) {
        ordered_json value{{"name", l.quantities[q].name},
                           {"value", l.quantities[q].value},
                           {"unit", unit_of(study, study.quantities[q])},
                           {"scale", l.quantities[q].scale}};
        if (l.quantities[q].position) value["position"] = json_vector(*l.quantities[q].position, study);
        if (std::isfinite(l.quantities[q].spread)) value["spread"] = l.quantities[q].spread;
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
    for (const auto& t : l.loads) j["loads"].push_back(load_json(t, study));
    for (const auto& r : l.reactions) j["reactions"].push_back(reaction_json(r, study));
    if (l.fields || l.solid) {
        const ErrorMap& error = errors_of(l);
        j["error_squared"] = error.error2;
        j["energy_squared"] = error.energy2;
        j["error_shares"] = ordered_json::array();
        for (const auto& e : error_shares(l))
            j["error_shares"].push_back({{e.of_boundary ? "boundary" : "region", e.name}, {"share", e.share}});
        j["cases"] = l.solid ? cases_json(study, *l.solid) : cases_json(study, *l.fields);
    }
    j["balance"] = balance_json(l.balance, study);
    j["solver"] = {{"factor_bytes", l.factor_bytes}, {"residual", l.residual}};
    for (const auto& c : l.costs)
        j["cost"].push_back({{"stage", c.stage}, {"seconds", c.seconds}, {"peak_bytes", c.peak_bytes}});
    return j;
}

StoredNumbers numbers_from(const ordered_json& j, const Study& study) {
    StoredNumbers out;
    Level& l = out.level;
    l.series = j.at("series");
    l.index = j.at("level");
    if (j.contains("meshing")) l.notes = j.at("meshing").get<std::vector<std::string>>();
    l.estimated_error = number(j.at("estimated_error"));
    if (j.contains("unseen_error")) l.unseen_error = number(j.at("unseen_error"));
    if (j.contains("error_bound")) l.error_bound = number(j.at("error_bound"));
    if (j.contains("true_error_squared"))
        l.true_error = TrueError{number(j.at("true_error_squared")), number(j.at("true_energy_squared")), {}};
    l.unknowns = j.at("unknowns");
    l.goals.resize(study.quantities.size());
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const ordered_json* stored = nullptr;
        if (j.contains("quantities"))
            for (const auto& v : j.at("quantities"))
                if (v.at("name") == study.quantities[q].name) stored = &v;
        if (!stored) throw std::out_of_range("no quantity " + study.quantities[q].name);
        QuantityValue value{study.quantities[q].name, number(stored->at("value")), number(stored->at("scale")), {}};
        if (stored->contains("position")) value.position = vector_from(stored->at("position"));
        if (stored->contains("spread")) value.spread = number(stored->at("spread"));
        l.quantities.push_back(value);
        if (!stored->contains("dual") || stored->at("dual").is_null()) continue;
        const auto& dual = stored->at("dual");
        l.goals[q] = GoalEstimate{number(dual.at("value")),
                                  number(dual.at("error")),
                                  number(dual.at("half_width")),
                                  dual.value("mean_over_radius", 0.0),
                                  {}};
    }
    if (j.contains("loads"))
        for (const auto& t : j.at("loads")) l.loads.push_back(load_from(t));
    if (j.contains("reactions"))
        for (const auto& r : j.at("reactions")) l.reactions.push_back(reaction_from(r));
    l.balance = balance_from(j.at("balance"));
    l.factor_bytes = number(j.at("solver").at("factor_bytes"));
    l.residual = number(j.at("solver").at("residual"));
    if (j.contains("cost"))
        for (const auto& c : j.at("cost"))
            l.costs.push_back({c.at("stage"), number(c.at("seconds")), number(c.at("peak_bytes"))});
    for (const auto& c : j.at("cases")) out.solutions.push_back(solution_from(c));
    out.error2 = number(j.at("error_squared"));
    out.energy2 = number(j.at("energy_squared"));
    return out;
}

}  // namespace dotsift
