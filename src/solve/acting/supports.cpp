#include "solve/acting/supports.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>

#include "base/errors.hpp"
#include "mesh/boundary_line.hpp"
#include "mesh/side_views.hpp"
#include "solve/acting/side_measure.hpp"
#include "solve/acting/tied_slots.hpp"

namespace dotsift {

namespace {

// Sides of a boundary whose normals differ by more than this (cosine) meet in a corner: a node there is held along both
// normals, elsewhere along their mean.
constexpr double corner_cosine = 0.97;
// Rows that no support makes.
constexpr int no_source = -1;
// Periodic boundaries have to match to this share of the part's size.
constexpr double periodic_gap = 1e-5;

/// Outward normal at a node of a side: of the part's curve where it is known.
Vec2 normal_at(const Mesh& mesh, const BoundarySide& side, std::size_t i) {
    if (!mesh.end_normals.empty()) return mesh.end_normals[static_cast<std::size_t>(&side - mesh.boundary.data())][i];
    const Vec2 &a = mesh.nodes[static_cast<std::size_t>(side.nodes[0])],
               &b = mesh.nodes[static_cast<std::size_t>(side.nodes[1])];
    Vec2 along = b - a;
    if (side.count() == 3 && i < 2) {
        const Vec2& m = mesh.nodes[static_cast<std::size_t>(side.nodes[2])];
        along = i == 0 ? a * -3 - b + m * 4 : a + b * 3 - m * 4;
    }
    return -turned_left(along) / norm(along);
}

/// The normals of a boundary at its nodes: one where it is smooth.
std::map<int, std::vector<Vec2>> normals_of(const Mesh& mesh, const std::vector<std::string>& on) {
    std::map<int, std::vector<Vec2>> sums;
    const Meant meant(mesh, on);
    for (const auto& side : mesh.boundary) {
        if (!meant.side(side)) continue;
        for (std::size_t i = 0; i < side.count(); ++i) {
            const Vec2 n = normal_at(mesh, side, i);
            auto& list = sums[side.nodes[i]];
            const auto alike = std::find_if(list.begin(), list.end(),
                                            [&](const Vec2& s) { return dot(s, n) > corner_cosine * norm(s); });
            if (alike == list.end())
                list.push_back(n);
            else
                *alike += n;
        }
    }
    for (auto& [node, list] : sums)
        for (auto& n : list) n = n / norm(n);
    return sums;
}

std::vector<double> in_cases(double value, const std::string& name, const std::vector<CaseSpec>& cases) {
    std::vector<double> out;
    out.reserve(cases.size());
    for (const auto& c : cases) out.push_back(value == 0 ? 0 : value * c.of_other(name));
    return out;
}

class SupportRows {
  public:
    SupportRows(const Mesh& mesh, const Study& study, const std::vector<CaseSpec>& cases,
                std::vector<ConstraintRow>& rows)
        : mesh_(mesh), study_(study), cases_(cases), rows_(rows), layout_(displacement_layout(mesh, study)) {}

    void add(const SupportSpec& support, int source) {
        const std::string file = study_.path.string();
        std::array<std::optional<FormulaEvaluator>, 2> value;
        for (std::size_t axis = 0; axis < 2; ++axis)
            if (support.displacement[axis]) value[axis].emplace(*support.displacement[axis], file);
        std::optional<FormulaEvaluator> normal_value;
        if (support.normal_displacement) normal_value.emplace(*support.normal_displacement, file);
        const auto hold_node = [&](int n, const std::vector<Vec2>& normals) {
            const FormulaPlace place{mesh_.nodes[static_cast<std::size_t>(n)],
                                     normals.empty() ? Vec2{} : normals.front(), support.about};
            const auto hold = [&](const Vec2& d, double v) {
                ConstraintRow row;
                // The larger component goes first, and is eliminated.
                const std::size_t main = std::fabs(d[0]) >= std::fabs(d[1]) ? 0 : 1;
                for (const auto axis : {main, 1 - main})
                    if (d[axis] != 0) row.terms.emplace_back(layout_.dof(n, static_cast<int>(axis)), d[axis]);
                row.value = in_cases(v, support.name, cases_);
                row.source = source;
                rows_.push_back(std::move(row));
            };
            if (support.hold == Hold::symmetry)
                for (const Vec2& d : normals) hold(d, 0);
            if (support.hold == Hold::antisymmetry)
                for (const Vec2& d : normals) hold(turned_left(d), 0);
            for (std::size_t axis = 0; axis < 2; ++axis) {
                const Vec2 direction = axis == 0 ? Vec2{{1, 0}} : Vec2{{0, 1}};
                if (support.hold == Hold::fixed)
                    hold(direction, 0);
                else if (value[axis])
                    hold(direction, (*value[axis])(place));
            }
            if (normal_value)
                for (const Vec2& d : normals) hold(d, (*normal_value)({place.position, d, support.about}));
        };
        if (support.at) {
            hold_node(static_cast<int>(nearest_node<2>(mesh_, in_plane(*support.at))), {});
            return;
        }
        for (const auto& [n, normals] : normals_of(mesh_, support.on)) hold_node(n, normals);
    }

