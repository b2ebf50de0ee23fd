#include "base/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <iterator>

#include "base/errors.hpp"

namespace dotsift {

namespace {

Place at(const std::filesystem::path& path) {
    Place place;
    place.file = path.string();
    return place;
}

}  // namespace

std::string read_file(const std::filesystem::path& path, std::size_t limit) {
    std::error_code code;
    const auto status = std::filesystem::status(path, code);
    if (!std::filesystem::exists(status)) throw FileError("the file does not exist", at(path), "check the path");
    if (std::filesystem::is_directory(status))
        throw FileError("this is a directory, not a file", at(path), "give the path of a file");
    std::ifstream in(path, std::ios::binary);
    if (!in) throw FileError(fmt::format("cannot open the file: {}", std::strerror(errno)), at(path));
    std::string content;
    char buffer[1 << 16];
    while (in.read(buffer, sizeof buffer) || in.gcount() > 0) {
        content.append(buffer, static_cast<std::size_t>(in.gcount()));
        if (content.size() > limit)
            throw FileError(fmt::format("the file is larger than {} bytes", limit), at(path), "is it the right file?");
    }
    if (in.bad()) throw FileError("cannot read the file to its end", at(path));
    return content;
}

void write_file(const std::filesystem::path& path, std::string_view content) {
    const std::filesystem::path temporary = path.string() + unfinished_suffix;
    const auto fail = [&](const char* doing, int descriptor) {
        const int reason = errno;
        if (descriptor >= 0) ::close(descriptor);
        ::unlink(temporary.c_str());
        throw FileError(fmt::format("cannot {}: {}", doing, std::strerror(reason)), at(path),
                        "free some space or choose another directory with -o");
    };
    const int descriptor = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666);
    if (descriptor < 0) fail("create the file", -1);
    std::size_t done = 0;
    while (done < content.size()) {
        const ssize_t n = ::write(descriptor, content.data() + done, content.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail("write the file", descriptor);
        done += static_cast<std::size_t>(n);
    }
    if (::fsync(descriptor) != 0 && errno != EINVAL) fail("flush the file", descriptor);
    if (::close(descriptor) != 0) fail("close the file", -1);
    if (::rename(temporary.c_str(), path.c_str()) != 0) fail("rename the finished file", -1);
}

void make_directory(const std::filesystem::path& path) {
    std::error_code code;
    std::filesystem::create_directories(path, code);
    if (code || !std::filesystem::is_directory(path))
        throw FileError(fmt::format("cannot create the directory: {}", code ? code.message() : "a file is in the way"),
                        at(path), "choose another directory with -o");
}

}  // namespace dotsift
