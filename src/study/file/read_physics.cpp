#include "study/file/read_physics.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "study/file/shared_materials.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> physics_names{"elasticity", "conduction", "conduction and elasticity"};
const std::vector<std::string> hold_names{"fixed", "symmetry", "antisymmetry"};
const std::vector<std::string> solver_names{"automatic", "direct", "iterative"};
const std::vector<std::string> tie_names{"rigid", "mean"};

// Of two axes of a material: with a smaller angle between them they make no plane.
constexpr double least_sine = 1e-3;

/// The dimension of something in the conduction equation: only temperatures have units here.
Dimension of_potential(const Study& study, Dimension of_heat) {
    return study.conduction.of_heat() ? of_heat : dimension::none;
}

void read_conduction(const Section& top, Study& study) {
    const auto* table = top.table("conduction");
    if (!table) return;
    const Section s(top.context(), *table, "conduction", "conduction");
    auto& c = study.conduction;
    c.where = s.where();
    c.potential = s.text("potential").value_or(c.potential);
    c.unit = s.text("unit").value_or("");
    c.reference = s.number("reference", of_potential(study, dimension::temperature)).value_or(0);
}

/// Three constants of an orthotropic material make its compliance; it must be positive definite (Lempriere 1968,
/// AIAA Journal 6).
bool is_stable(const Orthotropy& o) {
    const double a = o.ratios[0] * o.ratios[0] * o.moduli[1] / o.moduli[0],
                 b = o.ratios[1] * o.ratios[1] * o.moduli[2] / o.moduli[1],
                 c = o.ratios[2] * o.ratios[2] * o.moduli[2] / o.moduli[0],
                 mixed = 2 * o.ratios[0] * o.ratios[1] * o.ratios[2] * o.moduli[2] / o.moduli[0];
    return a < 1 && b < 1 && c < 1 && a + b + c + mixed < 1;
}

/// A constant of a material as text, perhaps a formula of the temperature.
struct Constant {
    double value = 0;  ///< at the reference
    std::optional<Formula> of_temperature;
};

std::optional<Constant> read_constant(const Section& s, const std::string& key, Dimension expected,
                                      const Study& study) {
    const auto f = read_formula_of(s.context(), *s.node(key), expected, s.shown() + "." + key, temperature_name);
    if (!f) return {};
    if (f->constant) return Constant{*f->constant, {}};
    const double at = study.conduction.reference;
    const double value = FormulaEvaluator(*f, s.context().problems->file(), {temperature_name}).with({at});
    if (std::isfinite(value) && value != 0) return Constant{value, f};
    s.fault(key, fmt::format("is {:g} at the reference temperature of {:g}, where it needs a value", value, at),
            "conduction.reference says which temperature that is");
    return {};
}

/// Tells a formula of the temperature that stands among numbers along axes, where none can.
bool of_temperature_along_axes(const Section& s, const char* key) {
    const auto* list = s.node(key) ? s.node(key)->as_array() : nullptr;
    const auto in_a_name = [](const std::string& text, std::size_t at) {
        return at < text.size() && (std::isalnum(static_cast<unsigned char>(text[at])) || text[at] == '_');
    };
    const auto is_of_temperature = [&](const toml::node& n) {
        const std::string text = n.value_exact<std::string>().value_or("");
        for (auto at = text.find(temperature_name); at != std::string::npos; at = text.find(temperature_name, at + 1))
            if (!in_a_name(text, at + temperature_name.size()) && (at == 0 || !in_a_name(text, at - 1))) return true;
        return false;
    };
    if (!list || std::none_of(list->begin(), list->end(), is_of_temperature)) return false;
    s.fault(key, "has a formula of the temperature along an axis, where only numbers can stand",
            fmt::format("give one for all axes, as in {} = \"table(T)\", or numbers", key));
    return true;
}

bool is_text(const Section& s, const char* key) {
    return s.node(key) && s.node(key)->is_string();
}

