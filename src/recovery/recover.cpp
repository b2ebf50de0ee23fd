#include "recovery/recover.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <mutex>
#include <numbers>
#include <optional>
#include <span>

#include "base/parallel.hpp"
#include "recovery/fit/constrained_fit.hpp"
#include "recovery/fit/node_patch.hpp"

namespace dotsift {

namespace {

// A patch gets more elements until it has this many values for each term that equilibrium leaves free. Nodes of linear
// quadrilaterals stand in rows, of which a polynomial of degree p + 1 needs p + 2 in each direction.
constexpr double values_per_term(bool triangles, int degree) {
    if (degree == 2) return 1.05;  // sixteen nodes, of five triangles round one, are enough for fifteen terms
    return triangles ? 1.15 : 1.5;
}
// Where the outline turns by more than half a turn by this share, the field is singular: a polynomial that keeps to the
// tractions on both sides would be far off.
constexpr double reentrant_share = 0.2;
// Where elements go all the way round a node the reach, their mean size, is longer by this.
constexpr double closed_reach = 1.4;
// And this many samples of the stress, where the material is nearly incompressible: with fewer, the polynomial follows
// the scatter of the samples where it is extrapolated to the boundary.
constexpr std::size_t samples_per_term = 3;
// Nearer to the axis of revolution than this share of an element's size the values at its nodes are interpolated.
constexpr double axis_share = 0.01;
// And so far where single values are asked for: the rounding of a fit is divided by the radius, too.
constexpr double axis_reach = 0.5;
// Patches of a piece of work.
constexpr std::size_t fits_a_piece = 32;

/// The stress at the sampling points; those of element e are first[e] to first[e + 1].
struct Samples {
    struct Sample {
        Vec2 position;
        Stress stress;
    };
    std::vector<Sample> all;
    std::vector<std::int64_t> first{0};
    [[nodiscard]] std::span<const Sample> of(std::int32_t e) const {
        const auto k = static_cast<std::size_t>(e);
        return {all.data() + first[k], static_cast<std::size_t>(first[k + 1] - first[k])};
    }
    [[nodiscard]] std::size_t count(const std::vector<std::int32_t>& elements) const {
        std::size_t sum = 0;
        for (const auto e : elements) sum += of(e).size();
        return sum;
    }
};

/// Of elements whose material is nearly incompressible only.
Samples sample(const Mesh& mesh, const Laws& laws, const Solution& s) {
    Samples samples;
    samples.first.reserve(mesh.element_count() + 1);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (laws.of(mesh.region[e]).elastic.nearly_incompressible) {
            const auto positions = mesh.positions(e);
            for (const auto& q : tabulated(mesh.kinds[e], sampling_rule(mesh.kinds[e]))) {
                const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
                samples.all.push_back({p.position, stress_at(mesh, laws, s, e, p)});
            }
        }
        samples.first.push_back(static_cast<std::int64_t>(samples.all.size()));
    }
    return samples;
}

/// Where elements are asked for equilibrium: so often that it fixes what it can of the polynomials.
std::span<const ShapePoint> balance_points(ElementKind kind) {
    return tabulated(kind, quadrature(kind, polynomial_degree(kind)));
}

/// Corners' shape functions of the linear element with the same corners.
std::array<double, 4> corner_weights(ElementKind kind, const ElementPoint& p) {
    std::array<double, 4> w{};
    const int corners = corner_count(kind);
    std::copy_n(p.n.begin(), corners, w.begin());
    if (polynomial_degree(kind) == 1) return w;
    for (int s = 0; s < corners; ++s) {
        const auto side = side_nodes(kind, s);
        for (const std::size_t end : {0U, 1U}) w[side[end]] += 0.5 * p.n[side[2]];
    }
    for (int c = 0; c < corners && corners == 4; ++c) w[static_cast<std::size_t>(c)] += 0.25 * p.n[8];
    return w;
}

/// The polynomials round the corners of an element, each weighted by its corner's linear shape function (Blacker &
/// Belytschko 1994, Int. J. Numer. Meth. Eng. 37).
template <std::size_t fields>
std::array<double, fields> blended(const Mesh& mesh, const Patches<fields>& patches, std::size_t e,
                                   const ElementPoint& p) {
    std::array<double, fields> sum{};
    const auto weights = corner_weights(mesh.kinds[e], p);
    for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c) {
        const auto own = patches.at(mesh.slots_of(e)[c]).at(p.position);
        for (std::size_t f = 0; f < fields; ++f) sum[f] += weights[c] * own[f];
    }
    return sum;
}

