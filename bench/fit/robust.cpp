// SPDX-License-Identifier: MIT
#include "bench/fit/robust.hpp"

#include "bench/fit/solve.hpp"
#include "bench/fit/student.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

namespace zorilla::bench {

namespace {

double median_of(std::vector<double> all) {
    const auto middle = all.begin() + static_cast<ptrdiff_t>(all.size() / 2);
    std::nth_element(all.begin(), middle, all.end());
    if (all.size() % 2 == 1)
        return *middle;
    return (*middle + *std::max_element(all.begin(), middle)) / 2;
}

class RobustFit {
  public:
    RobustFit(const Curve& curve, const std::vector<FitPoint>& points,
              const std::function<double(double)>& target)
        : curve_(curve), n_(static_cast<Index>(points.size())) {
        truth_.resize(n_);
        for (Index i = 0; i < n_; ++i) {
            const FitPoint& point = points[static_cast<size_t>(i)];
            const VectorXd row = curve.basis(point.raw);
            if (i == 0)
                basis_.resize(n_, row.size());
            basis_.row(i) = row.transpose();
            truth_(i) = target(point.truth);
        }
        wanted_ = truth_.unaryExpr(curve.inverse);
        m_ = basis_.cols();
    }

    /// \param finest  the least residual that can be anything but rounding
    Solution solve(double finest) {
        Solution out;
        out.weights = VectorXd::Ones(n_);
        out.p = newton(least_squares(basis_, wanted_, out.weights), out.weights);
        // With hardly more points than coefficients, nothing can be told apart from an outlier.
        if (n_ >= m_ + 4)
            leave_out(out, finest);
        out.residuals = residuals(out.p);
        spread(out);
        return out;
    }

  private:
    VectorXd residuals(const VectorXd& p) const {
        return truth_ - (basis_ * p).unaryExpr(curve_.value);
    }
    MatrixXd jacobian(const VectorXd& p) const {
        return (basis_ * p).unaryExpr(curve_.slope).asDiagonal() * basis_;
    }
    /// What is no more than rounding.
    double tiny() const { return 1e-9 * std::max(truth_.cwiseAbs().maxCoeff(), 1e-30); }

    /// Least squares of what is measured, not of the linear part (C. F. Gauss's method).
    VectorXd newton(VectorXd p, const VectorXd& weights) const {
        double cost = (weights.array() * residuals(p).array().square()).sum();
        for (int i = 0; i < 30; ++i) {
            VectorXd step = least_squares(jacobian(p), residuals(p), weights);
            double next = 0;
            for (int half = 0; half < 30; ++half, step /= 2) {
                next = (weights.array() * residuals(p + step).array().square()).sum();
                if (std::isfinite(next) && next <= cost)
                    break;
            }
            if (!std::isfinite(next) || next > cost)
                break;
            p += step;
            const bool settled = cost - next <= 1e-14 * cost;
            cost = next;
            if (settled)
                break;
        }
        return p;
    }

    double median_size(const VectorXd& p) const {
        const VectorXd all = residuals(p).cwiseAbs();
        return median_of({all.data(), all.data() + all.size()});
    }

