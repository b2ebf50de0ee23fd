#include "part/facets/facet_pieces.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <unordered_map>
#include <unordered_set>
#include <utility>

#include "base/dense.hpp"
#include "base/errors.hpp"

namespace dotsift {

namespace {

// Normals of a piece stay within this angle of their mean.
const double least_cosine = std::cos(58 * std::numbers::pi / 180);
// A cut that would pass a point nearer than this share of an edge goes through it.
constexpr double snap_share = 0.15;
// Of a piece's area: what hangs together on one side of a cut and is smaller is no piece of its own.
constexpr double splinter_share = 0.01;
constexpr int most_cuts = 4000;
constexpr double clearly_better = 1e-6;  // so that rounding does not choose

using PairKey = std::uint64_t;
PairKey key_of(std::int32_t a, std::int32_t b) {
    return static_cast<PairKey>(static_cast<std::uint32_t>(std::min(a, b))) << 32 |
           static_cast<std::uint32_t>(std::max(a, b));
}

class Parting {
  public:
    Parting(FacetMesh mesh, double feature_angle) : least_smooth_(std::cos(feature_angle)) {
        out_.mesh = std::move(mesh);
    }

    FacetPieces run() {
        const std::size_t count = out_.mesh.facets.size();
        for (std::size_t f = 0; f < count; ++f) add_to_table(f);
        out_.patch.assign(count, -1);
        for (std::size_t f = 0; f < count; ++f)
            if (out_.patch[f] < 0) grow_patch(f);
        find_normals();
        out_.piece = out_.patch;
        out_.pieces = out_.patches;
        pieces_.resize(static_cast<std::size_t>(out_.patches));
        for (std::size_t f = 0; f < count; ++f) pieces_[static_cast<std::size_t>(out_.piece[f])].push_back(f);
        // What is cut is left empty, and its halves are looked at later.
        int cuts = 0;
        for (std::size_t k = 0; k < pieces_.size(); ++k) {
            if (lies_open(pieces_[k])) continue;
            std::vector<std::vector<std::size_t>> halves;
            if (!is_disk(pieces_[k])) halves = cut(k, best_cut(pieces_[k], true));
            if (halves.size() < 2) halves = cut(k, best_cut(pieces_[k], false));
            if (halves.size() < 2 || ++cuts > most_cuts) refuse(halves.front());
            pieces_[k].clear();
            for (auto& half : halves) {
                for (const std::size_t f : half) out_.piece[f] = static_cast<std::int32_t>(pieces_.size());
                pieces_.push_back(std::move(half));
            }
        }
        number_pieces();
        return std::move(out_);
    }

  private:
    [[noreturn]] void refuse(const std::vector<std::size_t>& members) const {
        const Vec3 at = out_.mesh.corner(out_.mesh.facets[members.front()], 0);
        throw InputError(fmt::format("its facets are too coarse to follow a smooth face, near ({:.6g}, {:.6g}, {:.6g})",
                                     at[0], at[1], at[2]),
                         {}, "write it with more facets where it bends, or give a smaller feature_angle");
    }

    void add_to_table(std::size_t f) {
        const auto& v = out_.mesh.facets[f].v;
        for (std::size_t k = 0; k < 3; ++k)
            table_[key_of(v[k], v[(k + 1) % 3])].push_back(static_cast<std::int32_t>(f));
    }
    void remove_from_table(std::size_t f) {
        const auto& v = out_.mesh.facets[f].v;
        for (std::size_t k = 0; k < 3; ++k) {
            auto& list = table_[key_of(v[k], v[(k + 1) % 3])];
            list.erase(std::find(list.begin(), list.end(), static_cast<std::int32_t>(f)));
        }
    }
    [[nodiscard]] std::size_t beyond(std::size_t f, std::size_t k) const {
        const auto& v = out_.mesh.facets[f].v;
        const auto& list = table_.at(key_of(v[k], v[(k + 1) % 3]));
        return static_cast<std::size_t>(list[0] == static_cast<std::int32_t>(f) ? list[1] : list[0]);
    }
    [[nodiscard]] Vec3 normal_of(std::size_t f) const {
        const Vec3 n = out_.mesh.twice_area(out_.mesh.facets[f]);
        return n / norm(n);
    }

