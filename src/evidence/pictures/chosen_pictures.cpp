#include "evidence/pictures/chosen_pictures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "evidence/pictures/level_pictures.hpp"
#include "evidence/pictures/solid_level_pictures.hpp"

namespace dotsift {

namespace {

constexpr std::size_t most_deformed = 4;  // cases whose deformed shapes are drawn unasked
// Share of the part's diagonal that the largest displacement has on a picture of the deformed shape.
constexpr double visible_share = 0.06;

bool same_picture(const PictureSpec& a, const PictureSpec& b) {
    return a.field == b.field && a.load_case == b.load_case && a.envelope == b.envelope && a.about == b.about &&
           a.deformed == b.deformed && a.section.has_value() == b.section.has_value() &&
           (!a.section || (a.section->at == b.section->at && a.section->normal == b.section->normal));
}

/// 1, 2 or 5 times a power of ten, not above x.
double round_factor(double x) {
    const double power = std::pow(10, std::floor(std::log10(x)));
    return (x >= 5 * power ? 5 : x >= 2 * power ? 2 : 1) * power;
}

Box2 box_of(const Mesh& mesh) {
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    return box;
}

double factor_for(const PictureSpec& picture, const Mesh& mesh, const Solution& s) {
    if (*picture.deformed > 0) return *picture.deformed;
    double largest = 0;
    for (const auto& u : s.displacement) largest = std::max(largest, norm(u));
    return largest > 0 ? round_factor(visible_share * box_of(mesh).diagonal() / largest) : 1;
}

/// A field over several cases, each place with the value that counts.
class Envelope {
  public:
    Envelope(const Study& study, const LevelFields& f, const PictureSpec& p) : fields_(f), picture_(p) {
        const bool all = p.envelope != CaseEnvelope::none;
        for (std::size_t c = 0; c < f.cases.size(); ++c) {
            if (!all && c != place_of_case(f.cases, p.load_case)) continue;
            cases_.push_back(c);
            FieldSource source = f.source(c);
            source.about = p.about;
            values_.push_back(slot_field(p.field, source));
        }
        for (const auto& c : study.cases_to_solve()) names_.push_back(c.name);
    }

    [[nodiscard]] std::vector<double> values() const {
        std::vector<double> out = values_.front();
        const double sign = picture_.envelope == CaseEnvelope::smallest ? -1 : 1;
        for (const auto& other : values_)
            for (std::size_t s = 0; s < out.size(); ++s)
                if (sign * other[s] > sign * out[s]) out[s] = other[s];
        return out;
    }

    /// The case with the largest value of each element, by the mean of its nodes.
    [[nodiscard]] std::vector<int> governing() const {
        const Mesh& mesh = fields_.mesh;
        std::vector<int> out(mesh.element_count(), 0);
        for (std::size_t e = 0; e < out.size(); ++e) {
            double best = -INFINITY;
            for (std::size_t c = 0; c < values_.size(); ++c) {
                double sum = 0;
                for (const int s : mesh.slots_of(e)) sum += values_[c][static_cast<std::size_t>(s)];
                if (sum <= best) continue;
                best = sum;
                out[e] = static_cast<int>(cases_[c]);
            }
        }
        return out;
    }

    struct Found {
        Extreme extreme;
        std::size_t load_case = 0;
    };
    [[nodiscard]] Found extreme(bool largest) const {
        std::optional<Found> best;
        for (const auto c : cases_) {
            FieldSource source = fields_.source(c);
            source.about = picture_.about;
            const Extreme e = find_extreme(picture_.field, largest, source, {});
            if (!best || (largest ? e.value > best->extreme.value : e.value < best->extreme.value)) best = {e, c};
        }
        return *best;
    }

    [[nodiscard]] const std::string& name_of_case(std::size_t c) const { return names_[c]; }
    [[nodiscard]] const std::vector<std::string>& names() const { return names_; }
    [[nodiscard]] std::size_t first_case() const { return cases_.front(); }

