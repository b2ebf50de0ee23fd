// Named points and edges of solids: in the part, in sizes, in meshes.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_study.hpp"
#include "part/solid/edge_wedges.hpp"
#include "quality/quality.hpp"
#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

const std::string rest =
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\ndensity = 1\n[support.s]\non = \"*\"\nhold = "
    "\"fixed\"\n[load.g]\n"
    "gravity = [0, -1, 0]\n[series.uniform]\nkind = \"uniform\"\nmost_levels = 1\n";

/// A block of 10 x 6 x 4 with a bore through it and a pin of another region beside.
const std::string block =
    "[[part.shape]]\nadd = \"box\"\nsize = [10, 6, 4]\nname = \"skin\"\nnames = { top = \"top\", right = \"right\" }\n"
    "region = \"block\"\n[[part.shape]]\ncut = \"cylinder\"\nfrom = [7, 3, -1]\nto = [7, 3, 5]\nradius = 1.5\n"
    "name = \"bore\"\n[[part.shape]]\nadd = \"cylinder\"\nfrom = [2, 3, 1]\nto = [2, 3, 6]\nradius = 1\nname = "
    "\"pin_skin\"\n"
    "region = \"pin\"\n";

std::string point(const std::string& name, const std::string& at, const std::string& more = "") {
    return fmt::format("[[part.shape]]\nmark = \"point\"\nname = \"{}\"\nat = {}\n{}", name, at, more);
}

