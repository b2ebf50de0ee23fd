#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <span>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "mesh/elements/shape.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "support/meshes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Meshed {
    StudyAndPart opened;
    Sizing sizing;
    Mesh mesh;
    MeshingLog log;
};

Meshed meshed(const std::string& text, const std::string& path = "t.toml") {
    Problems problems(path);
    Meshed m{open_study(path, text, problems), {SizeField(1, 1, 1, {})}, {}, {}};
    INFO(problems.text());
    REQUIRE(problems.empty());
    m.sizing = sizing_of(m.opened.part, m.opened.study.sizes, path);
    m.mesh = generate(m.opened.part, m.sizing, 1'000'000, m.opened.study.mesh, &m.log);
    CHECK(fault_of(m.opened.part, m.mesh).empty());
    return m;
}

Meshed with_shapes(const std::string& shapes, const std::string& more) {
    return meshed("format = 1\n[part]\n" + shapes + rest_of_study() + more);
}

const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = \"left\", right = \"right\", top = "
    "\"top\", bottom = "
    "\"bottom\" }\n";

/// Distances of the tops of row k from the straight line y = 0, for nodes above a range of x.
double largest_gap(const Mesh& mesh, int row, double wanted, double from, double to) {
    double worst = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (mesh.row[e] != row) continue;
        double top = 0, bottom = INFINITY;
        const auto centre = mesh.centre_of(e);
        if (centre[0] < from || centre[0] > to || centre[1] > 5) continue;
        for (int c = 0; c < corner_count(mesh.kinds[e]); ++c) {
            const double y = mesh.nodes[static_cast<std::size_t>(mesh.element(e)[static_cast<std::size_t>(c)])][1];
            top = std::max(top, y);
            bottom = std::min(bottom, y);
        }
        worst = std::max(worst, std::fabs(top - bottom - wanted) / wanted);
    }
    return worst;
}

