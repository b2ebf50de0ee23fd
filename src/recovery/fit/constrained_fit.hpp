#pragma once
// A smooth field round a node: a polynomial displacement or potential, one degree higher than the stress or flux,
// fitted to the values at the nodes (polynomial preserving recovery: Zhang & Naga 2005, SIAM J. Sci. Comput. 26), to
// equilibrium, and to the tractions or fluxes that are known on the outline (in the way in which Wiberg, Abdulwahab &
// Ziukas 1994, Int. J. Numer. Meth. Eng. 37, and Rodenas, Tur, Fuenmayor & Vercher 2007, the same 70, add them to a fit
// of the stress).

#include <array>
#include <vector>

#include "recovery/fit/polynomials.hpp"
#include "solve/acting/acting_loads.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// What a fit is made from. All elements are of one region.
struct FitInput {
    struct Node {
        Vec2 position, displacement;
        double potential = 0;
    };
    /// In the middle of an element.
    struct Balance {
        Vec2 position;
        double size = 0;  ///< of the element
        double temperature_change = 0;
        Vec2 temperature_gradient{};
        double factor = 1;    ///< of stiffness or conductivity (see Solution) ...
        Vec2 factor_slope{};  ///< ... and its gradient, relative to it
        LoadDensity::Density load;
    };
    struct Side {
        const SideLoad* load = nullptr;
        std::array<double, 5> potential{}, temperature_change{}, factor{1, 1, 1, 1, 1};  ///< at the side's points
    };
    Vec2 centre;
    double scale = 1;  ///< the size of the patch
    double reach = 1;  ///< what lies farther counts little
    int degree = 2;    ///< of displacement or potential: 2 to 4
    std::int32_t region = 0;
    std::vector<Node> nodes;
    std::vector<Balance> balances;
    std::vector<Side> sides;
};

/// The strain xx, yy, 2xy of the fitted displacement; round an axis also its ux, else zero.
PatchPolynomial<4> fit_strain(const Laws& laws, const AxialStrain& axial, const FitInput& input);
/// The gradient of the fitted potential.
PatchPolynomial<2> fit_gradient(const Laws& laws, const FitInput& input);

}  // namespace dotsift
