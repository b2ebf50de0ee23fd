// The command line given anything: an answer and a status, never a crash, and nothing written where nothing was asked.

#include <doctest/doctest.h>

#include <random>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

const std::vector<std::string> commands{"check", "inspect", "sizes",   "mesh",    "remesh",     "quality",     "run",
                                        "vary",  "report",  "compare", "archive", "statistics", "verify-code", "keys"};

bool is_status(int status) {
    return status >= 0 && status <= 4;
}

}  // namespace

TEST_SUITE_BEGIN("bad-input");

TEST_CASE("every command explains itself, and an unknown option is told with its name") {
    const TemporaryFolder folder;
    for (const auto& command : commands) {
        CAPTURE(command);
        const auto help = run({command, "--help"}, folder.path());
        CHECK(help.status == 0);
        CHECK(help.out.find("dotsift " + command) != std::string::npos);
        CHECK(help.err.empty());
        const auto unknown = run({command, "--no-such-thing"}, folder.path());
        CHECK(unknown.status == 2);
        CHECK(unknown.err.find("no-such-thing") != std::string::npos);
        CHECK(unknown.out.empty());
    }
    CHECK(fs::is_empty(folder.path()));
}

TEST_CASE("an argument too many is told, not passed over") {
    const TemporaryFolder folder;
    folder.file("s.toml", small_study());
    for (const std::string command : {"check", "inspect", "sizes", "mesh", "run", "vary", "quality"}) {
        CAPTURE(command);
        const auto r = run({command, "s.toml", "t.toml"}, folder.path());
        CHECK(r.status == 2);
        CHECK(r.err.find("\"t.toml\" has no meaning here") != std::string::npos);
        CHECK(!fs::exists(folder / "out"));
    }
    for (const auto& command : {std::vector<std::string>{"keys", "quantity", "order"}, {"verify-code", "order"}}) {
        const auto r = run(command, folder.path());
        CHECK(r.status == 2);
        CHECK(r.err.find("\"order\" has no meaning here") != std::string::npos);
    }
}

TEST_CASE("arguments made by chance are answered, and a refusal says why") {
    const TemporaryFolder folder;
    folder.file("s.toml", small_study("[series.u]\nkind = \"uniform\"\nmost_levels = 2\n"));
    folder.file("empty", "");
    folder.file("noise", std::string("\0\xff\xfe[[[", 6) + std::string(300, '='));
    fs::create_directories(folder / "directory");
    const std::vector<std::string> words{"s.toml",
                                         "empty",
                                         "noise",
                                         "directory",
                                         "gone.toml",
                                         "",
                                         " ",
                                         "-",
                                         "--",
                                         "---",
                                         "-o",
                                         "--output",
                                         "--output=",
                                         "-o=x",
                                         "--json",
                                         "--json=maybe",
                                         "--quiet",
                                         "--resume",
                                         "--replace",
                                         "--finer",
                                         "--finer=nan",
                                         "--finer=-1",
                                         "--finer=1e999",
                                         "--field",
                                         "--help=",
                                         "a/b/c/level-1",
                                         "*",
                                         "\xc3\x28",
                                         "%s%n",
                                         "$(id)",
                                         "..",
                                         std::string(5000, 'x')};
    std::mt19937 random(17);
    for (int round = 0; round < 120; ++round) {
        std::vector<std::string> arguments{commands[random() % commands.size()]};
        if (arguments[0] == "verify-code") arguments.emplace_back("--only=no such check");  // all take long
        for (std::size_t more = random() % 4; more > 0; --more) arguments.push_back(words[random() % words.size()]);
        std::string line;
        for (const auto& a : arguments) line += a.substr(0, 40) + " | ";
        CAPTURE(line);
        const auto r = run(arguments, folder.path());
        CAPTURE(r.err);
        CHECK(is_status(r.status));
        if (r.status >= 2) CHECK(r.err.size() > 10);
        if (r.status == 0) CHECK(!(r.out.empty() && r.err.empty()));
    }
}

TEST_SUITE_END();
