// SPDX-License-Identifier: MIT
/// \file
/// Exact decimal text to integer, shared by the literals (`4.5_degC`) and by the rig file
/// ("4.5 degC"), so that both notations mean the same bits on every target.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stddef.h>
#include <stdint.h>

namespace zorilla {

namespace detail {
// Not the macros of <stdint.h>: some bare toolchains hide those from C++.
inline constexpr int32_t largest_int32 = 0x7fff'ffff;
inline constexpr int32_t smallest_int32 = -largest_int32 - 1;
inline constexpr int16_t largest_int16 = 0x7fff;
} // namespace detail

/// A plain decimal number: `digits / 10^places`.
struct Decimal {
    int64_t digits = 0;
    uint8_t places = 0;
    bool valid = false;
};

/// Reads `[+-]digits[.digits]`, with `'` allowed between digits as in C++.
/// Not valid: anything else (exponents, hexadecimal, an empty text), or more than 15 digits.
constexpr Decimal parse_decimal(const char* text, size_t length) {
    Decimal out;
    size_t at = 0;
    const bool negative = length > 0 && text[0] == '-';
    if (length > 0 && (text[0] == '-' || text[0] == '+'))
        ++at;
    uint8_t counted = 0;
    bool any = false;
    bool after_point = false;
    for (; at < length; ++at) {
        const char c = text[at];
        if (c == '\'' && any)
            continue;
        if (c == '.' && !after_point) {
            after_point = true;
            continue;
        }
        if (c < '0' || c > '9')
            return Decimal{};
        any = true;
        if (out.digits != 0 || c != '0')
            ++counted;
        if (counted > 15)
            return Decimal{};
        out.digits = out.digits * 10 + (c - '0');
        if (after_point)
            ++out.places;
    }
    while (out.places > 0 && out.digits % 10 == 0) {
        out.digits /= 10;
        --out.places;
    }
    if (negative)
        out.digits = -out.digits;
    out.valid = any;
    return out;
}

/// `a / b`, rounded to the nearest whole number, halves away from zero. `b` must be positive.
constexpr int64_t divide_rounded(int64_t a, int64_t b) {
    const int64_t magnitude = a < 0 ? -a : a;
    const int64_t whole = magnitude / b + (magnitude % b >= b - magnitude % b ? 1 : 0);
    return a < 0 ? -whole : whole;
}

/// How a written unit relates to what is stored:
/// `stored = (written - zero) * numerator / denominator`, with `zero` in whole written units.
struct UnitScale {
    int32_t numerator;
    int32_t denominator = 1;
    int64_t zero_in_hundredths = 0;
};

/// The result of scaling: the stored integer, whether it fits 32 bits, and whether nothing was
/// rounded away.
struct Scaled {
    int32_t stored = 0;
    bool fits = false;
    bool exact = false;
};

/// Scales a written decimal to its stored integer, rounding halves away from zero.
constexpr Scaled scale_decimal(Decimal written, UnitScale scale) {
    Scaled out;
    int64_t tens = 1;
    for (uint8_t i = 0; i < written.places; ++i)
        tens *= 10;
    int64_t zero = 0;
    int64_t top = 0;
    int64_t bottom = 0;
    // In hundredths of the written unit, so that a zero point such as 273.15 is exact.
    if (__builtin_mul_overflow(written.digits, int64_t{100}, &top) ||
        __builtin_mul_overflow(scale.zero_in_hundredths, tens, &zero) ||
        __builtin_sub_overflow(top, zero, &top) ||
        __builtin_mul_overflow(top, int64_t{scale.numerator}, &top) ||
        __builtin_mul_overflow(tens, int64_t{scale.denominator} * 100, &bottom))
        return out;
    const int64_t value = divide_rounded(top, bottom);
    out.exact = top % bottom == 0;
    out.fits = value >= detail::smallest_int32 && value <= detail::largest_int32;
    out.stored = out.fits ? static_cast<int32_t>(value) : 0;
    return out;
}

namespace detail {

/// The stored integer of a literal; what cannot be stored faithfully does not compile.
/// \tparam Rounds  true where the unit itself forces rounding (degrees Fahrenheit).
template <int32_t Numerator, int32_t Denominator, int64_t Zero, bool Rounds, char... Text>
constexpr int32_t literal() {
    constexpr char text[] = {Text...};
    constexpr Decimal written = parse_decimal(text, sizeof text);
    static_assert(written.valid, "write a plain decimal number before the unit, such as 4.5_degC");
    constexpr Scaled scaled = scale_decimal(written, UnitScale{Numerator, Denominator, Zero});
    static_assert(!written.valid || scaled.fits, "this value is too large for its unit");
    static_assert(!scaled.fits || scaled.exact || Rounds,
                  "this value is finer than what its unit can hold; drop the last digits");
    return scaled.stored;
}

} // namespace detail
} // namespace zorilla
