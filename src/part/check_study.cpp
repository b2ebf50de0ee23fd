#include "part/check_study.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "part/check_supports.hpp"
#include "study/input_files.hpp"
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

void check_regions(const std::vector<std::string>& patterns, const std::string& user, Where where, const Part& part,
                   Problems& problems) {
    for (const auto& pattern : patterns)
        if (part.regions_named({pattern}).empty())
            problems.add(where, fmt::format("{}: no region is named \"{}\"", user, pattern),
                         fmt::format("regions are {}", quoted_list(part.regions)));
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
            check_names(z.on, user, z.where, part, problems);
            continue;
        }
        for (const auto& pattern : z.on) {
            if (!part.regions_named({pattern}).empty() || !part.points_named({pattern}).empty() ||
                !part.edges_named({pattern}).empty())
                continue;
            const std::string near = nearest(pattern, known);
            problems.add(z.where, fmt::format("{}: no boundary, region or point is named \"{}\"", user, pattern),
                         near.empty() ? fmt::format("names are {}", quoted_list(known))
                                      : fmt::format("did you mean \"{}\"?", near));
        }
    }
    for (const auto& l : study.sizes.layers) {
        check_names(l.on, "size.layers." + l.name, l.where, part, problems);
        check_regions(l.inside, "size.layers." + l.name, l.where, part, problems);
    }
    for (const auto& q : study.quality) check_regions(q.on, "quality." + q.name, q.where, part, problems);
    for (const auto& r : study.mesh.regions) check_regions({r.name}, "mesh.region." + r.name, r.where, part, problems);
    for (const auto& z : study.mesh.remesh)
        check_regions(z.rule.on, "mesh.remesh." + z.rule.name, z.rule.where, part, problems);
}

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
std::vector<int> connected_pieces(const Part& part) {
    std::vector<int> piece(part.faces.size());
    std::iota(piece.begin(), piece.end(), 0);
    for (bool again = true; again;) {
        again = false;
        for (const auto& e : part.edges) {
            if (!e.interior()) continue;
            int &a = piece[static_cast<std::size_t>(e.left)], &b = piece[static_cast<std::size_t>(e.right)];
            if (a == b) continue;
            a = b = std::min(a, b);
            again = true;
        }
    }
    std::vector<int> numbers = piece;
    std::sort(numbers.begin(), numbers.end());
    numbers.erase(std::unique(numbers.begin(), numbers.end()), numbers.end());
    for (auto& p : piece) p = static_cast<int>(std::lower_bound(numbers.begin(), numbers.end(), p) - numbers.begin());
    return piece;
}

/// The rigid motions (a + b turned) that no support hinders, told in words.
void check_rigid_motion(const Study& study, const Part& part, Problems& problems) {
    const auto piece_of_face = connected_pieces(part);
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
            const Vec2 apart = part.edge(b.front()).curve.box().centre() - part.edge(a.front()).curve.box().centre();
            const Eigen::Vector3d row(0, 0, norm(apart) / size);
            gram += row * row.transpose();
        }
        for (const auto& support : study.supports) {
            if (support.at && piece_of_point(*support.at) == f)
                for (const Vec2& d : held_directions(support, Curve{}, 0)) hold(*support.at, d);
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
        const std::string which = pieces == 1 ? "the part"
                                              : fmt::format("piece {} of the part, round ({:.4g}, {:.4g}),", f + 1,
                                                            box.centre()[0], box.centre()[1]);
        problems.add(where, fmt::format("the supports leave {} free to {}", which, motion),
                     "hold that motion, for example by a support with ux or uy, or hold = \"symmetry\"");
    }
}

/// Every piece of the part needs something that fixes the level of its potential.
void check_level(const Study& study, const Part& part, Problems& problems) {
    const auto piece_of_face = connected_pieces(part);
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
                             : static_cast<std::size_t>(
                                   piece_of_face[static_cast<std::size_t>(std::max(part.face_at(*s.at), 0))])] = 1;
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

