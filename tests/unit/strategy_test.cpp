// How series choose their next sizes, and when they end.

#include "recovery/strategy.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "part/checks/check_study.hpp"
#include "series/driving_error.hpp"
#include "series/run.hpp"
#include "support/studies.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A pulled bar with a notch, and a second region at its end.
const std::string notched =
    "format = 1\n[part]\nname = \"bar\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 3]\nnames = { left = \"left\" "
    "}\n"
    "[[part.shape]]\nadd = \"rectangle\"\ncorner = [6, 0]\nsize = [2, 3]\nregion = \"end\"\nnames = { right = "
    "\"right\" }\n"
    "[[part.shape]]\ncut = \"slot\"\nfrom = [3, 3]\nto = [3, 2]\nwidth = 0.6\nname = \"notch\"\n"
    "[quantity.peak]\nof = \"sxx\"\non = \"notch\"\ntarget = 0.05\n[quantity.move]\nof = \"ux\"\ntake = \"mean\"\non = "
    "\"right\"\n[size]\nglobal = 0.6\n[size.local.root]\non = \"notch\"\nsize = 0.3\n" +
    rest_of_study();

SeriesResult series_of(const std::string& keys) {
    return run_text(notched + "[series.s]\n" + keys).result.series.front();
}

std::string faults_in(const std::string& keys) {
    Problems problems("test.toml");
    (void)open_study("test.toml", notched + "[series.s]\n" + keys, problems);
    return problems.text();
}

