#include <doctest/doctest.h>
#include <fmt/format.h>

#include <unistd.h>
#include <cmath>

#include <filesystem>
#include <numbers>
#include <random>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/part_files.hpp"
#include "part/build.hpp"
#include "part/measure.hpp"
#include "part/shapes/dxf_read.hpp"
#include "study/read.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;
namespace fs = std::filesystem;

std::string pairs(std::initializer_list<std::pair<int, std::string>> list) {
    std::string text;
    for (const auto& [code, value] : list) text += fmt::format("{}\n{}\n", code, value);
    return text;
}

std::string entity(const std::string& kind, const std::string& layer,
                   std::initializer_list<std::pair<int, double>> values) {
    std::string text = fmt::format("0\n{}\n8\n{}\n", kind, layer);
    for (const auto& [code, value] : values) text += fmt::format("{}\n{}\n", code, value);
    return text;
}

std::string line(double x1, double y1, double x2, double y2, const std::string& layer = "0") {
    return entity("LINE", layer, {{10, x1}, {20, y1}, {30, 0}, {11, x2}, {21, y2}, {31, 0}});
}

std::string square(double x, double y, double w, double h, const std::string& layer = "0") {
    return line(x, y, x + w, y, layer) + line(x + w, y, x + w, y + h, layer) + line(x + w, y + h, x, y + h, layer) +
           line(x, y + h, x, y, layer);
}

std::string circle(double x, double y, double r, const std::string& layer = "0") {
    return entity("CIRCLE", layer, {{10, x}, {20, y}, {30, 0}, {40, r}});
}

std::string dxf(const std::string& entities, int unit = 4, const std::string& blocks = {}) {
    return pairs({{0, "SECTION"}, {2, "HEADER"}, {9, "$INSUNITS"}, {70, std::to_string(unit)}, {0, "ENDSEC"}}) +
           (blocks.empty() ? "" : pairs({{0, "SECTION"}, {2, "BLOCKS"}}) + blocks + pairs({{0, "ENDSEC"}})) +
           pairs({{0, "SECTION"}, {2, "ENTITIES"}}) + entities + pairs({{0, "ENDSEC"}, {0, "EOF"}});
}

/// A drawing in a file of its own, used as the first shape of a part.
class Drawn {
  public:
    explicit Drawn(const std::string& content, const std::string& keys = {}, const std::string& more = {}) {
        static int count = 0;
        folder_ = fs::temp_directory_path() / fmt::format("dotsift-drawing-{}-{}", ::getpid(), ++count);
        make_directory(folder_);
        write_file(folder_ / "part.dxf", content);
        Problems problems((folder_ / "study.toml").string());
        const Study study =
            read_study(folder_ / "study.toml",
                       "format = 1\nunits = { length = \"mm\" }\n[[part.shape]]\nadd = \"drawing\"\nfile = "
                       "\"part.dxf\"\n" +
                           keys + more + rest_of_study(),
                       problems);
        if (!study.shapes.empty() && study.shapes[0].sound) built_ = build_part(study, problems);
        faults_ = problems.text();
        warnings_ = problems.warning_text();
    }
    ~Drawn() { fs::remove_all(folder_); }
    Drawn(const Drawn&) = delete;
    Drawn& operator=(const Drawn&) = delete;
    [[nodiscard]] const Part& part() const { return built_.part; }
    [[nodiscard]] const std::string& faults() const { return faults_; }
    [[nodiscard]] const std::string& warnings() const { return warnings_; }
    [[nodiscard]] std::string note() const { return built_.notes.empty() ? "" : built_.notes[0]; }

