// Recovered gradients over solids, and the error that they show, against a known wave.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "recovery/estimate.hpp"
#include "solve/system/field_system.hpp"
#include "support/cubes.hpp"
#include "support/waves.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Errors {
    double own = 0, recovered = 0, estimated = 0;
};

/// What is solved: strain, and gradient of the potential.
struct Truth {
    std::function<Strain3(const Vec3&)> strain;
    std::function<Vec3(const Vec3&)> gradient;
};

/// In the energy norm: of a displacement, and of a potential.
std::array<Errors, 2> errors_of(const SolidMesh& mesh, const MaterialSpec& m, const SolutionIn<3>& s,
                                const Truth& truth) {
    const SolidLaws laws{{solid_law(m)}};
    const double k = (*m.conductivity)[0];
    const auto stress = recover_stress(mesh, laws, s);
    const auto flux = recover_flux(mesh, laws, s);
    std::array<Errors, 2> out{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (const auto& q : quadrature<3>(mesh.kinds[e], 6)) {
            const auto at = evaluate<3>(mesh.kinds[e], p, q.xi);
            const double weight = q.weight * at.jacobian;
            const ElasticLawIn<3>& law = laws.of(0).elastic;
            const Stress3 exact = law.stress(truth.strain(at.position));
            out[0].own += weight * law.energy_norm2(difference(stress_at(mesh, laws, s, e, at), exact));
            out[0].recovered += weight * law.energy_norm2(difference(stress.at(mesh, laws, s, e, at), exact));
            const Vec3 flow = truth.gradient(at.position) * -k;
            const Vec3 own = flux_at(mesh, laws, s, e, at) - flow, better = flux.at(mesh, laws, e, at) - flow;
            out[1].own += weight / k * dot(own, own);
            out[1].recovered += weight / k * dot(better, better);
        }
    }
    out[0].estimated = estimate_error(mesh, laws, s, stress).error2;
    out[1].estimated = estimate_flux_error(mesh, laws, s, flux).error2;
    for (auto& e : out) e = {std::sqrt(e.own), std::sqrt(e.recovered), std::sqrt(e.estimated)};
    return out;
}

std::array<Errors, 2> errors_of_wave(const SolidMesh& mesh) {
    const Wave w;
    return errors_of(
        mesh, material(), solve_wave(w, mesh, material()),
        {[&](const Vec3& x) { return w.strain(x); }, [&](const Vec3& x) { return w.wave * std::cos(dot(w.wave, x)); }});
}

/// phi = exp(a x) sin(b y + 0.3) cos(c z) with a^2 = b^2 + c^2: a potential without sources, and as the potential of a
/// displacement one without forces.
struct Harmonic {
    static constexpr double a = 1.3, b = 0.5, c = 1.2;
    double e, s, t, u, v;
    explicit Harmonic(const Vec3& x)
        : e(std::exp(a * x[0])),
          s(std::sin(b * x[1] + 0.3)),
          t(std::cos(b * x[1] + 0.3)),
          u(std::cos(c * x[2])),
          v(std::sin(c * x[2])) {}
    [[nodiscard]] double value() const { return e * s * u; }
    [[nodiscard]] Vec3 gradient() const { return {{a * e * s * u, b * e * t * u, -c * e * s * v}}; }
    [[nodiscard]] Strain3 strain() const {  // of the gradient as displacement
        return {a * a * e * s * u,  -b * b * e * s * u,     2 * a * b * e * t * u,
                -c * c * e * s * u, -2 * b * c * e * t * v, -2 * a * c * e * s * v};
    }
};

std::array<Errors, 2> errors_of_harmonic(const SolidMesh& mesh) {
    MaterialSpec m = material();
    m.poissons_ratio = 0.2;
    const SolidLaws laws{{solid_law(m)}};
    SolutionIn<3> s;
    const FieldProblem elastic = solid_displacement(mesh, laws, held(3, [](const Vec3& x, std::span<double> v) {
                                                        const Vec3 g = Harmonic(x).gradient();
                                                        std::copy(g.c.begin(), g.c.end(), v.begin());
                                                    }));
    const auto nothing = [](const FieldProblem& p) {
        return std::vector<std::vector<double>>(1, std::vector<double>(static_cast<std::size_t>(p.layout.dofs), 0.0));
    };
    s.displacement = vectors_at<3>(FieldSystem(elastic, nothing(elastic), {}).solve(0), mesh.nodes.size());
    const FieldProblem conducting =
        solid_potential(mesh, laws, held(1, [](const Vec3& x, std::span<double> v) { v[0] = Harmonic(x).value(); }));
    s.potential = FieldSystem(conducting, nothing(conducting), {}).solve(0);
    return errors_of(
        mesh, m, s,
        {[](const Vec3& x) { return Harmonic(x).strain(); }, [](const Vec3& x) { return Harmonic(x).gradient(); }});
}

