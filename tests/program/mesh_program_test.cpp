#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {}  // namespace

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
    CHECK(has(told.out, "layers wet: thinned to"));
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

TEST_CASE("tries are told one by one, and where no mesh is possible a picture shows the place") {
    const TemporaryFolder folder;
    const auto study = [&](const std::string& gap, const std::string& retry) {
        return folder.file(
            "t.toml",
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = "
            "\"left\", right = \"right\" }\n[[part.shape]]\ncut = \"circle\"\nname = \"bore\"\ncentre = "
            "[12, 10]\nradius = 5\n[[part.shape]]\ncut = \"circle\"\nname = \"port\"\ncentre = [22" +
                gap +
                ", 10]\nradius = 5\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = "
                "0.3\n[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"right\"\ntraction = "
                "[1, 0]\n[quantity.q]\nof = \"ux\"\non = \"right\"\n[size]\nglobal = 4\n" +
                retry + "[series.u]\nkind = \"uniform\"\nmost_levels = 2\n");
    };
    const std::string rule = "[mesh.retry]\ntries = 3\nsizes = 0.8\nmerge_points = 10\n";
    const auto works = run({"mesh", study(".0001", rule), "-o", (folder / "a").string()});
    CHECK(works.status == 0);
    CHECK(has(works.err, "no mesh with the sizes as they are: "));
    CHECK(!fs::exists(folder / "a" / "failure.png"));
    for (const std::string command : {"mesh", "run"}) {
        const auto out = folder / ("b" + command);
        const auto fails = run({command, study(".00001", rule), "-o", out.string()});
        CHECK(fails.status == 3);
        CHECK(has(fails.err, "every size times 0.8000"));
        CHECK(has(fails.err, "none after 3 more tries"));
        CHECK(has(fails.err, "boundary \"bore\""));
        CHECK(fs::file_size(out / "failure.png") > 2000);
        CHECK(fs::file_size(out / "failure.svg") > 2000);
    }
}

TEST_CASE("the example of a zone made anew keeps quadrilaterals, grid and layers elsewhere") {
    const TemporaryFolder folder;
    const std::string seal = DOTSIFT_SOURCE "/examples/tidal/seal-housing.toml";
    REQUIRE(run({"mesh", seal, "-o", (folder / "m").string()}).status == 0);
    const auto r = run({"remesh", seal, (folder / "m" / "mesh.vtu").string(), "-o", (folder / "r").string(), "--json"});
    CHECK(r.status == 0);
    const auto json = nlohmann::json::parse(r.out);
    CHECK(json["kept"]["elements"] > 200);
    CHECK(json["removed"]["elements"] == json["before"]["elements"]);
    CHECK(json["made"]["elements"] == json["after"]["elements"]);
    CHECK(json["after"]["poor"] == 0);
}

TEST_CASE("a remeshed mesh carries fields over, and a series begins with it") {
    const TemporaryFolder folder;
    const std::string plain =
        folder.file("p.toml", small_study("[series.uniform]\nkind = \"uniform\"\nmost_levels = 1\n"));
    REQUIRE(run({"run", plain, "-o", (folder / "p").string(), "--quiet", "--pictures", "none"}).status <= 1);
    const std::string mesh = (folder / "p/uniform/level-1/mesh.vtu").string();
    const std::string zone =
        "[mesh.remesh.middle]\ninside = { shape = \"circle\", centre = [30, 10], radius = 7 }\nsize = "
        "1.2\n";
    const std::string zoned = folder.file("z.toml", small_study(zone));
    const auto remade =
        run({"remesh", zoned, mesh, "-o", (folder / "r").string(), "--carry", "von_mises,displacement,size"});
    CHECK(remade.status == 0);
    const std::string file = content_of(folder / "r/mesh.vtu");
    CHECK(has(file, "Name=\"von_mises\""));
    CHECK(has(file, "Name=\"displacement\" NumberOfComponents=\"3\""));
    const auto missing = run({"remesh", zoned, mesh, "-o", (folder / "r2").string(), "--carry", "von_mies"});
    CHECK(missing.status == 2);
    CHECK(has(missing.err, "no field \"von_mies\""));

    const std::string series = "[series.given]\nkind = \"uniform\"\nmost_levels = 2\nstart_from = \"r/mesh.vtu\"\n";
    const std::string begun = folder.file("b.toml", small_study(series));
    const auto done = run({"run", begun, "-o", (folder / "b").string(), "--quiet", "--pictures", "none"});
    CHECK(done.status <= 1);
    const auto first = nlohmann::json::parse(content_of(folder / "b/given/level-1/level.json")),
               second = nlohmann::json::parse(content_of(folder / "b/given/level-2/level.json"));
    const auto json = nlohmann::json::parse(run({"remesh", zoned, mesh, "-o", (folder / "r3").string(), "--json"}).out);
    CHECK(first["elements"] == json["kept"]["elements"].get<int>() + json["made"]["elements"].get<int>());
    CHECK(second["elements"] > 1.5 * first["elements"].get<double>());
    CHECK(fs::exists(folder / "b/r/mesh.vtu"));  // a copy, as of every file that a study reads
    CHECK(run({"report", (folder / "b").string(), "--pictures", "none"}).status <= 1);
    CHECK(run({"run", begun, "-o", (folder / "b").string(), "--quiet", "--resume", "--pictures", "none"}).status <= 1);
    const auto other =
        run({"run", folder.file("o.toml", small_study("[mesh]\norder = 1\n" + series)), "-o", (folder / "o").string()});
    CHECK(other.status == 2);
    CHECK(has(other.err, "set mesh.order = 2"));
    const auto absent = run({"run",
                             folder.file("a.toml", small_study("[series.given]\nkind = \"uniform\"\nstart_from = "
                                                               "\"none.vtu\"\n")),
                             "-o", (folder / "a").string()});
    CHECK(absent.status == 4);
}

