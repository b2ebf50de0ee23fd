// What pictures and tables of numbers are written with: pixels, views, scales, fields of text, values along paths.

#include <doctest/doctest.h>
#include <zlib.h>

#include <array>
#include <cmath>
#include <cstring>
#include <random>

#include "evidence/drawing/colour.hpp"
#include "evidence/drawing/colour_scale.hpp"
#include "evidence/drawing/page_pictures.hpp"
#include "evidence/drawing/png.hpp"
#include "evidence/drawing/raster.hpp"
#include "evidence/drawing/view.hpp"
#include "evidence/levels/csv.hpp"
#include "evidence/levels/path_files.hpp"
#include "evidence/levels/xml_text.hpp"
#include "support/csv_rows.hpp"
#include "support/solved.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Image {
    int width = 0, height = 0, channels = 0;
    std::vector<unsigned char> bytes;
    [[nodiscard]] int at(int x, int y, int channel) const {
        return bytes[(static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)) *
                         static_cast<std::size_t>(channels) +
                     static_cast<std::size_t>(channel)];
    }
};

/// An independent reader of eight-bit PNG without interlacing (W3C 2003); checks every sum.
Image read_png(const std::string& file) {
    const auto number = [&](std::size_t at) {
        unsigned long v = 0;
        for (std::size_t k = 0; k < 4; ++k) v = v * 256 + static_cast<unsigned char>(file.at(at + k));
        return v;
    };
    Image image;
    std::string packed;
    REQUIRE(file.compare(0, 8, "\x89PNG\r\n\x1a\n") == 0);
    for (std::size_t at = 8; at < file.size();) {
        const std::size_t length = number(at);
        const std::string type = file.substr(at + 4, 4), data = file.substr(at + 8, length);
        const auto* bytes = reinterpret_cast<const Bytef*>(file.data() + at + 4);
        CHECK(crc32(0, bytes, static_cast<uInt>(length + 4)) == number(at + 8 + length));
        if (type == "IHDR") {
            image.width = static_cast<int>(number(at + 8));
            image.height = static_cast<int>(number(at + 12));
            REQUIRE(data[8] == 8);
            image.channels = data[9] == 6 ? 4 : 3;
        }
        if (type == "IDAT") packed += data;
        at += 12 + length;
    }
    const std::size_t row = static_cast<std::size_t>(image.width) * static_cast<std::size_t>(image.channels);
    std::vector<unsigned char> raw(static_cast<std::size_t>(image.height) * (row + 1));
    uLongf size = raw.size();
    REQUIRE(uncompress(raw.data(), &size, reinterpret_cast<const Bytef*>(packed.data()), packed.size()) == Z_OK);
    REQUIRE(size == raw.size());
    image.bytes.resize(static_cast<std::size_t>(image.height) * row);
    const auto step = static_cast<std::size_t>(image.channels);
    for (std::size_t y = 0; y < static_cast<std::size_t>(image.height); ++y) {
        const unsigned char filter = raw[y * (row + 1)];
        for (std::size_t x = 0; x < row; ++x) {
            const int left = x >= step ? image.bytes[y * row + x - step] : 0,
                      up = y > 0 ? image.bytes[(y - 1) * row + x] : 0,
                      corner = x >= step && y > 0 ? image.bytes[(y - 1) * row + x - step] : 0;
            const int guess = left + up - corner, a = std::abs(guess - left), b = std::abs(guess - up),
                      c = std::abs(guess - corner);
            const std::array<int, 5> predicted{0, left, up, (left + up) / 2,
                                               a <= b && a <= c ? left
                                               : b <= c         ? up
                                                                : corner};
            REQUIRE(filter < 5);
            image.bytes[y * row + x] =
                static_cast<unsigned char>(raw[y * (row + 1) + 1 + x] + predicted[static_cast<std::size_t>(filter)]);
        }
    }
    return image;
}

}  // namespace

TEST_SUITE_BEGIN("evidence");

