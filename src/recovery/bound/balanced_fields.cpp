#include "recovery/bound/balanced_fields.hpp"

#include <cmath>

namespace dotsift::balanced {

Kind::Fields Kind::balanced(const Vec2& x) const {
    std::array<double, most_degree + 3> px{1}, py{1};
    for (std::size_t k = 1; k < px.size(); ++k) {
        px[k] = px[k - 1] * x[0];
        py[k] = py[k - 1] * x[1];
    }
    const auto power = [](const auto& p, int k) { return k < 0 ? 0.0 : p[static_cast<std::size_t>(k)]; };
    Fields out;
    const int order = motions == 2 ? 2 : 1;
    for (int d = order; d <= degree + order; ++d)
        for (int j = 0; j <= d; ++j) {
            const int i = d - j;
            if (motions == 2)
                out.list[out.count++] = {j * (j - 1) * power(px, i) * power(py, j - 2),
                                         i * (i - 1) * power(px, i - 2) * power(py, j),
                                         -i * j * power(px, i - 1) * power(py, j - 1)};
            else
                out.list[out.count++] = {j * power(px, i) * power(py, j - 1), -i * power(px, i - 1) * power(py, j), 0};
        }
    return out;
}

std::vector<double> side_nodes_at(int degree) {
    const auto of = [](double x) { return 0.5 * (1 + x); };
    if (degree == 1) return {of(-std::sqrt(1 / 3.0)), of(std::sqrt(1 / 3.0))};
    if (degree == 2) return {of(-std::sqrt(0.6)), 0.5, of(std::sqrt(0.6))};
    const double a = std::sqrt(3.0 / 7 - 2.0 / 7 * std::sqrt(1.2)), b = std::sqrt(3.0 / 7 + 2.0 / 7 * std::sqrt(1.2));
    return {of(-b), of(-a), of(a), of(b)};
}

double lagrange(const std::vector<double>& nodes, std::size_t i, double t) {
    double v = 1;
    for (std::size_t j = 0; j < nodes.size(); ++j)
        if (j != i) v *= (t - nodes[j]) / (nodes[i] - nodes[j]);
    return v;
}

}  // namespace dotsift::balanced
