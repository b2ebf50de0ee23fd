#pragma once
// Material laws: strain to stress, gradient to flux.

#include <array>
#include <memory>
#include <string>
#include <vector>

#include "study/shared_formula.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Components xx, yy, xy, zz of stress or strain, whose shear is the engineering one (gamma). In an axisymmetric body x
/// is the radius, y the axis, and z runs round.
using Tensor4 = std::array<double, 4>;
using Matrix4 = std::array<std::array<double, 4>, 4>;

inline Tensor4 difference(const Tensor4& a, const Tensor4& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2], a[3] - b[3]};
}

inline Tensor4 scaled(const Tensor4& a, double factor) {
    return {a[0] * factor, a[1] * factor, a[2] * factor, a[3] * factor};
}

/// Linear elasticity.
struct ElasticLaw {
    Matrix4
        stiffness{};  ///< stress = stiffness * (strain - thermal strain); plane stress: nothing in row and column zz
    Matrix4 compliance{};                ///< strain = compliance * stress + thermal strain, of all four components
    Tensor4 expansion{};                 ///< thermal strain per degree
    bool nearly_incompressible = false;  ///< so that displacement alone would lose accuracy

    [[nodiscard]] Tensor4 stress(const Tensor4& strain, double temperature_change = 0) const;
    /// All four strains of a stress: in plane stress, the thickness strain too.
    [[nodiscard]] Tensor4 strain(const Tensor4& stress, double temperature_change = 0) const;
    /// stress . compliance . stress
    [[nodiscard]] double energy_norm2(const Tensor4& stress) const;
};

/// Isotropic or orthotropic; Lekhnitskii 1963, Theory of Elasticity of an Anisotropic Elastic Body, art. 3.
ElasticLaw elastic_law(const MaterialSpec& material, Plane plane);

/// Linear conduction: flux = -conductivity * gradient.
struct ConductionLaw {
    std::array<std::array<double, 2>, 2> conductivity{}, resistivity{};

    [[nodiscard]] Vec2 flux(const Vec2& gradient) const;
    /// flux . resistivity . flux
    [[nodiscard]] double energy_norm2(const Vec2& flux) const;
};
ConductionLaw conduction_law(const MaterialSpec& material);

/// What the equations need to know of a region.
struct RegionLaw {
    ElasticLaw elastic;
    ConductionLaw conduction;
    double thickness = 1;
    std::shared_ptr<const PositiveField> thickness_field;  ///< instead, where it changes from place to place
    double density = 0;
    bool of_temperature = false;  ///< modulus or conductivity: what stands here is that at the reference
};

/// The laws of each region of a mesh, by its index.
struct Laws {
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

/// Materials are found by the names of the regions; one without names has all that no other names.
Laws laws_of(const Study& study, const std::vector<std::string>& region_names);

double von_mises(const Tensor4& stress);
/// Larger and smaller principal stress in the plane.
std::array<double, 2> principal(const Tensor4& stress);
/// Half the difference of the largest and the smallest of all three principal stresses.
double max_shear(const Tensor4& stress);
/// Components along other axes: the first one turned from x by the angle (radians); the shear is that of a stress.
Tensor4 turned(const Tensor4& stress, double angle);

}  // namespace dotsift
