#include "solve/acting/solid_loads.hpp"

#include <cmath>
#include <optional>

#include "mesh/side_meeting.hpp"
#include "solve/acting/solid_sides.hpp"
#include "solve/solid_problem.hpp"

namespace dotsift {

namespace {

/// Makes the forces of one load with factor 1, and adds them to every case with the factor there.
class SolidLoadMaker {
  public:
    SolidLoadMaker(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                   const std::vector<CaseSpec>& cases)
        : mesh_(mesh), study_(study), layout_(layout), cases_(cases) {
        out_.force.assign(cases.size(), std::vector<double>(static_cast<std::size_t>(layout.dofs), 0.0));
        out_.totals.resize(cases.size());
    }

    void add(const LoadSpec& load) {
        const bool mechanical = is_mechanical(load.kind);
        LoadTotal total;
        total.name = load.name;
        std::array<std::optional<FormulaEvaluator>, 3> value;
        for (std::size_t c = 0; c < 3; ++c)
            if (!load.components[c].text.empty())
                value[c].emplace(load.components[c], study_.path.string(), space_names());
        const Vec3 about = in_space(load.about);
        const auto at = [&](std::size_t c, const Vec3& x, const Vec3& n) {
            return value[c] ? (*value[c])(FormulaPlaceIn<3>{x, n, about}) : 0.0;
        };
        std::vector<double> now;
        if (is_in_volume(load.kind)) {
            const Meant meant(mesh_, load.on);
            std::vector<double> densities;  // of mass, by region
            if (load.kind == LoadKind::gravity)
                for (const auto& region : mesh_.region_names) {
                    const MaterialSpec* material = material_of(study_, region);
                    densities.push_back(material ? material->density.value_or(0) : 0);
                }
            now = solid_body_forces(
                mesh_, layout_,
                [&](std::size_t e, const Vec3& x, std::span<double> density) {
                    const double mass = densities.empty() ? 1 : densities[static_cast<std::size_t>(mesh_.region[e])];
                    for (std::size_t c = 0; c < density.size(); ++c) density[c] = mass * at(c, x, {});
                },
                [&](std::size_t e) { return load.on.empty() || meant.element(e); });
        } else {
            const Meant meant(mesh_, load.on);
            const auto acts = [&](const BoundarySide& side) { return meant.side(side); };
            double area = 0;
            for (const auto& side : mesh_.boundary)
                if (acts(side))
                    for (const auto& p : points_on_side(mesh_, {side.element, side.side})) area += p.weight;
            total.boundary_area = area;
            const bool whole = load.kind == LoadKind::force || load.kind == LoadKind::flow;
            now = solid_side_forces(mesh_, layout_, acts, [&](const Vec3& x, const Vec3& n, std::span<double> density) {
                for (std::size_t c = 0; c < density.size(); ++c)
                    density[c] =
                        load.kind == LoadKind::pressure ? -at(0, x, n) * n[c] : at(c, x, n) / (whole ? area : 1);
            });
        }
        for (std::size_t n = 0; n < now.size() / static_cast<std::size_t>(layout_.components); ++n) {
            if (!mechanical) {
                total.flow += now[n];
                total.magnitude += std::fabs(now[n]);
                continue;
            }
            const Vec3 f{{now[3 * n], now[3 * n + 1], now[3 * n + 2]}};
            total.force += f;
            total.moment += cross(mesh_.nodes[n], f);
            total.magnitude += norm(f);
        }
        for (std::size_t c = 0; c < cases_.size(); ++c) {
            const double f = cases_[c].of_load(load.name);
            for (std::size_t d = 0; d < now.size(); ++d) out_.force[c][d] += f * now[d];
            out_.totals[c].push_back(total.times(f));
        }
    }

    SolidLoads take() { return std::move(out_); }

  private:
    const SolidMesh& mesh_;
    const Study& study_;
    const FieldLayout& layout_;
    const std::vector<CaseSpec>& cases_;
    SolidLoads out_;
};

SolidLoads all_loads(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                     const std::vector<CaseSpec>& cases, bool mechanical) {
    SolidLoadMaker maker(mesh, study, layout, cases);
    for (const auto& load : study.loads)
        if (is_mechanical(load.kind) == mechanical && load.kind != LoadKind::temperature_change) maker.add(load);
    return maker.take();
}

}  // namespace

SolidLoads solid_forces(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                        const std::vector<CaseSpec>& cases) {
    return all_loads(mesh, study, layout, cases, true);
}

SolidLoads solid_flows(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                       const std::vector<CaseSpec>& cases) {
    return all_loads(mesh, study, layout, cases, false);
}

}  // namespace dotsift
