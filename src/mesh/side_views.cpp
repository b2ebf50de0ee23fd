#include "mesh/side_views.hpp"

namespace dotsift {

std::vector<SideView> side_views(const Mesh& mesh, const std::vector<std::string>& on,
                                 const std::vector<std::string>& inside) {
    std::vector<SideView> out;
    const auto counts = [&](int e) {
        return e >= 0 && (inside.empty() || mesh.region_fits(static_cast<std::size_t>(e), inside));
    };
    for (std::size_t k = 0; k < mesh.boundary.size(); ++k) {
        const BoundarySide& side = mesh.boundary[k];
        if (!mesh.side_fits(side, on)) continue;
        const ElementSide far = beyond(mesh, side);
        const bool own = counts(side.element), other = counts(far.element);
        const double share = own && other ? 0.5 : 1;
        if (own) out.push_back({k, static_cast<std::size_t>(side.element), side.side, true, share});
        if (other) out.push_back({k, static_cast<std::size_t>(far.element), far.side, false, share});
    }
    return out;
}

}  // namespace dotsift
