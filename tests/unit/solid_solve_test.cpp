// Solids of each element kind: patch tests, orders of convergence of a manufactured solution, both solvers.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "solve/system/field_system.hpp"
#include "support/cubes.hpp"
#include "support/waves.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// Error in the energy norm, elastic and of the potential sin(wave . x).
std::array<double, 2> energy_errors(const SolidMesh& mesh, SolverMethod method, int* steps = nullptr) {
    const Wave w;
    const MaterialSpec m = material();
    const SolidLaws laws{{solid_law(m)}};
    const SolutionIn<3> solution = solve_wave(w, mesh, m, method, steps);
    const double k = (*m.conductivity)[0];
    std::array<double, 2> sum{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (const auto& q : quadrature<3>(mesh.kinds[e], 6)) {
            const auto at = evaluate<3>(mesh.kinds[e], p, q.xi);
            const Strain3 off = difference(strain_at(mesh, solution.displacement, e, at), w.strain(at.position));
            sum[0] += q.weight * at.jacobian * contraction(off, laws.of(0).elastic.stress(off));
            const Vec3 gap =
                slot_gradient(mesh, solution.potential, e, at) - w.wave * std::cos(dot(w.wave, at.position));
            sum[1] += q.weight * at.jacobian * k * dot(gap, gap);
        }
    }
    return {std::sqrt(sum[0]), std::sqrt(sum[1])};
}

/// By where the middle of a side lies.
std::function<bool(const BoundarySide&)> sides_at(const SolidMesh& mesh, const std::function<bool(const Vec3&)>& fits) {
    return [&mesh, fits](const BoundarySide& side) {
        const auto p = mesh.positions(static_cast<std::size_t>(side.element));
        const KindTable& table = table_of(mesh.kinds[static_cast<std::size_t>(side.element)]);
        const auto s = static_cast<std::size_t>(side.side);
        Vec3 middle;
        for (std::size_t c = 0; c < table.side_corners[s]; ++c) middle += p[table.side[s][c]];
        return fits(middle / static_cast<double>(table.side_corners[s]));
    };
}
bool at_start(const Vec3& x) {
    return x[0] < 1e-9;
}
bool elsewhere(const Vec3& x) {
    return !at_start(x);
}
void put(const Vec3& v, std::span<double> f) {
    std::copy(v.c.begin(), v.c.end(), f.begin());
}
/// Held at x = 0 alone, as `value` says.
SolidRows held_at_start(const std::function<void(const Vec3&, std::span<double>)>& value) {
    return [value](const SolidMesh& on) { return solid_side_rows(on, 3, sides_at(on, at_start), value); };
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("patch tests of solids: linear fields are exact on shaken cubes of every kind") {
    const MaterialSpec m = material();
    const SolidLaws laws{{solid_law(m)}};
    const auto linear = [](const Vec3& x, std::span<double> v) {
        constexpr double g[3][3] = {{0.3, -0.2, 0.5}, {0.1, 0.4, -0.6}, {-0.7, 0.2, 0.15}};
        for (std::size_t c = 0; c < v.size(); ++c) v[c] = 0.1 + g[c][0] * x[0] + g[c][1] * x[1] + g[c][2] * x[2];
    };
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const SolidMesh mesh = cut_cube(cut, 4, degree, shaken);
            for (const int components : {1, 3}) {
                const FieldProblem problem = components == 3 ? solid_displacement(mesh, laws, held(3, linear))
                                                             : solid_potential(mesh, laws, held(1, linear));
                FieldSystem system(problem, {std::vector<double>(static_cast<std::size_t>(problem.layout.dofs), 0.0)},
                                   {});
                REQUIRE(system.unknowns() > 0);
                const auto values = system.solve(0);
                double worst = 0;
                std::array<double, 3> exact{};
                for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
                    linear(mesh.nodes[n], std::span(exact).first(static_cast<std::size_t>(components)));
                    for (std::size_t c = 0; c < static_cast<std::size_t>(components); ++c)
                        worst =
                            std::max(worst, std::fabs(values[n * static_cast<std::size_t>(components) + c] - exact[c]));
                }
                CHECK(worst < 1e-12);
            }
        }
}

