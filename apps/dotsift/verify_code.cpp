#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>

#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/verification_files.hpp"

namespace dotsift::app {

int verify_code(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift verify-code",
        "Verifies the program itself: fields that every element must show exactly, observed orders of "
        "convergence beside the theoretical ones, and problems with a known answer.");
    options.add_options()("help", "print this")("o,output", "directory for tables and charts",
                                                cxxopts::value<std::string>())(
        "only", "checks whose kind, problem or elements contain one of these words, with commas between",
        cxxopts::value<std::vector<std::string>>())("json", "print as JSON")("quiet", "no progress");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift verify-code --only \"known answer\" -o out/code\n", options.help());
        return 0;
    }
    std::vector<std::string> only;
    if (given.count("only")) only = given["only"].as<std::vector<std::string>>();
    const bool tells = !given.count("quiet") && ::isatty(2) != 0;
    const CodeVerification v = dotsift::verify_code(only, [&](const std::string& what) {
        if (tells) fmt::print(stderr, "\r\033[K{}", what);
    });
    if (tells) fmt::print(stderr, "\r\033[K");
    if (v.checks.empty())
        throw InputError("no check fits --only", {}, "kinds are \"patch test\", \"order\" and \"known answer\"");
    if (given.count("output")) write_verification(v, given["output"].as<std::string>());
    if (given.count("json")) {
        fmt::print("{}\n", verification_json(v).dump(2));
    } else {
        std::vector<std::vector<std::string>> rows{{"check", "problem", "elements", "what", "found", "known", ""}};
        for (const auto& c : v.checks) {
            const bool exactness = c.kind == CodeCheck::Kind::exactness;
            rows.push_back({name_of(c.kind), c.problem, c.elements, c.what,
                            exactness ? fmt::format("{:.1e}", c.found) : sensible(c.found, 5),
                            exactness    ? "0"
                            : c.at_least ? fmt::format("at least {:g} - {:g}", c.known, c.tolerance)
                                         : sensible(c.known, 5),
                            c.passed ? "passed" : "FAILED"});
        }
        const auto passed = std::count_if(v.checks.begin(), v.checks.end(), [](const auto& c) { return c.passed; });
        fmt::print("{}{}\n", table(rows), strong(fmt::format("{} of {} checks passed", passed, v.checks.size())));
        if (given.count("output")) fmt::print("written   {}\n", given["output"].as<std::string>());
    }
    return static_cast<int>(v.passed() ? ExitStatus::done : ExitStatus::target_missed);
}

}  // namespace dotsift::app
