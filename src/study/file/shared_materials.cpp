#include "study/file/shared_materials.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "base/errors.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

// More is no list of materials.
constexpr std::size_t most_shared_bytes = 16U << 20U;

/// Numbers with a unit stand in a text; a plain one would be read in the units of whichever study asks.
void need_units(const toml::table& material, Problems& problems) {
    constexpr std::array with_units{"youngs_modulus", "moduli",    "shear_modulus",
                                    "density",        "expansion", "conductivity"};
    for (const auto* key : with_units) {
        const auto* node = material.get(key);
        if (!node) continue;
        const auto* list = node->as_array();
        const auto plain = [](const toml::node& n) { return n.is_number() && n.value<double>().value_or(0) != 0; };
        const bool bare = list ? std::any_of(list->begin(), list->end(), plain) : plain(*node);
        if (bare)
            problems.add(where_of(*node), fmt::format("{} has no unit", key),
                         "studies of all units read this file: write it as in \"205 GPa\"");
    }
}

}  // namespace

std::optional<toml::table> with_shared(const Section& s, const std::string& name, const MaterialReader& read,
                                       Study& study) {
    const auto file = s.text("from");
    if (!file) return {};
    const std::string entry = s.text("entry").value_or(name);
    study.material_files.emplace_back(*file);
    toml::table content;
    try {
        content = toml::parse(read_input(study.path, *file, most_shared_bytes), *file);
    } catch (const toml::parse_error& e) {
        s.fault("from", fmt::format("names {}, whose line {} is not valid TOML: {}", *file, e.source().begin.line,
                                    e.description()));
        return {};
    } catch (const Error& e) {
        s.fault("from", fmt::format("names {}: {}", *file, e.what()),
                "give the path of the file, from the study's folder");
        return {};
    }
    const auto* materials = content["material"].as_table();
    const auto* found = materials ? materials->get_as<toml::table>(entry) : nullptr;
    if (!found) {
        std::vector<std::string> known;
        if (materials)
            for (const auto& [key, node] : *materials) known.emplace_back(key.str());
        const std::string near = nearest(entry, known);
        s.fault("from", fmt::format("names {}, which has no material \"{}\"", *file, entry),
                known.empty()   ? "it has to hold tables as in [material.steel]"
                : !near.empty() ? fmt::format("did you mean \"{}\"?", near)
                                : "it has " + quoted_list(known) + "; entry says which");
        return {};
    }
    Problems problems(*file);
    ReadingContext context = s.context();
    context.problems = &problems;
    context.variables.clear();
    context.places = nullptr;  // those of this study only
    need_units(*found, problems);
    const Section shared(context, *found, "material.NAME", "material." + entry);
    for (const auto* key : {"on", "from", "entry"})
        if (shared.has(key)) shared.fault(key, "has no meaning in a file of materials", "remove it there");
    Study scratch;
    scratch.plane = study.plane;
    scratch.conduction = study.conduction;
    if (problems.empty()) read(shared, entry, scratch);
    for (const auto& p : problems.faults())
        s.context().problems->add(s.where("from"), fmt::format("{}:{}: {}", *file, p.where.line, p.what), p.remedy);
    if (!problems.empty()) return {};
    toml::table merged = s.content();
    for (const auto& [key, node] : *found) merged.insert(key, node);
    return merged;
}

}  // namespace dotsift
