#include "solve/singular/singular_points.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;
constexpr double degree = pi / 180;
// Sides of a vertex that differ by less from a straight line are one smooth boundary, drawn in pieces.
constexpr double smooth = 1 * degree;

// A side counts as straight up to where it stands off its tangent by this share of the distance; looked at in steps.
constexpr double straight_share = 0.1;
constexpr int steps_along_side = 512;

/// An edge as it leaves a vertex.
struct Ray {
    double angle = 0;
    int edge = 0, after = -1;  ///< the face on its left as it leaves
};

class PointFinder {
  public:
    PointFinder(const Part& part, const Study& study)
        : part_(part), study_(study), laws_(laws_of(study, part.regions)), rays_(part.vertices.size()) {
        for (std::size_t e = 0; e < part.edges.size(); ++e) {
            const PartEdge& edge = part.edges[e];
            const auto add = [&](int vertex, Vec2 along, int face) {
                rays_[static_cast<std::size_t>(vertex)].push_back(
                    {std::atan2(along[1], along[0]), static_cast<int>(e), face});
            };
            add(edge.start, edge.curve.derivative(0), edge.left);
            add(edge.end, -edge.curve.derivative(1), edge.right);
        }
        for (auto& list : rays_)
            std::sort(list.begin(), list.end(), [](const Ray& a, const Ray& b) { return a.angle < b.angle; });
    }

    std::vector<SingularPoint> find() {
        for (std::size_t v = 0; v < rays_.size(); ++v)
            if (!rays_[v].empty()) look_at(v);
        for (const auto& load : study_.loads)
            if (load.kind == LoadKind::point && load.at) {
                SingularPoint p;
                p.kind = SingularPoint::Kind::force;
                p.position = in_plane(*load.at);
                p.exponent = 0;
                p.load = load.name;
                p.cause = "the point of the force " + load.name;
                found_.push_back(std::move(p));
            }
        return std::move(found_);
    }

  private:
    /// The wedges of material between two empty ones, or all of them.
    struct Piece {
        Fan fan;
        std::vector<int> edges;  ///< of its rays
    };

    std::vector<Piece> pieces_of(std::size_t v) const {
        const auto& rays = rays_[v];
        const std::size_t n = rays.size();
        std::size_t first = n;  // a ray after which there is nothing
        for (std::size_t k = 0; k < n; ++k)
            if (rays[k].after < 0) first = k;
        std::vector<Piece> out;
        const auto wedge = [&](std::size_t k) {
            Wedge w;
            w.from = rays[k].angle;
            w.to = rays[(k + 1) % n].angle;
            if (w.to <= w.from) w.to += 2 * pi;
            w.law = &laws_.of(part_.faces[static_cast<std::size_t>(rays[k].after)].region);
            return w;
        };
        const auto append = [&](Piece& p, std::size_t k) {
            Wedge w = wedge(k);
            while (!p.fan.wedges.empty() && w.from < p.fan.wedges.back().to - 1e-12) {
                w.from += 2 * pi;
                w.to += 2 * pi;
            }
            p.fan.wedges.push_back(w);
            p.edges.push_back(rays[k].edge);
        };
        if (first == n) {
            Piece p;
            p.fan.closed = true;
            for (std::size_t k = 0; k < n; ++k) append(p, k);
            out.push_back(std::move(p));
            return out;
        }
        Piece p;
        for (std::size_t step = 1; step <= n; ++step) {
            const std::size_t k = (first + step) % n;
            if (rays[k].after >= 0) {
                append(p, k);
                continue;
            }
            if (p.fan.wedges.empty()) continue;
            p.edges.push_back(rays[k].edge);
            out.push_back(std::move(p));
            p = {};
        }
        return out;
    }

    bool on(const PartEdge& edge, const std::vector<std::string>& patterns) const {
        const auto named = part_.edges_named(patterns);
        const auto index = static_cast<int>(&edge - part_.edges.data());
        return std::find(named.begin(), named.end(), index) != named.end();
    }

