#include "goals/functional.hpp"

#include <algorithm>
#include <cmath>

#include "quantities/path.hpp"
#include "solve/acting/balance.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/supports.hpp"
#include "solve/material/volume_strain.hpp"

namespace dotsift {

namespace {

// The disc round a point, as a share of the part's diagonal; where the part is narrower the disc is cut.
constexpr double disc_share = 0.02;
// A disc or band holds at least so many elements in its radius: with fewer the dual solution is not resolved.
constexpr double elements_across = 4;

/// Adds up what single points contribute.
class Accumulator {
  public:
    Accumulator(const Study& study, const FieldSource& source)
        : source_(source), layout_(displacement_layout(source.mesh, study)), arm_(arm_of(source.mesh)) {
        if (!source.fields.stress.slots.empty())
            out.on_displacement.assign(static_cast<std::size_t>(layout_.dofs), 0.0);
        if (!source.fields.flux.slots.empty()) out.on_potential.assign(source.mesh.node_of_slot.size(), 0.0);
        heated_ = !out.on_potential.empty() && !source.fields.solution.temperature_change.empty();
        Box2 box;
        for (const auto& p : source.mesh.nodes) box.add(p);
        centre_ = box.centre();
    }

    void add(Field field, std::size_t e, const ElementPoint& p, double w) {
        out.value += w * field_at(field, source_, e, p);
        add_gradient(field_gradient(field, source_, e, p), e, p, w);
    }

    void add_gradient(const FieldGradient& g, std::size_t e, const ElementPoint& p, double w) {
        const Mesh& mesh = source_.mesh;
        const auto nodes = mesh.element(e);
        double by_temperature = g.potential;
        if (!out.on_displacement.empty()) {
            const ElasticLaw& law = source_.laws.of(mesh.region[e]).elastic;
            const TensorMatrix<2>& d = law.stiffness;
            const Solution& s = source_.fields.solution;
            const double stiffness = stiffness_at(mesh, s, e, p);
            Strain strain{};  // derivative by each strain
            for (std::size_t i = 0; i < 4; ++i)
                for (std::size_t k = 0; k < 4; ++k) strain[i] += d[k][i] * g.stress[k] * stiffness;
            if (heated_) {
                double by_change = g.temperature_change;
                for (std::size_t i = 0; i < 4; ++i) by_change -= strain[i] * law.expansion[i];
                by_temperature +=
                    s.temperature_slope.empty() ? by_change : by_change * slot_value(mesh, s.temperature_slope, e, p);
                if (!s.stiffness_slope.empty()) {
                    const Stress stress = stress_at(mesh, source_.laws, s, e, p);
                    double by_stiffness = g.stiffness;
                    for (std::size_t k = 0; k < 4; ++k) by_stiffness += g.stress[k] * stress[k] / stiffness;
                    by_temperature += by_stiffness * slot_value(mesh, s.stiffness_slope, e, p);
                }
            }
            for (std::size_t i = 0; i < nodes.size(); ++i) {
                const std::size_t n = first_of(static_cast<std::size_t>(nodes[i]));
                double x = p.dn[i][0] * strain[0] + p.dn[i][1] * strain[2];
                if (source_.laws.axisymmetric())  // on the axis its limit
                    x += (p.position[0] > 0 ? p.n[i] / p.position[0] : p.dn[i][0]) * strain[3];
                out.on_displacement[n] += w * (p.n[i] * g.displacement[0] + x);
                out.on_displacement[n + 1] +=
                    w * (p.n[i] * g.displacement[1] + p.dn[i][1] * strain[1] + p.dn[i][0] * strain[2]);
            }
            if (layout_.shared) {
                const Vec2 from = (p.position - centre_) / arm_;
                const auto k = static_cast<std::size_t>(layout_.shared_first);
                out.on_displacement[k] += w * strain[3];
                out.on_displacement[k + 1] += w * strain[3] * from[0];
                out.on_displacement[k + 2] += w * strain[3] * from[1];
            }
        }
        if (!out.on_potential.empty()) {
            const auto& c = source_.laws.of(mesh.region[e]).conduction.conductivity;
            const auto slots = mesh.slots_of(e);
            const Vec2 gradient{
                {-(c[0][0] * g.flux[0] + c[1][0] * g.flux[1]), -(c[0][1] * g.flux[0] + c[1][1] * g.flux[1])}};
            for (std::size_t i = 0; i < slots.size(); ++i)
                out.on_potential[static_cast<std::size_t>(slots[i])] +=
                    w * (p.n[i] * by_temperature + dot(p.dn[i], gradient));
        }
    }

