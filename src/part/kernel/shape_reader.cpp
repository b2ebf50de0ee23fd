#include "part/kernel/shape_reader.hpp"

#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Curve.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "part/kernel/library_surfaces.hpp"

namespace dotsift {

namespace {

// Of the shapes' size: an edge that is less sure than this is not believed, since no later step would bring it
// onto its surfaces (the farthest that an edge is moved there is the same).
constexpr double widest_tolerance = 5e-3;

/// Not inside of what it belongs to, with the same on both sides.
bool bounds(TopAbs_Orientation o) {
    return o == TopAbs_FORWARD || o == TopAbs_REVERSED;
}

}  // namespace

void ShapeReader::read(const TopoDS_Shape& shape) {
    for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next()) cells_.Add(e.Current());
    result_.cells.resize(static_cast<std::size_t>(cells_.Extent()));
    for (int c = 1; c <= cells_.Extent() && result_.fault.empty(); ++c) take_cell(c);
}

void ShapeReader::read_surfaces() {
    for (int f = 1; f <= faces_.Extent(); ++f) {
        const TopoDS_Face face = TopoDS::Face(faces_(f).Oriented(TopAbs_FORWARD));
        SurfaceBounds b;
        BRepTools::UVBounds(face, b.low[0], b.high[0], b.low[1], b.high[1]);
        KernelFace& out = result_.faces[static_cast<std::size_t>(f) - 1];
        out.surface = from_library(BRep_Tool::Surface(face), b, scale_);
    }
}

void ShapeReader::fail(std::string why) {
    result_.fault = std::move(why);
}

void ShapeReader::take_cell(int c) {
    for (TopExp_Explorer e(cells_(c), TopAbs_FACE); e.More(); e.Next()) {
        const auto orientation = e.Current().Orientation();
        if (!bounds(orientation)) continue;
        const int known = faces_.Extent(), k = faces_.Add(e.Current());
        if (k > known) take_face(TopoDS::Face(e.Current().Oriented(TopAbs_FORWARD)));
        if (!result_.fault.empty()) return;
        KernelFace& face = result_.faces[static_cast<std::size_t>(k) - 1];
        (orientation == TopAbs_FORWARD ? face.behind : face.before) = c - 1;
    }
}

void ShapeReader::take_face(const TopoDS_Face& face) {
    KernelFace out;
    bool placed = false;
    for (TopExp_Explorer w(face, TopAbs_WIRE); w.More(); w.Next()) {
        std::vector<EdgeUse> loop;
        std::vector<TopoDS_Edge> edges;
        for (TopExp_Explorer e(w.Current(), TopAbs_EDGE); e.More(); e.Next())
            if (bounds(e.Current().Orientation())) edges.push_back(TopoDS::Edge(e.Current()));
        const std::size_t expected = edges.size();
        if (expected > 1) {  // one alone closes itself; it may have no vertex to walk from
            edges.clear();
            for (BRepTools_WireExplorer e(TopoDS::Wire(w.Current()), face); e.More(); e.Next())
                edges.push_back(e.Current());
        }
        for (const TopoDS_Edge& edge : edges) {
            if (BRep_Tool::Degenerated(edge)) continue;
            loop.push_back({edge_index(edge), edge.Orientation() == TopAbs_FORWARD});
            if (!result_.fault.empty()) return;
            if (!placed) placed = place(edge, face, out);
        }
        if (edges.size() != expected) return fail("a face that was cut has an open outline");
        if (!loop.empty()) out.loops.push_back(std::move(loop));
    }
    if (!placed) return fail("a face that was cut has no outline");
    result_.faces.push_back(std::move(out));
}

bool ShapeReader::place(const TopoDS_Edge& edge, const TopoDS_Face& face, KernelFace& out) const {
    Standard_Real first = 0, last = 0;
    const Handle(Geom2d_Curve) curve = BRep_Tool::CurveOnSurface(edge, face, first, last);
    if (curve.IsNull()) return false;
    const gp_Pnt2d middle = curve->Value((first + last) / 2);
    gp_Pnt p;
    gp_Vec u, v;
    BRep_Tool::Surface(face)->D1(middle.X(), middle.Y(), p, u, v);
    const gp_Vec n = u.Crossed(v);
    const double length = n.Magnitude();
    if (!(length > 0)) return false;
    out.at = scale_.out(p);
    out.normal = {{n.X() / length, n.Y() / length, n.Z() / length}};
    return true;
}

int ShapeReader::edge_index(const TopoDS_Edge& edge) {
    const int known = edges_.Extent(), k = edges_.Add(edge);
    if (k == known + 1) {
        TopoDS_Vertex from, to;
        const TopoDS_Edge forward = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
        TopExp::Vertices(forward, from, to);
        Standard_Real first = 0, last = 0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(forward, first, last);
        if (from.IsNull() != to.IsNull() || curve.IsNull()) {
            fail("an edge that was cut has no ends");
            return 0;
        }
        if (BRep_Tool::Tolerance(edge) > widest_tolerance * size_) {
            fail("two surfaces that nearly touch could not be cut");
            return 0;
        }
        SolidEdge out;
        if (from.IsNull()) {  // closed, and nothing else ends on it
            out.start = out.end = static_cast<int>(result_.vertices.size());
            result_.vertices.push_back(scale_.out(curve->Value(first)));
            vertices_.Add(forward);  // keeps the count
        } else {
            out.start = vertex_index(from);
            out.end = vertex_index(to);
        }
        out.curve = from_library(curve, first, last, scale_);
        out.curve.set_ends(result_.vertices[static_cast<std::size_t>(out.start)],
                           result_.vertices[static_cast<std::size_t>(out.end)]);
        result_.edges.push_back(std::move(out));
    }
    return k - 1;
}

int ShapeReader::vertex_index(const TopoDS_Vertex& v) {
    const int known = vertices_.Extent(), k = vertices_.Add(v);
    if (k > known) result_.vertices.push_back(scale_.out(BRep_Tool::Pnt(v)));
    return k - 1;
}

}  // namespace dotsift
