#pragma once
// Quadratic elements of nearly incompressible materials: their volume strain is projected onto linear functions, so
// that it leaves the displacement its freedom (Hughes 1980, Int. J. Numer. Meth. Eng. 15, 1413; the pair of biquadratic
// displacement and linear pressure inside of each element is stable and of full order: Boffi & Gastaldi 2002, Math.
// Mod. Meth. Appl. Sci. 12, 1223). Triangles get a bubble for it (Crouzeix & Raviart 1973, RAIRO 7 R3, 33), which is
// eliminated within the element.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/material.hpp"
#include "solve/system/assembly.hpp"

namespace dotsift {

template <int D>
struct SolutionIn;

/// The elastic volume strain of one element, linear in the place, and the bubble's displacement.
struct VolumeStrain {
    double size = 0;  ///< of the element; 0: it is not projected
    Vec2 centre{};
    std::array<double, 3> coefficients{};  ///< of 1 and of both components of (x - centre) / size
    Vec2 bubble{};
};

/// Whether an element's volume strain is projected.
bool projects_volume(const Mesh& mesh, const Laws& laws, std::size_t element);
bool any_projects_volume(const Mesh& mesh, const Laws& laws);

/// The shape function of a triangle with 6 nodes that is 1 in the middle and 0 on its sides.
struct Bubble {
    double value = 0;
    Vec2 gradient{};
};
Bubble bubble_at(const ElementPoint& point);

/// The stiffness, as elastic_matrix has it.
void projected_matrix(const Mesh& mesh, const Laws& laws, std::size_t element, const Vec2& centre, double arm,
                      ElementMatrix& matrix);

/// What belongs to the displacement of a solution; empty if no element is projected. `inner_force` is that on each
/// element's bubble, or empty.
std::vector<VolumeStrain> volume_strains(const Mesh& mesh, const Laws& laws, const SolutionIn<2>& solution,
                                         const std::vector<Vec2>& inner_force);

/// Changes an element's own strain to the projected one.
void correct_volume(const Mesh& mesh, const Laws& laws, const VolumeStrain& volume, std::size_t element,
                    const ElementPoint& point, double temperature_change, Strain& strain);

}  // namespace dotsift