/// All moduli are written with their units.
bool moduli_have_units(const Section& s) {
    const auto has_unit = [](const toml::node& n) {
        const auto text = n.value_exact<std::string>();
        return text && parse_measure(*text);
    };
    if (const auto* young = s.node("youngs_modulus")) return has_unit(*young);
    const auto* list = s.node("moduli") ? s.node("moduli")->as_array() : nullptr;
    return list && std::all_of(list->begin(), list->end(), has_unit);
}

void read_elastic_constants(const Section& s, const Study& study, MaterialSpec& m) {
    m.moduli_have_units = moduli_have_units(s);
    const bool isotropic = s.has("youngs_modulus") || s.has("poissons_ratio");
    const bool orthotropic = s.has("moduli") || s.has("poissons_ratios") || s.has("shear_modulus");
    if (isotropic && orthotropic) {
        s.fault(s.has("moduli")          ? "moduli"
                : s.has("shear_modulus") ? "shear_modulus"
                                         : "poissons_ratios",
                "stands beside constants of an isotropic material",
                "use youngs_modulus and poissons_ratio, or moduli, poissons_ratios and shear_modulus");
        return;
    }
    if (orthotropic) {
        for (const auto* key : {"moduli", "poissons_ratios", "shear_modulus"})
            if (!s.has(key)) s.missing(key, "an orthotropic material needs moduli, poissons_ratios and shear_modulus");
        Orthotropy o;
        const std::size_t planes = s.context().in_space ? 3 : 1;
        const auto moduli = s.numbers("moduli", 3, 3, dimension::stress),
                   ratios = s.numbers("poissons_ratios", 3, 3, dimension::none),
                   shears = s.numbers("shear_modulus", planes, planes, dimension::stress);
        if (!moduli || !ratios || !shears) return;
        std::copy_n(moduli->begin(), 3, o.moduli.begin());
        std::copy_n(ratios->begin(), 3, o.ratios.begin());
        std::copy(shears->begin(), shears->end(), o.shears.begin());
        if (std::any_of(shears->begin(), shears->end(), [](double g) { return g <= 0; }))
            s.fault("shear_modulus", "must be greater than 0");
        if (std::any_of(moduli->begin(), moduli->end(), [](double e) { return e <= 0; }))
            s.fault("moduli", "must be greater than 0");
        else if (!is_stable(o))
            s.fault(
                "poissons_ratios", "let the material release energy when it is strained",
                "each nu_ij must be below sqrt(E_i / E_j), and all together small enough; is the order 12, 23, 13?");
        m.orthotropy = o;
        return;
    }
    if (!isotropic) return;
    if (!s.has("youngs_modulus")) s.missing("youngs_modulus", "as in: youngs_modulus = \"205 GPa\"");
    if (!s.has("poissons_ratio")) s.missing("poissons_ratio", "as in: poissons_ratio = 0.3");
    m.youngs_modulus = 1;
    if (is_text(s, "youngs_modulus")) {
        if (const auto e = read_constant(s, "youngs_modulus", dimension::stress, study)) {
            m.youngs_modulus = e->value;
            m.modulus_of_temperature = e->of_temperature;
            if (e->value <= 0)
                s.fault("youngs_modulus", fmt::format("is {:g}, but it must be greater than zero", e->value));
        }
    } else {
        m.youngs_modulus = s.positive("youngs_modulus", dimension::stress).value_or(1);
    }
    const auto nu = s.number("poissons_ratio", dimension::none);
    if (!nu) return;
    m.poissons_ratio = *nu;
    if (*nu <= -1 || *nu > 0.5)
        s.fault("poissons_ratio", fmt::format("is {:g}, but it must lie between -1 and 0.5", *nu));
    else if (*nu == 0.5 && study.plane != Plane::stress)
        s.fault("poissons_ratio", "is 0.5: an incompressible material can be solved in plane stress only",
                "use a value below 0.5, such as 0.4999, or plane = \"stress\"");
    else if (m.modulus_of_temperature && m.nearly_incompressible() && study.plane != Plane::stress)
        s.fault("youngs_modulus",
                fmt::format("changes with the temperature, which is not possible with a Poisson's ratio of {:g}", *nu),
                "nearly incompressible materials need one modulus; use a number, or plane = \"stress\"");
}

