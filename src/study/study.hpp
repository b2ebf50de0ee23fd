#pragma once
// A study as plain data, in the order of the work. Every number is in the study's units.

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.hpp"
#include "study/diagnostics.hpp"
#include "study/formula.hpp"
#include "study/quantity_spec.hpp"
#include "study/units.hpp"

namespace dotsift {

/// How the plane of the drawing stands for the body. Axisymmetric: x is the radius, y runs along the axis.
enum class Plane { stress, strain, generalised_strain, axisymmetric };
/// What is solved: the displacement, a potential (temperature, voltage, head), or the potential and then the
/// displacement that its expansion brings.
enum class Physics { elasticity, conduction, both };
enum class Primitive { rectangle, circle, ellipse, polygon, slot, outline, drawing, line, point };

/// What a [[part.shape]] does to what the ones above it made.
enum class Verb { add, cut, intersect, split, mark, change };
enum class Change { round, bevel, hollow, mirror, move, rotate, repeat };

/// One curve of an outline, from where the one before it ended.
struct PieceSpec {
    enum class Kind { line, arc_through, arc_radius, arc_centre, ellipse, spline };
    Where where;
    Kind kind = Kind::line;
    Vec2 to{};
    Vec2 through{};            ///< arc_through
    double radius = 0;         ///< arc_radius: > 0 bends left, < 0 bends right, at most half a circle
    Vec2 centre{};             ///< arc_centre, ellipse
    Vec2 radii{};              ///< ellipse: half axes
    double angle = 0;          ///< ellipse: turn of the first half axis
    bool clockwise = false;    ///< arc_centre, ellipse
    std::vector<Vec2> points;  ///< spline: between its ends
    std::string name;
};

/// Where a shape is put: mirrored, turned, moved, in this order, and how often. A point and a line in the plane are in
/// space a line, through two points, and a plane, through three.
template <int D>
struct PlacementSpecIn {
    using Centre = std::array<Vec<D>, static_cast<std::size_t>(D - 1)>;
    std::optional<std::array<Vec<D>, static_cast<std::size_t>(D)>> mirror;
    double rotate = 0;
    Centre about{};  ///< in space the axis z, unless said otherwise
    Vec<D> move{};
    std::array<std::int64_t, 2> repeat{1, 1};
    std::array<Vec<D>, 2> step{};
    std::optional<Centre> around;  ///< copies turned about this instead of moved by step
    std::optional<double> every;   ///< angle between them; nothing: evenly round the circle
};
using PlacementSpec = PlacementSpecIn<2>;

/// A drawing file to be read as outlines.
struct DrawingSpec {
    std::filesystem::path file;
    std::vector<std::string> layers;                ///< patterns; empty: all
    std::vector<std::string> holes, marks, splits;  ///< layers whose outlines are holes, or lines inside
    bool nested_regions = false;                    ///< outlines inside outlines are regions, not holes
    std::optional<double> join;                     ///< ends nearer than this are one; nothing: a default share
    std::optional<std::string> unit;                ///< instead of the one in the file's header
};

/// Corners that a round or bevel is for; in space edges.
template <int D>
struct CornerSpecIn {
    enum class Kind { all, inner, outer, near, between };
    Kind kind = Kind::all;
    std::vector<Vec<D>> near;
    std::array<std::string, 2> between;  ///< patterns of boundary names
    std::optional<std::int64_t> count;   ///< expected number
};
using CornerSpec = CornerSpecIn<2>;

/// One entry of the part's list of shapes, in the order in which they work.
struct ShapeSpec {
    Where where;
    bool sound = false;  ///< was read without a fault
    Verb verb = Verb::add;
    Primitive primitive = Primitive::rectangle;
    Vec2 corner{}, size{};                                   ///< rectangle
    Vec2 centre{};                                           ///< circle, ellipse
    double radius = 0;                                       ///< circle
    Vec2 radii{};                                            ///< ellipse: half axes
    double angle = 0;                                        ///< rectangle (about its corner), ellipse: radians
    std::vector<Vec2> corners;                               ///< polygon
    std::vector<double> rounds;                              ///< rectangle, polygon: radius at each corner, 0 = sharp
    Vec2 from{}, to{};                                       ///< slot: centres of its ends; line: its ends
    double width = 0;                                        ///< slot
    Vec2 start{};                                            ///< outline
    std::vector<PieceSpec> pieces;                           ///< outline
    Vec2 at{};                                               ///< point
    DrawingSpec drawing;                                     ///< drawing
    std::string name;                                        ///< of all its edges; may be empty; # counts copies
    std::vector<std::pair<std::string, std::string>> names;  ///< side -> boundary name
    std::string region;                                      ///< add: the region that it becomes
    std::int64_t priority = 0;                               ///< add: does not take from regions of a higher one
    std::vector<std::string> of;                             ///< cut, intersect: patterns of regions; empty: all
    PlacementSpec placement;
    Change change = Change::round;
    CornerSpec corner_choice;  ///< change round, bevel
    double change_size = 0;    ///< change round: radius, bevel: length
    bool keep = true;          ///< change mirror: the part as it was stays beside its image
};

/// How the shapes of a plane become a solid.
struct PathPiece {
    Vec3 to{};
    std::optional<Vec3> through;  ///< an arc through this point; nothing: a straight line
};

struct SweepSpec {
    Where where;
    bool turned = false;      ///< about the line x = 0; else drawn along z
    double from = 0, to = 0;  ///< drawn: heights
    double taper = 0;         ///< drawn: radians by which its sides lean to the inside, from `from` on
    double angle = 0;         ///< turned: radians
    std::string start, end;   ///< names of the faces that it begins and ends with; empty: none
    Vec3 path_start{};        ///< led along a path, if it has pieces: from here
    std::vector<PathPiece> path{};
};

enum class SpacePrimitive { box, cylinder, cone, sphere, ring, wedge, model, plane, point, swept };

/// An entry of the part's list that is a shape of space.
struct SpaceShapeSpec {
    Where where;
    bool sound = false;  ///< was read without a fault
    int number = 0;      ///< in the whole list, from 1
    Verb verb = Verb::add;
    SpacePrimitive primitive = SpacePrimitive::box;
    Vec3 corner{}, size{};                ///< box, wedge
    double tip = 0;                       ///< wedge: how far its upper side reaches along x
    std::filesystem::path file;           ///< model
    std::optional<std::string> unit;      ///< model: instead of the one in the file
    std::optional<double> feature_angle;  ///< model of facets: edges sharper than this part faces; radians
    Vec3 from{}, to{};                    ///< cylinder, cone: ends of the axis
    double radius = 0;                    ///< cylinder, sphere
    std::array<double, 2> radii{};        ///< cone: at both ends; ring: of its circle, of its section
    Vec3 centre{};                        ///< sphere, ring, point; plane: a point on it
    Vec3 normal{{0, 0, 1}};               ///< ring: its axis; plane: away from what it takes
    ShapeSpec outline;                    ///< swept: a shape of the plane
    SweepSpec sweep;                      ///< swept
    std::string name;                     ///< of all its faces, or of the point; may be empty; # counts copies
    std::vector<std::pair<std::string, std::string>> names;  ///< side -> face name
    std::string region;                                      ///< add: the region that it becomes
    std::int64_t priority = 0;                               ///< add: does not take from regions of a higher one
    std::vector<std::string> of;                             ///< cut, intersect: patterns of regions; empty: all
    PlacementSpecIn<3> placement;
    Change change = Change::move;
    bool keep = true;               ///< change mirror: the part as it was stays beside its image
    double change_size = 0;         ///< change round, bevel, hollow: radius, length, thickness of the wall
    CornerSpecIn<3> edge_choice;    ///< change round, bevel
    std::string edge_rule;          ///< change round, bevel: a selection of edges instead
    std::vector<std::string> open;  ///< change hollow: names of faces without a wall
};

/// A name for the sides between two regions, or for the edges of a solid between two of its faces.
struct BetweenSpec {
    std::string name;
    Where where;
    std::array<std::string, 2> between;  ///< regions; or patterns of faces
};

/// A name for edges or points found by rules; all rules that are given must hold.
struct SelectionSpec {
    std::string name;
    Where where;
    bool points = false;
    std::vector<std::string> named;  ///< patterns of names they have already
    std::optional<LineSpec> box;     ///< opposite corners
    std::optional<LineSpec> line;    ///< two points of a line on which they lie
    std::optional<Vec2> nearest;     ///< the one that is nearest to this point
    std::optional<Vec2> normal;      ///< outward normal of edges
    double within = 0;               ///< angle to it at most
    std::optional<std::array<double, 2>> radius;
    std::vector<std::string> beside;  ///< shares an end with an edge of such a name
    std::vector<std::string> around;  ///< edges round a region of such a name
    bool follow_tangent = false;      ///< then on along edges that go on smoothly
    std::optional<std::int64_t> count;
};

/// The same for the faces, edges and points of a solid.
struct SpaceSelectionSpec {
    enum class Pick { faces, edges, points };
    enum class Kind { plane, cylinder, cone, sphere, ring, other };
    std::string name;
    Where where;
    Pick pick = Pick::faces;
    std::vector<std::string> named;
    std::optional<std::array<Vec3, 2>> box;    ///< opposite corners
    std::optional<std::array<Vec3, 2>> plane;  ///< a point of the plane in which they lie, and its normal
    std::optional<Vec3> nearest, normal;
    double within = 0;
    std::optional<Kind> kind;                           ///< of a face's surface
    std::optional<std::array<double, 2>> radius, size;  ///< size: area of a face, length of an edge
    std::vector<std::string> beside, around;
    bool follow_tangent = false;
    std::optional<std::int64_t> count;
};

/// What is to be simplified before meshing.
struct CleanupSpec {
    Where where;
    std::optional<double> merge_points, fill_holes_below, remove_rounds_below, one_edge_below;
    std::string keep_centres;           ///< name of the points that stay where holes were; # counts them
    std::vector<std::string> one_edge;  ///< names whose chains of edges are meshed as one
    [[nodiscard]] bool any() const {
        return merge_points || fill_holes_below || remove_rounds_below || one_edge_below || !one_edge.empty();
    }
};

/// Constants along the three axes of an orthotropic material, of which the third is z (axisymmetric: the hoop).
struct Orthotropy {
    std::array<double, 3> moduli{};  ///< along the first, second and third axis
    std::array<double, 3> ratios{};  ///< Poisson's ratios 12, 23, 13: nu_ij / E_i = nu_ji / E_j
    std::array<double, 3> shears{};  ///< moduli in the planes 12, 23, 13; the plane states need the first alone
};

struct MaterialSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;  ///< patterns of regions; empty: those that no other material names
    double youngs_modulus = 0, poissons_ratio = 0;
    bool moduli_have_units = false;  ///< of their own
    std::optional<double> density;
    std::optional<Orthotropy> orthotropy;     ///< instead of the first two
    double angle = 0;                         ///< of the first axis from x, anticlockwise, about z
    std::optional<std::array<Vec3, 2>> axes;  ///< of solids instead: along the first, and to the side of the second
    std::array<double, 3> expansion{};        ///< thermal strain per degree along the axes
    /// Formulas of the temperature T; the constants above are then those at the reference. The expansion is the same
    /// along all axes, and the mean from the reference to there.
    std::optional<Formula> modulus_of_temperature, expansion_of_temperature, conductivity_of_temperature;
    std::optional<std::array<double, 3>> conductivity;  ///< along the axes
    [[nodiscard]] bool elastic() const { return youngs_modulus > 0 || orthotropy; }
    /// Keeps its volume so nearly that linear elements are too stiff; where the thickness cannot give way.
    [[nodiscard]] bool nearly_incompressible() const {
        constexpr double locking_ratio = 0.45;  // of this on, the bulk modulus is over nine times the shear modulus
        return !orthotropy && poissons_ratio > locking_ratio;
    }
};

