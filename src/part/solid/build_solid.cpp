#include "part/solid/build_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <numbers>

#include "base/errors.hpp"
#include "part/selection.hpp"
#include "part/shapes/placement.hpp"
#include "part/shapes/shape_rule.hpp"
#include "part/solid/changed_solid.hpp"
#include "part/solid/combine_solids.hpp"
#include "part/solid/cut_edges.hpp"
#include "part/solid/left_out.hpp"
#include "part/solid/marked_points.hpp"
#include "part/solid/model_file.hpp"
#include "part/solid/placed_solid.hpp"
#include "part/solid/set_beside.hpp"
#include "part/solid/solid_cleanup.hpp"
#include "part/solid/space_selection.hpp"
#include "part/solid/space_shapes.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

// Faces that go all round are parted at these angles, so that few other things lie there: a bore of half the radius
// touches lines at 0 and 120 degrees. Where the solids cannot be combined, the next one is tried.
constexpr std::array<double, 4> parted_at{17 * std::numbers::pi / 180, 47 * std::numbers::pi / 180,
                                          77 * std::numbers::pi / 180, 107 * std::numbers::pi / 180};

class SolidBuilder {
  public:
    SolidBuilder(const Study& study, const Part& plane, double part_at, std::map<int, ModelFile>& models,
                 Problems& problems)
        : study_(study), plane_(plane), part_at_(part_at), models_(models), problems_(problems) {}

    std::optional<SolidPart> run() {
        const std::size_t before = problems_.count();
        const auto& shapes = study_.space_shapes;
        try {
            if (study_.sweep)
                begin_with(swept_solid(shapes.empty() ? plane_ : without_closed_edges(plane_), *study_.sweep));
        } catch (const InputError& e) {
            problems_.add(study_.sweep->where, e.what(), e.remedy());
            return std::nullopt;
        }
        for (source_ = 0; source_ < shapes.size() && problems_.count() == before; ++source_) {
            try {
                take(shapes[source_]);
            } catch (const InputError& e) {
                tell(e);
            }
        }
        if (problems_.count() == before) {
            try {
                flush();
            } catch (const InputError& e) {
                tell(e);
            }
        }
        if (problems_.count() > before) return std::nullopt;
        if (!part_ || part_->faces.empty()) {
            problems_.add(study_.part_where, "the shapes make no part", "add a shape that encloses something");
            return std::nullopt;
        }
        for (std::size_t r = 0; r < part_->regions.size(); ++r)
            if (std::none_of(part_->bodies.begin(), part_->bodies.end(),
                             [&](const SolidBody& b) { return b.region == static_cast<int>(r); }))
                problems_.add(
                    study_.part_where, fmt::format("nothing is left of the region \"{}\"", part_->regions[r]),
                    "it was cut away, or later shapes took its place: give it a higher priority, or remove it");
        clean_up();
        if (problems_.count() > before) return std::nullopt;
        if (!shapes.empty()) name_interfaces<3>(study_, *part_, problems_);
        leave_out();
        if (problems_.count() > before) return std::nullopt;
        apply_space_selections(study_, *part_, problems_);
        name_edges(study_.edges, *part_, problems_);
        mark_points(points_, *part_, problems_);
        return std::move(part_);
    }

    [[nodiscard]] const std::vector<CleanupItem>& cleanup() const { return cleanup_; }
    /// What went wrong may go well with other lines.
    [[nodiscard]] bool not_combined() const { return not_combined_; }

