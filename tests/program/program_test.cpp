#include <doctest/doctest.h>
#include <array>
#include <cmath>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

std::set<std::string> files_in(const fs::path& folder) {
    std::set<std::string> names;
    for (const auto& e : fs::recursive_directory_iterator(folder))
        if (e.is_regular_file()) names.insert(fs::relative(e.path(), folder).string());
    return names;
}

/// The summary without what depends on the machine.
nlohmann::json comparable(const fs::path& summary) {
    auto j = nlohmann::json::parse(content_of(summary));
    for (auto& s : j["series"]) {
        for (auto& l : s["levels"]) l.erase("cost");
        if (s.contains("next_level")) s["next_level"].erase("cost");
    }
    return j;
}

const std::string quick_series =
    "[series.u]\nkind = \"uniform\"\nmost_levels = 3\n[series.a]\nkind = \"adaptive\"\nerror_target = \"3 %\"\n";

}  // namespace

TEST_SUITE_BEGIN("commands");

TEST_CASE("help, version and unknown words") {
    CHECK(run({"--help"}).status == 0);
    CHECK(run({}).status == 2);
    const auto version = run({"--version"});
    CHECK(version.status == 0);
    CHECK(has(version.out, "dotsift 0."));
    CHECK(has(version.out, "CHOLMOD"));
    for (const std::string command : {"check", "mesh", "run", "keys"}) {
        const auto help = run({command, "--help"});
        CHECK(help.status == 0);
        CHECK(has(help.out, "example: dotsift " + command));
    }
    const auto wrong = run({"chek"});
    CHECK(wrong.status == 2);
    CHECK(has(wrong.err, "did you mean \"check\"?"));
    const auto option = run({"run", "--outptu=x"});
    CHECK(option.status == 2);
    CHECK(has(option.err, "did you mean --output?"));
    CHECK(has(run({"run"}).err, "no study file is given"));
    CHECK(run({"keys"}).status == 0);
}

TEST_CASE("check tells what the study holds") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study());
    const auto text = run({"check", study});
    CHECK(text.status == 0);
    CHECK(has(text.out, "no faults found"));
    for (const std::string name : {"wall", "end", "hole"}) CHECK(has(text.out, name));
    const auto json = run({"check", study, "--json"});
    const auto j = nlohmann::json::parse(json.out);
    CHECK(j["area"].get<double>() == doctest::Approx(1200 - 3.14159265 * 16));
    CHECK(j["boundaries"].size() == 3);
    CHECK(files_in(folder.path()) == std::set<std::string>{"s.toml"});  // nothing is written
}

TEST_CASE("inspect measures, lists, draws and writes the part") {
    const TemporaryFolder folder;
    const std::string study = std::string(DOTSIFT_SOURCE) + "/examples/tidal/hub-cover.toml";
    const auto r = run({"inspect", study, "-o", (folder / "o").string()});
    CHECK(r.status == 0);
    CHECK(r.err.empty());
    CHECK(has(r.out, "ends joined that were up to"));
    CHECK(has(r.out, "narrowest place of part: 16.00 mm between \"bolts\" and \"rim\""));
    CHECK(has(r.out, "suggestion  global size"));
    for (const auto* name : {"part.png", "part.svg", "outline.svg", "outline.dxf", "inspection.json"})
        CHECK(fs::file_size(folder / (std::string("o/") + name)) > 1000);
    const auto printed = nlohmann::json::parse(run({"inspect", study, "--json"}).out);
    CHECK(printed == nlohmann::json::parse(content_of(folder / "o/inspection.json")));
    CHECK(printed["counts"]["holes"] == 11);
    CHECK(printed["mass"].get<double>() == doctest::Approx(5.129).epsilon(1e-3));
    // the written drawing is the same part
    const std::string again =
        folder.file("again.toml",
                    "format = 1\nunits = { length = \"mm\" }\n[[part.shape]]\nadd = \"drawing\"\nfile = "
                    "\"o/outline.dxf\"\nnested = \"regions\"\nmarks = \"flat_corner\"\n");
    const auto back = run({"inspect", again, "--json"});
    CHECK(back.status == 2);  // nothing to solve yet, but the part is there
    CHECK(has(back.err, "the study has no material"));
    const auto second = nlohmann::json::parse(back.out);
    CHECK(second["measures"]["area"].get<double>() ==
          doctest::Approx(printed["measures"]["area"].get<double>()).epsilon(1e-12));
    CHECK(second["boundaries"].size() == printed["boundaries"].size());
}

