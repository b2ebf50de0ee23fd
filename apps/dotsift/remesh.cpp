#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "evidence/pictures/picture.hpp"
#include "mesh/placed_mesh.hpp"
#include "mesh/plane/remesh.hpp"
#include "part/shapes/placed_area.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/indicators.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "series/meshing_notes.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

/// Elements of the zones: those of the named regions, and those whose centre lies in the placed shapes; without rows of
/// layers.
std::vector<char> elements_of(const Mesh& mesh, const Study& study) {
    std::vector<char> anew(mesh.element_count(), 0);
    for (const auto& z : study.mesh.remesh) {
        std::optional<PlacedArea> area;
        if (z.rule.inside) area.emplace(*z.rule.inside);
        const Meant on(mesh, z.rule.on);
        bool empty = true;
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            if (mesh.row[e] == 0 && (area ? (*area)(mesh.centre_of(e)) : on.element(e))) {
                anew[e] = 1;
                empty = false;
            }
        if (empty) {
            const Place place = place_in(study.path, z.rule.where);
            throw InputError(fmt::format("mesh.remesh.{}: no element of the mesh lies in the zone", z.rule.name), place,
                             "move it onto the mesh, or enlarge it; rows of layers stay");
        }
    }
    return anew;
}

/// What is to be made anew, and the sizes there.
struct Choice {
    std::vector<char> anew;
    SizeField field;
};

Choice zones_of(const StudyAndPart& opened, const Mesh& mesh) {
    const Study& study = opened.study;
    if (study.mesh.remesh.empty()) {
        Place place;
        place.file = study.path.string();
        throw InputError("the study names no zone to make anew", place,
                         "add [mesh.remesh.NAME] with inside or on, and a size, or give --field");
    }
    const auto zones = elements_of(mesh, study);
    const auto sizes_with = [&](auto counts) {
        SizeSpec sizes = study.sizes;
        for (const auto& z : study.mesh.remesh)
            if (z.sized && counts(z)) sizes.local.push_back(z.rule);
        return sizing_of(opened.part, sizes, study.path).field;
    };
    SizeField field = sizes_with([](const RemeshZone&) { return true; });
    auto anew = blended_zones(mesh, zones, sizes_with([](const RemeshZone& z) { return z.blend; }),
                              sizes_with([](const RemeshZone&) { return false; }));
    return {std::move(anew), std::move(field)};
}

/// An array of the file at its nodes or elements. Throws InputError with those that are there.
const FileField& field_of(const MeshFile& file, const std::string& name, const std::string& path) {
    const FileField* field = file.field(name, FileField::Of::nodes);
    if (!field) field = file.field(name, FileField::Of::elements);
    if (field) return *field;
    Place place;
    place.file = path;
    std::vector<std::string> known;
    for (const auto& f : file.fields)
        if (f.of == FileField::Of::nodes || f.of == FileField::Of::elements) known.push_back(f.name);
    throw InputError(fmt::format("the file has no field \"{}\"", name), place,
                     known.empty() ? "it has none at all" : "fields are " + quoted_list(known));
}

/// Squares that rank the elements, from an array of the file: of an array with several components its length counts.
std::vector<double> ranking(const MeshFile& file, const std::string& name, bool jumps, const std::string& path) {
    const FileField* field = &field_of(file, name, path);
    Place place;
    place.file = path;
    std::vector<double> values;
    for (std::size_t k = 0; k < field->values.size(); k += field->components) {
        double sum = 0;
        for (std::size_t c = 0; c < field->components; ++c) sum += field->values[k + c] * field->values[k + c];
        values.push_back(field->components == 1 ? field->values[k] : std::sqrt(sum));
        if (!std::isfinite(values.back()))
            throw InputError(fmt::format("the field \"{}\" has a value that is no number", name), place,
                             "choose another field, or mend the file");
    }
    std::vector<double> squares;
    if (field->of == FileField::Of::elements) {
        squares = jumps_of_elements(file.mesh, values);
    } else {
        std::vector<double> slots;
        for (const auto n : file.mesh.node_of_slot) slots.push_back(values[static_cast<std::size_t>(n)]);
        squares = jumps ? jumps_of_slots(file.mesh, slots) : changes_of_slots(file.mesh, slots);
    }
    if (*std::max_element(squares.begin(), squares.end()) <= 0)
        throw InputError(fmt::format("the field \"{}\" is the same everywhere: it tells no place to refine", name),
                         place, "choose another field");
    return squares;
}

