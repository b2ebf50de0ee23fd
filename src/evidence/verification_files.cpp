#include "evidence/verification_files.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "evidence/pictures/chart.hpp"

namespace dotsift {

namespace {

std::string quoted_field(const std::string& text) {
    if (text.find_first_of(",\"\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string wanted(const CodeCheck& c) {
    switch (c.kind) {
        case CodeCheck::Kind::exactness:
            return fmt::format("below {:.0e}", c.tolerance);
        case CodeCheck::Kind::order:
            return c.at_least ? fmt::format("at least {:g} - {:g}", c.known, c.tolerance)
                              : fmt::format("{:g} ± {:g}", c.known, c.tolerance);
        case CodeCheck::Kind::known_answer:
            return fmt::format("{} ± {}", sensible(c.known, 6), percent(c.tolerance));
    }
    return {};
}

std::string shown(const CodeCheck& c) {
    switch (c.kind) {
        case CodeCheck::Kind::exactness:
            return fmt::format("{:.1e}", c.found);
        case CodeCheck::Kind::order:
            return fmt::format("{:.3f}", c.found);
        case CodeCheck::Kind::known_answer:
            return sensible(c.found, 6);
    }
    return {};
}

std::string file_name(const std::string& problem) {
    std::string out;
    for (const char c : problem) {
        if (std::isalnum(static_cast<unsigned char>(c)))
            out += c;
        else if (!out.empty() && out.back() != '-')
            out += '-';
    }
    return out;
}

}  // namespace

nlohmann::ordered_json verification_json(const CodeVerification& v) {
    nlohmann::ordered_json j{{"format", 1}, {"program", "dotsift " DOTSIFT_VERSION}, {"passed", v.passed()}};
    for (const auto& c : v.checks) {
        nlohmann::ordered_json check{{"kind", name_of(c.kind)},  {"problem", c.problem}, {"elements", c.elements},
                                     {"what", c.what},           {"found", c.found},     {"known", c.known},
                                     {"tolerance", c.tolerance}, {"passed", c.passed},   {"source", c.source}};
        if (c.kind == CodeCheck::Kind::order) check["at_least"] = c.at_least;
        j["checks"].push_back(check);
    }
    for (const auto& c : v.curves)
        j["errors"].push_back({{"problem", c.problem},
                               {"elements", c.elements},
                               {"h", c.h},
                               {"energy", c.energy},
                               {"l2", c.l2},
                               {"recovered", c.recovered}});
    return j;
}

std::string verification_markdown(const CodeVerification& v) {
    const auto passed = std::count_if(v.checks.begin(), v.checks.end(), [](const auto& c) { return c.passed; });
    std::string text = fmt::format("# Code verification of dotsift {}\n\n{} of {} checks passed.\n", DOTSIFT_VERSION,
                                   passed, v.checks.size());
    for (const auto kind : {CodeCheck::Kind::exactness, CodeCheck::Kind::order, CodeCheck::Kind::known_answer}) {
        bool first = true;
        for (const auto& c : v.checks) {
            if (c.kind != kind) continue;
            if (first)
                text += fmt::format(
                    "\n## {}\n\n| problem | elements | what | found | wanted | | source "
                    "|\n|---|---|---|---:|---:|---|---|\n",
                    kind == CodeCheck::Kind::exactness ? "Patch tests"
                    : kind == CodeCheck::Kind::order   ? "Observed orders"
                                                       : "Known answers");
            first = false;
            text += fmt::format("| {} | {} | {} | {} | {} | {} | {} |\n", c.problem, c.elements, c.what, shown(c),
                                wanted(c), c.passed ? "passed" : "FAILED", c.source);
        }
    }
    return text;
}

void write_verification(const CodeVerification& v, const std::filesystem::path& directory) {
    make_directory(directory);
    write_file(directory / "checks.json", verification_json(v).dump(2) + "\n");
    write_file(directory / "checks.md", verification_markdown(v));
    std::string csv = "kind,problem,elements,what,found,known,tolerance,passed,source\n";
    for (const auto& c : v.checks)
        csv += fmt::format("{},{},{},{},{:.10g},{:.10g},{:g},{},{}\n", name_of(c.kind), quoted_field(c.problem),
                           quoted_field(c.elements), quoted_field(c.what), c.found, c.known, c.tolerance,
                           c.passed ? "yes" : "no", quoted_field(c.source));
    write_file(directory / "checks.csv", csv);
    std::vector<std::string> problems;
    for (const auto& c : v.curves)
        if (std::find(problems.begin(), problems.end(), c.problem) == problems.end()) problems.push_back(c.problem);
    for (const auto& problem : problems) {
        RateChart chart;
        chart.title = problem;
        chart.subtitle =
            "error in the energy norm on nested meshes; theory: slope 1 for linear, 2 for quadratic elements";
        chart.x_label = "representative element size h";
        chart.y_label = "relative error";
        for (const auto& c : v.curves) {
            if (c.problem != problem) continue;
            Curve2 curve;
            curve.name = c.elements;
            curve.colour = static_cast<int>(chart.curves.size());
            for (std::size_t k = 0; k < c.h.size(); ++k) curve.points.push_back({{c.h[k], c.energy[k]}});
            chart.curves.push_back(std::move(curve));
        }
        const PictureFiles pictures = draw_chart(chart);
        write_picture(directory / (file_name(problem)), pictures);
    }
}

}  // namespace dotsift
