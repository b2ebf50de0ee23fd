#include "solve/system/multigrid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

#include "base/dense.hpp"
#include "base/errors.hpp"
#include "base/parallel.hpp"

namespace dotsift {

namespace {

using Vector = std::vector<double>;

// The iteration ends when the residual has come down to this share of the right side.
constexpr double wanted_residual = 1e-9;
// And has stalled when it takes more steps than this; well-shaped meshes need some twenty.
constexpr int most_steps = 150;
// The smoother damps the part of the spectrum above its largest value divided by this.
constexpr double smoothed_range = 6;
// Lanczos steps that find the largest value, and how much is added for what they miss.
constexpr int lanczos_steps = 7;
constexpr double lanczos_margin = 1.05;
// Elements flatter than this stall the iteration.
constexpr double flattest = 12;
// Pieces in which the rows of the matrix are laid out.
constexpr std::size_t pieces_of_rows = 8;
// Rows of a piece of work.
constexpr std::size_t vector_piece = 16384;

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

template <class Work>
void in_pieces(std::size_t size, Work work) {
    in_parallel_pieces(size, vector_piece,
                       [&](std::size_t begin, std::size_t end) { work(begin / vector_piece, begin, end); });
}

/// The sum of pieces, each summed by itself: the same for any number of threads.
double dot(const Vector& a, const Vector& b) {
    std::vector<double> sums((a.size() + vector_piece - 1) / vector_piece, 0.0);
    in_pieces(a.size(), [&](std::size_t p, std::size_t begin, std::size_t end) {
        double s = 0;
        for (std::size_t i = begin; i < end; ++i) s += a[i] * b[i];
        sums[p] = s;
    });
    double sum = 0;
    for (const double s : sums) sum += s;
    return sum;
}

/// Both triangles by rows, so that rows can be worked on side by side. Rows of one node have their entries in the same
/// columns: these are kept once for all of them, and each entry of the vector is fetched once.
struct RowMatrix {
    std::vector<std::int32_t> row_first;  ///< of each block of rows; one more
    std::vector<std::int64_t> first;      ///< of each block's columns; one more
    std::vector<std::int64_t> value_first;
    LargeArray<std::int32_t> column;
    LargeArray<double> value;  ///< of each block column by column, the rows one after another
    LargeArray<float> rough;   ///< the same, for the smoother: half the memory to be read, and it need not be exact

