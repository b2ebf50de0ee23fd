#include "goals/functional.hpp"

#include <algorithm>
#include <cmath>

#include "goals/linear_sum.hpp"
#include "quantities/path.hpp"
#include "solve/acting/balance.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/supports.hpp"
#include "solve/material/volume_strain.hpp"

namespace dotsift {

namespace {

/// Straight lines from one point to another.
using Pieces = std::vector<std::array<Vec2, 2>>;

/// Means over discs and bands, with weights that are functions of the place alone, so that they are the same on every
/// mesh.
class Regularised {
  public:
    Regularised(const QuantitySpec& q, const FieldSource& f, double radius, LinearSum<2>& sum)
        : q_(q), f_(f), mesh_(f.mesh), within_(f.mesh, q.inside), wanted_(radius), sum_(sum) {
        Box2 box;
        for (const auto& p : mesh_.nodes) box.add(p);
        least_ = disc_share * box.diagonal();
    }

    /// Mean or integral over an area or boundaries.
    void over_places() {
        double size = 0, elements = 0;  // elements / size: their mean size
        for_each_place<2>(q_, mesh_, [&](std::size_t e, const ElementPoint&, double w) {
            size += w;
            elements += w * mesh_.size_of(e);
        });
        const double scale = q_.take == Take::mean && size > 0 ? 1 / size : 1;
        if (is_of_area() || !is_derived()) {
            for_each_place<2>(q_, mesh_, [&](std::size_t e, const ElementPoint& p, double w) {
                sum_.add(q_.field, e, p, w * scale);
            });
            return;
        }
        Pieces pieces;
        const Meant meant(mesh_, q_.on);
        for (const auto& side : mesh_.boundary)
            if (meant.side(side))
                pieces.push_back({mesh_.nodes[static_cast<std::size_t>(side.nodes[0])],
                                  mesh_.nodes[static_cast<std::size_t>(side.nodes[1])]});
        const double r = radius_for(elements / size);
        double all = 0;
        const auto weight = [&](const Vec2& p, const Pieces& near) {
            double d = INFINITY;
            for (const auto& [from, to] : near) d = std::min(d, distance_to_segment(p, from, to));
            return kernel(d / r);
        };
        in_elements_near(pieces, r, [&](std::size_t, const ElementPoint& p, double w, const Pieces& near) {
            all += w * weight(p.position, near);
        });
        in_elements_near(pieces, r, [&](std::size_t e, const ElementPoint& p, double w, const Pieces& near) {
            const double k = weight(p.position, near);
            if (k > 0) sum_.add(q_.field, e, p, w * k * scale * size / all);
        });
    }

    /// Mean, integral, section force and linearised stress over a path.
    bool over_path(const PathSpec& path) {
        const bool section = is_section(q_.field);
        const bool linearised = q_.take == Take::linearised, membrane = q_.take == Take::membrane;
        if ((q_.take == Take::maximum || q_.take == Take::minimum) && !section) return false;
        if ((membrane || linearised) && !row_of(q_.field).linear) return false;
        if (path.on_boundary()) return false;
        const ElementLocator locator(mesh_);
        const double whole = length_of(path, mesh_);
        double length = 0, elements = 0;
        Vec2 middle;
        for_path(path, locator, [&](const PathPoint& at, double w) {
            middle += at.position * w;
            length += w;
            elements += w * mesh_.size_of(at.where->element);
        });
        if (!(length > 0)) return false;
        middle = middle / length;
        const double scale = section ? 1 : q_.take == Take::mean ? 1 / length : membrane || linearised ? 1 / whole : 1;
        if (!section && !is_derived()) {
            for_path(path, locator, [&](const PathPoint& at, double w) {
                const auto e = at.where->element;
                sum_.add(q_.field, e, evaluate(mesh_.kinds[e], mesh_.positions(e), at.where->xi), w * scale);
            });
            return true;
        }
        const double r = radius_for(elements / length);
        Pieces pieces;
        for (std::size_t k = 1; k < path.points.size(); ++k)
            pieces.push_back({in_plane(path.points[k - 1]), in_plane(path.points[k])});
        const auto walk = [&](double bending) {
            double done = 0;
            for (const auto& piece : pieces) {
                const double span = distance(piece[0], piece[1]);
                const Vec2 t = (piece[1] - piece[0]) / span, n = turned_left(t);
                // The band beside this piece, where it lies in the part.
                double all = 0, inside = 0;
                const auto weight = [&](const Vec2& p) {
                    const double s = dot(p - piece[0], t);
                    return s < 0 || s > span ? 0 : kernel(std::fabs(dot(p - piece[0], n)) / r);
                };
                in_elements_near({piece}, r, [&](std::size_t, const ElementPoint& p, double w, const Pieces&) {
                    all += w * weight(p.position);
                });
                for_path(path, locator, [&](const PathPoint& at, double w) {
                    if (at.distance >= done && at.distance <= done + span) inside += w;
                });
                in_elements_near({piece}, r, [&](std::size_t e, const ElementPoint& p, double w, const Pieces&) {
                    const double k = weight(p.position);
                    if (!(k > 0)) return;
                    const double at = done + dot(p.position - piece[0], t);
                    const double share = w * k * inside / all * scale * (1 + bending * 6 * (whole / 2 - at) / whole);
                    if (section)
                        add_section(e, p, share, n, p.position - n * dot(p.position - piece[0], n) - middle);
                    else
                        sum_.add(q_.field, e, p, share);
                });
                done += span;
            }
        };
        if (!linearised) {
            walk(0);
            return true;
        }
        const Functional before = sum_.out;
        walk(1);
        const Functional start = sum_.out;
        sum_.out = before;
        walk(-1);
        if (first_end_counts(q_, start.value, sum_.out.value)) sum_.out = start;
        return true;
    }

