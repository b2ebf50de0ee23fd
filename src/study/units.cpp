#include "study/units.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <numbers>
#include <stdexcept>

namespace dotsift {

namespace {

struct Unit {
    std::string_view name;
    double si;
    Dimension dimension;
};

constexpr std::array units{
    Unit{"m", 1, dimension::length},
    Unit{"mm", 1e-3, dimension::length},
    Unit{"cm", 1e-2, dimension::length},
    Unit{"um", 1e-6, dimension::length},
    Unit{"µm", 1e-6, dimension::length},
    Unit{"km", 1e3, dimension::length},
    Unit{"in", 0.0254, dimension::length},
    Unit{"ft", 0.3048, dimension::length},
    Unit{"N", 1, dimension::force},
    Unit{"mN", 1e-3, dimension::force},
    Unit{"kN", 1e3, dimension::force},
    Unit{"MN", 1e6, dimension::force},
    Unit{"lbf", 4.4482216152605, dimension::force},
    Unit{"kip", 4448.2216152605, dimension::force},
    Unit{"Pa", 1, dimension::stress},
    Unit{"kPa", 1e3, dimension::stress},
    Unit{"MPa", 1e6, dimension::stress},
    Unit{"GPa", 1e9, dimension::stress},
    Unit{"bar", 1e5, dimension::stress},
    Unit{"psi", 6894.757293168361, dimension::stress},
    Unit{"ksi", 6894757.293168361, dimension::stress},
    Unit{"kg", 1, {0, 1, 0, 0}},
    Unit{"g", 1e-3, {0, 1, 0, 0}},
    Unit{"t", 1e3, {0, 1, 0, 0}},
    Unit{"s", 1, {0, 0, 1, 0}},
    Unit{"K", 1, {0, 0, 0, 1}},
    Unit{"J", 1, dimension::moment},
    Unit{"mJ", 1e-3, dimension::moment},
    Unit{"kJ", 1e3, dimension::moment},
    Unit{"W", 1, dimension::power},
    Unit{"mW", 1e-3, dimension::power},
    Unit{"kW", 1e3, dimension::power},
    Unit{"rpm", std::numbers::pi / 30, dimension::angular_speed},
    Unit{"%", 0.01, dimension::none},
    Unit{"rad", 1, dimension::none},
    Unit{"deg", std::numbers::pi / 180, dimension::none},
};

const Unit* find_unit(std::string_view name) {
    for (const auto& u : units)
        if (u.name == name) return &u;
    return nullptr;
}

std::string_view trimmed(std::string_view t) {
    while (!t.empty() && (t.front() == ' ' || t.front() == '\t')) t.remove_prefix(1);
    while (!t.empty() && (t.back() == ' ' || t.back() == '\t')) t.remove_suffix(1);
    return t;
}

}  // namespace

std::optional<Measure> parse_measure(std::string_view text) {
    text = trimmed(text);
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    double value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc{} || !std::isfinite(value)) return std::nullopt;
    text = trimmed(text.substr(static_cast<std::size_t>(end - text.data())));
    Measure measure{value, dimension::none};
    if (text.empty()) return std::nullopt;  // a plain number is not a measure
    int side = 1;                           // +1 above the fraction line, -1 below
    if (text.substr(0, 2) == "1/") text.remove_prefix(1);
    if (text.front() == '/') {
        side = -1;
        text.remove_prefix(1);
    }
    bool bracket = false;  // a denominator in brackets holds all that follows
    while (!text.empty()) {
        if (side < 0 && !bracket && text.front() == '(' && text.back() == ')') {
            bracket = true;
            text = text.substr(1, text.size() - 2);
        }
        const std::size_t stop = text.find_first_of("*/ ");
        std::string_view token = text.substr(0, stop);
        int power = 1;
        if (const auto hat = token.find('^'); hat != std::string_view::npos) {
            const auto digits = token.substr(hat + 1);
            const auto result = std::from_chars(digits.data(), digits.data() + digits.size(), power);
            if (result.ec != std::errc{} || result.ptr != digits.data() + digits.size()) return std::nullopt;
            if (power < -9 || power > 9) return std::nullopt;
            token = token.substr(0, hat);
        }
        const Unit* unit = find_unit(token);
        if (!unit) return std::nullopt;
        const int n = side * power;
        measure.in_si *= std::pow(unit->si, n);
        measure.dimension.length += n * unit->dimension.length;
        measure.dimension.mass += n * unit->dimension.mass;
        measure.dimension.time += n * unit->dimension.time;
        measure.dimension.temperature += n * unit->dimension.temperature;
        if (stop == std::string_view::npos) break;
        std::string_view rest = text.substr(stop);
        side = bracket ? -1 : 1;
        while (!rest.empty() && (rest.front() == ' ' || rest.front() == '*' || rest.front() == '/')) {
            if (rest.front() == '/') side = -1;
            rest.remove_prefix(1);
        }
        if (rest.empty()) return std::nullopt;
        text = rest;
    }
    return measure;
}

