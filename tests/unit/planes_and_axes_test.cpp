// Axes that cuts leave, planes of symmetry, normals of curves, both sides of an interface: places where a model is
// easily not what it looks like, each on a part with a known answer.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "solve/singular/singular_points.hpp"
#include "support/solved.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A ball of radius 2 under pressure 1; `cut` makes it from a circle, `more` supports it.
SolvedCases ball(const std::string& cut, const std::string& more, const std::string& mesh) {
    return solve_cases_of(
        "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"circle\"\nradius = 2\nname = \"surface\"\n" + cut +
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[load.p]\non = \"surface\"\npressure = 1\n" + more +
        mesh + "[quantity.mises]\nof = \"von_mises\"\n[quantity.centre]\nof = \"sxx\"\nat = [0, 0]\n");
}

std::string mesh_of(const std::string& elements, int order) {
    return fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n[size]\nglobal = 0.5\n", elements, order);
}

std::vector<SingularPoint> singular(const std::string& text) {
    Problems problems("test.toml");
    const auto both = open_study("test.toml", "format = 1\n" + text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return singular_points(both.part, both.study);
}

/// A wedge of this angle at the origin, its sides "a" (along x) and "b", held as said.
std::string wedge(double degrees, const std::string& a, const std::string& b, double nu = 0.3) {
    const double t = degrees * std::numbers::pi / 180;
    return fmt::format(
        "[part]\nplane = \"strain\"\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [{:.17g}, {:.17g}], "
        "[{:.17g}, {:.17g}]]\nnames = {{ side1 = \"a\", side4 = \"b\", side2 = \"far\" "
        "}}\n[material.m]\nyoungs_modulus = "
        "1000\npoissons_ratio = {}\n[support.a]\non = \"a\"\nhold = \"{}\"\n[support.b]\non = \"b\"\nhold = "
        "\"{}\"\n[load.l]\non = \"far\"\npressure = 1\n",
        2.5 * std::cos(t / 2), 2.5 * std::sin(t / 2), 2 * std::cos(t), 2 * std::sin(t), nu, a, b);
}

double exponent_at_origin(const std::string& text) {
    for (const auto& p : singular(text))
        if (norm(p.position) < 1e-9) return p.exponent;
    return 1;
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("a solid ball under pressure has no deviator, however its axis was made") {
    const std::string half = "[[part.shape]]\nintersect = \"rectangle\"\ncorner = [0, -3]\nsize = [3, 6]\n",
                      named =
                          "[[part.shape]]\nintersect = \"rectangle\"\ncorner = [0, -3]\nsize = [3, 6]\nnames = { left "
                          "= \"axis\" }\n",
                      cut = "[[part.shape]]\ncut = \"rectangle\"\ncorner = [-3, -3]\nsize = [3, 6]\n",
                      quarter =
                          "[[part.shape]]\nintersect = \"rectangle\"\nsize = [3, 3]\nnames = { bottom = \"floor\" }\n";
    const std::string pin = "[support.pin]\nat = [0, -2]\nuy = 0\n",
                      on_axis = pin + "[support.axis]\non = \"axis\"\nhold = \"symmetry\"\n",
                      on_floor = "[support.floor]\non = \"floor\"\nhold = \"symmetry\"\n";
    for (const auto& mesh : {mesh_of("triangles", 1), mesh_of("triangles", 2), mesh_of("quadrilaterals", 2)})
        for (const auto& [shape, support] :
             {std::pair(half, pin), std::pair(named, on_axis), std::pair(cut, pin), std::pair(quarter, on_floor)}) {
            CAPTURE(mesh);
            CAPTURE(shape);
            const auto s = ball(shape, support, mesh);
            // Straight sides make a polygon, which is no ball; parabolic ones nearly are.
            const double off = mesh.find("order = 1") != std::string::npos ? 0.05 : 2e-3;
            CHECK(s.value("mises") < off);
            CHECK(s.value("centre") == doctest::Approx(-1).epsilon(off));
            for (const Vec2& p : s.mesh.nodes) CHECK((p[0] == 0 || p[0] > 1e-6));
        }
    const std::string pushed =
        "format = 1\n[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nnames = { "
        "left = \"axis\", right = \"r\" }\n[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[support.s]\non = "
        "\"axis\"\nux = 0.1\nuy = 0\n[load.l]\non = \"r\"\npressure = 1\n";
    CHECK_THROWS_WITH_AS((void)solve_cases_of(pushed.substr(11)), doctest::Contains("axis of revolution"), InputError);
}

TEST_CASE("a quarter of a heated tube with free ends: mirror planes hold the tilt") {
    // Hot inside, cold outside (Timoshenko & Goodier 1970, art. 151): at the bore sz = st = -E a dT / (2 (1 - nu) ln
    // b/a) (...)
    const double m = 1000 * 1e-3 * 100 / (2 * 0.7 * std::log(2.0)),
                 exact = m * (1 - 2 * std::log(2.0) - 2.0 / 3 * std::log(2.0));
    const std::string heat =
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = 0.001\nconductivity = "
        "1\n[support.hot]\non = "
        "\"inside\"\npotential = 100\n[support.cold]\non = \"outside\"\npotential = 0\n[size]\nglobal = "
        "0.25\n[quantity.axial]\nof = "
        "\"szz\"\ntake = \"minimum\"\non = \"inside\"\n";
    const std::string ring =
        "[part]\nplane = \"generalised_strain\"\n[[part.shape]]\nadd = \"circle\"\nradius = 2\nname = \"outside\"\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 1\nname = \"inside\"\n";
    const auto whole = solve_cases_of(
        ring +
        "[[part.shape]]\nmark = \"point\"\nat = [1.5, 0]\nname = \"p\"\n[[part.shape]]\nmark = "
        "\"point\"\nat = [-1.5, 0]\nname = \"q\"\n[support.p]\nat = \"p\"\nux = 0\nuy = 0\n[support.q]\nat = "
        "\"q\"\nuy = 0\n" +
        heat);
    CHECK(whole.value("axial") == doctest::Approx(exact).epsilon(0.01));
    const auto quarter = solve_cases_of(
        ring +
        "[[part.shape]]\nintersect = \"rectangle\"\nsize = [2, 2]\nnames = { left = \"x_zero\", bottom = "
        "\"y_zero\" }\n[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = "
        "\"y_zero\"\nhold = \"symmetry\"\n" +
        heat);
    CHECK(quarter.value("axial") == doctest::Approx(exact).epsilon(0.01));
    CHECK(norm(quarter.solution().axial.tilt) < 1e-12);
}

TEST_CASE("a boundary that is held along its normal slides along its curve, not along chords") {
    // Turned about its middle as a whole by what is prescribed outside, a ring has no stress.
    for (const int order : {1, 2}) {
        const auto s = solve_cases_of(fmt::format(
            "[part]\n[[part.shape]]\nadd = \"circle\"\nradius = 2\nname = \"outside\"\n[[part.shape]]\ncut = "
            "\"circle\"\nradius "
            "= 1\nname = \"inside\"\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.slides]\non = "
            "\"inside\"\nnormal = 0\n[support.turned]\non = \"outside\"\nux = \"-0.01 * y\"\nuy = \"0.01 * "
            "x\"\n[size]\nglobal = "
            "0.6\nsegments_per_circle = 12\n[mesh]\norder = {}\n[quantity.mises]\nof = \"von_mises\"\n",
            order));
        CAPTURE(order);
        CHECK(s.value("mises") < 1e-6);  // E times the turn is 10
    }
}

TEST_CASE("corners between supports are asked for: their exponents are those of the mirrored body") {
    // Two mirror planes that meet at an angle w are a body that is free of corners only if w divides 180 degrees.
    CHECK(exponent_at_origin(wedge(90, "symmetry", "symmetry")) == 1);
    CHECK(exponent_at_origin(wedge(60, "symmetry", "symmetry")) == 1);
    CHECK(exponent_at_origin(wedge(100, "symmetry", "symmetry")) == doctest::Approx(0.80).epsilon(0.01));
    CHECK(exponent_at_origin(wedge(120, "symmetry", "symmetry")) == doctest::Approx(0.50).epsilon(0.01));
    CHECK(exponent_at_origin(wedge(135, "symmetry", "symmetry")) == doctest::Approx(1.0 / 3).epsilon(0.01));
    CHECK(exponent_at_origin(wedge(60, "symmetry", "antisymmetry")) == doctest::Approx(0.50).epsilon(0.01));
    CHECK(exponent_at_origin(wedge(90, "fixed", "fixed")) == 1);
    CHECK(exponent_at_origin(wedge(135, "fixed", "fixed")) == 1);  // an outer corner of what is held all round
    const auto found = singular(wedge(135, "symmetry", "symmetry"));
    const auto here =
        std::find_if(found.begin(), found.end(), [](const SingularPoint& p) { return norm(p.position) < 1e-9; });
    REQUIRE(here != found.end());
    CHECK(here->cause == "a corner of 135° between two supports");
}

TEST_CASE("nearly incompressible bodies that mirror planes cut have no singular places") {
    for (const double nu : {0.3, 0.49, 0.499, 0.4999, 0.499999}) {
        CAPTURE(nu);
        CHECK(exponent_at_origin(wedge(90, "symmetry", "symmetry", nu)) == 1);
        CHECK(exponent_at_origin(wedge(45, "symmetry", "symmetry", nu)) == 1);
        // And what is singular stays so: with nu near 1/2 the end of a fixed support at a right angle.
        CHECK(exponent_at_origin(wedge(120, "symmetry", "symmetry", nu)) == doctest::Approx(0.5).epsilon(0.02));
    }
}

TEST_CASE("both sides of an interface are seen, whichever stands first, and one can be chosen") {
    // Layers pulled along their interface: stress 1 in one, 10 in the other.
    const auto layers = [](bool soft_first, const std::string& inside) {
        const std::string
            soft =
                "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nregion = \"soft\"\nnames = { bottom = \"floor\", "
                "left = \"left\", right = \"right\" }\n",
            stiff =
                "[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, 1]\nsize = [4, 1]\nregion = \"stiff\"\nnames = { "
                "left = \"left\", right = \"right\" }\n";
        return solve_cases_of("[part]\n" + (soft_first ? soft + stiff : stiff + soft) +
                              "[material.soft]\non = \"soft\"\nyoungs_modulus = "
                              "100\npoissons_ratio = 0\n[material.stiff]\non = \"stiff\"\nyoungs_modulus = "
                              "1000\npoissons_ratio = 0\n[support.l]\non = "
                              "\"left\"\nux = 0\n[support.r]\non = \"right\"\nux = 0.04\n[support.f]\non = "
                              "\"floor\"\nuy = 0\n[size]\nglobal = "
                              "0.5\n[quantity.most]\nof = \"sxx\"\non = \"*_and_*\"\n" +
                              inside +
                              "[quantity.least]\nof = \"sxx\"\ntake = \"minimum\"\non = "
                              "\"*_and_*\"\n" +
                              inside + "[quantity.mean]\nof = \"sxx\"\ntake = \"mean\"\non = \"*_and_*\"\n" + inside +
                              "[quantity.length]\nof = \"sxx\"\ntake = \"integral\"\non = \"*_and_*\"\n" + inside +
                              "[quantity.at]\nof = \"sxx\"\nat = [2, 1]\n" + inside +
                              "[quantity.own]\nof = \"sxx\"\non = \"*_and_*\"\nfrom = \"elements\"\n" + inside);
    };
    for (const bool soft_first : {true, false}) {
        const auto both = layers(soft_first, "");
        CHECK(both.value("most") == doctest::Approx(10));
        CHECK(both.value("least") == doctest::Approx(1));
        CHECK(both.value("mean") == doctest::Approx(5.5));
        CHECK(both.value("length") == doctest::Approx(22));
        CHECK(both.value("at") == doctest::Approx(5.5));
        CHECK(both.value("own") == doctest::Approx(10));
        for (const auto& [region, stress] : {std::pair("soft", 1.0), std::pair("stiff", 10.0)}) {
            const auto one = layers(soft_first, fmt::format("inside = \"{}\"\n", region));
            for (const auto* q : {"most", "least", "mean", "at", "own"}) CHECK(one.value(q) == doctest::Approx(stress));
            CHECK(one.value("length") == doctest::Approx(4 * stress));
        }
    }
}

TEST_CASE("an extreme is that of the field, not of the nodes") {
    // A plate with a hole in shear: the peak lies between nodes on most meshes; 4 in a plate without end.
    for (const auto* elements : {"triangles", "quadrilaterals"})
        for (const int order : {1, 2}) {
            const auto s = solve_cases_of(fmt::format(
                "[part]\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [-6, -6]\nsize = [12, 12]\nnames = {{ left = "
                "\"l\", right = \"r\", top = "
                "\"t\", bottom = \"b\" }}\n[[part.shape]]\ncut = \"circle\"\nradius = 1\nname = "
                "\"hole\"\n[material.m]\nyoungs_modulus = "
                "1000\npoissons_ratio = 0.3\n[support.a]\nat = [-6, -6]\nux = 0\nuy = 0\n[support.b]\nat = [6, -6]\nuy "
                "= 0\n[load.x]\non = [\"l\", "
                "\"r\"]\ntraction = [0, \"nx\"]\n[load.y]\non = [\"t\", \"b\"]\ntraction = [\"ny\", 0]\n[size]\nglobal "
                "= 2\nsegments_per_circle = "
                "30\n[mesh]\nelements = \"{}\"\norder = {}\n[quantity.peak]\nof = \"max_principal\"\non = \"hole\"\n",
                elements, order));
            FieldSource f{s.mesh, s.laws, s.cases[0], {}};
            f.finest = true;
            double sampled = -INFINITY, nodes = -INFINITY;
            for (const auto& side : s.mesh.boundary) {
                if (!Meant(s.mesh, {"hole"}).side(side)) continue;
                const auto e = static_cast<std::size_t>(side.element);
                for (int k = 0; k <= 200; ++k) {
                    const double v = field_at(Field::max_principal, f, e,
                                              evaluate(s.mesh.kinds[e], s.mesh.positions(e),
                                                       reference_on_side(s.mesh.kinds[e], side.side, k / 200.0)));
                    sampled = std::max(sampled, v);
                    if (k % 200 == 0) nodes = std::max(nodes, v);
                }
            }
            CAPTURE(elements);
            CAPTURE(order);
            CHECK(s.value("peak") >= sampled * (1 - 1e-6));
            CHECK(s.value("peak") >= nodes);
            CHECK(s.value("peak") == doctest::Approx(4.364).epsilon(order == 1 ? 0.25 : 0.005));
            CHECK(s.quantities[0].spread >= 0);
        }
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("study");

TEST_CASE("numbers and names that are easily misread") {
    const std::string bar =
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, "
        "10]\nnames = { "
        "left = \"left\", right = \"right\" }\n";
    const auto faults = [&](const std::string& modulus, const std::string& rest) {
        return faults_of(bar + "[material.m]\nyoungs_modulus = " + modulus +
                         "\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = "
                         "\"fixed\"\n[load.l]\non = \"right\"\ntraction = [1, 0]\n" +
                         rest);
    };
    const auto warnings = [&](const std::string& modulus) {
        return warnings_of(bar + "[material.m]\nyoungs_modulus = " + modulus +
                           "\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = "
                           "\"fixed\"\n[load.l]\non = \"right\"\ntraction = [1, 0]\n");
    };
    CHECK(has(faults("\"1,5\"", ""), "is 2 values, but one number is wanted"));
    CHECK(has(warnings("205e9"), "larger than that of any material"));
    CHECK(has(warnings("205"), "smaller than that of any metal"));
    CHECK(!has(warnings("\"80 MPa\""), "smaller than"));  // a foam, and its unit is known
    CHECK(has(warnings("205"), "\"205 GPa\""));
    CHECK(!has(warnings("205e3"), "modulus"));
    CHECK(!has(warnings("\"205 GPa\""), "modulus"));
    const std::string q = "[quantity.q]\nof = \"sxx\"\n";
    CHECK(has(faults("205e3", q + "target = 1\n"), "if percent is meant, write \"1 %\""));
    CHECK(faults("205e3", q + "target = \"100 %\"\n").empty());
    CHECK(faults("205e3", q + "target = \"2 MPa\"\n").empty());
    CHECK(has(faults("205e3", q + "target = \"2 mm\"\n"), "has the unit of"));
    CHECK(has(faults("205e3", "[series.s]\nkind = \"adaptive\"\nerror_target = 2\n"), "write \"2 %\""));
    CHECK(has(faults("1e200", ""), "beyond what can be computed with"));
    CHECK(has(faults("205e3", "[size]\nglobal = 1e-200\n"), "beyond what can be computed with"));
    CHECK(has(faults("205e3", "[[size.local]]\n"), ""));
    const Study least = study_from(
        bar +
        "[material.m]\nyoungs_modulus = 1e5\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = \"fixed\"\n"
        "[load.l]\non = \"right\"\ntraction = [1, 0]\n[quantity.q]\nof = \"min_principal\"\n[quantity.energy]\nof = "
        "\"strain_energy\"\n[series.s]\nkind = \"adaptive\"\ndrive = \"energy\"\n");
    CHECK(least.quantities[0].take == Take::minimum);
    CHECK(!least.quantities[1].dual);  // the norm drives, not the quantity of that name
    CHECK(has(faults_of("a" + std::string(200'000, '.') + "b = 1\n"), "nests more than 100"));
    CHECK(has(faults_of("format = 1\ntitle = \"a\\u0007b\"\n"), "holds a control character"));
}

TEST_CASE("adaptive series go on for the quantities' targets unless told otherwise") {
    const std::string start =
        "format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 10]\nnames = { left = \"left\", right = "
        "\"right\" }\n" +
        rest_of_study();
    const auto series = [&](const std::string& target, const std::string& keys) {
        return study_from(start + "[quantity.q]\nof = \"ux\"\n" + target + "[series.s]\nkind = \"adaptive\"\n" + keys)
            .series.back();
    };
    CHECK(series("target = 0.01\n", "").until_quantities);
    CHECK(!series("target = 0.01\n", "").error_target);
    CHECK(!series("", "").until_quantities);
    CHECK(series("", "").error_target == doctest::Approx(0.02));
    CHECK(!series("target = 0.01\n", "error_target = 0.01\n").until_quantities);
    CHECK(!series("target = 0.01\n", "until_quantities = false\n").until_quantities);
}

TEST_CASE("supports that contradict each other are told before there is a mesh") {
    const auto faults = [](const std::string& supports) {
        return faults_of(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", bottom "
            "= \"bottom\", right = "
            "\"right\", top = \"top\" }\n[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n" +
            supports + "[load.l]\non = \"right\"\ntraction = [1, 0]\n");
    };
    CHECK(faults("[support.a]\non = \"left\"\nhold = \"fixed\"\n[support.b]\non = \"bottom\"\nuy = 0\n").empty());
    CHECK(has(faults("[support.a]\non = \"left\"\nhold = \"fixed\"\n[support.b]\non = \"bottom\"\nuy = 0.1\n"),
              "support.a and support.b contradict each other: they give the point (0, 0) different displacements"));
    CHECK(has(faults("[support.a]\non = \"left\"\nux = 0\nuy = \"y\"\n[support.b]\non = \"left\"\nhold = \"fixed\"\n"),
              "contradict"));
    CHECK(faults("[support.a]\non = \"left\"\nux = 0\nuy = \"y\"\n[support.b]\non = \"bottom\"\nuy = \"x\"\n").empty());
    CHECK(has(faults("[support.a]\non = \"left\"\nhold = \"symmetry\"\n[support.c]\non = \"bottom\"\nhold = "
                     "\"symmetry\"\n[support.b]\nat = [0, 0]\nux "
                     "= 1\n"),
              "support.a and support.b contradict"));
}

TEST_SUITE_END();
