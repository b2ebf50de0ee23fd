#include "mesh/elements/jacobian_bound.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/dense.hpp"

namespace dotsift {

namespace {

double jacobian_at(ElementKind kind, std::span<const Vec2> nodes, const Vec2& xi) {
    std::array<Vec2, most_nodes<2>> dn{};
    shape_derivatives(kind, xi, dn);
    double xa = 0, xb = 0, ya = 0, yb = 0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
        xa += nodes[i][0] * dn[i][0];
        ya += nodes[i][1] * dn[i][0];
        xb += nodes[i][0] * dn[i][1];
        yb += nodes[i][1] * dn[i][1];
    }
    return xa * yb - xb * ya;
}

/// Bernstein coefficients of the polynomial of degree 3 that has these values at 0, 1/3, 2/3 and 1.
constexpr std::array<double, 4> cubic_coefficients(const std::array<double, 4>& v) {
    return {v[0], (-5 * v[0] + 18 * v[1] - 9 * v[2] + 2 * v[3]) / 6, (2 * v[0] - 9 * v[1] + 18 * v[2] - 5 * v[3]) / 6,
            v[3]};
}

}  // namespace

double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes) {
    double least = 0, mean = 0;
    const auto j = [&](double x, double y) { return jacobian_at(kind, nodes, {{x, y}}); };
    switch (kind) {
        case ElementKind::triangle3:
            least = mean = j(0, 0);
            break;
        case ElementKind::quadrilateral4: {  // linear along each coordinate: extreme at the corners
            const std::array<double, 4> v{j(0, 0), j(1, 0), j(1, 1), j(0, 1)};
            least = *std::min_element(v.begin(), v.end());
            mean = (v[0] + v[1] + v[2] + v[3]) / 4;
            break;
        }
        case ElementKind::triangle6: {
            // A quadratic in xi and eta: its values at the six nodes give its Bernstein coefficients.
            const std::array<double, 6> v{j(0, 0), j(1, 0), j(0, 1), j(0.5, 0), j(0.5, 0.5), j(0, 0.5)};
            least = std::min({v[0], v[1], v[2]});
            double sum = v[0] + v[1] + v[2];
            for (std::size_t s = 0; s < 3; ++s) {
                const double b = 2 * v[s + 3] - (v[s] + v[(s + 1) % 3]) / 2;
                least = std::min(least, b);
                sum += b;
            }
            mean = sum / 6;
            break;
        }
        case ElementKind::quadrilateral9: {
            // Of degree 3 in each coordinate: sixteen values give its coefficients, rows first, then columns.
            std::array<std::array<double, 4>, 4> c{};
            for (std::size_t y = 0; y < 4; ++y) {
                for (std::size_t x = 0; x < 4; ++x) c[y][x] = j(static_cast<double>(x) / 3, static_cast<double>(y) / 3);
                c[y] = cubic_coefficients(c[y]);
            }
            least = c[0][0];
            for (std::size_t x = 0; x < 4; ++x)
                for (const double b : cubic_coefficients({c[0][x], c[1][x], c[2][x], c[3][x]})) {
                    least = std::min(least, b);
                    mean += b / 16;
                }
            break;
        }
        default:
            break;
    }
    return mean > 0 ? least / mean : -1;
}

