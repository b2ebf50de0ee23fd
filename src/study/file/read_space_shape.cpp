#include "study/file/read_space_shape.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "study/file/read_placement.hpp"
#include "study/file/read_shape.hpp"
#include "study/keys.hpp"
#include "study/units.hpp"

namespace dotsift {

namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double most_feature_angle = 80 * degree;

// In the order of SpacePrimitive.
const std::vector<std::string> space_shape_names{"box",   "cylinder", "cone",  "sphere", "ring",
                                                 "wedge", "model",    "plane", "point"};

class SpaceShapeReader {
  public:
    explicit SpaceShapeReader(const Section& s) : s_(s) {}

    SpaceShapeSpec run(int number) {
        const std::size_t faults = s_.context().problems->count();
        shape_.number = number;
        shape_.where = s_.where();
        if (const auto verb = s_.one_of(verb_names, "as in: add = \"box\"")) {
            shape_.verb = static_cast<Verb>(*verb);
            if (shape_.verb == Verb::change)
                read_change();
            else
                read_shape_of_space(verb_names[*verb]);
        }
        shape_.sound = s_.context().problems->count() == faults;
        return std::move(shape_);
    }

    SpaceShapeSpec run_as_guide() {
        const std::size_t faults = s_.context().problems->count();
        shape_.where = s_.where();
        if (!s_.has("shape")) s_.missing("shape", "as in: shape = \"box\"");
        if (const auto primitive = s_.choice("shape", space_shape_names)) {
            shape_.primitive = static_cast<SpacePrimitive>(*primitive);
            const bool empty = shape_.primitive == SpacePrimitive::plane || shape_.primitive == SpacePrimitive::point;
            if (empty || shape_.primitive == SpacePrimitive::wedge || shape_.primitive == SpacePrimitive::model)
                s_.fault("shape",
                         fmt::format("is \"{}\", which {}", what(), empty ? "encloses nothing" : "marks no volume"),
                         "use a box, cylinder, cone, sphere or ring");
            std::vector<std::string> used{"shape"}, sides;
            used.insert(used.end(), placement_keys.begin(), placement_keys.end());
            read_dimensions(used, sides);
            read_placement(s_, shape_.placement);
            refuse_others(used, fmt::format("a {}", space_shape_names[*primitive]), "placed shape");
        }
        shape_.sound = s_.context().problems->count() == faults;
        return std::move(shape_);
    }

  private:
    void read_change() {
        const auto change = s_.choice("change", change_names);
        if (!change) return;
        shape_.change = static_cast<Change>(*change);
        if (shape_.change == Change::round || shape_.change == Change::bevel) {
            const char* size = shape_.change == Change::round ? "radius" : "length";
            if (!s_.has(size)) s_.missing(size);
            shape_.change_size = s_.positive(size, dimension::length).value_or(1);
            shape_.name = s_.text("name").value_or("");
            if (!s_.has("edges"))
                shape_.edge_choice = read_corner_choice<3>(s_);
            else if (shape_.edge_rule = s_.text("edges").value_or("no text"); shape_.edge_rule.empty())
                s_.fault("edges", "is empty", "name a selection of edges, as in: edges = \"rim\"");
            for (const char* other : {"corners", "near", "between", "count"})
                if (s_.has("edges") && s_.has(other))
                    s_.fault(other, "says which edges, as edges does", "remove one of them");
            refuse_others({"change", size, "name", "corners", "near", "between", "count", "edges"},
                          fmt::format("a change of kind {}", change_names[*change]));
            return;
        }
        if (shape_.change == Change::hollow) {
            if (!s_.has("wall")) s_.missing("wall", "its thickness, as in: wall = 2");
            shape_.change_size = s_.positive("wall", dimension::length).value_or(1);
            shape_.name = s_.text("name").value_or("");
            shape_.open = s_.names("open");
            refuse_others({"change", "wall", "name", "open"}, "a change of kind hollow");
            return;
        }
        const std::string& key = change_names[*change];
        if (!s_.has(key)) s_.missing(key, "say how, as for a shape");
        std::vector<std::string> used{"change"};
        used.push_back(key);
        if (shape_.change == Change::mirror) used.emplace_back("keep");
        if (shape_.change == Change::rotate) used.emplace_back("about");
        if (shape_.change == Change::repeat) used.insert(used.end(), {"step", "around", "every"});
        shape_.keep = s_.flag("keep").value_or(true);
        read_placement(s_, shape_.placement);
        refuse_others(used, fmt::format("a change of kind {}", key));
    }

