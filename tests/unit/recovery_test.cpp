#include <doctest/doctest.h>

#include <cmath>

#include "base/errors.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/estimate.hpp"
#include "recovery/fit/constrained_fit.hpp"
#include "recovery/recover.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "sizes/part_sizes.hpp"
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
    Laws laws;
    RecoveredStress recovered;
    ErrorMap error;
};

Solved solve(const std::string& text, double finer = 1) {
    Solved s;
    s.study = study_from(text);
    Problems problems("test.toml");
    s.part = build_part(s.study, problems).part;
    s.mesh = generate(s.part, sizing_of(s.part, s.study.sizes, s.study.path).scaled(1 / finer), 100000);
    s.solution = solve_study(s.mesh, s.study);
    s.laws = laws_of(s.study, s.mesh.region_names);
    s.recovered = recover_stress(s.mesh, s.study, s.laws, s.solution);
    s.error = estimate_error(s.mesh, s.laws, s.solution, s.recovered);
    return s;
}

/// Pure bending of a beam: the stress is 12 (y - 1), the displacement quadratic.
const std::string bending =
    "format = 1\n[part]\nthickness = 3\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", "
    "right = \"right\", top = \"top\", bottom = \"bottom\" }\n"
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nux = "
    "0\n[support.pin]\nat = [0, 0]\nuy = 0\n"
    "[load.moment]\non = \"right\"\ntraction = [\"12 * (y - 1)\", 0]\n[size]\nglobal = 0.6\n";

/// A ring under outside pressure; Lame's solution.
const std::string ring =
    "format = 1\n[variables]\na = 1\nb = 2\np = 10\nk = \"-p * b^2 / (b^2 - a^2)\"\nsr = \"k * (1 - a^2 / r^2)\"\nst = "
    "\"k * (1 + a^2 / r^2)\"\n[part]\n"
    "[[part.shape]]\nadd = \"circle\"\nradius = \"b\"\nname = \"outer\"\n[[part.shape]]\ncut = \"circle\"\nradius = "
    "\"a\"\nname = \"inner\"\n"
    "[[part.shape]]\ncut = \"rectangle\"\ncorner = [-3, -3]\nsize = [3, 6]\nname = \"y_axis\"\n[[part.shape]]\ncut = "
    "\"rectangle\"\ncorner = [-1, -3]\nsize = [6, 3]\nname = \"x_axis\"\n"
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.x]\non = \"x_axis\"\nhold = "
    "\"symmetry\"\n[support.y]\non = \"y_axis\"\nhold = \"symmetry\"\n"
    "[load.p]\non = \"outer\"\npressure = \"p\"\n[size]\nglobal = 0.25\n"
    "[exact_stress]\nsxx = \"sr * cos(theta)^2 + st * sin(theta)^2\"\nsyy = \"sr * sin(theta)^2 + st * "
    "cos(theta)^2\"\nsxy = \"(sr - st) * sin(theta) * cos(theta)\"\n";

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("errors of two physics add up as squares of relative ones, and a true error is relative by its root") {
    ErrorMap a, b;
    a.element_error2 = {0.25, 0.75};
    a.error2 = 1;
    a.energy2 = 3;
    b.element_error2 = {0.5, 0};
    b.error2 = 0.5;
    b.energy2 = 1.5;
    const ErrorMap both = combined(a, b);
    CHECK(both.relative() == doctest::Approx(std::sqrt(1.0 / 4 + 0.5 / 2)));
    CHECK(both.element_error2[0] == doctest::Approx(0.25 / 4 + 0.5 / 2));
    CHECK(both.element_error2[1] == doctest::Approx(0.75 / 4));
    CHECK(combined(a, ErrorMap{{0, 0}, 0, 0}).error2 == 1);
    TrueError known;
    known.error2 = 0.04;
    known.energy2 = 4;
    CHECK(known.relative() == doctest::Approx(0.1));
}

