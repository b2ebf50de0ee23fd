// Every key of a study file, given every kind of value: an answer with the place, never a crash, and no solving with
// it.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <vector>

#include "base/errors.hpp"
#include "part/checks/check_study.hpp"
#include "study/keys.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A study without faults, a section at a time, in the order in which they stand in a file.
std::vector<std::pair<std::string, std::vector<std::string>>> sound_study() {
    return {{"", {"format = 1", "title = \"t\""}},
            {"[units]", {"length = \"mm\"", "force = \"N\""}},
            {"[variables]", {"a = 2"}},
            {"[part]", {"thickness = 2"}},
            {"[[part.shape]]",
             {"add = \"rectangle\"", "size = [4, 2]", "names = { left = \"left\", right = \"right\", top = \"top\" }"}},
            {"[material.m]", {"youngs_modulus = 1000", "poissons_ratio = 0.3"}},
            {"[support.wall]", {"on = \"left\"", "hold = \"fixed\""}},
            {"[load.pull]", {"on = \"right\"", "traction = [1, 0]"}},
            {"[size]", {"global = 0.5"}},
            {"[series.u]", {"kind = \"uniform\""}},
            {"[quantity.q]", {"of = \"ux\""}}};
}

/// The header of a section of the reference, in that study where it is there, else with a name of its own.
std::string header_of(std::string_view section) {
    static const std::map<std::string_view, std::string> there{
        {"material.NAME", "[material.m]"}, {"support.NAME", "[support.wall]"}, {"load.NAME", "[load.pull]"},
        {"series.NAME", "[series.u]"},     {"quantity.NAME", "[quantity.q]"},  {"part.shape", "[[part.shape]]"}};
    if (section.empty()) return "";
    if (const auto found = there.find(section); found != there.end()) return found->second;
    std::string name(section);
    if (const auto at = name.find("NAME"); at != std::string::npos) name.replace(at, 4, "other");
    return "[" + name + "]";
}

struct Written {
    std::string text;
    int line = 0;  ///< of the key
};

/// The sound study with `key = value` in a section, in place of what it had there.
Written with(std::string_view section, const std::string& key, const std::string& value) {
    auto sections = sound_study();
    const std::string header = header_of(section);
    auto at = std::find_if(sections.begin(), sections.end(), [&](const auto& s) { return s.first == header; });
    if (at == sections.end()) at = sections.insert(sections.end(), {header, {}});
    auto& lines = at->second;
    lines.erase(std::remove_if(lines.begin(), lines.end(), [&](const auto& l) { return l.rfind(key + " =", 0) == 0; }),
                lines.end());
    lines.push_back(key + " = " + value);
    Written out;
    int line = 0;
    for (const auto& s : sections) {
        if (!s.first.empty()) {
            out.text += s.first + "\n";
            ++line;
        }
        for (const auto& l : s.second) {
            out.text += l + "\n";
            ++line;
            if (&s == &*at && &l == &s.second.back()) out.line = line;
        }
    }
    return out;
}

/// Sections that are tables in a table of their own kind, which the text above cannot name.
bool nested(std::string_view section) {
    return section == "part.shape.pieces" || section == "part.shape.sweep.path";
}

std::string key_of(const Key& key) {
    return key.key == "NAME" ? "thing" : std::string(key.key);
}

}  // namespace

TEST_SUITE_BEGIN("study");

TEST_CASE("the study that the keys are tried in is sound") {
    Problems problems("test.toml");
    (void)open_study("test.toml", with("", "title", "\"t\"").text, problems);
    INFO(problems.text());
    CHECK(problems.empty());
}

TEST_CASE("a date is told as a fault of every key, at its line") {
    for (const auto& key : study_keys()) {
        if (nested(key.section)) continue;
        const std::string name = key_of(key);
        const Written written = with(key.section, name, "1979-05-27");
        CAPTURE(written.text);
        Problems problems("test.toml");
        (void)open_study("test.toml", written.text, problems);
        CAPTURE(problems.text());
        CHECK_FALSE(problems.empty());
        if (has(problems.text(), "not valid TOML")) continue;  // the key of what is a table further down
        CHECK(has(problems.text(), fmt::format("test.toml:{}:", written.line)));
        CHECK(has(problems.text(), name));
    }
}

TEST_CASE("a faulty support or material is not told to be missing, too") {
    for (const auto& [section, key] : {std::pair{"support.NAME", "hold"},
                                       {"support.NAME", "ux"},
                                       {"support.NAME", "on"},
                                       {"material.NAME", "youngs_modulus"},
                                       {"material.NAME", "poissons_ratio"}}) {
        Problems problems("test.toml");
        (void)open_study("test.toml", with(section, key, "1979-05-27").text, problems);
        CAPTURE(problems.text());
        CHECK_FALSE(has(problems.text(), "the study has no"));
    }
}

TEST_CASE("no value of any key brings down the reader") {
    constexpr std::array values{"true",
                                "0",
                                "-1",
                                "2.5",
                                "1e308",
                                "-1e308",
                                "nan",
                                "inf",
                                "9223372036854775807",
                                "\"\"",
                                "\"left\"",
                                "\"*\"",
                                "\"1 parsec\"",
                                "\"1/0\"",
                                "\"((((((((\"",
                                "\"\\u0000\"",
                                "\"\\u00e9\\U0001F300\"",
                                "[]",
                                "[[]]",
                                "[1]",
                                "[1, 2]",
                                "[1, 2, 3]",
                                "[\"left\", \"left\"]",
                                "[[0, 0], [0, 0]]",
                                "[[0, 0], [1, 1], [nan, 2]]",
                                "{}",
                                "{ left = 1 }",
                                "{ left = \"left\", \"\" = [] }",
                                "[{}]",
                                "12:00:00"};
    std::size_t answered = 0;
    for (const auto& key : study_keys()) {
        if (nested(key.section)) continue;
        for (const char* value : values) {
            const Written written = with(key.section, key_of(key), value);
            CAPTURE(written.text);
            Problems problems("test.toml");
            try {
                (void)open_study("test.toml", written.text, problems);
            } catch (const Error& e) {  // of a part that cannot be made
                CHECK(std::string(e.what()).size() > 10);
                ++answered;
                continue;
            }
            if (problems.empty()) continue;
            ++answered;
            // Faults have a place, but for what is missing altogether.
            for (const auto& fault : problems.faults()) CHECK(fault.what.size() > 5);
        }
    }
    CHECK(answered > study_keys().size() * values.size() / 2);
}

TEST_CASE("a key that does not exist is told with the one that was meant") {
    for (const auto& key : study_keys()) {
        if (nested(key.section) || key.key == "NAME" || key.key.size() < 4) continue;
        std::string misspelt(key.key);
        std::swap(misspelt[1], misspelt[2]);
        if (misspelt == key.key) misspelt.pop_back();
        const Written written = with(key.section, misspelt, "1");
        CAPTURE(written.text);
        Problems problems("test.toml");
        try {
            (void)open_study("test.toml", written.text, problems);
        } catch (const Error&) {
            continue;
        }
        CAPTURE(problems.text());
        CHECK(has(problems.text(), fmt::format("test.toml:{}:", written.line)));
        CHECK(has(problems.text(), misspelt));
    }
}

TEST_SUITE_END();