    void read_shape_of_space(const std::string& verb) {
        shape_.name = s_.text("name").value_or("");
        read_region(s_, shape_.region, shape_.priority);
        shape_.of = s_.names("of");
        read_placement(s_, shape_.placement);
        if (shape_.verb == Verb::mark && s_.text(verb) != "point")
            s_.fault(verb, "must be \"point\" in space", "use split, which parts the solid along the shape's faces");
        if (s_.has("extrude") || s_.has("revolve") || s_.has("sweep")) {
            shape_.primitive = SpacePrimitive::swept;
            if (const auto sweep = read_sweep(s_)) shape_.sweep = *sweep;
            shape_.outline = read_swept_outline(s_, shape_.verb, shape_.name);
            return;
        }
        const auto primitive = s_.choice(verb, space_shape_names);
        if (!primitive) return;
        shape_.primitive = static_cast<SpacePrimitive>(*primitive);
        std::vector<std::string> used{verb, "name", "names"};
        if (shape_.verb == Verb::add) used.insert(used.end(), {"region", "priority"});
        if (shape_.verb == Verb::cut || shape_.verb == Verb::intersect) used.emplace_back("of");
        used.insert(used.end(), placement_keys.begin(), placement_keys.end());
        std::vector<std::string> sides;
        read_dimensions(used, sides);
        read_names(sides, space_shape_names[*primitive]);
        refuse_others(used, fmt::format("a {}", space_shape_names[*primitive]));
    }

    void read_dimensions(std::vector<std::string>& used, std::vector<std::string>& sides) {
        switch (shape_.primitive) {
            case SpacePrimitive::box:
                read_corner_and_size();
                used.insert(used.end(), {"corner", "size"});
                sides = {"left", "right", "front", "back", "bottom", "top"};
                return;
            case SpacePrimitive::cylinder:
                read_axis();
                shape_.radius = demanded_radius();
                used.insert(used.end(), {"from", "to", "radius"});
                sides = {"side", "start", "end"};
                return;
            case SpacePrimitive::cone:
                read_axis();
                read_radii();
                if (shape_.radii[0] < 0 || shape_.radii[1] < 0 || shape_.radii[0] + shape_.radii[1] == 0)
                    s_.fault("radii", "must be a radius for each end, of which one may be 0");
                else if (shape_.radii[0] == shape_.radii[1])
                    s_.fault("radii", "are equal", "use a cylinder");
                used.insert(used.end(), {"from", "to", "radii"});
                sides = {"side", "start", "end"};
                if (shape_.radii[0] == 0) sides = {"side", "end"};
                if (shape_.radii[1] == 0) sides = {"side", "start"};
                return;
            case SpacePrimitive::sphere:
                shape_.centre = s_.point_in<3>("centre").value_or(Vec3{});
                shape_.radius = demanded_radius();
                used.insert(used.end(), {"centre", "radius"});
                return;
            case SpacePrimitive::ring:
                shape_.centre = s_.point_in<3>("centre").value_or(Vec3{});
                read_normal();
                read_radii();
                if (!(shape_.radii[1] > 0 && shape_.radii[0] > shape_.radii[1]))
                    s_.fault("radii", "must be the radius of the ring and the smaller one of its section");
                used.insert(used.end(), {"centre", "normal", "radii"});
                return;
            case SpacePrimitive::wedge:
                read_wedge();
                used.insert(used.end(), {"corner", "size", "tip"});
                sides = {"left", "right", "front", "back", "bottom"};
                if (shape_.tip > 0) sides.emplace_back("top");
                return;
            case SpacePrimitive::model:
                if (!s_.has("file")) s_.missing("file", "name a STEP file, relative to the study");
                shape_.file = s_.text("file").value_or("");
                shape_.unit = s_.text("unit");
                if (shape_.unit && !length_unit(*shape_.unit))
                    s_.fault("unit", fmt::format("is \"{}\", which is no unit of length", *shape_.unit),
                             "allowed are m, mm, cm, um, km, in, ft");
                shape_.feature_angle = s_.number("feature_angle", dimension::none);
                if (shape_.feature_angle && !(*shape_.feature_angle > 0 && *shape_.feature_angle <= most_feature_angle))
                    s_.fault("feature_angle", "must be more than 0 and at most 80 degrees", "as in: \"30 deg\"");
                used.insert(used.end(), {"file", "unit", "feature_angle"});
                return;
            case SpacePrimitive::plane:
                if (shape_.verb == Verb::add)
                    s_.fault("add", "is \"plane\", which encloses nothing", "use it with cut, intersect or split");
                shape_.centre = demanded_point("at").value_or(Vec3{});
                if (!s_.has("normal"))
                    s_.missing("normal", "it points to what cut takes away, and intersect keeps, as in: [0, 0, 1]");
                read_normal();
                used.insert(used.end(), {"at", "normal"});
                return;
            case SpacePrimitive::point:
                if (shape_.verb != Verb::mark)
                    s_.fault(verb_names[static_cast<std::size_t>(shape_.verb)], "is \"point\", which encloses nothing",
                             "use it with mark");
                if (shape_.name.empty()) s_.missing("name", "by which the rest of the study calls the point");
                shape_.centre = demanded_point("at").value_or(Vec3{});
                used.emplace_back("at");
                return;
            case SpacePrimitive::swept:
                return;
        }
    }

