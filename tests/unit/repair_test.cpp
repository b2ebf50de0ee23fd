#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <map>
#include <random>
#include <set>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "mesh/plane/remesh.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "series/meshing_notes.hpp"
#include "series/prepare.hpp"
#include "sizes/part_sizes.hpp"
#include "support/meshes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

StudyAndPart opened(const std::string& name, const std::string& text) {
    Problems problems(name);
    StudyAndPart o = open_study(name, text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return o;
}

StudyAndPart plate(const std::string& more) {
    return opened(
        "t.toml",
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = \"left\", "
        "right = \"right\" }\n" +
            rest_of_study() + more);
}

std::size_t poor_count(const Mesh& mesh) {
    return judge_quality(mesh, {}, {}, nullptr).poor;
}

/// Nodes of elements' corners that lie on no boundary.
std::vector<std::size_t> inner_corners(const Mesh& mesh) {
    std::set<std::size_t> outer, inner;
    for (const auto& b : mesh.boundary)
        for (std::size_t k = 0; k < b.count(); ++k) outer.insert(static_cast<std::size_t>(b.nodes[k]));
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (int k = 0; k < corner_count(mesh.kinds[e]); ++k) {
            const auto n = static_cast<std::size_t>(mesh.element(e)[static_cast<std::size_t>(k)]);
            if (!outer.count(n)) inner.insert(n);
        }
    return {inner.begin(), inner.end()};
}

/// Two circular holes that leave a wall of this width between them.
std::string two_holes(double wall, const std::string& more) {
    return "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = \"left\", right "
           "= "
           "\"right\" }\n[[part.shape]]\ncut = \"circle\"\nname = \"bore\"\ncentre = [12, 10]\nradius = "
           "5\n[[part.shape]]\ncut = \"circle\"\nname = \"port\"\ncentre = [" +
           std::to_string(22 + wall) + ", 10]\nradius = 5\n" + rest_of_study() + more;
}

}  // namespace

TEST_CASE("elements that a displaced node spoils are good again after repair, whatever their kind") {
    for (const std::string elements : {"triangles", "mostly_quadrilaterals"})
        for (const int order : {1, 2}) {
            CAPTURE(elements);
            CAPTURE(order);
            const auto o = plate("[size]\nglobal = 3\n[mesh]\nelements = \"" + elements +
                                 "\"\norder = " + std::to_string(order) + "\n");
            MeshingLog log;
            const MadeMesh made = make_mesh(o.study, o.part, sizing_of(o.part, o.study.sizes, "t.toml"), log);
            CHECK(made.repair.poor_before == 0);
            std::mt19937_64 random(11);
            const auto inner = inner_corners(made.mesh);
            for (int k = 0; k < 12; ++k) {
                Mesh mesh = made.mesh;
                const std::size_t n = inner[random() % inner.size()];
                // Onto a neighbour, nearly: the elements between them all but vanish.
                const NodeElements round = node_elements(mesh);
                const auto e = static_cast<std::size_t>(round.of(n)[0]);
                std::size_t i = 0;
                while (static_cast<std::size_t>(mesh.element(e)[i]) != n) ++i;
                const auto corners = static_cast<std::size_t>(corner_count(mesh.kinds[e]));
                const Vec2 other = mesh.nodes[static_cast<std::size_t>(mesh.element(e)[(i + 1) % corners])];
                mesh.nodes[n] = mesh.nodes[n] * 0.08 + other * 0.92;
                for (const auto f : round.of(n)) {
                    const auto g = static_cast<std::size_t>(f);
                    const auto c = static_cast<std::size_t>(corner_count(mesh.kinds[g]));
                    const auto nodes = mesh.element(g);
                    for (std::size_t s = 0; order == 2 && s < c; ++s)
                        mesh.nodes[static_cast<std::size_t>(nodes[c + s])] =
                            (mesh.nodes[static_cast<std::size_t>(nodes[s])] +
                             mesh.nodes[static_cast<std::size_t>(nodes[(s + 1) % c])]) *
                            0.5;
                }
                const std::size_t before = poor_count(mesh);
                REQUIRE(before > 0);
                const RepairReport r = repair(mesh, {}, {}, &o.part);
                CHECK(r.poor_before == before);
                CHECK(r.moved > 0);
                CHECK(r.poor_after == 0);
                CHECK(poor_count(mesh) == 0);
                CHECK(fault_of(o.part, mesh).empty());
                for (const auto& b : mesh.boundary)
                    CHECK(mesh.nodes[static_cast<std::size_t>(b.nodes[0])] ==
                          made.mesh.nodes[static_cast<std::size_t>(b.nodes[0])]);
            }
        }
}

