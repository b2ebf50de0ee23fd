#include "part/facets/facet_mesh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>
#include <unordered_map>

#include "base/box_tree.hpp"
#include "base/errors.hpp"
#include "base/predicates.hpp"

namespace dotsift {

namespace {

// Of the size: points nearer to each other than this become one where the facets do not close otherwise.
constexpr double sewn_share = 1e-6;
// A facet whose height is smaller than this share of its longest side has no area.
constexpr double least_height_share = 1e-12;
constexpr std::size_t most_solids = 1000;

using FacetSide = std::array<std::int32_t, 2>;
struct FacetSideHash {
    std::size_t operator()(const FacetSide& e) const {
        return std::hash<std::uint64_t>()(static_cast<std::uint64_t>(static_cast<std::uint32_t>(e[0])) << 32 |
                                          static_cast<std::uint32_t>(e[1]));
    }
};
FacetSide facet_side(std::int32_t a, std::int32_t b) {
    return {std::min(a, b), std::max(a, b)};
}
/// The facets at each edge.
using SideTable = std::unordered_map<FacetSide, std::vector<std::int32_t>, FacetSideHash>;

[[noreturn]] void refuse_facets(const std::string& why, const Vec3& at, const char* remedy) {
    throw InputError(fmt::format("{}, near ({:.6g}, {:.6g}, {:.6g})", why, at[0], at[1], at[2]), {}, remedy);
}

class Mending {
  public:
    Mending(FacetMesh mesh, std::vector<std::string>& notes) : mesh_(std::move(mesh)), notes_(notes) {}

    std::vector<FacetMesh> run() {
        Box<3> box;
        for (const Vec3& p : mesh_.points) box.add(p);
        size_ = box.empty ? 0 : box.diagonal();
        low_ = box.low;
        join_same();
        drop_flat();
        fill_table();
        if (open_edges() > 0) sew();
        judge_edges();
        if (mesh_.facets.empty()) throw InputError("it holds no facet with an area");
        orient();
        find_crossings();
        return parted();
    }

  private:
    /// Points that are the same become one.
    void join_same() {
        std::vector<std::int32_t> order(mesh_.points.size()), now(mesh_.points.size(), -1);
        std::iota(order.begin(), order.end(), 0);
        const auto place = [&](std::int32_t i) -> const auto& {
            return mesh_.points[static_cast<std::size_t>(i)].c;
        };
        std::sort(order.begin(), order.end(),
                  [&](std::int32_t a, std::int32_t b) { return place(a) != place(b) ? place(a) < place(b) : a < b; });
        std::vector<Vec3> kept;
        for (std::size_t k = 0; k < order.size(); ++k) {
            if (k == 0 || place(order[k]) != place(order[k - 1]))
                kept.push_back(mesh_.points[static_cast<std::size_t>(order[k])]);
            now[static_cast<std::size_t>(order[k])] = static_cast<std::int32_t>(kept.size()) - 1;
        }
        renumber(now, std::move(kept));
    }

    /// Points within `reach` of each other become the first of them. Returns the widest gap.
    double join_within(double reach) {
        using Cell = std::array<std::int64_t, 3>;
        struct CellHash {
            std::size_t operator()(const Cell& c) const {
                constexpr std::array<std::uint64_t, 3> spread{73856093, 19349663, 83492791};
                std::uint64_t h = 0;
                for (std::size_t k = 0; k < 3; ++k) h ^= static_cast<std::uint64_t>(c[k]) * spread[k];
                return h;
            }
        };
        std::unordered_map<Cell, std::vector<std::int32_t>, CellHash> cells;
        std::vector<std::int32_t> now;
        std::vector<Vec3> kept;
        double widest = 0;
        for (const Vec3& p : mesh_.points) {
            Cell own{};
            for (std::size_t k = 0; k < 3; ++k) own[k] = std::llround((p[k] - low_[k]) / reach);
            std::int32_t known = -1;
            for (int n = 0; n < 27 && known < 0; ++n) {
                const auto cell = cells.find({own[0] + n % 3 - 1, own[1] + n / 3 % 3 - 1, own[2] + n / 9 - 1});
                if (cell == cells.end()) continue;
                for (const std::int32_t i : cell->second)
                    if (distance(kept[static_cast<std::size_t>(i)], p) <= reach) known = i;
            }
            if (known < 0) {
                known = static_cast<std::int32_t>(kept.size());
                kept.push_back(p);
                cells[own].push_back(known);
            }
            widest = std::max(widest, distance(kept[static_cast<std::size_t>(known)], p));
            now.push_back(known);
        }
        renumber(now, std::move(kept));
        return widest;
    }

