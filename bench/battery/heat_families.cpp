#include <fmt/format.h>

#include <cmath>

#include "families.hpp"

namespace dotsift::bench {

namespace {

const std::string conducting = "[material.m]\nconductivity = 1\n";
std::string fluxes(const std::string& on) {
    return fmt::format("[load.known]\non = {}\nflux = \"-(flux_x_known * nx + flux_y_known * ny)\"\n", on);
}
std::string kept(const std::string& name, const std::string& on, const std::string& value = "potential_known") {
    return fmt::format("[support.{}]\non = \"{}\"\npotential = \"{}\"\n", name, on, value);
}
std::string start(const FieldFormulas& f, const std::string& part = "") {
    return "format = 1\n" + variables(f) + "[part]\n" + part;
}
std::string heat(const std::string& name) {
    return fmt::format("on = \"{}\"\ndual = true", name);
}

/// r^p times sin or cos of p theta, conductivity 1.
FieldFormulas power(double p, bool sine) {
    const char *own = sine ? "sin" : "cos", *other = sine ? "cos" : "sin";
    return {{"potential", fmt::format("r^({0:.17g}) * {1}({0:.17g} * theta)", p, own)},
            {"flux_x", fmt::format("-{0:.17g} * r^({1:.17g}) * {2}({1:.17g} * theta)", p, p - 1, own)},
            {"flux_y", fmt::format("-{0:.17g} * r^({1:.17g}) * {3}{2}({1:.17g} * theta)", p, p - 1, other,
                                   sine ? "" : "(-1) * ")}};
}

}  // namespace

std::vector<Family> heat_families() {
    std::vector<Family> out;
    const Adder add{out};
    const std::string usual = quantity("inner", "potential", at(0.5, 0.4)) + quantity("flux", "flux_x", at(0.5, 0.3)) +
                              quantity("size", "flux", at(0.3, 0.6));
    {
        const auto f = power(2.0 / 3, true);  // cold on both faces: theta 0 and 270 degrees
        // theta runs from -180 to 180, so the corner is turned: material from -135 to 135, faces where cos(2/3 theta) =
        // 0
        const auto g = power(2.0 / 3, false);
        (void)f;
        add("heat, corner of 270 degrees, cold", 0.4, g,
            start(g) +
                polygon("[[0, 0], [-1, 1], [0, 2], [2, 0], [0, -2], [-1, -1]]",
                        "names = { side1 = \"cold\", side2 = \"rim\", side3 = \"rim\", side4 = \"rim\", side5 = "
                        "\"rim\", side6 = \"cold\" }\n") +
                conducting + kept("cold", "cold", "0") + fluxes("\"rim\"") + usual +
                quantity("rim_mean", "potential", mean("rim")) + quantity("heat", "reaction_flow", heat("cold")));
    }
    {
        const auto g = power(1.0 / 3, false);  // 270 degrees again, one face insulated: cos(theta/3) has slope 0 at 0
        // material from 0 to 135 only: half of it, insulated by symmetry; cold at 135 would need cos(45) = 0: take 2/3
        const auto h = power(2.0 / 3, false);
        (void)g;
        add("heat, half a corner, insulated and cold", 0.4, h,
            start(h) +
                polygon("[[0, 0], [2, 0], [0, 2], [-1, 1]]",
                        "names = { side2 = \"rim\", side3 = \"rim\", side4 = \"cold\" }\n") +
                conducting + kept("cold", "cold", "0") + fluxes("\"rim\"") +
                quantity("inner", "potential", at(0.5, 0.4)) + quantity("flux", "flux_y", at(0.4, 0.5)) +
                quantity("near", "flux", at(0.1, 0.1)) + quantity("wall", "potential", mean("rim")) +
                quantity("heat", "reaction_flow", heat("cold")));
    }
    {
        const auto f = power(0.5, true);  // y >= 0: insulated where theta = 180, cold where it is 0
        add("heat, end of a cold strip", 0.4, f,
            start(f) +
                "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1.5, 0], [1.5, 1.5], [-1.5, 1.5], [-1.5, "
                "0]]\nnames = { side1 = \"cold\", side2 = \"rim\", side3 = \"rim\", side4 = \"rim\" }\n" +
                conducting + kept("cold", "cold", "0") + fluxes("\"rim\"") + usual +
                quantity("side", "potential", mean("rim")) + quantity("heat", "reaction_flow", heat("cold")));
    }
    {
        const FieldFormulas f{{"potential", "exp(1.5 * x) * cos(1.5 * y)"},
                              {"flux_x", "-1.5 * exp(1.5 * x) * cos(1.5 * y)"},
                              {"flux_y", "1.5 * exp(1.5 * x) * sin(1.5 * y)"}};
        add("heat, exponential, plate with holes", 0.4, f,
            start(f) +
                rectangle("add", 0, 0, 2, 1.5,
                          "names = { left = \"base\", right = \"rim\", top = \"rim\", bottom = \"rim\" }\n") +
                disc("cut", 0.7, 0.7, 0.3, "hole") + disc("cut", 1.5, 0.9, 0.2, "second") + conducting +
                kept("base", "base") + fluxes("[\"rim\", \"hole\", \"second\"]") +
                quantity("peak", "flux", on("second")) + quantity("inner", "potential", at(1.1, 0.4)) +
                quantity("flux", "flux_y", at(1.1, 0.9)) + quantity("around", "potential", mean("hole")) +
                quantity("heat", "reaction_flow", heat("base")),
            "second");
    }
    {
        const double k1 = 5, k2 = 1, a = 1, c = 1.5, b = 2, t0 = 100, h = 3, t1 = 20;
        const double r = std::log(c / a) / k1 + std::log(b / c) / k2 + 1 / (b * h), q = (t0 - t1) / r,
                     tc = t0 - q * std::log(c / a) / k1;
        const FieldFormulas f{
            {"potential", fmt::format("r < {0} ? {1} - {2:.17g} * ln(r / {3}) : {4:.17g} - {5:.17g} * ln(r / {0})", c,
                                      t0, q / k1, a, tc, q / k2)},
            {"flux_x", fmt::format("{:.17g} * x / r^2", q)},
            {"flux_y", fmt::format("{:.17g} * y / r^2", q)}};
        add("heat, pipe with a jacket, cooled", 0.3, f,
            start({}, "name = \"jacket\"\n") + disc("add", 0, 0, b, "outside") +
                "[[part.shape]]\nadd = \"circle\"\nradius = 1.5\nregion = \"pipe\"\n" + disc("cut", 0, 0, a, "inside") +
                rectangle("intersect", 0, 0, b, b, "names = { left = \"x_zero\", bottom = \"y_zero\" }\n") +
                "[material.pipe]\non = \"pipe\"\nconductivity = 5\n[material.jacket]\non = \"jacket\"\nconductivity = "
                "1\n[support.hot]\non = \"inside\"\npotential = 100\n[load.air]\non = \"outside\"\ntransfer = "
                "3\nambient = 20\n" +
                quantity("surface", "potential", mean("outside")) + quantity("peak", "flux", on("inside")) +
                quantity("heat", "reaction_flow", heat("hot")) + quantity("in_pipe", "potential", at(0.8, 0.9)) +
                quantity("in_jacket", "flux_x", at(1.2, 1.2)),
            "inside");
    }
    {
        const FieldFormulas f{{"potential", "(1 - (x^2 + y^2)^2) / 16"},
                              {"flux_x", "x * (x^2 + y^2) / 4"},
                              {"flux_y", "y * (x^2 + y^2) / 4"}};
        add("heat, sources in a disc", 0.35, f,
            start(f) + disc("add", 0, 0, 1, "rim") + conducting +
                "[support.cold]\non = \"rim\"\npotential = 0\n[load.made]\nsource = \"x^2 + y^2\"\n" +
                quantity("middle", "potential", at(0.05, 0.03)) + quantity("flux", "flux_x", at(0.5, 0.3)) +
                quantity("edge", "flux", on("rim")) + quantity("heat", "reaction_flow", heat("cold")) +
                quantity("half", "potential", at(-0.4, 0.3)));
    }
    {
        const FieldFormulas f{{"potential", "exp(-12 * x) + 0.2 * x * y"},
                              {"flux_x", "12 * exp(-12 * x) - 0.2 * y"},
                              {"flux_y", "-0.2 * x"}};
        add("heat, steep at a wall", 0.3, f,
            start(f) +
                rectangle("add", 0, 0, 1.5, 1,
                          "names = { left = \"hot\", right = \"rim\", top = \"rim\", bottom = \"rim\" }\n") +
                conducting + kept("hot", "hot") + fluxes("\"rim\"") +
                "[load.made]\nsource = \"-144 * exp(-12 * x)\"\n" + quantity("peak", "flux_x", on("hot")) +
                quantity("near", "potential", at(0.08, 0.45)) + quantity("flux", "flux_x", at(0.06, 0.5)) +
                quantity("heat", "reaction_flow", heat("hot")) + quantity("far", "potential", mean("rim")),
            "hot");
    }
    {
        const FieldFormulas f{{"potential", "exp(x) * sin(2 * y)"},
                              {"flux_x", "-4 * exp(x) * sin(2 * y)"},
                              {"flux_y", "-2 * exp(x) * cos(2 * y)"}};
        add("heat, along the grain", 0.4, f,
            start(f) +
                polygon("[[0, 0], [2, 0.2], [1.6, 1.4], [0.1, 1.1]]",
                        "names = { side1 = \"base\", side2 = \"rim\", side3 = \"rim\", side4 = \"rim\" }\n") +
                "[material.m]\nconductivity = [4, 1]\n" + kept("base", "base") + fluxes("\"rim\"") +
                quantity("inner", "potential", at(1, 0.7)) + quantity("flux", "flux_x", at(0.8, 0.6)) +
                quantity("peak", "flux", on("rim")) + quantity("heat", "reaction_flow", heat("base")) +
                quantity("edge", "potential", mean("rim")),
            "rim");
    }
    for (const bool tube : {false, true}) {
        // Ring 1 to 2, 100 degrees inside, 0 outside (Timoshenko & Goodier art. 151); plane stress, or a tube with free
        // ends
        const double nu = 0.3, e = 1000, al = 1e-3, a = 1, b = 2, l = std::log(b / a),
                     m = 100 * e * al / (2 * l * (tube ? 1 - nu : 1));
        const std::string srr = fmt::format("{0:.17g} * (-ln({2} / r) - {1:.17g} * (1 - {2}^2 / r^2) * {3:.17g})", m,
                                            a * a / (b * b - a * a), b, l),
                          stt = fmt::format("{0:.17g} * (1 - ln({2} / r) - {1:.17g} * (1 + {2}^2 / r^2) * {3:.17g})", m,
                                            a * a / (b * b - a * a), b, l),
                          t = fmt::format("100 * ln({} / r) / {:.17g}", b, l);
        FieldFormulas f{{"potential", t},
                        {"flux_x", fmt::format("{:.17g} * x / r^2", 100 / l)},
                        {"flux_y", fmt::format("{:.17g} * y / r^2", 100 / l)},
                        {"sxx", fmt::format("({}) * cos(theta)^2 + ({}) * sin(theta)^2", srr, stt)},
                        {"syy", fmt::format("({}) * sin(theta)^2 + ({}) * cos(theta)^2", srr, stt)},
                        {"sxy", fmt::format("(({}) - ({})) * sin(theta) * cos(theta)", srr, stt)}};
        const std::string szz =
            fmt::format("{0:.17g} * (1 - 2 * ln({2} / r) - {1:.17g} * {3:.17g})", m, 2 * a * a / (b * b - a * a), b, l);
        if (tube) f.emplace_back("szz", szz);
        const std::string ett =
            fmt::format("((({}) - {} * (({}) + ({}))) / {} + {} * ({}))", stt, nu, srr, tube ? szz : "0", e, al, t);
        f.emplace_back("ux", "x * " + ett);
        f.emplace_back("uy", "y * " + ett);
        add(tube ? "tube, hot inside, free ends" : "ring, hot inside", 0.35, f,
            std::string("format = 1\n[part]\nplane = \"") + (tube ? "generalised_strain" : "stress") + "\"\n" +
                quarter_ring(a, b) +
                "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = 0.001\nconductivity = "
                "1\n[support.hot]\non = \"inside\"\npotential = 100\n[support.cold]\non = \"outside\"\npotential = "
                "0\n" +
                symmetric_quarter() + quantity("least", "stt", on("inside", "take = \"minimum\"")) +
                quantity("outer", "stt", on("outside")) + quantity("inner", "srr", at(0.9, 1.1)) +
                quantity("grow", "ur", mean("outside")) + quantity("warm", "potential", at(1, 1)) +
                quantity("heat", "reaction_flow", heat("hot")) +
                (tube ? quantity("axial", "szz", at(1.3, 0.3)) : quantity("mises", "von_mises", at(1.1, 0.5))),
            "inside");
    }
    return out;
}

}  // namespace dotsift::bench
