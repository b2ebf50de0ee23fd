#include "recovery/bound/admissible.hpp"

#include <Eigen/SparseCore>
#include <algorithm>
#include <cmath>

#include "base/dense.hpp"
#include "base/errors.hpp"
#include "base/parallel.hpp"
#include "mesh/side_views.hpp"
#include "recovery/bound/equilibrium_mesh.hpp"
#include "solve/material/volume_strain.hpp"
#include "solve/system/linear_solver.hpp"

namespace dotsift {

namespace {

// Eigenvalues of a macro element's inner sides below this share of the largest are motions that do no work.
constexpr double spurious_share = 1e-11;
// A force at a held point above this share of all nodal forces is more than what rounding leaves.
constexpr double point_force_share = 1e-7;

using namespace balanced;
using Matrix = Eigen::MatrixXd;
using Vector = Eigen::VectorXd;

/// The equilibrium mesh of one field.
class BalancedField {
  public:
    BalancedField(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution, const Kind& kind)
        : mesh_(mesh), laws_(laws), solution_(solution), kind_(kind), equilibrium_(mesh, study, laws, solution, kind) {}

    std::optional<ErrorMap> bound() {
        if (!solve()) return {};
        ErrorMap map;
        map.element_error2.assign(mesh_.element_count(), 0.0);
        std::vector<std::array<double, 2>> of(equilibrium_.macros.size());
        in_parallel(equilibrium_.macros.size(), [&](std::size_t m) { of[m] = distance2(equilibrium_.macros[m]); });
        for (std::size_t m = 0; m < equilibrium_.macros.size(); ++m) {
            map.element_error2[equilibrium_.macros[m].element] += of[m][0];
            map.error2 += of[m][0];
            map.energy2 += of[m][1];
        }
        return map;
    }

  private:
    // ---- one third, one macro element

    [[nodiscard]] double temperature_at(std::size_t e, const ElementPoint& p) const {
        return slot_value(mesh_, solution_.temperature_change, e, p);
    }

    /// Strain, or minus the gradient, of a field per depth: of plane strain with the stress zz that keeps it plane.
    [[nodiscard]] Components compliance(std::size_t e, const Components& s) const {
        const RegionLaw& law = laws_.of(mesh_.region[e]);
        if (kind_.motions == 1) {
            const auto& r = law.conduction.resistivity;
            return {r[0][0] * s[0] + r[0][1] * s[1], r[1][0] * s[0] + r[1][1] * s[1], 0};
        }
        const Strain strain = law.elastic.strain({s[0], s[1], s[2], stress_zz(law.elastic, s, 0)});
        return {strain[0], strain[1], strain[2]};
    }
    [[nodiscard]] double stress_zz(const ElasticLaw& law, const Components& s, double temperature) const {
        if (laws_.plane == Plane::stress) return 0;
        return -law.strain({s[0], s[1], s[2], 0}, temperature)[3] / law.compliance[3][3];
    }
    [[nodiscard]] Components free_strain(std::size_t e, double temperature) const {
        if (kind_.motions == 1 || temperature == 0) return {};
        const ElasticLaw& law = laws_.of(mesh_.region[e]).elastic;
        const Strain strain = law.strain({0, 0, 0, stress_zz(law, {}, temperature)}, temperature);
        return {strain[0], strain[1], strain[2]};
    }

    /// The field's coefficients for motions u of its three sides are from_motion * u - at_rest.
    struct ThirdSystem {
        Matrix work;  ///< of each side's degrees of freedom, of each balanced field
        Vector strain, carried;
        Matrix from_motion;
        Vector at_rest;
    };

    /// The sides of a third: the shared one, then the two that end in the middle of the macro element.
    [[nodiscard]] std::array<Side, 3> sides_of(const Macro& m, std::size_t k) const {
        const auto inner = [&](std::size_t corner) {
            Side s;
            s.p = {m.thirds[corner].nodes[0], m.thirds[corner].nodes[2], m.thirds[corner].nodes[5]};
            for (auto& a : s.axes) a = {{{{1, 0}}, {{0, 1}}}};
            return s;
        };
        return {equilibrium_.sides[m.side[k]], inner((k + 1) % 3), inner(k)};
    }

