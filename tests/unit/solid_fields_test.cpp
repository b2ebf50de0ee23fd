// Tensors, sides, indicators, new sizes and quantities: over solids as over the plane.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "mesh/side_meeting.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/indicators.hpp"
#include "recovery/resize.hpp"
#include "support/cubes.hpp"
#include "support/waves.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr Vec3 still(const Vec3& x) {
    return x;
}

/// A displacement with an even strain, and a potential with an even gradient.
SolutionIn<3> even_fields(const SolidMesh& mesh) {
    SolutionIn<3> s;
    for (const Vec3& x : mesh.nodes) s.displacement.push_back({{0.01 * x[0], 0.02 * x[0] - 0.01 * x[2], 0.03 * x[1]}});
    for (const auto n : mesh.node_of_slot) {
        const Vec3& x = mesh.nodes[static_cast<std::size_t>(n)];
        s.potential.push_back(1 + x[0] - 2 * x[1] + 3 * x[2]);
    }
    return s;
}

double sum(const std::vector<double>& values) {
    return std::accumulate(values.begin(), values.end(), 0.0);
}

/// The cube's sides named by the faces of the cube on which they lie.
void name_sides(SolidMesh& mesh) {
    mesh.boundary_names = {"x0", "x1", "y0", "y1", "z0", "z1"};
    mesh.names_of_edge = {{0}, {1}, {2}, {3}, {4}, {5}};
    for (auto& side : mesh.boundary) {
        Vec3 middle;
        const auto& local = side_nodes(mesh.kinds[static_cast<std::size_t>(side.element)], side.side);
        for (const auto l : local)
            middle += mesh.nodes[static_cast<std::size_t>(mesh.element(static_cast<std::size_t>(side.element))[l])] /
                      static_cast<double>(local.size());
        for (std::size_t a = 0; a < 3; ++a)
            for (const int end : {0, 1})
                if (std::fabs(middle[a] - end) < 1e-9) side.edge = static_cast<int>(2 * a) + end;
    }
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("stress in space is what the plane knows, and three components more") {
    const Stress plane{3, -1, 2, 0.5};
    const Stress3 space{3, -1, 2, 0.5, 0, 0};
    CHECK(von_mises(space) == doctest::Approx(von_mises(plane)).epsilon(1e-14));
    CHECK(max_shear(space) == doctest::Approx(max_shear(plane)).epsilon(1e-14));
    const auto three = principal(space);
    CHECK(three[0] == doctest::Approx(principal(plane)[0]).epsilon(1e-14));
    CHECK(three[1] == doctest::Approx(0.5));
    CHECK(three[2] == doctest::Approx(principal(plane)[1]).epsilon(1e-14));
    for (std::size_t c = 0; c < 4; ++c)
        CHECK(turned(space, 0.7)[c] == doctest::Approx(turned(plane, 0.7)[c]).epsilon(1e-14));

    const Stress3 s{3, -1, 2, 0.5, 1.5, -0.7};
    const Vec3 n{{0.36, 0.48, 0.8}}, t{{0.6, -0.8, 0}};
    const auto shares = shares_of_traction(t, n);
    CHECK(contraction(shares, s) == doctest::Approx(dot(t, traction(s, n))).epsilon(1e-14));
    // Turned about z, every plane bears what it did.
    const double angle = 0.9, c = std::cos(angle), k = std::sin(angle);
    const auto into = [&](const Vec3& v) { return Vec3{{c * v[0] + k * v[1], c * v[1] - k * v[0], v[2]}}; };
    CHECK(distance(traction(turned(s, angle), into(n)), into(traction(s, n))) < 1e-14);
    CHECK(von_mises(turned(s, angle)) == doctest::Approx(von_mises(s)).epsilon(1e-14));
    const auto p = principal(s);
    CHECK(p[0] + p[1] + p[2] == doctest::Approx(s[0] + s[1] + s[3]));
    const double a = p[0] - p[1], b = p[1] - p[2], d = p[2] - p[0];
    CHECK(std::sqrt((a * a + b * b + d * d) / 2) == doctest::Approx(von_mises(s)).epsilon(1e-13));
    // Work of traction: sum of strain times stress is that of its parts along three axes.
    const std::array<Vec3, 3> g{{{{0.1, 0.3, -0.2}}, {{0.05, -0.1, 0.4}}, {{0.2, 0.1, 0.15}}}};
    double work = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        Vec3 axis;
        axis[i] = 1;
        work += dot(traction(s, axis), Vec3{{g[0][i], g[1][i], g[2][i]}});
    }
    CHECK(contraction(s, strain_of<3>(g)) == doctest::Approx(work).epsilon(1e-14));
}

