#include <fmt/format.h>

#include <cmath>

#include "families.hpp"
#include "verification/manufactured.hpp"

namespace dotsift::bench {

namespace {

std::string start(const FieldFormulas& f) {
    return "format = 1\n" + variables(f) + "[part]\nplane = \"axisymmetric\"\n";
}
const std::string energy = "[quantity.energy]\nof = \"strain_energy\"\ndual = true\n";

/// The variables of made-up problems.
const FieldFormulas made_up{{"U", "0.01 * exp(0.7 * x - 0.4 * y)"}, {"V", "0.01 * exp(0.3 * x + 0.6 * y)"}};

/// Of a field that depends on the distance R from the origin only: radial and tangential stress, radial displacement.
FieldFormulas of_ball(const std::string& radial, const std::string& tangential, const std::string& moved) {
    // r is the distance from the origin in formulas
    return {{"sxx", fmt::format("({}) * x^2 / r^2 + ({}) * y^2 / r^2", radial, tangential)},
            {"syy", fmt::format("({}) * y^2 / r^2 + ({}) * x^2 / r^2", radial, tangential)},
            {"sxy", fmt::format("(({}) - ({})) * x * y / r^2", radial, tangential)},
            {"szz", tangential},
            {"ux", fmt::format("({}) * x / r", moved)},
            {"uy", fmt::format("({}) * y / r", moved)}};
}

}  // namespace

std::vector<Family> revolved_families() {
    std::vector<Family> out;
    const Adder add{out};
    const std::string quarter = quarter_ring(1, 2);
    const std::string floor = "[support.floor]\non = \"y_zero\"\nhold = \"symmetry\"\n";
    {
        const double e = 1000, nu = 0.3, d = 7.0;  // b^3 - a^3
        const auto f = of_ball(fmt::format("(1 - 8 / r^3) / {}", d), fmt::format("(1 + 4 / r^3) / {}", d),
                               fmt::format("((1 - 2 * {0}) * r + (1 + {0}) * 4 / r^2) / {1}", nu, d * e));
        add("ball, hollow, pressed", 0.35, f,
            start(f) + quarter + steel() + floor + "[load.p]\non = \"inside\"\npressure = 1\n" +
                quantity("peak", "szz", on("inside")) + quantity("mises", "von_mises", on("inside")) +
                quantity("middle", "max_principal", at(1, 1.1)) + quantity("grow", "ux", at(2, 0)) +
                quantity("held", "reaction_y", "") + energy + quantity("outer", "szz", mean("outside")),
            "inside");
    }
    {
        const double e = 1000, nu = 0.3;
        const FieldFormulas f{{"sxx", "(1 - 4 / x^2) / 3"},
                              {"szz", "(1 + 4 / x^2) / 3"},
                              {"syy", fmt::format("{} * 2 / 3", nu)},
                              {"sxy", "0"},
                              {"ux", fmt::format("(1 + {0}) / {1} * ((1 - 2 * {0}) * x + 4 / x) / 3", nu, e)},
                              {"uy", "0"}};
        add("tube of revolution, pressed", 0.3, f,
            start(f) +
                rectangle("add", 1, 0, 1, 1.5,
                          "names = { left = \"inside\", bottom = \"y_zero\", top = \"lid\", right = \"outside\" }\n") +
                steel() + floor +
                "[support.lid]\non = \"lid\"\nhold = \"symmetry\"\n[load.p]\non = \"inside\"\npressure = 1\n" +
                quantity("peak", "szz", on("inside")) + quantity("middle", "sxx", at(1.4, 0.7)) +
                quantity("grow", "ux", at(1.5, 0.6)) + quantity("grows", "ux", mean("outside")) +
                quantity("push", "reaction_y", "on = \"lid\"") + energy,
            "inside");
    }
    {
        // u = gradient of the harmonic polynomial 8 y^4 - 24 x^2 y^2 + 3 x^4, and of 1 / R
        const double e = 1000, nu = 0.25, g2 = e / (1 + nu), s = 0.02;
        const FieldFormulas f{{"ux", fmt::format("{} * (-48 * x * y^2 + 12 * x^3)", s)},
                              {"uy", fmt::format("{} * (32 * y^3 - 48 * x^2 * y)", s)},
                              {"sxx", fmt::format("{} * (-48 * y^2 + 36 * x^2)", s * g2)},
                              {"syy", fmt::format("{} * (96 * y^2 - 48 * x^2)", s * g2)},
                              {"sxy", fmt::format("{} * (-96 * x * y)", s * g2)},
                              {"szz", fmt::format("{} * (-48 * y^2 + 12 * x^2)", s * g2)}};
        add("polynomial of revolution, solid", 0.35, f,
            start(f) +
                rectangle("add", 0, 0.2, 1.2, 1.3, "names = { bottom = \"base\", top = \"rim\", right = \"rim\" }\n") +
                steel(e, nu) + held_as_known("base", "base") + tractions("\"rim\"") +
                quantity("peak", "von_mises", on("rim")) + quantity("axis", "syy", at(0, 0.8)) +
                quantity("inner", "szz", at(0.5, 0.7)) + quantity("move", "uy", at(0.4, 1.1)) +
                quantity("rim_mean", "ux", mean("rim")) + energy + quantity("force", "reaction_y", "dual = true"));
    }
    {
        const double e = 1000, nu = 0.3, g2 = e / (1 + nu);
        const FieldFormulas f{{"ux", "-x / r^3"},
                              {"uy", "-y / r^3"},
                              {"sxx", fmt::format("{:.17g} * (3 * x^2 / r^5 - 1 / r^3)", g2)},
                              {"syy", fmt::format("{:.17g} * (3 * y^2 / r^5 - 1 / r^3)", g2)},
                              {"sxy", fmt::format("{:.17g} * 3 * x * y / r^5", g2)},
                              {"szz", fmt::format("-{:.17g} / r^3", g2)}};
        add("beside a pole of revolution", 0.35, f,
            start(f) +
                rectangle("add", 0.7, -0.6, 1.3, 1.5,
                          "names = { left = \"near\", bottom = \"base\", top = \"rim\", right = \"rim\" }\n") +
                steel() + held_as_known("base", "base") + tractions("[\"near\", \"rim\"]") +
                quantity("peak", "max_principal", on("near")) +
                quantity("least", "szz", on("near", "take = \"minimum\"")) + quantity("inner", "sxy", at(1.1, 0.4)) +
                quantity("move", "ux", at(1, 0.2)) + quantity("moves", "ux", mean("near")) + energy,
            "near");
    }
    {
        // Hollow ball, 100 degrees inside, 0 outside (Timoshenko & Goodier art. 152)
        const double e = 1000, nu = 0.3, al = 1e-3, m = al * e * 100 / (1 - nu) * 2 / 7.0;  // a b / (b^3 - a^3)
        const std::string srr = fmt::format("{:.17g} * (3 - 7 / r + 4 / r^3)", m),
                          stt = fmt::format("{:.17g} * (3 - 3.5 / r - 2 / r^3)", m), t = "100 * (2 / r - 1)";
        auto f =
            of_ball(srr, stt,
                    fmt::format("r * (((({1}) - {2} * (({0}) + ({1}))) / {3}) + {4} * ({5}))", srr, stt, nu, e, al, t));
        f.insert(f.end(), {{"potential", t}, {"flux_x", "200 * x / r^3"}, {"flux_y", "200 * y / r^3"}});
        add("ball, hollow, hot inside", 0.35, f,
            "format = 1\n[part]\nplane = \"axisymmetric\"\n" + quarter +
                "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = 0.001\nconductivity = "
                "1\n[support.hot]\non = \"inside\"\npotential = "
                "100\n[support.cold]\non = \"outside\"\npotential = 0\n" +
                floor + quantity("least", "szz", on("inside", "take = \"minimum\"")) +
                quantity("outer", "szz", on("outside")) + quantity("inner", "sxx", at(0.8, 1.2)) +
                quantity("grow", "ux", at(2, 0)) + quantity("warm", "potential", at(1, 1)) +
                quantity("heat", "reaction_flow", "on = \"hot\"\ndual = true"),
            "inside");
    }
    {
        const FieldFormulas f{{"potential", "20 + 80 / r"}, {"flux_x", "80 * x / r^3"}, {"flux_y", "80 * y / r^3"}};
        add("heat, hollow ball, cooled", 0.35, f,
            "format = 1\n[part]\nplane = \"axisymmetric\"\n" + quarter +
                "[material.m]\nconductivity = 1\n[support.hot]\non = \"inside\"\npotential = 100\n[load.air]\non = "
                "\"outside\"\ntransfer = 0.5\nambient = 20\n" +
                quantity("surface", "potential", mean("outside")) + quantity("middle", "potential", at(1, 1)) +
                quantity("flux", "flux_y", at(0.6, 1.2)) + quantity("peak", "flux", on("inside")) +
                quantity("heat", "reaction_flow", "on = \"hot\"\ndual = true"),
            "inside");
    }
    {
        const FieldFormulas f{{"potential", "(35 * y^4 - 30 * y^2 * r^2 + 3 * r^4) / 8"},
                              {"flux_x", "-(-60 * y^2 * x + 12 * x * r^2) / 8"},
                              {"flux_y", "-(140 * y^3 - 60 * y * r^2 - 60 * y^3 + 12 * y * r^2) / 8"}};
        add("heat, polynomial of revolution", 0.35, f,
            start(f) + disc("add", 0, 0.5, 1, "rim") + rectangle("intersect", 0, -1, 2, 3, "") +
                "[material.m]\nconductivity = 1\n" +
                "[support.base]\nat = [0, 1.5]\npotential = 5.0625\n[load.known]\non = \"rim\"\nflux = "
                "\"-(flux_x_known * nx + flux_y_known * ny)\"\n" +
                quantity("inner", "potential", at(0.4, 0.3)) + quantity("axis", "flux_y", at(0, 0.9)) +
                quantity("flux", "flux_x", at(0.5, 0.6)) + quantity("peak", "flux", on("rim")) +
                quantity("edge", "potential", mean("rim")));
    }
    for (const bool orthotropic : {false, true}) {
        const auto m =
            manufactured_elasticity(orthotropic ? Plane::stress : Plane::strain,
                                    orthotropic ? ManufacturedMaterial::orthotropic : ManufacturedMaterial::isotropic);
        FieldFormulas f{made_up[0],     made_up[1],     {"ux", m.ux},  {"uy", m.uy},
                        {"sxx", m.sxx}, {"syy", m.syy}, {"sxy", m.sxy}};
        if (!m.szz.empty()) f.emplace_back("szz", m.szz);
        add(orthotropic ? "made up, orthotropic" : "made up, with body forces", 0.3, f,
            m.text + one_square() + quantity("stress", "sxx", at(1.4, 0.6)) +
                quantity("mises", "max_principal", at(1.1, 0.3)) + quantity("shear", "sxy", at(1.2, 0.45)) +
                quantity("move", "ux", at(0.95, 0.5)) + quantity("moves", "uy", at(1.3, 0.7)));
    }
    {
        const auto m = manufactured_conduction(false, false);
        const FieldFormulas f{made_up[0], made_up[1], {"potential", m.potential}, {"flux_x", m.qx}, {"flux_y", m.qy}};
        add("made up, heat", 0.3, f,
            m.text + one_square() + quantity("inner", "potential", at(1.4, 0.6)) +
                quantity("flux", "flux_x", at(1.1, 0.3)) + quantity("other", "flux_y", at(1.2, 0.45)) +
                quantity("size", "flux", at(0.95, 0.5)));
    }
    {
        const auto m = manufactured_elasticity(Plane::axisymmetric, ManufacturedMaterial::isotropic);
        const FieldFormulas f{made_up[0],     made_up[1],     {"ux", m.ux},   {"uy", m.uy},
                              {"sxx", m.sxx}, {"syy", m.syy}, {"sxy", m.sxy}, {"szz", m.szz}};
        add("made up, of revolution", 0.3, f,
            m.text + one_square() + quantity("stress", "szz", at(1.4, 0.6)) +
                quantity("mises", "von_mises", at(1.1, 0.3)) + quantity("shear", "sxy", at(1.2, 0.45)) +
                quantity("move", "ux", at(0.95, 0.5)));
    }
    return out;
}

}  // namespace dotsift::bench
