// Intervals of single quantities, what they are made of, and what several series say together.

#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "statistics/combined.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using dotsift::test::has;

namespace {

QuantityEvidence evidence_of(const std::vector<LevelValue>& levels, QuantityKind kind, double expected = 2) {
    QuantityEvidence e;
    e.series = "s";
    e.levels = levels;
    e.measure = kind;
    e.expected_order = expected;
    return e;
}

Interval interval(const QuantityEvidence& e) {
    return interval_of(e, judge_convergence(e.levels, e.expected_order, e.terms));
}

std::vector<LevelValue> made(double limit, double factor, double p, const std::vector<double>& sizes) {
    std::vector<LevelValue> levels;
    for (const double h : sizes) levels.push_back({h, limit + factor * std::pow(h, p)});
    return levels;
}

constexpr std::array kinds{QuantityKind::displacement, QuantityKind::local, QuantityKind::peak,
                           QuantityKind::mean,         QuantityKind::total, QuantityKind::unknown};

}  // namespace

TEST_SUITE_BEGIN("statistics");

TEST_CASE("with two levels a mean has what its dual problem says, more of it with quadratic elements") {
    for (const auto& [degree, factor] : {std::pair{1, 1.5}, std::pair{2, 4.0}}) {
        QuantityEvidence e;
        e.measure = QuantityKind::mean;
        e.levels = {{2, 1.1}, {1, 1.05}};
        e.degree = degree;
        e.expected_order = 2;
        e.dual_error = -0.01;
        CHECK(interval_of(e, judge_convergence(e.levels, 2)).half_width == doctest::Approx(factor * 0.01));
    }
}

TEST_CASE("values that converge as expected are held, and not by far more than they need") {
    for (const auto kind : kinds)
        for (const double p : {1.0, 2.0, 3.0, 4.0})
            for (const double r : {1.25, 1.5, 2.0}) {
                const auto i = interval(evidence_of(made(5, -0.3, p, {r * r, r, 1}), kind, p));
                CAPTURE(name_of(kind));
                CHECK(i.half_width > 0.3);
                CHECK(i.half_width < 4 * 0.3);
            }
}

TEST_CASE("convergence that is slower than expected is believed") {
    for (const auto kind : kinds)
        for (const double p : {0.1, 0.2, 0.3, 0.4, 0.5, 0.7}) {
            CAPTURE(name_of(kind));
            CAPTURE(p);
            const auto i = interval(evidence_of(made(1, 1, p, {8, 4, 2, 1}), kind));
            CHECK(i.half_width > 1);
        }
    CHECK(has(interval(evidence_of(made(1, 1, 0.3, {4, 2, 1}), QuantityKind::mean)).rule, "the observed one"));
}

TEST_CASE("a change that is small by chance does not make the interval narrow") {
    const std::vector<LevelValue> levels{{4, 1.0}, {2, 1.4}, {1, 1.40001}};
    CHECK(judge_convergence(levels, 2).observed_order > 10);
    for (const auto kind : kinds) CHECK(interval(evidence_of(levels, kind)).half_width > 0.6 * 0.4 / 3 / 4);
}

TEST_CASE("what is known besides the levels widens the interval") {
    const auto levels = made(5, -0.01, 2, {4, 2, 1});
    auto e = evidence_of(levels, QuantityKind::peak);
    const double alone = interval(e).half_width;
    e.spread = 0.5;
    CHECK(interval(e).half_width > std::max(alone, 0.25));
    CHECK(has(interval(e).rule, "how far the fits round the place differ"));
    e = evidence_of(levels, QuantityKind::mean);
    e.dual_error = 0.5;
    CHECK(interval(e).half_width > 0.5);
    e.dual_radius = 0.1;  // another quantity: a mean round the place
    CHECK(interval(e).half_width < 0.1);
    e = evidence_of(levels, QuantityKind::displacement);
    e.unseen_errors = {0.02, 0.02, 0.02};  // of the value
    CHECK(interval(e).half_width > 0.02 * 4.99);
    CHECK(has(interval(e).rule, "geometry"));
    // Where it falls with the meshes, the levels' changes show it, but not those of some sizes only.
    const double seen = interval(evidence_of(levels, QuantityKind::displacement)).half_width;
    e.unseen_errors = {0.08, 0.04, 0.02};
    CHECK(interval(e).half_width == doctest::Approx(seen));
    e.kind = SeriesKind::local;
    CHECK(interval(e).half_width > 0.02 * 4.99);
    e = evidence_of(levels, QuantityKind::mean);
    e.kind = SeriesKind::local;
    e.estimated_errors = {0.5, 0.4, 0.3};
    CHECK(interval(e).half_width > 3 * 0.09 * 4.9);
}