    void scale(double factor) {
        out.value *= factor;
        for (double& x : out.on_displacement) x *= factor;
        for (double& x : out.on_potential) x *= factor;
    }

    Functional out;

  private:
    const FieldSource& source_;
    FieldLayout layout_;
    double arm_;
    Vec2 centre_;
    bool heated_ = false;
};

/// Falls smoothly from 1 to 0 as d goes from 0 to 1.
double kernel(double d) {
    const double x = 1 - d * d;
    return d < 1 ? x * x * x : 0;
}

/// Straight lines from one point to another.
using Pieces = std::vector<std::array<Vec2, 2>>;

/// Means over discs and bands, with weights that are functions of the place alone, so that they are the same on every
/// mesh.
class Regularised {
  public:
    Regularised(const QuantitySpec& q, const FieldSource& f, double radius, Accumulator& sum)
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
        for (std::size_t k = 1; k < path.points.size(); ++k) pieces.push_back({path.points[k - 1], path.points[k]});
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
    Accumulator& sum_;
};

/// Forces at the supports: the work of the inner forces on a unit motion of what they hold.
bool over_supports(const QuantitySpec& q, const Study& study, const Mesh& mesh, const Laws& laws,
                   const CaseFields& fields, Accumulator& sum) {
    const bool flow = q.field == Field::reaction_flow;
    const std::size_t axis = q.field == Field::reaction_x ? 0 : 1;
    Solution unit;
    if (flow)
        unit.potential.assign(mesh.node_of_slot.size(), 0.0);
    else
        unit.displacement.assign(mesh.nodes.size(), {});
    unit.axial.centre = fields.solution.axial.centre;
    unit.stiffness_factor = fields.solution.stiffness_factor;
    // What else holds the part has no such motion.
    const auto asked = [&](const std::string& name) { return q.on.empty() || fits_any(name, q.on); };
    if (std::any_of(study.remotes.begin(), study.remotes.end(), [&](const auto& r) { return asked(r.name); }) ||
        std::any_of(study.periodic.begin(), study.periodic.end(), [&](const auto& p) { return asked(p.name); }))
        return false;
    for (const auto& s : study.supports) {
        if (!asked(s.name)) continue;
        const bool whole = flow ? !!s.potential : s.hold == Hold::fixed || s.displacement[axis];
        if (s.at || !whole || s.founded()) return false;  // the force is not that of a unit motion along an axis
        const Meant meant(mesh, s.on);
        for (const auto& side : mesh.boundary) {
            if (!meant.side(side)) continue;
            const auto slots = mesh.slots_of(static_cast<std::size_t>(side.element));
            const auto local = side_nodes(mesh.kinds[static_cast<std::size_t>(side.element)], side.side);
            for (std::size_t i = 0; i < side.count(); ++i) {
                if (flow)
                    unit.potential[static_cast<std::size_t>(slots[local[i]])] = 1;
                else
                    unit.displacement[static_cast<std::size_t>(side.nodes[i])][axis] = 1;
            }
        }
    }
    double energy = 0;
    if (flow) {
        sum.out.on_potential = internal_flows(mesh, laws, unit, energy);
        sum.out.lift = unit.potential;
    } else {
        const auto cases = study.cases_to_solve();
        const PlaneProblem problem = displacement_problem(mesh, study, laws, cases);
        sum.out.on_displacement = internal_forces(problem, laws, unit, energy);
        sum.out.lift.assign(static_cast<std::size_t>(problem.layout.dofs), 0.0);
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
            sum.out.lift[first_of(n) + axis] = unit.displacement[n][axis];
    }
    for (const auto& r : fields.solution.reactions)
        if (asked(r.name)) sum.out.value += flow ? r.flow : r.force[axis];
    return true;
}

/// The energy's derivative is the work on what is prescribed: the rest is orthogonal to the error, as long as nothing
/// is heated and no foundation takes a part of the energy.
bool over_energy(const Study& study, const Mesh& mesh, const Laws& laws, const CaseFields& fields, Accumulator& sum) {
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
    Accumulator sum(study, own);
    bool good = true;
    if (q.field == Field::strain_energy) {
        good = over_energy(study, mesh, laws, fields, sum);
    } else if (is_reaction(q.field)) {
        good = over_supports(q, study, mesh, laws, fields, sum);
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
    if (is_of_potential(q.field))
        sum.out.on_displacement.clear();
    else if (fields.solution.temperature_change.empty())
        sum.out.on_potential.clear();
    sum.out.linearised = !row_of(q.field).linear;
    return std::move(sum.out);
}

}  // namespace dotsift
