#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/pictures/picture.hpp"
#include "evidence/pictures/solid_picture.hpp"
#include "series/meshing_notes.hpp"

namespace dotsift::app {

namespace {

void print_lines(std::FILE* to, const std::vector<std::string>& lines) {
    for (const auto& line : lines) fmt::print(to, "{}\n", line);
}

int mesh_of_solid(Prepared& prepared, double finer, const std::filesystem::path& directory, bool as_json) {
    const Study& study = prepared.opened.study;
    const std::string length = study.units.label(dimension::length);
    MadeMeshIn<3> made;
    try {
        made = first_solid_mesh_telling(prepared, finer);
    } catch (const MeshError&) {
        print_lines(stderr, notes_on_tries(prepared.log, length));
        throw;
    }
    const MeshSummary s = summarise(made.mesh);
    const PictureFiles picture = draw_solid_mesh(
        made.mesh, study.title,
        fmt::format("{} nodes, {} elements, mean shape quality {:.2f}, smallest angle between sides {:.0f}°",
                    grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
                    s.mean_quality, s.smallest_angle),
        length);
    make_directory(directory);
    write_file(directory / "mesh.vtu", mesh_vtu(made.mesh, made.wanted));
    write_picture(directory / "mesh", picture);
    const double volume = measure(*prepared.opened.solid).size;
    if (as_json) {
        const nlohmann::ordered_json j{
            {"format", 1},
            {"nodes", s.nodes},
            {"elements", s.elements},
            {"volume", s.measure},
            {"h", s.characteristic_size},
            {"mean_quality", s.mean_quality},
            {"worst_quality", s.worst_quality},
            {"smallest_angle", s.smallest_angle},
            {"worst_position", {s.worst_position[0], s.worst_position[1], s.worst_position[2]}}};
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    print_lines(stdout, notes_on_tries(prepared.log, length));
    print_lines(stdout, notes_on_straightened(prepared.log));
    fmt::print(
        "{}\nnodes     {}\nelements  {}\nvolume    {} {}³ (of the true faces: {})\nquality   mean {:.3f}, worst "
        "{:.3f} at {}, smallest angle between sides {:.1f}°\nwritten   {}\n",
        strong(study.title), grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
        sensible(s.measure, 7), length, sensible(volume, 7), s.mean_quality, s.worst_quality,
        told_point(s.worst_position), s.smallest_angle, directory.string());
    return 0;
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
    const std::filesystem::path directory = given["output"].as<std::string>();
    Prepared prepared;
    prepared.opened = load(given["study"].as<std::string>());
    if (prepared.opened.solid) return mesh_of_solid(prepared, finer, directory, given.count("json") > 0);
    const Study& study = prepared.opened.study;
    const Part& part = prepared.opened.part;
    const std::string length = study.units.label(dimension::length);
    MadeMesh whole;
    try {
        whole = first_mesh_telling(prepared, finer);
    } catch (const MeshError& e) {
        print_lines(stderr, notes_on_tries(prepared.log, length));
        show_failure(prepared.opened, e, directory);
        throw;
    }
    const Mesh& made = whole.mesh;
    const MeshSummary s = summarise(made);
    const PictureFiles picture =
        draw_mesh(made, study.title,
                  fmt::format("{} nodes, {} elements, mean shape quality {:.2f}, smallest angle {:.0f}°",
                              grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
                              s.mean_quality, s.smallest_angle),
                  length);
    make_directory(directory);
    write_file(directory / "mesh.vtu", mesh_vtu(made, whole.wanted));
    write_picture(directory / "mesh", picture);
    if (given.count("json")) {
        const nlohmann::ordered_json j{{"format", 1},
                                       {"nodes", s.nodes},
                                       {"elements", s.elements},
                                       {"area", s.measure},
                                       {"h", s.characteristic_size},
                                       {"mean_quality", s.mean_quality},
                                       {"worst_quality", s.worst_quality},
                                       {"smallest_angle", s.smallest_angle},
                                       {"worst_position", {s.worst_position[0], s.worst_position[1]}},
                                       {"poor_before_repair", whole.repair.poor_before},
                                       {"poor", whole.repair.poor_after}};
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    for (const auto& lines : {notes_on_tries(prepared.log, length), notes_on_layers(prepared.log, study, part),
                              notes_on_repair(whole.repair)})
        print_lines(stdout, lines);
    fmt::print(
        "{}\nnodes     {}\nelements  {}\narea      {} {}² (of the true outline: {})\nquality   mean {:.3f}, worst "
        "{:.3f} at {}, smallest angle {:.1f}°\nwritten   {}\n",
        strong(study.title), grouped(static_cast<long long>(s.nodes)), grouped(static_cast<long long>(s.elements)),
        sensible(s.measure, 7), length, sensible(part.area(), 7), s.mean_quality, s.worst_quality,
        told_point(in_plane(s.worst_position)), s.smallest_angle, directory.string());
    return 0;
}

}  // namespace dotsift::app
