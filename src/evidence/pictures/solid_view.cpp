#include "evidence/pictures/solid_view.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace dotsift {

namespace {

constexpr Vec2 picture_margin{{8, 8}};
// Faces that meet at a sharper angle than this show their edge; seams of one surface do not.
const double smooth_cosine = std::cos(20 * std::numbers::pi / 180);
constexpr double edge_width = 1.7, side_width = 0.7;
// A line lies on its surface; this much of the picture's width nearer it is still seen.
constexpr double line_bias = 0.004;
constexpr double mark_bias = 4 * line_bias;  // marks lie on what they mark
constexpr double light_on_section = 1;       // no shape to be shown: its colours are to be read
// A section is looked at from no flatter than this: the cosine between its normal and the way to the eye.
constexpr double flattest_look = 0.35;

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

}  // namespace

SolidView::SolidView(const SolidMesh& mesh, const std::vector<Vec3>& displacement, double dim, PictureUse use,
                     const std::optional<PlaneSpec>& section, const Box2& area)
    : mesh_(mesh),
      displacement_(displacement),
      sides_(outside_of(mesh)),
      dim_(dim),
      scale_(scale_for(use)),
      area_(area),
      section_(section) {
    if (section_) {
        section_->normal = section_->normal / norm(section_->normal);
        distances_ = distances_from(*section_, mesh_.nodes);
        cut_ = cut_elements(mesh_, distances_);
    }
    set(common_views().front());
}

SolidView::Corner SolidView::corner(std::size_t element, std::size_t local) const {
    Corner c;
    c.at = place(element, local);
    c.a = c.b = static_cast<std::uint8_t>(local);
    if (section_) c.distance = distances_[static_cast<std::size_t>(mesh_.element(element)[local])];
    return c;
}

SolidView::Corner SolidView::corner(std::size_t element, const CutCorner& cut) const {
    const Vec3 a = place(element, cut.a), b = place(element, cut.b);
    return {a + (b - a) * cut.share, cut.a, cut.b, cut.share, 0};
}

void SolidView::each_triangle(const std::function<void(const ShownSide&, const std::array<Corner, 3>&)>& take) const {
    for (const auto& s : sides_) {
        const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
        for (const auto& piece : pieces_of(local.size())) {
            std::array<Corner, 3> c;
            for (std::size_t k = 0; k < 3; ++k) c[k] = corner(s.element, local[piece[k]]);
            const auto before = std::count_if(c.begin(), c.end(), [](const Corner& x) { return x.distance > 0; });
            if (before == 3) continue;
            if (before == 0) {
                take(s, c);
                continue;
            }
            // What is left of it, corner after corner.
            std::vector<Corner> left;
            for (std::size_t k = 0; k < 3; ++k) {
                const Corner &from = c[k], &to = c[(k + 1) % 3];
                if (from.distance <= 0) left.push_back(from);
                if ((from.distance > 0) == (to.distance > 0)) continue;
                CutCorner cut{from.a, to.a, from.distance / (from.distance - to.distance)};
                left.push_back(corner(s.element, cut));
            }
            for (std::size_t k = 2; k < left.size(); ++k) take(s, {left[0], left[k - 1], left[k]});
        }
    }
    for (const CutPiece& piece : cut_) {
        std::array<Corner, 4> c;
        for (std::size_t k = 0; k < 4; ++k)
            c[k] = corner(piece.element, piece.corner[std::min(k, static_cast<std::size_t>(piece.corners) - 1)]);
        const ShownSide s{piece.element, -1, -1};
        take(s, {c[0], c[1], c[2]});
        if (piece.corners == 4) take(s, {c[0], c[2], c[3]});
    }
}

void SolidView::set(const Camera& camera) {
    camera_ = camera;
    Box2 box;
    each_triangle([&](const ShownSide&, const std::array<Corner, 3>& corners) {
        for (const Corner& x : corners) {
            const Vec3 c = camera_(x.at);
            box.add(Vec2{{c[0], c[1]}});
        }
    });
    view_.emplace(box, area_);
}

