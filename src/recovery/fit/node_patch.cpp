#include "recovery/fit/node_patch.hpp"

#include <algorithm>
#include <cmath>

#include "base/parallel.hpp"

namespace dotsift {

namespace {
constexpr std::size_t piece = 4096;  // elements whose sizes are worth a thread's while
}

SizedCornerElements::SizedCornerElements(const Mesh& mesh)
    : CornerElements(mesh), mesh_(mesh), sizes_(mesh.element_count()) {
    in_parallel_pieces(mesh.element_count(), piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) sizes_[e] = mesh.size_of(e);
    });
}

void NodePatch::begin(std::int32_t corner) {
    corner_ = corner;
    beside_.clear();
    for (const auto e : around_.of(corner)) {
        const auto list = around_.corners_of(static_cast<std::size_t>(e));
        std::size_t c = 0;
        while (list[c] != corner) ++c;
        beside_.push_back({list[c == 0 ? list.size() - 1 : c - 1], list[c + 1 == list.size() ? 0 : c + 1]});
    }
    closed_ = std::all_of(beside_.begin(), beside_.end(), [&](const Beside& e) {
        return std::any_of(beside_.begin(), beside_.end(), [&](const Beside& o) { return o.after == e.before; });
    });
    if (closed_)
        ElementPatch::begin(corner, ring());
    else
        ElementPatch::begin(corner);
}

const std::vector<std::int32_t>& NodePatch::ring() {
    ring_.assign(1, corner_);
    const auto own = around_.of(corner_);
    for (std::size_t k = 0; k < beside_.size(); ++k) {
        const auto e = static_cast<std::size_t>(own[k]);
        const auto list = around_.mesh().slots_of(e);
        const auto corners = around_.corners_of(e).size();
        std::size_t shared = 0;  // the side between the corner before and this one
        while (list[shared] != beside_[k].before) ++shared;
        for (std::size_t i = 0; i < list.size(); ++i)
            if (list[i] != corner_ && i != shared && i != shared + corners) ring_.push_back(list[i]);
    }
    return ring_;
}

double NodePatch::mean_size() const {
    double sum = 0;
    const auto own = around_.of(corner_);
    for (const auto e : own) sum += around_.size_of(e);
    return sum / static_cast<double>(own.size());
}

bool NodePatch::all_triangles() const {
    const auto own = around_.of(corner_);
    return std::all_of(own.begin(), own.end(), [&](std::int32_t e) {
        return corner_count(around_.mesh().kinds[static_cast<std::size_t>(e)]) == 3;
    });
}

double NodePatch::angle() const {
    const Mesh& mesh = around_.mesh();
    const auto position = [&](std::int32_t slot) {
        return mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[static_cast<std::size_t>(slot)])];
    };
    double sum = 0;
    for (const auto& [before, after] : beside_) {
        const Vec2 a = position(after) - position(corner_), b = position(before) - position(corner_);
        sum += std::atan2(cross(a, b), dot(a, b));
    }
    return sum;
}

}  // namespace dotsift
