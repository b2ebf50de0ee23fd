#include "evidence/levels/stored_level.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <sstream>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/levels/level_json.hpp"
#include "evidence/levels/stored_solid.hpp"
#include "evidence/levels/vtu.hpp"
#include "evidence/levels/vtu_file.hpp"
#include "evidence/levels/vtu_read.hpp"
#include "evidence/provenance.hpp"

namespace dotsift {

namespace {

class FieldReader {
  public:
    explicit FieldReader(const MeshFile& file) : file_(file) {}

    /// Values of an array that has to be there; `count` of them times its components.
    const std::vector<double>& values(const std::string& name, FileField::Of of, std::size_t count,
                                      std::size_t components) const {
        const FileField* f = file_.field(name, of);
        if (!f) refuse(fmt::format("it has no array \"{}\"", name));
        if (f->components != components || f->values.size() != count * components)
            refuse(fmt::format("the array \"{}\" has the wrong length", name));
        return f->values;
    }

    /// Of every slot: the nodes' values and the further ones, each from a few components.
    template <class Make>
    auto slots(const std::string& at_nodes, const std::string& further, std::size_t node_components,
               std::size_t slot_components, Make make) const {
        const std::size_t nodes = file_.mesh.nodes.size(), all = file_.mesh.node_of_slot.size();
        const auto& first = values(at_nodes, FileField::Of::nodes, nodes, node_components);
        std::vector<decltype(make(first.data(), true))> out;
        out.reserve(all);
        for (std::size_t n = 0; n < nodes; ++n) out.push_back(make(first.data() + n * node_components, true));
        if (all == nodes) return out;
        const auto& rest = values(further, FileField::Of::whole, all - nodes, slot_components);
        for (std::size_t n = 0; n < all - nodes; ++n) out.push_back(make(rest.data() + n * slot_components, false));
        return out;
    }

