// Solids from files made elsewhere, and written for others.

#include "part/solid/model_file.hpp"

#include <fmt/format.h>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/resources.hpp"
#include "part/kernel/solid_kernel.hpp"
#include "support/folder.hpp"
#include "support/hostile_files.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

const std::vector<std::string> tub{
    "add box | size = [40, 30, 12] | names = { top = \"top\", front = \"front\", left = \"left\" }",
    "change round | near = [[20, 0, 0]] | radius = 5 | name = \"keel\"",
    "change hollow | wall = 2 | open = \"top\" | name = \"inside\""};
const std::vector<std::string> tee{
    "add cylinder | from = [-40, 0, 0] | to = [40, 0, 0] | radius = 15 | names = { side = \"run\", start = \"inlet\" }",
    "add cylinder | from = [0, 0, 0] | to = [0, 0, 40] | radius = 9 | names = { side = \"branch\" }",
    "change round | between = [\"run\", \"branch\"] | radius = 4 | name = \"crotch\""};
const std::vector<std::string> pair{
    "add box | size = [10, 10, 10] | region = \"lower\" | name = \"lower_skin\"",
    "add cone | from = [5, 5, 10] | to = [5, 5, 18] | radii = [4, 2] | region = \"upper\" | names = { end = \"cap\" }",
    "add sphere | centre = [30, 5, 5] | radius = 3 | region = \"ball\"",
    "add ring | centre = [50, 5, 5] | normal = [1, 1, 0] | radii = [6, 2] | region = \"ring\" | name = \"ring_skin\""};