void SolidView::paint(const Colours& colours, bool with_sides) {
    pixels_.clear();
    raster_.emplace(Box2{area_.low - picture_margin, area_.high + picture_margin, false}, scale_);
    each_triangle([&](const ShownSide& s, const std::array<Corner, 3>& x) {
        std::array<Vec3, 3> at;
        for (std::size_t k = 0; k < 3; ++k) at[k] = on_canvas(x[k].at);
        Vec3 flat = cross(x[1].at - x[0].at, x[2].at - x[0].at);
        if (s.side < 0 && dot(flat, section_->normal) < 0) flat = -flat;
        if (!(norm(flat) > 0) || dot(flat, camera_.eye) <= 0) return;  // seen from behind: from inside
        std::array<double, 3> light{}, value{};
        for (std::size_t k = 0; k < 3; ++k) {
            Vec3 n = flat;
            if (s.side >= 0 && displacement_.empty()) {
                const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
                const auto at_node = [&](std::uint8_t node) {
                    const auto found = std::find(local.begin(), local.end(), node) - local.begin();
                    return true_normal(s, static_cast<std::size_t>(found), flat);
                };
                n = at_node(x[k].a);
                if (x[k].share > 0) n = n + (at_node(x[k].b) - n) * x[k].share;
            }
            light[k] = s.side < 0 ? light_on_section : light_on(n);
            if (colours.value) {
                const double a = colours.value(s.element, x[k].a);
                value[k] = x[k].share > 0 ? a + (colours.value(s.element, x[k].b) - a) * x[k].share : a;
            }
        }
        raster_->paint(at, [&](double second, double third) {
            const double first = 1 - second - third;
            const double l = first * light[0] + second * light[1] + third * light[2];
            Colour c = colours.colour(s, first * value[0] + second * value[1] + third * value[2]);
            c.r *= l;
            c.g *= l;
            c.b *= l;
            return c;
        });
    });
    draw_lines(with_sides);
}

void SolidView::add_line(const std::vector<Vec3>& points, const Colour& colour) {
    constexpr double width = 4;
    for (std::size_t k = 1; k < points.size(); ++k)
        raster_->line(on_canvas(points[k - 1]), on_canvas(points[k]), colour, width, 1,
                      2 * line_bias * area_.size()[0]);
}

void SolidView::draw(Canvas& c) {
    if (pixels_.empty()) pixels_ = raster_->pixels();
    c.image(raster_->box().low, raster_->box().size(), raster_->columns(), raster_->rows(), pixels_);
}

bool SolidView::taken_away(const Vec3& p) const {
    const double near = line_bias * area_.size()[0] / view_->scale();
    return section_ && dot(p - section_->at, section_->normal) > near;
}

void SolidView::draw_numbers(Canvas& c, const std::vector<SolidMark>& marks) const {
    constexpr double radius = 11, apart = 2.2 * radius, step = 26;
    std::vector<std::pair<const SolidMark*, Vec2>> discs;
    for (const auto& m : marks) {
        if (!m.number || taken_away(m.at)) continue;
        const Vec3 on = on_canvas(m.at);
        const Vec2 place{{on[0], on[1]}};
        const auto free = [&](const Vec2& p) {
            return std::none_of(discs.begin(), discs.end(),
                                [&](const auto& d) { return distance(d.second, p) < apart; });
        };
        // The nearest free one of places in rings about it.
        Vec2 at = place;
        for (int ring = 1; ring < 5 && !free(at); ++ring)
            for (int k = 0; k < 8 && !free(at); ++k) {
                const double angle = k * std::numbers::pi / 4;
                at = place + Vec2{{std::cos(angle), -std::sin(angle)}} * (ring * step);
            }
        if (at != place) c.line({place, at}, ink, 1.2);
        discs.emplace_back(&m, at);
    }
    for (const auto& [m, at] : discs) {
        const bool hidden = raster_->hidden(on_canvas(m->at), mark_bias * area_.size()[0]);
        const Colour own = category(m->colour);
        c.circle(at, radius, hidden ? paper : own, hidden ? own : paper);
        c.text(at + Vec2{{0, 5}}, m->label,
               {.size = 14, .strong = true, .colour = hidden ? ink : paper, .align = Canvas::Align::centre});
    }
}

