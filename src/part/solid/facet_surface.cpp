#include "part/solid/facet_surface.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

// Beyond the rim a facet goes on by at most this share of itself.
constexpr double beyond_rim = 0.25;
// Of a facet's size: a ray that passes its edge nearer than that may be told to lie on either side.
constexpr double near_side = 1e-9;
constexpr int steps_to_nearest = 4;
// Control points in the order 300, 030, 003, 210, 120, 021, 012, 102, 201, 111.
constexpr std::array<std::array<int, 3>, 10> net_powers{
    {{3, 0, 0}, {0, 3, 0}, {0, 0, 3}, {2, 1, 0}, {1, 2, 0}, {0, 2, 1}, {0, 1, 2}, {1, 0, 2}, {2, 0, 1}, {1, 1, 1}}};
constexpr std::array<double, 10> net_choices{1, 1, 1, 3, 3, 3, 3, 3, 3, 6};

double power_of(double x, int n) {
    return n <= 0 ? 1 : n == 1 ? x : n == 2 ? x * x : x * x * x;
}

}  // namespace

FacetSurface::FacetSurface(std::vector<Vec3> points, std::vector<Vec3> normals, std::vector<FlatTriangle> facets)
    : points_(std::move(points)), normals_(std::move(normals)), facets_(std::move(facets)) {
    find_nets();
    find_bends();
    find_boxes();
    lay_flat();
}

void FacetSurface::find_nets() {
    nets_.clear();
    for (const auto& f : facets_) {
        const auto p = [&](std::size_t k) -> const Vec3& { return points_[f[k]]; };
        const auto towards = [&](std::size_t a, std::size_t b) {
            return (p(a) * 2 + p(b) - normals_[f[a]] * dot(p(b) - p(a), normals_[f[a]])) / 3;
        };
        std::array<Vec3, 10> net{p(0),          p(1),          p(2),          towards(0, 1), towards(1, 0),
                                 towards(1, 2), towards(2, 1), towards(2, 0), towards(0, 2), {}};
        Vec3 edges;
        for (std::size_t k = 3; k < 9; ++k) edges += net[k] / 6;
        net[9] = edges + (edges - (p(0) + p(1) + p(2)) / 3) / 2;
        nets_.push_back(net);
    }
}

void FacetSurface::find_bends() {
    std::vector<double> weight(points_.size(), 0);
    bends_.assign(points_.size(), {0, 0});
    for (const auto& f : facets_) {
        const Vec3 a = points_[f[0]], e = points_[f[1]] - a, g = points_[f[2]] - a, n = cross(e, g);
        const double area = norm(n);
        if (!(area > 0)) continue;
        const Vec3 x = e / norm(e), y = cross(n / area, x);
        // Least squares for the second fundamental form (l m; m k): it turns each side into how the normal changes.
        std::array<std::array<double, 3>, 3> matrix{};
        std::array<double, 3> right{};
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 side = points_[f[(k + 1) % 3]] - points_[f[k]], turn = normals_[f[(k + 1) % 3]] - normals_[f[k]];
            const double sx = dot(side, x), sy = dot(side, y);
            const std::array<std::array<double, 3>, 2> rows{{{sx, sy, 0}, {0, sx, sy}}};
            const std::array<double, 2> value{dot(turn, x), dot(turn, y)};
            for (std::size_t r = 0; r < 2; ++r)
                for (std::size_t i = 0; i < 3; ++i) {
                    right[i] += rows[r][i] * value[r];
                    for (std::size_t j = 0; j < 3; ++j) matrix[i][j] += rows[r][i] * rows[r][j];
                }
        }
        const auto det = [](const std::array<std::array<double, 3>, 3>& m) {
            return m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) -
                   m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0]) +
                   m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]);
        };
        const double whole = det(matrix);
        if (!(whole > 0)) continue;
        std::array<double, 3> form{};
        for (std::size_t i = 0; i < 3; ++i) {
            auto m = matrix;
            for (std::size_t r = 0; r < 3; ++r) m[r][i] = right[r];
            form[i] = det(m) / whole;
        }
        const double mean = (form[0] + form[2]) / 2, half = (form[0] - form[2]) / 2,
                     spread = std::sqrt(half * half + form[1] * form[1]);
        for (const auto v : f) {
            weight[v] += area;
            bends_[v][0] += area * (mean + spread);
            bends_[v][1] += area * (mean - spread);
        }
    }
    for (std::size_t v = 0; v < points_.size(); ++v)
        if (weight[v] > 0)
            for (double& b : bends_[v]) b /= weight[v];
}

