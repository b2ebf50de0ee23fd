#include "part/part_names.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "study/diagnostics.hpp"

namespace dotsift {

std::vector<int> PartNames::points_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (const auto& p : points)
        if (fits_any(p.name, patterns)) list.push_back(p.vertex);
    return list;
}

std::vector<int> PartNames::regions_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (std::size_t r = 0; r < regions.size(); ++r)
        if (fits_any(regions[r], patterns)) list.push_back(static_cast<int>(r));
    return list;
}

namespace {

/// The place of a name in a list, made at its end if it is new.
int place_in(std::vector<std::string>& list, const std::string& name) {
    const auto found = std::find(list.begin(), list.end(), name);
    if (found != list.end()) return static_cast<int>(found - list.begin());
    list.push_back(name);
    return static_cast<int>(list.size()) - 1;
}

}  // namespace

int PartNames::boundary_name(const std::string& name) {
    return place_in(boundary_names, name);
}
int PartNames::region_index(const std::string& name) {
    return place_in(regions, name);
}

void PartNames::add_name(const std::string& name, std::vector<int>& names) {
    const int n = boundary_name(name);
    if (std::find(names.begin(), names.end(), n) == names.end()) names.push_back(n);
}

std::string PartNames::name_of_side(const std::vector<int>& names, const char* what, int number) const {
    return names.empty() ? fmt::format("{} {}", what, number)
                         : fmt::format("\"{}\"", boundary_names[static_cast<std::size_t>(names.front())]);
}

bool PartNames::carries(const std::vector<int>& names, const std::vector<std::string>& patterns) const {
    return std::any_of(names.begin(), names.end(),
                       [&](int n) { return fits_any(boundary_names[static_cast<std::size_t>(n)], patterns); });
}

std::vector<std::string> names_joined_in(const std::string& text) {
    std::vector<std::string> names;
    std::size_t begin = 0;
    while (begin <= text.size()) {
        const std::size_t end = std::min(text.find('+', begin), text.size());
        if (end > begin) names.push_back(text.substr(begin, end - begin));
        begin = end + 1;
    }
    return names;
}

}  // namespace dotsift
