#include "solve/elasticity.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "solve/supports.hpp"

namespace dotsift {

namespace {

// A solution that leaves more than this share of the forces unbalanced is none.
constexpr double worst_balance = 1e-9;

constexpr std::size_t most_dofs = 2 * most_element_nodes;
using ElementMatrix = std::array<std::array<double, most_dofs>, most_dofs>;

/// Lower triangle of the element stiffness; rows and columns are (node, axis) pairs.
void element_stiffness(ElementKind kind, std::span<const Vec2> p, const PlaneLaw& law, double thickness,
                       ElementMatrix& k) {
    const auto nodes = static_cast<std::size_t>(node_count(kind));
    for (auto& row : k) row.fill(0);
    const auto& d = law.stiffness;
    for (const auto& q : stiffness_rule(kind, is_straight(kind, p))) {
        const ElementPoint at = evaluate(kind, p, q.xi);
        const double w = q.weight * at.jacobian * thickness;
        for (std::size_t j = 0; j < nodes; ++j) {
            const double bx = at.dn[j][0] * w, by = at.dn[j][1] * w;
            // D B_j, for the displacement of node j along x and along y
            const double x0 = d[0][0] * bx + d[0][2] * by, x1 = d[1][0] * bx + d[1][2] * by,
                         x2 = d[2][0] * bx + d[2][2] * by;
            const double y0 = d[0][1] * by + d[0][2] * bx, y1 = d[1][1] * by + d[1][2] * bx,
                         y2 = d[2][1] * by + d[2][2] * bx;
            for (std::size_t i = j; i < nodes; ++i) {
                const double ax = at.dn[i][0], ay = at.dn[i][1];
                k[2 * i][2 * j] += ax * x0 + ay * x2;
                k[2 * i + 1][2 * j] += ay * x1 + ax * x2;
                k[2 * i][2 * j + 1] += ax * y0 + ay * y2;
                k[2 * i + 1][2 * j + 1] += ay * y1 + ax * y2;
            }
        }
    }
    for (std::size_t i = 0; i < 2 * nodes; ++i)
        for (std::size_t j = i + 1; j < 2 * nodes; ++j) k[i][j] = k[j][i];
}

/// Where the blocks of the matrix are: for each node the nodes of higher number that share an element with it.
struct NodeGraph {
    std::vector<std::int64_t> first;
    std::vector<std::int32_t> neighbour;
    std::vector<std::int32_t> offset;  ///< of the neighbour's rows in the columns of the node, after the node's own
};

NodeGraph node_graph(const Mesh& mesh, const std::vector<NodeFreedom>& freedom) {
    const NodeElements around = node_elements(mesh);
    NodeGraph g;
    g.first.push_back(0);
    std::vector<std::int32_t> mark(mesh.nodes.size(), -1);
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        const auto begin = static_cast<std::ptrdiff_t>(g.neighbour.size());
        for (const auto e : around.of(n)) {
            for (const auto m : mesh.element(static_cast<std::size_t>(e))) {
                if (static_cast<std::size_t>(m) <= n ||
                    mark[static_cast<std::size_t>(m)] == static_cast<std::int32_t>(n))
                    continue;
                mark[static_cast<std::size_t>(m)] = static_cast<std::int32_t>(n);
                g.neighbour.push_back(m);
            }
        }
        std::sort(g.neighbour.begin() + begin, g.neighbour.end());
        std::int32_t offset = 0;
        for (auto k = static_cast<std::size_t>(begin); k < g.neighbour.size(); ++k) {
            g.offset.push_back(offset);
            offset += freedom[static_cast<std::size_t>(g.neighbour[k])].free;
        }
        g.first.push_back(static_cast<std::int64_t>(g.neighbour.size()));
    }
    return g;
}

struct System {
    SymmetricMatrix matrix;
    std::vector<double> right_side;
    std::vector<std::int32_t> first_unknown;  ///< of each node
    std::vector<std::int32_t> order;          ///< fill-reducing
};

void set_up_pattern(const std::vector<NodeFreedom>& freedom, const NodeGraph& g, System& s) {
    s.first_unknown.resize(freedom.size() + 1);
    s.first_unknown[0] = 0;
    for (std::size_t n = 0; n < freedom.size(); ++n) s.first_unknown[n + 1] = s.first_unknown[n] + freedom[n].free;
    const std::int32_t size = s.first_unknown.back();
    s.matrix.size = size;
    s.matrix.column_first.assign(1, 0);
    s.matrix.column_first.reserve(static_cast<std::size_t>(size) + 1);
    std::int64_t count = 0;
    for (std::size_t n = 0; n < freedom.size(); ++n) {
        std::int32_t below = 0;
        for (auto k = g.first[n]; k < g.first[n + 1]; ++k)
            below += freedom[static_cast<std::size_t>(g.neighbour[static_cast<std::size_t>(k)])].free;
        for (int c = 0; c < freedom[n].free; ++c) {
            count += freedom[n].free - c + below;
            if (count > INT32_MAX)
                throw SolveError("the system has more than 2^31 entries", {}, "ask for larger elements");
            s.matrix.column_first.push_back(static_cast<std::int32_t>(count));
        }
    }
    s.matrix.row.resize(static_cast<std::size_t>(count));
    s.matrix.value.assign(static_cast<std::size_t>(count), 0.0);
    for (std::size_t n = 0; n < freedom.size(); ++n) {
        for (int c = 0; c < freedom[n].free; ++c) {
            auto at = static_cast<std::size_t>(s.matrix.column_first[static_cast<std::size_t>(s.first_unknown[n] + c)]);
            for (int a = c; a < freedom[n].free; ++a) s.matrix.row[at++] = s.first_unknown[n] + a;
            for (auto k = g.first[n]; k < g.first[n + 1]; ++k) {
                const auto m = static_cast<std::size_t>(g.neighbour[static_cast<std::size_t>(k)]);
                for (int a = 0; a < freedom[m].free; ++a) s.matrix.row[at++] = s.first_unknown[m] + a;
            }
        }
    }
    // Ordering the graph of the nodes and expanding it is a quarter of the work of ordering the unknowns.
    SymmetricMatrix graph;
    graph.size = static_cast<std::int32_t>(freedom.size());
    graph.column_first.reserve(freedom.size() + 1);
    for (std::size_t n = 0; n <= freedom.size(); ++n)
        graph.column_first.push_back(static_cast<std::int32_t>(g.first[n]));
    graph.row = g.neighbour;
    for (const auto n : minimum_degree_order(graph))
        for (int c = 0; c < freedom[static_cast<std::size_t>(n)].free; ++c)
            s.order.push_back(s.first_unknown[static_cast<std::size_t>(n)] + c);
}

void assemble(const Mesh& mesh, const std::vector<NodeFreedom>& freedom, const NodeGraph& g, const RegionLaws& laws,
              double thickness, const std::vector<Vec2>& force, System& s) {
    s.right_side.assign(static_cast<std::size_t>(s.matrix.size), 0.0);
    for (std::size_t n = 0; n < freedom.size(); ++n)
        for (int c = 0; c < freedom[n].free; ++c)
            s.right_side[static_cast<std::size_t>(s.first_unknown[n] + c)] =
                dot(force[n], freedom[n].direction[static_cast<std::size_t>(c)]);
    ElementMatrix k{};
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        const auto positions = mesh.positions(e);
        element_stiffness(mesh.kinds[e], positions, laws[static_cast<std::size_t>(mesh.region[e])], thickness, k);
        for (std::size_t j = 0; j < nodes.size(); ++j) {
            const auto nj = static_cast<std::size_t>(nodes[j]);
            const auto& fj = freedom[nj];
            for (std::size_t i = 0; i < nodes.size(); ++i) {
                const auto ni = static_cast<std::size_t>(nodes[i]);
                const auto& fi = freedom[ni];
                const double xx = k[2 * i][2 * j], xy = k[2 * i][2 * j + 1], yx = k[2 * i + 1][2 * j],
                             yy = k[2 * i + 1][2 * j + 1];
                if (fj.free < 2 && !(fj.given == Vec2{})) {
                    const Vec2 f{{xx * fj.given[0] + xy * fj.given[1], yx * fj.given[0] + yy * fj.given[1]}};
                    for (int a = 0; a < fi.free; ++a)
                        s.right_side[static_cast<std::size_t>(s.first_unknown[ni] + a)] -=
                            dot(f, fi.direction[static_cast<std::size_t>(a)]);
                }
                if (ni < nj) continue;
                std::int64_t offset = 0;  // of node i's rows in node j's columns, after the node's own rows
                if (ni != nj) {
                    const auto* begin = g.neighbour.data() + g.first[nj];
                    const auto* end = g.neighbour.data() + g.first[nj + 1];
                    offset = g.offset[static_cast<std::size_t>(g.first[nj] +
                                                               (std::lower_bound(begin, end, nodes[i]) - begin))];
                }
                for (int b = 0; b < fj.free; ++b) {
                    const Vec2& db = fj.direction[static_cast<std::size_t>(b)];
                    const Vec2 kb{{xx * db[0] + xy * db[1], yx * db[0] + yy * db[1]}};
                    const auto column = static_cast<std::size_t>(
                        s.matrix.column_first[static_cast<std::size_t>(s.first_unknown[nj] + b)]);
                    for (int a = ni == nj ? b : 0; a < fi.free; ++a) {
                        const auto at = ni == nj ? column + static_cast<std::size_t>(a - b)
                                                 : column + static_cast<std::size_t>(fj.free - b + offset + a);
                        s.matrix.value[at] += dot(kb, fi.direction[static_cast<std::size_t>(a)]);
                    }
                }
            }
        }
    }
}

