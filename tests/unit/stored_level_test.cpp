// Levels written to files and read back, and which studies may share them.

#include "evidence/levels/stored_level.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/output.hpp"
#include "study/compare.hpp"
#include "study/file/read_vary.hpp"
#include "support/folder.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// Heat and stress in two regions, one of which is nearly incompressible, in two load cases, with dual problems.
const std::string warm_pad =
    "format = 1\ntitle = \"Warm pad\"\n[part]\nname = \"plate\"\nplane = \"strain\"\n[[part.shape]]\nadd = "
    "\"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", right = \"right\", bottom = \"bottom\" "
    "}\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, 1]\nsize = [4, 1]\nregion = \"pad\"\nnames = { top = \"top\" "
    "}\n[[part.shape]]\nmark = \"point\"\nat = [2, 0.5]\nname = \"middle\"\n[material.steel]\non = "
    "\"plate\"\nyoungs_modulus = \"1000 - T\"\npoissons_ratio = 0.3\nconductivity = 20\nexpansion = "
    "1e-4\n[material.rubber]\non "
    "= \"pad\"\nyoungs_modulus = 5\npoissons_ratio = 0.4999\nconductivity = 0.3\nexpansion = 2e-4\n[support.floor]\non "
    "= "
    "\"bottom\"\nhold = \"fixed\"\npotential = 20\n[support.lid]\non = \"top\"\npotential = 60\n[load.push]\non = "
    "\"top\"\npressure = 0.2\n[load.pull]\non = \"right\"\ntraction = [1, 0]\n[case.pushed]\nfactors = { push = 1 "
    "}\n[case.both]\nfactors = { push = 1, pull = 0.5 }\n[quantity.sink]\nof = \"uy\"\ntake = \"mean\"\non = "
    "\"top\"\n[quantity.peak]\nof = "
    "\"von_mises\"\non = "
    "\"right\"\n[quantity.flow]\nof = \"reaction_flow\"\non = \"floor\"\n[size]\nglobal = 0.6\n[series.u]\nkind = "
    "\"uniform\"\nmost_levels = 2\n";

