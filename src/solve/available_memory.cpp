#include <cmath>
#include <fstream>
#include <string>

#include "solve/linear_solver.hpp"

namespace dotsift {

double available_memory() {
    std::ifstream in("/proc/meminfo");
    std::string key, unit;
    double value = 0;
    while (in >> key >> value >> unit)
        if (key == "MemAvailable:") return value * 1024;
    return INFINITY;
}

}  // namespace dotsift