void read_material(const Section& s, const std::string& name, Study& study) {
    MaterialSpec m;
    m.name = name;
    m.where = s.where();
    m.on = s.names("on");
    m.density = s.positive("density", dimension::density);
    m.angle = s.number("angle", dimension::none).value_or(0);
    m.axes = s.exactly<3, 2>("axes");
    if (s.has("axes") && s.has("angle")) s.fault("angle", "stands beside axes", "use one of them");
    if (s.has("axes") && !s.context().in_space)
        s.fault("axes", "are of solids, but this part is plane", "use angle");
    else if (m.axes &&
             !(norm(cross((*m.axes)[0], (*m.axes)[1])) > least_sine * norm((*m.axes)[0]) * norm((*m.axes)[1])))
        s.fault("axes", "must be two directions apart from each other", "as in: axes = [[1, 1, 0], [0, 0, 1]]");
    read_elastic_constants(s, study, m);
    if (is_text(s, "expansion")) {
        if (const auto a = read_constant(s, "expansion", dimension::expansion, study)) {
            m.expansion.fill(a->value);
            m.expansion_of_temperature = a->of_temperature;
        }
    } else if (of_temperature_along_axes(s, "expansion")) {
        m.expansion.fill(1);  // it expands, whatever that will be
    } else if (const auto a = s.numbers("expansion", 1, 3, dimension::expansion)) {
        if (a->size() == 2)
            s.fault("expansion", "must be one number, or three along the axes", "as in 1.2e-5 or [1e-6, 3e-5, 3e-5]");
        else
            m.expansion = a->size() == 1 ? std::array<double, 3>{(*a)[0], (*a)[0], (*a)[0]}
                                         : std::array<double, 3>{(*a)[0], (*a)[1], (*a)[2]};
    }
    if (is_text(s, "conductivity")) {
        if (const auto k = read_constant(s, "conductivity", of_potential(study, dimension::conductivity), study)) {
            m.conductivity = {{k->value, k->value, k->value}};
            m.conductivity_of_temperature = k->of_temperature;
            if (k->value <= 0)
                s.fault("conductivity", fmt::format("is {:g}, but it must be greater than zero", k->value));
        }
    } else if (of_temperature_along_axes(s, "conductivity")) {
        m.conductivity = {{1, 1, 1}};
    } else if (const auto k = s.numbers("conductivity", 1, s.context().in_space ? 3 : 2,
                                        of_potential(study, dimension::conductivity))) {
        // Of two the second holds across the first, in space all round it.
        m.conductivity = {{k->front(), (*k)[std::min<std::size_t>(1, k->size() - 1)], k->back()}};
        if (std::any_of(k->begin(), k->end(), [](double c) { return c <= 0; }))
            s.fault("conductivity", "must be greater than 0");
    }
    if (!s.has("youngs_modulus") && !s.has("poissons_ratio") && !s.has("moduli") && !s.has("conductivity"))
        s.missing("youngs_modulus",
                  "give elastic constants, as in youngs_modulus = \"205 GPa\" and poissons_ratio = "
                  "0.3, or a conductivity");
    study.materials.push_back(std::move(m));
}

/// What is solved: as the study says, or what the constants of its materials allow.
void find_physics(const Section& top, Study& study) {
    const auto any = [&](auto has) { return std::any_of(study.materials.begin(), study.materials.end(), has); };
    const bool elastic = any([](const auto&m) { return m.elastic(); }),
               conducts = any([](const auto&m) { return m.conductivity.has_value(); });
    study.physics = elastic && conducts ? Physics::both : conducts ? Physics::conduction : Physics::elasticity;
    if (const auto chosen = top.choice("physics", physics_names)) study.physics = static_cast<Physics>(*chosen);
    Problems& problems = *top.context().problems;
    for (const auto& m : study.materials) {
        if (study.elastic() && !m.elastic())
            problems.add(m.where, fmt::format("material.{} has no elastic constants", m.name),
                         "add youngs_modulus and poissons_ratio, or set physics = \"conduction\"");
        if (study.conducts() && !m.conductivity)
            problems.add(m.where, fmt::format("material.{} has no conductivity", m.name),
                         "add conductivity, or set physics = \"elasticity\"");
    }
}

