#include "part/shapes/drawing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "part/classify.hpp"
#include "part/combine/arrangement.hpp"
#include "part/combine/contact.hpp"
#include "part/shapes/dxf_read.hpp"
#include "part/shapes/placement.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

constexpr double join_share = 1e-6;  // of the drawing's diagonal, unless the study says otherwise
constexpr std::size_t largest_drawing = 256U << 20U;
constexpr std::size_t most_told = 8;        // faults of one kind
const std::string region_mark = "region=";  // points on such layers name the region round them

/// Layer 0 names nothing.
std::vector<std::string> names_of_layer(const std::string& layer) {
    return layer == "0" ? std::vector<std::string>{} : names_joined_in(layer);
}

/// A layer fits by its own name or by one of the names that it joins.
bool layer_fits(const std::string& layer, const std::vector<std::string>& patterns) {
    if (fits_any(layer, patterns)) return true;
    const auto names = names_of_layer(layer);
    return std::any_of(names.begin(), names.end(), [&](const auto& n) { return fits_any(n, patterns); });
}

class Drawing {
  public:
    Drawing(const Study& study, const ShapeSpec& shape, Problems& problems)
        : study_(study), shape_(shape), spec_(shape.drawing), problems_(problems) {}

    DrawingSteps run() {
        path_ = input_path(study_.path, spec_.file);
        DxfContent content;
        try {
            content = read_dxf(read_input(study_.path, spec_.file, largest_drawing), path_.string());
        } catch (const InputError& e) {
            fault(fmt::format("{}:{}: {}", path_.string(), e.place().line, e.what()), e.remedy());
            return {};
        }
        scale(content);
        sort_out(content);
        if (curves_.empty() && lines_.empty() && spots_.empty()) {
            std::set<std::string> layers;
            for (const auto& c : content.curves) layers.insert(c.layer);
            const std::vector<std::string> list(layers.begin(), layers.end());
            fault(fmt::format("the drawing {} holds no curve on the wanted layers", path_.string()),
                  list.empty() ? "it holds no curves at all" : fmt::format("its layers are {}", quoted_list(list)));
            return {};
        }
        const bool lines_only = shape_.verb == Verb::split || shape_.verb == Verb::mark;
        if (!lines_only) {
            join();
            drop_duplicates();
            if (curves_.empty() || !check_crossings() || !check_ends()) return {};
        }
        DrawingSteps out;
        if (lines_only) {
            lines_.insert(lines_.end(), curves_.begin(), curves_.end());
        } else if (spec_.nested_regions && shape_.verb == Verb::add) {
            regions(content, out.steps);
        } else {
            outlines(out.steps);
        }
        add_lines(out.steps);
        for (auto& step : out.steps) repeat(step);
        out.note = note(content);
        return out;
    }

  private:
    void fault(const std::string& what, const std::string& remedy) { problems_.add(shape_.where, what, remedy); }

    void scale(DxfContent& content) {
        std::optional<double> metres = content.metres;
        if (spec_.unit) metres = length_unit(*spec_.unit);
        if (!metres)
            problems_.warn(shape_.where,
                           fmt::format("the drawing {} does not say its unit; its numbers are taken to be in {}",
                                       path_.string(), study_.units.label(dimension::length)),
                           "say it, as in: unit = \"mm\"");
        factor_ = metres ? *metres / study_.units.metres() : 1;
        const Affine map{{{factor_, 0}}, {{0, factor_}}, {}};
        if (factor_ != 1)
            for (auto& c : content.curves) c.curve = c.curve.transformed(map);
        for (auto& p : content.points) p.at = map(p.at);
        for (const auto& c : content.curves) box_.add(c.curve.box());
    }

