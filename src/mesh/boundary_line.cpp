#include "mesh/boundary_line.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace dotsift {

namespace {

constexpr double same_share = 1e-9;  // of a side

const Vec2& node(const Mesh& mesh, int n) {
    return mesh.nodes[static_cast<std::size_t>(n)];
}

double length_between(const Mesh& mesh, const BoundarySide& side, double from, double to) {
    double sum = 0;
    for (const auto& g : line_rule()) sum += g.weight * norm(derivative_on(mesh, side, from + g.t * (to - from)));
    return sum * std::fabs(to - from);
}

/// A side in the direction of the line.
struct Step {
    std::size_t boundary = 0;
    bool forward = true;
};

int first_node(const Mesh& mesh, const Step& s) {
    return mesh.boundary[s.boundary].nodes[s.forward ? 0 : 1];
}

int last_node(const Mesh& mesh, const Step& s) {
    return mesh.boundary[s.boundary].nodes[s.forward ? 1 : 0];
}

using SidesAt = std::map<int, std::vector<std::size_t>>;

/// From a side on, as far as exactly one other side follows.
std::vector<Step> follow(const Mesh& mesh, const SidesAt& at, Step start, std::vector<char>& used) {
    std::vector<Step> steps{start};
    used[start.boundary] = 1;
    while (true) {
        const int end = last_node(mesh, steps.back());
        const auto& sides = at.at(end);
        if (sides.size() != 2) break;
        const std::size_t next = sides[0] == steps.back().boundary ? sides[1] : sides[0];
        if (used[next]) break;
        used[next] = 1;
        steps.push_back({next, mesh.boundary[next].nodes[0] == end});
    }
    return steps;
}

/// Every line that the sides make, the sides' own direction kept where it is one.
std::vector<std::vector<Step>> lines_of(const Mesh& mesh, const std::vector<std::size_t>& sides) {
    SidesAt at;
    for (const auto s : sides)
        for (int k = 0; k < 2; ++k) at[mesh.boundary[s].nodes[static_cast<std::size_t>(k)]].push_back(s);
    std::vector<char> used(mesh.boundary.size(), 0);
    std::vector<std::vector<Step>> lines;
    for (const bool ends : {true, false})  // open lines first, from their beginnings
        for (const bool along : {true, false})
            for (const auto s : sides) {
                const Step start{s, along};
                if (used[s] || (ends && at.at(first_node(mesh, start)).size() == 2)) continue;
                lines.push_back(follow(mesh, at, start, used));
            }
    return lines;
}

bool is_closed(const Mesh& mesh, const std::vector<Step>& line) {
    return line.size() > 1 && first_node(mesh, line.front()) == last_node(mesh, line.back());
}

/// The nearest place of a line: which step, and the share of its side.
struct Foot {
    std::size_t step = 0;
    double share = 0, gap = INFINITY;
};

Foot foot_of(const Mesh& mesh, const std::vector<Step>& line, const Vec2& p) {
    Foot best;
    for (std::size_t k = 0; k < line.size(); ++k) {
        const BoundarySide& side = mesh.boundary[line[k].boundary];
        const double t = nearest_share(mesh, side, p);
        const double gap = distance(point_on(mesh, side, t), p);
        if (gap < best.gap) best = {k, t, gap};
    }
    return best;
}

void turn_round(std::vector<Step>& line) {
    std::reverse(line.begin(), line.end());
    for (auto& s : line) s.forward = !s.forward;
}

/// A closed line begins at a corner of the part: the lowest of the leftmost; without one, at such a node.
void open_at_corner(const Mesh& mesh, std::vector<Step>& line) {
    const auto edge = [&](std::size_t k) { return mesh.boundary[line[k % line.size()].boundary].edge; };
    std::size_t best = 0;
    bool best_corner = false;
    for (std::size_t k = 0; k < line.size(); ++k) {
        const bool corner = edge(k) != edge(k + line.size() - 1);
        const Vec2 &p = node(mesh, first_node(mesh, line[k])), &q = node(mesh, first_node(mesh, line[best]));
        if (corner < best_corner || (corner == best_corner && k > 0 && !(p.c < q.c))) continue;
        best = k;
        best_corner = corner;
    }
    std::rotate(line.begin(), line.begin() + static_cast<std::ptrdiff_t>(best), line.end());
}

}  // namespace

Vec2 point_on(const Mesh& mesh, const BoundarySide& side, double t) {
    const Vec2 &a = node(mesh, side.nodes[0]), &b = node(mesh, side.nodes[1]);
    if (side.count() == 2) return a + (b - a) * t;
    return a * ((1 - t) * (1 - 2 * t)) + b * (t * (2 * t - 1)) + node(mesh, side.nodes[2]) * (4 * t * (1 - t));
}