    /// Directions that supports hold on an edge, where it leaves at this angle.
    RayHold hold_of(int e, double angle, bool of_potential) const {
        const PartEdge& edge = part_.edge(e);
        const Vec2 along{{std::cos(angle), std::sin(angle)}}, normal = turned_left(along);
        RayHold hold;
        const auto add = [&](const Vec2& d) {
            for (const Vec2& have : hold.directions)
                if (std::fabs(cross(have, d)) < 1e-9) return;
            hold.directions.push_back(d);
        };
        for (const auto& s : study_.supports) {
            if (s.at || !on(edge, s.on)) continue;
            if (of_potential) {
                if (s.potential) add(along);
                continue;
            }
            if (s.hold == Hold::fixed || s.displacement[0]) add({{1, 0}});
            if (s.hold == Hold::fixed || s.displacement[1]) add({{0, 1}});
            if (s.hold == Hold::symmetry || s.normal_displacement) add(normal);
            if (s.hold == Hold::antisymmetry) add(along);
        }
        for (const auto& r : study_.remotes)
            if (!of_potential && r.rigid && on(edge, r.on)) {
                add({{1, 0}});
                add({{0, 1}});
            }
        return hold;
    }

    bool periodic(int e) const {
        return std::any_of(study_.periodic.begin(), study_.periodic.end(), [&](const PeriodicSpec& p) {
            return on(part_.edge(e), {p.between[0], p.between[1]});
        });
    }

    void look_at(std::size_t v) {
        for (auto& piece : pieces_of(v)) {
            if (std::any_of(piece.edges.begin(), piece.edges.end(), [&](int e) { return periodic(e); })) continue;
            if (study_.elastic()) look_at(v, piece, false);
            if (study_.conducts()) look_at(v, piece, true);
        }
    }

    void look_at(std::size_t v, Piece& piece, bool of_potential) {
        Fan& fan = piece.fan;
        fan.rays.clear();
        for (std::size_t k = 0; k < piece.edges.size(); ++k)
            fan.rays.push_back(hold_of(
                piece.edges[k], k < fan.wedges.size() ? fan.wedges[k].from : fan.wedges.back().to, of_potential));
        const double angle = fan.wedges.back().to - fan.wedges.front().from;
        const auto same = [](const RegionLaw& a, const RegionLaw& b) {
            return a.elastic.stiffness == b.elastic.stiffness &&
                   a.conduction.conductivity == b.conduction.conductivity && a.thickness == b.thickness &&
                   (!a.thickness_field || !b.thickness_field ? !a.thickness_field && !b.thickness_field
                                                             : a.thickness_field->text() == b.thickness_field->text());
        };
        const bool one_law = std::all_of(fan.wedges.begin(), fan.wedges.end(),
                                         [&](const Wedge& w) { return same(*w.law, *fan.wedges.front().law); });
        const bool free = std::all_of(fan.rays.begin(), fan.rays.end(), [](const RayHold& r) { return r.free(); });
        const auto &first = fan.rays.front(), &last = fan.rays.back();
        const bool inside_free = free || (!fan.closed && std::all_of(fan.rays.begin() + 1, fan.rays.end() - 1,
                                                                     [](const RayHold& r) { return r.free(); }));
        const std::size_t whole = of_potential ? 1 : 2;
        const bool alike =
            free ||
            (!fan.closed &&
             (first.free() ? last.free() : first.directions.size() == whole && last.directions.size() == whole));
        // Nothing can be infinite where one material ends in a smooth or outer corner that is free or held on both
        // sides. Every other pair of conditions is asked for: two planes of symmetry that meet at 135 degrees have
        // r^-0.67, and nothing in their numbers tells.
        if (one_law && alike && inside_free && (fan.closed || angle < pi + smooth)) return;
        // On the axis of revolution the corner is no plane one.
        if (study_.plane == Plane::axisymmetric && part_.vertices[v][0] <= same_point_share * part_.box.diagonal())
            return;
        const auto exponents = of_potential ? potential_exponents(fan) : displacement_exponents(fan);
        if (exponents.empty()) return;
        SingularPoint p;
        p.position = part_.vertices[v];
        p.exponent = exponents.front().real();
        p.of_potential = of_potential;
        name_cause(p, fan, one_law, alike, angle);
        if (one_law) {
            const auto modes = std::make_shared<const CornerModes>(fan, of_potential ? 1 : 2);
            if (modes->count() > 0) {
                p.modes = modes;
                p.reach = reach_of(v, piece.edges);
            }
        }
        found_.push_back(std::move(p));
    }

