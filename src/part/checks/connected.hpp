#pragma once
// What hangs together.

#include <array>
#include <cstddef>
#include <vector>

namespace dotsift {

/// For each of `count` things, joined in pairs, the number of its piece; pieces are counted from 0 in the order of
/// their first members.
std::vector<int> connected_pieces(std::size_t count, const std::vector<std::array<int, 2>>& joined);

}  // namespace dotsift
