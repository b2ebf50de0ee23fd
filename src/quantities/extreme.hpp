#pragma once
// Where a field is largest, and what a quantity is taken over.

#include <string>
#include <vector>

#include "quantities/field_values.hpp"

namespace dotsift {

/// What counts for a quantity over an area or a volume.
class RegionsOf {
  public:
    RegionsOf(const Topology& mesh, const std::vector<std::string>& on) : all_(on.empty()), meant_(mesh, on) {}
    /// The names are those of regions, or there are none: the quantity is not over boundaries.
    [[nodiscard]] bool any() const { return all_ || meant_.any_region(); }
    [[nodiscard]] bool has(std::size_t element) const { return all_ || meant_.element(element); }

  private:
    bool all_;
    Meant meant_;
};

template <int D>
struct ExtremeIn {
    double value = 0;
    Vec<D> position;
    std::size_t element = 0;
    Vec<D> xi;  ///< reference coordinates in it
};
using Extreme = ExtremeIn<2>;

/// Largest (or smallest) value over the part or, if patterns are given, over boundaries or regions; of these, seen from
/// the regions `inside`, or from both sides. Searched are eight intervals along a side of the plane, four each way
/// over one in space, and a lattice of four intervals each way in each element near the top, and from the best of these
/// points on the field itself. Of the elements' own fields, the nodes or the integration points of each element are.
template <int D>
ExtremeIn<D> find_extreme(Field field, bool largest, const FieldSourceIn<D>& source, const std::vector<std::string>& on,
                          const std::vector<std::string>& inside = {});

}  // namespace dotsift
