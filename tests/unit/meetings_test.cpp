// Where one thing meets another: both sides of an interface, axes, planes of symmetry, layers and targets with a unit,
// in every kind of series and with every element, on parts with a known answer.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Elements {
    const char* name;
    int order;
};
const std::vector<Elements> all_elements{{"triangles", 1},
                                         {"triangles", 2},
                                         {"quadrilaterals", 1},
                                         {"quadrilaterals", 2},
                                         {"mostly_quadrilaterals", 1},
                                         {"mostly_quadrilaterals", 2}};

std::string mesh_of(const Elements& e, double size) {
    return fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n[size]\nglobal = {}\n", e.name, e.order, size);
}

/// One series of each kind; `rule` is a size rule for the local one.
std::string all_series(const std::string& rule) {
    return "[series.even]\nkind = \"uniform\"\nratio = 1.6\nmost_levels = 3\n[series.local]\nkind = \"local\"\nrules = "
           "[\"" +
           rule +
           "\"]\nratio = 1.6\nmost_levels = 3\n[series.target]\nkind = \"adaptive\"\nerror_target = 0.01\nmost_levels "
           "= 3\n[series.budget]\nkind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = 400\nmost_levels = "
           "3\n[series.bulk]\nkind = \"adaptive\"\nstrategy = \"share_of_error\"\nmost_levels = "
           "3\n[series.worst]\nkind = \"adaptive\"\nstrategy = \"share_of_elements\"\nkeep_rest = true\nmost_levels = "
           "3\n";
}

/// Every value of a quantity on every level of every series.
void each_value(const StudyRun& run, const std::string& name, const std::function<void(double)>& look) {
    std::size_t seen = 0;
    for (const auto& s : run.result.series)
        for (const auto& l : s.levels)
            for (const auto& q : l.quantities)
                if (q.name == name) {
                    INFO(s.name, " level ", l.index, " ", name);
                    look(q.value);
                    ++seen;
                }
    CHECK(seen >= run.result.series.size());
}

