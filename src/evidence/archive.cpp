#include "evidence/archive.hpp"

#include <fmt/format.h>
#include <zip.h>

#include <algorithm>
#include <fstream>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "base/errors.hpp"
#include "base/files.hpp"

namespace dotsift {

namespace fs = std::filesystem;

namespace {

// The first moment that the format knows: entries have no time of their own.
constexpr std::uint16_t no_time = 0, no_date = (1U << 5U) | 1U;
// Results are at most so many times as large as their archives; small ones may be anything.
constexpr double most_growth = 60, always_fine = 5e7;

Place place_of(const fs::path& file) {
    Place place;
    place.file = file.string();
    return place;
}

[[noreturn]] void refuse_archive(const fs::path& file, const std::string& what) {
    throw InputError(what, place_of(file),
                     "name an archive that `dotsift archive` made, and take it from a whole copy");
}

struct Closing {
    void operator()(zip_t* z) const { zip_discard(z); }
    void operator()(zip_file_t* f) const { zip_fclose(f); }
};
using Archive = std::unique_ptr<zip_t, Closing>;

std::string message_of(int code) {
    zip_error_t error;
    zip_error_init_with_code(&error, code);
    std::string text = zip_error_strerror(&error);
    zip_error_fini(&error);
    return text;
}

struct Entry {
    zip_uint64_t index = 0;
    fs::path inside;  ///< the archive's folder
    zip_uint64_t size = 0;
};

/// Below one folder, and nowhere else.
std::vector<Entry> entries_of(zip_t* archive, const fs::path& file, double most_bytes) {
    std::vector<Entry> entries;
    std::string folder;
    std::set<std::string> seen;
    double bytes = 0;
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    for (zip_uint64_t k = 0; k < static_cast<zip_uint64_t>(count); ++k) {
        zip_stat_t stat;
        if (zip_stat_index(archive, k, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_NAME) || !(stat.valid & ZIP_STAT_SIZE))
            refuse_archive(file, "the archive's list of files is damaged");
        const std::string name = stat.name;
        const fs::path path = name;
        if (name.empty() || name.back() == '/') continue;  // a folder
        const bool plain =
            std::none_of(path.begin(), path.end(), [](const fs::path& p) { return p == ".." || p == "."; });
        if (path.is_absolute() || !plain || name.find('\\') != std::string::npos)
            refuse_archive(file, fmt::format("the archive holds \"{}\", which leads elsewhere", name));
        if (!seen.insert(name).second) refuse_archive(file, fmt::format("the archive holds \"{}\" twice", name));
        const std::string top = path.begin()->string();
        if (folder.empty()) folder = top;
        if (top != folder || std::distance(path.begin(), path.end()) < 2)
            refuse_archive(file, "the archive holds more than one folder");
        bytes += static_cast<double>(stat.size);
        if (bytes > most_bytes)
            refuse_archive(file, fmt::format("the archive unpacks to more than {:.3g} GB", most_bytes / 1e9));
        entries.push_back({k, path.lexically_relative(folder), stat.size});
    }
    if (entries.empty()) refuse_archive(file, "the archive is empty");
    return entries;
}

/// Piece by piece, so that no file is held in memory whole. Its checksum is looked at when the end is reached.
void write_entry(zip_t* archive, const Entry& entry, const fs::path& file, const fs::path& target) {
    const std::unique_ptr<zip_file_t, Closing> in(zip_fopen_index(archive, entry.index, 0));
    std::ofstream out(target, std::ios::binary);
    std::vector<char> piece(1U << 16U);
    zip_uint64_t done = 0;
    zip_int64_t n = 0;
    while (in && (n = zip_fread(in.get(), piece.data(), piece.size())) > 0) {
        done += static_cast<zip_uint64_t>(n);
        if (done > entry.size) break;  // more than it says: nothing that this program packed
        out.write(piece.data(), n);
    }
    if (!in || n < 0 || done != entry.size)
        refuse_archive(file, fmt::format("\"{}\" in the archive is damaged", entry.inside.string()));
    out.flush();
    if (!out)
        throw FileError("cannot write the file", place_of(target),
                        "free some space or choose another directory with -o");
}

/// A name beside a directory that nothing has.
fs::path beside(const fs::path& directory) {
    fs::path free = directory.string() + unfinished_suffix;
    std::error_code code;
    for (int k = 2; fs::exists(fs::symlink_status(free, code)); ++k)
        free = fmt::format("{}{}{}", directory.string(), unfinished_suffix, k);
    return free;
}

/// Gone with everything in it, unless it was kept.
struct Unfinished {
    fs::path folder;
    bool kept = false;
    ~Unfinished() {
        std::error_code code;
        if (!kept) fs::remove_all(folder, code);
    }
};

}  // namespace

void pack(const fs::path& directory, const fs::path& file) {
    std::vector<fs::path> files;
    std::error_code code;
    for (fs::recursive_directory_iterator it(directory, code), end; !code && it != end; it.increment(code))
        if (it->is_regular_file(code)) files.push_back(it->path());
    if (code) throw FileError(fmt::format("the directory cannot be read: {}", code.message()), place_of(directory));
    std::sort(files.begin(), files.end());
    const std::string folder = fs::absolute(directory).lexically_normal().filename().empty()
                                   ? fs::absolute(directory).lexically_normal().parent_path().filename().string()
                                   : fs::absolute(directory).lexically_normal().filename().string();
    int trouble = 0;
    Archive archive(zip_open(file.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &trouble));
    if (!archive)
        throw FileError(fmt::format("the archive cannot be written: {}", message_of(trouble)), place_of(file));
    const auto fail = [&] {
        throw FileError(fmt::format("the archive cannot be written: {}", zip_strerror(archive.get())), place_of(file),
                        "is the disk full, or the folder closed to you?");
    };
    for (const auto& f : files) {
        std::error_code same;
        if (fs::equivalent(f, file, same)) continue;
        zip_source_t* source = zip_source_file(archive.get(), f.c_str(), 0, -1);
        if (!source) fail();
        const std::string name = (fs::path(folder) / f.lexically_relative(directory)).generic_string();
        const zip_int64_t index = zip_file_add(archive.get(), name.c_str(), source, ZIP_FL_ENC_UTF_8);
        if (index < 0) {
            zip_source_free(source);
            fail();
        }
        if (zip_file_set_dostime(archive.get(), static_cast<zip_uint64_t>(index), no_time, no_date, 0) != 0) fail();
    }
    if (zip_close(archive.get()) != 0) fail();
    (void)archive.release();  // NOLINT: closed, and gone with it
}

void unpack(const fs::path& file, const fs::path& directory, double most_bytes) {
    std::error_code code;
    if (fs::exists(directory, code) && !(fs::is_directory(directory, code) && fs::is_empty(directory, code)))
        throw InputError("the output directory is not empty", place_of(directory), "choose another directory with -o");
    int trouble = 0;
    const Archive archive(zip_open(file.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &trouble));
    if (!archive) {
        if (trouble == ZIP_ER_NOENT || trouble == ZIP_ER_OPEN || trouble == ZIP_ER_READ)
            throw FileError(fmt::format("the archive cannot be read: {}", message_of(trouble)), place_of(file));
        refuse_archive(file, fmt::format("the file is no sound archive: {}", message_of(trouble)));
    }
    const double packed = static_cast<double>(fs::file_size(file, code));
    const auto entries =
        entries_of(archive.get(), file, std::min(most_bytes, std::max(always_fine, most_growth * packed)));
    // Beside the directory, and renamed when all is there: what is damaged leaves nothing.
    fs::path whole = fs::absolute(directory).lexically_normal();
    if (whole.filename().empty()) whole = whole.parent_path();
    Unfinished unfinished{beside(whole)};
    make_directory(unfinished.folder);
    for (const auto& e : entries) {
        const fs::path target = unfinished.folder / e.inside;
        make_directory(target.parent_path());
        write_entry(archive.get(), e, file, target);
    }
    fs::remove(whole, code);  // an empty one
    fs::rename(unfinished.folder, whole, code);
    if (code) throw FileError(fmt::format("cannot rename the finished directory: {}", code.message()), place_of(whole));
    unfinished.kept = true;
}

}  // namespace dotsift