/// Told by `check` where it is a number; a formula that turns negative somewhere is refused where it does.
void refuse_negative(const Section& s, const char* key, const std::optional<Formula>& value) {
    if (value && value->constant && *value->constant < 0) s.fault(key, "is negative", "it must be 0 or more");
}

void read_support(const Section& s, const std::string& name, Study& study) {
    SupportSpec support;
    const std::size_t faults = s.context().problems->count();
    support.name = name;
    support.where = s.where();
    if (!s.has("on") && !s.has("at")) s.missing("on", "say on which boundary it acts, or give a corner with at");
    if (s.has("on") && s.has("at")) s.fault("at", "stands beside on", "use one of them");
    support.on = s.names("on");
    read_place(s, support.at, support.at_name);
    support.about = s.point("about").value_or(Vec2{});
    support.potential = s.formula("potential", of_potential(study, dimension::temperature), true);
    support.normal_stiffness = s.formula("normal_stiffness", dimension::force_per_volume, true);
    support.tangential_stiffness = s.formula("tangential_stiffness", dimension::force_per_volume, true);
    for (const auto* key : {"normal_stiffness", "tangential_stiffness"})
        if (s.has(key) && support.at) s.fault(key, "is per area, so a single point cannot have it", "use on");
    refuse_negative(s, "normal_stiffness", support.normal_stiffness);
    refuse_negative(s, "tangential_stiffness", support.tangential_stiffness);
    const bool values = s.has("ux") || s.has("uy") || s.has("uz") || s.has("normal");
    const bool other = s.has("potential") || support.founded();
    if (s.has("hold") && values) {
        for (const auto* key : {"ux", "uy", "uz", "normal"})
            if (s.has(key)) s.fault(key, "stands beside hold", "use one of them");
    } else if (!s.has("hold") && !values && !other) {
        s.context().problems->add(
            s.where(),
            fmt::format("[{}] needs \"hold\", one of \"ux\", \"uy\", \"normal\", a stiffness, or \"potential\"",
                        s.shown()),
            study.conducts() && !study.elastic() ? "as in: potential = 20" : "as in: hold = \"fixed\"");
    } else if (values) {
        support.displacement = {s.formula("ux", dimension::length, true), s.formula("uy", dimension::length, true),
                                s.formula("uz", dimension::length, true)};
        if (s.has("uz") && !study.solid()) s.fault("uz", "goes with solids, but this part is plane", "remove it");
        support.normal_displacement = s.formula("normal", dimension::length, true);
        if (support.normal_displacement && support.at)
            s.fault("normal", "is along the normal of a boundary, which a single point has not", "use ux or uy");
    } else if (const auto hold = s.choice("hold", hold_names)) {
        support.hold = static_cast<Hold>(*hold);
        if (support.hold != Hold::fixed && support.at)
            s.fault("hold", fmt::format("is \"{}\", which a single point cannot have", hold_names[*hold]),
                    "use ux or uy");
    }
    support.sound = s.context().problems->count() == faults;
    study.supports.push_back(std::move(support));
}

struct LoadKey {
    const char* name;
    LoadKind kind;
    bool pair;
    Dimension dimension;
    bool potential;  ///< belongs to the conduction equation
};

