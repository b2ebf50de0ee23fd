// Reads and writes files of solids with Open CASCADE's exchange libraries. A program of its own: damaged files can make
// these libraries crash, hang or take all memory, and then only this ends.
//
//     dotsift-models read FILE OUT MEGABYTES SECONDS     a STEP file, or the library's own text -> OUT.shape, OUT.told
//     dotsift-models write OUT FILE                      OUT.shape, OUT.told -> a STEP file, in millimetres
//
// OUT.shape is the library's own text of solids without faces that go round. OUT.told has one line for each thing that
// is to be told: "face NUMBER NAME", "solid NUMBER NAME", "unit METRES" (the file's; the shape of a file that has one
// is in millimetres), "note TEXT"; numbers count from 1.

#include <sys/prctl.h>
#include <sys/resource.h>

#include <APIHeaderSection_MakeHeader.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepLib.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <Interface_CheckIterator.hxx>
#include <Interface_InterfaceModel.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPConstruct.hxx>
#include <STEPControl_Controller.hxx>
#include <STEPControl_Reader.hxx>
#include <STEPControl_Writer.hxx>
#include <ShapeAnalysis_ShapeTolerance.hxx>
#include <ShapeBuild_ReShape.hxx>
#include <ShapeUpgrade_ShapeDivideAngle.hxx>
#include <Standard_Failure.hxx>
#include <StepData_StepModel.hxx>
#include <StepRepr_RepresentationItem.hxx>
#include <StepShape_Face.hxx>
#include <TColStd_SequenceOfAsciiString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopLoc_Location.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TransferBRep.hxx>
#include <Transfer_FinderProcess.hxx>
#include <Transfer_TransientProcess.hxx>
#include <XSControl_TransferReader.hxx>
#include <XSControl_TransferWriter.hxx>
#include <XSControl_WorkSession.hxx>
#include <algorithm>
#include <cctype>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <map>
#include <string>
#include <vector>

