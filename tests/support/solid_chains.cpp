#include "support/solid_chains.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <random>

#include "part/shapes/placement.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/build_solid.hpp"
#include "part/solid/chart.hpp"

namespace dotsift {

namespace {

/// A side of a shape: < 0 on the shape's side of its surface; lengths near that.
struct ImplicitSide {
    std::string name;
    double value;
};

AffineIn<3> inverse(const AffineIn<3>& map) {
    AffineIn<3> out;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) out.column[i][j] = map.column[j][i];
    out.shift = -out.turned(map.shift);
    return out;
}

std::vector<ImplicitSide> sides_at(const SpaceShapeSpec& s, const Vec3& place) {
    const Vec3 p = inverse(copies_of(s.placement).front())(place);
    const auto side = [&](const char* which) {
        for (const auto& [known, name] : s.names)
            if (known == which) return name;
        return s.name;
    };
    const auto along = [&](double& height, double& out) {
        const Vec3 d = (s.to - s.from) / distance(s.from, s.to);
        height = dot(p - s.from, d);
        out = norm(p - s.from - d * height);
        return distance(s.from, s.to);
    };
    double h = 0, r = 0;
    switch (s.primitive) {
        case SpacePrimitive::box: {
            const Vec3 low = s.corner, high = s.corner + s.size;
            return {{side("left"), low[0] - p[0]},  {side("right"), p[0] - high[0]}, {side("front"), low[1] - p[1]},
                    {side("back"), p[1] - high[1]}, {side("bottom"), low[2] - p[2]}, {side("top"), p[2] - high[2]}};
        }
        case SpacePrimitive::cylinder: {
            const double length = along(h, r);
            return {{side("side"), r - s.radius}, {side("start"), -h}, {side("end"), h - length}};
        }
        case SpacePrimitive::cone: {
            const double length = along(h, r), slope = (s.radii[1] - s.radii[0]) / length;
            return {{side("side"), (r - s.radii[0] - slope * h) / std::hypot(1, slope)},
                    {side("start"), -h},
                    {side("end"), h - length}};
        }
        case SpacePrimitive::sphere:
            return {{s.name, distance(p, s.centre) - s.radius}};
        case SpacePrimitive::ring: {
            const Vec3 n = s.normal / norm(s.normal), d = p - s.centre;
            h = dot(d, n);
            return {{s.name, std::hypot(norm(d - n * h) - s.radii[0], h) - s.radii[1]}};
        }
        default:
            return {};
    }
}

double depth(const std::vector<ImplicitSide>& sides) {
    double most = -INFINITY;
    for (const auto& s : sides) most = std::max(most, s.value);
    return most;
}

/// Random places inside a face, in the parameters of its surface.
std::vector<Vec2> places_on(const SolidPart& part, const SolidFace& face, int count, std::mt19937& random) {
    const Chart chart(face.surface);
    std::vector<std::array<Vec2, 2>> lines;
    Box2 box;
    constexpr int steps = 48;
    Vec2 beside = face.surface.project(part.edge(face.loops.front().front().edge).curve.point(0.5));
    for (const auto& loop : face.loops) {
        std::vector<Vec2> line;
        for (const EdgeUse& use : loop) {
            const auto& curve = part.edge(use.edge).curve;
            for (int k = 0; k < steps; ++k) {
                const double t = (k + 0.5) / steps;
                beside = face.surface.project(curve.point(use.forward ? t : 1 - t), beside);
                line.push_back(chart.flat(beside));
                box.add(line.back());
            }
        }
        for (std::size_t k = 0; k < line.size(); ++k) lines.push_back({line[k], line[(k + 1) % line.size()]});
    }
    std::vector<Vec2> found;
    std::uniform_real_distribution<double> share(0, 1);
    for (int tries = 0; tries < 60 * count && static_cast<int>(found.size()) < count; ++tries) {
        const Vec2 q{{box.low[0] + share(random) * box.size()[0], box.low[1] + share(random) * box.size()[1]}};
        bool inside = false;
        double near = INFINITY;
        for (const auto& [a, b] : lines) {
            const double t = std::clamp(dot(q - a, b - a) / std::max(dot(b - a, b - a), 1e-300), 0.0, 1.0);
            near = std::min(near, distance(q, a + (b - a) * t));
        }
        if (near < 0.02 * box.diagonal()) continue;  // the lines are chords
        for (const auto& [a, b] : lines)
            if ((a[1] > q[1]) != (b[1] > q[1]) && q[0] < a[0] + (b[0] - a[0]) * (q[1] - a[1]) / (b[1] - a[1]))
                inside = !inside;
        if (inside) found.push_back(chart.parameters(q));
    }
    return found;
}

}  // namespace

std::string SolidChain::region_at(const Vec3& p) const {
    std::string region;
    std::int64_t priority = 0;
    for (const auto& s : shapes) {
        const bool in = depth(sides_at(s, p)) < 0;
        if (s.verb == Verb::add && in && (region.empty() || s.priority >= priority)) {
            region = s.region;
            priority = s.priority;
        }
        const bool concerned = s.of.empty() || std::find(s.of.begin(), s.of.end(), region) != s.of.end();
        if ((s.verb == Verb::cut && in && concerned) || (s.verb == Verb::intersect && !in && concerned)) region.clear();
    }
    return region;
}

