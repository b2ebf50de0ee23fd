#include "part/solid/space_shapes.hpp"

#include <fmt/format.h>

#include <numbers>

#include "base/errors.hpp"
#include "part/combine/combine.hpp"
#include "part/shapes/shapes.hpp"
#include "part/solid/changed_solid.hpp"
#include "part/solid/cut_edges.hpp"
#include "part/solid/from_plane.hpp"
#include "part/solid/led_solid.hpp"
#include "part/solid/placed_solid.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;

class SpaceShape {
  public:
    SpaceShape(const SpaceShapeSpec& shape, double part_at) : shape_(shape), part_at_(part_at) {}

    SolidPart box() {
        const Vec3 a = shape_.corner, b = a + shape_.size;
        const std::vector<Vec2> corners{{{a[0], a[1]}}, {{b[0], a[1]}}, {{b[0], b[1]}}, {{a[0], b[1]}}};
        return drawn_solid(plane(polygon(corners, {"front", "right", "back", "left"})), a[2], b[2],
                           {name_of("bottom"), name_of("top")});
    }

    /// A prism along y: its upper side is shorter than its lower one, or an edge.
    SolidPart wedge() {
        const Vec3 a = shape_.corner, size = shape_.size;
        std::vector<Vec2> corners{{{0, 0}}, {{size[0], 0}}};
        std::vector<std::string> sides{"bottom", "right"};
        if (shape_.tip > 0) {
            corners.push_back({{shape_.tip, size[2]}});
            sides.emplace_back("top");
        }
        corners.push_back({{0, size[2]}});
        sides.emplace_back("left");
        // Drawn along z, then laid over so that the outline's y points up and it goes on along y.
        const SolidPart drawn =
            drawn_solid(plane(polygon(corners, sides)), -size[1], 0, {name_of("back"), name_of("front")});
        AffineIn<3> map;
        map.column = {Vec3{{1, 0, 0}}, Vec3{{0, 0, 1}}, Vec3{{0, -1, 0}}};
        map.shift = a;
        return placed(drawn, map);
    }

    /// From one radius to another, of which one may be 0.
    SolidPart about_axis(double first, double last) {
        const double height = distance(shape_.from, shape_.to);
        std::vector<Vec2> corners{{{0, 0}}};
        std::vector<std::string> sides;
        if (first > 0) {
            corners.push_back({{first, 0}});
            sides.emplace_back("start");
        }
        if (last > 0) corners.push_back({{last, height}});
        sides.emplace_back("side");
        corners.push_back({{0, height}});
        if (last > 0) sides.emplace_back("end");
        sides.emplace_back("");
        return placed(turned_solid(plane(polygon(corners, sides)), 2 * pi), round_line(shape_.from, shape_.to));
    }

    SolidPart sphere() {
        const double r = shape_.radius;
        const auto quarter = [&](double from) { return CurveIn<2>::arc({}, {{r, 0}}, {{0, r}}, from, from + pi / 2); };
        std::vector<NamedCurve> loop{{quarter(-pi / 2), names_of("side")}, {quarter(0), names_of("side")}};
        // Both on the axis, bit for bit.
        loop[0].curve.set_ends({{0, -r}}, {{r, 0}});
        loop[1].curve.set_ends({{r, 0}}, {{0, r}});
        loop.push_back({Curve::line({{0, r}}, {{0, -r}}), {}});
        return placed(turned_solid(plane(std::move(loop)), 2 * pi),
                      round_line(shape_.centre, shape_.centre + Vec3{{0, 0, 1}}));
    }

    SolidPart ring() {
        const auto [out, r] = shape_.radii;
        std::vector<NamedCurve> loop;
        constexpr int pieces = 3;
        loop.reserve(pieces);
        for (int k = 0; k < pieces; ++k)
            loop.push_back({Curve::arc({{out, 0}}, {{r, 0}}, {{0, r}}, 2 * pi * k / pieces, 2 * pi * (k + 1) / pieces),
                            names_of("side")});
        for (std::size_t k = 0; k < loop.size(); ++k) {
            auto& next = loop[(k + 1) % loop.size()].curve;
            next.set_ends(loop[k].curve.end(), next.end());
        }
        return placed(turned_solid(plane(std::move(loop)), 2 * pi),
                      round_line(shape_.centre, shape_.centre + shape_.normal));
    }

