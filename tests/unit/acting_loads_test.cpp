// What is known of tractions and fluxes on the outline, and of forces inside: the tables that fields are fitted to.

#include "solve/acting/acting_loads.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <set>

#include "base/errors.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A plate from (1, 0) to (5, 2), round whose axis x = 0 it may turn, with a hole.
const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [4, 2]\nnames = { left = \"left\", right = "
    "\"right\", top = \"top\", bottom = \"bottom\" }\n[[part.shape]]\ncut = \"circle\"\ncentre = [3, 1]\nradius = "
    "0.4\nname = \"hole\"\n";
const std::string material =
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\nconductivity = 5\ndensity = 2\n[size]\nglobal = "
    "0.5\n[quantity.energy]\nof = \"strain_energy\"\n";

struct Sums {
    Vec3 force{};
    Vec3 moment{};
    double flow = 0;
};

/// Everything that acts, added up from the tables. Of a transfer what the potential takes back is left out.
Sums sums_of(const SolvedCases& s, const ActingLoads& loads) {
    Sums sum;
    const auto add = [&](const Vec2& p, const Vec2& force, double flow, double weight) {
        sum.force += in_space(force) * weight;
        sum.moment += moment_in_space(cross(p, force) * weight);
        sum.flow += flow * weight;
    };
    for (const auto& side : loads.sides()) {
        const auto region = s.mesh.region[static_cast<std::size_t>(side.element)];
        for (std::size_t k = 0; k < side.points.size(); ++k) {
            const SidePoint& p = side.points[k];
            add(p.position, side.traction[k], side.flux[k], p.length * s.laws.depth(region, p.position));
        }
    }
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e)
        for (const auto& q : quadrature(s.mesh.kinds[e], 6)) {
            const ElementPoint p = evaluate(s.mesh.kinds[e], s.mesh.positions(e), q.xi);
            const auto d = loads.inside(e, p);
            add(p.position, d.force, d.flow, q.weight * p.jacobian * s.laws.depth(s.mesh.region[e], p.position));
        }
    return sum;
}

/// Of the first load case, on the named boundary.
std::vector<SideLoad> sides_on(const SolvedCases& s, const ActingLoads& loads, const std::string& name) {
    std::set<std::pair<std::int32_t, std::int32_t>> wanted;
    for (const auto& b : s.mesh.boundary)
        if (Meant(s.mesh, {name}).side(b)) wanted.insert({b.element, b.side});
    std::vector<SideLoad> out;
    for (const auto& l : loads.sides())
        if (wanted.count({l.element, l.side}) > 0) out.push_back(l);
    CHECK(out.size() == wanted.size());
    REQUIRE(!out.empty());
    return out;
}

/// How many directions are known at every point of a boundary; -1 if that differs. With one, it is along `direction`.
int known_on(const SolvedCases& s, const ActingLoads& loads, const std::string& name, const Vec2& direction = {}) {
    int count = -2;
    for (const auto& side : sides_on(s, loads, name))
        for (const auto& known : side.known) {
            const int here = (known[0] == Vec2{} ? 0 : 1) + (known[1] == Vec2{} ? 0 : 1);
            if (count == -2) count = here;
            if (here != count) return -1;
            if (here == 1) CHECK(std::fabs(cross(known[0], direction)) < 1e-12 * norm(direction));
            if (here == 2) CHECK(std::fabs(cross(known[0], known[1])) == doctest::Approx(1));
        }
    return count;
}

