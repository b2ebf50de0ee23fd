#include "sizes/curve_sources.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

namespace {

constexpr double straight_enough = 0.05;  // of the size, along a curve
constexpr double stray_of_size = 0.1;     // a chord from its curve
constexpr int most_curve_pieces = 4096;

}  // namespace

template <int D>
void add_curve_sources(const CurveIn<D>& curve, const std::function<double(double)>& size_at, bool varies, double reach,
                       int rule, std::vector<SizeSourceIn<D>>& sources) {
    int pieces = curve.straight() ? 1 : 1 + static_cast<int>(curve.turning() * 32 / std::numbers::pi);
    if (!varies && curve.circular()) {
        pieces = 1 + static_cast<int>(curve.turning() * 4 / std::numbers::pi);
        for (int k = 0; k < pieces; ++k) {
            SizeSourceIn<D> s;
            s.form = SizeSourceIn<D>::Form::arc;
            s.corners = {curve.point(static_cast<double>(k) / pieces), curve.point((k + 1.0) / pieces), curve.centre()};
            if constexpr (D == 2)
                if (cross(s.corners[0] - curve.centre(), s.corners[1] - curve.centre()) < 0)
                    std::swap(s.corners[0], s.corners[1]);
            s.size = size_at((k + 0.5) / pieces);
            s.reach = reach;
            s.rule = rule;
            sources.push_back(s);
        }
        return;
    }
    if (!curve.straight()) {
        // Chords that stray further from the curve would give the wrong size beside it: the sagitta of a chord of
        // length l that turns by a is l a / 8.
        const double most_stray = stray_of_size * size_at(0.5);
        pieces =
            std::max(pieces, static_cast<int>(std::min<double>(
                                 most_curve_pieces, std::sqrt(curve.length() * curve.turning() / (8 * most_stray)))));
    }
    if (varies) {
        // Twice as many as long as the size is not linear on each of them.
        pieces = std::max(pieces, 16);
        for (bool again = true; again && pieces < most_curve_pieces; pieces *= 2) {
            again = false;
            for (int k = 0; k < pieces && !again; ++k) {
                const double a = size_at(static_cast<double>(k) / pieces), b = size_at((k + 1.0) / pieces),
                             m = size_at((k + 0.5) / pieces);
                again = std::fabs(m - (a + b) / 2) > straight_enough * m;
            }
            if (!again) break;
        }
    }
    for (int k = 0; k < pieces; ++k) {
        const double ta = static_cast<double>(k) / pieces, tb = static_cast<double>(k + 1) / pieces;
        SizeSourceIn<D> s;
        s.corners = {curve.point(ta), curve.point(tb), {}};
        s.form = SizeSourceIn<D>::Form::segment;
        if (varies) {
            const Vec<D> along = s.corners[1] - s.corners[0];
            s.size = size_at(ta);
            const double l2 = dot(along, along);
            if (l2 > 0) s.gradient = along * ((size_at(tb) - s.size) / l2);
        } else {
            s.size = size_at(0.5 * (ta + tb));
        }
        s.reach = reach;
        s.rule = rule;
        sources.push_back(s);
    }
}
template void add_curve_sources<2>(const CurveIn<2>&, const std::function<double(double)>&, bool, double, int,
                                   std::vector<SizeSourceIn<2>>&);
template void add_curve_sources<3>(const CurveIn<3>&, const std::function<double(double)>&, bool, double, int,
                                   std::vector<SizeSourceIn<3>>&);

}  // namespace dotsift
