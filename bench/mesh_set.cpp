// Figures of merit of the meshes of a set of outlines.
//     dotsift-mesh-set DIRECTORY [triangles|mostly_quadrilaterals|quadrilaterals]
// Exit status 1 if one misses its limit.

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <span>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "mesh/generate.hpp"
#include "mesh/shape.hpp"
#include "part/check_study.hpp"
#include "part/corners.hpp"
#include "sizes/part_sizes.hpp"

namespace {

using namespace dotsift;

constexpr double least_angle = 25, least_mean_quality = 0.96, least_edges = 0.9;
constexpr double least_quad_area = 0.95, least_quad_jacobian = 0.35, least_mean_jacobian = 0.85, least_only_quads = 0.2;

struct Figures {
    std::size_t elements = 0;
    double angle = 180, quality = 0, edges = 0, quad_area = 0, jacobian = 1, mean_jacobian = 0, seconds = 0;
};

Figures judge(const Part& part, const Mesh& mesh, const SizeField& sizes) {
    Figures f;
    f.elements = mesh.element_count();
    // Not held against the mesh: angles in a corner of the part that is sharper itself, as far as it is narrower than
    // an element.
    const auto sharp = sharpest_angles(part);
    struct Corner {
        Vec2 at;
        double reach;
    };
    std::vector<Corner> excused;
    for (std::size_t v = 0; v < part.vertices.size(); ++v)
        if (sharp[v] < least_angle)
            excused.push_back(
                {part.vertices[v], sizes.at(part.vertices[v]) / (2 * std::tan(sharp[v] * std::numbers::pi / 360))});
    double edges = 0, good = 0, area = 0, quads = 0, count_quads = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh.kinds[e])));
        const ShapeMeasures m = measure_shape(corners);
        f.quality += m.mean_ratio / static_cast<double>(f.elements);
        const bool at_sharp = std::any_of(corners.begin(), corners.end(), [&](const Vec2& q) {
            return std::any_of(excused.begin(), excused.end(),
                               [&](const Corner& c) { return distance(c.at, q) <= c.reach; });
        });
        if (!at_sharp) f.angle = std::min(f.angle, m.smallest_angle);
        area += mesh.area_of(e);
        if (corners.size() == 4) {
            quads += mesh.area_of(e);
            ++count_quads;
            if (!at_sharp) f.jacobian = std::min(f.jacobian, m.scaled_jacobian);
            f.mean_jacobian += m.scaled_jacobian;
        }
        for (std::size_t i = 0; i < corners.size(); ++i) {
            const Vec2 &a = corners[i], &b = corners[(i + 1) % corners.size()];
            const double share = distance(a, b) / sizes.at((a + b) * 0.5);
            ++edges;
            if (share >= 0.7 && share <= 1.4) ++good;
        }
    }
    f.edges = good / edges;
    f.quad_area = quads / area;
    f.mean_jacobian /= std::max(count_quads, 1.0);
    return f;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print("usage: dotsift-mesh-set DIRECTORY [triangles|mostly_quadrilaterals|quadrilaterals]\n");
        return 2;
    }
    const std::vector<std::string> names{"triangles", "mostly_quadrilaterals", "quadrilaterals"};
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1]))
        if (entry.path().extension() == ".toml") files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    bool all_good = true;
    for (std::size_t shape = 0; shape < names.size(); ++shape) {
        if (argc > 2 && names[shape] != argv[2]) continue;
        fmt::print("\n{}\n{:26} {:>8} {:>7} {:>7} {:>7} {:>9} {:>8} {:>8} {:>7}\n", names[shape], "outline", "elements",
                   "angle", "quality", "edges", "quad area", "worst J", "mean J", "ms");
        for (const auto& file : files) {
            Problems problems(file.string());
            const StudyAndPart opened = open_study(file, read_file(file), problems);
            problems.throw_if_any();
            MeshSpec elements;
            elements.shape = static_cast<ElementShape>(shape);
            const Sizing sizing = sizing_of(opened.part, opened.study.sizes, file);
            const auto start = std::chrono::steady_clock::now();
            std::string fault;
            Figures f;
            try {
                const Mesh mesh = generate(opened.part, sizing, 1'000'000, elements);
                f = judge(opened.part, mesh, sizing.field);
                for (std::size_t e = 0; e < mesh.element_count(); ++e)
                    if (!(jacobian_bound(mesh.kinds[e], mesh.positions(e)) > 0)) fault = "inverted element";
            } catch (const Error& e) {
                fault = e.what();
            }
            f.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
            bool good = fault.empty();
            if (shape == 0)
                good = good && f.angle >= least_angle && f.quality >= least_mean_quality && f.edges >= least_edges;
            if (shape == 1)
                good = good && f.quad_area >= least_quad_area && f.jacobian >= least_quad_jacobian &&
                       f.mean_jacobian >= least_mean_jacobian;
            if (shape == 2) good = good && f.quad_area == 1 && f.jacobian >= least_only_quads;
            all_good = all_good && good;
            fmt::print("{:26} {:8} {:7.1f} {:7.3f} {:6.1f}% {:8.1f}% {:8.3f} {:8.3f} {:7.0f} {}{}\n",
                       file.stem().string(), f.elements, f.angle, f.quality, 100 * f.edges, 100 * f.quad_area,
                       f.jacobian, f.mean_jacobian, 1e3 * f.seconds, good ? "" : "<-- ", fault);
        }
    }
    return all_good ? 0 : 1;
}
