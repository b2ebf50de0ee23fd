// Fields round singular points that are made of known modes and polynomials: what fits must find, and what not.

#include "recovery/fit/singular_fit.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <random>

#include "recovery/estimate.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Corner {
    StudyAndPart both;
    Mesh mesh;
    Laws laws;
    std::vector<SingularPoint> points;
};

/// A square of 2 without its upper right quarter, whose corner is (1, 1), mapped by nothing.
Corner corner(const std::string& elements, const std::string& plane = "stress", double size = 0.12) {
    Corner c;
    Problems problems("test.toml");
    c.both = open_study("test.toml",
                        "format = 1\n[part]\nplane = \"" + plane +
                            "\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 2]\nnames = { left = \"left\", right "
                            "= \"right\" }\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [1, 1]\nsize = [2, 2]\n"
                            "[material.m]\nyoungs_modulus = 200\npoissons_ratio = 0.3\nconductivity = 3\n[support.l]\n"
                            "on = \"left\"\nhold = \"fixed\"\npotential = 0\n[load.r]\non = \"right\"\ntraction = [1, "
                            "0]\n[quantity.u]\nof = \"ux\"\n" +
                            fmt::format("[size]\nglobal = {}\n", size) + elements,
                        problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    c.mesh = generate(c.both.part, sizing_of(c.both.part, c.both.study.sizes, "."), 100000, c.both.study.mesh);
    c.laws = laws_of(c.both.study, c.mesh.region_names);
    for (const auto& p : singular_points(c.both.part, c.both.study))
        if (distance(p.position, {{1, 1}}) < 1e-9) c.points.push_back(p);
    REQUIRE(c.points.size() == 2);  // of the displacement and of the potential
    CHECK(c.points[0].of_potential != c.points[1].of_potential);
    return c;
}

const SingularPoint& point(const Corner& c, bool of_potential) {
    return c.points[0].of_potential == of_potential ? c.points[0] : c.points[1];
}

/// Displacement and its gradient: the rising modes with these factors, and a polynomial of degree 2.
struct KnownField {
    std::vector<double> factors;
    std::array<std::array<double, 6>, 2> polynomial{};
    [[nodiscard]] CornerModes::Value at(const CornerModes& modes, const Vec2& position) const {
        const Vec2 d = position - Vec2{{1, 1}};
        CornerModes::Value sum;
        std::size_t rising = 0;
        for (std::size_t k = 0; k < modes.count(); ++k) {
            if (modes.exponent(k) < 0) continue;
            const double f = factors[rising++ % factors.size()];
            const auto v = modes.at(k, d);
            for (std::size_t c = 0; c < 2; ++c) {
                sum.motion[c] += f * v.motion[c];
                sum.gradient[c] += v.gradient[c] * f;
            }
        }
        for (std::size_t c = 0; c < 2; ++c) {
            const auto& p = polynomial[c];
            sum.motion[c] +=
                p[0] + p[1] * d[0] + p[2] * d[1] + p[3] * d[0] * d[0] + p[4] * d[0] * d[1] + p[5] * d[1] * d[1];
            sum.gradient[c] += Vec2{{p[1] + 2 * p[3] * d[0] + p[4] * d[1], p[2] + p[4] * d[0] + 2 * p[5] * d[1]}};
        }
        return sum;
    }
};

constexpr std::array kinds{
    "[mesh]\nelements = \"triangles\"\norder = 1\n", "[mesh]\nelements = \"triangles\"\norder = 2\n",
    "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n", "[mesh]\nelements = \"mostly_quadrilaterals\"\norder = 2\n"};

Solution displaced(const Corner& c, const KnownField& field) {
    Solution s;
    const auto& modes = *point(c, false).modes;
    for (const Vec2& p : c.mesh.nodes)
        s.displacement.push_back(p == Vec2{{1, 1}} ? Vec2{{field.polynomial[0][0], field.polynomial[1][0]}}
                                                   : field.at(modes, p).motion);
    return s;
}

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("a displacement of modes and a polynomial is found again, with its stress") {
    std::mt19937 numbers(5);
    std::uniform_real_distribution<double> value(-1, 1);
    for (const char* kind : kinds)
        for (const std::string plane : {"stress", "strain"}) {
            CAPTURE(std::string(kind));
            const Corner c = corner(kind, plane);
            const SingularPoint& at = point(c, false);
            KnownField field{{1, -0.7, 0.4, 0.3}, {}};
            for (auto& p : field.polynomial)
                for (auto& v : p) v = value(numbers);
            const Solution s = displaced(c, field);
            const auto fits = singular_fits(c.mesh, c.laws, s, {at}, 1e-9);
            REQUIRE(fits.size() == 1);
            CHECK(fits[0].shows());
            CHECK(fits[0].exponent() == doctest::Approx(0.5445).epsilon(1e-3));
            CHECK(c.mesh.nodes[static_cast<std::size_t>(fits[0].node())] == Vec2{{1, 1}});
            // The elements that touch the point, and those that touch these
            std::vector<char> touched(c.mesh.nodes.size(), 0);
            touched[static_cast<std::size_t>(fits[0].node())] = 1;
            std::vector<std::int32_t> expected;
            for (int layer = 0; layer < 2; ++layer) {
                expected.clear();
                for (std::size_t e = 0; e < c.mesh.element_count(); ++e)
                    for (const auto n : c.mesh.element(e))
                        if (touched[static_cast<std::size_t>(n)]) {
                            expected.push_back(static_cast<std::int32_t>(e));
                            break;
                        }
                for (const auto e : expected)
                    for (const auto n : c.mesh.element(static_cast<std::size_t>(e)))
                        touched[static_cast<std::size_t>(n)] = 1;
            }
            CHECK(fits[0].elements() == expected);
            for (const auto element : fits[0].elements()) {
                const auto e = static_cast<std::size_t>(element);
                for (const auto& q : quadrature(c.mesh.kinds[e], 4)) {
                    const ElementPoint p = evaluate(c.mesh.kinds[e], c.mesh.positions(e), q.xi);
                    const auto g = field.at(*at.modes, p.position).gradient;
                    const Stress exact = c.laws.of(0).elastic.stress({g[0][0], g[1][1], g[0][1] + g[1][0], 0});
                    const Stress found = fits[0].stress(e, p);
                    for (std::size_t k = 0; k < 4; ++k)
                        CHECK(found[k] == doctest::Approx(exact[k]).epsilon(1e-6).scale(von_mises(exact)));
                }
            }
        }
}

TEST_CASE("a potential of modes is found again, with its flux") {
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const Corner c = corner(kind);
        const SingularPoint& at = point(c, true);
        const KnownField field{{2, 0.5}, {{{1, 0.3, -0.4, 0.2, 0.1, -0.3}, {}}}};
        Solution s;
        s.potential.resize(c.mesh.node_of_slot.size());
        for (std::size_t slot = 0; slot < s.potential.size(); ++slot) {
            const Vec2& p = c.mesh.nodes[static_cast<std::size_t>(c.mesh.node_of_slot[slot])];
            s.potential[slot] = p == Vec2{{1, 1}} ? 1 : field.at(*at.modes, p).motion[0];
        }
        const auto fits = singular_fits(c.mesh, c.laws, s, {at}, 1e-9);
        REQUIRE(fits.size() == 1);
        CHECK(fits[0].of_potential());
        CHECK(fits[0].exponent() == doctest::Approx(2.0 / 3).epsilon(1e-4));
        for (const auto element : fits[0].elements()) {
            const auto e = static_cast<std::size_t>(element);
            const ElementPoint p = evaluate(c.mesh.kinds[e], c.mesh.positions(e), reference_middle(c.mesh.kinds[e]));
            const Vec2 exact = c.laws.of(0).conduction.flux(field.at(*at.modes, p.position).gradient[0]);
            CHECK(norm(fits[0].flux(e, p) - exact) < 1e-6 * norm(exact));
        }
    }
}

