#include "study/keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace dotsift {

namespace {

constexpr std::array table{
    Key{"", "format", "1", "required", "Version of the study format."},
    Key{"", "title", "text", "the file's name", "Heading of the report."},
    Key{"", "units", "table", "m and N", "Units of every number that carries none of its own."},

    Key{"units", "length", "m, mm, cm, um, km, in, ft", "m", "Unit of length."},
    Key{"units", "force", "N, mN, kN, MN, lbf, kip", "N", "Unit of force; stress follows, as in mm and N: MPa."},

    Key{"variables", "NAME", "number or formula", "-",
        "A value used by name in any formula below. A formula may use other variables. One that also uses x, y, r, "
        "theta, nx or ny is a field, and stands only where a place is known: in supports, loads and exact_stress."},

    Key{"part", "name", "name", "\"part\"", "Name of the region that the shapes make; quantities may refer to it."},
    Key{"part", "plane", "\"stress\", \"strain\"", "\"stress\"", "Plane stress or plane strain."},
    Key{"part", "thickness", "length > 0", "1", "Thickness; total forces and energies are for this thickness."},
    Key{"part", "shape", "array of tables", "required", "The shapes that make the outline, in their order."},

    Key{"part.shape", "add", "\"rectangle\", \"circle\", \"ellipse\", \"polygon\", \"slot\"", "add or cut required",
        "Adds a shape to what stands above."},
    Key{"part.shape", "cut", "the same", "add or cut required", "Cuts a shape out of what stands above."},
    Key{"part.shape", "name", "name", "-", "Names all edges that come from this shape."},
    Key{"part.shape", "names", "table side = name", "-",
        "Names single sides. rectangle: left, right, top, bottom, corners, corner1 to corner4 (from bottom left, "
        "anticlockwise). polygon: side1 (from the first corner to the second), ..., corner1, ..., corners. slot: "
        "flanks, ends. Several sides may share a name."},
    Key{"part.shape", "corner", "[x, y]", "[0, 0]", "rectangle: its bottom left corner."},
    Key{"part.shape", "size", "[width, height]", "-", "rectangle: its sides."},
    Key{"part.shape", "angle", "number, \"30 deg\"", "0",
        "rectangle, ellipse: turn, anticlockwise, in radians unless a unit says otherwise; about the corner or "
        "centre."},
    Key{"part.shape", "centre", "[x, y]", "[0, 0]", "circle, ellipse."},
    Key{"part.shape", "radius", "length", "-", "circle."},
    Key{"part.shape", "radii", "[a, b]", "-", "ellipse: half axes."},
    Key{"part.shape", "corners", "array of [x, y]", "-", "polygon: at least three, in order round it."},
    Key{"part.shape", "round", "length", "0", "rectangle, polygon: radius at every corner."},
    Key{"part.shape", "rounds", "table number = length", "-",
        "rectangle, polygon: radius at single corners, counted from 1; overrules round."},
    Key{"part.shape", "from", "[x, y]", "-", "slot: centre of one end."},
    Key{"part.shape", "to", "[x, y]", "-", "slot: centre of the other end."},
    Key{"part.shape", "width", "length", "-", "slot: its full width; the ends are half circles."},

    Key{"material.NAME", "youngs_modulus", "stress > 0", "required", "Young's modulus."},
    Key{"material.NAME", "poissons_ratio", "-1 < number < 0.5", "required",
        "Poisson's ratio; 0.5 is possible in plane stress only."},

    Key{"support.NAME", "on", "boundary name or names", "on or at required",
        "Where it acts; * and ? stand for any letters."},
    Key{"support.NAME", "at", "[x, y]", "-",
        "Instead of `on`: a single corner of the outline, to stop a rigid motion."},
    Key{"support.NAME", "hold", "\"fixed\", \"symmetry\"", "-",
        "fixed: no displacement. symmetry: none across the boundary, which must be straight."},
    Key{"support.NAME", "ux", "length or formula", "-", "Prescribed displacement along x; the other stays free."},
    Key{"support.NAME", "uy", "length or formula", "-", "Prescribed displacement along y."},
    Key{"support.NAME", "about", "[x, y]", "[0, 0]", "Origin of r and theta in its formulas."},

    Key{"load.NAME", "on", "boundary name or names", "required", "Where it acts."},
    Key{"load.NAME", "traction", "[tx, ty]", "-", "Force per area; numbers or formulas."},
    Key{"load.NAME", "pressure", "stress or formula", "-", "Pressure, positive into the material."},
    Key{"load.NAME", "force", "[fx, fy]", "-", "Total force, spread over the boundary."},
    Key{"load.NAME", "spread", "formula", "\"1\"",
        "With force: how it is spread; scaled so that the total is the force."},
    Key{"load.NAME", "about", "[x, y]", "[0, 0]", "Origin of r and theta in its formulas."},

    Key{"size", "global", "length", "from the part",
        "Element size where nothing finer is asked. Left out: a twelfth of the square root of the area."},
    Key{"size", "growth", "number > 1", "1.3", "Largest ratio from one element to the next."},
    Key{"size", "segments_per_circle", "number >= 3", "16", "Elements round a full turn of any curved boundary."},
    Key{"size", "smallest", "length", "1e-7 of the diagonal", "No rule goes below this."},
    Key{"size", "most_elements", "whole number", "1000000",
        "A mesh that would have more is refused before it is made."},
    Key{"size", "local", "tables", "-", "Sizes at named places."},

    Key{"size.local.NAME", "on", "boundary name or names", "required", "Where it holds."},
    Key{"size.local.NAME", "size", "length > 0", "required", "Element size there."},

    Key{"series.NAME", "kind", "\"uniform\", \"adaptive\"", "required",
        "uniform: every level's sizes are the one before's divided by ratio. adaptive: sizes follow the estimated "
        "error."},
    Key{"series.NAME", "ratio", "number > 1", "1.5", "uniform: refinement from level to level."},
    Key{"series.NAME", "most_levels", "whole number", "4 uniform, 8 adaptive", "Number of meshes at most."},
    Key{"series.NAME", "most_elements", "whole number", "200000", "No mesh of the series has more."},
    Key{"series.NAME", "error_target", "ratio, \"1 %\"", "\"2 %\" adaptive",
        "Stops when the estimated relative energy-norm error is below."},
    Key{"series.NAME", "change_target", "ratio, \"1 %\"", "-",
        "Stops when every quantity that has a target changes by less from one level to the next."},

    Key{"quantity.NAME", "of",
        "\"ux\", \"uy\", \"displacement\", \"sxx\", \"syy\", \"szz\", \"sxy\", \"von_mises\", \"max_principal\", "
        "\"min_principal\", \"reaction_x\", \"reaction_y\", \"strain_energy\"",
        "required", "What is watched. Stresses are recovered ones. Principal stresses are those in the plane."},
    Key{"quantity.NAME", "take", "\"maximum\", \"minimum\", \"mean\", \"value\"", "\"maximum\", with at: \"value\"",
        "What is taken of it; a mean is over the length of the boundaries in on, or over the area."},
    Key{"quantity.NAME", "on", "name or names", "the whole part",
        "Boundaries; for reactions the supports, or all of them."},
    Key{"quantity.NAME", "at", "[x, y]", "-", "The point for a value."},
    Key{"quantity.NAME", "formula", "formula", "-", "Instead of `of`: a formula of other quantities by their names."},
    Key{"quantity.NAME", "target", "ratio, \"1 %\"", "-",
        "Wanted numerical uncertainty; the verdict says if it is met."},
    Key{"quantity.NAME", "reference", "number", "-", "A value known from elsewhere, shown beside the result."},

    Key{"exact_stress", "sxx", "formula", "required",
        "A stress field known in closed form: the results then show the true error and the effectivity index."},
    Key{"exact_stress", "syy", "formula", "required", "Its second component."},
    Key{"exact_stress", "sxy", "formula", "required", "Its shear."},
    Key{"exact_stress", "about", "[x, y]", "[0, 0]", "Origin of r and theta."},
};

/// Sections that hold only sub-tables or named tables, so that they are known at the top of the file.
constexpr std::array<std::string_view, 9> top_sections{"units", "variables", "part",     "material", "support",
                                                       "load",  "size",      "quantity", "series"};

}  // namespace

std::span<const Key> study_keys() {
    return table;
}

std::vector<std::string> keys_of(std::string_view section) {
    std::vector<std::string> keys;
    for (const auto& k : table)
        if (k.section == section) keys.emplace_back(k.key);
    if (section.empty()) {
        for (const auto s : top_sections)
            if (std::find(keys.begin(), keys.end(), s) == keys.end()) keys.emplace_back(s);
        keys.emplace_back("exact_stress");
    }
    return keys;
}

std::string key_reference() {
    std::string text;
    std::string_view section = "?";
    for (const auto& k : table) {
        if (k.section != section) {
            section = k.section;
            const std::string heading = section.empty()           ? "Top of the file"
                                        : section == "part.shape" ? "`[[part.shape]]`"
                                                                  : fmt::format("`[{}]`", section);
            text += fmt::format("\n### {}\n\n| key | value | standard | meaning |\n|---|---|---|---|\n", heading);
        }
        text += fmt::format("| `{}` | {} | {} | {} |\n", k.key, k.value, k.standard, k.meaning);
    }
    return text;
}

}  // namespace dotsift
