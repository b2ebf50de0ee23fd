#include "evidence/levels/stored_result.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/levels/stored_level.hpp"
#include "evidence/output.hpp"

namespace dotsift {

namespace fs = std::filesystem;

namespace {

class Reading final : public StudyObserver {
  public:
    Reading(const fs::path& directory, const StudyAndPart& opened) : directory_(directory), opened_(opened) {}
    std::optional<Level> stored(const std::string& series, int index) override {
        return stored_level(directory_ / level_folder(series, index), opened_);
    }
    bool may_solve() override { return false; }

  private:
    const fs::path& directory_;
    const StudyAndPart& opened_;
};

}  // namespace

void refuse_result(const fs::path& file, const std::string& what, const std::string& remedy) {
    Place place;
    place.file = file.string();
    throw InputError(what, place, remedy);
}

Provenance stored_provenance(const fs::path& directory) {
    std::error_code code;
    const fs::path file = directory / provenance_file;
    if (!fs::exists(file, code)) return {};
    try {
        return provenance_from(nlohmann::ordered_json::parse(read_file(file)));
    } catch (const nlohmann::json::exception& e) {
        refuse_result(file, fmt::format("the file is damaged: {}", e.what()),
                      "remove it, or take the result from a copy");
    }
}

StudyAndPart stored_study(const fs::path& directory) {
    std::error_code code;
    const fs::path file = directory / study_copy;
    if (!fs::exists(file, code))
        refuse_result(directory, "the directory holds no result", "name a directory that `dotsift run` wrote");
    Problems problems(file.string());
    StudyAndPart opened = open_study(file.string(), read_file(file), problems);
    problems.throw_if_any();
    // What the levels were made from, as it was.
    const Provenance made = stored_provenance(directory);
    for (const auto& f : made.inputs) {
        const fs::path copy = directory / (&f == made.inputs.data() ? fs::path(study_copy) : fs::path(f.name));
        if (!fs::exists(copy, code) || sha256(read_file(copy)) == f.sha256) continue;
        refuse_result(copy, "the file was changed after the run: its SHA-256 is not the one in provenance.json",
                      "put the file back as it was, or run the study anew");
    }
    // A study without a title is called like its file, which had another name.
    const Provenance p = stored_provenance(directory);
    if (opened.study.title == file.stem().string() && !p.study.empty())
        opened.study.title = fs::path(p.study).stem().string();
    return opened;
}

void verify_levels(const fs::path& directory) {
    std::error_code code;
    for (const auto& series : fs::directory_iterator(directory, code)) {
        if (!series.is_directory(code)) continue;
        for (const auto& level : fs::directory_iterator(series.path(), code))
            if (level.path().filename().string().starts_with("level-")) verify_level(level.path());
    }
}

StoredResult stored_result(const fs::path& directory) {
    Prepared prepared;
    prepared.opened = stored_study(directory);
    // For the change of sizes and part that all levels have in common.
    if (prepared.opened.study.mesh.retry) (void)first_mesh(prepared);
    StoredResult stored{directory, std::move(prepared.opened), {}, stored_provenance(directory)};
    Reading reading(stored.directory, stored.opened);
    stored.result = run_study(stored.opened, reading);
    stored.result.failed_tries = std::move(prepared.failed);
    auto& series = stored.result.series;
    series.erase(std::remove_if(series.begin(), series.end(), [](const SeriesResult& s) { return s.levels.empty(); }),
                 series.end());
    if (series.empty())
        refuse_result(directory, "the directory holds no finished level", "run the study there with --resume");
    return stored;
}

}  // namespace dotsift
