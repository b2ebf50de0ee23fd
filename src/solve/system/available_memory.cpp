#include "solve/system/available_memory.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <string>

namespace dotsift {

namespace {

namespace fs = std::filesystem;

/// The number behind a key, as in "MemAvailable: 12 kB"; negative: there is none.
double value_of(const fs::path& file, const std::string& key) {
    std::ifstream in(file);
    std::string line;
    while (std::getline(in, line))
        if (line.compare(0, key.size(), key) == 0 && line.size() > key.size() &&
            (line[key.size()] == ' ' || line[key.size()] == ':'))
            return std::strtod(line.c_str() + key.size() + 1, nullptr);
    return -1;
}

/// A file that holds one number; negative: none, as "max".
double number_in(const fs::path& file) {
    std::ifstream in(file);
    double value = -1;
    return in >> value ? value : -1;
}

/// What a group and those round it leave. Their files differ in name with the version of the system.
double left_in(const fs::path& top, const fs::path& group, const char* limit, const char* usage, const char* files) {
    double least = INFINITY;
    fs::path at = group.relative_path();
    for (;;) {
        const fs::path directory = top / at;
        const double most = number_in(directory / limit), used = number_in(directory / usage);
        if (most >= 0 && used >= 0)
            least = std::min(least, most - used + std::max(0.0, value_of(directory / "memory.stat", files)));
        if (at.empty() || at == at.parent_path()) return std::max(least, 0.0);
        at = at.parent_path();
    }
}

}  // namespace

double available_memory(const fs::path& root) {
    double least = INFINITY;
    if (const double kilobytes = value_of(root / "proc/meminfo", "MemAvailable"); kilobytes >= 0)
        least = kilobytes * 1024;
    const fs::path groups = root / "sys/fs/cgroup";
    std::ifstream in(root / "proc/self/cgroup");
    for (std::string line; std::getline(in, line);) {  // number:controllers:path
        const auto first = line.find(':'), second = line.find(':', first + 1);
        if (first == std::string::npos || second == std::string::npos) continue;
        const std::string controllers = "," + line.substr(first + 1, second - first - 1) + ",";
        const std::string path = line.substr(second + 1);
        if (controllers == ",,")
            least = std::min(least, left_in(groups, path, "memory.max", "memory.current", "inactive_file"));
        else if (controllers.find(",memory,") != std::string::npos)
            least = std::min(least, left_in(groups / "memory", path, "memory.limit_in_bytes", "memory.usage_in_bytes",
                                            "total_inactive_file"));
    }
    return least;
}

}  // namespace dotsift
