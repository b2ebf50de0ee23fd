// Solids that random booleans found hard to mesh: slivers, sharp edges, surfaces that meet in one point.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/predicates.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/side_meeting.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "mesh/solid/recover_surface.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Hard {
    const char* what;
    const char* shapes;
    double size;
};

/// A cap of a sphere 0.1 high outside a wedge, split by a cone; bodies that a turned wedge splits beside a sphere; two
/// spheres that hardly part.
const Hard cap{"cap outside a wedge", R"toml(
[[part.shape]]
add = "sphere"
centre = [1.5, 4.5, -1.5]
radius = 5.625
name = "s1"
region = "a"
[[part.shape]]
add = "wedge"
corner = [-4, 0.5, -10]
size = [16, 11.75, 9.375]
tip = 3
name = "s2"
region = "b"
[[part.shape]]
split = "cone"
from = [-4.5, 3, -8.75]
to = [-4.5, 3, 5.875]
radii = [7.75, 1.5]
name = "s4"
rotate = 1.11342
about = [[0, 0, 0], [-0.99, -0.5041, 0.3545]]
)toml",
               2.16346};
const Hard split{"ball split by a turned wedge", R"toml(
[[part.shape]]
add = "sphere"
centre = [-1.5, 0, 1.5]
radius = 10
name = "s1"
region = "a"
[[part.shape]]
add = "cylinder"
from = [4.5, 0, -10.5]
to = [4.5, 0, -6.5]
radius = 3.5
name = "s2"
region = "b"
rotate = 2.54909
about = [[0, 0, 0], [0.8717, 0.2376, 0.5449]]
[[part.shape]]
cut = "cylinder"
from = [4.5, -3, -3.5]
to = [4.5, -3, 20.5]
radius = 7.25
name = "s3"
rotate = 1.41707
about = [[0, 0, 0], [0.8693, -0.3085, 0.3274]]
[[part.shape]]
split = "wedge"
corner = [-2.5, 2, -7]
size = [9, 14, 12]
tip = 2
name = "s4"
rotate = 1.40029
about = [[0, 0, 0], [-0.877, 0.7137, 0.9145]]
)toml",
                 1.90236};
const Hard crescent{"crescent between balls", R"toml(
[[part.shape]]
add = "sphere"
centre = [3, 4.5, 0]
radius = 4.75
name = "s1"
region = "a"
[[part.shape]]
add = "wedge"
corner = [0.5, 2, -10]
size = [8, 7.25, 8.5]
tip = 2.5
name = "s2"
region = "b"
[[part.shape]]
cut = "sphere"
centre = [1.5, 4.5, 0]
radius = 4.75
name = "s3"
[[part.shape]]
split = "cylinder"
from = [-3, 1.5, -14]
to = [-3, 1.5, 5]
radius = 2.75
name = "s4"
rotate = 5.90488
about = [[0, 0, 0], [-0.7089, 0.8816, 0.9115]]
)toml",
                    2.13217};
/// On a coarse chart the rim of a face goes round the other way: that ended the program.
const Hard turned_rim{"rim that turns round", R"toml(
[[part.shape]]
add = "cylinder"
from = [6, 3, -1.75]
to = [6, 3, 4.75]
radius = 4.25
name = "s1"
rotate = 5.41817
about = [[0, 0, 0], [0.02648, 0.525, 0.6455]]
[[part.shape]]
cut = "sphere"
centre = [0, -6, -3]
radius = 9.125
name = "s2"
[[part.shape]]
add = "sphere"
centre = [1.5, -3, 3]
radius = 9.125
name = "s3"
[[part.shape]]
add = "cylinder"
from = [-6, -6, -7]
to = [-6, -6, 7]
radius = 5.75
name = "s4"
rotate = 2.99551
about = [[0, 0, 0], [-0.4863, -0.8916, 0.9286]]
)toml",
                      1.94486};
/// Three surfaces meet in one point, where the geometry library leaves two corners with an edge there and back.
const char* const two_corners = R"toml(
[[part.shape]]
add = "cone"
from = [3, 0, -6.25]
to = [3, 0, 5.625]
radii = [5.875, 3]
name = "s1"
rotate = 4.241
about = [[0, 0, 0], [-0.4565, -0.7929, 0.885]]
[[part.shape]]
add = "ring"
centre = [2.5, 3.75, 0]
radii = [8.25, 1.5]
name = "s2"
[[part.shape]]
cut = "sphere"
centre = [6, -3, -1.5]
radius = 8.25
name = "s3"
[[part.shape]]
add = "ring"
centre = [0, -1.25, 1.25]
radii = [6, 1.8125]
name = "s4"
rotate = 1.54375
about = [[0, 0, 0], [0.1476, 0.2626, 0.5828]]
)toml";

