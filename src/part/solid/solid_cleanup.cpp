#include "part/solid/solid_cleanup.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "part/shapes/placement.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/changed_solid.hpp"
#include "part/solid/edge_wedges.hpp"
#include "part/solid/surface_kind.hpp"

namespace dotsift {

namespace {

using Kind = SpaceSelectionSpec::Kind;

constexpr double same_share = 1e-6;        // of the part's size: the same place
constexpr double smooth_turn_sine = 2e-2;  // between normals of faces that go on smoothly
constexpr int looked_along_round = 3;

/// Faces that go together.
struct Feature {
    std::vector<int> faces;
    Vec3 at;
    std::string what;
    bool hole = false;
};

class FeatureSearch {
  public:
    explicit FeatureSearch(const SolidPart& part) : part_(part), edge_faces_(part) {
        const BodyFinder finder(part);
        for (std::size_t f = 0; f < part.faces.size(); ++f) {
            kinds_.push_back(kind_of(part.faces[f].surface));
            places_.push_back(finder.places_on(f, looked_along_round));
        }
    }

    /// Cylinders with the material outside, all round, and what lies in them.
    [[nodiscard]] std::vector<Feature> holes_below(double diameter, const std::string& length) const {
        std::vector<char> in(part_.faces.size(), 0);
        std::vector<Feature> out;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (in[f] || kinds_[f].kind != Kind::cylinder || !(2 * kinds_[f].radius < diameter) || !looks_inwards(f))
                continue;
            std::vector<int> group{static_cast<int>(f)};
            std::vector<char> own(part_.faces.size(), 0);
            own[f] = 1;
            for (std::size_t k = 0; k < group.size(); ++k)
                for (const int g : neighbours(group[k]))
                    if (!own[static_cast<std::size_t>(g)] && same_cylinder(static_cast<int>(f), g)) {
                        own[static_cast<std::size_t>(g)] = 1;
                        group.push_back(g);
                    }
            if (!goes_round(group)) continue;
            for (const int g : group) in[static_cast<std::size_t>(g)] = 1;
            Feature hole{group, middle_of(group),
                         fmt::format("a hole of diameter {} {}", sensible(2 * kinds_[f].radius), length), true};
            out.push_back(std::move(hole));
        }
        add_bottoms(out);
        return out;
    }

    /// Round faces that go on smoothly into others.
    [[nodiscard]] std::vector<Feature> rounds_below(double radius, const std::string& length) const {
        std::vector<char> candidate(part_.faces.size(), 0);
        for (std::size_t f = 0; f < part_.faces.size(); ++f)
            candidate[f] = is_round(f, radius) && smooth_sides(static_cast<int>(f)) > 0;
        std::vector<Feature> out;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (!candidate[f]) continue;
            candidate[f] = 0;
            Feature round{{static_cast<int>(f)}, {}, "", false};
            double least = INFINITY;
            for (std::size_t k = 0; k < round.faces.size(); ++k) {
                least = std::min(least, radius_of(static_cast<std::size_t>(round.faces[k])));
                for (const int g : neighbours(round.faces[k]))
                    if (std::exchange(candidate[static_cast<std::size_t>(g)], 0)) round.faces.push_back(g);
            }
            round.at = middle_of(round.faces);
            round.what = fmt::format("a round of radius {} {} ({} faces)", sensible(least), length, round.faces.size());
            out.push_back(std::move(round));
        }
        return out;
    }

