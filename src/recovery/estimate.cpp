#include "recovery/estimate.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/parallel.hpp"
#include "recovery/fit/corner_rule.hpp"
#include "recovery/fit/singular_fit.hpp"

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
            const Stress computed = stress_at(mesh_, laws_, solution_, e, p);
            Stress truth{exact_[0](place), exact_[1](place), exact_[2](place), 0};
            // zz: given, or what makes the strain zz that the solution has too.
            if (exact_.size() == 4)
                truth[3] = exact_[3](place);
            else if (laws_.plane != Plane::stress)
                truth[3] = computed[3] - (law.compliance[3][0] * (truth[0] - computed[0]) +
                                          law.compliance[3][1] * (truth[1] - computed[1]) +
                                          law.compliance[3][2] * (truth[2] - computed[2])) /
                                             law.compliance[3][3];
            const Stress gap = difference(truth, computed);
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

/// Points for the square of a difference of the elements' degree, times depth or stiffness where they change; in
/// elements at singular points for what is there. These stand in `own`.
class PlaneRule {
  public:
    PlaneRule(const Mesh& mesh, const Laws& laws, const std::vector<const SingularFit*>& fits)
        : mesh_(mesh), laws_(laws), fits_(fits) {}

    std::span<const ShapePoint> operator()(std::size_t e, std::vector<ShapePoint>& own) const {
        const ElementKind kind = mesh_.kinds[e];
        const int degree = fits_[e] ? 6 : polynomial_degree(kind) == 1 && laws_.even(mesh_.region[e]) ? 2 : 4;
        if (const auto singular = fits_[e] ? corner_at(mesh_, e, *fits_[e]) : std::nullopt) {
            own = points_towards(kind, *singular, degree);
            return own;
        }
        return tabulated(kind, quadrature(kind, degree));
    }

  private:
    const Mesh& mesh_;
    const Laws& laws_;
    const std::vector<const SingularFit*>& fits_;
};

