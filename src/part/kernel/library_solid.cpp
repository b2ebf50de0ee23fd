#include "part/kernel/library_solid.hpp"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepLib.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Plane.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <ShapeFix_Edge.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Wire.hxx>
#include <algorithm>
#include <cmath>
#include <gp_Vec2d.hxx>
#include <numbers>

#include "part/kernel/library_surfaces.hpp"

namespace dotsift {

namespace {

// Of a length beside it: a difference smaller than this is rounding.
constexpr double rounding_share = 1e-9;
// Of a turn in parameters: ends of curves on a surface that are farther apart leave a pole between them.
constexpr double pole_gap = 1e-6;
constexpr double tolerance = 1e-7;  // the library's own, at a size of one

class SolidMaker {
  public:
    SolidMaker(const SolidPart& part, const LibraryScale& scale) : part_(part), scale_(scale) {}

    LibrarySolid run() {
        for (const Vec3& v : part_.vertices) vertices_.push_back(BRepBuilderAPI_MakeVertex(scale_.in(v)));
        for (const auto& e : part_.edges) edges_.push_back(edge_of(e));
        for (const auto& f : part_.faces) out_.faces.push_back(face_of(f));
        const bool splines = std::any_of(part_.faces.begin(), part_.faces.end(),
                                         [](const SolidFace& f) { return f.surface.kind() == Surface::Kind::spline; });
        for (std::size_t b = 0; b < part_.bodies.size() && out_.fault.empty(); ++b) {
            out_.bodies.push_back(body(static_cast<int>(b)));
            if (splines) take_tolerances(out_.bodies.back());
        }
        out_.edges = std::move(edges_);
        return std::move(out_);
    }

  private:
    TopoDS_Edge edge_of(const SolidEdge& e) {
        const auto &from = vertices_[static_cast<std::size_t>(e.start)],
                   &to = vertices_[static_cast<std::size_t>(e.end)];
        if (e.curve.straight()) return BRepBuilderAPI_MakeEdge(from, to);
        const auto [geometry, first, last] = to_library(e.curve, scale_);
        if (geometry.IsNull()) {
            out_.fault = "a chain of curves could not be handed over";
            return {};
        }
        const bool backwards = last < first;
        const TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(geometry, backwards ? to : from, backwards ? from : to,
                                                         std::min(first, last), std::max(first, last));
        return backwards ? TopoDS::Edge(edge.Reversed()) : edge;
    }

    /// Edges of spline surfaces lie on them as nearly as the library once made them.
    static void take_tolerances(const TopoDS_Solid& solid) {
        BRepLib::SameParameter(solid, tolerance, true);
        BRepLib::UpdateTolerances(solid);
    }

    [[nodiscard]] Vec3 middle_of(const SolidFace& face) const {
        Vec3 sum;
        double count = 0;
        for (const EdgeUse& use : face.loops.front()) {
            sum += part_.edge(use.edge).curve.point(0.5);
            ++count;
        }
        return sum / count;
    }

    TopoDS_Face face_of(const SolidFace& face) {
        BRep_Builder build;
        TopoDS_Face made;
        const Handle(Geom_Surface) surface = to_library(face.surface, middle_of(face), scale_);
        build.MakeFace(made, surface, tolerance);
        const bool flat = !Handle(Geom_Plane)::DownCast(surface).IsNull();
        if (!Handle(Geom_ToroidalSurface)::DownCast(surface).IsNull()) {
            const Vec2 d = face.surface.profile().point(0.5) - face.surface.profile().centre();
            section_ = std::atan2(d[1], d[0]);
            if (section_ < 0) section_ += 2 * std::numbers::pi;
        }
        const bool same = same_side(face, made, flat);
        same_.push_back(same);
        for (const auto& loop : face.loops) {
            std::vector<TopoDS_Edge> uses;
            for (std::size_t k = 0; k < loop.size(); ++k) {
                const EdgeUse& use = loop[same ? k : loop.size() - 1 - k];
                const TopoDS_Edge& edge = edges_[static_cast<std::size_t>(use.edge)];
                if (edge.IsNull()) return made;
                uses.push_back(use.forward == same ? edge : TopoDS::Edge(edge.Reversed()));
                if (!flat) add_curve_on(edge, made);
            }
            // With a pole at its end the library takes a wire to run the other way.
            if (!flat && pole_between(uses.back(), uses.front(), made))
                std::rotate(uses.begin(), uses.begin() + 1, uses.end());
            TopoDS_Wire wire;
            build.MakeWire(wire);
            for (std::size_t k = 0; k < uses.size(); ++k) {
                build.Add(wire, uses[k]);
                if (!flat) add_pole(uses[k], uses[(k + 1) % uses.size()], made, wire);
            }
            wire.Closed(true);
            build.Add(made, wire);
        }
        return made;
    }

