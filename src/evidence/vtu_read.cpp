#include "evidence/vtu_read.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/vtu_file.hpp"

namespace dotsift {

namespace {

// Points that are off their plane by less than this share of the mesh are in it.
constexpr double plane_share = 1e-6;

class MeshReader {
  public:
    explicit MeshReader(const VtuFile& file) : file_(file) {}

    MeshFile read(bool with_fields) {
        read_points();
        read_cells();
        read_names();
        number_slots(out_.mesh);
        if (with_fields) read_fields();
        return std::move(out_);
    }

  private:
    void read_points() {
        const auto array = file_.piece().child("Points").child("DataArray");
        if (!array) refuse("it has no points");
        const auto v = file_.numbers(array);
        if (v.empty() || v.size() % 3 != 0) refuse("its points are not given by three numbers each");
        for (std::size_t i = 0; i < v.size(); i += 3) {
            if (!std::isfinite(v[i]) || !std::isfinite(v[i + 1]) || !std::isfinite(v[i + 2]))
                refuse(fmt::format("point {} is not finite", i / 3));
            out_.mesh.nodes.push_back({{v[i], v[i + 1]}});
        }
        // In one plane, wherever that is.
        Box2 box;
        for (const Vec2& p : out_.mesh.nodes) box.add(p);
        for (std::size_t i = 0; i < v.size(); i += 3)
            if (std::fabs(v[i + 2] - v[2]) > plane_share * box.diagonal())
                refuse(fmt::format("point {} has z = {:g}, point 0 {:g}: only plane meshes are read", i / 3, v[i + 2],
                                   v[2]));
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
            take_cell(c, type, std::move(nodes));
        }
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        if (mesh.kinds.empty()) refuse("it has no plane element");
        cells_ = types.size();
        mesh.row.assign(mesh.element_count(), 0);
        find_sides();
    }

    /// By the numbers of the format. Points are passed over; strips and polylines become their pieces.
    void take_cell(std::size_t c, int type, std::vector<std::int32_t> nodes) {
        const auto wrong = [&] { refuse(fmt::format("cell {} has the wrong number of nodes", c)); };
        const std::size_t n = nodes.size();
        switch (type) {
            case 1:
            case 2:
                return;
            case 3:
            case 21:
                if (n != (type == 3 ? 2U : 3U)) wrong();
                return add_side(c, nodes);
            case 4:
                if (n < 2) wrong();
                for (std::size_t k = 1; k < n; ++k) add_side(c, {nodes[k - 1], nodes[k]});
                return;
            case 6:
                if (n < 3) wrong();
                for (std::size_t k = 2; k < n; ++k)
                    add_element(c, ElementKind::triangle3, {nodes[k - 2], nodes[k - 1], nodes[k]});
                return;
            case 7:
                if (n != 3 && n != 4)
                    refuse(fmt::format("cell {} is a polygon of {} corners; known are 3 and 4", c, n));
                return add_element(c, kind_of(static_cast<int>(n), 1), std::move(nodes));
            case 8:
                if (n != 4) wrong();
                return add_element(c, ElementKind::quadrilateral4, {nodes[0], nodes[1], nodes[3], nodes[2]});
            case 23: {
                if (n != 8) wrong();
                // The ninth node lies where the eight put it.
                Vec2 middle;
                for (std::size_t k = 0; k < 8; ++k)
                    middle += out_.mesh.nodes[static_cast<std::size_t>(nodes[k])] * (k < 4 ? -0.25 : 0.5);
                std::copy_n(nodes.begin(), 8, middle_of_.emplace_back().begin());
                nodes.push_back(static_cast<std::int32_t>(out_.mesh.nodes.size()));
                out_.mesh.nodes.push_back(middle);
                return add_element(c, ElementKind::quadrilateral9, std::move(nodes));
            }
            default:
                break;
        }
        static const std::map<int, ElementKind> kinds{{5, ElementKind::triangle3},
                                                      {22, ElementKind::triangle6},
                                                      {9, ElementKind::quadrilateral4},
                                                      {28, ElementKind::quadrilateral9}};
        const auto kind = kinds.find(type);
        if (kind == kinds.end())
            refuse(
                fmt::format("cell {} is of type {}; known are points, lines, strips, triangles of 3 or 6 and "
                            "quadrilaterals of 4, 8 or 9 nodes",
                            c, type));
        if (n != static_cast<std::size_t>(node_count(kind->second))) wrong();
        add_element(c, kind->second, std::move(nodes));
    }

