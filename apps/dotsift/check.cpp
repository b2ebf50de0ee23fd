#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/solid/generate_solid.hpp"
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

namespace {

int tell_solid(const StudyAndPart& opened, const Problems& problems, bool as_json) {
    const Study& study = opened.study;
    const SolidPart& part = *opened.solid;
    const auto sizing = sizing_of(part, study.sizes, study.path);
    const double elements = check_element_limit(part, sizing.field, study.sizes.most_elements);
    const double volume = measure(part).size;
    const Vec3 size = part.box.size();
    if (as_json) {
        nlohmann::ordered_json j;
        j["format"] = 1;
        j["title"] = study.title;
        j["boundaries"] = part.boundary_names;
        j["faces"] = part.faces.size();
        j["bodies"] = part.bodies.size();
        j["volume"] = volume;
        j["size"] = {size[0], size[1], size[2]};
        j["global_size"] = sizing.field.global();
        j["expected_elements"] = elements;
        j["faults"] = listed(problems.faults());
        j["warnings"] = listed(problems.warnings());
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    const std::string length = study.units.label(dimension::length);
    fmt::print("{}\n", strong(study.title));
    fmt::print("solid       {} x {} x {} {}, volume {} {}³, {} faces, {} {}\n", sensible(size[0]), sensible(size[1]),
               sensible(size[2]), length, sensible(volume, 5), length, part.faces.size(), part.bodies.size(),
               part.bodies.size() == 1 ? "body" : "bodies");
    for (const auto& note : opened.notes) fmt::print("drawing     {}\n", note);
    if (part.regions.size() > 1) fmt::print("regions     {}\n", fmt::join(part.regions, ", "));
    fmt::print("boundaries  {}\nfirst mesh  about {} elements, global size {} {}\nno faults found\n",
               fmt::join(part.boundary_names, ", "), grouped(static_cast<long long>(elements)),
               sensible(sizing.field.global(), 3), length);
    return 0;
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
    if (opened.solid) return tell_solid(opened, problems, given.count("json") > 0);
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
