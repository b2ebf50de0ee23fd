#include <doctest/doctest.h>
#include <zlib.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <map>
#include <pugixml.hpp>
#include <random>

#include "evidence/drawing/colour.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/pictures/change.hpp"
#include "evidence/pictures/chart.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "evidence/pictures/part_picture.hpp"
#include "evidence/pictures/picture.hpp"
#include "evidence/report/report.hpp"
#include "evidence/summary.hpp"
#include "part/build.hpp"
#include "series/run.hpp"
#include "support/solved.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Made {
    StudyAndPart opened;
    StudyResult result;
};

const Made& made() {
    static const Made m = [] {
        Made r;
        r.opened.study = study_from(
            "format = 1\ntitle = \"A <plate> & a \\\"hole\\\"\"\nunits = { length = \"mm\", force = \"N\" "
            "}\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 3]\nnames = { left = \"left\", right = "
            "\"right\" }\n"
            "[[part.shape]]\ncut = \"circle\"\ncentre = [3, 1.5]\nradius = 0.6\nname = \"hole\"\n[[part.shape]]\nmark "
            "= \"point\"\nat = [5, "
            "1.5]\nname = \"middle\"\n[size]\nglobal = 1\n"
            "[quantity.peak]\nof = \"von_mises\"\ntarget = \"3 %\"\n[quantity.ratio]\nformula = \"peak / "
            "2\"\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n" +
            rest_of_study());
        Problems problems("t");
        r.opened.part = build_part(r.opened.study, problems).part;
        StudyObserver silent;
        r.result = run_study(r.opened.study, r.opened.part, silent);
        return r;
    }();
    return m;
}

bool is_png(const std::string& bytes, int width, int height) {
    if (bytes.size() < 24 || bytes.compare(0, 8, "\x89PNG\r\n\x1a\n") != 0) return false;
    const auto number = [&](std::size_t at) {
        int v = 0;
        for (std::size_t k = 0; k < 4; ++k) v = v * 256 + static_cast<unsigned char>(bytes[at + k]);
        return v;
    };
    return number(16) == width && number(20) == height;
}

bool is_xml(const std::string& bytes) {
    pugi::xml_document doc;
    return static_cast<bool>(doc.load_buffer(bytes.data(), bytes.size()));
}

/// An independent reader for the files that vtu.cpp writes.
class VtuReader {
  public:
    explicit VtuReader(const std::string& bytes) {
        const std::size_t mark = bytes.find("<AppendedData");
        REQUIRE(mark != std::string::npos);
        const std::string head = bytes.substr(0, mark) + "</VTKFile>";
        REQUIRE(static_cast<bool>(doc_.load_buffer(head.data(), head.size())));
        data_ = bytes.substr(bytes.find('_', mark) + 1);
        piece = doc_.child("VTKFile").child("UnstructuredGrid").child("Piece");
    }
    template <class T>
    std::vector<T> array(const char* section, const std::string& name) const {
        for (const auto& a : piece.child(section).children("DataArray")) {
            if (name != a.attribute("Name").value()) continue;
            std::size_t at = a.attribute("offset").as_ullong();
            const auto word = [&] {
                std::uint64_t v = 0;
                std::memcpy(&v, data_.data() + at, sizeof v);
                at += sizeof v;
                return v;
            };
            const std::uint64_t blocks = word(), size = word(), last = word();
            std::vector<std::uint64_t> packed;
            for (std::uint64_t b = 0; b < blocks; ++b) packed.push_back(word());
            std::vector<unsigned char> out;
            for (std::uint64_t b = 0; b < blocks; ++b) {
                uLongf length = b + 1 == blocks && last ? last : size;
                std::vector<unsigned char> buffer(length);
                REQUIRE(uncompress(buffer.data(), &length, reinterpret_cast<const unsigned char*>(data_.data()) + at,
                                   packed[b]) == Z_OK);
                at += packed[b];
                out.insert(out.end(), buffer.begin(), buffer.begin() + static_cast<std::ptrdiff_t>(length));
            }
            std::vector<T> values(out.size() / sizeof(T));
            std::memcpy(values.data(), out.data(), out.size());
            return values;
        }
        FAIL("no array " << name);
        return {};
    }
    pugi::xml_node piece;

