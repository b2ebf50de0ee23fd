#include "quality/make_mesh.hpp"

namespace dotsift {

MadeMesh make_mesh(const Study& study, const Part& part, const Sizing& sizing, MeshingLog& log) {
    MadeMesh made;
    made.mesh = generate(part, sizing, study.sizes.most_elements, study.mesh, &log);
    made.wanted.reserve(made.mesh.element_count());
    for (std::size_t e = 0; e < made.mesh.element_count(); ++e)
        made.wanted.push_back(sizing.field.at(made.mesh.centre_of(e)));
    made.repair = repair(made.mesh, made.wanted, study.quality, &part);
    return made;
}

}  // namespace dotsift
