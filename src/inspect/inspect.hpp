#pragma once
// Looking at a part before anything is computed: its measures, and what will cause trouble.

#include <optional>
#include <string>
#include <vector>

#include "part/checks/check_study.hpp"
#include "part/measure.hpp"
#include "part/narrow.hpp"
#include "part/solid/solid_moments.hpp"
#include "part/solid/tightest_box.hpp"

namespace dotsift {

/// A place worth looking at; numbered from 1 in the list and on the picture.
struct Finding {
    std::string kind;  ///< "narrow", "gap", "short edge", "sharp corner", "singular", "tight bend", "no name", "kept";
                       ///< of a solid "narrow face", "sharp edge" and "bend", too
    std::string text;
    std::vector<Vec2> places;  ///< where; two points mean the way across
    double value = 0;          ///< width, length, angle, exponent or radius
    std::optional<double> elements_across;
    std::vector<Vec3> spots{};  ///< of a solid instead of places
};

struct RegionReport {
    std::string name, material;
    std::size_t pieces = 0;
    AreaMeasures measures;
    std::optional<double> mass;  ///< kg, where the density is known
};

/// A boundary name, and what carries it; nothing if all of it was cut away.
struct BoundaryReport {
    std::string name;
    int edges = 0;
    double length = 0;
};

/// A size to begin with, and why.
struct SizeSuggestion {
    double size = 0;
    std::string reason;
    double elements = 0;  ///< estimated with this as the global size
};

/// The usual size, or a smaller one that puts so many elements across the narrowest place found. `across`: what that is
/// called, as in "the narrowest place, which is {} {} wide", with its width and the length's unit.
SizeSuggestion suggested_by(const std::vector<Finding>& findings, double usual, std::string why, double elements,
                            const char* across, const std::string& length);

/// Of a solid.
struct SolidReport {
    Vec3 size;
    SolidMeasures volume;
    double surface = 0;  ///< of the outside
    struct Region {
        std::string name, material;
        double volume = 0;
        std::optional<double> mass;  ///< kg, where the density is known
    };
    std::vector<Region> regions;
    struct Boundary {
        std::string name;
        int faces = 0;
        double area = 0;
    };
    std::vector<Boundary> boundaries;
    struct NamedEdges {
        std::string name;
        std::size_t edges = 0;
        double length = 0;
    };
    std::vector<NamedEdges> named_edges;
    std::size_t faces = 0, edges = 0, bodies = 0;
    VolumeMoments moments;  ///< about the centroid
    PrincipalAxes principal;
    TurnedBox tightest;
};

/// Everything but `solid`, `mass`, findings and what is said of sizes is of the plane.
struct PartReport {
    std::optional<SolidReport> solid;
    Vec2 low, high;
    AreaMeasures measures;
    PrincipalMoments principal;
    std::optional<double> mass;
    std::size_t lines = 0, arcs = 0, splines = 0, chains = 0, vertices = 0, holes = 0, interior_edges = 0;
    std::vector<RegionReport> regions;
    std::vector<BoundaryReport> boundaries;
    std::vector<Finding> findings;
    std::vector<std::string> unused_names;
    double global_size = 0, estimated_elements = 0;
    SizeSuggestion suggestion;
    std::optional<AreaMeasures> before_cleanup;
};

/// Everything that `dotsift inspect` tells. The part must have a face.
PartReport inspect_part(const StudyAndPart& opened);

}  // namespace dotsift
