// The error of linear quantities over solids, by their dual problems.

#include <doctest/doctest.h>

#include <cmath>
#include <memory>
#include <numbers>
#include <numeric>

#include "base/gauss.hpp"
#include "goals/functional.hpp"
#include "goals/gap_products.hpp"
#include "goals/goal.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/system/field_system.hpp"
#include "support/cubes.hpp"
#include "support/waves.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

/// phi = sin pi x sin pi y sin pi z on the unit cube, zero on its outline; as a displacement times an amplitude.
double bump(const Vec3& x) {
    return std::sin(pi * x[0]) * std::sin(pi * x[1]) * std::sin(pi * x[2]);
}
constexpr Vec3 amplitude{{0.7, -1.1, 0.4}};

/// The force per volume that makes it, by Lame's constants: -(lambda + mu) grad div u - mu lap u.
Vec3 force_of(const MaterialSpec& m, const Vec3& x) {
    const double nu = m.poissons_ratio, mu = m.youngs_modulus / (2 * (1 + nu)), lambda = 2 * mu * nu / (1 - 2 * nu);
    Vec3 out = amplitude * (3 * mu * pi * pi * bump(x));
    for (std::size_t a = 0; a < 3; ++a)
        for (std::size_t b = 0; b < 3; ++b) {
            double second = pi * pi;  // of phi, by a and b
            for (std::size_t c = 0; c < 3; ++c)
                second *= a != b && (c == a || c == b) ? std::cos(pi * x[c]) : std::sin(pi * x[c]);
            out[a] -= (lambda + mu) * (a == b ? -second : second) * amplitude[b];
        }
    return out;
}

SolidRows still(int components) {
    return held(components, [](const Vec3&, std::span<double> v) { std::fill(v.begin(), v.end(), 0.0); });
}

}  // namespace

TEST_SUITE_BEGIN("goals");

TEST_CASE("the error of a weighted integral over a solid, by its dual problem, is about the true one") {
    const MaterialSpec m = material();
    const SolidLaws laws{{solid_law(m)}};
    const double k = (*m.conductivity)[0];
    // Weighted are the potential and the displacement by what makes them, more on one side than on the other.
    const auto heat_of = [&](const Vec3& x) { return 3 * pi * pi * k * bump(x); };
    const auto weight = [](const Vec3& x) { return 1 + x[0]; };
    double of_potential = 0, of_displacement = 0;
    gauss8(0, 1, [&](double x, double wx) {
        gauss8(0, 1, [&](double y, double wy) {
            gauss8(0, 1, [&](double z, double wz) {
                const Vec3 p{{x, y, z}};
                of_potential += wx * wy * wz * weight(p) * heat_of(p) * bump(p);
                of_displacement += wx * wy * wz * weight(p) * bump(p) * dot(force_of(m, p), amplitude);
            });
        });
    });
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            CAPTURE(degree);
            const SolidMesh mesh = cut_cube(cut, 8, degree, [](const Vec3& x) { return x + (shaken(x) - x) * 0.3; });
            SolutionIn<3> own, dual;
            const FieldProblem conducting = solid_potential(mesh, laws, still(1));
            const auto forces = [&](const FieldProblem& problem, bool weighted) {
                return solid_body_forces(mesh, problem.layout, [&](const Vec3& x, std::span<double> f) {
                    const double w = weighted ? weight(x) : 1;
                    for (std::size_t c = 0; c < f.size(); ++c)
                        f[c] = w * (f.size() == 1 ? heat_of(x) : force_of(m, x)[c]);
                });
            };
            FieldSystem heat(conducting, {forces(conducting, false)}, {});
            own.potential = heat.solve(0);
            const auto sought = forces(conducting, true);
            dual.potential = heat.respond(sought);
            const auto by_flux =
                flux_gap_products(mesh, laws, own, recover_flux(mesh, laws, own), dual, recover_flux(mesh, laws, dual));
            const double missing_heat =
                of_potential - std::inner_product(sought.begin(), sought.end(), own.potential.begin(), 0.0);
            const FieldProblem elastic = solid_displacement(mesh, laws, still(3));
            FieldSystem system(elastic, {forces(elastic, false)}, {});
            const auto u = system.solve(0), along = forces(elastic, true);
            own.displacement = vectors_at<3>(u, mesh.nodes.size());
            dual.displacement = vectors_at<3>(system.respond(along), mesh.nodes.size());
            const auto by_stress = stress_gap_products(mesh, laws, own, recover_stress(mesh, laws, own), dual,
                                                       recover_stress(mesh, laws, dual));
            const double missing = of_displacement - std::inner_product(along.begin(), along.end(), u.begin(), 0.0);
            const double heat_share = std::accumulate(by_flux.begin(), by_flux.end(), 0.0) / missing_heat,
                         share = std::accumulate(by_stress.begin(), by_stress.end(), 0.0) / missing;
            for (const double seen : {heat_share, share}) {
                CAPTURE(seen);
                CHECK(seen > 0.95);
                CHECK(seen < (degree == 1 ? 1.8 : 1.35));  // a half wave over eight cells: cubes come late
            }
        }
}

