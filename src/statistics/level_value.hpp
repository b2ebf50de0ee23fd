#pragma once

namespace dotsift {

/// One level: a representative element size and the value found with it.
struct LevelValue {
    double h = 0;
    double value = 0;
};

}  // namespace dotsift
