// Rounds, bevels, walls and inclined faces, with Open CASCADE's modelling libraries.

#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepOffsetAPI_DraftAngle.hxx>
#include <BRepOffsetAPI_MakeThickSolid.hxx>
#include <ShapeBuild_ReShape.hxx>
#include <ShapeUpgrade_ShapeDivideAngle.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <Standard_Failure.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Pln.hxx>
#include <memory>

#include "part/kernel/library_solid.hpp"
#include "part/kernel/shape_reader.hpp"

namespace dotsift {
namespace {

// Faces that go round farther than this are parted: into three, and halves of a sphere.
constexpr double widest_turn = 2.2;
constexpr double wall_tolerance = 1e-6;  // of walls, at a size of one

class Changing {
  public:
    Changing(const SolidPart& part, const LibraryScale& scale, SolidKernelResult& result)
        : part_(part), scale_(scale), result_(result), given_(to_library(part, scale)) {}

    void run(const KernelChange& change) {
        if (!given_.fault.empty()) return fail(given_.fault);
        whole_ = given_.bodies.front();
        make(change);
        const bool again = change.kind == KernelChange::Kind::hollow || change.kind == KernelChange::Kind::taper;
        if (result_.fault.empty() || !again) return;
        result_ = {};
        unify();
        make(change);
    }

  private:
    void make(const KernelChange& change) try {
        switch (change.kind) {
            case KernelChange::Kind::round: {
                BRepFilletAPI_MakeFillet operation(whole_);
                for (const int e : change.edges) operation.Add(change.length / scale_.size, edge(e));
                return finish(operation);
            }
            case KernelChange::Kind::bevel: {
                BRepFilletAPI_MakeChamfer operation(whole_);
                for (const int e : change.edges) operation.Add(change.length / scale_.size, edge(e));
                return finish(operation);
            }
            case KernelChange::Kind::hollow: {
                TopTools_ListOfShape open;
                for (const int f : change.faces)
                    for (const auto& face : unified(f)) open.Append(face);
                BRepOffsetAPI_MakeThickSolid operation;
                operation.MakeThickSolidByJoin(whole_, open, -change.length / scale_.size, wall_tolerance);
                return finish(operation);
            }
            case KernelChange::Kind::remove: {
                BRepAlgoAPI_Defeaturing operation;
                operation.SetShape(whole_);
                for (const int f : change.faces)
                    for (const auto& face : unified(f)) operation.AddFaceToRemove(face);
                operation.SetToFillHistory(true);
                return finish(operation);
            }
            case KernelChange::Kind::taper: {
                BRepOffsetAPI_DraftAngle operation(whole_);
                const gp_Dir along(change.normal[0], change.normal[1], change.normal[2]);
                TopTools_IndexedMapOfShape leaning;
                for (const int f : change.faces)
                    for (const auto& face : unified(f)) leaning.Add(face);
                for (int k = 1; k <= leaning.Extent(); ++k)
                    operation.Add(TopoDS::Face(leaning(k)), along, change.angle, gp_Pln(scale_.in(change.at), along));
                // Its list of modified shapes misses those that the neighbours' new edges changed alone.
                return finish(operation, [&](const TopoDS_Shape& face) {
                    TopTools_ListOfShape one;
                    one.Append(operation.ModifiedShape(face));
                    return one;
                });
            }
        }
    } catch (const Standard_Failure& e) {
        fail(e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry library gave up");
    }

    void fail(std::string why) { result_.fault = std::move(why); }
    [[nodiscard]] const TopoDS_Edge& edge(int e) const { return given_.edges[static_cast<std::size_t>(e)]; }

    /// Pieces of one surface that carry the same names become one face: the library cannot always offset or lean them
    /// alone.
    void unify() {
        unify_ = std::make_unique<ShapeUpgrade_UnifySameDomain>(whole_, true, true, false);
        std::vector<int> face_at(part_.edges.size(), -1);
        for (std::size_t f = 0; f < part_.faces.size(); ++f)
            for (const auto& loop : part_.faces[f].loops)
                for (const auto& use : loop) {
                    int& other = face_at[static_cast<std::size_t>(use.edge)];
                    if (other < 0)
                        other = static_cast<int>(f);
                    else if (part_.face(other).names != part_.faces[f].names)
                        unify_->KeepShape(edge(use.edge));
                }
        unify_->Build();
        whole_ = unify_->Shape();
    }
    [[nodiscard]] TopTools_ListOfShape unified(int face) const {
        const TopoDS_Shape& given = given_.faces[static_cast<std::size_t>(face)];
        TopTools_ListOfShape now;
        if (unify_) now = unify_->History()->Modified(given);
        if (now.IsEmpty()) now.Append(given);
        return now;
    }

    void finish(BRepBuilderAPI_MakeShape& operation) {
        finish(operation, [&](const TopoDS_Shape& face) {
            TopTools_ListOfShape pieces = operation.Modified(face);
            if (pieces.IsEmpty() && !operation.IsDeleted(face)) pieces.Append(face);
            return pieces;
        });
    }

    /// `pieces_of`: what became of a given face.
    template <class PiecesOf>
    void finish(BRepBuilderAPI_MakeShape& operation, PiecesOf pieces_of) {
        operation.Build();
        if (!operation.IsDone()) return fail("the geometry library cannot make it");
        if (!BRepCheck_Analyzer(operation.Shape()).IsValid()) return fail("what it would make crosses itself");
        ShapeUpgrade_ShapeDivideAngle parting(widest_turn, operation.Shape());
        parting.Perform();
        const TopoDS_Shape made = parting.Result().IsNull() ? operation.Shape() : parting.Result();
        ShapeReader reader(scale_, result_);
        reader.read(made);
        if (!result_.fault.empty()) return;
        reader.read_surfaces();
        for (auto& face : result_.faces) face.made = true;
        for (std::size_t f = 0; f < given_.faces.size(); ++f) {
            for (const auto& one : unified(static_cast<int>(f)))
                for (const auto& piece : pieces_of(one)) {
                    TopoDS_Shape now = piece;
                    if (!parting.GetContext().IsNull()) now = parting.GetContext()->Apply(piece);
                    for (TopExp_Explorer e(now, TopAbs_FACE); e.More(); e.Next()) {
                        const int k = reader.face(e.Current());
                        if (k < 0) continue;
                        auto& face = result_.faces[static_cast<std::size_t>(k)];
                        face.made = false;
                        face.sources.push_back({0, static_cast<int>(f)});
                    }
                }
        }
    }

    const SolidPart& part_;
    const LibraryScale& scale_;
    SolidKernelResult& result_;
    LibrarySolid given_;
    TopoDS_Shape whole_;
    std::unique_ptr<ShapeUpgrade_UnifySameDomain> unify_;
};

}  // namespace
}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) void dotsift_solid_change(const dotsift::SolidPart& part,
                                                                            const dotsift::KernelChange& change,
                                                                            const dotsift::Vec3& centre, double size,
                                                                            dotsift::SolidKernelResult& result) {
    try {
        dotsift::Changing(part, {centre, size}, result).run(change);
    } catch (const Standard_Failure& e) {
        result.fault =
            e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : "the geometry kernel failed";
    }
}
