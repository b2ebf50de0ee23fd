#include "verification/verification.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "evidence/verification_files.hpp"
#include "mesh/plane/quadrilaterals/subdivide.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

TEST_SUITE_BEGIN("verification");

TEST_CASE("the code verifies itself: patch tests, orders, known answers") {
    const CodeVerification v = verify_code({}, [](const std::string&) {});
    CHECK(v.checks.size() > 150);
    for (const auto& c : v.checks) {
        CAPTURE(c.problem);
        CAPTURE(c.elements);
        CAPTURE(c.what);
        CAPTURE(c.found);
        CAPTURE(c.known);
        CHECK(c.passed);
        CHECK(!c.source.empty());
    }
    const auto json = verification_json(v);
    CHECK(json["passed"] == true);
    CHECK(json["checks"].size() == v.checks.size());
    CHECK(has(verification_markdown(v), "## Known answers"));
}

TEST_CASE("a wrong result is told as failed") {
    CodeVerification v;
    CodeCheck c;
    c.found = 1;
    v.checks.push_back(c);
    CHECK(!v.passed());
    CHECK(has(verification_markdown(v), "FAILED"));
}

TEST_CASE("a subdivided mesh keeps area, names and regions, and halves its sides") {
    for (const std::string elements : {"triangles", "quadrilaterals"}) {
        const auto s = solve_cases_of(
            "[part]\nname = \"a\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"l\" "
            "}\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [2, 0]\nsize = [1, 1]\nregion = \"b\"\nnames = { right = "
            "\"r\" "
            "}\n[material.m]\nconductivity = 1\n[support.a]\non = \"l\"\npotential = 0\n[load.q]\non = \"r\"\nflux = "
            "1\n[size]\nglobal = 0.4\n[quantity.t]\nof = \"potential\"\n[mesh]\nelements = \"" +
            elements + "\"\n");
        const Mesh fine = subdivide(s.mesh);
        CHECK(fine.element_count() == 4 * s.mesh.element_count());
        CHECK(fine.measure() == doctest::Approx(s.mesh.measure()));
        CHECK(fine.boundary.size() == 2 * s.mesh.boundary.size());
        CHECK(fine.node_of_slot.size() > fine.nodes.size());
        for (const auto& b : fine.boundary) {
            const auto e = static_cast<std::size_t>(b.element);
            const auto side = side_nodes(fine.kinds[e], b.side);
            for (std::size_t i = 0; i < 3; ++i) CHECK(fine.element(e)[side[i]] == b.nodes[i]);
        }
        const Solution again = solve_study(fine, s.both.study);
        for (std::size_t n = 0; n < fine.nodes.size(); ++n)
            CHECK(again.potential[n] == doctest::Approx(fine.nodes[n][0]).epsilon(1e-9));
    }
}

TEST_SUITE_END();
