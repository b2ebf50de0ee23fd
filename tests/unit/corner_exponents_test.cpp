// Exponents at corners against their characteristic equations, and the places of a part that have them.

#include "solve/singular/corner_exponents.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>

#include "solve/singular/singular_points.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = 3.141592653589793;

RegionLaw law(double modulus, double poisson, double conductivity, Plane plane = Plane::stress) {
    MaterialSpec m;
    m.youngs_modulus = modulus;
    m.poissons_ratio = poisson;
    m.conductivity = std::array{conductivity, conductivity, conductivity};
    RegionLaw out;
    out.elastic = elastic_law(m, plane);
    out.conduction = conduction_law(m);
    return out;
}

Fan one_wedge(const RegionLaw& material, double angle, const RayHold& first = {}, const RayHold& last = {}) {
    return {{{0.3, 0.3 + angle, &material}}, {first, last}, false};
}

/// The smallest root in (0.01, 0.999) of a function that changes sign there.
template <class F>
double root(F f) {
    double a = 0.01;
    const double step = 1e-3;
    while (f(a) * f(a + step) > 0) {
        a += step;
        REQUIRE(a < 0.999);
    }
    double b = a + step;
    for (int k = 0; k < 60; ++k) {
        const double m = (a + b) / 2;
        (f(a) * f(m) <= 0 ? b : a) = m;
    }
    return (a + b) / 2;
}

const RayHold held{{{{1, 0}}, {{0, 1}}}};

