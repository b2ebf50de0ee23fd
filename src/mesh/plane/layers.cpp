#include "mesh/plane/layers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/plane/quadrilaterals/relax.hpp"

namespace dotsift {

namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double fan_from = 240 * degree;     // inner angles of the material, from which rows turn in a fan ...
constexpr double fan_wedge = 45 * degree;     // ... of wedges about this wide
constexpr double merge_below = 165 * degree;  // rows meet along the bisector, and points slide away from the corner
constexpr double end_on_wall = 135 * degree;  // up to this angle rows end on the boundary beside them
constexpr double share_of_gap = 0.7;          // rows may fill this much of the way to another boundary ...
constexpr double share_if_both = 0.4;         // ... or this much if that has rows, too
constexpr double steepest_thinning = 0.3;     // change of height along the boundary
constexpr double slide_zone = 4;              // points slide along the boundary within this many slides of the corner
constexpr double least_row_jacobian = 0.02;   // scaled, of elements in rows: below, they are folded
constexpr double least_factor = 0.02;         // thinner rows are no use: the edge goes without
constexpr int most_tries = 6;                 // with half the height where rows cross
constexpr double most_slide = 0.6;            // of a boundary between two corners

/// The piece of the boundary of a face from one division point to the next, with the face on its left.
struct Side {
    std::size_t segment = 0;
    int from = 0, to = 0;
    const EdgeLayers* layers = nullptr;  ///< of the edge on this side
    bool forward = true;
};

Vec2 unit(const Vec2& v) {
    return v / norm(v);
}

/// Inner angle of the material between two directions of the boundary.
double inner_angle(const Vec2& in, const Vec2& out) {
    return std::numbers::pi - std::atan2(cross(in, out), dot(in, out));
}

const EdgeLayers* layers_on(const std::vector<EdgeLayers>& layers, int edge, bool left) {
    for (const auto& l : layers)
        if (l.edge == edge && l.left == left) return &l;
    return nullptr;
}

/// A vertex of the boundary with the points above it, from the boundary up. Fans have several columns.
struct RowCorner {
    enum class Kind { none, smooth, merge, fan, on_wall_before, on_wall_after, step_before, step_after };
    Kind kind = Kind::none;
    double angle = 0;
    std::vector<std::vector<std::int32_t>> columns;
};

class LoopLayers {
  public:
    LoopLayers(const Part& part, const Outline& outline, const std::vector<EdgeLayers>& layers, int face,
               std::vector<Side> sides, Layers& out, const std::vector<double>& thinner, EndFactors& factors)
        : part_(part),
          outline_(outline),
          layers_(layers),
          face_(face),
          sides_(std::move(sides)),
          out_(out),
          thinner_(thinner),
          factors_(factors) {}

    void run() {
        if (std::none_of(sides_.begin(), sides_.end(), [](const Side& s) { return s.layers; })) return;
        classify();
        measure_room();
        spread_factors();
        for (std::size_t i = 0; i < count(); ++i) {
            if (corners_[i].kind == RowCorner::Kind::none || factor_[i] >= least_factor) continue;
            out_.left_out[rows_at(i).edge] = point(sides_[i].from);
            out_.redivide = true;
        }
        if (out_.redivide || !check_ends()) return;
        place_columns();
        make_elements();
        report();
    }

  private:
    [[nodiscard]] std::size_t count() const { return sides_.size(); }
    [[nodiscard]] std::size_t next(std::size_t i) const { return i + 1 == count() ? 0 : i + 1; }
    [[nodiscard]] std::size_t before(std::size_t i) const { return i == 0 ? count() - 1 : i - 1; }
    [[nodiscard]] const Vec2& point(int p) const { return outline_.division.points[static_cast<std::size_t>(p)]; }
    [[nodiscard]] Vec2 along(std::size_t side) const { return unit(point(sides_[side].to) - point(sides_[side].from)); }
    [[nodiscard]] double length(std::size_t side) const {
        return distance(point(sides_[side].to), point(sides_[side].from));
    }
    [[nodiscard]] Vec2 normal(std::size_t side) const { return turned_left(along(side)); }

