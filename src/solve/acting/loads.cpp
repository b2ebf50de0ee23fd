#include "solve/acting/loads.hpp"

#include <cmath>

#include "solve/acting/load_density.hpp"
#include "solve/acting/supports.hpp"

namespace dotsift {

namespace {

// Formulas in the volume are integrated as if they were polynomials of this degree less the element's.
constexpr int volume_degree = 6;

/// Makes the forces of one load with factor 1, and adds them to every case with the factor there.
class LoadMaker {
  public:
    LoadMaker(const Mesh& mesh, const Study& study, const Laws& laws, const FieldLayout& layout,
              const std::vector<CaseSpec>& cases)
        : mesh_(mesh), laws_(laws), layout_(layout), cases_(cases), file_(study.path.string()) {
        out_.force.assign(cases.size(), std::vector<double>(static_cast<std::size_t>(layout.dofs), 0.0));
        out_.totals.resize(cases.size());
        out_.inner.resize(cases.size());
        has_inner_ = layout.components == 2 && any_projects_volume(mesh, laws);
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
            const MeanMotion mean = mean_motion(mesh_, remote.on, laws_);
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
    void put_force(std::int32_t node, const Vec2& f, const Vec2& position) {
        add_at(now_, static_cast<std::size_t>(node), f);
        total_.force += in_space(f);
        total_.moment += moment_in_space(cross(position, f));
        total_.magnitude += norm(f);
    }

    void at_point() {
        std::size_t nearest = 0;
        for (std::size_t n = 1; n < mesh_.nodes.size(); ++n)
            if (distance(mesh_.nodes[n], *load_->at) < distance(mesh_.nodes[nearest], *load_->at)) nearest = n;
        put_force(static_cast<std::int32_t>(nearest),
                  {{*load_->components[0].constant, *load_->components[1].constant}}, mesh_.nodes[nearest]);
    }

    void on_boundary() {
        const LoadDensity density(mesh_, *load_, laws_, file_);
        total_.boundary_area = density.area();
        for (const auto& side : mesh_.boundary) {
            if (!density.acts_on(side)) continue;
            const auto e = static_cast<std::size_t>(side.element);
            const auto slots = mesh_.slots_of(e);
            const auto local = side_nodes(mesh_.kinds[e], side.side);
            for (const auto& p : side_points(mesh_, side)) {
                const double area = p.length * laws_.depth(mesh_.region[e], p.position);
                const LoadDensity::Density d = density.at(p);
                const Vec2 f = d.force * area;
                const double flow = d.flow * area;
                total_.force += in_space(f);
                total_.moment += moment_in_space(cross(p.position, f));
                total_.flow += flow;
                total_.magnitude += norm(f) + std::fabs(flow);
                for (std::size_t i = 0; i < side.count(); ++i) {
                    if (is_mechanical(load_->kind)) {
                        for (std::size_t c = 0; c < 2; ++c)
                            now_[2 * static_cast<std::size_t>(side.nodes[i]) + c] += f[c] * p.n[i];
                    } else {
                        now_[static_cast<std::size_t>(slots[local[i]])] += flow * p.n[i];
                    }
                }
            }
        }
    }

    void in_volume() {
        if (has_inner_) inner_.assign(mesh_.element_count(), {});
        const LoadDensity density(mesh_, *load_, laws_, file_);
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            if (!density.acts_in(e)) continue;
            const ElementKind kind = mesh_.kinds[e];
            const auto positions = mesh_.positions(e);
            const bool bubble = has_inner_ && corner_count(kind) == 3 && projects_volume(mesh_, laws_, e);
            const auto nodes = layout_.connectivity.subspan(static_cast<std::size_t>(mesh_.first[e]));
            for (const auto& q : tabulated(kind, quadrature(kind, volume_degree))) {
                const ElementPoint p = evaluate(kind, positions, q);
                const double volume = q.weight * p.jacobian * laws_.depth(mesh_.region[e], p.position);
                const LoadDensity::Density d = density.at(e, p);
                const Vec2 f = d.force * volume;
                const double flow = d.flow * volume;
                if (bubble) inner_[e] += f * bubble_at(p).value;
                total_.flow += flow;
                total_.magnitude += norm(f) + std::fabs(flow);
                total_.force += in_space(f);
                total_.moment += moment_in_space(cross(p.position, f));
                for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
                    const auto n = static_cast<std::size_t>(nodes[i]);
                    if (layout_.components == 1) {
                        now_[n] += flow * p.n[i];
                        continue;
                    }
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

    const Mesh& mesh_;
    const Laws& laws_;
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

NodalLoads nodal_forces(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases) {
    const FieldLayout layout = displacement_layout(mesh, study);
    LoadMaker maker(mesh, study, laws, layout, cases);
    for (const auto& load : study.loads)
        if (is_mechanical(load.kind) && load.kind != LoadKind::temperature_change) maker.add(load);
    for (std::size_t r = 0; r < study.remotes.size(); ++r) maker.add_remote(study.remotes[r], r);
    return maker.take();
}

NodalLoads nodal_flows(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases) {
    const FieldLayout layout = potential_layout(mesh);
    LoadMaker maker(mesh, study, laws, layout, cases);
    for (const auto& load : study.loads)
        if (!is_mechanical(load.kind)) maker.add(load);
    return maker.take();
}

}  // namespace dotsift
