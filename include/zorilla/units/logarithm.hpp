// SPDX-License-Identifier: MIT
/// \file
/// A natural logarithm in integers, so that a table built with it has the same bits everywhere.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stdint.h>

namespace zorilla::detail {

inline constexpr int64_t ln_two = 744'261'118; // ln 2 in units of 2^-30

/// ln(x) for x from 1 up, in units of 2^-30; the error is below 2e-8.
/// For building tables, at compile time or on the desk; not meant for a pass on a chip.
///
/// x = m * 2^k with m between sqrt(1/2) and sqrt(2), and ln m = 2 artanh((m - 1) / (m + 1)) by its
/// power series (Abramowitz and Stegun, Handbook of Mathematical Functions, 4.1.27 and 4.6.22).
constexpr int64_t natural_log(uint32_t x) {
    const int32_t exponent = 63 - __builtin_clzll(x);
    const uint32_t scaled = x << (31 - exponent);
    const bool upper = scaled > 3'037'000'500U; // sqrt(2) in units of 2^-31
    const int64_t mantissa = upper ? scaled >> 1 : scaled;
    const int64_t one = int64_t{1} << 31;
    const int64_t z = (mantissa - one) * one / (mantissa + one);
    const int64_t z2 = z * z >> 31;
    const int64_t tail =
        one / 9 + (z2 * (one / 11 + (z2 * (one / 13 + (z2 * (one / 15) >> 31)) >> 31)) >> 31);
    const int64_t series =
        one +
        (z2 * (one / 3 + (z2 * (one / 5 + (z2 * (one / 7 + (z2 * tail >> 31)) >> 31)) >> 31)) >>
         31);
    return (z * series >> 31) + (exponent + (upper ? 1 : 0)) * ln_two;
}

/// e^x rounded to a whole number, for x in units of 2^-30; at most 2^31 - 1. Relative error below
/// 2e-7. For building tables, like `natural_log`.
///
/// e^x = 2^k e^r with r from 0 to ln 2, and e^r by its power series (Abramowitz and Stegun,
/// Handbook of Mathematical Functions, 4.2.1).
constexpr int64_t natural_exponential(int64_t x) {
    const int64_t most = 0x7fff'ffff;
    if (x < -2 * ln_two)
        return 0;
    const int64_t k = x < 0 ? -((-x + ln_two - 1) / ln_two) : x / ln_two;
    if (k >= 31)
        return most;
    const int64_t r = x - k * ln_two;
    const int64_t one = int64_t{1} << 30;
    int64_t sum = one;
    for (int64_t term = 12; term > 0; --term)
        sum = one + sum * r / term / one;
    const int64_t down = 30 - k;
    const int64_t rounded = (sum + (int64_t{1} << down >> 1)) >> down;
    return rounded > most ? most : rounded;
}

} // namespace zorilla::detail
