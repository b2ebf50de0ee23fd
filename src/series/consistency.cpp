#include "series/consistency.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "mesh/side_meeting.hpp"
#include "series/run.hpp"
#include "solve/acting/side_geometry.hpp"

namespace dotsift {

namespace {

// Sums over a mesh, by quadrature, agree to this if nothing is different.
constexpr double rounding_gap = 1e-6;
// A load on curved sides differs by no more than this many times the gap of their length: it may be a formula, or a
// pressure, whose direction differs too.
constexpr double load_per_length = 4;
// Nodal forces balance to this, whatever the mesh.
constexpr double balance_gap = 1e-6;
// Geometry that is this far off on the finest mesh is no detail any more.
constexpr double coarse_geometry = 1e-3;

/// By the numbers of boundary and region names in the part.
struct MeshMeasures {
    std::vector<double> regions, boundaries;  ///< areas and lengths, of solids volumes and areas
};

double measure_of_side(const Mesh& mesh, const BoundarySide& side) {
    double length = 0;
    for (const auto& p : side_points(mesh, side)) length += p.length;
    return length;
}

double measure_of_side(const SolidMesh& mesh, const BoundarySide& side) {
    double area = 0;
    for (const auto& p : points_on_side(mesh, {side.element, side.side})) area += p.weight;
    return area;
}

const std::vector<int>& names_of_boundary(const Part& part, int boundary) {
    return part.edge(boundary).names;
}

const std::vector<int>& names_of_boundary(const SolidPart& part, int boundary) {
    return part.face(boundary).names;
}

template <int D>
MeshMeasures measures_of(const PartIn<D>& part, const MeshIn<D>& mesh) {
    MeshMeasures m;
    m.regions.assign(part.regions.size(), 0.0);
    m.boundaries.assign(part.boundary_names.size(), 0.0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        m.regions[static_cast<std::size_t>(mesh.region[e])] += mesh.measure_of(e);
    for (const auto& side : mesh.boundary) {
        const double measure = measure_of_side(mesh, side);
        for (const int n : names_of_boundary(part, side.edge)) m.boundaries[static_cast<std::size_t>(n)] += measure;
    }
    return m;
}

MeshMeasures measures_of(const Part& part) {
    MeshMeasures m;
    m.regions.assign(part.regions.size(), 0.0);
    m.boundaries.assign(part.boundary_names.size(), 0.0);
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        m.regions[static_cast<std::size_t>(part.faces[f].region)] += part.area_of_face(f);
    for (const auto& edge : part.edges)
        for (const int n : edge.names) m.boundaries[static_cast<std::size_t>(n)] += edge.curve.length();
    return m;
}

MeshMeasures measures_of(const SolidPart& part) {
    MeshMeasures m;
    m.regions.assign(part.regions.size(), 0.0);
    m.boundaries.assign(part.boundary_names.size(), 0.0);
    for (std::size_t b = 0; b < part.bodies.size(); ++b)
        m.regions[static_cast<std::size_t>(part.bodies[b].region)] += measure_body(part, b).size;
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const double area = part.faces[f].names.empty() ? 0 : measure_face(part, f).size;
        for (const int n : part.faces[f].names) m.boundaries[static_cast<std::size_t>(n)] += area;
    }
    return m;
}

double gap(double value, double wanted) {
    return wanted != 0 ? std::fabs(value - wanted) / std::fabs(wanted) : std::fabs(value);
}

double largest_gap(const MeshMeasures& mesh, const MeshMeasures& part) {
    double worst = 0;
    for (std::size_t k = 0; k < part.regions.size(); ++k)
        worst = std::max(worst, gap(mesh.regions[k], part.regions[k]));
    for (std::size_t k = 0; k < part.boundaries.size(); ++k)
        worst = std::max(worst, gap(mesh.boundaries[k], part.boundaries[k]));
    return worst;
}

std::string level_name(const Level& l) {
    return fmt::format("{}, level {}", l.series, l.index);
}

template <int D>
class Checker {
  public:
    Checker(const Study& study, const PartIn<D>& part, const std::vector<SeriesResult>& series)
        : study_(study), part_(part), exact_(measures_of(part)) {
        for (const auto& s : series)
            for (const auto& l : s.levels) {
                levels_.push_back(&l);
                of_levels_.push_back(measures_of<D>(part, fields_of<D>(l)->mesh));
                if (!finest_ || l.unknowns > finest_->unknowns) {
                    finest_ = &l;
                    of_finest_ = levels_.size() - 1;
                }
            }
    }

