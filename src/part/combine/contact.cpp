#include "part/combine/contact.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "base/predicates.hpp"

namespace dotsift {

namespace {

// The second derivative of a cubic is linear in each span, so samples at its ends bound it; other curves get this
// margin over what is sampled.
constexpr double bend_margin = 1.5;
constexpr int deepest = 40;
// Two curves that share an end part within this many tolerances of it, or they run along each other.
constexpr double shared_end_reach = 20;

struct Leaf {
    Vec2 a, b;
    double bow;
    Box2 box;
};

Leaf leaf_of(const Curve& c, const Stretches::Stretch& s) {
    Leaf l{c.point(s.from), c.point(s.to), 0, {}};
    const double width = s.to - s.from;
    l.bow = s.bend * width * width / 8;
    l.box.add(l.a);
    l.box.add(l.b);
    return l;
}

bool apart(const Leaf& p, const Leaf& q, double tolerance) {
    const double margin = p.bow + q.bow + tolerance;
    for (std::size_t axis = 0; axis < 2; ++axis)
        if (p.box.low[axis] > q.box.high[axis] + margin || q.box.low[axis] > p.box.high[axis] + margin) return true;
    return false;
}

Vec2 nearest_on(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 d = b - a;
    const double l2 = dot(d, d);
    return a + d * (l2 > 0 ? std::clamp(dot(p - a, d) / l2, 0.0, 1.0) : 0.0);
}

/// Places where two chords are within the tolerance of each other.
template <class Offer>
bool chord_contacts(const Leaf& p, const Leaf& q, double tolerance, Offer offer) {
    const double u = orientation(p.a, p.b, q.a), v = orientation(p.a, p.b, q.b);
    const double w = orientation(q.a, q.b, p.a), x = orientation(q.a, q.b, p.b);
    if (((u > 0) != (v > 0)) && ((w > 0) != (x > 0)) && u != v && offer(q.a + (q.b - q.a) * (u / (u - v)))) return true;
    for (const Vec2& r : {p.a, p.b, (p.a + p.b) * 0.5})
        if (distance(nearest_on(r, q.a, q.b), r) <= tolerance && offer(r)) return true;
    for (const Vec2& r : {q.a, q.b, (q.a + q.b) * 0.5})
        if (distance(nearest_on(r, p.a, p.b), r) <= tolerance && offer(r)) return true;
    return false;
}

/// How far from an end that they share two curves may stay within the tolerance of each other without running along
/// each other: x * angle, or x^2 / 2 * difference of curvatures where they are tangent, is the distance between them.
double parting_reach(const Curve& a, bool end_a, const Curve& b, bool end_b, double tolerance) {
    struct Leaving {
        Vec2 direction;
        double curvature;
    };
    const auto leaving = [](const Curve& c, bool end) {
        const double t = end ? 1 : 0;
        const Vec2 d = c.derivative(t) * (end ? -1.0 : 1.0);
        const double speed = norm(d);
        return Leaving{d / speed, cross(d, c.second_derivative(t)) / (speed * speed * speed)};
    };
    const Leaving u = leaving(a, end_a), v = leaving(b, end_b);
    const double angle = std::fabs(std::atan2(cross(u.direction, v.direction), dot(u.direction, v.direction)));
    const double by_angle = tolerance / angle,
                 by_bend = std::sqrt(2 * tolerance / std::fabs(u.curvature - v.curvature));
    const double longest = 0.01 * std::min(a.length(), b.length());
    const double reach = 2 * std::min(by_angle, by_bend);
    return std::max(shared_end_reach * tolerance, std::isfinite(reach) ? std::min(reach, longest) : 0.0);
}

}  // namespace

Stretches::Stretches(const Curve& curve) : curve_(&curve) {
    const auto pieces = curve.smooth_pieces();
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        Stretch s{pieces[i - 1], pieces[i], 0};
        if (!curve.straight()) {
            constexpr int samples = 4;
            const double inset = 1e-9 * (s.to - s.from);
            for (int k = 0; k <= samples; ++k)
                s.bend = std::max(
                    s.bend, norm(curve.second_derivative(s.from + inset + (s.to - s.from - 2 * inset) * k / samples)));
            const bool exact =
                curve.kind() == Curve::Kind::spline && curve.nurbs().degree <= 3 && curve.nurbs().weights.empty();
            if (!exact && !curve.circular()) s.bend *= bend_margin;
        }
        list_.push_back(s);
    }
}