    /// A curve that half of the points agree on: of many drawn through as many points as there are
    /// coefficients, the one with the least median residual (P. J. Rousseeuw, 1984), and then the
    /// best of its better half.
    VectorXd start(const VectorXd& plain) const {
        if (m_ > 3)
            return start_by_sizes(plain);
        VectorXd best = plain;
        double least = median_size(plain);
        std::mt19937 random(1);
        std::vector<Index> all(static_cast<size_t>(n_));
        std::iota(all.begin(), all.end(), Index{0});
        for (int draw = 0; draw < 150; ++draw) {
            // The first few of a shuffled list; by hand, to be the same with every library.
            for (Index i = 0; i < m_; ++i) {
                const auto other = i + static_cast<Index>(random() % static_cast<uint32_t>(n_ - i));
                std::swap(all[static_cast<size_t>(i)], all[static_cast<size_t>(other)]);
            }
            VectorXd chosen = VectorXd::Zero(n_);
            for (Index i = 0; i < m_; ++i)
                chosen(all[static_cast<size_t>(i)]) = 1;
            VectorXd p = least_squares(basis_, wanted_, chosen);
            for (int again = 0; again < 2; ++again)
                p = least_squares(basis_, wanted_, better_half(p));
            const double size = median_size(p);
            if (std::isfinite(size) && size < least) {
                least = size;
                best = p;
            }
        }
        return newton(best, better_half(best));
    }
    VectorXd better_half(const VectorXd& p) const {
        const VectorXd all = residuals(p).cwiseAbs();
        const double bound = median_size(p) * (1 + 1e-12);
        VectorXd out(n_);
        for (Index i = 0; i < n_; ++i)
            out(i) = all(i) <= bound ? 1 : 0;
        return out.sum() >= static_cast<double>(m_) ? out : VectorXd(VectorXd::Ones(n_));
    }
    /// With many coefficients: the least sum of sizes instead of squares, by weights.
    VectorXd start_by_sizes(VectorXd p) const {
        for (int i = 0; i < 60; ++i) {
            const VectorXd all = residuals(p).cwiseAbs();
            const double floor = std::max(1e-3 * median_size(p), tiny());
            p = least_squares(basis_, wanted_, (all.array().max(floor)).inverse().matrix());
        }
        return p;
    }

    /// The deviation of a normal distribution with this median size; a little more, since the
    /// curve has bent itself towards the points.
    double scale_of(const VectorXd& all) const {
        const VectorXd sizes = all.cwiseAbs();
        const auto freedom = static_cast<double>(n_ - m_);
        return 1.4826 * (1 + 5 / freedom) * median_of({sizes.data(), sizes.data() + sizes.size()});
    }

    /// Weights that fall from one to nothing at 4.685 deviations (J. W. Tukey's bisquare).
    static VectorXd bisquare(const VectorXd& u) {
        constexpr double reach = 4.685;
        return u.unaryExpr([](double x) {
            const double y = 1 - x * x / (reach * reach);
            return std::fabs(x) < reach ? y * y : 0.0;
        });
    }

    /// Finds the points that are far from where most lie, and fits to the others alone.
    void leave_out(Solution& out, double finest) const {
        VectorXd p = start(out.p);
        const double scale = scale_of(residuals(p));
        if (scale <= tiny())
            return;
        for (int i = 0; i < 100; ++i) {
            const VectorXd next = newton(p, bisquare(residuals(p) / scale));
            const double moved = ((next - p).array().abs() / (p.array().abs() + 1e-30)).maxCoeff();
            p = next;
            if (moved < 1e-12)
                break;
        }
        // The fewer points, the less their scale is known, and the further one may be off.
        const double reach = 4 + 20 / static_cast<double>(n_ - m_);
        const VectorXd all = residuals(p);
        for (Index i = 0; i < n_; ++i)
            out.weights(i) = std::fabs(all(i)) <= std::max(reach * scale, 2 * finest) ? 1 : 0;
        out.p = newton(p, out.weights);
    }

    /// Deviation and covariance of the points that were kept.
    void spread(Solution& out) const {
        const double freedom = out.weights.sum() - static_cast<double>(m_);
        const double square =
            freedom >= 1 ? (out.weights.array() * out.residuals.array().square()).sum() / freedom
                         : std::nan("");
        MatrixXd scaled = out.weights.asDiagonal() * jacobian(out.p);
        VectorXd sizes = scaled.colwise().norm().transpose();
        for (Index i = 0; i < sizes.size(); ++i)
            sizes(i) = sizes(i) > 0 ? 1 / sizes(i) : 1;
        scaled = scaled * sizes.asDiagonal();
        const MatrixXd inverse = pseudo_inverse(scaled.transpose() * scaled);
        out.covariance = square * std::pow(widening(freedom), 2) *
                         (sizes.asDiagonal() * inverse * sizes.asDiagonal());
        out.deviation = std::sqrt(square);
    }

    const Curve& curve_;
    Index n_;
    Index m_ = 0;
    MatrixXd basis_;
    VectorXd truth_;
    VectorXd wanted_; ///< of the linear part
};
} // namespace

Solution solve_robustly(const Curve& curve, const std::vector<FitPoint>& points,
                        const std::function<double(double)>& target, double finest) {
    return RobustFit(curve, points, target).solve(finest);
}

} // namespace zorilla::bench