TEST_CASE("a run keeps the drawing beside the copy of its study") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "drawn");
    const std::string square =
        "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\nrim\n90\n4\n70\n1\n10\n0\n20\n0\n10\n4\n20\n0\n10\n4\n20\n2\n10\n0"
        "\n20\n2\n0\nENDSEC\n0\nEOF\n";
    (void)folder.file("drawn/square.dxf", square);
    const std::string study = folder.file("s.toml",
                                          "format = 1\nunits = { length = \"mm\" }\n[[part.shape]]\nadd = "
                                          "\"drawing\"\nfile = \"drawn/square.dxf\"\nunit = \"mm\"\n"
                                          "[part.selection.left]\nnormal = [-1, 0]\n[part.selection.right]\nnormal = "
                                          "[1, 0]\n[material.m]\nyoungs_modulus = "
                                          "1\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = "
                                          "\"fixed\"\n[load.l]\non = \"right\"\npressure = 1\n[series.u]\nkind = "
                                          "\"uniform\"\nmost_levels = 1\n[quantity.q]\nof = \"ux\"\non = \"rim\"\n");
    const auto r = run({"run", study, "-o", (folder / "o").string(), "--quiet"});
    CAPTURE(r.err);
    CHECK(r.status == 0);
    CHECK(content_of(folder / "o/drawn/square.dxf") == square);
    CHECK(run({"check", (folder / "o/study-as-run.toml").string()}).status == 0);  // the copy stands alone
}

TEST_CASE("inspect tells what the clean-up did and shows both parts") {
    const TemporaryFolder folder;
    const auto r = run({"inspect", std::string(DOTSIFT_SOURCE) + "/examples/tidal/blade-root-plate.toml", "-o",
                        (folder / "o").string()});
    CHECK(r.status == 0);
    CHECK(has(r.out, "hole at (70.00, -30.00) of diameter 4.000 filled, point \"dowel1\" left at its centre"));
    CHECK(has(r.out, "clean-up changes it by 0.22 %"));
    CHECK(fs::exists(folder / "o/cleanup.png"));
    const auto j = nlohmann::json::parse(content_of(folder / "o/inspection.json"));
    CHECK(j["measures"]["area"].get<double>() - j["measures_as_drawn"]["area"].get<double>() ==
          doctest::Approx(16 * 3.14159265358979));
}

TEST_CASE("inspect shows a part although the study has faults, and a faulty part is told") {
    const TemporaryFolder folder;
    const std::string faulty = folder.file("f.toml", small_study("[load.extra]\non = \"rihgt\"\npressure = 1\n"));
    const auto r = run({"inspect", faulty, "-o", (folder / "o").string()});
    CHECK(r.status == 2);
    CHECK(has(r.err, "no boundary is named \"rihgt\""));
    CHECK(has(r.out, "places to look at"));
    CHECK(fs::exists(folder / "o/part.png"));
    CHECK(nlohmann::json::parse(content_of(folder / "o/inspection.json"))["faults"].size() == 1);
    const std::string open = folder.file(
        "d.dxf", "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nrim\n10\n0\n20\n0\n11\n5\n21\n0\n0\nENDSEC\n0\nEOF\n");
    const std::string gap = folder.file("g.toml", "format = 1\n[[part.shape]]\nadd = \"drawing\"\nfile = \"d.dxf\"\n");
    const auto g = run({"inspect", gap});
    CHECK(g.status == 2);
    CHECK(has(g.err, "the outline on layer \"rim\" is open at"));
    CHECK(has(g.err, "d.dxf:5"));
    CHECK(
        run({"inspect", folder.file("m.toml", "format = 1\n[[part.shape]]\nadd = \"drawing\"\nfile = \"none.dxf\"\n")})
            .status == 4);
    CHECK(run({"inspect"}).status == 2);
    const auto greedy = run({"inspect", folder.file("c.toml", small_study("[part.cleanup]\nmerge_points = 1000\n"))});
    CHECK(greedy.status == 2);
    CHECK(has(greedy.err, "use a smaller distance"));
    CHECK(has(greedy.out, "places to look at"));
    CHECK(has(run({"check", std::string(DOTSIFT_SOURCE) + "/examples/tidal/hub-cover.toml"}).out,
              "2 ends joined that were up to"));
    CHECK(has(run({"check", std::string(DOTSIFT_SOURCE) + "/examples/tidal/cable-gland-flange.toml"}).out,
              "regions     body, frame"));
    CHECK(has(run({"inspect", "--help"}).out, "example: dotsift inspect"));
}

