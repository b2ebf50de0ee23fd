#include "part/checks/check_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "part/checks/check_materials.hpp"
#include "part/checks/check_names.hpp"
#include "part/checks/check_paths.hpp"
#include "part/checks/solid_motion.hpp"
#include "part/solid/body_finder.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

constexpr double near_corner = 1e-9;  // of the part's size: as near a corner is meant

class SolidCheck {
  public:
    SolidCheck(const Study& study, const SolidPart& part, Problems& problems)
        : study_(study), part_(part), problems_(problems) {}

    void run() {
        what_is_missing();
        names();
        sizes();
        quantities();
        sides();
        check_paths(study_, part_, problems_);
        for (const auto& q : study_.quality) {
            check_region_names(study_, q.on, "quality." + q.name, q.where, part_, problems_);
            if (q.quadrilaterals)
                problems_.add(
                    study_.place_of("quality." + q.name, "elements", q.where),
                    fmt::format("quality.{}: elements of a solid are neither triangles nor quadrilaterals", q.name),
                    "leave out elements");
        }
        check_materials(study_, part_, problems_);
        check_plausible(study_, problems_);
        if (study_.elastic() && problems_.empty()) check_motion_in_space(study_, part_, problems_);
        if (study_.conducts() && problems_.empty()) check_level_in_space(study_, part_, problems_);
        warn_of_unused(study_, unused_boundary_names(study_, part_, names_given(part_, part_.faces)), problems_);
    }

  private:
    void names(const std::vector<std::string>& on, const std::string& user, Where where) {
        check_boundary_names(
            study_, on, user, where, part_, [&](const std::string& p) { return !part_.faces_named({p}).empty(); },
            problems_);
    }

    /// Single points must be nodes of every mesh.
    void corner(const std::optional<Vec3>& at, const std::string& user, Where where) {
        if (!at) return;
        const double near = near_corner * part_.box.diagonal();
        const Vec3* nearest = nullptr;
        for (const Vec3& v : part_.vertices) {
            if (distance(v, *at) <= near) return;
            if (!nearest || distance(v, *at) < distance(*nearest, *at)) nearest = &v;
        }
        if (nearest)
            problems_.add(
                study_.place_of(user, "at", where),
                fmt::format("{}: ({:g}, {:g}, {:g}) is no corner of the solid", user, (*at)[0], (*at)[1], (*at)[2]),
                fmt::format("the nearest corner is ({:.8g}, {:.8g}, {:.8g}); mark = \"point\" makes one "
                            "elsewhere",
                            (*nearest)[0], (*nearest)[1], (*nearest)[2]));
    }

    void names() {
        for (const auto& s : study_.supports) {
            names(s.on, "support." + s.name, s.where);
            if (s.at_name.empty()) corner(s.at, "support." + s.name, s.where);
        }
        for (const auto& r : study_.resistances) {
            names(r.on, "resistance." + r.name, r.where);
            for (const int f : part_.faces_named(r.on)) {
                const SolidFace& face = part_.face(f);
                if (face.interior() && region_of(face.behind) != region_of(face.before)) continue;
                problems_.add(
                    study_.place_of("resistance." + r.name, "on", r.where),
                    fmt::format("resistance.{}: {} lies between no two regions", r.name, part_.name_of_face(f)),
                    "name faces where two regions meet");
                break;
            }
        }
        for (const auto& l : study_.loads) {
            if (l.at) {
                if (l.at_name.empty()) corner(l.at, "load." + l.name, l.where);
                continue;
            }
            if (is_in_volume(l.kind))
                check_region_names(study_, l.on, "load." + l.name, l.where, part_, problems_);
            else
                names(l.on, "load." + l.name, l.where);
        }
        for (const auto& s : study_.series)
            check_region_names(study_, s.within, "series." + s.name, s.where, part_, problems_);
    }

    [[nodiscard]] int region_of(int body) const { return part_.bodies[static_cast<std::size_t>(body)].region; }

