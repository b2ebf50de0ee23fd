// The first week: beginning a study, finding keys, editors, limits, narrow terminals.

#include <doctest/doctest.h>
#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

bool fits_schema(const valijson::Schema& schema, const std::string& study) {
    std::ostringstream text;
    text << toml::json_formatter(toml::parse(study));
    const auto json = nlohmann::json::parse(text.str());
    valijson::Validator validator;
    const valijson::adapters::NlohmannJsonAdapter target(json);
    return validator.validate(schema, target, nullptr);
}

}  // namespace

TEST_SUITE_BEGIN("commands");

TEST_CASE("every study to begin with is without faults and runs as it is") {
    for (const std::string kind : {"plane", "axisymmetric", "heat", "drawing"}) {
        CAPTURE(kind);
        const TemporaryFolder folder;
        const std::string study = (folder / "mine.toml").string();
        const auto written = run({"start", kind, "-o", study});
        CHECK(written.status == 0);
        CHECK(has(written.out, "next: dotsift check " + study));
        const auto checked = run({"check", study});
        CHECK(checked.status == 0);
        CHECK(checked.err.empty());  // no warnings either
        const auto done = run({"run", study, "-o", (folder / "out").string(), "--quiet"});
        CHECK(done.status == 0);
        CHECK(has(done.out, "targets are met"));
        CHECK(has(done.out, "The limit is kept."));
        const auto again = run({"start", kind, "-o", study});
        CHECK(again.status == 2);
        CHECK(has(again.err, "is there already"));
        CHECK(run({"start", kind, "-o", study, "--replace"}).status == 0);
        // Every line of advice in it is a command that is there.
        CHECK(has(content_of(study), "dotsift check FILE"));
    }
    const TemporaryFolder folder;
    CHECK(has(run({"start", "plain", "-o", (folder / "x.toml").string()}).err, "did you mean \"plane\"?"));
    CHECK(run({"start"}).status == 2);
    CHECK(run({"start", "heat", "-o", (folder / "nowhere" / "x.toml").string()}).status == 4);
}

TEST_CASE("keys are printed by section and by word, and near names are told") {
    const auto section = run({"keys", "quantity"});
    CHECK(section.status == 0);
    CHECK(has(section.out, "factor_of_safety"));
    CHECK_FALSE(has(section.out, "[series.NAME]"));
    CHECK(has(run({"keys", "--search", "convection"}).out, "`transfer`"));
    CHECK(has(run({"keys", "quantitty"}).err, "did you mean"));
    CHECK(run({"keys", "--search", "zebra"}).status == 2);
}

TEST_CASE("the JSON Schema takes every example and refuses keys that are misspelt") {
    const auto printed = run({"keys", "--json-schema"});
    REQUIRE(printed.status == 0);
    const auto json = nlohmann::json::parse(printed.out);
    valijson::Schema schema;
    valijson::SchemaParser parser;
    parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(json), schema);
    std::size_t count = 0;
    for (const auto* folder : {"examples/tidal", "examples/verification", "share/starters", "tests/outlines"})
        for (const auto& entry : fs::directory_iterator(fs::path(DOTSIFT_SOURCE) / folder)) {
            if (entry.path().extension() != ".toml") continue;
            CAPTURE(entry.path().string());
            CHECK(fits_schema(schema, content_of(entry.path())));
            ++count;
        }
    CHECK(count > 30);
    CHECK(fits_schema(schema, small_study()));
    CHECK_FALSE(fits_schema(schema, small_study("[quantity.q]\nof = \"ux\"\ntarrget = 1\n")));
    CHECK_FALSE(fits_schema(schema, small_study("[quantity.q]\nof = \"ux\"\ntake = \"most\"\n")));
    CHECK_FALSE(fits_schema(schema, small_study("[quantity.q]\ntake = \"mean\"\nlimit = { top = 1 }\n")));
    CHECK_FALSE(fits_schema(schema, small_study("[sizes]\nglobal = 1\n")));
}