  private:
    const LevelFields& fields_;
    const PictureSpec& picture_;
    std::vector<std::size_t> cases_;
    std::vector<std::vector<double>> values_;
    std::vector<std::string> names_;
};

std::string subtitle_of(const Study& study, const Level& level, const PictureSpec& picture, double factor) {
    std::string s = fmt::format("{}, level {}", level.series, level.index);
    if (picture.envelope == CaseEnvelope::largest) s += ": the largest of all load cases";
    if (picture.envelope == CaseEnvelope::smallest) s += ": the smallest of all load cases";
    if (picture.envelope == CaseEnvelope::governing) s += ": the load case that gives the largest value";
    if (picture.envelope == CaseEnvelope::none && !study.cases.empty())
        s += ", load case " + (picture.load_case.empty() ? study.cases.front().name : picture.load_case);
    if (picture.deformed) s += fmt::format("; displacements {} times as large as they are", as_given(factor));
    return s;
}

PictureFiles draw_governing(const Study& study, const Level& level, const PictureSpec& picture) {
    const Envelope envelope(study, *level.fields, picture);
    CategoryPicture p;
    p.title = fmt::format("{}: {}", study.title, title_of(study, picture.field));
    p.subtitle = subtitle_of(study, level, picture, 1);
    p.legend = "load case";
    p.length_unit = study.units.label(dimension::length);
    p.names = envelope.names();
    p.elementwise = envelope.governing();
    return draw_categories(level.fields->mesh, p);
}

/// The nodal extreme in a window, where the one of the whole lies outside.
void keep_in_window(const Mesh& mesh, const std::vector<double>& slots, FieldPicture& p) {
    if (!p.window) return;
    const auto inside = [&](const Vec2& q) {
        return q[0] >= p.window->low[0] && q[0] <= p.window->high[0] && q[1] >= p.window->low[1] &&
               q[1] <= p.window->high[1];
    };
    for (const bool largest : {true, false}) {
        auto& value = largest ? p.largest : p.smallest;
        auto& at = largest ? p.largest_at : p.smallest_at;
        if (!value || inside(at)) continue;
        (largest ? p.largest_label : p.smallest_label).clear();
        value.reset();
        for (std::size_t s = 0; s < slots.size(); ++s) {
            const Vec2& q = mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[s])];
            if (!inside(q) || (value && (largest ? slots[s] <= *value : slots[s] >= *value))) continue;
            value = slots[s];
            at = q;
        }
    }
}

}  // namespace

std::vector<PictureSpec> wanted_pictures(const Study& study) {
    std::vector<PictureSpec> list;
    const auto add = [&](PictureSpec p, const std::string& name) {
        if (std::any_of(list.begin(), list.end(), [&](const auto& other) { return same_picture(other, p); })) return;
        p.name = name;
        // Names become file names, each of its own.
        while (std::any_of(list.begin(), list.end(), [&](const auto& other) { return other.name == p.name; }))
            p.name += "-2";
        list.push_back(std::move(p));
    };
    for (const auto& p : study.pictures) list.push_back(p);
    const auto label = [](const PictureSpec& p, const std::string& load_case) {
        return load_case.empty() ? std::string(name_of(p.field)) : fmt::format("{}-{}", name_of(p.field), load_case);
    };
    const std::string first = study.cases.empty() ? "" : study.cases.front().name;
    for (const auto& q : study.quantities) {
        if (!is_plane_field(q)) continue;
        PictureSpec p;
        p.field = q.field;
        p.load_case = q.load_case == first ? "" : q.load_case;
        p.about = q.about;
        if (p.field == shown_field(study) && p.load_case.empty()) continue;  // every level shows it
        add(p, label(p, p.load_case));
    }
    if (study.solid()) {
        PictureSpec p;
        p.field = shown_field(study);
        p.section = PlaneSpec{{}, {}};  // through the largest value
        add(p, fmt::format("{}-section", name_of(p.field)));
    }
    for (std::size_t c = 0; study.elastic() && c < std::clamp<std::size_t>(study.cases.size(), 1, most_deformed); ++c) {
        PictureSpec p;
        p.field = Field::displacement;
        p.deformed = 0;
        p.load_case = c == 0 ? "" : study.cases[c].name;
        add(p, c == 0 && study.cases.size() < 2 ? "deformed" : "deformed-" + study.cases[c].name);
    }
    if (study.cases.size() > 1)
        for (const auto envelope : {CaseEnvelope::largest, CaseEnvelope::governing}) {
            PictureSpec p;
            p.field = shown_field(study);
            p.envelope = envelope;
            add(p, label(p, envelope == CaseEnvelope::largest ? "of-all-cases" : "governing-case"));
        }
    return list;
}

