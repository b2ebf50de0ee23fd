#include "series/meshing_notes.hpp"

#include <fmt/format.h>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

constexpr std::size_t most_lines = 8;

std::string place_of(const Position& p) {
    if (p.in_space()) return fmt::format("({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
    return fmt::format("({}, {})", sensible(p[0]), sensible(p[1]));
}

}  // namespace

std::vector<std::string> notes_on_tries(const MeshingLog& log, const std::string& length) {
    std::vector<std::string> lines;
    for (std::size_t k = 0; k < log.tries.size(); ++k) {
        const auto& t = log.tries[k];
        lines.push_back(fmt::format("try {}: {} at {}, boundary {}; sizes halved along {} piece{}, down to {} {}",
                                    k + 1, t.reason, place_of(t.position), t.boundary, t.places,
                                    t.places == 1 ? "" : "s", sensible(t.size), length));
    }
    return lines;
}

std::vector<std::string> notes_on_straightened(const MeshingLog& log) {
    if (log.straightened == 0) return {};
    return {
        fmt::format("{} edges of elements are straight though their face bends, near {}: smaller ones would be bent "
                    "as much there",
                    log.straightened, place_of(log.straightened_at))};
}

std::vector<std::string> notes_on_retries(const std::vector<FailedTry>& failed, const Study& study, bool made) {
    std::vector<std::string> lines;
    const auto changes = [&](double sizes, double merge_points) {
        std::string text = sizes == 1 ? "the sizes as they are" : fmt::format("every size times {}", sensible(sizes));
        if (merge_points > 0)
            text += fmt::format(", points nearer than {} {} as one", sensible(merge_points),
                                study.units.label(dimension::length));
        return text;
    };
    lines.reserve(failed.size() + 1);
    for (const auto& f : failed)
        lines.push_back(fmt::format("no mesh with {}: {}{}{}", changes(f.sizes, f.merge_points), f.reason,
                                    f.place.position ? " at " + place_of(*f.place.position) : "",
                                    f.place.boundary.empty() ? "" : fmt::format(", boundary {}", f.place.boundary)));
    if (made && !failed.empty() && study.mesh.retry)
        lines.push_back(
            fmt::format("meshed with {}",
                        changes(study.sizes.factor,
                                study.mesh.retry->merge_points == 1 ? 0 : study.cleanup.merge_points.value_or(0))));
    return lines;
}

std::vector<std::string> notes_on_layers(const MeshingLog& log, const Study& study, const Part& part) {
    std::vector<std::string> lines;
    for (const auto& t : log.thinned) {
        const std::string& rule = study.sizes.layers[static_cast<std::size_t>(t.rule)].name;
        const std::string edge = part.name_of_edge(t.edge);
        lines.push_back(t.factor > 0 ? fmt::format("layers {}: thinned to {} of their height on {} at {}", rule,
                                                   percent(t.factor), edge, place_of(t.position))
                                     : fmt::format("layers {}: left out along {} at {}, where no height fits", rule,
                                                   edge, place_of(t.position)));
    }
    return lines;
}

std::vector<std::string> notes_on_repair(const RepairReport& repair) {
    std::vector<std::string> lines;
    if (repair.poor_before == 0) return lines;
    lines.push_back(fmt::format("poor elements: {}, after repair {} ({} nodes moved, {} sides turned)",
                                repair.poor_before, repair.poor_after, repair.moved, repair.swapped));
    for (std::size_t k = 0; k < std::min(most_lines, repair.left.size()); ++k) {
        const auto& p = repair.left[k];
        lines.push_back(fmt::format("stays poor: element {} at {}, {} {}{}{}", p.element, place_of(p.position),
                                    title_of(p.measure), sensible(p.value, 3), unit_of(p.measure),
                                    p.cause.empty() ? "" : "; " + p.cause));
    }
    if (repair.left.size() > most_lines) lines.push_back(fmt::format("and {} more", repair.left.size() - most_lines));
    return lines;
}

std::vector<std::string> meshing_notes(const MeshingLog& log, const RepairReport& repair, const Study& study,
                                       const Part& part) {
    std::vector<std::string> notes;
    for (const auto& lines : {notes_on_tries(log, study.units.label(dimension::length)),
                              notes_on_layers(log, study, part), notes_on_repair(repair)})
        notes.insert(notes.end(), lines.begin(), lines.end());
    return notes;
}

}  // namespace dotsift