    void classify() {
        corners_.resize(count());
        for (std::size_t i = 0; i < count(); ++i) {
            const auto *in = sides_[before(i)].layers, *out = sides_[i].layers;
            auto& c = corners_[i];
            c.angle = inner_angle(along(before(i)), along(i));
            if (in && out) {
                if (in->rows != out->rows) {
                    Place place;
                    place.position = point(sides_[i].from);
                    throw InputError(
                        fmt::format("{} and {} have {} and {} rows of layers, but meet at a corner",
                                    part_.name_of_edge(in->edge), part_.name_of_edge(out->edge), in->rows, out->rows),
                        place, "give both the same number of rows");
                }
                c.kind = c.angle >= fan_from      ? RowCorner::Kind::fan
                         : c.angle >= merge_below ? RowCorner::Kind::smooth
                                                  : RowCorner::Kind::merge;
            } else if (out) {
                c.kind = c.angle <= end_on_wall ? RowCorner::Kind::on_wall_before : RowCorner::Kind::step_before;
            } else if (in) {
                c.kind = c.angle <= end_on_wall ? RowCorner::Kind::on_wall_after : RowCorner::Kind::step_after;
            }
        }
    }

    /// The rows that stand at a vertex.
    [[nodiscard]] const EdgeLayers& rows_at(std::size_t i) const {
        return sides_[i].layers ? *sides_[i].layers : *sides_[before(i)].layers;
    }

    [[nodiscard]] Vec2 direction_at(std::size_t i) const {
        const bool in = sides_[before(i)].layers, out = sides_[i].layers;
        if (in && out) {
            const Vec2 sum = normal(before(i)) + normal(i);
            return norm(sum) > 0 ? unit(sum) : normal(i);
        }
        return out ? normal(i) : normal(before(i));
    }

    /// How far it is from a vertex to another boundary of the face, and the share of it that rows may take.
    void measure_room() {
        factor_.assign(count(), 1);
        for (std::size_t i = 0; i < count(); ++i) {
            const auto& c = corners_[i];
            if (c.kind == RowCorner::Kind::none) continue;
            const double height = rows_at(i).total();
            const auto extra = static_cast<std::size_t>(sides_[i].from);
            if (extra < thinner_.size()) factor_[i] = std::min(factor_[i], thinner_[extra]);
            // At corners the neighbours' rays tell more than one along the bisector.
            if (c.kind == RowCorner::Kind::merge || c.kind == RowCorner::Kind::on_wall_before ||
                c.kind == RowCorner::Kind::on_wall_after)
                continue;
            const auto [gap, segment] = look(i, direction_at(i));
            if (segment < 0 || meets_at_corner(i, segment)) continue;
            const double room = gap * (has_rows(segment) ? share_if_both : share_of_gap);
            factor_[i] = std::min(factor_[i], room / height);
        }
    }

    /// Distance to the first segment in a direction from a vertex into the face, and that segment; -1: none was met.
    [[nodiscard]] std::pair<double, int> look(std::size_t i, const Vec2& direction) const {
        const auto& mesh = outline_.mesh;
        const int v = outline_.vertex[static_cast<std::size_t>(sides_[i].from)];
        const Vec2 p = mesh.point(v);
        int t = -1;
        std::size_t edge = 0;
        mesh.around(v, [&](int s, int k) {
            const auto& tri = mesh.triangle(s);
            if (t >= 0 || tri.face != face_) return;
            const auto c = static_cast<std::size_t>(k);
            const Vec2 a = mesh.point(tri.v[(c + 1) % 3]) - p, b = mesh.point(tri.v[(c + 2) % 3]) - p;
            if (cross(a, direction) >= 0 && cross(direction, b) >= 0) {
                t = s;
                edge = c;
            }
        });
        for (std::size_t steps = 0; t >= 0 && steps < mesh.triangles().size(); ++steps) {
            const auto& tri = mesh.triangle(t);
            const Vec2 &a = mesh.point(tri.v[(edge + 1) % 3]), &b = mesh.point(tri.v[(edge + 2) % 3]);
            if (tri.segment[edge] >= 0) {
                const double across = cross(direction, b - a);
                return {across != 0 ? cross(a - p, b - a) / across : distance(p, a), tri.segment[edge]};
            }
            const int from = t;
            t = tri.n[edge];
            if (t < 0) break;
            const auto& other = mesh.triangle(t);
            std::size_t entry = 0;
            while (other.n[entry] != from) ++entry;
            // The corner after `entry` lies on the left of the ray, the one before it on the right.
            const bool far_left = cross(direction, mesh.point(other.v[entry]) - p) > 0;
            edge = far_left ? (entry + 1) % 3 : (entry + 2) % 3;
        }
        return {0, -1};
    }