  private:
    fs::path folder_;
    BuiltPart built_;
    std::string faults_, warnings_;
};

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("every kind of entity is read, with its layer") {
    const Drawn plain(dxf(square(0, 0, 10, 6, "rim") + circle(3, 3, 1, "bore")));
    INFO(plain.faults());
    CHECK(plain.faults().empty());
    CHECK(plain.part().area() == doctest::Approx(60 - pi));
    CHECK(length_named(plain.part(), "rim") == doctest::Approx(32));
    CHECK(length_named(plain.part(), "bore") == doctest::Approx(2 * pi));

    // A slot of two lines and two arcs, the arcs given in degrees.
    const Drawn slot(dxf(line(0, -1, 4, -1) + line(4, 1, 0, 1) +
                         entity("ARC", "ends", {{10, 4}, {20, 0}, {40, 1}, {50, -90}, {51, 90}}) +
                         entity("ARC", "ends", {{10, 0}, {20, 0}, {40, 1}, {50, 90}, {51, 270}})));
    CHECK(slot.part().area() == doctest::Approx(8 + pi));
    CHECK(length_named(slot.part(), "ends") == doctest::Approx(2 * pi));

    const std::string bulged = "0\nLWPOLYLINE\n8\nrim\n90\n2\n70\n1\n10\n0\n20\n0\n42\n1\n10\n4\n20\n0\n42\n1\n";
    CHECK(Drawn(dxf(bulged)).part().area() == doctest::Approx(4 * pi));
    const std::string polyline =
        "0\nPOLYLINE\n8\nrim\n66\n1\n70\n1\n0\nVERTEX\n8\nrim\n10\n0\n20\n0\n0\nVERTEX\n8\nrim\n10\n4\n20\n0\n42\n1\n0"
        "\nVERTEX\n8\n"
        "rim\n10\n4\n20\n2\n0\nVERTEX\n8\nrim\n10\n0\n20\n2\n0\nSEQEND\n";
    CHECK(Drawn(dxf(polyline)).part().area() == doctest::Approx(8 + pi / 2));

    const Drawn ellipse(
        dxf(entity("ELLIPSE", "e", {{10, 1}, {20, 2}, {11, 3}, {21, 0}, {40, 0.5}, {41, 0}, {42, 2 * pi}})));
    CHECK(ellipse.part().area() == doctest::Approx(4.5 * pi));
    CHECK(measure(ellipse.part()).centroid[1] == doctest::Approx(2));

    // A parabola y = x (4 - x) as a spline of degree 2, closed by a line.
    const std::string spline =
        "0\nSPLINE\n8\narch\n70\n8\n71\n2\n72\n6\n73\n3\n74\n0\n40\n0\n40\n0\n40\n0\n40\n1\n40\n1\n40\n1\n"
        "10\n0\n20\n0\n30\n0\n10\n2\n20\n8\n30\n0\n10\n4\n20\n0\n30\n0\n";
    const Drawn arch(dxf(spline + line(0, 0, 4, 0)));
    CHECK(arch.part().area() == doctest::Approx(32.0 / 3).epsilon(1e-10));
    const std::string fit =
        "0\nSPLINE\n8\nwave\n70\n8\n71\n3\n72\n0\n73\n0\n74\n4\n11\n0\n21\n0\n31\n0\n11\n1\n21\n1\n31\n0\n11\n3\n"
        "21\n1\n31\n0\n11\n4\n21\n0\n31\n0\n";
    CHECK(Drawn(dxf(fit + line(0, 0, 4, 0))).part().area() > 3);
}

TEST_CASE("blocks are inserted moved, turned, mirrored, scaled and in rows") {
    const std::string block = pairs({{0, "BLOCK"}, {8, "0"}, {2, "hole"}, {70, "0"}, {10, "5"}, {20, "5"}, {30, "0"}}) +
                              circle(5, 5, 1) + circle(8, 5, 0.5, "small") + pairs({{0, "ENDBLK"}, {8, "0"}});
    const auto insert = [](std::initializer_list<std::pair<int, double>> values) {
        std::string text = "0\nINSERT\n8\nholes\n2\nhole\n";
        for (const auto& [code, value] : values) text += fmt::format("{}\n{}\n", code, value);
        return text;
    };
    const std::string plate = square(0, 0, 40, 40, "rim");
    const Drawn once(dxf(plate + insert({{10, 10}, {20, 10}}), 4, block));
    INFO(once.faults());
    CHECK(once.part().area() == doctest::Approx(1600 - 1.25 * pi));
    CHECK(length_named(once.part(), "holes") == doctest::Approx(2 * pi));  // layer 0 takes the layer of the insert
    CHECK(length_named(once.part(), "small") == doctest::Approx(pi));
    const Drawn turned(dxf(plate + insert({{10, 10}, {20, 10}, {50, 90}}), 4, block));
    CHECK(turned.part().face_at({{10, 13}}) < 0);  // the small one stands above now
    const Drawn mirrored(dxf(plate + insert({{10, 10}, {20, 10}, {41, -1}}), 4, block));
    CHECK(mirrored.part().face_at({{7, 10}}) < 0);
    const Drawn scaled(dxf(plate + insert({{10, 10}, {20, 10}, {41, 2}, {42, 1}}), 4, block));
    CHECK(scaled.part().area() == doctest::Approx(1600 - 2.5 * pi));  // circles became ellipses
    const Drawn rows(dxf(plate + insert({{10, 6}, {20, 6}, {70, 3}, {71, 4}, {44, 10}, {45, 8}}), 4, block));
    CHECK(rows.part().area() == doctest::Approx(1600 - 12 * 1.25 * pi));
    const Drawn below(
        dxf(plate + entity("CIRCLE", "b", {{10, -10}, {20, 10}, {30, 0}, {40, 2}, {210, 0}, {220, 0}, {230, -1}})));
    CHECK(below.part().face_at({{10, 10}}) < 0);  // drawn on the underside: x is mirrored
}

