#pragma once
// What a part is called, without its places: the same in the plane and in space.

#include <string>
#include <vector>

namespace dotsift {

struct PartPoint {
    std::string name;
    int vertex = 0;
};

/// Names of points, of regions, and of boundaries, which a part's sides carry: in the plane its edges, of a solid its
/// faces. Sides hold them as indices into `boundary_names`.
struct PartNames {
    std::vector<PartPoint> points;  ///< named vertices
    std::vector<std::string> boundary_names;
    std::vector<std::string> regions;

    /// The vertices of named points that fit a pattern.
    [[nodiscard]] std::vector<int> points_named(const std::vector<std::string>& patterns) const;
    /// Regions whose name fits one of the patterns, in order.
    [[nodiscard]] std::vector<int> regions_named(const std::vector<std::string>& patterns) const;
    /// Sides that carry a boundary name fitting one of the patterns, in order.
    template <class Side>
    [[nodiscard]] std::vector<int> sides_named(const std::vector<Side>& sides,
                                               const std::vector<std::string>& patterns) const {
        std::vector<int> list;
        for (std::size_t s = 0; s < sides.size(); ++s)
            if (carries(sides[s].names, patterns)) list.push_back(static_cast<int>(s));
        return list;
    }
    /// The index of a boundary name, made if it is new.
    int boundary_name(const std::string& name);
    /// The index of a region, made if it is new.
    int region_index(const std::string& name);
    /// Adds a name to those of a side, once.
    void add_name(const std::string& name, std::vector<int>& names);
    /// How a side is called in messages: "\"bore\"" or "edge 7".
    [[nodiscard]] std::string name_of_side(const std::vector<int>& names, const char* what, int number) const;

  private:
    [[nodiscard]] bool carries(const std::vector<int>& names, const std::vector<std::string>& patterns) const;
};

/// Of each side, as a mesh holds them.
template <class Side>
std::vector<std::vector<int>> names_of_sides(const std::vector<Side>& sides) {
    std::vector<std::vector<int>> out;
    out.reserve(sides.size());
    for (const Side& s : sides) out.push_back(s.names);
    return out;
}

/// "a+b" -> a, b: as files hold several names where they have room for one.
std::vector<std::string> names_joined_in(const std::string& text);

}  // namespace dotsift
