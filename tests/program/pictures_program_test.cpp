// Which pictures a run makes, pictures of a result that is there, and tables as people have them.

#include <doctest/doctest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "support/program.hpp"

using namespace dotsift::test;
namespace fs = std::filesystem;

namespace {

constexpr const char* three_levels =
    "[series.uniform]\nkind = \"uniform\"\nmost_levels = 3\n[quantity.top]\nof = \"syy\"\n";

bool drawn(const fs::path& stem) {
    return fs::exists(stem.string() + ".png") && fs::exists(stem.string() + ".svg");
}

}  // namespace

TEST_SUITE_BEGIN("outputs");

TEST_CASE("a run makes large pictures of the levels that are wanted, and none where none are") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(three_levels));
    const auto out = [&](const std::string& which) {
        const auto done = run({"run", study, "-o", (folder / which).string(), "--quiet", "--pictures", which});
        CHECK(done.status <= 1);
        CHECK(fs::exists(folder / which / "report.html"));
        CHECK(fs::exists(folder / which / "report.pdf"));
        return (folder / which);
    };
    const auto ends = out("ends"), all = out("all"), last = out("last"), none = out("none");
    for (const auto& [where, first, middle, finest] : {std::tuple{ends, true, false, true},
                                                       {all, true, true, true},
                                                       {last, false, false, true},
                                                       {none, false, false, false}}) {
        CAPTURE(where);
        CHECK(drawn(where / "uniform/level-1/mesh") == first);
        CHECK(drawn(where / "uniform/level-2/error") == middle);
        CHECK(drawn(where / "uniform/level-3/mesh") == finest);
        CHECK(drawn(where / "pictures/acting") == finest);
        CHECK(fs::exists(where / "pictures/deformed.png") == finest);
        CHECK(fs::exists(where / "pictures/deformed.svg") == middle);  // with all: vectors of fields take as long again
        CHECK(drawn(where / "part") == finest);
    }
    const std::string page = content_of(ends / "report.html");
    CHECK(has(page, "<nav aria-label=\"contents\">"));
    CHECK(has(page, "What holds the part, and what acts on it"));
    CHECK(has(page, "on the deformed shape"));
    CHECK(!has(content_of(none / "report.html"), "data:image"));
    CHECK(has(run({"run", study, "-o", (folder / "x").string(), "--pictures", "some"}).err, "none of \"none\""));
    // The other choice is made of a result that is there, and a resumed run takes it as well.
    CHECK(run({"report", none.string(), "--pictures", "all"}).status <= 1);
    CHECK(drawn(none / "uniform/level-2/mesh"));
    const std::string other =
        folder.file("t.toml", small_study(std::string(three_levels) + "[results]\npictures = "
                                                                      "\"none\"\n[picture.p]\nof = \"ux\"\n"));
    CHECK(run({"run", other, "-o", last.string(), "--resume", "--quiet"}).status <= 1);
}

TEST_CASE("a picture of a result that is there") {
    const TemporaryFolder folder;
    const std::string study = folder.file("s.toml", small_study(three_levels));
    const std::string result = (folder / "out").string();
    REQUIRE(run({"run", study, "-o", result, "--quiet", "--pictures", "none"}).status <= 1);
    const auto picture = [&](std::vector<std::string> options) {
        options.insert(options.begin(), {"picture", result});
        return run(options, folder.path());
    };
    CHECK(picture({"-o", "plain.png"}).status == 0);
    CHECK(fs::file_size(folder / "plain.png") > 2000);
    CHECK(!fs::exists(folder / "plain.svg"));
    CHECK(picture({"--of", "uy", "--level", "1", "--deformed", "visibly", "--no-sides", "-o", "bent"}).status == 0);
    CHECK(drawn(folder / "bent"));
    CHECK(has(content_of(folder / "bent.svg"), "<svg"));
    CHECK(picture({"--of", "syy", "--range", "0,20", "--box", "0,0,1,1", "-o", "box.svg"}).status == 0);
    CHECK(fs::exists(folder / "box.svg"));
    const auto fault = [&](const std::vector<std::string>& options) {
        auto all = options;
        all.insert(all.end(), {"-o", "no.png"});
        const auto done = picture(all);
        CHECK(done.status == 2);
        CHECK(!fs::exists(folder / "no.png"));
        return done.err;
    };
    CHECK(has(fault({"--of", "syyy"}), "syy"));
    CHECK(has(fault({"--of", "reaction_x"}), "no field"));
    CHECK(has(fault({"--level", "8"}), "there is no level 8"));
    CHECK(has(fault({"--range", "1"}), "it needs 2"));
    CHECK(has(fault({"--box", "0,0,1"}), "it needs 4"));
    CHECK(has(fault({"--case", "other"}), "no case of that name"));
    CHECK(has(fault({"--deformed", "very"}), "error"));
    CHECK(has(fault({"--series", "x\"y"}), "no series of that name"));
    CHECK(run({"picture", result}, folder.path()).status == 2);
    CHECK(run({"picture", "-o", "a.png"}, folder.path()).status == 2);
    CHECK(run({"picture", (folder / "nowhere").string(), "-o", "a.png"}, folder.path()).status == 2);
}

TEST_CASE("statistics of tables as people have them, with what was assumed") {
    const TemporaryFolder folder;
    const std::string plain = folder.file("plain.csv", "h,stress\n4,10.4\n2,10.1\n1,10.025\n");
    const std::string other = folder.file("other.csv",
                                          "# of last week\nh\tmesher\tstress\n4\tfirst\t10,4\n2\tfirst\t10,1\n"
                                          "1\tsecond\t10,025\n");
    const auto value = [&](const std::string& file) {
        const auto done = run({"statistics", file, "--order", "2", "--json"});
        REQUIRE(done.status == 0);
        return std::pair{nlohmann::json::parse(done.out)["quantities"], done.err};
    };
    const auto [a, quiet] = value(plain);
    const auto [b, told] = value(other);
    REQUIRE(b.size() == 1);
    CHECK(a[0]["sentence"] == b[0]["sentence"]);
    CHECK(a[0]["values"] == b[0]["values"]);
    CHECK(quiet.empty());
    CHECK(has(told, "separated by tabs, and its numbers have decimal commas"));
    CHECK(has(told, "column \"mesher\" holds text: it is left out"));
}

TEST_SUITE_END();