void all_are(const StudyRun& run, const std::string& name, double wanted, double scale) {
    each_value(run, name, [&](double v) { CHECK(std::fabs(v - wanted) <= 1e-7 * scale); });
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("both sides of an interface, in every series, with every element, in every plane and case") {
    // Layers of modulus 100 and 1000 pulled along their interface by the same strain of 0.01, and by twice that.
    for (const std::string plane : {"stress", "strain", "generalised_strain"})
        for (const auto& e : all_elements) {
            if (plane != "stress" && e.order == 1) continue;
            CAPTURE(plane);
            CAPTURE(e.name);
            CAPTURE(e.order);
            std::string quantities;
            for (const std::string side : {"soft", "stiff"})
                for (const std::string load_case : {"once", "twice"})
                    for (const std::string take : {"maximum", "minimum", "mean", "value"})
                        quantities +=
                            fmt::format("[quantity.{0}_{1}_{2}]\nof = \"sxx\"\n{3}\ninside = \"{0}\"\ncase = \"{1}\"\n",
                                        side, load_case, take,
                                        take == "value" ? "at = [2, 1]" : "on = \"*_and_*\"\ntake = \"" + take + "\"");
            const auto r = run_text(
                "format = 1\n[part]\nplane = \"" + plane +
                "\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nregion = \"soft\"\nnames = { bottom = "
                "\"floor\", left = \"left\", right = \"right\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, "
                "1]\nsize = [4, 1]\nregion = \"stiff\"\nnames = { left = \"left\", right = \"right\" }\n"
                "[material.soft]\non = \"soft\"\nyoungs_modulus = 100\npoissons_ratio = 0\n[material.stiff]\non = "
                "\"stiff\"\nyoungs_modulus = 1000\npoissons_ratio = 0\n[support.l]\non = \"left\"\nux = "
                "0\n[support.r]\non = \"right\"\nux = 0.04\n[support.f]\non = \"floor\"\nuy = 0\n[case.once]\nfactors "
                "= { r = 1 }\n[case.twice]\nfactors = { r = 2 }\n" +
                mesh_of(e, 0.7) + "[size.local.rule]\non = \"floor\"\nsize = 0.5\n" + quantities + all_series("rule"));
            for (const auto& [side, stress] : {std::pair("soft", 1.0), std::pair("stiff", 10.0)})
                for (const auto& [load_case, factor] : {std::pair("once", 1.0), std::pair("twice", 2.0)})
                    for (const auto* take : {"maximum", "minimum", "mean", "value"})
                        all_are(r, fmt::format("{}_{}_{}", side, load_case, take), factor * stress, 10);
        }
}

TEST_CASE("an axis that a cut made, with layers, heat and every series and element") {
    // A ball under pressure 3 and 20 degrees warmer, free to grow: stress -3 everywhere, radius by (a T - p (1 - 2 nu)
    // / E) R.
    for (const auto& e : all_elements) {
        if (std::string(e.name) == "mostly_quadrilaterals") continue;
        CAPTURE(e.name);
        CAPTURE(e.order);
        const std::string layers = e.order == 2 ? "[size.layers.skin]\non = \"surface\"\nfirst = 0.1\nrows = 2\n" : "";
        const auto r = run_text(
            "format = 1\n[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"circle\"\nradius = 2\nname = "
            "\"surface\"\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [-3, -3]\nsize = [3, 6]\nname = "
            "\"axis\"\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = 1e-4\n[load.p]\non = "
            "\"surface\"\npressure = 3\n[load.t]\ntemperature_change = 20\n[support.y]\nat = [0, -2]\nuy = 0\n" +
            mesh_of(e, 0.6) + layers +
            "[size.local.rule]\non = \"axis\"\nsize = 0.4\n[quantity.most]\nof = \"sxx\"\n[quantity.least]\nof = "
            "\"szz\"\ntake = \"minimum\"\n[quantity.centre]\nof = \"syy\"\nat = [0, 0]\n[quantity.along]\nof = "
            "\"sxx\"\ntake = \"mean\"\non = \"axis\"\n[quantity.mises]\nof = \"von_mises\"\n[quantity.grows]\nof = "
            "\"ux\"\nat = [2, 0]\n" +
            all_series("rule"));
        for (const auto* q : {"most", "least", "centre", "along"}) all_are(r, q, -3, 3);
        all_are(r, "mises", 0, 3);
        all_are(r, "grows", 2 * (1e-4 * 20 - 3 * 0.4 / 1000), 1e-2);
    }
}

TEST_CASE("ends that stay plane between mirror planes, warm, in every series and with every element") {
    // A quarter of a bar that grows freely: no stress, whatever the tilt that the planes forbid.
    for (const auto& e : all_elements) {
        CAPTURE(e.name);
        CAPTURE(e.order);
        const auto r = run_text(
            "format = 1\n[part]\nplane = \"generalised_strain\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [3, "
            "2]\nnames = { left = \"left\", bottom = \"bottom\", right = \"right\" }\n[material.m]\nyoungs_modulus = "
            "1000\npoissons_ratio = 0.3\nexpansion = 1e-4\n[support.x]\non = \"left\"\nhold = "
            "\"symmetry\"\n[support.y]\non = \"bottom\"\nhold = \"symmetry\"\n[load.t]\ntemperature_change = 50\n" +
            mesh_of(e, 0.9) +
            "[size.local.rule]\non = \"right\"\nsize = 0.6\n[quantity.axial]\nof = \"szz\"\n[quantity.mises]\nof = "
            "\"von_mises\"\n[quantity.grows]\nof = \"ux\"\nat = [3, 2]\n[quantity.longer]\nof = \"ezz\"\nat = [1, "
            "1]\n" +
            all_series("rule"));
        all_are(r, "axial", 0, 5);
        all_are(r, "mises", 0, 5);
        all_are(r, "grows", 3 * 50e-4, 1e-2);
        all_are(r, "longer", 50e-4, 1e-2);
    }
}

TEST_CASE("targets with a unit, in every series and for each kind of quantity") {
    // A cantilever, 10 long and 1 high, with the shear stress of its closed form at both ends.
    const auto r = run_text(
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[variables]\nE = 1000\nI = \"1 / 12\"\n[part]\n"
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, -0.5]\nsize = [10, 1]\nnames = { left = \"root\", right = "
        "\"tip\" }\n[material.m]\nyoungs_modulus = \"200 GPa\"\npoissons_ratio = 0.3\n[support.root]\non = "
        "\"root\"\nhold = \"fixed\"\n[load.tip]\non = \"tip\"\nforce = [0, -10]\n[size]\nglobal = "
        "0.5\n[size.local.rule]\non = \"root\"\nsize = 0.3\n"
        "[quantity.sinks]\nof = \"uy\"\nat = [10, 0]\ntarget = \"0.002 mm\"\n[quantity.bent]\nof = \"sxx\"\nat = [5, "
        "0.5]\ntarget = \"3 MPa\"\n[quantity.middle]\nof = \"sxx\"\nat = [5, 0]\ntarget = \"1 MPa\"\n"
        "[quantity.average]\nof = \"uy\"\ntake = \"mean\"\non = \"tip\"\ntarget = \"2 um\"\n" +
        all_series("rule"));
    // Bending: 6 F x / (b h^2) = 300; deflection 4 F L^3 / (E b h^3) = 0.2 and shear's share.
    each_value(r, "bent", [](double v) { CHECK(v == doctest::Approx(300).epsilon(0.02)); });
    each_value(r, "sinks", [](double v) { CHECK(v == doctest::Approx(-0.2015).epsilon(0.02)); });
    REQUIRE(r.result.headline.size() == 4);
    for (std::size_t q = 0; q < 4; ++q) {
        const QuantityVerdict& v = r.result.headline[q];
        CAPTURE(v.sentence);
        CHECK(v.verdict == Verdict::met);
        CHECK(v.interval.half_width <= r.opened.study.quantities[q].target->value);
        CHECK(has(v.sentence, q == 1 || q == 2 ? "MPa is met" : "mm is met"));
    }
    // On the neutral axis the stress is zero: only a target with a unit can be met, and no share is told.
    CHECK(r.result.headline[2].near_zero());
    CHECK(!has(r.result.headline[2].sentence, " ± 1"));
}

TEST_CASE("a conducting wall of two materials, its flux on either side, in every series") {
    // Flux across both is the same; temperature at the interface divides as the resistances, 1 / 1 and 1 / 4.
    for (const auto& e : all_elements) {
        CAPTURE(e.name);
        CAPTURE(e.order);
        const auto r = run_text(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 2]\nregion = \"a\"\nnames = { left = "
            "\"hot\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, 2]\nregion = \"b\"\nnames = { "
            "right = \"cold\" }\n[material.a]\non = \"a\"\nconductivity = 1\n[material.b]\non = \"b\"\nconductivity = "
            "4\n[support.hot]\non = \"hot\"\npotential = 100\n[support.cold]\non = \"cold\"\npotential = 0\n" +
            mesh_of(e, 0.6) +
            "[size.local.rule]\non = \"hot\"\nsize = 0.4\n[quantity.from_a]\nof = \"flux_x\"\non = \"*_and_*\"\ninside "
            "= \"a\"\n[quantity.from_b]\nof = \"flux_x\"\non = \"*_and_*\"\ntake = \"mean\"\ninside = "
            "\"b\"\n[quantity.at]\nof = \"potential\"\nat = [1, 1]\n[quantity.along]\nof = \"flux_y\"\non = "
            "\"*_and_*\"\n" +
            all_series("rule"));
        all_are(r, "from_a", 80, 80);
        all_are(r, "from_b", 80, 80);
        all_are(r, "at", 20, 100);
        all_are(r, "along", 0, 80);
    }
}

