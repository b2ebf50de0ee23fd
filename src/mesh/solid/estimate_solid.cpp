#include <algorithm>
#include <cmath>

#include "mesh/solid/boundary.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/solid/body_finder.hpp"
#include "sizes/sizing.hpp"

namespace dotsift {

namespace {

constexpr double coarse_share = 1.0 / 12;  // of the part's diagonal: sizes of the mesh that is integrated over
constexpr int most_coarse_rounds = 16;
constexpr int lattice = 20;  // places along each side of the part's box, where there is no such mesh
// Elements over what regular tetrahedra of the wanted size would fill; measured in bench/.
constexpr double elements_a_tetrahedron = 0.97;
// The size on a piece of the part that changes by less than this share is taken from its middle.
constexpr double size_change = 0.3;
// Seven in each direction: sizes that change within less than a 128th of a coarse element are taken from its middle.
constexpr int most_halvings = 21;

/// `hint`: the source that asked for the size at the last place.
double count_in(const std::array<Vec3, 4>& t, const SizeFieldIn<3>& sizes, double enough, int depth,
                std::int32_t& hint) {
    const double volume = dot(cross(t[1] - t[0], t[2] - t[0]), t[3] - t[0]) / 6;
    const Vec3 centre = (t[0] + t[1] + t[2] + t[3]) / 4;
    std::size_t a = 0, b = 1;
    double reach = 0;
    for (std::size_t i = 0; i < 4; ++i) {
        reach = std::max(reach, distance(centre, t[i]));
        for (std::size_t j = i + 1; j < 4; ++j)
            if (distance(t[i], t[j]) > distance(t[a], t[b])) {
                a = i;
                b = j;
            }
    }
    const auto in = [&](double h) { return volume / (h * h * h / (6 * std::sqrt(2.0))); };
    const double h = sizes.at(centre, hint), here = in(h);
    if (const double sure = in(std::min(sizes.global(), h + sizes.steepest() * reach)); sure >= enough) return sure;
    if (depth == 0 || here < 0.25 || sizes.steepest() * reach < size_change * h) return here;
    auto first = t, second = t;
    first[b] = second[a] = (t[a] + t[b]) * 0.5;
    const double sum = count_in(first, sizes, enough, depth - 1, hint);
    return sum >= enough ? sum : sum + count_in(second, sizes, enough - sum, depth - 1, hint);
}

}  // namespace

double estimate_elements(const SolidPart& part, const SizeFieldIn<3>& sizes, double enough) {
    const double coarse_size = coarse_share * part.box.diagonal();
    SizeFieldIn<3> field(coarse_size, 1, coarse_size * 1e-3, {});
    for (int round = 0; round < most_coarse_rounds; ++round) {
        CoarsePlaces coarse;
        SurfaceMesh surface = mesh_surface(part, {field}, 100000, coarse);
        if (coarse.finer.empty()) {
            std::vector<std::int32_t> vertex;
            Tetrahedralisation mesh = tetrahedralise(surface.points, vertex);
            set_boundary(part, surface, vertex, mesh, true, coarse);
            if (coarse.finer.empty()) {
                double sum = 0;
                std::int32_t hint = -1;
                for (std::size_t k = 0; k < mesh.tetrahedra().size() && sum < enough; ++k) {
                    const auto& t = mesh.tetrahedra()[k];
                    if (!t.alive() || mesh.within()[k].body < 0) continue;
                    sum += count_in({mesh.point(t.v[0]), mesh.point(t.v[1]), mesh.point(t.v[2]), mesh.point(t.v[3])},
                                    sizes, enough / elements_a_tetrahedron - sum, most_halvings, hint);
                }
                return std::max(sum * elements_a_tetrahedron, 1.0);
            }
        }
        field = field.refined(std::move(coarse.finer));
    }
    // No coarse mesh: from the sizes at places of a lattice that lie in a body.
    const BodyFinder finder(part);
    double sum = 0, inside = 0;
    std::int32_t hint = -1;
    for (int i = 0; i < lattice; ++i)
        for (int j = 0; j < lattice; ++j)
            for (int k = 0; k < lattice; ++k) {
                const Vec3 share{{(i + 0.5) / lattice, (j + 0.5) / lattice, (k + 0.5) / lattice}};
                Vec3 p = part.box.low;
                for (std::size_t a = 0; a < 3; ++a) p[a] += share[a] * part.box.size()[a];
                if (finder(p) < 0) continue;
                const double h = sizes.at(p, hint);
                sum += 6 * std::sqrt(2.0) / (h * h * h);
                inside += 1;
            }
    return std::max(elements_a_tetrahedron * measure(part).size * sum / std::max(inside, 1.0), 1.0);
}

double check_element_limit(const SolidPart& part, const SizeFieldIn<3>& sizes, std::int64_t most_elements) {
    return within_element_limit(estimate_elements(part, sizes, plainly_too_many * static_cast<double>(most_elements)),
                                most_elements);
}

}  // namespace dotsift
