#include <fmt/format.h>

#include "commands.hpp"
#include "console.hpp"
#include "study/keys.hpp"

namespace dotsift::app {

int keys(const std::vector<std::string>& arguments) {
    cxxopts::Options options("dotsift keys",
                             "Prints every key of a study file with its values, standard and meaning, as Markdown.");
    options.add_options()("help", "print this");
    const auto given = parse(options, arguments);
    if (given.count("help")) {
        fmt::print("{}\nexample: dotsift keys > study-keys.md\n", options.help());
        return 0;
    }
    fmt::print("{}", key_reference());
    return 0;
}

}  // namespace dotsift::app
