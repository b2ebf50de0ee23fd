#pragma once
// Charts, drawn by gnuplot as a child process. Data and text go through its standard input only.

#include <array>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.hpp"
#include "evidence/pictures/picture.hpp"

namespace dotsift {

enum class CurveLook { main, other };

struct Curve2 {
    std::string name;
    std::vector<Vec2> points;
    int colour = 0;                     ///< category
    CurveLook look = CurveLook::other;  ///< of lines: the main one is thick
};

/// Value against element size, with the band of the reported value and the value on an infinitely fine mesh.
struct ConvergenceChart {
    std::string title, subtitle, x_label, y_label;
    std::vector<Curve2> curves;
    std::optional<double> value, half_width;  ///< shaded band
    std::string band_label;
    std::optional<double> extrapolated;  ///< dashed line
    std::string extrapolated_label;
    std::optional<double> reference;  ///< dotted line
    std::vector<double> limits;       ///< dash-dotted lines, where they are not far from the values
};
PictureFiles draw_chart(const ConvergenceChart& chart);

/// A quantity that falls with cost, both axes logarithmic; each curve's slope over its last half stands in the legend.
struct RateChart {
    std::string title, subtitle, x_label, y_label;
    std::vector<Curve2> curves;
    std::optional<double> slope;  ///< theory, drawn as a triangle
    std::string slope_label;
};
PictureFiles draw_chart(const RateChart& chart);

/// Values over a distance; where a value is NaN the curve has a gap.
struct LineChart {
    std::string title, subtitle, x_label, y_label;
    std::vector<Curve2> curves;
    bool points = false;  ///< few single values: marked, all curves alike, their names beside the chart
    std::vector<std::array<double, 3>> band;  ///< x, low and high, shaded behind the curves
    std::string band_label;
    std::vector<std::pair<double, std::string>> marks;  ///< upright lines with what they are called
};
PictureFiles draw_chart(const LineChart& chart);

/// Slope of a straight line through the points' logarithms (least squares), over the last half of them, at least two.
double fitted_slope(const std::vector<Vec2>& points);

}  // namespace dotsift