constexpr std::array load_keys{
    LoadKey{"traction", LoadKind::traction, true, dimension::stress, false},
    LoadKey{"pressure", LoadKind::pressure, false, dimension::stress, false},
    LoadKey{"force", LoadKind::force, true, dimension::force, false},
    LoadKey{"moment", LoadKind::moment, false, dimension::moment, false},
    LoadKey{"body_force", LoadKind::body, true, dimension::force_per_volume, false},
    LoadKey{"gravity", LoadKind::gravity, true, dimension::acceleration, false},
    LoadKey{"rotation", LoadKind::rotation, false, dimension::angular_speed, false},
    LoadKey{"temperature_change", LoadKind::temperature_change, false, dimension::temperature, false},
    LoadKey{"flux", LoadKind::flux, false, dimension::heat_flux, true},
    LoadKey{"flow", LoadKind::flow, false, dimension::power, true},
    LoadKey{"source", LoadKind::source, false, dimension::heat_source, true},
    LoadKey{"transfer", LoadKind::transfer, false, dimension::transfer, true},
};

void read_load(const Section& s, const std::string& name, Study& study) {
    LoadSpec load;
    load.name = name;
    load.where = s.where();
    std::vector<std::string> names;
    names.reserve(load_keys.size());
    for (const auto& k : load_keys) names.emplace_back(k.name);
    const auto found = s.one_of(names);
    if (!found) {
        load.on = s.names("on");
        study.loads.push_back(std::move(load));
        return;
    }
    const LoadKey* key = &load_keys[*found];
    load.kind = key->kind;
    const bool in_space = s.context().in_space;
    if (in_space && load.kind == LoadKind::rotation) {
        load.axis = s.exactly<3, 2>("about").value_or(load.axis);
        if (load.axis[0] == load.axis[1]) s.fault("about", "has the same point twice", "give two points of the axis");
    } else {
        load.about = s.point("about").value_or(Vec2{});
    }
    load.on = s.names("on");
    read_place(s, load.at, load.at_name);
    if (load.at) {
        if (load.kind == LoadKind::force)
            load.kind = LoadKind::point;
        else
            s.fault("at", "goes with force only", "use on");
        if (s.has("on")) s.fault("at", "stands beside on", "use one of them");
    } else if (!s.has("on") && !is_in_volume(load.kind)) {
        s.missing("on", "say on which boundary it acts");
    }
    const Dimension dimension = key->potential ? of_potential(study, key->dimension) : key->dimension;
    const bool vector = key->pair || (in_space && load.kind == LoadKind::moment);
    if (vector) {
        if (auto f = s.formulas(key->name, dimension)) load.components = *f;
    } else if (auto f = s.formula(key->name, dimension, true)) {
        load.components[0] = *f;
    }
    const bool total = load.kind == LoadKind::force || load.kind == LoadKind::moment || load.kind == LoadKind::flow ||
                       load.kind == LoadKind::point || load.kind == LoadKind::gravity ||
                       load.kind == LoadKind::rotation;
    const auto depends_on_place = [](const Formula& f) { return !f.text.empty() && !f.constant; };
    if (total && (depends_on_place(load.components[0]) ||
                  (vector && (depends_on_place(load.components[1]) || depends_on_place(load.components[2])))))
        s.fault(key->name, "is one for the whole, so it cannot depend on the place",
                load.kind == LoadKind::force || load.kind == LoadKind::flow ? "use spread for its distribution"
                                                                            : "give a number");
    if (load.kind == LoadKind::transfer) {
        refuse_negative(s, "transfer", load.components[0]);
        if (!s.has("ambient")) s.missing("ambient", "the potential of the surroundings, as in: ambient = 20");
        if (auto f = s.formula("ambient", of_potential(study, dimension::temperature), true)) load.components[1] = *f;
    } else if (s.has("ambient")) {
        s.fault("ambient", "goes with transfer only");
    }
    load.spread = s.formula("spread", dimension::none, true);
    if (load.spread && load.kind != LoadKind::force && load.kind != LoadKind::flow)
        s.fault("spread", "goes with force on a boundary, and flow, only");
    if (key->potential && !study.conducts())
        s.fault(key->name, "belongs to conduction, but no material has a conductivity", "add one, or remove this load");
    if (!key->potential && !study.elastic())
        s.fault(key->name, "belongs to elasticity, but only conduction is solved", "remove this load");
    study.loads.push_back(std::move(load));
}

