#include "solve/singular/singular_edges.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/numbers.hpp"
#include "part/solid/edge_wedges.hpp"
#include "solve/material/solid_law.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;
// Faces that differ by less from one smooth face are pieces of one; radians.
constexpr double one_face = pi / 180;
// Directions nearer to each other than this, as a sine, are one.
constexpr double same_direction = 1e-6;

/// What acts on the faces round an edge, in axes of its own: x along the first face, z along the edge.
struct Axes {
    Vec3 x{}, y{}, z{};
};

// Of the part's size: so long is the edge that stands for a point.
constexpr double point_share = 1e-9;

class EdgeFinder {
  public:
    EdgeFinder(const SolidPart& part, const Study& study) : part_(part), study_(study), around_(part) {
        Study square = study;
        square.plane = Plane::strain;
        laws_ = laws_of(square, part.regions);
        shear_ = laws_;
        for (auto& law : shear_.regions) {
            const double mu = law.elastic.stiffness[2][2];
            law.conduction.conductivity = {{{mu, 0}, {0, mu}}};
        }
        for (const auto& region : part.regions) materials_.push_back(material_of(study, region));
        for (const auto& s : study.supports) {
            holds_.emplace_back(part.faces.size(), 0);
            for (const int f : part.faces_named(s.on)) holds_.back()[static_cast<std::size_t>(f)] = 1;
        }
    }

