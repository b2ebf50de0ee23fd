// Statistics of any table; results that are reported anew, compared and packed.

#include <doctest/doctest.h>

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const auto at = text.find(from);
    REQUIRE(at != std::string::npos);
    return text.replace(at, from.size(), to);
}

const std::string two_series =
    "[series.u]\nkind = \"uniform\"\nmost_levels = 3\n[series.a]\nkind = \"adaptive\"\nerror_target = \"3 %\"\n";

/// A finished study, made once.
struct Finished {
    TemporaryFolder folder;
    std::string out;
    Finished() : out((folder / "out").string()) {
        const auto r = run({"run", folder.file("bracket.toml", small_study(two_series)), "-o", out, "--quiet"});
        REQUIRE(r.status == 0);
    }
};
const Finished& finished() {
    static const Finished f;
    return f;
}

std::set<std::string> files_below(const fs::path& directory) {
    std::set<std::string> files;
    for (const auto& f : fs::recursive_directory_iterator(directory))
        if (f.is_regular_file()) files.insert(f.path().lexically_relative(directory).string());
    return files;
}

/// What the schema has against a document; empty: nothing.
std::string faults_by_schema(const nlohmann::json& document) {
    const auto text = nlohmann::json::parse(content_of(fs::path(DOTSIFT_SOURCE) / "share/schema/summary.schema.json"));
    valijson::Schema schema;
    valijson::SchemaParser parser(valijson::SchemaParser::kDraft7);
    parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(text), schema);
    valijson::Validator validator;
    valijson::ValidationResults results;
    if (validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(document), &results)) return {};
    std::string faults = "refused";
    for (const auto& e : results) {
        for (const auto& c : e.context) faults += c;
        faults += ": " + e.description + "\n";
    }
    return faults;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("the summary of a solid fits the schema") {
    const TemporaryFolder folder;
    const std::string study = folder.file(
        "s.toml",
        "format = 1\n[part]\nextrude = { to = 1 }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left "
        "= "
        "\"left\", right = \"right\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nconductivity = "
        "2\n[support.s]\non = \"left\"\nhold = \"fixed\"\npotential = 1\n[load.l]\non = \"right\"\ntraction = [1, 2, "
        "3]\n[load.q]\non = \"right\"\nflux = 3\n[size]\nglobal = 0.5\n[series.u]\nkind = \"uniform\"\nmost_levels = "
        "2\n[quantity.p]\nof = \"von_mises\"\n[quantity.t]\nof = \"potential\"\non = \"right\"\ntake = \"mean\"\n");
    CHECK(run({"run", study, "-o", (folder / "out").string(), "--quiet", "--pictures", "none"}).status == 0);
    const auto summary = nlohmann::json::parse(content_of(folder / "out/summary.json"));
    CHECK(faults_by_schema(summary) == "");
}

TEST_CASE("the two published examples come back to their printed digits") {
    const TemporaryFolder folder;
    // Celik et al. 2008, table 1: cells of plane meshes, whose sizes have the ratios 1.5 and 1.333.
    const std::string first = folder.file("first.csv", "cells,value\n18000,6.063\n8000,5.972\n4500,5.863\n");
    const auto r = run({"statistics", first, "--count", "cells", "--json"});
    REQUIRE(r.status == 0);
    const auto a = nlohmann::json::parse(r.out)["quantities"][0];
    CHECK(a["observed_order"].get<double>() == doctest::Approx(1.53).epsilon(0.003));
    CHECK(a["extrapolated"].get<double>() == doctest::Approx(6.1685).epsilon(5e-6));
    CHECK(a["change"].get<double>() == doctest::Approx(0.015).epsilon(0.01));
    CHECK(1 - 6.063 / a["extrapolated"].get<double>() == doctest::Approx(0.017).epsilon(0.01));
    CHECK(a["gci_fine"].get<double>() == doctest::Approx(0.022).epsilon(0.02));
    // A pressure recovery at ratio 2, from fine to coarse and with other columns beside it.
    const std::string second =
        folder.file("second.csv", "mesh,h,recovery\nfine,1,0.97050\nmiddle,2,0.96854\ncoarse,4,0.96178\n");
    const auto s = run({"statistics", second, "--size", "h", "--values", "recovery", "--json"});
    REQUIRE(s.status == 0);
    const auto b = nlohmann::json::parse(s.out)["quantities"][0];
    CHECK(b["observed_order"].get<double>() == doctest::Approx(1.786).epsilon(3e-4));
    CHECK(b["extrapolated"].get<double>() == doctest::Approx(0.97130).epsilon(5e-6));
    CHECK(b["gci_fine"].get<double>() == doctest::Approx(0.00103).epsilon(0.005));
    CHECK(b["gci_coarse"].get<double>() == doctest::Approx(0.00356).epsilon(0.005));
}

