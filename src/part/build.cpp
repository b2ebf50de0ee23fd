#include "part/build.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "part/combine/combine.hpp"
#include "part/selection.hpp"
#include "part/shapes/corners.hpp"
#include "part/shapes/drawing.hpp"
#include "part/shapes/placement.hpp"
#include "part/shapes/shape_rule.hpp"
#include "part/shapes/shapes.hpp"

namespace dotsift {

namespace {

std::string at_text(const Vec2& p) {
    return fmt::format("({:.6g}, {:.6g})", p[0], p[1]);
}

class PartBuilder {
  public:
    PartBuilder(const Study& study, Problems& problems) : study_(study), problems_(problems) {}

    /// The part as drawn; nothing if there were faults.
    std::optional<Part> run() {
        const std::size_t before = problems_.count();
        std::size_t faulty = 0;
        for (std::size_t i = 0; i < study_.shapes.size() && problems_.count() == before; ++i) {
            faulty = i;
            try {
                play(i);
            } catch (const InputError& e) {
                tell(e, i);
            }
        }
        // Shapes after a faulty one are still looked at one by one.
        for (std::size_t i = faulty + 1; problems_.count() > before && i < study_.shapes.size(); ++i)
            if (study_.shapes[i].verb != Verb::change) (void)outline_of(study_.shapes[i], problems_);
        if (problems_.count() == before) {
            try {
                flush();
            } catch (const InputError& e) {
                tell(e, study_.shapes.size());
            }
        }
        if (problems_.count() == before && !part_)
            problems_.add(study_.part_where, "the shapes make no part", "add a shape that encloses something");
        if (problems_.count() > before) return std::nullopt;
        for (std::size_t r = 0; r < part_->regions.size(); ++r)
            if (std::none_of(part_->faces.begin(), part_->faces.end(),
                             [&](const PartFace& f) { return f.region == static_cast<int>(r); }))
                problems_.add(
                    study_.part_where, fmt::format("nothing is left of the region \"{}\"", part_->regions[r]),
                    "it was cut away, or later shapes took its place: give it a higher priority, or remove it");
        if (problems_.count() > before) return std::nullopt;
        return part_;
    }

    [[nodiscard]] std::vector<std::string> notes() const { return notes_; }

  private:
    void tell(const InputError& e, std::size_t shape) {
        const bool known = shape < study_.shapes.size();
        std::string what = e.what();
        if (e.place().position && what.find('(') == std::string::npos)
            what += ", near " + at_text(e.place().position->plane());
        problems_.add(known ? study_.shapes[shape].where : study_.part_where, what, e.remedy());
    }

    void play(std::size_t i) {
        const ShapeSpec& s = study_.shapes[i];
        if (s.verb == Verb::change) {
            flush();
            if (part_) change(s);
            return;
        }
        if (s.primitive == Primitive::drawing) {
            DrawingSteps drawing = steps_of_drawing(study_, s, problems_);
            for (auto& step : drawing.steps) pend(std::move(step), i);
            if (!drawing.note.empty()) notes_.push_back(drawing.note);
            return;
        }
        CombineStep step{rule_of(s, static_cast<int>(i)), {}, {}};
        const auto maps = copies_of(s.placement);
        const auto edges = outline_of(s, problems_);
        if (edges.empty() && s.primitive != Primitive::point) return;  // told
        for (std::size_t k = 0; k < maps.size(); ++k) {
            if (s.primitive == Primitive::point) {
                step.spots.push_back({maps[k](s.at), numbered(s.name, k + 1)});
                continue;
            }
            std::vector<NamedCurve> chain;
            for (const auto& e : edges) {
                NamedCurve c{e.curve.transformed(maps[k]), {}};
                for (const auto& name : e.names) c.names.push_back(numbered(name, k + 1));
                chain.push_back(std::move(c));
            }
            for (std::size_t c = 0;
                 c + 1 < chain.size() || (c < chain.size() && edges.back().curve.end() == edges.front().curve.start());
                 ++c) {
                auto& next = chain[(c + 1) % chain.size()].curve;  // ends meet bit for bit after the map, too
                next.set_ends(chain[c].curve.end(), chain.size() == 1 ? chain[c].curve.end() : next.end());
            }
            step.copies.push_back({{std::move(chain)}});
        }
        pend(std::move(step), i);
    }