TEST_CASE("heat strains a free solid and stresses a held one, as in plane strain") {
    MaterialSpec m = material();
    m.expansion = {{1e-3, 1e-3, 1e-3}};
    const SolidLaw law = solid_law(m);
    const ElasticLaw plane = elastic_law(m, Plane::strain);
    const Strain3 grown{0.05, 0.05, 0, 0.05, 0, 0};
    for (const double s : law.elastic.stress(grown, 50)) CHECK(std::fabs(s) < 1e-12);
    for (std::size_t c = 0; c < 4; ++c)
        CHECK(law.elastic.stress({}, 50)[c] == doctest::Approx(plane.stress({}, 50)[c]).epsilon(1e-14));
    const Stress3 s{3, -1, 2, 0.5, 1.5, -0.7};
    const Stress3 back = law.elastic.stress(law.elastic.strain(s, 20), 20);
    for (std::size_t c = 0; c < 6; ++c) CHECK(back[c] == doctest::Approx(s[c]).epsilon(1e-13));
    CHECK(law.elastic.energy_norm2(s) == doctest::Approx(contraction(s, law.elastic.strain(s))).epsilon(1e-13));
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("mesh");

TEST_CASE("both elements at a side see the same places, with opposite normals") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const SolidMesh mesh = cut_cube(cut, 4, degree, bent, true);
            double apart = 0, normals = 0, weights = 0;
            each_pair(mesh, [&](const ElementSide& a, const ElementSide& b) {
                const auto here = points_on_side(mesh, a), there = points_on_side(mesh, a, b);
                REQUIRE(here.size() == there.size());
                for (std::size_t k = 0; k < here.size(); ++k) {
                    apart = std::max(apart, distance(here[k].point.position, there[k].point.position));
                    normals = std::max(normals, norm(here[k].normal + there[k].normal));
                    weights = std::max(weights, std::fabs(here[k].weight - there[k].weight));
                }
            });
            CHECK(apart < 1e-13);
            CHECK(normals < 1e-11);
            CHECK(weights < 1e-14);
            const SolidMesh straight = cut_cube(cut, 4, degree, still);
            double area = 0, through = 0;
            for (const auto& side : straight.boundary)
                for (const auto& p : points_on_side(straight, {side.element, side.side})) {
                    area += p.weight;
                    through += p.weight * dot(p.normal, p.point.position) / 3;
                }
            CHECK(area == doctest::Approx(6).epsilon(1e-13));
            CHECK(through == doctest::Approx(1).epsilon(1e-13));  // the volume, by Gauss's theorem
            CHECK(straight.measure() == doctest::Approx(1).epsilon(1e-13));
        }
}

