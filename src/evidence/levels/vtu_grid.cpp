#include "evidence/levels/vtu_grid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "evidence/levels/vtu_file.hpp"

namespace dotsift {

namespace {

constexpr const char* ghost_array = "vtkGhostType";  // of the format: cells that are not the piece's own

class GridReader {
  public:
    GridReader(const VtuFile& file, bool all_arrays) : file_(file), all_arrays_(all_arrays) {}

    VtuGrid read() {
        const auto pieces = file_.grid().children("Piece");
        for (const auto& piece : pieces) {
            const std::size_t points = add_points(piece), cells = add_cells(piece, points);
            add_arrays(out_.of_points, piece.child("PointData"), points);
            add_arrays(out_.of_cells, piece.child("CellData"), cells);
            ++pieces_;
        }
        if (out_.points.empty()) refuse("it has no points");
        if (out_.types.empty()) refuse("it has no cells");
        if (all_arrays_)
            for (const auto& array : file_.grid().child("FieldData").children("DataArray"))
                out_.of_whole.push_back(read_array(array));
        if (pieces_ > 1) join();
        out_.copied.assign(out_.types.size(), 0);
        if (const VtuArray* ghosts = array_named(out_.of_cells, ghost_array))
            std::transform(ghosts->values.begin(), ghosts->values.end(), out_.copied.begin(),
                           [](double v) { return static_cast<char>(v != 0); });
        return std::move(out_);
    }

  private:
    std::size_t add_points(const pugi::xml_node& piece) {
        first_point_ = out_.point_count();
        const auto array = piece.child("Points").child("DataArray");
        if (!array) refuse("it has no points");
        const auto v = file_.numbers(array);
        if (v.size() % 3 != 0) refuse("its points are not given by three numbers each");
        for (std::size_t i = 0; i < v.size(); ++i)
            if (!std::isfinite(v[i])) refuse(fmt::format("point {} is not finite", i / 3));
        out_.points.insert(out_.points.end(), v.begin(), v.end());
        return v.size() / 3;
    }

    std::size_t add_cells(const pugi::xml_node& piece, std::size_t points) {
        std::map<std::string, std::vector<double>> of;
        for (const auto& array : piece.child("Cells").children("DataArray"))
            of[array.attribute("Name").value()] = file_.numbers(array);
        const auto &connectivity = of["connectivity"], &offsets = of["offsets"], &types = of["types"];
        if (offsets.size() != types.size()) refuse("its cells have no types or offsets");
        const std::size_t first = out_.nodes.size();
        std::size_t begin = 0;
        for (std::size_t c = 0; c < types.size(); ++c) {
            const std::size_t end = index_of(offsets[c], connectivity.size() + 1, "an offset");
            if (end < begin) refuse("its offsets fall");
            for (std::size_t k = begin; k < end; ++k)
                out_.nodes.push_back(first_point_ + index_of(connectivity[k], points, "a node"));
            out_.ends.push_back(first + end);
            out_.types.push_back(static_cast<int>(index_of(types[c], 256, "a cell's type")));
            begin = end;
        }
        return types.size();
    }

    [[nodiscard]] VtuArray read_array(const pugi::xml_node& array) const {
        VtuArray a;
        a.name = array.attribute("Name").value();
        a.components = array.attribute("NumberOfComponents").as_uint(1);
        if (a.components == 0) refuse(fmt::format("the array \"{}\" has no components", a.name));
        a.values = file_.numbers(array);
        return a;
    }

    [[nodiscard]] bool wanted(const std::string& name) const {
        if (all_arrays_) return true;
        for (const char* prefix : {"region.", "boundary.", "point."})
            if (name.rfind(prefix, 0) == 0) return true;
        return name == "wanted_size" || name == "layer_row" || name == ghost_array;
    }

    /// Every piece must have the same arrays.
    void add_arrays(std::vector<VtuArray>& to, const pugi::xml_node& from, std::size_t count) {
        const std::size_t before = to.empty() ? 0 : to.front().values.size() / to.front().components;
        for (const auto& node : from.children("DataArray")) {
            if (!wanted(node.attribute("Name").value())) continue;
            VtuArray array = read_array(node);
            if (array.values.size() / array.components != count || array.values.size() % array.components != 0)
                refuse(fmt::format("the array \"{}\" has the wrong length", array.name));
            if (pieces_ == 0) {
                to.push_back(std::move(array));
                continue;
            }
            const auto found =
                std::find_if(to.begin(), to.end(), [&](const VtuArray& a) { return a.name == array.name; });
            if (found == to.end() || found->components != array.components) not_in_all(array.name);
            found->values.insert(found->values.end(), array.values.begin(), array.values.end());
        }
        for (const VtuArray& a : to)
            if (a.values.size() != (before + count) * a.components) not_in_all(a.name);
    }
    [[noreturn]] static void not_in_all(const std::string& name) {
        refuse(fmt::format("its pieces do not have the same arrays (\"{}\")", name));
    }

    /// Pieces share the points of their seams.
    void join() {
        std::map<std::array<double, 3>, std::size_t> at;
        std::vector<std::size_t> number(out_.point_count()), stays;
        for (std::size_t n = 0; n < number.size(); ++n) {
            const auto [found, fresh] =
                at.try_emplace({out_.points[3 * n], out_.points[3 * n + 1], out_.points[3 * n + 2]}, stays.size());
            if (fresh) stays.push_back(n);
            number[n] = found->second;
        }
        const auto shorten = [&](std::vector<double>& values, std::size_t components) {
            std::vector<double> fewer;
            for (const std::size_t n : stays)
                for (std::size_t k = 0; k < components; ++k) fewer.push_back(values[n * components + k]);
            values = std::move(fewer);
        };
        shorten(out_.points, 3);
        for (auto& a : out_.of_points) shorten(a.values, a.components);
        for (auto& n : out_.nodes) n = number[n];
    }

    const VtuFile& file_;
    bool all_arrays_;
    VtuGrid out_;
    std::size_t first_point_ = 0, pieces_ = 0;
};

}  // namespace

const VtuArray* array_named(const std::vector<VtuArray>& arrays, const std::string& name) {
    const auto found = std::find_if(arrays.begin(), arrays.end(), [&](const VtuArray& a) { return a.name == name; });
    return found == arrays.end() ? nullptr : &*found;
}

VtuGrid read_vtu_grid(const std::string& text, bool all_arrays) {
    const VtuFile file(text);
    return GridReader(file, all_arrays).read();
}

}  // namespace dotsift