    void grow_patch(std::size_t seed) {
        const std::int32_t own = out_.patches++;
        std::vector<std::size_t> open{seed};
        out_.patch[seed] = own;
        while (!open.empty()) {
            const std::size_t f = open.back();
            open.pop_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const std::size_t g = beyond(f, k);
                if (out_.patch[g] >= 0 || out_.mesh.facets[g].group != out_.mesh.facets[f].group ||
                    dot(normal_of(f), normal_of(g)) < least_smooth_)
                    continue;
                out_.patch[g] = own;
                open.push_back(g);
            }
        }
    }

    /// Means over the facets of a patch, by the angle that each has at the point (Thurmer & Wuthrich 1998, J. Graphics
    /// Tools 3).
    void find_normals() {
        for (std::size_t f = 0; f < out_.mesh.facets.size(); ++f) {
            const Facet& facet = out_.mesh.facets[f];
            for (std::size_t k = 0; k < 3; ++k) {
                const Vec3 a = out_.mesh.corner(facet, (k + 1) % 3) - out_.mesh.corner(facet, k),
                           b = out_.mesh.corner(facet, (k + 2) % 3) - out_.mesh.corner(facet, k);
                out_.normals[{out_.patch[f], facet.v[k]}] += normal_of(f) * std::atan2(norm(cross(a, b)), dot(a, b));
            }
        }
        for (auto& [where, n] : out_.normals)
            if (norm(n) > 0) n = n / norm(n);
    }

    /// All normals lie within an angle of their mean, so that the piece can be seen whole from there.
    [[nodiscard]] bool lies_open(const std::vector<std::size_t>& members) const {
        Vec3 mean;
        for (const std::size_t f : members) mean += out_.mesh.twice_area(out_.mesh.facets[f]);
        const double length = norm(mean);
        return members.empty() || (length > 0 && std::all_of(members.begin(), members.end(), [&](std::size_t f) {
                                       return dot(normal_of(f), mean) >= least_cosine * length;
                                   }));
    }

    /// With one rim and no handle (Euler's formula).
    [[nodiscard]] bool is_disk(const std::vector<std::size_t>& members) const {
        std::unordered_set<std::int32_t> points;
        std::unordered_set<PairKey> sides;
        for (const std::size_t f : members) {
            const auto& v = out_.mesh.facets[f].v;
            for (std::size_t k = 0; k < 3; ++k) {
                points.insert(v[k]);
                sides.insert(key_of(v[k], v[(k + 1) % 3]));
            }
        }
        return points.size() + members.size() == sides.size() + 1;
    }

    /// A direction, and the middle of it: of places, or of normals.
    struct Cut {
        bool of_places = false;
        Vec3 along;
        double level = 0;
    };
    [[nodiscard]] Vec3 middle_of(std::size_t f) const {
        const Facet& t = out_.mesh.facets[f];
        return (out_.mesh.corner(t, 0) + out_.mesh.corner(t, 1) + out_.mesh.corner(t, 2)) / 3;
    }

