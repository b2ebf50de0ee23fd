#include "solve/solid_problem.hpp"

#include <fmt/format.h>

#include "base/errors.hpp"
#include "solve/acting/tied_slots.hpp"
#include "solve/gradient_kernels.hpp"
#include "solve/system/multigrid.hpp"

namespace dotsift {

namespace {

std::span<const ShapePointIn<3>> solid_points(const SolidMesh& mesh, std::size_t e, std::span<const Vec3> positions) {
    const ElementKind kind = mesh.kinds[e];
    return tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)));
}

void elastic(const SolidMesh& mesh, const SolidLaws& laws, const std::vector<double>& factor, std::size_t e,
             ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    const SolidLaw& law = laws.of(mesh.region[e]);
    k.reset(3 * nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        const auto gradients = std::span<const Vec3>(p.dn).first(nodes);
        double w = q.weight * p.jacobian;
        if (!factor.empty()) w *= slot_value(mesh, factor, e, p);
        if (law.isotropic)
            add_products(gradients, w, k);
        else
            add_stiffness(gradients, w, law.elastic.stiffness, k);
    }
    if (law.isotropic) to_stiffness(law.lambda, law.mu, k);
}

void conducting(const SolidMesh& mesh, const SolidLaws& laws, const std::vector<double>& factor, std::size_t e,
                ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    k.reset(nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        double w = q.weight * p.jacobian;
        if (!factor.empty()) w *= slot_value(mesh, factor, e, p);
        add_conduction<3>(std::span<const Vec3>(p.dn).first(nodes), laws.of(mesh.region[e]).conduction.conductivity, w,
                          k);
    }
}

using ElementPart = void (*)(const SolidMesh&, const SolidLaws&, const std::vector<double>&, std::size_t,
                             ElementMatrix&);
const std::vector<double> no_factor;

/// What makes a problem, on whatever mesh of the part.
struct Recipe {
    const SolidLaws& laws;
    SolidRows rows;
    SolidTies ties;
    std::size_t cases;
    int components;
    ElementPart part;
    Contradicted contradicted;
};

FieldProblem problem_of(const SolidMesh& mesh, const Recipe& recipe, const std::vector<double>* factor) {
    FieldProblem p;
    p.topology = &mesh;
    p.node_count = mesh.nodes.size();
    const bool by_slot = recipe.components == 1;
    p.layout.connectivity = by_slot ? mesh.slots : mesh.connectivity;
    p.layout.components = recipe.components;
    p.layout.nodes = static_cast<std::int32_t>(by_slot ? mesh.node_of_slot.size() : mesh.nodes.size());
    p.layout.dofs = p.layout.nodes * recipe.components;
    p.layout.shared_first = p.layout.dofs;
    p.rows = recipe.rows(mesh);
    if (by_slot) tie_slots(mesh, mesh.nodes.size(), recipe.ties.resistances, recipe.cases, p.rows);
    p.constraints = eliminate(p.layout.dofs, recipe.cases, p.rows, [&](std::size_t row, std::size_t earlier) {
        if (recipe.contradicted) recipe.contradicted(p.rows[row], p.rows[earlier]);
        throw InputError(fmt::format("equation {} contradicts equation {}", row, earlier));
    });
    if (recipe.ties.joints) p.sourced = recipe.ties.joints(mesh);
    p.joints = bare(p.sourced);
    p.element_matrix = [&mesh, &laws = recipe.laws, part = recipe.part, factor](std::size_t e, ElementMatrix& k) {
        part(mesh, laws, factor ? *factor : no_factor, e, k);
    };
    p.suits_multigrid = [&mesh] { return suits_multigrid(mesh); };
    p.tell_place = [&mesh, by_slot](std::size_t node, Place& place) {
        place.position = mesh.nodes[by_slot ? static_cast<std::size_t>(mesh.node_of_slot[node]) : node];
    };
    // There a factor is left out, as in the plane: it only helps to solve.
    p.on_corners = [&mesh, recipe] {
        auto corners = std::make_shared<const SolidMesh>(linear_mesh(mesh));
        FieldProblem problem = problem_of(*corners, recipe, nullptr);
        return std::make_unique<ProblemOnCorners>(ProblemOnCorners{std::move(corners), std::move(problem)});
    };
    return p;
}

}  // namespace

FieldProblem solid_displacement(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases,
                                const Contradicted& contradicted, const SolidTies& ties,
                                const std::vector<double>* factor) {
    return problem_of(mesh, {laws, rows, ties, cases, 3, elastic, contradicted}, factor);
}

FieldProblem solid_potential(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases,
                             const Contradicted& contradicted, const SolidTies& ties,
                             const std::vector<double>* factor) {
    return problem_of(mesh, {laws, rows, ties, cases, 1, conducting, contradicted}, factor);
}

std::vector<double> solid_body_forces(
    const SolidMesh& mesh, const FieldLayout& layout,
    const std::function<void(const Vec3& place, std::span<double> density)>& density) {
    return solid_body_forces(
        mesh, layout, [&](std::size_t, const Vec3& x, std::span<double> here) { density(x, here); },
        [](std::size_t) { return true; });
}

std::vector<double> solid_body_forces(
    const SolidMesh& mesh, const FieldLayout& layout,
    const std::function<void(std::size_t element, const Vec3& place, std::span<double> density)>& density,
    const std::function<bool(std::size_t element)>& acts) {
    constexpr int degree = 6;
    std::vector<double> out(static_cast<std::size_t>(layout.dofs), 0.0);
    const auto components = static_cast<std::size_t>(layout.components);
    std::array<double, 3> here{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!acts(e)) continue;
        const ElementKind kind = mesh.kinds[e];
        const auto positions = mesh.positions(e);
        const auto nodes = layout.connectivity.subspan(static_cast<std::size_t>(mesh.first[e]),
                                                       static_cast<std::size_t>(node_count(kind)));
        for (const auto& q : tabulated<3>(kind, quadrature<3>(kind, degree))) {
            const auto p = evaluate<3>(kind, positions, q);
            density(e, p.position, std::span(here).first(components));
            for (std::size_t i = 0; i < nodes.size(); ++i)
                for (std::size_t c = 0; c < components; ++c)
                    out[static_cast<std::size_t>(nodes[i]) * components + c] +=
                        q.weight * p.jacobian * p.n[i] * here[c];
        }
    }
    return out;
}

}  // namespace dotsift
