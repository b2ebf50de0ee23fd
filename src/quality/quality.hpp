#pragma once
// How good the elements of a mesh are, by many measures, against limits.

#include <array>
#include <functional>
#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// One value a measure; NaN where it means nothing.
using MeasureSet = std::array<double, criterion_count>;
/// For each measure one value an element.
using MeasureValues = std::array<std::vector<double>, criterion_count>;

/// shape: mean ratio. scaled_jacobian, smallest_angle, largest_angle (degrees), edge_ratio, skewness, taper (degrees,
/// of quadrilaterals): see mesh/elements/shape.hpp. jacobian_ratio: lower bound of the Jacobian over its mean, of the
/// element with its curved sides. size_ratio: element size over the wanted one, or the inverse if that is larger;
/// `wanted` may be empty. shape, edge_ratio and size_ratio mean nothing for rows of layers, which are thin on purpose.
MeasureValues measure_quality(const Mesh& mesh, const std::vector<double>& wanted);
/// Of tetrahedra; angles are those between their sides, and skewness and taper mean nothing.
MeasureValues measure_quality(const SolidMesh& mesh, const std::vector<double>& wanted);
/// The same for one element; wanted = 0: unknown.
MeasureSet measure_element(const Mesh& mesh, std::size_t element, double wanted);

enum class Grade : std::uint8_t { good, acceptable, poor, none };

/// Whether larger values of a measure are better.
bool more_is_better(Criterion measure);
/// The measure in words, for tables and pictures.
const char* title_of(Criterion measure);
/// Its unit, or nothing.
const char* unit_of(Criterion measure);

struct Limits {
    double good = 0, acceptable = 0;
    [[nodiscard]] Grade grade(Criterion measure, double value) const;
    /// How far a value is from good, in steps from good to acceptable: above 1 it is poor. What makes one element worse
    /// than another.
    [[nodiscard]] double badness(double value) const;
};
/// The limits that hold where a study says nothing else.
Limits standard_limits(Criterion measure, ElementKind kind);

/// The limits of each element for one measure. Keeps references to both.
template <int D>
class LimitFinderIn {
  public:
    LimitFinderIn(const MeshIn<D>& mesh, const std::vector<QualitySpec>& specs);
    [[nodiscard]] Limits at(Criterion measure, std::size_t element) const;

  private:
    const MeshIn<D>& mesh_;
    const std::vector<QualitySpec>& specs_;
    std::vector<Meant> on_;                                          ///< of each spec
    std::vector<std::function<bool(const Vec<D>& centre)>> inside_;  ///< of each spec; empty: everywhere
};
using LimitFinder = LimitFinderIn<2>;

struct GradeCounts {
    std::size_t good = 0, acceptable = 0, poor = 0;
    double worst = 0, mean = 0;
    std::size_t worst_element = 0;
};

/// An element that is worth looking at.
template <int D>
struct PoorElementIn {
    std::size_t element = 0;
    Vec<D> position;
    Criterion measure = Criterion::shape;
    double value = 0;
    Grade grade = Grade::good;
    std::string cause;  ///< "narrow part", "short edge", "sharp corner" ..., as far as it can be seen; may be empty
};

/// Elements across a narrow place of the part.
struct AcrossCount {
    Vec2 a, b;
    double width = 0;
    int elements = 0;
};

template <int D>
struct QualityReportIn {
    MeasureValues values;
    std::array<GradeCounts, criterion_count> counts;
    std::vector<Grade> grade;  ///< of each element: the worst over all measures
    std::size_t good = 0, acceptable = 0, poor = 0;
    std::vector<PoorElementIn<D>> worst;  ///< worst first
    std::vector<AcrossCount> across;      ///< of the plane
};
using QualityReport = QualityReportIn<2>;

/// Judges a mesh. `part` may be null (a mesh from a file): then no causes that lie in the part are told, and nothing is
/// counted across. With `every_poor` all poor elements are among the worst.
QualityReport judge_quality(const Mesh& mesh, const std::vector<double>& wanted, const std::vector<QualitySpec>& limits,
                            const Part* part, std::size_t worst_count = 10, bool every_poor = false);
QualityReportIn<3> judge_quality(const SolidMesh& mesh, const std::vector<double>& wanted,
                                 const std::vector<QualitySpec>& limits, const SolidPart* part,
                                 std::size_t worst_count = 10);

}  // namespace dotsift
