// Evidence is what it says: inputs and levels that were changed are refused, files outside travel along, failures leave
// what was done, and nothing is written where it does not belong.

#include <doctest/doctest.h>
#include <sys/resource.h>

#include <fstream>
#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

const std::string two_levels = "[series.u]\nkind = \"uniform\"\nmost_levels = 2\n";

std::string with_table(const std::string& table) {
    return small_study(two_levels + "[size.local.map]\ntable = \"" + table + "\"\n");
}

const std::string sizes = "x,y,size\n-10,-10,4\n70,-10,4\n-10,30,6\n70,30,6\n";

void replace_in(const fs::path& file, const std::string& old, const std::string& by) {
    std::string text = content_of(file);
    const auto at = text.find(old);
    REQUIRE(at != std::string::npos);
    text.replace(at, old.size(), by);
    std::ofstream(file, std::ios::binary) << text;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("a level that was changed after it was written is refused by everything that reads it") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(two_levels)), out = (folder / "o").string();
    REQUIRE(run({"run", study, "-o", out, "--quiet"}).status <= 1);
    fs::copy(folder / "o", folder / "good", fs::copy_options::recursive);
    const auto refused = [&] {
        for (const std::vector<std::string>& command :
             {std::vector<std::string>{"report", out},
              {"compare", out, (folder / "good").string(), "-o", (folder / "c").string()},
              {"archive", out, "-o", (folder / "a.zip").string()},
              {"run", study, "-o", out, "--resume"}}) {
            const auto r = run(command);
            CAPTURE(command[0]);
            CHECK(r.status == 2);
            CHECK(has(r.err, "was changed after it was written: its checksum differs"));
        }
        CHECK(!fs::exists(folder / "a.zip"));
    };
    replace_in(folder / "o/u/level-1/level.json", "\"value\": ", "\"value\": 9");
    refused();
    fs::copy(folder / "good/u/level-1/level.json", folder / "o/u/level-1/level.json",
             fs::copy_options::overwrite_existing);
    fs::copy(folder / "good/u/level-1/mesh.vtu", folder / "o/u/level-2/mesh.vtu", fs::copy_options::overwrite_existing);
    refused();
    // A whole level in another one's place.
    fs::remove_all(folder / "o/u/level-2");
    fs::copy(folder / "good/u/level-1", folder / "o/u/level-2", fs::copy_options::recursive);
    CHECK(has(run({"report", out}).err, "it is level 1 of series u"));
    CHECK(run({"report", (folder / "good").string()}).status <= 1);
}

TEST_CASE("files outside of the study's folder are told, copied and compared") {
    const TemporaryFolder folder;
    fs::create_directory(folder / "work");
    folder.file("sizes.csv", sizes);
    const std::string study = folder.file("work/s.toml", with_table("../sizes.csv")), out = (folder / "o").string();
    const auto r = run({"run", study, "-o", out, "--quiet"});
    REQUIRE(r.status <= 1);
    CHECK(has(r.err, "the file ../sizes.csv lies outside of the study's folder"));
    CHECK(content_of(folder / "o/inputs/(above)/sizes.csv") == sizes);
    CHECK(has(content_of(folder / "o/provenance.json"), "inputs/(above)/sizes.csv"));
    // The result stands alone: what happens to the file does not matter to the report, and stops a resumed run.
    const std::string before = content_of(folder / "o/summary.json");
    folder.file("sizes.csv", "x,y,size\n-10,-10,2\n70,-10,2\n-10,30,2\n70,30,2\n");
    CHECK(run({"report", out}).status <= 1);
    CHECK(content_of(folder / "o/summary.json") == before);
    CHECK(has(run({"run", study, "-o", out, "--resume"}).err, "the content of ../sizes.csv"));
    folder.file("o/inputs/(above)/sizes.csv", sizes + "\n");
    CHECK(has(run({"report", out}).err, "sizes.csv: error: the file was changed after the run"));
    // No contents of foreign files in messages, and no devices.
    const auto foreign = run({"check", folder.file("work/f.toml", with_table("/etc/passwd"))});
    CHECK(foreign.status == 2);
    CHECK(!has(foreign.err, "root:"));
    CHECK(has(run({"check", folder.file("work/z.toml", with_table("/dev/zero"))}).err, "no ordinary file"));
}

