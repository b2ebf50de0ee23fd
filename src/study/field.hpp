#pragma once
// What may be asked for, pictured and watched: one row of a table for each field.

#include <array>

#include "study/units.hpp"

namespace dotsift {

/// What a quantity is made of.
enum class Field {
    ux,
    uy,
    displacement,
    sxx,
    syy,
    szz,
    sxy,
    von_mises,
    max_principal,
    min_principal,
    reaction_x,
    reaction_y,
    strain_energy,
    max_shear,
    srr,
    stt,
    srt,
    exx,
    eyy,
    exy,
    ezz,
    ur,
    ut,
    potential,
    flux_x,
    flux_y,
    flux,
    reaction_flow,
    section_force_x,
    section_force_y,
    section_moment,
    dissipation,
    turn,
    uz,
    syz,
    szx,
    eyz,
    ezx,
    flux_z,
    reaction_z
};
inline constexpr int field_count = static_cast<int>(Field::reaction_z) + 1;

/// What a field is made from. Of those from `reaction` on it is one number of supports, of a path, of the whole.
enum class FieldOf {
    displacement,
    stress,
    strain,
    potential,
    flux,
    reaction,
    reaction_flow,
    section,
    strain_energy,
    dissipation,
    turn
};

struct FieldRow {
    const char* name;   ///< in study files and results
    const char* title;  ///< in words, for pictures and reports
    FieldOf of;
    Dimension dimension;
    bool linear = true;  ///< in the solution
};
/// In the order of Field.
inline constexpr std::array<FieldRow, field_count> field_table{
    {{"ux", "displacement along x", FieldOf::displacement, dimension::length},
     {"uy", "displacement along y", FieldOf::displacement, dimension::length},
     {"displacement", "displacement", FieldOf::displacement, dimension::length, false},
     {"sxx", "stress σxx", FieldOf::stress, dimension::stress},
     {"syy", "stress σyy", FieldOf::stress, dimension::stress},
     {"szz", "stress σzz", FieldOf::stress, dimension::stress},
     {"sxy", "shear stress σxy", FieldOf::stress, dimension::stress},
     {"von_mises", "von Mises stress", FieldOf::stress, dimension::stress, false},
     {"max_principal", "largest principal stress", FieldOf::stress, dimension::stress, false},
     {"min_principal", "smallest principal stress", FieldOf::stress, dimension::stress, false},
     {"reaction_x", "reaction along x", FieldOf::reaction, dimension::force},
     {"reaction_y", "reaction along y", FieldOf::reaction, dimension::force},
     {"strain_energy", "strain energy", FieldOf::strain_energy, dimension::moment, false},
     {"max_shear", "largest shear stress", FieldOf::stress, dimension::stress, false},
     {"srr", "radial stress σrr", FieldOf::stress, dimension::stress},
     {"stt", "hoop stress σθθ", FieldOf::stress, dimension::stress},
     {"srt", "shear stress σrθ", FieldOf::stress, dimension::stress},
     {"exx", "strain εxx", FieldOf::strain, dimension::none},
     {"eyy", "strain εyy", FieldOf::strain, dimension::none},
     {"exy", "shear strain γxy", FieldOf::strain, dimension::none},
     {"ezz", "strain εzz", FieldOf::strain, dimension::none},
     {"ur", "radial displacement", FieldOf::displacement, dimension::length},
     {"ut", "tangential displacement", FieldOf::displacement, dimension::length},
     {"potential", "potential", FieldOf::potential, dimension::temperature},
     {"flux_x", "flux along x", FieldOf::flux, dimension::heat_flux},
     {"flux_y", "flux along y", FieldOf::flux, dimension::heat_flux},
     {"flux", "flux", FieldOf::flux, dimension::heat_flux, false},
     {"reaction_flow", "reaction flow", FieldOf::reaction_flow, dimension::power},
     {"section_force_x", "section force along x", FieldOf::section, dimension::force},
     {"section_force_y", "section force along y", FieldOf::section, dimension::force},
     {"section_moment", "section moment", FieldOf::section, dimension::moment},
     {"dissipation", "dissipation", FieldOf::dissipation, dimension::power_times_temperature},
     {"turn", "turn", FieldOf::turn, dimension::none},
     {"uz", "displacement along z", FieldOf::displacement, dimension::length},
     {"syz", "shear stress σyz", FieldOf::stress, dimension::stress},
     {"szx", "shear stress σzx", FieldOf::stress, dimension::stress},
     {"eyz", "shear strain γyz", FieldOf::strain, dimension::none},
     {"ezx", "shear strain γzx", FieldOf::strain, dimension::none},
     {"flux_z", "flux along z", FieldOf::flux, dimension::heat_flux},
     {"reaction_z", "reaction along z", FieldOf::reaction, dimension::force}}};

constexpr const FieldRow& row_of(Field field) {
    return field_table[static_cast<std::size_t>(field)];
}
constexpr const char* name_of(Field field) {
    return row_of(field).name;
}
constexpr Dimension dimension_of(Field field) {
    return row_of(field).dimension;
}
/// Of solids alone.
constexpr bool is_of_space(Field field) {
    return field >= Field::uz;
}
/// Of what a plane has alone: a path, or a turn in it.
constexpr bool is_of_plane(Field field) {
    return row_of(field).of == FieldOf::section || row_of(field).of == FieldOf::turn;
}
/// A sum over supports.
constexpr bool is_reaction(Field field) {
    return row_of(field).of == FieldOf::reaction || row_of(field).of == FieldOf::reaction_flow;
}
/// A number of the whole solution.
constexpr bool is_energy(Field field) {
    return row_of(field).of == FieldOf::strain_energy || row_of(field).of == FieldOf::dissipation;
}
/// A sum over a path.
constexpr bool is_section(Field field) {
    return row_of(field).of == FieldOf::section;
}
/// A number of supports, of the whole or of a path, and no field.
constexpr bool is_total(Field field) {
    return row_of(field).of >= FieldOf::reaction;
}
constexpr bool is_of_flux(Field field) {
    return row_of(field).of == FieldOf::flux;
}
/// Made from the potential.
constexpr bool is_of_potential(Field field) {
    const FieldOf of = row_of(field).of;
    return of == FieldOf::potential || of == FieldOf::flux || of == FieldOf::reaction_flow ||
           of == FieldOf::dissipation;
}
constexpr bool is_of_displacement(Field field) {
    return row_of(field).of == FieldOf::displacement;
}
/// Made from recovered stress or strain.
constexpr bool is_of_stress(Field field) {
    return row_of(field).of == FieldOf::stress || row_of(field).of == FieldOf::strain;
}

}  // namespace dotsift
