#include "part/solid/changed_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "part/kernel/solid_kernel.hpp"
#include "part/selection.hpp"
#include "part/solid/edge_wedges.hpp"
#include "part/solid/placed_solid.hpp"
#include "part/solid/set_beside.hpp"
#include "part/solid/sharpen.hpp"
#include "part/solid/solid_box.hpp"
#include "part/solid/taken_solid.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

namespace {

constexpr double smooth_turn = std::numbers::pi / 180;  // edges at which faces turn by less are no edges to be rounded
constexpr double same_vertex_share = 1e-7;              // of the part's size
constexpr int size_halvings = 12;                       // of the size that does not fit

SolidChangeKernel load_change() {
    static const auto kernel =
        reinterpret_cast<SolidChangeKernel>(module_symbol("libdotsift-geometry.so", solid_change_symbol));
    return kernel;
}

std::string at_text(const Vec3& p) {
    return fmt::format("({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
}

Place placed_at(const Vec3& p) {
    Place place;
    place.position = p;
    return place;
}

/// The part that the kernel made of another one; a text instead if it is none.
class Result {
  public:
    Result(const SolidPart& before, const KernelChange& change, const std::string& name)
        : before_(before), change_(change), name_(name) {}

    /// Empty if all went well.
    std::string make() {
        const double size = before_.box.diagonal();
        load_change()(before_, change_, before_.box.centre(), size, made_);
        if (!made_.fault.empty()) return made_.fault;
        if (made_.cells.size() != 1) return "it falls apart";
        for (const Vec3& v : before_.vertices)
            for (Vec3& w : made_.vertices)
                if (distance(v, w) <= same_vertex_share * size) w = v;
        part_ = taken_solid(made_, 0, [&](const KernelFace& f) -> const Surface& { return surface_of(f); });
        part_.regions = before_.regions;
        part_.bodies = before_.bodies;
        part_.boundary_names = before_.boundary_names;
        std::size_t k = 0;
        for (const auto& f : made_.faces) name_face(f, part_.faces[k++]);
        for (const auto& p : before_.points)
            for (std::size_t w = 0; w < part_.vertices.size(); ++w)
                if (part_.vertices[w] == before_.vertices[static_cast<std::size_t>(p.vertex)])
                    part_.points.push_back({p.name, static_cast<int>(w)});
        part_.box = box_of(part_);
        sharpen(part_);
        part_.box = box_of(part_);
        return fault_of(part_);
    }
    SolidPart take() { return std::move(part_); }
    /// A piece of one of these faces is left.
    [[nodiscard]] bool keeps(const std::vector<int>& faces) const {
        return std::any_of(made_.faces.begin(), made_.faces.end(), [&](const KernelFace& f) {
            return std::any_of(f.sources.begin(), f.sources.end(), [&](const KernelSource& s) {
                return std::find(faces.begin(), faces.end(), s.item) != faces.end();
            });
        });
    }

  private:
    /// Rounds and bevels leave all surfaces as they are.
    [[nodiscard]] const Surface& surface_of(const KernelFace& f) const {
        const bool kept = change_.kind == KernelChange::Kind::round || change_.kind == KernelChange::Kind::bevel;
        return kept && !f.sources.empty() ? before_.face(f.sources.front().item).surface : f.surface;
    }

    void name_face(const KernelFace& f, SolidFace& face) {
        for (const auto& s : f.sources)
            for (const int n : before_.face(s.item).names)
                if (std::find(face.names.begin(), face.names.end(), n) == face.names.end()) face.names.push_back(n);
        if (f.made && !name_.empty()) part_.add_name(name_, face.names);
        std::sort(face.names.begin(), face.names.end());
    }

    const SolidPart& before_;
    const KernelChange& change_;
    const std::string& name_;
    SolidKernelResult made_;
    SolidPart part_;
};

void demand_one_body(const SolidPart& part, const char* what) {
    if (std::any_of(part.faces.begin(), part.faces.end(), [](const SolidFace& f) { return f.behind == f.before; }))
        throw InputError(fmt::format("{} of a part that has faces inside", what), {}, "change it before it is split");
    if (part.bodies.size() == 1) return;
    throw InputError(fmt::format("{} of a part that is {} bodies", what, part.bodies.size()), {},
                     "change the first one before the others are added");
}

/// With the largest size that fits, if this one does not.
SolidPart changed(const SolidPart& part, KernelChange change, const SolidChange& wanted, const Place& at,
                  const std::string& what) {
    Result result(part, change, wanted.name);
    const std::string fault = result.make();
    if (fault.empty()) return result.take();
    double low = 0, high = change.length;
    for (int k = 0; k < size_halvings; ++k) {
        change.length = (low + high) / 2;
        (Result(part, change, wanted.name).make().empty() ? low : high) = change.length;
    }
    const bool wall = change.kind == KernelChange::Kind::hollow;
    throw InputError(fmt::format("{} does not fit: {}", what, fault), at,
                     low > 0 ? fmt::format("the largest that fits is about {:.3g}", low)
                             : fmt::format("no smaller one fits either: {}draw it with the shapes",
                                           wall ? "" : "choose fewer edges, or "));
}

std::string known_names(const std::string& name, const std::vector<std::string>& known) {
    const std::string near = nearest(name, known);
    return near.empty() || near == name ? fmt::format("named faces are {}", quoted_list(known))
                                        : fmt::format("did you mean \"{}\"?", near);
}

/// Faces of a name, which must be there.
std::vector<int> demanded_faces(const SolidPart& part, const std::string& name) {
    auto faces = part.faces_named({name});
    if (faces.empty())
        throw InputError(fmt::format("no face is named \"{}\"", name), {}, known_names(name, part.boundary_names));
    return faces;
}

/// The faces of what lies wholly inside, with their other side towards the material.
SolidPart with_cavity(const SolidPart& part, const SolidPart& inside) {
    SolidPart out = part;
    append_solid(out, inside, part.regions[static_cast<std::size_t>(part.bodies.front().region)]);
    out.bodies.resize(part.bodies.size());
    for (std::size_t f = part.faces.size(); f < out.faces.size(); ++f) {
        turn_over(out.faces[f]);
        out.faces[f].behind = 0;
        out.faces[f].before = -1;
    }
    return out;
}

struct RoundEdge {
    int edge = 0;
    std::array<int, 2> faces{};
    bool outer = true;
};

/// Edges at which two faces of the only body meet at an angle.
std::vector<RoundEdge> sharp_edges(const SolidPart& part) {
    const EdgeFaces faces(part);
    std::vector<RoundEdge> out;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        if (faces.at(e).size() != 2) continue;
        for (const auto& wedge : faces.wedges(e, 0.5)) {
            if (wedge.body < 0 || std::fabs(wedge.angle - std::numbers::pi) < smooth_turn) continue;
            out.push_back({static_cast<int>(e), {wedge.first, wedge.last}, wedge.angle < std::numbers::pi});
        }
    }
    return out;
}

}  // namespace

