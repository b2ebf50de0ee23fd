#include "study/file/section.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <string_view>

#include "base/errors.hpp"
#include "study/keys.hpp"
#include "study/share.hpp"
#include "study/units.hpp"

namespace dotsift {

namespace {

constexpr std::size_t few_keys = 12;  // that a message lists all

std::string dimension_in_words(const Dimension& d) {
    if (d == dimension::none) return "a pure number";
    if (d == dimension::length) return "a length";
    if (d == dimension::force) return "a force";
    if (d == dimension::stress) return "a stress";
    if (d == dimension::moment) return "an energy or moment";
    if (d == dimension::temperature) return "a temperature";
    if (d == dimension::expansion) return "a thermal expansion (1/K)";
    if (d == dimension::conductivity) return "a conductivity (W/(m K))";
    if (d == dimension::transfer) return "a transfer coefficient (W/(m^2 K))";
    if (d == dimension::heat_flux) return "a heat flux (W/m^2)";
    if (d == dimension::heat_source) return "a heat source (W/m^3)";
    if (d == dimension::power) return "a power (W)";
    if (d == dimension::resistance) return "a resistance (m^2 K/W)";
    if (d == dimension::density) return "a density";
    if (d == dimension::acceleration) return "an acceleration (m/s^2)";
    if (d == dimension::angular_speed) return "an angular speed (rad/s)";
    if (d == dimension::force_per_volume) return "a force per volume (N/m^3)";
    return "another quantity";
}

std::string kind_in_words(const toml::node& node) {
    switch (node.type()) {
        case toml::node_type::string:
            return "a string";
        case toml::node_type::integer:
        case toml::node_type::floating_point:
            return "a number";
        case toml::node_type::boolean:
            return "true or false";
        case toml::node_type::array:
            return "an array";
        case toml::node_type::table:
            return "a table";
        default:
            return "a date or time";
    }
}

/// A number and a word after it, as in "3 bushels": the word is meant as a unit.
bool number_before(const std::string& source, const std::string& word) {
    char* end = nullptr;
    (void)std::strtod(source.c_str(), &end);
    if (end == source.c_str()) return false;
    while (*end == ' ') ++end;
    return std::string_view(end).starts_with(word);
}

/// Replaces variables by their values or formulas, which are already free of variables.
std::optional<std::string> with_variables(const ReadingContext& context, const std::string& source, Where where,
                                          const std::string& label, const std::vector<std::string>& own) {
    std::string text = source;
    bool good = true;
    for (const auto& name : identifiers(source)) {
        if (std::find(own.begin(), own.end(), name) != own.end() || name == "pi") continue;
        const auto found = context.variables.find(name);
        if (found != context.variables.end()) {
            text = replace_identifier(text, name, found->second.text);
            continue;
        }
        std::vector<std::string> known;
        for (const auto& [n, f] : context.variables) known.push_back(n);
        const std::string near = nearest(name, known);
        if (near.empty() && number_before(source, name))
            context.problems->add(where, fmt::format("{}: \"{}\" is no unit that is known", label, name),
                                  fmt::format("units are {}", known_units()));
        else
            context.problems->add(
                where, fmt::format("{}: \"{}\" in the formula is no variable", label, name),
                near.empty() ? "define it under [variables]" : fmt::format("did you mean \"{}\"?", near));
        good = false;
    }
    if (!good) return std::nullopt;
    return text;
}

}  // namespace

bool has_control(const std::string& text) {
    return std::any_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 32 || c == 127; });
}

