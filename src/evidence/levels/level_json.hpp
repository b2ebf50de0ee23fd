#pragma once
// The numbers of one level as JSON, and back.

#include <nlohmann/json.hpp>
#include <vector>

#include "series/level.hpp"
#include "study/study.hpp"

namespace dotsift {

/// One level, as it stands in level.json and in the summary; docs/summary.md describes it.
nlohmann::ordered_json level_json(const Study& study, const Level& level);

/// What level.json holds of a level: all but its mesh and fields.
struct StoredNumbers {
    Level level;                      ///< without mesh and fields
    std::vector<Solution> solutions;  ///< of each case, without their fields
    double error2 = 0, energy2 = 0;   ///< of the error map
};
/// Throws what the JSON library or a missing quantity of the study makes it throw (std::exception).
StoredNumbers numbers_from(const nlohmann::ordered_json& json, const Study& study);

}  // namespace dotsift
