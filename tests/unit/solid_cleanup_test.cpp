// Holes and rounds taken out of solids, and edges that rules choose for rounds.

#include "part/solid/solid_cleanup.hpp"

#include <cmath>
#include <numbers>

#include "mesh/solid/generate_solid.hpp"
#include "sizes/part_sizes.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

StudyAndPart opened(const std::vector<std::string>& list, const std::string& more, Problems& problems) {
    return open_study("test.toml", shapes(list) + more, problems);
}
StudyAndPart cleaned(const std::vector<std::string>& list, const std::string& keys) {
    Problems problems("test.toml");
    auto both = opened(list, "[part.cleanup]\n" + keys, problems);
    INFO(problems.text());
    REQUIRE(both.solid);
    return both;
}
std::string told(const std::vector<std::string>& list, const std::string& more) {
    Problems problems("test.toml");
    (void)opened(list, more, problems);
    return problems.text();
}
std::size_t done(const StudyAndPart& both, const std::string& what) {
    return static_cast<std::size_t>(std::count_if(both.cleanup.begin(), both.cleanup.end(), [&](const CleanupItem& i) {
        return i.done && i.what.find(what) != std::string::npos;
    }));
}

const std::string block = "add box | size = [60, 40, 14] | name = \"skin\"";

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("holes below a diameter are filled with all that lies in them") {
    const std::vector<std::string> list{
        block,
        "cut cylinder | from = [10, 10, -1] | to = [10, 10, 15] | radius = 1.5 | repeat = 3 | step = [15, 0, 0] | name "
        "= \"bolt\"",
        "cut cylinder | from = [50, 30, 6] | to = [50, 30, 15] | radius = 2 | name = \"blind\"",
        "cut cylinder | from = [50, 12, 8] | to = [50, 12, 15] | radius = 2 | name = \"drilled\"",
        "cut cone | from = [50, 12, 7] | to = [50, 12, 8] | radii = [0, 2] | name = \"drilled\"",
        "cut cylinder | from = [10, 30, -1] | to = [10, 30, 15] | radius = 1",
        "cut cylinder | from = [10, 30, 9] | to = [10, 30, 15] | radius = 2",
        "cut cylinder | from = [28, 28, -1] | to = [28, 28, 15] | radius = 7 | name = \"bore\""};
    const auto both = cleaned(list, "fill_holes_below = 5\nkeep_centres = \"was#\"\n");
    const double left = 60 * 40 * 14 - 49 * pi * 14;
    CHECK(volume(*both.solid) == doctest::Approx(left).epsilon(1e-9));
    CHECK(area_named(*both.solid, "bore") == doctest::Approx(14 * pi * 14).epsilon(1e-9));
    CHECK(both.solid->faces_named({"bolt", "blind", "drilled"}).empty());
    CHECK(done(both, "a hole of diameter") == 7);
    CHECK(done(both, "volume") == 1);
    // Middles of what was there are points of the part.
    CHECK(both.solid->points.size() == 7);
    CHECK(std::any_of(both.solid->points.begin(), both.solid->points.end(), [&](const PartPoint& p) {
        return p.name.rfind("was", 0) == 0 &&
               distance(both.solid->vertices[static_cast<std::size_t>(p.vertex)], Vec3{{10, 10, 7}}) < 1e-6;
    }));
    // It meshes, with the points.
    SizeSpec sizes;
    const SolidMesh mesh = generate_solid(*both.solid, sizing_of(*both.solid, sizes, "test.toml"), 200000, 1);
    CHECK(mesh.points.size() == 7);
    // Nothing is small enough, or everything.
    CHECK(done(cleaned({block}, "fill_holes_below = 5\n"), "nothing is small enough") == 1);
    CHECK(volume(*cleaned(list, "fill_holes_below = 15\n").solid) == doctest::Approx(60 * 40 * 14).epsilon(1e-9));
}

TEST_CASE("pins and round ends are no holes, and what does not go stays and is told") {
    const auto pin =
        cleaned({block, "add cylinder | from = [30, 20, 14] | to = [30, 20, 24] | radius = 2 | name = \"pin\""},
                "fill_holes_below = 6\nremove_rounds_below = 6\n");
    CHECK(volume(*pin.solid) == doctest::Approx(60 * 40 * 14 + 40 * pi).epsilon(1e-9));
    const auto rod = cleaned({"add cylinder | from = [0, 0, 0] | to = [0, 0, 10] | radius = 2",
                              "add sphere | centre = [0, 0, 10] | radius = 2"},
                             "remove_rounds_below = 3\n");
    CHECK(volume(*rod.solid) == doctest::Approx(40 * pi + 16 * pi / 3).epsilon(1e-9));
    CHECK(std::any_of(rod.cleanup.begin(), rod.cleanup.end(),
                      [](const CleanupItem& i) { return !i.done && i.what.find("stays") != std::string::npos; }));
}

