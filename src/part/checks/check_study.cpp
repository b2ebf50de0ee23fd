#include "part/checks/check_study.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "part/checks/check_materials.hpp"
#include "part/checks/check_motion.hpp"
#include "part/checks/check_names.hpp"
#include "part/checks/check_paths.hpp"
#include "part/checks/check_periodic.hpp"
#include "part/checks/check_solid.hpp"
#include "part/checks/check_supports.hpp"
#include "part/checks/check_tables.hpp"
#include "part/combine/twin_edges.hpp"
#include "part/solid/build_solid.hpp"
#include "study/input_files.hpp"
#include "study/read.hpp"

namespace dotsift {

namespace {

void check_names(const Study& study, const std::vector<std::string>& patterns, const std::string& user, Where section,
                 const Part& part, Problems& problems) {
    check_boundary_names(
        study, patterns, user, section, part, [&](const std::string& p) { return !part.edges_named({p}).empty(); },
        problems);
}

/// Everything that a size may be asked for on.
std::vector<std::string> names_for_sizes(const Part& part) {
    std::vector<std::string> known = part.boundary_names;
    known.insert(known.end(), part.regions.begin(), part.regions.end());
    for (const auto& p : part.points)
        if (std::find(known.begin(), known.end(), p.name) == known.end()) known.push_back(p.name);
    return known;
}

void check_sizes(const Study& study, const Part& part, Problems& problems) {
    const double extent = part.box.diagonal();
    if (study.sizes.global && *study.sizes.global > extent)
        problems.add(study.sizes.where,
                     fmt::format("size: the global size {:g} exceeds the whole part, which is {:.4g} across",
                                 *study.sizes.global, extent),
                     fmt::format("a size of {:.2g} makes some hundred elements; is the unit right?",
                                 std::sqrt(part.area()) / 12));
    const auto known = names_for_sizes(part);
    for (const auto& z : study.sizes.local) {
        const std::string user = "size.local." + z.name;
        if (z.demand == SizeDemand::divisions || z.demand == SizeDemand::segments) {
            check_names(study, z.on, user, z.where, part, problems);
            continue;
        }
        for (const auto& pattern : z.on) {
            if (!part.regions_named({pattern}).empty() || !part.points_named({pattern}).empty() ||
                !part.edges_named({pattern}).empty())
                continue;
            const std::string near = nearest(pattern, known);
            problems.add(study.place_of(user, pattern, z.where),
                         fmt::format("{}: no boundary, region or point is named \"{}\"", user, pattern),
                         near.empty() ? fmt::format("names are {}", quoted_list(known))
                                      : fmt::format("did you mean \"{}\"?", near));
        }
    }
    for (const auto& l : study.sizes.layers) {
        check_names(study, l.on, "size.layers." + l.name, l.where, part, problems);
        check_region_names(study, l.inside, "size.layers." + l.name, l.where, part, problems);
    }
    for (const auto& q : study.quality) check_region_names(study, q.on, "quality." + q.name, q.where, part, problems);
    for (const auto& r : study.mesh.regions)
        check_region_names(study, {r.name}, "mesh.region." + r.name, r.where, part, problems);
    for (const auto& z : study.mesh.remesh)
        check_region_names(study, z.rule.on, "mesh.remesh." + z.rule.name, z.rule.where, part, problems);
}

/// Pressure needs a side that is free, and so does a mirror plane.
void check_interior(const Study& study, const Part& part, Problems& problems) {
    const auto check = [&](const std::vector<std::string>& on, const std::string& user, Where where, const char* what) {
        for (const int e : part.edges_named(on)) {
            if (!part.edge(e).interior()) continue;
            const Vec2 at = part.edge(e).curve.point(0.5);
            problems.add(study.place_of(user, "on", where),
                         fmt::format("{}: {} on an edge with material on both sides, at ({:.4g}, {:.4g})", user, what,
                                     at[0], at[1]),
                         "use a boundary of the outline");
            return;
        }
    };
    for (const auto& l : study.loads)
        if (l.kind == LoadKind::pressure) check(l.on, "load." + l.name, l.where, "pressure");
    for (const auto& s : study.supports)
        if (s.hold == Hold::symmetry) check(s.on, "support." + s.name, s.where, "symmetry");
}

void check_symmetry_is_straight(const Study& study, const Part& part, Problems& problems) {
    for (const auto& support : study.supports) {
        if (support.hold != Hold::symmetry) continue;
        for (const int e : part.edges_named(support.on)) {
            const auto& c = part.edges[static_cast<std::size_t>(e)].curve;
            if (c.kind() == Curve::Kind::line) continue;
            problems.add(
                support.where,
                fmt::format("support.{}: symmetry on a curved boundary, from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})",
                            support.name, c.start()[0], c.start()[1], c.end()[0], c.end()[1]),
                "symmetry needs straight boundaries");
            break;
        }
    }
}

}  // namespace

std::vector<std::string> unused_names(const Study& study, const Part& part) {
    return unused_boundary_names(study, part, names_given(part, part.edges));
}

namespace {

/// Puts the place of a named point where something refers to it by name.
template <int D>
class PointNames {
  public:
    PointNames(const Study& study, const PartIn<D>& part, Problems& problems)
        : study_(study), part_(part), problems_(problems) {}