    /// Of the three main directions in which places or normals differ that whose halves look farthest to one side.
    [[nodiscard]] Cut best_cut(const std::vector<std::size_t>& members, bool of_places) const {
        const auto value = [&](std::size_t f) { return of_places ? middle_of(f) : normal_of(f); };
        Vec3 mean;
        double area = 0;
        std::vector<double> weight;
        for (const std::size_t f : members) {
            weight.push_back(norm(out_.mesh.twice_area(out_.mesh.facets[f])));
            mean += value(f) * weight.back();
            area += weight.back();
        }
        mean = mean / area;
        Eigen::MatrixXd spread = Eigen::MatrixXd::Zero(3, 3);
        for (std::size_t k = 0; k < members.size(); ++k) {
            const Vec3 d = value(members[k]) - mean;
            for (std::size_t i = 0; i < 3; ++i)
                for (std::size_t j = 0; j < 3; ++j)
                    spread(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(j)) += weight[k] * d[i] * d[j];
        }
        const SymmetricEigen eigen = symmetric_eigen(spread);
        Cut best;
        double most = -1;
        for (Eigen::Index way = 2; way >= 0; --way) {
            Cut cut{of_places, {{eigen.vectors(0, way), eigen.vectors(1, way), eigen.vectors(2, way)}}, 0};
            std::size_t largest = 0;
            for (std::size_t k = 1; k < 3; ++k)
                if (std::fabs(cut.along[k]) > std::fabs(cut.along[largest])) largest = k;
            if (cut.along[largest] < 0) cut.along = -cut.along;  // the same on every machine
            double low = INFINITY, high = -INFINITY;
            for (const std::size_t f : members) {
                low = std::min(low, dot(value(f), cut.along));
                high = std::max(high, dot(value(f), cut.along));
            }
            cut.level = (low + high) / 2;
            std::array<Vec3, 2> half;
            for (const std::size_t f : members)
                half[dot(value(f), cut.along) >= cut.level] += out_.mesh.twice_area(out_.mesh.facets[f]);
            const double gain = (norm(half[0]) + norm(half[1])) / area;
            if (gain <= most + clearly_better) continue;
            most = gain;
            best = cut;
        }
        return best;
    }

    /// Splits facets where a cut passes, and returns what hangs together on either side.
    std::vector<std::vector<std::size_t>> cut(std::size_t piece, const Cut& by) {
        const std::vector<std::size_t> members = pieces_[piece];
        std::unordered_map<std::int32_t, double> height;
        const std::int32_t patch = out_.patch[members.front()];
        for (const std::size_t f : members)
            for (const auto v : out_.mesh.facets[f].v) {
                const Vec3& value =
                    by.of_places ? out_.mesh.points[static_cast<std::size_t>(v)] : out_.normal(patch, v);
                height[v] = dot(value, by.along) - by.level;
            }
        const auto h = [&](std::int32_t v) -> double& { return height[v]; };
        std::vector<std::array<std::int32_t, 2>> edges;
        for (const std::size_t f : members)
            for (std::size_t k = 0; k < 3; ++k) {
                const std::int32_t a = out_.mesh.facets[f].v[k], b = out_.mesh.facets[f].v[(k + 1) % 3];
                if (h(a) * h(b) < 0) edges.push_back({std::min(a, b), std::max(a, b)});
            }
        std::sort(edges.begin(), edges.end());
        edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
        for (const auto& [a, b] : edges) {
            const double share = h(a) / (h(a) - h(b));
            if (share < snap_share) h(a) = 0;
            if (share > 1 - snap_share) h(b) = 0;
        }
        for (const auto& [a, b] : edges)
            if (h(a) * h(b) < 0) h(split(a, b, h(a) / (h(a) - h(b)))) = 0;
        std::vector<std::size_t>& all = pieces_[piece];
        std::unordered_map<std::size_t, int> side;
        double whole = 0;
        std::sort(all.begin(), all.end());
        for (const std::size_t f : all) {
            double sum = 0;
            for (const auto v : out_.mesh.facets[f].v) sum += h(v);
            if (sum == 0) sum = dot(by.of_places ? middle_of(f) : normal_of(f), by.along) - by.level;
            side[f] = sum >= 0 ? 1 : -1;
            whole += area_of(f);
        }
        // Splinters go to the other side.
        for (const auto& half : hanging_together(all, side)) {
            double area = 0;
            for (const std::size_t f : half) area += area_of(f);
            if (area < splinter_share * whole)
                for (const std::size_t f : half) side[f] = -side[f];
        }
        return hanging_together(all, side);
    }
    [[nodiscard]] double area_of(std::size_t f) const { return norm(out_.mesh.twice_area(out_.mesh.facets[f])) / 2; }

