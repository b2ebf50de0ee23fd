// The tables of the report against the levels that they are made from.

#include "evidence/report/report_tables.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <regex>

#include "base/numbers.hpp"
#include "evidence/report/html.hpp"
#include "evidence/summary.hpp"
#include "support/csv_rows.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// Two materials, two load cases, two kinds of series, quantities of every kind.
const StudyRun& elastic() {
    static const StudyRun m = run_text(
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[part]\nthickness = 5\n[[part.shape]]\nadd = "
        "\"rectangle\"\nsize "
        "= "
        "[60, 20]\nregion = \"soft\"\nnames = { left = \"wall\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [60, "
        "0]\nsize = [40, 20]\nregion = \"hard\"\nnames = { right = \"end\", top = \"back\" }\n[[part.shape]]\ncut = "
        "\"circle\"\ncentre = [30, 10]\nradius = 4\nname = \"hole\"\n"
        "[material.brass]\non = \"soft\"\nyoungs_modulus = \"100 GPa\"\npoissons_ratio = 0.33\n"
        "[material.steel]\non = \"hard\"\nyoungs_modulus = \"205 GPa\"\npoissons_ratio = 0.3\n"
        "[support.clamp]\non = \"wall\"\nhold = \"fixed\"\n[load.pull]\non = \"end\"\nforce = [1000, 0]\n"
        "[load.press]\non = \"back\"\npressure = 2\n[case.pulled]\nfactors = { pull = 1 }\n[case.both]\nfactors = { "
        "pull = 2, press = 1 }\n"
        "[quantity.peak]\nof = \"von_mises\"\non = \"hole\"\ntarget = \"5 %\"\n"
        "[quantity.shift]\nof = \"ux\"\ntake = \"mean\"\non = \"end\"\ntarget = \"0.5 %\"\n"
        "[quantity.sag]\nof = \"uy\"\ntake = \"mean\"\non = \"end\"\ncase = \"both\"\n"
        "[quantity.ratio]\nformula = \"peak / 10\"\n"
        "[size]\nglobal = 7\n[series.even]\nkind = \"uniform\"\nratio = 1.6\nmost_levels = 4\n"
        "[series.fit]\nkind = \"adaptive\"\nerror_target = \"2 %\"\n[results]\nerror_bound = true\n");
    return m;
}

const StudyRun& heated() {
    static const StudyRun m = run_text(
        "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = "
        "[20, "
        "10]\nnames "
        "= { left = \"cold\", right = \"warm\" }\n[material.m]\nconductivity = 50\n[support.cold]\non = "
        "\"cold\"\npotential = 20\n[load.warm]\non = \"warm\"\nflow = 3\n[quantity.top]\nof = "
        "\"potential\"\ntarget = \"1 "
        "%\"\n[size]\nglobal = 4\n[series.even]\nkind = \"uniform\"\nmost_levels = 3\n");
    return m;
}

std::vector<std::pair<std::string, Table>> all_tables(const StudyRun& m) {
    const Study& study = m.opened.study;
    std::vector<std::pair<std::string, Table>> tables{{"comparison", comparison_table(study, m.result)},
                                                      {"shared", shared_table(study, m.result.shared)},
                                                      {"loads", loads_table(study, m.result)},
                                                      {"singular", singular_table(study, m.result)},
                                                      {"materials", materials_table(study)},
                                                      {"sizes", sizes_table(study)},
                                                      {"quality", quality_table(study, m.result)}};
    for (const auto& s : m.result.series) {
        tables.emplace_back("levels of " + s.name, levels_table(study, s));
        tables.emplace_back("convergence of " + s.name, convergence_table(study, s));
        tables.emplace_back("fits of " + s.name, fits_table(s));
        tables.emplace_back("dual of " + s.name, dual_table(study, s));
        tables.emplace_back("places of " + s.name, error_places_table(s));
        tables.emplace_back("cost of " + s.name, cost_table(s));
    }
    return tables;
}

