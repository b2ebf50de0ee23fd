#include <doctest/doctest.h>

#include <cmath>
#include <memory>
#include <numbers>
#include <random>
#include <set>

#include "base/errors.hpp"
#include "part/classify.hpp"
#include "part/combine/arrangement.hpp"
#include "part/combine/combine.hpp"
#include "part/combine/split.hpp"
#include "part/measure.hpp"
#include "part/shapes/corners.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

/// A drawing made edge by edge, with vertices found by position.
struct Graph {
    std::vector<Vec2> vertices;
    std::vector<PlanarEdge> edges;

    int vertex(const Vec2& p) {
        for (std::size_t v = 0; v < vertices.size(); ++v)
            if (vertices[v] == p) return static_cast<int>(v);
        vertices.push_back(p);
        return static_cast<int>(vertices.size()) - 1;
    }
    void add(const Curve& c) {
        const int start = vertex(c.start()), end = vertex(c.end());
        edges.push_back({c, start, end});
    }
    void square(double x, double y, double w) {
        const Vec2 a{{x, y}}, b{{x + w, y}}, c{{x + w, y + w}}, d{{x, y + w}};
        for (const auto& [p, q] : {std::pair{a, b}, std::pair{b, c}, std::pair{c, d}, std::pair{d, a}})
            add(Curve::line(p, q));
    }
    [[nodiscard]] double area(const PlanarFaces& faces, std::size_t f) const {
        double twice = 0;
        for (const auto& loop : faces.loops[f])
            for (const EdgeSide s : loop)
                twice += edges[static_cast<std::size_t>(s / 2)].curve.twice_area({}) * (s % 2 == 0 ? 1 : -1);
        return twice / 2;
    }
};

Curve circle(double x, double y, double r) {
    return Curve::arc({{x, y}}, {{r, 0}}, {{0, r}}, 0, 2 * pi);
}

Curve spline_of(const std::vector<Vec2>& points) {
    const auto nurbs = std::make_shared<const Nurbs>(spline_through(points));
    return Curve::spline(nurbs, nurbs->low(), nurbs->high());
}

