#pragma once
// The field round a singular point: what rises as a power of the distance, and a polynomial.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/singular/singular_points.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// The modes of a singular point (see CornerModes) and a polynomial, fitted together to the displacement or potential
/// at the nodes of the elements round it, by least squares. What lies there between the elements' field and this one is
/// an error that no smooth recovered field shows; compare the splitting of Rodenas, Gonzalez-Estrada, Tarancon &
/// Fuenmayor 2008, Int. J. Numer. Meth. Eng. 76. What the elements get wrong at the point also spreads: the modes that
/// fall with the distance take it up (Blum & Dobrowolski 1982, Computing 28) and are left out of the result.
class SingularFit {
  public:
    /// From six layers of elements round the point, as far as its modes hold and no other of `all` points is nearer;
    /// without those that touch it, or with them and without falling modes where there are few. `near` is the distance
    /// within which a node is the point. No elements if the point is no node of the mesh, or if they are too few or too
    /// large for a field that is known well enough. `elements_at` is that of the mesh.
    SingularFit(const Mesh& mesh, const NodeElements& elements_at, const Laws& laws, const Solution& solution,
                const SingularPoint& point, const std::vector<SingularPoint>& all, double near);

    /// Those that touch the point, and the next.
    [[nodiscard]] const std::vector<std::int32_t>& elements() const { return elements_; }
    /// There were enough for a fit, whether or not it serves.
    [[nodiscard]] bool fitted() const { return fitted_; }
    /// The modes are needed to describe the displacement.
    [[nodiscard]] bool shows() const { return shows_; }
    /// The least exponent of a mode that the solution really has; 1 where none shows.
    [[nodiscard]] double woken_exponent() const { return woken_; }
    [[nodiscard]] std::int32_t node() const { return node_; }
    /// The least of the modes that rise.
    [[nodiscard]] double exponent() const;
    [[nodiscard]] bool of_potential() const { return of_potential_; }
    [[nodiscard]] Stress stress(std::size_t element, const ElementPoint& p) const;
    [[nodiscard]] Vec2 flux(std::size_t element, const ElementPoint& p) const;

  private:
    /// Elements and nodes that belong to the point.
    struct Surroundings {
        std::vector<std::int32_t> elements, compared;
        std::vector<std::int32_t> nodes, touching;  ///< touching: of the elements that touch the point
    };
    [[nodiscard]] Surroundings surroundings(const NodeElements& elements_at, const SingularPoint& point,
                                            const std::vector<SingularPoint>& all, double near) const;
    /// False if the nodes are too few or the modes do not count.
    bool fit(const std::vector<std::int32_t>& nodes, const std::vector<std::int32_t>& elements, bool with_falling);
    [[nodiscard]] std::array<Vec2, 2> gradient(const Vec2& position) const;

    const Mesh& mesh_;
    const Laws& laws_;
    const Solution& solution_;
    std::shared_ptr<const CornerModes> modes_;
    Vec2 centre_;
    double scale_ = 1, woken_ = 1;
    bool of_potential_, fitted_ = false, shows_ = false;
    std::int32_t node_ = -1;
    std::vector<std::int32_t> elements_;
    std::vector<double> factors_;                      ///< of the modes
    std::array<std::vector<double>, 2> coefficients_;  ///< of the polynomials
};

/// At every point that has modes.
std::vector<SingularFit> singular_fits(const Mesh& mesh, const Laws& laws, const Solution& solution,
                                       const std::vector<SingularPoint>& points, double near);

}  // namespace dotsift
