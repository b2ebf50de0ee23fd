#include <algorithm>
#include <cmath>

#include "goals/linear_sum.hpp"
#include "sizes/size_field.hpp"
#include "solve/acting/solid_balance.hpp"
#include "solve/case_groups.hpp"

namespace dotsift {

namespace {

/// Means over balls and over layers under faces, with weights that are functions of the place alone.
class Weighted {
  public:
    Weighted(const QuantitySpec& q, const FieldSourceIn<3>& f, double radius, LinearSum<3>& sum)
        : q_(q), f_(f), mesh_(f.mesh), within_(f.mesh, q.inside), wanted_(radius), sum_(sum) {
        Box<3> box;
        for (const auto& p : mesh_.nodes) box.add(p);
        least_ = disc_share * box.diagonal();
    }

    /// Mean or integral over bodies or faces.
    bool over_places() {
        double size = 0, elements = 0;  // elements / size: their mean size
        for_each_place<3>(q_, mesh_, [&](std::size_t e, const ElementPointIn<3>&, double w) {
            size += w;
            elements += w * mesh_.size_of(e);
        });
        if (!(size > 0)) return false;
        const double scale = q_.take == Take::mean ? 1 / size : 1;
        const bool in_volume = q_.on.empty() || std::any_of(mesh_.region_names.begin(), mesh_.region_names.end(),
                                                            [&](const auto& name) { return fits_any(name, q_.on); });
        if (in_volume || !(is_of_stress(q_.field) || is_of_flux(q_.field))) {
            for_each_place<3>(q_, mesh_, [&](std::size_t e, const ElementPointIn<3>& p, double w) {
                sum_.add(q_.field, e, p, w * scale);
            });
            return true;
        }
        // A field of sizes that grow as fast as the distance tells how far a place lies from the faces.
        const double r = radius_for(elements / size), none = 1e-9 * r;
        std::vector<SizeSourceIn<3>> sources;
        const Meant meant(mesh_, q_.on);
        for (const auto& side : mesh_.boundary) {
            if (!meant.side(side)) continue;
            SizeSourceIn<3> s;
            s.form = SizeSourceIn<3>::Form::triangle;
            s.size = none;
            const auto e = static_cast<std::size_t>(side.element);
            const auto& local = side_nodes(mesh_.kinds[e], side.side);
            const auto at = [&](std::size_t k) {
                return mesh_.nodes[static_cast<std::size_t>(mesh_.element(e)[local[k]])];
            };
            if (local.size() == 6) {
                for (const auto& t : {std::array<std::size_t, 3>{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}}) {
                    s.corners = {at(t[0]), at(t[1]), at(t[2])};
                    sources.push_back(s);
                }
            } else {
                s.corners = {at(0), at(1), at(2)};
                sources.push_back(s);
            }
        }
        const SizeFieldIn<3> away(4 * r, 1, none, std::move(sources));
        return over([&](const Vec3& p) { return away.at(p); }, r, scale * size);
    }

    bool over_ball(const Vec3& at) {
        const ElementLocatorIn<3> locator(mesh_);
        const double r = radius_for(mesh_.size_of(locator.nearest(at).element));
        return over([&](const Vec3& p) { return distance(p, at); }, r, 1);
    }

