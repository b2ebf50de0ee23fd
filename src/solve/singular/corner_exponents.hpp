#pragma once
// With which powers of the distance fields rise and fall round a corner, a crack tip or a junction of materials.

#include <array>
#include <complex>
#include <vector>

#include "mesh/elements/element.hpp"
#include "solve/material/material.hpp"

namespace dotsift {

/// A wedge of one material.
struct Wedge {
    double from = 0, to = 0;  ///< angles of its sides, from < to; the next wedge begins where it ends
    const RegionLaw* law = nullptr;
};

/// Directions along which a ray is held; none: it is free.
struct RayHold {
    std::vector<Vec2> directions;
    [[nodiscard]] bool free() const { return directions.empty(); }
};

/// The wedges round a point: either all the way round (`closed`), or between two sides.
struct Fan {
    std::vector<Wedge> wedges;
    std::vector<RayHold> rays;  ///< of the beginning of each wedge and, if it is not closed, of the end of the last
    bool closed = false;
};

/// Exponents lambda with a real part between 0 and 1: the displacement behaves as r^lambda, stress as r^(lambda - 1),
/// which is infinite at the point. Ascending by the real part; empty: nothing is infinite there. By finite elements
/// over the angle (Williams 1952, J. Appl. Mech. 19, for any number of wedges; the eigenvalue problem of Song & Wolf
/// 1997, Comput. Methods Appl. Mech. Eng. 147).
std::vector<std::complex<double>> displacement_exponents(const Fan& fan);
/// The same of a potential, whose rays are held if they have a direction.
std::vector<std::complex<double>> potential_exponents(const Fan& fan);

/// How displacement or potential rise from a point: r^exponent times a function of the angle, for each exponent below 2
/// apart from those of motions as a whole; and how they fall, for the negatives of those between 0 and 1. A complex
/// exponent makes two modes, of its real and its imaginary part.
class CornerModes {
  public:
    /// `motions`: 2 of the displacement, 1 of the potential.
    CornerModes(const Fan& fan, int motions);

    [[nodiscard]] std::size_t count() const { return modes_.size(); }
    /// The real part of a mode's exponent.
    [[nodiscard]] double exponent(std::size_t mode) const { return modes_[mode].exponent.real(); }
    /// Values and derivatives by x and y, at a place relative to the point, for a factor of 1.
    struct Value {
        Vec2 motion{};
        std::array<Vec2, 2> gradient{};  ///< of each component
    };
    /// A place relative to the point, as every mode needs it.
    struct Ray {
        double distance, cosine, sine;
        std::size_t first;            ///< of the three nodes over the angle,
        std::array<double, 3> n, dn;  ///< their shape functions and derivatives
    };
    [[nodiscard]] Ray ray(const Vec2& place) const;
    [[nodiscard]] Value at(std::size_t mode, const Ray& ray) const;
    [[nodiscard]] Value at(std::size_t mode, const Vec2& place) const { return at(mode, ray(place)); }

  private:
    struct Mode {
        std::complex<double> exponent;
        bool imaginary;                            ///< the imaginary part of what these make, not the real one
        std::vector<std::complex<double>> motion;  ///< at each angle
    };
    int motions_;
    std::vector<double> angles_;  ///< ascending, three to each element
    bool closed_;
    std::vector<Mode> modes_;
};

}  // namespace dotsift