/// From what fit_strain gives, at a slot or at a point of an element.
Stress stress_of(const Laws& laws, const AxialStrain& axial, std::int32_t region, std::array<double, 4> strain,
                 const Vec2& p, double temperature_change, double stiffness) {
    if (laws.axisymmetric())
        strain[3] = p[0] > 0 ? strain[3] / p[0] : strain[0];
    else
        strain[3] = laws.plane == Plane::generalised_strain ? axial.at(p) : 0;
    return scaled(laws.of(region).elastic.stress(Strain{strain}, temperature_change), stiffness);
}
Stress stress_of(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e,
                 const std::array<double, 4>& strain, const ElementPoint& p) {
    return stress_of(laws, s.axial, mesh.region[e], strain, p.position, slot_value(mesh, s.temperature_change, e, p),
                     stiffness_at(mesh, s, e, p));
}

/// Where stress is fitted, not displacement.
bool by_stress(const Laws& laws, std::int32_t region) {
    return laws.of(region).elastic.nearly_incompressible;
}

struct StressFields {
    using Value = Stress;
    using Field = RecoveredStress;
};
struct FluxFields {
    using Value = Vec2;
    using Field = RecoveredFlux;
};

template <class Kind>
class Recovery {
  public:
    using Value = typename Kind::Value;
    using Field = typename Kind::Field;
    static constexpr std::size_t components = Value{}.size();
    using Patch = PatchPolynomial<components>;
    static constexpr bool of_stress = std::is_same_v<Kind, StressFields>;

    Recovery(const Mesh& mesh, const Laws& laws, const Solution& s, const SizedCornerElements& around,
             const ActingLoads& loads)
        : mesh_(mesh),
          laws_(laws),
          solution_(s),
          around_(around),
          samples_(of_stress ? sample(mesh, laws, s) : Samples{}),
          loads_(loads) {
        side_loads_of_.resize(mesh.element_count(), -1);
        next_side_.assign(loads.sides().size(), -1);
        for (std::size_t k = 0; k < loads.sides().size(); ++k) {
            auto& first = side_loads_of_[static_cast<std::size_t>(loads.sides()[k].element)];
            next_side_[k] = first;
            first = static_cast<std::int32_t>(k);
        }
    }

    Field run() {
        const std::size_t slots = mesh_.node_of_slot.size();
        Field out;
        out.slots.resize(slots);
        out.patches.of_slot.assign(slots, no_corner);
        std::int32_t count = 0;
        for (std::size_t s = 0; s < slots; ++s)
            if (is_corner(s)) out.patches.of_slot[s] = count++;
        out.patches.all.resize(static_cast<std::size_t>(count));
        if constexpr (!of_stress) out.factor = solution_.conductivity_factor;
        in_parallel_pieces(slots, fits_a_piece, [&](std::size_t begin, std::size_t end) {
            NodePatch elements(around_);
            FitInput in;
            for (std::size_t s = begin; s < end; ++s) {
                if (!is_corner(s)) continue;
                elements.begin(static_cast<std::int32_t>(s));
                const Patch patch = fit(s, elements, in);
                put(patch, region_of(s), s, 1, out.slots[s]);
                out.patches.all[static_cast<std::size_t>(out.patches.of_slot[s])] = patch;
            }
        });
        const bool between = std::any_of(mesh_.kinds.begin(), mesh_.kinds.end(),
                                         [](ElementKind kind) { return polynomial_degree(kind) == 2; });
        if (between) fill_between(out);
        return out;
    }

