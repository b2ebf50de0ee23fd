#pragma once
// Studies given as text, run to their end.

#include <doctest/doctest.h>

#include "series/run.hpp"
#include "support/kept_study.hpp"
#include "support/studies.hpp"

namespace dotsift::test {

struct StudyRun {
    StudyAndPart opened;
    StudyResult result;
};

/// Faults of the study fail the test.
inline StudyRun run_text(const std::string& text) {
    keep_study(text);
    StudyRun m;
    Problems problems("test.toml");
    m.opened = open_study("test.toml", text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    StudyObserver silent;
    m.result = run_study(m.opened.study, m.opened.part, silent);
    return m;
}

}  // namespace dotsift::test