TEST_CASE("what lies near a node counts for the polynomial round it") {
    // A field that no parabola follows: the slope at the centre is the better, the less far values count.
    FitInput in;
    in.scale = 3;
    in.reach = 0.5;
    in.degree = 2;
    for (int i = -6; i <= 6; ++i)
        for (int j = -2; j <= 2; ++j) {
            const Vec2 p{{i / 2.0, j / 2.0}};
            in.nodes.push_back({p, {}, std::exp(p[0])});
        }
    Laws laws;
    laws.regions.resize(1);
    laws.regions[0].conduction = conduction_law([] {
        MaterialSpec m;
        m.conductivity = {{1, 1, 1}};
        return m;
    }());
    CHECK(fit_gradient(laws, in).at({{0, 0}})[0] == doctest::Approx(1).epsilon(0.2));  // 2.5 if all count alike
}

TEST_CASE("a stress field that the elements hold exactly is recovered exactly, with no error left") {
    const auto s = solve(bending);
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n) {
        CHECK(s.recovered.slots[n][0] == doctest::Approx(12 * (s.mesh.nodes[n][1] - 1)).epsilon(1e-7).scale(12));
        CHECK(std::fabs(s.recovered.slots[n][1]) < 1e-6);
    }
    CHECK(s.error.relative() < 1e-7);
    CHECK(s.error.energy2 == doctest::Approx(2 * s.solution.strain_energy));
}

TEST_CASE("recovered stresses converge faster than the elements' own; the estimate finds the true error") {
    double before_true = 0, before_nodal = 0;
    for (const double finer : {4.0, 8.0}) {
        const auto s = solve(ring, finer);
        const TrueError truth = true_error(s.mesh, s.laws, s.solution, *s.study.exact_stress, "test.toml");
        CHECK(truth.energy2 == doctest::Approx(s.error.energy2).epsilon(1e-4));
        CHECK(std::sqrt(s.error.error2 / truth.error2) == doctest::Approx(1).epsilon(0.05));
        double worst = 0;
        for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n) {
            const double r = norm(s.mesh.nodes[n]);
            worst = std::max(worst, std::fabs(s.recovered.slots[n][0] + s.recovered.slots[n][1] +
                                              2 * 10 * 4 / 3.0));  // sum of stresses is constant
            CHECK(r > 0.99);
        }
        if (before_true > 0) {
            CHECK(before_true / truth.relative() > 3.3);  // second order
            CHECK(before_nodal / worst > 2.3);            // even at the worst node
            CHECK(worst < 2e-4 * 2 * 10 * 4 / 3.0);
        }
        before_true = truth.relative();
        before_nodal = worst;
    }
}

TEST_CASE("a mesh of a few elements is recovered without a fault") {
    const auto s = solve(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1, 0], [0, 1]]\nnames = { side1 = "
        "\"left\", side2 = \"right\" }\n" +
        rest_of_study() + "[size]\nglobal = 5\n");
    CHECK(s.mesh.element_count() == 1);
    for (const auto& r : s.recovered.slots)
        for (const double v : r) CHECK(std::isfinite(v));
}

TEST_CASE("size factors reach the wanted error with the fewest elements") {
    const std::vector<double> e2{1.0, 0.01, 1e-4, 0.3};
    const double wanted = 0.02;
    const auto f = factors_for_error(e2, wanted, 2, 2).factor;
    const auto after = [&](const std::vector<double>& g) {
        double error = 0, count = 0;
        for (std::size_t i = 0; i < e2.size(); ++i) {
            error += e2[i] * std::pow(g[i], 4);
            count += std::pow(g[i], -2);
        }
        return std::pair(error, count);
    };
    CHECK(after(f).first == doctest::Approx(wanted));
    // any shift between two elements that keeps the error costs elements
    for (const double shift : {0.98, 1.02}) {
        auto g = f;
        g[0] *= shift;
        const double spare = wanted - e2[0] * std::pow(g[0], 4) - e2[1] * std::pow(g[1], 4) - e2[2] * std::pow(g[2], 4);
        g[3] = std::pow(spare / e2[3], 0.25);
        CHECK(after(g).first == doctest::Approx(wanted));
        CHECK(after(g).second > after(f).second);
    }
    CHECK(std::isinf(factors_for_error({0, 0}, 1, 2, 2).factor[0]));
}

