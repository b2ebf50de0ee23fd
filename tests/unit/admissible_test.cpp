// Bounds of the error from balanced fields, and explicit residuals.

#include "recovery/bound/admissible.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "recovery/fit/singular_fit.hpp"
#include "recovery/indicators.hpp"
#include "support/solved.hpp"
#include "verification/manufactured.hpp"
#include "verification/verification.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr std::array kinds{std::pair{"triangles", 1}, std::pair{"triangles", 2}, std::pair{"quadrilaterals", 1},
                           std::pair{"quadrilaterals", 2}};

std::string mesh_of(const char* elements, int order, double size) {
    return fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n[size]\nglobal = {}\n[quantity.q]\nof = \"FIELD\"\n",
                       elements, order, size);
}

SolvedCases solved(std::string text, const char* elements, int order, double size, const std::string& field) {
    text += mesh_of(elements, order, size);
    text.replace(text.find("FIELD"), 5, field);
    text.erase(0, text.find('\n') + 1);  // "format = 1" is put before
    return solve_cases_of(text);
}

/// A bar of two materials, pulled, clamped at its end, with its own weight along it if it has a density.
std::string bar(double density) {
    return fmt::format(
        "format = 1\n[part]\nname = \"bar\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 1]\nnames = {{ left = "
        "\"left\", bottom = \"bottom\" }}\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize = [1, 1]\nregion "
        "= \"end\"\nnames = {{ right = \"right\" }}\n[material.a]\non = \"bar\"\nyoungs_modulus = 1000\npoissons_ratio "
        "= 0.3\ndensity = {0}\n[material.b]\non = \"end\"\nyoungs_modulus = 50\npoissons_ratio = 0.2\ndensity = "
        "{0}\n[support.wall]\non = \"left\"\nhold = \"fixed\"\n[load.pull]\non = \"right\"\ntraction = [\"1 + y\", "
        "0.3]\n",
        density);
}

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("the bound is never below the true error and close to it, in every kind of element") {
    // A quarter of a ring pressed from inside, in plane strain.
    const std::string ring =
        "format = 1\n[variables]\nsrr = \"(1 - 4 / r^2) / 3\"\nstt = \"(1 + 4 / r^2) / 3\"\n[part]\nplane = "
        "\"strain\"\n[[part.shape]]\nadd = \"circle\"\nradius = 2\n[[part.shape]]\ncut = \"circle\"\nradius = 1\nname "
        "= \"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize = [2, 2]\nnames = { left = \"left\", bottom = "
        "\"bottom\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.x]\non = \"left\"\nhold = "
        "\"symmetry\"\n[support.y]\non = \"bottom\"\nhold = \"symmetry\"\n[load.p]\non = \"inside\"\npressure = "
        "1\n[exact_stress]\nsxx = \"srr * cos(theta)^2 + stt * sin(theta)^2\"\nsyy = \"srr * sin(theta)^2 + stt * "
        "cos(theta)^2\"\nsxy = \"(srr - stt) * sin(theta) * cos(theta)\"\n";
    for (const auto& [elements, order] : kinds) {
        INFO(std::string(elements), " of order ", order);
        const auto s = solved(ring, elements, order, 0.25, "ux");
        REQUIRE(why_no_bound(s.both.study, s.mesh, s.laws).empty());
        const auto bound = bound_stress_error(s.mesh, s.both.study, s.laws, s.solution());
        REQUIRE(bound);
        const TrueError truth = true_error(s.mesh, s.laws, s.solution(), *s.both.study.exact_stress, "t");
        const double ratio = std::sqrt(bound->error2 / truth.error2);
        CHECK(ratio >= 1);
        CHECK(ratio < 1.6);
        double sum = 0;
        for (const double e2 : bound->element_error2) sum += e2;
        CHECK(sum == doctest::Approx(bound->error2));
    }
}

