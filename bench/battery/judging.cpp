#include "judging.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <functional>
#include <map>
#include <sstream>

#include "base/parallel.hpp"
#include "evidence/pictures/chart.hpp"
#include "families.hpp"
#include "part/checks/check_study.hpp"
#include "series/judgement.hpp"
#include "series/outlook.hpp"
#include "solve/singular/singular_points.hpp"
#include "statistics/combined.hpp"

namespace dotsift::bench {

namespace {

// Values that differ from the truth by rounding only are no cases.
constexpr double exact_share = 1e-8;
// Groups are judged from this many cases on.
constexpr std::size_t least_cases = 60;

std::string strategy_of(const SeriesSpec& s) {
    if (s.kind == SeriesKind::uniform) return fmt::format("uniform {:g}", s.ratio);
    if (s.kind == SeriesKind::local) return "local";
    if (s.drive != std::vector{of_energy}) return "goal";
    constexpr std::array names{"target", "budget", "share_of_elements", "share_of_error"};
    return names[static_cast<std::size_t>(s.strategy)];
}

double median(std::vector<double> values) {
    if (values.empty()) return NAN;
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    return values[values.size() / 2];
}

struct Case {
    double error = 0, half = NAN;
};

class Groups {
  public:
    void add(const std::vector<std::string>& names, const Case& c) {
        for (const auto& n : names) cases_[n].push_back(c);
    }
    void print() const {
        fmt::print("{:44} {:>6} {:>8} {:>9} {:>9} {:>9}\n", "group", "cases", "without", "inside", "half/err",
                   "typical");
        for (const auto& [name, list] : cases_) {
            std::vector<double> errors, halves, ratios;
            double in = 0;
            for (const auto& c : list) {
                if (!std::isfinite(c.half)) continue;
                errors.push_back(c.error);
                halves.push_back(c.half);
                ratios.push_back(c.half / c.error);
                in += c.error <= c.half ? 1 : 0;
            }
            const double share = 100 * in / static_cast<double>(errors.size()), wide = median(halves) / median(errors);
            const bool counts = list.size() >= least_cases;
            fmt::print("{:44} {:6} {:8} {:7.1f} % {:9.2f} {:9.2f}{}\n", name, list.size(), list.size() - errors.size(),
                       share, wide, median(ratios),
                       !counts ? "   (few)"
                       : share < 93 || share > 98 || wide > 4
                           ? fmt::format("   {}{}{}", share < 93 ? "misses " : "", share > 98 ? "holds too often " : "",
                                         wide > 4 ? "wide" : "")
                           : "");
        }
    }