TEST_CASE("the rule says when Richardson's extrapolation itself decides") {
    // Totals count the changes least.
    const auto i = interval(evidence_of(made(5, -0.3, 4, {4, 2, 1}), QuantityKind::total, 4));
    CHECK(i.half_width == doctest::Approx(1.05 * 0.3));
    CHECK(has(i.rule, "1.05 times what the last change shows"));
    CHECK(has(interval(evidence_of(made(5, -0.3, 2, {4, 2, 1}), QuantityKind::mean)).rule, "the last two changes"));
}

TEST_CASE("the interval knows the elements and the kind of series") {
    const auto of = [](QuantityKind kind, double quadrilaterals, int degree, SeriesKind series) {
        auto e = evidence_of(made(5, -0.01, 2, {4, 2, 1}), kind);
        e.quadrilaterals = quadrilaterals;
        e.degree = degree;
        e.kind = series;
        return interval(e).half_width;
    };
    for (const auto kind : {QuantityKind::local, QuantityKind::peak}) {
        const double triangles = of(kind, 0, 2, SeriesKind::uniform),
                     quadrilaterals = of(kind, 1, 2, SeriesKind::uniform);
        CHECK(quadrilaterals < triangles);
        CHECK(of(kind, 0.5, 2, SeriesKind::uniform) == doctest::Approx((triangles + quadrilaterals) / 2));
        CHECK(of(kind, 0, 2, SeriesKind::adaptive) > triangles);
    }
    CHECK(of(QuantityKind::mean, 0, 1, SeriesKind::uniform) < of(QuantityKind::mean, 0, 2, SeriesKind::uniform));
    CHECK(of(QuantityKind::displacement, 0, 1, SeriesKind::uniform) ==
          of(QuantityKind::displacement, 1, 2, SeriesKind::adaptive));
}

TEST_CASE("one and two levels: totals by the energy's error, means by their dual problem, nothing else") {
    for (const auto kind : kinds) {
        auto e = evidence_of({{1, 3.0}}, kind);
        e.estimated_errors = {0.1};
        CHECK(interval(e).known() == (kind == QuantityKind::total));
        e.dual_error = 0.1;
        CHECK(interval(e).known() == (kind == QuantityKind::total || kind == QuantityKind::mean));
        e.unseen_errors = {1e-3};
        if (interval(e).known()) CHECK(interval(e).half_width >= 1e-3 * 3);
        // A dual problem that sees nothing does not make a value certain.
        e.dual_error = 1e-15;
        if (interval(e).known()) CHECK(interval(e).half_width >= 1e-3 * 3);
    }
    const auto grows = [](double dual) {
        auto e = evidence_of({{4, 1.0}, {2, 1.5}, {1, 2.3}}, QuantityKind::mean);
        if (dual != 0) e.dual_error = dual;
        return interval(e);
    };
    CHECK(!grows(0).known());
    CHECK(grows(0.2).half_width == doctest::Approx(0.6));
}

TEST_CASE("values of unknown origin: wider, no promise, and pure noise is mostly held") {
    auto e = evidence_of(made(5, 0.3, 2, {4, 2, 1}), QuantityKind::unknown);
    e.order_known = false;
    CHECK(interval(e).half_width == doctest::Approx(3 * 0.3));
    CHECK(!interval(e).promised);
    QuantitySpec q;
    q.name = "q";
    CHECK(has(judge_quantity(q, e).sentence, "not promised: the formal order is not known"));
    for (const double p : {0.1, 0.3, 0.6, 1.0}) {
        auto slow = evidence_of(made(1, 1, p, {4, 2, 1}), QuantityKind::unknown);
        slow.order_known = false;
        CHECK(interval(slow).half_width > 1);
    }
    std::mt19937 random(7);
    std::normal_distribution<double> noise;
    int held = 0, judged = 0;
    for (int k = 0; k < 4000; ++k) {
        auto n = evidence_of({{4, noise(random)}, {2, noise(random)}, {1, noise(random)}}, QuantityKind::unknown);
        n.order_known = false;
        const auto i = interval(n);
        if (!i.known()) continue;
        ++judged;
        held += std::fabs(i.value) <= i.half_width;
    }
    CHECK(judged > 2000);
    CHECK(held > 0.85 * judged);
}

