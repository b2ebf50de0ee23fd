// Sectors that repeat round a centre: closed forms, the whole ring, and what does not fit.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "support/solved.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr const char* steel = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\ndensity = 2\n";

/// A sector of a ring of radii 2 and 4 over 60 degrees from x on, its straight sides called first and second.
std::string sector(const std::string& rest, double inner = 2) {
    const double c = 0.5, s = std::sqrt(3) / 2;
    std::string shape;
    if (inner > 0)
        shape = fmt::format(
            "start = [{0}, 0]\npieces = [{{ to = [4, 0], name = \"first\" }}, {{ to = [{1}, {2}], centre = [0, 0], "
            "name = "
            "\"rim\" }}, {{ to = [{3}, {4}], name = \"second\" }}, {{ to = [{0}, 0], centre = [0, 0], clockwise = "
            "true, "
            "name = \"bore\" }}]\n",
            inner, 4 * c, 4 * s, inner * c, inner * s);
    else
        shape = fmt::format(
            "start = [0, 0]\npieces = [{{ to = [4, 0], name = \"first\" }}, {{ to = [{}, {}], centre = [0, 0], name = "
            "\"rim\" }}, {{ to = [0, 0], name = \"second\" }}]\n",
            4 * c, 4 * s);
    return "[[part.shape]]\nadd = \"outline\"\n" + shape + steel +
           "[periodic.sides]\nbetween = [\"first\", \"second\"]\nturn = \"60 deg\"\n[size]\nglobal = 0.3\n" + rest;
}

const std::string pinned = "[support.turn]\nat = [4, 0]\nuy = 0\n";

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("a sector under pressure and one twisted at its rim have the closed forms of the ring") {
    // Lame 1852: radial displacement of plane stress at the bore, p = 10.
    const auto tube =
        solve_cases_of(sector(pinned + "[load.p]\non = \"bore\"\npressure = 10\n[quantity.hoop]\nof = \"stt\"\non = "
                                       "\"bore\"\ntake = \"mean\"\n[quantity.out]\nof = \"ur\"\non = \"bore\"\ntake = "
                                       "\"mean\"\n"));
    const double a = 10 * 4.0 / 12, b = a * 16;
    CHECK(tube.value("hoop") == doctest::Approx(a + b / 4).epsilon(2e-3));
    CHECK(tube.value("out") == doctest::Approx((0.7 * a * 2 + 1.3 * b / 2) / 1000).epsilon(1e-4));
    CHECK(tube.solution().balance.relative_error < 1e-9);
    // A shear of 3 round the rim, held at the bore: no plane of symmetry, so only a turned pair of sides can carry it.
    // The shear is 3 (4 / r)^2, the tangential displacement at the rim tau b^2 / (2 G) b (1 / a^2 - 1 / b^2).
    const auto twisted = solve_cases_of(sector(
        "[support.hub]\non = \"bore\"\nhold = \"fixed\"\n[load.twist]\non = \"rim\"\ntraction = [\"-3 * y / 4\", "
        "\"3 * x / 4\"]\n[quantity.turn]\nof = \"ut\"\non = \"rim\"\ntake = \"mean\"\n[quantity.shear]\nof = "
        "\"srt\"\nat = [1.5, 2.5980762114]\n"));
    const double g = 1000 / 2.6;
    CHECK(twisted.value("turn") == doctest::Approx(3 * 16 / (2 * g) * 4 * (1 / 4.0 - 1 / 16.0)).epsilon(1e-4));
    CHECK(twisted.value("shear") == doctest::Approx(3 * 16.0 / 9).epsilon(2e-3));
}