    [[nodiscard]] ThirdSystem system_of(const Macro& m, std::size_t k) const {
        const Third& t = m.thirds[k];
        const int n = static_cast<int>(kind_.balanced({}).count), per = kind_.side_dofs();
        Matrix flexibility = Matrix::Zero(n, n);
        ThirdSystem out;
        out.strain = Vector::Zero(n);
        out.work = Matrix::Zero(3 * per, n);
        out.carried = Vector::Zero(3 * per);
        const bool thermal = !solution_.temperature_change.empty();
        for (const auto& q : triangle_rule(6)) {
            const ElementPoint p = evaluate(ElementKind::triangle6, t.nodes, q.xi);
            const Vec2 x = (p.position - t.centre) / t.size;
            const auto fields = kind_.balanced(x);
            const double w = q.weight * p.jacobian;
            const double depth = laws_.depth(mesh_.region[m.element], p.position);
            Components given = compliance(m.element, equilibrium_.carrying(t, x));
            for (auto& c : given) c /= depth;
            if (thermal) {
                const auto free =
                    free_strain(m.element, temperature_at(m.element, point_in(mesh_, m.element, p.position)));
                for (std::size_t c = 0; c < 3; ++c) given[c] += free[c];
            }
            for (int i = 0; i < n; ++i) {
                const auto& s = fields.list[static_cast<std::size_t>(i)];
                const Components strain = compliance(m.element, s);
                for (int j = 0; j <= i; ++j) {
                    const auto& o = fields.list[static_cast<std::size_t>(j)];
                    flexibility(i, j) += w / depth * (strain[0] * o[0] + strain[1] * o[1] + strain[2] * o[2]);
                }
                out.strain(i) += w * (given[0] * s[0] + given[1] * s[1] + given[2] * s[2]);
            }
        }
        const auto sides = sides_of(m, k);
        for (std::size_t side = 0; side < 3; ++side) {
            // Outwards of the third: the shared side runs as the macro element does or against it; the second side
            // runs from the second corner to the middle, the third from the first corner, which is against.
            const double sense = side == 0 ? (m.turned[k] ? -1 : 1) : side == 1 ? 1 : -1;
            for (const auto& q : line_rule()) {
                const Vec2 along = sides[side].along(q.t);
                const Vec2 normal = -turned_left(along) * sense;  // times the length element
                const Vec2 x = (sides[side].at(q.t) - t.centre) / t.size;
                const auto fields = kind_.balanced(x);
                const auto carried = kind_.traction(equilibrium_.carrying(t, x), normal);
                for (std::size_t g = 0; g < equilibrium_.nodes.size(); ++g) {
                    const double v = q.weight * lagrange(equilibrium_.nodes, g, q.t);
                    for (int c = 0; c < kind_.motions; ++c) {
                        const Vec2& axis = sides[side].axes[g][static_cast<std::size_t>(c)];
                        const int row = static_cast<int>(side) * per + static_cast<int>(g) * kind_.motions + c;
                        const auto part = [&](const std::array<double, 2>& traction) {
                            return kind_.motions == 1 ? traction[0] : traction[0] * axis[0] + traction[1] * axis[1];
                        };
                        for (int i = 0; i < n; ++i)
                            out.work(row, i) +=
                                v * part(kind_.traction(fields.list[static_cast<std::size_t>(i)], normal));
                        out.carried(row) += v * part(carried);
                    }
                }
            }
        }
        Matrix right(n, 3 * per + 1);
        right << out.work.transpose(), out.strain;
        const Matrix solved = solve_positive(flexibility, right);
        out.from_motion = solved.leftCols(3 * per);
        out.at_rest = solved.col(3 * per);
        return out;
    }

    /// Stiffness and right side of a macro element's three shared sides, and what gives its inner sides from them.
    struct MacroSystem {
        std::array<ThirdSystem, 3> thirds;
        Matrix stiffness, inner_from_outer;
        Vector right_side, inner;
    };

