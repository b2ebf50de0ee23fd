#include "part/facets/facet_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fstream>
#include <limits>
#include <map>
#include <string_view>

#include "base/errors.hpp"
#include "base/files.hpp"

namespace dotsift {

namespace {

constexpr std::size_t most_bytes = 400'000'000, most_facets = 1'000'000, most_corners = 500, most_groups = 1000;

[[noreturn]] void fail_file(const std::string& why) {
    throw InputError(why, {}, "write it anew where it comes from");
}

/// Words of a text, with the line on which they stand.
class Words {
  public:
    explicit Words(std::string_view text) : text_(text) {}

    /// Nothing left: empty.
    std::string_view next() {
        skip_space(true);
        return word();
    }
    /// On this line; none left there: empty.
    std::string_view next_on_line() {
        skip_space(false);
        return at_ < text_.size() && text_[at_] == '\n' ? std::string_view() : word();
    }
    std::string_view rest_of_line() {
        skip_space(false);
        const std::size_t from = at_;
        skip_line();
        std::string_view rest = text_.substr(from, at_ - from);
        while (!rest.empty() && std::isspace(static_cast<unsigned char>(rest.back()))) rest.remove_suffix(1);
        return rest;
    }
    void skip_line() {
        while (at_ < text_.size() && text_[at_] != '\n') ++at_;
    }
    double number() { return number_in(next()); }
    double number_in(std::string_view word) const {
        double value = 0;
        if (!word.empty() && word.front() == '+') word.remove_prefix(1);
        const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), value);
        if (word.empty() || code != std::errc() || end != word.data() + word.size() || !std::isfinite(value))
            fail_file(fmt::format("line {}: a number was expected, not \"{}\"", line_, word.substr(0, 30)));
        return value;
    }
    long long integer_in(std::string_view word) const {
        long long value = 0;
        const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), value);
        if (word.empty() || code != std::errc() || end != word.data() + word.size())
            fail_file(fmt::format("line {}: a whole number was expected, not \"{}\"", line_, word.substr(0, 30)));
        return value;
    }
    [[nodiscard]] std::size_t line() const { return line_; }
    [[nodiscard]] std::size_t at() const { return at_; }
    void skip_comments() { comments_ = true; }

  private:
    void skip_space(bool over_lines) {
        while (at_ < text_.size()) {
            const char c = text_[at_];
            if (c == '#' && comments_) {
                skip_line();
            } else if (c == '\\' && at_ + 1 < text_.size() && (text_[at_ + 1] == '\n' || text_[at_ + 1] == '\r')) {
                at_ += text_[at_ + 1] == '\r' && at_ + 2 < text_.size() && text_[at_ + 2] == '\n' ? 3 : 2;
                ++line_;
            } else if (c == '\n') {
                if (!over_lines) return;
                ++line_;
                ++at_;
            } else if (std::isspace(static_cast<unsigned char>(c))) {
                ++at_;
            } else {
                return;
            }
        }
    }
    std::string_view word() {
        const std::size_t from = at_;
        while (at_ < text_.size() && !std::isspace(static_cast<unsigned char>(text_[at_]))) ++at_;
        return text_.substr(from, at_ - from);
    }

    std::string_view text_;
    std::size_t at_ = 0, line_ = 1;
    bool comments_ = false;
};

bool same_word(std::string_view a, std::string_view b) {
    return a.size() == b.size() && std::equal(a.begin(), a.end(), b.begin(), [](char x, char y) {
               return std::tolower(static_cast<unsigned char>(x)) == std::tolower(static_cast<unsigned char>(y));
           });
}

class FacetReader {
  public:
    explicit FacetReader(std::string text) : text_(std::move(text)) {}

    FacetMesh stl_text() {
        Words words(text_);
        out_.groups.clear();
        while (true) {
            const std::string_view word = words.next();
            if (word.empty()) break;
            if (same_word(word, "solid")) {
                group(std::string(words.rest_of_line()));
            } else if (same_word(word, "vertex")) {
                const double x = words.number(), y = words.number(), z = words.number();
                corners_.push_back(add({{x, y, z}}));
            } else if (same_word(word, "outer")) {
                corners_.clear();
            } else if (same_word(word, "endloop")) {
                if (corners_.size() != 3)
                    fail_file(fmt::format("line {}: a facet has {} corners", words.line(), corners_.size()));
                face();
            } else if (same_word(word, "facet") || same_word(word, "endsolid")) {
                words.skip_line();
            } else if (!same_word(word, "loop") && !same_word(word, "endfacet")) {
                fail_file(fmt::format("line {}: \"{}\" is no word of an STL file", words.line(), word.substr(0, 30)));
            }
        }
        return std::move(out_);
    }

