#include "evidence/pictures/solid_picture.hpp"

#include <algorithm>

#include "base/numbers.hpp"
#include "evidence/pictures/solid_view.hpp"

namespace dotsift {

namespace {

constexpr double legend_left = scale_left - 16, legend_top = 150;
const Colour body{0.80, 0.84, 0.88};

}  // namespace

PlaneSpec section_through(const SolidMesh& mesh, const Vec3& place) {
    constexpr double margin = 0.05;  // of the box: nearer to its sides a section is no more than the outside
    Box<3> box;
    for (const Vec3& p : mesh.nodes) box.add(p);
    PlaneSpec best;
    double most = -1;
    for (std::size_t k = 0; k < 3; ++k) {
        PlaneSpec plane{place, {}};
        const double edge = margin * box.size()[k];
        plane.at[k] = std::clamp(place[k], box.low[k] + edge, box.high[k] - edge);
        plane.normal[k] = k == 1 ? -1 : 1;  // to where pictures are looked from by preference
        const double area = cut_area(mesh, plane);
        if (area <= most * 1.01) continue;  // of two alike the first
        most = area;
        best = plane;
    }
    return best;
}

PlaneSpec section_along(const Vec3& from, const Vec3& to) {
    const Vec3 way = (to - from) / distance(from, to);
    PlaneSpec plane{(from + to) * 0.5, {}};
    double most = -1;
    for (const std::size_t k : {1, 0, 2}) {  // those first from which pictures are looked at by preference
        Vec3 normal{};
        normal[k] = k == 1 ? -1 : 1;
        normal = normal - way * dot(normal, way);
        if (norm(normal) <= most * 1.01) continue;
        most = norm(normal);
        plane.normal = normal / most;
    }
    return plane;
}

Camera view_of_marks(const SolidMesh& mesh, const std::vector<SolidMark>& marks) {
    const std::vector<Vec3> still;
    return SolidView(mesh, still, dim_on_field, PictureUse::page).choose(marks);
}

PictureFiles draw_solid_field(const SolidMesh& mesh, const SolidFieldPicture& p, PictureUse use) {
    SolidView view(mesh, p.displacement, dim_on_field, use, p.section);
    view.set(p.camera ? *p.camera : view.choose(p.marks));
    const ColourLookup lookup(p.map);
    SolidView::Colours colours;
    if (p.elementwise.empty()) {
        colours.value = [&](std::size_t e, std::size_t local) {
            return p.slots[static_cast<std::size_t>(mesh.slots_of(e)[local])];
        };
        colours.colour = [&](const ShownSide&, double value) { return lookup(p.position(value)); };
    } else {
        colours.colour = [&](const ShownSide& s, double) { return lookup(p.position(p.elementwise[s.element])); };
    }
    view.paint(colours, p.sides);
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
                             const std::string& length_unit, PictureUse use, const std::vector<NamedLine>& edges,
                             const std::vector<SolidMark>& places, const std::optional<PlaneSpec>& section) {
    const std::vector<Vec3> still;
    SolidView view(mesh, still, dim_on_body, use, section);
    std::vector<SolidMark> points = places;
    for (const auto& point : mesh.points)
        points.push_back({mesh.nodes[static_cast<std::size_t>(point.node)], point.name, 0});
    view.set(view.choose(points));
    std::vector<std::string> edge_names;  // in the order in which they have their colours, after those of the faces
    for (const auto& line : edges)
        if (edge_names.empty() || edge_names.back() != line.name) edge_names.push_back(line.name);
    const auto colour_of_edge = [&](const std::string& name) {
        const auto k = std::find(edge_names.begin(), edge_names.end(), name) - edge_names.begin();
        return category(static_cast<int>(mesh.boundary_names.size()) + static_cast<int>(k));
    };
    // The first name of a face gives it its colour, softened so that the elements can be seen.
    const auto colour_of_name = [](int name) {
        constexpr double share = 0.55;
        const Colour c = category(name);
        return Colour{1 - share * (1 - c.r), 1 - share * (1 - c.g), 1 - share * (1 - c.b)};
    };
    view.paint({{},
                [&](const ShownSide& s, double) {
                    if (s.boundary < 0) return body;
                    const auto side = static_cast<std::size_t>(s.boundary);
                    const auto& names = mesh.names_of_edge[static_cast<std::size_t>(mesh.boundary[side].edge)];
                    return names.empty() ? body : colour_of_name(names.front());
                }},
               !section);
    for (const auto& line : edges) view.add_line(line.points, colour_of_edge(line.name));
    return both_formats(
        [&](Canvas& c) {
            heading(c, title, subtitle);
            view.draw(c);
            view.draw_marks(c, points);
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
            if (!edge_names.empty()) {
                y += 34;
                c.text({{legend_left, y - 28}}, "named edges", {.size = 14, .strong = true});
            }
            for (const auto& name : edge_names) {
                c.line({{{legend_left, y - 5}}, {{legend_left + 26, y - 5}}}, colour_of_edge(name), 4);
                c.text({{legend_left + 36, y}}, name, {.size = 14});
                y += 26;
            }
            if (!places.empty()) {
                c.text({{legend_left, y + 20}}, "numbers: see the list;", {.size = 13});
                c.text({{legend_left, y + 38}}, "hollow ones lie behind", {.size = 13});
            }
            length_bar(c, view.view(), length_unit);
            view.draw_axes(c);
        },
        use);
}

}  // namespace dotsift
