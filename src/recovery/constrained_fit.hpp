#pragma once
// A smooth field round a node: a polynomial displacement or potential, one degree higher than the stress or flux,
// fitted to the values at the nodes (polynomial preserving recovery: Zhang & Naga 2005, SIAM J. Sci. Comput. 26), to
// equilibrium, and to the tractions or fluxes that are known on the outline (in the way in which Wiberg, Abdulwahab &
// Ziukas 1994, Int. J. Numer. Meth. Eng. 37, and Rodenas, Tur, Fuenmayor & Vercher 2007, the same 70, add them to a fit
// of the stress).

#include <array>
#include <vector>

#include "solve/acting_loads.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// Monomials of two coordinates up to a degree (2 to 4), with their first derivatives.
struct Monomials {
    static constexpr int highest_degree = 4;
    /// How many there are.
    static constexpr int terms(int degree) { return (degree + 1) * (degree + 2) / 2; }
    static constexpr int most = (highest_degree + 1) * (highest_degree + 2) / 2;
    int count = 0;
    std::array<double, most> value{}, x{}, y{};
    /// Of (p - centre) / scale; derivatives are those by p.
    Monomials(int degree, const Vec2& p, const Vec2& centre, double scale);
};

/// Their second derivatives.
struct Curvatures {
    std::array<double, Monomials::most> xx{}, xy{}, yy{};
    Curvatures(int degree, const Vec2& p, const Vec2& centre, double scale);
};

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
        LoadDensity::Density load;
    };
    struct Side {
        const SideLoad* load = nullptr;
        std::array<double, 5> potential{}, temperature_change{};  ///< at the side's points
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

class StressFit {
  public:
    StressFit(const Laws& laws, const AxialStrain& axial, const FitInput& input);
    [[nodiscard]] Tensor4 at(const Vec2& p, double temperature_change) const;

  private:
    const Laws* laws_;
    const AxialStrain* axial_;
    Vec2 centre_;
    double scale_;
    int degree_;
    std::int32_t region_;
    std::array<Vec2, Monomials::most> coefficients_{};
};

class FluxFit {
  public:
    FluxFit(const Laws& laws, const FitInput& input);
    [[nodiscard]] Vec2 at(const Vec2& p) const;

  private:
    const Laws* laws_;
    Vec2 centre_;
    double scale_;
    int degree_;
    std::int32_t region_;
    std::array<double, Monomials::most> coefficients_{};
};

}  // namespace dotsift
