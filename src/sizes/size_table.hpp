#pragma once
// Sizes from a table.

#include <array>
#include <filesystem>
#include <string>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// Sizes on a grid along the axes, linear along each of them in between, the nearest value of the rim outside.
template <int D>
struct SizeTableIn {
    std::array<std::vector<double>, static_cast<std::size_t>(D)> axes;  ///< rising
    std::vector<double> sizes;                                          ///< x runs fastest

    [[nodiscard]] double at(const Vec<D>& p) const;
};

/// Reads columns x, y, in space z, and size (a heading line may stand above; separated by commas, semicolons, tabs or
/// spaces) in the study's length unit; a heading names the columns, in any order. `file` is what messages call it.
/// Throws InputError with the line if the text is no such table.
template <int D>
SizeTableIn<D> read_size_table(const std::string& text, const std::filesystem::path& file);

}  // namespace dotsift