namespace {

/// `own`: what the formula may be of besides variables.
std::optional<Formula> read_formula_with(const ReadingContext& context, const toml::node& node, Dimension expected,
                                         const std::string& label, const std::vector<std::string>& own) {
    Problems& problems = *context.problems;
    Formula formula;
    formula.where = where_of(node);
    formula.tables = context.tables;
    const auto constant = [&](double value) -> std::optional<Formula> {
        if (!std::isfinite(value)) {
            problems.add(formula.where, fmt::format("{} is not a finite number", label));
            return std::nullopt;
        }
        constexpr double most = 1e100, least = 1e-100;  // squares and their quotients are numbers, too
        if (value != 0 && (std::fabs(value) > most || std::fabs(value) < least)) {
            problems.add(formula.where, fmt::format("{} is {:g}, beyond what can be computed with", label, value),
                         "numbers are 0, or between 1e-100 and 1e100");
            return std::nullopt;
        }
        formula.constant = value;
        formula.text = fmt::format("{:.17g}", value);
        return formula;
    };
    if (node.is_integer() || node.is_floating_point()) {
        const double value = *node.value<double>();
        formula.source = fmt::format("{}", value);
        return constant(value);
    }
    const auto text = node.value_exact<std::string>();
    if (!text) {
        problems.add(formula.where, fmt::format("{} is {}, but a number is wanted", label, kind_in_words(node)),
                     "write a number, a number with its unit such as \"3 mm\", or a formula in quotes");
        return std::nullopt;
    }
    formula.source = *text;
    if (const auto measure = parse_measure(*text)) {
        if (!(measure->dimension == expected)) {
            problems.add(formula.where,
                         fmt::format("{} = \"{}\" has the unit of {}, but {} is wanted", label, *text,
                                     dimension_in_words(measure->dimension), dimension_in_words(expected)));
            return std::nullopt;
        }
        return constant(context.units.from_si(measure->in_si, measure->dimension));
    }
    const auto expanded = with_variables(context, *text, formula.where, label, own);
    if (!expanded) return std::nullopt;
    formula.text = *expanded;
    const auto used = identifiers(*expanded);
    const bool depends = std::any_of(used.begin(), used.end(), [&](const std::string& name) {
        return std::find(own.begin(), own.end(), name) != own.end();
    });
    try {
        const FormulaEvaluator evaluator(formula, problems.file(), own);
        if (!depends) return constant(evaluator.with(std::vector<double>(own.size(), 1.0)));
    } catch (const InputError& e) {
        problems.add(formula.where, fmt::format("{}: {}", label, e.what()),
                     "write a number, a number with its unit such as \"3 mm\", or a formula");
        return std::nullopt;
    }
    return formula;
}

}  // namespace

std::optional<Formula> read_formula(const ReadingContext& context, const toml::node& node, Dimension expected,
                                    const std::string& label, bool place_allowed) {
    auto formula = read_formula_with(context, node, expected, label, context.in_space ? space_names() : place_names());
    if (!formula || formula->constant || place_allowed) return formula;
    context.problems->add(
        formula->where,
        fmt::format("{} = \"{}\" depends on the place, but one number is wanted", label, formula->source),
        context.in_space ? "x, y, z, r, theta, nx, ny and nz can stand in loads, supports and exact_stress only"
                         : "x, y, r, theta, nx and ny can stand in loads, supports, thickness and exact_stress only");
    return std::nullopt;
}

std::optional<Formula> read_formula_of(const ReadingContext& context, const toml::node& node, Dimension expected,
                                       const std::string& label, const std::string& unknown) {
    auto formula = read_formula_with(context, node, expected, label, {unknown});
    if (!formula || formula->constant || !context.variables.contains(unknown)) return formula;
    context.problems->add(
        formula->where,
        fmt::format("{} = \"{}\" is of {}, which is also a variable of this study", label, formula->source, unknown),
        "give the variable another name");
    return std::nullopt;
}

Section::Section(const ReadingContext& context, const toml::table& table, std::string kind, std::string shown)
    : context_(context), table_(table), kind_(std::move(kind)), shown_(std::move(shown)) {
    const auto allowed = keys_of(kind_);
    for (const auto& [key, value] : table_) {
        const std::string name{key.str()};
        note_place(name, value);
        if (std::find(allowed.begin(), allowed.end(), name) != allowed.end()) continue;
        const Where place{static_cast<int>(key.source().begin.line), static_cast<int>(key.source().begin.column)};
        const std::string near = nearest(name, allowed);
        const std::string in = shown_.empty() ? "at the top of the file" : fmt::format("in [{}]", shown_);
        context_.problems->add(place, fmt::format("unknown key \"{}\" {}", name, in),
                               !near.empty()                ? fmt::format("did you mean \"{}\"?", near)
                               : allowed.size() <= few_keys ? fmt::format("allowed are {}", quoted_list(allowed))
                                                            : fmt::format("`dotsift keys {}` lists what is allowed",
                                                                          kind_.substr(0, kind_.find('.'))));
    }
}

void Section::note_place(const std::string& what, const toml::node& node) const {
    if (context_.places) context_.places->try_emplace({shown_, what}, where_of(node));
}

Where Section::where(std::string_view key) const {
    const auto* n = table_.get(key);
    return n ? where_of(*n) : where();
}

std::string Section::label(std::string_view key) const {
    return shown_.empty() ? std::string(key) : fmt::format("{}.{}", shown_, key);
}

void Section::fault(std::string_view key, std::string what, std::string remedy) const {
    context_.problems->add(where(key), fmt::format("{} {}", label(key), what), std::move(remedy));
}

