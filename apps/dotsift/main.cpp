// Entry point: finds the command and turns errors into messages and exit statuses.

#include <fmt/format.h>

#include <array>
#include <csignal>
#include <cstdio>
#include <exception>
#include <filesystem>
#include <system_error>

#include "commands.hpp"
#include "console.hpp"
#include "evidence/provenance.hpp"

namespace {

using namespace dotsift;

constexpr std::array commands{
    app::Command{"start", "write a commented study to begin with", app::start},
    app::Command{"check", "read a study, build its part, and list everything that is wrong or missing", app::check},
    app::Command{"inspect", "measure a part and list what will cause trouble, with a labelled picture", app::inspect},
    app::Command{"sizes", "show the element size that the rules ask for, and which rule decides where", app::sizes},
    app::Command{"mesh", "make the first mesh, with its picture and counts", app::mesh},
    app::Command{"remesh", "make zones of a mesh anew and keep the rest node for node", app::remesh},
    app::Command{"quality", "judge the elements of a mesh against limits, with a map and histograms", app::quality},
    app::Command{"run", "run every series of a study and write the evidence", app::run},
    app::Command{"vary", "run a study with other values of its variables, as a table of inputs and outputs", app::vary},
    app::Command{"report", "make report, tables and pictures of a result anew, without solving", app::report},
    app::Command{"picture", "draw a field of a result: any level, load case and view", app::picture},
    app::Command{"compare", "hold levels, series or results side by side", app::compare},
    app::Command{"archive", "pack a result into one file, or unpack it", app::archive},
    app::Command{"statistics", "order, extrapolation and interval of values on three or more meshes, from any table",
                 app::statistics},
    app::Command{"verify-code", "verify the program itself: patch tests, orders of convergence, known answers",
                 app::verify_code},
    app::Command{"keys", "print the reference of all study-file keys", app::keys},
};

void print_help() {
    fmt::print(
        "Dot Sift: is the mesh good enough, and can it be proved?\n\nusage: dotsift COMMAND [STUDY] [options]\n\n");
    for (const auto& c : commands) fmt::print("  {:12}{}\n", c.name, c.purpose);
    fmt::print(
        "\n`dotsift COMMAND --help` tells more about one. A first study:\n\n    dotsift start plane -o first.toml\n    "
        "dotsift "
        "run first.toml -o out\n");
}

void print_version() {
    fmt::print("dotsift {}\n{}\n", DOTSIFT_VERSION, library_versions(app::solver_libraries()));
}

int dispatch(const std::vector<std::string>& arguments) {
    if (arguments.empty() || arguments[0] == "--help" || arguments[0] == "-h" || arguments[0] == "help") {
        print_help();
        return arguments.empty() ? static_cast<int>(ExitStatus::bad_input) : 0;
    }
    if (arguments[0] == "--version") {
        print_version();
        return 0;
    }
    std::vector<std::string> names;
    for (const auto& c : commands) {
        if (arguments[0] == c.name) return c.run({arguments.begin() + 1, arguments.end()});
        names.emplace_back(c.name);
    }
    const std::string near = nearest(arguments[0], names);
    throw InputError(
        fmt::format("there is no command \"{}\"", arguments[0]), {},
        near.empty() ? fmt::format("commands are {}", quoted_list(names)) : fmt::format("did you mean \"{}\"?", near));
}

}  // namespace

int main(int argc, char** argv) {
    std::signal(SIGXFSZ, SIG_IGN);  // a file limit is told as a failed write, not by a silent end
    std::signal(SIGPIPE, SIG_IGN);  // and so is a reader that went away
    app::end_on_signals();
    try {
        const int status = dispatch({argv + 1, argv + argc});
        if (std::fflush(stdout) != 0 || std::ferror(stdout))
            throw FileError("the results could not be written to the standard output");
        return status;
    } catch (const Error& e) {
        return app::tell(e);
    } catch (const std::bad_alloc&) {
        return app::tell(SolveError("not enough memory", {}, "ask for larger elements, or lower most_elements"));
    } catch (const std::filesystem::filesystem_error& e) {
        Place place;
        place.file = e.path1().string();
        return app::tell(FileError(e.code().message(), place, "check the path and its permissions"));
    } catch (const std::system_error& e) {  // of printing
        return app::tell(
            FileError(fmt::format("the results could not be written to the standard output: {}", e.what())));
    } catch (const std::exception& e) {
        return app::tell(
            SolveError(fmt::format("unexpected: {}", e.what()), {}, "please report this with the study file"));
    }
}
