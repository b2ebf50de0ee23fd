#pragma once
// Curves measured in elements: how many pieces of the wanted sizes fit, and where they end.

#include <vector>

#include "part/curve.hpp"
#include "sizes/sizing.hpp"

namespace dotsift {

/// The running integral of ds/h along a curve, as a table.
struct LengthMeasure {
    std::vector<double> t, sum;
};

template <int D>
LengthMeasure measure_length(const CurveIn<D>& curve, const SizeFieldIn<D>& sizes);

/// Where the running integral reaches a value, and the integral up to a parameter.
double parameter_at(const LengthMeasure& measure, double sum);
double sum_at(const LengthMeasure& measure, double t);

/// How many pieces come nearest to the whole integral, with enough of them that none turns by more than an eighth of a
/// circle and a closed curve stays closed; `even`: a multiple of two.
template <int D>
int pieces_for(const CurveIn<D>& curve, bool closed, double total, bool even = false);

/// Parameters from t_from to t_to, both included, between which the curve is as long as the sizes ask.
template <int D>
std::vector<double> divide_piece(const CurveIn<D>& curve, const SizeFieldIn<D>& sizes, double t_from, double t_to);

/// Parameters at given distances along a curve.
template <int D>
std::vector<double> parameters_at_lengths(const CurveIn<D>& curve, const std::vector<double>& lengths);

/// Where an edge is cut whose division is given, from 0 to 1.
template <int D>
std::vector<double> given_cuts(const CurveIn<D>& curve, const EdgeDivision& given);

}  // namespace dotsift
