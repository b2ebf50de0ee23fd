#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "study/keys.hpp"
#include "study/read.hpp"
#include "study/units.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

const std::string square =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nnames = { left = \"left\", right = \"right\" }\n";

}  // namespace

TEST_SUITE_BEGIN("study");

TEST_CASE("what lies between regions is named by itself, and nothing has to use it") {
    const std::string warnings = warnings_of(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"sphere\"\nradius = 4\nname = \"ball\"\nregion = \"a\"\n"
        "[[part.shape]]\nadd = \"box\"\nsize = [5, 5, 5]\nname = \"block\"\nregion = \"b\"\n[material.m]\n"
        "youngs_modulus = 1000\npoissons_ratio = 0.3\n[support.s]\non = \"block\"\nhold = \"fixed\"\n[load.l]\n"
        "on = \"ball\"\ntraction = [0, 0, 1]\n");
    CHECK_FALSE(has(warnings, "a_and_b"));
}

TEST_CASE("numbers may carry units, and are turned into the study's own") {
    const UnitSystem mm("mm", "N"), m("m", "kN"), inch("in", "lbf");
    const auto in = [](const UnitSystem& u, const std::string& text) {
        const auto measure = parse_measure(text);
        REQUIRE(measure);
        return u.from_si(measure->in_si, measure->dimension);
    };
    CHECK(in(mm, "210 GPa") == doctest::Approx(210000));
    CHECK(in(m, "210 GPa") == doctest::Approx(2.1e8));
    CHECK(in(mm, "1 kN/cm^2") == doctest::Approx(10));
    CHECK(in(inch, "1 ksi") == doctest::Approx(1000));
    CHECK(in(mm, "2.5 J") == doctest::Approx(2500));
    CHECK(in(mm, "90 deg") == doctest::Approx(std::numbers::pi / 2));
    CHECK(in(mm, "2 %") == doctest::Approx(0.02));
    CHECK(in(mm, "+1.5e1 cm") == doctest::Approx(150));
    CHECK(!parse_measure("12"));
    CHECK(!parse_measure("12 furlong"));
    CHECK(!parse_measure("2 * mm"));
    CHECK(!parse_measure("N"));
    CHECK(!parse_measure("3 mm /"));
    CHECK(!parse_measure("3 mm^99999999999"));
    CHECK(mm.label(dimension::stress) == "MPa");
    CHECK(UnitSystem("m", "N").label(dimension::stress) == "Pa");
    CHECK(UnitSystem("cm", "N").label(dimension::stress) == "N/cm²");
    CHECK(mm.label(dimension::moment) == "N mm");
    CHECK(mm.label(dimension::none).empty());
    CHECK_THROWS_AS(UnitSystem("N", "N"), std::invalid_argument);
    CHECK_THROWS_AS(UnitSystem("mm", "Pa"), std::invalid_argument);
}

TEST_CASE("formulas use variables and the place") {
    const auto study = study_from(
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[variables]\na = \"2 * b\"\nb = 3\nfield = \"a * x + "
        "y\"\nlong = \"1 cm\"\n[part]\n" +
        square + rest_of_study() + "[support.more]\non = \"right\"\nux = \"field + nx\"\nuy = \"a * 1e2 + long\"\n");
    const auto& support = study.supports.back();
    REQUIRE(support.displacement[0]);
    CHECK(!support.displacement[0]->constant);
    const FormulaEvaluator f(*support.displacement[0], "test.toml");
    CHECK(f(FormulaPlace{{{2, 5}}, {{1, 0}}, {{0, 0}}}) == doctest::Approx(6 * 2 + 5 + 1));
    REQUIRE(support.displacement[1]->constant);
    CHECK(*support.displacement[1]->constant == doctest::Approx(610));
}

TEST_CASE("a formula that gives no number tells the place") {
    Formula formula;
    formula.source = formula.text = "1 / x";
    formula.where = {4, 2};
    const FormulaEvaluator f(formula, "s.toml");
    try {
        (void)f(FormulaPlace{{{0, 3}}, {}, {}});
        FAIL("no error");
    } catch (const InputError& e) {
        CHECK(e.place().line == 4);
        REQUIRE(e.place().position);
        CHECK((*e.place().position)[1] == 3);
        CHECK(has(e.what(), "x = 0"));
    }
    formula.text = "1 + * 2";
    CHECK_THROWS_AS(FormulaEvaluator(formula, "s.toml"), InputError);
    formula.text = "atan2(y, x) + theta + r";
    CHECK(FormulaEvaluator(formula, "s")(FormulaPlace{{{1, 2}}, {}, {{1, 1}}}) ==
          doctest::Approx(std::atan2(2, 1) + std::numbers::pi / 2 + 1));
}

