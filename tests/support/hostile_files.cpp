#include "support/hostile_files.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <cmath>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/archive.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "part/checks/check_study.hpp"
#include "part/shapes/dxf_read.hpp"
#include "part/solid/model_file.hpp"
#include "quality/quality.hpp"
#include "sizes/part_sizes.hpp"
#include "sizes/size_table.hpp"
#include "statistics/level_table.hpp"
#include "study/read.hpp"
#include "support/facets.hpp"

namespace dotsift::test {

namespace fs = std::filesystem;

namespace {

void keep(const fs::path& file, const std::string& text) {
    std::FILE* out = std::fopen(file.c_str(), "wb");
    std::fwrite(text.data(), 1, text.size(), out);
    std::fclose(out);
}

std::vector<std::string> drawings() {
    std::string circles =
        "0\nCIRCLE\n8\na\n10\n5\n20\n5\n40\n2\n0\nELLIPSE\n8\nb\n10\n15\n20\n15\n11\n3\n21\n0\n40\n0.5\n41\n0\n42\n6."
        "283185\n";
    const std::string polyline =
        "0\nPOLYLINE\n8\nrim\n66\n1\n70\n1\n0\nVERTEX\n8\nrim\n10\n0\n20\n0\n0\nVERTEX\n8\nrim\n10\n40\n20\n0\n42\n0."
        "5\n0\nVERTEX\n8\nrim\n"
        "10\n40\n20\n20\n0\nVERTEX\n8\nrim\n10\n0\n20\n20\n0\nSEQEND\n";
    const std::string spline =
        "0\nSPLINE\n8\narch\n70\n8\n71\n3\n72\n8\n73\n4\n74\n0\n40\n0\n40\n0\n40\n0\n40\n0\n40\n1\n40\n1\n40\n1\n40\n1"
        "\n10\n0\n20\n0\n"
        "10\n2\n20\n8\n10\n6\n20\n8\n10\n8\n20\n0\n0\nLINE\n8\narch\n10\n8\n20\n0\n11\n0\n21\n0\n";
    const auto file = [](const std::string& entities) {
        return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + entities +
               "0\nENDSEC\n0\nEOF\n";
    };
    return {read_file(std::string(DOTSIFT_SOURCE) + "/examples/tidal/hub-cover.dxf"), file(polyline + circles),
            file(spline), file(polyline + spline)};
}

std::string take_drawing(const std::string& text, const fs::path& folder, Random& random) {
    (void)read_dxf(text, "mutated");
    keep(folder / "part.dxf", text);
    Problems problems("fuzz");
    const Study study = read_study(folder / "study.toml",
                                   std::string("format = 1\n[[part.shape]]\nadd = \"drawing\"\nfile = "
                                               "\"part.dxf\"\n") +
                                       (random() % 2 ? "nested = \"regions\"\n" : ""),
                                   problems);
    const std::size_t before = problems.count();
    const BuiltPart built = build_part(study, problems);
    if (problems.count() > before) return "refused as a part";
    if (built.part.faces.empty() || !(built.part.area() > 0)) throw std::logic_error("neither a part nor a fault");
    return "became parts";
}

/// A mesh of each kind of elements, in each of the encodings that this program writes, and as others write them.
std::vector<std::string> meshes() {
    std::vector<std::string> out;
    for (const char* elements : {"triangles", "mostly_quadrilaterals"})
        for (const int order : {1, 2}) {
            Problems problems("fuzz");
            const StudyAndPart opened = open_study(
                "fuzz.toml",
                fmt::format("format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nname = \"rim\"\n"
                            "[[part.shape]]\nadd = \"circle\"\ncentre = [1, 0.5]\nradius = 0.3\nregion = "
                            "\"core\"\n[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[size]\nglobal = "
                            "0.4\n[mesh]\nelements = \"{}\"\norder = {}\n[support.s]\non = \"rim\"\nhold = "
                            "\"fixed\"\n[load.l]\non = \"rim\"\npressure = 1\n[quantity.q]\nof = \"ux\"\n",
                            elements, order),
                problems);
            const Mesh mesh = generate(opened.part, sizing_of(opened.part, opened.study.sizes, "fuzz.toml"),
                                       opened.study.sizes.most_elements, opened.study.mesh);
            out.push_back(mesh_vtu(mesh, std::vector<double>(mesh.element_count(), 0.4)));
        }
    const auto piece = [](const char* points, const char* nodes, const char* ends, const char* types) {
        const auto array = [](const char* type, const char* name, const char* numbers) {
            return fmt::format("<DataArray type=\"{}\" Name=\"{}\" format=\"ascii\">{}</DataArray>", type, name,
                               numbers);
        };
        return "<Piece><Points>" + array("Float32", "Points", points) + "</Points><Cells>" +
               array("Int32", "connectivity", nodes) + array("Int32", "offsets", ends) +
               array("UInt8", "types", types) + "</Cells></Piece>";
    };
    out.push_back("<VTKFile type=\"UnstructuredGrid\"><UnstructuredGrid>" +
                  piece("0 0 0 1 0 0 1 1 0 0 1 0 2 0 0 2 1 0", "0 1 2 3 1 4 5 2 0 1", "4 8 10", "9 7 3") +
                  piece("2 0 0 3 0 0 3 1 0 2 1 0 2.5 0 0 3 0.5 0 2.5 1 0 2 0.5 0", "0 1 2 3 4 5 6 7", "8", "23") +
                  "</UnstructuredGrid></VTKFile>");
    return out;
}

std::string take_mesh(const std::string& text, const fs::path& folder, Random& random) {
    keep(folder / "mesh.vtu", text);
    const MeshFile file = read_vtu(folder / "mesh.vtu", random() % 2);
    const QualityReport report = judge_quality(file.mesh, {}, {}, nullptr);
    if (report.grade.size() != file.mesh.element_count()) throw std::logic_error("not every element is judged");
    return "became meshes";
}

std::vector<std::string> tables() {
    return {"size,peak,mean\n4,180.5,12.25\n2,190.75,12.5\n1,195.5,12.625\n0.5,197.9,12.6875\n",
            "elements;\"a \"\"quoted\"\" name\"\n100;1.5\n400;1.25\n1600;1.125\n",
            "# from elsewhere\n1 2\n0.5 3\n0.25 3.5\n", "x,y,size\n0,0,1\n1,0,2\n0,1,3\n1,1,4\n",
            "y\tx [mm]\tsize\n0\t0\t1\n0\t5\t2\n3\t0\t1e-1\n3\t5\t.5\n"};
}

std::string take_table(const std::string& text, const fs::path&, Random& random) {
    if (random() % 2) {
        const auto sizes = read_size_table<2>(text, "mutated");
        for (const double s : sizes.sizes)
            if (!(s > 0) || !std::isfinite(s)) throw std::logic_error("a size that is none");
        return "became sizes";
    }
    Problems problems("fuzz");
    const auto series = read_level_table(text, {}, {}, problems);
    if (problems.count() > 0) return "refused as levels";
    if (series.empty()) throw std::logic_error("neither levels nor a fault");
    return "became levels";
}

std::vector<std::string> archives() {
    const fs::path folder = fs::temp_directory_path() / fmt::format("dotsift-fuzz-packed-{}", ::getpid());
    fs::create_directories(folder / "result" / "levels");
    keep(folder / "result" / "summary.json", "{\"format\": 1}\n" + std::string(400, ' '));
    keep(folder / "result" / "levels" / "mesh.vtu", "<VTKFile/>");
    keep(folder / "result" / "empty", "");
    pack(folder / "result", folder / "result.zip");
    std::vector<std::string> out{read_file(folder / "result.zip")};
    fs::remove_all(folder);
    return out;
}

std::string take_archive(const std::string& text, const fs::path& folder, Random&) {
    keep(folder / "result.zip", text);
    const fs::path to = folder / "unpacked";
    try {
        unpack(folder / "result.zip", to, 1e8);
    } catch (const Error&) {
        if (std::distance(fs::directory_iterator(folder), fs::directory_iterator()) != 1)
            throw std::logic_error("something is left of an archive that was refused");
        throw;
    }
    const bool there = !fs::is_empty(to);
    fs::remove_all(to);
    if (!there) throw std::logic_error("nothing came out");
    return "unpacked";
}

std::vector<std::string> models() {
    const std::string head =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"box\"\nsize = [40, 30, 12]\nname = \"skin\"\n";
    std::vector<std::string> out;
    for (const std::string& more :
         {std::string("[[part.shape]]\nchange = \"round\"\nnear = [[20, 0, 0]]\nradius = 5\n"),
          std::string("[[part.shape]]\ncut = \"sphere\"\ncentre = [20, 15, 12]\nradius = 6\n[[part.shape]]\nadd = "
                      "\"ring\"\ncentre = [80, 0, 0]\nradii = [9, 3]\nregion = \"ring\"\n")}) {
        Problems problems("model.toml");
        const StudyAndPart opened = open_study("model.toml", head + more, problems);
        const fs::path file = fs::temp_directory_path() / fmt::format("dotsift-fuzz-{}.step", ::getpid());
        write_step(*opened.solid, file, 0.001);
        out.push_back(read_file(file));
        fs::remove(file);
    }
    return out;
}

std::string take_model(const std::string& text, const fs::path& folder, Random&) {
    keep(folder / "part.step", text);
    const ModelFile model = read_model(folder / "part.step", {}, 0.001);
    for (const auto& solid : model.solids)
        if (!(measure(solid).size > 0)) throw std::logic_error("a solid without a volume");
    return "became solids";
}

std::vector<std::string> surfaces() {
    std::vector<std::string> out;
    const FacetMesh two = together(box_facets({}, {{1, 2, 3}}, true), moved_by(ball_facets(1, 8), {{5, 0, 0}}));
    for (const char* format : {"stl", "stl-binary", "ply", "ply-little", "ply-big", "off", "obj"}) {
        out.push_back(facet_file(two, format));
        out.push_back(facet_file(tube_facets(1, 2, 1, 9), format));
    }
    return out;
}

std::string take_facets(const std::string& text, const fs::path& folder, Random& random) {
    const char* ending = std::array{"stl", "ply", "off", "obj"}[random() % 4];
    const fs::path file = folder / (std::string("part.") + ending);
    keep(file, text);
    const ModelFile model = read_model(file, 0.001, 0.001);
    fs::remove(file);
    for (const auto& solid : model.solids)
        if (!(measure(solid).size > 0)) throw std::logic_error("a solid without a volume");
    return "became solids";
}

}  // namespace

std::string mutated(const std::vector<std::string>& from, Random& random) {
    std::string text = from[random() % from.size()];
    const int edits = 1 + static_cast<int>(random() % 5);
    for (int k = 0; k < edits && !text.empty(); ++k) {
        const std::size_t at = random() % text.size();
        switch (random() % 8) {
            case 0:
                text[at] = static_cast<char>(random() % 256);
                break;
            case 1:
                text.erase(at, random() % 60);
                break;
            case 2:
                text.insert(at, text.substr(random() % text.size(), random() % 200));
                break;
            case 3:
                text.insert(at, std::to_string(static_cast<std::int64_t>(random())));
                break;
            case 4:
            case 5:
                text[at] = static_cast<char>('0' + random() % 10);
                break;
            case 6: {  // swaps two lines
                const std::size_t a = text.find('\n', at), b = a == std::string::npos ? a : text.find('\n', a + 1);
                if (b != std::string::npos)
                    text = text.substr(0, at) + text.substr(a, b - a) + text.substr(at, a - at) + text.substr(b);
                break;
            }
            default:
                if (random() % 4 == 0) text.resize(at);
        }
    }
    return text;
}

FileKind file_kind(const std::string& name) {
    if (name == "drawing") return {drawings(), take_drawing};
    if (name == "mesh") return {meshes(), take_mesh};
    if (name == "table") return {tables(), take_table};
    if (name == "archive") return {archives(), take_archive};
    if (name == "model") return {models(), take_model};
    if (name == "facets") return {surfaces(), take_facets};
    return {};
}

}  // namespace dotsift::test
