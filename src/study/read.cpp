#include "study/read.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "base/errors.hpp"
#include "study/file/read_part.hpp"
#include "study/file/read_physics.hpp"
#include "study/file/read_quantity.hpp"
#include "study/file/read_results.hpp"
#include "study/file/read_series.hpp"
#include "study/file/read_sizes.hpp"
#include "study/file/read_tables.hpp"
#include "study/file/read_vary.hpp"
#include "study/file/section.hpp"
#include "study/keys.hpp"

namespace dotsift {

namespace {

// Strains of this size are far outside of linear elasticity: the units are probably wrong.
constexpr double senseless_strain = 0.2;

class StudyReader {
  public:
    StudyReader(Study& study, Problems& problems) : study_(study), problems_(problems) {
        context_.problems = &problems;
        context_.places = &study_.places;
    }

    void read(const toml::table& root) {
        const Section top(context_, root, "", "");
        read_format(top);
        study_.title = top.text("title").value_or(study_.path.stem().string());
        read_units(top);
        study_.tables = context_.tables = read_value_tables(top, study_);
        context_.in_space = makes_solid(root);
        read_variables(top);
        read_part(top, study_);
        read_physics(top, study_);
        study_.sizes = read_sizes(top);
        study_.mesh = read_mesh(top);
        each_named(top, "quality",
                   [&](const Section& s, const std::string& name) { study_.quality.push_back(read_quality(s, name)); });
        read_quantities(top, study_);
        read_series(top, study_);
        read_results(top, study_);
        read_vary(top, study_);
        read_exact_stress(top);
        check_whole();
    }

  private:
    void read_format(const Section& top) {
        if (!top.has("format")) {
            problems_.add({1, 1}, "the study does not say its format version", "begin the file with: format = 1");
            return;
        }
        const auto version = top.whole("format", 1);
        if (version && *version != 1)
            top.fault("format", fmt::format("is {}, but this program reads version 1", *version),
                      "use a newer version of the program");
    }

    void read_units(const Section& top) {
        const auto* table = top.table("units");
        if (!table) return;
        const Section s(context_, *table, "units", "units");
        const std::string length = s.text("length").value_or("m"), force = s.text("force").value_or("N");
        for (const auto* key : {"length", "force"}) {
            try {
                if (std::string_view(key) == "length")
                    (void)UnitSystem(length, "N");
                else
                    (void)UnitSystem("m", force);
            } catch (const std::invalid_argument& e) {
                s.fault(key, fmt::format("cannot be used: {}", e.what()),
                        std::string_view(key) == "length" ? "allowed are m, mm, cm, um, km, in, ft"
                                                          : "allowed are N, mN, kN, MN, lbf, kip");
                return;
            }
        }
        study_.units_given = true;
        study_.units = context_.units = UnitSystem(length, force);
    }

    void read_variables(const Section& top) {
        const auto* table = top.table("variables");
        if (!table) return;
        std::set<std::string> open;
        const std::function<bool(const std::string&, Where)> resolve = [&](const std::string& name, Where user) {
            if (context_.variables.count(name)) return true;
            const auto* node = table->get(name);
            if (!node) return true;  // told by read_formula
            if (!open.insert(name).second) {
                problems_.add(user, fmt::format("variables.{} is defined by itself", name), "break the circle");
                return false;
            }
            bool good = true;
            const auto text = node->value_exact<std::string>();
            if (text && !parse_measure(*text))
                for (const auto& used : identifiers(*text)) good = resolve(used, where_of(*node)) && good;
            open.erase(name);
            if (!good) return false;
            Dimension dimension;  // a variable may measure anything
            if (text)
                if (const auto measure = parse_measure(*text)) dimension = measure->dimension;
            if (const auto f = read_formula(context_, *node, dimension, "variables." + name, true))
                context_.variables[name] = *f;
            else
                return false;
            return true;
        };
        for (const auto& [key, node] : *table) {
            const std::string name{key.str()};
            const bool taken = name == "pi" ||
                               std::find(place_names().begin(), place_names().end(), name) != place_names().end() ||
                               (context_.in_space && (name == "z" || name == "nz"));
            if (!is_proper_name(name) || taken) {
                problems_.add(where_of(node), fmt::format("\"{}\" cannot name a variable", name),
                              taken ? "x, y, r, theta, nx, ny and pi have a fixed meaning, of a solid z and nz, too"
                                    : "use letters, digits and _");
                continue;
            }
            resolve(name, where_of(node));
        }
        for (const auto& [key, node] : *table) {  // so that one faulty variable does not bring a fault at each use
            Formula unknown;
            unknown.text = "1";
            context_.variables.try_emplace(std::string(key.str()), unknown);
        }
    }

