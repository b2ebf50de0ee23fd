#pragma once
// Where a result comes from: what went in, what made it, on which machine, when.

#include <filesystem>
#include <nlohmann/json.hpp>
#include <string>
#include <utility>
#include <vector>

#include "study/study.hpp"

namespace dotsift {

struct InputFile {
    std::string name, sha256;
};

struct Provenance {
    std::string study;               ///< the study file's name
    std::vector<InputFile> inputs;   ///< the study first, then the files that it names
    std::string program, libraries;  ///< with their versions
    std::string machine, system;     ///< processor, threads and memory; operating system
    std::string started, finished;   ///< UTC, ISO 8601; empty: unknown
    std::string command;             ///< that repeats it
};

/// SHA-256 in hexadecimal digits.
std::string sha256(const std::string& bytes);

/// "2026-11-26T09:04:31Z"
std::string utc_now();

/// All libraries with their versions; `solver` are those that the core does not see.
std::string library_versions(const std::string& solver);

/// Of a run that begins now. `libraries` are those that the core does not see.
Provenance provenance_now(const Study& study, const std::string& libraries);

/// What a report tells of it: names and texts, in order; what is unknown is left out.
std::vector<std::pair<std::string, std::string>> provenance_items(const Provenance& p);

nlohmann::ordered_json provenance_json(const Provenance& p);
Provenance provenance_from(const nlohmann::ordered_json& j);

}  // namespace dotsift