    void renumber(const std::vector<std::int32_t>& now, std::vector<Vec3> kept) {
        for (auto& f : mesh_.facets)
            for (auto& v : f.v) v = now[static_cast<std::size_t>(v)];
        mesh_.points = std::move(kept);
    }

    void drop_flat() {
        const std::size_t before = mesh_.facets.size();
        mesh_.facets.erase(
            std::remove_if(mesh_.facets.begin(), mesh_.facets.end(),
                           [&](const Facet& f) {
                               double longest = 0;
                               for (std::size_t k = 0; k < 3; ++k)
                                   longest =
                                       std::max(longest, distance(mesh_.corner(f, k), mesh_.corner(f, (k + 1) % 3)));
                               return f.v[0] == f.v[1] || f.v[1] == f.v[2] || f.v[2] == f.v[0] ||
                                      norm(mesh_.twice_area(f)) <= least_height_share * longest * longest;
                           }),
            mesh_.facets.end());
        dropped_ += before - mesh_.facets.size();
    }

    void fill_table() {
        table_.clear();
        table_.reserve(mesh_.facets.size() * 2);
        for (std::size_t f = 0; f < mesh_.facets.size(); ++f)
            for (std::size_t k = 0; k < 3; ++k)
                table_[facet_side(mesh_.facets[f].v[k], mesh_.facets[f].v[(k + 1) % 3])].push_back(
                    static_cast<std::int32_t>(f));
    }
    [[nodiscard]] std::size_t open_edges() const {
        return static_cast<std::size_t>(
            std::count_if(table_.begin(), table_.end(), [](const auto& e) { return e.second.size() == 1; }));
    }

    void sew() {
        const std::size_t open = open_edges();
        const double widest = join_within(sewn_share * size_);
        drop_flat();
        fill_table();
        if (open_edges() < open)
            notes_.push_back(fmt::format("points up to {:.3g} apart were joined, so that {} edges of facets meet",
                                         widest, open - open_edges()));
    }

    void judge_edges() {
        if (dropped_ > 0) notes_.push_back(fmt::format("{} facets without an area were left out", dropped_));
        const FacetSide* open = nullptr;
        const FacetSide* crowded = nullptr;
        std::size_t count = 0;
        for (const auto& [e, facets] : table_) {
            if (facets.size() == 1) {
                ++count;
                if (!open || e < *open) open = &e;
            } else if (facets.size() > 2 && (!crowded || e < *crowded)) {
                crowded = &e;
            }
        }
        const auto middle = [&](const FacetSide& e) {
            return (mesh_.points[static_cast<std::size_t>(e[0])] + mesh_.points[static_cast<std::size_t>(e[1])]) * 0.5;
        };
        if (open)
            refuse_facets(fmt::format("the surface is open: {} edges bound one facet alone, the first", count),
                          middle(*open), "close the holes where it comes from: a solid needs a closed surface");
        if (crowded)
            refuse_facets(
                "more than two facets meet at an edge", middle(*crowded),
                "solids that touch along an edge or a face cannot be told apart: write them into files of their own");
    }