  private:
    [[nodiscard]] Vec3 middle_of(const std::vector<int>& faces) const {
        Vec3 sum;
        double size = 0;
        for (const int f : faces) {
            const SolidMeasures m = measure_face(part_, static_cast<std::size_t>(f));
            sum += m.centroid * m.size;
            size += m.size;
        }
        return sum / size;
    }
    [[nodiscard]] std::vector<int> neighbours(int f) const {
        std::vector<int> out;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop)
                for (const auto& other : edge_faces_.at(static_cast<std::size_t>(use.edge)))
                    if (other.face != f) out.push_back(other.face);
        return out;
    }
    [[nodiscard]] bool looks_inwards(std::size_t f) const {
        if (places_[f].empty()) return false;
        const Surface& s = part_.faces[f].surface;
        const auto [point, along] = axis_of_cylinder(s);
        const Vec3 d = s.point(places_[f].front()) - point, out = d - along * dot(d, along);
        const double side = part_.faces[f].behind >= 0 ? 1 : -1;
        return side * dot(s.normal(places_[f].front()), out) < 0;
    }
    [[nodiscard]] bool same_cylinder(int f, int g) const {
        const auto &a = kinds_[static_cast<std::size_t>(f)], &b = kinds_[static_cast<std::size_t>(g)];
        const double near = same_share * part_.box.diagonal();
        if (b.kind != Kind::cylinder || std::fabs(a.radius - b.radius) > near) return false;
        const auto x = axis_of_cylinder(part_.face(f).surface), y = axis_of_cylinder(part_.face(g).surface);
        return norm(cross(x.along, y.along)) < same_share && norm(cross(y.point - x.point, x.along)) < near;
    }
    /// Lines along the axis lie between faces of the group alone.
    [[nodiscard]] bool goes_round(const std::vector<int>& group) const {
        const auto in = [&](int f) { return std::find(group.begin(), group.end(), f) != group.end(); };
        for (const int f : group)
            for (const auto& loop : part_.face(f).loops)
                for (const auto& use : loop) {
                    if (!part_.edge(use.edge).curve.straight()) continue;
                    for (const auto& other : edge_faces_.at(static_cast<std::size_t>(use.edge)))
                        if (!in(other.face)) return false;
                }
        return group.size() > 1;
    }
    /// What hangs together without the holes, but for the largest of it, is their bottoms and steps.
    void add_bottoms(std::vector<Feature>& holes) const {
        std::vector<int> piece(part_.faces.size(), -1), hole_of(part_.faces.size(), -1);
        for (std::size_t h = 0; h < holes.size(); ++h)
            for (const int f : holes[h].faces) hole_of[static_cast<std::size_t>(f)] = static_cast<int>(h);
        std::vector<double> area;
        std::vector<std::vector<int>> members;
        std::vector<int> beside;  // a hole at each piece
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (piece[f] >= 0 || hole_of[f] >= 0) continue;
            const int own = static_cast<int>(area.size());
            area.push_back(0);
            members.push_back({static_cast<int>(f)});
            beside.push_back(-1);
            piece[f] = own;
            auto& list = members.back();
            for (std::size_t k = 0; k < list.size(); ++k) {
                area.back() += measure_face(part_, static_cast<std::size_t>(list[k])).size;
                for (const int g : neighbours(list[k])) {
                    const auto at = static_cast<std::size_t>(g);
                    if (hole_of[at] >= 0) beside.back() = hole_of[at];
                    if (piece[at] >= 0 || hole_of[at] >= 0) continue;
                    piece[at] = own;
                    list.push_back(g);
                }
            }
        }
        if (area.empty()) return;
        const auto largest = std::max_element(area.begin(), area.end()) - area.begin();
        for (std::size_t p = 0; p < members.size(); ++p)
            if (static_cast<std::ptrdiff_t>(p) != largest && beside[p] >= 0) {
                auto& faces = holes[static_cast<std::size_t>(beside[p])].faces;
                faces.insert(faces.end(), members[p].begin(), members[p].end());
            }
    }

    [[nodiscard]] double radius_of(std::size_t f) const {
        if (kinds_[f].radius > 0) return kinds_[f].radius;
        double least = INFINITY;
        for (const Vec2& at : places_[f])
            for (const double r : part_.faces[f].surface.curvature_radii(at)) least = std::min(least, std::fabs(r));
        return least;
    }
    [[nodiscard]] bool is_round(std::size_t f, double radius) const {
        const auto& k = kinds_[f];
        const bool spline = part_.faces[f].surface.kind() == Surface::Kind::spline;
        return (spline || k.kind == Kind::cylinder || k.kind == Kind::ring || k.kind == Kind::sphere) &&
               radius_of(f) < radius;
    }
    /// Sides at which it goes on smoothly into another surface.
    [[nodiscard]] int smooth_sides(int f) const {
        int count = 0;
        const Surface& own = part_.face(f).surface;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop)
                for (const auto& other : edge_faces_.at(static_cast<std::size_t>(use.edge))) {
                    if (other.face == f) continue;
                    const auto &a = kinds_[static_cast<std::size_t>(f)],
                               &b = kinds_[static_cast<std::size_t>(other.face)];
                    if (a.kind == b.kind && (a.kind != Kind::cylinder || same_cylinder(f, other.face))) continue;
                    const Vec3 p = part_.edge(use.edge).curve.point(0.5);
                    const Surface& theirs = part_.face(other.face).surface;
                    const Vec3 n = own.normal(own.project(p)), m = theirs.normal(theirs.project(p));
                    if (norm(cross(n, m)) < smooth_turn_sine) ++count;
                }
        return count;
    }

    const SolidPart& part_;
    EdgeFaces edge_faces_;
    std::vector<SurfaceKind> kinds_;
    std::vector<std::vector<Vec2>> places_;
};

