#include "solve/singular/corner_exponents.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/dense.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;
// Elements of three nodes over the angle are at most this wide: exponents are then exact to five digits (test).
constexpr double widest = pi / 10;
// Motions as a whole have the exponents 0 and 1; what lies this near to them is one of these, or so weak that no mesh
// sees it.
constexpr double least = 0.02, most = 0.995;
// Imaginary parts up to this are rounding.
constexpr double rounding = 1e-9;

// Modes with greater exponents are as well described by polynomials.
constexpr double highest_mode = 2;

bool infinite_stress(double exponent) {
    return exponent > least && exponent < most;
}

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

    struct Solved {
        std::complex<double> exponent;
        Eigen::VectorXcd motion;  ///< of all nodes
    };

    /// Exponents for which `wanted` holds, one of each conjugate pair.
    template <class Wanted>
    std::vector<Solved> solve(bool with_motions, Wanted wanted) {
        hold_rays();
        const auto n = e0_.rows();
        if (n == 0) return {};
        // (E0 lambda^2 + (E1^T - E1) lambda - E2) u = 0, made linear.
        Matrix both = Matrix::Zero(2 * n, 2 * n);
        both.topRightCorner(n, n).setIdentity();
        both.bottomLeftCorner(n, n) = solve_positive(e0_, e2_);
        both.bottomRightCorner(n, n) = solve_positive(e0_, e1_ - e1_.transpose());
        const GeneralEigen solved = general_eigen(both, with_motions);
        std::vector<Solved> out;
        for (Eigen::Index k = 0; k < 2 * n; ++k) {
            const std::complex<double> v = solved.values[k];
            if (!wanted(v.real()) || v.imag() < -rounding) continue;
            const bool is_real = v.imag() <= rounding;
            out.push_back({{v.real(), is_real ? 0 : v.imag()}, {}});
            if (!with_motions) continue;
            const Eigen::VectorXcd held = solved.vectors.col(k).head(n);
            Eigen::VectorXcd motion = Eigen::VectorXcd::Zero(to_all_.rows());
            motion.real() = product(to_all_, held.real());
            if (!is_real) motion.imag() = product(to_all_, held.imag());
            out.back().motion = motion / motion.cwiseAbs().maxCoeff();
        }
        std::sort(out.begin(), out.end(),
                  [](const Solved& a, const Solved& b) { return a.exponent.real() < b.exponent.real(); });
        return out;
    }

    std::vector<std::complex<double>> exponents() {
        std::vector<std::complex<double>> out;
        for (const auto& s : solve(false, infinite_stress)) out.push_back(s.exponent);
        return out;
    }

    /// The angle of each node.
    [[nodiscard]] std::vector<double> angles() const {
        std::vector<double> out{fan_.wedges.front().from};
        for (const auto& w : fan_.wedges)
            for (int k = 0; k < 2 * elements_in(w); ++k)
                out.push_back(w.from + (k + 1) * (w.to - w.from) / (2 * elements_in(w)));
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
        if (motions_ == 2 && w.law->elastic.nearly_incompressible) {
            // It is integrated at two points an element: at more, the volume would have to stay where three nodes do
            // not let it, and smooth bodies would look singular (Hughes 1980, Int. J. Numer. Meth. Eng. 15).
            const double volume = law(0, 1);
            law.topLeftCorner(2, 2).array() -= volume;
            constexpr double gauss = 0.28867513459481287;  // half of 1 / sqrt(3)
            const Matrix by_volume = (Matrix(3, 3) << volume, volume, 0, volume, volume, 0, 0, 0, 0).finished();
            for (const double t : {0.5 - gauss, 0.5 + gauss}) add_point(by_volume, t, 0.5, from, to, first);
        }
        for (const auto& q : line_rule()) add_point(law, q.t, q.weight, from, to, first);
    }

    void add_point(const Matrix& law, double t, double weight_of_point, double from, double to, int first) {
        const double angle = from + (to - from) * t, c = std::cos(angle), s = std::sin(angle);
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
        const double weight = weight_of_point * (to - from);
        const Matrix by1 = weight * product(law, b1), by2 = weight * product(law, b2);
        const Matrix f0 = transposed_product(b1, by1), f1 = transposed_product(b2, by1),
                     f2 = transposed_product(b2, by2);
        for (int a = 0; a < 3 * motions_; ++a)
            for (int b = 0; b < 3 * motions_; ++b) {
                const int row = ((first + a / motions_) % count_) * motions_ + a % motions_,
                          column = ((first + b / motions_) % count_) * motions_ + b % motions_;
                e0_(row, column) += f0(a, b);
                e1_(row, column) += f1(a, b);
                e2_(row, column) += f2(a, b);
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
        for (Matrix* m : {&e0_, &e1_, &e2_}) *m = transposed_product(to_all, product(*m, to_all));
        to_all_ = std::move(to_all);
    }

    const Fan& fan_;
    int motions_, count_ = 0;
    Matrix e0_, e1_, e2_, to_all_;
};

}  // namespace

