#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/facet_text.hpp"
#include "evidence/inspection_json.hpp"
#include "evidence/part_files.hpp"
#include "evidence/pictures/part_picture.hpp"
#include "evidence/pictures/solid_picture.hpp"
#include "inspect/inspect_solid.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/solid/model_file.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

// A turned box is worth a word where it is smaller than this share of the one along the axes.
constexpr double turned_box_told = 0.95;
constexpr std::size_t most_marks = 12, most_sections = 3;  // on the picture of a solid, and beside it

void print_measures(const StudyAndPart& opened, const PartReport& r) {
    const std::string length = opened.study.units.label(dimension::length);
    const Vec2 size = r.high - r.low;
    fmt::print("{}\n", strong(opened.study.title));
    fmt::print("overall     {:.7g} x {:.7g} {}, from ({}, {}) to ({}, {})\n", size[0], size[1], length,
               sensible(r.low[0]), sensible(r.low[1]), sensible(r.high[0]), sensible(r.high[1]));
    fmt::print("area        {} {}², perimeter {} {}\n", sensible(r.measures.area, 7), length,
               sensible(r.measures.perimeter, 7), length);
    if (r.before_cleanup) {
        const auto& b = *r.before_cleanup;
        fmt::print("            as drawn {} {}²: clean-up changes it by {}, the centroid by ({}, {}) {}\n",
                   sensible(b.area, 7), length, percent((r.measures.area - b.area) / b.area),
                   sensible(r.measures.centroid[0] - b.centroid[0], 2),
                   sensible(r.measures.centroid[1] - b.centroid[1], 2), length);
    }
    if (r.mass) fmt::print("mass        {} kg\n", sensible(*r.mass, 5));
    fmt::print("centroid    ({}, {}) {}\n", sensible(r.measures.centroid[0], 6), sensible(r.measures.centroid[1], 6),
               length);
    fmt::print("moments     Ixx {}, Iyy {}, Ixy {} {}⁴ about the centroid; principal {} and {}, turned {}°\n",
               sensible(r.measures.ixx, 5), sensible(r.measures.iyy, 5), sensible(r.measures.ixy, 5), length,
               sensible(r.principal.largest, 5), sensible(r.principal.smallest, 5),
               sensible(r.principal.angle * 180 / 3.14159265358979, 3));
    fmt::print("edges       {} lines, {} arcs, {} splines{}; {} between faces; {} vertices, {} holes\n", r.lines,
               r.arcs, r.splines, r.chains ? fmt::format(", {} chains", r.chains) : "", r.interior_edges, r.vertices,
               r.holes);
    for (const auto& note : opened.notes) fmt::print("drawing     {}\n", note);
}

void print_regions(const StudyAndPart& opened, const PartReport& r) {
    const std::string length = opened.study.units.label(dimension::length);
    std::vector<std::vector<std::string>> rows{{"region", "material", "pieces", fmt::format("area {}²", length),
                                                fmt::format("perimeter {}", length), "mass kg"}};
    for (const auto& g : r.regions)
        rows.push_back({g.name, g.material.empty() ? "none" : g.material, std::to_string(g.pieces),
                        sensible(g.measures.area, 6), sensible(g.measures.perimeter, 6),
                        g.mass ? sensible(*g.mass, 4) : "-"});
    fmt::print("\n{}", table(rows));
}

void print_names(const Part& part, const PartReport& report, const std::string& length) {
    std::vector<std::vector<std::string>> rows{{"boundary", "edges", fmt::format("length {}", length)}};
    for (const auto& b : report.boundaries)
        rows.push_back(
            {b.name, b.edges > 0 ? std::to_string(b.edges) : "none left", b.edges > 0 ? sensible(b.length, 5) : ""});
    for (const auto& p : part.points)
        rows.push_back(
            {p.name, "point",
             fmt::format("({}, {})", sensible(part.vertex(p.vertex)[0]), sensible(part.vertex(p.vertex)[1]))});
    if (rows.size() > 1) fmt::print("\n{}", table(rows));
}

}  // namespace