    [[nodiscard]] bool has_rows(int segment) const {
        const auto& s = outline_.division.segments[static_cast<std::size_t>(segment)];
        return (s.left == face_ && layers_on(layers_, s.edge, true)) ||
               (s.right == face_ && layers_on(layers_, s.edge, false));
    }

    /// Whether a segment lies on the other side of the corner that ends the boundary at vertex i: there points slide
    /// away, or the rows end on it.
    [[nodiscard]] bool meets_at_corner(std::size_t i, int segment) const {
        const auto wanted = static_cast<std::size_t>(segment);
        const auto edge = outline_.division.segments[wanted].edge;
        const auto corner = [&](RowCorner::Kind k) {
            return k == RowCorner::Kind::merge || k == RowCorner::Kind::on_wall_before ||
                   k == RowCorner::Kind::on_wall_after;
        };
        std::size_t forward = i, back = i;
        for (std::size_t k = 0; k < count() && !corner(corners_[forward].kind); ++k) forward = next(forward);
        for (std::size_t k = 0; k < count() && !corner(corners_[back].kind); ++k) back = before(back);
        const auto edge_of = [&](std::size_t side) { return outline_.division.segments[sides_[side].segment].edge; };
        return (corner(corners_[forward].kind) && edge_of(forward) == edge) ||
               (corner(corners_[back].kind) && edge_of(before(back)) == edge);
    }

    /// No factor is more above its neighbour's than the thinning may be steep; the same both ways round.
    void spread_factors() {
        for (int way = 0; way < 2; ++way)
            for (std::size_t pass = 0; pass < 2 * count(); ++pass) {
                const std::size_t k = pass % count();
                const std::size_t i = way == 0 ? k : count() - 1 - k;
                const std::size_t j = way == 0 ? next(i) : before(i);
                const std::size_t between = way == 0 ? i : j;
                if (!sides_[between].layers) continue;
                const double rise = steepest_thinning * length(between) / sides_[between].layers->total();
                factor_[j] = std::min(factor_[j], factor_[i] + rise);
            }
        // Between two corners from which points slide away, the slides must fit.
        for (std::size_t i = 0; i < count(); ++i) {
            if (!sides_[i].layers || corners_[i].kind == RowCorner::Kind::smooth) continue;
            double all = 0;
            std::size_t j = i;
            do {
                all += length(j);
                j = next(j);
            } while (j != i && corners_[j].kind == RowCorner::Kind::smooth);
            const double slides = slide(i, true) + slide(j, false);
            if (slides <= most_slide * all) continue;
            const double less = most_slide * all / slides;
            for (std::size_t k = i;; k = next(k)) {
                factor_[k] = std::min(factor_[k], less);
                if (k == j) break;
            }
        }
    }

    /// How far the top of the rows at a corner lies along the boundary, seen from the piece that begins (or ends)
    /// there.
    [[nodiscard]] double slide(std::size_t i, bool begins) const {
        const auto& c = corners_[i];
        if (c.kind == RowCorner::Kind::merge) return factor_[i] * rows_at(i).total() / std::tan(c.angle / 2);
        if (begins ? c.kind == RowCorner::Kind::on_wall_before : c.kind == RowCorner::Kind::on_wall_after)
            return factor_[i] * rows_at(i).total() / std::tan(c.angle);
        return 0;
    }

    /// Where rows end on another boundary, the points are there already: the factor is the one they were made with.
    bool check_ends() {
        bool good = true;
        for (std::size_t i = 0; i < count(); ++i) {
            const bool starts = corners_[i].kind == RowCorner::Kind::on_wall_before,
                       ends = corners_[i].kind == RowCorner::Kind::on_wall_after;
            if (!starts && !ends) continue;
            const Side& side = starts ? sides_[i] : sides_[before(i)];
            const auto key = std::tuple(side.layers->edge, side.layers->left, starts == side.forward);
            const auto known = factors_.find(key);
            const double used = known == factors_.end() ? 1 : known->second;
            constexpr double rounding = 1e-9;
            if (factor_[i] < used * (1 - rounding)) {
                factors_[key] = factor_[i];
                out_.redivide = true;
                good = false;
            }
            factor_[i] = used;
        }
        return good;
    }