TEST_CASE("constants over the temperature in every series, with every element") {
    // Without contraction across, the end moves on average by the integral of expansion(T) T, whatever the modulus; by
    // Kirchhoff T = 20 (sqrt(1 + 2 x) - 1).
    for (const auto& e : all_elements) {
        CAPTURE(e.name);
        CAPTURE(e.order);
        const auto r = run_text(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", right "
            "= "
            "\"right\", bottom = \"bottom\" }\n[material.m]\nyoungs_modulus = \"1000 - 10 * T\"\npoissons_ratio = "
            "0\nexpansion = \"1e-3 * (1 + 0.01 * T)\"\nconductivity = \"1 + 0.05 * T\"\n[support.left]\non = "
            "\"left\"\nux = 0\npotential = 0\n[support.bottom]\non = \"bottom\"\nhold = "
            "\"symmetry\"\n[support.hot]\non = "
            "\"right\"\npotential = 40\n" +
            mesh_of(e, 0.4) +
            "[size.local.rule]\non = \"left\"\nsize = 0.3\n[quantity.end]\nof = \"ux\"\ntake = \"mean\"\non = "
            "\"right\"\n[quantity.flow]\nof = \"reaction_flow\"\non = \"hot\"\n[quantity.middle]\nof = "
            "\"potential\"\nat = [1.5, 0.5]\n" +
            all_series("rule"));
        const double near = e.order == 1 ? 2e-2 : 5e-4;
        each_value(r, "end", [&](double v) { CHECK(v == doctest::Approx(0.12).epsilon(near)); });
        each_value(r, "flow", [&](double v) { CHECK(std::fabs(v) == doctest::Approx(20).epsilon(near)); });
        each_value(r, "middle", [&](double v) { CHECK(v == doctest::Approx(20).epsilon(near)); });
        for (const auto& series : r.result.series)
            CHECK(series.levels.back().estimated_error <= series.levels.front().estimated_error);
    }
}