    FacetMesh stl_binary() {
        std::uint32_t count = 0;
        std::memcpy(&count, text_.data() + 80, 4);
        check_count(count);
        for (std::size_t k = 0; k < count; ++k) {
            corners_.clear();
            for (std::size_t c = 1; c < 4; ++c) {
                std::array<float, 3> x{};
                std::memcpy(x.data(), text_.data() + 84 + 50 * k + 12 * c, 12);
                corners_.push_back(add({{x[0], x[1], x[2]}}));
            }
            face();
        }
        return std::move(out_);
    }

    FacetMesh off() {
        Words words(text_);
        words.skip_comments();
        words.next();
        const long long points = words.integer_in(words.next()), faces = words.integer_in(words.next());
        words.next_on_line();  // of edges: nobody needs it
        if (points < 0 || faces < 0) fail_file("a number of points or faces is negative");
        check_count(static_cast<std::size_t>(std::max(points, faces)));
        for (long long k = 0; k < points; ++k) {
            const double x = words.number(), y = words.number(), z = words.number();
            add({{x, y, z}});
            words.skip_line();
        }
        for (long long k = 0; k < faces; ++k) {
            const long long corners = words.integer_in(words.next());
            check_corners(corners);
            corners_.clear();
            for (long long c = 0; c < corners; ++c) corners_.push_back(known(words.integer_in(words.next())));
            face();
            words.skip_line();
        }
        return std::move(out_);
    }

    FacetMesh obj() {
        Words words(text_);
        words.skip_comments();
        out_.groups.clear();
        while (true) {
            const std::string_view word = words.next();
            if (word.empty()) break;
            if (word == "v") {
                const double x = words.number_in(words.next_on_line()), y = words.number_in(words.next_on_line()),
                             z = words.number_in(words.next_on_line());
                add({{x, y, z}});
            } else if (word == "g" || word == "o") {
                std::string name(words.rest_of_line());
                if (word == "g")
                    std::replace_if(
                        name.begin(), name.end(), [](char c) { return c == ' '; }, '+');
                group(std::move(name));
                continue;
            } else if (word == "f") {
                corners_.clear();
                for (std::string_view corner = words.next_on_line(); !corner.empty(); corner = words.next_on_line()) {
                    const long long n = words.integer_in(corner.substr(0, corner.find('/')));
                    corners_.push_back(known(n > 0 ? n - 1 : static_cast<long long>(out_.points.size()) + n));
                    check_corners(static_cast<long long>(corners_.size()));
                }
                if (out_.groups.empty()) group("");
                face();
                continue;
            }
            words.skip_line();
        }
        return std::move(out_);
    }

    FacetMesh ply();

  private:
    void group(std::string name) {
        const auto known = std::find(out_.groups.begin(), out_.groups.end(), name);
        group_ = static_cast<std::int32_t>(known - out_.groups.begin());
        if (known != out_.groups.end()) return;
        if (out_.groups.size() == most_groups) fail_file(fmt::format("it has more groups than {}", most_groups));
        out_.groups.push_back(std::move(name));
    }
    std::int32_t add(const Vec3& p) {
        for (std::size_t k = 0; k < 3; ++k)
            if (!std::isfinite(p[k])) fail_file(fmt::format("point {} has no finite place", out_.points.size() + 1));
        check_count(out_.points.size() / 3);
        out_.points.push_back(p);
        return static_cast<std::int32_t>(out_.points.size()) - 1;
    }
    std::int32_t known(long long index) const {
        if (index < 0 || index >= static_cast<long long>(out_.points.size()))
            fail_file(fmt::format("face {} has a corner that is none of the {} points", out_.facets.size() + 1,
                                  out_.points.size()));
        return static_cast<std::int32_t>(index);
    }
    static void check_count(std::size_t count) {
        if (count > most_facets)
            fail_file(fmt::format("it has more facets than {}: make it coarser where it comes from", most_facets));
    }
    static void check_corners(long long count) {
        if (count < 0 || count > static_cast<long long>(most_corners))
            fail_file(fmt::format("a face has {} corners", count));
    }