TEST_CASE("a side between two needles is turned, and its boundary sides keep their elements") {
    for (const int order : {1, 2}) {
        // A flat diamond cut along its long diagonal, or as two triangles over the short one, which is better.
        const auto o =
            opened("t.toml",
                   "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[-5, 0], [0, -1], [5, 0], "
                   "[0, 1]]\nnames = { side1 = \"left\", side2 = \"right\" }\n" +
                       rest_of_study() + "[size]\nglobal = 5\n[mesh]\norder = " + std::to_string(order) + "\n");
        Mesh mesh;
        mesh.nodes = {{{-5, 0}}, {{0, -1}}, {{5, 0}}, {{0, 1}}};
        const auto add_middle = [&](int a, int b) {
            mesh.nodes.push_back((mesh.nodes[static_cast<std::size_t>(a)] + mesh.nodes[static_cast<std::size_t>(b)]) *
                                 0.5);
            return static_cast<int>(mesh.nodes.size() - 1);
        };
        mesh.kinds.assign(2, order == 1 ? ElementKind::triangle3 : ElementKind::triangle6);
        if (order == 1) {
            mesh.connectivity = {0, 1, 2, 0, 2, 3};
            mesh.first = {0, 3, 6};
            mesh.boundary = {
                {{0, 1, -1}, 0, 0, 0}, {{1, 2, -1}, 0, 1, 1}, {{2, 3, -1}, 1, 1, 2}, {{3, 0, -1}, 1, 2, 3}};
        } else {
            const int a = add_middle(0, 1), b = add_middle(1, 2), c = add_middle(2, 0), d = add_middle(2, 3),
                      e = add_middle(3, 0);
            mesh.connectivity = {0, 1, 2, a, b, c, 0, 2, 3, c, d, e};
            mesh.first = {0, 6, 12};
            mesh.boundary = {{{0, 1, a}, 0, 0, 0}, {{1, 2, b}, 0, 1, 1}, {{2, 3, d}, 1, 1, 2}, {{3, 0, e}, 1, 2, 3}};
        }
        mesh.region = {0, 0};
        mesh.row = {0, 0};
        mesh.boundary_names = o.part.boundary_names;
        mesh.region_names = o.part.regions;
        for (const auto& e : o.part.edges) mesh.names_of_edge.push_back(e.names);
        connect(mesh);
        REQUIRE(fault_of(o.part, mesh).empty());
        const std::vector<QualitySpec> limits;
        const RepairReport r = repair(mesh, {}, limits, &o.part);
        CHECK(r.swapped == 1);
        CHECK(fault_of(o.part, mesh).empty());
        for (std::size_t e = 0; e < 2; ++e) CHECK(measure_element(mesh, e, 0)[0] > 0.3);
        for (const auto& b : mesh.boundary) {
            const auto nodes = mesh.element(static_cast<std::size_t>(b.element));
            const auto side = static_cast<std::size_t>(b.side);
            CHECK(nodes[side] == b.nodes[0]);
            CHECK(nodes[(side + 1) % 3] == b.nodes[1]);
            if (order == 2) CHECK(nodes[3 + side] == b.nodes[2]);
        }
    }
}

TEST_CASE("what repair cannot help is listed with what in the part is the cause") {
    const auto o =
        opened("t.toml",
               "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [40, 0], [40, 3]]\nnames = "
               "{ side1 = \"left\", side2 = \"right\" }\n" +
                   rest_of_study() + "[size]\nglobal = 3\n");
    MeshingLog log;
    const MadeMesh made = make_mesh(o.study, o.part, sizing_of(o.part, o.study.sizes, "t.toml"), log);
    REQUIRE(made.repair.poor_after > 0);
    REQUIRE(made.repair.left.size() == made.repair.poor_after);
    CHECK(made.repair.left.front().cause == "sharp corner of the part");
}

