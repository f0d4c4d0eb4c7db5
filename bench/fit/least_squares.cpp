// SPDX-License-Identifier: MIT
#include "bench/fit/solve.hpp"

#include <Eigen/QR>

namespace zorilla::bench {

VectorXd least_squares(const MatrixXd& a, const VectorXd& b, const VectorXd& weights) {
    const VectorXd root = weights.cwiseSqrt();
    MatrixXd scaled = root.asDiagonal() * a;
    VectorXd sizes = scaled.colwise().norm().transpose();
    for (Index i = 0; i < sizes.size(); ++i)
        sizes(i) = sizes(i) > 0 ? sizes(i) : 1;
    scaled = scaled * sizes.cwiseInverse().asDiagonal();
    const VectorXd solved = scaled.colPivHouseholderQr().solve((root.array() * b.array()).matrix());
    return sizes.cwiseInverse().asDiagonal() * solved;
}

} // namespace zorilla::bench
