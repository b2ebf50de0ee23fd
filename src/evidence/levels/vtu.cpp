#include "evidence/levels/vtu.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "base/errors.hpp"
#include "evidence/levels/xml_text.hpp"
#include "mesh/locate.hpp"
#include "quality/quality.hpp"
#include "solve/carry_over.hpp"

namespace dotsift {

namespace {

constexpr std::size_t block_bytes = 1U << 20U;
// Cell types of the format.
constexpr std::uint8_t line_cell = 3, quadratic_line_cell = 21;
std::uint8_t cell_type(ElementKind kind) {
    // Quadratic pyramids have other nodes there, and are not written.
    constexpr std::array<std::uint8_t, 11> types{5, 22, 9, 28, 10, 24, 12, 29, 13, 32, 14};
    return types.at(static_cast<std::size_t>(kind));
}

/// The nodes of a boundary side as the format has them, and its cell type.
std::vector<std::int32_t> side_cell(const Mesh& mesh, const BoundarySide& side, std::uint8_t& type) {
    type = side.count() == 2 ? line_cell : quadratic_line_cell;
    (void)mesh;
    return {side.nodes.begin(), side.nodes.begin() + static_cast<std::ptrdiff_t>(side.count())};
}
std::vector<std::int32_t> side_cell(const SolidMesh& mesh, const BoundarySide& side, std::uint8_t& type) {
    const auto e = static_cast<std::size_t>(side.element);
    type = cell_type(side_kind(mesh.kinds[e], side.side));
    std::vector<std::int32_t> nodes;
    for (const auto local : side_nodes(mesh.kinds[e], side.side)) nodes.push_back(mesh.element(e)[local]);
    return nodes;
}

/// xx, yy, zz, xy, yz, xz.
template <int D>
std::array<double, 6> in_file_order(const StressIn<D>& t) {
    if constexpr (D == 2)
        return {t[0], t[1], t[3], t[2], 0, 0};
    else
        return {t[0], t[1], t[3], t[2], t[4], t[5]};
}

template <class T>
constexpr const char* type_name() {
    if constexpr (std::is_same_v<T, double>)
        return "Float64";
    else if constexpr (std::is_same_v<T, std::int32_t>)
        return "Int32";
    else if constexpr (std::is_same_v<T, std::int64_t>)
        return "Int64";
    else
        return "UInt8";
}

/// Collects arrays: the XML that describes them and the compressed bytes that follow it.
class Arrays {
  public:
    template <class T>
    void add(const std::string& name, const std::vector<T>& values, int components = 1) {
        xml_ += fmt::format(
            "        <DataArray type=\"{}\" Name=\"{}\" NumberOfComponents=\"{}\" format=\"appended\" "
            "offset=\"{}\"/>\n",
            type_name<T>(), escaped(name), components, data_.size());
        compress(reinterpret_cast<const unsigned char*>(values.data()), values.size() * sizeof(T));
    }
    /// Of no points or cells, but as long as it is.
    void add_whole(const std::string& name, const std::vector<double>& values, int components = 1) {
        xml_ += fmt::format(
            "      <DataArray type=\"Float64\" Name=\"{}\" NumberOfComponents=\"{}\" NumberOfTuples=\"{}\" "
            "format=\"appended\" offset=\"{}\"/>\n",
            escaped(name), components, values.size() / static_cast<std::size_t>(components), data_.size());
        compress(reinterpret_cast<const unsigned char*>(values.data()), values.size() * sizeof(double));
    }
    std::string take_xml() { return std::exchange(xml_, {}); }
    [[nodiscard]] const std::string& data() const { return data_; }

