#pragma once
// What gradients of shape functions bring to the matrices of elements, at one point: the same in the plane and in
// space.

#include <array>
#include <span>

#include "base/vec.hpp"
#include "solve/material/tensor.hpp"
#include "solve/system/assembly.hpp"

namespace dotsift {

/// Adds weight * gradient . conductivity . gradient.
template <int D>
void add_conduction(std::span<const Vec<D>> dn, const SquareMatrix<D>& c, double weight, ElementMatrix& k) {
    for (std::size_t j = 0; j < dn.size(); ++j) {
        Vec<D> flux;
        for (std::size_t a = 0; a < static_cast<std::size_t>(D); ++a) {
            double s = c[a][0] * dn[j][0];
            for (std::size_t b = 1; b < static_cast<std::size_t>(D); ++b) s += c[a][b] * dn[j][b];
            flux[a] = weight * s;
        }
        for (std::size_t i = j; i < dn.size(); ++i) {
            double s = dn[i][0] * flux[0];
            for (std::size_t a = 1; a < static_cast<std::size_t>(D); ++a) s += dn[i][a] * flux[a];
            k(i, j) += s;
        }
    }
}

/// Strains of a displacement of one node: what its x component brings (xx, yy, xy, zz), and its y component.
struct NodeStrain {
    double x, y;  ///< derivatives of the shape function: xx = x ux, yy = y uy, xy = y ux + x uy
    double z;     ///< zz = z ux
};

/// Adds weight * strain . stiffness . strain to the blocks of the lower triangle.
template <bool with_zz>
void add_plane_stiffness(std::span<const NodeStrain> b, const TensorMatrix<2>& d, double w, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < b.size(); ++j) {
        const double bx = b[j].x * w, by = b[j].y * w, bz = b[j].z * w;
        // Stresses of the displacements of node j along x and along y
        double x0 = d[0][0] * bx + d[0][2] * by, x1 = d[1][0] * bx + d[1][2] * by, x2 = d[2][0] * bx + d[2][2] * by;
        double x3 = 0;
        const double y0 = d[0][1] * by + d[0][2] * bx, y1 = d[1][1] * by + d[1][2] * bx,
                     y2 = d[2][1] * by + d[2][2] * bx;
        double y3 = 0;
        if constexpr (with_zz) {
            x0 += d[0][3] * bz;
            x1 += d[1][3] * bz;
            x2 += d[2][3] * bz;
            x3 = d[3][0] * bx + d[3][2] * by + d[3][3] * bz;
            y3 = d[3][1] * by + d[3][2] * bx;
        }
        for (std::size_t i = j; i < b.size(); ++i) {
            const double ax = b[i].x, ay = b[i].y;
            double* row = k.row(2 * i) + 2 * j;
            row[0] += ax * x0 + ay * x2;
            row[1] += ax * y0 + ay * y2;
            row[n] += ay * x1 + ax * x2;
            row[n + 1] += ay * y1 + ax * y2;
            if constexpr (with_zz) {
                row[0] += b[i].z * x3;
                row[1] += b[i].z * y3;
            }
        }
    }
}

/// Adds weight * gradient of node i times gradient of node j to the blocks of the lower triangle.
inline void add_products(std::span<const Vec3> g, double weight, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < g.size(); ++j) {
        const Vec3 along = g[j] * weight;
        for (std::size_t i = j; i < g.size(); ++i) {
            // Written out: the compiler keeps loops this short.
            double *x = k.row(3 * i) + 3 * j, *y = x + n, *z = y + n;
            x[0] += g[i][0] * along[0];
            x[1] += g[i][0] * along[1];
            x[2] += g[i][0] * along[2];
            y[0] += g[i][1] * along[0];
            y[1] += g[i][1] * along[1];
            y[2] += g[i][1] * along[2];
            z[0] += g[i][2] * along[0];
            z[1] += g[i][2] * along[1];
            z[2] += g[i][2] * along[2];
        }
    }
}

/// Makes the stiffness of an isotropic material of the sums of such products G: lambda G + mu (G^T + trace G).
inline void to_stiffness(double lambda, double mu, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < n; j += 3)
        for (std::size_t i = j; i < n; i += 3) {
            std::array<double*, 3> row{k.row(i) + j, k.row(i + 1) + j, k.row(i + 2) + j};
            const double trace = mu * (row[0][0] + row[1][1] + row[2][2]);
            for (std::size_t a = 0; a < 3; ++a) {
                for (std::size_t b = 0; b < a; ++b) {
                    const double ab = row[a][b], ba = row[b][a];
                    row[a][b] = lambda * ab + mu * ba;
                    row[b][a] = lambda * ba + mu * ab;
                }
                row[a][a] = (lambda + mu) * row[a][a] + trace;
            }
        }
}

/// Adds weight * strain . stiffness . strain, of any material.
inline void add_stiffness(std::span<const Vec3> g, double weight, const TensorMatrix<3>& d, ElementMatrix& k) {
    for (std::size_t j = 0; j < g.size(); ++j) {
        std::array<Stress3, 3> stress{};  // of the displacement of node j along each axis
        for (std::size_t b = 0; b < 3; ++b) {
            Vec3 along;
            along[b] = weight;
            Strain3 strain{};
            add_strain(g[j], along, strain);
            for (std::size_t c = 0; c < 6; ++c) stress[b][c] = contraction(d[c], strain);
        }
        for (std::size_t i = j; i < g.size(); ++i)
            for (std::size_t b = 0; b < 3; ++b) {
                const Vec3 force = traction(stress[b], g[i]);
                for (std::size_t a = 0; a < 3; ++a) k(3 * i + a, 3 * j + b) += force[a];
            }
    }
}

}  // namespace dotsift
