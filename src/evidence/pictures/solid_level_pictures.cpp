#include "evidence/pictures/solid_level_pictures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/summary.hpp"

namespace dotsift {

namespace {

// The largest displacement of a deformed shape, of the part's diagonal, where no factor is asked for.
constexpr double seen_share = 0.06;

SolidFieldPicture field_of(const Study& study, const Level& l, Field field, std::size_t load_case) {
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
        p.marks = {{most.position, fmt::format("max {}", sensible(most.value)), 1},
                   {least.position, fmt::format("min {}", sensible(least.value)), 0}};
    return p;
}

}  // namespace

LevelPictures draw_solid_level(const Study& study, const Level& l, const SharedRanges& ranges, PictureUse use) {
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
    SolidFieldPicture field = field_of(study, l, ranges.field, 0);
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
    e.map = ColourMap::heat;
    e.elementwise = error_density(l);
    e.low = ranges.error_low;
    e.high = ranges.error_high;
    e.logarithmic = true;
    out.error = draw_solid_field(mesh, e, of_fields);
    return out;
}

PictureFiles draw_solid_chosen(const Study& study, const Level& level, const PictureSpec& picture, PictureUse use) {
    const LevelFieldsIn<3>& f = *level.solid;
    SolidFieldPicture p = field_of(study, level, picture.field, place_of_case(f.cases, picture.load_case));
    p.title = fmt::format("{}: {}", study.title, title_of(study, picture.field));
    const ColourRange range = colour_range(f.mesh, p.slots);
    p.low = range.low;
    p.high = range.high;
    p.clipped = range.clipped;
    if (!picture.deformed) return draw_solid_field(f.mesh, p, use);
    const auto& u = f.cases[place_of_case(f.cases, picture.load_case)].solution.displacement;
    Box<3> box;
    double largest = 0;
    for (std::size_t n = 0; n < u.size(); ++n) {
        box.add(f.mesh.nodes[n]);
        largest = std::max(largest, norm(u[n]));
    }
    const double factor = largest > 0 ? seen_share * box.diagonal() / largest : 1;
    for (const Vec3& d : u) p.displacement.push_back(d * factor);
    p.subtitle = fmt::format("{}; displacements drawn {} times as large", level_counts(level), sensible(factor, 2));
    p.marks.clear();  // their places are those of the part as it was
    return draw_solid_field(f.mesh, p, use);
}

PictureFiles draw_solid_part(const Study& study, const Level& level) {
    return draw_solid_mesh(level.solid->mesh, study.title, "the solid with the names of its faces, in its first mesh",
                           study.units.label(dimension::length), use_of_fields(study));
}

}  // namespace dotsift