    void read_exact_stress(const Section& top) {
        const auto* table = top.table("exact_stress");
        if (!table) return;
        const Section s(context_, *table, "exact_stress", "exact_stress");
        ExactStress exact;
        exact.where = s.where();
        exact.about = s.point("about").value_or(Vec2{});
        const bool solid = study_.solid();
        const auto component = [&](const char* key, bool required, const char* what = "") {
            if (required && !s.has(key)) s.missing(key, what);
            return s.formula(key, dimension::stress, true);
        };
        constexpr std::array<const char*, 3> in_plane{"sxx", "syy", "sxy"};
        for (std::size_t i = 0; i < in_plane.size(); ++i)
            exact.components[i] = component(in_plane[i], true).value_or(Formula{});
        exact.szz = component("szz", solid || study_.plane == Plane::axisymmetric, solid ? "" : "the hoop stress");
        exact.syz = component("syz", solid);
        exact.szx = component("szx", solid);
        for (const auto* key : {"syz", "szx"})
            if (!solid && s.has(key)) s.fault(key, "is of solids only", "leave it out");
        study_.exact_stress = std::move(exact);
    }

    /// Things that no single table shows.
    void check_whole() {
        if (study_.materials.empty())
            problems_.add({1, 1}, "the study has no material",
                          "add [material.NAME] with youngs_modulus and poissons_ratio");
        if (study_.elastic()) check_elasticity();
        if (study_.conducts()) check_conduction();
        if (study_.quantities.empty())
            problems_.warn({1, 1}, "no quantity is watched, so there will be no verdict on one", "add [quantity.NAME]");
        if (study_.series.empty()) {
            SeriesSpec series;
            series.name = "uniform";
            study_.series.push_back(series);
        }
    }

    void check_elasticity() {
        const auto& supports = study_.supports;
        const bool held =
            std::any_of(supports.begin(), supports.end(), [](const auto& s) { return s.mechanical() || !s.sound; }) ||
            !study_.remotes.empty();
        if (!held)
            problems_.add({1, 1}, "the study has no support, so the part is free to move away", "add [support.NAME]");
        const auto moves = [](const std::optional<Formula>& u) { return u && u->constant != 0.0; };
        const bool driven =
            std::any_of(study_.loads.begin(), study_.loads.end(),
                        [](const LoadSpec& l) { return is_mechanical(l.kind); }) ||
            std::any_of(supports.begin(), supports.end(),
                        [&](const SupportSpec& s) {
                            return moves(s.displacement[0]) || moves(s.displacement[1]) || moves(s.normal_displacement);
                        }) ||
            !study_.remotes.empty() || study_.conducts() ||
            std::any_of(study_.periodic.begin(), study_.periodic.end(),
                        [](const PeriodicSpec& p) { return p.jump[0] != 0 || p.jump[1] != 0; });
        if (!driven) problems_.add({1, 1}, "the study has no load and no prescribed motion", "add [load.NAME]");
        for (const auto& m : study_.materials) {
            if (m.density) continue;
            for (const auto& l : study_.loads)
                if (l.kind == LoadKind::gravity || l.kind == LoadKind::rotation)
                    problems_.add(m.where,
                                  fmt::format("material.{} has no density, which load.{} needs", m.name, l.name),
                                  "add density, as in: density = \"7850 kg/m^3\"");
        }
        const bool heated = std::any_of(study_.loads.begin(), study_.loads.end(),
                                        [](const LoadSpec& l) { return l.kind == LoadKind::temperature_change; });
        if ((heated || study_.conducts()) &&
            std::all_of(study_.materials.begin(), study_.materials.end(),
                        [](const auto& m) { return m.expansion == std::array<double, 3>{}; }))
            problems_.warn({1, 1}, "no material expands, so temperatures bring no displacement", "add expansion");
        for (const auto& m : study_.materials)
            if ((m.modulus_of_temperature || m.expansion_of_temperature) && !heated && !study_.conducts())
                problems_.warn(
                    m.where,
                    fmt::format("material.{} changes with the temperature, but the study has no temperature", m.name),
                    "its values at conduction.reference count; add a load temperature_change, or conductivity");
        for (const auto& m : study_.materials) {
            const bool locks = m.nearly_incompressible() && study_.plane != Plane::stress;
            if (locks && study_.mesh.order == 1)
                problems_.warn(m.where,
                               fmt::format("material.{} is nearly incompressible, which linear elements cannot follow: "
                                           "they will be far too stiff",
                                           m.name),
                               "use mesh.order = 2");
        }
        check_magnitudes();
    }

