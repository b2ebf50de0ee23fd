// Solids of each element kind: patch tests, orders of convergence of a manufactured solution, both solvers.

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>

#include "solve/field_system.hpp"
#include "solve/solid_problem.hpp"
#include "support/cubes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

MaterialSpec material() {
    MaterialSpec m;
    m.name = "foam";
    m.youngs_modulus = 80;
    m.poissons_ratio = 0.3;
    m.conductivity = {{1.7, 1.7}};
    return m;
}

/// Moves what lies inside the cube, here and there.
Vec3 shaken(const Vec3& p) {
    Vec3 out = p;
    double inside = 1;
    for (std::size_t a = 0; a < 3; ++a) inside *= std::fabs(p[a]) < 1e-9 || std::fabs(p[a] - 1) < 1e-9 ? 0 : 1;
    for (std::size_t a = 0; a < 3; ++a)
        out[a] += inside * 0.045 * std::sin(17.3 * p[0] + 31.7 * p[1] + 11.9 * p[2] + 2.1 * static_cast<double>(a));
    return out;
}
/// Bends it smoothly, its outline too.
Vec3 bent(const Vec3& p) {
    return p + Vec3{{0.08 * std::sin(2 * p[1]), 0.06 * std::sin(2 * p[2] + p[0]), 0.07 * p[0] * p[1]}};
}

/// Everything on the outline has these values, one for each component.
SolidRows held(int components, std::function<void(const Vec3&, std::span<double>)> value) {
    return [components, value](const SolidMesh& mesh) {
        std::vector<ConstraintRow> rows;
        const auto outer = outer_nodes(mesh);
        std::array<double, 3> v{};
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
            if (!outer[n]) continue;
            value(mesh.nodes[n], std::span(v).first(static_cast<std::size_t>(components)));
            for (int c = 0; c < components; ++c)
                rows.push_back({{{static_cast<std::int32_t>(n) * components + c, 1.0}},
                                {v[static_cast<std::size_t>(c)]},
                                0});
        }
        return rows;
    };
}

/// u = amplitude sin(wave . x), and what makes it.
struct Wave {
    Vec3 amplitude{{0.7, -1.1, 0.4}}, wave{{1.3, 0.9, -1.6}};
    [[nodiscard]] Vec3 displacement(const Vec3& x) const { return amplitude * std::sin(dot(wave, x)); }
    [[nodiscard]] Tensor6 strain(const Vec3& x) const {
        const double c = std::cos(dot(wave, x));
        const Vec3 &a = amplitude, &k = wave;
        return {c * a[0] * k[0],
                c * a[1] * k[1],
                c * (a[0] * k[1] + a[1] * k[0]),
                c * a[2] * k[2],
                c * (a[1] * k[2] + a[2] * k[1]),
                c * (a[2] * k[0] + a[0] * k[2])};
    }
    /// -div of the stress, by Lame's constants.
    [[nodiscard]] Vec3 force(const MaterialSpec& m, const Vec3& x) const {
        const double nu = m.poissons_ratio, mu = m.youngs_modulus / (2 * (1 + nu)), lambda = 2 * mu * nu / (1 - 2 * nu);
        return (wave * ((lambda + mu) * dot(amplitude, wave)) + amplitude * (mu * dot(wave, wave))) *
               std::sin(dot(wave, x));
    }
};

/// Error in the energy norm, elastic and of the potential sin(wave . x).
std::array<double, 2> energy_errors(const SolidMesh& mesh, SolverMethod method, int* steps = nullptr) {
    const Wave w;
    const MaterialSpec m = material();
    const std::vector<SolidLaw> laws{solid_law(m)};
    SolverSpec spec;
    spec.method = method;
    const FieldProblem elastic =
        solid_displacement(mesh, laws, held(3, [&](const Vec3& x, std::span<double> v) {
                               for (std::size_t c = 0; c < 3; ++c) v[c] = w.displacement(x)[c];
                           }));
    FieldSystem system(elastic, {solid_body_forces(mesh, elastic.layout,
                                                   [&](const Vec3& x, std::span<double> f) {
                                                       for (std::size_t c = 0; c < 3; ++c) f[c] = w.force(m, x)[c];
                                                   })},
                       spec);
    const auto values = system.solve(0);
    if (steps) *steps = system.report().steps;
    std::vector<Vec3> u(mesh.nodes.size());
    for (std::size_t n = 0; n < u.size(); ++n) u[n] = vector_at<3>(values, n);
    const double k = (*m.conductivity)[0];
    const FieldProblem conducting = solid_potential(
        mesh, laws, held(1, [&](const Vec3& x, std::span<double> v) { v[0] = std::sin(dot(w.wave, x)); }));
    FieldSystem heat(conducting, {solid_body_forces(mesh, conducting.layout,
                                                    [&](const Vec3& x, std::span<double> f) {
                                                        f[0] = k * dot(w.wave, w.wave) * std::sin(dot(w.wave, x));
                                                    })},
                     spec);
    const auto potential = heat.solve(0);
    std::array<double, 2> sum{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (const auto& q : quadrature<3>(mesh.kinds[e], 6)) {
            const auto at = evaluate<3>(mesh.kinds[e], p, q.xi);
            Tensor6 off = solid_strain(mesh, u, e, at);
            const Tensor6 exact = w.strain(at.position);
            for (std::size_t c = 0; c < 6; ++c) off[c] -= exact[c];
            const Tensor6 stress = laws[0].stress(off);
            for (std::size_t c = 0; c < 6; ++c) sum[0] += q.weight * at.jacobian * off[c] * stress[c];
            const Vec3 gap =
                solid_gradient(mesh, potential, e, at) - w.wave * std::cos(dot(w.wave, at.position));
            sum[1] += q.weight * at.jacobian * k * dot(gap, gap);
        }
    }
    return {std::sqrt(sum[0]), std::sqrt(sum[1])};
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("patch tests of solids: linear fields are exact on shaken cubes of every kind") {
    const MaterialSpec m = material();
    const std::vector<SolidLaw> laws{solid_law(m)};
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
                FieldSystem system(problem,
                                   {std::vector<double>(static_cast<std::size_t>(problem.layout.dofs), 0.0)}, {});
                REQUIRE(system.unknowns() > 0);
                const auto values = system.solve(0);
                double worst = 0;
                std::array<double, 3> exact{};
                for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
                    linear(mesh.nodes[n], std::span(exact).first(static_cast<std::size_t>(components)));
                    for (std::size_t c = 0; c < static_cast<std::size_t>(components); ++c)
                        worst = std::max(
                            worst, std::fabs(values[n * static_cast<std::size_t>(components) + c] - exact[c]));
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