TEST_CASE("a drawing may be cut, moved and repeated, with its copies counted") {
    const Drawn two(dxf(square(0, 0, 4, 2, "rim")), "repeat = 2\nstep = [10, 0]\nname = \"plate#\"\n",
                    "[[part.shape]]\ncut = \"drawing\"\nfile = \"part.dxf\"\nrotate = \"90 deg\"\nmove = [3, -1]\nname "
                    "= \"slot\"\n");
    INFO(two.faults());
    CHECK(two.part().area() == doctest::Approx(16 - 4));
    CHECK(length_named(two.part(), "plate2") == doctest::Approx(12));
    CHECK(length_named(two.part(), "plate1") == doctest::Approx(8));
    CHECK(length_named(two.part(), "slot") == doctest::Approx(4));
}

TEST_CASE("units come from the header, or from the study") {
    CHECK(Drawn(dxf(square(0, 0, 1, 2), 1)).part().area() == doctest::Approx(2 * 25.4 * 25.4));
    CHECK(Drawn(dxf(square(0, 0, 1, 2), 1), "unit = \"cm\"\n").part().area() == doctest::Approx(200));
    const Drawn unknown(dxf(square(0, 0, 1, 2), 0));
    CHECK(unknown.part().area() == doctest::Approx(2));
    CHECK(has(unknown.warnings(), "does not say its unit"));
    CHECK(has(Drawn(dxf(square(0, 0, 1, 2)), "unit = \"parsec\"\n").faults(), "no unit of length"));
}

TEST_CASE("nested outlines are holes or regions by a stated rule") {
    const std::string nested = square(0, 0, 20, 20, "shell") + square(4, 4, 12, 12, "core") + circle(10, 10, 2, "pin");
    const Drawn holes(dxf(nested));
    CHECK(holes.part().area() == doctest::Approx(400 - 144 + 4 * pi));
    CHECK(holes.part().faces.size() == 2);
    const Drawn regions(dxf(nested), "nested = \"regions\"\n");
    CHECK(regions.part().area() == doctest::Approx(400));
    CHECK(regions.part().regions == std::vector<std::string>{"shell", "core", "pin"});
    const Drawn hollow(dxf(nested), "nested = \"regions\"\nholes = \"pin\"\n");
    CHECK(hollow.part().area() == doctest::Approx(400 - 4 * pi));
    const Drawn some(dxf(nested), "layers = [\"shell\", \"pin\"]\n");
    CHECK(some.part().area() == doctest::Approx(400 - 4 * pi));
    // Neighbours with a common side: the three curves that meet at its ends are fine where every area is a region.
    const std::string pair =
        square(0, 0, 4, 4, "left") + line(4, 0, 8, 0, "right") + line(8, 0, 8, 4, "right") + line(8, 4, 4, 4, "right");
    const Drawn two(dxf(pair), "nested = \"regions\"\n");
    CHECK(two.part().faces.size() == 2);
    CHECK(length_named(two.part(), "left_and_right") == doctest::Approx(4));
    CHECK(has(Drawn(dxf(pair)).faults(), "3 curves meet at (4, 0)"));
    const Drawn marks(
        dxf(square(0, 0, 10, 10) + line(2, 2, 5, 5, "gauge") + entity("POINT", "probe", {{10, 7}, {20, 7}})),
        "marks = [\"gauge\", \"probe\"]\n");
    INFO(marks.faults());
    CHECK(length_named(marks.part(), "gauge") == doctest::Approx(std::sqrt(18)));
    CHECK(marks.part().points_named({"probe"}).size() == 1);
}

TEST_CASE("ends that nearly meet are joined and told; wider gaps are faults with their width") {
    const auto gapped = [](double gap) {
        return dxf(line(0, 0, 10, 0, "rim") + line(10, 0, 10, 5, "rim") + line(10, 5, 0, 5, "rim") +
                   line(0, 5, 0, gap, "rim"));
    };
    const Drawn close(gapped(5e-6));
    CHECK(close.faults().empty());
    CHECK(has(close.note(), "1 ends joined that were up to 5.0e-06 apart"));
    CHECK(close.part().area() == doctest::Approx(50).epsilon(1e-6));
    const Drawn wide(gapped(0.04));
    CHECK(has(wide.faults(), "the outline on layer \"rim\" is open at (0, 0.04)"));
    CHECK(has(wide.faults(), "the nearest other open end is 0.04 away, at (0, 0)"));
    CHECK(has(wide.faults(), "part.dxf:63:"));  // the line of the file where that entity begins
    CHECK(Drawn(gapped(0.04), "join = 0.05\n").faults().empty());
}