std::vector<int> chosen_edges(const SolidPart& part, const CornerSpecIn<3>& choice) {
    using Kind = CornerSpecIn<3>::Kind;
    const auto all = sharp_edges(part);
    const auto middle = [&](const RoundEdge& e) { return part.edge(e.edge).curve.point(0.5); };
    std::vector<int> chosen;
    switch (choice.kind) {
        case Kind::all:
        case Kind::inner:
        case Kind::outer:
            for (const auto& e : all)
                if (choice.kind == Kind::all || e.outer == (choice.kind == Kind::outer)) chosen.push_back(e.edge);
            break;
        case Kind::near:
            for (const Vec3& p : choice.near) {
                const auto away = [&](const RoundEdge& e) {
                    const auto& curve = part.edge(e.edge).curve;
                    return distance(curve.point(curve.project(p)), p);
                };
                const auto nearest = std::min_element(all.begin(), all.end(),
                                                      [&](const auto& a, const auto& b) { return away(a) < away(b); });
                if (nearest == all.end() || away(*nearest) > same_point_share * part.box.diagonal())
                    throw InputError(fmt::format("there is no edge at {}", at_text(p)), placed_at(p),
                                     nearest == all.end()
                                         ? "the part has no sharp edges"
                                         : "the middle of the nearest one is at " + at_text(middle(*nearest)));
                if (std::find(chosen.begin(), chosen.end(), nearest->edge) == chosen.end())
                    chosen.push_back(nearest->edge);
            }
            break;
        case Kind::between: {
            const auto first = demanded_faces(part, choice.between[0]),
                       second = demanded_faces(part, choice.between[1]);
            const auto in = [](const std::vector<int>& list, int f) {
                return std::find(list.begin(), list.end(), f) != list.end();
            };
            for (const auto& e : all)
                if ((in(first, e.faces[0]) && in(second, e.faces[1])) ||
                    (in(second, e.faces[0]) && in(first, e.faces[1])))
                    chosen.push_back(e.edge);
            break;
        }
    }
    constexpr std::size_t most_told = 12;
    std::string where;
    for (std::size_t k = 0; k < std::min(all.size(), most_told); ++k)
        where += (k > 0 ? ", " : "") + at_text(middle(all[k]));
    if (all.size() > most_told) where += fmt::format(" and {} more", all.size() - most_told);
    const std::string remedy = all.empty() ? "the part has no sharp edges" : "middles of edges are at " + where;
    if (chosen.empty()) throw InputError("no edge fits this choice", {}, remedy);
    if (choice.count && *choice.count != static_cast<std::int64_t>(chosen.size()))
        throw InputError(fmt::format("{} edges were expected, but {} {}", *choice.count, chosen.size(),
                                     chosen.size() == 1 ? "fits" : "fit"),
                         {}, remedy);
    return chosen;
}

