// Plane booleans with Open CASCADE's modelling libraries. The only file that includes them.
//
// Names survive because every input edge carries a label that is handed on through the history of each operation.
// Shapes are scaled to a size of about one: the library's tolerances are absolute.

#include "part/kernel/planar_kernel.hpp"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>

#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <algorithm>
#include <cmath>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <gp_Pln.hxx>

namespace dotsift {
namespace {

/// Edges with their labels; looked up by identity of the edge, whatever its orientation.
class Labels {
  public:
    void add(const TopoDS_Shape& edge, const std::vector<int>& labels) {
        const int i = index_.Add(edge);
        if (static_cast<std::size_t>(i) > labels_.size()) labels_.resize(static_cast<std::size_t>(i));
        auto& list = labels_[static_cast<std::size_t>(i - 1)];
        for (int l : labels)
            if (std::find(list.begin(), list.end(), l) == list.end()) list.push_back(l);
    }
    [[nodiscard]] std::vector<int> of(const TopoDS_Shape& edge) const {
        const int i = index_.FindIndex(edge);
        return i > 0 ? labels_[static_cast<std::size_t>(i - 1)] : std::vector<int>{};
    }
    /// The labels after an operation that has Modified and IsRemoved / IsDeleted.
    template <class ModifiedOf, class Deleted>
    [[nodiscard]] Labels after(ModifiedOf modified, Deleted deleted) const {
        Labels result;
        for (int i = 1; i <= index_.Extent(); ++i) {
            const TopTools_ListOfShape list = modified(index_(i));  // a copy: the library reuses its list
            const auto& labels = labels_[static_cast<std::size_t>(i - 1)];
            if (list.IsEmpty()) {
                if (!deleted(index_(i))) result.add(index_(i), labels);
            } else {
                for (const auto& shape : list) result.add(shape, labels);
            }
        }
        return result;
    }