std::multiset<double> rounded_areas(const Graph& g, const PlanarFaces& faces) {
    std::multiset<double> areas;
    for (std::size_t f = 1; f < faces.loops.size(); ++f) areas.insert(std::round(g.area(faces, f) * 1e6) / 1e6);
    return areas;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("faces of nested and touching outlines, and of chains that end inside") {
    Graph g;
    g.square(0, 0, 10);
    g.square(1, 1, 3);
    g.square(2, 2, 1);                           // inside the second
    g.square(4, 4, 2);                           // touches the second at a corner
    g.add(circle(8, 8, 1));                      // alone
    g.add(Curve::line({{0, 0}}, {{0.5, 0.5}}));  // ends inside
    g.add(Curve::line({{7, 2}}, {{9, 3}}));      // hangs free
    const PlanarFaces faces = trace_faces(g.vertices, g.edges);
    CHECK(faces.loops.size() == 6);
    CHECK(rounded_areas(g, faces) ==
          std::multiset<double>{1, 4, 8, std::round(pi * 1e6) / 1e6, std::round((100 - 9 - 4 - pi) * 1e6) / 1e6});
    CHECK(faces.loops[0].size() == 1);
    for (std::size_t e = 0; e < g.edges.size(); ++e) {  // both sides of what hangs or ends inside see the same face
        const bool hangs = e + 2 >= g.edges.size();
        CHECK((faces.face_of_side[2 * e] == faces.face_of_side[2 * e + 1]) == hangs);
    }
}

TEST_CASE("the order round a vertex is right where curves are tangent") {
    // Three arcs and a line leave the origin along the x axis with different bends, and end on the line x = 2.
    Graph g;
    const Vec2 origin{{0, 0}};
    std::vector<double> radii{5, 9, -7};
    std::vector<Vec2> ends;
    for (const double r : radii) {
        const double angle = std::asin(2 / std::fabs(r)), side = r > 0 ? 1 : -1;
        Curve c = Curve::arc({{0, r}}, {{0, -r}}, {{std::fabs(r), 0}}, 0, angle);
        c.set_ends(origin, {{2, side * (std::fabs(r) - std::sqrt(r * r - 4))}});
        ends.push_back(c.end());
        g.add(c);
    }
    ends.push_back({{2, 0}});
    g.add(Curve::line(origin, {{2, 0}}));
    std::sort(ends.begin(), ends.end(), [](const Vec2& a, const Vec2& b) { return a[1] < b[1]; });
    for (std::size_t k = 1; k < ends.size(); ++k) g.add(Curve::line(ends[k - 1], ends[k]));
    const PlanarFaces faces = trace_faces(g.vertices, g.edges);
    REQUIRE(faces.loops.size() == 4);
    double sum = 0;
    for (std::size_t f = 1; f < 4; ++f) {
        CHECK(faces.loops[f].size() == 1);
        CHECK(faces.loops[f][0].size() == 3);
        CHECK(g.area(faces, f) > 0);
        sum += g.area(faces, f);
    }
    CHECK(g.area(faces, 0) == doctest::Approx(-sum));
}

TEST_CASE("edges that cross are no plane graph") {
    Graph g;
    g.add(Curve::line({{0, 0}}, {{2, 2}}));
    g.add(Curve::line({{2, 2}}, {{2, 0}}));
    g.add(Curve::line({{2, 0}}, {{0, 2}}));
    g.add(Curve::line({{0, 2}}, {{0, 0}}));
    CHECK_THROWS_AS((void)trace_faces(g.vertices, g.edges), InputError);
}

TEST_CASE("rays count each curve once, in rows or not") {
    std::mt19937_64 random(4);
    std::uniform_real_distribution<double> unit(0, 1);
    RayCaster plain, rows;
    struct Disc {
        Vec2 centre;
        double radius;
    };
    std::vector<Disc> discs;
    for (int k = 0; k < 200; ++k) {
        const Disc d{{{10 * unit(random), 10 * unit(random)}}, 0.1 + unit(random)};
        discs.push_back(d);
        plain.add(circle(d.centre[0], d.centre[1], d.radius), k);
        rows.add(circle(d.centre[0], d.centre[1], d.radius), k);
    }
    rows.prepare();
    for (int trial = 0; trial < 2000; ++trial) {
        // also at heights where curves have their ends and extremes
        const Disc& pick = discs[random() % discs.size()];
        const double y = trial % 3 == 0   ? pick.centre[1]
                         : trial % 3 == 1 ? pick.centre[1] + pick.radius
                                          : 10 * unit(random);
        const Vec2 p{{12 * unit(random) - 1, y}};
        int count = 0;
        for (const auto& d : discs) count += distance(d.centre, p) < d.radius ? 1 : 0;
        CHECK(plain.inside(p) == (count % 2 == 1));
        CHECK(rows.inside(p) == plain.inside(p));
        const auto all = [](int) { return true; };
        const auto a = plain.nearest(p, all), b = rows.nearest(p, all);
        CHECK(a.has_value() == b.has_value());
        if (a && b) CHECK(a->x == b->x);
    }
}

TEST_CASE("curves are cut where they meet: crossings, touches, overlaps, doubles") {
    const auto pieces = [](const std::vector<Curve>& curves) {
        std::vector<int> loop;
        for (std::size_t k = 0; k < curves.size(); ++k) loop.push_back(static_cast<int>(k));
        return split_curves(curves, loop);
    };
    const Curve x = Curve::line({{0, 0}}, {{4, 0}});
    CHECK(pieces({x, Curve::line({{1, -1}}, {{1, 1}})}).pieces.size() == 4);
    CHECK(pieces({x, circle(2, 0, 1)}).pieces.size() == 5);  // the circle's joint is one of the crossings
    CHECK(pieces({x, circle(2, 1, 1)}).pieces.size() ==
          4);  // touches: the line in two, the circle at its joint and there
    CHECK(pieces({x, circle(2, 5, 1)}).pieces.size() == 2);
    const SplitCurves twice = pieces({x, Curve::line({{4, 0}}, {{0, 0}})});
    REQUIRE(twice.pieces.size() == 1);
    CHECK(twice.pieces[0].origin == std::vector<int>{0, 1});
    const SplitCurves overlap = pieces({x, Curve::line({{3, 0}}, {{7, 0}})});
    REQUIRE(overlap.pieces.size() == 3);
    int both = 0;
    for (const auto& p : overlap.pieces) both += p.origin.size() == 2 ? 1 : 0;
    CHECK(both == 1);
    // A spline that a circle crosses twice, which the geometry library alone can miss.
    const Curve wave = spline_of({{{6, 0}}, {{5, 2}}, {{3, 1}}, {{1, 2}}, {{0, 0}}});
    for (const double dx : {0.0, 0.01, 0.3, 1.0, 1.5})
        for (const double r : {0.2, 0.4}) {
            const Vec2 centre = wave.point(wave.project({{3 + dx, 1}}));
            const SplitCurves s = pieces({wave, circle(centre[0], centre[1], r)});
            CHECK(s.pieces.size() == 6);
            for (const auto& p : s.pieces)  // nothing is left crossing
                CHECK(distance(p.curve.start(), s.vertices[static_cast<std::size_t>(p.start)]) == 0);
        }
    // Ends that are a rounding error apart become one.
    const SplitCurves near = pieces({x, Curve::line({{4 + 1e-12, 1e-12}}, {{4, 3}})});
    CHECK(near.vertices.size() == 3);
}

TEST_CASE("random lines are cut where a closed form says") {
    std::mt19937_64 random(9);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int trial = 0; trial < 30; ++trial) {
        std::vector<Curve> lines;
        std::vector<int> loop;
        for (int k = 0; k < 12; ++k) {
            lines.push_back(Curve::line({{unit(random), unit(random)}}, {{unit(random), unit(random)}}));
            loop.push_back(k);
        }
        std::size_t crossings = 0;
        for (std::size_t i = 0; i < lines.size(); ++i)
            for (std::size_t j = i + 1; j < lines.size(); ++j) {
                const Vec2 &a = lines[i].start(), &b = lines[i].end(), &c = lines[j].start(), &d = lines[j].end();
                crossings +=
                    cross(b - a, c - a) * cross(b - a, d - a) < 0 && cross(d - c, a - c) * cross(d - c, b - c) < 0 ? 1
                                                                                                                   : 0;
            }
        const SplitCurves s = split_curves(lines, loop);
        CHECK(s.pieces.size() == lines.size() + 2 * crossings);
        CHECK(s.vertices.size() == 2 * lines.size() + crossings);
    }
}

