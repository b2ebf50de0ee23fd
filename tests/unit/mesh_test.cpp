#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

#include "base/errors.hpp"
#include "base/predicates.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/order.hpp"
#include "mesh/plane/division.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/plane/triangulation.hpp"
#include "sizes/part_sizes.hpp"
#include "support/meshes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

/// Neighbours know each other, triangles turn left, and no unconstrained edge breaks the Delaunay rule.
void check_structure(const Triangulation& t) {
    for (int i = 0; i < static_cast<int>(t.triangles().size()); ++i) {
        const auto& tri = t.triangle(i);
        REQUIRE(orientation(t.point(tri.v[0]), t.point(tri.v[1]), t.point(tri.v[2])) > 0);
        for (std::size_t k = 0; k < 3; ++k) {
            if (tri.n[k] < 0) continue;
            const auto& other = t.triangle(tri.n[k]);
            const auto back = static_cast<std::size_t>(std::find(other.n.begin(), other.n.end(), i) - other.n.begin());
            REQUIRE(back < 3);
            REQUIRE(other.segment[back] == tri.segment[k]);
            const int apex = other.v[back];
            REQUIRE(apex != tri.v[0]);
            if (tri.segment[k] < 0)
                REQUIRE(in_circle(t.point(tri.v[0]), t.point(tri.v[1]), t.point(tri.v[2]), t.point(apex)) <= 0);
        }
    }
    for (int v = 0; v < static_cast<int>(t.points().size()); ++v) {
        const auto& tri = t.triangle(t.triangle_of(v));
        REQUIRE(std::find(tri.v.begin(), tri.v.end(), v) != tri.v.end());
    }
}

/// What every mesh must be, whatever the part.
void check_mesh(const Part& part, const Mesh& mesh) {
    REQUIRE(mesh.element_count() > 0);
    std::map<std::pair<int, int>, int> sides;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        CHECK(jacobian_bound(mesh.kinds[e], mesh.positions(e)) > 0);
        const auto n = mesh.element(e);
        for (std::size_t s = 0; s < 3; ++s) ++sides[std::minmax(n[s], n[(s + 1) % 3])];
    }
    std::size_t outer = 0;
    for (const auto& [side, count] : sides) {
        CHECK(count <= 2);
        outer += count == 1;
    }
    CHECK(outer == mesh.boundary.size());
    const double size = part.box.diagonal();
    for (const auto& b : mesh.boundary) {
        const Curve& c = part.edges[static_cast<std::size_t>(b.edge)].curve;
        for (const int n : b.nodes) {  // on the true curve
            double least = INFINITY;
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(n)];
            int nearest = 0;
            constexpr int steps = 400;
            for (int k = 0; k <= steps; ++k) {
                const double d = distance(c.point(static_cast<double>(k) / steps), p);
                if (d < least) {
                    least = d;
                    nearest = k;
                }
            }
            double low = std::max(0.0, (nearest - 1.0) / steps), high = std::min(1.0, (nearest + 1.0) / steps);
            for (int k = 0; k < 80; ++k) {
                const double a = low + (high - low) / 3, z = high - (high - low) / 3;
                (distance(c.point(a), p) < distance(c.point(z), p) ? high : low) =
                    distance(c.point(a), p) < distance(c.point(z), p) ? z : a;
            }
            CHECK(distance(c.point(0.5 * (low + high)), p) < 1e-7 * size);
        }
    }
    std::set<int> edges;
    for (const auto& b : mesh.boundary) edges.insert(b.edge);
    CHECK(edges.size() == part.edges.size());  // no edge, and so no name, is lost
}