namespace {

constexpr double widest_turn = 2.2;  // faces that go round farther are parted: into three, and halves of a sphere
constexpr double sewn_share = 1e-5;  // of the size: gaps as wide as this are sewn
constexpr double told_share = 1e-6;  // and those wider than this are told
constexpr int few_loops = 50;        // of one face: so many are compared with each other

struct Fault {
    std::string text;
};

void limit(int what, double most) {
    const auto n = static_cast<rlim_t>(most);
    const rlimit both{n, n};
    ::setrlimit(static_cast<__rlimit_resource>(what), &both);
}

std::string beginning_of(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    std::string text(256, '\0');
    in.read(text.data(), static_cast<std::streamsize>(text.size()));
    text.resize(static_cast<std::size_t>(in.gcount()));
    return text;
}

/// What a file holds: its shape, the names of its solids and faces, and its unit.
struct Model {
    TopoDS_Shape shape;
    std::vector<std::pair<TopoDS_Shape, std::string>> names;
    double metres = 0;  ///< in one of its units; 0: it says none
    std::vector<std::string> notes;
};

std::string name_of(const StepRepr_RepresentationItem& item) {
    if (item.Name().IsNull()) return {};
    std::string name = item.Name()->ToCString();
    for (char& c : name)
        if (static_cast<unsigned char>(c) < ' ') c = ' ';
    return name == "NONE" ? std::string() : name;
}

double metres_of(std::string unit) {
    for (char& c : unit) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    static const std::map<std::string, double> known{{"metre", 1},          {"meter", 1},         {"millimetre", 0.001},
                                                     {"millimeter", 0.001}, {"centimetre", 0.01}, {"centimeter", 0.01},
                                                     {"kilometre", 1000},   {"kilometer", 1000},  {"micrometre", 1e-6},
                                                     {"micrometer", 1e-6},  {"inch", 0.0254},     {"foot", 0.3048}};
    const auto found = known.find(unit);
    return found == known.end() ? 0 : found->second;
}

/// The most loops that one of the file's faces has.
int most_loops_in(const Interface_InterfaceModel& model) {
    int most = 0;
    for (int k = 1; k <= model.NbEntities(); ++k)
        if (const auto face = Handle(StepShape_Face)::DownCast(model.Value(k)); !face.IsNull())
            most = std::max(most, face->NbBounds());
    return most;
}

int most_loops_in(const TopoDS_Shape& shape) {
    int most = 0;
    for (TopExp_Explorer face(shape, TopAbs_FACE); face.More(); face.Next()) {
        int loops = 0;
        for (TopExp_Explorer wire(face.Current(), TopAbs_WIRE); wire.More(); wire.Next()) ++loops;
        most = std::max(most, loops);
    }
    return most;
}

/// The library compares every loop of a face with every other one, three times over while it reads. Of faces with very
/// many it is told not to; the core judges every solid by itself anyway. `folder`: for the file by which it is told.
void leave_loops_alone(const std::string& folder) {
    std::ofstream(folder + "/STEP") << "FromSTEP.exec.op: FixShape\n"
                                       "FromSTEP.FixShape.Tolerance3d: &Runtime.Tolerance\n"
                                       "FromSTEP.FixShape.MaxTolerance3d: &Runtime.MaxTolerance\n"
                                       "FromSTEP.FixShape.FixSelfIntersectionMode: 0\n"
                                       "FromSTEP.FixShape.FixOrientationMode: 0\n"
                                       "FromSTEP.FixShape.FixIntersectingWiresMode: 0\n";
    ::setenv("CSF_STEPDefaults", folder.c_str(), 1);
}

Model read_step(const std::string& file, const std::string& folder) {
    STEPControl_Controller::Init();
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    STEPControl_Reader reader;
    if (reader.ReadFile(file.c_str()) != IFSelect_RetDone) throw Fault{"it is no sound STEP file"};
    Interface_CheckIterator checks = reader.WS()->ModelCheckList();
    for (checks.Start(); checks.More(); checks.Next())
        if (checks.Value()->NbFails() > 0)
            throw Fault{"entity " + std::to_string(checks.Number()) + " is faulty: " + checks.Value()->CFail(1)};
    if (most_loops_in(*reader.WS()->Model()) > few_loops) leave_loops_alone(folder);
    TColStd_SequenceOfAsciiString lengths, angles, solid_angles;
    reader.FileUnits(lengths, angles, solid_angles);
    Model out;
    if (lengths.Length() > 0) out.metres = metres_of(lengths.First().ToCString());
    if (reader.TransferRoots() == 0 || reader.NbShapes() == 0) throw Fault{"it holds no shape"};
    out.shape = reader.OneShape();
    const Handle(Transfer_TransientProcess) process = reader.WS()->TransferReader()->TransientProcess();
    const Handle(Interface_InterfaceModel) model = reader.WS()->Model();
    for (int k = 1; k <= model->NbEntities(); ++k) {
        const auto item = Handle(StepRepr_RepresentationItem)::DownCast(model->Value(k));
        if (item.IsNull()) continue;
        const std::string name = name_of(*item);
        if (name.empty()) continue;
        const TopoDS_Shape shape = TransferBRep::ShapeResult(process, item);
        if (!shape.IsNull() && (shape.ShapeType() == TopAbs_SOLID || shape.ShapeType() == TopAbs_FACE))
            out.names.emplace_back(shape, name);
    }
    return out;
}

Model read_own(const std::string& file) {
    Model out;
    if (!BRepTools::Read(out.shape, file.c_str(), BRep_Builder()) || out.shape.IsNull())
        throw Fault{"it is no sound file of shapes"};
    return out;
}

double size_of(const TopoDS_Shape& shape) {
    Bnd_Box box;
    BRepBndLib::Add(shape, box, false);
    if (box.IsVoid()) throw Fault{"it holds no surface"};
    return std::sqrt(box.SquareExtent());
}

/// Solids as they are; what is left of faces is sewn, and closed shells become solids.
TopoDS_Shape solids_of(Model& model) {
    const double size = size_of(model.shape);
    TopoDS_Compound all;
    BRep_Builder build;
    build.MakeCompound(all);
    int solids = 0, closed = 0, open = 0;
    const auto add = [&](TopoDS_Solid solid) {
        BRepLib::OrientClosedSolid(solid);
        build.Add(all, solid);
        ++solids;
    };
    for (TopExp_Explorer e(model.shape, TopAbs_SOLID); e.More(); e.Next()) add(TopoDS::Solid(e.Current()));
    BRepBuilderAPI_Sewing sewing(sewn_share * size);
    bool loose = false;
    for (TopExp_Explorer e(model.shape, TopAbs_FACE, TopAbs_SOLID); e.More(); e.Next()) {
        sewing.Add(e.Current());
        loose = true;
    }
    if (loose) {
        sewing.Perform();
        for (auto& [shape, name] : model.names)
            if (sewing.IsModifiedSubShape(shape)) shape = sewing.ModifiedSubShape(shape);
        for (TopExp_Explorer e(sewing.SewedShape(), TopAbs_SHELL); e.More(); e.Next()) {
            const bool closes = BRep_Tool::IsClosed(e.Current());
            ++(closes ? closed : open);
            if (closes) add(BRepBuilderAPI_MakeSolid(TopoDS::Shell(e.Current())));
        }
        if (solids == 0)
            throw Fault{"its surfaces do not close: " + std::to_string(sewing.NbFreeEdges()) +
                        " edges bound one face alone"};
        if (closed > 0) model.notes.push_back("its faces were sewn to " + std::to_string(closed) + " closed shells");
        if (open > 0 || closed == 0)
            model.notes.push_back("surfaces beside its solids do not close and were left out: " +
                                  std::to_string(sewing.NbFreeEdges()) + " edges bound one face alone");
    }
    if (solids == 0) throw Fault{"it holds no solid"};
    ShapeAnalysis_ShapeTolerance tolerance;
    if (const double widest = tolerance.Tolerance(all, 1); widest > told_share * size) {
        char text[120];
        std::snprintf(text, sizeof text, "faces meet with gaps of up to %.2g of the size", widest / size);
        model.notes.emplace_back(text);
    }
    return all;
}

void read(const std::string& file, const std::string& out) {
    const std::string text = beginning_of(file);
    const bool step = text.find("ISO-10303-21") != std::string::npos;
    const bool own = text.find("CASCADE Topology") != std::string::npos || text.find("DBRep_DrawableShape") == 0;
    if (!step && !own) throw Fault{"it is neither a STEP file nor a file of shapes (.brep)"};
    Model model = step ? read_step(file, out.substr(0, out.find_last_of('/'))) : read_own(file);
    const TopoDS_Shape solids = solids_of(model);
    if (most_loops_in(solids) <= few_loops && !BRepCheck_Analyzer(solids).IsValid())
        model.notes.emplace_back("some of its faces are not sound by the geometry library's own rules");
    ShapeUpgrade_ShapeDivideAngle parting(widest_turn, solids);
    parting.Perform();
    const TopoDS_Shape made = parting.Result().IsNull() ? solids : parting.Result();
    if (!BRepTools::Write(made, (out + ".shape").c_str())) throw Fault{"the result could not be written"};
    std::ofstream told(out + ".told");
    if (model.metres > 0) told << "unit " << model.metres << '\n';
    for (const auto& note : model.notes) told << "note " << note << '\n';
    for (const auto kind : {TopAbs_SOLID, TopAbs_FACE}) {
        // Where a solid stands in an assembly has nothing to do with its names.
        const auto unplaced = [](const TopoDS_Shape& s) { return s.Located(TopLoc_Location()); };
        TopTools_IndexedMapOfShape before, after, named;
        TopExp::MapShapes(solids, kind, before);
        TopExp::MapShapes(made, kind, after);
        std::vector<std::string> names;
        for (const auto& [shape, name] : model.names)
            if (shape.ShapeType() == kind && named.Add(unplaced(shape)) > static_cast<int>(names.size()))
                names.push_back(name);
        for (int k = 1; k <= before.Extent(); ++k) {
            const int which = named.FindIndex(unplaced(before(k)));
            if (which == 0) continue;
            const TopoDS_Shape now = parting.GetContext().IsNull() ? before(k) : parting.GetContext()->Apply(before(k));
            for (TopExp_Explorer e(now, kind); e.More(); e.Next())
                if (const int n = after.FindIndex(e.Current()); n > 0)
                    told << (kind == TopAbs_SOLID ? "solid " : "face ") << n << ' '
                         << names[static_cast<std::size_t>(which) - 1] << '\n';
        }
    }
    if (!told.flush()) throw Fault{"the result could not be written"};
}

void write(const std::string& in, const std::string& file) {
    TopoDS_Shape shape;
    if (!BRepTools::Read(shape, (in + ".shape").c_str(), BRep_Builder())) throw Fault{"the shape could not be read"};
    STEPControl_Controller::Init();
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    Interface_Static::SetCVal("write.step.unit", "MM");
    Interface_Static::SetCVal("write.step.schema", "AP214IS");
    Interface_Static::SetCVal("write.step.product.name", "part");
    STEPControl_Writer writer;
    if (writer.Transfer(shape, STEPControl_AsIs) != IFSelect_RetDone) throw Fault{"it cannot be written as STEP"};
    const Handle(Transfer_FinderProcess) process = writer.WS()->TransferWriter()->FinderProcess();
    TopTools_IndexedMapOfShape solids, faces;
    TopExp::MapShapes(shape, TopAbs_SOLID, solids);
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    std::ifstream told(in + ".told");
    std::string kind;
    for (int number = 0; told >> kind >> number;) {
        std::string name;
        std::getline(told >> std::ws, name);
        const auto& all = kind == "solid" ? solids : faces;
        if (number < 1 || number > all.Extent()) continue;
        const auto entity = STEPConstruct::FindEntity(process, all(number));
        if (!entity.IsNull()) entity->SetName(new TCollection_HAsciiString(name.c_str()));
    }
    APIHeaderSection_MakeHeader header(Handle(StepData_StepModel)::DownCast(writer.WS()->Model()));
    const Handle(TCollection_HAsciiString) program = new TCollection_HAsciiString("Dot Sift");
    header.SetName(new TCollection_HAsciiString("part"));
    header.SetAuthorValue(1, new TCollection_HAsciiString(""));
    header.SetOrganizationValue(1, new TCollection_HAsciiString(""));
    header.SetOriginatingSystem(program);
    header.SetPreprocessorVersion(program);
    header.SetDescriptionValue(1, new TCollection_HAsciiString("a part of a refinement study"));
    if (writer.Write(file.c_str()) != IFSelect_RetDone) throw Fault{"the file could not be written"};
}

}  // namespace