TEST_CASE("the bound of a flux holds against a far finer mesh") {
    const std::string fin =
        "format = 1\n[part]\nname = \"fin\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 1]\nnames = { left = "
        "\"left\", top = \"top\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, 0.5]\nregion = "
        "\"core\"\n[material.a]\non = \"fin\"\nconductivity = 2\n[material.b]\non = \"core\"\nconductivity = "
        "20\n[support.root]\non = \"left\"\npotential = 0\n[load.sun]\non = \"top\"\nflux = \"1 + "
        "x\"\n[load.core]\non = \"core\"\nsource = 5\n";
    const auto fine = solved(fin, "triangles", 2, 0.03, "potential");
    for (const auto& [elements, order] : kinds) {
        INFO(std::string(elements), " of order ", order);
        const auto s = solved(fin, elements, order, 0.25, "potential");
        const auto bound = bound_flux_error(s.mesh, s.both.study, s.laws, s.solution());
        REQUIRE(bound);
        const double error2 = fine.solution().dissipation - s.solution().dissipation;
        REQUIRE(error2 > 0);
        CHECK(bound->error2 >= error2);
        CHECK(bound->error2 < 1.6 * 1.6 * error2);
    }
}

TEST_CASE("bounds hold against a far finer mesh: two materials, a clamped end, weight, heat inside") {
    for (const std::string& load : {std::string(), std::string("[load.weight]\ngravity = [0, -10]\n"),
                                    std::string("[load.warm]\ntemperature_change = \"10 * x\"\n")}) {
        std::string text = bar(0.02) + load;
        if (load.find("warm") != std::string::npos)
            for (const char* m : {"[material.a]\n", "[material.b]\n"})
                text.insert(text.find(m) + std::string(m).size(), "expansion = 1e-4\n");
        // The error's energy is what the fine mesh's energy has more, where only forces act.
        const auto fine = solved(text, "triangles", 2, 0.03, "ux");
        for (const auto& [elements, order] : kinds) {
            INFO(load, " ", std::string(elements), " of order ", order);
            const auto s = solved(text, elements, order, 0.25, "ux");
            const auto bound = bound_stress_error(s.mesh, s.both.study, s.laws, s.solution());
            REQUIRE(bound);
            CHECK(bound->error2 > 0);
            if (load.find("warm") != std::string::npos) continue;
            const double error2 = 2 * (fine.solution().strain_energy - s.solution().strain_energy);
            REQUIRE(error2 > 0);
            CHECK(bound->error2 >= error2);
            CHECK(bound->error2 < 1.6 * 1.6 * error2);
        }
    }
}

TEST_CASE("a solution that is exact has a bound of zero") {
    const std::string text =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"left\", right = "
        "\"right\", bottom = \"bottom\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.x]\non "
        "= "
        "\"left\"\nhold = \"symmetry\"\n[support.y]\non = \"bottom\"\nhold = \"symmetry\"\n[load.p]\non = "
        "\"right\"\ntraction = [3, 0]\n";
    for (const auto& [elements, order] : kinds) {
        const auto s = solved(text, elements, order, 0.4, "sxx");
        const auto bound = bound_stress_error(s.mesh, s.both.study, s.laws, s.solution());
        REQUIRE(bound);
        CHECK(bound->error2 < 1e-16 * bound->energy2);
        const ErrorMap residual = residual_stress_error(s.mesh, s.both.study, s.laws, s.solution());
        CHECK(residual.error2 < 1e-16 * residual.energy2);
    }
}

TEST_CASE("where no balanced field is made, the reason is told") {
    const auto why = [](const std::string& extra) {
        const auto s = solved(bar(1) + extra, "triangles", 2, 0.5, "ux");
        return why_no_bound(s.both.study, s.mesh, s.laws);
    };
    CHECK(why("").empty());
    CHECK(has(why("[support.lift]\non = \"bottom\"\nuy = \"0.01 * x^2\"\n"), "lift"));
    CHECK(has(why("[support.bed]\non = \"bottom\"\nnormal_stiffness = 3\n"), "bed"));
    CHECK(has(why("[load.tip]\nat = [4, 1]\nforce = [0, 1]\n"), "tip"));
    // Points that hold the part against moving as a whole carry nothing, and do no harm; others do.
    const std::string free =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"left\", right = "
        "\"right\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.a]\nat = [0, 0]\nhold = "
        "\"fixed\"\n[support.b]\nat = [2, 0]\nuy = 0\n[load.p]\non = \"right\"\ntraction = [\"y^2\", 0]\n";
    const auto carried = solved(free, "triangles", 2, 0.4, "sxx");
    CHECK(!bound_stress_error(carried.mesh, carried.both.study, carried.laws, carried.solution()));
    const auto balanced =
        solved(free + "[load.q]\non = \"left\"\ntraction = [\"-y^2\", 0]\n", "triangles", 2, 0.4, "sxx");
    const auto bound = bound_stress_error(balanced.mesh, balanced.both.study, balanced.laws, balanced.solution());
    REQUIRE(bound);
    CHECK(bound->relative() < 0.3);
    CHECK(bound->relative() > 0);
}

