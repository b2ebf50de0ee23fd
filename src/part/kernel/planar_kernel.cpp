// Cutting plane curves where they meet, with Open CASCADE's modelling libraries. The only file that includes them.
//
// Every curve is handed on through the history of the operation, so its pieces are known by their origin.
// Curves are scaled to a size of about one: the library's tolerances are absolute.

#include "part/kernel/planar_kernel.hpp"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <Standard_Failure.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Vertex.hxx>
#include <algorithm>
#include <cmath>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <map>

namespace dotsift {
namespace {

struct Scale {
    Vec2 centre;
    double size;
    [[nodiscard]] gp_Pnt in(const Vec2& p) const { return {(p[0] - centre[0]) / size, (p[1] - centre[1]) / size, 0}; }
    [[nodiscard]] Vec2 out(const gp_Pnt& p) const { return {{p.X() * size + centre[0], p.Y() * size + centre[1]}}; }
};

Handle(Geom_Curve) arc_geometry(const Curve& c, const Scale& scale, double& shift) {
    const Vec2 a = c.axis_a() / scale.size, b = c.axis_b() / scale.size;
    const bool swap = norm(b) > norm(a);
    const Vec2 major = swap ? b : a, minor = swap ? -a : b;
    const double normal = cross(major, minor) > 0 ? 1 : -1;
    const gp_Ax2 axes(scale.in(c.centre()), gp_Dir(0, 0, normal), gp_Dir(major[0], major[1], 0));
    shift = swap ? -M_PI / 2 : 0;
    if (c.circular()) return new Geom_Circle(axes, norm(major));
    return new Geom_Ellipse(axes, norm(major), norm(minor));
}

Handle(Geom_Curve) spline_geometry(const Nurbs& n, const Scale& scale) {
    std::vector<double> knots;
    std::vector<int> times;
    for (const double k : n.knots) {
        if (knots.empty() || k > knots.back()) {
            knots.push_back(k);
            times.push_back(1);
        } else {
            ++times.back();
        }
    }
    TColgp_Array1OfPnt poles(1, static_cast<int>(n.poles.size()));
    TColStd_Array1OfReal weights(1, static_cast<int>(n.poles.size()));
    for (std::size_t i = 0; i < n.poles.size(); ++i) {
        poles.SetValue(static_cast<int>(i) + 1, scale.in(n.poles[i]));
        weights.SetValue(static_cast<int>(i) + 1, n.weights.empty() ? 1.0 : n.weights[i]);
    }
    TColStd_Array1OfReal values(1, static_cast<int>(knots.size()));
    TColStd_Array1OfInteger multiplicities(1, static_cast<int>(knots.size()));
    for (std::size_t i = 0; i < knots.size(); ++i) {
        values.SetValue(static_cast<int>(i) + 1, knots[i]);
        multiplicities.SetValue(static_cast<int>(i) + 1, times[i]);
    }
    if (n.weights.empty()) return new Geom_BSplineCurve(poles, values, multiplicities, n.degree);
    return new Geom_BSplineCurve(poles, weights, values, multiplicities, n.degree);
}

TopoDS_Edge edge_of(const Curve& c, const Scale& scale, const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    if (c.straight()) return BRepBuilderAPI_MakeEdge(from, to);
    double shift = 0;
    const Handle(Geom_Curve) geometry =
        c.kind() == Curve::Kind::arc ? arc_geometry(c, scale, shift) : spline_geometry(c.nurbs(), scale);
    double first = c.from_angle() + shift, last = c.to_angle() + shift;
    const bool backwards = last < first;
    if (backwards) std::swap(first, last);
    return BRepBuilderAPI_MakeEdge(geometry, backwards ? to : from, backwards ? from : to, first, last);
}

void run(const std::vector<Curve>& curves, const Scale& scale, KernelResult& result) {
    std::map<std::array<double, 2>, TopoDS_Vertex> vertex_at;
    const auto vertex = [&](const Vec2& p) {
        auto& v = vertex_at[p.c];
        if (v.IsNull()) v = BRepBuilderAPI_MakeVertex(scale.in(p));
        return v;
    };
    TopTools_ListOfShape arguments;
    std::vector<TopoDS_Edge> edges;
    for (std::size_t i = 0; i < curves.size(); ++i) {
        edges.push_back(edge_of(curves[i], scale, vertex(curves[i].start()), vertex(curves[i].end())));
        if (edges.back().IsNull()) {
            result.fault = "a curve could not be handed over";
            return;
        }
        arguments.Append(edges.back());
    }
    BRepAlgoAPI_BuilderAlgo operation;
    operation.SetArguments(arguments);
    operation.SetRunParallel(false);
    operation.SetNonDestructive(true);
    operation.Build();
    if (!operation.IsDone() || operation.HasErrors()) {
        result.fault = "curves that meet could not be cut";
        return;
    }
    TopTools_IndexedMapOfShape pieces, vertices;
    std::vector<std::vector<int>> origin;
    for (std::size_t i = 0; i < edges.size(); ++i) {
        TopTools_ListOfShape list = operation.Modified(edges[i]);  // a copy: the library reuses its list
        if (list.IsEmpty() && !operation.IsDeleted(edges[i])) list.Append(edges[i]);
        for (const auto& piece : list) {
            const auto k = static_cast<std::size_t>(pieces.Add(piece));
            origin.resize(std::max(origin.size(), k));
            origin[k - 1].push_back(static_cast<int>(i));
        }
    }
    // A vertex stands where the first of its curves ends; the others end there up to the tolerance of the operation.
    const auto vertex_index = [&](const TopoDS_Vertex& v, const gp_Pnt& at) {
        const int before = vertices.Extent(), k = vertices.Add(v);
        if (k > before) result.vertices.push_back(scale.out(at));
        return k - 1;
    };
    for (int k = 1; k <= pieces.Extent(); ++k) {
        const TopoDS_Edge edge = TopoDS::Edge(pieces(k).Oriented(TopAbs_FORWARD));
        TopoDS_Vertex from, to;
        TopExp::Vertices(edge, from, to);
        if (from.IsNull() || to.IsNull()) {
            result.fault = "a piece of a curve has no ends";
            return;
        }
        const BRepAdaptor_Curve curve(edge);
        KernelPiece piece;
        piece.start = vertex_index(from, curve.Value(curve.FirstParameter()));
        piece.end = vertex_index(to, curve.Value(curve.LastParameter()));
        piece.middle = scale.out(curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter())));
        piece.curves = origin[static_cast<std::size_t>(k) - 1];
        result.pieces.push_back(std::move(piece));
    }
}

}  // namespace
}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) void dotsift_planar_kernel(const std::vector<dotsift::Curve>& curves,
                                                                             const dotsift::Vec2& centre, double size,
                                                                             dotsift::KernelResult& result) {
    try {
        dotsift::run(curves, {centre, size}, result);
    } catch (const Standard_Failure& e) {
        result.fault =
            e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry kernel failed";
    }
}