  private:
    void compress(const unsigned char* bytes, std::size_t size) {
        const std::size_t blocks = (size + block_bytes - 1) / block_bytes;
        std::vector<std::uint64_t> header{blocks, block_bytes, size % block_bytes};
        std::string body;
        for (std::size_t b = 0; b < blocks; ++b) {
            const std::size_t begin = b * block_bytes, length = std::min(block_bytes, size - begin);
            uLongf packed = compressBound(length);
            std::vector<unsigned char> buffer(packed);
            if (compress2(buffer.data(), &packed, bytes + begin, length, 1) != Z_OK)
                throw FileError("the mesh file could not be compressed");
            header.push_back(packed);
            body.append(reinterpret_cast<const char*>(buffer.data()), packed);
        }
        data_.append(reinterpret_cast<const char*>(header.data()), header.size() * sizeof(std::uint64_t));
        data_ += body;
    }
    std::string xml_, data_;
};

struct Parts {
    std::string points, cells, point_data, cell_data, whole;
};

template <int D>
void add_geometry(const MeshIn<D>& mesh, Arrays& arrays, Parts& parts) {
    std::vector<double> points;
    points.reserve(mesh.nodes.size() * 3);
    for (const auto& p : mesh.nodes) {
        const Vec3 x = in_space(p);
        points.insert(points.end(), x.c.begin(), x.c.end());
    }
    arrays.add("Points", points, 3);
    parts.points = arrays.take_xml();
    std::vector<std::int32_t> connectivity = mesh.connectivity;
    std::vector<std::int64_t> offsets(mesh.first.begin() + 1, mesh.first.end());
    std::vector<std::uint8_t> types;
    for (const auto kind : mesh.kinds) types.push_back(cell_type(kind));
    for (const auto& b : mesh.boundary) {
        std::uint8_t type = 0;
        const auto nodes = side_cell(mesh, b, type);
        connectivity.insert(connectivity.end(), nodes.begin(), nodes.end());
        offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
        types.push_back(type);
    }
    arrays.add("connectivity", connectivity);
    arrays.add("offsets", offsets);
    arrays.add("types", types);
    parts.cells = arrays.take_xml();
}

template <int D>
void add_mesh_cell_data(const MeshIn<D>& mesh, const std::vector<double>& wanted_size, Arrays& arrays) {
    const std::size_t elements = mesh.element_count(), cells = elements + mesh.boundary.size();
    std::vector<std::int32_t> region(cells, -1);
    std::vector<double> size(cells, 0.0), wanted(cells, 0.0);
    for (std::size_t e = 0; e < elements; ++e) {
        region[e] = mesh.region[e];
        size[e] = mesh.size_of(e);
        wanted[e] = wanted_size[e];
    }
    arrays.add("region", region);
    const MeasureValues quality = measure_quality(mesh, wanted_size);
    for (std::size_t m = 0; m < criterion_count; ++m) {
        std::vector<double> values(cells, 0.0);
        for (std::size_t e = 0; e < elements; ++e) values[e] = std::isnan(quality[m][e]) ? 0 : quality[m][e];
        arrays.add(std::string("quality.") + name_of(static_cast<Criterion>(m)), values);
    }
    std::vector<std::int32_t> row(cells, 0);
    for (std::size_t e = 0; e < elements; ++e) row[e] = mesh.row[e];
    arrays.add("layer_row", row);
    std::vector<std::int32_t> edge(cells, -1);
    for (std::size_t b = 0; b < mesh.boundary.size(); ++b) edge[elements + b] = mesh.boundary[b].edge;
    arrays.add("edge", edge);
    arrays.add("size", size);
    arrays.add("wanted_size", wanted);
    for (std::size_t r = 0; r < mesh.region_names.size(); ++r) {
        std::vector<std::uint8_t> in(cells, 0);
        for (std::size_t e = 0; e < elements; ++e) in[e] = mesh.region[e] == static_cast<std::int32_t>(r) ? 1 : 0;
        arrays.add("region." + mesh.region_names[r], in);
    }
    for (std::size_t n = 0; n < mesh.boundary_names.size(); ++n) {
        std::vector<std::uint8_t> on(cells, 0);
        for (std::size_t b = 0; b < mesh.boundary.size(); ++b)
            for (const int name : mesh.names_of_edge[static_cast<std::size_t>(mesh.boundary[b].edge)])
                if (static_cast<std::size_t>(name) == n) on[elements + b] = 1;
        arrays.add("boundary." + mesh.boundary_names[n], on);
    }
}

/// One array for each name of a point, 1 at its nodes.
template <int D>
void add_points(const MeshIn<D>& mesh, Arrays& arrays) {
    std::vector<std::string> done;
    for (const auto& point : mesh.points) {
        if (std::find(done.begin(), done.end(), point.name) != done.end()) continue;
        done.push_back(point.name);
        std::vector<std::uint8_t> at(mesh.nodes.size(), 0);
        for (const auto& p : mesh.points)
            if (p.name == point.name) at[static_cast<std::size_t>(p.node)] = 1;
        arrays.add("point." + point.name, at);
    }
}

/// Of one case; `suffix` stands after the names of its arrays.
template <int D>
void add_point_fields(const LevelFieldsIn<D>& f, const CaseFieldsIn<D>& c, const std::string& suffix, Arrays& arrays) {
    const std::size_t nodes = f.mesh.nodes.size();
    const auto& s = c.solution;
    if (!s.displacement.empty()) {
        std::vector<double> displacement, recovered, mises;
        for (std::size_t n = 0; n < nodes; ++n) {
            const StressIn<D>& t = c.stress.slots[n];
            const Vec3 u = in_space(s.displacement[n]);
            displacement.insert(displacement.end(), u.c.begin(), u.c.end());
            const auto six = in_file_order<D>(t);
            recovered.insert(recovered.end(), six.begin(), six.end());
            mises.push_back(von_mises(t));
        }
        arrays.add("displacement" + suffix, displacement, 3);
        arrays.add("stress_recovered" + suffix, recovered, 6);
        arrays.add("von_mises" + suffix, mises);
    }
    if (!s.potential.empty()) {
        const auto count = static_cast<std::ptrdiff_t>(nodes);
        std::vector<double> flux;
        for (std::size_t n = 0; n < nodes; ++n) {
            const Vec3 q = in_space(c.flux.slots[n]);
            flux.insert(flux.end(), q.c.begin(), q.c.end());
        }
        arrays.add("potential" + suffix, std::vector<double>(s.potential.begin(), s.potential.begin() + count));
        arrays.add("flux_recovered" + suffix, flux, 3);
    }
}

template <int D>
void add_cell_fields(const LevelFieldsIn<D>& f, const CaseFieldsIn<D>& c, const std::string& suffix, Arrays& arrays) {
    const std::size_t cells = f.mesh.element_count() + f.mesh.boundary.size();
    const auto& s = c.solution;
    std::vector<double> stress(s.displacement.empty() ? 0 : cells * 6, 0.0);
    std::vector<double> flux(s.potential.empty() ? 0 : cells * 3, 0.0);
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e) {
        const auto p = evaluate<D>(f.mesh.kinds[e], f.mesh.positions(e), reference_middle<D>(f.mesh.kinds[e]));
        if (!stress.empty()) {
            const auto t = in_file_order<D>(stress_at(f.mesh, f.laws, s, e, p));
            std::copy(t.begin(), t.end(), stress.begin() + static_cast<std::ptrdiff_t>(6 * e));
        }
        if (!flux.empty()) {
            const Vec<D> q = flux_at(f.mesh, f.laws, s, e, p);
            std::copy(q.c.begin(), q.c.end(), flux.begin() + static_cast<std::ptrdiff_t>(3 * e));
        }
    }
    if (!stress.empty()) arrays.add("stress" + suffix, stress, 6);
    if (!flux.empty()) arrays.add("flux" + suffix, flux, 3);
}

/// What the arrays at points and cells leave out: values at the further slots of a node, and what some elements carry.
template <int D>
void add_whole_fields(const LevelFieldsIn<D>& f, const CaseFieldsIn<D>& c, const std::string& suffix, Arrays& arrays) {
    const auto& s = c.solution;
    std::vector<double> stress, flux, potential, volume;
    for (std::size_t n = f.mesh.nodes.size(); n < f.mesh.node_of_slot.size(); ++n) {
        if (!c.stress.slots.empty()) stress.insert(stress.end(), c.stress.slots[n].begin(), c.stress.slots[n].end());
        if (!c.flux.slots.empty()) flux.insert(flux.end(), c.flux.slots[n].c.begin(), c.flux.slots[n].c.end());
        if (!s.potential.empty()) potential.push_back(s.potential[n]);
    }
    if constexpr (D == 2)
        for (const auto& v : s.volume)
            volume.insert(volume.end(), {v.size, v.centre[0], v.centre[1], v.coefficients[0], v.coefficients[1],
                                         v.coefficients[2], v.bubble[0], v.bubble[1]});
    if (!stress.empty()) arrays.add_whole("slots.stress_recovered" + suffix, stress, tensor_components<D>);
    if (!flux.empty()) arrays.add_whole("slots.flux_recovered" + suffix, flux, D);
    if (!potential.empty()) arrays.add_whole("slots.potential" + suffix, potential);
    if (!s.temperature_change.empty()) arrays.add_whole("slots.temperature_change" + suffix, s.temperature_change);
    if (!s.stiffness_factor.empty()) arrays.add_whole("slots.stiffness_factor" + suffix, s.stiffness_factor);
    if (!s.conductivity_factor.empty()) arrays.add_whole("slots.conductivity_factor" + suffix, s.conductivity_factor);
    if (!volume.empty()) arrays.add_whole("volume_strain" + suffix, volume, 8);
}

template <int D>
void add_fields(const Study& study, const Level& level, const LevelFieldsIn<D>& f, Arrays& arrays, Parts& parts) {
    const auto suffix = [&](std::size_t k) { return case_suffix(f.cases[k].solution.load_case, f.cases.size()); };
    for (std::size_t k = 0; k < f.cases.size(); ++k) add_point_fields(f, f.cases[k], suffix(k), arrays);
    add_points(f.mesh, arrays);
    parts.point_data = arrays.take_xml();
    for (std::size_t k = 0; k < f.cases.size(); ++k) add_cell_fields(f, f.cases[k], suffix(k), arrays);
    std::vector<double> error(f.mesh.element_count() + f.mesh.boundary.size(), 0.0);
    for (std::size_t e = 0; e < f.mesh.element_count(); ++e) error[e] = std::sqrt(f.error.element_error2[e]);
    arrays.add("error", error);
    for (std::size_t q = 0; q < level.goals.size(); ++q) {
        if (!level.goals[q]) continue;
        std::vector<double> share(error.size(), 0.0);
        std::copy(level.goals[q]->element_error.begin(), level.goals[q]->element_error.end(), share.begin());
        arrays.add("error." + study.quantities[q].name, share);
    }
    parts.cell_data = arrays.take_xml();
    for (std::size_t k = 0; k < f.cases.size(); ++k) add_whole_fields(f, f.cases[k], suffix(k), arrays);
    arrays.add_whole("squared_error", f.error.element_error2);
    parts.whole = arrays.take_xml();
}

template <int D>
std::string assemble_file(const MeshIn<D>& mesh, const Parts& p, const Arrays& arrays) {
    std::string text = fmt::format(
        "<?xml version=\"1.0\"?>\n<VTKFile type=\"UnstructuredGrid\" version=\"1.0\" byte_order=\"LittleEndian\" "
        "header_type=\"UInt64\" "
        "compressor=\"vtkZLibDataCompressor\">\n  <UnstructuredGrid>\n{}    <Piece NumberOfPoints=\"{}\" "
        "NumberOfCells=\"{}\">\n"
        "      <Points>\n{}      </Points>\n      <Cells>\n{}      </Cells>\n      <PointData>\n{}      </PointData>\n "
        "     <CellData>\n{}"
        "      </CellData>\n    </Piece>\n  </UnstructuredGrid>\n  <AppendedData encoding=\"raw\">\n_",
        p.whole.empty() ? "" : "    <FieldData>\n" + p.whole + "    </FieldData>\n", mesh.nodes.size(),
        mesh.element_count() + mesh.boundary.size(), p.points, p.cells, p.point_data, p.cell_data);
    return text + arrays.data() + "\n  </AppendedData>\n</VTKFile>\n";
}

}  // namespace

