// How soon a run answers Ctrl-C, whatever it is doing.
//     dotsift-interrupts PROGRAM DIRECTORY COUNT STUDY ...
// Runs each study once to its end, then COUNT times interrupted at moments spread evenly over that time. Told are the
// longest delays and what the program had said last; exit status 1 if one took more than a second or ended otherwise
// than with status 130.

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <string>
#include <thread>
#include <vector>

namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr double most_delay = 1;  // s

double since(Clock::time_point t) {
    return std::chrono::duration<double>(Clock::now() - t).count();
}

pid_t start(const std::string& program, const fs::path& study, const fs::path& out, const fs::path& said) {
    const pid_t child = fork();
    if (child != 0) return child;
    const int file = open(said.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
    dup2(file, 1);
    dup2(file, 2);
    execl(program.c_str(), program.c_str(), "run", study.c_str(), "-o", out.c_str(), "--replace", nullptr);
    _exit(127);
}

std::string last_words(const fs::path& said) {
    std::ifstream in(said);
    std::string line, last;
    while (std::getline(in, line))
        if (!line.empty() && line.rfind("dotsift", 0) != 0) last = line;
    return last.substr(0, 60);
}

struct Answer {
    double at, delay;
    int status;
    std::string words;
};

/// Exit status, or 128 + signal.
int status_of(int status) {
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 5) {
        fmt::print(stderr, "usage: dotsift-interrupts PROGRAM DIRECTORY COUNT STUDY ...\n");
        return 2;
    }
    const std::string program = fs::absolute(argv[1]).string();
    const fs::path directory = argv[2];
    const int count = std::stoi(argv[3]);
    fs::create_directories(directory);
    bool good = true;
    for (int k = 4; k < argc; ++k) {
        const fs::path study = argv[k], out = directory / "out", said = directory / "said";
        int status = 0;
        const auto begin = Clock::now();
        waitpid(start(program, study, out, said), &status, 0);
        const double whole = since(begin);
        std::vector<Answer> answers;
        int finished = 0;
        for (int n = 0; n < count; ++n) {
            const double at = whole * (n + 0.5) / count;
            const auto from = Clock::now();
            const pid_t child = start(program, study, out, said);
            while (since(from) < at && waitpid(child, &status, WNOHANG) == 0)
                std::this_thread::sleep_for(std::chrono::milliseconds(1));
            if (since(from) < at || kill(child, SIGINT) != 0) {  // it was done sooner than the first time
                ++finished;
                continue;
            }
            const auto asked = Clock::now();
            waitpid(child, &status, 0);
            answers.push_back({at, since(asked), status_of(status), last_words(said)});
        }
        std::sort(answers.begin(), answers.end(), [](const Answer& a, const Answer& b) { return a.delay > b.delay; });
        fmt::print("{}: {:.1f} s; {} interrupts, {} came too late\n", study.filename().string(), whole, answers.size(),
                   finished);
        for (std::size_t n = 0; n < answers.size(); ++n) {
            const Answer& a = answers[n];
            const bool ended = a.status == 0;  // the end was nearer than the interrupt
            const bool wrong = a.delay > most_delay || (a.status != 130 && !ended);
            good = good && !wrong;
            if (n < 5 || wrong)
                fmt::print("  at {:6.2f} s: answered after {:.3f} s, status {}; \"{}\"\n", a.at, a.delay, a.status,
                           a.words);
        }
    }
    fs::remove_all(directory);
    return good ? 0 : 1;
}