/// The number at the beginning of a text, with its last digit's worth; nothing if there is none.
std::optional<std::pair<double, double>> shown_number(std::string text) {
    for (const std::string blank : {"\u202f", "\u2009", "\u00a0"})
        for (std::size_t at = 0; (at = text.find(blank)) != std::string::npos;) text.erase(at, blank.size());
    // Groups of three digits
    std::smatch found;
    static const std::regex groups("^(-?[0-9]{1,3})((?: [0-9]{3})+)(?![0-9])(.*)$");
    if (std::regex_match(text, found, groups)) {
        std::string digits = found[2];
        digits.erase(std::remove(digits.begin(), digits.end(), ' '), digits.end());
        text = found[1].str() + digits + found[3].str();
    }
    static const std::regex number("^(-?[0-9]+)(?:\\.([0-9]+))?(?:e([-+][0-9]+))?");
    if (!std::regex_search(text, found, number)) return std::nullopt;
    const double power = found[3].matched ? std::stod(found[3].str()) : 0;
    const double worth = std::pow(10.0, power - static_cast<double>(found[2].length()));
    return std::pair{std::stod(found[0].str()), worth};
}

const TableCell& cell(const Table& t, std::size_t row, const std::string& heading, std::size_t nth = 0) {
    for (std::size_t c = 0; c < t.headings.size(); ++c)
        if (t.headings[c].name == heading && nth-- == 0) return t.rows.at(row).at(c);
    FAIL("no column " << heading);
    return t.rows[0][0];
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("every table has a cell for each heading, and what a cell shows is its number rounded") {
    for (const StudyRun* m : {&elastic(), &heated()}) {
        std::size_t numbers = 0;
        for (const auto& [name, table] : all_tables(*m)) {
            CAPTURE(name);
            for (const auto& row : table.rows) {
                REQUIRE(row.size() == table.headings.size());
                for (std::size_t c = 0; c < row.size(); ++c) {
                    const TableCell& cell = row[c];
                    CAPTURE(table.headings[c].name);
                    CAPTURE(cell.text);
                    CHECK_FALSE(has(cell.text, "nan"));
                    CHECK_FALSE(has(cell.text, "inf"));
                    if (std::isnan(cell.sorted_by)) continue;
                    const auto shown = shown_number(cell.text);
                    if (!shown || cell.text == "0") continue;
                    ++numbers;
                    const double scale = has(cell.text, "%") ? 100 : table.headings[c].unit == "MB" ? 1e-6 : 1;
                    CHECK(std::fabs(shown->first - scale * cell.sorted_by) <=
                          0.5001 * shown->second + 1e-9 * std::fabs(shown->first));
                }
            }
        }
        CHECK(numbers > 60);
    }
}

TEST_CASE("the levels' table holds the levels") {
    const StudyRun& m = elastic();
    for (const auto& s : m.result.series) {
        const Table t = levels_table(m.opened.study, s);
        REQUIRE(t.rows.size() == s.levels.size());
        for (std::size_t k = 0; k < s.levels.size(); ++k) {
            const Level& l = s.levels[k];
            CHECK(cell(t, k, "elements").sorted_by == static_cast<double>(l.mesh.elements));
            CHECK(cell(t, k, "unknowns").sorted_by == static_cast<double>(l.unknowns));
            CHECK(cell(t, k, "h").sorted_by == l.mesh.characteristic_size);
            CHECK(cell(t, k, "estimated error").sorted_by == l.estimated_error);
            CHECK(cell(t, k, "bound").sorted_by == l.error_bound.value());
            CHECK(*l.error_bound >= l.estimated_error * 0.9);
            for (std::size_t q = 0; q < m.opened.study.quantities.size(); ++q) {
                const TableCell& c = cell(t, k, m.opened.study.quantities[q].name);
                CHECK(c.sorted_by == l.quantities[q].value);
                CHECK(c.below.empty() == (k == 0));
                if (k == 0) continue;
                const double change = std::fabs(l.quantities[q].value / s.levels[k - 1].quantities[q].value - 1) *
                                      std::fabs(s.levels[k - 1].quantities[q].value / l.quantities[q].value);
                CHECK(has(c.below, percent(change)));
                if (const auto& target = m.opened.study.quantities[q].target)
                    CHECK(c.below_look == (change <= target->value ? TableCell::Look::met : TableCell::Look::missed));
            }
        }
    }
}

TEST_CASE("the table of quantities says what the verdicts say") {
    const StudyRun& m = elastic();
    for (const auto& s : m.result.series) {
        const Table t = convergence_table(m.opened.study, s);
        REQUIRE(t.rows.size() == m.opened.study.quantities.size());
        for (std::size_t q = 0; q < t.rows.size(); ++q) {
            const QuantityVerdict& v = s.verdicts[q];
            CHECK(cell(t, q, "quantity").text == m.opened.study.quantities[q].name);
            CHECK(cell(t, q, "value").sorted_by == v.interval.value);
            CHECK(cell(t, q, "verdict").text == name_of(v.verdict));
            CHECK((cell(t, q, "target").text == "-") == !m.opened.study.quantities[q].target);
            if (v.verdict == Verdict::met) {
                CHECK(cell(t, q, "verdict").look == TableCell::Look::met);
                CHECK(cell(t, q, "± 95 %").sorted_by <= cell(t, q, "target").sorted_by);
            }
        }
    }
    // The ratio of a quantity to a number has the same relative interval.
    const auto& verdicts = m.result.series.front().verdicts;
    CHECK(verdicts[3].interval.value == doctest::Approx(verdicts[0].interval.value / 10));
}

TEST_CASE("first mesh, finest even and finest adaptive stand side by side") {
    const StudyRun& m = elastic();
    const Table t = comparison_table(m.opened.study, m.result);
    REQUIRE(t.rows.size() == 3);
    CHECK(t.rows[0][0].text == "first mesh");
    CHECK(t.rows[1][0].text == "even, level 4");
    CHECK(has(t.rows[2][0].text, "fit, level"));
    CHECK(cell(t, 0, "shift").below.empty());  // one mesh has no interval
    for (const std::size_t row : {1, 2}) {
        const auto& s = m.result.series[row - 1];
        CHECK(cell(t, row, "shift").sorted_by == s.levels.back().quantities[1].value);
        CHECK(cell(t, row, "unknowns").sorted_by == static_cast<double>(s.levels.back().unknowns));
        const double seconds = cell(t, row, "time").sorted_by;
        double sum = 0;
        for (const auto& c : s.levels.back().costs) sum += c.seconds;
        CHECK(seconds == doctest::Approx(sum));
    }
}

TEST_CASE("shares of the error: the regions' make the whole") {
    const StudyRun& m = elastic();
    for (const auto& s : m.result.series) {
        const Table t = error_places_table(s);
        double regions = 0;
        std::map<std::string, double> shares;
        for (const auto& row : t.rows) {
            shares[row[0].text] = row[1].sorted_by;
            if (row[0].text.rfind("region ", 0) == 0) regions += row[1].sorted_by;
            CHECK(row[1].sorted_by >= 0);
            CHECK(row[1].sorted_by <= 1 + 1e-12);
            CHECK(row[2].sorted_by == doctest::Approx(s.levels.back().estimated_error * std::sqrt(row[1].sorted_by)));
        }
        CHECK(regions == doctest::Approx(1));
        CHECK(shares.count("elements along hole") == 1);
        CHECK(shares.at("region soft") > shares.at("region hard"));  // it has the hole and the clamp
    }
}

TEST_CASE("loads and reactions stand in balance, of the first case") {
    const Table t = loads_table(elastic().opened.study, elastic().result);
    CHECK(has(t.caption, "load case pulled"));
    double x = 0, y = 0;
    for (const auto& row : t.rows) {
        x += row[1].sorted_by;
        y += row[2].sorted_by;
        if (row[0].text == "load pull") CHECK(row[1].sorted_by == doctest::Approx(1000));
        if (row[0].text == "load press") CHECK(std::fabs(row[2].sorted_by) < 1e-9);  // it rests in this case
        if (row[0].text == "support clamp") CHECK(row[1].text == "-1000.00");
    }
    CHECK(std::fabs(x) < 1e-6);
    CHECK(std::fabs(y) < 1e-6);
    const Table flows = loads_table(heated().opened.study, heated().result);
    REQUIRE(flows.headings.size() == 2);
    double flow = 0;
    for (const auto& row : flows.rows) flow += row[1].sorted_by;
    CHECK(std::fabs(flow) < 1e-9);
}

TEST_CASE("singular places name the load cases that wake them") {
    const Table t = singular_table(elastic().opened.study, elastic().result);
    REQUIRE(t.rows.size() >= 2);  // the clamp's ends, and where the materials meet the outline
    bool in_both = false;
    for (const auto& row : t.rows) {
        CHECK((row[3].text == "does not show" || row[3].text.rfind("shows in ", 0) == 0));
        in_both = in_both || row[3].text == "shows in pulled, both";
        CHECK(row[2].sorted_by > 0);
        CHECK(row[2].sorted_by < 1);
    }
    CHECK(in_both);
}

TEST_CASE("costs of the stages make the level's") {
    for (const auto& s : elastic().result.series) {
        const Table t = cost_table(s);
        REQUIRE(t.rows.size() == s.levels.size());
        for (std::size_t k = 0; k < t.rows.size(); ++k) {
            double sum = 0;
            for (std::size_t c = 0; c + 1 < t.headings.size(); ++c)
                if (t.headings[c].unit == "s") sum += t.rows[k][c].sorted_by;
            CHECK(t.rows[k].back().sorted_by == doctest::Approx(sum));
        }
    }
}

TEST_CASE("levels.csv gives the numbers back in full, levels.md every verdict") {
    const StudyRun& m = elastic();
    const auto lines = csv_rows(levels_csv(m.opened.study, m.result));
    const auto column = [&](const std::string& name) { return csv_column(lines, name); };
    std::size_t line = 1;
    for (const auto& s : m.result.series)
        for (const auto& l : s.levels) {
            REQUIRE(line < lines.size());
            CHECK(lines[line].size() == lines[0].size());
            CHECK(lines[line][column("series")] == s.name);
            CHECK(std::stod(lines[line][column("unknowns")]) == static_cast<double>(l.unknowns));
            for (const auto& q : l.quantities)
                CHECK(std::stod(lines[line][column(q.name)]) == doctest::Approx(q.value).epsilon(1e-11));
            ++line;
        }
    CHECK(line == lines.size());
    const std::string markdown = levels_markdown(m.opened.study, m.result);
    CHECK(has(markdown, study_verdict(m.opened.study, m.result)));
    for (const auto& s : m.result.series) CHECK(has(markdown, s.name));
    for (const auto& q : m.opened.study.quantities) CHECK(has(markdown, q.name));
}

TEST_CASE("a table as a page: every cell is there, and what a user wrote cannot break out") {
    Table t{"a <caption> & more",
            {{"name", ""}, {"<b>", "N/mm²"}},
            {{text_cell("<script>"), number_cell(1.5, "1.50", "± 2 %")}, {words_cell("\"'&"), number_cell(NAN, "-")}}};
    const std::string html = html_table(t);
    CHECK_FALSE(has(html, "<script>"));
    CHECK_FALSE(has(html, "<b>"));
    CHECK(has(html, "&lt;script&gt;"));
    CHECK(has(html, "&lt;caption&gt; &amp; more"));
    CHECK(has(html, "data-v=\"1.5\""));
    CHECK(has(html, "± 2 %"));
    CHECK_FALSE(has(html, "data-v=\"nan\""));
}

TEST_CASE("the laws of materials are told whole") {
    const auto law = [](const std::string& constants) {
        Problems problems("test.toml");
        const auto both = open_study("test.toml",
                                     "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[part]\n[[part.shape]]\n"
                                     "add = \"box\"\nsize = [4, 3, 2]\n[material.m]\n" +
                                         constants,
                                     problems);
        return materials_table(both.study).rows.at(0).at(2).text;
    };
    CHECK(law("youngs_modulus = 1200\npoissons_ratio = 0.25\nexpansion = 2e-5\ndensity = 3e-9\n") ==
          "Young's modulus 1200 MPa, Poisson's ratio 0.25, expansion 2e-05 1/K, density 3e-09 N s²/mm^4");
    CHECK(law("moduli = [9000, 800, 700]\npoissons_ratios = [0.3, 0.4, 0.2]\nshear_modulus = [500, 60, 400]\n"
              "axes = [[1, 1, 0], [0, 0, 1]]\nexpansion = [1e-5, 2e-5, 3e-5]\n") ==
          "orthotropic, moduli 9000, 800, 700 MPa, ratios 0.3, 0.4, 0.2, shear 500, 60, 400 MPa, first axis along "
          "(1, 1, 0), second towards (0, 0, 1), expansion 1e-05, 2e-05, 3e-05 1/K");
}

TEST_SUITE_END();
