// Whether every mesh is the same part under the same loads; which level is enough, and what another one would bring.

#include "series/consistency.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "part/checks/check_study.hpp"
#include "series/outlook.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

const std::string ring =
    "format = 1\n[part]\nname = \"ring\"\n[[part.shape]]\nadd = \"circle\"\nradius = 2\nname = \"outside\"\n"
    "[[part.shape]]\ncut = \"circle\"\nradius = 1\nname = \"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize "
    "= "
    "[2, 2]\nnames = { left = \"x_zero\", bottom = \"y_zero\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = "
    "0.3\n[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n"
    "[load.p]\non = \"inside\"\npressure = 1\n[size]\nglobal = 0.7\nsegments_per_circle = 12\n[series.u]\nkind = "
    "\"uniform\"\nratio = 2\nmost_levels = 3\n[quantity.move]\nof = \"ur\"\ntake = \"mean\"\non = \"inside\"\ntarget = "
    "0.01\n"
    "[quantity.energy]\nof = \"strain_energy\"\ntarget = 0.02\n";

struct Solved {
    StudyAndPart both;
    StudyResult result;
};

Solved solved(const std::string& text) {
    Problems problems("test.toml");
    Solved s{open_study("test.toml", text, problems), {}};
    INFO(problems.text());
    REQUIRE(problems.empty());
    StudyObserver silent;
    s.result = run_study(s.both.study, s.both.part, silent);
    return s;
}

