#include "recovery/resize.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

std::vector<double> size_factors(const std::vector<double>& element_error2, double wanted_error2, int degree,
                                 int dimension) {
    // factor_e = (wanted / sum)^(1/2p) * e_e^(-2/(2p+d)), sum = sum over j of (e_j^2)^(d/(2p+d))
    const double p = degree, d = dimension;
    double sum = 0;
    for (const double e2 : element_error2) sum += std::pow(e2, d / (2 * p + d));
    std::vector<double> factor(element_error2.size(), INFINITY);
    if (!(sum > 0)) return factor;
    const double common = std::pow(wanted_error2 / sum, 1 / (2 * p));
    for (std::size_t e = 0; e < factor.size(); ++e)
        if (element_error2[e] > 0) factor[e] = common * std::pow(element_error2[e], -1 / (2 * p + d));
    return factor;
}

SizeField resize(const Mesh& mesh, const ErrorMap& error, double wanted, const ResizeLimits& limits) {
    const double wanted_error2 = wanted * wanted * (error.energy2 + error.error2);
    const auto factor = size_factors(error.element_error2, wanted_error2, polynomial_degree(mesh.kinds.front()), 2);
    std::vector<SizeSource> sources;
    sources.reserve(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        for (std::size_t k = 2; k < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++k) {
            SizeSource s;
            s.corners = {p[0], p[k - 1], p[k]};
            s.form = SizeSource::Form::triangle;
            s.size = std::clamp(mesh.size_of(e) * std::clamp(factor[e], 1 / limits.most_finer, limits.most_coarser),
                                limits.smallest, limits.largest);
            sources.push_back(s);
        }
    }
    return {limits.largest, limits.growth - 1, limits.smallest, std::move(sources)};
}

}  // namespace dotsift
