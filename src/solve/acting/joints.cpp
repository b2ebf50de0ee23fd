#include "solve/acting/joints.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "base/errors.hpp"
#include "mesh/side_views.hpp"
#include "solve/acting/side_geometry.hpp"

namespace dotsift {

std::vector<SourcedJoint> foundations(const Mesh& mesh, const Study& study, const Laws& laws) {
    std::vector<SourcedJoint> joints;
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const auto& support = study.supports[s];
        if (!support.founded()) continue;
        const std::string file = study.path.string();
        std::optional<FormulaEvaluator> across, along;
        if (support.normal_stiffness) across.emplace(*support.normal_stiffness, file);
        if (support.tangential_stiffness) along.emplace(*support.tangential_stiffness, file);
        const Meant meant(mesh, support.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const std::size_t n = side.count();
            SourcedJoint j;
            j.support = static_cast<int>(s);
            for (std::size_t i = 0; i < n; ++i)
                for (int c = 0; c < displacement_components; ++c)
                    j.joint.dofs.push_back(side.nodes[i] * displacement_components + c);
            j.joint.matrix.assign(4 * n * n, 0.0);
            for (const auto& p : side_points(mesh, side)) {
                const FormulaPlace place{p.position, p.normal, support.about};
                const double kn = across ? (*across)(place) : 0, kt = along ? (*along)(place) : 0;
                if (kn < 0 || kt < 0) {
                    Place where = place_in(file, support.where);
                    where.position = p.position;
                    throw InputError(
                        fmt::format("support.{}: the stiffness of the foundation is negative", support.name), where,
                        "it must be 0 or more everywhere");
                }
                const Vec2 t = turned_left(p.normal);
                const double w = p.length * laws.depth(mesh.region[static_cast<std::size_t>(side.element)], p.position);
                for (std::size_t a = 0; a < 2 * n; ++a)
                    for (std::size_t b = 0; b < 2 * n; ++b)
                        j.joint.matrix[a * 2 * n + b] +=
                            w * p.n[a / 2] * p.n[b / 2] *
                            (kn * p.normal[a % 2] * p.normal[b % 2] + kt * t[a % 2] * t[b % 2]);
            }
            joints.push_back(std::move(j));
        }
    }
    return joints;
}

std::vector<SourcedJoint> transfers(const Mesh& mesh, const Study& study, const Laws& laws) {
    std::vector<SourcedJoint> joints;
    const auto depth = [&](const BoundarySide& side, const Vec2& p) {
        return laws.depth(mesh.region[static_cast<std::size_t>(side.element)], p);
    };
    int index = -1;
    for (const auto& load : study.loads) {
        if (!is_mechanical(load.kind)) ++index;
        if (load.kind != LoadKind::transfer) continue;
        const FormulaEvaluator coefficient(load.components[0], study.path.string());
        const Meant meant(mesh, load.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const std::size_t n = side.count();
            SourcedJoint j;
            j.load = index;
            for (std::size_t i = 0; i < n; ++i)
                j.joint.dofs.push_back(slot_of(mesh, static_cast<std::size_t>(side.element), side.nodes[i]));
            j.joint.matrix.assign(n * n, 0.0);
            for (const auto& p : side_points(mesh, side)) {
                const double h = coefficient({p.position, p.normal, load.about});
                if (h < 0) {
                    Place where = place_in(study.path, load.where);
                    where.position = p.position;
                    throw InputError(fmt::format("load.{}: the transfer coefficient is negative", load.name), where,
                                     "it must be 0 or more everywhere");
                }
                const double w = p.length * depth(side, p.position) * h;
                for (std::size_t a = 0; a < n; ++a)
                    for (std::size_t b = 0; b < n; ++b) j.joint.matrix[a * n + b] += w * p.n[a] * p.n[b];
            }
            joints.push_back(std::move(j));
        }
    }
    if (study.resistances.empty()) return joints;
    std::vector<Meant> meant;
    for (const auto& r : study.resistances) meant.emplace_back(mesh, r.on);
    for (const auto& side : mesh.boundary) {
        const auto found = std::find_if(meant.begin(), meant.end(), [&](const Meant& r) { return r.side(side); });
        if (found == meant.end()) continue;
        const auto spec = study.resistances.begin() + (found - meant.begin());
        const ElementSide far = beyond(mesh, side);
        if (!far ||
            mesh.region[static_cast<std::size_t>(far.element)] == mesh.region[static_cast<std::size_t>(side.element)])
            continue;  // told by the check of the study
        const std::size_t n = side.count();
        SourcedJoint j;
        for (std::size_t i = 0; i < n; ++i)
            j.joint.dofs.push_back(slot_of(mesh, static_cast<std::size_t>(side.element), side.nodes[i]));
        for (std::size_t i = 0; i < n; ++i)
            j.joint.dofs.push_back(slot_of(mesh, static_cast<std::size_t>(far.element), side.nodes[i]));
        j.joint.matrix.assign(4 * n * n, 0.0);
        for (const auto& p : side_points(mesh, side)) {
            const double w = p.length * depth(side, p.position) / spec->resistance;
            for (std::size_t a = 0; a < 2 * n; ++a)
                for (std::size_t b = 0; b < 2 * n; ++b)
                    j.joint.matrix[a * 2 * n + b] += ((a < n) == (b < n) ? w : -w) * p.n[a % n] * p.n[b % n];
        }
        joints.push_back(std::move(j));
    }
    return joints;
}

}  // namespace dotsift
