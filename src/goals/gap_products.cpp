#include "goals/gap_products.hpp"

#include "base/parallel.hpp"

namespace dotsift {

namespace {

/// Integral over each element of product(e, p, gap of the first field, gap of the second).
template <int D, class Gap, class OtherGap, class Product>
std::vector<double> products(const MeshIn<D>& mesh, const LawsIn<D>& laws, Gap first, OtherGap second,
                             Product product) {
    std::vector<double> out(mesh.element_count());
    in_parallel(mesh.element_count(), [&](std::size_t e) {
        const auto positions = mesh.positions(e);
        for (const auto& q : tabulated<D>(mesh.kinds[e], quadrature<D>(mesh.kinds[e], 4))) {
            const auto p = evaluate<D>(mesh.kinds[e], positions, q);
            out[e] += q.weight * p.jacobian * laws.depth(mesh.region[e], p.position) *
                      product(e, p, first(e, p), second(e, p));
        }
    });
    return out;
}

}  // namespace

template <int D>
std::vector<double> stress_gap_products(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& a,
                                        const RecoveredStressIn<D>& of_a, const SolutionIn<D>& b,
                                        const RecoveredStressIn<D>& of_b) {
    const auto gap = [&](const SolutionIn<D>& of, const RecoveredStressIn<D>& recovered) {
        return [&](std::size_t e, const ElementPointIn<D>& p) {
            return difference(recovered.at(mesh, laws, of, e, p), stress_at(mesh, laws, of, e, p));
        };
    };
    return products(mesh, laws, gap(a, of_a), gap(b, of_b),
                    [&](std::size_t e, const ElementPointIn<D>& p, const StressIn<D>& x, const StressIn<D>& y) {
                        return contraction(x, laws.of(mesh.region[e]).elastic.strain(y)) / stiffness_at(mesh, a, e, p);
                    });
}
template std::vector<double> stress_gap_products<2>(const MeshIn<2>&, const LawsIn<2>&, const SolutionIn<2>&,
                                                    const RecoveredStressIn<2>&, const SolutionIn<2>&,
                                                    const RecoveredStressIn<2>&);
template std::vector<double> stress_gap_products<3>(const MeshIn<3>&, const LawsIn<3>&, const SolutionIn<3>&,
                                                    const RecoveredStressIn<3>&, const SolutionIn<3>&,
                                                    const RecoveredStressIn<3>&);

template <int D>
std::vector<double> flux_gap_products(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& a,
                                      const RecoveredFluxIn<D>& of_a, const SolutionIn<D>& b,
                                      const RecoveredFluxIn<D>& of_b) {
    const auto gap = [&](const SolutionIn<D>& of, const RecoveredFluxIn<D>& recovered) {
        return [&](std::size_t e, const ElementPointIn<D>& p) {
            return recovered.at(mesh, laws, e, p) - flux_at(mesh, laws, of, e, p);
        };
    };
    return products(mesh, laws, gap(a, of_a), gap(b, of_b),
                    [&](std::size_t e, const ElementPointIn<D>&, const Vec<D>& x, const Vec<D>& y) {
                        const auto& r = laws.of(mesh.region[e]).conduction.resistivity;
                        Vec<D> gradient;
                        for (std::size_t i = 0; i < gradient.size(); ++i) gradient[i] = contraction(r[i], y);
                        return contraction(x, gradient);
                    });
}
template std::vector<double> flux_gap_products<2>(const MeshIn<2>&, const LawsIn<2>&, const SolutionIn<2>&,
                                                  const RecoveredFluxIn<2>&, const SolutionIn<2>&,
                                                  const RecoveredFluxIn<2>&);
template std::vector<double> flux_gap_products<3>(const MeshIn<3>&, const LawsIn<3>&, const SolutionIn<3>&,
                                                  const RecoveredFluxIn<3>&, const SolutionIn<3>&,
                                                  const RecoveredFluxIn<3>&);

}  // namespace dotsift
