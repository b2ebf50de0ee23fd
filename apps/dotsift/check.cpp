#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "mesh/plane/generate.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

nlohmann::ordered_json listed(const std::vector<Problem>& problems) {
    auto list = nlohmann::ordered_json::array();
    for (const auto& p : problems)
        list.push_back({{"line", p.where.line}, {"column", p.where.column}, {"what", p.what}, {"remedy", p.remedy}});
    return list;
}

}  // namespace

int check(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift check",
        "Reads a study, builds its part and lists everything that is wrong or missing. Computes nothing.");
    options.add_options()("help", "print this")("json", "print the result as JSON")("study", "study file",
                                                                                    cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift check examples/tidal/pitch-link-lug.toml\n", options.help());
        return 0;
    }
    if (!given.count("study")) throw InputError("no study file is given", {}, "as in: dotsift check study.toml");
    const std::string path = given["study"].as<std::string>();
    Problems problems(path);
    const StudyAndPart opened = open(path, problems);
    if (!problems.empty()) {
        if (!given.count("json")) problems.throw_if_any();
        fmt::print("{}\n", nlohmann::ordered_json{{"format", 1},
                                                  {"title", opened.study.title},
                                                  {"faults", listed(problems.faults())},
                                                  {"warnings", listed(problems.warnings())}}
                               .dump(2));
        return static_cast<int>(ExitStatus::bad_input);
    }
    const Study& study = opened.study;
    const Part& part = opened.part;
    const Sizing sizing = sizing_of(part, study.sizes, study.path);
    const SizeField& sizes = sizing.field;
    const double elements = check_element_limit(part, sizing, study.sizes.most_elements);
    const std::string length = study.units.label(dimension::length);
    if (given.count("json")) {
        nlohmann::ordered_json j;
        j["format"] = 1;
        j["title"] = study.title;
        j["boundaries"] = part.boundary_names;
        j["edges"] = part.edges.size();
        j["pieces"] = part.faces.size();
        j["area"] = part.area();
        j["size"] = {part.box.size()[0], part.box.size()[1]};
        j["global_size"] = sizes.global();
        j["expected_elements"] = elements;
        j["faults"] = listed(problems.faults());
        j["warnings"] = listed(problems.warnings());
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    fmt::print("{}\n", strong(study.title));
    fmt::print("part        {} x {} {}, area {} {}², {} edges, {} {}\n", sensible(part.box.size()[0]),
               sensible(part.box.size()[1]), length, sensible(part.area(), 5), length, part.edges.size(),
               part.faces.size(), part.faces.size() == 1 ? "piece" : "pieces");
    for (const auto& note : opened.notes) fmt::print("drawing     {}\n", note);
    if (part.regions.size() > 1) fmt::print("regions     {}\n", fmt::join(part.regions, ", "));
    fmt::print("boundaries  ");
    for (std::size_t n = 0; n < part.boundary_names.size(); ++n)
        fmt::print("{}{}", n ? ", " : "", part.boundary_names[n]);
    fmt::print("\nfirst mesh  about {} elements, global size {} {}\n", grouped(static_cast<long long>(elements)),
               sensible(sizes.global(), 3), length);
    fmt::print("no faults found\n");
    return 0;
}

}  // namespace dotsift::app