std::optional<double> length_unit(std::string_view name) {
    const Unit* unit = find_unit(name);
    if (!unit || !(unit->dimension == dimension::length)) return std::nullopt;
    return unit->si;
}

UnitSystem::UnitSystem(std::string length, std::string force)
    : length_name_(std::move(length)), force_name_(std::move(force)) {
    const Unit* l = find_unit(length_name_);
    const Unit* f = find_unit(force_name_);
    if (!l || l->dimension != dimension::length)
        throw std::invalid_argument(fmt::format("\"{}\" is not a unit of length", length_name_));
    if (!f || f->dimension != dimension::force)
        throw std::invalid_argument(fmt::format("\"{}\" is not a unit of force", force_name_));
    length_ = l->si;
    mass_ = f->si / l->si;  // force * second^2 / length
}

double UnitSystem::from_si(double value, const Dimension& dimension) const {
    return value / (std::pow(length_, dimension.length) * std::pow(mass_, dimension.mass));
}

double UnitSystem::to_si(double value, const Dimension& dimension) const {
    return value * (std::pow(length_, dimension.length) * std::pow(mass_, dimension.mass));
}

std::string UnitSystem::label(const Dimension& d) const {
    if (d == dimension::none) return "";
    if (d == dimension::length) return length_name_;
    if (d == dimension::force) return force_name_;
    if (d == dimension::moment) return fmt::format("{} {}", force_name_, length_name_);
    if (d == dimension::force_per_length) return fmt::format("{}/{}", force_name_, length_name_);
    if (d == dimension::stress) {
        if (length_name_ == "mm" && force_name_ == "N") return "MPa";
        if (length_name_ == "m" && force_name_ == "N") return "Pa";
        if (length_name_ == "m" && force_name_ == "kN") return "kPa";
        if (length_name_ == "m" && force_name_ == "MN") return "MPa";
        if (length_name_ == "mm" && force_name_ == "kN") return "GPa";
        if (length_name_ == "in" && force_name_ == "lbf") return "psi";
        if (length_name_ == "in" && force_name_ == "kip") return "ksi";
        return fmt::format("{}/{}²", force_name_, length_name_);
    }
    // What is not a force or stress is told as force^a length^b s^c K^d, the mass being force s^2 / length.
    std::string above, below;
    const auto put = [&](const std::string& unit, int power) {
        if (power == 0) return;
        std::string& side = power > 0 ? above : below;
        if (!side.empty()) side += ' ';
        side += unit;
        constexpr std::array<const char*, 4> raised{"", "", "²", "³"};
        const int n = std::abs(power);
        side += n < 4 ? raised[static_cast<std::size_t>(n)] : fmt::format("^{}", n);
    };
    const char* watts = length_name_ == "m" && force_name_ == "N"    ? "W"
                        : length_name_ == "mm" && force_name_ == "N" ? "mW"
                        : length_name_ == "m" && force_name_ == "kN" ? "kW"
                                                                     : nullptr;
    if (watts && std::abs(d.mass) == 1 && d.time == -3 * d.mass) {
        put(watts, d.mass);
        put(length_name_, d.length - 2 * d.mass);
    } else {
        put(force_name_, d.mass);
        put(length_name_, d.length - d.mass);
        put("s", d.time + 2 * d.mass);
    }
    put("K", d.temperature);
    if (below.empty()) return above;
    const bool several = below.find(' ') != std::string::npos;
    return fmt::format("{}/{}", above.empty() ? "1" : above, several ? "(" + below + ")" : below);
}

std::string known_units() {
    std::string text;
    for (const auto& u : units) text += (text.empty() ? "" : ", ") + std::string(u.name);
    return text;
}

}  // namespace dotsift
