#include "mesh/plane/generate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/plane/assemble.hpp"
#include "mesh/plane/face_mesher.hpp"
#include "mesh/plane/layers.hpp"
#include "mesh/plane/outline.hpp"

namespace dotsift {

namespace {

constexpr int most_rounds = 16;
constexpr int most_redivisions = 40;  // until rows of layers end where the boundaries beside them have their points
constexpr int most_shape_tries = 4;   // the boundary beside thin elements is refined this often, then they are accepted
constexpr double room_share = 0.6;  // vertices an expected element that memory is set aside for; there are half as many

MeshingLog::Try failed_try(const Part& part, const Division& division, const Coarse& coarse,
                           const std::vector<SizeSource>& finer) {
    MeshingLog::Try t;
    t.reason = coarse.reason;
    t.places = coarse.segments.size();
    const auto& segment = division.segments[coarse.segments.front()];
    t.boundary = segment.edge < 0 ? "the top of layers" : part.name_of_edge(segment.edge);
    t.position = (division.points[static_cast<std::size_t>(segment.from)] +
                  division.points[static_cast<std::size_t>(segment.to)]) *
                 0.5;
    for (const auto& s : finer) t.size = t.size == 0 ? s.size : std::min(t.size, s.size);
    return t;
}

[[noreturn]] void give_up(const MeshingLog::Try& last) {
    Place place;
    place.position = last.position;
    place.boundary = last.boundary;
    throw MeshError(
        fmt::format("no valid mesh after {} tries with ever smaller elements: {}", most_rounds, last.reason), place,
        "look at the part near that point: a sliver, a touching boundary or a very narrow gap must go");
}

// The count on a piece of the part on which the size changes by less than this share is taken from its middle.
constexpr double size_change = 0.3;

double count_in(const std::array<Vec2, 3>& t, const SizeField& sizes, double slope, double enough, int depth) {
    const double area = cross(t[1] - t[0], t[2] - t[0]) / 2;
    const Vec2 centre = (t[0] + t[1] + t[2]) / 3;
    const double h = sizes.at(centre);
    const double reach = std::max({distance(centre, t[0]), distance(centre, t[1]), distance(centre, t[2])});
    const double here = area / (std::numbers::sqrt3 / 4 * h * h);
    // Even where the size is largest there are so many: enough to stop at once where far too small a size is asked.
    const double largest = std::min(sizes.global(), h + slope * reach);
    if (const double sure = area / (std::numbers::sqrt3 / 4 * largest * largest); sure >= enough) return sure;
    if (depth == 0 || here < 0.25 || slope * reach < size_change * h) return here;
    const Vec2 m0 = (t[0] + t[1]) * 0.5, m1 = (t[1] + t[2]) * 0.5, m2 = (t[2] + t[0]) * 0.5;
    double sum = 0;
    for (const auto& part :
         {std::array{t[0], m0, m2}, std::array{m0, t[1], m1}, std::array{m2, m1, t[2]}, std::array{m0, m1, m2}}) {
        if (sum >= enough) break;
        sum += count_in(part, sizes, slope, enough - sum, depth - 1);
    }
    return sum;
}

double count_elements(const Triangulation& mesh, const SizeField& sizes, double enough) {
    double sum = 0;
    for (const auto& t : mesh.triangles()) {
        if (!t.inside()) continue;
        sum += count_in({mesh.point(t.v[0]), mesh.point(t.v[1]), mesh.point(t.v[2])}, sizes, sizes.steepest(),
                        enough - sum, 20);
        if (sum >= enough) break;
    }
    return sum;
}

/// A coarse outline is enough to integrate over the part.
Outline coarse_outline(const Part& part) {
    const double size = part.box.diagonal() / 16;
    Coarse coarse;
    return triangulate(divide_edges(part, SizeField(size, 1.0, size * 1e-3, {})), coarse);
}

}  // namespace

double estimate_elements(const Part& part, const SizeField& sizes, double enough) {
    return count_elements(coarse_outline(part).mesh, sizes, enough);
}

double estimate_elements(const Part& part, const Sizing& sizing, double enough) {
    double sum = estimate_elements(part, sizing.field, enough);
    // Rows of layers, quadrilaterals all, take the place of the triangles that the field would have there.
    constexpr int samples = 32;
    const double of_square = 4 / std::sqrt(3.0);  // equilateral triangles in a square of their side
    for (const auto& rows : sizing.layers) {
        const Curve& curve = part.edge(rows.edge).curve;
        for (int k = 0; k < samples && sum < enough; ++k) {
            const double t = (k + 0.5) / samples, length = norm(curve.derivative(t)) / samples,
                         size = sizing.field.at(curve.point(t));
            sum += length / size * (static_cast<double>(rows.rows) - of_square * rows.total() / size);
        }
    }
    return std::max(sum, 1.0);
}

double check_element_limit(const Part& part, const Sizing& sizing, std::int64_t most_elements) {
    return within_element_limit(estimate_elements(part, sizing, plainly_too_many * static_cast<double>(most_elements)),
                                most_elements);
}

Mesh generate(const Part& part, const Sizing& sizing, std::int64_t most_elements, const MeshSpec& elements,
              MeshingLog* log) {
    const double expected = check_element_limit(part, sizing, most_elements);
    SizeField field = sizing.field;
    const FaceMesher faces(part, elements, static_cast<std::size_t>(most_elements));
    EndFactors end_factors;
    std::vector<EdgeLayers> rows = sizing.layers;
    std::vector<ThinnedPlace> left_out;
    int redivisions = 0;
    Coarse coarse;
    MeshingLog::Try last;
    int shape_tries = 0;
    const auto leave_out_rows = [&](const Vec2& at) {
        for (const auto& r : rows) left_out.push_back({r.rule, r.edge, at, 0});
        rows.clear();
    };
    for (int round = 0; round < most_rounds; ++round) {
        coarse = {};
        Outline outline =
            triangulate(faces.divide(field, sizing.divisions, ends_of_layers(part, rows, end_factors)), coarse);
        if (coarse.segments.empty()) coarse = narrow_places(part, outline);
        if (coarse.segments.empty()) {
            Layers layers;
            if (!rows.empty()) {
                layers = add_layers(part, outline, rows, end_factors);
                for (const auto& [edge, at] : layers.left_out) {
                    for (const auto& r : rows)
                        if (r.edge == edge) left_out.push_back({r.rule, edge, at, 0});
                    rows.erase(std::remove_if(rows.begin(), rows.end(),
                                              [&e = edge](const EdgeLayers& r) { return r.edge == e; }),
                               rows.end());
                }
                if (layers.redivide) {
                    if (++redivisions == most_redivisions) leave_out_rows(outline.division.points.front());
                    --round;  // this is no failed try
                    continue;
                }
            }
            outline.mesh.reserve(outline.mesh.points().size() + static_cast<std::size_t>(room_share * expected));
            CornerMesh corners = faces.fill(outline, field, coarse);
            if (coarse.segments.empty() && shape_tries < most_shape_tries) {
                coarse = thin_elements(part, outline);
                if (!coarse.segments.empty()) ++shape_tries;
            }
            if (coarse.segments.empty()) {
                corners.append(layers.rows, {}, outline.division.points.size(), {});
                Mesh mesh = assemble(part, outline.division, std::move(corners), elements.order);
                coarse = bent_elements(mesh, outline.division, part);
                if (coarse.segments.empty()) {
                    if (log) {
                        log->thinned = layers.thinned;
                        log->thinned.insert(log->thinned.end(), left_out.begin(), left_out.end());
                    }
                    return mesh;
                }
            }
        }
        const auto finer = halved(coarse, outline.division);
        last = failed_try(part, outline.division, coarse, finer);
        if (log) log->tries.push_back(last);
        field = field.refined(finer);
        if (round + 1 == most_rounds && !rows.empty()) {  // once more
            leave_out_rows(last.position.plane());
            field = sizing.field;
            round = -1;
        }
    }
    give_up(last);
}

}  // namespace dotsift
