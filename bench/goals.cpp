// Estimated over true error of single quantities, by their dual problems: dotsift-goals [SIZE_OF_REFERENCE]
// The truth is the quantity on a mesh that is finer by far.

#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <map>
#include <string>

#include "goals/functional.hpp"
#include "goals/goal.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"

namespace {

using namespace dotsift;

const char* plate = R"toml(format = 1
[part]
[[part.shape]]
add = "rectangle"
size = [4, 2]
names = { left = "left", right = "right", bottom = "bottom", top = "top" }
[[part.shape]]
add = "rectangle"
corner = [1.5, 0.5]
size = [1, 1]
region = "middle"
[material.m]
youngs_modulus = 1000
poissons_ratio = 0.3
[support.wall]
on = "left"
ux = 0
[support.floor]
on = "bottom"
hold = "symmetry"
[load.pull]
on = "right"
traction = ["2 + y^2", 0]
[load.top]
on = "top"
pressure = "sin(3 * x)"
[path.ligament]
points = [[2, 0], [2, 2]]
[quantity.stretch]
of = "ux"
take = "mean"
on = "right"
[quantity.sag]
of = "uy"
at = [4, 2]
[quantity.energy]
of = "strain_energy"
[quantity.mean_stress]
of = "sxx"
take = "mean"
[quantity.ligament_mean]
of = "sxx"
take = "mean"
along = "ligament"
[quantity.ligament_membrane]
of = "sxx"
take = "membrane"
along = "ligament"
[quantity.ligament_edge]
of = "sxx"
take = "linearised"
along = "ligament"
[quantity.wall_force]
of = "reaction_x"
on = "wall"
[quantity.lift]
of = "reaction_y"
on = "floor"
[quantity.section]
of = "section_moment"
along = "ligament"
[quantity.stress_below]
of = "sxx"
at = [2, 0.7]
[quantity.mises_beside]
of = "von_mises"
at = [2.6, 1.1]
[quantity.side_stress]
of = "sxx"
take = "mean"
on = "bottom"
[quantity.middle_stress]
of = "sxx"
take = "mean"
on = "middle"
[quantity.middle_sink]
of = "uy"
take = "mean"
on = "middle"
[size]
global = 0.4
most_elements = 10000000
)toml";

const char* fin = R"toml(format = 1
[part]
[[part.shape]]
add = "rectangle"
size = [4, 2]
names = { left = "left", right = "right", bottom = "bottom", top = "air" }
[[part.shape]]
add = "rectangle"
corner = [1.5, 0.5]
size = [1, 1]
region = "middle"
[material.m]
conductivity = 2
[support.wall]
on = "left"
potential = 100
[load.air]
on = "air"
transfer = 3
ambient = 10
[load.pipe]
on = "middle"
source = 20
[quantity.mean_temperature]
of = "potential"
take = "mean"
[quantity.tip]
of = "potential"
at = [4, 0]
[quantity.heat]
of = "reaction_flow"
on = "wall"
[quantity.flux_below]
of = "flux_x"
at = [2, 0.4]
[size]
global = 0.4
most_elements = 10000000
)toml";

struct Values {
    std::map<std::string, double> value, error, radius;
    std::size_t elements = 0;
};

Values run(const std::string& text, double factor, bool estimate, const std::map<std::string, double>& radius) {
    Problems problems("bench");
    const StudyAndPart both = open_study("bench", text, problems);
    problems.throw_if_any();
    MeshingLog log;
    const Mesh mesh =
        make_mesh(both.study, both.part, sizing_of(both.part, both.study.sizes, ".").scaled(factor), log).mesh;
    StudySolver solver(mesh, both.study);
    CaseFields fields;
    fields.solution = solver.solve().front();
    if (both.study.elastic()) fields.stress = recover_stress(mesh, both.study, solver.laws(), fields.solution);
    if (both.study.conducts()) fields.flux = recover_flux(mesh, both.study, solver.laws(), fields.solution);
    Values out;
    out.elements = mesh.element_count();
    for (const auto& q : both.study.quantities) {
        if (!estimate) {
            const auto f = functional_of(q, both.study, mesh, solver.laws(), fields,
                                         q.at ? std::optional(in_plane(*q.at)) : std::nullopt,
                                         radius.count(q.name) ? radius.at(q.name) : 0);
            if (f) out.value[q.name] = f->value;
            continue;
        }
        QuantityValue value;
        value.position = q.at;
        const auto goal = estimate_goal(q, value, both.study, mesh, solver, fields);
        if (!goal) continue;
        out.value[q.name] = goal->value;
        out.error[q.name] = goal->error;
        out.radius[q.name] = goal->radius;
    }
    return out;
}

}  // namespace

int main(int argc, char** argv) {
    const double finest = argc > 1 ? std::atof(argv[1]) : 1.0 / 32;
    for (const auto& [text, order] : {std::pair{plate, 1}, {plate, 2}, {fin, 1}, {fin, 2}}) {
        const std::string study = std::string(text) + fmt::format("[mesh]\norder = {}\n", order);
        fmt::print("elements of degree {}\n", order);
        for (const double factor : {0.5, 0.25}) {
            const Values v = run(study, factor, true, {});
            const Values truth = run(std::string(text) + "[mesh]\norder = 2\n", finest, false, v.radius);
            for (const auto& [name, value] : v.value) {
                const double error = truth.value.at(name) - value;
                fmt::print("  {:20} {:6} elements  value {:12.6g}  error {:8.4f} %  estimated over true {:6.3f}\n",
                           name, v.elements, value, 100 * error / truth.value.at(name), v.error.at(name) / error);
            }
        }
    }
    return 0;
}
