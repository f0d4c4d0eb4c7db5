// SPDX-License-Identifier: MIT
#include "bench/fit/solve.hpp"

#include <Eigen/QR>

namespace zorilla::bench {

MatrixXd pseudo_inverse(const MatrixXd& a) {
    return a.completeOrthogonalDecomposition().pseudoInverse();
}

} // namespace zorilla::bench
