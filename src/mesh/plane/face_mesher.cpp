#include "mesh/plane/face_mesher.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "mesh/plane/fill.hpp"
#include "mesh/plane/quadrilaterals/quadrilaterals.hpp"

namespace dotsift {

namespace {

constexpr int smooth_rounds = 2;      // measured: more change the mean shape quality by less than 0.001
constexpr double least_valid = 0.05;  // sine of an angle
constexpr double least_side = 0.01;   // shortest over longest
constexpr double least_angle = 25;    // degrees; what is below gets circumcentres where they fit

/// The part of a division that bounds or lies in one face.
struct FaceDivision {
    Division division;                 ///< with points of its own; on the far side of every segment is nothing
    std::vector<int> point;            ///< of the whole division, for each of its points
    std::vector<std::size_t> segment;  ///< likewise
};

FaceDivision division_of_face(const Part& part, const Division& division, int face) {
    FaceDivision out;
    std::vector<int> local(division.points.size(), -1);
    const auto use = [&](int p) {
        auto& l = local[static_cast<std::size_t>(p)];
        if (l < 0) {
            l = static_cast<int>(out.point.size());
            out.point.push_back(p);
            out.division.points.push_back(division.points[static_cast<std::size_t>(p)]);
        }
        return l;
    };
    for (std::size_t k = 0; k < division.segments.size(); ++k) {
        const auto& s = division.segments[k];
        if (s.left != face && s.right != face) continue;
        Segment copy = s;
        copy.from = use(s.from);
        copy.to = use(s.to);
        copy.left = s.left == face ? face : -1;
        copy.right = s.right == face ? face : -1;
        out.division.segments.push_back(copy);
        out.segment.push_back(k);
    }
    for (const int v : part.faces[static_cast<std::size_t>(face)].points) use(v);
    return out;
}

/// A quadrilateral that is turned inside out, or nearly so, or has a side that vanishes beside the others. Angles
/// between two segments are what they are. Triangles come out of a triangulation, which has none turned.
bool folded(const CornerMesh& mesh, const CornerMesh::Element& e) {
    if (e.corners() != 4) return false;
    const auto p = mesh.corners_of(e);
    std::array<double, 4> length{};
    for (std::size_t i = 0; i < 4; ++i) length[i] = distance(p[i], p[(i + 1) % 4]);
    const auto [shortest, longest] = std::minmax_element(length.begin(), length.end());
    if (!(*shortest > least_side * *longest)) return true;
    for (std::size_t i = 0; i < 4; ++i) {
        const std::size_t before = (i + 3) % 4;
        const double sine = cross(p[(i + 1) % 4] - p[i], p[before] - p[i]) / (length[i] * length[before]);
        const bool given = e.segment[i] >= 0 && e.segment[before] >= 0;
        if (!(sine > (given ? 0 : least_valid))) return true;
    }
    return false;
}

/// Segments beside elements that are turned inside out, or nearly so: smaller elements follow the boundary better.
void find_folded(const CornerMesh& mesh, const Division& division, Coarse& coarse) {
    std::vector<std::vector<std::size_t>> segments_of(division.points.size());
    for (std::size_t s = 0; s < division.segments.size(); ++s)
        for (const int p : {division.segments[s].from, division.segments[s].to})
            segments_of[static_cast<std::size_t>(p)].push_back(s);
    for (const auto& e : mesh.elements) {
        if (!folded(mesh, e)) continue;
        std::vector<std::size_t> found;
        for (std::size_t i = 0; i < e.corners(); ++i)
            if (const auto p = static_cast<std::size_t>(e.v[i]); p < segments_of.size())
                found.insert(found.end(), segments_of[p].begin(), segments_of[p].end());
        if (found.empty()) {  // the nearest one
            const Vec2& at = mesh.points[static_cast<std::size_t>(e.v[0])];
            double least = INFINITY;
            for (std::size_t s = 0; s < division.segments.size(); ++s) {
                const double d = distance(division.points[static_cast<std::size_t>(division.segments[s].from)], at);
                if (d >= least) continue;
                least = d;
                found.assign(1, s);
            }
        }
        coarse.segments.insert(coarse.segments.end(), found.begin(), found.end());
        coarse.reason = "the elements are too large to follow the boundary here";
    }
}

}  // namespace

FaceMesher::FaceMesher(const Part& part, const MeshSpec& elements, std::size_t most_elements)
    : part_(part), most_(most_elements) {
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const std::string& region = part.regions[static_cast<std::size_t>(part.faces[f].region)];
        shape_.push_back(elements.shape_in(region));
        if (shape_.back() != ElementShape::grid) continue;
        std::vector<Vec2> corners;
        for (const auto& r : elements.regions)
            if (r.name == region) corners = r.corners;
        grids_[static_cast<int>(f)] = grid_sides(part, static_cast<int>(f), corners);
    }
}

