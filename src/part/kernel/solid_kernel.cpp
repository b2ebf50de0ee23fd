// Cutting solids where they meet, with Open CASCADE's modelling libraries.

#include "part/kernel/solid_kernel.hpp"

#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <Standard_Failure.hxx>
#include <TopTools_ListOfShape.hxx>

#include "part/kernel/library_solid.hpp"
#include "part/kernel/shape_reader.hpp"

namespace dotsift {
namespace {

class Cutting {
  public:
    Cutting(const LibraryScale& scale, SolidKernelResult& result) : scale_(scale), result_(result) {}

    void run(const std::vector<SolidPart>& solids) {
        TopTools_ListOfShape arguments;
        std::vector<LibrarySolid> given;
        for (std::size_t s = 0; s < solids.size(); ++s) {
            given.push_back(to_library(solids[s], scale_));
            if (!given.back().fault.empty()) return fail(given.back().fault, static_cast<int>(s));
            for (const auto& body : given.back().bodies) arguments.Append(body);
        }
        BRepAlgoAPI_BuilderAlgo operation;
        operation.SetArguments(arguments);
        operation.SetRunParallel(false);
        operation.SetNonDestructive(true);
        operation.Build();
        if (!operation.IsDone() || operation.HasErrors()) return fail("solids that meet could not be cut");
        ShapeReader reader(scale_, result_);
        reader.read(operation.Shape());
        if (!result_.fault.empty()) return;
        for (std::size_t s = 0; s < given.size(); ++s) {
            for (std::size_t b = 0; b < given[s].bodies.size(); ++b)
                for (const auto& piece : pieces_of(operation, given[s].bodies[b]))
                    if (const int c = reader.cell(piece); c >= 0)
                        result_.cells[static_cast<std::size_t>(c)].bodies.push_back(source(s, b));
            for (std::size_t f = 0; f < given[s].faces.size(); ++f)
                for (const auto& piece : pieces_of(operation, given[s].faces[f]))
                    if (const int k = reader.face(piece); k >= 0)
                        result_.faces[static_cast<std::size_t>(k)].sources.push_back(source(s, f));
        }
    }

  private:
    void fail(std::string why, int solid = -1) {
        result_.fault = std::move(why);
        result_.solid = solid;
    }

    static KernelSource source(std::size_t solid, std::size_t item) {
        return {static_cast<int>(solid), static_cast<int>(item)};
    }

    static TopTools_ListOfShape pieces_of(BRepAlgoAPI_BuilderAlgo& operation, const TopoDS_Shape& shape) {
        TopTools_ListOfShape list = operation.Modified(shape);  // a copy: the library reuses its list
        if (list.IsEmpty() && !operation.IsDeleted(shape)) list.Append(shape);
        return list;
    }

    const LibraryScale& scale_;
    SolidKernelResult& result_;
};

}  // namespace
}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) void dotsift_solid_kernel(
    const std::vector<dotsift::SolidPart>& solids, const dotsift::Vec3& centre, double size,
    dotsift::SolidKernelResult& result) {
    try {
        dotsift::Cutting({centre, size}, result).run(solids);
    } catch (const Standard_Failure& e) {
        result.fault =
            e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry kernel failed";
    }
}
