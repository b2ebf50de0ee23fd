#pragma once
// Every key that a study file may hold, in one table: the reader checks against it and the reference is printed from
// it.

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace dotsift {

struct Key {
    std::string_view section;  ///< "" for the top of the file; NAME stands for a name given by the user
    std::string_view key;
    std::string_view value;     ///< what may be written
    std::string_view standard;  ///< "required", "-" or the value used when the key is left out
    std::string_view meaning;
};

std::span<const Key> study_keys();
/// The keys of one section, in the table's order.
std::vector<std::string> keys_of(std::string_view section);
/// The table as Markdown, one heading a section. With a word only what has it in its section, key, value or meaning,
/// whatever the case of its letters; with `section` only the sections whose names begin with it.
std::string key_reference(const std::string& section = {}, const std::string& word = {});
/// The names of all sections but the top of the file, up to the first name that is the user's.
std::vector<std::string> key_sections();

}  // namespace dotsift