    /// Ears are cut off, seen along the normal of the whole.
    void face() {
        if (out_.groups.empty()) out_.groups.emplace_back();
        auto ring = corners_;
        Vec3 normal;
        const auto at = [&](std::size_t k) { return out_.points[static_cast<std::size_t>(ring[k % ring.size()])]; };
        for (std::size_t k = 1; k + 1 < ring.size(); ++k) normal += cross(at(k) - at(0), at(k + 1) - at(0));
        std::size_t from = 0;  // where the last ear was: before it there are none
        while (ring.size() > 3) {
            std::size_t ear = ring.size();
            for (std::size_t tried = 0; tried < ring.size() && ear == ring.size(); ++tried) {
                const std::size_t k = (from + tried) % ring.size();
                const Vec3 a = at(k + ring.size() - 1), b = at(k), c = at(k + 1);
                const auto left = [&](const Vec3& p, const Vec3& q, const Vec3& r) {
                    return dot(cross(q - p, r - p), normal) > 0;
                };
                if (!left(a, b, c)) continue;
                bool clear = true;
                for (std::size_t m = 2; m + 1 < ring.size() && clear; ++m) {
                    const Vec3 p = at(k + m);
                    clear = !(left(a, b, p) && left(b, c, p) && left(c, a, p));
                }
                if (clear) ear = k;
            }
            if (ear == ring.size()) ear = 0;  // it crosses itself, or is flat: judged with the whole surface
            const std::size_t n = ring.size();
            take({ring[(ear + n - 1) % n], ring[ear], ring[(ear + 1) % n]});
            ring.erase(ring.begin() + static_cast<std::ptrdiff_t>(ear));
            from = ear > 0 ? ear - 1 : 0;
        }
        if (ring.size() == 3) take({ring[0], ring[1], ring[2]});
    }
    void take(const std::array<std::int32_t, 3>& v) {
        check_count(out_.facets.size());
        out_.facets.push_back({v, group_});
    }

    std::string text_;
    FacetMesh out_;
    std::vector<std::int32_t> corners_;
    std::int32_t group_ = 0;
};

/// A property of an element of a PLY file.
struct PlyProperty {
    std::string name, type, count_type;  ///< of lists the type of their lengths
};
struct PlyElement {
    std::string name;
    std::size_t count = 0;
    std::vector<PlyProperty> properties;
};

std::size_t bytes_of(const std::string& type) {
    static const std::map<std::string, std::size_t> known{{"char", 1},  {"uchar", 1},   {"int8", 1},   {"uint8", 1},
                                                          {"short", 2}, {"ushort", 2},  {"int16", 2},  {"uint16", 2},
                                                          {"int", 4},   {"uint", 4},    {"int32", 4},  {"uint32", 4},
                                                          {"float", 4}, {"float32", 4}, {"double", 8}, {"float64", 8}};
    const auto found = known.find(type);
    if (found == known.end()) fail_file(fmt::format("\"{}\" is no type of a PLY file", type));
    return found->second;
}

/// Values of a PLY file after its head, in text or as bytes.
class PlyValues {
  public:
    PlyValues(std::string_view body, const std::string& format)
        : body_(body), words_(body), text_(format == "ascii"), swapped_(format == "binary_big_endian") {}

    double next(const std::string& type) {
        const std::size_t bytes = bytes_of(type);
        if (text_) return words_.number();
        if (body_.size() - at_ < bytes) fail_file("it ends in the middle");
        std::array<char, 8> raw{};
        std::memcpy(raw.data(), body_.data() + at_, bytes);
        at_ += bytes;
        if (swapped_) std::reverse(raw.begin(), raw.begin() + static_cast<std::ptrdiff_t>(bytes));
        const auto as = [&](auto value) {
            std::memcpy(&value, raw.data(), sizeof value);
            return static_cast<double>(value);
        };
        if (type == "float" || type == "float32") return as(float{});
        if (type == "double" || type == "float64") return as(double{});
        const bool sign = type[0] != 'u';
        if (bytes == 1) return sign ? as(std::int8_t{}) : as(std::uint8_t{});
        if (bytes == 2) return sign ? as(std::int16_t{}) : as(std::uint16_t{});
        return sign ? as(std::int32_t{}) : as(std::uint32_t{});
    }

  private:
    std::string_view body_;
    Words words_;
    bool text_, swapped_;
    std::size_t at_ = 0;
};