  private:
    const Mesh& mesh_;
    const Study& study_;
    const std::vector<CaseSpec>& cases_;
    std::vector<ConstraintRow>& rows_;
    FieldLayout layout_;
};

/// For each node of the second boundary the nodes of the first that make its partner, with their shape values.
struct Partner {
    int node = 0;
    std::vector<std::pair<int, double>> of;
};

/// The centre of a sector belongs to both of its sides.
bool at_centre(const Partner& p) {
    return p.of.size() == 1 && p.of.front().first == p.node;
}

std::vector<Partner> partners(const Mesh& mesh, const PeriodicSpec& spec, const Study& study) {
    std::array<std::vector<const BoundarySide*>, 2> sides;
    std::array<Vec2, 2> middle;
    for (std::size_t k = 0; k < 2; ++k) {
        double length = 0;
        const Meant meant(mesh, {spec.between[k]});
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            sides[k].push_back(&side);
            for (const auto& p : side_points(mesh, side)) {
                middle[k] += p.position * p.length;
                length += p.length;
            }
        }
        if (length > 0) middle[k] = middle[k] / length;
    }
    const Vec2 shift = middle[1] - middle[0];
    std::map<int, Partner> found;
    for (const auto* side : sides[1])
        for (std::size_t i = 0; i < side->count(); ++i) {
            const int n = side->nodes[i];
            if (found.count(n)) continue;
            const Vec2& here = mesh.nodes[static_cast<std::size_t>(n)];
            const Vec2 wanted = spec.turn ? spec.about + spec.turned_back(here - spec.about) : here - shift;
            double best = INFINITY, best_t = 0;
            const BoundarySide* best_side = nullptr;
            for (const auto* other : sides[0]) {
                const double t = nearest_share(mesh, *other, wanted);
                const double gap = distance(point_on(mesh, *other, t), wanted);
                if (gap < best) {
                    best = gap;
                    best_t = t;
                    best_side = other;
                }
            }
            if (!best_side || best > periodic_gap * arm_of(mesh)) {
                Place place = place_in(study.path, spec.where);
                place.position = mesh.nodes[static_cast<std::size_t>(n)];
                throw InputError(fmt::format("periodic.{}: on this mesh \"{}\" does not lie on \"{}\" brought there",
                                             spec.name, spec.between[1], spec.between[0]),
                                 place,
                                 "the two boundaries must have the same shape, one moved or turned from the other");
            }
            Partner p;
            p.node = n;
            const double t = best_t;
            const std::array<double, 3> shape =
                best_side->count() == 3 ? std::array<double, 3>{(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)}
                                        : std::array<double, 3>{1 - t, t, 0};
            for (std::size_t j = 0; j < best_side->count(); ++j)
                if (shape[j] != 0) p.of.emplace_back(best_side->nodes[j], shape[j]);
            found[n] = std::move(p);
        }
    std::vector<Partner> out;
    out.reserve(found.size());
    for (auto& [n, p] : found) out.push_back(std::move(p));
    return out;
}

void add_remote(const Mesh& mesh, const Study& study, const Laws& laws, std::size_t index,
                const std::vector<CaseSpec>& cases, std::vector<ConstraintRow>& rows) {
    const auto& remote = study.remotes[index];
    const int source = static_cast<int>(study.supports.size() + study.periodic.size() + index);
    const FieldLayout layout = displacement_layout(mesh, study);
    const double arm = arm_of(mesh);
    const std::int32_t first = remote_dof(layout, index);
    const std::vector<double> nothing(cases.size(), 0.0);
    if (remote.rigid) {
        std::vector<char> done(mesh.nodes.size(), 0);
        const Meant meant(mesh, remote.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            for (std::size_t i = 0; i < side.count(); ++i) {
                const int n = side.nodes[i];
                if (done[static_cast<std::size_t>(n)]) continue;
                done[static_cast<std::size_t>(n)] = 1;
                const Vec2 d = (mesh.nodes[static_cast<std::size_t>(n)] - remote.at) / arm;
                rows.push_back({{{layout.dof(n, 0), 1.0}, {first, -1.0}, {first + 2, d[1]}}, nothing, source});
                rows.push_back({{{layout.dof(n, 1), 1.0}, {first + 1, -1.0}, {first + 2, -d[0]}}, nothing, source});
            }
        }
        for (int c = 0; c < 3; ++c) {
            const auto& v = remote.motion[static_cast<std::size_t>(c)];
            if (v) rows.push_back({{{first + c, 1.0}}, in_cases(c == 2 ? *v * arm : *v, remote.name, cases), source});
        }
        return;
    }
    // The point's degrees of freedom are the mean motion, which nothing needs unless it is prescribed.
    const MeanMotion mean = mean_motion<2>(mesh, remote.on, laws);
    const Vec2 from = (remote.at - mean.centre) / arm;
    ConstraintRow turn{{}, nothing, source}, x{{}, nothing, source}, y{{}, nothing, source};
    for (std::size_t i = 0; i < mean.weight.size(); ++i) {
        const auto [n, w] = mean.weight[i];
        const Vec2 lever = mean.lever[i] * (arm / mean.inertia);
        x.terms.emplace_back(layout.dof(n, 0), w / mean.area);
        y.terms.emplace_back(layout.dof(n, 1), w / mean.area);
        turn.terms.emplace_back(layout.dof(n, 0), -lever[1]);
        turn.terms.emplace_back(layout.dof(n, 1), lever[0]);
    }
    // Largest first: it is eliminated.
    for (auto* row : {&x, &y, &turn})
        std::stable_sort(row->terms.begin(), row->terms.end(),
                         [](const auto& a, const auto& b) { return std::fabs(a.second) > std::fabs(b.second); });
    if (remote.motion[2]) {
        turn.value = in_cases(*remote.motion[2] * arm, remote.name, cases);
        ConstraintRow own{{{first + 2, 1.0}}, turn.value, source};
        rows.push_back(turn);
        rows.push_back(own);
    } else {
        ConstraintRow own{{{first + 2, 1.0}}, nothing, source};
        for (const auto& [d, w] : turn.terms) own.terms.emplace_back(d, -w);
        rows.push_back(own);
    }
    for (int c = 0; c < 2; ++c) {
        ConstraintRow row = c == 0 ? x : y;
        row.terms.emplace_back(first + 2, c == 0 ? -from[1] : from[0]);
        const auto& v = remote.motion[static_cast<std::size_t>(c)];
        if (v) {
            row.value = in_cases(*v, remote.name, cases);
            rows.push_back(row);
            rows.push_back({{{first + c, 1.0}}, row.value, source});
        } else {
            for (auto& [d, w] : row.terms) w = -w;
            row.terms.insert(row.terms.begin(), {first + c, 1.0});
            rows.push_back(row);
        }
    }
}

/// Nothing leaves the axis of revolution.
void hold_axis(const Mesh& mesh, const FieldLayout& layout, std::size_t cases, std::vector<ConstraintRow>& rows) {
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
        if (mesh.nodes[n][0] == 0)
            rows.push_back(
                {{{layout.dof(static_cast<std::int32_t>(n), 0), 1.0}}, std::vector<double>(cases, 0.0), no_source});
}

/// What mirror planes forbid of the strain zz, e + tilt . (p - centre): symmetry a tilt square to the plane,
/// antisymmetry all that is left in the plane.
void hold_tilt(const Mesh& mesh, const Study& study, std::size_t cases, std::vector<ConstraintRow>& rows) {
    const FieldLayout layout = displacement_layout(mesh, study);
    const double arm = arm_of(mesh);
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    const std::int32_t first = layout.shared_first;
    const auto hold = [&](const std::vector<std::pair<std::int32_t, double>>& terms) {
        ConstraintRow row{{}, std::vector<double>(cases, 0.0), no_source};
        for (const auto& t : terms)
            if (t.second != 0) row.terms.push_back(t);
        // The largest is eliminated.
        std::stable_sort(row.terms.begin(), row.terms.end(),
                         [](const auto& a, const auto& b) { return std::fabs(a.second) > std::fabs(b.second); });
        if (!row.terms.empty()) rows.push_back(std::move(row));
    };
    for (const auto& support : study.supports) {
        if (support.hold != Hold::symmetry && support.hold != Hold::antisymmetry) continue;
        const Meant meant(mesh, support.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const Vec2 n = normal_at(mesh, side, 0);
            const Vec2 square = support.hold == Hold::symmetry ? n : turned_left(n);
            hold({{first + 1, square[0]}, {first + 2, square[1]}});
            if (support.hold == Hold::symmetry) continue;
            const Vec2 from = (mesh.nodes[static_cast<std::size_t>(side.nodes[0])] - box.centre()) / arm;
            hold({{first, 1}, {first + 1, from[0]}, {first + 2, from[1]}});
        }
    }
}

}  // namespace

