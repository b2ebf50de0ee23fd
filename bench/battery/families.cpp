#include "families.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace dotsift::bench {

std::string variables(const FieldFormulas& fields) {
    std::string out = "[variables]\n";
    for (const auto& [name, text] : fields) out += fmt::format("{}_known = \"{}\"\n", name, text);
    return out;
}

std::string steel(double e, double nu) {
    return fmt::format("[material.m]\nyoungs_modulus = {}\npoissons_ratio = {}\n", e, nu);
}

std::string rectangle(const std::string& verb, double x, double y, double width, double height,
                      const std::string& more) {
    return fmt::format("[[part.shape]]\n{} = \"rectangle\"\ncorner = [{}, {}]\nsize = [{}, {}]\n{}", verb, x, y, width,
                       height, more);
}

std::string disc(const std::string& verb, double x, double y, double radius, const std::string& name) {
    return fmt::format("[[part.shape]]\n{} = \"circle\"\ncentre = [{}, {}]\nradius = {}\nname = \"{}\"\n", verb, x, y,
                       radius, name);
}

std::string polygon(const std::string& corners, const std::string& more) {
    return fmt::format("[[part.shape]]\nadd = \"polygon\"\ncorners = {}\n{}", corners, more);
}

std::string quarter_ring(double a, double b) {
    return disc("add", 0, 0, b, "outside") + disc("cut", 0, 0, a, "inside") +
           rectangle("intersect", 0, 0, b, b, "names = { left = \"x_zero\", bottom = \"y_zero\" }\n");
}

std::string tractions(const std::string& on) {
    return fmt::format(
        "[load.known]\non = {}\ntraction = [\"sxx_known * nx + sxy_known * ny\", \"sxy_known * nx + syy_known * "
        "ny\"]\n",
        on);
}

std::string symmetric_quarter() {
    return "[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n";
}

std::string held_as_known(const std::string& name, const std::string& on) {
    return fmt::format("[support.{}]\non = \"{}\"\nux = \"ux_known\"\nuy = \"uy_known\"\n", name, on);
}

std::string pinned_as_known(const Vec2& a, const Vec2& b, const FieldFormulas& fields) {
    const auto value = [&](const char* name, const Vec2& p) -> double {
        for (const auto& [n, text] : fields) {
            if (n != name) continue;
            Formula f;
            f.source = f.text = text;
            return FormulaEvaluator(f, "exact")({p, {}, {}});
        }
        return NAN;
    };
    return fmt::format(
        "[support.pin]\nat = [{}, {}]\nux = {:.17g}\nuy = {:.17g}\n[support.roller]\nat = [{}, {}]\n{} = {:.17g}\n",
        a[0], a[1], value("ux", a), value("uy", a), b[0], b[1],
        std::fabs(b[0] - a[0]) > std::fabs(b[1] - a[1]) ? "uy" : "ux",
        value(std::fabs(b[0] - a[0]) > std::fabs(b[1] - a[1]) ? "uy" : "ux", b));
}

std::string at(double x, double y, const std::string& more) {
    return fmt::format("at = [{}, {}]\n{}", x, y, more);
}

std::string on(const std::string& name, const std::string& more) {
    return fmt::format("on = \"{}\"\n{}", name, more);
}

std::string mean(const std::string& name, const std::string& take) {
    return fmt::format("on = \"{}\"\ntake = \"{}\"\ndual = true", name, take);
}

std::string quantity(const std::string& name, const std::string& of, const std::string& more) {
    return fmt::format("[quantity.{}]\nof = \"{}\"\n{}\n", name, of, more);
}

std::vector<Family> families() {
    std::vector<Family> all;
    for (auto* part : {&stress_families, &heat_families, &revolved_families})
        for (auto& f : (*part)()) all.push_back(std::move(f));
    std::sort(all.begin(), all.end(), [](const Family& a, const Family& b) { return a.name < b.name; });
    return all;
}

bool chosen_half(const std::string& family) {
    const auto rank = [](const std::string& name) {
        std::uint64_t h = 14695981039346656037ULL;  // FNV-1a
        // The draw comes first: what ends alike is ranked alike.
        for (const char c : std::to_string(draw) + "#" + name)
            h = (h ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
        return h;
    };
    static const std::vector<std::uint64_t> ranks = [&] {
        std::vector<std::uint64_t> list;
        for (const auto& f : families()) list.push_back(rank(f.name));
        std::sort(list.begin(), list.end());
        return list;
    }();
    return rank(family) < ranks[ranks.size() / 2];
}

StudyAndPart opened(const std::string& name, const std::string& text) {
    Problems problems(name);
    StudyAndPart both = open_study(name, text, problems);
    problems.throw_if_any();
    return both;
}

std::vector<double> truths(const Family& f, const StudyAndPart& both) {
    const ExactField exact(f.exact, both.study, both.part);
    std::vector<double> out;
    std::vector<std::string> names;
    for (const auto& q : both.study.quantities) {
        const auto known = f.known.find(q.name);
        double value = known != f.known.end() ? known->second : exact.value(q).value_or(NAN);
        if (q.formula) value = FormulaEvaluator(*q.formula, "truth", names).with(out);
        out.push_back(value);
        names.push_back(q.name);
    }
    return out;
}

}  // namespace dotsift::bench
