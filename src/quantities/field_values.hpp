#pragma once
// Solution and recovered fields -> the scalar fields that a study watches, at any place.

#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/solid_recovery.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A load case with its recovered fields, at the slots (see Topology).
template <int D>
struct CaseFieldsIn {
    SolutionIn<D> solution;
    RecoveredStressIn<D> stress{};  ///< empty: not solved for
    RecoveredFluxIn<D> flux{};      ///< empty: not solved for
};
using CaseFields = CaseFieldsIn<2>;

/// What fields are made from.
template <int D>
struct FieldSourceIn {
    const MeshIn<D>& mesh;
    const LawsIn<D>& laws;
    const CaseFieldsIn<D>& fields;
    Vec2 about{};  ///< centre of radial and tangential components; in space the axis along z through it
    FieldOrigin origin = FieldOrigin::recovered;
    Vec<D> datum{};       ///< displacements are less this one
    bool finest = false;  ///< recovered stress and flux as accurate as the polynomials allow, where these are there
};
using FieldSource = FieldSourceIn<2>;

/// What fields are made of at one place.
template <int D>
struct FieldValues {
    Vec<D> position, displacement, flux;
    StressIn<D> stress{};
    double potential = 0, change = 0, stiffness = 1;
};

template <int D>
double scalar(Field field, const FieldValues<D>& values, const RegionLawIn<D>& law, const Vec2& about);

template <int D>
FieldValues<D> values_at(const FieldSourceIn<D>& source, std::size_t element, const ElementPointIn<D>& point);

/// A scalar field made from displacement, recovered stress, potential or recovered flux, at a point of an element.
template <int D>
double field_at(Field field, const FieldSourceIn<D>& source, std::size_t element, const ElementPointIn<D>& point) {
    return scalar(field, values_at(source, element, point), source.laws.of(source.mesh.region[element]), source.about);
}

/// Its derivatives by what it is made of; by central differences, exact for the linear fields.
template <int D>
struct FieldGradientIn {
    Vec<D> displacement{}, flux{};
    StressIn<D> stress{};
    double potential = 0, temperature_change = 0, stiffness = 0;  ///< the last two at the same stress
};
using FieldGradient = FieldGradientIn<2>;
template <int D>
FieldGradientIn<D> field_gradient(Field field, const FieldSourceIn<D>& source, std::size_t element,
                                  const ElementPointIn<D>& point);

/// The same at every slot.
template <int D>
std::vector<double> slot_field(Field field, const FieldSourceIn<D>& source);

}  // namespace dotsift
