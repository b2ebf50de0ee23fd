#pragma once
// A Delaunay tetrahedralisation of points in space, grown point by point.

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// The corners of the side opposite to each corner of a tetrahedron, as they turn left seen from there.
inline constexpr std::array<std::array<std::size_t, 3>, 4> corners_of_side{
    {{1, 3, 2}, {0, 2, 3}, {0, 3, 1}, {0, 1, 2}}};

/// Starts as one tetrahedron round everything, whose corners are the vertices 0 to 3. A new point takes the place of
/// all tetrahedra whose circumsphere holds it (Bowyer 1981, Comput. J. 24; Watson 1981, ibid.); exact predicates decide
/// which, so that what they leave is always seen whole from the point, and no tetrahedron is flat, whatever lies on one
/// sphere, plane or line. The order of insertion decides between tetrahedra that share a sphere, nothing else.
class Tetrahedralisation {
  public:
    struct Tetrahedron {
        std::array<std::int32_t, 4> v{};  ///< vertices, of positive orientation; -1 in v[0]: the place is free
        std::array<std::int32_t, 4> n{-1, -1, -1, -1};  ///< neighbour across the side opposite to v[i]; -1: none
        [[nodiscard]] bool alive() const { return v[0] >= 0; }
    };

    explicit Tetrahedralisation(const Box<3>& box);

    [[nodiscard]] const std::vector<Vec3>& points() const { return points_; }
    /// With free places among them.
    [[nodiscard]] const std::vector<Tetrahedron>& tetrahedra() const { return tetrahedra_; }
    [[nodiscard]] const Vec3& point(std::int32_t v) const { return points_[static_cast<std::size_t>(v)]; }
    [[nodiscard]] const Tetrahedron& tetrahedron(std::int32_t t) const {
        return tetrahedra_[static_cast<std::size_t>(t)];
    }
    /// A tetrahedron that has this vertex.
    [[nodiscard]] std::int32_t tetrahedron_of(std::int32_t v) const {
        return tetrahedron_of_[static_cast<std::size_t>(v)];
    }
    [[nodiscard]] std::size_t count() const { return tetrahedra_.size() - free_.size(); }

    /// What a tetrahedron belongs to, and what stands on its sides: a face of a part, or -1.
    struct Within {
        std::int32_t body = -1;
        std::array<std::int32_t, 4> wall{-1, -1, -1, -1};
    };
    /// From now on nothing that is inserted crosses a wall, and new tetrahedra belong to what those before them did.
    /// One for each tetrahedron; both that share a side must tell the same of it.
    void set_within(std::vector<Within> within) { within_ = std::move(within); }
    [[nodiscard]] const std::vector<Within>& within() const { return within_; }

    /// Others that fill the same space in the place of all of them; walls are forgotten.
    void set_tetrahedra(std::vector<Tetrahedron> tetrahedra);

    /// The tetrahedron that contains p (or has it on its rim), found by walking from `start`. p must lie in the box.
    [[nodiscard]] std::int32_t locate(const Vec3& p, std::int32_t start) const;
    /// The same, but the walk may not cross a wall: -1 if it would, or leads nowhere.
    [[nodiscard]] std::int32_t locate_visible(const Vec3& p, std::int32_t start) const;
    /// Adds a point that lies in tetrahedron t (from locate). Returns its vertex; an old one if the point is there, and
    /// -1, with nothing changed, if walls leave no room for it.
    std::int32_t insert(const Vec3& p, std::int32_t t);
    /// Tetrahedra that the last insert made: those round the new vertex.
    [[nodiscard]] const std::vector<std::int32_t>& made() const { return made_; }
    /// Room for this many vertices, so that growing never copies.
    void reserve(std::size_t vertices);

  private:
    /// A side on the rim of what a point takes the place of, as the tetrahedron inside has it.
    struct RimSide {
        std::array<std::int32_t, 3> v{};  ///< seen from the point anticlockwise
        std::int32_t beyond = -1;
        std::int32_t wall = -1;
        std::int32_t owner = -1;  ///< the tetrahedron inside
    };
    void find_cavity(const Vec3& p, std::int32_t t);
    /// Leaves out what p does not see. False if nothing is left.
    bool make_visible(const Vec3& p, std::int32_t t);
    std::int32_t new_place();
    void fill_cavity(std::int32_t v);

    std::vector<Vec3> points_;
    std::vector<Tetrahedron> tetrahedra_;
    std::vector<std::int32_t> tetrahedron_of_, free_, made_;
    std::vector<std::int32_t> cavity_;
    std::vector<RimSide> rim_;
    std::vector<Within> within_;          // empty: there are no walls
    std::vector<std::int32_t> left_out_;  // of the cavity, though its sphere holds the point
    std::vector<std::uint32_t> seen_;     // round in which a tetrahedron was last looked at; odd: it is in the cavity
    std::uint32_t round_ = 0;
    /// An edge of the rim, and the side of a new tetrahedron that waits there for its neighbour.
    struct Waiting {
        std::int32_t a = -1, b = -1, tetrahedron = -1;
        std::uint32_t side = 0;
    };
    std::vector<Waiting> waiting_;
};

/// All points, in rounds of twice as many each, in which they follow a Hilbert curve (Amenta, Choi & Rote 2003, Proc.
/// 19th Symp. Comput. Geom.): that keeps walks short and the number of changes low. `vertex` gets the vertex of each
/// point; points at the same place have the same one.
Tetrahedralisation tetrahedralise(const std::vector<Vec3>& points, std::vector<std::int32_t>& vertex);

}  // namespace dotsift
