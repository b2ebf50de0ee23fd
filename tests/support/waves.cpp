#include "support/waves.hpp"

#include "solve/system/field_system.hpp"

namespace dotsift::test {

SolutionIn<3> solve_wave(const Wave& w, const SolidMesh& mesh, const MaterialSpec& m, SolverMethod method, int* steps) {
    const SolidLaws laws{{solid_law(m)}};
    SolverSpec spec;
    spec.method = method;
    SolutionIn<3> out;
    const FieldProblem elastic = solid_displacement(mesh, laws, held(3, [&](const Vec3& x, std::span<double> v) {
                                                        for (std::size_t c = 0; c < 3; ++c) v[c] = w.displacement(x)[c];
                                                    }));
    FieldSystem system(elastic,
                       {solid_body_forces(mesh, elastic.layout,
                                          [&](const Vec3& x, std::span<double> f) {
                                              for (std::size_t c = 0; c < 3; ++c) f[c] = w.force(m, x)[c];
                                          })},
                       spec);
    out.displacement = vectors_at<3>(system.solve(0), mesh.nodes.size());
    if (steps) *steps = system.report().steps;
    const double k = (*m.conductivity)[0];
    const FieldProblem conducting = solid_potential(
        mesh, laws, held(1, [&](const Vec3& x, std::span<double> v) { v[0] = std::sin(dot(w.wave, x)); }));
    FieldSystem heat(conducting,
                     {solid_body_forces(mesh, conducting.layout,
                                        [&](const Vec3& x, std::span<double> f) {
                                            f[0] = k * dot(w.wave, w.wave) * std::sin(dot(w.wave, x));
                                        })},
                     spec);
    out.potential = heat.solve(0);
    return out;
}

}  // namespace dotsift::test