double arm_of(const Mesh& mesh) {
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    return box.diagonal();
}

FieldLayout displacement_layout(const Mesh& mesh, const Study& study) {
    FieldLayout l;
    l.connectivity = mesh.connectivity;
    l.components = displacement_components;
    l.nodes = static_cast<std::int32_t>(mesh.nodes.size());
    l.shared_first = l.dof(l.nodes, 0);
    l.shared = study.plane == Plane::generalised_strain ? 3 : 0;
    l.dofs = l.shared_first + l.shared + 3 * static_cast<std::int32_t>(study.remotes.size());
    return l;
}

FieldLayout potential_layout(const Mesh& mesh) {
    FieldLayout l;
    l.connectivity = mesh.slots;
    l.components = 1;
    l.nodes = static_cast<std::int32_t>(mesh.node_of_slot.size());
    l.shared_first = l.dofs = l.nodes;
    return l;
}

std::int32_t remote_dof(const FieldLayout& layout, std::size_t remote) {
    return layout.shared_first + layout.shared + 3 * static_cast<std::int32_t>(remote);
}

std::string source_name(const Study& study, int source) {
    auto k = static_cast<std::size_t>(source);
    if (k < study.supports.size()) return "support." + study.supports[k].name;
    k -= study.supports.size();
    if (k < study.periodic.size()) return "periodic." + study.periodic[k].name;
    k -= study.periodic.size();
    return "remote." + study.remotes[k].name;
}