std::set<std::string> SolidChain::names_at(const Vec3& p, double tolerance) const {
    std::set<std::string> names;
    for (const auto& s : shapes) {
        const auto sides = sides_at(s, p);
        if (depth(sides) > tolerance) continue;
        for (const auto& side : sides)
            if (std::fabs(side.value) <= tolerance && !side.name.empty()) names.insert(side.name);
    }
    return names;
}

double SolidChain::clear_at(const Vec3& p, double tolerance) const {
    double least = INFINITY;
    for (const auto& s : shapes)
        for (const auto& side : sides_at(s, p))
            if (std::fabs(side.value) > tolerance) least = std::min(least, std::fabs(side.value));
    return least;
}

SolidChain random_chain(unsigned seed) {
    std::mt19937 random(seed);
    const auto between = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    const auto place = [&](double reach) {
        return Vec3{{between(-reach, reach), between(-reach, reach), between(-reach, reach)}};
    };
    SolidChain chain;
    const int count = 3 + static_cast<int>(random() % 4);
    for (int k = 0; k < count; ++k) {
        SpaceShapeSpec s;
        s.sound = true;
        s.number = k + 1;
        s.name = fmt::format("s{}", k);
        const unsigned verb = random() % 8;
        s.verb = k == 0 || verb < 4 ? Verb::add : verb < 7 ? Verb::cut : Verb::intersect;
        s.region = k > 0 && random() % 2 ? "b" : "a";
        if (s.verb == Verb::add && random() % 4 == 0) s.priority = 1;
        if (s.verb == Verb::cut && random() % 4 == 0) s.of = {"a"};
        s.primitive = static_cast<SpacePrimitive>(random() % 5);
        const double grow = k == 0 ? 1.6 : s.verb == Verb::intersect ? 2.4 : 1;
        const double reach = k == 0 || s.verb == Verb::intersect ? 0.2 : 0.9;
        switch (s.primitive) {
            case SpacePrimitive::box:
                s.size = {{grow * between(0.5, 1.2), grow * between(0.5, 1.2), grow * between(0.5, 1.2)}};
                s.corner = place(reach) - s.size / 2;
                for (const char* side : {"left", "top"}) s.names.emplace_back(side, s.name + "_" + side);
                break;
            case SpacePrimitive::cylinder:
            case SpacePrimitive::cone: {
                const Vec3 middle = place(reach), half{{0.1, 0.2, grow * between(0.4, 0.8)}};
                s.from = middle - half;
                s.to = middle + half;
                s.radius = grow * between(0.2, 0.6);
                s.radii = {grow * between(0.3, 0.6), grow * between(0.05, 0.25)};
                s.names.emplace_back("end", s.name + "_end");
                break;
            }
            case SpacePrimitive::sphere:
                s.centre = place(reach);
                s.radius = grow * between(0.3, 0.7);
                break;
            default:
                s.primitive = SpacePrimitive::ring;
                s.centre = place(reach);
                s.normal = place(1);
                s.radii = {grow * between(0.5, 0.7), grow * between(0.15, 0.3)};
                break;
        }
        s.placement.rotate = between(0, 3);
        s.placement.about = {Vec3{}, place(1)};
        chain.shapes.push_back(std::move(s));
    }
    chain.box.add(Vec3{{-2, -2, -2}});
    chain.box.add(Vec3{{2, 2, 2}});
    return chain;
}

ChainReport check_chain(const SolidChain& chain, int places_on_faces, int places_in_space) {
    ChainReport report;
    Study study;
    study.space_shapes = chain.shapes;
    Problems problems("chain");
    std::vector<CleanupItem> cleanup;
    const auto solid = build_solid(study, {}, problems, cleanup);
    if (!solid) {
        report.fault = problems.text();
        return report;
    }
    constexpr double on_surface = 1e-5, beside = 1e-4, clear = 3e-4;
    std::mt19937 random(7);
    const auto region_of = [&](int body) {
        return body < 0
                   ? std::string()
                   : solid->regions[static_cast<std::size_t>(solid->bodies[static_cast<std::size_t>(body)].region)];
    };
    for (const auto& face : solid->faces) {
        ++report.faces;
        std::set<std::string> names;
        for (const int n : face.names) {
            const auto& name = solid->boundary_names[static_cast<std::size_t>(n)];
            if (name.find("_and_") == std::string::npos) names.insert(name);
        }
        for (const Vec2& at : places_on(*solid, face, places_on_faces, random)) {
            const Vec3 p = face.surface.point(at), n = face.surface.normal(at);
            if (chain.clear_at(p, on_surface) < clear) continue;
            ++report.on_faces;
            if (chain.region_at(p - n * beside) != region_of(face.behind) ||
                chain.region_at(p + n * beside) != region_of(face.before))
                ++report.wrong_sides;
            if (chain.names_at(p, on_surface) != names) ++report.wrong_names;
        }
    }
    const BodyFinder body(*solid);
    std::uniform_real_distribution<double> share(0, 1);
    for (int k = 0; k < places_in_space; ++k) {
        Vec3 p;
        for (std::size_t c = 0; c < 3; ++c) p[c] = chain.box.low[c] + share(random) * chain.box.size()[c];
        if (chain.clear_at(p, 0) < 0.02) continue;
        ++report.in_space;
        if (chain.region_at(p) != region_of(body(p))) ++report.wrong_regions;
    }
    return report;
}

}  // namespace dotsift
