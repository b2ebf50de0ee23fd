#include "base/numbers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace dotsift {

std::string sensible(double value, int digits) {
    if (std::isnan(value)) return "-";
    if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
    if (value == 0) return "0";
    const double rounded = std::stod(fmt::format("{:.{}e}", value, digits - 1));
    const int exponent = static_cast<int>(std::floor(std::log10(std::fabs(rounded))));
    if (exponent < -3 || exponent > 5) return fmt::format("{:.{}e}", value, digits - 1);
    return fmt::format("{:.{}f}", value, std::max(0, digits - 1 - exponent));
}

std::string as_given(double value) {
    std::string text = sensible(value, 6);
    if (text.find('e') != std::string::npos || text.find('.') == std::string::npos) return text;
    text.erase(text.find_last_not_of('0') + 1);
    if (text.back() == '.') text.pop_back();
    return text;
}

std::string with_uncertainty(double value, double uncertainty) {
    if (!std::isfinite(uncertainty) || uncertainty <= 0 || value == 0) return sensible(value, 5);
    const double span = std::floor(std::log10(std::fabs(value))) - std::floor(std::log10(uncertainty));
    return sensible(value, std::clamp(static_cast<int>(span) + 2, 2, 8));
}

std::string percent(double ratio) {
    if (std::isnan(ratio)) return "-";
    const double p = 100 * ratio;
    return std::fabs(p) >= 100 ? fmt::format("{:.0f} %", p) : fmt::format("{} %", sensible(p, 2));
}

double without_rounding(double value, double size) {
    constexpr double rounding = 1e-12;
    return std::fabs(value) <= rounding * size ? 0 : value;
}

std::string told_point(const Vec2& p) {
    const double size = std::max(std::fabs(p[0]), std::fabs(p[1]));
    return fmt::format("({:.6g}, {:.6g})", without_rounding(p[0], size), without_rounding(p[1], size));
}

std::string told_point(const Vec3& p) {
    const double size = std::max({std::fabs(p[0]), std::fabs(p[1]), std::fabs(p[2])});
    return fmt::format("({:.6g}, {:.6g}, {:.6g})", without_rounding(p[0], size), without_rounding(p[1], size),
                       without_rounding(p[2], size));
}

std::string grouped(long long value) {
    std::string text = std::to_string(value);
    for (auto i = static_cast<std::ptrdiff_t>(text.size()) - 3; i > (value < 0 ? 1 : 0); i -= 3)
        text.insert(text.begin() + i, ' ');
    return text;
}

}  // namespace dotsift
