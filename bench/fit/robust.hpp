// SPDX-License-Identifier: MIT
/// \file
/// Least squares that a mistyped pair cannot spoil. Only for bench/ itself: it brings in Eigen.
#pragma once

#include "bench/fit/fit.hpp"

#include <Eigen/Core>

namespace zorilla::bench {

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::VectorXd;

/// A curve whose value is a fixed function of something linear in its coefficients.
struct Curve {
    std::function<VectorXd(double raw)> basis;
    std::function<double(double)> value;   ///< of the linear part
    std::function<double(double)> slope;   ///< of `value`
    std::function<double(double)> inverse; ///< of `value`
};

/// What a robust fit comes to.
struct Solution {
    VectorXd p;
    MatrixXd covariance;
    VectorXd residuals;
    VectorXd weights;
    double deviation = 0;
};
/// Fits a curve to pairs: what lies far from the curve that most agree on is left out.
/// \param target  what is fitted, of a true value
/// \param finest  the least residual that can be anything but rounding
Solution solve_robustly(const Curve& curve, const std::vector<FitPoint>& points,
                        const std::function<double(double)>& target, double finest);

} // namespace zorilla::bench
