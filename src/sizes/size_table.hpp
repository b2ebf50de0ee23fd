#pragma once
// Sizes from a table.

#include <filesystem>
#include <string>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// Sizes on a grid of x and y, bilinear in between, the nearest value of the rim outside.
struct SizeTable {
    std::vector<double> x, y;   ///< rising
    std::vector<double> sizes;  ///< x runs fastest

    [[nodiscard]] double at(const Vec2& p) const;
};

/// Reads columns x, y, size (a heading line may stand above; separated by commas, semicolons, tabs or spaces) in the
/// study's length unit; a heading names the columns, in any order. `file` is what messages call it. Throws InputError
/// with the line if the text is no such table.
SizeTable read_size_table(const std::string& text, const std::filesystem::path& file);

}  // namespace dotsift
