#include "evidence/levels/vtu_read.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <tuple>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/levels/vtu_file.hpp"
#include "evidence/levels/vtu_grid.hpp"

namespace dotsift {

namespace {

// Points that are off their plane by less than this share of the mesh are in it.
constexpr double plane_share = 1e-6;

class MeshReader {
  public:
    explicit MeshReader(VtuGrid grid) : grid_(std::move(grid)) {}

    MeshFile read(bool with_fields) {
        read_points();
        read_cells();
        read_names();
        connect(out_.mesh);
        if (with_fields) read_fields();
        return std::move(out_);
    }

  private:
    void read_points() {
        const auto& v = grid_.points;
        for (std::size_t i = 0; i < v.size(); i += 3) out_.mesh.nodes.push_back({{v[i], v[i + 1]}});
        // In one plane, wherever that is.
        Box2 box;
        for (const Vec2& p : out_.mesh.nodes) box.add(p);
        for (std::size_t i = 0; i < v.size(); i += 3)
            if (std::fabs(v[i + 2] - v[2]) > plane_share * box.diagonal())
                refuse(fmt::format("point {} has z = {:g}, point 0 {:g}: only plane meshes are read", i / 3, v[i + 2],
                                   v[2]));
    }

    void read_cells() {
        Mesh& mesh = out_.mesh;
        std::size_t begin = 0;
        for (std::size_t c = 0; c < grid_.types.size(); ++c) {
            std::vector<std::int32_t> nodes;
            for (std::size_t k = begin; k < grid_.ends[c]; ++k)
                nodes.push_back(static_cast<std::int32_t>(grid_.nodes[k]));
            begin = grid_.ends[c];
            if (!grid_.copied[c]) take_cell(c, grid_.types[c], std::move(nodes));
        }
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        if (mesh.kinds.empty()) refuse("it has no plane element");
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
        mesh.sides = SideTable(mesh, mesh.nodes.size());
        const NodeElements around = node_elements(mesh);
        for (auto& b : mesh.boundary) {
            ElementSide side = side_from(around, b.nodes[0], b.nodes[1]);
            if (!side) {
                std::swap(b.nodes[0], b.nodes[1]);
                side = side_from(around, b.nodes[0], b.nodes[1]);
            }
            if (!side) refuse("a line is no side of an element");
            b.element = side.element;
            b.side = side.side;
        }
    }

    /// The side that runs from one node to the other.
    [[nodiscard]] ElementSide side_from(const NodeElements& around, int from, int to) const {
        ElementSide out;
        for (const auto e : around.of(static_cast<std::size_t>(from))) {
            const auto nodes = out_.mesh.element(static_cast<std::size_t>(e));
            const ElementKind kind = out_.mesh.kinds[static_cast<std::size_t>(e)];
            for (int s = 0; s < side_count(kind); ++s)
                if (nodes[side_nodes(kind, s)[0]] == from && nodes[side_nodes(kind, s)[1]] == to) out = {e, s};
        }
        return out;
    }

    /// The values of the cells from which the elements, or sides, came.
    [[nodiscard]] static std::vector<double> of(const VtuArray& a, const std::vector<std::size_t>& cells) {
        std::vector<double> values;
        for (const std::size_t c : cells)
            for (std::size_t k = 0; k < a.components; ++k) values.push_back(a.values[c * a.components + k]);
        return values;
    }

    /// Arrays whose names begin so, of one component each.
    template <class Take>
    static void each_named(const std::vector<VtuArray>& arrays, const std::string& prefix, const Take& take) {
        for (const VtuArray& a : arrays) {
            if (a.name.rfind(prefix, 0) != 0) continue;
            if (a.components != 1) refuse(fmt::format("the array \"{}\" has the wrong length", a.name));
            take(a.name.substr(prefix.size()), a);
        }
    }

