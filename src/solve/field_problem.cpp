#include "solve/field_problem.hpp"

namespace dotsift {

namespace {

const std::vector<double> none;

std::vector<Joint> bare(const std::vector<SourcedJoint>& joints) {
    std::vector<Joint> out;
    out.reserve(joints.size());
    for (const auto& j : joints) out.push_back(j.joint);
    return out;
}

}  // namespace

FieldProblem displacement_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                                  const std::vector<CaseSpec>& cases, const std::vector<double>* factor) {
    FieldProblem p;
    p.mesh = &mesh;
    p.layout = displacement_layout(mesh, study);
    p.rows = displacement_rows(mesh, study, cases);
    p.constraints = constraints_of(p.layout, p.rows, cases.size(), mesh, study);
    p.sourced = foundations(mesh, study, laws);
    p.joints = bare(p.sourced);
    p.arm = arm_of(mesh);
    Box2 box;
    for (const auto& n : mesh.nodes) box.add(n);
    p.centre = box.centre();
    p.element_matrix = [&mesh, &laws, factor, centre = p.centre, arm = p.arm](std::size_t e, ElementMatrix& k) {
        elastic_matrix(mesh, laws, factor ? *factor : none, e, centre, arm, k);
    };
    p.on = [&study, &laws, &cases](const Mesh& other) { return displacement_problem(other, study, laws, cases); };
    return p;
}

FieldProblem potential_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                               const std::vector<CaseSpec>& cases, const std::vector<double>* factor) {
    FieldProblem p;
    p.mesh = &mesh;
    p.layout = potential_layout(mesh);
    p.rows = potential_rows(mesh, study, cases);
    p.constraints = constraints_of(p.layout, p.rows, cases.size(), mesh, study);
    p.sourced = transfers(mesh, study, laws);
    p.joints = bare(p.sourced);
    p.element_matrix = [&mesh, &laws, factor](std::size_t e, ElementMatrix& k) {
        conduction_matrix(mesh, laws, factor ? *factor : none, e, k);
    };
    p.on = [&study, &laws, &cases](const Mesh& other) { return potential_problem(other, study, laws, cases); };
    return p;
}

}  // namespace dotsift
