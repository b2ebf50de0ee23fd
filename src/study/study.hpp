#pragma once
// A study as plain data, in the order of the work. Every number is in the study's units.

#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.hpp"
#include "study/diagnostics.hpp"
#include "study/formula.hpp"
#include "study/units.hpp"

namespace dotsift {

enum class Plane { stress, strain };
enum class Primitive { rectangle, circle, ellipse, polygon, slot };

/// One shape of the outline, added to or cut from what the shapes before it made.
struct ShapeSpec {
    Where where;
    bool sound = false;  ///< was read without a fault
    bool add = true;
    Primitive primitive = Primitive::rectangle;
    Vec2 corner{}, size{};                                   ///< rectangle
    Vec2 centre{};                                           ///< circle, ellipse
    double radius = 0;                                       ///< circle
    Vec2 radii{};                                            ///< ellipse: half axes
    double angle = 0;                                        ///< rectangle (about its corner), ellipse: radians
    std::vector<Vec2> corners;                               ///< polygon
    std::vector<double> rounds;                              ///< rectangle, polygon: radius at each corner, 0 = sharp
    Vec2 from{}, to{};                                       ///< slot: centres of its ends
    double width = 0;                                        ///< slot
    std::string name;                                        ///< of all its edges; may be empty
    std::vector<std::pair<std::string, std::string>> names;  ///< side -> boundary name
};

struct MaterialSpec {
    std::string name;
    Where where;
    double youngs_modulus = 0, poissons_ratio = 0;
};

enum class Hold { fixed, symmetry, values };

struct SupportSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;  ///< patterns of boundary names
    std::optional<Vec2> at;       ///< instead of `on`: a corner of the outline
    Hold hold = Hold::values;
    std::array<std::optional<Formula>, 2> displacement;  ///< for Hold::values
    Vec2 about{};
};

enum class LoadKind { traction, pressure, force };

struct LoadSpec {
    std::string name;
    Where where;
    std::vector<std::string> on;
    LoadKind kind = LoadKind::traction;
    std::array<Formula, 2> components;  ///< traction or force; pressure uses the first
    std::optional<Formula> spread;      ///< force: how it is distributed; nothing: evenly
    Vec2 about{};
};

struct LocalSize {
    std::string name;
    Where where;
    std::vector<std::string> on;
    double size = 0;
};

struct SizeSpec {
    Where where;
    std::optional<double> global;
    double growth = 1.3;              ///< largest ratio of one element to the next
    double segments_per_circle = 16;  ///< elements round a full turn of a curved boundary
    std::optional<double> smallest;   ///< no rule goes below this
    std::int64_t most_elements = 1'000'000;
    std::vector<LocalSize> local;
};

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
    strain_energy
};
enum class Take { maximum, minimum, mean, value, total };

struct QuantitySpec {
    std::string name;
    Where where;
    Field field = Field::von_mises;
    Take take = Take::maximum;
    std::vector<std::string> on;      ///< boundaries or supports; empty: the whole part
    std::optional<Vec2> at;           ///< for Take::value
    std::optional<Formula> formula;   ///< of other quantities; then the fields above mean nothing
    std::optional<double> target;     ///< wanted numerical uncertainty, relative
    std::optional<double> reference;  ///< a value known from elsewhere, shown beside the result
};

enum class SeriesKind { uniform, adaptive };

struct SeriesSpec {
    std::string name;
    Where where;
    SeriesKind kind = SeriesKind::uniform;
    double ratio = 1.5;  ///< uniform: one level's sizes over the next one's
    int most_levels = 4;
    std::int64_t most_elements = 200'000;
    std::optional<double> error_target;   ///< adaptive: relative energy-norm error
    std::optional<double> change_target;  ///< largest relative change of the quantities that have a target
};

/// Stress known in closed form, for studies that check the program itself.
struct ExactStress {
    Where where;
    std::array<Formula, 3> components;  ///< sxx, syy, sxy
    Vec2 about{};
};

struct Study {
    std::filesystem::path path;
    std::string source;  ///< the file's text
    std::string title;
    UnitSystem units;
    Plane plane = Plane::stress;
    double thickness = 1;
    std::string region_name = "part";
    Where part_where;
    std::vector<ShapeSpec> shapes;
    std::vector<MaterialSpec> materials;
    std::vector<SupportSpec> supports;
    std::vector<LoadSpec> loads;
    SizeSpec sizes;
    std::vector<SeriesSpec> series;
    std::vector<QuantitySpec> quantities;
    std::optional<ExactStress> exact_stress;
};

/// The name of a field as it stands in study files and results.
const char* name_of(Field field);
/// The same in words, for pictures and reports.
const char* title_of(Field field);
Dimension dimension_of(Field field);
const char* name_of(Take take);

}  // namespace dotsift
