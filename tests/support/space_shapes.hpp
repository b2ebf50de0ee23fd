#pragma once
// Solids from short lists of shapes.

#include <doctest/doctest.h>

#include <algorithm>
#include <string>
#include <vector>

#include "part/checks/check_study.hpp"
#include "part/solid/solid_part.hpp"
#include "support/studies.hpp"

namespace dotsift::test {

/// Entries of the list of shapes, "verb kind | key = value | ...".
inline std::string shapes(const std::vector<std::string>& entries) {
    std::string text = "format = 1\n[part]\n";
    for (const auto& entry : entries) {
        text += "[[part.shape]]\n";
        std::string line = entry;
        const auto space = line.find(' ');
        line = line.substr(0, space) + " = \"" + line.substr(space + 1);
        const auto bar = line.find(" | ");
        line.insert(std::min(bar, line.size()), "\"");
        for (std::size_t at; (at = line.find(" | ")) != std::string::npos;) line.replace(at, 3, "\n");
        text += line + "\n";
    }
    return text;
}

inline SolidPart solid_from(const std::string& text) {
    Problems problems("test.toml");
    StudyAndPart both = open_study("test.toml", text, problems);
    INFO(problems.text());
    REQUIRE(both.solid);
    return *both.solid;
}
inline SolidPart solid(const std::vector<std::string>& entries) {
    return solid_from(shapes(entries));
}

inline std::string faults(const std::vector<std::string>& entries, const std::string& more = "") {
    Problems problems("test.toml");
    (void)open_study("test.toml", shapes(entries) + more, problems);
    return problems.text() + problems.warning_text();
}

inline double volume(const SolidPart& part) {
    return measure(part).size;
}
inline double area_named(const SolidPart& part, const std::string& name) {
    double sum = 0;
    for (const int f : part.faces_named({name})) sum += measure_face(part, static_cast<std::size_t>(f)).size;
    return sum;
}

}  // namespace dotsift::test
