#include "quality/repair.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr int most_passes = 6;
constexpr std::size_t most_repaired = 5000;  // the worst
constexpr int halvings = 8;                  // of the step of a search
constexpr double first_step = 0.25;          // of the shortest side round a node
constexpr double least_gain = 1e-3;          // of badness; less is no improvement
constexpr double poor_from = 1;              // badness

class Repair {
  public:
    Repair(Mesh& mesh, const std::vector<double>& wanted, const std::vector<QualitySpec>& limits,
           std::size_t first_element)
        : mesh_(mesh), wanted_(wanted), limits_(mesh, limits), first_element_(first_element) {}

    void run(RepairReport& report) {
        std::vector<std::size_t> bad;
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            const MeasureSet set = measure_element(mesh_, e, wanted_.empty() ? 0 : wanted_[e]);
            const bool poor_shape = badness(e, set) > poor_from;
            if (poor_shape && e >= first_element_) bad.push_back(e);
            const auto size = static_cast<std::size_t>(Criterion::size_ratio);
            report.poor_before +=
                poor_shape ||
                limits_.at(Criterion::size_ratio, e).grade(Criterion::size_ratio, set[size]) == Grade::poor;
        }
        if (bad.empty()) return;
        if (bad.size() > most_repaired) {  // limits that so many miss are no local matter
            std::stable_sort(bad.begin(), bad.end(),
                             [&](std::size_t a, std::size_t b) { return badness(a) > badness(b); });
            bad.resize(most_repaired);
        }
        find_fixed();
        for (int pass = 0; pass < most_passes && !bad.empty(); ++pass) {
            round_ = node_elements(mesh_);  // turned sides change it
            stale_.assign(mesh_.nodes.size(), 0);
            const std::size_t steps = report.moved + report.swapped;
            for (const std::size_t e : bad) {
                if (badness(e) <= poor_from) continue;
                if (turn_a_side(e)) ++report.swapped;
                const auto corners = static_cast<std::size_t>(corner_count(mesh_.kinds[e]));
                for (std::size_t i = 0; i < corners; ++i)
                    if (move(static_cast<std::size_t>(mesh_.element(e)[i]))) ++report.moved;
            }
            bad.erase(std::remove_if(bad.begin(), bad.end(), [&](std::size_t e) { return badness(e) <= poor_from; }),
                      bad.end());
            if (report.moved + report.swapped == steps) break;
        }
    }

  private:
    /// The largest over the measures of shape. Size is left out: it is what the mesh was made for, and moving nodes
    /// between the same neighbours changes it little.
    /// Infinite for an element that is turned inside out, whatever its limits.
    [[nodiscard]] double badness(std::size_t e) const { return badness(e, measure_element(mesh_, e, 0)); }
    [[nodiscard]] double badness(std::size_t e, const MeasureSet& set) const {
        for (const Criterion m : {Criterion::scaled_jacobian, Criterion::jacobian_ratio})
            if (!(set[static_cast<std::size_t>(m)] > 0)) return INFINITY;
        double worst = -INFINITY;
        for (std::size_t k = 0; k < criterion_count; ++k) {
            const auto m = static_cast<Criterion>(k);
            if (std::isnan(set[k]) || m == Criterion::size_ratio) continue;
            worst = std::max(worst, limits_.at(m, e).badness(set[k]));
        }
        return worst;
    }
    /// What a step must not make worse: how many elements are poor, and the worst of them.
    struct State {
        int poor = 0;
        double worst = -INFINITY;
        void add(double badness) {
            poor += badness > poor_from;
            worst = std::max(worst, badness);
        }
        [[nodiscard]] bool better_than(const State& o) const {
            return poor <= o.poor && (poor < o.poor ? worst <= o.worst : worst < o.worst - least_gain);
        }
    };
    [[nodiscard]] State state_of(std::span<const std::int32_t> elements) const {
        State s;
        for (const auto e : elements) s.add(badness(static_cast<std::size_t>(e)));
        return s;
    }

    /// Nodes on boundaries, between regions, at named points and in rows of layers stay.
    void find_fixed() {
        fixed_.assign(mesh_.nodes.size(), 0);
        for (const auto& side : mesh_.boundary)
            for (std::size_t k = 0; k < side.count(); ++k) fixed_[static_cast<std::size_t>(side.nodes[k])] = 1;
        for (const auto& p : mesh_.points)
            if (p.node >= 0) fixed_[static_cast<std::size_t>(p.node)] = 1;
        std::vector<std::int32_t> region(mesh_.nodes.size(), -1);
        for (std::size_t e = 0; e < mesh_.element_count(); ++e)
            for (const auto n : mesh_.element(e)) {
                auto& r = region[static_cast<std::size_t>(n)];
                if (mesh_.row[e] > 0 || e < first_element_ || (r >= 0 && r != mesh_.region[e]))
                    fixed_[static_cast<std::size_t>(n)] = 1;
                r = mesh_.region[e];
            }
    }

    /// Middle nodes of sides with a free end, and centres of elements, follow the corners, unless they lie on a
    /// boundary.
    void place_middles(std::size_t e) {
        if (polynomial_degree(mesh_.kinds[e]) == 1) return;
        const auto nodes = mesh_.element(e);
        const auto n = static_cast<std::size_t>(corner_count(mesh_.kinds[e]));
        const auto at = [&](std::size_t i) -> Vec2& { return mesh_.nodes[static_cast<std::size_t>(nodes[i])]; };
        for (std::size_t i = 0; i < n; ++i)
            if (!fixed_[static_cast<std::size_t>(nodes[n + i])]) at(n + i) = (at(i) + at((i + 1) % n)) * 0.5;
        if (n != 4) return;
        Vec2 centre;
        for (std::size_t i = 0; i < 4; ++i) centre += at(4 + i) * 0.5 - at(i) * 0.25;
        at(8) = centre;
    }

    bool move(std::size_t node) {
        if (fixed_[node] || stale_[node]) return false;
        const auto round = round_.of(node);
        const auto put = [&](const Vec2& p) {
            mesh_.nodes[node] = p;
            for (const auto e : round) place_middles(static_cast<std::size_t>(e));
        };
        double step = INFINITY;
        for (const auto e : round) {
            const auto p = mesh_.positions(static_cast<std::size_t>(e));
            const auto n = static_cast<std::size_t>(corner_count(mesh_.kinds[static_cast<std::size_t>(e)]));
            for (std::size_t i = 0; i < n; ++i) step = std::min(step, distance(p[i], p[(i + 1) % n]));
        }
        step *= first_step;
        State best = state_of(round);
        bool moved = false;
        Vec2 place = mesh_.nodes[node];
        for (int k = 0; k < halvings; ++k) {
            bool better = false;
            for (const Vec2& way : {Vec2{{1, 0}}, Vec2{{0, 1}}, Vec2{{-1, 0}}, Vec2{{0, -1}}}) {
                put(place + way * step);
                const State now = state_of(round);
                if (!now.better_than(best)) continue;
                best = now;
                place += way * step;
                better = true;
            }
            moved = moved || better;
            if (better)
                --k;  // go on with steps of this length
            else
                step /= 2;
        }
        put(place);
        return moved;
    }

    /// The two triangles on a side become the two on the other diagonal, if the worse of them is then better.
    bool turn_a_side(std::size_t e) {
        if (corner_count(mesh_.kinds[e]) != 3 || mesh_.row[e] > 0) return false;
        for (std::size_t i = 0; i < 3; ++i) {
            const auto a = mesh_.element(e)[i], b = mesh_.element(e)[(i + 1) % 3];
            if (stale_[static_cast<std::size_t>(a)] || stale_[static_cast<std::size_t>(b)]) continue;
            if (turn_side(e, i)) return true;
        }
        return false;
    }

    bool turn_side(std::size_t e, std::size_t i) {
        auto* const mine = mesh_.connectivity.data() + mesh_.first[e];
        const std::int32_t a = mine[i], b = mine[(i + 1) % 3], c = mine[(i + 2) % 3];
        const bool quadratic = polynomial_degree(mesh_.kinds[e]) == 2;
        for (const auto other : round_.of(static_cast<std::size_t>(a))) {
            const auto f = static_cast<std::size_t>(other);
            if (f == e || f < first_element_ || mesh_.kinds[f] != mesh_.kinds[e] ||
                mesh_.region[f] != mesh_.region[e] || mesh_.row[f] > 0)
                continue;
            auto* const theirs = mesh_.connectivity.data() + mesh_.first[f];
            std::size_t j = 0;
            while (j < 3 && !(theirs[j] == b && theirs[(j + 1) % 3] == a)) ++j;
            if (j == 3) continue;
            const std::int32_t d = theirs[(j + 2) % 3];
            if (on_boundary(a, b)) return false;
            const std::array<std::int32_t, 6> old_mine{
                mine[0], mine[1], mine[2], quadratic ? mine[3] : 0, quadratic ? mine[4] : 0, quadratic ? mine[5] : 0};
            const std::array<std::int32_t, 6> old_theirs{theirs[0],
                                                         theirs[1],
                                                         theirs[2],
                                                         quadratic ? theirs[3] : 0,
                                                         quadratic ? theirs[4] : 0,
                                                         quadratic ? theirs[5] : 0};
            const std::array<std::int32_t, 2> both{static_cast<std::int32_t>(e), other};
            const State before = state_of(both);
            // e = (c, a, d), f = (d, b, c)
            const std::array<std::int32_t, 3> new_mine{c, a, d}, new_theirs{d, b, c};
            std::copy(new_mine.begin(), new_mine.end(), mine);
            std::copy(new_theirs.begin(), new_theirs.end(), theirs);
            Vec2 middle;
            if (quadratic) {
                const std::int32_t ab = old_mine[3 + i], bc = old_mine[3 + (i + 1) % 3], ca = old_mine[3 + (i + 2) % 3],
                                   ad = old_theirs[3 + (j + 1) % 3], db = old_theirs[3 + (j + 2) % 3];
                middle = mesh_.nodes[static_cast<std::size_t>(ab)];
                mesh_.nodes[static_cast<std::size_t>(ab)] =
                    (mesh_.nodes[static_cast<std::size_t>(c)] + mesh_.nodes[static_cast<std::size_t>(d)]) * 0.5;
                const std::array<std::int32_t, 3> sides_mine{ca, ad, ab}, sides_theirs{db, bc, ab};
                std::copy(sides_mine.begin(), sides_mine.end(), mine + 3);
                std::copy(sides_theirs.begin(), sides_theirs.end(), theirs + 3);
            }
            if (state_of(both).better_than(before)) {
                for (const auto n : {a, b, c, d}) stale_[static_cast<std::size_t>(n)] = 1;
                renumber_sides(e, f);
                return true;
            }
            std::copy_n(old_mine.begin(), quadratic ? 6 : 3, mine);
            std::copy_n(old_theirs.begin(), quadratic ? 6 : 3, theirs);
            if (quadratic) mesh_.nodes[static_cast<std::size_t>(old_mine[3 + i])] = middle;
            return false;
        }
        return false;
    }

    [[nodiscard]] bool on_boundary(std::int32_t a, std::int32_t b) const {
        if (!fixed_[static_cast<std::size_t>(a)] || !fixed_[static_cast<std::size_t>(b)]) return false;
        return std::any_of(mesh_.boundary.begin(), mesh_.boundary.end(), [&](const BoundarySide& s) {
            return (s.nodes[0] == a && s.nodes[1] == b) || (s.nodes[0] == b && s.nodes[1] == a);
        });
    }

    /// Boundary sides know their element and its side, which turning changes.
    void renumber_sides(std::size_t e, std::size_t f) {
        for (auto& s : mesh_.boundary) {
            if (s.element != static_cast<int>(e) && s.element != static_cast<int>(f)) continue;
            for (const std::size_t g : {e, f}) {
                const auto nodes = mesh_.element(g);
                for (std::size_t i = 0; i < 3; ++i)
                    if (nodes[i] == s.nodes[0] && nodes[(i + 1) % 3] == s.nodes[1]) {
                        s.element = static_cast<int>(g);
                        s.side = static_cast<int>(i);
                    }
            }
        }
    }

    Mesh& mesh_;
    const std::vector<double>& wanted_;
    LimitFinder limits_;
    std::size_t first_element_;
    std::vector<char> fixed_, stale_;  ///< of nodes; stale: the elements round it have changed in this pass
    NodeElements round_;
};

}  // namespace

RepairReport repair(Mesh& mesh, const std::vector<double>& wanted, const std::vector<QualitySpec>& limits,
                    const Part* part, std::size_t first_element) {
    RepairReport report;
    Repair(mesh, wanted, limits, first_element).run(report);
    if (report.poor_before == 0) return report;
    if (report.swapped > 0) connect(mesh);
    QualityReport judged = judge_quality(mesh, wanted, limits, part, 0, true);
    report.poor_after = judged.poor;
    report.left = std::move(judged.worst);
    return report;
}

}  // namespace dotsift
