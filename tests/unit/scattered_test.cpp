// Values at scattered points, and tables of text from elsewhere.

#include <doctest/doctest.h>

#include <cmath>
#include <fstream>
#include <random>

#include "base/text_table.hpp"
#include "study/scattered.hpp"
#include "support/folder.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Cloud {
    std::vector<Vec2> points;
    std::vector<double> values;
};

template <class Function>
Cloud cloud_of(std::size_t count, Function f) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> in(0, 1);
    Cloud c;
    for (std::size_t k = 0; k < count; ++k) {
        c.points.push_back({{in(random), in(random)}});
        c.values.push_back(f(c.points.back()));
    }
    return c;
}

/// The faults of a study on a bar whose temperature change is a table in a file.
StudyAndPart bar_with_table(const Folder& folder, const std::string& csv, const std::string& table,
                            Problems& problems) {
    std::ofstream(folder.path / "t.csv") << csv;
    return open_study(folder.path / "bar.toml",
                      "format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\" }\n"
                      "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = 1e-3\n[support.s]\non = "
                      "\"left\"\nhold = \"symmetry\"\n[support.p]\nat = [0, 0]\nuy = 0\n[table.T]\n" +
                          table +
                          "[load.heat]\ntemperature_change = \"T(x, y)\"\n[quantity.q]\nof = \"ux\"\nat = [4, "
                          "0.5]\n",
                      problems);
}

}  // namespace

TEST_SUITE_BEGIN("study");

TEST_CASE("linear values come back exactly between scattered points, and every value at its own point") {
    const auto linear = [](const Vec2& p) { return 3 - 2 * p[0] + 5 * p[1]; };
    const Cloud c = cloud_of(200, linear);
    const ScatteredValues f(c.points, c.values);
    for (double x = 0.1; x < 0.95; x += 0.07)
        for (double y = 0.1; y < 0.95; y += 0.07)
            CHECK(f({{x, y}}) == doctest::Approx(linear({{x, y}})).epsilon(1e-12));
    for (std::size_t k = 0; k < c.points.size(); ++k) CHECK(f(c.points[k]) == c.values[k]);
}

TEST_CASE("of a smooth function the error falls with the square of the spacing") {
    const auto smooth = [](const Vec2& p) { return std::sin(3 * p[0]) * std::cos(2 * p[1]); };
    std::vector<double> errors;
    for (const std::size_t count : {400u, 6400u}) {
        const Cloud c = cloud_of(count, smooth);
        const ScatteredValues f(c.points, c.values);
        double sum = 0;
        int n = 0;
        for (double x = 0.1; x < 0.95; x += 0.031)
            for (double y = 0.1; y < 0.95; y += 0.031) {
                sum += std::pow(f({{x, y}}) - smooth({{x, y}}), 2);
                ++n;
            }
        errors.push_back(std::sqrt(sum / n));
    }
    CHECK(errors[0] < 0.01);
    CHECK(errors[1] < errors[0] / 10);  // a quarter of the spacing
}

TEST_CASE("places that no neighbours surround are known, and have the nearest point's value") {
    Cloud c = cloud_of(600, [](const Vec2& p) { return p[0]; });
    std::vector<Vec2> points;
    std::vector<double> values;
    for (std::size_t k = 0; k < c.points.size(); ++k)
        if (distance(c.points[k], {{0.5, 0.5}}) > 0.3) {  // a hole
            points.push_back(c.points[k]);
            values.push_back(c.values[k]);
        }
    const ScatteredValues f(points, values);
    CHECK(!f.covers({{0.5, 0.5}}));
    CHECK(f.gap({{0.5, 0.5}}) > 0.29);
    CHECK(f.covers({{0.12, 0.12}}));
    CHECK(!f.covers({{5, 5}}));
    CHECK(f({{5, 0.5}}) > 0.95);
    const ScatteredValues single({{{1, 1}}}, {7});
    CHECK(single({{3, 4}}) == 7);
    const ScatteredValues on_a_line({{{0, 0}}, {{1, 1}}, {{2, 2}}}, {0, 1, 2});
    CHECK(on_a_line({{1.5, 1.5}}) == doctest::Approx(1.5));
    CHECK(std::isnan(f({{NAN, 0}})));
    // The nearest point, wherever the place: against looking at all of them.
    for (double x = -2; x < 3; x += 0.37)
        for (double y = -2; y < 3; y += 0.41) {
            double least = INFINITY;
            for (const Vec2& p : points) least = std::min(least, distance(p, {{x, y}}));
            CHECK(f.gap({{x, y}}) == least);
        }
}