    /// `groups`: the first unknown of each node; one more.
    RowMatrix(const SymmetricMatrix& m, const std::vector<std::int32_t>& groups) {
        row_first.push_back(0);
        for (std::size_t g = 0; g + 1 < groups.size(); ++g)
            while (row_first.back() < groups[g + 1])
                row_first.push_back(std::min(groups[g + 1], row_first.back() + most_rows));
        while (row_first.back() < m.size) row_first.push_back(row_first.back() + 1);  // what belongs to no node
        const std::size_t blocks = row_first.size() - 1;
        // How many entries its first row has left of its own column; those from there on are that column's.
        std::vector<std::int64_t> left(blocks, 0);
        std::vector<std::int32_t> block_of(static_cast<std::size_t>(m.size));
        for (std::size_t b = 0; b < blocks; ++b)
            for (auto r = row_first[b]; r < row_first[b + 1]; ++r)
                block_of[static_cast<std::size_t>(r)] = static_cast<std::int32_t>(b);
        const auto is_first = [&](std::int32_t r) {
            return row_first[static_cast<std::size_t>(block_of[static_cast<std::size_t>(r)])] == r;
        };
        for (const auto r : m.row)
            if (is_first(r)) ++left[static_cast<std::size_t>(block_of[static_cast<std::size_t>(r)])];
        first.assign(1, 0);
        value_first.assign(1, 0);
        for (std::size_t b = 0; b < blocks; ++b) {
            --left[b];  // the diagonal belongs to the column
            const auto u = static_cast<std::size_t>(row_first[b]);
            const std::int64_t columns = left[b] + m.column_first[u + 1] - m.column_first[u];
            first.push_back(first.back() + columns);
            value_first.push_back(value_first.back() + columns * (row_first[b + 1] - row_first[b]));
        }
        column.resize(static_cast<std::size_t>(first.back()));
        value.resize(static_cast<std::size_t>(value_first.back()));
        rough.resize(value.size());
        // Every piece of rows looks through all columns for what is its own: reading is cheap beside writing.
        const std::size_t piece = (blocks + pieces_of_rows - 1) / pieces_of_rows;
        in_parallel(pieces_of_rows, [&](std::size_t p) {
            const std::size_t begin = std::min(blocks, p * piece), end = std::min(blocks, begin + piece);
            if (begin == end) return;
            const std::int32_t low = row_first[begin], high = row_first[end];
            std::vector<std::int64_t> next(first.begin() + static_cast<std::ptrdiff_t>(begin),
                                           first.begin() + static_cast<std::ptrdiff_t>(end));
            const auto put = [&](std::int32_t r, std::int64_t k, double v) {
                const auto b = static_cast<std::size_t>(block_of[static_cast<std::size_t>(r)]);
                const auto at =
                    static_cast<std::size_t>(value_first[b] + (k - first[b]) * rows_of(b) + r - row_first[b]);
                value[at] = v;
                rough[at] = static_cast<float>(v);
            };
            for (std::int32_t c = 0; c < high; ++c) {
                const auto stop = static_cast<std::size_t>(m.column_first[static_cast<std::size_t>(c) + 1]);
                auto k = static_cast<std::size_t>(m.column_first[static_cast<std::size_t>(c)]);
                if (m.row[stop - 1] < low) continue;
                const std::int32_t own = block_of[static_cast<std::size_t>(c)];
                for (; k < stop && m.row[k] < high; ++k) {
                    const std::int32_t r = m.row[k];
                    const std::int32_t b = block_of[static_cast<std::size_t>(r)];
                    if (r < low || b == own) continue;  // what lies within a block comes below
                    auto& at = next[static_cast<std::size_t>(b) - begin];
                    if (is_first(r)) column[static_cast<std::size_t>(at++)] = c;
                    put(r, at - 1, m.value[k]);
                }
            }
            for (std::size_t b = begin; b < end; ++b) {
                const std::int32_t u = row_first[b], rows = rows_of(b);
                const std::int64_t middle = first[b] + left[b];
                for (std::int32_t i = 0; i < rows; ++i) {
                    const std::int32_t start = m.column_first[static_cast<std::size_t>(u + i)];
                    const std::int32_t count = m.column_first[static_cast<std::size_t>(u + i) + 1] - start;
                    for (std::int32_t j = 0; j < count; ++j) {
                        const auto entry = static_cast<std::size_t>(start + j);
                        if (i == 0) column[static_cast<std::size_t>(middle + j)] = m.row[entry];
                        put(u + i, middle + i + j, m.value[entry]);
                        if (i + j < rows) put(u + i + j, middle + i, m.value[entry]);
                    }
                }
            }
        });
    }

    /// y = A x, or y = b - A x
    void multiply(const Vector& x, Vector& y, const Vector* b = nullptr) const { multiply_with(value, x, y, b); }
    void multiply_roughly(const Vector& x, Vector& y, const Vector* b = nullptr) const {
        multiply_with(rough, x, y, b);
    }

  private:
    static constexpr std::int32_t most_rows = 3;

    [[nodiscard]] std::int32_t rows_of(std::size_t block) const { return row_first[block + 1] - row_first[block]; }

    template <std::size_t rows, class Value>
    void multiply_block(std::size_t block, const Value* v, const Vector& x, std::array<double, most_rows>& sum) const {
        for (auto k = first[block]; k < first[block + 1]; ++k, v += rows) {
            const double along = x[static_cast<std::size_t>(column[static_cast<std::size_t>(k)])];
            for (std::size_t i = 0; i < rows; ++i) sum[i] += static_cast<double>(v[i]) * along;
        }
    }

