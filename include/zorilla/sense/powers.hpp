// SPDX-License-Identifier: MIT
/// \file
/// Powers and logarithms to the base 2 by small tables, quick enough for every pass of an 8-bit
/// chip. With them a power law costs a sum and a product.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/units/logarithm.hpp"

#include <stdint.h>

namespace zorilla::detail {

/// log2(1 + x / 2^15) in units of 2^-14.
struct FractionLogCurve {
    static constexpr uint16_t first = 0, last = 0x7fff;
    static constexpr int32_t error = 4;
    static constexpr int32_t widest = 10;
    constexpr int32_t value_at(uint16_t x) const {
        const int64_t log = natural_log(0x8000U + x) - 15 * ln_two;
        return static_cast<int32_t>(divide_rounded(log << 14, ln_two));
    }
};

/// (2^(x / 2^16) - 1) in units of 2^-15.
struct FractionPowerCurve {
    static constexpr uint16_t first = 0, last = 0xffff;
    static constexpr int32_t error = 4;
    static constexpr int32_t widest = 10;
    constexpr int32_t value_at(uint16_t x) const {
        return static_cast<int32_t>(natural_exponential(((x * ln_two) >> 16) + 15 * ln_two) -
                                    0x8000);
    }
};

/// The leading 16 bits of a number: it is `mantissa * 2^exponent`, the mantissa from 2^15 up, or 0.
struct Leading {
    uint16_t mantissa;
    int8_t exponent;

    // In bytes and signs, since a chip's compiler makes much of comparing 32-bit numbers.
    static constexpr Leading of(uint32_t x) { return x == 0 ? Leading{0, 0} : of_positive(x); }
    /// The same of a number from 1 up.
    [[gnu::always_inline]] static constexpr Leading of_positive(uint32_t x) {
        int8_t exponent = 16;
        for (; top_byte(x) == 0; exponent = static_cast<int8_t>(exponent - 8))
            x <<= 8;
        return normal({static_cast<uint16_t>(x >> 16), exponent}, static_cast<uint8_t>(x >> 8));
    }
    [[gnu::always_inline]] static constexpr Leading of_positive(uint16_t x) {
        return x > 0xff ? normal({x, 0}, 0) : normal({static_cast<uint16_t>(x << 8), -8}, 0);
    }