StudyAndPart opened(const std::string& part, const std::string& body = "") {
    Problems problems("test.toml");
    StudyAndPart both = open_study("test.toml", "format = 1\n" + part + rest + body, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    REQUIRE(both.solid);
    return both;
}

std::string faults(const std::string& part, const std::string& body = "") {
    Problems problems("test.toml");
    (void)open_study("test.toml", "format = 1\n" + part + rest + body, problems);
    return problems.text();
}

Vec3 place_of(const SolidPart& part, const std::string& name) {
    const auto v = part.points_named({name});
    REQUIRE(v.size() == 1);
    return part.vertices[static_cast<std::size_t>(v.front())];
}

/// Of the edges of a name.
double length_of(const SolidPart& part, const std::string& name) {
    double sum = 0;
    for (const int e : part.edges_named({name})) sum += part.edge(e).curve.length();
    return sum;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("points are marked at corners, on edges, on faces and inside, and every mesh has a node there") {
    struct Marked {
        std::string name;
        Vec3 at;
    };
    const double s = std::sin(1.0), c = std::cos(1.0);
    const std::vector<Marked> marked{{"corner", {{10, 6, 4}}},
                                     {"on_edge", {{4.3, 0, 4}}},
                                     {"on_rim", {{7 + 1.5 * c, 3 + 1.5 * s, 4}}},
                                     {"on_plane", {{4.4, 1.2, 4}}},
                                     {"on_bore", {{7 - 1.5 * c, 3 + 1.5 * s, 1.7}}},
                                     {"on_seat", {{2 + c, 3 - s, 2.2}}},
                                     {"inside", {{4.6, 4.1, 1.9}}},
                                     {"in_pin", {{2.2, 3.1, 4.6}}}};
    std::string part = block;
    for (const auto& m : marked) part += point(m.name, fmt::format("[{}, {}, {}]", m.at[0], m.at[1], m.at[2]));
    const auto plain = opened(block), both = opened(part);
    CHECK(measure(*both.solid).size == doctest::Approx(measure(*plain.solid).size).epsilon(1e-12));
    CHECK(both.solid->edges.size() == plain.solid->edges.size() + 2);
    for (const auto& m : marked) {
        CAPTURE(m.name);
        CHECK(distance(place_of(*both.solid, m.name), m.at) < 1e-9);
    }
    for (const double size : {2.0, 0.7}) {
        const auto field = sizing_of(*both.solid, both.study.sizes, "").field;
        const SolidMesh mesh = generate_solid(*both.solid, {field.scaled(size / field.global())}, 200000, 2);
        CHECK(mesh.points.size() == marked.size());
        for (const auto& p : mesh.points) {
            CAPTURE(p.name);
            CHECK(distance(mesh.nodes[static_cast<std::size_t>(p.node)], place_of(*both.solid, p.name)) < 1e-9);
        }
        const auto quality = measure_quality(mesh, {});
        for (const double shape : quality[static_cast<std::size_t>(Criterion::shape)]) CHECK(shape > 0.05);
        double volume = 0;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) volume += mesh.measure_of(e);
        CHECK(volume == doctest::Approx(measure(*both.solid).size).epsilon(2e-3));
    }
}

TEST_CASE("points move with their placement and with changes of all, and copies are counted") {
    const auto both = opened(block + point("knot#", "[4.2, 1, 2]", "repeat = 3\nstep = [0, 1.5, 0]\n") +
                             "[[part.shape]]\nchange = \"move\"\nmove = [0, 0, 10]\n" +
                             point("late", "[5, 5, 12]", "rotate = \"0 deg\"\n"));
    CHECK(distance(place_of(*both.solid, "knot1"), {{4.2, 1, 12}}) < 1e-9);
    CHECK(distance(place_of(*both.solid, "knot3"), {{4.2, 4, 12}}) < 1e-9);
    CHECK(distance(place_of(*both.solid, "late"), {{5, 5, 12}}) < 1e-9);
    // The same on a drawn plane part.
    const auto drawn =
        opened("[part]\nextrude = { to = 3 }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nname = \"skin\"\n" +
               point("knot", "[2, 1, 1.5]"));
    CHECK(distance(place_of(*drawn.solid, "knot"), {{2, 1, 1.5}}) < 1e-9);
}

TEST_CASE("what is wrong with points and edges of solids is told") {
    CHECK(has(faults(block + point("p", "[20, 3, 2]")), "the point \"p\" at (20, 3, 2) lies outside the part"));
    CHECK(has(faults(block + point("p", "[7, 3, 2]")), "lies outside the part"));  // in the bore
    CHECK(has(faults(block + point("p", "[1, 1, 1]") + point("p", "[2, 1, 1]")), "\"p\" is taken already"));
    CHECK(has(faults(block + point("top", "[1, 1, 1]")), "\"top\" is taken already"));
    CHECK(has(faults(block + "[[part.shape]]\nmark = \"point\"\nat = [1, 1, 1]\n"), "name"));
    CHECK(has(faults(block + "[[part.shape]]\nadd = \"point\"\nname = \"p\"\nat = [1, 1, 1]\n"), "encloses nothing"));
    CHECK(has(faults(block + "[[part.shape]]\nmark = \"box\"\nsize = [1, 1, 1]\n"), "must be \"point\" in space"));
    CHECK(has(faults(block + "[part.edge.e]\nbetween = [\"top\", \"boer\"]\n"), "did you mean \"bore\"?"));
    CHECK(has(faults(block + "[part.edge.e]\nbetween = [\"bore\", \"pin_skin\"]\n"), "no edge lies between"));
    CHECK(has(faults(block + "[part.edge.bore]\nbetween = [\"top\", \"bore\"]\n"), "the name is taken already"));
    CHECK(has(faults(block + "[part.edge.e]\nbetween = \"top\"\n"), "two names in brackets"));
    CHECK(has(faults(block + "[part.edge.e]\n"), "between"));
    CHECK(has(faults(block, "[size.local.l]\non = \"ream\"\nsize = 1\n"), "no face, edge, region or point is named"));
    CHECK(has(faults("[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nname = \"skin\"\n[part.edge.e]\nbetween = "
                     "[\"skin\", \"skin\"]\n"),
              "names edges of a solid, but the part is plane"));
}

TEST_CASE("edges between named faces have their length, and sizes hold along them") {
    const auto both =
        opened(block +
                   "[part.edge.mouth]\nbetween = [\"top\", \"bore\"]\n[part.edge.ledge]\nbetween = [\"top\", "
                   "\"right\"]\n[part.edge.all]\nbetween = [\"skin\", \"skin\"]\n",
               "[size]\nglobal = 3\ngrowth = 1.5\nsegments_per_circle = 6\n[size.local.mouth]\non = "
               "\"mouth\"\nsize = \"0.2 + 0.01 * x\"\nwithin = 0.3\n");
    const SolidPart& part = *both.solid;
    CHECK(length_of(part, "mouth") == doctest::Approx(3 * pi).epsilon(1e-9));
    CHECK(length_of(part, "ledge") == doctest::Approx(6).epsilon(1e-9));
    CHECK(length_of(part, "all") ==
          doctest::Approx(2 * 10 + 6 + 2 * 4).epsilon(1e-9));  // top and right have other names
    const auto field = sizing_of(part, both.study.sizes, "").field;
    for (double angle = 0.1; angle < 6; angle += 0.7) {
        const Vec3 on{{7 + 1.5 * std::cos(angle), 3 + 1.5 * std::sin(angle), 4}};
        CHECK(field.at(on) == doctest::Approx(0.2 + 0.01 * on[0]).epsilon(0.03));
        CHECK(field.at(on - Vec3{{0, 0, 0.25}}) < 0.3);
    }
    CHECK(field.at({{7 + 1.5, 3, 1}}) > 1);
}

TEST_CASE("round every edge of a solid lie its bodies and its room, a whole turn together") {
    const auto both = opened(block);
    const SolidPart& part = *both.solid;
    const EdgeFaces faces(part);
    int outer = 0, inner = 0, seams = 0, inside = 0;
    for (std::size_t e = 0; e < part.edges.size(); ++e)
        for (const double t : {0.2, 0.5, 0.7}) {
            const auto wedges = faces.wedges(e, t);
            REQUIRE(!wedges.empty());
            double sum = 0, material = 0;
            for (const EdgeWedge& w : wedges) {
                sum += w.angle;
                if (w.body >= 0) material += w.angle;
            }
            CHECK(sum == doctest::Approx(2 * pi).epsilon(1e-9));
            const double degrees = material * 180 / pi;
            outer += std::fabs(degrees - 90) < 1e-6;
            inner += std::fabs(degrees - 270) < 1e-6;
            seams += std::fabs(degrees - 180) < 1e-6;
            inside += std::fabs(degrees - 360) < 1e-6;
        }
    CHECK(inner > 0);  // where the pin leaves the block
    CHECK(outer + inner + seams + inside == static_cast<int>(3 * part.edges.size()));
}

TEST_SUITE_END();
