#include "part/checks/check_materials.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "study/read.hpp"

namespace dotsift {

/// Every region has one material; every material a region.
void check_materials(const Study& study, const PartNames& part, Problems& problems) {
    std::vector<int> owner(part.regions.size(), -1);
    int rest = -1;
    for (std::size_t m = 0; m < study.materials.size(); ++m) {
        const auto& material = study.materials[m];
        if (material.on.empty()) {
            if (rest >= 0)
                problems.add(material.where,
                             fmt::format("material.{} and material.{} both claim the regions that no material names",
                                         study.materials[static_cast<std::size_t>(rest)].name, material.name),
                             fmt::format("say which regions: on = \"...\"; regions are {}", quoted_list(part.regions)));
            rest = static_cast<int>(m);
            continue;
        }
        for (const auto& pattern : material.on) {
            const auto regions = part.regions_named({pattern});
            if (regions.empty()) {
                const std::string near = nearest(pattern, part.regions);
                problems.add(study.place_of("material." + material.name, pattern, material.where),
                             fmt::format("material.{}: no region is named \"{}\"", material.name, pattern),
                             near.empty()
                                 ? fmt::format("regions are {}", quoted_list(part.regions))
                                 : fmt::format("did you mean \"{}\"? regions are {}", near, quoted_list(part.regions)));
            }
            for (const int r : regions) {
                int& o = owner[static_cast<std::size_t>(r)];
                if (o >= 0 && o != static_cast<int>(m))
                    problems.add(material.where,
                                 fmt::format("region \"{}\" has two materials, {} and {}",
                                             part.regions[static_cast<std::size_t>(r)],
                                             study.materials[static_cast<std::size_t>(o)].name, material.name),
                                 "name it in one of them only");
                o = static_cast<int>(m);
            }
        }
    }
    if (study.materials.empty()) return;  // told by the reader
    bool needed = false;
    for (std::size_t r = 0; r < owner.size(); ++r) {
        if (owner[r] >= 0) continue;
        needed = true;
        if (rest < 0)
            problems.add(study.part_where, fmt::format("the region \"{}\" has no material", part.regions[r]),
                         "name it in the on of a material, or leave out on in one");
    }
    if (rest >= 0 && !needed)
        problems.warn(
            study.materials[static_cast<std::size_t>(rest)].where,
            fmt::format("material.{} is used by no region", study.materials[static_cast<std::size_t>(rest)].name),
            "the other materials name all of them");
}

/// Numbers that no material has: units were mixed up.
void check_plausible(const Study& study, Problems& problems) {
    if (!study.units_given) return;                         // made-up numbers
    constexpr double softest = 1e4, stiffest = 2e12;        // Pa: foam, diamond
    constexpr double softest_firm = 5e8, firm_ratio = 0.4;  // rubber and soft plastics hardly change their volume
    for (const auto& m : study.materials) {
        if (m.moduli_have_units) continue;
        std::vector<double> moduli{m.youngs_modulus};
        if (m.orthotropy) moduli.assign(m.orthotropy->moduli.begin(), m.orthotropy->moduli.end());
        for (const double e : moduli) {
            if (!(e > 0) || e == 1) continue;  // 1: a problem that was made dimensionless
            const double pascal = study.units.to_si(e, dimension::stress);
            const bool soft = !m.orthotropy && pascal < softest_firm && m.poissons_ratio < firm_ratio;
            if (pascal >= softest && pascal <= stiffest && !soft) continue;
            problems.warn(m.where,
                          fmt::format("material.{}: a modulus of {:.3g} GPa is {} than that of any {}", m.name,
                                      pascal / 1e9, pascal > stiffest ? "larger" : "smaller",
                                      soft ? "metal, wood, glass or concrete" : "material"),
                          fmt::format("plain numbers are in {}; with a unit they are safe, as in \"{:g} GPa\"",
                                      study.units.label(dimension::stress), e));
            break;
        }
    }
}

}  // namespace dotsift
