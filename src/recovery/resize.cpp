#include "recovery/resize.hpp"

#include <algorithm>
#include <cmath>

#include "recovery/strategy.hpp"

namespace dotsift {

SizeField resize(const Mesh& mesh, const std::vector<double>& factor, const ResizeLimits& limits) {
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

std::vector<char> changing_elements(const Mesh& mesh, const std::vector<double>& factor) {
    std::vector<char> touched(mesh.nodes.size(), 0), anew(mesh.element_count(), 0);
    for (std::size_t e = 0; e < anew.size(); ++e)
        if (factor[e] < 1 && mesh.row[e] == 0)
            for (const auto n : mesh.element(e)) touched[static_cast<std::size_t>(n)] = 1;
    for (std::size_t e = 0; e < anew.size(); ++e)
        for (const auto n : mesh.element(e))
            if (touched[static_cast<std::size_t>(n)] && mesh.row[e] == 0) anew[e] = 1;
    return anew;
}

std::optional<SizeSource> point_source(const Mesh& mesh, const std::vector<double>& element_error2,
                                       double wanted_element_error2, const Vec2& point, double exponent, double near,
                                       const std::function<bool(std::size_t)>& allowed) {
    SizeSource source;
    source.corners = {point, point, point};
    source.form = SizeSource::Form::point;
    source.size = INFINITY;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!mesh.touches(e, point, near) || !allowed(e)) continue;
        const double factor = factor_at_point(element_error2[e], wanted_element_error2, exponent);
        source.size = std::min(source.size, mesh.size_of(e) * std::min(factor, 1.0));
    }
    if (!std::isfinite(source.size)) return {};
    return source;
}

}  // namespace dotsift
