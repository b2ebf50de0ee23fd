// Meshes of other programs laid on the part.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <fstream>
#include <map>

#include "base/errors.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "mesh/placed_mesh.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/plane/remesh.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "support/folder.hpp"
#include "support/meshes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A plate with a round core, and a line across the plate that no outline tells.
StudyAndPart plate_with_core(const std::string& plate = "plate") {
    Problems problems("t.toml");
    std::string text = R"(format = 1
[part]
[[part.shape]]
add = "rectangle"
size = [8, 4]
region = "plate"
name = "rim"
[[part.shape]]
add = "circle"
centre = [3, 2]
radius = 1.2
region = "core"
[[part.shape]]
mark = "line"
name = "gauge"
from = [5, 1]
to = [7, 3]
[material.m]
youngs_modulus = 1
poissons_ratio = 0.3
[support.s]
on = "rim"
hold = "fixed"
[load.l]
on = "rim"
pressure = 1
[quantity.q]
of = "ux"
[size]
global = 0.7
)";
    text.replace(text.find("\"plate\""), 7, "\"" + plate + "\"");
    StudyAndPart o = open_study("t.toml", text, problems);
    INFO(problems.text());
    REQUIRE(problems.count() == 0);
    return o;
}

/// A bar of two materials' regions round the axis with layers at its side, squeezed in one load case, pulled in the
/// other; both strain it evenly.
StudyAndPart bar_with_layers() {
    Problems problems("t.toml");
    StudyAndPart o = open_study("t.toml", R"(format = 1
[part]
plane = "axisymmetric"
[[part.shape]]
add = "rectangle"
size = [2, 4]
region = "bar"
names = { bottom = "foot", right = "side", top = "end" }
[[part.shape]]
add = "rectangle"
corner = [0, 1]
size = [1, 2]
region = "core"
[material.m]
youngs_modulus = 10
poissons_ratio = 0.25
[support.s]
on = "foot"
hold = "symmetry"
[load.squeeze]
on = "side"
pressure = 1
[load.pull]
on = "end"
pressure = -1
[case.squeezed]
factors = { squeeze = 1 }
[case.pulled]
factors = { pull = 1 }
[quantity.q]
of = "uy"
[size]
global = 0.4
[size.layers.skin]
on = "side"
first = 0.05
rows = 3
)",
                                problems);
    INFO(problems.text());
    REQUIRE(problems.count() == 0);
    return o;
}

/// The nodes and elements of a mesh and nothing else, through a file.
Mesh bare(const Mesh& mesh) {
    const Folder folder;
    std::string points, nodes, ends, types;
    for (const Vec2& p : mesh.nodes) points += fmt::format("{} {} 0 ", p[0], p[1]);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        for (const auto n : mesh.element(e)) nodes += fmt::format("{} ", n);
        ends += fmt::format("{} ", mesh.first[e + 1]);
        const std::map<ElementKind, int> numbers{{ElementKind::triangle3, 5},
                                                 {ElementKind::triangle6, 22},
                                                 {ElementKind::quadrilateral4, 9},
                                                 {ElementKind::quadrilateral9, 28}};
        types += fmt::format("{} ", numbers.at(mesh.kinds[e]));
    }
    const auto array = [](const char* type, const char* name, const std::string& numbers) {
        return fmt::format("<DataArray type=\"{}\" Name=\"{}\" format=\"ascii\">{}</DataArray>", type, name, numbers);
    };
    std::ofstream(folder.path / "bare.vtu")
        << "<VTKFile type=\"UnstructuredGrid\"><UnstructuredGrid><Piece><Points>" << array("Float64", "Points", points)
        << "</Points><Cells>" << array("Int64", "connectivity", nodes) << array("Int64", "offsets", ends)
        << array("UInt8", "types", types) << "</Cells></Piece></UnstructuredGrid></VTKFile>";
    return read_vtu(folder.path / "bare.vtu").mesh;
}

