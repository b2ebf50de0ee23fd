// Names given by rules to faces, edges and points of solids.

#include <cmath>
#include <numbers>

#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

/// A plate with two bores, a rounded edge, and a ball in it as another region.
const std::vector<std::string> plate{
    "add box | size = [40, 30, 12] | region = \"plate\"",
    "cut cylinder | from = [10, 10, -1] | to = [10, 10, 13] | radius = 3 | name = \"bore\"",
    "cut cylinder | from = [30, 10, -1] | to = [30, 10, 13] | radius = 5",
    "change round | near = [[20, 30, 12]] | radius = 4",
    "add sphere | centre = [20, 18, 6] | radius = 2 | region = \"ball\""};

std::string rule(const std::string& name, const std::string& rules) {
    std::string text = "[part.selection." + name + "]\n" + rules + "\n";
    for (std::size_t at; (at = text.find(" | ")) != std::string::npos;) text.replace(at, 3, "\n");
    return text;
}

double edge_length(const SolidPart& part, const std::string& name) {
    double sum = 0;
    for (const int e : part.edges_named({name})) sum += part.edge(e).curve.length();
    return sum;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("faces, edges and points of solids are named by rules") {
    const double top = 40 * 26 - 34 * pi, base = 40 * 30 - 34 * pi;
    struct Known {
        std::string rules;
        double area;
    };
    std::string text;
    const std::vector<Known> known{
        {"normal = [0, 0, 1] | area = [500, 2000]", top},
        {"normal = [0, 0, -1] | in_plane = [[0, 0, 0], [0, 0, 1]]", base},
        {"in_plane = [[3, 4, 12], [0, 0, 2]]", top},
        {"kind = \"cylinder\" | radius = 5", 2 * pi * 5 * 12},
        {"kind = \"cylinder\" | radius = [2.5, 4.5] | count = 4", 2 * pi * 3 * 12 + 40 * pi * 2},
        {"named = \"bore\"", 2 * pi * 3 * 12},
        {"nearest = [20, 29, 11]", 40 * pi * 2},
        {"nearest = [20, 29, 11] | follow_tangent = true", 40 * pi * 2 + top + 40 * 8},
        {"kind = \"sphere\"", 16 * pi},
        {"around = \"ball\"", 16 * pi},
        {"beside = \"bore\"", top + base},
        {"box = [[-1, -1, -1], [41, 0.1, 13]]", 40 * 12},
        {"normal = [0, 1, 1] | within = \"50 deg\" | kind = \"cylinder\"", 40 * pi * 2},
    };
    for (std::size_t k = 0; k < known.size(); ++k) text += rule("rule" + std::to_string(k), known[k].rules);
    text += rule("rims", "pick = \"edges\" | radius = 5") + rule("long", "pick = \"edges\" | length = 40") +
            rule("low", "pick = \"edges\" | in_plane = [[0, 0, 0], [0, 0, 1]] | beside = \"rule1\" | radius = 3") +
            rule("corner", "pick = \"points\" | nearest = [39, 1, 1]") +
            rule("of_bore", "pick = \"faces\" | named = \"rule5\"");
    const SolidPart part = solid_from(shapes(plate) + text);
    for (std::size_t k = 0; k < known.size(); ++k) {
        CAPTURE(known[k].rules);
        CHECK(area_named(part, "rule" + std::to_string(k)) == doctest::Approx(known[k].area).epsilon(1e-8));
    }
    CHECK(edge_length(part, "rims") == doctest::Approx(4 * pi * 5));
    CHECK(edge_length(part, "low") == doctest::Approx(2 * pi * 3));
    CHECK(edge_length(part, "long") == doctest::Approx(5 * 40));
    REQUIRE(part.points_named({"corner"}).size() == 1);
    CHECK(part.vertices[static_cast<std::size_t>(part.points_named({"corner"}).front())] == Vec3{{40, 0, 0}});
    CHECK(area_named(part, "of_bore") == area_named(part, "bore"));
}

TEST_CASE("edges between faces named by rules, and rules of plane shapes that are drawn, still work") {
    const SolidPart part = solid_from(shapes(plate) + rule("top", "in_plane = [[0, 0, 12], [0, 0, 1]]") +
                                      "[part.edge.mouth]\nbetween = [\"top\", \"bore\"]\n");
    CHECK(edge_length(part, "mouth") == doctest::Approx(2 * pi * 3));
    const SolidPart drawn =
        solid_from("format = 1\n[part]\nextrude = { to = 5 }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 10]\n" +
                   rule("right", "normal = [1, 0]") + rule("top", "pick = \"faces\" | normal = [0, 0, 1]"));
    CHECK(area_named(drawn, "right") == doctest::Approx(50));
    CHECK(area_named(drawn, "top") == doctest::Approx(200));
}

TEST_CASE("rules of solids that find nothing, or not what was expected, list what there is") {
    const auto told = [](const std::string& rules) { return faults(plate, rule("x", rules)); };
    struct Wrong {
        std::string rules, what;
    };
    for (const Wrong& w : std::vector<Wrong>{
             {"radius = 7", "no faces fit all of its rules"},
             {"radius = 7", "cylinder of radius 3, area 75.398"},
             {"kind = \"cylinder\" | count = 2", "2 faces were expected, but 7 fit"},
             {"nearest = [30, 10, 6]", "are equally near"},
             {"named = \"bor\"", "did you mean \"bore\"?"},
             {"around = \"bal\"", "did you mean \"ball\"?"},
             {"line = [[0, 0], [1, 0]] | radius = 3", "has no meaning for faces of a solid"},
             {"pick = \"edges\" | kind = \"plane\"", "has no meaning for edges of a solid"},
             {"pick = \"points\" | radius = 3", "has no meaning for points of a solid"},
             {"follow_tangent = true", "needs at least one rule"},
             {"normal = [0, 0, 0]", "is no direction"},
             {"radius = [5, 3]", "smallest and largest"},
             {"area = -1", "above zero"},
             {"kind = \"cube\"", "allowed are \"plane\", \"cylinder\""},
         }) {
        CAPTURE(w.rules);
        const std::string text = told(w.rules);
        CAPTURE(text);
        CHECK(text.find(w.what) != std::string::npos);
    }
    CHECK(faults(plate, rule("bore", "radius = 3")).find("faces of this name already") != std::string::npos);
}

TEST_CASE("what a rule of a solid may mean is numbered, with a place on each") {
    struct Numbered {
        std::string rules, first;
        std::size_t count;
    };
    for (const Numbered& n : std::vector<Numbered>{
             {"kind = \"cylinder\" | count = 2", "found: 1: face 3 (cylinder of radius 4", 7},
             {"pick = \"edges\" | radius = 3 | count = 1", "found: 1: edge", 6},
             {"pick = \"points\" | box = [[-1, -1, -1], [1, 50, 50]] | count = 9", "found: 1: (", 5}}) {
        CAPTURE(n.rules);
        Problems problems("test.toml");
        const auto both = open_study("test.toml", shapes(plate) + rule("x", n.rules), problems);
        REQUIRE(both.solid);
        const auto faults = problems.faults();
        const auto found =
            std::find_if(faults.begin(), faults.end(), [](const Problem& f) { return !f.spots.empty(); });
        REQUIRE(found != faults.end());
        CAPTURE(found->remedy);
        CHECK(found->remedy.find(n.first) != std::string::npos);
        CHECK(found->remedy.find("inspect -o draws these numbers") != std::string::npos);
        CHECK(found->spots.size() == n.count);
        for (const Vec3& at : found->spots) {
            double away = INFINITY;
            for (const auto& f : both.solid->faces)
                away = std::min(away, distance(f.surface.point(f.surface.project(at)), at));
            CHECK(away < 1e-9);
        }
    }
}

TEST_SUITE_END();
