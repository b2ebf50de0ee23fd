#pragma once
// Names that a study uses, held against those of its part: plane or solid.

#include <functional>

#include "part/part_names.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes patterns that fit no boundary. `user` is the section that has them, as in "load.pull"; `on_a_side` tells
/// whether a side of the part carries a name that fits.
void check_boundary_names(const Study& study, const std::vector<std::string>& patterns, const std::string& user,
                          Where section, const PartNames& part,
                          const std::function<bool(const std::string&)>& on_a_side, Problems& problems);
/// And those that fit no region.
void check_region_names(const Study& study, const std::vector<std::string>& patterns, const std::string& user,
                        Where section, const PartNames& part, Problems& problems);

/// Which boundary names a study gave. Those of sides between regions come by themselves; they need no user.
template <class Side>
std::vector<char> names_given(const PartNames& part, const std::vector<Side>& sides) {
    std::vector<char> given(part.boundary_names.size(), 0);
    for (const auto& s : sides)
        for (const int n : s.names)
            if (!(s.interior() && s.names.size() == 1)) given[static_cast<std::size_t>(n)] = 1;
    return given;
}
/// Those of them that nothing in the study refers to.
std::vector<std::string> unused_boundary_names(const Study& study, const PartNames& part,
                                               const std::vector<char>& given);
void warn_of_unused(const Study& study, const std::vector<std::string>& unused, Problems& problems);

}  // namespace dotsift
