#include "solve/field_problem.hpp"

#include "solve/system/multigrid.hpp"

namespace dotsift {

namespace {

const std::vector<double> none;

PlaneProblem problem_on(const Mesh& mesh, const FieldLayout& layout) {
    PlaneProblem p;
    p.mesh = &mesh;
    p.topology = &mesh;
    p.node_count = mesh.nodes.size();
    p.layout = layout;
    p.suits_multigrid = [&mesh] { return suits_multigrid(mesh); };
    const bool by_slot = layout.connectivity.data() == mesh.slots.data();
    p.tell_place = [&mesh, by_slot](std::size_t node, Place& place) {
        place.position = mesh.nodes[by_slot ? static_cast<std::size_t>(mesh.node_of_slot[node]) : node];
    };
    return p;
}

/// Sets `on`, and `on_corners` from it.
void make_again(PlaneProblem& p, std::function<PlaneProblem(const Mesh&)> on) {
    p.on_corners = [&mesh = *p.mesh, on] {
        auto corners = std::make_shared<const Mesh>(linear_mesh(mesh));
        FieldProblem problem = on(*corners);
        return std::make_unique<ProblemOnCorners>(ProblemOnCorners{std::move(corners), std::move(problem)});
    };
    p.on = std::move(on);
}

}  // namespace

PlaneProblem displacement_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                                  const std::vector<CaseSpec>& cases, const std::vector<double>* factor) {
    PlaneProblem p = problem_on(mesh, displacement_layout(mesh, study));
    p.rows = displacement_rows(mesh, study, cases);
    p.constraints = constraints_of(p.layout, p.rows, cases.size(), mesh, study);
    p.sourced = foundations<2>(mesh, study, laws);
    p.joints = bare(p.sourced);
    p.arm = arm_of(mesh);
    Box2 box;
    for (const auto& n : mesh.nodes) box.add(n);
    p.centre = box.centre();
    p.element_matrix = [&mesh, &laws, factor, centre = p.centre, arm = p.arm](std::size_t e, ElementMatrix& k) {
        elastic_matrix(mesh, laws, factor ? *factor : none, e, centre, arm, k);
    };
    make_again(p, [&study, &laws, &cases](const Mesh& m) { return displacement_problem(m, study, laws, cases); });
    return p;
}

PlaneProblem potential_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                               const std::vector<CaseSpec>& cases, const std::vector<double>* factor) {
    PlaneProblem p = problem_on(mesh, potential_layout(mesh));
    p.rows = potential_rows(mesh, study, cases);
    p.constraints = constraints_of(p.layout, p.rows, cases.size(), mesh, study);
    p.sourced = transfers<2>(mesh, study, laws);
    p.joints = bare(p.sourced);
    p.element_matrix = [&mesh, &laws, factor](std::size_t e, ElementMatrix& k) {
        conduction_matrix(mesh, laws, factor ? *factor : none, e, k);
    };
    make_again(p, [&study, &laws, &cases](const Mesh& m) { return potential_problem(m, study, laws, cases); });
    return p;
}

}  // namespace dotsift
