#pragma once
// Dense linear algebra of any size, compiled once: its templates take longer to compile than all that calls them.

#include <Eigen/Core>
#include <complex>
#include <memory>

namespace dotsift {

/// a b
Eigen::MatrixXd product(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b);
/// a^T b
Eigen::MatrixXd transposed_product(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b);

/// x of a x = b, by Cholesky's factor of a symmetric positive definite a, of which the lower triangle is read.
Eigen::MatrixXd solve_positive(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b);
/// The same of a symmetric a that may have no more than non-negative eigenvalues.
Eigen::MatrixXd solve_semidefinite(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b);

struct SymmetricEigen {
    Eigen::VectorXd values;   ///< ascending
    Eigen::MatrixXd vectors;  ///< one a column, of length 1
};
SymmetricEigen symmetric_eigen(const Eigen::MatrixXd& a);

struct GeneralEigen {
    Eigen::VectorXcd values;
    Eigen::MatrixXcd vectors;  ///< one a column; empty if they were not wanted
};
GeneralEigen general_eigen(const Eigen::MatrixXd& a, bool with_vectors);

/// Least squares by an orthogonal factor with pivoted columns (Golub & Van Loan 2013, Matrix Computations, sec. 5.4.2).
class OrthogonalFactor {
  public:
    explicit OrthogonalFactor(const Eigen::MatrixXd& a);
    OrthogonalFactor(OrthogonalFactor&&) noexcept;
    ~OrthogonalFactor();
    [[nodiscard]] Eigen::Index rank() const;
    /// The x for which |a x - b| is smallest.
    [[nodiscard]] Eigen::VectorXd solve(const Eigen::VectorXd& b) const;
    /// b in the orthogonal factor's axes: what lies below the first rank() rows is left of b by any a x.
    [[nodiscard]] Eigen::MatrixXd turned(const Eigen::MatrixXd& b) const;

  private:
    struct Factor;
    std::unique_ptr<Factor> factor_;
};

}  // namespace dotsift
