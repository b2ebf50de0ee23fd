#include "recovery/bound/equilibrium_mesh.hpp"

#include <algorithm>
#include <cmath>

#include "base/dense.hpp"

namespace dotsift::balanced {

namespace {

constexpr std::size_t not_made = static_cast<std::size_t>(-1);

std::array<double, 6> monomials(const Vec2& x) {
    return {1, x[0], x[1], x[0] * x[0], x[0] * x[1], x[1] * x[1]};
}

}  // namespace

ElementPoint point_in(const Mesh& mesh, std::size_t e, const Vec2& position) {
    const auto positions = mesh.positions(e);
    bool converged = true;
    return evaluate(mesh.kinds[e], positions, reference_point(mesh.kinds[e], positions, position, converged));
}

EquilibriumMesh::EquilibriumMesh(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution,
                                 const Kind& kind)
    : nodes(side_nodes_at(kind.degree)),
      mesh_(mesh),
      laws_(laws),
      solution_(solution),
      kind_(kind),
      acting_(mesh, study, laws, solution.load_case) {
    make_macros();
    hold_sides();
    hold_points(study);
    fit_loads();
}

std::size_t EquilibriumMesh::side_between(std::size_t& number, std::int32_t a, std::int32_t b, std::int32_t middle) {
    if (number != not_made) return number;
    number = sides.size();
    Side s;
    const auto at = [&](std::int32_t n) { return mesh_.nodes[static_cast<std::size_t>(n)]; };
    s.p = {at(std::min(a, b)), at(std::max(a, b)), {}};
    s.p[2] = middle < 0 ? (s.p[0] + s.p[1]) * 0.5 : at(middle);
    for (auto& a2 : s.axes) a2 = {{{{1, 0}}, {{0, 1}}}};
    sides.push_back(s);
    return number;
}

void EquilibriumMesh::add_macro(std::size_t e, const std::array<int, 3>& corner, const std::array<int, 3>& side) {
    const auto n = mesh_.element(e);
    const ElementKind kind = mesh_.kinds[e];
    const auto node = [&](std::size_t k) { return n[static_cast<std::size_t>(corner[k % 3])]; };
    Macro m;
    m.element = e;
    Vec2 centre{};
    for (std::size_t k = 0; k < 3; ++k) centre += mesh_.nodes[static_cast<std::size_t>(node(k))] / 3.0;
    for (std::size_t k = 0; k < 3; ++k) {
        const std::int32_t a = node(k), b = node(k + 1);
        const bool bent = side[k] >= 0 && polynomial_degree(kind) == 2;
        const std::size_t at =
            side[k] < 0 ? mesh_.sides.count() + e : mesh_.sides.of(e, static_cast<std::size_t>(side[k]));
        m.side[k] = side_between(number_[at], a, b, bent ? n[side_nodes(kind, side[k])[2]] : -1);
        m.turned[k] = a > b;
        Third& t = m.thirds[k];
        const Vec2 pa = mesh_.nodes[static_cast<std::size_t>(a)], pb = mesh_.nodes[static_cast<std::size_t>(b)];
        t.nodes = {pa, pb, centre, sides[m.side[k]].p[2], (pb + centre) * 0.5, (centre + pa) * 0.5};
        t.centre = (pa + pb + centre) / 3.0;
        t.size = std::max(dotsift::distance(pa, pb), dotsift::distance(pa, centre));
    }
    macros.push_back(m);
}

void EquilibriumMesh::make_macros() {
    number_.assign(mesh_.sides.count() + mesh_.element_count(), not_made);
    for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
        if (corner_count(mesh_.kinds[e]) == 3) {
            add_macro(e, {0, 1, 2}, {0, 1, 2});
            continue;
        }
        // Quadrilaterals along their shorter diagonal, which is straight.
        const auto p = mesh_.positions(e);
        if (dotsift::distance(p[0], p[2]) <= dotsift::distance(p[1], p[3])) {
            add_macro(e, {0, 1, 2}, {0, 1, -1});
            add_macro(e, {0, 2, 3}, {-1, 2, 3});
        } else {
            add_macro(e, {0, 1, 3}, {0, -1, 3});
            add_macro(e, {1, 2, 3}, {1, 2, -1});
        }
    }
}

std::size_t EquilibriumMesh::side_of(const SideLoad& load) const {
    return number_[mesh_.sides.of(static_cast<std::size_t>(load.element), static_cast<std::size_t>(load.side))];
}

std::array<double, 2> EquilibriumMesh::motion(const SideLoad& load, double t) const {
    const auto e = static_cast<std::size_t>(load.element);
    const auto& local = side_nodes(mesh_.kinds[e], load.side);
    const std::array<double, 3> n =
        local.size() < 3 ? std::array<double, 3>{1 - t, t, 0}
                         : std::array<double, 3>{(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)};
    std::array<double, 2> u{};
    for (std::size_t i = 0; i < local.size(); ++i) {
        const std::size_t at = local[i];
        if (kind_.motions == 1) {
            u[0] -= n[i] * solution_.potential[static_cast<std::size_t>(mesh_.slots_of(e)[at])];
            continue;
        }
        const Vec2& d = solution_.displacement[static_cast<std::size_t>(mesh_.element(e)[at])];
        u[0] += n[i] * d[0];
        u[1] += n[i] * d[1];
    }
    return u;
}