TEST_CASE("the falling field that elements bring from the point is taken up and left out") {
    const Corner c = corner(kinds[1]);
    const SingularPoint& at = point(c, false);
    const KnownField field{{1, -0.5, 0.2, 0.1}, {}};
    Solution s = displaced(c, field);
    std::size_t falling = 0;
    while (at.modes->exponent(falling) > 0) ++falling;
    for (std::size_t n = 0; n < s.displacement.size(); ++n)
        if (c.mesh.nodes[n] != Vec2{{1, 1}})
            s.displacement[n] += at.modes->at(falling, c.mesh.nodes[n] - Vec2{{1, 1}}).motion * 1e-3;
    const auto fits = singular_fits(c.mesh, c.laws, s, {at}, 1e-9);
    REQUIRE(fits.size() == 1);
    const auto e = static_cast<std::size_t>(fits[0].elements().front());
    const ElementPoint p = evaluate(c.mesh.kinds[e], c.mesh.positions(e), reference_middle(c.mesh.kinds[e]));
    const auto g = field.at(*at.modes, p.position).gradient;
    const Stress exact = c.laws.of(0).elastic.stress({g[0][0], g[1][1], g[0][1] + g[1][0], 0});
    for (std::size_t k = 0; k < 3; ++k)
        CHECK(fits[0].stress(e, p)[k] == doctest::Approx(exact[k]).epsilon(1e-6).scale(von_mises(exact)));
}

