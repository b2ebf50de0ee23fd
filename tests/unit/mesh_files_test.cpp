// Mesh files as other programs write them.

#include <doctest/doctest.h>
#include <fmt/format.h>
#include <lz4.h>

#include <cstring>
#include <fstream>

#include "base/errors.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "mesh/elements/element.hpp"
#include "support/folder.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

std::string vtu(const std::string& points, const std::string& connectivity, const std::string& offsets,
                const std::string& types, const std::string& more = "") {
    return fmt::format(
        "<?xml version=\"1.0\"?>\n<VTKFile type=\"UnstructuredGrid\" version=\"1.0\" "
        "byte_order=\"LittleEndian\"><UnstructuredGrid><Piece "
        "NumberOfPoints=\"9\" NumberOfCells=\"1\"><Points><DataArray type=\"Float64\" NumberOfComponents=\"3\" "
        "format=\"ascii\">{}</DataArray></Points><Cells><DataArray type=\"Int64\" Name=\"connectivity\" "
        "format=\"ascii\">{}</DataArray>"
        "<DataArray type=\"Int64\" Name=\"offsets\" format=\"ascii\">{}</DataArray><DataArray type=\"UInt8\" "
        "Name=\"types\" "
        "format=\"ascii\">{}</DataArray></Cells>{}</Piece></UnstructuredGrid></VTKFile>\n",
        points, connectivity, offsets, types, more);
}

MeshFile read(const Folder& folder, const std::string& text, bool fields = false) {
    std::ofstream(folder.path / "m.vtu", std::ios::binary) << text;
    return read_vtu(folder.path / "m.vtu", fields);
}

const std::string square = "0 0 0  1 0 0  1 1 0  0 1 0";

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("cells of other programs' files: strips, pixels, polygons, eight nodes, points, lines of many points") {
    const Folder folder;
    const auto area = [&](const std::string& points, const std::string& c, const std::string& o, const std::string& t) {
        return read(folder, vtu(points, c, o, t)).mesh.measure();
    };
    CHECK(area(square, "0 1 3 2", "4", "6") == doctest::Approx(1));                // a strip of two triangles
    CHECK(area(square, "0 1 3 2", "4", "8") == doctest::Approx(1));                // a pixel
    CHECK(area(square, "0 1 2 3", "4", "7") == doctest::Approx(1));                // a polygon
    CHECK(area(square, "0 1 2 0 1 2 3", "1 3 7", "1 3 9") == doctest::Approx(1));  // a point, a line, an element
    const auto lines = read(folder, vtu(square, "0 1 2 3 0 1 2 3", "4 8", "9 4")).mesh;
    CHECK(lines.boundary.size() == 4);  // three of the lines, and the side that none tells
    CHECK_THROWS_WITH_AS(area(square, "0 1 2 3 0", "5", "7"), doctest::Contains("a polygon of 5 corners"), InputError);
    const std::string eight = "0 0 0 2 0 0 2 2 0 0 2 0 1 0 0 2 1 0 1 2 0 0 1 0";
    const auto nine = read(folder,
                           vtu(eight, "0 1 2 3 4 5 6 7", "8", "23",
                               "<PointData><DataArray type=\"Float64\" Name=\"t\" format=\"ascii\">0 2 4 2 1 3 3 "
                               "1</DataArray></PointData>"),
                           true);
    CHECK(nine.mesh.kinds[0] == ElementKind::quadrilateral9);
    CHECK(nine.mesh.measure() == doctest::Approx(4));
    CHECK(nine.mesh.nodes.back() == Vec2{{1, 1}});
    REQUIRE(nine.field("t", FileField::Of::nodes));
    CHECK(nine.field("t", FileField::Of::nodes)->values.back() == doctest::Approx(2));  // of a linear field
}

