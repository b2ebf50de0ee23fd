#include "part/checks/check_tables.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "part/face_finder.hpp"
#include "study/file/shared_formula.hpp"

namespace dotsift {

namespace {

constexpr int across = 60;   // places that are asked for along the longer side of the part
constexpr int on_edges = 9;  // and on each edge
constexpr std::size_t most_edges = 2000;

std::vector<Vec2> places_in(const Part& part, const FaceFinder& finder) {
    std::vector<Vec2> places;
    const double step = std::max(part.box.size()[0], part.box.size()[1]) / across;
    for (double y = part.box.low[1] + step / 2; y < part.box.high[1]; y += step)
        for (double x = part.box.low[0] + step / 2; x < part.box.high[0]; x += step)
            if (finder.at({{x, y}}) >= 0) places.push_back({{x, y}});
    for (std::size_t e = 0; e < std::min(part.edges.size(), most_edges); ++e)
        for (int k = 0; k < on_edges; ++k) places.push_back(part.edges[e].curve.point((k + 0.5) / on_edges));
    return places;
}

}  // namespace

void check_thickness(const Study& study, const Part& part, Problems& problems) {
    std::vector<Vec2> places;
    std::optional<FaceFinder> finder;
    for (const auto& region : part.regions) {
        const Formula& thickness = study.thickness_in(region);
        if (thickness.constant) continue;
        if (!finder) finder.emplace(part);
        if (places.empty()) places = places_in(part, *finder);
        const auto own = static_cast<int>(&region - part.regions.data());
        try {
            const PositiveField field(thickness, study.path.string(), "the thickness");
            for (const Vec2& p : places)
                if (const int face = finder->at(p);
                    face >= 0 && part.faces[static_cast<std::size_t>(face)].region == own)
                    (void)field(p);
        } catch (const InputError& e) {
            problems.add(thickness.where, e.what(), e.remedy());
        }
    }
}

void check_tables(const Study& study, const Part& part, Problems& problems) {
    if (!study.tables || part.box.empty) return;
    std::vector<Vec2> places;
    for (const auto& table : *study.tables) {
        if (!table.scattered) continue;
        if (places.empty()) places = places_in(part, FaceFinder(part));
        std::size_t bare = 0;
        double farthest = 0;
        Vec2 worst;
        for (const Vec2& p : places) {
            if (table.scattered->covers(p)) continue;
            ++bare;
            if (const double gap = table.scattered->gap(p); gap > farthest) {
                farthest = gap;
                worst = p;
            }
        }
        if (bare == 0) continue;
        problems.warn(
            table.where,
            fmt::format("table.{}: {} of the part lies outside of its points or in a hole of them; at ({:.4g}, "
                        "{:.4g}) the nearest is {} {} away",
                        table.name, percent(static_cast<double>(bare) / static_cast<double>(places.size())), worst[0],
                        worst[1], sensible(farthest, 2), study.units.label(dimension::length)),
            "there it has the value of the nearest point");
    }
}

}  // namespace dotsift