    /// Curves that make outlines, and lines and points that are only kept inside.
    void sort_out(const DxfContent& content) {
        std::set<std::string> seen;
        for (const auto& c : content.curves) {
            seen.insert(c.layer);
            if (layer_fits(c.layer, spec_.marks) || layer_fits(c.layer, spec_.splits))
                lines_.push_back(c);
            else if (spec_.layers.empty() || layer_fits(c.layer, spec_.layers) || layer_fits(c.layer, spec_.holes))
                curves_.push_back(c);
        }
        for (const auto& p : content.points) {
            seen.insert(p.layer);
            if (layer_fits(p.layer, spec_.marks)) spots_.push_back(p);
        }
        const std::vector<std::string> layers(seen.begin(), seen.end());
        for (const auto* list : {&spec_.layers, &spec_.holes, &spec_.marks, &spec_.splits})
            for (const auto& pattern : *list) {
                if (std::any_of(layers.begin(), layers.end(), [&](const auto& l) { return layer_fits(l, {pattern}); }))
                    continue;
                const std::string near = nearest(pattern, layers);
                fault(fmt::format("the drawing {} has no layer \"{}\"", path_.string(), pattern),
                      near.empty() ? fmt::format("its layers are {}", quoted_list(layers))
                                   : fmt::format("did you mean \"{}\"? its layers are {}", near, quoted_list(layers)));
            }
        for (const auto& [line, why] : content.ignored)
            problems_.warn(shape_.where, fmt::format("{}:{}: {}; it is left out", path_.string(), line, why));
    }

