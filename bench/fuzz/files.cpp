// Mutated files of one kind: each must be read or refused with a message, whatever is in it. Meant for a build with
// sanitizers:
//     cmake --preset sanitizers -DDOTSIFT_BENCH=ON && cmake --build build-sanitizers --target dotsift-fuzz-files
//     build-sanitizers/bench/dotsift-fuzz-files KIND SECONDS [SEED]
// KIND is drawing, mesh, table, archive or model; SECONDS are of processor time. Exit status 1 if one is neither; it
// stays in the temporary folder.

#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <ctime>
#include <map>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "support/hostile_files.hpp"

using namespace dotsift;
using namespace dotsift::test;
namespace fs = std::filesystem;

int main(int argc, char** argv) {
    const FileKind kind = file_kind(argc > 2 ? argv[1] : "");
    if (kind.seeds.empty()) {
        fmt::print(stderr, "usage: dotsift-fuzz-files drawing|mesh|table|archive|model SECONDS [SEED]\n");
        return 2;
    }
    const std::clock_t end = std::clock() + std::atol(argv[2]) * CLOCKS_PER_SEC;
    Random random(argc > 3 ? static_cast<std::uint64_t>(std::atoll(argv[3])) : 1);
    const fs::path folder = fs::temp_directory_path() / fmt::format("dotsift-fuzz-{}", ::getpid());
    fs::create_directories(folder);
    std::map<std::string, long> ends;
    long count = 0;
    for (; std::clock() < end; ++count) {
        const std::string text = mutated(kind.seeds, random);
        try {
            ++ends[kind.take(text, folder, random)];
        } catch (const Error&) {
            ++ends["refused"];
        } catch (const std::exception& e) {
            write_file(folder / "bad", text);
            fmt::print("trial {}: {}; see {}\n", count, e.what(), (folder / "bad").string());
            return 1;
        }
    }
    fs::remove_all(folder);
    fmt::print("{} mutated files of kind {}:", count, argv[1]);
    for (const auto& [how, n] : ends) fmt::print(" {} {};", n, how);
    fmt::print(" none worse\n");
    return 0;
}
