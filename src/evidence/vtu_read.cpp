#include "evidence/vtu_read.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <map>
#include <pugixml.hpp>

#include "base/errors.hpp"
#include "base/files.hpp"

namespace dotsift {

namespace {

constexpr std::uint64_t most_compression = 1100;  // zlib reaches about 1032

struct Fault {
    std::string what;
};

[[noreturn]] void refuse(const std::string& what) {
    throw Fault{what};
}

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

class VtuFile {
  public:
    explicit VtuFile(const std::string& text) {
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
        if (std::string_view(root.attribute("byte_order").as_string("LittleEndian")) != "LittleEndian")
            refuse("its byte order is not LittleEndian");
        wide_header_ = std::string_view(root.attribute("header_type").as_string("UInt32")) == "UInt64";
        const std::string_view compressor = root.attribute("compressor").value();
        if (!compressor.empty() && compressor != "vtkZLibDataCompressor")
            refuse(fmt::format("its compressor is {}, and only vtkZLibDataCompressor is known", compressor));
        compressed_ = !compressor.empty();
        piece_ = root.child("UnstructuredGrid").child("Piece");
        if (!piece_) refuse("it has no Piece");
        if (piece_.next_sibling("Piece")) refuse("it has more than one Piece");
    }

    [[nodiscard]] pugi::xml_node piece() const { return piece_; }

    /// All numbers of an array, whatever their type.
    [[nodiscard]] std::vector<double> numbers(const pugi::xml_node& array) const {
        const std::string_view format = array.attribute("format").as_string("ascii");
        if (format == "ascii") return ascii(array.text().get());
        const std::string bytes = format == "binary" ? block(from_base64(array.text().get())) : appended(array);
        const std::string_view type = array.attribute("type").value();
        if (type == "Float64") return as<double>(bytes);
        if (type == "Float32") return as<float>(bytes);
        if (type == "Int64") return as<std::int64_t>(bytes);
        if (type == "UInt64") return as<std::uint64_t>(bytes);
        if (type == "Int32") return as<std::int32_t>(bytes);
        if (type == "UInt32") return as<std::uint32_t>(bytes);
        if (type == "Int16") return as<std::int16_t>(bytes);
        if (type == "UInt16") return as<std::uint16_t>(bytes);
        if (type == "Int8") return as<std::int8_t>(bytes);
        if (type == "UInt8") return as<std::uint8_t>(bytes);
        refuse(fmt::format("the array \"{}\" has the unknown type \"{}\"", array.attribute("Name").value(), type));
    }

  private:
    static std::vector<double> ascii(std::string_view text) {
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
    static std::vector<double> as(const std::string& bytes) {
        std::vector<double> out(bytes.size() / sizeof(T));
        for (std::size_t i = 0; i < out.size(); ++i) {
            T v{};
            std::memcpy(&v, bytes.data() + i * sizeof(T), sizeof(T));
            out[i] = static_cast<double>(v);
        }
        return out;
    }

    [[nodiscard]] std::string appended(const pugi::xml_node& array) const {
        const auto offset = array.attribute("offset").as_ullong(~0ULL);
        if (offset >= data_.size()) refuse("an array begins beyond the end of the file");
        const std::string_view rest = data_.substr(offset);
        return block(base64_ ? from_base64(rest) : std::string(rest));
    }

    [[nodiscard]] std::uint64_t header(std::string_view bytes, std::size_t index) const {
        const std::size_t width = wide_header_ ? 8 : 4;
        if (bytes.size() < (index + 1) * width) refuse("an array is cut off");
        std::uint64_t v = 0;
        std::memcpy(&v, bytes.data() + index * width, width);
        return v;
    }

    [[nodiscard]] std::string block(const std::string& bytes) const {
        const std::size_t width = wide_header_ ? 8 : 4;
        if (!compressed_) {
            const std::uint64_t size = header(bytes, 0);
            if (size > bytes.size() - width) refuse("an array is cut off");
            return bytes.substr(width, size);
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
            if (uncompress(reinterpret_cast<Bytef*>(out.data() + begin), &length,
                           reinterpret_cast<const Bytef*>(bytes.data() + at), packed) != Z_OK ||
                length != size)
                refuse("compressed data are damaged");
            at += packed;
        }
        return out;
    }

    pugi::xml_document document_;
    pugi::xml_node piece_;
    std::string_view data_;
    bool base64_ = false, wide_header_ = false, compressed_ = false;
};

pugi::xml_node array_named(const pugi::xml_node& parent, const char* name) {
    for (const auto& a : parent.children("DataArray"))
        if (std::string_view(a.attribute("Name").value()) == name) return a;
    return {};
}

/// A whole number that can be an index below `bound`.
std::size_t index_of(double v, std::size_t bound, const char* what) {
    if (!(v >= 0) || v >= static_cast<double>(bound) || v != std::floor(v))
        refuse(fmt::format("{} is out of range", what));
    return static_cast<std::size_t>(v);
}

/// Names behind a prefix, with their values.
std::vector<std::pair<std::string, std::vector<double>>> named_arrays(const VtuFile& file, const pugi::xml_node& parent,
                                                                      const std::string& prefix, std::size_t count) {
    std::vector<std::pair<std::string, std::vector<double>>> out;
    for (const auto& a : parent.children("DataArray")) {
        const std::string name = a.attribute("Name").value();
        if (name.rfind(prefix, 0) != 0) continue;
        out.emplace_back(name.substr(prefix.size()), file.numbers(a));
        if (out.back().second.size() != count) refuse(fmt::format("the array \"{}\" has the wrong length", name));
    }
    return out;
}

class MeshReader {
  public:
    explicit MeshReader(const VtuFile& file) : file_(file) {}