TEST_CASE("statistics of a table with counts: files, charts and targets") {
    const TemporaryFolder folder;
    const std::string table = std::string(DOTSIFT_SOURCE) + "/examples/tidal/duct-loss.csv";
    const auto r = run({"statistics", table, "--count", "cells", "--dimension", "3", "-o", (folder / "out").string(),
                        "--target", "1 %"});
    CHECK(r.status == 0);
    CHECK(has(r.out, "the target of 1.0 % is met"));
    CHECK(has(content_of(folder / "out/statistics.md"), "| pressure_drop_Pa |"));
    for (const char* file : {"statistics.json", "values-1.png", "values-3.svg"})
        CHECK(fs::exists(folder / "out" / file));
    const auto j = nlohmann::json::parse(content_of(folder / "out/statistics.json"));
    CHECK(j["quantities"].size() == 3);
    CHECK(j["quantities"][0]["values"][0]["h"].get<double>() == doctest::Approx(std::pow(41600, -1.0 / 3)));
    CHECK(j["quantities"][0].contains("least_squares"));
    CHECK(j["quantities"][2]["behaviour"] == "oscillating");
    CHECK(run({"statistics", table, "--count", "cells", "--target", "0.001 %"}).status == 1);
    const auto bare = run({"statistics", table, "--count", "cells", "--target", "2"});
    CHECK(bare.status == 2);
    CHECK(has(bare.err, "if percent is meant, write \"2 %\""));
}

TEST_CASE("tables that say nothing are refused with all their faults") {
    const TemporaryFolder folder;
    const auto refused = [&](const std::string& text, std::vector<std::string> more = {}) {
        std::vector<std::string> arguments{"statistics", folder.file("t.csv", text)};
        arguments.insert(arguments.end(), more.begin(), more.end());
        const auto r = run(arguments);
        CHECK(r.status == 2);
        CHECK(r.out.empty());
        return r.err;
    };
    CHECK(has(refused("h,v\n2,1\n1,2\n"), "has 2 levels, but an order needs three"));
    CHECK(has(refused("h,v\n4,1\n2,2\n2,3\n"), "t.csv:4: error: column \"h\" is the same as in the row before"));
    CHECK(has(refused("h,v\n4,1\n2,2\n3,3\n1,3\n"), "t.csv:4: error: column \"h\" neither rises nor falls"));
    CHECK(has(refused("h,v\n4,1\n0,2\n-3,3\n"), "must be above zero"));
    const std::string several = refused("h,v,w\n4,1,n/a\n2,,5\n1,3,6\n");
    CHECK(has(several, "t.csv:2: error: column \"w\" has \"n/a\", which is no number"));
    CHECK(has(several, "t.csv:3: error: column \"v\" has no value"));
    CHECK(has(refused("h,v\n4,1\n2,2,9\n1,3\n"), "the row has 3 fields, but 2 columns are named"));
    CHECK(has(refused("h,v\n4,1\n2,inf\n1,3\n"), "which is no number"));
    CHECK(has(refused("h,v\n4,1\n2,2\n1,3\n", {"--values", "w"}), "there is no column \"w\""));
    CHECK(has(refused("size,v\n4,1\n2,2\n1,3\n", {"--size", "sise"}), "did you mean \"size\"?"));
    CHECK(has(refused("h,h\n4,1\n2,2\n1,3\n"), "is there twice"));
    CHECK(has(refused("h,v\n4,1\n2,\"2\n1,3\n"), "a quotation mark is never closed"));
    CHECK(has(refused(""), "the table is empty"));
    CHECK(has(refused("h\n3\n2\n1\n"), "no column of values"));
    CHECK(has(refused("h,v\n4,1\n2,2\n1,3\n", {"--dimension", "3"}), "--dimension goes with --count"));
    CHECK(run({"statistics", (folder / "none.csv").string()}).status == 4);
    // Semicolons, quotes, spaces and Windows line ends are read.
    const auto fine =
        run({"statistics", folder.file("ok.csv", "\"h\"; \"v\" \r\n4; 1\r\n2; 1.5\r\n1; +1.625\r\n\r\n")});
    CHECK(fine.status == 0);
    CHECK(has(fine.out, "1.6"));
}

