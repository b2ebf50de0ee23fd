#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "base/errors.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/supports.hpp"
#include "solve/solve.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Solved {
    Study study;
    Part part;
    Mesh mesh;
    Solution solution;
};

Solved solve(const std::string& text) {
    Solved s;
    s.study = study_from(text);
    Problems problems("test.toml");
    s.part = build_part(s.study, problems).part;
    REQUIRE(problems.empty());
    s.mesh = generate(s.part, sizing_of(s.part, s.study.sizes, s.study.path), 100000);
    s.solution = solve_study(s.mesh, s.study);
    return s;
}

const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = \"right\", top = \"top\", "
    "bottom = \"bottom\" }\n";
const std::string steel = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n";
const std::string hole = "[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1]\nradius = 0.4\nname = \"hole\"\n";

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("patch test: a linear displacement on the rim gives constant stress everywhere") {
    for (const std::string plane : {"stress", "strain"}) {
        const auto s = solve("format = 1\n[part]\nplane = \"" + plane + "\"\n" + plate + hole + steel +
                             "[support.all]\non = [\"left\", \"right\", \"top\", \"bottom\", \"hole\"]\nux = \"0.01 * "
                             "x - 0.003 * y\"\nuy = \"0.002 * x + 0.005 * y\"\n"
                             "[load.none]\non = \"top\"\npressure = 0\n[size]\nglobal = 0.5\n");
        const ElasticLaw law = elastic_law(s.study.materials[0], s.study.plane);
        const Stress exact = law.stress({0.01, 0.005, -0.001});
        double worst = 0;
        for (std::size_t e = 0; e < s.mesh.element_count(); ++e) {
            for (const auto& q : triangle_rule(4)) {
                const ElementPoint p = evaluate(s.mesh.kinds[e], s.mesh.positions(e), q.xi);
                const Stress stress = law.stress(strain_at(s.mesh, s.study.plane, s.solution.displacement, {}, e, p));
                for (std::size_t c = 0; c < 3; ++c) worst = std::max(worst, std::fabs(stress[c] - exact[c]));
            }
        }
        CHECK(worst < 1e-10 * 10);  // stresses are of the size of 10
        CHECK(s.solution.strain_energy ==
              doctest::Approx(0.5 * law.energy_norm2(exact) * s.mesh.measure()).epsilon(1e-10));
    }
}

TEST_CASE("a bar in tension: stress, lengthening, contraction, reactions, balance") {
    const auto s = solve("format = 1\n[part]\nthickness = 0.5\n" + plate + steel +
                         "[support.wall]\non = \"left\"\nux = 0\n[support.floor]\non = \"bottom\"\nhold = "
                         "\"symmetry\"\n[load.pull]\non = \"right\"\nforce = [30, 0]\n[size]\nglobal = 0.7\n");
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n) {
        CHECK(s.solution.displacement[n][0] == doctest::Approx(0.03 * s.mesh.nodes[n][0]).epsilon(1e-9));
        CHECK(s.solution.displacement[n][1] == doctest::Approx(-0.009 * s.mesh.nodes[n][1]).epsilon(1e-9));
    }
    CHECK(s.solution.reactions[0].force[0] == doctest::Approx(-30));
    CHECK(s.solution.reactions[1].force[1] == doctest::Approx(0).epsilon(1e-9));
    CHECK(s.solution.loads[0].force[0] == doctest::Approx(30));
    CHECK(s.solution.loads[0].moment[2] == doctest::Approx(-30));
    CHECK(s.solution.loads[0].boundary_area == doctest::Approx(1));
    CHECK(s.solution.balance.relative_error < 1e-9);
    CHECK(s.solution.strain_energy == doctest::Approx(0.5 * 30 * 0.12).epsilon(1e-9));
}

TEST_CASE("pure bending: quadratic elements give the exact solution") {
    const auto s = solve("format = 1\n[part]\n" + plate + steel +
                         "[support.wall]\non = \"left\"\nux = 0\n[support.pin]\nat = [0, 0]\nuy = 0\n[load.moment]\non "
                         "= \"right\"\ntraction = [\"12 * (y - 1)\", 0]\n[size]\nglobal = 0.6\n");
    const double k = 12.0 / 1000;  // curvature
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n) {
        const double x = s.mesh.nodes[n][0], y = s.mesh.nodes[n][1] - 1;
        CHECK(s.solution.displacement[n][0] == doctest::Approx(k * x * y).epsilon(1e-8).scale(0.01));
        CHECK(s.solution.displacement[n][1] ==
              doctest::Approx(-k / 2 * (x * x + 0.3 * (y * y - 1))).epsilon(1e-8).scale(0.01));
    }
}