void FacetSurface::find_boxes() {
    std::vector<Box<3>> boxes;
    for (const auto& net : nets_) {  // a Bezier triangle lies within its control points
        Box<3> box;
        for (const Vec3& p : net) box.add(p);
        boxes.push_back(box);
    }
    boxes_ = std::make_shared<const BoxTree>(std::move(boxes));
}

void FacetSurface::lay_flat() {
    Vec3 normal;
    for (const auto& f : facets_) normal += cross(points_[f[1]] - points_[f[0]], points_[f[2]] - points_[f[0]]);
    if (!(norm(normal) > 0)) {
        folded_ = true;
        normal = {{0, 0, 1}};
    }
    const Vec3 z = normal / norm(normal), beside = std::fabs(z[0]) < 0.7 ? Vec3{{1, 0, 0}} : Vec3{{0, 1, 0}};
    const Vec3 x = cross(beside, z) / norm(cross(beside, z)), y = cross(z, x);
    std::vector<FlatPlace> flat;
    for (const Vec3& p : points_) flat.emplace_back(dot(p - points_[0], x), dot(p - points_[0], y));
    const bool upright = all_upright(facets_, flat);
    std::array<std::size_t, 2> held{0, 0};
    for (std::size_t v = 0; v < flat.size(); ++v) {
        if (std::abs(flat[v] - flat[held[0]]) > std::abs(flat[held[1]] - flat[held[0]])) held[1] = v;
    }
    for (std::size_t v = 0; v < flat.size(); ++v)
        if (std::abs(flat[v] - flat[held[1]]) > std::abs(flat[held[0]] - flat[held[1]])) held[0] = v;
    const auto first = flat;
    make_conformal(points_, facets_, held, flat);
    FlatSearch laid(facets_, flat);
    if (!all_upright(facets_, flat) || laid.covers_itself()) {
        flat = first;
        laid = FlatSearch(facets_, flat);
        folded_ = folded_ || !upright || laid.covers_itself();
    }
    scale_ = scales_of(points_, facets_, flat);
    search_ = std::make_shared<const FlatSearch>(std::move(laid));
}

WithinTriangle FacetSurface::within(const Vec2& uv) const {
    WithinTriangle w = search_->find(uv);
    double sum = 0;
    for (double& s : w.share) {
        s = std::clamp(s, -beyond_rim, 1 + beyond_rim);
        sum += s;
    }
    for (double& s : w.share) s /= sum;
    return w;
}

FacetSurface::Values FacetSurface::on_facet(std::size_t facet, double s, double t) const {
    const double r = 1 - s - t;
    Values v;
    // By shares first: of the three, r falls as s or t grow.
    for (std::size_t k = 0; k < 10; ++k) {
        const auto [a, b, c] = net_powers[k];
        const double fr = power_of(r, a), fs = power_of(s, b), ft = power_of(t, c);
        const double dr = a * power_of(r, a - 1), ds = b * power_of(s, b - 1), dt = c * power_of(t, c - 1);
        const double drr = a * (a - 1) * power_of(r, a - 2), dss = b * (b - 1) * power_of(s, b - 2),
                     dtt = c * (c - 1) * power_of(t, c - 2);
        const Vec3 p = nets_[facet][k] * net_choices[k];
        v.point += p * (fr * fs * ft);
        v.du += p * (fr * ds * ft - dr * fs * ft);
        v.dv += p * (fr * fs * dt - dr * fs * ft);
        v.duu += p * (fr * dss * ft - 2 * dr * ds * ft + drr * fs * ft);
        v.dvv += p * (fr * fs * dtt - 2 * dr * fs * dt + drr * fs * ft);
        v.duv += p * (fr * ds * dt - dr * fs * dt - dr * ds * ft + drr * fs * ft);
    }
    return v;
}

