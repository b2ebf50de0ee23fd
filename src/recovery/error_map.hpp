#pragma once
// What an estimate says of each element.

#include <vector>

namespace dotsift {

struct ErrorMap {
    std::vector<double> element_error2;  ///< squared energy norm of the estimated error, each element
    double error2 = 0;                   ///< their sum
    double energy2 = 0;                  ///< squared energy norm of the solution, of its stress or flux
    /// sqrt(error2 / (energy2 + error2)); the estimate for the exact solution's norm stands below the line
    [[nodiscard]] double relative() const;
};

/// One map for fields that cannot be added: the squares of both relative errors add up.
ErrorMap combined(const ErrorMap& a, const ErrorMap& b);

}  // namespace dotsift
