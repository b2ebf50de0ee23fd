// Values held against limits.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "evidence/report/report_tables.hpp"
#include "statistics/combined.hpp"
#include "statistics/limit.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

QuantityLimit highest(double value, double safety = 1) {
    QuantityLimit l;
    l.highest = value;
    l.safety = safety;
    return l;
}

QuantityLimit lowest(double value, double safety = 1) {
    QuantityLimit l;
    l.lowest = value;
    l.safety = safety;
    return l;
}

LimitAnswer answer(const QuantityLimit& limit, double value, double half_width) {
    return judge_limit(limit, value, half_width, true, "MPa").answer;
}

}  // namespace

TEST_SUITE_BEGIN("statistics");

TEST_CASE("a value is inside a limit when its whole interval is, and outside when nothing of it is") {
    CHECK(answer(highest(160), 150, 9) == LimitAnswer::inside);
    CHECK(answer(highest(160), 150, 10) == LimitAnswer::inside);
    CHECK(answer(highest(160), 150, 11) == LimitAnswer::undecided);
    CHECK(answer(highest(160), 170, 11) == LimitAnswer::undecided);
    CHECK(answer(highest(160), 170, 9) == LimitAnswer::outside);
    CHECK(answer(lowest(-160), -150, 9) == LimitAnswer::inside);
    CHECK(answer(lowest(-160), -150, 11) == LimitAnswer::undecided);
    CHECK(answer(lowest(-160), -170, 9) == LimitAnswer::outside);
    CHECK(answer(highest(160), 150, NAN) == LimitAnswer::undecided);
    CHECK(judge_limit(highest(160), 150, 1, false, "").answer == LimitAnswer::undecided);
    QuantityLimit both = highest(160);
    both.lowest = 150;
    CHECK(answer(both, 157, 2) == LimitAnswer::inside);
    CHECK(answer(both, 157, 5) == LimitAnswer::undecided);  // beyond the nearer one
    CHECK(answer(both, 155, 5) == LimitAnswer::inside);
    CHECK(answer(both, 149, 0.5) == LimitAnswer::outside);
    CHECK_FALSE(judge_limit(both, 152, 1, true, "").highest);
}

TEST_CASE("a factor of safety makes every limit stricter, whatever its sign") {
    CHECK(highest(240, 1.5).allowed_highest() == 160);
    CHECK(highest(-100, 1.5).allowed_highest() == -150);
    CHECK(lowest(-240, 1.5).allowed_lowest() == -160);
    CHECK(lowest(10, 1.5).allowed_lowest() == 15);
    CHECK(answer(highest(240, 1.5), 170, 1) == LimitAnswer::outside);
    CHECK(answer(highest(240), 170, 1) == LimitAnswer::inside);
}

TEST_CASE("shares of a limit are one at it, from either side") {
    const auto shares = [](const QuantityLimit& l, double value, double half_width) {
        const LimitVerdict v = judge_limit(l, value, half_width, true, "MPa");
        return std::array{v.used, v.used_at_most, v.reserve, v.deciding};
    };
    CHECK(shares(highest(200), 100, 20) == std::array{0.5, 0.6, 80.0, 100.0});
    CHECK(shares(lowest(-200), -100, 20) == std::array{0.5, 0.6, 80.0, 100.0});
    CHECK(shares(highest(200), -100, 20) == std::array{0.0, 0.0, 280.0, 300.0});
    CHECK(shares(lowest(5), 10, 0)[0] == 0.5);  // a clamp that must keep 5 and keeps 10
    CHECK(shares(highest(-5), -10, 0)[0] == 0.5);
    CHECK(std::isinf(shares(lowest(5), -1, 0)[0]));
    CHECK(std::isnan(shares(highest(0), -1, 0.5)[0]));
    CHECK(answer(highest(0), -1, 0.5) == LimitAnswer::inside);
}

TEST_CASE("sentences say what is decided, and what would decide it") {
    const auto said = [](const QuantityLimit& l, double value, double half_width, bool converges = true) {
        return judge_limit(l, value, half_width, converges, "MPa").sentence;
    };
    CHECK(said(highest(240, 1.5), 100, 4) ==
          "It stays below the limit of 160 MPa (240 MPa with a factor of safety of 1.5): 62 % of it used, 65 % at "
          "most; reserve 56.0 MPa.");
    CHECK(said(highest(160), 170, 2) == "It is above the limit of 160 MPa, by 8.00 MPa at least.");
    CHECK(said(lowest(-160), -170, 2) == "It is below the limit of -160 MPa, by 8.00 MPa at least.");
    CHECK(said(highest(160), 158, 5) ==
          "Whether it stays below the limit of 160 MPa is not decided: it takes an uncertainty of ± 2.00 MPa, now ± "
          "5.00 MPa.");
    CHECK(has(said(highest(160), 158, NAN), "no interval is known"));
    CHECK(has(said(highest(160), 158, 1, false), "No limit can be held against it; 160 MPa is wanted."));
}

