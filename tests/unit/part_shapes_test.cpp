#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "base/files.hpp"
#include "part/build.hpp"
#include "part/face_finder.hpp"
#include "part/measure.hpp"
#include "study/read.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

struct Known {
    std::string shapes;
    double area, perimeter;
    Vec2 centroid;
    double ixx, iyy, ixy;
};

std::string faults(const std::string& shapes) {
    return faults_of("format = 1\n[part]\n" + shapes + rest_of_study());
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("areas, perimeters, centroids and moments of parts with closed forms") {
    const double r4 = std::pow(3.0, 4), c = std::cos(0.4), s = std::sin(0.4);
    const double a = 5, b = 2, ea = pi * a * b * b * b / 4, eb = pi * a * a * a * b / 4;  // ellipse about its axes
    const double k = std::sqrt(1 - b * b / (a * a));
    // Slot of half width 1 between (-3, 0) and (3, 0): rectangle 6 x 2 and two half discs.
    const double half_disc = pi / 8 - 8 / (9 * pi), offset = 3 + 4 / (3 * pi);
    const double slot_iyy = 2 * 216.0 / 12 + 2 * (half_disc + pi / 2 * offset * offset);
    // Lens of two unit circles whose centres are 1 apart.
    const double lens = 2 * pi / 3 - std::sqrt(3) / 2;
    const auto rounded = [&](double w, double h, double r) {  // about its centre: whole less corners
        const double x = w / 2 - r, y = h / 2 - r, q = pi * r * r / 4;
        const double u = 4 * r / (3 * pi), i = pi * r * r * r * r / 16 - q * u * u;
        return std::array{w * h - (4 - pi) * r * r,
                          w * h * h * h / 12 - 4 * (r * r * r * r / 12 + r * r * (h / 2 - r / 2) * (h / 2 - r / 2)) +
                              4 * (i + q * (y + u) * (y + u)),
                          h * w * w * w / 12 - 4 * (r * r * r * r / 12 + r * r * (w / 2 - r / 2) * (w / 2 - r / 2)) +
                              4 * (i + q * (x + u) * (x + u))};
    };
    const auto round_rectangle = rounded(8, 6, 1.5);
    const std::vector<Known> parts{
        {"add = \"rectangle\"\nsize = [4, 2]\ncorner = [10, 20]\n", 8, 12, {{12, 21}}, 4 * 8 / 12.0, 2 * 64 / 12.0, 0},
        {"add = \"polygon\"\ncorners = [[0, 0], [6, 0], [0, 3]]\n",
         9,
         9 + std::sqrt(45),
         {{2, 1}},
         6 * 27 / 36.0,
         3 * 216 / 36.0,
         -36 * 9 / 72.0},
        {"add = \"circle\"\nradius = 3\ncentre = [-1, 2]\n", 9 * pi, 6 * pi, {{-1, 2}}, pi * r4 / 4, pi * r4 / 4, 0},
        {"add = \"ellipse\"\nradii = [5, 2]\nangle = 0.4\ncentre = [1, 1]\n",
         10 * pi,
         4 * a * std::comp_ellint_2(k),
         {{1, 1}},
         ea * c * c + eb * s * s,
         ea * s * s + eb * c * c,
         (eb - ea) * s * c},
        {"add = \"circle\"\nradius = 3\n[[part.shape]]\ncut = \"circle\"\nradius = 1\n",
         8 * pi,
         8 * pi,
         {{0, 0}},
         pi * 80 / 4,
         pi * 80 / 4,
         0},
        {"add = \"slot\"\nfrom = [-3, 0]\nto = [3, 0]\nwidth = 2\n",
         12 + pi,
         12 + 2 * pi,
         {{0, 0}},
         6 * 8 / 12.0 + pi / 4,
         slot_iyy,
         0},
        {"add = \"rectangle\"\nsize = [8, 6]\ncorner = [-4, -3]\nround = 1.5\n",
         round_rectangle[0],
         28 - 12 + 3 * pi,
         {{0, 0}},
         round_rectangle[1],
         round_rectangle[2],
         0},
        {"add = \"circle\"\n radius = 1\ncentre = [-0.5, 0]\n[[part.shape]]\nintersect = \"circle\"\nradius = 1\n"
         "centre = [0.5, 0]\n",
         lens,
         4 * pi / 3,
         {{0, 0}},
         -1,
         -1,
         0},
        {"add = \"circle\"\nradius = 3\n[[part.shape]]\ncut = \"rectangle\"\ncorner = [-4, -4]\nsize = [8, 4]\n",
         4.5 * pi,
         3 * pi + 6,
         {{0, 4 / pi}},
         pi * r4 / 8 - 4.5 * pi * 16 / (pi * pi),
         pi * r4 / 8,
         0},
        {"add = \"outline\"\nstart = [0, 0]\npieces = [{ to = [2, 0] }, { to = [0, 2], centre = [0, 0] }]\n",
         pi,
         4 + pi,
         {{8 / (3 * pi), 8 / (3 * pi)}},
         pi - pi * 64 / (9 * pi * pi),
         pi - pi * 64 / (9 * pi * pi),
         2 - pi * 64 / (9 * pi * pi)},
        {"add = \"rectangle\"\nsize = [6, 6]\n[[part.shape]]\nchange = \"bevel\"\ncorners = \"all\"\nlength = 1\n",
         34,
         16 + 4 * std::sqrt(2),
         {{3, 3}},
         108 - 4 * (1 / 36.0 + 0.5 * 64 / 9.0),
         108 - 4 * (1 / 36.0 + 0.5 * 64 / 9.0),
         0},
        {"add = \"rectangle\"\nsize = [10, 10]\n[[part.shape]]\ncut = \"circle\"\nradius = 0.5\ncentre = [2, 2]\n"
         "repeat = [4, 4]\nstep = [[2, 0], [0, 2]]\n",
         100 - 4 * pi,
         40 + 16 * pi,
         {{5, 5}},
         10000 / 12.0 - 16 * pi / 64 - pi / 4 * 80,
         10000 / 12.0 - 16 * pi / 64 - pi / 4 * 80,
         0}};
    for (const auto& p : parts) {
        CAPTURE(p.shapes);
        const Part part = part_from("[[part.shape]]\n" + p.shapes);
        const AreaMeasures m = measure(part);
        CHECK(m.area == doctest::Approx(p.area).epsilon(1e-9));
        CHECK(part.area() == doctest::Approx(p.area).epsilon(1e-9));
        CHECK(m.perimeter == doctest::Approx(p.perimeter).epsilon(1e-9));
        const double size = part.box.diagonal();
        CHECK(distance(m.centroid, p.centroid) < 1e-9 * size);
        if (p.ixx < 0) continue;  // no closed form at hand
        CHECK(m.ixx == doctest::Approx(p.ixx).epsilon(1e-9));
        CHECK(m.iyy == doctest::Approx(p.iyy).epsilon(1e-9));
        CHECK(std::fabs(m.ixy - p.ixy) < 1e-9 * (m.ixx + m.iyy));
    }
}

namespace {

/// A shape of a random chain, with an implicit description that is independent of the program's curves.
struct Implicit {
    std::string text, name;
    std::function<double(const Vec2&)> level;  ///< < 0 inside, > 0 outside; near the rim about the distance
    std::function<Vec2(double)> rim;           ///< a point of the rim for t in [0, 1)
    std::string verb, region;
};

std::string number(double v) {
    return fmt::format("{:.17g}", v);
}

Implicit random_shape(std::mt19937_64& random, int index) {
    std::uniform_real_distribution<double> unit(0, 1);
    const auto in = [&](double low, double high) { return low + (high - low) * unit(random); };
    Implicit shape;
    shape.name = "s" + std::to_string(index);
    const Vec2 at{{in(-4, 4), in(-3, 3)}};
    const double angle = in(0, pi);
    const Vec2 u{{std::cos(angle), std::sin(angle)}}, v = turned_left(u);
    const auto local = [=](const Vec2& p) { return Vec2{{dot(p - at, u), dot(p - at, v)}}; };
    const std::string centre = "centre = [" + number(at[0]) + ", " + number(at[1]) + "]\n";
    switch (random() % 4) {
        case 0: {
            const double r = in(0.8, 2.5);
            shape.text = "\"circle\"\nradius = " + number(r) + "\n" + centre;
            shape.level = [=](const Vec2& p) { return norm(p - at) - r; };
            shape.rim = [=](double t) { return at + Vec2{{std::cos(2 * pi * t), std::sin(2 * pi * t)}} * r; };
            break;
        }
        case 1: {
            const double a = in(1, 3), b = in(0.6, 2);
            shape.text =
                "\"ellipse\"\nradii = [" + number(a) + ", " + number(b) + "]\nangle = " + number(angle) + "\n" + centre;
            shape.level = [=](const Vec2& p) {
                const Vec2 q = local(p);
                const double f = std::hypot(q[0] / a, q[1] / b);
                return (f - 1) * std::min(a, b);
            };
            shape.rim = [=](double t) { return at + u * (a * std::cos(2 * pi * t)) + v * (b * std::sin(2 * pi * t)); };
            break;
        }
        case 2: {
            const double w = in(1, 5), h = in(0.8, 3);
            const Vec2 corner = at - u * (w / 2) - v * (h / 2);
            shape.text = "\"rectangle\"\nsize = [" + number(w) + ", " + number(h) + "]\nangle = " + number(angle) +
                         "\ncorner = [" + number(corner[0]) + ", " + number(corner[1]) + "]\n";
            shape.level = [=](const Vec2& p) {
                const Vec2 q = local(p);
                return std::max(std::fabs(q[0]) - w / 2, std::fabs(q[1]) - h / 2);
            };
            shape.rim = [=](double t) {
                const double s = t * 4, f = s - std::floor(s) - 0.5;
                switch (static_cast<int>(s)) {
                    case 0:
                        return at + u * (w * f) - v * (h / 2);
                    case 1:
                        return at + u * (w / 2) + v * (h * f);
                    case 2:
                        return at + u * (w * f) + v * (h / 2);
                    default:
                        return at - u * (w / 2) + v * (h * f);
                }
            };
            break;
        }
        default: {
            const double r = in(0.4, 1), l = in(0.5, 2);
            const Vec2 a = at - u * l, b = at + u * l;
            shape.text = "\"slot\"\nwidth = " + number(2 * r) + "\nfrom = [" + number(a[0]) + ", " + number(a[1]) +
                         "]\nto = [" + number(b[0]) + ", " + number(b[1]) + "]\n";
            shape.level = [=](const Vec2& p) {
                const Vec2 q = local(p);
                return std::hypot(q[0] - std::clamp(q[0], -l, l), q[1]) - r;
            };
            shape.rim = [=](double t) {
                const double s = t * 4, f = s - std::floor(s);
                switch (static_cast<int>(s)) {
                    case 0:
                        return at + u * (l * (2 * f - 1)) - v * r;
                    case 1:
                        return b + u * (r * std::sin(pi * f)) - v * (r * std::cos(pi * f));
                    case 2:
                        return at + u * (l * (2 * f - 1)) + v * r;
                    default:
                        return a - u * (r * std::sin(pi * f)) + v * (r * std::cos(pi * f));
                }
            };
        }
    }
    return shape;
}

/// The region at a point by playing the chain on the implicit descriptions; "" outside.
std::string region_by_membership(const std::vector<Implicit>& chain, const Vec2& p) {
    std::string region;
    for (const auto& s : chain) {
        const bool inside = s.level(p) < 0;
        if (s.verb == "add" && inside) region = s.region;
        if (s.verb == "cut" && inside) region.clear();
        if (s.verb == "intersect" && !inside) region.clear();
    }
    return region;
}

}  // namespace

TEST_CASE("random chains of shapes agree with an independent membership test, names included") {
    std::mt19937_64 random(2024);
    std::uniform_real_distribution<double> unit(0, 1);
    int chains = 0, points = 0, rims = 0;
    while (chains < 200) {
        std::vector<Implicit> chain;
        const int length = 2 + static_cast<int>(random() % 7);
        std::string text;
        for (int k = 0; k < length; ++k) {
            Implicit s = random_shape(random, k);
            const double dice = unit(random);
            s.verb = k == 0 || dice < 0.5 ? "add" : dice < 0.85 ? "cut" : "intersect";
            s.region = unit(random) < 0.6 ? "one" : "two";
            text += "[[part.shape]]\n" + s.verb + " = " + s.text + "name = \"" + s.name + "\"\n" +
                    (s.verb == "add" ? "region = \"" + s.region + "\"\n" : "");
            chain.push_back(std::move(s));
        }
        CAPTURE(text);
        Problems problems("t");
        const Study study = read_study("t", "format = 1\n[part]\n" + text, problems);
        const Part part = build_part(study, problems).part;
        if (part.faces.empty()) {  // an empty part, a cut beside everything or a region that is gone: told, no part
            const std::string told = problems.text();
            CAPTURE(told);
            REQUIRE((has(told, "leave nothing") || has(told, "cuts nothing") || has(told, "nothing is left")));
            continue;
        }
        ++chains;
        const FaceFinder finder(part);
        for (int k = 0; k < 200; ++k) {
            const Vec2 p{{16 * unit(random) - 8, 14 * unit(random) - 7}};
            if (std::any_of(chain.begin(), chain.end(), [&](const auto& s) { return std::fabs(s.level(p)) < 1e-5; }))
                continue;
            const int face = part.face_at(p);
            CHECK(finder.at(p) == face);
            const std::string found =
                face < 0 ? ""
                         : part.regions[static_cast<std::size_t>(part.faces[static_cast<std::size_t>(face)].region)];
            CHECK(found == region_by_membership(chain, p));
            ++points;
        }
        for (const auto& e : part.edges)  // every name on an edge is that of a shape on whose rim it lies
            for (const int n : e.names) {
                const auto& name = part.boundary_names[static_cast<std::size_t>(n)];
                if (name[0] != 's') continue;  // the name of an interface
                const auto& s = chain[static_cast<std::size_t>(std::stoi(name.substr(1)))];
                for (const double t : {0.1, 0.5, 0.9}) CHECK(std::fabs(s.level(e.curve.point(t))) < 1e-5);
            }
        for (const auto& s : chain)  // and where the rim of a shape parts two regions there is an edge of its name
            for (int k = 0; k < 40; ++k) {
                const Vec2 p = s.rim((k + 0.37) / 40);
                constexpr double d = 1e-6;
                const Vec2 out = Vec2{{s.level(p + Vec2{{d, 0}}) - s.level(p - Vec2{{d, 0}}),
                                       s.level(p + Vec2{{0, d}}) - s.level(p - Vec2{{0, d}})}};
                const Vec2 n = out / norm(out) * 1e-4;
                const bool clear = std::all_of(chain.begin(), chain.end(),
                                               [&](const auto& o) { return &o == &s || std::fabs(o.level(p)) > 1e-3; });
                if (!clear || region_by_membership(chain, p + n) == region_by_membership(chain, p - n)) continue;
                double nearest = 1e9;
                for (const int e : part.edges_named({s.name})) {
                    const Curve& c = part.edge(e).curve;
                    nearest = std::min(nearest, distance(c.point(c.project(p)), p));
                }
                CHECK(nearest < 1e-6);
                ++rims;
            }
        const AreaMeasures whole = measure(part);
        double sum = 0;
        for (std::size_t f = 0; f < part.faces.size(); ++f) sum += measure_face(part, f).area;
        CHECK(whole.area == doctest::Approx(sum).epsilon(1e-12));
    }
    CHECK(points > 30000);
    CHECK(rims > 5000);
}

TEST_CASE("regions meet at a named interface; the later one or the one of higher priority has the overlap") {
    const std::string base =
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 4]\nregion = \"plate\"\n"
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [6, 0]\nsize = [8, 4]\nregion = \"block\"\n";
    const auto area_of = [](const Part& part, const std::string& region) {
        double sum = 0;
        for (std::size_t f = 0; f < part.faces.size(); ++f)
            if (part.regions[static_cast<std::size_t>(part.faces[f].region)] == region) sum += part.area_of_face(f);
        return sum;
    };
    const Part later = part_from(base);
    CHECK(area_of(later, "plate") == doctest::Approx(24));
    CHECK(area_of(later, "block") == doctest::Approx(32));
    CHECK(length_named(later, "plate_and_block") == doctest::Approx(4));
    int interior = 0;
    for (const auto& e : later.edges) interior += e.interior() ? 1 : 0;
    CHECK(interior == 1);
    const Part held = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 4]\nregion = \"plate\"\npriority = 2\n"
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [6, 0]\nsize = [8, 4]\nregion = \"block\"\npriority = 1\n"
        "[part.interface.bond]\nbetween = [\"block\", \"plate\"]\n");
    CHECK(area_of(held, "plate") == doctest::Approx(40));
    CHECK(area_of(held, "block") == doctest::Approx(16));
    CHECK(length_named(held, "bond") == doctest::Approx(4));
    const Part only =
        part_from(base + "[[part.shape]]\ncut = \"circle\"\ncentre = [6, 2]\nradius = 1\nof = \"block\"\n");
    CHECK(area_of(only, "plate") == doctest::Approx(24));
    CHECK(area_of(only, "block") == doctest::Approx(32 - pi / 2));
    CHECK(has(faults(base + "[part.interface.x]\nbetween = [\"plate\", \"blok\"]\n"), "\"blok\" is no region"));
    CHECK(has(faults("[[part.shape]]\nadd = \"circle\"\nradius = 1\nregion = \"a\"\n[[part.shape]]\nadd = "
                     "\"circle\"\nradius = 2\nregion = \"b\"\n"),
              "nothing is left of the region \"a\""));
}