    /// Mean over a disc.
    bool over_disc(const Vec2& at) {
        const ElementLocator locator(mesh_);
        const double r = radius_for(mesh_.size_of(locator.nearest(at).element));
        double size = 0;
        in_elements_near({{at, at}}, r, [&](std::size_t, const ElementPoint& p, double w, const Pieces&) {
            size += w * kernel(distance(p.position, at) / r);
        });
        if (!(size > 0)) return false;
        in_elements_near({{at, at}}, r, [&](std::size_t e, const ElementPoint& p, double w, const Pieces&) {
            const double k = kernel(distance(p.position, at) / r);
            if (k > 0) sum_.add(q_.field, e, p, w * k / size);
        });
        return true;
    }

  private:
    [[nodiscard]] bool is_of_area() const {
        return q_.on.empty() || std::any_of(mesh_.region_names.begin(), mesh_.region_names.end(),
                                            [&](const auto& name) { return fits_any(name, q_.on); });
    }
    /// Made from derivatives of the solution.
    [[nodiscard]] bool is_derived() const { return is_of_stress(q_.field) || is_of_flux(q_.field); }
    double radius_for(double element) {
        const double r = wanted_ > 0 ? wanted_ : std::max(least_, elements_across * element);
        sum_.out.radius = r;
        return r;
    }
    static double distance_to_segment(const Vec2& p, const Vec2& a, const Vec2& b) {
        const Vec2 along = b - a;
        const double l2 = dot(along, along);
        const double t = l2 > 0 ? std::clamp(dot(p - a, along) / l2, 0.0, 1.0) : 0;
        return distance(p, a + along * t);
    }
    /// Quadrature points, close enough for the weights, of the elements that come within r of one of the pieces;
    /// act(element, point, weight, those pieces).
    template <class Act>
    void in_elements_near(const Pieces& pieces, double r, Act act) const {
        constexpr int parts = 4;
        Pieces near;
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            const Vec2 centre = mesh_.centre_of(e);
            const auto positions = mesh_.positions(e);
            double reach = r;
            for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(mesh_.kinds[e])); ++i)
                reach = std::max(reach, r + distance(positions[i], centre));
            near.clear();
            std::copy_if(pieces.begin(), pieces.end(), std::back_inserter(near),
                         [&](const auto& piece) { return distance_to_segment(centre, piece[0], piece[1]) < reach; });
            if (near.empty() || (!q_.inside.empty() && !within_.element(e))) continue;
            for (const auto& t : reference_triangles(mesh_.kinds[e])) {
                const Vec2 u = (t[1] - t[0]) / parts, v = (t[2] - t[0]) / parts;
                const double share = cross(u, v);
                for (int i = 0; i < parts; ++i)
                    for (int j = 0; j < parts - i; ++j)
                        for (const int upside : {0, 1}) {
                            if (upside && i + j + 2 > parts) continue;
                            for (const auto& q : triangle_rule(4)) {
                                const double a = upside ? i + 1 - q.xi[0] : i + q.xi[0],
                                             b = upside ? j + 1 - q.xi[1] : j + q.xi[1];
                                const ElementPoint p = evaluate(mesh_.kinds[e], positions, t[0] + u * a + v * b);
                                act(e, p, q.weight * share * p.jacobian, near);
                            }
                        }
            }
        }
    }
    /// Force, or moment about the path's middle, that the stress at a point brings across the path with this normal.
    void add_section(std::size_t e, const ElementPoint& p, double weight, const Vec2& n, const Vec2& arm) {
        const Vec2 c = q_.field == Field::section_force_x   ? Vec2{{1, 0}}
                       : q_.field == Field::section_force_y ? Vec2{{0, 1}}
                                                            : turned_left(arm);
        FieldGradient g;
        g.stress = {c[0] * n[0], c[1] * n[1], c[0] * n[1] + c[1] * n[0], 0};
        const double w = weight * f_.laws.depth(mesh_.region[e], p.position);
        const Stress t = stress_at(mesh_, f_.laws, f_.fields.solution, e, p);
        for (std::size_t k = 0; k < 4; ++k) sum_.out.value += w * g.stress[k] * t[k];
        sum_.add_gradient(g, e, p, w);
    }

    const QuantitySpec& q_;
    const FieldSource& f_;
    const Mesh& mesh_;
    Meant within_;
    double wanted_, least_ = 0;
    LinearSum<2>& sum_;
};

