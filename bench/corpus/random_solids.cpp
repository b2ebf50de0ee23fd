#include "random_solids.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

namespace {

constexpr double turn = 2 * std::numbers::pi;

class Draw {
  public:
    explicit Draw(unsigned seed) : engine_(seed * 7919u + 17u) {}
    double in(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine_); }
    int whole(int low, int high) { return std::uniform_int_distribution<int>(low, high)(engine_); }
    bool chance(double p) { return in(0, 1) < p; }
    /// One of so many steps between two values: shapes that touch, or share their faces.
    double step(double low, double high) { return low + (high - low) * whole(0, 8) / 8; }
    std::string turned() {
        if (chance(0.5)) return "";
        return fmt::format("rotate = {:.6g}\nabout = [[0, 0, 0], [{:.4g}, {:.4g}, {:.4g}]]\n", in(0, turn), in(-1, 1),
                           in(-1, 1), in(0.1, 1));
    }

  private:
    std::mt19937 engine_;
};

std::string shape(const std::string& verb, const std::string& kind, const std::string& rest) {
    return fmt::format("[[part.shape]]\n{} = \"{}\"\n{}", verb, kind, rest);
}
std::string box(double x, double y, double z, double a, double b, double c, const std::string& rest,
                const std::string& verb = "add") {
    return shape(verb, "box",
                 fmt::format("corner = [{:.8g}, {:.8g}, {:.8g}]\nsize = [{:.8g}, {:.8g}, {:.8g}]\n{}\n", x, y, z, a, b,
                             c, rest));
}
std::string cylinder(double x, double y, double z0, double z1, double r, const std::string& rest,
                     const std::string& verb = "add") {
    return shape(
        verb, "cylinder",
        fmt::format("from = [{0:.8g}, {1:.8g}, {2:.8g}]\nto = [{0:.8g}, {1:.8g}, {3:.8g}]\nradius = {4:.8g}\n{5}\n", x,
                    y, z0, z1, r, rest));
}
std::string sphere(double x, double y, double z, double r, const std::string& rest, const std::string& verb = "add") {
    return shape(verb, "sphere",
                 fmt::format("centre = [{:.8g}, {:.8g}, {:.8g}]\nradius = {:.8g}\n{}\n", x, y, z, r, rest));
}

/// A primitive about the middle of a space of 20, of any kind.
std::string primitive(Draw& d, const std::string& verb, const std::string& name, const std::string& more) {
    const std::string rest = fmt::format("name = \"{}\"\n{}{}", name, more, d.turned());
    switch (d.whole(0, 5)) {
        case 0: {
            const double a = d.step(4, 20), b = d.step(4, 20), c = d.step(4, 20);
            return box(d.step(-12, 4), d.step(-12, 4), d.step(-12, 4), a, b, c, rest, verb);
        }
        case 1: {
            const double from = d.step(-14, 0);
            return cylinder(d.step(-6, 6), d.step(-6, 6), from, from + d.step(4, 24), d.step(2, 8), rest, verb);
        }
        case 2:
            return sphere(d.step(-6, 6), d.step(-6, 6), d.step(-6, 6), d.step(3, 10), rest, verb);
        case 3: {
            const double from = d.step(-10, 0);
            return shape(verb, "cone",
                         fmt::format("from = [{0:.8g}, {1:.8g}, {2:.8g}]\nto = [{0:.8g}, {1:.8g}, {3:.8g}]\nradii = "
                                     "[{4:.8g}, {5:.8g}]\n{6}\n",
                                     d.step(-6, 6), d.step(-6, 6), from, from + d.step(5, 16), d.step(4, 9),
                                     d.step(0, 3), rest));
        }
        case 4:
            return shape(verb, "ring",
                         fmt::format("centre = [{:.8g}, {:.8g}, {:.8g}]\nradii = [{:.8g}, {:.8g}]\n{}\n", d.step(-5, 5),
                                     d.step(-5, 5), d.step(-5, 5), d.step(6, 9), d.step(1.5, 4), rest));
        default:
            return shape(
                verb, "wedge",
                fmt::format("corner = [{:.8g}, {:.8g}, {:.8g}]\nsize = [{:.8g}, {:.8g}, {:.8g}]\ntip = {:.8g}\n{}\n",
                            d.step(-10, 2), d.step(-10, 2), d.step(-10, 2), d.step(8, 16), d.step(5, 14), d.step(5, 12),
                            d.step(2, 6), rest));
    }
}