const SharedMeasure& measure(const std::vector<SharedMeasure>& all, SharedMeasure::Kind kind, const std::string& name) {
    for (const auto& m : all)
        if (m.kind == kind && m.name == name) return m;
    FAIL("no measure " << name);
    return all.front();
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("areas, lengths and loads of a curved part: their gap is the geometry's error") {
    for (const int order : {1, 2}) {
        CAPTURE(order);
        const Solved s = solved(ring + "[mesh]\norder = " + std::to_string(order) + "\n");
        const auto& shared = s.result.shared;
        const double quarter = std::acos(-1.0) / 4;
        const auto& area = measure(shared, SharedMeasure::Kind::area, "ring");
        CHECK(area.wanted == doctest::Approx(3 * quarter).epsilon(1e-12));
        const auto& inside = measure(shared, SharedMeasure::Kind::length, "inside");
        CHECK(inside.wanted == doctest::Approx(2 * quarter).epsilon(1e-12));
        CHECK(measure(shared, SharedMeasure::Kind::length, "x_zero").worst < 1e-12);
        // A chord of angle a is short by a^2 / 24; it falls with the square of the size, of parabolas with the fourth.
        const double fall = inside.worst / inside.on_finest;
        CHECK(inside.on_finest < inside.worst);
        CHECK(fall > (order == 1 ? 10 : 100));
        CHECK(area.worst / area.on_finest > (order == 1 ? 10 : 100));
        CHECK(area.level == "u, level 1");
        CHECK(inside.level == "u, level 1");
        CHECK(!measure(shared, SharedMeasure::Kind::load, "p").drifts());  // its gap is that of the length
        CHECK(measure(shared, SharedMeasure::Kind::balance, "loads and reactions").worst < 1e-10);
    }
}

TEST_CASE("a level under another load, out of balance or without a boundary is told") {
    Solved s = solved(ring);
    auto& levels = s.result.series.front().levels;
    const auto now = [&] { return shared_measures(s.both.study, s.both.part, s.result.series); };
    const LoadTotal sound = levels[1].loads[0];
    levels[1].loads[0].force = sound.force * 1.01;
    CHECK(has(measure(now(), SharedMeasure::Kind::load, "p").fault, "u, level 2"));
    levels[1].loads[0] = sound;
    levels[1].loads[0].moment[2] += 0.1;  // the same force elsewhere
    CHECK(measure(now(), SharedMeasure::Kind::load, "p").drifts());
    levels[1].loads[0] = sound;
    CHECK(!measure(now(), SharedMeasure::Kind::load, "p").drifts());
    levels[1].loads[0].force = {{NAN, 0, 0}};
    CHECK(has(measure(now(), SharedMeasure::Kind::load, "p").fault, "u, level 2"));
    levels[1].loads[0] = sound;
    levels[0].loads.clear();
    CHECK(has(measure(now(), SharedMeasure::Kind::load, "p").fault, "does not act on u, level 1"));
    levels[2].balance.relative_error = 1e-3;
    CHECK(has(measure(now(), SharedMeasure::Kind::balance, "loads and reactions").fault, "u, level 3"));
    levels[2].balance.relative_error = NAN;
    CHECK(measure(now(), SharedMeasure::Kind::balance, "loads and reactions").drifts());
    auto fields = std::make_shared<LevelFields>(*levels[1].fields);
    fields->mesh.boundary.clear();
    levels[1].fields = fields;
    CHECK(has(measure(now(), SharedMeasure::Kind::length, "inside").fault, "has no sides on u, level 2"));
    // Straight sides on a coarse mesh are still off by more than a detail.
    const Solved coarse = solved(ring + "[mesh]\norder = 1\n");
    auto first = coarse.result.series;
    first.front().levels.resize(1);
    CHECK(
        has(measure(shared_measures(coarse.both.study, coarse.both.part, first), SharedMeasure::Kind::length, "inside")
                .fault,
            "more segments on its curves"));
}

TEST_CASE("loads that cancel, reactions and transfers are the same as far as the fields are") {
    // Pulled at both ends of a name: nothing is left of the sum but rounding.
    const std::string bar =
        "format = 1\n[part]\nname = \"bar\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = "
        "\"ends\", right = \"ends\", bottom = \"foot\", top = \"roof\" }\n[size]\nglobal = 0.4\n[series.u]\nkind = "
        "\"uniform\"\nratio = 2\nmost_levels = 3\n";
    const Solved pulled = solved(
        bar +
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[load.p]\non = \"ends\"\ntraction = [\"nx * (1 "
        "+ y)\", 0]\n[support.pin]\nat = [0, 0]\nhold = \"fixed\"\n[support.guide]\nat = [4, 0]\nuy = 0\n"
        "[quantity.move]\nof = \"ux\"\n");
    const auto& load = measure(pulled.result.shared, SharedMeasure::Kind::load, "p");
    CHECK(!load.drifts());
    CHECK(load.worst < 1e-12);
    for (const auto& m : pulled.result.shared) CHECK(m.kind != SharedMeasure::Kind::reaction);  // nothing pulls there
    // Held at three places, so that the shares depend on the mesh.
    Solved held =
        solved(bar +
               "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[load.p]\non = \"roof\"\npressure = "
               "1\n[support.ends]\non = \"ends\"\nhold = \"fixed\"\n[support.foot]\non = \"foot\"\nuy = "
               "0\n[quantity.move]\nof = \"ux\"\n[mesh]\norder = 1\n");
    const auto& foot = measure(held.result.shared, SharedMeasure::Kind::reaction, "foot");
    CHECK(!foot.drifts());
    CHECK(foot.worst > 1e-4);
    CHECK(foot.on_finest == 0);
    auto& reaction = held.result.series.front().levels[1].reactions[1];
    reaction.force *= 1.5;
    const auto wrong = shared_measures(held.both.study, held.both.part, held.result.series);
    CHECK(has(measure(wrong, SharedMeasure::Kind::reaction, "foot").fault, "u, level 2"));
    // What flows through a transfer follows from the temperature.
    const Solved warm =
        solved(bar +
               "[material.m]\nconductivity = 1\n[load.air]\non = \"roof\"\ntransfer = 5\nambient = "
               "20\n[support.hot]\non = \"foot\"\npotential = \"100 * (x > 2 ? 1 : 0)\"\n[quantity.t]\nof = "
               "\"potential\"\n[mesh]\norder = 1\n");
    const auto& air = measure(warm.result.shared, SharedMeasure::Kind::load, "air");
    CHECK(air.worst > 1e-4);
    CHECK(!air.drifts());
}

TEST_CASE("the cheapest level that is enough") {
    Solved s = solved(ring);
    const Level* enough = recommended_level(s.both.study, s.result);
    REQUIRE(enough);
    // By hand: the first level whose values lie within the targets of the finest ones, with their intervals.
    for (const auto& l : s.result.series.front().levels) {
        bool all = true;
        for (std::size_t q = 0; q < 2; ++q) {
            const Interval& i = s.result.series.front().verdicts[q].interval;
            all = all && std::fabs(l.quantities[q].value - i.value) + i.half_width <=
                             s.both.study.quantities[q].target->allowed(i.value);
        }
        if (!all) continue;
        CHECK(enough == &l);
        break;
    }
    CHECK(enough->index < 3);
    s.result.headline[0].verdict = Verdict::missed;
    CHECK(!recommended_level(s.both.study, s.result));
}

TEST_CASE("what another level would bring, against what it does bring") {
    const Solved three = solved(ring), four = solved(ring.substr(0, ring.find("most_levels")) + "most_levels = 4\n" +
                                                     ring.substr(ring.find("[quantity.move]")));
    const auto next = next_level(three.both.study.series.front(), three.result.series.front());
    REQUIRE(next);
    const Level& made = four.result.series.front().levels.back();
    CHECK(next->unknowns == doctest::Approx(static_cast<double>(made.unknowns)).epsilon(0.1));
    for (std::size_t q = 0; q < 2; ++q)
        CHECK(next->half_widths[q] ==
              doctest::Approx(four.result.series.front().verdicts[q].interval.relative()).epsilon(0.5));
    SeriesResult one;
    one.levels.resize(1);
    CHECK(!next_level(three.both.study.series.front(), one));
}

TEST_SUITE_END();
