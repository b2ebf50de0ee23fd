// Meshes of 30 described solids: how good they are, and how long they take.
//     build/bench/dotsift-solid-meshes [SIZES]
// SIZES divides every wanted size (1). Exit status 1 if one is not meshed, an element is not valid everywhere, or a
// limit is not kept: dihedral angles of at least 9 degrees, a mean shape of at least 0.75, volumes and areas of faces
// within the error that chords of the wanted segments make.

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/elements/shape.hpp"
#include "mesh/side_meeting.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/build.hpp"
#include "part/solid/from_plane.hpp"
#include "sizes/part_sizes.hpp"
#include "study/read.hpp"

using namespace dotsift;

namespace {

constexpr double pi = std::numbers::pi;

struct Described {
    std::string name, shapes;
    double size;
    bool turned;
    double by;           ///< height or angle
    bool sharp = false;  ///< the part itself has sharper edges than a mesh's limit
};

std::string rectangle(double x, double y, double w, double h, const std::string& more = "", const char* verb = "add") {
    return fmt::format("[[part.shape]]\n{} = \"rectangle\"\ncorner = [{}, {}]\nsize = [{}, {}]\n{}\n", verb, x, y, w, h,
                       more);
}
std::string circle(double x, double y, double r, const std::string& more = "", const char* verb = "add") {
    return fmt::format("[[part.shape]]\n{} = \"circle\"\ncentre = [{}, {}]\nradius = {}\n{}\n", verb, x, y, r, more);
}
std::string cut(const std::string& text) {
    std::string out = text;
    out.replace(out.find("add = "), 6, "cut = ");
    return out;
}

std::vector<Described> all() {
    const double turn = 2 * pi;
    const std::string half = cut(rectangle(-9, -9, 9, 18));
    std::vector<Described> list{
        {"brick", rectangle(0, 0, 3, 2), 0.25, false, 1},
        {"long bar", rectangle(0, 0, 10, 1), 0.25, false, 1},
        {"plate 1:40", rectangle(0, 0, 8, 8), 0.2, false, 0.2},
        {"plate with a hole", rectangle(0, 0, 6, 4) + cut(circle(3, 2, 1)), 0.3, false, 0.6},
        {"plate with 9 holes",
         rectangle(0, 0, 6, 6) + cut(circle(1, 1, 0.5, "repeat = [3, 3]\nstep = [[2, 0], [0, 2]]")), 0.25, false, 0.6},
        {"angle", rectangle(0, 0, 4, 1) + rectangle(0, 0, 1, 4), 0.3, false, 2},
        {"channel", rectangle(0, 0, 4, 3) + cut(rectangle(0.5, 0.5, 3, 3)), 0.25, false, 3},
        {"slotted plate",
         rectangle(0, 0, 8, 3) + "[[part.shape]]\ncut = \"slot\"\nfrom = [2, 1.5]\nto = [6, 1.5]\nwidth = 1\n", 0.3,
         false, 0.8},
        {"elliptic rod", "[[part.shape]]\nadd = \"ellipse\"\nradii = [2, 1]\n", 0.3, false, 3},
        {"rounded block", rectangle(0, 0, 4, 3, "round = 0.8"), 0.3, false, 2},
        {"wedge of 30 degrees", "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [4, 0], [4, 2.3094]]\n", 0.3,
         false, 1},
        {"wedge of 8 degrees", "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [6, 0], [6, 0.843]]\n", 0.3,
         false, 1, true},
        {"two regions side by side", rectangle(0, 0, 2, 2, "region = \"a\"") + rectangle(2, 0, 2, 2, "region = \"b\""),
         0.3, false, 1},
        {"plug in a plate", rectangle(0, 0, 4, 4) + circle(2, 2, 1, "region = \"plug\""), 0.3, false, 1},
        {"thin layer between blocks",
         rectangle(0, 0, 4, 1, "region = \"a\"") + rectangle(0, 1, 4, 0.1, "region = \"b\"") +
             rectangle(0, 1.1, 4, 1, "region = \"c\""),
         0.3, false, 2},
        {"cylinder", circle(0, 0, 1), 0.25, false, 2},
        {"rod turned", rectangle(0, 0, 0.8, 3), 0.25, true, turn},
        {"tube", rectangle(1, 0, 0.3, 2), 0.2, true, turn},
        {"tube with a wall 1:40", rectangle(2, 0, 0.1, 4), 0.12, true, turn / 4},
        {"tube, two regions",
         rectangle(1, 0, 0.3, 2, "region = \"in\"") + rectangle(1.3, 0, 0.4, 2, "region = \"out\""), 0.25, true,
         turn / 2},
        {"cone", "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1, 0], [0, 2]]\n", 0.2, true, turn},
        {"frustum", "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [1, 2], [0, 2]]\n", 0.3, true, turn},
        {"ball", circle(0, 0, 1) + half, 0.25, true, turn},
        {"hollow ball", circle(0, 0, 1) + cut(circle(0, 0, 0.7)) + half, 0.2, true, turn},
        {"eighth of a hollow ball", circle(0, 0, 2) + cut(circle(0, 0, 1)) + half + cut(rectangle(-9, -9, 18, 9)), 0.3,
         true, turn / 4},
        {"ring", circle(2, 0, 0.5), 0.25, true, turn},
        {"ring of 200 degrees", circle(2, 0, 0.5), 0.25, true, 200 * pi / 180},
        {"pipe bend", circle(3, 0, 1) + cut(circle(3, 0, 0.8)), 0.25, true, turn / 4},
        {"shaft with rounded shoulder",
         rectangle(0, 0, 2, 1.5) + rectangle(0, 0, 1, 4) +
             "[[part.shape]]\nchange = \"round\"\ncorners = \"inner\"\nradius = 0.3\n",
         0.35, true, turn / 2},
        {"pulley", rectangle(0.5, 0, 2.5, 1) + cut(circle(3, 0.5, 0.3)), 0.25, true, turn},
    };
    return list;
}

Part part_of(const std::string& shapes) {
    Problems problems("bench");
    const Study study =
        read_study("bench",
                   "format = 1\n[part]\n" + shapes +
                       "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[support.s]\non = \"*\"\nhold = "
                       "\"fixed\"\n[load.l]\non = \"*\"\npressure = 1\n",
                   problems);
    Part part = build_part(study, problems).part;
    problems.throw_if_any();
    return part;
}

}  // namespace

