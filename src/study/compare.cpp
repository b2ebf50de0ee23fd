#include "study/compare.hpp"

#include <algorithm>
#include <array>
#include <string_view>

#include "study/file/section.hpp"

namespace dotsift {

namespace {

// Of a series: they decide where it ends, not what its levels are.
constexpr std::array stop_keys{"most_levels",      "most_elements",   "most_unknowns",  "most_seconds",
                               "most_memory",      "error_target",    "change_target",  "gci_target",
                               "until_quantities", "budget_elements", "budget_unknowns"};
// Sections that say how a problem is solved and what is reported of it, not what it is.
constexpr std::array method_sections{"title", "format", "size",    "mesh",    "series", "quantity",
                                     "path",  "solver", "results", "quality", "vary",   "picture"};
constexpr std::array judging_keys{"target", "reference", "limit"};  // of a quantity

/// Calls act(name, a, b) for every key of either table; null where it is missing.
template <class Act>
void each_key(const toml::table& a, const toml::table& b, Act act) {
    for (const auto& [key, value] : a) act(std::string(key.str()), &value, b.get(key));
    for (const auto& [key, value] : b)
        if (!a.get(key)) act(std::string(key.str()), nullptr, &value);
}

bool same(const toml::node* a, const toml::node* b) {
    if (!a || !b) return a == b;
    if (a->is_table() && b->is_table()) return *a->as_table() == *b->as_table();
    if (a->is_array() && b->is_array()) return *a->as_array() == *b->as_array();
    if (a->type() != b->type()) return false;
    return a->visit([&](const auto& x) {
        if constexpr (toml::is_value<decltype(x)>)
            return x == *b->as<toml::inserted_type_of<decltype(x.get())>>();
        else
            return false;
    });
}

/// Says nothing, or which pictures are made.
bool only_of_pictures(const toml::table* results) {
    return !results || results->empty() || (results->size() == 1 && results->contains("pictures"));
}

template <std::size_t N>
bool among(const std::array<const char*, N>& keys, const std::string& key) {
    return std::find(keys.begin(), keys.end(), key) != keys.end();
}

}  // namespace

std::vector<std::string> differences_of_levels(const std::string& stored, const std::string& now) {
    const toml::table a = toml::parse(stored), b = toml::parse(now);
    std::vector<std::string> found;
    each_key(a, b, [&](const std::string& section, const toml::node* old_section, const toml::node* new_section) {
        if (section == "title" || section == "picture") return;
        const toml::table* x = old_section ? old_section->as_table() : nullptr;
        const toml::table* y = new_section ? new_section->as_table() : nullptr;
        const bool series = section == "series";
        if (section == "results" && only_of_pictures(x) && only_of_pictures(y)) return;
        if (!x || !y) {
            if (!series && !same(old_section, new_section)) found.push_back(section);
            return;
        }
        each_key(*x, *y, [&](const std::string& name, const toml::node* old_one, const toml::node* new_one) {
            if (series && (!old_one || !new_one)) return;
            if (section == "results" && name == "pictures") return;
            const std::string label = section + "." + name;
            const toml::table* p = old_one ? old_one->as_table() : nullptr;
            const toml::table* q = new_one ? new_one->as_table() : nullptr;
            if ((!series && section != "quantity") || !p || !q) {
                if (!same(old_one, new_one)) found.push_back(label);
                return;
            }
            each_key(*p, *q, [&](const std::string& key, const toml::node* before, const toml::node* after) {
                if (series ? among(stop_keys, key) : among(judging_keys, key)) return;
                if (!same(before, after)) found.push_back(label + ": " + key);
            });
        });
    });
    return found;
}

std::vector<std::string> differences_of_problems(const std::string& first, const std::string& second) {
    const toml::table a = toml::parse(first), b = toml::parse(second);
    std::vector<std::string> found;
    each_key(a, b, [&](const std::string& section, const toml::node* x, const toml::node* y) {
        if (among(method_sections, section) || same(x, y)) return;
        const toml::table* p = x ? x->as_table() : nullptr;
        const toml::table* q = y ? y->as_table() : nullptr;
        if (!p || !q) {
            found.push_back(section);
            return;
        }
        each_key(*p, *q, [&](const std::string& name, const toml::node* before, const toml::node* after) {
            if (!same(before, after)) found.push_back(section + "." + name);
        });
    });
    return found;
}

}  // namespace dotsift
