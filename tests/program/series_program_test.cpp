// Results that are gone on from, studies run with other values, meshes refined by a field.

#include <doctest/doctest.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

/// levels.csv without the columns of time and memory, which are the last two.
std::string levels_without_cost(const fs::path& folder) {
    std::string out;
    const std::string text = content_of(folder / "levels.csv");
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = text.find('\n', at);
        std::string line = text.substr(at, end - at);
        for (int k = 0; k < 2; ++k) line.erase(line.rfind(','));
        out += line + "\n";
        at = end + 1;
    }
    return out;
}

const std::string series =
    "[series.even]\nkind = \"uniform\"\nmost_levels = 2\n[series.fit]\nkind = \"adaptive\"\nerror_target = \"4 %\"\n"
    "[series.finer]\nkind = \"uniform\"\nstart_from = \"fit/2\"\nmost_levels = 2\n"
    "[series.patch]\nkind = \"adaptive\"\nstrategy = \"share_of_error\"\nkeep_rest = true\nmost_levels = 3\n";

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("a run that was killed goes on from its levels and comes to the same result") {
    const TemporaryFolder folder;
    const std::string study = folder.file("study.toml", small_study(series));
    REQUIRE(run({"run", study, "-o", (folder / "whole").string(), "--quiet"}).status <= 1);
    // As if it had been killed while it wrote the third series.
    fs::copy(folder / "whole", folder / "cut", fs::copy_options::recursive);
    fs::remove_all(folder / "cut/patch");
    fs::remove(folder / "cut/finer/level-2/level.json");
    fs::remove(folder / "cut/report.html");
    const auto r = run({"run", study, "-o", (folder / "cut").string(), "--resume"});
    CHECK(r.status <= 1);
    CHECK(has(r.err, "even level 2: "));
    CHECK(has(r.err, ", kept"));
    CHECK(levels_without_cost(folder / "cut") == levels_without_cost(folder / "whole"));
    CHECK(content_of(folder / "cut/finer/level-2/mesh.vtu") == content_of(folder / "whole/finer/level-2/mesh.vtu"));
    CHECK(fs::exists(folder / "cut/report.html"));
    // The series that starts from a level has its mesh.
    const auto summary = nlohmann::json::parse(content_of(folder / "whole/summary.json"));
    const auto& all = summary["series"];
    CHECK(all[2]["levels"][0]["elements"] == all[1]["levels"][1]["elements"]);
    CHECK(all[2]["levels"][1]["elements"] > all[2]["levels"][0]["elements"]);
}

TEST_CASE("a result is extended by more levels and series, and never mixed with another study's") {
    const TemporaryFolder folder;
    const std::string study =
        folder.file("study.toml", small_study("[series.even]\nkind = \"uniform\"\nmost_levels = 2\n"));
    const std::string out = (folder / "out").string();
    REQUIRE(run({"run", study, "-o", out, "--quiet"}).status <= 1);
    const std::string first = content_of(folder / "out/even/level-1/mesh.vtu");
    CHECK(run({"run", study, "-o", out}).status == 2);  // not without being asked
    const std::string more =
        folder.file("more.toml", small_study("[series.even]\nkind = \"uniform\"\nmost_levels = 3\n"
                                             "[series.fit]\nkind = \"adaptive\"\nerror_target = 0.05\n"));
    const auto extended = run({"run", more, "-o", out, "--resume"});
    CHECK(extended.status <= 1);
    CHECK(has(extended.out, "series fit"));
    CHECK(content_of(folder / "out/even/level-1/mesh.vtu") == first);
    CHECK(fs::exists(folder / "out/even/level-3/level.json"));
    CHECK(content_of(folder / "out/study-as-run.toml") == content_of(more));
    std::string stiffer = content_of(more);
    stiffer.replace(stiffer.find("205 GPa"), 7, "210 GPa");
    const auto refused = run({"run", folder.file("stiffer.toml", stiffer), "-o", out, "--resume"});
    CHECK(refused.status == 2);
    CHECK(has(refused.err, "what differs: material.steel"));
    CHECK(content_of(folder / "out/study-as-run.toml") == content_of(more));
    CHECK(run({"run", more, "-o", out, "--resume", "--replace"}).status == 2);
    // A damaged level is told, with what to do, and nothing is overwritten.
    folder.file("out/even/level-2/mesh.vtu", "garbage");
    const auto damaged = run({"run", more, "-o", out, "--resume"});
    CHECK(damaged.status == 2);
    CHECK(has(damaged.err, "level-2"));
    CHECK(has(damaged.err, "remove this level's folder"));
    folder.file("out/study-as-run.toml", "= broken");
    const auto no_copy = run({"run", more, "-o", out, "--resume"});
    CHECK(no_copy.status == 2);
    CHECK(has(no_copy.err, "study-as-run.toml"));
    CHECK(content_of(folder / "out/even/level-1/mesh.vtu") == first);
}

