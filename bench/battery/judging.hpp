#pragma once
// What the battery keeps of its runs, and the table of how often intervals hold.

#include <filesystem>
#include <string>
#include <vector>

#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "statistics/verdict.hpp"

namespace dotsift::bench {

/// One quantity on one level of a series.
struct Record {
    std::string family, elements, series, kind, strategy, quantity, measure;
    int order = 1, level = 1;
    bool smooth = true, unbounded = false;
    double h = 0, unknowns = 0, value = 0, terms = 0, estimated_error = 0, expected = 0, dual = 0, radius = 0,
           spread = 0, truth = 0, unseen = 0;
};

std::string record_header();
std::string to_csv(const Record& record);
std::vector<Record> records_of(const std::string& family, const std::string& elements, int order,
                               const StudyAndPart& both, const StudyResult& result, const std::vector<double>& truth);

/// Prints the records of one half with the truths as they are computed now, for a look at them.
void print_records(const std::filesystem::path& directory, bool chosen);

/// Prints the table of one half from the records in a directory.
void judge(const std::filesystem::path& directory, bool chosen);

}  // namespace dotsift::bench
