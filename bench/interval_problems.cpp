#include "interval_problems.hpp"

#include "known_problems.hpp"

namespace dotsift::bench {

namespace {

const std::string steel = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n";
const std::string header = "format = 1\n[part]\n";

std::string rectangle(double x, double y, double width, double height, const std::string& more = {}) {
    return "[[part.shape]]\nadd = \"rectangle\"\ncorner = [" + std::to_string(x) + ", " + std::to_string(y) +
           "]\nsize = [" + std::to_string(width) + ", " + std::to_string(height) + "]\n" + more;
}
const std::string sides = "names = { left = \"left\", right = \"right\", bottom = \"bottom\", top = \"top\" }\n";

std::string peak(const std::string& name, const std::string& field, const std::string& on) {
    return "[quantity." + name + "]\nof = \"" + field + "\"\non = \"" + on + "\"\n";
}
std::string mean(const std::string& name, const std::string& field, const std::string& on) {
    return "[quantity." + name + "]\nof = \"" + field + "\"\ntake = \"mean\"\non = \"" + on + "\"\ndual = true\n";
}
std::string at(const std::string& name, const std::string& field, const std::string& point, bool dual = true) {
    return "[quantity." + name + "]\nof = \"" + field + "\"\nat = " + point + (dual ? "\ndual = true\n" : "\n");
}
const std::string energy = "[quantity.energy]\nof = \"strain_energy\"\ndual = true\n";

void remove(std::string& text, const std::string& section) {
    const auto from = text.find(section);
    if (from == std::string::npos) return;
    const auto next = text.find("\n[", from);
    text.erase(from, next == std::string::npos ? next : next + 1 - from);
}

std::string known(const std::string& name) {
    for (auto p : problems())
        if (p.name == name) {
            remove(p.text, "[size]\n");
            remove(p.text, "[exact_stress]\n");  // takes longer than all the rest
            return p.text;
        }
    return {};
}

}  // namespace

std::vector<IntervalProblem> interval_problems() {
    const std::string pulled = "[load.pull]\non = \"right\"\ntraction = [1, 0]\n",
                      symmetric =
                          "[support.left]\non = \"left\"\nhold = \"symmetry\"\n[support.bottom]\non = "
                          "\"bottom\"\nhold = \"symmetry\"\n",
                      clamped = "[support.left]\non = \"left\"\nhold = \"fixed\"\n";
    std::vector<IntervalProblem> list;
    const auto add = [&](const std::string& name, double size, const std::string& text) {
        list.push_back({name, text, size});
    };
    add("plate with a hole", 0.5,
        known("plate with a hole") + peak("peak", "sxx", "hole") + mean("move", "ux", "rim") + energy +
            at("stress", "sxx", "[0.5, 1.8]") + peak("shear", "max_shear", "hole"));
    add("ring in ring", 0.3,
        known("two rings, stiff one inside") + peak("peak", "stt", "inside") + mean("move", "ur", "inside") + energy +
            at("stress", "von_mises", "[0.9, 1.0]"));
    add("curved wall", 0.3,
        known("curved wall, radius 1 to 2") + peak("peak", "stt", "inside") + at("move", "ux", "[0, 1.5]") + energy +
            mean("outside_stress", "stt", "outside"));
    add("L-shape", 0.3,
        known("L-shape") + at("move", "uy", "[0.2, 0.8]") + at("stress", "sxx", "[0.4, 0.4]") +
            "[quantity.near]\nof = \"von_mises\"\nat = [0.2, 0.15]\n" + energy);
    add("cantilever", 0.5,
        header + rectangle(0, 0, 6, 2, sides) + steel + clamped + "[load.p]\non = \"right\"\ntraction = [0, -1]\n" +
            mean("tip", "uy", "right") + energy + at("stress", "sxx", "[3, 1.7]") + at("edge", "sxx", "[3, 2]", false));
    add("notched bar", 0.5,
        header + rectangle(0, 0, 6, 3, sides) +
            "[[part.shape]]\ncut = \"slot\"\nfrom = [3, 3]\nto = [3, 2]\nwidth = 0.8\nname = \"notch\"\n" + steel +
            clamped + pulled + peak("peak", "von_mises", "notch") + mean("move", "ux", "right") + energy +
            at("below", "sxx", "[3, 1]") + peak("first", "max_principal", "notch"));
    add("shouldered bar", 0.4,
        header + rectangle(0, 0, 4, 1, "names = { left = \"left\", bottom = \"bottom\" }\n") +
            rectangle(0, 0, 2, 2, "names = { left = \"left\", bottom = \"bottom\" }\n") +
            rectangle(3.5, 0, 0.5, 1, "names = { right = \"right\", bottom = \"bottom\" }\n") +
            "[[part.shape]]\nchange = \"round\"\ncorners = \"inner\"\nradius = 0.4\nname = \"fillet\"\n" + steel +
            symmetric + pulled + peak("peak", "max_principal", "fillet") + mean("move", "ux", "right") + energy +
            at("inside", "sxx", "[1.5, 0.5]"));
    add("block with an inset", 0.4,
        header + rectangle(0, 0, 4, 2, sides) + rectangle(1.5, 0.5, 1, 1, "region = \"middle\"\n") +
            "[material.a]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[material.b]\non = \"middle\"\nyoungs_modulus "
            "= 4000\npoissons_ratio = 0.2\n" +
            symmetric + pulled + mean("move", "ux", "right") + energy + mean("middle_stress", "sxx", "middle") +
            at("beside", "syy", "[2.8, 1.2]"));
    add("two holes", 0.5,
        header + rectangle(0, 0, 6, 3, sides) +
            "[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1.3]\nradius = 0.6\nname = "
            "\"first\"\n[[part.shape]]\ncut = \"circle\"\ncentre = [3.9, 1.8]\nradius = 0.4\nname = \"second\"\n" +
            steel + symmetric + "[load.pull]\non = \"right\"\ntraction = [\"1 + 0.5 * y\", 0.2]\n" +
            peak("first_peak", "von_mises", "first") + peak("second_peak", "max_principal", "second") +
            at("move", "uy", "[6, 3]") + energy + mean("link", "sxx", "second"));
    add("cooled wall", 0.4,
        header + rectangle(0, 0, 4, 2, sides) +
            "[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1]\nradius = 0.5\nname = \"pipe\"\n[material.m]\n"
            "conductivity = 2\n[support.warm]\non = \"left\"\npotential = 100\n[load.pipe]\non = \"pipe\"\ntransfer = "
            "3\nambient = 10\n" +
            mean("end", "potential", "right") +
            "[quantity.heat]\nof = \"reaction_flow\"\non = \"warm\"\ndual = true\n" + at("flux", "flux_x", "[1, 0.5]") +
            mean("surface", "potential", "pipe"));
    add("heated corner", 0.3,
        header + rectangle(0, 0, 2, 2, "names = { left = \"left\", top = \"far\" }\n") +
            "[[part.shape]]\ncut = \"rectangle\"\ncorner = [1, 0]\nsize = [1, 1]\nname = \"cold\"\n[material.m]\n"
            "conductivity = 1\n[support.cold]\non = \"cold\"\npotential = 0\n[load.warm]\non = \"left\"\nflux = 5\n" +
            mean("warm", "potential", "left") + at("middle", "potential", "[0.5, 1.5]") +
            at("flux", "flux_x", "[0.5, 0.5]") + at("other_flux", "flux_y", "[1.5, 1.6]"));
    add("grooved shaft", 0.3,
        header + "plane = \"axisymmetric\"\n" + rectangle(0, 0, 1.5, 3, sides) +
            "[[part.shape]]\ncut = \"circle\"\ncentre = [1.6, 1.5]\nradius = 0.5\nname = \"groove\"\n" + steel +
            "[support.bottom]\non = \"bottom\"\nhold = \"symmetry\"\n[load.pull]\non = \"top\"\ntraction = [0, 1]\n" +
            peak("peak", "max_principal", "groove") + mean("move", "uy", "top") + energy +
            at("inside", "syy", "[0.3, 1.5]"));
    add("bent hook", 0.5,
        header +
            "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [5, 0], [5, 1.5], [1.5, 1.5], [1.5, 5], [0, 5]]\n"
            "rounds = { 4 = 0.6 }\nnames = { side2 = \"right\", side5 = \"left\", corner4 = \"inner\" }\n" +
            steel + clamped + "[load.p]\non = \"right\"\ntraction = [0, -1]\n" + peak("peak", "von_mises", "inner") +
            mean("tip", "uy", "right") + energy + at("leg", "syy", "[1.2, 3.5]"));
    add("half disc with a slit", 0.4,
        header + rectangle(0, 0, 4, 2, sides) +
            "[[part.shape]]\ncut = \"polygon\"\ncorners = [[1.95, 2], [2, 1], [2.05, 2]]\n" + steel + symmetric +
            pulled + mean("open", "ux", "right") + energy + at("ahead", "sxx", "[2, 0.4]") +
            at("corner", "uy", "[4, 2]"));
    return list;
}

}  // namespace dotsift::bench
