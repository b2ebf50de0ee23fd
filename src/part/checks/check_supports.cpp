#include "part/checks/check_supports.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <vector>

#include "base/errors.hpp"
#include "base/numbers.hpp"

namespace dotsift {

namespace {

// Directions whose cross product is below this are one; values that differ by less, relative, agree.
constexpr double same_direction = 1e-9, same_value = 1e-9;

/// What a support asks of a place: the displacement along a direction, or the potential (no direction).
struct Demand {
    std::size_t support;
    Vec2 direction;
    double value;
};

class Contradictions {
  public:
    Contradictions(const Study& study, const Part& part, Problems& problems)
        : study_(study),
          part_(part),
          problems_(problems),
          holds_edge_(part.edges.size()),
          at_vertex_(part.vertices.size()),
          holds_vertex_(part.vertices.size()) {
        for (std::size_t s = 0; s < study.supports.size(); ++s) {
            const SupportSpec& support = study.supports[s];
            if (!support.sound) continue;
            if (support.at) {
                if (const int v = part.vertex_at(in_plane(*support.at)); v >= 0)
                    holds_vertex_[static_cast<std::size_t>(v)].push_back(s);
                continue;
            }
            for (const int e : part.edges_named(support.on)) holds_edge_[static_cast<std::size_t>(e)].push_back(s);
        }
        for (std::size_t e = 0; e < part.edges.size(); ++e) {
            at_vertex_[static_cast<std::size_t>(part.edges[e].start)].emplace_back(e, 0.0);
            at_vertex_[static_cast<std::size_t>(part.edges[e].end)].emplace_back(e, 1.0);
        }
    }

    void find() {
        for (std::size_t v = 0; v < part_.vertices.size(); ++v)
            look_at(part_.vertices[v], at_vertex_[v], holds_vertex_[v]);
        for (std::size_t e = 0; e < part_.edges.size(); ++e)
            for (const double t : {0.25, 0.5, 0.75}) look_at(part_.edges[e].curve.point(t), {{e, t}}, {});
    }

  private:
    /// An edge and the parameter on it.
    using Place = std::pair<std::size_t, double>;

    void look_at(const Vec2& at, const std::vector<Place>& places, const std::vector<std::size_t>& points) {
        std::vector<Demand> motions, potentials;
        for (const std::size_t s : points) ask(s, at, {}, motions, potentials);
        for (const auto& [e, t] : places) {
            if (holds_edge_[e].empty()) continue;
            const Vec2 along = part_.edges[e].curve.derivative(t);
            for (const std::size_t s : holds_edge_[e])
                ask(s, at, -turned_left(along) / norm(along), motions, potentials);
        }
        // The earlier support is the one that stays.
        const auto by_support = [](const Demand& a, const Demand& b) { return a.support < b.support; };
        std::stable_sort(motions.begin(), motions.end(), by_support);
        std::stable_sort(potentials.begin(), potentials.end(), by_support);
        compare(at, motions, "displacements");
        compare(at, potentials, "potentials");
    }

    /// `normal` is zero at single points.
    void ask(std::size_t s, const Vec2& at, const Vec2& normal, std::vector<Demand>& motions,
             std::vector<Demand>& potentials) const {
        const SupportSpec& support = study_.supports[s];
        const auto value = [&](const Formula& f) {
            return FormulaEvaluator(f, study_.path.string())({at, normal, support.about});
        };
        if (support.potential) potentials.push_back({s, {}, value(*support.potential)});
        if (support.hold == Hold::fixed) motions.insert(motions.end(), {{s, {{1, 0}}, 0}, {s, {{0, 1}}, 0}});
        if (support.hold == Hold::symmetry) motions.push_back({s, normal, 0});
        if (support.hold == Hold::antisymmetry) motions.push_back({s, turned_left(normal), 0});
        if (support.hold != Hold::values) return;
        if (support.displacement[0]) motions.push_back({s, {{1, 0}}, value(*support.displacement[0])});
        if (support.displacement[1]) motions.push_back({s, {{0, 1}}, value(*support.displacement[1])});
        // Where a boundary turns, nodes are held along their own normal: of values other than 0 too little is known.
        if (support.normal_displacement && normal != Vec2{})
            motions.push_back({s, normal, value(*support.normal_displacement)});
    }

    void compare(const Vec2& at, const std::vector<Demand>& demands, const char* what) {
        for (std::size_t i = 0; i < demands.size(); ++i)
            for (std::size_t j = 0; j < i; ++j) {
                const Demand &a = demands[j], &b = demands[i];
                if (a.support == b.support || std::fabs(cross(a.direction, b.direction)) > same_direction) continue;
                const double turn = dot(a.direction, b.direction) < 0 ? -1 : 1;
                for (const auto& c : study_.cases_to_solve()) {
                    const double x = a.value * c.of_other(study_.supports[a.support].name),
                                 y = turn * b.value * c.of_other(study_.supports[b.support].name);
                    if (std::fabs(x - y) <= same_value * std::max(std::fabs(x), std::fabs(y))) continue;
                    tell(at, a, b, what);
                    break;
                }
            }
    }

    void tell(const Vec2& at, const Demand& a, const Demand& b, const char* what) {
        const SupportSpec &first = study_.supports[a.support], &second = study_.supports[b.support];
        if (!told_.insert({a.support, b.support}).second) return;
        problems_.add(second.where,
                      fmt::format("support.{} and support.{} contradict each other: they give the point ({}, {}) "
                                  "different {}",
                                  first.name, second.name, sensible(at[0]), sensible(at[1]), what),
                      "let only one of them hold that direction there");
    }

    const Study& study_;
    const Part& part_;
    Problems& problems_;
    std::vector<std::vector<std::size_t>> holds_edge_;  ///< supports of each edge
    std::vector<std::vector<Place>> at_vertex_;         ///< edges that end at each vertex
    std::vector<std::vector<std::size_t>> holds_vertex_;
    std::set<std::pair<std::size_t, std::size_t>> told_;
};

}  // namespace

void check_contradictions(const Study& study, const Part& part, Problems& problems) {
    try {
        Contradictions(study, part, problems).find();
    } catch (const InputError& e) {  // a formula that gives no number there
        problems.add({e.place().line, e.place().column}, e.what(), e.remedy());
    }
}

}  // namespace dotsift
