#include "part/checks/check_motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/dense.hpp"
#include "part/checks/connected.hpp"
#include "study/read.hpp"

namespace dotsift {

namespace {

/// Directions in which a support holds an edge of the part at parameter t.
std::vector<Vec2> held_directions(const SupportSpec& support, const Curve& curve, double t) {
    switch (support.hold) {
        case Hold::fixed:
            return {{{1, 0}}, {{0, 1}}};
        case Hold::symmetry:
        case Hold::antisymmetry: {
            const Vec2 d = curve.derivative(t) / norm(curve.derivative(t));
            return {support.hold == Hold::symmetry ? turned_left(d) : d};
        }
        case Hold::values:
            break;
    }
    std::vector<Vec2> list;
    if (support.normal_displacement || support.normal_stiffness || support.tangential_stiffness) {
        const Vec2 d = curve.derivative(t) / norm(curve.derivative(t));
        if (support.normal_displacement || support.normal_stiffness) list.push_back(turned_left(d));
        if (support.tangential_stiffness) list.push_back(d);
    }
    if (support.displacement[0]) list.push_back({{1, 0}});
    if (support.displacement[1]) list.push_back({{0, 1}});
    return list;
}

/// Faces that share an edge hang together: for each face the number of its piece.
std::vector<int> pieces_of(const Part& part) {
    std::vector<std::array<int, 2>> joined;
    for (const auto& e : part.edges)
        if (e.interior()) joined.push_back({e.left, e.right});
    return connected_pieces(part.faces.size(), joined);
}

}  // namespace

/// The rigid motions (a + b turned) that no support hinders, told in words.
void check_rigid_motion(const Study& study, const Part& part, Problems& problems) {
    const auto piece_of_face = pieces_of(part);
    const int pieces = piece_of_face.empty() ? 0 : *std::max_element(piece_of_face.begin(), piece_of_face.end()) + 1;
    const auto piece_of_edge = [&](const PartEdge& e) {
        return piece_of_face[static_cast<std::size_t>(e.left >= 0 ? e.left : e.right)];
    };
    const auto piece_of_point = [&](const Vec2& p) {
        const int v = part.vertex_at(p);
        for (const auto& e : part.edges)
            if (e.start == v || e.end == v) return piece_of_edge(e);
        for (std::size_t k = 0; k < part.faces.size(); ++k)
            if (std::find(part.faces[k].points.begin(), part.faces[k].points.end(), v) != part.faces[k].points.end())
                return piece_of_face[k];
        return -1;
    };
    for (int f = 0; f < pieces; ++f) {
        Box2 box;
        for (const auto& e : part.edges)
            if (piece_of_edge(e) == f) box.add(e.curve.box());
        const double size = box.diagonal();
        Eigen::Matrix3d gram = Eigen::Matrix3d::Zero();  // of the rows (dx, dy, d . turned(p - centre) / size)
        const auto hold = [&](const Vec2& p, const Vec2& d) {
            const Eigen::Vector3d row(d[0], d[1], dot(d, turned_left((p - box.centre()) / size)));
            gram += row * row.transpose();
        };
        for (const auto& remote : study.remotes) {
            const auto edges = part.edges_named(remote.on);
            const bool here =
                std::any_of(edges.begin(), edges.end(), [&](int e) { return piece_of_edge(part.edge(e)) == f; });
            if (!here) continue;
            if (remote.motion[0]) hold(remote.at, {{1, 0}});
            if (remote.motion[1]) hold(remote.at, {{0, 1}});
            if (remote.motion[2]) {
                const Eigen::Vector3d row(0, 0, 1);
                gram += row * row.transpose();
            }
        }
        for (const auto& pair : study.periodic) {  // alike in both places: a turn would tear them apart
            const auto a = part.edges_named({pair.between[0]}), b = part.edges_named({pair.between[1]});
            if (a.empty() || b.empty() || piece_of_edge(part.edge(a.front())) != f) continue;
            if (pair.turn) {  // nothing but a turn about the centre looks the same from each sector
                hold(pair.about, {{1, 0}});
                hold(pair.about, {{0, 1}});
                continue;
            }
            const Vec2 apart = part.edge(b.front()).curve.box().centre() - part.edge(a.front()).curve.box().centre();
            const Eigen::Vector3d row(0, 0, norm(apart) / size);
            gram += row * row.transpose();
        }
        for (const auto& support : study.supports) {
            if (support.at && piece_of_point(in_plane(*support.at)) == f)
                for (const Vec2& d : held_directions(support, Curve{}, 0)) hold(in_plane(*support.at), d);
            for (const int e : part.edges_named(support.on)) {
                const auto& edge = part.edges[static_cast<std::size_t>(e)];
                if (piece_of_edge(edge) != f) continue;
                for (const double t : {0.0, 0.25, 0.5, 0.75, 1.0})
                    for (const Vec2& d : held_directions(support, edge.curve, t)) hold(edge.curve.point(t), d);
            }
        }
        if (study.plane == Plane::axisymmetric) {  // the hoops hold all but the motion along the axis
            gram(0, 0) = gram(2, 2) = std::max(gram(1, 1), 1.0);
            gram(0, 1) = gram(1, 0) = gram(0, 2) = gram(2, 0) = gram(1, 2) = gram(2, 1) = 0;
        }
        const SymmetricEigen eigen = symmetric_eigen(gram);
        // A motion counts as free when the supports hold it a million times less than the best-held one.
        const double floor = 1e-12 * std::max(eigen.values[2], 1e-300);
        std::vector<Eigen::Vector3d> free;
        for (int k = 0; k < 3; ++k)
            if (eigen.values[k] <= floor) free.emplace_back(eigen.vectors.col(k));
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
        const std::string which = pieces == 1 ? "the part"
                                              : fmt::format("piece {} of the part, round ({:.4g}, {:.4g}),", f + 1,
                                                            box.centre()[0], box.centre()[1]);
        problems.add(where, fmt::format("the supports leave {} free to {}", which, motion),
                     "hold that motion, for example by a support with ux or uy, or hold = \"symmetry\"");
    }
}

/// Every piece of the part needs something that fixes the level of its potential.
void check_level(const Study& study, const Part& part, Problems& problems) {
    const auto piece_of_face = pieces_of(part);
    const int pieces = piece_of_face.empty() ? 0 : *std::max_element(piece_of_face.begin(), piece_of_face.end()) + 1;
    std::vector<char> held(static_cast<std::size_t>(pieces), 0);
    const auto hold = [&](const std::vector<std::string>& on) {
        for (const int e : part.edges_named(on)) {
            const auto& edge = part.edge(e);
            held[static_cast<std::size_t>(
                piece_of_face[static_cast<std::size_t>(edge.left >= 0 ? edge.left : edge.right)])] = 1;
        }
    };
    for (const auto& s : study.supports) {
        if (!s.potential) continue;
        hold(s.on);
        if (s.at && pieces > 0)
            held[pieces == 1 ? 0
                             : static_cast<std::size_t>(piece_of_face[static_cast<std::size_t>(
                                   std::max(part.face_at(in_plane(*s.at)), 0))])] = 1;
    }
    for (const auto& l : study.loads)
        if (l.kind == LoadKind::transfer) hold(l.on);
    for (std::size_t f = 0; f < held.size(); ++f) {
        if (held[f]) continue;
        const auto face =
            std::find(piece_of_face.begin(), piece_of_face.end(), static_cast<int>(f)) - piece_of_face.begin();
        problems.add(
            study.part_where,
            fmt::format("nothing fixes the level of the potential in region \"{}\"",
                        part.regions[static_cast<std::size_t>(part.faces[static_cast<std::size_t>(face)].region)]),
            "add a support with potential, or a load with transfer, on its boundary");
    }
}

}  // namespace dotsift