TEST_CASE("a temperature at scattered points strains a bar as its formula would") {
    const Folder folder;
    std::string csv = "# measured\ny;x;T\n";
    for (int i = 0; i <= 8; ++i)
        for (int j = 0; j <= 4; ++j) {
            const std::string y = std::to_string(j) + ",25";
            csv += std::to_string(j * 0.25) + ";" + std::to_string(i * 0.5) + ";" + std::to_string(10 * i * 0.5) + "\n";
        }
    for (char& ch : csv)
        if (ch == '.') ch = ',';
    Problems problems("bar.toml");
    const auto opened = bar_with_table(folder, csv, "file = \"t.csv\"\n", problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    CHECK(has(problems.warning_text(), "separated by semicolons, and its numbers have decimal commas"));
    REQUIRE(opened.study.table_files.size() == 1);
    // Strain 1e-3 * 10 x along the bar: 0.01 * 4^2 / 2 at its end, as far as it bends nowhere.
    const Formula& heat = opened.study.loads.front().components[0];
    const FormulaEvaluator at(heat, "t");
    CHECK(at(FormulaPlace{{{2.3, 0.4}}, {}, {}}) == doctest::Approx(23).epsilon(1e-9));
    Problems sparse("bar.toml");
    (void)bar_with_table(folder, "x,y,T\n0,0,1\n0.1,0,1\n0,0.1,1\n0.1,0.1,2\n", "file = \"t.csv\"\n", sparse);
    CHECK(has(sparse.warning_text(), "table.T: 9"));
    CHECK(has(sparse.warning_text(), "it has the value of the nearest point"));
}

TEST_CASE("a temperature at scattered points in several load cases") {
    const Folder folder;
    std::string csv = "x,y,T\n";
    for (int i = 0; i <= 8; ++i)
        for (const char* y : {"0", "0.5", "1"})
            csv += std::to_string(i * 0.5) + "," + y + "," + std::to_string(i * i) + "\n";
    Problems problems("bar.toml");
    const auto opened =
        bar_with_table(folder, csv,
                       "file = \"t.csv\"\n[case.whole]\nfactors = { heat = 1 }\n[case.half]\nfactors = { heat "
                       "= 0.5 }\n[case.cold]\nfactors = { heat = -2 }\n",
                       problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Mesh mesh = generate(opened.part, sizing_of(opened.part, opened.study.sizes, "."), 100000, opened.study.mesh);
    const auto cases = solve_cases(mesh, opened.study);
    REQUIRE(cases.size() == 3);
    double largest = 0;
    for (const auto& u : cases[0].displacement) largest = std::max(largest, norm(u));
    CHECK(largest > 0.02);
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        CHECK(norm(cases[1].displacement[n] - cases[0].displacement[n] * 0.5) < 1e-9 * largest);
        CHECK(norm(cases[2].displacement[n] + cases[0].displacement[n] * 2) < 1e-9 * largest);
    }
}

TEST_CASE("files of values with faults are told with line and remedy") {
    const Folder folder;
    const auto faults = [&](const std::string& csv, const std::string& table = "file = \"t.csv\"\n") {
        Problems problems("bar.toml");
        (void)bar_with_table(folder, csv, table, problems);
        return problems.text();
    };
    CHECK(has(faults("x,y,T\n0,0,1\n1,zero,2\n"), "line 3 has \"zero\" for a number"));
    CHECK(has(faults("x,y,T\n0,0,1\n1\n"), "line 3 has 1 columns only"));
    CHECK(has(faults("x,y,T\n"), "has no row"));
    CHECK(has(faults(""), "is empty"));
    CHECK(has(faults("x,y,T\n0,0,1\n0,0,2\n"), "(0, 0) stands twice"));
    CHECK(has(faults("x,y,T,p\n0,0,1,2\n1,1,2,3\n"), "has 2 columns of values"));
    CHECK(has(faults("x,y,T,p\n0,0,1,2\n1,1,2,3\n", "file = \"t.csv\"\nvalue = \"tt\"\n"), "no such column"));
    CHECK(!has(faults("x,y,T,p\n0,0,1,2\n1,1,2,3\n", "file = \"t.csv\"\nvalue = \"p\"\n"), "error"));
    CHECK(has(faults("a,y,T\n0,0,1\n"), "has no column x"));
    CHECK(has(faults("1,2,3,4\n", "file = \"t.csv\"\n"), "4 columns and no names"));
    CHECK(has(faults("", "file = \"nowhere.csv\"\n"), "nowhere.csv"));
    CHECK(has(faults("", "points = [[0, 0], [1, 1]]\nvalue = \"T\"\n"), "value goes with file"));
    CHECK(has(faults("", "file = \"t.csv\"\npoints = [[0, 0], [1, 1]]\n"), "stands beside"));
    CHECK(has(faults("x,T\n0,1\n1,2\n"), "cannot be"));  // of one coordinate, but called with two
}

TEST_CASE("tables of text as people have them") {
    const auto first = [](const std::string& text) {
        const TextTable t = read_text_table(text);
        std::string all;
        for (const auto& r : t.rows) {
            for (const auto& f : r.fields) all += "[" + f + "]";
            all += "\n";
        }
        return all;
    };
    CHECK(first("a,b\n1,2\n") == "[a][b]\n[1][2]\n");
    CHECK(first("\xEF\xBB\xBF# note\n\na\tb\n1,5\t2\r\n") == "[a][b]\n[1,5][2]\n");
    CHECK(first("a;b\n\"x;y\";2\n") == "[a][b]\n[x;y][2]\n");
    CHECK(first("  h   T \n 1.5   2\n 3 4 \n") == "[h][T]\n[1.5][2]\n[3][4]\n");
    CHECK(first("1,5 2,5\n3,5 4,5\n") == "[1,5][2,5]\n[3,5][4,5]\n");
    CHECK(first("\"a \"\"b\"\"\",c\n1,2\n") == "[a \"b\"][c]\n[1][2]\n");
    CHECK(first("") == "");
    CHECK(read_text_table("h;T\n1,5;-2,5e-3\n").number("-2,5e-3") == doctest::Approx(-2.5e-3));
    CHECK(!read_text_table("h;T\n1,5;2.5\n").decimal_commas);  // both signs: neither is guessed
    CHECK(!read_text_table("a,b\n1,2\n").number("1,5"));
    CHECK(!read_text_table("a,b\n1,2\n").number("1.5mm"));
    CHECK(!read_text_table("a,b\n1,2\n").number("inf"));
    CHECK(read_text_table("a,\"b\n1,2\n").unclosed == 1);
    CHECK(read_text_table("1,2\n3,4\n").headless());
    CHECK(column_name(" Size (mm)") == "size");
}

TEST_SUITE_END();
