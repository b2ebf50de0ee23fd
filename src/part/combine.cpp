#include "part/combine.hpp"

#include <dlfcn.h>
#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "part/kernel/planar_kernel.hpp"

namespace dotsift {

namespace {

PlanarKernel load_kernel() {
    static const PlanarKernel kernel = [] {
        const auto path = find_module("libdotsift-planar.so");
        void* handle = ::dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL);
        if (!handle)
            throw FileError(fmt::format("cannot load the geometry module: {}", ::dlerror()), {},
                            "reinstall the program");
        auto* symbol = reinterpret_cast<PlanarKernel>(::dlsym(handle, planar_kernel_symbol));
        if (!symbol) throw FileError("the geometry module is of another version", {}, "reinstall the program");
        return symbol;
    }();
    return kernel;
}

/// Pieces of one curve that follow each other with the same labels become one again.
void join_pieces(std::vector<CombinedEdge>& loop, const std::vector<const Curve*>& carrier) {
    const auto joins = [&](const CombinedEdge& a, const CombinedEdge& b) {
        if (a.labels != b.labels || !(a.curve.end() == b.curve.start())) return false;
        const Curve& whole = *carrier[static_cast<std::size_t>(a.labels.front())];
        return !(a.curve.end() == whole.start()) || whole.closed();  // an end that the user drew stays
    };
    for (std::size_t i = 0; i < loop.size() && loop.size() > 1;) {
        const std::size_t j = (i + 1) % loop.size();
        if (!joins(loop[i], loop[j])) {
            ++i;
            continue;
        }
        const Curve &a = loop[i].curve, &b = loop[j].curve;
        loop[i].curve = a.kind() == Curve::Kind::line
                            ? Curve::line(a.start(), b.end())
                            : a.piece(a.start(), a.point(0.5), a.end(), b.point(0.5), b.end());
        loop.erase(loop.begin() + static_cast<std::ptrdiff_t>(j));
        if (j < i) --i;
    }
}

}  // namespace

std::vector<CombinedFace> combine(const std::vector<LabelledLoop>& loops) {
    if (loops.size() == 1) {
        std::vector<CombinedEdge> loop;
        for (std::size_t i = 0; i < loops[0].curves.size(); ++i)
            loop.push_back({loops[0].curves[i], {loops[0].labels[i]}});
        return {{std::move(loop)}};
    }
    std::vector<const Curve*> carrier;
    Box2 box;
    for (const auto& l : loops) {
        for (std::size_t i = 0; i < l.curves.size(); ++i) {
            const auto label = static_cast<std::size_t>(l.labels[i]);
            if (carrier.size() <= label) carrier.resize(label + 1, nullptr);
            carrier[label] = &l.curves[i];
            box.add(l.curves[i].box());
        }
    }
    KernelResult result;
    load_kernel()(loops, result);
    if (!result.fault.empty())
        throw InputError(fmt::format("the shapes cannot be combined: {}", result.fault), {},
                         "move the shapes so that they do not just touch, or give them in another order");
    // Points that were drawn come back a rounding error away from where they were: take them as drawn. Points that the
    // kernel made are made equal among themselves.
    const double near = 1e-9 * box.diagonal();
    std::vector<Vec2> known;
    for (const auto* c : carrier)
        for (const Vec2& p : {c->start(), c->end()}) known.push_back(p);
    const auto snapped = [&](const Vec2& p) {
        for (const auto& k : known)
            if (distance(k, p) <= near) return k;
        known.push_back(p);
        return p;
    };
    std::vector<CombinedFace> faces;
    for (const auto& face : result.faces) {
        CombinedFace out;
        for (const auto& chain : face) {
            std::vector<CombinedEdge> loop;
            for (const auto& e : chain) {
                if (e.labels.empty())
                    throw InputError("the shapes cannot be combined: an edge of the result has no origin");
                auto labels = e.labels;
                std::sort(labels.begin(), labels.end());
                const Curve& whole = *carrier[static_cast<std::size_t>(labels.front())];
                loop.push_back(
                    {whole.piece(snapped(e.points[0]), e.points[1], e.points[2], e.points[3], snapped(e.points[4])),
                     labels});
            }
            join_pieces(loop, carrier);
            double area = 0;
            for (const auto& e : loop) area += e.curve.twice_area();
            if ((area > 0) != out.empty()) {  // outer loops anticlockwise, holes clockwise
                std::reverse(loop.begin(), loop.end());
                for (auto& e : loop) e.curve = e.curve.reversed();
            }
            out.push_back(std::move(loop));
        }
        faces.push_back(std::move(out));
    }
    return faces;
}

}  // namespace dotsift