  private:
    static constexpr std::int32_t no_corner = -1;

    [[nodiscard]] bool is_corner(std::size_t slot) const {
        return !around_.of(static_cast<std::int32_t>(slot)).empty();
    }

    /// Middle nodes take the mean of the patches round the corners of their side, or of their element.
    void fill_between(Field& out) const {
        const std::size_t slots = out.slots.size();
        std::vector<std::array<std::int32_t, 4>> corners_of(slots, {no_corner, no_corner, no_corner, no_corner});
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            if (polynomial_degree(mesh_.kinds[e]) == 1) continue;
            const auto list = mesh_.slots_of(e);
            const int corners = corner_count(mesh_.kinds[e]);
            for (int s = 0; s < corners; ++s) {
                const auto side = side_nodes(mesh_.kinds[e], s);
                auto& of = corners_of[static_cast<std::size_t>(list[side[2]])];
                of[0] = list[side[0]];
                of[1] = list[side[1]];
            }
            if (corners == 4) std::copy_n(list.begin(), 4, corners_of[static_cast<std::size_t>(list[8])].begin());
        }
        in_parallel_pieces(slots, fits_a_piece, [&](std::size_t begin, std::size_t end) {
            for (std::size_t s = begin; s < end; ++s) {
                const auto& of = corners_of[s];
                const auto corners = std::count_if(of.begin(), of.end(), [](std::int32_t c) { return c != no_corner; });
                for (const auto c : of)
                    if (c != no_corner)
                        put(out.patches.at(c), region_of(static_cast<std::size_t>(c)), s,
                            1 / static_cast<double>(corners), out.slots[s]);
            }
        });
    }

    void put(const Patch& patch, std::int32_t region, std::size_t slot, double share, Value& into) const {
        const Vec2& p = mesh_.nodes[static_cast<std::size_t>(mesh_.node_of_slot[slot])];
        const auto at = patch.at(p);
        Value v{};
        if constexpr (!of_stress)
            v = laws_.of(region).conduction.flux({{at[0], at[1]}}) * factor_of(solution_.conductivity_factor, slot);
        else if (by_stress(laws_, region))
            v = Value{at};
        else
            v = stress_of(laws_, solution_.axial, region, at, p,
                          solution_.temperature_change.empty() ? 0 : solution_.temperature_change[slot],
                          factor_of(solution_.stiffness_factor, slot));
        for (std::size_t c = 0; c < v.size(); ++c) into[c] += share * v[c];
    }

    /// Of a corner.
    [[nodiscard]] std::int32_t region_of(std::size_t slot) const {
        return mesh_.region[static_cast<std::size_t>(around_.of(static_cast<std::int32_t>(slot)).front())];
    }

    /// `patch` has the elements right round the corner, and grows if they are too few.
    [[nodiscard]] Patch fit(std::size_t slot, NodePatch& patch, FitInput& in) const {
        in.region = region_of(slot);
        in.centre = position(static_cast<std::int32_t>(slot));
        const int own = polynomial_degree(mesh_.kinds[static_cast<std::size_t>(patch.elements().front())]);
        const bool triangles = patch.all_triangles();
        // Right round a node the values are enough, and cheaper by far.
        const bool closed = patch.closed();
        const bool reentrant = !closed && patch.angle() > (1 + reentrant_share) * std::numbers::pi;
        in.reach = patch.mean_size() * (closed ? closed_reach : 1);
        const bool of_samples = of_stress && by_stress(laws_, in.region);
        // A degree more, where enough is known of the field.
        const bool higher = own == 2 ? !reentrant : !closed && !reentrant && !triangles;
        in.degree = own + (higher ? 2 : 1);
        const auto enough = [&] {
            if (of_samples)
                return samples_.count(patch.elements()) >=
                       samples_per_term * static_cast<std::size_t>(Monomials::terms(own));
            double free = Monomials::terms(in.degree);
            // The others follow from equilibrium.
            if (own == 2 && !closed && higher && balanced(patch.elements())) free -= Monomials::terms(in.degree - 2);
            return static_cast<double>(patch.slots().size()) >= values_per_term(triangles, own) * free;
        };
        while (!enough()) {
            if (patch.grow()) continue;
            in.degree = own + 1;
            break;
        }
        in.scale = 0;
        for (const auto s : patch.slots()) in.scale = std::max(in.scale, distance(position(s), in.centre));
        if (of_samples) return fit_samples(patch.elements(), own, in);
        return fit_values(patch, !closed, !reentrant, in);
    }

    [[nodiscard]] const Vec2& position(std::int32_t slot) const {
        return mesh_.nodes[static_cast<std::size_t>(mesh_.node_of_slot[static_cast<std::size_t>(slot)])];
    }

    [[nodiscard]] bool balanced(const std::vector<std::int32_t>& elements) const {
        return std::all_of(elements.begin(), elements.end(),
                           [&](std::int32_t e) { return loads_.known_inside(static_cast<std::size_t>(e)); });
    }

    [[nodiscard]] Patch fit_samples(const std::vector<std::int32_t>& elements, int degree, const FitInput& in) const {
        Patch patch{in.centre, in.scale, Monomials::terms(degree), {}};
        if constexpr (of_stress) {
            constexpr int most = Monomials::terms(2);
            if (samples_.count(elements) < static_cast<std::size_t>(patch.terms)) patch.terms = 1;  // their mean
            Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most, most> gram;
            gram.setZero(patch.terms, patch.terms);
            Eigen::Matrix<double, Eigen::Dynamic, 4, 0, most, 4> right;
            right.setZero(patch.terms, 4);
            for (const auto e : elements) {
                for (const auto& s : samples_.of(e)) {
                    const Monomials m(2, s.position, in.centre, in.scale);
                    const Eigen::Map<const Eigen::VectorXd> b(m.value.data(), patch.terms);
                    gram.noalias() += b * b.transpose();
                    right.noalias() += b * Eigen::Map<const Eigen::Matrix<double, 1, 4>>(s.stress.data());
                }
            }
            const Eigen::Matrix<double, Eigen::Dynamic, 4, 0, most, 4> factors = gram.ldlt().solve(right);
            for (int k = 0; k < patch.terms; ++k)
                for (int c = 0; c < 4; ++c)
                    patch.factors[static_cast<std::size_t>(k)][static_cast<std::size_t>(c)] = factors(k, c);
        }
        return patch;
    }

    /// Of the values at nodes, and of equilibrium and what is known on the outline where they are wanted.
    [[nodiscard]] Patch fit_values(const NodePatch& patch, bool equilibrium, bool outline, FitInput& in) const {
        in.nodes.clear();
        in.balances.clear();
        in.sides.clear();
        for (const auto slot : patch.slots()) {
            const auto s = static_cast<std::size_t>(slot);
            FitInput::Node node{position(slot), {}, 0};
            if constexpr (of_stress)
                node.displacement = solution_.displacement[static_cast<std::size_t>(mesh_.node_of_slot[s])];
            else
                node.potential = solution_.potential[s];
            in.nodes.push_back(node);
        }
        for (const auto element : patch.elements()) {
            if (!equilibrium) break;
            const auto e = static_cast<std::size_t>(element);
            if (loads_.known_inside(e)) add_balances(e, in);
            for (auto k = outline ? side_loads_of_[e] : -1; k >= 0; k = next_side_[static_cast<std::size_t>(k)])
                in.sides.push_back(side_of(e, loads_.sides()[static_cast<std::size_t>(k)]));
        }
        if constexpr (of_stress)
            return fit_strain(laws_, solution_.axial, in);
        else
            return fit_gradient(laws_, in);
    }

    void add_balances(std::size_t e, FitInput& in) const {
        const auto positions = mesh_.positions(e);
        for (const auto& at : balance_points(mesh_.kinds[e])) {
            const ElementPoint p = evaluate(mesh_.kinds[e], positions, at);
            FitInput::Balance balance;
            balance.position = p.position;
            balance.size = around_.size_of(static_cast<std::int32_t>(e));
            if (of_stress) {
                balance.temperature_change = slot_value(mesh_, solution_.temperature_change, e, p);
                balance.temperature_gradient = slot_gradient(mesh_, solution_.temperature_change, e, p);
            }
            const auto& factors = of_stress ? solution_.stiffness_factor : solution_.conductivity_factor;
            if (!factors.empty()) {
                balance.factor = slot_value(mesh_, factors, e, p);
                balance.factor_slope = slot_gradient(mesh_, factors, e, p) / balance.factor;
            }
            if (loads_.any_in_volume()) {
                const std::lock_guard lock(formulas_);
                balance.load = loads_.inside(e, p);
            }
            in.balances.push_back(balance);
        }
    }

    [[nodiscard]] FitInput::Side side_of(std::size_t e, const SideLoad& load) const {
        const auto& local = side_nodes(mesh_.kinds[e], load.side);
        const auto list = mesh_.slots_of(e);
        const auto along = [&](const std::vector<double>& field, const SidePoint& p) {
            double v = 0;
            for (std::size_t i = 0; i < local.size() && !field.empty(); ++i)
                v += p.n[i] * field[static_cast<std::size_t>(list[local[i]])];
            return v;
        };
        FitInput::Side side{&load, {}, {}};
        const auto& factors = of_stress ? solution_.stiffness_factor : solution_.conductivity_factor;
        for (std::size_t q = 0; q < load.points.size(); ++q) {
            side.potential[q] = along(solution_.potential, load.points[q]);
            side.temperature_change[q] = along(solution_.temperature_change, load.points[q]);
            if (!factors.empty()) side.factor[q] = along(factors, load.points[q]);
        }
        return side;
    }

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    const SizedCornerElements& around_;
    Samples samples_;
    const ActingLoads& loads_;
    mutable std::mutex formulas_;                          ///< evaluators keep what they are working on
    std::vector<std::int32_t> side_loads_of_, next_side_;  ///< lists of the sides of each element
};

