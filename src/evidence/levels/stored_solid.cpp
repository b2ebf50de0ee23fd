#include "evidence/levels/stored_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "base/files.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_file.hpp"
#include "evidence/levels/vtu_grid.hpp"
#include "mesh/end_normals.hpp"
#include "solve/solid_solver.hpp"

namespace dotsift {

namespace {

/// Elements of the format that solids are written with.
const std::map<int, ElementKind>& solid_kinds() {
    static const std::map<int, ElementKind> kinds{{10, ElementKind::tetrahedron4}, {24, ElementKind::tetrahedron10},
                                                  {12, ElementKind::hexahedron8},  {29, ElementKind::hexahedron27},
                                                  {13, ElementKind::wedge6},       {32, ElementKind::wedge18},
                                                  {14, ElementKind::pyramid5}};
    return kinds;
}

const std::vector<double>& values_of(const std::vector<VtuArray>& arrays, const std::string& name,
                                     std::size_t components, std::size_t count) {
    const VtuArray* a = array_named(arrays, name);
    if (!a) refuse(fmt::format("it has no array \"{}\"", name));
    if (a->components != components || a->values.size() != count * components)
        refuse(fmt::format("the array \"{}\" has the wrong length", name));
    return a->values;
}

class SolidReader {
  public:
    SolidReader(const VtuGrid& grid, const SolidPart& part) : grid_(grid), part_(part) {}

    SolidMesh mesh() {
        for (std::size_t n = 0; n < grid_.point_count(); ++n)
            mesh_.nodes.push_back({{grid_.points[3 * n], grid_.points[3 * n + 1], grid_.points[3 * n + 2]}});
        std::size_t begin = 0;
        for (std::size_t c = 0; c < grid_.types.size(); ++c) {
            const std::span<const std::size_t> nodes(grid_.nodes.data() + begin, grid_.ends[c] - begin);
            begin = grid_.ends[c];
            const auto kind = solid_kinds().find(grid_.types[c]);
            if (kind == solid_kinds().end()) {
                sides_.push_back({c, {nodes.begin(), nodes.end()}});
                continue;
            }
            if (!sides_.empty()) refuse("its sides do not stand behind its elements");
            if (nodes.size() != static_cast<std::size_t>(node_count(kind->second)))
                refuse(fmt::format("cell {} has {} nodes", c, nodes.size()));
            mesh_.kinds.push_back(kind->second);
            mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
            for (const std::size_t n : nodes) mesh_.connectivity.push_back(static_cast<std::int32_t>(n));
        }
        if (mesh_.kinds.empty()) refuse("it has no elements");
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
        mesh_.region_names = part_.regions;
        mesh_.boundary_names = part_.boundary_names;
        for (const double r : cells("region")) {
            if (mesh_.region.size() == mesh_.kinds.size()) break;
            if (!(r >= 0 && r < static_cast<double>(part_.regions.size()))) refuse("an element is in no region");
            mesh_.region.push_back(static_cast<std::int32_t>(r));
        }
        mesh_.row.assign(mesh_.kinds.size(), 0);
        connect(mesh_);
        add_sides();
        mesh_.names_of_edge = names_of_sides(part_.faces);
        for (const auto& p : part_.points) {
            const auto& at = values_of(grid_.of_points, "point." + p.name, 1, mesh_.nodes.size());
            const auto found = std::find(at.begin(), at.end(), 1.0);
            if (found != at.end()) mesh_.points.push_back({p.name, static_cast<int>(found - at.begin())});
        }
        mesh_.end_normals = end_normals(part_, mesh_);
        return std::move(mesh_);
    }

    /// Of all cells.
    [[nodiscard]] const std::vector<double>& cells(const std::string& name) const {
        return values_of(grid_.of_cells, name, 1, grid_.types.size());
    }

  private:
    void add_sides() {
        std::map<std::vector<std::int32_t>, ElementSide> known;  // by their sorted corners
        for (std::size_t k = 0; k < mesh_.sides.count(); ++k)
            for (const ElementSide& s : mesh_.sides.beside(k)) {
                if (!s) continue;
                const auto e = static_cast<std::size_t>(s.element);
                std::vector<std::int32_t> nodes;
                for (const auto local : side_nodes(mesh_.kinds[e], s.side)) nodes.push_back(mesh_.element(e)[local]);
                known.emplace(std::move(nodes), s);
            }
        const auto& face = cells("edge");
        for (const auto& [cell, nodes] : sides_) {
            // Each side stands in the file as the element that has it runs round it.
            const auto found = known.find({nodes.begin(), nodes.end()});
            if (found == known.end()) refuse(fmt::format("cell {} is no side of an element", cell));
            const double f = face[cell];
            if (!(f >= 0 && f < static_cast<double>(part_.faces.size()))) refuse("a side lies on no face of the part");
            mesh_.boundary.push_back({{-1, -1, -1}, found->second.element, found->second.side, static_cast<int>(f)});
        }
    }

