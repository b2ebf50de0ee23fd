#include "mesh/side_views.hpp"

namespace dotsift {

std::vector<SideView> side_views(const Topology& mesh, const std::vector<std::string>& on,
                                 const std::vector<std::string>& inside) {
    std::vector<SideView> out;
    const Meant meant(mesh, on), within(mesh, inside);
    const auto counts = [&](int e) {
        return e >= 0 && (inside.empty() || within.element(static_cast<std::size_t>(e)));
    };
    for (std::size_t k = 0; k < mesh.boundary.size(); ++k) {
        const BoundarySide& side = mesh.boundary[k];
        if (!meant.side(side)) continue;
        const ElementSide far = beyond(mesh, side);
        const bool own = counts(side.element), other = counts(far.element);
        const double share = own && other ? 0.5 : 1;
        if (own) out.push_back({k, static_cast<std::size_t>(side.element), side.side, true, share});
        if (other) out.push_back({k, static_cast<std::size_t>(far.element), far.side, false, share});
    }
    return out;
}

}  // namespace dotsift