/// `acting`: the load case, or the nodes at which a dual problem's loads are not known.
template <class Kind, class Acting>
typename Kind::Field recover(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s,
                             const Acting& acting) {
    std::optional<SizedCornerElements> around;
    std::optional<ActingLoads> loads;
    in_parallel(2, [&](std::size_t k) {
        if (k == 0)
            around.emplace(mesh);
        else
            loads.emplace(mesh, study, laws, acting);
    });
    return Recovery<Kind>(mesh, laws, s, *around, *loads).run();
}

}  // namespace

Stress recovered_stress(const Mesh& mesh, const Laws& laws, const Solution& solution, const std::vector<Stress>& slots,
                        std::size_t element, const ElementPoint& point) {
    const double r = point.position[0];
    if (!laws.axisymmetric() || !(r > 0)) return interpolate(mesh, slots, element, point);
    const ElasticLaw& law = laws.of(mesh.region[element]).elastic;
    const auto& changes = solution.temperature_change;
    const auto list = mesh.slots_of(element);
    Strain strain{};
    for (std::size_t i = 0; i < list.size(); ++i) {
        const auto slot = static_cast<std::size_t>(list[i]);
        const Strain own = law.strain(scaled(slots[slot], 1 / factor_of(solution.stiffness_factor, slot)),
                                      changes.empty() ? 0 : changes[slot]);
        for (std::size_t c = 0; c < 3; ++c) strain[c] += point.n[i] * own[c];
        strain[3] += point.n[i] * own[3] * mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[slot])][0] / r;
    }
    return scaled(law.stress(strain, slot_value(mesh, changes, element, point)),
                  stiffness_at(mesh, solution, element, point));
}