int main(int argc, char** argv) {
    const std::vector<std::string> words(argv + 1, argv + argc);
    const bool reads = words.size() == 5 && words[0] == "read", writes = words.size() == 3 && words[0] == "write";
    if (!reads && !writes) {
        std::fprintf(stderr, "usage: dotsift-models read FILE OUT MEGABYTES SECONDS | write OUT FILE\n");
        return 2;
    }
    try {
        ::prctl(PR_SET_PDEATHSIG, SIGKILL);  // nobody waits for it any more
        Message::DefaultMessenger()->ChangePrinters().Clear();
        if (reads) {
            limit(RLIMIT_AS, std::atof(words[3].c_str()) * 1e6);
            limit(RLIMIT_CPU, std::atof(words[4].c_str()));
            read(words[1], words[2]);
        } else {
            write(words[1], words[2]);
        }
        return 0;
    } catch (const Fault& f) {
        std::ofstream(words[reads ? 2 : 1] + ".fault") << f.text;
    } catch (const Standard_Failure& f) {
        std::ofstream(words[reads ? 2 : 1] + ".fault") << "the geometry library gave up: " << f.DynamicType()->Name();
    } catch (const std::exception& e) {
        std::ofstream(words[reads ? 2 : 1] + ".fault") << "there is not enough memory for it";
    }
    return 1;
}
