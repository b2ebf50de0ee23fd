#include "solve/acting/acting_loads.hpp"

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "mesh/side_views.hpp"

namespace dotsift {

namespace {

// A side whose radius is a smaller share of its length lies on the axis.
constexpr double on_axis = 1e-6;

// Directions with a smaller sine between them are one.
constexpr double parallel = 1e-9;

/// Directions of a traction that nothing holds: both, one or none; zero vectors: none.
using Free = std::array<Vec2, 2>;
constexpr Free both_free{{{{1, 0}}, {{0, 1}}}};

Free common(const Free& a, const Free& b) {
    if (a[1] != Vec2{}) return b;
    if (b[1] != Vec2{} || a[0] == Vec2{}) return a;
    if (b[0] == Vec2{}) return b;
    return std::fabs(cross(a[0], b[0])) <= parallel * norm(a[0]) * norm(b[0]) ? a : Free{};
}

Free left_free_by(const SupportSpec& s, const Vec2& normal) {
    if (s.founded()) return {};
    const Free tangent{{turned_left(normal), {}}};
    switch (s.hold) {
        case Hold::fixed:
            return {};
        case Hold::symmetry:
            return tangent;
        case Hold::antisymmetry:
            return {{normal, {}}};
        default:
            break;
    }
    Free free = both_free;
    if (s.displacement[0]) free = common(free, {{both_free[1], {}}});
    if (s.displacement[1]) free = common(free, {{both_free[0], {}}});
    if (s.normal_displacement) free = common(free, tangent);
    return free;
}

}  // namespace

ActingLoads::ActingLoads(const Mesh& mesh, const Study& study, const Laws& laws, const std::string& load_case) {
    const auto cases = study.cases_to_solve();
    const auto found = std::find_if(cases.begin(), cases.end(), [&](const CaseSpec& c) { return c.name == load_case; });
    if (found == cases.end()) throw InputError("no load case is named \"" + load_case + "\"");
    const std::string file = study.path.string();
    std::vector<Part> on_outline;
    for (const auto& load : study.loads) {
        if (load.kind == LoadKind::point || load.kind == LoadKind::temperature_change) continue;
        const double factor = load.kind == LoadKind::transfer ? found->of_other(load.name) : found->of_load(load.name);
        if (factor == 0 && load.kind != LoadKind::transfer) continue;
        (is_in_volume(load.kind) ? inside_ : on_outline).push_back({LoadDensity(mesh, load, laws, file), factor});
    }
    fill_sides(mesh, study, laws, *found, on_outline, true);
}

ActingLoads::ActingLoads(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<char>& marked) {
    // Of the loads only what answers the potential is left: the transfer.
    std::vector<Part> transfers;
    for (const auto& load : study.loads)
        if (load.kind == LoadKind::transfer)
            transfers.push_back({LoadDensity(mesh, load, laws, study.path.string()), 0});
    fill_sides(mesh, study, laws, {}, transfers, false);
    const auto all_marked = [&](auto first, auto last) {
        return std::all_of(first, last, [&](auto n) { return n < 0 || marked[static_cast<std::size_t>(n)]; });
    };
    unknown_.resize(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        unknown_[e] = all_marked(nodes.begin(), nodes.end());
    }
    for (auto& s : sides_) {
        const auto e = static_cast<std::size_t>(s.element);
        std::array<std::int32_t, 3> nodes{-1, -1, -1};
        const auto& local = side_nodes(mesh.kinds[e], s.side);
        for (std::size_t i = 0; i < local.size(); ++i) nodes[i] = mesh.element(e)[local[i]];
        if (!all_marked(nodes.begin(), nodes.end())) continue;
        s.known = {};
        s.flux_known = false;
    }
}

void ActingLoads::fill_sides(const Mesh& mesh, const Study& study, const Laws& laws, const CaseSpec& load_case,
                             const std::vector<Part>& on_outline, bool remote_forces) {
    std::vector<MeanMotion> means;
    for (const auto& r : study.remotes) means.push_back(r.rigid ? MeanMotion{} : mean_motion<2>(mesh, r.on, laws));
    std::vector<Meant> on_supports, on_pairs, on_remotes;
    for (const auto& s : study.supports) on_supports.emplace_back(mesh, s.on);
    for (const auto& p : study.periodic) on_pairs.emplace_back(mesh, std::vector{p.between[0], p.between[1]});
    for (const auto& r : study.remotes) on_remotes.emplace_back(mesh, r.on);
    const auto is_outer = [&](const BoundarySide& side) { return !beyond(mesh, side); };
    sides_.reserve(static_cast<std::size_t>(std::count_if(mesh.boundary.begin(), mesh.boundary.end(), is_outer)));
    for (const auto& side : mesh.boundary) {
        if (!is_outer(side)) continue;  // the part's inner edges are in that list, too
        SideLoad& s = sides_.emplace_back();
        s.element = side.element;
        s.side = side.side;
        s.points = side_points(mesh, side);
        s.known.fill(both_free);
        for (std::size_t n = 0; n < study.supports.size(); ++n) {
            const auto& support = study.supports[n];
            if (support.at || !on_supports[n].side(side)) continue;
            for (std::size_t k = 0; k < 5 && support.mechanical(); ++k)
                s.known[k] = common(s.known[k], left_free_by(support, s.points[k].normal));
            if (support.potential) s.flux_known = false;
        }
        if (std::any_of(on_pairs.begin(), on_pairs.end(), [&](const Meant& p) { return p.side(side); })) {
            s.known = {};
            s.flux_known = false;
        }
        for (std::size_t r = 0; r < study.remotes.size(); ++r) {
            const auto& remote = study.remotes[r];
            if (!on_remotes[r].side(side)) continue;
            if (remote.rigid || remote.motion[0] || remote.motion[1] || remote.motion[2]) {
                s.known = {};
                continue;
            }
            if (!remote_forces) continue;
            const Vec2 force{{remote.force[0], remote.force[1]}};
            const double factor = load_case.of_other(remote.name),
                         moment = remote.moment + cross(remote.at - means[r].centre, force);
            for (std::size_t k = 0; k < 5; ++k)
                s.traction[k] += (force / means[r].area +
                                  turned_left(s.points[k].position - means[r].centre) * (moment / means[r].inertia)) *
                                 factor;
        }
        for (const auto& load : on_outline) {
            if (!load.density.acts_on(side)) continue;
            for (std::size_t k = 0; k < 5; ++k) {
                const auto d = load.density.at(s.points[k]);
                s.traction[k] += d.force * load.factor;
                s.flux[k] += d.flow * load.factor;
                s.transfer[k] += d.transfer;
            }
        }
        // On the axis of revolution there is no surface; all that is known is that nothing shears there.
        if (laws.axisymmetric() && s.points[0].position[0] + s.points[4].position[0] <= on_axis * s.points[0].length)
            for (std::size_t k = 0; k < 5; ++k)
                s.known[k] = common(s.known[k], {{turned_left(s.points[k].normal), {}}});
    }
}

LoadDensity::Density ActingLoads::inside(std::size_t e, const ElementPoint& p) const {
    LoadDensity::Density sum;
    for (const auto& part : inside_) {
        if (!part.density.acts_in(e)) continue;
        const auto d = part.density.at(e, p);
        sum.force += d.force * part.factor;
        sum.flow += d.flow * part.factor;
    }
    return sum;
}

}  // namespace dotsift