StudyAndPart opened(const std::string& shapes, double size) {
    Problems problems("test.toml");
    auto both =
        open_study("test.toml", fmt::format("format = 1\n[part]\n{}[size]\nglobal = {}\n", shapes, size), problems);
    INFO(problems.text());
    REQUIRE(both.solid);
    return both;
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("slivers, sharp edges and rims that turn round are meshed") {
    for (const Hard* hard : {&cap, &split, &crescent, &turned_rim}) {
        CAPTURE(hard->what);
        const auto both = opened(hard->shapes, hard->size);
        const SolidPart& part = *both.solid;
        MeshingLog log;
        const SolidMesh mesh =
            generate_solid(part, sizing_of(part, both.study.sizes, both.study.path), 200'000, 2, &log);
        CHECK(mesh.measure() == doctest::Approx(measure(part).size).epsilon(5e-4));
        double least = INFINITY;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            const auto x = mesh.positions(e);
            least = std::min(least, jacobian_bound(mesh.kinds[e], std::span(x).first(10)));
        }
        CHECK(least > 0);
        std::vector<double> areas(part.faces.size(), 0.0);
        for (const auto& side : mesh.boundary)
            for (const auto& p : points_on_side(mesh, {side.element, side.side}))
                areas[static_cast<std::size_t>(side.edge)] += p.weight;
        for (std::size_t f = 0; f < areas.size(); ++f)
            CHECK(areas[f] == doctest::Approx(measure_face(part, f).size).epsilon(2e-2));
    }
}

TEST_CASE("what is missing of a surface is brought into tetrahedra, which fill the same space") {
    const auto both = opened(crescent.shapes, 1.1);
    const SolidPart& part = *both.solid;
    CoarsePlaces coarse;
    const SurfaceMesh surface = mesh_surface(part, sizing_of(part, both.study.sizes, both.study.path), 100'000, coarse);
    std::vector<std::int32_t> vertex;
    Tetrahedralisation mesh = tetrahedralise(surface.points, vertex);
    const auto missing = [&] {
        std::set<std::array<std::int32_t, 3>> sides;
        for (const auto& t : mesh.tetrahedra()) {
            if (!t.alive()) continue;
            for (const auto& c : corners_of_side) {
                std::array<std::int32_t, 3> s{t.v[c[0]], t.v[c[1]], t.v[c[2]]};
                std::sort(s.begin(), s.end());
                sides.insert(s);
            }
        }
        std::size_t count = 0;
        for (const auto& t : surface.triangles) {
            std::array<std::int32_t, 3> s{};
            for (std::size_t i = 0; i < 3; ++i) s[i] = vertex[static_cast<std::size_t>(t.v[i])];
            std::sort(s.begin(), s.end());
            count += sides.count(s) ? 0 : 1;
        }
        return count;
    };
    const auto volume = [&] {
        double sum = 0;
        for (const auto& t : mesh.tetrahedra())
            if (t.alive())
                sum += dot(cross(mesh.point(t.v[1]) - mesh.point(t.v[0]), mesh.point(t.v[2]) - mesh.point(t.v[0])),
                           mesh.point(t.v[3]) - mesh.point(t.v[0]));
        return std::fabs(sum);
    };
    const std::size_t before = missing();
    const double space = volume();
    CHECK(before > 0);
    recover_surface(surface, vertex, mesh);
    CHECK(missing() < before / 4);
    CHECK(volume() == doctest::Approx(space).epsilon(1e-12));
    for (std::size_t k = 0; k < mesh.tetrahedra().size(); ++k) {
        const auto& t = mesh.tetrahedra()[k];
        if (!(orientation(mesh.point(t.v[0]), mesh.point(t.v[1]), mesh.point(t.v[2]), mesh.point(t.v[3])) > 0))
            FAIL_CHECK("a tetrahedron is not upright");
        for (const auto n : t.n) {
            if (n < 0) continue;
            const auto& back = mesh.tetrahedron(n).n;
            if (std::find(back.begin(), back.end(), static_cast<std::int32_t>(k)) == back.end())
                FAIL_CHECK("neighbours do not know each other");
        }
    }
}

TEST_CASE("corners that fall together are one, and no edge runs there and back") {
    const SolidPart part = *opened(two_corners, 2).solid;
    for (const auto& e : part.edges) {
        CAPTURE(e.curve.length());
        CHECK((e.start == e.end || distance(part.vertices[static_cast<std::size_t>(e.start)],
                                            part.vertices[static_cast<std::size_t>(e.end)]) > 1e-6));
    }
    for (const auto& face : part.faces)
        for (const auto& loop : face.loops)
            for (std::size_t k = 0; k < loop.size(); ++k) {
                const auto &use = loop[k], &next = loop[(k + 1) % loop.size()];
                CHECK_FALSE((loop.size() > 1 && use.edge == next.edge && use.forward != next.forward));
            }
}

TEST_SUITE_END();