TEST_CASE("mesh writes the first mesh and its picture") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study());
    const auto coarse = run({"mesh", study, "-o", (folder / "a").string(), "--json"});
    const auto fine = run({"mesh", study, "-o", (folder / "b").string(), "--json", "--finer", "2"});
    CHECK(coarse.status == 0);
    const double ratio = nlohmann::json::parse(fine.out)["elements"].get<double>() /
                         nlohmann::json::parse(coarse.out)["elements"].get<double>();
    CHECK(ratio > 3);
    CHECK(ratio < 5);
    CHECK(files_in(folder / "a") == std::set<std::string>{"mesh.png", "mesh.svg", "mesh.vtu"});
    CHECK(run({"mesh", study, "-o", (folder / "c").string(), "--finer", "-1"}).status == 2);
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("outputs");

TEST_CASE("run writes every promised file, and the same ones again") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study(quick_series));
    const auto first = run({"run", study, "-o", (folder / "a").string()});
    CAPTURE(first.err);
    CHECK(first.status == 0);
    CHECK(has(first.out, "series u"));
    CHECK(has(first.out, "the target of 30 % is met"));
    CHECK(has(first.out, "Grid independence is shown"));
    CHECK(has(first.err, "u level 3:"));
    const auto files = files_in(folder / "a");
    for (const std::string name : {"report.html", "summary.json", "levels.csv", "study-as-run.toml", "charts/peak.png",
                                   "charts/peak.svg", "charts/error-against-unknowns.png"})
        CHECK(files.count(name));
    for (const std::string level : {"u/level-1/", "u/level-3/", "a/level-3/"})
        for (const std::string name : {"mesh.vtu", "level.json", "mesh.png", "mesh.svg", "von_mises.png", "error.png"})
            CHECK(files.count(level + name));
    CHECK(!files.count("u/level-3/von_mises.svg"));  // vectors of fields take as long again
    CHECK(std::none_of(files.begin(), files.end(), [](const std::string& f) { return has(f, ".part"); }));
    CHECK(content_of(folder / "a/study-as-run.toml") == content_of(study));

    const auto second = run({"run", study, "-o", (folder / "b").string(), "--quiet"});
    CHECK(second.status == 0);
    CHECK(!has(second.err, "level"));
    CHECK(files_in(folder / "b") == files);
    for (const auto& f : files) {  // bit for bit, but for times
        CAPTURE(f);
        if (has(f, "against-time")) continue;
        if (has(f, ".vtu") || has(f, ".svg") || has(f, ".png"))
            CHECK(content_of(folder / ("a/" + f)) == content_of(folder / ("b/" + f)));
    }
    CHECK(comparable(folder / "a/summary.json") == comparable(folder / "b/summary.json"));
}

TEST_CASE("the summary and the printed JSON agree, and stdout is JSON only") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 3\n"));
    const auto r = run({"run", study, "-o", (folder / "o").string(), "--json"});
    CHECK(r.status == 0);
    const auto printed = nlohmann::json::parse(r.out),
               stored = nlohmann::json::parse(content_of(folder / "o/summary.json"));
    CHECK(printed == stored);
    const auto& level = stored["series"][0]["levels"][0];
    CHECK(level["loads"][0]["force"][0].get<double>() == doctest::Approx(1000));
    CHECK(level["reactions"][0]["force"][0].get<double>() == doctest::Approx(-1000));
    for (const auto& s : stored["series"])
        for (const auto& l : s["levels"]) CHECK(l["balance"]["relative_error"].get<double>() < 1e-9);
    CHECK(nlohmann::json::parse(content_of(folder / "o/u/level-1/level.json"))["elements"] == level["elements"]);
}