TEST_CASE("symmetry on an inclined side holds its normal direction only") {
    const auto s = solve(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [3, 0], [2, 2]]\nnames = { side1 = "
        "\"floor\", side2 = \"load\", side3 = \"slope\" }\n" +
        steel +
        "[support.floor]\non = \"floor\"\nhold = \"symmetry\"\n[support.slope]\non = \"slope\"\nhold = "
        "\"symmetry\"\n[load.p]\non = \"load\"\npressure = 5\n[size]\nglobal = 0.4\n");
    for (const auto& b : s.mesh.boundary) {
        for (const int n : b.nodes) {
            const Vec2 u = s.solution.displacement[static_cast<std::size_t>(n)];
            if (Meant(s.mesh, {"slope"}).side(b)) CHECK(std::fabs(u[0] - u[1]) < 1e-14);
            if (Meant(s.mesh, {"floor"}).side(b)) CHECK(u[1] == 0);
        }
    }
    const Vec2 r = in_plane(s.solution.reactions[1].force);
    CHECK(r[0] == doctest::Approx(-r[1]));  // square to the slope
    CHECK(s.solution.strain_energy > 0);
    CHECK(s.solution.balance.relative_error < 1e-9);
}

TEST_CASE("loads: pressure, spread forces and traction sum to what they must") {
    const auto s = solve("format = 1\n[part]\nthickness = 2\n" + plate + hole + steel +
                         "[support.wall]\non = \"left\"\nhold = \"fixed\"\n" +
                         "[load.blow]\non = \"hole\"\npressure = 3\n[load.pin]\non = \"hole\"\nforce = [7, -2]\nspread "
                         "= \"max(0, cos(theta))\"\nabout = [2, 1]\n"
                         "[load.shear]\non = \"right\"\ntraction = [0, \"y\"]\n[load.half]\non = \"top\"\npressure = "
                         "\"x\"\n[size]\nglobal = 0.3\n");
    const auto& l = s.solution.loads;
    CHECK(norm(l[0].force) < 1e-10);
    CHECK(l[0].boundary_area == doctest::Approx(2 * 2 * 3.14159265358979 * 0.4).epsilon(1e-4));
    CHECK(l[1].force[0] == doctest::Approx(7));
    CHECK(l[1].force[1] == doctest::Approx(-2));
    CHECK(l[2].force[1] == doctest::Approx(2 * 2.0));
    CHECK(l[3].force[1] == doctest::Approx(-2 * 8.0));
    CHECK(l[3].moment[2] == doctest::Approx(-2 * 64.0 / 3));
    CHECK(s.solution.balance.relative_error < 1e-9);
}

TEST_CASE("impossible supports and loads are told") {
    const auto base = "format = 1\n[part]\n" + plate + steel;
    CHECK_THROWS_WITH_AS(solve(base + "[support.a]\non = \"left\"\nux = 0\nuy = 0\n[support.b]\non = \"bottom\"\nuy = "
                                      "1\n[load.l]\non = \"right\"\npressure = 1\n"),
                         doctest::Contains("support.a and support.b contradict each other"), InputError);
    CHECK_NOTHROW(solve(base + "[support.a]\non = \"left\"\nhold = \"fixed\"\n[support.b]\non = \"bottom\"\nuy = \"0 * "
                               "x\"\n[load.l]\non = \"right\"\npressure = 1\n"));
    CHECK_THROWS_WITH_AS(solve(base + "[support.a]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"right\"\nforce = "
                                      "[1, 0]\nspread = \"y - 1\"\n"),
                         doctest::Contains("sums to zero"), InputError);
    CHECK_THROWS_WITH_AS(solve(base + "[support.a]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = "
                                      "\"right\"\npressure = \"1 / (y - 1)\"\n[size]\nglobal = 2\n"),
                         doctest::Contains("no finite number"), InputError);
    CHECK_THROWS_AS(solve(base + "[support.a]\non = \"left\"\nux = 0\n[load.l]\non = \"right\"\ntraction = [0, 1]\n"),
                    SolveError);  // slides: singular
}

