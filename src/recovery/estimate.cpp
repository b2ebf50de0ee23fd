#include "recovery/estimate.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/parallel.hpp"
#include "recovery/corner_rule.hpp"
#include "recovery/singular_fit.hpp"

namespace dotsift {

namespace {

constexpr int deepest_subdivision = 24;
constexpr double subdivision_accuracy = 1e-4;

/// Integrates two fields over an element, on ever smaller triangles where they change fast.
class ElementIntegral {
  public:
    ElementIntegral(const Mesh& mesh, const Laws& laws, const Solution& solution,
                    const std::vector<FormulaEvaluator>& exact, const Vec2& about)
        : mesh_(mesh), laws_(laws), solution_(solution), exact_(exact), about_(about) {}

    /// Error and energy, squared.
    std::array<double, 2> over(std::size_t e) const {
        std::array<double, 2> sum{};
        for (const auto& whole : reference_triangles(mesh_.kinds[e])) {
            const auto coarse = rule(e, whole);
            const auto part = refine(e, whole, coarse, coarse, 0);
            for (std::size_t i = 0; i < 2; ++i) sum[i] += part[i];
        }
        return sum;
    }

  private:
    std::array<double, 2> rule(std::size_t e, const std::array<Vec2, 3>& t) const {
        const auto positions = mesh_.positions(e);
        const ElasticLaw& law = laws_.of(mesh_.region[e]).elastic;
        const double share = cross(t[1] - t[0], t[2] - t[0]);
        std::array<double, 2> sum{};
        for (const auto& q : triangle_rule(6)) {
            const Vec2 xi = t[0] + (t[1] - t[0]) * q.xi[0] + (t[2] - t[0]) * q.xi[1];
            const ElementPoint p = evaluate(mesh_.kinds[e], positions, xi);
            const FormulaPlace place{p.position, {}, about_};
            const Tensor4 computed = stress_at(mesh_, laws_, solution_, e, p);
            Tensor4 truth{exact_[0](place), exact_[1](place), exact_[2](place), 0};
            // zz: given, or what makes the strain zz that the solution has too.
            if (exact_.size() == 4)
                truth[3] = exact_[3](place);
            else if (laws_.plane != Plane::stress)
                truth[3] = computed[3] - (law.compliance[3][0] * (truth[0] - computed[0]) +
                                          law.compliance[3][1] * (truth[1] - computed[1]) +
                                          law.compliance[3][2] * (truth[2] - computed[2])) /
                                             law.compliance[3][3];
            const Tensor4 gap = difference(truth, computed);
            const double w = q.weight * share * p.jacobian * laws_.depth(mesh_.region[e], p.position) /
                             stiffness_at(mesh_, solution_, e, p);
            sum[0] += w * law.energy_norm2(gap);
            sum[1] += w * law.energy_norm2(truth);
        }
        return sum;
    }

    std::array<double, 2> refine(std::size_t e, const std::array<Vec2, 3>& t, const std::array<double, 2>& coarse,
                                 const std::array<double, 2>& whole, int depth) const {
        const Vec2 a = (t[0] + t[1]) * 0.5, b = (t[1] + t[2]) * 0.5, c = (t[2] + t[0]) * 0.5;
        const std::array<std::array<Vec2, 3>, 4> parts{{{t[0], a, c}, {a, t[1], b}, {c, b, t[2]}, {a, b, c}}};
        std::array<std::array<double, 2>, 4> values{};
        std::array<double, 2> fine{};
        for (std::size_t k = 0; k < 4; ++k) {
            values[k] = rule(e, parts[k]);
            for (std::size_t i = 0; i < 2; ++i) fine[i] += values[k][i];
        }
        if (std::fabs(fine[0] - coarse[0]) <= subdivision_accuracy * whole[0] || depth >= deepest_subdivision)
            return fine;
        std::array<double, 2> sum{};
        for (std::size_t k = 0; k < 4; ++k) {
            const auto v = refine(e, parts[k], values[k], whole, depth + 1);
            for (std::size_t i = 0; i < 2; ++i) sum[i] += v[i];
        }
        return sum;
    }

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    const std::vector<FormulaEvaluator>& exact_;
    Vec2 about_;
};

}  // namespace

double ErrorMap::relative() const {
    return energy2 + error2 > 0 ? std::sqrt(error2 / (energy2 + error2)) : 0;
}
double TrueError::relative() const {
    return energy2 > 0 ? std::sqrt(error2 / energy2) : 0;
}

namespace {

/// The corner of an element that is the point of a fit, if any is.
std::optional<SingularApex> corner_at(const Mesh& mesh, std::size_t e, const SingularFit& fit) {
    for (int c = 0; c < corner_count(mesh.kinds[e]); ++c)
        if (mesh.element(e)[static_cast<std::size_t>(c)] == fit.node())
            return SingularApex{reference_corner(mesh.kinds[e], c), fit.exponent()};
    return {};
}

/// For each element the fit that takes the place of the recovered field; null: none.
std::vector<const SingularFit*> fit_of_elements(const Mesh& mesh, const std::vector<SingularFit>& fits,
                                                bool of_potential) {
    std::vector<const SingularFit*> out(mesh.element_count(), nullptr);
    for (const auto& f : fits)
        for (const auto e : f.elements())
            if (auto& at = out[static_cast<std::size_t>(e)]; f.of_potential() == of_potential && !at) at = &f;
    return out;
}

/// value(e, p) of the elements, the same everywhere in those that are uniform(e); smooth(e, p) of the recovered field;
/// norm2(e, p, difference).
template <class ValueAt, class Uniform, class Smooth, class Norm2>
ErrorMap integrate(const Mesh& mesh, const Laws& laws, const std::vector<const SingularFit*>& fits, ValueAt value,
                   Uniform uniform, Smooth smooth, Norm2 norm2) {
    ErrorMap map;
    map.element_error2.resize(mesh.element_count());
    std::vector<double> energies(mesh.element_count());
    constexpr std::size_t piece = 64;  // those at singular points, which take longest, lie near each other
    in_parallel_pieces(mesh.element_count(), piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
            double error2 = 0, energy2 = 0;
            // The square of a difference of the elements' degree, times depth or stiffness where they change
            const int degree = fits[e] ? 6 : polynomial_degree(mesh.kinds[e]) == 1 && laws.even(mesh.region[e]) ? 2 : 4;
            const auto singular = fits[e] ? corner_at(mesh, e, *fits[e]) : std::nullopt;
            decltype(value(e, ElementPoint{})) own;
            double own2 = 0;
            bool known = false;
            const ElementKind kind = mesh.kinds[e];
            const auto positions = mesh.positions(e);
            const auto towards = singular ? points_towards(kind, *singular, degree) : std::vector<ShapePoint>{};
            for (const auto& q : singular ? towards : tabulated(kind, quadrature(kind, degree))) {
                const ElementPoint p = evaluate(kind, positions, q);
                if (!known || !uniform(e)) {
                    own = value(e, p);
                    own2 = norm2(e, p, own);
                    known = true;
                }
                auto gap = smooth(e, p);
                for (std::size_t c = 0; c < gap.size(); ++c) gap[c] -= own[c];
                const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
                error2 += w * norm2(e, p, gap);
                energy2 += w * own2;
            }
            map.element_error2[e] = error2;
            energies[e] = energy2;
        }
    });
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        map.error2 += map.element_error2[e];
        map.energy2 += energies[e];
    }
    return map;
}

}  // namespace

