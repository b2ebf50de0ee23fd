#pragma once
// Everything that the sizes of a study ask of a mesh: the field, and what is exact instead of a wish.

#include <cstdint>
#include <vector>

#include "sizes/size_field.hpp"

namespace dotsift {

/// An estimate this far above the limit of elements is refused before meshing, and one as far as this not even counted.
constexpr double surely_too_many = 1.5, plainly_too_many = 20;
/// The estimate. Throws InputError if it is too many.
double within_element_limit(double expected, std::int64_t most_elements);

/// An edge that is divided into a given number of pieces.
struct EdgeDivision {
    int edge = 0;  ///< of the part
    std::int64_t count = 1;
    double bias = 1;  ///< the longest piece over the shortest, in geometric steps
    enum class Finer { start, end, ends, middle };
    Finer finer = Finer::ends;
    int rule = -1;

    /// Where the pieces begin and end, as shares of the edge's length: count + 1 values from 0 to 1.
    [[nodiscard]] std::vector<double> shares() const;
};

/// Rows of thin elements beside an edge.
struct EdgeLayers {
    int edge = 0;
    bool left = true;  ///< on which side of the edge
    double first = 0;  ///< height of the first row
    std::int64_t rows = 0;
    double growth = 1;
    int rule = -1;  ///< index of the layer rule

    /// Height of all rows together.
    [[nodiscard]] double total() const;
    /// Distance of the top of each row from the boundary.
    [[nodiscard]] std::vector<double> heights() const;
};

/// Solids have no layers yet.
template <int D>
struct SizingIn {
    SizeFieldIn<D> field;
    std::vector<EdgeDivision> divisions = {};  ///< at most one an edge
    std::vector<EdgeLayers> layers = {};       ///< at most one for each side of an edge

    /// Every size multiplied: a division has so many fewer pieces, and layers of the same height so many fewer rows.
    [[nodiscard]] SizingIn scaled(double factor) const;
    /// The same for some size rules and some layer rules only, by their indices.
    [[nodiscard]] SizingIn scaled(double factor, const std::vector<int>& rules,
                                  const std::vector<int>& layer_rules) const;
};
using Sizing = SizingIn<2>;

}  // namespace dotsift
