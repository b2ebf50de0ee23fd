#include "study/file/read_shape.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "study/file/read_placement.hpp"
#include "study/keys.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> primitive_names{"rectangle", "circle",  "ellipse", "polygon", "slot",
                                               "outline",   "drawing", "line",    "point"};
const std::vector<std::string> nested_names{"holes", "regions"};
const std::vector<std::string> corner_kinds{"all", "inner", "outer"};

const std::string& name_of(Primitive primitive) {
    return primitive_names[static_cast<std::size_t>(primitive)];
}

void read_piece(const Section& p, PieceSpec& piece) {
    piece.where = p.where();
    piece.name = p.text("name").value_or("");
    if (!p.has("to")) p.missing("to", "every piece says where it ends");
    piece.to = p.point("to").value_or(Vec2{});
    const bool elliptic = p.has("radii");
    const int kinds = p.has("through") + p.has("spline") + p.has("radius") + p.has("centre");
    if (kinds > 1) {
        p.fault("to", "has more than one of through, spline, radius and centre", "a piece is one curve: keep one");
        return;
    }
    if (p.has("through")) {
        piece.kind = PieceSpec::Kind::arc_through;
        piece.through = p.point("through").value_or(Vec2{});
    } else if (p.has("spline")) {
        piece.kind = PieceSpec::Kind::spline;
        piece.points = p.points("spline");
    } else if (p.has("radius")) {
        piece.kind = PieceSpec::Kind::arc_radius;
        piece.radius = p.number("radius", dimension::length).value_or(1);
        if (piece.radius == 0) p.fault("radius", "is 0", "leave it out for a straight line");
    } else if (p.has("centre")) {
        piece.kind = elliptic ? PieceSpec::Kind::ellipse : PieceSpec::Kind::arc_centre;
        piece.centre = p.point("centre").value_or(Vec2{});
        piece.clockwise = p.flag("clockwise").value_or(false);
        if (elliptic) {
            piece.radii = p.point("radii").value_or(Vec2{{1, 1}});
            if (!(piece.radii[0] > 0 && piece.radii[1] > 0)) p.fault("radii", "must be two numbers greater than zero");
            piece.angle = p.number("angle", dimension::none).value_or(0);
        }
    }
    for (const auto* key : {"clockwise", "radii"})
        if (p.has(key) && !p.has("centre")) p.fault(key, "goes with centre", "give the centre, or remove it");
    if (p.has("angle") && !elliptic) p.fault("angle", "goes with radii");
}

void read_pieces(const Section& s, ShapeSpec& shape) {
    const auto* node = s.node("pieces");
    const auto* array = node ? node->as_array() : nullptr;
    if (!node) {
        s.missing("pieces", "as in: pieces = [{ to = [10, 0] }, { to = [0, 10], radius = 10 }]");
        return;
    }
    if (!array || array->empty() ||
        !std::all_of(array->begin(), array->end(), [](const auto& n) { return n.is_table(); })) {
        s.fault("pieces", "must be an array of tables",
                "as in: pieces = [{ to = [10, 0] }, { to = [0, 10], radius = 10 }]");
        return;
    }
    for (const auto& item : *array) {
        PieceSpec piece;
        read_piece(Section(s.context(), *item.as_table(), "part.shape.pieces",
                           fmt::format("{}.pieces {}", s.shown(), shape.pieces.size() + 1)),
                   piece);
        shape.pieces.push_back(std::move(piece));
    }
}

void read_drawing(const Section& s, ShapeSpec& shape) {
    DrawingSpec& d = shape.drawing;
    if (!s.has("file")) s.missing("file", "name a DXF file, relative to the study");
    d.file = s.text("file").value_or("");
    d.layers = s.names("layers");
    d.holes = s.names("holes");
    d.marks = s.names("marks");
    d.splits = s.names("splits");
    if (const auto nested = s.choice("nested", nested_names)) d.nested_regions = *nested == 1;
    d.join = s.positive("join", dimension::length);
    d.unit = s.text("unit");
    if (d.unit && !length_unit(*d.unit))
        s.fault("unit", fmt::format("is \"{}\", which is no unit of length", *d.unit),
                "allowed are m, mm, cm, um, km, in, ft");
}