TEST_CASE("explicit residuals estimate the error to a factor and rank the elements as the truth does") {
    const auto elastic = manufactured_elasticity(Plane::stress, ManufacturedMaterial::isotropic);
    for (const auto& [elements, order] : kinds) {
        INFO(std::string(elements), " of order ", order);
        const auto s = solved(elastic.text + one_square(), elements, order, 0.15, "ux");
        const ErrorMap map = residual_stress_error(s.mesh, s.both.study, s.laws, s.solution());
        const TrueError truth = true_error(s.mesh, s.laws, s.solution(), *s.both.study.exact_stress, "t");
        const double ratio = std::sqrt(map.error2 / truth.error2);
        CHECK(ratio > 0.4);
        CHECK(ratio < 2.5);
        // Rank correlation with the recovered field's map
        const ErrorMap other = estimate_error(s.mesh, s.laws, s.solution(), s.cases[0].stress);
        const auto ranks = [](const std::vector<double>& v) {
            std::vector<std::size_t> order_of(v.size());
            for (std::size_t i = 0; i < v.size(); ++i) order_of[i] = i;
            std::sort(order_of.begin(), order_of.end(), [&](auto a, auto b) { return v[a] < v[b]; });
            std::vector<double> rank(v.size());
            for (std::size_t i = 0; i < v.size(); ++i) rank[order_of[i]] = static_cast<double>(i);
            return rank;
        };
        const auto a = ranks(map.element_error2), b = ranks(other.element_error2);
        double same = 0, n = static_cast<double>(a.size());
        for (std::size_t i = 0; i < a.size(); ++i) same += (a[i] - b[i]) * (a[i] - b[i]);
        CHECK(1 - 6 * same / (n * (n * n - 1)) > 0.7);
    }
}

TEST_CASE("jumps, changes and energies of elements need a field only") {
    const auto s = solved(bar(1), "triangles", 2, 0.25, "ux");
    const Mesh& mesh = s.mesh;
    std::vector<double> linear(mesh.node_of_slot.size()), bent(linear.size()), cells(mesh.element_count());
    for (std::size_t k = 0; k < linear.size(); ++k) {
        const Vec2& p = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[k])];
        linear[k] = 2 * p[0] - p[1];
        bent[k] = std::fabs(p[0] - 1.1);
    }
    for (std::size_t e = 0; e < cells.size(); ++e) cells[e] = mesh.centre_of(e)[0] > 1.1 ? 1 : 0;
    for (const double j : jumps_of_slots(mesh, linear)) CHECK(j < 1e-20);
    const auto jumps = jumps_of_slots(mesh, bent), steps = jumps_of_elements(mesh, cells);
    for (std::size_t e = 0; e < cells.size(); ++e) {
        const double away = std::fabs(mesh.centre_of(e)[0] - 1.1);
        if (away > 0.6) {
            CHECK(jumps[e] < 1e-20);
            CHECK(steps[e] == 0);
        }
    }
    const auto most = static_cast<std::size_t>(std::max_element(jumps.begin(), jumps.end()) - jumps.begin());
    CHECK(std::fabs(mesh.centre_of(most)[0] - 1.1) < 0.3);
    CHECK(*std::max_element(steps.begin(), steps.end()) >= 1);
    const auto changes = changes_of_slots(mesh, linear);
    for (std::size_t e = 0; e < changes.size(); ++e) CHECK(changes[e] < std::pow(4 * mesh.size_of(e), 2));
    double energy = 0;
    const auto densities = energy_densities(mesh, s.laws, s.solution(), false);
    for (std::size_t e = 0; e < densities.size(); ++e) energy += densities[e] * mesh.measure_of(e);
    CHECK(energy == doctest::Approx(s.solution().strain_energy).epsilon(1e-9));
}