class SolidCleaning {
  public:
    SolidCleaning(const CleanupSpec& spec, SolidPart part, std::string length)
        : spec_(spec), length_(std::move(length)) {
        out_.part = std::move(part);
    }

    CleanedSolid run() {
        const auto refuse = [](const char* key) {
            throw InputError(fmt::format("{} is known of plane parts alone", key), {},
                             "remove it, or draw the part so");
        };
        if (spec_.merge_points) refuse("merge_points");
        if (!spec_.one_edge.empty()) refuse("one_edge");
        if (spec_.one_edge_below) refuse("one_edge_below");
        const SolidMeasures before = measure(out_.part);
        const double outside_before = outside();
        if (spec_.remove_rounds_below)
            remove([&] { return FeatureSearch(out_.part).rounds_below(*spec_.remove_rounds_below, length_); },
                   "removed");
        // Last, so that holes with rounded mouths are plain ones.
        if (spec_.fill_holes_below)
            remove([&] { return FeatureSearch(out_.part).holes_below(*spec_.fill_holes_below, length_); }, "filled");
        if (out_.items.empty()) {
            out_.items.push_back({"nothing is small enough to be removed", {}, true});
            return std::move(out_);
        }
        const SolidMeasures after = measure(out_.part);
        out_.items.push_back(
            {fmt::format(
                 "volume {} before, {} after ({:+.3g} %); outside {} before, {} after; the centroid moved by {} {}",
                 sensible(before.size, 6), sensible(after.size, 6), 100 * (after.size / before.size - 1),
                 sensible(outside_before, 6), sensible(outside(), 6),
                 sensible(without_rounding(distance(before.centroid, after.centroid), out_.part.box.diagonal()), 3),
                 length_),
             {},
             true});
        return std::move(out_);
    }

  private:
    [[nodiscard]] double outside() const {
        double sum = 0;
        for (std::size_t f = 0; f < out_.part.faces.size(); ++f) sum += measure_face(out_.part, f).size;
        return sum;
    }

    /// All at once; where that fails, one after the other.
    template <class Find>
    void remove(Find find, const char* done) {
        std::vector<Vec3> stuck;
        const double near = same_share * out_.part.box.diagonal();
        while (true) {
            auto features = find();
            std::erase_if(features, [&](const Feature& f) {
                return std::any_of(stuck.begin(), stuck.end(),
                                   [&](const Vec3& p) { return distance(p, f.at) <= near; });
            });
            if (features.empty()) return;
            std::vector<int> all;
            for (const auto& f : features) all.insert(all.end(), f.faces.begin(), f.faces.end());
            if (take_away(all)) {
                for (const auto& f : features) tell(f, done);
                continue;
            }
            bool some = false;
            for (std::size_t k = 0; k < features.size() && !some; ++k) {
                some = take_away(features[k].faces);
                if (some) {
                    tell(features[k], done);
                } else {
                    stuck.push_back(features[k].at);
                    out_.items.push_back({fmt::format("{} at {} stays: its neighbours do not meet without it",
                                                      features[k].what, told_point(features[k].at)),
                                          {},
                                          false});
                }
            }
        }
    }
    bool take_away(const std::vector<int>& faces) {
        auto without = without_faces(out_.part, faces);
        if (!without) return false;
        out_.part = std::move(*without);
        return true;
    }
    void tell(const Feature& f, const char* done) {
        out_.items.push_back({fmt::format("{} at {} {}", f.what, told_point(f.at), done), {}, true});
        if (f.hole && !spec_.keep_centres.empty())
            out_.centres.push_back({numbered(spec_.keep_centres, ++holes_), f.at, spec_.where});
    }

    const CleanupSpec& spec_;
    std::string length_;
    CleanedSolid out_;
    std::size_t holes_ = 0;
};

}  // namespace

CleanedSolid clean_up_solid(const CleanupSpec& spec, SolidPart part, const std::string& length) {
    return SolidCleaning(spec, std::move(part), length).run();
}

}  // namespace dotsift
