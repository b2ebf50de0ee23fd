#include "recovery/estimate.hpp"

#include <cmath>

#include "recovery/recover.hpp"
#include "solve/elasticity.hpp"

namespace dotsift {

namespace {

Plane3 minus(const Plane3& a, const Plane3& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}

constexpr int deepest_subdivision = 24;
constexpr double subdivision_accuracy = 1e-4;

/// Integrates two fields over an element, on ever smaller triangles where they change fast.
class ElementIntegral {
  public:
    ElementIntegral(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws,
                    const std::array<FormulaEvaluator, 3>& exact, const Vec2& about)
        : mesh_(mesh), displacement_(displacement), laws_(laws), exact_(exact), about_(about) {}

    /// Error and energy, squared, per thickness.
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
        const PlaneLaw& law = laws_[static_cast<std::size_t>(mesh_.region[e])];
        const double share = cross(t[1] - t[0], t[2] - t[0]);
        std::array<double, 2> sum{};
        for (const auto& q : triangle_rule(6)) {
            const Vec2 xi = t[0] + (t[1] - t[0]) * q.xi[0] + (t[2] - t[0]) * q.xi[1];
            const ElementPoint p = evaluate(mesh_.kinds[e], positions, xi);
            const FormulaPlace place{p.position, {}, about_};
            const Plane3 truth{exact_[0](place), exact_[1](place), exact_[2](place)};
            const Plane3 gap = minus(truth, law.stress(strain_at(mesh_, displacement_, e, p)));
            const double w = q.weight * share * p.jacobian;
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
    const std::vector<Vec2>& displacement_;
    const RegionLaws& laws_;
    const std::array<FormulaEvaluator, 3>& exact_;
    Vec2 about_;
};

}  // namespace

double ErrorMap::relative() const {
    return energy2 + error2 > 0 ? std::sqrt(error2 / (energy2 + error2)) : 0;
}
double TrueError::relative() const {
    return energy2 > 0 ? std::sqrt(error2 / energy2) : 0;
}

ErrorMap estimate_error(const Mesh& mesh, const std::vector<Vec2>& displacement, const std::vector<Plane3>& recovered,
                        const RegionLaws& laws, double thickness) {
    ErrorMap map;
    map.element_error2.resize(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const PlaneLaw& law = laws[static_cast<std::size_t>(mesh.region[e])];
        double error2 = 0;
        for (const auto& q : quadrature(mesh.kinds[e], 4)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q.xi);
            const Plane3 stress = law.stress(strain_at(mesh, displacement, e, p));
            const double w = q.weight * p.jacobian * thickness;
            error2 += w * law.energy_norm2(minus(interpolate(mesh, recovered, e, p), stress));
            map.energy2 += w * law.energy_norm2(stress);
        }
        map.element_error2[e] = error2;
        map.error2 += error2;
    }
    return map;
}

TrueError true_error(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws, double thickness,
                     const ExactStress& exact, const std::string& file) {
    const std::array<FormulaEvaluator, 3> formulas{FormulaEvaluator(exact.components[0], file),
                                                   FormulaEvaluator(exact.components[1], file),
                                                   FormulaEvaluator(exact.components[2], file)};
    const ElementIntegral integral(mesh, displacement, laws, formulas, exact.about);
    TrueError sum;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto v = integral.over(e);
        sum.error2 += v[0] * thickness;
        sum.energy2 += v[1] * thickness;
    }
    return sum;
}

}  // namespace dotsift
