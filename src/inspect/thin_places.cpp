#include "inspect/thin_places.hpp"

#include <algorithm>
#include <map>

#include "base/parallel.hpp"
#include "part/solid/opposite_face.hpp"

namespace dotsift {

namespace {

constexpr int places_along = 6;
constexpr int projections = 30;  // at most, until both places have come to rest, as near as clear_share

class ThinPlaces {
  public:
    explicit ThinPlaces(const SolidPart& part) : part_(part), finder_(part), clear_(clear_share * part.box.diagonal()) {
        touching_.resize(part.faces.size());
        std::vector<std::vector<int>> at_vertex(part.vertices.size());
        for (std::size_t f = 0; f < part.faces.size(); ++f)
            for (const auto& loop : part.faces[f].loops)
                for (const auto& use : loop)
                    for (const int v : {part.edge(use.edge).start, part.edge(use.edge).end})
                        at_vertex[static_cast<std::size_t>(v)].push_back(static_cast<int>(f));
        for (const auto& list : at_vertex)
            for (const int f : list)
                touching_[static_cast<std::size_t>(f)].insert(touching_[static_cast<std::size_t>(f)].end(),
                                                              list.begin(), list.end());
    }

    std::vector<ThinPlace> run() {
        std::vector<std::vector<ThinPlace>> found(part_.faces.size());
        in_parallel(part_.faces.size(), [&](std::size_t f) {
            const Surface& s = part_.faces[f].surface;
            for (const Vec2& at : finder_.places_on(f, places_along))
                for (const double side : {-1.0, 1.0})
                    look(static_cast<int>(f), s.point(at), s.normal(at) * side, found[f]);
        });
        std::map<std::pair<int, int>, ThinPlace> thinnest;
        for (const auto& list : found)
            for (const auto& p : list) {
                const auto key = std::minmax(p.face_a, p.face_b);
                const auto [known, added] = thinnest.try_emplace({key.first, key.second}, p);
                if (!added && p.width() < known->second.width()) known->second = p;
            }
        std::vector<ThinPlace> out;
        out.reserve(thinnest.size());
        for (const auto& [faces, p] : thinnest) out.push_back(p);
        std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.width() < b.width(); });
        return out;
    }

  private:
    [[nodiscard]] const SolidFace& face(int f) const { return part_.face(f); }
    [[nodiscard]] Vec3 normal(int f, const Vec3& p) const {
        const Surface& s = face(f).surface;
        return s.normal(s.project(p));
    }
    /// The nearest place of a face, on its rim if the surface's nearest one lies beyond.
    [[nodiscard]] Vec3 projected(int f, const Vec3& p) const {
        const Surface& s = face(f).surface;
        const Vec3 q = s.point(s.project(p));
        if (finder_.inside_face(static_cast<std::size_t>(f), q)) return q;
        const auto rim = finder_.nearest_on_rim(static_cast<std::size_t>(f), p);
        return rim ? rim->place : q;
    }

    /// Along `way`, a unit vector square to the face.
    void look(int f, const Vec3& from, const Vec3& way, std::vector<ThinPlace>& out) const {
        const bool behind = dot(way, normal(f, from)) < 0;
        const int body = behind ? face(f).behind : face(f).before;
        const auto first = opposite_of(part_, finder_, from, way, body);
        if (!first) return;
        const auto [g, place] = *first;
        const auto& near = touching_[static_cast<std::size_t>(f)];
        if (g == f || std::find(near.begin(), near.end(), g) != near.end()) return;
        ThinPlace p{from, projected(g, place), f, g, body};
        for (int k = 0; k < projections; ++k) {
            const Vec3 b = projected(g, p.a), a = projected(f, b);
            const bool rests = distance(a, p.a) + distance(b, p.b) <= clear_;
            // On the way along both faces they may come to look elsewhere: that is no wall any more.
            if (distance(a, b) > p.width() || !look_at_each_other(normal(f, a), normal(g, b), way)) break;
            p.a = a;
            p.b = b;
            if (rests) break;
        }
        if (p.width() > clear_) out.push_back(p);
    }

    const SolidPart& part_;
    BodyFinder finder_;
    double clear_;
    std::vector<std::vector<int>> touching_;
};

}  // namespace

std::vector<ThinPlace> thin_places(const SolidPart& part) {
    return ThinPlaces(part).run();
}

}  // namespace dotsift