/// Of the element whose centre is nearest.
double size_near(const Level& l, const Vec2& p) {
    const Mesh& m = l.fields->mesh;
    double best = INFINITY, size = 0;
    for (std::size_t e = 0; e < m.element_count(); ++e)
        if (distance(m.centre_of(e), p) < best) {
            best = distance(m.centre_of(e), p);
            size = m.size_of(e);
        }
    return size;
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("sizes for an error and for a number of elements are the same law") {
    const std::vector<double> e2{4, 1, 0.25, 0.01};
    const auto predicted_error2 = [&](const std::vector<double>& f) {
        // An element of size h becomes f^-2 elements, whose squared errors together are f^(2p) of what it was.
        double sum = 0;
        for (std::size_t e = 0; e < f.size(); ++e) sum += e2[e] * std::pow(f[e], 4);
        return sum;
    };
    const auto predicted_count = [](const std::vector<double>& f) {
        double sum = 0;
        for (const double x : f) sum += 1 / (x * x);
        return sum;
    };
    const auto by_count = factors_for_count(e2, 40, 2, 2).factor;
    CHECK(predicted_count(by_count) == doctest::Approx(40));
    const auto by_error = factors_for_error(e2, predicted_error2(by_count), 2, 2).factor;
    for (std::size_t e = 0; e < e2.size(); ++e) CHECK(by_error[e] == doctest::Approx(by_count[e]));
    // No other choice of as many elements has a smaller error: moving a little from one to another makes it larger.
    for (std::size_t a = 0; a < e2.size(); ++a) {
        for (std::size_t b = 0; b < e2.size(); ++b) {
            if (a == b) continue;
            auto moved = by_count;
            const double shift = 0.01 / (moved[a] * moved[a]);
            moved[a] = 1 / std::sqrt(1 / (moved[a] * moved[a]) + shift);
            moved[b] = 1 / std::sqrt(1 / (moved[b] * moved[b]) - shift);
            CHECK(predicted_count(moved) == doctest::Approx(40));
            CHECK(predicted_error2(moved) > predicted_error2(by_count));
        }
    }
    CHECK(std::isinf(factors_for_count({0, 0}, 10, 2, 2).factor[0]));
}

TEST_CASE("a share of the elements, and of the error") {
    const std::vector<double> e2{1, 5, 3, 1, 0, 0, 0, 0, 0, 0};
    const auto marked = [](const std::vector<double>& f) {
        std::vector<std::size_t> out;
        for (std::size_t e = 0; e < f.size(); ++e)
            if (f[e] < 1) out.push_back(e);
        return out;
    };
    CHECK(marked(factors_for_share(e2, 0.2, 2)) == std::vector<std::size_t>{1, 2});
    CHECK(marked(factors_for_share(e2, 0.25, 2)) == std::vector<std::size_t>{0, 1, 2});  // rounded up, first of equals
    CHECK(marked(factors_for_share(e2, 0.9, 2)).size() == 4);                            // none without error
    CHECK(marked(factors_for_bulk(e2, 0.5, 3)) == std::vector<std::size_t>{1});
    CHECK(marked(factors_for_bulk(e2, 0.8, 3)) == std::vector<std::size_t>{1, 2});
    CHECK(factors_for_bulk(e2, 0.8, 4)[1] == doctest::Approx(0.25));
    CHECK(marked(factors_for_bulk({0, 0}, 0.8, 2)).empty());
}

TEST_CASE("a local series makes its rules finer and leaves the rest") {
    const auto s = series_of("kind = \"local\"\nrules = \"root\"\nratio = 2\nmost_levels = 3\n");
    REQUIRE(s.levels.size() == 3);
    CHECK(s.kind == SeriesKind::local);
    // Far from the notch the elements stay as large as they were, near it they become smaller.
    CHECK(size_near(s.levels[2], {{7.5, 1.5}}) > 0.7 * size_near(s.levels[0], {{7.5, 1.5}}));
    CHECK(size_near(s.levels[2], {{3, 1.65}}) < 0.65 * size_near(s.levels[0], {{3, 1.65}}));
    CHECK(s.levels[2].mesh.elements < 6 * s.levels[0].mesh.elements);
}

TEST_CASE("a budget is used up, and gives less error than the same number of even elements") {
    const auto s = series_of("kind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = 900\n");
    CHECK(has(s.stopped_by, "the budget of 900 elements"));
    const Level& last = s.levels.back();
    CHECK(last.mesh.elements > 0.85 * 900);
    CHECK(last.mesh.elements < 1.1 * 900);
    const auto even = series_of("kind = \"uniform\"\nratio = 1.5\nmost_levels = 3\n");
    CHECK(10 * even.levels.back().mesh.elements > 14 * last.mesh.elements);
    CHECK(last.estimated_error < even.levels.back().estimated_error);
    const auto unknowns = series_of("kind = \"adaptive\"\nstrategy = \"budget\"\nbudget_unknowns = 3000\n");
    CHECK(has(unknowns.stopped_by, "the budget of 3 000 unknowns"));
    CHECK(unknowns.levels.back().unknowns > 0.85 * 3000);
    CHECK(unknowns.levels.back().unknowns < 1.1 * 3000);
}

TEST_CASE("the way to a large budget goes in steps that the error map can be trusted for") {
    const auto s = series_of("kind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = 6000\nmost_levels = 3\n");
    REQUIRE(s.levels.size() == 3);
    for (std::size_t k = 1; k < 3; ++k) {
        const double growth =
            static_cast<double>(s.levels[k].mesh.elements) / static_cast<double>(s.levels[k - 1].mesh.elements);
        CHECK(growth > 3);
        CHECK(growth < 5);
    }
}

TEST_CASE("shares refine where the error is, level by level") {
    for (const std::string strategy : {"share_of_elements", "share_of_error"}) {
        CAPTURE(strategy);
        const auto s = series_of("kind = \"adaptive\"\nstrategy = \"" + strategy + "\"\nmost_levels = 4\n");
        REQUIRE(s.levels.size() == 4);
        for (std::size_t k = 1; k < 4; ++k) {
            CHECK(s.levels[k].mesh.elements > s.levels[k - 1].mesh.elements);
            CHECK(s.levels[k].estimated_error < s.levels[k - 1].estimated_error);
        }
    }
    const auto s =
        series_of("kind = \"adaptive\"\nstrategy = \"share_of_error\"\nshare = 0.4\nfiner = 3\nmost_levels = 4\n");
    // Most at the notch and at the clamped corner, least where nothing happens.
    const auto finer_at = [&](const Vec2& p) { return size_near(s.levels.front(), p) / size_near(s.levels.back(), p); };
    CHECK(finer_at({{3, 1.65}}) > 2 * finer_at({{7.5, 1.5}}));
    CHECK(finer_at({{0, 0}}) > 2 * finer_at({{7.5, 1.5}}));
}

TEST_CASE("only named regions change, within limits of size") {
    const auto s =
        series_of("kind = \"adaptive\"\nwithin = \"bar\"\nerror_target = 0.002\nmost_levels = 4\nsmallest = 0.15\n");
    const auto in_end = [](const Level& l) {
        const Mesh& m = l.fields->mesh;
        std::size_t count = 0;
        for (std::size_t e = 0; e < m.element_count(); ++e) count += Meant(m, {"end"}).element(e) ? 1 : 0;
        return count;
    };
    CHECK(in_end(s.levels.back()) < 3 * in_end(s.levels.front()));
    double least = INFINITY;
    const Mesh& mesh = s.levels.back().fields->mesh;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) least = std::min(least, mesh.size_of(e));
    CHECK(least > 0.06);
    CHECK(s.levels.back().mesh.elements > s.levels.front().mesh.elements);
}

