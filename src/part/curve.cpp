#include "part/curve.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace dotsift {

namespace {

using std::numbers::pi;
constexpr double infinity = std::numeric_limits<double>::infinity();
// Angles whose difference to a full turn is rounding only.
constexpr double full_turn_rounding = 8 * std::numeric_limits<double>::epsilon();
constexpr int samples_per_span = 8;  // of a spline, when extremes and nearest points are looked for

/// The area that two vectors span.
double spanned(const Vec2& a, const Vec2& b) {
    return std::fabs(cross(a, b));
}
double spanned(const Vec3& a, const Vec3& b) {
    return norm(cross(a, b));
}

}  // namespace

Affine Affine::after(const Affine& inner) const {
    return {turned(inner.column_x), turned(inner.column_y), (*this)(inner.shift)};
}
Affine Affine::move(const Vec2& by) {
    return {{{1, 0}}, {{0, 1}}, by};
}
Affine Affine::rotation(double angle, const Vec2& about) {
    const Vec2 x{{std::cos(angle), std::sin(angle)}};
    Affine a{x, turned_left(x), {}};
    a.shift = about - a.turned(about);
    return a;
}
Affine Affine::mirror(const Vec2& point, const Vec2& along) {
    const Vec2 d = along / norm(along);
    Affine a{{{2 * d[0] * d[0] - 1, 2 * d[0] * d[1]}}, {{2 * d[0] * d[1], 2 * d[1] * d[1] - 1}}, {}};
    a.shift = point - a.turned(point);
    return a;
}

AffineIn<3> AffineIn<3>::after(const AffineIn& inner) const {
    return {{turned(inner.column[0]), turned(inner.column[1]), turned(inner.column[2])}, (*this)(inner.shift)};
}
AffineIn<3> AffineIn<3>::move(const Vec3& by) {
    AffineIn a;
    a.shift = by;
    return a;
}
AffineIn<3> AffineIn<3>::rotation(double angle, const std::array<Vec3, 2>& about) {
    const Vec3 k = (about[1] - about[0]) / norm(about[1] - about[0]);
    const double c = std::cos(angle), s = std::sin(angle);
    AffineIn a;  // Rodrigues' formula
    for (Vec3& e : a.column) e = e * c + cross(k, e) * s + k * (dot(k, e) * (1 - c));
    a.shift = about[0] - a.turned(about[0]);
    return a;
}
AffineIn<3> AffineIn<3>::mirror(const std::array<Vec3, 3>& points) {
    const Vec3 across = cross(points[1] - points[0], points[2] - points[0]), n = across / norm(across);
    AffineIn a;
    for (Vec3& e : a.column) e = e - n * (2 * dot(n, e));
    a.shift = points[0] - a.turned(points[0]);
    return a;
}

template <int D>
CurveIn<D> CurveIn<D>::line(const Vec<D>& start, const Vec<D>& end) {
    CurveIn c;
    c.start_ = start;
    c.end_ = end;
    return c;
}

template <int D>
CurveIn<D> CurveIn<D>::arc(const Vec<D>& centre, const Vec<D>& a, const Vec<D>& b, double from, double to) {
    CurveIn c;
    c.kind_ = Kind::arc;
    c.centre_ = centre;
    c.a_ = a;
    c.b_ = b;
    c.from_ = from;
    c.to_ = to;
    c.start_ = centre + a * std::cos(from) + b * std::sin(from);
    const bool full = std::fabs(std::fabs(to - from) - 2 * pi) < full_turn_rounding;
    c.end_ = full ? c.start_ : centre + a * std::cos(to) + b * std::sin(to);
    return c;
}

template <int D>
CurveIn<D> CurveIn<D>::spline(std::shared_ptr<const NurbsIn<D>> nurbs, double from, double to) {
    CurveIn c;
    c.kind_ = Kind::spline;
    c.nurbs_ = std::move(nurbs);
    c.from_ = from;
    c.to_ = to;
    c.start_ = c.nurbs_->at(from)[0];
    c.end_ = c.nurbs_->at(to)[0];
    return c;
}

