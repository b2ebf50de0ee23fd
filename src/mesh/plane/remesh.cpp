#include "mesh/plane/remesh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <optional>

#include "base/errors.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/length_measure.hpp"
#include "mesh/placed_mesh.hpp"
#include "mesh/plane/assemble.hpp"
#include "mesh/plane/face_mesher.hpp"
#include "mesh/plane/outline.hpp"

namespace dotsift {

namespace {

constexpr int most_zone_rounds = 8;
constexpr double fall =
    1;  // of the size from kept elements into a zone of smaller ones: about a half from one to the next

class Remesh {
  public:
    Remesh(const Part& part, const Mesh& old, const std::vector<char>& anew)
        : part_(part), old_(old), placed_(place_on_part(part, old)), anew_(anew) {
        for (std::size_t e = 0; e < old.element_count(); ++e)
            if (old.row[e] > 0) anew_[e] = 0;
        kept_node_.assign(old.nodes.size(), 0);
        for (std::size_t e = 0; e < old.element_count(); ++e)
            for (const auto n : old.element(e))
                if (!anew_[e]) kept_node_[static_cast<std::size_t>(n)] = 1;
    }

    Mesh run(const SizeField& field, const MeshSpec& elements, std::int64_t most_elements, RemeshCounts& counts) {
        const auto rim = sizes_of_rim();
        SizeField sizes = field.with(rim).no_less_than(rim, fall);
        MeshSpec spec = elements;
        const auto fillable = [](ElementShape& s) {
            if (s != ElementShape::triangles) s = ElementShape::mostly_quadrilaterals;
        };
        fillable(spec.shape);
        for (auto& r : spec.regions) fillable(r.shape);
        const FaceMesher faces(part_, spec, static_cast<std::size_t>(most_elements));
        Coarse coarse;
        std::optional<Outline> outline;
        for (int round = 0; round < most_zone_rounds; ++round) {
            if (round == most_zone_rounds / 2) sizes = field.with(rim);
            coarse = {};
            outline.emplace(triangulate(divide(sizes), coarse));
            if (coarse.segments.empty()) {
                CornerMesh corners = faces.fill(*outline, sizes, coarse);
                if (coarse.segments.empty()) {
                    bend_rim(corners);
                    const Mesh piece =
                        assemble(part_, outline->division, std::move(corners), polynomial_degree(old_.kinds.front()));
                    coarse = bent_elements(piece, outline->division, part_);
                    if (coarse.segments.empty() ||
                        ((only_rim(coarse) || round + 1 == most_zone_rounds) && sound(piece)))
                        return join(piece, counts);
                }
            }
            sizes = sizes.with(halved(coarse, outline->division));
        }
        Place place;
        place.position =
            outline->division
                .points[static_cast<std::size_t>(outline->division.segments[coarse.segments.front()].from)];
        throw MeshError("the zone cannot be filled: " + coarse.reason, place, "make it larger, or its size smaller");
    }

  private:
    [[nodiscard]] bool is_anew(std::int32_t e) const { return e >= 0 && anew_[static_cast<std::size_t>(e)] != 0; }
    [[nodiscard]] const Vec2& node(std::int32_t n) const { return old_.nodes[static_cast<std::size_t>(n)]; }

    /// A side that stays: something that is kept lies on it.
    [[nodiscard]] bool is_rim(const PlacedSide& s) const { return s.inner() && is_anew(s.left) != is_anew(s.right); }
    /// A side that is divided anew: on the part's edges, with nothing kept beside it.
    [[nodiscard]] bool is_free(const PlacedSide& s) const {
        return s.on.edge >= 0 && is_anew(s.left) && (!s.inner() || is_anew(s.right));
    }

    std::vector<SizeSource> sizes_of_rim() const {
        std::vector<SizeSource> sources;
        for (const PlacedSide& s : placed_.sides) {
            if (!is_rim(s)) continue;
            SizeSource source;
            source.form = SizeSource::Form::segment;
            source.corners = {node(s.from), node(s.to), {}};
            source.size = distance(node(s.from), node(s.to));
            sources.push_back(source);
        }
        return sources;
    }