TEST_CASE("faults of a study are told as JSON where that is asked for") {
    const TemporaryFolder folder;
    const auto file = folder.file("bad.toml", small_study("[quantity.q]\nof = \"uz\"\n"));
    const auto bad = run({"check", file, "--json"});
    CHECK(bad.status == 2);
    const auto json = nlohmann::json::parse(bad.out);
    REQUIRE(json["faults"].size() == 1);
    CHECK(json["faults"][0]["line"].get<int>() > 5);
    CHECK(has(json["faults"][0]["what"].get<std::string>(), "uz"));
    const auto good = nlohmann::json::parse(run({"check", folder.file("good.toml", small_study()), "--json"}).out);
    CHECK(good["faults"].empty());
    CHECK(good.contains("expected_elements"));
}

TEST_CASE("a limit that is not kept decides the exit status, and changing it keeps the levels") {
    const TemporaryFolder folder;
    const std::string two = "[series.u]\nkind = \"uniform\"\nmost_levels = 3\n[quantity.far]\nof = \"displacement\"\n";
    const auto with = [&](const std::string& limit) { return folder.file("s.toml", small_study(two + limit)); };
    const std::string out = (folder / "out").string();
    const auto kept = run({"run", with("limit = { highest = 1e6 }\n"), "-o", out, "--json"});
    REQUIRE(kept.status == 0);
    const auto json = nlohmann::json::parse(kept.out);
    CHECK(json["all_limits_kept"] == true);
    const auto verdict = *std::find_if(json["headline"].begin(), json["headline"].end(),
                                       [](const auto& v) { return v["quantity"] == "far"; });
    CHECK(verdict["limit"]["answer"] == "inside");
    const double value = verdict["finest"], half_width = verdict["uncertainty"];
    CHECK(verdict["limit"]["used"].get<double>() == doctest::Approx(value / 1e6));
    const auto beyond =
        run({"run", with(fmt::format("limit = {{ highest = {:.17g} }}\n", 0.5 * value)), "-o", out, "--resume"});
    CHECK(beyond.status == 1);
    CHECK(has(beyond.err, "kept"));  // nothing was solved again
    CHECK(has(beyond.out, "The limit of far is not kept."));
    CHECK(has(beyond.out, "outside"));
    CHECK(has(content_of(folder / "out" / "report.html"), "How much of its limit each quantity uses"));
    const auto open = run({"run", with(fmt::format("limit = {{ highest = {:.17g} }}\n", value + 0.5 * half_width)),
                           "-o", out, "--resume"});
    CHECK(open.status == 1);
    CHECK(has(open.out, "Not decided is the limit of far."));
    CHECK(run({"report", out}).status == 1);
}

TEST_CASE("a table of variations tells for each run whether the limit of each case is kept") {
    const TemporaryFolder folder;
    const auto file = folder.file("v.toml", R"(format = 1
[variables]
pull = 1
[[part.shape]]
add = "rectangle"
size = [4, 1]
names = { left = "left", right = "right" }
[material.m]
youngs_modulus = 1000
poissons_ratio = 0
[support.s]
on = "left"
hold = "fixed"
[load.l]
on = "right"
pressure = "-pull"
[case.once]
factors = { l = 1 }
[case.twice]
factors = { l = 2 }
[size]
global = 0.5
[series.u]
kind = "uniform"
most_levels = 3
[quantity.far]
of = "ux"
at = [4, 0.5]
case = "*"
limit = { highest = 0.01 }
[vary.pulls]
values = { pull = [1, 2] }
)");
    const auto r = run({"vary", file, "-o", (folder / "out").string(), "--quiet"});
    CHECK(r.status == 1);  // twice two stretches it by 0.016
    const auto json = nlohmann::json::parse(content_of(folder / "out" / "pulls.json"));
    REQUIRE(json["runs"].size() == 2);
    CHECK(json["runs"][0]["all_limits_kept"] == true);
    CHECK(json["runs"][1]["all_limits_kept"] == false);
    CHECK(json["runs"][1]["outputs"]["far_once"]["limit"]["answer"] == "inside");
    CHECK(json["runs"][1]["outputs"]["far_twice"]["limit"]["answer"] == "outside");
    CHECK(json["runs"][1]["outputs"]["far_twice"]["limit"]["used_at_most"].get<double>() == doctest::Approx(1.6));
    const auto csv = content_of(folder / "out" / "pulls.csv");
    CHECK(has(csv, "far_twice limit"));
    CHECK(has(csv, ",outside,"));
    CHECK(has(r.out, "limit not kept"));
}

