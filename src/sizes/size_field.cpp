#include "sizes/size_field.hpp"

#include <algorithm>
#include <stdexcept>

namespace dotsift {

namespace {

constexpr int leaf_sources = 4;

double distance_to_segment(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 d = b - a;
    const double l2 = dot(d, d);
    const double t = l2 > 0 ? std::clamp(dot(p - a, d) / l2, 0.0, 1.0) : 0.0;
    return distance(p, a + d * t);
}

double distance_to(const SizeSource& s, const Vec2& p) {
    const auto& c = s.corners;
    if (s.corner_count == 1) return distance(p, c[0]);
    if (s.corner_count == 2) return distance_to_segment(p, c[0], c[1]);
    const double w0 = cross(c[1] - c[0], p - c[0]), w1 = cross(c[2] - c[1], p - c[1]),
                 w2 = cross(c[0] - c[2], p - c[2]);
    if ((w0 >= 0 && w1 >= 0 && w2 >= 0) || (w0 <= 0 && w1 <= 0 && w2 <= 0)) return 0;
    return std::min(
        {distance_to_segment(p, c[0], c[1]), distance_to_segment(p, c[1], c[2]), distance_to_segment(p, c[2], c[0])});
}

Box2 box_of(const SizeSource& s) {
    Box2 box;
    for (int i = 0; i < s.corner_count; ++i) box.add(s.corners[static_cast<std::size_t>(i)]);
    return box;
}

}  // namespace

SizeField::SizeField(double global, double slope, double smallest, std::vector<SizeSource> sources)
    : global_(global), slope_(slope), smallest_(smallest), sources_(std::move(sources)) {
    if (!(global > 0) || !(slope > 0))
        throw std::invalid_argument("a size field needs a global size and slope above zero");
    for (const auto& s : sources_)
        if (!(s.size > 0)) throw std::invalid_argument("a size source needs a size above zero");
    nodes_.reserve(sources_.size());
    if (!sources_.empty()) build(0, static_cast<int>(sources_.size()));
}

int SizeField::build(int first, int last) {
    const int index = static_cast<int>(nodes_.size());
    Node node{{}, sources_[static_cast<std::size_t>(first)].size, first, last, -1};
    Box2 centres;
    for (int i = first; i < last; ++i) {
        const auto& s = sources_[static_cast<std::size_t>(i)];
        const Box2 b = box_of(s);
        node.box.add(b);
        centres.add(b.centre());
        node.least = std::min(node.least, s.size);
    }
    nodes_.push_back(node);
    if (last - first <= leaf_sources) return index;
    const Vec2 extent = centres.size();
    const std::size_t axis = extent[0] >= extent[1] ? 0 : 1;
    const int middle = (first + last) / 2;
    std::nth_element(sources_.begin() + first, sources_.begin() + middle, sources_.begin() + last,
                     [axis](const SizeSource& a, const SizeSource& b) {
                         return box_of(a).centre()[axis] < box_of(b).centre()[axis];
                     });
    build(first, middle);
    const int right = build(middle, last);
    nodes_[static_cast<std::size_t>(index)].right = right;
    return index;
}

SizeField::Answer SizeField::query(const Vec2& x) const {
    double best = global_;
    int rule = -1;
    if (!nodes_.empty()) {
        const auto bound = [&](int i) {
            const auto& n = nodes_[static_cast<std::size_t>(i)];
            return n.least + slope_ * n.box.distance_to(x);
        };
        struct Open {
            int node;
            double bound;
        };
        std::array<Open, 64> stack{};
        int depth = 0;
        stack[0] = {0, bound(0)};
        depth = 1;
        while (depth > 0) {
            const Open open = stack[static_cast<std::size_t>(--depth)];
            if (open.bound >= best) continue;
            const Node& n = nodes_[static_cast<std::size_t>(open.node)];
            if (n.right < 0) {
                for (int i = n.first; i < n.last; ++i) {
                    const auto& s = sources_[static_cast<std::size_t>(i)];
                    if (s.size >= best) continue;
                    const double h = s.size + slope_ * distance_to(s, x);
                    if (h < best) {
                        best = h;
                        rule = s.rule;
                    }
                }
            } else {
                Open a{open.node + 1, bound(open.node + 1)}, b{n.right, bound(n.right)};
                if (a.bound > b.bound) std::swap(a, b);
                stack[static_cast<std::size_t>(depth++)] = b;
                stack[static_cast<std::size_t>(depth++)] = a;
            }
        }
    }
    return {std::max(best, smallest_) * factor_, rule};
}

SizeField SizeField::scaled(double factor) const {
    SizeField field = *this;
    field.factor_ *= factor;
    return field;
}

SizeField SizeField::with(std::vector<SizeSource> more) const {
    std::vector<SizeSource> all = sources_;
    for (auto& s : more) {
        s.size /= factor_;
        all.push_back(s);
    }
    SizeField field(global_, slope_, smallest_, std::move(all));
    field.factor_ = factor_;
    return field;
}

}  // namespace dotsift