TEST_CASE("two files from outside never share a copy") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "work");
    fs::create_directories(folder / "a");
    const std::string others = "x,y,size\n-10,-10,3\n70,-10,3\n-10,30,5\n70,30,5\n";
    folder.file("a_b.csv", sizes);
    folder.file("a/b.csv", others);
    const std::string study =
        folder.file("work/s.toml", with_table("../a_b.csv") + "[size.local.second]\ntable = \"../a/b.csv\"\n");
    REQUIRE(run({"run", study, "-o", (folder / "o").string(), "--quiet"}).status <= 1);
    CHECK(content_of(folder / "o/inputs/(above)/a_b.csv") == sizes);
    CHECK(content_of(folder / "o/inputs/(above)/a/b.csv") == others);
    CHECK(run({"report", (folder / "o").string()}).status <= 1);
}

TEST_CASE("a run that was killed at its first file, or while it removed another, is no obstacle") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(two_levels)), out = (folder / "o").string();
    for (const std::string how : {"", "--replace", "--resume"}) {
        CAPTURE(how);
        fs::remove_all(folder / "o");
        fs::create_directory(folder / "o");
        folder.file("o/study-as-run.toml.part", "format = ");
        std::vector<std::string> command{"run", study, "-o", out, "--quiet"};
        if (!how.empty()) command.push_back(how);
        CHECK(run(command).status <= 1);
        CHECK(fs::exists(folder / "o/u/level-2/level.json"));
        CHECK(!fs::exists(folder / "o/study-as-run.toml.part"));
    }
    // Half removed: a level without its numbers, a folder without a level, a copy, half a file; and what is the user's.
    fs::remove(folder / "o/u/level-1/level.json");
    fs::copy(folder / "o/u/level-2", folder / "o/u/level-7", fs::copy_options::recursive);
    fs::create_directories(folder / "o/gone");
    fs::create_directories(folder / "o/inputs");
    fs::create_directories(folder / "o/mine/level-1");
    folder.file("o/inputs/old.csv", sizes);
    folder.file("o/levels.csv.part", "ser");
    folder.file("o/mine/notes.txt", "keep");
    CHECK(run({"run", study, "-o", out, "--quiet", "--replace"}).status <= 1);
    for (const auto* left : {"u/level-7", "gone", "inputs", "levels.csv.part"})
        CHECK_MESSAGE(!fs::exists(folder / "o" / left), left);
    CHECK(content_of(folder / "o/mine/notes.txt") == "keep");
    CHECK(fs::exists(folder / "o/u/level-1/level.json"));
}

TEST_CASE("a file of the user's that is named like one of the result's is not overwritten by it") {
    const TemporaryFolder folder;
    folder.file("levels.csv", sizes);
    const std::string study = folder.file("s.toml", with_table("levels.csv")), out = (folder / "o").string();
    REQUIRE(run({"run", study, "-o", out, "--quiet"}).status <= 1);
    CHECK(content_of(folder / "o/inputs/levels.csv") == sizes);
    CHECK(has(content_of(folder / "o/levels.csv"), "series,level"));
    CHECK(run({"report", out}).status <= 1);
}

TEST_CASE("what fails after a level leaves a report of what is there") {
    const TemporaryFolder folder;
    const std::string study = folder.file(
        "s.toml",
        small_study(
            "[series.u]\nkind = \"uniform\"\nmost_levels = 2\n[series.v]\nkind = \"uniform\"\nstart_from = \"u/9\"\n"
            "[series.w]\nkind = \"uniform\"\nratio = 2\nmost_levels = 2\n"));
    const auto r = run({"run", study, "-o", (folder / "o").string(), "--quiet"});
    CHECK(r.status == 2);
    CHECK(has(r.err, "which ended with level 2"));
    CHECK(fs::exists(folder / "o/report.html"));
    const auto j = nlohmann::json::parse(content_of(folder / "o/summary.json"));
    CHECK(j["failures"].size() == 1);
    CHECK(j["all_targets_met"] == false);
    CHECK(j["series"].size() == 3);
    CHECK(j["series"][2]["levels"].size() == 2);  // the next series had its turn
    CHECK(has(j["series"][1]["stopped_by"], "a failure"));
}

TEST_CASE("texts never become a part of the chart program's language") {
    const TemporaryFolder folder;
    for (const std::string title : {"'; system \"touch owned\"; '", "' apostrophe first", "`touch owned`",
                                    "\\\" $curve0 @x {a}", "100 % ~ _sub^sup"}) {
        std::string text = small_study(two_levels);
        std::string literal = "\"";
        for (const char c : title) literal += c == '"' || c == '\\' ? std::string("\\") + c : std::string(1, c);
        text.replace(text.find("units"), 0, "title = " + literal + "\"\n");
        const auto r = run({"run", folder.file("s.toml", text), "-o", "o", "--replace", "--quiet"}, folder.path());
        CAPTURE(title);
        CHECK(r.status <= 1);
        CHECK(!has(r.err, "not drawn"));
        CHECK(!fs::exists(folder / "owned"));
        CHECK(fs::exists(folder / "o/report.html"));
    }
}