std::string caption_of(const Study& study, const PictureSpec& p) {
    std::string s = title_of(study, p.field);
    if (p.section) s += norm(p.section->normal) == 0 ? ", in a section through the largest value" : ", in a section";
    if (p.deformed) s += " on the deformed shape";
    if (p.envelope == CaseEnvelope::largest) s += ", the largest of all load cases";
    if (p.envelope == CaseEnvelope::smallest) s += ", the smallest of all load cases";
    if (p.envelope == CaseEnvelope::governing) s += ": which load case gives the largest";
    if (p.envelope == CaseEnvelope::none && !study.cases.empty())
        s += ", load case " + (p.load_case.empty() ? study.cases.front().name : p.load_case);
    return s;
}

const Level* level_of(const StudyResult& result, const PictureSpec& picture) {
    const Level* finest = finest_level(result);
    if (!finest) return nullptr;
    const std::string& wanted = picture.series.empty() ? finest->series : picture.series;
    for (const auto& s : result.series) {
        if (s.name != wanted || s.levels.empty()) continue;
        if (!picture.level) return &s.levels.back();
        for (const auto& l : s.levels)
            if (l.index == *picture.level) return &l;
    }
    return nullptr;
}

PictureFiles draw_chosen(const Study& study, const StudyResult& result, const PictureSpec& picture, PictureUse use) {
    const Level* level = level_of(result, picture);
    if (!level) {
        Place place = place_in(study.path, picture.where);
        throw InputError(fmt::format("there is no level {} of series {}", picture.level.value_or(1), picture.series),
                         place, "leave level out for the last one");
    }
    if (level->solid) return draw_solid_chosen(study, *level, picture, result.singular_places, use);
    if (picture.envelope == CaseEnvelope::governing) return draw_governing(study, *level, picture);
    const LevelFields& f = *level->fields;
    const Envelope envelope(study, f, picture);
    FieldPicture p;
    p.title = fmt::format("{}: {}", study.title, title_of(study, picture.field));
    p.legend = title_of(study, picture.field);
    p.unit = unit_of(study, picture.field);
    p.length_unit = study.units.label(dimension::length);
    p.slots = envelope.values();
    p.sides = picture.sides;
    if (picture.box) {
        p.window = Box2{};
        p.window->add(picture.box->from);
        p.window->add(picture.box->to);
    }
    const auto most = envelope.extreme(true), least = envelope.extreme(false);
    for (const auto* found : {&most, &least}) {
        const bool largest = found == &most;
        (largest ? p.largest : p.smallest) = found->extreme.value;
        (largest ? p.largest_at : p.smallest_at) = found->extreme.position;
        std::string label = label_without_value(f, picture.field, found->load_case, largest, found->extreme.position,
                                                result.singular_places);
        if (label.empty() && picture.envelope == CaseEnvelope::largest && largest)
            label = fmt::format("max {} ({})", sensible(found->extreme.value), envelope.name_of_case(found->load_case));
        (largest ? p.largest_label : p.smallest_label) = label;
    }
    if (picture.envelope == CaseEnvelope::largest) p.smallest.reset();
    if (picture.envelope == CaseEnvelope::smallest) p.largest.reset();
    const ColourRange range = colour_range(f.mesh, p.slots);
    p.low = picture.range ? (*picture.range)[0] : range.low;
    p.high = picture.range ? (*picture.range)[1] : range.high;
    p.clipped = picture.range ? p.low > range.lowest || p.high < range.highest : range.clipped;
    keep_in_window(f.mesh, p.slots, p);
    if (!picture.deformed) {
        p.subtitle = subtitle_of(study, *level, picture, 1);
        return draw_field(f.mesh, p, use);
    }
    const Solution& s = f.cases[envelope.first_case()].solution;
    const double factor = factor_for(picture, f.mesh, s);
    p.subtitle = subtitle_of(study, *level, picture, factor);
    p.undeformed = outline_of(f.mesh);
    Mesh moved = f.mesh;
    for (std::size_t n = 0; n < moved.nodes.size(); ++n) moved.nodes[n] += s.displacement[n] * factor;
    const ElementLocator locator(f.mesh);
    for (Vec2* at : {&p.largest_at, &p.smallest_at}) {
        const Location where = locator.nearest(*at);
        *at = evaluate(moved.kinds[where.element], moved.positions(where.element), where.xi).position;
    }
    return draw_field(moved, p, use);
}

}  // namespace dotsift