ActingLoads acting(const SolvedCases& s, std::size_t k = 0) {
    return {s.mesh, s.both.study, s.laws, s.solution(k).load_case};
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("tractions, fluxes and forces inside make the totals of the loads, in every case") {
    const std::string loads =
        "[load.squeeze]\non = \"hole\"\npressure = \"3 + x\"\n[load.pull]\non = \"right\"\ntraction = [\"2 * y\", "
        "\"1\"]\n[load.lean]\non = \"top\"\nforce = [1, -4]\nspread = \"1 + (x - 1) / 4\"\n[load.turn]\non = "
        "\"right\"\nmoment = 5\n[load.weight]\ngravity = [0, -10]\n[load.push]\nbody_force = [\"x\", \"-y\"]\n"
        "[load.spin]\nrotation = 1.5\nabout = [1, 1]\n";
    const std::string heat =
        "[load.warm]\non = \"right\"\nflux = \"7 * y\"\n[load.stove]\non = \"hole\"\nflow = 11\n[load.glow]\nsource = "
        "\"x + y\"\n";
    const std::string held =
        "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[support.cold]\non = \"bottom\"\npotential = 0\n";
    const std::string cases =
        "[case.plain]\nfactors = { squeeze = 1, pull = 1, lean = 1, turn = 1, weight = 1, push = 1, spin = 1, warm = "
        "1, stove = 1, glow = 1 }\n[case.mixed]\nfactors = { squeeze = -2, lean = 0.5, weight = 3, glow = 4 }\n";
    for (const std::string plane : {"stress\"\nthickness = 2\n", "strain\"\n"})
        for (const int order : {1, 2}) {
            CAPTURE(plane);
            CAPTURE(order);
            const auto s = solve_cases_of("[part]\nplane = \"" + plane + plate + material + held + loads + heat +
                                          cases + fmt::format("[mesh]\norder = {}\n", order));
            REQUIRE(s.cases.size() == 2);
            for (std::size_t k = 0; k < 2; ++k) {
                const Sums sum = sums_of(s, acting(s, k));
                Sums known;
                for (const auto& l : s.solution(k).loads) {
                    known.force += l.force;
                    known.moment += l.moment;
                    known.flow += l.flow;
                }
                CHECK(norm(sum.force - known.force) < 1e-9 * norm(known.force));
                CHECK(sum.moment[2] == doctest::Approx(known.moment[2]).epsilon(1e-9));
                CHECK(sum.flow == doctest::Approx(known.flow).epsilon(1e-9));
            }
        }
}

TEST_CASE("round an axis they are those of the whole turn, too") {
    const auto s = solve_cases_of(
        "[part]\nplane = \"axisymmetric\"\n" + plate + material +
        "[support.floor]\non = \"bottom\"\nuy = 0\npotential = 0\n[load.squeeze]\non = \"hole\"\npressure = \"3 + "
        "y\"\n[load.pull]\non "
        "= \"top\"\ntraction = [0, \"x\"]\n[load.spin]\nrotation = 1.5\n[load.weight]\ngravity = [0, -10]\n");
    const Sums sum = sums_of(s, acting(s));
    double axial = 0;
    for (const auto& l : s.solution().loads) axial += l.force[1];
    CHECK(sum.force[1] == doctest::Approx(axial).epsilon(1e-9));
}

TEST_CASE("of a traction only what no support holds is known") {
    struct Held {
        std::string support;
        int known;
        Vec2 along;
    };
    const Vec2 x{{1, 0}}, y{{0, 1}};
    // On the right side, whose normal is along x
    for (const Held& h :
         {Held{"hold = \"fixed\"\n", 0, {}}, Held{"hold = \"symmetry\"\n", 1, y},
          Held{"hold = \"antisymmetry\"\n", 1, x}, Held{"ux = 0.1\n", 1, y}, Held{"uy = 0\n", 1, x},
          Held{"ux = 0\nuy = 0\n", 0, {}}, Held{"normal = 0\n", 1, y}, Held{"normal_stiffness = 50\n", 0, {}},
          Held{"tangential_stiffness = 50\n", 0, {}}, Held{"potential = 3\n", 2, {}},
          // Two supports of one side
          Held{"hold = \"symmetry\"\n[support.also]\non = \"right\"\nuy = 0\n", 0, {}},
          Held{"hold = \"symmetry\"\n[support.also]\non = \"right\"\nux = 0\n", 1, y},
          Held{"hold = \"symmetry\"\n[support.also]\non = \"right\"\nhold = \"fixed\"\n", 0, {}},
          Held{"hold = \"fixed\"\n[support.also]\non = \"right\"\nuy = 0\n", 0, {}},
          Held{"potential = 3\n[support.also]\non = \"right\"\nuy = 0\n", 1, x}}) {
        CAPTURE(h.support);
        const auto s = solve_cases_of("[part]\n" + plate + material +
                                      "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[support.cold]\non = "
                                      "\"left\"\npotential = 0\n[load.pull]\non = \"top\"\ntraction = [0, 1]\n"
                                      "[support.here]\non = \"right\"\n" +
                                      h.support);
        const ActingLoads loads = acting(s);
        CHECK(known_on(s, loads, "right", h.along) == h.known);
        CHECK(known_on(s, loads, "hole") == 2);
        CHECK(known_on(s, loads, "top") == 2);
        const bool potential = h.support.rfind("potential", 0) == 0;
        for (const auto& side : sides_on(s, loads, "right")) CHECK(side.flux_known != potential);
        for (const auto& side : sides_on(s, loads, "hole")) CHECK(side.flux_known);
    }
}

TEST_CASE("periodic pairs and rigid ties hide tractions; a mean tie spreads what acts at its point") {
    const auto s = solve_cases_of(
        "[part]\n" + plate + material +
        "[support.pin]\nat = [1, 0]\nhold = \"fixed\"\n[support.cold]\non = \"top\"\npotential = 0\n[periodic.p]\n"
        "between = [\"left\", \"right\"]\njump = [0.01, 0]\n[remote.grip]\nat = [3, 3]\non = \"hole\"\ntie = "
        "\"rigid\"\nforce = [1, 0]\n[remote.hook]\nat = [2, -1]\non = \"bottom\"\ntie = \"mean\"\nforce = [2, "
        "-3]\nmoment = 4\n");
    const ActingLoads loads = acting(s);
    for (const std::string name : {"left", "right", "hole"}) {
        CAPTURE(name);
        CHECK(known_on(s, loads, name) == 0);
    }
    for (const std::string name : {"left", "right"})
        for (const auto& side : sides_on(s, loads, name)) CHECK(!side.flux_known);
    for (const auto& side : sides_on(s, loads, "top")) CHECK(!side.flux_known);
    CHECK(known_on(s, loads, "top") == 2);
    CHECK(known_on(s, loads, "bottom") == 2);
    Vec2 force;
    double moment = 0;
    for (const auto& side : sides_on(s, loads, "bottom"))
        for (std::size_t k = 0; k < 5; ++k) {
            force += side.traction[k] * side.points[k].length;
            moment += cross(side.points[k].position - Vec2{{2, -1}}, side.traction[k]) * side.points[k].length;
        }
    CHECK(norm(force - Vec2{{2, -3}}) < 1e-9);
    CHECK(moment == doctest::Approx(4).epsilon(1e-9));
}

TEST_CASE("on the axis nothing shears, and no side has two elements") {
    const auto s = solve_cases_of(
        "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nregion = \"disc\"\n"
        "names = { left = \"axis\", top = \"top\", bottom = \"bottom\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner "
        "= [2, 0]\nsize = [1, 1]\nregion = \"rim\"\n"
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\non = \"disc\"\n[material.n]\nyoungs_modulus = "
        "500\npoissons_ratio = 0.25\non = \"rim\"\n[size]\nglobal = 0.3\n[quantity.energy]\nof = "
        "\"strain_energy\"\n[support.floor]\non = \"bottom\"\nuy = 0\n[load.press]\non = \"top\"\npressure = 1\n");
    const ActingLoads loads = acting(s);
    CHECK(known_on(s, loads, "axis", {{0, 1}}) == 1);
    CHECK(known_on(s, loads, "top") == 2);
    double length = 0;
    for (const auto& side : loads.sides())
        for (const auto& p : side.points) length += p.length;
    CHECK(length == doctest::Approx(8).epsilon(1e-12));  // round both regions, not between them
}

TEST_CASE("of a dual problem nothing is known where its own loads act") {
    const auto s =
        solve_cases_of("[part]\n" + plate + material +
                       "[support.wall]\non = \"left\"\nhold = \"fixed\"\n[support.cold]\non = "
                       "\"left\"\npotential = 0\n[load.pull]\non = \"top\"\ntraction = [0, 1]\n[load.air]\non "
                       "= \"hole\"\ntransfer = 2\nambient = 30\n");
    std::vector<char> marked(s.mesh.nodes.size(), 0);
    for (std::size_t n = 0; n < marked.size(); ++n) marked[n] = s.mesh.nodes[n][0] > 3.999;
    const ActingLoads dual(s.mesh, s.both.study, s.laws, marked);
    CHECK(known_on(s, dual, "right") == 0);
    CHECK(known_on(s, dual, "hole") == 2);
    CHECK(known_on(s, dual, "left") == 0);
    for (const auto& side : sides_on(s, dual, "hole"))
        for (std::size_t k = 0; k < 5; ++k) {
            CHECK(side.flux[k] == 0);  // the surroundings are at zero
            CHECK(side.transfer[k] == doctest::Approx(2));
        }
    for (const auto& side : dual.sides())
        for (const auto& t : side.traction) CHECK(t == Vec2{});
    int unknown = 0;
    for (std::size_t e = 0; e < s.mesh.element_count(); ++e) {
        bool all = true;
        for (const auto n : s.mesh.element(e)) all = all && marked[static_cast<std::size_t>(n)];
        CHECK(dual.known_inside(e) == !all);
        unknown += all ? 1 : 0;
    }
    CHECK(unknown > 0);
    CHECK(!dual.any_in_volume());
    CHECK_THROWS_WITH_AS(ActingLoads(s.mesh, s.both.study, s.laws, std::string("nothing")),
                         doctest::Contains("no load case is named \"nothing\""), InputError);
}

TEST_SUITE_END();