  private:
    const MeshFile& file_;
};

void read_case(const MeshFile& file, const Study& study, const std::string& suffix, CaseFields& c) {
    const FieldReader read(file);
    const std::size_t nodes = file.mesh.nodes.size(), all = file.mesh.node_of_slot.size();
    Solution& s = c.solution;
    if (study.elastic()) {
        const auto& u = read.values("displacement" + suffix, FileField::Of::nodes, nodes, 3);
        for (std::size_t n = 0; n < nodes; ++n) s.displacement.push_back({{u[3 * n], u[3 * n + 1]}});
        // At nodes the order of the format (xx, yy, zz, xy, yz, xz), at further slots the one of Stress.
        c.stress.slots = read.slots("stress_recovered" + suffix, "slots.stress_recovered" + suffix, 6, 4,
                                    [](const double* v, bool node) {
                                        return node ? Stress{v[0], v[1], v[3], v[2]} : Stress{v[0], v[1], v[2], v[3]};
                                    });
    }
    if (study.conducts()) {
        s.potential = read.slots("potential" + suffix, "slots.potential" + suffix, 1, 1,
                                 [](const double* v, bool) { return *v; });
        c.flux.slots =
            read.slots("flux_recovered" + suffix, "slots.flux_recovered" + suffix, 3, 2, [](const double* v, bool) {
                return Vec2{{v[0], v[1]}};
            });
    }
    for (const auto& [name, field] : {std::pair{"slots.temperature_change", &s.temperature_change},
                                      std::pair{"slots.stiffness_factor", &s.stiffness_factor},
                                      std::pair{"slots.conductivity_factor", &s.conductivity_factor}})
        if (file.field(name + suffix, FileField::Of::whole))
            *field = read.values(name + suffix, FileField::Of::whole, all, 1);
    if (file.field("volume_strain" + suffix, FileField::Of::whole)) {
        const std::size_t elements = file.mesh.element_count();
        const auto& v = read.values("volume_strain" + suffix, FileField::Of::whole, elements, 8);
        for (std::size_t e = 0; e < elements; ++e) {
            const double* at = v.data() + 8 * e;
            s.volume.push_back({at[0], {{at[1], at[2]}}, {at[3], at[4], at[5]}, {{at[6], at[7]}}});
        }
    }
}

/// Boundary sides on the edges of the part again, with the part's names.
void tie_to_part(const MeshFile& file, const Part& part, Mesh& mesh) {
    if (file.mesh.region_names != part.regions || file.mesh.boundary_names != part.boundary_names)
        refuse("its regions or boundaries have other names than the part's");
    const auto& edges = FieldReader(file).values("edge", FileField::Of::sides, mesh.boundary.size(), 1);
    for (std::size_t b = 0; b < edges.size(); ++b)
        mesh.boundary[b].edge = static_cast<int>(index_of(edges[b], part.edges.size(), "an edge of the part"));
    mesh.names_of_edge = names_of_sides(part.edges);
}

/// Throws VtuFault if a file is not what was written. Levels of earlier versions have no checksums.
void check_sums(const std::filesystem::path& folder) {
    std::error_code code;
    if (!std::filesystem::exists(folder / checksums_file, code)) return;
    std::istringstream lines(read_file(folder / checksums_file));
    std::string sum, name;
    while (lines >> sum >> name)
        if ((name == "mesh.vtu" || name == "level.json") && sha256(read_file(folder / name)) != sum)
            refuse(fmt::format("{} was changed after it was written: its checksum differs", name));
}

Level read_level(const std::filesystem::path& folder, const Study& study, const Part& part) {
    const auto json = nlohmann::ordered_json::parse(read_file(folder / "level.json"));
    check_sums(folder);
    StoredNumbers stored = numbers_from(json, study);
    Level& level = stored.level;
    MeshFile file = read_vtu(folder / "mesh.vtu", true);
    auto fields = std::make_shared<LevelFields>();
    tie_to_part(file, part, file.mesh);
    const std::size_t elements = file.mesh.element_count();
    const FieldReader read(file);
    fields->laws = laws_of(study, file.mesh.region_names);
    for (auto& s : stored.solutions) fields->cases.push_back({std::move(s), {}, {}});
    if (fields->cases.empty()) refuse("it has no load case");
    for (std::size_t k = 0; k < fields->cases.size(); ++k)
        read_case(file, study, case_suffix(fields->cases[k].solution.load_case, fields->cases.size()),
                  fields->cases[k]);
    fields->wanted_size = read.values("wanted_size", FileField::Of::elements, elements, 1);
    fields->error.element_error2 = read.values("squared_error", FileField::Of::whole, elements, 1);
    fields->error.error2 = stored.error2;
    fields->error.energy2 = stored.energy2;
    for (std::size_t q = 0; q < level.goals.size(); ++q)
        if (level.goals[q])
            level.goals[q]->element_error =
                read.values("error." + study.quantities[q].name, FileField::Of::elements, elements, 1);
    fields->mesh = std::move(file.mesh);
    level.mesh = summarise(fields->mesh);
    level.fields = std::move(fields);
    return std::move(level);
}

}  // namespace

void verify_level(const std::filesystem::path& folder) {
    try {
        check_sums(folder);
    } catch (const VtuFault& f) {
        Place place;
        place.file = folder.string();
        throw InputError("the stored level cannot be used: " + f.what, place,
                         "remove this level's folder, and run the study there with --resume");
    }
}

namespace {

/// read() reads the level if it is there.
template <class Read>
std::optional<Level> if_stored(const std::filesystem::path& folder, Read read) {
    std::error_code code;
    if (!std::filesystem::exists(folder / "level.json", code)) return {};
    const auto damaged = [&](const char* file, const std::string& what) {
        Place place;
        place.file = (folder / file).string();
        return InputError("the stored level cannot be used: " + what, place,
                          "remove this level's folder to have it solved again, or choose another directory with -o");
    };
    try {
        Level level = read();
        if (folder.filename() != fmt::format("level-{}", level.index) ||
            folder.parent_path().filename() != level.series)
            throw damaged("level.json", fmt::format("it is level {} of series {}", level.index, level.series));
        return level;
    } catch (const InputError&) {
        throw;
    } catch (const VtuFault& f) {
        throw damaged("mesh.vtu", f.what);
    } catch (const Error& e) {
        throw damaged("mesh.vtu", e.what());
    } catch (const std::exception& e) {  // of the JSON library
        throw damaged("level.json", e.what());
    }
}

}  // namespace

std::optional<Level> stored_level(const std::filesystem::path& folder, const Study& study, const Part& part) {
    return if_stored(folder, [&] { return read_level(folder, study, part); });
}
std::optional<Level> stored_level(const std::filesystem::path& folder, const Study& study, const SolidPart& part) {
    return if_stored(folder, [&] {
        check_sums(folder);
        return read_solid_level(folder, study, part);
    });
}
std::optional<Level> stored_level(const std::filesystem::path& folder, const StudyAndPart& opened) {
    return opened.solid ? stored_level(folder, opened.study, *opened.solid)
                        : stored_level(folder, opened.study, opened.part);
}

}  // namespace dotsift