  private:
    double radius_for(double element) {
        const double r = wanted_ > 0 ? wanted_ : std::max(least_, elements_across * element);
        sum_.out.radius = r;
        return r;
    }
    /// The mean with weights that fall to nothing at the distance r, times a factor.
    template <class Away>
    bool over(Away away, double r, double factor) {
        constexpr int degree = 6;  // of the weight's polynomial
        std::vector<std::size_t> near;
        for (std::size_t e = 0; e < mesh_.element_count(); ++e) {
            if (!q_.inside.empty() && !within_.element(e)) continue;
            const Vec3 centre = mesh_.centre_of(e);
            double reach = r;
            for (const auto n : mesh_.element(e))
                reach = std::max(reach, r + distance(mesh_.nodes[static_cast<std::size_t>(n)], centre));
            if (away(centre) < reach) near.push_back(e);
        }
        const auto each = [&](auto act) {
            for (const std::size_t e : near) {
                const auto positions = mesh_.positions(e);
                for (const auto& q : tabulated<3>(mesh_.kinds[e], quadrature<3>(mesh_.kinds[e], degree))) {
                    const auto p = evaluate<3>(mesh_.kinds[e], positions, q);
                    const double k = kernel(away(p.position) / r);
                    if (k > 0) act(e, p, q.weight * p.jacobian * k);
                }
            }
        };
        double all = 0;
        each([&](std::size_t, const ElementPointIn<3>&, double w) { all += w; });
        if (!(all > 0)) return false;
        each([&](std::size_t e, const ElementPointIn<3>& p, double w) { sum_.add(q_.field, e, p, w * factor / all); });
        return true;
    }

    const QuantitySpec& q_;
    const FieldSourceIn<3>& f_;
    const SolidMesh& mesh_;
    Meant within_;
    double wanted_, least_ = 0;
    LinearSum<3>& sum_;
};

/// The energy's derivative is the work on what is prescribed, as long as nothing is heated and no foundation takes a
/// part of the energy.
bool over_energy(const SolidMesh& mesh, const SolidLaws& laws, const CaseFieldsIn<3>& fields,
                 const FieldProblem& problem, std::size_t load_case, Functional& out) {
    if (!fields.solution.temperature_change.empty() || !problem.joints.empty()) return false;
    const std::vector<double> nothing(static_cast<std::size_t>(problem.constraints.unknowns), 0.0);
    out.lift = problem.constraints.expand(nothing, load_case);
    SolutionIn<3> held;
    held.displacement = vectors_at<3>(out.lift, mesh.nodes.size());
    double energy = 0;
    out.on_displacement = solid_internal_forces(mesh, laws, held, energy);
    out.value = fields.solution.strain_energy;
    return true;
}

}  // namespace

std::optional<Functional> functional_of(const QuantitySpec& q, const Study& study, const SolidMesh& mesh,
                                        const SolidLaws& laws, const CaseFieldsIn<3>& fields,
                                        const FieldProblem& displacement, const std::optional<Vec3>& at,
                                        double radius) {
    if (q.formula || q.relative_to || !q.along.empty() || q.field == Field::turn || q.field == Field::dissipation)
        return {};
    // Where the conductivity changes with the temperature, the equation's derivative is another one than the equation.
    if (!fields.solution.conductivity_factor.empty() &&
        (is_of_potential(q.field) || !fields.solution.temperature_change.empty()))
        return {};
    const FieldSourceIn<3> own{mesh, laws, fields, q.about, FieldOrigin::elements};
    LinearSum<3> sum(study, own);
    bool good = true;
    if (q.field == Field::strain_energy) {
        std::size_t index = 0;  // among the cases that share a system
        for (const auto& cases : case_groups(study))
            for (std::size_t c = 0; c < cases.size(); ++c)
                if (cases[c].name == fields.solution.load_case) index = c;
        good = over_energy(mesh, laws, fields, displacement, index, sum.out);
    } else if (is_reaction(q.field)) {
        double energy = 0;
        good = over_supports<3>(
            q, study, mesh, fields.solution,
            [&](const SolutionIn<3>& unit) { return solid_internal_forces(mesh, laws, unit, energy); },
            [&](const SolutionIn<3>& unit) { return solid_internal_flows(mesh, laws, unit, energy); }, sum.out);
    } else if (q.take == Take::mean || q.take == Take::integral) {
        good = Weighted(q, own, radius, sum).over_places();
    } else {
        const auto place = q.take == Take::value ? q.at : at;
        good = place && Weighted(q, own, radius, sum).over_ball(*place);
    }
    if (!good) return {};
    return sum.finished(q.field);
}

}  // namespace dotsift