void Section::missing(std::string_view key, std::string remedy) const {
    context_.problems->add(where(), fmt::format("[{}] lacks the key \"{}\"", shown_, key), std::move(remedy));
}

std::optional<std::size_t> Section::one_of(std::span<const std::string> keys, std::string remedy) const {
    std::optional<std::size_t> found;
    for (std::size_t k = 0; k < keys.size(); ++k) {
        if (!has(keys[k])) continue;
        if (found) {
            fault(keys[k], "stands beside " + keys[*found], "use one of them");
            return std::nullopt;
        }
        found = k;
    }
    if (!found)
        context_.problems->add(where(), fmt::format("[{}] needs one of {}", shown_, quoted_list(keys)),
                               std::move(remedy));
    return found;
}

std::optional<Formula> Section::formula(std::string_view key, Dimension dimension, bool place_allowed) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    return read_formula(context_, *n, dimension, label(key), place_allowed);
}

std::optional<double> Section::number(std::string_view key, Dimension dimension) const {
    const auto f = formula(key, dimension, false);
    return f ? f->constant : std::nullopt;
}

std::optional<double> Section::positive(std::string_view key, Dimension dimension) const {
    const auto value = number(key, dimension);
    if (value && !(*value > 0)) {
        fault(key, fmt::format("is {:g}, but it must be greater than zero", *value));
        return std::nullopt;
    }
    return value;
}

std::optional<double> Section::share(std::string_view key) const {
    const auto value = positive(key, dimension::none);
    const auto* n = node(key);
    if (value && *value >= implausible_share && (n->is_integer() || n->is_floating_point())) {
        fault(key, implausible_share_in_words(*value), share_meant_instead(*value));
        return std::nullopt;
    }
    return value;
}

std::optional<std::int64_t> Section::whole(std::string_view key, std::int64_t least) const {
    const auto value = number(key, dimension::none);
    if (!value) return std::nullopt;
    if (*value != std::floor(*value) || *value < static_cast<double>(least) || *value > 1e15) {
        fault(key, fmt::format("is {:g}, but a whole number of at least {} is wanted", *value, least));
        return std::nullopt;
    }
    return static_cast<std::int64_t>(*value);
}

namespace {

template <int D>
std::optional<Vec<D>> read_point(const ReadingContext& context, const toml::node& node, const std::string& label) {
    const auto* list = node.as_array();
    if (!list || list->size() != static_cast<std::size_t>(D)) {
        context.problems->add(where_of(node),
                              fmt::format("{} must be {} numbers in brackets", label, D == 2 ? "two" : "three"),
                              D == 2 ? "as in [10, 20]" : "as in [10, 20, 5]");
        return std::nullopt;
    }
    Vec<D> p{};
    bool good = true;
    for (std::size_t k = 0; k < p.size(); ++k) {
        const auto c =
            read_formula(context, *list->get(k), dimension::length, fmt::format("{}[{}]", label, "xyz"[k]), false);
        good = good && c;
        if (c) p[k] = *c->constant;
    }
    return good ? std::optional(p) : std::nullopt;
}

}  // namespace

template <int D>
std::optional<Vec<D>> Section::point_in(std::string_view key) const {
    const auto* n = table_.get(key);
    return n ? read_point<D>(context_, *n, label(key)) : std::nullopt;
}
template std::optional<Vec2> Section::point_in<2>(std::string_view) const;
template std::optional<Vec3> Section::point_in<3>(std::string_view) const;

template <int D>
std::vector<Vec<D>> Section::points_in(std::string_view key) const {
    std::vector<Vec<D>> list;
    const auto* n = table_.get(key);
    if (!n) return list;
    const auto* array = n->as_array();
    if (!array) {
        fault(key, fmt::format("is {}, but an array of points is wanted", kind_in_words(*n)),
              D == 2 ? "as in [[0, 0], [10, 0]]" : "as in [[0, 0, 0], [10, 0, 0]]");
        return list;
    }
    std::size_t i = 0;
    for (const auto& item : *array)
        if (const auto p = read_point<D>(context_, item, fmt::format("{}[{}]", label(key), ++i))) list.push_back(*p);
    if (list.size() != array->size()) list.clear();
    return list;
}
template std::vector<Vec2> Section::points_in<2>(std::string_view) const;
template std::vector<Vec3> Section::points_in<3>(std::string_view) const;

std::optional<std::string> Section::text(std::string_view key) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    auto value = n->value_exact<std::string>();
    if (!value) fault(key, fmt::format("is {}, but a string is wanted", kind_in_words(*n)), "put it in quotes");
    if (value && has_control(*value)) {
        fault(key, "holds a control character", "write it without");
        return std::nullopt;
    }
    if (value) note_place(*value, *n);
    return value;
}

