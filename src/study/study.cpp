#include "study/study.hpp"

#include <array>

namespace dotsift {

const char* name_of(Field field) {
    constexpr std::array names{"ux",         "uy",         "displacement", "sxx",           "syy",
                               "szz",        "sxy",        "von_mises",    "max_principal", "min_principal",
                               "reaction_x", "reaction_y", "strain_energy"};
    return names[static_cast<std::size_t>(field)];
}

const char* title_of(Field field) {
    constexpr std::array names{"displacement along x",
                               "displacement along y",
                               "displacement",
                               "stress σxx",
                               "stress σyy",
                               "stress σzz",
                               "shear stress σxy",
                               "von Mises stress",
                               "largest principal stress",
                               "smallest principal stress",
                               "reaction along x",
                               "reaction along y",
                               "strain energy"};
    return names[static_cast<std::size_t>(field)];
}

Dimension dimension_of(Field field) {
    switch (field) {
        case Field::ux:
        case Field::uy:
        case Field::displacement:
            return dimension::length;
        case Field::reaction_x:
        case Field::reaction_y:
            return dimension::force;
        case Field::strain_energy:
            return dimension::moment;
        default:
            return dimension::stress;
    }
}

const char* name_of(Take take) {
    constexpr std::array names{"maximum", "minimum", "mean", "value", "total"};
    return names[static_cast<std::size_t>(take)];
}

const MaterialSpec* material_of(const Study& study, const std::string& region) {
    const MaterialSpec* rest = nullptr;
    for (const auto& m : study.materials) {
        if (fits_any(region, m.on)) return &m;
        if (m.on.empty() && !rest) rest = &m;
    }
    return rest;
}

double LayerSpec::total() const {
    double sum = 0, height = first;
    for (std::int64_t k = 0; k < rows; ++k, height *= growth) sum += height;
    return sum;
}

ElementShape MeshSpec::shape_in(const std::string& region) const {
    for (const auto& r : regions)
        if (r.name == region) return r.shape;
    return shape;
}

const char* name_of(Criterion criterion) {
    constexpr std::array<const char*, criterion_count> names{"shape",          "scaled_jacobian", "jacobian_ratio",
                                                             "smallest_angle", "largest_angle",   "edge_ratio",
                                                             "skewness",       "taper",           "size_ratio"};
    return names[static_cast<std::size_t>(criterion)];
}

}  // namespace dotsift