TEST_CASE("lines split a region, marks stay inside it, and points become vertices") {
    const std::string plate = "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 4]\n";
    const Part split = part_from(plate +
                                 "[[part.shape]]\nsplit = \"line\"\nfrom = [5, -1]\nto = [5, 9]\nname = \"cut\"\n"
                                 "[[part.shape]]\nsplit = \"circle\"\ncentre = [2, 2]\nradius = 1\n");
    CHECK(split.faces.size() == 3);
    CHECK(split.regions.size() == 1);
    CHECK(length_named(split, "cut") == doctest::Approx(4));  // what stands out is gone
    CHECK(split.area() == doctest::Approx(40));
    const Part mark = part_from(plate +
                                "[[part.shape]]\nmark = \"line\"\nfrom = [1, 1]\nto = [3, 2]\nname = \"gauge\"\n"
                                "[[part.shape]]\nmark = \"point\"\nat = [7, 2]\nname = \"probe\"\n"
                                "[[part.shape]]\nmark = \"point\"\nat = [10, 1]\nname = \"edge_probe\"\n");
    CHECK(mark.faces.size() == 1);
    REQUIRE(mark.points_named({"probe"}).size() == 1);
    CHECK(mark.vertex(mark.points_named({"probe"})[0]) == Vec2{{7, 2}});
    CHECK(mark.faces[0].points.size() == 1);
    CHECK(mark.edges.size() == 6);  // the right side is cut at its point
    CHECK(length_named(mark, "gauge") == doctest::Approx(std::sqrt(5)));
    CHECK(has(faults(plate + "[[part.shape]]\nmark = \"point\"\nat = [70, 2]\nname = \"p\"\n"),
              "lies outside the material"));
    CHECK(has(faults(plate + "[[part.shape]]\nsplit = \"line\"\nfrom = [20, 2]\nto = [22, 2]\n"),
              "lies outside the material"));
}

