#include "solve/acting/load_density.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// A spread whose integral is this small beside the integral of its magnitude cannot be scaled to a total.
constexpr double vanishing_spread = 1e-9;

}  // namespace

LoadDensity::LoadDensity(const Mesh& mesh, const LoadSpec& load, const Laws& laws, const std::string& file)
    : mesh_(mesh), load_(load), laws_(laws), meant_(mesh, load.on) {
    for (std::size_t axis = 0; axis < 2; ++axis)
        if (!load.components[axis].text.empty()) value_[axis].emplace(load.components[axis], file);
    if (load.spread) spread_.emplace(*load.spread, file);
    if (is_in_volume(load.kind)) return;
    double size = 0;
    for (const auto& side : mesh.boundary) {
        if (!acts_on(side)) continue;
        const auto region = mesh.region[static_cast<std::size_t>(side.element)];
        for (const auto& p : side_points(mesh, side)) {
            const double area = p.length * laws.depth(region, p.position);
            const double w = spread_ ? (*spread_)({p.position, p.normal, load.about}) : 1.0;
            total_spread_ += w * area;
            size += std::fabs(w) * area;
            area_ += area;
        }
    }
    if ((load.kind == LoadKind::force || load.kind == LoadKind::flow) &&
        std::fabs(total_spread_) <= vanishing_spread * size) {
        Place place = place_in(file, load.where);
        place.boundary = load.name;
        throw InputError(
            fmt::format("load.{}: the spread sums to zero over its boundary, so it cannot carry a total", load.name),
            place, "use a spread that is positive somewhere");
    }
    if (load.kind == LoadKind::moment) mean_ = mean_motion(mesh, load.on, laws);
}

bool LoadDensity::acts_on(const BoundarySide& side) const {
    return !is_in_volume(load_.kind) && meant_.side(side);
}

bool LoadDensity::acts_in(std::size_t e) const {
    return is_in_volume(load_.kind) && (load_.on.empty() || meant_.element(e));
}

double LoadDensity::share(const FormulaPlace& place) const {
    return (spread_ ? (*spread_)(place) : 1.0) / total_spread_;
}

LoadDensity::Density LoadDensity::at(const SidePoint& p) const {
    const FormulaPlace place{p.position, p.normal, load_.about};
    Density d;
    switch (load_.kind) {
        case LoadKind::traction:
            d.force = {{(*value_[0])(place), (*value_[1])(place)}};
            break;
        case LoadKind::pressure:
            d.force = p.normal * -(*value_[0])(place);
            break;
        case LoadKind::force:
            d.force = Vec2{{(*value_[0])(place), (*value_[1])(place)}} * share(place);
            break;
        case LoadKind::moment:
            d.force = turned_left(p.position - mean_.centre) * ((*value_[0])(place) / mean_.inertia);
            break;
        case LoadKind::flux:
            d.flow = (*value_[0])(place);
            break;
        case LoadKind::flow:
            d.flow = (*value_[0])(place)*share(place);
            break;
        case LoadKind::transfer:
            d.transfer = (*value_[0])(place);
            d.flow = d.transfer * (*value_[1])(place);
            break;
        default:
            break;
    }
    return d;
}

LoadDensity::Density LoadDensity::at(std::size_t e, const ElementPoint& p) const {
    const FormulaPlace place{p.position, {}, load_.about};
    const double density = laws_.of(mesh_.region[e]).density;
    Density d;
    switch (load_.kind) {
        case LoadKind::body:
            d.force = {{(*value_[0])(place), (*value_[1])(place)}};
            break;
        case LoadKind::gravity:
            d.force = Vec2{{(*value_[0])(place), (*value_[1])(place)}} * density;
            break;
        case LoadKind::rotation: {
            const double w = (*value_[0])(place);
            const Vec2 arm = laws_.axisymmetric() ? Vec2{{p.position[0], 0}} : p.position - load_.about;
            d.force = arm * (density * w * w);
            break;
        }
        case LoadKind::source:
            d.flow = (*value_[0])(place);
            break;
        default:
            break;
    }
    return d;
}

}  // namespace dotsift
