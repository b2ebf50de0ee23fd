#pragma once
// DXF text -> curves and points with their layers. Uses dxflib.

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "part/curve.hpp"

namespace dotsift {

struct DxfCurve {
    Curve curve;
    std::string layer;
    int line = 0;  ///< of the file, where its entity begins
};

struct DxfPoint {
    Vec2 at;
    std::string layer;
    int line = 0;
};

struct DxfContent {
    std::vector<DxfCurve> curves;  ///< in the file's unit
    std::vector<DxfPoint> points;
    std::optional<double> metres;                      ///< one unit of the file; nothing if its header does not say
    std::map<std::string, int> skipped;                ///< kinds of entities that are no outline, and how many
    std::vector<std::pair<int, std::string>> ignored;  ///< line and reason: entities of no length
};

/// LINE, ARC, CIRCLE, ELLIPSE, LWPOLYLINE and POLYLINE with bulges, SPLINE, POINT, and INSERT of blocks of these.
/// Throws InputError, with the line in its place, for what is no DXF text or damaged.
DxfContent read_dxf(const std::string& text, const std::string& file);

}  // namespace dotsift