    template <class Place>
    void resolve(const std::string& user, Where where, const std::string& name, std::optional<Place>& at) const {
        if (name.empty()) return;
        std::vector<std::string> known;
        for (const auto& p : part_.points) known.push_back(p.name);
        const auto found = part_.points_named({name});
        if (found.size() == 1) {
            const auto& place = part_.vertices[static_cast<std::size_t>(found[0])];
            if constexpr (Place::size() == 3)
                at = in_space(place);
            else
                at = place;
            return;
        }
        const std::string near = nearest(name, known);
        problems_.add(study_.place_of(user, name, where),
                      found.empty() ? fmt::format("{}: no point is named \"{}\"", user, name)
                                    : fmt::format("{}: {} points are named \"{}\"", user, found.size(), name),
                      known.empty()                    ? "name one by mark = \"point\" or by a selection"
                      : !near.empty() && found.empty() ? fmt::format("did you mean \"{}\"?", near)
                                                       : fmt::format("named points are {}", quoted_list(known)));
    }

  private:
    const Study& study_;
    const PartIn<D>& part_;
    Problems& problems_;
};

}  // namespace

void resolve_points(Study& study, const Part& part, Problems& problems) {
    const PointNames<2> names(study, part, problems);
    for (auto& s : study.supports) names.resolve("support." + s.name, s.where, s.at_name, s.at);
    for (auto& l : study.loads) names.resolve("load." + l.name, l.where, l.at_name, l.at);
    for (auto& p : study.paths) {
        names.resolve("path." + p.name, p.where, p.from_name, p.from);
        names.resolve("path." + p.name, p.where, p.to_name, p.to);
    }
    for (auto& p : study.pictures) {
        std::optional<Vec2> about = p.about;
        names.resolve("picture." + p.name, p.where, p.about_name, about);
        p.about = *about;
    }
    for (auto& q : study.quantities) {
        names.resolve("quantity." + q.name, q.where, q.at_name, q.at);
        std::optional<Vec2> about = q.about;
        names.resolve("quantity." + q.name, q.where, q.relative_to_name, q.relative_to);
        names.resolve("quantity." + q.name, q.where, q.about_name, about);
        q.about = *about;
    }
}

void resolve_points(Study& study, const SolidPart& part, Problems& problems) {
    const PointNames<3> names(study, part, problems);
    for (auto& s : study.supports) names.resolve("support." + s.name, s.where, s.at_name, s.at);
    for (auto& l : study.loads) names.resolve("load." + l.name, l.where, l.at_name, l.at);
    for (auto& q : study.quantities) {
        names.resolve("quantity." + q.name, q.where, q.at_name, q.at);
        names.resolve("quantity." + q.name, q.where, q.relative_to_name, q.relative_to);
    }
}

namespace {

/// Single points must be nodes of every mesh.
void check_corner(const Vec2& at, const std::string& user, Where where, const Part& part, Problems& problems) {
    if (part.vertex_at(at) >= 0) return;
    std::size_t best = 0;
    for (std::size_t v = 1; v < part.vertices.size(); ++v)
        if (distance(part.vertices[v], at) < distance(part.vertices[best], at)) best = v;
    problems.add(where, fmt::format("{}: ({:g}, {:g}) is no corner of the outline", user, at[0], at[1]),
                 fmt::format("the nearest corner is ({:.8g}, {:.8g}); mark = \"point\" makes one elsewhere",
                             part.vertices[best][0], part.vertices[best][1]));
}

/// A point where something is wanted lies in the part, or on its outline.
void check_inside(const std::optional<Vec3>& at, const QuantitySpec& q, Where where, const Part& part, double tolerance,
                  Problems& problems) {
    if (!at || part.holds(in_plane(*at), tolerance)) return;
    problems.add(where,
                 fmt::format("quantity.{}: the point ({:g}, {:g}) lies outside the part", q.name, (*at)[0], (*at)[1]),
                 fmt::format("the part reaches from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})", part.box.low[0],
                             part.box.low[1], part.box.high[0], part.box.high[1]));
}

/// Stress and flux jump between regions: which side a quantity means.
void check_side(const QuantitySpec& q, const Study& study, const Part& part, double tolerance, Problems& problems) {
    const std::string user = "quantity." + q.name;
    check_region_names(study, q.inside, user, q.where, part, problems);
    const bool jumps = is_of_stress(q.field) ||
                       (is_of_potential(q.field) && (q.field != Field::potential || !study.resistances.empty()));
    std::vector<int> edges;
    if (!q.on.empty() && part.regions_named(q.on).empty()) edges = part.edges_named(q.on);
    for (std::size_t e = 0; q.at && e < part.edges.size(); ++e) {
        const Curve& curve = part.edges[e].curve;
        if (const Vec2 at = in_plane(*q.at); distance(curve.point(curve.project(at)), at) <= tolerance)
            edges.push_back(static_cast<int>(e));
    }
    std::vector<int> beside;  // regions
    bool between = false;
    for (const int e : edges) {
        const PartEdge& edge = part.edge(e);
        for (const int face : {edge.left, edge.right})
            if (face >= 0) beside.push_back(part.faces[static_cast<std::size_t>(face)].region);
        between = between || (edge.interior() && part.faces[static_cast<std::size_t>(edge.left)].region !=
                                                     part.faces[static_cast<std::size_t>(edge.right)].region);
    }
    const auto wanted = part.regions_named(q.inside);
    if (!wanted.empty() && !edges.empty() && std::none_of(beside.begin(), beside.end(), [&](int r) {
            return std::find(wanted.begin(), wanted.end(), r) != wanted.end();
        }))
        problems.add(study.place_of(user, "inside", q.where),
                     fmt::format("{}: {} is not beside {}", user, quoted_list(q.inside),
                                 q.on.empty() ? "that point" : quoted_list(q.on)),
                     "name a region that touches it");
    const bool one_value = q.take == Take::mean || q.take == Take::integral || q.take == Take::value;
    if (between && jumps && q.inside.empty() && one_value && !q.formula && q.along.empty())
        problems.warn(q.where,
                      fmt::format("{}: {} may jump between the regions there; the mean of both sides is taken", user,
                                  name_of(q.field)),
                      "say which one counts: inside = \"REGION\"");
}

}  // namespace

void check_study(const Study& study, const Part& part, Problems& problems) {
    for (const auto& s : study.supports) check_names(study, s.on, "support." + s.name, s.where, part, problems);
    for (const auto& s : study.supports)
        if (s.at && s.at_name.empty())
            check_corner(in_plane(*s.at), "support." + s.name, study.place_of("support." + s.name, "at", s.where), part,
                         problems);
    for (const auto& l : study.loads) {
        if (is_in_volume(l.kind))
            check_region_names(study, l.on, "load." + l.name, l.where, part, problems);
        else
            check_names(study, l.on, "load." + l.name, l.where, part, problems);
        if (l.at && l.at_name.empty())
            check_corner(in_plane(*l.at), "load." + l.name, study.place_of("load." + l.name, "at", l.where), part,
                         problems);
    }
    for (const auto& r : study.remotes) check_names(study, r.on, "remote." + r.name, r.where, part, problems);
    for (const auto& p : study.periodic)
        check_names(study, {p.between[0], p.between[1]}, "periodic." + p.name, p.where, part, problems);
    for (const auto& p : study.paths) check_names(study, p.follow, "path." + p.name, p.where, part, problems);
    check_periodic(study, part, problems);
    check_tables(study, part, problems);
    check_thickness(study, part, problems);
    for (const auto& r : study.resistances) {
        check_names(study, r.on, "resistance." + r.name, r.where, part, problems);
        for (const int e : part.edges_named(r.on)) {
            const auto& edge = part.edge(e);
            const bool between = edge.interior() && part.faces[static_cast<std::size_t>(edge.left)].region !=
                                                        part.faces[static_cast<std::size_t>(edge.right)].region;
            if (between) continue;
            const Vec2 at = edge.curve.point(0.5);
            problems.add(r.where,
                         fmt::format("resistance.{}: the edge at ({:.4g}, {:.4g}) is not between two regions", r.name,
                                     at[0], at[1]),
                         "name the edge between them, as in: on = \"first_and_second\"");
            break;
        }
    }
    for (const auto& [region, t] : study.thickness_of)
        check_region_names(study, {region}, "part.thickness_of", study.part_where, part, problems);
    if (study.plane == Plane::axisymmetric && part.box.low[0] < -same_point_share * part.box.diagonal())
        problems.add(study.part_where,
                     fmt::format("the part reaches to x = {:.4g}, but in an axisymmetric study x is the radius",
                                 part.box.low[0]),
                     "move it to x >= 0; the axis is x = 0");
    check_sizes(study, part, problems);
    const double tolerance = 1e-6 * part.box.diagonal();  // for points that lie on a curved boundary
    for (const auto& q : study.quantities) {
        if (is_reaction(q.field)) {
            std::vector<std::string> known;
            for (const auto& s : study.supports) known.push_back(s.name);
            for (const auto& r : study.remotes) known.push_back(r.name);
            for (const auto& pattern : q.on)
                if (std::none_of(known.begin(), known.end(), [&](const auto& n) { return fits_pattern(n, pattern); }))
                    problems.add(study.place_of("quantity." + q.name, pattern, q.where),
                                 fmt::format("quantity.{}: no support is named \"{}\"", q.name, pattern),
                                 fmt::format("supports are {}", quoted_list(known)));
        } else {
            std::vector<std::string> boundaries;
            for (const auto& pattern : q.on)
                if (part.regions_named({pattern}).empty()) boundaries.push_back(pattern);
            check_names(study, boundaries, "quantity." + q.name, q.where, part, problems);
            if (!boundaries.empty() && boundaries.size() < q.on.size())
                problems.add(study.place_of("quantity." + q.name, "on", q.where),
                             fmt::format("quantity.{}: on names regions and boundaries together", q.name),
                             "use a quantity for each");
        }
        const auto key = [&](const char* name) { return study.place_of("quantity." + q.name, name, q.where); };
        if (q.at_name.empty()) check_inside(q.at, q, key("at"), part, tolerance, problems);
        if (q.relative_to_name.empty()) check_inside(q.relative_to, q, key("relative_to"), part, tolerance, problems);
        if (q.field == Field::turn && !q.formula)
            for (const auto& name : q.on)
                if (!part.regions_named({name}).empty())
                    problems.add(study.place_of("quantity." + q.name, name, q.where),
                                 fmt::format("quantity.{}: \"{}\" is a region, but a boundary turns", q.name, name),
                                 "name a boundary");
    }
    for (const auto& q : study.quantities) check_side(q, study, part, tolerance, problems);
    for (const auto& s : study.series) check_region_names(study, s.within, "series." + s.name, s.where, part, problems);
    check_paths(study, part, tolerance, problems);
    check_symmetry_is_straight(study, part, problems);
    check_interior(study, part, problems);
    check_materials(study, part, problems);
    check_plausible(study, problems);
    if (problems.empty()) check_contradictions(study, part, problems);
    if (study.elastic() && problems.empty()) check_rigid_motion(study, part, problems);
    if (study.conducts() && problems.empty()) check_level(study, part, problems);

    for (const auto& file : input_files(study))
        if (leads_elsewhere(file) && study.path.filename() != study_copy)
            problems.warn({}, fmt::format("the file {} lies outside of the study's folder", file.string()),
                          "results hold a copy of it; beside the study it would travel along");
    warn_of_unused(study, unused_names(study, part), problems);
}

StudyAndPart open_study(const std::filesystem::path& path, const std::string& text, Problems& problems) {
    return open_part(read_study(path, text, problems), problems);
}

StudyAndPart open_part(Study study, Problems& problems) {
    StudyAndPart opened;
    opened.study = std::move(study);
    const auto sound = [](const auto& shapes) {
        return std::all_of(shapes.begin(), shapes.end(), [](const auto& s) { return s.sound; });
    };
    const Study& read = opened.study;
    if ((read.shapes.empty() && read.space_shapes.empty()) || !sound(read.shapes) || !sound(read.space_shapes) ||
        (!read.shapes.empty() && read.solid() && !read.sweep))
        return opened;
    const std::size_t before = problems.count();
    BuiltPart built = build_part(opened.study, problems);
    opened.part = std::move(built.part);
    opened.original = std::move(built.original);
    opened.cleanup = std::move(built.cleanup);
    opened.notes = std::move(built.notes);
    if (problems.count() > before) return opened;
    opened.part.twins = twin_edges(opened.study, opened.part);
    if (opened.study.solid()) {
        opened.solid = build_solid(opened.study, opened.part, problems, opened.cleanup);
        if (opened.solid && problems.count() == before) {  // with faulty names more faults would follow
            resolve_points(opened.study, *opened.solid, problems);
            check_solid(opened.study, *opened.solid, problems);
        }
        return opened;
    }
    resolve_points(opened.study, opened.part, problems);
    check_study(opened.study, opened.part, problems);
    return opened;
}

}  // namespace dotsift
