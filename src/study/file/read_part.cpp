#include "study/file/read_part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numbers>

#include "study/file/read_selection.hpp"
#include "study/file/read_shape.hpp"
#include "study/file/read_space_shape.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> plane_names{"stress", "strain", "generalised_strain", "axisymmetric"};
void read_cleanup(const Section& part, Study& study) {
    const auto* table = part.table("cleanup");
    if (!table) return;
    const Section s(part.context(), *table, "part.cleanup", "part.cleanup");
    CleanupSpec& c = study.cleanup;
    c.where = s.where();
    c.merge_points = s.positive("merge_points", dimension::length);
    c.fill_holes_below = s.positive("fill_holes_below", dimension::length);
    c.keep_centres = s.text("keep_centres").value_or("");
    if (s.has("keep_centres") && !s.has("fill_holes_below"))
        s.fault("keep_centres", "goes with fill_holes_below", "add it, or remove this key");
    c.remove_rounds_below = s.positive("remove_rounds_below", dimension::length);
    c.one_edge = s.names("one_edge");
    c.one_edge_below = s.positive("one_edge_below", dimension::length);
}

}  // namespace

bool makes_solid(const toml::table& root) {
    const auto* part = root["part"].as_table();
    if (!part) return false;
    if (part->contains("extrude") || part->contains("revolve")) return true;
    const auto* shapes = (*part)["shape"].as_array();
    return shapes && std::any_of(shapes->begin(), shapes->end(), [](const toml::node& shape) {
               return shape.is_table() && is_of_space(*shape.as_table());
           });
}

namespace {

/// Plane shapes first, then those of space, in the order of the file.
void read_shapes(const Section& part, const toml::array& shapes, Study& study) {
    Problems& problems = *part.context().problems;
    std::optional<Where> plane_alone;  // of a plane shape that nothing makes a solid
    int number = 0;
    for (const auto& node : shapes) {
        const auto& table = *node.as_table();
        const Section s(part.context(), table, "part.shape", fmt::format("part.shape {}", ++number));
        if (is_of_space(table) || (!study.space_shapes.empty() && table.contains("change"))) {
            study.space_shapes.push_back(read_space_shape(s, number));
            auto& shape = study.space_shapes.back();
            if (shape.region.empty() && shape.primitive != SpacePrimitive::model) shape.region = study.region_name;
            continue;
        }
        if (!study.space_shapes.empty()) {
            problems.add(s.where(), fmt::format("part.shape {} is a plane shape after shapes of space", number),
                         "give it extrude or revolve of its own, or let it stand before them");
            continue;
        }
        if (!plane_alone) plane_alone = s.where();
        study.shapes.push_back(read_shape(s));
        auto& shape = study.shapes.back();
        if (shape.region.empty()) shape.region = study.region_name;
    }
    if (!study.space_shapes.empty() && plane_alone && !study.sweep)
        problems.add(*plane_alone, "a plane shape stands among shapes of space",
                     "give it extrude or revolve, or give [part] one of them for all plane shapes");
    const auto begins = [&](Verb first, Where where) {
        if (first != Verb::add)
            problems.add(where,
                         first == Verb::cut ? "the first shape cuts, but there is nothing yet to cut from"
                                            : "the first shape adds nothing, but there is nothing yet to work on",
                         "begin with a shape that adds");
    };
    if (!study.shapes.empty())
        begins(study.shapes.front().verb, study.shapes.front().where);
    else if (!study.space_shapes.empty())
        begins(study.space_shapes.front().verb, study.space_shapes.front().where);
}

}  // namespace

void read_part(const Section& top, Study& study) {
    const ReadingContext& context = top.context();
    Problems& problems = *context.problems;
    const auto* table = top.table("part");
    if (!table) {
        if (!top.has("part"))
            problems.add({1, 1}, "the study has no part", "add [part] and at least one [[part.shape]]");
        return;
    }
    const Section s(context, *table, "part", "part");
    study.part_where = s.where();
    study.region_name = s.text("name").value_or(study.region_name);
    study.names_for_others = s.names("names_for_others");
    study.left_out = s.names("left_out");
    if (const auto plane = s.choice("plane", plane_names)) study.plane = static_cast<Plane>(*plane);
    const auto above_zero = [&](const Formula& f, const std::string& label) {
        if (!f.constant || *f.constant > 0) return true;
        problems.add(f.where, fmt::format("{} is {:g}, but it must be greater than zero", label, *f.constant));
        return false;
    };
    if (const auto thickness = s.formula("thickness", dimension::length, true))
        if (above_zero(*thickness, "part.thickness")) study.thickness = *thickness;
    if (study.plane == Plane::axisymmetric && s.has("thickness"))
        s.fault("thickness", "has no meaning in an axisymmetric study, where totals go all round", "remove it");
    if (const auto* list = s.table("thickness_of")) {
        for (const auto& [key, node] : *list) {
            const std::string label = fmt::format("part.thickness_of.{}", key.str());
            const auto f = read_formula(context, node, dimension::length, label, true);
            if (f && above_zero(*f, label)) study.thickness_of.emplace_back(std::string(key.str()), *f);
        }
    }
    study.sweep = read_sweep(s);
    const auto* shapes = s.node("shape");
    if (!shapes || !shapes->is_array_of_tables()) {
        if (shapes)
            s.fault("shape", "must be an array of tables", "write [[part.shape]], with two brackets");
        else
            problems.add(s.where(), "the part has no shape", "add a [[part.shape]]");
        return;
    }
    read_shapes(s, *shapes->as_array(), study);
    if (study.solid())
        for (const char* plane : {"plane", "thickness", "thickness_of"})
            if (s.has(plane))
                s.fault(plane, "has no meaning for a solid",
                        study.sweep ? fmt::format("remove it, or part.{}", study.sweep->turned ? "revolve" : "extrude")
                                    : "remove it, or the shapes of space");
    if (!study.solid() && s.has("left_out"))
        s.fault("left_out", "takes regions of a solid away, but the part is plane",
                "cut the region out as the last shape");
    each_named(s, "interface", [&](const Section& i, const std::string& name) {
        if (!i.has("between")) i.missing("between", "say between which two regions");
        if (const auto between = i.two_names("between")) study.interfaces.push_back({name, i.where(), *between});
    });
    each_named(s, "edge", [&](const Section& e, const std::string& name) {
        if (!study.solid())
            problems.add(e.where(), fmt::format("part.edge.{} names edges of a solid, but the part is plane", name),
                         "give the side of a shape a name, or use a selection");
        if (!e.has("between")) e.missing("between", "say between which two faces, as in [\"top\", \"bore\"]");
        if (const auto between = e.two_names("between")) study.edges.push_back({name, e.where(), *between});
    });
    each_named(s, "selection", [&](const Section& x, const std::string& name) { read_selection(x, name, study); });
    read_cleanup(s, study);
}

}  // namespace dotsift
