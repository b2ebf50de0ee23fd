#include "evidence/archive.hpp"

#include <doctest/doctest.h>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "support/folder.hpp"

using namespace dotsift;
using dotsift::test::Folder;
namespace fs = std::filesystem;

TEST_SUITE_BEGIN("evidence");

namespace {

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    REQUIRE(from.size() == to.size());
    for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size())
        text.replace(at, from.size(), to);
    return text;
}

}  // namespace

TEST_CASE("archives that lead elsewhere, repeat themselves or are too large are refused before anything is written") {
    const Folder folder;
    make_directory(folder.path / "ab");
    write_file(folder.path / "ab/xy.txt", "content");
    write_file(folder.path / "ab/xz.txt", std::string(100'000, 'x'));
    pack(folder.path / "ab", folder.path / "good.zip");
    const std::string good = read_file(folder.path / "good.zip");
    const auto refused = [&](const std::string& bytes, const char* why, double most = 1e9) {
        CAPTURE(why);
        write_file(folder.path / "bad.zip", bytes);
        CHECK_THROWS_WITH_AS(unpack(folder.path / "bad.zip", folder.path / "out", most), doctest::Contains(why),
                             InputError);
        CHECK(!fs::exists(folder.path / "out"));
        CHECK(!fs::exists(folder.path / "xy.txt"));
    };
    refused(replaced(good, "ab/xy.txt", "../xy.txt"), "leads elsewhere");
    refused(replaced(good, "ab/xy.txt", "/b/xy.txt"), "leads elsewhere");
    refused(replaced(good, "ab/xy.txt", "ab/xz.txt"), "no sound archive");
    refused(replaced(good, "ab/xy.txt", "cd/xy.txt"), "more than one folder");
    refused(replaced(good, "ab/xy.txt", "abcxy.txt"), "more than one folder");
    refused(replaced(good, "ab/xy.txt", "ab\\xy.txt"), "leads elsewhere");
    refused(good, "unpacks to more than", 50'000);
    unpack(folder.path / "good.zip", folder.path / "out");
    CHECK(read_file(folder.path / "out/xy.txt") == "content");
    CHECK_THROWS_AS(unpack(folder.path / "good.zip", folder.path / "out"), InputError);
}

TEST_CASE("unpacking touches nothing that is there already, and leaves nothing half done") {
    const Folder folder;
    make_directory(folder.path / "ab");
    write_file(folder.path / "ab/xy.txt", "content");
    pack(folder.path / "ab", folder.path / "good.zip");
    make_directory(folder.path / "out.part");
    write_file(folder.path / "out.part/mine.txt", "mine");
    unpack(folder.path / "good.zip", folder.path / "out");
    CHECK(read_file(folder.path / "out/xy.txt") == "content");
    CHECK(read_file(folder.path / "out.part/mine.txt") == "mine");
    CHECK(!fs::exists(folder.path / "out.part2"));
    // A byte of the content is wrong: only its checksum tells, when all is written.
    std::string damaged = read_file(folder.path / "good.zip");
    const auto at = damaged.find("content");
    REQUIRE(at != std::string::npos);
    damaged[at] = 'k';
    write_file(folder.path / "bad.zip", damaged);
    CHECK_THROWS(unpack(folder.path / "bad.zip", folder.path / "second"));
    CHECK(!fs::exists(folder.path / "second"));
    CHECK(!fs::exists(folder.path / "second.part"));
    // An empty directory is taken, a trailing slash changes nothing.
    make_directory(folder.path / "third");
    unpack(folder.path / "good.zip", (folder.path / "third").string() + "/");
    CHECK(read_file(folder.path / "third/xy.txt") == "content");
}

TEST_CASE("an archive packed into its own folder does not hold itself") {
    const Folder folder;
    make_directory(folder.path / "ab");
    write_file(folder.path / "ab/xy.txt", "content");
    pack(folder.path / "ab", folder.path / "ab/own.zip");
    unpack(folder.path / "ab/own.zip", folder.path / "out");
    CHECK(!fs::exists(folder.path / "out/own.zip"));
}

TEST_SUITE_END();
