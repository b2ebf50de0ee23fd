#include "mesh/plane/corner_mesh.hpp"

namespace dotsift {

void CornerMesh::append(const CornerMesh& piece, const std::vector<int>& known_points, std::size_t same,
                        const std::vector<std::size_t>& known_segments) {
    if (piece.elements.empty() && piece.points.size() <= same) return;
    ordered = false;
    const std::size_t known = known_points.empty() ? same : known_points.size();
    std::vector<std::int32_t> number(piece.points.size());
    for (std::size_t p = 0; p < number.size(); ++p) {
        if (p < known) {
            number[p] = known_points.empty() ? static_cast<std::int32_t>(p) : known_points[p];
            continue;
        }
        number[p] = static_cast<std::int32_t>(points.size());
        points.push_back(piece.points[p]);
    }
    for (auto e : piece.elements) {
        for (std::size_t i = 0; i < e.corners(); ++i) {
            e.v[i] = number[static_cast<std::size_t>(e.v[i])];
            if (e.segment[i] >= 0 && !known_segments.empty())
                e.segment[i] = static_cast<std::int32_t>(known_segments[static_cast<std::size_t>(e.segment[i])]);
        }
        elements.push_back(e);
    }
    for (auto b : piece.bent) {
        b.a = number[static_cast<std::size_t>(b.a)];
        b.b = number[static_cast<std::size_t>(b.b)];
        bent.push_back(b);
    }
}

}  // namespace dotsift
