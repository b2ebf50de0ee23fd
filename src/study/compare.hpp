#pragma once
// Whether the levels of one study can stand beside those of another.

#include <string>
#include <vector>

namespace dotsift {

/// What makes levels of two study files differ, as "material.steel" or "series.fine: ratio"; empty if nothing. Stop
/// rules of series, targets and reference values of quantities, titles, comments and the order of keys do not, nor do
/// series that only one of them has. Both texts must be sound TOML.
std::vector<std::string> differences_of_levels(const std::string& stored, const std::string& now);

/// What makes the problems of two study files differ: part, materials, supports, loads, units and the like, as
/// "material.steel"; empty if they differ in meshes, series, quantities and titles only. Both texts must be sound TOML.
std::vector<std::string> differences_of_problems(const std::string& a, const std::string& b);

}  // namespace dotsift
