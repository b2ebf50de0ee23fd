// Materials that stand in a file of their own.

#include <doctest/doctest.h>

#include <fstream>

#include "part/checks/check_study.hpp"
#include "study/input_files.hpp"
#include "support/folder.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr const char* alloys =
    "# kept by the test house\n[material.hull]\nyoungs_modulus = \"205 GPa\"\npoissons_ratio = 0.29\ndensity = \"7850 "
    "kg/m^3\"\n[material.skin]\nmoduli = [\"40 GPa\", \"8 GPa\", \"8 GPa\"]\npoissons_ratios = [0.25, 0.3, "
    "0.25]\nshear_modulus = \"4 GPa\"\n[material.soft]\nyoungs_modulus = 3\npoissons_ratio = 0.3\n[material.bad]\n"
    "youngs_modulus = \"3 GPa\"\npoissons_ratio = 0.7\n";

StudyAndPart with_material(const Folder& folder, const std::string& material, Problems& problems) {
    std::ofstream(folder.path / "alloys.toml") << alloys;
    return open_study(
        folder.path / "plate.toml",
        "format = 1\n[units]\nlength = \"mm\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { "
        "left = \"left\", right = \"right\" }\n" +
            material +
            "[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"right\"\npressure = "
            "1\n[quantity.q]\nof = \"ux\"\n",
        problems);
}

std::string faults_with(const std::string& material) {
    const Folder folder;
    Problems problems("plate.toml");
    (void)with_material(folder, material, problems);
    return problems.text();
}

}  // namespace

TEST_SUITE_BEGIN("study");

TEST_CASE("a material of a shared file is read in the study's units; the study's own keys count before it") {
    const Folder folder;
    Problems problems("plate.toml");
    const auto opened =
        with_material(folder, "[material.hull]\nfrom = \"alloys.toml\"\npoissons_ratio = 0.31\n", problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const MaterialSpec& m = opened.study.materials.front();
    CHECK(m.name == "hull");
    CHECK(m.youngs_modulus == doctest::Approx(205000));
    CHECK(m.poissons_ratio == 0.31);
    CHECK(*m.density == doctest::Approx(7.85e-9));
    CHECK(input_files(opened.study) == std::vector<std::filesystem::path>{"alloys.toml"});
    Problems other("plate.toml");
    const auto skin =
        with_material(folder, "[material.mine]\nfrom = \"alloys.toml\"\nentry = \"skin\"\nangle = \"30 deg\"\n", other);
    REQUIRE(other.empty());
    CHECK(skin.study.materials.front().orthotropy->shears[0] == doctest::Approx(4000));
    CHECK(skin.study.materials.front().angle == doctest::Approx(0.5236).epsilon(1e-3));
}

TEST_CASE("what is wrong with a shared material is told with the file's own line") {
    CHECK(has(faults_with("[material.hul]\nfrom = \"alloys.toml\"\n"), "did you mean \"hull\"?"));
    CHECK(has(faults_with("[material.x]\nfrom = \"nowhere.toml\"\n"), "nowhere.toml"));
    CHECK(has(faults_with("[material.soft]\nfrom = \"alloys.toml\"\n"), "alloys.toml:11: youngs_modulus has no unit"));
    CHECK(has(faults_with("[material.bad]\nfrom = \"alloys.toml\"\n"), "alloys.toml:15: "));
    CHECK(has(faults_with("[material.hull]\nentry = \"hull\"\nyoungs_modulus = 1\npoissons_ratio = 0.3\n"),
              "entry goes with from"));
    CHECK(has(faults_with("[material.hull]\nfrom = \"alloys.toml\"\nmoduli = [1, 2, 3]\n"), "beside constants"));
    CHECK(has(faults_with("[material.hull]\nfrom = 3\n"), "from"));
    const Folder folder;
    std::ofstream(folder.path / "broken.toml") << "[material.a\n";
    Problems problems("plate.toml");
    (void)with_material(folder, "[material.a]\nfrom = \"broken.toml\"\n", problems);
    CHECK(has(problems.text(), "line 1 is not valid TOML"));
}

TEST_SUITE_END();
