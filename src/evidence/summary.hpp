#pragma once
// The numbers of a study as JSON and CSV.

#include <nlohmann/json.hpp>
#include <string>

#include "part/check_study.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Everything that the report shows; docs/summary.md describes it. Times and memory stand under "cost" only, so that
/// the rest is the same for the same input.
nlohmann::ordered_json summary_json(const StudyAndPart& opened, const StudyResult& result);

/// One row a level.
std::string levels_csv(const Study& study, const StudyResult& result);

/// What the verdicts come to, in one sentence.
std::string study_verdict(const Study& study, const StudyResult& result);

/// The verdict of the series that answers best for a quantity: one that met the target, else the narrowest band.
const QuantityVerdict* best_verdict(const StudyResult& result, std::size_t quantity);

/// A quantity's value with that many digits; "0" if it is rounding beside the terms that it is made of.
std::string shown_value(const QuantityValue& quantity, int digits);

/// Its relative change from one level to the next; NaN where that means nothing.
double relative_change(const QuantityValue& before, const QuantityValue& now);

}  // namespace dotsift
