#include "solve/acting/prescribed_gap.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "solve/acting/side_geometry.hpp"

namespace dotsift {

double prescribed_gap(const Mesh& mesh, const Study& study) {
    double worst = 0;
    for (const auto& support : study.supports)
        for (const auto* formula : {&support.displacement[0], &support.displacement[1], &support.potential}) {
            if (!*formula || (*formula)->constant || support.on.empty()) continue;
            const FormulaEvaluator value(**formula, study.path.string());
            double largest = 0, gap = 0;
            const Meant meant(mesh, support.on);
            for (const auto& side : mesh.boundary) {
                if (!meant.side(side)) continue;
                std::array<double, 3> at_nodes{};
                for (std::size_t i = 0; i < side.count(); ++i)
                    at_nodes[i] = value({mesh.nodes[static_cast<std::size_t>(side.nodes[i])], {}, support.about});
                for (const auto& p : side_points(mesh, side)) {
                    const double wanted = value({p.position, p.normal, support.about});
                    double have = 0;
                    for (std::size_t i = 0; i < side.count(); ++i) have += p.n[i] * at_nodes[i];
                    largest = std::max(largest, std::fabs(wanted));
                    gap = std::max(gap, std::fabs(wanted - have));
                }
            }
            if (largest > 0) worst = std::max(worst, gap / largest);
        }
    return worst;
}

}  // namespace dotsift
