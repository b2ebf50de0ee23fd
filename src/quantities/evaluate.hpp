#pragma once
// Solution and recovered fields -> the quantities that the study watches.

#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "mesh/locate.hpp"
#include "mesh/mesh.hpp"
#include "recovery/recover.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A load case with its recovered fields, at the slots (see Mesh).
struct CaseFields {
    Solution solution;
    RecoveredStress stress{};  ///< empty: not solved for
    RecoveredFlux flux{};      ///< empty: not solved for
};

/// The place of a load case; the first where it is not among them, as where a study has no cases.
std::size_t place_of_case(const std::vector<CaseFields>& cases, const std::string& load_case);

/// What fields are made from.
struct FieldSource {
    const Mesh& mesh;
    const Laws& laws;
    const CaseFields& fields;
    Vec2 about{};  ///< centre of radial and tangential components
    FieldOrigin origin = FieldOrigin::recovered;
    Vec2 datum{};         ///< displacements are less this one
    bool finest = false;  ///< recovered stress and flux as accurate as the polynomials allow, where these are there
};

/// Which end of a path counts for a linearised stress: the one that the quantity names, else the first one unless the
/// other's value is clearly larger, so that the choice is the same on every mesh.
bool first_end_counts(const QuantitySpec& quantity, double first, double last);

/// A scalar field made from displacement, recovered stress, potential or recovered flux, at a point of an element.
double field_at(Field field, const FieldSource& source, std::size_t element, const ElementPoint& point);

/// Its derivatives by what it is made of; by central differences, exact for the linear fields.
struct FieldGradient {
    Vec2 displacement{}, flux{};
    Tensor4 stress{};
    double potential = 0, temperature_change = 0, stiffness = 0;  ///< the last two at the same stress
};
FieldGradient field_gradient(Field field, const FieldSource& source, std::size_t element, const ElementPoint& point);

/// Calls act(element, point, weight) over the area or the boundaries that a quantity names.
void for_each_place(const QuantitySpec& quantity, const Mesh& mesh,
                    const std::function<void(std::size_t, const ElementPoint&, double)>& act);

/// The same at every slot (see Mesh).
std::vector<double> slot_field(Field field, const FieldSource& source);

struct Extreme {
    double value = 0;
    Vec2 position;
    std::size_t element = 0;
    Vec2 xi;  ///< reference coordinates in it
};
/// Largest (or smallest) value over the part or, if patterns are given, over boundaries or regions; of these, seen from
/// the regions `inside`, or from both sides. Searched are eight intervals a side and a lattice of 15 points in each
/// element near the top, and from the best of these points on the field itself. Of the elements' own fields, the nodes
/// or the integration points of each element are.
Extreme find_extreme(Field field, bool largest, const FieldSource& source, const std::vector<std::string>& on,
                     const std::vector<std::string>& inside = {});

struct QuantityValue {
    std::string name;
    double value = 0;
    double scale = 0;              ///< size of the terms it is made of; a value far below it is rounding
    std::optional<Vec2> position;  ///< of a maximum, minimum or point value
    /// Of a stress or flux at a place: how far the polynomials round the corners of its element lie from the value.
    /// NaN: no such place, or not known.
    double spread = std::numeric_limits<double>::quiet_NaN();
};

/// All quantities of the study in its order. Throws InputError with the place if a formula gives no number.
std::vector<QuantityValue> evaluate_quantities(const Study& study, const Mesh& mesh, const Laws& laws,
                                               const std::vector<CaseFields>& cases);

/// How a quantity is labelled: the unit of its field, of its integral.
std::string unit_of(const Study& study, const QuantitySpec& quantity);
std::string unit_of(const Study& study, Field field);

}  // namespace dotsift
