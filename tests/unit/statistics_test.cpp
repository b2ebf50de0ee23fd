#include <doctest/doctest.h>

#include <cmath>

#include "statistics/verdict.hpp"

using namespace dotsift;

TEST_SUITE_BEGIN("statistics");

TEST_CASE("published example: ratios 1.5 and 1.333, order 1.53") {  // Celik et al. 2008, table 1
    const double h1 = 1, h2 = 1.5, h3 = 1.5 * 1.333;
    const Convergence c = judge_convergence({{h3, 5.863}, {h2, 5.972}, {h1, 6.063}}, 2);
    CHECK(c.behaviour == Behaviour::monotone);
    CHECK(c.observed_order == doctest::Approx(1.53).epsilon(0.003));
    CHECK(c.extrapolated == doctest::Approx(6.1685).epsilon(1e-4));
    CHECK(c.change == doctest::Approx(0.015).epsilon(0.01));
    CHECK(c.gci_fine == doctest::Approx(0.022).epsilon(0.02));
}

TEST_CASE("published example: pressure recovery at ratio 2, order 1.786") {  // Roache's well-known worked example
    const Convergence c = judge_convergence({{4, 0.96178}, {2, 0.96854}, {1, 0.97050}}, 2);
    CHECK(c.observed_order == doctest::Approx(1.786).epsilon(3e-4));
    CHECK(c.extrapolated == doctest::Approx(0.97130).epsilon(1e-5));
    CHECK(c.gci_fine == doctest::Approx(0.00103).epsilon(0.01));
    CHECK(c.gci_coarse == doctest::Approx(0.00356).epsilon(0.01));
    CHECK(c.asymptotic_ratio == doctest::Approx(1).epsilon(0.005));
    CHECK(c.asymptotic);
}

TEST_CASE("made-up sequences give back their order and limit, for any ratios") {
    for (const double p : {0.6, 1.0, 2.0, 2.9}) {
        for (const auto& [r1, r2] : {std::pair(2.0, 2.0), std::pair(1.3, 1.7), std::pair(1.9, 1.2)}) {
            const auto value = [&](double h) { return 5 - 0.3 * std::pow(h, p); };
            const Convergence c = judge_convergence({{r1 * r2, value(r1 * r2)}, {r1, value(r1)}, {1, value(1)}}, 3);
            CHECK(c.behaviour == Behaviour::monotone);
            CHECK(c.observed_order == doctest::Approx(p).epsilon(1e-8));
            CHECK(c.extrapolated == doctest::Approx(5).epsilon(1e-9));
            CHECK(c.uncertainty == doctest::Approx(1.25 * 0.3).epsilon(1e-6));
        }
    }
}

TEST_CASE("an order above the formal one is not believed") {
    const auto value = [](double h) { return 2 + std::pow(h, 6); };
    const Convergence c = judge_convergence({{4, value(4)}, {2, value(2)}, {1, value(1)}}, 3);
    CHECK(c.observed_order == doctest::Approx(6));
    CHECK(c.used_order == 3);
    CHECK(c.safety_factor == cautious_safety_factor);
    CHECK(!c.asymptotic);
}

TEST_CASE("too few, settled, oscillating, scattered and diverging are named and not extrapolated") {
    CHECK(judge_convergence({}, 2).behaviour == Behaviour::too_few);
    CHECK(judge_convergence({{1, 3}}, 2).behaviour == Behaviour::too_few);
    const Convergence two = judge_convergence({{2, 3}, {1, 4}}, 2);
    CHECK(two.behaviour == Behaviour::too_few);
    CHECK(two.change == doctest::Approx(0.25));
    CHECK(std::isnan(two.uncertainty));
    CHECK(judge_convergence({{3, 7}, {2, 7}, {1, 7}}, 2).behaviour == Behaviour::settled);
    CHECK(judge_convergence({{3, 1e-13}, {2, -2e-13}, {1, 5e-13}}, 2, 100).behaviour == Behaviour::settled);
    const Convergence o = judge_convergence({{4, 1.0}, {2, 1.4}, {1, 1.2}}, 2);
    CHECK(o.behaviour == Behaviour::oscillating);
    CHECK(o.uncertainty == doctest::Approx(0.4));
    CHECK(std::isnan(o.extrapolated));
    const Convergence d = judge_convergence({{4, 1.0}, {2, 1.5}, {1, 2.3}}, 2);
    CHECK(d.behaviour == Behaviour::diverging);
    CHECK(std::isnan(d.uncertainty));
    const Convergence s = judge_convergence({{4, 1.0}, {2, 1.0001}, {1, 1.0003}}, 2);
    CHECK(s.behaviour == Behaviour::scattered);
    CHECK(s.uncertainty == doctest::Approx(0.0009));
    const Convergence last = judge_convergence({{4, 1.0}, {2, 1.5}, {1, 1.5}}, 2);
    CHECK(last.behaviour == Behaviour::monotone);
    CHECK(last.uncertainty > 0);
}

TEST_CASE("a stress that grows as a power of the size diverges") {
    std::vector<LevelValue> levels;
    for (const double h : {8.0, 4.0, 2.0, 1.0}) levels.push_back({h, std::pow(h, -0.45)});
    CHECK(judge_convergence(levels, 3).behaviour == Behaviour::diverging);
}

TEST_CASE("impossible input is refused") {
    CHECK_THROWS_AS((void)judge_convergence({{1, 2}, {1, 3}}, 2), std::invalid_argument);
    CHECK_THROWS_AS((void)judge_convergence({{1, 2}, {2, 3}}, 2), std::invalid_argument);
    CHECK_THROWS_AS((void)judge_convergence({{1, NAN}}, 2), std::invalid_argument);
    CHECK_THROWS_AS((void)judge_convergence({{0, 1}}, 2), std::invalid_argument);
}

TEST_CASE("verdict sentences") {
    QuantitySpec q;
    q.name = "peak";
    q.field = Field::von_mises;
    q.target = 0.02;
    const auto value = [](double h) { return 100 - 0.5 * std::pow(h, 3); };
    const std::vector<LevelValue> levels{{4, value(4)}, {2, value(2)}, {1, value(1)}};
    const auto met = judge_quantity(q, "uniform", levels, "MPa");
    CHECK(met.verdict == Verdict::met);
    CHECK(met.sentence ==
          "peak = 99.50 MPa ± 0.63 % (GCI, 3 levels, observed order 3.00, safety factor 1.25, in the asymptotic "
          "range); the target of 2.0 % is met.");
    q.target = 0.001;
    CHECK(judge_quantity(q, "uniform", levels, "MPa").verdict == Verdict::missed);
    q.target.reset();
    CHECK(judge_quantity(q, "uniform", levels, "MPa").verdict == Verdict::no_target);
    q.target = 0.01;
    const auto few = judge_quantity(q, "uniform", {{1, 5}}, "MPa");
    CHECK(few.verdict == Verdict::undecided);
    CHECK(few.sentence.find("not shown to be met") != std::string::npos);
    const auto grows = judge_quantity(q, "uniform", {{4, 1}, {2, 1.5}, {1, 2.3}}, "MPa");
    CHECK(grows.sentence.find("does not converge") != std::string::npos);
    CHECK(grows.verdict == Verdict::undecided);
}

TEST_SUITE_END();