    std::vector<SharedMeasure> all() {
        if (levels_.empty()) return {};
        for (std::size_t k = 0; k < part_.regions.size(); ++k)
            of_geometry(D == 2 ? SharedMeasure::Kind::area : SharedMeasure::Kind::volume, part_.regions[k],
                        exact_.regions[k], [&](std::size_t l) { return of_levels_[l].regions[k]; });
        for (std::size_t k = 0; k < part_.boundary_names.size(); ++k)
            of_geometry(D == 2 ? SharedMeasure::Kind::length : SharedMeasure::Kind::area, part_.boundary_names[k],
                        exact_.boundaries[k], [&](std::size_t l) { return of_levels_[l].boundaries[k]; });
        for (const auto& load : finest_->loads) of_load(load);
        of_reactions();
        of_balance();
        return std::move(out_);
    }

  private:
    template <typename Measure>
    void of_geometry(SharedMeasure::Kind kind, const std::string& name, double wanted, const Measure& measure) {
        SharedMeasure m;
        m.kind = kind;
        m.name = name;
        m.wanted = wanted;
        m.unit = kind == SharedMeasure::Kind::volume ? SharedMeasure::Unit::volume
                 : kind == SharedMeasure::Kind::area ? SharedMeasure::Unit::area
                                                     : SharedMeasure::Unit::length;
        const bool of_region = (kind == SharedMeasure::Kind::area) == (D == 2) && kind != SharedMeasure::Kind::length;
        for (std::size_t l = 0; l < levels_.size(); ++l) {
            const double value = measure(l);
            see(m, gap(value, wanted), l);
            if (wanted > 0 && !(value > 0))
                m.fault = fmt::format("has no {} on {}", of_region ? "elements" : "sides", level_name(*levels_[l]));
        }
        if (m.fault.empty() && m.on_finest > coarse_geometry)
            m.fault = fmt::format(
                "still differs from the part by {} on the finest mesh: more segments on its curves "
                "are needed",
                percent(m.on_finest));
        out_.push_back(std::move(m));
    }

    /// Force, moment and flow of `on_finest` on every level; `of_level` gives those with its name.
    template <typename Total, typename OfLevel, typename Allowed>
    void of_total(SharedMeasure::Kind kind, const Total& on_finest, double magnitude, const OfLevel& of_level,
                  const Allowed& allowed, const char* unexplained) {
        const double size = part_.box.diagonal();
        SharedMeasure m;
        m.kind = kind;
        m.name = on_finest.name;
        if (norm(on_finest.force) > 0) {
            m.wanted = norm(on_finest.force);
            m.unit = SharedMeasure::Unit::force;
        } else if (norm(on_finest.moment) != 0) {
            m.wanted = norm(on_finest.moment);
            m.unit = SharedMeasure::Unit::moment;
        } else {
            m.wanted = std::fabs(on_finest.flow);
            m.unit = SharedMeasure::Unit::flow;
        }
        for (std::size_t l = 0; l < levels_.size(); ++l) {
            const auto& list = of_level(*levels_[l]);
            const auto found = std::find_if(list.begin(), list.end(), [&](const auto& t) { return t.name == m.name; });
            if (found == list.end()) {
                m.fault = "does not act on " + level_name(*levels_[l]);
                continue;
            }
            double worst = 0;
            if (magnitude != 0)  // what is no number must not get lost in a maximum
                for (const double g :
                     {std::fabs(found->flow - on_finest.flow) / magnitude,
                      norm(found->force - on_finest.force) / magnitude,
                      norm(found->moment - on_finest.moment) / std::max(magnitude * size, norm(on_finest.moment))})
                    worst = std::isnan(g) ? INFINITY : std::max(worst, g);
            see(m, worst, l);
            if (!(worst <= std::max(rounding_gap, allowed(l))))
                m.fault = fmt::format("differs by {} between {} and {}, which {} not explain", percent(worst),
                                      level_name(*levels_[l]), level_name(*finest_), unexplained);
        }
        out_.push_back(std::move(m));
    }

