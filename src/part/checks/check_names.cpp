#include "part/checks/check_names.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace dotsift {

namespace {

/// What would help where no boundary has a name; `known` are those that there are.
std::string remedy_of_name(const std::string& name, const std::vector<std::string>& known) {
    static const std::vector<std::string> sides{"left", "right", "front", "back", "bottom",
                                                "top",  "side",  "start", "end"};
    const std::string near = nearest(name, known);
    if (!near.empty()) return fmt::format("did you mean \"{}\"? named boundaries are {}", near, quoted_list(known));
    if (std::find(sides.begin(), sides.end(), name) != sides.end())
        return fmt::format("sides have names only where they are given: names = {{ {0} = \"{0}\" }} in the shape{1}",
                           name, known.empty() ? "" : fmt::format("; named boundaries are {}", quoted_list(known)));
    return known.empty() ? "give the shapes of the part a name, as in: name = \"bore\""
                         : fmt::format("named boundaries are {}", quoted_list(known));
}

}  // namespace

void check_boundary_names(const Study& study, const std::vector<std::string>& patterns, const std::string& user,
                          Where section, const PartNames& part,
                          const std::function<bool(const std::string&)>& on_a_side, Problems& problems) {
    for (const auto& pattern : patterns) {
        if (on_a_side(pattern)) continue;
        const Where where = study.place_of(user, pattern, section);
        const auto& known = part.boundary_names;
        if (std::find(known.begin(), known.end(), pattern) != known.end()) {
            problems.add(where,
                         fmt::format("{}: nothing is left of the boundary \"{}\": it was cut away or lies inside", user,
                                     pattern),
                         "use another boundary");
            continue;
        }
        problems.add(where, fmt::format("{}: no boundary is named \"{}\"", user, pattern),
                     remedy_of_name(pattern, known));
    }
}

void check_region_names(const Study& study, const std::vector<std::string>& patterns, const std::string& user,
                        Where section, const PartNames& part, Problems& problems) {
    for (const auto& pattern : patterns)
        if (part.regions_named({pattern}).empty())
            problems.add(study.place_of(user, pattern, section),
                         fmt::format("{}: no region is named \"{}\"", user, pattern),
                         fmt::format("regions are {}", quoted_list(part.regions)));
}

std::vector<std::string> unused_boundary_names(const Study& study, const PartNames& part,
                                               const std::vector<char>& given) {
    std::vector<std::string> used;
    const auto use = [&](const std::vector<std::string>& on) { used.insert(used.end(), on.begin(), on.end()); };
    for (const auto& x : study.supports) use(x.on);
    for (const auto& x : study.loads) use(x.on);
    for (const auto& x : study.remotes) use(x.on);
    for (const auto& x : study.periodic) use({x.between[0], x.between[1]});
    for (const auto& x : study.resistances) use(x.on);
    for (const auto& x : study.sizes.local) {
        use(x.on);
        if (!x.finer_name.empty()) use({x.finer_name});
    }
    for (const auto& x : study.sizes.layers) use(x.on);
    for (const auto& x : study.quantities) use(x.on);
    for (const auto& x : study.paths) use(x.follow);
    use(study.cleanup.one_edge);
    use(study.names_for_others);
    for (const auto& x : study.selections) {
        use(x.named);
        use(x.beside);
    }
    for (const auto& s : study.shapes)
        if (s.verb == Verb::change && s.corner_choice.kind == CornerSpec::Kind::between)
            used.insert(used.end(), s.corner_choice.between.begin(), s.corner_choice.between.end());
    for (const auto& s : study.space_shapes) {
        if (s.verb == Verb::change && s.edge_choice.kind == CornerSpecIn<3>::Kind::between)
            used.insert(used.end(), s.edge_choice.between.begin(), s.edge_choice.between.end());
        use(s.open);
    }
    // What regions have between them is named by itself.
    for (const auto& a : part.regions)
        for (const auto& b : part.regions) used.push_back(fmt::format("{}_and_{}", a, b));
    std::vector<std::string> unused;
    for (std::size_t n = 0; n < given.size(); ++n) {
        const auto& name = part.boundary_names[n];
        const bool fits = fits_any(name, used);
        if (!fits && given[n]) unused.push_back(name);
    }
    return unused;
}

void warn_of_unused(const Study& study, const std::vector<std::string>& unused, Problems& problems) {
    if (unused.size() == 1)
        problems.warn(study.part_where, fmt::format("the boundary name \"{}\" is used by nothing", unused[0]));
    else if (!unused.empty())
        problems.warn(study.part_where, fmt::format("boundary names that nothing uses: {}", quoted_list(unused)));
}

}  // namespace dotsift
