#pragma once
// What the next mesh of a series is to be.

#include <memory>
#include <vector>

#include "part/part.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "series/driving_error.hpp"
#include "series/level.hpp"
#include "sizes/sizing.hpp"
#include "solve/singular/singular_points.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What the next mesh is to be.
struct NextMesh {
    Sizing sizes;
    std::shared_ptr<const LevelFields> before;  // the level before
    std::vector<char> anew;                     // only these elements of it are made anew; empty: the whole mesh is
};

/// Chooses by the kind of a series and its strategy.
class MeshChooser {
  public:
    MeshChooser(const Study& study, const Part& part);

    /// The study's own sizes, or those of a mesh's elements.
    [[nodiscard]] Sizing first_sizes(const Mesh* start) const;
    /// The mesh after `last`, which was made for `sizes`, and is the one of this number; `first` are the series' first
    /// sizes.
    [[nodiscard]] NextMesh next(const SeriesSpec& spec, const Sizing& first, const Sizing& sizes, const Level& last,
                                const DrivingError& driving, int levels) const;

    [[nodiscard]] const std::vector<SingularPoint>& singular() const { return singular_; }

  private:
    [[nodiscard]] NextMesh adapted(const SeriesSpec& spec, const Sizing& sizes, const Level& last,
                                   const DrivingError& driving) const;
    [[nodiscard]] SizeField fitted(const SizeField& field, double wanted, const SizeField& sizes,
                                   const Level& last) const;
    [[nodiscard]] std::vector<SizeSource> sources_at_points(const SeriesSpec& spec, const Mesh& mesh,
                                                            const ErrorMap& map, const EvenShares& even,
                                                            const ResizeLimits& limits) const;

    const Study& study_;
    const Part& part_;
    Sizing base_;
    std::vector<SingularPoint> singular_;
};

}  // namespace dotsift
