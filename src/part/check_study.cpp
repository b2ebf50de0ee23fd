#include "part/check_study.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "study/read.hpp"

namespace dotsift {

namespace {

void check_names(const std::vector<std::string>& patterns, const std::string& user, Where where, const Part& part,
                 Problems& problems) {
    for (const auto& pattern : patterns) {
        if (!part.edges_named({pattern}).empty()) continue;
        const auto& known = part.boundary_names;
        if (std::find(known.begin(), known.end(), pattern) != known.end()) {
            problems.add(where,
                         fmt::format("{}: nothing is left of the boundary \"{}\": it was cut away or lies inside", user,
                                     pattern),
                         "use another boundary");
            continue;
        }
        const std::string near = nearest(pattern, known);
        problems.add(where, fmt::format("{}: no boundary is named \"{}\"", user, pattern),
                     known.empty() ? "give the shapes of the part a name, as in: name = \"bore\""
                     : near.empty()
                         ? fmt::format("named boundaries are {}", quoted_list(known))
                         : fmt::format("did you mean \"{}\"? named boundaries are {}", near, quoted_list(known)));
    }
}

/// Directions in which a support holds an edge of the part at parameter t.
std::vector<Vec2> held_directions(const SupportSpec& support, const Curve& curve, double t) {
    switch (support.hold) {
        case Hold::fixed:
            return {{{1, 0}}, {{0, 1}}};
        case Hold::symmetry: {
            const Vec2 d = curve.derivative(t);
            return {turned_left(d) / norm(d)};
        }
        case Hold::values:
            break;
    }
    std::vector<Vec2> list;
    if (support.displacement[0]) list.push_back({{1, 0}});
    if (support.displacement[1]) list.push_back({{0, 1}});
    return list;
}

/// The rigid motions (a + b turned) that no support hinders, told in words.
void check_rigid_motion(const Study& study, const Part& part, Problems& problems) {
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        Box2 box;
        for (const int e : part.faces[f].loops[0]) box.add(part.edges[static_cast<std::size_t>(e)].curve.box());
        const double size = box.diagonal();
        Eigen::Matrix3d gram = Eigen::Matrix3d::Zero();  // of the rows (dx, dy, d . turned(p - centre) / size)
        const auto hold = [&](const Vec2& p, const Vec2& d) {
            const Eigen::Vector3d row(d[0], d[1], dot(d, turned_left((p - box.centre()) / size)));
            gram += row * row.transpose();
        };
        for (const auto& support : study.supports) {
            if (support.at && box.distance_to(*support.at) == 0)
                for (const Vec2& d : held_directions(support, Curve{}, 0)) hold(*support.at, d);
            for (const int e : part.edges_named(support.on)) {
                const auto& edge = part.edges[static_cast<std::size_t>(e)];
                if (edge.face != static_cast<int>(f)) continue;
                for (const double t : {0.0, 0.25, 0.5, 0.75, 1.0})
                    for (const Vec2& d : held_directions(support, edge.curve, t)) hold(edge.curve.point(t), d);
            }
        }
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> eigen(gram);
        // A motion counts as free when the supports hold it a million times less than the best-held one.
        const double floor = 1e-12 * std::max(eigen.eigenvalues()[2], 1e-300);
        std::vector<Eigen::Vector3d> free;
        for (int k = 0; k < 3; ++k)
            if (eigen.eigenvalues()[k] <= floor) free.emplace_back(eigen.eigenvectors().col(k));
        if (free.empty()) continue;
        std::string motion;
        if (free.size() == 3) {
            motion = "move along x and y and turn";
        } else if (free.size() == 2) {
            const bool slides =
                std::all_of(free.begin(), free.end(), [](const auto& v) { return std::fabs(v[2]) < 1e-6; });
            const bool along_x =
                std::all_of(free.begin(), free.end(), [](const auto& v) { return std::fabs(v[1]) < 1e-6; });
            const bool along_y =
                std::all_of(free.begin(), free.end(), [](const auto& v) { return std::fabs(v[0]) < 1e-6; });
            motion = slides    ? "move along x and y"
                     : along_x ? "move along x and turn"
                     : along_y ? "move along y and turn"
                               : "slide and turn";
        } else {
            const auto& v = free[0];
            const double turn = v[2] / size;  // radians per unit of the motion
            if (std::fabs(v[2]) > 1e-6 * std::hypot(v[0], v[1]) && std::hypot(v[0], v[1]) < 1e3 * std::fabs(v[2])) {
                const Vec2 pole = box.centre() + Vec2{{-v[1] / turn, v[0] / turn}};
                motion = fmt::format("turn about ({:.4g}, {:.4g})", pole[0], pole[1]);
            } else if (std::fabs(v[1]) < 1e-6 * std::fabs(v[0])) {
                motion = "move along x";
            } else if (std::fabs(v[0]) < 1e-6 * std::fabs(v[1])) {
                motion = "move along y";
            } else {
                motion = fmt::format("move along ({:.3g}, {:.3g})", v[0], v[1]);
            }
        }
        const Where where = study.supports.empty() ? study.part_where : study.supports.front().where;
        const std::string which = part.faces.size() == 1 ? "the part"
                                                         : fmt::format("piece {} of the part, round ({:.4g}, {:.4g}),",
                                                                       f + 1, box.centre()[0], box.centre()[1]);
        problems.add(where, fmt::format("the supports leave {} free to {}", which, motion),
                     "hold that motion, for example by a support with ux or uy, or hold = \"symmetry\"");
    }
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

bool inside_part(const Part& part, const Vec2& p) {
    // Even-odd rule along the ray to +x, with the arcs followed by chords of 1/1024 turn; good for messages.
    bool inside = false;
    for (const auto& e : part.edges) {
        const int steps =
            e.curve.kind() == Curve::Kind::line ? 1 : 1 + static_cast<int>(std::fabs(e.curve.sweep()) * 1024 / 6.28);
        for (int k = 0; k < steps; ++k) {
            const Vec2 a = e.curve.point(static_cast<double>(k) / steps),
                       b = e.curve.point(static_cast<double>(k + 1) / steps);
            if ((a[1] > p[1]) == (b[1] > p[1])) continue;
            if (p[0] < a[0] + (p[1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0])) inside = !inside;
        }
    }
    return inside;
}

void check_study(const Study& study, const Part& part, Problems& problems) {
    for (const auto& s : study.supports) check_names(s.on, "support." + s.name, s.where, part, problems);
    for (const auto& s : study.supports) {
        if (!s.at || part.vertex_at(*s.at) >= 0) continue;
        std::size_t best = 0;
        for (std::size_t v = 1; v < part.vertices.size(); ++v)
            if (distance(part.vertices[v], *s.at) < distance(part.vertices[best], *s.at)) best = v;
        problems.add(
            s.where,
            fmt::format("support.{}: ({:g}, {:g}) is no corner of the outline", s.name, (*s.at)[0], (*s.at)[1]),
            fmt::format("the nearest corner is ({:.8g}, {:.8g})", part.vertices[best][0], part.vertices[best][1]));
    }
    for (const auto& l : study.loads) check_names(l.on, "load." + l.name, l.where, part, problems);
    for (const auto& z : study.sizes.local) check_names(z.on, "size.local." + z.name, z.where, part, problems);
    const double tolerance = 1e-6 * part.box.diagonal();  // for points that lie on a curved boundary
    for (const auto& q : study.quantities) {
        if (q.field == Field::reaction_x || q.field == Field::reaction_y) {
            std::vector<std::string> known;
            for (const auto& s : study.supports) known.push_back(s.name);
            for (const auto& pattern : q.on)
                if (std::none_of(known.begin(), known.end(), [&](const auto& n) { return fits_pattern(n, pattern); }))
                    problems.add(q.where, fmt::format("quantity.{}: no support is named \"{}\"", q.name, pattern),
                                 fmt::format("supports are {}", quoted_list(known)));
        } else {
            check_names(q.on, "quantity." + q.name, q.where, part, problems);
        }
        if (q.at && !inside_part(part, *q.at)) {
            const bool near = std::any_of(part.edges.begin(), part.edges.end(), [&](const PartEdge& e) {
                double least = tolerance * 1e6;
                for (int k = 0; k <= 4096; ++k) {
                    const Vec2 a = e.curve.point(k / 4096.0), d = e.curve.point((k + 1) / 4096.0) - a;
                    const double t = std::clamp(dot(*q.at - a, d) / std::max(dot(d, d), 1e-300), 0.0, 1.0);
                    least = std::min(least, distance(*q.at, a + d * t));
                }
                return least <= tolerance;
            });
            if (!near)
                problems.add(q.where,
                             fmt::format("quantity.{}: the point ({:g}, {:g}) lies outside the part", q.name,
                                         (*q.at)[0], (*q.at)[1]),
                             fmt::format("the part reaches from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})", part.box.low[0],
                                         part.box.low[1], part.box.high[0], part.box.high[1]));
        }
    }
    check_symmetry_is_straight(study, part, problems);
    if (!study.supports.empty() && problems.empty()) check_rigid_motion(study, part, problems);

    std::vector<std::string> used;
    const auto use = [&](const std::vector<std::string>& on) { used.insert(used.end(), on.begin(), on.end()); };
    for (const auto& x : study.supports) use(x.on);
    for (const auto& x : study.loads) use(x.on);
    for (const auto& x : study.sizes.local) use(x.on);
    for (const auto& x : study.quantities) use(x.on);
    for (std::size_t n = 0; n < part.boundary_names.size(); ++n)
        if (std::none_of(used.begin(), used.end(),
                         [&](const auto& p) { return fits_pattern(part.boundary_names[n], p); }))
            problems.warn(study.part_where,
                          fmt::format("the boundary name \"{}\" is used by nothing", part.boundary_names[n]));
}

StudyAndPart open_study(const std::filesystem::path& path, const std::string& text, Problems& problems) {
    StudyAndPart opened;
    opened.study = read_study(path, text, problems);
    const auto& shapes = opened.study.shapes;
    if (shapes.empty() || !std::all_of(shapes.begin(), shapes.end(), [](const ShapeSpec& s) { return s.sound; }))
        return opened;
    const std::size_t before = problems.count();
    opened.part = build_part(opened.study, problems);
    if (problems.count() == before) check_study(opened.study, opened.part, problems);
    return opened;
}

}  // namespace dotsift
