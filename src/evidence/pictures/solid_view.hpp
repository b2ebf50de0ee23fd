#pragma once
// A solid's mesh seen from somewhere: its outside, or what a plane leaves of it, pixel by pixel.

#include <functional>
#include <optional>
#include <vector>

#include "evidence/drawing/camera.hpp"
#include "evidence/drawing/canvas.hpp"
#include "evidence/drawing/depth_raster.hpp"
#include "evidence/drawing/view.hpp"
#include "evidence/pictures/section_cut.hpp"
#include "evidence/pictures/solid_picture.hpp"

namespace dotsift {

/// A side of the outside, with the number of its entry in `boundary` (-1: none); side -1: what a section cuts out of
/// the element.
struct ShownSide {
    std::size_t element = 0;
    int side = 0, boundary = -1;
};

class SolidView {
  public:
    /// `dim`: how much darker it is where no light falls. `area`: where it stands on the picture. The mesh and the
    /// displacements must outlive it.
    SolidView(const SolidMesh& mesh, const std::vector<Vec3>& displacement, double dim, PictureUse use,
              const std::optional<PlaneSpec>& section = {}, const Box2& area = field_area);

    void set(const Camera& camera);

    struct Colours {
        std::function<double(std::size_t element, std::size_t local)> value;  ///< at a node; empty: none is needed
        std::function<Colour(const ShownSide& side, double value)> colour;
    };
    /// The surfaces in their colours, with the sides of elements where these can be told apart, and the part's edges.
    void paint(const Colours& colours, bool with_sides = true);

    /// After paint(): a line on the surface, strong.
    void add_line(const std::vector<Vec3>& points, const Colour& colour);

    void draw(Canvas& canvas);
    /// Marks that a section takes away are left out.
    void draw_marks(Canvas& canvas, const std::vector<SolidMark>& marks) const;
    /// Where a place is on the picture; nothing: it is hidden, or taken away by the section.
    [[nodiscard]] std::optional<Vec2> seen_at(const Vec3& p) const;
    /// Which way the axes go, beside the bar of lengths.
    void draw_axes(Canvas& canvas) const;
    [[nodiscard]] const View& view() const { return *view_; }

    /// The first view in which all marks are seen, or the most of them, the first ones before the others; of a section
    /// one that looks onto it.
    Camera choose(const std::vector<SolidMark>& marks);

  private:
    /// A corner of what is painted: its place, between two nodes of its element.
    struct Corner {
        Vec3 at;
        std::uint8_t a = 0, b = 0;
        double share = 0;
        double distance = -1;  ///< before the section's plane
    };
    [[nodiscard]] Corner corner(std::size_t element, std::size_t local) const;
    [[nodiscard]] Corner corner(std::size_t element, const CutCorner& cut) const;
    /// Every triangle that is shown, cut where the section's plane meets it.
    void each_triangle(const std::function<void(const ShownSide&, const std::array<Corner, 3>&)>& take) const;
    [[nodiscard]] Vec3 place(std::size_t element, std::size_t local) const;
    [[nodiscard]] Vec3 on_canvas(const Vec3& p) const;
    [[nodiscard]] Vec3 true_normal(const ShownSide& side, std::size_t node, const Vec3& flat) const;
    [[nodiscard]] double light_on(const Vec3& normal) const;
    void draw_lines(bool with_sides);
    void draw_section_lines(double opacity);
    void draw_numbers(Canvas& c, const std::vector<SolidMark>& marks) const;
    [[nodiscard]] bool taken_away(const Vec3& p) const;

    const SolidMesh& mesh_;
    const std::vector<Vec3>& displacement_;
    std::vector<ShownSide> sides_;
    double dim_, scale_;
    Box2 area_;
    std::optional<PlaneSpec> section_;  ///< its normal of length 1
    std::vector<double> distances_;     ///< of the nodes from its plane
    std::vector<CutPiece> cut_;
    Camera camera_;
    std::optional<View> view_;
    std::optional<DepthRaster> raster_;
    std::vector<std::uint32_t> pixels_;
};

}  // namespace dotsift