    /// Gives ends that are near to each other the same place.
    void join() {
        reach_ = spec_.join.value_or(join_share * box_.diagonal());
        struct End {
            Vec2 at;
            std::size_t curve;
            bool last;
        };
        std::vector<End> ends;
        for (std::size_t i = 0; i < curves_.size(); ++i) {
            if (curves_[i].curve.closed()) continue;
            ends.push_back({curves_[i].curve.start(), i, false});
            ends.push_back({curves_[i].curve.end(), i, true});
        }
        std::vector<std::size_t> order(ends.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return std::pair(ends[a].at[0], a) < std::pair(ends[b].at[0], b);
        });
        std::vector<std::size_t> group(ends.size());
        std::iota(group.begin(), group.end(), std::size_t{0});
        const auto root = [&](std::size_t k) {
            while (group[k] != k) k = group[k] = group[group[k]];
            return k;
        };
        for (std::size_t i = 0; i < order.size(); ++i)
            for (std::size_t j = i + 1; j < order.size() && ends[order[j]].at[0] - ends[order[i]].at[0] <= reach_;
                 ++j) {
                const double gap = distance(ends[order[i]].at, ends[order[j]].at);
                if (gap > reach_) continue;
                if (gap > 0) {
                    ++joined_;
                    widest_ = std::max(widest_, gap);
                }
                group[std::max(root(order[i]), root(order[j]))] = std::min(root(order[i]), root(order[j]));
            }
        node_.assign(2 * curves_.size(), -1);
        std::map<std::size_t, int> node_of_group;
        for (std::size_t k = 0; k < ends.size(); ++k) {
            const auto [found, fresh] = node_of_group.try_emplace(root(k), static_cast<int>(nodes_.size()));
            if (fresh) nodes_.push_back(ends[root(k)].at);
            node_[2 * ends[k].curve + (ends[k].last ? 1 : 0)] = found->second;
        }
        for (std::size_t i = 0; i < curves_.size(); ++i) {
            if (node_[2 * i] < 0) {  // closed from the start
                node_[2 * i] = node_[2 * i + 1] = static_cast<int>(nodes_.size());
                nodes_.push_back(curves_[i].curve.start());
            }
            Curve& c = curves_[i].curve;
            c.set_ends(nodes_[static_cast<std::size_t>(node_[2 * i])],
                       nodes_[static_cast<std::size_t>(node_[2 * i + 1])]);
        }
    }

    void drop_duplicates() {
        std::map<std::array<int, 2>, std::vector<std::size_t>> between;
        std::vector<char> gone(curves_.size(), 0);
        std::size_t dropped = 0;
        for (std::size_t i = 0; i < curves_.size(); ++i) {
            const Curve& c = curves_[i].curve;
            if (node_[2 * i] == node_[2 * i + 1] && c.length() <= 4 * reach_) {
                gone[i] = 1;
                if (++dropped <= most_told)
                    problems_.warn(shape_.where,
                                   fmt::format("{}:{}: a curve at {} is shorter than the distance at which ends are "
                                               "joined; it is left out",
                                               path_.string(), curves_[i].line, told_point(c.start())));
                continue;
            }
            auto& others =
                between[{std::min(node_[2 * i], node_[2 * i + 1]), std::max(node_[2 * i], node_[2 * i + 1])}];
            for (const std::size_t j : others) {
                const Curve& d = curves_[j].curve;
                bool same = true;
                for (const double t : {0.25, 0.5, 0.75})
                    same = same && distance(d.point(d.project(c.point(t))), c.point(t)) <= reach_;
                if (!same) continue;
                gone[i] = 1;
                if (++dropped <= most_told)
                    problems_.warn(
                        shape_.where,
                        fmt::format("{}:{}: this curve from {} to {} is drawn twice (first in line {}); it is "
                                    "left out",
                                    path_.string(), curves_[i].line, told_point(c.start()), told_point(c.end()),
                                    curves_[j].line));
                break;
            }
            if (!gone[i]) others.push_back(i);
        }
        if (dropped > most_told)
            problems_.warn(shape_.where,
                           fmt::format("{}: {} more curves left out", path_.string(), dropped - most_told));
        if (dropped == curves_.size())
            fault(fmt::format(
                      "nothing is left of the drawing {}: all its curves are shorter than {:.3g}, the distance at "
                      "which ends are joined",
                      path_.string(), reach_),
                  fmt::format("it spans from {} to {}: does something lie far away from the rest? Otherwise set join",
                              told_point(box_.low), told_point(box_.high)));
        std::size_t kept = 0;
        for (std::size_t i = 0; i < curves_.size(); ++i) {
            if (gone[i]) continue;
            curves_[kept] = curves_[i];
            node_[2 * kept] = node_[2 * i];
            node_[2 * kept + 1] = node_[2 * i + 1];
            ++kept;
        }
        curves_.resize(kept);
        node_.resize(2 * kept);
    }

    bool check_crossings() {
        std::vector<Box2> boxes;
        std::vector<Stretches> stretches;
        for (const auto& c : curves_) {
            boxes.push_back(c.curve.box());
            stretches.emplace_back(c.curve);
        }
        const double tolerance = 1e-9 * box_.diagonal();
        std::size_t told = 0;
        for (std::size_t i = 0; i < curves_.size(); ++i) {
            const auto at = self_contact(curves_[i].curve, tolerance);
            if (at && told++ < most_told)
                fault(fmt::format("{}:{}: this curve crosses itself at {}", path_.string(), curves_[i].line,
                                  told_point(*at)),
                      "redraw it");
        }
        for (const auto& [i, j] : overlapping_boxes(boxes, tolerance)) {
            const auto a = static_cast<std::size_t>(i), b = static_cast<std::size_t>(j);
            const auto at = contact(stretches[a], stretches[b], tolerance);
            if (!at || told++ >= most_told) continue;
            fault(fmt::format("{}:{}: this curve crosses, touches or overlaps the one of line {} at {}", path_.string(),
                              curves_[a].line, curves_[b].line, told_point(*at)),
                  "trim them where they meet, or read only some layers");
        }
        return told == 0;
    }

    /// Every end must meet another one; in outlines exactly one.
    bool check_ends() {
        std::vector<std::vector<std::size_t>> users(nodes_.size());
        for (std::size_t i = 0; i < curves_.size(); ++i)
            for (const int n : {node_[2 * i], node_[2 * i + 1]}) users[static_cast<std::size_t>(n)].push_back(i);
        std::vector<std::size_t> open;
        for (std::size_t n = 0; n < nodes_.size(); ++n)
            if (users[n].size() == 1) open.push_back(n);
        std::size_t told = 0;
        for (const std::size_t n : open) {
            if (told++ >= most_told) break;
            const auto& c = curves_[users[n][0]];
            std::size_t nearest_end = n;
            for (const std::size_t m : open)
                if (m != n &&
                    (nearest_end == n || distance(nodes_[m], nodes_[n]) < distance(nodes_[nearest_end], nodes_[n])))
                    nearest_end = m;
            const double gap = distance(nodes_[nearest_end], nodes_[n]);
            fault(
                fmt::format("{}:{}: the outline on layer \"{}\" is open at {}", path_.string(), c.line, c.layer,
                            told_point(nodes_[n])),
                nearest_end == n
                    ? "close it in the drawing"
                    : fmt::format("the nearest other open end is {:.4g} away, at {}: close the gap in the drawing, or "
                                  "set join = {:.2g}",
                                  gap, told_point(nodes_[nearest_end]), gap * 1.1));
        }
        if (open.size() > most_told) fault(fmt::format("{} more open ends", open.size() - most_told), "");
        if (spec_.nested_regions && shape_.verb == Verb::add) return open.empty();
        for (std::size_t n = 0; n < nodes_.size(); ++n) {
            if (users[n].size() <= 2 || told++ >= most_told) continue;
            fault(fmt::format("{}:{}: {} curves meet at {}, so that it is not clear what is an outline", path_.string(),
                              curves_[users[n][0]].line, users[n].size(), told_point(nodes_[n])),
                  "use nested = \"regions\" if every enclosed area is meant, or splits for lines that divide");
        }
        return told == 0;
    }

    NamedCurve named(std::size_t i, bool forward) const {
        return {forward ? curves_[i].curve : curves_[i].curve.reversed(), names_for(curves_[i].layer)};
    }

    [[nodiscard]] std::vector<std::string> names_for(const std::string& layer) const {
        auto names = names_of_layer(layer);
        if (!shape_.name.empty()) names.push_back(shape_.name);
        return names;
    }

    /// Chains the curves into closed loops and applies the rule of nested outlines: even-odd.
    void outlines(std::vector<CombineStep>& steps) {
        std::vector<std::vector<std::size_t>> users(nodes_.size());
        for (std::size_t i = 0; i < curves_.size(); ++i)
            for (const int n : {node_[2 * i], node_[2 * i + 1]}) users[static_cast<std::size_t>(n)].push_back(i);
        std::vector<char> used(curves_.size(), 0);
        StepOutline shape, holes;
        for (std::size_t first = 0; first < curves_.size(); ++first) {
            if (used[first]) continue;
            std::vector<NamedCurve> loop;
            bool hole = !spec_.holes.empty();
            std::size_t i = first;
            int at = node_[2 * first];
            do {
                used[i] = 1;
                const bool forward = node_[2 * i] == at;
                loop.push_back(named(i, forward));
                hole = hole && layer_fits(curves_[i].layer, spec_.holes);
                at = node_[2 * i + (forward ? 1 : 0)];
                const auto& here = users[static_cast<std::size_t>(at)];
                i = here[0] == i ? here[1] : here[0];
            } while (!used[i]);
            (hole ? holes : shape).loops.push_back(std::move(loop));
        }
        CombineStep step;
        step.kind = shape_.verb == Verb::add   ? CombineStep::Kind::add
                    : shape_.verb == Verb::cut ? CombineStep::Kind::cut
                                               : CombineStep::Kind::intersect;
        step.region = shape_.region;
        step.priority = static_cast<int>(shape_.priority);
        step.of = shape_.of;
        if (!shape.loops.empty()) {
            step.copies.push_back(std::move(shape));
            steps.push_back(step);
        }
        if (holes.loops.empty()) return;
        CombineStep cut;
        cut.kind = CombineStep::Kind::cut;
        cut.copies.push_back(std::move(holes));
        steps.push_back(std::move(cut));
    }

    /// Every enclosed area becomes a region of its own name.
    void regions(const DxfContent& content, std::vector<CombineStep>& steps) {
        std::vector<PlanarEdge> edges;
        for (std::size_t i = 0; i < curves_.size(); ++i)
            edges.push_back({curves_[i].curve, node_[2 * i], node_[2 * i + 1]});
        const PlanarFaces faces = trace_faces(nodes_, edges);
        const bool marked = std::any_of(content.points.begin(), content.points.end(),
                                        [](const DxfPoint& p) { return p.layer.starts_with(region_mark); });
        std::map<std::string, std::size_t> step_of;
        for (std::size_t f = 1; f < faces.loops.size(); ++f) {
            const auto& outer = faces.loops[f].front();
            std::map<std::string, double> length;  // of each layer in the outer loop
            bool hole = !spec_.holes.empty();
            for (const EdgeSide s : outer) {
                const auto& c = curves_[static_cast<std::size_t>(s / 2)];
                length[c.layer] += c.curve.length();
                hole = hole && layer_fits(c.layer, spec_.holes);
            }
            if (hole) continue;
            std::string name = std::max_element(length.begin(), length.end(), [](const auto& a, const auto& b) {
                                   return a.second < b.second;
                               })->first;
            const auto names = names_of_layer(name);
            name = names.empty() ? shape_.region : names.front();
            RayCaster rays;
            for (const auto& loop : faces.loops[f])
                for (const EdgeSide s : loop) rays.add(edges[static_cast<std::size_t>(s / 2)].curve, s);
            if (marked) {  // then areas without a mark are empty
                const auto mark = std::find_if(content.points.begin(), content.points.end(), [&](const DxfPoint& p) {
                    return p.layer.starts_with(region_mark) && rays.inside(p.at);
                });
                if (mark == content.points.end()) continue;
                name = mark->layer.substr(region_mark.size());
            }
            const auto [found, fresh] = step_of.try_emplace(name, steps.size());
            if (fresh) {
                CombineStep step;
                step.region = name;
                step.priority = static_cast<int>(shape_.priority);
                steps.push_back(std::move(step));
            }
            StepOutline outline;
            for (const auto& loop : faces.loops[f]) {
                std::vector<NamedCurve> chain;
                for (const EdgeSide s : loop) {
                    NamedCurve c = named(static_cast<std::size_t>(s / 2), s % 2 == 0);
                    chain.push_back(std::move(c));
                }
                outline.loops.push_back(std::move(chain));
            }
            steps[found->second].copies.push_back(std::move(outline));
        }
    }

    void add_lines(std::vector<CombineStep>& steps) {
        if (lines_.empty() && spots_.empty()) return;
        CombineStep step;
        step.kind = CombineStep::Kind::line;
        for (const auto& l : lines_) step.copies.push_back({{{NamedCurve{l.curve, names_for(l.layer)}}}});
        for (const auto& p : spots_) step.spots.push_back({p.at, p.layer});
        steps.push_back(std::move(step));
    }

    void repeat(CombineStep& step) const {
        const auto maps = copies_of(shape_.placement);
        std::vector<StepOutline> copies;
        std::vector<NamedSpot> spots;
        for (std::size_t k = 0; k < maps.size(); ++k) {
            for (const auto& copy : step.copies) {
                StepOutline moved = copy;
                for (auto& loop : moved.loops)
                    for (auto& c : loop) {
                        c.curve = c.curve.transformed(maps[k]);
                        for (auto& name : c.names) name = numbered(name, k + 1);
                    }
                copies.push_back(std::move(moved));
            }
            for (const auto& s : step.spots) spots.push_back({maps[k](s.at), numbered(s.name, k + 1)});
        }
        step.copies = std::move(copies);
        step.spots = std::move(spots);
    }

    std::string note(const DxfContent& content) const {
        std::set<std::string> layers;
        for (const auto& c : curves_) layers.insert(c.layer);
        for (const auto& c : lines_) layers.insert(c.layer);
        std::string text = fmt::format("{}: {} curves on {} layers", spec_.file.string(),
                                       curves_.size() + lines_.size(), layers.size());
        if (factor_ != 1) text += fmt::format(", scaled by {:g}", factor_);
        if (joined_ > 0)
            text += fmt::format(", {} ends joined that were up to {} apart", joined_, sensible(widest_, 2));
        if (!content.skipped.empty()) {
            text += "; not read:";
            for (const auto& [kind, count] : content.skipped) text += fmt::format(" {} {}", count, kind);
        }
        return text;
    }

    const Study& study_;
    const ShapeSpec& shape_;
    const DrawingSpec& spec_;
    Problems& problems_;
    std::filesystem::path path_;
    double factor_ = 1, reach_ = 0, widest_ = 0;
    std::size_t joined_ = 0;
    Box2 box_;
    std::vector<DxfCurve> curves_, lines_;
    std::vector<DxfPoint> spots_;
    std::vector<Vec2> nodes_;
    std::vector<int> node_;  ///< two for each curve: of its start and end
};

}  // namespace

DrawingSteps steps_of_drawing(const Study& study, const ShapeSpec& shape, Problems& problems) {
    const std::size_t before = problems.count();
    DrawingSteps steps = Drawing(study, shape, problems).run();
    if (problems.count() > before) steps.steps.clear();
    return steps;
}

}  // namespace dotsift