    const VtuGrid& grid_;
    const SolidPart& part_;
    SolidMesh mesh_;
    std::vector<std::pair<std::size_t, std::vector<std::size_t>>> sides_;
};

/// Of every slot: the nodes' values and the further ones; make(values, of a node).
template <class Make>
auto slots(const VtuGrid& grid, const SolidMesh& mesh, const std::string& name, const std::string& suffix,
           std::size_t of_node, std::size_t of_slot, Make make) {
    const std::size_t nodes = mesh.nodes.size(), all = mesh.node_of_slot.size();
    const auto& first = values_of(grid.of_points, name + suffix, of_node, nodes);
    std::vector<decltype(make(first.data(), true))> out;
    for (std::size_t n = 0; n < nodes; ++n) out.push_back(make(first.data() + n * of_node, true));
    if (all == nodes) return out;
    const auto& rest = values_of(grid.of_whole, "slots." + name + suffix, of_slot, all - nodes);
    for (std::size_t n = 0; n < all - nodes; ++n) out.push_back(make(rest.data() + n * of_slot, false));
    return out;
}

void read_case(const VtuGrid& grid, const SolidMesh& mesh, const Study& study, const std::string& suffix,
               CaseFieldsIn<3>& c) {
    SolutionIn<3>& s = c.solution;
    if (study.elastic()) {
        const auto& u = values_of(grid.of_points, "displacement" + suffix, 3, mesh.nodes.size());
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
            s.displacement.push_back({{u[3 * n], u[3 * n + 1], u[3 * n + 2]}});
        // At nodes the order of the format (xx, yy, zz, xy, yz, xz), at further slots the one of Stress3.
        c.stress.slots = slots(grid, mesh, "stress_recovered", suffix, 6, 6, [](const double* v, bool node) {
            return node ? Stress3{{v[0], v[1], v[3], v[2], v[4], v[5]}} : Stress3{{v[0], v[1], v[2], v[3], v[4], v[5]}};
        });
    }
    if (study.conducts()) {
        s.potential = slots(grid, mesh, "potential", suffix, 1, 1, [](const double* v, bool) { return *v; });
        c.flux.slots = slots(grid, mesh, "flux_recovered", suffix, 3, 3, [](const double* v, bool) {
            return Vec3{{v[0], v[1], v[2]}};
        });
    }
    for (const auto& [name, field] : {std::pair{"slots.temperature_change", &s.temperature_change},
                                      std::pair{"slots.stiffness_factor", &s.stiffness_factor},
                                      std::pair{"slots.conductivity_factor", &s.conductivity_factor}})
        if (array_named(grid.of_whole, name + suffix))
            *field = values_of(grid.of_whole, name + suffix, 1, mesh.node_of_slot.size());
}

/// The numbers of a solution, without its fields.
SolutionIn<3> numbers_of(Solution s) {
    SolutionIn<3> out;
    out.load_case = std::move(s.load_case);
    out.strain_energy = s.strain_energy;
    out.dissipation = s.dissipation;
    out.unknowns = s.unknowns;
    out.solver = s.solver;
    out.loads = std::move(s.loads);
    out.reactions = std::move(s.reactions);
    out.balance = s.balance;
    return out;
}

}  // namespace

Level read_solid_level(const std::filesystem::path& folder, const Study& study, const SolidPart& part) {
    StoredNumbers stored = numbers_from(nlohmann::ordered_json::parse(read_file(folder / "level.json")), study);
    const VtuGrid grid = read_vtu_grid(read_file(folder / "mesh.vtu"), true);
    auto fields = std::make_shared<LevelFieldsIn<3>>();
    SolidReader reader(grid, part);
    fields->mesh = reader.mesh();
    const std::size_t elements = fields->mesh.element_count();
    fields->laws = solid_laws(study, fields->mesh.region_names);
    for (auto& s : stored.solutions) fields->cases.push_back({numbers_of(std::move(s)), {}, {}});
    if (fields->cases.empty()) refuse("it has no load case");
    for (auto& c : fields->cases)
        read_case(grid, fields->mesh, study, case_suffix(c.solution.load_case, fields->cases.size()), c);
    const auto& wanted = reader.cells("wanted_size");
    fields->wanted_size.assign(wanted.begin(), wanted.begin() + static_cast<std::ptrdiff_t>(elements));
    fields->error.element_error2 = values_of(grid.of_whole, "squared_error", 1, elements);
    fields->error.error2 = stored.error2;
    fields->error.energy2 = stored.energy2;
    for (std::size_t q = 0; q < stored.level.goals.size(); ++q) {
        if (!stored.level.goals[q]) continue;
        const auto& shares = reader.cells("error." + study.quantities[q].name);
        stored.level.goals[q]->element_error.assign(shares.begin(),
                                                    shares.begin() + static_cast<std::ptrdiff_t>(elements));
    }
    stored.level.mesh = summarise(fields->mesh);
    stored.level.solid = std::move(fields);
    return std::move(stored.level);
}

}  // namespace dotsift
