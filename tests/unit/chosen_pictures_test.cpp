// Pictures of one's choice, the ones that every study has, and what stands at a singular place.

#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>

#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "evidence/pictures/acting_picture.hpp"
#include "evidence/pictures/chosen_pictures.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "support/folder.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// An L of arms 2 long, held at its foot and pulled at its end in two cases.
std::string corner(const std::string& rest) {
    return "format = 1\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [2, 1], [1, 1], [1, 2], [0, "
           "2]]\nnames "
           "= { side2 = \"end\", side5 = \"foot\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = "
           "0.3\n[support.s]\non = \"foot\"\nhold = \"fixed\"\n[load.down]\non = \"end\"\ntraction = [0, "
           "-1]\n[load.out]\non = "
           "\"end\"\npressure = -1\n[case.a]\nfactors = { down = 1 }\n[case.b]\nfactors = { out = 2 }\n[size]\nglobal "
           "= "
           "0.25\n[series.uniform]\nkind = \"uniform\"\nmost_levels = 2\n[quantity.peak]\nof = \"von_mises\"\n" +
           rest;
}

std::vector<std::string> names_of(const std::vector<PictureSpec>& list) {
    std::vector<std::string> out;
    for (const auto& p : list) out.push_back(p.name);
    return out;
}

std::string told(const PictureFiles& p) {
    return p.svg;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("each quantity's field, each case's deformed shape and the envelope of the cases are pictured once") {
    const Study study = study_from(corner(
        "[quantity.side]\nof = \"sxx\"\ncase = \"b\"\n[quantity.again]\nof = \"sxx\"\ncase = \"b\"\ntake = "
        "\"mean\"\n[quantity.held]\nof = \"reaction_x\"\n[quantity.twice]\nformula = \"2 * peak\"\n"
        "[picture.mine]\nof = \"uy\"\nseries = \"uniform\"\nlevel = 1\nrange = [-1, 1]\nbox = [[0, 0], [1, 1]]\n"));
    const auto names = names_of(wanted_pictures(study));
    CHECK(names == std::vector<std::string>{"mine", "sxx-b", "deformed-a", "deformed-b", "von_mises-of-all-cases",
                                            "von_mises-governing-case"});
    const Study one = square_study(rest_of_study() + "[quantity.q]\nof = \"ux\"\n[quantity.r]\nof = \"syy\"\n");
    CHECK(names_of(wanted_pictures(one)) == std::vector<std::string>{"syy", "deformed"});
}

TEST_CASE("a picture is of the level, case and window that it asks for") {
    const auto m = run_text(corner(
        "[picture.first]\nof = \"uy\"\nlevel = 1\n[picture.late]\nof = \"uy\"\nlevel = 9\n[picture.window]\nof = "
        "\"syy\"\ncase = \"b\"\nbox = [[1, 0], [2, 1]]\n[picture.large]\nof = \"syy\"\ncase = \"*\"\nof_cases = "
        "\"largest\"\n"
        "[picture.which]\nof = \"von_mises\"\ncase = \"*\"\nof_cases = \"governing\"\n[picture.bent]\nof = "
        "\"displacement\"\ndeformed = 25\n"));
    const Study& study = m.opened.study;
    const auto picture = [&](const std::string& name) {
        return *std::find_if(study.pictures.begin(), study.pictures.end(),
                             [&](const auto& p) { return p.name == name; });
    };
    CHECK(level_of(m.result, picture("first"))->index == 1);
    CHECK(level_of(m.result, picture("window"))->index == 2);
    CHECK(level_of(m.result, picture("late")) == nullptr);
    CHECK_THROWS_WITH_AS((void)draw_chosen(study, m.result, picture("late")), doctest::Contains("no level 9"),
                         InputError);
    for (const std::string name : {"first", "window", "large", "which", "bent"}) {
        const PictureFiles drawn = draw_chosen(study, m.result, picture(name));
        CHECK(drawn.png.size() > 2000);
        CHECK(told(drawn).size() > 2000);
    }
    // The same drawing again has the same bytes.
    CHECK(draw_chosen(study, m.result, picture("large")).png == draw_chosen(study, m.result, picture("large")).png);
    CHECK(caption_of(study, picture("which")) == "von Mises stress: which load case gives the largest");
    CHECK(caption_of(study, picture("window")) == "stress σyy, load case b");
    CHECK(draw_acting(m.opened).png.size() > 2000);
}

TEST_CASE("an extreme on a re-entrant corner has no value beside it, one elsewhere has") {
    const auto m = run_text(corner(""));
    REQUIRE(!m.result.singular_places.empty());
    const Level& l = *finest_level(m.result);
    const auto peak = find_extreme(Field::von_mises, true, l.fields->source(), {});
    CHECK(has(label_without_value(*l.fields, Field::von_mises, 0, true, peak.position, m.result.singular_places),
              "grows with every mesh"));
    CHECK(label_without_value(*l.fields, Field::von_mises, 0, true, {{2, 0}}, m.result.singular_places).empty());
    CHECK(label_without_value(*l.fields, Field::uy, 0, true, peak.position, m.result.singular_places).empty());
    CHECK(label_without_value(*l.fields, Field::von_mises, 0, true, peak.position, {}).empty());
}

TEST_CASE("colours span all values, but not for the sake of a hot spot") {
    const auto m = run_text(corner(""));
    const Mesh& mesh = finest_level(m.result)->fields->mesh;
    std::vector<double> values(mesh.node_of_slot.size(), 0.0);
    for (std::size_t s = 0; s < values.size(); ++s)
        values[s] = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])][0];
    const ColourRange even = colour_range(mesh, values);
    CHECK(!even.clipped);
    CHECK(even.low == 0);
    CHECK(even.high == 2);
    values[0] = 1000;
    const ColourRange hot = colour_range(mesh, values);
    CHECK(hot.highest == 1000);
    CHECK(hot.low == 0);
}

