#pragma once
// Levels of one or several results side by side.

#include <list>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "evidence/levels/stored_result.hpp"
#include "evidence/pictures/picture.hpp"

namespace dotsift {

struct ComparedLevel {
    std::string label;
    const StoredResult* result = nullptr;
    const SeriesResult* series = nullptr;
    const Level* level = nullptr;
};

/// Results, and the levels of them that are compared; every quantity that all of them have.
struct Comparison {
    std::list<StoredResult> results;  ///< keep their places
    std::vector<ComparedLevel> levels;
    std::vector<std::string> quantities;
    std::vector<SharedMeasure> shared;
    std::size_t finest = 0;  ///< of the levels the one with the most unknowns: the others are held against it
    [[nodiscard]] const Study& study() const { return results.front().opened.study; }
};

/// Each path names a result (then its level with the most unknowns is meant), a series in it (its last level) or a
/// level. Throws InputError for paths that name none, for fewer than two levels, and if parts, materials, supports,
/// loads or units differ, with what does.
Comparison compare_levels(const std::vector<std::filesystem::path>& paths);

/// A heading and one row a level: counts, errors, values with their gap to the finest level, costs.
std::vector<std::vector<std::string>> comparison_rows(const Comparison& c);
nlohmann::ordered_json comparison_json(const Comparison& c);

/// All in the same view and colours.
struct ComparisonPictures {
    struct OfLevel {
        PictureFiles field, mesh;
        std::optional<PictureFiles> difference;                       ///< to the finest level, on its mesh
        std::vector<std::pair<std::string, PictureFiles>> close_ups;  ///< round the peak of a quantity
    };
    std::vector<OfLevel> levels;
    std::vector<std::pair<std::string, PictureFiles>> charts;  ///< by file name
};
ComparisonPictures draw_comparison(const Comparison& c);

std::string comparison_html(const Comparison& c, const ComparisonPictures& pictures);

}  // namespace dotsift
