// SPDX-License-Identifier: MIT
/// \file
/// How much rows that hang together say.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstddef>

namespace zorilla::bench {

/// How many rows say as much as one that is independent: the sum of what each has in common with
/// those before it, as far as that can be told from chance. \param rest  gives a row's
template <class Rest> double alike_rows(size_t rows, Rest rest) {
    double all = 0, out = 1;
    for (size_t row = 0; row < rows; ++row)
        all += rest(row) * rest(row);
    const size_t furthest = std::min<size_t>(rows / 4, 3000);
    for (size_t lag = 1; lag < furthest && all > 0; ++lag) {
        double both = 0;
        for (size_t row = lag; row < rows; ++row)
            both += rest(row) * rest(row - lag);
        if (both / all < 2 / std::sqrt(static_cast<double>(rows)))
            break;
        out += 2 * both / all;
    }
    return out;
}

} // namespace zorilla::bench
