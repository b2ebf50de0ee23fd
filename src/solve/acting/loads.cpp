#include "solve/acting/loads.hpp"

#include <cmath>

#include "solve/acting/load_density.hpp"
#include "solve/acting/supports.hpp"

namespace dotsift {

namespace {

// Formulas in the volume are integrated as if they were polynomials of this degree less the element's.
constexpr int volume_degree = 6;

/// A moment, and that of a force at a place, among those of space.
Vec3 moment_of(const Vec2& at, const Vec2& force) {
    return moment_in_space(cross(at, force));
}
Vec3 moment_of(const Vec3& at, const Vec3& force) {
    return cross(at, force);
}

/// Makes the forces of one load with factor 1, and adds them to every case with the factor there.
template <int D>
class LoadMaker {
  public:
    LoadMaker(const MeshIn<D>& mesh, const Study& study, const LawsIn<D>& laws, const FieldLayout& layout,
              const std::vector<CaseSpec>& cases)
        : mesh_(mesh), laws_(laws), layout_(layout), cases_(cases), file_(study.path.string()) {
        out_.force.assign(cases.size(), std::vector<double>(static_cast<std::size_t>(layout.dofs), 0.0));
        out_.totals.resize(cases.size());
        out_.inner.resize(cases.size());
        if constexpr (D == 2) has_inner_ = layout.components == 2 && any_projects_volume(mesh, laws);
    }

    void add(const LoadSpec& load) {
        load_ = &load;
        total_ = {};
        total_.name = load.name;
        now_.assign(static_cast<std::size_t>(layout_.dofs), 0.0);
        if (load.kind == LoadKind::point)
            at_point();
        else if (is_in_volume(load.kind))
            in_volume();
        else
            on_boundary();
        for (std::size_t c = 0; c < cases_.size(); ++c) {
            const double f =
                load.kind == LoadKind::transfer ? cases_[c].of_other(load.name) : cases_[c].of_load(load.name);
            for (std::size_t d = 0; d < now_.size(); ++d) out_.force[c][d] += f * now_[d];
            out_.totals[c].push_back(total_.times(f));
        }
    }

    void add_remote(const RemoteSpec& remote, std::size_t index) {
        const Vec2 force{{remote.force[0], remote.force[1]}};
        if (force == Vec2{} && remote.moment == 0) return;
        total_ = {};
        total_.name = remote.name;
        total_.force = in_space(force);
        total_.moment = moment_in_space(remote.moment + cross(remote.at, force));
        total_.magnitude = norm(force) + std::fabs(remote.moment) / arm_of(mesh_);
        now_.assign(static_cast<std::size_t>(layout_.dofs), 0.0);
        if (remote.rigid) {
            const auto first = static_cast<std::size_t>(remote_dof(layout_, index));
            now_[first] = force[0];
            now_[first + 1] = force[1];
            now_[first + 2] = remote.moment / arm_of(mesh_);
        } else {
            // The traction that does the same work as the force and moment do on the mean motion.
            const MeanMotion mean = mean_motion<2>(mesh_, remote.on, laws_);
            const double moment = remote.moment + cross(remote.at - mean.centre, force);
            for (std::size_t i = 0; i < mean.weight.size(); ++i) {
                const auto n = static_cast<std::size_t>(mean.weight[i].first);
                const Vec2 f =
                    force * (mean.weight[i].second / mean.area) + turned_left(mean.lever[i]) * (moment / mean.inertia);
                add_at(now_, n, f);
            }
        }
        for (std::size_t c = 0; c < cases_.size(); ++c) {
            const double f = cases_[c].of_other(remote.name);
            for (std::size_t d = 0; d < now_.size(); ++d) out_.force[c][d] += f * now_[d];
            out_.totals[c].push_back(total_.times(f));
        }
    }

    NodalLoads take() { return std::move(out_); }

  private:
    void at_point() {
        const std::size_t node = nearest_node<D>(mesh_, place_in_mesh<D>(*load_->at));
        Vec<D> f;
        for (std::size_t c = 0; c < f.size(); ++c) f[c] = load_->components[c].constant.value_or(0);
        add_at(now_, node, f);
        count(f, 0, mesh_.nodes[node]);
    }

    /// Adds to the totals.
    void count(const Vec<D>& f, double flow, const Vec<D>& position) {
        total_.force += in_space(f);
        total_.moment += moment_of(position, f);
        total_.flow += flow;
        total_.magnitude += norm(f) + std::fabs(flow);
    }

