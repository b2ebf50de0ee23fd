#include "sizes/size_field.hpp"

#include <algorithm>
#include <stdexcept>

namespace dotsift {

namespace {

constexpr int leaf_sources = 4;

/// How many of the corners lie on the source itself.
template <int D>
std::size_t corner_count(const SizeSourceIn<D>& s) {
    using Form = typename SizeSourceIn<D>::Form;
    return s.form == Form::point ? 1 : s.form == Form::triangle ? 3 : 2;
}

/// p as far as it lies in the plane of an arc or a triangle, seen from a point of it.
Vec2 in_plane(const Vec2& p, const Vec2& /*a*/, const Vec2& /*b*/) {
    return p;
}
Vec3 in_plane(const Vec3& p, const Vec3& a, const Vec3& b) {
    const Vec3 normal = cross(a, b);
    const double n2 = dot(normal, normal);
    return n2 > 0 ? p - normal * (dot(p, normal) / n2) : p;
}
/// How two vectors of one plane are turned to each other, as a and b are.
double turn(const Vec2& p, const Vec2& q, const Vec2& /*a*/, const Vec2& /*b*/) {
    return cross(p, q);
}
double turn(const Vec3& p, const Vec3& q, const Vec3& a, const Vec3& b) {
    return dot(cross(p, q), cross(a, b));
}

template <int D>
Vec<D> nearest_on(const SizeSourceIn<D>& s, const Vec<D>& p) {
    using Form = typename SizeSourceIn<D>::Form;
    const auto& c = s.corners;
    if (s.form == Form::point) return c[0];
    if (s.form == Form::segment) return nearest_on_segment(p, c[0], c[1]);
    if (s.form == Form::arc) {
        const Vec<D> from = c[0] - c[2], to = c[1] - c[2], d = in_plane(p - c[2], from, to);
        const double d2 = dot(d, d);
        if (d2 > 0 && turn(from, d, from, to) >= 0 && turn(d, to, from, to) >= 0)
            return c[2] + d * std::sqrt(dot(from, from) / d2);
        const Vec<D> a = p - c[0], b = p - c[1];
        return dot(a, a) <= dot(b, b) ? c[0] : c[1];
    }
    const Vec<D> u = c[1] - c[0], v = c[2] - c[0];
    Vec<D> q = p;
    if constexpr (D == 3) q = c[0] + in_plane(p - c[0], u, v);
    const double w0 = turn(c[1] - c[0], q - c[0], u, v), w1 = turn(c[2] - c[1], q - c[1], u, v),
                 w2 = turn(c[0] - c[2], q - c[2], u, v);
    if ((w0 >= 0 && w1 >= 0 && w2 >= 0) || (w0 <= 0 && w1 <= 0 && w2 <= 0)) return q;
    Vec<D> best = nearest_on_segment(p, c[0], c[1]);
    for (const Vec<D>& side : {nearest_on_segment(p, c[1], c[2]), nearest_on_segment(p, c[2], c[0])})
        if (distance(p, side) < distance(p, best)) best = side;
    return best;
}

/// What a source asks for at p.
template <int D>
double demand(const SizeSourceIn<D>& s, const Vec<D>& p, double slope) {
    const Vec<D> q = nearest_on(s, p);
    return s.size_at(q) + slope * std::max(0.0, distance(p, q) - s.reach);
}

template <int D>
Box<D> box_of(const SizeSourceIn<D>& s) {
    Box<D> box;
    for (std::size_t i = 0; i < corner_count(s); ++i) box.add(s.corners[i]);
    if (s.form == SizeSourceIn<D>::Form::arc) {
        const Vec<D> from = s.corners[0] - s.corners[2], to = s.corners[1] - s.corners[2], middle = from + to;
        if constexpr (D == 2) {  // lies within the tangents at its ends
            box.add(s.corners[2] + middle * (2 * dot(from, from) / dot(middle, middle)));
        } else {  // and here within the ball about the middle of the chord, since it is no longer than a half turn
            Vec<D> more;
            more.c.fill(distance(s.corners[0], s.corners[1]) / 2);
            const Vec<D> chord = (s.corners[0] + s.corners[1]) * 0.5;
            box.add(chord - more);
            box.add(chord + more);
        }
    }
    return box;
}

/// Sources of other rules, or with another reach, stand in trees of their own: the small size of one and the wide reach
/// of another would together seem to be everywhere.
template <int D>
std::pair<std::int32_t, int> kind_of(const SizeSourceIn<D>& s) {
    return {s.rule, s.reach > 0 ? std::ilogb(s.reach) : std::numeric_limits<int>::min()};
}

}  // namespace

template <int D>
double SizeSourceIn<D>::least() const {
    double least = size;
    for (std::size_t i = 1; i < corner_count(*this); ++i) least = std::min(least, size_at(corners[i]));
    return least;
}

template <int D>
SizeFieldIn<D>::SizeFieldIn(double global, double slope, double smallest, std::vector<SizeSourceIn<D>> sources)
    : global_(global), slope_(slope), smallest_(smallest), sources_(std::move(sources)) {
    if (!(global > 0) || !(slope > 0))
        throw std::invalid_argument("a size field needs a global size and slope above zero");
    for (auto& s : sources_) {
        if (!(s.least() > 0)) throw std::invalid_argument("a size source needs a size above zero");
        if (norm(s.gradient) <= slope) continue;
        s.size = s.least();  // steeper than the growth allows: the smallest holds
        s.gradient = {};
    }
    if (sources_.empty()) return;
    nodes_.reserve(sources_.size());
    std::vector<Boxed> boxed;
    boxed.reserve(sources_.size());
    for (auto& s : sources_) boxed.push_back({box_of(s), s});
    std::stable_sort(boxed.begin(), boxed.end(),
                     [](const Boxed& x, const Boxed& y) { return kind_of(x.source) < kind_of(y.source); });
    build(boxed, 0, static_cast<int>(sources_.size()));
    for (std::size_t k = 0; k < sources_.size(); ++k) sources_[k] = boxed[k].source;
}

template <int D>
int SizeFieldIn<D>::build(std::vector<Boxed>& sources, int first, int last) {
    const int index = static_cast<int>(nodes_.size());
    Node node{{}, sources[static_cast<std::size_t>(first)].source.least(), first, last, -1};
    Box<D> centres;
    for (int i = first; i < last; ++i) {
        const auto& s = sources[static_cast<std::size_t>(i)];
        node.box.add(s.box);
        centres.add(s.box.centre());
        node.least = std::min(node.least, s.source.least());
        node.reach = std::max(node.reach, s.source.reach);
    }
    nodes_.push_back(node);
    if (last - first <= leaf_sources) return index;
    int middle = (first + last) / 2;
    const auto kind = [&](int i) { return kind_of(sources[static_cast<std::size_t>(i)].source); };
    if (kind(first) != kind(last - 1)) {
        while (middle > first && kind(middle) == kind(middle - 1)) --middle;
        if (middle == first)
            while (kind(middle) == kind(first)) ++middle;
    } else {
        const Vec<D> extent = centres.size();
        std::size_t axis = 0;
        for (std::size_t a = 1; a < extent.size(); ++a)
            if (extent[a] > extent[axis]) axis = a;
        std::nth_element(
            sources.begin() + first, sources.begin() + middle, sources.begin() + last,
            [axis](const Boxed& a, const Boxed& b) { return a.box.centre()[axis] < b.box.centre()[axis]; });
    }
    build(sources, first, middle);
    const int right = build(sources, middle, last);
    nodes_[static_cast<std::size_t>(index)].right = right;
    return index;
}

template <int D>
void SizeFieldIn<D>::search(const Vec<D>& x, double& best, std::int32_t& source) const {
    if (nodes_.empty()) return;
    // A node can beat `best` only if it is nearer than its reach and (best - least) / slope; squares need no roots.
    struct Open {
        int node;
        double distance2;
    };
    const auto open_node = [&](int i) {
        return Open{i, nodes_[static_cast<std::size_t>(i)].box.squared_distance_to(x)};
    };
    const double per_slope = 1 / slope_;
    const auto hopeless = [&](const Open& o) {
        const Node& n = nodes_[static_cast<std::size_t>(o.node)];
        const double grows = (best - n.least) * per_slope, reach = grows + n.reach;
        return !(grows > 0 && o.distance2 < reach * reach);
    };
    std::array<Open, 64> stack;
    stack[0] = open_node(0);
    std::size_t depth = 1;
    while (depth > 0) {
        const Open open = stack[--depth];
        if (hopeless(open)) continue;
        const Node& n = nodes_[static_cast<std::size_t>(open.node)];
        if (n.right < 0) {
            for (int i = n.first; i < n.last; ++i) {
                const double h = demand(sources_[static_cast<std::size_t>(i)], x, slope_);
                if (h < best) {
                    best = h;
                    source = i;
                }
            }
        } else {
            Open a = open_node(open.node + 1), b = open_node(n.right);
            if (a.distance2 > b.distance2) std::swap(a, b);
            if (!hopeless(b)) stack[depth++] = b;
            if (!hopeless(a)) stack[depth++] = a;
        }
    }
}

template <int D>
double SizeFieldIn<D>::bounded(double found, const Vec<D>& x) const {
    const double size = std::max(found, smallest_) * factor_;
    return floor_ ? std::max(size, top_ - floor_->at(x)) : size;
}

template <int D>
typename SizeFieldIn<D>::Answer SizeFieldIn<D>::query(const Vec<D>& x) const {
    double best = global_;
    std::int32_t source = -1;
    search(x, best, source);
    return {bounded(best, x), source < 0 ? -1 : sources_[static_cast<std::size_t>(source)].rule};
}

template <int D>
double SizeFieldIn<D>::at(const Vec<D>& x, std::int32_t& hint) const {
    double best = global_;
    std::int32_t source = -1;
    if (hint >= 0) {
        const double h = demand(sources_[static_cast<std::size_t>(hint)], x, slope_);
        if (h < best) {
            best = h;
            source = hint;
        }
    }
    search(x, best, source);
    hint = source;
    return bounded(best, x);
}

template <int D>
SizeFieldIn<D> SizeFieldIn<D>::scaled(double factor) const {
    SizeFieldIn field = *this;
    field.factor_ *= factor;
    return field;
}

template <int D>
SizeFieldIn<D> SizeFieldIn<D>::no_steeper(double slope) const {
    if (slope_ * factor_ <= slope) return *this;
    SizeFieldIn field(global_, slope / factor_, smallest_, sources_);
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}
template <int D>
SizeFieldIn<D> SizeFieldIn<D>::scaled(double factor, const std::vector<int>& rules) const {
    std::vector<SizeSourceIn<D>> all = sources_;
    for (auto& s : all) {
        if (std::find(rules.begin(), rules.end(), s.rule) == rules.end()) continue;
        s.size *= factor;
        s.gradient *= factor;
    }
    SizeFieldIn field(global_, slope_, smallest_, std::move(all));
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}

template <int D>
SizeFieldIn<D> SizeFieldIn<D>::with(std::vector<SizeSourceIn<D>> more) const {
    std::vector<SizeSourceIn<D>> all = sources_;
    for (auto& s : more) {
        s.size /= factor_;
        s.gradient *= 1 / factor_;
        all.push_back(s);
    }
    SizeFieldIn field(global_, slope_, smallest_, std::move(all));
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}

template <int D>
SizeFieldIn<D> SizeFieldIn<D>::refined(std::vector<SizeSourceIn<D>> more) const {
    SizeFieldIn field = *this;
    for (const auto& s : more) field.smallest_ = std::min(field.smallest_, s.least() / factor_);
    if (field.smallest_ < smallest_)
        for (auto& s : field.sources_)
            if (norm(s.gradient) == 0) s.size = std::max(s.size, smallest_);
    return field.with(std::move(more));
}

template <int D>
SizeFieldIn<D> SizeFieldIn<D>::no_less_than(const std::vector<SizeSourceIn<D>>& floors, double fall) const {
    SizeFieldIn field = *this;
    if (floors.empty()) return field;
    field.top_ = 0;
    for (const auto& f : floors) field.top_ = std::max(field.top_, 2 * f.size);
    std::vector<SizeSourceIn<D>> turned = floors;
    for (auto& f : turned) f.size = field.top_ - f.size;
    field.floor_ = std::make_shared<SizeFieldIn>(field.top_, fall, 0, std::move(turned));
    return field;
}

template struct SizeSourceIn<2>;
template struct SizeSourceIn<3>;
template class SizeFieldIn<2>;
template class SizeFieldIn<3>;

}  // namespace dotsift
