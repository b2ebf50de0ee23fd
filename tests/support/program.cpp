#include "support/program.hpp"

#include <doctest/doctest.h>
#include <fcntl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cmath>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <iterator>

#include "support/kept_study.hpp"

namespace dotsift::test {

TemporaryFolder::TemporaryFolder() {
    std::string pattern = (std::filesystem::temp_directory_path() / "dotsift-test-XXXXXX").string();
    REQUIRE(::mkdtemp(pattern.data()) != nullptr);
    path_ = pattern;
}

TemporaryFolder::~TemporaryFolder() {
    std::error_code code;
    std::filesystem::permissions(path_, std::filesystem::perms::owner_all, code);
    std::filesystem::remove_all(path_, code);
}

std::string TemporaryFolder::file(const std::string& name, const std::string& content) const {
    if (content.starts_with("format = 1")) keep_study(content);
    std::ofstream(path_ / name, std::ios::binary) << content;
    return (path_ / name).string();
}

bool has(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

std::string content_of(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
}

Outcome run(const std::vector<std::string>& arguments, const std::filesystem::path& folder, double signal_after,
            long file_limit, const std::string& path) {
    const TemporaryFolder streams;
    const std::string out = (streams / "out").string(), err = (streams / "err").string();
    const pid_t child = ::fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        const int o = ::open(out.c_str(), O_WRONLY | O_CREAT, 0600), e = ::open(err.c_str(), O_WRONLY | O_CREAT, 0600),
                  i = ::open("/dev/null", O_RDONLY);
        ::dup2(i, 0);
        ::dup2(o, 1);
        ::dup2(e, 2);
        if (::chdir(folder.c_str()) != 0) ::_exit(99);
        if (file_limit > 0) {
            const rlimit bound{static_cast<rlim_t>(file_limit), static_cast<rlim_t>(file_limit)};
            ::setrlimit(RLIMIT_FSIZE, &bound);
        }
        if (!path.empty()) ::setenv("PATH", path.c_str(), 1);
        std::vector<char*> argv{const_cast<char*>("dotsift")};
        for (const auto& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
        argv.push_back(nullptr);
        ::execv(DOTSIFT_PROGRAM, argv.data());
        ::_exit(98);
    }
    if (signal_after != 0) {
        ::usleep(static_cast<useconds_t>(std::fabs(signal_after) * 1e6));
        ::kill(child, signal_after > 0 ? SIGINT : SIGKILL);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), content_of(out), content_of(err)};
}

std::string small_study(const std::string& extra) {
    return "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [60, "
           "20]\nnames = { left = \"wall\", right = \"end\" }\n"
           "[[part.shape]]\ncut = \"circle\"\ncentre = [30, 10]\nradius = 4\nname = "
           "\"hole\"\n[material.steel]\nyoungs_modulus = \"205 GPa\"\npoissons_ratio = 0.3\n"
           "[support.wall]\non = \"wall\"\nhold = \"fixed\"\n[load.pull]\non = \"end\"\nforce = [1000, "
           "0]\n[size]\nglobal = 6\nsegments_per_circle = 32\n"
           "[quantity.peak]\nof = \"von_mises\"\non = \"hole\"\ntarget = \"30 %\"\n" +
           extra;
}

}  // namespace dotsift::test
