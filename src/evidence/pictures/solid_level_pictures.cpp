#include "evidence/pictures/solid_level_pictures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/pictures/change.hpp"
#include "evidence/summary.hpp"

namespace dotsift {

namespace {

// The largest displacement of a deformed shape, of the part's diagonal, where no factor is asked for.
constexpr double seen_share = 0.06;
// A difference is shown up to the value that this share of the outside's nodes stays below.
constexpr double shown_share = 0.999;

/// "y = 12.5 mm", or by a point and a direction.
std::string told_plane(const PlaneSpec& plane, const std::string& length) {
    for (std::size_t k = 0; k < 3; ++k)
        if (plane.normal[k] != 0 && plane.normal[(k + 1) % 3] == 0 && plane.normal[(k + 2) % 3] == 0)
            return fmt::format("{} = {} {}", "xyz"[k], sensible(plane.at[k]), length);
    return fmt::format("{}, square to ({:g}, {:g}, {:g})", told_point(plane.at), plane.normal[0], plane.normal[1],
                       plane.normal[2]);
}

SolidFieldPicture field_of(const Study& study, const Level& l, Field field, std::size_t load_case,
                           const std::vector<SingularPlace>& places) {
    SolidFieldPicture p;
    FieldSourceIn<3> source = l.solid->source(load_case);
    p.title = level_title(study, l);
    p.subtitle = level_counts(l);
    p.legend = title_of(study, field);
    p.unit = unit_of(study, field);
    p.length_unit = study.units.label(dimension::length);
    p.slots = slot_field(field, source);
    source.finest = true;
    const ExtremeIn<3> most = find_extreme(field, true, source, {}), least = find_extreme(field, false, source, {});
    if (most.value != least.value)
        for (const bool largest : {true, false}) {
            const auto& found = largest ? most : least;
            std::string label = label_without_value(*l.solid, field, load_case, largest, found.position, places);
            if (label.empty()) label = fmt::format("{} {}", largest ? "max" : "min", sensible(found.value));
            p.marks.push_back({found.position, std::move(label), largest ? 1 : 0});
        }
    return p;
}

}  // namespace

Camera view_of_extremes(const Level& level, Field field) {
    FieldSourceIn<3> source = level.solid->source();
    source.finest = true;
    return view_of_marks(level.solid->mesh, {{find_extreme(field, true, source, {}).position, {}, 1},
                                             {find_extreme(field, false, source, {}).position, {}, 0}});
}

PictureFiles draw_solid_change(const Study& study, const Level& level, const SharedRanges& ranges,
                               const Level& before) {
    const LevelFieldsIn<3>& now = *level.solid;
    SolidFieldPicture d;
    d.title = level_title(study, level);
    d.subtitle = fmt::format("difference to series {}, level {}, which has {} elements", before.series, before.index,
                             grouped(static_cast<long long>(before.mesh.elements)));
    d.legend = "difference of " + title_of(study, ranges.field);
    d.unit = unit_of(study, ranges.field);
    d.length_unit = study.units.label(dimension::length);
    d.camera = ranges.camera;
    d.map = ColourMap::swing;
    const std::vector<char> outer = outer_slots(now.mesh);
    d.slots = change_of<3>(ranges.field, *before.solid, now, outer);
    std::vector<double> sizes;
    for (std::size_t k = 0; k < d.slots.size(); ++k)
        if (outer[k]) sizes.push_back(std::fabs(d.slots[k]));
    const double largest = *std::max_element(sizes.begin(), sizes.end());
    const auto most = sizes.begin() + static_cast<std::ptrdiff_t>(shown_share * static_cast<double>(sizes.size() - 1));
    std::nth_element(sizes.begin(), most, sizes.end());
    d.high = *most > 0 ? *most : std::max(largest, 1e-300);
    d.low = -d.high;
    d.clipped = largest > d.high;
    return draw_solid_field(now.mesh, d, use_of_fields(study));
}

LevelPictures draw_solid_level(const Study& study, const Level& l, const SharedRanges& ranges, const Level* before,
                               PictureUse use) {
    LevelPictures out;
    const SolidMesh& mesh = l.solid->mesh;
    const std::string length = study.units.label(dimension::length);
    const PictureUse of_fields = use == PictureUse::files ? use_of_fields(study) : use;
    out.mesh = draw_solid_mesh(
        mesh, level_title(study, l),
        fmt::format("{} nodes, {} elements, mean shape quality {:.2f}, smallest angle between sides {:.0f}°",
                    grouped(static_cast<long long>(l.mesh.nodes)), grouped(static_cast<long long>(l.mesh.elements)),
                    l.mesh.mean_quality, l.mesh.smallest_angle),
        length, of_fields);
    SolidFieldPicture field = field_of(study, l, ranges.field, 0, ranges.places);
    field.camera = ranges.camera;
    field.low = ranges.low;
    field.high = ranges.high;
    field.clipped = ranges.clipped;
    out.field = draw_solid_field(mesh, field, of_fields);
    SolidFieldPicture e;
    e.title = level_title(study, l);
    e.subtitle = level_counts(l) + "; where an even colour is reached, every element works equally hard";
    e.legend = "error density";
    e.unit = "share of whole";
    e.length_unit = length;
    e.camera = ranges.camera;
    e.map = ColourMap::heat;
    e.elementwise = error_density(l);
    e.low = ranges.error_low;
    e.high = ranges.error_high;
    e.logarithmic = true;
    out.error = draw_solid_field(mesh, e, of_fields);
    if (before) out.change = draw_solid_change(study, l, ranges, *before);
    return out;
}

PictureFiles draw_solid_chosen(const Study& study, const Level& level, const PictureSpec& picture,
                               const std::vector<SingularPlace>& places, PictureUse use) {
    const LevelFieldsIn<3>& f = *level.solid;
    const std::size_t load_case = place_of_case(f.cases, picture.load_case);
    SolidFieldPicture p = field_of(study, level, picture.field, load_case, places);
    p.title = fmt::format("{}: {}", study.title, title_of(study, picture.field));
    p.subtitle = fmt::format("{}, level {}", level.series, level.index);
    if (!study.cases.empty()) p.subtitle += ", load case " + f.cases[load_case].solution.load_case;
    p.sides = picture.sides;
    if (picture.section) {
        p.section = picture.section;
        if (norm(p.section->normal) == 0)
            p.section = section_through(f.mesh, p.marks.empty() ? f.mesh.nodes.front() : p.marks.front().at);
        p.subtitle += fmt::format("; section at {}", told_plane(*p.section, study.units.label(dimension::length)));
    }
    const ColourRange range = colour_range(f.mesh, p.slots);
    p.low = picture.range ? (*picture.range)[0] : range.low;
    p.high = picture.range ? (*picture.range)[1] : range.high;
    p.clipped = picture.range ? p.low > range.lowest || p.high < range.highest : range.clipped;
    if (!picture.deformed) return draw_solid_field(f.mesh, p, use);
    const auto& u = f.cases[load_case].solution.displacement;
    Box<3> box;
    double largest = 0;
    for (std::size_t n = 0; n < u.size(); ++n) {
        box.add(f.mesh.nodes[n]);
        largest = std::max(largest, norm(u[n]));
    }
    const double factor = *picture.deformed > 0 ? *picture.deformed
                          : largest > 0         ? seen_share * box.diagonal() / largest
                                                : 1;
    for (const Vec3& d : u) p.displacement.push_back(d * factor);
    p.subtitle += fmt::format("; displacements {} times as large as they are", sensible(factor, 2));
    p.marks.clear();  // their places are those of the part as it was
    return draw_solid_field(f.mesh, p, use);
}

PictureFiles draw_solid_part(const Study& study, const Level& level) {
    return draw_solid_mesh(level.solid->mesh, study.title, "the solid with the names of its faces, in its first mesh",
                           study.units.label(dimension::length), use_of_fields(study));
}

}  // namespace dotsift
