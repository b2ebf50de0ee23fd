#include "part/solid/model_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <csignal>
#include <fstream>
#include <map>
#include <numbers>
#include <sstream>

#include "base/child.hpp"
#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/resources.hpp"
#include "part/facets/facet_file.hpp"
#include "part/facets/facet_solid.hpp"
#include "part/kernel/solid_kernel.hpp"
#include "part/solid/set_beside.hpp"
#include "part/solid/sharpen.hpp"
#include "part/solid/solid_box.hpp"
#include "part/solid/taken_solid.hpp"

namespace dotsift {

namespace fs = std::filesystem;

namespace {

// Of the program that reads.
constexpr int most_megabytes = 4000, most_seconds = 120;
constexpr double millimetre = 0.001;
constexpr double usual_feature_angle = std::numbers::pi / 6;
constexpr std::size_t longest_told = 10'000'000;

/// What the program tells beside the shapes.
struct Told {
    std::map<int, std::vector<std::string>> faces;
    std::map<int, std::string> solids;
    std::vector<std::string> notes;
    std::optional<double> metres;
};

Told read_told(const fs::path& file) {
    Told told;
    std::istringstream lines(read_file(file, longest_told));
    for (std::string line; std::getline(lines, line);) {
        std::istringstream words(line);
        std::string kind;
        int number = 0;
        words >> kind;
        if (kind == "unit") {
            double metres = 0;
            if (words >> metres) told.metres = metres;
            continue;
        }
        if (kind == "face" || kind == "solid") words >> number;
        std::string text;
        std::getline(words >> std::ws, text);
        if (kind == "face") told.faces[number].push_back(text);
        if (kind == "solid") told.solids[number] = text;
        if (kind == "note") told.notes.push_back(text);
    }
    return told;
}

/// As regions may be called.
std::string proper_name(std::string name) {
    constexpr std::size_t longest = 56;
    name.resize(std::min(name.size(), longest));
    for (char& c : name)
        if (!std::isalnum(static_cast<unsigned char>(c)) && c != '_') c = '_';
    const bool begins_well = !name.empty() && !std::isdigit(static_cast<unsigned char>(name.front()));
    return begins_well ? name : "solid_" + name;
}

[[noreturn]] void refuse(const fs::path& file, const std::string& why, const std::string& remedy) {
    throw InputError(fmt::format("the model {} cannot be read: {}", file.string(), why), {}, remedy);
}

void run(const std::vector<std::string>& arguments, const fs::path& fault, const fs::path& file) {
    const int status = run_child(find_module("dotsift-models"), arguments);
    if (status == 0) return;
    if (status == 128 + SIGXCPU || status == 128 + SIGKILL)
        refuse(file, fmt::format("it takes more than {} s of processor time", most_seconds),
               "simplify it where it comes from, or write it anew");
    if (status > 128)
        refuse(file, "the geometry library broke on it", "it is damaged or unusual: write it anew where it comes from");
    std::error_code code;
    const std::string why = fs::exists(fault, code) ? read_file(fault, longest_told) : "it is damaged";
    refuse(file, why, "write it anew where it comes from, as closed solids in a STEP file (AP203, AP214 or AP242)");
}

ModelFile facet_model(const fs::path& file, std::optional<double> unit, double metres, double feature_angle) {
    ModelFile out;
    out.has_unit = unit.has_value();
    try {
        out.solids = solids_of_facets(file, unit ? *unit / metres : 1, feature_angle, out.notes);
    } catch (const InputError& e) {
        refuse(file, e.what(), e.remedy());
    }
    return out;
}

}  // namespace

ModelFile read_model(const fs::path& file, std::optional<double> unit, double metres,
                     std::optional<double> feature_angle) {
    std::error_code code;
    if (!fs::is_regular_file(file, code))
        refuse(file, "there is no such file", "check the path, which starts from the study");
    if (facet_format_of(file)) return facet_model(file, unit, metres, feature_angle.value_or(usual_feature_angle));
    if (!begins_as_shapes(file))
        refuse(file, "it is none of STEP, .brep, STL, PLY, OFF and OBJ", "write it anew where it comes from, as STEP");
    const TemporaryFolder folder;
    const fs::path made = folder.path() / "model";
    run({"read", fs::absolute(file).string(), made.string(), std::to_string(most_megabytes),
         std::to_string(most_seconds)},
        made.string() + ".fault", file);
    const Told told = read_told(made.string() + ".told");
    ModelFile out;
    out.notes = told.notes;
    if (feature_angle) out.notes.emplace_back("it has faces of its own, and no use for feature_angle");
    out.has_unit = told.metres || unit;
    static const auto read =
        reinterpret_cast<ShapeFileReader>(module_symbol("libdotsift-geometry.so", shape_file_reader_symbol));
    // The program hands over millimetres where the file has a unit, and the file's own numbers where it has none.
    double factor = told.metres ? millimetre / metres : 1;
    if (unit) factor = *unit / metres * (told.metres ? millimetre / *told.metres : 1);
    SolidKernelResult shapes;
    std::vector<int> numbers;
    read((made.string() + ".shape").c_str(), factor, shapes, numbers);
    if (!shapes.fault.empty()) refuse(file, shapes.fault, "simplify it where it comes from");
    for (std::size_t c = 0; c < shapes.cells.size(); ++c) {
        const int cell = static_cast<int>(c);
        SolidPart part = taken_solid(shapes, cell, [](const KernelFace& f) -> const Surface& { return f.surface; });
        const auto name = told.solids.find(cell + 1);
        part.regions = {name != told.solids.end() ? proper_name(name->second) : fmt::format("solid{}", c + 1)};
        std::size_t k = 0;
        for (std::size_t f = 0; f < shapes.faces.size(); ++f) {
            if (shapes.faces[f].behind != cell && shapes.faces[f].before != cell) continue;
            SolidFace& face = part.faces[k++];
            if (const auto names = told.faces.find(numbers[f]); names != told.faces.end())
                for (const auto& n : names->second) part.add_name(n, face.names);
        }
        part.box = box_of(part);
        sharpen(part);
        part.box = box_of(part);
        if (const std::string fault = fault_of(part); !fault.empty())
            refuse(file, fmt::format("solid {}: {}", c + 1, fault), "mend it where it comes from, and write it anew");
        out.solids.push_back(std::move(part));
    }
    if (out.solids.empty()) refuse(file, "it holds no solid", "write closed solids, not surfaces alone");
    return out;
}

void write_step(const SolidPart& part, const fs::path& file, double metres) {
    if (has_facets(part)) throw InputError("faces over facets cannot be written as STEP");
    const TemporaryFolder folder;
    const fs::path made = folder.path() / "model";
    static const auto write =
        reinterpret_cast<ShapeFileWriter>(module_symbol("libdotsift-geometry.so", shape_file_writer_symbol));
    std::vector<int> numbers;
    std::string fault;
    write(part, metres / millimetre, (made.string() + ".shape").c_str(), numbers, fault);
    if (!fault.empty()) throw InputError("the part cannot be written as STEP: " + fault);
    std::string told;
    for (std::size_t b = 0; b < part.bodies.size(); ++b)
        told += fmt::format("solid {} {}\n", b + 1, part.regions[static_cast<std::size_t>(part.bodies[b].region)]);
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        if (!part.faces[f].names.empty())
            told += fmt::format("face {} {}\n", numbers[f],
                                part.boundary_names[static_cast<std::size_t>(part.faces[f].names.front())]);
    write_file(made.string() + ".told", told);
    const fs::path step = folder.path() / "part.step";
    const int status = run_child(find_module("dotsift-models"), {"write", made.string(), step.string()});
    if (status != 0) {
        std::error_code code;
        const fs::path why = made.string() + ".fault";
        throw InputError("the part cannot be written as STEP: " +
                         (fs::exists(why, code) ? read_file(why, longest_told) : "the geometry library broke on it"));
    }
    write_file(file, read_file(step, SIZE_MAX));
}

}  // namespace dotsift
