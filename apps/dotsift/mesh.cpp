#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/picture.hpp"
#include "evidence/vtu.hpp"
#include "mesh/generate.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

/// A line for each try that led to no mesh.
std::string tries_of(const MeshingLog& log, const std::string& length) {
    std::string text;
    for (std::size_t k = 0; k < log.tries.size(); ++k) {
        const auto& t = log.tries[k];
        text += fmt::format("try {}     {} at ({}, {}), boundary {}; sizes halved along {} piece{}, down to {} {}\n",
                            k + 1, t.reason, sensible(t.position[0]), sensible(t.position[1]), t.boundary, t.segments,
                            t.segments == 1 ? "" : "s", sensible(t.size), length);
    }
    return text;
}

/// A line for each place where rows of layers are thinner than asked.
std::string thinned_rows(const MeshingLog& log, const Study& study, const Part& part) {
    std::string text;
    for (const auto& t : log.thinned) {
        const std::string& rule = study.sizes.layers[static_cast<std::size_t>(t.rule)].name;
        const std::string where =
            fmt::format("{} at ({}, {})", part.name_of_edge(t.edge), sensible(t.position[0]), sensible(t.position[1]));
        text += t.factor > 0
                    ? fmt::format("layers    {}: thinned to {} of their height on {}\n", rule, percent(t.factor), where)
                    : fmt::format("layers    {}: left out along {}, where no height fits\n", rule, where);
    }
    return text;
}

}  // namespace

int mesh(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift mesh",
        "Makes the first mesh of a study: mesh.vtu, mesh.png and mesh.svg in a directory, and its counts.");
    options.add_options()("help", "print this")("o,output", "directory for the mesh and its pictures",
                                                cxxopts::value<std::string>())(
        "finer", "divide every size by this", cxxopts::value<double>()->default_value("1"))(
        "json", "print the counts as JSON")("study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY -o DIRECTORY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift mesh examples/tidal/cable-gland-flange.toml -o out-mesh --finer 2\n",
                   options.help());
        return 0;
    }
    if (!given.count("study")) throw InputError("no study file is given", {}, "as in: dotsift mesh study.toml -o out");
    if (!given.count("output"))
        throw InputError("no output directory is given", {}, "as in: dotsift mesh study.toml -o out");
    const double finer = given["finer"].as<double>();
    if (!(finer > 0)) throw InputError(fmt::format("--finer is {:g}, but it must be greater than zero", finer));
    const StudyAndPart opened = load(given["study"].as<std::string>());
    const Study& study = opened.study;
    const Part& part = opened.part;
    const std::string length = study.units.label(dimension::length);
    const Sizing sizes = sizing_of(part, study.sizes, study.path).scaled(1 / finer);
    MeshingLog log;
    const Mesh made = [&] {
        try {
            return generate(part, sizes, study.sizes.most_elements, study.mesh, &log);
        } catch (const MeshError&) {
            fmt::print(stderr, "{}", tries_of(log, length));
            throw;
        }
    }();
    const MeshSummary s = summarise(made);
    std::vector<double> wanted;
    for (std::size_t e = 0; e < made.element_count(); ++e) wanted.push_back(sizes.field.at(made.centre_of(e)));
    const PictureFiles picture =
        draw_mesh(made, study.title,
                  fmt::format("{} nodes, {} elements, mean shape quality {:.2f}, smallest angle {:.0f}°",
                              grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
                              s.mean_quality, s.smallest_angle),
                  length);
    const std::filesystem::path directory = given["output"].as<std::string>();
    make_directory(directory);
    write_file(directory / "mesh.vtu", mesh_vtu(made, wanted));
    write_file(directory / "mesh.png", picture.png);
    write_file(directory / "mesh.svg", picture.svg);
    if (given.count("json")) {
        const nlohmann::ordered_json j{{"format", 1},
                                       {"nodes", s.nodes},
                                       {"elements", s.elements},
                                       {"area", s.area},
                                       {"h", s.characteristic_size},
                                       {"mean_quality", s.mean_quality},
                                       {"worst_quality", s.worst_quality},
                                       {"smallest_angle", s.smallest_angle},
                                       {"worst_position", {s.worst_position[0], s.worst_position[1]}}};
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    fmt::print("{}{}", tries_of(log, length), thinned_rows(log, study, part));
    fmt::print(
        "{}\nnodes     {}\nelements  {}\narea      {} {}² (of the true outline: {})\nquality   mean {:.3f}, worst "
        "{:.3f} at ({:.4g}, {:.4g}), smallest angle {:.1f}°\nwritten   {}\n",
        strong(study.title), grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
        sensible(s.area, 7), length, sensible(part.area(), 7), s.mean_quality, s.worst_quality, s.worst_position[0],
        s.worst_position[1], s.smallest_angle, directory.string());
    return 0;
}

}  // namespace dotsift::app
