#pragma once
// Runs of a study with other values of its variables, as tables and charts of outputs over inputs.

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "evidence/pictures/picture.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What one run came to.
struct VariedOutputs {
    struct Quantity {
        double value = 0, uncertainty = 0;  ///< on the finest level of the series that answers best; its half-width
        Verdict verdict = Verdict::undecided;
        std::optional<LimitVerdict> limit{};
    };
    std::vector<Quantity> quantities;  ///< in the study's order
    std::int64_t elements = 0, unknowns = 0;
    double estimated_error = 0;  ///< least of all series' last levels
    bool all_met = false, limits_kept = false;
};
VariedOutputs outputs_of(const Study& study, const StudyResult& result);

struct VariedRun {
    std::vector<std::string> inputs;       ///< as they stand in a file
    std::optional<VariedOutputs> outputs;  ///< nothing: it failed
    std::string failure;                   ///< in words; empty: it did not
};

std::string variations_csv(const Study& study, const VarySpec& spec, const std::vector<VariedRun>& runs);
nlohmann::ordered_json variations_json(const Study& study, const VarySpec& spec, const std::vector<VariedRun>& runs);

/// One chart a quantity: over the variable with the most values, of those that are numbers, with a curve for each set
/// of the others.
std::vector<std::pair<std::string, PictureFiles>> draw_variations(const Study& study, const VarySpec& spec,
                                                                  const std::vector<VariedRun>& runs);

/// "2 mm" of "\"2 mm\"".
std::string without_quotes(const std::string& literal);

}  // namespace dotsift
