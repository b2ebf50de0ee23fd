#include "part/checks/solid_motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/dense.hpp"
#include "part/checks/connected.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/face_integral.hpp"

namespace dotsift {

namespace {

// A motion counts as free when the supports hold it a million times less than the best-held one.
constexpr double free_share = 1e-12;
// And as one about an axis, or along one, when hardly anything of it is left beside that.
constexpr double alike = 1e-5;

/// Bodies that share a face hang together: for each the number of its piece.
std::vector<int> pieces_of(const SolidPart& part) {
    std::vector<std::array<int, 2>> joined;
    for (const auto& f : part.faces)
        if (f.interior()) joined.push_back({f.behind, f.before});
    return connected_pieces(part.bodies.size(), joined);
}

int piece_of(const SolidFace& face, const std::vector<int>& pieces) {
    return pieces[static_cast<std::size_t>(face.behind >= 0 ? face.behind : face.before)];
}

/// Of a point of the solid: that of a face there, or of the body round it.
int piece_of_place(const Vec3& at, const SolidPart& part, const std::vector<int>& pieces) {
    const BodyFinder finder(part);
    for (const auto& f : part.faces)
        for (const auto& loop : f.loops)
            for (const auto& use : loop)
                for (const int v : {part.edge(use.edge).start, part.edge(use.edge).end})
                    if (part.vertices[static_cast<std::size_t>(v)] == at) return piece_of(f, pieces);
    const int body = finder(at);
    return body < 0 ? -1 : pieces[static_cast<std::size_t>(body)];
}

/// Directions in which a support holds a place with this normal.
std::vector<Vec3> held_directions(const SupportSpec& s, const Vec3& normal) {
    const std::array<Vec3, 3> axes{{{{1, 0, 0}}, {{0, 1, 0}}, {{0, 0, 1}}}};
    std::vector<Vec3> out;
    if (s.hold == Hold::fixed) return {axes.begin(), axes.end()};
    if (s.hold == Hold::symmetry || s.normal_displacement || s.normal_stiffness) out.push_back(normal);
    if (s.hold == Hold::antisymmetry || s.tangential_stiffness)
        for (const Vec3& a : axes) out.push_back(a - normal * dot(a, normal));
    for (std::size_t c = 0; c < 3; ++c)
        if (s.displacement[c]) out.push_back(axes[c]);
    return out;
}

using Motion = Eigen::Matrix<double, 6, 1>;

/// A motion in words, if it is along an axis or about one: through the centre, or elsewhere.
std::string words_for(const Motion& m, const Vec3& centre, double size) {
    const Vec3 along{{m[0], m[1], m[2]}}, turn = Vec3{{m[3], m[4], m[5]}} / size;
    const auto axis = [](const Vec3& d) -> std::string {
        for (std::size_t c = 0; c < 3; ++c)
            if (std::fabs(std::fabs(d[c]) - norm(d)) < alike * norm(d)) return std::string(1, "xyz"[c]);
        return fmt::format("({:.3g}, {:.3g}, {:.3g})", d[0] / norm(d), d[1] / norm(d), d[2] / norm(d));
    };
    if (norm(turn) * size < alike * norm(along)) return "move along " + axis(along);
    // The axis of a screw motion passes where the motion is along it; of a pure turn nothing is left there.
    const double pitch = dot(along, turn) / dot(turn, turn);
    const Vec3 foot = centre + cross(turn, along) / dot(turn, turn);
    const std::string place = norm(foot - centre) < alike * size
                                  ? ""
                                  : fmt::format(" through ({:.4g}, {:.4g}, {:.4g})", foot[0], foot[1], foot[2]);
    return fmt::format("{} about {}{}", std::fabs(pitch) < alike * size ? "turn" : "move like a screw", axis(turn),
                       place);
}

/// All free motions: the plain ones along and about the axes through the centre first, if these make them up.
std::string words_for(const std::vector<Motion>& free, const Vec3& centre, double size) {
    if (free.size() == 6) return "move along and turn about all axes";
    std::vector<Motion> plain;
    for (int k = 0; k < 6; ++k) {
        const Motion unit = Motion::Unit(k);
        double inside = 0;
        for (const auto& f : free) inside += f.dot(unit) * f.dot(unit);
        if (inside > 1 - alike) plain.push_back(unit);
    }
    const auto& told = plain.size() == free.size() ? plain : free;
    std::string out;
    for (std::size_t k = 0; k < told.size(); ++k)
        out += (k == 0 ? "" : k + 1 == told.size() ? " and " : ", ") + words_for(told[k], centre, size);
    return out;
}

}  // namespace

void check_motion_in_space(const Study& study, const SolidPart& part, Problems& problems) {
    const auto pieces = pieces_of(part);
    const int count = pieces.empty() ? 0 : *std::max_element(pieces.begin(), pieces.end()) + 1;
    for (int piece = 0; piece < count; ++piece) {
        Box<3> box;
        for (const auto& f : part.faces)
            if (piece_of(f, pieces) == piece)
                for (const auto& loop : f.loops)
                    for (const auto& use : loop) box.add(part.edge(use.edge).curve.box());
        const Vec3 centre = box.centre();
        const double size = box.diagonal();
        Eigen::MatrixXd gram = Eigen::MatrixXd::Zero(6, 6);  // of the rows (d, (p - centre) x d / size)
        const auto hold = [&](const Vec3& p, const Vec3& d) {
            const Vec3 arm = cross((p - centre) / size, d);
            Motion row;
            row << d[0], d[1], d[2], arm[0], arm[1], arm[2];
            gram += row * row.transpose();
        };
        for (const auto& support : study.supports) {
            if (support.at && piece_of_place(*support.at, part, pieces) == piece)
                for (const Vec3& d : held_directions(support, {})) hold(*support.at, d);
            for (const int f : part.faces_named(support.on)) {
                if (piece_of(part.face(f), pieces) != piece) continue;
                over_face(part, static_cast<std::size_t>(f), 1, [&](const Vec3& p, const Vec3& area, double) {
                    if (!(norm(area) > 0)) return;
                    for (const Vec3& d : held_directions(support, area / norm(area))) hold(p, d);
                });
            }
        }
        const SymmetricEigen eigen = symmetric_eigen(gram);
        std::vector<Motion> free;
        for (int k = 0; k < 6; ++k)
            if (eigen.values[k] <= free_share * std::max(eigen.values[5], 1e-300))
                free.emplace_back(eigen.vectors.col(k));
        if (free.empty()) continue;
        const Where where = study.supports.empty() ? study.part_where : study.supports.front().where;
        const std::string which = count == 1 ? "the part"
                                             : fmt::format("piece {} of the part, round ({:.4g}, {:.4g}, {:.4g}),",
                                                           piece + 1, centre[0], centre[1], centre[2]);
        problems.add(where, fmt::format("the supports leave {} free to {}", which, words_for(free, centre, size)),
                     "hold that motion, for example by a support with ux, uy or uz, or hold = \"symmetry\"");
    }
}

void check_level_in_space(const Study& study, const SolidPart& part, Problems& problems) {
    const auto pieces = pieces_of(part);
    std::vector<char> held(pieces.size(), 0);
    // Regions that a resistance parts are joined by it all the same.
    const auto fix = [&](int piece) {
        if (piece >= 0) held[static_cast<std::size_t>(piece)] = 1;
    };
    for (const auto& s : study.supports)
        if (s.potential && s.at) fix(piece_of_place(*s.at, part, pieces));
    for (const auto& l : study.loads)
        if (l.kind == LoadKind::transfer)
            for (const int f : part.faces_named(l.on)) fix(piece_of(part.face(f), pieces));
    for (const auto& s : study.supports)
        for (const int f : part.faces_named(s.on))
            if (s.potential) held[static_cast<std::size_t>(piece_of(part.face(f), pieces))] = 1;
    for (std::size_t b = 0; b < pieces.size(); ++b) {
        if (held[static_cast<std::size_t>(pieces[b])]) continue;
        problems.add(study.part_where,
                     fmt::format("nothing fixes the level of the potential in region \"{}\"",
                                 part.regions[static_cast<std::size_t>(part.bodies[b].region)]),
                     "prescribe a potential somewhere, or a transfer");
        held[static_cast<std::size_t>(pieces[b])] = 1;
    }
}

}  // namespace dotsift