  private:
    void tell(const InputError& e) {
        if (dynamic_cast<const CombineFault*>(&e)) not_combined_ = true;
        std::string what = e.what();
        if (e.place().position) {
            const Position& p = *e.place().position;
            what += fmt::format(", near ({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
        }
        const auto& shapes = study_.space_shapes;
        problems_.add(source_ < shapes.size() ? shapes[source_].where : study_.part_where, what, e.remedy());
    }

    void clean_up() {
        if (!study_.cleanup.any() || study_.space_shapes.empty()) return;
        try {
            auto cleaned = clean_up_solid(study_.cleanup, std::move(*part_), study_.units.label(dimension::length));
            part_ = std::move(cleaned.part);
            cleanup_ = std::move(cleaned.items);
            points_.insert(points_.end(), cleaned.centres.begin(), cleaned.centres.end());
        } catch (const InputError& e) {
            problems_.add(study_.cleanup.where, e.what(), e.remedy());
        }
    }

    void leave_out() {
        if (study_.left_out.empty()) return;
        for (const auto& pattern : study_.left_out)
            if (part_->regions_named({pattern}).empty())
                problems_.add(study_.part_where, fmt::format("left_out names \"{}\", which is no region", pattern),
                              "regions are: " + quoted_list(part_->regions));
        *part_ = without_regions(*part_, study_.left_out);
        if (part_->bodies.empty())
            problems_.add(study_.part_where, "left_out leaves nothing",
                          "name the regions that are only to shape others");
    }

    void begin_with(SolidPart solid) {
        regions_ = solid.regions;
        SolidStep step;
        step.copies.push_back(std::move(solid));
        pending_.push_back(std::move(step));
    }

    void take(const SpaceShapeSpec& s) {
        if (s.verb == Verb::change) return change(s);
        if (s.primitive == SpacePrimitive::point) return mark(s);
        if (s.primitive == SpacePrimitive::model) return take_model(s);
        SolidStep step{rule_of(s, static_cast<int>(source_)), {}};
        take_region(step, regions_);
        const auto solid = solid_of_shape(s, box(), part_at_, problems_);
        if (!solid) return;
        const auto maps = copies_of(s.placement);
        for (std::size_t k = 0; k < maps.size(); ++k) {
            SolidPart copy = placed(*solid, maps[k]);
            for (auto& name : copy.boundary_names) name = numbered(name, k + 1);
            step.copies.push_back(std::move(copy));
        }
        pending_.push_back(std::move(step));
    }

    /// A file read once, whatever else is tried.
    const ModelFile& model_of(const SpaceShapeSpec& s) {
        const auto known = models_.find(s.number);
        if (known != models_.end()) return known->second;
        const auto unit = s.unit ? length_unit(*s.unit) : std::nullopt;
        return models_
            .emplace(s.number,
                     read_model(input_path(study_.path, s.file), unit, study_.units.metres(), s.feature_angle))
            .first->second;
    }

    void take_model(const SpaceShapeSpec& s) {
        const ModelFile& file = model_of(s);
        for (const auto& note : file.notes)
            problems_.warn(s.where, fmt::format("the model {}: {}", s.file.string(), note),
                           "look at it with dotsift inspect");
        if (!file.has_unit)
            problems_.warn(s.where,
                           fmt::format("the model {} does not say its unit; its numbers are taken to be in {}",
                                       s.file.string(), study_.units.label(dimension::length)),
                           "say it, as in: unit = \"mm\"");
        SolidStep step{rule_of(s, static_cast<int>(source_)), {}};
        if (step.region.empty() && file.solids.size() == 1) step.region = study_.region_name;
        if (!step.region.empty() || !step.of.empty()) take_region(step, regions_);
        const auto maps = copies_of(s.placement);
        for (std::size_t k = 0; k < maps.size(); ++k)
            for (const auto& solid : file.solids) {
                SolidPart copy = placed(solid, maps[k]);
                for (auto& name : copy.boundary_names) name = numbered(name, k + 1);
                if (!s.name.empty())
                    for (auto& f : copy.faces) copy.add_name(numbered(s.name, k + 1), f.names);
                if (!step.region.empty()) copy.regions = {step.region};
                if (std::find(regions_.begin(), regions_.end(), copy.regions[0]) == regions_.end())
                    regions_.push_back(copy.regions[0]);
                step.copies.push_back(std::move(copy));
            }
        pending_.push_back(std::move(step));
    }

    void mark(const SpaceShapeSpec& s) {
        const auto maps = copies_of(s.placement);
        for (std::size_t k = 0; k < maps.size(); ++k)
            points_.push_back({numbered(s.name, k + 1), maps[k](s.centre), s.where});
    }

    /// Of all that stands above.
    [[nodiscard]] Box<3> box() const {
        Box<3> all;
        if (part_) all.add(part_->box);
        for (const auto& step : pending_)
            for (const auto& copy : step.copies) all.add(copy.box);
        return all;
    }

    void change(const SpaceShapeSpec& s) {
        flush();
        if (!part_) return;
        const bool moves = s.change != Change::round && s.change != Change::bevel && s.change != Change::hollow;
        if (!moves && has_facets(*part_))
            throw InputError("the edges and walls of what comes from facets cannot be changed", {},
                             "make the change where the file comes from, or take a STEP file");
        if (s.change == Change::round || s.change == Change::bevel) {
            const auto edges = s.edge_rule.empty() ? chosen_edges(*part_, s.edge_choice)
                                                   : edges_by_rule(study_, s.edge_rule, *part_, s.where, problems_);
            if (!edges.empty()) part_ = with_changed_edges(*part_, edges, {s.change, s.change_size, s.name});
            return;
        }
        if (s.change == Change::hollow) {
            part_ = hollowed(*part_, s.open, {s.change, s.change_size, s.name});
            return;
        }
        std::vector<SolidStep> steps;
        const auto add = [&](SolidPart copy) {
            SolidStep step;
            step.copies.push_back(std::move(copy));
            steps.push_back(std::move(step));
        };
        const auto maps = copies_of(s.placement);
        const bool kept = s.change == Change::mirror && s.keep;
        if (kept) add(*part_);
        for (const auto& map : maps) add(placed(*part_, map));
        // Where copies stand beside each other the point of a name is that of the first one.
        if (!kept)
            for (auto& p : points_) p.at = maps.front()(p.at);
        pending_ = std::move(steps);
        part_.reset();
        flush();
    }

    /// One solid alone is what it is; several are combined.
    void flush() {
        if (pending_.empty()) return;
        std::vector<SolidStep> steps;
        if (part_) {
            SolidStep first;
            first.copies.push_back(std::move(*part_));
            steps.push_back(std::move(first));
        }
        for (auto& step : pending_) steps.push_back(std::move(step));
        pending_.clear();
        if (steps.size() == 1 && steps[0].copies.size() == 1 && steps[0].kind == StepRule::Kind::add) {
            part_ = std::move(steps[0].copies[0]);
            return;
        }
        CombinedSolids made = any_has_facets(steps) ? set_beside(steps, regions_) : combine_solids(steps, regions_);
        for (std::size_t s = 0; s < steps.size(); ++s)
            if (steps[s].source >= 0) judge(steps[s], made.traces[s]);
        part_ = std::move(made.part);
    }

    /// Tells of shapes that left no trace: a cut beside the material, an addition inside it.
    void judge(const SolidStep& step, const StepTrace& trace) {
        const SpaceShapeSpec& shape = study_.space_shapes[static_cast<std::size_t>(step.source)];
        switch (step.kind) {
            case StepRule::Kind::add:
                if (!trace.on_outline)
                    problems_.warn(shape.where, fmt::format("shape {} leaves no face on the outside", shape.number),
                                   "it lies inside the others, or was cut away again");
                return;
            case StepRule::Kind::cut:
                if (!trace.changed)
                    problems_.add(shape.where,
                                  fmt::format("shape {} cuts nothing: it lies outside the material", shape.number),
                                  "move it into the part, or remove it");
                return;
            case StepRule::Kind::intersect:
                if (!trace.changed)
                    problems_.warn(shape.where,
                                   fmt::format("shape {} takes nothing away: all lies in it", shape.number),
                                   "remove it");
                return;
            case StepRule::Kind::line:
                if (!trace.on_outline)
                    problems_.add(shape.where, fmt::format("shape {} lies outside the material", shape.number),
                                  "move it into the part, or remove it");
                return;
        }
    }

    const Study& study_;
    const Part& plane_;
    double part_at_;
    std::map<int, ModelFile>& models_;  ///< by the shape's number
    Problems& problems_;
    bool not_combined_ = false;
    std::optional<SolidPart> part_;
    std::vector<SolidStep> pending_;
    std::vector<std::string> regions_;
    std::vector<MarkedPoint> points_;
    std::vector<CleanupItem> cleanup_;
    std::size_t source_ = 0;  ///< the shape that is at work
};

}  // namespace

std::optional<SolidPart> build_solid(const Study& study, const Part& plane, Problems& problems,
                                     std::vector<CleanupItem>& cleanup) {
    std::map<int, ModelFile> models;
    for (const double at : parted_at) {
        Problems found = problems;
        SolidBuilder builder(study, plane, at, models, found);
        auto solid = builder.run();
        if (!builder.not_combined() || at == parted_at.back()) {
            problems = std::move(found);
            cleanup.insert(cleanup.end(), builder.cleanup().begin(), builder.cleanup().end());
            return solid;
        }
    }
    return std::nullopt;
}

}  // namespace dotsift
