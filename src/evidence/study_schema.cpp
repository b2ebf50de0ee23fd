#include "evidence/study_schema.hpp"

#include <string>
#include <string_view>
#include <vector>

#include "study/keys.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

/// "a", "b" -> a, b; nothing if anything else is among them.
std::vector<std::string> words_of(std::string_view value) {
    std::vector<std::string> words;
    while (!value.empty()) {
        const std::size_t end = value.front() == '"' ? value.find('"', 1) : std::string_view::npos;
        if (end == std::string_view::npos) return {};
        words.emplace_back(value.substr(1, end - 1));
        value.remove_prefix(end + 1);
        if (value.empty()) break;
        if (!value.starts_with(", ")) return {};
        value.remove_prefix(2);
    }
    return words;
}

ordered_json rule_of(const Key& key) {
    ordered_json rule{{"description", std::string(key.meaning) + " Value: " + std::string(key.value) +
                                          ". Standard: " + std::string(key.standard) + "."}};
    if (key.value == "true, false") rule["type"] = "boolean";
    if (key.value == "text") rule["type"] = "string";
    if (const auto words = words_of(key.value); words.size() > 1) rule["enum"] = words;
    return rule;
}

ordered_json& open_table(ordered_json& at) {
    if (!at.contains("properties")) {
        at["type"] = "object";
        at["properties"] = ordered_json::object();
        at["additionalProperties"] = false;
    }
    return at;
}

/// The table of a section such as "size.local.NAME", made on the way.
ordered_json& table_of(ordered_json& top, std::string_view section) {
    ordered_json* at = &top;
    while (!section.empty()) {
        const std::string_view name = section.substr(0, section.find('.'));
        section.remove_prefix(std::min(section.size(), name.size() + 1));
        if (name == "NAME") {
            ordered_json& others = (*at)["additionalProperties"];
            if (!others.is_object()) others = ordered_json::object();
            at = &open_table(others);
        } else {
            ordered_json& child = (*at)["properties"][std::string(name)];
            const bool list = name == "shape" || name == "pieces";
            if (list) {
                child["type"] = "array";
                at = &open_table(child["items"]);
            } else {
                at = &open_table(child);
            }
        }
    }
    return *at;
}

}  // namespace

ordered_json study_schema() {
    ordered_json top{{"$schema", "http://json-schema.org/draft-07/schema#"}, {"title", "study file of Dot Sift"}};
    open_table(top);
    for (const Key& key : study_keys()) {
        ordered_json& table = table_of(top, key.section);
        if (key.key == "NAME") {
            table["additionalProperties"] = ordered_json{{"description", key.meaning}};
            continue;
        }
        ordered_json& rule = table["properties"][std::string(key.key)];
        const ordered_json of_key = rule_of(key);
        for (const auto& [name, value] : of_key.items())
            if (!rule.contains(name)) rule[name] = value;
        if (key.standard == "required") table["required"].push_back(key.key);
    }
    return top;
}

}  // namespace dotsift