std::size_t rows_of(const Mesh& mesh) {
    return static_cast<std::size_t>(*std::max_element(mesh.row.begin(), mesh.row.end()));
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("the set of outlines meets its figures with every kind of element") {
    int count = 0;
    for (const auto& entry : std::filesystem::directory_iterator(DOTSIFT_SOURCE "/tests/outlines")) {
        Problems problems(entry.path().string());
        const auto opened = open_study(entry.path(), read_file(entry.path()), problems);
        REQUIRE(problems.count() == 0);
        const Sizing sizing = sizing_of(opened.part, opened.study.sizes, entry.path());
        for (int shape = 0; shape < 3; ++shape) {
            MeshSpec elements;
            elements.shape = static_cast<ElementShape>(shape);
            const Mesh mesh = generate(opened.part, sizing, 1'000'000, elements);
            CAPTURE(entry.path().filename().string());
            CAPTURE(shape);
            CHECK(fault_of(opened.part, mesh) == "");
            CHECK(good_enough(figures_of(opened.part, mesh, sizing.field), shape));
        }
        ++count;
    }
    CHECK(count >= 20);
}

TEST_CASE("linear and quadratic elements of each kind have the nodes they should") {
    for (const std::string elements : {"triangles", "mostly_quadrilaterals", "quadrilaterals", "grid"})
        for (const int order : {1, 2}) {
            const auto m = with_shapes(plate, "[size]\nglobal = 4\n[mesh]\nelements = \"" + elements +
                                                  "\"\norder = " + std::to_string(order) + "\n");
            for (std::size_t e = 0; e < m.mesh.element_count(); ++e) {
                CHECK(polynomial_degree(m.mesh.kinds[e]) == order);
                CHECK(m.mesh.element(e).size() == static_cast<std::size_t>(node_count(m.mesh.kinds[e])));
                if (elements == "triangles") CHECK(corner_count(m.mesh.kinds[e]) == 3);
                if (elements == "quadrilaterals" || elements == "grid") CHECK(corner_count(m.mesh.kinds[e]) == 4);
            }
            for (const auto& b : m.mesh.boundary) CHECK(b.count() == (order == 1 ? 2U : 3U));
        }
}

TEST_CASE("a grid has as many elements on opposite sides, and goes on through its neighbours") {
    const std::string blocks =
        "[[part.shape]]\nadd = \"rectangle\"\nregion = \"a\"\nsize = [10, 10]\nnames = { left = \"left\" "
        "}\n[[part.shape]]\nadd = "
        "\"rectangle\"\nregion = \"b\"\ncorner = [10, 0]\nsize = [20, 10]\nnames = { right = \"right\" }\n";
    const auto m = with_shapes(
        blocks, "[size]\nglobal = 2.5\n[size.local.r]\non = \"right\"\ndivisions = 7\n[mesh]\nelements = \"grid\"\n");
    std::size_t left = 0, right = 0;
    for (const auto& s : m.mesh.boundary) {
        left += Meant(m.mesh, {"left"}).side(s);
        right += Meant(m.mesh, {"right"}).side(s);
    }
    CHECK(left == 7);
    CHECK(right == 7);
    CHECK(m.mesh.element_count() == 7 * (4 + 8));
    for (std::size_t e = 0; e < m.mesh.element_count(); ++e) {
        const auto p = m.mesh.positions(e);
        CHECK(scaled_jacobian(std::span(p).first(4)) == doctest::Approx(1));
    }
    // A curved one, with its corners given, and a region beside it of another kind.
    const std::string sector =
        "[[part.shape]]\nadd = \"outline\"\nregion = \"rib\"\nstart = [10, 0]\npieces = [{ to = [20, 0], name = "
        "\"left\" }, { to = [0, 20], centre = [0, 0] "
        "}, { to = [0, 10], name = \"right\" }, { to = [10, 0], centre = [0, 0], clockwise = true "
        "}]\n[[part.shape]]\nadd = "
        "\"rectangle\"\nregion = \"web\"\ncorner = [-15, 10]\nsize = [15, 10]\n";
    const auto s = with_shapes(
        sector,
        "[size]\nglobal = 2\n[mesh.region.rib]\nelements = \"grid\"\ncorners = [[10, 0], [20, 0], [0, 20], [0, 10]]\n");
    std::size_t quads = 0, triangles = 0;
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e)
        (corner_count(s.mesh.kinds[e]) == 4 ? quads : triangles) += 1;
    CHECK(quads > 0);
    CHECK(triangles > 0);
    const auto fault = [&](const std::string& more) {
        try {
            (void)with_shapes(plate + "[[part.shape]]\ncut = \"circle\"\ncentre = [20, 10]\nradius = 3\n", more);
        } catch (const Error& e) {
            return std::string(e.what());
        }
        return std::string("none");
    };
    CHECK(has(fault("[mesh]\nelements = \"grid\"\n"), "a grid needs a piece with four sides"));
    CHECK(has(fault("[size.local.l]\non = \"left\"\ndivisions = 5\n[mesh]\nelements = \"quadrilaterals\"\n"),
              "needs an even number"));
}

TEST_CASE("opposite sides of a grid with different given divisions contradict each other") {
    CHECK_THROWS_AS((void)with_shapes(plate,
                                      "[size.local.l]\non = \"left\"\ndivisions = 5\n[size.local.r]\non = "
                                      "\"right\"\ndivisions = 6\n[mesh]\nelements = \"grid\"\n"),
                    InputError);
}