TEST_CASE("zero, a number near it, and targets with a unit") {
    QuantitySpec q;
    q.name = "lift";
    q.target = QuantityTarget{0.01};
    auto e = evidence_of({{4, 3e-15}, {2, -2e-15}, {1, 1e-15}}, QuantityKind::mean);
    e.terms = 100;
    e.unit = "N";
    const auto zero = judge_quantity(q, e);
    CHECK(has(zero.sentence, "lift = 0 N"));
    CHECK(zero.verdict == Verdict::met);
    e.levels = {{4, 0.5}, {2, -0.1}, {1, 0.02}};
    const auto small = judge_quantity(q, e);
    CHECK(small.verdict == Verdict::missed);
    CHECK(has(small.sentence, "lift = 0.020 ± "));
    CHECK(has(small.sentence, "cannot be told from zero: give one with a unit"));
    CHECK(!has(small.sentence, "875"));
    q.target = QuantityTarget{1, true};
    CHECK(judge_quantity(q, e).verdict == Verdict::met);
    CHECK(has(judge_quantity(q, e).sentence, "the target of 1.00 N is met"));
    q.target = QuantityTarget{1e-3, true};
    CHECK(judge_quantity(q, e).verdict == Verdict::missed);
    e.levels = {{4, 7}, {2, 7}, {1, 7}};
    q.target.reset();
    CHECK(has(judge_quantity(q, e).sentence, "the levels differ by rounding only"));
}

TEST_CASE("a reference is told with its deviation, and whether the interval holds it") {
    QuantitySpec q;
    q.name = "tip";
    q.reference = 23.96;
    auto e = evidence_of(made(23.97, -0.02, 2, {4, 2, 1}), QuantityKind::displacement);
    e.unit = "mm";
    CHECK(has(judge_quantity(q, e).sentence, "The reference 23.960 mm lies 0.042 % above, inside the interval."));
    q.reference = 30;
    CHECK(has(judge_quantity(q, e).sentence, "above, outside the interval."));
    q.reference = 20;
    CHECK(*judge_quantity(q, e).holds_reference() == false);
}

TEST_CASE("several series: the one with the smallest error in the energy norm speaks, and disagreement is told") {
    QuantitySpec q;
    q.name = "peak";
    q.target = QuantityTarget{0.02};
    const auto verdict = [&](const std::string& name, double limit, double factor, double error) {
        auto e = evidence_of(made(limit, factor, 2, {4, 2, 1}), QuantityKind::displacement);
        e.series = name;
        e.estimated_errors = {1, 1, error};
        return judge_quantity(q, e);
    };
    // The narrower interval is not the better one.
    const std::vector<QuantityVerdict> both{verdict("lucky", 10, 0.0001, 0.1), verdict("fine", 10.001, 0.01, 0.01)};
    const auto one = combined_verdict(q, both);
    CHECK(one.series == "fine");
    CHECK(one.interval.half_width == both[1].interval.half_width);
    CHECK(one.verdict == Verdict::met);
    const std::vector<QuantityVerdict> apart{verdict("a", 10, 0.01, 0.1), verdict("b", 12, 0.01, 0.01)};
    const auto two = combined_verdict(q, apart);
    CHECK(two.series == "b");
    CHECK(two.interval.half_width == doctest::Approx(2));
    CHECK(two.verdict == Verdict::missed);
    CHECK(has(two.sentence, "Series b and a disagree"));
    // No interval, no say; but what is infinite in one is infinite.
    auto none = verdict("none", 10, 0.01, 0.001);
    none.interval.half_width = NAN;
    CHECK(combined_verdict(q, std::vector{none, both[1]}).series == "fine");
    CHECK_THROWS_AS((void)combined_verdict(q, {}), std::invalid_argument);
}

TEST_SUITE_END();