TEST_CASE("a PNG gives its pixels back") {
    std::mt19937 random(7);
    for (const bool alpha : {false, true}) {
        for (const int width : {1, 2, 17, 64}) {
            const int height = 9, stride = width + 3;  // rows are longer than the picture
            std::vector<std::uint32_t> pixels(static_cast<std::size_t>(stride * height));
            for (auto& p : pixels) {
                const std::uint32_t a = alpha ? std::array<std::uint32_t, 4>{0, 255, 128, 3}[random() % 4] : 255;
                p = a << 24U;
                for (const unsigned shift : {0U, 8U, 16U})
                    p |= static_cast<std::uint32_t>(random() % (a + 1)) << shift;  // premultiplied
            }
            const Image image = read_png(png_of(pixels.data(), width, height, stride * 4, alpha));
            REQUIRE(image.width == width);
            REQUIRE(image.height == height);
            REQUIRE(image.channels == (alpha ? 4 : 3));
            for (int y = 0; y < height; ++y)
                for (int x = 0; x < width; ++x) {
                    const std::uint32_t p = pixels[static_cast<std::size_t>(y * stride + x)], a = p >> 24U;
                    if (alpha) CHECK(image.at(x, y, 3) == static_cast<int>(a));
                    for (int c = 0; c < 3; ++c) {
                        const double premultiplied =
                            static_cast<double>(p >> (16U - 8U * static_cast<unsigned>(c)) & 255U);
                        const double shown = image.at(x, y, c) * (alpha ? a / 255.0 : 1);
                        CHECK(std::fabs(shown - premultiplied) <= 0.5);
                    }
                }
        }
    }
}

TEST_CASE("twenty-one categories have colours of their own") {
    for (int a = 0; a < 21; ++a)
        for (int b = 0; b < a; ++b) {
            const Colour x = category(a), y = category(b);
            CHECK(std::fabs(x.r - y.r) + std::fabs(x.g - y.g) + std::fabs(x.b - y.b) > 0.15);
        }
}

TEST_CASE("half a picture has the means of four pixels, and a PNG comes back as it was") {
    PixelPicture picture;
    picture.width = 5;
    for (std::uint32_t k = 0; k < 20; ++k) picture.pixels.push_back(0xff000000U | (k * 0x0b0d07U & 0xffffffU));
    picture.pixels[0] = picture.pixels[1] = picture.pixels[5] = picture.pixels[6] = 0xffffffffU;
    const PixelPicture half = halved(picture);
    REQUIRE(half.width == 2);
    REQUIRE(half.height() == 2);
    CHECK(half.pixels[0] == 0xffffffffU);
    for (const unsigned shift : {0U, 8U, 16U}) {
        double sum = 0;
        for (const std::size_t k : {12U, 13U, 17U, 18U}) sum += picture.pixels[k] >> shift & 255U;
        CHECK(std::fabs((half.pixels[3] >> shift & 255U) - sum / 4) <= 0.5);
    }
    CHECK(pixels_of_png(png_of(picture.pixels.data(), 5, 4, 20, false)).pixels == picture.pixels);
    CHECK_THROWS_AS((void)pixels_of_png("no picture"), FileError);
}

TEST_CASE("what a page holds of a picture is smaller than the PNG, and shows the same") {
    PixelPicture picture;
    picture.width = 640;
    for (std::uint32_t k = 0; k < 640 * 400; ++k)  // bands of colour behind thin lines
        picture.pixels.push_back(k % 23 == 0 ? 0xff202020U : 0xff3060a0U + (k / 64000U << 20U) - (k / 64000U << 3U));
    PictureFiles files;
    files.png = png_of(picture.pixels.data(), 640, 400, 640 * 4, false);
    for (const PageSize size : {PageSize::as_drawn, PageSize::half}) {
        PictureFiles copied = files;
        add_page_copy(copied, size);
        const auto& page = copied.page;
        CHECK(page.width == (size == PageSize::half ? 320 : 640));
        CHECK(page.height == (size == PageSize::half ? 200 : 400));
        CHECK(page.jpeg.compare(0, 3, "\xff\xd8\xff") == 0);
        CHECK(copied.as_drawn.empty());
        // The frame's header: marker, its length, 8 bits, height, width, three colours; each of full sharpness
        // (ITU-T T.81, B.2.2).
        const auto frame = page.jpeg.find("\xff\xc0");
        REQUIRE(frame != std::string::npos);
        const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(page.jpeg[frame + k]); };
        CHECK(256 * byte(5) + byte(6) == page.height);
        CHECK(256 * byte(7) + byte(8) == page.width);
        REQUIRE(byte(9) == 3);
        for (const std::size_t colour : {0U, 1U, 2U}) CHECK(byte(11 + 3 * colour) == 0x11);
    }
    CHECK(page_picture(files).width == 640);  // made when it is asked for
    CHECK_THROWS_AS((void)page_picture({}), FileError);
}

