#include "mesh/plane/grid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/plane/quadrilaterals/relax.hpp"

namespace dotsift {

namespace {

constexpr int most_passes = 100;  // over all grids, until the counts agree
constexpr int relax_rounds = 10;

std::string region_of(const Part& part, int face) {
    return part.regions[static_cast<std::size_t>(part.faces[static_cast<std::size_t>(face)].region)];
}

[[noreturn]] void refuse(const Part& part, int face, const std::string& what, const std::string& remedy,
                         std::optional<Vec2> at = std::nullopt) {
    Place place;
    place.position = at ? *at : part.point_inside(static_cast<std::size_t>(face));
    throw InputError(fmt::format("mesh.region.{}: {}", region_of(part, face), what), place, remedy);
}

int count_of(const std::vector<EdgeUse>& side, const std::vector<int>& counts) {
    int sum = 0;
    for (const auto& u : side) sum += counts[static_cast<std::size_t>(u.edge)];
    return sum;
}

/// The direction in which an edge leaves its start.
Vec2 direction_at(const Part& part, const EdgeUse& u, bool at_end) {
    const Curve& c = part.edge(u.edge).curve;
    if (at_end) return u.forward ? c.derivative(1) : -c.derivative(0);
    return u.forward ? c.derivative(0) : -c.derivative(1);
}

/// The points along a side, from its start to its end, as numbers in the division.
std::vector<std::int32_t> points_along(const Part& part, const std::vector<EdgeUse>& side, const Division& division,
                                       std::vector<std::int32_t>& segments) {
    std::vector<std::int32_t> points;
    for (const auto& u : side) {
        std::vector<std::int32_t> own;
        for (std::size_t s = 0; s < division.segments.size(); ++s)
            if (division.segments[s].edge == u.edge) own.push_back(static_cast<std::int32_t>(s));
        if (!u.forward) std::reverse(own.begin(), own.end());
        if (points.empty()) points.push_back(part.start_of(u));
        for (const auto s : own) {
            const auto& segment = division.segments[static_cast<std::size_t>(s)];
            points.push_back(u.forward ? segment.to : segment.from);
            segments.push_back(s);
        }
    }
    return points;
}

/// Shares of the length along a polyline, from 0 to 1.
std::vector<double> shares_along(const std::vector<std::int32_t>& line, const std::vector<Vec2>& points) {
    std::vector<double> s{0};
    for (std::size_t k = 1; k < line.size(); ++k)
        s.push_back(s.back() +
                    distance(points[static_cast<std::size_t>(line[k - 1])], points[static_cast<std::size_t>(line[k])]));
    for (auto& v : s) v /= s.back();
    return s;
}

}  // namespace

GridSides grid_sides(const Part& part, int face, const std::vector<Vec2>& corners) {
    const auto& f = part.faces[static_cast<std::size_t>(face)];
    if (f.loops.size() != 1 || !f.points.empty())
        refuse(part, face, "a grid needs a piece with four sides, without holes, lines or points inside",
               "use elements = \"quadrilaterals\" there, or split the region");
    const auto& loop = f.loops.front();
    const std::size_t n = loop.size();
    if (n < 4)
        refuse(part, face, fmt::format("a grid needs four corners, but only {} edges bound the piece", n),
               "use elements = \"quadrilaterals\" there, or split its boundary with points");
    std::vector<std::size_t> at;  // positions in the loop whose start is a corner
    if (corners.empty()) {
        std::vector<std::pair<double, std::size_t>> turn;  // the more it turns left, the sharper the inner angle
        for (std::size_t k = 0; k < n; ++k) {
            const Vec2 in = direction_at(part, loop[(k + n - 1) % n], true), out = direction_at(part, loop[k], false);
            turn.emplace_back(-std::atan2(cross(in, out), dot(in, out)), k);
        }
        std::sort(turn.begin(), turn.end());
        constexpr double hardly = 20 * std::numbers::pi / 180;
        if (-turn[3].first < hardly)
            refuse(part, face, "the piece has fewer than four clear corners", "give them: corners = [[x, y], ...]");
        for (std::size_t k = 0; k < 4; ++k) at.push_back(turn[k].second);
    } else {
        for (const Vec2& c : corners) {
            std::size_t best = 0;
            for (std::size_t k = 1; k < n; ++k)
                if (distance(part.vertex(part.start_of(loop[k])), c) <
                    distance(part.vertex(part.start_of(loop[best])), c))
                    best = k;
            const Vec2& found = part.vertex(part.start_of(loop[best]));
            if (distance(found, c) > same_point_share * part.box.diagonal())
                refuse(part, face, fmt::format("({:g}, {:g}) is no corner of the piece", c[0], c[1]),
                       fmt::format("the nearest is ({:.8g}, {:.8g})", found[0], found[1]), c);
            at.push_back(best);
        }
    }
    std::sort(at.begin(), at.end());
    if (std::unique(at.begin(), at.end()) != at.end()) refuse(part, face, "two of the four corners are the same", {});
    GridSides sides;
    for (std::size_t s = 0; s < 4; ++s)
        for (std::size_t k = at[s]; k != at[(s + 1) % 4]; k = (k + 1) % n) sides[s].push_back(loop[k]);
    return sides;
}

void match_opposite_sides(const Part& part, const std::vector<GridSides>& grids, const std::vector<int>& step,
                          std::vector<int>& counts) {
    const auto wanted = counts;
    for (int pass = 0; pass < most_passes; ++pass) {
        bool changed = false;
        for (const auto& sides : grids) {
            for (std::size_t s = 0; s < 2; ++s) {
                const auto *less = &sides[s], *more = &sides[s + 2];
                if (count_of(*less, counts) > count_of(*more, counts)) std::swap(less, more);
                while (count_of(*less, counts) < count_of(*more, counts)) {
                    // One more on the edge whose pieces are longest beside what was wanted.
                    int best = -1;
                    double largest = 0;
                    for (const auto& u : *less) {
                        const auto e = static_cast<std::size_t>(u.edge);
                        if (step[e] == 0) continue;
                        const double ratio = static_cast<double>(wanted[e]) / counts[e];
                        if (best < 0 || ratio > largest) {
                            best = u.edge;
                            largest = ratio;
                        }
                    }
                    if (best < 0)
                        throw InputError(
                            fmt::format(
                                "the grid beside {} has {} given divisions on one side and {} on the opposite one",
                                part.name_of_edge(less->front().edge), count_of(*less, counts),
                                count_of(*more, counts)),
                            {}, "give both sides the same number, or leave one free");
                    counts[static_cast<std::size_t>(best)] += step[static_cast<std::size_t>(best)];
                    changed = true;
                }
            }
        }
        if (!changed) return;
    }
    throw InputError("the divisions of neighbouring grids cannot be made to agree", {},
                     "give the number of divisions on their edges, or use elements = \"quadrilaterals\"");
}

CornerMesh grid_between(const Part& part, const GridSides& sides, const Division& division, int face) {
    std::array<std::vector<std::int32_t>, 4> line, segments;
    for (std::size_t s = 0; s < 4; ++s) line[s] = points_along(part, sides[s], division, segments[s]);
    // The third and fourth side run against the first and second.
    for (const std::size_t s : {2U, 3U}) {
        std::reverse(line[s].begin(), line[s].end());
        std::reverse(segments[s].begin(), segments[s].end());
    }
    const auto &bottom = line[0], &right = line[1], &top = line[2], &left = line[3];
    const std::size_t columns = bottom.size() - 1, rows = left.size() - 1;
    CornerMesh mesh;
    mesh.points = division.points;
    const auto at = [&](std::int32_t p) { return mesh.points[static_cast<std::size_t>(p)]; };
    const auto sb = shares_along(bottom, mesh.points), st = shares_along(top, mesh.points),
               sl = shares_along(left, mesh.points), sr = shares_along(right, mesh.points);
    std::vector<std::int32_t> number((rows + 1) * (columns + 1), -1);
    const auto cell = [&](std::size_t i, std::size_t j) -> std::int32_t& { return number[j * (columns + 1) + i]; };
    for (std::size_t i = 0; i <= columns; ++i) {
        cell(i, 0) = bottom[i];
        cell(i, rows) = top[i];
    }
    for (std::size_t j = 0; j <= rows; ++j) {
        cell(0, j) = left[j];
        cell(columns, j) = right[j];
    }
    for (std::size_t j = 1; j < rows; ++j)
        for (std::size_t i = 1; i < columns; ++i) {
            // Where the straight lines between opposite shares meet in the unit square.
            const double du = st[i] - sb[i], dv = sr[j] - sl[j];
            const double u = (sb[i] + sl[j] * du) / (1 - du * dv), v = sl[j] + u * dv;
            const Vec2 between_v = at(bottom[i]) * (1 - v) + at(top[i]) * v,
                       between_u = at(left[j]) * (1 - u) + at(right[j]) * u,
                       corners = (at(bottom.front()) * (1 - u) + at(bottom.back()) * u) * (1 - v) +
                                 (at(top.front()) * (1 - u) + at(top.back()) * u) * v;
            cell(i, j) = static_cast<std::int32_t>(mesh.points.size());
            mesh.points.push_back(between_v + between_u - corners);
        }
    for (std::size_t j = 0; j < rows; ++j)
        for (std::size_t i = 0; i < columns; ++i) {
            CornerMesh::Element e;
            e.face = face;
            e.v = {cell(i, j), cell(i + 1, j), cell(i + 1, j + 1), cell(i, j + 1)};
            if (j == 0) e.segment[0] = segments[0][i];
            if (i + 1 == columns) e.segment[1] = segments[1][j];
            if (j + 1 == rows) e.segment[2] = segments[2][i];
            if (i == 0) e.segment[3] = segments[3][j];
            mesh.elements.push_back(e);
        }
    const auto folded = [&] {
        return std::find_if(mesh.elements.begin(), mesh.elements.end(),
                            [&](const auto& e) { return !(scaled_jacobian_of(mesh, e) > 0); });
    };
    if (folded() != mesh.elements.end()) relax(mesh, division.points.size(), relax_rounds);
    if (const auto bad = folded(); bad != mesh.elements.end()) {
        Place place;
        place.position = at(bad->v[0]);
        throw MeshError(fmt::format("mesh.region.{}: the grid folds over", region_of(part, face)), place,
                        "split the region into simpler pieces, or use elements = \"quadrilaterals\"");
    }
    return mesh;
}

}  // namespace dotsift
