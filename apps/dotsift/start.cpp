#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>

#include "base/files.hpp"
#include "base/resources.hpp"
#include "commands.hpp"
#include "console.hpp"

namespace dotsift::app {

namespace {

namespace fs = std::filesystem;

struct Kind {
    const char* name;
    const char* what;
    const char* beside;  ///< a file that the study needs; "": none
};
constexpr std::array kinds{Kind{"plane", "a plate in plane stress, under a force", ""},
                           Kind{"axisymmetric", "a body of revolution, under pressure", ""},
                           Kind{"heat", "steady conduction, with heat going in and out", ""},
                           Kind{"drawing", "a plate from a DXF drawing", "drawing.dxf"}};

std::string list_of_kinds() {
    std::string text;
    for (const auto& k : kinds) text += fmt::format("  {:14}{}\n", k.name, k.what);
    return text;
}

void place(const std::string& name, const fs::path& to) {
    const fs::path folder = fs::absolute(to).parent_path();
    if (!fs::is_directory(folder))
        throw FileError(fmt::format("the folder {} does not exist", folder.string()), {}, "make it first");
    write_file(to, read_file(find_resource("starters/" + name)));
}

}  // namespace

int start(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift start",
                             "Writes a commented study of a kind of problem, ready to run and to be changed.");
    options.add_options()("help", "print this")("o,output", "study file to write (default: KIND.toml)",
                                                cxxopts::value<std::string>())("replace", "also if it is there")(
        "kind", "kind of problem", cxxopts::value<std::string>());
    options.parse_positional({"kind"});
    options.positional_help("KIND -o STUDY.toml");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nkinds:\n{}\nexample: dotsift start plane -o bracket.toml\n", options.help(), list_of_kinds());
        return 0;
    }
    std::vector<std::string> names;
    names.reserve(kinds.size());
    for (const auto& k : kinds) names.emplace_back(k.name);
    if (!given.count("kind")) throw InputError("no kind of problem is given", {}, "kinds are " + quoted_list(names));
    const std::string name = given["kind"].as<std::string>();
    const auto kind = std::find(names.begin(), names.end(), name);
    if (kind == names.end()) {
        const std::string near = nearest(name, names);
        throw InputError(fmt::format("there is no kind of problem \"{}\"", name), {},
                         near.empty() ? "kinds are " + quoted_list(names) : fmt::format("did you mean \"{}\"?", near));
    }
    const fs::path study = given.count("output") ? given["output"].as<std::string>() : name + ".toml";
    const Kind& chosen = kinds[static_cast<std::size_t>(kind - names.begin())];
    std::vector<fs::path> files{study};
    if (*chosen.beside) files.push_back(study.parent_path() / chosen.beside);
    for (const auto& file : files)
        if (fs::exists(file) && !given.count("replace"))
            throw InputError(fmt::format("{} is there already", file.string()), {},
                             "choose another name with -o, or use --replace");
    place(name + ".toml", files[0]);
    if (files.size() > 1) place(chosen.beside, files[1]);
    for (const auto& file : files) fmt::print("wrote {}\n", file.string());
    fmt::print("next: dotsift check {0}, then dotsift run {0} -o DIRECTORY\n", study.string());
    return 0;
}

}  // namespace dotsift::app
