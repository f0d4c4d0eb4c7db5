// SPDX-License-Identifier: MIT
/// \file
/// What takes the compiler long, each in a file of its own. Only for who fits.
#pragma once

#include "bench/fit/robust.hpp"

namespace zorilla::bench {

/// Solves weighted least squares with its columns brought to one size.
VectorXd least_squares(const MatrixXd& a, const VectorXd& b, const VectorXd& weights);
/// The inverse, or what comes closest to it (E. H. Moore, R. Penrose).
MatrixXd pseudo_inverse(const MatrixXd& a);

} // namespace zorilla::bench
