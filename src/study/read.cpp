#include "study/read.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "base/errors.hpp"
#include "study/keys.hpp"
#include "study/read_part.hpp"
#include "study/read_sizes.hpp"
#include "study/section.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> hold_names{"fixed", "symmetry"};
const std::vector<std::string> take_names{"maximum", "minimum", "mean", "value"};
const std::vector<std::string> series_names{"uniform", "adaptive"};

const std::vector<std::string>& field_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        for (int f = 0; f <= static_cast<int>(Field::strain_energy); ++f)
            list.emplace_back(name_of(static_cast<Field>(f)));
        return list;
    }();
    return names;
}

bool is_reaction(Field field) {
    return field == Field::reaction_x || field == Field::reaction_y;
}

class StudyReader {
  public:
    StudyReader(Study& study, Problems& problems) : study_(study), problems_(problems) {
        context_.problems = &problems;
    }

    void read(const toml::table& root) {
        const Section top(context_, root, "", "");
        read_format(top);
        study_.title = top.text("title").value_or(study_.path.stem().string());
        read_units(top);
        read_variables(top);
        read_part(top, study_);
        each_named(top, "material", [&](const Section& s, const std::string& name) { read_material(s, name); });
        each_named(top, "support", [&](const Section& s, const std::string& name) { read_support(s, name); });
        each_named(top, "load", [&](const Section& s, const std::string& name) { read_load(s, name); });
        study_.sizes = read_sizes(top);
        study_.mesh = read_mesh(top);
        each_named(top, "quality",
                   [&](const Section& s, const std::string& name) { study_.quality.push_back(read_quality(s, name)); });
        each_named(top, "series", [&](const Section& s, const std::string& name) { read_series(s, name); });
        each_named(top, "quantity", [&](const Section& s, const std::string& name) { read_quantity(s, name); });
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
            const bool taken =
                name == "pi" || std::find(place_names().begin(), place_names().end(), name) != place_names().end();
            if (!is_proper_name(name) || taken) {
                problems_.add(
                    where_of(node), fmt::format("\"{}\" cannot name a variable", name),
                    taken ? "x, y, r, theta, nx, ny and pi have a fixed meaning" : "use letters, digits and _");
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

    void read_material(const Section& s, const std::string& name) {
        MaterialSpec m{name, s.where(), {}, 1, 0, std::nullopt};
        if (!s.has("youngs_modulus")) s.missing("youngs_modulus", "as in: youngs_modulus = \"205 GPa\"");
        if (!s.has("poissons_ratio")) s.missing("poissons_ratio", "as in: poissons_ratio = 0.3");
        m.on = s.names("on");
        m.density = s.positive("density", dimension::density);
        m.youngs_modulus = s.positive("youngs_modulus", dimension::stress).value_or(1);
        if (const auto nu = s.number("poissons_ratio", dimension::none)) {
            m.poissons_ratio = *nu;
            if (*nu <= -1 || *nu > 0.5)
                s.fault("poissons_ratio", fmt::format("is {:g}, but it must lie between -1 and 0.5", *nu));
            else if (*nu == 0.5 && study_.plane == Plane::strain)
                s.fault("poissons_ratio", "is 0.5: an incompressible material cannot be solved in plane strain",
                        "use a value below 0.5, such as 0.4999, or plane = \"stress\"");
        }
        study_.materials.push_back(m);
    }

    void read_support(const Section& s, const std::string& name) {
        SupportSpec support;
        support.name = name;
        support.where = s.where();
        if (!s.has("on") && !s.has("at")) s.missing("on", "say on which boundary it acts, or give a corner with at");
        if (s.has("on") && s.has("at")) s.fault("at", "stands beside on", "use one of them");
        support.on = s.names("on");
        read_place(s, support.at, support.at_name);
        support.about = s.point("about").value_or(Vec2{});
        const bool values = s.has("ux") || s.has("uy");
        if (s.has("hold") == values) {
            problems_.add(s.where(), fmt::format("[{}] needs either \"hold\" or one of \"ux\", \"uy\"", s.shown()),
                          "as in: hold = \"fixed\"");
        } else if (values) {
            support.displacement = {s.formula("ux", dimension::length, true), s.formula("uy", dimension::length, true)};
        } else if (const auto hold = s.choice("hold", hold_names)) {
            support.hold = static_cast<Hold>(*hold);
            if (support.hold == Hold::symmetry && support.at)
                s.fault("hold", "is \"symmetry\", which a single point cannot have", "use ux or uy");
        }
        study_.supports.push_back(std::move(support));
    }

    /// `at`: a point, or the name of one, whose position is known when there is a part.
    static void read_place(const Section& s, std::optional<Vec2>& at, std::string& name) {
        const auto* node = s.node("at");
        if (node && node->is_string()) {
            name = s.text("at").value_or("");
            at = Vec2{};
        } else {
            at = s.point("at");
        }
    }

    void read_load(const Section& s, const std::string& name) {
        LoadSpec load;
        load.name = name;
        load.where = s.where();
        if (!s.has("on")) s.missing("on", "say on which boundary it acts");
        load.on = s.names("on");
        load.about = s.point("about").value_or(Vec2{});
        if (s.has("traction") + s.has("pressure") + s.has("force") != 1) {
            problems_.add(s.where(), fmt::format("[{}] needs one of \"traction\", \"pressure\", \"force\"", s.shown()));
        } else if (s.has("traction")) {
            load.kind = LoadKind::traction;
            if (auto f = s.formulas("traction", dimension::stress)) load.components = *f;
        } else if (s.has("pressure")) {
            load.kind = LoadKind::pressure;
            if (auto f = s.formula("pressure", dimension::stress, true)) load.components[0] = *f;
        } else {
            load.kind = LoadKind::force;
            if (auto f = s.formulas("force", dimension::force)) {
                load.components = *f;
                if (!(*f)[0].constant || !(*f)[1].constant)
                    s.fault("force", "is a total, so it cannot depend on the place", "use spread for its distribution");
            }
        }
        load.spread = s.formula("spread", dimension::none, true);
        if (load.spread && load.kind != LoadKind::force) s.fault("spread", "goes with force only");
        study_.loads.push_back(std::move(load));
    }

    void read_series(const Section& s, const std::string& name) {
        SeriesSpec series;
        series.name = name;
        series.where = s.where();
        if (!s.has("kind")) s.missing("kind", "as in: kind = \"uniform\"");
        const auto kind = s.choice("kind", series_names);
        if (kind) series.kind = static_cast<SeriesKind>(*kind);
        const bool adaptive = series.kind == SeriesKind::adaptive;
        if (const auto ratio = s.number("ratio", dimension::none)) {
            if (*ratio <= 1) s.fault("ratio", fmt::format("is {:g}, but it must be greater than 1", *ratio));
            series.ratio = *ratio;
        }
        if (kind && adaptive && s.has("ratio")) s.fault("ratio", "has no meaning for an adaptive series", "remove it");
        series.most_levels =
            static_cast<int>(std::min<std::int64_t>(s.whole("most_levels", 1).value_or(adaptive ? 8 : 4), 1000));
        series.most_elements = s.whole("most_elements", 1).value_or(series.most_elements);
        series.error_target = s.positive("error_target", dimension::none);
        series.change_target = s.positive("change_target", dimension::none);
        if (adaptive && !series.error_target && !series.change_target) series.error_target = 0.02;
        study_.series.push_back(std::move(series));
    }

    void read_quantity(const Section& s, const std::string& name) {
        QuantitySpec q;
        q.name = name;
        q.where = s.where();
        q.target = s.positive("target", dimension::none);
        if (s.has("of") == s.has("formula")) {
            problems_.add(s.where(), fmt::format("[{}] needs either \"of\" or \"formula\"", s.shown()),
                          "as in: of = \"von_mises\"");
        } else if (s.has("formula")) {
            for (const auto* key : {"take", "on", "at"})
                if (s.has(key)) s.fault(key, "has no meaning beside a formula", "remove it");
            if (auto text = s.text("formula")) q.formula = Formula{*text, *text, s.where("formula"), std::nullopt};
        } else if (const auto field = s.choice("of", field_names())) {
            q.field = static_cast<Field>(*field);
            q.on = s.names("on");
            if (q.on.size() == 1 && q.on[0] == study_.region_name && !is_reaction(q.field))
                q.on.clear();  // the whole of it
            read_place(s, q.at, q.at_name);
            read_take(s, q);
        }
        q.reference = s.number("reference", q.formula ? dimension::none : dimension_of(q.field));
        study_.quantities.push_back(std::move(q));
    }

    void read_take(const Section& s, QuantitySpec& q) {
        const bool total = is_reaction(q.field) || q.field == Field::strain_energy;
        if (total) {
            q.take = Take::total;
            for (const auto* key : {"take", "at"})
                if (s.has(key))
                    s.fault(key, fmt::format("has no meaning for {}, which is a total", name_of(q.field)), "remove it");
            if (q.field == Field::strain_energy && s.has("on"))
                s.fault("on", "has no meaning for the strain energy", "remove it");
            return;
        }
        q.take = q.at ? Take::value : Take::maximum;
        if (const auto take = s.choice("take", take_names)) q.take = static_cast<Take>(*take);
        if ((q.take == Take::value) != q.at.has_value())
            s.fault(q.at ? "at" : "take",
                    q.at ? "goes with take = \"value\" only" : "is \"value\", which needs a point",
                    "as in: at = [10, 20]");
        if (q.at && s.has("on")) s.fault("on", "has no meaning beside at", "remove it");
    }

    void read_exact_stress(const Section& top) {
        const auto* table = top.table("exact_stress");
        if (!table) return;
        const Section s(context_, *table, "exact_stress", "exact_stress");
        ExactStress exact;
        exact.where = s.where();
        exact.about = s.point("about").value_or(Vec2{});
        constexpr std::array<const char*, 3> keys{"sxx", "syy", "sxy"};
        for (std::size_t i = 0; i < 3; ++i) {
            if (!s.has(keys[i])) s.missing(keys[i]);
            if (auto f = s.formula(keys[i], dimension::stress, true)) exact.components[i] = *f;
        }
        study_.exact_stress = std::move(exact);
    }

    /// Things that no single table shows.
    void check_whole() {
        if (study_.materials.empty())
            problems_.add({1, 1}, "the study has no material",
                          "add [material.NAME] with youngs_modulus and poissons_ratio");
        if (study_.supports.empty())
            problems_.add({1, 1}, "the study has no support, so the part is free to move away", "add [support.NAME]");
        if (study_.loads.empty()) {
            const bool moved = std::any_of(study_.supports.begin(), study_.supports.end(), [](const SupportSpec& s) {
                return std::any_of(s.displacement.begin(), s.displacement.end(),
                                   [](const auto& u) { return u && u->constant != 0.0; });
            });
            if (!moved) problems_.add({1, 1}, "the study has no load and no prescribed motion", "add [load.NAME]");
        }
        check_formula_quantities();
        if (study_.quantities.empty())
            problems_.warn({1, 1}, "no quantity is watched, so there will be no verdict on one", "add [quantity.NAME]");
        if (study_.series.empty()) {
            SeriesSpec series;
            series.name = "uniform";
            study_.series.push_back(series);
        }
    }

    /// Formulas of quantities use names of quantities that stand above them.
    void check_formula_quantities() {
        std::vector<std::string> above;
        for (auto& q : study_.quantities) {
            if (q.formula) {
                std::string text = q.formula->source;
                bool good = true;
                for (const auto& name : identifiers(text)) {
                    if (name == "pi" || std::find(above.begin(), above.end(), name) != above.end()) continue;
                    const auto variable = context_.variables.find(name);
                    if (variable != context_.variables.end() && variable->second.constant) {
                        text = replace_identifier(text, name, variable->second.text);
                        continue;
                    }
                    const std::string near = nearest(name, above);
                    problems_.add(
                        q.formula->where,
                        fmt::format("quantity.{}: \"{}\" in the formula is no quantity above it", q.name, name),
                        near.empty() ? "a formula may use quantities that stand above it, and variables"
                                     : fmt::format("did you mean \"{}\"?", near));
                    good = false;
                }
                q.formula->text = text;
                if (good) {
                    try {
                        (void)FormulaEvaluator(*q.formula, problems_.file(), above);
                    } catch (const InputError& e) {
                        problems_.add(q.formula->where, e.what());
                    }
                }
            }
            above.push_back(q.name);
        }
    }

    Study& study_;
    Problems& problems_;
    ReadingContext context_;
};

}  // namespace

Study read_study(const std::filesystem::path& path, const std::string& text, Problems& problems) {
    Study study;
    study.path = path;
    study.source = text;
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
