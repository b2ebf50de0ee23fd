// What must not change when the same problem is put differently: turned, moved, mirrored, rescaled, loaded twice as
// much.

#include <doctest/doctest.h>

#include <cmath>
#include <map>
#include <numbers>

#include "part/build.hpp"
#include "series/run.hpp"
#include "series/solve_level.hpp"
#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// The values of a study's quantities on its first mesh, by name, and the estimated error as "error".
std::map<std::string, double> values_of(const std::string& text) {
    const Study study = study_from(text);
    Problems problems("test.toml");
    const Part part = build_part(study, problems).part;
    REQUIRE(problems.empty());
    StudyObserver silent;
    const Level level = solve_level(
        study, part, {},
        [&](MeshingLog& log) { return make_mesh(study, part, sizing_of(part, study.sizes, study.path), log); }, "s", 1,
        silent);
    std::map<std::string, double> values;
    for (const auto& q : level.quantities) values[q.name] = q.value;
    values["error"] = level.estimated_error;
    CHECK(level.balance.relative_error < 1e-9);
    return values;
}

struct Bracket {
    double turn = 0;  ///< radians
    Vec2 shift{};
    double scale = 1;  ///< of every length
    double load = 1;
    bool mirrored = false;  ///< at the x axis
    double modulus = 70000;
    double thickness = 2;
    std::string units = "units = { length = \"mm\", force = \"N\" }\n";

    [[nodiscard]] std::string point(double x, double y) const {
        if (mirrored) y = -y;
        const double c = std::cos(turn), s = std::sin(turn);
        return fmt_pair(scale * (c * x - s * y) + shift[0], scale * (s * x + c * y) + shift[1]);
    }
    [[nodiscard]] std::string direction(double x, double y) const {
        if (mirrored) y = -y;
        const double c = std::cos(turn), s = std::sin(turn);
        return fmt_pair(load * (c * x - s * y), load * (s * x + c * y));
    }
    static std::string fmt_pair(double a, double b) {
        char text[80];
        std::snprintf(text, sizeof text, "[%.17g, %.17g]", a, b);
        return text;
    }
    [[nodiscard]] std::string number(double v) const {
        char text[40];
        std::snprintf(text, sizeof text, "%.17g", v);
        return text;
    }
    [[nodiscard]] std::string study() const {
        return "format = 1\n" + units + "[part]\nthickness = " + number(thickness * scale) +
               "\n[[part.shape]]\nadd = \"polygon\"\ncorners = [" + point(0, 0) + ", " + point(6, 0) + ", " +
               point(6, 2) + ", " + point(2, 2) + ", " + point(2, 6) + ", " + point(0, 6) +
               "]\nrounds = { 4 = " + number(0.8 * scale) +
               " }\nnames = { side2 = \"tip\", side5 = \"wall\", corner4 = \"inner\" }\n[material.m]\nyoungs_modulus "
               "= " +
               number(modulus) +
               "\npoissons_ratio = 0.33\n[support.wall]\non = \"wall\"\nhold = \"fixed\"\n[load.pull]\non = "
               "\"tip\"\nforce = " +
               direction(120, -50) + "\n[size]\nglobal = " + number(0.5 * scale) +
               "\n[quantity.peak]\nof = \"von_mises\"\non = \"inner\"\n[quantity.energy]\nof = "
               "\"strain_energy\"\n[quantity.move]\nof = \"displacement\"\ntake = \"mean\"\non = \"tip\"\n"
               "[quantity.mean]\nof = \"von_mises\"\ntake = \"mean\"\n";
    }
};

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("turning and moving the part changes nothing") {
    const auto base = values_of(Bracket{}.study());
    for (const double turn : {0.5, std::numbers::pi / 2, 2.5}) {
        Bracket turned;
        turned.turn = turn;
        turned.shift = {{37, -12}};
        const auto v = values_of(turned.study());
        for (const auto& [name, value] : base) {
            CAPTURE(name);
            // The mesh is another one, so values agree as well as the mesh allows.
            CHECK(v.at(name) == doctest::Approx(value).epsilon(name == "error" ? 0.1 : name == "peak" ? 0.02 : 0.003));
        }
    }
}

TEST_CASE("a part far from the origin behaves as one that is near") {
    // At 1e5 times its size: its coordinates have eleven digits of it.
    const auto near = values_of(Bracket{}.study());
    for (const Vec2& shift : {Vec2{{6e5, 0}}, Vec2{{-4e5, 5e5}}}) {
        Bracket far;
        far.shift = shift;
        const auto v = values_of(far.study());
        for (const auto& [name, value] : near) {
            CAPTURE(name);
            CHECK(v.at(name) == doctest::Approx(value).epsilon(name == "error" ? 0.1 : name == "peak" ? 0.02 : 0.003));
        }
    }
}

TEST_CASE("a mirrored part gives the mirrored answer") {
    const auto base = values_of(Bracket{}.study());
    Bracket mirrored;
    mirrored.mirrored = true;
    const auto v = values_of(mirrored.study());
    CHECK(v.at("energy") == doctest::Approx(base.at("energy")).epsilon(0.002));
    CHECK(v.at("peak") == doctest::Approx(base.at("peak")).epsilon(0.02));
}

