#include "recovery/error_map.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

double ErrorMap::relative() const {
    return energy2 + error2 > 0 ? std::sqrt(error2 / (energy2 + error2)) : 0;
}

ErrorMap combined(const ErrorMap& a, const ErrorMap& b) {
    const double sa = a.energy2 + a.error2, sb = b.energy2 + b.error2;
    if (!(sb > 0)) return a;
    if (!(sa > 0)) return b;
    ErrorMap map;
    map.element_error2.resize(a.element_error2.size());
    for (std::size_t e = 0; e < map.element_error2.size(); ++e)
        map.element_error2[e] = a.element_error2[e] / sa + b.element_error2[e] / sb;
    map.error2 = a.error2 / sa + b.error2 / sb;
    map.energy2 = std::max(1 - map.error2, 0.0);  // so that the relative error is the root of the sum
    return map;
}

}  // namespace dotsift