TEST_CASE("clockwise elements are turned and told; a plane may lie anywhere") {
    const Folder folder;
    const auto turned = read(folder, vtu(square, "0 3 2 1", "4", "9"));
    CHECK(turned.turned == 1);
    CHECK(turned.mesh.measure_of(0) == doctest::Approx(1));
    const auto six = read(folder, vtu("0 0 0 0 2 0 2 0 0 0 1 0 1 1 0 1 0 0", "0 1 2 3 4 5", "6", "22"));
    CHECK(six.turned == 1);
    const auto p = six.mesh.positions(0);
    CHECK(six.mesh.measure_of(0) == doctest::Approx(2));
    CHECK(is_straight(ElementKind::triangle6, p));
    CHECK(read(folder, vtu("0 0 7 1 0 7 1 1 7.0000000001 0 1 7", "0 1 2 3", "4", "9")).turned == 0);
    CHECK_THROWS_WITH_AS(read(folder, vtu("0 0 0 1 0 0 1 1 0.1 0 1 0", "0 1 2 3", "4", "9")),
                         doctest::Contains("only plane meshes"), InputError);
    CHECK_THROWS_AS(read(folder, vtu("0 0 0 1 0 nan 1 1 0 0 1 0", "0 1 2 3", "4", "9")), InputError);
}

TEST_CASE("big-endian numbers and LZ4 blocks") {
    const Folder folder;
    // Points as raw appended data.
    const std::array<double, 12> values{0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0};
    const auto bytes = [&](bool swapped) {
        std::string out;
        for (const double v : values) {
            std::string own(8, '\0');
            std::memcpy(own.data(), &v, 8);
            if (swapped) std::reverse(own.begin(), own.end());
            out += own;
        }
        return out;
    };
    const auto file = [](const std::string& order, const std::string& compressor, const std::string& appended) {
        return fmt::format(
                   "<VTKFile type=\"UnstructuredGrid\" byte_order=\"{}\" "
                   "header_type=\"UInt32\"{}><UnstructuredGrid><Piece NumberOfPoints=\"4\" "
                   "NumberOfCells=\"1\"><Points><DataArray type=\"Float64\" NumberOfComponents=\"3\" "
                   "format=\"appended\" "
                   "offset=\"0\"/></Points><Cells><DataArray type=\"Int64\" Name=\"connectivity\" format=\"ascii\">0 1 "
                   "2 3</DataArray><DataArray "
                   "type=\"Int64\" Name=\"offsets\" format=\"ascii\">4</DataArray><DataArray type=\"UInt8\" "
                   "Name=\"types\" "
                   "format=\"ascii\">9</DataArray></Cells></Piece></UnstructuredGrid><AppendedData encoding=\"raw\">_",
                   order, compressor) +
               appended + "</AppendedData></VTKFile>";
    };
    const auto header = [](const std::vector<std::uint32_t>& words, bool swapped) {
        std::string out;
        for (const auto w : words) {
            std::string own(4, '\0');
            std::memcpy(own.data(), &w, 4);
            if (swapped) std::reverse(own.begin(), own.end());
            out += own;
        }
        return out;
    };
    CHECK(read(folder, file("LittleEndian", "", header({96}, false) + bytes(false))).mesh.measure() == 1);
    CHECK(read(folder, file("BigEndian", "", header({96}, true) + bytes(true))).mesh.measure() == 1);
    std::string packed(200, '\0');
    const int size = LZ4_compress_default(bytes(false).data(), packed.data(), 96, 200);
    packed.resize(static_cast<std::size_t>(size));
    const std::string lz4 = " compressor=\"vtkLZ4DataCompressor\"";
    const std::string block = header({1, 96, 0, static_cast<std::uint32_t>(size)}, false) + packed;
    CHECK(read(folder, file("LittleEndian", lz4, block)).mesh.measure() == 1);
    std::string damaged = block;
    damaged[20] = static_cast<char>(damaged[20] ^ 0x7f);
    CHECK_THROWS_AS(read(folder, file("LittleEndian", lz4, damaged)), InputError);
}

