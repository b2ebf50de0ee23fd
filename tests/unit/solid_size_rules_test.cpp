// Size rules of solids: divisions of edges, elements across walls, segments of named faces, tables in space.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/files.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_study.hpp"
#include "series/next_mesh.hpp"
#include "series/run.hpp"
#include "sizes/part_sizes.hpp"
#include "sizes/size_table.hpp"
#include "support/folder.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

StudyAndPart opened(const std::string& shapes, const std::string& sizes,
                    const std::filesystem::path& file = "test.toml") {
    Problems problems(file.string());
    auto both = open_study(file, "format = 1\n[part]\n" + shapes + sizes, problems);
    INFO(problems.text());
    REQUIRE(both.solid);
    return both;
}

SizingIn<3> sizing(const StudyAndPart& both) {
    return sizing_of(*both.solid, both.study.sizes, both.study.path);
}

std::string faults(const std::string& shapes, const std::string& sizes) {
    Problems problems("test.toml");
    const auto both = open_study("test.toml", "format = 1\n[part]\n" + shapes + sizes, problems);
    try {
        if (both.solid) (void)sizing(both);
    } catch (const InputError& e) {
        return problems.text() + e.what();
    }
    return problems.text();
}

const std::string block =
    "[[part.shape]]\nadd = \"box\"\nsize = [40, 30, 12]\nnames = { top = \"top\", front = \"front\", left = \"left\", "
    "right = \"right\", bottom = \"bottom\", back = \"back\" }\n"
    "[part.edge.lip]\nbetween = [\"top\", \"front\"]\n";

/// x of the corners of elements on the edge y = 0, z = 12 of the block, in order.
std::vector<double> on_lip(const SolidMesh& mesh) {
    std::vector<double> x;
    for (const Vec3& p : mesh.nodes)
        if (std::fabs(p[1]) < 1e-9 && std::fabs(p[2] - 12) < 1e-9) x.push_back(p[0]);
    std::sort(x.begin(), x.end());
    return x;
}

}  // namespace

TEST_SUITE_BEGIN("sizes");

TEST_CASE("edges of a solid are divided as a rule says, with its bias") {
    const auto lip = [](const std::string& more, double factor = 1) {
        const auto both = opened(block, "[size]\nglobal = 8\n[size.local.lip]\non = \"lip\"\ndivisions = 6\n" + more);
        return on_lip(generate_solid(*both.solid, sizing(both).scaled(factor), 100000, 1));
    };
    const auto even = lip("");
    REQUIRE(even.size() == 7);
    for (std::size_t k = 0; k < 7; ++k) CHECK(even[k] == doctest::Approx(40.0 / 6 * static_cast<double>(k)));
    CHECK(lip("", 0.5).size() == 13);
    for (const char* finer : {"[0, 0, 12]", "\"left\""}) {
        CAPTURE(finer);
        const auto x = lip(fmt::format("bias = 4\nfiner_at = {}\n", finer));
        REQUIRE(x.size() == 7);
        CHECK((x[6] - x[5]) / (x[1] - x[0]) == doctest::Approx(4));
        for (std::size_t k = 2; k < 7; ++k)
            CHECK((x[k] - x[k - 1]) / (x[k - 1] - x[k - 2]) == doctest::Approx(std::pow(4, 0.2)));
    }
    const auto middle = lip("bias = 3\nfiner_at = \"middle\"\n");
    CHECK((middle[1] - middle[0]) / (middle[3] - middle[2]) == doctest::Approx(3));
    // The field follows the pieces: beside the lip elements are as small.
    const auto both = opened(block, "[size]\nglobal = 8\n[size.local.lip]\non = \"lip\"\ndivisions = 40\n");
    CHECK(sizing(both).field.at({{20, 0, 12}}) == doctest::Approx(1));
}