  private:
    pugi::xml_document doc_;
    std::string data_;
};

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("colour maps run evenly in lightness") {
    for (const ColourMap map : {ColourMap::depth, ColourMap::heat}) {
        double before = -1;
        int rising = 0;
        for (int k = 0; k <= 20; ++k) {
            const Colour& c = colour_at(map, k / 20.0);
            const double light =
                0.2126 * std::pow(c.r, 2.2) + 0.7152 * std::pow(c.g, 2.2) + 0.0722 * std::pow(c.b, 2.2);
            if (before >= 0) rising += light > before ? 1 : -1;
            before = light;
        }
        CHECK(std::abs(rising) == 20);
    }
    CHECK(packed({1, 0, 0}) == 0xFFFF0000U);
    CHECK(colour_at(ColourMap::depth, NAN).r == colour_at(ColourMap::depth, 0).r);
}

TEST_CASE("a VTU file gives back mesh, fields and named boundaries") {
    const auto& m = made();
    const LevelFields& f = *m.result.series[0].levels[1].fields;
    const VtuReader vtu(level_vtu(m.opened.study, m.result.series[0].levels[1]));
    const auto points = vtu.array<double>("Points", "Points");
    REQUIRE(points.size() == 3 * f.mesh.nodes.size());
    CHECK(vtu.piece.attribute("NumberOfPoints").as_ullong() == f.mesh.nodes.size());
    for (std::size_t n = 0; n < f.mesh.nodes.size(); ++n) {
        CHECK(points[3 * n] == f.mesh.nodes[n][0]);
        CHECK(points[3 * n + 1] == f.mesh.nodes[n][1]);
    }
    const std::size_t elements = f.mesh.element_count(), cells = elements + f.mesh.boundary.size();
    const auto offsets = vtu.array<std::int64_t>("Cells", "offsets");
    const auto types = vtu.array<std::uint8_t>("Cells", "types");
    const auto connectivity = vtu.array<std::int32_t>("Cells", "connectivity");
    CHECK(offsets.size() == cells);
    CHECK(types.front() == 22);
    CHECK(types.back() == 21);
    CHECK(connectivity.size() == static_cast<std::size_t>(offsets.back()));
    const auto u = vtu.array<double>("PointData", "displacement");
    CHECK(u[3 * 7] == f.cases[0].solution.displacement[7][0]);
    CHECK(vtu.array<double>("PointData", "stress_recovered").size() == 6 * f.mesh.nodes.size());
    CHECK(vtu.array<double>("PointData", "von_mises").size() == f.mesh.nodes.size());
    CHECK(vtu.array<double>("CellData", "error")[3] == doctest::Approx(std::sqrt(f.error.element_error2[3])));
    CHECK(vtu.array<double>("CellData", "wanted_size")[0] == f.wanted_size[0]);
    CHECK(vtu.array<std::int32_t>("CellData", "region")[cells - 1] == -1);
    const auto in_region = vtu.array<std::uint8_t>("CellData", "region.part");
    CHECK(std::count(in_region.begin(), in_region.end(), 1) == static_cast<std::ptrdiff_t>(elements));
    const auto middle = vtu.array<std::uint8_t>("PointData", "point.middle");
    REQUIRE(std::count(middle.begin(), middle.end(), 1) == 1);
    const auto at = static_cast<std::size_t>(std::find(middle.begin(), middle.end(), 1) - middle.begin());
    CHECK(f.mesh.nodes[at] == Vec2{{5, 1.5}});
    const auto hole = vtu.array<std::uint8_t>("CellData", "boundary.hole");
    double length = 0;
    for (std::size_t b = 0; b < f.mesh.boundary.size(); ++b) {
        const bool on = Meant(f.mesh, {"hole"}).side(f.mesh.boundary[b]);
        CHECK(hole[elements + b] == (on ? 1 : 0));
        if (on)
            length += distance(f.mesh.nodes[static_cast<std::size_t>(f.mesh.boundary[b].nodes[0])],
                               f.mesh.nodes[static_cast<std::size_t>(f.mesh.boundary[b].nodes[1])]);
    }
    CHECK(length == doctest::Approx(2 * 3.14159 * 0.6).epsilon(0.03));
}

TEST_CASE("pictures come as PNG and SVG of the right size, the same every time") {
    const auto& m = made();
    const Level& l = m.result.series[0].levels[0];
    const SharedRanges ranges = shared_ranges(m.opened.study, {&l});
    CHECK(ranges.field == Field::von_mises);
    CHECK(ranges.low < ranges.high);
    const LevelPictures pixels = draw_level(m.opened.study, l, ranges, nullptr);
    CHECK(is_png(pixels.field.png, picture_width, picture_height));
    CHECK(pixels.field.svg.empty());
    CHECK(is_xml(pixels.mesh.svg));
    Study everything = m.opened.study;
    everything.pictured = PicturedLevels::all;
    const LevelPictures a = draw_level(everything, l, ranges, nullptr), b = draw_level(everything, l, ranges, nullptr);
    CHECK(pixels.field.png == a.field.png);
    const LevelPictures small = draw_level(m.opened.study, l, ranges, nullptr, PictureUse::page);
    for (const auto* p : {&small.mesh, &small.field, &small.error}) {
        CHECK(p->png.empty());
        CHECK(p->as_drawn.width == 480);
        CHECK(p->as_drawn.pixels.size() == 480 * 300);
    }
    for (const auto* p : {&a.mesh, &a.field, &a.error}) {
        CHECK(is_png(p->png, picture_width, picture_height));
        CHECK(is_xml(p->svg));
    }
    CHECK(a.field.png == b.field.png);
    CHECK(a.error.svg == b.error.svg);
    CHECK(a.field.png != a.error.png);
}

