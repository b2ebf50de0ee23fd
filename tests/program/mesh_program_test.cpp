#include <doctest/doctest.h>

#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

bool has(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

}  // namespace

TEST_SUITE_BEGIN("commands");

TEST_CASE("sizes shows which rule decides where") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study("[size.local.fine]\non = \"wall\"\nsize = 0.25\n"));
    const auto told = run({"sizes", study, "--at", "0,0.5", "--at=3,0.5", "-o", (folder / "out").string()});
    CHECK(told.status == 0);
    CHECK(has(told.out, "size.local.fine"));
    CHECK(has(told.out, "at (0, 0.5): 0.2500"));
    CHECK(has(told.out, "because of size.local.fine"));
    for (const auto* name : {"sizes.png", "sizes.svg", "rules.png", "rules.svg"})
        CHECK(fs::file_size(folder / "out" / name) > 2000);
    const auto json = nlohmann::json::parse(run({"sizes", study, "--at", "0,0.5", "--json"}).out);
    CHECK(json["at"][0]["size"] == doctest::Approx(0.25));
    CHECK(json["at"][0]["rule"] == "size.local.fine");
    CHECK(json["estimated_elements"] > 0);
    const auto wrong = run({"sizes", study, "--at", "here"});
    CHECK(wrong.status == 2);
    CHECK(has(wrong.err, "\"here\", which is no place"));
}

TEST_CASE("quality judges a study and a mesh file, and says by its status whether an element is poor") {
    const TemporaryFolder folder;
    const auto study = folder.file("s.toml", small_study());
    const auto good = run({"quality", study, "-o", (folder / "out").string()});
    CHECK(good.status == 0);
    CHECK(has(good.out, "0 poor"));
    CHECK(has(good.out, "scaled Jacobian"));
    for (const auto* name : {"quality.png", "quality.svg", "histograms.png", "histograms.svg"})
        CHECK(fs::file_size(folder / "out" / name) > 2000);
    const auto strict = folder.file("strict.toml", small_study("[quality.angle]\nof = \"smallest_angle\"\ngood = "
                                                               "89\nacceptable = 88\nelements = \"triangles\"\n"));
    CHECK(run({"quality", strict}).status == 1);
    REQUIRE(run({"mesh", study, "-o", (folder / "mesh").string()}).status == 0);
    const auto file = (folder / "mesh" / "mesh.vtu").string();
    const auto json = nlohmann::json::parse(run({"quality", file, "--json"}).out);
    CHECK(json["poor"] == 0);
    CHECK(json["measures"].size() >= 7);
    CHECK(run({"quality", file, "--limits", strict}).status == 1);
    CHECK(run({"quality", study, "--limits", strict}).status == 2);
    const auto garbage = run({"quality", folder.file("g.vtu", "<VTKFile")});
    CHECK(garbage.status == 2);
    CHECK(has(garbage.err, "no mesh file that can be read"));
    CHECK(run({"quality", (folder / "none.vtu").string()}).status == 4);
}

TEST_CASE("mesh tells thinned layers and tries that failed, and runs solve on every kind of element") {
    const TemporaryFolder folder;
    const auto narrow =
        folder.file("n.toml",
                    "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = "
                    "\"left\", right = \"right\", bottom = \"bottom\" }\n[[part.shape]]\ncut = "
                    "\"circle\"\ncentre = [20, 4.4]\nradius = 4\nname = \"bore\"\n[material.m]\nyoungs_modulus = "
                    "1000\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = "
                    "\"right\"\ntraction = [1, 0]\n[quantity.q]\nof = \"ux\"\non = \"right\"\n[size]\nglobal = "
                    "4\n[size.layers.wet]\non = [\"bore\", \"bottom\"]\nfirst = 0.1\nrows = 4\n");
    const auto told = run({"mesh", narrow, "-o", (folder / "m").string()});
    CHECK(told.status == 0);
    CHECK(has(told.out, "layers    wet: thinned to"));
    for (const std::string elements : {"mostly_quadrilaterals", "quadrilaterals"})
        for (const std::string order : {"1", "2"}) {
            const auto study =
                folder.file("k.toml", small_study("[mesh]\nelements = \"" + elements + "\"\norder = " + order +
                                                  "\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n"));
            const auto done = run({"run", study, "-o", (folder / (elements + order)).string()});
            CHECK(done.status <= 1);
            CHECK(fs::exists(folder / (elements + order) / "report.html"));
        }
}

TEST_SUITE_END();