    [[nodiscard]] MacroSystem system_of(const Macro& m) const {
        const int per = kind_.side_dofs(), half = 3 * per;
        Matrix whole = Matrix::Zero(2 * half, 2 * half);
        Vector right = Vector::Zero(2 * half);
        MacroSystem out;
        for (std::size_t k = 0; k < 3; ++k) {
            out.thirds[k] = system_of(m, k);
            const ThirdSystem& t = out.thirds[k];
            const Matrix stiffness = product(t.work, t.from_motion);
            const Vector load = product(t.work, t.at_rest) - t.carried;
            for (int a = 0; a < 3 * per; ++a) {
                const int row = place(k, a);
                right(row) += load(a);
                for (int b = 0; b < 3 * per; ++b) whole(row, place(k, b)) += stiffness(a, b);
            }
        }
        // The inner sides' own motions without work, which depend on the macro element's shape, are left out.
        const SymmetricEigen inner = symmetric_eigen(whole.bottomRightCorner(half, half));
        Vector inverse = inner.values;
        const double least = spurious_share * inverse.maxCoeff();
        for (auto& v : inverse) v = v > least ? 1 / v : 0;
        Matrix scaled = inner.vectors;
        for (int k = 0; k < half; ++k) scaled.col(k) *= inverse(k);
        const Matrix pseudo = product(scaled, inner.vectors.transpose());
        const Matrix coupling = whole.bottomLeftCorner(half, half);
        out.inner_from_outer = -product(pseudo, coupling);
        out.inner = product(pseudo, right.tail(half));
        out.stiffness = whole.topLeftCorner(half, half) + transposed_product(coupling, out.inner_from_outer);
        out.right_side = right.head(half) - transposed_product(coupling, out.inner);
        return out;
    }

    /// Where the degree of freedom `a` of third k stands in its macro element: shared sides first, then the inner ones,
    /// of which number i ends in corner i.
    [[nodiscard]] int place(std::size_t k, int a) const {
        const int per = kind_.side_dofs(), side = a / per, within = a % per;
        const int number = side == 0 ? static_cast<int>(k) : 3 + static_cast<int>(side == 1 ? (k + 1) % 3 : k);
        return number * per + within;
    }

    // ---- the whole

    bool solve() {
        const int per = kind_.side_dofs();
        unknown_.assign(equilibrium_.sides.size() * static_cast<std::size_t>(per), -1);
        motion_.assign(unknown_.size(), 0.0);
        std::int32_t unknowns = 0;
        const auto index = [&](std::size_t side, std::size_t g, int c) {
            return side * static_cast<std::size_t>(per) + g * static_cast<std::size_t>(kind_.motions) +
                   static_cast<std::size_t>(c);
        };
        for (std::size_t s = 0; s < equilibrium_.sides.size(); ++s)
            for (std::size_t g = 0; g < equilibrium_.nodes.size(); ++g)
                for (int c = 0; c < kind_.motions; ++c) {
                    const auto at = index(s, g, c);
                    if (equilibrium_.sides[s].held[g][static_cast<std::size_t>(c)])
                        motion_[at] = equilibrium_.sides[s].value[g][static_cast<std::size_t>(c)];
                    else
                        unknown_[at] = unknowns++;
                }
        if (unknowns == 0) return true;
        std::vector<double> right(static_cast<std::size_t>(unknowns), 0.0);
        for (const auto& load : equilibrium_.loads()) add_outline(load, index, right);
        struct Outer {
            Matrix stiffness;
            Vector right_side;
        };
        std::vector<Outer> systems(equilibrium_.macros.size());
        in_parallel(equilibrium_.macros.size(), [&](std::size_t m) {
            MacroSystem s = system_of(equilibrium_.macros[m]);  // made again when the field is wanted
            systems[m] = {std::move(s.stiffness), std::move(s.right_side)};
        });
        std::vector<Eigen::Triplet<double, std::int32_t>> entries;
        for (std::size_t m = 0; m < equilibrium_.macros.size(); ++m) {
            const auto dofs = dofs_of(equilibrium_.macros[m]);
            for (std::size_t a = 0; a < dofs.size(); ++a) {
                const std::int32_t row = unknown_[dofs[a]];
                if (row < 0) continue;
                const auto i = static_cast<int>(a);
                right[static_cast<std::size_t>(row)] += systems[m].right_side(i);
                for (std::size_t b = 0; b < dofs.size(); ++b) {
                    const double v = systems[m].stiffness(i, static_cast<int>(b));
                    const std::int32_t column = unknown_[dofs[b]];
                    if (column < 0)
                        right[static_cast<std::size_t>(row)] -= v * motion_[dofs[b]];
                    else if (column <= row)
                        entries.emplace_back(row, column, v);
                }
            }
        }
        systems = {};
        Eigen::SparseMatrix<double, Eigen::ColMajor, std::int32_t> sum(unknowns, unknowns);
        sum.setFromTriplets(entries.begin(), entries.end());
        entries = {};
        SymmetricMatrix matrix;
        matrix.size = unknowns;
        matrix.column_first.assign(sum.outerIndexPtr(), sum.outerIndexPtr() + unknowns + 1);
        matrix.row.assign(sum.innerIndexPtr(), sum.innerIndexPtr() + sum.nonZeros());
        matrix.value.assign(sum.valuePtr(), sum.valuePtr() + sum.nonZeros());
        const auto solver = make_direct_solver();
        const auto order = fill_reducing_order(matrix, OrderMethod::minimum_degree);
        if (solver->analyse(matrix, order) > memory_share * available_memory())
            throw SolveError("the bound of the error needs more memory than there is", {},
                             "take results.error_bound away, or fewer elements");
        try {
            solver->factor(matrix, order);
        } catch (const SolveError&) {
            return false;
        }
        const auto u = solver->solve(right);
        for (std::size_t k = 0; k < unknown_.size(); ++k)
            if (unknown_[k] >= 0) motion_[k] = u[static_cast<std::size_t>(unknown_[k])];
        return true;
    }

