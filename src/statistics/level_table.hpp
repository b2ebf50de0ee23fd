#pragma once
// A table of values on ever finer meshes, of any origin: comma-separated text -> levels.

#include <string>
#include <string_view>
#include <vector>

#include "statistics/level_value.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

/// Where the sizes of a table come from: a column of sizes, or one of element counts N in a space of `dimension`
/// dimensions, which makes the size N^(-1/dimension), as for a part of measure 1.
struct SizeColumn {
    std::string name;  ///< empty: the first column
    bool counts = false;
    int dimension = 2;
};

/// One column of values, from coarse to fine.
struct TableSeries {
    std::string name;
    std::vector<LevelValue> levels;
};

/// The first row has the columns' names, unless it is all numbers, every other row one level; from coarse to fine or
/// from fine to coarse. For its form see TextTable; what is assumed of it is a warning. `values` names the columns of
/// values; empty: all that remain, but those of text. Whatever is wrong is noted with its line: text where a number
/// belongs, missing values, sizes that are equal or neither rise nor fall from row to row, fewer than three levels,
/// columns that are not there; then nothing is returned. What was guessed is a warning: whole numbers in a first column
/// of which nothing was said are counts.
std::vector<TableSeries> read_level_table(std::string_view text, const SizeColumn& size,
                                          const std::vector<std::string>& values, Problems& problems);

}  // namespace dotsift
