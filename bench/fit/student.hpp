// SPDX-License-Identifier: MIT
/// \file
/// Errors that are known from few points.
#pragma once

#include <cmath>

namespace zorilla::bench {

/// By how much an error is wider for being known from few points only, so that twice of it is
/// exceeded in one of twenty cases: Student's quantile over the normal one (M. Abramowitz, I.
/// A. Stegun, Handbook of Mathematical Functions, 26.7.5).
inline double widening(double freedom) {
    constexpr double z = 1.959964;
    if (freedom < 3)
        return (freedom < 2 ? 12.7062 : 4.3027) / z;
    const double z3 = z * z * z, z5 = z3 * z * z, z7 = z5 * z * z;
    return (z + (z3 + z) / (4 * freedom) + (5 * z5 + 16 * z3 + 3 * z) / (96 * freedom * freedom) +
            (3 * z7 + 19 * z5 + 17 * z3 - 15 * z) / (384 * std::pow(freedom, 3))) /
           z;
}

} // namespace zorilla::bench