TEST_CASE("pieces of a file are joined at their seams; cells that belong to another piece count once") {
    const Folder folder;
    const auto piece = [](const std::string& points, const std::string& nodes, const std::string& ends,
                          const std::string& types, const std::string& cells, const std::string& at_points) {
        const auto array = [](const char* type, const char* name, const std::string& numbers) {
            return fmt::format("<DataArray type=\"{}\" Name=\"{}\" format=\"ascii\">{}</DataArray>", type, name,
                               numbers);
        };
        return "<Piece><Points>" + array("Float64", "Points", points) + "</Points><Cells>" +
               array("Int64", "connectivity", nodes) + array("Int64", "offsets", ends) +
               array("UInt8", "types", types) + "</Cells><CellData>" + array("Float64", "heat", cells) +
               array("UInt8", "vtkGhostType",
                     cells == "7 8"  ? "0 1"
                     : cells.empty() ? ""
                                     : "0") +
               "</CellData><PointData>" + (at_points.empty() ? "" : array("Float64", "t", at_points)) +
               "</PointData></Piece>";
    };
    const auto file = [](const std::string& pieces) {
        return "<VTKFile type=\"UnstructuredGrid\"><UnstructuredGrid>" + pieces + "</UnstructuredGrid></VTKFile>";
    };
    const std::string left = piece("0 0 0 1 0 0 1 1 0 0 1 0", "0 1 2 3", "4", "9", "5", "0 1 1 0");
    const auto right = [&](const std::string& at_points) {
        // Its second cell is the left piece's own.
        return piece("1 0 0 2 0 0 2 1 0 1 1 0 0 0 0 0 1 0", "0 1 2 3 4 0 3 5", "4 8", "9 9", "7 8", at_points);
    };
    const auto both = read(folder, file(left + right("1 2 2 1 0 0")), true);
    CHECK(both.mesh.measure() == doctest::Approx(2));
    CHECK(both.mesh.element_count() == 2);
    CHECK(both.mesh.nodes.size() == 6);
    // The rim of both, without the seam; no line tells it.
    CHECK(both.mesh.boundary.size() == 6);
    CHECK(both.untold_sides == 6);
    REQUIRE(both.field("heat", FileField::Of::elements));
    CHECK(both.field("heat", FileField::Of::elements)->values == std::vector<double>{5, 7});
    REQUIRE(both.field("t", FileField::Of::nodes));
    const auto& t = both.field("t", FileField::Of::nodes)->values;
    REQUIRE(t.size() == 6);
    for (std::size_t n = 0; n < t.size(); ++n) CHECK(t[n] == both.mesh.nodes[n][0]);
    CHECK_THROWS_WITH_AS(read(folder, file(left + right("")), true), doctest::Contains("the same arrays (\"t\")"),
                         InputError);
    CHECK(read(folder, file(left + right(""))).mesh.element_count() == 2);  // nobody asks for it
    CHECK_THROWS_WITH_AS(read(folder, file("")), doctest::Contains("no Piece"), InputError);
    CHECK(read(folder, file(piece("", "", "", "", "", "") + left)).mesh.element_count() == 1);
}

TEST_CASE("sides of the outline and between regions are there without a line for them") {
    const Folder folder;
    const std::string three = "0 0 0 1 0 0 2 0 0 0 1 0 1 1 0 2 1 0", two = "0 1 4 3 1 2 5 4";
    const std::string region =
        "<CellData><DataArray type=\"Int8\" Name=\"region.core\" format=\"ascii\">{}</DataArray></CellData>";
    CHECK(read(folder, vtu(three, two, "4 8", "9 9")).untold_sides == 6);
    const auto apart = read(folder, vtu(three, two, "4 8", "9 9", fmt::format(fmt::runtime(region), "1 0")));
    CHECK(apart.untold_sides == 7);
    CHECK(apart.mesh.region_names == std::vector<std::string>{"core", "part"});
    // One line, named, and one twice.
    const auto told = read(folder, vtu(three, "0 1 4 3 1 2 5 4 1 0 1 4", "4 8 10 12", "9 9 3 3",
                                       fmt::format(fmt::runtime(region), "1 0 0 0")));
    CHECK(told.untold_sides == 5);
    CHECK(told.mesh.boundary.size() == 7);
    for (const auto& b : told.mesh.boundary) {
        const auto local = side_nodes(told.mesh.kinds[static_cast<std::size_t>(b.element)], b.side);
        const auto nodes = told.mesh.element(static_cast<std::size_t>(b.element));
        CHECK(nodes[local[0]] == b.nodes[0]);
        CHECK(nodes[local[1]] == b.nodes[1]);
    }
}

TEST_SUITE_END();