    void add_side(std::size_t c, const std::vector<std::int32_t>& nodes) {
        BoundarySide side;
        for (std::size_t k = 0; k < 3; ++k) side.nodes[k] = k < nodes.size() ? nodes[k] : -1;
        side_cell_.push_back(c);
        out_.mesh.boundary.push_back(side);
    }

    /// Anticlockwise, whichever way the file runs.
    void add_element(std::size_t c, ElementKind kind, std::vector<std::int32_t> nodes) {
        Mesh& mesh = out_.mesh;
        const auto corners = static_cast<std::size_t>(corner_count(kind));
        double twice = 0;
        for (std::size_t k = 0; k < corners; ++k)
            twice += cross(mesh.nodes[static_cast<std::size_t>(nodes[k])],
                           mesh.nodes[static_cast<std::size_t>(nodes[(k + 1) % corners])]);
        if (twice < 0) {
            ++out_.turned;
            std::reverse(nodes.begin() + 1, nodes.begin() + static_cast<std::ptrdiff_t>(corners));
            if (polynomial_degree(kind) == 2)
                std::reverse(nodes.begin() + static_cast<std::ptrdiff_t>(corners),
                             nodes.begin() + static_cast<std::ptrdiff_t>(2 * corners));
        }
        element_cell_.push_back(c);
        mesh.kinds.push_back(kind);
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        mesh.connectivity.insert(mesh.connectivity.end(), nodes.begin(), nodes.end());
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
        for (const auto& [name, at] : named_arrays(file_, point_data, "point.", mesh.nodes.size() - middle_of_.size()))
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

    void read_fields() {
        const auto each = [&](const pugi::xml_node& parent, const auto& take) {
            for (const auto& array : parent.children("DataArray")) {
                FileField field;
                field.name = array.attribute("Name").value();
                field.components = array.attribute("NumberOfComponents").as_uint(1);
                if (field.components == 0) refuse(fmt::format("the array \"{}\" has no components", field.name));
                field.values = file_.numbers(array);
                take(std::move(field));
            }
        };
        const auto check = [](const FileField& f, std::size_t count) {
            if (f.values.size() != count * f.components)
                refuse(fmt::format("the array \"{}\" has the wrong length", f.name));
        };
        each(file_.piece().child("PointData"), [&](FileField f) {
            check(f, out_.mesh.nodes.size() - middle_of_.size());
            for (const auto& eight : middle_of_)
                for (std::size_t k = 0; k < f.components; ++k) {
                    double v = 0;
                    for (std::size_t i = 0; i < 8; ++i)
                        v += (i < 4 ? -0.25 : 0.5) * f.values[static_cast<std::size_t>(eight[i]) * f.components + k];
                    f.values.push_back(v);
                }
            f.of = FileField::Of::nodes;
            out_.fields.push_back(std::move(f));
        });
        each(file_.piece().child("CellData"), [&](FileField f) {
            check(f, cells_);
            for (const auto& [of, cells] :
                 {std::pair{FileField::Of::elements, &element_cell_}, std::pair{FileField::Of::sides, &side_cell_}}) {
                FileField some{f.name, of, f.components, {}};
                for (const std::size_t c : *cells)
                    for (std::size_t k = 0; k < f.components; ++k)
                        some.values.push_back(f.values[c * f.components + k]);
                out_.fields.push_back(std::move(some));
            }
        });
        each(file_.grid().child("FieldData"), [&](FileField f) {
            f.of = FileField::Of::whole;
            out_.fields.push_back(std::move(f));
        });
    }

    const VtuFile& file_;
    MeshFile out_;
    std::vector<std::size_t> element_cell_, side_cell_;
    std::vector<std::array<std::int32_t, 8>> middle_of_;  ///< for each node that the file does not have
    std::size_t cells_ = 0;
};

}  // namespace

const FileField* MeshFile::field(const std::string& name, FileField::Of of) const {
    for (const auto& f : fields)
        if (f.of == of && f.name == name) return &f;
    return nullptr;
}

MeshFile read_vtu(const std::filesystem::path& file, bool with_fields) {
    const std::string text = read_file(file);
    try {
        const VtuFile vtu(text);
        return MeshReader(vtu).read(with_fields);
    } catch (const VtuFault& f) {
        Place place;
        place.file = file.string();
        throw InputError(fmt::format("this is no mesh file that can be read: {}", f.what), place,
                         "wanted is a VTU file (VTK XML unstructured grid) of plane triangles and quadrilaterals");
    }
}

}  // namespace dotsift
