// Charts of surfaces, solids from plane parts, and the mesher of solids, on parts whose measures are known.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/side_meeting.hpp"
#include "mesh/solid/body_mesh.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/solid/chart.hpp"
#include "part/solid/from_plane.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

std::string rectangle(double x, double y, double w, double h, const std::string& more = "", const char* verb = "add") {
    return fmt::format("[[part.shape]]\n{} = \"rectangle\"\ncorner = [{}, {}]\nsize = [{}, {}]\n{}\n", verb, x, y, w, h,
                       more);
}
std::string circle(double x, double y, double r, const std::string& more = "", const char* verb = "add") {
    return fmt::format("[[part.shape]]\n{} = \"circle\"\ncentre = [{}, {}]\nradius = {}\n{}\n", verb, x, y, r, more);
}

SizeFieldIn<3> even(double h) {
    return {h, 0.3, 1e-6 * h, {}};
}

struct Known {
    const char* name;
    SolidPart part;
    double size, volume, surface;
    double close = 1e-4;  ///< how near volume and area come, relative
};

std::vector<Known> known_solids() {
    const double turn = 2 * pi;
    const Part bar = part_from(rectangle(1, 0, 0.3, 2)),
               half_disc = part_from(circle(0, 0, 1) + rectangle(-2, -2, 2, 4, "", "cut")),
               disc = part_from(circle(2, 0, 0.5)),
               wedge = part_from(
                   "[[part.shape]]\nadd = \"polygon\"\n"
                   "corners = [[0, 0], [1, 0], [0, 2]]\n");
    const double slant = std::sqrt(5.0);
    return {
        {"brick", drawn_solid(part_from(rectangle(0, 0, 3, 2)), 0, 1), 0.3, 6, 22, 1e-12},
        {"plate with a hole", drawn_solid(part_from(rectangle(0, 0, 4, 2) + circle(2, 1, 0.5, "", "cut")), -0.1, 0.2),
         0.2, 0.3 * (8 - pi / 4), 2 * (8 - pi / 4) + 0.3 * (12 + pi)},
        {"thin plate", drawn_solid(part_from(rectangle(0, 0, 4, 2)), 0, 0.1), 0.2, 0.8, 17.2, 1e-12},
        {"cylinder", drawn_solid(part_from(circle(0, 0, 1)), 0, 2), 0.3, 2 * pi, 6 * pi},
        {"tube", turned_solid(bar, turn), 0.2, pi * 2 * (1.69 - 1), 2 * pi * (1.69 - 1) + 4 * pi * 2.3},
        {"quarter of a tube", turned_solid(bar, turn / 4), 0.2, pi / 2 * 0.69, 1.2 + pi / 2 * 0.69 + pi * 2.3},
        {"cone", turned_solid(wedge, turn), 0.2, 2 * pi / 3, pi * (1 + slant), 2e-4},
        {"ball", turned_solid(half_disc, turn), 0.25, 4 * pi / 3, 4 * pi, 2e-4},
        {"ring", turned_solid(disc, turn), 0.25, 2 * pi * 2 * pi / 4, 4 * pi * pi},
        {"most of a ring", turned_solid(disc, 200 * pi / 180), 0.25, 200 * pi / 180 * 2 * pi / 4,
         200.0 / 360 * 4 * pi * pi + pi / 2},
        {"angle", drawn_solid(part_from(rectangle(0, 0, 3, 1) + rectangle(0, 0, 1, 3)), 0, 1), 0.3, 5, 22, 1e-12},
    };
}

/// Area of the boundary by the elements' own sides, and the sum of normals times area, which vanishes if it is closed.
double boundary_area(const SolidMesh& mesh, Vec3& sum) {
    double area = 0;
    for (const auto& side : mesh.boundary)
        for (const auto& p : points_on_side(mesh, {side.element, side.side})) {
            area += p.weight;
            sum += p.normal * p.weight;
        }
    return area;
}

