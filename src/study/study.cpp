#include "study/study.hpp"

#include <array>
#include <cmath>

namespace dotsift {

const std::vector<std::string>& pictured_names() {
    static const std::vector<std::string> names{"none", "last", "ends", "all"};
    return names;
}

const char* name_of(SeriesKind kind) {
    constexpr std::array names{"uniform", "local", "adaptive"};
    return names[static_cast<std::size_t>(kind)];
}

std::string title_of(const Study& study, Field field) {
    if (field == Field::potential) return study.conduction.potential;
    if (study.plane == Plane::axisymmetric && field == Field::szz) return "hoop stress σzz";
    const std::string title = row_of(field).title;
    return is_of_potential(field) && study.conduction.of_heat() ? "heat " + title : title;
}

const char* name_of(Take take) {
    constexpr std::array names{"maximum", "minimum", "mean", "value", "integral", "membrane", "linearised", "total"};
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

namespace {

Vec2 turned_by(const Vec2& v, double angle) {
    return v * std::cos(angle) + turned_left(v) * std::sin(angle);
}

}  // namespace

Vec2 PeriodicSpec::turned(const Vec2& v) const {
    return turn ? turned_by(v, *turn) : v;
}

Vec2 PeriodicSpec::turned_back(const Vec2& v) const {
    return turn ? turned_by(v, -*turn) : v;
}

double CaseSpec::of_load(const std::string& load) const {
    for (const auto& [n, f] : factors)
        if (n == load) return f;
    return 0;
}

double CaseSpec::of_other(const std::string& other) const {
    for (const auto& [n, f] : factors)
        if (n == other) return f;
    return 1;
}

bool Study::stiffness_changes() const {
    return elastic() && std::any_of(materials.begin(), materials.end(),
                                    [](const MaterialSpec& m) { return m.modulus_of_temperature.has_value(); });
}

bool Study::conductivity_changes() const {
    return conducts() && std::any_of(materials.begin(), materials.end(),
                                     [](const MaterialSpec& m) { return m.conductivity_of_temperature.has_value(); });
}

Where Study::place_of(const std::string& section, const std::string& what, Where otherwise) const {
    const auto found = places.find({section, what});
    return found == places.end() ? otherwise : found->second;
}

const Formula& Study::thickness_in(const std::string& region) const {
    for (const auto& [name, t] : thickness_of)
        if (name == region) return t;
    return thickness;
}

std::vector<CaseSpec> Study::cases_to_solve() const {
    if (!cases.empty()) return cases;
    CaseSpec all;
    for (const auto& l : loads) all.factors.emplace_back(l.name, 1.0);
    return {all};
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
