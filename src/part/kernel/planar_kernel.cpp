// Cutting plane curves where they meet, with Open CASCADE's modelling libraries.
//
// Every curve is handed on through the history of the operation, so its pieces are known by their origin.
// Curves are scaled to a size of about one: the library's tolerances are absolute.

#include "part/kernel/planar_kernel.hpp"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Vertex.hxx>
#include <algorithm>
#include <map>

#include "part/kernel/library_curves.hpp"

namespace dotsift {
namespace {

TopoDS_Edge edge_of(const Curve& c, const LibraryScale& scale, const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    if (c.straight()) return BRepBuilderAPI_MakeEdge(from, to);
    const auto [geometry, first, last] = to_library(c, scale);
    const bool backwards = last < first;
    return BRepBuilderAPI_MakeEdge(geometry, backwards ? to : from, backwards ? from : to, std::min(first, last),
                                   std::max(first, last));
}

void run(const std::vector<Curve>& curves, const LibraryScale& scale, KernelResult& result) {
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
        if (k > before) result.vertices.push_back(in_plane(scale.out(at)));
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
        piece.middle = in_plane(scale.out(curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))));
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
        dotsift::run(curves, {dotsift::in_space(centre), size}, result);
    } catch (const Standard_Failure& e) {
        result.fault =
            e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry kernel failed";
    }
}
