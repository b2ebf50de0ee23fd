#pragma once
// Error of each element -> by how much its size changes.

#include <cstdint>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

struct EvenShares {
    std::vector<double> factor;  ///< on each element's size
    double element_error2 = 0;   ///< the squared error that every new element is to have
};

/// For each element the factor on its size that reaches the wanted error with the fewest elements: minimises the sum of
/// factor^-d with the errors' squares falling as factor^(2p) (Ladeveze, Coffignal & Pelle 1986, in "Accuracy Estimates
/// and Adaptive Refinements in Finite Element Computations"). `wanted_error2` is the wanted squared energy norm.
/// Elements without error get infinity.
EvenShares factors_for_error(const std::vector<double>& element_error2, double wanted_error2, int degree,
                             int dimension);

/// The same, of that error which `elements` elements reach.
EvenShares factors_for_count(const std::vector<double>& element_error2, double elements, int degree, int dimension);

/// The factor on the size at a singular point, from an element that touches it: the one that remains there has a
/// squared error that falls as factor^(2 exponent) only (`exponent`: see SingularPoint), and is to have the wanted one.
double factor_at_point(double element_error2, double wanted_error2, double exponent);

/// The given share of the elements, those with the largest errors, is divided by `finer`; the others stay. Equal errors
/// are taken in the order of the elements.
std::vector<double> factors_for_share(const std::vector<double>& element_error2, double share, double finer);

/// The fewest elements that hold the share of the sum of the squares are divided by `finer` (bulk criterion: Doerfler
/// 1996, SIAM J. Numer. Anal. 33).
std::vector<double> factors_for_bulk(const std::vector<double>& element_error2, double share, double finer);

}  // namespace dotsift