TEST_CASE("a target that is missed gives exit status 1") {
    const TemporaryFolder folder;
    const auto study = folder.file(
        "s.toml",
        small_study("[quantity.hard]\nof = \"ux\"\ntarget = 1e-9\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n"));
    const auto r = run({"run", study, "-o", (folder / "o").string()});
    CHECK(r.status == 1);
    CHECK(has(r.out, "1 of 2 targets met"));
}

TEST_CASE("results are never overwritten unless asked, and other people's files never") {
    const TemporaryFolder folder;
    const auto study = folder.file(
        "s.toml",
        small_study(
            "[series.u]\nkind = \"uniform\"\nmost_levels = 1\n[series.old]\nkind = \"uniform\"\nmost_levels = 1\n"));
    const auto out = (folder / "o").string();
    REQUIRE(run({"run", study, "-o", out}).status == 1);
    const auto again = run({"run", study, "-o", out});
    CHECK(again.status == 2);
    CHECK(has(again.err, "never overwritten"));
    folder.file("s.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 1\n"));
    CHECK(run({"run", study, "-o", out, "--replace"}).status == 1);
    CHECK(!fs::exists(folder / "o/old"));
    fs::create_directory(folder / "foreign");
    folder.file("foreign/thesis.txt", "years of work");
    const auto foreign = run({"run", study, "-o", (folder / "foreign").string(), "--replace"});
    CHECK(foreign.status == 2);
    CHECK(files_in(folder / "foreign") == std::set<std::string>{"thesis.txt"});
}

TEST_CASE("an interrupt is answered at once and keeps the levels that are done") {
    const TemporaryFolder folder;
    const auto study = folder.file(
        "s.toml",
        small_study("[series.u]\nkind = \"uniform\"\nratio = 1.4\nmost_levels = 40\nmost_elements = 900000\n"));
    const std::string out = (folder / "o").string();
    const auto r = run({"run", study, "-o", out}, ".", 2.5);
    CHECK(r.status == 130);
    CHECK(has(r.err, "--resume"));
    REQUIRE(fs::exists(folder / "o/u/level-1/level.json"));
    // What is there can be reported, and gone on from.
    CHECK(run({"report", out}).status <= 1);
    const auto j = nlohmann::json::parse(content_of(folder / "o/summary.json"));
    const auto levels = j["series"][0]["levels"].size();
    CHECK(levels >= 1);
    CHECK(fs::exists(folder / ("o/u/level-" + std::to_string(levels) + "/mesh.vtu")));
    CHECK(fs::exists(folder / "o/report.html"));
}

TEST_CASE("places that cannot be written") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study());
    const auto blocked = folder.file("file", "x");
    const auto r = run({"run", study, "-o", blocked + "/below"});
    CHECK(r.status == 4);
    CHECK(has(r.err, "cannot create the directory"));
    CHECK(run({"run", study, "-o", "/proc/nowhere"}).status == 4);
}

TEST_CASE("a full disk is told, and leaves no half-written file") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study(quick_series));
    for (const long limit : {2500L, 120000L, 400000L}) {
        CAPTURE(limit);
        const auto out = folder / ("o" + std::to_string(limit));
        const auto r = run({"run", study, "-o", out.string(), "--quiet"}, ".", 0, limit);
        CHECK(r.status == 4);
        CHECK(has(r.err, "cannot write the file"));
        for (const auto& f : files_in(out)) CHECK(!has(f, ".part"));
    }
}