    /// `foot` is the point of the boundary below it.
    std::int32_t new_point(const Vec2& p, bool top, std::int32_t foot) {
        if (top) {
            out_.division.points.push_back(p);
            out_.foot.push_back(foot);
            return static_cast<std::int32_t>(out_.division.points.size() - 1);
        }
        inner_.push_back(p);
        inner_foot_.push_back(foot);
        return -static_cast<std::int32_t>(inner_.size()) - 1;  // numbered once all tops are known
    }

    void place_columns() {
        for (std::size_t i = 0; i < count(); ++i) {
            auto& c = corners_[i];
            const auto from = static_cast<std::int32_t>(sides_[i].from);
            switch (c.kind) {
                case RowCorner::Kind::none:
                case RowCorner::Kind::smooth:
                    break;
                case RowCorner::Kind::merge:
                    c.columns.push_back(column(from, unit(normal(before(i)) + normal(i)), rows_at(i),
                                               factor_[i] / std::sin(c.angle / 2)));
                    break;
                case RowCorner::Kind::fan: {
                    // An even number, so that quadrilaterals alone can go on from it.
                    const int wedges =
                        2 * std::max(1, static_cast<int>(std::lround((c.angle - std::numbers::pi) / (2 * fan_wedge))));
                    const Vec2 first = normal(before(i));
                    for (int w = 0; w <= wedges; ++w) {
                        // From the normal of the side before to that of the side after, clockwise.
                        const double a = -(c.angle - std::numbers::pi) * w / wedges;
                        const Vec2 d = first * std::cos(a) + turned_left(first) * std::sin(a);
                        c.columns.push_back(column(from, d, rows_at(i), factor_[i]));
                    }
                    break;
                }
                case RowCorner::Kind::step_before:
                    c.columns.push_back(column(from, normal(i), rows_at(i), factor_[i], true));
                    break;
                case RowCorner::Kind::step_after:
                    c.columns.push_back(column(from, normal(before(i)), rows_at(i), factor_[i], true));
                    break;
                case RowCorner::Kind::on_wall_before:
                case RowCorner::Kind::on_wall_after: {
                    std::vector<std::int32_t> points{from};
                    std::size_t s = c.kind == RowCorner::Kind::on_wall_before ? before(i) : i;
                    for (std::int64_t k = 0; k < rows_at(i).rows; ++k) {
                        const bool back = c.kind == RowCorner::Kind::on_wall_before;
                        points.push_back(back ? sides_[s].from : sides_[s].to);
                        s = back ? before(s) : next(s);
                    }
                    c.columns.push_back(points);
                    break;
                }
            }
        }
        for (std::size_t i = 0; i < count(); ++i)
            if (sides_[i].layers && corners_[i].kind != RowCorner::Kind::smooth) place_piece(i);
        // A closed boundary without any corner.
        if (std::all_of(corners_.begin(), corners_.end(),
                        [](const RowCorner& c) { return c.kind == RowCorner::Kind::smooth; }))
            for (std::size_t i = 0; i < count(); ++i) {
                const double opening = std::sin(corners_[i].angle / 2);
                corners_[i].columns.push_back(
                    column(sides_[i].from, direction_at(i), rows_at(i), factor_[i] / opening));
            }
    }

    /// With `open_side` all points bound what is left to fill, not the top alone.
    std::vector<std::int32_t> column(std::int32_t from, const Vec2& direction, const EdgeLayers& rows, double factor,
                                     bool open_side = false) {
        std::vector<std::int32_t> points{from};
        const auto heights = rows.heights();
        for (std::size_t k = 0; k < heights.size(); ++k)
            points.push_back(
                new_point(point(from) + direction * (heights[k] * factor), open_side || k + 1 == heights.size(), from));
        return points;
    }

    [[nodiscard]] const Vec2& position(std::int32_t p) const {
        return p < -1 ? inner_[static_cast<std::size_t>(-p - 2)] : out_.division.points[static_cast<std::size_t>(p)];
    }

