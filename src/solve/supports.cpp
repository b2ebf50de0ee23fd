#include "solve/supports.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/errors.hpp"
#include "solve/side_geometry.hpp"

namespace dotsift {

namespace {

// Directions closer than this (sine of the angle between them) count as the same.
constexpr double same_direction = 1e-6;
// Values that differ by less, relative to the larger one, come from rounding in formulas.
constexpr double same_value = 1e-8;

struct Demand {
    Vec2 direction;
    double value;
    int support;
};

NodeFreedom reduce(const std::vector<Demand>& demands, const Vec2& position, const Study& study) {
    NodeFreedom f;
    f.support = demands.front().support;
    const Demand& first = demands.front();
    f.free = 1;
    f.given = first.direction * first.value;
    f.direction[0] = turned_left(first.direction);
    const Demand* second = nullptr;
    for (const auto& d : demands) {
        if (std::fabs(cross(first.direction, d.direction)) > same_direction) {
            second = &d;
            break;
        }
    }
    if (second) {
        const double det = cross(first.direction, second->direction);
        f.given = (turned_left(second->direction) * -first.value + turned_left(first.direction) * second->value) / det;
        f.free = 0;
    }
    for (const auto& d : demands) {
        const double along = f.free == 1 && std::fabs(cross(first.direction, d.direction)) > same_direction
                                 ? d.value
                                 : dot(f.given, d.direction);
        const double scale = std::max({std::fabs(d.value), norm(f.given), 0.0});
        if (std::fabs(along - d.value) <= same_value * scale) continue;
        const auto& a = study.supports[static_cast<std::size_t>(first.support)];
        const auto& b = study.supports[static_cast<std::size_t>(d.support)];
        Place place;
        place.file = study.path.string();
        place.line = b.where.line;
        place.column = b.where.column;
        place.position = position;
        throw InputError(
            fmt::format(
                "support.{} and support.{} contradict each other: they give the same point different displacements",
                a.name, b.name),
            place, "let only one of them hold that direction there");
    }
    return f;
}

}  // namespace

std::vector<NodeFreedom> node_freedoms(const Mesh& mesh, const Study& study) {
    std::map<int, std::vector<Demand>> demands;
    for (std::size_t s = 0; s < study.supports.size(); ++s) {
        const auto& support = study.supports[s];
        const int index = static_cast<int>(s);
        std::array<std::optional<FormulaEvaluator>, 2> value;
        for (std::size_t axis = 0; axis < 2; ++axis)
            if (support.displacement[axis]) value[axis].emplace(*support.displacement[axis], study.path.string());
        const auto hold_node = [&](int n, const Vec2& normal) {
            auto& list = demands[n];
            if (support.hold == Hold::symmetry) {
                list.push_back({normal, 0, index});
                return;
            }
            for (std::size_t axis = 0; axis < 2; ++axis) {
                const Vec2 direction = axis == 0 ? Vec2{{1, 0}} : Vec2{{0, 1}};
                if (support.hold == Hold::fixed)
                    list.push_back({direction, 0, index});
                else if (value[axis])
                    list.push_back({direction,
                                    (*value[axis])({mesh.nodes[static_cast<std::size_t>(n)], normal, support.about}),
                                    index});
            }
        };
        if (support.at) {
            std::size_t nearest = 0;  // the mesh has a node at every corner of the outline
            for (std::size_t n = 1; n < mesh.nodes.size(); ++n)
                if (distance(mesh.nodes[n], *support.at) < distance(mesh.nodes[nearest], *support.at)) nearest = n;
            hold_node(static_cast<int>(nearest), Vec2{});
            continue;
        }
        for (const auto& side : mesh.boundary) {
            if (!mesh.side_fits(side, support.on)) continue;
            const Vec2 along = mesh.nodes[static_cast<std::size_t>(side.nodes[1])] -
                               mesh.nodes[static_cast<std::size_t>(side.nodes[0])];
            const Vec2 normal = -turned_left(along) / norm(along);
            for (std::size_t i = 0; i < side.count(); ++i) hold_node(side.nodes[i], normal);
        }
    }
    std::vector<NodeFreedom> freedoms(mesh.nodes.size());
    for (const auto& [n, list] : demands)
        freedoms[static_cast<std::size_t>(n)] = reduce(list, mesh.nodes[static_cast<std::size_t>(n)], study);
    return freedoms;
}

}  // namespace dotsift
