#include "part/solid/combine_solids.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <optional>

#include "base/errors.hpp"
#include "base/parallel.hpp"
#include "base/resources.hpp"
#include "part/kernel/solid_kernel.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/join_faces.hpp"
#include "part/solid/placed_solid.hpp"
#include "part/solid/sharpen.hpp"
#include "part/solid/solid_box.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

namespace {

SolidKernel load_kernel() {
    static const auto kernel =
        reinterpret_cast<SolidKernel>(module_symbol("libdotsift-geometry.so", solid_kernel_symbol));
    return kernel;
}

class SolidCombination {
  public:
    SolidCombination(const std::vector<SolidStep>& steps, const std::vector<std::string>& known) : steps_(steps) {
        out_.part.regions = known;
        out_.traces.resize(steps.size());
    }

    CombinedSolids run() {
        for (std::size_t s = 0; s < steps_.size(); ++s)
            for (const auto& copy : steps_[s].copies) {
                solids_.push_back(copy);
                for (auto& face : solids_.back().faces) face.surface = face.surface.as_plane();
                step_of_.push_back(s);
                box_.add(copy.box);
            }
        cut();
        play_steps();
        find_bodies();
        keep_faces();
        take_points();
        join_faces(out_.part, kin_, fixed_);
        out_.part.box = box_of(out_.part);
        sharpen(out_.part);
        out_.part.box = box_of(out_.part);
        judge();
        look_beside_faces();
        return std::move(out_);
    }

  private:
    void cut() {
        load_kernel()(solids_, box_.centre(), box_.diagonal(), cut_);
        if (!cut_.fault.empty())
            throw CombineFault(
                cut_.solid < 0 ? fmt::format("the solids cannot be combined: {}", cut_.fault) : cut_.fault, {},
                "move or resize the shapes so that they do not just touch");
        // What has been a corner before stands where it stood.
        for (const auto& solid : solids_)
            for (const Vec3& v : solid.vertices)
                for (Vec3& w : cut_.vertices)
                    if (distance(v, w) <= same_vertex_share * box_.diagonal()) w = v;
        for (auto& e : cut_.edges)
            e.curve.set_ends(cut_.vertices[static_cast<std::size_t>(e.start)],
                             cut_.vertices[static_cast<std::size_t>(e.end)]);
    }

    void play_steps() {
        owned_.resize(cut_.cells.size());
        // In which body of a step's copies each cell lies; -1: in none.
        for (std::size_t s = 0; s < steps_.size(); ++s) {
            const SolidStep& step = steps_[s];
            if (step.kind == StepRule::Kind::line) continue;
            const bool adds = step.kind == StepRule::Kind::add;
            if (adds && !step.region.empty()) out_.part.region_index(step.region);
            for (std::size_t c = 0; c < owned_.size(); ++c) {
                const KernelSource* in = nullptr;
                for (const auto& b : cut_.cells[c].bodies)
                    if (step_of_[static_cast<std::size_t>(b.solid)] == s) in = &b;
                const int now = owned_[c].region;
                const bool concerned =
                    step.of.empty() ||
                    (now >= 0 && fits_any(out_.part.regions[static_cast<std::size_t>(now)], step.of));
                const int region = adds && in ? out_.part.region_index(region_of(step, *in)) : -1;
                if (play(step, region, in != nullptr, concerned, owned_[c])) out_.traces[s].changed = true;
            }
        }
    }

    [[nodiscard]] std::string region_of(const SolidStep& step, const KernelSource& in) const {
        if (!step.region.empty()) return step.region;
        const SolidPart& solid = solids_[static_cast<std::size_t>(in.solid)];
        return solid.regions[static_cast<std::size_t>(solid.bodies[static_cast<std::size_t>(in.item)].region)];
    }

    [[nodiscard]] int region_at(int cell) const {
        return cell < 0 ? -1 : owned_[static_cast<std::size_t>(cell)].region;
    }

