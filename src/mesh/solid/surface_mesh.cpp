#include "mesh/solid/surface_mesh.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/parallel.hpp"
#include "mesh/length_measure.hpp"
#include "mesh/plane/fill.hpp"
#include "mesh/plane/outline.hpp"
#include "part/solid/chart.hpp"

namespace dotsift {

namespace {

constexpr int smooth_rounds = 6;
constexpr double least_angle = 25;  // degrees; of triangles on faces
// A triangle that turns away from its surface by more than this is too large for it.
const double least_cosine = std::cos(50 * std::numbers::pi / 180);

/// What is found on one face.
struct FaceMesh {
    std::vector<Vec3> inner;                 ///< points inside
    std::vector<SurfaceTriangle> triangles;  ///< inner points count from -1 downwards
    CoarsePlaces coarse;
};

/// The pieces of one edge after each other.
struct EdgeRange {
    std::size_t first = 0, count = 0;
};

class FaceWork {
  public:
    FaceWork(const SolidPart& part, const SurfaceMesh& mesh, const std::vector<EdgeRange>& ranges,
             const SizeFieldIn<3>& sizes, std::size_t most, std::size_t face)
        : part_(part),
          mesh_(mesh),
          ranges_(ranges),
          sizes_(sizes),
          most_(most),
          face_(face),
          chart_(part.faces[face].surface),
          loops_(chart_) {}

    FaceMesh run() {
        const auto& loops = part_.faces[face_].loops;
        for (const auto& loop : loops) add_loop(loop);
        for (const int v : part_.faces[face_].marks) {
            points_.push_back(v);
            division_.points.push_back(loops_.follow({part_.vertices[static_cast<std::size_t>(v)]}).front());
        }
        FaceMesh out;
        Coarse found;
        Outline outline = triangulate(division_, found);
        if (found.segments.empty()) found = narrow_places(outline, [&](int e, int f) { return meet_sharply(e, f); });
        if (!found.segments.empty()) {
            for (const std::size_t s : found.segments) {
                const auto& segment = outline.division.segments[s];
                out.coarse.add(place(segment.from), place(segment.to), found.reason.c_str(), name());
            }
            return out;
        }
        const ToldSizes told{[&](const Vec2& at, std::int32_t& hint) {
            const Vec2 p = chart_.parameters(at);
            return sizes_.at(chart_.surface().point(p), hint) / chart_.scale(p);
        }};
        const auto first_movable = static_cast<int>(outline.mesh.points().size());
        fill(outline.mesh, told, 3 * most_ + 1000);
        outline.mesh.renumber(first_movable);
        smooth(outline.mesh, smooth_rounds, first_movable);
        if (refine_poor(outline.mesh, least_angle) > 0) smooth(outline.mesh, smooth_rounds, first_movable);
        const CornerMesh corners = corner_mesh(outline);
        const std::size_t known = division_.points.size();
        for (std::size_t p = known; p < corners.points.size(); ++p)
            out.inner.push_back(chart_.point(corners.points[p]));
        for (const auto& e : corners.elements) {
            SurfaceTriangle t;
            t.face = static_cast<std::int32_t>(face_);
            std::array<Vec3, 3> x;
            for (std::size_t i = 0; i < 3; ++i) {
                const auto p = static_cast<std::size_t>(e.v[i]);
                t.v[i] = p < known ? points_[p] : -1 - static_cast<std::int32_t>(p - known);
                x[i] = p < known ? place(e.v[i]) : out.inner[p - known];
            }
            out.triangles.push_back(t);
            const Vec2 centre =
                (corners.points[static_cast<std::size_t>(e.v[0])] + corners.points[static_cast<std::size_t>(e.v[1])] +
                 corners.points[static_cast<std::size_t>(e.v[2])]) /
                3;
            const Vec3 n = cross(x[1] - x[0], x[2] - x[0]);
            if (dot(n, chart_.surface().normal(chart_.parameters(centre))) >= least_cosine * norm(n)) continue;
            for (std::size_t i = 0; i < 3; ++i)
                out.coarse.add(x[i], x[(i + 1) % 3], "the face bends too much within one element", name());
        }
        return out;
    }

  private:
    [[nodiscard]] std::string name() const { return part_.name_of_face(static_cast<int>(face_)); }
    [[nodiscard]] const Vec3& place(std::int32_t local) const {
        return mesh_.points[static_cast<std::size_t>(points_[static_cast<std::size_t>(local)])];
    }

