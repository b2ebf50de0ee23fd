#include "sizes/size_field.hpp"

#include <algorithm>
#include <stdexcept>

namespace dotsift {

namespace {

constexpr int leaf_sources = 4;

/// How many of the corners lie on the source itself.
std::size_t corner_count(const SizeSource& s) {
    return s.form == SizeSource::Form::point ? 1 : s.form == SizeSource::Form::triangle ? 3 : 2;
}

Vec2 nearest_on(const SizeSource& s, const Vec2& p) {
    const auto& c = s.corners;
    if (s.form == SizeSource::Form::point) return c[0];
    if (s.form == SizeSource::Form::segment) return nearest_on_segment(p, c[0], c[1]);
    if (s.form == SizeSource::Form::arc) {
        const Vec2 from = c[0] - c[2], to = c[1] - c[2], d = p - c[2];
        const double d2 = dot(d, d);
        if (d2 > 0 && cross(from, d) >= 0 && cross(d, to) >= 0) return c[2] + d * std::sqrt(dot(from, from) / d2);
        const Vec2 a = p - c[0], b = p - c[1];
        return dot(a, a) <= dot(b, b) ? c[0] : c[1];
    }
    const double w0 = cross(c[1] - c[0], p - c[0]), w1 = cross(c[2] - c[1], p - c[1]),
                 w2 = cross(c[0] - c[2], p - c[2]);
    if ((w0 >= 0 && w1 >= 0 && w2 >= 0) || (w0 <= 0 && w1 <= 0 && w2 <= 0)) return p;
    Vec2 best = nearest_on_segment(p, c[0], c[1]);
    for (const Vec2& q : {nearest_on_segment(p, c[1], c[2]), nearest_on_segment(p, c[2], c[0])})
        if (distance(p, q) < distance(p, best)) best = q;
    return best;
}

/// What a source asks for at p.
double demand(const SizeSource& s, const Vec2& p, double slope) {
    const Vec2 q = nearest_on(s, p);
    return s.size_at(q) + slope * std::max(0.0, distance(p, q) - s.reach);
}

Box2 box_of(const SizeSource& s) {
    Box2 box;
    for (std::size_t i = 0; i < corner_count(s); ++i) box.add(s.corners[i]);
    if (s.form == SizeSource::Form::arc) {  // lies within the tangents at its ends
        const Vec2 from = s.corners[0] - s.corners[2], to = s.corners[1] - s.corners[2], middle = from + to;
        box.add(s.corners[2] + middle * (2 * dot(from, from) / dot(middle, middle)));
    }
    if (s.reach > 0) {
        box.add(box.low - Vec2{{s.reach, s.reach}});
        box.add(box.high + Vec2{{s.reach, s.reach}});
    }
    return box;
}

}  // namespace

double SizeSource::least() const {
    double least = size;
    for (std::size_t i = 1; i < corner_count(*this); ++i) least = std::min(least, size_at(corners[i]));
    return least;
}

SizeField::SizeField(double global, double slope, double smallest, std::vector<SizeSource> sources)
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
    build(boxed, 0, static_cast<int>(sources_.size()));
    for (std::size_t k = 0; k < sources_.size(); ++k) sources_[k] = boxed[k].source;
}

int SizeField::build(std::vector<Boxed>& sources, int first, int last) {
    const int index = static_cast<int>(nodes_.size());
    Node node{{}, sources[static_cast<std::size_t>(first)].source.least(), first, last, -1};
    Box2 centres;
    for (int i = first; i < last; ++i) {
        const auto& s = sources[static_cast<std::size_t>(i)];
        node.box.add(s.box);
        centres.add(s.box.centre());
        node.least = std::min(node.least, s.source.least());
    }
    nodes_.push_back(node);
    if (last - first <= leaf_sources) return index;
    const Vec2 extent = centres.size();
    const std::size_t axis = extent[0] >= extent[1] ? 0 : 1;
    const int middle = (first + last) / 2;
    std::nth_element(sources.begin() + first, sources.begin() + middle, sources.begin() + last,
                     [axis](const Boxed& a, const Boxed& b) { return a.box.centre()[axis] < b.box.centre()[axis]; });
    build(sources, first, middle);
    const int right = build(sources, middle, last);
    nodes_[static_cast<std::size_t>(index)].right = right;
    return index;
}

void SizeField::search(const Vec2& x, double& best, std::int32_t& source) const {
    if (nodes_.empty()) return;
    // A node can beat `best` only if it is nearer than (best - least) / slope; squares need no roots.
    struct Open {
        int node;
        double distance2;
    };
    const auto open_node = [&](int i) {
        return Open{i, nodes_[static_cast<std::size_t>(i)].box.squared_distance_to(x)};
    };
    const double per_slope = 1 / slope_;
    const auto hopeless = [&](const Open& o) {
        const double reach = (best - nodes_[static_cast<std::size_t>(o.node)].least) * per_slope;
        return !(reach > 0 && o.distance2 < reach * reach);
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

double SizeField::bounded(double found, const Vec2& x) const {
    const double size = std::max(found, smallest_) * factor_;
    return floor_ ? std::max(size, top_ - floor_->at(x)) : size;
}

SizeField::Answer SizeField::query(const Vec2& x) const {
    double best = global_;
    std::int32_t source = -1;
    search(x, best, source);
    return {bounded(best, x), source < 0 ? -1 : sources_[static_cast<std::size_t>(source)].rule};
}

double SizeField::at(const Vec2& x, std::int32_t& hint) const {
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

SizeField SizeField::scaled(double factor) const {
    SizeField field = *this;
    field.factor_ *= factor;
    return field;
}

SizeField SizeField::no_steeper(double slope) const {
    if (slope_ * factor_ <= slope) return *this;
    SizeField field(global_, slope / factor_, smallest_, sources_);
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}
SizeField SizeField::scaled(double factor, const std::vector<int>& rules) const {
    std::vector<SizeSource> all = sources_;
    for (auto& s : all) {
        if (std::find(rules.begin(), rules.end(), s.rule) == rules.end()) continue;
        s.size *= factor;
        s.gradient *= factor;
    }
    SizeField field(global_, slope_, smallest_, std::move(all));
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}

SizeField SizeField::with(std::vector<SizeSource> more) const {
    std::vector<SizeSource> all = sources_;
    for (auto& s : more) {
        s.size /= factor_;
        s.gradient *= 1 / factor_;
        all.push_back(s);
    }
    SizeField field(global_, slope_, smallest_, std::move(all));
    field.factor_ = factor_;
    field.floor_ = floor_;
    field.top_ = top_;
    return field;
}

SizeField SizeField::no_less_than(const std::vector<SizeSource>& floors, double fall) const {
    SizeField field = *this;
    if (floors.empty()) return field;
    field.top_ = 0;
    for (const auto& f : floors) field.top_ = std::max(field.top_, 2 * f.size);
    std::vector<SizeSource> turned = floors;
    for (auto& f : turned) f.size = field.top_ - f.size;
    field.floor_ = std::make_shared<SizeField>(field.top_, fall, 0, std::move(turned));
    return field;
}

}  // namespace dotsift