int main(int argc, char** argv) {
    const double finer = argc > 1 ? std::atof(argv[1]) : 1;
    bool good = true;
    fmt::print("{:28} {:>8} {:>8} {:>5} {:>6} {:>6} {:>6} {:>6} {:>9} {:>9} {:>7} {:>8}\n", "solid", "elements",
               "nodes", "tries", "angle", "to", "shape", "worst", "volume", "faces", "Jacob.", "s");
    double seconds = 0, elements = 0;
    for (const auto& d : all()) {
        try {
            const Part plane = part_of(d.shapes);
            const SolidPart part = d.turned ? turned_solid(plane, d.by) : drawn_solid(plane, 0, d.by);
            SizeSpec sizes;
            sizes.global = d.size;
            const auto field = sizing_of(part, sizes, "").scaled(1 / finer).field;
            MeshingLog log;
            const auto begin = std::chrono::steady_clock::now();
            const SolidMesh mesh = generate_solid(part, {field}, 10'000'000, 2, &log);
            const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
            double sharpest = pi, bluntest = 0, mean = 0, worst = 1, jacobian = INFINITY;
            for (std::size_t e = 0; e < mesh.element_count(); ++e) {
                const auto x = mesh.positions(e);
                const std::array<Vec3, 4> corners{x[0], x[1], x[2], x[3]};
                const auto angles = dihedral_angles(corners);
                sharpest = std::min(sharpest, angles[0]);
                bluntest = std::max(bluntest, angles[1]);
                mean += mean_ratio(corners) / static_cast<double>(mesh.element_count());
                worst = std::min(worst, mean_ratio(corners));
                jacobian = std::min(jacobian, jacobian_bound(mesh.kinds[e], std::span(x).first(10)));
            }
            std::vector<double> areas(part.faces.size(), 0.0);
            for (const auto& side : mesh.boundary)
                for (const auto& p : points_on_side(mesh, {side.element, side.side}))
                    areas[static_cast<std::size_t>(side.edge)] += p.weight;
            double apart = 0;
            for (std::size_t f = 0; f < areas.size(); ++f)
                apart = std::max(apart, std::fabs(areas[f] / measure_face(part, f).size - 1));
            const double volume = std::fabs(mesh.measure() / measure(part).size - 1);
            // Parabolic chords of 16 a turn are off by the fourth power of their angle.
            const double allowed = std::pow(2 * pi / 16, 4) / 30;
            const bool kept = jacobian > 0 && (d.sharp || sharpest >= 9 * pi / 180) && mean >= 0.75 &&
                              volume < allowed && apart < 4 * allowed;
            good = good && kept;
            seconds += took;
            elements += static_cast<double>(mesh.element_count());
            fmt::print("{:28} {:8} {:8} {:5} {:6.1f} {:6.1f} {:6.3f} {:6.3f} {:9.1e} {:9.1e} {:7.2f} {:8.2f}{}\n",
                       d.name, mesh.element_count(), mesh.nodes.size(), log.tries.size(), sharpest * 180 / pi,
                       bluntest * 180 / pi, mean, worst, volume, apart, jacobian, took, kept ? "" : "  NOT KEPT");
        } catch (const Error& e) {
            good = false;
            fmt::print("{:28} FAILED: {}\n", d.name, e.what());
        }
    }
    fmt::print("{:.0f} elements in {:.1f} s: {:.0f} a second\n", elements, seconds, elements / seconds);
    return good ? 0 : 1;
}
