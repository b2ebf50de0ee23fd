#include "recovery/resize.hpp"

#include <algorithm>

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

}  // namespace dotsift