TEST_CASE("the size of a solid element is its edge where all edges are alike") {
    CHECK(cut_cube(CubeCut::hexahedra, 4, 2, still).size_of(0) == doctest::Approx(0.25));
    const double s = 1 / std::numbers::sqrt2;  // a regular tetrahedron in the unit cube has edges of sqrt 2
    SolidMesh one;
    one.nodes = {{{0, 0, 0}}, {{s, s, 0}}, {{0, s, s}}, {{s, 0, s}}};
    one.kinds = {ElementKind::tetrahedron4};
    one.first = {0, 4};
    one.connectivity = {0, 1, 2, 3};
    if (one.measure_of(0) < 0) std::swap(one.connectivity[0], one.connectivity[1]);
    CHECK(one.size_of(0) == doctest::Approx(1).epsilon(1e-13));
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("recovery");

TEST_CASE("indicators see nothing in even fields of solids, and the wave in about its size") {
    const SolidLaws laws{{solid_law(material())}};
    const Wave w;
    const MaterialSpec m = material();
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            {
                const SolidMesh mesh = cut_cube(cut, 4, degree, shaken);
                const SolutionIn<3> s = even_fields(mesh);
                const Stress3 stress =
                    stress_at(mesh, laws, s, 0,
                              evaluate<3>(mesh.kinds[0], mesh.positions(0), reference_middle<3>(mesh.kinds[0])));
                const Vec3 flux{{-1.7, 3.4, -5.1}};
                const auto forces = residual_stress_error(mesh, laws, s,
                                                          {[](const Vec3&) { return Vec3{}; },
                                                           [&](const BoundarySide&, const Vec3&, const Vec3& n) {
                                                               return std::optional(traction(stress, n));
                                                           }});
                const auto flows = residual_flux_error(
                    mesh, laws, s,
                    {[](const Vec3&) { return 0.0; },
                     [&](const BoundarySide&, const Vec3&, const Vec3& n) { return std::optional(-dot(flux, n)); }});
                CHECK(forces.relative() < 1e-11);
                CHECK(flows.relative() < 1e-11);
                CHECK(forces.energy2 == doctest::Approx(laws.of(0).elastic.energy_norm2(stress)).epsilon(1e-12));
                CHECK(sum(jumps_of_slots(mesh, s.potential)) < 1e-20);
                for (const double d : energy_densities(mesh, laws, s, false))
                    CHECK(d == doctest::Approx(laws.of(0).elastic.energy_norm2(stress) / 2).epsilon(1e-11));
                for (const double d : energy_densities(mesh, laws, s, true))
                    CHECK(d == doctest::Approx(dot(flux, flux) / 1.7).epsilon(1e-11));
                // A load that is not there is seen.
                const auto wrong = residual_stress_error(
                    mesh, laws, s,
                    {[](const Vec3&) { return Vec3{}; },
                     [&](const BoundarySide&, const Vec3&, const Vec3&) { return std::optional(Vec3{}); }});
                CHECK(wrong.relative() > 0.1);
            }
            const SolidMesh mesh = cut_cube(cut, 4, degree, bent, true);
            const SolutionIn<3> s = solve_wave(w, mesh, m);
            const auto all_held = [](const BoundarySide&, const Vec3&, const Vec3&) { return std::optional<Vec3>(); };
            const auto residual =
                residual_stress_error(mesh, laws, s, {[&](const Vec3& x) { return w.force(m, x); }, all_held});
            const double shown = estimate_error(mesh, laws, s, recover_stress(mesh, laws, s)).error2;
            const double share = std::sqrt(residual.error2 / shown);
            CAPTURE(share);
            CHECK(share > 0.4);
            CHECK(share < 4);
        }
}

TEST_CASE("elements of a solid ask for their own size, times a factor") {
    ResizeLimits limits;
    limits.smallest = 1e-4;
    limits.largest = 10;
    limits.growth = 1.5;
    // Graded towards x = 0.
    const auto graded = [](const Vec3& x) { return Vec3{{x[0] * (0.3 + 0.7 * x[0]), x[1], x[2]}}; };
    for (const CubeCut cut : all_cuts) {
        CAPTURE(static_cast<int>(cut));
        const SolidMesh mesh = cut_cube(cut, 8, 1, graded);
        std::vector<double> factor(mesh.element_count(), 1.0);
        const auto same = resize(mesh, factor, limits);
        double least = INFINITY, elements = 0;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            const double h = same.at(mesh.centre_of(e));
            CHECK(h <= mesh.size_of(e) * (1 + 1e-12));
            least = std::min(least, h / mesh.size_of(e));
            elements += std::pow(mesh.size_of(e) / h, 3);
        }
        // Smaller neighbours reach over a little: no more than they may grow.
        CHECK(least > 0.7);
        CHECK(elements / static_cast<double>(mesh.element_count()) < 1.25);
        // One element alone becomes smaller.
        const std::size_t one = mesh.element_count() / 2;
        factor[one] = 0.5;
        const auto finer = resize(mesh, factor, limits);
        CHECK(finer.at(mesh.centre_of(one)) == doctest::Approx(0.5 * mesh.size_of(one)));
        const auto anew = changing_elements(mesh, factor);
        for (std::size_t e = 0; e < anew.size(); ++e) {
            const auto nodes = mesh.element(e), own = mesh.element(one);
            const bool touches = std::any_of(nodes.begin(), nodes.end(),
                                             [&](auto n) { return std::find(own.begin(), own.end(), n) != own.end(); });
            CHECK((anew[e] != 0) == touches);
        }
        std::vector<double> error2(mesh.element_count(), 16.0);
        const auto source = point_source(mesh, error2, 1.0, Vec3{}, 0.5, 1e-9, [](std::size_t) { return true; });
        REQUIRE(source);
        CHECK(source->size < 0.1 * mesh.size_of(0));  // (1/16)^(1 / (2 * 0.5))
        CHECK_FALSE(
            point_source(mesh, error2, 1.0, Vec3{{0.5, 0.5, 0.511}}, 0.5, 1e-9, [](std::size_t) { return true; }));
    }
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("quantities");