TEST_CASE("killed at any moment: every file that is there is whole") {
    const TemporaryFolder folder;
    const auto study = folder.file(
        "s.toml",
        small_study("[series.u]\nkind = \"uniform\"\nratio = 1.3\nmost_levels = 30\nmost_elements = 300000\n"));
    for (const double after : {0.15, 0.4, 0.9}) {
        CAPTURE(after);
        const auto out = folder / ("o" + std::to_string(after));
        CHECK(run({"run", study, "-o", out.string(), "--quiet"}, ".", -after).status == 128 + 9);
        if (!fs::exists(out)) continue;
        for (const auto& f : files_in(out)) {
            CAPTURE(f);
            const auto content = content_of(out / f);
            if (f.ends_with(".json")) CHECK(nlohmann::json::accept(content));
            if (f.ends_with(".vtu")) CHECK(content.ends_with("</VTKFile>\n"));
        }
        const auto again =
            run({"run", folder.file("t.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 3\n")), "-o",
                 out.string(), "--replace", "--quiet"});
        CHECK(again.status == 0);
        for (const auto& f : files_in(out)) CHECK(!has(f, "level-4"));
    }
}

TEST_CASE("without the chart program all but the charts is there, and the fault is told") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 2\n"));
    const auto r = run({"run", study, "-o", (folder / "o").string(), "--quiet"}, ".", 0, 0, "/nowhere");
    CHECK(r.status == 1);  // two levels show no uncertainty
    CHECK(has(r.err, "install the package gnuplot-nox"));
    CHECK(fs::exists(folder / "o/report.html"));
    CHECK(fs::exists(folder / "o/summary.json"));
    CHECK(fs::exists(folder / "o/u/level-2/mesh.vtu"));
}

