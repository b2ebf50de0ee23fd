#pragma once
// Material laws: strain to stress, gradient to flux.

#include <array>
#include <memory>
#include <string>
#include <vector>

#include "solve/material/tensor.hpp"
#include "study/file/shared_formula.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Linear elasticity.
template <int D>
struct ElasticLawIn {
    /// stress = stiffness * (strain - thermal strain); in plane stress nothing in row and column zz.
    TensorMatrix<D> stiffness{};
    TensorMatrix<D> compliance{};        ///< strain = compliance * stress + thermal strain, of all components
    StrainIn<D> expansion{};             ///< thermal strain per degree
    bool nearly_incompressible = false;  ///< so that displacement alone would lose accuracy

    [[nodiscard]] StressIn<D> stress(const StrainIn<D>& strain, double temperature_change = 0) const;
    /// All strains of a stress: in plane stress, the thickness strain too.
    [[nodiscard]] StrainIn<D> strain(const StressIn<D>& stress, double temperature_change = 0) const;
    /// stress . compliance . stress
    [[nodiscard]] double energy_norm2(const StressIn<D>& stress) const;
};
using ElasticLaw = ElasticLawIn<2>;

/// Isotropic or orthotropic; Lekhnitskii 1963, Theory of Elasticity of an Anisotropic Elastic Body, art. 3.
ElasticLaw elastic_law(const MaterialSpec& material, Plane plane);

/// Linear conduction: flux = -conductivity * gradient.
template <int D>
struct ConductionLawIn {
    SquareMatrix<D> conductivity{}, resistivity{};

    [[nodiscard]] Vec<D> flux(const Vec<D>& gradient) const;
    /// flux . resistivity . flux
    [[nodiscard]] double energy_norm2(const Vec<D>& flux) const;
};
using ConductionLaw = ConductionLawIn<2>;
ConductionLaw conduction_law(const MaterialSpec& material);

/// What the equations need to know of a region's material.
template <int D>
struct RegionLawIn {
    ElasticLawIn<D> elastic;
    ConductionLawIn<D> conduction;
    double density = 0;
    bool of_temperature = false;  ///< modulus or conductivity: what stands here is that at the reference
};

/// And of a region of the plane.
struct RegionLaw : RegionLawIn<2> {
    double thickness = 1;
    std::shared_ptr<const PositiveField> thickness_field;  ///< instead, where it changes from place to place
};

/// The laws of each region of a mesh, by its index.
template <int D>
struct LawsIn;

template <>
struct LawsIn<2> {
    Plane plane = Plane::stress;
    std::vector<RegionLaw> regions;

    [[nodiscard]] const RegionLaw& of(std::int32_t region) const { return regions[static_cast<std::size_t>(region)]; }
    /// What an area in the plane stands for is a volume of this depth: the thickness, or once round.
    [[nodiscard]] double depth(std::int32_t region, const Vec2& position) const;
    /// The gradient of the depth, relative to it: what balance in a plane of changing depth has besides the divergence.
    /// `size`, of the element there, sets the step in which a formula is differentiated.
    [[nodiscard]] Vec2 depth_slope(std::int32_t region, const Vec2& position, double size) const;
    /// The depth does not change.
    [[nodiscard]] bool flat(std::int32_t region) const { return !axisymmetric() && !of(region).thickness_field; }
    /// Neither depth nor material change within an element.
    [[nodiscard]] bool even(std::int32_t region) const { return flat(region) && !of(region).of_temperature; }
    /// Has a strain zz that the displacement brings.
    [[nodiscard]] bool axisymmetric() const { return plane == Plane::axisymmetric; }
};
using Laws = LawsIn<2>;

/// Materials are found by the names of the regions; one without names has all that no other names.
Laws laws_of(const Study& study, const std::vector<std::string>& region_names);

}  // namespace dotsift