FacetSurface::Values FacetSurface::at(const Vec2& uv) const {
    const WithinTriangle w = within(uv);
    const Values by = on_facet(w.triangle, w.share[1], w.share[2]);
    const auto& f = facets_[w.triangle];
    const FlatPlace e = search_->flat()[f[1]] - search_->flat()[f[0]],
                    g = search_->flat()[f[2]] - search_->flat()[f[0]];
    const double whole = (std::conj(e) * g).imag();
    // How the shares grow with the parameters.
    const double su = g.imag() / whole, sv = -g.real() / whole, tu = -e.imag() / whole, tv = e.real() / whole;
    Values out;
    out.point = by.point;
    out.du = by.du * su + by.dv * tu;
    out.dv = by.du * sv + by.dv * tv;
    out.duu = by.duu * (su * su) + by.duv * (2 * su * tu) + by.dvv * (tu * tu);
    out.duv = by.duu * (su * sv) + by.duv * (su * tv + sv * tu) + by.dvv * (tu * tv);
    out.dvv = by.duu * (sv * sv) + by.duv * (2 * sv * tv) + by.dvv * (tv * tv);
    return out;
}

Vec3 FacetSurface::normal(const Vec2& uv) const {
    const WithinTriangle w = within(uv);
    Vec3 n;
    for (std::size_t k = 0; k < 3; ++k) n += normals_[facets_[w.triangle][k]] * w.share[k];
    return n / norm(n);
}

std::array<double, 2> FacetSurface::curvature_radii(const Vec2& uv) const {
    const WithinTriangle w = within(uv);
    std::array<double, 2> bend{};
    for (std::size_t k = 0; k < 3; ++k)
        for (std::size_t i = 0; i < 2; ++i) bend[i] += bends_[facets_[w.triangle][k]][i] * w.share[k];
    if (std::fabs(bend[0]) < std::fabs(bend[1])) std::swap(bend[0], bend[1]);
    return {bend[0] != 0 ? 1 / bend[0] : INFINITY, bend[1] != 0 ? 1 / bend[1] : INFINITY};
}

double FacetSurface::least_radius_at(std::size_t point) const {
    const double most = std::max(std::fabs(bends_[point][0]), std::fabs(bends_[point][1]));
    return most > 0 ? 1 / most : INFINITY;
}

double FacetSurface::scale(const Vec2& uv) const {
    const WithinTriangle w = within(uv);
    double sum = 0;
    for (std::size_t k = 0; k < 3; ++k) sum += scale_[facets_[w.triangle][k]] * w.share[k];
    return sum;
}

Vec2 FacetSurface::nearest(const Vec3& p) const {
    // The nearest place of the facets, and from there Newton's method for that of the smooth surface.
    WithinTriangle best;
    boxes_->nearest(p, INFINITY, [&](std::size_t f, double least) {
        const Vec3 &a = points_[facets_[f][0]], e = points_[facets_[f][1]] - a, g = points_[facets_[f][2]] - a,
                   d = p - a;
        const double ee = dot(e, e), eg = dot(e, g), gg = dot(g, g), det = ee * gg - eg * eg;
        double s = (dot(d, e) * gg - dot(d, g) * eg) / det, t = (dot(d, g) * ee - dot(d, e) * eg) / det;
        if (!(s >= 0 && t >= 0 && s + t <= 1)) {  // on a side
            double near = INFINITY;
            const auto side = [&](double s0, double t0, double s1, double t1) {
                const Vec3 from = a + e * s0 + g * t0, along = e * (s1 - s0) + g * (t1 - t0);
                const double x = std::clamp(dot(p - from, along) / dot(along, along), 0.0, 1.0);
                const double far = distance(from + along * x, p);
                if (far >= near) return;
                near = far;
                s = s0 + x * (s1 - s0);
                t = t0 + x * (t1 - t0);
            };
            side(0, 0, 1, 0);
            side(1, 0, 0, 1);
            side(0, 1, 0, 0);
        }
        const double far = distance(a + e * s + g * t, p);
        if (far < least) best = {f, {1 - s - t, s, t}};
        return far;
    });
    FlatPlace z;
    for (std::size_t k = 0; k < 3; ++k) z += search_->flat()[facets_[best.triangle][k]] * best.share[k];
    Vec2 uv{{z.real(), z.imag()}};
    double now = INFINITY;
    Vec2 kept = uv;
    for (int step = 0; step < steps_to_nearest; ++step) {
        const Values v = at(uv);
        const Vec3 miss = p - v.point;
        if (norm(miss) >= now) break;
        now = norm(miss);
        kept = uv;
        const double e = dot(v.du, v.du), f = dot(v.du, v.dv), g = dot(v.dv, v.dv), det = e * g - f * f;
        if (!(det > 0)) break;
        const double a = dot(miss, v.du), b = dot(miss, v.dv);
        uv += Vec2{{(a * g - b * f) / det, (b * e - a * f) / det}};
    }
    return kept;
}