void SolidView::draw_marks(Canvas& c, const std::vector<SolidMark>& marks) const {
    draw_numbers(c, marks);
    const double bias = mark_bias * area_.size()[0];
    for (const auto& m : marks) {
        if (m.number || taken_away(m.at)) continue;
        const Vec3 at = on_canvas(m.at);
        const bool hidden = raster_->hidden(at, bias);
        const Vec2 p{{at[0], at[1]}};
        c.circle(p, 5, hidden ? paper : category(m.colour), hidden ? category(m.colour) : paper);
        const Canvas::TextStyle style{
            .size = 15, .strong = true, .colour = ink, .align = Canvas::Align::centre, .halo = true};
        const std::string label = hidden ? m.label + " (behind)" : m.label;
        const double half = c.text_width(label, style) / 2;
        const double x = std::clamp(p[0], area_.low[0] + half, area_.high[0] + 30 - half);
        c.text({{x, p[1] - 14 < area_.low[1] + 10 ? p[1] + 26 : p[1] - 14}}, label, style);
    }
}

std::optional<Vec2> SolidView::seen_at(const Vec3& p) const {
    const Vec3 at = on_canvas(p);
    if (taken_away(p) || raster_->hidden(at, mark_bias * area_.size()[0])) return std::nullopt;
    return Vec2{{at[0], at[1]}};
}

