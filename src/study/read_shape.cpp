#include "study/read_shape.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "study/keys.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> primitive_names{"rectangle", "circle", "ellipse", "polygon", "slot"};

const std::string& name_of(Primitive primitive) {
    return primitive_names[static_cast<std::size_t>(primitive)];
}

void read_shape_dimensions(const Section& s, ShapeSpec& shape) {
    const auto demand = [&](auto value, std::string_view key) {
        if (!value && !s.has(key)) s.missing(key, fmt::format("a {} needs it", name_of(shape.primitive)));
        return value;
    };
    std::vector<std::string> used{"add", "cut", "name", "names"};
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
            used.insert(used.end(), {"corner", "size", "angle", "round", "rounds"});
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
            used.insert(used.end(), {"corners", "round", "rounds"});
            break;
        case Primitive::slot:
            shape.from = demand(s.point("from"), "from").value_or(Vec2{});
            shape.to = demand(s.point("to"), "to").value_or(Vec2{{1, 0}});
            if (shape.from == shape.to) s.fault("to", "is the same point as from", "use a circle");
            shape.width = demand(s.positive("width", dimension::length), "width").value_or(1);
            used.insert(used.end(), {"from", "to", "width"});
            break;
    }
    for (const auto& key : keys_of("part.shape"))
        if (s.has(key) && std::find(used.begin(), used.end(), key) == used.end())
            s.fault(key, fmt::format("has no meaning for a {}", name_of(shape.primitive)), "remove it");
}

void read_rounds(const Section& s, const ReadingContext& context, ShapeSpec& shape) {
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

void read_side_names(const Section& s, const ReadingContext& context, ShapeSpec& shape) {
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
            context.problems->add(where_of(node),
                                  fmt::format("a {} has no side \"{}\"", name_of(shape.primitive), side),
                                  sides.empty()  ? "name the whole shape with: name = \"...\""
                                  : near.empty() ? fmt::format("its sides are {}", quoted_list(sides))
                                                 : fmt::format("did you mean \"{}\"?", near));
        } else if (!name || name->empty()) {
            context.problems->add(where_of(node), fmt::format("the name of side \"{}\" must be a string", side));
        } else {
            shape.names.emplace_back(side, *name);
        }
    }
}

}  // namespace

ShapeSpec read_shape(const Section& s, const ReadingContext& context) {
    ShapeSpec shape;
    const std::size_t faults = context.problems->count();
    shape.where = s.where();
    if (s.has("add") == s.has("cut")) {
        context.problems->add(s.where(), fmt::format("[{}] needs either \"add\" or \"cut\"", s.shown()),
                              "as in: add = \"rectangle\"");
        return shape;
    }
    shape.add = s.has("add");
    const auto primitive = s.choice(shape.add ? "add" : "cut", primitive_names);
    if (!primitive) return shape;
    shape.primitive = static_cast<Primitive>(*primitive);
    shape.name = s.text("name").value_or("");
    read_shape_dimensions(s, shape);
    read_rounds(s, context, shape);
    read_side_names(s, context, shape);
    shape.sound = context.problems->count() == faults;
    return shape;
}

}  // namespace dotsift
