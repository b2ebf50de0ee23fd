#include "quality/quality.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <random>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "evidence/pictures/quality_picture.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Made {
    StudyAndPart opened;
    Mesh mesh;
    std::vector<double> wanted;
};

Made made(const std::string& shapes, const std::string& more) {
    Problems problems("t.toml");
    Made m{open_study("t.toml", "format = 1\n[part]\n" + shapes + rest_of_study() + more, problems), {}, {}};
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Sizing sizing = sizing_of(m.opened.part, m.opened.study.sizes, "t.toml");
    m.mesh = generate(m.opened.part, sizing, 1'000'000, m.opened.study.mesh);
    for (std::size_t e = 0; e < m.mesh.element_count(); ++e) m.wanted.push_back(sizing.field.at(m.mesh.centre_of(e)));
    return m;
}

const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nregion = \"plate\"\nsize = [40, 20]\nnames = { left = \"left\", right = "
    "\"right\" }\n[[part.shape]]\nmark = "
    "\"point\"\nat = [30, 12]\nname = \"gauge\"\n[[part.shape]]\nadd = \"circle\"\nregion = \"inlay\"\ncentre = [12, "
    "10]\nradius = 5\n";

double value(const QualityReport& r, Criterion c, std::size_t e) {
    return r.values[static_cast<std::size_t>(c)][e];
}

}  // namespace

TEST_SUITE_BEGIN("quality");

TEST_CASE("a grid of squares is perfect by every measure") {
    const auto m =
        made("[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = \"right\" }\n",
             "[size]\nglobal = 0.5\n[mesh]\nelements = \"grid\"\n");
    const auto r = judge_quality(m.mesh, m.wanted, {}, &m.opened.part);
    CHECK(r.good == 32);
    CHECK(r.poor == 0);
    for (const Criterion c : {Criterion::shape, Criterion::scaled_jacobian, Criterion::jacobian_ratio,
                              Criterion::edge_ratio, Criterion::size_ratio})
        CHECK(r.counts[static_cast<std::size_t>(c)].worst == doctest::Approx(1));
    CHECK(r.counts[static_cast<std::size_t>(Criterion::smallest_angle)].worst == doctest::Approx(90));
    CHECK(r.counts[static_cast<std::size_t>(Criterion::taper)].worst == doctest::Approx(0).scale(1));
    REQUIRE(!r.across.empty());
    CHECK(r.across.front().elements == 4);
}

TEST_CASE("limits differ by kind, region and place; later ones overrule") {
    const auto m = made(plate, "[size]\nglobal = 3\n[mesh.region.inlay]\nelements = \"mostly_quadrilaterals\"\n");
    const auto poor_with = [&](std::vector<QualitySpec> specs) {
        return judge_quality(m.mesh, m.wanted, specs, &m.opened.part).poor;
    };
    QualitySpec strict;
    strict.measure = Criterion::smallest_angle;
    strict.good = 179;
    strict.acceptable = 178;
    std::size_t quads = 0, inlay = 0, near = 0;
    ShapeSpec disc;
    disc.primitive = Primitive::circle;
    disc.centre = {{30, 10}};
    disc.radius = 6;
    for (std::size_t e = 0; e < m.mesh.element_count(); ++e) {
        quads += corner_count(m.mesh.kinds[e]) == 4;
        inlay += Meant(m.mesh, {"inlay"}).element(e);
        near += distance(m.mesh.centre_of(e), disc.centre) < 6;
    }
    CHECK(poor_with({}) == 0);
    CHECK(poor_with({strict}) == m.mesh.element_count());
    QualitySpec s = strict;
    s.quadrilaterals = true;
    CHECK(poor_with({s}) == quads);
    s = strict;
    s.on = {"inl*"};
    CHECK(poor_with({s}) == inlay);
    s = strict;
    s.inside = disc;
    CHECK(poor_with({s}) == near);
    CHECK(near > 3);
    QualitySpec loose = strict;
    loose.good = loose.acceptable = 0;
    CHECK(poor_with({strict, loose}) == 0);
}

TEST_CASE("the worst elements are told with their cause") {
    const auto m = made(
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [80, 0], [80, 12]]\nnames = { side1 = \"left\", side2 = "
        "\"right\" }\n",
        "[size]\nglobal = 3\n");
    const auto r = judge_quality(m.mesh, m.wanted, {}, &m.opened.part);
    REQUIRE(!r.worst.empty());
    CHECK(r.worst.front().grade == Grade::poor);
    CHECK(r.worst.front().cause == "sharp corner of the part");
    CHECK(distance(r.worst.front().position, {{0, 0}}) < 6);
    for (std::size_t k = 1; k < r.worst.size(); ++k) CHECK(r.worst[k].grade <= r.worst[k - 1].grade);
}

TEST_CASE("rows of layers are not faulted for being thin") {
    const auto m =
        made(plate, "[size]\nglobal = 2\n[size.layers.a]\non = \"left\"\nfirst = 0.01\nrows = 6\ngrowth = 1.5\n");
    const auto r = judge_quality(m.mesh, m.wanted, {}, &m.opened.part);
    CHECK(r.poor == 0);
    for (std::size_t e = 0; e < m.mesh.element_count(); ++e)
        CHECK(std::isnan(value(r, Criterion::shape, e)) == (m.mesh.row[e] > 0));
    const auto pictures = draw_quality_map(m.mesh, r, "t", "mm");
    CHECK(pictures.png.size() > 10000);
    CHECK(draw_histograms(m.mesh, r, {}, "t").svg.size() > 5000);
}

