#pragma once
// A grid of places in space laid flat, nearly without a change of angles.

#include <vector>

#include "base/vec.hpp"
#include "part/solid/conformal_map.hpp"
#include "part/solid/spline_surface.hpp"

namespace dotsift {

/// The conformal map of the triangles into which the cells of a grid are halved, begun with the lengths of its lines.
/// Where a triangle would turn over the beginning is kept, which has no folds. Both ways are exact inverses of each
/// other.
class Flattening {
  public:
    explicit Flattening(const SurfaceGrid& grid);

    [[nodiscard]] Vec2 flat(const Vec2& parameters) const;
    [[nodiscard]] Vec2 parameters(const Vec2& flat) const;
    /// Length in space over that on the flat.
    [[nodiscard]] double scale(const Vec2& parameters) const;

  private:
    /// Which side of a cell is a pole: of those at the lower and the upper second parameter, and of the first.
    enum class Pole { none, low_second, high_second, low_first, high_first };
    [[nodiscard]] Pole pole_of(std::size_t cell) const;
    void begin(const SurfaceGrid& grid);
    void make_conformal_map(const SurfaceGrid& grid);
    [[nodiscard]] WithinTriangle over(const Vec2& parameters) const;
    [[nodiscard]] Vec2 parameters_of(std::size_t vertex) const {
        return {{lines_[0][vertex / lines_[1].size()], lines_[1][vertex % lines_[1].size()]}};
    }

    std::array<std::vector<double>, 2> lines_;
    std::vector<FlatTriangle> triangles_;  ///< two of each cell after each other, with the second parameter innermost
    std::vector<FlatTriangle> joined_;     ///< the same between places that are one
    std::vector<std::size_t> same_;        ///< of each place of the grid the first at the same place
    std::vector<FlatPlace> flat_;          ///< of each place of the grid
    std::vector<double> scale_;            ///< there
    FlatSearch search_;
};

}  // namespace dotsift
