#include "recovery/fit/constrained_fit.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <optional>
#include <type_traits>

#include "recovery/fit/normal_equations.hpp"
#include "recovery/fit/polynomial_equations.hpp"

namespace dotsift {

namespace {

// Beside the values at the nodes, whose errors are of a higher order, what is known counts by these factors
// (docs/methods.md).
constexpr double weight_of_equilibrium = 1;
constexpr double weight_of_outline = 0.3;
// What is farther from the node than an element's size counts with the power -4, what is nearer at most like this.
constexpr double nearness_floor = 0.1;
// Coefficients that nothing determines are kept small: this share of the largest square in the normal equations.
constexpr double ridge = 1e-14;
// Gauss points of a side that are used, of five.
constexpr std::array<std::size_t, 3> used_points{0, 2, 4};

constexpr int degree_of(int terms) {
    return terms == Monomials::terms(2) ? 2 : terms == Monomials::terms(3) ? 3 : 4;
}

/// The weight of what is known at a place: the nearer to the node, the more it says of the field there.
double nearness(const FitInput& in, const Vec2& p) {
    const double d2 = dot(p - in.centre, p - in.centre) / (in.reach * in.reach);
    return 1 / (nearness_floor + d2 * d2);
}

/// Of one or two fields with as many coefficients each.
template <int terms, int fields>
class LeastSquares {
  public:
    static constexpr int unknowns = terms * fields;
    using Row = Eigen::Matrix<double, unknowns, 1>;
    using Coefficients = std::array<std::array<double, terms>, fields>;
    /// A value of each of the fields, at a place in the patch's coordinates.
    struct Value {
        double a = 0, b = 0, weight = 0;
        std::array<double, fields> wanted{};
    };

    LeastSquares() {
        sums_.fill(Lanes::Zero());
        for (auto& r : right_) r.fill(Lanes::Zero());
    }
    /// Products of monomials are monomials: their sums are so few that adding them up is much cheaper than squaring
    /// rows, and four values are added side by side.
    void add(const Value& value) {
        pending_[static_cast<std::size_t>(count_)] = value;
        if (++count_ == lanes) sum_up();
    }
    /// An equation that concerns all the fields; `weight` multiplies its square.
    void add(const Row& row, double wanted, double weight) {
        if (!coupled_) coupled_.emplace();
        typename Coupled::Row equation;
        std::copy_n(row.data(), unknowns, equation.begin());
        equation.back() = wanted;
        coupled_->add(equation, weight);
    }
    [[nodiscard]] Coefficients solve() {
        for (; count_ > 0; sum_up())
            for (; count_ < lanes; ++count_) pending_[static_cast<std::size_t>(count_)] = {};
        Coefficients out;
        if (!coupled_) {  // each field for itself
            NormalEquations<terms, fields> equations;
            fill(equations, 0);
            for (int f = 0; f < fields; ++f)
                for (int k = 0; k < terms; ++k) equations.right(k, f) = right(f, k);
            return equations.solve(ridge);
        }
        for (int f = 0; f < fields; ++f) {
            fill(*coupled_, f * terms);
            for (int k = 0; k < terms; ++k) coupled_->right(f * terms + k, 0) += right(f, k);
        }
        const auto x = coupled_->solve(ridge)[0];
        for (int f = 0; f < fields; ++f)
            std::copy_n(x.begin() + f * terms, terms, out[static_cast<std::size_t>(f)].begin());
        return out;
    }

  private:
    using Coupled = NormalEquations<unknowns, 1>;
    static constexpr int degree = degree_of(terms);
    static constexpr int sums = Monomials::terms(2 * degree);
    static constexpr int lanes = 4;
    using Lanes = Eigen::Array<double, lanes, 1>;

