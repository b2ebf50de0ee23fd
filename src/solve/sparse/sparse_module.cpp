// The sparse library behind LinearSolver, in a module of its own: with the BLAS that it needs it costs about 15 ms to
// load, which commands that solve nothing should not pay.

#include "solve/sparse/sparse_module.hpp"

#include <cholmod.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

#include "base/errors.hpp"
#include "base/room.hpp"

extern "C" {
// Present or not, depending on which BLAS the system has.
void openblas_set_num_threads(int) __attribute__((weak));
void omp_set_max_active_levels(int) __attribute__((weak));
}

namespace dotsift {

namespace {

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// One thread: more gain little here and collapse when the machine is shared (the library asks for four threads
/// whatever the number of cores), and results stay the same everywhere.
void set_blas_threads_to_one() {
    if (openblas_set_num_threads) openblas_set_num_threads(1);
    if (omp_set_max_active_levels) omp_set_max_active_levels(0);
}

/// The library's view of a matrix; nothing is copied.
cholmod_sparse view(const SymmetricMatrix& m) {
    cholmod_sparse a{};
    a.nrow = a.ncol = static_cast<std::size_t>(m.size);
    a.nzmax = m.row.size();
    a.p = const_cast<std::int32_t*>(m.column_first.data());
    a.i = const_cast<std::int32_t*>(m.row.data());
    a.x = const_cast<double*>(m.value.data());
    a.stype = -1;
    a.itype = CHOLMOD_INT;
    a.xtype = m.value.empty() ? CHOLMOD_PATTERN : CHOLMOD_REAL;
    a.dtype = CHOLMOD_DOUBLE;
    a.sorted = 1;
    a.packed = 1;
    return a;
}

class Cholmod final : public LinearSolver {
  public:
    Cholmod() {
        cholmod_start(&common_);
        common_.supernodal = CHOLMOD_SUPERNODAL;
        common_.print = 0;
        common_.nmethods = 1;
        common_.method[0].ordering = CHOLMOD_GIVEN;
        common_.postorder = 1;
        common_.quick_return_if_not_posdef = 1;
        set_blas_threads_to_one();
    }
    ~Cholmod() override {
        cholmod_free_factor(&factor_, &common_);
        cholmod_finish(&common_);
    }
    Cholmod(const Cholmod&) = delete;
    Cholmod& operator=(const Cholmod&) = delete;

    double analyse(const SymmetricMatrix& matrix, std::span<const std::int32_t> order) override {
        const auto start = std::chrono::steady_clock::now();
        matrix_ = &matrix;
        analysed_ = matrix.row.size();
        cholmod_sparse a = view(matrix);
        cholmod_free_factor(&factor_, &common_);
        std::vector<std::int32_t> permutation(order.begin(), order.end());
        factor_ = cholmod_analyze_p(&a, permutation.data(), nullptr, 0, &common_);
        if (!factor_)
            throw SolveError(fmt::format("the sparse solver failed to analyse the system (status {})", common_.status));
        report_ = {};
        report_.method = "Cholesky, supernodal";
        report_.factor_bytes = static_cast<double>(factor_->xsize) * sizeof(double);
        report_.factor_seconds = seconds_since(start);
        return report_.factor_bytes;
    }

    void factor(const SymmetricMatrix& matrix, std::span<const std::int32_t> order) override {
        if (matrix_ != &matrix || !factor_ || analysed_ != matrix.row.size()) (void)analyse(matrix, order);
        constexpr double workspace = 1e8;  // of the library and its BLAS
        ask_for_room(report_.factor_bytes + workspace, "the factor of the equations");
        const auto start = std::chrono::steady_clock::now();
        cholmod_sparse a = view(matrix);
        cholmod_factorize(&a, factor_, &common_);
        if (common_.status == CHOLMOD_NOT_POSDEF || factor_->minor < factor_->n) {
            const auto* perm = static_cast<const std::int32_t*>(factor_->Perm);
            bad_ = perm[std::min(factor_->minor, factor_->n - 1)];
            throw SolveError("the stiffness matrix is not positive definite", {},
                             "check supports and material constants");
        }
        if (common_.status != CHOLMOD_OK)
            throw SolveError(fmt::format("the sparse solver failed (status {})", common_.status));
        report_.factor_seconds += seconds_since(start);
    }

    std::vector<double> solve(std::span<const double> b) override {
        const auto start = std::chrono::steady_clock::now();
        std::vector<double> x = solve_once(b);
        std::vector<double> r(b.size());
        matrix_->multiply(x, r);
        for (std::size_t i = 0; i < r.size(); ++i) r[i] = b[i] - r[i];
        const auto correction = solve_once(r);
        for (std::size_t i = 0; i < x.size(); ++i) x[i] += correction[i];
        matrix_->multiply(x, r);
        double worst = 0, largest_b = 0, largest_x = 0, largest_a = 0;
        for (std::size_t i = 0; i < r.size(); ++i) {
            worst = std::max(worst, std::fabs(b[i] - r[i]));
            largest_b = std::max(largest_b, std::fabs(b[i]));
            largest_x = std::max(largest_x, std::fabs(x[i]));
        }
        for (const double v : matrix_->value) largest_a = std::max(largest_a, std::fabs(v));
        const double scale = largest_a * largest_x + largest_b;
        report_.scale = scale;
        report_.residual = scale > 0 ? worst / scale : 0;
        if (!std::all_of(x.begin(), x.end(), [](double v) { return std::isfinite(v); }))
            throw SolveError("the solution is not finite", {}, "check loads and material constants for extreme values");
        report_.solve_seconds = seconds_since(start);
        return x;
    }

    std::vector<double> solve_once(std::span<const double> b) override {
        cholmod_dense right{};
        right.nrow = right.d = right.nzmax = b.size();
        right.ncol = 1;
        right.x = const_cast<double*>(b.data());
        right.xtype = CHOLMOD_REAL;
        right.dtype = CHOLMOD_DOUBLE;
        cholmod_dense* x = cholmod_solve(CHOLMOD_A, factor_, &right, &common_);
        if (!x) throw SolveError(fmt::format("the sparse solver failed to solve (status {})", common_.status));
        const auto* values = static_cast<const double*>(x->x);
        std::vector<double> result(values, values + b.size());
        cholmod_free_dense(&x, &common_);
        return result;
    }

    [[nodiscard]] const SolverReport& report() const override { return report_; }
    [[nodiscard]] int bad_unknown() const override { return bad_; }

  private:
    cholmod_common common_{};
    cholmod_factor* factor_ = nullptr;
    const SymmetricMatrix* matrix_ = nullptr;
    std::size_t analysed_ = 0;  ///< entries of the matrix whose analysis there is
    SolverReport report_;
    int bad_ = -1;
};

}  // namespace

}  // namespace dotsift

extern "C" __attribute__((visibility("default"))) dotsift::LinearSolver* dotsift_direct_solver() {
    return new dotsift::Cholmod();
}

extern "C" __attribute__((visibility("default"))) bool dotsift_find_order(const dotsift::SymmetricMatrix& graph,
                                                                          dotsift::OrderMethod method,
                                                                          std::int32_t* order) {
    cholmod_common common{};
    cholmod_start(&common);
    common.print = 0;
    cholmod_sparse a = dotsift::view(graph);
    const int good = method == dotsift::OrderMethod::minimum_degree ? cholmod_amd(&a, nullptr, 0, order, &common)
                                                                    : cholmod_metis(&a, nullptr, 0, 1, order, &common);
    cholmod_finish(&common);
    return good != 0;
}