Vec2 derivative_on(const Mesh& mesh, const BoundarySide& side, double t) {
    const Vec2 &a = node(mesh, side.nodes[0]), &b = node(mesh, side.nodes[1]);
    if (side.count() == 2) return b - a;
    return a * (4 * t - 3) + b * (4 * t - 1) + node(mesh, side.nodes[2]) * (4 - 8 * t);
}

double nearest_share(const Mesh& mesh, const BoundarySide& side, const Vec2& p) {
    const Vec2 &a = node(mesh, side.nodes[0]), &b = node(mesh, side.nodes[1]);
    double t = std::clamp(dot(p - a, b - a) / dot(b - a, b - a), 0.0, 1.0);
    for (int step = 0; step < 8 && side.count() == 3; ++step) {  // towards the nearest point of the curved side
        const Vec2 d = derivative_on(mesh, side, t);
        t = std::clamp(t + dot(p - point_on(mesh, side, t), d) / dot(d, d), 0.0, 1.0);
    }
    for (const double s : {0.0, 0.5, 1.0})  // nodes are found as they are
        if (std::fabs(t - s) < same_share) t = s;
    return t;
}

double share_at(const Mesh& mesh, const LinePiece& piece, double wanted) {
    const BoundarySide& side = mesh.boundary[piece.boundary];
    if (wanted <= 0) return piece.from;
    if (wanted >= piece.length) return piece.to;
    double low = 0, high = 1;  // of the piece
    for (int step = 0; step < 50; ++step) {
        const double middle = 0.5 * (low + high);
        const bool before =
            length_between(mesh, side, piece.from, piece.from + middle * (piece.to - piece.from)) < wanted;
        (before ? low : high) = middle;
    }
    return piece.from + 0.5 * (low + high) * (piece.to - piece.from);
}

BoundaryLine boundary_line(const Mesh& mesh, const std::vector<std::string>& names, const std::optional<Vec2>& from,
                           const std::optional<Vec2>& to) {
    std::vector<std::size_t> sides;
    const Meant meant(mesh, names);
    for (std::size_t b = 0; b < mesh.boundary.size(); ++b)
        if (meant.side(mesh.boundary[b])) sides.push_back(b);
    BoundaryLine out;
    if (sides.empty()) return out;
    auto lines = lines_of(mesh, sides);
    std::size_t chosen = 0;
    if (from) {
        std::vector<double> gaps;
        gaps.reserve(lines.size());
        for (const auto& l : lines) gaps.push_back(foot_of(mesh, l, *from).gap);
        chosen = static_cast<std::size_t>(std::min_element(gaps.begin(), gaps.end()) - gaps.begin());
    }
    std::vector<Step> line = std::move(lines[chosen]);
    const bool round = is_closed(mesh, line);
    // Places along the line are counted in sides.
    const auto place_of = [&](const Vec2& p) {
        const Foot f = foot_of(mesh, line, p);
        return static_cast<double>(f.step) + (line[f.step].forward ? f.share : 1 - f.share);
    };
    const auto whole = static_cast<double>(line.size());
    double begin = 0, end = whole;
    if (round && !from) open_at_corner(mesh, line);
    if (round && from) {
        const auto first = static_cast<std::ptrdiff_t>(std::min(std::floor(place_of(*from)), whole - 1));
        std::rotate(line.begin(), line.begin() + first, line.end());
    }
    if (from) begin = place_of(*from);
    if (round) {
        if (begin > whole / 2) begin = 0;  // its own beginning, found as the end
        end = whole + begin;
    }
    if (to) {
        const double last = place_of(*to);
        if (round) {
            end = last > begin ? last : last + whole;
        } else if (last < begin) {
            turn_round(line);
            begin = whole - begin;
            end = whole - last;
        } else {
            end = last;
        }
    }
    if (round) line.push_back(line.front());  // what of it lies before the beginning comes last
    out.closed = round && !to;
    for (std::size_t k = 0; k < line.size(); ++k) {
        const double low = std::max(begin, static_cast<double>(k)), high = std::min(end, static_cast<double>(k + 1));
        if (!(high > low)) continue;
        const BoundarySide& side = mesh.boundary[line[k].boundary];
        LinePiece piece{line[k].boundary, low - static_cast<double>(k), high - static_cast<double>(k), out.length, 0};
        if (!line[k].forward) {
            piece.from = 1 - piece.from;
            piece.to = 1 - piece.to;
        }
        piece.length = length_between(mesh, side, piece.from, piece.to);
        const bool corner = !out.pieces.empty() && mesh.boundary[out.pieces.back().boundary].edge != side.edge &&
                            (piece.from == 0 || piece.from == 1);
        if (corner) out.corners.emplace_back(out.length, first_node(mesh, line[k]));
        out.length += piece.length;
        out.pieces.push_back(piece);
    }
    return out;
}

}  // namespace dotsift
