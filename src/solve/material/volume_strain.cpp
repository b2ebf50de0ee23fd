#include "solve/material/volume_strain.hpp"

#include <Eigen/Dense>

#include "base/parallel.hpp"
#include "solve/solution.hpp"

namespace dotsift {

namespace {

constexpr int most_columns = 2 * static_cast<int>(most_element_nodes) + static_cast<int>(most_shared_dofs) + 2;
using Operator = Eigen::Matrix<double, 4, Eigen::Dynamic, 0, 4, most_columns>;
using Square = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most_columns, most_columns>;
using Column = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, most_columns, 1>;
using Projection = Eigen::Matrix<double, 3, Eigen::Dynamic, 0, 3, most_columns>;

template <class Tensor>
double trace(const Tensor& t) {
    return t[0] + t[1] + t[3];
}

/// Strains of the displacements of the nodes, of the shared degrees of freedom, and of the bubble, in this order.
class ProjectedElement {
  public:
    ProjectedElement(const Mesh& mesh, const Laws& laws, std::size_t e, const Vec2& ends, double arm)
        : mesh_(mesh), laws_(laws), e_(e), positions_(mesh.positions(e)), ends_(ends), arm_(arm) {
        const ElementKind kind = mesh.kinds[e];
        nodes_ = node_count(kind);
        shared_ = laws.plane == Plane::generalised_strain ? static_cast<int>(most_shared_dofs) : 0;
        bubble_ = corner_count(kind) == 3 ? 2 : 0;
        size_ = mesh.size_of(e);
        for (int c = 0; c < corner_count(kind); ++c) centre_ += positions_[static_cast<std::size_t>(c)];
        centre_ = centre_ / corner_count(kind);
        Projection integral = Projection::Zero(3, columns());
        Eigen::Matrix3d mass = Eigen::Matrix3d::Zero();
        each_point([&](const ElementPoint& p, double w) {
            const Eigen::Vector3d f = linear(p.position);
            const Operator b = own(p);
            mass.noalias() += w * f * f.transpose();
            integral += w * f.lazyProduct(b.row(0) + b.row(1) + b.row(3));
        });
        mass_ = mass.ldlt();
        projection_ = mass_.solve(integral);
    }

    [[nodiscard]] int columns() const { return 2 * nodes_ + shared_ + bubble_; }
    [[nodiscard]] int kept() const { return 2 * nodes_ + shared_; }
    [[nodiscard]] int bubbles() const { return bubble_; }
    [[nodiscard]] Eigen::Vector3d linear(const Vec2& p) const {
        const Vec2 x = (p - centre_) / size_;
        return {1, x[0], x[1]};
    }
    [[nodiscard]] const Projection& projection() const { return projection_; }
    [[nodiscard]] Eigen::Vector3d coefficients(const Eigen::Vector3d& integral) const { return mass_.solve(integral); }
    [[nodiscard]] VolumeStrain frame() const {
        VolumeStrain v;
        v.size = size_;
        v.centre = centre_;
        return v;
    }

    /// act(point, weight)
    template <class Act>
    void each_point(Act act) const {
        for (const auto& q : integration_points(mesh_, laws_, e_, positions_)) {
            const ElementPoint p = evaluate(mesh_.kinds[e_], positions_, q);
            act(p, q.weight * p.jacobian * laws_.depth(mesh_.region[e_], p.position));
        }
    }

    [[nodiscard]] Operator projected(const ElementPoint& p) const {
        Operator b = own(p);
        const Eigen::Matrix<double, 1, Eigen::Dynamic, Eigen::RowMajor, 1, most_columns> change =
            (linear(p.position).transpose().lazyProduct(projection_) - (b.row(0) + b.row(1) + b.row(3))) / 3;
        for (const int row : {0, 1, 3}) b.row(row) += change;
        return b;
    }

