#include "evidence/pictures/solid_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/numbers.hpp"
#include "evidence/drawing/camera.hpp"
#include "evidence/drawing/depth_raster.hpp"

namespace dotsift {

namespace {

constexpr double legend_left = scale_left - 16, legend_top = 150;
constexpr Vec2 picture_margin{{8, 8}};
// Faces that meet at a sharper angle than this show their edge; seams of one surface do not.
const double smooth_cosine = std::cos(20 * 3.14159265358979 / 180);
constexpr double edge_width = 1.7, side_width = 0.7;
// A line lies on its surface; this much of the picture's width nearer it is still seen.
constexpr double line_bias = 0.004;
// Shades tell the shape, but on a field colours have to be read.
constexpr double dim_on_body = 0.36, dim_on_field = 0.16;
const Colour body{0.80, 0.84, 0.88};

/// A side of the outside, or of what is shown, with the number of its entry in `boundary` (-1: none).
struct ShownSide {
    std::size_t element = 0;
    int side = 0, boundary = -1;
};

std::vector<ShownSide> outside_of(const SolidMesh& mesh) {
    std::vector<int> entry(mesh.sides.count(), -1);
    for (std::size_t b = 0; b < mesh.boundary.size(); ++b) {
        const auto& s = mesh.boundary[b];
        entry[mesh.sides.of(static_cast<std::size_t>(s.element), static_cast<std::size_t>(s.side))] =
            static_cast<int>(b);
    }
    std::vector<ShownSide> out;
    for (std::size_t k = 0; k < mesh.sides.count(); ++k) {
        const auto& [first, second] = mesh.sides.beside(k);
        if (!second) out.push_back({static_cast<std::size_t>(first.element), first.side, entry[k]});
    }
    return out;
}

/// A side cut into flat triangles, by the places of its nodes in the order of side_nodes.
std::vector<std::array<std::size_t, 3>> pieces_of(std::size_t nodes) {
    switch (nodes) {
        case 3:
            return {{0, 1, 2}};
        case 6:
            return {{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}};
        case 4:
            return {{0, 1, 2}, {0, 2, 3}};
        default:  // of four corners with middles and a centre
            return {{0, 4, 8}, {0, 8, 7}, {4, 1, 5}, {4, 5, 8}, {8, 5, 2}, {8, 2, 6}, {7, 8, 6}, {7, 6, 3}};
    }
}

class SolidView {
  public:
    SolidView(const SolidMesh& mesh, const std::vector<Vec3>& displacement, double dim, PictureUse use)
        : mesh_(mesh), displacement_(displacement), sides_(outside_of(mesh)), dim_(dim), scale_(scale_for(use)) {
        set(common_views().front());
    }

    void set(const Camera& camera) {
        camera_ = camera;
        Box2 box;
        for (const auto& s : sides_)
            for (const auto local : side_nodes(mesh_.kinds[s.element], s.side)) {
                const Vec3 c = camera_(place(s.element, local));
                box.add(Vec2{{c[0], c[1]}});
            }
        view_.emplace(box, field_area);
    }

    /// colour(side, shares): at a place of a side, by the shares of its nodes.
    using ColourAt = std::function<Colour(const ShownSide&, const std::vector<std::size_t>& nodes,
                                          const std::array<double, 3>& shares)>;