std::optional<std::size_t> Section::choice(std::string_view key, std::span<const std::string> allowed) const {
    const auto value = text(key);
    return value ? choice_of(key, *value, allowed) : std::nullopt;
}

std::vector<std::size_t> Section::choices(std::string_view key, std::span<const std::string> allowed) const {
    std::vector<std::size_t> list;
    for (const auto& name : names(key))
        if (const auto k = choice_of(key, name, allowed)) list.push_back(*k);
    return list;
}

std::optional<std::size_t> Section::choice_of(std::string_view key, const std::string& value,
                                              std::span<const std::string> allowed) const {
    const auto found = std::find(allowed.begin(), allowed.end(), value);
    if (found != allowed.end()) return static_cast<std::size_t>(found - allowed.begin());
    const std::string near = nearest(value, allowed);
    fault(key, fmt::format("is \"{}\", which is not known", value),
          near.empty() ? fmt::format("allowed are {}", quoted_list(allowed))
                       : fmt::format("did you mean \"{}\"? allowed are {}", near, quoted_list(allowed)));
    return std::nullopt;
}

std::vector<std::string> Section::names(std::string_view key) const {
    const auto* n = table_.get(key);
    if (!n) return {};
    if (const auto one = n->value_exact<std::string>()) {
        if (one->empty()) {
            fault(key, "is empty", "give the name of a boundary");
            return {};
        }
        if (has_control(*one)) {
            fault(key, "holds a control character", "write it without");
            return {};
        }
        note_place(*one, *n);
        return {*one};
    }
    std::vector<std::string> list;
    if (const auto* array = n->as_array()) {
        for (const auto& item : *array)
            if (const auto name = item.value_exact<std::string>(); name && !name->empty()) {
                note_place(*name, item);
                list.push_back(*name);
            }
        if (list.size() == array->size() && !list.empty()) return list;
    }
    fault(key, "must be a name or an array of names", "as in \"bore\" or [\"left\", \"right\"]");
    return {};
}

std::optional<std::array<Formula, 3>> Section::formulas(std::string_view key, Dimension dimension) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    const auto* list = n->as_array();
    const std::size_t wanted = context_.in_space ? 3 : 2;
    if (!list || list->size() != wanted) {
        if (context_.in_space)
            fault(key, "must be three numbers or formulas in brackets", "as in [0, -500, 0] or [\"2*x\", 0, 0]");
        else
            fault(key, "must be two numbers or formulas in brackets", "as in [0, -500] or [\"2*x\", 0]");
        return std::nullopt;
    }
    constexpr std::array<const char*, 3> along{"[x]", "[y]", "[z]"};
    std::array<Formula, 3> out;
    bool sound = true;
    for (std::size_t c = 0; c < wanted; ++c) {
        const auto f = read_formula(context_, *list->get(c), dimension, label(key) + along[c], true);
        if (f)
            out[c] = *f;
        else
            sound = false;
    }
    if (!sound) return std::nullopt;
    return out;
}

std::optional<std::vector<double>> Section::numbers(std::string_view key, std::size_t least, std::size_t most,
                                                    Dimension dimension) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    std::vector<double> out;
    const auto* list = n->as_array();
    if (!list && least == 1) {
        const auto f = read_formula(context_, *n, dimension, label(key), false);
        if (!f) return std::nullopt;
        return std::vector<double>{*f->constant};
    }
    if (!list || list->size() < least || list->size() > most) {
        fault(key, least == most ? fmt::format("must be {} numbers in brackets", least)
                                 : fmt::format("must be one number, or up to {} in brackets", most));
        return std::nullopt;
    }
    for (const auto& node : *list) {
        const auto f = read_formula(context_, node, dimension, label(key), false);
        if (!f) return std::nullopt;
        out.push_back(*f->constant);
    }
    return out;
}

bool Section::holds_lists(std::string_view key) const {
    const auto* n = table_.get(key);
    const auto* list = n ? n->as_array() : nullptr;
    return list && !list->empty() && (*list)[0].is_array();
}