    MeshFile read() {
        read_points();
        read_cells();
        read_names();
        number_slots(out_.mesh);
        return std::move(out_);
    }

  private:
    void read_points() {
        const auto array = file_.piece().child("Points").child("DataArray");
        if (!array) refuse("it has no points");
        const auto v = file_.numbers(array);
        if (v.empty() || v.size() % 3 != 0) refuse("its points are not given by three numbers each");
        for (std::size_t i = 0; i < v.size(); i += 3) {
            if (!std::isfinite(v[i]) || !std::isfinite(v[i + 1])) refuse("a point is not finite");
            if (v[i + 2] != 0)
                refuse(fmt::format("point {} has z = {:g}: only plane meshes are read", i / 3, v[i + 2]));
            out_.mesh.nodes.push_back({{v[i], v[i + 1]}});
        }
    }

    void read_cells() {
        const auto cells = file_.piece().child("Cells");
        const auto connectivity = file_.numbers(array_named(cells, "connectivity")),
                   offsets = file_.numbers(array_named(cells, "offsets")),
                   types = file_.numbers(array_named(cells, "types"));
        if (types.empty() || offsets.size() != types.size()) refuse("its cells have no types or offsets");
        Mesh& mesh = out_.mesh;
        std::size_t begin = 0;
        for (std::size_t c = 0; c < types.size(); ++c) {
            const std::size_t end = index_of(offsets[c], connectivity.size() + 1, "an offset");
            if (end < begin) refuse("its offsets fall");
            const int type = static_cast<int>(types[c]);
            std::vector<std::int32_t> nodes;
            for (std::size_t k = begin; k < end; ++k)
                nodes.push_back(static_cast<std::int32_t>(index_of(connectivity[k], mesh.nodes.size(), "a node")));
            begin = end;
            static const std::map<int, ElementKind> kinds{{5, ElementKind::triangle3},
                                                          {22, ElementKind::triangle6},
                                                          {9, ElementKind::quadrilateral4},
                                                          {28, ElementKind::quadrilateral9}};
            if (type == 3 || type == 21) {
                if (nodes.size() != (type == 3 ? 2U : 3U))
                    refuse(fmt::format("cell {} has the wrong number of nodes", c));
                BoundarySide side;
                for (std::size_t k = 0; k < 3; ++k) side.nodes[k] = k < nodes.size() ? nodes[k] : -1;
                side_cell_.push_back(c);
                mesh.boundary.push_back(side);
                continue;
            }
            const auto kind = kinds.find(type);
            if (kind == kinds.end())
                refuse(fmt::format(
                    "cell {} is of type {}; known are lines, triangles of 3 or 6 and quadrilaterals of 4 or 9 "
                    "nodes",
                    c, type));
            if (nodes.size() != static_cast<std::size_t>(node_count(kind->second)))
                refuse(fmt::format("cell {} has the wrong number of nodes", c));
            element_cell_.push_back(c);
            mesh.kinds.push_back(kind->second);
            mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
            mesh.connectivity.insert(mesh.connectivity.end(), nodes.begin(), nodes.end());
        }
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        if (mesh.kinds.empty()) refuse("it has no plane element");
        cells_ = types.size();
        mesh.row.assign(mesh.element_count(), 0);
        find_sides();
    }