TEST_CASE("a view keeps proportions, stands upright and fills its area one way") {
    for (const Box2& part : {Box2{{{0, 0}}, {{10, 2}}, false}, Box2{{{-3, 5}}, {{-2, 9}}, false},
                             Box2{{{1e-6, 1e-6}}, {{2e-6, 5e-6}}, false}, Box2{{{1e6, 0}}, {{1e6 + 3, 3}}, false}}) {
        const View view(part, field_area);
        const Vec2 low = view(part.low), high = view(part.high);
        CHECK(high[0] > low[0]);
        CHECK(high[1] < low[1]);  // pixels count downwards
        const double width = high[0] - low[0], height = low[1] - high[1];
        CHECK(width / height ==
              doctest::Approx((part.high[0] - part.low[0]) / (part.high[1] - part.low[1])).epsilon(1e-6));
        const double room_x = field_area.high[0] - field_area.low[0], room_y = field_area.high[1] - field_area.low[1];
        CHECK(width <= room_x * (1 + 1e-9));
        CHECK(height <= room_y * (1 + 1e-9));
        CHECK((width == doctest::Approx(room_x) || height == doctest::Approx(room_y)));
        CHECK(low[0] + width / 2 == doctest::Approx(field_area.centre()[0]).epsilon(1e-6));
        CHECK(high[1] + height / 2 == doctest::Approx(field_area.centre()[1]).epsilon(1e-6));
    }
}

TEST_CASE("the place of a value on a colour scale") {
    ColourScale scale;
    scale.low = -2;
    scale.high = 6;
    CHECK(scale.position(-2) == doctest::Approx(0));
    CHECK(scale.position(2) == doctest::Approx(0.5));
    CHECK(scale.position(6) == doctest::Approx(1));
    scale = {};
    scale.logarithmic = true;
    scale.low = 0.01;
    scale.high = 100;
    CHECK(scale.position(0.01) == doctest::Approx(0));
    CHECK(scale.position(1) == doctest::Approx(0.5));
    CHECK(scale.position(10) == doctest::Approx(0.75));
}

TEST_CASE("a field that is linear over two elements is drawn as it is, and nothing beside them") {
    // A square of 40 pixels, in two triangles; the value is the place from left to right.
    Raster raster({{{100, 100}}, {{160, 160}}, false});
    const auto paint = [&](const std::array<Vec2, 3>& corners) {
        std::array<Vec2, most_element_nodes> positions{};
        std::array<double, most_element_nodes> values{};
        for (std::size_t k = 0; k < 3; ++k) {
            positions[k] = corners[k];
            values[k] = (corners[k][0] - 110) / 40;
        }
        raster.paint(ElementKind::triangle3, positions, values);
    };
    paint({Vec2{{110, 110}}, Vec2{{150, 110}}, Vec2{{150, 150}}});
    paint({Vec2{{110, 110}}, Vec2{{150, 150}}, Vec2{{110, 150}}});
    const auto pixels = raster.pixels(ColourMap::depth);
    int covered = 0;
    for (int y = 0; y < raster.rows(); ++y)
        for (int x = 0; x < raster.columns(); ++x) {
            const std::uint32_t p = pixels[static_cast<std::size_t>(y * raster.columns() + x)];
            const double px = raster.box().low[0] + x + 0.5, py = raster.box().low[1] + y + 0.5;
            const bool inside = px > 111 && px < 149 && py > 111 && py < 149,
                       outside = px < 109 || px > 151 || py < 109 || py > 151;
            if (outside) CHECK(p == 0);
            if (!inside) continue;
            ++covered;
            CHECK((p >> 24U) == 255);
            const Colour& wanted = colour_at(ColourMap::depth, (px - 110) / 40);
            for (const auto& [shift, c] : {std::pair{16U, wanted.r}, {8U, wanted.g}, {0U, wanted.b}})
                CHECK(std::fabs(static_cast<double>(p >> shift & 255U) - 255 * c) < 6);  // two samples a pixel
        }
    CHECK(covered == 38 * 38);
}

