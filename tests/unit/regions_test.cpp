#include <doctest/doctest.h>

#include <cmath>
#include <map>
#include <numbers>
#include <set>

#include "mesh/locate.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "part/checks/check_study.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/estimate.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

struct Solved {
    Study study;
    Part part;
    Mesh mesh;
    Solution solution;
    RecoveredStress recovered;
};

Solved solved(const std::string& text) {
    Problems problems("t");
    StudyAndPart opened = open_study("t", "format = 1\n" + text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    Solved s{std::move(opened.study), std::move(opened.part), {}, {}, {}};
    s.mesh = generate(s.part, sizing_of(s.part, s.study.sizes, s.study.path), s.study.sizes.most_elements);
    s.solution = solve_study(s.mesh, s.study);
    s.recovered = recover_stress(s.mesh, s.study, laws_of(s.study, s.mesh.region_names), s.solution);
    return s;
}

double area_of(const Mesh& mesh, const std::string& region) {
    double sum = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (Meant(mesh, {region}).element(e)) sum += mesh.measure_of(e);
    return sum;
}

/// A bar of two materials along x, pulled by 6 over its end of height 2.
const std::string bar =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 2]\nregion = \"soft\"\nnames = { left = \"left\" }\n"
    "[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize = [5, 2]\nregion = \"hard\"\nnames = { right = "
    "\"right\" }\n"
    "[material.foam]\non = \"soft\"\nyoungs_modulus = 10\npoissons_ratio = 0\n"
    "[material.steel]\non = \"hard\"\nyoungs_modulus = 200\npoissons_ratio = 0\n"
    "[support.hold]\non = \"left\"\nux = 0\n[support.point]\nat = [0, 0]\nuy = 0\n"
    "[load.pull]\non = \"right\"\nforce = [6, 0]\n[size]\nglobal = 0.6\n";

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("elements fit the regions, which share the nodes of their interface") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 6]\nregion = \"plate\"\n"
        "[[part.shape]]\nadd = \"circle\"\nradius = 1.5\ncentre = [4, 3]\nregion = \"bush\"\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 0.7\ncentre = [4, 3]\nname = \"bore\"\n"
        "[[part.shape]]\nmark = \"line\"\nfrom = [7, 1]\nto = [9, 4.3]\nname = \"gauge\"\n"
        "[[part.shape]]\nmark = \"point\"\nat = [8.2, 5.1]\nname = \"probe\"\n"
        "[[part.shape]]\nsplit = \"line\"\nfrom = [6.5, 0]\nto = [6.5, 6]\nname = \"cut\"\n");
    const Mesh mesh = generate(part, sizing_of(part, {}, {}), 100000);
    CHECK(area_of(mesh, "bush") == doctest::Approx(pi * (2.25 - 0.49)).epsilon(1e-4));
    CHECK(area_of(mesh, "plate") == doctest::Approx(60 - pi * 2.25).epsilon(1e-4));
    std::map<int, std::set<int>> regions_of_node;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const int n : mesh.element(e)) regions_of_node[n].insert(mesh.region[e]);
    std::set<int> shared;
    for (const auto& [n, list] : regions_of_node)
        if (list.size() == 2) shared.insert(n);
    double interface_length = 0, gauge = 0, cut = 0;
    for (const auto& side : mesh.boundary) {
        const double l = distance(mesh.nodes[static_cast<std::size_t>(side.nodes[0])],
                                  mesh.nodes[static_cast<std::size_t>(side.nodes[1])]);
        if (Meant(mesh, {"gauge"}).side(side)) gauge += l;
        if (Meant(mesh, {"cut"}).side(side)) cut += l;
        if (!Meant(mesh, {"plate_and_bush"}).side(side)) continue;
        interface_length += l;
        for (const int n : side.nodes) {
            CHECK(shared.count(n) == 1);
            CHECK(distance(mesh.nodes[static_cast<std::size_t>(n)], {{4, 3}}) == doctest::Approx(1.5).epsilon(1e-12));
        }
    }
    CHECK(interface_length == doctest::Approx(3 * pi).epsilon(0.02));  // each side once
    CHECK(gauge == doctest::Approx(std::hypot(2, 3.3)).epsilon(1e-12));
    CHECK(cut == doctest::Approx(6).epsilon(1e-12));
    REQUIRE(mesh.points.size() == 1);
    CHECK(mesh.nodes[static_cast<std::size_t>(mesh.points[0].node)] == Vec2{{8.2, 5.1}});
    CHECK(mesh.node_of_slot.size() == mesh.nodes.size() + shared.size());
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t i = 0; i < 6; ++i)
            CHECK(mesh.node_of_slot[static_cast<std::size_t>(mesh.slots_of(e)[i])] == mesh.element(e)[i]);
    const MeshSummary s = summarise(mesh);
    CHECK(s.smallest_angle > 20);
}

