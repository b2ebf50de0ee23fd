// Mutated studies through the real program: whatever is written in a study, it is answered within time and memory.
//     dotsift-fuzz-studies PROGRAM DIRECTORY COUNT SEED STUDY ...
// Each mutation goes through one of check, mesh and run, with 2 GB of address space and 120 s of processor time. A
// crash, a status that the README does not list, an "unexpected" and a time-out are told, and the study stays in
// DIRECTORY.

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <map>
#include <random>
#include <sstream>
#include <string>
#include <thread>
#include <vector>

namespace {

namespace fs = std::filesystem;
using Random = std::mt19937;

constexpr rlim_t most_processor_seconds = 120;
constexpr int most_seconds = 1200;  // of waiting, for what does nothing
constexpr rlim_t most_bytes = 2'000'000'000;

std::string content(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

std::size_t any(Random& random, std::size_t n) {
    return std::uniform_int_distribution<std::size_t>(0, n - 1)(random);
}

/// Where the numbers of a text stand, as positions and lengths.
std::vector<std::pair<std::size_t, std::size_t>> numbers_of(const std::string& text) {
    std::vector<std::pair<std::size_t, std::size_t>> out;
    for (std::size_t k = 0; k < text.size();) {
        std::size_t end = k;
        while (end < text.size() && (std::isdigit(static_cast<unsigned char>(text[end])) || text[end] == '.')) ++end;
        if (end > k) out.emplace_back(k, end - k);
        k = std::max(end, k + 1);
    }
    return out;
}

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) out.push_back(line);
    return out;
}

std::string joined(const std::vector<std::string>& lines) {
    std::string out;
    for (const auto& l : lines) out += l + "\n";
    return out;
}

/// One fault such as fingers make, or worse.
std::string mutated(std::string text, Random& random) {
    static const std::array<const char*, 22> values{
        "0",     "-1",   "1e-9", "1e9", "1e-300", "1e300", "nan",    "inf",    "0.5",  "2",     "7.0",
        "\"x\"", "\"\"", "true", "[]",  "{}",     "1e160", "5e-324", "100000", "3e-6", "1e999", "99999999999999999999"};
    const auto numbers = numbers_of(text);
    switch (any(random, 7)) {
        case 0:
        case 1: {  // a number becomes another one
            if (numbers.empty()) break;
            const auto [at, length] = numbers[any(random, numbers.size())];
            return text.replace(at, length, values[any(random, values.size())]);
        }
        case 2: {  // a digit, a point or a sign too many or too few
            if (numbers.empty()) break;
            const auto [at, length] = numbers[any(random, numbers.size())];
            static const std::string more = "0123456789.-,e";
            if (any(random, 2)) return text.insert(at + any(random, length), 1, more[any(random, more.size())]);
            return text.erase(at + any(random, length), 1);
        }
        case 3: {  // a line less, twice, or elsewhere
            auto lines = lines_of(text);
            if (lines.size() < 2) break;
            const std::size_t from = any(random, lines.size()), to = any(random, lines.size());
            const std::size_t how = any(random, 3);
            if (how == 0) lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(from));
            if (how == 1) lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(to), lines[from]);
            if (how == 2) std::swap(lines[from], lines[to]);
            return joined(lines);
        }
        case 4: {  // the value of one key for another
            auto lines = lines_of(text);
            const std::size_t a = any(random, lines.size()), b = any(random, lines.size());
            const auto ea = lines[a].find('='), eb = lines[b].find('=');
            if (ea == std::string::npos || eb == std::string::npos) break;
            lines[a] = lines[a].substr(0, ea) + lines[b].substr(eb);
            return joined(lines);
        }
        case 5:  // a byte becomes another one
            text[any(random, text.size())] = static_cast<char>(any(random, 256));
            return text;
        default: {  // a piece is lost
            const std::size_t at = any(random, text.size());
            return text.erase(at, 1 + any(random, 30));
        }
    }
    text[any(random, text.size())] = '\'';
    return text;
}

/// The status of a command, or minus the signal that ended it; 1000 if it did not end in time.
int status_of(const std::vector<std::string>& command, const fs::path& said) {
    const pid_t child = fork();
    if (child == 0) {
        const rlimit room{most_bytes, most_bytes};
        setrlimit(RLIMIT_AS, &room);
        const rlimit time{most_processor_seconds, most_processor_seconds};
        setrlimit(RLIMIT_CPU, &time);
        const int file = open(said.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
        dup2(file, 1);
        dup2(file, 2);
        std::vector<char*> words;
        for (const auto& w : command) words.push_back(const_cast<char*>(w.c_str()));
        words.push_back(nullptr);
        execv(words[0], words.data());
        _exit(127);
    }
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(most_seconds);
    int status = 0;
    while (waitpid(child, &status, WNOHANG) == 0) {
        if (std::chrono::steady_clock::now() > end) {
            kill(child, SIGKILL);
            waitpid(child, &status, 0);
            return 1000;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 6) {
        fmt::print(stderr, "usage: dotsift-fuzz-studies PROGRAM DIRECTORY COUNT SEED STUDY ...\n");
        return 2;
    }
    const std::string program = fs::absolute(argv[1]).string();
    const fs::path directory = argv[2];
    const unsigned long count = std::stoul(argv[3]);
    Random random(static_cast<unsigned>(std::stoul(argv[4])));
    std::vector<fs::path> studies;
    for (int k = 5; k < argc; ++k) studies.push_back(fs::absolute(argv[k]));
    fs::create_directories(directory);
    std::map<int, unsigned long> statuses;
    unsigned long bad = 0;
    for (unsigned long k = 0; k < count; ++k) {
        const fs::path& from = studies[any(random, studies.size())];
        std::string text = content(from);
        for (std::size_t n = 1 + any(random, 2); n > 0 && !text.empty(); --n) text = mutated(text, random);
        const fs::path work = directory / fmt::format("{}", k);
        fs::create_directories(work);
        // What the study refers to lies beside it.
        for (const auto& beside : fs::directory_iterator(from.parent_path()))
            if (beside.path().extension() != ".toml") fs::copy(beside, work, fs::copy_options::recursive);
        std::ofstream(work / "study.toml", std::ios::binary) << text;
        static const std::array<const char*, 3> verbs{"check", "mesh", "run"};
        const std::string verb = verbs[any(random, verbs.size())];
        std::vector<std::string> command{program, verb, (work / "study.toml").string()};
        if (verb != "check") command.insert(command.end(), {"-o", (work / "out").string()});
        const int status = status_of(command, work / "said");
        ++statuses[status];
        const bool wrong = status < 0 || status > 4 || content(work / "said").find("unexpected:") != std::string::npos;
        if (wrong) {
            ++bad;
            fmt::print("{} {} {}: status {}\n", k, from.filename().string(), verb, status);
            std::fflush(stdout);
            fs::remove_all(work / "out");
        } else {
            fs::remove_all(work);
        }
    }
    for (const auto& [status, n] : statuses) fmt::print("status {}: {}\n", status, n);
    fmt::print("{} of {} wrong\n", bad, count);
    return bad ? 1 : 0;
}