TEST_CASE("limits that are not kept stand first, then those not decided, and the one most used governs") {
    Study study;
    StudyResult result;
    const auto add = [&](const std::string& name, double value, double half_width, bool converges = true) {
        QuantitySpec q;
        q.name = name;
        q.limit = highest(100);
        QuantityVerdict v;
        v.quantity = name;
        v.unit = "MPa";
        v.interval.value = value;
        v.interval.half_width = converges ? half_width : NAN;
        v.verdict = converges ? Verdict::no_target : Verdict::unbounded;
        hold_to_limit(q, v);
        study.quantities.push_back(q);
        result.headline.push_back(v);
    };
    add("easy", 20, 1);
    add("near", 90, 1);
    CHECK(result.all_limits_kept());
    add("singular", 300, 1, false);
    add("close", 99, 2);
    CHECK_FALSE(result.all_limits_kept());
    add("far_beyond", 140, 1);
    add("beyond", 110, 1);
    const Table table = limits_table(study, result);
    std::vector<std::string> order, governing;
    for (const auto& row : table.rows) {
        order.push_back(row.front().text);
        if (row.back().below == "governs") governing.push_back(row.front().text);
    }
    CHECK(order == std::vector<std::string>{"far_beyond", "beyond", "close", "singular", "near", "easy"});
    CHECK(governing == std::vector<std::string>{"far_beyond"});
    CHECK(limits_table(study, StudyResult{}).rows.empty());
}

TEST_CASE("where two series disagree the limit is held to the widened interval of both") {
    QuantitySpec q;
    q.name = "q";
    q.limit = highest(105);
    const auto of_series = [](const std::string& name, double value, double half_width, double error) {
        QuantityVerdict v;
        v.quantity = "q";
        v.series = name;
        v.interval.value = v.convergence.finest = value;
        v.interval.half_width = half_width;
        v.estimated_error = error;
        v.verdict = Verdict::no_target;
        return v;
    };
    const std::vector<QuantityVerdict> agree{of_series("a", 100, 2, 0.01), of_series("b", 101, 2, 0.02)};
    CHECK(combined_verdict(q, agree).limit->answer == LimitAnswer::inside);
    const std::vector<QuantityVerdict> apart{of_series("a", 100, 2, 0.01), of_series("b", 110, 2, 0.02)};
    const QuantityVerdict both = combined_verdict(q, apart);
    CHECK(both.limit->answer == LimitAnswer::undecided);
    CHECK(has(both.sentence, "is not decided"));
    CHECK(std::count(both.sentence.begin(), both.sentence.end(), '\n') == 0);
    // The sentence tells the limit once.
    CHECK(both.sentence.find("limit of 105") == both.sentence.rfind("limit of 105"));
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("quantities");

namespace {

const std::string strip = R"([[part.shape]]
add = "rectangle"
corner = [1, 2]
size = [4, 1]
names = { left = "left", right = "right", bottom = "long", top = "long" }
[part]
thickness = 2
[size]
global = 0.7
)";

}  // namespace

TEST_CASE("displacements relative to a point, and the turn of a boundary, of a motion that is known") {
    // A stretch of 0.01 along x, a turn of 0.003 and a shift together.
    const auto s = solve_cases_of(strip + R"([material.m]
youngs_modulus = 1000
poissons_ratio = 0
[support.all]
on = ["left", "right", "long"]
ux = "5 + 0.01 * x - 0.003 * y"
uy = "7 + 0.003 * x"
[quantity.apart]
of = "ux"
at = [5, 2.5]
relative_to = [2, 2.5]
[quantity.mean_apart]
of = "uy"
take = "mean"
on = "right"
relative_to = [1, 2.5]
[quantity.size]
of = "displacement"
on = "right"
relative_to = [5, 2]
[quantity.farthest]
of = "displacement"
relative_to = [5, 2.5]
[quantity.end]
of = "turn"
on = "right"
[quantity.side]
of = "turn"
on = "long"
[quantity.plain]
of = "ux"
at = [5, 2.5]
)");
    CHECK(s.value("apart") == doctest::Approx(0.03));
    CHECK(s.value("mean_apart") == doctest::Approx(0.012));
    CHECK(s.value("size") == doctest::Approx(0.003));  // at the other end of the side, which has turned
    double farthest = 0;                               // a motion that is linear is largest at a corner
    for (const auto& p : s.mesh.nodes)
        farthest = std::max(farthest, std::hypot(0.01 * (p[0] - 5) - 0.003 * (p[1] - 2.5), 0.003 * (p[0] - 5)));
    CHECK(s.value("farthest") == doctest::Approx(farthest));
    CHECK(s.value("end") == doctest::Approx(0.003));
    CHECK(s.value("side") == doctest::Approx(0.003));
    CHECK(s.value("plain") == doctest::Approx(5.05 - 0.0075));
}

