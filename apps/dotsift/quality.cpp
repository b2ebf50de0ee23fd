#include "quality/quality.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "evidence/pictures/quality_picture.hpp"

namespace dotsift::app {

namespace {

/// What is judged: a mesh from a file, or the first one of a study.
struct Judged {
    Mesh mesh;
    SolidMesh solid;  ///< instead
    std::vector<double> wanted;
    std::optional<StudyAndPart> opened;
    std::string title, unit;
};

Judged open_judged(const cxxopts::ParseResult& given) {
    const std::filesystem::path file = given["input"].as<std::string>();
    Judged j;
    if (given.count("limits")) j.opened = load_plane(given["limits"].as<std::string>(), "quality --limits");
    if (file.extension() == ".vtu") {
        auto [mesh, wanted, fields, turned, untold] = read_vtu(file);
        if (turned > 0) fmt::print(stderr, "{} elements ran clockwise and were turned\n", turned);
        j.mesh = std::move(mesh);
        j.wanted = std::move(wanted);
        j.title = file.filename().string();
        return j;
    }
    if (given.count("limits"))
        throw InputError("--limits goes with a mesh file", {}, "a study judges its own mesh by its own limits");
    const double finer = given["finer"].as<double>();
    if (!(finer > 0)) throw InputError(fmt::format("--finer is {:g}, but it must be greater than zero", finer));
    Prepared prepared;
    prepared.opened = load(file.string());
    if (prepared.opened.solid) {
        MadeMeshIn<3> made = first_solid_mesh_telling(prepared, finer);
        j.solid = std::move(made.mesh);
        j.wanted = std::move(made.wanted);
    } else {
        MadeMesh made = first_mesh_telling(prepared, finer);
        j.mesh = std::move(made.mesh);
        j.wanted = std::move(made.wanted);
    }
    j.opened = std::move(prepared.opened);
    const Study& study = j.opened->study;
    j.title = study.title;
    j.unit = study.units.label(dimension::length);
    return j;
}

const char* word_of(Grade g) {
    return g == Grade::poor ? "poor" : g == Grade::acceptable ? "acceptable" : "good";
}

/// Tells what was found, in writing, as JSON and as pictures.
template <int D>
int tell_quality(const Judged& j, const MeshIn<D>& mesh, const QualityReportIn<D>& r,
                 const std::vector<QualitySpec>& limits, const cxxopts::ParseResult& given) {
    if (given.count("output")) {
        const std::filesystem::path directory = given["output"].as<std::string>();
        const PictureFiles map = draw_quality_map(mesh, r, j.title, j.unit),
                           histograms = draw_histograms(mesh, r, limits, j.title);
        make_directory(directory);
        write_picture(directory / "quality", map);
        write_picture(directory / "histograms", histograms);
    }
    const int status = r.poor > 0 ? static_cast<int>(ExitStatus::target_missed) : 0;
    nlohmann::ordered_json json{{"format", 1},
                                {"elements", mesh.element_count()},
                                {"good", r.good},
                                {"acceptable", r.acceptable},
                                {"poor", r.poor}};
    std::vector<std::vector<std::string>> rows{{"measure", "mean", "worst", "good", "acceptable", "poor"}};
    for (std::size_t k = 0; k < criterion_count; ++k) {
        const auto m = static_cast<Criterion>(k);
        const auto& c = r.counts[k];
        if (std::isnan(c.mean)) continue;
        json["measures"].push_back({{"measure", name_of(m)},
                                    {"mean", c.mean},
                                    {"worst", c.worst},
                                    {"good", c.good},
                                    {"acceptable", c.acceptable},
                                    {"poor", c.poor}});
        rows.push_back({title_of(m), sensible(c.mean, 3) + unit_of(m), sensible(c.worst, 3) + unit_of(m),
                        grouped(static_cast<long long>(c.good)), grouped(static_cast<long long>(c.acceptable)),
                        grouped(static_cast<long long>(c.poor))});
    }
    std::vector<std::vector<std::string>> worst{{"", "element", "position", "measure", "value", "grade", "cause"}};
    for (std::size_t k = 0; k < r.worst.size(); ++k) {
        const auto& w = r.worst[k];
        json["worst"].push_back({{"element", w.element},
                                 {"position", coordinates_of<D>(w.position)},
                                 {"measure", name_of(w.measure)},
                                 {"value", w.value},
                                 {"grade", word_of(w.grade)},
                                 {"cause", w.cause}});
        worst.push_back({fmt::format("{}", k + 1), fmt::format("{}", w.element), told_point(w.position),
                         title_of(w.measure), sensible(w.value, 3) + unit_of(w.measure), word_of(w.grade), w.cause});
    }
    std::string across;
    for (const auto& a : r.across) {
        json["across"].push_back(
            {{"a", {a.a[0], a.a[1]}}, {"b", {a.b[0], a.b[1]}}, {"width", a.width}, {"elements", a.elements}});
        across += fmt::format("{} element{} across the {} {} between ({}, {}) and ({}, {})\n", a.elements,
                              a.elements == 1 ? "" : "s", sensible(a.width), j.unit, sensible(a.a[0]), sensible(a.a[1]),
                              sensible(a.b[0]), sensible(a.b[1]));
    }
    if (given.count("json")) {
        fmt::print("{}\n", json.dump(2));
        return status;
    }
    fmt::print("{}\n{} elements: {} good, {} acceptable, {} poor\n\n{}\n{}\n{}", strong(j.title),
               grouped(static_cast<long long>(mesh.element_count())), grouped(static_cast<long long>(r.good)),
               grouped(static_cast<long long>(r.acceptable)), grouped(static_cast<long long>(r.poor)), table(rows),
               table(worst), across);
    if (given.count("output")) fmt::print("written   {}\n", given["output"].as<std::string>());
    return status;
}

}  // namespace

int quality(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift quality",
        "Judges the elements of a mesh: of a study (its first mesh) or out of a VTU file. With -o "
        "also a map and histograms: quality.png and histograms.png (and .svg). Exit status 1 if an "
        "element is poor.");
    options.add_options()("help", "print this")("o,output", "directory for the pictures",
                                                cxxopts::value<std::string>())(
        "limits", "for a mesh file: the study whose limits and part it is held against", cxxopts::value<std::string>())(
        "finer", "for a study: divide every size by this", cxxopts::value<double>()->default_value("1"))(
        "json", "print as JSON")("input", "study or VTU file", cxxopts::value<std::string>());
    options.parse_positional({"input"});
    options.positional_help("STUDY|MESH.vtu [-o DIRECTORY]");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift quality examples/tidal/cable-gland-flange.toml -o out-quality\n",
                   options.help());
        return 0;
    }
    if (!given.count("input"))
        throw InputError("no study or mesh file is given", {}, "as in: dotsift quality study.toml -o out");
    const Judged j = open_judged(given);
    const std::vector<QualitySpec> none;
    const auto& limits = j.opened ? j.opened->study.quality : none;
    if (j.solid.element_count() > 0)
        return tell_quality<3>(j, j.solid, judge_quality(j.solid, j.wanted, limits, &*j.opened->solid), limits, given);
    return tell_quality<2>(j, j.mesh, judge_quality(j.mesh, j.wanted, limits, j.opened ? &j.opened->part : nullptr),
                           limits, given);
}

}  // namespace dotsift::app