    /// The face stays: it bounds a region, or is to be followed inside one.
    [[nodiscard]] bool stays(const KernelFace& f) const {
        const int a = region_at(f.behind), b = region_at(f.before);
        if (a < 0 && b < 0) return false;
        if (a != b) return true;
        return std::any_of(f.sources.begin(), f.sources.end(), [&](const KernelSource& s) {
            if (steps_[step_of_[static_cast<std::size_t>(s.solid)]].kind == StepRule::Kind::line) return true;
            // What the solid has parted inside itself already.
            const SolidPart& solid = solids_[static_cast<std::size_t>(s.solid)];
            const SolidFace& face = source_face(s);
            const auto region = [&](int body) { return solid.bodies[static_cast<std::size_t>(body)].region; };
            return face.interior() && region(face.behind) == region(face.before);
        });
    }

    /// Cells of one region that nothing parts are one body.
    void find_bodies() {
        std::vector<int> root(cut_.cells.size());
        std::iota(root.begin(), root.end(), 0);
        const auto find = [&](int c) {
            while (root[static_cast<std::size_t>(c)] != c) c = root[static_cast<std::size_t>(c)];
            return c;
        };
        for (const auto& f : cut_.faces) {
            const int a = region_at(f.behind), b = region_at(f.before);
            if (a < 0 || a != b || stays(f)) continue;
            const int x = find(f.behind), y = find(f.before);
            root[static_cast<std::size_t>(std::max(x, y))] = std::min(x, y);
        }
        body_.assign(cut_.cells.size(), -1);
        for (std::size_t c = 0; c < body_.size(); ++c) {
            if (owned_[c].region < 0) continue;
            const auto first = static_cast<std::size_t>(find(static_cast<int>(c)));
            if (first == c) {
                body_[c] = static_cast<int>(out_.part.bodies.size());
                out_.part.bodies.push_back({owned_[c].region});
            } else {
                body_[c] = body_[first];
            }
        }
    }

    void keep_faces() {
        SolidPart& part = out_.part;
        part.vertices = cut_.vertices;
        part.edges = cut_.edges;
        for (const auto& solid : solids_)
            for (const auto& name : solid.boundary_names) part.boundary_name(name);
        join_planes();
        for (const auto& f : cut_.faces) {
            if (!stays(f)) continue;
            if (f.sources.empty())
                throw CombineFault("the solids cannot be combined: a face came out of nowhere", place_of(f.at),
                                   "move or resize the shapes so that they do not just touch");
            SolidFace face;
            face.surface = source_face(f.sources.front()).surface;
            face.loops = f.loops;
            const auto body = [&](int cell) { return cell < 0 ? -1 : body_[static_cast<std::size_t>(cell)]; };
            face.behind = body(f.behind);
            face.before = body(f.before);
            if (dot(face.surface.normal(face.surface.project(f.at)), f.normal) < 0)
                face.surface = face.surface.turned_over();
            const bool later = face.before >= 0 && face.behind >= 0 && region_at(f.behind) > region_at(f.before);
            if (face.behind < 0 || later) turn_over(face);
            for (const auto& s : f.sources) {
                out_.traces[step_of_[static_cast<std::size_t>(s.solid)]].on_outline = true;
                const SolidPart& from = solids_[static_cast<std::size_t>(s.solid)];
                for (const int n : source_face(s).names)
                    part.add_name(from.boundary_names[static_cast<std::size_t>(n)], face.names);
            }
            std::sort(face.names.begin(), face.names.end());
            kin_.push_back(kin_of(f.sources, face));
            part.faces.push_back(std::move(face));
        }
        if (part.faces.empty())
            throw InputError("the cuts leave nothing of the part", {}, "check the size and place of the cuts");
    }