/// Forces of the stressed elements at the nodes, and the strain energy.
std::vector<Vec2> internal_forces(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws,
                                  double thickness, double& energy) {
    std::vector<Vec2> force(mesh.nodes.size());
    energy = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        const auto positions = mesh.positions(e);
        for (const auto& q : stiffness_rule(mesh.kinds[e], is_straight(mesh.kinds[e], positions))) {
            const ElementPoint at = evaluate(mesh.kinds[e], positions, q.xi);
            const Plane3 strain = strain_at(mesh, displacement, e, at),
                         stress = laws[static_cast<std::size_t>(mesh.region[e])].stress(strain);
            const double w = q.weight * at.jacobian * thickness;
            energy += 0.5 * w * (stress[0] * strain[0] + stress[1] * strain[1] + stress[2] * strain[2]);
            for (std::size_t i = 0; i < nodes.size(); ++i)
                force[static_cast<std::size_t>(nodes[i])] += Vec2{{at.dn[i][0] * stress[0] + at.dn[i][1] * stress[2],
                                                                   at.dn[i][1] * stress[1] + at.dn[i][0] * stress[2]}} *
                                                             w;
        }
    }
    return force;
}

void find_reactions(const Mesh& mesh, const Study& study, const std::vector<NodeFreedom>& freedom,
                    const std::vector<Vec2>& internal, const std::vector<Vec2>& applied, Solution& out) {
    for (const auto& s : study.supports) out.reactions.push_back({s.name, {}, 0});
    auto& b = out.balance;
    double& magnitude = b.magnitude;
    Box2 box;
    for (std::size_t n = 0; n < freedom.size(); ++n) {
        box.add(mesh.nodes[n]);
        b.applied += applied[n];
        b.applied_moment += cross(mesh.nodes[n], applied[n]);
        magnitude += norm(applied[n]);
        if (freedom[n].support < 0) continue;
        Vec2 r = internal[n] - applied[n];
        if (freedom[n].free == 1)
            r -= freedom[n].direction[0] * dot(r, freedom[n].direction[0]);  // no force where it may slide
        auto& reaction = out.reactions[static_cast<std::size_t>(freedom[n].support)];
        reaction.force += r;
        reaction.moment += cross(mesh.nodes[n], r);
        b.reaction += r;
        b.reaction_moment += cross(mesh.nodes[n], r);
        magnitude += norm(r);
    }
    const Vec2 sum = b.applied + b.reaction;
    const double arm = std::max(box.diagonal(), norm(box.centre()));
    if (magnitude > 0)
        b.relative_error =
            std::max({std::fabs(sum[0]), std::fabs(sum[1]), std::fabs(b.applied_moment + b.reaction_moment) / arm}) /
            magnitude;
}

}  // namespace