    double reach_of(std::size_t v, const std::vector<int>& own) const {
        const Vec2& centre = part_.vertices[v];
        double reach = INFINITY;
        for (std::size_t k = 0; k < part_.edges.size(); ++k) {
            const PartEdge& edge = part_.edges[k];
            const bool leaves = edge.start == static_cast<int>(v), arrives = edge.end == static_cast<int>(v);
            if (!leaves && !arrives) {
                reach = std::min(reach, distance(edge.curve.point(edge.curve.project(centre)), centre));
                continue;
            }
            if (std::find(own.begin(), own.end(), static_cast<int>(k)) == own.end()) continue;
            const Vec2 along = leaves ? edge.curve.derivative(0) : -edge.curve.derivative(1);
            for (int i = 1; i <= steps_along_side; ++i) {
                const double t = static_cast<double>(i) / steps_along_side;
                const Vec2 d = edge.curve.point(leaves ? t : 1 - t) - centre;
                if (i < steps_along_side && std::fabs(cross(along, d)) <= straight_share * norm(d) * norm(along))
                    continue;
                reach = std::min(reach, norm(d));
                break;
            }
        }
        return reach;
    }

    static void name_cause(SingularPoint& p, const Fan& fan, bool one_law, bool alike, double angle) {
        using Kind = SingularPoint::Kind;
        const auto name = [&](Kind kind, std::string cause) {
            p.kind = kind;
            p.cause = std::move(cause);
        };
        const bool supported =
            std::any_of(fan.rays.begin(), fan.rays.end(), [](const RayHold& r) { return !r.free(); });
        const bool ends = fan.closed || fan.rays.front().free() != fan.rays.back().free();
        if (!one_law)
            name(Kind::junction, fan.closed ? "a corner of materials" : "a junction of materials at the outline");
        else if (!alike && ends)
            name(Kind::support_end, fan.closed ? "the end of a support inside of the part" : "the end of a support");
        else if (angle > 2 * pi - smooth)
            name(Kind::crack, "the tip of a crack");
        else if (supported)
            name(Kind::support_corner,
                 fmt::format("a corner of {}° between two supports", sensible(angle / degree, 3)));
        else
            name(Kind::corner, fmt::format("a re-entrant corner of {}°", sensible(angle / degree, 3)));
    }

    const Part& part_;
    const Study& study_;
    Laws laws_;
    std::vector<std::vector<Ray>> rays_;
    std::vector<SingularPoint> found_;
};

}  // namespace

std::vector<SingularPoint> singular_points(const Part& part, const Study& study) {
    return PointFinder(part, study).find();
}

std::string told_place(const SingularPoint& point) {
    return point.edges.empty() ? told_point(point.position) : told_point(point.edges.front().point(0.5));
}

const char* advice_for(SingularPoint::Kind kind) {
    switch (kind) {
        case SingularPoint::Kind::corner:
            return "round the corner as it will be made, or report a mean, a linearised stress, or the stress at a "
                   "distance";
        case SingularPoint::Kind::crack:
            return "report the energy, or the stress at a distance from the tip";
        case SingularPoint::Kind::support_end:
            return "give the support a stiffness, or report the stress at a distance from its end";
        case SingularPoint::Kind::support_corner:
            return "check that both supports are meant, as two planes of symmetry that meet at this angle seldom are; "
                   "or report the stress at a distance from the corner";
        case SingularPoint::Kind::junction:
            return "round the corner of the materials, or report a mean over a distance";
        case SingularPoint::Kind::force:
            return "spread the force over an area";
    }
    return "";
}

}  // namespace dotsift
