#include "study/file/read_quantity.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "study/file/read_physics.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> take_names{"maximum", "minimum", "mean", "value", "integral", "membrane", "linearised"};

// Rows of a path's table.
constexpr std::int64_t most_samples = 100'000;

const std::vector<std::string> origin_names{"recovered", "elements", "integration_points"};

/// The path of a name; null: there is none.
const PathSpec* path_of(const Study& study, const std::string& name) {
    const auto found =
        std::find_if(study.paths.begin(), study.paths.end(), [&](const PathSpec& p) { return p.name == name; });
    return found == study.paths.end() ? nullptr : &*found;
}

void read_take(const Section& s, const Study& study, QuantitySpec& q) {
    if (is_total(q.field)) {
        q.take = Take::total;
        for (const auto* key : {"take", "at", "inside", "along"})
            if (s.has(key) && !(is_section(q.field) && std::string_view(key) == "along"))
                s.fault(key, fmt::format("has no meaning for {}, which is a total", name_of(q.field)), "remove it");
        if (is_energy(q.field) && s.has("on")) s.fault("on", "has no meaning for an energy of the whole", "remove it");
        if (q.field == Field::turn && q.on.empty())
            s.missing("on", "the boundary whose turn is wanted, as in: on = \"flange\"");
        if (is_section(q.field) && !s.has("along"))
            s.missing("along", "the path that cuts the part there, as in: along = \"mid\"");
        return;
    }
    q.take = q.at ? Take::value : q.field == Field::min_principal ? Take::minimum : Take::maximum;
    if (const auto take = s.choice("take", take_names)) q.take = static_cast<Take>(*take);
    if ((q.take == Take::value) != q.at.has_value())
        s.fault(q.at ? "at" : "take", q.at ? "goes with take = \"value\" only" : "is \"value\", which needs a point",
                "as in: at = [10, 20]");
    if (q.at && s.has("on")) s.fault("on", "has no meaning beside at", "remove it");
    if (s.has("inside") && ((q.on.empty() && !q.at) || !q.along.empty()))
        s.fault("inside", "says which side of an interface counts, but none is named",
                "add on or at, or use on = \"REGION\" for a whole region");
    if (q.take == Take::membrane || q.take == Take::linearised) {
        if (const PathSpec* path = path_of(study, q.along); path && (path->on_boundary() || path->points.size() > 2))
            s.fault("along",
                    fmt::format("is a path {}, but a stress is linearised straight through a wall",
                                path->on_boundary() ? "on a boundary" : "with corners between its ends"),
                    "use a path of two points");
        if (!is_of_stress(q.field))
            s.fault("take", "linearises stress across a path; this is none", "use a stress, such as von_mises");
        if (!s.has("along")) s.missing("along", "the path across the wall, as in: along = \"wall\"");
    }
    static const std::vector<std::string> ends{"first", "last"};
    if (const auto end = s.choice("end", ends)) q.end = static_cast<PathEnd>(*end);
    if (q.end && q.take != Take::linearised)
        s.fault("end", "says which end of a linearised stress counts, but none is taken", "use take = \"linearised\"");
}

/// Of a quantity whose numbers may carry a unit.
Dimension dimension_of_result(const QuantitySpec& q, const Study& study) {
    const bool plain =
        q.formula || q.take == Take::integral || (is_of_potential(q.field) && !study.conduction.of_heat());
    return plain ? dimension::none : dimension_of(q.field);
}

/// A share of the value, or a number with the quantity's unit.
void read_target(const Section& s, const Dimension& dimension, QuantitySpec& q) {
    const auto* node = s.node("target");
    const auto* text = node ? node->as_string() : nullptr;
    const auto measure = text ? parse_measure(text->get()) : std::nullopt;
    if (measure && !(measure->dimension == dimension::none) && measure->dimension == dimension) {
        if (const auto value = s.positive("target", dimension)) q.target = QuantityTarget{*value, true};
        return;
    }
    if (const auto value = s.share("target")) q.target = QuantityTarget{*value, false};
}

