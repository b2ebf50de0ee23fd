// What the tests in space cost, where their filters decide and where they cannot: nanoseconds a call.
// usage: dotsift-predicate-speed

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <random>
#include <vector>

#include "base/predicates.hpp"

using namespace dotsift;

namespace {

using Clock = std::chrono::steady_clock;

template <class Test>
double nanoseconds(std::size_t count, Test test) {
    double least = INFINITY;
    for (int round = 0; round < 5; ++round) {
        const auto start = Clock::now();
        double sum = 0;
        for (std::size_t k = 0; k < count; ++k) sum += test(k) > 0 ? 1 : -1;
        const double taken = std::chrono::duration<double, std::nano>(Clock::now() - start).count();
        if (std::isfinite(sum)) least = std::min(least, taken / static_cast<double>(count));
    }
    return least;
}

void measure(const char* name, const std::vector<Vec3>& p) {
    const std::size_t n = p.size() - 4;
    fmt::print("{:<44} orientation {:7.1f}   in_sphere {:7.1f}\n", name,
               nanoseconds(n, [&](std::size_t k) { return orientation(p[k], p[k + 1], p[k + 2], p[k + 3]); }),
               nanoseconds(n, [&](std::size_t k) { return in_sphere(p[k], p[k + 1], p[k + 2], p[k + 3], p[k + 4]); }));
}

}  // namespace

int main() {
    constexpr std::size_t count = 20000;
    std::mt19937 random(7);
    std::uniform_real_distribution<double> place(-1, 1);
    std::uniform_int_distribution<int> corner(0, 1);
    std::vector<Vec3> anywhere, lattice, far, tenth, sphere;
    for (std::size_t k = 0; k < count; ++k) {
        const Vec3 p{{place(random), place(random), place(random)}};
        anywhere.push_back(p);
        sphere.push_back(p / norm(p));
        const auto end = [&] { return static_cast<double>(corner(random)); };
        const Vec3 c{{end(), end(), end()}};
        lattice.push_back(c);
        tenth.push_back(c * 0.1);
        far.push_back(c * 0.1 + Vec3{{123.4, -0.567, 8.9}});
    }
    measure("anywhere: the filter decides", anywhere);
    measure("corners of a unit cube: on one sphere", lattice);
    measure("corners of a cube of 0.1: on one sphere", tenth);
    measure("the same far from the origin: nearly on one", far);
    measure("rounded onto a sphere", sphere);
    return 0;
}
