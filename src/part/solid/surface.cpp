#include "part/solid/surface.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace dotsift {

namespace {

// At a pole derivatives are taken this share of the profile, or of the parameters, beside it.
constexpr double beside_pole = 1e-7, beside_spline_pole = 1e-4;
// Derivatives whose product is less than this share of the surface's size squared are those of a pole.
constexpr double pole_share = 1e-10;
// Of its size: nearer to a spline surface a place lies on it, and no other place of it can be nearer.
constexpr double on_surface_share = 1e-9;

}  // namespace

Frame Frame::about(const Vec3& origin, const Vec3& z, const Vec3& towards) {
    Frame f;
    f.origin = origin;
    f.axis[2] = z / norm(z);
    const Vec3 across = (towards - origin) - f.axis[2] * dot(towards - origin, f.axis[2]);
    f.axis[0] = across / norm(across);
    f.axis[1] = cross(f.axis[2], f.axis[0]);
    return f;
}

CurveIn<3> in_space(const Curve& curve, const Frame& frame) {
    const auto out = [&](const Vec2& p) { return frame.out({{p[0], p[1], 0}}); };
    const auto turned = [&](const Vec2& d) { return frame.axis[0] * d[0] + frame.axis[1] * d[1]; };
    CurveIn<3> made;
    switch (curve.kind()) {
        case Curve::Kind::line:
            return CurveIn<3>::line(out(curve.start()), out(curve.end()));
        case Curve::Kind::arc:
            made = CurveIn<3>::arc(out(curve.centre()), turned(curve.axis_a()), turned(curve.axis_b()),
                                   curve.from_angle(), curve.to_angle());
            break;
        case Curve::Kind::spline: {
            NurbsIn<3> lifted;
            lifted.degree = curve.nurbs().degree;
            lifted.knots = curve.nurbs().knots;
            lifted.weights = curve.nurbs().weights;
            for (const Vec2& p : curve.nurbs().poles) lifted.poles.push_back(out(p));
            made = CurveIn<3>::spline(std::make_shared<const NurbsIn<3>>(std::move(lifted)), curve.from_angle(),
                                      curve.to_angle());
            break;
        }
        case Curve::Kind::chain: {
            std::vector<CurveIn<3>> links;
            for (const Curve& link : curve.links()) links.push_back(in_space(link, frame));
            made = CurveIn<3>::chain(std::move(links));
            break;
        }
    }
    made.set_ends(out(curve.start()), out(curve.end()));
    return made;
}

Surface Surface::plane(const Frame& frame) {
    Surface s;
    s.frame_ = frame;
    return s;
}
Surface Surface::drawn(const Frame& frame, const Curve& profile) {
    Surface s;
    s.kind_ = Kind::drawn;
    s.frame_ = frame;
    s.profile_ = profile;
    return s;
}
Surface Surface::turned(const Frame& frame, const Curve& profile) {
    Surface s = drawn(frame, profile);
    s.kind_ = Kind::turned;
    return s;
}

Surface Surface::spline(SplineSurface surface) {
    Surface s;
    s.kind_ = Kind::spline;
    const SurfaceGrid grid(surface);
    s.spline_ = std::shared_ptr<const Spline>(new Spline{std::move(surface), grid, {}, {}});
    return s;
}

Surface Surface::over_facets(FacetSurface surface) {
    Surface s;
    s.kind_ = Kind::facets;
    s.facets_ = std::make_shared<const FacetSurface>(std::move(surface));
    return s;
}

const Flattening& Surface::flattening() const {
    std::call_once(spline_->laid_flat,
                   [&] { spline_->flattening = std::make_unique<const Flattening>(spline_->grid); });
    return *spline_->flattening;
}

Surface Surface::transformed(const AffineIn<3>& map, bool& turned_over) const {
    if (kind_ == Kind::spline) {
        SplineSurface moved = spline_->surface;
        for (Vec3& p : moved.poles) p = map(p);
        turned_over = map.determinant() < 0;
        return spline(std::move(moved));
    }
    if (kind_ == Kind::facets) {
        turned_over = map.determinant() < 0;
        return over_facets(facets_->transformed(map));
    }
    Surface s = *this;
    s.frame_.origin = map(frame_.origin);
    for (std::size_t k = 0; k < 3; ++k) s.frame_.axis[k] = map.turned(frame_.axis[k]);
    const bool mirrored = map.determinant() < 0;
    turned_over = mirrored && kind_ != Kind::turned;
    if (!mirrored) return s;
    // One axis the other way, and the frame is right-handed again.
    if (kind_ == Kind::plane) {
        s.frame_.axis[2] = -s.frame_.axis[2];
    } else {
        s.frame_.axis[1] = -s.frame_.axis[1];
        if (kind_ == Kind::drawn) s.profile_ = profile_.transformed({{{1, 0}}, {{0, -1}}, {}});
    }
    return s;
}