    /// Facets that hang together turn the same way, and each such shell outwards.
    void orient() {
        const std::size_t count = mesh_.facets.size();
        shell_.assign(count, -1);
        std::size_t turned = 0;
        std::vector<std::size_t> open;
        for (std::size_t seed = 0; seed < count; ++seed) {
            if (shell_[seed] >= 0) continue;
            shell_[seed] = shells_++;
            open.push_back(seed);
            std::vector<std::size_t> own;
            std::size_t against = 0;
            while (!open.empty()) {
                const std::size_t f = open.back();
                open.pop_back();
                own.push_back(f);
                for (std::size_t k = 0; k < 3; ++k) {
                    const std::int32_t a = mesh_.facets[f].v[k], b = mesh_.facets[f].v[(k + 1) % 3];
                    for (const std::int32_t other : table_.at(facet_side(a, b))) {
                        const auto g = static_cast<std::size_t>(other);
                        const bool same = runs(g, a, b);
                        if (shell_[g] >= 0) {
                            if (g != f && same)
                                refuse_facets("the surface has but one side", mesh_.points[static_cast<std::size_t>(a)],
                                              "mend it where it comes from");
                            continue;
                        }
                        shell_[g] = shell_[f];
                        if (same) {
                            std::swap(mesh_.facets[g].v[1], mesh_.facets[g].v[2]);
                            ++against;
                        }
                        open.push_back(g);
                    }
                }
            }
            turned += std::min(against, own.size() - against);
            double volume = 0;
            const Vec3 about = mesh_.corner(mesh_.facets[seed], 0);
            for (const std::size_t f : own) volume += six_volumes(f, about);
            if (volume < 0)
                for (const std::size_t f : own) std::swap(mesh_.facets[f].v[1], mesh_.facets[f].v[2]);
            volumes_.push_back(std::fabs(volume) / 6);
            of_shell_.push_back(std::move(own));
        }
        if (turned > 0)
            notes_.push_back(fmt::format("{} of {} facets looked the other way than their neighbours and were turned",
                                         turned, count));
    }
    [[nodiscard]] bool runs(std::size_t f, std::int32_t a, std::int32_t b) const {
        const auto& v = mesh_.facets[f].v;
        for (std::size_t k = 0; k < 3; ++k)
            if (v[k] == a && v[(k + 1) % 3] == b) return true;
        return false;
    }
    [[nodiscard]] double six_volumes(std::size_t f, const Vec3& about) const {
        const Facet& t = mesh_.facets[f];
        return dot(mesh_.corner(t, 0) - about, mesh_.twice_area(t));
    }

    /// A facet that another one's edge runs through.
    void find_crossings() const {
        std::vector<Box<3>> boxes;
        boxes.reserve(mesh_.facets.size());
        for (const Facet& f : mesh_.facets) {
            Box<3> box;
            for (std::size_t k = 0; k < 3; ++k) box.add(mesh_.corner(f, k));
            boxes.push_back(box);
        }
        const BoxTree tree(boxes);
        for (std::size_t f = 0; f < mesh_.facets.size(); ++f) {
            const Box<3>& own = boxes[f];
            tree.visit(
                [&](const Box<3>& box) {
                    for (std::size_t k = 0; k < 3; ++k)
                        if (box.low[k] > own.high[k] || own.low[k] > box.high[k]) return false;
                    return true;
                },
                [&](std::size_t g) {
                    if (g != f && pierces(mesh_.facets[f], mesh_.facets[g]))
                        refuse_facets("the surface crosses itself", mesh_.corner(mesh_.facets[g], 0),
                                      "mend it where it comes from");
                });
        }
    }
    /// Some edge of a, with no point in common with b, runs through b.
    [[nodiscard]] bool pierces(const Facet& a, const Facet& b) const {
        const auto of_b = [&](std::int32_t v) { return std::find(b.v.begin(), b.v.end(), v) != b.v.end(); };
        const Vec3 &x = mesh_.corner(b, 0), &y = mesh_.corner(b, 1), &z = mesh_.corner(b, 2);
        for (std::size_t k = 0; k < 3; ++k) {
            if (of_b(a.v[k]) || of_b(a.v[(k + 1) % 3])) continue;
            const Vec3 &p = mesh_.corner(a, k), &q = mesh_.corner(a, (k + 1) % 3);
            const double from = orientation(x, y, z, p), to = orientation(x, y, z, q);
            if (!((from > 0 && to < 0) || (from < 0 && to > 0))) continue;
            // Within, or on a side.
            const std::array<double, 3> side{orientation(p, q, x, y), orientation(p, q, y, z), orientation(p, q, z, x)};
            const auto [least, most] = std::minmax_element(side.begin(), side.end());
            if (*least >= 0 || *most <= 0) return true;
        }
        return false;
    }

