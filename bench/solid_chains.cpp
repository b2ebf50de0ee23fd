// Random chains of booleans on named shapes of space, held against the shapes' own equations.
//     build/bench/dotsift-solid-chains [CHAINS [FIRST [PLACES]]]
// CHAINS of them (150), from the seed FIRST (1) on, with PLACES in space (134 each). Exit status 1 if a region, a name
// or a side differs, or a chain is not built though something of it is left.

#include <fmt/format.h>

#include <chrono>
#include <cstdlib>

#include "support/solid_chains.hpp"

int main(int argc, char** argv) {
    using namespace dotsift;
    const auto given = [&](int k, int standard) { return argc > k ? std::atoi(argv[k]) : standard; };
    const int chains = given(1, 150), first = given(2, 1), places = given(3, 134);
    int built = 0, empty = 0, failed = 0, bad = 0;
    long faces = 0, on_faces = 0, in_space = 0;
    double seconds = 0;
    for (int k = first; k < first + chains; ++k) {
        const SolidChain chain = random_chain(static_cast<unsigned>(k));
        const auto start = std::chrono::steady_clock::now();
        const ChainReport r = check_chain(chain, 12, places);
        seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        if (!r.fault.empty()) {
            // What has to be refused: nothing is left, a cut beside the material, a region that is gone.
            const bool right =
                r.fault.find("nothing") != std::string::npos || r.fault.find("fits no region") != std::string::npos;
            ++(right ? empty : failed);
            if (!right) {
                std::string kinds;
                for (const auto& shape : chain.shapes) kinds += "bcCsr"[static_cast<std::size_t>(shape.primitive)];
                fmt::print("chain {} ({}): {}\n", k, kinds, r.fault.substr(0, r.fault.find('\n')));
            }
            continue;
        }
        ++built;
        faces += r.faces;
        on_faces += r.on_faces;
        in_space += r.in_space;
        if (r.good()) continue;
        ++bad;
        fmt::print(
            "chain {}: {} of {} places on faces with another region beside them, {} with other names; {} of {} in "
            "space in another region\n",
            k, r.wrong_sides, r.on_faces, r.wrong_names, r.wrong_regions, r.in_space);
    }
    fmt::print(
        "{} chains: {} built with {} faces, {} rightly refused, {} failed; {} places on faces and {} in space, {} "
        "chains with a difference; {:.1f} s\n",
        chains, built, faces, empty, failed, on_faces, in_space, bad, seconds);
    return failed + bad > 0;
}
