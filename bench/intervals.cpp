// Are the intervals right? dotsift-intervals [DIRECTORY]
// Series of meshes of parts whose quantities are known from a mesh that is finer by far; every run of three or more
// levels is a case. With a directory, all levels are written there as a table, and the calibration as a chart.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <map>
#include <string>

#include "evidence/chart.hpp"
#include "interval_problems.hpp"
#include "part/check_study.hpp"
#include "series/run.hpp"
#include "solve/singular_points.hpp"

namespace {

using namespace dotsift;

// Truths that are not known much better than the value they judge judge nothing.
constexpr double known_better = 20;
// Values that differ from the truth by rounding only are no cases.
constexpr double exact_share = 1e-9;

StudyAndPart opened(const std::string& text) {
    Problems problems("bench");
    StudyAndPart both = open_study("bench", text, problems);
    problems.throw_if_any();
    return both;
}

struct Truth {
    double value = 0, error = 0;
};

/// From a mesh that is fitted to the error, and then made finer everywhere.
std::vector<Truth> truths(const bench::IntervalProblem& p) {
    const auto both = opened(p.text + fmt::format("[mesh]\norder = 2\n[size]\nglobal = {}\n"
                                                  "[series.fit]\nkind = \"adaptive\"\nerror_target = 0.002\n"
                                                  "most_levels = 6\n[series.fine]\nkind = \"uniform\"\nratio = "
                                                  "2\nstart_from = \"fit/3\"\nmost_levels = 4\n",
                                                  p.size / 2));
    StudyObserver silent;
    const auto result = run_study(both.study, both.part, silent);
    const auto& levels = result.series.back().levels;
    std::vector<Truth> out;
    const Level &last = levels.back(), &before = levels[levels.size() - 2];
    for (std::size_t q = 0; q < last.quantities.size(); ++q)
        out.push_back({last.quantities[q].value, std::fabs(last.quantities[q].value - before.quantities[q].value)});
    return out;
}

double least_exponent(const StudyAndPart& both) {
    double least = 1;
    for (const auto& s : singular_points(both.part, both.study))
        if (s.exponent > 0) least = std::min(least, s.exponent);
    return least;
}

/// True error and half-widths of one case.
struct Case {
    double error = 0, interval = NAN, index = NAN, fit = NAN;
};

double median(std::vector<double> values) {
    if (values.empty()) return NAN;
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    return values[values.size() / 2];
}

class Battery {
  public:
    void add(const std::vector<std::string>& classes, const Case& c) {
        for (const auto& name : classes) cases_[name].push_back(c);
    }

    void print() const {
        fmt::print("{:32} {:>6} {:>8} {:>8} {:>9} {:>9}   {:>14} {:>14}\n", "class", "cases", "without", "inside",
                   "half/err", "typical", "GCI alone", "least squares");
        for (const auto& [name, list] : cases_) {
            const auto inside = [&](double Case::*half) {
                double known = 0, in = 0;
                for (const auto& c : list) {
                    if (!std::isfinite(c.*half)) continue;
                    ++known;
                    in += c.error <= c.*half ? 1 : 0;
                }
                return known > 0 ? fmt::format("{:5.1f} % {:5}", 100 * in / known, known) : std::string("-");
            };
            std::vector<double> errors, halves, ratios;
            double without = 0, in = 0;
            for (const auto& c : list) {
                if (!std::isfinite(c.interval)) {
                    ++without;
                    continue;
                }
                errors.push_back(c.error);
                halves.push_back(c.interval);
                ratios.push_back(c.interval / c.error);
                in += c.error <= c.interval ? 1 : 0;
            }
            fmt::print("{:32} {:6} {:8} {:6.1f} % {:9.2f} {:9.2f}   {:>14} {:>14}\n", name, list.size(), without,
                       100 * in / static_cast<double>(errors.size()), median(halves) / median(errors), median(ratios),
                       inside(&Case::index), inside(&Case::fit));
        }
        fmt::print(
            "half/err: median half-width over median true error; typical: median of half-width over true error;\n"
            "GCI alone, least squares: the share that these would hold, of the cases that they give anything for\n");
    }

    /// The share of the cases whose true error is below x half-widths.
    [[nodiscard]] PictureFiles chart() const {
        LineChart chart;
        chart.title = "How often the interval holds the truth";
        chart.x_label = "true error over half-width of the interval";
        chart.y_label = "cases below it, %";
        const auto& all = cases_.at("all");
        chart.subtitle = fmt::format("{} cases; at 1 the truth lies on the edge of the 95 % interval", all.size());
        int colour = 0;
        for (const char* name : {"all", "uniform", "adaptive"}) {
            std::vector<double> ratios;
            for (const auto& c : cases_.at(name))
                if (std::isfinite(c.interval)) ratios.push_back(c.error / c.interval);
            std::sort(ratios.begin(), ratios.end());
            Curve2 curve{name, {}, colour++};
            for (int k = 0; k <= 60; ++k) {
                const double x = 0.025 * k;
                const auto below = std::upper_bound(ratios.begin(), ratios.end(), x) - ratios.begin();
                curve.points.push_back({{x, 100 * static_cast<double>(below) / static_cast<double>(ratios.size())}});
            }
            chart.curves.push_back(std::move(curve));
        }
        return draw_chart(chart);
    }

