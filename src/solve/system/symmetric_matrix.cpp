#include <algorithm>

#include "solve/system/linear_solver.hpp"

namespace dotsift {

void SymmetricMatrix::multiply(std::span<const double> x, std::span<double> y) const {
    std::fill(y.begin(), y.end(), 0.0);
    for (std::int32_t j = 0; j < size; ++j) {
        const auto c = static_cast<std::size_t>(j);
        const auto begin = static_cast<std::size_t>(column_first[c]),
                   end = static_cast<std::size_t>(column_first[c + 1]);
        if (begin == end) continue;
        const double xj = x[c];
        double sum = value[begin] * xj;
        for (std::size_t k = begin + 1; k < end; ++k) {
            const auto r = static_cast<std::size_t>(row[k]);
            sum += value[k] * x[r];
            y[r] += value[k] * xj;
        }
        y[c] += sum;
    }
}

}  // namespace dotsift
