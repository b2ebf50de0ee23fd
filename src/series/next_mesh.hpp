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
template <int D>
struct NextMeshIn {
    SizingIn<D> sizes;
    std::shared_ptr<const LevelFieldsIn<D>> before;  // the level before
    std::vector<char> anew;  // only these elements of it are made anew; empty: the whole mesh is
};

/// Chooses by the kind of a series and its strategy.
template <int D>
class MeshChooser {
  public:
    MeshChooser(const Study& study, const PartIn<D>& part);

    /// The study's own sizes, or those of a mesh's elements.
    [[nodiscard]] SizingIn<D> first_sizes(const MeshIn<D>* start) const;
    /// The mesh after `last`, which was made for `sizes`, and is the one of this number; `first` are the series' first
    /// sizes.
    [[nodiscard]] NextMeshIn<D> next(const SeriesSpec& spec, const SizingIn<D>& first, const SizingIn<D>& sizes,
                                     const Level& last, const DrivingError& driving, int levels) const;

    /// Of the study; of a solid none are known.
    [[nodiscard]] const std::vector<SingularPoint>& singular() const { return singular_; }

  private:
    [[nodiscard]] NextMeshIn<D> adapted(const SeriesSpec& spec, const SizingIn<D>& sizes, const Level& last,
                                        const DrivingError& driving) const;
    [[nodiscard]] SizeFieldIn<D> fitted(const SizeFieldIn<D>& field, double wanted, const SizeFieldIn<D>& sizes,
                                        const Level& last) const;
    [[nodiscard]] std::vector<SizeSourceIn<D>> sources_at_points(const SeriesSpec& spec, const MeshIn<D>& mesh,
                                                                 const ErrorMap& map, const EvenShares& even,
                                                                 const ResizeLimits& limits) const;

    const Study& study_;
    const PartIn<D>& part_;
    SizingIn<D> base_;
    std::vector<SingularPoint> singular_;
};

}  // namespace dotsift