std::vector<ConstraintRow> displacement_rows(const Mesh& mesh, const Study& study, const std::vector<CaseSpec>& cases) {
    std::vector<ConstraintRow> rows;
    const FieldLayout layout = displacement_layout(mesh, study);
    SupportRows supports(mesh, study, cases, rows);
    for (std::size_t s = 0; s < study.supports.size(); ++s) supports.add(study.supports[s], static_cast<int>(s));
    for (std::size_t p = 0; p < study.periodic.size(); ++p) {
        const auto& spec = study.periodic[p];
        const int source = static_cast<int>(study.supports.size() + p);
        for (const auto& partner : partners(mesh, spec, study))
            for (int c = 0; c < 2; ++c) {
                ConstraintRow row{{{layout.dof(partner.node, c), 1.0}},
                                  in_cases(spec.jump[static_cast<std::size_t>(c)], spec.name, cases),
                                  source};
                if (at_centre(partner)) {  // a point that is its own image does not move
                    rows.push_back(std::move(row));
                    continue;
                }
                for (const auto& [n, w] : partner.of)
                    for (std::size_t d = 0; d < 2; ++d) {
                        Vec2 unit;
                        unit[d] = 1;
                        const double share = spec.turned(unit)[static_cast<std::size_t>(c)];
                        if (share != 0) row.terms.emplace_back(layout.dof(n, static_cast<int>(d)), -w * share);
                    }
                rows.push_back(std::move(row));
            }
    }
    if (study.plane == Plane::axisymmetric) hold_axis(mesh, layout, cases.size(), rows);
    if (study.plane == Plane::generalised_strain) hold_tilt(mesh, study, cases.size(), rows);
    if (!study.remotes.empty()) {
        const Laws laws = laws_of(study, mesh.region_names);
        for (std::size_t r = 0; r < study.remotes.size(); ++r) add_remote(mesh, study, laws, r, cases, rows);
    }
    return rows;
}