TEST_CASE("a place on an interface, as far as numbers can say so, is seen from both of its sides") {
    for (const int order : {1, 2}) {
        CAPTURE(order);
        const Part part = part_from(
            "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [3, 0], [4.3, 5.1], [0, 5]]\nregion = "
            "\"a\"\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[3, 0], [9, 0.7], [9, 5], [4.3, 5.1]]\nregion = "
            "\"b\"\n");
        MeshSpec spec;
        spec.order = order;
        const Mesh mesh = generate(part, Sizing{SizeField(0.7, 0.3, 1e-3, {}), {}, {}}, 100000, spec);
        const ElementLocator locator(mesh);
        for (int k = 1; k < 300; ++k) {
            const double t = k / 300.0;
            const auto sides = locator.sides_of({{3 + 1.3 * t, 5.1 * t}}, {});
            REQUIRE(sides.size() == 2);
            CHECK(mesh.region[sides[0].element] != mesh.region[sides[1].element]);
        }
        CHECK(locator.sides_of({{3 + 1.3 * 0.5 + 1e-3, 5.1 * 0.5}}, {}).size() == 1);
    }
}

TEST_CASE("splines and joined edges are meshed along their true course") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [{ to = [10, 0] }, { to = [0, 0], spline = [[9, "
        "4], [5, 3], "
        "[1, 4]], name = \"wave\" }]\n");
    const Mesh mesh = generate(part, sizing_of(part, {}, {}), 100000);
    CHECK(mesh.measure() == doctest::Approx(part.area()).epsilon(1e-4));
    const Curve& wave = part.edge(part.edges_named({"wave"})[0]).curve;
    for (const auto& side : mesh.boundary) {
        if (!Meant(mesh, {"wave"}).side(side)) continue;
        for (const int n : side.nodes) {
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(n)];
            CHECK(distance(wave.point(wave.project(p)), p) < 1e-10);
        }
    }
    std::string corners, names;
    for (int k = 0; k <= 60; ++k)
        corners +=
            "[" + std::to_string(5 * std::cos(pi * k / 60)) + ", " + std::to_string(5 * std::sin(pi * k / 60)) + "], ";
    for (int k = 1; k <= 60; ++k) names += "side" + std::to_string(k) + " = \"arc\"" + (k < 60 ? ", " : " ");
    const std::string half =
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [" + corners + "]\nnames = { " + names + "}\n";
    const Part many = part_from(half), one = part_from(half + "[part.cleanup]\none_edge = \"arc\"\n");
    SizeSpec coarse;
    coarse.global = 2;
    const Mesh fine = generate(many, sizing_of(many, coarse, {}), 100000),
               joined = generate(one, sizing_of(one, coarse, {}), 100000);
    CHECK(joined.element_count() * 4 < fine.element_count());  // short edges force no small elements
    CHECK(joined.measure() == doctest::Approx(many.area()).epsilon(5e-3));
}

TEST_SUITE_END();
TEST_SUITE_BEGIN("solve");

TEST_CASE("a bar of two materials in a row stretches as its parts do, and its stress is even") {
    const Solved s = solved(bar);
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n) {
        const double x = s.mesh.nodes[n][0];
        const double exact = 3 * (std::min(x, 3.0) / 10 + std::max(x - 3, 0.0) / 200);
        CHECK(std::fabs(s.solution.displacement[n][0] - exact) < 1e-10);
    }
    for (const auto& r : s.recovered.slots) {
        CHECK(r[0] == doctest::Approx(3).epsilon(1e-8));
        CHECK(std::fabs(r[1]) < 1e-7);
    }
    CHECK(s.solution.strain_energy == doctest::Approx(0.5 * 6 * (0.9 + 0.075)).epsilon(1e-10));
}

TEST_CASE("stress may jump from one material to the next, and is recovered on both sides") {
    // Two layers side by side, drawn by the same strain 0.01: stress 0.1 in one and 2 in the other.
    const Solved s = solved(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 2]\nregion = \"soft\"\nnames = { left = \"left\", right = "
        "\"right\" }\n"
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, 2]\nsize = [6, 1]\nregion = \"hard\"\nnames = { left = "
        "\"left\", right = "
        "\"right\" }\n"
        "[material.foam]\non = \"soft\"\nyoungs_modulus = 10\npoissons_ratio = 0\n"
        "[material.steel]\non = \"hard\"\nyoungs_modulus = 200\npoissons_ratio = 0\n"
        "[support.hold]\non = \"left\"\nux = 0\n[support.pull]\non = \"right\"\nux = 0.06\n[support.point]\nat = [0, "
        "0]\nuy = 0\n"
        "[size]\nglobal = 0.5\n[quantity.soft]\nof = \"sxx\"\non = \"soft\"\ntake = \"maximum\"\n"
        "[quantity.hard]\nof = \"sxx\"\non = \"hard\"\ntake = \"minimum\"\n[quantity.mean]\nof = \"sxx\"\non = "
        "\"soft\"\ntake = "
        "\"mean\"\n[quantity.whole]\nof = \"sxx\"\ntake = \"mean\"\n");
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e)
        for (const auto slot : s.mesh.slots_of(e))
            CHECK(s.recovered.slots[static_cast<std::size_t>(slot)][0] ==
                  doctest::Approx(Meant(s.mesh, {"soft"}).element(e) ? 0.1 : 2).epsilon(1e-7));
    const auto q =
        evaluate_quantities(s.study, s.mesh, laws_of(s.study, s.mesh.region_names), {{s.solution, s.recovered, {}}});
    CHECK(q[0].value == doctest::Approx(0.1).epsilon(1e-7));
    CHECK(q[1].value == doctest::Approx(2).epsilon(1e-7));
    CHECK(q[2].value == doctest::Approx(0.1).epsilon(1e-7));
    CHECK(q[3].value == doctest::Approx((0.1 * 12 + 2 * 6) / 18).epsilon(1e-7));
    const auto error = estimate_error(s.mesh, laws_of(s.study, s.mesh.region_names), s.solution, s.recovered);
    CHECK(error.relative() < 1e-6);  // no error is seen where the exact stress jumps
}

