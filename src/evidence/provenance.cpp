#include "evidence/provenance.hpp"

#include <cairo.h>
#include <fmt/format.h>
#include <nettle/sha2.h>
#include <sys/utsname.h>
#include <unistd.h>
#include <zlib.h>

#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <ctime>
#include <fstream>
#include <thread>

#include "study/input_files.hpp"

namespace dotsift {

using nlohmann::ordered_json;

namespace {

std::string processor() {
    std::ifstream info("/proc/cpuinfo");
    for (std::string line; std::getline(info, line);)
        if (line.rfind("model name", 0) == 0)
            if (const auto at = line.find(": "); at != std::string::npos) return line.substr(at + 2);
    return "unknown processor";
}

double memory_bytes() {
    return static_cast<double>(::sysconf(_SC_PHYS_PAGES)) * static_cast<double>(::sysconf(_SC_PAGESIZE));
}

std::string system_name() {
    utsname name{};
    return ::uname(&name) == 0 ? fmt::format("{} {} {}", name.sysname, name.release, name.machine) : "";
}

}  // namespace

std::string sha256(const std::string& bytes) {
    sha256_ctx context;
    sha256_init(&context);
    sha256_update(&context, bytes.size(), reinterpret_cast<const std::uint8_t*>(bytes.data()));
    std::array<std::uint8_t, SHA256_DIGEST_SIZE> digest{};
    sha256_digest(&context, digest.size(), digest.data());
    std::string text;
    for (const auto b : digest) text += fmt::format("{:02x}", b);
    return text;
}

std::string utc_now() {
    const std::time_t now = std::time(nullptr);
    std::tm parts{};
    ::gmtime_r(&now, &parts);
    std::array<char, 32> text{};
    std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
    return text.data();
}

std::string library_versions(const std::string& solver) {
    return fmt::format("{}{}Eigen {}.{}.{}, fmt {}.{}.{}, Cairo {}, zlib {}", solver, solver.empty() ? "" : ", ",
                       EIGEN_WORLD_VERSION, EIGEN_MAJOR_VERSION, EIGEN_MINOR_VERSION, FMT_VERSION / 10000,
                       FMT_VERSION / 100 % 100, FMT_VERSION % 100, cairo_version_string(), zlibVersion());
}

Provenance provenance_now(const Study& study, const std::string& libraries) {
    Provenance p;
    p.study = study.path.filename().string();
    p.inputs.push_back({p.study, sha256(study.source)});
    for (const auto& file : input_files(study))
        p.inputs.push_back({copied_as(file).string(), sha256(read_input(study.path, file))});
    p.program = "dotsift " DOTSIFT_VERSION;
    p.libraries = library_versions(libraries);
    p.machine = fmt::format("{}, {} threads, {:.0f} GB", processor(), std::thread::hardware_concurrency(),
                            memory_bytes() / 1e9);
    p.system = system_name();
    p.started = utc_now();
    p.command = fmt::format("dotsift run {} -o DIRECTORY", p.study);
    return p;
}

std::vector<std::pair<std::string, std::string>> provenance_items(const Provenance& p) {
    std::vector<std::pair<std::string, std::string>> items;
    const auto add = [&](const char* name, const std::string& text) {
        if (!text.empty()) items.emplace_back(name, text);
    };
    for (const auto& f : p.inputs) add("input", fmt::format("{}, SHA-256 {}", f.name, f.sha256));
    add("program", p.program);
    add("libraries", p.libraries);
    add("machine", p.machine);
    add("system", p.system);
    add("started", p.started);
    add("finished", p.finished);
    add("to repeat it", p.command);
    return items;
}

ordered_json provenance_json(const Provenance& p) {
    ordered_json j{{"format", 1},          {"study", p.study},   {"program", p.program}, {"libraries", p.libraries},
                   {"machine", p.machine}, {"system", p.system}, {"started", p.started}, {"finished", p.finished},
                   {"command", p.command}};
    for (const auto& f : p.inputs) j["inputs"].push_back({{"name", f.name}, {"sha256", f.sha256}});
    return j;
}

Provenance provenance_from(const ordered_json& j) {
    Provenance p;
    p.study = j.at("study");
    p.program = j.at("program");
    p.libraries = j.at("libraries");
    p.machine = j.at("machine");
    p.system = j.at("system");
    p.started = j.at("started");
    p.finished = j.at("finished");
    p.command = j.at("command");
    for (const auto& f : j.at("inputs")) p.inputs.push_back({f.at("name"), f.at("sha256")});
    return p;
}

}  // namespace dotsift
