#include "study/file/read_selection.hpp"

#include <algorithm>
#include <array>
#include <numbers>

#include "study/formula.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> plane_picks{"edges", "points"};
// In the order of SpaceSelectionSpec's.
const std::vector<std::string> space_picks{"faces", "edges", "points"};
const std::vector<std::string> surface_kinds{"plane", "cylinder", "cone", "sphere", "ring", "other"};

/// One value, or the smallest and the largest in brackets.
std::optional<std::array<double, 2>> read_range(const Section& s, const char* key, Dimension dimension) {
    const auto range = s.numbers(key, 1, 2, dimension);
    if (!range) return std::nullopt;
    const double least = range->front(), most = range->back();
    if (least > 0 && least <= most) return std::array{least, most};
    s.fault(key, "must be a value above zero, or the smallest and largest in brackets", "as in 4 or [3, 5]");
    return std::nullopt;
}

void read_plane_selection(const Section& s, const std::string& name, Study& study) {
    SelectionSpec x;
    x.name = name;
    x.where = s.where();
    if (const auto pick = s.choice("pick", plane_picks)) x.points = *pick == 1;
    x.named = s.names("named");
    if (const auto box = s.two_points("box")) x.box = LineSpec{(*box)[0], (*box)[1]};
    if (const auto line = s.two_points("line")) {
        x.line = LineSpec{(*line)[0], (*line)[1]};
        if (x.line->from == x.line->to) s.fault("line", "has the same point twice");
    }
    x.nearest = s.point("nearest");
    x.normal = s.point("normal");
    if (x.normal && norm(*x.normal) == 0) s.fault("normal", "is no direction");
    x.within = s.number("within", dimension::none).value_or(std::numbers::pi / 180);
    if (s.has("within") && !x.normal) s.fault("within", "goes with normal only");
    x.radius = read_range(s, "radius", dimension::length);
    x.beside = s.names("beside");
    x.around = s.names("around");
    x.follow_tangent = s.flag("follow_tangent").value_or(false);
    x.count = s.whole("count", 1);
    if (x.points)
        for (const auto* key : {"normal", "radius", "around", "follow_tangent"})
            if (s.has(key)) s.fault(key, "has no meaning for points", "remove it, or pick edges");
    for (const auto* key : {"in_plane", "kind", "area", "length"})
        if (s.has(key)) s.fault(key, "has no meaning in a plane part", "remove it");
    const bool any = x.box || x.line || x.nearest || x.normal || x.radius || !x.named.empty() || !x.beside.empty() ||
                     !x.around.empty();
    if (!any)
        s.fault("pick", "needs at least one rule",
                "rules are named, box, line, nearest, normal, radius, beside and around");
    study.selections.push_back(std::move(x));
}

void read_space_selection(const Section& s, const std::string& name, Study& study) {
    using Pick = SpaceSelectionSpec::Pick;
    SpaceSelectionSpec x;
    x.name = name;
    x.where = s.where();
    if (const auto pick = s.choice("pick", space_picks)) x.pick = static_cast<Pick>(*pick);
    x.named = s.names("named");
    x.box = s.exactly<3, 2>("box");
    x.plane = s.exactly<3, 2>("in_plane");
    if (x.plane && norm((*x.plane)[1]) == 0) s.fault("in_plane", "has a normal that is no direction");
    x.nearest = s.point_in<3>("nearest");
    x.normal = s.point_in<3>("normal");
    if (x.normal && norm(*x.normal) == 0) s.fault("normal", "is no direction");
    x.within = s.number("within", dimension::none).value_or(std::numbers::pi / 180);
    if (s.has("within") && !x.normal) s.fault("within", "goes with normal only");
    if (const auto kind = s.choice("kind", surface_kinds)) x.kind = static_cast<SpaceSelectionSpec::Kind>(*kind);
    x.radius = read_range(s, "radius", dimension::length);
    const bool faces = x.pick == Pick::faces;
    x.size = faces ? read_range(s, "area", Dimension{2, 0, 0, 0}) : read_range(s, "length", dimension::length);
    x.beside = s.names("beside");
    x.around = s.names("around");
    x.follow_tangent = s.flag("follow_tangent").value_or(false);
    x.count = s.whole("count", 1);
    const auto refuse = [&](std::initializer_list<const char*> keys) {
        for (const auto* key : keys)
            if (s.has(key))
                s.fault(key, "has no meaning for " + space_picks[static_cast<std::size_t>(x.pick)] + " of a solid",
                        "remove it, or pick something else");
    };
    refuse({"line"});
    if (faces) refuse({"length"});
    if (x.pick == Pick::edges) refuse({"normal", "kind", "area"});
    if (x.pick == Pick::points)
        refuse({"normal", "kind", "area", "length", "radius", "beside", "around", "follow_tangent"});
    constexpr std::array rules{"named",  "box",  "in_plane", "nearest", "normal", "kind",
                               "radius", "area", "length",   "beside",  "around"};
    if (std::none_of(rules.begin(), rules.end(), [&](const char* key) { return s.has(key); }))
        s.fault("pick", "needs at least one rule",
                "rules are named, box, in_plane, nearest, normal, kind, radius, area, length, beside and around");
    study.space_selections.push_back(std::move(x));
}

}  // namespace

void read_selection(const Section& s, const std::string& name, Study& study) {
    const auto pick = s.has("pick") ? s.content()["pick"].value_exact<std::string>() : std::nullopt;
    if (!study.space_shapes.empty() || (study.solid() && pick == space_picks.front()))
        read_space_selection(s, name, study);
    else
        read_plane_selection(s, name, study);
}

}  // namespace dotsift