/// Sizes that change by more than half, sheared; its outline is not flat.
Vec3 graded(const Vec3& p) {
    return {{p[0] * (0.6 + 0.4 * p[0]), p[1] + 0.1 * std::sin(3 * p[2]) * p[1], p[2] * (1.2 - 0.2 * p[2])}};
}

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("recovered gradients over solids converge faster than the elements' own, and show their error") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const auto coarse = errors_of_wave(cut_cube(cut, 4, degree, bent, true)),
                       fine = errors_of_wave(cut_cube(cut, 8, degree, bent, true));
            for (std::size_t k = 0; k < 2; ++k) {
                const double order = std::log2(coarse[k].recovered / fine[k].recovered);
                const double effectivity = fine[k].estimated / fine[k].own, gain = fine[k].own / fine[k].recovered;
                CAPTURE(order);
                CAPTURE(effectivity);
                CAPTURE(gain);
                CHECK(order > degree + 0.8);
                CHECK(effectivity > (degree == 1 ? 1.0 : 0.99));
                CHECK(effectivity < (degree == 1 ? 1.15 : 1.02));  // linear cubes come to it late
                CHECK(gain > (degree == 1 ? 1.4 : 10.0));
            }
        }
}

TEST_CASE("recovery over solids holds on a field and on meshes that chose none of its rules") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2})
            for (const bool curved : {false, true}) {
                CAPTURE(static_cast<int>(cut));
                CAPTURE(degree);
                CAPTURE(curved);
                const auto shaken_too = [](const Vec3& x) { return graded(x + (shaken(x) - x) * 0.6); };
                const SolidMesh mesh =
                    curved ? cut_cube(cut, 8, degree, graded, true) : cut_cube(cut, 8, degree, shaken_too);
                for (const Errors& e : errors_of_harmonic(mesh)) {
                    CAPTURE(e.own / e.recovered);
                    CHECK(e.own / e.recovered > (degree == 1 ? 4.0 : 7.5));
                    CHECK(e.estimated / e.own > 0.94);
                    CHECK(e.estimated / e.own < 1.02);
                }
            }
}

TEST_CASE("polynomials one degree above the elements' are recovered exactly at every slot, region by region") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            SolidMesh mesh = cut_cube(cut, 4, degree, shaken);
            for (std::size_t e = 0; e < mesh.element_count(); ++e) mesh.region[e] = mesh.centre_of(e)[0] > 0.5 ? 1 : 0;
            mesh.region_names = {"a", "b"};
            connect(mesh);
            // With a kink where the regions meet.
            const auto kink = [](double x, int region) { return region == 0 ? 1.0 : 1 + 3 * (x - 0.5); };
            const auto value = [&](const Vec3& x, int region) {
                return kink(x[0], region) * (degree == 1 ? 1 + x[1] - x[2] : x[1] * x[2] + x[2] * x[2]);
            };
            std::vector<double> values(mesh.node_of_slot.size());
            std::vector<int> region_of(values.size());
            for (std::size_t e = 0; e < mesh.element_count(); ++e)
                for (const auto s : mesh.slots_of(e)) region_of[static_cast<std::size_t>(s)] = mesh.region[e];
            for (std::size_t s = 0; s < values.size(); ++s)
                values[s] = value(mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])], region_of[s]);
            const auto found = recover_gradients<1>(mesh, mesh.slots, values);
            double worst = 0;
            for (std::size_t s = 0; s < values.size(); ++s) {
                const Vec3 x = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])];
                const double f = kink(x[0], region_of[s]),
                             rest = degree == 1 ? 1 + x[1] - x[2] : x[1] * x[2] + x[2] * x[2];
                const Vec3 exact{{region_of[s] == 0 ? 0 : 3 * rest, f * (degree == 1 ? 1 : x[2]),
                                  f * (degree == 1 ? -1 : x[1] + 2 * x[2])}};
                worst = std::max(worst, distance(found[s][0], exact));
            }
            CHECK(worst < 1e-6);
        }
}

TEST_SUITE_END();
