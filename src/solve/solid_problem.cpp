#include "solve/solid_problem.hpp"

#include <fmt/format.h>

#include "base/errors.hpp"
#include "solve/gradient_kernels.hpp"
#include "solve/system/multigrid.hpp"

namespace dotsift {

namespace {

std::span<const ShapePointIn<3>> solid_points(const SolidMesh& mesh, std::size_t e, std::span<const Vec3> positions) {
    const ElementKind kind = mesh.kinds[e];
    return tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)));
}

void elastic(const SolidMesh& mesh, const SolidLaws& laws, std::size_t e, ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    const SolidLaw& law = laws.of(mesh.region[e]);
    k.reset(3 * nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        const auto gradients = std::span<const Vec3>(p.dn).first(nodes);
        if (law.isotropic)
            add_products(gradients, q.weight * p.jacobian, k);
        else
            add_stiffness(gradients, q.weight * p.jacobian, law.elastic.stiffness, k);
    }
    if (law.isotropic) to_stiffness(law.lambda, law.mu, k);
}

void conducting(const SolidMesh& mesh, const SolidLaws& laws, std::size_t e, ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    k.reset(nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        add_conduction<3>(std::span<const Vec3>(p.dn).first(nodes), laws.of(mesh.region[e]).conduction.conductivity,
                          q.weight * p.jacobian, k);
    }
}

using ElementPart = void (*)(const SolidMesh&, const SolidLaws&, std::size_t, ElementMatrix&);

FieldProblem problem_of(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases,
                        int components, ElementPart part, const Contradicted& contradicted) {
    FieldProblem p;
    p.topology = &mesh;
    p.node_count = mesh.nodes.size();
    const bool by_slot = components == 1;
    p.layout.connectivity = by_slot ? mesh.slots : mesh.connectivity;
    p.layout.components = components;
    p.layout.nodes = static_cast<std::int32_t>(by_slot ? mesh.node_of_slot.size() : mesh.nodes.size());
    p.layout.dofs = p.layout.nodes * components;
    p.layout.shared_first = p.layout.dofs;
    p.rows = rows(mesh);
    p.constraints = eliminate(p.layout.dofs, cases, p.rows, [&](std::size_t row, std::size_t earlier) {
        if (contradicted) contradicted(p.rows[row], p.rows[earlier]);
        throw InputError(fmt::format("equation {} contradicts equation {}", row, earlier));
    });
    p.element_matrix = [&mesh, &laws, part](std::size_t e, ElementMatrix& k) { part(mesh, laws, e, k); };
    p.suits_multigrid = [&mesh] { return suits_multigrid(mesh); };
    p.tell_place = [&mesh, by_slot](std::size_t node, Place& place) {
        place.position = mesh.nodes[by_slot ? static_cast<std::size_t>(mesh.node_of_slot[node]) : node];
    };
    p.on_corners = [&mesh, &laws, rows, cases, components, part, contradicted] {
        auto corners = std::make_shared<const SolidMesh>(linear_mesh(mesh));
        FieldProblem problem = problem_of(*corners, laws, rows, cases, components, part, contradicted);
        return std::make_unique<ProblemOnCorners>(ProblemOnCorners{std::move(corners), std::move(problem)});
    };
    return p;
}

}  // namespace

FieldProblem solid_displacement(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases,
                                const Contradicted& contradicted) {
    return problem_of(mesh, laws, rows, cases, 3, elastic, contradicted);
}

FieldProblem solid_potential(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases,
                             const Contradicted& contradicted) {
    // Regions share one potential where they meet.
    const SolidRows joined = [rows, cases](const SolidMesh& on) {
        auto all = rows(on);
        for (std::size_t s = on.nodes.size(); s < on.node_of_slot.size(); ++s)
            all.push_back({{{static_cast<std::int32_t>(s), 1.0}, {on.node_of_slot[s], -1.0}},
                           std::vector<double>(cases, 0.0),
                           joined_slots});
        return all;
    };
    return problem_of(mesh, laws, joined, cases, 1, conducting, contradicted);
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
