// SPDX-License-Identifier: MIT
/// \file
/// Divisions of which little is known to come out, in fewer steps than the thirty-two of a chip's
/// own.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stdint.h>

namespace zorilla::detail {

#if defined(__AVR__)
/// Cost on the ATmega328P: 160 cycles, where a division of 32 bits takes 600.
[[gnu::noinline]] inline uint8_t byte_quotient_on_chip(uint32_t a, uint32_t b) {
    auto rest_high = static_cast<uint16_t>(a >> 16), rest_low = static_cast<uint16_t>(a);
    const uint32_t by = b << 7;
    auto high = static_cast<uint16_t>(by >> 16), low = static_cast<uint16_t>(by);
    uint8_t out = 1; // this bit falls out with the last of eight
    __asm__("1: sub %A1, %A3\n\t"
            "sbc %B1, %B3\n\t"
            "sbc %A2, %A4\n\t"
            "sbc %B2, %B4\n\t"
            "brcc 2f\n\t"
            "add %A1, %A3\n\t"
            "adc %B1, %B3\n\t"
            "adc %A2, %A4\n\t"
            "adc %B2, %B4\n\t" // sets the carry
            "2: rol %0\n\t"
            "brcs 3f\n\t"
            "lsr %B4\n\t"
            "ror %A4\n\t"
            "ror %B3\n\t"
            "ror %A3\n\t"
            "rjmp 1b\n\t"
            "3:"
            : "+r"(out), "+r"(rest_low), "+r"(rest_high), "+r"(low), "+r"(high));
    return static_cast<uint8_t>(~out);
}
#endif

/// `a / b`, rounded down, where that is at most 255 and `b` is from 1 to 2^24.
constexpr uint8_t byte_quotient(uint32_t a, uint32_t b) {
#if defined(__AVR__)
    if (!__builtin_is_constant_evaluated())
        return byte_quotient_on_chip(a, b);
#endif
    return static_cast<uint8_t>(a / b);
}

/// What is left of `a` after as many whole `b`, `b` from 1 up. Quick where that is few, as with
/// rounds of which one has just passed, and smaller than a chip's division.
ZORILLA_SHARED constexpr uint32_t rest_of(uint32_t a, uint32_t b) {
    while (a >= b) {
        uint32_t by = b;
        while (by <= a - by)
            by <<= 1;
        a -= by;
    }
    return a;
}

} // namespace zorilla::detail
