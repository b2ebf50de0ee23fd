#include <fmt/format.h>

#include <algorithm>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "evidence/summary.hpp"
#include "evidence/variations.hpp"
#include "running.hpp"
#include "study/file/read_vary.hpp"

namespace dotsift::app {

namespace {

/// One run in its own folder, with the faults of its study and failures on the way as words.
VariedRun run_one(const Study& base, const VarySpec& spec, const std::vector<std::size_t>& at,
                  const std::filesystem::path& folder, const cxxopts::ParseResult& given) {
    VariedRun run;
    std::vector<std::pair<std::string, std::string>> values;
    for (std::size_t v = 0; v < spec.values.size(); ++v) {
        run.inputs.push_back(spec.values[v].literals[at[v]]);
        values.emplace_back(spec.values[v].variable, run.inputs.back());
    }
    const auto failed = [&](const Error& e) {
        const std::string what = e.what();
        run.failure = what.substr(0, what.find('\n'));
    };
    Prepared prepared;
    try {
        Problems problems(base.path.string());
        prepared.opened = open_study(base.path, with_values(base.source, values), problems);
        problems.throw_if_any();
        choose_pictures(given, prepared.opened.study);
        check_sizes(prepared.opened);
    } catch (const Error& e) {
        failed(e);
        return run;
    }
    // What is wrong with the directory is no run's failure, but ends the command.
    Output output(folder, prepared.opened, provenance_now(prepared.opened.study, solver_libraries()));
    output.begin(earlier_of(given));
    try {
        const StudyResult result = run_into(prepared, output, given.count("quiet") > 0);
        run.outputs = outputs_of(prepared.opened.study, result);
        for (const auto& e : result.failures) failed(e);
    } catch (const FileError&) {
        throw;  // a full disk is not the study's fault
    } catch (const Error& e) {
        failed(e);
    }
    return run;
}

/// All of a run's verdicts in a word or a few: what has no limit is no value that a better mesh would bring nearer.
std::string verdict_of(const VariedOutputs& out) {
    if (out.all_met) return out.limits_kept ? "met" : "limit not kept";
    const bool unbounded = std::any_of(out.quantities.begin(), out.quantities.end(),
                                       [](const auto& q) { return q.verdict == Verdict::unbounded; });
    return unbounded ? name_of(Verdict::unbounded) : "missed";
}

void print_table(const Study& study, const VarySpec& spec, const std::vector<VariedRun>& runs) {
    std::vector<std::vector<std::string>> rows{{"run"}};
    for (const auto& v : spec.values) rows[0].push_back(v.variable);
    for (const auto& q : study.quantities) {
        const std::string unit = unit_of(study, q);
        rows[0].push_back(unit.empty() ? q.name : q.name + " " + unit);
        rows[0].emplace_back("±");
    }
    rows[0].insert(rows[0].end(), {"elements", "verdict"});
    for (std::size_t k = 0; k < runs.size(); ++k) {
        std::vector<std::string> row{std::to_string(k + 1)};
        for (const auto& literal : runs[k].inputs) row.push_back(without_quotes(literal));
        if (!runs[k].failure.empty()) {
            row.resize(rows[0].size() - 1);
            row.push_back(runs[k].failure);
            rows.push_back(std::move(row));
            continue;
        }
        const VariedOutputs& out = *runs[k].outputs;
        for (const auto& q : out.quantities) {
            row.push_back(sensible(q.value, 5));
            row.push_back(std::isfinite(q.uncertainty) ? sensible(q.uncertainty, 2) : "-");
        }
        row.push_back(grouped(out.elements));
        row.push_back(verdict_of(out));
        rows.push_back(std::move(row));
    }
    fmt::print("{}\n{}\n", strong("vary " + spec.name), table(rows));
}

}  // namespace

int vary(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift vary",
                             "Runs a study once for each set of values in its [vary.NAME] tables. Each run is a result "
                             "of its own in NAME/run-K; the tables of inputs and outputs are NAME.csv and NAME.json.");
    options.add_options()("help", "print this")("o,output", "directory for the results", cxxopts::value<std::string>())(
        "replace", "remove earlier results of these runs")("resume",
                                                           "keep the levels of earlier runs and go on from them")(
        "pictures", "of which levels large ones are made: none, last, ends or all; overrules the study",
        cxxopts::value<std::string>())("json", "print the tables as JSON")("quiet", "no progress")(
        "study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY -o DIRECTORY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift vary examples/tidal/mooring-bracket.toml -o out-vary\n", options.help());
        return 0;
    }
    if (!given.count("study") || !given.count("output"))
        throw InputError(given.count("study") ? "no output directory is given" : "no study file is given", {},
                         "as in: dotsift vary study.toml -o out");
    (void)earlier_of(given);  // before anything is read
    const StudyAndPart opened = load(given["study"].as<std::string>());
    const Study& study = opened.study;
    if (study.vary.empty()) {
        Place place;
        place.file = study.path.string();
        throw InputError("the study varies nothing", place,
                         "add [vary.NAME] with values = { VARIABLE = [\"2 mm\", \"3 mm\"] }");
    }
    const std::filesystem::path directory = given["output"].as<std::string>();
    for (const auto& spec : study.vary) {
        std::error_code code;
        Place place;
        place.file = (directory / (spec.name + ".csv")).string();
        if (earlier_of(given) == Earlier::refuse && std::filesystem::exists(place.file, code))
            throw InputError("there is an earlier table, which is never overwritten", place,
                             "choose another directory with -o, or give --resume or --replace");
    }
    make_directory(directory);
    nlohmann::ordered_json all{{"format", 1}, {"title", study.title}};
    bool met = true;
    for (const auto& spec : study.vary) {
        std::vector<VariedRun> runs;
        for (const auto& at : spec.runs()) {
            const std::size_t number = runs.size() + 1;
            if (!given.count("quiet")) fmt::print(stderr, "{} run {} of {}\n", spec.name, number, spec.runs().size());
            runs.push_back(run_one(study, spec, at, directory / spec.name / fmt::format("run-{}", number), given));
            met = met && runs.back().outputs && runs.back().outputs->all_met && runs.back().outputs->limits_kept;
            // After every run, so that nothing is lost.
            write_file(directory / (spec.name + ".csv"), variations_csv(study, spec, runs));
        }
        const auto json = variations_json(study, spec, runs);
        write_file(directory / (spec.name + ".json"), json.dump(2) + "\n");
        all["tables"].push_back(json);
        for (const auto& [name, chart] : draw_variations(study, spec, runs)) {
            write_picture(directory / (spec.name + "-" + name), chart);
        }
        if (!given.count("json")) print_table(study, spec, runs);
    }
    if (given.count("json"))
        fmt::print("{}\n", all.dump(2));
    else
        fmt::print("written   {}\n", directory.string());
    return static_cast<int>(met ? ExitStatus::done : ExitStatus::target_missed);
}

}  // namespace dotsift::app
