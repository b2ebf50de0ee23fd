#pragma once
// The wanted element size at every place: the smallest of many rules, with limited growth between them.

#include <algorithm>
#include <array>
#include <cstdint>
#include <memory>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// A point, segment, triangle or circular arc at which a size is wanted.
template <int D>
struct SizeSourceIn {
    enum class Form : char { point, segment, triangle, arc };
    Form form = Form::point;
    std::array<Vec<D>, 3> corners{};  ///< of an arc: its ends, anticlockwise (in space either way round) and
                                      ///< less than half a turn apart; the centre
    double size = 0;                  ///< at the first corner
    Vec<D> gradient{};                ///< of the size along the segment or over the triangle
    double reach = 0;                 ///< the size holds to this distance
    int rule = -1;                    ///< which rule asked for it; told to whoever asks why

    [[nodiscard]] double size_at(const Vec<D>& p) const { return size + dot(gradient, p - corners[0]); }
    [[nodiscard]] double least() const;
};
using SizeSource = SizeSourceIn<2>;

/// h(x) = factor * max(smallest, min(global, min over sources of (size + slope * (distance(x, source) - reach)))), the
/// size being the one at the source's point that is nearest to x.
/// The minimum makes the growth from any source at most `slope` by construction; no smoothing pass is needed.
/// Found by branch and bound in a tree of bounding boxes, O(log n) a query. Immutable; safe to share between threads.
template <int D>
class SizeFieldIn {
  public:
    /// Lengths in the study's unit; slope > 0 is growth - 1. Throws std::invalid_argument on a size that is not > 0.
    SizeFieldIn(double global, double slope, double smallest, std::vector<SizeSourceIn<D>> sources);

    [[nodiscard]] double at(const Vec<D>& x) const { return query(x).size; }
    /// The same, faster where calls come from neighbouring places: the source that decided is kept in `hint` (-1: none)
    /// and tried first at the next call.
    [[nodiscard]] double at(const Vec<D>& x, std::int32_t& hint) const;

    struct Answer {
        double size;
        int rule;  ///< of the source that decided; -1: the global size
    };
    [[nodiscard]] Answer query(const Vec<D>& x) const;

    /// The same field with the size at every place multiplied.
    [[nodiscard]] SizeFieldIn scaled(double factor) const;
    /// The same field, but its size changes by no more than this times the distance.
    [[nodiscard]] SizeFieldIn no_steeper(double slope) const;
    /// The same field with the sizes of the sources of some rules multiplied.
    [[nodiscard]] SizeFieldIn scaled(double factor, const std::vector<int>& rules) const;
    /// The same rules with more sources. Their sizes are absolute, whatever the factor.
    [[nodiscard]] SizeFieldIn with(std::vector<SizeSourceIn<D>> more) const;
    /// The same where more is needed for there to be a mesh at all: that may be smaller than the smallest size, which
    /// holds for what rules ask.
    [[nodiscard]] SizeFieldIn refined(std::vector<SizeSourceIn<D>> more) const;

    /// The same field, but nowhere smaller than sizes that are given at some places and fall from there by `fall` times
    /// the distance: what is beside elements that stay. These sizes are absolute, whatever the factor.
    [[nodiscard]] SizeFieldIn no_less_than(const std::vector<SizeSourceIn<D>>& floors, double fall) const;

    [[nodiscard]] double global() const { return global_ * factor_; }
    [[nodiscard]] double slope() const { return slope_; }
    /// The size changes by no more than this times the distance.
    [[nodiscard]] double steepest() const { return std::max(slope_ * factor_, floor_ ? floor_->slope_ : 0.0); }

  private:
    struct Node {
        Box<D> box;
        double least;      ///< smallest size below
        int first, last;   ///< sources of a leaf
        int right;         ///< right child; the left one follows its parent; -1: leaf
        double reach = 0;  ///< the largest below
    };
    struct Boxed {
        Box<D> box;
        SizeSourceIn<D> source;
    };
    int build(std::vector<Boxed>& sources, int first, int last);
    /// The smallest size below `best` at x before the factor is applied, and its source.
    void search(const Vec<D>& x, double& best, std::int32_t& source) const;

    /// What is found, with smallest size and factor.
    [[nodiscard]] double bounded(double found, const Vec<D>& x) const;

    double global_, slope_, smallest_, factor_ = 1;
    std::shared_ptr<const SizeFieldIn> floor_;  ///< top_ less the floor, which is then the smallest of many, too
    double top_ = 0;
    std::vector<SizeSourceIn<D>> sources_;
    std::vector<Node> nodes_;
};
using SizeField = SizeFieldIn<2>;

}  // namespace dotsift
