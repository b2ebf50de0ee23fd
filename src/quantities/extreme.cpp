#include "quantities/extreme.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "mesh/side_views.hpp"
#include "solve/element_matrix.hpp"

namespace dotsift {

namespace {

// Elements whose nodal values reach into this share of the field's range below the top are searched more finely.
constexpr double searched_share = 0.25;
// And those of solids whose lattice does into this one are climbed in.
constexpr double climbed_share = 0.05;
constexpr double side_step = 1.0 / 8, lattice_step = 1.0 / 4, smallest_step = 1.0 / 2048;

std::span<const QuadraturePoint> own_rule(const FieldSource& f, std::size_t e, std::vector<QuadraturePoint>& out) {
    const auto positions = f.mesh.positions(e);
    for (const auto& q : integration_points(f.mesh, f.laws, e, positions)) out.push_back({q.xi, q.weight});
    return out;
}
std::span<const QuadraturePointIn<3>> own_rule(const FieldSourceIn<3>& f, std::size_t e,
                                               std::vector<QuadraturePointIn<3>>&) {
    const ElementKind kind = f.mesh.kinds[e];
    const auto positions = f.mesh.positions(e);
    return stiffness_rule<3>(kind, is_straight(kind, positions));
}

/// Of the elements' own field: over regions every element, over boundaries those beside them.
template <int D>
ExtremeIn<D> extreme_of_elements(Field field, bool largest, const FieldSourceIn<D>& f,
                                 const std::vector<std::string>& on, const std::vector<std::string>& inside) {
    const MeshIn<D>& mesh = f.mesh;
    const double sign = largest ? 1 : -1;
    ExtremeIn<D> best{-INFINITY, {}, 0, {}};
    const auto look = [&](std::size_t e) {
        const auto positions = mesh.positions(e);
        const auto offer = [&](const Vec<D>& xi) {
            const auto p = evaluate<D>(mesh.kinds[e], positions, xi);
            const double v = sign * field_at(field, f, e, p);
            if (v > best.value) best = {v, p.position, e, xi};
        };
        if (f.origin == FieldOrigin::integration_points) {
            std::vector<QuadraturePointIn<D>> storage;
            for (const auto& q : own_rule(f, e, storage)) offer(q.xi);
            return;
        }
        for (std::size_t i = 0; i < mesh.element(e).size(); ++i) offer(reference_node<D>(mesh.kinds[e], i));
    };
    if (const RegionsOf regions(mesh, on); regions.any()) {
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            if (regions.has(e)) look(e);
    } else {
        for (const auto& view : side_views(mesh, on, inside)) look(view.element);
    }
    best.value *= sign;
    return best;
}

/// A place on a side: the share of its length, or its own reference coordinates.
template <int D>
using OnSide = std::conditional_t<D == 2, double, Vec2>;

Vec2 reference_at(const Mesh& mesh, const SideView& view, double t) {
    return view.at(mesh, t);
}
Vec3 reference_at(const SolidMesh& mesh, const SideView& view, const Vec2& at) {
    return reference_on_side(mesh.kinds[view.element], view.side, at);
}

/// Ways to go within a simplex or a cube.
template <int D>
auto directions() {
    if constexpr (D == 2) {
        return std::array{Vec2{{1, 0}}, Vec2{{-1, 0}}, Vec2{{0, 1}}, Vec2{{0, -1}}, Vec2{{1, -1}}, Vec2{{-1, 1}}};
    } else {
        return std::array{Vec3{{1, 0, 0}},  Vec3{{-1, 0, 0}}, Vec3{{0, 1, 0}},  Vec3{{0, -1, 0}},
                          Vec3{{0, 0, 1}},  Vec3{{0, 0, -1}}, Vec3{{1, -1, 0}}, Vec3{{-1, 1, 0}},
                          Vec3{{1, 0, -1}}, Vec3{{-1, 0, 1}}, Vec3{{0, 1, -1}}, Vec3{{0, -1, 1}}};
    }
}

/// From a place uphill in ever smaller steps, as far as the element, or its side, reaches; `value` is the one there,
/// and the best one at the end.
template <int D, class ValueAt>
Vec<D> climb(ElementKind kind, Vec<D> xi, double& value, ValueAt at) {
    for (double step = 0.5 * lattice_step; step > smallest_step; step *= 0.5)
        for (const Vec<D>& d : directions<D>()) {
            const Vec<D> next = xi + d * step;
            if (reference_outside(kind, next) > 0) continue;
            const double v = at(next);
            if (v > value) value = v, xi = next;
        }
    return xi;
}
template <class ValueAt>
double climb(double t, double& value, ValueAt at) {
    for (double step = 0.5 * side_step; step > smallest_step; step *= 0.5)
        for (const double next : {t - step, t + step}) {
            if (next < 0 || next > 1) continue;
            const double v = at(next);
            if (v > value) value = v, t = next;
        }
    return t;
}

/// act(xi) over a lattice of reference coordinates.
template <int D, class Act>
void each_in_lattice(ElementKind kind, Act act) {
    Vec<D> xi;
    const auto go = [&](auto self, std::size_t axis) -> void {
        for (double a = 0; a <= 1; a += lattice_step) {
            xi[axis] = a;
            if (axis + 1 < xi.size())
                self(self, axis + 1);
            else if (reference_outside(kind, xi) <= 0)
                act(xi);
        }
    };
    go(go, 0);
}

template <int D>
class Search {
  public:
    Search(Field field, double sign, const FieldSourceIn<D>& source)
        : field_(field), sign_(sign), f_(source), mesh_(source.mesh) {}