TEST_CASE("the centre of a full disc belongs to both sides and stays") {
    const auto disc =
        solve_cases_of(sector(pinned + "[load.spin]\nrotation = 5\n[quantity.middle]\nof = \"sxx\"\nat = [0, "
                                       "0]\n[quantity.rim]\nof = \"ur\"\non = \"rim\"\ntake = \"mean\"\n",
                              0));
    // (3 + nu) / 8 rho w^2 R^2 at the centre; (1 - nu) / (4 E) rho w^2 R^3 at the rim (Timoshenko & Goodier 1951, art.
    // 32)
    CHECK(disc.value("middle") == doctest::Approx(3.3 / 8 * 2 * 25 * 16).epsilon(2e-3));
    CHECK(disc.value("rim") == doctest::Approx(0.7 / 4000 * 2 * 25 * 64).epsilon(1e-4));
    for (std::size_t n = 0; n < disc.mesh.nodes.size(); ++n)
        if (disc.mesh.nodes[n] == Vec2{}) CHECK(norm(disc.solution().displacement[n]) == 0);
}

TEST_CASE("a sector with a hole off its middle says what the whole ring says, with heat as well") {
    const std::string hole = "[[part.shape]]\ncut = \"circle\"\ncentre = [2.9, 0.9]\nradius = 0.35\nname = \"hole\"\n";
    const std::string loads =
        "[load.spin]\nrotation = 3\n[support.cold]\non = \"bore*\"\npotential = 0\n[load.heat]\nsource = 4\n"
        "[quantity.peak]\nof = \"von_mises\"\non = \"hole*\"\n[quantity.hot]\nof = "
        "\"potential\"\n[quantity.energy]\nof = "
        "\"strain_energy\"\n";
    const std::string conducts = "conductivity = 2\nexpansion = 1e-4\n";
    const auto with = [&](std::string text) {
        text.replace(text.find("density = 2\n"), 12, "density = 2\n" + conducts);
        return text;
    };
    const auto one = solve_cases_of(with(sector(hole + pinned + loads)));
    const auto ring =
        solve_cases_of(with(std::string("[[part.shape]]\nadd = \"circle\"\nradius = 4\n[[part.shape]]\ncut = "
                                        "\"circle\"\nradius = 2\nname = \"bore\"\n") +
                            hole + "repeat = 6\naround = [0, 0]\n" + steel +
                            "[support.a]\nat = [4, 0]\nux = 0\nuy = 0\n[support.b]\nat = [-4, 0]\nuy = 0\n"
                            "[[part.shape]]\nmark = \"point\"\nat = [4, 0]\nname = \"a\"\n[[part.shape]]\nmark = "
                            "\"point\"\nat = [-4, 0]\nname = \"b\"\n[size]\nglobal = 0.3\n" +
                            loads));
    CHECK(one.value("hot") == doctest::Approx(ring.value("hot")).epsilon(1e-3));
    CHECK(one.value("peak") == doctest::Approx(ring.value("peak")).epsilon(0.02));
    // Nothing turns the ring, so the pin that stops it from turning carries nothing, whatever its sides carry beside
    // it.
    const auto& held = one.solution().reactions;
    const double beside = norm(held.back().force);
    for (const auto& r : held)
        if (r.name == "turn") CHECK(norm(r.force) < 1e-3 * std::max(beside, 1.0));
    CHECK(6 * one.value("energy") == doctest::Approx(ring.value("energy")).epsilon(2e-3));
}

TEST_CASE("both sides of a sector have the same nodes, whatever the elements and wherever the sizes are small") {
    const std::string fine = "[size.local.fine]\non = \"second\"\nsize = 0.11\n";
    for (const std::string mesh : {"", "[mesh]\norder = 1\n", "[mesh]\nelements = \"mostly_quadrilaterals\"\n",
                                   "[size.layers.l]\non = \"bore\"\nfirst = 0.05\nrows = 3\n"}) {
        CAPTURE(mesh);
        const auto s = solve_cases_of(sector(fine + mesh + pinned +
                                             "[load.p]\non = \"bore\"\npressure = 10\n[quantity.q]\nof "
                                             "= \"ur\"\non = \"bore\"\ntake = \"mean\"\n"));
        const PeriodicSpec& pair = s.both.study.periodic.front();
        std::vector<Vec2> first, second;
        for (const auto& side : s.mesh.boundary)
            for (std::size_t k = 0; k < side.count(); ++k) {
                const Vec2& p = s.mesh.nodes[static_cast<std::size_t>(side.nodes[k])];
                if (Meant(s.mesh, {"first"}).side(side)) first.push_back(p);
                if (Meant(s.mesh, {"second"}).side(side)) second.push_back(p);
            }
        CHECK(first.size() == second.size());
        CHECK(first.size() > 30);  // as fine as the finer one
        for (const Vec2& p : second) {
            double nearest = INFINITY;
            for (const Vec2& q : first) nearest = std::min(nearest, distance(q, pair.turned_back(p)));
            CHECK(nearest < 1e-9);
        }
        const double a = 10 * 4.0 / 12, b = a * 16;
        CHECK(s.value("q") == doctest::Approx((0.7 * a * 2 + 1.3 * b / 2) / 1000).epsilon(2e-3));
    }
}