TEST_CASE("where the field is smooth, rough or seen by too few elements, nothing is fitted") {
    const Corner c = corner(kinds[1]);
    const SingularPoint& at = point(c, false);
    const KnownField polynomial{{0}, {{{1, 2, -1, 0.5, 0.2, 0.1}, {0, 1, 1, -0.3, 0.2, 0.4}}}};
    CHECK(singular_fits(c.mesh, c.laws, displaced(c, polynomial), {at}, 1e-9).empty());
    // Values by chance are no better described with the modes.
    std::mt19937 numbers(3);
    std::uniform_real_distribution<double> value(-1, 1);
    Solution rough;
    for (std::size_t n = 0; n < c.mesh.nodes.size(); ++n)
        rough.displacement.push_back({{value(numbers), value(numbers)}});
    CHECK(singular_fits(c.mesh, c.laws, rough, {at}, 1e-9).empty());
    // Nor is a displacement of zero.
    Solution still;
    still.displacement.assign(c.mesh.nodes.size(), {});
    CHECK(singular_fits(c.mesh, c.laws, still, {at}, 1e-9).empty());
    // The modes hold near the point only: here within less than an element, or where another point is nearer.
    const Solution s = displaced(c, {{1}, {}});
    SingularPoint close = at;
    close.reach = 0.05;
    CHECK(singular_fits(c.mesh, c.laws, s, {close}, 1e-9).empty());
    std::vector<SingularPoint> crowd{at};
    for (const Vec2& d : {Vec2{{0.1, 0}}, Vec2{{-0.1, 0}}, Vec2{{0, 0.1}}, Vec2{{0, -0.1}}}) {
        SingularPoint other = at;
        other.position = at.position + d;
        other.modes = nullptr;
        crowd.push_back(other);
    }
    CHECK(singular_fits(c.mesh, c.laws, s, crowd, 1e-9).empty());
    // A point that is no node
    SingularPoint beside = at;
    beside.position = {{1.01, 0.99}};
    CHECK(singular_fits(c.mesh, c.laws, s, {beside}, 1e-9).empty());
}

TEST_CASE("elements that hold the fitted field exactly have no error left, and the corner's energy is summed right") {
    // A field that is linear beside a weak mode: with linear triangles the estimate is the mode's own energy less what
    // the elements show of it, so it falls with the square of the mode's factor.
    const Corner c = corner(kinds[0]);
    const SingularPoint& at = point(c, false);
    std::array<double, 2> errors{};
    for (std::size_t k = 0; k < 2; ++k) {
        const Solution s = displaced(c, {{k == 0 ? 1.0 : 0.5}, {{{0, 1, 2, 0, 0, 0}, {0, -1, 0.5, 0, 0, 0}}}});
        const auto fits = singular_fits(c.mesh, c.laws, s, {at}, 1e-9);
        REQUIRE(fits.size() == 1);
        const ErrorMap map = estimate_error(c.mesh, c.laws, s, recover_stress(c.mesh, c.both.study, c.laws, s), fits);
        for (const auto e : fits[0].elements()) errors[k] += map.element_error2[static_cast<std::size_t>(e)];
    }
    CHECK(errors[0] > 0);
    CHECK(errors[1] == doctest::Approx(0.25 * errors[0]).epsilon(1e-6));
}

TEST_SUITE_END();
