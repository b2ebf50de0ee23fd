#pragma once
// A piece of surface through the corners of facets, smooth between them.

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "base/box_tree.hpp"
#include "part/curve.hpp"
#include "part/solid/conformal_map.hpp"

namespace dotsift {

/// Cubic triangles over facets, by their corners and the normals there (Vlachos, Peters, Boyd & Mitchell 2001, "Curved
/// PN triangles", Proc. Symp. Interactive 3D Graphics): they meet without gaps, and facets of one plane stay flat.
/// Parameters are places of a conformal map of the facets to a plane. Its facets turn left there, and are the whole of
/// the surface: beyond their rim the nearest of them goes on.
class FacetSurface {
  public:
    /// `normals`: one of length 1 for each point, out of the solid. The facets hang together and look to one side.
    FacetSurface(std::vector<Vec3> points, std::vector<Vec3> normals, std::vector<FlatTriangle> facets);

    struct Values {
        Vec3 point, du, dv, duu, duv, dvv;
    };
    [[nodiscard]] Values at(const Vec2& uv) const;
    [[nodiscard]] Vec3 normal(const Vec2& uv) const;
    /// Principal ones, the smaller radius first, > 0 where it bends away from the normal: how the normals at the
    /// corners of the facets turn (Rusinkiewicz 2004, Proc. 3DPVT).
    [[nodiscard]] std::array<double, 2> curvature_radii(const Vec2& uv) const;
    [[nodiscard]] Vec2 nearest(const Vec3& p) const;
    /// Length in space over that of the parameters.
    [[nodiscard]] double scale(const Vec2& uv) const;
    /// Where a ray, from + along * share, share > 0, runs through facets; nothing: it passes too near to an edge.
    [[nodiscard]] std::optional<std::vector<Vec3>> crossings(const Vec3& from, const Vec3& along) const;
    /// act(point, area, size) at points whose areas, vectors along the normal, add up to the surface.
    void integrate(const std::function<void(const Vec3&, const Vec3&, double)>& act) const;

    [[nodiscard]] FacetSurface transformed(const AffineIn<3>& map) const;
    /// The first parameter the other way.
    [[nodiscard]] FacetSurface turned_over() const;

    [[nodiscard]] const std::vector<Vec3>& points() const { return points_; }
    [[nodiscard]] const std::vector<FlatTriangle>& facets() const { return facets_; }
    /// The sharpest bend at a point, as a radius.
    [[nodiscard]] double least_radius_at(std::size_t point) const;
    /// The map folds, so that the facets are no surface that can be laid flat.
    [[nodiscard]] bool folded() const { return folded_; }

  private:
    FacetSurface() = default;
    void lay_flat();
    void find_nets();
    void find_bends();
    void find_boxes();
    /// By the second and third share of a facet.
    [[nodiscard]] Values on_facet(std::size_t facet, double s, double t) const;
    [[nodiscard]] WithinTriangle within(const Vec2& uv) const;

    std::vector<Vec3> points_, normals_;
    std::vector<FlatTriangle> facets_;
    std::vector<double> scale_;                 ///< at points
    std::vector<std::array<double, 2>> bends_;  ///< at points: principal curvatures
    std::vector<std::array<Vec3, 10>> nets_;    ///< of each facet: its control points
    std::shared_ptr<const FlatSearch> search_;
    std::shared_ptr<const BoxTree> boxes_;  ///< of the facets
    bool folded_ = false;
};

}  // namespace dotsift