TEST_CASE("a written mesh is read back whole, of every kind") {
    const auto folder = std::filesystem::temp_directory_path() / "dotsift-vtu-read";
    std::filesystem::create_directories(folder);
    const auto file = folder / "mesh.vtu";
    for (const int order : {1, 2}) {
        const auto m =
            made(plate, "[size]\nglobal = 2\n[size.layers.a]\non = \"left\"\nfirst = 0.1\nrows = 3\n[mesh]\norder = " +
                            std::to_string(order) + "\n[mesh.region.inlay]\nelements = \"mostly_quadrilaterals\"\n");
        write_file(file, mesh_vtu(m.mesh, m.wanted));
        const auto [mesh, wanted, fields, turned, untold] = read_vtu(file);
        CHECK(mesh.nodes == m.mesh.nodes);
        CHECK(mesh.connectivity == m.mesh.connectivity);
        CHECK(mesh.kinds == m.mesh.kinds);
        CHECK(mesh.region == m.mesh.region);
        CHECK(mesh.region_names == m.mesh.region_names);
        CHECK(mesh.row == m.mesh.row);
        CHECK(wanted == m.wanted);
        REQUIRE(mesh.boundary.size() == m.mesh.boundary.size());
        for (std::size_t b = 0; b < mesh.boundary.size(); ++b) {
            CHECK(mesh.boundary[b].nodes == m.mesh.boundary[b].nodes);
            CHECK(mesh.boundary[b].element == m.mesh.boundary[b].element);
            CHECK(mesh.boundary[b].side == m.mesh.boundary[b].side);
            CHECK(Meant(mesh, {"left"}).side(mesh.boundary[b]) == Meant(m.mesh, {"left"}).side(m.mesh.boundary[b]));
        }
        REQUIRE(mesh.points.size() == 1);
        CHECK(mesh.points[0].name == "gauge");
        CHECK(mesh.points[0].node == m.mesh.points[0].node);
    }
    std::filesystem::remove_all(folder);
}

TEST_CASE("plain and broken mesh files") {
    const auto folder = std::filesystem::temp_directory_path() / "dotsift-vtu-broken";
    std::filesystem::create_directories(folder);
    const auto file = folder / "mesh.vtu";
    const std::string plain =
        "<?xml version=\"1.0\"?><VTKFile type=\"UnstructuredGrid\" version=\"0.1\" "
        "byte_order=\"LittleEndian\"><UnstructuredGrid><Piece NumberOfPoints=\"4\" "
        "NumberOfCells=\"2\"><Points><DataArray type=\"Float64\" NumberOfComponents=\"3\" format=\"ascii\">0 0 0 1 0 0 "
        "1 1 0 0 1 0</DataArray></Points><Cells>"
        "<DataArray type=\"Int32\" Name=\"connectivity\" format=\"ascii\">0 1 2 0 2 3</DataArray><DataArray "
        "type=\"Int32\" Name=\"offsets\" format=\"ascii\">3 6"
        "</DataArray><DataArray type=\"UInt8\" Name=\"types\" format=\"ascii\">5 "
        "5</DataArray></Cells></Piece></UnstructuredGrid></VTKFile>";
    write_file(file, plain);
    const auto read = read_vtu(file);
    CHECK(read.mesh.element_count() == 2);
    CHECK(read.mesh.measure() == doctest::Approx(1));
    CHECK(read.mesh.region_names == std::vector<std::string>{"part"});
    const auto fault = [&](std::string text, const std::string& from, const std::string& to) {
        const auto at = text.find(from);
        REQUIRE(at != std::string::npos);
        write_file(file, text.replace(at, from.size(), to));
        try {
            (void)read_vtu(file);
        } catch (const InputError& e) {
            return std::string(e.what());
        }
        return std::string("none");
    };
    CHECK(has(fault(plain, "UnstructuredGrid", "PolyData"), "no UnstructuredGrid"));
    CHECK(has(fault(plain, "0 1 2 0 2 3", "0 1 2 0 2 9"), "a node is out of range"));
    CHECK(has(fault(plain, "0 1 2 0 2 3", "0 1 2 0 2 -1"), "a node is out of range"));
    CHECK(has(fault(plain, "3 6", "3 7"), "an offset is out of range"));
    CHECK(has(fault(plain, "3 6", "3 2"), "offsets fall"));
    CHECK(has(fault(plain, "5 5", "5 12"), "cell 1 is of type 12"));
    CHECK(has(fault(plain, "1 1 0 0 1 0", "1 1 0.5 0 1 0"), "only plane meshes"));
    CHECK(has(fault(plain, "1 1 0 0 1 0", "1 1 0 0 nan 0"), "not finite"));
    CHECK(has(fault(plain, "1 1 0 0 1 0", "1 one 0 0 1 0"), "no number"));
    CHECK(has(fault(plain, "</VTKFile>", ""), "XML is broken"));
    CHECK_THROWS_AS((void)read_vtu(folder / "missing.vtu"), FileError);

    // Damaged in any byte it is read or refused, and nothing else.
    const auto m = made(plate, "[size]\nglobal = 6\n");
    const std::string whole = mesh_vtu(m.mesh, m.wanted);
    std::mt19937 random(4);
    int refused = 0;
    for (int k = 0; k < 400; ++k) {
        std::string text = whole;
        if (k % 4 == 0)
            text.resize(random() % text.size());
        else
            for (int n = 0; n < 3; ++n) text[random() % text.size()] = static_cast<char>(random());
        write_file(file, text);
        try {
            (void)read_vtu(file);
        } catch (const InputError&) {
            ++refused;
        }
    }
    CHECK(refused > 200);
    std::filesystem::remove_all(folder);
}

TEST_SUITE_END();