/// What concerns the potential as a whole.
struct ConductionSpec {
    Where where;
    std::string potential = "temperature";  ///< what it is, for pictures and reports
    std::string unit;                       ///< in words; empty: K of a temperature, none of others
    double reference = 0;                   ///< the temperature at which there is no thermal strain
    [[nodiscard]] bool of_heat() const { return potential == "temperature"; }
};

enum class Hold { fixed, symmetry, antisymmetry, values };

struct SupportSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;  ///< patterns of boundary names
    std::optional<Vec3> at;       ///< instead of `on`: a corner of the outline or another point that the mesh keeps
    std::string at_name;          ///< the same by the name of a point
    Hold hold = Hold::values;
    std::array<std::optional<Formula>, 3> displacement;             ///< for Hold::values; in the plane two
    std::optional<Formula> normal_displacement;                     ///< for Hold::values, along the outward normal
    std::optional<Formula> normal_stiffness, tangential_stiffness;  ///< an elastic foundation: stress per displacement
    std::optional<Formula> potential;
    Vec2 about{};
    bool sound = true;  ///< was read without a fault
    /// Says anything about the displacement.
    [[nodiscard]] bool mechanical() const {
        return hold != Hold::values || displacement[0] || displacement[1] || displacement[2] || normal_displacement ||
               founded();
    }
    [[nodiscard]] bool founded() const { return normal_stiffness || tangential_stiffness; }
};

