#include "recovery/singular_fit.hpp"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

#include "recovery/polynomials.hpp"

namespace dotsift {

namespace {

// Linear elements want many to tell the modes from the polynomial.
constexpr int layers = 5;
// The modes count where they leave at most this share of what polynomials alone leave of the displacement.
constexpr double needed_gain = 0.5;
// And nothing is left where polynomials leave this share of the displacement.
constexpr double rounding_share_of_fit = 1e-9;

}  // namespace

SingularFit::SingularFit(const Mesh& mesh, const Laws& laws, const Solution& solution, const SingularPoint& point,
                         const std::vector<SingularPoint>& all, double near)
    : mesh_(mesh),
      laws_(laws),
      solution_(solution),
      modes_(point.modes),
      centre_(point.position),
      of_potential_(point.of_potential) {
    for (std::size_t n = 0; n < mesh.nodes.size() && node_ < 0; ++n)
        if (distance(mesh.nodes[n], centre_) <= near) node_ = static_cast<std::int32_t>(n);
    if (node_ < 0) return;
    // Layer by layer, within one region.
    const NodeElements around = node_elements(mesh);
    std::vector<std::int32_t> nodes{node_};
    std::int32_t region = -1;
    const auto belongs_to_another = [&](std::int32_t n) {
        const Vec2& p = mesh.nodes[static_cast<std::size_t>(n)];
        return std::any_of(all.begin(), all.end(), [&](const SingularPoint& o) {
            return distance(o.position, centre_) > near && distance(p, o.position) < distance(p, centre_);
        });
    };
    std::vector<std::int32_t> touching;  // beyond these the recovered field is the better one
    for (int layer = 0; layer < layers; ++layer) {
        const auto elements_before = elements_;
        const auto nodes_before = nodes;
        for (const auto n : std::vector(nodes))
            for (const auto e : around.of(static_cast<std::size_t>(n))) {
                if (region < 0) region = mesh.region[static_cast<std::size_t>(e)];
                if (mesh.region[static_cast<std::size_t>(e)] == region) elements_.push_back(e);
            }
        std::sort(elements_.begin(), elements_.end());
        elements_.erase(std::unique(elements_.begin(), elements_.end()), elements_.end());
        nodes.clear();
        for (const auto e : elements_) {
            const auto list = mesh.element(static_cast<std::size_t>(e));
            nodes.insert(nodes.end(), list.begin(), list.end());
        }
        std::sort(nodes.begin(), nodes.end());
        nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
        if (layer == 0) touching = elements_;
        if (std::any_of(nodes.begin(), nodes.end(), belongs_to_another)) {
            elements_ = elements_before;
            nodes = nodes_before;
            break;
        }
    }
    if (elements_.empty()) return;
    scale_ = 0;
    for (const auto n : nodes) scale_ = std::max(scale_, distance(mesh.nodes[static_cast<std::size_t>(n)], centre_));
    degree_ = std::min(polynomial_degree(mesh.kinds[static_cast<std::size_t>(elements_.front())]) + 1, 3);
    const int motions = of_potential_ ? 1 : 2, terms = Monomials::terms(degree_),
              count = static_cast<int>(modes_->count());
    const auto rows = static_cast<int>(nodes.size()) * motions, columns = count + motions * terms;
    if (rows < 2 * columns) {
        elements_.clear();
        return;
    }
    std::vector<std::int32_t> slot(mesh.nodes.size(), -1);
    for (const auto e : elements_) {
        const auto list = mesh.element(static_cast<std::size_t>(e)), slots = mesh.slots_of(static_cast<std::size_t>(e));
        for (std::size_t i = 0; i < list.size(); ++i) slot[static_cast<std::size_t>(list[i])] = slots[i];
    }
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(rows, columns);
    Eigen::VectorXd b(rows);
    int row = 0;
    for (const auto n : nodes) {
        const auto at = static_cast<std::size_t>(n);
        const Vec2 place = mesh.nodes[at] - centre_;
        const Monomials poly(degree_, mesh.nodes[at], centre_, scale_);
        for (int c = 0; c < motions; ++c, ++row) {
            for (int k = 0; k < count && n != node_; ++k)
                a(row, k) = modes_->at(static_cast<std::size_t>(k), place / scale_).motion[static_cast<std::size_t>(c)];
            for (int i = 0; i < terms; ++i) a(row, count + c * terms + i) = poly.value[static_cast<std::size_t>(i)];
            b(row) = of_potential_ ? solution.potential[static_cast<std::size_t>(slot[at])]
                                   : solution.displacement[at][static_cast<std::size_t>(c)];
        }
    }
    const Eigen::VectorXd x = a.colPivHouseholderQr().solve(b);
    // Where loads and supports happen to bring no singular part, the recovered field is the better one.
    const Eigen::MatrixXd polynomials = a.rightCols(columns - count);
    const Eigen::VectorXd smooth = polynomials.colPivHouseholderQr().solve(b);
    const double left = (polynomials * smooth - b).norm();
    if (left <= rounding_share_of_fit * b.norm() || (a * x - b).norm() > needed_gain * left) {
        elements_.clear();
        return;
    }
    elements_ = std::move(touching);
    factors_.assign(x.data(), x.data() + count);
    for (int c = 0; c < motions; ++c)
        coefficients_[static_cast<std::size_t>(c)].assign(x.data() + count + c * terms,
                                                          x.data() + count + (c + 1) * terms);
}

std::array<Vec2, 2> SingularFit::gradient(const Vec2& position) const {
    std::array<Vec2, 2> out{};
    const Monomials poly(degree_, position, centre_, scale_);
    for (std::size_t k = 0; k < factors_.size(); ++k) {
        const auto value = modes_->at(k, (position - centre_) / scale_);
        for (std::size_t c = 0; c < 2; ++c) out[c] += value.gradient[c] * (factors_[k] / scale_);
    }
    for (std::size_t c = 0; c < 2; ++c)
        for (std::size_t i = 0; i < coefficients_[c].size(); ++i)
            out[c] += Vec2{{poly.x[i], poly.y[i]}} * coefficients_[c][i];
    return out;
}

Tensor4 SingularFit::stress(std::size_t element, const ElementPoint& p) const {
    const auto g = gradient(p.position);
    const double change = slot_value(mesh_, solution_.temperature_change, element, p);
    Tensor4 strain{g[0][0], g[1][1], g[0][1] + g[1][0], 0};
    if (laws_.plane == Plane::generalised_strain) strain[3] = solution_.axial.at(p.position);
    return laws_.of(mesh_.region[element]).elastic.stress(strain, change);
}

Vec2 SingularFit::flux(std::size_t element, const ElementPoint& p) const {
    return laws_.of(mesh_.region[element]).conduction.flux(gradient(p.position)[0]);
}

std::vector<SingularFit> singular_fits(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                       const std::vector<SingularPoint>& points, double near) {
    std::vector<SingularFit> out;
    // Round an axis the exponents are those of the plane, but the radius makes terms that these fits do not have.
    if (laws.axisymmetric()) return out;
    for (const auto& p : points) {
        if (!p.modes || (p.of_potential ? solution.potential.empty() : solution.displacement.empty())) continue;
        SingularFit fit(mesh, laws, solution, p, points, near);
        if (fit.elements().empty()) continue;
        // Where the volume strain is projected, the displacement alone makes no stress.
        const auto region = mesh.region[static_cast<std::size_t>(fit.elements().front())];
        if (!p.of_potential && laws.of(region).elastic.nearly_incompressible) continue;
        out.push_back(std::move(fit));
    }
    return out;
}

}  // namespace dotsift
