#pragma once
// The numbers of a study as JSON and CSV.

#include <nlohmann/json.hpp>
#include <string>

#include "part/checks/check_study.hpp"
#include "series/outlook.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Everything that the report shows; docs/summary.md describes it. Times and memory stand under "cost" only, so that
/// the rest is the same for the same input.
nlohmann::ordered_json summary_json(const StudyAndPart& opened, const StudyResult& result);

nlohmann::ordered_json shared_json(const std::vector<SharedMeasure>& shared);

/// One row a level.
std::string levels_csv(const Study& study, const StudyResult& result);

/// The verdict, its sentences and one table a series, for pasting elsewhere.
std::string levels_markdown(const Study& study, const StudyResult& result);

/// What the verdicts come to, in one sentence.
std::string study_verdict(const Study& study, const StudyResult& result);

/// The cheapest level that is enough, and what another level of each series would bring and cost.
std::vector<std::string> outlook_sentences(const Study& study, const StudyResult& result);

/// A quantity's value with that many digits; "0" if it is rounding beside the terms that it is made of.
std::string shown_value(const QuantityValue& quantity, int digits);

/// Its relative change from one level to the next; NaN where that means nothing.
double relative_change(const QuantityValue& before, const QuantityValue& now);

}  // namespace dotsift