Stress RecoveredStressIn<2>::at(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                                const ElementPoint& point) const {
    const std::int32_t region = mesh.region[element];
    // A polynomial of the radial displacement need not vanish on the axis; what is there divided by the radius.
    const bool near_axis = laws.axisymmetric() && point.position[0] < axis_share * mesh.size_of(element);
    if (patches.all.empty() || polynomial_degree(mesh.kinds[element]) == 1 || by_stress(laws, region) || near_axis)
        return recovered_stress(mesh, laws, solution, slots, element, point);
    return stress_of(mesh, laws, solution, element, blended(mesh, patches, element, point), point);
}

Stress RecoveredStressIn<2>::finest(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                                    const ElementPoint& point) const {
    const std::int32_t region = mesh.region[element];
    Stress value = at(mesh, laws, solution, element, point);
    if (patches.all.empty() || by_stress(laws, region)) return value;
    if (laws.axisymmetric() && point.position[0] < axis_reach * mesh.size_of(element))
        return recovered_stress(mesh, laws, solution, slots, element, point);
    if (polynomial_degree(mesh.kinds[element]) == 2) return value;
    const Stress other = stress_of(mesh, laws, solution, element, blended(mesh, patches, element, point), point);
    for (std::size_t c = 0; c < value.size(); ++c) value[c] = 0.5 * (value[c] + other[c]);
    return value;
}