    /// What a plane takes: a box before it, so large that its other faces lie outside of everything.
    SolidPart half_space(const Box<3>& around) {
        constexpr double beyond = 2;  // times the size of everything
        const double reach = beyond * (around.diagonal() + distance(around.centre(), shape_.centre));
        const std::vector<Vec2> corners{{{-reach, 0}}, {{reach, 0}}, {{reach, reach}}, {{-reach, reach}}};
        SolidPart part = drawn_solid(plane(polygon(corners, {"side", "", "", ""})), -reach, reach);
        return placed(part, along_line(shape_.centre, shape_.centre + shape_.normal));
    }

    std::optional<SolidPart> swept(Problems& problems) {
        const auto edges = outline_of(shape_.outline, problems);
        if (edges.empty()) return std::nullopt;
        std::vector<NamedCurve> loop;
        loop.reserve(edges.size());
        for (const auto& e : edges) loop.push_back({e.curve, e.names});
        const Part part = without_closed_edges(plane(std::move(loop)));
        SweepSpec sweep = shape_.sweep;  // its ends, too, carry the name of the whole
        if (sweep.start.empty()) sweep.start = shape_.name;
        if (sweep.end.empty()) sweep.end = shape_.name;
        return swept_solid(part, sweep);
    }

  private:
    /// The name of a side; without one that of the whole shape.
    [[nodiscard]] std::string name_of(const std::string& side) const {
        for (const auto& [known, name] : shape_.names)
            if (known == side) return name;
        return shape_.name;
    }
    [[nodiscard]] std::vector<std::string> names_of(const std::string& side) const {
        const std::string name = side.empty() ? "" : name_of(side);
        return name.empty() ? std::vector<std::string>{} : std::vector<std::string>{name};
    }

    [[nodiscard]] std::vector<NamedCurve> polygon(const std::vector<Vec2>& corners,
                                                  const std::vector<std::string>& sides) const {
        std::vector<NamedCurve> loop;
        for (std::size_t k = 0; k < corners.size(); ++k)
            loop.push_back({Curve::line(corners[k], corners[(k + 1) % corners.size()]), names_of(sides[k])});
        return loop;
    }

    [[nodiscard]] Part plane(std::vector<NamedCurve> loop) const {
        CombineStep step;
        step.region = shape_.region;
        step.copies.push_back({{std::move(loop)}});
        return combine({step}).part;
    }

    /// As along_line, but turned about that line.
    [[nodiscard]] AffineIn<3> round_line(const Vec3& from, const Vec3& to) const {
        return along_line(from, to).after(AffineIn<3>::rotation(part_at_, {Vec3{}, Vec3{{0, 1, 0}}}));
    }

    const SpaceShapeSpec& shape_;
    double part_at_;
};

}  // namespace

SolidPart swept_solid(const Part& part, const SweepSpec& sweep) {
    const SweepNames ends{sweep.start, sweep.end};
    if (!sweep.path.empty()) return led_solid(part, sweep);
    if (sweep.turned) return turned_solid(part, sweep.angle, ends);
    SolidPart drawn = drawn_solid(part, sweep.from, sweep.to, ends);
    return sweep.taper == 0 ? drawn : tapered(drawn, sweep.from, sweep.taper);
}

std::optional<SolidPart> solid_of_shape(const SpaceShapeSpec& shape, const Box<3>& around, double part_at,
                                        Problems& problems) {
    SpaceShape made(shape, part_at);
    switch (shape.primitive) {
        case SpacePrimitive::box:
            return made.box();
        case SpacePrimitive::cylinder:
            return made.about_axis(shape.radius, shape.radius);
        case SpacePrimitive::cone:
            return made.about_axis(shape.radii[0], shape.radii[1]);
        case SpacePrimitive::sphere:
            return made.sphere();
        case SpacePrimitive::ring:
            return made.ring();
        case SpacePrimitive::wedge:
            return made.wedge();
        case SpacePrimitive::plane:
            return made.half_space(around);
        case SpacePrimitive::point:
        case SpacePrimitive::model:
            return std::nullopt;  // encloses nothing; is read from its file
        case SpacePrimitive::swept:
            break;
    }
    return made.swept(problems);
}

}  // namespace dotsift