namespace {

/// A block with a bore and a pin of another region; its quantities of every kind that has a dual problem.
const std::string bored_block =
    "format = 1\n[[part.shape]]\nadd = \"box\"\nsize = [4, 2, 1]\nnames = { left = \"left\", right = \"right\", top = "
    "\"top\" }\nregion = \"block\"\n[[part.shape]]\nadd = \"box\"\ncorner = [2, 0, 0]\nsize = [1, 2, 0.5]\nregion = "
    "\"core\"\n[part.interface.joint]\nbetween = [\"block\", \"core\"]\n[material.m]\nyoungs_modulus = 1000\n"
    "poissons_ratio = 0.3\nexpansion = 1e-3\nconductivity = 2\n[material.n]\non = \"core\"\nyoungs_modulus = "
    "3000\npoissons_ratio = 0.2\nexpansion = 2e-3\nconductivity = 5\n[support.wall]\non = \"left\"\nhold = "
    "\"fixed\"\npotential = \"20 + 5 * y\"\n[load.air]\non = \"right\"\nflux = -30\n[load.core]\non = \"core\"\nsource "
    "= "
    "\"60 * x\"\n[load.pull]\non = \"right\"\ntraction = [2, \"1 + y\", -1]\n[size]\nglobal = 0.5\n[series.s]\nkind = "
    "\"uniform\"\n";

const std::string its_quantities =
    "[quantity.travel]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n[quantity.dip]\nof = \"uz\"\nat = [3.5, 1.5, "
    "0.9]\n[quantity.sum]\nof = \"uy\"\ntake = \"integral\"\non = \"core\"\n[quantity.shear]\nof = \"szx\"\ntake = "
    "\"mean\"\non = \"block\"\n[quantity.on_face]\nof = \"sxx\"\ntake = \"mean\"\non = \"top\"\n[quantity.spot]\nof = "
    "\"syz\"\nat = [1.5, 1, 0.6]\n[quantity.stretch]\nof = \"exx\"\ntake = \"mean\"\non = "
    "\"core\"\n[quantity.wall_force]\n"
    "of = \"reaction_z\"\non = \"wall\"\n[quantity.warmth]\nof = \"potential\"\ntake = \"mean\"\non = \"core\"\n"
    "[quantity.through]\nof = \"flux_x\"\ntake = \"integral\"\non = \"right\"\n[quantity.heat]\nof = "
    "\"reaction_flow\"\non "
    "= \"wall\"\n[quantity.equivalent]\nof = \"von_mises\"\ntake = \"mean\"\non = \"block\"\n";

struct SolvedSolid {
    StudyAndPart both;
    SolidMesh mesh;
    SolidLaws laws;
    CaseFieldsIn<3> fields;
    std::unique_ptr<SolidSolver> solver;
};

std::unique_ptr<SolvedSolid> solved_solid(const std::string& text, double finer) {
    auto s = std::make_unique<SolvedSolid>();
    Problems problems("test.toml");
    s->both = open_study("test.toml", text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Study& study = s->both.study;
    s->mesh = generate_solid(*s->both.solid, sizing_of(*s->both.solid, study.sizes, ".").scaled(1 / finer), 1'000'000,
                             study.mesh.order);
    s->laws = solid_laws(study, s->mesh.region_names);
    s->solver = std::make_unique<SolidSolver>(s->mesh, study, s->laws, true);
    s->fields.solution = s->solver->solve().front();
    s->fields.stress = recover_stress(s->mesh, s->laws, s->fields.solution);
    if (study.conducts()) s->fields.flux = recover_flux(s->mesh, s->laws, s->fields.solution);
    return s;
}

std::optional<Functional> functional(const SolvedSolid& s, const QuantitySpec& q, const CaseFieldsIn<3>& fields) {
    return functional_of(q, s.both.study, s.mesh, s.laws, fields,
                         s.solver->displacement_problem(fields.solution.load_case), q.at);
}

}  // namespace

TEST_CASE("the dual load of a solid's quantity is its derivative, of displacement and potential alike") {
    const auto s = solved_solid(bored_block + its_quantities, 1);
    for (const auto& q : s->both.study.quantities) {
        CAPTURE(q.name);
        const auto f = functional(*s, q, s->fields);
        REQUIRE(f);
        CHECK(f->linearised == (q.field == Field::von_mises));
        if (is_reaction(q.field)) continue;
        // Along some other field, by a difference on both sides.
        const double step = 1e-4;
        double by_load = 0;
        CaseFieldsIn<3> more = s->fields, less = s->fields;
        for (std::size_t n = 0; n < s->mesh.nodes.size(); ++n) {
            const Vec3& x = s->mesh.nodes[n];
            const Vec3 v{{std::sin(x[0] + 2 * x[1]), x[2] * x[0], std::cos(3 * x[2] - x[1])}};
            if (!f->on_displacement.empty()) by_load += dot(v, vector_at<3>(f->on_displacement, n));
            more.solution.displacement[n] += v * step;
            less.solution.displacement[n] -= v * step;
        }
        for (std::size_t k = 0; k < s->mesh.node_of_slot.size(); ++k) {
            const Vec3& x = s->mesh.nodes[static_cast<std::size_t>(s->mesh.node_of_slot[k])];
            const double t = std::sin(2 * x[0]) + x[1] * x[2];
            if (!f->on_potential.empty()) by_load += t * f->on_potential[k];
            more.solution.potential[k] += t * step;
            less.solution.potential[k] -= t * step;
            more.solution.temperature_change[k] += t * step;
            less.solution.temperature_change[k] -= t * step;
        }
        const double by_difference = (functional(*s, q, more)->value - functional(*s, q, less)->value) / (2 * step);
        CHECK(by_load ==
              doctest::Approx(by_difference).epsilon(f->linearised ? 1e-3 : 1e-5).scale(std::fabs(f->value)));
    }
}

TEST_CASE("errors of a solid's quantities have the right sign and about the right size") {
    // Without what makes the block's edges singular the finer mesh is the truth.
    std::string text = bored_block;
    const auto without = [&](const std::string& what, const std::string& instead) {
        REQUIRE(text.find(what) != std::string::npos);
        text.replace(text.find(what), what.size(), instead);
    };
    without("hold = \"fixed\"\npotential = \"20 + 5 * y\"",
            "ux = 0\npotential = 20\n[support.floor]\non = \"front\"\nuy = "
            "0\n[support.side]\non = \"bottom\"\nuz = 0");
    without("names = { left", "names = { front = \"front\", bottom = \"bottom\", left");
    without(
        "[material.n]\non = \"core\"\nyoungs_modulus = 3000\npoissons_ratio = 0.2\nexpansion = 2e-3\nconductivity = "
        "5\n",
        "");
    without("[2, \"1 + y\", -1]", "[\"2 + y^2\", 0, 0]");
    const std::string quantities =
        "[quantity.travel]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n[quantity.sink]\nof = \"uz\"\ntake = "
        "\"mean\"\non = \"top\"\n[quantity.core_stress]\nof = \"sxx\"\ntake = \"mean\"\non = "
        "\"core\"\n[quantity.warmth]\nof = "
        "\"potential\"\ntake = \"mean\"\non = \"right\"\n[quantity.wall_force]\nof = \"reaction_flow\"\non = "
        "\"wall\"\n";
    const auto coarse = solved_solid(text + quantities + "[mesh]\norder = 1\n", 2.5);
    const auto fine = solved_solid(text + quantities + "[mesh]\norder = 2\n", 3);
    for (const auto& q : coarse->both.study.quantities) {
        CAPTURE(q.name);
        QuantityValue value;
        value.name = q.name;
        const auto goal = estimate_goal(q, value, coarse->both.study, coarse->mesh, *coarse->solver, coarse->fields);
        REQUIRE(goal);
        const double truth = functional(*fine, q, fine->fields)->value, missing = truth - goal->value;
        CAPTURE(truth);
        CAPTURE(goal->value);
        CAPTURE(goal->error);
        if (std::fabs(missing) < 1e-6 * std::fabs(truth)) continue;  // the flow out is what goes in
        CHECK(goal->error / missing > 0.4);
        CHECK(goal->error / missing < 1.6);
        CHECK(std::fabs(goal->corrected() - truth) < goal->half_width);
    }
}

TEST_SUITE_END();