    template <class Values>
    void multiply_with(const Values& values, const Vector& x, Vector& y, const Vector* b) const {
        constexpr std::size_t piece = vector_piece / 2;  // blocks
        in_parallel_pieces(first.size() - 1, piece, [&](std::size_t begin, std::size_t end) {
            for (std::size_t block = begin; block < end; ++block) {
                const auto* v = values.data() + value_first[block];
                const std::int32_t rows = rows_of(block);
                std::array<double, most_rows> sum{};
                if (rows == 1)
                    multiply_block<1>(block, v, x, sum);
                else if (rows == 2)
                    multiply_block<2>(block, v, x, sum);
                else
                    multiply_block<3>(block, v, x, sum);
                const auto r = static_cast<std::size_t>(row_first[block]);
                for (std::size_t i = 0; i < static_cast<std::size_t>(rows); ++i)
                    y[r + i] = b ? (*b)[r + i] - sum[i] : sum[i];
            }
        });
    }
};

/// Inverses of the blocks of one to three unknowns on the diagonal; longer ones are cut.
struct BlockDiagonal {
    std::vector<double> inverse;      ///< of each block the lower triangle by rows
    std::vector<std::int64_t> at;     ///< where it begins
    std::vector<std::int32_t> first;  ///< unknown of each block; one more

    BlockDiagonal(const SymmetricMatrix& m, const std::vector<std::int32_t>& first_unknown) {
        first.push_back(0);
        std::size_t g = 0;
        while (first.back() < m.size) {
            const auto u = first.back();
            while (g < first_unknown.size() && first_unknown[g] <= u) ++g;
            const int size = g < first_unknown.size() ? std::clamp(first_unknown[g] - u, 1, 3) : 1;
            // Column a of the block has its entries from the diagonal on.
            const auto entry = [&](int row, int column) {
                return m.value[static_cast<std::size_t>(m.column_first[static_cast<std::size_t>(u + column)] + row -
                                                        column)];
            };
            at.push_back(static_cast<std::int64_t>(inverse.size()));
            first.push_back(u + size);
            const double xx = entry(0, 0);
            if (size == 1) {
                inverse.push_back(1 / xx);
                continue;
            }
            const double xy = entry(1, 0), yy = entry(1, 1);
            if (size == 2) {
                const double det = xx * yy - xy * xy;
                inverse.insert(inverse.end(), {yy / det, -xy / det, xx / det});
                continue;
            }
            const double xz = entry(2, 0), yz = entry(2, 1), zz = entry(2, 2);
            const double c0 = yy * zz - yz * yz, c1 = xz * yz - xy * zz, c2 = xy * yz - xz * yy;
            const double det = xx * c0 + xy * c1 + xz * c2;
            inverse.insert(inverse.end(), {c0 / det, c1 / det, (xx * zz - xz * xz) / det, c2 / det,
                                           (xy * xz - xx * yz) / det, (xx * yy - xy * xy) / det});
        }
    }

    void apply(const Vector& r, Vector& z) const {
        in_pieces(at.size(), [&](std::size_t, std::size_t begin, std::size_t end) {
            for (std::size_t b = begin; b < end; ++b) {
                const auto u = static_cast<std::size_t>(first[b]);
                const double* d = inverse.data() + at[b];
                switch (first[b + 1] - first[b]) {
                    case 1:
                        z[u] = d[0] * r[u];
                        break;
                    case 2:
                        z[u] = d[0] * r[u] + d[1] * r[u + 1];
                        z[u + 1] = d[1] * r[u] + d[2] * r[u + 1];
                        break;
                    default:
                        z[u] = d[0] * r[u] + d[1] * r[u + 1] + d[3] * r[u + 2];
                        z[u + 1] = d[1] * r[u] + d[2] * r[u + 1] + d[4] * r[u + 2];
                        z[u + 2] = d[3] * r[u] + d[4] * r[u + 1] + d[5] * r[u + 2];
                        break;
                }
            }
        });
    }
};

class Multigrid final : public LinearSolver {
  public:
    Multigrid(CoarseSpace coarse, std::vector<std::int32_t> first_unknown)
        : coarse_(std::move(coarse)), first_unknown_(std::move(first_unknown)), coarse_solver_(make_direct_solver()) {}

