#pragma once
// Values at scattered points of the plane -> a function of the place.

#include <array>
#include <cstdint>
#include <utility>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// Goes through the values and is as smooth as they are: the modified Shepard method (Renka 1988, ACM Transactions on
/// Mathematical Software 14, 139-148) with linear nodal functions. Round each point a disc holds its neighbours; a
/// linear function through the point fits them; where discs overlap, these functions are mixed with weights
/// ((R - d) / (R d))^2. Linear data come back exactly. Where no disc reaches, the value is that of the nearest point.
class ScatteredValues {
  public:
    ScatteredValues() = default;
    /// At least one point; none twice.
    ScatteredValues(std::vector<Vec2> points, std::vector<double> values);
    [[nodiscard]] double operator()(const Vec2& place) const;
    /// Whether the disc of a point reaches there.
    [[nodiscard]] bool covers(const Vec2& place) const;
    /// The distance to the nearest point.
    [[nodiscard]] double gap(const Vec2& place) const;
    [[nodiscard]] std::size_t size() const { return points_.size(); }

  private:
    [[nodiscard]] std::size_t cell(const Vec2& place) const;
    /// The nearest points, the nearest first, but for one that is told; fewer if there are no more.
    [[nodiscard]] std::vector<std::pair<double, std::int32_t>> nearest(const Vec2& place, std::size_t count,
                                                                       std::int32_t but = -1) const;
    void sort_into_cells();
    void find_discs();
    void fit();

    std::vector<Vec2> points_, slopes_;
    std::vector<double> values_, radii_;
    Box2 box_;
    std::array<std::size_t, 2> count_{1, 1};
    Vec2 cell_;
    std::vector<std::vector<std::int32_t>> in_cell_;  ///< the points of each cell
    std::vector<std::vector<std::int32_t>> discs_;    ///< of each cell, the points whose discs reach into it
};

}  // namespace dotsift