TEST_CASE("the summary keeps to its schema, which knows every key") {
    auto summary = nlohmann::json::parse(content_of(fs::path(finished().out) / "summary.json"));
    CHECK(faults_by_schema(summary) == "");
    // Heat, cases and exact answers have further keys.
    const TemporaryFolder folder;
    const std::string example = std::string(DOTSIFT_SOURCE) + "/examples/tidal/stator-sleeve.toml";
    const auto r = run({"run", example, "-o", (folder / "sleeve").string(), "--quiet", "--json"});
    CHECK(r.status <= 1);
    CHECK(faults_by_schema(nlohmann::json::parse(r.out)) == "");
    summary["series"][0]["verdicts"][0].erase("rule");
    CHECK(has(faults_by_schema(summary), "rule"));
    summary["surprise"] = 1;
    CHECK(has(faults_by_schema(summary), "surprise"));
}

TEST_CASE("a report made anew is the same, bit for bit, and nothing is solved") {
    const TemporaryFolder folder;
    fs::copy(finished().out, folder / "out", fs::copy_options::recursive);
    for (const char* gone :
         {"report.html", "summary.json", "levels.csv", "levels.md", "part.png", "u/level-2/error.png"})
        fs::remove(folder / "out" / gone);
    fs::remove_all(folder / "out/charts");
    const auto r = run({"report", (folder / "out").string()});
    CHECK(r.status == 0);
    CHECK(has(r.out, "Grid independence is shown"));
    const auto files = files_below(finished().out);
    CHECK(files_below(folder / "out") == files);
    for (const auto& f : files) {
        CAPTURE(f);
        CHECK((content_of(folder / "out" / f) == content_of(fs::path(finished().out) / f)));
    }
    // Fewer levels are reported as what they are.
    fs::remove_all(folder / "out/a");
    fs::remove(folder / "out/u/level-3/level.json");
    const auto fewer = run({"report", (folder / "out").string(), "--json"});
    CHECK(fewer.status == 1);
    const auto j = nlohmann::json::parse(fewer.out);
    REQUIRE(j["series"].size() == 1);
    CHECK(j["series"][0]["levels"].size() == 2);
    CHECK(has(j["series"][0]["stopped_by"], "what is stored: 2 levels"));
    // A study that is not the one that was run is refused.
    const std::string as_run = content_of(folder / "out/study-as-run.toml");
    std::ofstream(folder / "out/study-as-run.toml", std::ios::app)
        << "[series.z]\nkind = \"uniform\"\nstart_from = \"u/3\"\n";
    const auto other = run({"report", (folder / "out").string()});
    CHECK(other.status == 2);
    CHECK(has(other.err, "was changed after the run"));
    std::ofstream(folder / "out/study-as-run.toml") << as_run;
    CHECK(run({"report", (folder / "out").string()}).status == 1);
    fs::remove(folder / "out/u/level-1/level.json");
    const auto none = run({"report", (folder / "out").string()});
    CHECK(none.status == 2);
    CHECK(has(none.err, "holds no finished level"));
    CHECK(has(run({"report", folder.path().string()}).err, "holds no result"));
    std::ofstream(folder / "out/provenance.json") << "{";
    CHECK(has(run({"report", (folder / "out").string()}).err, "the file is damaged"));
}

TEST_CASE("levels side by side") {
    const TemporaryFolder folder;
    const std::string& out = finished().out;
    const auto r = run({"compare", out + "/u/level-1", out + "/u", out + "/a/", "-o", (folder / "c").string()});
    CHECK(r.status == 0);
    CHECK(has(r.out, "u, level 1"));
    CHECK(has(r.out, "u, level 3"));
    for (const char* f : {"comparison.html", "comparison.md", "1-field.png", "3-mesh.svg", "1-difference.png",
                          "2-close-up-peak.png", "error-against-time.png", "peak.svg"}) {
        CAPTURE(f);
        CHECK(fs::exists(folder / "c" / f));
    }
    const auto j = nlohmann::json::parse(content_of(folder / "c/comparison.json"));
    REQUIRE(j["levels"].size() == 3);
    CHECK(j["finest"] == "u, level 3");
    CHECK(!fs::exists(folder / "c/2-difference.png"));  // that is the finest one
    const double finest = j["levels"][1]["quantities"][0]["value"], first = j["levels"][0]["quantities"][0]["value"];
    CHECK(j["levels"][0]["quantities"][0]["to_finest"].get<double>() == doctest::Approx(first / finest - 1));
    // The same part with other sizes in another result.
    const std::string other = folder.file(
        "other.toml",
        replaced(small_study("[series.x]\nkind = \"uniform\"\nmost_levels = 1\n"), "global = 6", "global = 3"));
    REQUIRE(run({"run", other, "-o", (folder / "other").string(), "--quiet"}).status <= 1);
    const auto both = run({"compare", out, (folder / "other").string(), "--json"});
    CHECK(both.status == 0);
    CHECK(nlohmann::json::parse(both.out)["levels"][1]["level"] == "other x, level 1");
}