TEST_CASE("what is wrong with a drawing is told with the line in its file") {
    const auto faults = [](const std::string& content) { return Drawn(content).faults(); };
    CHECK(has(faults(dxf(line(0, 0, 4, 4) + line(4, 4, 4, 0) + line(4, 0, 0, 4) + line(0, 4, 0, 0))), "at (2, 2)"));
    CHECK(has(faults(dxf(square(0, 0, 4, 4) + line(1, 0, 3, 0))), "crosses, touches or overlaps"));
    const Drawn doubled(dxf(square(0, 0, 4, 4) + line(0, 0, 4, 0)));
    CHECK(doubled.faults().empty());
    CHECK(has(doubled.warnings(), "is drawn twice"));
    const Drawn flat(dxf(square(0, 0, 4, 4) + line(1, 1, 1, 1)));
    CHECK(flat.faults().empty());
    CHECK(has(flat.warnings(), "a line has no length; it is left out"));
    const std::string good = dxf(square(0, 0, 4, 4));
    CHECK(has(faults(good.substr(0, good.size() / 2)), "ends in the middle"));
    CHECK(has(faults("hello world\nthis is no drawing\n"), "no group code"));
    CHECK(has(faults(std::string("\0\1\2", 3)), "binary"));
    CHECK(has(faults(""), "no DXF file"));
    CHECK(has(faults(pairs({{0, "SECTION"}, {2, "HEADER"}, {0, "ENDSEC"}, {0, "EOF"}})), "no ENTITIES section"));
    CHECK(has(faults(dxf("")), "holds no curve"));
    CHECK(has(faults(dxf("0\nLINE\n8\n0\n10\nnan\n20\n0\n11\n1\n21\n1\n")), "is no number"));
    CHECK(has(faults(dxf("0\nLINE\n8\n0\n10\n1e300\n20\n0\n11\n1\n21\n1\n")), "no sensible length"));
    CHECK(has(faults(dxf("0\nLWPOLYLINE\n8\n0\n90\n2000000000\n70\n1\n10\n0\n20\n0\n")), "no possible count"));
    CHECK(has(faults(dxf("0\nINSERT\n8\n0\n2\nnothing\n10\n0\n20\n0\n")), "inserted but not defined"));
    const std::string ring = pairs({{0, "BLOCK"}, {2, "a"}, {10, "0"}, {20, "0"}}) +
                             "0\nINSERT\n8\n0\n2\na\n10\n1\n20\n0\n" + pairs({{0, "ENDBLK"}});
    CHECK(has(faults(dxf("0\nINSERT\n8\n0\n2\na\n10\n0\n20\n0\n", 4, ring)), "holds itself"));
    CHECK(has(Drawn(dxf(square(0, 0, 4, 4, "rim")), "layers = \"rimm\"\n").faults(), "did you mean \"rim\"?"));
    CHECK(has(
        faults(dxf("0\nSPLINE\n8\n0\n70\n8\n71\n3\n72\n2\n73\n2\n74\n0\n40\n0\n40\n1\n10\n0\n20\n0\n10\n1\n20\n1\n")),
        "a spline cannot be used"));
    CHECK(has(Drawn(dxf(circle(0, 0, 4) + "0\nTEXT\n8\n0\n1\nhello\n10\n0\n20\n0\n")).note(), "not read: 1 TEXT"));
    Problems problems("t");
    const Study study =
        read_study("t", "format = 1\n[[part.shape]]\nadd = \"drawing\"\nfile = \"no-such.dxf\"\n", problems);
    CHECK_THROWS_AS((void)build_part(study, problems), FileError);
}