TEST_CASE("the part moves, turns, mirrors and repeats with all its names") {
    const std::string l =
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [4, 0], [4, 1], [1, 1], [1, 3], [0, 3]]\nnames = { "
        "side2 "
        "= \"tip\", side6 = \"back\" }\n";
    const Part moved = part_from(l + "[[part.shape]]\nchange = \"move\"\nmove = [10, 5]\n");
    CHECK(distance(moved.box.low, {{10, 5}}) < 1e-12);
    const Part turned = part_from(l + "[[part.shape]]\nchange = \"rotate\"\nrotate = \"90 deg\"\nabout = [4, 0]\n");
    CHECK(distance(turned.box.low, {{1, -4}}) < 1e-12);
    CHECK(length_named(turned, "tip") == doctest::Approx(1));
    const Part mirrored = part_from(l + "[[part.shape]]\nchange = \"mirror\"\nmirror = [[0, 0], [0, 1]]\n");
    CHECK(mirrored.area() == doctest::Approx(12));
    CHECK(length_named(mirrored, "tip") == doctest::Approx(2));
    CHECK(mirrored.edges_named({"back"}).empty());  // inside now
    CHECK(mirrored.faces.size() == 1);
    const Part image = part_from(l + "[[part.shape]]\nchange = \"mirror\"\nmirror = [[0, 0], [0, 1]]\nkeep = false\n");
    CHECK(image.area() == doctest::Approx(6));
    CHECK(image.box.high[0] == doctest::Approx(0));
    const Part star = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [5, 1]\ncorner = [0, -0.5]\n[[part.shape]]\nchange = \"repeat\"\n"
        "repeat = 6\naround = [0, 0]\n");
    CHECK(star.faces.size() == 1);
    const Part holes = part_from(
        "[[part.shape]]\nadd = \"circle\"\nradius = 10\n[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [7, "
        "0]\nrepeat = 5\naround = [0, 0]\nname = \"hole#\"\n");
    CHECK(holes.area() == doctest::Approx(95 * pi));
    for (int k = 1; k <= 5; ++k) CHECK(length_named(holes, "hole" + std::to_string(k)) == doctest::Approx(2 * pi));
}

