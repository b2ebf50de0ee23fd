#include "study/file/read_results.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "study/file/read_quantity.hpp"

namespace dotsift {

namespace {

const std::vector<std::string> envelope_names{"largest", "smallest", "governing"};

/// One of the study's names, if it is given; a fault tells the ones there are.
std::string known_name(const Section& s, const char* key, const std::vector<std::string>& known) {
    std::string name = s.text(key).value_or("");
    if (name.empty() || std::find(known.begin(), known.end(), name) != known.end()) return name;
    const std::string near = nearest(name, known);
    s.fault(key, fmt::format("is \"{}\", but the study has no {} of that name", name, key),
            known.empty()   ? fmt::format("remove it: the study has one {} only", key)
            : !near.empty() ? fmt::format("did you mean \"{}\"?", near)
                            : "there are " + quoted_list(known));
    return {};
}

/// "visibly", or a factor.
std::optional<double> read_deformed(const Section& s) {
    const auto* node = s.node("deformed");
    if (!node) return {};
    if (!node->is_string()) return s.positive("deformed", dimension::none);
    if (s.text("deformed") == "visibly") return 0.0;
    s.fault("deformed", "is neither a factor nor \"visibly\"", "as in: deformed = 100");
    return {};
}

void read_cases(const Section& s, const Study& study, PictureSpec& p) {
    std::vector<std::string> cases;
    for (const auto& c : study.cases) cases.push_back(c.name);
    const auto* node = s.node("case");
    const bool all = node && node->value<std::string>() == "*";
    if (!all) p.load_case = known_name(s, "case", cases);
    const auto envelope = s.choice("of_cases", envelope_names);
    if (envelope && !all) s.fault("of_cases", "goes with case = \"*\"", "remove it, or take all cases together");
    if (!all) return;
    p.envelope = envelope ? static_cast<CaseEnvelope>(1 + *envelope) : CaseEnvelope::largest;
    if (study.cases.size() < 2) s.fault("case", "is \"*\", but the study has no two cases", "add [case.NAME] tables");
}

void read_picture(const Section& s, const std::string& name, Study& study) {
    PictureSpec p;
    p.name = name;
    p.where = s.where();
    if (!s.has("of")) s.missing("of", "the field, as in: of = \"von_mises\"");
    if (const auto field = s.choice("of", field_names())) {
        p.field = static_cast<Field>(*field);
        if (is_total(p.field))
            s.fault("of", fmt::format("is {}, a number of the whole and no field", name_of(p.field)),
                    "use a stress, strain, displacement, potential or flux");
        else if (is_of_potential(p.field) ? !study.conducts() : !study.elastic())
            s.fault("of", fmt::format("is {}, which is not solved for", name_of(p.field)));
    }
    const auto* about = s.node("about");
    if (about && about->is_string())
        p.about_name = s.text("about").value_or("");
    else
        p.about = s.point("about").value_or(Vec2{});
    read_cases(s, study, p);
    std::vector<std::string> series;
    for (const auto& one : study.series) series.push_back(one.name);
    p.series = known_name(s, "series", series);
    p.level = s.whole("level", 1);
    if (const auto range = s.numbers("range", 2, 2, dimension_of(p.field))) {
        p.range = {{(*range)[0], (*range)[1]}};
        if (!((*range)[0] < (*range)[1])) s.fault("range", "does not rise", "give the lowest value, then the highest");
        if (p.envelope == CaseEnvelope::governing)
            s.fault("range", "has no meaning for the governing case", "remove it");
    }
    if (const auto box = s.two_points("box")) {
        p.box = LineSpec{(*box)[0], (*box)[1]};
        if ((*box)[0][0] == (*box)[1][0] || (*box)[0][1] == (*box)[1][1])
            s.fault("box", "has no area", "give two opposite corners: [[0, 0], [10, 5]]");
    }
    if (const auto* table = s.table("section")) {
        const Section cut(s.context(), *table, "picture.NAME.section", s.shown() + ".section");
        if (!study.solid()) s.fault("section", "cuts a solid, but the part is plane", "remove it");
        for (const char* key : {"at", "normal"})
            if (!cut.has(key)) cut.missing(key, "a section has a point and a direction");
        PlaneSpec plane;
        plane.at = cut.point_in<3>("at").value_or(Vec3{});
        plane.normal = cut.point_in<3>("normal").value_or(plane.normal);
        if (!(norm(plane.normal) > 0)) cut.fault("normal", "is no direction", "as in: normal = [0, 0, 1]");
        p.section = plane;
    }
    p.deformed = read_deformed(s);
    if (p.deformed && !study.elastic())
        s.fault("deformed", "needs displacements, which are not solved for", "remove it");
    if (p.deformed && p.envelope != CaseEnvelope::none)
        s.fault("deformed", "has no meaning for several cases together", "name one case");
    p.sides = s.flag("element_sides").value_or(true);
    study.pictures.push_back(std::move(p));
}

}  // namespace

void read_results(const Section& top, Study& study) {
    each_named(top, "picture", [&](const Section& s, const std::string& name) { read_picture(s, name, study); });
    const auto* table = top.table("results");
    if (!table) return;
    const Section s(top.context(), *table, "results", "results");
    study.integration_points = s.flag("integration_points").value_or(false);
    study.error_bound = s.flag("error_bound").value_or(false);
    if (const auto choice = s.choice("pictures", pictured_names()))
        study.pictured = static_cast<PicturedLevels>(*choice);
}

}  // namespace dotsift