namespace {

nlohmann::ordered_json solid_json(const StudyAndPart& opened, const PartReport& report) {
    const SolidReport& s = *report.solid;
    nlohmann::ordered_json j{{"format", 1},
                             {"title", opened.study.title},
                             {"size", {s.size[0], s.size[1], s.size[2]}},
                             {"volume", s.volume.size},
                             {"surface", s.surface},
                             {"centroid", {s.volume.centroid[0], s.volume.centroid[1], s.volume.centroid[2]}},
                             {"mass", report.mass ? nlohmann::ordered_json(*report.mass) : nlohmann::ordered_json()},
                             {"moments",
                              {{"ixx", s.moments.ixx},
                               {"iyy", s.moments.iyy},
                               {"izz", s.moments.izz},
                               {"ixy", s.moments.ixy},
                               {"iyz", s.moments.iyz},
                               {"izx", s.moments.izx}}},
                             {"turned_box",
                              {{"size", coordinates_of<3>(s.tightest.size)},
                               {"axes",
                                {coordinates_of<3>(s.tightest.axes[0]), coordinates_of<3>(s.tightest.axes[1]),
                                 coordinates_of<3>(s.tightest.axes[2])}}}},
                             {"faces", s.faces},
                             {"edges", s.edges},
                             {"bodies", s.bodies}};
    for (const auto& r : s.regions)
        j["regions"].push_back({{"name", r.name}, {"material", r.material}, {"volume", r.volume}});
    for (const auto& b : s.boundaries)
        j["boundaries"].push_back({{"name", b.name}, {"faces", b.faces}, {"area", b.area}});
    for (const auto& e : s.named_edges)
        j["named_edges"].push_back({{"name", e.name}, {"edges", e.edges}, {"length", e.length}});
    for (const auto& p : opened.solid->points) {
        const Vec3& at = opened.solid->vertices[static_cast<std::size_t>(p.vertex)];
        j["points"].push_back({{"name", p.name}, {"position", coordinates_of<3>(at)}});
    }
    for (const auto& item : opened.cleanup) j["cleanup"].push_back({{"what", item.what}, {"done", item.done}});
    for (const auto& f : report.findings)
        j["findings"].push_back({{"kind", f.kind}, {"text", f.text}, {"value", f.value}});
    j["global_size"] = report.global_size;
    j["estimated_elements"] = report.estimated_elements;
    j["suggestion"] = {{"size", report.suggestion.size},
                       {"reason", report.suggestion.reason},
                       {"elements", report.suggestion.elements}};
    return j;
}

/// As pictures show them.
std::vector<NamedLine> lines_of_names(const SolidPart& part) {
    constexpr int pieces = 24;
    std::vector<NamedLine> out;
    for (const auto& name : part.edge_names)
        for (const int e : part.edges_named({name})) {
            NamedLine line{name, {}};
            for (int k = 0; k <= pieces; ++k)
                line.points.push_back(part.edge(e).curve.point(static_cast<double>(k) / pieces));
            out.push_back(std::move(line));
        }
    return out;
}

/// Numbers as in the list.
std::vector<SolidMark> numbered_places(const PartReport& report) {
    std::vector<SolidMark> out;
    for (std::size_t k = 0; k < report.findings.size() && out.size() < most_marks; ++k)
        if (!report.findings[k].spots.empty())
            out.push_back({report.findings[k].spots.front(), fmt::format("{}", k + 1), 1, true});
    return out;
}

/// The part cut through thin walls and gaps, which its outside does not show.
void draw_walls(const SolidMesh& mesh, const PartReport& report, const std::string& title, const std::string& length,
                const std::filesystem::path& directory) {
    std::size_t drawn = 0;
    for (std::size_t k = 0; k < report.findings.size() && drawn < most_sections; ++k) {
        const Finding& f = report.findings[k];
        if (f.spots.size() != 2) continue;
        const std::string number = fmt::format("{}", k + 1);
        write_picture(directory / ("place-" + number),
                      draw_solid_mesh(mesh, title, number + ": " + f.text, length, PictureUse::files, {},
                                      {{(f.spots[0] + f.spots[1]) * 0.5, number, 1, true}},
                                      section_along(f.spots[0], f.spots[1])));
        ++drawn;
    }
}

/// Each fault that numbers places of the part, on a picture of it; their names.
std::vector<std::string> draw_faults(const SolidMesh& mesh, const Problems& problems, const std::string& title,
                                     const std::string& length, const std::filesystem::path& directory) {
    std::vector<std::string> written;
    const auto faults = problems.faults();
    for (std::size_t k = 0; k < faults.size(); ++k) {
        if (faults[k].spots.empty()) continue;
        std::vector<SolidMark> marks;
        for (const Vec3& at : faults[k].spots) marks.push_back({at, fmt::format("{}", marks.size() + 1), 1, true});
        const std::string name = fmt::format("fault-{}", k + 1);
        write_picture(directory / name,
                      draw_solid_mesh(mesh, title, faults[k].what, length, PictureUse::files, {}, marks));
        written.push_back(name + ".png");
    }
    return written;
}

void tell_solid(const StudyAndPart& opened, const PartReport& report, const Problems& problems,
                const cxxopts::ParseResult& given) {
    const SolidReport& s = *report.solid;
    const Study& study = opened.study;
    const std::string length = study.units.label(dimension::length);
    const auto json = solid_json(opened, report);
    std::string written;
    std::vector<std::string> pictured;
    std::optional<std::string> facets;
    if (given.count("output")) {
        // The picture is that of the mesh that its curves alone ask for.
        const std::filesystem::path directory = given["output"].as<std::string>();
        make_directory(directory);
        SizeSpec plain;
        plain.segments_per_circle = study.sizes.segments_per_circle;
        try {
            const SolidMesh mesh =
                generate_outside(*opened.solid, sizing_of(*opened.solid, plain, study.path), study.sizes.most_elements);
            const FacetText text = facets_of(mesh);
            write_file(directory / "part.stl", text.text);
            facets = fmt::format("{} facets, within {} {} of the true faces",
                                 grouped(static_cast<long long>(text.count)), sensible(text.deviation, 2), length);
            write_picture(directory / "part",
                          draw_solid_mesh(mesh, study.title, solid_sentence(report, length), length, PictureUse::files,
                                          lines_of_names(*opened.solid), numbered_places(report)));
            draw_walls(mesh, report, study.title, length, directory);
            pictured = draw_faults(mesh, problems, study.title, length, directory);
        } catch (const MeshError& e) {  // which is no reason to tell nothing of the part
            fmt::print(stderr, "no picture of the part: {}\n", e.what());
        }
        try {
            write_step(*opened.solid, directory / "part.step", study.units.metres());
        } catch (const InputError& e) {
            fmt::print(stderr, "no part.step: {}\n", e.what());
        }
        write_file(directory / "inspection.json", json.dump(2) + "\n");
        written = directory.string();
    }
    if (given.count("json")) {
        fmt::print("{}\n", json.dump(2));
        return;
    }
    fmt::print("{}\nsolid       {}\n            {} faces, {} edges, {} {}\n", strong(study.title),
               solid_sentence(report, length), s.faces, s.edges, s.bodies, s.bodies == 1 ? "body" : "bodies");
    if (s.tightest.volume() < turned_box_told * s.size[0] * s.size[1] * s.size[2])
        fmt::print("turned box  {} × {} × {} {}, the longest side along ({:.3g}, {:.3g}, {:.3g})\n",
                   sensible(s.tightest.size[0]), sensible(s.tightest.size[1]), sensible(s.tightest.size[2]), length,
                   s.tightest.axes[0][0], s.tightest.axes[0][1], s.tightest.axes[0][2]);
    const double largest = s.principal.moments[2];
    const auto moment = [&](double m) { return sensible(without_rounding(m, largest), 5); };
    fmt::print(
        "moments     Ixx {}, Iyy {}, Izz {}, Ixy {}, Iyz {}, Izx {} {}⁵ about the centroid; principal {}, {}, {}\n",
        moment(s.moments.ixx), moment(s.moments.iyy), moment(s.moments.izz), moment(s.moments.ixy),
        moment(s.moments.iyz), moment(s.moments.izx), length, moment(s.principal.moments[0]),
        moment(s.principal.moments[1]), moment(s.principal.moments[2]));
    std::vector<std::vector<std::string>> rows{{"region", "material", "volume " + length + "³", "mass kg"}};
    for (const auto& r : s.regions)
        rows.push_back({r.name, r.material, sensible(r.volume, 6), r.mass ? sensible(*r.mass) : "-"});
    fmt::print("\n{}", table(rows));
    if (!opened.cleanup.empty()) fmt::print("\n{}\n", strong("clean-up"));
    for (const auto& item : opened.cleanup) fmt::print("  {}\n", item.what);
    rows = {{"boundary", "faces", "area " + length + "²"}};
    for (const auto& b : s.boundaries) rows.push_back({b.name, fmt::format("{}", b.faces), sensible(b.area, 6)});
    fmt::print("\n{}", table(rows));
    rows = {{"edge", "pieces", "length " + length}};
    for (const auto& e : s.named_edges) rows.push_back({e.name, fmt::format("{}", e.edges), sensible(e.length, 6)});
    if (rows.size() > 1) fmt::print("\n{}", table(rows));
    rows = {{"point", "at"}};
    for (const auto& p : opened.solid->points)
        rows.push_back({p.name, told_point(opened.solid->vertices[static_cast<std::size_t>(p.vertex)])});
    if (rows.size() > 1) fmt::print("\n{}", table(rows));
    if (!report.unused_names.empty()) fmt::print("names that nothing uses: {}\n", quoted_list(report.unused_names));
    if (!report.findings.empty()) fmt::print("\n{}\n", strong("places to look at"));
    for (std::size_t k = 0; k < report.findings.size(); ++k) fmt::print("  {}  {}\n", k + 1, report.findings[k].text);
    fmt::print("\nfirst mesh  about {} elements with the study's sizes, global {} {}\n",
               grouped(std::llround(report.estimated_elements)), sensible(report.global_size, 3), length);
    fmt::print("suggestion  global size {} {} ({}): about {} elements\n", sensible(report.suggestion.size, 2), length,
               report.suggestion.reason, grouped(std::llround(report.suggestion.elements)));
    if (facets) fmt::print("part.stl    {}\n", *facets);
    if (!pictured.empty()) fmt::print("faults      pictured in {}\n", fmt::join(pictured, ", "));
    if (!written.empty()) fmt::print("written     {}\n", written);
}

int tell_faults(const Problems& problems) {
    if (problems.empty()) return 0;
    std::fputs(problems.text().c_str(), stderr);
    return static_cast<int>(ExitStatus::bad_input);
}

}  // namespace