TEST_CASE("orders of convergence of every solid kind are those of theory") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const int cells = degree == 2 && cut != CubeCut::mixed ? 3 : 4;
            const auto coarse = energy_errors(cut_cube(cut, cells, degree, bent, true), SolverMethod::automatic),
                       fine = energy_errors(cut_cube(cut, 2 * cells, degree, bent, true), SolverMethod::automatic);
            for (std::size_t k = 0; k < 2; ++k) {
                const double order = std::log2(coarse[k] / fine[k]);
                CAPTURE(order);
                CHECK(std::fabs(order - degree) < 0.05);
            }
        }
}

TEST_CASE("a solid that nothing holds is told with a place in it") {
    const SolidLaws laws{{solid_law(material())}};
    const SolidMesh mesh = cut_cube(CubeCut::wedges, 2, 1, bent);
    const FieldProblem problem =
        solid_displacement(mesh, laws, [](const SolidMesh&) { return std::vector<ConstraintRow>{}; });
    try {
        FieldSystem system(problem, {std::vector<double>(static_cast<std::size_t>(problem.layout.dofs), 0.0)}, {});
        FAIL("it has a factor");
    } catch (const SolveError& e) {
        REQUIRE(e.place().position);
        CHECK(e.place().position->in_space());
        const Position& p = *e.place().position;
        CHECK(std::any_of(mesh.nodes.begin(), mesh.nodes.end(), [&](const Vec3& n) {
            return distance(n, Vec3{{p[0], p[1], p[2]}}) == 0;
        }));
    }
    // Equations that say different things of one degree of freedom.
    CHECK_THROWS_AS(
        (void)solid_potential(mesh, laws,
                              [](const SolidMesh&) {
                                  return std::vector<ConstraintRow>{{{{0, 1.0}}, {1.0}, 0}, {{{0, 1.0}}, {2.0}, 1}};
                              }),
        InputError);
}

TEST_CASE("an even stress by tractions on five faces of shaken cubes is exact") {
    const SolidLaws laws{{solid_law(material())}};
    const Strain3 strain{0.01, -0.004, 0.006, 0.003, -0.002, 0.005};
    const Stress3 stress = laws.of(0).elastic.stress(strain);
    const auto linear = [&](const Vec3& x, std::span<double> u) {
        u[0] = strain[0] * x[0] + strain[2] / 2 * x[1] + strain[5] / 2 * x[2];
        u[1] = strain[2] / 2 * x[0] + strain[1] * x[1] + strain[4] / 2 * x[2];
        u[2] = strain[5] / 2 * x[0] + strain[4] / 2 * x[1] + strain[3] * x[2];
    };
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const SolidMesh mesh = cut_cube(cut, 4, degree, shaken);
            const FieldProblem problem = solid_displacement(mesh, laws, held_at_start(linear));
            const auto even = [&](const Vec3&, const Vec3& n, std::span<double> f) { put(traction(stress, n), f); };
            FieldSystem system(problem, {solid_side_forces(mesh, problem.layout, sides_at(mesh, elsewhere), even)}, {});
            const auto values = system.solve(0);
            double worst = 0;
            std::array<double, 3> exact{};
            for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
                linear(mesh.nodes[n], exact);
                worst = std::max(worst, distance(vector_at<3>(values, n), Vec3{exact}));
            }
            CHECK(worst < 1e-12);
        }
}

