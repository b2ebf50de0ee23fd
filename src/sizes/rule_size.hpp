#pragma once
// What a local size rule asks for at a place.

#include <filesystem>
#include <functional>

#include "base/vec.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A size between the rule's smallest and largest.
double within_limits(const LocalSize& rule, double size);
/// It is not the same everywhere.
bool varies(const LocalSize& rule);

/// By its number, formula or table; `rule` must outlive it. In space formulas and tables know z. Throws
/// InputError with the rule's place if a table cannot be read or, when it is asked, if the formula gives no size.
template <int D>
std::function<double(const Vec<D>&)> size_of_rule(const LocalSize& rule, const std::filesystem::path& study_file);

}  // namespace dotsift