/// The energy's derivative is the work on what is prescribed: the rest is orthogonal to the error, as long as nothing
/// is heated and no foundation takes a part of the energy.
bool over_energy(const Study& study, const Mesh& mesh, const Laws& laws, const CaseFields& fields, LinearSum<2>& sum) {
    if (!fields.solution.temperature_change.empty()) return false;
    const auto cases = study.cases_to_solve();
    const PlaneProblem problem = displacement_problem(mesh, study, laws, cases);
    if (!problem.joints.empty()) return false;
    const auto found = std::find_if(cases.begin(), cases.end(),
                                    [&](const CaseSpec& c) { return c.name == fields.solution.load_case; });
    const std::vector<double> nothing(static_cast<std::size_t>(problem.constraints.unknowns), 0.0);
    sum.out.lift = problem.constraints.expand(nothing, static_cast<std::size_t>(found - cases.begin()));
    Solution held;
    held.axial.centre = fields.solution.axial.centre;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) held.displacement.push_back(vector_at(sum.out.lift, n));
    double energy = 0;
    sum.out.on_displacement = internal_forces(problem, laws, held, energy);
    sum.out.value = fields.solution.strain_energy;
    return true;
}

}  // namespace

std::optional<Functional> functional_of(const QuantitySpec& q, const Study& study, const Mesh& mesh, const Laws& laws,
                                        const CaseFields& fields, const std::optional<Vec2>& at, double radius) {
    if (q.formula || q.relative_to || q.field == Field::turn || q.field == Field::dissipation ||
        any_projects_volume(mesh, laws))
        return {};
    // Where the conductivity changes with the temperature, the equation's derivative is another one than the equation.
    if (!fields.solution.conductivity_factor.empty() &&
        (is_of_potential(q.field) || !fields.solution.temperature_change.empty()))
        return {};
    const FieldSource own{mesh, laws, fields, q.about, FieldOrigin::elements};
    LinearSum<2> sum(study, own);
    bool good = true;
    if (q.field == Field::strain_energy) {
        good = over_energy(study, mesh, laws, fields, sum);
    } else if (is_reaction(q.field)) {
        double energy = 0;
        good = over_supports<2>(
            q, study, mesh, fields.solution,
            [&](const Solution& unit) {
                return internal_forces(displacement_problem(mesh, study, laws, study.cases_to_solve()), laws, unit,
                                       energy);
            },
            [&](const Solution& unit) { return internal_flows(mesh, laws, unit, energy); }, sum.out);
    } else if (!q.along.empty()) {
        const auto path =
            std::find_if(study.paths.begin(), study.paths.end(), [&](const PathSpec& p) { return p.name == q.along; });
        good = path != study.paths.end() && Regularised(q, own, radius, sum).over_path(*path);
    } else if (q.take == Take::mean || q.take == Take::integral) {
        Regularised(q, own, radius, sum).over_places();
    } else {
        const auto place = q.take == Take::value ? std::optional(in_plane(*q.at)) : at;
        good = place && Regularised(q, own, radius, sum).over_disc(*place);
    }
    if (!good) return {};
    return sum.finished(q.field);
}

}  // namespace dotsift