ErrorMap estimate_error(const Mesh& mesh, const Laws& laws, const Solution& s, const RecoveredStress& recovered,
                        const std::vector<SingularFit>& singular) {
    const auto fits = fit_of_elements(mesh, singular, false);
    return integrate(
        mesh, laws, fits, [&](std::size_t e, const ElementPoint& p) { return stress_at(mesh, laws, s, e, p); },
        [&](std::size_t e) {
            return mesh.kinds[e] == ElementKind::triangle3 && !laws.axisymmetric() &&
                   laws.plane != Plane::generalised_strain && s.temperature_change.empty();  // and so no factor
        },
        [&](std::size_t e, const ElementPoint& p) {
            return fits[e] ? fits[e]->stress(e, p) : recovered.at(mesh, laws, s, e, p);
        },
        [&](std::size_t e, const ElementPoint& p, const Tensor4& gap) {
            return laws.of(mesh.region[e]).elastic.energy_norm2(gap) / stiffness_at(mesh, s, e, p);
        });
}

ErrorMap estimate_flux_error(const Mesh& mesh, const Laws& laws, const Solution& s, const RecoveredFlux& recovered,
                             const std::vector<SingularFit>& singular) {
    const auto fits = fit_of_elements(mesh, singular, true);
    return integrate(
        mesh, laws, fits, [&](std::size_t e, const ElementPoint& p) { return flux_at(mesh, laws, s, e, p); },
        [&](std::size_t e) { return mesh.kinds[e] == ElementKind::triangle3 && s.conductivity_factor.empty(); },
        [&](std::size_t e, const ElementPoint& p) {
            return fits[e] ? fits[e]->flux(e, p) : recovered.at(mesh, laws, e, p);
        },
        [&](std::size_t e, const ElementPoint& p, const Vec2& gap) {
            return laws.of(mesh.region[e]).conduction.energy_norm2(gap) / conductivity_at(mesh, s, e, p);
        });
}

ErrorMap combined(const ErrorMap& a, const ErrorMap& b) {
    const double sa = a.energy2 + a.error2, sb = b.energy2 + b.error2;
    if (!(sb > 0)) return a;
    if (!(sa > 0)) return b;
    ErrorMap map;
    map.element_error2.resize(a.element_error2.size());
    for (std::size_t e = 0; e < map.element_error2.size(); ++e)
        map.element_error2[e] = a.element_error2[e] / sa + b.element_error2[e] / sb;
    map.error2 = a.error2 / sa + b.error2 / sb;
    map.energy2 = std::max(1 - map.error2, 0.0);  // so that the relative error is the root of the sum
    return map;
}

TrueError true_error(const Mesh& mesh, const Laws& laws, const Solution& solution, const ExactStress& exact,
                     const std::string& file) {
    std::vector<FormulaEvaluator> formulas;
    for (const auto& c : exact.components) formulas.emplace_back(c, file);
    if (exact.szz) formulas.emplace_back(*exact.szz, file);
    const ElementIntegral integral(mesh, laws, solution, formulas, exact.about);
    TrueError sum;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto v = integral.over(e);
        sum.element_error2.push_back(v[0]);
        sum.error2 += v[0];
        sum.energy2 += v[1];
    }
    return sum;
}

}  // namespace dotsift