TEST_CASE("linearity: load, modulus and thickness") {
    const auto base = values_of(Bracket{}.study());
    Bracket twice;
    twice.load = 2;  // a power of two: the same mesh, and every number exactly scaled
    const auto l = values_of(twice.study());
    CHECK(l.at("peak") == doctest::Approx(2 * base.at("peak")).epsilon(1e-10));
    CHECK(l.at("energy") == doctest::Approx(4 * base.at("energy")).epsilon(1e-10));
    CHECK(l.at("error") == doctest::Approx(base.at("error")).epsilon(1e-10));
    Bracket stiff;
    stiff.modulus *= 8;
    const auto s = values_of(stiff.study());
    CHECK(s.at("peak") == doctest::Approx(base.at("peak")).epsilon(1e-9));
    CHECK(s.at("move") == doctest::Approx(base.at("move") / 8).epsilon(1e-9));
    Bracket thick;
    thick.thickness *= 4;
    const auto t = values_of(thick.study());
    CHECK(t.at("peak") == doctest::Approx(base.at("peak") / 4).epsilon(1e-9));
    CHECK(t.at("energy") == doctest::Approx(base.at("energy") / 4).epsilon(1e-9));
}

TEST_CASE("a part a thousand times smaller or larger behaves alike") {
    const auto base = values_of(Bracket{}.study());
    for (const double scale : {1.0 / 1024, 1024.0}) {
        Bracket scaled;
        scaled.scale = scale;
        scaled.load = scale * scale;  // the same stress
        const auto v = values_of(scaled.study());
        CHECK(v.at("peak") == doctest::Approx(base.at("peak")).epsilon(1e-6));
        CHECK(v.at("move") == doctest::Approx(scale * base.at("move")).epsilon(1e-6));
        CHECK(v.at("error") == doctest::Approx(base.at("error")).epsilon(1e-6));
    }
}

TEST_CASE("the same study in metres and in millimetres") {
    const auto mm = values_of(Bracket{}.study());
    Bracket metres;
    metres.units = "units = { length = \"m\", force = \"N\" }\n";
    metres.scale = 1.0 / 1000;
    metres.modulus = 70000e6;
    const auto m = values_of(metres.study());
    CHECK(m.at("peak") == doctest::Approx(1e6 * mm.at("peak")).epsilon(0.01));
    CHECK(m.at("energy") == doctest::Approx(1e-3 * mm.at("energy")).epsilon(1e-3));
    CHECK(m.at("move") == doctest::Approx(1e-3 * mm.at("move")).epsilon(1e-3));
}

TEST_CASE("superposition: two loads together are their sum") {
    const std::string body =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = "
        "\"right\", top = \"top\" }\n[material.m]\n"
        "youngs_modulus = 1000\npoissons_ratio = 0.25\n[support.s]\non = \"left\"\nhold = \"fixed\"\n[size]\nglobal = "
        "0.4\n"
        "[quantity.a]\nof = \"ux\"\nat = [4, 1]\n[quantity.b]\nof = \"sxy\"\nat = [2, 1]\n[quantity.r]\nof = "
        "\"reaction_y\"\n";
    const std::string pull = "[load.pull]\non = \"right\"\ntraction = [3, 1]\n",
                      push = "[load.push]\non = \"top\"\npressure = \"x^2\"\n";
    const auto a = values_of(body + pull), b = values_of(body + push), both = values_of(body + pull + push);
    for (const std::string name : {"a", "b", "r"})
        CHECK(both.at(name) == doctest::Approx(a.at(name) + b.at(name)).epsilon(1e-9));
    CHECK(b.at("r") == doctest::Approx(64.0 / 3));
}

TEST_CASE("work of the load is twice the strain energy; reciprocity of two load cases") {
    const std::string body =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = "
        "\"right\", top = \"top\" }\n[material.m]\n"
        "youngs_modulus = 1000\npoissons_ratio = 0.25\n[support.s]\non = \"left\"\nhold = \"fixed\"\n[size]\nglobal = "
        "0.5\n"
        "[quantity.right]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n[quantity.top]\nof = \"uy\"\ntake = "
        "\"mean\"\non = \"top\"\n[quantity.energy]\nof = \"strain_energy\"\n";
    const auto a = values_of(body + "[load.l]\non = \"right\"\nforce = [10, 0]\n"),
               b = values_of(body + "[load.l]\non = \"top\"\nforce = [0, 7]\n");
    CHECK(a.at("right") * 10 == doctest::Approx(2 * a.at("energy")).epsilon(1e-9));
    CHECK(b.at("top") * 7 == doctest::Approx(2 * b.at("energy")).epsilon(1e-9));
    CHECK(a.at("top") * 7 == doctest::Approx(b.at("right") * 10).epsilon(1e-8));  // Betti
}

TEST_CASE("finer meshes are softer under loads and stiffer under prescribed motion") {
    const auto energies = [](const std::string& drive) {
        std::vector<double> list;
        for (const std::string size : {"1", "0.5", "0.25"})
            list.push_back(
                values_of(
                    "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = "
                    "\"left\", right = \"right\" }\n[material.m]\n"
                    "youngs_modulus = 1000\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = \"fixed\"\n" +
                    drive + "[size]\nglobal = " + size + "\n[quantity.energy]\nof = \"strain_energy\"\n")
                    .at("energy"));
        return list;
    };
    const auto loaded = energies("[load.l]\non = \"right\"\nforce = [0, 1]\n");
    CHECK(loaded[0] < loaded[1]);
    CHECK(loaded[1] < loaded[2]);
    const auto moved = energies("[support.m]\non = \"right\"\nux = 0\nuy = 0.01\n");
    CHECK(moved[0] > moved[1]);
    CHECK(moved[1] > moved[2]);
}

TEST_SUITE_END();