    std::vector<SingularPoint> find() {
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            for (const bool of_potential : {false, true}) {
                if (of_potential ? !study_.conducts() : !study_.elastic()) continue;
                std::optional<SingularPoint> worst;
                for (const double t : {0.5, 0.05, 0.95}) look_at(e, t, of_potential, worst);
                if (worst) keep(e, std::move(*worst));
            }
        }
        for (const auto& load : study_.loads) {
            if (load.kind != LoadKind::point || !load.at) continue;
            SingularPoint p;
            p.kind = SingularPoint::Kind::force;
            p.position = in_plane(*load.at);
            const Vec3 beyond = *load.at + Vec3{{point_share * part_.box.diagonal(), 0, 0}};
            p.edges.push_back(CurveIn<3>::line(*load.at, beyond));
            p.exponent = 0;
            p.load = load.name;
            p.cause = "the point of the force " + load.name;
            found_.push_back(std::move(p));
        }
        return std::move(found_);
    }

  private:
    /// One entry for all edges that are alike.
    void keep(std::size_t e, SingularPoint p) {
        p.edges.push_back(part_.edges[e].curve);
        const auto like = std::find_if(found_.begin(), found_.end(), [&](const SingularPoint& q) {
            return q.cause == p.cause && q.of_potential == p.of_potential && q.kind == p.kind;
        });
        if (like == found_.end()) {
            const Vec3 middle = p.edges.front().point(0.5);
            p.position = Vec2{{middle[0], middle[1]}};
            found_.push_back(std::move(p));
            return;
        }
        like->exponent = std::min(like->exponent, p.exponent);
        like->edges.push_back(std::move(p.edges.front()));
    }

    void look_at(std::size_t e, double t, bool of_potential, std::optional<SingularPoint>& worst) const {
        const auto wedges = around_.wedges(e, t);
        if (wedges.empty()) return;
        const std::size_t n = wedges.size();
        std::size_t first = 0;  // one after which material begins, or any
        const bool closed = std::all_of(wedges.begin(), wedges.end(), [](const EdgeWedge& w) { return w.body >= 0; });
        while (!closed && wedges[first].body >= 0) ++first;
        for (std::size_t step = closed ? 0 : 1; step < n + (closed ? 0 : 1);) {
            std::vector<EdgeWedge> fan;
            for (; step < n + (closed ? 0 : 1) && wedges[(first + step) % n].body >= 0; ++step)
                fan.push_back(wedges[(first + step) % n]);
            ++step;
            if (!fan.empty()) look_at(e, t, fan, closed, of_potential, worst);
        }
    }

    void look_at(std::size_t e, double t, const std::vector<EdgeWedge>& wedges, bool closed, bool of_potential,
                 std::optional<SingularPoint>& worst) const {
        const Axes axes = axes_of(e, t, wedges.front().first);
        LocalLaws own = laws_in(axes);
        Fan fan, shear;
        fan.closed = shear.closed = closed;
        double angle = 0;
        bool one_law = true;
        const RegionLaw& first_law = own.square[static_cast<std::size_t>(region_of(wedges.front()))];
        for (const EdgeWedge& w : wedges) {
            const auto region = static_cast<std::size_t>(region_of(w));
            fan.rays.push_back(hold_of(w.first, angle, axes, of_potential));
            shear.rays.push_back(held_along(w.first, axes));
            fan.wedges.push_back({angle, angle + w.angle, &own.square[region]});
            shear.wedges.push_back({angle, angle + w.angle, &own.along[region]});
            angle += w.angle;
            one_law = one_law && own.square[region].elastic.stiffness == first_law.elastic.stiffness &&
                      own.square[region].conduction.conductivity == first_law.conduction.conductivity;
        }
        if (!closed) {
            fan.rays.push_back(hold_of(wedges.back().last, angle, axes, of_potential));
            shear.rays.push_back(held_along(wedges.back().last, axes));
        }
        const bool plain = nothing_there(fan, one_law, angle, of_potential ? 1 : 2),
                   plain_shear = of_potential || nothing_there(shear, one_law, angle, 1);
        if (plain && plain_shear) return;
        double exponent = 1;
        if (!plain)
            for (const auto& x : of_potential ? potential_exponents(fan) : displacement_exponents(fan))
                exponent = std::min(exponent, x.real());
        if (!plain_shear)
            for (const auto& x : potential_exponents(shear)) exponent = std::min(exponent, x.real());
        if (exponent >= 1 || (worst && worst->exponent <= exponent)) return;
        worst.emplace();
        worst->exponent = exponent;
        worst->of_potential = of_potential;
        name_cause(*worst, fan, one_law, angle, wedges, of_potential);
    }

    /// Of each region, in the axes of an edge: of the plane problem square to it, and of the shear along it.
    struct LocalLaws {
        std::vector<RegionLaw> square, along;
    };
    /// Materials that are not the same along all axes are turned. What their shears along the edge bring to the plane
    /// problem is left out: nothing where the edge runs along one of their axes.
    [[nodiscard]] LocalLaws laws_in(const Axes& axes) const {
        LocalLaws out{laws_.regions, shear_.regions};
        for (std::size_t r = 0; r < materials_.size(); ++r) {
            const MaterialSpec* m = materials_[r];
            if (!m || (!m->orthotropy && (!m->conductivity || ((*m->conductivity)[0] == (*m->conductivity)[1] &&
                                                               (*m->conductivity)[1] == (*m->conductivity)[2]))))
                continue;
            MaterialSpec turned = *m;
            const Vec3 first = m->axes ? (*m->axes)[0] : Vec3{{std::cos(m->angle), std::sin(m->angle), 0}},
                       second = m->axes ? (*m->axes)[1] : Vec3{{-std::sin(m->angle), std::cos(m->angle), 0}};
            const auto seen = [&](const Vec3& v) { return Vec3{{dot(v, axes.x), dot(v, axes.y), dot(v, axes.z)}}; };
            turned.axes = {seen(first), seen(second)};
            const SolidLaw law = solid_law(turned);
            for (std::size_t i = 0; i < 4; ++i)
                for (std::size_t j = 0; j < 4; ++j) {
                    out.square[r].elastic.stiffness[i][j] = law.elastic.stiffness[i][j];
                    out.square[r].elastic.compliance[i][j] = law.elastic.compliance[i][j];
                }
            for (std::size_t i = 0; i < 2; ++i)
                for (std::size_t j = 0; j < 2; ++j) {
                    out.square[r].conduction.conductivity[i][j] = law.conduction.conductivity[i][j];
                    out.along[r].conduction.conductivity[i][j] = law.elastic.stiffness[5 - i][5 - j];  // zx, yz
                }
        }
        return out;
    }

    [[nodiscard]] int region_of(const EdgeWedge& w) const {
        return part_.bodies[static_cast<std::size_t>(w.body)].region;
    }

    [[nodiscard]] Axes axes_of(std::size_t e, double t, int face) const {
        const auto& curve = part_.edges[e].curve;
        const Vec3 p = curve.point(t), d = curve.derivative(t);
        Axes axes;
        axes.z = d / norm(d);
        const SolidFace& f = part_.face(face);
        const Vec3 normal = f.surface.normal(f.surface.project(p));
        const Vec3 in = cross(normal, axes.z);
        axes.x = in / norm(in);
        for (const auto& use : around_.at(e))
            if (use.face == face && !use.forward) axes.x = -axes.x;
        axes.y = cross(axes.z, axes.x);
        return axes;
    }

    /// act(support) for each on the face.
    template <class Act>
    void each_support(int face, Act act) const {
        for (std::size_t s = 0; s < study_.supports.size(); ++s)
            if (holds_[s][static_cast<std::size_t>(face)]) act(study_.supports[s]);
    }

    /// Directions across the edge that supports hold on a face that leaves it at this angle. What is held aslant to the
    /// edge is left to both problems.
    [[nodiscard]] RayHold hold_of(int face, double angle, const Axes& axes, bool of_potential) const {
        const Vec2 along{{std::cos(angle), std::sin(angle)}}, normal = turned_left(along);
        RayHold hold;
        const auto add = [&](const Vec2& d) {
            if (!(norm(d) > same_direction)) return;
            for (const Vec2& have : hold.directions)
                if (std::fabs(cross(have, d)) < same_direction * norm(d) * norm(have)) return;
            if (hold.directions.size() < 2) hold.directions.push_back(d / norm(d));
        };
        each_support(face, [&](const SupportSpec& s) {
            if (of_potential) {
                if (s.potential) add(along);
                return;
            }
            for (std::size_t k = 0; k < 3; ++k) {
                Vec3 d{};
                d[k] = 1;
                if (s.hold == Hold::fixed || s.displacement[k]) add({{dot(d, axes.x), dot(d, axes.y)}});
            }
            if (s.hold == Hold::symmetry || s.normal_displacement) add(normal);
            if (s.hold == Hold::antisymmetry) add(along);
        });
        return hold;
    }
    /// Whether supports hold the face along the edge.
    [[nodiscard]] RayHold held_along(int face, const Axes& axes) const {
        RayHold hold;
        each_support(face, [&](const SupportSpec& s) {
            bool held = s.hold == Hold::fixed || s.hold == Hold::antisymmetry;
            for (std::size_t k = 0; k < 3; ++k)
                held = held || (s.displacement[k] && std::fabs(axes.z[k]) > same_direction);
            if (held && hold.free()) hold.directions.push_back({{1, 0}});
        });
        return hold;
    }

    /// One material that ends in a smooth or outer edge, free or wholly held on both sides (see singular_points).
    static bool nothing_there(const Fan& fan, bool one_law, double angle, std::size_t whole) {
        const bool free = std::all_of(fan.rays.begin(), fan.rays.end(), [](const RayHold& r) { return r.free(); });
        if (!one_law || (!free && fan.closed)) return false;
        if (fan.closed) return true;
        const auto &first = fan.rays.front(), &last = fan.rays.back();
        const bool inside_free =
            std::all_of(fan.rays.begin() + 1, fan.rays.end() - 1, [](const RayHold& r) { return r.free(); });
        const bool alike =
            first.free() ? last.free() : first.directions.size() == whole && last.directions.size() == whole;
        return alike && inside_free && angle < pi + one_face;
    }

    void name_cause(SingularPoint& p, const Fan& fan, bool one_law, double angle, const std::vector<EdgeWedge>& wedges,
                    bool of_potential) const {
        using Kind = SingularPoint::Kind;
        const auto name = [&](Kind kind, const std::string& cause) {
            p.kind = kind;
            p.cause = cause;
        };
        const bool supported =
            std::any_of(fan.rays.begin(), fan.rays.end(), [](const RayHold& r) { return !r.free(); });
        const bool ends = fan.closed || fan.rays.front().free() != fan.rays.back().free();
        const std::string degrees = sensible(angle * 180 / pi, 3);
        if (!one_law)
            name(Kind::junction, fan.closed ? "an edge of materials" : "a junction of materials on the outside");
        else if (supported && ends)
            name(Kind::support_end,
                 of_potential ? "the rim of a face whose potential is held" : "the rim of a held face");
        else if (angle > 2 * pi - one_face)
            name(Kind::crack, "the front of a crack");
        else if (supported)
            name(Kind::support_corner, fmt::format("an edge of {}° between two supports", degrees));
        else
            name(Kind::corner, fmt::format("a re-entrant edge of {}°", degrees));
        const std::string first = part_.name_of_face(wedges.front().first),
                          last = part_.name_of_face(fan.closed ? wedges.back().first : wedges.back().last);
        p.cause += first == last ? fmt::format(" in {}", first)
                                 : fmt::format(" between {} and {}", std::min(first, last), std::max(first, last));
    }

    const SolidPart& part_;
    const Study& study_;
    EdgeFaces around_;
    Laws laws_, shear_;
    std::vector<const MaterialSpec*> materials_;  ///< of each region
    std::vector<std::vector<char>> holds_;        ///< of each support, whether it has each face
    std::vector<SingularPoint> found_;
};

}  // namespace

std::vector<SingularPoint> singular_edges(const SolidPart& part, const Study& study) {
    return EdgeFinder(part, study).find();
}

EdgeDistance::EdgeDistance(const std::vector<CurveIn<3>>& edges) : edges_(edges) {
    for (const auto& e : edges) boxes_.push_back(e.box());
}

EdgeDistance::Nearest EdgeDistance::operator()(const Vec3& place, double most) const {
    Nearest found{INFINITY};
    for (std::size_t k = 0; k < edges_.size(); ++k) {
        if (boxes_[k].distance_to(place) > std::min(found.distance, most)) continue;
        const double t = edges_[k].project(place), r = distance(edges_[k].point(t), place);
        if (r < found.distance && r <= most) found = {r, k, t};
    }
    return found;
}

}  // namespace dotsift