TEST_CASE("small drawings that ask for endless work are refused, and angles of any size are angles") {
    // Blocks of blocks, ten at each of twelve depths, around nothing.
    std::string blocks;
    for (int k = 0; k < 12; ++k) {
        blocks += fmt::format("0\nBLOCK\n2\nb{}\n10\n0\n20\n0\n", k);
        for (int i = 0; i < 10 && k < 11; ++i) blocks += fmt::format("0\nINSERT\n8\n0\n2\nb{}\n10\n0\n20\n0\n", k + 1);
        blocks += "0\nENDBLK\n";
    }
    CHECK(has(Drawn(dxf(circle(0, 0, 4) + "0\nINSERT\n8\n0\n2\nb0\n10\n0\n20\n0\n", 4, blocks)).faults(),
              "more than four million times"));
    // Rows and columns of nothing.
    std::string rows;
    for (int i = 0; i < 200; ++i) rows += "0\nINSERT\n8\n0\n2\nb\n10\n0\n20\n0\n70\n100\n71\n100\n44\n1\n45\n1\n";
    CHECK(has(Drawn(dxf(circle(0, 0, 4) + rows, 4, "0\nBLOCK\n2\nb\n10\n0\n20\n0\n0\nENDBLK\n")).faults(),
              "more than a million times"));
    // 1e15 degrees are 280 from a full turn; the arc ends where its chord begins.
    const double end = std::fmod(1e15, 360) * pi / 180;
    const Drawn arc(dxf(entity("ARC", "0", {{10, 0}, {20, 0}, {40, 5}, {50, 0}, {51, 1e15}}) +
                        line(5 * std::cos(end), 5 * std::sin(end), 5, 0)));
    INFO(arc.faults());
    CHECK(arc.faults().empty());
    CHECK(arc.part().area() == doctest::Approx(12.5 * (end - std::sin(end))).epsilon(1e-6));
    CHECK(Drawn(dxf(entity("ELLIPSE", "0", {{10, 0}, {20, 0}, {11, 5}, {21, 0}, {40, 0.5}, {41, -1e15}, {42, 1e15}})))
              .part()
              .edges.size() <= 1);
    // A full turn, however it is written.
    for (const auto& [from, to] : {std::pair(0.0, 2 * pi), {0.0, 0.0}, {pi, 3 * pi}, {-pi, pi}, {1.0, 1 + 4 * pi}})
        CHECK(Drawn(dxf(entity("ELLIPSE", "0", {{10, 0}, {20, 0}, {11, 5}, {21, 0}, {40, 0.5}, {41, from}, {42, to}})))
                  .part()
                  .area() == doctest::Approx(12.5 * pi));
}

TEST_CASE("names and geometry survive a round trip through DXF") {
    const std::vector<std::string> parts{
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [60, 40]\nround = 5\nname = \"rim\"\nnames = { left = \"hold\" }\n"
        "[[part.shape]]\ncut = \"ellipse\"\nradii = [9, 4]\nangle = 0.5\ncentre = [20, 20]\nname = \"eye\"\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 3\ncentre = [45, 20]\nname = \"pin\"\n"
        "[[part.shape]]\nmark = \"point\"\nat = [45, 30]\nname = \"probe\"\n",
        "[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [{ to = [30, 0], name = \"foot\" }, { to = [0, "
        "10], spline "
        "= [[28, 12], [14, 20]], name = \"back\" }]\nregion = \"body\"\n"
        "[[part.shape]]\nadd = \"circle\"\nradius = 6\ncentre = [15, 7]\nregion = \"core\"\nname = \"seat\"\n"
        "[[part.shape]]\ncut = \"ellipse\"\nradii = [5, 9]\ncentre = [27, 8]\nname = \"bite\"\n"};
    for (const auto& text : parts) {
        const Part part = part_from(text);
        const std::string file = part_dxf(part, UnitSystem("mm", "N"));
        const Drawn back(file,
                         std::string("nested = \"regions\"\n") + (part.points.empty() ? "" : "marks = \"probe\"\n"));
        INFO(back.faults());
        REQUIRE(back.faults().empty());
        const Part& again = back.part();
        CHECK(again.edges.size() == part.edges.size());
        CHECK(again.faces.size() == part.faces.size());
        CHECK(again.area() == doctest::Approx(part.area()).epsilon(1e-12));
        const AreaMeasures a = measure(part), b = measure(again);
        CHECK(distance(a.centroid, b.centroid) < 1e-10 * part.box.diagonal());
        CHECK(b.ixx == doctest::Approx(a.ixx).epsilon(1e-11));
        for (const auto& name : part.boundary_names)
            CHECK(length_named(again, name) == doctest::Approx(length_named(part, name)).epsilon(1e-11));
        for (std::size_t r = 0; r < part.regions.size(); ++r) CHECK(again.regions_named({part.regions[r]}).size() == 1);
        CHECK(again.points.size() == part.points.size());
        CHECK(part_dxf(again, UnitSystem("mm", "N")).size() > 0);
        CHECK(has(part_svg(part, UnitSystem("mm", "N")), "class=\"region "));
    }
}

TEST_SUITE_END();