  private:
    [[nodiscard]] Operator own(const ElementPoint& p) const {
        Operator b = Operator::Zero(4, columns());
        const auto put = [&](int column, double value, const Vec2& gradient) {
            b(0, column) = gradient[0];
            b(1, column + 1) = gradient[1];
            b(2, column) = gradient[1];
            b(2, column + 1) = gradient[0];
            if (laws_.axisymmetric()) b(3, column) = value / p.position[0];
        };
        for (int i = 0; i < nodes_; ++i)
            put(2 * i, p.n[static_cast<std::size_t>(i)], p.dn[static_cast<std::size_t>(i)]);
        if (shared_) {
            const Vec2 from = (p.position - ends_) / arm_;
            b(3, 2 * nodes_) = 1;
            b(3, 2 * nodes_ + 1) = from[0];
            b(3, 2 * nodes_ + 2) = from[1];
        }
        if (bubble_) {
            const Bubble inner = bubble_at(p);
            put(kept(), inner.value, inner.gradient);
        }
        return b;
    }

    const Mesh& mesh_;
    const Laws& laws_;
    std::size_t e_;
    std::array<Vec2, most_element_nodes> positions_;
    Vec2 ends_;
    double arm_;
    int nodes_ = 0, shared_ = 0, bubble_ = 0;
    Vec2 centre_{};
    double size_ = 0;
    Eigen::LDLT<Eigen::Matrix3d> mass_;
    Projection projection_;
};

Eigen::Matrix4d stiffness_of(const ElasticLaw& law) {
    Eigen::Matrix4d d;
    for (int i = 0; i < 4; ++i)
        for (int j = 0; j < 4; ++j) d(i, j) = law.stiffness[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
    return d;
}

}  // namespace

bool projects_volume(const Mesh& mesh, const Laws& laws, std::size_t e) {
    return polynomial_degree(mesh.kinds[e]) == 2 && laws.of(mesh.region[e]).elastic.nearly_incompressible;
}

bool any_projects_volume(const Mesh& mesh, const Laws& laws) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (projects_volume(mesh, laws, e)) return true;
    return false;
}

Bubble bubble_at(const ElementPoint& p) {
    // The linear function of a corner, by the quadratic ones: 1 there, and a half in the middle of its two sides.
    std::array<double, 3> l{};
    std::array<Vec2, 3> g{};
    for (std::size_t c = 0; c < 3; ++c) {
        const std::size_t next = 3 + c, before = 3 + (c + 2) % 3;
        l[c] = p.n[c] + 0.5 * (p.n[next] + p.n[before]);
        g[c] = p.dn[c] + (p.dn[next] + p.dn[before]) * 0.5;
    }
    return {27 * l[0] * l[1] * l[2], (g[0] * (l[1] * l[2]) + g[1] * (l[2] * l[0]) + g[2] * (l[0] * l[1])) * 27};
}

void projected_matrix(const Mesh& mesh, const Laws& laws, std::size_t e, const Vec2& centre, double arm,
                      ElementMatrix& k) {
    const ProjectedElement element(mesh, laws, e, centre, arm);
    const Eigen::Matrix4d d = stiffness_of(laws.of(mesh.region[e]).elastic);
    Square full = Square::Zero(element.columns(), element.columns());
    element.each_point([&](const ElementPoint& p, double w) {
        const Operator b = element.projected(p);
        const Operator stress = d.lazyProduct(b);
        full += w * b.transpose().lazyProduct(stress);
    });
    const int kept = element.kept(), inner = element.bubbles();
    if (inner) {
        const Eigen::Matrix2d bb = full.bottomRightCorner<2, 2>();
        const Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, most_columns> bu = full.bottomLeftCorner(2, kept);
        const Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, most_columns> followed = bb.inverse().lazyProduct(bu);
        full.topLeftCorner(kept, kept) -= bu.transpose().lazyProduct(followed);
    }
    k.reset(static_cast<std::size_t>(kept));
    for (int i = 0; i < kept; ++i)
        for (int j = 0; j < kept; ++j) k(static_cast<std::size_t>(i), static_cast<std::size_t>(j)) = full(i, j);
}

std::vector<VolumeStrain> volume_strains(const Mesh& mesh, const Laws& laws, const Solution& s,
                                         const std::vector<Vec2>& inner_force) {
    std::vector<VolumeStrain> out;
    if (!any_projects_volume(mesh, laws)) return out;
    out.resize(mesh.element_count());
    in_parallel(mesh.element_count(), [&](std::size_t e) {
        if (!projects_volume(mesh, laws, e)) return;
        const ElasticLaw& law = laws.of(mesh.region[e]).elastic;
        const ProjectedElement element(mesh, laws, e, s.axial.centre, 1);
        const Eigen::Matrix4d d = stiffness_of(law);
        Column u = Column::Zero(element.columns());
        const auto nodes = mesh.element(e);
        for (std::size_t i = 0; i < nodes.size(); ++i)
            for (int c = 0; c < 2; ++c)
                u[2 * static_cast<int>(i) + c] =
                    s.displacement[static_cast<std::size_t>(nodes[i])][static_cast<std::size_t>(c)];
        if (laws.plane == Plane::generalised_strain) {
            const int first = 2 * static_cast<int>(nodes.size());
            u[first] = s.axial.e;
            u[first + 1] = s.axial.tilt[0];
            u[first + 2] = s.axial.tilt[1];
        }
        // The thermal strain's volume is projected too, so that the pressure is linear.
        Eigen::Vector3d thermal = Eigen::Vector3d::Zero();
        if (!s.temperature_change.empty())
            element.each_point([&](const ElementPoint& p, double w) {
                thermal += w * slot_value(mesh, s.temperature_change, e, p) * trace(law.expansion) *
                           element.linear(p.position);
            });
        thermal = element.coefficients(thermal);
        if (element.bubbles()) {
            Eigen::Vector2d left = Eigen::Vector2d::Zero();
            if (!inner_force.empty()) left << inner_force[e][0], inner_force[e][1];
            Eigen::Matrix2d bb = Eigen::Matrix2d::Zero();
            element.each_point([&](const ElementPoint& p, double w) {
                const Operator b = element.projected(p);
                const Eigen::Matrix<double, 4, 2> inner = b.rightCols<2>();
                const Eigen::Vector4d strain = b.lazyProduct(u);
                const double change = slot_value(mesh, s.temperature_change, e, p);
                const double part = (change * trace(law.expansion) - element.linear(p.position).dot(thermal)) / 3;
                const Stress stress =
                    law.stress({strain[0] + part, strain[1] + part, strain[2], strain[3] + part}, change);
                left -= w * inner.transpose() * Eigen::Map<const Eigen::Vector4d>(stress.data());
                bb += w * inner.transpose() * d * inner;
            });
            u.tail<2>() = bb.inverse() * left;
        }
        VolumeStrain v = element.frame();
        const Eigen::Vector3d coefficients = element.projection().lazyProduct(u) - thermal;
        for (std::size_t i = 0; i < 3; ++i) v.coefficients[i] = coefficients[static_cast<int>(i)];
        if (element.bubbles()) v.bubble = {{u[element.kept()], u[element.kept() + 1]}};
        out[e] = v;
    });
    return out;
}

void correct_volume(const Mesh& mesh, const Laws& laws, const VolumeStrain& v, std::size_t e, const ElementPoint& p,
                    double change, Strain& strain) {
    if (v.size == 0) return;
    if (corner_count(mesh.kinds[e]) == 3) {
        const Bubble b = bubble_at(p);
        strain[0] += b.gradient[0] * v.bubble[0];
        strain[1] += b.gradient[1] * v.bubble[1];
        strain[2] += b.gradient[1] * v.bubble[0] + b.gradient[0] * v.bubble[1];
        if (laws.axisymmetric() && p.position[0] > 0) strain[3] += b.value / p.position[0] * v.bubble[0];
    }
    const Vec2 x = (p.position - v.centre) / v.size;
    const double wanted = v.coefficients[0] + v.coefficients[1] * x[0] + v.coefficients[2] * x[1];
    const double own = trace(strain) - change * trace(laws.of(mesh.region[e]).elastic.expansion);
    for (const std::size_t c : {0, 1, 3}) strain[c] += (wanted - own) / 3;
}

}  // namespace dotsift