template <int D>
CurveIn<D> CurveIn<D>::chain(std::vector<CurveIn> links) {
    CurveIn c;
    c.kind_ = Kind::chain;
    c.start_ = links.front().start();
    c.end_ = links.back().end();
    c.to_ = 1;
    std::vector<double> joints;
    joints.reserve(links.size());
    for (const auto& l : links) joints.push_back((joints.empty() ? 0 : joints.back()) + l.length());
    for (auto& j : joints) j /= joints.back();
    c.links_ = std::make_shared<const std::vector<CurveIn>>(std::move(links));
    c.joints_ = std::make_shared<const std::vector<double>>(std::move(joints));
    return c;
}

template <int D>
typename CurveIn<D>::LinkPlace CurveIn<D>::link_at(double t) const {
    const double s = std::clamp(from_ + (to_ - from_) * t, 0.0, 1.0);
    const auto& joints = *joints_;
    const auto k =
        std::min(static_cast<std::size_t>(std::upper_bound(joints.begin(), joints.end(), s) - joints.begin()),
                 joints.size() - 1);
    const double begin = k == 0 ? 0 : joints[k - 1], share = joints[k] - begin;
    return {&(*links_)[k], std::clamp((s - begin) / share, 0.0, 1.0), (to_ - from_) / share};
}

template <int D>
bool CurveIn<D>::circular() const {
    return kind_ == Kind::arc && std::fabs(norm(a_) - norm(b_)) <= full_turn_rounding * norm(a_);
}

template <int D>
CurveIn<D> CurveIn<D>::piece(double from, double to) const {
    CurveIn c = *this;
    c.start_ = point(from);
    c.end_ = point(to);
    c.from_ = from_ + (to_ - from_) * from;
    c.to_ = from_ + (to_ - from_) * to;
    return c;
}

template <int D>
std::optional<CurveIn<D>> CurveIn<D>::joined(const CurveIn& a, const CurveIn& b) {
    if (a.kind_ != b.kind_ || !(a.end_ == b.start_)) return std::nullopt;
    CurveIn c = a;
    c.end_ = b.end_;
    switch (a.kind_) {
        case Kind::line:
            return c;
        case Kind::arc:
            c.to_ = a.to_ + (b.to_ - b.from_);
            if (c.closed()) c.to_ = c.from_ + std::copysign(2 * pi, c.to_ - c.from_);
            return c;
        case Kind::spline:
            if (a.nurbs_ != b.nurbs_ || (a.to_ > a.from_) != (b.to_ > b.from_)) return std::nullopt;
            if (std::fabs(a.to_ - b.from_) > 1e-9 * (a.nurbs_->high() - a.nurbs_->low())) return std::nullopt;
            c.to_ = b.to_;
            return c;
        default:
            return std::nullopt;
    }
}

template <int D>
CurveIn<D> CurveIn<D>::transformed(const AffineIn<D>& map) const {
    CurveIn c = *this;
    c.start_ = map(start_);
    c.end_ = closed() ? c.start_ : map(end_);
    if (kind_ == Kind::arc) {
        // The images of the half axes are conjugate; turn the parameter so that they are at right angles again.
        const Vec<D> a = map.turned(a_), b = map.turned(b_);
        const bool similar = std::fabs(dot(a, b)) <= full_turn_rounding * norm(a) * norm(b);
        const double shift = similar ? 0 : 0.5 * std::atan2(2 * dot(a, b), dot(a, a) - dot(b, b));
        c.centre_ = map(centre_);
        c.a_ = a * std::cos(shift) + b * std::sin(shift);
        c.b_ = b * std::cos(shift) - a * std::sin(shift);
        c.from_ = from_ - shift;
        c.to_ = to_ - shift;
    } else if (kind_ == Kind::spline) {
        NurbsIn<D> n = *nurbs_;
        for (auto& p : n.poles) p = map(p);
        c.nurbs_ = std::make_shared<const NurbsIn<D>>(std::move(n));
    } else if (kind_ == Kind::chain) {
        std::vector<CurveIn> links;
        for (const auto& l : *links_) links.push_back(l.transformed(map));
        CurveIn made = chain(std::move(links));
        made.from_ = from_;
        made.to_ = to_;
        made.set_ends(c.start_, c.end_);
        return made;
    }
    return c;
}