void read_periodic(const Section& s, const std::string& name, Study& study) {
    PeriodicSpec p;
    p.name = name;
    p.where = s.where();
    if (!s.has("between")) s.missing("between", "the names of two boundaries, as in: between = [\"left\", \"right\"]");
    if (const auto between = s.two_names("between")) p.between = *between;
    if (const auto jump = s.numbers("jump", 2, 2, dimension::length)) p.jump = {(*jump)[0], (*jump)[1]};
    p.turn = s.number("turn", dimension::none);
    p.about = s.point("about").value_or(Vec2{});
    if (s.has("about") && !s.has("turn")) s.fault("about", "goes with turn", "remove it");
    if (p.turn) {
        if (s.has("jump"))
            s.fault("jump", "has no meaning beside turn: a sector moves as its neighbours do", "remove it");
        if (study.plane == Plane::axisymmetric)
            s.fault("turn", "has no meaning of a body of revolution, where x is the radius", "remove it");
        if (std::fabs(*p.turn) < 1e-6 || std::fabs(*p.turn) > 3.1416)
            s.fault("turn", fmt::format("is {:g} radians, which is no part of a circle", *p.turn),
                    "the angle from the first boundary to the second, as in: turn = \"30 deg\"");
    }
    p.potential_jump = s.number("potential_jump", of_potential(study, dimension::temperature)).value_or(0);
    study.periodic.push_back(std::move(p));
}

void read_remote(const Section& s, const std::string& name, Study& study) {
    RemoteSpec r;
    r.name = name;
    r.where = s.where();
    if (!s.has("at")) s.missing("at", "the position of the point, as in: at = [0, 50]");
    if (!s.has("on")) s.missing("on", "say which boundary moves with it");
    r.at = s.point("at").value_or(Vec2{});
    r.on = s.names("on");
    if (const auto tie = s.choice("tie", tie_names)) r.rigid = *tie == 0;
    if (const auto f = s.numbers("force", 2, 2, dimension::force)) r.force = {(*f)[0], (*f)[1]};
    r.moment = s.number("moment", dimension::moment).value_or(0);
    r.motion = {s.number("ux", dimension::length), s.number("uy", dimension::length),
                s.number("turn", dimension::none)};
    if (!study.elastic())
        s.context().problems->add(s.where(), fmt::format("[{}] belongs to elasticity, which is not solved", s.shown()),
                                  "remove it");
    else if (study.plane == Plane::axisymmetric)
        s.context().problems->add(
            s.where(), fmt::format("[{}]: a remote point has no meaning in an axisymmetric study", s.shown()),
            "use a support, or a force on the boundary");
    study.remotes.push_back(std::move(r));
}

void read_resistance(const Section& s, const std::string& name, Study& study) {
    ResistanceSpec r;
    r.name = name;
    r.where = s.where();
    if (!s.has("on")) s.missing("on", "name the edges between two regions that resist, as in: on = \"core_and_shell\"");
    if (!s.has("value")) s.missing("value", "the jump of the potential per flux");
    r.on = s.names("on");
    r.resistance = s.positive("value", of_potential(study, dimension::resistance)).value_or(1);
    if (!study.conducts())
        s.context().problems->add(s.where(), fmt::format("[{}] belongs to conduction, which is not solved", s.shown()),
                                  "remove it");
    study.resistances.push_back(std::move(r));
}