void check_sound(const SolidMesh& mesh, double least_angle, double least_mean) {
    double mean = 0, sharpest = pi;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto x = mesh.positions(e);
        const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
        CHECK(jacobian_bound(mesh.kinds[e], std::span(x).first(nodes)) > 0);
        const auto angles = dihedral_angles({x[0], x[1], x[2], x[3]});
        sharpest = std::min(sharpest, angles[0]);
        mean += volume_over_length(x[0], x[1], x[2], x[3]) / static_cast<double>(mesh.element_count());
    }
    CHECK(sharpest * 180 / pi >= least_angle);
    CHECK(mean >= least_mean);
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("charts keep angles, and lead back to where they came from") {
    const Frame f = Frame::about({{1, -2, 0.5}}, {{1, 2, 2}}, {{3, 1, -1}});
    const Curve arc = Curve::arc({{0, 0}}, {{1.5, 0}}, {{0, 1.5}}, -pi / 2, 0.3),
                upper = Curve::arc({{0, 0}}, {{1.5, 0}}, {{0, 1.5}}, 0.2, pi / 2),
                oval = Curve::arc({{4, 0}}, {{2, 0}}, {{0, 1}}, 0, 2 * pi);
    const auto spline = spline_through<2>({{{0, 0}}, {{1, 0.2}}, {{1.5, 1}}, {{1, 2}}});
    const Curve vase = Curve::spline(std::make_shared<const Nurbs>(spline), spline.low(), spline.high());
    const std::vector<std::pair<const char*, Surface>> all{
        {"plane", Surface::plane(f)},
        {"drawn oval", Surface::drawn(f, oval)},
        {"drawn spline", Surface::drawn(f, vase)},
        {"cylinder", Surface::turned(f, Curve::line({{2, 0}}, {{2, 3}}))},
        {"cone", Surface::turned(f, Curve::line({{2, 0}}, {{1, 3}}))},
        {"cone with its tip", Surface::turned(f, Curve::line({{2, 0}}, {{0, 3}}))},
        {"ball from its lower pole", Surface::turned(f, arc)},
        {"ball to its upper pole", Surface::turned(f, upper)},
        {"ring", Surface::turned(f, oval)},
        {"vase from its pole", Surface::turned(f, vase)}};
    for (const auto& [name, surface] : all) {
        CAPTURE(name);
        const Chart chart(surface);
        for (const double first : {0.1, 0.45, 0.9})
            for (const double second : {0.06, 0.5, 0.8}) {
                const Vec2 at{{first, second}};
                const Vec2 w = chart.flat(at);
                CHECK(distance(chart.parameters(w), at) < 1e-9);
                const double h = 1e-5, scale = chart.scale(at);
                const Vec3 across = (chart.point(w + Vec2{{h, 0}}) - chart.point(w - Vec2{{h, 0}})) / (2 * h),
                           along = (chart.point(w + Vec2{{0, h}}) - chart.point(w - Vec2{{0, h}})) / (2 * h);
                CHECK(norm(across) == doctest::Approx(scale).epsilon(1e-6));
                CHECK(norm(along) == doctest::Approx(scale).epsilon(1e-6));
                CHECK(std::fabs(dot(across, along)) < 1e-6 * scale * scale);
                CHECK(distance(cross(across, along) / (scale * scale), surface.normal(at)) < 1e-5);
            }
    }
    // At a pole the chart is true, and the angle there does not matter.
    const Chart ball(Surface::turned(f, arc));
    CHECK(norm(ball.flat({{1, 0}})) < 1e-14);
    CHECK(ball.scale({{1, 0}}) == doctest::Approx(1));
    CHECK(ball.scale({{1, 1e-4}}) == doctest::Approx(1).epsilon(1e-3));
    // Where parameters go round, so does the chart.
    const Chart ring(Surface::turned(f, oval));
    CHECK(distance(ring.point(ring.flat({{0.3, 1.25}})), ring.point(ring.flat({{0.3, 0.25}}))) < 1e-9);
    CHECK_THROWS_AS(Chart(Surface::turned(f, Curve::arc({{0, 0}}, {{1, 0}}, {{0, 1}}, -pi / 2, pi / 2))),
                    std::invalid_argument);
}

TEST_CASE("solids from plane parts have their measures") {
    for (const auto& k : known_solids()) {
        CAPTURE(k.name);
        CHECK(measure(k.part).size == doctest::Approx(k.volume).epsilon(1e-9));
        double area = 0;
        for (std::size_t face = 0; face < k.part.faces.size(); ++face) area += measure_face(k.part, face).size;
        CHECK(area == doctest::Approx(k.surface).epsilon(1e-9));
    }
    CHECK_THROWS_AS(turned_solid(part_from(rectangle(-1, 0, 2, 1)), pi), InputError);
}