    void paint(const ColourAt& colour, bool with_sides = true) {
        raster_.emplace(Box2{field_area.low - picture_margin, field_area.high + picture_margin, false}, scale_);
        for (const auto& s : sides_) {
            const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
            for (const auto& piece : pieces_of(local.size())) {
                std::array<Vec3, 3> at;
                std::array<Vec3, 3> x;
                std::vector<std::size_t> nodes(piece.begin(), piece.end());
                for (std::size_t k = 0; k < 3; ++k) {
                    x[k] = place(s.element, local[piece[k]]);
                    at[k] = on_canvas(x[k]);
                }
                const Vec3 flat = cross(x[1] - x[0], x[2] - x[0]);
                if (!(norm(flat) > 0) || dot(flat, camera_.eye) <= 0) continue;  // seen from behind: from inside
                std::array<double, 3> light{};
                for (std::size_t k = 0; k < 3; ++k) light[k] = light_on(normal(s, piece[k], flat));
                raster_->paint(at, [&](double second, double third) {
                    const std::array<double, 3> shares{1 - second - third, second, third};
                    const double l = shares[0] * light[0] + shares[1] * light[1] + shares[2] * light[2];
                    Colour c = colour(s, nodes, shares);
                    c.r *= l;
                    c.g *= l;
                    c.b *= l;
                    return c;
                });
            }
        }
        draw_lines(with_sides);
    }

    void draw(Canvas& c) {
        if (pixels_.empty()) pixels_ = raster_->pixels();
        c.image(raster_->box().low, raster_->box().size(), raster_->columns(), raster_->rows(), pixels_);
    }

    void draw_marks(Canvas& c, const std::vector<SolidMark>& marks) const {
        const double bias = 4 * line_bias * field_area.size()[0];
        for (const auto& m : marks) {
            const Vec3 at = on_canvas(m.at);
            const bool hidden = raster_->hidden(at, bias);
            const Vec2 p{{at[0], at[1]}};
            c.circle(p, 5, hidden ? paper : category(m.colour), hidden ? category(m.colour) : paper);
            const Canvas::TextStyle style{
                .size = 15, .strong = true, .colour = ink, .align = Canvas::Align::centre, .halo = true};
            const std::string label = hidden ? m.label + " (behind)" : m.label;
            const double half = c.text_width(label, style) / 2;
            const double x = std::clamp(p[0], field_area.low[0] + half, field_area.high[0] + 30 - half);
            c.text({{x, p[1] - 14 < field_area.low[1] + 10 ? p[1] + 26 : p[1] - 14}}, label, style);
        }
    }

    /// Which way the axes go, beside the bar of lengths.
    void draw_axes(Canvas& c) const {
        const Vec2 at{{1010, 742}};
        constexpr double length = 34;
        for (std::size_t k = 0; k < 3; ++k) {
            Vec3 axis{};
            axis[k] = 1;
            const Vec3 d = camera_(axis);
            const Vec2 way{{d[0], -d[1]}};
            c.line({at, at + way * length}, ink, 1.6);
            c.text(at + way * (length + 9) + Vec2{{0, 5}}, std::string(1, "xyz"[k]),
                   {.size = 13, .align = Canvas::Align::centre, .halo = true});
        }
    }
    [[nodiscard]] const View& view() const { return *view_; }

    /// The first view in which all marks are seen, or the most of them, the first ones before the others.
    Camera choose(const std::vector<SolidMark>& marks) {
        double best = -1;
        Camera chosen = common_views().front();
        for (const Camera& camera : common_views()) {
            if (marks.empty()) break;
            set(camera);
            DepthRaster coarse(Box2{field_area.low - picture_margin, field_area.high + picture_margin, false}, 0.1);
            for (const auto& s : sides_) {
                const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
                for (const auto& piece : pieces_of(local.size())) {
                    std::array<Vec3, 3> at;
                    for (std::size_t k = 0; k < 3; ++k) at[k] = on_canvas(place(s.element, local[piece[k]]));
                    coarse.paint(at, [](double, double) { return paper; });
                }
            }
            double seen = 0;
            for (std::size_t k = 0; k < marks.size(); ++k)
                if (!coarse.hidden(on_canvas(marks[k].at), 0.03 * field_area.size()[0]))
                    seen += std::pow(0.5, static_cast<double>(k));
            if (seen <= best + 1e-9) continue;
            best = seen;
            chosen = camera;
        }
        return chosen;
    }