TEST_CASE("a first mesh that fails is tried again as the study says, and the part that works is kept") {
    const auto prepared = [](const std::string& text) { return Prepared{opened("t.toml", text), {}, {}}; };
    Prepared none = prepared(two_holes(4, "[size]\nglobal = 4\n"));
    CHECK(first_mesh(none).mesh.element_count() > 50);
    CHECK(none.failed.empty());
    Prepared no_rule = prepared(two_holes(1e-4, "[size]\nglobal = 4\n"));
    CHECK_THROWS_AS(first_mesh(no_rule), MeshError);
    CHECK(no_rule.failed.empty());
    CHECK(no_rule.log.tries.size() > 3);

    Prepared one =
        prepared(two_holes(1e-4, "[size]\nglobal = 4\n[mesh.retry]\ntries = 4\nsizes = 0.8\nmerge_points = 10\n"));
    const MadeMesh made = first_mesh(one);
    REQUIRE(one.failed.size() >= 1);
    CHECK(one.failed[0].sizes == 1);
    CHECK(one.failed[0].place.position);
    CHECK(distance(one.failed[0].place.position->plane(), Vec2{{17, 10}}) < 1);
    for (std::size_t k = 1; k < one.failed.size(); ++k) CHECK(one.failed[k].sizes == doctest::Approx(std::pow(0.8, k)));
    const auto tries = static_cast<double>(one.failed.size());
    CHECK(one.opened.study.sizes.factor == doctest::Approx(std::pow(0.8, tries)));
    CHECK(fault_of(one.opened.part, made.mesh).empty());
    const auto notes = notes_on_retries(one.failed, one.opened.study, true);
    REQUIRE(notes.size() == one.failed.size() + 1);
    CHECK(has(notes.front(), "no mesh with the sizes as they are: "));
    CHECK(has(notes.back(), "meshed with every size times"));

    Prepared failing = prepared(two_holes(1e-5, "[size]\nglobal = 4\n[mesh.retry]\ntries = 2\nsizes = 0.9\n"));
    CHECK_THROWS_AS(first_mesh(failing), MeshError);
    CHECK(failing.failed.size() == 3);

    // What a change makes impossible is a failed try, too: here so small a size that the limit of elements is passed.
    Prepared greedy =
        prepared(two_holes(1e-5, "[size]\nglobal = 4\nmost_elements = 9000\n[mesh.retry]\ntries = 2\nsizes = 0.01\n"));
    CHECK_THROWS_AS(first_mesh(greedy), MeshError);
    REQUIRE(greedy.failed.size() == 3);
    CHECK(has(greedy.failed.back().reason, "more than the limit of 9000"));
}

TEST_CASE("faults of the rules for tries and zones") {
    const auto faults = [](const std::string& more) { return faults_of(two_holes(4, more)); };
    CHECK(has(faults("[mesh.retry]\ntries = 3\n"), "a try that changes nothing"));
    CHECK(has(faults("[mesh.retry]\nsizes = 0.5\n"), "tries"));
    CHECK(has(faults("[mesh.retry]\ntries = 99\nsizes = 0.5\n"), "more than 20 tries"));
    CHECK(has(faults("[mesh.retry]\ntries = 2\nsizes = -1\n"), "greater than zero"));
    CHECK(has(faults("[mesh.remesh.z]\nsize = 1\n"), "region names, or inside"));
    CHECK(has(faults("[mesh.remesh.z]\non = \"nowhere\"\nsize = 1\n"), "nowhere"));
    CHECK(has(faults("[mesh.remesh.z]\non = \"part\"\nsize = 0\n"), "greater than zero"));
}