    void add_curve_on(const TopoDS_Edge& edge, const TopoDS_Face& face) {
        Standard_Real first = 0, last = 0;
        const TopoDS_Edge forward = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
        if (!BRep_Tool::CurveOnSurface(forward, face, first, last).IsNull()) return;
        const auto ring = Handle(Geom_ToroidalSurface)::DownCast(BRep_Tool::Surface(face));
        if (!ring.IsNull() && add_line_on(forward, face, *ring)) return;
        ShapeFix_Edge().FixAddPCurve(forward, face, false);
    }

    /// On a ring, which has seams both ways: circles round its axis and its section are lines in its parameters. The
    /// angle round the section counts from the middle of the face's profile, so that it crosses no seam. Nothing is
    /// done for other curves.
    bool add_line_on(const TopoDS_Edge& edge, const TopoDS_Face& face, const Geom_ToroidalSurface& ring) const {
        Standard_Real first = 0, last = 0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
        if (Handle(Geom_Circle)::DownCast(curve).IsNull()) return false;
        const gp_Ax3 axes = ring.Position();
        const auto at = [&](double t) {
            const gp_Vec d(axes.Location(), curve->Value(t));
            const double x = d.Dot(gp_Vec(axes.XDirection())), y = d.Dot(gp_Vec(axes.YDirection()));
            const double u = std::atan2(y, x);
            double v = std::atan2(d.Dot(gp_Vec(axes.Direction())), std::hypot(x, y) - ring.MajorRadius());
            v += 2 * std::numbers::pi * std::round((section_ - v) / (2 * std::numbers::pi));
            return gp_Pnt2d(u < 0 ? u + 2 * std::numbers::pi : u, v);
        };
        const gp_Pnt2d from = at(first), middle = at((first + last) / 2), to = at(last);
        const double half = (last - first) / 2;
        const auto runs = [&](double a, double b, double c) {  // evenly, as fast as the circle's own angle
            return std::fabs(std::fabs(b - a) - half) < rounding_share && std::fabs(c - b - (b - a)) < rounding_share;
        };
        const auto stays = [&](double a, double b, double c) {
            return std::fabs(b - a) < rounding_share && std::fabs(c - a) < rounding_share;
        };
        gp_Dir2d along(1, 0);
        if (runs(from.X(), middle.X(), to.X()) && stays(from.Y(), middle.Y(), to.Y()))
            along = gp_Dir2d(middle.X() - from.X(), 0);
        else if (stays(from.X(), middle.X(), to.X()) && runs(from.Y(), middle.Y(), to.Y()))
            along = gp_Dir2d(0, middle.Y() - from.Y());
        else
            return false;
        const gp_Pnt2d origin = from.Translated(gp_Vec2d(along) * -first);
        BRep_Builder().UpdateEdge(edge, new Geom2d_Line(origin, along), face, tolerance);
        return true;
    }

    /// Where an edge ends, or begins, in the parameters of a face.
    static gp_Pnt2d end_on(const TopoDS_Edge& e, const TopoDS_Face& face, bool at_end) {
        Standard_Real first = 0, last = 0;
        const auto curve = BRep_Tool::CurveOnSurface(TopoDS::Edge(e.Oriented(TopAbs_FORWARD)), face, first, last);
        if (curve.IsNull()) return {};
        return curve->Value((e.Orientation() == TopAbs_FORWARD) == at_end ? last : first);
    }
    static bool pole_between(const TopoDS_Edge& a, const TopoDS_Edge& b, const TopoDS_Face& face) {
        return end_on(a, face, true).Distance(end_on(b, face, false)) >= pole_gap;
    }