void read_change(const Section& s, ShapeSpec& shape) {
    const auto change = s.choice("change", change_names);
    if (!change) return;
    shape.change = static_cast<Change>(*change);
    std::vector<std::string> used{"change"};
    const auto demand = [&](std::string_view key, std::string remedy) {
        used.emplace_back(key);
        if (!s.has(key)) s.missing(key, std::move(remedy));
    };
    switch (shape.change) {
        case Change::round:
        case Change::bevel: {
            const char* size = shape.change == Change::round ? "radius" : "length";
            demand(size, "");
            shape.change_size = s.positive(size, dimension::length).value_or(1);
            shape.name = s.text("name").value_or("");
            shape.corner_choice = read_corner_choice<2>(s);
            used.insert(used.end(), {"name", "corners", "near", "between", "count"});
            break;
        }
        case Change::hollow:
            break;  // is read as one of space
        case Change::mirror:
            demand("mirror", "give two points of the line, as in: mirror = [[0, 0], [0, 1]]");
            shape.keep = s.flag("keep").value_or(true);
            used.emplace_back("keep");
            break;
        case Change::move:
            demand("move", "as in: move = [10, 0]");
            break;
        case Change::rotate:
            demand("rotate", "as in: rotate = \"30 deg\"");
            used.emplace_back("about");
            break;
        case Change::repeat:
            demand("repeat", "as in: repeat = 6");
            used.insert(used.end(), {"step", "around", "every"});
            break;
    }
    read_placement(s, shape.placement);
    for (const auto& key : keys_of("part.shape"))
        if (s.has(key) && std::find(used.begin(), used.end(), key) == used.end())
            s.fault(key, fmt::format("has no meaning for a change of kind {}", change_names[*change]), "remove it");
}

/// `more`: keys that mean something beside the shape.
void read_shape_dimensions(const Section& s, ShapeSpec& shape, const std::vector<std::string>& more) {
    const auto demand = [&](auto value, std::string_view key) {
        if (!value && !s.has(key)) s.missing(key, fmt::format("a {} needs it", name_of(shape.primitive)));
        return value;
    };
    std::vector<std::string> used{"shape", "add", "cut", "intersect", "split", "mark", "name"};
    if (shape.verb == Verb::add) used.insert(used.end(), {"region", "priority"});
    if (shape.verb == Verb::cut || shape.verb == Verb::intersect) used.emplace_back("of");
    used.insert(used.end(), placement_keys.begin(), placement_keys.end());
    used.insert(used.end(), more.begin(), more.end());
    const auto positive_pair = [&](std::string_view key) {
        const auto pair = demand(s.point(key), key);
        if (pair && !((*pair)[0] > 0 && (*pair)[1] > 0)) s.fault(key, "must be two numbers greater than zero");
        return pair.value_or(Vec2{{1, 1}});
    };
    switch (shape.primitive) {
        case Primitive::rectangle:
            shape.corner = s.point("corner").value_or(Vec2{});
            shape.size = positive_pair("size");
            shape.angle = s.number("angle", dimension::none).value_or(0);
            used.insert(used.end(), {"corner", "size", "angle", "round", "rounds", "names"});
            break;
        case Primitive::circle:
            shape.centre = s.point("centre").value_or(Vec2{});
            shape.radius = demand(s.positive("radius", dimension::length), "radius").value_or(1);
            used.insert(used.end(), {"centre", "radius"});
            break;
        case Primitive::ellipse:
            shape.centre = s.point("centre").value_or(Vec2{});
            shape.radii = positive_pair("radii");
            shape.angle = s.number("angle", dimension::none).value_or(0);
            used.insert(used.end(), {"centre", "radii", "angle"});
            break;
        case Primitive::polygon:
            shape.corners = s.points("corners");
            if (!s.has("corners"))
                s.missing("corners", "a polygon needs at least three");
            else if (!shape.corners.empty() && shape.corners.size() < 3)
                s.fault("corners", fmt::format("has {} corners, but a polygon needs three", shape.corners.size()));
            used.insert(used.end(), {"corners", "round", "rounds", "names"});
            break;
        case Primitive::slot:
            shape.from = demand(s.point("from"), "from").value_or(Vec2{});
            shape.to = demand(s.point("to"), "to").value_or(Vec2{{1, 0}});
            if (shape.from == shape.to) s.fault("to", "is the same point as from", "use a circle");
            shape.width = demand(s.positive("width", dimension::length), "width").value_or(1);
            used.insert(used.end(), {"from", "to", "width", "names"});
            break;
        case Primitive::outline:
            shape.start = demand(s.point("start"), "start").value_or(Vec2{});
            read_pieces(s, shape);
            used.insert(used.end(), {"start", "pieces"});
            break;
        case Primitive::drawing:
            read_drawing(s, shape);
            used.insert(used.end(), {"file", "layers", "holes", "marks", "splits", "nested", "join", "unit"});
            break;
        case Primitive::line:
            shape.from = demand(s.point("from"), "from").value_or(Vec2{});
            shape.to = demand(s.point("to"), "to").value_or(Vec2{{1, 0}});
            if (shape.from == shape.to) s.fault("to", "is the same point as from", "use a point");
            used.insert(used.end(), {"from", "to"});
            break;
        case Primitive::point:
            shape.at = demand(s.point("at"), "at").value_or(Vec2{});
            if (shape.name.empty()) s.missing("name", "a point needs a name, or nothing could use it");
            used.emplace_back("at");
            break;
    }
    for (const auto& key : keys_of("part.shape"))
        if (key != "change" && s.has(key) && std::find(used.begin(), used.end(), key) == used.end())
            s.fault(
                key,
                fmt::format("has no meaning for {} {}",
                            shape.primitive == Primitive::ellipse || shape.primitive == Primitive::outline ? "an" : "a",
                            name_of(shape.primitive)),
                "remove it");
}

