#include "solve/acting/joints.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "base/errors.hpp"
#include "mesh/side_views.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

namespace {

/// A stiffness or coefficient below zero.
template <int D>
[[noreturn]] void refuse_negative(const Study& study, Where where, const Vec<D>& at, const std::string& what) {
    Place place = place_in(study.path, where);
    place.position = at;
    throw InputError(what + " is negative", place, "it must be 0 or more everywhere");
}

/// How the stiffness along a boundary takes part in the component i along j.
double along(const Vec2& n, std::size_t i, std::size_t j) {
    const Vec2 t = turned_left(n);
    return t[i] * t[j];
}
double along(const Vec3& n, std::size_t i, std::size_t j) {
    return (i == j ? 1 : 0) - n[i] * n[j];
}

}  // namespace

template <int D>
std::vector<SourcedJoint> foundations(const MeshIn<D>& mesh, const Study& study, const LawsIn<D>& laws) {
    constexpr std::size_t d = D;
    std::vector<SourcedJoint> joints;
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const auto& support = study.supports[s];
        if (!support.founded()) continue;
        const std::string file = study.path.string();
        std::optional<FormulaEvaluator> across, beside;
        if (support.normal_stiffness) across.emplace(*support.normal_stiffness, file, names_of_place<D>());
        if (support.tangential_stiffness) beside.emplace(*support.tangential_stiffness, file, names_of_place<D>());
        const Meant meant(mesh, support.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const std::size_t n = count_on_side(mesh, side);
            SourcedJoint j;
            j.support = static_cast<int>(s);
            for (std::size_t i = 0; i < n; ++i)
                for (int c = 0; c < D; ++c)
                    j.joint.dofs.push_back(number_on_side(mesh, mesh.connectivity, side.element, side.side, i) * D + c);
            j.joint.matrix.assign(d * d * n * n, 0.0);
            for (const auto& p : load_points(mesh, side)) {
                const FormulaPlaceIn<D> place{p.position, p.normal, origin_of<D>(support.about)};
                const double kn = across ? (*across)(place) : 0, kt = beside ? (*beside)(place) : 0;
                if (kn < 0 || kt < 0)
                    refuse_negative<D>(study, support.where, p.position,
                                       fmt::format("support.{}: the stiffness of the foundation", support.name));
                const double w = area_at(mesh, laws, side, p);
                for (std::size_t a = 0; a < d * n; ++a)
                    for (std::size_t b = 0; b < d * n; ++b)
                        j.joint.matrix[a * d * n + b] +=
                            w * p.n[a / d] * p.n[b / d] *
                            (kn * p.normal[a % d] * p.normal[b % d] + kt * along(p.normal, a % d, b % d));
            }
            joints.push_back(std::move(j));
        }
    }
    return joints;
}

template <int D>
std::vector<SourcedJoint> transfers(const MeshIn<D>& mesh, const Study& study, const LawsIn<D>& laws) {
    std::vector<SourcedJoint> joints;
    int index = -1;
    for (const auto& load : study.loads) {
        if (!is_mechanical(load.kind)) ++index;
        if (load.kind != LoadKind::transfer) continue;
        const FormulaEvaluator coefficient(load.components[0], study.path.string(), names_of_place<D>());
        const Meant meant(mesh, load.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const std::size_t n = count_on_side(mesh, side);
            SourcedJoint j;
            j.load = index;
            for (std::size_t i = 0; i < n; ++i)
                j.joint.dofs.push_back(number_on_side(mesh, mesh.slots, side.element, side.side, i));
            j.joint.matrix.assign(n * n, 0.0);
            for (const auto& p : load_points(mesh, side)) {
                const double h = coefficient(FormulaPlaceIn<D>{p.position, p.normal, origin_of<D>(load.about)});
                if (h < 0)
                    refuse_negative<D>(study, load.where, p.position,
                                       fmt::format("load.{}: the transfer coefficient", load.name));
                const double w = area_at(mesh, laws, side, p) * h;
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
        const std::size_t n = count_on_side(mesh, side);
        SourcedJoint j;
        for (std::size_t i = 0; i < n; ++i)
            j.joint.dofs.push_back(number_on_side(mesh, mesh.slots, side.element, side.side, i));
        for (std::size_t i = 0; i < n; ++i)
            j.joint.dofs.push_back(slot_of(mesh, static_cast<std::size_t>(far.element),
                                           number_on_side(mesh, mesh.connectivity, side.element, side.side, i)));
        j.joint.matrix.assign(4 * n * n, 0.0);
        for (const auto& p : load_points(mesh, side)) {
            const double w = area_at(mesh, laws, side, p) / spec->resistance;
            for (std::size_t a = 0; a < 2 * n; ++a)
                for (std::size_t b = 0; b < 2 * n; ++b)
                    j.joint.matrix[a * 2 * n + b] += ((a < n) == (b < n) ? w : -w) * p.n[a % n] * p.n[b % n];
        }
        joints.push_back(std::move(j));
    }
    return joints;
}

std::vector<Joint> bare(const std::vector<SourcedJoint>& joints) {
    std::vector<Joint> out;
    out.reserve(joints.size());
    for (const auto& j : joints) out.push_back(j.joint);
    return out;
}

template std::vector<SourcedJoint> foundations<2>(const Mesh&, const Study&, const Laws&);
template std::vector<SourcedJoint> foundations<3>(const SolidMesh&, const Study&, const SolidLaws&);
template std::vector<SourcedJoint> transfers<2>(const Mesh&, const Study&, const Laws&);
template std::vector<SourcedJoint> transfers<3>(const SolidMesh&, const Study&, const SolidLaws&);

}  // namespace dotsift