TEST_CASE("at a re-entrant corner the estimate is near the truth, in every kind of element") {
    std::string text = l_shape().text;
    text.erase(text.find("[size]\n"), text.find("[exact_stress]") - text.find("[size]\n"));
    for (const auto& [elements, order] : kinds) {
        INFO(std::string(elements), " of order ", order);
        const auto s = solved(text, elements, order, 0.1, "ux");
        const auto points = singular_points(s.both.part, s.both.study);
        REQUIRE(points.size() == 1);
        REQUIRE(points[0].modes);
        const auto fits = singular_fits(s.mesh, s.laws, s.solution(), points, 1e-9);
        REQUIRE(fits.size() == 1);
        const ErrorMap map = estimate_error(s.mesh, s.laws, s.solution(), s.cases[0].stress, fits);
        const TrueError truth = true_error(s.mesh, s.laws, s.solution(), *s.both.study.exact_stress, "t");
        const double ratio = std::sqrt(map.error2 / truth.error2);
        CHECK(ratio > (order == 1 ? 0.87 : 0.93));
        CHECK(ratio < 1.05);
    }
}

TEST_CASE("explicit residuals of linear triangles are h / (24 k) times jumps, on the outline to the mirror image") {
    // Between linear triangles the flux jumps and is constant on each, so that every term can be added up by hand.
    const auto s = solve_cases_of(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"left\", right = \"right\" }\n"
        "[[part.shape]]\ncut = \"circle\"\ncentre = [1, 0.5]\nradius = 0.2\n[material.m]\nconductivity = "
        "3\n[support.s]\non = "
        "\"left\"\npotential = 1\n[load.q]\non = \"right\"\nflux = 5\n[load.v]\nsource = 2\n[size]\nglobal = 0.3\n"
        "[mesh]\norder = 1\n[quantity.q]\nof = \"potential\"\n");
    const Mesh& mesh = s.mesh;
    FieldSource own{mesh, s.laws, s.cases[0], {}};
    own.origin = FieldOrigin::elements;
    std::vector<Vec2> flux;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const ElementPoint p = evaluate(mesh.kinds[e], mesh.positions(e), Vec2{{1.0 / 3, 1.0 / 3}});
        flux.push_back({{field_at(Field::flux_x, own, e, p), field_at(Field::flux_y, own, e, p)}});
    }
    const auto at = [&](std::int32_t n) { return mesh.nodes[static_cast<std::size_t>(n)]; };
    const ErrorMap map = residual_flux_error(mesh, s.both.study, s.laws, s.solution());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const double h = mesh.size_of(e), k = 3;
        double wanted = h * h / (24 * k) * mesh.measure_of(e) * 4;  // of the source alone: the flux has no divergence
        const auto nodes = mesh.element(e);
        for (std::size_t side = 0; side < 3; ++side) {
            const std::int32_t a = nodes[side], b = nodes[(side + 1) % 3];
            const Vec2 along = at(b) - at(a), normal = -turned_left(along) / norm(along);
            std::optional<std::size_t> beyond;
            for (std::size_t o = 0; o < mesh.element_count(); ++o) {
                const auto others = mesh.element(o);
                if (o != e && std::find(others.begin(), others.end(), a) != others.end() &&
                    std::find(others.begin(), others.end(), b) != others.end())
                    beyond = o;
            }
            if (beyond) {
                wanted += h / (24 * k) * norm(along) * std::pow(dot(flux[e] - flux[*beyond], normal), 2);
                continue;
            }
            const bool held = at(a)[0] == 0 && at(b)[0] == 0, heated = at(a)[0] == 2 && at(b)[0] == 2;
            const double gap = dot(flux[e], normal) + (heated ? 5 : 0);
            if (!held) wanted += h / (24 * k) * norm(along) * std::pow(2 * gap, 2);
        }
        CHECK(map.element_error2[e] == doctest::Approx(wanted).epsilon(1e-9));
    }
}
