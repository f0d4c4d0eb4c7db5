// SPDX-License-Identifier: MIT
/// \file
/// Converter codes to values by a straight line, in integers: exact wherever the formula gives a
/// whole number of thousandths, and less than one off elsewhere.
#pragma once

#include "zorilla/units/decimal.hpp"
#include "zorilla/units/product.hpp"

#include <stdint.h>

namespace zorilla {

/// A line as a chip keeps it: a value at its first code, and what each further code adds to it, in
/// thousandths and 2^-16 of them. Codes below the first are not its own.
struct StraightLine {
    uint16_t first = 0;
    int32_t base = 0;
    uint16_t slope = 0;
    uint16_t fraction = 0;
    uint16_t rest = 0; ///< of the base, with the half that rounds
    bool falls = false;

    /// The value of a code, in thousandths. Two products of 16 bits.
    [[gnu::always_inline]] constexpr int32_t value_at(uint16_t code) const {
        const auto along = static_cast<uint16_t>(code - first);
        const auto way = static_cast<int32_t>(detail::product(along, slope) +
                                              ((detail::product(along, fraction) + rest) >> 16));
        return falls ? base - way : base + way;
    }
};

/// The line (times * code + plus) / by from `first` on. What a code adds is off by at most half of
/// 2^-16, and so over 65,535 codes by less than the half that turns a rounded whole number.
/// \param by  above 0  \pre  less than 65.536 units for each code
constexpr StraightLine straight_line(int64_t times, int64_t plus, int64_t by, uint16_t first) {
    StraightLine out;
    if (by <= 0)
        return out; // a spec that is refused elsewhere
    const int64_t at_first = times * first + plus;
    const int64_t left = (at_first % by + by) % by;
    out.first = first;
    out.falls = times < 0;
    out.base = static_cast<int32_t>((at_first - left) / by);
    const int64_t each = divide_rounded((out.falls ? -times : times) * 65'536, by);
    out.slope = static_cast<uint16_t>(each >> 16);
    out.fraction = static_cast<uint16_t>(each);
    const int64_t part = divide_rounded(left * 65'536, by);
    int64_t rest = out.falls ? 32'768 - part : 32'768 + part;
    if (rest < 0 || rest > 65'535) {
        ++out.base;
        rest += rest < 0 ? 65'536 : -65'536;
    }
    out.rest = static_cast<uint16_t>(rest);
    return out;
}

namespace detail {

/// Whether a curve is a straight line, and says so by `line(first)`.
template <class Curve, class = void> inline constexpr bool is_line = false;
template <class Curve>
inline constexpr bool is_line<Curve, decltype(void(Curve{}.line(uint16_t{0})))> = true;

} // namespace detail
} // namespace zorilla