TEST_CASE("rounds below a radius become the edges that they were made of") {
    const auto soft = cleaned({block, "change round | corners = \"all\" | radius = 2 | name = \"soft\""},
                              "remove_rounds_below = 3\n");
    CHECK(volume(*soft.solid) == doctest::Approx(60 * 40 * 14).epsilon(1e-9));
    CHECK(soft.solid->faces.size() == 6);
    CHECK(area_named(*soft.solid, "skin") == doctest::Approx(2 * (2400 + 840 + 560)).epsilon(1e-9));
    const std::vector<std::string> post{
        block, "add cylinder | from = [30, 20, 10] | to = [30, 20, 30] | radius = 6 | name = \"post\"",
        "change round | between = [\"skin\", \"post\"] | radius = 3 | name = \"foot\" | count = 3",
        "change round | near = [[30, 0, 14]] | radius = 5 | name = \"large\""};
    const double sharp = 60 * 40 * 14 + 36 * pi * 16 - 60 * 25 * (1 - pi / 4);
    CHECK(volume(*cleaned(post, "remove_rounds_below = 4\n").solid) == doctest::Approx(sharp).epsilon(1e-8));
    // Holes and rounds together, the hole's mouth rounded.
    const auto both =
        cleaned({block, "cut cylinder | from = [30, 20, -1] | to = [30, 20, 15] | radius = 2 | name = \"hole\"",
                 "change round | between = [\"hole\", \"skin\"] | radius = 1 | name = \"mouth\""},
                "remove_rounds_below = 1.5\nfill_holes_below = 5\n");
    CHECK(volume(*both.solid) == doctest::Approx(60 * 40 * 14).epsilon(1e-9));
}

TEST_CASE("a clean-up of a solid that cannot be done is a fault") {
    const std::string cut = "[part.cleanup]\n";
    CHECK(has(told({block}, cut + "merge_points = 1\n"), "known of plane parts alone"));
    CHECK(has(told({block, "cut cylinder | from = [30, 20, -1] | to = [30, 20, 15] | radius = 2",
                    "add box | corner = [0, 0, 14] | size = [60, 40, 5] | region = \"lid\""},
                   cut + "fill_holes_below = 5\n"),
              "a clean-up of a part"));
    CHECK(has(told({block, "cut cylinder | from = [30, 20, -1] | to = [30, 20, 15] | radius = 2",
                    "cut cylinder | from = [10, 20, -1] | to = [10, 20, 15] | radius = 2"},
                   cut + "fill_holes_below = 5\nkeep_centres = \"was\"\n"),
              "taken already"));
}

TEST_CASE("rules choose the edges of rounds and bevels, on what stands above") {
    const std::string roof = "[part.selection.roof]\npick = \"edges\"\nin_plane = [[0, 0, 14], [0, 0, 1]]\n";
    const auto by_rule = solid_from(shapes({block, "change round | edges = \"roof\" | radius = 2 | name = \"soft\"",
                                            "cut cylinder | from = [30, 20, -1] | to = [30, 20, 15] | radius = 5"}) +
                                    roof + "count = 4\n[part.selection.floor]\nin_plane = [[0, 0, 0], [0, 0, 1]]\n");
    const auto by_place = solid(
        {block,
         "change round | near = [[30, 0, 14], [30, 40, 14], [0, 20, 14], [60, 20, 14]] | radius = 2 | name = \"soft\"",
         "cut cylinder | from = [30, 20, -1] | to = [30, 20, 15] | radius = 5"});
    CHECK(volume(by_rule) == doctest::Approx(volume(by_place)).epsilon(1e-12));
    CHECK(area_named(by_rule, "soft") == doctest::Approx(area_named(by_place, "soft")).epsilon(1e-12));
    CHECK(by_rule.faces_named({"floor"}).size() == 1);
    CHECK(by_rule.edge_names.empty());  // the rule has done its work
    const std::string change = "change bevel | edges = \"roof\" | length = 1";
    CHECK(has(told({block, change}, ""), "edges = \"roof\" is no selection of edges"));
    CHECK(has(told({block, change}, "[part.selection.rim]\npick = \"edges\"\n"), "selections of edges are \"rim\""));
    CHECK(has(told({block, change}, "[part.selection.roof]\nin_plane = [[0, 0, 14], [0, 0, 1]]\n"),
              "is no selection of edges"));
    CHECK(has(told({block, change}, roof + "count = 5\n"), "5 edges were expected, but 4 fit"));
    CHECK(has(told({block, change + " | near = [[30, 0, 14]]"}, roof), "says which edges, as edges does"));
}

TEST_SUITE_END();