std::optional<Stress> RecoveredStressIn<2>::by_corner(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                                      std::size_t element, std::size_t corner,
                                                      const ElementPoint& point) const {
    const std::int32_t region = mesh.region[element];
    if (patches.all.empty()) return {};
    const auto own = patches.at(mesh.slots_of(element)[corner]).at(point.position);
    if (by_stress(laws, region)) return Stress{own};
    if (laws.axisymmetric() && point.position[0] < axis_share * mesh.size_of(element)) return {};
    return stress_of(mesh, laws, solution, element, own, point);
}

Vec2 RecoveredFluxIn<2>::flux_of(const Mesh& mesh, const Laws& laws, std::size_t element,
                                 const std::array<double, 2>& g, const ElementPoint& point) const {
    const Vec2 flux = laws.of(mesh.region[element]).conduction.flux({{g[0], g[1]}});
    return factor.empty() ? flux : flux * slot_value(mesh, factor, element, point);
}

Vec2 RecoveredFluxIn<2>::finest(const Mesh& mesh, const Laws& laws, std::size_t element,
                                const ElementPoint& point) const {
    const Vec2 value = at(mesh, laws, element, point);
    if (patches.all.empty() || polynomial_degree(mesh.kinds[element]) == 2) return value;
    const auto g = blended(mesh, patches, element, point);
    return (value + flux_of(mesh, laws, element, g, point)) * 0.5;
}

std::optional<Vec2> RecoveredFluxIn<2>::by_corner(const Mesh& mesh, const Laws& laws, std::size_t element,
                                                  std::size_t corner, const ElementPoint& point) const {
    if (patches.all.empty()) return {};
    const auto g = patches.at(mesh.slots_of(element)[corner]).at(point.position);
    return flux_of(mesh, laws, element, g, point);
}

Vec2 RecoveredFluxIn<2>::at(const Mesh& mesh, const Laws& laws, std::size_t element, const ElementPoint& point) const {
    if (patches.all.empty() || polynomial_degree(mesh.kinds[element]) == 1)
        return interpolate(mesh, slots, element, point);
    const auto g = blended(mesh, patches, element, point);
    return flux_of(mesh, laws, element, g, point);
}

RecoveredStress recover_stress(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s) {
    return recover<StressFields>(mesh, study, laws, s, s.load_case);
}

RecoveredFlux recover_flux(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s) {
    return recover<FluxFields>(mesh, study, laws, s, s.load_case);
}

RecoveredStress recover_dual_stress(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s,
                                    const std::vector<char>& marked_nodes) {
    return recover<StressFields>(mesh, study, laws, s, marked_nodes);
}

RecoveredFlux recover_dual_flux(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& s,
                                const std::vector<char>& marked_nodes) {
    return recover<FluxFields>(mesh, study, laws, s, marked_nodes);
}

}  // namespace dotsift