/// Two boundaries of the same shape that move alike, point by point.
struct PeriodicSpec {
    std::string name;
    Where where;
    std::array<std::string, 2> between;
    std::array<double, 2> jump{};  ///< displacement of the second less that of the first
    std::optional<double> turn;    ///< the second is the first turned by this angle, and so is its displacement ...
    Vec2 about{};                  ///< ... about this point; nothing: moved
    /// A place or direction that belongs to the first boundary, as the second one has it.
    [[nodiscard]] Vec2 turned(const Vec2& v) const;
    /// And back.
    [[nodiscard]] Vec2 turned_back(const Vec2& v) const;
    double potential_jump = 0;
};

/// A point, of the part or not, whose motion is that of a boundary.
struct RemoteSpec {
    std::string name;
    Where where;
    Vec2 at{};
    std::vector<std::string> on;
    bool rigid = true;  ///< the boundary moves as a rigid body; else the point has the boundary's mean motion
    std::array<double, 2> force{};
    double moment = 0;
    std::array<std::optional<double>, 3> motion;  ///< ux, uy, turn
};

/// An edge between regions that resists the flow, so that the potential jumps.
struct ResistanceSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;
    double resistance = 0;  ///< jump of the potential per flux
};

enum class LoadKind {
    traction,
    pressure,
    force,
    moment,
    point,               ///< a force at a point
    body,                ///< a force per volume
    gravity,             ///< an acceleration
    rotation,            ///< about the axis, or the point `about`; of solids about `axis`
    temperature_change,  ///< a thermal strain
    flux,                ///< per area, into the part
    flow,                ///< total, into the part
    source,              ///< per volume
    transfer             ///< in proportion to the difference from an ambient potential
};
/// Acts on the displacement's equation.
constexpr bool is_mechanical(LoadKind kind) {
    return kind < LoadKind::flux;
}
/// Acts on regions.
constexpr bool is_in_volume(LoadKind kind) {
    return (kind >= LoadKind::body && kind <= LoadKind::temperature_change) || kind == LoadKind::source;
}