SolidPart with_changed_edges(const SolidPart& part, const std::vector<int>& edges, const SolidChange& wanted) {
    const bool round = wanted.change == Change::round;
    demand_one_body(part, round ? "a round" : "a bevel");
    KernelChange change;
    change.kind = round ? KernelChange::Kind::round : KernelChange::Kind::bevel;
    change.edges = edges;
    change.length = wanted.size;
    const Vec3 at = part.edge(edges.front()).curve.point(0.5);
    return changed(part, change, wanted, placed_at(at),
                   fmt::format("a {} of {:g} on {} edge{}", round ? "round" : "bevel", wanted.size, edges.size(),
                               edges.size() > 1 ? "s" : ""));
}

SolidPart hollowed(const SolidPart& part, const std::vector<std::string>& open, const SolidChange& wanted) {
    demand_one_body(part, "a wall");
    KernelChange change;
    change.kind = KernelChange::Kind::hollow;
    change.length = wanted.size;
    for (const auto& name : open)
        for (const int f : demanded_faces(part, name)) change.faces.push_back(f);
    const std::string what = fmt::format("a wall of {:g}", wanted.size);
    if (!open.empty()) return changed(part, change, wanted, {}, what);
    // Without an open face the library gives what is to be taken out.
    SolidPart inside = changed(part, change, wanted, {}, what);
    for (auto& face : inside.faces) {
        face.names.clear();
        if (!wanted.name.empty()) inside.add_name(wanted.name, face.names);
    }
    return with_cavity(part, inside);
}

std::optional<SolidPart> without_faces(const SolidPart& part, const std::vector<int>& faces) {
    demand_one_body(part, "a clean-up");
    KernelChange change;
    change.kind = KernelChange::Kind::remove;
    change.faces = faces;
    const std::string name;
    Result result(part, change, name);
    if (!result.make().empty() || result.keeps(faces)) return std::nullopt;
    return result.take();
}

SolidPart tapered(const SolidPart& part, double from, double angle) {
    demand_one_body(part, "a taper");
    KernelChange change;
    change.kind = KernelChange::Kind::taper;
    change.angle = angle;
    change.normal = {{0, 0, 1}};
    change.at = {{0, 0, from}};
    constexpr double along = 1e-9;
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const Surface& s = part.faces[f].surface;
        const auto& use = part.faces[f].loops.front().front();
        const Vec3 at = part.edge(use.edge).curve.point(0.5);
        if (std::fabs(s.normal(s.project(at))[2]) < along) change.faces.push_back(static_cast<int>(f));
    }
    const std::string name;
    Result result(part, change, name);
    if (const std::string fault = result.make(); !fault.empty())
        throw InputError(
            fmt::format("a taper of {:g} degrees cannot be made: {}", angle * 180 / std::numbers::pi, fault), {},
            "take a smaller one, or a shape of lines and arcs that narrows no corner away");
    return result.take();
}

}  // namespace dotsift