std::vector<std::complex<double>> displacement_exponents(const Fan& fan) {
    return AngularProblem(fan, 2).exponents();
}
std::vector<std::complex<double>> potential_exponents(const Fan& fan) {
    return AngularProblem(fan, 1).exponents();
}

CornerModes::CornerModes(const Fan& fan, int motions) : motions_(motions), closed_(fan.closed) {
    AngularProblem problem(fan, motions);
    angles_ = problem.angles();
    const auto wanted = [](double e) { return infinite_stress(std::fabs(e)) || (e > 2 - most && e < highest_mode); };
    for (const auto& s : problem.solve(true, wanted)) {
        Mode m{s.exponent, false, {s.motion.data(), s.motion.data() + s.motion.size()}};
        if (closed_) m.motion.insert(m.motion.end(), m.motion.begin(), m.motion.begin() + motions);
        modes_.push_back(m);
        m.imaginary = true;
        if (s.exponent.imag() > 0) modes_.push_back(std::move(m));
    }
}

CornerModes::Ray CornerModes::ray(const Vec2& place) const {
    double angle = std::atan2(place[1], place[0]);
    // Into the fan; a place just outside of it, which a curved side makes possible, takes the nearest ray.
    const double middle = (angles_.front() + angles_.back()) / 2;
    while (angle < middle - pi) angle += 2 * pi;
    while (angle > middle + pi) angle -= 2 * pi;
    angle = std::clamp(angle, angles_.front(), angles_.back());
    std::size_t first = 0;
    while (first + 4 < angles_.size() && angle > angles_[first + 2]) first += 2;
    const double width = angles_[first + 2] - angles_[first], t = (angle - angles_[first]) / width;
    return {norm(place),
            std::cos(angle),
            std::sin(angle),
            first,
            {(1 - t) * (1 - 2 * t), 4 * t * (1 - t), t * (2 * t - 1)},
            {(4 * t - 3) / width, (4 - 8 * t) / width, (4 * t - 1) / width}};
}

CornerModes::Value CornerModes::at(std::size_t mode, const Ray& ray) const {
    const Mode& m = modes_[mode];
    const double r = ray.distance, c = ray.cosine, s = ray.sine;
    const double real = m.exponent.real(), turn = m.exponent.imag();
    const std::complex<double> rise = turn == 0 ? std::pow(r, real) : std::polar(std::pow(r, real), turn * std::log(r));
    const std::complex<double> slope = rise / r;
    const auto part = [&](const std::complex<double>& z) { return m.imaginary ? z.imag() : z.real(); };
    Value out;
    for (int k = 0; k < motions_; ++k) {
        std::complex<double> f = 0, df = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            const std::complex<double> v =
                m.motion[(ray.first + i) * static_cast<std::size_t>(motions_) + static_cast<std::size_t>(k)];
            f += ray.n[i] * v;
            df += ray.dn[i] * v;
        }
        const auto at = static_cast<std::size_t>(k);
        out.motion[at] = r > 0 ? part(rise * f) : 0;
        out.gradient[at] = {{part(slope * (c * m.exponent * f - s * df)), part(slope * (s * m.exponent * f + c * df))}};
    }
    return out;
}

}  // namespace dotsift