struct LoadSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;
    LoadKind kind = LoadKind::traction;
    /// Scalar kinds use the first, as a moment in the plane does; transfer: the coefficient, the ambient.
    std::array<Formula, 3> components;
    std::optional<Formula> spread;  ///< force, flow: how it is distributed; nothing: evenly
    std::optional<Vec3> at;         ///< point
    std::string at_name;            ///< the same by the name of a point
    Vec2 about{};
    std::array<Vec3, 2> axis{{{}, {{0, 0, 1}}}};  ///< of a solid's rotation: two points of it
};

/// Loads that act together, each with a factor; prescribed values of supports and remote points act with theirs, or 1.
struct CaseSpec {
    std::string name;
    Where where;
    std::vector<std::pair<std::string, double>> factors;  ///< of loads, supports and remote points
    /// The factor of a load (0 if it is not named) ...
    [[nodiscard]] double of_load(const std::string& load) const;
    /// ... and of something that acts unless told otherwise.
    [[nodiscard]] double of_other(const std::string& other) const;
};

/// What a local size rule asks for.
enum class SizeDemand { size, table, divisions, across, segments };
/// Where the divisions of an edge are shortest.
enum class FinerAt { nowhere, ends, middle, place };

/// A size at named places, in a placed shape or along its outline; if no place is given, everywhere.
struct LocalSize {
    std::string name;
    Where where;
    std::vector<std::string> on;                        ///< patterns of boundaries, regions and points
    std::optional<ShapeSpec> inside;                    ///< an area that need not be part of the part
    std::optional<ShapeSpec> along;                     ///< the outline of a shape, or a line
    std::optional<SpaceShapeSpec> inside_space;         ///< of a solid instead: a volume
    std::optional<std::array<Vec3, 2>> along_in_space;  ///< and a straight line
    double within = 0;  ///< the size holds to this distance from boundaries, points and outlines
    SizeDemand demand = SizeDemand::size;
    Formula size;                 ///< size: a length, or a formula of the place
    std::filesystem::path table;  ///< table: CSV with x, y, size on a grid
    std::int64_t divisions = 1;   ///< of each edge
    double bias = 1;              ///< divisions: the longest over the shortest
    FinerAt finer_at = FinerAt::nowhere;
    std::optional<Vec3> finer_place;          ///< FinerAt::place, by position ...
    std::string finer_name;                   ///< ... or by the name of a point or a boundary that meets the edge
    double number = 0;                        ///< across: elements across; segments: per full circle
    std::optional<double> smallest, largest;  ///< the rule asks for nothing beyond
};

