// Whole studies made by chance: whatever the part, the physics and the elements, what must hold holds.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <array>
#include <cmath>
#include <filesystem>
#include <random>

#include "base/errors.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/levels/stored_level.hpp"
#include "evidence/output.hpp"
#include "evidence/summary.hpp"
#include "support/folder.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A plate with holes, one or two regions, mechanical or heated or both, with one or two cases and series.
class Maker {
  public:
    std::string text;
    bool mechanical = false, thermal = false, axisymmetric = false, bounded = false;

    /// The loads are multiplied by `factor`; nothing else depends on it.
    void make(unsigned seed, double factor) {
        random_.seed(seed);
        const int physics = whole(0, 3);
        mechanical = physics != 1;
        thermal = physics == 1 || physics == 2;
        const int plane = mechanical ? whole(0, 3) : whole(0, 1) * 3;
        axisymmetric = plane == 3;
        const double width = real(2, 6), height = real(1, 3), left = axisymmetric ? real(0.5, 2) : 0;
        const bool two = whole(0, 1) == 1;
        text = "format = 1\n[part]\nname = \"one\"\n";
        text += fmt::format("plane = \"{}\"\n", std::array{"stress", "strain", "generalised_strain",
                                                           "axisymmetric"}[static_cast<std::size_t>(plane)]);
        text += fmt::format(
            "[[part.shape]]\nadd = \"rectangle\"\ncorner = [{}, 0]\nsize = [{}, {}]\nnames = {{ left = \"left\", "
            "bottom = "
            "\"bottom\", right = \"{}\" }}\n",
            left, width, height, two ? "between" : "right");
        if (two)
            text += fmt::format(
                "[[part.shape]]\nadd = \"rectangle\"\ncorner = [{}, 0]\nsize = [{}, {}]\nregion = \"two\"\nnames = {{ "
                "bottom = \"bottom\", right = \"right\" }}\n",
                left + width, real(0.5, 2), height);
        if (whole(0, 1))
            text += fmt::format("[[part.shape]]\ncut = \"circle\"\ncentre = [{}, {}]\nradius = {}\nname = \"hole\"\n",
                                left + width / 2, height / 2, real(0.15, 0.35) * height);
        material("one", two ? "on = \"one\"\n" : "");
        if (two) material("two", "on = \"two\"\n");
        text += "[support.wall]\non = \"left\"\n";
        if (mechanical) text += whole(0, 1) ? "hold = \"fixed\"\n" : "ux = 0\n";
        if (thermal) text += "potential = 0\n";
        if (mechanical) text += "[support.floor]\non = \"bottom\"\nhold = \"symmetry\"\n";
        if (mechanical)
            text += fmt::format("[load.pull]\non = \"right\"\ntraction = [{}, {}]\n", factor * real(-2, 2),
                                factor * real(-2, 2));
        if (mechanical && whole(0, 1))
            text += fmt::format("[load.weight]\nbody_force = [0, {}]\n", factor * real(-2, 0));
        if (thermal) text += fmt::format("[load.warm]\non = \"right\"\nflux = {}\n", factor * real(1, 5));
        if (thermal && whole(0, 1))
            text += fmt::format("[load.core]\non = \"one\"\nsource = {}\n", factor * real(0, 3));
        if (mechanical)
            text +=
                "[quantity.peak]\nof = \"von_mises\"\n[quantity.shift]\nof = \"ux\"\ntake = \"mean\"\non = "
                "\"right\"\ntarget = \"1 %\"\n";
        if (thermal)
            text +=
                "[quantity.heat]\nof = \"reaction_flow\"\non = \"wall\"\n[quantity.mean]\nof = \"potential\"\ntake = "
                "\"mean\"\ntarget = \"1 %\"\n";
        const int shape = whole(0, 2);
        text += fmt::format(
            "[mesh]\norder = {}\nelements = \"{}\"\n", whole(1, 2),
            std::array{"triangles", "mostly_quadrilaterals", "quadrilaterals"}[static_cast<std::size_t>(shape)]);
        text += fmt::format("[size]\nglobal = {}\n", height / real(2, 4));
        text +=
            "[series.even]\nkind = \"uniform\"\nmost_levels = 2\n[series.fit]\nkind = \"adaptive\"\nerror_target = \"1 "
            "%\"\nmost_levels = 3\nmost_elements = 3000\n";
        bounded = whole(0, 1) == 1;
        if (bounded) text += "[results]\nerror_bound = true\n";
    }

  private:
    int whole(int low, int high) { return low + static_cast<int>(random_() % static_cast<unsigned>(high - low + 1)); }
    double real(double low, double high) {
        const double share = static_cast<double>(random_() % 1000) / 1000;
        return std::round((low + (high - low) * share) * 1000) / 1000;
    }
    void material(const std::string& name, const std::string& on) {
        text += fmt::format("[material.{}]\n{}", name, on);
        if (mechanical)
            text += fmt::format("youngs_modulus = {}\npoissons_ratio = {}\n", real(100, 5000), real(0, 0.4));
        if (thermal) text += fmt::format("conductivity = {}\n", real(0.5, 20));
        if (mechanical && thermal) text += fmt::format("expansion = {}\n", real(0, 0.01));
    }

    std::mt19937 random_;
};