/// Round the origin, with so many corners; not self-crossing.
std::string star(Draw& d, int corners, double least, double most) {
    std::string text = "corners = [";
    for (int k = 0; k < corners; ++k) {
        const double angle = turn * (k + d.in(-0.25, 0.25)) / corners, r = d.in(least, most);
        text += fmt::format("{}[{:.7g}, {:.7g}]", k ? ", " : "", r * std::cos(angle), r * std::sin(angle));
    }
    return text + "]\n";
}

}  // namespace

RandomSolid random_solid(unsigned seed) {
    Draw d(seed);
    RandomSolid s;
    s.size = 25;
    const std::string b_region = "region = \"b\"\n";
    switch (seed % solid_kinds) {
        case 0:
        case 1:
        case 2: {  // booleans of anything
            s.kind = "booleans";
            s.shapes = primitive(d, "add", "s1", "");
            const int more = d.whole(1, 4);
            for (int k = 0; k < more; ++k) {
                const std::string verb = d.chance(0.45) ? "add" : d.chance(0.8) ? "cut" : "intersect";
                s.shapes += primitive(d, verb, fmt::format("s{}", k + 2), "");
            }
            for (int k = 0; k <= more; ++k) s.names.push_back(fmt::format("s{}", k + 1));
            break;
        }
        case 3:
        case 4: {  // regions
            s.kind = "regions";
            s.shapes = primitive(d, "add", "s1", "region = \"a\"\n") + primitive(d, "add", "s2", b_region);
            if (d.chance(0.5)) s.shapes += primitive(d, "cut", "s3", "");
            if (d.chance(0.4)) s.shapes += primitive(d, "split", "s4", "");
            s.names = {"s1", "s2", "a", "b"};
            break;
        }
        case 5: {  // a plate with holes and rounds
            s.kind = "drilled plate";
            const double thick = d.in(1, 6), r = d.in(0.8, 2.2);
            s.shapes = box(0, 0, 0, 30, 20, thick, "name = \"plate\"");
            const int nx = d.whole(1, 4), ny = d.whole(1, 3);
            s.shapes +=
                cylinder(4, 4, -1, thick + 1, r,
                         fmt::format("name = \"hole\"\nrepeat = [{}, {}]\nstep = [[{:.6g}, 0, 0], [0, {:.6g}, 0]]", nx,
                                     ny, 22.0 / std::max(nx - 1, 1), 12.0 / std::max(ny - 1, 1)),
                         "cut");
            if (d.chance(0.6)) {
                const bool round = d.chance(0.5);
                s.shapes += shape("change", round ? "round" : "bevel",
                                  fmt::format("{} = {:.6g}\nbetween = [\"plate\", \"hole\"]\n",
                                              round ? "radius" : "length", 0.15 * thick));
            }
            s.names = {"plate", "hole"};
            s.size = 30;
            break;
        }
        case 6: {  // a block all of whose edges are rounded
            s.kind = "rounded block";
            const double a = d.in(6, 20), b = d.in(6, 20), c = d.in(3, 20), r = d.in(0.05, 0.35) * std::min({a, b, c});
            s.shapes = box(0, 0, 0, a, b, c, "name = \"block\"") +
                       shape("change", "round", fmt::format("radius = {:.6g}\ncorners = \"all\"\n", r));
            if (d.chance(0.6))
                s.shapes +=
                    cylinder(a / 2, b / 2, -1, c + 1, d.in(0.1, 0.25) * std::min(a, b), "name = \"bore\"", "cut");
            s.names = {"block", "bore"};
            break;
        }
        case 7: {  // thin walls
            s.kind = "hollow";
            const double wall = d.in(0.25, 1.5);
            s.shapes = d.chance(0.5)
                           ? box(0, 0, 0, d.in(10, 24), d.in(10, 24), d.in(6, 20),
                                 "names = { top = \"lid\" }\nname = \"body\"")
                           : cylinder(0, 0, 0, d.in(6, 20), d.in(5, 10), "names = { end = \"lid\" }\nname = \"body\"");
            s.shapes += shape("change", "hollow",
                              fmt::format("wall = {:.6g}\n{}", wall, d.chance(0.6) ? "open = \"lid\"\n" : ""));
            s.names = {"body", "lid"};
            break;
        }
        case 8: {  // a drawn outline
            s.kind = "drawn";
            s.shapes = shape("add", "polygon",
                             star(d, d.whole(5, 11), 5, 12) + "name = \"side\"\n" +
                                 fmt::format("extrude = {{ from = {:.5g}, to = {:.5g}{} }}\n", d.in(-5, 0), d.in(1, 14),
                                             d.chance(0.4) ? ", taper = \"3 deg\"" : ""));
            if (d.chance(0.5)) s.shapes += cylinder(0, 0, -20, 20, d.in(1, 3.5), "name = \"bore\"", "cut");
            s.names = {"side", "bore"};
            break;
        }
        case 9: {  // a turned outline
            s.kind = "turned";
            s.shapes = shape(
                "add", "rectangle",
                fmt::format("corner = [{:.5g}, 0]\nsize = [{:.5g}, {:.5g}]\nname = \"wall\"\n{}revolve = {{ {} }}\n",
                            d.chance(0.3) ? 0.0 : d.in(2, 8), d.in(0.5, 6), d.in(3, 16),
                            d.chance(0.5) ? "round = 0.2\n" : "",
                            d.chance(0.5) ? fmt::format("angle = {:.5g}", d.in(0.3, 5.9)) : ""));
            if (d.chance(0.4))
                s.shapes += sphere(d.in(-6, 6), d.in(0, 10), d.in(-6, 6), d.in(1.5, 4), "name = \"dent\"", "cut");
            s.names = {"wall", "dent"};
            break;
        }
        case 10: {  // led along a path
            s.kind = "led";
            const double r = d.in(1, 3), bend = d.in(4, 12), out = d.in(6, 20);
            const double c = bend * (1 - std::sqrt(0.5)), q = bend * std::sqrt(0.5);
            s.shapes = shape("add", "circle", fmt::format("radius = {:.6g}\nname = \"pipe\"\n", r)) +
                       fmt::format(
                           "[part.shape.sweep]\nfrom = [0, 0, 0]\npath = [{{ to = [{0:.10g}, 0, 0] }}, {{ to = "
                           "[{1:.10g}, {2:.10g}, 0], through = [{3:.10g}, {4:.10g}, 0] }}]\n",
                           out, out + bend, bend, out + q, c);
            if (d.chance(0.6)) s.shapes += box(-1, -5, -5, d.in(3, 5), 10, 10, "name = \"flange\"");
            s.names = {"pipe", "flange"};
            break;
        }
        case 11: {  // small features on large faces
            s.kind = "small features";
            s.shapes = box(0, 0, 0, 24, 18, 8, "name = \"block\"");
            const int many = d.whole(2, 6);
            for (int k = 0; k < many; ++k) {
                const double r = d.in(0.15, 0.8), x = d.in(1, 23), y = d.in(1, 17);
                s.shapes += d.chance(0.5)   ? cylinder(x, y, 7, 8 + d.in(0.1, 2), r, "name = \"pin\"")
                            : d.chance(0.5) ? sphere(x, y, 8, r, "name = \"pit\"", "cut")
                                            : cylinder(x, y, -1, 9, r, "name = \"pit\"", "cut");
            }
            s.names = {"block", "pin", "pit"};
            break;
        }
        case 12: {  // layers of regions, one of them thin
            s.kind = "layers";
            double z = 0;
            const int many = d.whole(2, 4);
            for (int k = 0; k < many; ++k) {
                const double thick = d.chance(0.4) ? d.in(0.1, 0.6) : d.in(2, 8);
                s.shapes +=
                    box(0, 0, z, 16, 12, thick, fmt::format("region = \"{}\"\nname = \"layer{}\"", "abcd"[k], k));
                s.names.push_back(fmt::format("layer{}", k));
                s.names.emplace_back(1, "abcd"[k]);
                z += thick;
            }
            if (d.chance(0.6))
                s.shapes += cylinder(8, 6, -1, z + 1, d.in(1, 4), "name = \"bore\"", d.chance(0.5) ? "cut" : "split");
            break;
        }
        case 13: {  // a branch of pipes with a round in the corner
            s.kind = "branch";
            const double r = d.in(3, 6), q = d.in(0.4, 0.9) * r;
            s.shapes = shape("add", "cylinder",
                             fmt::format("from = [-15, 0, 0]\nto = [15, 0, 0]\nradius = {:.6g}\nname = \"run\"\n", r)) +
                       cylinder(0, 0, 0, 14, q, "name = \"neck\"");
            if (d.chance(0.6))
                s.shapes += shape("change", "round",
                                  fmt::format("radius = {:.6g}\nbetween = [\"run\", \"neck\"]\n", d.in(0.2, 0.8)));
            if (d.chance(0.6))
                s.shapes += shape("cut", "cylinder",
                                  fmt::format("from = [-16, 0, 0]\nto = [16, 0, 0]\nradius = {:.6g}\nname = \"bore\"\n",
                                              0.7 * r)) +
                            cylinder(0, 0, 0, 15, 0.6 * q, "name = \"bore\"", "cut");
            s.names = {"run", "neck", "bore"};
            s.size = 30;
            break;
        }
        default: {  // sharp edges
            s.kind = "sharp";
            s.shapes = shape(
                "add", "wedge",
                fmt::format("corner = [0, 0, 0]\nsize = [{:.5g}, {:.5g}, {:.5g}]\ntip = {:.5g}\nname = \"wedge\"\n",
                            d.in(8, 20), d.in(5, 14), d.in(2, 8), d.chance(0.5) ? 0.0 : d.in(0.5, 3)));
            if (d.chance(0.5))
                s.shapes += sphere(d.in(2, 8), d.in(0, 6), d.in(0, 4), d.in(1, 3), "name = \"bite\"", "cut");
            s.names = {"wedge", "bite"};
            break;
        }
    }
    return s;
}

