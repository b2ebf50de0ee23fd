#pragma once
// A grid of places in space laid flat, nearly without a change of angles.

#include <complex>
#include <vector>

#include "base/vec.hpp"
#include "part/solid/spline_surface.hpp"

namespace dotsift {

/// Least-squares conformal map (Levy, Petitjean, Ray & Maillot 2002, ACM Trans. Graph. 21) of the triangles into which
/// the cells of a grid are halved, begun with the lengths of its lines, two corners held, and followed for a bounded
/// number of steps of conjugate gradients. Where a triangle would turn over the beginning is kept, which has no folds.
/// Both ways are exact inverses of each other.
class Flattening {
  public:
    explicit Flattening(const SurfaceGrid& grid);

    [[nodiscard]] Vec2 flat(const Vec2& parameters) const;
    [[nodiscard]] Vec2 parameters(const Vec2& flat) const;
    /// Length in space over that on the flat.
    [[nodiscard]] double scale(const Vec2& parameters) const;

  private:
    using Complex = std::complex<double>;
    struct Triangle {
        std::array<std::size_t, 3> v;
    };
    /// Which side of a cell is a pole: of those at the lower and the upper second parameter, and of the first.
    enum class Pole { none, low_second, high_second, low_first, high_first };
    [[nodiscard]] Pole pole_of(std::size_t cell) const;
    /// Where in a triangle: shares of its corners.
    struct Within {
        std::size_t triangle = 0;
        std::array<double, 3> share{};
    };

    void begin(const SurfaceGrid& grid);
    void make_conformal(const SurfaceGrid& grid);
    void find_scales(const SurfaceGrid& grid);
    void fill_bins();
    [[nodiscard]] bool upright() const;
    [[nodiscard]] std::array<double, 3> shares(std::size_t triangle, const Vec2& flat) const;
    [[nodiscard]] Within over(const Vec2& parameters) const;
    [[nodiscard]] Within under(const Vec2& flat) const;
    [[nodiscard]] std::size_t bin_of(const Vec2& flat) const;
    [[nodiscard]] Vec2 parameters_of(std::size_t vertex) const {
        return {{lines_[0][vertex / lines_[1].size()], lines_[1][vertex % lines_[1].size()]}};
    }

    std::array<std::vector<double>, 2> lines_;
    std::vector<Triangle> triangles_;  ///< two of each cell after each other, with the second parameter innermost
    std::vector<std::size_t> same_;    ///< of each place of the grid the first at the same place
    std::vector<Complex> flat_;        ///< of each place of the grid
    std::vector<double> scale_;        ///< there
    Box2 box_;
    std::size_t bins_ = 1;                          ///< each way
    std::vector<std::vector<std::size_t>> in_bin_;  ///< triangles
};

}  // namespace dotsift