TEST_CASE("corners are rounded and bevelled between lines and arcs, and the largest that fits is told") {
    const Part notch = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 10]\nname = \"plate\"\n"
        "[[part.shape]]\ncut = \"circle\"\ncentre = [10, 10]\nradius = 4\nname = \"bite\"\n"
        "[[part.shape]]\nchange = \"round\"\nbetween = [\"plate\", \"bite\"]\nradius = 1\nname = \"soft\"\ncount = "
        "2\n");
    // The circle of radius 1 touches the top (centre at y = 9) and the bite (centre 5 from (10, 10)).
    const double x = 10 - std::sqrt(25.0 - 1);
    REQUIRE(notch.edges_named({"soft"}).size() == 2);
    for (const int e : notch.edges_named({"soft"})) {
        const Curve& c = notch.edge(e).curve;
        CHECK(c.centre()[1] == doctest::Approx(9).epsilon(1e-10));
        CHECK(std::fabs(c.centre()[0] - 10) == doctest::Approx(10 - x).epsilon(1e-10));
    }
    for (const auto& c : {std::pair{"inner", 4 - pi}, std::pair{"outer", -(4 - pi)}}) {  // of an L: 1 inner, 5 outer
        const Part l = part_from(
            "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [8, 0], [8, 3], [3, 3], [3, 8], [0, 8]]\n"
            "[[part.shape]]\nchange = \"round\"\ncorners = \"" +
            std::string(c.first) + "\"\nradius = 1\n");
        const double times = std::string(c.first) == "inner" ? 1 : 5;
        CHECK(l.area() == doctest::Approx(39 + times * c.second / 4).epsilon(1e-10));
    }
    const std::string square = "[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 4]\n";
    const auto round = [&](const std::string& rest) {
        return faults(square + "[[part.shape]]\nchange = \"round\"\n" + rest);
    };
    CHECK(has(round("corners = \"all\"\nradius = 2.5\n"), "the largest that fits at all of these corners is 2"));
    CHECK(has(round("near = [[0, 0]]\nradius = 5\n"), "the largest that fits there is 4"));
    CHECK(has(round("near = [[0, 1]]\nradius = 1\n"), "the nearest corner is at (0, 0)"));
    CHECK(has(round("corners = \"inner\"\nradius = 1\n"), "no corner fits this choice"));
    CHECK(has(round("corners = \"outer\"\nradius = 1\ncount = 3\n"), "3 corners were expected, but 4 fit"));
    CHECK(round("corners = \"all\"\nradius = 2\n").find("does not fit") == std::string::npos);  // meets exactly
    const std::string near_hole = "[[part.shape]]\ncut = \"circle\"\ncentre = [1, 1]\nradius = 0.5\n";
    CHECK(has(faults(square + near_hole + "[[part.shape]]\nchange = \"round\"\nnear = [[0, 0]]\nradius = 3.9\n"),
              "does not fit"));  // the new edge would cut the hole
}

