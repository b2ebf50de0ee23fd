#pragma once
// Solution and recovered fields -> the quantities that the study watches.

#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "mesh/locate.hpp"
#include "mesh/mesh.hpp"
#include "quantities/extreme.hpp"
#include "quantities/field_values.hpp"

namespace dotsift {

/// The place of a load case; the first where it is not among them, as where a study has no cases.
template <int D>
std::size_t place_of_case(const std::vector<CaseFieldsIn<D>>& cases, const std::string& load_case);

/// Which end of a path counts for a linearised stress: the one that the quantity names, else the first one unless the
/// other's value is clearly larger, so that the choice is the same on every mesh.
bool first_end_counts(const QuantitySpec& quantity, double first, double last);

/// Calls act(element, point, weight) over the area, volume or boundaries that a quantity names.
template <int D>
void for_each_place(const QuantitySpec& quantity, const MeshIn<D>& mesh,
                    const std::function<void(std::size_t, const ElementPointIn<D>&, double)>& act);

/// Of a quantity's field over these, and how large they are.
struct IntegralOverPlaces {
    double sum = 0, size = 0;
};
template <int D>
IntegralOverPlaces integral_over(const QuantitySpec& quantity, const FieldSourceIn<D>& source);

struct QuantityValue {
    std::string name;
    double value = 0;
    double scale = 0;              ///< size of the terms it is made of; a value far below it is rounding
    std::optional<Vec3> position;  ///< of a maximum, minimum or point value
    /// Of a stress or flux at a place: how far the polynomials round the corners of its element lie from the value.
    /// NaN: no such place, or not known.
    double spread = std::numeric_limits<double>::quiet_NaN();
};

/// All quantities of the study in its order. Throws InputError with the place if a formula gives no number.
template <int D>
std::vector<QuantityValue> evaluate_quantities(const Study& study, const MeshIn<D>& mesh, const LawsIn<D>& laws,
                                               const std::vector<CaseFieldsIn<D>>& cases);

/// How a quantity is labelled: the unit of its field, of its integral.
std::string unit_of(const Study& study, const QuantitySpec& quantity);
std::string unit_of(const Study& study, Field field);

}  // namespace dotsift