Division FaceMesher::divide(const SizeField& sizes, const std::vector<EdgeDivision>& given,
                            const std::vector<EdgeEnd>& ends) const {
    DivisionDemands demands;
    demands.ends = ends;
    demands.given = given;
    for (const auto& e : part_.edges) {
        const auto alone = [&](int face) {
            return face >= 0 && shape_[static_cast<std::size_t>(face)] == ElementShape::quadrilaterals;
        };
        demands.even.push_back(alone(e.left) || alone(e.right));
    }
    if (!grids_.empty()) {
        std::vector<GridSides> grids;
        for (const auto& [face, sides] : grids_) grids.push_back(sides);
        std::vector<int> step;
        for (const char even : demands.even) step.push_back(even ? 2 : 1);
        for (const auto& g : given) step[static_cast<std::size_t>(g.edge)] = 0;
        demands.counts = count_pieces(part_, sizes, demands);
        match_opposite_sides(part_, grids, step, demands.counts);
    }
    return divide_edges(part_, sizes, demands);
}

CornerMesh FaceMesher::fill(Outline& outline, const SizeField& sizes, Coarse& coarse) const {
    const auto made_of = [&](int face, ElementShape shape) { return shape_[static_cast<std::size_t>(face)] == shape; };
    outline.mesh.keep_faces([&](int face) { return made_of(face, ElementShape::triangles); });
    const auto first_movable = static_cast<int>(outline.mesh.points().size());
    dotsift::fill(outline.mesh, sizes, 3 * most_ + 1000);
    outline.mesh.renumber(first_movable);
    smooth(outline.mesh, smooth_rounds, first_movable);
    if (refine_poor(outline.mesh, least_angle) > 0) smooth(outline.mesh, smooth_rounds, first_movable);
    CornerMesh mesh = corner_mesh(outline);
    mesh.ordered = true;
    for (std::size_t f = 0; f < shape_.size(); ++f) {
        if (shape_[f] == ElementShape::triangles) continue;
        const int face = static_cast<int>(f);
        if (shape_[f] == ElementShape::grid) {
            mesh.append(grid_between(part_, grids_.at(face), outline.division, face), {},
                        outline.division.points.size(), {});
            continue;
        }
        const FaceDivision own = division_of_face(part_, outline.division, face);
        if (own.division.segments.empty()) continue;  // nothing of it is to be filled
        Coarse found;
        const CornerMesh piece = shape_[f] == ElementShape::quadrilaterals
                                     ? only_quadrilaterals(own.division, sizes, most_, found)
                                     : mostly_quadrilaterals(own.division, sizes, most_, found);
        if (found.segments.empty()) find_folded(piece, own.division, found);
        for (const std::size_t s : found.segments) coarse.segments.push_back(own.segment[s]);
        if (!found.segments.empty()) coarse.reason = found.reason;
        mesh.append(piece, own.point, 0, own.segment);
    }
    return mesh;
}

}  // namespace dotsift