TEST_CASE("charts are drawn whatever the text and the numbers") {
    ConvergenceChart chart;
    chart.title = "it's a \"title\" with 'quotes', _under_ and {braces}\n";
    chart.x_label = "h";
    chart.y_label = "peak_stress in MPa";
    chart.curves = {{"u'", {{{3, 1.0}}, {{2, 1.5}}, {{1, 1.7}}}, 0}, {"single", {{{2, 1.2}}}, 1}};
    chart.value = 1.8;
    chart.half_width = 0.1;
    chart.band_label = "95 %";
    chart.extrapolated = 1.83;
    chart.extrapolated_label = "limit";
    chart.reference = 1.79;
    const PictureFiles p = draw_chart(chart);
    CHECK(is_png(p.png, picture_width, picture_height));
    CHECK(is_xml(p.svg));
    chart.curves[0].points = {{{1, 5}}};
    chart.value.reset();
    CHECK(is_png(draw_chart(chart).png, picture_width, picture_height));
    RateChart rate;
    rate.title = "rates";
    rate.curves = {{"a", {{{100, 10}}, {{1000, 1}}, {{10000, 0.1}}}, 0}, {"zero", {{{100, 0}}}, 1}};
    rate.slope = -1;
    rate.slope_label = "theory: -1";
    CHECK(is_png(draw_chart(rate).png, picture_width, picture_height));
    CHECK(fitted_slope(rate.curves[0].points) == doctest::Approx(-1));
    CHECK(std::isnan(fitted_slope({{{1, 1}}})));
}

TEST_CASE("charts say what they were given, to the letter") {
    ConvergenceChart chart;
    chart.title = "166.623 of 3.70, 0.12 % (5); a:7 -1+2=1 #8 @4 $0 |3 ^2 ~1 [6] {7} _8 \\5 /9 `date` !1 ?2 *3 ±4 µ5";
    chart.subtitle = "digits behind every mark 1.0,2-3";
    chart.x_label = "h.1";
    chart.y_label = "v.2";
    chart.curves = {{"curve.7", {{{3, 1.0}}, {{2, 1.5}}, {{1, 1.7}}}, 0}};
    chart.value = 1.8;
    chart.half_width = 0.1;
    chart.band_label = "95 %: 1.80 ± 0.28 %";
    chart.extrapolated = 1.83;
    chart.extrapolated_label = "limit: 1.8304";
    const std::string svg = draw_chart(chart).svg;
    for (const auto& text : {chart.title, chart.subtitle, chart.x_label, chart.y_label, chart.curves[0].name,
                             chart.band_label, chart.extrapolated_label}) {
        CAPTURE(text);
        CHECK(has(svg, text));
    }
}

TEST_CASE("charts of numbers that no axis can hold are drawn all the same") {
    constexpr double inf = std::numeric_limits<double>::infinity();
    const std::vector<double> values{0, 0, 0, 1, -1, 5e-324, 1e-300, 1e-290, 1e289, 1e300, 1.7e308, inf, -inf, NAN};
    std::mt19937 random(11);
    const auto pick = [&] { return values[random() % values.size()]; };
    const auto maybe = [&] { return random() % 2 ? std::optional(pick()) : std::nullopt; };
    for (int round = 0; round < 12; ++round) {
        // First all values are the same, then no two need be.
        const double same = round < 6 ? pick() : 0;
        Curve2 a{"a", {}, 0}, b{"b", {}, 1};
        for (int k = 0; k < 4; ++k) a.points.push_back({{round < 6 ? k + 1.0 : pick(), round < 6 ? same : pick()}});
        if (round % 2) b.points.push_back({{pick(), pick()}});
        CAPTURE(round);
        ConvergenceChart values_chart;
        values_chart.curves = {a, b};
        values_chart.value = maybe();
        values_chart.half_width = maybe();
        values_chart.extrapolated = maybe();
        values_chart.reference = maybe();
        CHECK(is_xml(draw_chart(values_chart).svg));
        RateChart rates;
        rates.curves = {a, b};
        if (round % 3) rates.slope = -1;
        CHECK(is_xml(draw_chart(rates).svg));
        LineChart lines;
        lines.curves = {a, b};
        lines.points = round % 2 == 0;
        CHECK(is_xml(draw_chart(lines).svg));
    }
}

