// Building parts and evaluating their edges. Run with: build/bench/dotsift-bench --benchmark_filter=part

#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <cmath>
#include <set>
#include <stdexcept>

#include "part/build.hpp"
#include "study/read.hpp"

namespace {

using namespace dotsift;

BuiltPart built(const std::string& shapes) {
    Problems problems("bench");
    const Study study = read_study("bench", "format = 1\n[part]\n" + shapes, problems);
    return build_part(study, problems);
}

/// A plate with 20 x 20 holes, each with a name of its own. `reach` pushes the outermost ones over the rim, so that
/// 76 of them must be cut by the geometry library.
void holes_in_a_plate(benchmark::State& state, double reach) {
    const std::string text = fmt::format(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [200, 200]\nname = \"rim\"\n[[part.shape]]\ncut = "
        "\"circle\"\nradius = "
        "3\ncentre = [{0}, {0}]\nname = \"hole#\"\nrepeat = [20, 20]\nstep = [[{1}, 0], [0, {1}]]\n",
        5 - reach, (190 + 2 * reach) / 19);
    Part part;
    for (auto _ : state) part = built(text).part;
    std::set<std::string> left;
    for (const auto& e : part.edges)
        for (const int n : e.names) left.insert(part.boundary_names[static_cast<std::size_t>(n)]);
    if (left.size() != 401) throw std::runtime_error("names were lost");
    state.counters["names"] = static_cast<double>(left.size());
    state.counters["edges"] = static_cast<double>(part.edges.size());
}

void part_400_holes_inside(benchmark::State& state) {
    holes_in_a_plate(state, 0);
}
void part_400_holes_some_over_the_rim(benchmark::State& state) {
    holes_in_a_plate(state, 4);
}

/// The same 400 holes as 400 shapes, one after the other in the study file.
void part_400_single_shapes(benchmark::State& state) {
    std::string text = "[[part.shape]]\nadd = \"rectangle\"\nsize = [200, 200]\nname = \"rim\"\n";
    for (int k = 0; k < 400; ++k)
        text += fmt::format("[[part.shape]]\ncut = \"circle\"\nradius = 3\ncentre = [{}, {}]\nname = \"hole{}\"\n",
                            1 + 10.42 * (k % 20), 1 + 10.42 * (k / 20), k);
    for (auto _ : state) benchmark::DoNotOptimize(built(text).part.edges.size());
}

void evaluate(benchmark::State& state, const Curve& c) {
    double t = 0;
    for (auto _ : state) {
        benchmark::DoNotOptimize(c.point(t));
        t += 0.001;
        if (t > 1) t -= 1;
    }
}

void part_point_on_line(benchmark::State& state) {
    evaluate(state, Curve::line({{0, 1}}, {{5, 3}}));
}
void part_point_on_arc(benchmark::State& state) {
    evaluate(state, Curve::arc({{1, 2}}, {{3, 0}}, {{0, 3}}, 0.2, 4));
}
void part_point_on_spline(benchmark::State& state) {
    const auto n = std::make_shared<const Nurbs>(spline_through<2>({{{0, 0}}, {{1, 2}}, {{3, 1}}, {{4, 4}}, {{7, 3}}}));
    evaluate(state, Curve::spline(n, n->low(), n->high()));
}

}  // namespace

BENCHMARK(part_400_holes_inside)->Unit(benchmark::kMillisecond);
BENCHMARK(part_400_holes_some_over_the_rim)->Unit(benchmark::kMillisecond);
BENCHMARK(part_400_single_shapes)->Unit(benchmark::kMillisecond);
BENCHMARK(part_point_on_line);
BENCHMARK(part_point_on_arc);
BENCHMARK(part_point_on_spline);
