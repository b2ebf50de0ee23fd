// Files from outside with faults: each is read or refused with a message, never worse.

#include <doctest/doctest.h>

#include <map>
#include <string>

#include "base/errors.hpp"
#include "support/folder.hpp"
#include "support/hostile_files.hpp"

using namespace dotsift;
using namespace dotsift::test;

TEST_SUITE_BEGIN("evidence");

TEST_CASE("mutated drawings, meshes, tables and archives are read or refused, never worse") {
    struct Share {
        std::string kind, good;
        int trials, least;  ///< of how many, so many must come to the end
    };
    // Sums protect what is in an archive, but not its times and attributes.
    for (const auto& [kind, good, trials, least] :
         {Share{"drawing", "became parts", 600, 10}, Share{"mesh", "became meshes", 1500, 100},
          Share{"table", "became levels", 6000, 50}, Share{"table", "became sizes", 6000, 50},
          Share{"archive", "unpacked", 600, 5}}) {
        CAPTURE(kind);
        const Folder folder;
        const FileKind files = file_kind(kind);
        Random random(11);
        std::map<std::string, int> ends;
        for (int trial = 0; trial < trials; ++trial) {
            const std::string text = mutated(files.seeds, random);
            CAPTURE(trial);
            try {
                ++ends[files.take(text, folder.path, random)];
            } catch (const Error& e) {
                if (std::string(e.what()).empty()) FAIL_CHECK("refused without a word");
                ++ends["refused"];
            }
        }
        CHECK(ends[good] >= least);
        CHECK(ends["refused"] >= 20);
    }
}

TEST_SUITE_END();