    double analyse(const SymmetricMatrix& matrix, std::span<const std::int32_t>) override {
        return static_cast<double>(matrix.row.size()) * 2 * (sizeof(double) + sizeof(float) + sizeof(std::int32_t)) +
               coarse_solver_->analyse(coarse_.matrix, coarse_.order);
    }

    void factor(const SymmetricMatrix& matrix, std::span<const std::int32_t>) override {
        const auto start = std::chrono::steady_clock::now();
        coarse_solver_->factor(coarse_.matrix, coarse_.order);
        const double coarse_seconds = seconds_since(start);
        matrix_ = std::make_unique<RowMatrix>(matrix, first_unknown_);
        diagonal_ = std::make_unique<BlockDiagonal>(matrix, first_unknown_);
        size_ = static_cast<std::size_t>(matrix.size);
        for (auto* v : {&a_, &b_, &c_}) v->assign(size_, 0.0);
        largest_ = largest_value();
        report_ = {};
        report_.method = "conjugate gradients, p-multigrid";
        report_.factor_bytes = static_cast<double>(matrix_->value.size()) * (sizeof(double) + sizeof(float)) +
                               static_cast<double>(matrix_->column.size()) * sizeof(std::int32_t) +
                               coarse_solver_->report().factor_bytes;
        report_.factor_seconds = seconds_since(start);
        report_.coarse_seconds = coarse_seconds;
    }

    std::vector<double> solve(std::span<const double> right_side) override { return solve_from(right_side, {}); }