std::vector<ConstraintRow> potential_rows(const Mesh& mesh, const Study& study, const std::vector<CaseSpec>& cases) {
    std::vector<ConstraintRow> rows;
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const auto& support = study.supports[s];
        if (!support.potential) continue;
        const FormulaEvaluator value(*support.potential, study.path.string());
        std::map<std::int32_t, Vec2> held;  // slots with their normals
        if (support.at) {
            held[static_cast<std::int32_t>(nearest_node<2>(mesh, in_plane(*support.at)))] = {};
        } else {
            const Meant meant(mesh, support.on);
            for (const auto& side : mesh.boundary) {
                if (!meant.side(side)) continue;
                for (std::size_t i = 0; i < side.count(); ++i)
                    held.try_emplace(slot_of(mesh, static_cast<std::size_t>(side.element), side.nodes[i]),
                                     normal_at(mesh, side, i));
            }
        }
        for (const auto& [slot, normal] : held) {
            const Vec2& p = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[static_cast<std::size_t>(slot)])];
            rows.push_back(
                {{{slot, 1.0}}, in_cases(value({p, normal, support.about}), support.name, cases), static_cast<int>(s)});
        }
    }
    tie_slots(mesh, mesh.nodes.size(), study.resistances, cases.size(), rows);
    for (std::size_t p = 0; p < study.periodic.size(); ++p) {
        const auto& spec = study.periodic[p];
        for (const auto& partner : partners(mesh, spec, study)) {
            if (at_centre(partner)) continue;
            ConstraintRow row{{{partner.node, 1.0}},
                              in_cases(spec.potential_jump, spec.name, cases),
                              static_cast<int>(study.supports.size() + p)};
            for (const auto& [n, w] : partner.of) row.terms.emplace_back(n, -w);
            rows.push_back(std::move(row));
        }
    }
    return rows;
}

Constraints constraints_of(const FieldLayout& layout, const std::vector<ConstraintRow>& rows, std::size_t cases,
                           const Mesh& mesh, const Study& study) {
    return eliminate(layout.dofs, cases, rows, [&](std::size_t row, std::size_t earlier) {
        const auto& r = rows[row];
        const int a = std::max(rows[earlier].source, 0), b = std::max(r.source, 0);
        const auto second = static_cast<std::size_t>(b);
        Place place = place_in(study.path, second < study.supports.size() ? study.supports[second].where : Where{});
        const auto node = static_cast<std::size_t>(r.terms.front().first / layout.components);
        if (layout.components == 2 && node < mesh.nodes.size()) place.position = mesh.nodes[node];
        if (layout.components == 1 && node < mesh.node_of_slot.size())
            place.position = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[node])];
        const char* what = layout.components == 2 ? "displacements" : "potentials";
        const bool by_itself = std::min(rows[earlier].source, r.source) < 0;
        if (by_itself && layout.components == 2 && (rows[earlier].source >= 0 || r.source >= 0))
            throw InputError(fmt::format("{} moves points of the axis of revolution along the radius",
                                         source_name(study, std::max(rows[earlier].source, r.source))),
                             place, "the radial displacement there is 0; let the support end before the axis");
        throw InputError(a == b ? fmt::format("{} contradicts itself: it gives the same point different {}",
                                              source_name(study, b), what)
                                : fmt::format("{} and {} contradict each other: they give the same point different {}",
                                              source_name(study, a), source_name(study, b), what),
                         place, "let only one of them hold that direction there");
    });
}

}  // namespace dotsift