/// What the quantity may be.
void read_limit(const Section& s, const Dimension& dimension, QuantitySpec& q) {
    const auto* table = s.table("limit");
    if (!table) return;
    const Section l(s.context(), *table, "quantity.NAME.limit", s.shown() + ".limit");
    QuantityLimit limit;
    limit.highest = l.number("highest", dimension);
    limit.lowest = l.number("lowest", dimension);
    const auto safety = l.positive("factor_of_safety", dimension::none);
    if (!l.has("highest") && !l.has("lowest"))
        s.fault("limit", "has neither highest nor lowest", "as in: limit = { highest = \"160 MPa\" }");
    if (safety && *safety < 1)
        l.fault("factor_of_safety", fmt::format("is {:g}, which would loosen the limit", *safety), "give 1 or more");
    for (const auto* key : {"highest", "lowest"})
        if (safety && (std::string(key) == "highest" ? limit.highest : limit.lowest) == 0.0)
            l.fault("factor_of_safety", fmt::format("changes nothing of {} = 0", key),
                    "remove it, or give another limit");
    if (!limit.highest && !limit.lowest) return;
    limit.safety = std::max(safety.value_or(1), 1.0);
    if (limit.highest && limit.lowest && !(limit.allowed_lowest() < limit.allowed_highest()))
        s.fault("limit",
                fmt::format("leaves no value: lowest is not below highest{}",
                            limit.safety > 1 ? ", with the factor of safety" : ""),
                "are they exchanged?");
    q.limit = limit;
}

/// The elements' own fields are found over areas, and at points.
void check_origin(const Section& s, const QuantitySpec& q) {
    if (q.origin == FieldOrigin::recovered) return;
    if (!is_of_stress(q.field) && !is_of_flux(q.field))
        s.fault("from", "goes with stress, strain and flux only", "remove it");
    if (!q.along.empty()) s.fault("from", "has no meaning along a path", "remove it");
    if (q.origin == FieldOrigin::integration_points && q.take == Take::value)
        s.fault("from", "is \"integration_points\", but a value at a point is wanted", "use \"elements\"");
}

void read_quantity(const Section& s, const std::string& name, Study& study) {
    QuantitySpec q;
    q.name = name;
    q.where = s.where();
    const auto* about = s.node("about");
    if (about && about->is_string())
        q.about_name = s.text("about").value_or("");
    else
        q.about = s.point("about").value_or(Vec2{});
    static const std::vector<std::string> subjects{"of", "formula"};
    if (!s.one_of(subjects, "as in: of = \"von_mises\"")) {
        // told
    } else if (s.has("formula")) {
        for (const auto* key : {"take", "on", "at", "along", "end", "case", "from", "inside", "relative_to"})
            if (s.has(key)) s.fault(key, "has no meaning beside a formula", "remove it");
        if (auto text = s.text("formula")) q.formula = Formula{*text, *text, s.where("formula"), std::nullopt, nullptr};
    } else if (const auto field = s.choice("of", field_names())) {
        q.field = static_cast<Field>(*field);
        if (study.solid() ? is_of_plane(q.field) : is_of_space(q.field))
            s.fault("of",
                    fmt::format("is {}, which a {} part has not", name_of(q.field), study.solid() ? "solid" : "plane"));
        q.on = s.names("on");
        q.inside = s.names("inside");
        q.along = s.text("along").value_or("");
        if (!q.along.empty()) {
            for (const auto* key : {"on", "at"})
                if (s.has(key)) s.fault(key, "has no meaning beside along", "remove it");
            std::vector<std::string> known;
            for (const auto& p : study.paths) known.push_back(p.name);
            if (std::find(known.begin(), known.end(), q.along) == known.end())
                s.fault("along", fmt::format("is \"{}\", but no path has that name", q.along),
                        known.empty() ? "add [path.NAME] with points" : "paths are " + quoted_list(known));
        }
        q.load_case = s.text("case").value_or("");
        if (!q.load_case.empty()) {
            std::vector<std::string> known;
            for (const auto& c : study.cases) known.push_back(c.name);
            if (std::none_of(known.begin(), known.end(), [&](const auto& n) { return fits_pattern(n, q.load_case); }))
                s.fault("case", fmt::format("is \"{}\", but no case has that name", q.load_case),
                        known.empty() ? "add [case.NAME] with factors" : "cases are " + quoted_list(known));
        }
        read_place(s, q.at, q.at_name);
        if (const auto origin = s.choice("from", origin_names)) q.origin = static_cast<FieldOrigin>(*origin);
        read_take(s, study, q);
        check_origin(s, q);
        read_place(s, q.relative_to, q.relative_to_name, "relative_to");
        if (q.relative_to && !is_of_displacement(q.field))
            s.fault("relative_to", fmt::format("goes with displacements, but of is {}", name_of(q.field)), "remove it");
        if (is_of_potential(q.field) && !study.conducts())
            s.fault("of", fmt::format("is {}, but no material has a conductivity", name_of(q.field)));
        if (!is_of_potential(q.field) && !study.elastic())
            s.fault("of", fmt::format("is {}, but only conduction is solved", name_of(q.field)));
    }
    const Dimension dimension = dimension_of_result(q, study);
    read_target(s, dimension, q);
    // Peaks are found where they are on each mesh, and their dual problem is that of a mean round them: only if asked.
    const bool peak = q.formula || q.take == Take::maximum || q.take == Take::minimum;
    const auto dual = s.flag("dual");
    const PathSpec* path = path_of(study, q.along);
    const bool has_dual =
        !q.relative_to && q.field != Field::turn && q.field != Field::dissipation && !(path && path->on_boundary());
    q.dual = dual.value_or(q.target && !peak && has_dual);
    if (dual.value_or(false) && q.formula)
        s.fault("dual", "cannot be had of a formula", "ask for that of the quantities in it");
    if (dual.value_or(false) && !q.formula && !has_dual)
        s.fault("dual",
                "cannot be had of a turn, a dissipation, a displacement relative to a point, or along a boundary",
                "remove it");
    q.reference = s.number("reference", dimension);
    read_limit(s, dimension, q);
    const auto add = [&](const QuantitySpec& one) {
        if (std::any_of(study.quantities.begin(), study.quantities.end(),
                        [&](const QuantitySpec& other) { return other.name == one.name; }))
            s.fault("case", fmt::format("makes a quantity {}, but another one has that name", one.name),
                    "give one of them another name");
        study.quantities.push_back(one);
    };
    if (q.load_case.find_first_of("*?") == std::string::npos) {
        add(q);
        return;
    }
    for (const auto& c : study.cases) {
        if (!fits_pattern(c.name, q.load_case)) continue;
        QuantitySpec one = q;
        one.name = name + "_" + c.name;
        one.load_case = c.name;
        add(one);
    }
}