TEST_CASE("pictures with faults are told") {
    const auto faults = [](const std::string& picture) { return faults_of(corner("[picture.p]\n" + picture)); };
    CHECK(faults("of = \"sxx\"\n").empty());
    CHECK(has(faults(""), "lacks the key \"of\""));
    CHECK(has(faults("of = \"reaction_x\"\n"), "a number of the whole and no field"));
    CHECK(has(faults("of = \"potential\"\n"), "which is not solved for"));
    CHECK(has(faults("of = \"sxx\"\ncase = \"c\"\n"), "no case of that name"));
    CHECK(has(faults("of = \"sxx\"\nseries = \"uniforn\"\n"), "did you mean \"uniform\"?"));
    CHECK(has(faults("of = \"sxx\"\nrange = [2, 1]\n"), "does not rise"));
    CHECK(has(faults("of = \"sxx\"\nbox = [[0, 0], [0, 1]]\n"), "has no area"));
    CHECK(has(faults("of = \"sxx\"\nof_cases = \"largest\"\n"), "goes with case = \"*\""));
    CHECK(has(faults("of = \"sxx\"\ncase = \"*\"\ndeformed = 3\n"), "several cases together"));
    CHECK(has(faults("of = \"sxx\"\ncase = \"*\"\nof_cases = \"governing\"\nrange = [0, 1]\n"), "governing case"));
    CHECK(has(faults("of = \"sxx\"\nlevel = 0\n"), "level"));
    CHECK(has(faults("of = \"sxx\"\ndeformed = \"very\"\n"), "neither a factor nor \"visibly\""));
    const std::string once = faults("of = \"sxx\"\ncase = 3\n");
    CHECK(once.find("picture.p.case") == once.rfind("picture.p.case"));
    CHECK(has(faults("of = \"sxx\"\nabout = \"nowhere\"\n"), "no point is named"));
    CHECK(has(faults("of = \"sxx\"\n[results]\npictures = \"some\"\n"), "none"));
    CHECK(
        has(faults_of("format = 1\n" + std::string("[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nname = "
                                                   "\"n\"\n[material.m]\nconductivity = 1\n[support.s]\non = "
                                                   "\"n\"\npotential = 0\n[load.l]\nsource = 1\n[picture.p]\nof = "
                                                   "\"potential\"\ndeformed = 2\n")),
            "needs displacements"));
}

TEST_CASE("mesh.vtu has the components of stress in their order, the density of the error its own meaning") {
    // Displacement (a x + c y, b y) in plane strain: four different stresses.
    const auto m = run_text(
        "format = 1\n[part]\nplane = \"strain\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nname = "
        "\"rim\"\n[[part.shape]]\ncut = \"circle\"\ncentre = [2, 1]\nradius = 0.3\n[material.m]\nyoungs_modulus = "
        "1000\npoissons_ratio = 0.25\n[support.s]\non = \"rim\"\nux = \"0.002 * x + 0.003 * y\"\nuy = \"0.001 * "
        "y\"\n[size]\nglobal = 0.5\n[quantity.q]\nof = \"von_mises\"\n[series.uniform]\nkind = "
        "\"uniform\"\nmost_levels = 1\n");
    const Level& l = m.result.series.front().levels.front();
    const Folder folder;
    std::ofstream(folder.path / "mesh.vtu", std::ios::binary) << level_vtu(m.opened.study, l);
    const MeshFile file = read_vtu(folder.path / "mesh.vtu", true);
    const FileField* own = file.field("stress", FileField::Of::elements);
    const FileField* recovered = file.field("stress_recovered", FileField::Of::nodes);
    REQUIRE(own);
    REQUIRE(recovered);
    const LevelFields& f = *l.fields;
    const auto source = f.source();
    const std::array fields{Field::sxx, Field::syy, Field::szz, Field::sxy};
    for (std::size_t c = 0; c < fields.size(); ++c) {
        const auto slots = slot_field(fields[c], source);
        for (std::size_t n = 0; n < f.mesh.nodes.size(); ++n) CHECK(recovered->values[6 * n + c] == slots[n]);
        FieldSource elements = source;
        elements.origin = FieldOrigin::elements;
        for (std::size_t e = 0; e < f.mesh.element_count(); ++e) {
            const auto kind = f.mesh.kinds[e];
            const ElementPoint middle = evaluate(kind, f.mesh.positions(e), reference_middle(kind));
            CHECK(own->values[6 * e + c] == doctest::Approx(field_at(fields[c], elements, e, middle)).epsilon(1e-9));
        }
    }
    // An element's error per root of its area, as a share of the whole: the range ends where 99.9 % of them lie below.
    std::vector<double> densities;
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e)
        densities.push_back(std::sqrt(f.error.element_error2[e] / f.mesh.measure_of(e) * f.mesh.measure() /
                                      (f.error.energy2 + f.error.error2)));
    std::sort(densities.begin(), densities.end());
    const SharedRanges ranges = shared_ranges(m.opened.study, {&l});
    CHECK(ranges.error_high ==
          doctest::Approx(densities[static_cast<std::size_t>(0.999 * static_cast<double>(densities.size() - 1))]));
}

TEST_SUITE_END();