    /// Faces in a plane that somewhere lie on each other are pieces of one plane.
    void join_planes() {
        for (const auto& solid : solids_) {
            first_face_.push_back(static_cast<int>(plane_.size()));
            plane_.resize(plane_.size() + solid.faces.size());
        }
        std::iota(plane_.begin(), plane_.end(), 0);
        // The parts of a disc that was turned.
        for (std::size_t s = 0; s < solids_.size(); ++s) {
            const auto& faces = solids_[s].faces;
            for (std::size_t f = 1; f < faces.size(); ++f)
                if (same_plane(faces[f - 1].surface, faces[f].surface))
                    plane_[static_cast<std::size_t>(first_face_[s]) + f] =
                        plane_[static_cast<std::size_t>(first_face_[s]) + f - 1];
        }
        for (const auto& f : cut_.faces)
            for (const auto& s : f.sources)
                if (source_face(s).surface.kind() == Surface::Kind::plane) {
                    const int a = plane_root(s), b = plane_root(f.sources.front());
                    plane_[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
                }
    }
    [[nodiscard]] static bool same_plane(const Surface& a, const Surface& b) {
        return a.kind() == Surface::Kind::plane && b.kind() == Surface::Kind::plane &&
               a.frame().origin == b.frame().origin && a.frame().axis == b.frame().axis;
    }
    [[nodiscard]] int plane_root(const KernelSource& s) const {
        int f = first_face_[static_cast<std::size_t>(s.solid)] + s.item;
        while (plane_[static_cast<std::size_t>(f)] != f) f = plane_[static_cast<std::size_t>(f)];
        return f;
    }

    /// Pieces of one face, or of one plane, that carry the same names.
    int kin_of(const std::vector<KernelSource>& sources, const SolidFace& face) {
        std::vector<int> key;
        if (face.surface.kind() == Surface::Kind::plane)
            key = {plane_root(sources.front())};
        else
            for (const auto& s : sources) key.push_back(first_face_[static_cast<std::size_t>(s.solid)] + s.item);
        key.push_back(-1);
        key.insert(key.end(), face.names.begin(), face.names.end());
        return family_.try_emplace(std::move(key), static_cast<int>(family_.size())).first->second;
    }

    [[nodiscard]] const SolidFace& source_face(const KernelSource& s) const {
        return solids_[static_cast<std::size_t>(s.solid)].faces[static_cast<std::size_t>(s.item)];
    }

    static Place place_of(const Vec3& at) {
        Place place;
        place.position = at;
        return place;
    }

    /// Named points of the solids, where some kept face still ends there.
    void take_points() {
        SolidPart& part = out_.part;
        fixed_.assign(part.vertices.size(), 0);
        std::vector<char> used(part.vertices.size(), 0);
        for (const auto& f : part.faces)
            for (const auto& loop : f.loops)
                for (const auto& use : loop)
                    used[static_cast<std::size_t>(part.edge(use.edge).start)] =
                        used[static_cast<std::size_t>(part.edge(use.edge).end)] = 1;
        for (const auto& solid : solids_)
            for (const Vec3& v : solid.vertices)
                for (std::size_t w = 0; w < part.vertices.size(); ++w)
                    if (part.vertices[w] == v) fixed_[w] = 1;
        for (const auto& solid : solids_)
            for (const auto& p : solid.points)
                for (std::size_t w = 0; w < part.vertices.size(); ++w)
                    if (used[w] && part.vertices[w] == solid.vertices[static_cast<std::size_t>(p.vertex)])
                        part.points.push_back({p.name, static_cast<int>(w)});
    }

    /// Whether what came out is what solids are: everything closed, nothing empty.
    void judge() const {
        const SolidPart& part = out_.part;
        for (std::size_t b = 0; b < part.bodies.size(); ++b) {
            std::vector<int> balance(part.edges.size(), 0);
            for (const auto& f : part.faces)
                for (const auto& loop : f.loops)
                    for (const auto& use : loop) {
                        const int out = (f.behind == static_cast<int>(b)) - (f.before == static_cast<int>(b));
                        balance[static_cast<std::size_t>(use.edge)] += use.forward ? out : -out;
                    }
            const bool closed = std::all_of(balance.begin(), balance.end(), [](int n) { return n == 0; });
            if (closed && measure_body(part, b).size > 0) continue;
            throw CombineFault(fmt::format("the solids cannot be combined: a piece of the region \"{}\" is not closed",
                                           part.regions[static_cast<std::size_t>(part.bodies[b].region)]),
                               {}, "move or resize the shapes so that they do not just touch");
        }
    }

    /// The region that a place has by the given solids alone.
    [[nodiscard]] int region_by_shapes(const std::vector<BodyFinder>& finders, const Vec3& p) const {
        Owned owned;
        for (std::size_t s = 0; s < steps_.size(); ++s) {
            const SolidStep& step = steps_[s];
            if (step.kind == StepRule::Kind::line) continue;
            std::optional<KernelSource> in;
            for (std::size_t k = 0; k < solids_.size() && !in; ++k)
                if (step_of_[k] == s)
                    if (const int body = finders[k](p); body >= 0) in = KernelSource{static_cast<int>(k), body};
            const auto& regions = out_.part.regions;
            const bool concerned =
                step.of.empty() ||
                (owned.region >= 0 && fits_any(regions[static_cast<std::size_t>(owned.region)], step.of));
            int region = -1;
            if (step.kind == StepRule::Kind::add && in)
                region =
                    static_cast<int>(std::find(regions.begin(), regions.end(), region_of(step, *in)) - regions.begin());
            (void)play(step, region, in.has_value(), concerned, owned);
        }
        return owned.region;
    }

    /// The library may miss that a surface pokes through another: then faces reach where they should have been cut.
    /// Both sides of some places on each face are looked up in the given solids.
    void look_beside_faces() const {
        const SolidPart& part = out_.part;
        const double size = box_.diagonal(), beside = beside_share * size;
        std::vector<BodyFinder> finders;
        finders.reserve(solids_.size());
        for (const auto& solid : solids_) finders.emplace_back(solid);
        const BodyFinder whole(part);
        const auto region = [&](int body) {
            return body < 0 ? -1 : part.bodies[static_cast<std::size_t>(body)].region;
        };
        std::vector<std::optional<Vec3>> wrong(part.faces.size());
        in_parallel(part.faces.size(), [&](std::size_t f) {
            const SolidFace& face = part.faces[f];
            for (const Vec2& at : whole.places_on(f, places_along)) {
                const Vec3 p = face.surface.point(at), n = face.surface.normal(at) * beside;
                const auto differs = [&] {
                    return region_by_shapes(finders, p - n) != region(face.behind) ||
                           region_by_shapes(finders, p + n) != region(face.before);
                };
                if (!differs()) continue;
                // Where another surface is as near it proves nothing.
                const bool crowded = std::count_if(finders.begin(), finders.end(), [&](const BodyFinder& finder) {
                                         return finder.on_face(p, 4 * beside);
                                     }) > 1;
                if (crowded) continue;
                wrong[f] = p;
                return;
            }
        });
        for (const auto& p : wrong)
            if (p)
                throw CombineFault(
                    "the solids cannot be combined: a face is not cut where another one passes through it",
                    place_of(*p), "move or resize the shapes so that they do not just touch");
    }

    static constexpr double beside_share = 1e-4;
    static constexpr int places_along = 5;
    // Of everything together: corners nearer to each other than this are one.
    static constexpr double same_vertex_share = 1e-7;

    const std::vector<SolidStep>& steps_;
    CombinedSolids out_;
    std::vector<SolidPart> solids_;
    std::vector<std::size_t> step_of_;  ///< of each solid
    Box<3> box_;
    SolidKernelResult cut_;
    std::vector<Owned> owned_;  ///< of each cell
    std::vector<int> body_, kin_;
    std::vector<int> first_face_, plane_;  ///< of each solid; of each of their faces, one in the same plane
    std::map<std::vector<int>, int> family_;
    std::vector<char> fixed_;
};

}  // namespace

CombinedSolids combine_solids(const std::vector<SolidStep>& steps, const std::vector<std::string>& known_regions) {
    return SolidCombination(steps, known_regions).run();
}

}  // namespace dotsift
