#include <doctest/doctest.h>

#include <atomic>
#include <boost/multiprecision/cpp_int.hpp>
#include <filesystem>
#include <random>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "base/numbers.hpp"
#include "base/parallel.hpp"
#include "base/predicates.hpp"

using namespace dotsift;

namespace {

using Rational = boost::multiprecision::cpp_rational;

int sign(double v) {
    return (v > 0) - (v < 0);
}

int exact_orientation_sign(const Vec2& a, const Vec2& b, const Vec2& c) {
    const Rational ax(a[0]), ay(a[1]), bx(b[0]), by(b[1]), cx(c[0]), cy(c[1]);
    const Rational v = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    return v > 0 ? 1 : v < 0 ? -1 : 0;
}

int exact_in_circle_sign(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    const auto row = [&](const Vec2& p) {
        const Rational x = Rational(p[0]) - Rational(d[0]), y = Rational(p[1]) - Rational(d[1]);
        return std::array<Rational, 3>{x, y, x * x + y * y};
    };
    const auto r = row(a), s = row(b), t = row(c);
    const Rational v =
        r[0] * (s[1] * t[2] - s[2] * t[1]) - r[1] * (s[0] * t[2] - s[2] * t[0]) + r[2] * (s[0] * t[1] - s[1] * t[0]);
    return v > 0 ? 1 : v < 0 ? -1 : 0;
}

}  // namespace

TEST_SUITE_BEGIN("base");

TEST_CASE("orientation has the exact sign for points that are nearly or truly on a line") {
    std::mt19937_64 random(7);
    std::uniform_real_distribution<double> unit(-1, 1);
    for (int k = 0; k < 3000; ++k) {
        const Vec2 a{{unit(random), unit(random)}}, b{{unit(random), unit(random)}};
        const double t = unit(random);
        Vec2 c = a + (b - a) * t;  // on the line up to rounding
        for (int ulps = -2; ulps <= 2; ++ulps) {
            CHECK(sign(orientation(a, b, c)) == exact_orientation_sign(a, b, c));
            c[1] = std::nextafter(c[1], 10);
        }
    }
    CHECK(orientation({{0, 0}}, {{1e-300, 1e-300}}, {{1e300, 1e300}}) == 0);
    CHECK(orientation({{0.1, 0.1}}, {{0.2, 0.2}}, {{0.3, 0.3}}) ==
          doctest::Approx(exact_orientation_sign({{0.1, 0.1}}, {{0.2, 0.2}}, {{0.3, 0.3}})).epsilon(1));
}

TEST_CASE("in_circle has the exact sign on lattices, where many points share a circle") {
    std::mt19937_64 random(11);
    std::uniform_int_distribution<int> cell(0, 6);
    int ties = 0;
    for (int k = 0; k < 4000; ++k) {
        const auto point = [&] { return Vec2{{0.1 * cell(random), 0.1 * cell(random)}}; };
        const Vec2 a = point(), b = point(), c = point(), d = point();
        if (orientation(a, b, c) <= 0) continue;
        const int truth = exact_in_circle_sign(a, b, c, d);
        ties += truth == 0;
        CHECK(sign(in_circle(a, b, c, d)) == truth);
    }
    CHECK(in_circle({{0, 0}}, {{1, 0}}, {{1, 1}}, {{0, 1}}) == 0);
    CHECK(in_circle({{0, 0}}, {{1, 0}}, {{1, 1}}, {{0.5, 0.5}}) > 0);
    CHECK(in_circle({{0, 0}}, {{1, 0}}, {{1, 1}}, {{0, std::nextafter(1.0, 2)}}) < 0);
    CHECK(ties > 20);
}

TEST_CASE("numbers are shown with sensible digits") {
    CHECK(sensible(123.456) == "123.5");
    CHECK(sensible(0.00123456) == "0.001235");
    CHECK(sensible(1.5e9, 3) == "1.50e+09");
    CHECK(sensible(999.97) == "1000");
    CHECK(sensible(0) == "0");
    CHECK(sensible(NAN) == "-");
    CHECK(with_uncertainty(165.149, 2.1) == "165.1");
    CHECK(with_uncertainty(0.0285184, 1.3e-5) == "0.028518");
    CHECK(with_uncertainty(12.3456, NAN) == "12.346");
    CHECK(percent(0.0123) == "1.2 %");
    CHECK(percent(0.00045) == "0.045 %");
    CHECK(percent(8.15) == "815 %");
    CHECK(grouped(1234567) == "1 234 567");
    CHECK(grouped(-1234) == "-1 234");
    CHECK(grouped(999) == "999");
}

TEST_CASE("files are written whole or not at all") {
    const auto folder = std::filesystem::temp_directory_path() / "dotsift-base-test";
    std::filesystem::remove_all(folder);
    make_directory(folder / "a" / "b");
    write_file(folder / "a" / "b" / "c.txt", "first");
    write_file(folder / "a" / "b" / "c.txt", "second");
    CHECK(read_file(folder / "a" / "b" / "c.txt") == "second");
    CHECK(!std::filesystem::exists(folder / "a" / "b" / "c.txt.part"));
    CHECK_THROWS_AS(read_file(folder / "missing"), FileError);
    CHECK_THROWS_AS(read_file(folder), FileError);
    CHECK_THROWS_AS((void)read_file(folder / "a" / "b" / "c.txt", 3), FileError);
    CHECK_THROWS_AS(write_file(folder / "nowhere" / "c.txt", "x"), FileError);
    CHECK_THROWS_AS(make_directory(folder / "a" / "b" / "c.txt"), FileError);
    if (std::filesystem::exists("/dev/full")) CHECK_THROWS_AS(write_file("/dev/full/x", "x"), FileError);
    std::filesystem::remove_all(folder);
}

TEST_CASE("parallel work is done once each, and its first error comes out") {
    std::vector<std::atomic<int>> done(1000);
    in_parallel(done.size(), [&](std::size_t k) { ++done[k]; });
    for (const auto& d : done) CHECK(d == 1);
    CHECK_THROWS_AS(in_parallel(10,
                                [](std::size_t k) {
                                    if (k == 3) throw std::runtime_error("three");
                                }),
                    std::runtime_error);
    in_parallel(0, [](std::size_t) { FAIL("nothing to do"); });
}

TEST_CASE("pieces of parallel work cover everything once, whatever their length") {
    for (const std::size_t count : {0, 1, 2, 63, 64, 65, 1000})
        for (const std::size_t length : {1, 2, 7, 64, 5000}) {
            std::vector<std::atomic<int>> done(count);
            std::atomic<std::size_t> longest{0};
            in_parallel_pieces(count, length, [&](std::size_t begin, std::size_t end) {
                CHECK(begin < end);
                longest = std::max(longest.load(), end - begin);
                for (std::size_t k = begin; k < end; ++k) ++done[k];
            });
            CHECK(longest.load() <= length);
            CHECK(std::all_of(done.begin(), done.end(), [](const auto& n) { return n == 1; }));
        }
    // The first exception comes out, and no thread is left behind.
    for (int k = 0; k < 50; ++k)
        CHECK_THROWS_AS(in_parallel_pieces(100, 3,
                                           [](std::size_t begin, std::size_t) {
                                               if (begin == 42) throw InputError("stop");
                                           }),
                        InputError);
}

TEST_SUITE_END();