/// The study of a model beside it.
StudyAndPart study_of(const fs::path& folder, const std::string& more, Problems& problems,
                      const std::string& head = "format = 1\n") {
    return open_study(folder / "study.toml",
                      head + "[part]\n[[part.shape]]\nadd = \"model\"\nfile = \"part.step\"\n" + more, problems);
}
SolidPart model_in(const fs::path& folder, const std::string& more = "", const std::string& head = "format = 1\n") {
    Problems problems("study.toml");
    const StudyAndPart both = study_of(folder, more, problems, head);
    INFO(problems.text());
    REQUIRE(both.solid);
    return *both.solid;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("a solid written as STEP and read again has the same measures, names and regions") {
    for (const auto& list : {tub, tee, pair}) {
        CAPTURE(list.front());
        const Folder folder;
        const SolidPart before = solid(list);
        write_step(before, folder.path / "part.step", 1);
        const SolidPart after = model_in(folder.path);
        CHECK(volume(after) == doctest::Approx(volume(before)).epsilon(1e-7));
        CHECK(distance(measure(after).centroid, measure(before).centroid) < 1e-6 * before.box.diagonal());
        CHECK(after.bodies.size() == before.bodies.size());
        if (before.regions.size() > 1) CHECK(after.regions == before.regions);
        for (const auto& name : before.boundary_names) {
            CAPTURE(name);
            CHECK(area_named(after, name) == doctest::Approx(area_named(before, name)).epsilon(1e-6));
        }
        for (std::size_t k = 0; k < 3; ++k) {
            CHECK(after.box.low[k] == doctest::Approx(before.box.low[k]).epsilon(1e-6));
            CHECK(after.box.high[k] == doctest::Approx(before.box.high[k]).epsilon(1e-6));
        }
    }
}

TEST_CASE("the unit of a file is that of the study, unless the study says another") {
    const Folder folder;
    write_step(solid({"add box | size = [40, 30, 12]"}), folder.path / "part.step", 0.001);  // 40 mm
    const std::string metres = "format = 1\nunits = { length = \"m\", force = \"N\" }\n",
                      millimetres = "format = 1\nunits = { length = \"mm\", force = \"N\" }\n";
    CHECK(model_in(folder.path, "", metres).box.high[0] == doctest::Approx(0.04));
    CHECK(model_in(folder.path, "", millimetres).box.high[0] == doctest::Approx(40));
    CHECK(model_in(folder.path, "unit = \"in\"\n", millimetres).box.high[0] == doctest::Approx(40 * 25.4));
    // The same numbers, said to be metres.
    std::string text = read_file(folder.path / "part.step");
    const std::string milli = "SI_UNIT(.MILLI.,.METRE.)";
    REQUIRE(text.find(milli) != std::string::npos);
    text.replace(text.find(milli), milli.size(), "SI_UNIT($,.METRE.)");
    write_file(folder.path / "part.step", text);
    CHECK(model_in(folder.path, "", millimetres).box.high[0] == doctest::Approx(40000));
    CHECK(model_in(folder.path, "unit = \"mm\"\n", millimetres).box.high[0] == doctest::Approx(40));
}

TEST_CASE("models are cut, rounded, moved, repeated and added to like shapes") {
    const Folder folder;
    write_step(solid(tub), folder.path / "part.step", 1);
    const double whole = volume(solid(tub));
    CHECK(volume(model_in(folder.path, "repeat = 2\nstep = [50, 0, 0]\n")) == doctest::Approx(2 * whole).epsilon(1e-7));
    CHECK(volume(model_in(folder.path, "mirror = [[0, 0, 0], [0, 1, 0], [0, 0, 1]]\nrotate = \"30 deg\"\n")) ==
          doctest::Approx(whole).epsilon(1e-7));
    const auto drilled = model_in(folder.path,
                                  "[[part.shape]]\ncut = \"cylinder\"\nfrom = [20, 15, -1]\nto = [20, 15, 3]\nradius = "
                                  "4\nname = \"drain\"\n[[part.shape]]\nchange = \"bevel\"\nbetween = [\"drain\", "
                                  "\"inside\"]\nlength = 0.5\nname = \"lip\"\n");
    CHECK(area_named(drilled, "drain") == doctest::Approx(2 * M_PI * 4 * 1.5).epsilon(1e-7));
    const auto filled = model_in(folder.path,
                                 "region = \"tub\"\n[[part.shape]]\nadd = \"box\"\ncorner = [2, 6, 2]\n"
                                 "size = [36, 20, 3]\nregion = \"fill\"\n");
    CHECK(filled.regions == std::vector<std::string>{"tub", "fill"});
    CHECK(filled.faces_named({"tub_and_fill"}).size() > 0);
    const auto cut_out = solid_from(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"box\"\ncorner = [-5, -5, -5]\n"
        "size = [50, 40, 22]\n[[part.shape]]\ncut = \"model\"\nfile = \"" +
        (folder.path / "part.step").string() + "\"\n");
    CHECK(volume(cut_out) == doctest::Approx(50.0 * 40 * 22 - whole).epsilon(1e-7));
}

TEST_CASE("the geometry library's own text is read too, and has no unit") {
    const Folder folder;
    const auto write =
        reinterpret_cast<ShapeFileWriter>(module_symbol("libdotsift-geometry.so", shape_file_writer_symbol));
    std::vector<int> numbers;
    std::string fault;
    write(solid({"add box | size = [40, 30, 12]"}), 1, (folder.path / "part.brep").c_str(), numbers, fault);
    REQUIRE(fault.empty());
    const ModelFile file = read_model(folder.path / "part.brep", {}, 1);
    CHECK_FALSE(file.has_unit);
    REQUIRE(file.solids.size() == 1);
    CHECK(volume(file.solids[0]) == doctest::Approx(14400));
}

TEST_CASE("files that are no models of solids are refused with what helps") {
    const Folder folder;
    const auto told = [&](const std::string& text) {
        write_file(folder.path / "part.step", text);
        Problems problems("study.toml");
        (void)study_of(folder.path, "", problems);
        return problems.text();
    };
    const auto has = [](const std::string& text, const std::string& what) {
        CAPTURE(text);
        CHECK(text.find(what) != std::string::npos);
        CHECK(text.find("unexpected") == std::string::npos);
    };
    Problems problems("study.toml");
    (void)study_of(folder.path, "", problems);
    has(problems.text(), "there is no such file");
    has(told(""), "it is none of STEP, .brep, STL, PLY, OFF and OBJ");
    has(told("0\nSECTION\n2\nENTITIES\n"), "it is none of STEP, .brep, STL, PLY, OFF and OBJ");
    has(told("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n"), "it is no sound STEP file");
    has(told("ISO-10303-21;\nHEAD"), "cannot be read");
    has(told("DBRep_DrawableShape\n\nCASCADE Topology V1, (c) Matra-Datavision\nLocations 99999999\n"),
        "cannot be read");
    // Without one of its faces it does not close.
    write_step(solid({"add box | size = [4, 3, 2]"}), folder.path / "whole.step", 1);
    std::string text = read_file(folder.path / "whole.step");
    const auto shell = text.find("CLOSED_SHELL('',(");
    REQUIRE(shell != std::string::npos);
    const auto first = text.find('#', shell), comma = text.find(',', first);
    text.erase(first, comma - first + 1);
    has(told(text), "cannot be read");
}

TEST_CASE("damaged STEP files are read or refused") {
    const Folder folder;
    const FileKind kind = file_kind("model");
    Random random(7);
    int read = 0, refused = 0;
    constexpr int trials = 16;  // bench/fuzz/files has more
    for (int trial = 0; trial < trials; ++trial) try {
            (void)kind.take(mutated(kind.seeds, random), folder.path, random);
            ++read;
        } catch (const Error&) {
            ++refused;
        }
    CHECK(read + refused == trials);
    CHECK(refused > 0);
}

TEST_SUITE_END();