    Division divide(const SizeField& sizes) {
        Division d;
        d.points = part_.vertices;
        point_of_.clear();
        node_of_point_.assign(d.points.size(), -1);
        const auto point = [&](std::int32_t n) {
            const auto [found, fresh] = point_of_.try_emplace(n, 0);
            if (!fresh) return found->second;
            const int vertex = part_.vertex_at(node(n));
            if (vertex >= 0) {
                d.points[static_cast<std::size_t>(vertex)] = node(n);
                found->second = vertex;
            } else {
                found->second = static_cast<int>(d.points.size());
                d.points.push_back(node(n));
                node_of_point_.push_back(-1);
            }
            node_of_point_[static_cast<std::size_t>(found->second)] = n;
            return found->second;
        };
        const auto face = [&](std::int32_t e) { return is_anew(e) ? placed_.face[static_cast<std::size_t>(e)] : -1; };
        struct Piece {
            double from, to;
            std::int32_t start, end;
        };
        std::map<int, std::vector<Piece>> free;
        for (const PlacedSide& s : placed_.sides) {
            if (is_rim(s)) {
                Segment segment{point(s.from), point(s.to), s.on.edge, s.on.from, s.on.to, face(s.left), face(s.right)};
                if (s.on.edge >= 0 && !s.along()) {
                    std::swap(segment.from, segment.to);
                    std::swap(segment.t_from, segment.t_to);
                    std::swap(segment.left, segment.right);
                }
                d.segments.push_back(segment);
            } else if (is_free(s)) {
                free[s.on.edge].push_back(s.along() ? Piece{s.on.from, s.on.to, s.from, s.to}
                                                    : Piece{s.on.to, s.on.from, s.to, s.from});
            }
        }
        rim_segments_ = d.segments.size();
        for (auto& [edge, pieces] : free) {
            std::sort(pieces.begin(), pieces.end(), [](const Piece& a, const Piece& b) { return a.from < b.from; });
            for (std::size_t first = 0; first < pieces.size();) {
                std::size_t last = first;
                while (last + 1 < pieces.size() && pieces[last].end == pieces[last + 1].start &&
                       !kept_node_[static_cast<std::size_t>(pieces[last].end)])
                    ++last;
                const PartEdge& e = part_.edge(edge);
                const auto cuts = divide_piece(e.curve, sizes, pieces[first].from, pieces[last].to);
                int previous = point(pieces[first].start);
                for (std::size_t k = 1; k < cuts.size(); ++k) {
                    int next = 0;
                    if (k + 1 == cuts.size()) {
                        next = point(pieces[last].end);
                    } else {
                        next = static_cast<int>(d.points.size());
                        d.points.push_back(e.curve.point(cuts[k]));
                        node_of_point_.push_back(-1);
                    }
                    d.segments.push_back({previous, next, edge, cuts[k - 1], cuts[k], e.left, e.right});
                    previous = next;
                }
                first = last + 1;
            }
        }
        return d;
    }

    /// Smaller sizes do not help: the sides that bend the elements stay as they are.
    [[nodiscard]] bool only_rim(const Coarse& coarse) const {
        return std::all_of(coarse.segments.begin(), coarse.segments.end(),
                           [&](std::size_t s) { return s < rim_segments_; });
    }
    static bool sound(const Mesh& piece) {
        for (std::size_t e = 0; e < piece.element_count(); ++e)
            if (!(jacobian_bound(piece.kinds[e], piece.positions(e)) > 0)) return false;
        return true;
    }

    /// Sides of the rim keep their middles.
    void bend_rim(CornerMesh& corners) const {
        for (const PlacedSide& s : placed_.sides)
            if (is_rim(s) && s.middle >= 0 && s.on.edge < 0)
                corners.bent.push_back({point_of_.at(s.from), point_of_.at(s.to), node(s.middle)});
    }

