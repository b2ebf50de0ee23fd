#include "part/checks/check_paths.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>

#include "part/face_finder.hpp"
#include "part/solid/body_finder.hpp"

namespace dotsift {

namespace {

/// The edges make one line without branches, or `from` says which of several lines is meant.
void check_followed(const PathSpec& path, const Part& part, Problems& problems) {
    const auto edges = part.edges_named(path.follow);
    if (edges.empty()) return;       // told already
    std::map<int, int> uses, piece;  // of vertices
    for (const int e : edges)
        for (const int v : {part.edge(e).start, part.edge(e).end}) {
            ++uses[v];
            piece[v] = v;
        }
    const auto root = [&](int v) {
        while (piece[v] != v) v = piece[v];
        return v;
    };
    for (const int e : edges) piece[root(part.edge(e).start)] = root(part.edge(e).end);
    for (const auto& [v, count] : uses)
        if (count > 2) {
            problems.add(path.where,
                         fmt::format("path.{}: {} edges meet at ({:.6g}, {:.6g}), so it is not clear which it follows",
                                     path.name, count, part.vertex(v)[0], part.vertex(v)[1]),
                         "name fewer edges");
            return;
        }
    std::vector<int> lines;
    for (const auto& [v, count] : uses)
        if (root(v) == v) lines.push_back(v);
    if (lines.size() > 1 && !path.from)
        problems.add(path.where,
                     fmt::format("path.{}: {} make {} lines apart from each other", path.name, quoted_list(path.follow),
                                 lines.size()),
                     fmt::format("say which one is meant by where it begins, as in: from = [{:.6g}, {:.6g}]",
                                 part.vertex(lines.front())[0], part.vertex(lines.front())[1]));
}

std::string told(const Vec3& p, bool in_space) {
    return in_space ? fmt::format("({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2])
                    : fmt::format("({:.6g}, {:.6g})", p[0], p[1]);
}

/// `holds` tells whether the part has a place, `low` and `high` are the corners of its box.
template <class Holds>
void check_course(const Study& study, const PathSpec& path, Holds holds, const Vec3& low, const Vec3& high,
                  Problems& problems) {
    constexpr int samples = 200;
    int missing = 0, count = 0;
    std::optional<Vec3> first_missing;
    for (std::size_t k = 1; k < path.points.size(); ++k)
        for (int i = 0; i <= samples; ++i) {
            const Vec3 p =
                path.points[k - 1] + (path.points[k] - path.points[k - 1]) * (static_cast<double>(i) / samples);
            ++count;
            if (holds(p)) continue;
            ++missing;
            if (!first_missing) first_missing = p;
        }
    const bool across = std::any_of(study.quantities.begin(), study.quantities.end(), [&](const QuantitySpec& q) {
        return q.along == path.name && (q.take == Take::membrane || q.take == Take::linearised);
    });
    const bool in_space = study.solid();
    if (missing == count && count > 0)
        problems.add(path.where, fmt::format("path.{} lies outside the part", path.name),
                     fmt::format("the part reaches from {} to {}", told(low, in_space), told(high, in_space)));
    else if (missing > 0 && across)
        problems.add(path.where,
                     fmt::format("path.{} leaves the part at {}, but a stress is linearised along it", path.name,
                                 told(*first_missing, in_space)),
                     "let it run from one surface of the wall to the other");
}

}  // namespace

void check_paths(const Study& study, const Part& part, double tolerance, Problems& problems) {
    std::optional<FaceFinder> finder;
    for (const auto& path : study.paths) {
        if (path.on_boundary()) {
            check_followed(path, part, problems);
            continue;
        }
        if (!finder) finder.emplace(part);
        check_course(
            study, path, [&](const Vec3& p) { return finder->holds(in_plane(p), tolerance); }, in_space(part.box.low),
            in_space(part.box.high), problems);
    }
}

void check_paths(const Study& study, const SolidPart& part, Problems& problems) {
    if (study.paths.empty()) return;
    const BodyFinder finder(part);
    for (const auto& path : study.paths)
        check_course(
            study, path, [&](const Vec3& p) { return finder.holds(p); }, part.box.low, part.box.high, problems);
}

}  // namespace dotsift
