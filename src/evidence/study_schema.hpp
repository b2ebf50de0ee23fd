#pragma once
// The study file as a JSON Schema, for editors that check and complete what is written.

#include <nlohmann/json.hpp>

namespace dotsift {

/// Draft 7, made from the table of keys: which keys there are, which are required, what they mean, and, where a value
/// is one of a few words, which. Values are left free otherwise, since most of them may be numbers, texts with units or
/// formulas; `dotsift check` knows more.
nlohmann::ordered_json study_schema();

}  // namespace dotsift