void read_rounds(const Section& s, ShapeSpec& shape) {
    const ReadingContext& context = s.context();
    if (shape.primitive != Primitive::rectangle && shape.primitive != Primitive::polygon) return;
    const std::size_t corners = shape.primitive == Primitive::rectangle ? 4 : shape.corners.size();
    const auto common = s.number("round", dimension::length);
    if (common && *common < 0) s.fault("round", "must not be negative");
    shape.rounds.assign(corners, common.value_or(0));
    const auto* table = s.table("rounds");
    if (!table) return;
    for (const auto& [key, node] : *table) {
        const std::string name{key.str()};
        const auto f =
            read_formula(context, node, dimension::length, fmt::format("{}.rounds.{}", s.shown(), name), false);
        std::size_t index = 0;
        const bool numeric = !name.empty() && name.size() < 7 && std::all_of(name.begin(), name.end(), ::isdigit);
        if (numeric) index = std::stoul(name);
        if (!numeric || index < 1 || index > corners) {
            context.problems->add(where_of(node), fmt::format("[{}] has no corner \"{}\"", s.shown(), name),
                                  fmt::format("corners are counted from 1 to {}", corners));
            continue;
        }
        if (!f) continue;
        if (*f->constant < 0) context.problems->add(where_of(node), "a round's radius must not be negative");
        shape.rounds[index - 1] = *f->constant;
    }
}

void read_side_names(const Section& s, ShapeSpec& shape) {
    const ReadingContext& context = s.context();
    const auto* table = s.table("names");
    if (!table) return;
    std::vector<std::string> sides;
    switch (shape.primitive) {
        case Primitive::rectangle:
            sides = {"left", "right", "top", "bottom", "corners", "corner1", "corner2", "corner3", "corner4"};
            break;
        case Primitive::polygon:
            for (std::size_t i = 1; i <= shape.corners.size(); ++i) sides.push_back(fmt::format("side{}", i));
            for (std::size_t i = 1; i <= shape.corners.size(); ++i) sides.push_back(fmt::format("corner{}", i));
            sides.emplace_back("corners");
            break;
        case Primitive::slot:
            sides = {"flanks", "ends"};
            break;
        default:
            break;
    }
    for (const auto& [key, node] : *table) {
        const std::string side{key.str()};
        const auto name = node.value_exact<std::string>();
        if (std::find(sides.begin(), sides.end(), side) == sides.end()) {
            const std::string near = nearest(side, sides);
            context.problems->add(
                where_of(node), fmt::format("\"{}\" names no side of this shape ({})", side, name_of(shape.primitive)),
                sides.empty()  ? "name the whole shape with: name = \"...\""
                : near.empty() ? fmt::format("its sides are {}", quoted_list(sides))
                               : fmt::format("did you mean \"{}\"?", near));
        } else if (!name || name->empty() || has_control(*name)) {
            context.problems->add(where_of(node), fmt::format("the name of side \"{}\" must be a plain text", side));
        } else {
            shape.names.emplace_back(side, *name);
        }
    }
}

}  // namespace

void read_region(const Section& s, std::string& region, std::int64_t& priority) {
    region = s.text("region").value_or("");
    if (s.has("region") && !is_proper_name(region))
        s.fault("region", fmt::format("is \"{}\", which cannot name a region", region), "use letters, digits and _");
    if (const auto given = s.number("priority", dimension::none)) {
        constexpr double most = 1e6;
        if (*given != std::floor(*given) || std::fabs(*given) > most)
            s.fault("priority",
                    fmt::format("is {:g}, but a whole number between minus and plus a million is wanted", *given));
        else
            priority = static_cast<std::int64_t>(*given);
    }
}

