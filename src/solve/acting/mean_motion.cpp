#include "solve/acting/mean_motion.hpp"

#include <algorithm>
#include <map>

#include "base/dense.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

namespace {

// Of the largest: with less lever about an axis a boundary is a line along it.
constexpr double least_lever = 1e-12;

}  // namespace

template <int D>
Vec3 MeanMotionIn<D>::turn_for(const Vec3& moment) const {
    if constexpr (D == 2) return moment / inertia;
    Eigen::MatrixXd about(3, 3);
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j)
            about(i, j) =
                (i == j ? inertia : 0) - spread[static_cast<std::size_t>(i % D)][static_cast<std::size_t>(j % D)];
    const SymmetricEigen eigen = symmetric_eigen(about);
    const Eigen::Vector3d m(moment[0], moment[1], moment[2]);
    Eigen::Vector3d turn = Eigen::Vector3d::Zero();
    for (int k = 0; k < 3; ++k)
        if (eigen.values[k] > least_lever * eigen.values[2])
            turn += eigen.vectors.col(k) * (eigen.vectors.col(k).dot(m) / eigen.values[k]);
    return {{turn[0], turn[1], turn[2]}};
}

template <int D>
MeanMotionIn<D> mean_motion(const MeshIn<D>& mesh, const std::vector<std::string>& on, const LawsIn<D>& laws) {
    MeanMotionIn<D> m;
    const auto each = [&](auto act) {
        const Meant meant(mesh, on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            for (const auto& p : load_points(mesh, side)) act(side, p, area_at(mesh, laws, side, p));
        }
    };
    each([&](const BoundarySide&, const SidePointIn<D>& p, double w) {
        m.area += w;
        m.centre += p.position * w;
    });
    m.centre = m.centre / m.area;
    std::map<std::int32_t, std::pair<double, Vec<D>>> sums;
    each([&](const BoundarySide& side, const SidePointIn<D>& p, double w) {
        const Vec<D> d = p.position - m.centre;
        m.inertia += dot(d, d) * w;
        for (std::size_t i = 0; i < D; ++i)
            for (std::size_t j = 0; j < D; ++j) m.spread[i][j] += d[i] * d[j] * w;
        for (std::size_t i = 0; i < count_on_side(mesh, side); ++i) {
            auto& s = sums[number_on_side(mesh, mesh.connectivity, side.element, side.side, i)];
            s.first += p.n[i] * w;
            s.second += d * (p.n[i] * w);
        }
    });
    for (const auto& [n, s] : sums) {
        m.weight.emplace_back(n, s.first);
        m.lever.push_back(s.second);
    }
    return m;
}

template struct MeanMotionIn<2>;
template struct MeanMotionIn<3>;
template MeanMotionIn<2> mean_motion<2>(const Mesh&, const std::vector<std::string>&, const Laws&);
template MeanMotionIn<3> mean_motion<3>(const SolidMesh&, const std::vector<std::string>&, const SolidLaws&);

}  // namespace dotsift