/// Pressure needs a side that is free, and so does a mirror plane.
void check_interior(const Study& study, const Part& part, Problems& problems) {
    const auto check = [&](const std::vector<std::string>& on, const std::string& user, Where where, const char* what) {
        for (const int e : part.edges_named(on)) {
            if (!part.edge(e).interior()) continue;
            const Vec2 at = part.edge(e).curve.point(0.5);
            problems.add(where,
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

/// Every region has one material; every material a region.
void check_materials(const Study& study, const Part& part, Problems& problems) {
    std::vector<int> owner(part.regions.size(), -1);
    int rest = -1;
    for (std::size_t m = 0; m < study.materials.size(); ++m) {
        const auto& material = study.materials[m];
        if (material.on.empty()) {
            if (rest >= 0)
                problems.add(material.where,
                             fmt::format("material.{} and material.{} both claim the regions that no material names",
                                         study.materials[static_cast<std::size_t>(rest)].name, material.name),
                             fmt::format("say which regions: on = \"...\"; regions are {}", quoted_list(part.regions)));
            rest = static_cast<int>(m);
            continue;
        }
        for (const auto& pattern : material.on) {
            const auto regions = part.regions_named({pattern});
            if (regions.empty()) {
                const std::string near = nearest(pattern, part.regions);
                problems.add(
                    material.where, fmt::format("material.{}: no region is named \"{}\"", material.name, pattern),
                    near.empty() ? fmt::format("regions are {}", quoted_list(part.regions))
                                 : fmt::format("did you mean \"{}\"? regions are {}", near, quoted_list(part.regions)));
            }
            for (const int r : regions) {
                int& o = owner[static_cast<std::size_t>(r)];
                if (o >= 0 && o != static_cast<int>(m))
                    problems.add(material.where,
                                 fmt::format("region \"{}\" has two materials, {} and {}",
                                             part.regions[static_cast<std::size_t>(r)],
                                             study.materials[static_cast<std::size_t>(o)].name, material.name),
                                 "name it in one of them only");
                o = static_cast<int>(m);
            }
        }
    }
    if (study.materials.empty()) return;  // told by the reader
    bool needed = false;
    for (std::size_t r = 0; r < owner.size(); ++r) {
        if (owner[r] >= 0) continue;
        needed = true;
        if (rest < 0)
            problems.add(study.part_where, fmt::format("the region \"{}\" has no material", part.regions[r]),
                         "name it in the on of a material, or leave out on in one");
    }
    if (rest >= 0 && !needed)
        problems.warn(
            study.materials[static_cast<std::size_t>(rest)].where,
            fmt::format("material.{} is used by no region", study.materials[static_cast<std::size_t>(rest)].name),
            "the other materials name all of them");
}

/// Numbers that no material has: units were mixed up.
void check_plausible(const Study& study, Problems& problems) {
    if (!study.units_given) return;                         // made-up numbers
    constexpr double softest = 1e4, stiffest = 2e12;        // Pa: foam, diamond
    constexpr double softest_firm = 5e8, firm_ratio = 0.4;  // rubber and soft plastics hardly change their volume
    for (const auto& m : study.materials) {
        std::vector<double> moduli{m.youngs_modulus};
        if (m.orthotropy) moduli.assign(m.orthotropy->moduli.begin(), m.orthotropy->moduli.end());
        for (const double e : moduli) {
            if (!(e > 0) || e == 1) continue;  // 1: a problem that was made dimensionless
            const double pascal = study.units.to_si(e, dimension::stress);
            const bool soft = !m.orthotropy && pascal < softest_firm && m.poissons_ratio < firm_ratio;
            if (pascal >= softest && pascal <= stiffest && !soft) continue;
            problems.warn(m.where,
                          fmt::format("material.{}: a modulus of {:.3g} GPa is {} than that of any {}", m.name,
                                      pascal / 1e9, pascal > stiffest ? "larger" : "smaller",
                                      soft ? "metal, wood, glass or concrete" : "material"),
                          fmt::format("plain numbers are in {}; with a unit they are safe, as in \"{:g} GPa\"",
                                      study.units.label(dimension::stress), e));
            break;
        }
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

std::vector<std::string> unused_names(const Study& study, const Part& part) {
    std::vector<std::string> used;
    const auto use = [&](const std::vector<std::string>& on) { used.insert(used.end(), on.begin(), on.end()); };
    for (const auto& x : study.supports) use(x.on);
    for (const auto& x : study.loads) use(x.on);
    for (const auto& x : study.remotes) use(x.on);
    for (const auto& x : study.periodic) use({x.between[0], x.between[1]});
    for (const auto& x : study.resistances) use(x.on);
    for (const auto& x : study.sizes.local) {
        use(x.on);
        if (!x.finer_name.empty()) use({x.finer_name});
    }
    for (const auto& x : study.sizes.layers) use(x.on);
    for (const auto& x : study.quantities) use(x.on);
    use(study.cleanup.one_edge);
    for (const auto& x : study.selections) {
        use(x.named);
        use(x.beside);
    }
    for (const auto& s : study.shapes)
        if (s.verb == Verb::change && s.corner_choice.kind == CornerSpec::Kind::between)
            used.insert(used.end(), s.corner_choice.between.begin(), s.corner_choice.between.end());
    // Names of the edges between regions come by themselves; they need no user.
    std::vector<char> given(part.boundary_names.size(), 0);
    for (const auto& e : part.edges)
        for (const int n : e.names)
            if (!(e.interior() && e.names.size() == 1)) given[static_cast<std::size_t>(n)] = 1;
    std::vector<std::string> unused;
    for (std::size_t n = 0; n < given.size(); ++n) {
        const auto& name = part.boundary_names[n];
        const bool fits = fits_any(name, used);
        if (!fits && given[n]) unused.push_back(name);
    }
    return unused;
}

void resolve_points(Study& study, const Part& part, Problems& problems) {
    const auto resolve = [&](const std::string& user, Where where, const std::string& name, std::optional<Vec2>& at) {
        if (name.empty()) return;
        std::vector<std::string> known;
        for (const auto& p : part.points) known.push_back(p.name);
        const auto found = part.points_named({name});
        if (found.size() == 1) {
            at = part.vertex(found[0]);
            return;
        }
        const std::string near = nearest(name, known);
        problems.add(where,
                     found.empty() ? fmt::format("{}: no point is named \"{}\"", user, name)
                                   : fmt::format("{}: {} points are named \"{}\"", user, found.size(), name),
                     known.empty()                    ? "name one by mark = \"point\" or by a selection"
                     : !near.empty() && found.empty() ? fmt::format("did you mean \"{}\"?", near)
                                                      : fmt::format("named points are {}", quoted_list(known)));
    };
    for (auto& s : study.supports) resolve("support." + s.name, s.where, s.at_name, s.at);
    for (auto& l : study.loads) resolve("load." + l.name, l.where, l.at_name, l.at);
    for (auto& q : study.quantities) {
        resolve("quantity." + q.name, q.where, q.at_name, q.at);
        std::optional<Vec2> about = q.about;
        resolve("quantity." + q.name, q.where, q.about_name, about);
        q.about = *about;
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

/// Values are wanted where the part is; a stress is linearised across a whole wall.
void check_paths(const Study& study, const Part& part, double tolerance, Problems& problems) {
    constexpr int samples = 200;
    const auto inside = [&](const Vec2& p) {
        return part.face_at(p) >= 0 || std::any_of(part.edges.begin(), part.edges.end(), [&](const PartEdge& e) {
                   return distance(e.curve.point(e.curve.project(p)), p) <= tolerance;
               });
    };
    for (const auto& path : study.paths) {
        int missing = 0, count = 0;
        std::optional<Vec2> first_missing;
        for (std::size_t k = 1; k < path.points.size(); ++k) {
            for (int i = 0; i <= samples; ++i) {
                const Vec2 p =
                    path.points[k - 1] + (path.points[k] - path.points[k - 1]) * (static_cast<double>(i) / samples);
                ++count;
                if (inside(p)) continue;
                ++missing;
                if (!first_missing) first_missing = p;
            }
        }
        const bool across = std::any_of(study.quantities.begin(), study.quantities.end(), [&](const QuantitySpec& q) {
            return q.along == path.name && (q.take == Take::membrane || q.take == Take::linearised);
        });
        if (missing == count && count > 0)
            problems.add(path.where, fmt::format("path.{} lies outside the part", path.name),
                         fmt::format("the part reaches from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})", part.box.low[0],
                                     part.box.low[1], part.box.high[0], part.box.high[1]));
        else if (missing > 0 && across)
            problems.add(path.where,
                         fmt::format("path.{} leaves the part at ({:.6g}, {:.6g}), but a stress is linearised along it",
                                     path.name, (*first_missing)[0], (*first_missing)[1]),
                         "let it run from one surface of the wall to the other");
    }
}

}  // namespace

namespace {

/// Stress and flux jump between regions: which side a quantity means.
void check_side(const QuantitySpec& q, const Study& study, const Part& part, double tolerance, Problems& problems) {
    const std::string user = "quantity." + q.name;
    check_regions(q.inside, user, q.where, part, problems);
    const bool jumps = is_of_stress(q.field) ||
                       (is_of_potential(q.field) && (q.field != Field::potential || !study.resistances.empty()));
    std::vector<int> edges;
    if (!q.on.empty() && part.regions_named(q.on).empty()) edges = part.edges_named(q.on);
    for (std::size_t e = 0; q.at && e < part.edges.size(); ++e) {
        const Curve& curve = part.edges[e].curve;
        if (distance(curve.point(curve.project(*q.at)), *q.at) <= tolerance) edges.push_back(static_cast<int>(e));
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
        problems.add(q.where,
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
    for (const auto& s : study.supports) check_names(s.on, "support." + s.name, s.where, part, problems);
    for (const auto& s : study.supports)
        if (s.at && s.at_name.empty()) check_corner(*s.at, "support." + s.name, s.where, part, problems);
    for (const auto& l : study.loads) {
        if (is_in_volume(l.kind))
            check_regions(l.on, "load." + l.name, l.where, part, problems);
        else
            check_names(l.on, "load." + l.name, l.where, part, problems);
        if (l.at && l.at_name.empty()) check_corner(*l.at, "load." + l.name, l.where, part, problems);
    }
    for (const auto& r : study.remotes) check_names(r.on, "remote." + r.name, r.where, part, problems);
    for (const auto& p : study.periodic)
        check_names({p.between[0], p.between[1]}, "periodic." + p.name, p.where, part, problems);
    for (const auto& r : study.resistances) {
        check_names(r.on, "resistance." + r.name, r.where, part, problems);
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
        check_regions({region}, "part.thickness_of", study.part_where, part, problems);
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
                    problems.add(q.where, fmt::format("quantity.{}: no support is named \"{}\"", q.name, pattern),
                                 fmt::format("supports are {}", quoted_list(known)));
        } else {
            std::vector<std::string> boundaries;
            for (const auto& pattern : q.on)
                if (part.regions_named({pattern}).empty()) boundaries.push_back(pattern);
            check_names(boundaries, "quantity." + q.name, q.where, part, problems);
            if (!boundaries.empty() && boundaries.size() < q.on.size())
                problems.add(q.where, fmt::format("quantity.{}: on names regions and boundaries together", q.name),
                             "use a quantity for each");
        }
        if (q.at && q.at_name.empty() && part.face_at(*q.at) < 0) {
            const bool near = std::any_of(part.edges.begin(), part.edges.end(), [&](const PartEdge& e) {
                return distance(e.curve.point(e.curve.project(*q.at)), *q.at) <= tolerance;
            });
            if (!near)
                problems.add(q.where,
                             fmt::format("quantity.{}: the point ({:g}, {:g}) lies outside the part", q.name,
                                         (*q.at)[0], (*q.at)[1]),
                             fmt::format("the part reaches from ({:.4g}, {:.4g}) to ({:.4g}, {:.4g})", part.box.low[0],
                                         part.box.low[1], part.box.high[0], part.box.high[1]));
        }
    }
    for (const auto& q : study.quantities) check_side(q, study, part, tolerance, problems);
    for (const auto& s : study.series) check_regions(s.within, "series." + s.name, s.where, part, problems);
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
    const auto unused = unused_names(study, part);
    if (unused.size() == 1)
        problems.warn(study.part_where, fmt::format("the boundary name \"{}\" is used by nothing", unused[0]));
    else if (!unused.empty())
        problems.warn(study.part_where, fmt::format("boundary names that nothing uses: {}", quoted_list(unused)));
}

StudyAndPart open_study(const std::filesystem::path& path, const std::string& text, Problems& problems) {
    return open_part(read_study(path, text, problems), problems);
}

StudyAndPart open_part(Study study, Problems& problems) {
    StudyAndPart opened;
    opened.study = std::move(study);
    const auto& shapes = opened.study.shapes;
    if (shapes.empty() || !std::all_of(shapes.begin(), shapes.end(), [](const ShapeSpec& s) { return s.sound; }))
        return opened;
    const std::size_t before = problems.count();
    BuiltPart built = build_part(opened.study, problems);
    opened.part = std::move(built.part);
    opened.original = std::move(built.original);
    opened.cleanup = std::move(built.cleanup);
    opened.notes = std::move(built.notes);
    if (problems.count() > before) return opened;
    resolve_points(opened.study, opened.part, problems);
    check_study(opened.study, opened.part, problems);
    return opened;
}

}  // namespace dotsift