TEST_CASE("formulas in space know z and the normal's third part") {
    Formula formula;
    formula.source = formula.text = "x + 10 * y + 100 * z + 1000 * nz + r + theta";
    const FormulaEvaluator f(formula, "s", space_names());
    // r and theta run round the axis along z.
    const double found = f(FormulaPlaceIn<3>{{{4, 6, 7}}, {{0, 0, 1}}, {{1, 2, -5}}});
    CHECK(found == doctest::Approx(4 + 60 + 700 + 1000 + 5 + std::atan2(4, 3)));
    formula.source = formula.text = "1 / z";
    try {
        (void)FormulaEvaluator(formula, "s", space_names())(FormulaPlaceIn<3>{{{1, 2, 0}}, {}, {}});
        FAIL("no error");
    } catch (const InputError& e) {
        CHECK(has(e.what(), "z = 0"));
        REQUIRE(e.place().position);
        CHECK(e.place().position->in_space());
    }
    CHECK_THROWS_AS(FormulaEvaluator(formula, "s"), InputError);  // in the plane there is no z
}

TEST_CASE("identifiers are whole words that are no functions and no exponents") {
    CHECK(identifiers("2e3 * e3 + sin(x) + max (a, b_1)") == std::vector<std::string>{"e3", "x", "a", "b_1"});
    CHECK(replace_identifier("a + aa + a", "a", "x*2") == "(x*2) + aa + (x*2)");
}

