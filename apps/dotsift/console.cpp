#include "console.hpp"

#include <cholmod.h>
#include <fmt/format.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <csignal>
#include <cstdlib>
#include <optional>

#include "base/files.hpp"
#include "base/numbers.hpp"
#include "evidence/pictures/failure_picture.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "series/meshing_notes.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift::app {

namespace {

// A handler may use what stands still only.
std::array<char, 1024> last_words{};
std::size_t last_words_length = 0;

extern "C" void end_now(int) {
    const ssize_t written = ::write(STDERR_FILENO, last_words.data(), last_words_length);
    (void)written;
    ::_exit(static_cast<int>(ExitStatus::interrupted));
}

/// Columns a text takes: UTF-8 continuation bytes take none.
std::size_t width_of(const std::string& text) {
    return static_cast<std::size_t>(
        std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

}  // namespace

void advise_on_interrupt(const std::string& advice) {
    const std::string text = "\ninterrupted" + (advice.empty() ? "" : ": " + advice) + "\n";
    last_words_length = 0;  // a signal in between says less, not something broken
    const std::size_t length = std::min(text.size(), last_words.size());
    std::copy_n(text.begin(), length, last_words.begin());
    last_words_length = length;
}

void end_on_signals() {
    advise_on_interrupt("");
    std::signal(SIGINT, end_now);
    std::signal(SIGTERM, end_now);
}

int tell(const Error& error) {
    const Place& p = error.place();
    std::string text = error.what();
    const bool listing = text.ends_with('\n');  // already complete, one line for each fault
    if (!listing) {
        std::string place;
        if (!p.file.empty()) place += p.line > 0 ? fmt::format("{}:{}:{}: ", p.file, p.line, p.column) : p.file + ": ";
        text = fmt::format("{}error: {}\n", place, text);
        if (!p.level.empty()) text += fmt::format("    in {}\n", p.level);
        if (!p.boundary.empty()) text += fmt::format("    boundary {}\n", p.boundary);
        if (p.position) {
            text += fmt::format("    at ({:.6g}, {:.6g}", (*p.position)[0], (*p.position)[1]);
            text += p.position->in_space() ? fmt::format(", {:.6g})\n", (*p.position)[2]) : ")\n";
        }
        if (!error.remedy().empty()) text += fmt::format("    {}\n", error.remedy());
    }
    std::fputs(text.c_str(), stderr);
    return static_cast<int>(error.status());
}

cxxopts::ParseResult parse(cxxopts::Options& options, const std::vector<std::string>& arguments) {
    std::vector<const char*> argv{"dotsift"};
    for (const auto& a : arguments) argv.push_back(a.c_str());
    const auto known = [&options] {
        std::vector<std::string> names;
        for (const auto& group : options.groups())
            for (const auto& option : options.group_help(group).options)
                for (const auto& name : option.l) names.push_back("--" + name);
        return names;
    }();
    for (const auto& a : arguments) {
        if (!a.starts_with("--") || a == "--") continue;
        const std::string name = a.substr(0, a.find('='));
        if (std::find(known.begin(), known.end(), name) != known.end()) continue;
        const std::string near = nearest(name, known);
        throw InputError(
            fmt::format("unknown option {}", name), {},
            near.empty() ? fmt::format("see {} --help", options.program()) : fmt::format("did you mean {}?", near));
    }
    try {
        cxxopts::ParseResult given = options.parse(static_cast<int>(argv.size()), argv.data());
        if (!given.unmatched().empty() && !given.count("help"))
            throw InputError(fmt::format("the argument \"{}\" has no meaning here", given.unmatched().front()), {},
                             fmt::format("see {} --help", options.program()));
        return given;
    } catch (const cxxopts::exceptions::exception& e) {
        throw InputError(e.what(), {}, fmt::format("see {} --help", options.program()));
    }
}

StudyAndPart open(const std::string& path, Problems& problems) {
    constexpr std::size_t largest_study = 16U << 20U;
    StudyAndPart opened = open_study(path, read_file(path, largest_study), problems);
    std::fputs(problems.warning_text().c_str(), stderr);
    return opened;
}

StudyAndPart load_plane(const std::string& path, const std::string& command) {
    StudyAndPart opened = load(path);
    if (opened.solid)
        throw InputError(fmt::format("dotsift {} does not work on solids yet", command),
                         place_in(opened.study.path, opened.study.part_where),
                         "check, inspect, mesh, run, vary, picture, report, compare and archive do");
    return opened;
}

StudyAndPart load(const std::string& path) {
    Problems problems(path);
    StudyAndPart opened = open(path, problems);
    problems.throw_if_any();
    return opened;
}

namespace {

/// What `make` makes, with the tries that failed told.
template <class Make>
auto telling_tries(Prepared& prepared, Make make) {
    const auto tell_tries = [&](bool made) {
        for (const auto& line : notes_on_retries(prepared.failed, prepared.opened.study, made))
            fmt::print(stderr, "{}\n", line);
    };
    try {
        auto made = make();
        tell_tries(true);
        return made;
    } catch (const MeshError&) {
        tell_tries(false);
        throw;
    }
}

}  // namespace

MadeMesh first_mesh_telling(Prepared& prepared, double finer) {
    return telling_tries(prepared, [&] { return first_mesh(prepared, finer); });
}
MadeMeshIn<3> first_solid_mesh_telling(Prepared& prepared, double finer) {
    return telling_tries(prepared, [&] { return first_solid_mesh(prepared, finer); });
}

void show_failure(const StudyAndPart& opened, const Error& error, const std::filesystem::path& directory) {
    if (!error.place().position || opened.solid) return;
    const PictureFiles picture =
        draw_failure(opened.part, opened.study.title, error.what(), error.place().position->plane(),
                     error.place().boundary, opened.study.units.label(dimension::length));
    make_directory(directory);
    write_picture(directory / "failure", picture);
    fmt::print(stderr, "the place is shown in {}\n", (directory / "failure.png").string());
}

void choose_pictures(const cxxopts::ParseResult& given, Study& study) {
    if (!given.count("pictures")) return;
    const auto word = given["pictures"].as<std::string>();
    const auto& words = pictured_names();
    const auto found = std::find(words.begin(), words.end(), word);
    if (found == words.end())
        throw InputError(fmt::format("--pictures is \"{}\", which is none of {}", word, quoted_list(words)));
    study.pictured = static_cast<PicturedLevels>(found - words.begin());
}

void check_sizes(const StudyAndPart& opened) {
    const SizeSpec& sizes = opened.study.sizes;
    if (opened.solid)
        check_element_limit(*opened.solid, sizing_of(*opened.solid, sizes, opened.study.path).field,
                            sizes.most_elements);
    else
        check_element_limit(opened.part, sizing_of(opened.part, sizes, opened.study.path), sizes.most_elements);
}

std::string solver_libraries() {
    return fmt::format("CHOLMOD {}.{}.{}", CHOLMOD_MAIN_VERSION, CHOLMOD_SUB_VERSION, CHOLMOD_SUBSUB_VERSION);
}

std::string strong(const std::string& text) {
    const char* no_colour = std::getenv("NO_COLOR");
    if (!::isatty(STDOUT_FILENO) || (no_colour && *no_colour)) return text;
    return "\033[1m" + text + "\033[0m";
}

namespace {

using Rows = std::vector<std::vector<std::string>>;

constexpr std::size_t between_columns = 2;

std::vector<std::size_t> column_widths(const Rows& rows) {
    std::vector<std::size_t> width;
    for (const auto& row : rows) {
        width.resize(std::max(width.size(), row.size()), 0);
        for (std::size_t c = 0; c < row.size(); ++c) width[c] = std::max(width[c], width_of(row[c]));
    }
    return width;
}

std::size_t sum_of(const std::vector<std::size_t>& widths) {
    std::size_t sum = 0;
    for (const std::size_t w : widths) sum += w + between_columns;
    return sum;
}

/// Columns of the terminal that the results go to; nothing if they go elsewhere.
std::optional<std::size_t> terminal_columns() {
    winsize size{};
    if (!::isatty(STDOUT_FILENO) || ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0 || size.ws_col == 0) return {};
    return size.ws_col;
}

std::string set_rows(const Rows& rows) {
    const std::vector<std::size_t> width = column_widths(rows);
    std::string text;
    for (const auto& row : rows) {
        std::string line;
        for (std::size_t c = 0; c < row.size(); ++c) {
            const std::string pad(width[c] - width_of(row[c]), ' ');
            line += "  " + (c == 0 ? row[c] + pad : pad + row[c]);
        }
        while (line.ends_with(' ')) line.pop_back();
        text += line + "\n";
    }
    return text;
}

}  // namespace

std::string table(const Rows& rows) {
    const auto columns = terminal_columns();
    if (!columns || rows.empty() || sum_of(column_widths(rows)) <= *columns) return set_rows(rows);
    // Headings go down, rows side by side, as many as there is room for.
    std::string text;
    for (std::size_t done = 1; done < rows.size();) {
        Rows turned(rows[0].size());
        for (std::size_t r = 0; r < turned.size(); ++r) turned[r] = {rows[0][r]};
        for (const std::size_t begin = done; done < rows.size(); ++done) {
            Rows wider = turned;
            for (std::size_t r = 0; r < wider.size(); ++r)
                wider[r].push_back(r < rows[done].size() ? rows[done][r] : "");
            if (done > begin && sum_of(column_widths(wider)) > *columns) break;
            turned = std::move(wider);
        }
        text += (text.empty() ? "" : "\n") + set_rows(turned);
    }
    return text;
}

Progress::Progress(bool quiet) : quiet_(quiet), terminal_(::isatty(STDERR_FILENO)) {}

void Progress::clear() {
    if (terminal_ && !quiet_) std::fputs("\r\033[K", stderr);
}

void Progress::evidence() {
    if (quiet_) return;
    clear();
    if (terminal_) {
        fmt::print(stderr, "pictures, tables and report ...");
        std::fflush(stderr);
    } else {
        fmt::print(stderr, "pictures, tables and report\n");
    }
}

void Progress::stage(const std::string& series, int level, const std::string& stage) {
    if (quiet_ || !terminal_) return;
    clear();
    std::fputs(fmt::format("{} level {}: {} ...", series, level, stage).c_str(), stderr);
}

void Progress::tell_level(const Level& level, const std::string& how) {
    if (quiet_) return;
    clear();
    std::fputs(fmt::format("{} level {}: {} elements, {} unknowns, estimated error {}, {}\n", level.series, level.index,
                           grouped(static_cast<long long>(level.mesh.elements)), grouped(level.unknowns),
                           percent(level.estimated_error), how)
                   .c_str(),
               stderr);
}

void Progress::level_done(Level& level) {
    double seconds = 0;
    for (const auto& c : level.costs) seconds += c.seconds;
    tell_level(level, sensible(seconds, 2) + " s");
}

void Progress::level_kept(const Level& level) {
    tell_level(level, "kept");
}

}  // namespace dotsift::app