    /// The library wants an edge without length where two others meet at a pole.
    void add_pole(const TopoDS_Edge& a, const TopoDS_Edge& b, const TopoDS_Face& face, TopoDS_Wire& wire) {
        if (!pole_between(a, b, face)) return;
        const gp_Pnt2d from = end_on(a, face, true), to = end_on(b, face, false);
        const double gap = from.Distance(to);
        BRep_Builder build;
        TopoDS_Edge pole;
        build.MakeEdge(pole);
        build.UpdateEdge(pole, new Geom2d_Line(from, gp_Dir2d(gp_Vec2d(from, to))), face, tolerance);
        const TopoDS_Vertex vertex = TopExp::LastVertex(a, true);
        build.Add(pole, vertex.Oriented(TopAbs_FORWARD));
        build.Add(pole, vertex.Oriented(TopAbs_REVERSED));
        build.Range(pole, 0, gap);
        build.Degenerated(pole, true);
        build.Add(wire, pole);
    }

    /// Whether the library's normal is ours.
    [[nodiscard]] bool same_side(const SolidFace& face, const TopoDS_Face& made, bool flat) {
        const auto& use = face.loops.front().front();
        const Vec3 at = part_.edge(use.edge).curve.point(0.5);
        const Vec3 ours = face.surface.normal(face.surface.project(at));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(made);
        gp_Pnt p;
        gp_Vec u, v;
        double s = 0, t = 0;
        if (!flat) {
            const TopoDS_Edge& edge = edges_[static_cast<std::size_t>(use.edge)];
            if (edge.IsNull()) return true;
            add_curve_on(edge, made);
            Standard_Real first = 0, last = 0;
            const auto curve =
                BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)), made, first, last);
            if (curve.IsNull()) {
                out_.fault = "an edge could not be laid on its surface";
                return true;
            }
            const gp_Pnt2d middle = curve->Value((first + last) / 2);
            s = middle.X();
            t = middle.Y();
        }
        surface->D1(s, t, p, u, v);
        const gp_Vec n = u.Crossed(v);
        return n.X() * ours[0] + n.Y() * ours[1] + n.Z() * ours[2] > 0;
    }

    TopoDS_Solid body(int b) {
        BRep_Builder build;
        TopoDS_Solid solid;
        build.MakeSolid(solid);
        // Faces that hang together by their edges make one shell.
        std::vector<int> shell_of_edge(part_.edges.size(), -1), parent;
        const auto root = [&](int s) {
            while (parent[static_cast<std::size_t>(s)] != s) s = parent[static_cast<std::size_t>(s)];
            return s;
        };
        std::vector<std::pair<std::size_t, int>> of_body;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            const auto& face = part_.faces[f];
            if ((face.behind == b) == (face.before == b)) continue;
            const int own = static_cast<int>(parent.size());
            parent.push_back(own);
            of_body.emplace_back(f, own);
            for (const auto& loop : face.loops)
                for (const auto& use : loop) {
                    int& shell = shell_of_edge[static_cast<std::size_t>(use.edge)];
                    if (shell < 0) shell = own;
                    parent[static_cast<std::size_t>(root(own))] = root(shell);
                }
        }
        std::vector<TopoDS_Shell> shells(parent.size());
        for (const auto& [f, own] : of_body) {
            auto& shell = shells[static_cast<std::size_t>(root(own))];
            if (shell.IsNull()) build.MakeShell(shell);
            const bool outward = same_[f] == (part_.faces[f].behind == b);
            build.Add(shell, outward ? out_.faces[f] : out_.faces[f].Reversed());
        }
        for (auto& shell : shells) {
            if (shell.IsNull()) continue;
            shell.Closed(true);
            build.Add(solid, shell);
        }
        return solid;
    }

    const SolidPart& part_;
    const LibraryScale& scale_;
    LibrarySolid out_;
    std::vector<TopoDS_Vertex> vertices_;
    std::vector<TopoDS_Edge> edges_;
    std::vector<bool> same_;  ///< the library's normal of a face is ours
    double section_ = 0;      ///< of a ring: the angle round its section in the middle of the face at work
};

}  // namespace

LibrarySolid to_library(const SolidPart& part, const LibraryScale& scale) {
    return SolidMaker(part, scale).run();
}

}  // namespace dotsift
