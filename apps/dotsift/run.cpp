#include <fmt/format.h>

#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/report/report_tables.hpp"
#include "evidence/summary.hpp"
#include "running.hpp"

namespace dotsift::app {

namespace {

void print_series(const Study& study, const SeriesResult& s) {
    const std::string length = study.units.label(dimension::length);
    std::vector<std::vector<std::string>> rows{{"level", "h " + length, "elements", "unknowns", "est. error"}};
    if (study.error_bound) rows[0].emplace_back("bound");
    if (study.exact_stress) rows[0].insert(rows[0].end(), {"true error", "effectivity"});
    for (const auto& q : study.quantities) {
        const std::string unit = unit_of(study, q);
        rows[0].push_back(unit.empty() ? q.name : q.name + " " + unit);
        rows[0].emplace_back("change");
    }
    rows[0].insert(rows[0].end(), {"balance", "time s", "MB"});
    for (std::size_t k = 0; k < s.levels.size(); ++k) {
        const Level& l = s.levels[k];
        std::vector<std::string> row{std::to_string(l.index), sensible(l.mesh.characteristic_size),
                                     grouped(static_cast<long long>(l.mesh.elements)), grouped(l.unknowns),
                                     percent(l.estimated_error)};
        if (study.error_bound) row.push_back(l.error_bound ? percent(*l.error_bound) : "-");
        if (l.true_error) {
            row.push_back(percent(l.true_error->relative()));
            const auto index = effectivity(l);
            row.push_back(index ? sensible(*index, 3) : "-");
        }
        for (std::size_t q = 0; q < l.quantities.size(); ++q) {
            row.push_back(shown_value(l.quantities[q], 6));
            const double change = k > 0 ? relative_change(s.levels[k - 1].quantities[q], l.quantities[q]) : NAN;
            row.push_back(std::isnan(change) ? "" : percent(change));
        }
        row.insert(row.end(), {fmt::format("{:.0e}", l.balance.relative_error), sensible(seconds_of(l), 2),
                               fmt::format("{:.0f}", peak_bytes_of(l) / 1e6)});
        rows.push_back(std::move(row));
    }
    fmt::print("{}\n{}  stopped by {}\n", strong("series " + s.name), table(rows), s.stopped_by);
    for (const auto& v : s.verdicts) fmt::print("  {}\n", v.sentence);
    fmt::print("\n");
}

void print_verdict(const Study& study, const StudyResult& result, const std::filesystem::path& directory) {
    fmt::print("{}\n", strong(study_verdict(study, result)));
    if (const Table limits = limits_table(study, result); !limits.rows.empty())
        fmt::print("{}\n", table(plain_rows(limits)));
    for (const auto& m : result.shared)
        if (m.drifts()) fmt::print("  not the same on every mesh: {} {} {}\n", name_of(m.kind), m.name, m.fault);
    for (const auto& line : outlook_sentences(study, result)) fmt::print("  {}\n", line);
    fmt::print("\nreport: {}\n", (directory / "report.html").string());
}

}  // namespace

int run(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift run",
        "Runs every series of a study and writes levels, pictures, tables and the report into one directory.");
    options.add_options()("help", "print this")("o,output", "directory for the results", cxxopts::value<std::string>())(
        "replace", "remove an earlier result in that directory")(
        "resume", "keep the levels of an earlier result in that directory and go on from them")(
        "pictures", "of which levels large ones are made: none, last, ends or all; overrules the study",
        cxxopts::value<std::string>())("json", "print the summary as JSON instead of tables")("quiet", "no progress")(
        "study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY -o DIRECTORY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift run examples/tidal/pitch-link-lug.toml -o out\n", options.help());
        return 0;
    }
    if (!given.count("study")) throw InputError("no study file is given", {}, "as in: dotsift run study.toml -o out");
    if (!given.count("output"))
        throw InputError("no output directory is given", {}, "as in: dotsift run study.toml -o out");
    Prepared prepared;
    prepared.opened = load(given["study"].as<std::string>());
    choose_pictures(given, prepared.opened.study);
    const StudyAndPart& opened = prepared.opened;
    const Study& study = opened.study;
    Output output(given["output"].as<std::string>(), opened, provenance_now(study, solver_libraries()));
    check_sizes(opened);
    output.begin(earlier_of(given));
    const StudyResult result = run_into(prepared, output, given.count("quiet") > 0);
    if (given.count("json")) {
        fmt::print("{}\n", summary_json(opened, result).dump(2));
    } else {
        for (const auto& s : result.series) print_series(study, s);
        print_verdict(study, result, output.directory());
    }
    for (const auto& e : result.failures) (void)tell(e);
    if (!result.failures.empty()) return static_cast<int>(result.failures.front().status());
    return static_cast<int>(result.all_targets_met() && result.all_limits_kept() ? ExitStatus::done
                                                                                 : ExitStatus::target_missed);
}

}  // namespace dotsift::app
