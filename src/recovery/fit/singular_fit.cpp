#include "recovery/fit/singular_fit.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <limits>
#include <map>
#include <optional>

#include "base/dense.hpp"
#include "base/parallel.hpp"
#include "recovery/fit/polynomials.hpp"

namespace dotsift {

namespace {

// Of elements round the point: so many layers are fitted to, and so many of these are compared.
constexpr int layers = 6, compared = 2;
// The sides' loads, and what the modes leave, follow polynomials up to this degree.
constexpr int degree = 2;
// Values for each unknown, at least.
constexpr int values_per_unknown = 2;
// The modes show where they leave at most this share of what polynomials alone leave of the displacement.
constexpr double share_that_shows = 0.5;
// The field is known well enough to compare the elements with where they leave no more than this. Farther from it the
// factors are off by as much as their size: the elements are too large for what else is there.
constexpr double share_that_serves = 0.1;
// A mode is there if it has this share of the largest one.
constexpr double share_that_wakes = 0.05;
// And nothing is left where polynomials leave this share of the displacement.
constexpr double rounding_share_of_fit = 1e-9;

}  // namespace

SingularFit::SingularFit(const Mesh& mesh, const NodeElements& elements_at, const Laws& laws, const Solution& solution,
                         const SingularPoint& point, const std::vector<SingularPoint>& all, double near)
    : mesh_(mesh),
      laws_(laws),
      solution_(solution),
      modes_(point.modes),
      centre_(point.position),
      of_potential_(point.of_potential) {
    for (std::size_t n = 0; n < mesh.nodes.size() && node_ < 0; ++n)
        if (distance(mesh.nodes[n], centre_) <= near) node_ = static_cast<std::int32_t>(n);
    if (node_ < 0) return;
    const Surroundings around = surroundings(elements_at, point, all, near);
    if (around.elements.empty()) return;
    scale_ = 0;
    for (const auto n : around.nodes)
        scale_ = std::max(scale_, distance(mesh.nodes[static_cast<std::size_t>(n)], centre_));
    // At the point itself the elements' field is far off in ways of its own.
    std::vector<std::int32_t> farther;
    std::set_difference(around.nodes.begin(), around.nodes.end(), around.touching.begin(), around.touching.end(),
                        std::back_inserter(farther));
    if (fit(farther, around.elements, true) || fit(around.nodes, around.elements, false)) elements_ = around.compared;
}

SingularFit::Surroundings SingularFit::surroundings(const NodeElements& elements_at, const SingularPoint& point,
                                                    const std::vector<SingularPoint>& all, double near) const {
    enum : char { unmet, ours, elsewhere };
    std::vector<char> node(mesh_.nodes.size(), unmet), element_met(mesh_.element_count(), 0);
    const auto is_elsewhere = [&](std::int32_t n) {
        const Vec2& p = mesh_.nodes[static_cast<std::size_t>(n)];
        const double own = distance(p, centre_);
        return own > point.reach + near || std::any_of(all.begin(), all.end(), [&](const SingularPoint& o) {
                   return distance(o.position, centre_) > near && distance(p, o.position) < own;
               });
    };
    Surroundings out;
    out.nodes = {node_};
    node[static_cast<std::size_t>(node_)] = ours;
    const auto own = elements_at.of(static_cast<std::size_t>(node_));
    if (own.empty()) return out;
    const std::int32_t region = mesh_.region[static_cast<std::size_t>(own.front())];
    std::vector<std::int32_t> rim = out.nodes, next;
    for (int layer = 0; layer < layers; ++layer, rim.swap(next)) {
        next.clear();
        for (const auto n : rim)
            for (const auto e : elements_at.of(static_cast<std::size_t>(n))) {
                const auto at = static_cast<std::size_t>(e);
                if (element_met[at] || mesh_.region[at] != region) continue;
                element_met[at] = 1;
                bool all_ours = true;
                for (const auto m : mesh_.element(at)) {
                    char& of = node[static_cast<std::size_t>(m)];
                    if (of == unmet) of = is_elsewhere(m) ? elsewhere : ours;
                    all_ours = all_ours && of == ours;
                }
                if (!all_ours) continue;
                out.elements.push_back(e);
                next.insert(next.end(), mesh_.element(at).begin(), mesh_.element(at).end());
            }
        std::sort(next.begin(), next.end());
        next.erase(std::unique(next.begin(), next.end()), next.end());
        std::vector<std::int32_t> nodes;
        std::set_union(out.nodes.begin(), out.nodes.end(), next.begin(), next.end(), std::back_inserter(nodes));
        out.nodes.swap(nodes);
        if (layer == 0) out.touching = out.nodes;
        if (layer == compared - 1) out.compared = out.elements;
    }
    std::sort(out.elements.begin(), out.elements.end());
    std::sort(out.compared.begin(), out.compared.end());
    return out;
}

bool SingularFit::fit(const std::vector<std::int32_t>& nodes, const std::vector<std::int32_t>& elements,
                      bool with_falling) {
    const int motions = of_potential_ ? 1 : 2;
    constexpr int terms = Monomials::terms(degree);
    std::vector<std::size_t> chosen;
    for (std::size_t k = 0; k < modes_->count(); ++k)
        if (with_falling || modes_->exponent(k) > 0) chosen.push_back(k);
    const auto count = static_cast<int>(chosen.size());
    if (chosen.empty() || static_cast<int>(nodes.size()) * motions < values_per_unknown * (count + motions * terms))
        return false;
    fitted_ = true;
    std::map<std::int32_t, std::size_t> slot_of;
    for (const auto e : elements) {
        if (!of_potential_) break;
        const auto list = mesh_.element(static_cast<std::size_t>(e)),
                   slots = mesh_.slots_of(static_cast<std::size_t>(e));
        for (std::size_t i = 0; i < list.size(); ++i) slot_of[list[i]] = static_cast<std::size_t>(slots[i]);
    }
    // Every component has polynomials and values of its own; the modes are in all of them.
    const auto points = static_cast<Eigen::Index>(nodes.size());
    Eigen::MatrixXd polynomials(points, terms);
    Eigen::MatrixXd rising = Eigen::MatrixXd::Zero(points, motions * (count + 1));  // for each, then the values
    std::vector<CornerModes::Value> modes;
    for (Eigen::Index row = 0; row < points; ++row) {
        const auto n = nodes[static_cast<std::size_t>(row)];
        const auto at = static_cast<std::size_t>(n);
        const auto poly = monomial_values<terms>(mesh_.nodes[at], centre_, scale_);
        for (int i = 0; i < terms; ++i) polynomials(row, i) = poly[static_cast<std::size_t>(i)];
        const auto ray = modes_->ray((mesh_.nodes[at] - centre_) / scale_);
        modes.clear();
        for (int k = 0; k < count && n != node_; ++k)
            modes.push_back(modes_->at(chosen[static_cast<std::size_t>(k)], ray));
        for (int c = 0; c < motions; ++c) {
            const auto component = static_cast<std::size_t>(c);
            const int first = c * (count + 1);
            for (std::size_t k = 0; k < modes.size(); ++k)
                rising(row, first + static_cast<Eigen::Index>(k)) = modes[k].motion[component];
            rising(row, first + count) =
                of_potential_ ? solution_.potential[slot_of.at(n)] : solution_.displacement[at][component];
        }
    }
    const auto stacked = [&](const Eigen::MatrixXd& beside) {
        Eigen::MatrixXd below(beside.rows() * motions, count + 1);
        for (int c = 0; c < motions; ++c)
            below.middleRows(c * beside.rows(), beside.rows()) = beside.middleCols(c * (count + 1), count + 1);
        return below;
    };
    const Eigen::MatrixXd all = stacked(rising);
    // What polynomials leave of the modes and of the values.
    const OrthogonalFactor smooth(polynomials);
    const Eigen::MatrixXd turned = smooth.turned(rising);
    Eigen::MatrixXd a = stacked(turned.bottomRows(points - smooth.rank()));
    const Eigen::VectorXd b = a.col(count);
    a.conservativeResize(Eigen::NoChange, count);
    // Columns of one length, so that those of great powers count for the rank.
    const Eigen::VectorXd lengths =
        all.leftCols(count).colwise().norm().transpose().cwiseMax(std::numeric_limits<double>::min());
    for (int k = 0; k < count; ++k) a.col(k) *= 1 / lengths(k);
    const Eigen::VectorXd x = OrthogonalFactor(a).solve(b);
    // Where loads and supports happen to bring no singular part, the recovered field is the better one.
    const double left = b.norm(), left_by_all = (product(a, x) - b).norm();
    if (left <= rounding_share_of_fit * all.col(count).norm()) return false;
    shows_ = shows_ || left_by_all <= share_that_shows * left;
    const Eigen::VectorXd factors = x.cwiseQuotient(lengths);
    double largest = 0;  // at the rim of what was fitted to, where modes are as large as their factors
    for (int k = 0; k < count; ++k)
        if (modes_->exponent(chosen[static_cast<std::size_t>(k)]) > 0)
            largest = std::max(largest, std::fabs(factors(k)));
    for (int k = 0; k < count && left_by_all <= share_that_shows * left; ++k) {
        const double exponent = modes_->exponent(chosen[static_cast<std::size_t>(k)]);
        if (exponent > 0 && std::fabs(factors(k)) > share_that_wakes * largest) woken_ = std::min(woken_, exponent);
    }
    if (!(left_by_all <= share_that_serves * left)) return false;
    factors_.assign(modes_->count(), 0);
    for (int k = 0; k < count; ++k)  // what falls is the elements' own error
        if (modes_->exponent(chosen[static_cast<std::size_t>(k)]) > 0)
            factors_[chosen[static_cast<std::size_t>(k)]] = factors(k);
    for (int c = 0; c < motions; ++c) {
        const auto own = rising.middleCols(c * (count + 1), count + 1);
        const Eigen::VectorXd rest = smooth.solve(own.col(count) - product(own.leftCols(count), factors));
        coefficients_[static_cast<std::size_t>(c)].assign(rest.begin(), rest.end());
    }
    return true;
}

double SingularFit::exponent() const {
    double least = 1;
    for (std::size_t k = 0; k < modes_->count(); ++k)
        if (modes_->exponent(k) > 0) least = std::min(least, modes_->exponent(k));
    return least;
}

std::array<Vec2, 2> SingularFit::gradient(const Vec2& position) const {
    std::array<Vec2, 2> out{};
    const Monomials poly(degree, position, centre_, scale_);
    const auto ray = modes_->ray((position - centre_) / scale_);
    for (std::size_t k = 0; k < factors_.size(); ++k) {
        if (factors_[k] == 0) continue;
        const auto value = modes_->at(k, ray);
        for (std::size_t c = 0; c < 2; ++c) out[c] += value.gradient[c] * (factors_[k] / scale_);
    }
    for (std::size_t c = 0; c < 2; ++c)
        for (std::size_t i = 0; i < coefficients_[c].size(); ++i)
            out[c] += Vec2{{poly.x[i], poly.y[i]}} * coefficients_[c][i];
    return out;
}

Stress SingularFit::stress(std::size_t element, const ElementPoint& p) const {
    const auto g = gradient(p.position);
    const double change = slot_value(mesh_, solution_.temperature_change, element, p);
    Strain strain{g[0][0], g[1][1], g[0][1] + g[1][0], 0};
    if (laws_.plane == Plane::generalised_strain) strain[3] = solution_.axial.at(p.position);
    return scaled(laws_.of(mesh_.region[element]).elastic.stress(strain, change),
                  stiffness_at(mesh_, solution_, element, p));
}

Vec2 SingularFit::flux(std::size_t element, const ElementPoint& p) const {
    return laws_.of(mesh_.region[element]).conduction.flux(gradient(p.position)[0]) *
           conductivity_at(mesh_, solution_, element, p);
}

std::vector<SingularFit> singular_fits(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                       const std::vector<SingularPoint>& points, double near) {
    std::vector<SingularFit> out;
    // Round an axis the exponents are those of the plane, but the radius makes terms that these fits do not have.
    if (laws.axisymmetric() || points.empty()) return out;
    const NodeElements elements_at = node_elements(mesh);
    std::vector<std::optional<SingularFit>> tried(points.size());
    in_parallel(points.size(), [&](std::size_t k) {
        const SingularPoint& p = points[k];
        if (!p.modes || (p.of_potential ? solution.potential.empty() : solution.displacement.empty())) return;
        tried[k].emplace(mesh, elements_at, laws, solution, p, points, near);
    });
    for (auto& fit : tried) {
        if (!fit || fit->elements().empty()) continue;
        // Where the volume strain is projected, the displacement alone makes no stress.
        const auto region = mesh.region[static_cast<std::size_t>(fit->elements().front())];
        if (!fit->of_potential() && laws.of(region).elastic.nearly_incompressible) continue;
        out.push_back(std::move(*fit));
    }
    return out;
}

}  // namespace dotsift
