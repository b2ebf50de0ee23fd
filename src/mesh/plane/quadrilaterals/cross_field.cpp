#include "mesh/plane/quadrilaterals/cross_field.hpp"

#include <cmath>
#include <deque>

namespace dotsift {

namespace {

// More sweeps change no element noticeably: the directions near the boundary are right from the start.
constexpr int sweeps = 60;

std::complex<double> cross_of(const Vec2& along) {
    const double angle = std::atan2(along[1], along[0]);
    return std::polar(1.0, 4 * angle);
}

}  // namespace

CrossField::CrossField(Outline background) : background_(std::move(background)) {
    const auto& mesh = background_.mesh;
    const std::size_t count = mesh.points().size();
    value_.assign(count, 0);
    std::vector<char> fixed(count, 0);
    std::vector<std::vector<int>> neighbours(count);
    for (const auto& t : mesh.triangles()) {
        if (!t.inside()) continue;
        for (std::size_t i = 0; i < 3; ++i) {
            const int a = t.v[(i + 1) % 3], b = t.v[(i + 2) % 3];
            neighbours[static_cast<std::size_t>(a)].push_back(b);
            neighbours[static_cast<std::size_t>(b)].push_back(a);
            if (t.segment[i] < 0) continue;
            const Vec2 along = mesh.point(b) - mesh.point(a);
            for (const int v : {a, b}) {
                value_[static_cast<std::size_t>(v)] += cross_of(along) * norm(along);
                fixed[static_cast<std::size_t>(v)] = 1;
            }
        }
    }
    // From the boundary inwards each vertex begins with what its neighbours have, and is then averaged.
    std::deque<int> open;
    std::vector<int> order;
    std::vector<char> reached = fixed;
    for (std::size_t v = 0; v < count; ++v) {
        if (!fixed[v]) continue;
        if (std::abs(value_[v]) > 0) value_[v] /= std::abs(value_[v]);
        open.push_back(static_cast<int>(v));
    }
    while (!open.empty()) {
        const auto v = static_cast<std::size_t>(open.front());
        open.pop_front();
        for (const int n : neighbours[v]) {
            const auto m = static_cast<std::size_t>(n);
            if (reached[m]) continue;
            reached[m] = 1;
            value_[m] = value_[v];
            order.push_back(n);
            open.push_back(n);
        }
    }
    for (int s = 0; s < sweeps; ++s)
        for (const int k : order) {
            const auto v = static_cast<std::size_t>(k);
            std::complex<double> sum = 0;
            for (const int n : neighbours[v]) sum += value_[static_cast<std::size_t>(n)];
            const double length = std::abs(sum);
            if (length > 0) value_[v] = sum / length;
        }
}

double CrossField::angle_at(const Vec2& p, int& hint) const {
    const auto& mesh = background_.mesh;
    hint = mesh.locate(p, hint);
    const auto& t = mesh.triangle(hint);
    std::complex<double> sum = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        const double weight = cross(mesh.point(t.v[(i + 1) % 3]) - p, mesh.point(t.v[(i + 2) % 3]) - p);
        sum += std::max(weight, 0.0) * value_[static_cast<std::size_t>(t.v[i])];
    }
    return std::arg(sum) / 4;
}

}  // namespace dotsift