TEST_CASE("a series that starts from a level that is not there is refused") {
    const TemporaryFolder folder;
    const auto fault = [&](const std::string& keys) {
        return run({"check", folder.file("s.toml", small_study(keys))}).err;
    };
    CHECK(has(fault("[series.b]\nkind = \"uniform\"\nstart_from = \"a/2\"\n[series.a]\nkind = \"uniform\"\n"),
              "no series above has that name"));
    CHECK(has(fault("[series.a]\nkind = \"uniform\"\n[series.b]\nkind = \"uniform\"\nstart_from = \"a\"\n"),
              "is no level"));
    CHECK(has(fault("[series.b]\nkind = \"adaptive\"\nkeep_rest = true\n"), "keep_rest"));
    CHECK(has(fault("[series.b]\nkind = \"adaptive\"\nindicator = \"jump\"\nstrategy = \"share_of_error\"\n"), "of"));
    CHECK(has(fault("[series.b]\nkind = \"adaptive\"\nindicator = \"energy_density\"\n"), "measures no error"));
    CHECK(has(fault("[series.b]\nkind = \"adaptive\"\nindicator = \"gradient\"\nof = \"potential\"\nstrategy = "
                    "\"share_of_error\"\n"),
              "does not solve for"));
    const auto late = run({"run",
                           folder.file("late.toml", small_study("[series.a]\nkind = \"uniform\"\nmost_levels = 1\n"
                                                                "[series.b]\nkind = \"uniform\"\nstart_from = "
                                                                "\"a/3\"\n")),
                           "-o", (folder / "late").string(), "--quiet"});
    CHECK(late.status == 2);
    CHECK(has(late.err, "which ended with level 1"));
    CHECK(fs::exists(folder / "late/a/level-1/level.json"));
}

TEST_CASE("variations give a table of inputs and outputs, with failures in it, and can be gone on with") {
    const TemporaryFolder folder;
    std::string text = small_study(
        "[series.u]\nkind = \"uniform\"\nmost_levels = 1\n[variables]\nradius = 4\npull = 1000\n"
        "[vary.holes]\nvalues = { radius = [3, 30], pull = { from = 1000, to = 2000, count = "
        "2 } }\n");
    text.replace(text.find("radius = 4\nname"), 10, "radius = \"radius\"");
    text.replace(text.find("force = [1000,"), 14, "force = [\"pull\",");
    const std::string study = folder.file("study.toml", text);
    const std::string out = (folder / "out").string();
    const auto r = run({"vary", study, "-o", out, "--quiet"});
    INFO(r.err);
    CHECK(r.status == 1);  // the hole that is larger than the plate, and one level shows nothing
    const auto j = nlohmann::json::parse(content_of(folder / "out/holes.json"));
    REQUIRE(j["runs"].size() == 4);
    CHECK(j["runs"][1]["inputs"]["pull"] == 2000);
    CHECK(j["runs"][1]["outputs"]["peak"]["value"].get<double>() ==
          doctest::Approx(2 * j["runs"][0]["outputs"]["peak"]["value"].get<double>()).epsilon(1e-6));
    CHECK(j["runs"][2].contains("failure"));
    CHECK(!j["runs"][2].contains("outputs"));
    const std::string csv = content_of(folder / "out/holes.csv");
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 5);
    CHECK(has(csv, "run,radius,pull,peak [MPa]"));
    CHECK(fs::exists(folder / "out/holes-peak.png"));
    CHECK(fs::exists(folder / "out/holes/run-2/report.html"));
    // Each run is a study of its own.
    CHECK(has(content_of(folder / "out/holes/run-2/study-as-run.toml"), "pull = 2000"));
    CHECK(run({"vary", study, "-o", out, "--quiet"}).status == 2);
    const auto resumed = run({"vary", study, "-o", out, "--resume"});
    CHECK(has(resumed.err, "kept"));
    CHECK(content_of(folder / "out/holes.csv") == csv);
    // Another study in the same place ends the command, and the table stays.
    std::string stiffer = text;
    stiffer.replace(stiffer.find("205 GPa"), 7, "210 GPa");
    const auto mixed = run({"vary", folder.file("stiffer.toml", stiffer), "-o", out, "--resume", "--quiet"});
    CHECK(mixed.status == 2);
    CHECK(has(mixed.err, "what differs: material.steel"));
    CHECK(content_of(folder / "out/holes.csv") == csv);
    fs::create_directory(folder / "other");
    folder.file("other/holes.csv", "mine");
    CHECK(run({"vary", study, "-o", (folder / "other").string(), "--quiet"}).status == 2);
    CHECK(content_of(folder / "other/holes.csv") == "mine");
    const auto none =
        run({"vary", folder.file("none.toml", small_study("[series.u]\nkind = \"uniform\"\n")), "-o", out});
    CHECK(none.status == 2);
    CHECK(has(none.err, "the study varies nothing"));
}

