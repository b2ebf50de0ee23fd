#pragma once
// Units: a study declares one for length and one for force; every other number may carry its own.

#include <optional>
#include <string>
#include <string_view>

namespace dotsift {

/// Exponents of length, mass, time and temperature.
struct Dimension {
    int length = 0, mass = 0, time = 0, temperature = 0;
    bool operator==(const Dimension&) const = default;
};

namespace dimension {
inline constexpr Dimension none{};
inline constexpr Dimension length{1, 0, 0, 0};
inline constexpr Dimension force{1, 1, -2, 0};
inline constexpr Dimension force_per_length{0, 1, -2, 0};
inline constexpr Dimension stress{-1, 1, -2, 0};
inline constexpr Dimension mass{0, 1, 0, 0};
inline constexpr Dimension density{-3, 1, 0, 0};
inline constexpr Dimension moment{2, 1, -2, 0};             ///< and energy
inline constexpr Dimension force_per_volume{-2, 1, -2, 0};  ///< and stiffness of a foundation
inline constexpr Dimension acceleration{1, 0, -2, 0};
inline constexpr Dimension angular_speed{0, 0, -1, 0};
inline constexpr Dimension temperature{0, 0, 0, 1};
inline constexpr Dimension expansion{0, 0, 0, -1};
inline constexpr Dimension power{2, 1, -3, 0};
inline constexpr Dimension power_times_temperature{2, 1, -3, 1};
inline constexpr Dimension heat_flux{0, 1, -3, 0};
inline constexpr Dimension heat_source{-1, 1, -3, 0};
inline constexpr Dimension conductivity{1, 1, -3, -1};
inline constexpr Dimension transfer{0, 1, -3, -1};
inline constexpr Dimension resistance{0, -1, 3, 1};
}  // namespace dimension

/// A number as written in a text such as "210 GPa": the value in SI units and what it measures.
struct Measure {
    double in_si;
    Dimension dimension;
};

/// Reads "number unit"; units may be joined by *, / and ^ ("N/mm^2"). Empty if the text is no such thing.
std::optional<Measure> parse_measure(std::string_view text);

/// Metres in a unit of length; empty if it is none.
std::optional<double> length_unit(std::string_view name);

/// The units that a study's plain numbers are in. Time is always in seconds.
class UnitSystem {
  public:
    /// Names of a length unit and a force unit. Throws std::invalid_argument naming the one that is none.
    explicit UnitSystem(std::string length = "m", std::string force = "N");
    /// SI value -> value in these units.
    [[nodiscard]] double from_si(double value, const Dimension& dimension) const;
    /// Value in these units -> SI value.
    [[nodiscard]] double to_si(double value, const Dimension& dimension) const;
    /// Metres in one unit of length.
    [[nodiscard]] double metres() const { return length_; }
    /// How a number of this dimension is labelled, such as "mm", "MPa", "N mm"; "" for pure numbers.
    [[nodiscard]] std::string label(const Dimension& dimension) const;

  private:
    std::string length_name_, force_name_;
    double length_, mass_;
};

/// Every unit that a number may carry, as a list in words.
std::string known_units();

}  // namespace dotsift