    /// The columns between two corners: on the offset of the chords, slid away from the corners.
    void place_piece(std::size_t first) {
        std::vector<std::size_t> at{first};  // vertices
        std::vector<double> s{0};
        do {
            s.push_back(s.back() + length(at.back()));
            at.push_back(next(at.back()));
        } while (corners_[at.back()].kind == RowCorner::Kind::smooth && at.back() != first);
        const std::size_t n = at.size();
        const EdgeLayers& rows = *sides_[first].layers;
        std::vector<std::vector<Vec2>> places(n);
        const auto& start = corners_[at.front()].columns.back();
        const auto& end = corners_[at.back()].columns.front();
        const Vec2 w = along(first), u = along(before(at.back()));
        const auto tops = rows.heights();
        const double whole = s.back();
        const double top0 = dot(position(start.back()) - point(sides_[first].from), w),
                     top1 = -dot(position(end.back()) - point(sides_[at.back()].from), u);
        const double zone0 = std::min(whole, slide_zone * std::fabs(top0)),
                     zone1 = std::min(whole, slide_zone * std::fabs(top1));
        for (std::size_t k = 0; k < tops.size(); ++k) {
            std::vector<Vec2> offset(n);
            for (std::size_t j = 0; j < n; ++j) {
                const std::size_t i = at[j];
                const Vec2& p = point(sides_[i].from);
                if (j == 0)
                    offset[j] = p + normal(i) * (tops[k] * factor_[i]);
                else if (j + 1 == n)
                    offset[j] = p + normal(before(i)) * (tops[k] * factor_[i]);
                else
                    offset[j] = p + direction_at(i) * (tops[k] * factor_[i] / std::sin(corners_[i].angle / 2));
            }
            const double slide0 = dot(position(start[k + 1]) - point(sides_[first].from), w),
                         slide1 = -dot(position(end[k + 1]) - point(sides_[at.back()].from), u);
            for (std::size_t j = 1; j + 1 < n; ++j) {
                double place = s[j];
                if (zone0 > 0) place += slide0 * std::max(0.0, 1 - s[j] / zone0);
                if (zone1 > 0) place -= slide1 * std::max(0.0, 1 - (whole - s[j]) / zone1);
                std::size_t m = 1;
                while (m + 1 < n && s[m] < place) ++m;
                const double share = (place - s[m - 1]) / (s[m] - s[m - 1]);
                places[j].push_back(offset[m - 1] * (1 - share) + offset[m] * share);
            }
        }
        for (std::size_t j = 1; j + 1 < n; ++j) {
            std::vector<std::int32_t> points{sides_[at[j]].from};
            for (std::size_t k = 0; k < tops.size(); ++k)
                points.push_back(new_point(places[j][k], k + 1 == tops.size(), points[0]));
            corners_[at[j]].columns.push_back(points);
        }
    }

    void front(std::int32_t from, std::int32_t to) {
        Segment s;
        s.from = from;
        s.to = to;
        s.left = face_;
        out_.division.segments.push_back(s);
    }
    /// Nothing is to be filled on this side of a piece of the boundary any more.
    void cover(const Side& side) {
        auto& s = out_.division.segments[side.segment];
        (side.forward ? s.left : s.right) = -1;
    }

    void make_elements() {
        for (std::size_t i = 0; i < count(); ++i) {
            const auto& c = corners_[i];
            if (c.kind == RowCorner::Kind::fan) make_fan(c);
            if (c.kind == RowCorner::Kind::step_before)
                for (std::size_t k = 0; k + 1 < c.columns[0].size(); ++k) front(c.columns[0][k], c.columns[0][k + 1]);
            if (c.kind == RowCorner::Kind::step_after)
                for (std::size_t k = c.columns[0].size() - 1; k > 0; --k) front(c.columns[0][k], c.columns[0][k - 1]);
            if (!sides_[i].layers) continue;
            const auto &a = c.columns.back(), &b = corners_[next(i)].columns.front();
            const auto& segment = outline_.division.segments[sides_[i].segment];
            const Vec2 bend = middle_on_edge(part_, segment) - (point(segment.from) + point(segment.to)) * 0.5;
            std::size_t left = before(i), right = next(i);
            for (std::size_t k = 0; k + 1 < a.size(); ++k) {
                CornerMesh::Element e;
                e.face = face_;
                e.row = static_cast<std::int32_t>(k) + 1;
                e.v = {a[k], b[k], b[k + 1], a[k + 1]};
                if (k == 0) e.segment[0] = static_cast<std::int32_t>(sides_[i].segment);
                if (c.kind == RowCorner::Kind::on_wall_before) {
                    e.segment[3] = static_cast<std::int32_t>(sides_[left].segment);
                    cover(sides_[left]);
                    left = before(left);
                }
                if (corners_[next(i)].kind == RowCorner::Kind::on_wall_after) {
                    e.segment[1] = static_cast<std::int32_t>(sides_[right].segment);
                    cover(sides_[right]);
                    right = next(right);
                }
                elements_.push_back(e);
                if (bend != Vec2{}) bent_.push_back({a[k + 1], b[k + 1], bend});
            }
            cover(sides_[i]);
            front(a.back(), b.back());
        }
    }

