// Mutated drawings: each must be read or refused with a message, and what is read must become a part or be refused.
// Meant for a build with sanitizers:
//     cmake --preset sanitizers -DDOTSIFT_BENCH=ON && cmake --build build-sanitizers --target dotsift-fuzz-drawings
//     build-sanitizers/bench/dotsift-fuzz-drawings 200000 [SEED]

#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <random>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "part/build.hpp"
#include "part/dxf_read.hpp"
#include "study/read.hpp"

namespace {

using namespace dotsift;

std::vector<std::string> seeds() {
    std::string circles =
        "0\nCIRCLE\n8\na\n10\n5\n20\n5\n40\n2\n0\nELLIPSE\n8\nb\n10\n15\n20\n15\n11\n3\n21\n0\n40\n0.5\n41\n0\n42\n6."
        "283185\n";
    const std::string polyline =
        "0\nPOLYLINE\n8\nrim\n66\n1\n70\n1\n0\nVERTEX\n8\nrim\n10\n0\n20\n0\n0\nVERTEX\n8\nrim\n10\n40\n20\n0\n42\n0."
        "5\n0\nVERTEX\n8\nrim\n"
        "10\n40\n20\n20\n0\nVERTEX\n8\nrim\n10\n0\n20\n20\n0\nSEQEND\n";
    const std::string spline =
        "0\nSPLINE\n8\narch\n70\n8\n71\n3\n72\n8\n73\n4\n74\n0\n40\n0\n40\n0\n40\n0\n40\n0\n40\n1\n40\n1\n40\n1\n40\n1"
        "\n10\n0\n20\n0\n"
        "10\n2\n20\n8\n10\n6\n20\n8\n10\n8\n20\n0\n0\nLINE\n8\narch\n10\n8\n20\n0\n11\n0\n21\n0\n";
    const auto file = [](const std::string& entities) {
        return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + entities +
               "0\nENDSEC\n0\nEOF\n";
    };
    return {read_file(std::string(DOTSIFT_SOURCE) + "/examples/tidal/hub-cover.dxf"), file(polyline + circles),
            file(spline), file(polyline + spline)};
}

std::string mutated(const std::vector<std::string>& from, std::mt19937_64& random) {
    std::string text = from[random() % from.size()];
    const int edits = 1 + static_cast<int>(random() % 5);
    for (int k = 0; k < edits && !text.empty(); ++k) {
        const std::size_t at = random() % text.size();
        switch (random() % 8) {
            case 0:
                text[at] = static_cast<char>(random() % 256);
                break;
            case 1:
                text.erase(at, random() % 60);
                break;
            case 2:
                text.insert(at, text.substr(random() % text.size(), random() % 200));
                break;
            case 3:
                text.insert(at, std::to_string(static_cast<std::int64_t>(random())));
                break;
            case 4:
            case 5:
                text[at] = static_cast<char>('0' + random() % 10);
                break;
            case 6: {  // swaps two lines
                const std::size_t a = text.find('\n', at), b = a == std::string::npos ? a : text.find('\n', a + 1);
                if (b != std::string::npos)
                    text = text.substr(0, at) + text.substr(a, b - a) + text.substr(at, a - at) + text.substr(b);
                break;
            }
            default:
                if (random() % 4 == 0) text.resize(at);
        }
    }
    return text;
}

}  // namespace

int main(int argc, char** argv) {
    const long count = argc > 1 ? std::atol(argv[1]) : 10'000;
    std::mt19937_64 random(argc > 2 ? static_cast<std::uint64_t>(std::atoll(argv[2])) : 1);
    const auto folder = std::filesystem::temp_directory_path() / fmt::format("dotsift-fuzz-{}", ::getpid());
    std::filesystem::create_directories(folder);
    const auto from = seeds();
    long read = 0, refused = 0, parts = 0, told = 0;
    for (long trial = 0; trial < count; ++trial) {
        const std::string text = mutated(from, random);
        try {
            (void)read_dxf(text, "mutated");
            ++read;
        } catch (const InputError&) {
            ++refused;
            continue;
        }
        if (read % 4 != 0) continue;
        std::FILE* out = std::fopen((folder / "part.dxf").c_str(), "wb");
        std::fwrite(text.data(), 1, text.size(), out);
        std::fclose(out);
        Problems problems("fuzz");
        const Study study =
            read_study(folder / "study.toml",
                       std::string("format = 1\n[[part.shape]]\nadd = \"drawing\"\nfile = \"part.dxf\"\n") +
                           (random() % 2 ? "nested = \"regions\"\n" : ""),
                       problems);
        const std::size_t before = problems.count();
        const BuiltPart built = build_part(study, problems);
        if (problems.count() == before && !built.part.faces.empty() && built.part.area() > 0)
            ++parts;
        else if (problems.count() > before)
            ++told;
        else {
            fmt::print("trial {}: neither a part nor a fault ({} faces, area {}); see {}\n", trial,
                       built.part.faces.size(), built.part.area(), (folder / "part.dxf").string());
            return 1;
        }
        if ((trial + 1) % 20'000 == 0) fmt::print("{} ...\n", trial + 1);
    }
    std::filesystem::remove_all(folder);
    fmt::print("{} drawings: {} read, {} refused; of every fourth read {} became parts, {} were refused\n", count, read,
               refused, parts, told);
    return 0;
}
