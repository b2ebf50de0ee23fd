#include "study/keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

namespace dotsift {

namespace {

constexpr Key table[] = {
    // more than some compilers count for std::array by themselves
    Key{"", "format", "1", "required", "Version of the study format."},
    Key{"", "title", "text", "the file's name", "Heading of the report."},
    Key{"", "units", "table", "m and N", "Units of every number that carries none of its own."},

    Key{"", "physics", "\"elasticity\", \"conduction\", \"conduction and elasticity\"", "from the materials",
        "What is solved. Without this, whatever the materials have constants for; a temperature that was solved for "
        "then strains the part."},

    Key{"units", "length", "m, mm, cm, um, km, in, ft", "m", "Unit of length."},
    Key{"units", "force", "N, mN, kN, MN, lbf, kip", "N", "Unit of force; stress follows, as in mm and N: MPa."},

    Key{"variables", "NAME", "number or formula", "-",
        "A value used by name in any formula below. A formula may use other variables. One that also uses x, y, r, "
        "theta, nx or ny is a field, and stands only where a place is known: in supports, loads and exact_stress."},

    Key{"part", "name", "name", "\"part\"",
        "Name of the region that shapes make which name none; quantities may refer to it."},
    Key{"part", "plane", "\"stress\", \"strain\", \"generalised_strain\", \"axisymmetric\"", "\"stress\"",
        "Plane stress; plane strain; plane strain with ends that are free to move and tilt as planes; or a body of "
        "revolution, where x is the radius and y runs along the axis."},
    Key{"part", "thickness", "length or formula, > 0", "1",
        "Thickness, which may change from place to place, by a table of scattered points too; total forces and "
        "energies "
        "are for this thickness (axisymmetric: for the whole turn)."},
    Key{"part", "thickness_of", "table region = length or formula", "-", "Another thickness in single regions."},
    Key{"part", "extrude", "table", "-", "Makes a solid: the plane shapes drawn along z."},
    Key{"part", "revolve", "table", "-", "Makes a solid: the plane shapes, at x >= 0, turned about the axis y."},
    Key{"part", "names_for_others", "name or names", "-",
        "Boundary names that nothing in the study uses, and that are meant for readers of its meshes: no warning."},
    Key{"part", "left_out", "region or regions", "-",
        "Of a solid: regions that are taken away when all is built. They shape their neighbours, whose faces there "
        "keep their names."},
    Key{"part", "shape", "array of tables", "required",
        "The shapes that make the part, in the order in which they work."},
    Key{"part", "interface", "tables", "-", "Names for the edges between two regions, of a solid for the faces."},
    Key{"part", "edge", "tables", "-", "Names for edges of a solid."},
    Key{"part", "selection", "tables", "-", "Names for edges and points that are found by rules."},
    Key{"part", "cleanup", "table", "-", "What is to be simplified before meshing."},

    Key{"part.extrude", "from", "length", "0", "Height at which the solid begins."},
    Key{"part.extrude", "to", "length", "required", "Height at which it ends, above from."},
    Key{"part.extrude", "taper", "number, \"3 deg\"", "0",
        "Angle by which the sides lean to the inside; at from they are as drawn."},
    Key{"part.extrude", "start", "name", "-", "Names the faces at from."},
    Key{"part.extrude", "end", "name", "-", "Names the faces at to."},
    Key{"part.revolve", "angle", "number, \"90 deg\"", "a whole turn",
        "How far the shapes are turned, in radians unless a unit says otherwise; from their own plane towards -z."},
    Key{"part.revolve", "start", "name", "-", "Names the faces in the shapes' own plane."},
    Key{"part.revolve", "end", "name", "-", "Names the faces at the angle."},

    Key{"part.shape", "add", "a shape, see below", "one of these six required",
        "Adds a shape to what stands above. Shapes: \"rectangle\", \"circle\", \"ellipse\", \"polygon\", \"slot\", "
        "\"outline\", \"drawing\"; of space: \"box\", \"cylinder\", \"cone\", \"sphere\", \"ring\", \"wedge\", "
        "\"model\", "
        "and plane shapes with extrude, revolve or sweep of their own. cut, intersect and split also know a "
        "\"plane\"."},
    Key{"part.shape", "cut", "a shape", "", "Cuts a shape out of what stands above."},
    Key{"part.shape", "intersect", "a shape", "", "Keeps of what stands above only what lies in this shape."},
    Key{"part.shape", "split", "a shape or \"line\"", "",
        "Its edges divide the part into pieces of the same region; the mesh follows them."},
    Key{"part.shape", "mark", "a shape, \"line\" or \"point\"", "",
        "Its edges or point are kept inside; the mesh follows them."},
    Key{"part.shape", "change", "\"round\", \"bevel\", \"hollow\", \"mirror\", \"move\", \"rotate\", \"repeat\"", "",
        "Changes all that stands above: rounds or bevels corners, of a solid edges; leaves only a wall of a solid; "
        "puts "
        "the part elsewhere, or adds copies of it."},
    Key{"part.shape", "extrude", "table as part.extrude", "-", "A plane shape, drawn along z by itself."},
    Key{"part.shape", "revolve", "table as part.revolve", "-", "A plane shape, turned about y by itself."},
    Key{"part.shape", "sweep", "table", "-", "A plane shape, led along a path of lines and arcs by itself."},
    Key{"part.shape", "tip", "length", "0", "wedge: how far its upper side reaches along x; 0: it ends in an edge."},
    Key{"part.shape", "region", "name", "part.name",
        "add: the region that the shape becomes. Where regions overlap, the later shape takes the place."},
    Key{"part.shape", "priority", "whole number", "0",
        "add: takes no place from regions that were added with a higher one."},
    Key{"part.shape", "of", "region name or names", "all", "cut, intersect: the regions concerned; others stay whole."},
    Key{"part.shape", "name", "name", "-",
        "Names all edges that come from this shape. # stands for the number of the copy: hole# gives hole1, hole2, "
        "..."},
    Key{"part.shape", "names", "table side = name", "-",
        "Names single sides. rectangle: left, right, top, bottom, corners, corner1 to corner4 (from bottom left, "
        "anticlockwise). polygon: side1 (from the first corner to the second), ..., corner1, ..., corners. slot: "
        "flanks, ends. box: left (lowest x), right, front (lowest y), back, bottom (lowest z), top. cylinder, cone: "
        "side, start, end. Several sides may share a name."},
    Key{"part.shape", "corner", "[x, y], [x, y, z]", "[0, 0]",
        "rectangle, box, wedge: the corner with the lowest coordinates."},
    Key{"part.shape", "size", "[width, height], of a box three", "-", "rectangle, box, wedge: its sides."},
    Key{"part.shape", "angle", "number, \"30 deg\"", "0",
        "rectangle, ellipse: turn, anticlockwise, in radians unless a unit says otherwise; about the corner or "
        "centre."},
    Key{"part.shape", "centre", "[x, y], [x, y, z]", "[0, 0]", "circle, ellipse; sphere, ring."},
    Key{"part.shape", "radius", "length", "-", "circle, cylinder, sphere; change round: of every corner concerned."},
    Key{"part.shape", "radii", "[a, b]", "-",
        "ellipse: half axes. cone: at from and at to; one may be 0. ring: of the ring, and the smaller one of its "
        "section."},
    Key{"part.shape", "corners", "array of [x, y]; \"all\", \"inner\", \"outer\"", "-",
        "polygon: at least three, in order round it. change round, bevel: which corners; inner ones are re-entrant."},
    Key{"part.shape", "round", "length", "0", "rectangle, polygon: radius at every corner."},
    Key{"part.shape", "rounds", "table number = length", "-",
        "rectangle, polygon: radius at single corners, counted from 1; overrules round."},
    Key{"part.shape", "from", "[x, y], [x, y, z]", "-",
        "slot: centre of one end. line: one end. cylinder, cone: where the axis begins."},
    Key{"part.shape", "to", "[x, y], [x, y, z]", "-",
        "slot: centre of the other end. line: the other end. cylinder, cone: where the axis ends."},
    Key{"part.shape", "width", "length", "-", "slot: its full width; the ends are half circles."},
    Key{"part.shape", "start", "[x, y]", "-", "outline: where its first piece begins."},
    Key{"part.shape", "pieces", "array of tables", "-",
        "outline: curves that follow each other. If the last does not end at the start, a straight side closes it."},
    Key{"part.shape", "at", "[x, y], [x, y, z]", "-", "point; plane: a point on it."},
    Key{"part.shape", "normal", "[x, y, z]", "[0, 0, 1]",
        "ring: its axis. plane: towards what cut takes away, and intersect keeps."},
    Key{"part.shape", "file", "path", "-",
        "drawing: a DXF file, relative to the study. Layers become names. model: a file of solids, STEP or .brep, or "
        "of the facets round them, STL, PLY, OFF or OBJ."},
    Key{"part.shape", "edges", "selection", "-",
        "round, bevel of a solid: the edges that [part.selection.NAME] finds, with pick = \"edges\", on what stands "
        "above."},
    Key{"part.shape", "feature_angle", "number, \"30 deg\"", "30 deg",
        "model of facets: where neighbours turn by more than this two faces meet; elsewhere they are smooth."},
    Key{"part.shape", "layers", "layer or layers", "all",
        "drawing: the layers that are read; * and ? stand for any letters."},
    Key{"part.shape", "holes", "layer or layers", "-",
        "drawing: outlines on these layers are holes, whatever surrounds them."},
    Key{"part.shape", "marks", "layer or layers", "-",
        "drawing: lines and points on these layers are kept inside, as by mark."},
    Key{"part.shape", "splits", "layer or layers", "-", "drawing: lines on these layers divide the part, as by split."},
    Key{"part.shape", "nested", "\"holes\", \"regions\"", "\"holes\"",
        "drawing: an outline inside another is a hole (and one inside that is solid again), or every enclosed area is "
        "a "
        "region named like the layer of the outline round it; where points stand on layers called region=NAME, they "
        "name the "
        "areas round them, and other areas are empty."},
    Key{"part.shape", "join", "length", "1e-6 of the drawing",
        "drawing: ends nearer to each other than this are joined."},
    Key{"part.shape", "unit", "m, mm, cm, um, km, in, ft", "from the file", "drawing, model: unit of its numbers."},
    Key{"part.shape", "mirror", "[[x, y], [x, y]]", "-",
        "Mirrors the shape, or by change the part, at a line through two points; shapes of space at a plane through "
        "three."},
    Key{"part.shape", "keep", "true, false", "true", "change mirror: the part as it was stays beside its image."},
    Key{"part.shape", "rotate", "number, \"30 deg\"", "0", "Turns it, after mirroring."},
    Key{"part.shape", "about", "[x, y]; [[x, y, z], [x, y, z]]", "[0, 0]",
        "Centre of rotate; for shapes of space its axis, by two points, and the axis z if not given."},
    Key{"part.shape", "move", "[dx, dy], [dx, dy, dz]", "[0, 0]", "Moves it, after turning."},
    Key{"part.shape", "repeat", "number or [n, m]", "1",
        "How many of it, the first included; two numbers make a grid."},
    Key{"part.shape", "step", "[dx, dy], [dx, dy, dz]", "-",
        "repeat: from one copy to the next; for a grid two of them in brackets."},
    Key{"part.shape", "around", "[x, y]; [[x, y, z], [x, y, z]]", "-",
        "repeat: copies are turned about this point, in space about the axis through two points, instead."},
    Key{"part.shape", "every", "number, \"30 deg\"", "evenly round", "around: angle from one copy to the next."},
    Key{"part.shape", "near", "array of [x, y], [x, y, z]", "-",
        "change round, bevel: the corners at these points; of a solid the edges through them."},
    Key{"part.shape", "between", "[name, name]", "-",
        "change round, bevel: the corners, of a solid the edges, at which two boundaries meet."},
    Key{"part.shape", "length", "length", "-", "change bevel: what is cut off each edge, of a solid each face."},
    Key{"part.shape", "wall", "length", "-", "change hollow: thickness of the wall that is left of a solid."},
    Key{"part.shape", "open", "name or names", "-", "change hollow: faces along which no wall is left."},
    Key{"part.shape", "count", "whole number", "-", "change round, bevel: how many corners are expected; checked."},

    Key{"part.shape.sweep", "from", "[x, y, z]", "required", "Where the path begins; there lies the shape's origin."},
    Key{"part.shape.sweep", "path", "array of tables", "required", "Its pieces, which go on from each other smoothly."},
    Key{"part.shape.sweep", "start", "name", "-", "Names the face at the path's beginning."},
    Key{"part.shape.sweep", "end", "name", "-", "Names the face at its end."},
    Key{"part.shape.sweep.path", "to", "[x, y, z]", "required", "Where the piece ends; alone, it is a straight line."},
    Key{"part.shape.sweep.path", "through", "[x, y, z]", "-", "A circular arc through this point."},

    Key{"part.shape.pieces", "to", "[x, y]", "required", "Where the piece ends; alone, it is a straight line."},
    Key{"part.shape.pieces", "through", "[x, y]", "-", "A circular arc through this point."},
    Key{"part.shape.pieces", "radius", "length", "-",
        "A circular arc of at most half a turn; a positive radius bends left, a negative one right."},
    Key{"part.shape.pieces", "centre", "[x, y]", "-", "An arc about this centre; of an ellipse, if radii are given."},
    Key{"part.shape.pieces", "clockwise", "true, false", "false", "centre: the way round."},
    Key{"part.shape.pieces", "radii", "[a, b]", "-", "centre: half axes of an ellipse; both ends must lie on it."},
    Key{"part.shape.pieces", "angle", "number, \"30 deg\"", "0", "radii: turn of the first half axis."},
    Key{"part.shape.pieces", "spline", "array of [x, y]", "-",
        "A smooth curve through these points and on to the end."},
    Key{"part.shape.pieces", "name", "name", "-", "Names this piece."},

    Key{"part.interface.NAME", "between", "[region, region]", "required",
        "The edges at which these two regions meet. Without this they are named FIRST_and_SECOND."},

    Key{"part.edge.NAME", "between", "[face, face]", "required",
        "The edges of a solid at which a face of the first name and one of the second meet."},

    Key{"part.selection.NAME", "pick", "\"faces\", \"edges\", \"points\"", "\"edges\", of a solid \"faces\"",
        "What is picked. All rules that are given must hold."},
    Key{"part.selection.NAME", "named", "name or names", "-",
        "Has a name already that fits; * and ? stand for any letters."},
    Key{"part.selection.NAME", "box", "[[x, y], [x, y]], of a solid [x, y, z]", "-",
        "Lies wholly in the box with these opposite corners."},
    Key{"part.selection.NAME", "line", "[[x, y], [x, y]]", "-", "Lies on the straight line through these points."},
    Key{"part.selection.NAME", "in_plane", "[[x, y, z], [nx, ny, nz]]", "-",
        "Solid: lies wholly in the plane through this point with this normal."},
    Key{"part.selection.NAME", "nearest", "[x, y], [x, y, z]", "-", "Of all that fit, the one nearest to this point."},
    Key{"part.selection.NAME", "normal", "[nx, ny], [nx, ny, nz]", "-",
        "Edges of the outline, of a solid faces, whose outward normal points there all along."},
    Key{"part.selection.NAME", "within", "number, \"5 deg\"", "1 deg", "Angle by which the normal may differ."},
    Key{"part.selection.NAME", "radius", "length or [least, most]", "-",
        "Circular edges of this radius; faces of cylinders, spheres and, by their section, rings."},
    Key{"part.selection.NAME", "kind", "plane, cylinder, cone, sphere, ring, other", "-", "Faces on such a surface."},
    Key{"part.selection.NAME", "area", "area or [least, most]", "-", "Faces of this area."},
    Key{"part.selection.NAME", "length", "length or [least, most]", "-", "Edges of a solid of this length."},
    Key{"part.selection.NAME", "beside", "name or names", "-",
        "Shares an end, in a solid an edge, with a boundary of such a name."},
    Key{"part.selection.NAME", "around", "region name or names", "-", "Bounds such a region."},
    Key{"part.selection.NAME", "follow_tangent", "true, false", "false",
        "Goes on along edges, or faces, that continue smoothly."},
    Key{"part.selection.NAME", "count", "whole number", "-",
        "How many are expected; another number is an error that lists what was found."},

    Key{"part.cleanup", "merge_points", "length", "-", "Points nearer to each other than this become one."},
    Key{"part.cleanup", "fill_holes_below", "length", "-", "Holes of a smaller diameter are filled."},
    Key{"part.cleanup", "keep_centres", "name", "-",
        "Leaves a named point at the centre of each filled hole; # counts them."},
    Key{"part.cleanup", "remove_rounds_below", "length", "-", "Rounds of a smaller radius become sharp corners."},
    Key{"part.cleanup", "one_edge", "name or names", "-",
        "Edges of these names that follow each other are meshed as one, so that short ones force no small elements."},
    Key{"part.cleanup", "one_edge_below", "length", "-",
        "Edges shorter than this are meshed as one with the neighbour that goes on more smoothly."},

    Key{"material.NAME", "on", "region name or names", "all others", "The regions that are made of it."},
    Key{"material.NAME", "from", "path", "-",
        "A file of materials for many studies, relative to the study, with tables as in [material.steel]: what is not "
        "given here comes from there. Its numbers carry their units."},
    Key{"material.NAME", "entry", "name", "its own name", "from: which material of the file."},
    Key{"material.NAME", "youngs_modulus", "stress > 0, or formula of T", "-",
        "Young's modulus; as a formula of the temperature T, which may call a table."},
    Key{"material.NAME", "poissons_ratio", "-1 < number < 0.5", "-",
        "Poisson's ratio; 0.5 is possible in plane stress only."},
    Key{"material.NAME", "moduli", "[E1, E2, E3]", "-",
        "Orthotropic, instead of the two above: moduli along the first, second and third axis; the third is z, or the "
        "hoop."},
    Key{"material.NAME", "poissons_ratios", "[nu12, nu23, nu13]", "-",
        "Orthotropic: nu_ij is the contraction along j under stress along i."},
    Key{"material.NAME", "shear_modulus", "stress > 0; of solids [G12, G23, G13]", "-",
        "Orthotropic: in the plane of the first two axes, of solids in that of each two."},
    Key{"material.NAME", "angle", "number, \"30 deg\"", "0", "Of the first axis from x, anticlockwise, about z."},
    Key{"material.NAME", "axes", "[[x, y, z], [x, y, z]]", "-",
        "Of solids, instead of angle: directions of the first axis and to the side of the second; the third is square "
        "to both."},
    Key{"material.NAME", "density", "density > 0", "-", "For the mass, gravity and rotation; as in \"7850 kg/m^3\"."},
    Key{"material.NAME", "expansion", "number or three, \"1.2e-5 1/K\", or formula of T", "0",
        "Thermal strain per degree, along all axes or each. A formula of the temperature T, which may call a table, is "
        "the "
        "mean from conduction.reference to there: the strain is expansion(T) (T - reference)."},
    Key{"material.NAME", "conductivity", "number or [k1, k2], \"40 W/(m K)\", or formula of T", "-",
        "Conductivity, along all axes or the first and second, of solids also [k1, k2, k3]. As a formula of the "
        "temperature T, or of whatever the "
        "potential is, the same along all axes; the equation is then solved round by round."},

    Key{"conduction", "potential", "text", "\"temperature\"",
        "What the potential is; another one, such as \"voltage\" or \"head\", has plain numbers everywhere."},
    Key{"conduction", "unit", "text", "K for temperature",
        "The unit that the potential is shown with, such as \"°C\"."},
    Key{"conduction", "reference", "number, \"293 K\"", "0",
        "The temperature at which nothing is strained. With a load temperature_change alone, what it is added to."},

    Key{"table.NAME", "points", "[[x, value], ...]", "this or file",
        "A function for formulas, called as NAME(x): straight between the points, constant beyond the ends."},
    Key{"table.NAME", "file", "path", "this or points",
        "The same from a table of text, relative to the study, as people have them: with commas, semicolons, tabs or "
        "spaces, a first row of names, and lines that begin with #. With columns x and y the points are scattered over "
        "the plane, in any order, and it is called as NAME(x, y): smooth between them, and of linear data exact; where "
        "no neighbours are near, the value of the nearest point. A unit in a heading, as in \"x [in]\", counts."},
    Key{"table.NAME", "value", "name of a column", "the only other one", "file: the column of the values."},

    Key{"support.NAME", "on", "boundary name or names", "on or at required",
        "Where it acts; * and ? stand for any letters."},
    Key{"support.NAME", "at", "a place or a point's name", "-",
        "Instead of `on`: a single corner of the outline or a named point, to stop a rigid motion; of solids a corner "
        "or a named point."},
    Key{"support.NAME", "hold", "\"fixed\", \"symmetry\", \"antisymmetry\"", "-",
        "fixed: no displacement. symmetry: none across the boundary, which must be straight. antisymmetry: none along "
        "it."},
    Key{"support.NAME", "ux", "length or formula", "-", "Prescribed displacement along x; the other stays free."},
    Key{"support.NAME", "uy", "length or formula", "-", "Prescribed displacement along y."},
    Key{"support.NAME", "uz", "length or formula", "-", "The same along z; of solids."},
    Key{"support.NAME", "normal", "length or formula", "-", "Prescribed displacement along the outward normal."},
    Key{"support.NAME", "normal_stiffness", "force per volume or formula", "-",
        "Elastic foundation: stress per displacement across the boundary."},
    Key{"support.NAME", "tangential_stiffness", "force per volume or formula", "-",
        "Elastic foundation: stress per displacement along the boundary."},
    Key{"support.NAME", "potential", "number or formula", "-", "Prescribed potential, such as a temperature."},
    Key{"support.NAME", "about", "[x, y]", "[0, 0]", "Origin of r and theta in its formulas."},

    Key{"periodic.NAME", "between", "two boundary names", "required",
        "Two boundaries of the same shape that move alike, and have the same potential."},
    Key{"periodic.NAME", "jump", "[dux, duy]", "[0, 0]", "Displacement of the second less that of the first."},
    Key{"periodic.NAME", "turn", "number, \"30 deg\"", "-",
        "Cyclic symmetry of a sector: the second boundary is the first turned by this angle, and so is its "
        "displacement."},
    Key{"periodic.NAME", "about", "[x, y]", "[0, 0]", "turn: the centre."},
    Key{"periodic.NAME", "potential_jump", "number", "0", "Potential of the second less that of the first."},

    Key{"remote.NAME", "at", "[x, y]", "required", "A point, in the part or not, that stands for a boundary."},
    Key{"remote.NAME", "on", "boundary name or names", "required", "The boundary."},
    Key{"remote.NAME", "tie", "\"rigid\", \"mean\"", "\"rigid\"",
        "rigid: the boundary moves with the point as a rigid body. mean: it may deform, and the point has its mean "
        "motion."},
    Key{"remote.NAME", "force", "[fx, fy]", "[0, 0]", "Force at the point."},
    Key{"remote.NAME", "moment", "moment", "0", "Moment at the point, anticlockwise."},
    Key{"remote.NAME", "ux", "length", "free", "Prescribed motion of the point along x."},
    Key{"remote.NAME", "uy", "length", "free", "Along y."},
    Key{"remote.NAME", "turn", "number, \"1 deg\"", "free", "Its rotation, anticlockwise."},

    Key{"resistance.NAME", "on", "boundary name or names", "required",
        "Edges between two regions that resist, of solids faces."},
    Key{"resistance.NAME", "value", "number > 0, \"1e-4 m^2 K/W\"", "required", "Jump of the potential per flux."},

    Key{"load.NAME", "on", "boundary (or region) name or names", "required on boundaries, else everywhere",
        "Where it acts: boundaries, or regions for what acts in the volume."},
    Key{"load.NAME", "at", "a place or a point's name", "-", "With force: it acts at this point."},
    Key{"load.NAME", "traction", "[tx, ty]", "-",
        "Force per area; numbers or formulas. Of a solid this and all other vectors have three components."},
    Key{"load.NAME", "pressure", "stress or formula", "-", "Pressure, positive into the material."},
    Key{"load.NAME", "force", "[fx, fy]", "-", "Total force, spread over the boundary, or at a point."},
    Key{"load.NAME", "moment", "moment; of solids [mx, my, mz]", "-",
        "Total moment, anticlockwise, of solids about the axes, spread over the boundary as a traction that grows in "
        "proportion to the distance "
        "from its centre."},
    Key{"load.NAME", "body_force", "[bx, by]", "-", "Force per volume; numbers or formulas."},
    Key{"load.NAME", "gravity", "[gx, gy]", "-", "Acceleration by which the weight pulls: [0, \"-9.81 m/s^2\"]."},
    Key{"load.NAME", "rotation", "angular speed, \"3000 rpm\"", "-",
        "Centrifugal force about the point about, or the axis of an axisymmetric part; of solids about the line "
        "about."},
    Key{"load.NAME", "temperature_change", "number or formula", "-",
        "Change of temperature, which strains what expands."},
    Key{"load.NAME", "flux", "number or formula, \"500 W/m^2\"", "-", "Flux per area into the part."},
    Key{"load.NAME", "flow", "number, \"20 W\"", "-", "Total flow into the part through the boundary."},
    Key{"load.NAME", "source", "number or formula, \"1e6 W/m^3\"", "-", "Source per volume."},
    Key{"load.NAME", "transfer", "number or formula, \"25 W/(m^2 K)\"", "-",
        "Flux into the part per difference between ambient and the boundary's potential (convection)."},
    Key{"load.NAME", "ambient", "number or formula", "with transfer: required", "The potential of the surroundings."},
    Key{"load.NAME", "spread", "formula", "\"1\"",
        "With force or flow: how it is spread; scaled so that the total is kept."},
    Key{"load.NAME", "about", "[x, y]; [[x, y, z], [x, y, z]]", "[0, 0]; the axis z",
        "Origin of r and theta in its formulas; centre of rotation, of a solid's rotation two points of the axis."},

    Key{"case.NAME", "factors", "table name = number", "required",
        "A load case: loads and remote points act with these factors, loads that are not named do not act. Prescribed "
        "values act fully unless named. A case that stands above may be named too, with all that it has. All cases are "
        "solved with one factorisation."},

    Key{"size", "global", "length", "from the part",
        "Element size where nothing finer is asked. Left out: a twelfth of the square root of the area."},
    Key{"size", "growth", "number > 1", "1.3", "Largest ratio from one element to the next."},
    Key{"size", "segments_per_circle", "number >= 3", "16", "Elements round a full turn of any curved boundary."},
    Key{"size", "smallest", "length", "1e-7 of the diagonal", "No rule goes below this."},
    Key{"size", "most_elements", "whole number", "1000000",
        "A mesh that would have more is refused before it is made."},
    Key{"size", "local", "tables", "-", "Sizes at named places."},

    Key{"size", "layers", "tables", "-", "Rows of thin elements along boundaries."},

    Key{"size.local.NAME", "on", "name or names", "everywhere",
        "Boundaries, regions or points where it holds; * and ? stand for any letters."},
    Key{"size.local.NAME", "inside", "table", "-",
        "Instead of on: inside a shape, as in { shape = \"circle\", centre = [20, 5], radius = 3 }, of solids a box, "
        "cylinder, cone, sphere or ring. All keys of a shape of the part may be used, but it only guides the size."},
    Key{"size.local.NAME", "along", "table", "-",
        "Instead of on: along the outline of a shape, or a line, in space { shape = \"line\", from = [x, y, z], to = "
        "[x, y, z] }."},
    Key{"size.local.NAME", "within", "length", "0", "on and along: the size holds to this distance, then grows."},
    Key{"size.local.NAME", "size", "length or formula", "-",
        "Element size there. A formula may use x, y, r, theta (about the origin), of solids z."},
    Key{"size.local.NAME", "table", "path", "-",
        "Instead of size: a CSV file with columns x, y, of solids z, and size, whose rows make a grid; in between it "
        "is "
        "linear along each axis."},
    Key{"size.local.NAME", "divisions", "whole number", "-",
        "Instead of size: exactly so many elements along each of the edges in on; of solids named edges."},
    Key{"size.local.NAME", "bias", "number >= 1", "1", "divisions: the longest over the shortest, in geometric steps."},
    Key{"size.local.NAME", "finer_at", "\"ends\", \"middle\", a place, a point's or boundary's name",
        "\"ends\" with bias",
        "divisions: where they are shortest. A boundary's name means the end where it meets the edge."},
    Key{"size.local.NAME", "across", "number >= 1", "-",
        "Instead of size: at least so many elements across narrow places, whose width is measured; of solids across "
        "walls."},
    Key{"size.local.NAME", "segments_per_circle", "number >= 3", "from size",
        "Instead of size: elements round a full turn of the curved edges in on, of solids of faces and edges."},
    Key{"size.local.NAME", "smallest", "length > 0", "-", "The rule asks for nothing finer."},
    Key{"size.local.NAME", "largest", "length > 0", "-", "The rule asks for nothing coarser."},

    Key{"size.layers.NAME", "on", "boundary name or names", "required", "Along which boundaries."},
    Key{"size.layers.NAME", "inside", "region name or names", "both sides",
        "On which side of a boundary between regions."},
    Key{"size.layers.NAME", "first", "length > 0", "from total", "Height of the row at the boundary."},
    Key{"size.layers.NAME", "rows", "whole number", "from total", "How many rows."},
    Key{"size.layers.NAME", "growth", "number >= 1", "1.2", "Height of a row over the one before it."},
    Key{"size.layers.NAME", "total", "length > 0", "from the others",
        "Height of all rows together. Two of first, rows and total are needed; with all three the growth follows."},

    Key{"mesh", "elements", "\"triangles\", \"mostly_quadrilaterals\", \"quadrilaterals\", \"grid\"", "\"triangles\"",
        "Shape of the elements. grid: rows and columns, on pieces with four sides."},
    Key{"mesh", "order", "1, 2", "2", "Polynomial degree: 1 has nodes at corners, 2 also in the middle of sides."},
    Key{"mesh", "region", "tables", "-", "Other elements in single regions."},

    Key{"mesh", "retry", "table", "-", "What to change where the first mesh cannot be made."},
    Key{"mesh", "remesh", "tables", "-", "Zones of a given mesh that `dotsift remesh` makes anew."},

    Key{"mesh.region.NAME", "elements", "as in mesh", "required", "Shape of the elements in the region NAME."},
    Key{"mesh.region.NAME", "corners", "four [x, y]", "found",
        "grid: the corners of the four sides; left out, the four sharpest."},

    Key{"mesh.retry", "tries", "whole number from 1 to 20", "required", "How often to try again."},
    Key{"mesh.retry", "sizes", "number > 0", "1", "Every size is multiplied by this before each try."},
    Key{"mesh.retry", "merge_points", "number > 0", "1",
        "part.cleanup.merge_points is multiplied by this before each try (without it, a millionth of the part's "
        "diagonal)."},

    Key{"mesh.remesh.NAME", "on", "region names", "this or inside", "Elements of these regions are made anew."},
    Key{"mesh.remesh.NAME", "inside", "placed shape", "this or on",
        "Elements whose centre lies in the shape are made anew."},
    Key{"mesh.remesh.NAME", "size", "length > 0, formula", "as in size", "Wanted in the zone; the smaller one holds."},
    Key{"mesh.remesh.NAME", "blend", "true, false", "true",
        "Elements round the zone that are too large beside it are made anew, too, so that sizes grow out of it; false: "
        "the zone alone, whose own elements then have to meet those that stay."},

    Key{"quality.NAME", "of",
        "\"shape\", \"scaled_jacobian\", \"jacobian_ratio\", \"smallest_angle\", \"largest_angle\", \"edge_ratio\", "
        "\"skewness\", \"taper\", \"size_ratio\"",
        "required",
        "The measure whose limits these are, instead of the standard ones; later tables overrule earlier ones."},
    Key{"quality.NAME", "good", "number", "required", "An element is good up to here."},
    Key{"quality.NAME", "acceptable", "number", "required", "And acceptable up to here; beyond, it is poor."},
    Key{"quality.NAME", "elements", "\"triangles\", \"quadrilaterals\"", "both", "For elements of this kind only."},
    Key{"quality.NAME", "on", "region name or names", "all", "For elements of these regions only."},
    Key{"quality.NAME", "inside", "table", "-",
        "For elements in a shape only, as in { shape = \"circle\", centre = [20, 5], radius = 3 }: an area of "
        "interest; of a solid a shape of space."},

    Key{"series.NAME", "kind", "\"uniform\", \"local\", \"adaptive\"", "required",
        "uniform: every level's sizes are the one before's divided by ratio. local: those of single rules are, the "
        "rest "
        "stays. adaptive: sizes follow the estimated error."},
    Key{"series.NAME", "ratio", "number > 1", "1.5", "uniform, local: refinement from level to level."},
    Key{"series.NAME", "rules", "name or names", "required for local",
        "local: the size rules (size.local and size.layers) that become finer."},
    Key{"series.NAME", "strategy", "\"target\", \"budget\", \"share_of_elements\", \"share_of_error\"", "\"target\"",
        "adaptive: target: the fewest elements for error_target. budget: the least error for a number of elements or "
        "unknowns. share_of_elements: those with the largest errors become finer. share_of_error: the fewest elements "
        "that hold this share of the squared error become finer."},
    Key{"series.NAME", "drive", "\"energy\", quantity, or several", "\"energy\"",
        "adaptive: whose error the sizes follow; of a quantity, by its dual problem, error_target is relative to it. "
        "Of several, as in [\"energy\", \"root_stress\"], each has its say by how far it is from the target, and all "
        "have to meet it."},
    Key{"series.NAME", "indicator",
        "\"recovery\", \"residual\", \"energy_density\", \"jump\", \"gradient\", or several", "\"recovery\"",
        "adaptive: what tells where the mesh is too coarse; several count alike. recovery: the difference to the "
        "recovered field. residual: "
        "what is out of balance in elements and on their sides. These two estimate the error; the others do not, and "
        "need a share or a budget as strategy. energy_density: energy per volume. jump: of a field's gradient "
        "from element to element. gradient: how much a field changes within an element."},
    Key{"series.NAME", "of", "field, as in quantity.NAME", "required for jump, gradient",
        "adaptive: the field whose jumps or gradient count."},
    Key{"series.NAME", "share", "ratio, \"30 %\"", "0.3 of elements, 0.6 of error", "For the two shares."},
    Key{"series.NAME", "finer", "number > 1", "2", "What these elements' sizes are divided by."},
    Key{"series.NAME", "budget_elements", "whole number", "-", "For the budget: about this many elements."},
    Key{"series.NAME", "budget_unknowns", "whole number", "-", "Instead of that: about this many unknowns."},
    Key{"series.NAME", "coarsen", "true, false", "true; false for shares", "adaptive: elements may become larger."},
    Key{"series.NAME", "keep_rest", "true, false", "false",
        "adaptive, for shares: only the elements that become smaller, and those beside them, are made anew; the rest "
        "of "
        "the mesh stays node for node."},
    Key{"series.NAME", "within", "region or regions", "all", "adaptive: other regions keep their sizes."},
    Key{"series.NAME", "start_from", "\"SERIES/LEVEL\" or \"FILE.vtu\"", "the mesh of [size]",
        "uniform, adaptive: the level of a series above whose mesh is this one's first, as in \"coarse/2\"; or a mesh "
        "file, relative to the study, such as one that remesh wrote."},
    Key{"series.NAME", "smallest", "length > 0", "that of [size]", "adaptive: no element is asked to be smaller."},
    Key{"series.NAME", "largest", "length > 0", "twice the global size", "adaptive: nor larger."},
    Key{"series.NAME", "growth", "number > 1", "that of [size]",
        "adaptive: largest ratio from one element to the next."},
    Key{"series.NAME", "most_levels", "whole number", "4 uniform, 8 adaptive", "Number of meshes at most."},
    Key{"series.NAME", "most_elements", "whole number", "200000", "No mesh of the series has more."},
    Key{"series.NAME", "most_unknowns", "whole number", "-", "No level begins after one that has this many."},
    Key{"series.NAME", "most_seconds", "number > 0", "-", "No level begins after this time, counted from the first."},
    Key{"series.NAME", "most_memory", "number > 0 (GB)", "-", "No level begins after one that took so much."},
    Key{"series.NAME", "until_quantities", "true, false", "adaptive: true without other targets; else false",
        "Goes on until every quantity that has a target is known to that uncertainty (three levels at least), whatever "
        "other targets are reached before. Quantities that have no limit are not waited for."},
    Key{"series.NAME", "error_target", "ratio, \"1 %\"", "\"2 %\" adaptive, where no quantity has a target",
        "Stops when the estimated relative energy-norm error is below."},
    Key{"series.NAME", "change_target", "ratio, \"1 %\"", "-",
        "Stops when every quantity that has a target changes by less from one level to the next."},
    Key{"series.NAME", "gci_target", "ratio, \"1 %\"", "-",
        "Stops when the grid convergence index of every quantity that has a target (or of all, if none has) is below; "
        "three levels at least. Values that do not converge steadily have none."},

    Key{"quantity.NAME", "of",
        "\"ux\", \"uy\", \"displacement\", \"ur\", \"ut\", \"sxx\", \"syy\", \"szz\", \"sxy\", \"srr\", \"stt\", "
        "\"srt\", "
        "\"von_mises\", \"max_principal\", \"min_principal\", \"max_shear\", \"exx\", \"eyy\", \"ezz\", \"exy\", "
        "\"potential\", \"flux_x\", \"flux_y\", \"flux\", \"reaction_x\", \"reaction_y\", \"reaction_flow\", "
        "\"section_force_x\", \"section_force_y\", \"section_moment\", \"strain_energy\", \"dissipation\", \"turn\", "
        "\"uz\", \"syz\", \"szx\", \"eyz\", \"ezx\", \"flux_z\", \"reaction_z\"",
        "this or formula",
        "What is watched. Stresses, strains and fluxes are recovered ones. Principal stresses are those in the plane; "
        "the largest shear is that of all planes. r and t are radial and tangential about the point about. A section "
        "force is what the side to the left of a path does to the one on its right; its moment is about the path's "
        "middle. The dissipation of conduction is the integral of flux times falling gradient over the part. The turn "
        "of a "
        "boundary, in radians, is that of the rigid motion nearest to its own. uz, syz, szx, eyz, ezx, flux_z and "
        "reaction_z are of solids, sections and turn of plane parts."},
    Key{"quantity.NAME", "take",
        "\"maximum\", \"minimum\", \"mean\", \"value\", \"integral\", \"membrane\", \"linearised\"",
        "\"maximum\"; of min_principal \"minimum\"; with at: \"value\"",
        "What is taken of it; means and integrals are over the length of the boundaries in on or of a path, or over "
        "the area. membrane: of the stress averaged across a path; linearised: an end value of its linear part."},
    Key{"quantity.NAME", "along", "path name", "-", "Along a path instead of on boundaries or regions."},
    Key{"quantity.NAME", "end", "\"first\", \"last\"", "the larger value's",
        "linearised: which end of the path counts. Without it the first one does unless the other's value is larger by "
        "a tenth: nearly equal ones of opposite sign would change places from mesh to mesh."},
    Key{"quantity.NAME", "case", "case name", "the first",
        "The load case. With * or ? in it, a quantity for each case that fits, called NAME_CASE."},
    Key{"quantity.NAME", "from", "\"recovered\", \"elements\", \"integration_points\"", "\"recovered\"",
        "Stress, strain and flux: the recovered field; the elements' own, not averaged; or the elements' own at their "
        "integration points only."},
    Key{"quantity.NAME", "about", "[x, y] or a point's name", "[0, 0]", "Axis of radial and tangential components."},
    Key{"quantity.NAME", "on", "name or names", "the whole part",
        "Boundaries or regions; for reactions the supports, or all of them. Between two regions both sides count: an "
        "extreme is that of both, a mean the mean of both; see inside."},
    Key{"quantity.NAME", "inside", "region or regions", "both sides",
        "On an interface, or at a point of one: the side that counts. Stress and flux jump there."},
    Key{"quantity.NAME", "at", "[x, y], [x, y, z] or a point's name", "-", "The point for a value."},
    Key{"quantity.NAME", "formula", "formula", "-", "Instead of `of`: a formula of other quantities by their names."},
    Key{"quantity.NAME", "target", "ratio, \"1 %\", \"0.02 mm\"", "-",
        "Wanted numerical uncertainty, as a share of the value or with the quantity's unit; the verdict says if it is "
        "met. A bare number is a share, and below 0.5."},
    Key{"quantity.NAME", "dual", "true, false", "true with a target; false for peaks",
        "Estimates its error, with sign, by a dual problem (docs/methods.md)."},
    Key{"quantity.NAME", "reference", "number", "-", "A value known from elsewhere, shown beside the result."},
    Key{"quantity.NAME", "relative_to", "[x, y], [x, y, z] or a point's name", "-",
        "Displacements are less the one at this point."},
    Key{"quantity.NAME", "limit", "table", "-",
        "What the value may be, as in { highest = \"160 MPa\", factor_of_safety = 1.5 }: the verdict holds value and "
        "interval against it."},

    Key{"quantity.NAME.limit", "highest", "number", "this or lowest", "The highest value allowed."},
    Key{"quantity.NAME.limit", "lowest", "number", "this or highest", "The lowest value allowed."},
    Key{"quantity.NAME.limit", "factor_of_safety", "number >= 1", "1",
        "Makes both stricter: a positive highest value is divided by it, a negative one multiplied; a lowest one the "
        "other way round."},

    Key{"results", "integration_points", "true, false", "false",
        "Lists the elements' own stress and flux at every integration point, in a table of each level."},

    Key{"results", "error_bound", "true, false", "false",
        "Also an upper bound of the error in the energy norm, from a field that is in balance with the loads."},
    Key{"results", "pictures", "\"none\", \"last\", \"ends\", \"all\"", "\"ends\"",
        "Of which levels large pictures are made: the last of each series, the first one as well, or all. The report "
        "shows small ones of every level but with none, which leaves all pictures out. With all, fields come as "
        "vectors (.svg), too."},

    Key{"picture.NAME", "of", "field", "required", "A picture of one's choice: any field of quantity.NAME.of."},
    Key{"picture.NAME", "case", "case name, \"*\"", "the first",
        "The load case; \"*\": all of them together, as of_cases says."},
    Key{"picture.NAME", "of_cases", "\"largest\", \"smallest\", \"governing\"", "\"largest\"",
        "case = \"*\": at each place the largest or smallest value over the cases, or which case gives the largest."},
    Key{"picture.NAME", "about", "[x, y] or a point's name", "[0, 0]", "Centre of radial and hoop components."},
    Key{"picture.NAME", "series", "series name", "that of the finest level", "The series."},
    Key{"picture.NAME", "level", "whole number", "its last", "The level of the series."},
    Key{"picture.NAME", "range", "[lowest, highest]", "that of the field", "What the colours span."},
    Key{"picture.NAME", "box", "[[x, y], [x, y]]", "the whole part", "Opposite corners of what is shown."},
    Key{"picture.NAME", "section", "table", "-",
        "Of a solid: what lies before a plane is taken away, and the field is shown on the cut, as in "
        "{ at = [0, 0, 5], normal = [0, 0, 1] }."},
    Key{"picture.NAME", "deformed", "\"visibly\", number", "-",
        "The deformed shape beside the undeformed outline: displacements times this factor, or times one that shows "
        "them well, which is told."},
    Key{"picture.NAME", "element_sides", "true, false", "true", "Draws the sides of the elements."},
    Key{"picture.NAME.section", "at", "[x, y, z]", "required", "A point on the plane."},
    Key{"picture.NAME.section", "normal", "[x, y, z]", "required", "Points to what is taken away, and to the eye."},

    Key{"solver", "method", "\"automatic\", \"direct\", \"iterative\"", "\"automatic\"",
        "automatic: by the size of the system, the shape of its elements and the memory."},
    Key{"solver", "most_memory", "number of GB", "90 % of what is free",
        "What a factor may take. Where it needs more, the iteration is used, or the study is refused."},

    Key{"vary.NAME", "values", "table", "required",
        "For `dotsift vary`: variables of the study and the values they take, each a list or a range, as in { fillet = "
        "[\"2 mm\", \"3 mm\"], pull = { from = \"10 kN\", to = \"30 kN\", count = 5 } }."},
    Key{"vary.NAME", "together", "true, false", "false",
        "The first values of all variables together, then the second ones; otherwise every combination."},

    Key{"path.NAME", "points", "array of [x, y], of solids [x, y, z]", "this or follow",
        "Its two ends, or all its corners."},
    Key{"path.NAME", "follow", "boundary name or names", "this or points",
        "The edges of these names, one after the other, with the material on the left; distances are along them."},
    Key{"path.NAME", "from", "[x, y] or a point's name", "its first corner",
        "follow: where it begins, at the nearest place of the boundary; of a closed one, where it is opened."},
    Key{"path.NAME", "to", "[x, y] or a point's name", "its end", "follow: where it ends."},
    Key{"path.NAME", "samples", "whole number >= 2", "101", "Rows in its table."},

    Key{"exact_stress", "sxx", "formula", "required",
        "A stress field known in closed form: the results then show the true error and the effectivity index."},
    Key{"exact_stress", "syy", "formula", "required", "Its second component."},
    Key{"exact_stress", "sxy", "formula", "required", "Its shear."},
    Key{"exact_stress", "szz", "formula", "from the others",
        "Stress through the thickness, or round the axis. Required of solids, and if plane = \"axisymmetric\"."},
    Key{"exact_stress", "syz", "formula", "-", "Of solids, where it is required."},
    Key{"exact_stress", "szx", "formula", "-", "Of solids, where it is required."},
    Key{"exact_stress", "about", "[x, y]", "[0, 0]", "Origin of r and theta."},
};

/// Sections that hold only sub-tables or named tables, so that they are known at the top of the file.
constexpr std::array<std::string_view, 23> top_sections{
    "results", "solver",   "units",    "variables",  "table",        "part", "conduction", "material",
    "support", "periodic", "remote",   "resistance", "load",         "case", "size",       "mesh",
    "quality", "path",     "quantity", "series",     "exact_stress", "vary", "picture"};

}  // namespace

std::span<const Key> study_keys() {
    return table;
}

std::vector<std::string> keys_of(std::string_view section) {
    if (section == "placed shape") {  // a shape of the part, but for what makes it one
        std::vector<std::string> keys{"shape"};
        constexpr std::array<std::string_view, 17> of_parts{
            "extrude", "revolve",  "normal", "add",   "cut",  "intersect", "split",  "mark", "change",
            "region",  "priority", "of",     "names", "name", "keep",      "length", "count"};
        for (const auto& key : keys_of("part.shape"))
            if (std::find(of_parts.begin(), of_parts.end(), key) == of_parts.end()) keys.push_back(key);
        return keys;
    }
    std::vector<std::string> keys;
    for (const auto& k : table)
        if (k.section == section) keys.emplace_back(k.key);
    if (section.empty()) {
        for (const auto s : top_sections)
            if (std::find(keys.begin(), keys.end(), s) == keys.end()) keys.emplace_back(s);
    }
    return keys;
}

std::vector<std::string> key_sections() {
    std::vector<std::string> names;
    for (const auto& k : table) {
        const std::string_view name = k.section.substr(0, k.section.find(".NAME"));
        if (!name.empty() && std::find(names.begin(), names.end(), name) == names.end()) names.emplace_back(name);
    }
    return names;
}

std::string key_reference(const std::string& wanted, const std::string& word) {
    const auto has_word = [&](std::string_view text) {
        return std::search(text.begin(), text.end(), word.begin(), word.end(), [](char a, char b) {
                   return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
               }) != text.end();
    };
    std::string text;
    std::string_view section = "?";
    for (const auto& k : table) {
        if (!k.section.starts_with(wanted)) continue;
        if (!word.empty() && !has_word(k.section) && !has_word(k.key) && !has_word(k.value) && !has_word(k.meaning))
            continue;
        if (k.section != section) {
            section = k.section;
            const std::string heading = section.empty()                  ? "Top of the file"
                                        : section == "part.shape"        ? "`[[part.shape]]`"
                                        : section == "part.shape.pieces" ? "`pieces` of an outline"
                                                                         : fmt::format("`[{}]`", section);
            text += fmt::format("\n### {}\n\n| key | value | standard | meaning |\n|---|---|---|---|\n", heading);
        }
        text += fmt::format("| `{}` | {} | {} | {} |\n", k.key, k.value, k.standard, k.meaning);
    }
    return text;
}

}  // namespace dotsift
