#include "evidence/levels/vtu_file.hpp"

#include <fmt/format.h>
#include <lz4.h>
#include <zlib.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstring>

namespace dotsift {

namespace {

constexpr std::uint64_t most_compression = 1100;  // zlib reaches about 1032

std::string from_base64(std::string_view text) {
    static const auto value = [] {
        std::array<int, 256> table{};
        table.fill(-1);
        const std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
        for (std::size_t i = 0; i < letters.size(); ++i)
            table[static_cast<unsigned char>(letters[i])] = static_cast<int>(i);
        return table;
    }();
    std::string out;
    std::uint32_t bits = 0;
    int count = 0;
    for (const char c : text) {
        if (c == '=') {  // the end of one block; another may follow
            bits = 0;
            count = 0;
            continue;
        }
        const int v = value[static_cast<unsigned char>(c)];
        if (v < 0) {
            if (c == ' ' || c == '\n' || c == '\r' || c == '\t') continue;
            refuse("a letter that base64 does not have");
        }
        bits = bits << 6U | static_cast<std::uint32_t>(v);
        count += 6;
        if (count >= 8) {
            count -= 8;
            out += static_cast<char>(bits >> static_cast<unsigned>(count) & 0xFFU);
        }
    }
    return out;
}

std::vector<double> ascii(std::string_view text) {
    std::vector<double> out;
    const char *at = text.data(), *end = at + text.size();
    while (at < end) {
        if (std::isspace(static_cast<unsigned char>(*at))) {
            ++at;
            continue;
        }
        double v = 0;
        const auto [next, error] = std::from_chars(at, end, v);
        if (error != std::errc() || next == at) refuse("an array holds something that is no number");
        out.push_back(v);
        at = next;
    }
    return out;
}

template <class T>
std::vector<double> as(const std::string& bytes, bool swapped) {
    std::vector<double> out(bytes.size() / sizeof(T));
    std::array<char, sizeof(T)> own{};
    for (std::size_t i = 0; i < out.size(); ++i) {
        std::memcpy(own.data(), bytes.data() + i * sizeof(T), sizeof(T));
        if (swapped) std::reverse(own.begin(), own.end());
        T v{};
        std::memcpy(&v, own.data(), sizeof(T));
        out[i] = static_cast<double>(v);
    }
    return out;
}

}  // namespace

void refuse(const std::string& what) {
    throw VtuFault{what};
}

VtuFile::VtuFile(const std::string& text) {
    const std::size_t appended = text.find("<AppendedData");
    std::string head = text.substr(0, appended);
    if (appended != std::string::npos) {
        head += "</VTKFile>";
        const std::size_t end_of_tag = text.find('>', appended);
        const std::size_t mark = text.find('_', end_of_tag == std::string::npos ? appended : end_of_tag);
        const std::size_t end = text.rfind("</AppendedData");
        if (mark == std::string::npos || end == std::string::npos || end < mark)
            refuse("its appended data have no beginning or end");
        const std::string_view tag(text.data() + appended, end_of_tag - appended);
        base64_ = tag.find("base64") != std::string_view::npos;
        data_ = std::string_view(text).substr(mark + 1, end - mark - 1);
    }
    const auto parsed = document_.load_buffer(head.data(), head.size());
    if (!parsed) refuse(fmt::format("its XML is broken ({})", parsed.description()));
    const auto root = document_.child("VTKFile");
    if (!root || std::string_view(root.attribute("type").value()) != "UnstructuredGrid")
        refuse("it holds no UnstructuredGrid");
    const std::string_view order = root.attribute("byte_order").as_string("LittleEndian");
    if (order != "LittleEndian" && order != "BigEndian") refuse(fmt::format("its byte order is \"{}\"", order));
    big_endian_ = order == "BigEndian";
    wide_header_ = std::string_view(root.attribute("header_type").as_string("UInt32")) == "UInt64";
    const std::string_view compressor = root.attribute("compressor").value();
    lz4_ = compressor == "vtkLZ4DataCompressor";
    if (!compressor.empty() && !lz4_ && compressor != "vtkZLibDataCompressor")
        refuse(
            fmt::format("its compressor is {}; known are vtkZLibDataCompressor and vtkLZ4DataCompressor", compressor));
    compressed_ = !compressor.empty();
    grid_ = root.child("UnstructuredGrid");
    if (!grid_.child("Piece")) refuse("it has no Piece");
}

std::vector<double> VtuFile::numbers(const pugi::xml_node& array) const {
    const std::string_view format = array.attribute("format").as_string("ascii");
    if (format == "ascii") return ascii(array.text().get());
    const std::string bytes = format == "binary" ? block(from_base64(array.text().get())) : appended(array);
    const std::string_view type = array.attribute("type").value();
    if (type == "Float64") return as<double>(bytes, big_endian_);
    if (type == "Float32") return as<float>(bytes, big_endian_);
    if (type == "Int64") return as<std::int64_t>(bytes, big_endian_);
    if (type == "UInt64") return as<std::uint64_t>(bytes, big_endian_);
    if (type == "Int32") return as<std::int32_t>(bytes, big_endian_);
    if (type == "UInt32") return as<std::uint32_t>(bytes, big_endian_);
    if (type == "Int16") return as<std::int16_t>(bytes, big_endian_);
    if (type == "UInt16") return as<std::uint16_t>(bytes, big_endian_);
    if (type == "Int8") return as<std::int8_t>(bytes, big_endian_);
    if (type == "UInt8") return as<std::uint8_t>(bytes, big_endian_);
    refuse(fmt::format("the array \"{}\" has the unknown type \"{}\"", array.attribute("Name").value(), type));
}

std::string VtuFile::appended(const pugi::xml_node& array) const {
    const auto offset = array.attribute("offset").as_ullong(~0ULL);
    if (offset >= data_.size()) refuse("an array begins beyond the end of the file");
    const std::string_view rest = data_.substr(offset);
    return base64_ ? block(from_base64(rest)) : block(rest);
}

std::uint64_t VtuFile::header(std::string_view bytes, std::size_t index) const {
    const std::size_t width = wide_header_ ? 8 : 4;
    if (bytes.size() < (index + 1) * width) refuse("an array is cut off");
    std::array<char, 8> own{};
    std::memcpy(own.data(), bytes.data() + index * width, width);
    if (big_endian_) std::reverse(own.begin(), own.begin() + static_cast<std::ptrdiff_t>(width));
    std::uint64_t v = 0;
    std::memcpy(&v, own.data(), own.size());
    return v;
}

std::string VtuFile::block(std::string_view bytes) const {
    const std::size_t width = wide_header_ ? 8 : 4;
    if (!compressed_) {
        const std::uint64_t size = header(bytes, 0);
        if (size > bytes.size() - width) refuse("an array is cut off");
        return std::string(bytes.substr(width, size));
    }
    const std::uint64_t blocks = header(bytes, 0), usual = header(bytes, 1), last = header(bytes, 2);
    if (blocks == 0) return {};
    if (blocks > bytes.size() / width) refuse("an array claims more blocks than the file has");
    std::size_t at = (3 + blocks) * width;
    std::string out;
    for (std::uint64_t b = 0; b < blocks; ++b) {
        const std::uint64_t packed = header(bytes, 3 + b);
        const std::uint64_t size = b + 1 == blocks && last != 0 ? last : usual;
        if (at > bytes.size() || packed > bytes.size() - at) refuse("an array is cut off");
        if (size > most_compression * (packed + 64)) refuse("an array claims to be larger than can be");
        const std::size_t begin = out.size();
        out.resize(begin + size);
        uLongf length = size;
        const bool good = lz4_
                              ? packed <= LZ4_MAX_INPUT_SIZE && size <= LZ4_MAX_INPUT_SIZE &&
                                    LZ4_decompress_safe(bytes.data() + at, out.data() + begin, static_cast<int>(packed),
                                                        static_cast<int>(size)) == static_cast<int>(size)
                              : uncompress(reinterpret_cast<Bytef*>(out.data() + begin), &length,
                                           reinterpret_cast<const Bytef*>(bytes.data() + at), packed) == Z_OK &&
                                    length == size;
        if (!good) refuse("compressed data are damaged");
        at += packed;
    }
    return out;
}

/// A whole number that can be an index below `bound`.
std::size_t index_of(double v, std::size_t bound, const char* what) {
    if (!(v >= 0) || v >= static_cast<double>(bound) || v != std::floor(v))
        refuse(fmt::format("{} is out of range", what));
    return static_cast<std::size_t>(v);
}

}  // namespace dotsift
