#include "evidence/comparison.hpp"

#include <fmt/format.h>

#include "base/files.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/output.hpp"
#include "evidence/statistics_files.hpp"

namespace dotsift::app {

namespace {

void write_comparison(const Comparison& c, const std::filesystem::path& directory) {
    const ComparisonPictures pictures = draw_comparison(c);
    make_directory(directory);
    for (std::size_t k = 0; k < c.levels.size(); ++k) {
        const auto& p = pictures.levels[k];
        const auto name = [&](const std::string& what) { return directory / fmt::format("{}-{}", k + 1, what); };
        write_picture(name("field"), p.field);
        write_picture(name("mesh"), p.mesh);
        if (p.difference) write_picture(name("difference"), *p.difference);
        for (const auto& [quantity, picture] : p.close_ups) write_picture(name("close-up-" + quantity), picture);
    }
    for (const auto& [name, chart] : pictures.charts) write_picture(directory / name, chart);
    write_file(directory / "comparison.json", comparison_json(c).dump(2) + "\n");
    write_file(directory / "comparison.md", markdown_table(comparison_rows(c)));
    write_file(directory / "comparison.html", comparison_html(c, pictures));
}

}  // namespace

int compare(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift compare",
        "Holds levels side by side: values, changes and costs; with -o also pictures in the same view "
        "and colours, what differs, the mesh round each peak, and charts. A result stands for its "
        "level with the most unknowns, a series for its last one. Nothing is solved.");
    options.add_options()("help", "print this")("o,output", "directory for comparison.html, tables and pictures",
                                                cxxopts::value<std::string>())("json", "print as JSON")(
        "levels", "results, series or levels", cxxopts::value<std::vector<std::string>>());
    options.parse_positional({"levels"});
    options.positional_help("RESULT[/SERIES[/level-K]] ... [-o DIRECTORY]");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift compare out/uniform/level-1 out/uniform out/adaptive -o out-compare\n",
                   options.help());
        return 0;
    }
    std::vector<std::filesystem::path> paths;
    if (given.count("levels"))
        for (const auto& p : given["levels"].as<std::vector<std::string>>()) paths.emplace_back(p);
    if (given.count("output")) {
        const std::filesystem::path directory = given["output"].as<std::string>();
        std::error_code code;
        Place place;
        place.file = directory.string();
        if (std::filesystem::exists(directory / study_copy, code))
            throw InputError("the output directory holds a result of a run", place, "choose another directory with -o");
    }
    const Comparison c = compare_levels(paths);
    if (given.count("output")) write_comparison(c, given["output"].as<std::string>());
    if (given.count("json")) {
        fmt::print("{}\n", comparison_json(c).dump(2));
        return 0;
    }
    fmt::print("{}", table(comparison_rows(c)));
    for (const auto& m : c.shared)
        if (m.drifts()) fmt::print("  not the same on every mesh: {} {} {}\n", name_of(m.kind), m.name, m.fault);
    if (given.count("output"))
        fmt::print("\npage: {}\n",
                   (std::filesystem::path(given["output"].as<std::string>()) / "comparison.html").string());
    return 0;
}

}  // namespace dotsift::app
