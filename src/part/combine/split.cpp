#include "part/combine/split.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "part/combine/contact.hpp"
#include "part/kernel/planar_kernel.hpp"

namespace dotsift {

namespace {

PlanarKernel load_kernel() {
    static const auto kernel =
        reinterpret_cast<PlanarKernel>(module_symbol("libdotsift-geometry.so", planar_kernel_symbol));
    return kernel;
}

/// Points, each found again within a distance.
class Welder {
  public:
    Welder(double distance, std::vector<Vec2>& points) : distance_(distance), points_(points) {}

    int operator()(const Vec2& p) {
        const std::array<std::int64_t, 2> cell = cell_of(p);
        for (std::int64_t i = -1; i <= 1; ++i)
            for (std::int64_t j = -1; j <= 1; ++j) {
                const auto found = cells_.find({cell[0] + i, cell[1] + j});
                if (found == cells_.end()) continue;
                for (const int k : found->second)
                    if (distance(points_[static_cast<std::size_t>(k)], p) <= distance_) return k;
            }
        points_.push_back(p);
        cells_[cell].push_back(static_cast<int>(points_.size()) - 1);
        return static_cast<int>(points_.size()) - 1;
    }

  private:
    [[nodiscard]] std::array<std::int64_t, 2> cell_of(const Vec2& p) const {
        return {std::llround(p[0] / (2 * distance_)), std::llround(p[1] / (2 * distance_))};
    }
    double distance_;
    std::vector<Vec2>& points_;
    std::map<std::array<std::int64_t, 2>, std::vector<int>> cells_;
};

bool turns_left(const Curve& closed) {
    return closed.twice_area(closed.start()) > 0;
}

/// The piece of a carrier between two vertices that runs through `middle`, in the carrier's direction.
SplitPiece piece_of(const Curve& carrier, int start, int end, const std::vector<Vec2>& vertices, const Vec2& middle) {
    const Vec2 &a = vertices[static_cast<std::size_t>(start)], &b = vertices[static_cast<std::size_t>(end)];
    double ta = carrier.project(a), tb = carrier.project(b);
    const double tm = carrier.project(middle);
    if (carrier.closed()) {  // the joint is both 0 and 1
        const auto at_joint = [&](double t, const Vec2& p) { return t == 0 || t == 1 || p == carrier.start(); };
        const bool ja = at_joint(ta, a), jb = at_joint(tb, b);
        if (ja && jb) {
            ta = 0;
            tb = 1;
        } else if (ja) {
            ta = tm < tb ? 0 : 1;
        } else if (jb) {
            tb = tm < ta ? 0 : 1;
        }
    }
    const bool forward = ta <= tb;
    SplitPiece piece;
    piece.start = forward ? start : end;
    piece.end = forward ? end : start;
    piece.curve = carrier.piece(std::min(ta, tb), std::max(ta, tb));
    piece.curve.set_ends(vertices[static_cast<std::size_t>(piece.start)],
                         vertices[static_cast<std::size_t>(piece.end)]);
    return piece;
}

/// The place near `at` where two curves come together: Newton's method on a(s) = b(t) where they cross, projections to
/// and fro where they only touch.
Vec2 meeting_point(const Curve& a, const Curve& b, const Vec2& at) {
    double s = a.project(at), t = b.project(at);
    for (int k = 0; k < 50; ++k) {
        const Vec2 gap = a.point(s) - b.point(t), da = a.derivative(s), db = b.derivative(t);
        const double det = cross(da, db);
        if (std::fabs(det) < 1e-6 * norm(da) * norm(db)) {  // nearly tangent
            t = b.project(a.point(s));
            s = a.project(b.point(t));
            continue;
        }
        const double ds = -cross(gap, db) / det, dt = -cross(gap, da) / det;
        s = std::clamp(s + ds, 0.0, 1.0);
        t = std::clamp(t + dt, 0.0, 1.0);
        if (std::fabs(ds) + std::fabs(dt) < 1e-15) break;
    }
    return (a.point(s) + b.point(t)) * 0.5;
}

/// The kernel can miss places where two curves meet twice. What it left touching is cut here.
void cut_what_still_meets(SplitCurves& split, const std::vector<char>& cut_before, double weld, Welder& welded) {
    std::vector<char> fresh = cut_before;  // pieces that may still meet something
    std::vector<Box2> boxes;
    for (const auto& p : split.pieces) boxes.push_back(p.curve.box());
    const auto cut_at = [&](std::size_t i, int vertex) {
        const Vec2 at = split.vertices[static_cast<std::size_t>(vertex)];
        SplitPiece& piece = split.pieces[i];
        if (vertex == piece.start || vertex == piece.end) return false;
        const double t = piece.curve.project(at);
        SplitPiece rest = piece;
        rest.curve = piece.curve.piece(t, 1);
        rest.curve.set_ends(at, piece.curve.end());
        rest.start = vertex;
        piece.curve = piece.curve.piece(0, t);
        piece.curve.set_ends(piece.curve.start(), at);
        piece.end = vertex;
        boxes[i] = piece.curve.box();
        boxes.push_back(rest.curve.box());
        split.pieces.push_back(std::move(rest));
        fresh.push_back(1);
        return true;
    };
    constexpr int most_rounds = 16;
    std::optional<Vec2> left;
    for (int round = 0; round < most_rounds; ++round) {
        left.reset();
        std::vector<char> now(split.pieces.size(), 0);
        now.swap(fresh);
        fresh.assign(now.size(), 0);
        for (const auto& [i, j] : overlapping_boxes(boxes, weld)) {
            const auto a = static_cast<std::size_t>(i), b = static_cast<std::size_t>(j);
            if (!now[a] && !now[b]) continue;
            const auto at = contact(Stretches(split.pieces[a].curve), Stretches(split.pieces[b].curve), weld);
            if (!at) continue;
            const int vertex = welded(meeting_point(split.pieces[a].curve, split.pieces[b].curve, *at));
            const bool cut_a = cut_at(a, vertex), cut_b = cut_at(b, vertex);
            if (cut_a || cut_b) {
                fresh[a] = fresh[b] = 1;
                left = at;
            }
        }
        if (!left) return;
    }
    Place place;
    place.position = left;
    throw InputError("two curves run along each other here so closely that it is not clear where they meet", place,
                     "move one of them clearly onto the other, or away from it");
}

// The share of a part's size that the rounding of its coordinates may be.
constexpr double rounded_share = 1e-10;

/// Far from the origin the coordinates have no digits left in which a small part could be told.
void check_digits(const Box2& whole) {
    double farthest = 0;
    for (const Vec2& corner : {whole.low, whole.high})
        farthest = std::max({farthest, std::fabs(corner[0]), std::fabs(corner[1])});
    const double farness = farthest / whole.diagonal();
    if (!(farness * std::numeric_limits<double>::epsilon() > rounded_share)) return;
    Place place;
    place.position = whole.low;
    throw InputError(
        fmt::format("a part {:.3g} long lies {:.3g} from the origin, where coordinates have no digits for it",
                    whole.diagonal(), farthest),
        place, "move it nearer to the origin");
}

}  // namespace

SplitCurves split_curves(std::vector<Curve> curves, const std::vector<int>& loop) {
    Box2 whole;
    std::vector<Box2> boxes;
    for (const auto& c : curves) {
        boxes.push_back(c.box());
        whole.add(boxes.back());
    }
    const double size = whole.diagonal(), weld = weld_share * size;
    check_digits(whole);
    SplitCurves out;
    Welder welded(weld, out.vertices);
    std::vector<std::array<int, 2>> ends;
    for (auto& c : curves) {
        ends.push_back({welded(c.start()), welded(c.end())});
        c.set_ends(out.vertices[static_cast<std::size_t>(ends.back()[0])],
                   out.vertices[static_cast<std::size_t>(ends.back()[1])]);
    }
    // Curves drawn twice, as the common side of two neighbours is, count as one.
    std::vector<std::size_t> same(curves.size());
    std::map<std::array<int, 2>, std::vector<std::size_t>> between;
    for (std::size_t i = 0; i < curves.size(); ++i) {
        auto& others = between[{std::min(ends[i][0], ends[i][1]), std::max(ends[i][0], ends[i][1])}];
        same[i] = i;
        for (const std::size_t j : others) {
            const bool forward =
                ends[i] == ends[j] && !(curves[i].closed() && turns_left(curves[i]) != turns_left(curves[j]));
            bool equal = curves[i].kind() == curves[j].kind();
            for (const double t : {0.25, 0.5, 0.75})
                equal = equal && distance(curves[i].point(t), curves[j].point(forward ? t : 1 - t)) <= weld;
            if (equal) same[i] = j;
            if (equal) break;
        }
        if (same[i] == i) others.push_back(i);
    }
    std::vector<std::vector<int>> group(curves.size());
    for (std::size_t i = 0; i < curves.size(); ++i) group[same[i]].push_back(static_cast<int>(i));
    std::vector<Stretches> stretches;
    stretches.reserve(curves.size());
    for (const auto& c : curves) stretches.emplace_back(c);
    std::vector<char> meets(curves.size(), 0);
    for (const auto& [i, j] : overlapping_boxes(boxes, weld)) {
        const auto a = static_cast<std::size_t>(i), b = static_cast<std::size_t>(j);
        if (same[a] != a || same[b] != b || loop[a] == loop[b] || (meets[a] && meets[b])) continue;
        if (contact(stretches[a], stretches[b], 2 * weld)) meets[a] = meets[b] = 1;
    }
    std::vector<Curve> crossing;
    std::vector<int> index;
    for (std::size_t i = 0; i < curves.size(); ++i) {
        if (same[i] != i) continue;
        if (meets[i]) {
            crossing.push_back(curves[i]);
            index.push_back(static_cast<int>(i));
        } else if (curves[i].length() > weld) {
            out.pieces.push_back({curves[i], ends[i][0], ends[i][1], group[i]});
        }
    }
    if (crossing.empty()) return out;
    const std::size_t whole_pieces = out.pieces.size();
    KernelResult result;
    load_kernel()(crossing, whole.centre(), size, result);
    if (!result.fault.empty())
        throw InputError(fmt::format("the shapes cannot be combined: {}", result.fault), {},
                         "move the shapes so that they do not just touch");
    // Points that were drawn come back a rounding error away from where they were: take them as drawn.
    std::vector<int> vertex;
    for (const auto& p : result.vertices) vertex.push_back(welded(p));
    for (auto& p : result.pieces) {
        const int a = vertex[static_cast<std::size_t>(p.start)], b = vertex[static_cast<std::size_t>(p.end)];
        std::vector<int> origin;
        for (const int c : p.curves) {
            const auto& all = group[static_cast<std::size_t>(index[static_cast<std::size_t>(c)])];
            origin.insert(origin.end(), all.begin(), all.end());
        }
        std::sort(origin.begin(), origin.end());
        origin.erase(std::unique(origin.begin(), origin.end()), origin.end());
        SplitPiece piece = piece_of(curves[static_cast<std::size_t>(origin.front())], a, b, out.vertices, p.middle);
        if (a == b && piece.curve.length() <= 4 * weld) continue;  // shrunk to a point
        if (distance(piece.curve.point(piece.curve.project(p.middle)), p.middle) > 10 * weld) {
            Place place;
            place.position = p.middle;
            throw InputError("the shapes cannot be combined: a curve was cut wrongly near this point", place,
                             "move the shapes so that they do not just touch");
        }
        piece.origin = std::move(origin);
        out.pieces.push_back(std::move(piece));
    }
    std::vector<char> from_kernel(out.pieces.size(), 0);
    std::fill(from_kernel.begin() + static_cast<std::ptrdiff_t>(whole_pieces), from_kernel.end(), 1);
    cut_what_still_meets(out, from_kernel, weld, welded);
    std::sort(out.pieces.begin(), out.pieces.end(), [](const SplitPiece& a, const SplitPiece& b) {
        return std::tuple(a.origin.front(), a.curve.from_angle(), a.start, a.end) <
               std::tuple(b.origin.front(), b.curve.from_angle(), b.start, b.end);
    });
    return out;
}

}  // namespace dotsift