TEST_CASE("every stop rule ends a series and is named") {
    CHECK(has(series_of("kind = \"uniform\"\nmost_unknowns = 1000\nmost_levels = 9\n").stopped_by,
              "limit of 1 000 unknowns"));
    CHECK(has(series_of("kind = \"uniform\"\nmost_seconds = 1e-9\nmost_levels = 9\n").stopped_by, "seconds"));
    CHECK(has(series_of("kind = \"uniform\"\nmost_seconds = 0.001\nmost_levels = 3\n").stopped_by, "seconds"));
    CHECK(has(series_of("kind = \"uniform\"\nmost_seconds = 900\nmost_levels = 3\n").stopped_by, "3 levels"));
    CHECK(has(series_of("kind = \"uniform\"\nmost_memory = 1e-6\nmost_levels = 9\n").stopped_by, "GB"));
    const auto known = series_of("kind = \"uniform\"\nratio = 2\nuntil_quantities = true\nmost_levels = 6\n");
    CHECK(known.stopped_by == "the targets of all quantities");
    CHECK(known.target_met);
    CHECK(known.verdicts[0].verdict == Verdict::met);
    const auto index = series_of("kind = \"uniform\"\nratio = 2\ngci_target = \"5 %\"\nmost_levels = 6\n");
    CHECK(has(index.stopped_by, "grid convergence index"));
    CHECK(has(index.stopped_by, "of 5.0 %"));
    CHECK(index.target_met);
    CHECK(index.verdicts[0].convergence.gci_fine <= 0.05);
    const auto missed = series_of("kind = \"uniform\"\nratio = 2\ngci_target = 1e-9\nmost_levels = 3\n");
    CHECK(missed.stopped_by == "the limit of 3 levels");
    CHECK(!missed.target_met);
}