Mesh mesh_of(const Part& part, double size, std::int64_t most = 1'000'000) {
    SizeSpec spec;
    spec.global = size;
    return generate(part, sizing_of(part, spec, {}), most);
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("shape functions are one at their node and sum to one; quadrature is exact to its degree") {
    const std::array<Vec2, 6> corner{{{{0, 0}}, {{1, 0}}, {{0, 1}}, {{0.5, 0}}, {{0.5, 0.5}}, {{0, 0.5}}}};
    for (std::size_t i = 0; i < 6; ++i) {
        std::array<double, 6> n{};
        shape_values(ElementKind::triangle6, corner[i], n);
        for (std::size_t j = 0; j < 6; ++j) CHECK(n[j] == doctest::Approx(i == j ? 1 : 0));
    }
    const auto factorial = [](int n) { return std::tgamma(n + 1.0); };
    for (const int degree : {2, 4, 6}) {
        for (int a = 0; a <= degree; ++a) {
            for (int b = 0; a + b <= degree; ++b) {
                double sum = 0;
                for (const auto& q : triangle_rule(degree))
                    sum += q.weight * std::pow(q.xi[0], a) * std::pow(q.xi[1], b);
                CHECK(sum == doctest::Approx(factorial(a) * factorial(b) / factorial(a + b + 2)).epsilon(1e-12));
            }
        }
    }
    for (int a = 0; a <= 9; ++a) {
        double sum = 0;
        for (const auto& q : line_rule()) sum += q.weight * std::pow(q.t, a);
        CHECK(sum == doctest::Approx(1.0 / (a + 1)).epsilon(1e-13));
    }
}

TEST_CASE("derivatives, reference coordinates and Jacobian bound of a curved element") {
    const std::array<Vec2, 6> p{{{{0, 0}}, {{2, 0.1}}, {{0.3, 1.5}}, {{1, -0.2}}, {{1.3, 0.9}}, {{0.1, 0.75}}}};
    const Vec2 xi{{0.3, 0.4}};
    const ElementPoint at = evaluate(ElementKind::triangle6, p, xi);
    Vec2 dx, dy;  // derivatives of the position itself
    for (std::size_t i = 0; i < 6; ++i) {
        dx += p[i] * at.dn[i][0];
        dy += p[i] * at.dn[i][1];
    }
    CHECK(dx[0] == doctest::Approx(1));
    CHECK(dx[1] == doctest::Approx(0));
    CHECK(dy[1] == doctest::Approx(1));
    bool good = false;
    CHECK(distance(reference_point(ElementKind::triangle6, p, at.position, good), xi) < 1e-12);
    CHECK(good);
    double least = INFINITY, sum = 0, weights = 0;
    for (const auto& q : triangle_rule(6)) {
        sum += q.weight * evaluate(ElementKind::triangle6, p, q.xi).jacobian;
        weights += q.weight;
    }
    for (int i = 0; i <= 20; ++i)
        for (int j = 0; i + j <= 20; ++j)
            least = std::min(least, evaluate(ElementKind::triangle6, p, Vec2{{i / 20.0, j / 20.0}}).jacobian);
    CHECK(jacobian_bound(ElementKind::triangle6, p) * sum / weights <= least + 1e-12);
    CHECK(jacobian_bound(ElementKind::triangle6, p) > 0);
    auto bent = p;
    bent[3] = {{1, 0.9}};
    CHECK(jacobian_bound(ElementKind::triangle6, bent) < 0);
}

TEST_CASE("triangulations of random, lattice and collinear points keep their structure") {
    std::mt19937_64 random(1);
    std::uniform_real_distribution<double> unit(0, 1);
    const auto build = [](const std::vector<Vec2>& points) {
        Box2 box;
        for (const auto& p : points) box.add(p);
        Triangulation t(box);
        int hint = 0;
        for (const auto& p : points) hint = t.triangle_of(t.insert(p, t.locate(p, hint)));
        return t;
    };
    std::vector<Vec2> points;
    for (int k = 0; k < 3000; ++k) points.push_back({{unit(random), unit(random)}});
    const auto t = build(points);
    check_structure(t);
    CHECK(t.points().size() == 3004);
    CHECK(t.triangles().size() == 2 * 3004 - 2 - 4);
    points.clear();
    for (int i = 0; i < 25; ++i)
        for (int j = 0; j < 25; ++j) points.push_back({{0.1 * i, 0.1 * j}});
    std::shuffle(points.begin(), points.end(), random);
    points.insert(points.end(), points.begin(), points.begin() + 50);  // doubles
    const auto lattice = build(points);
    check_structure(lattice);
    CHECK(lattice.points().size() == 629);
    points.clear();
    for (int i = 0; i < 50; ++i) points.push_back({{i * 0.3, i * 0.1}});
    check_structure(build(points));
}

TEST_CASE("constraints are recovered, and obstacles are told") {
    std::mt19937_64 random(2);
    std::uniform_real_distribution<double> unit(0, 1);
    Box2 box;
    box.add(Vec2{{0, 0}});
    box.add(Vec2{{1, 1}});
    Triangulation t(box);
    const auto add = [&](const Vec2& p) { return t.insert(p, t.locate(p, 0)); };
    const int a = add({{0.01, 0.5}}), b = add({{0.99, 0.52}}), c = add({{0.5, 0.05}}), d = add({{0.5, 0.95}});
    for (int k = 0; k < 400; ++k) add({{unit(random), unit(random)}});
    Triangulation::Obstacle obstacle;
    REQUIRE(t.insert_segment(a, b, 0, obstacle));
    check_structure(t);
    CHECK(!t.insert_segment(c, d, 1, obstacle));
    CHECK(obstacle.segment == 0);
    obstacle = {};
    CHECK(!t.insert_segment(b, a, 2, obstacle));  // there already
    const int left = add({{0.2, 0.8}}), middle = add({{0.3, 0.8}}), right = add({{0.4, 0.8}});
    obstacle = {};
    CHECK(!t.insert_segment(left, right, 3, obstacle));
    CHECK(obstacle.vertex == middle);
    CHECK(t.locate_visible({{0.5, 0.9}}, t.locate({{0.5, 0.1}}, 0)) == -1);  // a-b is in the way
    CHECK(t.locate_visible({{0.6, 0.1}}, t.locate({{0.5, 0.1}}, 0)) >= 0);
}

TEST_CASE("the Hilbert order visits every point once and keeps steps short") {
    std::vector<Vec2> points;
    for (int i = 0; i < 32; ++i)
        for (int j = 0; j < 32; ++j) points.push_back({{static_cast<double>(i), static_cast<double>(j)}});
    const auto order = hilbert_order(points);
    std::set<int> seen(order.begin(), order.end());
    CHECK(seen.size() == points.size());
    double way = 0;
    for (std::size_t k = 1; k < order.size(); ++k)
        way += distance(points[static_cast<std::size_t>(order[k])], points[static_cast<std::size_t>(order[k - 1])]);
    CHECK(way < 1.3 * static_cast<double>(points.size()));
}

TEST_CASE("edges are divided as the size field asks") {
    const Part part = part_from("[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 1]\nnames = { left = \"left\" }\n");
    SizeSpec spec;
    spec.global = 1;
    spec.local.push_back(length_on("left", 0.1));
    const Sizing sizes = sizing_of(part, spec, {});
    const Division d = divide_edges(part, sizes.field);
    double worst = 0;
    for (const auto& s : d.segments) {
        const Vec2 a = d.points[static_cast<std::size_t>(s.from)], b = d.points[static_cast<std::size_t>(s.to)];
        const double ratio = distance(a, b) / sizes.field.at((a + b) * 0.5);
        worst = std::max(worst, std::max(ratio, 1 / ratio));
    }
    CHECK(worst < 1.25);
}

TEST_CASE("meshes of simple parts: area, names, quality, sizes") {
    const std::string plate = "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 6]\nnames = { left = \"left\" }\n";
    const std::vector<std::pair<std::string, double>> parts{
        {plate, 0.5},
        {plate + "[[part.shape]]\ncut = \"circle\"\ncentre = [5, 3]\nradius = 1\nname = \"hole\"\n", 0.6},
        {"[[part.shape]]\nadd = \"circle\"\nradius = 2\n", 0.3},
        {"[[part.shape]]\nadd = \"circle\"\nradius = 2\n[[part.shape]]\ncut = \"circle\"\nradius = 1.9\n", 0.5},
        {"[[part.shape]]\nadd = \"ellipse\"\nradii = [8, 0.5]\n", 1},
        {"[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [10, 0], [10, 2], [2, 2], [2, 10], [0, 10]]\nrounds = "
         "{ 4 = 1 }\n",
         0.7},
        {"[[part.shape]]\nadd = \"slot\"\nfrom = [0, 0]\nto = [20, 3]\nwidth = 1\n", 2},
    };
    for (const auto& [text, size] : parts) {
        CAPTURE(text);
        const Part part = part_from(text);
        const Mesh mesh = mesh_of(part, size);
        check_mesh(part, mesh);
        const MeshSummary s = summarise(mesh);
        CHECK(s.measure == doctest::Approx(part.area()).epsilon(2e-3));
        CHECK(s.smallest_angle > 20);
        CHECK(s.mean_quality > 0.9);
    }
}

TEST_CASE("the area error of curved sides falls with the fourth power of the size") {
    const Part part = part_from("[[part.shape]]\nadd = \"circle\"\nradius = 1\n");
    double before = 0;
    for (const double size : {0.4, 0.2, 0.1}) {
        SizeSpec spec;
        spec.global = size;
        spec.segments_per_circle = 3;
        const double error = std::fabs(generate(part, sizing_of(part, spec, {}), 1'000'000).measure() - pi);
        if (before > 0) CHECK(before / error > 10);
        before = error;
    }
}

TEST_CASE("narrow gaps, sharp corners and strong grading") {
    SUBCASE("a wall a hundredth as thick as the elements are large") {
        const Part part = part_from(
            "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 10]\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [1, "
            "0.02]\nsize = [8, 5]\n");
        const Mesh mesh = mesh_of(part, 2);
        check_mesh(part, mesh);
        CHECK(summarise(mesh).smallest_angle > 15);
    }
    SUBCASE("two holes that nearly touch, with coarse sizes") {
        const Part part = part_from(
            "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 6]\n[[part.shape]]\ncut = \"circle\"\ncentre = [3.9, "
            "3]\nradius = 1\n"
            "[[part.shape]]\ncut = \"circle\"\ncentre = [5.95, 3]\nradius = 1\n");
        check_mesh(part, mesh_of(part, 3));
    }
    SUBCASE("a five degree corner") {
        const Part part = part_from("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [10, 0], [10, 0.875]]\n");
        const Mesh mesh = mesh_of(part, 1);
        check_mesh(part, mesh);
        CHECK(mesh.element_count() < 2000);
    }
    SUBCASE("sizes from 1 to 1000") {
        const Part part = part_from(
            "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 10]\n[[part.shape]]\ncut = \"circle\"\ncentre = [5, "
            "5]\nradius = 0.005\n");
        SizeSpec spec;
        spec.global = 1;
        spec.growth = 1.5;
        const Mesh mesh = generate(part, sizing_of(part, spec, {}), 100000);
        check_mesh(part, mesh);
        CHECK(summarise(mesh).smallest_angle > 20);
    }
}

TEST_CASE("random outlines with random sizes give valid meshes") {
    std::mt19937_64 random(9);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int trial = 0; trial < 40; ++trial) {
        const int corners = 3 + static_cast<int>(unit(random) * 12);
        std::string text = "[[part.shape]]\nadd = \"polygon\"\ncorners = [";
        for (int k = 0; k < corners; ++k) {
            const double angle = 2 * pi * (k + 0.8 * unit(random)) / corners, radius = 1 + 4 * unit(random);
            text += (k ? ", [" : "[") + std::to_string(radius * std::cos(angle)) + ", " +
                    std::to_string(radius * std::sin(angle)) + "]";
        }
        text += "]\n[[part.shape]]\ncut = \"circle\"\nradius = " + std::to_string(0.05 + 0.3 * unit(random)) + "\n";
        CAPTURE(text);
        const Part part = part_from(text);
        const Mesh mesh = mesh_of(part, 0.2 + unit(random));
        check_mesh(part, mesh);
        CHECK(mesh.measure() == doctest::Approx(part.area()).epsilon(5e-3));
    }
}