    /// The share of the cases whose true error is below x half-widths.
    [[nodiscard]] PictureFiles chart(bool chosen) const {
        LineChart chart;
        chart.title = "How often the interval holds the truth";
        chart.x_label = "true error over half-width of the interval";
        chart.y_label = "cases below it, %";
        chart.subtitle = fmt::format("{} half of the families; at 1 the truth lies on the edge of the 95 % interval",
                                     chosen ? "chosen" : "published");
        int colour = 0;
        for (const auto& [name, label] : {std::pair{"kind: uniform", "uniform"},
                                          {"kind: local", "local"},
                                          {"kind: adaptive", "adaptive"},
                                          {"headline", "headline value"}}) {
            std::vector<double> ratios;
            for (const auto& c : cases_.at(name))
                if (std::isfinite(c.half)) ratios.push_back(c.error / c.half);
            std::sort(ratios.begin(), ratios.end());
            Curve2 curve{label, {}, colour++};
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

std::vector<std::string> fields_of(const std::string& line) {
    std::vector<std::string> out;
    std::stringstream in(line);
    for (std::string field; std::getline(in, field, ';');) out.push_back(field);
    return out;
}

std::vector<Record> read(const std::filesystem::path& directory) {
    std::vector<Record> out;
    std::vector<std::filesystem::path> files;
    for (const auto& f : std::filesystem::directory_iterator(directory))
        if (f.path().filename().string().starts_with("levels-")) files.push_back(f.path());
    std::sort(files.begin(), files.end());
    for (const auto& file : files) {
        std::ifstream in(file);
        std::string line;
        std::getline(in, line);
        while (std::getline(in, line)) {
            const auto f = fields_of(line);
            if (f.size() < 21) continue;
            Record r;
            std::size_t k = 0;
            for (auto* text : {&r.family, &r.elements, &r.series, &r.kind, &r.strategy, &r.quantity, &r.measure})
                *text = f[k++];
            r.order = std::stoi(f[k++]);
            r.level = std::stoi(f[k++]);
            r.smooth = f[k++] == "1";
            r.unbounded = f[k++] == "1";
            for (auto* number : {&r.h, &r.unknowns, &r.value, &r.terms, &r.estimated_error, &r.expected, &r.dual,
                                 &r.radius, &r.spread, &r.truth, &r.unseen})
                *number = k < f.size() ? std::strtod(f[k++].c_str(), nullptr) : 0;
            out.push_back(std::move(r));
        }
    }
    // Truths as they are computed now; quantities that are no longer there are left out.
    std::map<std::string, std::map<std::string, double>> truth;
    for (const auto& f : families()) {
        const auto both = opened(f.name, f.text + "[size]\nglobal = 0.5\n");
        const auto values = truths(f, both);
        for (std::size_t q = 0; q < values.size(); ++q) truth[f.name][both.study.quantities[q].name] = values[q];
    }
    for (auto& r : out) {
        const auto& of = truth[r.family];
        const auto found = of.find(r.quantity);
        r.truth = found == of.end() ? NAN : found->second;
    }
    return out;
}

/// As series/judgement makes it, from what was kept.
QuantityEvidence evidence_from(std::span<const Record> rows) {
    QuantityEvidence e;
    const Record& last = rows.back();
    e.series = last.series;
    for (int m = 0; m <= static_cast<int>(QuantityKind::unknown); ++m)
        if (last.measure == name_of(static_cast<QuantityKind>(m))) e.measure = static_cast<QuantityKind>(m);
    e.kind = last.kind == "uniform" ? SeriesKind::uniform
             : last.kind == "local" ? SeriesKind::local
                                    : SeriesKind::adaptive;
    e.smooth = last.smooth;
    e.expected_order = last.expected;
    e.degree = last.order;
    e.quadrilaterals = last.elements == "triangles" ? 0 : 1;
    for (const auto& r : rows) {
        e.terms = std::max(e.terms, r.terms);
        if (!e.levels.empty() && r.h >= e.levels.back().h) continue;
        e.levels.push_back({r.h, r.value});
        e.estimated_errors.push_back(r.estimated_error);
        e.unseen_errors.push_back(r.unseen);
    }
    if (std::isfinite(last.dual)) e.dual_error = last.dual;
    e.dual_radius = last.radius;
    e.spread = last.spread;
    return e;
}

}  // namespace

std::string record_header() {
    return "family;elements;series;kind;strategy;quantity;measure;order;level;smooth;unbounded;h;unknowns;value;terms;"
           "estimated_error;expected;dual;radius;spread;truth;unseen_error";
}

std::string to_csv(const Record& r) {
    return fmt::format(
        "{};{};{};{};{};{};{};{};{};{};{};{:.12g};{};{:.17g};{:.10g};{:.6g};{:.6g};{:.10g};{:.6g};{:.6g};{:.17g};{:."
        "6g}",
        r.family, r.elements, r.series, r.kind, r.strategy, r.quantity, r.measure, r.order, r.level, r.smooth ? 1 : 0,
        r.unbounded ? 1 : 0, r.h, r.unknowns, r.value, r.terms, r.estimated_error, r.expected, r.dual, r.radius,
        r.spread, r.truth, r.unseen);
}

std::vector<Record> records_of(const std::string& family, const std::string& elements, int order,
                               const StudyAndPart& both, const StudyResult& result, const std::vector<double>& truth) {
    std::vector<Record> out;
    const auto singular = singular_points(both.part, both.study);
    for (const auto& s : result.series) {
        const auto spec = std::find_if(both.study.series.begin(), both.study.series.end(),
                                       [&](const SeriesSpec& x) { return x.name == s.name; });
        for (std::size_t n = 1; n <= s.levels.size(); ++n) {
            const auto places = singular_places(both.study, *s.levels[n - 1].fields, singular,
                                                same_point_share * both.part.box.diagonal());
            for (std::size_t q = 0; q < truth.size(); ++q) {
                const Level& l = s.levels[n - 1];
                const auto e = evidence_of(both.study, s.kind, std::span(s.levels).first(n), q, places);
                Record r;
                r.family = family;
                r.elements = elements;
                r.series = s.name;
                r.kind = name_of(s.kind);
                r.strategy = strategy_of(*spec);
                r.quantity = both.study.quantities[q].name;
                r.measure = name_of(e.measure);
                r.order = order;
                r.level = static_cast<int>(n);
                r.smooth = e.smooth;
                r.unbounded = s.verdicts[q].verdict == Verdict::unbounded;
                r.h = l.mesh.characteristic_size;
                r.unknowns = static_cast<double>(l.unknowns);
                r.value = l.quantities[q].value;
                r.terms = l.quantities[q].scale;
                r.estimated_error = l.estimated_error;
                r.expected = e.expected_order;
                r.dual = e.dual_error.value_or(NAN);
                r.radius = e.dual_radius;
                r.spread = e.spread;
                r.unseen = l.unseen_error;
                r.truth = truth[q];
                out.push_back(std::move(r));
            }
        }
    }
    return out;
}

void print_records(const std::filesystem::path& directory, bool chosen) {
    fmt::print("{}\n", record_header());
    for (const auto& r : read(directory))
        if (chosen_half(r.family) == chosen) fmt::print("{}\n", to_csv(r));
}

void judge(const std::filesystem::path& directory, bool chosen) {
    Groups groups;
    double forecasts = 0, within_two = 0, at_most_two = 0;
    // Series by family, elements and quantity: their last levels together have the headline value.
    std::map<std::string, std::map<std::string, std::vector<Record>>> studies;
    for (auto& r : read(directory))
        if (chosen_half(r.family) == chosen && std::isfinite(r.truth) && !r.unbounded)
            studies[fmt::format("{};{};{};{}", r.family, r.elements, r.order, r.quantity)][r.series].push_back(r);
    for (const auto& [key, series] : studies) {
        std::vector<QuantityVerdict> verdicts;
        for (const auto& [name, rows] : series) {
            double foretold = NAN;  // half-width after the next level
            for (std::size_t n = 1; n <= rows.size(); ++n) {
                const auto e = evidence_from(std::span(rows).first(n));
                const Record& last = rows[n - 1];
                QuantitySpec spec;
                spec.name = last.quantity;
                const auto v = judge_quantity(spec, e);
                if (n == rows.size()) verdicts.push_back(v);
                if (std::isfinite(foretold) && v.interval.known()) {
                    ++forecasts;
                    const double ratio = v.interval.half_width / foretold;
                    within_two += ratio <= 2 && ratio >= 0.5 ? 1 : 0;
                    at_most_two += ratio <= 2 ? 1 : 0;
                }
                foretold = NAN;
                if (n < rows.size() && v.interval.known() && n >= 3) {
                    const Convergence& c = v.convergence;
                    const double order = std::isfinite(c.used_order) ? c.used_order : c.expected_order;
                    foretold = v.interval.half_width * std::pow(rows[n].h / last.h, order);
                }
                // Relative, so that families of all sizes count alike.
                const double size = std::max(e.terms, std::fabs(last.truth));
                const Case c{std::fabs(last.truth - e.levels.back().value) / size, v.interval.half_width / size};
                if (c.error < exact_share) continue;
                const std::string count = n == 1   ? "one level"
                                          : n == 2 ? "two levels"
                                          : n == 3 ? "three levels"
                                                   : "more levels";
                groups.add({"levels: " + count}, c);
                if (n < 3) {
                    groups.add({"few levels: " + last.kind, "few levels: " + last.measure}, c);
                    continue;
                }
                groups.add({"all of three levels and more", "kind: " + last.kind, "strategy: " + last.strategy,
                            "measure: " + last.measure, last.smooth ? "place: smooth" : "place: singular",
                            fmt::format("elements: {}, order {}", last.elements, last.order), "x " + last.family,
                            "kind x measure: " + last.kind + ", " + last.measure},
                           c);
            }
        }
        QuantitySpec spec;
        const auto best = combined_verdict(spec, verdicts).interval;
        const Record& any = series.begin()->second.back();
        const double size = std::max(any.terms, std::fabs(any.truth));
        const Case c{std::fabs(any.truth - best.value) / size, best.half_width / size};
        if (c.error < exact_share) continue;
        groups.add({"headline", "headline: " + any.measure}, c);
    }
    groups.print();
    fmt::print(
        "forecasts of the next level's half-width: {}, within a factor of two {:.1f} %, not more than twice {:.1f} %\n",
        forecasts, 100 * within_two / forecasts, 100 * at_most_two / forecasts);
    const PictureFiles chart = groups.chart(chosen);
    if (!chart.png.empty()) std::ofstream(directory / "calibration.png", std::ios::binary) << chart.png;
    fmt::print("half/err: median half-width over median true error; typical: median of half-width over true error\n");
}

}  // namespace dotsift::bench