Choice by_field(const StudyAndPart& opened, const MeshFile& file, const cxxopts::ParseResult& given) {
    const std::string indicator = given["indicator"].as<std::string>();
    if (indicator != "jump" && indicator != "gradient")
        throw InputError(fmt::format("--indicator is \"{}\"", indicator), {}, "use jump or gradient");
    const double share = given["share"].as<double>(), finer = given["finer"].as<double>();
    if (!(share > 0) || share >= 1)
        throw InputError(fmt::format("--share is {:g}, but it must lie between 0 and 1", share), {},
                         "as in --share 0.2");
    if (!(finer > 1) || !std::isfinite(finer))
        throw InputError(fmt::format("--finer is {:g}, but it must be greater than 1", finer), {}, "as in --finer 2");
    const auto squares =
        ranking(file, given["field"].as<std::string>(), indicator == "jump", given["mesh"].as<std::string>());
    const auto factors = factors_for_share(squares, share, finer);
    ResizeLimits limits;
    limits.largest = opened.part.box.diagonal();
    limits.smallest = opened.study.sizes.smallest.value_or(0);
    limits.growth = opened.study.sizes.growth;
    return {changing_elements(file.mesh, factors), resize(file.mesh, factors, limits)};
}

/// The elements of a zone in numbers.
struct ZoneFigures {
    std::size_t elements = 0, poor = 0;
    double mean_quality = 0, worst_quality = 1, smallest_angle = 180;
};

ZoneFigures figures_of(const QualityReport& r, const std::function<bool(std::size_t)>& counts) {
    ZoneFigures f;
    const auto of = [&](Criterion m, std::size_t e) { return r.values[static_cast<std::size_t>(m)][e]; };
    for (std::size_t e = 0; e < r.grade.size(); ++e) {
        if (!counts(e)) continue;
        ++f.elements;
        f.poor += r.grade[e] == Grade::poor;
        f.mean_quality += of(Criterion::shape, e);
        f.worst_quality = std::min(f.worst_quality, of(Criterion::shape, e));
        f.smallest_angle = std::min(f.smallest_angle, of(Criterion::smallest_angle, e));
    }
    if (f.elements > 0) f.mean_quality /= static_cast<double>(f.elements);
    return f;
}

nlohmann::ordered_json json_of(const ZoneFigures& f) {
    return {{"elements", f.elements},
            {"poor", f.poor},
            {"mean_quality", f.mean_quality},
            {"worst_quality", f.worst_quality},
            {"smallest_angle", f.smallest_angle}};
}

std::string counted(std::size_t n) {
    return grouped(static_cast<long long>(n));
}

std::vector<std::string> row_of(const char* name, const ZoneFigures& f) {
    return {name,
            counted(f.elements),
            fmt::format("{:.3f}", f.mean_quality),
            fmt::format("{:.3f}", f.worst_quality),
            fmt::format("{:.1f}°", f.smallest_angle),
            counted(f.poor)};
}

}  // namespace