template <class T>
bool same(const std::vector<T>& a, const std::vector<T>& b) {
    return a == b;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("a stored level comes back bit for bit") {
    Problems problems("test.toml");
    const StudyAndPart both = open_study("test.toml", warm_pad, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Folder folder;
    Output output(folder.path, both, provenance_now(both.study, {}));
    output.begin(Earlier::refuse);
    struct Writer : StudyObserver {
        Output& output;
        explicit Writer(Output& o) : output(o) {}
        void level_done(Level& l) override { output.write_level(l); }
    } writer(output);
    const StudyResult result = run_study(both.study, both.part, writer);
    REQUIRE(result.series.front().levels.size() == 2);
    const Level& was = result.series.front().levels[1];
    const auto is = stored_level(folder.path / "u" / "level-2", both.study, both.part);
    REQUIRE(is);
    // Everything that is written of it is the same again, but for the cost that was added after it was written.
    CHECK(level_json(both.study, *is).dump() == level_json(both.study, was).dump());
    const LevelFields &a = *was.fields, &b = *is->fields;
    CHECK(same(a.mesh.nodes, b.mesh.nodes));
    CHECK(same(a.mesh.connectivity, b.mesh.connectivity));
    CHECK(same(a.mesh.slots, b.mesh.slots));
    CHECK(same(a.mesh.node_of_slot, b.mesh.node_of_slot));
    CHECK(a.mesh.names_of_edge == b.mesh.names_of_edge);
    REQUIRE(a.mesh.boundary.size() == b.mesh.boundary.size());
    for (std::size_t k = 0; k < a.mesh.boundary.size(); ++k) {
        CHECK(a.mesh.boundary[k].nodes == b.mesh.boundary[k].nodes);
        CHECK(a.mesh.boundary[k].element == b.mesh.boundary[k].element);
        CHECK(a.mesh.boundary[k].side == b.mesh.boundary[k].side);
        CHECK(a.mesh.boundary[k].edge == b.mesh.boundary[k].edge);
    }
    REQUIRE(a.mesh.node_of_slot.size() > a.mesh.nodes.size());  // between the regions
    REQUIRE(a.cases.size() == 2);
    REQUIRE(b.cases.size() == 2);
    for (std::size_t c = 0; c < 2; ++c) {
        const Solution &s = a.cases[c].solution, &t = b.cases[c].solution;
        CHECK(s.load_case == t.load_case);
        CHECK(same(s.displacement, t.displacement));
        CHECK(same(s.potential, t.potential));
        CHECK(same(s.temperature_change, t.temperature_change));
        CHECK(!s.stiffness_factor.empty());
        CHECK(same(s.stiffness_factor, t.stiffness_factor));
        CHECK(same(a.cases[c].stress.slots, b.cases[c].stress.slots));
        CHECK(same(a.cases[c].flux.slots, b.cases[c].flux.slots));
        CHECK(s.strain_energy == t.strain_energy);
        REQUIRE(s.volume.size() == t.volume.size());
        CHECK(!s.volume.empty());
        for (std::size_t e = 0; e < s.volume.size(); ++e) {
            CHECK(s.volume[e].coefficients == t.volume[e].coefficients);
            CHECK(s.volume[e].bubble == t.volume[e].bubble);
        }
    }
    CHECK(same(a.error.element_error2, b.error.element_error2));
    CHECK(same(a.wanted_size, b.wanted_size));
    // Quantities made from it are the ones that were stored.
    const auto again = evaluate_quantities(both.study, b.mesh, b.laws, b.cases);
    for (std::size_t q = 0; q < again.size(); ++q) CHECK(again[q].value == was.quantities[q].value);
    CHECK(!stored_level(folder.path / "u" / "level-3", both.study, both.part));
    // Damage is told with the file.
    const auto mesh = folder.path / "u" / "level-2" / "mesh.vtu";
    const std::string good = read_file(mesh);
    for (const std::size_t cut : {good.size() / 3, good.size() - 40}) {
        write_file(mesh, good.substr(0, cut));
        CHECK_THROWS_AS((void)stored_level(folder.path / "u" / "level-2", both.study, both.part), InputError);
    }
    write_file(mesh, read_file(folder.path / "u" / "level-1" / "mesh.vtu"));
    write_file(folder.path / "u" / "level-2" / "level.json", "{\"series\": 7}");
    CHECK_THROWS_AS((void)stored_level(folder.path / "u" / "level-2", both.study, both.part), InputError);
}

TEST_CASE("levels may be shared by studies that differ in stop rules, targets and series only") {
    const auto differs = [](const std::string& a, const std::string& b) { return differences_of_levels(a, b); };
    std::string other = warm_pad;
    const auto change = [&](const std::string& from, const std::string& to) {
        other = warm_pad;
        other.replace(other.find(from), from.size(), to);
        return differs(warm_pad, other);
    };
    CHECK(differs(warm_pad, warm_pad).empty());
    CHECK(change("most_levels = 2", "most_levels = 5  # more").empty());
    CHECK(change("most_levels = 2\n", "most_levels = 2\n[series.more]\nkind = \"adaptive\"\n").empty());
    CHECK(change("Warm pad", "Other").empty());
    CHECK(change("take = \"mean\"", "take = \"mean\"\ntarget = 0.01").empty());
    CHECK(change("most_levels = 2", "ratio = 2") == std::vector<std::string>{"series.u: ratio"});
    CHECK(change("youngs_modulus = 5", "youngs_modulus = 6") == std::vector<std::string>{"material.rubber"});
    CHECK(change("global = 0.6", "global = 0.5") == std::vector<std::string>{"size.global"});
    CHECK(change("[quantity.peak]\nof = \"von_mises\"", "[quantity.peak]\nof = \"sxx\"") ==
          std::vector<std::string>{"quantity.peak: of"});
    CHECK(change("[load.pull]", "[load.drag]").size() >= 2);
    CHECK(change("size = [4, 1]", "size = [4, 1.5]") == std::vector<std::string>{"part.shape"});
}

TEST_CASE("a study's variables are replaced where they stand") {
    const std::string text = "title = \"größe = 3\"\n[variables]\na = \"2 mm\"   # ä\nb = 3\n[part]\nc = \"a + b\"\n";
    CHECK(with_values(text, {{"b", "17.5"}, {"a", "\"9 cm\""}}) ==
          "title = \"größe = 3\"\n[variables]\na = \"9 cm\"   # ä\nb = 17.5\n[part]\nc = \"a + b\"\n");
    CHECK(with_values("variables = { a = \"ö\", b = 1 }\n", {{"b", "2"}}) == "variables = { a = \"ö\", b = 2 }\n");
    VarySpec spec;
    spec.values = {{"a", {"1", "2"}}, {"b", {"3", "4", "5"}}};
    CHECK(spec.runs().size() == 6);
    CHECK(spec.runs()[1] == std::vector<std::size_t>{0, 1});
    CHECK(spec.runs()[5] == std::vector<std::size_t>{1, 2});
    spec.together = true;
    spec.values[1].literals.pop_back();
    CHECK(spec.runs() == std::vector<std::vector<std::size_t>>{{0, 0}, {1, 1}});
    CHECK(VarySpec{}.runs().empty());
}

TEST_CASE("faulty variations are told") {
    const auto with = [](const std::string& keys) {
        return faults_of(warm_pad + "[variables]\na = 1\n[vary.v]\n" + keys);
    };
    CHECK(has(with(""), "values"));
    CHECK(has(with("values = { b = [1, 2] }\n"), "names \"b\", which is no variable"));
    CHECK(has(with("values = { a = [] }\n"), "the list is empty"));
    CHECK(has(with("values = { a = 3 }\n"), "neither a list nor a range"));
    CHECK(has(with("values = { a = { from = \"1 mm\", to = \"2 cm\", count = 3 } }\n"), "the same unit"));
    CHECK(has(with("values = { a = { from = 1, to = 2, count = 1 } }\n"), "at least 2"));
    CHECK(has(with("values = { a = { from = 1, to = 2 } }\n"), "from, to and count"));
    CHECK(!has(with("values = { a = { from = 1, to = 2, count = 4 } }\n"), "vary"));
}