    template <class Index>
    void add_outline(const SideLoad& load, const Index& index, std::vector<double>& right) const {
        const std::size_t s = equilibrium_.side_of(load);
        const Side& side = equilibrium_.sides[s];
        const auto e = static_cast<std::size_t>(load.element);
        const Vec2 start = mesh_.positions(e)[static_cast<std::size_t>(side_nodes(mesh_.kinds[e], load.side)[0])];
        const bool against = !(start == side.p[0]);
        const auto rule = line_rule();
        for (std::size_t k = 0; k < 5; ++k) {
            const double t = against ? 1 - rule[k].t : rule[k].t;
            const double weight = load.points[k].length * laws_.depth(mesh_.region[e], load.points[k].position);
            for (std::size_t g = 0; g < equilibrium_.nodes.size(); ++g)
                for (int c = 0; c < kind_.motions; ++c) {
                    const std::int32_t at = unknown_[index(s, g, c)];
                    if (at < 0) continue;
                    const double traction = kind_.motions == 1
                                                ? -load.flux[k]
                                                : dot(load.traction[k], side.axes[g][static_cast<std::size_t>(c)]);
                    right[static_cast<std::size_t>(at)] += weight * lagrange(equilibrium_.nodes, g, t) * traction;
                }
        }
    }

    [[nodiscard]] std::vector<std::size_t> dofs_of(const Macro& m) const {
        const auto per = static_cast<std::size_t>(kind_.side_dofs());
        std::vector<std::size_t> out;
        for (const auto s : m.side)
            for (std::size_t a = 0; a < per; ++a) out.push_back(s * per + a);
        return out;
    }

    /// Squared norms over a macro element: of the balanced field less the element's own, and of the element's own.
    [[nodiscard]] std::array<double, 2> distance2(const Macro& m) const {
        const MacroSystem system = system_of(m);
        const int per = kind_.side_dofs(), half = 3 * per;
        Vector outer(half);
        const auto dofs = dofs_of(m);
        for (int a = 0; a < half; ++a) outer(a) = motion_[dofs[static_cast<std::size_t>(a)]];
        const Vector inner = product(system.inner_from_outer, outer) + system.inner;
        std::array<double, 2> sum{};
        for (std::size_t k = 0; k < 3; ++k) {
            const ThirdSystem& t = system.thirds[k];
            Vector u(3 * per);
            for (int a = 0; a < 3 * per; ++a) {
                const int at = place(k, a);
                u(a) = at < half ? outer(at) : inner(at - half);
            }
            const Vector s = product(t.from_motion, u) - t.at_rest;
            const auto part = distance2(m, m.thirds[k], s);
            sum[0] += part[0];
            sum[1] += part[1];
        }
        return sum;
    }