TEST_CASE("the dissipation of a strip is conductivity times the squared fall over its length") {
    const auto s = solve_cases_of(strip + R"([material.m]
conductivity = 3
[support.cold]
on = "left"
potential = 10
[support.hot]
on = "right"
potential = 50
[quantity.d]
of = "dissipation"
)");
    CHECK(s.value("d") == doctest::Approx(3 * 40.0 * 40.0 / 4 * 1 * 2));
    CHECK(unit_of(s.both.study, s.both.study.quantities[0]) == "W K");
}

TEST_CASE("a quantity of every case becomes one for each, with its limit") {
    const auto s = solve_cases_of(strip + R"([material.m]
youngs_modulus = 1000
poissons_ratio = 0
[support.s]
on = "left"
hold = "fixed"
[load.pull]
on = "right"
pressure = -1
[case.one]
factors = { pull = 1 }
[case.two]
factors = { pull = 2 }
[case.other]
factors = { pull = 3 }
[quantity.long]
of = "ux"
at = [5, 2.5]
case = "*"
limit = { highest = 0.01 }
[quantity.both]
of = "ux"
at = [5, 2.5]
case = "t*"
[quantity.ratio]
formula = "long_two / long_one"
)");
    REQUIRE(s.quantities.size() == 5);
    CHECK(s.value("long_one") == doctest::Approx(0.004));
    CHECK(s.value("long_two") == doctest::Approx(0.008));
    CHECK(s.value("long_other") == doctest::Approx(0.012));
    CHECK(s.value("both_two") == doctest::Approx(0.008));
    CHECK(s.value("ratio") == doctest::Approx(2));
    CHECK(s.both.study.quantities[2].limit->highest == 0.01);
}

TEST_CASE("limits, points and cases that contradict are told") {
    const auto faults = [](const std::string& quantity) {
        return faults_of(R"(format = 1
[units]
length = "mm"
[[part.shape]]
add = "rectangle"
size = [4, 1]
names = { left = "left", right = "right" }
)" + rest_of_study() + "[quantity.z]\n" +
                         quantity);
    };
    CHECK(faults("of = \"ux\"\nlimit = { highest = \"2 mm\", lowest = -1 }\n") == "");
    CHECK(has(faults("of = \"ux\"\nlimit = {}\n"), "neither highest nor lowest"));
    CHECK(has(faults("of = \"ux\"\nlimit = 5\n"), "limit"));
    CHECK(has(faults("of = \"ux\"\nlimit = { highest = 1, lowest = 2 }\n"), "leaves no value"));
    CHECK(has(faults("of = \"ux\"\nlimit = { highest = 3, lowest = 2, factor_of_safety = 2 }\n"),
              "with the factor of safety"));
    CHECK(has(faults("of = \"ux\"\nlimit = { highest = 3, factor_of_safety = 0.5 }\n"), "loosen"));
    CHECK(has(faults("of = \"ux\"\nlimit = { highest = 0, factor_of_safety = 2 }\n"), "changes nothing"));
    CHECK(has(faults("of = \"ux\"\nlimit = { highest = \"2 MPa\" }\n"), "highest"));
    CHECK(has(faults("of = \"ux\"\nlimit = { higest = 2 }\n"), "did you mean \"highest\""));
    CHECK(has(faults("of = \"von_mises\"\nrelative_to = [1, 0.5]\n"), "goes with displacements"));
    CHECK(has(faults("of = \"ux\"\nrelative_to = [9, 0.5]\n"), "lies outside the part"));
    CHECK(has(faults("of = \"ux\"\nrelative_to = \"nobody\"\n"), "nobody"));
    CHECK(has(faults("of = \"ux\"\nat = [1, 0.5]\nrelative_to = [2, 0.5]\ndual = true\n"), "cannot be had"));
    CHECK(has(faults("of = \"turn\"\n"), "turn is wanted"));
    CHECK(has(faults("of = \"turn\"\non = \"part\"\n"), "is a region"));
    CHECK(has(faults("of = \"ux\"\ncase = \"*\"\n"), "no case"));
    CHECK(has(faults("of = \"ux\"\ncase = \"*\"\n[quantity.z_a]\nof = \"uy\"\n[case.a]\nfactors = {}\n"),
              "another one has that name"));
    CHECK(has(faults("of = \"strain_energy\"\nalong = \"p\"\n[path.p]\npoints = [[0, 0], [4, 1]]\n"),
              "has no meaning for strain_energy"));
    CHECK(has(faults("of = \"turn\"\non = \"left\"\ntake = \"mean\"\n"), "has no meaning for turn"));
    for (const std::string field : {"turn", "dissipation"})
        CHECK(has(faults("of = \"ux\"\n[series.s]\nkind = \"adaptive\"\nstrategy = \"share_of_error\"\nindicator = "
                         "\"jump\"\nof = \"" +
                         field + "\"\n"),
                  "is a sum and no field"));
}

TEST_SUITE_END();