    void add_loop(const std::vector<EdgeUse>& loop) {
        const std::size_t first = points_.size();
        std::vector<Vec3> places;
        for (const EdgeUse& use : loop) {
            const auto& range = ranges_[static_cast<std::size_t>(use.edge)];
            for (std::size_t k = 0; k < range.count; ++k) {
                const auto& piece = mesh_.pieces[range.first + (use.forward ? k : range.count - 1 - k)];
                points_.push_back(use.forward ? piece.from : piece.to);
                places.push_back(mesh_.points[static_cast<std::size_t>(points_.back())]);
                Segment s;
                s.from = static_cast<int>(points_.size()) - 1;
                s.to = s.from + 1;
                s.edge = use.edge;
                s.left = 0;
                division_.segments.push_back(s);
            }
        }
        division_.segments.back().to = static_cast<int>(first);
        const auto on_chart = loops_.follow(places);
        division_.points.insert(division_.points.end(), on_chart.begin(), on_chart.end());
    }

    /// Some end of one lies where one of the other does, and they leave it at a narrow angle.
    [[nodiscard]] bool meet_sharply(int e, int f) const {
        const auto &a = part_.edge(e), &b = part_.edge(f);
        for (const bool a_end : {false, true})
            for (const bool b_end : {false, true}) {
                if ((a_end ? a.end : a.start) != (b_end ? b.end : b.start) || (e == f && a_end == b_end)) continue;
                const Vec3 u = a_end ? -a.curve.derivative(1) : a.curve.derivative(0),
                           w = b_end ? -b.curve.derivative(1) : b.curve.derivative(0);
                if (dot(u, w) > std::cos(sharp_corner * std::numbers::pi / 180) * norm(u) * norm(w)) return true;
            }
        return false;
    }

    const SolidPart& part_;
    const SurfaceMesh& mesh_;
    const std::vector<EdgeRange>& ranges_;
    const SizeFieldIn<3>& sizes_;
    std::size_t most_, face_;
    Chart chart_;
    ChartedLoops loops_;
    Division division_;
    std::vector<std::int32_t> points_;  ///< of the mesh, for each of the division
};

}  // namespace

void CoarsePlaces::add(const Vec3& a, const Vec3& b, const char* why, const std::string& name) {
    if (finer.empty()) {
        reason = why;
        where = name;
        position = (a + b) * 0.5;
    }
    SizeSourceIn<3> s;
    s.form = SizeSourceIn<3>::Form::segment;
    s.corners = {a, b, b};
    s.size = distance(a, b) / 2;
    if (s.size > 0) finer.push_back(s);
}

SurfaceMesh mesh_surface(const SolidPart& part, const SizingIn<3>& sizing, std::size_t most, CoarsePlaces& coarse) {
    const SizeFieldIn<3>& sizes = sizing.field;
    std::vector<const EdgeDivision*> given(part.edges.size(), nullptr);
    for (const auto& d : sizing.divisions) given[static_cast<std::size_t>(d.edge)] = &d;
    SurfaceMesh mesh;
    mesh.points = part.vertices;
    std::vector<EdgeRange> ranges;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const auto& edge = part.edges[e];
        const auto cuts = given[e] ? given_cuts(edge.curve, *given[e]) : divide_piece(edge.curve, sizes, 0, 1);
        ranges.push_back({mesh.pieces.size(), cuts.size() - 1});
        std::int32_t previous = edge.start;
        for (std::size_t k = 1; k < cuts.size(); ++k) {
            std::int32_t point = edge.end;
            if (k + 1 < cuts.size()) {
                point = static_cast<std::int32_t>(mesh.points.size());
                mesh.points.push_back(edge.curve.point(cuts[k]));
            }
            mesh.pieces.push_back({previous, point, static_cast<std::int32_t>(e), cuts[k - 1], cuts[k]});
            previous = point;
        }
    }
    std::vector<FaceMesh> faces(part.faces.size());
    in_parallel(faces.size(), [&](std::size_t f) { faces[f] = FaceWork(part, mesh, ranges, sizes, most, f).run(); });
    for (const auto& f : faces) {
        if (!f.coarse.finer.empty() && coarse.finer.empty()) {
            coarse.reason = f.coarse.reason;
            coarse.where = f.coarse.where;
            coarse.position = f.coarse.position;
        }
        coarse.finer.insert(coarse.finer.end(), f.coarse.finer.begin(), f.coarse.finer.end());
        const auto first = static_cast<std::int32_t>(mesh.points.size());
        mesh.points.insert(mesh.points.end(), f.inner.begin(), f.inner.end());
        for (SurfaceTriangle t : f.triangles) {
            for (auto& v : t.v)
                if (v < 0) v = first - 1 - v;
            mesh.triangles.push_back(t);
        }
    }
    return mesh;
}

}  // namespace dotsift
