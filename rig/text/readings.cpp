// SPDX-License-Identifier: MIT
// Measured values as text.
#include "rig/text/kinds.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

std::string reading_text(int32_t thousandths, Kind kind) {
    return reading_text(thousandths, kind, {});
}

std::string reading_text(int32_t thousandths, Kind kind, const std::vector<int32_t>& points) {
    const int digits = row_of(kind).digits;
    if (digits == 3 || kind == Kind::truth)
        return to_text(thousandths, kind, digits);
    // Large values with fewer decimals than small ones.
    const int64_t value = shown_thousandths(thousandths, kind);
    const int64_t size = value < 0 ? -value : value;
    for (int shown = size >= 1'000'000 ? 0 : digits;; ++shown) {
        constexpr int64_t steps[] = {1000, 100, 10, 1};
        const int64_t rounded = divide_rounded(value, steps[shown]) * steps[shown];
        const auto is_on_its_side = [&](int32_t point) {
            const int64_t at = shown_thousandths(point, kind);
            return (rounded < at) == (thousandths < point) &&
                   (rounded > at) == (thousandths > point);
        };
        if (shown == 3 || std::all_of(points.begin(), points.end(), is_on_its_side))
            return fmt::format("{} {}", decimal_text(rounded, shown), unit_of(kind));
    }
}

} // namespace zorilla::rig