  private:
    /// Shifts a mantissa up until its first bit is set. \param next  the bits behind it
    [[gnu::always_inline]] static constexpr Leading normal(Leading x, uint8_t next) {
#if defined(__AVR__)
        if (!__builtin_is_constant_evaluated())
            return normal_on_chip(x, next);
#endif
        for (; (x.mantissa & 0x8000U) == 0; --x.exponent) {
            x.mantissa = static_cast<uint16_t>(x.mantissa << 1 | next >> 7);
            next = static_cast<uint8_t>(next << 1);
        }
        return x;
    }
#if defined(__AVR__)
    /// The same in seven cycles a bit, where the compiler needs sixteen.
    [[gnu::always_inline]] static Leading normal_on_chip(Leading x, uint8_t next) {
        __asm__("rjmp 2f\n\t"
                "1: lsl %1\n\t"
                "rol %A0\n\t"
                "rol %B0\n\t"
                "dec %2\n\t"
                "2: tst %B0\n\t"
                "brpl 1b"
                : "+r"(x.mantissa), "+r"(next), "+r"(x.exponent));
        return x;
    }
#endif
};

#if defined(__AVR__)
/// In six cycles a bit, where the compiler needs ten; the last bit to fall out is the carry.
[[gnu::always_inline]] inline uint32_t rounded_down_on_chip(uint32_t value, uint8_t bits) {
    auto high = static_cast<uint16_t>(value >> 16), low = static_cast<uint16_t>(value);
    __asm__("1: lsr %B0\n\t"
            "ror %A0\n\t"
            "ror %B1\n\t"
            "ror %A1\n\t"
            "dec %2\n\t"
            "brne 1b\n\t"
            "adc %A1, r1\n\t"
            "adc %B1, r1\n\t"
            "adc %A0, r1\n\t"
            "adc %B0, r1"
            : "+r"(high), "+r"(low), "+r"(bits));
    return uint32_t{high} << 16 | low;
}
#endif
/// `value / 2^bits`, rounded, for 1 to 31 bits.
[[gnu::always_inline]] constexpr uint32_t rounded_down_by(uint32_t value, uint8_t bits) {
#if defined(__AVR__)
    if (!__builtin_is_constant_evaluated())
        return rounded_down_on_chip(value, bits);
#endif
    value >>= bits - 1;
    return (value >> 1) + (value & 1);
}

/// `value * 2^exponent`, rounded; at most 2^31 - 1.
ZORILLA_ONCE constexpr int32_t shifted(uint32_t value, int8_t exponent) {
    if (exponent < -16) {
        value >>= 16;
        exponent = static_cast<int8_t>(exponent + 16);
    }
    for (; exponent < -8; exponent = static_cast<int8_t>(exponent + 8))
        value >>= 8;
    if (exponent < 0)
        value = rounded_down_by(value, static_cast<uint8_t>(-exponent));
    for (; exponent > 0; --exponent) {
        if ((top_byte(value) & 0xc0U) != 0)
            return largest_int32;
        value <<= 1;
    }
    return (top_byte(value) & 0x80U) != 0 ? largest_int32 : static_cast<int32_t>(value);
}

/// log2(x) in units of 2^-11, of x from 1 to 2^31; the error is below 2^-11. Of 0 it is 0, so that
/// no input can make it search for a first bit for ever.
/// \tparam Whole  uint32_t, or uint16_t, which is quicker
template <class Whole> ZORILLA_ONCE constexpr uint16_t log2_of(Whole x) {
    const Leading leading = Leading::of_positive(x == 0 ? Whole{1} : x);
    const int32_t fraction =
        FunctionTable<FractionLogCurve>::inlined(static_cast<uint16_t>(leading.mantissa & 0x7fff));
    return static_cast<uint16_t>((static_cast<uint16_t>(leading.exponent + 15) << 11) +
                                 ((static_cast<uint16_t>(fraction) + 4) >> 3));
}

/// 2^x rounded to a whole number, for x in units of 2^-16; at most 2^31 - 1. Relative error below
/// 2^-12 from 2^12 up, below that half a unit more.
ZORILLA_ONCE inline int32_t power_of_two(int32_t x) {
    const auto exponent = static_cast<int16_t>(x >> 16);
    if (exponent >= 31)
        return largest_int32;
    if (exponent < -1)
        return 0;
    const int32_t fraction = FunctionTable<FractionPowerCurve>::inlined(static_cast<uint16_t>(x));
    return shifted(0x8000U + static_cast<uint32_t>(fraction), static_cast<int8_t>(exponent - 15));
}

/// 2^(offset - exponent * log): `log` in units of 2^-11, `exponent` in units of 2^-12.
ZORILLA_SHARED inline int32_t power_of_log(int32_t offset, int16_t exponent, int16_t log) {
    return power_of_two(offset - (product(log, exponent) >> 7));
}

/// 2^30 / (x + 2^15) less 24,576: the reciprocal of a mantissa from 2^15 up.
struct ReciprocalCurve {
    static constexpr uint16_t first = 0, last = 0x7fff;
    static constexpr int32_t error = 4;
    static constexpr int32_t widest = 9;
    constexpr int32_t value_at(uint16_t x) const {
        return static_cast<int32_t>(divide_rounded(int64_t{1} << 30, 0x8000L + x)) - 24'576;
    }
};

/// `value / 2^14`, rounded down, without the fourteen steps that a chip would take.
constexpr uint32_t shifted_by_14(uint32_t value) {
    return (value >> 16 << 2) + (static_cast<uint16_t>(value) >> 14);
}

/// `value * factor / 2^15`, rounded down, for a value of 0 or more and a result that fits.
constexpr int32_t times_fraction(int32_t value, uint16_t factor) {
    const auto wide = static_cast<uint32_t>(value);
    const uint32_t low = product(static_cast<uint16_t>(wide), factor);
    const uint32_t high = product(static_cast<uint16_t>(wide >> 16), factor);
    return static_cast<int32_t>((high << 1) + (low >> 15));
}

/// The reciprocal of a number from 1 up: `mantissa * 2^exponent`, the mantissa 15 bits or 2^15.
/// Relative error below 2^-12.
template <class Whole> [[gnu::always_inline]] inline Leading reciprocal_of(Whole x) {
    const Leading down = Leading::of_positive(x);
    const int32_t above =
        FunctionTable<ReciprocalCurve>::inlined(static_cast<uint16_t>(down.mantissa & 0x7fff));
    return {static_cast<uint16_t>(above + 24'576), static_cast<int8_t>(-30 - down.exponent)};
}

/// `top * 2^exponent / bottom * times`, rounded, at most 2^31 - 1; `top` from 2^14, `bottom` from 1
/// up. Relative error below 2^-11. \tparam Whole  uint32_t, or uint16_t, which is quicker
template <class Whole>
[[gnu::always_inline]] inline int32_t divided(uint16_t top, int8_t exponent, Whole bottom,
                                              uint16_t times) {
    const Leading reciprocal = reciprocal_of(bottom);
    const uint32_t each = product(top, reciprocal.mantissa) >> 15;
    const uint32_t all = times == 1 ? each : product(static_cast<uint16_t>(each), times);
    return shifted(all, static_cast<int8_t>(exponent + reciprocal.exponent + 15));
}

} // namespace zorilla::detail