template <int D>
void CurveIn<D>::set_ends(const Vec<D>& start, const Vec<D>& end) {
    start_ = start;
    end_ = end;
}

template <int D>
Vec<D> CurveIn<D>::point(double t) const {
    if (t <= 0) return start_;
    if (t >= 1) return end_;
    switch (kind_) {
        case Kind::line:
            return start_ * (1 - t) + end_ * t;
        case Kind::arc: {
            const double phi = from_ + (to_ - from_) * t;
            return centre_ + a_ * std::cos(phi) + b_ * std::sin(phi);
        }
        case Kind::spline:
            return nurbs_->at(from_ + (to_ - from_) * t)[0];
        default: {
            const LinkPlace l = link_at(t);
            return l.link->point(l.t);
        }
    }
}

template <int D>
Vec<D> CurveIn<D>::derivative(double t) const {
    switch (kind_) {
        case Kind::line:
            return end_ - start_;
        case Kind::arc: {
            const double phi = from_ + (to_ - from_) * t;
            return (b_ * std::cos(phi) - a_ * std::sin(phi)) * (to_ - from_);
        }
        case Kind::spline:
            return nurbs_->at(from_ + (to_ - from_) * t)[1] * (to_ - from_);
        default: {
            const LinkPlace l = link_at(t);
            return l.link->derivative(l.t) * l.speed;
        }
    }
}

template <int D>
Vec<D> CurveIn<D>::second_derivative(double t) const {
    const double range = to_ - from_;
    switch (kind_) {
        case Kind::line:
            return {};
        case Kind::arc: {
            const double phi = from_ + range * t;
            return (a_ * std::cos(phi) + b_ * std::sin(phi)) * (-range * range);
        }
        case Kind::spline:
            return nurbs_->at(from_ + range * t)[2] * (range * range);
        default: {
            const LinkPlace l = link_at(t);
            return l.link->second_derivative(l.t) * (l.speed * l.speed);
        }
    }
}

template <int D>
double CurveIn<D>::curvature_radius(double t) const {
    if (kind_ == Kind::line) return infinity;
    const Vec<D> first = derivative(t);
    const double speed = norm(first), bend = spanned(first, second_derivative(t));
    return bend > 0 ? speed * speed * speed / bend : infinity;
}

template <int D>
double CurveIn<D>::turning() const {
    if (kind_ == Kind::line) return 0;
    if (circular()) return std::fabs(to_ - from_);
    double sum = 0;
    const auto pieces = smooth_pieces();
    constexpr int steps = 8;
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const double a = pieces[i - 1], b = pieces[i];
        const double inset = 1e-9 * (b - a);  // one-sided at corners of a chain
        Vec<D> before = derivative(a + inset);
        for (int k = 1; k <= steps; ++k) {
            const Vec<D> now = derivative(k == steps ? b - inset : a + (b - a) * k / steps);
            sum += std::atan2(spanned(before, now), dot(before, now));
            before = now;
        }
    }
    return sum;
}

template <int D>
double CurveIn<D>::length() const {
    if (kind_ == Kind::line) return distance(start_, end_);
    if (circular()) return norm(a_) * std::fabs(to_ - from_);
    if (kind_ == Kind::chain) {
        double sum = 0;
        for (const auto& l : *links_) sum += l.length();
        return sum * std::fabs(to_ - from_);
    }
    return integrate(*this, [&](double t) { return norm(derivative(t)); });
}

