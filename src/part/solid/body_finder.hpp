#pragma once
// Which body of a solid holds a point.

#include <optional>
#include <vector>

#include "base/box_tree.hpp"
#include "part/solid/chart.hpp"
#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Counts how often rays from the point cross the faces: by their equations, one unknown each, then on the face's chart
/// whether its loops go round the place. Rays that pass near an edge do not count; the others decide by majority. The
/// part must outlive it. Safe to share between threads.
class BodyFinder {
  public:
    explicit BodyFinder(const SolidPart& part);

    /// -1: none. A point on a face may be told to lie on either side.
    [[nodiscard]] int operator()(const Vec3& p) const;
    /// Inside the loops of a face on whose surface the place lies; at an edge it may be told either way.
    [[nodiscard]] bool inside_face(std::size_t face, const Vec3& p) const {
        return inside(faces_[face], p).value_or(true);
    }
    /// On a face or edge, as near as `tolerance`.
    [[nodiscard]] bool on_face(const Vec3& p, double tolerance) const;
    /// The nearest place on the edges of a face, and the use of the edge; nothing: it has none.
    struct OnRim {
        EdgeUse use;
        double t = 0;  ///< on its curve
        Vec3 place;
    };
    [[nodiscard]] std::optional<OnRim> nearest_on_rim(std::size_t face, const Vec3& p) const;
    /// Places inside a face, clear of its edges, in the parameters of its surface: those of a lattice on its chart with
    /// so many places along each side of its box.
    [[nodiscard]] std::vector<Vec2> places_on(std::size_t face, int along) const;
    /// The face that a ray from a place meets first, and where; nothing: none, or it runs where a face cannot tell.
    [[nodiscard]] std::optional<std::pair<int, Vec3>> first_crossing(const Vec3& from, const Vec3& along) const;
    /// In a body, or as near to a face as a millionth of the part's size.
    [[nodiscard]] bool holds(const Vec3& p) const;

  private:
    /// A face on its chart: its loops as chords.
    struct Flat {
        explicit Flat(const Surface& surface) : chart(surface) {}
        Chart chart;
        struct Chord {
            Vec2 a, b;
            double stray;  ///< how far the edge leaves it: nearer to it, it is not clear on which side a place lies
        };
        std::vector<Chord> chords;
        /// Those of a loop follow each other; a place out of its box is as its beginning: outside of that loop.
        struct Loop {
            std::size_t first = 0, last = 0;
            Box2 box;
            bool closed = false;  ///< on the chart: round a cone it is not
        };
        std::vector<Loop> loops;
        Box2 box;
        Box<3> space;
        Vec2 beside;        ///< parameters in the middle of its edges
        double period = 0;  ///< on the chart, along x; 0: it does not go round
    };
    /// Inside the loops; nothing: too near to them.
    [[nodiscard]] std::optional<bool> inside(const Flat& face, const Vec3& p) const;
    /// The same of where a ray meets its surface.
    [[nodiscard]] std::optional<bool> inside_at(std::size_t face, const Vec3& p) const;
    /// The same of one of its loops, at a place of the chart.
    [[nodiscard]] static std::optional<bool> crossed(const Flat& face, const Flat::Loop& loop, const Vec2& flat);
    /// On the side of the face's material of its nearest edge.
    [[nodiscard]] bool left_of_nearest(std::size_t face, const Vec3& p) const;
    /// The bodies that a ray leaves or enters an odd number of times; false: it does not count.
    bool cross(const Vec3& from, const Vec3& along, std::vector<char>& odd) const;

    const SolidPart& part_;
    std::vector<Flat> faces_;
    std::vector<Box<3>> edge_boxes_;
    BoxTree boxes_;  ///< of the faces
};

}  // namespace dotsift
