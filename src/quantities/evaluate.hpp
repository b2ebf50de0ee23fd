#pragma once
// Solution and recovered stress -> the quantities that the study watches.

#include <optional>
#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/elasticity.hpp"
#include "study/study.hpp"

namespace dotsift {

struct QuantityValue {
    std::string name;
    double value = 0;
    double scale = 0;              ///< size of the terms it is made of; a value far below it is rounding
    std::optional<Vec2> position;  ///< of a maximum, minimum or point value
};

/// A scalar field made from displacement or recovered stress, at a point of an element.
double field_at(Field field, const Mesh& mesh, const std::vector<Vec2>& displacement,
                const std::vector<Plane3>& recovered, const RegionLaws& laws, std::size_t element,
                const ElementPoint& point);

/// The same at every slot (see Mesh).
std::vector<double> slot_field(Field field, const Mesh& mesh, const std::vector<Vec2>& displacement,
                               const std::vector<Plane3>& recovered, const RegionLaws& laws);

struct Extreme {
    double value = 0;
    Vec2 position;
};
/// Largest (or smallest) value over the part or, if patterns are given, over boundaries or regions. The field's
/// components are interpolated from the nodes; besides the nodes, eight intervals a side and a lattice of 15 points in
/// each element near the top are searched.
Extreme find_extreme(Field field, bool largest, const Mesh& mesh, const std::vector<Vec2>& displacement,
                     const std::vector<Plane3>& recovered, const RegionLaws& laws, const std::vector<std::string>& on);

/// All quantities of the study in its order. Throws InputError with the place if a formula gives no number.
std::vector<QuantityValue> evaluate_quantities(const Study& study, const Mesh& mesh, const Solution& solution,
                                               const std::vector<Plane3>& recovered);

}  // namespace dotsift