TEST_CASE("no index and no change ends a series for a peak without limit, or without quantities") {
    const std::string corner =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [2, 1], [1, 1], [1, 2], [0, "
        "2]]\nnames = { side6 = \"left\", side2 = \"right\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = "
        "0.3\n[support.wall]\non = \"left\"\nux = 0\n[support.pin]\nat = [0, 0]\nuy = 0\n[load.p]\non = "
        "\"right\"\ntraction = [1, 0]\n[size]\nglobal = 0.4\n[series.s]\nkind = \"uniform\"\nmost_levels = 4\n";
    const auto s =
        run_text(corner + "gci_target = \"90 %\"\n[quantity.peak]\nof = \"von_mises\"\n").result.series.front();
    CHECK(s.verdicts[0].verdict == Verdict::unbounded);
    CHECK(s.stopped_by == "the limit of 4 levels");
    CHECK(!s.target_met);
    for (const std::string key : {"gci_target", "change_target"}) {
        Problems faults("test.toml");
        (void)open_study("test.toml", corner + key + " = \"1 %\"\n", faults);
        CHECK(has(faults.text(), "series.s." + key + " waits for quantities, but there is none"));
    }
}

TEST_CASE("an adaptive series whose error no longer falls ends, and says so") {
    const auto stuck =
        series_of("kind = \"adaptive\"\nstrategy = \"target\"\nerror_target = 1e-7\nsmallest = 0.2\nmost_levels = 9\n");
    CHECK(has(stuck.stopped_by, "no longer falls"));
    CHECK(!stuck.target_met);
    CHECK(stuck.levels.size() < 9);
    REQUIRE(stuck.levels.size() >= 4);
    const auto falls = series_of("kind = \"adaptive\"\nstrategy = \"target\"\nerror_target = 1e-7\nmost_levels = 4\n");
    CHECK(!has(falls.stopped_by, "no longer falls"));
}

TEST_CASE("an adaptive series makes the rows of layers finer, and what lies beside them too") {
    const auto s =
        run_text(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 3]\nnames = { left = \"left\", right "
            "= "
            "\"right\" }\n[[part.shape]]\ncut = \"circle\"\ncentre = [3, 1.5]\nradius = 0.5\nname = \"hole\"\n"
            "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nhold = "
            "\"fixed\"\n[load.p]\non = \"right\"\ntraction = [1, 0]\n[size]\nglobal = 0.5\n[size.layers.rim]\non = "
            "\"hole\"\nfirst = 0.05\nrows = 2\n[quantity.peak]\nof = \"sxx\"\non = \"hole\"\ntarget = 0.01\n"
            "[series.a]\nkind = \"adaptive\"\nerror_target = 0.002\nmost_levels = 4\n")
            .result.series.front();
    const Mesh &first = s.levels.front().fields->mesh, &last = s.levels.back().fields->mesh;
    const auto rows = [](const Mesh& m) { return *std::max_element(m.row.begin(), m.row.end()); };
    CHECK(rows(first) == 2);
    CHECK(rows(last) > 2);
    // A hole of a third of the width in a long plate: 3.456 times the pull (Howland 1930); this one is short.
    const auto& v = s.verdicts[0];
    CAPTURE(v.sentence);
    CHECK(v.verdict == Verdict::met);
    CHECK(v.convergence.finest == doctest::Approx(3.456).epsilon(0.02));
}

TEST_CASE("where nothing happens a share of the error is nothing, and the series ends") {
    Problems problems("test.toml");
    const StudyAndPart both = open_study(
        "test.toml",
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"l\" "
        "}\n[material.m]\nconductivity = 2\n[support.a]\non = \"l\"\npotential = 5\n[quantity.t]\nof = "
        "\"potential\"\n[size]\nglobal = 0.4\n[series.s]\nkind = \"adaptive\"\nstrategy = \"share_of_error\"\n",
        problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    StudyObserver silent;
    const auto s = run_study(both.study, both.part, silent).series.front();
    CHECK(s.levels.size() == 1);
    CHECK(has(s.stopped_by, "nothing is left to be refined"));
}

TEST_CASE("keys of series that do not belong together are told") {
    CHECK(has(faults_in("kind = \"uniform\"\nstrategy = \"budget\"\n"),
              "has no meaning for a series of kind \"uniform\""));
    CHECK(has(faults_in("kind = \"local\"\n"), "size rules are \"root\""));
    CHECK(has(faults_in("kind = \"local\"\nrules = \"rot\"\n"), "names \"rot\", but there is no such size rule"));
    CHECK(has(faults_in("kind = \"adaptive\"\nstrategy = \"budget\"\n"), "add budget_elements or budget_unknowns"));
    CHECK(has(faults_in("kind = \"adaptive\"\nbudget_elements = 10\n"), "goes with strategy = \"budget\" only"));
    CHECK(has(faults_in("kind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = 10\nbudget_unknowns = 10\n"),
              "stands beside budget_elements"));
    CHECK(has(faults_in("kind = \"adaptive\"\nshare = 0.3\n"), "goes with strategy = \"share_of_elements\""));
    CHECK(has(faults_in("kind = \"adaptive\"\nstrategy = \"share_of_error\"\nshare = 1.5\n"), "must be below 1"));
    CHECK(has(faults_in("kind = \"adaptive\"\nstrategy = \"share_of_error\"\nfiner = 1\n"), "must be greater than 1"));
    CHECK(has(faults_in("kind = \"adaptive\"\nsmallest = 2\nlargest = 1\n"), "is larger than largest"));
    const std::string negative = faults_in("kind = \"adaptive\"\nstrategy = \"budget\"\nbudget_elements = -5\n");
    CHECK(has(negative, "a whole number of at least 1 is wanted"));
    CHECK(!has(negative, "there is none"));
    CHECK(has(faults_in("kind = \"adaptive\"\nwithin = \"nowhere\"\n"), "nowhere"));
}

TEST_CASE("every indicator refines where the field is steep, and ranks by what it says") {
    for (const std::string keys :
         {"indicator = \"residual\"\n", "indicator = \"energy_density\"\n", "indicator = \"jump\"\nof = \"sxx\"\n",
          "indicator = \"gradient\"\nof = \"von_mises\"\n"}) {
        CAPTURE(keys);
        const auto s =
            series_of("kind = \"adaptive\"\nstrategy = \"share_of_elements\"\nshare = 0.2\nmost_levels = 3\n" + keys);
        REQUIRE(s.levels.size() == 3);
        CHECK(size_near(s.levels[2], {{3, 1.65}}) < 0.5 * size_near(s.levels[0], {{3, 1.65}}));
        CHECK(size_near(s.levels[2], {{7, 1.5}}) > 0.7 * size_near(s.levels[0], {{7, 1.5}}));
    }
    // Residuals take their size from the recovered field, so that a target can be aimed at.
    const auto aimed = series_of("kind = \"adaptive\"\nindicator = \"residual\"\nerror_target = 0.01\n");
    CHECK(has(aimed.stopped_by, "the error target"));
    CHECK(aimed.levels.size() <= 4);
}

TEST_CASE("several drivers: each is led by how far it is from its target") {
    Problems problems("test.toml");
    const auto both = open_study("test.toml",
                                 notched +
                                     "[series.s]\nkind = \"adaptive\"\ndrive = [\"energy\", \"move\"]\n"
                                     "error_target = 0.004\nmost_levels = 4\n",
                                 problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    StudyObserver silent;
    const auto s = run_study(both.study, both.part, silent).series.front();
    CHECK(has(s.stopped_by, "the error target"));
    const Level &first = s.levels.front(), &last = s.levels.back();
    const GoalEstimate& goal = *last.goals[1];
    CHECK(last.estimated_error <= 0.004);
    CHECK(std::fabs(goal.error / goal.corrected()) <= 0.004);

    SeriesSpec spec = both.study.series.front();
    const auto with = [&](std::vector<std::string> drive) {
        spec.drive = std::move(drive);
        return driving_error(both.study, spec, first);
    };
    const DrivingError energy = with({of_energy}), move = with({"move"}), all = with({of_energy, "move"});
    const auto multiple = [](const DrivingError& d) { return std::pow(d.map.relative() / d.target, 2); };
    CHECK(multiple(all) == doctest::Approx(multiple(energy) + multiple(move)));
    for (std::size_t e = 0; e < all.map.element_error2.size(); ++e) {
        const double apart = multiple(energy) * energy.map.element_error2[e] / energy.map.error2 +
                             multiple(move) * move.map.element_error2[e] / move.map.error2;
        CHECK(multiple(all) * all.map.element_error2[e] / all.map.error2 == doctest::Approx(apart));
    }
    CHECK(estimated_error(both.study, spec, first) ==
          std::max(first.estimated_error, std::fabs(first.goals[1]->error / first.goals[1]->corrected())));
}

TEST_CASE("several indicators count alike") {
    const auto s = series_of("kind = \"adaptive\"\nerror_target = 0.01\nindicator = [\"recovery\", \"residual\"]\n");
    CHECK(has(s.stopped_by, "the error target"));
    Problems problems("test.toml");
    const auto both = open_study("test.toml",
                                 notched +
                                     "[series.s]\nkind = \"adaptive\"\nstrategy = \"share_of_elements\"\n"
                                     "indicator = [\"energy_density\", \"jump\"]\nof = \"sxx\"\n",
                                 problems);
    REQUIRE(problems.empty());
    SeriesSpec spec = both.study.series.front();
    const auto shares = [&](std::vector<Indicator> indicators) {
        spec.indicators = std::move(indicators);
        ErrorMap map = driving_error(both.study, spec, s.levels.front()).map;
        for (auto& v : map.element_error2) v /= map.error2;
        return map.element_error2;
    };
    const auto density = shares({Indicator::energy_density}), jump = shares({Indicator::jump}),
               sum = shares({Indicator::energy_density, Indicator::jump});
    for (std::size_t e = 0; e < sum.size(); ++e) CHECK(sum[e] == doctest::Approx((density[e] + jump[e]) / 2));

    const std::string adaptive = "kind = \"adaptive\"\n";
    CHECK(has(faults_in(adaptive + "indicator = [\"recovery\", \"energy_density\"]\n"), "measures no error"));
    CHECK(has(faults_in(adaptive + "indicator = [\"recovery\", \"recovery\"]\n"), "twice"));
    CHECK(has(faults_in(adaptive + "indicator = [\"recovery\", \"recvery\"]\n"), "did you mean \"recovery\""));
    CHECK(has(faults_in(adaptive + "drive = [\"move\", \"energy\", \"move\"]\n"), "twice"));
    CHECK(has(faults_in(adaptive + "drive = \"move\"\nindicator = \"residual\"\n"), "names quantities only"));
    CHECK(faults_in(adaptive + "drive = [\"move\", \"energy\"]\nindicator = \"residual\"\n").empty());
}

TEST_CASE("the rest of a mesh stays where only single elements are refined") {
    const auto s = series_of(
        "kind = \"adaptive\"\nstrategy = \"share_of_error\"\nshare = 0.5\nkeep_rest = true\nmost_levels = 3\n");
    REQUIRE(s.levels.size() == 3);
    for (std::size_t k = 1; k < 3; ++k) {
        const Mesh &before = s.levels[k - 1].fields->mesh, &now = s.levels[k].fields->mesh;
        CHECK(now.element_count() > before.element_count());
        std::size_t kept = 0;
        for (const Vec2& p : before.nodes)
            kept += std::find(now.nodes.begin(), now.nodes.end(), p) != now.nodes.end() ? 1 : 0;
        CHECK(kept > before.nodes.size() / 3);
        CHECK(s.levels[k].estimated_error < s.levels[k - 1].estimated_error);
    }
}

TEST_CASE("a graded mesh made even finer keeps its grading") {
    Problems problems("test.toml");
    const StudyAndPart both =
        open_study("test.toml",
                   notched +
                       "[series.fit]\nkind = \"adaptive\"\nerror_target = 0.02\n[series.twice]\nkind = "
                       "\"uniform\"\nratio = 2\nstart_from = \"fit/2\"\nmost_levels = 2\n",
                   problems);
    REQUIRE(problems.empty());
    StudyObserver silent;
    const auto result = run_study(both.study, both.part, silent);
    const auto &fit = result.series[0], &twice = result.series[1];
    CHECK(twice.levels[0].fields == fit.levels[1].fields);
    const double ratio =
        static_cast<double>(twice.levels[1].mesh.elements) / static_cast<double>(twice.levels[0].mesh.elements);
    CHECK(ratio > 3);
    CHECK(ratio < 5.5);
    for (const Vec2 p : {Vec2{{3, 1.65}}, Vec2{{7, 1.5}}})
        CHECK(size_near(twice.levels[1], p) < 0.75 * size_near(twice.levels[0], p));
}

TEST_CASE("a budget at the root of a slit, in quadrilaterals alone, is met with sizes that grow as they may") {
    // All sizes were multiplied to fit the first step, and their growth with them: no mesh could follow, and none
    // ended.
    const auto r = run_text(
        "format = 1\n[part]\nplane = \"strain\"\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [-1.2, 0.32], "
        "[-1.2, 1.2], [1.2, 1.2], [1.2, -1.2], [-1.2, -1.2], [-1.2, -0.32]]\nnames = { side3 = \"top\", side5 = "
        "\"base\" "
        "}\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.base]\non = \"base\"\nhold = "
        "\"fixed\"\n[load.top]\non = \"top\"\ntraction = [0, 1]\n[mesh]\nelements = \"quadrilaterals\"\norder = "
        "2\n[size]"
        "\nglobal = 0.4\n[quantity.energy]\nof = \"strain_energy\"\n[series.s]\nkind = \"adaptive\"\nstrategy = "
        "\"budget\"\nbudget_elements = 1500\nmost_levels = 4\n");
    const auto& levels = r.result.series.front().levels;
    REQUIRE(levels.size() >= 3);
    CHECK(levels.back().mesh.elements > 1200);
    CHECK(levels.back().mesh.elements < 1800);
    CHECK(levels.back().mesh.worst_quality > 0.2);
    CHECK(levels.back().estimated_error < 0.03);
}

TEST_CASE("at a singular point the sizes go at once to what the target needs") {
    // Clamped bar: its corners are singular; the notch is round.
    const auto s = series_of("kind = \"adaptive\"\nerror_target = 0.003\n");
    CHECK(has(s.stopped_by, "the error target"));
    CHECK(s.levels.size() <= 4);
    const Level& last = s.levels.back();
    CHECK(size_near(last, {{0, 0}}) < 0.1 * size_near(last, {{6.5, 1.5}}));
}

TEST_SUITE_END();
