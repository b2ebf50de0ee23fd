#include "exact_field.hpp"

#include <fmt/format.h>

#include <cmath>

#include "mesh/elements/element.hpp"
#include "solve/material/material.hpp"

namespace dotsift::bench {

namespace {

/// a cos(k theta) - b sin(k theta), times factor * r^power; and the imaginary part of the same product.
std::string real_part(const PowerTerm& c, double factor, double power, double turns) {
    return fmt::format(" + {:.17g} * r^({:.17g}) * ({:.17g} * cos({:.17g} * theta) - {:.17g} * sin({:.17g} * theta))",
                       factor, power, c.re, turns, c.im, turns);
}
std::string imaginary_part(const PowerTerm& c, double factor, double power, double turns) {
    return fmt::format(" + {:.17g} * r^({:.17g}) * ({:.17g} * sin({:.17g} * theta) + {:.17g} * cos({:.17g} * theta))",
                       factor, power, c.re, turns, c.im, turns);
}
PowerTerm conjugate(const PowerTerm& c) {
    return {c.re, -c.im, c.power};
}

constexpr int pieces = 64;  // of every curve that is integrated over

/// Calls act(t, weight) at Gauss points over [0, 1] that crowd towards both ends, where fields may be infinite.
template <class Act>
void over_curve(Act act) {
    for (int k = 0; k < pieces; ++k)
        for (const auto& g : line_rule()) {
            const double s = (k + g.t) / pieces, u = 1 - s;
            const double t = s * s * s * s * (35 - s * (84 - s * (70 - 20 * s)));
            act(t, g.weight / pieces * 140 * s * s * s * u * u * u);
        }
}

}  // namespace

FieldFormulas Kolosov::formulas() const {
    const double shear = youngs_modulus / (2 * (1 + poissons_ratio));
    const double kappa = plane_strain ? 3 - 4 * poissons_ratio : (3 - poissons_ratio) / (1 + poissons_ratio);
    std::string sum = "0", difference = "0", twice_shear = "0", x = "0", y = "0";
    for (const auto& c : phi) {
        const double n = c.power;
        sum += real_part(c, 4 * n, n - 1, n - 1);
        difference += real_part(c, 2 * n * (n - 1), n - 1, n - 3);
        twice_shear += imaginary_part(c, 2 * n * (n - 1), n - 1, n - 3);
        x += real_part(c, kappa, n, n) + real_part(conjugate(c), -n, n, 2 - n);
        y += imaginary_part(c, kappa, n, n) + imaginary_part(conjugate(c), -n, n, 2 - n);
    }
    for (const auto& d : psi) {
        const double m = d.power;
        difference += real_part(d, 2 * m, m - 1, m - 1);
        twice_shear += imaginary_part(d, 2 * m, m - 1, m - 1);
        x += real_part(conjugate(d), -1, m, -m);
        y += imaginary_part(conjugate(d), -1, m, -m);
    }
    if (exp_factor != 0) {
        const double c = exp_factor, k = exp_rate;
        const std::string rise = fmt::format("exp({:.17g} * x)", k), co = fmt::format("cos({:.17g} * y)", k),
                          si = fmt::format("sin({:.17g} * y)", k);
        sum += fmt::format(" + {:.17g} * {} * {}", 4 * c * k, rise, co);
        difference += fmt::format(" + {:.17g} * {} * (x * {} + y * {})", 2 * c * k * k, rise, co, si);
        twice_shear += fmt::format(" + {:.17g} * {} * (x * {} - y * {})", 2 * c * k * k, rise, si, co);
        x += fmt::format(" + {:.17g} * {} * {} - {:.17g} * {} * (x * {} + y * {})", kappa * c, rise, co, c * k, rise,
                         co, si);
        y += fmt::format(" + {:.17g} * {} * {} - {:.17g} * {} * (y * {} - x * {})", kappa * c, rise, si, c * k, rise,
                         co, si);
    }
    FieldFormulas out{{"sxx", fmt::format("0.5 * (({}) - ({}))", sum, difference)},
                      {"syy", fmt::format("0.5 * (({}) + ({}))", sum, difference)},
                      {"sxy", fmt::format("0.5 * ({})", twice_shear)},
                      {"ux", fmt::format("({}) / {:.17g}", x, 2 * shear)},
                      {"uy", fmt::format("({}) / {:.17g}", y, 2 * shear)}};
    if (plane_strain) out.emplace_back("szz", fmt::format("{:.17g} * ({})", poissons_ratio, sum));
    return out;
}

FieldFormulas inside_outside(double radius, const FieldFormulas& inner, const FieldFormulas& outer) {
    FieldFormulas out;
    for (std::size_t k = 0; k < inner.size(); ++k)
        out.emplace_back(inner[k].first,
                         fmt::format("r < {:.17g} ? ({}) : ({})", radius, inner[k].second, outer[k].second));
    return out;
}

ExactField::ExactField(const FieldFormulas& formulas, const Study& study, const Part& part)
    : study_(study), part_(part) {
    FieldFormulas ready;  // of the place alone
    for (const auto& [name, text] : formulas) {
        std::string own = text;
        for (const auto& [other, by] : ready) own = replace_identifier(own, other, "(" + by + ")");
        ready.emplace_back(name, own);
        Formula f;
        f.source = f.text = own;
        components_.emplace(name, FormulaEvaluator(f, "exact"));
    }
}

std::optional<double> ExactField::component(const std::string& name, const Vec2& p) const {
    const auto found = components_.find(name);
    if (found == components_.end()) return {};
    return found->second({p, {}, {}});
}

std::optional<double> ExactField::at(Field field, const Vec2& p, const Vec2& about) const {
    if (const auto own = component(name_of(field), p)) return own;
    const Vec2 d = p - about;
    const double r = norm(d);
    const Vec2 out = r > 0 ? d / r : Vec2{{1, 0}};
    if (field == Field::displacement || field == Field::ur || field == Field::ut) {
        const auto ux = component("ux", p), uy = component("uy", p);
        if (!ux || !uy) return {};
        const Vec2 u{{*ux, *uy}};
        return field == Field::displacement ? norm(u) : dot(u, field == Field::ur ? out : turned_left(out));
    }
    if (field == Field::flux) {
        const auto x = component("flux_x", p), y = component("flux_y", p);
        return x && y ? std::optional(std::hypot(*x, *y)) : std::nullopt;
    }
    const auto sxx = component("sxx", p), syy = component("syy", p), sxy = component("sxy", p);
    if (!sxx || !syy || !sxy) return {};
    const Stress s{*sxx, *syy, *sxy, component("szz", p).value_or(0)};
    switch (field) {
        case Field::von_mises:
            return von_mises(s);
        case Field::max_principal:
            return principal(s)[0];
        case Field::min_principal:
            return principal(s)[1];
        case Field::max_shear:
            return max_shear(s);
        case Field::szz:
            return s[3];
        case Field::srr:
            return turned(s, std::atan2(d[1], d[0]))[0];
        case Field::stt:
            return turned(s, std::atan2(d[1], d[0]))[1];
        case Field::srt:
            return turned(s, std::atan2(d[1], d[0]))[2];
        default:
            return {};
    }
}

std::optional<double> ExactField::over_boundary(const QuantitySpec& q) const {
    double sum = 0, length = 0, best = -INFINITY;
    const double sign = q.take == Take::minimum ? -1 : 1;
    for (const int e : part_.edges_named(q.on)) {
        const Curve& curve = part_.edge(e).curve;
        bool known = true;
        over_curve([&](double t, double weight) {
            const double w = weight * norm(curve.derivative(t));
            const auto v = at(q.field, curve.point(t), q.about);
            known = known && v;
            sum += w * v.value_or(0);
            length += w;
        });
        if (!known) return {};
        if (q.take != Take::maximum && q.take != Take::minimum) continue;
        constexpr int samples = 4000;
        for (int k = 0; k <= samples; ++k)
            best = std::max(best, sign * *at(q.field, curve.point(static_cast<double>(k) / samples), q.about));
    }
    if (q.take == Take::maximum || q.take == Take::minimum) return sign * best;
    return q.take == Take::mean ? sum / length : sum;
}

std::optional<double> ExactField::along_path(const QuantitySpec& q) const {
    const PathSpec* path = nullptr;
    for (const auto& p : study_.paths)
        if (p.name == q.along) path = &p;
    const Vec2 a = path->points.front(), b = path->points.back();
    const double length = distance(a, b);
    const Vec2 along = (b - a) / length, n = turned_left(along);
    double mean = 0, bending = 0, moment = 0;
    Vec2 force;
    for (int k = 0; k < pieces; ++k)
        for (const auto& g : line_rule()) {
            const double t = (k + g.t) / pieces, w = g.weight * length / pieces;
            const Vec2 p = a + (b - a) * t;
            if (is_section(q.field)) {
                const double sxx = *component("sxx", p), syy = *component("syy", p), sxy = *component("sxy", p);
                const Vec2 f =
                    Vec2{{sxx * n[0] + sxy * n[1], sxy * n[0] + syy * n[1]}} * (w * *study_.thickness.constant);
                force += f;
                moment += cross(p - (a + b) * 0.5, f);
                continue;
            }
            const auto v = at(q.field, p, q.about);
            if (!v) return {};
            mean += w * *v / length;
            bending += 6 * w * *v * (0.5 - t) / length;
        }
    if (is_section(q.field))
        return q.field == Field::section_moment ? moment : force[q.field == Field::section_force_x ? 0 : 1];
    if (q.take == Take::mean || q.take == Take::membrane) return mean;
    if (q.take == Take::integral) return mean * length;
    if (q.take == Take::linearised)
        return std::fabs(mean + bending) >= std::fabs(mean - bending) ? mean + bending : mean - bending;
    return {};
}

/// Half the work of the tractions on the outline: nothing acts inside.
std::optional<double> ExactField::energy() const {
    double sum = 0;
    bool known = true;
    for (const auto& edge : part_.edges) {
        if (edge.interior()) continue;
        over_curve([&](double t, double weight) {
            const Vec2 p = edge.curve.point(t), n = -turned_left(edge.curve.derivative(t));
            const auto ux = component("ux", p), uy = component("uy", p);
            known = known && ux && uy;
            const double sxx = *component("sxx", p), syy = *component("syy", p), sxy = *component("sxy", p);
            sum += 0.5 * weight * depth_at(p) *
                   (ux.value_or(0) * (sxx * n[0] + sxy * n[1]) + uy.value_or(0) * (sxy * n[0] + syy * n[1]));
        });
    }
    return known ? std::optional(sum) : std::nullopt;
}

double ExactField::depth_at(const Vec2& p) const {
    return study_.plane == Plane::axisymmetric ? 2 * M_PI * p[0] : *study_.thickness.constant;
}

std::optional<double> ExactField::reaction(const QuantitySpec& q) const {
    double sum = 0;
    for (const auto& s : study_.supports) {
        if (!q.on.empty() && !fits_any(s.name, q.on)) continue;
        for (const int e : part_.edges_named(s.on)) {
            const Curve& curve = part_.edge(e).curve;
            over_curve([&](double t, double weight) {
                const Vec2 p = curve.point(t), n = -turned_left(curve.derivative(t));
                const double w = depth_at(p) * weight;
                if (q.field == Field::reaction_flow)
                    sum -= w * (*component("flux_x", p) * n[0] + *component("flux_y", p) * n[1]);
                else if (q.field == Field::reaction_x)
                    sum += w * (*component("sxx", p) * n[0] + *component("sxy", p) * n[1]);
                else
                    sum += w * (*component("sxy", p) * n[0] + *component("syy", p) * n[1]);
            });
        }
    }
    return sum;
}

std::optional<double> ExactField::value(const QuantitySpec& q) const {
    if (q.formula) return {};
    if (q.field == Field::strain_energy) return energy();
    if (is_reaction(q.field)) return reaction(q);
    if (!q.along.empty()) return along_path(q);
    if (q.take == Take::value) return at(q.field, in_plane(*q.at), q.about);
    if (q.on.empty() || !part_.regions_named(q.on).empty()) return {};
    return over_boundary(q);
}

}  // namespace dotsift::bench
