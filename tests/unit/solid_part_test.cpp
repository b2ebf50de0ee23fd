// Curves and surfaces in space, and solids made of them, against closed forms.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "part/solid/body_finder.hpp"
#include "part/solid/face_integral.hpp"
#include "part/solid/ray_meetings.hpp"
#include "part/solid/solid_part.hpp"

using namespace dotsift;

namespace {

using std::numbers::pi;

Frame tilted() {
    return Frame::about({{1, -2, 0.5}}, {{1, 2, 2}}, {{3, 1, -1}});
}

/// A circle of a frame, round its z at a height.
CurveIn<3> circle(const Frame& f, double r, double z, double from = 0, double to = 2 * pi) {
    return CurveIn<3>::arc(f.out({{0, 0, z}}), f.axis[0] * r, f.axis[1] * r, from, to);
}

Frame lifted(const Frame& f, double z, bool down) {
    Frame out = f;
    out.origin = f.out({{0, 0, z}});
    if (down) {
        out.axis[1] = -f.axis[1];
        out.axis[2] = -f.axis[2];
    }
    return out;
}

void finish(SolidPart& part) {
    for (const auto& e : part.edges) part.box.add(e.curve.box());
}

/// What a profile makes that runs upwards beside the axis: its two ends are closed by discs unless they lie on it.
SolidPart turned_solid(const Frame& f, const Curve& profile) {
    SolidPart part;
    part.regions = {"body"};
    part.bodies = {{0}};
    SolidFace mantle{Surface::turned(f, profile), {}, 0, -1, {}};
    for (const bool top : {false, true}) {
        const Vec2 end = top ? profile.end() : profile.start();
        if (end[0] < 1e-12) continue;
        const int e = static_cast<int>(part.edges.size());
        part.vertices.push_back(f.out({{end[0], 0, end[1]}}));
        part.edges.push_back({circle(f, end[0], end[1]), e, e});
        mantle.loops.push_back({{e, !top}});
        part.faces.push_back({Surface::plane(lifted(f, end[1], !top)), {{{e, top}}}, 0, -1, {}});
    }
    part.faces.push_back(mantle);
    finish(part);
    for (double a = 0; a < 6.5; a += 0.1)  // where there are no edges
        for (double t = 0; t <= 1; t += 0.1) part.box.add(mantle.surface.point({{a, t}}));
    return part;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("curves in space: arcs, splines and chains as in the plane, turned out of it") {
    const Frame f = tilted();
    const auto out = [&](const Vec2& p) { return f.out({{p[0], p[1], 0.7}}); };
    Nurbs flat = spline_through<2>({{{0, 0}}, {{1, 2}}, {{3, 1}}, {{4, 3}}});
    NurbsIn<3> bent;
    bent.degree = flat.degree;
    bent.knots = flat.knots;
    for (const auto& p : flat.poles) bent.poles.push_back(out(p));
    const auto arc = Curve::arc({{0.5, 0.25}}, {{2, 0}}, {{0, 1.2}}, 0.3, 4.1);
    const auto arc3 = CurveIn<3>::arc(out({{0.5, 0.25}}), f.axis[0] * 2.0, f.axis[1] * 1.2, 0.3, 4.1);
    const auto spline = Curve::spline(std::make_shared<const Nurbs>(flat), flat.low(), flat.high());
    const auto spline3 = CurveIn<3>::spline(std::make_shared<const NurbsIn<3>>(bent), flat.low(), flat.high());
    const auto line = Curve::line(arc.end(), spline.start());
    const auto line3 = CurveIn<3>::line(arc3.end(), spline3.start());
    const std::vector<std::pair<Curve, CurveIn<3>>> pairs{
        {arc, arc3},
        {spline, spline3},
        {line, line3},
        {Curve::chain({arc, line, spline}), CurveIn<3>::chain({arc3, line3, spline3})}};
    for (const auto& [plane, space] : pairs) {
        CHECK(space.length() == doctest::Approx(plane.length()).epsilon(1e-12));
        CHECK(space.turning() == doctest::Approx(plane.turning()).epsilon(1e-9));
        CHECK(distance(space.twice_area(out({})), f.axis[2] * plane.twice_area({})) < 1e-10);
        for (const double t : {0.0, 0.13, 0.5, 0.77, 1.0}) {
            CHECK(distance(space.point(t), out(plane.point(t))) < 1e-12);
            CHECK(distance(space.derivative(t), out(plane.derivative(t)) - out({})) < 1e-11);
            CHECK(distance(space.second_derivative(t), out(plane.second_derivative(t)) - out({})) < 1e-10);
            if (t > 0 && t < 1)
                CHECK(1 / space.curvature_radius(t) == doctest::Approx(1 / plane.curvature_radius(t)).epsilon(1e-9));
            // Beside the plane the nearest point is the same.
            const Vec2 beside = plane.point(t) + Vec2{{0.2, -0.1}};
            const double own = plane.project(beside);
            CHECK(distance(space.point(space.project(out(beside) + f.axis[2] * 0.4)), out(plane.point(own))) < 1e-7);
        }
        for (double t = 0; t <= 1; t += 0.01) CHECK(space.box().distance_to(space.point(t)) < 1e-9);
    }
    const AffineIn<3> turn{f.axis, f.origin};
    for (const auto& [plane, space] : pairs)
        CHECK(distance(space.transformed(turn).point(0.4), turn(space.point(0.4))) < 1e-12);
}

TEST_CASE("surfaces: derivatives by differences, normals outside, curvature known, projection and back") {
    const Frame f = tilted();
    const Curve up = Curve::line({{2, 0}}, {{2, 3}}), slant = Curve::line({{2, 0}}, {{1, 3}});
    const Curve half = Curve::arc({{0, 0}}, {{1.5, 0}}, {{0, 1.5}}, -pi / 2, pi / 2);
    const Curve tube = Curve::arc({{4, 0}}, {{1, 0}}, {{0, 1}}, 0, 2 * pi);
    const Curve ellipse = Curve::arc({{1, 0}}, {{2, 0}}, {{0, 1}}, 0, 2 * pi);
    const double steep = std::sqrt(10.0) / 3;
    struct Known {
        Surface surface;
        Vec2 at;
        double small, large;  // radii; 0: not told
    };
    const double infinity = INFINITY;
    const std::vector<Known> all{{Surface::plane(f), {{0.3, -2}}, infinity, infinity},
                                 {Surface::turned(f, up), {{1.1, 0.4}}, 2, infinity},
                                 {Surface::turned(f, slant), {{1.1, 0.4}}, (2 - 0.4) * steep, infinity},
                                 {Surface::turned(f, half), {{-2, 0.3}}, 1.5, 1.5},
                                 {Surface::turned(f, tube), {{0.5, 0}}, 1, 5},     // outside of the ring
                                 {Surface::turned(f, tube), {{0.5, 0.5}}, 1, -3},  // and inside
                                 {Surface::drawn(f, ellipse), {{0, 1.3}}, 0.5, infinity},
                                 {Surface::drawn(f, ellipse), {{0.25, 1.3}}, 4, infinity}};
    for (const auto& k : all) {
        const Surface& s = k.surface;
        CAPTURE(static_cast<int>(s.kind()));
        const double h = 1e-5;
        const Vec2 u{{h, 0}}, v{{0, h}};
        const auto d = s.derivatives(k.at);
        CHECK(distance(d[0], (s.point(k.at + u) - s.point(k.at - u)) / (2 * h)) < 1e-7);
        CHECK(distance(d[1], (s.point(k.at + v) - s.point(k.at - v)) / (2 * h)) < 1e-7);
        const auto d2 = s.second_derivatives(k.at);
        CHECK(distance(d2[0], (s.derivatives(k.at + u)[0] - s.derivatives(k.at - u)[0]) / (2 * h)) < 1e-6);
        CHECK(distance(d2[1], (s.derivatives(k.at + u)[1] - s.derivatives(k.at - u)[1]) / (2 * h)) < 1e-6);
        CHECK(distance(d2[2], (s.derivatives(k.at + v)[1] - s.derivatives(k.at - v)[1]) / (2 * h)) < 1e-6);
        const Vec3 n = s.normal(k.at);
        CHECK(norm(n) == doctest::Approx(1));
        CHECK(std::fabs(dot(n, d[0])) + std::fabs(dot(n, d[1])) < 1e-12);
        const auto r = s.curvature_radii(k.at);
        if (std::isfinite(k.small))
            CHECK(r[0] == doctest::Approx(k.small).epsilon(1e-9));
        else
            CHECK_FALSE(std::isfinite(r[0]));
        if (std::isfinite(k.large))
            CHECK(r[1] == doctest::Approx(k.large).epsilon(1e-9));
        else
            CHECK_FALSE(std::isfinite(r[1]));
        const Vec2 back = s.project(s.point(k.at) + n * 0.2, k.at);
        CHECK(distance(back, k.at) < 1e-9);
        const Vec2 period = s.periods();
        const Vec2 around = s.project(s.point(k.at), k.at + period);
        CHECK(distance(around, k.at + period) < 1e-9);
        CHECK(distance(s.point(around), s.point(k.at)) < 1e-12);
    }
    // The tip of a sphere, where the derivative round the axis vanishes.
    const Surface ball = Surface::turned(f, half);
    CHECK(distance(ball.normal({{0.4, 1}}), f.axis[2]) < 1e-12);
    CHECK(ball.curvature_radii({{0.4, 1}})[1] == doctest::Approx(1.5).epsilon(1e-5));
    CHECK(distance(ball.point(ball.project(f.out({{0, 0, 9}}))), f.out({{0, 0, 1.5}})) < 1e-12);
}

TEST_CASE("rays meet balls, rings and pieces of them where the distance from them changes its sign") {
    const Frame f = tilted();
    struct Turned {
        double big, small, z, from, to;  // of the profile: centre and radius, and its angles
    };
    std::mt19937 random(5);
    std::uniform_real_distribution<double> in(-1, 1);
    for (const Turned& t :
         {Turned{0, 2, 0.3, -pi / 2, pi / 2}, Turned{0, 2, 0.3, -0.4, 0.9}, Turned{3, 1, -0.2, 0, 2 * pi},
          Turned{3, 1, -0.2, 0.3, 2.5}, Turned{1, 1.6, 0, -0.8, 0.8}}) {
        const Surface surface =
            Surface::turned(f, Curve::arc({{t.big, t.z}}, {{t.small, 0}}, {{0, t.small}}, t.from, t.to));
        const auto outside = [&](const Vec3& p) {
            const Vec3 q = f.in(p);
            return std::hypot(std::hypot(q[0], q[1]) - t.big, q[2] - t.z) - t.small;
        };
        const auto on_piece = [&](const Vec3& p) {
            const Vec3 q = f.in(p);
            double angle = std::atan2(q[2] - t.z, std::hypot(q[0], q[1]) - t.big);
            while (angle < t.from) angle += 2 * pi;
            return angle < t.to;
        };
        int met = 0;
        for (int ray = 0; ray < 300; ++ray) {
            const Vec3 from = f.out({{6 * in(random), 6 * in(random), 3 * in(random)}}),
                       to = f.out({{4 * in(random), 4 * in(random), 2 * in(random)}}), along = to - from;
            const auto found = meetings(surface, from, along);
            if (!found) continue;
            // By small steps along the ray.
            std::size_t count = 0;
            constexpr int steps = 20000;
            const double far = 20 / norm(along);
            Vec3 before = from;
            for (int k = 1; k <= steps; ++k) {
                const Vec3 p = from + along * (far * k / steps);
                const Vec3 middle = (p + before) * 0.5;
                count += (outside(p) < 0) != (outside(before) < 0) && on_piece(middle) ? 1 : 0;
                before = p;
            }
            // A ray that hardly enters may be seen by one of them alone.
            if (found->size() != count)
                MESSAGE("a ray meets ", found->size(), " times, by steps ", count);
            else
                ++met;
            for (const Vec3& p : *found) {
                CHECK(std::fabs(outside(p)) < 1e-9);
                CHECK(on_piece(p));
            }
        }
        CHECK(met >= 297);
    }
}

TEST_CASE("volume, area, centroid and the inside of turned solids") {
    const Frame f = tilted();
    struct Known {
        const char* name;
        Curve profile;
        double volume, mantle, height;  // of the centroid
    };
    const double s = std::sqrt(10.0);
    const std::vector<Known> all{
        {"cylinder", Curve::line({{2, 0}}, {{2, 3}}), 12 * pi, 12 * pi, 1.5},
        {"cone cut off", Curve::line({{2, 0}}, {{1, 3}}), pi * 7, pi * 3 * s, 3.0 / 4 * 11 / 7},
        {"cone", Curve::line({{2, 0}}, {{0, 3}}), 4 * pi, pi * 2 * std::sqrt(13.0), 0.75},
        {"ball", Curve::arc({{0, 0}}, {{1.5, 0}}, {{0, 1.5}}, -pi / 2, pi / 2), 4.5 * pi, 9 * pi, 0},
        {"cap", Curve::arc({{0, 0}}, {{1.5, 0}}, {{0, 1.5}}, 0.5, pi / 2),
         pi / 3 * std::pow(1.5 * (1 - std::sin(0.5)), 2) * (3 * 1.5 - 1.5 * (1 - std::sin(0.5))),
         2 * pi * 1.5 * 1.5 * (1 - std::sin(0.5)),
         3 * std::pow(1.5 + 1.5 * std::sin(0.5), 2) / (4 * (2 * 1.5 + 1.5 * std::sin(0.5)))},
        {"ring", Curve::arc({{4, 0}}, {{1, 0}}, {{0, 1}}, 0, 2 * pi), 8 * pi * pi, 16 * pi * pi, 0}};
    for (const auto& k : all) {
        CAPTURE(k.name);
        SolidPart part = turned_solid(f, k.profile);
        if (k.profile.closed()) {  // no ends
            part.edges.clear();
            part.faces = {{Surface::turned(f, k.profile), {}, 0, -1, {}}};
        }
        const auto body = measure(part);
        CHECK(body.size == doctest::Approx(k.volume).epsilon(1e-10));
        CHECK(distance(body.centroid, f.out({{0, 0, k.height}})) < 1e-8);
        CHECK(measure_face(part, part.faces.size() - 1).size == doctest::Approx(k.mantle).epsilon(1e-10));
    }
}

TEST_CASE("a block with a hole in two regions: faces between them count for both, and names lead to faces") {
    // Drawn from z = 0 to 1 and from 1 to 3: a square of 4 with a hole of radius 1.
    const Frame f = tilted();
    SolidPart part;
    part.regions = {"foot", "body"};
    part.bodies = {{0}, {1}};
    const std::array<double, 3> level{0, 1, 3};
    const std::array<Vec2, 4> corner{{{{-2, -2}}, {{2, -2}}, {{2, 2}}, {{-2, 2}}}};
    for (const double z : level)  // 5 edges at each level: four sides, and the hole
        for (std::size_t k = 0; k < 5; ++k) {
            const auto out = [&](const Vec2& p) { return f.out({{p[0], p[1], z}}); };
            const int v = static_cast<int>(part.vertices.size());
            part.vertices.push_back(k < 4 ? out(corner[k]) : out({{1, 0}}));
            if (k < 4)
                part.edges.push_back(
                    {CurveIn<3>::line(out(corner[k]), out(corner[(k + 1) % 4])), v, k == 3 ? v - 3 : v + 1});
            else
                part.edges.push_back({circle(f, 1, z), v, v});
        }
    for (int l = 0; l < 2; ++l)  // upright edges
        for (std::size_t k = 0; k < 4; ++k) {
            const int low = 5 * l + static_cast<int>(k);
            part.edges.push_back({CurveIn<3>::line(part.vertices[static_cast<std::size_t>(low)],
                                                   part.vertices[static_cast<std::size_t>(low) + 5]),
                                  low, low + 5});
        }
    for (int l = 0; l < 3; ++l) {  // across: the normal points up
        const int e = 5 * l;
        part.faces.push_back({Surface::plane(lifted(f, level[static_cast<std::size_t>(l)], false)),
                              {{{e, true}, {e + 1, true}, {e + 2, true}, {e + 3, true}}, {{e + 4, false}}},
                              l - 1,
                              l < 2 ? l : -1,
                              {}});
    }
    for (int l = 0; l < 2; ++l) {
        for (int k = 0; k < 4; ++k) {
            const Vec2 a = corner[static_cast<std::size_t>(k)], b = corner[static_cast<std::size_t>((k + 1) % 4)];
            part.faces.push_back({Surface::drawn(f, Curve::line(a, b)),
                                  {{{5 * l + k, true},
                                    {15 + 4 * l + (k + 1) % 4, true},
                                    {5 * l + 5 + k, false},
                                    {15 + 4 * l + k, false}}},
                                  l,
                                  -1,
                                  {}});
        }
        const Curve round = Curve::arc({}, {{1, 0}}, {{0, 1}}, 0, 2 * pi);
        part.faces.push_back({Surface::drawn(f, round), {{{5 * l + 4, true}}, {{5 * l + 9, false}}}, -1, l, {}});
    }
    finish(part);
    CHECK(measure_body(part, 0).size == doctest::Approx(16 - pi).epsilon(1e-12));
    CHECK(measure_body(part, 1).size == doctest::Approx(2 * (16 - pi)).epsilon(1e-12));
    CHECK(distance(measure(part).centroid, f.out({{0, 0, 1.5}})) < 1e-10);
    CHECK(measure_face(part, 1).size == doctest::Approx(16 - pi).epsilon(1e-12));
    CHECK(measure_face(part, 7).size == doctest::Approx(2 * pi).epsilon(1e-12));
    CHECK(part.faces[1].interior());
    CHECK_FALSE(part.faces[2].interior());
    const BodyFinder body_at(part);
    CHECK(body_at(f.out({{1.5, 1.5, 0.5}})) == 0);
    CHECK(body_at(f.out({{1.5, -1.5, 2}})) == 1);
    CHECK(body_at(f.out({{0.3, 0.2, 2}})) == -1);

    part.add_name("bore", part.faces[7].names);
    part.add_name("bore", part.faces[12].names);
    part.add_name("bore", part.faces[7].names);
    part.add_name("bottom", part.faces[0].names);
    part.points.push_back({"tip", 11});
    CHECK(part.faces_named({"bo*"}) == std::vector{0, 7, 12});
    CHECK(part.faces_named({"bore"}) == std::vector{7, 12});
    CHECK(part.name_of_face(7) == "\"bore\"");
    CHECK(part.name_of_face(2) == "face 3");
    CHECK(part.regions_named({"foot"}) == std::vector{0});
    CHECK(part.points_named({"t?p", "tip"}) == std::vector{11});
    CHECK(names_of_sides(part.faces)[7] == std::vector{0});
}

TEST_SUITE_END();