    void read_names() {
        Mesh& mesh = out_.mesh;
        mesh.region.assign(mesh.element_count(), -1);
        each_named(grid_.of_cells, "region.", [&](const std::string& name, const VtuArray& a) {
            const auto in = of(a, element_cell_);
            for (std::size_t e = 0; e < in.size(); ++e)
                if (in[e] != 0) mesh.region[e] = static_cast<std::int32_t>(mesh.region_names.size());
            mesh.region_names.push_back(name);
        });
        if (std::find(mesh.region.begin(), mesh.region.end(), -1) != mesh.region.end()) {
            mesh.region_names.emplace_back("part");
            for (auto& r : mesh.region)
                if (r < 0) r = static_cast<std::int32_t>(mesh.region_names.size() - 1);
        }
        // Sides with the same names are as if on one edge.
        std::vector<std::vector<int>> names(mesh.boundary.size());
        each_named(grid_.of_cells, "boundary.", [&](const std::string& name, const VtuArray& a) {
            const auto on = of(a, side_cell_);
            for (std::size_t b = 0; b < on.size(); ++b)
                if (on[b] != 0) names[b].push_back(static_cast<int>(mesh.boundary_names.size()));
            mesh.boundary_names.push_back(name);
        });
        add_untold_sides();
        names.resize(mesh.boundary.size());
        std::map<std::vector<int>, int> edge;
        for (std::size_t b = 0; b < names.size(); ++b) {
            const auto [found, fresh] = edge.try_emplace(names[b], static_cast<int>(mesh.names_of_edge.size()));
            if (fresh) mesh.names_of_edge.push_back(names[b]);
            mesh.boundary[b].edge = found->second;
        }
        each_named(grid_.of_points, "point.", [&](const std::string& name, const VtuArray& a) {
            for (std::size_t n = 0; n < a.values.size(); ++n)
                if (a.values[n] != 0) mesh.points.push_back({name, static_cast<int>(n)});
        });
        const auto per_element = [&](const char* name) {
            const VtuArray* a = array_named(grid_.of_cells, name);
            if (a && a->components != 1) refuse(fmt::format("the array \"{}\" has the wrong length", name));
            return a ? of(*a, element_cell_) : std::vector<double>();
        };
        out_.wanted_size = per_element("wanted_size");
        const auto row = per_element("layer_row");
        for (std::size_t e = 0; e < row.size(); ++e) {
            if (!(row[e] >= 0) || row[e] > std::numeric_limits<std::int32_t>::max())
                refuse("a row of layers is no whole number");
            mesh.row[e] = static_cast<std::int32_t>(row[e]);
        }
    }

    /// Sides that only one element has, or two of different regions: files of other programs often have no lines.
    void add_untold_sides() {
        Mesh& mesh = out_.mesh;
        std::vector<char> told(mesh.sides.count(), 0);
        for (const auto& b : mesh.boundary)
            told[mesh.sides.of(static_cast<std::size_t>(b.element), static_cast<std::size_t>(b.side))] = 1;
        std::vector<BoundarySide> untold;
        for (std::size_t k = 0; k < told.size(); ++k) {
            const auto& [first, second] = mesh.sides.beside(k);
            const auto region = [&](const ElementSide& s) { return mesh.region[static_cast<std::size_t>(s.element)]; };
            if (told[k] || (second && region(first) == region(second))) continue;
            // Between regions, as the first of them has it.
            const ElementSide& side = second && region(second) < region(first) ? second : first;
            const auto e = static_cast<std::size_t>(side.element);
            const auto& local = side_nodes(mesh.kinds[e], side.side);
            const auto nodes = mesh.element(e);
            untold.push_back({{nodes[local[0]], nodes[local[1]], local.size() > 2 ? nodes[local[2]] : -1},
                              side.element,
                              side.side,
                              0});
        }
        std::stable_sort(untold.begin(), untold.end(), [](const BoundarySide& a, const BoundarySide& b) {
            return std::tie(a.nodes[0], a.nodes[1]) < std::tie(b.nodes[0], b.nodes[1]);
        });
        out_.untold_sides = untold.size();
        mesh.boundary.insert(mesh.boundary.end(), untold.begin(), untold.end());
    }

    void read_fields() {
        for (VtuArray& a : grid_.of_points) {
            for (const auto& eight : middle_of_)
                for (std::size_t k = 0; k < a.components; ++k) {
                    double v = 0;
                    for (std::size_t i = 0; i < 8; ++i)
                        v += (i < 4 ? -0.25 : 0.5) * a.values[static_cast<std::size_t>(eight[i]) * a.components + k];
                    a.values.push_back(v);
                }
            out_.fields.push_back({a.name, FileField::Of::nodes, a.components, std::move(a.values)});
        }
        for (const VtuArray& a : grid_.of_cells) {
            out_.fields.push_back({a.name, FileField::Of::elements, a.components, of(a, element_cell_)});
            out_.fields.push_back({a.name, FileField::Of::sides, a.components, of(a, side_cell_)});
        }
        for (VtuArray& a : grid_.of_whole)
            out_.fields.push_back({a.name, FileField::Of::whole, a.components, std::move(a.values)});
    }

    VtuGrid grid_;
    MeshFile out_;
    std::vector<std::size_t> element_cell_, side_cell_;
    std::vector<std::array<std::int32_t, 8>> middle_of_;  ///< for each node that the file does not have
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
        return MeshReader(read_vtu_grid(text, with_fields)).read(with_fields);
    } catch (const VtuFault& f) {
        Place place;
        place.file = file.string();
        throw InputError(fmt::format("this is no mesh file that can be read: {}", f.what), place,
                         "wanted is a VTU file (VTK XML unstructured grid) of plane triangles and quadrilaterals");
    }
}

}  // namespace dotsift