    void check_conduction() {
        const bool held =
            std::any_of(study_.supports.begin(), study_.supports.end(), [](const auto& s) { return !!s.potential; }) ||
            std::any_of(study_.loads.begin(), study_.loads.end(),
                        [](const LoadSpec& l) { return l.kind == LoadKind::transfer; });
        if (!held)
            problems_.add({1, 1}, "nothing fixes the level of the potential",
                          "add a support with potential, or a "
                          "load with transfer and ambient");
    }

    /// Numbers that make no sense beside each other, mostly from a wrong unit.
    void check_magnitudes() {
        double softest = INFINITY;
        for (const auto& m : study_.materials) {
            if (m.youngs_modulus > 0) softest = std::min(softest, m.youngs_modulus);
            if (m.orthotropy) softest = std::min({softest, m.orthotropy->moduli[0], m.orthotropy->moduli[1]});
        }
        for (const auto& l : study_.loads) {
            if (l.kind != LoadKind::traction && l.kind != LoadKind::pressure) continue;
            double stress = 0;
            for (const auto& c : l.components)
                if (c.constant) stress = std::max(stress, std::fabs(*c.constant));
            if (stress > senseless_strain * softest)
                problems_.warn(
                    l.where,
                    fmt::format("load.{}: {:g} {} beside a Young's modulus of {:g} {} means strains above {:.0f} %",
                                l.name, stress, study_.units.label(dimension::stress), softest,
                                study_.units.label(dimension::stress), 100 * senseless_strain),
                    "is one of the units wrong? numbers may carry their own, as in \"210 GPa\"");
        }
    }

    Study& study_;
    Problems& problems_;
    ReadingContext context_;
};

// Parts of a dotted key, and brackets in brackets: a parser goes down into each.
constexpr int deepest = 100;

/// The first line that goes deeper; 0: none does. Dots and brackets in texts count as well: no line has so many.
int too_deep(const std::string& text) {
    int line = 1, dots = 0, depth = 0;
    for (const char c : text) {
        if (c == '\n') {
            ++line;
            dots = 0;
        }
        // Numbers have dots, too, with digits and commas between them.
        dots = c == '.' ? dots + 1 : c == ',' || c == '=' ? 0 : dots;
        depth += c == '[' || c == '{' ? 1 : c == ']' || c == '}' ? -1 : 0;
        if (dots > deepest || depth > deepest) return line;
    }
    return 0;
}

}  // namespace

Study read_study(const std::filesystem::path& path, const std::string& text, Problems& problems) {
    Study study;
    study.path = path;
    study.source = text;
    if (const int line = too_deep(text); line > 0) {
        problems.add({line, 1}, fmt::format("the line nests more than {} keys or brackets", deepest),
                     "studies need three or four");
        return study;
    }
    try {
        const toml::table root = toml::parse(std::string_view(text), path.string());
        StudyReader(study, problems).read(root);
    } catch (const toml::parse_error& e) {
        problems.add({static_cast<int>(e.source().begin.line), static_cast<int>(e.source().begin.column)},
                     fmt::format("not valid TOML: {}", e.description()), "correct the line; texts go in quotes");
    }
    return study;
}

}  // namespace dotsift