namespace {

/// A polynomial over a line, a triangle or a tetrahedron: a lattice of places, and what makes Bernstein coefficients of
/// the values there.
struct BernsteinFactor {
    std::vector<std::array<double, 3>> places;
    Eigen::MatrixXd coefficients;
};

/// `axes` 1: a line, 2: a triangle, 3: a tetrahedron; its places lie in this share of it, at the origin.
BernsteinFactor bernstein(std::size_t axes, int degree, double reach = 1) {
    std::vector<std::array<int, 4>> powers;  // of the shares of the corners; they sum to the degree
    for (int c = 0; c <= (axes > 2 ? degree : 0); ++c)
        for (int b = 0; b + c <= (axes > 1 ? degree : 0); ++b)
            for (int a = 0; a + b + c <= degree; ++a) powers.push_back({degree - a - b - c, a, b, c});
    BernsteinFactor out;
    const auto n = static_cast<Eigen::Index>(powers.size());
    Eigen::MatrixXd values(n, n);
    for (Eigen::Index i = 0; i < n; ++i) {
        std::array<double, 4> share{1, 0, 0, 0};
        for (std::size_t k = 1; k < 4; ++k) {
            share[k] = reach * powers[static_cast<std::size_t>(i)][k] / degree;
            share[0] -= share[k];
        }
        out.places.push_back({share[1], share[2], share[3]});
        for (Eigen::Index j = 0; j < n; ++j) {
            double v = std::tgamma(degree + 1);
            for (std::size_t k = 0; k < 4; ++k) {
                const int power = powers[static_cast<std::size_t>(j)][k];
                v *= std::pow(share[k], power) / std::tgamma(power + 1);
            }
            values(i, j) = v;
        }
    }
    const OrthogonalFactor factor(values);
    out.coefficients.resize(n, n);
    for (Eigen::Index j = 0; j < n; ++j) out.coefficients.col(j) = factor.solve(Eigen::VectorXd::Unit(n, j));
    return out;
}

/// The determinant of a solid kind is a polynomial over a product of lines, triangles, tetrahedra.
struct BernsteinForm {
    std::vector<BernsteinFactor> factors;  ///< first the one that changes slowest in `places`
    std::vector<ShapePointIn<3>> places;
};

BernsteinForm form_of(ElementKind kind) {
    const bool linear = polynomial_degree(kind) == 1;
    BernsteinForm out;
    const auto add = [&](const Vec3& xi) { out.places.push_back(shape_point<3>(kind, xi, 0)); };
    const auto each_product = [&](const auto& act) {
        for (const auto& z : out.factors[0].places)
            for (const auto& y : out.factors[1].places)
                for (const auto& x : out.factors[2].places) act(x[0], y[0], z[0]);
    };
    switch (corner_count(kind)) {
        case 4:
            out.factors = {bernstein(3, linear ? 1 : 3)};
            for (const auto& p : out.factors[0].places) add({{p[0], p[1], p[2]}});
            break;
        case 5: {
            // In u, v and z (see shape_values) it is a polynomial. At the tip itself it cannot be asked for.
            constexpr double reach = 0.75;
            out.factors = {bernstein(1, linear ? 1 : 3, reach), bernstein(1, linear ? 2 : 5),
                           bernstein(1, linear ? 2 : 5)};
            each_product([&](double u, double v, double z) { add({{u * (1 - z), v * (1 - z), z}}); });
            break;
        }
        case 6:
            out.factors = {bernstein(1, linear ? 2 : 5), bernstein(2, linear ? 1 : 4)};
            for (const auto& z : out.factors[0].places)
                for (const auto& p : out.factors[1].places) add({{p[0], p[1], z[0]}});
            break;
        default:
            for (int axis = 0; axis < 3; ++axis) out.factors.push_back(bernstein(1, linear ? 2 : 5));
            each_product([&](double x, double y, double z) { add({{x, y, z}}); });
            break;
    }
    return out;
}

}  // namespace

double jacobian_bound(ElementKind kind, std::span<const Vec3> nodes) {
    static const auto forms = [] {
        std::array<BernsteinForm, element_kind_count> out;
        for (std::size_t k = 0; k < element_kind_count; ++k)
            if (const auto kind_here = static_cast<ElementKind>(k); dimension_of(kind_here) == 3)
                out[k] = form_of(kind_here);
        return out;
    }();
    const BernsteinForm& form = forms[static_cast<std::size_t>(kind)];
    std::vector<double> values(form.places.size()), next(values.size());
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = evaluate<3>(kind, nodes, form.places[i]).jacobian;
    // From values to coefficients along one factor after the other.
    std::size_t inner = values.size();
    for (const auto& f : form.factors) {
        const auto n = f.places.size();
        inner /= n;
        for (std::size_t start = 0; start < values.size(); start += n * inner)
            for (std::size_t i = 0; i < n; ++i)
                for (std::size_t k = 0; k < inner; ++k) {
                    double c = 0;
                    for (std::size_t j = 0; j < n; ++j)
                        c += f.coefficients(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(j)) *
                             values[start + j * inner + k];
                    next[start + i * inner + k] = c;
                }
        values.swap(next);
    }
    double mean = 0;
    for (const double c : values) mean += c / static_cast<double>(values.size());
    return mean > 0 ? *std::min_element(values.begin(), values.end()) / mean : -1;
}

}  // namespace dotsift
