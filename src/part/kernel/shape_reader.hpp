#pragma once
// Solids of the geometry library, read into plain data. Only the module's own files include this.

#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>
#include <string>

#include "part/kernel/library_curves.hpp"
#include "part/kernel/solid_kernel.hpp"

namespace dotsift {

/// Every solid of a shape becomes a cell; what it shares with others is read once. Sources are left to the caller.
class ShapeReader {
  public:
    /// `size`: of the shapes, as the library has them.
    ShapeReader(const LibraryScale& scale, SolidKernelResult& result, double size = 1)
        : scale_(scale), result_(result), size_(size) {}

    void read(const TopoDS_Shape& shape);
    /// Of all faces that were read, as far as each of them goes; none may go round.
    void read_surfaces();
    /// Its number among the result's; -1: it is none of them.
    [[nodiscard]] int cell(const TopoDS_Shape& solid) const { return cells_.FindIndex(solid) - 1; }
    [[nodiscard]] int face(const TopoDS_Shape& face) const { return faces_.FindIndex(face) - 1; }
    [[nodiscard]] const TopoDS_Shape& face(std::size_t number) const { return faces_(static_cast<int>(number) + 1); }

  private:
    void fail(std::string why);
    void take_cell(int c);
    void take_face(const TopoDS_Face& face);
    /// A place on the face and the normal there.
    bool place(const TopoDS_Edge& edge, const TopoDS_Face& face, KernelFace& out) const;
    int edge_index(const TopoDS_Edge& edge);
    int vertex_index(const TopoDS_Vertex& v);

    const LibraryScale& scale_;
    SolidKernelResult& result_;
    double size_;
    TopTools_IndexedMapOfShape cells_, faces_, edges_, vertices_;
};

}  // namespace dotsift
