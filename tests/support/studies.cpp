#include "support/studies.hpp"

#include <doctest/doctest.h>

#include "part/build.hpp"
#include "part/checks/check_study.hpp"
#include "study/read.hpp"

namespace dotsift::test {

bool has(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

double length_named(const Part& part, const std::string& name) {
    double sum = 0;
    for (const int e : part.edges_named({name})) sum += part.edge(e).curve.length();
    return sum;
}

std::string rest_of_study() {
    return "[material.steel]\nyoungs_modulus = 200000\npoissons_ratio = 0.3\n[support.held]\non = \"left\"\nhold = "
           "\"fixed\"\n"
           "[load.pull]\non = \"right\"\ntraction = [1, 0]\n";
}

Study study_from(const std::string& text) {
    Problems problems("test.toml");
    Study study = read_study("test.toml", text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return study;
}

namespace {

Problems all_problems(const std::string& text) {
    Problems problems("test.toml");
    (void)open_study("test.toml", text, problems);
    return problems;
}

}  // namespace

std::string faults_of(const std::string& text) {
    return all_problems(text).text();
}
std::string warnings_of(const std::string& text) {
    return all_problems(text).warning_text();
}

Part part_from(const std::string& shapes) {
    Problems problems("test.toml");
    const Study study = read_study(
        "test.toml",
        "format = 1\n[part]\n" + shapes +
            "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[support.s]\non = \"*\"\nhold = \"fixed\"\n"
            "[load.l]\non = \"*\"\npressure = 1\n[quantity.e]\nof = \"strain_energy\"\n",
        problems);
    Part part = build_part(study, problems).part;
    INFO(problems.text());
    REQUIRE(problems.empty());
    return part;
}

Study square_study(const std::string& body) {
    return study_from("format = 1\n" + body +
                      "\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nnames = { left = \"left\", right = "
                      "\"right\", top = \"top\", bottom = \"bottom\" }\n");
}

LocalSize length_on(const std::string& name, double size) {
    LocalSize rule;
    rule.name = name;
    rule.on = {name};
    rule.size.constant = size;
    return rule;
}

}  // namespace dotsift::test