TEST_CASE("variations tell a peak without a limit from one that is only not known well enough") {
    const TemporaryFolder folder;
    const std::string study = folder.file(
        "study.toml",
        "format = 1\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [2, 1], [1, 1], [1, 2], [0, 2]]\n"
        "names = { side5 = \"left\", side2 = \"right\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
        "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[load.p]\non = \"right\"\ntraction = [0, \"pull\"]\n"
        "[size]\nglobal = 0.4\n[series.s]\nkind = \"uniform\"\nmost_levels = 3\n[variables]\npull = 1\n"
        "[vary.pulls]\nvalues = { pull = [1, 2] }\n[quantity.peak]\nof = \"von_mises\"\ntarget = 0.01\n"
        "[quantity.twice]\nformula = \"2 * peak\"\n");
    const auto r = run({"vary", study, "-o", (folder / "out").string(), "--quiet"});
    INFO(r.out, r.err);
    CHECK(r.status == 1);
    CHECK(has(r.out, "does not converge"));
    CHECK(!has(r.out, "missed"));
    const auto j = nlohmann::json::parse(content_of(folder / "out/pulls.json"));
    for (const auto& one : j["runs"])
        for (const std::string name : {"peak", "twice"}) CHECK(one["outputs"][name]["verdict"] == "does not converge");
}

TEST_CASE("any field of a file tells where a mesh is refined") {
    const TemporaryFolder folder;
    const std::string study =
        folder.file("study.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 1\n"));
    REQUIRE(run({"run", study, "-o", (folder / "out").string(), "--quiet"}).status <= 1);
    const std::string mesh = (folder / "out/u/level-1/mesh.vtu").string();
    const auto remesh = [&](const std::vector<std::string>& extra) {
        std::vector<std::string> arguments{"remesh", study, mesh, "-o", (folder / "finer").string()};
        arguments.insert(arguments.end(), extra.begin(), extra.end());
        return run(arguments);
    };
    for (const std::string field : {"von_mises", "displacement", "stress"}) {
        const auto r = remesh({"--field", field, "--share", "0.1", "--json"});
        INFO(field, " ", r.err);
        REQUIRE(r.status == 0);
        const auto j = nlohmann::json::parse(r.out);
        CHECK(j["kept"]["elements"] > 0);
        CHECK(j["made"]["elements"] > j["removed"]["elements"]);
        CHECK(j["after"]["poor"] == 0);
    }
    CHECK(remesh({"--field", "von_mises", "--indicator", "gradient"}).status == 0);
    const auto absent = remesh({"--field", "heat"});
    CHECK(absent.status == 2);
    CHECK(has(absent.err, "\"von_mises\""));
    CHECK(has(remesh({"--field", "layer_row"}).err, "the same everywhere"));
    CHECK(remesh({"--field", "von_mises", "--share", "1.5"}).status == 2);
    CHECK(remesh({"--field", "von_mises", "--finer", "1"}).status == 2);
    CHECK(has(remesh({}).err, "--field"));
}