TEST_CASE("patch test: constant stress in every kind of element, mixed in one mesh") {
    const std::string regions =
        "[[part.shape]]\nadd = \"rectangle\"\nregion = \"a\"\nsize = [3, 2]\nname = \"rim\"\n[[part.shape]]\nadd = "
        "\"rectangle\"\nregion = \"b\"\ncorner = [3, 0]\nsize = [3, 2]\nname = \"rim\"\n[[part.shape]]\nadd = "
        "\"rectangle\"\nregion = \"c\"\ncorner = [6, "
        "0]\nsize = [3, 2]\nname = \"rim\"\n[[part.shape]]\nadd = \"rectangle\"\nregion = \"d\"\ncorner = [9, 0]\nsize "
        "= [3, 2]\nname = \"rim\"\n";
    for (const int order : {1, 2}) {
        const auto m = meshed("format = 1\n[part]\n" + regions +
                              "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.all]\non = "
                              "\"rim\"\nux = \"0.01 * x - 0.003 * y\"\nuy = "
                              "\"0.002 * x + 0.005 * y\"\n[size]\nglobal = "
                              "0.6\n[mesh]\norder = " +
                              std::to_string(order) +
                              "\n[mesh.region.b]\nelements = \"mostly_quadrilaterals\"\n[mesh.region.c]\nelements = "
                              "\"quadrilaterals\"\n[mesh.region.d]\nelements "
                              "= \"grid\"\n");
        const Solution s = solve_study(m.mesh, m.opened.study);
        const ElasticLaw law = elastic_law(m.opened.study.materials[0], m.opened.study.plane);
        const Stress exact = law.stress({0.01, 0.005, -0.001});
        double worst = 0;
        for (std::size_t e = 0; e < m.mesh.element_count(); ++e)
            for (const auto& q : quadrature(m.mesh.kinds[e], 4)) {
                const ElementPoint p = evaluate(m.mesh.kinds[e], m.mesh.positions(e), q.xi);
                const Stress stress = law.stress(strain_at(m.mesh, m.opened.study.plane, s.displacement, {}, e, p));
                for (std::size_t c = 0; c < 3; ++c) worst = std::max(worst, std::fabs(stress[c] - exact[c]) / 10);
            }
        CHECK(worst < 1e-10);
    }
}

TEST_CASE("layers have the heights that were asked, end on the boundaries beside them, and merge in corners") {
    const std::string rule =
        "[size]\nglobal = 2\n[size.layers.a]\non = \"bottom\"\nfirst = 0.1\nrows = 4\ngrowth = 1.5\n";
    for (const std::string elements : {"triangles", "mostly_quadrilaterals", "quadrilaterals"}) {
        const auto m = with_shapes(plate, rule + "[mesh]\nelements = \"" + elements + "\"\n");
        CHECK(m.log.thinned.empty());
        CHECK(rows_of(m.mesh) == 4);
        double height = 0.1;
        for (int row = 1; row <= 4; ++row, height *= 1.5) CHECK(largest_gap(m.mesh, row, height, 0, 40) < 1e-9);
        // The ends lie on the sides: their elements belong to the sides' names.
        std::size_t on_left = 0;
        for (const auto& b : m.mesh.boundary)
            on_left += Meant(m.mesh, {"left"}).side(b) && m.mesh.row[static_cast<std::size_t>(b.element)] > 0;
        CHECK(on_left == 4);
    }
    const auto corner = with_shapes(
        plate,
        "[size]\nglobal = 2\n[size.layers.a]\non = [\"bottom\", \"right\"]\nfirst = 0.1\nrows = 4\ngrowth = 1.5\n");
    CHECK(corner.log.thinned.empty());
    CHECK(largest_gap(corner.mesh, 1, 0.1, 0, 39) < 1e-9);
}