    void sizes() {
        const double extent = part_.box.diagonal();
        if (study_.sizes.global && *study_.sizes.global > extent)
            problems_.add(study_.sizes.where,
                          fmt::format("size: the global size {:g} exceeds the whole part, which is {:.4g} across",
                                      *study_.sizes.global, extent),
                          "is the unit right?");
        std::vector<std::string> known = part_.boundary_names;
        known.insert(known.end(), part_.regions.begin(), part_.regions.end());
        known.insert(known.end(), part_.edge_names.begin(), part_.edge_names.end());
        for (const auto& p : part_.points) known.push_back(p.name);
        for (const auto& rule : study_.sizes.local) {
            const std::string user = "size.local." + rule.name;
            for (const auto& pattern : rule.on) {
                if (!suits(rule.demand, pattern)) {
                    problems_.add(study_.place_of(user, pattern, rule.where),
                                  fmt::format("{}: {}, and \"{}\" is none", user, needs(rule.demand), pattern),
                                  rule.demand == SizeDemand::divisions
                                      ? "name its edges by [part.edge.NAME], or a selection with pick = \"edges\""
                                      : "name faces or regions");
                    continue;
                }
                if (!part_.points_named({pattern}).empty() || !part_.faces_named({pattern}).empty() ||
                    !part_.regions_named({pattern}).empty() || !part_.edges_named({pattern}).empty())
                    continue;
                const std::string near = nearest(pattern, known);
                problems_.add(study_.place_of(user, pattern, rule.where),
                              fmt::format("{}: no face, edge, region or point is named \"{}\"", user, pattern),
                              near.empty() ? fmt::format("names are {}", quoted_list(known))
                                           : fmt::format("did you mean \"{}\"?", near));
            }
        }
    }

    /// What has this name can have such a demand; what has none is told elsewhere.
    [[nodiscard]] bool suits(SizeDemand demand, const std::string& pattern) const {
        const bool edges = !part_.edges_named({pattern}).empty(), faces = !part_.faces_named({pattern}).empty(),
                   regions = !part_.regions_named({pattern}).empty(), points = !part_.points_named({pattern}).empty();
        if (!edges && !faces && !regions && !points) return true;
        switch (demand) {
            case SizeDemand::divisions:
                return edges;
            case SizeDemand::segments:
                return edges || faces;
            case SizeDemand::across:
                return faces || regions;
            default:
                return true;
        }
    }
    [[nodiscard]] static const char* needs(SizeDemand demand) {
        return demand == SizeDemand::divisions  ? "divisions go with edges"
               : demand == SizeDemand::segments ? "segments_per_circle goes with faces and edges"
                                                : "across goes with faces and regions";
    }

    void quantities() {
        for (const auto& q : study_.quantities) {
            const std::string user = "quantity." + q.name;
            if (is_reaction(q.field)) {
                std::vector<std::string> known;
                for (const auto& s : study_.supports) known.push_back(s.name);
                for (const auto& pattern : q.on)
                    if (std::none_of(known.begin(), known.end(),
                                     [&](const auto& n) { return fits_pattern(n, pattern); }))
                        problems_.add(study_.place_of(user, pattern, q.where),
                                      fmt::format("{}: no support is named \"{}\"", user, pattern),
                                      fmt::format("supports are {}", quoted_list(known)));
                continue;
            }
            std::vector<std::string> boundaries;
            for (const auto& pattern : q.on)
                if (part_.regions_named({pattern}).empty()) boundaries.push_back(pattern);
            names(boundaries, user, q.where);
            if (!boundaries.empty() && boundaries.size() < q.on.size())
                problems_.add(study_.place_of(user, "on", q.where),
                              fmt::format("{}: on names regions and boundaries together", user),
                              "use a quantity for each");
            check_region_names(study_, q.inside, user, q.where, part_, problems_);
            if (q.at_name.empty()) inside(q.at, user, study_.place_of(user, "at", q.where));
            if (q.relative_to_name.empty()) inside(q.relative_to, user, study_.place_of(user, "relative_to", q.where));
        }
    }

    /// A point in the solid, or on one of its faces.
    void inside(const std::optional<Vec3>& at, const std::string& user, Where where) {
        if (!at) return;
        if (!finder_) finder_.emplace(part_);
        if (finder_->holds(*at)) return;
        problems_.add(
            where,
            fmt::format("{}: the point ({:g}, {:g}, {:g}) lies outside the part", user, (*at)[0], (*at)[1], (*at)[2]),
            reaches());
    }

    [[nodiscard]] std::string reaches() const {
        const Box<3>& box = part_.box;
        return fmt::format("the part reaches from ({:.4g}, {:.4g}, {:.4g}) to ({:.4g}, {:.4g}, {:.4g})", box.low[0],
                           box.low[1], box.low[2], box.high[0], box.high[1], box.high[2]);
    }

