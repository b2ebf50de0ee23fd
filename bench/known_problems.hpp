#pragma once
// Problems whose stress or flux is known, for benchmarks of estimates and strategies.

#include <string>
#include <vector>

#include "verification/manufactured.hpp"

namespace dotsift::bench {

struct Problem {
    std::string name, text, size;
    bool conduction = false;
    Manufactured known;
};

std::vector<Problem> problems();

}  // namespace dotsift::bench