std::optional<std::array<std::int64_t, 2>> Section::one_or_two_wholes(std::string_view key) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    const auto read = [&](const toml::node& node) -> std::optional<std::int64_t> {
        const auto f = read_formula(context_, node, dimension::none, label(key), false);
        if (!f) return std::nullopt;
        if (*f->constant == std::floor(*f->constant) && *f->constant >= 1 && *f->constant <= 1e6)
            return static_cast<std::int64_t>(*f->constant);
        fault(key, fmt::format("is {:g}, but a whole number between 1 and a million is wanted", *f->constant));
        return std::nullopt;
    };
    std::array<std::int64_t, 2> out{1, 1};
    if (const auto* pair = n->as_array()) {
        if (pair->size() != 2) {
            fault(key, "must be one whole number, or two in brackets", "as in 6 or [4, 3]");
            return std::nullopt;
        }
        for (std::size_t i = 0; i < 2; ++i) {
            const auto v = read(*pair->get(i));
            if (!v) return std::nullopt;
            out[i] = *v;
        }
        return out;
    }
    const auto v = read(*n);
    if (!v) return std::nullopt;
    out[0] = *v;
    return out;
}

template <int D, std::size_t N>
std::optional<std::array<Vec<D>, N>> Section::exactly(std::string_view key) const {
    if (!has(key)) return std::nullopt;
    const std::size_t before = context_.problems->count();
    const auto list = points_in<D>(key);
    if (list.size() == N) {
        std::array<Vec<D>, N> out{};
        std::copy(list.begin(), list.end(), out.begin());
        return out;
    }
    if (context_.problems->count() == before)
        fault(key, fmt::format("must be {} points", N == 2 ? "two" : "three"),
              D == 2   ? "as in [[0, 0], [10, 0]]"
              : N == 2 ? "as in [[0, 0, 0], [0, 0, 1]]"
                       : "as in [[0, 0, 0], [0, 1, 0], [0, 0, 1]]");
    return std::nullopt;
}
template std::optional<std::array<Vec2, 2>> Section::exactly<2, 2>(std::string_view) const;
template std::optional<std::array<Vec3, 2>> Section::exactly<3, 2>(std::string_view) const;
template std::optional<std::array<Vec3, 3>> Section::exactly<3, 3>(std::string_view) const;

std::optional<std::array<std::string, 2>> Section::two_names(std::string_view key) const {
    if (!has(key)) return std::nullopt;
    const std::size_t before = context_.problems->count();
    const auto list = names(key);
    if (list.size() == 2) return std::array<std::string, 2>{list[0], list[1]};
    if (context_.problems->count() == before) fault(key, "must be two names in brackets", "as in [\"top\", \"notch\"]");
    return std::nullopt;
}

std::optional<bool> Section::flag(std::string_view key) const {
    const auto* n = table_.get(key);
    if (!n) return std::nullopt;
    const auto value = n->value_exact<bool>();
    if (!value) fault(key, fmt::format("is {}, but true or false is wanted", kind_in_words(*n)));
    return value;
}

bool is_proper_name(std::string_view name) {
    constexpr std::size_t longest = 64;
    if (name.empty() || name.size() > longest || std::isdigit(static_cast<unsigned char>(name[0]))) return false;
    return std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isalnum(c) || c == '_'; });
}

void each_named(const Section& parent, const std::string& key,
                const std::function<void(const Section&, const std::string&)>& act) {
    const auto* tables = parent.table(key);
    if (!tables) return;
    Problems& problems = *parent.context().problems;
    const std::string path = parent.shown().empty() ? key : parent.shown() + "." + key;
    std::vector<std::pair<const toml::key*, const toml::node*>> in_order;
    for (const auto& [name, node] : *tables) in_order.emplace_back(&name, &node);
    std::stable_sort(in_order.begin(), in_order.end(),
                     [](const auto& a, const auto& b) { return a.first->source().begin < b.first->source().begin; });
    for (const auto& [name, node] : in_order) {
        if (!is_proper_name(name->str()) ||
            (key == "series" && (name->str() == "charts" || name->str() == "pictures"))) {
            problems.add(where_of(*name), fmt::format("\"{}\" cannot name a {}", name->str(), key),
                         "use letters, digits and _ ; names become file names and stand in formulas");
            continue;
        }
        const auto* table = node->as_table();
        if (!table) {
            problems.add(where_of(*node), fmt::format("{}.{} is no table", path, name->str()),
                         fmt::format("every {} has a name, as in [{}.my_name]", key, path));
            continue;
        }
        act(Section(parent.context(), *table, path + ".NAME", fmt::format("{}.{}", path, name->str())),
            std::string(name->str()));
    }
}

const toml::table* Section::table(std::string_view key) const {
    const auto* n = table_.get(key);
    if (!n) return nullptr;
    const auto* t = n->as_table();
    if (!t)
        fault(key, fmt::format("is {}, but a table is wanted", kind_in_words(*n)),
              fmt::format("as in [{}]", label(key)));
    return t;
}

}  // namespace dotsift
