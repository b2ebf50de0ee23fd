#include "recovery/fit/polynomials.hpp"

#include <Eigen/Core>

namespace dotsift {

Monomials::Monomials(int degree, const Vec2& p, const Vec2& centre, double scale)
    : count(terms(degree)), value(monomial_values<most>(p, centre, scale)) {
    // 1, a, b, aa, ab, bb, aaa, aab, abb, bbb, aaaa, aaab, aabb, abbb, bbbb
    const double a = value[1], b = value[2], s = 1 / scale;
    x = {0, s, 0, 2 * a * s, b * s, 0};
    y = {0, 0, s, 0, a * s, 2 * b * s};
    if (degree < 3) return;
    const double aa = value[3], ab = value[4], bb = value[5];
    x[6] = 3 * aa * s;
    x[7] = 2 * ab * s;
    x[8] = bb * s;
    y[7] = aa * s;
    y[8] = 2 * ab * s;
    y[9] = 3 * bb * s;
    if (degree < 4) return;
    const double aaa = value[6], aab = value[7], abb = value[8], bbb = value[9];
    x[10] = 4 * aaa * s;
    x[11] = 3 * aab * s;
    x[12] = 2 * abb * s;
    x[13] = bbb * s;
    y[11] = aaa * s;
    y[12] = 2 * aab * s;
    y[13] = 3 * abb * s;
    y[14] = 4 * bbb * s;
}

template <std::size_t fields>
std::array<double, fields> PatchPolynomial<fields>::at(const Vec2& p) const {
    // Written out, so that the powers stay in registers: this is called for every quadrature point of a mesh.
    using Fields = Eigen::Array<double, fields, 1>;
    const auto f = [&](std::size_t k) { return Eigen::Map<const Fields>(factors[k].data()); };
    const double by_scale = 1 / scale, a = (p[0] - centre[0]) * by_scale, b = (p[1] - centre[1]) * by_scale;
    Fields sum = f(0) + a * f(1) + b * f(2);
    const double aa = a * a, ab = a * b, bb = b * b;
    if (terms > Monomials::terms(1)) sum += aa * f(3) + ab * f(4) + bb * f(5);
    if (terms > Monomials::terms(2)) sum += (aa * a * f(6) + aa * b * f(7)) + (a * bb * f(8) + b * bb * f(9));
    if (terms > Monomials::terms(3))
        sum += aa * aa * f(10) + aa * ab * f(11) + aa * bb * f(12) + ab * bb * f(13) + bb * bb * f(14);
    std::array<double, fields> out;
    Eigen::Map<Fields>(out.data()) = sum;
    return out;
}
template struct PatchPolynomial<2>;
template struct PatchPolynomial<4>;

}  // namespace dotsift