TEST_CASE("outlines of lines, arcs, ellipses and splines") {
    const auto part = [](const std::string& pieces) {
        return part_from("[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [" + pieces + "]\n");
    };
    CHECK(part("{ to = [4, 0] }, { to = [4, 2] }, { to = [0, 2] }").area() == doctest::Approx(8));
    CHECK(part("{ to = [4, 0] }, { to = [0, 0], through = [2, 2] }").area() == doctest::Approx(2 * pi));
    CHECK(part("{ to = [4, 0] }, { to = [0, 0], radius = 2 }").area() == doctest::Approx(2 * pi));
    CHECK(part("{ to = [4, 0], radius = 4 }, { to = [2, 3] }").area() >
          part("{ to = [4, 0], radius = -4 }, { to = [2, 3] }").area());
    CHECK(part("{ to = [6, 0] }, { to = [0, 0], centre = [3, 0], radii = [3, 1] }").area() ==
          doctest::Approx(1.5 * pi));
    const Part wave =
        part("{ to = [6, 0], name = \"flat\" }, { to = [0, 0], spline = [[5, 2], [3, 1], [1, 2]], name = \"wave\" }");
    CHECK(wave.edges_named({"wave"}).size() == 1);
    CHECK(wave.edge(wave.edges_named({"wave"})[0]).curve.kind() == Curve::Kind::spline);
    const Part bored = part_from(
        "[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [{ to = [6, 0] }, { to = [0, 0], spline = [[5, "
        "2], [3, "
        "1], [1, 2]], name = \"wave\" }]\n[[part.shape]]\ncut = \"circle\"\ncentre = [3, 1]\nradius = 0.4\nname = "
        "\"bite\"\n");
    CHECK(bored.edges_named({"wave"}).size() == 2);  // cut in two, still true to the spline
    for (const int e : bored.edges_named({"wave"}))
        for (const double t : {0.2, 0.6}) {
            const Curve& whole = wave.edge(wave.edges_named({"wave"})[0]).curve;
            const Vec2 p = bored.edge(e).curve.point(t);
            CHECK(distance(whole.point(whole.project(p)), p) < 1e-9);
        }
    const auto wrong = [](const std::string& pieces) {
        return faults("[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [" + pieces + "]\n");
    };
    CHECK(has(wrong("{ to = [4, 0] }, { to = [0, 3] }, { to = [4, 3] }"), "piece 2 and piece 4 meet at (2, 1.5)"));
    CHECK(has(wrong("{ to = [4, 0] }, { to = [4, 0] }, { to = [4, 3] }"), "piece 2 ends where it begins"));
    CHECK(has(wrong("{ to = [4, 0] }, { to = [0, 0], radius = 1 }"), "the radius must be at least 2"));
    CHECK(has(wrong("{ to = [4, 0] }, { to = [5, 5], centre = [3, 0] }"), "does not lie on the circle"));
    CHECK(has(wrong("{ to = [4, 0] }, { to = [0, 0], through = [2, 0] }"), "lie on a straight line"));
    CHECK(has(wrong("{ to = [4, 0], spline = [[1, 1], [1, 1]] }, { to = [4, 3] }"), "twice in a row"));
    CHECK(has(wrong("{ to = [3, 0] }, { to = [0, 0], spline = [[2, 2], [0, -1], [0, 2]] }"), "crosses itself"));
    CHECK(has(wrong("{ to = [4, 0], radius = 3, through = [1, 1] }"), "more than one of"));
    CHECK(has(wrong("{ too = [4, 0] }"), "did you mean \"to\"?"));
}

