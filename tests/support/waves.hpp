#pragma once
// A manufactured solution for solids: a wave of displacement and of a potential, its material, and bent cubes.

#include <cmath>
#include <functional>

#include "solve/acting/solid_sides.hpp"
#include "solve/solid_problem.hpp"
#include "solve/solution.hpp"

namespace dotsift::test {

inline MaterialSpec material() {
    MaterialSpec m;
    m.name = "foam";
    m.youngs_modulus = 80;
    m.poissons_ratio = 0.3;
    m.conductivity = {{1.7, 1.7, 1.7}};
    return m;
}

/// Moves what lies inside the cube, here and there.
inline Vec3 shaken(const Vec3& p) {
    Vec3 out = p;
    double inside = 1;
    for (std::size_t a = 0; a < 3; ++a) inside *= std::fabs(p[a]) < 1e-9 || std::fabs(p[a] - 1) < 1e-9 ? 0 : 1;
    for (std::size_t a = 0; a < 3; ++a)
        out[a] += inside * 0.045 * std::sin(17.3 * p[0] + 31.7 * p[1] + 11.9 * p[2] + 2.1 * static_cast<double>(a));
    return out;
}
/// Bends it smoothly, its outline too, but for the face at x = 0, which stays flat.
inline Vec3 bent(const Vec3& p) {
    return p + Vec3{{0.12 * p[0] * std::sin(2 * p[1]), 0.06 * std::sin(2 * p[2] + p[0]), 0.07 * p[0] * p[1]}};
}

/// Everything on the outline has these values, one for each component.
inline SolidRows held(int components, std::function<void(const Vec3&, std::span<double>)> value) {
    return [components, value](const SolidMesh& mesh) {
        return solid_side_rows(
            mesh, components, [](const BoundarySide&) { return true; }, value);
    };
}

/// u = amplitude sin(wave . x), and what makes it.
struct Wave {
    Vec3 amplitude{{0.7, -1.1, 0.4}}, wave{{1.3, 0.9, -1.6}};
    [[nodiscard]] Vec3 displacement(const Vec3& x) const { return amplitude * std::sin(dot(wave, x)); }
    [[nodiscard]] Strain3 strain(const Vec3& x) const {
        const double c = std::cos(dot(wave, x));
        const Vec3 &a = amplitude, &k = wave;
        return {c * a[0] * k[0],
                c * a[1] * k[1],
                c * (a[0] * k[1] + a[1] * k[0]),
                c * a[2] * k[2],
                c * (a[1] * k[2] + a[2] * k[1]),
                c * (a[2] * k[0] + a[0] * k[2])};
    }
    /// -div of the stress, by Lame's constants.
    [[nodiscard]] Vec3 force(const MaterialSpec& m, const Vec3& x) const {
        const double nu = m.poissons_ratio, mu = m.youngs_modulus / (2 * (1 + nu)), lambda = 2 * mu * nu / (1 - 2 * nu);
        return (wave * ((lambda + mu) * dot(amplitude, wave)) + amplitude * (mu * dot(wave, wave))) *
               std::sin(dot(wave, x));
    }
};

/// Displacement and potential sin(wave . x), held on the outline and made by what acts inside. `steps` takes those of
/// the displacement's iteration.
SolutionIn<3> solve_wave(const Wave& wave, const SolidMesh& mesh, const MaterialSpec& material,
                         SolverMethod method = SolverMethod::automatic, int* steps = nullptr);

}  // namespace dotsift::test
