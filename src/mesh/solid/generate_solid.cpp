#include "mesh/solid/generate_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_set>

#include "base/errors.hpp"
#include "mesh/length_measure.hpp"
#include "mesh/solid/assemble_solid.hpp"
#include "mesh/solid/boundary.hpp"
#include "mesh/solid/fill_bodies.hpp"
#include "mesh/solid/improve_bodies.hpp"

namespace dotsift {

namespace {

constexpr int most_tries = 16;
constexpr int tries_before_recovery = 7;
// Other points may leave no element flatter than the first; it must be flatter than rounding to be no element at all.
constexpr int most_flat_tries = 3;
constexpr double nearly_flat = 0.04, rounding = 1e-9;
constexpr const char* lies_flat = "an element lies flat on a face";
constexpr int most_bent_tries = 2;  // then edges of bent elements become straight: at a tip smaller ones are bent alike

void check_edges(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most) {
    double pieces = 0;
    for (const auto& e : part.edges) pieces += measure_length(e.curve, sizing.field).sum.back();
    for (const auto& d : sizing.divisions) pieces += static_cast<double>(d.count);
    if (pieces > static_cast<double>(most))
        throw InputError(fmt::format("the sizes ask for about {:.3g} elements along the edges alone, more than the "
                                     "limit of {}",
                                     pieces, most),
                         {}, "ask for larger sizes or raise size.most_elements");
}

/// Elements flatter than that, which improvement could not mend.
void find_flat(const BodyMesh& bodies, double flatter_than, CoarsePlaces& coarse) {
    for (std::size_t t = 0; t < bodies.elements.size(); ++t) {
        if (!bodies.elements[t].alive() || bodies.quality(static_cast<std::int32_t>(t)) > flatter_than) continue;
        const auto c = bodies.corners(static_cast<std::int32_t>(t));
        coarse.add(c[0], c[1], lies_flat, "");
    }
}

enum class Inside { filled, empty };

/// What is still asked of a mesh, and what is done about it.
struct Patience {
    int tries = 0, flat_tries = 0, bent_tries = 0;
    [[nodiscard]] bool recovers() const { return tries >= tries_before_recovery; }
    [[nodiscard]] bool straightens() const { return bent_tries >= most_bent_tries; }
    [[nodiscard]] double flatter_than() const { return flat_tries < most_flat_tries ? nearly_flat : rounding; }
};

/// The mesh, unless something turns out too coarse.
SolidMesh try_once(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most, int degree, Inside inside,
                   const Patience& patience, CoarsePlaces& coarse, MeshingLog* log) {
    SurfaceMesh surface = mesh_surface(part, sizing, static_cast<std::size_t>(most), coarse);
    if (!coarse.finer.empty()) return {};
    std::vector<std::int32_t> vertex;
    Tetrahedralisation tetrahedra = tetrahedralise(surface.points, vertex);
    set_boundary(part, surface, vertex, tetrahedra, patience.recovers(), coarse);
    if (!coarse.finer.empty()) return {};
    if (inside == Inside::filled) fill_bodies(tetrahedra, sizing.field, 3 * static_cast<std::size_t>(most) + 1000);
    BodyMesh bodies(tetrahedra, surface, vertex);
    if (inside == Inside::filled) {
        std::unordered_set<std::uint64_t> on_edges;
        for (const auto& p : surface.pieces) on_edges.insert(pair_of(p.from, p.to));
        improve_bodies(bodies, [&](std::int32_t a, std::int32_t b) { return on_edges.count(pair_of(a, b)) > 0; });
        find_flat(bodies, patience.flatter_than(), coarse);
        if (!coarse.finer.empty()) return {};
    }
    const auto point = bodies.compact();
    SolidMesh mesh = assemble_solid(part, bodies, surface.pieces, point, degree);
    if (inside == Inside::empty) return mesh;
    if (patience.straightens()) {
        Vec3 at{};
        const std::size_t count = straighten_bent(mesh, at);
        if (log) {
            log->straightened = count;
            log->straightened_at = at;
        }
    }
    find_bent(part, mesh, coarse);
    return mesh;
}

SolidMesh generate(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most, int degree, Inside inside,
                   MeshingLog* log) {
    SizingIn<3> now = sizing;
    MeshingLog::Try last;
    for (Patience patience; patience.tries < most_tries; ++patience.tries) {
        CoarsePlaces coarse;
        SolidMesh mesh = try_once(part, now, most, degree, inside, patience, coarse, log);
        if (coarse.finer.empty()) return mesh;
        if (mesh.element_count() > 0) ++patience.bent_tries;
        if (coarse.reason == lies_flat) ++patience.flat_tries;
        last = {coarse.reason, coarse.where, coarse.position, coarse.finer.size(), coarse.finer.front().size};
        for (const auto& s : coarse.finer) last.size = std::min(last.size, s.size);
        if (log) log->tries.push_back(last);
        now.field = now.field.refined(std::move(coarse.finer));
    }
    Place place;
    place.position = last.position;
    place.boundary = last.boundary;
    throw MeshError(
        fmt::format("no valid mesh after {} tries with ever smaller elements: {}", most_tries, last.reason), place,
        sizing.divisions.empty()
            ? "look at the part near that point: a sliver, a touching face or a very narrow gap must go"
            : "look at the part near that point; divisions are kept as they are given: more of them may do");
}

}  // namespace

SolidMesh generate_solid(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most, int degree,
                         MeshingLog* log) {
    check_edges(part, sizing, most);
    check_element_limit(part, sizing.field, most);
    return generate(part, sizing, most, degree, Inside::filled, log);
}

SolidMesh generate_outside(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most) {
    check_edges(part, sizing, most);
    return generate(part, sizing, most, 2, Inside::empty, nullptr);
}

}  // namespace dotsift