FileField carried(const FileField& field, const Mesh& from, const Mesh& to) {
    FileField out = field;
    const std::size_t n = field.components;
    if (field.of == FileField::Of::elements) {
        out.values.clear();
        const ElementLocator locator(from);
        for (std::size_t e = 0; e < to.element_count(); ++e) {
            const std::size_t at = locator.nearest(to.centre_of(e)).element;
            for (std::size_t c = 0; c < n; ++c) out.values.push_back(field.values[n * at + c]);
        }
        return out;
    }
    out.values.assign(n * to.nodes.size(), 0.0);
    for (std::size_t c = 0; c < n; ++c) {
        std::vector<double> slots;
        for (const auto node : from.node_of_slot) slots.push_back(field.values[n * static_cast<std::size_t>(node) + c]);
        const auto there = carry_slots(from, slots, to, CarryRule::bounded);
        for (std::size_t k = 0; k < to.nodes.size(); ++k) out.values[n * k + c] = there[k];
    }
    return out;
}

namespace {

template <int D>
std::string file_of_mesh(const MeshIn<D>& mesh, const std::vector<double>& wanted_size,
                         const std::vector<FileField>& fields) {
    Arrays arrays;
    Parts parts;
    add_geometry(mesh, arrays, parts);
    add_points(mesh, arrays);
    for (const auto& f : fields)
        if (f.of == FileField::Of::nodes) arrays.add(f.name, f.values, static_cast<int>(f.components));
    parts.point_data = arrays.take_xml();
    add_mesh_cell_data(mesh, wanted_size, arrays);
    for (const auto& f : fields) {
        if (f.of != FileField::Of::elements) continue;
        auto values = f.values;
        values.resize(f.components * (mesh.element_count() + mesh.boundary.size()), 0.0);  // boundary sides have none
        arrays.add(f.name, values, static_cast<int>(f.components));
    }
    parts.cell_data = arrays.take_xml();
    return assemble_file(mesh, parts, arrays);
}

template <int D>
std::string file_of_level(const Study& study, const Level& level, const LevelFieldsIn<D>& f) {
    Arrays arrays;
    Parts parts;
    add_geometry(f.mesh, arrays, parts);
    add_fields(study, level, f, arrays, parts);
    add_mesh_cell_data(f.mesh, f.wanted_size, arrays);
    parts.cell_data += arrays.take_xml();
    return assemble_file(f.mesh, parts, arrays);
}

}  // namespace

std::string mesh_vtu(const Mesh& mesh, const std::vector<double>& wanted_size, const std::vector<FileField>& fields) {
    return file_of_mesh(mesh, wanted_size, fields);
}
std::string mesh_vtu(const SolidMesh& mesh, const std::vector<double>& wanted_size) {
    return file_of_mesh(mesh, wanted_size, {});
}

std::string case_suffix(const std::string& load_case, std::size_t count) {
    return count == 1 ? std::string() : "." + load_case;
}

std::string level_vtu(const Study& study, const Level& level) {
    return level.solid ? file_of_level(study, level, *level.solid) : file_of_level(study, level, *level.fields);
}

}  // namespace dotsift
