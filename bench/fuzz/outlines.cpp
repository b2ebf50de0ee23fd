// Random outlines with random rules: none may fail, hang or give an inverted element.
//     dotsift-fuzz-outlines COUNT SEED
// Exit status 1 if one does; its study is printed.

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <numbers>
#include <random>
#include <set>

#include "base/errors.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "support/meshes.hpp"

namespace {

using namespace dotsift;

class Maker {
  public:
    explicit Maker(unsigned seed) : random_(seed) {}

    std::string study() {
        std::string text = "format = 1\n[units]\nlength = \"mm\"\n[part]\n";
        text += body();
        const int holes = whole(0, 5);
        for (int k = 0; k < holes; ++k) text += hole(k);
        if (chance(0.3))
            text += fmt::format(
                "[[part.shape]]\nadd = \"circle\"\nregion = \"inlay\"\ncentre = [{:.3f}, {:.3f}]\nradius = {:.3f}\n",
                number(-15, 15), number(-15, 15), number(4, 14));
        if (chance(0.2))
            text += fmt::format(
                "[[part.shape]]\nmark = \"line\"\nname = \"gauge\"\nfrom = [{:.3f}, {:.3f}]\nto = [{:.3f}, {:.3f}]\n",
                number(-20, 20), number(-20, 20), number(-20, 20), number(-20, 20));
        text +=
            "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[support.s]\non = \"rim\"\nhold = \"fixed\"\n"
            "[load.l]\non = \"rim\"\npressure = 1\n[quantity.q]\nof = \"ux\"\n";
        text += fmt::format("[size]\nglobal = {:.3f}\ngrowth = {:.3f}\n", number(2, 8), number(1.15, 1.8));
        if (chance(0.5)) text += fmt::format("[size.local.rim]\non = \"rim\"\nsize = {:.3f}\n", number(0.5, 4));
        if (chance(0.3)) text += fmt::format("[size.local.wall]\nacross = {}\n", whole(1, 3));
        if (chance(0.3))
            text += fmt::format(
                "[size.local.disc]\ninside = {{ shape = \"circle\", centre = [{:.3f}, {:.3f}], radius = {:.3f} "
                "}}\nsize = {:.3f}\n",
                number(-20, 20), number(-20, 20), number(2, 10), number(0.4, 2));
        if (chance(0.2)) text += fmt::format("[size.local.wave]\nsize = \"{:.3f} + 0.05*abs(x)\"\n", number(1, 3));
        if (chance(0.3))
            text += fmt::format("[size.layers.rows]\non = \"{}\"\nfirst = {:.3f}\nrows = {}\ngrowth = {:.3f}\n",
                                chance(0.5) ? "rim" : "*", number(0.02, 0.4), 2 * whole(1, 4), number(1, 1.6));
        constexpr std::array kinds{"triangles", "mostly_quadrilaterals", "quadrilaterals"};
        text += fmt::format("[mesh]\nelements = \"{}\"\norder = {}\n", kinds[static_cast<std::size_t>(whole(0, 2))],
                            whole(1, 2));
        return text;
    }

  private:
    double number(double low, double high) { return std::uniform_real_distribution<>(low, high)(random_); }
    int whole(int low, int high) { return std::uniform_int_distribution<>(low, high)(random_); }
    bool chance(double p) { return number(0, 1) < p; }

    std::string body() {
        switch (whole(0, 3)) {
            case 0:
                return fmt::format(
                    "[[part.shape]]\nadd = \"rectangle\"\nname = \"rim\"\ncorner = [-30, -20]\nsize = [{:.3f}, "
                    "{:.3f}]\n{}",
                    number(30, 60), number(20, 40), chance(0.4) ? fmt::format("round = {:.3f}\n", number(1, 6)) : "");
            case 1:
                return fmt::format(
                    "[[part.shape]]\nadd = \"ellipse\"\nname = \"rim\"\ncentre = [0, 0]\nradii = [{:.3f}, {:.3f}]\n",
                    number(15, 40), number(10, 40));
            default: {
                const int n = whole(3, 12);
                std::string corners;
                for (int k = 0; k < n; ++k) {
                    const double angle = 2 * std::numbers::pi * (k + number(0, 0.7)) / n, radius = number(10, 40);
                    corners += fmt::format("{}[{:.3f}, {:.3f}]", k ? ", " : "", radius * std::cos(angle),
                                           radius * std::sin(angle));
                }
                return fmt::format("[[part.shape]]\nadd = \"polygon\"\nname = \"rim\"\ncorners = [{}]\n", corners);
            }
        }
    }

    std::string hole(int k) {
        const double x = number(-25, 25), y = number(-25, 25);
        switch (whole(0, 2)) {
            case 0:
                return fmt::format(
                    "[[part.shape]]\ncut = \"circle\"\nname = \"hole{}\"\ncentre = [{:.3f}, {:.3f}]\nradius = {:.3f}\n",
                    k, x, y, number(0.5, 8));
            case 1:
                return fmt::format(
                    "[[part.shape]]\ncut = \"slot\"\nname = \"hole{}\"\nfrom = [{:.3f}, {:.3f}]\nto = [{:.3f}, "
                    "{:.3f}]\nwidth = {:.3f}\n",
                    k, x, y, x + number(3, 15), y + number(-8, 8), number(1, 5));
            default:
                return fmt::format(
                    "[[part.shape]]\ncut = \"rectangle\"\nname = \"hole{}\"\ncorner = [{:.3f}, {:.3f}]\nsize = "
                    "[{:.3f}, {:.3f}]\nangle = {:.3f}\n",
                    k, x, y, number(1, 10), number(1, 10), number(0, 3));
        }
    }

    std::mt19937 random_;
};

}  // namespace

int main(int argc, char** argv) {
    const int count = argc > 1 ? std::atoi(argv[1]) : 500;
    const unsigned seed = argc > 2 ? static_cast<unsigned>(std::atoi(argv[2])) : 1;
    int meshed = 0, refused = 0, failed = 0;
    double longest = 0;
    for (int k = 0; k < count; ++k) {
        const std::string text = Maker(seed * 100000 + static_cast<unsigned>(k)).study();
        Problems problems("random.toml");
        std::string fault;
        const auto start = std::chrono::steady_clock::now();
        try {
            const StudyAndPart opened = open_study("random.toml", text, problems);
            if (problems.count() > 0) {
                ++refused;
                continue;
            }
            const Sizing sizing = sizing_of(opened.part, opened.study.sizes, "random.toml");
            const Mesh mesh = generate(opened.part, sizing, 300'000, opened.study.mesh);
            fault = test::fault_of(opened.part, mesh);
            ++meshed;
        } catch (const InputError&) {  // a rule that has no place in this part
            ++refused;
            continue;
        } catch (const std::exception& e) {
            fault = e.what();
        }
        longest = std::max(longest, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
        if (fault.empty()) continue;
        ++failed;
        fmt::print("\n# {} of seed {}: {}\n{}", k, seed, fault, text);
    }
    fmt::print("{} meshed, {} refused as no sound part, {} failed; the longest took {:.2f} s\n", meshed, refused,
               failed, longest);
    return failed ? 1 : 0;
}
