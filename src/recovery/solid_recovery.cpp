#include "recovery/solid_recovery.hpp"

#include <algorithm>
#include <cmath>

#include "base/parallel.hpp"
#include "recovery/fit/element_patch.hpp"
#include "recovery/fit/normal_equations.hpp"

namespace dotsift {

namespace {

constexpr int highest_degree = 4;  // that is fitted
constexpr int terms_of(int degree) {
    return (degree + 1) * (degree + 2) * (degree + 3) / 6;
}
/// One above that of linear elements, two above quadratic ones, as in the plane: two above linear ones do not pay, and
/// wedges have too few nodes for them.
constexpr int fitted_degree(int degree) {
    return degree == 1 ? 2 : 4;
}
// A patch grows until it has so many nodes for each coefficient.
constexpr double nodes_a_term = 1.5;
// Of the patch's reach: what is farther from the corner counts with the power -4, what is nearer at most like this.
constexpr double nearest(int degree) {
    return degree == 1 ? 0.065 : 0.2;
}
// What nothing determines is kept small: a share of the largest square.
constexpr double kept_small = 1e-13;
// Corners of a piece of work.
constexpr std::size_t corners_a_piece = 128;

/// Powers of the three coordinates in each monomial, by degree.
constexpr auto powers = [] {
    std::array<std::array<std::uint8_t, 3>, terms_of(highest_degree)> out{};
    std::size_t k = 0;
    for (int d = 0; d <= highest_degree; ++d)
        for (int c = 0; c <= d; ++c)
            for (int b = 0; b + c <= d; ++b)
                out[k++] = {static_cast<std::uint8_t>(d - b - c), static_cast<std::uint8_t>(b),
                            static_cast<std::uint8_t>(c)};
    return out;
}();

/// Powers of a coordinate, from the 0th on.
std::array<double, highest_degree + 1> powers_of(double x) {
    return {1, x, x * x, x * x * x, x * x * x * x};
}

/// Slots on the rim of their region.
std::vector<char> rim_slots(const SolidMesh& mesh) {
    std::vector<char> out(mesh.node_of_slot.size(), 0);
    for (std::size_t s = 0; s < mesh.sides.count(); ++s) {
        const auto& beside = mesh.sides.beside(s);
        if (beside[1] && mesh.region[static_cast<std::size_t>(beside[0].element)] ==
                             mesh.region[static_cast<std::size_t>(beside[1].element)])
            continue;
        for (const auto& side : beside) {
            if (!side) continue;
            const auto e = static_cast<std::size_t>(side.element);
            for (const auto local : side_nodes(mesh.kinds[e], side.side))
                out[static_cast<std::size_t>(mesh.slots_of(e)[local])] = 1;
        }
    }
    return out;
}

// Patches of solids have hundreds of slots.
using SolidPatch = ElementPatch<12>;

template <std::size_t components>
class Fit {
  public:
    Fit(const SolidMesh& mesh, std::span<const std::int32_t> connectivity, std::span<const double> values)
        : mesh_(mesh), values_(values), corners_(mesh), rim_(rim_slots(mesh)), number_(mesh.node_of_slot.size()) {
        for (std::size_t k = 0; k < connectivity.size(); ++k)
            number_[static_cast<std::size_t>(mesh.slots[k])] = connectivity[k];
    }

    std::vector<Gradients<components>> run() const {
        const std::size_t slots = mesh_.node_of_slot.size();
        std::vector<std::int32_t> corners, number(slots, -1);  // slots that are one; which of them each slot is
        for (std::size_t s = 0; s < slots; ++s) {
            if (corners_.of(static_cast<std::int32_t>(s)).empty()) continue;
            number[s] = static_cast<std::int32_t>(corners.size());
            corners.push_back(static_cast<std::int32_t>(s));
        }
        std::vector<Polynomial> polynomials(corners.size());
        in_parallel_pieces(corners.size(), corners_a_piece, [&](std::size_t begin, std::size_t end) {
            SolidPatch patch(corners_);
            for (std::size_t k = begin; k < end; ++k) polynomials[k] = round(corners[k], patch);
        });
        std::vector<Gradients<components>> out(slots);
        std::vector<char> done(slots, 0);
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            const auto list = mesh_.slots_of(e);
            for (std::size_t i = 0; i < list.size(); ++i) {
                const auto slot = static_cast<std::size_t>(list[i]);
                if (done[slot]) continue;
                done[slot] = 1;
                const auto& from = corners_of_node(mesh_.kinds[e], i);
                const double share = 1 / static_cast<double>(from.size());
                for (const auto c : from) {
                    const std::int32_t corner = number[static_cast<std::size_t>(list[c])];
                    const auto own = polynomials[static_cast<std::size_t>(corner)].gradients(place(slot));
                    for (std::size_t f = 0; f < components; ++f) out[slot][f] += own[f] * share;
                }
            }
        }
        return out;
    }

  private:
    struct Polynomial {
        Vec3 centre;
        double scale = 1;
        std::size_t terms = 0;
        std::array<std::array<double, terms_of(highest_degree)>, components> factor{};