    std::vector<double> solve_from(std::span<const double> right_side, std::span<const double> guess) override {
        const auto start = std::chrono::steady_clock::now();
        Vector x(size_, 0.0), r(right_side.begin(), right_side.end()), z(size_), p(size_), q(size_);
        const double wanted = wanted_residual * std::sqrt(dot(r, r));
        if (!guess.empty()) {
            x.assign(guess.begin(), guess.end());
            const Vector b = r;
            matrix_->multiply(x, r, &b);
        }
        int steps = 0;
        double rho_before = 0, length = std::sqrt(dot(r, r));
        while (length > wanted) {
            if (++steps > most_steps || !std::isfinite(length))
                throw SolveError(fmt::format("the iteration stalls: after {} steps the residual is {:.1e} of the right "
                                             "side",
                                             most_steps, length / (wanted / wanted_residual)),
                                 {}, "the mesh has very flat elements, or the materials differ very much");
            precondition(r, z);
            const double rho = dot(r, z);
            const double beta = steps == 1 ? 0 : rho / rho_before;
            rho_before = rho;
            in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
                for (std::size_t i = begin; i < end; ++i) p[i] = z[i] + beta * p[i];
            });
            matrix_->multiply(p, q);
            const double alpha = rho / dot(p, q);
            in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
                for (std::size_t i = begin; i < end; ++i) {
                    x[i] += alpha * p[i];
                    r[i] -= alpha * q[i];
                }
            });
            length = std::sqrt(dot(r, r));
        }
        // The residual was carried along; what counts is the true one.
        const Vector b(right_side.begin(), right_side.end());
        matrix_->multiply(x, r, &b);
        double worst = 0, largest_b = 0, largest_x = 0, largest_a = 0;
        for (std::size_t i = 0; i < size_; ++i) {
            worst = std::max(worst, std::fabs(r[i]));
            largest_b = std::max(largest_b, std::fabs(b[i]));
            largest_x = std::max(largest_x, std::fabs(x[i]));
        }
        for (const double v : matrix_->value) largest_a = std::max(largest_a, std::fabs(v));
        const double scale = largest_a * largest_x + largest_b;
        report_.scale = scale;
        report_.residual = scale > 0 ? worst / scale : 0;
        report_.steps = steps;
        report_.solve_seconds = seconds_since(start);
        return x;
    }

    [[nodiscard]] const SolverReport& report() const override { return report_; }
    [[nodiscard]] int bad_unknown() const override { return -1; }

  private:
    /// Of the block-scaled matrix, from the coefficients of conjugate gradients with a fixed start (Golub & Van Loan
    /// 2013, Matrix Computations, sec. 11.3).
    double largest_value() {
        Vector r(size_), z(size_), p(size_, 0.0), q(size_);
        std::uint32_t state = 12345;
        for (auto& v : r) {
            state = state * 1664525U + 1013904223U;
            v = static_cast<double>(state) / 4294967296.0 - 0.5;
        }
        Eigen::MatrixXd t = Eigen::MatrixXd::Zero(lanczos_steps, lanczos_steps);
        double rho_before = 1, alpha_before = 1;
        int steps = 0;
        for (int k = 0; k < lanczos_steps; ++k) {
            diagonal_->apply(r, z);
            const double rho = dot(r, z);
            if (!(rho > 0)) break;
            const double beta = k == 0 ? 0 : rho / rho_before;
            in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
                for (std::size_t i = begin; i < end; ++i) p[i] = z[i] + beta * p[i];
            });
            matrix_->multiply(p, q);
            const double alpha = rho / dot(p, q);
            t(k, k) = 1 / alpha + beta / alpha_before;
            if (k > 0) t(k, k - 1) = t(k - 1, k) = std::sqrt(beta) / alpha_before;
            in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
                for (std::size_t i = begin; i < end; ++i) r[i] -= alpha * q[i];
            });
            rho_before = rho;
            alpha_before = alpha;
            ++steps;
        }
        if (steps == 0) return 1;
        return lanczos_margin * symmetric_eigen(t.topLeftCorner(steps, steps)).values[steps - 1];
    }

    /// Two Chebyshev steps on A e = r from e = 0; adds e to x.
    void smooth(const Vector& r, Vector& x) {
        const double high = largest_, low = largest_ / smoothed_range;
        const double theta = 0.5 * (high + low), delta = 0.5 * (high - low), sigma = theta / delta;
        const double rho1 = 1 / sigma, rho2 = 1 / (2 * sigma - rho1);
        diagonal_->apply(r, a_);  // first step: e = D^-1 r / theta
        in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i) {
                a_[i] /= theta;
                x[i] += a_[i];
            }
        });
        matrix_->multiply_roughly(a_, b_, &r);
        diagonal_->apply(b_, c_);
        in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i) x[i] += rho2 * rho1 * a_[i] + 2 * rho2 / delta * c_[i];
        });
    }

    void correct(const Vector& r, Vector& x) {
        Vector restricted(static_cast<std::size_t>(coarse_.matrix.size), 0.0);
        for (std::size_t i = 0; i < size_; ++i)
            for (auto k = coarse_.first[i]; k < coarse_.first[i + 1]; ++k)
                restricted[static_cast<std::size_t>(coarse_.unknown[static_cast<std::size_t>(k)])] +=
                    coarse_.weight[static_cast<std::size_t>(k)] * r[i];
        const Vector e = coarse_solver_->solve_once(restricted);
        in_pieces(size_, [&](std::size_t, std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i)
                for (auto k = coarse_.first[i]; k < coarse_.first[i + 1]; ++k)
                    x[i] += coarse_.weight[static_cast<std::size_t>(k)] *
                            e[static_cast<std::size_t>(coarse_.unknown[static_cast<std::size_t>(k)])];
        });
    }

    void precondition(const Vector& r, Vector& z) {
        std::fill(z.begin(), z.end(), 0.0);
        left_.resize(size_);
        smooth(r, z);
        matrix_->multiply_roughly(z, left_, &r);
        correct(left_, z);
        matrix_->multiply_roughly(z, left_, &r);
        smooth(left_, z);
    }

    CoarseSpace coarse_;
    std::vector<std::int32_t> first_unknown_;
    std::unique_ptr<LinearSolver> coarse_solver_;
    std::unique_ptr<RowMatrix> matrix_;
    std::unique_ptr<BlockDiagonal> diagonal_;
    std::size_t size_ = 0;
    double largest_ = 1;
    Vector a_, b_, c_, left_;
    SolverReport report_;
};

}  // namespace