TEST_CASE("a load on an edge with material on both sides acts once") {
    const std::string inner = bar + "[load.middle]\non = \"soft_and_hard\"\ntraction = [1, 0]\n";
    const Solved s = solved(inner);
    CHECK(s.solution.loads[1].force[0] == doctest::Approx(2).epsilon(1e-12));
    CHECK(s.solution.balance.relative_error < 1e-10);
    const Solved held = solved(bar + "[support.middle]\non = \"soft_and_hard\"\nux = 0.1\n");
    double reaction = 0;
    for (const auto& r : held.solution.reactions)
        if (r.name == "middle") reaction = r.force[0];
    CHECK(reaction == doctest::Approx(0.1 / 3 * 10 * 2 - 6).epsilon(1e-8));
}

TEST_CASE("two rings of different materials under pressure follow Lame's solution") {
    // Plane strain; inner ring 1..2 with E = 3, outer ring 2..4 with E = 1, both nu = 0.25, pressure 1 inside.
    const Solved s = solved(
        "[part]\nplane = \"strain\"\n"
        "[[part.shape]]\nadd = \"circle\"\nradius = 4\nregion = \"outer\"\n"
        "[[part.shape]]\nadd = \"circle\"\nradius = 2\nregion = \"inner\"\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 1\nname = \"bore\"\n"
        "[[part.shape]]\nintersect = \"rectangle\"\nsize = [5, 5]\nnames = { left = \"left\", bottom = \"bottom\" }\n"
        "[material.a]\non = \"inner\"\nyoungs_modulus = 3\npoissons_ratio = 0.25\n"
        "[material.b]\non = \"outer\"\nyoungs_modulus = 1\npoissons_ratio = 0.25\n"
        "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\non = \"bottom\"\nhold = \"symmetry\"\n"
        "[load.p]\non = \"bore\"\npressure = 1\n[size]\nglobal = 0.15\n");
    // u = A r + B / r in each ring; interface pressure q from equal displacement at r = 2 (Timoshenko & Goodier, art.
    // 28).
    const auto radial = [](double e, double a, double b, double pa, double pb, double r) {
        const double nu = 0.25, d = b * b - a * a;
        return (1 + nu) / e * ((1 - 2 * nu) * (pa * a * a - pb * b * b) / d * r + (pa - pb) * a * a * b * b / (d * r));
    };
    double low = 0, high = 1;
    for (int k = 0; k < 60; ++k) {
        const double q = 0.5 * (low + high);
        (radial(3, 1, 2, 1, q, 2) > radial(1, 2, 4, q, 0, 2) ? low : high) = q;
    }
    const double q = 0.5 * (low + high);
    for (const auto& [r, exact] : {std::pair{1.0, radial(3, 1, 2, 1, q, 1)}, std::pair{4.0, radial(1, 2, 4, q, 0, 4)}})
        for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n)
            if (std::fabs(norm(s.mesh.nodes[n]) - r) < 1e-9)
                CHECK(norm(s.solution.displacement[n]) == doctest::Approx(exact).epsilon(2e-4));
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e)  // radial stress at the interface is -q on both sides
        for (const auto slot : s.mesh.slots_of(e)) {
            const auto n = static_cast<std::size_t>(s.mesh.node_of_slot[static_cast<std::size_t>(slot)]);
            const Vec2& p = s.mesh.nodes[n];
            if (std::fabs(norm(p) - 2) > 1e-9) continue;
            const Vec2 d = p / norm(p);
            const Stress& t = s.recovered.slots[static_cast<std::size_t>(slot)];
            const double normal = t[0] * d[0] * d[0] + t[1] * d[1] * d[1] + 2 * t[2] * d[0] * d[1];
            CHECK(normal == doctest::Approx(-q).epsilon(0.02));
        }
}

TEST_SUITE_END();
