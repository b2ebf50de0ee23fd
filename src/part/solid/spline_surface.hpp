#pragma once
// Rational B-spline surfaces, evaluated in own code.

#include <array>
#include <vector>

#include "part/nurbs.hpp"

namespace dotsift {

/// Tensor product of two B-splines; parameters as NurbsIn has them, both ways.
struct SplineSurface {
    std::array<int, 2> degree{3, 3};
    std::array<std::vector<double>, 2> knots;  ///< ascending; count(k) + degree[k] + 1 of them
    std::vector<Vec3> poles;                   ///< those of the second parameter after each other
    std::vector<double> weights;               ///< one a pole, > 0; empty: all one

    [[nodiscard]] std::size_t count(std::size_t way) const {
        return knots[way].size() - static_cast<std::size_t>(degree[way]) - 1;
    }
    [[nodiscard]] Vec2 low() const { return {{bound(0, false), bound(1, false)}}; }
    [[nodiscard]] Vec2 high() const { return {{bound(0, true), bound(1, true)}}; }
    /// Between two knots it is smooth: these, of one parameter, within [low, high].
    [[nodiscard]] std::vector<double> breaks(std::size_t way) const;

    struct Values {
        Vec3 point, du, dv, duu, duv, dvv;
    };
    /// Point and derivatives (Piegl & Tiller 1997, The NURBS Book, sec. 3.2 and 4.4). Outside of its parameters it goes
    /// on straight.
    /// `order`: of the highest derivatives that are wanted, at most 2; the others are left zero.
    [[nodiscard]] Values at(const Vec2& uv, int order = 2) const;
    /// The nearest point's parameters, within [low, high], sought by Newton's method from `near`.
    [[nodiscard]] Vec2 nearest_from(const Vec3& p, const Vec2& near) const;
    /// What is wrong with the data; empty if it can be evaluated.
    [[nodiscard]] const char* fault() const;

  private:
    [[nodiscard]] double bound(std::size_t way, bool last) const {
        return knots[way][last ? count(way) : static_cast<std::size_t>(degree[way])];
    }
};

/// Places of a spline surface on a grid of its parameters, close enough that each cell bends little.
class SurfaceGrid {
  public:
    explicit SurfaceGrid(const SplineSurface& surface);

    [[nodiscard]] const std::vector<double>& lines(std::size_t way) const { return lines_[way]; }
    [[nodiscard]] const Vec3& place(std::size_t i, std::size_t j) const { return places_[i * lines_[1].size() + j]; }
    [[nodiscard]] double size() const { return size_; }  ///< the diagonal of its box
    /// Parameters of the nearest place of the grid.
    [[nodiscard]] Vec2 nearest(const Vec3& p) const;

  private:
    std::array<std::vector<double>, 2> lines_;
    std::vector<Vec3> places_;
    double size_ = 0;
};

}  // namespace dotsift