  private:
    [[nodiscard]] Vec3 place(std::size_t element, std::size_t local) const {
        const auto n = static_cast<std::size_t>(mesh_.element(element)[local]);
        return displacement_.empty() ? mesh_.nodes[n] : mesh_.nodes[n] + displacement_[n];
    }
    /// On the picture, and towards the eye in its unit.
    [[nodiscard]] Vec3 on_canvas(const Vec3& p) const {
        const Vec3 c = camera_(p);
        const Vec2 at = (*view_)(Vec2{{c[0], c[1]}});
        return {{at[0], at[1], c[2] * view_->scale()}};
    }
    [[nodiscard]] Vec3 normal(const ShownSide& s, std::size_t node, const Vec3& flat) const {
        return displacement_.empty() ? true_normal(s, node, flat) : flat;
    }
    /// Of the part's face, before it is deformed; `flat` where that is not known.
    [[nodiscard]] Vec3 true_normal(const ShownSide& s, std::size_t node, const Vec3& flat) const {
        if (s.boundary < 0 || mesh_.end_normals.empty()) return flat / norm(flat);
        const Vec3& n = mesh_.end_normals[static_cast<std::size_t>(s.boundary)][node];
        return dot(n, flat) < 0 ? -n : n;
    }
    /// From over the left shoulder, and a little from everywhere.
    [[nodiscard]] double light_on(const Vec3& n) const {
        const Vec3 sun = camera_.eye * 0.75 + camera_.up * 0.55 - camera_.right * 0.35;
        return 1 - dim_ + dim_ * std::max(0.0, dot(n, sun) / (norm(n) * norm(sun)));
    }

    /// Sides of elements where they can be told apart, and the edges of the part.
    void draw_lines(bool with_sides) {
        struct Line {
            Vec3 a, m, b;
            std::array<int, 2> faces{-1, -1};
            std::array<Vec3, 2> normals{};
            int count = 0;
        };
        std::map<std::array<std::int32_t, 2>, Line> lines;
        std::vector<double> lengths;
        for (const auto& s : sides_) {
            const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
            const std::size_t corners = local.size() == 3 || local.size() == 6 ? 3 : 4;
            const auto nodes = mesh_.element(s.element);
            const auto node = [&](std::size_t k) { return mesh_.nodes[static_cast<std::size_t>(nodes[local[k]])]; };
            const Vec3 flat = cross(node(1) - node(0), node(2) - node(0));
            for (std::size_t k = 0; k < corners; ++k) {
                const std::size_t i = local[k], j = local[(k + 1) % corners];
                auto& line = lines[{std::min(nodes[i], nodes[j]), std::max(nodes[i], nodes[j])}];
                line.a = place(s.element, i);
                line.b = place(s.element, j);
                line.m = local.size() > corners ? place(s.element, local[corners + k]) : (line.a + line.b) * 0.5;
                if (line.count < 2) {
                    line.faces[static_cast<std::size_t>(line.count)] =
                        s.boundary < 0 ? -1 : mesh_.boundary[static_cast<std::size_t>(s.boundary)].edge;
                    line.normals[static_cast<std::size_t>(line.count)] =
                        true_normal(s, local.size() > corners ? corners + k : k, flat);
                }
                ++line.count;
            }
        }
        const auto is_edge = [&](const Line& l) {
            return l.count == 2 && l.faces[0] != l.faces[1] && dot(l.normals[0], l.normals[1]) < smooth_cosine;
        };
        for (auto& [pair, line] : lines) {
            const Vec3 a = on_canvas(line.a), b = on_canvas(line.b);
            lengths.push_back(std::hypot(a[0] - b[0], a[1] - b[1]));
        }
        double median = 0;
        if (!lengths.empty()) {
            const auto middle = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
            std::nth_element(lengths.begin(), middle, lengths.end());
            median = *middle * scale_;
        }
        const double opacity = with_sides ? std::clamp((median - 3) / 12, 0.0, 0.45) : 0;
        const double bias = line_bias * field_area.size()[0];
        for (const bool edges : {false, true})
            for (const auto& [pair, line] : lines) {
                if (is_edge(line) != edges || (!edges && opacity == 0)) continue;
                const Vec3 a = on_canvas(line.a), m = on_canvas(line.m), b = on_canvas(line.b);
                const double width = edges ? edge_width : side_width, share = edges ? 0.95 : opacity;
                raster_->line(a, m, ink, width, share, bias);
                raster_->line(m, b, ink, width, share, bias);
            }
    }