TEST_CASE("variables drive every dimension") {
    const auto area = [](const std::string& width) {
        const std::string text =
            "format = 1\n[variables]\nw = " + width +
            "\nn = \"w / 2\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [\"2 * w\", \"w\"]\n"
            "[[part.shape]]\ncut = \"circle\"\nradius = \"w / 40\"\ncentre = [\"w / 4\", \"w / 2\"]\n"
            "repeat = \"n\"\nstep = [\"w / 8\", 0]\n";
        Problems problems("t");
        return build_part(read_study("t", text, problems), problems).part.area();
    };
    CHECK(area("8") == doctest::Approx(128 - 4 * pi * 0.04));
    CHECK(area("12") == doctest::Approx(288 - 6 * pi * 0.09));
}

TEST_CASE("every example in docs/parts.md builds a part") {
    const std::string docs = read_file(std::string(DOTSIFT_SOURCE) + "/docs/parts.md");
    int count = 0;
    for (std::size_t at = docs.find("```toml"); at != std::string::npos; at = docs.find("```toml", at)) {
        at = docs.find('\n', at) + 1;
        const std::size_t end = docs.find("```", at);
        CAPTURE(docs.substr(at, end - at));
        CHECK(!part_from(docs.substr(at, end - at)).faces.empty());
        ++count;
        at = end + 3;
    }
    CHECK(count >= 17);
}

TEST_SUITE_END();
