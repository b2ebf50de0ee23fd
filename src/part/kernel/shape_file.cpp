// Solids from and to files of the geometry library's own text.

#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopoDS_Compound.hxx>
#include <gp_Trsf.hxx>

#include "part/kernel/library_solid.hpp"
#include "part/kernel/shape_reader.hpp"

namespace dotsift {
namespace {

void read_shapes(const char* file, double unit, SolidKernelResult& result, std::vector<int>& numbers) {
    TopoDS_Shape shape;
    if (!BRepTools::Read(shape, file, BRep_Builder()) || shape.IsNull()) {
        result.fault = "the file of shapes could not be read";
        return;
    }
    Bnd_Box box;
    BRepBndLib::Add(shape, box, false);
    const LibraryScale scale{{}, unit};
    ShapeReader reader(scale, result, std::sqrt(box.SquareExtent()));
    reader.read(shape);
    if (!result.fault.empty()) return;
    reader.read_surfaces();
    TopTools_IndexedMapOfShape all;
    TopExp::MapShapes(shape, TopAbs_FACE, all);
    for (std::size_t f = 0; f < result.faces.size(); ++f) numbers.push_back(all.FindIndex(reader.face(f)));
}

std::string write_shapes(const SolidPart& part, double unit, const char* file, std::vector<int>& numbers) {
    const LibraryScale scale{part.box.centre(), part.box.diagonal()};
    const LibrarySolid given = to_library(part, scale);
    if (!given.fault.empty()) return given.fault;
    TopoDS_Compound all;
    BRep_Builder build;
    build.MakeCompound(all);
    for (const auto& body : given.bodies) build.Add(all, body);
    gp_Trsf grow, move;
    grow.SetScale(gp_Pnt(0, 0, 0), scale.size * unit);
    move.SetTranslation(gp_Vec(scale.centre[0] * unit, scale.centre[1] * unit, scale.centre[2] * unit));
    BRepBuilderAPI_Transform placing(all, move * grow, true);
    const TopoDS_Shape& made = placing.Shape();
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(made, TopAbs_FACE, faces);
    for (const auto& f : given.faces) numbers.push_back(faces.FindIndex(placing.ModifiedShape(f)));
    return BRepTools::Write(made, file) ? "" : "the file of shapes could not be written";
}

std::string told(const Standard_Failure& e) {
    return e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry library gave up";
}

}  // namespace
}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) void dotsift_read_shapes(const char* file, double unit,
                                                                           dotsift::SolidKernelResult& result,
                                                                           std::vector<int>& numbers) {
    try {
        dotsift::read_shapes(file, unit, result, numbers);
    } catch (const Standard_Failure& e) {
        result.fault = dotsift::told(e);
    }
}

extern "C" __attribute__((visibility("default"))) void dotsift_write_shapes(const dotsift::SolidPart& part, double unit,
                                                                            const char* file, std::vector<int>& numbers,
                                                                            std::string& fault) {
    try {
        fault = dotsift::write_shapes(part, unit, file, numbers);
    } catch (const Standard_Failure& e) {
        fault = dotsift::told(e);
    }
}