TEST_CASE("an adaptive series of a sector gets to its target, and so does one of a periodic cell") {
    const std::string adaptive = "[series.a]\nkind = \"adaptive\"\nerror_target = \"0.3 %\"\nmost_levels = 7\n";
    const std::string peak = "[quantity.q]\nof = \"von_mises\"\n";
    const std::string hole = "[[part.shape]]\ncut = \"circle\"\ncentre = [2.9, 0.9]\nradius = 0.35\nname = \"hole\"\n";
    const std::string cell =
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 3]\nnames = { left = \"first\", right = \"second\" }\n"
        "[[part.shape]]\ncut = \"circle\"\ncentre = [1.2, 1]\nradius = 0.5\n" +
        std::string(steel) +
        "[periodic.sides]\nbetween = [\"first\", \"second\"]\njump = [0.01, 0]\n[support.pin]\nat = [0, 0]\nux = 0\nuy "
        "= "
        "0\n[size]\nglobal = 0.5\n";
    const std::string spinning = sector(hole + pinned + "[load.spin]\nrotation = 5\n");
    for (const auto& text : {spinning, spinning + "[mesh]\nelements = \"quadrilaterals\"\n", cell}) {
        const auto m = run_text("format = 1\n" + text + peak + adaptive);
        const auto& series = m.result.series.front();
        CAPTURE(series.stopped_by);
        CHECK(series.target_met);
        for (std::size_t k = 1; k < series.levels.size(); ++k)
            CHECK(series.levels[k].estimated_error < series.levels[k - 1].estimated_error);
    }
}

TEST_CASE("sides that do not match are told with the angle that would fit, before anything is solved") {
    const auto faults = [](std::string text, const std::string& from, const std::string& to) {
        text.replace(text.find(from), from.size(), to);
        return faults_of("format = 1\n" + text);
    };
    const std::string good = sector(pinned + "[load.p]\non = \"bore\"\npressure = 10\n");
    CHECK(faults_of("format = 1\n" + good).empty());
    CHECK(has(faults(good, "\"60 deg\"", "\"45 deg\""), "their middles are 60 degrees apart"));
    CHECK(has(faults(good, "\"60 deg\"", "\"-60 deg\""), "turn the other way?"));
    CHECK(has(faults(good, "\"60 deg\"", "\"60 deg\"\nabout = [1, 0]"), "does not lie on"));
    CHECK(has(faults(good, "\"60 deg\"", "0"), "no part of a circle"));
    CHECK(has(faults(good, "\"60 deg\"", "\"60 deg\"\njump = [1, 0]"), "has no meaning beside turn"));
    CHECK(has(faults(good, "turn = \"60 deg\"", "about = [0, 0]"), "about goes with turn"));
    CHECK(has(faults(good, "turn = \"60 deg\"", ""), "moved by"));
    CHECK(has(faults(good, "[[part.shape]]", "[part]\nplane = \"axisymmetric\"\n[[part.shape]]"), "x is the radius"));
    CHECK(has(faults(good, pinned, "[support.none]\non = \"rim\"\nnormal_stiffness = 1\n"), "turn"));
}

TEST_SUITE_END();