void EquilibriumMesh::hold_sides() {
    std::vector<double> five;
    for (const auto& q : line_rule()) five.push_back(q.t);
    for (const auto& load : acting_.sides()) {
        Side& side = sides[side_of(load)];
        const Vec2 start = mesh_.positions(static_cast<std::size_t>(load.element))[static_cast<std::size_t>(
            side_nodes(mesh_.kinds[static_cast<std::size_t>(load.element)], load.side)[0])];
        const bool against = !(start == side.p[0]);
        for (std::size_t g = 0; g < nodes.size(); ++g) {
            const double t = against ? 1 - nodes[g] : nodes[g];  // along the element's side
            const auto u = motion(load, t);
            if (kind_.motions == 1) {
                side.held[g] = {static_cast<char>(!load.flux_known), 0};
                side.value[g] = {u[0], 0};
                continue;
            }
            std::array<Vec2, 2> free{};
            for (std::size_t k = 0; k < 5; ++k)
                for (std::size_t c = 0; c < 2; ++c) free[c] += load.known[k][c] * lagrange(five, k, t);
            const bool first = norm(free[0]) > 0, second = norm(free[1]) > 0;
            if (first && second) continue;
            const Vec2 axis = first ? free[0] / norm(free[0]) : Vec2{{1, 0}};
            side.axes[g] = {axis, turned_left(axis)};
            side.held[g] = {static_cast<char>(!first), 1};
            for (std::size_t c = 0; c < 2; ++c)
                side.value[g][c] = u[0] * side.axes[g][c][0] + u[1] * side.axes[g][c][1];
        }
    }
}

void EquilibriumMesh::hold_points(const Study& study) {
    if (kind_.motions == 1) return;
    for (std::size_t k = 0; k < study.supports.size(); ++k) {
        const auto& support = study.supports[k];
        if (!support.at || !support.mechanical()) continue;
        const Vec2 at = in_plane(*support.at);
        Side* best = nullptr;
        double nearest = INFINITY;
        std::size_t node = 0;
        for (auto& s : sides)
            for (std::size_t g = 0; g < nodes.size(); ++g)
                if (const double d = dotsift::distance(s.at(nodes[g]), at);
                    d < nearest && !s.held[g][0] && !s.held[g][1]) {
                    nearest = d;
                    best = &s;
                    node = g;
                }
        if (!best) continue;
        const bool fixed = support.hold == Hold::fixed;
        best->held[node] = {static_cast<char>(fixed || support.displacement[0]),
                            static_cast<char>(fixed || support.displacement[1])};
    }
}

void EquilibriumMesh::fit_loads() {
    if (!acting_.any_in_volume()) return;
    const int degree = std::min(kind_.degree - 1, 2), terms = (degree + 1) * (degree + 2) / 2;
    for (auto& m : macros)
        for (auto& t : m.thirds) {
            Eigen::MatrixXd a = Eigen::MatrixXd::Zero(terms, terms), b = Eigen::MatrixXd::Zero(terms, 2);
            for (const auto& q : triangle_rule(6)) {
                const ElementPoint p = evaluate(ElementKind::triangle6, t.nodes, q.xi);
                const auto own = point_in(mesh_, m.element, p.position);
                const double depth = laws_.depth(mesh_.region[m.element], p.position);
                const auto load = acting_.inside(m.element, own);
                const auto value = monomials((p.position - t.centre) / t.size);
                const double w = q.weight * p.jacobian;
                for (int i = 0; i < terms; ++i) {
                    for (int j = 0; j < terms; ++j)
                        a(i, j) += w * value[static_cast<std::size_t>(i)] * value[static_cast<std::size_t>(j)];
                    const double wv = w * depth * value[static_cast<std::size_t>(i)];
                    b(i, 0) += wv * (kind_.motions == 1 ? load.flow : load.force[0]);
                    b(i, 1) += wv * (kind_.motions == 1 ? 0 : load.force[1]);
                }
            }
            const Eigen::MatrixXd x = solve_semidefinite(a, b);
            for (int i = 0; i < terms; ++i) t.load[static_cast<std::size_t>(i)] = {x(i, 0), x(i, 1)};
        }
}

Components EquilibriumMesh::carrying(const Third& t, const Vec2& x) const {
    static constexpr std::array<std::array<int, 2>, 6> power{{{0, 0}, {1, 0}, {0, 1}, {2, 0}, {1, 1}, {0, 2}}};
    const auto value = monomials(x);
    Components s{};
    for (std::size_t i = 0; i < 6; ++i) {
        const double along_x = value[i] * x[0] / (power[i][0] + 1), along_y = value[i] * x[1] / (power[i][1] + 1);
        if (kind_.motions == 1) {
            s[0] += t.size * t.load[i][0] * along_x;
        } else {
            s[0] -= t.size * t.load[i][0] * along_x;
            s[1] -= t.size * t.load[i][1] * along_y;
        }
    }
    return s;
}

}  // namespace dotsift::balanced