TEST_CASE("a zone of a mesh is made anew and everything else stays node for node") {
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> unit(0, 1);
    int done = 0;
    for (const auto& entry : std::filesystem::directory_iterator(DOTSIFT_SOURCE "/tests/outlines")) {
        if (entry.path().extension() != ".toml") continue;
        const auto o = opened(entry.path().string(), read_file(entry.path()));
        for (const ElementShape shape : {ElementShape::triangles, ElementShape::mostly_quadrilaterals}) {
            MeshSpec spec;
            spec.shape = shape;
            spec.order = done % 2 + 1;
            CAPTURE(entry.path().filename().string());
            CAPTURE(static_cast<int>(shape));
            CAPTURE(spec.order);
            const Sizing sizing = sizing_of(o.part, o.study.sizes, entry.path()).scaled(1.5);
            const Mesh old = generate(o.part, sizing, 1'000'000, spec);
            const Vec2 centre = old.centre_of(random() % old.element_count());
            const double radius = (0.05 + 0.2 * unit(random)) * o.part.box.diagonal();
            std::vector<char> anew(old.element_count(), 0);
            for (std::size_t e = 0; e < old.element_count(); ++e)
                anew[e] = distance(old.centre_of(e), centre) < radius ? 1 : 0;
            RemeshCounts counts;
            const Mesh made =
                remesh(o.part, old, anew, sizing.field.scaled(unit(random) < 0.5 ? 0.6 : 1.5), spec, 1'000'000, counts);
            ++done;
            CHECK(fault_of(o.part, made) == "");
            CHECK(counts.kept_elements + counts.new_elements == made.element_count());
            CHECK(counts.kept_elements + counts.removed_elements == old.element_count());
            CHECK(counts.kept_nodes + counts.new_nodes == made.nodes.size());
            bool same = true;
            for (std::size_t e = 0; e < counts.kept_elements; ++e) {
                const auto was = static_cast<std::size_t>(counts.kept[e]);
                same = same && !anew[was] && made.kinds[e] == old.kinds[was] && made.region[e] == old.region[was];
                for (std::size_t k = 0; k < made.element(e).size(); ++k)
                    same = same && made.nodes[static_cast<std::size_t>(made.element(e)[k])] ==
                                       old.nodes[static_cast<std::size_t>(old.element(was)[k])];
            }
            CHECK(same);
            // Names: every boundary is as long as before, and every point where it was.
            std::map<int, double> before, after;
            for (const auto& [mesh, length] : {std::pair{&old, &before}, {&made, &after}})
                for (const auto& b : mesh->boundary)
                    (*length)[b.edge] += distance(mesh->nodes[static_cast<std::size_t>(b.nodes[0])],
                                                  mesh->nodes[static_cast<std::size_t>(b.nodes[1])]);
            for (const auto& [edge, length] : before) CHECK(after[edge] == doctest::Approx(length).epsilon(0.03));
            REQUIRE(made.points.size() == old.points.size());
        }
    }
    CHECK(done >= 40);
}

TEST_CASE("rows of layers stay, and sizes far too small for a zone are refused before meshing") {
    const auto o = plate("[size]\nglobal = 3\n[size.layers.wet]\non = \"left\"\nfirst = 0.3\nrows = 3\n");
    const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
    const Mesh old = generate(o.part, sizing, 100'000);
    RemeshCounts counts;
    const std::vector<char> all(old.element_count(), 1);
    const Mesh made = remesh(o.part, old, all, sizing.field.scaled(0.7), {}, 100'000, counts);
    CHECK(fault_of(o.part, made) == "");
    std::size_t rows = 0;
    for (const auto r : old.row) rows += r > 0;
    CHECK(rows > 0);
    CHECK(counts.kept_elements == rows);
    std::vector<char> only_rows(old.element_count(), 0);
    for (std::size_t e = 0; e < old.element_count(); ++e) only_rows[e] = old.row[e] > 0;
    CHECK_THROWS_AS(remesh(o.part, old, only_rows, sizing.field, {}, 100'000, counts), InputError);
    CHECK_THROWS_AS(remesh(o.part, old, all, sizing.field.scaled(1e-6), {}, 100'000, counts), InputError);
}

TEST_CASE("a mesh of another part is no mesh to make a zone anew in") {
    const auto o = plate("[size]\nglobal = 3\n");
    const auto other = opened("t.toml", two_holes(4, "[size]\nglobal = 3\n"));
    const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
    const Mesh mesh = generate(other.part, sizing, 100'000);
    RemeshCounts counts;
    std::vector<char> anew(mesh.element_count(), 0);
    CHECK_THROWS_AS(remesh(o.part, mesh, anew, sizing.field, {}, 100'000, counts), InputError);
    anew[0] = 1;
    CHECK_THROWS_AS(remesh(o.part, mesh, anew, sizing.field, {}, 100'000, counts), InputError);
}
