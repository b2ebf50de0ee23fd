#include "base/dense.hpp"

#include <Eigen/Dense>

namespace dotsift {

using Matrix = Eigen::MatrixXd;

Matrix product(const Matrix& a, const Matrix& b) {
    return a * b;
}

Matrix transposed_product(const Matrix& a, const Matrix& b) {
    return a.transpose() * b;
}

Matrix solve_positive(const Matrix& a, const Matrix& b) {
    return Eigen::LLT<Matrix>(a).solve(b);
}

Matrix solve_semidefinite(const Matrix& a, const Matrix& b) {
    return Eigen::LDLT<Matrix>(a).solve(b);
}

SymmetricEigen symmetric_eigen(const Matrix& a) {
    const Eigen::SelfAdjointEigenSolver<Matrix> solver(a);
    return {solver.eigenvalues(), solver.eigenvectors()};
}

GeneralEigen general_eigen(const Matrix& a, bool with_vectors) {
    const Eigen::EigenSolver<Matrix> solver(a, with_vectors);
    return {solver.eigenvalues(), with_vectors ? solver.eigenvectors() : Eigen::MatrixXcd()};
}

struct OrthogonalFactor::Factor {
    Eigen::ColPivHouseholderQR<Matrix> qr;
};

OrthogonalFactor::OrthogonalFactor(const Matrix& a) : factor_(new Factor{Eigen::ColPivHouseholderQR<Matrix>(a)}) {}
OrthogonalFactor::OrthogonalFactor(OrthogonalFactor&&) noexcept = default;
OrthogonalFactor::~OrthogonalFactor() = default;

Eigen::Index OrthogonalFactor::rank() const {
    return factor_->qr.rank();
}

Eigen::VectorXd OrthogonalFactor::solve(const Eigen::VectorXd& b) const {
    return factor_->qr.solve(b);
}

Matrix OrthogonalFactor::turned(const Matrix& b) const {
    return factor_->qr.householderQ().transpose() * b;
}

}  // namespace dotsift
