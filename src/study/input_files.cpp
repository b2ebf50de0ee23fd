#include "study/input_files.hpp"

#include <algorithm>
#include <array>

#include "base/errors.hpp"
#include "base/files.hpp"

namespace dotsift {

namespace fs = std::filesystem;

namespace {

constexpr const char* copies = "inputs";

// Stand for ".." and "/" in the names of copies; brackets, so that no folder is called so by chance.
constexpr const char *above = "(above)", *root = "(root)";

}  // namespace

bool is_of_results(const fs::path& name) {
    constexpr std::array names{study_copy,    "provenance.json", "summary.json", "levels.csv",
                               "levels.md",   "report.html",     "report.pdf",   "part.png",
                               "part.svg",    "cleanup.png",     "cleanup.svg",  "failure.png",
                               "failure.svg", "charts",          "pictures",     copies};
    return std::any_of(names.begin(), names.end(), [&](const char* n) { return name == n; });
}

std::vector<fs::path> input_files(const Study& study) {
    std::vector<fs::path> files;
    const auto add = [&](const fs::path& file) {
        if (!file.empty() && std::find(files.begin(), files.end(), file) == files.end()) files.push_back(file);
    };
    for (const auto& shape : study.shapes)
        if (shape.primitive == Primitive::drawing) add(shape.drawing.file);
    for (const auto& shape : study.space_shapes)
        if (shape.primitive == SpacePrimitive::model) add(shape.file);
    for (const auto& rule : study.sizes.local) add(rule.table);
    for (const auto& series : study.series) add(series.start_mesh);
    for (const auto& file : study.table_files) add(file);
    for (const auto& file : study.material_files) add(file);
    return files;
}

bool leads_elsewhere(const fs::path& file) {
    return file.is_absolute() || std::find(file.begin(), file.end(), "..") != file.end();
}

fs::path copied_as(const fs::path& file) {
    const bool levels =
        std::any_of(file.begin(), file.end(), [](const fs::path& p) { return p.string().starts_with("level-"); });
    if (!leads_elsewhere(file) && !is_of_results(*file.lexically_normal().begin()) && !levels) return file;
    fs::path copy = copies;
    for (const auto& part : file.lexically_normal())
        copy /= part == ".." ? fs::path(above) : part == "/" ? fs::path(root) : part;
    return copy;
}

fs::path input_path(const fs::path& study, const fs::path& file) {
    const fs::path folder = study.parent_path();
    return folder / (study.filename() == study_copy ? copied_as(file) : file);
}

std::string read_input(const fs::path& study, const fs::path& file, std::size_t limit) {
    const fs::path path = input_path(study, file);
    std::error_code code;
    if (fs::exists(path, code) && !fs::is_regular_file(path, code)) {
        Place place;
        place.file = path.string();
        throw FileError("this is no ordinary file", place, "give the path of a file");
    }
    return read_file(path, limit);
}

}  // namespace dotsift
