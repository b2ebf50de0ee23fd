#include "sizes/volume_sources.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr double same_within = 0.1;  // of the size
// The surface is followed to this share of the volume's diagonal at the finest, however small the size: it may be asked
// for by mistake, and is refused later for its number of elements.
constexpr double finest_surface = 1.0 / 64;
constexpr double finest_inside = 1.0 / 256;  // where the size changes
constexpr double well_inside = 0.8;          // of a cube, from its middle to its corners
constexpr int least_cuts = 3;                // a formula may have a narrow dip: at least so many cuts

class Filling {
  public:
    Filling(const SizeVolume& volume, const std::function<Vec3(const Vec3&)>& to_place,
            std::vector<SizeSourceIn<3>>& sources)
        : volume_(volume), to_place_(to_place), sources_(sources), whole_(volume.box.diagonal()) {}

    /// Of a cube by its middle and half its diagonal.
    void fill(const Vec3& middle, const Vec3& half, int depth) {
        const double around = norm(half), out = volume_.outside ? volume_.outside(middle) : -INFINITY;
        if (out > around) return;
        double size = volume_.size(middle);
        const bool at_surface = out > -around;
        bool cut = at_surface && around > std::max(size / 2, finest_surface * whole_);
        if (volume_.varies && around > finest_inside * whole_ && (depth < least_cuts || around > size / 2)) {
            cut = cut || depth < least_cuts;
            for (int c = 0; c < corners && !cut; ++c)
                cut = std::fabs(volume_.size(corner(middle, half, c, 1)) - size) > same_within * size;
        }
        if (cut) {
            for (int c = 0; c < corners; ++c) fill(corner(middle, half, c, 0.5), half / 2, depth + 1);
            return;
        }
        if (at_surface && !hold_some(middle, half, out)) return;
        SizeSourceIn<3> s;
        s.corners[0] = to_place_(middle);
        s.size = size;
        s.reach = around;
        s.rule = volume_.rule;
        sources_.push_back(s);
    }

  private:
    static constexpr int corners = 8;
    /// Some of a cube at the surface is inside.
    [[nodiscard]] bool hold_some(const Vec3& middle, const Vec3& half, double out) const {
        if (!volume_.contains) return out <= norm(half) / 2;
        if (volume_.contains(middle)) return true;
        for (int c = 0; c < corners; ++c)
            if (volume_.contains(corner(middle, half, c, well_inside))) return true;
        return false;
    }
    static Vec3 corner(const Vec3& middle, const Vec3& half, int which, double share) {
        Vec3 p = middle;
        for (std::size_t k = 0; k < 3; ++k) p[k] += ((which >> k) & 1 ? share : -share) * half[k];
        return p;
    }

    const SizeVolume& volume_;
    const std::function<Vec3(const Vec3&)>& to_place_;
    std::vector<SizeSourceIn<3>>& sources_;
    double whole_;
};

}  // namespace

void add_volume_sources(const SizeVolume& volume, const std::function<Vec3(const Vec3&)>& to_place,
                        std::vector<SizeSourceIn<3>>& sources) {
    Filling(volume, to_place, sources).fill(volume.box.centre(), volume.box.size() / 2, 0);
}

}  // namespace dotsift
