#include "base/box_tree.hpp"

#include <algorithm>
#include <numeric>

namespace dotsift {

namespace {

constexpr std::int32_t boxes_of_leaf = 4;

}  // namespace

BoxTree::BoxTree(std::vector<Box<3>> boxes) : boxes_(std::move(boxes)), order_(boxes_.size()) {
    std::iota(order_.begin(), order_.end(), 0);
    nodes_.reserve(boxes_.size());
    if (!boxes_.empty()) build(0, static_cast<std::int32_t>(boxes_.size()));
}

void BoxTree::build(std::int32_t first, std::int32_t last) {
    const std::size_t self = nodes_.size();
    nodes_.push_back({{}, first, last, -1});
    Box<3> middles;
    const auto box_of = [&](std::int32_t i) -> const Box<3>& { return boxes_[static_cast<std::size_t>(i)]; };
    for (std::int32_t k = first; k < last; ++k) {
        const Box<3>& own = box_of(order_[static_cast<std::size_t>(k)]);
        nodes_[self].box.add(own);
        middles.add(own.centre());
    }
    if (last - first <= boxes_of_leaf) return;
    std::size_t way = 0;
    for (std::size_t k = 1; k < 3; ++k)
        if (middles.size()[k] > middles.size()[way]) way = k;
    const std::int32_t middle = first + (last - first) / 2;
    // By number where middles are the same, so that the tree is.
    std::nth_element(order_.begin() + first, order_.begin() + middle, order_.begin() + last,
                     [&](std::int32_t a, std::int32_t b) {
                         const double x = box_of(a).centre()[way], y = box_of(b).centre()[way];
                         return x < y || (x == y && a < b);
                     });
    build(first, middle);
    nodes_[self].right = static_cast<std::int32_t>(nodes_.size());
    build(middle, last);
}

}  // namespace dotsift