std::optional<Vec2> contact(const Stretches& a, const Stretches& b, double tolerance) {
    struct Shared {
        Vec2 at;
        double reach;
    };
    std::vector<Shared> shared;
    for (const bool end_a : {false, true})
        for (const bool end_b : {false, true}) {
            const Vec2& p = end_a ? a.curve().end() : a.curve().start();
            if (p == (end_b ? b.curve().end() : b.curve().start()))
                shared.push_back({p, parting_reach(a.curve(), end_a, b.curve(), end_b, tolerance)});
        }
    struct Pair {
        Stretches::Stretch a, b;
        int depth;
    };
    std::vector<Pair> open;
    for (const auto& s : a.list())
        for (const auto& t : b.list()) open.push_back({s, t, 0});
    std::reverse(open.begin(), open.end());
    std::optional<Vec2> found;
    while (!open.empty()) {
        const Pair pair = open.back();
        open.pop_back();
        const Leaf p = leaf_of(a.curve(), pair.a), q = leaf_of(b.curve(), pair.b);
        if (apart(p, q, tolerance)) continue;
        if (std::max(p.bow, q.bow) <= tolerance / 8 || pair.depth >= deepest) {
            const bool hit = chord_contacts(p, q, tolerance, [&](const Vec2& at) {
                for (const auto& s : shared)
                    if (distance(s.at, at) <= s.reach) return false;
                found = at;
                return true;
            });
            if (hit) return found;
            continue;
        }
        const bool split_a = p.bow >= q.bow;
        const auto& s = split_a ? pair.a : pair.b;
        const double middle = 0.5 * (s.from + s.to);
        for (const bool second : {true, false}) {
            Pair half = pair;
            auto& t = split_a ? half.a : half.b;
            (second ? t.from : t.to) = middle;
            ++half.depth;
            open.push_back(half);
        }
    }
    return std::nullopt;
}

std::optional<Vec2> self_contact(const Curve& curve, double tolerance) {
    if (curve.straight() || curve.kind() == Curve::Kind::arc) return std::nullopt;
    const auto pieces = curve.smooth_pieces();  // each turns too little to meet itself
    std::vector<Curve> parts;
    for (std::size_t i = 1; i < pieces.size(); ++i) parts.push_back(curve.piece(pieces[i - 1], pieces[i]));
    for (std::size_t i = 0; i < parts.size(); ++i)
        for (std::size_t j = i + 1; j < parts.size(); ++j)
            if (const auto at = contact(Stretches(parts[i]), Stretches(parts[j]), tolerance)) return at;
    return std::nullopt;
}

std::vector<std::pair<int, int>> overlapping_boxes(const std::vector<Box2>& boxes, double margin) {
    std::vector<int> order(boxes.size());
    std::iota(order.begin(), order.end(), 0);
    const auto box = [&](int i) -> const Box2& { return boxes[static_cast<std::size_t>(i)]; };
    std::sort(order.begin(), order.end(),
              [&](int i, int j) { return std::pair(box(i).low[0], i) < std::pair(box(j).low[0], j); });
    std::vector<std::pair<int, int>> pairs;
    std::vector<int> active;
    for (const int i : order) {
        std::erase_if(active, [&](int j) { return box(j).high[0] + margin < box(i).low[0] - margin; });
        for (const int j : active)
            if (box(j).low[1] - margin <= box(i).high[1] + margin && box(i).low[1] - margin <= box(j).high[1] + margin)
                pairs.emplace_back(std::min(i, j), std::max(i, j));
        active.push_back(i);
    }
    std::sort(pairs.begin(), pairs.end());
    return pairs;
}

}  // namespace dotsift
