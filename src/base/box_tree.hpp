#pragma once
// Boxes in a tree: which of many may be concerned is found without asking each.

#include <algorithm>
#include <cstdint>
#include <utility>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// A tree of boxes that is halved by the middles of its boxes along the longest way.
class BoxTree {
  public:
    BoxTree() = default;
    explicit BoxTree(std::vector<Box<3>> boxes);

    /// act(index) for every box for which concerned(box) holds, as it does for every larger one then.
    template <class Concerned, class Act>
    void visit(Concerned concerned, Act act) const {
        if (nodes_.empty()) return;
        std::vector<std::int32_t> open{0};
        while (!open.empty()) {
            const Node& n = nodes_[static_cast<std::size_t>(open.back())];
            const std::int32_t self = open.back();
            open.pop_back();
            if (!concerned(n.box)) continue;
            if (n.right >= 0) {
                open.push_back(n.right);
                open.push_back(self + 1);
                continue;
            }
            for (std::int32_t k = n.first; k < n.last; ++k) {
                const auto i = static_cast<std::size_t>(order_[static_cast<std::size_t>(k)]);
                if (n.last - n.first == 1 || concerned(boxes_[i])) act(i);
            }
        }
    }

    /// What lies nearest: reach(index, least) gives the distance of what is in a box, or anything larger if it is not
    /// below the least one so far. Boxes are asked for by their distance to a place, near ones first.
    template <class Reach>
    void nearest(const Vec3& place, double least, Reach reach) const {
        if (nodes_.empty()) return;
        std::vector<std::pair<double, std::int32_t>> open{{nodes_[0].box.distance_to(place), 0}};
        while (!open.empty()) {
            const auto [far, self] = open.back();
            open.pop_back();
            if (far >= least) continue;
            const Node& n = nodes_[static_cast<std::size_t>(self)];
            if (n.right >= 0) {
                const double first = nodes_[static_cast<std::size_t>(self) + 1].box.distance_to(place),
                             second = nodes_[static_cast<std::size_t>(n.right)].box.distance_to(place);
                const std::pair<double, std::int32_t> a{first, self + 1}, b{second, n.right};
                open.push_back(first < second ? b : a);
                open.push_back(first < second ? a : b);
                continue;
            }
            for (std::int32_t k = n.first; k < n.last; ++k) {
                const auto i = static_cast<std::size_t>(order_[static_cast<std::size_t>(k)]);
                if (n.last - n.first > 1 && boxes_[i].distance_to(place) >= least) continue;
                least = std::min(least, reach(i, least));
            }
        }
    }

  private:
    struct Node {
        Box<3> box;
        std::int32_t first = 0, last = 0;  ///< of the order
        std::int32_t right = -1;           ///< its second half; the first one follows; -1: a leaf
    };
    void build(std::int32_t first, std::int32_t last);

    std::vector<Box<3>> boxes_;
    std::vector<std::int32_t> order_;
    std::vector<Node> nodes_;
};

}  // namespace dotsift
