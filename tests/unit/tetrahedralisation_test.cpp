// The Delaunay tetrahedralisation: whole, Delaunay, and the same in any order, whatever the points.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>
#include <set>

#include "base/predicates.hpp"
#include "mesh/solid/tetrahedralisation.hpp"

using namespace dotsift;

namespace {

using Corners = std::array<std::int32_t, 4>;

double volume(const Tetrahedralisation& t, const Corners& v) {
    return dot(cross(t.point(v[1]) - t.point(v[0]), t.point(v[2]) - t.point(v[0])), t.point(v[3]) - t.point(v[0])) / 6;
}

/// Every tetrahedron upright, neighbours mutual, nothing inside the sphere beside it, all space filled once.
void check_whole(const Tetrahedralisation& t) {
    std::size_t wrong = 0, alive = 0;
    double sum = 0;
    for (std::size_t k = 0; k < t.tetrahedra().size(); ++k) {
        const auto& tet = t.tetrahedra()[k];
        if (!tet.alive()) continue;
        ++alive;
        if (!(orientation(t.point(tet.v[0]), t.point(tet.v[1]), t.point(tet.v[2]), t.point(tet.v[3])) > 0)) ++wrong;
        sum += volume(t, tet.v);
        for (std::size_t i = 0; i < 4; ++i) {
            if (tet.n[i] < 0) continue;
            const auto& other = t.tetrahedron(tet.n[i]);
            const auto back = std::find(other.n.begin(), other.n.end(), static_cast<std::int32_t>(k));
            if (!other.alive() || back == other.n.end()) {
                ++wrong;
                continue;
            }
            const auto far = other.v[static_cast<std::size_t>(back - other.n.begin())];
            for (std::size_t j = 0; j < 4; ++j)  // they share the other three
                if (j != i && std::find(other.v.begin(), other.v.end(), tet.v[j]) == other.v.end()) ++wrong;
            if (in_sphere(t.point(tet.v[0]), t.point(tet.v[1]), t.point(tet.v[2]), t.point(tet.v[3]), t.point(far)) > 0)
                ++wrong;
        }
    }
    CHECK(wrong == 0);
    CHECK(alive == t.count());
    Corners all{0, 1, 2, 3};
    CHECK(sum == doctest::Approx(std::fabs(volume(t, all))).epsilon(1e-9));
    for (std::size_t v = 0; v < t.points().size(); ++v) {
        const auto& tet = t.tetrahedron(t.tetrahedron_of(static_cast<std::int32_t>(v)));
        if (!tet.alive() || std::find(tet.v.begin(), tet.v.end(), static_cast<std::int32_t>(v)) == tet.v.end()) ++wrong;
    }
    CHECK(wrong == 0);
}

std::vector<Vec3> random_points(std::size_t count, const std::function<Vec3(const Vec3&)>& place) {
    std::mt19937 random(17);
    std::uniform_real_distribution<double> in(-1, 1);
    std::vector<Vec3> out;
    for (std::size_t k = 0; k < count; ++k) out.push_back(place({{in(random), in(random), in(random)}}));
    return out;
}

/// The tetrahedra as points of the list, sorted.
std::set<Corners> corners_of(const Tetrahedralisation& t, const std::vector<std::int32_t>& vertex) {
    std::vector<std::int32_t> point(t.points().size(), -1);
    for (std::size_t k = 0; k < vertex.size(); ++k)
        point[static_cast<std::size_t>(vertex[k])] = static_cast<std::int32_t>(k);
    std::set<Corners> out;
    for (const auto& tet : t.tetrahedra()) {
        if (!tet.alive()) continue;
        Corners c{};
        for (std::size_t i = 0; i < 4; ++i)
            c[i] = tet.v[i] < 4 ? -1 - tet.v[i] : point[static_cast<std::size_t>(tet.v[i])];
        std::sort(c.begin(), c.end());
        out.insert(c);
    }
    return out;
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("tetrahedra of points anywhere: whole, Delaunay, and the same whatever the order") {
    const auto points = random_points(3000, [](const Vec3& p) { return p; });
    std::vector<std::int32_t> vertex;
    const auto t = tetrahedralise(points, vertex);
    check_whole(t);
    CHECK(t.count() > 6 * points.size());
    CHECK(t.count() < 8 * points.size());
    // One by one as they stand, from wherever the last one was.
    Box<3> box;
    for (const auto& p : points) box.add(p);
    Tetrahedralisation other(box);
    std::vector<std::int32_t> in_order;
    std::int32_t near = 0;
    for (const auto& p : points) {
        in_order.push_back(other.insert(p, other.locate(p, near)));
        near = other.tetrahedron_of(in_order.back());
    }
    CHECK(corners_of(t, vertex) == corners_of(other, in_order));
}

TEST_CASE("points on lattices, spheres, planes, lines, all at one place") {
    std::vector<std::vector<Vec3>> lists(2);
    for (int i = 0; i < 9; ++i)
        for (int j = 0; j < 9; ++j)
            for (int k = 0; k < 9; ++k) {
                lists[0].push_back({{1.0 * i, 1.0 * j, 1.0 * k}});
                lists[1].push_back({{123.456 + 0.1 * i, 0.7 * j, -3 + 1e-3 * k}});
            }
    lists.push_back(random_points(800, [](const Vec3& p) { return p / norm(p); }));
    lists.push_back(random_points(800, [](const Vec3& p) { return Vec3{{p[0], p[1], 0.25}}; }));
    lists.push_back(random_points(800, [](const Vec3& p) { return Vec3{{p[0], 2 * p[0], -p[0]}}; }));
    lists.push_back(random_points(300, [](const Vec3& p) {
        return Vec3{{std::round(2 * p[0]), std::round(2 * p[1]), 1}};
    }));
    lists.push_back(std::vector<Vec3>(50, Vec3{{1, 2, 3}}));
    lists.push_back(random_points(800, [](const Vec3& p) {  // on a tube, as a mesh of its surface has them
        const double a = std::round(16 * p[0]) / 16 * std::numbers::pi;
        return Vec3{{std::cos(a), std::sin(a), std::round(8 * p[2]) / 8}};
    }));
    lists.push_back(random_points(500, [](const Vec3& p) { return p * 1e-9 + Vec3{{1e3, -1e3, 1e3}}; }));
    for (const auto& points : lists) {
        std::vector<std::int32_t> vertex;
        const auto t = tetrahedralise(points, vertex);
        check_whole(t);
        for (std::size_t k = 0; k < points.size(); ++k) CHECK(t.point(vertex[k]) == points[k]);
        std::set<std::array<double, 3>> places;
        for (const auto& p : points) places.insert(p.c);
        CHECK(t.points().size() == places.size() + 4);
    }
}

TEST_SUITE_END();