    /// Neighbours on the same side.
    [[nodiscard]] std::vector<std::vector<std::size_t>> hanging_together(
        const std::vector<std::size_t>& all, std::unordered_map<std::size_t, int> side) const {
        std::vector<std::vector<std::size_t>> halves;
        for (const std::size_t seed : all) {
            if (side[seed] == 0) continue;
            const int same = std::exchange(side[seed], 0);
            halves.push_back({seed});
            auto& half = halves.back();
            for (std::size_t i = 0; i < half.size(); ++i)
                for (std::size_t k = 0; k < 3; ++k) {
                    const auto there = side.find(beyond(half[i], k));
                    if (there == side.end() || there->second != same) continue;
                    there->second = 0;
                    half.push_back(there->first);
                }
        }
        return halves;
    }

    /// A point on an edge, on the smooth curve over it, and both facets halved there.
    std::int32_t split(std::int32_t a, std::int32_t b, double share) {
        const auto facets = table_.at(key_of(a, b));
        const auto m = static_cast<std::int32_t>(out_.mesh.points.size());
        const Vec3 p = out_.mesh.points[static_cast<std::size_t>(a)], q = out_.mesh.points[static_cast<std::size_t>(b)];
        Vec3 place;
        for (const std::int32_t f : facets) {
            const std::int32_t patch = out_.patch[static_cast<std::size_t>(f)];
            const Vec3 &n = out_.normal(patch, a), &o = out_.normal(patch, b);
            const Vec3 c = (p * 2 + q - n * dot(q - p, n)) / 3, d = (q * 2 + p - o * dot(p - q, o)) / 3;
            const double r = 1 - share;
            place += (p * (r * r * r) + c * (3 * r * r * share) + d * (3 * r * share * share) +
                      q * (share * share * share)) /
                     static_cast<double>(facets.size());
            const Vec3 between = n * r + o * share;
            out_.normals[{patch, m}] = norm(between) > 0 ? between / norm(between) : n;
        }
        out_.mesh.points.push_back(place);
        for (const std::int32_t number : facets) {
            const auto f = static_cast<std::size_t>(number);
            remove_from_table(f);
            Facet half = out_.mesh.facets[f];
            std::size_t k = 0;
            while (key_of(half.v[k], half.v[(k + 1) % 3]) != key_of(a, b)) ++k;
            Facet& kept = out_.mesh.facets[f];
            half.v[k] = m;
            kept.v[(k + 1) % 3] = m;
            const std::size_t born = out_.mesh.facets.size();
            out_.mesh.facets.push_back(half);
            out_.patch.push_back(out_.patch[f]);
            out_.piece.push_back(out_.piece[f]);
            pieces_[static_cast<std::size_t>(out_.piece[f])].push_back(born);
            add_to_table(f);
            add_to_table(born);
        }
        return m;
    }

    void number_pieces() {
        std::vector<std::int32_t> number(pieces_.size(), -1);
        out_.pieces = 0;
        for (auto& p : out_.piece) {
            auto& n = number[static_cast<std::size_t>(p)];
            if (n < 0) n = out_.pieces++;
            p = n;
        }
    }

    FacetPieces out_;
    double least_smooth_;
    std::unordered_map<PairKey, std::vector<std::int32_t>> table_;
    std::vector<std::vector<std::size_t>> pieces_;  ///< their facets
};

}  // namespace

FacetPieces parted(FacetMesh mesh, double feature_angle) {
    return Parting(std::move(mesh), feature_angle).run();
}

}  // namespace dotsift
