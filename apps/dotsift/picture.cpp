#include <fmt/format.h>

#include "base/files.hpp"
#include "commands.hpp"
#include "console.hpp"
#include "evidence/levels/stored_result.hpp"
#include "evidence/pictures/chosen_pictures.hpp"
#include "evidence/pictures/level_pictures.hpp"

namespace dotsift::app {

namespace {

constexpr const char* asked_name = "asked_for";

/// Options as the table of a picture in a study, so that they are read and checked as one.
std::string as_table(const cxxopts::ParseResult& given) {
    std::string text = fmt::format("\n[picture.{}]\n", asked_name);
    const auto quoted = [](const std::string& word) {
        std::string out;
        for (const char c : word) out += c == '"' || c == '\\' ? std::string("\\") + c : std::string(1, c);
        return "\"" + out + "\"";
    };
    for (const auto* key : {"of", "case", "of-cases", "series"}) {
        std::string name = key;
        if (name == "of-cases") name = "of_cases";
        if (given.count(key)) text += fmt::format("{} = {}\n", name, quoted(given[key].as<std::string>()));
    }
    if (given.count("level")) text += fmt::format("level = {}\n", given["level"].as<int>());
    if (given.count("deformed")) {
        const auto factor = given["deformed"].as<std::string>();
        text += fmt::format("deformed = {}\n", factor == "visibly" ? quoted(factor) : factor);
    }
    const auto list = [&](const char* option, std::size_t count, const char* example) {
        auto numbers = given[option].as<std::vector<double>>();
        if (numbers.size() != count)
            throw InputError(fmt::format("--{} has {} numbers, but it needs {}", option, numbers.size(), count), {},
                             fmt::format("as in --{} {}", option, example));
        return numbers;
    };
    if (given.count("range")) text += fmt::format("range = [{}]\n", fmt::join(list("range", 2, "0,200"), ", "));
    if (given.count("box")) {
        const auto b = list("box", 4, "0,0,50,20");
        text += fmt::format("box = [[{}, {}], [{}, {}]]\n", b[0], b[1], b[2], b[3]);
    }
    if (given.count("no-sides")) text += "element_sides = false\n";
    return text;
}

/// The picture that the options ask for, or a fault of theirs.
PictureSpec read_options(const StudyAndPart& opened, const cxxopts::ParseResult& given) {
    Problems problems("the options");
    const std::string table = as_table(given);
    const Study asked = open_study(opened.study.path, opened.study.source + table, problems).study;
    if (!problems.empty()) {
        const auto faults = problems.faults();
        std::string what = faults.front().what;
        const std::string label = fmt::format("picture.{}", asked_name);
        for (auto at = what.find(label); at != std::string::npos; at = what.find(label))
            what.replace(at, label.size() + (what[at + label.size()] == '.' ? 1 : 0), "");
        throw InputError(fmt::format("the picture: {}", what), {}, faults.front().remedy);
    }
    return asked.pictures.back();
}

}  // namespace

int picture(const std::vector<std::string>& arguments) {
    cxxopts::Options options(
        "dotsift picture",
        "Draws a field of a result that is there: any level, load case and view. Nothing is solved.");
    options.add_options()("help", "print this")(
        "of", "the field, as in a study's quantities; without it that of the report", cxxopts::value<std::string>())(
        "case", "load case; \"*\" for all of them together", cxxopts::value<std::string>())(
        "of-cases", "of all cases together: largest, smallest or governing", cxxopts::value<std::string>())(
        "series", "series; without it that of the finest level", cxxopts::value<std::string>())(
        "level", "level; without it the last", cxxopts::value<int>())("range", "what the colours span, as in 0,200",
                                                                      cxxopts::value<std::vector<double>>())(
        "box", "two corners of what is shown: x1,y1,x2,y2", cxxopts::value<std::vector<double>>())(
        "deformed", "factor on the displacements, or \"visibly\"", cxxopts::value<std::string>())(
        "no-sides", "leaves the sides of the elements out")(
        "o,output", "the picture: FILE.png, FILE.svg, or FILE for both", cxxopts::value<std::string>())(
        "result", "directory that `dotsift run` wrote", cxxopts::value<std::string>());
    options.parse_positional({"result"});
    options.positional_help("RESULT -o FILE.png");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift picture out --of syy --box 0,0,60,40 -o corner.png\n", options.help());
        return 0;
    }
    if (!given.count("result") || !given.count("output"))
        throw InputError(given.count("result") ? "no file is given for the picture" : "no result is given", {},
                         "as in: dotsift picture out --of syy -o syy.png");
    const StoredResult stored = stored_result(given["result"].as<std::string>());
    const Study& study = stored.opened.study;
    PictureSpec asked;
    asked.field = shown_field(study);
    if (given.count("of")) {
        asked = read_options(stored.opened, given);
    } else {
        auto with_field = arguments;
        with_field.insert(with_field.end(), {"--of", name_of(asked.field)});
        asked = read_options(stored.opened, parse(options, with_field));
    }
    std::filesystem::path file = given["output"].as<std::string>();
    const PictureFiles drawn = draw_chosen(study, stored.result, asked);
    const std::string extension = file.extension().string();
    if (extension == ".png" || extension == ".svg") {
        write_file(file, extension == ".png" ? drawn.png : drawn.svg);
        fmt::print("written   {}\n", file.string());
    } else {
        write_picture(file, drawn);
        fmt::print("written   {0}.png, {0}.svg\n", file.string());
    }
    return 0;
}

}  // namespace dotsift::app