    Mesh join(const Mesh& piece, RemeshCounts& counts) {
        Mesh out;
        std::vector<std::int32_t> number(old_.nodes.size(), -1);
        for (std::size_t n = 0; n < number.size(); ++n) {
            if (!kept_node_[n]) continue;
            number[n] = static_cast<std::int32_t>(out.nodes.size());
            out.nodes.push_back(old_.nodes[n]);
        }
        counts.kept_nodes = out.nodes.size();
        counts.removed_nodes = old_.nodes.size() - out.nodes.size();

        // Nodes of the piece that are kept ones: corners by their exact place, then middles by their corners.
        std::map<std::pair<double, double>, std::int32_t> at;
        for (const auto n : node_of_point_)
            if (n >= 0 && number[static_cast<std::size_t>(n)] >= 0) at[{node(n)[0], node(n)[1]}] = n;
        std::vector<std::int32_t> same(piece.nodes.size(), -1);  // node of the old mesh
        for (std::size_t n = 0; n < piece.nodes.size(); ++n)
            if (const auto found = at.find({piece.nodes[n][0], piece.nodes[n][1]}); found != at.end())
                same[n] = found->second;
        for (std::size_t e = 0; e < piece.element_count(); ++e) {
            if (polynomial_degree(piece.kinds[e]) == 1) break;
            const auto nodes = piece.element(e);
            const auto n = static_cast<std::size_t>(corner_count(piece.kinds[e]));
            for (std::size_t i = 0; i < n; ++i) {
                const auto a = same[static_cast<std::size_t>(nodes[i])],
                           b = same[static_cast<std::size_t>(nodes[(i + 1) % n])];
                if (a < 0 || b < 0) continue;
                const PlacedSide* side = placed_.between(a, b);
                if (side && is_rim(*side)) same[static_cast<std::size_t>(nodes[n + i])] = side->middle;
            }
        }
        std::vector<std::int32_t> piece_number(piece.nodes.size());
        for (std::size_t n = 0; n < piece.nodes.size(); ++n) {
            if (same[n] >= 0) {
                piece_number[n] = number[static_cast<std::size_t>(same[n])];
                continue;
            }
            piece_number[n] = static_cast<std::int32_t>(out.nodes.size());
            out.nodes.push_back(piece.nodes[n]);
        }
        counts.new_nodes = out.nodes.size() - counts.kept_nodes;

        std::vector<std::int32_t> element_number(old_.element_count(), -1);
        const auto add = [&](const Mesh& from, std::size_t e, int region, const std::vector<std::int32_t>& numbers) {
            out.kinds.push_back(from.kinds[e]);
            out.first.push_back(static_cast<std::int64_t>(out.connectivity.size()));
            out.region.push_back(region);
            out.row.push_back(from.row[e]);
            for (const auto n : from.element(e)) out.connectivity.push_back(numbers[static_cast<std::size_t>(n)]);
        };
        const auto add_side = [&](BoundarySide b, int element, int edge, const std::vector<std::int32_t>& numbers) {
            for (std::size_t k = 0; k < b.count(); ++k) b.nodes[k] = numbers[static_cast<std::size_t>(b.nodes[k])];
            b.element = element;
            b.edge = edge;
            out.boundary.push_back(b);
        };
        for (std::size_t e = 0; e < old_.element_count(); ++e) {
            if (anew_[e]) continue;
            element_number[e] = static_cast<std::int32_t>(out.element_count());
            counts.kept.push_back(static_cast<std::int32_t>(e));
            add(old_, e, part_.faces[static_cast<std::size_t>(placed_.face[e])].region, number);
        }
        counts.kept_elements = out.element_count();
        counts.removed_elements = old_.element_count() - out.element_count();
        for (std::size_t e = 0; e < piece.element_count(); ++e) add(piece, e, piece.region[e], piece_number);
        counts.new_elements = piece.element_count();
        out.first.push_back(static_cast<std::int64_t>(out.connectivity.size()));
        for (const auto& b : placed_.boundary) {
            const BoundarySide kept = side_on_part(old_, placed_, b);
            if (is_anew(kept.element)) continue;  // the piece tells
            add_side(kept, element_number[static_cast<std::size_t>(kept.element)], kept.edge, number);
        }
        for (const auto& b : piece.boundary)
            add_side(b, static_cast<int>(counts.kept_elements) + b.element, b.edge, piece_number);
        out.boundary_names = part_.boundary_names;
        out.region_names = part_.regions;
        out.names_of_edge = names_of_sides(part_.edges);
        for (const auto& p : old_.points)
            if (p.node >= 0 && number[static_cast<std::size_t>(p.node)] >= 0)
                out.points.push_back({p.name, number[static_cast<std::size_t>(p.node)]});
        for (const auto& p : piece.points)
            if (p.node >= 0 && std::none_of(out.points.begin(), out.points.end(),
                                            [&](const MeshPoint& o) { return o.name == p.name; }))
                out.points.push_back({p.name, piece_number[static_cast<std::size_t>(p.node)]});
        connect(out);
        return out;
    }

    const Part& part_;
    const Mesh& old_;
    PlacedMesh placed_;
    std::vector<char> anew_, kept_node_;
    std::map<std::int32_t, int> point_of_;
    std::vector<std::int32_t> node_of_point_;  ///< of the old mesh; -1: none
    std::size_t rim_segments_ = 0;             ///< of the division, its first ones
};

}  // namespace

std::vector<char> blended_zones(const Mesh& old, std::vector<char> zones, const SizeField& with,
                                const SizeField& without) {
    constexpr double too_large = 1.5;
    constexpr double no_change = 1 - 1e-6;  // of a size that no zone changes
    for (std::size_t e = 0; e < old.element_count(); ++e) {
        if (old.row[e] > 0) continue;
        const Vec2 at = old.centre_of(e);
        const double wanted = with.at(at);
        if (wanted < no_change * without.at(at) && old.size_of(e) > too_large * wanted) zones[e] = 1;
    }
    return zones;
}

Mesh remesh(const Part& part, const Mesh& old, const std::vector<char>& anew, const SizeField& field,
            const MeshSpec& elements, std::int64_t most_elements, RemeshCounts& counts) {
    double made = 0, kept = 0;
    bool any = false;
    for (std::size_t e = 0; e < old.element_count(); ++e) {
        if (!anew[e] || old.row[e] > 0) {
            ++kept;
            continue;
        }
        const double h = field.at(old.centre_of(e));
        made += old.measure_of(e) / (std::numbers::sqrt3 / 4 * h * h);
        any = true;
    }
    if (!any)
        throw InputError("no element of the mesh lies in the zone", {}, "move or enlarge it; rows of layers stay");
    if (kept + made > surely_too_many * static_cast<double>(most_elements))
        throw InputError(fmt::format("the sizes ask for about {:.3g} elements, more than the limit of {}", kept + made,
                                     most_elements),
                         {}, "ask for larger sizes or raise size.most_elements");
    return Remesh(part, old, anew).run(field, elements, most_elements, counts);
}

}  // namespace dotsift