TEST_CASE("solids are meshed: volume, area, closed boundary, sound elements, nodes on the true faces") {
    for (const auto& k : known_solids()) {
        CAPTURE(k.name);
        for (const int degree : {1, 2}) {
            const SolidMesh mesh = generate_solid(k.part, {even(k.size)}, 200000, degree);
            CAPTURE(mesh.element_count());
            check_sound(mesh, 9, k.size > 1.5 * 0.1 && std::string(k.name) == "thin plate" ? 0.6 : 0.75);
            Vec3 sum{};
            const double area = boundary_area(mesh, sum);
            CHECK(norm(sum) < 1e-10 * area);
            if (degree == 1 && k.close > 1e-10) continue;
            CHECK(mesh.measure() == doctest::Approx(k.volume).epsilon(k.close));
            CHECK(area == doctest::Approx(k.surface).epsilon(k.close * 3));
            double apart = 0;
            for (std::size_t s = 0; s < mesh.boundary.size(); ++s) {
                const auto& side = mesh.boundary[s];
                const Surface& surface = k.part.face(side.edge).surface;
                const auto nodes = mesh.element(static_cast<std::size_t>(side.element));
                for (const auto local : side_nodes(mesh.kinds.front(), side.side)) {
                    const Vec3& x = mesh.nodes[static_cast<std::size_t>(nodes[local])];
                    apart = std::max(apart, distance(surface.point(surface.project(x)), x));
                }
            }
            CHECK(apart < 1e-9);
        }
    }
}

TEST_CASE("regions share their nodes, and keep their names and volumes") {
    const Part plane = part_from(rectangle(0, 0, 4, 2, "region = \"body\"\nnames = { left = \"wall\" }") +
                                 circle(2, 1, 0.5, "region = \"plug\""));
    const SolidPart part = drawn_solid(plane, 0, 0.6, {"foot", "head"});
    const SolidMesh mesh = generate_solid(part, {even(0.2)}, 200000, 2);
    std::map<std::string, double> volume, area;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        volume[mesh.region_names[static_cast<std::size_t>(mesh.region[e])]] += mesh.measure_of(e);
    CHECK(volume["plug"] == doctest::Approx(0.6 * pi / 4).epsilon(1e-4));
    CHECK(volume["body"] + volume["plug"] == doctest::Approx(0.6 * 8).epsilon(1e-12));
    for (const auto& side : mesh.boundary)
        for (const int name : mesh.names_of_edge[static_cast<std::size_t>(side.edge)])
            for (const auto& p : points_on_side(mesh, {side.element, side.side}))
                area[mesh.boundary_names[static_cast<std::size_t>(name)]] += p.weight;
    CHECK(area["wall"] == doctest::Approx(1.2).epsilon(1e-12));
    CHECK(area["foot"] == doctest::Approx(8).epsilon(1e-12));
    CHECK(area["head"] == doctest::Approx(8).epsilon(1e-12));
    // No two nodes at one place: what meets is joined.
    auto nodes = mesh.nodes;
    std::sort(nodes.begin(), nodes.end(), [](const Vec3& a, const Vec3& b) { return a.c < b.c; });
    for (std::size_t n = 1; n < nodes.size(); ++n) CHECK(distance(nodes[n - 1], nodes[n]) > 1e-6);
}

TEST_CASE("sizes are followed, and the same input gives the same mesh") {
    SizeSourceIn<3> fine;
    fine.corners[0] = {{0, 0, 0}};
    fine.size = 0.05;
    const SizeFieldIn<3> field(0.4, 0.4, 1e-6, {fine});
    const SolidPart part = drawn_solid(part_from(rectangle(0, 0, 3, 2)), 0, 1);
    const SolidMesh mesh = generate_solid(part, {field}, 200000, 1), again = generate_solid(part, {field}, 200000, 1);
    CHECK(mesh.nodes == again.nodes);
    CHECK(mesh.connectivity == again.connectivity);
    double ratio = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        ratio += std::log(mesh.size_of(e) / field.at(mesh.centre_of(e))) / static_cast<double>(mesh.element_count());
    CHECK(std::exp(ratio) > 0.75);
    CHECK(std::exp(ratio) < 1.15);
    check_sound(mesh, 9, 0.75);
}

TEST_CASE("what cannot be meshed is told with its place") {
    const SolidPart part = drawn_solid(part_from(rectangle(0, 0, 3, 2)), 0, 1);
    CHECK_THROWS_AS(generate_solid(part, {even(1e-5)}, 100000, 2), InputError);
    CHECK_THROWS_AS(generate_solid(part, {even(0.02)}, 10000, 2), InputError);
}

TEST_SUITE_END();
