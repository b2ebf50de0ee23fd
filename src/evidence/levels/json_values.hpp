#pragma once
// Values of the program as JSON.

#include <cmath>
#include <nlohmann/json.hpp>

#include "base/vec.hpp"

namespace dotsift {

inline nlohmann::ordered_json json_triple(const Vec3& v) {
    return nlohmann::ordered_json::array({v[0], v[1], v[2]});
}
inline nlohmann::ordered_json json_pair(const Vec2& v) {
    return nlohmann::ordered_json::array({v[0], v[1]});
}

/// null for what is no number.
inline nlohmann::ordered_json json_number(double v) {
    return std::isfinite(v) ? nlohmann::ordered_json(v) : nlohmann::ordered_json(nullptr);
}

}  // namespace dotsift
