// Solids cut by planes for pictures, and how good their elements are.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "evidence/pictures/quality_picture.hpp"
#include "evidence/pictures/section_cut.hpp"
#include "evidence/pictures/size_picture.hpp"
#include "evidence/pictures/solid_view.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_study.hpp"
#include "quality/quality.hpp"
#include "sizes/part_sizes.hpp"
#include "support/cubes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

SolidMesh cube(int degree) {
    return cut_cube(CubeCut::tetrahedra, 4, degree, [](const Vec3& x) { return x; });
}

StudyAndPart opened(const std::string& text) {
    Problems problems("test.toml");
    StudyAndPart both = open_study("test.toml",
                                   "format = 1\n" + text +
                                       "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.s]\non = "
                                       "\"skin\"\nhold = \"fixed\"\n[load.p]\non = \"skin\"\npressure = 1\n[series.u]\n"
                                       "kind = \"uniform\"\n",
                                   problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return both;
}

SolidMesh meshed(const StudyAndPart& both, std::vector<double>* wanted = nullptr) {
    const auto field = sizing_of(*both.solid, both.study.sizes, "").field;
    SolidMesh mesh = generate_solid(*both.solid, {field}, 100000, 2);
    for (std::size_t e = 0; wanted && e < mesh.element_count(); ++e) wanted->push_back(field.at(mesh.centre_of(e)));
    return mesh;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("a plane cuts out of a solid the area that it should") {
    for (const int degree : {1, 2}) {
        CAPTURE(degree);
        const SolidMesh mesh = cube(degree);
        CHECK(cut_area(mesh, {{{0.3, 0.3, 0.3}}, {{0, 0, 1}}}) == doctest::Approx(1));
        CHECK(cut_area(mesh, {{{0.31, 0, 0}}, {{-2, 0, 0}}}) == doctest::Approx(1));
        CHECK(cut_area(mesh, {{{0.5, 0.5, 0.5}}, {{1, 1, 1}}}) == doctest::Approx(3 * std::sqrt(3.0) / 4));  // hexagon
        CHECK(cut_area(mesh, {{{0.1, 0, 0}}, {{1, 1, 1}}}) == doctest::Approx(std::sqrt(3.0) / 2 * 0.1 * 0.1));
        CHECK(cut_area(mesh, {{{0, 0, 1.5}}, {{0, 0, 1}}}) == 0);
        // What is linear stays linear, and every corner lies on the plane.
        const PlaneSpec plane{{{0.2, 0.4, 0.6}}, {{1, -2, 0.7}}};
        const auto distances = distances_from(plane, mesh.nodes);
        for (const CutPiece& piece : cut_elements(mesh, distances))
            for (int k = 0; k < piece.corners; ++k) {
                const CutCorner& c = piece.corner[static_cast<std::size_t>(k)];
                const auto nodes = mesh.element(piece.element);
                const auto mixed = [&](auto of) {
                    return of(static_cast<std::size_t>(nodes[c.a])) * (1 - c.share) +
                           of(static_cast<std::size_t>(nodes[c.b])) * c.share;
                };
                CHECK(std::fabs(mixed([&](std::size_t n) { return distances[n]; })) < 1e-12);
                CHECK(c.share >= 0);
                CHECK(c.share <= 1);
            }
    }
    const auto ball = opened("[[part.shape]]\nadd = \"sphere\"\nradius = 3\nname = \"skin\"\n[size]\nglobal = 1\n");
    CHECK(cut_area(meshed(ball), {{{0, 0, 1}}, {{0, 0, 1}}}) == doctest::Approx(pi * 8).epsilon(0.01));
}

TEST_CASE("a section goes through the place, where most is cut, and shows what lies there") {
    const auto both = opened(
        "[[part.shape]]\nadd = \"box\"\nsize = [8, 3, 2]\nname = \"skin\"\nregion = \"one\"\n[[part.shape]]\nadd = "
        "\"box\"\ncorner = [3, 1, 0.5]\nsize = [2, 1, 1]\nregion = \"two\"\n[size]\nglobal = 0.7\n");
    const SolidMesh mesh = meshed(both);
    const PlaneSpec through = section_through(mesh, {{4, 1.4, 1.1}});
    CHECK(through.at[2] == doctest::Approx(1.1));
    CHECK(through.normal == Vec3{{0, 0, 1}});
    CHECK(section_through(mesh, {{4, 1.4, 0}}).at[2] == doctest::Approx(0.1));  // not on the outside
    // The inner region is seen in the middle of the cut alone.
    const std::vector<Vec3> still;
    const auto colour = [&](const ShownSide& s, double) {
        return mesh.region[s.element] == 1 ? Colour{1, 0, 0} : Colour{0, 0, 1};
    };
    const auto reddish = [&](const std::optional<PlaneSpec>& section) {
        SolidView view(mesh, still, 0.2, PictureUse::page, section);
        view.set(Camera::from({{0.1, -0.1, 1}}));
        view.paint({{}, colour}, false);
        const PictureFiles files = both_formats([&](Canvas& c) { view.draw(c); }, PictureUse::page);
        std::size_t red = 0, all = 0;
        for (const std::uint32_t pixel : files.as_drawn.pixels) {
            const auto r = pixel >> 16U & 255U, b = pixel & 255U;
            red += r > 150 && b < 60;
            all += (r > 150) != (b > 150);
        }
        return static_cast<double>(red) / static_cast<double>(all);
    };
    CHECK(reddish({}) == 0);
    CHECK(reddish(through) == doctest::Approx(2.0 / 24).epsilon(0.15));
    // A mark before the plane is taken away, one on it is seen, one under it is hidden.
    SolidView view(mesh, still, 0.2, PictureUse::page, through);
    view.set(view.choose({{{{4, 1.4, 1.1}}, {}, 0}}));
    view.paint({{}, colour}, false);
    CHECK(!view.seen_at({{4, 1.4, 1.9}}));
    CHECK(view.seen_at({{4, 1.4, 1.1}}));
    CHECK(!view.seen_at({{4, 1.4, 0.4}}));
}

TEST_CASE("sizes of a solid: which rule decides on how much of it") {
    const auto both = opened(
        "[[part.shape]]\nadd = \"box\"\nsize = [8, 4, 4]\nname = \"skin\"\n[size]\nglobal = 1\ngrowth = 3\n"
        "[size.local.half]\ninside = { shape = \"box\", corner = [0, 0, 0], size = [4, 4, 4] }\nsize = 0.6\n"
        "[size.local.never]\non = \"skin\"\nsize = 5\n");
    const auto field = sizing_of(*both.solid, both.study.sizes, "").field;
    const SolidMesh samples = size_samples(*both.solid, field, 100000);
    const auto shares = rule_shares(samples, field, both.study.sizes);
    double sum = 0;
    for (const auto& s : shares) {
        sum += s.share;
        if (s.name == "size.local.half") {
            CHECK(s.share > 0.5);
            CHECK(s.share < 0.62);
            CHECK(s.smallest == doctest::Approx(0.6));
        }
        if (s.name == "size.local.never") CHECK(s.largest == 0);
    }
    CHECK(sum == doctest::Approx(1));
    CHECK(samples.element_count() < 30000);
    CHECK(draw_sizes(samples, field, both.study.sizes, "t", "mm").rules.png.size() > 1000);
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("quality");

TEST_CASE("the elements of a solid are judged by limits of their own, by place and region") {
    SolidMesh mesh = cube(1);
    const QualityReportIn<3> plain = judge_quality(mesh, {}, {}, nullptr);
    CHECK(plain.good + plain.acceptable + plain.poor == mesh.element_count());
    CHECK(plain.poor == 0);
    // A tetrahedron that is drawn flat is found first.
    const auto squashed = [&](double factor) {
        SolidMesh flat = mesh;
        for (auto& p : flat.nodes) p[2] *= factor;
        return judge_quality(flat, {}, {}, nullptr);
    };
    CHECK(squashed(0.05).poor == mesh.element_count());
    CHECK(squashed(0.05).worst.front().grade == Grade::poor);
    CHECK(standard_limits(Criterion::smallest_angle, ElementKind::tetrahedron4).good <
          standard_limits(Criterion::smallest_angle, ElementKind::triangle3).good);
    const auto both = opened(
        "[[part.shape]]\nadd = \"box\"\nsize = [8, 4, 4]\nname = \"skin\"\nregion = \"one\"\n[[part.shape]]\nadd = "
        "\"box\"\ncorner = [5, 0, 0]\nsize = [3, 4, 4]\nregion = \"two\"\n[size]\nglobal = 1\n[quality.strict]\nof = "
        "\"edge_ratio\"\ngood = 1.01\nacceptable = 1.02\ninside = { shape = \"sphere\", centre = [2, 2, 2], radius = "
        "1, "
        "repeat = 2, step = [0, 0, 1] }\n[quality.loose]\nof = \"shape\"\non = \"two\"\ngood = 1\nacceptable = 0\n");
    std::vector<double> wanted;
    const SolidMesh body = meshed(both, &wanted);
    const auto report = judge_quality(body, wanted, both.study.quality, &*both.solid);
    std::size_t in_balls = 0;
    for (std::size_t e = 0; e < body.element_count(); ++e) {
        const Vec3 c = body.centre_of(e);
        const bool inside = distance(c, {{2, 2, 2}}) <= 1 || distance(c, {{2, 2, 3}}) <= 1;
        in_balls += inside;
        if (inside) CHECK(report.grade[e] == Grade::poor);
        if (body.region_names[static_cast<std::size_t>(body.region[e])] == "two") CHECK(report.grade[e] != Grade::good);
    }
    CHECK(in_balls > 10);
    CHECK(report.poor == in_balls);
    CHECK(draw_quality_map(body, report, "t", "mm").png.size() > 1000);
    CHECK(draw_histograms(body, report, both.study.quality, "t").png.size() > 1000);
}

TEST_CASE("what makes the elements of a solid poor is told: a sharp edge, a thin wall") {
    const auto told = [](const std::string& shape, const std::string& cause) {
        const auto both = opened(shape + "[size]\nglobal = 1\ngrowth = 2\n");
        std::vector<double> wanted;
        const SolidMesh mesh = meshed(both, &wanted);
        const auto worst = judge_quality(mesh, wanted, {}, &*both.solid).worst;
        return std::any_of(worst.begin(), worst.end(), [&](const auto& w) { return w.cause == cause; });
    };
    CHECK(
        told("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [6, 0], [6, 1]]\nextrude = { to = 4 }\nname = "
             "\"skin\"\n",
             "sharp edge of the part"));
    CHECK(told(
        "[part]\nrevolve = { angle = \"90 deg\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize "
        "= [3, 4]\nnames = { right = \"skin\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [2.9, 0]\nsize = [0.1, "
        "4]\nregion = \"b\"\n",
        "thin wall of the part"));
}

TEST_SUITE_END();
