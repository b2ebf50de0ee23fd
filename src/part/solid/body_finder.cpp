#include "part/solid/body_finder.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "part/solid/ray_meetings.hpp"

namespace dotsift {

namespace {

constexpr int steps_of_edge = 24;
constexpr int agreeing = 2;  // as many rays more for one answer than for any other

/// Directions of rays, with no relation to any axis.
constexpr std::array<std::array<double, 3>, 9> directions{{{0.5267, 0.6143, 0.5877},
                                                           {-0.4391, 0.7129, 0.5468},
                                                           {0.6813, -0.3347, 0.6511},
                                                           {0.2719, 0.4877, -0.8296},
                                                           {-0.7331, -0.5123, 0.4474},
                                                           {0.3917, -0.8069, -0.4421},
                                                           {-0.6151, 0.3229, -0.7192},
                                                           {-0.2237, -0.5791, -0.7839},
                                                           {0.9127, 0.1913, 0.3611}}};

/// The ray runs past the box.
bool misses(const Box<3>& box, const Vec3& from, const Vec3& along) {
    double enter = 0, leave = INFINITY;
    for (std::size_t k = 0; k < 3; ++k) {
        const double a = (box.low[k] - from[k]) / along[k], b = (box.high[k] - from[k]) / along[k];
        if (std::isnan(a) || std::isnan(b)) continue;  // along this side of it
        enter = std::max(enter, std::min(a, b));
        leave = std::min(leave, std::max(a, b));
    }
    return enter > leave;
}

}  // namespace

BodyFinder::BodyFinder(const SolidPart& part) : part_(part) {
    constexpr double least_stray = 1e-9;   // of the face on its chart
    constexpr double plane_margin = 1e-6;  // of its size
    edge_boxes_.reserve(part.edges.size());
    for (const auto& e : part.edges) edge_boxes_.push_back(e.curve.box());
    faces_.reserve(part.faces.size());
    for (const auto& face : part.faces) {
        Flat& flat = faces_.emplace_back(face.surface);
        bool first = true;
        for (const auto& loop : face.loops) {
            Flat::Loop own{flat.chords.size(), 0, {}, false};
            std::vector<Vec3> points;  // two for each chord: where it begins, and its middle
            for (const EdgeUse& use : loop) {
                const auto& curve = part.edge(use.edge).curve;
                flat.space.add(edge_boxes_[static_cast<std::size_t>(use.edge)]);
                for (int k = 0; k < 2 * steps_of_edge; ++k) {  // a straight edge may be curved on the chart
                    const double t = k / (2.0 * steps_of_edge);
                    points.push_back(curve.point(use.forward ? t : 1 - t));
                }
            }
            points.push_back(points.front());
            Vec2 beside = first ? face.surface.project(points[1]) : flat.beside;
            std::vector<Vec2> line;
            for (const Vec3& p : points) {
                // A loop that goes round ends one turn farther than it began.
                beside = face.surface.project(p, beside);
                line.push_back(flat.chart.flat(beside));
                if (first) flat.beside += beside / static_cast<double>(points.size());
                own.box.add(line.back());
            }
            flat.box.add(own.box);
            for (std::size_t k = 2; k < line.size(); k += 2)
                flat.chords.push_back({line[k - 2], line[k], 2 * distance(line[k - 1], (line[k - 2] + line[k]) * 0.5)});
            first = false;
            own.last = flat.chords.size();
            own.closed = distance(line.front(), line.back()) <= least_stray * own.box.diagonal();
            flat.loops.push_back(own);
        }
        for (auto& chord : flat.chords) chord.stray += least_stray * flat.box.diagonal();
        for (auto& loop : flat.loops) {
            double stray = 0;
            for (std::size_t c = loop.first; c < loop.last; ++c) stray = std::max(stray, flat.chords[c].stray);
            loop.box.add(loop.box.low - Vec2{{stray, stray}});
            loop.box.add(loop.box.high + Vec2{{stray, stray}});
        }
        const Vec2 period = face.surface.periods();
        if (period[0] > 0 && !flat.chart.about_pole())
            flat.period = flat.chart.flat(flat.beside + Vec2{{period[0], 0}})[0] - flat.chart.flat(flat.beside)[0];
        // The middle of the surface may bulge out of the box of its edges.
        const bool flat_face = face.surface.kind() == Surface::Kind::plane;
        const double bulge = flat.space.diagonal() * (flat_face ? plane_margin : 0.5);
        flat.space.add(flat.space.low - Vec3{{bulge, bulge, bulge}});
        flat.space.add(flat.space.high + Vec3{{bulge, bulge, bulge}});
    }
    std::vector<Box<3>> spaces;
    spaces.reserve(faces_.size());
    for (const Flat& flat : faces_) spaces.push_back(flat.space);
    boxes_ = BoxTree(std::move(spaces));
}

std::optional<bool> BodyFinder::inside(const Flat& face, const Vec3& p) const {
    const Vec2 flat = face.chart.flat(face.chart.surface().project(p, face.beside));
    bool in = false;
    for (const auto& loop : face.loops) {
        if (loop.closed && loop.box.distance_to(flat) > 0) continue;
        const auto found = crossed(face, loop, flat);
        if (!found) return std::nullopt;
        in = in != *found;
    }
    return in;
}

std::optional<bool> BodyFinder::crossed(const Flat& face, const Flat::Loop& loop, const Vec2& flat) {
    bool in = false;
    for (std::size_t c = loop.first; c < loop.last; ++c) {
        const auto& [a, b, stray] = face.chords[c];
        // Across the way that goes round, so that what lies a turn away is the same.
        Vec2 q = flat;
        if (face.period > 0) q[0] += face.period * std::ceil((std::min(a[0], b[0]) - q[0]) / face.period);
        const Vec2 d = b - a;
        const double length = dot(d, d), t = length > 0 ? std::clamp(dot(q - a, d) / length, 0.0, 1.0) : 0;
        if (distance(q, a + d * t) < stray) return std::nullopt;
        if ((a[0] > q[0]) != (b[0] > q[0]) && q[1] < a[1] + d[1] * (q[0] - a[0]) / d[0]) in = !in;
    }
    return in;
}

std::optional<bool> BodyFinder::inside_at(std::size_t f, const Vec3& p) const {
    if (part_.faces[f].surface.kind() == Surface::Kind::facets) return true;  // facets are the whole of it
    return inside(faces_[f], p);
}

bool BodyFinder::cross(const Vec3& from, const Vec3& along, std::vector<char>& odd) const {
    std::fill(odd.begin(), odd.end(), 0);
    bool counts = true;
    boxes_.visit([&](const Box<3>& box) { return counts && !misses(box, from, along); },
                 [&](std::size_t f) {
                     const SolidFace& face = part_.faces[f];
                     if (!counts || face.behind == face.before) return;
                     const auto places = meetings(face.surface, from, along);
                     counts = places.has_value();
                     for (std::size_t k = 0; counts && k < places->size(); ++k) {
                         const Vec3& p = (*places)[k];
                         if (faces_[f].space.distance_to(p) > 0) continue;
                         const auto in = inside_at(f, p);
                         counts = in.has_value();
                         if (!in.value_or(false)) continue;
                         for (const int body : {face.behind, face.before})
                             if (body >= 0) odd[static_cast<std::size_t>(body)] ^= 1;
                     }
                 });
    return counts;
}

std::optional<std::pair<int, Vec3>> BodyFinder::first_crossing(const Vec3& from, const Vec3& along) const {
    std::optional<std::pair<int, Vec3>> first;
    bool clear = true;
    boxes_.visit([&](const Box<3>& box) { return clear && !misses(box, from, along); },
                 [&](std::size_t f) {
                     const auto places = meetings(part_.faces[f].surface, from, along);
                     if (!places) return;  // nearly along it
                     for (const Vec3& p : *places) {
                         if (faces_[f].space.distance_to(p) > 0) continue;
                         if (first && distance(from, p) >= distance(from, first->second)) continue;
                         const auto in = inside_at(f, p);
                         if (!in) clear = false;
                         if (in.value_or(false)) first = {static_cast<int>(f), p};
                     }
                 });
    return clear ? first : std::nullopt;
}

int BodyFinder::operator()(const Vec3& p) const {
    if (part_.box.distance_to(p) > 0) return -1;
    std::vector<char> odd(part_.bodies.size());
    std::vector<int> votes(part_.bodies.size() + 1, 0);  // the last one: outside
    for (const auto& d : directions) {
        if (!cross(p, Vec3{d}, odd)) continue;
        const auto in = static_cast<std::size_t>(std::count(odd.begin(), odd.end(), 1));
        if (in > 1) continue;  // cannot be
        ++votes[static_cast<std::size_t>(std::find(odd.begin(), odd.end(), 1) - odd.begin())];
        std::vector<int> sorted = votes;
        std::sort(sorted.rbegin(), sorted.rend());
        if (sorted[0] - (sorted.size() > 1 ? sorted[1] : 0) >= agreeing) break;
    }
    const auto most = std::max_element(votes.begin(), votes.end()) - votes.begin();
    return static_cast<std::size_t>(most) < part_.bodies.size() && votes[static_cast<std::size_t>(most)] > 0
               ? static_cast<int>(most)
               : -1;
}

bool BodyFinder::on_face(const Vec3& p, double tolerance) const {
    for (std::size_t e = 0; e < part_.edges.size(); ++e) {
        const auto& curve = part_.edges[e].curve;
        if (edge_boxes_[e].distance_to(p) <= tolerance && distance(curve.point(curve.project(p)), p) <= tolerance)
            return true;
    }
    bool on = false;
    boxes_.visit([&](const Box<3>& box) { return !on && box.distance_to(p) <= tolerance; },
                 [&](std::size_t f) {
                     const Surface& s = part_.faces[f].surface;
                     if (distance(s.point(s.project(p)), p) > tolerance) return;
                     const auto in = inside(faces_[f], p);
                     on = on || (in ? *in : left_of_nearest(f, p));
                 });
    return on;
}

std::optional<BodyFinder::OnRim> BodyFinder::nearest_on_rim(std::size_t f, const Vec3& p) const {
    double least = INFINITY;
    std::optional<OnRim> nearest;
    for (const auto& loop : part_.faces[f].loops)
        for (const EdgeUse& use : loop) {
            if (edge_boxes_[static_cast<std::size_t>(use.edge)].distance_to(p) >= least) continue;
            const auto& curve = part_.edge(use.edge).curve;
            const double t = curve.project(p);
            const Vec3 place = curve.point(t);
            if (distance(place, p) >= least) continue;
            least = distance(place, p);
            nearest = {use, t, place};
        }
    return nearest;
}

bool BodyFinder::left_of_nearest(std::size_t f, const Vec3& p) const {
    const auto rim = nearest_on_rim(f, p);
    if (!rim) return false;
    const Surface& surface = part_.faces[f].surface;
    const Vec3 d = part_.edge(rim->use.edge).curve.derivative(rim->t), along = rim->use.forward ? d : -d;
    return dot(dotsift::cross(surface.normal(surface.project(p)), along), p - rim->place) > 0;
}

std::vector<Vec2> BodyFinder::places_on(std::size_t f, int along) const {
    const Flat& face = faces_[f];
    std::vector<Vec2> out;
    for (int i = 0; i < along; ++i)
        for (int j = 0; j < along; ++j) {
            const Vec2 q{{face.box.low[0] + face.box.size()[0] * (i + 0.5) / along,
                          face.box.low[1] + face.box.size()[1] * (j + 0.5) / along}};
            const Vec2 at = face.chart.parameters(q);
            if (inside(face, face.chart.surface().point(at)).value_or(false)) out.push_back(at);
        }
    return out;
}

bool BodyFinder::holds(const Vec3& p) const {
    return (*this)(p) >= 0 || on_face(p, same_point_share * part_.box.diagonal());
}

}  // namespace dotsift