/// rule(e, storage) gives an element's points; value(e, p) of the elements, the same everywhere in those that are
/// uniform(e); smooth(e, p) of the recovered field; norm2(e, p, difference).
template <int D, class Rule, class ValueAt, class Uniform, class Smooth, class Norm2>
ErrorMap integrate(const MeshIn<D>& mesh, const LawsIn<D>& laws, Rule rule, ValueAt value, Uniform uniform,
                   Smooth smooth, Norm2 norm2) {
    ErrorMap map;
    map.element_error2.resize(mesh.element_count());
    std::vector<double> energies(mesh.element_count());
    constexpr std::size_t piece = 64;  // those at singular points, which take longest, lie near each other
    in_parallel_pieces(mesh.element_count(), piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
            double error2 = 0, energy2 = 0;
            decltype(value(e, ElementPointIn<D>{})) own;
            double own2 = 0;
            bool known = false;
            const ElementKind kind = mesh.kinds[e];
            const auto positions = mesh.positions(e);
            std::vector<ShapePointIn<D>> storage;
            for (const auto& q : rule(e, storage)) {
                const auto p = evaluate<D>(kind, positions, q);
                if (!known || !uniform(e)) {
                    own = value(e, p);
                    own2 = norm2(e, p, own);
                    known = true;
                }
                const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
                error2 += w * norm2(e, p, difference(smooth(e, p), own));
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

template <int D, class Rule, class Uniform, class Smooth>
ErrorMap stress_error(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& s, Rule rule, Uniform uniform,
                      Smooth smooth) {
    return integrate(
        mesh, laws, rule, [&](std::size_t e, const ElementPointIn<D>& p) { return stress_at(mesh, laws, s, e, p); },
        uniform, smooth,
        [&](std::size_t e, const ElementPointIn<D>& p, const StressIn<D>& gap) {
            return laws.of(mesh.region[e]).elastic.energy_norm2(gap) / stiffness_at(mesh, s, e, p);
        });
}

template <int D, class Rule, class Uniform, class Smooth>
ErrorMap flux_error(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& s, Rule rule, Uniform uniform,
                    Smooth smooth) {
    return integrate(
        mesh, laws, rule, [&](std::size_t e, const ElementPointIn<D>& p) { return flux_at(mesh, laws, s, e, p); },
        uniform, smooth,
        [&](std::size_t e, const ElementPointIn<D>& p, const Vec<D>& gap) {
            return laws.of(mesh.region[e]).conduction.energy_norm2(gap) / conductivity_at(mesh, s, e, p);
        });
}

/// Of solids, where nothing is singular yet.
auto solid_rule(const SolidMesh& mesh) {
    return [&mesh](std::size_t e, std::vector<ShapePointIn<3>>&) {
        const ElementKind kind = mesh.kinds[e];
        return tabulated<3>(kind, quadrature<3>(kind, 2 * polynomial_degree(kind)));
    };
}

}  // namespace

ErrorMap estimate_error(const Mesh& mesh, const Laws& laws, const Solution& s, const RecoveredStress& recovered,
                        const std::vector<SingularFit>& singular) {
    const auto fits = fit_of_elements(mesh, singular, false);
    return stress_error(
        mesh, laws, s, PlaneRule(mesh, laws, fits),
        [&](std::size_t e) {
            return mesh.kinds[e] == ElementKind::triangle3 && !laws.axisymmetric() &&
                   laws.plane != Plane::generalised_strain && s.temperature_change.empty();  // and so no factor
        },
        [&](std::size_t e, const ElementPoint& p) {
            return fits[e] ? fits[e]->stress(e, p) : recovered.at(mesh, laws, s, e, p);
        });
}

ErrorMap estimate_flux_error(const Mesh& mesh, const Laws& laws, const Solution& s, const RecoveredFlux& recovered,
                             const std::vector<SingularFit>& singular) {
    const auto fits = fit_of_elements(mesh, singular, true);
    return flux_error(
        mesh, laws, s, PlaneRule(mesh, laws, fits),
        [&](std::size_t e) { return mesh.kinds[e] == ElementKind::triangle3 && s.conductivity_factor.empty(); },
        [&](std::size_t e, const ElementPoint& p) {
            return fits[e] ? fits[e]->flux(e, p) : recovered.at(mesh, laws, e, p);
        });
}

ErrorMap estimate_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s,
                        const RecoveredStressIn<3>& recovered) {
    return stress_error(
        mesh, laws, s, solid_rule(mesh),
        [&](std::size_t e) { return mesh.kinds[e] == ElementKind::tetrahedron4 && s.temperature_change.empty(); },
        [&](std::size_t e, const ElementPointIn<3>& p) { return recovered.at(mesh, laws, s, e, p); });
}

ErrorMap estimate_flux_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s,
                             const RecoveredFluxIn<3>& recovered) {
    return flux_error(
        mesh, laws, s, solid_rule(mesh),
        [&](std::size_t e) { return mesh.kinds[e] == ElementKind::tetrahedron4 && s.conductivity_factor.empty(); },
        [&](std::size_t e, const ElementPointIn<3>& p) { return recovered.at(mesh, laws, e, p); });
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

TrueError true_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                     const ExactStress& exact, const std::string& file) {
    constexpr std::size_t piece = 1024;
    TrueError sum;
    sum.element_error2.resize(mesh.element_count());
    std::vector<double> energies(mesh.element_count());
    in_parallel_pieces(mesh.element_count(), piece, [&](std::size_t begin, std::size_t end) {
        std::vector<FormulaEvaluator> truth;  // in the order of a stress
        for (const Formula* f :
             {&exact.components[0], &exact.components[1], &exact.components[2], &*exact.szz, &*exact.syz, &*exact.szx})
            truth.emplace_back(*f, file, space_names());
        const Vec3 about = in_space(exact.about);
        for (std::size_t e = begin; e < end; ++e) {
            const ElasticLawIn<3>& law = laws.of(mesh.region[e]).elastic;
            const auto positions = mesh.positions(e);
            for (const auto& q : tabulated<3>(mesh.kinds[e], quadrature<3>(mesh.kinds[e], 6))) {
                const auto p = evaluate<3>(mesh.kinds[e], positions, q);
                Stress3 stress;
                for (std::size_t c = 0; c < stress.size(); ++c)
                    stress[c] = truth[c](FormulaPlaceIn<3>{p.position, {}, about});
                const double w = q.weight * p.jacobian / stiffness_at(mesh, solution, e, p);
                sum.element_error2[e] +=
                    w * law.energy_norm2(difference(stress, stress_at(mesh, laws, solution, e, p)));
                energies[e] += w * law.energy_norm2(stress);
            }
        }
    });
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        sum.error2 += sum.element_error2[e];
        sum.energy2 += energies[e];
    }
    return sum;
}

}  // namespace dotsift
