#include "solve/acting/solid_supports.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "mesh/side_meeting.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

namespace {

// Normals at a node that agree to this are one.
constexpr double same_normal = 1e-9;
// Components of a direction below this are rounding.
constexpr double least_component = 1e-14;

/// What a support holds, by node, with the outward normals of its faces there.
using HeldNodes = std::map<std::int32_t, std::vector<Vec3>>;

/// `numbers`: the mesh's connectivity, or its slots.
HeldNodes held_nodes(const SolidMesh& mesh, const SupportSpec& support, std::span<const std::int32_t> numbers) {
    HeldNodes held;
    if (support.at) {  // has no normal; nodes at which slots are single have their number
        held[static_cast<std::int32_t>(nearest_node<3>(mesh, *support.at))] = {};
        return held;
    }
    const Meant meant(mesh, support.on);
    for (std::size_t b = 0; b < mesh.boundary.size(); ++b) {
        const BoundarySide& side = mesh.boundary[b];
        if (!meant.side(side)) continue;
        const auto e = static_cast<std::size_t>(side.element);
        const auto& local = side_nodes(mesh.kinds[e], side.side);
        for (std::size_t k = 0; k < local.size(); ++k) {
            Vec3 normal{};
            if (!mesh.end_normals.empty()) {
                normal = mesh.end_normals[b][k];
            } else {
                const auto x = mesh.positions(e);
                const Vec3 n = cross(x[local[1]] - x[local[0]], x[local[2]] - x[local[0]]);
                normal = n / norm(n);
            }
            auto& normals = held[number_on_side(mesh, numbers, side.element, side.side, k)];
            const bool known = std::any_of(normals.begin(), normals.end(),
                                           [&](const Vec3& n) { return dot(n, normal) > 1 - same_normal; });
            if (!known) normals.push_back(normal);
        }
    }
    return held;
}

/// A point has none.
Vec3 first_normal(const std::vector<Vec3>& normals) {
    return normals.empty() ? Vec3{} : normals.front();
}

std::vector<double> each_case(double value, const std::string& support, const std::vector<CaseSpec>& cases) {
    std::vector<double> out;
    out.reserve(cases.size());
    for (const auto& c : cases) out.push_back(value == 0 ? 0 : value * c.of_other(support));
    return out;
}

/// direction . displacement = value, the largest component first.
ConstraintRow row_along(std::int32_t node, const Vec3& direction, std::vector<double> value, int source) {
    ConstraintRow row{{}, std::move(value), source};
    for (int c = 0; c < 3; ++c)
        if (std::fabs(direction[static_cast<std::size_t>(c)]) > least_component)
            row.terms.emplace_back(3 * node + c, direction[static_cast<std::size_t>(c)]);
    std::stable_sort(row.terms.begin(), row.terms.end(),
                     [](const auto& a, const auto& b) { return std::fabs(a.second) > std::fabs(b.second) + 1e-9; });
    return row;
}

}  // namespace

std::vector<ConstraintRow> solid_displacement_rows(const SolidMesh& mesh, const Study& study,
                                                   const std::vector<CaseSpec>& cases) {
    std::vector<ConstraintRow> rows;
    const std::string file = study.path.string();
    const std::vector<double> none(cases.size(), 0.0);
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const SupportSpec& support = study.supports[s];
        if (!support.mechanical()) continue;
        const int source = static_cast<int>(s);
        std::array<std::optional<FormulaEvaluator>, 3> along;
        for (std::size_t c = 0; c < 3; ++c)
            if (support.displacement[c]) along[c].emplace(*support.displacement[c], file, space_names());
        std::optional<FormulaEvaluator> across;
        if (support.normal_displacement) across.emplace(*support.normal_displacement, file, space_names());
        for (const auto& [node, normals] : held_nodes(mesh, support, mesh.connectivity)) {
            const Vec3& x = mesh.nodes[static_cast<std::size_t>(node)];
            for (std::size_t c = 0; c < 3; ++c) {
                Vec3 axis{};
                axis[c] = 1;
                if (support.hold == Hold::fixed) rows.push_back(row_along(node, axis, none, source));
                if (along[c])
                    rows.push_back(row_along(
                        node, axis,
                        each_case((*along[c])(FormulaPlaceIn<3>{x, first_normal(normals), in_space(support.about)}),
                                  support.name, cases),
                        source));
            }
            for (const Vec3& n : normals) {
                if (support.hold == Hold::symmetry) rows.push_back(row_along(node, n, none, source));
                if (across)
                    rows.push_back(row_along(
                        node, n,
                        each_case((*across)(FormulaPlaceIn<3>{x, n, in_space(support.about)}), support.name, cases),
                        source));
                if (support.hold != Hold::antisymmetry) continue;
                // Two directions across the normal.
                const Vec3 apart = std::fabs(n[0]) < 0.6 ? Vec3{{1, 0, 0}} : Vec3{{0, 1, 0}};
                const Vec3 first = cross(n, apart) / norm(cross(n, apart));
                rows.push_back(row_along(node, first, none, source));
                rows.push_back(row_along(node, cross(n, first), none, source));
            }
        }
    }
    return rows;
}

std::vector<ConstraintRow> solid_potential_rows(const SolidMesh& mesh, const Study& study,
                                                const std::vector<CaseSpec>& cases) {
    std::vector<ConstraintRow> rows;
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const SupportSpec& support = study.supports[s];
        if (!support.potential) continue;
        const FormulaEvaluator value(*support.potential, study.path.string(), space_names());
        for (const auto& [slot, normals] : held_nodes(mesh, support, mesh.slots)) {
            const Vec3& x = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[static_cast<std::size_t>(slot)])];
            rows.push_back({{{slot, 1.0}},
                            each_case(value(FormulaPlaceIn<3>{x, first_normal(normals), in_space(support.about)}),
                                      support.name, cases),
                            static_cast<int>(s)});
        }
    }
    return rows;
}

}  // namespace dotsift