TEST_CASE("curved edges of a solid are divided evenly along their length") {
    const auto both = opened(
        "[[part.shape]]\nadd = \"cylinder\"\nfrom = [0, 0, 0]\nto = [0, 0, 5]\nradius = 10\nnames = { end = \"cap\", "
        "side = \"rim\" }\n[part.edge.lip]\nbetween = [\"cap\", \"rim\"]\n",
        "[size]\nglobal = 6\n[size.local.lip]\non = \"lip\"\ndivisions = 9\n");
    const auto lips = both.solid->edges_named({"lip"});
    const SolidMesh mesh = generate_solid(*both.solid, sizing(both), 100000, 1);
    std::vector<double> angles;
    for (const Vec3& p : mesh.nodes)
        if (std::fabs(p[2] - 5) < 1e-9 && std::hypot(p[0], p[1]) > 10 - 1e-6) angles.push_back(std::atan2(p[1], p[0]));
    CHECK(angles.size() == 9 * lips.size());
    std::sort(angles.begin(), angles.end());
    for (std::size_t k = 1; k < angles.size(); ++k)
        CHECK(angles[k] - angles[k - 1] == doctest::Approx(2 * pi / static_cast<double>(angles.size())).epsilon(1e-6));
}

TEST_CASE("so many elements go across the walls of a solid") {
    const std::string plate = "[[part.shape]]\nadd = \"box\"\nsize = [40, 40, 2]\nname = \"plate\"\n";
    const auto across = [](const std::string& shapes, const std::string& rule) {
        return sizing(opened(shapes, "[size]\nglobal = 8\n[size.local.wall]\n" + rule)).field;
    };
    const auto field = across(plate, "across = 3\n");
    for (const Vec3& p : {Vec3{{20, 20, 0}}, Vec3{{20, 20, 1}}, Vec3{{7, 31, 1.3}}, Vec3{{39.9, 0.1, 2}}})
        CHECK(field.at(p) == doctest::Approx(2.0 / 3).epsilon(1e-3));
    CHECK(across(plate, "across = 3\nsmallest = 1\n").at({{20, 20, 1}}) == doctest::Approx(1));
    CHECK(across(plate, "across = 3\nlargest = 0.5\n").at({{20, 20, 1}}) == doctest::Approx(0.5));
    // As many are there: no edge of the mesh runs from one face to the other.
    const auto both = opened(plate, "[size]\nglobal = 8\n[size.local.wall]\nacross = 2\n");
    const SolidMesh mesh = generate_solid(*both.solid, sizing(both), 200000, 1);
    std::size_t through = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        double low = 2, high = 0;
        for (const auto n : mesh.element(e)) {
            low = std::min(low, mesh.nodes[static_cast<std::size_t>(n)][2]);
            high = std::max(high, mesh.nodes[static_cast<std::size_t>(n)][2]);
        }
        if (high - low > 1.9) ++through;
    }
    CHECK(through < mesh.element_count() / 50);

    // A step: each side its own.
    const std::string step =
        plate + "[[part.shape]]\nadd = \"box\"\ncorner = [0, 0, 2]\nsize = [20, 40, 6]\nname = \"step\"\n";
    const auto stepped = across(step, "across = 4\n");
    CHECK(stepped.at({{35, 20, 1}}) == doctest::Approx(0.5).epsilon(1e-2));
    CHECK(stepped.at({{8, 20, 4}}) == doctest::Approx(2).epsilon(0.05));
    // All over a face with another's foot in it, up to its rim.
    const std::string boss =
        plate +
        "[[part.shape]]\nadd = \"cylinder\"\nfrom = [20, 20, 1]\nto = [20, 20, 9]\nradius = 6\nname = "
        "\"boss\"\n";
    const auto floor = across(boss, "on = \"plate\"\nacross = 2\n");
    for (const double x : {0.01, 3.0, 9.0, 12.0, 29.0, 34.0, 39.9})
        for (const double y : {0.2, 5.0, 20.0, 39.0}) {
            CAPTURE(x);
            CAPTURE(y);
            CHECK(floor.at({{x, y, 1}}) <= (std::hypot(x - 20, y - 20) > 8 ? 1.01 : 1.4));
        }
    // Walls that are bent: of a tube, a rod, a ball.
    const std::string rod = "[[part.shape]]\nadd = \"cylinder\"\nfrom = [0, 0, 0]\nto = [0, 0, 60]\nradius = 5\n";
    CHECK(across(rod, "across = 8\n").at({{3, 0, 30}}) == doctest::Approx(1.25).epsilon(1e-2));
    const std::string bore = "[[part.shape]]\ncut = \"cylinder\"\nfrom = [0, 0, -1]\nto = [0, 0, 61]\nradius = 4\n";
    const auto tube = across(rod + bore, "across = 2\n");
    for (const double t : {0.1, 1.3, 2.9, 4.0, 5.7})
        for (const double r : {4.02, 4.5, 4.98})
            CHECK(tube.at({{r * std::cos(t), r * std::sin(t), 20}}) == doctest::Approx(0.5).epsilon(1e-2));
    CHECK(across("[[part.shape]]\nadd = \"sphere\"\nradius = 6\n", "across = 5\n").at({{0, 0, 0}}) ==
          doctest::Approx(2.4).epsilon(1e-2));
    // Of one region, or one face, alone.
    const std::string lid = plate +
                            "[[part.shape]]\nadd = \"box\"\ncorner = [0, 0, 2]\nsize = [40, 40, 5]\nregion = \"lid\"\n"
                            "name = \"lid_outside\"\n";
    const auto of_lid = across(lid, "on = \"lid\"\nacross = 5\n");
    CHECK(of_lid.at({{20, 20, 6}}) == doctest::Approx(1).epsilon(1e-2));
    CHECK(of_lid.at({{20, 20, 0}}) > 1.3);
}