// An estimated error that is rounding.
constexpr double exact = 1e-10;

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("studies made by chance: finite, in balance, bounded, and linear in their loads") {
    int solved = 0, with_bound = 0;
    for (unsigned seed = 1; seed <= 40; ++seed) {
        Maker maker;
        maker.make(seed, 1);
        CAPTURE(seed);
        CAPTURE(maker.text);
        const auto [opened, once] = run_text(maker.text);
        REQUIRE(once.series.size() == 2);
        for (const auto& s : once.series) {
            REQUIRE(!s.levels.empty());
            for (const auto& l : s.levels) {
                ++solved;
                CHECK(std::isfinite(l.estimated_error));
                CHECK(l.estimated_error >= 0);
                CHECK(l.estimated_error < 1);
                CHECK(l.balance.relative_error < 1e-8);
                for (const auto& q : l.quantities) CHECK(std::isfinite(q.value));
                for (const auto& g : l.goals)
                    if (g) CHECK(std::isfinite(g->corrected()));
                if (!l.error_bound || l.estimated_error < exact) continue;
                ++with_bound;
                CHECK(*l.error_bound > 0.8 * l.estimated_error);
            }
            // Finer meshes have smaller errors, and adaptive ones keep to their limits.
            CHECK(s.levels.back().estimated_error <= 1.05 * s.levels.front().estimated_error + exact);
            CHECK(s.levels.back().mesh.elements <= 20'000);
            CHECK(!s.stopped_by.empty());
        }
        CHECK(once.series[1].levels.back().mesh.elements <= 3000);
        const std::string summary = summary_json(opened, once).dump();
        CHECK_FALSE(has(summary, "nan"));
        // Four times the loads: four times every quantity, on even meshes to the last bit.
        maker.make(seed, 4);
        const StudyResult fourfold = run_text(maker.text).result;
        const auto &even = once.series[0].levels, &even_again = fourfold.series[0].levels;
        REQUIRE(even_again.size() == even.size());
        for (std::size_t k = 0; k < even.size(); ++k) {
            CHECK(even_again[k].estimated_error == even[k].estimated_error);
            for (std::size_t q = 0; q < even[k].quantities.size(); ++q)
                CHECK(even_again[k].quantities[q].value == 4 * even[k].quantities[q].value);
        }
        // Adaptive sizes have roots of the errors in them, and a mesh answers to their last bit.
        const Level &fit = once.series[1].levels.back(), &fit_again = fourfold.series[1].levels.back();
        if (fit.estimated_error < exact) continue;
        CHECK(static_cast<double>(fit_again.mesh.elements) ==
              doctest::Approx(static_cast<double>(fit.mesh.elements)).epsilon(0.1));
        CHECK(fit_again.estimated_error == doctest::Approx(fit.estimated_error).epsilon(0.1));
    }
    CHECK(solved > 120);
    CHECK(with_bound > 15);
}

TEST_CASE("their levels come back from files bit for bit") {
    struct Writer : StudyObserver {
        Output& output;
        explicit Writer(Output& o) : output(o) {}
        void level_done(Level& l) override { output.write_level(l); }
    };
    for (unsigned seed = 101; seed <= 112; ++seed) {
        Maker maker;
        maker.make(seed, 1);
        CAPTURE(seed);
        CAPTURE(maker.text);
        Problems problems("test.toml");
        const StudyAndPart opened = open_study("test.toml", maker.text, problems);
        REQUIRE(problems.empty());
        const Folder folder;
        Output output(folder.path, opened, provenance_now(opened.study, {}));
        output.begin(Earlier::refuse);
        Writer writer(output);
        const StudyResult result = run_study(opened.study, opened.part, writer);
        for (const auto& series : result.series)
            for (const auto& was : series.levels) {
                const auto path = folder.path / series.name / fmt::format("level-{}", was.index);
                if (!std::filesystem::exists(path / "level.json"))
                    continue;  // the first mesh, stored once for all series
                const auto is = stored_level(path, opened.study, opened.part);
                REQUIRE(is);
                CHECK(level_json(opened.study, *is).dump() == level_json(opened.study, was).dump());
                const LevelFields &a = *was.fields, &b = *is->fields;
                CHECK(a.mesh.nodes == b.mesh.nodes);
                CHECK(a.mesh.kinds == b.mesh.kinds);
                CHECK(a.mesh.connectivity == b.mesh.connectivity);
                CHECK(a.mesh.slots == b.mesh.slots);
                CHECK(a.mesh.region == b.mesh.region);
                CHECK(a.error.element_error2 == b.error.element_error2);
                CHECK(a.wanted_size == b.wanted_size);
                REQUIRE(a.cases.size() == b.cases.size());
                for (std::size_t c = 0; c < a.cases.size(); ++c) {
                    CHECK(a.cases[c].solution.displacement == b.cases[c].solution.displacement);
                    CHECK(a.cases[c].solution.potential == b.cases[c].solution.potential);
                    CHECK(a.cases[c].solution.temperature_change == b.cases[c].solution.temperature_change);
                    CHECK(a.cases[c].solution.axial.e == b.cases[c].solution.axial.e);
                    CHECK(a.cases[c].solution.axial.tilt == b.cases[c].solution.axial.tilt);
                    CHECK(a.cases[c].stress.slots == b.cases[c].stress.slots);
                    CHECK(a.cases[c].flux.slots == b.cases[c].flux.slots);
                }
            }
    }
}

TEST_SUITE_END();
