#include "study/formula.hpp"

#include <fmt/format.h>
#include <muParser.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"

namespace dotsift {

namespace {

bool starts_name(char c) {
    return std::isalpha(static_cast<unsigned char>(c)) || c == '_';
}
bool continues_name(char c) {
    return std::isalnum(static_cast<unsigned char>(c)) || c == '_';
}

/// Calls act(begin, end) for each identifier that is not followed by "(" and is no part of a number such as 1e5.
template <class Act>
void for_each_identifier(const std::string& text, Act act) {
    for (std::size_t i = 0; i < text.size();) {
        if (std::isdigit(static_cast<unsigned char>(text[i])) || text[i] == '.') {
            while (i < text.size() && (std::isdigit(static_cast<unsigned char>(text[i])) || text[i] == '.')) ++i;
            if (i < text.size() && (text[i] == 'e' || text[i] == 'E')) {
                std::size_t j = i + 1;
                if (j < text.size() && (text[j] == '+' || text[j] == '-')) ++j;
                if (j < text.size() && std::isdigit(static_cast<unsigned char>(text[j]))) {
                    while (j < text.size() && std::isdigit(static_cast<unsigned char>(text[j]))) ++j;
                    i = j;
                }
            }
        } else if (starts_name(text[i])) {
            const std::size_t begin = i;
            while (i < text.size() && continues_name(text[i])) ++i;
            std::size_t next = i;
            while (next < text.size() && text[next] == ' ') ++next;
            if (next >= text.size() || text[next] != '(') act(begin, i);
        } else {
            ++i;
        }
    }
}

void define_common(mu::Parser& parser) {
    parser.ClearConst();
    parser.DefineConst("pi", std::numbers::pi);
    parser.DefineFun("mod", [](double a, double b) { return std::fmod(a, b); });
}

}  // namespace

bool is_function_of_formulas(const std::string& name) {
    mu::Parser parser;
    define_common(parser);
    return parser.GetFunDef().count(name) > 0;
}

const std::vector<std::string>& place_names() {
    static const std::vector<std::string> names{"x", "y", "r", "theta", "nx", "ny"};
    return names;
}

const std::vector<std::string>& space_names() {
    static const auto names = [] {
        auto all = place_names();
        all.insert(all.end(), {"z", "nz"});
        return all;
    }();
    return names;
}

std::vector<std::string> identifiers(const std::string& text) {
    std::vector<std::string> names;
    for_each_identifier(text, [&](std::size_t b, std::size_t e) {
        std::string name = text.substr(b, e - b);
        if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(std::move(name));
    });
    return names;
}

std::string replace_identifier(const std::string& text, const std::string& name, const std::string& by) {
    std::string result;
    std::size_t copied = 0;
    for_each_identifier(text, [&](std::size_t b, std::size_t e) {
        if (text.compare(b, e - b, name) != 0) return;
        result.append(text, copied, b - copied).append("(").append(by).append(")");
        copied = e;
    });
    return result.append(text, copied, std::string::npos);
}

double ValueTable::operator()(double x) const {
    if (!(x > at.front())) return std::isnan(x) ? x : value.front();
    if (x >= at.back()) return value.back();
    const auto k = static_cast<std::size_t>(std::upper_bound(at.begin(), at.end(), x) - at.begin());
    const double t = (x - at[k - 1]) / (at[k] - at[k - 1]);
    return value[k - 1] + t * (value[k] - value[k - 1]);
}

struct FormulaEvaluator::Impl {
    mu::Parser parser;
    std::vector<double> values;
    Formula formula;
    std::string file;

    [[nodiscard]] Place place() const { return place_in(file, formula.where); }
    double evaluate() {
        try {
            int count = 0;
            const double* results = parser.Eval(count);
            if (count != 1)
                throw InputError(fmt::format("\"{}\" is {} values, but one number is wanted", formula.source, count),
                                 place(), "a decimal point is a point: 1.5");
            return results[0];
        } catch (const mu::Parser::exception_type& e) {
            throw InputError(fmt::format("the formula \"{}\" cannot be evaluated: {}", formula.source, e.GetMsg()),
                             place(), "check its names, brackets and operators");
        }
    }
};

FormulaEvaluator::FormulaEvaluator(const Formula& formula, std::string file)
    : FormulaEvaluator(formula, std::move(file), place_names()) {}

FormulaEvaluator::FormulaEvaluator(const Formula& formula, std::string file, const std::vector<std::string>& names)
    : impl_(std::make_unique<Impl>()) {
    impl_->formula = formula;
    impl_->file = std::move(file);
    impl_->values.assign(names.size(), 1.0);
    try {
        define_common(impl_->parser);
        if (formula.tables)
            for (const auto& table : *formula.tables) {
                auto* data = const_cast<ValueTable*>(&table);
                if (table.faulty)
                    impl_->parser.DefineFun(table.name, [](const double*, int) -> double { return 1; });
                else if (table.scattered)
                    impl_->parser.DefineFunUserData(
                        table.name,
                        [](void* t, double x, double y) -> double {
                            return (*static_cast<const ValueTable*>(t)->scattered)({{x, y}});
                        },
                        data);
                else
                    impl_->parser.DefineFunUserData(
                        table.name, [](void* t, double x) -> double { return (*static_cast<const ValueTable*>(t))(x); },
                        data);
            }
        for (std::size_t i = 0; i < names.size(); ++i) impl_->parser.DefineVar(names[i], &impl_->values[i]);
        impl_->parser.SetExpr(formula.text);
    } catch (const mu::Parser::exception_type& e) {
        throw InputError(fmt::format("the formula \"{}\" cannot be read: {}", formula.source, e.GetMsg()),
                         impl_->place());
    }
    impl_->evaluate();
}

FormulaEvaluator::~FormulaEvaluator() = default;
FormulaEvaluator::FormulaEvaluator(FormulaEvaluator&&) noexcept = default;
FormulaEvaluator& FormulaEvaluator::operator=(FormulaEvaluator&&) noexcept = default;

double FormulaEvaluator::operator()(const FormulaPlace& p) const {
    if (impl_->formula.constant) return *impl_->formula.constant;
    const Vec2 d = p.position - p.about;
    impl_->values = {p.position[0], p.position[1], norm(d), std::atan2(d[1], d[0]), p.normal[0], p.normal[1]};
    return finite(impl_->evaluate(), p.position);
}

double FormulaEvaluator::operator()(const FormulaPlaceIn<3>& p) const {
    if (impl_->formula.constant) return *impl_->formula.constant;
    const Vec3 d = p.position - p.about;
    impl_->values = {p.position[0], p.position[1], std::hypot(d[0], d[1]), std::atan2(d[1], d[0]),
                     p.normal[0],   p.normal[1],   p.position[2],          p.normal[2]};
    return finite(impl_->evaluate(), p.position);
}

double FormulaEvaluator::finite(double value, const Position& at) const {
    if (std::isfinite(value)) return value;
    auto place = impl_->place();
    place.position = at;
    throw InputError(
        fmt::format("the formula \"{}\" gives no finite number at x = {:g}, y = {:g}{}", impl_->formula.source, at[0],
                    at[1], at.in_space() ? fmt::format(", z = {:g}", at[2]) : ""),
        place, "guard it, for example with max(..., small) or a condition ? a : b");
}

double FormulaEvaluator::with(const std::vector<double>& values) const {
    impl_->values = values;
    return impl_->evaluate();
}

}  // namespace dotsift
