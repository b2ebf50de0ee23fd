#include <doctest/doctest.h>

#include <cmath>

#include "statistics/verdict.hpp"

using namespace dotsift;

TEST_SUITE_BEGIN("statistics");

TEST_CASE("the order of values that lie on both sides of the exact one, on meshes of uneven ratios") {
    for (const double p : {1.0, 2.0, 3.5}) {
        CAPTURE(p);
        const auto at = [p](double h, double side) { return LevelValue{h, 1 + side * 0.01 * std::pow(h, p)}; };
        CHECK(observed_order(at(1, 1), at(2, -1), at(3, 1)) == doctest::Approx(p).epsilon(1e-8));
        CHECK(observed_order(at(1, 1), at(1.3, 1), at(3, 1)) == doctest::Approx(p).epsilon(1e-8));
    }
}

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
    const auto judged = [](const std::vector<LevelValue>& levels, double terms = 0) {
        const Convergence c = judge_convergence(levels, 2, terms);
        QuantityEvidence e;
        e.levels = levels;
        e.expected_order = 2;
        e.terms = terms;
        return std::pair(c, interval_of(e, c));
    };
    CHECK(judged({}).first.behaviour == Behaviour::too_few);
    CHECK(judged({{1, 3}}).first.behaviour == Behaviour::too_few);
    const auto two = judged({{2, 3}, {1, 4}});
    CHECK(two.first.behaviour == Behaviour::too_few);
    CHECK(two.first.change == doctest::Approx(0.25));
    CHECK(!two.second.known());
    const auto still = judged({{3, 7}, {2, 7}, {1, 7}});
    CHECK(still.first.behaviour == Behaviour::settled);
    CHECK(still.second.half_width == doctest::Approx(7 * rounding_share));
    CHECK(judged({{3, 1e-13}, {2, -2e-13}, {1, 5e-13}}, 100).first.behaviour == Behaviour::settled);
    const auto o = judged({{4, 1.0}, {2, 1.4}, {1, 1.2}});
    CHECK(o.first.behaviour == Behaviour::oscillating);
    CHECK(o.second.half_width > 0.2 / 3);
    CHECK(std::isnan(o.first.extrapolated));
    const auto d = judged({{4, 1.0}, {2, 1.5}, {1, 2.3}});
    CHECK(d.first.behaviour == Behaviour::diverging);
    CHECK(!d.second.known());
    const auto s = judged({{4, 1.0}, {2, 1.0001}, {1, 1.0003}});
    CHECK(s.first.behaviour == Behaviour::scattered);
    CHECK(s.second.half_width > 0.0002 / 3);
    const auto last = judged({{4, 1.0}, {2, 1.5}, {1, 1.5}});
    CHECK(last.first.behaviour == Behaviour::monotone);
    CHECK(last.second.half_width > 0.5 / 3 / 4);
}

TEST_CASE("least squares find the expansion that made the values") {
    for (const double p : {0.7, 1.0, 1.6, 2.0}) {
        std::vector<LevelValue> levels;
        for (const double h : {3.0, 2.2, 1.5, 1.0, 0.6}) levels.push_back({h, 5 - 0.3 * std::pow(h, p)});
        const LeastSquaresUncertainty u = least_squares_uncertainty(levels, 2);
        CHECK(u.observed_order == doctest::Approx(p).epsilon(1e-5));
        CHECK(u.fit.limit == doctest::Approx(5).epsilon(1e-6));
        CHECK(u.safety_factor == usual_safety_factor);
        CHECK(u.half_width == doctest::Approx(1.25 * 0.3 * std::pow(0.6, p)).epsilon(1e-3));
        CHECK(u.fit.coefficients.front() == doctest::Approx(-0.3).epsilon(1e-4));
    }
    std::vector<LevelValue> high, low, noise;
    for (const double h : {4.0, 3.0, 2.0, 1.0}) {
        high.push_back({h, 1 + std::pow(h, 4)});
        low.push_back({h, 1 + std::pow(h, 0.2)});
    }
    const auto too_high = least_squares_uncertainty(high, 2), too_low = least_squares_uncertainty(low, 2);
    CHECK(too_high.safety_factor == cautious_safety_factor);
    CHECK(too_high.fit.powers == std::vector<double>{2});  // of order 1 and 2 the better one
    CHECK(too_low.fit.powers == std::vector<double>{1, 2});
    // Noise without order: the band is wider than the values' range.
    int k = 0;
    for (const double h : {4.0, 3.0, 2.0, 1.5, 1.0}) noise.push_back({h, 1 + ((k++ % 2) ? 0.01 : -0.01)});
    const auto scattered = least_squares_uncertainty(noise, 2);
    CHECK(scattered.fit.deviation > scattered.range);
    CHECK(scattered.half_width > 0.02);
    CHECK_THROWS_AS((void)least_squares_uncertainty({{3, 1}, {2, 1}, {1, 1}}, 2), std::invalid_argument);
    // Sizes and values of any unit give the same.
    std::vector<LevelValue> scaled;
    for (const auto& l : noise) scaled.push_back({1e-6 * l.h, 1e9 * l.value});
    CHECK(least_squares_uncertainty(scaled, 2).half_width == doctest::Approx(1e9 * scattered.half_width).epsilon(1e-6));
}

TEST_CASE("the order that theory promises") {
    QuantitySpec q;
    q.field = Field::ux;
    CHECK(expected_order(q, 1) == 2);
    CHECK(expected_order(q, 2) == 3);
    CHECK(expected_order(q, 2, 0.5445) == doctest::Approx(1.089));
    q.field = Field::strain_energy;
    CHECK(expected_order(q, 2) == 4);
    CHECK(expected_order(q, 1) == 2);
    q.field = Field::reaction_x;
    CHECK(expected_order(q, 2) == 4);
    q.formula.emplace();
    CHECK(expected_order(q, 2) == 3);
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
    q.target = QuantityTarget{0.02};
    const auto value = [](double h) { return 100 - 0.5 * std::pow(h, 3); };
    QuantityEvidence evidence;
    evidence.series = "uniform";
    evidence.unit = "MPa";
    evidence.levels = {{4, value(4)}, {2, value(2)}, {1, value(1)}};
    evidence.expected_order = 3;
    const auto met = judge_quantity(q, evidence);
    CHECK(met.verdict == Verdict::met);
    CHECK(met.sentence ==
          "peak = 99.5 MPa ± 1.7 % (95 %; 3 levels, observed order 3.00, expected 3, in the asymptotic range); the "
          "target of 2.0 % is met.");
    evidence.caution = "Only the notch became finer.";
    CHECK(judge_quantity(q, evidence).sentence.ends_with("is met. Only the notch became finer."));
    evidence.caution.clear();
    q.target = QuantityTarget{0.001};
    CHECK(judge_quantity(q, evidence).verdict == Verdict::missed);
    q.target.reset();
    CHECK(judge_quantity(q, evidence).verdict == Verdict::no_target);
    q.target = QuantityTarget{0.01};
    evidence.levels = {{1, 5}};
    const auto few = judge_quantity(q, evidence);
    CHECK(few.verdict == Verdict::undecided);
    CHECK(few.sentence.find("not shown to be met") != std::string::npos);
    evidence.levels = {{4, 1}, {2, 1.5}, {1, 2.3}};
    const auto grows = judge_quantity(q, evidence);
    CHECK(grows.sentence.find("does not converge") != std::string::npos);
    CHECK(grows.verdict == Verdict::undecided);
}

TEST_SUITE_END();
