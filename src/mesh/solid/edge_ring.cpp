#include "mesh/solid/edge_ring.hpp"

#include <algorithm>

namespace dotsift {

namespace {

// Rings of more elements than this have no edge worth taking out.
constexpr std::size_t most_round_edge = 9;

}  // namespace

bool EdgeRing::find(const BodyMesh& mesh, std::int32_t t, std::size_t a, std::size_t b, double above, bool better) {
    if (!mesh.around_edge(t, a, b, round_, ring_) || round_.size() < 3 || round_.size() > most_round_edge) return false;
    const std::int32_t p = mesh.element(t).v[a], q = mesh.element(t).v[b];
    double now = above;
    if (better) {
        double worst = 1;
        for (const auto e : round_) worst = std::min(worst, mesh.quality(e));
        now += worst;
    }
    const std::size_t n = ring_.size();
    std::array<std::array<double, most_round_edge>, most_round_edge> best{};
    std::array<std::array<std::size_t, most_round_edge>, most_round_edge> by{};
    for (std::size_t i = 0; i + 1 < n; ++i) best[i][i + 1] = 1;
    for (std::size_t length = 2; length < n; ++length)
        for (std::size_t i = 0; i + length < n; ++i) {
            const std::size_t j = i + length;
            best[i][j] = -1;
            for (std::size_t k = i + 1; k < j; ++k) {
                double worst = std::min(best[i][k], best[k][j]);
                if (worst <= std::max(best[i][j], now)) continue;
                worst = std::min({worst, mesh.quality({ring_[i], ring_[k], ring_[j], q}),
                                  mesh.quality({ring_[i], ring_[j], ring_[k], p})});
                if (worst <= best[i][j]) continue;
                best[i][j] = worst;
                by[i][j] = k;
            }
        }
    if (!(best[0][n - 1] > now)) return false;
    now_.clear();
    const auto add = [&](auto self, std::size_t i, std::size_t j) -> void {
        if (j == i + 1) return;
        const std::size_t k = by[i][j];
        now_.push_back({ring_[i], ring_[k], ring_[j], q});
        now_.push_back({ring_[i], ring_[j], ring_[k], p});
        self(self, i, k);
        self(self, k, j);
    };
    add(add, 0, n - 1);
    return true;
}

}  // namespace dotsift