    /// A plane that misses the solid's box shows all of it, or nothing.
    void section(const PlaneSpec& plane, const std::string& user, Where where) {
        const Box<3>& box = part_.box;
        bool before = false, behind = false;
        for (int c = 0; c < 8; ++c) {
            const Vec3 corner{
                {c & 1 ? box.high[0] : box.low[0], c & 2 ? box.high[1] : box.low[1], c & 4 ? box.high[2] : box.low[2]}};
            (dot(corner - plane.at, plane.normal) > 0 ? before : behind) = true;
        }
        if (before && behind) return;
        problems_.add(study_.place_of(user, "section", where),
                      fmt::format("{}: the section does not meet the part", user), reaches());
    }

    /// Pressure needs a side that is free, and symmetry a plane.
    void sides() {
        const auto interior = [&](const std::vector<std::string>& on, const std::string& user, Where where,
                                  const char* what) {
            for (const int f : part_.faces_named(on)) {
                if (!part_.face(f).interior()) continue;
                problems_.add(
                    study_.place_of(user, "on", where),
                    fmt::format("{}: {} on {}, which has material on both sides", user, what, part_.name_of_face(f)),
                    "use a face of the outside");
                return;
            }
        };
        for (const auto& l : study_.loads)
            if (l.kind == LoadKind::pressure) interior(l.on, "load." + l.name, l.where, "pressure");
        for (const auto& s : study_.supports) {
            if (s.hold != Hold::symmetry && s.hold != Hold::antisymmetry) continue;
            const char* what = s.hold == Hold::symmetry ? "symmetry" : "antisymmetry";
            interior(s.on, "support." + s.name, s.where, what);
            for (const int f : part_.faces_named(s.on))
                if (part_.face(f).surface.kind() != Surface::Kind::plane && !flat(f)) {
                    problems_.add(
                        s.where,
                        fmt::format("support.{}: {} on {}, which is curved", s.name, what, part_.name_of_face(f)),
                        "it needs plane faces");
                    break;
                }
        }
    }
    [[nodiscard]] bool flat(int face) const {
        const Surface& s = part_.face(face).surface;
        return s.kind() == Surface::Kind::drawn && s.profile().straight();
    }

    void not_yet(Where where, const std::string& what, const std::string& instead) {
        problems_.add(where, fmt::format("{} is not possible in solids yet", what), instead);
    }

    /// What plane studies have and solids do not.
    void what_is_missing() {
        const std::string leave = "leave it out, or study a plane part";
        for (const auto& r : study_.remotes) not_yet(r.where, "remote." + r.name, "load or hold the faces themselves");
        for (const auto& p : study_.periodic) not_yet(p.where, "periodic." + p.name, leave);
        for (const auto& p : study_.pictures) {
            const std::string user = "picture." + p.name;
            if (p.section) section(*p.section, user, p.where);
            if (p.box) not_yet(p.where, user + ".box: a part of the view", "leave it out: the whole solid is shown");
            if (p.envelope != CaseEnvelope::none) not_yet(p.where, user + ": several load cases in one", "use case");
        }
        for (const auto& l : study_.sizes.layers) not_yet(l.where, "size.layers." + l.name, leave);
        for (const auto& z : study_.mesh.remesh) not_yet(z.rule.where, "mesh.remesh." + z.rule.name, leave);
        if (study_.mesh.shape != ElementShape::triangles || !study_.mesh.regions.empty())
            not_yet(study_.mesh.where, "a mesh of other elements than tetrahedra", "leave out mesh.elements");
        if (study_.error_bound) not_yet(study_.part_where, "an error bound", "leave out error_bound");
        for (const auto& m : study_.materials) {
            if (m.nearly_incompressible())
                not_yet(m.where, fmt::format("material.{}: a Poisson's ratio above 0.45", m.name),
                        "use a smaller one, or study a plane part");
        }
        for (const auto& s : study_.series) {
            const std::string user = "series." + s.name;
            if (!s.start_mesh.empty()) not_yet(s.where, user + ": a mesh to begin with", "leave it out");
            if (s.keep_rest) not_yet(s.where, user + ": keeping a part of the mesh", "leave it out");
            if (std::find(s.indicators.begin(), s.indicators.end(), Indicator::residual) != s.indicators.end())
                not_yet(s.where, user + ": the residual indicator", "use \"recovery\"");
        }
    }

    const Study& study_;
    const SolidPart& part_;
    Problems& problems_;
    std::optional<BodyFinder> finder_;  ///< made when a point is looked at
};

}  // namespace

void check_solid(const Study& study, const SolidPart& part, Problems& problems) {
    SolidCheck(study, part, problems).run();
}

}  // namespace dotsift