  private:
    TopTools_IndexedMapOfShape index_;
    std::vector<std::vector<int>> labels_;
};

struct Scale {
    Vec2 centre;
    double size;
    [[nodiscard]] gp_Pnt in(const Vec2& p) const { return {(p[0] - centre[0]) / size, (p[1] - centre[1]) / size, 0}; }
    [[nodiscard]] Vec2 out(const gp_Pnt& p) const { return {{p.X() * size + centre[0], p.Y() * size + centre[1]}}; }
};

TopoDS_Edge edge_of(const Curve& c, const Scale& scale, const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    if (c.kind() == Curve::Kind::line) return BRepBuilderAPI_MakeEdge(from, to);
    const Vec2 a = c.axis_a() / scale.size, b = c.axis_b() / scale.size;
    const bool swap = norm(b) > norm(a);
    const Vec2 major = swap ? b : a, minor = swap ? -a : b;
    const double normal = cross(major, minor) > 0 ? 1 : -1;
    const gp_Ax2 axes(scale.in(c.centre()), gp_Dir(0, 0, normal), gp_Dir(major[0], major[1], 0));
    const double shift = swap ? -M_PI / 2 : 0;
    double first = c.from_angle() + shift, last = c.to_angle() + shift;
    const bool backwards = last < first;
    if (backwards) std::swap(first, last);
    Handle(Geom_Curve) geometry;
    if (norm(major) == norm(minor))
        geometry = new Geom_Circle(axes, norm(major));
    else
        geometry = new Geom_Ellipse(axes, norm(major), norm(minor));
    const TopoDS_Edge edge =
        BRepBuilderAPI_MakeEdge(geometry, backwards ? to : from, backwards ? from : to, first, last);
    return backwards ? TopoDS::Edge(edge.Reversed()) : edge;
}

TopoDS_Face face_of(const LabelledLoop& loop, const Scale& scale, Labels& labels) {
    std::vector<TopoDS_Vertex> vertices;
    for (const auto& c : loop.curves) vertices.push_back(BRepBuilderAPI_MakeVertex(scale.in(c.start())));
    BRepBuilderAPI_MakeWire wire;
    for (std::size_t i = 0; i < loop.curves.size(); ++i)
        wire.Add(edge_of(loop.curves[i], scale, vertices[i], vertices[(i + 1) % vertices.size()]));
    TopoDS_Face face = BRepBuilderAPI_MakeFace(gp_Pln(gp::XOY()), wire.Wire(), true);
    BRepTools_WireExplorer walk(BRepTools::OuterWire(face));
    // The builder may have rebuilt the edges: find each label again by the middle of its curve.
    for (; walk.More(); walk.Next()) {
        const BRepAdaptor_Curve curve(walk.Current());
        const Vec2 middle = scale.out(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2));
        std::size_t best = 0;
        for (std::size_t i = 1; i < loop.curves.size(); ++i)
            if (distance(loop.curves[i].point(0.5), middle) < distance(loop.curves[best].point(0.5), middle)) best = i;
        labels.add(walk.Current(), {loop.labels[best]});
    }
    return face;
}

KernelEdge out_edge(const TopoDS_Edge& edge, const Scale& scale, const Labels& labels) {
    const BRepAdaptor_Curve curve(edge);
    double first = curve.FirstParameter(), last = curve.LastParameter();
    if (edge.Orientation() == TopAbs_REVERSED) std::swap(first, last);
    KernelEdge out;
    for (std::size_t k = 1; k <= 3; ++k)
        out.points[k] = scale.out(curve.Value(first + (last - first) * static_cast<double>(k) / 4));
    out.points[0] = scale.out(curve.Value(first));
    out.points[4] = scale.out(curve.Value(last));
    out.labels = labels.of(edge);
    return out;
}

void run(const std::vector<LabelledLoop>& loops, KernelResult& result) {
    Box2 box;
    for (const auto& l : loops)
        for (const auto& c : l.curves) box.add(c.box());
    const Scale scale{box.centre(), box.diagonal()};
    Labels labels;
    TopoDS_Shape body = face_of(loops.front(), scale, labels);
    for (std::size_t i = 1; i < loops.size(); ++i) {
        const TopoDS_Face tool = face_of(loops[i], scale, labels);
        BRepAlgoAPI_Fuse fuse;
        BRepAlgoAPI_Cut cut;
        BRepAlgoAPI_BooleanOperation& operation = loops[i].add ? static_cast<BRepAlgoAPI_BooleanOperation&>(fuse)
                                                               : static_cast<BRepAlgoAPI_BooleanOperation&>(cut);
        TopTools_ListOfShape arguments, tools;
        arguments.Append(body);
        tools.Append(tool);
        operation.SetArguments(arguments);
        operation.SetTools(tools);
        operation.SetRunParallel(false);
        operation.Build();
        if (!operation.IsDone() || operation.HasErrors()) {
            result.fault = "shape " + std::to_string(i + 1) + " cannot be combined with those before it";
            return;
        }
        labels = labels.after([&](const TopoDS_Shape& s) { return operation.Modified(s); },
                              [&](const TopoDS_Shape& s) { return operation.IsDeleted(s); });
        body = operation.Shape();
        if (loops[i].add) {
            ShapeUpgrade_UnifySameDomain unify(body, false, true, false);
            unify.Build();
            const auto history = unify.History();
            labels = labels.after([&](const TopoDS_Shape& s) { return history->Modified(s); },
                                  [&](const TopoDS_Shape& s) { return history->IsRemoved(s); });
            body = unify.Shape();
        }
    }
    for (TopExp_Explorer f(body, TopAbs_FACE); f.More(); f.Next()) {
        const TopoDS_Face face = TopoDS::Face(f.Current().Oriented(TopAbs_FORWARD));
        const TopoDS_Wire outer = BRepTools::OuterWire(face);
        std::vector<std::vector<KernelEdge>> out;
        for (TopExp_Explorer w(face, TopAbs_WIRE); w.More(); w.Next()) {
            std::vector<KernelEdge> chain;
            for (BRepTools_WireExplorer e(TopoDS::Wire(w.Current()), face); e.More(); e.Next())
                chain.push_back(out_edge(e.Current(), scale, labels));
            out.push_back(std::move(chain));
            if (w.Current().IsSame(outer)) std::rotate(out.begin(), out.end() - 1, out.end());
        }
        result.faces.push_back(std::move(out));
    }
}

}  // namespace
}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) void dotsift_planar_kernel(
    const std::vector<dotsift::LabelledLoop>& loops, dotsift::KernelResult& result) {
    try {
        dotsift::run(loops, result);
    } catch (const Standard_Failure& e) {
        result.fault =
            e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry kernel failed";
    }
}
