#pragma once
// Gauss-Legendre quadrature with eight points, exact to degree 15.

namespace dotsift {

inline constexpr double gauss8_place[4] = {0.1834346424956498, 0.5255324099163290, 0.7966664774136267,
                                           0.9602898564975363};
inline constexpr double gauss8_weight[4] = {0.3626837833783620, 0.3137066458778873, 0.2223810344533745,
                                            0.1012285362903763};

/// act(t, weight) for the points between two parameters, in pairs from the middle outwards.
template <class Act>
void gauss8(double from, double to, Act act) {
    const double middle = 0.5 * (from + to), half = 0.5 * (to - from);
    for (int k = 0; k < 4; ++k)
        for (const double side : {-1.0, 1.0}) act(middle + side * half * gauss8_place[k], half * gauss8_weight[k]);
}

}  // namespace dotsift