TEST_CASE("the shortest useful study has 20 lines and sensible defaults") {
    const std::string text =
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [100, "
        "20]\n"
        "names = { left = \"wall\", right = \"end\" }\n[material.steel]\nyoungs_modulus = \"205 GPa\"\npoissons_ratio "
        "= 0.3\n"
        "[support.wall]\non = \"wall\"\nhold = \"fixed\"\n[load.end]\non = \"end\"\nforce = [0, "
        "-500]\n[quantity.sag]\nof = \"uy\"\ntake = \"minimum\"\n";
    CHECK(std::count(text.begin(), text.end(), '\n') <= 25);
    CHECK(faults_of(text).empty());
    const auto study = study_from(text);
    CHECK(study.plane == Plane::stress);
    CHECK(study.thickness.constant == 1.0);
    REQUIRE(study.series.size() == 1);
    CHECK(study.series[0].kind == SeriesKind::uniform);
    CHECK(study.sizes.growth == 1.3);
    CHECK(study.title == "test");
}

TEST_CASE("all faults of a file are told at once, each with line, column and remedy") {
    const std::string faults = faults_of(
        "format = 1\n"                       // 1
        "[part]\n"                           // 2
        "thicknes = 3\n"                     // 3
        "plane = \"stres\"\n"                // 4
        "[[part.shape]]\n"                   // 5
        "add = \"circle\"\n"                 // 6
        "radius = -2\n"                      // 7
        "width = 3\n"                        // 8
        "[material.m]\n"                     // 9
        "youngs_modulus = \"3 mm\"\n"        // 10
        "[support.a]\n"                      // 11
        "on = 3\n"                           // 12
        "[load.b]\n"                         // 13
        "on = \"x\"\n"                       // 14
        "traction = [1, \"2 * unknown\"]\n"  // 15
        "[series.c]\n"                       // 16
        "kind = \"uniform\"\n"               // 17
        "ratio = 1\n");                      // 18
    CHECK(has(faults, "test.toml:3:1: error: unknown key \"thicknes\" in [part]"));
    CHECK(has(faults, "did you mean \"thickness\"?"));
    CHECK(has(faults, "test.toml:4:9: error: part.plane is \"stres\""));
    CHECK(has(faults, "did you mean \"stress\"?"));
    CHECK(has(faults, "test.toml:7:10: error: part.shape 1.radius is -2, but it must be greater than zero"));
    CHECK(has(faults, "test.toml:8:9: error: part.shape 1.width has no meaning for a circle"));
    CHECK(has(faults,
              "test.toml:10:18: error: material.m.youngs_modulus = \"3 mm\" has the unit of a length, but a stress is "
              "wanted"));
    CHECK(has(faults, "[material.m] lacks the key \"poissons_ratio\""));
    CHECK(has(faults, "test.toml:12:6: error: support.a.on must be a name"));
    CHECK(has(faults, "[support.a] needs \"hold\", one of \"ux\", \"uy\", \"normal\""));
    CHECK(has(faults, "test.toml:15:16: error: load.b.traction[y]: \"unknown\" in the formula is no variable"));
    CHECK(has(faults, "test.toml:18:9: error: series.c.ratio is 1, but it must be greater than 1"));
}

TEST_CASE("names are checked even if a number elsewhere is wrong") {
    const std::string faults = faults_of("format = 1\n[part]\nthickness = 0\n" + square + rest_of_study() +
                                         "[load.two]\non = \"rihgt\"\npressure = 1\n");
    CHECK(has(faults, "part.thickness is 0"));
    CHECK(has(faults, "did you mean \"right\"?"));
}

TEST_CASE("faults of single keys") {
    const auto with = [](const std::string& extra) {
        return faults_of("format = 1\n" + extra + "\n[part]\n" + square + rest_of_study());
    };
    const auto after = [](const std::string& extra) {
        return faults_of("format = 1\n[part]\n" + square + rest_of_study() + extra);
    };
    CHECK(with("").empty());
    CHECK(has(faults_of("x ="), "not valid TOML"));
    CHECK(has(faults_of(""), "begin the file with: format = 1"));
    CHECK(has(faults_of("format = 2\n"), "reads version 1"));
    CHECK(has(faults_of("format = 1\n"), "the study has no part"));
    CHECK(has(faults_of("format = 1\n"), "the study has no material"));
    CHECK(has(faults_of("format = 1\n"), "the study has no support"));
    CHECK(has(faults_of("format = 1\n"), "the study has no load"));
    CHECK(has(with("matrial = 3"), "did you mean \"material\"?"));
    CHECK(has(with("units = { length = \"N\" }"), "is not a unit of length"));
    CHECK(has(with("[variables]\na = \"b\"\nb = \"a\""), "is defined by itself"));
    CHECK(has(with("[variables]\nx = 1"), "cannot name a variable"));
    CHECK(has(with("[variables]\n\"1a\" = 1"), "cannot name a variable"));
    CHECK(has(with("[variables]\na = true"), "variables.a is true or false, but a number is wanted"));
    CHECK(has(with("[variables]\na = inf"), "is not a finite number"));
    CHECK(has(after("[size]\nglobal = \"x\"\n"), "depends on the place"));
    CHECK(has(after("[size]\nglobal = 0\n"), "must be greater than zero"));
    CHECK(has(after("[size]\ngrowth = 1\n"), "must be greater than 1"));
    CHECK(has(after("[size]\nsegments_per_circle = 2\n"), "at least 3"));
    CHECK(has(after("[size]\nglobal = 1\nsmallest = 2\n"), "greater than the global size"));
    CHECK(has(after("[size]\nmost_elements = 1.5\n"), "a whole number of at least 1"));
    CHECK(has(after("[size.local.a]\non = \"left\"\n"), "lacks the key \"size\""));
    CHECK(
        has(after("[size]\nsmallest = 0.1\n[size.local.a]\non = \"left\"\nsize = 0.05\n"), "below the smallest size"));
    CHECK(has(after("[series.a]\nmost_levels = 3\n"), "lacks the key \"kind\""));
    CHECK(
        has(after("[series.a]\nkind = \"adaptive\"\nratio = 2\n"), "has no meaning for a series of kind \"adaptive\""));
    CHECK(has(after("[series]\na = 3\n"), "every series has a name"));
    CHECK(has(after("[quantity.q]\nof = \"vonmises\"\n"), "did you mean \"von_mises\"?"));
    CHECK(has(after("[quantity.q]\nof = \"ux\"\ntake = \"value\"\n"), "needs a point"));
    CHECK(has(after("[quantity.q]\nof = \"ux\"\nat = [0, 0]\ntake = \"mean\"\n"), "goes with take = \"value\" only"));
    CHECK(has(after("[quantity.q]\nof = \"strain_energy\"\ntake = \"maximum\"\n"), "which is a total"));
    CHECK(has(after("[quantity.q]\nformula = \"p / 2\"\n[quantity.p]\nof = \"ux\"\n"), "no quantity above it"));
    CHECK(has(after("[quantity.q]\nformula = \"1 +\"\n"), "cannot be"));
    CHECK(has(after("[quantity.q]\ntarget = 0.1\n"), "needs one of \"of\", \"formula\""));
    CHECK(has(faults_of("format = 1\n[part]\n[[part.shape]]\nadd = \"box\"\nsize = [1, 1, 1]\n" + rest_of_study()),
              "names = { left = \"left\" } in the shape"));
    CHECK(has(after("[load.two]\non = \"left\"\npressure = 1\ntraction = [0, 0]\n"),
              "load.two.pressure stands beside traction"));
    CHECK(has(after("[load.two]\non = \"left\"\nforce = [\"x\", 0]\n"), "cannot depend on the place"));
    CHECK(has(after("[load.two]\non = \"left\"\npressure = 1\nspread = \"x\"\n"),
              "goes with force on a boundary, and flow, only"));
    CHECK(has(after("[load.two]\non = \"left\"\ntraction = 3\n"), "two numbers or formulas"));
    CHECK(has(after("[support.p]\nat = [0, 0]\nhold = \"symmetry\"\n"), "a single point cannot have"));
    CHECK(has(after("[support.p]\nat = [0, 0]\non = \"left\"\nux = 0\n"), "stands beside on"));
    for (const std::string key : {"normal_stiffness", "tangential_stiffness"})
        CHECK(has(after("[support.p]\non = \"left\"\n" + key + " = -3\n"), "support.p." + key + " is negative"));
    CHECK(has(with("physics = \"conduction\"\n[load.air]\non = \"left\"\ntransfer = -3\nambient = 2\n"),
              "load.air.transfer is negative"));
    CHECK(has(after("[path.w]\npoints = [[0, 0], [1, 0], [1, 1]]\n[quantity.q]\nof = \"von_mises\"\nalong = \"w\"\n"
                    "take = \"linearised\"\n"),
              "is a path with corners between its ends"));
    CHECK(has(after("[material.other]\nyoungs_modulus = 1\npoissons_ratio = 0.2\n"), "both claim the regions"));
    CHECK(has(after("[exact_stress]\nsxx = 1\n"), "lacks the key \"syy\""));
    // names become file names: none may lead out of the output directory
    CHECK(has(after("[series.\"../../x\"]\nkind = \"uniform\"\n"), "cannot name a series"));
    CHECK(has(after("[series.charts]\nkind = \"uniform\"\n"), "cannot name a series"));
    CHECK(has(after("[quantity.\"a/b\"]\nof = \"ux\"\n"), "cannot name a quantity"));
    CHECK(has(after("[quantity.\"\"]\nof = \"ux\"\n"), "cannot name a quantity"));
    CHECK(has(after("[quantity.2nd]\nof = \"ux\"\n"), "cannot name a quantity"));
}

TEST_CASE("material constants out of range") {
    const auto with = [](const std::string& plane, const std::string& nu) {
        return faults_of("format = 1\n[part]\nplane = \"" + plane + "\"\n" + square +
                         "[material.m]\nyoungs_modulus = 1\npoissons_ratio = " + nu +
                         "\n[support.held]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"right\"\npressure = 1\n");
    };
    CHECK(with("strain", "0.4999").empty());
    CHECK(with("stress", "0.5").empty());
    CHECK(has(with("strain", "0.5"), "incompressible"));
    CHECK(has(with("stress", "0.51"), "between -1 and 0.5"));
    CHECK(has(with("stress", "-1"), "between -1 and 0.5"));
}

TEST_CASE("shapes that miss or mix their keys") {
    const auto with = [](const std::string& shape) {
        return faults_of("format = 1\n[part]\n[[part.shape]]\n" + shape + rest_of_study());
    };
    CHECK(has(with("size = [1, 1]\n"), "needs one of \"add\", \"cut\""));
    CHECK(has(with("add = \"rectangel\"\n"), "did you mean \"rectangle\"?"));
    CHECK(has(with("cut = \"circle\"\nradius = 1\n"), "nothing yet to cut from"));
    CHECK(has(with("add = \"rectangle\"\n"), "lacks the key \"size\""));
    CHECK(has(with("add = \"rectangle\"\nsize = [1, 0]\n"), "two numbers greater than zero"));
    CHECK(has(with("add = \"rectangle\"\nsize = [1]\n"), "two numbers in brackets"));
    CHECK(has(with("add = \"polygon\"\ncorners = [[0, 0], [1, 0]]\n"), "a polygon needs three"));
    CHECK(has(with("add = \"slot\"\nfrom = [0, 0]\nto = [0, 0]\nwidth = 1\n"), "the same point as from"));
    CHECK(has(with("add = \"rectangle\"\nsize = [1, 1]\nrounds = { 5 = 0.1 }\n"), "has no corner \"5\""));
    CHECK(has(with("add = \"rectangle\"\nsize = [1, 1]\nnames = { lft = \"a\" }\n"), "did you mean \"left\"?"));
    CHECK(has(with("add = \"circle\"\nradius = 1\nnames = { left = \"a\" }\n"), "name the whole shape"));
    CHECK(has(faults_of("format = 1\n[part]\nshape = 3\n" + rest_of_study()), "two brackets"));
}

TEST_CASE("nearest word and patterns") {
    const std::vector<std::string> words{"thickness", "plane", "shape"};
    CHECK(nearest("thicknes", words) == "thickness");
    CHECK(nearest("plnae", words) == "plane");
    CHECK(nearest("zzzzzz", words).empty());
    CHECK(fits_pattern("flank_left", "flank_*"));
    CHECK(fits_pattern("ab", "a?"));
    CHECK(fits_pattern("abcabc", "*abc"));
    CHECK(!fits_pattern("flank", "flank_*"));
    CHECK(!fits_pattern("ab", "a"));
    CHECK(fits_pattern("", "*"));
}

TEST_CASE("any text is answered with faults, never with a crash") {
    const std::string good = read_file(std::string(DOTSIFT_SOURCE) + "/examples/tidal/blade-root-plate.toml");
    unsigned state = 12345;
    const auto random = [&](std::size_t n) {
        state = state * 1664525U + 1013904223U;
        return static_cast<std::size_t>(state >> 8U) % n;
    };
    for (int k = 0; k < 1500; ++k) {
        std::string text = good;
        for (std::size_t edits = 1 + random(4); edits > 0; --edits) {
            const std::size_t at = random(text.size());
            switch (random(4)) {
                case 0:
                    text.erase(at, 1 + random(30));
                    break;
                case 1:
                    text.insert(at, 1, static_cast<char>(random(256)));
                    break;
                case 2:
                    text[at] = "0123456789=[]{}\".,-+*/e"[random(23)];
                    break;
                default:
                    text = text.substr(0, at) + "1";
                    break;
            }
            if (text.empty()) text = "x";
        }
        Problems problems("mutated.toml");
        (void)read_study("mutated.toml", text, problems);
    }
    CHECK(true);
}

TEST_CASE("the reference in docs is the table of keys") {
    const std::string docs = read_file(std::string(DOTSIFT_SOURCE) + "/docs/study-file.md");
    CHECK(docs.find(key_reference()) != std::string::npos);
    std::string in_one_line = docs;
    std::replace(in_one_line.begin(), in_one_line.end(), '\n', ' ');
    CHECK(in_one_line.find("Units are " + known_units() + ".") != std::string::npos);
}

TEST_CASE("a unit that is not known is told with those that are, a word that is no unit as a variable") {
    const auto told = [](const std::string& size) {
        return faults_of("format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [\"" + size + "\", 2]\n" +
                         rest_of_study());
    };
    CHECK(has(told("3 furlong"), "\"furlong\" is no unit that is known"));
    CHECK(has(told("3 furlong"), "bar, psi, ksi"));
    CHECK(has(told("3 * wide"), "\"wide\" in the formula is no variable"));
    CHECK(has(told("wide"), "no variable"));
}

TEST_CASE("keys are found by their section and by a word, whatever its case") {
    const std::string quantity = key_reference("quantity");
    CHECK(has(quantity, "### `[quantity.NAME]`"));
    CHECK(has(quantity, "### `[quantity.NAME.limit]`"));
    CHECK_FALSE(has(quantity, "[series.NAME]"));
    CHECK(has(key_reference("", "SAFETY"), "| `factor_of_safety` |"));
    CHECK_FALSE(has(key_reference("", "safety"), "| `growth` |"));
    CHECK(key_reference("quantity", "fins of a fish").empty());
    CHECK(key_reference("nothing").empty());
}

TEST_SUITE_END();
