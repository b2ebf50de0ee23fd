#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/pictures/chart.hpp"
#include "evidence/statistics_files.hpp"
#include "statistics/level_table.hpp"
#include "statistics/verdict.hpp"
#include "study/share.hpp"

namespace dotsift::app {

namespace {

constexpr double usual_order = 2;

struct Asked {
    SizeColumn size;
    std::vector<std::string> values;
    std::optional<double> order;
    std::optional<QuantityTarget> target;
};

double positive(const cxxopts::ParseResult& given, const char* option) {
    const auto v = given[option].as<double>();
    if (!(v > 0) || !std::isfinite(v))
        throw InputError(fmt::format("--{} is {:g}, but it must be greater than zero", option, v));
    return v;
}

/// "2 %" or 0.02, as in a study.
double share_of(const cxxopts::ParseResult& given, const char* option) {
    const auto text = given[option].as<std::string>();
    const auto measure = parse_measure(text);
    const bool percent = measure && measure->dimension == dimension::none;
    char* end = nullptr;
    const double plain = std::strtod(text.c_str(), &end);
    const double v = percent ? measure->in_si : plain;
    if ((!percent && (end == text.c_str() || *end)) || !(v > 0) || !std::isfinite(v))
        throw InputError(fmt::format("--{} is \"{}\", which is no share", option, text), {},
                         fmt::format("as in --{} \"2 %\" or --{} 0.02", option, option));
    if (!percent && v >= implausible_share)
        throw InputError(fmt::format("--{} {}", option, implausible_share_in_words(v)), {}, share_meant_instead(v));
    return v;
}

Asked asked_of(const cxxopts::ParseResult& given) {
    Asked a;
    if (given.count("size") && given.count("count"))
        throw InputError("--size and --count both name the column of the sizes", {}, "give one of them");
    if (given.count("size")) a.size.name = given["size"].as<std::string>();
    if (given.count("count")) {
        a.size.name = given["count"].as<std::string>();
        a.size.counts = true;
    }
    if (given.count("dimension") && !a.size.counts)
        throw InputError("--dimension goes with --count", {}, "sizes of elements are taken as they are");
    a.size.dimension = given["dimension"].as<int>();
    if (a.size.dimension < 1 || a.size.dimension > 3)
        throw InputError(fmt::format("--dimension is {}, but it must be 1, 2 or 3", a.size.dimension));
    if (given.count("values")) a.values = given["values"].as<std::vector<std::string>>();
    if (given.count("order")) a.order = positive(given, "order");
    if (given.count("target")) a.target = QuantityTarget{share_of(given, "target"), false};
    return a;
}

ConvergenceChart chart_of(const TableSeries& s, const QuantityVerdict& v, const Asked& asked) {
    ConvergenceChart chart;
    chart.title = s.name;
    chart.subtitle = fmt::format("{} levels, {}", v.convergence.levels, name_of(v.convergence.behaviour));
    chart.x_label = asked.size.counts         ? fmt::format("(number of elements)^(-1/{})", asked.size.dimension)
                    : asked.size.name.empty() ? "element size"
                                              : asked.size.name;
    chart.y_label = s.name;
    Curve2 curve{s.name, {}, 0};
    for (const auto& l : s.levels) curve.points.push_back({{l.h, l.value}});
    chart.curves.push_back(std::move(curve));
    show_interval(chart, v, "extrapolated");
    return chart;
}

}  // namespace

int statistics(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift statistics",
                             "Observed order, extrapolation, grid convergence index and a 95 % interval for values on "
                             "three or more meshes, out of a table of any origin: the first row names the columns, "
                             "every other row is a mesh. Exit status 1 if a target is missed.");
    options.add_options()("help", "print this")("size", "column of the element sizes; without it the first column",
                                                cxxopts::value<std::string>())(
        "count", "instead: column of element counts", cxxopts::value<std::string>())(
        "dimension", "for counts: of the meshes", cxxopts::value<int>()->default_value("2"))(
        "values", "columns of values, separated by commas; without it all that remain",
        cxxopts::value<std::vector<std::string>>())("order", "that theory promises; without it no 95 % is promised",
                                                    cxxopts::value<double>())(
        "target", "wanted uncertainty, as in \"2 %\"", cxxopts::value<std::string>())(
        "o,output", "directory for statistics.json, statistics.md and a chart of each column",
        cxxopts::value<std::string>())("json", "print as JSON")("table", "CSV file", cxxopts::value<std::string>());
    options.parse_positional({"table"});
    options.positional_help("TABLE.csv [-o DIRECTORY]");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift statistics examples/tidal/duct-loss.csv --count cells --dimension 3\n",
                   options.help());
        return 0;
    }
    if (!given.count("table"))
        throw InputError("no table is given", {}, "as in: dotsift statistics levels.csv --size h");
    const Asked asked = asked_of(given);
    const std::filesystem::path file = given["table"].as<std::string>();
    Problems problems(file.string());
    const auto series = read_level_table(read_file(file), asked.size, asked.values, problems);
    problems.throw_if_any();
    std::fputs(problems.warning_text().c_str(), stderr);

    std::vector<QuantityVerdict> verdicts;
    bool missed = false;
    for (const auto& s : series) {
        QuantitySpec spec;
        spec.name = s.name;
        spec.target = asked.target;
        QuantityEvidence evidence;
        evidence.levels = s.levels;
        evidence.expected_order = asked.order.value_or(usual_order);
        evidence.order_known = asked.order.has_value();
        verdicts.push_back(judge_quantity(spec, evidence));
        missed = missed || (asked.target && verdicts.back().verdict != Verdict::met);
    }
    nlohmann::ordered_json j{
        {"format", 1}, {"program", "dotsift " DOTSIFT_VERSION}, {"table", file.filename().string()}};
    for (std::size_t k = 0; k < series.size(); ++k) {
        auto item = verdict_json(verdicts[k]);
        for (const auto& l : series[k].levels) item["values"].push_back({{"h", l.h}, {"value", l.value}});
        j["quantities"].push_back(std::move(item));
    }
    const auto rows = statistics_rows(verdicts);
    if (given.count("output")) {
        const std::filesystem::path directory = given["output"].as<std::string>();
        make_directory(directory);
        write_file(directory / "statistics.json", j.dump(2) + "\n");
        std::string text = markdown_table(rows) + "\n";
        for (const auto& v : verdicts) text += "- " + v.sentence + "\n";
        write_file(directory / "statistics.md", text);
        for (std::size_t k = 0; k < series.size(); ++k) {
            const PictureFiles chart = draw_chart(chart_of(series[k], verdicts[k], asked));
            write_picture(directory / fmt::format("values-{}", k + 1), chart);
        }
    }
    if (given.count("json")) {
        fmt::print("{}\n", j.dump(2));
    } else {
        fmt::print("{}\n", table(rows));
        for (const auto& v : verdicts) fmt::print("  {}\n    {}\n", v.sentence, v.interval.rule);
    }
    return static_cast<int>(missed ? ExitStatus::target_missed : ExitStatus::done);
}

}  // namespace dotsift::app
