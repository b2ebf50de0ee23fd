// Fields from mesh to mesh.

#include "solve/carry_over.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "support/cubes.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A plate with a hole and a core of another region.
Mesh mesh_of(double size, const std::string& elements) {
    Problems problems("test.toml");
    const auto both = open_study(
        "test.toml",
        "format = 1\n[part]\nname = \"rim\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = "
        "\"left\", right = \"right\" }\n[[part.shape]]\nadd = \"circle\"\ncentre = [2, 1]\nradius = 0.7\nregion = "
        "\"core\"\n[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1]\nradius = 0.3\n[mesh]\nelements = \"" +
            elements + "\"\n[size]\nglobal = " + std::to_string(size) + "\n[quantity.q]\nof = \"ux\"\n" +
            rest_of_study() + "[series.u]\nkind = \"uniform\"\n",
        problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return generate(both.part, sizing_of(both.part, both.study.sizes, "."), 100000, both.study.mesh);
}

/// Of the place and the region's index.
template <class F>
std::vector<double> slots_of(const Mesh& mesh, F f) {
    std::vector<double> out(mesh.node_of_slot.size());
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : mesh.slots_of(e)) {
            const auto k = static_cast<std::size_t>(s);
            out[k] = f(mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[k])], mesh.region[e]);
        }
    return out;
}

double largest_gap(const std::vector<double>& a, const std::vector<double>& b) {
    double gap = 0;
    for (std::size_t i = 0; i < a.size(); ++i) gap = std::max(gap, std::fabs(a[i] - b[i]));
    return gap;
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("linear fields come over unchanged, with their jumps between regions") {
    const Mesh coarse = mesh_of(0.5, "triangles"), fine = mesh_of(0.21, "quadrilaterals");
    REQUIRE(fine.node_of_slot.size() > fine.nodes.size());
    const auto field = [](const Vec2& p, int region) { return region == 0 ? 1 + p[0] : 7 - 2 * p[1]; };
    const auto carried = carry_slots(coarse, slots_of(coarse, field), fine, CarryRule::consistent);
    // Near curved lines the meshes differ by the sagitta of their sides, where a field is continued.
    CHECK(largest_gap(carried, slots_of(fine, field)) < 1e-9);
    std::vector<Vec2> moves;
    for (const Vec2& p : coarse.nodes) moves.push_back({{p[0], 3 * p[1]}});
    const auto moved = carry_nodes(coarse, moves, fine);
    for (std::size_t n = 0; n < fine.nodes.size(); ++n)
        CHECK(distance(moved[n], {{fine.nodes[n][0], 3 * fine.nodes[n][1]}}) < 1e-9);
    // Onto itself, anything.
    const auto rough =
        slots_of(coarse, [](const Vec2& p, int r) { return std::sin(40 * p[0] + r) * std::cos(37 * p[1]); });
    CHECK(largest_gap(carry_slots(coarse, rough, coarse, CarryRule::consistent), rough) < 1e-9);
}

TEST_CASE("bounded fields stay within what they came from, and conservative ones keep their integrals") {
    const Mesh coarse = mesh_of(0.5, "triangles"), fine = mesh_of(0.2, "triangles");
    const auto step = slots_of(coarse, [](const Vec2& p, int) { return p[0] > 2.1 ? 1.0 : 0.0; });
    const auto loose = carry_slots(coarse, step, fine, CarryRule::consistent),
               held = carry_slots(coarse, step, fine, CarryRule::bounded),
               kept = carry_slots(coarse, step, fine, CarryRule::conservative);
    CHECK(*std::min_element(loose.begin(), loose.end()) < -0.01);  // quadratic elements overshoot
    CHECK(*std::min_element(held.begin(), held.end()) >= 0);
    CHECK(*std::max_element(held.begin(), held.end()) <= 1);
    const auto wanted = integrals_by_region(coarse, step), have = integrals_by_region(fine, kept);
    REQUIRE(wanted.size() == 2);
    // The circles' areas differ by what quadratic sides leave out.
    for (std::size_t r = 0; r < 2; ++r) CHECK(have[r] == doctest::Approx(wanted[r]).epsilon(2e-3));
    const auto ones = [](const Mesh& m) {
        return integrals_by_region(m, std::vector<double>(m.node_of_slot.size(), 1));
    };
    const auto area = ones(coarse), area_fine = ones(fine);
    for (std::size_t r = 0; r < 2; ++r)
        CHECK(have[r] / area_fine[r] == doctest::Approx(wanted[r] / area[r]).epsilon(1e-12));
}

TEST_CASE("fields in space come over to other meshes of the same cube") {
    const auto bent = [](const Vec3& p) { return p + Vec3{{0.1 * p[1] * p[2], 0.05 * p[0] * p[0], 0}}; };
    const auto linear = [](const Vec3& x) { return Vec3{{1 + x[0] - 2 * x[2], x[1], 3 * x[0] + x[2]}}; };
    for (const CubeCut to_cut : all_cuts) {
        CAPTURE(static_cast<int>(to_cut));
        SolidMesh from = cut_cube(CubeCut::tetrahedra, 4, 2, bent, true), to = cut_cube(to_cut, 4, 1, bent, true);
        for (SolidMesh* mesh : {&from, &to}) {
            for (std::size_t e = 0; e < mesh->element_count(); ++e)
                mesh->region[e] = mesh->centre_of(e)[2] > 0.5 ? 1 : 0;
            mesh->region_names = {"below", "above"};
            connect(*mesh);
        }
        std::vector<Vec3> u;
        for (const auto& x : from.nodes) u.push_back(linear(x));
        const auto there = carry_nodes(from, u, to);
        double worst = 0;
        for (std::size_t n = 0; n < to.nodes.size(); ++n)
            worst = std::max(worst, distance(there[n], linear(to.nodes[n])));
        CHECK(worst < 1e-10);
        // A potential that jumps between the regions, and one whose means stay.
        std::vector<double> jumping(from.node_of_slot.size()), wavy(jumping.size());
        for (std::size_t e = 0; e < from.element_count(); ++e)
            for (const auto s : from.slots_of(e)) jumping[static_cast<std::size_t>(s)] = from.region[e] == 0 ? -4 : 7;
        const auto carried = carry_slots(from, jumping, to, CarryRule::bounded);
        for (std::size_t e = 0; e < to.element_count(); ++e)
            for (const auto s : to.slots_of(e))
                CHECK(carried[static_cast<std::size_t>(s)] == doctest::Approx(to.region[e] == 0 ? -4 : 7));
        for (std::size_t s = 0; s < wavy.size(); ++s)
            wavy[s] = std::sin(5 * from.nodes[static_cast<std::size_t>(from.node_of_slot[s])][0]);
        const auto means = [](const SolidMesh& mesh, const std::vector<double>& values) {
            auto out = integrals_by_region(mesh, values);
            const auto volume = integrals_by_region(mesh, std::vector<double>(values.size(), 1.0));
            for (std::size_t r = 0; r < 2; ++r) out[r] /= volume[r];
            return out;
        };
        const auto kept = means(to, carry_slots(from, wavy, to, CarryRule::conservative)), before = means(from, wavy);
        for (std::size_t r = 0; r < 2; ++r) CHECK(kept[r] == doctest::Approx(before[r]).epsilon(1e-9));
    }
}
