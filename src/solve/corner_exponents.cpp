#include "solve/corner_exponents.hpp"

#include <Eigen/Eigenvalues>

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr double pi = 3.141592653589793;
// Elements of three nodes over the angle are at most this wide: exponents are then exact to five digits (test).
constexpr double widest = pi / 10;
// Motions as a whole have the exponents 0 and 1; what lies this near to them is one of these, or so weak that no mesh
// sees it.
constexpr double least = 0.02, most = 0.995;

using Matrix = Eigen::MatrixXd;

/// The three matrices of the eigenvalue problem, of `motions` unknowns at each node.
class AngularProblem {
  public:
    AngularProblem(const Fan& fan, int motions) : fan_(fan), motions_(motions) {
        int nodes = 1;
        for (const auto& w : fan.wedges) nodes += 2 * elements_in(w);
        if (fan.closed) --nodes;
        count_ = nodes;
        for (Matrix* m : {&e0_, &e1_, &e2_}) *m = Matrix::Zero(nodes * motions, nodes * motions);
        int node = 0;
        for (const auto& w : fan.wedges)
            for (int k = 0; k < elements_in(w); ++k, node += 2) {
                const double width = (w.to - w.from) / elements_in(w);
                add(w, w.from + k * width, w.from + (k + 1) * width, node);
            }
    }

    std::vector<std::complex<double>> exponents() {
        hold_rays();
        const auto n = e0_.rows();
        if (n == 0) return {};
        // (E0 lambda^2 + (E1^T - E1) lambda - E2) u = 0, made linear.
        const Eigen::LLT<Matrix> e0(e0_);
        Matrix both = Matrix::Zero(2 * n, 2 * n);
        both.topRightCorner(n, n).setIdentity();
        both.bottomLeftCorner(n, n) = e0.solve(e2_);
        both.bottomRightCorner(n, n) = e0.solve(Matrix(e1_ - e1_.transpose()));
        const Eigen::EigenSolver<Matrix> solver(both, false);
        std::vector<std::complex<double>> out;
        for (const auto& v : solver.eigenvalues())
            if (v.real() > least && v.real() < most && v.imag() >= -1e-9)
                out.emplace_back(v.real(), std::fabs(v.imag()));
        std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.real() < b.real(); });
        return out;
    }

  private:
    static int elements_in(const Wedge& w) {
        return std::max(2, static_cast<int>(std::ceil((w.to - w.from) / widest)));
    }

    void add(const Wedge& w, double from, double to, int first) {
        Matrix law;  // per depth
        if (motions_ == 2) {
            law.resize(3, 3);
            for (int i = 0; i < 3; ++i)
                for (int j = 0; j < 3; ++j)
                    law(i, j) = w.law->elastic.stiffness[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
        } else {
            law.resize(2, 2);
            for (int i = 0; i < 2; ++i)
                for (int j = 0; j < 2; ++j)
                    law(i, j) =
                        w.law->conduction.conductivity[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
        }
        law *= w.law->thickness;
        for (const auto& q : line_rule()) {
            const double t = q.t, angle = from + (to - from) * t, c = std::cos(angle), s = std::sin(angle);
            const std::array<double, 3> n{(1 - t) * (1 - 2 * t), 4 * t * (1 - t), t * (2 * t - 1)},
                dn{(4 * t - 3) / (to - from), (4 - 8 * t) / (to - from), (4 * t - 1) / (to - from)};
            Matrix b1 = Matrix::Zero(law.rows(), 3 * motions_), b2 = b1;
            for (int i = 0; i < 3; ++i) {
                const double v = n[static_cast<std::size_t>(i)], d = dn[static_cast<std::size_t>(i)];
                if (motions_ == 1) {
                    b1.col(i) << c * v, s * v;
                    b2.col(i) << -s * d, c * d;
                } else {
                    b1.col(2 * i) << c * v, 0, s * v;
                    b1.col(2 * i + 1) << 0, s * v, c * v;
                    b2.col(2 * i) << -s * d, 0, c * d;
                    b2.col(2 * i + 1) << 0, c * d, -s * d;
                }
            }
            const double weight = q.weight * (to - from);
            const Matrix f0 = weight * b1.transpose() * law * b1, f1 = weight * b2.transpose() * law * b1,
                         f2 = weight * b2.transpose() * law * b2;
            for (int a = 0; a < 3 * motions_; ++a)
                for (int b = 0; b < 3 * motions_; ++b) {
                    const int row = ((first + a / motions_) % count_) * motions_ + a % motions_,
                              column = ((first + b / motions_) % count_) * motions_ + b % motions_;
                    e0_(row, column) += f0(a, b);
                    e1_(row, column) += f1(a, b);
                    e2_(row, column) += f2(a, b);
                }
        }
    }

    /// Leaves only motions that every ray allows.
    void hold_rays() {
        std::vector<Matrix> allowed(static_cast<std::size_t>(count_), Matrix::Identity(motions_, motions_));
        int node = 0;
        for (std::size_t k = 0; k < fan_.rays.size(); ++k) {
            Matrix& free = allowed[static_cast<std::size_t>(node % count_)];
            const auto& held = fan_.rays[k].directions;
            if (!held.empty()) {
                if (motions_ == 1 || held.size() > 1)
                    free.resize(motions_, 0);
                else
                    free = Eigen::Vector2d(-held[0][1], held[0][0]).normalized();
            }
            if (k < fan_.wedges.size()) node += 2 * elements_in(fan_.wedges[k]);
        }
        Eigen::Index left = 0;
        for (const auto& a : allowed) left += a.cols();
        Matrix to_all = Matrix::Zero(e0_.rows(), left);
        Eigen::Index column = 0;
        for (int n = 0; n < count_; ++n) {
            const Matrix& a = allowed[static_cast<std::size_t>(n)];
            to_all.block(n * motions_, column, motions_, a.cols()) = a;
            column += a.cols();
        }
        for (Matrix* m : {&e0_, &e1_, &e2_}) *m = (to_all.transpose() * *m * to_all).eval();
    }

    const Fan& fan_;
    int motions_, count_ = 0;
    Matrix e0_, e1_, e2_;
};

}  // namespace

std::vector<std::complex<double>> displacement_exponents(const Fan& fan) {
    return AngularProblem(fan, 2).exponents();
}
std::vector<std::complex<double>> potential_exponents(const Fan& fan) {
    return AngularProblem(fan, 1).exponents();
}

}  // namespace dotsift