TEST_CASE(
    "layers go round a hole and round its corners, on either side of an interface, and step down where they stop") {
    const std::string hole = plate +
                             "[[part.shape]]\ncut = \"circle\"\ncentre = [12, 10]\nradius = 4\nname = "
                             "\"bore\"\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [26, "
                             "8]\nsize = [5, 5]\nname = \"block\"\n";
    const auto m = with_shapes(
        hole,
        "[size]\nglobal = 2\n[size.layers.a]\non = [\"bore\", \"block\"]\nfirst = 0.05\nrows = 5\ngrowth = 1.4\n");
    CHECK(m.log.thinned.empty());
    double worst = 0;
    std::size_t fan = 0, first_row = 0;
    for (std::size_t e = 0; e < m.mesh.element_count(); ++e) {
        if (m.mesh.row[e] != 1) continue;
        ++first_row;
        fan += corner_count(m.mesh.kinds[e]) == 3;
        if (distance(m.mesh.centre_of(e), {{12, 10}}) > 6) continue;
        const auto p = m.mesh.positions(e);
        for (std::size_t c = 2; c < 4; ++c)
            worst = std::max(worst, std::fabs(distance(p[c], {{12, 10}}) - 4.05) / 0.05);
    }
    CHECK(worst < 0.05);  // the first height, on a polygon of chords
    CHECK(fan == 4 * 2);  // two wedges at each corner of the block
    CHECK(first_row > 20);
    const std::string two =
        "[[part.shape]]\nadd = \"rectangle\"\nregion = \"a\"\nsize = [10, 10]\nnames = { left = \"left\" "
        "}\n[[part.shape]]\nadd = \"rectangle\"\nregion = "
        "\"b\"\ncorner = [10, 0]\nsize = [10, 10]\nnames = { right = \"right\" }\n";
    for (const std::string side : {"", "inside = \"b\"\n"}) {
        const auto i =
            with_shapes(two, "[size]\nglobal = 2\n[size.layers.a]\non = \"a_and_b\"\nfirst = 0.1\nrows = 3\n" + side);
        bool in_a = false, in_b = false;
        for (std::size_t e = 0; e < i.mesh.element_count(); ++e)
            if (i.mesh.row[e] > 0)
                (i.mesh.region_names[static_cast<std::size_t>(i.mesh.region[e])] == "a" ? in_a : in_b) = true;
        CHECK(in_b);
        CHECK(in_a == side.empty());
    }
    // The layers end in the middle of a straight line: a step.
    const std::string open_end =
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [10, 0], [20, 0], [20, 10], [0, 10]]\nnames = { side1 = "
        "\"wet\", side3 = \"right\", side5 = \"left\" }\n";
    const auto step =
        with_shapes(open_end, "[size]\nglobal = 2\n[size.layers.a]\non = \"wet\"\nfirst = 0.2\nrows = 3\n");
    CHECK(rows_of(step.mesh) == 3);
    CHECK(largest_gap(step.mesh, 1, 0.2, 0, 10) < 1e-9);
}

TEST_CASE("layers are thinned in narrow gaps, where it is reported, and never cross") {
    const std::string gap =
        plate + "[[part.shape]]\ncut = \"circle\"\ncentre = [20, 4.4]\nradius = 4\nname = \"bore\"\n";
    const auto m = with_shapes(
        gap, "[size]\nglobal = 2\n[size.layers.a]\non = [\"bore\", \"bottom\"]\nfirst = 0.1\nrows = 4\ngrowth = 1.5\n");
    REQUIRE(!m.log.thinned.empty());
    for (const auto& t : m.log.thinned) {
        CHECK(t.factor < 1);
        CHECK(t.factor > 0);
        CHECK(distance(t.position, {{20, 0.2}}) < 1.5);
    }
    CHECK(largest_gap(m.mesh, 1, 0.1, 0, 10) < 1e-9);  // away from the gap they are as asked
    const std::string different =
        "[size]\nglobal = 2\n[size.layers.a]\non = \"bottom\"\nfirst = 0.1\nrows = 4\n[size.layers.b]\non = "
        "\"left\"\nfirst = 0.1\nrows = 3\n";
    CHECK_THROWS_AS((void)with_shapes(plate, different), InputError);
}

TEST_CASE("uniform refinement keeps layers and divisions in step") {
    const auto m = with_shapes(plate,
                               "[size]\nglobal = 3\n[size.layers.a]\non = \"bottom\"\nfirst = 0.2\nrows = "
                               "3\n[size.local.r]\non = \"top\"\ndivisions = 9\n");
    const Mesh fine = generate(m.opened.part, m.sizing.scaled(0.5), 1'000'000, m.opened.study.mesh);
    CHECK(rows_of(fine) == 6);
    std::size_t top = 0;
    for (const auto& b : fine.boundary) top += Meant(fine, {"top"}).side(b);
    CHECK(top == 18);
    CHECK(fault_of(m.opened.part, fine) == "");
}

TEST_CASE("the same input gives the same mesh, for every kind") {
    for (const std::string elements : {"mostly_quadrilaterals", "quadrilaterals"}) {
        const std::string more =
            "[size]\nglobal = 2\n[size.layers.a]\non = \"bottom\"\nfirst = 0.1\nrows = 4\n[mesh]\nelements = \"" +
            elements + "\"\n";
        const auto a = with_shapes(plate, more), b = with_shapes(plate, more);
        CHECK(a.mesh.nodes == b.mesh.nodes);
        CHECK(a.mesh.connectivity == b.mesh.connectivity);
    }
}

