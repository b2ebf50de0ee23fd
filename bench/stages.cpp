// Time of each stage on the curved bar, by number of elements. Build with -DDOTSIFT_BENCH=ON, run
// build/bench/dotsift-bench.

#include <benchmark/benchmark.h>

#include <chrono>

#include "base/files.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "recovery/estimate.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "study/read.hpp"

namespace {

using namespace dotsift;

struct Case {
    Study study;
    Part part;
    Sizing sizes;
};

/// An example with sizes for about this many elements.
Case example(const std::string& name, double elements) {
    const std::string path = std::string(DOTSIFT_SOURCE) + "/examples/" + name + ".toml";
    Problems problems(path);
    Study study = read_study(path, read_file(path), problems);
    study.exact_stress.reset();
    Part part = build_part(study, problems).part;
    problems.throw_if_any();
    const Sizing sizes = sizing_of(part, study.sizes, study.path);
    return {study, part, sizes.scaled(std::sqrt(estimate_elements(part, sizes.field, 1e9) / elements))};
}

Case curved_bar(double elements) {
    return example("verification/curved-bar", elements);
}

void count(benchmark::State& state, const Mesh& mesh) {
    state.counters["elements"] = static_cast<double>(mesh.element_count());
    state.counters["elements/s"] =
        benchmark::Counter(static_cast<double>(mesh.element_count()), benchmark::Counter::kIsIterationInvariantRate);
}

void mesh_stage(benchmark::State& state) {
    const Case c = curved_bar(static_cast<double>(state.range(0)));
    Mesh mesh;
    for (auto _ : state) mesh = generate(c.part, c.sizes, 10'000'000);
    count(state, mesh);
}

void solve_stage(benchmark::State& state) {
    const Case c = curved_bar(static_cast<double>(state.range(0)));
    MeshSpec spec;
    spec.order = static_cast<int>(state.range(1));
    const Mesh mesh = generate(c.part, c.sizes, 10'000'000, spec);
    double sparse = 0;
    for (auto _ : state) {
        const Solution s = solve_study(mesh, c.study);
        sparse += s.solver.factor_seconds + s.solver.solve_seconds;
    }
    count(state, mesh);
    state.counters["sparse_s"] = sparse / static_cast<double>(state.iterations());
}

/// With the part of the time that recovery and the fits at singular points take.
void estimate(benchmark::State& state, const Case& c) {
    MeshSpec spec;
    spec.order = static_cast<int>(state.range(1));
    const Mesh mesh = generate(c.part, c.sizes, 10'000'000, spec);
    const Solution s = solve_study(mesh, c.study);
    const Laws laws = laws_of(c.study, mesh.region_names);
    const auto places = singular_points(c.part, c.study);
    double recover = 0, fit = 0;
    for (auto _ : state) {
        const auto start = std::chrono::steady_clock::now();
        const auto recovered = recover_stress(mesh, c.study, laws, s);
        const auto after_recovery = std::chrono::steady_clock::now();
        const auto fits = singular_fits(mesh, laws, s, places, same_point_share * c.part.box.diagonal());
        const auto after_fits = std::chrono::steady_clock::now();
        benchmark::DoNotOptimize(estimate_error(mesh, laws, s, recovered, fits));
        recover += std::chrono::duration<double>(after_recovery - start).count();
        fit += std::chrono::duration<double>(after_fits - after_recovery).count();
    }
    count(state, mesh);
    state.counters["recover_s"] = benchmark::Counter(recover, benchmark::Counter::kAvgIterations);
    state.counters["fit_s"] = benchmark::Counter(fit, benchmark::Counter::kAvgIterations);
}

void estimate_stage(benchmark::State& state) {
    estimate(state, curved_bar(static_cast<double>(state.range(0))));
}

/// Four singular points.
void estimate_corners_stage(benchmark::State& state) {
    estimate(state, example("tidal/pitch-link-lug", static_cast<double>(state.range(0))));
}

}  // namespace

BENCHMARK(mesh_stage)->Arg(2000)->Arg(20000)->Arg(200000)->Unit(benchmark::kMillisecond);
// Of elements of order 2, then 1
BENCHMARK(solve_stage)->ArgsProduct({{2000, 20000, 100000}, {2, 1}})->Unit(benchmark::kMillisecond);
BENCHMARK(estimate_stage)->ArgsProduct({{2000, 20000, 100000}, {2, 1}})->Unit(benchmark::kMillisecond);
BENCHMARK(estimate_corners_stage)->ArgsProduct({{2000, 20000, 100000}, {2, 1}})->Unit(benchmark::kMillisecond);
