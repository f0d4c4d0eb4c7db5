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
    constexpr int32_t value_at(uint16_t x) const {
        const int64_t log = natural_log(0x8000U + x) - 15 * ln_two;
        return static_cast<int32_t>(divide_rounded(log << 14, ln_two));
    }
};

/// (2^(x / 2^16) - 1) in units of 2^-15.
struct FractionPowerCurve {
    static constexpr uint16_t first = 0, last = 0xffff;
    static constexpr int32_t error = 4;
    constexpr int32_t value_at(uint16_t x) const {
        return static_cast<int32_t>(natural_exponential(((x * ln_two) >> 16) + 15 * ln_two) -
                                    0x8000);
    }
};

/// log2(x) in units of 2^-11, of x from 1 to 2^31; the error is below 2^-11.
inline uint16_t log2_of(uint32_t x) {
    uint16_t exponent = 15;
    while (x > 0xffff) {
        x >>= 1;
        ++exponent;
    }
    auto mantissa = static_cast<uint16_t>(x);
    if (mantissa < 0x100) {
        mantissa = static_cast<uint16_t>(mantissa << 8);
        exponent = static_cast<uint16_t>(exponent - 8);
    }
    while (mantissa < 0x8000) {
        mantissa = static_cast<uint16_t>(mantissa << 1);
        --exponent;
    }
    const int32_t fraction =
        FunctionTable<FractionLogCurve>::at(static_cast<uint16_t>(mantissa & 0x7fff));
    return static_cast<uint16_t>((exponent << 11) + ((static_cast<uint16_t>(fraction) + 4) >> 3));
}

/// 2^x rounded to a whole number, for x in units of 2^-16; at most 2^31 - 1. Relative error below
/// 2^-12 from 2^12 up, below that half a unit more.
inline int32_t power_of_two(int32_t x) {
    auto exponent = static_cast<int16_t>(x >> 16);
    if (exponent >= 31)
        return largest_int32;
    if (exponent < -1)
        return 0;
    const auto fraction = static_cast<uint16_t>(x);
    uint32_t value = 0x8000U + static_cast<uint32_t>(FunctionTable<FractionPowerCurve>::at(fraction));
    if (exponent >= 15) {
        for (; exponent > 15; --exponent)
            value <<= 1;
    } else {
        for (; exponent < 14; ++exponent)
            value >>= 1;
        value = (value + 1) >> 1;
    }
    return value > 0x7fff'ffffU ? largest_int32 : static_cast<int32_t>(value);
}

/// The product of two 16-bit numbers; a chip has that cheap.
constexpr int32_t product(int16_t a, int16_t b) { return int32_t{a} * b; }
constexpr uint32_t product(uint16_t a, uint16_t b) { return uint32_t{a} * b; }

/// `value * factor / 2^15`, rounded down, for a value of 0 or more and a result that fits.
constexpr int32_t times_fraction(int32_t value, uint16_t factor) {
    const auto wide = static_cast<uint32_t>(value);
    const uint32_t low = product(static_cast<uint16_t>(wide), factor);
    const uint32_t high = product(static_cast<uint16_t>(wide >> 16), factor);
    return static_cast<int32_t>((high << 1) + (low >> 15));
}

/// 2^30 / (x + 2^15) less 24,576: the reciprocal of a mantissa from 2^15 up.
struct ReciprocalCurve {
    static constexpr uint16_t first = 0, last = 0x7fff;
    static constexpr int32_t error = 4;
    constexpr int32_t value_at(uint16_t x) const {
        return static_cast<int32_t>(divide_rounded(int64_t{1} << 30, 0x8000L + x)) - 24'576;
    }
};

/// The leading 16 bits of a number: it is `mantissa * 2^exponent`, the mantissa from 2^15 up, or 0.
struct Leading {
    uint16_t mantissa;
    int8_t exponent;

    static constexpr Leading of(uint32_t x) {
        if (x == 0)
            return {0, 0};
        int8_t exponent = 0;
        if (x > 0xff'ffff) {
            x >>= 8;
            exponent = 8;
        }
        while (x > 0xffff) {
            x >>= 1;
            ++exponent;
        }
        auto mantissa = static_cast<uint16_t>(x);
        while (mantissa < 0x8000) {
            mantissa = static_cast<uint16_t>(mantissa << 1);
            --exponent;
        }
        return {mantissa, exponent};
    }
    constexpr Leading times(Leading other) const {
        Leading out = of(product(mantissa, other.mantissa));
        out.exponent = static_cast<int8_t>(out.exponent + exponent + other.exponent);
        return out;
    }
    /// Rounded; at most 2^31 - 1.
    constexpr int32_t whole() const;
};

/// `value * 2^exponent`, rounded; at most 2^31 - 1.
constexpr int32_t shifted(uint32_t value, int8_t exponent) {
    if (exponent > 0) {
        for (; exponent > 0; --exponent) {
            if (value > 0x3fff'ffff)
                return largest_int32;
            value <<= 1;
        }
    } else if (exponent < 0) {
        for (; exponent < -8; exponent = static_cast<int8_t>(exponent + 8))
            value >>= 8;
        for (; exponent < -1; ++exponent)
            value >>= 1;
        value = (value >> 1) + (value & 1);
    }
    return value > 0x7fff'ffffU ? largest_int32 : static_cast<int32_t>(value);
}

constexpr int32_t Leading::whole() const { return shifted(mantissa, exponent); }

/// `top / bottom` for a `bottom` above 0, to 31 bits; relative error below 2^-12.
struct Quotient {
    uint32_t bits;
    int8_t exponent;

    static Quotient of(Leading top, uint32_t bottom) {
        const Leading down = Leading::of(bottom);
        const int32_t reciprocal =
            FunctionTable<ReciprocalCurve>::at(static_cast<uint16_t>(down.mantissa & 0x7fff));
        return {product(top.mantissa, static_cast<uint16_t>(reciprocal + 24'576)),
                static_cast<int8_t>(top.exponent - down.exponent - 30)};
    }
    /// Rounded; at most 2^31 - 1.
    int32_t whole() const { return shifted(bits, exponent); }
    Leading leading() const {
        Leading out = Leading::of(bits);
        out.exponent = static_cast<int8_t>(out.exponent + exponent);
        return out;
    }
};

} // namespace zorilla::detail
