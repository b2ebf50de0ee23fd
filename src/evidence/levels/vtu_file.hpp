#pragma once
// The arrays of a VTU file (VTK XML unstructured grid): ASCII, base64 or appended, plain or compressed by
// zlib or LZ4, of either byte order.

#include <cstdint>
#include <pugixml.hpp>
#include <string>
#include <string_view>
#include <vector>

namespace dotsift {

/// What is wrong with the file, for a message that names it.
struct VtuFault {
    std::string what;
};

/// Throws VtuFault.
[[noreturn]] void refuse(const std::string& what);

/// Nothing in a file makes it read or allocate beyond the file's own size times the largest possible compression.
/// Everything throws VtuFault.
class VtuFile {
  public:
    /// The text must outlive it.
    explicit VtuFile(const std::string& text);

    /// Has a Piece.
    [[nodiscard]] pugi::xml_node grid() const { return grid_; }
    /// All numbers of an array, whatever their type.
    [[nodiscard]] std::vector<double> numbers(const pugi::xml_node& array) const;

  private:
    [[nodiscard]] std::string appended(const pugi::xml_node& array) const;
    [[nodiscard]] std::uint64_t header(std::string_view bytes, std::size_t index) const;
    [[nodiscard]] std::string block(std::string_view bytes) const;

    pugi::xml_document document_;
    pugi::xml_node grid_;
    std::string_view data_;
    bool base64_ = false, wide_header_ = false, compressed_ = false, lz4_ = false, big_endian_ = false;
};

/// A whole number that can be an index below `bound`.
std::size_t index_of(double v, std::size_t bound, const char* what);

}  // namespace dotsift
