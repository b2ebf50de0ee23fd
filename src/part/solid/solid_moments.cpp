#include "part/solid/solid_moments.hpp"

#include "base/dense.hpp"
#include "part/solid/face_integral.hpp"

namespace dotsift {

VolumeMoments moments_about(const SolidPart& part, const Vec3& about, const std::vector<double>& weight_of_body) {
    constexpr int pieces = 2;
    std::array<double, 3> square{}, mixed{};
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const SolidFace& face = part.faces[f];
        const auto weight = [&](int body) { return body < 0 ? 0 : weight_of_body[static_cast<std::size_t>(body)]; };
        const double sign = weight(face.behind) - weight(face.before);
        if (sign == 0) continue;
        over_face(part, f, pieces, [&](const Vec3& p, const Vec3& area, double) {
            const Vec3 x = p - about;
            for (std::size_t a = 0; a < 3; ++a) {
                const std::size_t b = (a + 1) % 3;
                square[a] += sign * x[a] * x[a] * x[a] * area[a] / 3;
                mixed[a] += sign * x[a] * x[a] * x[b] * area[a] / 2;
            }
        });
    }
    return {square[1] + square[2], square[2] + square[0], square[0] + square[1], mixed[0], mixed[1], mixed[2]};
}

PrincipalAxes principal_axes(const VolumeMoments& m) {
    Eigen::MatrixXd tensor(3, 3);
    tensor << m.ixx, -m.ixy, -m.izx, -m.ixy, m.iyy, -m.iyz, -m.izx, -m.iyz, m.izz;
    const SymmetricEigen eigen = symmetric_eigen(tensor);
    PrincipalAxes out;
    for (std::size_t k = 0; k < 3; ++k) {
        const auto column = static_cast<Eigen::Index>(k);
        out.moments[k] = eigen.values(column);
        out.axes[k] = {{eigen.vectors(0, column), eigen.vectors(1, column), eigen.vectors(2, column)}};
    }
    if (dot(cross(out.axes[0], out.axes[1]), out.axes[2]) < 0) out.axes[2] = -out.axes[2];
    return out;
}

}  // namespace dotsift