std::string random_sizes(const RandomSolid& solid, unsigned seed, bool rules) {
    Draw d(seed + 100003u);
    std::string text = fmt::format("[size]\nglobal = {:.6g}\n", solid.size / d.in(7, 14));
    if (!rules) return text;
    if (d.chance(0.3)) text += fmt::format("growth = {:.4g}\n", d.in(1.15, 1.9));
    if (d.chance(0.3)) text += fmt::format("segments_per_circle = {}\n", d.whole(6, 40));
    if (d.chance(0.2)) text += fmt::format("smallest = {:.5g}\n", solid.size / d.in(60, 300));
    const int many = d.whole(1, 3);
    for (int k = 0; k < many; ++k) {
        const std::string on =
            solid.names[static_cast<std::size_t>(d.whole(0, static_cast<int>(solid.names.size()) - 1))];
        const double h = solid.size / d.in(15, 60), x = d.in(-8, 20), y = d.in(-8, 14), z = d.in(-6, 10);
        text += fmt::format("[size.local.r{}]\n", k);
        switch (d.whole(0, 7)) {
            case 0:
                text += fmt::format("on = \"{}\"\nsize = {:.5g}\n", on, h);
                break;
            case 1:
                text += fmt::format("on = \"{}\"\nsize = {:.5g}\nwithin = {:.5g}\n", on, h, d.in(0.5, 4));
                break;
            case 2:
                text += fmt::format("on = \"{}\"\nsize = \"{:.5g} + 0.1 * abs(x)\"\n", on, h);
                break;
            case 3:
                text += fmt::format("across = {}\n{}", d.whole(1, 4), d.chance(0.5) ? "on = \"" + on + "\"\n" : "");
                break;
            case 4:
                text += fmt::format(
                    "inside = {{ shape = \"sphere\", centre = [{:.5g}, {:.5g}, {:.5g}], radius = {:.5g} }}\nsize = "
                    "{:.5g}\n",
                    x, y, z, d.in(2, 8), h);
                break;
            case 5:
                text += fmt::format(
                    "along = {{ shape = \"line\", from = [{:.5g}, {:.5g}, {:.5g}], to = [{:.5g}, {:.5g}, {:.5g}] "
                    "}}\nsize = {:.5g}\n",
                    x, y, z, y, z, x, h);
                break;
            case 6:
                text += fmt::format("on = \"{}\"\nsegments_per_circle = {}\n", on, d.whole(8, 50));
                break;
            default:
                text += fmt::format("size = \"{:.5g} + 0.08 * abs(y - {:.4g})\"\n", h, y);
        }
    }
    return text;
}

}  // namespace dotsift
