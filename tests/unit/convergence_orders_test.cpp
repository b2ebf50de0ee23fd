// Observed orders against theory on smooth problems with known stress: polynomials from Airy functions, with tractions
// on the whole rim, on straight and on curved boundaries.

#include <doctest/doctest.h>

#include <cmath>

#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "recovery/estimate.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Errors {
    double elements = 0, energy = 0, recovered = 0, strain_energy = 0;
};

/// Energy-norm errors of the elements' stress and of the recovered one.
Errors errors_of(const Study& study, const Part& part, double finer) {
    const Mesh mesh = generate(part, sizing_of(part, study.sizes, study.path).scaled(1 / finer), 1'000'000);
    const Solution s = solve_study(mesh, study);
    const Laws laws = laws_of(study, mesh.region_names);
    const ElasticLaw& law = laws.regions[0].elastic;
    const auto recovered = recover_stress(mesh, study, laws, s);
    const TrueError truth = true_error(mesh, laws, s, *study.exact_stress, "t");
    std::vector<FormulaEvaluator> exact;
    for (const auto& f : study.exact_stress->components) exact.emplace_back(f, "t");
    double sum = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (const auto& q : triangle_rule(6)) {
            const ElementPoint at = evaluate(mesh.kinds[e], p, q.xi);
            const FormulaPlace place{at.position, {}, study.exact_stress->about};
            const Stress r = interpolate(mesh, recovered.slots, e, at);
            sum += q.weight * at.jacobian *
                   law.energy_norm2({r[0] - exact[0](place), r[1] - exact[1](place), r[2] - exact[2](place)});
        }
    }
    return {static_cast<double>(mesh.element_count()), std::sqrt(truth.error2), std::sqrt(sum), s.strain_energy};
}

double order(double coarse, double fine, double coarse_elements, double fine_elements) {
    return 2 * std::log(coarse / fine) / std::log(fine_elements / coarse_elements);  // h ~ elements^(-1/2)
}

/// Stresses of the Airy function x^5 - 10 x^3 y^2 + 5 x y^4 + 2 x y^3 + y^3/2: in equilibrium and compatible.
const std::string field =
    "[variables]\n"
    "sxx = \"-20 * x^3 + 60 * x * y^2 + 12 * x * y + 3 * y\"\n"  // its second derivative by y
    "syy = \"20 * x^3 - 60 * x * y^2\"\n"                        // by x
    "sxy = \"60 * x^2 * y - 20 * y^3 - 6 * y^2\"\n";             // minus the mixed one

const std::string held =
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[load.rim]\non = \"rim\"\ntraction = [\"sxx * nx + sxy "
    "* ny\", \"sxy * nx + syy * ny\"]\n"
    "[exact_stress]\nsxx = \"sxx\"\nsyy = \"syy\"\nsxy = \"sxy\"\n";

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("second order in the energy norm, fourth in the energy; recovered stress more than half an order better") {
    const Study study = study_from(
        "format = 1\n" + field + "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nname = \"rim\"\n" + held +
        "[support.a]\nat = [0, 0]\nux = 0\nuy = 0\n[support.b]\nat = [1, 0]\nuy = 0\n[size]\nglobal = 0.2\n");
    Problems problems("t");
    const Part part = build_part(study, problems).part;
    const Errors a = errors_of(study, part, 1), b = errors_of(study, part, 2), c = errors_of(study, part, 4);
    CHECK(order(b.energy, c.energy, b.elements, c.elements) == doctest::Approx(2).epsilon(0.06));
    CHECK(order(b.recovered, c.recovered, b.elements, c.elements) > 2.5);
    const double exact_energy =
        c.strain_energy + 0.5 * c.energy * c.energy;  // Galerkin: energies differ by the error's
    CHECK(a.strain_energy + 0.5 * a.energy * a.energy == doctest::Approx(exact_energy).epsilon(1e-6));
    CHECK(order(exact_energy - a.strain_energy, exact_energy - b.strain_energy, a.elements, b.elements) ==
          doctest::Approx(4).epsilon(0.1));
}

TEST_CASE("the same orders on a part with curved sides") {
    const Study study = study_from(
        "format = 1\n" + field +
        "[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[-1, -1], [1, -1], [1, 1], [-1, 1]]\nrounds = { 3 = 1, "
        "4 = 0.5 }\nname = \"rim\"\n"
        "[[part.shape]]\ncut = \"ellipse\"\nradii = [0.4, 0.25]\nangle = 0.4\nname = \"rim\"\n" +
        held + "[support.a]\nat = [-1, -1]\nux = 0\nuy = 0\n[support.b]\nat = [1, -1]\nuy = 0\n[size]\nglobal = 0.3\n");
    Problems problems("t");
    const Part part = build_part(study, problems).part;
    REQUIRE(problems.empty());
    const Errors b = errors_of(study, part, 2), c = errors_of(study, part, 4);
    CHECK(order(b.energy, c.energy, b.elements, c.elements) == doctest::Approx(2).epsilon(0.1));
    CHECK(order(b.recovered, c.recovered, b.elements, c.elements) > 2.4);
}

TEST_CASE("the true error of a singular field is integrated to its accuracy") {
    // One element, no displacement: the error is the exact field's own energy, known in closed form for r^(-1/2).
    const Study study = study_from(
        "format = 1\n[part]\nthickness = 2\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1, 0], [0, "
        "1]]\nnames = { side1 = "
        "\"left\", side2 = \"right\" }\n" +
        rest_of_study() + "[size]\nglobal = 5\n[exact_stress]\nsxx = \"r^(-0.45)\"\nsyy = 0\nsxy = 0\n");
    Problems problems("t");
    const Part part = build_part(study, problems).part;
    const Mesh mesh = generate(part, sizing_of(part, study.sizes, study.path), 100);
    Solution still;
    still.displacement.resize(mesh.nodes.size());
    const TrueError e = true_error(mesh, laws_of(study, mesh.region_names), still, *study.exact_stress, "t");
    // integral of r^-0.9 over the triangle: integral over theta of R(theta)^1.1 / 1.1, R = 1 / (cos + sin)
    double truth = 0;
    constexpr int n = 20000;
    for (int k = 0; k < n; ++k) {
        const double theta = (k + 0.5) / n * 1.5707963267948966;
        truth += std::pow(1 / (std::cos(theta) + std::sin(theta)), 1.1) / 1.1 * 1.5707963267948966 / n;
    }
    CHECK(e.error2 == doctest::Approx(2 * truth / 200000).epsilon(2e-3));
    CHECK(e.energy2 == doctest::Approx(e.error2));
    CHECK(e.relative() == doctest::Approx(1));
}

TEST_SUITE_END();