/// Thin elements along boundaries, in rows of growing height.
struct LayerSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;      ///< patterns of boundaries
    std::vector<std::string> inside;  ///< patterns of regions; empty: on every side that has material
    double first = 0;                 ///< height of the row at the boundary
    std::int64_t rows = 0;
    double growth = 1;  ///< from row to row
    [[nodiscard]] double total() const;
};

struct SizeSpec {
    Where where;
    std::optional<double> global;
    double growth = 1.3;              ///< largest ratio of one element to the next
    double segments_per_circle = 16;  ///< elements round a full turn of a curved boundary
    std::optional<double> smallest;   ///< no rule goes below this
    std::int64_t most_elements = 1'000'000;
    std::vector<LocalSize> local;
    std::vector<LayerSpec> layers;
    double factor = 1;  ///< on every size; below 1 where tries with the sizes as they stand found no mesh
};

enum class ElementShape { triangles, mostly_quadrilaterals, quadrilaterals, grid };

/// The elements of a region.
struct RegionElements {
    std::string name;  ///< of the region
    Where where;
    ElementShape shape = ElementShape::triangles;
    std::vector<Vec2> corners;  ///< grid: of its four sides; empty: found
};

/// What to do where the first mesh cannot be made: again with every size, and the distance below which points of the
/// part become one, multiplied.
struct RetrySpec {
    std::int64_t tries = 0;
    double sizes = 1, merge_points = 1;
};

/// A piece of a given mesh that is made anew.
struct RemeshZone {
    LocalSize rule;      ///< the place, and the size in it
    bool sized = false;  ///< whether it has a size of its own
    bool blend = true;   ///< larger elements round it are made anew, too, so that sizes grow out of it
};

/// What elements a mesh is made of.
struct MeshSpec {
    Where where;
    ElementShape shape = ElementShape::triangles;
    int order = 2;  ///< polynomial degree of the elements
    std::vector<RegionElements> regions;
    std::optional<RetrySpec> retry;
    std::vector<RemeshZone> remesh;
    [[nodiscard]] ElementShape shape_in(const std::string& region) const;
};

/// What is measured of an element's shape.
enum class Criterion {
    shape,
    scaled_jacobian,
    jacobian_ratio,
    smallest_angle,
    largest_angle,
    edge_ratio,
    skewness,
    taper,
    size_ratio
};
inline constexpr std::size_t criterion_count = 9;

/// Limits of a measure, for some elements.
struct QualitySpec {
    std::string name;
    Where where;
    Criterion measure = Criterion::shape;
    std::optional<bool> quadrilaterals;          ///< only these, or only triangles
    std::vector<std::string> on;                 ///< patterns of regions; empty: all
    std::optional<ShapeSpec> inside;             ///< only elements whose centre lies in this shape
    std::optional<SpaceShapeSpec> inside_space;  ///< of a solid instead
    double good = 0, acceptable = 0;
};

