#pragma once
// Triangles in space laid flat, nearly without a change of angles, and places found on them.

#include <array>
#include <complex>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

using FlatPlace = std::complex<double>;
using FlatTriangle = std::array<std::size_t, 3>;

/// Least-squares conformal map (Levy, Petitjean, Ray & Maillot 2002, ACM Trans. Graph. 21), begun from `flat`, with two
/// of its places held, followed for a bounded number of steps of conjugate gradients. Triangles with two corners at one
/// place are passed over.
void make_conformal(const std::vector<Vec3>& places, const std::vector<FlatTriangle>& triangles,
                    const std::array<std::size_t, 2>& held, std::vector<FlatPlace>& flat);

/// No triangle has turned over, or lost its area; those with two corners at one place do not count.
bool all_upright(const std::vector<FlatTriangle>& triangles, const std::vector<FlatPlace>& flat);

/// Length in space over that on the flat, at each place: of the triangles round it together.
std::vector<double> scales_of(const std::vector<Vec3>& places, const std::vector<FlatTriangle>& triangles,
                              const std::vector<FlatPlace>& flat);

/// Where in a triangle: shares of its corners, which add up to 1.
struct WithinTriangle {
    std::size_t triangle = 0;
    std::array<double, 3> share{};
};

/// Finds the triangle that lies over a place of the flat.
class FlatSearch {
  public:
    FlatSearch() = default;
    FlatSearch(std::vector<FlatTriangle> triangles, std::vector<FlatPlace> flat);

    /// Outside of all: that which it is least far out of, with a share below zero.
    [[nodiscard]] WithinTriangle find(const Vec2& at) const;
    [[nodiscard]] const std::vector<FlatPlace>& flat() const { return flat_; }
    [[nodiscard]] const std::vector<FlatTriangle>& triangles() const { return triangles_; }
    /// Triangles other than the one it belongs to that lie over the middle of a triangle.
    [[nodiscard]] bool covers_itself() const;

  private:
    [[nodiscard]] std::size_t bin_of(const Vec2& flat) const;
    [[nodiscard]] std::array<double, 3> shares(std::size_t triangle, const Vec2& at) const;

    std::vector<FlatTriangle> triangles_;
    std::vector<FlatPlace> flat_;
    Box2 box_;
    std::size_t bins_ = 1;  ///< each way
    std::vector<std::vector<std::size_t>> in_bin_;
};

}  // namespace dotsift