    void make_fan(const RowCorner& c) {
        for (std::size_t w = 0; w + 1 < c.columns.size(); ++w) {
            const auto &a = c.columns[w], &b = c.columns[w + 1];
            for (std::size_t k = 0; k + 1 < a.size(); ++k) {
                CornerMesh::Element e;
                e.face = face_;
                e.row = static_cast<std::int32_t>(k) + 1;
                if (k == 0)
                    e.v = {a[0], b[1], a[1], -1};
                else
                    e.v = {a[k], b[k], b[k + 1], a[k + 1]};
                elements_.push_back(e);
            }
            front(a.back(), b.back());
        }
    }

  public:
    /// Elements and inner points of this loop; their numbers are put right by the caller once all tops are known.
    std::vector<CornerMesh::Element> elements_;
    std::vector<CornerMesh::BentSide> bent_;  ///< `middle` is the distance from the chord's middle
    std::vector<Vec2> inner_;
    std::vector<std::int32_t> inner_foot_;

  private:
    void report() {
        // One place for each run of thinned vertices on an edge: where they are thinnest.
        constexpr double noticeable = 0.999;
        for (std::size_t i = 0; i < count(); ++i) {
            if (corners_[i].kind == RowCorner::Kind::none || factor_[i] >= noticeable) continue;
            const int rule = rows_at(i).rule;
            auto& list = out_.thinned;
            const int edge = rows_at(i).edge;
            const bool goes_on = !list.empty() && list.back().rule == rule && list.back().edge == edge && i > 0 &&
                                 corners_[i - 1].kind != RowCorner::Kind::none && factor_[i - 1] < noticeable &&
                                 started_;
            if (!goes_on) list.push_back({rule, edge, point(sides_[i].from), factor_[i]});
            started_ = true;
            if (factor_[i] < list.back().factor) {
                list.back().factor = factor_[i];
                list.back().position = point(sides_[i].from);
            }
        }
    }

    const Part& part_;
    const Outline& outline_;
    const std::vector<EdgeLayers>& layers_;
    int face_;
    std::vector<Side> sides_;
    Layers& out_;
    const std::vector<double>& thinner_;
    EndFactors& factors_;
    std::vector<RowCorner> corners_;
    std::vector<double> factor_;
    bool started_ = false;
};

}  // namespace

std::vector<EdgeEnd> ends_of_layers(const Part& part, const std::vector<EdgeLayers>& layers,
                                    const EndFactors& factors) {
    std::vector<EdgeEnd> ends;
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const auto& loop : part.faces[f].loops)
            for (std::size_t k = 0; k < loop.size(); ++k) {
                const EdgeUse &in = loop[(k + loop.size() - 1) % loop.size()], &out = loop[k];
                const auto *rows_in = layers_on(layers, in.edge, in.forward),
                           *rows_out = layers_on(layers, out.edge, out.forward);
                if (!rows_in == !rows_out) continue;
                const auto tangent = [&](const EdgeUse& u, bool at_end) {
                    const Curve& c = part.edge(u.edge).curve;
                    const double t = at_end == u.forward ? 1 : 0;
                    return unit(u.forward ? c.derivative(t) : -c.derivative(t));
                };
                const double angle = inner_angle(tangent(in, true), tangent(out, false));
                if (angle > end_on_wall) continue;
                const EdgeLayers& rows = rows_in ? *rows_in : *rows_out;
                const EdgeUse &wall = rows_in ? out : in, &with_rows = rows_in ? in : out;
                const auto found = factors.find({rows.edge, rows.left, (rows_out != nullptr) == with_rows.forward});
                EdgeEnd end;
                end.edge = wall.edge;
                end.at_start = (rows_in != nullptr) == wall.forward;
                for (const double h : rows.heights())
                    end.distances.push_back(h * (found == factors.end() ? 1 : found->second) / std::sin(angle));
                ends.push_back(end);
            }
    return ends;
}