    void read_corner_and_size() {
        shape_.corner = s_.point_in<3>("corner").value_or(Vec3{});
        shape_.size = demanded_point("size").value_or(Vec3{{1, 1, 1}});
        if (std::min({shape_.size[0], shape_.size[1], shape_.size[2]}) > 0) return;
        s_.fault("size", "must be three numbers greater than zero");
        shape_.size = {{1, 1, 1}};
    }
    void read_wedge() {
        read_corner_and_size();
        shape_.tip = s_.number("tip", dimension::length).value_or(0);
        if (shape_.tip >= 0 && shape_.tip < shape_.size[0]) return;
        s_.fault("tip",
                 fmt::format("is {:g}, but the upper side is to be shorter than the lower one, {:g}", shape_.tip,
                             shape_.size[0]),
                 "0 makes an edge of it");
        shape_.tip = 0;
    }
    [[nodiscard]] std::string what() const { return space_shape_names[static_cast<std::size_t>(shape_.primitive)]; }
    std::optional<Vec3> demanded_point(std::string_view key) {
        if (!s_.has(key)) s_.missing(key, fmt::format("a {} needs it", what()));
        return s_.point_in<3>(key);
    }
    double demanded_radius() {
        if (!s_.has("radius")) s_.missing("radius", fmt::format("a {} needs it", what()));
        return s_.positive("radius", dimension::length).value_or(1);
    }
    void read_axis() {
        shape_.from = demanded_point("from").value_or(Vec3{});
        shape_.to = demanded_point("to").value_or(shape_.from + Vec3{{0, 0, 1}});
        if (!(shape_.from == shape_.to)) return;
        s_.fault("to", "is the same point as from", "give both ends of the axis");
        shape_.to = shape_.from + Vec3{{0, 0, 1}};
    }
    void read_radii() {
        if (!s_.has("radii")) s_.missing("radii", fmt::format("a {} needs two of them", what()));
        if (const auto two = s_.numbers("radii", 2, 2, dimension::length))
            shape_.radii = {(*two)[0], (*two)[1]};
        else
            shape_.radii = {2, 1};  // which makes no more faults
    }
    void read_normal() {
        shape_.normal = s_.point_in<3>("normal").value_or(shape_.normal);
        if (norm(shape_.normal) > 0) return;
        s_.fault("normal", "is no direction");
        shape_.normal = {{0, 0, 1}};
    }

    void read_names(const std::vector<std::string>& sides, const std::string& what) {
        const auto* table = s_.table("names");
        if (!table) return;
        Problems& problems = *s_.context().problems;
        for (const auto& [key, node] : *table) {
            const std::string side{key.str()};
            const auto name = node.value_exact<std::string>();
            if (std::find(sides.begin(), sides.end(), side) == sides.end())
                problems.add(where_of(node), fmt::format("\"{}\" names no side of this shape ({})", side, what),
                             sides.empty() ? "name the whole shape with: name = \"...\""
                                           : fmt::format("its sides are {}", quoted_list(sides)));
            else if (!name || name->empty() || has_control(*name))
                problems.add(where_of(node), fmt::format("the name of side \"{}\" must be a plain text", side));
            else
                shape_.names.emplace_back(side, *name);
        }
    }

    void refuse_others(const std::vector<std::string>& used, const std::string& what,
                       const char* section = "part.shape") {
        for (const auto& key : keys_of(section))
            if (s_.has(key) && std::find(used.begin(), used.end(), key) == used.end())
                s_.fault(key, fmt::format("has no meaning for {}", what), "remove it");
    }