Surface Surface::as_plane() const {
    if (kind_ != Kind::drawn || !profile_.straight()) return *this;
    const Vec2 d = (profile_.end() - profile_.start()) / distance(profile_.end(), profile_.start());
    Frame f;
    f.origin = frame_.out(dotsift::in_space(profile_.start()));
    f.axis = {frame_.axis[0] * d[0] + frame_.axis[1] * d[1], frame_.axis[2], {}};
    f.axis[2] = cross(f.axis[0], f.axis[1]);
    return plane(f);
}

Surface Surface::turned_over() const {
    if (kind_ == Kind::spline) {  // the first parameter the other way
        SplineSurface other = spline_->surface;
        auto& knots = other.knots[0];
        const double ends = other.low()[0] + other.high()[0];
        std::reverse(knots.begin(), knots.end());
        for (double& k : knots) k = ends - k;
        const SplineSurface& own = spline_->surface;
        const std::size_t rows = own.count(0), row = own.count(1);
        for (std::size_t i = 0; i < rows; ++i)
            for (std::size_t j = 0; j < row; ++j) {
                other.poles[i * row + j] = own.poles[(rows - 1 - i) * row + j];
                if (!other.weights.empty()) other.weights[i * row + j] = own.weights[(rows - 1 - i) * row + j];
            }
        return spline(std::move(other));
    }
    if (kind_ == Kind::facets) return over_facets(facets_->turned_over());
    Surface s = *this;
    if (kind_ == Kind::plane) {
        s.frame_.axis[1] = -frame_.axis[1];
        s.frame_.axis[2] = -frame_.axis[2];
    } else {
        s.profile_ = profile_.reversed();
    }
    return s;
}

Vec3 Surface::point(const Vec2& at) const {
    if (kind_ == Kind::spline) return spline_->surface.at(at, 0).point;
    if (kind_ == Kind::facets) return facets_->at(at).point;
    if (kind_ == Kind::plane) return frame_.out({{at[0], at[1], 0}});
    const Vec2 p = profile_.point(on_profile(at));
    if (kind_ == Kind::drawn) return frame_.out({{p[0], p[1], at[1]}});
    return frame_.out({{p[0] * std::cos(at[0]), p[0] * std::sin(at[0]), p[1]}});
}

std::array<Vec3, 3> Surface::tangents(const Vec2& at) const {
    if (kind_ == Kind::spline) {
        const auto s = spline_->surface.at(at, 1);
        return {s.point, s.du, s.dv};
    }
    if (kind_ == Kind::facets) {
        const auto s = facets_->at(at);
        return {s.point, s.du, s.dv};
    }
    const auto [u, v] = derivatives(at);
    return {point(at), u, v};
}

std::array<Vec3, 2> Surface::derivatives(const Vec2& at) const {
    if (kind_ == Kind::spline) {
        const auto s = spline_->surface.at(at, 1);
        return {s.du, s.dv};
    }
    if (kind_ == Kind::facets) {
        const auto s = facets_->at(at);
        return {s.du, s.dv};
    }
    const auto& [x, y, z] = frame_.axis;
    if (kind_ == Kind::plane) return {x, y};
    const Vec2 d = profile_.derivative(on_profile(at));
    if (kind_ == Kind::drawn) return {x * d[0] + y * d[1], z};
    const double c = std::cos(at[0]), s = std::sin(at[0]);
    const Vec3 out = x * c + y * s, round = y * c - x * s;
    return {round * profile_.point(on_profile(at))[0], out * d[0] + z * d[1]};
}

std::array<Vec3, 3> Surface::second_derivatives(const Vec2& at) const {
    if (kind_ == Kind::spline) {
        const auto s = spline_->surface.at(at);
        return {s.duu, s.duv, s.dvv};
    }
    if (kind_ == Kind::facets) {
        const auto s = facets_->at(at);
        return {s.duu, s.duv, s.dvv};
    }
    const auto& [x, y, z] = frame_.axis;
    if (kind_ == Kind::plane) return {};
    const double t = on_profile(at);
    const Vec2 d2 = profile_.second_derivative(t);
    if (kind_ == Kind::drawn) return {x * d2[0] + y * d2[1], Vec3{}, Vec3{}};
    const double c = std::cos(at[0]), s = std::sin(at[0]);
    const Vec3 out = x * c + y * s, round = y * c - x * s;
    return {-out * profile_.point(t)[0], round * profile_.derivative(t)[0], out * d2[0] + z * d2[1]};
}