TEST_CASE("an archive that is damaged leaves nothing behind") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(two_levels)), out = (folder / "o").string();
    REQUIRE(run({"run", study, "-o", out, "--quiet"}).status <= 1);
    const std::string zip = (folder / "a.zip").string();
    REQUIRE(run({"archive", out, "-o", zip}).status == 0);
    const std::string whole = content_of(zip);
    for (const double share : {0.2, 0.5, 0.8}) {
        std::string broken = whole;
        for (std::size_t k = 0; k < 64; ++k)
            broken[static_cast<std::size_t>(share * static_cast<double>(whole.size())) + k] ^= 0x5a;
        const auto r = run({"archive", folder.file("b.zip", broken), "-o", (folder / "back").string()});
        CHECK(r.status >= 2);
        CHECK(!fs::exists(folder / "back"));
        CHECK(!fs::exists(folder / "back.part"));
    }
    CHECK(run({"archive", zip, "-o", (folder / "back").string()}).status == 0);
    CHECK(content_of(folder / "back/summary.json") == content_of(folder / "o/summary.json"));
}

TEST_CASE("a full device and a closed pipe are told with the status for files") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(two_levels));
    const std::string program = DOTSIFT_PROGRAM;
    const auto status = [](const std::string& command) { return WEXITSTATUS(std::system(command.c_str())); };
    CHECK(status(program + " check " + study + " --json > /dev/full 2> /dev/null") == 4);
    CHECK(status(program + " keys > /dev/full 2> /dev/null") == 4);
    CHECK(status("bash -c 'set -o pipefail; " + program + " keys 2> /dev/null | true'") == 4);
}

TEST_CASE("too little memory is told, and nothing spins") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(two_levels));
    for (const int megabytes : {120, 200, 300, 420}) {
        const std::string command = "bash -c 'ulimit -v " + std::to_string(megabytes * 1024) + "; timeout 60 " +
                                    DOTSIFT_PROGRAM + " run " + study + " -o " + (folder / "o").string() +
                                    " --replace --quiet > /dev/null 2> " + (folder / "err").string() + "'";
        const int status = WEXITSTATUS(std::system(command.c_str()));
        CAPTURE(megabytes);
        CAPTURE(content_of(folder / "err"));
        CHECK(status == 3);
        CHECK(has(content_of(folder / "err"), "not enough memory"));
    }
}

TEST_CASE("tables without names, with counts, and of sizes in another order") {
    const TemporaryFolder folder;
    const auto r = run({"statistics", folder.file("bare.csv", "4,1.16\n2,1.04\n1,1.01\n"), "--json"});
    CHECK(r.status == 0);
    CHECK(has(r.err, "the first row is all numbers: it is taken for a level"));
    const auto j = nlohmann::json::parse(r.out)["quantities"][0];
    CHECK(j["levels"] == 3);
    CHECK(j["observed_order"].get<double>() == doctest::Approx(2));
    const auto counts =
        run({"statistics", folder.file("n.csv", "cells,v\n400,1.16\n1600,1.04\n6400,1.01\n"), "--json"});
    CHECK(has(counts.err, "they are taken for counts of elements in 2 dimensions"));
    CHECK(nlohmann::json::parse(counts.out)["quantities"][0]["observed_order"].get<double>() == doctest::Approx(2));
    CHECK(run({"statistics", folder.file("n.csv", "cells,v\n400,1.16\n200,1.04\n100,1.01\n"), "--size", "cells"})
              .err.empty());
    // Columns by their names.
    folder.file("sizes.csv", "size,y,x\n4,-10,-10\n4,-10,70\n6,30,-10\n6,30,70\n");
    CHECK(run({"check", folder.file("s.toml", with_table("sizes.csv"))}).status == 0);
    folder.file("sizes.csv", "a,b,c\n4,-10,-10\n4,-10,70\n6,30,-10\n6,30,70\n");
    CHECK(has(run({"check", folder.file("s.toml", with_table("sizes.csv"))}).err,
              "does not name the columns x, y and size"));
}

TEST_SUITE_END();