    void sum_up() {
        Lanes a, b, first;
        std::array<Lanes, fields> wanted;
        for (int l = 0; l < lanes; ++l) {
            const Value& v = pending_[static_cast<std::size_t>(l)];
            a[l] = v.a;
            b[l] = v.b;
            first[l] = v.weight;
            for (std::size_t f = 0; f < fields; ++f) wanted[f][l] = v.wanted[f];
        }
        std::array<Lanes, sums> m;
        for (int d = 0, at = 0; d <= 2 * degree; at += ++d, first *= a) {
            m[static_cast<std::size_t>(at)] = first;  // the weight times a power of a
            for (int n = 1; n <= d; ++n)
                m[static_cast<std::size_t>(at + n)] = b * m[static_cast<std::size_t>(at - d + n - 1)];
        }
        for (std::size_t k = 0; k < m.size(); ++k) sums_[k] += m[k];
        for (std::size_t f = 0; f < fields; ++f)
            for (std::size_t k = 0; k < terms; ++k) right_[f][k] += wanted[f] * m[k];
        count_ = 0;
    }
    [[nodiscard]] double right(int field, int term) const {
        return right_[static_cast<std::size_t>(field)][static_cast<std::size_t>(term)].sum();
    }
    /// Adds the values' squares to the block of a field.
    void fill(auto& equations, int from) const {
        std::array<double, sums> all;
        for (std::size_t k = 0; k < all.size(); ++k) all[k] = sums_[k].sum();
        for (int d = 0, row = 0; d <= degree; ++d)
            for (int n = 0; n <= d; ++n, ++row)
                for (int e = d, column = Monomials::terms(d - 1); e <= degree; ++e)
                    for (int k = 0; k <= e; ++k, ++column)
                        equations.at(from + row, from + column) +=
                            all[static_cast<std::size_t>(Monomials::terms(d + e - 1) + n + k)];
    }

