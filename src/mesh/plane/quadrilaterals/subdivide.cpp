#include "mesh/plane/quadrilaterals/subdivide.hpp"

#include <algorithm>
#include <map>

namespace dotsift {

namespace {

/// Makes a mesh from corners alone; middle nodes of quadratic elements are added halfway.
class Rebuilder {
  public:
    explicit Rebuilder(const Mesh& old) : old_(old) {}

    Mesh run() {
        number_corners();
        for (std::size_t e = 0; e < old_.element_count(); ++e) cut(e);
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
        for (const auto& side : old_.boundary) halve(side);
        mesh_.boundary_names = old_.boundary_names;
        mesh_.region_names = old_.region_names;
        mesh_.names_of_edge = old_.names_of_edge;
        for (auto p : old_.points) {
            p.node = corner_[static_cast<std::size_t>(p.node)];
            mesh_.points.push_back(p);
        }
        connect(mesh_);
        return std::move(mesh_);
    }

  private:
    void number_corners() {
        corner_.assign(old_.nodes.size(), -1);
        for (std::size_t e = 0; e < old_.element_count(); ++e)
            for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(old_.kinds[e])); ++c) {
                const auto n = static_cast<std::size_t>(old_.element(e)[c]);
                if (corner_[n] >= 0) continue;
                corner_[n] = static_cast<int>(mesh_.nodes.size());
                mesh_.nodes.push_back(old_.nodes[n]);
            }
    }

    /// The node halfway between two.
    int between(int a, int b) {
        const auto [found, fresh] = middle_.try_emplace(std::minmax(a, b), static_cast<int>(mesh_.nodes.size()));
        if (fresh)
            mesh_.nodes.push_back(
                (mesh_.nodes[static_cast<std::size_t>(a)] + mesh_.nodes[static_cast<std::size_t>(b)]) * 0.5);
        return found->second;
    }

    void add(std::size_t from, const std::vector<int>& corners) {
        const int degree = polynomial_degree(old_.kinds[from]);
        mesh_.kinds.push_back(kind_of(static_cast<int>(corners.size()), degree));
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
        mesh_.region.push_back(old_.region[from]);
        mesh_.row.push_back(0);
        mesh_.connectivity.insert(mesh_.connectivity.end(), corners.begin(), corners.end());
        if (degree == 1) return;
        for (std::size_t i = 0; i < corners.size(); ++i)
            mesh_.connectivity.push_back(between(corners[i], corners[(i + 1) % corners.size()]));
        if (corners.size() == 4) {
            Vec2 centre;
            for (const int c : corners) centre += mesh_.nodes[static_cast<std::size_t>(c)] * 0.25;
            mesh_.connectivity.push_back(static_cast<std::int32_t>(mesh_.nodes.size()));
            mesh_.nodes.push_back(centre);
        }
    }

    void cut(std::size_t e) {
        const auto k = static_cast<std::size_t>(corner_count(old_.kinds[e]));
        std::vector<int> c, m;
        for (std::size_t i = 0; i < k; ++i) c.push_back(corner_[static_cast<std::size_t>(old_.element(e)[i])]);
        for (std::size_t i = 0; i < k; ++i) m.push_back(between(c[i], c[(i + 1) % k]));
        if (k == 3) {
            for (std::size_t i = 0; i < 3; ++i) add(e, {c[i], m[i], m[(i + 2) % 3]});
            add(e, m);
            return;
        }
        const int centre = static_cast<int>(mesh_.nodes.size());
        Vec2 p;
        for (const int i : c) p += mesh_.nodes[static_cast<std::size_t>(i)] * 0.25;
        mesh_.nodes.push_back(p);
        for (std::size_t i = 0; i < 4; ++i) add(e, {c[i], m[i], centre, m[(i + 3) % 4]});
    }

    /// Piece i of an element has its corner i; its side 0 is the first half of side i, its last the second half of the
    /// side before.
    void halve(const BoundarySide& side) {
        const auto e = static_cast<std::size_t>(side.element);
        const int k = corner_count(old_.kinds[e]);
        const int a = corner_[static_cast<std::size_t>(side.nodes[0])],
                  b = corner_[static_cast<std::size_t>(side.nodes[1])];
        const int m = between(a, b), first = 4 * side.element;
        const bool quadratic = polynomial_degree(old_.kinds[e]) == 2;
        mesh_.boundary.push_back({{a, m, quadratic ? between(a, m) : -1}, first + side.side, 0, side.edge});
        mesh_.boundary.push_back(
            {{m, b, quadratic ? between(m, b) : -1}, first + (side.side + 1) % k, k - 1, side.edge});
    }

    const Mesh& old_;
    Mesh mesh_;
    std::vector<int> corner_;
    std::map<std::pair<int, int>, int> middle_;
};

}  // namespace

Mesh subdivide(const Mesh& mesh) {
    return Rebuilder(mesh).run();
}

}  // namespace dotsift