template <int D>
typename CurveIn<D>::Area CurveIn<D>::twice_area(const Vec<D>& about) const {
    if (kind_ == Kind::line) return cross(start_ - about, end_ - about);
    if (kind_ == Kind::arc) return cross(centre_ - about, end_ - start_) + cross(a_, b_) * (to_ - from_);
    return integrate(*this, [&](double t) { return cross(point(t) - about, derivative(t)); });
}

template <int D>
std::vector<double> CurveIn<D>::smooth_pieces() const {
    std::vector<double> pieces{0};
    const auto evenly = [&](double to, int count) {
        const double from = pieces.back();
        for (int k = 1; k <= count; ++k) pieces.push_back(k == count ? to : from + (to - from) * k / count);
    };
    switch (kind_) {
        case Kind::line:
            pieces.push_back(1);
            break;
        case Kind::arc: {
            const double ra = norm(a_), rb = norm(b_);
            const double flatness = std::max(1.0, 2 * std::log2(std::max(ra, rb) / std::min(ra, rb)));
            evenly(1, 1 + static_cast<int>(std::fabs(to_ - from_) * 2 / pi * flatness));
            break;
        }
        case Kind::spline: {
            std::vector<double> inner;
            const double low = std::min(from_, to_), high = std::max(from_, to_);
            for (const double k : nurbs_->knots)
                if (k > low && k < high && (inner.empty() || k > inner.back())) inner.push_back(k);
            if (to_ < from_) std::reverse(inner.begin(), inner.end());
            const int each = nurbs_->weights.empty() ? 2 : 4;
            for (const double k : inner) {
                const double t = (k - from_) / (to_ - from_);
                if (t > pieces.back() && t < 1) evenly(t, each);
            }
            evenly(1, each);
            break;
        }
        case Kind::chain: {
            const auto& joints = *joints_;
            std::vector<std::pair<double, std::size_t>> spans;  // of s, in the order run
            for (std::size_t k = 0; k < joints.size(); ++k) spans.emplace_back(joints[k], k);
            const bool forward = to_ > from_;
            std::vector<double> marks;
            for (std::size_t k = 0; k < joints.size(); ++k) {
                const double begin = k == 0 ? 0 : joints[k - 1];
                for (const double p : (*links_)[k].smooth_pieces()) marks.push_back(begin + (joints[k] - begin) * p);
            }
            if (!forward) std::reverse(marks.begin(), marks.end());
            for (const double s : marks) {
                const double t = (s - from_) / (to_ - from_);
                if (t > pieces.back() + 1e-15 && t < 1 - 1e-15) pieces.push_back(t);
            }
            pieces.push_back(1);
            break;
        }
    }
    return pieces;
}

template <int D>
std::vector<double> CurveIn<D>::extremes(std::size_t axis) const {
    std::vector<double> list;
    if (kind_ == Kind::line) return list;
    if (kind_ == Kind::arc) {
        const double extreme = std::atan2(b_[axis], a_[axis]);
        const double low = std::min(from_, to_), high = std::max(from_, to_);
        for (double phi = extreme + std::ceil((low - extreme) / pi) * pi; phi < high; phi += pi) {
            const double t = (phi - from_) / (to_ - from_);
            if (t > 0 && t < 1) list.push_back(t);
        }
        std::sort(list.begin(), list.end());
        return list;
    }
    const auto pieces = smooth_pieces();
    double before = 0;  // the slope just before the current interval
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const double width = pieces[i] - pieces[i - 1];
        for (int k = 0; k < samples_per_span; ++k) {
            double low = pieces[i - 1] + width * k / samples_per_span,
                   high = pieces[i - 1] + width * (k + 1) / samples_per_span;
            const double inset = 1e-12 * width;
            const double at_low = derivative(low + inset)[axis], at_high = derivative(high - inset)[axis];
            if (low > 0 && (before > 0) != (at_low > 0)) list.push_back(low);  // exactly between two intervals
            before = at_high;
            if ((at_low > 0) == (at_high > 0)) continue;
            for (int step = 0; step < 60; ++step) {
                const double middle = 0.5 * (low + high);
                ((derivative(middle)[axis] > 0) == (at_low > 0) ? low : high) = middle;
            }
            const double t = 0.5 * (low + high);
            if (t > 0 && t < 1) list.push_back(t);
        }
    }
    std::sort(list.begin(), list.end());
    return list;
}

