#pragma once
// What the levels say of a quantity, as JSON, as a table and in a chart.

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "evidence/pictures/chart.hpp"
#include "statistics/verdict.hpp"

namespace dotsift {

nlohmann::ordered_json verdict_json(const QuantityVerdict& verdict);

/// A heading and one row a quantity.
std::vector<std::vector<std::string>> statistics_rows(const std::vector<QuantityVerdict>& verdicts);

/// The interval's band, and the extrapolated value with this label.
void show_interval(ConvergenceChart& chart, const QuantityVerdict& verdict, const std::string& label);

/// Rows as a Markdown table; the first one is the heading, all columns but the first are aligned to the right.
std::string markdown_table(const std::vector<std::vector<std::string>>& rows);

}  // namespace dotsift