enum class SeriesKind { uniform, local, adaptive };
/// How an adaptive series chooses its next sizes: the fewest elements for an error, the least error for a number of
/// elements, or a share of the elements or of the error made finer.
enum class Strategy { target, budget, share_of_elements, share_of_error };
/// What tells an adaptive series where the mesh is too coarse: the difference to the recovered field; residuals and
/// jumps of tractions or fluxes; the energy per volume; the jumps over sides of a field's gradient,
/// or its change within an element.
enum class Indicator { recovery, residual, energy_density, jump, gradient };
/// It is made from a field alone, and measures no error.
constexpr bool is_of_field(Indicator i) {
    return i == Indicator::jump || i == Indicator::gradient;
}
/// It estimates the error in the energy norm.
constexpr bool estimates_energy_norm(Indicator i) {
    return i == Indicator::recovery || i == Indicator::residual;
}

/// What drives a series if no quantity does: the error in the energy norm.
inline const std::string of_energy = "energy";

/// A level of another series.
struct LevelName {
    std::string series;
    int level = 1;
};

struct SeriesSpec {
    std::string name;
    Where where;
    SeriesKind kind = SeriesKind::uniform;
    std::optional<LevelName> start;    ///< the mesh to begin with; nothing: the one that the sizes ask for
    std::filesystem::path start_mesh;  ///< a mesh file to begin with instead; empty: none
    bool keep_rest = false;            ///< adaptive: only the elements that change are made anew
    double ratio = 1.5;                ///< uniform, local: one level's sizes over the next one's
    std::vector<std::string> rules;    ///< local: the size rules that become finer
    Strategy strategy = Strategy::target;
    /// Adaptive: whose error drives, `of_energy` or quantities; several have their say by how far each is from its
    /// target.
    std::vector<std::string> drive{of_energy};
    std::vector<Indicator> indicators{Indicator::recovery};  ///< for the energy norm; several count alike
    Field indicator_field = Field::displacement;             ///< for indicators of a field
    double share = 0.3, finer = 2;                           ///< of elements or error; what their sizes are divided by
    std::optional<std::int64_t> budget_elements, budget_unknowns;
    bool coarsen = true;              ///< elements may become larger
    std::vector<std::string> within;  ///< patterns of regions that change; empty: all
    std::optional<double> smallest, largest, growth;
    int most_levels = 4;
    std::int64_t most_elements = 200'000;
    std::optional<std::int64_t> most_unknowns;
    std::optional<double> most_seconds, most_memory;  ///< of the whole series; bytes
    bool until_quantities = false;                    ///< stops when the targets of all quantities are met
    std::optional<double> error_target;               ///< adaptive: relative energy-norm error
    std::optional<double> change_target;              ///< largest relative change of the quantities that have a target
    std::optional<double> gci_target;                 ///< largest grid convergence index of the same, relative

    [[nodiscard]] bool driven_by(const std::string& driver) const {
        return std::find(drive.begin(), drive.end(), driver) != drive.end();
    }
    /// A quantity of this name is one of its drivers; one that is named like the energy norm is none.
    [[nodiscard]] bool follows(const std::string& quantity) const {
        return quantity != of_energy && driven_by(quantity);
    }
};

/// A variable of the study and the values it takes, as they would stand in the file.
struct VariedValue {
    std::string variable;
    std::vector<std::string> literals;
};

/// Runs of the study with other values of its variables.
struct VarySpec {
    std::string name;
    Where where;
    std::vector<VariedValue> values;
    bool together = false;  ///< the first values together, then the second ones, ...; else every combination
    /// For each run the position in `literals` of each variable; the last variable changes first.
    [[nodiscard]] std::vector<std::vector<std::size_t>> runs() const;
};

enum class SolverMethod { automatic, direct, iterative };

/// How the linear systems are solved.
struct SolverSpec {
    Where where;
    SolverMethod method = SolverMethod::automatic;
    std::optional<double> most_memory;  ///< bytes that a factor may take; nothing: a share of what is free
};