TEST_CASE("the summary holds every level and verdict, and no NaN") {
    const auto& m = made();
    const auto j = summary_json(m.opened, m.result);
    CHECK(j["format"] == 1);
    CHECK(j["units"]["stress"] == "MPa");
    CHECK(j["series"].size() == 1);
    CHECK(j["series"][0]["levels"].size() == 3);
    const auto& level = j["series"][0]["levels"][2];
    CHECK(level["quantities"][0]["name"] == "peak");
    CHECK(level["quantities"][0]["unit"] == "MPa");
    CHECK(level["balance"]["relative_error"].get<double>() < 1e-9);
    CHECK(level["cost"].size() == 3);
    CHECK(j["series"][0]["verdicts"][0]["sentence"].get<std::string>().find("peak = ") == 0);
    CHECK(j.dump().find("nan") == std::string::npos);
    CHECK(nlohmann::ordered_json::parse(j.dump()) == j);
}

TEST_CASE("the table has one row a level and as many fields in each") {
    const auto& m = made();
    const std::string csv = levels_csv(m.opened.study, m.result);
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 4);
    std::size_t from = 0, commas = 0;
    for (std::size_t end = csv.find('\n'); end != std::string::npos; from = end + 1, end = csv.find('\n', from)) {
        const auto n = static_cast<std::size_t>(std::count(csv.begin() + static_cast<std::ptrdiff_t>(from),
                                                           csv.begin() + static_cast<std::ptrdiff_t>(end), ','));
        if (commas == 0) commas = n;
        CHECK(n == commas);
    }
    CHECK(csv.find("peak [MPa]") != std::string::npos);
}

TEST_CASE("the report stands alone and escapes what the user wrote") {
    const auto& m = made();
    ReportPictures pictures;
    pictures.error_chart = pictures.time_chart = {"png", "svg"};
    pictures.part = draw_part(m.opened, inspect_part(m.opened));
    pictures.quantity_charts["peak"] = {"png", "svg"};
    const std::string html =
        report_html(m.opened, inspect_part(m.opened), m.result, pictures, provenance_now(m.opened.study, {}));
    CHECK(html.find("A &lt;plate&gt; &amp; a &quot;hole&quot;") != std::string::npos);
    CHECK(html.find("<plate>") == std::string::npos);
    CHECK(html.find("data:image/svg+xml;base64,c3Zn\"") != std::string::npos);
    CHECK(html.find("http") == std::string::npos);  // nothing is loaded from elsewhere
    CHECK(html.find("SHA-256 " + sha256(m.opened.study.source)) != std::string::npos);
    CHECK(html.find("src=\"data:") != std::string::npos);
    CHECK(html.find("Grid independence") != std::string::npos);
    CHECK(html.find(">Part</h2>") != std::string::npos);
    CHECK(html.find("Clean-up") == std::string::npos);  // there was none
    StudyAndPart cleaned = m.opened;
    cleaned.original = m.opened.part;
    cleaned.cleanup = {{"hole \"x\" filled", {{1, 1}}}};
    pictures.cleanup = pictures.part;
    const std::string more = report_html(cleaned, inspect_part(cleaned), m.result, pictures, {});
    CHECK(more.find("hole &quot;x&quot; filled") != std::string::npos);
    CHECK(more.find("the area changed by 0 %") != std::string::npos);
}

TEST_CASE("where two meshes hold the same stress, no map of its change shows any, kinks of magnitudes included") {
    const std::string bent =
        "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = \"right\" }\n"
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nux = 0\n"
        "[support.pin]\nat = [0, 0]\nuy = 0\n[load.moment]\non = \"right\"\ntraction = [\"12 * (y - 1)\", 0]\n"
        "[quantity.q]\nof = \"sxx\"\n";
    const auto level = [&](const char* size) {
        SolvedCases s = solve_cases_of(bent + "[size]\nglobal = " + size + "\n");
        LevelFields f;
        f.mesh = std::move(s.mesh);
        f.laws = s.laws;
        f.cases = std::move(s.cases);
        return f;
    };
    const LevelFields coarse = level("0.9"), fine = level("0.4");
    for (const auto field : {Field::max_principal, Field::von_mises, Field::sxx, Field::ux, Field::displacement})
        for (const double change : change_of<2>(field, coarse, fine)) CHECK(std::fabs(change) < 1e-9);
}

TEST_SUITE_END();