ShapeSpec read_swept_outline(const Section& s, Verb verb, const std::string& name) {
    ShapeSpec shape;
    const std::size_t faults = s.context().problems->count();
    shape.where = s.where();
    shape.verb = verb;
    shape.name = name;
    const std::string& key = verb_names[static_cast<std::size_t>(verb)];
    const auto primitive = s.choice(key, primitive_names);
    if (!primitive) return shape;
    shape.primitive = static_cast<Primitive>(*primitive);
    if (shape.primitive == Primitive::line || shape.primitive == Primitive::point ||
        shape.primitive == Primitive::drawing)
        s.fault(key, fmt::format("is \"{}\", which cannot be drawn or turned by itself", name_of(shape.primitive)),
                shape.primitive == Primitive::drawing ? "give [part] extrude or revolve, for all plane shapes"
                                                      : "use a shape that encloses something");
    read_shape_dimensions(s, shape, {"extrude", "revolve", "sweep"});
    read_rounds(s, shape);
    read_side_names(s, shape);
    shape.sound = s.context().problems->count() == faults;
    return shape;
}

template <int D>
CornerSpecIn<D> read_corner_choice(const Section& s) {
    using Kind = typename CornerSpecIn<D>::Kind;
    CornerSpecIn<D> c;
    if (s.has("corners")) {
        if (const auto kind = s.choice("corners", corner_kinds)) c.kind = static_cast<Kind>(*kind);
    } else if (s.has("near")) {
        c.kind = Kind::near;
        c.near = s.points_in<D>("near");
    } else if (s.has("between")) {
        c.kind = Kind::between;
        if (const auto two = s.two_names("between")) c.between = *two;
    } else {
        s.missing("corners",
                  fmt::format("say which: corners = \"inner\", near = [[x, y{}]] or between = [\"a\", \"b\"]",
                              D == 3 ? ", z" : ""));
    }
    if (s.has("corners") + s.has("near") + s.has("between") > 1)
        s.fault("change", "has more than one of corners, near and between", "keep one");
    c.count = s.whole("count", 1);
    return c;
}
template CornerSpecIn<2> read_corner_choice<2>(const Section&);
template CornerSpecIn<3> read_corner_choice<3>(const Section&);

ShapeSpec read_shape(const Section& s) {
    ShapeSpec shape;
    Problems& problems = *s.context().problems;
    const std::size_t faults = problems.count();
    shape.where = s.where();
    const auto found = s.one_of(verb_names, "as in: add = \"rectangle\"");
    if (!found) return shape;
    shape.verb = static_cast<Verb>(*found);
    if (shape.verb == Verb::change) {
        read_change(s, shape);
        shape.sound = problems.count() == faults;
        return shape;
    }
    const std::string& verb = verb_names[*found];
    const auto primitive = s.choice(verb, primitive_names);
    if (!primitive) return shape;
    shape.primitive = static_cast<Primitive>(*primitive);
    const bool lines = shape.verb == Verb::split || shape.verb == Verb::mark;
    if ((shape.primitive == Primitive::line && !lines) ||
        (shape.primitive == Primitive::point && shape.verb != Verb::mark))
        s.fault(verb, fmt::format("is \"{}\", which encloses nothing", name_of(shape.primitive)),
                fmt::format("use mark = \"{}\"", name_of(shape.primitive)));
    shape.name = s.text("name").value_or("");
    read_region(s, shape.region, shape.priority);
    shape.of = s.names("of");
    read_shape_dimensions(s, shape, {});
    read_rounds(s, shape);
    read_side_names(s, shape);
    read_placement(s, shape.placement);
    shape.sound = problems.count() == faults;
    return shape;
}

ShapeSpec read_placed_shape(const Section& s, bool lines) {
    ShapeSpec shape;
    const std::size_t faults = s.context().problems->count();
    shape.where = s.where();
    shape.verb = lines ? Verb::mark : Verb::add;
    if (!s.has("shape")) s.missing("shape", "as in: shape = \"circle\"");
    const auto primitive = s.choice("shape", primitive_names);
    if (!primitive) return shape;
    shape.primitive = static_cast<Primitive>(*primitive);
    if (shape.primitive == Primitive::point || (shape.primitive == Primitive::line && !lines) ||
        shape.primitive == Primitive::drawing)
        s.fault("shape", fmt::format("is \"{}\", which is no shape for this", name_of(shape.primitive)),
                "use a rectangle, circle, ellipse, polygon, slot or outline");
    read_shape_dimensions(s, shape, {});
    read_rounds(s, shape);
    read_placement(s, shape.placement);
    shape.sound = s.context().problems->count() == faults;
    return shape;
}

}  // namespace dotsift