int inspect(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift inspect",
        "Measures a part before anything is computed and lists what will cause trouble. With -o it "
        "also writes a labelled picture and the part as DXF and SVG, a solid as STEP and STL.");
    options.add_options()("help", "print this")("o,output",
                                                "directory for part.png, part.svg, place-*.png, inspection.json, and "
                                                "outline.svg and outline.dxf, or part.step and part.stl",
                                                cxxopts::value<std::string>())("json", "print the result as JSON")(
        "study", "study file", cxxopts::value<std::string>());
    options.parse_positional({"study"});
    options.positional_help("STUDY [-o DIRECTORY]");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift inspect examples/tidal/pitch-link-lug.toml -o out-part\n", options.help());
        return 0;
    }
    if (!given.count("study"))
        throw InputError("no study file is given", {}, "as in: dotsift inspect study.toml -o out");
    Problems problems(given["study"].as<std::string>());
    const StudyAndPart opened = open(given["study"].as<std::string>(), problems);
    if (opened.part.faces.empty() && !opened.solid) problems.throw_if_any();  // there is nothing to look at
    const PartReport report = inspect_part(opened);
    if (report.solid) {
        tell_solid(opened, report, problems, given);
        return tell_faults(problems);
    }
    const nlohmann::ordered_json json = inspection_json(opened, report, problems);
    std::filesystem::path directory;
    if (given.count("output")) {
        directory = given["output"].as<std::string>();
        make_directory(directory);
        const PictureFiles picture = draw_part(opened, report);
        write_picture(directory / "part", picture);
        write_file(directory / "outline.dxf", part_dxf(opened.part, opened.study.units));
        write_file(directory / "outline.svg", part_svg(opened.part, opened.study.units));
        write_file(directory / "inspection.json", json.dump(2) + "\n");
        if (opened.original) {
            const PictureFiles cleanup = draw_cleanup(opened);
            write_picture(directory / "cleanup", cleanup);
        }
    }
    if (given.count("json")) {
        fmt::print("{}\n", json.dump(2));
    } else {
        print_measures(opened, report);
        print_regions(opened, report);
        print_names(opened.part, report, opened.study.units.label(dimension::length));
        if (!opened.cleanup.empty()) fmt::print("\n{}\n", strong("clean-up"));
        for (std::size_t k = 0; k < opened.cleanup.size(); ++k) fmt::print("  {}\n", opened.cleanup[k].what);
        fmt::print("\n{}\n", strong("places to look at"));
        for (std::size_t k = 0; k < report.findings.size(); ++k)
            fmt::print("  {}  {}\n", k + 1, report.findings[k].text);
        if (!report.unused_names.empty()) fmt::print("names that nothing uses: {}\n", quoted_list(report.unused_names));
        const std::string length = opened.study.units.label(dimension::length);
        fmt::print("\nfirst mesh  about {} elements with the study's sizes, global {} {}\n",
                   grouped(std::llround(report.estimated_elements)), sensible(report.global_size, 3), length);
        fmt::print("suggestion  global size {} {} ({}): about {} elements\n", sensible(report.suggestion.size, 2),
                   length, report.suggestion.reason, grouped(std::llround(report.suggestion.elements)));
        if (!directory.empty()) fmt::print("written     {}\n", directory.string());
    }
    return tell_faults(problems);
}

}  // namespace dotsift::app