TEST_CASE("what cannot be compared is refused with what differs") {
    const TemporaryFolder folder;
    const std::string& out = finished().out;
    const std::string text = small_study("[series.x]\nkind = \"uniform\"\nmost_levels = 1\n");
    REQUIRE(run({"run", folder.file("soft.toml", replaced(text, "poissons_ratio = 0.3", "poissons_ratio = 0.2")), "-o",
                 (folder / "soft").string(), "--quiet"})
                .status <= 1);
    const auto differs = run({"compare", out, (folder / "soft").string()});
    CHECK(differs.status == 2);
    CHECK(has(differs.err, "what differs: material."));
    CHECK(has(run({"compare", out}).err, "two levels or more"));
    CHECK(has(run({"compare", out + "/u", out + "/u/level-3"}).err, "compared already"));
    CHECK(has(run({"compare", out + "/u", out + "/w"}).err, "there is no such level"));
    CHECK(has(run({"compare", out + "/u", out + "/u/level-9"}).err, "series are u (3 levels)"));
    CHECK(has(run({"compare", out + "/u", folder.path().string()}).err, "names no result, series or level"));
    CHECK(has(run({"compare", out + "/u", out + "/a", "-o", out}).err, "holds a result of a run"));
}

TEST_CASE("an archive holds everything, is the same for the same files, and goes on elsewhere") {
    const TemporaryFolder folder;
    const std::string zip = (folder / "study.zip").string(), back = (folder / "back").string();
    REQUIRE(run({"archive", finished().out, "-o", zip}).status == 0);
    REQUIRE(run({"archive", finished().out + "/", "-o", (folder / "again.zip").string()}).status == 0);
    CHECK((content_of(zip) == content_of(folder / "again.zip")));
    REQUIRE(run({"archive", zip, "-o", back}).status == 0);
    const auto files = files_below(finished().out);
    CHECK(files_below(back) == files);
    for (const auto& f : files) CHECK((content_of(fs::path(back) / f) == content_of(fs::path(finished().out) / f)));
    CHECK(run({"report", back}).status == 0);
    CHECK(run({"run", back + "/study-as-run.toml", "-o", (folder / "rerun").string(), "--quiet"}).status == 0);
    CHECK((content_of(folder / "rerun/u/level-3/mesh.vtu") == content_of(fs::path(back) / "u/level-3/mesh.vtu")));

    CHECK(has(run({"archive", finished().out, "-o", zip}).err, "never overwritten"));
    CHECK(has(run({"archive", finished().out, "-o", (folder / "a.tar").string()}).err, "does not end in .zip"));
    CHECK(has(run({"archive", zip, "-o", back}).err, "is not empty"));
    CHECK(has(run({"archive", folder.path().string(), "-o", (folder / "b.zip").string()}).err, "holds no result"));
    CHECK(run({"archive", (folder / "none.zip").string(), "-o", (folder / "n").string()}).status == 4);
    // Damage of any kind leaves nothing behind.
    const std::string whole = content_of(zip);
    for (const std::size_t length : {std::size_t{0}, std::size_t{100}, whole.size() / 2, whole.size() - 10}) {
        const std::string cut = folder.file("cut.zip", whole.substr(0, length));
        CHECK(run({"archive", cut, "-o", (folder / "n").string()}).status == 2);
        CHECK(!fs::exists(folder / "n"));
    }
    std::string flipped = whole;
    flipped[whole.size() / 3] = static_cast<char>(~flipped[whole.size() / 3]);
    CHECK(run({"archive", folder.file("flipped.zip", flipped), "-o", (folder / "n").string()}).status == 2);
    CHECK(!fs::exists(folder / "n"));
    // A full disk is told, and leaves no archive.
    const auto full = run({"archive", finished().out, "-o", (folder / "full.zip").string()}, ".", 0, 100'000);
    CHECK(full.status == 4);
    CHECK(!fs::exists(folder / "full.zip"));
}

TEST_SUITE_END();
