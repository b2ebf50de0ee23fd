#pragma once
// One level: a mesh made, solved, recovered, measured.

#include <functional>
#include <optional>

#include "part/part.hpp"
#include "quality/make_mesh.hpp"
#include "series/level.hpp"
#include "series/observer.hpp"
#include "solve/singular/singular_points.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Makes the mesh of a level.
template <int D>
using MeshMakerIn = std::function<MadeMeshIn<D>(MeshingLog&)>;
using MeshMaker = MeshMakerIn<2>;

/// Meshes and solves one level: the piece that every series is made of. `singular` are the study's singular points; the
/// fields of another level are a guess to begin an iteration with.
Level solve_level(const Study& study, const Part& part, const std::vector<SingularPoint>& singular,
                  const MeshMaker& make, const std::string& series, int index, StudyObserver& observer,
                  const LevelFields* before = nullptr);
Level solve_level(const Study& study, const SolidPart& part, const std::vector<SingularPoint>& singular,
                  const MeshMakerIn<3>& make, const std::string& series, int index, StudyObserver& observer,
                  const LevelFieldsIn<3>* before = nullptr);

/// One error map of every case: errors and energies add up, so that a case in which nothing happens does not count;
/// over the two physics the squares of the relative errors do. Nothing if a map is missing.
template <int D>
using CaseMap = std::function<std::optional<ErrorMap>(const CaseFieldsIn<D>&)>;
template <int D>
std::optional<ErrorMap> over_cases(const Study& study, const LevelFieldsIn<D>& fields, const CaseMap<D>& flux_map,
                                   const CaseMap<D>& stress_map);

}  // namespace dotsift