TEST_CASE("the next sizes follow the error within their limits") {
    const auto s = solve(ring);
    ResizeLimits limits;
    limits.smallest = 0.01;
    limits.largest = 0.5;
    const SizeField next =
        resize(s.mesh, factors_for_error(s.error.element_error2, s.error.error2 / 16, 2, 2).factor, limits);
    CHECK(next.at({{1.0 / std::sqrt(2.0), 1.0 / std::sqrt(2.0)}}) <
          next.at({{1.9 / std::sqrt(2.0), 1.9 / std::sqrt(2.0)}}));
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e) {
        const auto p = s.mesh.positions(e);
        const double h = next.at((p[0] + p[1] + p[2]) / 3);
        CHECK(h >= 0.01);
        CHECK(h <= 0.5);
    }
    const Mesh finer = generate(s.part, {next}, 100000);
    const Solution solution = solve_study(finer, s.study);
    const auto recovered = recover_stress(finer, s.study, s.laws, solution);
    const double reached = estimate_error(finer, s.laws, solution, recovered).relative();
    CHECK(reached < s.error.relative() / 3);
    CHECK(reached > s.error.relative() / 8);
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("quantities");

TEST_CASE("every kind of quantity on a bent beam") {
    const auto s = solve(bending +
                         "[quantity.top]\nof = \"sxx\"\non = \"top\"\n[quantity.low]\nof = \"sxx\"\ntake = "
                         "\"minimum\"\n[quantity.mises]\nof = \"von_mises\"\n"
                         "[quantity.point]\nof = \"ux\"\nat = [3, 1.5]\n[quantity.corner]\nof = \"uy\"\nat = [4, "
                         "2]\n[quantity.mean_top]\nof = \"sxx\"\ntake = \"mean\"\non = \"top\"\n"
                         "[quantity.mean]\nof = \"sxx\"\ntake = \"mean\"\n[quantity.p1]\nof = "
                         "\"max_principal\"\n[quantity.p2]\nof = \"min_principal\"\ntake = \"minimum\"\n"
                         "[quantity.energy]\nof = \"strain_energy\"\n[quantity.pull]\nof = \"reaction_x\"\non = "
                         "\"wall\"\n[quantity.all]\nof = \"reaction_y\"\n"
                         "[quantity.ratio]\nformula = \"top / energy\"\n[quantity.twice]\nformula = \"2 * ratio\"\n");
    const auto q =
        evaluate_quantities(s.study, s.mesh, laws_of(s.study, s.mesh.region_names), {{s.solution, s.recovered, {}}});
    const std::vector<double> expected{
        12, -12, 12, 0.012 * 3 * 0.5, -0.006 * 16, 12, 0, 12, -12, 0.5 * 144 / 1000 * (2.0 / 3) * 4 * 3, 0, 0};
    for (std::size_t i = 0; i < expected.size(); ++i) {
        CAPTURE(q[i].name);
        CHECK(q[i].value == doctest::Approx(expected[i]).epsilon(1e-6).scale(1));
    }
    CHECK(q[12].value == doctest::Approx(q[0].value / q[9].value));
    CHECK(q[13].value == doctest::Approx(2 * q[12].value));
    REQUIRE(q[1].position);
    CHECK((*q[1].position)[1] == 0);
    REQUIRE(q[0].position);
    CHECK((*q[0].position)[1] == doctest::Approx(2));
    CHECK(q[11].scale > 1);  // the moment's forces, though their sum vanishes
}

TEST_CASE("a quantity on the named region is one on the whole part") {
    const auto s = solve(bending +
                         "[quantity.a]\nof = \"sxx\"\n[quantity.b]\nof = \"sxx\"\non = \"part\"\n[quantity.c]\nof = "
                         "\"sxx\"\non = \"right\"\ntake = \"mean\"\n");
    const auto q =
        evaluate_quantities(s.study, s.mesh, laws_of(s.study, s.mesh.region_names), {{s.solution, s.recovered, {}}});
    CHECK(q[0].value == q[1].value);
    CHECK(std::fabs(q[2].value) < 1e-6);
}

TEST_CASE("a derived quantity that is no number is told with its line") {
    const auto s =
        solve(bending + "[quantity.zero]\nof = \"reaction_y\"\n[quantity.bad]\nformula = \"1 / (zero - zero)\"\n");
    CHECK_THROWS_WITH_AS((void)evaluate_quantities(s.study, s.mesh, laws_of(s.study, s.mesh.region_names),
                                                   {{s.solution, s.recovered, {}}}),
                         doctest::Contains("quantity.bad"), InputError);
}

TEST_SUITE_END();