void read_case(const Section& s, const std::string& name, Study& study) {
    CaseSpec c;
    c.name = name;
    c.where = s.where();
    if (!s.has("factors")) s.missing("factors", "as in: factors = { wind = 1.5, weight = 1 }");
    std::vector<std::string> known;
    for (const auto& l : study.loads) known.push_back(l.name);
    for (const auto& r : study.remotes) known.push_back(r.name);
    for (const auto& x : study.supports) known.push_back(x.name);
    for (const auto& x : study.cases) known.push_back(x.name);
    if (const auto* table = s.table("factors")) {
        for (const auto& [key, node] : *table) {
            const std::string of{key.str()};
            const auto f = read_formula(s.context(), node, dimension::none, s.shown() + ".factors." + of, false);
            if (!f) continue;
            if (std::find(known.begin(), known.end(), of) == known.end()) {
                const std::string near = nearest(of, known);
                s.context().problems->add(where_of(node),
                                          fmt::format("{}: no load, remote point, support or case "
                                                      "above is named \"{}\"",
                                                      s.shown(), of),
                                          near.empty() ? fmt::format("names are {}", quoted_list(known))
                                                       : fmt::format("did you mean \"{}\"?", near));
                continue;
            }
            // A case that was defined above stands for its own factors.
            const auto above =
                std::find_if(study.cases.begin(), study.cases.end(), [&](const CaseSpec& x) { return x.name == of; });
            const auto add = [&](const std::string& what, double factor) {
                for (auto& [n, old] : c.factors)
                    if (n == what) {
                        old += factor;
                        return;
                    }
                c.factors.emplace_back(what, factor);
            };
            if (above == study.cases.end())
                add(of, *f->constant);
            else
                for (const auto& [n, factor] : above->factors) add(n, factor * *f->constant);
        }
    }
    study.cases.push_back(std::move(c));
}

void read_solver(const Section& top, Study& study) {
    if (const auto* table = top.table("solver")) {
        const Section s(top.context(), *table, "solver", "solver");
        study.solver.where = s.where();
        if (const auto m = s.choice("method", solver_names)) study.solver.method = static_cast<SolverMethod>(*m);
        if (const auto gb = s.positive("most_memory", dimension::none)) study.solver.most_memory = *gb * 1e9;
        if (study.solver.method == SolverMethod::iterative && top.table("mesh") != nullptr &&
            top.table("mesh")->contains("order") && top.table("mesh")->get("order")->value_or(2) == 1)
            s.fault("method", "is \"iterative\", which works on quadratic elements only", "use mesh.order = 2");
    }
}

}  // namespace

void read_place(const Section& s, std::optional<Vec2>& at, std::string& name, const char* key) {
    const auto* node = s.node(key);
    if (node && node->is_string()) {
        name = s.text(key).value_or("");
        at = Vec2{};
    } else {
        at = s.point(key);
    }
}

void read_place(const Section& s, std::optional<Vec3>& at, std::string& name, const char* key) {
    const auto* node = s.node(key);
    if (s.context().in_space && node && !node->is_string()) {
        at = s.point_in<3>(key);
        return;
    }
    std::optional<Vec2> in_the_plane;
    read_place(s, in_the_plane, name, key);
    if (in_the_plane) at = in_space(*in_the_plane);
}

void read_physics(const Section& top, Study& study) {
    read_conduction(top, study);
    each_named(top, "material", [&](const Section& s, const std::string& name) {
        if (!s.has("from")) {
            if (s.has("entry")) s.fault("entry", "goes with from", "remove it");
            read_material(s, name, study);
            return;
        }
        MaterialSpec unknown;  // so that a fault of the file does not bring one of each region
        unknown.name = name;
        unknown.where = s.where();
        unknown.on = s.names("on");
        unknown.youngs_modulus = s.context().units.from_si(2e11, dimension::stress);  // none that brings a warning
        const auto merged = with_shared(s, name, read_material, study);
        if (merged)
            read_material(Section(s.context(), *merged, "material.NAME", s.shown()), name, study);
        else
            study.materials.push_back(unknown);
    });
    find_physics(top, study);
    each_named(top, "support", [&](const Section& s, const std::string& name) { read_support(s, name, study); });
    each_named(top, "periodic", [&](const Section& s, const std::string& name) { read_periodic(s, name, study); });
    each_named(top, "remote", [&](const Section& s, const std::string& name) { read_remote(s, name, study); });
    each_named(top, "resistance", [&](const Section& s, const std::string& name) { read_resistance(s, name, study); });
    each_named(top, "load", [&](const Section& s, const std::string& name) { read_load(s, name, study); });
    read_solver(top, study);
    each_named(top, "case", [&](const Section& s, const std::string& name) { read_case(s, name, study); });
}

}  // namespace dotsift