TEST_CASE("segments of a circle on named faces and edges of a solid") {
    const std::string two =
        "[[part.shape]]\nadd = \"box\"\nsize = [60, 30, 10]\nname = \"skin\"\n"
        "[[part.shape]]\ncut = \"cylinder\"\nfrom = [15, 15, -1]\nto = [15, 15, 11]\nradius = 4\nname = \"fine\"\n"
        "[[part.shape]]\ncut = \"cylinder\"\nfrom = [45, 15, -1]\nto = [45, 15, 11]\nradius = 4\nname = \"plain\"\n";
    const auto at = [&](const std::string& rule) { return sizing(opened(two, "[size]\nglobal = 9\n" + rule)).field; };
    const auto field = at("[size.local.bore]\non = \"fine\"\nsegments_per_circle = 40\n");
    CHECK(field.at({{19, 15, 5}}) == doctest::Approx(2 * pi * 4 / 40).epsilon(2e-3));
    CHECK(field.at({{19, 15, 10}}) == doctest::Approx(2 * pi * 4 / 40).epsilon(2e-3));
    CHECK(field.at({{49, 15, 5}}) == doctest::Approx(2 * pi * 4 / 16).epsilon(2e-3));
    CHECK(field.query({{19, 15, 5}}).rule == 0);
    CHECK(field.query({{49, 15, 5}}).rule == 1);
    CHECK(at("[size.local.bore]\non = \"fine\"\nsegments_per_circle = 40\nsmallest = 1\n").at({{19, 15, 5}}) ==
          doctest::Approx(1).epsilon(2e-3));
    // A rule may ask for fewer than all others have.
    CHECK(at("[size.local.bore]\non = \"fine\"\nsegments_per_circle = 8\n").at({{19, 15, 5}}) ==
          doctest::Approx(2 * pi * 4 / 8).epsilon(2e-3));
    const auto edge =
        at("[part.edge.mouth]\nbetween = [\"fine\", \"skin\"]\n"
           "[size.local.bore]\non = \"mouth\"\nsegments_per_circle = 50\n");
    CHECK(edge.at({{19, 15, 10}}) == doctest::Approx(2 * pi * 4 / 50).epsilon(2e-3));
    CHECK(edge.at({{19, 15, 5}}) > 1);
}