TEST_CASE("the same input gives the same mesh") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"circle\"\nradius = 3\n[[part.shape]]\ncut = \"slot\"\nfrom = [-1, 0]\nto = [1, "
        "0.5]\nwidth = 0.6\n");
    const Mesh a = mesh_of(part, 0.3), b = mesh_of(part, 0.3);
    CHECK(a.connectivity == b.connectivity);
    CHECK(a.nodes == b.nodes);
}

TEST_CASE("the element count is estimated before meshing, and limits hold") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 10]\n[[part.shape]]\ncut = \"circle\"\ncentre = [5, "
        "5]\nradius = 0.1\n");
    SizeSpec spec;
    spec.global = 0.4;
    const Sizing sizes = sizing_of(part, spec, {});
    const double expected = estimate_elements(part, sizes.field, 1e9);
    const auto made = static_cast<double>(generate(part, sizes, 100000).element_count());
    CHECK(expected > 0.7 * made);
    CHECK(expected < 1.4 * made);
    CHECK_THROWS_AS((void)generate(part, sizes, 100), InputError);
    CHECK_THROWS_AS((void)generate(part, sizes.scaled(1e-6), 1'000'000), InputError);
}

TEST_CASE("rows of layers are in the estimate of elements") {
    const Part part = part_from("[[part.shape]]\nadd = \"rectangle\"\nsize = [8, 4]\n");
    for (const std::int64_t rows : {4, 12}) {
        CAPTURE(rows);
        Sizing sizing{SizeField(0.4, 0.3, 1e-3, {}), {}, {}};
        for (int e = 0; e < 4; ++e) sizing.layers.push_back({e, true, 0.02, rows, 1.1, 0});
        const auto made = static_cast<double>(generate(part, sizing, 100000).element_count());
        CHECK(estimate_elements(part, sizing, 1e9) == doctest::Approx(made).epsilon(0.15));
    }
}

