#include "solve/material/thermal_strain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// Of the range of temperatures: a step in which a constant is differentiated, whose error is its square.
constexpr double step_share = 1e-4;

/// act(slot, region) once for each slot that the patterns of regions take; all of them if there are none.
template <class Act>
void each_slot(const Topology& mesh, const std::vector<std::string>& on, Act act) {
    std::vector<char> done(mesh.node_of_slot.size(), 0);
    const Meant meant(mesh, on);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!on.empty() && !meant.element(e)) continue;
        for (const auto slot : mesh.slots_of(e)) {
            const auto s = static_cast<std::size_t>(slot);
            if (std::exchange(done[s], 1)) continue;
            act(s, static_cast<std::size_t>(mesh.region[e]));
        }
    }
}

template <int D>
std::vector<double> prescribed_change(const MeshIn<D>& mesh, const Study& study, const CaseSpec& load_case) {
    std::vector<double> change;
    for (const auto& load : study.loads) {
        if (load.kind != LoadKind::temperature_change) continue;
        const double f = load_case.of_load(load.name);
        if (f == 0) continue;
        if (change.empty()) change.assign(mesh.node_of_slot.size(), 0.0);
        const FormulaEvaluator value(load.components[0], study.path.string(), D == 2 ? place_names() : space_names());
        each_slot(mesh, load.on, [&](std::size_t s, std::size_t) {
            FormulaPlaceIn<D> place{mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])], {}, {}};
            place.about[0] = load.about[0];
            place.about[1] = load.about[1];
            change[s] += f * value(place);
        });
    }
    return change;
}

/// A constant of one material over the temperature, relative to that at the reference.
class RelativeConstant {
  public:
    RelativeConstant(const Formula& formula, double at_reference, const Study& study, bool positive)
        : formula_(formula),
          value_(formula, study.path.string(), {temperature_name}),
          file_(study.path.string()),
          at_reference_(at_reference),
          positive_(positive) {}
    [[nodiscard]] double operator()(double temperature) const {
        const double value = value_.with({temperature});
        if (std::isfinite(value) && (value > 0 || !positive_)) return value / at_reference_;
        Place place = place_in(file_, formula_.where);
        throw InputError(fmt::format("the constant \"{}\" is {:g} at T = {:g}, but {} is wanted", formula_.source,
                                     value, temperature, positive_ ? "a number above zero" : "a number"),
                         place, "give it for all temperatures that occur; max(..., small) keeps it above zero");
    }
    /// By the temperature.
    [[nodiscard]] double slope(double temperature, double step) const {
        return step > 0 ? ((*this)(temperature + step) - (*this)(temperature - step)) / (2 * step) : 0;
    }

  private:
    const Formula& formula_;
    FormulaEvaluator value_;
    std::string file_;
    double at_reference_;
    bool positive_;
};

/// One of each region, where it has one.
using Constants = std::vector<std::optional<RelativeConstant>>;

template <class AtReference>
Constants constants_of(const Topology& mesh, const Study& study, std::optional<Formula> MaterialSpec::*of,
                       AtReference at_reference, bool positive) {
    Constants out;
    bool any = false;
    for (const auto& region : mesh.region_names) {
        const MaterialSpec* material = material_of(study, region);
        out.emplace_back();
        if (!material || !(material->*of)) continue;
        out.back().emplace(*(material->*of), at_reference(*material), study, positive);
        any = true;
    }
    return any ? std::move(out) : Constants{};
}

}  // namespace

namespace {

/// `prescribed` by loads.
ThermalStrain strain_of(const Topology& mesh, const Study& study, std::vector<double> prescribed,
                        const std::vector<double>& temperature) {
    ThermalStrain out;
    out.change = std::move(prescribed);
    const double reference = study.conduction.reference;
    if (!temperature.empty()) {
        if (out.change.empty()) out.change.assign(temperature.size(), 0.0);
        for (std::size_t s = 0; s < temperature.size(); ++s) out.change[s] += temperature[s] - reference;
    }
    if (out.change.empty()) return out;
    const auto [low, high] = std::minmax_element(out.change.begin(), out.change.end());
    const double step = step_share * (std::max(*high, 0.0) - std::min(*low, 0.0));
    const auto moduli = constants_of(
        mesh, study, &MaterialSpec::modulus_of_temperature, [](const MaterialSpec& m) { return m.youngs_modulus; },
        true);
    if (!moduli.empty()) {
        out.stiffness_factor.assign(out.change.size(), 1.0);
        out.stiffness_slope.assign(out.change.size(), 0.0);
        each_slot(mesh, {}, [&](std::size_t s, std::size_t region) {
            if (!moduli[region]) return;
            out.stiffness_factor[s] = (*moduli[region])(reference + out.change[s]);
            out.stiffness_slope[s] = moduli[region]->slope(reference + out.change[s], step);
        });
    }
    const auto expansions = constants_of(
        mesh, study, &MaterialSpec::expansion_of_temperature, [](const MaterialSpec& m) { return m.expansion[0]; },
        false);
    if (expansions.empty()) return out;
    out.slope.assign(out.change.size(), 1.0);
    each_slot(mesh, {}, [&](std::size_t s, std::size_t region) {
        if (!expansions[region]) return;
        const auto& relative = *expansions[region];
        const double by = out.change[s], at = reference + by, value = relative(at);
        out.slope[s] = value + by * relative.slope(at, step);
        out.change[s] = by * value;
    });
    return out;
}

}  // namespace

template <int D>
ThermalStrain thermal_strain(const MeshIn<D>& mesh, const Study& study, const CaseSpec& load_case,
                             const std::vector<double>& temperature) {
    return strain_of(mesh, study, prescribed_change(mesh, study, load_case), temperature);
}
template ThermalStrain thermal_strain<2>(const MeshIn<2>&, const Study&, const CaseSpec&, const std::vector<double>&);
template ThermalStrain thermal_strain<3>(const MeshIn<3>&, const Study&, const CaseSpec&, const std::vector<double>&);

std::vector<double> conductivity_factor(const Topology& mesh, const Study& study,
                                        const std::vector<double>& temperature) {
    const auto constants = constants_of(
        mesh, study, &MaterialSpec::conductivity_of_temperature,
        [](const MaterialSpec& m) { return (*m.conductivity)[0]; }, true);
    if (constants.empty()) return {};
    std::vector<double> out(temperature.size(), 1.0);
    each_slot(mesh, {}, [&](std::size_t s, std::size_t region) {
        if (constants[region]) out[s] = (*constants[region])(temperature[s]);
    });
    return out;
}

}  // namespace dotsift