    std::optional<Coupled> coupled_;
    int count_ = 0;
    std::array<Value, lanes> pending_;
    std::array<Lanes, sums> sums_;  ///< of the monomials up to twice the degree
    std::array<std::array<Lanes, terms>, fields> right_;
};

/// Calls `act` with the number of terms of a degree from 2 to 4, known to the compiler.
template <class Act>
void with_terms(int degree, Act act) {
    if (degree <= 2)
        act(std::integral_constant<int, Monomials::terms(2)>{});
    else if (degree == 3)
        act(std::integral_constant<int, Monomials::terms(3)>{});
    else
        act(std::integral_constant<int, Monomials::terms(4)>{});
}

/// A row over the coefficients of ux, then of uy.
template <int terms>
using Row = typename LeastSquares<terms, 2>::Row;

/// A sum of the stress components, each times its share, as a row; without thermal strain.
template <int terms>
Row<terms> stress_row(const Laws& laws, std::int32_t region, const Monomials& m, double radius,
                      const std::array<double, 4>& shares) {
    const TensorMatrix<2>& d = laws.of(region).elastic.stiffness;
    std::array<double, 4> by_strain{};
    for (std::size_t e = 0; e < 4; ++e)
        for (std::size_t c = 0; c < 4; ++c) by_strain[e] += shares[c] * d[c][e];
    Row<terms> row;
    for (int i = 0; i < terms; ++i) {
        const auto k = static_cast<std::size_t>(i);
        row[i] = by_strain[0] * m.x[k] + by_strain[2] * m.y[k];
        row[terms + i] = by_strain[1] * m.y[k] + by_strain[2] * m.x[k];
    }
    if (laws.axisymmetric())
        for (int i = 0; i < terms; ++i) row[i] += by_strain[3] * m.value[static_cast<std::size_t>(i)] / radius;
    return row;
}

/// What the strain zz that is known and the thermal strain bring to the stress.
Stress given_stress(const Laws& laws, std::int32_t region, double ezz, double change) {
    return laws.of(region).elastic.stress({0, 0, 0, ezz}, change);
}

/// Of a displacement or potential: its second derivatives have as many monomials.
template <int terms>
constexpr int second_terms = Monomials::terms(degree_of(terms) - 2);

template <int terms>
std::array<double, static_cast<std::size_t>(second_terms<terms>)> second_monomials(const FitInput& in, const Vec2& p) {
    return monomial_values<second_terms<terms>>(p, in.centre, in.scale);
}

/// The forces that equilibrium lacks, where no loads act and no strain is given; but for what a changing depth brings.
template <int terms>
auto missing_forces(const Laws& laws, const FitInput& in) {
    const TensorMatrix<2>& d = laws.of(in.region).elastic.stiffness;
    // Force of each component by the second derivatives of ux and uy
    const std::array<std::array<std::array<double, 3>, 2>, 2> by{
        {{{{d[0][0], d[0][2] + d[2][0], d[2][2]}, {d[0][2], d[0][1] + d[2][2], d[2][1]}}},
         {{{d[2][0], d[2][2] + d[1][0], d[1][2]}, {d[2][2], d[2][1] + d[1][2], d[1][1]}}}}};
    PolynomialEquations<2 * terms, second_terms<terms>, 2> missing;
    each_second_derivative(in.degree, in.scale, [&](std::size_t which, int k, int from, double factor) {
        for (int c = 0; c < 2; ++c)
            for (int u = 0; u < 2; ++u)
                missing.part(c, from)[static_cast<std::size_t>(u * terms + k)] +=
                    by[static_cast<std::size_t>(c)][static_cast<std::size_t>(u)][which] * factor;
    });
    return missing;
}

/// And what a depth that changes brings to them at a place: the stress times the slope of the depth, and round an axis
/// the hoop stress.
template <int terms>
std::array<Row<terms>, 2> missing_forces_of_depth(const Laws& laws, const FitInput& in, const Vec2& position,
                                                  const Vec2& slope) {
    const TensorMatrix<2>& d = laws.of(in.region).elastic.stiffness;
    const Monomials m(in.degree, position, in.centre, in.scale);
    const double r = position[0];
    std::array<Row<terms>, 2> missing{
        stress_row<terms>(laws, in.region, m, r, {slope[0], 0, slope[1], laws.axisymmetric() ? -1 / r : 0}),
        stress_row<terms>(laws, in.region, m, r, {0, slope[1], slope[0], 0})};
    if (!laws.axisymmetric()) return missing;
    for (int i = 0; i < terms; ++i) {  // the derivatives of ux / r
        const auto k = static_cast<std::size_t>(i);
        const double by_x = m.x[k] / r - m.value[k] / (r * r), by_y = m.y[k] / r;
        missing[0][i] += d[0][3] * by_x + d[2][3] * by_y;
        missing[1][i] += d[2][3] * by_x + d[1][3] * by_y;
    }
    return missing;
}

/// The forces that a strain zz that is given, heat and loads bring.
Vec2 given_forces(const Laws& laws, const AxialStrain& axial, std::int32_t region, const FitInput::Balance& s,
                  const Vec2& slope) {
    const ElasticLaw& law = laws.of(region).elastic;
    const TensorMatrix<2>& d = law.stiffness;
    Stress heat{};  // stress per degree
    for (std::size_t c = 0; c < 4; ++c)
        for (std::size_t e = 0; e < 4; ++e) heat[c] += d[c][e] * law.expansion[e];
    const Vec2 tilt = laws.plane == Plane::generalised_strain ? axial.tilt : Vec2{};
    const Vec2& g = s.temperature_gradient;
    Vec2 have{{d[0][3] * tilt[0] + d[2][3] * tilt[1] - heat[0] * g[0] - heat[2] * g[1],
               d[2][3] * tilt[0] + d[1][3] * tilt[1] - heat[2] * g[0] - heat[1] * g[1]}};
    if (!laws.even(region)) {
        const double ezz = laws.plane == Plane::generalised_strain ? axial.at(s.position) : 0;
        const Stress given = given_stress(laws, region, ezz, s.temperature_change);
        have += traction(given, slope);
        if (laws.axisymmetric()) have[0] -= given[3] / s.position[0];
    }
    return have + s.load.force / s.factor;
}

template <int terms>
void add_equilibrium(const Laws& laws, const AxialStrain& axial, const FitInput& in, double modulus,
                     LeastSquares<terms, 2>& fit) {
    auto equilibrium = missing_forces<terms>(laws, in);
    for (const auto& s : in.balances) {  // times the elements' sizes
        const double w = weight_of_equilibrium / modulus * s.size, weight = w * w * nearness(in, s.position);
        // The stress over its factor balances with the slope of the factor as it does with that of the depth.
        const Vec2 slope =
            laws.even(in.region) ? Vec2{} : laws.depth_slope(in.region, s.position, s.size) + s.factor_slope;
        const Vec2 wanted = -given_forces(laws, axial, in.region, s, slope);
        const auto m = second_monomials<terms>(in, s.position);
        if (laws.even(in.region)) {
            equilibrium.ask(m, weight, {wanted[0], wanted[1]});
            continue;
        }
        const auto by_depth = missing_forces_of_depth<terms>(laws, in, s.position, slope);
        for (int c = 0; c < 2; ++c) {
            const auto at = equilibrium.at(c, m);
            fit.add(by_depth[static_cast<std::size_t>(c)] + Eigen::Map<const Row<terms>>(at.data()),
                    wanted[static_cast<std::size_t>(c)], weight);
        }
    }
    equilibrium.each([&](const auto& equation, double wanted) {
        fit.add(Eigen::Map<const Row<terms>>(equation.data()), wanted, 1);
    });
}

template <int terms>
std::array<Vec2, Monomials::most> fitted(const Laws& laws, const AxialStrain& axial, const FitInput& in) {
    const bool round = laws.axisymmetric();
    // Displacements, tractions and forces are compared as strains.
    const double modulus = laws.of(in.region).elastic.stiffness[2][2];
    LeastSquares<terms, 2> fit;
    const double by_scale = 1 / in.scale, by_reach2 = 1 / (in.reach * in.reach);
    for (const auto& n : in.nodes) {
        const Vec2 at = (n.position - in.centre) * by_scale;
        fit.add({at[0], at[1], nearness(in, n.position) * by_reach2, {n.displacement[0], n.displacement[1]}});
    }
    if (!in.balances.empty()) add_equilibrium<terms>(laws, axial, in, modulus, fit);
    for (const auto& side : in.sides) {
        for (const std::size_t k : used_points) {
            const SidePoint& p = side.load->points[k];
            if (side.load->known[k][0] == Vec2{}) continue;
            if (round && !(p.position[0] > 0)) continue;
            const Monomials m(in.degree, p.position, in.centre, in.scale);
            const double ezz = laws.plane == Plane::generalised_strain ? axial.at(p.position) : 0;
            const Stress given = given_stress(laws, in.region, ezz, side.temperature_change[k]);
            const double w = weight_of_outline / modulus, weight = w * w * nearness(in, p.position);
            for (const Vec2& t : side.load->known[k]) {
                if (t == Vec2{}) continue;
                const auto shares = shares_of_traction(t, p.normal);
                double wanted = dot(t, side.load->traction[k]) / side.factor[k];
                for (std::size_t c = 0; c < 3; ++c) wanted -= shares[c] * given[c];
                fit.add(stress_row<terms>(laws, in.region, m, p.position[0], shares), wanted, weight);
            }
        }
    }
    const auto [x, y] = fit.solve();
    std::array<Vec2, Monomials::most> out{};
    for (std::size_t i = 0; i < terms; ++i) out[i] = {{x[i], y[i]}};
    return out;
}

/// Over the coefficients of the potential.
template <int terms>
using FluxRow = typename LeastSquares<terms, 1>::Row;

template <int terms>
std::array<FluxRow<terms>, 2> flux_rows(const ConductionLaw& law, const Monomials& m) {
    const auto& c = law.conductivity;
    std::array<FluxRow<terms>, 2> rows{FluxRow<terms>::Zero(), FluxRow<terms>::Zero()};
    for (int i = 1; i < terms; ++i) {  // a constant has no flux
        const auto n = static_cast<std::size_t>(i);
        rows[0][i] = -(c[0][0] * m.x[n] + c[0][1] * m.y[n]);
        rows[1][i] = -(c[1][0] * m.x[n] + c[1][1] * m.y[n]);
    }
    return rows;
}

template <int terms>
void add_balance(const Laws& laws, const FitInput& in, double modulus, LeastSquares<terms, 1>& fit) {
    const auto& c = laws.of(in.region).conduction.conductivity;
    PolynomialEquations<terms, second_terms<terms>, 1> divergence;
    each_second_derivative(in.degree, in.scale, [&](std::size_t which, int k, int from, double factor) {
        const std::array<double, 3> by{c[0][0], c[0][1] + c[1][0], c[1][1]};
        divergence.part(0, from)[static_cast<std::size_t>(k)] -= by[which] * factor;
    });
    for (const auto& s : in.balances) {
        const double w = weight_of_equilibrium / modulus * s.size, weight = w * w * nearness(in, s.position);
        const auto m = second_monomials<terms>(in, s.position);
        if (laws.even(in.region)) {
            divergence.ask(m, weight, {s.load.flow});
            continue;
        }
        const auto rows =
            flux_rows<terms>(laws.of(in.region).conduction, Monomials(in.degree, s.position, in.centre, in.scale));
        const auto at = divergence.at(0, m);
        const Vec2 slope = laws.depth_slope(in.region, s.position, s.size) + s.factor_slope;
        fit.add(Eigen::Map<const FluxRow<terms>>(at.data()) + rows[0] * slope[0] + rows[1] * slope[1],
                s.load.flow / s.factor, weight);
    }
    divergence.each([&](const auto& equation, double wanted) {
        fit.add(Eigen::Map<const FluxRow<terms>>(equation.data()), wanted, 1);
    });
}

template <int terms>
std::array<double, Monomials::most> fitted(const Laws& laws, const FitInput& in) {
    const auto& c = laws.of(in.region).conduction.conductivity;
    const double modulus = 0.5 * (c[0][0] + c[1][1]);
    LeastSquares<terms, 1> fit;
    const double by_scale = 1 / in.scale, by_reach2 = 1 / (in.reach * in.reach);
    for (const auto& n : in.nodes) {
        const Vec2 at = (n.position - in.centre) * by_scale;
        fit.add({at[0], at[1], nearness(in, n.position) * by_reach2, {n.potential}});
    }
    if (!in.balances.empty()) add_balance<terms>(laws, in, modulus, fit);
    for (const auto& [load, potential, temperature_change, factor] : in.sides) {
        if (!load->flux_known) continue;
        for (const std::size_t k : used_points) {
            const SidePoint& p = load->points[k];
            const auto rows =
                flux_rows<terms>(laws.of(in.region).conduction, Monomials(in.degree, p.position, in.centre, in.scale));
            const double into = (load->flux[k] - load->transfer[k] * potential[k]) / factor[k];
            const double w = weight_of_outline / modulus;
            fit.add(w * (p.normal[0] * rows[0] + p.normal[1] * rows[1]), -w * into, nearness(in, p.position));
        }
    }
    const auto x = fit.solve()[0];
    std::array<double, Monomials::most> out{};
    std::copy(x.begin(), x.end(), out.begin());
    return out;
}

}  // namespace

PatchPolynomial<4> fit_strain(const Laws& laws, const AxialStrain& axial, const FitInput& in) {
    std::array<Vec2, Monomials::most> motion{};
    with_terms(in.degree, [&](auto terms) { motion = fitted<terms>(laws, axial, in); });
    PatchPolynomial<4> out{in.centre, in.scale, Monomials::terms(laws.axisymmetric() ? in.degree : in.degree - 1), {}};
    each_derivative(in.degree, [&](std::size_t from, std::size_t by_x, std::size_t by_y, int power_x, int power_y) {
        const Vec2 m = motion[from] / in.scale;
        if (power_x > 0) {
            out.factors[by_x][0] += power_x * m[0];
            out.factors[by_x][2] += power_x * m[1];
        }
        if (power_y > 0) {
            out.factors[by_y][1] += power_y * m[1];
            out.factors[by_y][2] += power_y * m[0];
        }
        if (laws.axisymmetric()) out.factors[from][3] = motion[from][0];
    });
    return out;
}

PatchPolynomial<2> fit_gradient(const Laws& laws, const FitInput& in) {
    std::array<double, Monomials::most> potential{};
    with_terms(in.degree, [&](auto terms) { potential = fitted<terms>(laws, in); });
    PatchPolynomial<2> out{in.centre, in.scale, Monomials::terms(in.degree - 1), {}};
    each_derivative(in.degree, [&](std::size_t from, std::size_t by_x, std::size_t by_y, int power_x, int power_y) {
        if (power_x > 0) out.factors[by_x][0] += power_x * potential[from] / in.scale;
        if (power_y > 0) out.factors[by_y][1] += power_y * potential[from] / in.scale;
    });
    return out;
}

}  // namespace dotsift