TEST_CASE("a part taken apart and put together again is the same, moved or not") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 10]\nname = \"rim\"\nregion = \"plate\"\n"
        "[[part.shape]]\nadd = \"circle\"\nradius = 2\ncentre = [6, 5]\nregion = \"bush\"\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [6, 5]\nname = \"bore\"\n"
        "[[part.shape]]\nsplit = \"line\"\nfrom = [12, 0]\nto = [12, 10]\nname = \"cut\"\n"
        "[[part.shape]]\nmark = \"point\"\nat = [15, 5]\nname = \"probe\"\n");
    for (const Affine& map : {Affine{}, Affine::rotation(0.3, {{2, 1}}), Affine::mirror({{0, 0}}, {{1, 2}})}) {
        const Part again = combine(steps_of(part, map), part.regions).part;
        CHECK(again.edges.size() == part.edges.size());
        CHECK(again.faces.size() == part.faces.size());
        CHECK(again.area() == doctest::Approx(part.area()).epsilon(1e-12));
        CHECK(again.regions == part.regions);
        REQUIRE(again.points.size() == 1);
        CHECK(distance(again.vertex(again.points[0].vertex), map({{15, 5}})) < 1e-12);
        for (const auto& name : part.boundary_names)
            CHECK(length_named(again, name) == doctest::Approx(length_named(part, name)).epsilon(1e-12));
    }
    const Part twin = combine(steps_of(part), part.regions).part;
    const auto names = [](const Part& p, std::size_t e) {
        std::set<std::string> list;
        for (const int n : p.edges[e].names) list.insert(p.boundary_names[static_cast<std::size_t>(n)]);
        return list;
    };
    for (std::size_t e = 0; e < twin.edges.size(); ++e) {
        std::size_t same = part.edges.size();  // the edge with the same middle
        for (std::size_t o = 0; o < part.edges.size(); ++o)
            if (distance(part.edges[o].curve.point(0.5), twin.edges[e].curve.point(0.5)) < 1e-12) same = o;
        REQUIRE(same < part.edges.size());
        CHECK(names(twin, e) == names(part, same));
    }
}

TEST_CASE("rounds touch both of their edges, whatever these are") {
    const std::string splines =
        "[[part.shape]]\nadd = \"outline\"\nstart = [0, 0]\npieces = [{ to = [20, 0] }, { to = [10, 12], spline = "
        "[[19, 6], [14, "
        "8]] }, { to = [0, 0], centre = [10, 0], radii = [10, 12] }]\n";
    for (const double r : {0.3, 1.0}) {
        const Part sharp = part_from(splines);
        const Part round = part_from(splines + "[[part.shape]]\nchange = \"round\"\ncorners = \"outer\"\nradius = " +
                                     std::to_string(r) + "\nname = \"soft\"\n");
        CHECK(round.area() < sharp.area());
        const auto soft = round.edges_named({"soft"});
        REQUIRE(soft.size() == corners_of(sharp).size());
        for (const int e : soft) {
            const Curve& arc = round.edge(e).curve;
            CHECK(norm(arc.axis_a()) == doctest::Approx(r).epsilon(1e-9));
            for (const bool end : {false, true}) {  // goes on smoothly into its neighbours
                const int v = end ? round.edge(e).end : round.edge(e).start;
                for (std::size_t o = 0; o < round.edges.size(); ++o) {
                    const auto& other = round.edges[o];
                    if (static_cast<int>(o) == e || (other.start != v && other.end != v)) continue;
                    const Vec2 a = arc.derivative(end ? 1 : 0), b = other.curve.derivative(other.start == v ? 0 : 1);
                    CHECK(std::fabs(cross(a, b)) < 1e-6 * norm(a) * norm(b));
                }
            }
        }
    }
}

TEST_CASE("building is repeatable bit for bit") {
    const std::string text =
        "[[part.shape]]\nadd = \"ellipse\"\nradii = [9, 5]\nangle = 0.3\nname = \"rim\"\n[[part.shape]]\ncut = "
        "\"slot\"\nfrom = [-3, "
        "0]\nto = [12, 1]\nwidth = 2\nname = \"slot\"\n[[part.shape]]\nadd = \"circle\"\nradius = 3\ncentre = [-7, "
        "1]\nregion = \"b\"\n";
    const Part a = part_from(text), b = part_from(text);
    REQUIRE(a.edges.size() == b.edges.size());
    for (std::size_t e = 0; e < a.edges.size(); ++e)
        for (const double t : {0.0, 0.37, 1.0}) CHECK(a.edges[e].curve.point(t) == b.edges[e].curve.point(t));
    CHECK(a.vertices == b.vertices);
}

TEST_SUITE_END();