  private:
    std::map<std::string, std::vector<Case>> cases_;
};

Case case_of(const QuantitySpec& spec, std::size_t q, const std::vector<Level>& levels, double expected,
             const Truth& truth) {
    QuantityEvidence evidence;
    evidence.expected_order = expected;
    for (const auto& l : levels) {
        evidence.levels.push_back({l.mesh.characteristic_size, l.quantities[q].value});
        evidence.terms = std::max(evidence.terms, l.quantities[q].scale);
    }
    if (const auto& goal = levels.back().goals[q]; goal && goal->radius == 0)
        evidence.dual_error = goal->corrected() - evidence.levels.back().value;
    const QuantityVerdict v = judge_quantity(spec, evidence);
    Case c;
    c.error = std::fabs(truth.value - v.interval.value);
    c.interval = v.interval.half_width;
    c.index = v.convergence.gci_fine * std::fabs(v.interval.value);
    if (v.convergence.least_squares) c.fit = v.convergence.least_squares->half_width;
    return c;
}

}  // namespace

int main(int argc, char** argv) {
    const std::filesystem::path directory = argc > 1 ? argv[1] : "";
    std::ofstream table;
    if (argc > 1) table.open(directory / "levels.csv");
    table << "problem,elements,order,series,quantity,level,h,unknowns,value,dual_error,truth,truth_error\n";
    Battery battery;
    const auto all_problems = bench::interval_problems();
    for (const auto& p : all_problems) (void)opened(p.text + "[size]\nglobal = 1\n");  // all are read before one is run
    for (const auto& p : all_problems) {
        const auto truth = truths(p);
        for (const auto& [elements, order] :
             {std::pair{"triangles", 1}, {"triangles", 2}, {"quadrilaterals", 1}, {"quadrilaterals", 2}}) {
            const StudyAndPart both = opened(
                p.text + fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n[size]\nglobal = {}\n"
                                     "[series.doubled]\nkind = \"uniform\"\nratio = 2\nmost_levels = 4\n"
                                     "[series.mild]\nkind = \"uniform\"\nratio = 1.4\nmost_levels = 6\n"
                                     "[series.adaptive]\nkind = \"adaptive\"\nerror_target = {}\nmost_levels = 6\n",
                                     elements, order, p.size, order == 1 ? 0.01 : 0.0005));
            StudyObserver silent;
            const auto result = run_study(both.study, both.part, silent);
            const double exponent = least_exponent(both);
            for (const auto& s : result.series)
                for (std::size_t q = 0; q < truth.size(); ++q) {
                    const QuantitySpec& spec = both.study.quantities[q];
                    std::vector<Level> levels;
                    for (const auto& l : s.levels) {
                        if (!levels.empty() && l.mesh.characteristic_size >= levels.back().mesh.characteristic_size)
                            continue;
                        levels.push_back(l);
                        table << fmt::format("{},{},{},{},{},{},{:.10g},{},{:.15g},{:.10g},{:.15g},{:.3g}\n", p.name,
                                             elements, order, s.name, spec.name, l.index, l.mesh.characteristic_size,
                                             l.unknowns, l.quantities[q].value,
                                             l.goals[q] ? l.goals[q]->corrected() - l.quantities[q].value : NAN,
                                             truth[q].value, truth[q].error);
                    }
                    const bool adaptive = s.kind == SeriesKind::adaptive;
                    const double expected = expected_order(spec, order, adaptive ? 1 : exponent);
                    for (std::size_t first = 0; first < levels.size(); ++first)
                        for (std::size_t last = first + 2; last < levels.size(); ++last) {
                            const auto from = levels.begin() + static_cast<std::ptrdiff_t>(first),
                                       to = levels.begin() + static_cast<std::ptrdiff_t>(last) + 1;
                            const Case c = case_of(spec, q, {from, to}, expected, truth[q]);
                            if (c.error < known_better * truth[q].error ||
                                c.error < exact_share * levels[last].quantities[q].scale)
                                continue;
                            // Three levels each; longer runs end with the same three, and show what fits make of them.
                            const std::string runs = last - first == 2 ? "" : ", 4 and more levels";
                            battery.add({"all" + runs}, c);
                            if (!runs.empty()) continue;
                            battery.add(
                                {adaptive ? "adaptive" : "uniform", exponent < 1 ? "singular" : "smooth",
                                 fmt::format("{}, order {}", elements, order), "part: " + p.name, "series: " + s.name},
                                c);
                        }
                }
            table.flush();
        }
        fmt::print(stderr, "{}\n", p.name);
    }
    battery.print();
    if (argc > 1) std::ofstream(directory / "calibration.png", std::ios::binary) << battery.chart().png;
    return 0;
}
