#include "recovery/resize.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "recovery/strategy.hpp"

namespace dotsift {

namespace {

/// What an element asks for: over its area,
void add_sources(const MeshIn<2>& mesh, std::size_t e, double size, std::vector<SizeSource>& out) {
    const auto p = mesh.positions(e);
    for (std::size_t k = 2; k < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++k) {
        SizeSource s;
        s.corners = {p[0], p[k - 1], p[k]};
        s.form = SizeSource::Form::triangle;
        s.size = size;
        out.push_back(s);
    }
}
/// or in a ball of its volume.
void add_sources(const MeshIn<3>& mesh, std::size_t e, double size, std::vector<SizeSourceIn<3>>& out) {
    SizeSourceIn<3> s;
    s.corners.fill(mesh.centre_of(e));
    s.size = size;
    s.reach = std::cbrt(mesh.measure_of(e) * 3 / (4 * std::numbers::pi));
    out.push_back(s);
}

}  // namespace

template <int D>
SizeFieldIn<D> resize(const MeshIn<D>& mesh, const std::vector<double>& factor, const ResizeLimits& limits) {
    std::vector<SizeSourceIn<D>> sources;
    sources.reserve(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const double wanted = mesh.size_of(e) * std::clamp(factor[e], 1 / limits.most_finer, limits.most_coarser);
        add_sources(mesh, e, std::clamp(wanted, limits.smallest, limits.largest), sources);
    }
    return {limits.largest, limits.growth - 1, limits.smallest, std::move(sources)};
}
template SizeFieldIn<2> resize<2>(const MeshIn<2>&, const std::vector<double>&, const ResizeLimits&);
template SizeFieldIn<3> resize<3>(const MeshIn<3>&, const std::vector<double>&, const ResizeLimits&);

template <int D>
std::vector<char> changing_elements(const MeshIn<D>& mesh, const std::vector<double>& factor) {
    std::vector<char> touched(mesh.nodes.size(), 0), anew(mesh.element_count(), 0);
    for (std::size_t e = 0; e < anew.size(); ++e)
        if (factor[e] < 1 && mesh.row[e] == 0)
            for (const auto n : mesh.element(e)) touched[static_cast<std::size_t>(n)] = 1;
    for (std::size_t e = 0; e < anew.size(); ++e)
        for (const auto n : mesh.element(e))
            if (touched[static_cast<std::size_t>(n)] && mesh.row[e] == 0) anew[e] = 1;
    return anew;
}

template std::vector<char> changing_elements<2>(const MeshIn<2>&, const std::vector<double>&);
template std::vector<char> changing_elements<3>(const MeshIn<3>&, const std::vector<double>&);

template <int D>
std::optional<SizeSourceIn<D>> point_source(const MeshIn<D>& mesh, const std::vector<double>& element_error2,
                                            double wanted_element_error2, const Vec<D>& point, double exponent,
                                            double near, const std::function<bool(std::size_t)>& allowed) {
    SizeSourceIn<D> source;
    source.corners = {point, point, point};
    source.form = SizeSourceIn<D>::Form::point;
    source.size = INFINITY;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!mesh.touches(e, point, near) || !allowed(e)) continue;
        const double factor = factor_at_point(element_error2[e], wanted_element_error2, exponent);
        source.size = std::min(source.size, mesh.size_of(e) * std::min(factor, 1.0));
    }
    if (!std::isfinite(source.size)) return {};
    return source;
}

template std::optional<SizeSourceIn<2>> point_source<2>(const MeshIn<2>&, const std::vector<double>&, double,
                                                        const Vec2&, double, double,
                                                        const std::function<bool(std::size_t)>&);
template std::optional<SizeSourceIn<3>> point_source<3>(const MeshIn<3>&, const std::vector<double>&, double,
                                                        const Vec3&, double, double,
                                                        const std::function<bool(std::size_t)>&);

}  // namespace dotsift