TEST_CASE("a zone of much smaller elements blends into its surroundings, in all kinds of elements") {
    const TemporaryFolder folder;
    const auto study = [&](const std::string& zone, const std::string& elements) {
        return folder.file(
            "s.toml",
            "format = 1\ntitle = \"Tie plate\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [100, "
            "50]\nnames = { left = \"wall\", right = \"tip\" }\n[[part.shape]]\ncut = "
            "\"circle\"\ncentre = [60, 25]\nradius = 8\n[material.m]\nyoungs_modulus = "
            "70000\npoissons_ratio = 0.33\n[support.wall]\non = \"wall\"\nhold = \"fixed\"\n[load.pull]\non "
            "= \"tip\"\nforce = [1000, 0]\n[size]\nglobal = 6\n[mesh]\nelements = \"" +
                elements +
                "\"\n[mesh.remesh.bore]\ninside = { shape = \"circle\", centre = [60, 25], "
                "radius = 12 }\nsize = 0.6\n" +
                zone + "[quantity.u]\nof = \"ux\"\ntake = \"mean\"\non = \"tip\"\n");
    };
    for (const char* elements : {"triangles", "quadrilaterals", "mostly_quadrilaterals"}) {
        CAPTURE(elements);
        const auto mesh = (folder / elements / "mesh.vtu").string(), out = (folder / "r").string();
        REQUIRE(run({"mesh", study("", elements), "-o", (folder / elements).string()}).status == 0);
        const auto alone = run({"remesh", study("blend = false\n", elements), mesh, "-o", out});
        CHECK(alone.status == 0);
        CHECK(has(alone.out, "size that could not be met"));
        const auto blended = run({"remesh", study("", elements), mesh, "-o", out});
        CHECK(blended.status == 0);
        CHECK(!has(blended.out, "poor elements"));
        const auto json = nlohmann::json::parse(run({"remesh", study("", elements), mesh, "-o", out, "--json"}).out);
        CHECK(json["after"]["poor"] == 0);
        CHECK(json["kept"]["elements"] > 10);  // far from the zone all stays
    }
    CHECK(has(run({"check", study("blend = 3\n", "triangles")}).err, "mesh.remesh.bore.blend"));
}

TEST_CASE("remesh keeps a mesh outside its zones and tells the change") {
    const TemporaryFolder folder;
    const auto plain = folder.file("p.toml", small_study());
    REQUIRE(run({"mesh", plain, "-o", (folder / "m").string()}).status == 0);
    const auto file = (folder / "m" / "mesh.vtu").string();
    const auto none = run({"remesh", plain, file, "-o", (folder / "r").string()});
    CHECK(none.status == 2);
    CHECK(has(none.err, "names no zone"));
    const auto zone = folder.file("z.toml", small_study("[mesh.remesh.middle]\ninside = { shape = \"circle\", centre = "
                                                        "[48, 10], radius = 7 }\nsize = 1\n"));
    const auto done = run({"remesh", zone, file, "-o", (folder / "r").string()});
    CHECK(done.status == 0);
    CHECK(has(done.out, "kept "));
    for (const auto* name : {"mesh.vtu", "mesh.png", "mesh.svg"}) CHECK(fs::exists(folder / "r" / name));
    const auto json = nlohmann::json::parse(run({"remesh", zone, file, "-o", (folder / "r").string(), "--json"}).out);
    CHECK(json["after"]["elements"] > json["before"]["elements"]);
    CHECK(json["kept"]["elements"] > 0);
    // The result is a mesh of the same part: it can be judged, and made anew once more.
    CHECK(run({"quality", (folder / "r" / "mesh.vtu").string()}).status <= 1);
    CHECK(run({"remesh", zone, (folder / "r" / "mesh.vtu").string(), "-o", (folder / "r2").string()}).status == 0);
    const auto away = folder.file("w.toml", small_study("[mesh.remesh.middle]\ninside = { shape = \"circle\", centre = "
                                                        "[500, 50], radius = 3 }\nsize = 1\n"));
    const auto empty = run({"remesh", away, file, "-o", (folder / "r3").string()});
    CHECK(empty.status == 2);
    CHECK(has(empty.err, "no element of the mesh lies in the zone"));
    CHECK(run({"remesh", zone, "-o", (folder / "r").string()}).status == 2);
}