/// Stress known in closed form, for studies that check the program itself.
struct ExactStress {
    Where where;
    std::array<Formula, 3> components;  ///< sxx, syy, sxy
    std::optional<Formula> szz;         ///< axisymmetric: the hoop stress; of solids always there
    std::optional<Formula> syz, szx;    ///< of solids
    Vec2 about{};
};

struct Study {
    std::filesystem::path path;
    std::string source;  ///< the file's text
    std::string title;
    UnitSystem units;
    bool units_given = false;  ///< the study declares them
    Physics physics = Physics::elasticity;
    Plane plane = Plane::stress;
    Formula thickness{"1", "1", {}, 1.0, {}};
    std::vector<std::pair<std::string, Formula>> thickness_of;  ///< of single regions
    std::string region_name = "part";
    std::vector<std::string> left_out;  ///< regions of a solid that are taken away when all is built: patterns
    Where part_where;
    std::vector<ShapeSpec> shapes;
    std::optional<SweepSpec> sweep;            ///< makes a solid of them
    std::vector<SpaceShapeSpec> space_shapes;  ///< which then work on it
    std::vector<BetweenSpec> interfaces;
    std::vector<BetweenSpec> edges;  ///< of a solid
    std::vector<SelectionSpec> selections;
    std::vector<SpaceSelectionSpec> space_selections;
    std::vector<std::string> names_for_others;  ///< patterns of boundary names that nothing here has to use
    CleanupSpec cleanup;
    std::vector<MaterialSpec> materials;
    std::vector<SupportSpec> supports;
    std::vector<PeriodicSpec> periodic;
    std::vector<RemoteSpec> remotes;
    std::vector<ResistanceSpec> resistances;
    ConductionSpec conduction;
    std::vector<LoadSpec> loads;
    std::vector<CaseSpec> cases;
    SizeSpec sizes;
    MeshSpec mesh;
    std::vector<QualitySpec> quality;
    std::vector<SeriesSpec> series;
    std::vector<VarySpec> vary;
    std::vector<QuantitySpec> quantities;
    std::vector<PathSpec> paths;
    std::vector<PictureSpec> pictures;
    PicturedLevels pictured = PicturedLevels::ends;
    SolverSpec solver;
    std::shared_ptr<const std::vector<ValueTable>> tables;           ///< that formulas may call
    std::vector<std::filesystem::path> table_files, material_files;  ///< that it reads, as it names them
    bool error_bound = false;                                        ///< from an admissible field, of each level
    bool integration_points = false;                                 ///< to be listed in a table of each level
    std::optional<ExactStress> exact_stress;
    std::map<std::pair<std::string, std::string>, Where> places;  ///< of keys and names, by the section they stand in
    /// Where a section, as in "load.pull", has a key or names something; `otherwise` if it does not.
    [[nodiscard]] Where place_of(const std::string& section, const std::string& what, Where otherwise) const;
    [[nodiscard]] bool solid() const { return sweep.has_value() || !space_shapes.empty(); }
    [[nodiscard]] bool elastic() const { return physics != Physics::conduction; }
    [[nodiscard]] bool conducts() const { return physics != Physics::elasticity; }
    /// The stiffness, or the conductivity, of some material changes with the temperature: each load case has its own.
    [[nodiscard]] bool stiffness_changes() const;
    [[nodiscard]] bool conductivity_changes() const;
    [[nodiscard]] const Formula& thickness_in(const std::string& region) const;
    /// The cases to be solved: those of the study, or one with every load.
    [[nodiscard]] std::vector<CaseSpec> cases_to_solve() const;
};

/// The material of a region: the one that names it, else the one that names none. Null if there is neither.
const MaterialSpec* material_of(const Study& study, const std::string& region);

/// Of which levels pictures are made, in the words of studies and options, as PicturedLevels counts them.
const std::vector<std::string>& pictured_names();

const char* name_of(SeriesKind kind);
/// The same in words, for pictures and reports.
std::string title_of(const Study& study, Field field);
const char* name_of(Take take);
const char* name_of(Criterion criterion);

}  // namespace dotsift
