#include "solve/solid_problem.hpp"

#include <fmt/format.h>

#include "base/errors.hpp"
#include "solve/system/multigrid.hpp"

namespace dotsift {

namespace {

std::span<const ShapePointIn<3>> solid_points(const SolidMesh& mesh, std::size_t e, std::span<const Vec3> positions) {
    const ElementKind kind = mesh.kinds[e];
    return tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)));
}

const SolidLaw& law_of(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, std::size_t e) {
    return laws[static_cast<std::size_t>(mesh.region[e])];
}

/// Strain of a displacement along each axis whose gradient this is: which components it brings, and by which of its
/// parts. xx, yy, zz first.
struct Strains {
    std::array<std::uint8_t, 3> component, part;
};
constexpr std::array<Strains, 3> strains_along{
    {{{0, 2, 5}, {0, 1, 2}}, {{1, 2, 4}, {1, 0, 2}}, {{3, 4, 5}, {2, 1, 0}}}};

/// Adds weight * gradient of node i times gradient of node j to the block of each pair.
void add_products(std::span<const Vec3> g, double weight, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < g.size(); ++j) {
        const Vec3 along = g[j] * weight;
        for (std::size_t i = j; i < g.size(); ++i) {
            // Written out: the compiler keeps loops this short.
            double *x = k.row(3 * i) + 3 * j, *y = x + n, *z = y + n;
            x[0] += g[i][0] * along[0];
            x[1] += g[i][0] * along[1];
            x[2] += g[i][0] * along[2];
            y[0] += g[i][1] * along[0];
            y[1] += g[i][1] * along[1];
            y[2] += g[i][1] * along[2];
            z[0] += g[i][2] * along[0];
            z[1] += g[i][2] * along[1];
            z[2] += g[i][2] * along[2];
        }
    }
}

/// Makes the stiffness of an isotropic material of the sums of such products G: lambda G + mu (G^T + trace G).
void to_stiffness(const SolidLaw& law, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < n; j += 3)
        for (std::size_t i = j; i < n; i += 3) {
            std::array<double*, 3> row{k.row(i) + j, k.row(i + 1) + j, k.row(i + 2) + j};
            const double trace = law.mu * (row[0][0] + row[1][1] + row[2][2]);
            for (std::size_t a = 0; a < 3; ++a) {
                for (std::size_t b = 0; b < a; ++b) {
                    const double ab = row[a][b], ba = row[b][a];
                    row[a][b] = law.lambda * ab + law.mu * ba;
                    row[b][a] = law.lambda * ba + law.mu * ab;
                }
                row[a][a] = (law.lambda + law.mu) * row[a][a] + trace;
            }
        }
}

/// Adds what one point brings, of any material.
void add_stiffness(std::span<const Vec3> g, double weight, const Matrix6& d, ElementMatrix& k) {
    for (std::size_t j = 0; j < g.size(); ++j) {
        std::array<Tensor6, 3> stress{};  // of the displacement of node j along each axis
        for (std::size_t b = 0; b < 3; ++b)
            for (std::size_t s = 0; s < 3; ++s) {
                const double strain = weight * g[j][strains_along[b].part[s]];
                for (std::size_t c = 0; c < 6; ++c) stress[b][c] += d[c][strains_along[b].component[s]] * strain;
            }
        for (std::size_t i = j; i < g.size(); ++i)
            for (std::size_t b = 0; b < 3; ++b) {
                const Tensor6& t = stress[b];
                k(3 * i, 3 * j + b) += g[i][0] * t[0] + g[i][1] * t[2] + g[i][2] * t[5];
                k(3 * i + 1, 3 * j + b) += g[i][1] * t[1] + g[i][0] * t[2] + g[i][2] * t[4];
                k(3 * i + 2, 3 * j + b) += g[i][2] * t[3] + g[i][1] * t[4] + g[i][0] * t[5];
            }
    }
}

void elastic(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, std::size_t e, ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    const SolidLaw& law = law_of(mesh, laws, e);
    k.reset(3 * nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        const auto gradients = std::span<const Vec3>(p.dn).first(nodes);
        if (law.isotropic)
            add_products(gradients, q.weight * p.jacobian, k);
        else
            add_stiffness(gradients, q.weight * p.jacobian, law.stiffness, k);
    }
    if (law.isotropic) to_stiffness(law, k);
}