TEST_CASE("means, integrals and extremes of fields over solids and their faces") {
    const SolidLaws laws{{solid_law(material())}};
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            SolidMesh mesh = cut_cube(cut, 4, degree, shaken);
            name_sides(mesh);
            CaseFieldsIn<3> fields{even_fields(mesh), {}, {}};
            fields.stress = recover_stress(mesh, laws, fields.solution);
            fields.flux = recover_flux(mesh, laws, fields.solution);
            const FieldSourceIn<3> source{mesh, laws, fields};
            QuantitySpec q;
            q.field = Field::potential;
            const auto whole = integral_over(q, source);
            CHECK(whole.size == doctest::Approx(1).epsilon(1e-12));
            CHECK(whole.sum == doctest::Approx(2).epsilon(1e-12));
            q.on = {"y1"};
            const auto face = integral_over(q, source);
            CHECK(face.size == doctest::Approx(1).epsilon(1e-12));
            CHECK(face.sum == doctest::Approx(1 + 0.5 - 2 + 1.5).epsilon(1e-12));
            const auto highest = find_extreme(Field::potential, true, source, {}),
                       lowest = find_extreme(Field::potential, false, source, {"y1"});
            CHECK(highest.value == doctest::Approx(5).epsilon(1e-12));
            CHECK(distance(highest.position, Vec3{{1, 0, 1}}) < 1e-9);
            CHECK(lowest.value == doctest::Approx(-1).epsilon(1e-12));
            CHECK(distance(lowest.position, Vec3{{0, 1, 0}}) < 1e-9);
            // Even stress and flux, recovered and own, at every place; strain back from the stress.
            const Strain3 strain{0.01, 0, 0.02, 0, -0.01 + 0.03, 0};
            const Stress3 stress = laws.of(0).elastic.stress(strain);
            for (const FieldOrigin origin : {FieldOrigin::recovered, FieldOrigin::elements}) {
                FieldSourceIn<3> from = source;
                from.origin = origin;
                for (const auto& [field, value] :
                     {std::pair{Field::sxx, stress[0]}, std::pair{Field::szz, stress[3]}, std::pair{Field::exx, 0.01},
                      std::pair{Field::exy, 0.02}, std::pair{Field::von_mises, von_mises(stress)},
                      std::pair{Field::max_principal, principal(stress)[0]},
                      std::pair{Field::min_principal, principal(stress)[2]}, std::pair{Field::flux_y, 3.4},
                      std::pair{Field::flux, 1.7 * std::sqrt(14)}}) {
                    CHECK(find_extreme(field, true, from, {}).value == doctest::Approx(value).epsilon(1e-8));
                    CHECK(find_extreme(field, false, from, {"x0"}).value == doctest::Approx(value).epsilon(1e-8));
                }
            }
        }
}

TEST_CASE("a peak between the nodes of a solid is found, inside and on a face, where the field itself has it") {
    const SolidLaws laws{{solid_law(material())}};
    for (const CubeCut cut : all_cuts) {
        CAPTURE(static_cast<int>(cut));
        SolidMesh mesh = cut_cube(cut, 4, 2, still);
        name_sides(mesh);
        const Vec3 peak{{0.41, 0.57, 0.33}};
        CaseFieldsIn<3> fields;
        for (const auto n : mesh.node_of_slot) {
            const Vec3 d = mesh.nodes[static_cast<std::size_t>(n)] - peak;
            fields.solution.potential.push_back(7 - dot(d, d));
        }
        const FieldSourceIn<3> source{mesh, laws, fields};
        const auto inside = find_extreme(Field::potential, true, source, {});
        CHECK(inside.value == doctest::Approx(7).epsilon(1e-6));
        CHECK(distance(inside.position, peak) < 2e-3);
        const auto face = find_extreme(Field::potential, true, source, {"z1"});
        CHECK(face.value == doctest::Approx(7 - 0.67 * 0.67).epsilon(1e-6));
        CHECK(distance(face.position, Vec3{{0.41, 0.57, 1}}) < 2e-3);
        // By what it is made of: of the displacement's magnitude, along it.
        const auto at = evaluate<3>(mesh.kinds[0], mesh.positions(0), reference_middle<3>(mesh.kinds[0]));
        fields.solution.displacement = even_fields(mesh).displacement;
        const auto g = field_gradient(Field::displacement, source, 0, at);
        const Vec3 u = values_at(source, 0, at).displacement;
        CHECK(distance(g.displacement, u / norm(u)) < 1e-9);
    }
}

TEST_SUITE_END();