TEST_CASE("the wave, drawn by its tractions, is met with the order of the displacement") {
    const MaterialSpec m = material();
    const SolidLaws laws{{solid_law(m)}};
    const Wave w;
    for (const CubeCut cut : {CubeCut::tetrahedra, CubeCut::hexahedra, CubeCut::wedges, CubeCut::pyramids})
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            std::array<double, 2> off{};
            for (std::size_t k = 0; k < 2; ++k) {
                const SolidMesh mesh = cut_cube(cut, k == 0 ? 2 : 4, degree, bent, true);
                const FieldProblem problem =
                    solid_displacement(mesh, laws, held_at_start([&](const Vec3& x, std::span<double> v) {
                                           for (std::size_t c = 0; c < 3; ++c) v[c] = w.displacement(x)[c];
                                       }));
                auto force = solid_body_forces(mesh, problem.layout, [&](const Vec3& x, std::span<double> f) {
                    for (std::size_t c = 0; c < 3; ++c) f[c] = w.force(m, x)[c];
                });
                const auto sides = solid_side_forces(mesh, problem.layout, sides_at(mesh, elsewhere),
                                                     [&](const Vec3& x, const Vec3& n, std::span<double> f) {
                                                         put(traction(laws.of(0).elastic.stress(w.strain(x)), n), f);
                                                     });
                for (std::size_t d = 0; d < force.size(); ++d) force[d] += sides[d];
                FieldSystem system(problem, {force}, {});
                const auto u = system.solve(0);
                for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
                    const Vec3 gap = vector_at<3>(u, n) - w.displacement(mesh.nodes[n]);
                    off[k] += dot(gap, gap) / static_cast<double>(mesh.nodes.size());
                }
            }
            CHECK(std::log2(off[0] / off[1]) / 2 > degree + 0.4);  // on the way to degree + 1
        }
}

TEST_CASE("two materials in a row share one potential, and one displacement") {
    MaterialSpec soft = material(), stiff = material();
    soft.poissons_ratio = stiff.poissons_ratio = 0;
    stiff.youngs_modulus *= 5;
    stiff.conductivity = {{5 * 1.7, 5 * 1.7, 5 * 1.7}};
    const SolidLaws laws{{solid_law(soft), solid_law(stiff)}};
    for (const CubeCut cut : all_cuts) {
        CAPTURE(static_cast<int>(cut));
        SolidMesh mesh = cut_cube(cut, 4, 2, [](const Vec3& x) { return x; });
        for (std::size_t e = 0; e < mesh.element_count(); ++e) mesh.region[e] = mesh.centre_of(e)[0] > 0.5 ? 1 : 0;
        mesh.region_names = {"soft", "stiff"};
        connect(mesh);
        CHECK(mesh.node_of_slot.size() > mesh.nodes.size() + 64);
        // From 0 to 1 along x; five sixths of it lie in the soft half.
        const auto rise = [](double x) { return x < 0.5 ? x * 10 / 6 : 1 - (1 - x) * 2 / 6; };
        const auto along = [&](const Vec3& x, std::span<double> v) {
            v[0] = rise(x[0]);
            for (std::size_t c = 1; c < v.size(); ++c) v[c] = 0;
        };
        for (const int components : {1, 3}) {
            const SolidRows rows = [&](const SolidMesh& on) {
                return solid_side_rows(
                    on, components, sides_at(on, [](const Vec3& x) { return at_start(x) || x[0] > 1 - 1e-9; }), along);
            };
            const FieldProblem problem =
                components == 1 ? solid_potential(mesh, laws, rows) : solid_displacement(mesh, laws, rows);
            FieldSystem system(problem, {std::vector<double>(static_cast<std::size_t>(problem.layout.dofs), 0.0)}, {});
            const auto values = system.solve(0);
            double worst = 0;
            for (std::int32_t d = 0; d < problem.layout.dofs; ++d) {
                const auto at = static_cast<std::size_t>(problem.layout.node_of(d));
                const std::size_t n = components == 1 ? static_cast<std::size_t>(mesh.node_of_slot[at]) : at;
                const double exact = problem.layout.component_of(d) == 0 ? rise(mesh.nodes[n][0]) : 0;
                worst = std::max(worst, std::fabs(values[static_cast<std::size_t>(d)] - exact));
            }
            CHECK(worst < 1e-12);
            // What one force does where another acts is what that one does where the first acts.
            std::vector<double> here(static_cast<std::size_t>(problem.layout.dofs), 0.0), there = here;
            const auto middle = static_cast<std::size_t>(problem.layout.dofs / 2);
            here[middle] = 1;
            there[middle / 3] = 1;
            CHECK(system.respond(here)[middle / 3] == doctest::Approx(system.respond(there)[middle]).epsilon(1e-9));
        }
    }
}

