#include "part/solid/chart.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "base/errors.hpp"
#include "base/gauss.hpp"

namespace dotsift {

namespace {

// Of a profile's size: nearer to the axis it lies on it.
constexpr double on_axis_share = 1e-9;
// A profile that arrives at the axis at a smaller sine than this runs along it.
constexpr double least_slope = 1e-3;
constexpr int pieces_of_smooth = 8;  // between two knots eight Gauss points leave nothing to be seen
constexpr int most_steps = 60;
// Of the profile's parameter: closer the search need not come.
constexpr double close_enough = 1e-14;

}  // namespace

Chart::Chart(const Surface& surface) : surface_(surface) {
    if (surface.kind() == Surface::Kind::plane) return;
    if (surface.kind() == Surface::Kind::facets) {
        kind_ = Kind::own;
        return;
    }
    if (surface.kind() == Surface::Kind::spline) {
        kind_ = Kind::numerical;
        flattening_ = &surface_.flattening();
        return;
    }
    const Curve& profile = surface.profile();
    kind_ = Kind::drawn;
    if (surface.kind() == Surface::Kind::turned) {
        const double near = on_axis_share * std::max(profile.box().diagonal(), norm(profile.start()));
        const bool first = profile.start()[0] <= near, last = profile.end()[0] <= near;
        if (first && last) throw std::invalid_argument("a chart of a surface with two poles");
        kind_ = first || last ? Kind::pole : Kind::sailor;
        if (kind_ == Kind::pole) {
            pole_ = first ? 0 : 1;
            const Vec2 d = profile.derivative(pole_);
            speed_ = norm(d);
            if (std::fabs(d[0]) < least_slope * speed_) {
                Place place;
                const Frame& frame = surface.frame();
                place.position = frame.origin + frame.axis[2] * profile.point(pole_)[1];
                throw InputError("a turned face ends in a needle: its outline runs along the axis where it meets that",
                                 place, "let the outline meet the axis at an angle, or keep away from it");
            }
            spread_ = speed_ / std::fabs(d[0]);
        } else {
            speed_ = (profile.start()[0] + profile.end()[0]) / 2;
        }
    }
    const bool evenly_run = profile.straight() || (profile.kind() == Curve::Kind::arc && profile.circular());
    even_ = (evenly_run && kind_ == Kind::drawn) ||
            (profile.straight() && kind_ == Kind::sailor && profile.start()[0] == profile.end()[0]);
    // From the pole on.
    auto smooth = profile.smooth_pieces();
    if (pole_ == 1) {
        std::reverse(smooth.begin(), smooth.end());
        for (auto& t : smooth) t = 1 - t;
    }
    knots_.push_back(0);
    sums_.push_back(0);
    for (std::size_t k = 1; k < smooth.size(); ++k)
        for (int i = 1; i <= pieces_of_smooth; ++i) {
            const double to = smooth[k - 1] + (smooth[k] - smooth[k - 1]) * i / pieces_of_smooth;
            double sum = 0;
            gauss8(knots_.back(), to, [&](double t, double w) { sum += w * density(t); });
            knots_.push_back(to);
            sums_.push_back(sums_.back() + sum);
        }
}

/// `t` counts from the pole.
double Chart::density(double t) const {
    const Curve& profile = surface_.profile();
    const double at = pole_ == 1 ? 1 - t : t, speed = norm(profile.derivative(at));
    if (kind_ == Kind::drawn) return speed;
    const double r = profile.point(at)[0];
    return kind_ == Kind::sailor ? speed / r : speed / r - spread_ / t;
}

double Chart::measure(double t) const {
    if (even_) return t * sums_.back();
    const auto above = static_cast<std::size_t>(std::upper_bound(knots_.begin(), knots_.end(), t) - knots_.begin());
    const std::size_t k = std::clamp<std::size_t>(above, 1, knots_.size() - 1) - 1;
    double sum = sums_[k];
    if (t != knots_[k]) gauss8(knots_[k], t, [&](double s, double w) { sum += w * density(s); });
    return sum;
}

double Chart::at_measure(double value) const {
    if (even_) return value / sums_.back();
    const auto above = static_cast<std::size_t>(std::upper_bound(sums_.begin(), sums_.end(), value) - sums_.begin());
    const std::size_t k = std::clamp<std::size_t>(above, 1, sums_.size() - 1);
    double low = knots_[k - 1], high = knots_[k];
    if (above == 0) return low;
    if (above == sums_.size()) return high;
    double t = low + (high - low) * (value - sums_[k - 1]) / (sums_[k] - sums_[k - 1]);
    for (int step = 0; step < most_steps; ++step) {
        const double miss = measure(t) - value;
        (miss > 0 ? high : low) = t;
        double next = t - miss / density(t);
        if (!(next > low && next < high)) next = 0.5 * (low + high);
        const bool done = std::fabs(next - t) <= close_enough;
        t = next;
        if (done) break;
    }
    return t;
}

double Chart::radius(double t) const {
    // So near to the pole the density is the difference of two numbers without end.
    return t > close_enough ? speed_ * t * std::exp(measure(t) / spread_) : speed_ * std::max(t, 0.0);
}

double Chart::at_radius(double wanted) const {
    if (!(wanted > 0)) return 0;
    double low = 0, high = 1, t = std::min(wanted / speed_, 0.5);
    if (wanted >= radius(1)) return 1;
    for (int step = 0; step < most_steps; ++step) {
        const double r = radius(t), miss = r - wanted;
        (miss > 0 ? high : low) = t;
        // d radius / dt = radius (1 / t + density / spread)
        double next = t - miss / (r * (1 / t + density(t) / spread_));
        if (!(next > low && next < high)) next = 0.5 * (low + high);
        const bool done = std::fabs(next - t) <= close_enough * t;
        t = next;
        if (done) break;
    }
    return t;
}

Vec2 Chart::flat(const Vec2& at) const {
    switch (kind_) {
        case Kind::plane:
        case Kind::own:
            return at;
        case Kind::drawn: {
            const double whole = std::floor(at[0]);
            const bool round = surface_.periods()[0] > 0;
            return {{round ? whole * sums_.back() + measure(at[0] - whole) : measure(at[0]), at[1]}};
        }
        case Kind::sailor: {
            const double whole = std::floor(at[1]);
            const bool round = surface_.periods()[1] > 0;
            return {
                {speed_ * at[0], speed_ * (round ? whole * sums_.back() + measure(at[1] - whole) : measure(at[1]))}};
        }
        case Kind::numerical:
            return flattening_->flat(at);
        case Kind::pole:
            break;
    }
    const double r = radius(from_pole(at[1])), angle = (pole_ == 0 ? -at[0] : at[0]) / spread_;
    return {{r * std::cos(angle), r * std::sin(angle)}};
}

Vec2 Chart::parameters(const Vec2& flat) const {
    const auto round_trip = [&](double value, bool round) {
        if (!round) return at_measure(value);
        const double whole = std::floor(value / sums_.back());
        return whole + at_measure(value - whole * sums_.back());
    };
    switch (kind_) {
        case Kind::plane:
        case Kind::own:
            return flat;
        case Kind::drawn:
            return {{round_trip(flat[0], surface_.periods()[0] > 0), flat[1]}};
        case Kind::sailor:
            return {{flat[0] / speed_, round_trip(flat[1] / speed_, surface_.periods()[1] > 0)}};
        case Kind::numerical:
            return flattening_->parameters(flat);
        case Kind::pole:
            break;
    }
    const double t = at_radius(norm(flat)), angle = t > 0 ? std::atan2(flat[1], flat[0]) * spread_ : 0;
    return {{pole_ == 0 ? -angle : angle, from_pole(t)}};
}

double Chart::scale(const Vec2& at) const {
    if (kind_ == Kind::plane || kind_ == Kind::drawn) return 1;
    if (kind_ == Kind::numerical) return flattening_->scale(at);
    if (kind_ == Kind::own) return surface_.facets().scale(at);
    const Curve& profile = surface_.profile();
    if (kind_ == Kind::sailor) {
        const double whole = surface_.periods()[1] > 0 ? std::floor(at[1]) : 0;
        return profile.point(at[1] - whole)[0] / speed_;
    }
    const double t = from_pole(at[1]);
    // At the pole itself the limit.
    return t > close_enough ? profile.point(at[1])[0] * spread_ / radius(t) : 1;
}

std::vector<Vec2> ChartedLoops::follow(const std::vector<Vec3>& points) {
    std::vector<Vec2> out;
    Box2 box;
    for (const Vec3& p : points) {
        out.push_back(chart_.surface().project(p, out.empty() ? Vec2{} : out.back()));
        box.add(out.back());
    }
    Vec2 shift{};
    const Vec2 period = chart_.surface().periods();
    for (std::size_t k = 0; k < 2 && !outer_.empty; ++k)
        if (period[k] > 0) shift[k] = period[k] * std::ceil((outer_.low[k] - box.centre()[k]) / period[k]);
    if (outer_.empty) outer_ = box;
    for (Vec2& p : out) p = chart_.flat(p + shift);
    return out;
}

}  // namespace dotsift
