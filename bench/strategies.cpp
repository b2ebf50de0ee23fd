// How adaptive series reach a target: dotsift-strategies [WORD]
//
// Each problem's stress is known. The target is the true error of an even mesh ten times as fine as the first one (or
// of `reach` times, where that would be too large). Shown are the solves until the estimate meets the target, the true
// error then, and the unknowns beside those of
//   - the even mesh,
//   - a mesh graded with the true error of its elements (eight rounds from the adaptive one),
//   - the best of a family of refinements by hand: a circle round the hot spot with sizes divided by 2, 4 or 8,
// all brought to the same error by the rate of the elements' degree: N (error / target)^(2 / degree).

#include <fmt/format.h>

#include <cmath>
#include <string>

#include "known_problems.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/estimate.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "series/run.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/singular/singular_points.hpp"
#include "solve/solve.hpp"

using namespace dotsift;
using namespace dotsift::bench;

namespace {

struct Solved {
    Mesh mesh;
    TrueError truth;
    std::int64_t unknowns = 0;
};

StudyAndPart opened(const std::string& text) {
    Problems faults("bench");
    StudyAndPart both = open_study("bench", text, faults);
    faults.throw_if_any();
    return both;
}

Solved solve(const StudyAndPart& both, const Sizing& sizes) {
    MeshingLog log;
    Solved out;
    out.mesh = make_mesh(both.study, both.part, sizes, log).mesh;
    const Laws laws = laws_of(both.study, out.mesh.region_names);
    const Solution s = solve_study(out.mesh, both.study);
    out.truth = true_error(out.mesh, laws, s, *both.study.exact_stress, "bench");
    out.unknowns = s.unknowns;
    return out;
}

/// Unknowns that the same grading needs for the target.
double at_target(const Solved& s, double target, int degree) {
    return static_cast<double>(s.unknowns) * std::pow(s.truth.relative() / target, 2.0 / degree);
}

double graded(const StudyAndPart& both, Solved now, double target, int degree) {
    double best = INFINITY;
    const auto points = singular_points(both.part, both.study);
    const double diagonal = both.part.box.diagonal();
    for (int round = 0; round < 8; ++round) {
        const auto& error2 = now.truth.element_error2;
        const EvenShares even = factors_for_error(error2, target * target * now.truth.energy2, degree, 2);
        ResizeLimits limits;
        limits.largest = diagonal;
        std::vector<SizeSource> sources;
        for (const auto& p : points)
            if (const auto source = point_source(now.mesh, error2, even.element_error2, p.position, p.exponent,
                                                 same_point_share * diagonal, [](std::size_t) { return true; }))
                sources.push_back(*source);
        now = solve(both, {resize(now.mesh, even.factor, limits).with(std::move(sources)), {}, {}});
        best = std::min(best, at_target(now, target, degree));
    }
    return best;
}

double by_hand(const std::string& text, const Vec2& spot, double first, double target, int degree) {
    double best = INFINITY;
    for (const double finer : {2.0, 4.0, 8.0})
        for (const double radius : {0.3, 1.0}) {
            double size = first;
            for (int step = 0; step < 5; ++step) {
                const auto both = opened(fmt::format(
                    "{}[size]\nglobal = {}\n[size.local.hand]\nsize = {}\ninside = {{ shape = \"circle\", centre = "
                    "[{}, {}], radius = {} }}\n",
                    text, size, size / finer, spot[0], spot[1], radius));
                const Solved s = solve(both, sizing_of(both.part, both.study.sizes, "."));
                const double error = s.truth.relative();
                if (std::fabs(error / target - 1) < 0.2) best = std::min(best, at_target(s, target, degree));
                size *= std::clamp(std::pow(target / error, 1.0 / degree), 0.15, 2.0);
                if (s.unknowns > 100'000) break;
            }
        }
    return best;
}

}  // namespace

int main(int argc, char** argv) {
    const std::string only = argc > 1 ? argv[1] : "";
    struct Case {
        const char* name;
        Vec2 spot;
        double first, reach;
    };
    constexpr std::array cases{Case{"plate with a hole", {{0, 1}}, 1.0, 10}, Case{"L-shape", {{0, 0}}, 0.5, 10},
                               Case{"L-shape", {{0, 0}}, 0.5, 40},
                               Case{"curved wall, radius 1 to 2", {{1, 0}}, 0.8, 10},
                               Case{"two rings, stiff one inside", {{1, 0}}, 0.6, 10}};
    fmt::print("{:30} {:4} {:>9} {:>7} {:>9} {:>9} {:>9} {:>7} {:>7}\n", "problem", "", "target", "solves", "error",
               "unknowns", "even", "graded", "hand");
    for (auto p : problems()) {
        if (const auto own = p.text.find("[size]\n"); own != std::string::npos)  // the first size is set here
            p.text.erase(own, p.text.find("\n[", own) + 1 - own);
        if (p.name.find(only) == std::string::npos) continue;
        for (const auto& c : cases) {
            if (p.name != c.name) continue;
            for (const int degree : {1, 2}) {
                const std::string elements = fmt::format("[mesh]\norder = {}\n[quantity.e]\nof = \"ux\"\n", degree);
                const std::string text = p.text + elements;
                const auto both = opened(text + fmt::format("[size]\nglobal = {}\n", c.first));
                const Sizing base = sizing_of(both.part, both.study.sizes, ".");
                const Solved even = solve(both, base.scaled(1 / c.reach));
                const double target = even.truth.relative();
                const auto adaptive = opened(
                    text + fmt::format("[size]\nglobal = {}\n[series.a]\nkind = \"adaptive\"\nerror_target = {}\n",
                                       c.first, target));
                StudyObserver silent;
                const SeriesResult series = run_study(adaptive.study, adaptive.part, silent).series.front();
                std::size_t k = 0;
                while (k + 1 < series.levels.size() && series.levels[k].estimated_error > target) ++k;
                const Level& l = series.levels[k];
                Solved reached{l.fields->mesh, *l.true_error, l.unknowns};
                const double mine = at_target(reached, target, degree);
                const double hand = by_hand(text, c.spot, c.first, target, degree);
                fmt::print("{:30} {:4} {:7.3f} % {:7} {:7.3f} % {:9} {:9} {:7.2f} {:>7}\n", p.name,
                           degree == 1 ? "T3" : "T6", 100 * target, k + 1, 100 * l.true_error->relative(), l.unknowns,
                           even.unknowns, mine / graded(adaptive, reached, target, degree),
                           std::isfinite(hand) ? fmt::format("{:.2f}", mine / hand) : "none");
                std::fflush(stdout);
            }
        }
    }
    fmt::print("graded, hand: unknowns of the adaptive mesh over theirs\n");
    return 0;
}