    void on_boundary() {
        const LoadDensityIn<D> density(mesh_, *load_, laws_, file_);
        total_.boundary_area = density.area();
        for (const auto& side : mesh_.boundary) {
            if (!density.acts_on(side)) continue;
            const std::size_t nodes = count_on_side(mesh_, side);
            for (const auto& p : load_points(mesh_, side)) {
                const double area = area_at(mesh_, laws_, side, p);
                const auto d = density.at(p);
                const Vec<D> f = d.force * area;
                const double flow = d.flow * area;
                count(f, flow, p.position);
                for (std::size_t i = 0; i < nodes; ++i) {
                    const auto n = static_cast<std::size_t>(
                        number_on_side(mesh_, layout_.connectivity, side.element, side.side, i));
                    if (is_mechanical(load_->kind))
                        add_at(now_, n, f * p.n[i]);
                    else
                        now_[n] += flow * p.n[i];
                }
            }
        }
    }

    void in_volume() {
        if (has_inner_) inner_.assign(mesh_.element_count(), {});
        const LoadDensityIn<D> density(mesh_, *load_, laws_, file_);
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            if (!density.acts_in(e)) continue;
            const ElementKind kind = mesh_.kinds[e];
            const auto positions = mesh_.positions(e);
            bool bubble = false;
            if constexpr (D == 2) bubble = has_inner_ && corner_count(kind) == 3 && projects_volume(mesh_, laws_, e);
            const auto nodes = layout_.connectivity.subspan(static_cast<std::size_t>(mesh_.first[e]));
            for (const auto& q : tabulated<D>(kind, quadrature<D>(kind, volume_degree))) {
                const auto p = evaluate<D>(kind, positions, q);
                const double volume = q.weight * p.jacobian * laws_.depth(mesh_.region[e], p.position);
                const auto d = density.at(e, p);
                const Vec<D> f = d.force * volume;
                const double flow = d.flow * volume;
                if constexpr (D == 2)
                    if (bubble) inner_[e] += f * bubble_at(p).value;
                count(f, flow, p.position);
                for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
                    const auto n = static_cast<std::size_t>(nodes[i]);
                    if (layout_.components == 1)
                        now_[n] += flow * p.n[i];
                    else
                        add_at(now_, n, f * p.n[i]);
                }
            }
        }
        if (!has_inner_) return;
        for (std::size_t c = 0; c < cases_.size(); ++c) {
            out_.inner[c].resize(inner_.size());
            for (std::size_t e = 0; e < inner_.size(); ++e)
                out_.inner[c][e] += inner_[e] * cases_[c].of_load(load_->name);
        }
    }

    const MeshIn<D>& mesh_;
    const LawsIn<D>& laws_;
    const FieldLayout& layout_;
    const std::vector<CaseSpec>& cases_;
    std::string file_;
    NodalLoads out_;
    const LoadSpec* load_ = nullptr;
    LoadTotal total_;
    std::vector<double> now_;
    bool has_inner_ = false;
    std::vector<Vec2> inner_;
};

}  // namespace

namespace {

/// Of all loads of one of the two equations.
template <int D>
void add_loads(const Study& study, bool mechanical, LoadMaker<D>& maker) {
    for (const auto& load : study.loads)
        if (is_mechanical(load.kind) == mechanical && load.kind != LoadKind::temperature_change) maker.add(load);
}

}  // namespace

NodalLoads nodal_forces(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases) {
    const FieldLayout layout = displacement_layout(mesh, study);
    LoadMaker<2> maker(mesh, study, laws, layout, cases);
    add_loads(study, true, maker);
    for (std::size_t r = 0; r < study.remotes.size(); ++r) maker.add_remote(study.remotes[r], r);
    return maker.take();
}

NodalLoads nodal_flows(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases) {
    const FieldLayout layout = potential_layout(mesh);
    LoadMaker<2> maker(mesh, study, laws, layout, cases);
    add_loads(study, false, maker);
    return maker.take();
}

NodalLoads nodal_loads(const SolidMesh& mesh, const Study& study, const SolidLaws& laws, const FieldLayout& layout,
                       const std::vector<CaseSpec>& cases) {
    LoadMaker<3> maker(mesh, study, laws, layout, cases);
    add_loads(study, layout.components == 3, maker);
    return maker.take();
}

}  // namespace dotsift