TEST_CASE("sizes of a solid from a table are linear between its rows along all axes") {
    const Folder folder;
    const auto file = folder.path / "sizes.csv";
    std::string rows = "z [mm];x;y;size\n";
    for (const double z : {0.0, 12.0})
        for (const double x : {0.0, 10.0, 40.0})
            for (const double y : {0.0, 30.0})
                rows += fmt::format("{};{};{};{}\n", z, x, y, 1 + x / 10 + y / 30 + z / 6);
    write_file(file, rows);
    const SizeTableIn<3> t = read_size_table<3>(rows, file);
    CHECK(t.at({{5, 15, 6}}) == doctest::Approx(1 + 0.5 + 0.5 + 1));
    CHECK(t.at({{25, 30, 3}}) == doctest::Approx(1 + 2.5 + 1 + 0.5));
    CHECK(t.at({{-5, 40, 20}}) == doctest::Approx(1 + 0 + 1 + 2));
    const auto both =
        opened(block, "[size]\nglobal = 20\n[size.local.t]\ntable = \"sizes.csv\"\n", folder.path / "study.toml");
    const auto field = sizing(both).field;
    CHECK(field.at({{2, 3, 1}}) == doctest::Approx(1 + 0.2 + 0.1 + 1.0 / 6).epsilon(0.1));
    CHECK(field.at({{25, 29, 3}}) == doctest::Approx(1 + 2.5 + 29.0 / 30 + 0.5).epsilon(0.1));
    const auto fault = [&](const std::string& text) {
        try {
            (void)read_size_table<3>(text, file);
        } catch (const InputError& e) {
            return fmt::format("{}: {}", e.place().line, e.what());
        }
        return std::string("none");
    };
    CHECK(has(fault("0,0,1\n"), "1: the row has 3 fields"));
    CHECK(has(fault("x,y,size\n0,0,1\n"), "does not name the columns x, y, z and size"));
    CHECK(has(fault("0,0,0,1\n0,0,0,2\n"), "2: (0, 0, 0) stands there twice"));
    CHECK(has(fault("0,0,0,1\n1,0,0,2\n0,1,1,2\n"), "make no grid"));
}

TEST_CASE("size rules of solids that contradict, or stand where they mean nothing") {
    const std::string divisions = "[size]\n[size.local.a]\non = \"lip\"\ndivisions = 4\n";
    CHECK(has(faults(block, divisions + "[size.local.b]\non = \"lip\"\ndivisions = 5\n"), "contradict"));
    CHECK(has(faults(block, "[size]\n[size.local.a]\non = \"top\"\ndivisions = 4\n"),
              "divisions go with edges, and \"top\" is none"));
    CHECK(
        has(faults(block, "[size]\n[size.local.a]\non = \"lip\"\nacross = 4\n"), "across goes with faces and regions"));
    CHECK(has(faults(block, divisions + "bias = 3\nfiner_at = \"back\"\n"), "nothing of that name meets"));
    CHECK(has(faults(block, divisions + "bias = 3\nfiner_at = [1, 2]\n"), "finer_at"));
    const auto few = opened(block, "[size]\nglobal = 1\n[size.local.a]\non = \"lip\"\ndivisions = 1\n");
    try {
        (void)generate_solid(*few.solid, sizing(few), 200000, 1);
    } catch (const MeshError& e) {
        CHECK(has(e.remedy(), "divisions are kept as they are given"));
    }
}

TEST_CASE("divisions and walls in series: uniform ones double, adaptive ones go on from the first mesh") {
    const auto both =
        opened(block,
               "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
               "[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"right\"\ntraction = [0, 0, "
               "1]\n[size]\nglobal = 12\n[size.local.lip]\non = \"lip\"\ndivisions = 5\n"
               "[size.local.wall]\nacross = 2\n"
               "[series.even]\nkind = \"uniform\"\nratio = 2\nmost_levels = 2\n"
               "[series.part]\nkind = \"local\"\nratio = 2\nrules = \"lip\"\nmost_levels = 2\n"
               "[series.own]\nkind = \"adaptive\"\nerror_target = 0.08\nmost_levels = 3\n"
               "[quantity.u]\nof = \"uz\"\nat = [40, 15, 6]\n");
    StudyObserver silent;
    const auto result = run_study(both, silent);
    REQUIRE(result.series.size() == 3);
    const auto lip = [&](std::size_t s, std::size_t l) {
        const auto x = on_lip(result.series[s].levels[l].solid->mesh);
        return (x.size() - 1) / 2;  // elements have nodes in the middle of their edges
    };
    CHECK(lip(0, 0) == 5);
    CHECK(lip(0, 1) == 10);
    CHECK(lip(1, 1) == 10);
    CHECK(lip(2, 0) == 5);
    const auto end = [&](std::size_t s) { return result.series[s].levels.back().quantities.front().value; };
    CHECK(end(0) == doctest::Approx(end(2)).epsilon(0.01));
    CHECK(end(1) == doctest::Approx(end(2)).epsilon(0.02));
}

TEST_SUITE_END();