    const SolidMesh& mesh_;
    const std::vector<Vec3>& displacement_;
    std::vector<ShownSide> sides_;
    double dim_;  ///< how much darker it is where no light falls
    double scale_;
    Camera camera_;
    std::optional<View> view_;
    std::optional<DepthRaster> raster_;
    std::vector<std::uint32_t> pixels_;
};

}  // namespace

Camera view_of_marks(const SolidMesh& mesh, const std::vector<SolidMark>& marks) {
    const std::vector<Vec3> still;
    return SolidView(mesh, still, dim_on_field, PictureUse::page).choose(marks);
}

PictureFiles draw_solid_field(const SolidMesh& mesh, const SolidFieldPicture& p, PictureUse use) {
    SolidView view(mesh, p.displacement, dim_on_field, use);
    view.set(p.camera ? *p.camera : view.choose(p.marks));
    const ColourLookup lookup(p.map);
    view.paint(
        [&](const ShownSide& s, const std::vector<std::size_t>& nodes, const std::array<double, 3>& shares) {
            if (!p.elementwise.empty()) return lookup(p.position(p.elementwise[s.element]));
            const auto& local = side_nodes(mesh.kinds[s.element], s.side);
            double value = 0;
            for (std::size_t k = 0; k < 3; ++k)
                value += shares[k] * p.slots[static_cast<std::size_t>(mesh.slots_of(s.element)[local[nodes[k]]])];
            return lookup(p.position(value));
        },
        p.sides);
    return both_formats(
        [&](Canvas& c) {
            heading(c, p.title, p.subtitle);
            view.draw(c);
            view.draw_marks(c, p.marks);
            draw_scale(c, p);
            length_bar(c, view.view(), p.length_unit);
            view.draw_axes(c);
        },
        use);
}

PictureFiles draw_solid_mesh(const SolidMesh& mesh, const std::string& title, const std::string& subtitle,
                             const std::string& length_unit, PictureUse use) {
    const std::vector<Vec3> still;
    SolidView view(mesh, still, dim_on_body, use);
    // The first name of a face gives it its colour, softened so that the elements can be seen.
    const auto colour_of_name = [](int name) {
        constexpr double share = 0.55;
        const Colour c = category(name);
        return Colour{1 - share * (1 - c.r), 1 - share * (1 - c.g), 1 - share * (1 - c.b)};
    };
    view.paint([&](const ShownSide& s, const std::vector<std::size_t>&, const std::array<double, 3>&) {
        if (s.boundary < 0) return body;
        const auto& names =
            mesh.names_of_edge[static_cast<std::size_t>(mesh.boundary[static_cast<std::size_t>(s.boundary)].edge)];
        return names.empty() ? body : colour_of_name(names.front());
    });
    return both_formats(
        [&](Canvas& c) {
            heading(c, title, subtitle);
            view.draw(c);
            double y = legend_top;
            c.text({{legend_left, y - 28}}, "named faces", {.size = 14, .strong = true});
            for (std::size_t n = 0; n < mesh.boundary_names.size(); ++n) {
                const bool used = std::any_of(
                    mesh.names_of_edge.begin(), mesh.names_of_edge.end(),
                    [&](const auto& names) { return !names.empty() && names.front() == static_cast<int>(n); });
                if (!used) continue;
                c.line({{{legend_left, y - 5}}, {{legend_left + 26, y - 5}}}, colour_of_name(static_cast<int>(n)), 12);
                c.text({{legend_left + 36, y}}, mesh.boundary_names[n], {.size = 14});
                y += 26;
            }
            length_bar(c, view.view(), length_unit);
            view.draw_axes(c);
        },
        use);
}

}  // namespace dotsift
