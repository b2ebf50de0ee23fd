// Recovered gradients over solids, and the error that they show, against a known wave.

#include <doctest/doctest.h>

#include <cmath>

#include "recovery/estimate.hpp"
#include "support/cubes.hpp"
#include "support/waves.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Errors {
    double own = 0, recovered = 0, estimated = 0;
};

/// In the energy norm: of a displacement, and of a potential.
std::array<Errors, 2> errors_of(const SolidMesh& mesh) {
    const Wave w;
    const MaterialSpec m = material();
    const SolidLaws laws{{solid_law(m)}};
    const double k = (*m.conductivity)[0];
    const SolutionIn<3> s = solve_wave(w, mesh, m);
    const auto stress = recover_stress(mesh, laws, s);
    const auto flux = recover_flux(mesh, laws, s);
    std::array<Errors, 2> out{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (const auto& q : quadrature<3>(mesh.kinds[e], 6)) {
            const auto at = evaluate<3>(mesh.kinds[e], p, q.xi);
            const double weight = q.weight * at.jacobian;
            const ElasticLawIn<3>& law = laws.of(0).elastic;
            const Stress3 exact = law.stress(w.strain(at.position));
            out[0].own += weight * law.energy_norm2(difference(stress_at(mesh, laws, s, e, at), exact));
            out[0].recovered += weight * law.energy_norm2(difference(stress.at(mesh, laws, s, e, at), exact));
            const Vec3 flow = w.wave * (-k * std::cos(dot(w.wave, at.position)));
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

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("recovered gradients over solids converge faster than the elements' own, and show their error") {
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const auto coarse = errors_of(cut_cube(cut, 4, degree, bent, true)),
                       fine = errors_of(cut_cube(cut, 8, degree, bent, true));
            for (std::size_t k = 0; k < 2; ++k) {
                const double order = std::log2(coarse[k].recovered / fine[k].recovered);
                const double effectivity = fine[k].estimated / fine[k].own, gain = fine[k].own / fine[k].recovered;
                CAPTURE(order);
                CAPTURE(effectivity);
                CAPTURE(gain);
                CHECK(order > degree + 0.8);
                CHECK(effectivity > (degree == 1 ? 1.0 : 0.99));
                CHECK(effectivity < (degree == 1 ? 1.25 : 1.02));  // linear cubes come to it late
                CHECK(gain > (degree == 1 ? 1.1 : 7.0));
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