int remesh(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift remesh",
                             "Makes the zones that a study names in [mesh.remesh.NAME] anew in a mesh of its part, or, "
                             "with --field, those elements where a field of the file changes most; keeps all the rest "
                             "node for node. Writes mesh.vtu, mesh.png and mesh.svg.");
    options.add_options()("help", "print this")("o,output", "directory for the mesh and its pictures",
                                                cxxopts::value<std::string>())(
        "field", "array of the file, at points or cells, that tells where", cxxopts::value<std::string>())(
        "indicator", "jump: of a point array's slope from element to element; gradient: its change within one",
        cxxopts::value<std::string>()->default_value("jump"))("share", "share of the elements to refine",
                                                              cxxopts::value<double>()->default_value("0.2"))(
        "finer", "what their sizes are divided by", cxxopts::value<double>()->default_value("2"))(
        "carry", "arrays of the file that the new mesh gets as well, separated by commas",
        cxxopts::value<std::vector<std::string>>())("json", "print the change as JSON")(
        "study", "study file", cxxopts::value<std::string>())("mesh", "VTU file", cxxopts::value<std::string>());
    options.parse_positional({"study", "mesh"});
    options.positional_help("STUDY MESH.vtu -o DIRECTORY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift remesh examples/tidal/seal-housing.toml out-mesh/mesh.vtu -o out-remesh\n",
                   options.help());
        return 0;
    }
    for (const auto& [key, what] :
         {std::pair{"study", "study file"}, {"mesh", "mesh file"}, {"output", "output directory"}})
        if (!given.count(key))
            throw InputError(fmt::format("no {} is given", what), {},
                             "as in: dotsift remesh study.toml mesh.vtu -o out");
    const StudyAndPart opened = load_plane(given["study"].as<std::string>(), "remesh");
    const Study& study = opened.study;
    const Part& part = opened.part;
    MeshFile old = read_vtu(given["mesh"].as<std::string>(), given.count("field") + given.count("carry") > 0);
    if (old.turned > 0) fmt::print(stderr, "{} elements ran clockwise and were turned\n", old.turned);
    if (old.untold_sides > 0)
        fmt::print(stderr,
                   "{} sides of the outline or between regions have no line in the file; their place tells them\n",
                   old.untold_sides);
    take_regions(part, old.mesh);
    const Choice choice = given.count("field") ? by_field(opened, old, given) : zones_of(opened, old.mesh);
    const std::vector<char>& anew = choice.anew;
    RemeshCounts counts;
    const MadeMesh remade = remake_mesh(study, part, old.mesh, old.wanted_size, anew, choice.field, counts);
    const Mesh& made = remade.mesh;
    const ZoneFigures before = figures_of(judge_quality(old.mesh, {}, study.quality, nullptr),
                                          [&](std::size_t e) { return anew[e] != 0; }),
                      after = figures_of(judge_quality(made, {}, study.quality, nullptr),
                                         [&](std::size_t e) { return e >= counts.kept_elements; });
    const PictureFiles picture =
        draw_mesh(made, study.title,
                  fmt::format("{} elements kept, {} in place of {}", counted(counts.kept_elements),
                              counted(counts.new_elements), counted(counts.removed_elements)),
                  study.units.label(dimension::length));
    const std::filesystem::path directory = given["output"].as<std::string>();
    make_directory(directory);
    std::vector<FileField> fields;
    if (given.count("carry")) {
        const Mesh from = laid_on_part(part, old.mesh);
        for (const auto& name : given["carry"].as<std::vector<std::string>>())
            fields.push_back(carried(field_of(old, name, given["mesh"].as<std::string>()), from, made));
    }
    write_file(directory / "mesh.vtu", mesh_vtu(made, remade.wanted, fields));
    write_picture(directory / "mesh", picture);
    if (given.count("json")) {
        const nlohmann::ordered_json j{
            {"format", 1},
            {"kept", {{"elements", counts.kept_elements}, {"nodes", counts.kept_nodes}}},
            {"removed", {{"elements", counts.removed_elements}, {"nodes", counts.removed_nodes}}},
            {"made", {{"elements", counts.new_elements}, {"nodes", counts.new_nodes}}},
            {"before", json_of(before)},
            {"after", json_of(after)}};
        fmt::print("{}\n", j.dump(2));
        return 0;
    }
    fmt::print("{}\nkept      {} elements, {} nodes\nremoved   {} elements, {} nodes\n", strong(study.title),
               counted(counts.kept_elements), counted(counts.kept_nodes), counted(counts.removed_elements),
               counted(counts.removed_nodes));
    fmt::print("made      {} elements, {} nodes\n\n{}", counted(counts.new_elements), counted(counts.new_nodes),
               table({{"zone", "elements", "mean quality", "worst", "smallest angle", "poor"},
                      row_of("before", before),
                      row_of("after", after)}));
    for (const auto& line : notes_on_repair(remade.repair)) fmt::print("{}\n", line);
    fmt::print("written   {}\n", directory.string());
    return 0;
}

}  // namespace dotsift::app
