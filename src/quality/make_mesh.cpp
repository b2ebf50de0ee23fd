#include "quality/make_mesh.hpp"

#include "mesh/end_normals.hpp"
#include "mesh/solid/generate_solid.hpp"

namespace dotsift {

namespace {

// An element of less than this share of the size asked for is no scatter: something beside it had to be so fine.
constexpr double needed_share = 0.8;

/// Where the old mesh had to be finer than it was asked to be, as along tight bends, a zone that asks for smaller sizes
/// still has to.
SizeField no_coarser(const Mesh& old, const std::vector<double>& old_wanted, const std::vector<char>& anew,
                     const SizeField& field) {
    std::vector<SizeSource> needed;
    for (std::size_t e = 0; e < old_wanted.size(); ++e) {
        if (!anew[e] || old.row[e] > 0) continue;
        const Vec2 centre = old.centre_of(e);
        const double asked = field.at(centre), had = old.size_of(e);
        if (asked >= old_wanted[e] || had >= needed_share * asked) continue;
        SizeSource source;
        source.corners = {centre, {}, {}};
        source.size = had;
        source.reach = had / 2;
        needed.push_back(source);
    }
    return needed.empty() ? field : field.with(needed);
}

}  // namespace

void ready_for_solving(const Study& study, const Part& part, Mesh& mesh) {
    if (study.plane == Plane::axisymmetric) put_on_axis(mesh, same_point_share * part.box.diagonal());
    mesh.end_normals = end_normals(part, mesh);
}

MadeMesh make_mesh(const Study& study, const Part& part, const Sizing& sizing, MeshingLog& log) {
    MadeMesh made;
    made.mesh = generate(part, sizing, study.sizes.most_elements, study.mesh, &log);
    made.wanted.reserve(made.mesh.element_count());
    for (std::size_t e = 0; e < made.mesh.element_count(); ++e)
        made.wanted.push_back(sizing.field.at(made.mesh.centre_of(e)));
    made.repair = repair(made.mesh, made.wanted, study.quality, &part);
    ready_for_solving(study, part, made.mesh);
    return made;
}

MadeMeshIn<3> make_mesh(const Study& study, const SolidPart& part, const SizingIn<3>& sizing, MeshingLog& log) {
    MadeMeshIn<3> made;
    made.mesh = generate_solid(part, sizing, study.sizes.most_elements, study.mesh.order, &log);
    made.wanted.reserve(made.mesh.element_count());
    for (std::size_t e = 0; e < made.mesh.element_count(); ++e)
        made.wanted.push_back(sizing.field.at(made.mesh.centre_of(e)));
    return made;
}

MadeMesh remake_mesh(const Study& study, const Part& part, const Mesh& old, const std::vector<double>& old_wanted,
                     const std::vector<char>& anew, const SizeField& asked, RemeshCounts& counts) {
    MadeMesh made;
    const SizeField field = no_coarser(old, old_wanted, anew, asked);
    made.mesh = remesh(part, old, anew, field, study.mesh, study.sizes.most_elements, counts);
    made.wanted.reserve(made.mesh.element_count());
    for (std::size_t e = 0; e < made.mesh.element_count(); ++e) {
        const bool as_before = e < counts.kept_elements && !old_wanted.empty();
        made.wanted.push_back(as_before ? old_wanted[static_cast<std::size_t>(counts.kept[e])]
                                        : field.at(made.mesh.centre_of(e)));
    }
    made.repair = repair(made.mesh, made.wanted, study.quality, &part, counts.kept_elements);
    ready_for_solving(study, part, made.mesh);
    return made;
}

}  // namespace dotsift
