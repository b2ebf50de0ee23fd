#include <fmt/format.h>

#include "commands.hpp"
#include "console.hpp"
#include "evidence/levels/stored_result.hpp"
#include "evidence/output.hpp"
#include "evidence/summary.hpp"

namespace dotsift::app {

int report(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift report",
        "Makes report, summary, tables, charts and pictures of a result anew from its stored levels. "
        "Nothing is solved.");
    options.add_options()("help", "print this")(
        "pictures", "of which levels large ones are made: none, last, ends or all; overrules the study",
        cxxopts::value<std::string>())("json", "print the summary as JSON")(
        "result", "directory that `dotsift run` wrote", cxxopts::value<std::string>());
    options.parse_positional({"result"});
    options.positional_help("RESULT");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift report out\n", options.help());
        return 0;
    }
    if (!given.count("result")) throw InputError("no result is given", {}, "as in: dotsift report out");
    StoredResult stored = stored_result(given["result"].as<std::string>());
    choose_pictures(given, stored.opened.study);
    Output output(stored.directory, stored.opened, stored.provenance);
    output.remake(stored.result);
    for (const auto& t : output.troubles()) fmt::print(stderr, "{}\n", t);
    if (given.count("json"))
        fmt::print("{}\n", summary_json(stored.opened, stored.result).dump(2));
    else
        fmt::print("{}\n\nreport: {}\n", strong(study_verdict(stored.opened.study, stored.result)),
                   (output.directory() / "report.html").string());
    return static_cast<int>(stored.result.all_targets_met() && stored.result.all_limits_kept()
                                ? ExitStatus::done
                                : ExitStatus::target_missed);
}

}  // namespace dotsift::app