/// Formulas of quantities use names of quantities that stand above them.
void check_formula_quantities(const ReadingContext& context, Study& study) {
    std::vector<std::string> above;
    for (auto& q : study.quantities) {
        if (q.formula) {
            std::string text = q.formula->source;
            bool good = true;
            for (const auto& name : identifiers(text)) {
                if (name == "pi" || std::find(above.begin(), above.end(), name) != above.end()) continue;
                const auto variable = context.variables.find(name);
                if (variable != context.variables.end() && variable->second.constant) {
                    text = replace_identifier(text, name, variable->second.text);
                    continue;
                }
                const std::string near = nearest(name, above);
                context.problems->add(
                    q.formula->where,
                    fmt::format("quantity.{}: \"{}\" in the formula is no quantity above it", q.name, name),
                    near.empty() ? "a formula may use quantities that stand above it, and variables"
                                 : fmt::format("did you mean \"{}\"?", near));
                good = false;
            }
            q.formula->text = text;
            if (good) {
                try {
                    (void)FormulaEvaluator(*q.formula, context.problems->file(), above);
                } catch (const InputError& e) {
                    context.problems->add(q.formula->where, e.what());
                }
            }
        }
        above.push_back(q.name);
    }
}

}  // namespace

const std::vector<std::string>& field_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        list.reserve(field_count);
        for (int f = 0; f < field_count; ++f) list.emplace_back(name_of(static_cast<Field>(f)));
        return list;
    }();
    return names;
}

void read_quantities(const Section& top, Study& study) {
    static const std::vector<std::string> courses{"points", "follow"};
    each_named(top, "path", [&](const Section& s, const std::string& name) {
        PathSpec p;
        p.name = name;
        p.where = s.where();
        (void)s.one_of(courses, "its corners, points = [[0, 0], [10, 0]], or a boundary, follow = \"rim\"");
        if (s.context().in_space) {
            p.points = s.points_in<3>("points");
            if (s.has("follow"))
                s.fault("follow", "goes along boundaries of a plane part, but this is a solid",
                        "give its corners: points");
        } else {
            for (const Vec2& point : s.points("points")) p.points.push_back(in_space(point));
        }
        p.follow = s.names("follow");
        const auto* corners = s.node("points") ? s.node("points")->as_array() : nullptr;
        if (corners && corners->size() < 2) s.fault("points", "must be at least two");
        read_place(s, p.from, p.from_name, "from");
        read_place(s, p.to, p.to_name, "to");
        for (const auto* key : {"from", "to"})
            if (s.has(key) && s.has("points")) s.fault(key, "goes with follow", "remove it");
        for (std::size_t i = 1; i < p.points.size(); ++i)
            if (p.points[i] == p.points[i - 1]) s.fault("points", "has the same point twice in a row");
        p.samples = s.whole("samples", 2).value_or(p.samples);
        if (p.samples > most_samples) {
            s.fault("samples", fmt::format("is {}, but at most {} are listed", p.samples, most_samples));
            p.samples = most_samples;
        }
        study.paths.push_back(std::move(p));
    });
    each_named(top, "quantity", [&](const Section& s, const std::string& name) { read_quantity(s, name, study); });
    check_formula_quantities(top.context(), study);
}

}  // namespace dotsift