std::optional<std::vector<Vec3>> FacetSurface::crossings(const Vec3& from, const Vec3& along) const {
    std::vector<Vec3> out;
    bool clear = true;
    boxes_->visit(
        [&](const Box<3>& box) {
            if (!clear) return false;
            double enter = 0, leave = INFINITY;
            for (std::size_t k = 0; k < 3; ++k) {
                const double a = (box.low[k] - from[k]) / along[k], b = (box.high[k] - from[k]) / along[k];
                if (std::isnan(a) || std::isnan(b)) continue;
                enter = std::max(enter, std::min(a, b));
                leave = std::min(leave, std::max(a, b));
            }
            return enter <= leave;
        },
        [&](std::size_t f) {
            const Vec3 &a = points_[facets_[f][0]], e = points_[facets_[f][1]] - a, g = points_[facets_[f][2]] - a;
            const Vec3 h = cross(along, g);
            const double det = dot(e, h), size = norm(cross(e, g)) * norm(along);
            if (std::fabs(det) <= near_side * size) {  // along the facet
                clear = false;
                return;
            }
            const Vec3 d = from - a, q = cross(d, e);
            const double s = dot(d, h) / det, t = dot(along, q) / det, share = dot(g, q) / det;
            const double least = std::min({s, t, 1 - s - t});
            if (share <= 0 || least < -near_side) return;
            if (least < near_side) {
                clear = false;
                return;
            }
            out.push_back(from + along * share);
        });
    if (!clear) return std::nullopt;
    return out;
}

void FacetSurface::integrate(const std::function<void(const Vec3&, const Vec3&, double)>& act) const {
    // Gauss-Legendre with four points each way over the square that is pressed to the facet: exact to degree 6, where
    // the volume of a cubic triangle needs 7.
    constexpr std::array<double, 4> place{0.0694318442029737, 0.3300094782075719, 0.6699905217924281,
                                          0.9305681557970263},
        weight{0.1739274225687269, 0.3260725774312731, 0.3260725774312731, 0.1739274225687269};
    for (std::size_t f = 0; f < facets_.size(); ++f)
        for (std::size_t i = 0; i < 4; ++i)
            for (std::size_t j = 0; j < 4; ++j) {
                const double s = place[i], t = place[j] * (1 - s);
                const Values v = on_facet(f, s, t);
                const Vec3 area = cross(v.du, v.dv) * (weight[i] * weight[j] * (1 - s));
                act(v.point, area, norm(area));
            }
}

FacetSurface FacetSurface::transformed(const AffineIn<3>& map) const {
    FacetSurface out = *this;
    const double side = map.determinant() < 0 ? -1 : 1;
    for (Vec3& p : out.points_) p = map(p);
    for (Vec3& n : out.normals_) n = map.turned(n) * side;
    for (auto& net : out.nets_)
        for (Vec3& p : net) p = map(p);
    if (side < 0)
        for (auto& b : out.bends_)
            for (double& k : b) k = -k;
    out.find_boxes();
    return out;
}

FacetSurface FacetSurface::turned_over() const {
    FacetSurface out = *this;
    for (Vec3& n : out.normals_) n = -n;
    for (auto& f : out.facets_) std::swap(f[1], f[2]);
    for (auto& b : out.bends_)
        for (double& k : b) k = -k;
    out.find_nets();
    std::vector<FlatPlace> flat = search_->flat();
    for (auto& z : flat) z = -std::conj(z);
    out.search_ = std::make_shared<const FlatSearch>(out.facets_, std::move(flat));
    return out;
}

}  // namespace dotsift
