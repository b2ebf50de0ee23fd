#include <fmt/format.h>

#include "base/numbers.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/archive.hpp"
#include "evidence/levels/stored_result.hpp"

namespace dotsift::app {

int archive(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift archive",
        "Packs a result, with study, meshes, fields and report, into one zip file, or unpacks such a "
        "file into a new directory, where every command can go on with it.");
    options.add_options()("help", "print this")("o,output", "zip file to be made, or directory to unpack into",
                                                cxxopts::value<std::string>())("input", "result directory or zip file",
                                                                               cxxopts::value<std::string>());
    options.parse_positional({"input"});
    options.positional_help("RESULT -o FILE.zip | FILE.zip -o DIRECTORY");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift archive out -o pitch-link-lug.zip\n", options.help());
        return 0;
    }
    if (!given.count("input") || !given.count("output"))
        throw InputError(given.count("input") ? "no output is given" : "no result or archive is given", {},
                         "as in: dotsift archive out -o study.zip, or: dotsift archive study.zip -o out");
    const std::filesystem::path input = given["input"].as<std::string>(), output = given["output"].as<std::string>();
    std::error_code code;
    if (!std::filesystem::is_directory(input, code)) {
        unpack(input, output);
        fmt::print("{}\n", (output / "report.html").string());
        return 0;
    }
    (void)stored_study(input);  // refuses what is no result
    verify_levels(input);
    Place place;
    place.file = output.string();
    if (output.extension() != ".zip")
        throw InputError("the archive's name does not end in .zip", place, "as in: dotsift archive out -o study.zip");
    if (std::filesystem::exists(output, code))
        throw InputError("the file is there already, and is never overwritten", place, "choose another name with -o");
    pack(input, output);
    fmt::print("{}: {:.1f} MB\n", output.string(), static_cast<double>(std::filesystem::file_size(output)) / 1e6);
    return 0;
}

}  // namespace dotsift::app
