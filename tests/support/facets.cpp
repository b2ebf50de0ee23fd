#include "support/facets.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

namespace dotsift::test {

FacetMesh box_facets(const Vec3& low, const Vec3& size, bool named) {
    FacetMesh m;
    for (int c = 0; c < 8; ++c)
        m.points.push_back(low + Vec3{{c & 1 ? size[0] : 0, c & 2 ? size[1] : 0, c & 4 ? size[2] : 0}});
    m.groups = {""};
    if (named) m.groups = {"bottom", "top", "front", "back", "left", "right"};
    const std::array<std::array<std::int32_t, 4>, 6> sides{
        {{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}}};
    for (std::size_t s = 0; s < 6; ++s) {
        const auto group = static_cast<std::int32_t>(named ? s : 0);
        m.facets.push_back({{sides[s][0], sides[s][1], sides[s][2]}, group});
        m.facets.push_back({{sides[s][0], sides[s][2], sides[s][3]}, group});
    }
    return m;
}

FacetMesh quarter_tube_facets(double inner, double outer, double height, int steps) {
    FacetMesh m;
    m.groups = {"inner", "outer", "foot", "top", "one", "two"};
    for (int k = 0; k <= steps; ++k)
        for (const double r : {inner, outer})
            for (const double z : {0.0, height}) {
                const double t = M_PI / 2 * k / steps;
                // At the ends exactly in the planes of symmetry.
                m.points.push_back({{k == steps ? 0 : r * std::cos(t), k == 0 ? 0 : r * std::sin(t), z}});
            }
    const auto side = [&](std::int32_t group, int a, int b, int c, int d) {
        m.facets.push_back({{a, b, c}, group});
        m.facets.push_back({{a, c, d}, group});
    };
    for (int k = 0; k < steps; ++k) {
        const int a = 4 * k, b = a + 4;  // inner foot, inner top, outer foot, outer top of both steps
        side(0, a, a + 1, b + 1, b);
        side(1, a + 2, b + 2, b + 3, a + 3);
        side(2, a, b, b + 2, a + 2);
        side(3, a + 1, a + 3, b + 3, b + 1);
    }
    const int end = 4 * steps;
    side(4, 0, 2, 3, 1);
    side(5, end, end + 1, end + 3, end + 2);
    return m;
}

FacetMesh together(FacetMesh a, const FacetMesh& b) {
    const auto first = static_cast<std::int32_t>(a.points.size());
    a.points.insert(a.points.end(), b.points.begin(), b.points.end());
    for (Facet f : b.facets) {
        for (auto& v : f.v) v += first;
        f.group = 0;
        a.facets.push_back(f);
    }
    return a;
}

FacetMesh moved_by(FacetMesh m, const Vec3& by) {
    for (Vec3& p : m.points) p = p + by;
    return m;
}

namespace {

template <class T>
void put(std::string& out, T value, bool swapped = false) {
    std::array<char, sizeof(T)> raw{};
    std::memcpy(raw.data(), &value, sizeof(T));
    if (swapped) std::reverse(raw.begin(), raw.end());
    out.append(raw.data(), raw.size());
}

}  // namespace

std::string facet_file(const FacetMesh& mesh, const std::string& format) {
    std::string out;
    const auto line = [&](const Vec3& p) { return fmt::format("{} {} {}\n", p[0], p[1], p[2]); };
    if (format == "stl") {
        for (std::size_t g = 0; g < mesh.groups.size(); ++g) {
            out += "solid " + mesh.groups[g] + "\n";
            for (const auto& f : mesh.facets) {
                if (f.group != static_cast<std::int32_t>(g)) continue;
                out += "facet normal 0 0 0\n outer loop\n";
                for (std::size_t k = 0; k < 3; ++k) out += "  vertex " + line(mesh.corner(f, k));
                out += " endloop\nendfacet\n";
            }
            out += "endsolid " + mesh.groups[g] + "\n";
        }
    } else if (format == "stl-binary") {
        out.assign(80, ' ');
        put(out, static_cast<std::uint32_t>(mesh.facets.size()));
        for (const auto& f : mesh.facets) {
            for (int k = 0; k < 3; ++k) put(out, 0.F);
            for (std::size_t k = 0; k < 3; ++k)
                for (std::size_t a = 0; a < 3; ++a) put(out, static_cast<float>(mesh.corner(f, k)[a]));
            put(out, std::uint16_t{0});
        }
    } else if (format.rfind("ply", 0) == 0) {
        const bool text = format == "ply", big = format == "ply-big";
        out = fmt::format(
            "ply\nformat {} 1.0\ncomment of a test\nelement vertex {}\nproperty double x\nproperty double y\n"
            "property double z\nproperty uchar shade\nelement face {}\nproperty list uchar int vertex_indices\n"
            "end_header\n",
            text  ? "ascii"
            : big ? "binary_big_endian"
                  : "binary_little_endian",
            mesh.points.size(), mesh.facets.size());
        for (const Vec3& p : mesh.points) {
            if (text) {
                out += fmt::format("{} {} {} 7\n", p[0], p[1], p[2]);
                continue;
            }
            for (std::size_t a = 0; a < 3; ++a) put(out, p[a], big);
            put(out, std::uint8_t{7});
        }
        for (const auto& f : mesh.facets) {
            if (text) {
                out += fmt::format("3 {} {} {}\n", f.v[0], f.v[1], f.v[2]);
                continue;
            }
            put(out, std::uint8_t{3});
            for (const auto v : f.v) put(out, v, big);
        }
    } else if (format == "off") {
        out = fmt::format("OFF\n# of a test\n{} {} 0\n", mesh.points.size(), mesh.facets.size());
        for (const Vec3& p : mesh.points) out += line(p);
        for (const auto& f : mesh.facets) out += fmt::format("3 {} {} {} 0.5 0.5 0.5\n", f.v[0], f.v[1], f.v[2]);
    } else {
        for (const Vec3& p : mesh.points) out += "v " + line(p);
        for (std::size_t g = 0; g < mesh.groups.size(); ++g) {
            out += "g " + mesh.groups[g] + "\n";
            for (const auto& f : mesh.facets)
                if (f.group == static_cast<std::int32_t>(g))
                    out += fmt::format("f {}/1/1 {}//2 {}\n", f.v[0] + 1, f.v[1] + 1, f.v[2] + 1);
        }
    }
    return out;
}

}  // namespace dotsift::test