TEST_CASE("the report stands alone") {
    const TemporaryFolder folder;
    const auto study = folder.file(
        "s.toml", small_study("title = \"Bar & <hole>\"\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n"));
    auto text = content_of(study);
    text.erase(text.find("title = "), std::string("title = \"Bar & <hole>\"\n").size());
    text.insert(text.find("units"), "title = \"Bar & <hole>\"\n");
    REQUIRE(run({"run", folder.file("s.toml", text), "-o", (folder / "o").string()}).status == 0);
    const auto html = content_of(folder / "o/report.html");
    CHECK(has(html, "Bar &amp; &lt;hole&gt;"));
    CHECK(!has(html, "<hole>"));
    for (const std::string outside : {"src=\"http", "href=\"http", "<script src", "@import", "url(http"})
        CHECK(!has(html, outside));
    std::size_t pictures = 0;
    for (std::size_t at = html.find("<img src"); at != std::string::npos; at = html.find("<img src", at + 1)) {
        ++pictures;
        CHECK(html.compare(html.find("src=", at), 10, "src=\"data:") == 0);
        CHECK(html.find("alt=\"", at) < html.find(">", at));
    }
    CHECK(pictures >= 6);
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("bad-input");

TEST_CASE("a missing study, a directory, and one that is no TOML") {
    const TemporaryFolder folder;
    const auto missing = run({"run", (folder / "none.toml").string(), "-o", (folder / "o").string()});
    CHECK(missing.status == 4);
    CHECK(has(missing.err, "none.toml: error: the file does not exist"));
    CHECK(run({"check", folder.path().string()}).status == 4);
    const auto garbage = run({"check", folder.file("g.toml", "format = = 1\n")});
    CHECK(garbage.status == 2);
    CHECK(has(garbage.err, "g.toml:1:"));
    CHECK(run({"check", folder.file("b.toml", std::string("\0\xff\xfe\x01", 4))}).status == 2);
    CHECK(!fs::exists(folder / "o"));
}

TEST_CASE("each fault of a study is told with its place, and nothing is written") {
    const TemporaryFolder folder;
    int count = 0;
    const auto faulty = [&](const std::string& text, const std::string& message) {
        const auto study = folder.file("s" + std::to_string(++count) + ".toml", text);
        const auto r = run({"run", study, "-o", (folder / "o").string()});
        CAPTURE(message);
        CAPTURE(r.err);
        CHECK(r.status == 2);
        CHECK(has(r.err, message));
        CHECK(has(r.err, study));
        CHECK(!fs::exists(folder / "o"));
    };
    faulty(small_study("[quantity.q]\nof = \"von_mises\"\nonn = \"hole\"\n"),
           "s1.toml:30:1: error: unknown key \"onn\"");
    faulty(small_study("[load.x]\non = \"edn\"\npressure = 1\n"), "no boundary is named \"edn\"");
    faulty(small_study("[part]\nthickness = 0\n"), "error");
    faulty("format = 1\n[part]\nthickness = 0\n[[part.shape]]\nadd = \"circle\"\nradius = 1\n", "part.thickness is 0");
    auto text = small_study();
    text.replace(text.find("hold = \"fixed\""), 14, "ux = 0");
    faulty(text, "free to move along y");
    text = small_study();
    text.replace(text.find("poissons_ratio = 0.3"), 20, "poissons_ratio = 0.5");
    text.insert(text.find("[[part.shape]]"), "[part]\nplane = \"strain\"\n");
    faulty(text, "incompressible");
    text = small_study();
    text.replace(text.find("centre = [30, 10]"), 17, "centre = [90, 10]");
    faulty(text, "cuts nothing");
}

TEST_CASE("sizes beyond the element limit are refused before anything is made") {
    const TemporaryFolder folder;
    auto text = small_study();
    text.replace(text.find("global = 6"), 10, "global = 0.001");
    const auto r = run({"run", folder.file("s.toml", text), "-o", (folder / "o").string()});
    CHECK(r.status == 2);
    CHECK(has(r.err, "more than the limit of 1000000"));
    CHECK(!fs::exists(folder / "o"));
}

TEST_CASE("a study in which nothing acts ends with a report that says so") {
    const TemporaryFolder folder;
    auto text = small_study("[series.even]\nkind = \"uniform\"\nmost_levels = 3\n[series.fit]\nkind = \"adaptive\"\n");
    text.replace(text.find("force = ["), text.find(']', text.find("force = [")) + 1 - text.find("force = ["),
                 "force = [0, 0]");
    const auto r = run({"run", folder.file("s.toml", text), "-o", (folder / "o").string()});
    CAPTURE(r.err);
    CHECK(r.status <= 1);
    CHECK(fs::exists(folder / "o/report.html"));
    CHECK(fs::exists(folder / "o/charts/error-against-unknowns.png"));
    CHECK(has(r.out, "no longer changing"));
}

TEST_CASE("what an adaptive series cannot do is told with its remedy, and nothing is solved") {
    const TemporaryFolder folder;
    struct Wrong {
        std::string series, answer;
    };
    const std::vector<Wrong> wrong{{"strategy = \"share_of_elements\"\nindicator = \"gradient\"\nof = \"potential\"\n",
                                    "series.fit.of is a field that this study does not solve for"},
                                   {"within = \"nowhere\"\n", "no region is named \"nowhere\""},
                                   {"gci_target = 0\n", "series.fit.gci_target"},
                                   {"drive = \"gone\"\n", "no quantity of the solution has that name"},
                                   {"strategy = \"budget\"\n", "budget_elements"},
                                   {"error_target = 0\n", "series.fit.error_target"},
                                   {"error_target = -1\n", "series.fit.error_target"},
                                   {"start_from = \"fit/1\"\n", "series.fit.start_from"},
                                   {"share = 0.5\n", "series.fit.share"},
                                   {"growth = 1\n", "series.fit.growth"}};
    for (const auto& w : wrong) {
        CAPTURE(w.series);
        const auto r = run({"run", folder.file("s.toml", small_study("[series.fit]\nkind = \"adaptive\"\n" + w.series)),
                            "-o", (folder / "o").string()});
        CAPTURE(r.err);
        CHECK(r.status == 2);
        CHECK(has(r.err, w.answer));
        CHECK(has(r.err, "s.toml:"));
        CHECK(!fs::exists(folder / "o"));
    }
}

TEST_CASE("a target that the limits do not allow ends at the limit, which is named, and the levels stay") {
    const TemporaryFolder folder;
    const auto r = run({"run",
                        folder.file("s.toml", small_study("[series.fit]\nkind = \"adaptive\"\nerror_target = 1e-14\n"
                                                          "most_elements = 1500\nmost_levels = 20\n")),
                        "-o", (folder / "o").string()});
    CAPTURE(r.err);
    CHECK(r.status == 1);
    CHECK(has(r.out, "stopped by the limit of 1 500 elements"));
    CHECK(has(r.out, "stopped short of its own target"));
    CHECK(fs::exists(folder / "o/fit/level-1/mesh.vtu"));
}

TEST_CASE("contradictory supports are told before a level is written") {
    const TemporaryFolder folder;
    const auto r = run({"run", folder.file("s.toml", small_study("[support.b]\non = \"wall\"\nux = 1\n")), "-o",
                        (folder / "o").string()});
    CHECK(r.status == 2);
    CHECK(has(r.err, "contradict each other"));
    CHECK(has(r.err, "give the point ("));
    CHECK(!fs::exists(folder / "o"));
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("examples");

TEST_CASE("every example is without faults and without warnings that matter") {
    for (const std::string part : {"tidal", "verification"}) {
        int count = 0;
        for (const auto& e : fs::directory_iterator(fs::path(DOTSIFT_SOURCE) / "examples" / part)) {
            if (e.path().extension() != ".toml") continue;
            ++count;
            const auto r = run({"check", e.path().string()});
            CAPTURE(e.path().string());
            CAPTURE(r.err);
            CHECK(r.status == 0);
            CHECK(r.err.empty());
        }
        CHECK(count >= 3);
    }
}

TEST_CASE("the demo meets its targets") {
    const TemporaryFolder folder;
    const auto r = run({"run", std::string(DOTSIFT_SOURCE) + "/examples/tidal/pitch-link-lug.toml", "-o",
                        (folder / "o").string(), "--json"});
    CHECK(r.status == 0);
    const auto j = nlohmann::json::parse(r.out);
    CHECK(j["all_targets_met"] == true);
    CHECK(fs::file_size(folder / "o/report.html") < 8'000'000);
}

TEST_CASE("six series on one part: each ends by its own rule, and the dual problem's figures stand in the files") {
    const TemporaryFolder folder;
    const auto r = run({"run", std::string(DOTSIFT_SOURCE) + "/examples/tidal/yaw-brake-arm.toml", "-o",
                        (folder / "o").string(), "--json"});
    CHECK(r.status == 0);
    const auto j = nlohmann::json::parse(r.out);
    REQUIRE(j["series"].size() == 6);
    const std::array expected{"the targets of all quantities", "the limit of 4 levels", "the error target",
                              "the budget of 6 000 unknowns",  "the limit of 4 levels", "the error target"};
    const std::array kinds{"uniform", "local", "adaptive", "adaptive", "adaptive", "adaptive"};
    for (std::size_t k = 0; k < 6; ++k) {
        CHECK(has(j["series"][k]["stopped_by"].get<std::string>(), expected[k]));
        CHECK(j["series"][k]["kind"] == kinds[k]);
    }
    const auto level = nlohmann::json::parse(content_of(folder / "o" / "for_the_lift" / "level-1" / "level.json"));
    const auto& lift = level["quantities"][1];
    CHECK(lift["name"] == "pad_lift");
    const double value = lift["dual"]["value"], error = lift["dual"]["error"], corrected = lift["dual"]["corrected"];
    CHECK(value == doctest::Approx(lift["value"].get<double>()).epsilon(1e-9));
    CHECK(corrected == doctest::Approx(value + error));
    CHECK(std::fabs(corrected + 0.25812) < 0.5 * std::fabs(value + 0.25812));  // nearer to what fine meshes show
    CHECK(level["quantities"][2]["dual"]["mean_over_radius"].get<double>() > 5);
    double of_regions = 0, at_flange = 0, at_pad = 0;
    for (const auto& share : level["error_shares"]) {
        if (share.contains("region")) of_regions += share["share"].get<double>();
        if (share.value("boundary", "") == "flange") at_flange = share["share"];
        if (share.value("boundary", "") == "pad") at_pad = share["share"];
    }
    CHECK(of_regions == doctest::Approx(1));
    CHECK(at_flange > 2 * at_pad);  // its clamped corners are singular
    CHECK(has(content_of(folder / "o" / "report.html"), "Errors by dual problems"));
}

TEST_SUITE_END();
