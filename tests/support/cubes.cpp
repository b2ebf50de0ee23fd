#include "support/cubes.hpp"

#include <algorithm>
#include <map>

namespace dotsift::test {

namespace {

/// Places on a lattice of eighths of a cell, so that all middles are on it.
using Key = std::array<int, 3>;
constexpr int unit = 8;

class Cutter {
  public:
    Cutter(int cells, int degree, const std::function<Vec3(const Vec3&)>& place, bool curved)
        : cells_(cells), degree_(degree), place_(place), curved_(curved) {
        mesh_.first.push_back(0);
    }

    void add(ElementKind kind, const std::vector<Key>& corners) {
        kind = of_degree(kind, degree_);
        mesh_.kinds.push_back(kind);
        mesh_.region.push_back(0);
        mesh_.row.push_back(0);
        for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
            const auto& of = corners_of_node(kind, i);
            Key key{};
            Vec3 middle;
            for (const auto c : of) {
                for (std::size_t a = 0; a < 3; ++a) key[a] += corners[c][a];
                middle += position(corners[c]);
            }
            for (auto& k : key) k /= static_cast<int>(of.size());
            const auto [found, fresh] = number_.try_emplace(key, static_cast<int>(mesh_.nodes.size()));
            if (fresh) mesh_.nodes.push_back(curved_ ? position(key) : middle * (1.0 / static_cast<double>(of.size())));
            mesh_.connectivity.push_back(found->second);
        }
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
    }

    SolidMesh take() {
        connect(mesh_);
        for (std::size_t s = 0; s < mesh_.sides.count(); ++s)
            if (const auto& beside = mesh_.sides.beside(s); !beside[1])
                mesh_.boundary.push_back({{-1, -1, -1}, beside[0].element, beside[0].side, 0});
        mesh_.region_names = {"cube"};
        mesh_.names_of_edge = {{}};
        return std::move(mesh_);
    }

  private:
    [[nodiscard]] Vec3 position(const Key& key) const {
        Vec3 p;
        for (std::size_t a = 0; a < 3; ++a) p[a] = static_cast<double>(key[a]) / (unit * cells_);
        return place_(p);
    }

    int cells_, degree_;
    const std::function<Vec3(const Vec3&)>& place_;
    bool curved_;
    SolidMesh mesh_;
    std::map<Key, int> number_;
};

}  // namespace

SolidMesh cut_cube(CubeCut cut, int n, int degree, const std::function<Vec3(const Vec3&)>& place, bool curved) {
    Cutter cutter(n, degree, place, curved);
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j)
            for (int k = 0; k < n; ++k) {
                const auto at = [&](int x, int y, int z) {
                    return Key{unit * (i + x), unit * (j + y), unit * (k + z)};
                };
                const std::vector<Key> cube{at(0, 0, 0), at(1, 0, 0), at(1, 1, 0), at(0, 1, 0),
                                            at(0, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0, 1, 1)};
                CubeCut here = cut;
                bool split = false;  // the pyramid of the face towards the tetrahedra becomes two of these
                if (cut == CubeCut::mixed) {
                    constexpr CubeCut layers[] = {CubeCut::hexahedra, CubeCut::wedges, CubeCut::pyramids,
                                                  CubeCut::tetrahedra};
                    here = layers[4 * i / n];
                    split = here == CubeCut::pyramids && 4 * (i + 1) / n == 3;
                }
                const auto& c = cube;
                switch (here) {
                    case CubeCut::tetrahedra: {  // one along each way through the axes (Kuhn 1960)
                        Key order{0, 1, 2};
                        do {
                            std::array<int, 3> p{};
                            std::vector<Key> corners{at(0, 0, 0)};
                            for (const int axis : order) {
                                p[static_cast<std::size_t>(axis)] = 1;
                                corners.push_back(at(p[0], p[1], p[2]));
                            }
                            // Odd orders turn the tetrahedron inside out.
                            const bool odd = (order[0] > order[1]) ^ (order[0] > order[2]) ^ (order[1] > order[2]);
                            if (odd) std::swap(corners[1], corners[2]);
                            cutter.add(ElementKind::tetrahedron4, corners);
                        } while (std::next_permutation(order.begin(), order.end()));
                        break;
                    }
                    case CubeCut::wedges:
                        cutter.add(ElementKind::wedge6, {c[0], c[1], c[2], c[4], c[5], c[6]});
                        cutter.add(ElementKind::wedge6, {c[0], c[2], c[3], c[4], c[6], c[7]});
                        break;
                    case CubeCut::pyramids: {
                        const Key tip{unit * i + unit / 2, unit * j + unit / 2, unit * k + unit / 2};
                        const KindTable& table = table_of(ElementKind::hexahedron8);
                        for (std::size_t s = 0; s < table.sides; ++s) {
                            std::vector<Key> base;
                            // Seen from inside anticlockwise: the other way round.
                            for (std::size_t m = 4; m-- > 0;) base.push_back(c[table.side[s][m]]);
                            if (split && s == 1) {  // x = 1, with the diagonal that the tetrahedra have
                                cutter.add(ElementKind::tetrahedron4, {c[1], c[6], c[2], tip});
                                cutter.add(ElementKind::tetrahedron4, {c[1], c[5], c[6], tip});
                                continue;
                            }
                            base.push_back(tip);
                            cutter.add(ElementKind::pyramid5, base);
                        }
                        break;
                    }
                    default:
                        cutter.add(ElementKind::hexahedron8, cube);
                        break;
                }
            }
    return cutter.take();
}

}  // namespace dotsift::test
