#include "study/keys.hpp"

#include <fmt/format.h>

#include "commands.hpp"
#include "console.hpp"
#include "evidence/study_schema.hpp"

namespace dotsift::app {

int keys(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift keys",
                             "Prints the keys of a study file with their values, standards and meanings, as Markdown: "
                             "all of them, or those of one section.");
    options.add_options()("help", "print this")("search", "only keys that have this word in name, value or meaning",
                                                cxxopts::value<std::string>())(
        "json-schema", "print the study file as a JSON Schema instead, for editors")(
        "section", "a section, such as quantity or size.local", cxxopts::value<std::string>());
    options.parse_positional({"section"});
    options.positional_help("[SECTION]");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift keys quantity\n", options.help());
        return 0;
    }
    if (given.count("json-schema")) {
        fmt::print("{}\n", study_schema().dump(1));
        return 0;
    }
    const std::string section = given.count("section") ? given["section"].as<std::string>() : "";
    const std::string word = given.count("search") ? given["search"].as<std::string>() : "";
    const std::string text = key_reference(section, word);
    if (text.empty() && key_reference(section).empty()) {
        const std::string near = nearest(section, key_sections());
        throw InputError(
            fmt::format("there is no section \"{}\"", section), {},
            near.empty() ? "sections are " + quoted_list(key_sections()) : fmt::format("did you mean \"{}\"?", near));
    }
    if (text.empty()) throw InputError(fmt::format("no key has the word \"{}\"", word), {}, "try a shorter one");
    fmt::print("{}", text);
    return 0;
}

}  // namespace dotsift::app
