#include "part/solid/from_plane.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

#include "base/errors.hpp"
#include "part/solid/cut_edges.hpp"
#include "part/solid/solid_box.hpp"

namespace dotsift {

namespace {

constexpr double widest_sector = 150 * std::numbers::pi / 180;
// An angle nearer to a whole turn than this share is one.
constexpr double whole_turn_share = 1e-9;

/// Loops as seen from the other side.
std::vector<std::vector<EdgeUse>> seen_from_behind(std::vector<std::vector<EdgeUse>> loops) {
    for (auto& loop : loops) {
        std::reverse(loop.begin(), loop.end());
        for (auto& use : loop) use.forward = !use.forward;
    }
    return loops;
}

void take_names(const Part& part, SolidPart& solid) {
    solid.boundary_names = part.boundary_names;
    solid.regions = part.regions;
    for (const auto& f : part.faces) solid.bodies.push_back({f.region});
}

/// Adds the part's faces as plane ones, whose edges have other numbers there.
void add_caps(const Part& part, const Surface& surface, bool from_behind, const std::function<int(int)>& edge,
              const std::string& name, SolidPart& solid) {
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        SolidFace cap{surface, part.faces[f].loops, static_cast<int>(f), -1, {}};
        for (auto& loop : cap.loops)
            for (auto& use : loop) use.edge = edge(use.edge);
        if (from_behind) cap.loops = seen_from_behind(std::move(cap.loops));
        if (!name.empty()) solid.add_name(name, cap.names);
        solid.faces.push_back(std::move(cap));
    }
}

/// The part with every curve that leads from the axis to the axis, beside it, cut in two.
Part without_two_poles(Part part, double near) {
    const auto vertices = part.vertices;
    const auto on_axis = [&](int v) { return vertices[static_cast<std::size_t>(v)][0] <= near; };
    return cut_edges(std::move(part), [&](const PartEdge& e) {
        return !e.curve.straight() && on_axis(e.start) && on_axis(e.end) ? 2 : 1;
    });
}

/// A plane part on its way round.
class Turning {
  public:
    Turning(const Part& part, double angle, const SweepNames& names)
        : near_(same_point_share * part.box.diagonal()),
          part_(without_two_poles(part, near_)),
          names_(names),
          whole_(angle >= 2 * std::numbers::pi * (1 - whole_turn_share)),
          angle_(whole_ ? 2 * std::numbers::pi : angle),
          sectors_(std::max(1, static_cast<int>(std::ceil(angle_ / widest_sector)))) {
        frame_.axis = {Vec3{{1, 0, 0}}, Vec3{{0, 0, -1}}, Vec3{{0, 1, 0}}};
    }

    SolidPart run() {
        for (const auto& e : part_.edges)
            if (e.curve.box().low[0] < -near_) {
                Place place;
                place.position = e.curve.box().low;
                throw InputError("the part crosses the axis x = 0 about which it is to be turned", place,
                                 "move it to x >= 0, or cut away what lies beyond");
            }
        take_names(part_, solid_);
        add_vertices();
        add_edges();
        for (std::size_t e = 0; e < part_.edges.size(); ++e)
            for (int k = 0; k < sectors_ && !along_axis(e); ++k) add_face(e, k);
        if (!whole_) {
            add_caps(
                part_, Surface::plane(cap(0, false)), false, [&](int e) { return meridian(e, 0); }, names_.start,
                solid_);
            add_caps(
                part_, Surface::plane(cap(sectors_, true)), true, [&](int e) { return meridian(e, sectors_); },
                names_.end, solid_);
        }
        for (const auto& p : part_.points) solid_.points.push_back({p.name, vertex(p.vertex, 0)});
        solid_.box = box_of(solid_);
        return std::move(solid_);
    }

  private:
    [[nodiscard]] bool on_axis(int v) const { return part_.vertex(v)[0] <= near_; }
    [[nodiscard]] bool along_axis(std::size_t e) const {
        return on_axis(part_.edges[e].start) && on_axis(part_.edges[e].end);
    }
    [[nodiscard]] double angle_at(int station) const { return angle_ * station / sectors_; }
    /// Stations go round; a whole turn comes back to the first.
    [[nodiscard]] int station(int k) const { return whole_ ? k % sectors_ : k; }
    [[nodiscard]] int vertex(int v, int k) const {
        return vertex_[static_cast<std::size_t>(v)] + (on_axis(v) ? 0 : station(k));
    }
    [[nodiscard]] int meridian(int e, int k) const {
        return meridian_[static_cast<std::size_t>(e)] + (along_axis(static_cast<std::size_t>(e)) ? 0 : station(k));
    }
    [[nodiscard]] int stations() const { return whole_ ? sectors_ : sectors_ + 1; }
    /// The part's plane as it stands there: x away from the axis.
    [[nodiscard]] Frame cap(int k, bool from_behind) const {
        const double c = std::cos(angle_at(k)), s = std::sin(angle_at(k));
        Frame f = frame_;
        const Vec3 out = frame_.axis[0] * c + frame_.axis[1] * s, round = frame_.axis[1] * c - frame_.axis[0] * s;
        f.axis = {out, frame_.axis[2], -round};
        if (from_behind) f.axis = {out, -frame_.axis[2], round};
        return f;
    }

