#pragma once
// One solved mesh of a study.

#include <cmath>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/cost.hpp"
#include "goals/goal.hpp"
#include "mesh/mesh.hpp"
#include "part/solid/solid_part.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/estimate.hpp"

namespace dotsift {

/// The fields of a level; large.
template <int D>
struct LevelFieldsIn {
    MeshIn<D> mesh;
    LawsIn<D> laws;
    std::vector<CaseFieldsIn<D>> cases;  ///< at least one
    ErrorMap error;                      ///< of all cases and physics
    [[nodiscard]] FieldSourceIn<D> source(std::size_t load_case = 0) const {
        return {mesh, laws, cases[load_case], {}};
    }
    std::vector<double> wanted_size;  ///< at each element's centre, from the field that the mesh was made for
};
using LevelFields = LevelFieldsIn<2>;

/// The numbers of a level.
struct Level {
    std::string series;
    int index = 1;  ///< counted from 1 within its series
    MeshSummary mesh;
    std::vector<std::string> notes;  ///< what was noticed while its mesh was made
    std::int64_t unknowns = 0;
    LoadBalance balance;
    std::vector<LoadTotal> loads;            ///< of the first case
    std::vector<SupportReaction> reactions;  ///< of the first case
    std::vector<QuantityValue> quantities;
    std::vector<std::optional<GoalEstimate>> goals;  ///< of each quantity
    double estimated_error = 0;                      ///< relative, energy norm
    /// What no estimate of the fields sees, relative: the error of the geometry, and of values that formulas prescribe.
    double unseen_error = 0;
    std::optional<double> error_bound;    ///< relative like estimated_error, if it was asked for
    std::optional<TrueError> true_error;  ///< where the study gives the exact stress
    double factor_bytes = 0, residual = 0;
    std::vector<Cost> costs;
    std::shared_ptr<const LevelFields> fields;      ///< of a plane part
    std::shared_ptr<const LevelFieldsIn<3>> solid;  ///< of a solid
};

/// The fields of a level of a study in this space; null: it is one of the other.
template <int D>
const std::shared_ptr<const LevelFieldsIn<D>>& fields_of(const Level& level) {
    if constexpr (D == 2)
        return level.fields;
    else
        return level.solid;
}

/// What a level's mesh is made of, without its places.
inline const Topology& topology_of(const Level& level) {
    return level.solid ? static_cast<const Topology&>(level.solid->mesh) : level.fields->mesh;
}

/// The estimated errors of a level's elements.
inline const ErrorMap& errors_of(const Level& level) {
    return level.solid ? level.solid->error : level.fields->error;
}

/// The estimated error over the true one, in the energy norm; nothing where that is not known, or zero.
inline std::optional<double> effectivity(const Level& level) {
    if (!level.true_error || !(level.true_error->error2 > 0)) return {};
    return std::sqrt(errors_of(level).error2 / level.true_error->error2);
}

}  // namespace dotsift
