#include "solve/loads.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.hpp"
#include "solve/side_geometry.hpp"

namespace dotsift {

namespace {

// A spread whose integral is this small beside the integral of its magnitude cannot be scaled to a total.
constexpr double vanishing_spread = 1e-9;

/// Calls act(side, point) at every quadrature point of a load's boundary.
template <class Act>
void over_boundary(const Mesh& mesh, const LoadSpec& load, Act act) {
    for (const auto& side : mesh.boundary) {
        if (!mesh.side_fits(side, load.on)) continue;
        for (const auto& p : side_points(mesh, side)) act(side, p);
    }
}

}  // namespace

NodalLoads nodal_loads(const Mesh& mesh, const Study& study) {
    NodalLoads out;
    out.force.resize(mesh.nodes.size());
    const std::string file = study.path.string();
    for (const auto& load : study.loads) {
        LoadTotal total;
        total.name = load.name;
        std::optional<FormulaEvaluator> spread;
        if (load.spread) spread.emplace(*load.spread, file);
        double spread_total = 0, spread_size = 0;
        over_boundary(mesh, load, [&](const BoundarySide&, const SidePoint& p) {
            const double w = spread ? (*spread)({p.position, p.normal, load.about}) : 1.0;
            spread_total += w * p.length;
            spread_size += std::fabs(w) * p.length;
            total.boundary_area += p.length * study.thickness;
        });
        if (load.kind == LoadKind::force && std::fabs(spread_total) <= vanishing_spread * spread_size) {
            Place place;
            place.file = file;
            place.line = load.where.line;
            place.column = load.where.column;
            place.boundary = load.name;
            throw InputError(
                fmt::format("load.{}: the spread sums to zero over its boundary, so it cannot carry a total force",
                            load.name),
                place, "use a spread that is positive somewhere");
        }
        std::array<std::optional<FormulaEvaluator>, 2> value;
        for (std::size_t axis = 0; axis < (load.kind == LoadKind::pressure ? 1U : 2U); ++axis)
            value[axis].emplace(load.components[axis], file);
        over_boundary(mesh, load, [&](const BoundarySide& side, const SidePoint& p) {
            const FormulaPlace place{p.position, p.normal, load.about};
            Vec2 f;
            switch (load.kind) {
                case LoadKind::traction:
                    f = Vec2{{(*value[0])(place), (*value[1])(place)}} * study.thickness;
                    break;
                case LoadKind::pressure:
                    f = p.normal * (-(*value[0])(place)*study.thickness);
                    break;
                case LoadKind::force:
                    f = Vec2{{(*value[0])(place), (*value[1])(place)}} *
                        ((spread ? (*spread)(place) : 1.0) / spread_total);
                    break;
            }
            f *= p.length;
            total.force += f;
            total.moment += cross(p.position, f);
            for (std::size_t i = 0; i < side.count(); ++i)
                out.force[static_cast<std::size_t>(side.nodes[i])] += f * p.n[i];
        });
        out.totals.push_back(std::move(total));
    }
    return out;
}

}  // namespace dotsift