    [[nodiscard]] std::array<double, 2> distance2(const Macro& m, const Third& t, const Vector& coefficients) const {
        const std::size_t e = m.element;
        const RegionLaw& law = laws_.of(mesh_.region[e]);
        std::array<double, 2> sum{};
        for (const auto& q : triangle_rule(6)) {
            const ElementPoint p = evaluate(ElementKind::triangle6, t.nodes, q.xi);
            const Vec2 x = (p.position - t.centre) / t.size;
            const double depth = laws_.depth(mesh_.region[e], p.position);
            Components s = equilibrium_.carrying(t, x);
            const auto fields = kind_.balanced(x);
            for (std::size_t i = 0; i < fields.count; ++i)
                for (std::size_t c = 0; c < 3; ++c) s[c] += coefficients(static_cast<int>(i)) * fields.list[i][c];
            for (auto& c : s) c /= depth;
            const ElementPoint own = point_in(mesh_, e, p.position);
            const double w = q.weight * p.jacobian * depth;
            if (kind_.motions == 1) {
                const Vec2 flux = flux_at(mesh_, laws_, solution_, e, own);
                sum[0] += w * law.conduction.energy_norm2({{s[0] - flux[0], s[1] - flux[1]}});
                sum[1] += w * law.conduction.energy_norm2(flux);
                continue;
            }
            const Stress stress = stress_at(mesh_, laws_, solution_, e, own);
            const double zz = stress_zz(law.elastic, s, temperature_at(e, own));
            sum[0] +=
                w * law.elastic.energy_norm2({s[0] - stress[0], s[1] - stress[1], s[2] - stress[2], zz - stress[3]});
            sum[1] += w * law.elastic.energy_norm2(stress);
        }
        return sum;
    }

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    Kind kind_;
    EquilibriumMesh equilibrium_;
    std::vector<std::int32_t> unknown_;
    std::vector<double> motion_;
};

/// Of the elements; loads inside need one of them to be carried.
int degree_for(const Mesh& mesh, const Study& study) {
    int degree = 1;
    for (const auto kind : mesh.kinds) degree = std::max(degree, polynomial_degree(kind));
    const bool inside =
        std::any_of(study.loads.begin(), study.loads.end(), [](const LoadSpec& l) { return is_in_volume(l.kind); });
    return inside ? std::max(degree, 2) : degree;
}

bool points_carry_force(const Study& study, const Solution& solution) {
    for (std::size_t k = 0; k < study.supports.size(); ++k)
        if (study.supports[k].at && k < solution.reactions.size() &&
            norm(solution.reactions[k].force) > point_force_share * solution.balance.magnitude)
            return true;
    return false;
}

}  // namespace

std::string why_no_bound(const Study& study, const Mesh& mesh, const Laws& laws) {
    if (laws.plane != Plane::stress && laws.plane != Plane::strain)
        return "balanced fields are made in plane stress and plane strain only";
    if (std::any_of(laws.regions.begin(), laws.regions.end(),
                    [](const auto& r) { return r.thickness_field || r.of_temperature; }))
        return "thickness or material change from place to place";
    if (!study.periodic.empty()) return "periodic pairs tie the tractions of two boundaries";
    if (!study.remotes.empty()) return "remote points tie the tractions of a boundary";
    if (!study.resistances.empty()) return "the potential jumps over a resistance";
    for (const auto& s : study.supports) {
        for (const auto* f : {&s.displacement[0], &s.displacement[1], &s.normal_displacement, &s.potential})
            if (*f && !(*f)->constant)
                return "what the support " + s.name +
                       " prescribes changes from place to place, and elements hold it at their nodes only";
        if (s.founded()) return "the elastic foundation " + s.name + " answers the displacement";
    }
    for (const auto& l : study.loads) {
        if (l.kind == LoadKind::transfer) return "the transfer " + l.name + " answers the potential";
        if (l.kind == LoadKind::point) return "the force " + l.name + " acts at a point, where the energy is infinite";
    }
    if (any_projects_volume(mesh, laws)) return "the volume strain of nearly incompressible elements is projected";
    // What acts on edges inside of the part stands on no side of the outline.
    for (const auto& s : study.supports) {
        const Meant meant(mesh, s.on);
        for (const auto& b : mesh.boundary)
            if (!s.at && beyond(mesh, b) && meant.side(b))
                return "the support " + s.name + " holds an edge inside of the part";
    }
    for (const auto& l : study.loads) {
        const Meant meant(mesh, l.on);
        for (const auto& b : mesh.boundary)
            if (!is_in_volume(l.kind) && beyond(mesh, b) && meant.side(b))
                return "the load " + l.name + " acts on an edge inside of the part";
    }
    return {};
}

std::optional<ErrorMap> bound_stress_error(const Mesh& mesh, const Study& study, const Laws& laws,
                                           const Solution& solution) {
    if (points_carry_force(study, solution)) return {};
    return BalancedField(mesh, study, laws, solution, {2, 3, degree_for(mesh, study)}).bound();
}

std::optional<ErrorMap> bound_flux_error(const Mesh& mesh, const Study& study, const Laws& laws,
                                         const Solution& solution) {
    return BalancedField(mesh, study, laws, solution, {1, 2, degree_for(mesh, study)}).bound();
}

}  // namespace dotsift
