#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "part/build.hpp"
#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "study/read.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

const std::string notched =
    "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 3]\nnames = { left = \"left\", right = "
    "\"right\" }\n"
    "[[part.shape]]\ncut = \"slot\"\nfrom = [3, 3]\nto = [3, 2]\nwidth = 0.6\nname = \"notch\"\n"
    "[quantity.peak]\nof = \"sxx\"\non = \"notch\"\ntarget = 0.05\n[quantity.move]\nof = \"ux\"\ntake = \"mean\"\non = "
    "\"right\"\n[size]\nglobal = 0.7\n" +
    rest_of_study();

struct Run {
    Study study;
    Part part;
    StudyResult result;
};

Run run(const std::string& text, StudyObserver* observer = nullptr) {
    Run r;
    r.study = study_from(text);
    Problems problems("test.toml");
    r.part = build_part(r.study, problems).part;
    StudyObserver silent;
    r.result = run_study(r.study, r.part, observer ? *observer : silent);
    return r;
}

/// Unknowns with which a series reaches an error, interpolated between its levels.
double unknowns_for(const SeriesResult& s, double error) {
    for (std::size_t k = 1; k < s.levels.size(); ++k) {
        const Level &a = s.levels[k - 1], &b = s.levels[k];
        if (b.estimated_error > error) continue;
        const double t = std::log(error / a.estimated_error) / std::log(b.estimated_error / a.estimated_error);
        return std::exp((1 - t) * std::log(static_cast<double>(a.unknowns)) +
                        t * std::log(static_cast<double>(b.unknowns)));
    }
    return INFINITY;
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("a uniform series divides every size by its ratio") {
    const auto r = run(notched + "[series.u]\nkind = \"uniform\"\nratio = 1.6\nmost_levels = 4\n");
    const auto& levels = r.result.series[0].levels;
    REQUIRE(levels.size() == 4);
    for (std::size_t k = 1; k < 4; ++k) {
        CHECK(levels[k - 1].mesh.characteristic_size / levels[k].mesh.characteristic_size ==
              doctest::Approx(1.6).epsilon(0.1));
        CHECK(levels[k].index == static_cast<int>(k) + 1);
        CHECK(levels[k].estimated_error < levels[k - 1].estimated_error);
        CHECK(levels[k].balance.relative_error < 1e-9);
        CHECK(levels[k].loads[0].force[0] == doctest::Approx(3));
        CHECK(levels[k].costs.size() == 3);
    }
    CHECK(r.result.series[0].stopped_by == "the limit of 4 levels");
    CHECK(r.result.series[0].verdicts.size() == 2);
}

TEST_CASE("an adaptive series reaches its error target with fewer unknowns than a uniform one") {
    const auto r = run(
        notched +
        "[series.u]\nkind = \"uniform\"\nmost_levels = 5\n[series.a]\nkind = \"adaptive\"\nerror_target = \"0.2 %\"\n");
    const auto &u = r.result.series[0], &a = r.result.series[1];
    CHECK(a.levels.back().estimated_error <= 0.002);
    CHECK(a.target_met);
    CHECK(a.levels.front().fields == u.levels.front().fields);  // the first mesh is shared
    CHECK(a.levels.front().series == "a");
    CHECK(unknowns_for(a, u.levels.back().estimated_error) < 0.5 * static_cast<double>(u.levels.back().unknowns));
    CHECK(a.levels.back().quantities[0].value == doctest::Approx(u.levels.back().quantities[0].value).epsilon(0.03));
}

TEST_CASE("each stop rule is named") {
    const auto stop = [](const std::string& series) { return run(notched + "[series.s]\n" + series).result.series[0]; };
    const auto change = stop("kind = \"adaptive\"\nchange_target = \"20 %\"\n");
    CHECK(change.stopped_by.find("the change target") != std::string::npos);
    CHECK(change.levels.size() >= 3);
    const auto elements = stop("kind = \"uniform\"\nratio = 3\nmost_elements = 500\n");
    CHECK(elements.stopped_by.find("the limit of 500 elements") != std::string::npos);
    for (const auto& l : elements.levels) CHECK(l.mesh.elements <= 500);
    const auto missed = stop("kind = \"adaptive\"\nerror_target = \"0.001 %\"\nmost_levels = 3\n");
    CHECK(missed.stopped_by == "the limit of 3 levels");
    CHECK(!missed.target_met);
    const auto uniform_target = stop("kind = \"uniform\"\nerror_target = \"8 %\"\nmost_levels = 9\n");
    CHECK(uniform_target.stopped_by.find("the error target") != std::string::npos);
}

TEST_CASE("whether all targets are met") {
    StudyResult r;
    SeriesResult a, b;
    QuantityVerdict met, missed;
    met.has_target = missed.has_target = true;
    met.verdict = Verdict::met;
    missed.verdict = Verdict::missed;
    a.verdicts = {met};
    b.verdicts = {missed};
    r.series = {a, b};
    r.headline = {met};
    CHECK(r.all_targets_met());  // what all series together say counts
    r.headline = {missed};
    CHECK(!r.all_targets_met());
    r.headline = {met};
    r.failures.push_back(SolveError("a level failed"));
    CHECK(!r.all_targets_met());
    r.failures.clear();
    r.series = {a};
    r.series[0].target_met = false;
    CHECK(!r.all_targets_met());
}

TEST_CASE("a series that ends at a limit has met until_quantities only if the quantities are known") {
    // The error target is met by the first mesh; the quantity's never.
    const std::string hard = "[quantity.never]\nof = \"uy\"\non = \"notch\"\ntarget = 1e-9\n";
    const auto ended = [&](const std::string& keys) {
        return run(notched + hard + "[series.s]\nkind = \"adaptive\"\nerror_target = 0.4\nmost_levels = 3\n" + keys)
            .result.series[0];
    };
    const auto own = ended("");
    CHECK(own.target_met);
    CHECK(own.by_target);
    const auto waiting = ended("until_quantities = true\n");
    CHECK(waiting.stopped_by == "the limit of 3 levels");
    CHECK(!waiting.target_met);
    CHECK(!waiting.by_target);
}

TEST_CASE("an error in a level says which") {
    try {
        run(notched + "[load.bad]\non = \"notch\"\npressure = \"sqrt(y - 100)\"\n");
        FAIL("no error");
    } catch (const Error& e) {
        CHECK(e.status() == ExitStatus::bad_input);
        CHECK(e.place().level == "series uniform, level 1");
    }
}

TEST_CASE("closed forms: the L-shape's error falls at the rates of theory") {
    const std::string path = std::string(DOTSIFT_SOURCE) + "/examples/verification/l-shape.toml";
    Problems problems(path);
    Study study = read_study(path, read_file(path), problems);
    REQUIRE(problems.empty());
    study.series[0].most_levels = 4;
    const Part part = build_part(study, problems).part;
    StudyObserver silent;
    const StudyResult r = run_study(study, part, silent);
    const auto &u = r.series[0].levels, &a = r.series[1].levels;
    const auto rate = [](const Level& coarse, const Level& fine) {
        return std::log(coarse.true_error->relative() / fine.true_error->relative()) /
               std::log(static_cast<double>(fine.unknowns) / static_cast<double>(coarse.unknowns));
    };
    CHECK(rate(u[1], u[3]) == doctest::Approx(0.27).epsilon(0.1));
    CHECK(rate(a[1], a.back()) > 0.9);
    const auto reached = std::find_if(a.begin(), a.end(), [&](const Level& l) {
        return l.true_error->relative() <= u.back().true_error->relative();
    });
    REQUIRE(reached != a.end());
    CHECK(static_cast<double>(reached->unknowns) < static_cast<double>(u.back().unknowns) / 3);
    CHECK(a.back().quantities[0].value ==
          doctest::Approx(4.15454423).epsilon(5e-5));  // strain energy, Szabo & Babuska 1991
}

TEST_CASE("closed forms: curved bar and skew cantilever") {
    const auto finest = [](const std::string& name) {
        const std::string path = std::string(DOTSIFT_SOURCE) + "/examples/verification/" + name;
        Problems problems(path);
        const Study study = read_study(path, read_file(path), problems);
        REQUIRE(problems.empty());
        const Part part = build_part(study, problems).part;
        StudyObserver silent;
        const StudyResult r = run_study(study, part, silent);
        return std::pair(r.series.back().levels.back().quantities[0].value, *study.quantities[0].reference);
    };
    const auto [hoop, golovin] = finest("curved-bar.toml");
    CHECK(hoop == doctest::Approx(golovin).epsilon(1e-3));
    const auto [tip, cook] = finest("skew-cantilever.toml");
    CHECK(tip == doctest::Approx(cook).epsilon(1e-3));
}

TEST_CASE("a fault of the program after a level leaves what was computed, before the first one it ends the run") {
    Problems problems("t.toml");
    const StudyAndPart both =
        open_study("t.toml",
                   "format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", right = "
                   "\"right\" }\n" +
                       rest_of_study() +
                       "[size]\nglobal = 0.5\n[quantity.q]\nof = \"ux\"\n[series.a]\nkind = \"uniform\"\nmost_levels = "
                       "3\n[series.b]\nkind = \"uniform\"\nmost_levels = 2\n",
                   problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    struct Faulty : StudyObserver {
        int good;
        explicit Faulty(int levels) : good(levels) {}
        void level_done(Level&) override {
            if (good-- == 0) throw std::invalid_argument("something that cannot be");
        }
    };
    Faulty later(2), at_once(0);
    const StudyResult r = run_study(both.study, both.part, later);
    REQUIRE(r.series.size() == 2);  // the next series has its turn
    CHECK(r.series[0].levels.size() == 2);
    CHECK(r.series[1].levels.size() == 2);
    REQUIRE(r.failures.size() == 1);
    CHECK(std::string(r.failures[0].what()) == "unexpected: something that cannot be");
    CHECK(r.failures[0].status() == ExitStatus::computation_failed);
    CHECK_FALSE(r.all_targets_met());
    CHECK(r.headline.size() == 1);
    CHECK_THROWS_AS(run_study(both.study, both.part, at_once), std::invalid_argument);
}

TEST_SUITE_END();