namespace {

Layers grow_layers(const Part& part, const Outline& outline, const std::vector<EdgeLayers>& layers,
                   const std::vector<double>& thinner, EndFactors& factors) {
    Layers out;
    out.division = outline.division;
    for (std::size_t p = 0; p < out.division.points.size(); ++p) out.foot.push_back(static_cast<std::int32_t>(p));
    std::vector<std::vector<std::size_t>> segments(part.edges.size());
    for (std::size_t s = 0; s < outline.division.segments.size(); ++s)
        segments[static_cast<std::size_t>(outline.division.segments[s].edge)].push_back(s);
    std::vector<LoopLayers> loops;
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const auto& loop : part.faces[f].loops) {
            std::vector<Side> sides;
            for (const auto& use : loop) {
                auto own = segments[static_cast<std::size_t>(use.edge)];
                if (!use.forward) std::reverse(own.begin(), own.end());
                for (const auto s : own) {
                    const auto& segment = outline.division.segments[s];
                    sides.push_back({s, use.forward ? segment.from : segment.to,
                                     use.forward ? segment.to : segment.from, layers_on(layers, use.edge, use.forward),
                                     use.forward});
                }
            }
            loops.emplace_back(part, outline, layers, static_cast<int>(f), std::move(sides), out, thinner, factors);
            loops.back().run();
        }
    if (out.redivide) return out;
    out.rows.points = out.division.points;
    for (auto& loop : loops) {
        const auto base = static_cast<std::int32_t>(out.rows.points.size());
        const auto number = [&](std::int32_t p) { return p < -1 ? base + (-p - 2) : p; };
        out.rows.points.insert(out.rows.points.end(), loop.inner_.begin(), loop.inner_.end());
        out.foot.insert(out.foot.end(), loop.inner_foot_.begin(), loop.inner_foot_.end());
        for (auto e : loop.elements_) {
            for (auto& v : e.v) v = number(v);
            out.rows.elements.push_back(e);
        }
        for (auto b : loop.bent_) {
            b.a = number(b.a);
            b.b = number(b.b);
            b.middle +=
                (out.rows.points[static_cast<std::size_t>(b.a)] + out.rows.points[static_cast<std::size_t>(b.b)]) * 0.5;
            out.rows.bent.push_back(b);
        }
    }
    return out;
}

/// Points of the boundary under whatever crosses or folds get half the height. False if there is nothing of that kind.
bool thin_faults(const Layers& layers, const Coarse& crossing, std::vector<double>& thinner) {
    std::vector<char> faulty(thinner.size(), 0);
    const auto mark = [&](std::int32_t p) {
        faulty[static_cast<std::size_t>(layers.foot[static_cast<std::size_t>(p)])] = 1;
    };
    for (const auto s : crossing.segments) {
        mark(layers.division.segments[s].from);
        mark(layers.division.segments[s].to);
    }
    for (const auto& e : layers.rows.elements)
        if (!(scaled_jacobian_of(layers.rows, e) > least_row_jacobian))
            for (std::size_t i = 0; i < e.corners(); ++i) mark(e.v[i]);
    bool any = false;
    for (std::size_t p = 0; p < faulty.size(); ++p) {
        if (!faulty[p]) continue;
        thinner[p] *= 0.5;
        any = true;
    }
    return any;
}

}  // namespace

Layers add_layers(const Part& part, Outline& outline, const std::vector<EdgeLayers>& rules, EndFactors& factors) {
    std::vector<double> thinner(outline.division.points.size(), 1);
    Layers layers;
    for (int k = 0; k < most_tries; ++k) {
        layers = grow_layers(part, outline, rules, thinner, factors);
        if (layers.redivide) return layers;
        const auto lost = std::find_if(layers.rows.points.begin(), layers.rows.points.end(),
                                       [](const Vec2& p) { return !std::isfinite(norm(p)); });
        if (lost != layers.rows.points.end()) {  // a spike of no width: there is no way out of it
            thinner[static_cast<std::size_t>(
                layers.foot[static_cast<std::size_t>(lost - layers.rows.points.begin())])] = 0;
            break;
        }
        Coarse crossing;
        Outline rest = triangulate(layers.division, crossing);
        if (!thin_faults(layers, crossing, thinner)) {
            outline = std::move(rest);
            return layers;
        }
    }
    // No height fits: the edges at which that is so go without rows.
    const double least = *std::min_element(thinner.begin(), thinner.end());
    layers.redivide = true;
    for (const auto& s : outline.division.segments)
        for (const int p : {s.from, s.to})
            if (thinner[static_cast<std::size_t>(p)] <= least)
                layers.left_out[s.edge] = outline.division.points[static_cast<std::size_t>(p)];
    return layers;
}

}  // namespace dotsift