    /// What the gap of the curves may change of a load.
    [[nodiscard]] double by_curves(std::size_t l) const {
        return load_per_length * (largest_gap(of_levels_[l], exact_) + largest_gap(of_levels_[of_finest_], exact_));
    }

    /// What the errors of the fields may change.
    [[nodiscard]] double by_error(std::size_t l) const {
        return levels_[l]->estimated_error + finest_->estimated_error;
    }

    void of_load(const LoadTotal& load) {
        const auto spec =
            std::find_if(study_.loads.begin(), study_.loads.end(), [&](const auto& s) { return s.name == load.name; });
        const bool of_solution = spec != study_.loads.end() && spec->kind == LoadKind::transfer;
        of_total(
            SharedMeasure::Kind::load, load, load.magnitude, [](const Level& l) -> auto& { return l.loads; },
            [&](std::size_t l) { return by_curves(l) + (of_solution ? by_error(l) : 0); },
            of_solution ? "the errors of the fields do" : "the curves do");
    }

    void of_reactions() {
        double magnitude = 0;  // of the largest: one that happens to be small is no less certain
        for (const auto& r : finest_->reactions)
            magnitude = std::max({magnitude, norm(r.force), norm(r.moment) / part_.box.diagonal(), std::fabs(r.flow)});
        const auto& b = finest_->balance;
        if (!(magnitude > balance_gap * std::max(b.magnitude, b.flow_magnitude))) return;  // nothing pulls at them
        for (const auto& r : finest_->reactions)
            of_total(
                SharedMeasure::Kind::reaction, r, magnitude, [](const Level& l) -> auto& { return l.reactions; },
                [&](std::size_t l) { return by_curves(l) + by_error(l); }, "the errors of the fields do");
    }

    void of_balance() {
        SharedMeasure m;
        m.kind = SharedMeasure::Kind::balance;
        m.name = "loads and reactions";
        for (std::size_t l = 0; l < levels_.size(); ++l) see(m, levels_[l]->balance.relative_error, l);
        if (!(m.worst <= balance_gap))
            m.fault = fmt::format("do not balance on {}: {} of all forces are left", m.level, percent(m.worst));
        out_.push_back(std::move(m));
    }

    void see(SharedMeasure& m, double worst, std::size_t l) const {
        if (std::isnan(worst)) worst = INFINITY;
        if (m.level.empty() || worst > m.worst) {
            m.worst = worst;
            m.level = level_name(*levels_[l]);
        }
        if (l == of_finest_) m.on_finest = worst;
    }

    const Study& study_;
    const PartIn<D>& part_;
    MeshMeasures exact_;
    std::vector<const Level*> levels_;
    std::vector<MeshMeasures> of_levels_;
    const Level* finest_ = nullptr;
    std::size_t of_finest_ = 0;
    std::vector<SharedMeasure> out_;
};

}  // namespace

double geometry_gap(const Part& part, const Mesh& mesh) {
    return largest_gap(measures_of(part, mesh), measures_of(part));
}
double geometry_gap(const SolidPart& part, const SolidMesh& mesh) {
    return largest_gap(measures_of(part, mesh), measures_of(part));
}

const char* name_of(SharedMeasure::Kind kind) {
    switch (kind) {
        case SharedMeasure::Kind::area:
            return "area";
        case SharedMeasure::Kind::length:
            return "length";
        case SharedMeasure::Kind::load:
            return "load";
        case SharedMeasure::Kind::reaction:
            return "reaction";
        case SharedMeasure::Kind::balance:
            return "balance";
        case SharedMeasure::Kind::volume:
            return "volume";
    }
    return "";
}

std::vector<SharedMeasure> shared_measures(const Study& study, const Part& part,
                                           const std::vector<SeriesResult>& series) {
    return Checker<2>(study, part, series).all();
}
std::vector<SharedMeasure> shared_measures(const Study& study, const SolidPart& part,
                                           const std::vector<SeriesResult>& series) {
    return Checker<3>(study, part, series).all();
}

}  // namespace dotsift