TEST_CASE("verify-code prints a table, writes tables and charts, and picks by a word") {
    const TemporaryFolder folder;
    const auto told = run(
        {"verify-code", "--only", "patch test,cooled fin,axisymmetric conduction", "-o", (folder / "code").string()});
    CHECK(told.status == 0);
    CHECK(has(told.out, "cooled fin"));
    CHECK(has(told.out, "checks passed"));
    CHECK(!has(told.out, "FAILED"));
    CHECK(!has(told.out, "tapered panel"));
    for (const auto* name :
         {"checks.json", "checks.csv", "checks.md", "axisymmetric-conduction.png", "axisymmetric-conduction.svg"})
        CHECK(fs::file_size(folder / "code" / name) > 500);
    const auto json = nlohmann::json::parse(run({"verify-code", "--only", "wall of two", "--json"}).out);
    CHECK(json["passed"] == true);
    CHECK(json["checks"].size() == 4);
    const auto wrong = run({"verify-code", "--only", "nothing like this"});
    CHECK(wrong.status == 2);
    CHECK(has(wrong.err, "no check fits --only"));
}

TEST_CASE("heat, then stress: cases, paths and flows stand in the results, the same on one core as on all") {
    const TemporaryFolder folder;
    const std::string sleeve = DOTSIFT_SOURCE "/examples/tidal/stator-sleeve.toml";
    const auto all = run({"run", sleeve, "-o", (folder / "all").string(), "--quiet"});
    CHECK(all.status == 0);
    const auto level = nlohmann::json::parse(content_of(folder / "all" / "adaptive" / "level-2" / "level.json"));
    REQUIRE(level["cases"].size() == 2);
    CHECK(level["cases"][0]["name"] == "full_power");
    CHECK(level["cases"][0]["extremes"].size() == 7);
    double flow = 0, size = 0;
    for (const auto& l : level["loads"]) {
        flow += l["flow"].get<double>();
        size += std::fabs(l["flow"].get<double>());
    }
    CHECK(std::fabs(flow) < 1e-9 * size);  // what the windings give, the sea takes
    const auto csv = content_of(folder / "all" / "adaptive" / "level-2" / "path-wall.csv");
    CHECK(has(csv, "potential.full_power [°C]"));
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 102);
    CHECK(fs::file_size(folder / "all" / "charts" / "path-wall.png") > 2000);
    CHECK(has(content_of(folder / "all" / "report.html"), "Along paths"));
    const std::string command = "taskset -c 0 '" DOTSIFT_PROGRAM "' run '" + sleeve + "' -o '" +
                                (folder / "one").string() + "' --quiet > /dev/null 2>&1";
    CHECK(std::system(command.c_str()) == 0);
    for (const auto* file : {"uniform/level-3/mesh.vtu", "adaptive/level-3/mesh.vtu", "levels.csv"}) {
        const auto a = content_of(folder / "all" / file), b = content_of(folder / "one" / file);
        if (std::string(file) != "levels.csv") CHECK(a == b);
        CHECK(!a.empty());
    }
}

TEST_CASE("sizes that are far too small in a shape are refused at once") {
    const TemporaryFolder folder;
    const std::string area = "inside = { shape = \"circle\", centre = [15, 10], radius = 4 }\nsize = 1e-7\n";
    const auto local =
        run({"mesh", folder.file("a.toml", small_study("[size.local.a]\n" + area)), "-o", (folder / "a").string()});
    CHECK(local.status == 2);
    CHECK(has(local.err, "more than"));
    REQUIRE(run({"mesh", folder.file("s.toml", small_study()), "-o", (folder / "mesh").string()}).status == 0);
    const auto zone = run({"remesh", folder.file("b.toml", small_study("[mesh.remesh.a]\n" + area)),
                           (folder / "mesh" / "mesh.vtu").string(), "-o", (folder / "b").string()});
    CHECK(zone.status == 2);
    CHECK(has(zone.err, "more than the limit"));
}

TEST_SUITE_END();