    void pend(CombineStep step, std::size_t shape) {
        step.source = static_cast<int>(shape);
        take_region(step, regions_);
        pending_.push_back(std::move(step));
    }

    void flush() {
        if (pending_.empty()) return;
        std::vector<CombineStep> steps = part_ ? steps_of(*part_) : std::vector<CombineStep>{};
        for (auto& step : pending_) steps.push_back(std::move(step));
        pending_.clear();
        Combined made = combine(steps, regions_);
        for (std::size_t s = 0; s < steps.size(); ++s)
            if (steps[s].source >= 0) judge(steps[s], made.traces[s]);
        if (made.part.faces.empty())
            throw InputError("the cuts leave nothing of the part", {}, "check the size and place of the cuts");
        if (part_)
            take(std::move(made.part));
        else
            part_ = std::move(made.part);
    }

    /// Tells of shapes that left no trace: a cut beside the material, an addition inside it.
    void judge(const CombineStep& step, const StepTrace& trace) {
        const auto i = static_cast<std::size_t>(step.source);
        const ShapeSpec& shape = study_.shapes[i];
        switch (step.kind) {
            case CombineStep::Kind::add:
                if (trace.on_outline) return;
                problems_.warn(shape.where, fmt::format("shape {} leaves no edge on the outline", i + 1),
                               i + 1 < study_.shapes.size() ? "it lies inside the others, or was cut away again"
                                                            : "it lies inside the others: remove it");
                return;
            case CombineStep::Kind::cut:
                if (!trace.changed)
                    problems_.add(shape.where,
                                  fmt::format("shape {} cuts nothing: it lies outside the material", i + 1),
                                  "move it onto the part, or remove it");
                return;
            case CombineStep::Kind::intersect:
                if (!trace.changed)
                    problems_.warn(shape.where, fmt::format("shape {} takes nothing away: all lies in it", i + 1),
                                   "remove it");
                return;
            case CombineStep::Kind::line:
                if (!trace.on_outline || !trace.spots_inside)
                    problems_.add(shape.where, fmt::format("shape {} lies outside the material", i + 1),
                                  "move it onto the part, or remove it");
                return;
        }
    }

    /// Names of which nothing is left stay known, so that whoever uses one is told.
    void take(Part now) {
        for (const auto& name : part_->boundary_names) now.boundary_name(name);
        part_ = std::move(now);
    }

    void change(const ShapeSpec& s) {
        switch (s.change) {
            case Change::round:
            case Change::bevel:
                take(change_corners(*part_, chosen_corners(s), {s.change == Change::bevel, s.change_size, s.name}));
                return;
            case Change::hollow:  // of solids
                return;
            case Change::mirror:
            case Change::move:
            case Change::rotate:
            case Change::repeat: {
                std::vector<CombineStep> steps;
                if (s.change == Change::mirror && s.keep) steps = steps_of(*part_);
                for (const auto& map : copies_of(s.placement)) {
                    auto more = steps_of(*part_, map);
                    steps.insert(steps.end(), more.begin(), more.end());
                }
                take(combine(steps, part_->regions).part);
                return;
            }
        }
    }

