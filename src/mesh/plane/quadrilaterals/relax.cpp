#include "mesh/plane/quadrilaterals/relax.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

#include "mesh/elements/shape.hpp"
#include "mesh/plane/corner_topology.hpp"

namespace dotsift {

namespace {

using Element = CornerMesh::Element;

constexpr double poor = 0.7;      // elements below this scaled Jacobian are searched for
constexpr int search_rounds = 4;  // over all poor elements
constexpr int search_steps = 12;  // of one point; each halves when nothing is better
constexpr std::size_t most_round =
    32;                                // elements at a point: of a fan of more nothing better comes, at the cost of all
constexpr double near_enough = 0.005;  // of the distance to a neighbour: not worth moving

class Relaxation {
  public:
    Relaxation(CornerMesh& mesh, std::size_t first_movable) : mesh_(mesh), first_(first_movable), round_(mesh) {}

    void average(int rounds) {
        for (int r = 0; r < rounds; ++r)
            for (std::size_t p = first_; p < mesh_.points.size(); ++p) {
                const auto elements = round_.of(p);
                if (elements.empty()) continue;
                const Vec2 old = mesh_.points[p], ideal = ideal_place(p);
                const auto& e = mesh_.elements[static_cast<std::size_t>(elements.front())];
                const auto i = corner_of(e, p);
                if (distance(old, ideal) <= near_enough * distance(old, point(e.v[(i + 1) % e.corners()]))) continue;
                const double before = worst_round(p);
                for (const double step : {1.0, 0.5, 0.25}) {
                    mesh_.points[p] = old * (1 - step) + ideal * step;
                    const double after = worst_round(p);
                    if (after >= std::min(before, poor) && after > 0) break;
                    mesh_.points[p] = old;
                }
            }
    }

    void search() {
        for (int r = 0; r < search_rounds; ++r) {
            bool any = false;
            for (const auto& e : mesh_.elements) {
                if (quality(e) >= poor) continue;
                for (std::size_t i = 0; i < e.corners(); ++i) {
                    const auto p = static_cast<std::size_t>(e.v[i]);
                    if (p >= first_) any = improve(p) || any;
                }
            }
            if (!any) break;
        }
    }

  private:
    [[nodiscard]] const Vec2& point(std::int32_t p) const { return mesh_.points[static_cast<std::size_t>(p)]; }
    static std::size_t corner_of(const Element& e, std::size_t p) {
        std::size_t i = 0;
        while (static_cast<std::size_t>(e.v[i]) != p) ++i;
        return i;
    }
    [[nodiscard]] double quality(const Element& e) const {
        const auto p = mesh_.corners_of(e);
        return soundness(std::span(p).first(e.corners()));
    }
    [[nodiscard]] double worst_round(std::size_t p) const {
        double worst = 1;
        for (const auto e : round_.of(p)) worst = std::min(worst, quality(mesh_.elements[static_cast<std::size_t>(e)]));
        return worst;
    }

    [[nodiscard]] Vec2 ideal_place(std::size_t p) const {
        Vec2 sum;
        double weight = 0;
        for (const auto k : round_.of(p)) {
            const auto& e = mesh_.elements[static_cast<std::size_t>(k)];
            const std::size_t n = e.corners(), i = corner_of(e, p);
            const Vec2 &next = point(e.v[(i + 1) % n]), &before = point(e.v[(i + n - 1) % n]);
            const double height = n == 3 ? std::numbers::sqrt3 / 2 : 0.5;
            Vec2 place = (next + before) * 0.5 + turned_left(before - next) * height;
            if (n == 4) {
                // Half way between the corner of a square on the diagonal and the one that makes a parallelogram.
                const Vec2& opposite = point(e.v[(i + 2) % 4]);
                place = (place + (next + before - opposite)) * 0.5;
            }
            sum += place;
            weight += 1;
        }
        return sum / weight;
    }

    bool improve(std::size_t p) {
        if (round_.of(p).size() > most_round) return false;
        double best = worst_round(p);
        const double start = best;
        const auto& e = mesh_.elements[static_cast<std::size_t>(round_.of(p).front())];
        double step = 0.25 * distance(mesh_.points[p], point(e.v[(corner_of(e, p) + 1) % e.corners()]));
        for (int k = 0; k < search_steps; ++k) {
            const Vec2 old = mesh_.points[p];
            Vec2 chosen = old;
            for (int d = 0; d < 8; ++d) {
                const double angle = d * std::numbers::pi / 4;
                mesh_.points[p] = old + Vec2{{std::cos(angle), std::sin(angle)}} * step;
                const double q = worst_round(p);
                if (q > best) {
                    best = q;
                    chosen = mesh_.points[p];
                }
            }
            mesh_.points[p] = chosen;
            if (chosen == old) step *= 0.5;
        }
        constexpr double noticeable = 1e-3;
        return best > start + noticeable;
    }

    CornerMesh& mesh_;
    std::size_t first_;
    ElementsRound round_;
};

}  // namespace

double scaled_jacobian_of(const CornerMesh& mesh, const Element& e) {
    const auto p = mesh.corners_of(e);
    return scaled_jacobian(std::span(p).first(e.corners()));
}

void relax(CornerMesh& mesh, std::size_t first_movable, int rounds) {
    Relaxation relaxation(mesh, first_movable);
    relaxation.average(rounds);
    relaxation.search();
}

}  // namespace dotsift