template <int D>
Box<D> CurveIn<D>::box() const {
    Box<D> box;
    box.add(start_);
    box.add(end_);
    if (kind_ == Kind::line) return box;
    for (std::size_t axis = 0; axis < static_cast<std::size_t>(D); ++axis)
        for (const double t : extremes(axis)) box.add(point(t));
    return box;
}

template <int D>
double CurveIn<D>::project(const Vec<D>& p) const {
    if (kind_ == Kind::line) {
        const Vec<D> d = end_ - start_;
        const double l2 = dot(d, d);
        return l2 > 0 ? std::clamp(dot(p - start_, d) / l2, 0.0, 1.0) : 0;
    }
    double best = 0, least = distance(start_, p);
    const auto offer = [&](double t) {
        const double d = distance(point(t), p);
        if (d < least) {
            least = d;
            best = t;
        }
    };
    if (circular()) {
        offer(1);
        const Vec<D> d = p - centre_;
        const double phi = std::atan2(dot(d, b_), dot(d, a_)), low = std::min(from_, to_), high = std::max(from_, to_);
        for (double angle = phi + std::ceil((low - phi) / (2 * pi)) * 2 * pi; angle < high; angle += 2 * pi)
            offer((angle - from_) / (to_ - from_));
        return best;
    }
    std::vector<std::pair<double, double>> samples;  // parameter and distance
    const auto pieces = smooth_pieces();
    for (std::size_t i = 1; i < pieces.size(); ++i)
        for (int k = i == 1 ? 0 : 1; k <= samples_per_span; ++k) {
            const double t = pieces[i - 1] + (pieces[i] - pieces[i - 1]) * k / samples_per_span;
            samples.emplace_back(t, distance(point(t), p));
            offer(t);
        }
    // Newton's method on (point - p) . derivative = 0 between the neighbours of every sample that is nearer than they
    // are and might hide the nearest point; halving where it leaves.
    constexpr double might_hide = 1.2;
    const double nearest = least;
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const auto& [t0, d0] = samples[i];
        const bool first = i == 0, last = i + 1 == samples.size();
        if (d0 > might_hide * nearest || (!first && samples[i - 1].second < d0) ||
            (!last && samples[i + 1].second < d0))
            continue;
        double low = first ? t0 : samples[i - 1].first, high = last ? t0 : samples[i + 1].first, t = t0;
        for (int k = 0; k < 60 && high - low > 4e-16; ++k) {
            const Vec<D> gap = point(t) - p, d = derivative(t);
            const double slope = dot(gap, d);
            (slope > 0 ? high : low) = t;
            const double bend = dot(d, d) + dot(gap, second_derivative(t));
            double next = bend > 0 ? t - slope / bend : 0.5 * (low + high);
            if (!(next > low && next < high)) next = 0.5 * (low + high);
            if (next == t) break;
            t = next;
        }
        offer(t);
    }
    return best;
}

template <int D>
CurveIn<D> CurveIn<D>::reversed() const {
    CurveIn c = *this;
    std::swap(c.start_, c.end_);
    std::swap(c.from_, c.to_);
    return c;
}

template class CurveIn<2>;
template class CurveIn<3>;

}  // namespace dotsift