void SolidView::draw_axes(Canvas& c) const {
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

Camera SolidView::choose(const std::vector<SolidMark>& marks) {
    double best = -1;
    Camera chosen = common_views().front();
    for (const Camera& camera : common_views()) {
        if (section_ && dot(camera.eye, section_->normal) < flattest_look) continue;
        if (marks.empty() && best >= 0) break;
        if (camera.eye[2] < 0 && best >= 1) continue;  // what matters most is seen from above, as parts are looked at
        set(camera);
        DepthRaster coarse(Box2{area_.low - picture_margin, area_.high + picture_margin, false}, 0.1);
        each_triangle([&](const ShownSide&, const std::array<Corner, 3>& x) {
            coarse.paint({on_canvas(x[0].at), on_canvas(x[1].at), on_canvas(x[2].at)},
                         [](double, double) { return paper; });
        });
        double seen = 0;
        for (std::size_t k = 0; k < marks.size(); ++k)
            if (!taken_away(marks[k].at) && !coarse.hidden(on_canvas(marks[k].at), 0.03 * area_.size()[0]))
                seen += std::pow(0.5, static_cast<double>(k));
        if (seen <= best + 1e-9) continue;
        best = seen;
        chosen = camera;
    }
    if (best < 0 && section_) chosen = Camera::from(section_->normal);
    return chosen;
}

Vec3 SolidView::place(std::size_t element, std::size_t local) const {
    const auto n = static_cast<std::size_t>(mesh_.element(element)[local]);
    return displacement_.empty() ? mesh_.nodes[n] : mesh_.nodes[n] + displacement_[n];
}

/// On the picture, and towards the eye in its unit.
Vec3 SolidView::on_canvas(const Vec3& p) const {
    const Vec3 c = camera_(p);
    const Vec2 at = (*view_)(Vec2{{c[0], c[1]}});
    return {{at[0], at[1], c[2] * view_->scale()}};
}

/// Of the part's face, before it is deformed; `flat` where that is not known.
Vec3 SolidView::true_normal(const ShownSide& s, std::size_t node, const Vec3& flat) const {
    if (s.boundary < 0 || mesh_.end_normals.empty()) return flat / norm(flat);
    const Vec3& n = mesh_.end_normals[static_cast<std::size_t>(s.boundary)][node];
    return dot(n, flat) < 0 ? -n : n;
}

/// From over the left shoulder, and a little from everywhere.
double SolidView::light_on(const Vec3& n) const {
    const Vec3 sun = camera_.eye * 0.75 + camera_.up * 0.55 - camera_.right * 0.35;
    return 1 - dim_ + dim_ * std::max(0.0, dot(n, sun) / (norm(n) * norm(sun)));
}

/// Sides of elements where they can be told apart, and the edges of the part.
void SolidView::draw_lines(bool with_sides) {
    struct Line {
        std::array<Vec3, 3> at;  ///< start, middle, end
        std::array<double, 3> distance{-1, -1, -1};
        std::array<int, 2> faces{-1, -1};
        std::array<Vec3, 2> normals{};
        int count = 0;
    };
    std::map<std::array<std::int32_t, 2>, Line> lines;
    for (const auto& s : sides_) {
        const auto& local = side_nodes(mesh_.kinds[s.element], s.side);
        const std::size_t corners = local.size() == 3 || local.size() == 6 ? 3 : 4;
        const auto nodes = mesh_.element(s.element);
        const auto node = [&](std::size_t k) { return mesh_.nodes[static_cast<std::size_t>(nodes[local[k]])]; };
        const Vec3 flat = cross(node(1) - node(0), node(2) - node(0));
        for (std::size_t k = 0; k < corners; ++k) {
            const std::size_t i = local[k], j = local[(k + 1) % corners];
            auto& line = lines[{std::min(nodes[i], nodes[j]), std::max(nodes[i], nodes[j])}];
            const Corner a = corner(s.element, i), b = corner(s.element, j);
            line.at = {a.at, (a.at + b.at) * 0.5, b.at};
            line.distance = {a.distance, (a.distance + b.distance) / 2, b.distance};
            if (local.size() > corners) {
                const Corner m = corner(s.element, local[corners + k]);
                line.at[1] = m.at;
                line.distance[1] = m.distance;
            }
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
    std::vector<double> lengths;
    for (auto& [pair, line] : lines) {
        const Vec3 a = on_canvas(line.at[0]), b = on_canvas(line.at[2]);
        lengths.push_back(std::hypot(a[0] - b[0], a[1] - b[1]));
    }
    double median = 0;
    if (!lengths.empty()) {
        const auto middle = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
        std::nth_element(lengths.begin(), middle, lengths.end());
        median = *middle * scale_;
    }
    const double opacity = with_sides ? std::clamp((median - 3) / 12, 0.0, 0.45) : 0;
    const double bias = line_bias * area_.size()[0];
    for (const bool edges : {false, true})
        for (const auto& [pair, line] : lines) {
            if (is_edge(line) != edges || (!edges && opacity == 0)) continue;
            const double width = edges ? edge_width : side_width, share = edges ? 0.95 : opacity;
            for (std::size_t k = 0; k < 2; ++k) {
                Vec3 a = line.at[k], b = line.at[k + 1];
                const double da = line.distance[k], db = line.distance[k + 1];
                if (da > 0 && db > 0) continue;
                const Vec3 cut = a + (b - a) * (da == db ? 0 : da / (da - db));
                if (da > 0) a = cut;
                if (db > 0) b = cut;
                raster_->line(on_canvas(a), on_canvas(b), ink, width, share, bias);
            }
        }
    draw_section_lines(opacity);
}

/// The elements on the section; strong where the outside or another region begins.
void SolidView::draw_section_lines(double opacity) {
    const double bias = line_bias * area_.size()[0];
    for (const bool rims : {false, true})
        for (const CutPiece& piece : cut_)
            for (int k = 0; k < piece.corners; ++k) {
                const int side = piece.side[static_cast<std::size_t>(k)];
                if (side < 0) continue;
                const auto& [first, second] =
                    mesh_.sides.beside(mesh_.sides.of(piece.element, static_cast<std::size_t>(side)));
                const bool rim = !second || mesh_.region[static_cast<std::size_t>(first.element)] !=
                                                mesh_.region[static_cast<std::size_t>(second.element)];
                if (rim != rims || (!rim && opacity == 0)) continue;
                const auto at = [&](int i) {
                    return on_canvas(
                        corner(piece.element, piece.corner[static_cast<std::size_t>(i % piece.corners)]).at);
                };
                raster_->line(at(k), at(k + 1), ink, rim ? edge_width : side_width, rim ? 0.95 : opacity, bias);
            }
}

}  // namespace dotsift