    std::vector<Corner> chosen_corners(const ShapeSpec& s) const {
        const auto all = corners_of(*part_);
        const CornerSpec& choice = s.corner_choice;
        std::vector<Corner> chosen;
        switch (choice.kind) {
            case CornerSpec::Kind::all:
                chosen = all;
                break;
            case CornerSpec::Kind::inner:
            case CornerSpec::Kind::outer:
                for (const auto& c : all)
                    if (c.outer() == (choice.kind == CornerSpec::Kind::outer)) chosen.push_back(c);
                break;
            case CornerSpec::Kind::near:
                for (const Vec2& p : choice.near) {
                    const auto found = std::find_if(all.begin(), all.end(), [&](const Corner& c) {
                        return distance(part_->vertex(c.vertex), p) <= same_point_share * part_->box.diagonal();
                    });
                    if (found != all.end()) {
                        if (std::any_of(chosen.begin(), chosen.end(),
                                        [&](const Corner& c) { return c.vertex == found->vertex; }))
                            throw InputError(fmt::format("the corner at {} is listed twice", at_text(p)), {},
                                             "remove one of them");
                        chosen.push_back(*found);
                        continue;
                    }
                    const auto nearest =
                        std::min_element(all.begin(), all.end(), [&](const Corner& a, const Corner& b) {
                            return distance(part_->vertex(a.vertex), p) < distance(part_->vertex(b.vertex), p);
                        });
                    throw InputError(fmt::format("there is no corner at {}", at_text(p)), {},
                                     nearest == all.end()
                                         ? "the part has no corners"
                                         : "the nearest corner is at " + at_text(part_->vertex(nearest->vertex)));
                }
                break;
            case CornerSpec::Kind::between: {
                const auto& known = part_->boundary_names;
                for (const auto& name : choice.between) {
                    if (!part_->edges_named({name}).empty()) continue;
                    const std::string near = nearest(name, known);
                    throw InputError(fmt::format("no boundary is named \"{}\"", name), {},
                                     near.empty() || near == name
                                         ? fmt::format("named boundaries are {}", quoted_list(known))
                                         : fmt::format("did you mean \"{}\"?", near));
                }
                const auto first = part_->edges_named({choice.between[0]}),
                           second = part_->edges_named({choice.between[1]});
                const auto in = [](const std::vector<int>& list, int e) {
                    return std::find(list.begin(), list.end(), e) != list.end();
                };
                for (const auto& c : all)
                    if ((in(first, c.in.edge) && in(second, c.out.edge)) ||
                        (in(second, c.in.edge) && in(first, c.out.edge)))
                        chosen.push_back(c);
                break;
            }
        }
        std::string where;
        for (std::size_t k = 0; k < std::min<std::size_t>(all.size(), 12); ++k)
            where += (k ? ", " : "") + at_text(part_->vertex(all[k].vertex));
        if (all.size() > 12) where += fmt::format(" and {} more", all.size() - 12);
        if (chosen.empty())
            throw InputError("no corner fits this choice", {},
                             all.empty() ? "the part has no corners" : "corners are at " + where);
        if (choice.count && *choice.count != static_cast<std::int64_t>(chosen.size()))
            throw InputError(fmt::format("{} corners were expected, but {} {}", *choice.count, chosen.size(),
                                         chosen.size() == 1 ? "fits" : "fit"),
                             {}, "corners are at " + where);
        return chosen;
    }

    const Study& study_;
    Problems& problems_;
    std::optional<Part> part_;
    std::vector<CombineStep> pending_;
    std::vector<std::string> regions_, notes_;
};

}  // namespace

BuiltPart build_part(const Study& study, Problems& problems) {
    BuiltPart built;
    if (study.shapes.empty()) return built;
    const std::size_t before = problems.count();
    PartBuilder builder(study, problems);
    auto part = builder.run();
    if (!part) return built;
    built.notes = builder.notes();
    built.part = std::move(*part);
    if (study.space_shapes.empty()) name_interfaces<2>(study, built.part, problems);  // else the solid's are named
    apply_selections(study, built.part, problems);
    if (problems.count() == before && study.cleanup.any()) {
        built.original = built.part;
        try {
            built.cleanup = clean_up(study.cleanup, built.part);
        } catch (const InputError& e) {
            problems.add(study.cleanup.where, e.what(), e.remedy());
            built.part = std::move(*built.original);  // not half of a clean-up
            built.original.reset();
        }
    }
    return built;
}

}  // namespace dotsift