    void add_vertices() {
        for (std::size_t v = 0; v < part_.vertices.size(); ++v) {
            vertex_.push_back(static_cast<int>(solid_.vertices.size()));
            Vec2 p = part_.vertices[v];
            const bool pole = on_axis(static_cast<int>(v));
            if (pole) p[0] = 0;
            for (int k = 0; k < (pole ? 1 : stations()); ++k)
                solid_.vertices.push_back(cap(k, false).out({{p[0], p[1], 0}}));
        }
    }

    void add_edges() {
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            const auto& edge = part_.edges[e];
            meridian_.push_back(static_cast<int>(solid_.edges.size()));
            for (int k = 0; k < (along_axis(e) ? 1 : stations()); ++k)
                add_edge(in_space(edge.curve, cap(k, false)), vertex(edge.start, k), vertex(edge.end, k));
        }
        for (std::size_t v = 0; v < part_.vertices.size(); ++v) {
            circle_.push_back(static_cast<int>(solid_.edges.size()));
            const int n = static_cast<int>(v);
            if (on_axis(n)) continue;
            const Vec3 centre = frame_.out({{0, 0, part_.vertices[v][1]}});
            const double r = part_.vertices[v][0];
            for (int k = 0; k < sectors_; ++k)
                add_edge(CurveIn<3>::arc(centre, frame_.axis[0] * r, frame_.axis[1] * r, angle_at(k), angle_at(k + 1)),
                         vertex(n, k), vertex(n, k + 1));
        }
    }

    void add_edge(CurveIn<3> curve, int start, int end) {
        curve.set_ends(solid_.vertices[static_cast<std::size_t>(start)],
                       solid_.vertices[static_cast<std::size_t>(end)]);
        solid_.edges.push_back({std::move(curve), start, end});
    }

    void add_face(std::size_t e, int k) {
        const auto& edge = part_.edges[e];
        SolidFace face{surface_of(edge.curve), {{}}, edge.left, edge.right, edge.names};
        auto& loop = face.loops.front();
        const auto circle = [&](int v) { return circle_[static_cast<std::size_t>(v)] + k; };
        if (!on_axis(edge.start)) loop.push_back({circle(edge.start), true});
        loop.push_back({meridian(static_cast<int>(e), k + 1), true});
        if (!on_axis(edge.end)) loop.push_back({circle(edge.end), false});
        loop.push_back({meridian(static_cast<int>(e), k), false});
        solid_.faces.push_back(std::move(face));
    }

    /// A line across the axis makes a plane.
    [[nodiscard]] Surface surface_of(const Curve& curve) const {
        const Vec2 a = curve.start(), b = curve.end();
        if (!curve.straight() || a[1] != b[1]) return Surface::turned(frame_, curve);
        Frame f = frame_;
        f.origin = frame_.out({{0, 0, a[1]}});
        if (b[0] > a[0]) {  // the material lies above
            f.axis[1] = -f.axis[1];
            f.axis[2] = -f.axis[2];
        }
        return Surface::plane(f);
    }

    double near_;
    Part part_;
    SweepNames names_;
    bool whole_;
    double angle_;
    int sectors_;
    Frame frame_;
    SolidPart solid_;
    std::vector<int> vertex_, meridian_, circle_;
};

}  // namespace

SolidPart drawn_solid(const Part& part, double from, double to, const SweepNames& names) {
    SolidPart solid;
    take_names(part, solid);
    const auto vertices = static_cast<int>(part.vertices.size()), edges = static_cast<int>(part.edges.size());
    Frame bottom, top, below;
    bottom.origin = {{0, 0, from}};
    top.origin = {{0, 0, to}};
    below = bottom;
    below.axis[1] = -bottom.axis[1];
    below.axis[2] = -bottom.axis[2];
    for (const Frame& f : {bottom, top})
        for (const Vec2& p : part.vertices) solid.vertices.push_back(f.out({{p[0], p[1], 0}}));
    for (const bool high : {false, true})
        for (const auto& e : part.edges)
            solid.edges.push_back({in_space(e.curve, high ? top : bottom), e.start + (high ? vertices : 0),
                                   e.end + (high ? vertices : 0)});
    for (int v = 0; v < vertices; ++v)
        solid.edges.push_back({CurveIn<3>::line(solid.vertices[static_cast<std::size_t>(v)],
                                                solid.vertices[static_cast<std::size_t>(v + vertices)]),
                               v, v + vertices});
    Frame upright;  // heights are the study's own
    for (int e = 0; e < edges; ++e) {
        const auto& edge = part.edge(e);
        solid.faces.push_back(
            {Surface::drawn(upright, edge.curve),
             {{{e, true}, {2 * edges + edge.end, true}, {edges + e, false}, {2 * edges + edge.start, false}}},
             edge.left,
             edge.right,
             edge.names});
    }
    add_caps(
        part, Surface::plane(below), true, [](int e) { return e; }, names.start, solid);
    add_caps(
        part, Surface::plane(top), false, [&](int e) { return e + edges; }, names.end, solid);
    for (const auto& p : part.points) solid.points.push_back(p);
    solid.box = box_of(solid);
    return solid;
}

SolidPart turned_solid(const Part& part, double angle, const SweepNames& names) {
    return Turning(part, angle, names).run();
}

}  // namespace dotsift