    /// How often a shell goes round a point (Van Oosterom & Strackee 1983, IEEE Trans. Biomed. Eng. 30).
    [[nodiscard]] bool holds(std::int32_t shell, const Vec3& p) const {
        double angle = 0;
        for (const std::size_t f : of_shell_[static_cast<std::size_t>(shell)]) {
            const Vec3 a = mesh_.corner(mesh_.facets[f], 0) - p, b = mesh_.corner(mesh_.facets[f], 1) - p,
                       c = mesh_.corner(mesh_.facets[f], 2) - p;
            const double la = norm(a), lb = norm(b), lc = norm(c);
            angle += std::atan2(dot(a, cross(b, c)), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb);
        }
        return std::fabs(angle) > std::numbers::pi;  // half of the whole, and of the true angle that is
    }

    /// A shell within an odd number of others is a cavity of the smallest of them.
    std::vector<FacetMesh> parted() {
        const auto count = static_cast<std::size_t>(shells_);
        std::vector<Box<3>> boxes(count);
        for (std::size_t n = 0; n < count; ++n)
            for (const std::size_t f : of_shell_[n])
                for (std::size_t k = 0; k < 3; ++k) boxes[n].add(mesh_.corner(mesh_.facets[f], k));
        std::vector<std::size_t> order(count), solid_of(count);
        std::iota(order.begin(), order.end(), 0);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return volumes_[a] > volumes_[b]; });
        std::vector<char> cavity(count, 0);
        std::vector<std::size_t> solids;
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t own = order[k];
            const Facet& f = mesh_.facets[of_shell_[own].front()];
            const Vec3 at = (mesh_.corner(f, 0) + mesh_.corner(f, 1) + mesh_.corner(f, 2)) / 3;
            std::size_t depth = 0, round = own;
            for (std::size_t m = 0; m < k; ++m)
                if (boxes[order[m]].distance_to(at) == 0 && holds(static_cast<std::int32_t>(order[m]), at)) {
                    ++depth;
                    round = order[m];
                }
            cavity[own] = depth % 2;
            solid_of[own] = cavity[own] ? solid_of[round] : solids.size();
            if (!cavity[own]) solids.push_back(own);
        }
        if (solids.size() > most_solids)
            throw InputError(fmt::format("it holds {} solids, more than {}", solids.size(), most_solids), {},
                             "write it in several files");
        std::vector<FacetMesh> out(solids.size());
        std::vector<std::vector<std::size_t>> of_solid(solids.size());
        for (std::size_t k = 0; k < mesh_.facets.size(); ++k)
            of_solid[solid_of[static_cast<std::size_t>(shell_[k])]].push_back(k);
        std::vector<std::int32_t> now(mesh_.points.size(), -1);
        for (std::size_t n = 0; n < solids.size(); ++n) {
            FacetMesh& solid = out[n];
            solid.groups = mesh_.groups;
            std::vector<std::int32_t> taken;
            for (const std::size_t k : of_solid[n]) {
                Facet f = mesh_.facets[k];
                if (cavity[static_cast<std::size_t>(shell_[k])]) std::swap(f.v[1], f.v[2]);
                for (auto& v : f.v) {
                    std::int32_t& there = now[static_cast<std::size_t>(v)];
                    if (there < 0) {
                        there = static_cast<std::int32_t>(solid.points.size());
                        solid.points.push_back(mesh_.points[static_cast<std::size_t>(v)]);
                        taken.push_back(v);
                    }
                    v = there;
                }
                solid.facets.push_back(f);
            }
            for (const auto v : taken) now[static_cast<std::size_t>(v)] = -1;
        }
        return out;
    }

    FacetMesh mesh_;
    std::vector<std::string>& notes_;
    double size_ = 0;
    Vec3 low_;
    std::size_t dropped_ = 0;
    SideTable table_;
    std::vector<std::int32_t> shell_;
    std::int32_t shells_ = 0;
    std::vector<double> volumes_;
    std::vector<std::vector<std::size_t>> of_shell_;  ///< its facets
};

}  // namespace

std::vector<FacetMesh> closed_solids(FacetMesh mesh, std::vector<std::string>& notes) {
    return Mending(std::move(mesh), notes).run();
}

}  // namespace dotsift
