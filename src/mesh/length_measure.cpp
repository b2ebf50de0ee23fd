#include "mesh/length_measure.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

template <int D>
LengthMeasure measure_length(const CurveIn<D>& curve, const SizeFieldIn<D>& sizes) {
    // Simpson's rule on intervals that are halved until the size changes little within each: a size source can be much
    // shorter than the edge.
    struct Interval {
        double a, b, fa, fm, fb;
    };
    const auto density = [&](double t) { return norm(curve.derivative(t)) / sizes.at(curve.point(t)); };
    LengthMeasure m;
    m.t.push_back(0);
    m.sum.push_back(0);
    constexpr int pieces = 8;
    constexpr int deepest = 24;
    for (int k = 0; k < pieces; ++k) {
        std::vector<std::pair<Interval, int>> open;
        const double a = static_cast<double>(k) / pieces, b = static_cast<double>(k + 1) / pieces;
        open.push_back({{a, b, density(a), density((a + b) / 2), density(b)}, 0});
        while (!open.empty()) {
            const auto [i, depth] = open.back();
            open.pop_back();
            const double m1 = (3 * i.a + i.b) / 4, m2 = (i.a + 3 * i.b) / 4, mid = (i.a + i.b) / 2;
            const double f1 = density(m1), f2 = density(m2), l = i.b - i.a;
            const double coarse = l / 6 * (i.fa + 4 * i.fm + i.fb);
            const double fine = l / 12 * (i.fa + 4 * f1 + 2 * i.fm + 4 * f2 + i.fb);
            // A hundredth of an element is enough; a linear interpolation inside an interval must be good, too.
            if ((std::fabs(fine - coarse) > 0.01 || fine > 0.5) && depth < deepest) {
                open.push_back({{mid, i.b, i.fm, f2, i.fb}, depth + 1});
                open.push_back({{i.a, mid, i.fa, f1, i.fm}, depth + 1});
            } else {
                m.t.push_back(i.b);
                m.sum.push_back(m.sum.back() + fine);
            }
        }
    }
    return m;
}

template <int D>
int pieces_for(const CurveIn<D>& curve, bool closed, double total, bool even) {
    int count = std::max(1, static_cast<int>(std::lround(total)));
    count = std::max(count, static_cast<int>(std::ceil(curve.turning() / (std::numbers::pi / 4) - 1e-9)));
    if (closed) count = std::max(count, 3);
    if (even) count = std::max(2, 2 * static_cast<int>(std::lround(total / 2)));
    if (even && closed) count = std::max(count, 6);  // three pairs
    return count;
}

double parameter_at(const LengthMeasure& m, double wanted) {
    const auto above = std::lower_bound(m.sum.begin(), m.sum.end(), wanted) - m.sum.begin();
    const auto at = std::clamp<std::size_t>(static_cast<std::size_t>(above), 1, m.sum.size() - 1);
    const double share = (wanted - m.sum[at - 1]) / (m.sum[at] - m.sum[at - 1]);
    return m.t[at - 1] + (m.t[at] - m.t[at - 1]) * std::clamp(share, 0.0, 1.0);
}

double sum_at(const LengthMeasure& m, double t) {
    const auto above = std::lower_bound(m.t.begin(), m.t.end(), t) - m.t.begin();
    const auto at = std::clamp<std::size_t>(static_cast<std::size_t>(above), 1, m.t.size() - 1);
    return m.sum[at - 1] + (m.sum[at] - m.sum[at - 1]) * (t - m.t[at - 1]) / (m.t[at] - m.t[at - 1]);
}

template <int D>
std::vector<double> divide_piece(const CurveIn<D>& curve, const SizeFieldIn<D>& sizes, double t_from, double t_to) {
    const CurveIn<D> piece = curve.piece(t_from, t_to);
    const LengthMeasure m = measure_length(piece, sizes);
    const int count = pieces_for(piece, piece.closed(), m.sum.back());
    std::vector<double> cuts{t_from};
    for (int k = 1; k < count; ++k)
        cuts.push_back(t_from + (t_to - t_from) * parameter_at(m, m.sum.back() * k / count));
    cuts.push_back(t_to);
    return cuts;
}

template <int D>
std::vector<double> parameters_at_lengths(const CurveIn<D>& curve, const std::vector<double>& lengths) {
    std::vector<double> out;
    out.reserve(lengths.size());
    if (curve.straight()) {
        for (const double l : lengths) out.push_back(l / curve.length());
        return out;
    }
    // A size that is the same everywhere measures the length; fine enough for the interpolation in between.
    const double whole = curve.length(), fine = whole / (64 * static_cast<double>(lengths.size() + 1));
    const LengthMeasure m = measure_length(curve, SizeFieldIn<D>(fine, 1, fine, {}));
    for (const double l : lengths) out.push_back(parameter_at(m, m.sum.back() * l / whole));
    return out;
}

template <int D>
std::vector<double> given_cuts(const CurveIn<D>& curve, const EdgeDivision& given) {
    auto lengths = given.shares();
    for (auto& l : lengths) l *= curve.length();
    auto cuts = parameters_at_lengths(curve, lengths);
    cuts.front() = 0;
    cuts.back() = 1;
    return cuts;
}

template LengthMeasure measure_length<2>(const CurveIn<2>&, const SizeFieldIn<2>&);
template LengthMeasure measure_length<3>(const CurveIn<3>&, const SizeFieldIn<3>&);
template int pieces_for<2>(const CurveIn<2>&, bool, double, bool);
template int pieces_for<3>(const CurveIn<3>&, bool, double, bool);
template std::vector<double> divide_piece<2>(const CurveIn<2>&, const SizeFieldIn<2>&, double, double);
template std::vector<double> divide_piece<3>(const CurveIn<3>&, const SizeFieldIn<3>&, double, double);
template std::vector<double> parameters_at_lengths<2>(const CurveIn<2>&, const std::vector<double>&);
template std::vector<double> parameters_at_lengths<3>(const CurveIn<3>&, const std::vector<double>&);
template std::vector<double> given_cuts<2>(const CurveIn<2>&, const EdgeDivision&);
template std::vector<double> given_cuts<3>(const CurveIn<3>&, const EdgeDivision&);

}  // namespace dotsift
