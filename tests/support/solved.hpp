#pragma once
// Studies given as text, meshed and solved.

#include <doctest/doctest.h>

#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "support/kept_study.hpp"
#include "support/studies.hpp"

namespace dotsift::test {

struct SolvedCases {
    StudyAndPart both;
    Mesh mesh;
    Laws laws;
    std::vector<CaseFields> cases;
    std::vector<QuantityValue> quantities;

    [[nodiscard]] const Solution& solution(std::size_t k = 0) const { return cases[k].solution; }
    [[nodiscard]] double value(const std::string& name) const {
        for (const auto& q : quantities)
            if (q.name == name) return q.value;
        FAIL("no quantity " << name);
        return 0;
    }
};

/// `body` follows "format = 1". Faults of the study fail the test.
inline SolvedCases solve_cases_of(const std::string& body) {
    keep_study("format = 1\n" + body);
    SolvedCases s;
    Problems problems("test.toml");
    s.both = open_study("test.toml", "format = 1\n" + body, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    s.mesh = generate(s.both.part, sizing_of(s.both.part, s.both.study.sizes, "."), 100000, s.both.study.mesh);
    ready_for_solving(s.both.study, s.both.part, s.mesh);
    s.laws = laws_of(s.both.study, s.mesh.region_names);
    for (auto& x : solve_cases(s.mesh, s.both.study)) {
        CaseFields f;
        if (s.both.study.elastic()) f.stress = recover_stress(s.mesh, s.both.study, s.laws, x);
        if (s.both.study.conducts()) f.flux = recover_flux(s.mesh, s.both.study, s.laws, x);
        f.solution = std::move(x);
        s.cases.push_back(std::move(f));
    }
    s.quantities = evaluate_quantities(s.both.study, s.mesh, s.laws, s.cases);
    return s;
}

}  // namespace dotsift::test