TEST_CASE("a mesh from a try that failed tells what was tried") {
    const std::string slit = plate + "[[part.shape]]\ncut = \"rectangle\"\ncorner = [5, 0.05]\nsize = [30, 4]\n";
    const auto m = with_shapes(slit, "[size]\nglobal = 4\n");
    REQUIRE(!m.log.tries.empty());
    CHECK(has(m.log.tries.front().reason, "narrower"));
    CHECK(m.log.tries.front().places > 0);
    CHECK(m.log.tries.front().size > 0);
}

TEST_CASE("first rows of layers have the height that was asked for, but where they are reported as thinned") {
    for (const auto& entry : std::filesystem::directory_iterator(DOTSIFT_SOURCE "/tests/outlines")) {
        if (entry.path().extension() != ".toml") continue;
        CAPTURE(entry.path().filename().string());
        Problems problems(entry.path().string());
        const StudyAndPart opened = open_study(entry.path(), read_file(entry.path()), problems);
        REQUIRE(problems.empty());
        Sizing sizing = sizing_of(opened.part, opened.study.sizes, entry.path());
        sizing.layers = layers_everywhere(opened.part, sizing.field);
        MeshingLog log;
        const Mesh mesh = generate(opened.part, sizing, 1'000'000, {}, &log);
        CHECK(fault_of(opened.part, mesh) == "");
        const LayerFigures f = layer_figures_of(mesh, sizing.layers, log.thinned);
        CHECK(f.nodes > 20);
        CHECK(f.within >= least_layer_share);
    }
}

TEST_CASE("every example in docs/meshing.md is meshed") {
    const std::string docs = read_file(DOTSIFT_SOURCE "/docs/meshing.md");
    const std::string rest =
        "[material.m]\nyoungs_modulus = 70\npoissons_ratio = 0.3\n[support.s]\non = \"hold\"\nhold = "
        "\"fixed\"\n[load.l]\non = "
        "\"pull\"\ntraction = [1, 0]\n";
    std::string base;
    int count = 0;
    for (std::size_t at = docs.find("```toml"); at != std::string::npos; at = docs.find("```toml", at)) {
        at = docs.find('\n', at) + 1;
        const std::size_t end = docs.find("```", at);
        const std::string body = docs.substr(at, end - at);
        at = end + 3;
        if (base.empty()) {
            base = body;
            continue;
        }
        CAPTURE(body);
        const bool own = has(body, "add = ");  // a part of its own
        const auto m =
            meshed("format = 1\n[part]\n" + (own ? "" : base) + body + rest, DOTSIFT_SOURCE "/docs/meshing/t.toml");
        CHECK(m.mesh.element_count() > 50);
        ++count;
    }
    CHECK(count >= 16);
}

TEST_CASE("quadrilaterals alone follow sizes that grow fast from a very small one") {
    // Growth 2 and 3 from 1e-4 of the part: element after element may double, which their large ones cannot.
    for (const std::string growth : {"1.5", "2", "3"}) {
        CAPTURE(growth);
        const auto m = with_shapes(
            "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [-1.2, 0.32], [-1.2, 1.2], [1.2, 1.2], [1.2, -1.2], "
            "[-1.2, -1.2], [-1.2, -0.32]]\nnames = { side2 = \"left\", side4 = \"right\" }\n",
            "[size]\nglobal = 0.5\ngrowth = " + growth +
                "\n[size.local.tip]\ninside = { shape = \"circle\", centre = [0, 0], radius = 1e-6 }\nsize = "
                "3e-4\n[mesh]\nelements = \"quadrilaterals\"\n");
        CHECK(m.mesh.element_count() > 100);
        CHECK(m.mesh.element_count() < 1000);
    }
}

TEST_CASE("a line that grazes a closed curve is meshed") {
    const std::string cap =
        "[[part.shape]]\nadd = \"ellipse\"\ncentre = [0, 0]\nradii = [34.167, 13.348]\nname = "
        "\"left\"\n[[part.shape]]\nmark = \"line\"\nname = "
        "\"right\"\nfrom = [0.188, 14.311]\nto = [4.056, 12.689]\n";
    (void)with_shapes(cap, "[size]\nglobal = 5.1\ngrowth = 1.8\n[mesh]\nelements = \"mostly_quadrilaterals\"\n");
}

TEST_SUITE_END();