std::map<std::string, double> length_of_names(const Mesh& m) {
    std::map<std::string, double> out;
    for (const auto& b : m.boundary)
        for (const int n : m.names_of_edge[static_cast<std::size_t>(b.edge)])
            out[m.boundary_names[static_cast<std::size_t>(n)]] +=
                distance(m.nodes[static_cast<std::size_t>(b.nodes[0])], m.nodes[static_cast<std::size_t>(b.nodes[1])]);
    return out;
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("a file that tells no lines and no regions is laid on the part by place, and made anew the same") {
    const StudyAndPart o = plate_with_core();
    for (const ElementShape shape : {ElementShape::triangles, ElementShape::mostly_quadrilaterals})
        for (const int order : {1, 2}) {
            CAPTURE(static_cast<int>(shape));
            CAPTURE(order);
            MeshSpec spec;
            spec.shape = shape;
            spec.order = order;
            const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
            const Mesh old = generate(o.part, sizing, 100'000, spec);
            Mesh stripped = bare(old);
            take_regions(o.part, stripped);
            CHECK(stripped.region == old.region);
            std::vector<char> anew(old.element_count(), 0);
            for (std::size_t e = 0; e < old.element_count(); ++e)
                anew[e] = distance(old.centre_of(e), {{4.5, 2}}) < 1.6 ? 1 : 0;
            RemeshCounts counts;
            const Mesh wanted = remesh(o.part, old, anew, sizing.field.scaled(0.6), spec, 100'000, counts),
                       made = remesh(o.part, stripped, anew, sizing.field.scaled(0.6), spec, 100'000, counts);
            CHECK(fault_of(o.part, made) == "");
            CHECK(made.connectivity == wanted.connectivity);
            CHECK(made.region == wanted.region);
            CHECK(made.nodes == wanted.nodes);
            const auto here = length_of_names(made), there = length_of_names(wanted);
            CHECK(here.count("gauge") == 1);
            REQUIRE(here.size() == there.size());
            for (const auto& [name, length] : there) CHECK(here.at(name) == doctest::Approx(length).epsilon(1e-9));
        }
}

TEST_CASE("a region of the part that is called as a file's unnamed one is found by place like any other") {
    const StudyAndPart o = plate_with_core("part");
    const Mesh old = generate(o.part, sizing_of(o.part, o.study.sizes, "t.toml"), 100'000);
    Mesh stripped = bare(old);
    REQUIRE(stripped.region_names == std::vector<std::string>{"part"});
    take_regions(o.part, stripped);
    CHECK(stripped.region == old.region);
    CHECK(place_on_part(o.part, stripped).face == place_on_part(o.part, old).face);
}

TEST_CASE("a body of revolution with layers, from a file without lines, is made anew and solved in both load cases") {
    const StudyAndPart o = bar_with_layers();
    for (const ElementShape shape : {ElementShape::triangles, ElementShape::mostly_quadrilaterals})
        for (const int order : {1, 2})
            for (const Vec2 at : {Vec2{{0, 2}}, Vec2{{1.8, 2}}, Vec2{{1, 1}}}) {
                CAPTURE(static_cast<int>(shape));
                CAPTURE(order);
                CAPTURE(at[0]);
                MeshSpec spec;
                spec.shape = shape;
                spec.order = order;
                const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
                const Mesh old = generate(o.part, sizing, 100'000, spec);
                Mesh stripped = bare(old);
                take_regions(o.part, stripped);
                std::vector<char> anew(old.element_count(), 0);
                for (std::size_t e = 0; e < old.element_count(); ++e)
                    anew[e] = distance(old.centre_of(e), at) < 0.7 ? 1 : 0;
                RemeshCounts counts;
                Mesh made = remesh(o.part, stripped, anew, sizing.field.scaled(0.5), spec, 100'000, counts);
                CHECK(fault_of(o.part, made) == "");
                CHECK(made.element_count() > old.element_count());
                ready_for_solving(o.study, o.part, made);
                const auto cases = solve_cases(made, o.study);
                REQUIRE(cases.size() == 2);
                double squeezed = 0, pulled = 0;
                for (std::size_t n = 0; n < made.nodes.size(); ++n) {
                    const Vec2 p = made.nodes[n];
                    const Vec2 squeeze{{-0.75 * p[0] / 10, 0.5 * p[1] / 10}}, pull{{-0.25 * p[0] / 10, p[1] / 10}};
                    squeezed = std::max(squeezed, distance(cases[0].displacement[n], squeeze));
                    pulled = std::max(pulled, distance(cases[1].displacement[n], pull));
                }
                CHECK(squeezed < 1e-12);
                CHECK(pulled < 1e-12);
            }
}

TEST_CASE("a mesh that sticks out of the part, or ends within it, has no place on it") {
    const StudyAndPart o = plate_with_core();
    const Mesh old = generate(o.part, sizing_of(o.part, o.study.sizes, "t.toml"), 100'000);
    Mesh moved = bare(old);
    for (Vec2& p : moved.nodes) p += Vec2{{5, 0}};
    CHECK_THROWS_WITH_AS(take_regions(o.part, moved), doctest::Contains("do not agree"), InputError);
    Mesh less = bare(old);
    for (Vec2& p : less.nodes) p = p * 0.5 + Vec2{{2, 1}};
    take_regions(o.part, less);
    CHECK_THROWS_WITH_AS((void)place_on_part(o.part, less), doctest::Contains("lies on no edge"), InputError);
    // Named regions are taken at their word.
    Mesh named = old;
    named.region_names = {"plate", "kernel"};
    CHECK_THROWS_WITH_AS((void)place_on_part(o.part, named), doctest::Contains("\"kernel\""), InputError);
}

TEST_CASE("a zone made finer has no fewer elements than before, however small it is") {
    const StudyAndPart o = plate_with_core();
    for (const ElementShape shape : {ElementShape::triangles, ElementShape::mostly_quadrilaterals})
        for (const int order : {1, 2}) {
            MeshSpec spec;
            spec.shape = shape;
            spec.order = order;
            const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
            Study study = o.study;
            study.mesh = spec;
            MeshingLog log;
            const MadeMesh first = make_mesh(study, o.part, sizing, log);
            const Mesh& old = first.mesh;
            for (const Vec2 centre : {Vec2{{0.3, 0.3}}, Vec2{{3, 2}}, Vec2{{4.2, 2}}, Vec2{{6, 2}}, Vec2{{7, 3.5}}})
                for (const double radius : {0.0, 0.6, 1.0, 2.0})
                    for (const double factor : {0.95, 0.8, 0.6, 0.4}) {
                        CAPTURE(static_cast<int>(shape));
                        CAPTURE(order);
                        CAPTURE(centre[0]);
                        CAPTURE(radius);
                        CAPTURE(factor);
                        std::vector<char> anew(old.element_count(), 0);
                        std::size_t nearest = 0;
                        for (std::size_t e = 0; e < old.element_count(); ++e) {
                            const double d = distance(old.centre_of(e), centre);
                            anew[e] = d < radius ? 1 : 0;
                            if (d < distance(old.centre_of(nearest), centre)) nearest = e;
                        }
                        anew[nearest] = 1;
                        RemeshCounts counts;
                        const MadeMesh made =
                            remake_mesh(study, o.part, old, first.wanted, anew, sizing.field.scaled(factor), counts);
                        CHECK(fault_of(o.part, made.mesh) == "");
                        // An element in ten is scatter.
                        CHECK(1.1 * static_cast<double>(counts.new_elements) + 1 >=
                              static_cast<double>(counts.removed_elements));
                    }
        }
}

TEST_SUITE_END();
