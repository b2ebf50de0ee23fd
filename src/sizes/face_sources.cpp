#include "sizes/face_sources.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "part/solid/chart.hpp"
#include "sizes/area_sources.hpp"

namespace dotsift {

namespace {

// Of the size: a triangle from its surface. Where a face is not all of a box on its chart, triangles reach beyond its
// rim, where a surface may not be followed.
constexpr double stray_from_face = 0.25, stray_from_box = 0.02;
constexpr int most_halvings = 24;
constexpr double rim_share = 1e-9;  // of an area's size: as near to a side of its box a rim runs along it
constexpr int pieces_of_turn = 64;  // of an edge that bends, in a whole turn

/// A triangle on the chart.
using Triangle = std::array<Vec2, 3>;

class FaceCover {
  public:
    FaceCover(const Chart& chart, const std::function<double(const Vec3&, const Vec2&)>& size, double stray,
              double reach, int rule, std::vector<SizeSourceIn<3>>& sources)
        : chart_(chart), size_(size), stray_(stray), reach_(reach), rule_(rule), sources_(sources) {}

    /// Halves the side over which the surface strays farthest, while it does.
    void add(const Triangle& t, int depth) {
        std::size_t worst = 0;
        double most = -1;
        bool strays = false;
        for (std::size_t k = 0; k < 3 && chart_.surface().kind() != Surface::Kind::plane; ++k) {
            const Vec2 &a = t[(k + 1) % 3], &b = t[(k + 2) % 3], parameters = chart_.parameters((a + b) * 0.5);
            const Vec3 on_face = chart_.surface().point(parameters);
            const double stray = distance(on_face, (chart_.point(a) + chart_.point(b)) * 0.5);
            strays = strays || stray > stray_ * size_(on_face, parameters);
            if (stray <= most) continue;
            most = stray;
            worst = k;
        }
        if (depth < most_halvings && strays) {
            const Vec2 &a = t[(worst + 1) % 3], &b = t[(worst + 2) % 3], middle = (a + b) * 0.5;
            add({t[worst], a, middle}, depth + 1);
            add({t[worst], middle, b}, depth + 1);
            return;
        }
        std::array<Vec3, 3> corners;
        std::array<double, 3> h{};
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec2 p = chart_.parameters(t[k]);
            corners[k] = chart_.surface().point(p);
            h[k] = size_(corners[k], p);
        }
        add_triangle_source(corners, h, reach_, rule_, sources_);
    }

  private:
    const Chart& chart_;
    const std::function<double(const Vec3&, const Vec2&)>& size_;
    double stray_, reach_;
    int rule_;
    std::vector<SizeSourceIn<3>>& sources_;
};

/// Whether the rim runs along the sides of its box alone, as that of a piece of a cylinder does: then it is the box.
bool is_box(const SizeArea& area) {
    const double near = rim_share * area.box.diagonal();
    double around = 0;
    for (const Curve& line : area.rim) {
        const Vec2 &a = line.start(), &b = line.end();
        bool along = false;
        for (std::size_t k = 0; k < 2; ++k)
            for (const double side : {area.box.low[k], area.box.high[k]})
                along = along || (std::fabs(a[k] - side) <= near && std::fabs(b[k] - side) <= near);
        if (!along) return false;
        around += distance(a, b);
    }
    const double whole = 2 * (area.box.size()[0] + area.box.size()[1]);
    return std::fabs(around - whole) <= 4 * near;
}

}  // namespace

void add_triangle_source(const std::array<Vec3, 3>& corners, const std::array<double, 3>& sizes, double reach, int rule,
                         std::vector<SizeSourceIn<3>>& sources) {
    SizeSourceIn<3> s;
    s.form = SizeSourceIn<3>::Form::triangle;
    s.corners = corners;
    s.size = sizes[0];
    const Vec3 u = corners[1] - corners[0], v = corners[2] - corners[0];
    const double uu = dot(u, u), uv = dot(u, v), vv = dot(v, v), det = uu * vv - uv * uv;
    if (!(det > 0)) return;
    const double hu = sizes[1] - sizes[0], hv = sizes[2] - sizes[0];
    s.gradient = u * ((hu * vv - hv * uv) / det) + v * ((hv * uu - hu * uv) / det);
    s.reach = reach;
    s.rule = rule;
    sources.push_back(s);
}

void add_face_sources(const SolidPart& part, std::size_t face,
                      const std::function<double(const Vec3& place, const Vec2& parameters)>& size, bool varies,
                      double reach, int rule, std::vector<SizeSourceIn<3>>& sources) {
    const Chart chart(part.faces[face].surface);
    ChartedLoops loops(chart);
    SizeArea area;
    for (const auto& loop : part.faces[face].loops) {
        std::vector<Vec3> points;
        for (const EdgeUse& use : loop) {
            const auto& curve = part.edge(use.edge).curve;
            // On a chart even a straight edge may bend.
            const int pieces =
                4 + static_cast<int>(std::ceil(curve.turning() * pieces_of_turn / (2 * std::numbers::pi)));
            for (int k = 0; k < pieces; ++k) {
                const double t = static_cast<double>(k) / pieces;
                points.push_back(curve.point(use.forward ? t : 1 - t));
            }
        }
        const auto at = loops.follow(points);
        for (std::size_t k = 0; k < at.size(); ++k) {
            const Vec2& next = at[(k + 1) % at.size()];
            if (at[k] == next) continue;
            area.rim.push_back(Curve::line(at[k], next));
            area.box.add(at[k]);
        }
    }
    area.size = [&](const Vec2& at) {
        const Vec2 p = chart.parameters(at);
        return size(chart.surface().point(p), p) / chart.scale(p);
    };
    area.varies = varies;
    const bool box = !varies && is_box(area);
    FaceCover cover(chart, size, box ? stray_from_box : stray_from_face, reach, rule, sources);
    if (box) {
        const Vec2 &a = area.box.low, &c = area.box.high, b{{c[0], a[1]}}, d{{a[0], c[1]}};
        cover.add({b, c, a}, 0);
        cover.add({d, a, c}, 0);
        return;
    }
    std::vector<SizeSource> flat;
    add_area_sources(area, flat);
    for (const auto& s : flat) cover.add(s.corners, 0);
}

}  // namespace dotsift