TEST_CASE("nearly incompressible plane strain: the volume stays, quadratic elements do not lock") {
    const auto s = solve("format = 1\n[part]\nplane = \"strain\"\n" + plate +
                         "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.4999\n"
                         "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[load.shear]\non = \"right\"\ntraction = "
                         "[0, -1e-4]\n[size]\nglobal = 0.4\n");
    const auto finer = solve("format = 1\n[part]\nplane = \"strain\"\n" + plate +
                             "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.4999\n"
                             "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[load.shear]\non = \"right\"\ntraction "
                             "= [0, -1e-4]\n[size]\nglobal = 0.1\n");
    CHECK(s.solution.strain_energy == doctest::Approx(finer.solution.strain_energy).epsilon(0.02));
}

TEST_CASE("material laws invert, and derived stresses are right") {
    for (const Plane plane : {Plane::stress, Plane::strain}) {
        MaterialSpec material;
        material.youngs_modulus = 210;
        material.poissons_ratio = 0.3;
        const ElasticLaw law = elastic_law(material, plane);
        const Strain strain{0.1, -0.2, 0.3, 0};
        const Stress stress = law.stress(strain);
        CHECK(law.energy_norm2(stress) ==
              doctest::Approx(stress[0] * strain[0] + stress[1] * strain[1] + stress[2] * strain[2]));
        const Strain back = law.strain(stress);
        for (std::size_t c = 0; c < 3; ++c) CHECK(back[c] == doctest::Approx(strain[c]));
        CHECK(back[3] == doctest::Approx(plane == Plane::stress ? 0.3 / 0.7 * 0.1 : 0));
    }
    CHECK(von_mises(Stress{100, 0, 0, 0}) == doctest::Approx(100));
    CHECK(von_mises(Stress{0, 0, 50, 0}) == doctest::Approx(50 * std::sqrt(3)));
    CHECK(von_mises(Stress{10, 10, 0, 6}) == doctest::Approx(4));
    CHECK(principal(Stress{30, -10, 15, 0})[0] == doctest::Approx(35));
    CHECK(principal(Stress{30, -10, 15, 0})[1] == doctest::Approx(-15));
}

TEST_CASE("the sparse solver: known solution, residual, and an indefinite matrix") {
    SymmetricMatrix a;  // a chain of springs
    a.size = 50;
    a.column_first = {0};
    for (int j = 0; j < a.size; ++j) {
        a.row.push_back(j);
        a.value.push_back(j + 1 < a.size ? 2 : 1);
        if (j + 1 < a.size) {
            a.row.push_back(j + 1);
            a.value.push_back(-1);
        }
        a.column_first.push_back(static_cast<std::int32_t>(a.row.size()));
    }
    SymmetricMatrix graph = a;
    graph.value.clear();
    const auto order = fill_reducing_order(graph, OrderMethod::minimum_degree);
    const auto solver = make_direct_solver();
    solver->factor(a, order);
    std::vector<double> x(50), b(50);
    for (std::size_t i = 0; i < 50; ++i) x[i] = std::sin(static_cast<double>(i));
    a.multiply(x, b);
    const auto y = solver->solve(b);
    for (std::size_t i = 0; i < 50; ++i) CHECK(y[i] == doctest::Approx(x[i]).epsilon(1e-11));
    CHECK(solver->report().residual < 1e-15);
    a.value[0] = -5;
    const auto other = make_direct_solver();
    CHECK_THROWS_AS(other->factor(a, order), SolveError);
    CHECK(other->bad_unknown() >= 0);
}

TEST_CASE("points on boundary sides: lengths and outward normals of a circle") {
    const Part part = part_from("[[part.shape]]\nadd = \"circle\"\nradius = 2\n");
    SizeSpec sizes;
    sizes.global = 0.3;
    const Mesh mesh = generate(part, sizing_of(part, sizes, {}), 10000);
    double length = 0;
    for (const auto& b : mesh.boundary)
        for (const auto& p : side_points(mesh, b)) {
            length += p.length;
            CHECK(dot(p.normal, p.position) / norm(p.position) == doctest::Approx(1).epsilon(1e-3));
        }
    CHECK(length == doctest::Approx(4 * 3.14159265358979).epsilon(1e-5));
}

TEST_SUITE_END();