TEST_CASE("numbers in tables come back to the last bit, and texts as they were") {
    std::mt19937_64 random(3);
    for (int k = 0; k < 2000; ++k) {
        const std::uint64_t bits = random();
        double v = 0;
        std::memcpy(&v, &bits, sizeof v);
        if (!std::isfinite(v)) {
            CHECK(csv_number(v).empty());
            continue;
        }
        CHECK(std::strtod(csv_number(v).c_str(), nullptr) == v);
    }
    CHECK(csv_field("plain") == "plain");
    CHECK(csv_field("a,b") == "\"a,b\"");
    CHECK(csv_field("say \"x\"") == "\"say \"\"x\"\"\"");
    CHECK(csv_field("two\nlines") == "\"two\nlines\"");
    CHECK(escaped("<a href=\"x\">'&'</a>").find_first_of("<>\"") == std::string::npos);
    CHECK(has(escaped("1 < 2 & 3"), "1 &lt; 2 &amp; 3"));
}

TEST_CASE("stresses along a path and at integration points are those of the bent beam") {
    const SolvedCases s = solve_cases_of(
        "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = \"right\" }\n"
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nux = 0\n"
        "[support.pin]\nat = [0, 0]\nuy = 0\n[load.moment]\non = \"right\"\ntraction = [\"12 * (y - 1)\", 0]\n"
        "[path.across]\npoints = [[1.3, 0], [1.3, 2]]\nsamples = 21\n[quantity.q]\nof = \"sxx\"\n[size]\nglobal = "
        "0.6\n");
    LevelFields fields;
    fields.mesh = s.mesh;
    fields.laws = s.laws;
    fields.cases = s.cases;
    Level level;
    level.fields = std::make_shared<const LevelFields>(std::move(fields));
    const auto along = csv_rows(path_csv(s.both.study, level, s.both.study.paths.front()));
    REQUIRE(along.size() == 22);
    for (std::size_t r = 1; r < along.size(); ++r) {
        REQUIRE(along[r].size() == along[0].size());
        const double y = std::stod(along[r][csv_column(along, "y ")]);
        CHECK(y == doctest::Approx(0.1 * static_cast<double>(r - 1)).scale(1));
        CHECK(std::stod(along[r][csv_column(along, "distance")]) == doctest::Approx(y).scale(1));
        CHECK(std::stod(along[r][csv_column(along, "sxx")]) == doctest::Approx(12 * (y - 1)).scale(1).epsilon(1e-8));
        CHECK(std::fabs(std::stod(along[r][csv_column(along, "syy")])) < 1e-7);
        CHECK(std::stod(along[r][csv_column(along, "von_mises")]) ==
              doctest::Approx(12 * std::fabs(y - 1)).scale(1).epsilon(1e-7));
    }
    const auto points = csv_rows(integration_points_csv(s.both.study, level));
    CHECK(points.size() > s.mesh.element_count() * 3);
    for (std::size_t r = 1; r < points.size(); ++r) {
        const double y = std::stod(points[r][csv_column(points, "y ")]);
        CHECK(std::stod(points[r][csv_column(points, "sxx")]) == doctest::Approx(12 * (y - 1)).scale(1).epsilon(1e-8));
    }
}

TEST_SUITE_END();