namespace {

template <int D>
void make_linear(const MeshIn<D>& mesh, MeshIn<D>& m) {
    std::vector<std::int32_t> number(mesh.nodes.size(), -1);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c)
            number[static_cast<std::size_t>(mesh.element(e)[c])] = 0;
    for (std::size_t n = 0; n < number.size(); ++n) {
        if (number[n] < 0) continue;
        number[n] = static_cast<std::int32_t>(m.nodes.size());
        m.nodes.push_back(mesh.nodes[n]);
    }
    m.first.push_back(0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        m.kinds.push_back(of_degree(mesh.kinds[e], 1));
        for (std::size_t c = 0; c < static_cast<std::size_t>(corner_count(mesh.kinds[e])); ++c)
            m.connectivity.push_back(number[static_cast<std::size_t>(mesh.element(e)[c])]);
        m.first.push_back(static_cast<std::int64_t>(m.connectivity.size()));
    }
    m.region = mesh.region;
    m.row = mesh.row;
    for (auto side : mesh.boundary) {
        for (std::size_t k = 0; k < 2 && D == 2; ++k) side.nodes[k] = number[static_cast<std::size_t>(side.nodes[k])];
        side.nodes[2] = -1;
        m.boundary.push_back(side);
    }
    m.boundary_names = mesh.boundary_names;
    m.region_names = mesh.region_names;
    m.names_of_edge = mesh.names_of_edge;
    number_slots(m, m.nodes.size());
    m.sides = mesh.sides;
}

}  // namespace

Mesh linear_mesh(const Mesh& mesh) {
    Mesh out;
    make_linear(mesh, out);
    out.end_normals = mesh.end_normals;
    return out;
}

SolidMesh linear_mesh(const SolidMesh& mesh) {
    SolidMesh out;
    make_linear(mesh, out);
    return out;
}

bool suits_multigrid(const Mesh& mesh) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (polynomial_degree(mesh.kinds[e]) != 2) return false;
        const auto p = mesh.positions(e);
        const auto corners = static_cast<std::size_t>(corner_count(mesh.kinds[e]));
        double longest = 0;
        for (std::size_t c = 0; c < corners; ++c) longest = std::max(longest, distance(p[c], p[(c + 1) % corners]));
        // Of a square or an equilateral triangle this is about 1.
        if (longest * longest > flattest * std::fabs(mesh.measure_of(e))) return false;
    }
    return true;
}

bool suits_multigrid(const SolidMesh& mesh) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (polynomial_degree(mesh.kinds[e]) != 2) return false;
        const auto p = mesh.positions(e);
        const KindTable& table = table_of(mesh.kinds[e]);
        double longest = 0, surface = 0, volume = 0;
        for (std::size_t k = 0; k < table.edges; ++k)
            longest = std::max(longest, distance(p[table.edge[k][0]], p[table.edge[k][1]]));
        const Vec3 centre = mesh.centre_of(e);
        for (std::size_t s = 0; s < table.sides; ++s)
            for (std::size_t c = 1; c + 1 < table.side_corners[s]; ++c) {
                const Vec3& a = p[table.side[s][0]];
                const Vec3 twice_area = cross(p[table.side[s][c]] - a, p[table.side[s][c + 1]] - a);
                surface += norm(twice_area) / 2;
                volume += dot(twice_area, a - centre) / 6;
            }
        // Of a cube this is 1.
        if (longest * surface > flattest * 6 * std::fabs(volume)) return false;
    }
    return true;
}