Plane3 strain_at(const Mesh& mesh, const std::vector<Vec2>& displacement, std::size_t e, const ElementPoint& p) {
    Plane3 strain{};
    const auto nodes = mesh.element(e);
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        const Vec2& u = displacement[static_cast<std::size_t>(nodes[i])];
        strain[0] += p.dn[i][0] * u[0];
        strain[1] += p.dn[i][1] * u[1];
        strain[2] += p.dn[i][1] * u[0] + p.dn[i][0] * u[1];
    }
    return strain;
}

Solution solve_elasticity(const Mesh& mesh, const Study& study) {
    const RegionLaws laws = region_laws(study, mesh.region_names);
    const auto freedom = node_freedoms(mesh, study);
    NodalLoads loads = nodal_loads(mesh, study);
    System system;
    {
        const NodeGraph graph = node_graph(mesh, freedom);
        set_up_pattern(freedom, graph, system);
        assemble(mesh, freedom, graph, laws, study.thickness, loads.force, system);
    }
    Solution out;
    out.unknowns = system.matrix.size;
    const auto solver = make_direct_solver();
    std::vector<double> x;
    try {
        solver->factor(system.matrix, system.order);
        x = solver->solve(system.right_side);
    } catch (const SolveError& e) {
        if (solver->bad_unknown() < 0) throw;
        const auto found =
            std::upper_bound(system.first_unknown.begin(), system.first_unknown.end(), solver->bad_unknown());
        Place place = e.place();
        place.position = mesh.nodes[static_cast<std::size_t>(found - system.first_unknown.begin()) - 1];
        throw SolveError(e.what(), place, e.remedy());
    }
    out.solver = solver->report();
    out.displacement.resize(mesh.nodes.size());
    for (std::size_t n = 0; n < freedom.size(); ++n) {
        out.displacement[n] = freedom[n].given;
        for (int c = 0; c < freedom[n].free; ++c)
            out.displacement[n] += freedom[n].direction[static_cast<std::size_t>(c)] *
                                   x[static_cast<std::size_t>(system.first_unknown[n] + c)];
    }
    const auto internal = internal_forces(mesh, out.displacement, laws, study.thickness, out.strain_energy);
    find_reactions(mesh, study, freedom, internal, loads.force, out);
    if (!(out.balance.relative_error <= worst_balance))
        throw SolveError(fmt::format("loads and reactions do not balance: they leave {:.2g} of the forces at work",
                                     out.balance.relative_error),
                         {}, "the part is not held, or its constants differ by too many orders of magnitude");
    out.loads = std::move(loads.totals);
    return out;
}

}  // namespace dotsift
