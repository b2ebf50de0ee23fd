#pragma once
// Shares of something, as targets are: "2 %" or 0.02.

#include <fmt/format.h>

#include <string>

namespace dotsift {

/// A bare number from here on was meant as percent: nobody aims at an uncertainty of half the value.
inline constexpr double implausible_share = 0.5;

/// What is wrong with such a number, as it follows the name of what it was given for.
inline std::string implausible_share_in_words(double value) {
    return fmt::format("is {:g}, a share of {:g} %", value, 100 * value);
}
/// And what to write instead.
inline std::string share_meant_instead(double value) {
    return fmt::format("if percent is meant, write \"{:g} %\"; if not, \"{:g} %\"", value, 100 * value);
}

}  // namespace dotsift