CoarseSpace coarse_space(const Assembly& fine, const Assembly& linear) {
    const FieldLayout& layout = linear.layout;
    const Constraints& constraints = linear.constraints;
    const int components = layout.components;
    const auto c = static_cast<std::size_t>(components);
    const Topology& mesh = fine.mesh;
    const auto element = [&](std::size_t e, ElementMatrix& k) {
        thread_local ElementMatrix full;
        thread_local std::vector<double> half;
        fine.element_matrix(e, full);
        const ElementKind kind = mesh.kinds[e];
        const auto nodes = static_cast<std::size_t>(node_count(kind)),
                   count = static_cast<std::size_t>(corner_count(kind));
        // Corner q has an equal share in every node that lies in the middle of some corners.
        std::array<std::array<double, most_corners<3>>, most_nodes<3>> w{};
        for (std::size_t i = 0; i < nodes; ++i)
            for (const auto q : corners_of_node(kind, i))
                w[i][q] = 1 / static_cast<double>(corners_of_node(kind, i).size());
        const auto shared = static_cast<std::size_t>(layout.shared);
        const std::size_t rows = count * c + shared, old = nodes * c, width = count * c;
        // Columns first, then rows.
        half.assign((old + shared) * width, 0.0);
        for (std::size_t i = 0; i < old + shared; ++i)
            for (std::size_t q = 0; q < count; ++q)
                for (std::size_t a = 0; a < c; ++a) {
                    double s = 0;
                    for (std::size_t j = 0; j < nodes; ++j)
                        if (w[j][q] != 0) s += w[j][q] * full.of(i, j * c + a);
                    half[i * width + q * c + a] = s;
                }
        k.reset(rows);
        for (std::size_t p = 0; p < count; ++p)
            for (std::size_t a = 0; a < c; ++a)
                for (std::size_t q = 0; q < count * c; ++q) {
                    double s = 0;
                    for (std::size_t j = 0; j < nodes; ++j)
                        if (w[j][p] != 0) s += w[j][p] * half[(j * c + a) * width + q];
                    k(p * c + a, q) = s;
                }
        for (std::size_t s = 0; s < shared; ++s) {
            for (std::size_t q = 0; q < count * c; ++q) k(count * c + s, q) = half[(old + s) * width + q];
            for (std::size_t t = 0; t <= s; ++t) k(count * c + s, count * c + t) = full(old + s, old + t);
        }
    };
    const Assembly restricted{linear.mesh, linear.node_count, layout, constraints, element, linear.joints};
    System system = assemble(restricted, std::vector<std::vector<double>>(
                                             constraints.cases, Vector(static_cast<std::size_t>(layout.dofs), 0.0)));

    CoarseSpace out;
    out.order = system.order();
    out.matrix = std::move(system.matrix);
    // For each fine node an element that has it, and as which of its nodes.
    std::vector<std::pair<std::int32_t, std::int32_t>> place(static_cast<std::size_t>(fine.layout.nodes));
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto* own = fine.layout.connectivity.data() + mesh.first[e];
        for (std::int32_t i = 0; i < node_count(mesh.kinds[e]); ++i)
            place[static_cast<std::size_t>(own[i])] = {static_cast<std::int32_t>(e), i};
    }
    out.first.push_back(0);
    for (std::int32_t d = 0; d < fine.layout.dofs; ++d) {
        if (fine.constraints.unknown_of(d) < 0) continue;
        const auto add = [&](std::int32_t dof, double share) {
            constraints.each_term(dof, [&](std::int32_t u, double a) {
                out.unknown.push_back(u);
                out.weight.push_back(share * a);
            });
        };
        const std::int32_t nodal = fine.layout.nodes * components;
        if (d >= nodal) {
            add(layout.nodes * components + d - nodal, 1);
        } else {
            const auto [e, i] = place[static_cast<std::size_t>(d / components)];
            const auto& corners = corners_of_node(mesh.kinds[static_cast<std::size_t>(e)], static_cast<std::size_t>(i));
            const auto* coarse = layout.connectivity.data() + linear.mesh.first[static_cast<std::size_t>(e)];
            for (const auto m : corners)
                add(layout.dof(coarse[m], d % components), 1 / static_cast<double>(corners.size()));
        }
        out.first.push_back(static_cast<std::int64_t>(out.unknown.size()));
    }
    return out;
}

std::unique_ptr<LinearSolver> make_multigrid_solver(CoarseSpace coarse, std::vector<std::int32_t> first_unknown) {
    return std::make_unique<Multigrid>(std::move(coarse), std::move(first_unknown));
}

}  // namespace dotsift