    void offer(double value, std::size_t e, const Vec<D>& xi) { take(value, e, xi); }
    void side(const SideView& view) {
        const auto look = [&](const OnSide<D>& at) {
            const Vec<D> xi = reference_at(mesh_, view, at);
            if (take(value(view.element, xi), view.element, xi)) on_side_ = {view, at};
        };
        if constexpr (D == 2)
            for (double t = 0; t <= 1; t += side_step) look(t);
        else
            each_in_lattice<2>(side_kind(mesh_.kinds[view.element], view.side), look);
    }
    void element(std::size_t e) {
        ExtremeIn<D> own{-INFINITY, {}, e, {}};
        each_in_lattice<D>(mesh_.kinds[e], [&](const Vec<D>& xi) {
            const double v = value(e, xi);
            take(v, e, xi);
            if (v > own.value) own.value = v, own.xi = xi;
        });
        if (D == 3) tops_.push_back(own);
    }
    [[nodiscard]] double best() const { return best_.value; }
    [[nodiscard]] double lowest() const { return lowest_; }
    /// The best place, and from there uphill.
    ExtremeIn<D> finish() {
        if (!std::isfinite(best_.value)) return best_;
        const ElementKind kind = mesh_.kinds[best_.element];
        if (on_side_) {
            const SideView view = on_side_->first;
            const OnSide<D> start = on_side_->second;
            const auto at = [&](const OnSide<D>& p) { return value(view.element, reference_at(mesh_, view, p)); };
            if constexpr (D == 2)
                best_.xi = reference_at(mesh_, view, climb(start, best_.value, at));
            else
                best_.xi = reference_at(mesh_, view, climb<2>(side_kind(kind, view.side), start, best_.value, at));
        } else {
            best_.xi =
                climb<D>(kind, best_.xi, best_.value, [&](const Vec<D>& xi) { return value(best_.element, xi); });
        }
        climb_beside();
        best_.position = evaluate<D>(mesh_.kinds[best_.element], mesh_.positions(best_.element), best_.xi).position;
        best_.value *= sign_;
        return best_;
    }

  private:
    /// In space many elements share the best point of a lattice, and only one of them holds the peak beside it.
    void climb_beside() {
        const double floor = best_.value - climbed_share * (best_.value - lowest_);
        for (const auto& t : tops_) {
            if (t.value < floor) continue;
            double v = t.value;
            const Vec<D> xi =
                climb<D>(mesh_.kinds[t.element], t.xi, v, [&](const Vec<D>& x) { return value(t.element, x); });
            take(v, t.element, xi);
        }
    }
    [[nodiscard]] double value(std::size_t e, const Vec<D>& xi) const {
        return sign_ * field_at(field_, f_, e, evaluate<D>(mesh_.kinds[e], mesh_.positions(e), xi));
    }
    bool take(double value, std::size_t e, const Vec<D>& xi) {
        lowest_ = std::min(lowest_, value);
        if (value <= best_.value) return false;
        best_.value = value;
        best_.element = e;
        best_.xi = xi;
        on_side_.reset();
        return true;
    }

    Field field_;
    double sign_;
    const FieldSourceIn<D>& f_;
    const MeshIn<D>& mesh_;
    ExtremeIn<D> best_{-INFINITY, {}, 0, {}};
    double lowest_ = INFINITY;
    std::vector<ExtremeIn<D>> tops_;                         // of elements in space
    std::optional<std::pair<SideView, OnSide<D>>> on_side_;  // the best place is there
};

}  // namespace

template <int D>
ExtremeIn<D> find_extreme(Field field, bool largest, const FieldSourceIn<D>& f, const std::vector<std::string>& on,
                          const std::vector<std::string>& inside) {
    if (f.origin != FieldOrigin::recovered) return extreme_of_elements(field, largest, f, on, inside);
    const MeshIn<D>& mesh = f.mesh;
    const double sign = largest ? 1 : -1;
    Search<D> search(field, sign, f);
    const RegionsOf regions(mesh, on);
    if (!regions.any()) {
        for (const auto& view : side_views(mesh, on, inside)) search.side(view);
        return search.finish();
    }
    const auto values = slot_field(field, f);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t i = 0; regions.has(e) && i < mesh.element(e).size(); ++i)
            search.offer(sign * values[static_cast<std::size_t>(mesh.slots_of(e)[i])], e,
                         reference_node<D>(mesh.kinds[e], i));
    const double floor = search.best() - searched_share * (search.best() - search.lowest());
    const auto near_top = [&](std::size_t e) {
        const auto slots = mesh.slots_of(e);
        return regions.has(e) && std::any_of(slots.begin(), slots.end(), [&](int s) {
                   return sign * values[static_cast<std::size_t>(s)] >= floor;
               });
    };
    for (std::size_t k = 0; k < mesh.boundary.size(); ++k) {
        const auto& side = mesh.boundary[k];
        const auto e = static_cast<std::size_t>(side.element);
        if (near_top(e)) search.side({k, e, side.side, true, 1});
    }
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (near_top(e)) search.element(e);
    return search.finish();
}
template ExtremeIn<2> find_extreme<2>(Field, bool, const FieldSourceIn<2>&, const std::vector<std::string>&,
                                      const std::vector<std::string>&);
template ExtremeIn<3> find_extreme<3>(Field, bool, const FieldSourceIn<3>&, const std::vector<std::string>&,
                                      const std::vector<std::string>&);

}  // namespace dotsift
