#include "sizes/wall_sources.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "part/solid/opposite_face.hpp"
#include "sizes/face_sources.hpp"
#include "sizes/rule_size.hpp"

namespace dotsift {

namespace {

// Of a part's size: so far from its rim a face is looked at instead of beyond it. A ray leaves the normal by less.
constexpr double beside_rim = 4e-3;
constexpr double largest_piece = 1.0 / 24;  // of a part's size: larger facets are looked at in several places
// Of the way to the middle of a piece of a facet: its corners may lie on the rim of the face.
constexpr double from_corner = 1e-2;
constexpr int most_facet_halvings = 24;

/// To a ten-thousandth: of sizes that differ by the last digits of a ray the field would seek the smallest everywhere.
double evened(double thickness) {
    constexpr double steps = 1e4;  // in each factor e
    return std::exp(std::round(std::log(thickness) * steps) / steps);
}

/// A triangle of a face, with the ways into its body and how thick that is there.
struct WallPiece {
    std::array<Vec3, 3> corners, inwards;
    std::array<double, 3> thickness{};
    [[nodiscard]] double least() const { return *std::min_element(thickness.begin(), thickness.end()); }
};

/// The wall behind (or before) one face.
class Wall {
  public:
    /// Thicker than `nothing` is no wall.
    Wall(const SolidPart& part, const BodyFinder& finder, std::size_t face, bool behind, double nothing)
        : part_(part), finder_(finder), f_(face), face_(part.faces[face]), behind_(behind), nothing_(nothing) {}

    [[nodiscard]] int body() const { return behind_ ? face_.behind : face_.before; }

    [[nodiscard]] std::vector<WallPiece> pieces() const {
        std::vector<WallPiece> out;
        if (face_.surface.kind() == Surface::Kind::facets) {
            const FacetSurface& surface = face_.surface.facets();
            for (const auto& f : surface.facets())
                add_facet({surface.points()[f[0]], surface.points()[f[1]], surface.points()[f[2]]}, 0, out);
            return out;
        }
        std::vector<SizeSourceIn<3>> thickness;            // as if they were sizes
        std::map<std::pair<double, double>, double> seen;  // triangles share their corners
        add_face_sources(
            part_, f_,
            [&](const Vec3& p, const Vec2& at) {
                const auto [known, fresh] = seen.try_emplace({at[0], at[1]}, 0);
                if (fresh) known->second = at_place(p, at);
                return known->second;
            },
            true, 0, 0, thickness);
        for (const auto& t : thickness) {
            if (!(t.least() < nothing_)) continue;
            WallPiece piece;
            for (std::size_t k = 0; k < 3; ++k) {
                piece.corners[k] = t.corners[k];
                piece.inwards[k] = inwards(face_.surface.normal(face_.surface.project(t.corners[k])));
                piece.thickness[k] = t.size_at(t.corners[k]);
            }
            out.push_back(piece);
        }
        return out;
    }

  private:
    [[nodiscard]] Vec3 inwards(const Vec3& normal) const { return behind_ ? -normal : normal; }

    [[nodiscard]] double along(const Vec3& from, const Vec3& way) const {
        const auto far = opposite_of(part_, finder_, from, way, body());
        return far ? std::min(evened(distance(from, far->place)), nothing_) : nothing_;
    }

    [[nodiscard]] double at_place(const Vec3& p, const Vec2& at) const {
        // Triangles reach beyond the rim: there the wall is as at the rim.
        Vec3 from = p;
        Vec2 there = at;
        if (!finder_.inside_face(f_, p))
            if (const auto rim = finder_.nearest_on_rim(f_, p)) {
                const Vec3 way = part_.edge(rim->use.edge).curve.derivative(rim->t),
                           inside = cross(face_.surface.normal(at), rim->use.forward ? way : -way);
                const double beside = beside_rim * part_.box.diagonal();
                there = face_.surface.project(rim->place + inside * (beside / norm(inside)));
                from = face_.surface.point(there);
            }
        return along(from, inwards(face_.surface.normal(there)));
    }

    /// Facets are the whole of their face: each is looked at by itself, a large one in pieces.
    void add_facet(const std::array<Vec3, 3>& t, int depth, std::vector<WallPiece>& out) const {
        std::size_t longest = 0;
        const auto side = [&](std::size_t k) { return distance(t[(k + 1) % 3], t[(k + 2) % 3]); };
        for (std::size_t k = 1; k < 3; ++k)
            if (side(k) > side(longest)) longest = k;
        if (depth < most_facet_halvings && side(longest) > largest_piece * part_.box.diagonal()) {
            const Vec3 &a = t[(longest + 1) % 3], &b = t[(longest + 2) % 3], middle = (a + b) * 0.5;
            add_facet({t[longest], a, middle}, depth + 1, out);
            add_facet({t[longest], middle, b}, depth + 1, out);
            return;
        }
        const Vec3 normal = cross(t[1] - t[0], t[2] - t[0]), centre = (t[0] + t[1] + t[2]) / 3;
        if (!(norm(normal) > 0)) return;
        WallPiece piece;
        piece.corners = t;
        piece.inwards.fill(inwards(normal / norm(normal)));
        for (std::size_t k = 0; k < 3; ++k)
            piece.thickness[k] = along(t[k] + (centre - t[k]) * from_corner, piece.inwards[k]);
        if (piece.least() < nothing_) out.push_back(piece);
    }

    const SolidPart& part_;
    const BodyFinder& finder_;
    std::size_t f_;
    const SolidFace& face_;
    bool behind_;
    double nothing_;
};

}  // namespace

void add_wall_sources(const SolidPart& part, const BodyFinder& finder, const LocalSize& rule, int index, double global,
                      std::vector<SizeSourceIn<3>>& sources) {
    const auto named = part.faces_named(rule.on), regions = part.regions_named(rule.on);
    const auto has = [](const std::vector<int>& list, int i) {
        return std::find(list.begin(), list.end(), i) != list.end();
    };
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const bool behind : {true, false}) {
            const Wall wall(part, finder, f, behind, rule.number * global);
            if (wall.body() < 0) continue;
            const int region = part.bodies[static_cast<std::size_t>(wall.body())].region;
            if (!rule.on.empty() && !has(named, static_cast<int>(f)) && !has(regions, region)) continue;
            for (const WallPiece& piece : wall.pieces()) {
                // A source lies a quarter of the wall deep, and its size holds to the face and to the middle: hardly
                // beyond the wall.
                const double deep = piece.least() / 4;
                std::array<Vec3, 3> corners{};
                std::array<double, 3> size{};
                for (std::size_t k = 0; k < 3; ++k) {
                    corners[k] = piece.corners[k] + piece.inwards[k] * deep;
                    size[k] = within_limits(rule, piece.thickness[k] / rule.number);
                }
                add_triangle_source(corners, size, deep, index, sources);
            }
        }
}

}  // namespace dotsift
