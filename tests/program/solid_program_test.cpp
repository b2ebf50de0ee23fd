// Solids through the program: from study file to report, and back.

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;
using nlohmann::json;

namespace {

/// A plate with a hole, drawn; both regions of a sleeve, turned.
const std::string plate = R"(format = 1
title = "Plate"
units = { length = "mm", force = "N" }
[variables]
deep = 4
[part]
extrude = { to = "deep", start = "below", end = "above" }
names_for_others = ["below", "above"]
[[part.shape]]
add = "rectangle"
size = [30, 20]
names = { left = "wall", right = "pull" }
[[part.shape]]
cut = "circle"
centre = [15, 10]
radius = 4
name = "bore"
[material.steel]
youngs_modulus = "200 GPa"
poissons_ratio = 0.3
[support.wall]
on = "wall"
hold = "fixed"
[load.pull]
on = "pull"
traction = [10, 0, 0]
[size]
global = 4
[series.uniform]
kind = "uniform"
most_levels = 2
[series.adaptive]
kind = "adaptive"
error_target = "4 %"
most_levels = 3
[quantity.stretch]
of = "ux"
on = "pull"
take = "mean"
target = "2 %"
[quantity.peak]
of = "von_mises"
on = "bore"
)";

json parsed(const fs::path& file) {
    return json::parse(content_of(file));
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("a solid goes from its study to a report; what was written is read back bit for bit") {
    const TemporaryFolder folder;
    const std::string study = folder.file("plate.toml", plate);
    const fs::path out = folder / "out";
    const auto done = run({"run", study, "-o", out.string(), "--quiet"});
    CHECK(done.status == 0);
    CHECK(has(done.out, "Grid independence is shown"));
    const json summary = parsed(out / "summary.json");
    CHECK(summary["part"]["volume"].get<double>() == doctest::Approx(4 * (600 - 16 * 3.14159265)).epsilon(1e-7));
    CHECK(summary["part"]["high"].size() == 3);
    const json level = parsed(out / "adaptive/level-2/level.json");
    CHECK(level["loads"][0]["force"].size() == 3);
    CHECK(level["loads"][0]["force"][0].get<double>() == doctest::Approx(800));
    CHECK(level["reactions"][0]["force"][0].get<double>() == doctest::Approx(-800));
    CHECK(level["volume"].get<double>() == doctest::Approx(4 * (600 - 16 * 3.14159265)).epsilon(1e-4));
    const std::string page = content_of(out / "report.html");
    for (const char* text :
         {"Solid.", "volume", "about z", "the rim of a held face", "bore", "in a section through the largest value"}) {
        CAPTURE(text);
        CHECK(has(page, text));
    }
    CHECK(!has(page, "Plane stress"));
    CHECK(!has(page, "quadrilaterals"));
    for (const char* picture :
         {"part.png", "uniform/level-1/mesh.png", "uniform/level-2/error.png", "uniform/level-2/change.png",
          "pictures/deformed.png", "pictures/von_mises.png", "charts/peak.png", "report.pdf"}) {
        CAPTURE(picture);
        CHECK(fs::exists(out / picture));
    }
    // Cut off after the first level, and gone on with: the same files.
    const fs::path cut = folder / "cut";
    fs::copy(out, cut, fs::copy_options::recursive);
    fs::remove_all(cut / "uniform/level-2");
    fs::remove_all(cut / "adaptive/level-2");
    if (fs::exists(cut / "adaptive/level-3")) fs::remove_all(cut / "adaptive/level-3");
    CHECK(run({"run", study, "-o", cut.string(), "--resume", "--quiet"}).status == 0);
    for (const char* file : {"uniform/level-2/mesh.vtu", "adaptive/level-2/mesh.vtu"}) {
        CAPTURE(file);
        CHECK(content_of(out / file) == content_of(cut / file));
    }
    // A report made anew, a comparison, a picture, an archive.
    const std::string before = content_of(out / "report.html");
    CHECK(run({"report", out.string()}).status == 0);
    CHECK(content_of(out / "report.html") == before);
    const auto compared = run({"compare", (out / "uniform/level-1").string(), (out / "uniform/level-2").string(), "-o",
                               (folder / "both").string()});
    CHECK(compared.status == 0);
    CHECK(fs::exists(folder / "both/1-difference.png"));
    CHECK(run({"picture", out.string(), "--of", "uz", "--deformed", "visibly", "-o", (folder / "uz.png").string()})
              .status == 0);
    CHECK(has(run({"picture", out.string(), "--of", "uz", "--box", "0,0,1,1", "-o", (folder / "b.png").string()}).err,
              "not possible in solids yet"));
    CHECK(run({"archive", out.string(), "-o", (folder / "all.zip").string()}).status == 0);
    // A level that was changed is refused.
    const std::string mesh = content_of(out / "uniform/level-2/mesh.vtu");
    folder.file("out/uniform/level-2/mesh.vtu", mesh.substr(0, mesh.size() / 2));
    CHECK(run({"report", out.string()}).status == 2);
}

TEST_CASE("paths, walls and integration points of a solid are written; what acts on it goes on from what is stored") {
    const TemporaryFolder folder;
    const std::string study = folder.file("hot.toml", plate.substr(0, plate.find("[support.wall]")) + R"toml(
expansion = "1.2e-5 * (1 + T / 1000)"
conductivity = "40 + T / 50"
[support.wall]
on = "wall"
hold = "fixed"
potential = 300
[support.bed]
on = "below"
normal_stiffness = 5
[load.air]
on = ["pull", "above"]
transfer = 0.02
ambient = 20
[load.twist]
on = "pull"
moment = [500, 0, 0]
[size]
global = 5
[results]
integration_points = true
[path.through]
points = [[6, 10, 0], [6, 10, 4]]
[series.uniform]
kind = "uniform"
most_levels = 2
[quantity.membrane]
of = "sxx"
along = "through"
take = "membrane"
[quantity.warm]
of = "potential"
along = "through"
take = "mean"
)toml");
    const fs::path out = folder / "out";
    REQUIRE(run({"run", study, "-o", out.string(), "--quiet"}).status <= 1);
    const fs::path level = out / "uniform/level-2";
    const std::string path = content_of(level / "path-through.csv");
    CHECK(has(path, "distance [mm],x [mm],y [mm],z [mm],ux [mm]"));
    CHECK(has(path, "flux_z"));
    CHECK(std::count(path.begin(), path.end(), '\n') == 102);
    CHECK(has(content_of(level / "wall-through.csv"), "membrane + bending"));
    CHECK(has(content_of(level / "integration-points.csv"), "element,x [mm],y [mm],z [mm],sxx [MPa]"));
    CHECK(has(content_of(out / "report.html"), "Stress through the wall along through"));
    CHECK(fs::exists(out / "charts/path-through.png"));
    const json numbers = parsed(level / "level.json");
    CHECK(numbers["loads"].size() == 2);
    // Cut off and gone on with: the same files.
    const fs::path cut = folder / "cut";
    fs::copy(out, cut, fs::copy_options::recursive);
    fs::remove_all(cut / "uniform/level-2");
    CHECK(run({"run", study, "-o", cut.string(), "--resume", "--quiet"}).status <= 1);
    CHECK(content_of(level / "mesh.vtu") == content_of(cut / "uniform/level-2/mesh.vtu"));
    CHECK(content_of(level / "path-through.csv") == content_of(cut / "uniform/level-2/path-through.csv"));
    // Made anew from what is stored, the report says the same.
    const std::string before = content_of(out / "report.html");
    CHECK(run({"report", out.string()}).status <= 1);
    CHECK(content_of(out / "report.html") == before);
}

TEST_CASE("a solid whose stress is known in closed form shows its true errors, and every component is asked for") {
    const TemporaryFolder folder;
    std::string ball = content_of(fs::path(DOTSIFT_SOURCE) / "examples/verification/hollow-ball.toml");
    const auto from = ball.find("[series.uniform]"), to = ball.find("[quantity.hoop]");
    REQUIRE((from != std::string::npos && to != std::string::npos));
    ball.replace(from, to - from, "[series.uniform]\nkind = \"uniform\"\nmost_levels = 2\n");
    ball.replace(ball.find("global = 8"), 10, "global = 12");
    const std::string study = folder.file("ball.toml", ball);
    const fs::path out = folder / "out";
    CHECK(run({"run", study, "-o", out.string(), "--quiet"}).status == 0);
    const json level = parsed(out / "uniform/level-2/level.json");
    const double truth = level["true_error"].get<double>(), estimate = level["estimated_error"].get<double>();
    CHECK(estimate == doctest::Approx(truth).epsilon(0.3));
    CHECK(level["effectivity"].get<double>() == doctest::Approx(estimate / truth).epsilon(0.02));
    CHECK(has(content_of(out / "report.html"), "effectivity"));
    CHECK(has(content_of(out / "levels.csv"), "true_error"));
    const std::string before = content_of(out / "report.html");
    CHECK(run({"report", out.string()}).status == 0);
    CHECK(content_of(out / "report.html") == before);
    const auto at = ball.find("szx = ");
    const auto faulty = run({"check", folder.file("faulty.toml", ball.substr(0, at))});
    CHECK(faulty.status == 2);
    CHECK(has(faulty.err, "szx"));
}

TEST_CASE("a solid is checked, inspected, sized, meshed, judged and varied; what does not work on it yet says so") {
    const TemporaryFolder folder;
    const std::string study = folder.file("plate.toml", plate + "[vary.depth]\nvalues = { deep = [3, 5] }\n");
    const auto checked = run({"check", study});
    CHECK(checked.status == 0);
    CHECK(has(checked.out, "30.00 x 20.00 x 4.000 mm"));
    const json as_json = json::parse(run({"check", study, "--json"}).out);
    CHECK(as_json["faces"] == 7);
    const fs::path part = folder / "part";
    const auto inspected = run({"inspect", study, "-o", part.string()});
    CHECK(inspected.status == 0);
    CHECK(has(inspected.out, "volume 2198.94 mm³"));
    CHECK(fs::exists(part / "part.png"));
    CHECK(parsed(part / "inspection.json")["boundaries"].size() == 5);
    const fs::path mesh = folder / "mesh";
    const auto meshed = run({"mesh", study, "-o", mesh.string(), "--finer", "1.5", "--json"});
    CHECK(meshed.status == 0);
    const json counts = json::parse(meshed.out);
    CHECK(counts["smallest_angle"].get<double>() > 9);
    CHECK(counts["mean_quality"].get<double>() > 0.75);
    CHECK(has(content_of(mesh / "mesh.vtu"), "boundary.bore"));
    CHECK(fs::exists(mesh / "mesh.svg"));
    const auto varied = run({"vary", study, "-o", (folder / "varied").string(), "--quiet"});
    CHECK(varied.status == 0);
    CHECK(has(varied.out, "deep"));
    const fs::path sizes = folder / "sizes";
    const auto sized = run({"sizes", study, "--at", "15,6,2", "--at", "15,10,2", "-o", sizes.string()});
    CHECK(sized.status == 0);
    CHECK(has(sized.out, "at (15, 6, 2): 1.571 mm, because of segments_per_circle\n"));
    CHECK(has(sized.out, "(outside the part)"));
    CHECK(fs::exists(sizes / "rules.svg"));
    CHECK(json::parse(run({"sizes", study, "--json"}).out)["rules"][0].contains("volume_share"));
    for (const char* wrong : {"1,2", "1,2,3,4", "1,2,x", ""}) {
        CAPTURE(wrong);
        CHECK(has(run({"sizes", study, "--at", wrong}).err, "as in: --at 12.5,30,8"));
    }
    const fs::path judged = folder / "quality";
    const auto quality = run({"quality", study, "-o", judged.string()});
    CHECK(quality.status == 0);
    CHECK(has(quality.out, "0 poor"));
    CHECK(fs::exists(judged / "quality.png"));
    CHECK(fs::exists(judged / "histograms.svg"));
    CHECK(json::parse(run({"quality", study, "--json"}).out)["worst"][0]["position"].size() == 3);
    CHECK(run({"quality", folder.file("strict.toml", plate + "[quality.q]\nof = \"shape\"\ngood = 0.999\nacceptable = "
                                                             "0.998\n")})
              .status == 1);
    const auto refused = run({"remesh", study, (mesh / "mesh.vtu").string(), "-o", (folder / "x").string()});
    CHECK(refused.status == 2);
    CHECK(has(refused.err, "does not work on solids yet"));
    const std::string wrong = folder.file("wrong.toml", plate + R"toml([load.more]
on = "bor"
pressure = 3
[load.turn]
on = "bore"
moment = 3
[path.p]
points = [[0, 0], [1, 1]]
)toml");
    const auto told = run({"check", wrong});
    CHECK(told.status == 2);
    for (const char* text : {"load.turn.moment", "path.p.points"}) {
        CAPTURE(text);
        CHECK(has(told.err, text));
    }
    const std::string later = folder.file(
        "later.toml", plate + "[load.more]\non = \"bor\"\npressure = 3\n[remote.r]\non = \"bore\"\nat = [0, 0]\n");
    const auto missing = run({"check", later});
    CHECK(has(missing.err, "did you mean \"bore\"?"));
    CHECK(has(missing.err, "remote.r is not possible in solids yet"));
    const std::string fine = folder.file("fine.toml", plate + "[size.local.all]\non = \"*\"\nsize = 0.001\n");
    CHECK(has(run({"check", fine}).err, "more than the limit"));
}

TEST_CASE(
    "shapes of space with regions, load cases, heat and variables come to their closed forms, resumed and varied") {
    const TemporaryFolder folder;
    const std::string study = folder.file("bar.toml", R"(format = 1
title = "Bar of two regions"
units = { length = "mm", force = "N" }
[variables]
len = 20
[[part.shape]]
add = "box"
size = ["len", 6, 4]
region = "one"
names = { left = "wall_x", front = "wall_y", bottom = "wall_z" }
[[part.shape]]
add = "box"
corner = ["len", 0, 0]
size = [10, 6, 4]
region = "two"
names = { right = "end", front = "wall_y", bottom = "wall_z" }
[material.soft]
on = "one"
youngs_modulus = "100 GPa"
poissons_ratio = 0
conductivity = 1
expansion = 1e-5
[material.stiff]
on = "two"
youngs_modulus = "200 GPa"
poissons_ratio = 0
conductivity = 2
expansion = 0
[support.walls]
on = "wall_*"
hold = "symmetry"
[support.cold]
on = "wall_x"
potential = 0
[support.hot]
on = "end"
potential = 100
[load.pull]
on = "end"
traction = ["10 MPa", 0, 0]
[load.push]
on = "end"
traction = ["-20 MPa", 0, 0]
[case.out]
factors = { pull = 1 }
[case.in]
factors = { push = 1 }
[series.uniform]
kind = "uniform"
most_levels = 2
[quantity.stretch]
of = "ux"
at = ["len + 10", 3, 2]
case = "out"
[quantity.press]
of = "ux"
on = "end"
take = "mean"
case = "in"
[quantity.middle]
of = "potential"
on = "one_and_two"
take = "mean"
[size]
global = 3
[vary.both]
values = { len = [20, 30] }
)");
    // Two pieces in a row: resistances len / 1 and 10 / 2 between 0 and 100 K; the first one expands by 1e-5.
    const auto middle = [](double len) { return 100 * len / (len + 5); };
    const auto press = [&](double len) { return 1e-5 * middle(len) / 2 * len - 20 * (len / 100'000 + 10 / 200'000.0); };
    const auto value = [](const json& summary, const std::string& name) {
        for (const auto& q : summary["series"][0]["levels"].back()["quantities"])
            if (q["name"] == name) return q["value"].get<double>();
        return std::nan("");
    };
    const fs::path out = folder / "out";
    const auto first = run({"run", study, "-o", out.string(), "--quiet", "--pictures", "none"});
    CAPTURE(first.err);
    CHECK(first.status == 0);
    const json whole = parsed(out / "summary.json");
    CHECK(value(whole, "middle") == doctest::Approx(middle(20)));
    CHECK(value(whole, "press") == doctest::Approx(press(20)));
    CHECK(value(whole, "stretch") == doctest::Approx(press(20) + 30 * 0.00025).epsilon(0.005));
    fs::remove_all(out / "uniform" / "level-2");
    const auto again = run({"run", study, "-o", out.string(), "--quiet", "--pictures", "none", "--resume"});
    CHECK(again.status == 0);
    for (const char* name : {"middle", "press", "stretch"})
        CHECK(value(parsed(out / "summary.json"), name) == value(whole, name));
    const auto varied = run({"vary", study, "-o", (folder / "varied").string(), "--quiet", "--json"});
    CHECK(varied.status == 0);
    CHECK(value(parsed(folder / "varied" / "both" / "run-2" / "summary.json"), "press") == doctest::Approx(press(30)));
}

TEST_CASE("a solid's series that a quantity drives goes on from what is stored, load case by load case") {
    const TemporaryFolder folder;
    const std::string study = folder.file("arm.toml", R"(format = 1
title = "Arm"
units = { length = "mm", force = "N" }
[[part.shape]]
add = "box"
size = [30, 10, 6]
names = { left = "root", right = "tip", top = "upside" }
[[part.shape]]
mark = "point"
at = [10, 5, 6]
name = "gauge"
[part.edge.rim]
between = ["root", "upside"]
[material.steel]
youngs_modulus = "205 GPa"
poissons_ratio = 0.29
[support.root]
on = "root"
hold = "fixed"
[load.pull]
on = "tip"
traction = [0, 0, "-3 MPa"]
[load.press]
on = "upside"
pressure = 1
[case.a]
factors = { pull = 1 }
[case.b]
factors = { press = 1 }
[size]
global = 4
[size.local.rim]
on = ["rim", "gauge"]
size = 2
[series.lift]
kind = "adaptive"
drive = ["sag"]
error_target = "0.1 %"
most_levels = 3
[quantity.sag]
of = "uz"
on = "tip"
take = "mean"
case = "a"
target = "5 %"
[quantity.at_gauge]
of = "sxx"
at = "gauge"
case = "b"
target = "20 %"
[picture.cut]
of = "sxx"
section = { at = [10, 5, 3], normal = [1, 1, 0] }
deformed = 20
)");
    const fs::path out = folder / "out";
    CHECK(run({"run", study, "-o", out.string(), "--quiet"}).status <= 1);
    REQUIRE(fs::exists(out / "lift/level-2/level.json"));
    CHECK(parsed(out / "lift/level-2/level.json")["quantities"][0].contains("dual"));
    CHECK(fs::exists(out / "pictures/cut.png"));
    const std::string mesh = content_of(out / "lift/level-2/mesh.vtu"), before = content_of(out / "report.html");
    CHECK(run({"report", out.string()}).status <= 1);
    CHECK(content_of(out / "report.html") == before);
    fs::remove_all(out / "lift/level-2");
    fs::remove_all(out / "lift/level-3");
    CHECK(run({"run", study, "-o", out.string(), "--resume", "--quiet"}).status <= 1);
    CHECK(content_of(out / "lift/level-2/mesh.vtu") == mesh);
    // What is wrong with a section is told before anything is computed.
    for (const auto& [was, is] : std::vector<std::array<std::string, 2>>{
             {"section = { at = [10, 5, 3], normal = [1, 1, 0] }", "section = { at = [10, 5, 3] }"},
             {"normal = [1, 1, 0]", "normal = [0, 0, 0]"},
             {"at = [10, 5, 3]", "at = [100, 5, 3]"},
             {"at = [10, 5, 3], ", "at = [10, 5], "},
             {"section = { at = [10, 5, 3], normal = [1, 1, 0] }", "section = 3"}}) {
        CAPTURE(is);
        std::string text = content_of(study);
        text.replace(text.find(was), was.size(), is);
        const auto refused = run({"check", folder.file("wrong.toml", text)});
        CHECK(refused.status == 2);
        CHECK(has(refused.err, "section"));
    }
    const auto plane = run(
        {"check", folder.file("plane.toml", content_of(fs::path(DOTSIFT_SOURCE) / "examples/tidal/first-bracket.toml") +
                                                "\n[picture.cut]\nof = \"sxx\"\nsection = { at = "
                                                "[0, 0, 0], normal = [0, 0, 1] }\n")});
    CHECK(plane.status == 2);
    CHECK(has(plane.err, "cuts a solid, but the part is plane"));
}

TEST_CASE("inspect numbers the places of a solid and cuts through its thin walls") {
    const TemporaryFolder folder;
    const std::string study = folder.file("thin.toml", R"(format = 1
units = { length = "mm", force = "N" }
[[part.shape]]
add = "box"
size = [60, 40, 20]
name = "skin"
[[part.shape]]
cut = "box"
corner = [8, 8, 1.2]
size = [30, 24, 30]
name = "pocket"
[[part.shape]]
cut = "cylinder"
from = [45, 20, -1]
to = [45, 20, 21]
radius = 1
name = "pin"
[[part.shape]]
change = "rotate"
rotate = "30 deg"
about = [[0, 0, 0], [0, 0, 1]]
[part.cleanup]
fill_holes_below = 3
)");
    const auto told = run({"inspect", study, "-o", (folder / "o").string()});
    CHECK(has(told.out, "turned box  60.00 × 40.00 × 20.00 mm"));
    CHECK(has(told.out, "a hole of diameter 2.000 mm at"));
    CHECK(has(told.out, "1  thinnest wall of part: 1.200 mm"));
    CHECK(has(told.out, "2 elements across the thinnest wall"));
    for (const char* file : {"part.png", "place-1.png", "place-1.svg"}) CHECK(fs::exists(folder / "o" / file));
    const auto found = json::parse(content_of(folder / "o/inspection.json"));
    CHECK(found["cleanup"].size() == 2);
    CHECK(found["turned_box"]["size"][1].get<double>() == doctest::Approx(40));
    CHECK(found["suggestion"]["size"].get<double>() == doctest::Approx(0.6));
}

TEST_CASE("what a rule of a solid finds instead is numbered on a picture") {
    const TemporaryFolder folder;
    const std::string study = folder.file("two.toml", R"(format = 1
title = "Clamp"
units = { length = "mm" }
[part]
[[part.shape]]
add = "box"
size = [40, 20, 8]
[[part.shape]]
cut = "cylinder"
from = [10, 10, -1]
to = [10, 10, 9]
radius = 3
[part.selection.bore]
kind = "cylinder"
count = 1
)");
    const auto told = run({"inspect", study, "-o", (folder / "o").string()});
    CHECK(told.status == 2);
    CHECK(has(told.err, "1 faces were expected, but 3 fit"));
    CHECK(has(told.out, "pictured in fault-"));
    CHECK(has(told.err, "draws these numbers"));
    std::size_t pictures = 0;
    for (const auto& file : fs::directory_iterator(folder / "o"))
        pictures += has(file.path().filename().string(), "fault-") && file.path().extension() == ".png";
    CHECK(pictures == 1);
    CHECK(run({"check", study}).status == 2);
}

TEST_CASE("inspect writes a solid as STEP; a study of that file runs, keeps it, and notices that it changed") {
    const TemporaryFolder folder;
    const std::string drawn = folder.file("drawn.toml", R"(format = 1
units = { length = "mm", force = "N" }
[[part.shape]]
add = "box"
size = [20, 10, 6]
names = { left = "wall", right = "pull", top = "top" }
[[part.shape]]
change = "round"
between = ["pull", "top"]
radius = 2
name = "soft"
[material.steel]
youngs_modulus = -1
)");
    const auto inspected = run({"inspect", drawn, "-o", (folder / "o").string()});
    CHECK(inspected.status == 2);  // told, but no reason not to look at the part
    CHECK(has(inspected.err, "youngs_modulus"));
    CHECK(has(inspected.out, "soft"));
    CHECK(!has(inspected.out, "infinite"));
    CHECK(has(inspected.out, "suggestion  global size"));
    CHECK(has(inspected.out, "places to look at"));
    for (const char* file : {"part.png", "part.stl", "part.step", "inspection.json"})
        CHECK(fs::exists(folder / "o" / file));
    CHECK(json::parse(content_of(folder / "o/inspection.json"))["suggestion"]["size"].get<double>() > 0);
    const std::string rest = R"(
[material.steel]
youngs_modulus = "200 GPa"
poissons_ratio = 0
[support.wall]
on = "left_wall"
hold = "fixed"
[load.pull]
on = "pull"
traction = [10, 0, 0]
[size]
global = 4
[part.selection.left_wall]
in_plane = [[0, 0, 0], [1, 0, 0]]
[series.uniform]
kind = "uniform"
most_levels = 2
[quantity.reaction]
of = "reaction_x"
on = "wall"
)";
    const std::string study = folder.file("study.toml",
                                          "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[[part.shape]]\nadd "
                                          "= \"model\"\nfile = \"o/part.step\"\n" +
                                              rest);
    const fs::path out = folder / "out";
    const auto first = run({"run", study, "-o", out.string(), "--quiet"});
    CAPTURE(first.err);
    CHECK(first.status <= 1);
    const auto summary = json::parse(content_of(out / "summary.json"));
    CHECK(fs::exists(out / "o/part.step"));
    CHECK(has(content_of(out / "report.html"), "soft"));
    // The part of the pulled face below the round carries the traction.
    CHECK(std::fabs(summary["series"][0]["verdicts"][0]["finest"].get<double>() + 10 * 10 * 4) < 1e-6);
    CHECK(run({"report", out.string()}).status <= 1);
    CHECK(run({"run", study, "-o", out.string(), "--resume", "--quiet"}).status <= 1);
    std::ofstream(folder / "o/part.step", std::ios::app) << "\n";
    const auto changed = run({"run", study, "-o", out.string(), "--resume", "--quiet"});
    CHECK(changed.status == 2);
    CHECK(has(changed.err, "part.step"));
    // The same of its facets: what is plane stays so, and the rest follows the round.
    CHECK(has(inspected.out, "part.stl"));
    CHECK(has(inspected.out, "facets, within"));
    const std::string facets =
        folder.file("facets.toml",
                    "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[[part.shape]]\nadd "
                    "= \"model\"\nfile = \"o/part.stl\"\nunit = \"mm\"\n" +
                        rest +
                        "[series.adaptive]\nkind = \"adaptive\"\nerror_target = \"20 %\"\n"
                        "most_levels = 3\n");
    const auto from_facets = run({"run", facets, "-o", (folder / "out-facets").string(), "--quiet"});
    CAPTURE(from_facets.err);
    CHECK(from_facets.status <= 1);
    const auto same = json::parse(content_of(folder / "out-facets/summary.json"));
    for (const auto& series : same["series"])
        CHECK(std::fabs(series["verdicts"][0]["finest"].get<double>() + 10 * 10 * 4) < 1e-5);
    CHECK(fs::exists(folder / "out-facets/o/part.stl"));
    const auto absent = run({"check", folder.file("absent.toml",
                                                  "format = 1\n[[part.shape]]\nadd = \"model\"\nfile = "
                                                  "\"none.step\"\n" +
                                                      rest)});
    CHECK(absent.status == 2);
    CHECK(has(absent.err, "there is no such file"));
}

TEST_SUITE_END();