std::vector<SingularPoint> points_of(const std::string& part, const std::string& rest) {
    Problems problems("test.toml");
    const auto both = open_study(
        "test.toml",
        "format = 1\n" + part + rest + "[quantity.q]\nof = \"von_mises\"\n[series.u]\nkind = \"uniform\"\n", problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return singular_points(both.part, both.study);
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("free corners have the exponents of Williams") {
    const RegionLaw steel = law(200, 0.3, 1);
    for (const double degrees : {200.0, 225.0, 270.0, 315.0, 359.999}) {
        const double angle = degrees * pi / 180;
        // sin(lambda angle) = +- lambda sin(angle); the symmetric one is the smaller.
        const double symmetric = root([&](double x) { return std::sin(x * angle) + x * std::sin(angle); });
        const auto found = displacement_exponents(one_wedge(steel, angle));
        INFO("angle ", degrees);
        REQUIRE(!found.empty());
        CHECK(found.front().real() == doctest::Approx(symmetric).epsilon(1e-4));
        CHECK(found.front().imag() == doctest::Approx(0).epsilon(1e-6));
        // The potential's are pi / angle.
        const auto of_potential = potential_exponents(one_wedge(steel, angle));
        REQUIRE(!of_potential.empty());
        CHECK(of_potential.front().real() == doctest::Approx(pi / angle).epsilon(1e-4));
    }
    CHECK(displacement_exponents(one_wedge(steel, pi)).empty());
    CHECK(displacement_exponents(one_wedge(steel, pi / 2)).empty());
}

TEST_CASE("the end of a clamped side has the exponent of its characteristic equation") {
    for (const double nu : {0.0, 0.3}) {
        const RegionLaw material = law(1, nu, 1, Plane::strain);
        const double kappa = 3 - 4 * nu;
        for (const double degrees : {90.0, 120.0, 180.0, 270.0}) {
            const double angle = degrees * pi / 180;
            // sin^2(lambda angle) = ((1 + kappa)^2 - 4 lambda^2 sin^2(angle)) / (4 kappa)
            const auto gap = [&](double x) {
                const double s = std::sin(x * angle);
                return s * s -
                       ((1 + kappa) * (1 + kappa) - 4 * x * x * std::sin(angle) * std::sin(angle)) / (4 * kappa);
            };
            const auto found = displacement_exponents(one_wedge(material, angle, held, {}));
            INFO("angle ", degrees, " nu ", nu);
            if (degrees == 90 && nu == 0) {  // the root is 1
                CHECK(found.empty());
                continue;
            }
            REQUIRE(!found.empty());
            if (degrees == 180) {
                CHECK(found.front().real() == doctest::Approx(0.5).epsilon(1e-3));
                CHECK(found.front().imag() == doctest::Approx(std::log(kappa) / (2 * pi)).epsilon(2e-3));
            } else if (std::fabs(found.front().imag()) < 1e-6) {
                CHECK(std::fabs(gap(found.front().real())) < 1e-3);
            }
            const auto of_potential = potential_exponents(one_wedge(material, angle, held, {}));
            if (degrees <= 90)
                CHECK(of_potential.empty());
            else
                CHECK(of_potential.front().real() == doctest::Approx(pi / (2 * angle)).epsilon(1e-4));
        }
    }
}

TEST_CASE("materials in a straight seam have no singularity inside, and one at a free end") {
    const RegionLaw soft = law(1, 0.3, 1), stiff = law(20, 0.3, 20);
    Fan all_round{{{0, pi, &soft}, {pi, 2 * pi, &stiff}}, {{}, {}}, true};
    CHECK(displacement_exponents(all_round).empty());
    CHECK(potential_exponents(all_round).empty());
    // A wedge of a right angle in the other material: potential by the ratio k = (k1 - k2) / (k1 + k2),
    // cos(pi lambda) related by sin(lambda pi / 2)... the symmetric solution: tan(lambda pi / 4) = k1/k2 tan(3 pi
    // lambda / 4) up to sign.
    Fan corner{{{0, pi / 2, &soft}, {pi / 2, 2 * pi, &stiff}}, {{}, {}}, true};
    const double ratio = 20;
    const double odd = root([&](double x) {
        return std::sin(x * pi / 4) * std::cos(3 * x * pi / 4) * ratio +
               std::cos(x * pi / 4) * std::sin(3 * x * pi / 4);
    });
    const auto found = potential_exponents(corner);
    REQUIRE(!found.empty());
    CHECK(found.front().real() == doctest::Approx(odd).epsilon(1e-4));
    Fan at_edge{{{-pi / 2, 0, &soft}, {0, pi / 2, &stiff}}, {{}, {}, {}}, false};
    const auto edge = displacement_exponents(at_edge);
    REQUIRE(!edge.empty());
    CHECK(edge.front().real() > 0.7);
    // Two wedges of one material are one.
    Fan split{{{0, 2, &soft}, {2, 1.5 * pi, &soft}}, {{}, {}, {}}, false};
    CHECK(displacement_exponents(split).front().real() ==
          doctest::Approx(displacement_exponents(one_wedge(soft, 1.5 * pi)).front().real()).epsilon(1e-4));
}

TEST_CASE("singular places of a part are found, and no others") {
    const std::string material = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n";
    const std::string pull = "[load.p]\non = \"right\"\ntraction = [1, 0]\n";
    const std::string l_part =
        "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 4]\nnames = { left = \"left\", right = \"right\", "
        "bottom = \"bottom\" }\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [2, 2]\nsize = [2, 2]\nROUND";
    const std::string symmetric =
        "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\non = \"bottom\"\nhold = \"symmetry\"\n";
    const auto with_round = [&](const std::string& round) {
        std::string text = l_part;
        text.replace(text.find("ROUND"), 5, round);
        return text;
    };
    const auto sharp = points_of(with_round(""), material + symmetric + pull);
    REQUIRE(sharp.size() == 1);
    CHECK(distance(sharp[0].position, {{2, 2}}) < 1e-9);
    CHECK(sharp[0].exponent == doctest::Approx(0.5445).epsilon(1e-3));
    CHECK(sharp[0].cause == "a re-entrant corner of 270°");
    const auto rounded =
        points_of(with_round("[[part.shape]]\nchange = \"round\"\ncorners = \"inner\"\nradius = 0.5\n"),
                  material + symmetric + pull);
    CHECK(rounded.empty());
    // A clamped side ends in two outer corners, both of which are singular.
    const auto clamped = points_of(with_round(""), material + "[support.w]\non = \"left\"\nhold = \"fixed\"\n" + pull);
    CHECK(clamped.size() == 3);
    CHECK(std::count_if(clamped.begin(), clamped.end(),
                        [](const SingularPoint& p) { return p.cause == "the end of a support"; }) == 2);
    const auto forced = points_of(with_round(""), material + symmetric + "[load.f]\nat = [4, 0]\nforce = [1, 0]\n");
    REQUIRE(forced.size() == 2);
    CHECK(forced[1].exponent == 0);
}

TEST_CASE("modes are in balance inside and free on their sides") {
    const RegionLaw steel = law(200, 0.3, 2, Plane::strain);
    const Fan fan = one_wedge(steel, 1.5 * pi);
    const CornerModes modes(fan, 2), potentials(fan, 1);
    // sin(1.5 pi x) = -+x (Williams 1952): two real roots up to 1, then a complex one, which makes two modes
    const std::array<std::complex<double>, 6> known{
        {{-0.9085, 0}, {-0.5445, 0}, {0.5445, 0}, {0.9085, 0}, {1.6293, 0.2312}, {1.6293, 0.2312}}};
    REQUIRE(modes.count() == known.size());
    REQUIRE(potentials.count() == 3);  // -2/3, 2/3, 4/3
    const auto stress = [&](std::size_t k, const Vec2& p) {
        const auto g = modes.at(k, p).gradient;
        return steel.elastic.stress({g[0][0], g[1][1], g[0][1] + g[1][0], 0});
    };
    const auto place = [](double r, double angle) { return Vec2{{r * std::cos(angle), r * std::sin(angle)}}; };
    for (std::size_t k = 0; k < known.size(); ++k) {
        CAPTURE(k);
        CHECK(modes.exponent(k) == doctest::Approx(known[k].real()).epsilon(1e-3));
        double size = 0;
        // Falling modes turn faster with the angle; with elements half as wide it is a quarter.
        const double near_zero = known[k].real() < 0 ? 0.08 : 0.02;
        for (double t = 0.05; t < 1; t += 0.1)
            size = std::max(size, von_mises(stress(k, place(1, 0.3 + 1.5 * pi * t))));
        for (const double side : {0.3, 0.3 + 1.5 * pi}) {
            const Stress s = stress(k, place(1, side));
            const Vec2 n{{-std::sin(side), std::cos(side)}};
            CHECK(norm(Vec2{{s[0] * n[0] + s[2] * n[1], s[2] * n[0] + s[1] * n[1]}}) < near_zero * size);
        }
        // Twice as far, the stress is 2^(lambda - 1) as large.
        // Two modes of a complex exponent are one number's parts.
        const bool of_two = known[k].imag() > 0, second = of_two && k % 2 == 1;
        const std::complex<double> rise = std::pow(std::complex<double>(2), known[k] - 1.0);
        const std::size_t first = second ? k - 1 : k;
        const Stress near = stress(first, place(0.5, 1.7)), far = stress(k, place(1, 1.7)),
                     other = of_two ? stress(first + 1, place(0.5, 1.7)) : Stress{};
        for (std::size_t c = 0; c < 3; ++c) {
            const auto value = rise * std::complex<double>(near[c], other[c]);
            CHECK(far[c] == doctest::Approx(second ? value.imag() : value.real()).epsilon(2e-3).scale(std::abs(value)));
        }
        // The resultant over a closed path is zero.
        Vec2 force{};
        constexpr int steps = 400;
        for (int i = 0; i < steps; ++i) {
            const double angle = 0.3 + 1.5 * pi * (i + 0.5) / steps;
            const Stress s = stress(k, place(1, angle));
            const Vec2 n{{std::cos(angle), std::sin(angle)}};
            force += Vec2{{s[0] * n[0] + s[2] * n[1], s[2] * n[0] + s[1] * n[1]}} * (1.5 * pi / steps);
        }
        CHECK(norm(force) < 0.02 * size);
    }
    // r^(2/3) cos(2/3 (angle - 0.3)) up to a factor
    const double at_start = potentials.at(1, place(1, 0.3)).motion[0];
    for (const double t : {0.2, 0.5, 0.9}) {
        const double angle = 0.3 + 1.5 * pi * t;
        CHECK(potentials.at(1, place(8, angle)).motion[0] ==
              doctest::Approx(at_start * 4 * std::cos(2.0 / 3 * (angle - 0.3))).epsilon(1e-3));
    }
}