void conducting(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, std::size_t e, ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(mesh.kinds[e]));
    const auto positions = mesh.positions(e);
    k.reset(nodes);
    for (const auto& q : solid_points(mesh, e, positions)) {
        const auto p = evaluate<3>(mesh.kinds[e], positions, q);
        add_conduction(std::span<const Vec3>(p.dn).first(nodes), law_of(mesh, laws, e).conductivity,
                       q.weight * p.jacobian, k);
    }
}

using ElementPart = void (*)(const SolidMesh&, const std::vector<SolidLaw>&, std::size_t, ElementMatrix&);

FieldProblem problem_of(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, const SolidRows& rows,
                        std::size_t cases, int components, ElementPart part) {
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
    p.constraints = eliminate(p.layout.dofs, cases, p.rows, [](std::size_t row, std::size_t earlier) {
        throw InputError(fmt::format("equation {} contradicts equation {}", row, earlier));
    });
    p.element_matrix = [&mesh, &laws, part](std::size_t e, ElementMatrix& k) { part(mesh, laws, e, k); };
    p.suits_multigrid = [&mesh] { return suits_multigrid(mesh); };
    p.tell_place = [&mesh, by_slot](std::size_t node, Place& place) {
        place.position = mesh.nodes[by_slot ? static_cast<std::size_t>(mesh.node_of_slot[node]) : node];
    };
    p.on_corners = [&mesh, &laws, rows, cases, components, part] {
        auto corners = std::make_shared<const SolidMesh>(linear_mesh(mesh));
        FieldProblem problem = problem_of(*corners, laws, rows, cases, components, part);
        return std::make_unique<ProblemOnCorners>(ProblemOnCorners{std::move(corners), std::move(problem)});
    };
    return p;
}

}  // namespace

FieldProblem solid_displacement(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, const SolidRows& rows,
                                std::size_t cases) {
    return problem_of(mesh, laws, rows, cases, 3, elastic);
}

FieldProblem solid_potential(const SolidMesh& mesh, const std::vector<SolidLaw>& laws, const SolidRows& rows,
                             std::size_t cases) {
    // Regions share one potential where they meet.
    const SolidRows joined = [rows, cases](const SolidMesh& on) {
        auto all = rows(on);
        for (std::size_t s = on.nodes.size(); s < on.node_of_slot.size(); ++s)
            all.push_back({{{static_cast<std::int32_t>(s), 1.0}, {on.node_of_slot[s], -1.0}},
                           std::vector<double>(cases, 0.0),
                           joined_slots});
        return all;
    };
    return problem_of(mesh, laws, joined, cases, 1, conducting);
}

Tensor6 solid_strain(const SolidMesh& mesh, const std::vector<Vec3>& displacement, std::size_t e,
                     const ElementPointIn<3>& p) {
    Tensor6 strain{};
    const auto nodes = mesh.element(e);
    for (std::size_t i = 0; i < nodes.size(); ++i)
        for (std::size_t a = 0; a < 3; ++a)
            for (std::size_t s = 0; s < 3; ++s)
                strain[strains_along[a].component[s]] +=
                    p.dn[i][strains_along[a].part[s]] * displacement[static_cast<std::size_t>(nodes[i])][a];
    return strain;
}

Vec3 solid_gradient(const SolidMesh& mesh, const std::vector<double>& slots, std::size_t e,
                    const ElementPointIn<3>& p) {
    Vec3 g;
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i) g += p.dn[i] * slots[static_cast<std::size_t>(list[i])];
    return g;
}

std::vector<double> solid_body_forces(
    const SolidMesh& mesh, const FieldLayout& layout,
    const std::function<void(const Vec3& place, std::span<double> density)>& density) {
    constexpr int degree = 6;
    std::vector<double> out(static_cast<std::size_t>(layout.dofs), 0.0);
    const auto components = static_cast<std::size_t>(layout.components);
    std::array<double, 3> here{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const ElementKind kind = mesh.kinds[e];
        const auto positions = mesh.positions(e);
        const auto nodes = layout.connectivity.subspan(static_cast<std::size_t>(mesh.first[e]),
                                                       static_cast<std::size_t>(node_count(kind)));
        for (const auto& q : tabulated<3>(kind, quadrature<3>(kind, degree))) {
            const auto p = evaluate<3>(kind, positions, q);
            density(p.position, std::span(here).first(components));
            for (std::size_t i = 0; i < nodes.size(); ++i)
                for (std::size_t c = 0; c < components; ++c)
                    out[static_cast<std::size_t>(nodes[i]) * components + c] +=
                        q.weight * p.jacobian * p.n[i] * here[c];
        }
    }
    return out;
}

}  // namespace dotsift