TEST_CASE("a sector whose sides repeat, in every series and with every element") {
    // Lame's hoop stress at the bore of a ring of radii 2 and 4.
    const double truth = 10 * (4.0 + 16) / (16 - 4), c = 0.5, s = std::sqrt(3) / 2;
    for (const auto& e : all_elements) {
        CAPTURE(e.name);
        CAPTURE(e.order);
        const auto r = run_text(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"outline\"\n" +
            fmt::format(
                "start = [2, 0]\npieces = [{{ to = [4, 0], name = \"first\" }}, {{ to = [{}, {}], centre = [0, 0] }}, "
                "{{ to = [{}, {}], name = \"second\" }}, {{ to = [2, 0], centre = [0, 0], clockwise = true, name = "
                "\"bore\" }}]\n",
                4 * c, 4 * s, 2 * c, 2 * s) +
            "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[periodic.sides]\nbetween = [\"first\", "
            "\"second\"]\nturn = \"60 deg\"\n[support.turn]\nat = [4, 0]\nuy = 0\n[load.p]\non = \"bore\"\npressure = "
            "10\n" +
            mesh_of(e, 0.4) +
            "[size.local.rule]\non = \"bore\"\nsize = 0.3\n[quantity.hoop]\nof = \"stt\"\non = \"bore\"\ntake = "
            "\"mean\"\n[quantity.out]\nof = \"ur\"\non = \"bore\"\ntake = \"mean\"\n" +
            all_series("rule"));
        each_value(r, "hoop",
                   [&](double v) { CHECK(v == doctest::Approx(truth).epsilon(e.order == 1 ? 0.12 : 0.01)); });
        each_value(r, "out", [&](double v) {
            CHECK(v ==
                  doctest::Approx((0.7 * 10 / 3 * 2 + 1.3 * 160 / 3 / 2) / 1000).epsilon(e.order == 1 ? 0.03 : 2e-3));
        });
    }
}

TEST_CASE("the boundary of a body of revolution as a line: means, integrals and curves in every series") {
    // A long tube of radii 2 and 4 under pressure inside: all stresses are known.
    const auto r = run_text(
        "format = 1\n[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [2, 0]\nsize = "
        "[2, "
        "3]\nnames = { left = \"bore\", bottom = \"foot\", top = \"top\" }\n[material.m]\nyoungs_modulus = "
        "1000\npoissons_ratio = 0.3\n[support.ends]\non = [\"foot\", \"top\"]\nuy = 0\n[load.p]\non = "
        "\"bore\"\npressure = 10\n[path.bore]\nfollow = \"bore\"\n[path.round]\nfollow = [\"foot\", \"bore\"]\nfrom = "
        "[3, "
        "0]\nto = [2, 2]\n[quantity.hoop]\nof = \"szz\"\ntake = \"mean\"\nalong = \"bore\"\n[quantity.sum]\nof = "
        "\"sxx\"\ntake = \"integral\"\nalong = \"bore\"\n[quantity.peak]\nof = \"szz\"\nalong = \"round\"\n" +
        mesh_of({"triangles", 2}, 0.4) + "[size.local.rule]\non = \"bore\"\nsize = 0.3\n" + all_series("rule"));
    const double hoop = 10 * (4.0 + 16) / (16 - 4);
    each_value(r, "hoop", [&](double v) { CHECK(v == doctest::Approx(hoop).epsilon(2e-3)); });
    each_value(r, "sum",
               [&](double v) { CHECK(v == doctest::Approx(-10 * 3).epsilon(5e-3)); });  // along the line alone
    each_value(r, "peak", [&](double v) { CHECK(v == doctest::Approx(hoop).epsilon(5e-3)); });
}

TEST_SUITE_END();