TEST_CASE("what is installed stands alone: program, modules, manual page, completions, examples") {
    const TemporaryFolder folder;
    const std::string install = fmt::format("cmake --install '{}' --prefix '{}' > '{}' 2>&1", DOTSIFT_BUILD,
                                            (folder / "usr").string(), (folder / "log").string());
    REQUIRE_MESSAGE(std::system(install.c_str()) == 0, content_of(folder / "log"));
    for (const auto* file :
         {"bin/dotsift", "lib/dotsift/libdotsift-geometry.so", "lib/dotsift/libdotsift-sparse.so",
          "share/dotsift/fonts/fonts.conf", "share/dotsift/starters/plane.toml", "share/man/man1/dotsift.1",
          "share/bash-completion/completions/dotsift", "share/zsh/vendor-completions/_dotsift",
          "share/fish/vendor_completions.d/dotsift.fish", "share/doc/dotsift/README.md", "share/doc/dotsift/copyright",
          "share/doc/dotsift/docs/tour.md", "share/doc/dotsift/examples/tidal/first-bracket.toml"}) {
        CAPTURE(file);
        CHECK(fs::file_size(folder / "usr" / file) > 100);
    }
    const std::string page = content_of(folder / "usr" / "share/man/man1/dotsift.1");
    const std::string completion = content_of(folder / "usr" / "share/bash-completion/completions/dotsift");
    std::istringstream commands(run({"--help"}).out);
    std::size_t count = 0;
    for (std::string line; std::getline(commands, line);) {
        if (!line.starts_with("  ") || line.starts_with("   ")) continue;
        const std::string name = line.substr(2, line.find(' ', 2) - 2);
        CAPTURE(name);
        CHECK(has(completion, "    " + name + ") options="));
        if (!has(name, "-")) CHECK(has(page, ".SS " + name));
        ++count;
    }
    CHECK(count > 10);
    CHECK(has(page, "\\-\\-resume"));
    const std::string bin = (folder / "usr" / "bin" / "dotsift").string();
    const std::string go =
        fmt::format("cd '{}' && '{}' start plane -o a.toml && '{}' run a.toml -o out --quiet > log 2>&1",
                    folder.path().string(), bin, bin);
    CHECK(std::system(go.c_str()) == 0);
    CHECK(fs::file_size(folder / "out" / "report.html") > 10000);
}

TEST_CASE("on a narrow terminal headings stand one below the other, in a pipe lines stay whole") {
    const TemporaryFolder folder;
    const auto file = folder.file("s.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 2\n"));
    const std::string command =
        fmt::format("script -qec \"stty cols 60; '{}' run '{}' -o '{}' --quiet\" /dev/null > '{}' 2>&1",
                    DOTSIFT_PROGRAM, file, (folder / "a").string(), (folder / "narrow").string());
    (void)std::system(command.c_str());
    const std::string narrow = content_of(folder / "narrow");
    REQUIRE(has(narrow, "unknowns"));
    std::istringstream lines(narrow);
    std::size_t beginning = 0;
    for (std::string line; std::getline(lines, line);) beginning += line.find("  unknowns ") == 0 ? 1 : 0;
    CHECK(beginning == 1);
    const auto whole = run({"run", file, "-o", (folder / "b").string(), "--quiet"});
    CHECK_FALSE(has(whole.out, "\n  unknowns"));
}

TEST_SUITE_END();