    /// The element and side of each boundary line.
    void find_sides() {
        Mesh& mesh = out_.mesh;
        std::map<std::pair<int, int>, std::pair<int, int>> at;  // directed side -> element, side
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            for (int s = 0; s < corner_count(mesh.kinds[e]); ++s) {
                const auto local = side_nodes(mesh.kinds[e], s);
                const auto nodes = mesh.element(e);
                at[{nodes[static_cast<std::size_t>(local[0])], nodes[static_cast<std::size_t>(local[1])]}] = {
                    static_cast<int>(e), s};
            }
        for (auto& b : mesh.boundary) {
            auto found = at.find({b.nodes[0], b.nodes[1]});
            if (found == at.end()) {
                std::swap(b.nodes[0], b.nodes[1]);
                found = at.find({b.nodes[0], b.nodes[1]});
            }
            if (found == at.end()) refuse("a line is no side of an element");
            b.element = found->second.first;
            b.side = found->second.second;
        }
    }

    void read_names() {
        Mesh& mesh = out_.mesh;
        const auto cell_data = file_.piece().child("CellData"), point_data = file_.piece().child("PointData");
        mesh.region.assign(mesh.element_count(), -1);
        for (const auto& [name, in] : named_arrays(file_, cell_data, "region.", cells_)) {
            mesh.region_names.push_back(name);
            for (std::size_t e = 0; e < mesh.element_count(); ++e)
                if (in[element_cell_[e]] != 0) mesh.region[e] = static_cast<std::int32_t>(mesh.region_names.size() - 1);
        }
        if (std::find(mesh.region.begin(), mesh.region.end(), -1) != mesh.region.end()) {
            mesh.region_names.emplace_back("part");
            for (auto& r : mesh.region)
                if (r < 0) r = static_cast<std::int32_t>(mesh.region_names.size() - 1);
        }
        // Sides with the same names are as if on one edge.
        std::vector<std::vector<int>> names(mesh.boundary.size());
        for (const auto& [name, on] : named_arrays(file_, cell_data, "boundary.", cells_)) {
            for (std::size_t b = 0; b < mesh.boundary.size(); ++b)
                if (on[side_cell_[b]] != 0) names[b].push_back(static_cast<int>(mesh.boundary_names.size()));
            mesh.boundary_names.push_back(name);
        }
        std::map<std::vector<int>, int> edge;
        for (std::size_t b = 0; b < names.size(); ++b) {
            const auto [found, fresh] = edge.try_emplace(names[b], static_cast<int>(mesh.names_of_edge.size()));
            if (fresh) mesh.names_of_edge.push_back(names[b]);
            mesh.boundary[b].edge = found->second;
        }
        for (const auto& [name, at] : named_arrays(file_, point_data, "point.", mesh.nodes.size()))
            for (std::size_t n = 0; n < at.size(); ++n)
                if (at[n] != 0) mesh.points.push_back({name, static_cast<int>(n)});
        const auto per_element = [&](const char* name) {
            std::vector<double> values;
            if (const auto array = array_named(cell_data, name)) {
                const auto all = file_.numbers(array);
                if (all.size() != cells_) refuse(fmt::format("the array \"{}\" has the wrong length", name));
                for (const auto c : element_cell_) values.push_back(all[c]);
            }
            return values;
        };
        out_.wanted_size = per_element("wanted_size");
        const auto row = per_element("layer_row");
        for (std::size_t e = 0; e < row.size(); ++e) mesh.row[e] = static_cast<std::int32_t>(row[e]);
    }

    const VtuFile& file_;
    MeshFile out_;
    std::vector<std::size_t> element_cell_, side_cell_;
    std::size_t cells_ = 0;
};

}  // namespace

MeshFile read_vtu(const std::filesystem::path& file) {
    const std::string text = read_file(file);
    try {
        const VtuFile vtu(text);
        return MeshReader(vtu).read();
    } catch (const Fault& f) {
        Place place;
        place.file = file.string();
        throw InputError(fmt::format("this is no mesh file that can be read: {}", f.what), place,
                         "wanted is a VTU file (VTK XML unstructured grid) of plane triangles and quadrilaterals");
    }
}

}  // namespace dotsift