TEST_CASE("a strip of any thinness is meshed, with flat elements in the end") {
    for (const std::string height : {"1e-2", "1e-3", "1e-4", "1e-5", "4e-6"})
        for (const ElementShape shape : {ElementShape::triangles, ElementShape::mostly_quadrilaterals}) {
            CAPTURE(height);
            CAPTURE(static_cast<int>(shape));
            const Part strip =
                part_from("[[part.shape]]\nadd = \"rectangle\"\nsize = [1, " + height + "]\nname = \"rim\"\n");
            SizeSpec spec;
            spec.global = 0.05;
            MeshSpec kind;
            kind.shape = shape;
            const Mesh mesh = generate(strip, sizing_of(strip, spec, {}), 100'000, kind);
            CHECK(fault_of(strip, mesh) == "");
            CHECK(mesh.element_count() < 10'000);
        }
}

TEST_CASE("neighbourhoods list every element of a node") {
    const Part part = part_from("[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\n");
    const Mesh mesh = mesh_of(part, 0.3);
    const NodeElements around = node_elements(mesh);
    std::size_t count = 0;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        const auto list = around.of(n);
        count += list.size();
        CHECK(std::is_sorted(list.begin(), list.end()));
        for (const auto e : list) {
            const auto nodes = mesh.element(static_cast<std::size_t>(e));
            CHECK(std::find(nodes.begin(), nodes.end(), static_cast<int>(n)) != nodes.end());
        }
    }
    CHECK(count == mesh.connectivity.size());
}

TEST_CASE("every side stands once in the table, with the elements on both hands") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [4, "
        "0]\nsize = [2, "
        "2]\nregion = \"b\"\n[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1]\nradius = 0.4\n");
    for (const ElementShape shape :
         {ElementShape::triangles, ElementShape::quadrilaterals, ElementShape::mostly_quadrilaterals})
        for (const int order : {1, 2}) {
            CAPTURE(order);
            MeshSpec spec;
            spec.shape = shape;
            spec.order = order;
            const Mesh mesh = generate(part, Sizing{SizeField(0.3, 0.3, 1e-3, {}), {}, {}}, 100000, spec);
            const auto corners_of = [&](std::size_t e, int side) {
                const auto local = side_nodes(mesh.kinds[e], side);
                return std::pair(mesh.element(e)[local[0]], mesh.element(e)[local[1]]);
            };
            std::set<std::size_t> outer;
            std::size_t seen = 0, next = 0;
            for (std::size_t e = 0; e < mesh.element_count(); ++e)
                for (int s = 0; s < corner_count(mesh.kinds[e]); ++s, ++seen) {
                    const std::size_t k = mesh.sides.of(e, static_cast<std::size_t>(s));
                    CHECK(k <= next);  // numbered as they come
                    next = std::max(next, k + 1);
                    const auto [a, b] = corners_of(e, s);
                    const ElementSide far = mesh.sides.beyond(e, static_cast<std::size_t>(s));
                    if (!far) {
                        outer.insert(k);
                        continue;
                    }
                    const auto other = static_cast<std::size_t>(far.element);
                    CHECK(other != e);
                    CHECK(corners_of(other, far.side) == std::pair(b, a));
                    CHECK(mesh.sides.beyond(other, static_cast<std::size_t>(far.side)).element ==
                          static_cast<std::int32_t>(e));
                }
            CHECK(next == mesh.sides.count());
            CHECK(seen == 2 * mesh.sides.count() - outer.size());
            // Euler: corners - sides + elements = 1 - holes.
            std::set<std::int32_t> corners;
            for (std::size_t e = 0; e < mesh.element_count(); ++e)
                for (int s = 0; s < corner_count(mesh.kinds[e]); ++s) corners.insert(corners_of(e, s).first);
            CHECK(corners.size() + mesh.element_count() == mesh.sides.count());
            for (const auto& side : mesh.boundary) {
                const bool inner =
                    !!mesh.sides.beyond(static_cast<std::size_t>(side.element), static_cast<std::size_t>(side.side));
                CHECK(inner == part.edge(side.edge).interior());
            }
        }
}

TEST_CASE("a small element far from the origin keeps its area") {
    // At the tip of a part of size 1e2 adaptive series make elements of 1e-7.
    for (const double size : {1.0, 1e-3, 1e-7, 1e-9})
        for (const Vec2 at : {Vec2{{0, 0}}, Vec2{{16, 7}}, Vec2{{-300, 4000}}}) {
            if (size < 1e-12 * norm(at)) continue;
            Mesh mesh;
            mesh.nodes = {at, at + Vec2{{size, 0}}, at + Vec2{{0, size}}};
            mesh.kinds = {ElementKind::triangle3};
            mesh.connectivity = {0, 1, 2};
            mesh.first = {0, 3};
            const Vec2 a = mesh.nodes[1] - at, b = mesh.nodes[2] - at;  // as the numbers have it
            CAPTURE(size);
            CHECK(mesh.measure_of(0) == doctest::Approx(cross(a, b) / 2).epsilon(1e-12));
            CHECK(mesh.size_of(0) > 0);
        }
}

TEST_SUITE_END();