Vec2 Surface::off_pole(const Vec2& at) const {
    if (kind_ == Kind::spline) {
        const Vec2 low = spline_->surface.low(), high = spline_->surface.high();
        const auto s = spline_->surface.at(at, 1);
        const double whole = spline_->grid.size(), span = (high[0] - low[0]) * (high[1] - low[1]);
        if (norm(cross(s.du, s.dv)) * span > pole_share * whole * whole) return at;
        return at + ((low + high) * 0.5 - at) * beside_spline_pole;
    }
    return at;
}

Vec3 Surface::normal(const Vec2& at) const {
    if (kind_ == Kind::facets) return facets_->normal(at);
    auto [u, v] = derivatives(off_pole(at));
    // The direction round the axis stays when its length vanishes at the pole.
    if (kind_ == Kind::turned) u = frame_.axis[1] * std::cos(at[0]) - frame_.axis[0] * std::sin(at[0]);
    const Vec3 n = cross(u, v);
    return n / norm(n);
}

std::array<double, 2> Surface::curvature_radii(const Vec2& at) const {
    constexpr double infinity = std::numeric_limits<double>::infinity();
    if (kind_ == Kind::plane) return {infinity, infinity};
    if (kind_ == Kind::facets) return facets_->curvature_radii(at);
    Vec2 beside = off_pole(at);
    if (kind_ == Kind::turned) {
        const double t = on_profile(at);
        if (profile_.point(t)[0] < beside_pole * norm(profile_.derivative(t)))
            beside[1] = t + (t < 0.5 ? beside_pole : -beside_pole);
    }
    // Principal curvatures are the eigenvalues of the second fundamental form by the first.
    const auto [u, v] = derivatives(beside);
    const auto [uu, uv, vv] = second_derivatives(beside);
    const Vec3 n = normal(beside);
    const double e = dot(u, u), f = dot(u, v), g = dot(v, v), l = -dot(uu, n), m = -dot(uv, n), k = -dot(vv, n);
    const double det = e * g - f * f, mean = (e * k - 2 * f * m + g * l) / (2 * det), gauss = (l * k - m * m) / det;
    const double spread = std::sqrt(std::max(mean * mean - gauss, 0.0));
    std::array<double, 2> bend{mean + spread, mean - spread};
    if (std::fabs(bend[0]) < std::fabs(bend[1])) std::swap(bend[0], bend[1]);
    const auto radius = [&](double b) {
        return std::fabs(b) > std::numeric_limits<double>::epsilon() * std::fabs(bend[0]) * 4 ? 1 / b : infinity;
    };
    return {bend[0] != 0 ? 1 / bend[0] : infinity, radius(bend[1])};
}

Vec2 Surface::periods() const {
    if (kind_ == Kind::spline || kind_ == Kind::facets) return {};
    const double round = kind_ != Kind::plane && profile_.closed() ? 1 : 0;
    if (kind_ == Kind::turned) return {{2 * std::numbers::pi, round}};
    return {{round, 0}};
}

double Surface::on_profile(const Vec2& at) const {
    const double t = at[kind_ == Kind::turned ? 1 : 0];
    return profile_.closed() ? t - std::floor(t) : t;
}

Vec2 Surface::project(const Vec3& p, const Vec2& beside) const {
    if (kind_ == Kind::spline) {
        const Vec2 near = spline_->surface.nearest_from(p, beside);
        const double to_near = distance(spline_->surface.at(near, 0).point, p);
        if (to_near <= on_surface_share * spline_->grid.size()) return near;
        const Vec2 far = spline_->surface.nearest_from(p, spline_->grid.nearest(p));
        return to_near <= distance(spline_->surface.at(far, 0).point, p) ? near : far;
    }
    if (kind_ == Kind::facets) return facets_->nearest(p);
    const Vec3 local = frame_.in(p);
    Vec2 at{{local[0], local[1]}};
    if (kind_ == Kind::drawn) {
        at = {{profile_.project({{local[0], local[1]}}), local[2]}};
    } else if (kind_ == Kind::turned) {
        const double r = std::hypot(local[0], local[1]);
        at = {{r > 0 ? std::atan2(local[1], local[0]) : beside[0], profile_.project({{r, local[2]}})}};
    }
    const Vec2 period = periods();
    for (std::size_t k = 0; k < 2; ++k)
        if (period[k] > 0) at[k] += period[k] * std::round((beside[k] - at[k]) / period[k]);
    return at;
}

}  // namespace dotsift
