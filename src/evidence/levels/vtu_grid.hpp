#pragma once
// The points, cells and arrays of a VTU file as one grid, however many pieces it is stored in.

#include <string>
#include <vector>

namespace dotsift {

struct VtuArray {
    std::string name;
    std::size_t components = 1;
    std::vector<double> values;  ///< components of the first point or cell, then of the next
};

struct VtuGrid {
    std::vector<double> points;      ///< three coordinates each
    std::vector<std::size_t> nodes;  ///< of the cells, one cell behind the other
    std::vector<std::size_t> ends;   ///< where in `nodes` each cell ends
    std::vector<int> types;          ///< of the cells, by the numbers of the format
    std::vector<char> copied;        ///< cells that another piece has as its own (ghost cells)
    std::vector<VtuArray> of_points, of_cells, of_whole;

    [[nodiscard]] std::size_t point_count() const { return points.size() / 3; }
};

/// An array by its name; nullptr if there is none.
const VtuArray* array_named(const std::vector<VtuArray>& arrays, const std::string& name);

/// Reads the text of a file. Pieces are joined: points of different pieces at exactly the same place become one.
/// Without `all_arrays` only those that carry names, wanted sizes and rows are read. Throws VtuFault.
VtuGrid read_vtu_grid(const std::string& text, bool all_arrays);

}  // namespace dotsift
