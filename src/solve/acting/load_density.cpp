#include "solve/acting/load_density.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// A spread whose integral is this small beside the integral of its magnitude cannot be scaled to a total.
constexpr double vanishing_spread = 1e-9;

/// What a turn moves at a lever.
Vec2 moved(const Vec3& turn, const Vec2& lever) {
    return turned_left(lever) * turn[2];
}
Vec3 moved(const Vec3& turn, const Vec3& lever) {
    return cross(turn, lever);
}

/// From the axis of a rotation to a place.
Vec2 arm_from_axis(const Vec2& p, const LoadSpec& load, const Laws& laws) {
    return laws.axisymmetric() ? Vec2{{p[0], 0}} : p - load.about;
}
Vec3 arm_from_axis(const Vec3& p, const LoadSpec& load, const SolidLaws&) {
    const Vec3 along = (load.axis[1] - load.axis[0]) / norm(load.axis[1] - load.axis[0]), from = p - load.axis[0];
    return from - along * dot(from, along);
}

}  // namespace

template <int D>
LoadDensityIn<D>::LoadDensityIn(const MeshIn<D>& mesh, const LoadSpec& load, const LawsIn<D>& laws,
                                const std::string& file)
    : mesh_(mesh), load_(load), laws_(laws), meant_(mesh, load.on) {
    for (std::size_t axis = 0; axis < 3; ++axis)
        if (!load.components[axis].text.empty()) value_[axis].emplace(load.components[axis], file, names_of_place<D>());
    if (load.spread) spread_.emplace(*load.spread, file, names_of_place<D>());
    if (is_in_volume(load.kind)) return;
    double size = 0;
    for (const auto& side : mesh.boundary) {
        if (!acts_on(side)) continue;
        for (const auto& p : load_points(mesh, side)) {
            const double area = area_at(mesh, laws, side, p);
            const double w = spread_ ? (*spread_)({p.position, p.normal, origin_of<D>(load.about)}) : 1.0;
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
    if (load.kind != LoadKind::moment) return;
    mean_ = mean_motion<D>(mesh, load.on, laws);
    Vec3 moment{{0, 0, load.components[0].constant.value_or(0)}};
    if constexpr (D == 3)
        for (std::size_t c = 0; c < 3; ++c) moment[c] = load.components[c].constant.value_or(0);
    turn_ = mean_.turn_for(moment);
}

template <int D>
bool LoadDensityIn<D>::acts_on(const BoundarySide& side) const {
    return !is_in_volume(load_.kind) && meant_.side(side);
}

template <int D>
bool LoadDensityIn<D>::acts_in(std::size_t e) const {
    return is_in_volume(load_.kind) && (load_.on.empty() || meant_.element(e));
}

template <int D>
double LoadDensityIn<D>::share(const FormulaPlaceIn<D>& place) const {
    return (spread_ ? (*spread_)(place) : 1.0) / total_spread_;
}

template <int D>
Vec<D> LoadDensityIn<D>::vector_at(const FormulaPlaceIn<D>& place) const {
    Vec<D> v;
    for (std::size_t c = 0; c < v.size(); ++c)
        if (value_[c]) v[c] = (*value_[c])(place);
    return v;
}

template <int D>
typename LoadDensityIn<D>::Density LoadDensityIn<D>::at(const SidePointIn<D>& p) const {
    const FormulaPlaceIn<D> place{p.position, p.normal, origin_of<D>(load_.about)};
    Density d;
    switch (load_.kind) {
        case LoadKind::traction:
            d.force = vector_at(place);
            break;
        case LoadKind::pressure:
            d.force = p.normal * -(*value_[0])(place);
            break;
        case LoadKind::force:
            d.force = vector_at(place) * share(place);
            break;
        case LoadKind::moment:
            d.force = moved(turn_, p.position - mean_.centre);
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

template <int D>
typename LoadDensityIn<D>::Density LoadDensityIn<D>::at(std::size_t e, const ElementPointIn<D>& p) const {
    const FormulaPlaceIn<D> place{p.position, {}, origin_of<D>(load_.about)};
    const double density = laws_.of(mesh_.region[e]).density;
    Density d;
    switch (load_.kind) {
        case LoadKind::body:
            d.force = vector_at(place);
            break;
        case LoadKind::gravity:
            d.force = vector_at(place) * density;
            break;
        case LoadKind::rotation: {
            const double w = (*value_[0])(place);
            d.force = arm_from_axis(p.position, load_, laws_) * (density * w * w);
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

template class LoadDensityIn<2>;
template class LoadDensityIn<3>;

}  // namespace dotsift