FacetMesh FacetReader::ply() {
    Words head(text_);
    std::string format;
    std::vector<PlyElement> elements;
    head.next();
    while (true) {
        const std::string word(head.next());
        if (word.empty()) fail_file("its head does not end");
        if (word == "end_header") break;
        if (word == "format") {
            format = head.next_on_line();
        } else if (word == "element") {
            const std::string name(head.next_on_line());
            const long long count = head.integer_in(head.next_on_line());
            if (count < 0) fail_file("a number of elements is negative");
            check_count(static_cast<std::size_t>(count) / 4);
            elements.push_back({name, static_cast<std::size_t>(count), {}});
        } else if (word == "property") {
            if (elements.empty()) fail_file("a property stands before any element");
            PlyProperty p;
            p.type = head.next_on_line();
            if (p.type == "list") {
                p.count_type = head.next_on_line();
                p.type = head.next_on_line();
                bytes_of(p.count_type);
            }
            bytes_of(p.type);
            p.name = head.next_on_line();
            elements.back().properties.push_back(p);
        }
        head.skip_line();
    }
    head.skip_line();
    if (format != "ascii" && format != "binary_little_endian" && format != "binary_big_endian")
        fail_file(fmt::format("its format is \"{}\", not ascii, binary_little_endian or binary_big_endian", format));
    PlyValues values(std::string_view(text_).substr(std::min(head.at() + 1, text_.size())), format);
    for (const auto& element : elements) {
        for (std::size_t k = 0; k < element.count; ++k) {
            Vec3 p{{NAN, NAN, NAN}};
            bool has_face = false;
            for (const auto& property : element.properties) {
                if (property.count_type.empty()) {
                    const double v = values.next(property.type);
                    for (std::size_t a = 0; a < 3; ++a)
                        if (property.name == std::string(1, "xyz"[a])) p[a] = v;
                    continue;
                }
                const bool corners = property.name == "vertex_indices" || property.name == "vertex_index";
                const auto count = static_cast<long long>(values.next(property.count_type));
                check_corners(count);
                if (corners) corners_.clear();
                for (long long c = 0; c < count; ++c) {
                    const double v = values.next(property.type);
                    if (corners && element.name == "face") corners_.push_back(known(static_cast<long long>(v)));
                }
                has_face = has_face || corners;
            }
            if (element.name == "vertex") add(p);
            if (element.name == "face" && has_face) face();
        }
    }
    return std::move(out_);
}

std::string first_bytes(const std::filesystem::path& file, std::size_t bytes) {
    std::ifstream in(file, std::ios::binary);
    std::string text(bytes, '\0');
    in.read(text.data(), static_cast<std::streamsize>(bytes));
    text.resize(static_cast<std::size_t>(std::max<std::streamsize>(in.gcount(), 0)));
    return text;
}

std::string ending_of(const std::filesystem::path& file) {
    std::string e = file.extension().string();
    for (char& c : e) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return e;
}

bool begins_with(std::string_view text, std::string_view with) {
    return text.substr(0, with.size()) == with;
}

/// An STL file of bytes has the length that its count of facets asks for.
bool is_stl_binary(std::string_view beginning, std::uintmax_t size) {
    if (beginning.size() < 84) return false;
    std::uint32_t count = 0;
    std::memcpy(&count, beginning.data() + 80, 4);
    return size == 84 + 50 * static_cast<std::uintmax_t>(count);
}

}  // namespace

bool begins_as_shapes(const std::filesystem::path& file) {
    const std::string beginning = first_bytes(file, 512);
    return beginning.find("ISO-10303-21") != std::string::npos ||
           beginning.find("CASCADE Topology") != std::string::npos || begins_with(beginning, "DBRep_DrawableShape");
}

const char* facet_format_of(const std::filesystem::path& file) {
    std::error_code code;
    const std::uintmax_t size = std::filesystem::file_size(file, code);
    if (begins_as_shapes(file)) return nullptr;
    const std::string beginning = first_bytes(file, 512);
    if (begins_with(beginning, "ply\n") || begins_with(beginning, "ply\r")) return "PLY";
    if (is_stl_binary(beginning, size)) return "STL";
    std::string_view text = beginning;
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front()))) text.remove_prefix(1);
    if (begins_with(text, "solid")) return "STL";
    const std::string ending = ending_of(file);
    if (begins_with(text, "OFF") || (begins_with(text, "COFF") && ending == ".off")) return "OFF";
    if (ending == ".stl") return "STL";
    if (ending == ".ply") return "PLY";
    if (ending == ".off") return "OFF";
    return ending == ".obj" ? "OBJ" : nullptr;
}

FacetMesh read_facets(const std::filesystem::path& file) {
    const std::string_view format = facet_format_of(file);
    std::string text = read_file(file, most_bytes);
    const bool binary = is_stl_binary(text, text.size());
    FacetReader reader(std::move(text));
    FacetMesh out = format == "STL"   ? (binary ? reader.stl_binary() : reader.stl_text())
                    : format == "PLY" ? reader.ply()
                    : format == "OFF" ? reader.off()
                                      : reader.obj();
    if (out.facets.empty()) fail_file(fmt::format("it holds no facets, as far as it can be read as {}", format));
    return out;
}

}  // namespace dotsift