        [[nodiscard]] Gradients<components> gradients(const Vec3& at) const {
            const Vec3 x = (at - centre) / scale;
            const std::array<std::array<double, highest_degree + 1>, 3> power{powers_of(x[0]), powers_of(x[1]),
                                                                              powers_of(x[2])};
            Gradients<components> out{};
            for (std::size_t k = 1; k < terms; ++k)
                for (std::size_t a = 0; a < 3; ++a) {
                    const std::size_t n = powers[k][a];
                    if (n == 0) continue;
                    double slope = static_cast<double>(n) / scale * power[a][n - 1];
                    for (std::size_t b = 0; b < 3; ++b)
                        if (b != a) slope *= power[b][powers[k][b]];
                    for (std::size_t f = 0; f < components; ++f) out[f][a] += factor[f][k] * slope;
                }
            return out;
        }
    };

    [[nodiscard]] const Vec3& place(std::size_t slot) const {
        return mesh_.nodes[static_cast<std::size_t>(mesh_.node_of_slot[slot])];
    }

    [[nodiscard]] Polynomial round(std::int32_t corner, SolidPatch& patch) const {
        patch.begin(corner);
        const auto degree_of = [&](std::int32_t e) {
            return polynomial_degree(mesh_.kinds[static_cast<std::size_t>(e)]);
        };
        int degree = 1;
        for (const auto e : patch.elements()) degree = std::max(degree, degree_of(e));
        const int terms = terms_of(fitted_degree(degree));
        const auto slot = static_cast<std::size_t>(corner);
        // On the rim one ring has too few layers across.
        bool more = rim_[slot] == 0 || patch.grow();
        while (more && static_cast<double>(patch.slots().size()) < nodes_a_term * terms) more = patch.grow();
        const auto& slots = patch.slots();
        Polynomial p;
        p.centre = place(slot);
        p.terms = static_cast<std::size_t>(terms);
        p.scale = 0;
        for (const auto s : slots) p.scale = std::max(p.scale, distance(place(static_cast<std::size_t>(s)), p.centre));
        if (degree == 1)
            solve<terms_of(fitted_degree(1))>(slots, p);
        else
            solve<terms_of(fitted_degree(2))>(slots, p);
        return p;
    }

    template <int terms>
    void solve(const std::vector<std::int32_t>& nodes, Polynomial& p) const {
        NormalEquations<terms, static_cast<int>(components)> equations;
        typename NormalEquations<terms, static_cast<int>(components)>::Row row{};
        for (const auto s : nodes) {
            const auto slot = static_cast<std::size_t>(s);
            const Vec3 x = (place(slot) - p.centre) / p.scale;
            const auto a = powers_of(x[0]), b = powers_of(x[1]), c = powers_of(x[2]);
            for (std::size_t k = 0; k < static_cast<std::size_t>(terms); ++k)
                row[k] = a[powers[k][0]] * b[powers[k][1]] * c[powers[k][2]];
            for (std::size_t f = 0; f < components; ++f)
                row[static_cast<std::size_t>(terms) + f] =
                    values_[static_cast<std::size_t>(number_[slot]) * components + f];
            const double d2 = dot(x, x);
            equations.add(row, 1 / (nearest(terms == terms_of(fitted_degree(1)) ? 1 : 2) + d2 * d2));
        }
        const auto found = equations.solve(kept_small);
        for (std::size_t f = 0; f < components; ++f) std::copy_n(found[f].begin(), terms, p.factor[f].begin());
    }

    const SolidMesh& mesh_;
    std::span<const double> values_;
    CornerElements corners_;
    std::vector<char> rim_;
    std::vector<std::int32_t> number_;  // of each slot, where its values are
};

}  // namespace

template <std::size_t components>
std::vector<Gradients<components>> recover_gradients(const SolidMesh& mesh, std::span<const std::int32_t> connectivity,
                                                     std::span<const double> values) {
    return Fit<components>(mesh, connectivity, values).run();
}
template std::vector<Gradients<1>> recover_gradients<1>(const SolidMesh&, std::span<const std::int32_t>,
                                                        std::span<const double>);
template std::vector<Gradients<3>> recover_gradients<3>(const SolidMesh&, std::span<const std::int32_t>,
                                                        std::span<const double>);

namespace {

/// Of each slot.
std::vector<std::int32_t> region_of_slots(const SolidMesh& mesh) {
    std::vector<std::int32_t> out(mesh.node_of_slot.size());
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : mesh.slots_of(e)) out[static_cast<std::size_t>(s)] = mesh.region[e];
    return out;
}

}  // namespace

RecoveredStressIn<3> recover_stress(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s) {
    std::vector<double> values;
    values.reserve(3 * s.displacement.size());
    for (const Vec3& u : s.displacement) values.insert(values.end(), u.c.begin(), u.c.end());
    const auto gradients = recover_gradients<3>(mesh, mesh.connectivity, values);
    const auto region = region_of_slots(mesh);
    RecoveredStressIn<3> out;
    out.slots.resize(gradients.size());
    for (std::size_t k = 0; k < gradients.size(); ++k) {
        const double change = s.temperature_change.empty() ? 0 : s.temperature_change[k];
        out.slots[k] = scaled(laws.of(region[k]).elastic.stress(strain_of(gradients[k]), change),
                              factor_of(s.stiffness_factor, k));
    }
    return out;
}

RecoveredFluxIn<3> recover_flux(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s) {
    const auto gradients = recover_gradients<1>(mesh, mesh.slots, s.potential);
    const auto region = region_of_slots(mesh);
    RecoveredFluxIn<3> out;
    out.slots.resize(gradients.size());
    for (std::size_t k = 0; k < gradients.size(); ++k)
        out.slots[k] = laws.of(region[k]).conduction.flux(gradients[k][0]) * factor_of(s.conductivity_factor, k);
    return out;
}

}  // namespace dotsift
