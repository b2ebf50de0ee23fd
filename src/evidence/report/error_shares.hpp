#pragma once
// Where the error sits, by name.

#include <string>
#include <vector>

#include "series/level.hpp"

namespace dotsift {

struct ErrorShare {
    bool of_boundary = false;  ///< else of a region
    std::string name;
    double share = 0;  ///< of the squared error in it, or in the elements that have a node on the boundary
};

/// Of every region, then of every named boundary. Empty if there is no error.
std::vector<ErrorShare> error_shares(const Topology& mesh, const ErrorMap& error);
inline std::vector<ErrorShare> error_shares(const Level& level) {
    return error_shares(topology_of(level), level.solid ? level.solid->error : level.fields->error);
}

}  // namespace dotsift