TEST_CASE("an isotropic solid is as stiff by its two constants as by all six components") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            const SolidMesh mesh = cut_cube(cut, 4, degree, bent, true);
            const SolidLaws quick{{solid_law(material())}};
            auto general = quick;
            general.regions[0].isotropic = false;
            const SolidRows none = [](const SolidMesh&) { return std::vector<ConstraintRow>{}; };
            const FieldProblem a = solid_displacement(mesh, quick, none), b = solid_displacement(mesh, general, none);
            ElementMatrix ka, kb;
            for (std::size_t e = 0; e < mesh.element_count(); e += 7) {
                a.element_matrix(e, ka);
                b.element_matrix(e, kb);
                REQUIRE(ka.rows() == kb.rows());
                for (std::size_t i = 0; i < ka.rows(); ++i)
                    for (std::size_t j = 0; j <= i; ++j)
                        CHECK(ka(i, j) == doctest::Approx(kb(i, j)).scale(ka(0, 0)).epsilon(1e-12));
            }
        }
}

TEST_CASE("an iteration that stalls leaves its work to the direct solver, though its matrix is gone") {
    MaterialSpec m = material();
    m.poissons_ratio = 0.4999999;
    const SolidLaws laws{{solid_law(m)}};
    const SolidMesh mesh = cut_cube(CubeCut::tetrahedra, 4, 2, shaken);
    const Wave w;
    const FieldProblem problem = solid_displacement(
        mesh, laws, held_at_start([](const Vec3&, std::span<double> v) { std::fill(v.begin(), v.end(), 0.0); }));
    const auto force =
        solid_body_forces(mesh, problem.layout, [&](const Vec3& x, std::span<double> f) { put(w.displacement(x), f); });
    const auto by = [&](SolverMethod method, std::int64_t iterated) {
        SolverSpec spec;
        spec.method = method;
        FieldSystem system(problem, {force}, spec, iterated);
        const auto values = system.solve(0);
        // What was assembled again serves further right sides, too.
        const auto twice = system.respond(force);
        CHECK(distance(vector_at<3>(twice, 99), vector_at<3>(values, 99)) <= 1e-9 * norm(vector_at<3>(values, 99)));
        return values;
    };
    CHECK_THROWS_WITH_AS((void)by(SolverMethod::iterative, many_unknowns), doctest::Contains("stalls"), SolveError);
    const auto direct = by(SolverMethod::direct, many_unknowns), chosen = by(SolverMethod::automatic, 0);
    for (std::size_t d = 0; d < direct.size(); ++d) CHECK(chosen[d] == direct[d]);
}

TEST_CASE("both solvers give one answer on solids") {
    for (const CubeCut cut : all_cuts) {
        CAPTURE(static_cast<int>(cut));
        const SolidMesh mesh = cut_cube(cut, 4, 2, bent, true);
        int steps = 0;
        const auto direct = energy_errors(mesh, SolverMethod::direct),
                   iterative = energy_errors(mesh, SolverMethod::iterative, &steps);
        for (std::size_t k = 0; k < 2; ++k) CHECK(iterative[k] == doctest::Approx(direct[k]).epsilon(1e-6));
        CHECK(steps > 3);
        CHECK(steps < 30);
    }
}

TEST_SUITE_END();