    const Section& s_;
    SpaceShapeSpec shape_;
};

/// Along a path.
std::optional<SweepSpec> read_led(const Section& of) {
    const auto* table = of.table("sweep");
    if (!table) return std::nullopt;
    const Section s(of.context(), *table, "part.shape.sweep", of.shown() + ".sweep");
    SweepSpec sweep;
    sweep.where = s.where();
    sweep.start = s.text("start").value_or("");
    sweep.end = s.text("end").value_or("");
    if (!s.has("from")) s.missing("from", "where the path begins, as in: from = [0, 0, 0]");
    sweep.path_start = s.point_in<3>("from").value_or(Vec3{});
    const auto* node = s.node("path");
    const auto* list = node ? node->as_array() : nullptr;
    if (!list || list->empty() || !list->is_homogeneous<toml::table>()) {
        if (node)
            s.fault("path", "must be an array of tables", "as in: path = [{ to = [40, 0, 0] }]");
        else
            s.missing("path", "as in: path = [{ to = [40, 0, 0] }]");
        return std::nullopt;
    }
    for (std::size_t k = 0; k < list->size(); ++k) {
        const Section p(of.context(), *list->get(k)->as_table(), "part.shape.sweep.path",
                        fmt::format("{}.path {}", s.shown(), k + 1));
        if (!p.has("to")) p.missing("to", "where the piece ends");
        PathPiece piece;
        piece.to = p.point_in<3>("to").value_or(Vec3{});
        piece.through = p.point_in<3>("through");
        sweep.path.push_back(piece);
    }
    return sweep;
}

}  // namespace

bool is_of_space(const toml::table& shape) {
    if (shape.contains("extrude") || shape.contains("revolve") || shape.contains("sweep")) return true;
    if (shape["change"].value_exact<std::string>() == change_names[static_cast<std::size_t>(Change::hollow)])
        return true;
    return std::any_of(verb_names.begin(), verb_names.end(), [&](const std::string& verb) {
        const auto value = shape[verb].value_exact<std::string>();
        if (value == "point") {  // of the plane too, where it has two coordinates
            const auto* at = shape["at"].as_array();
            return at && at->size() == 3;
        }
        return value &&
               std::find(space_shape_names.begin(), space_shape_names.end(), *value) != space_shape_names.end();
    });
}

SpaceShapeSpec read_space_shape(const Section& section, int number) {
    return SpaceShapeReader(section).run(number);
}

SpaceShapeSpec read_placed_space_shape(const Section& section) {
    return SpaceShapeReader(section).run_as_guide();
}

std::optional<SweepSpec> read_sweep(const Section& of) {
    if (of.has("extrude") + of.has("revolve") + of.has("sweep") > 1)
        of.fault(of.has("revolve") ? "revolve" : "sweep",
                 fmt::format("stands beside {}", of.has("extrude") ? "extrude" : "sweep"),
                 "use one of them: shapes are drawn along z, turned about y, or led along a path");
    if (of.has("sweep")) return read_led(of);
    std::optional<SweepSpec> out;
    for (const char* key : {"extrude", "revolve"}) {
        const auto* table = of.table(key);
        if (!table) continue;
        const Section s(of.context(), *table, fmt::format("part.{}", key), fmt::format("{}.{}", of.shown(), key));
        SweepSpec sweep;
        sweep.where = s.where();
        sweep.turned = std::string_view(key) == "revolve";
        sweep.start = s.text("start").value_or("");
        sweep.end = s.text("end").value_or("");
        if (sweep.turned) {
            constexpr double turn = 2 * std::numbers::pi, most = turn * (1 + 1e-9);
            sweep.angle = s.number("angle", dimension::none).value_or(turn);
            if (!(sweep.angle > 0) || sweep.angle > most) {
                s.fault("angle",
                        fmt::format("is {:g} degrees, but it must be more than none and at most a whole turn",
                                    sweep.angle * 360 / turn),
                        "as in: angle = \"90 deg\"");
                sweep.angle = turn / 4;  // which has the faces that other keys may name
            } else if (sweep.angle >= turn * (1 - 1e-9) && (s.has("start") || s.has("end")))
                s.fault(s.has("start") ? "start" : "end", "names a face that a whole turn has not", "remove it");
        } else {
            sweep.from = s.number("from", dimension::length).value_or(0);
            if (!s.has("to")) s.missing("to", "the height to which the shapes are drawn, as in: to = 12");
            sweep.to = s.number("to", dimension::length).value_or(sweep.from + 1);
            sweep.taper = s.number("taper", dimension::none).value_or(0);
            if (constexpr double most = 80 * std::numbers::pi / 180; std::fabs(sweep.taper) > most) {
                s.fault("taper", "is steeper than 80 degrees", "as in: taper = \"3 deg\"");
                sweep.taper = 0;
            }
            if (!(sweep.to > sweep.from))
                s.fault("to", fmt::format("is {:g}, not above from, which is {:g}", sweep.to, sweep.from),
                        "the solid reaches from the lower to the higher one");
        }
        out = sweep;
    }
    return out;
}

}  // namespace dotsift
