// SPDX-License-Identifier: MIT
/// \file
/// One pin of an AVR, without anything else of a board.
#pragma once

#include "zorilla/units/level.hpp"

#include <stdint.h>

namespace zorilla {

enum class AvrPort : uint8_t { b, c, d };

/// One pin, such as `AvrPin<AvrPort::b, 0>`; all its functions are static. At power-up it is an
/// input that nothing holds.
template <AvrPort P, uint8_t Bit> struct AvrPin {
    static_assert(Bit < 8, "a port has the bits 0 to 7");
    static constexpr uint8_t port_number = static_cast<uint8_t>(P);
    static constexpr uint8_t bit = Bit;
    static constexpr uint8_t mask = 1U << Bit;
    static constexpr uint64_t id = uint64_t{1} << (8 * port_number + Bit);
    /// Of the converter; -1: none.
    static constexpr int8_t channel = P == AvrPort::c && Bit < 6 ? Bit : -1;

    /// Makes the pin an output that begins at `level`: the level is set first, so that the pin
    /// never shows the other one.
    static void begin(Level level) {
        set(level);
        drive();
    }

    /// Two cycles, and one instruction for each level. An interrupt cannot come between.
    [[gnu::always_inline]] static void set(Level level) {
        // Written out, since a compiler would read, change and write the whole port.
        if (level == Level::high)
            __asm__ volatile("sbi %0, %1" : : "I"(port), "I"(Bit));
        else
            __asm__ volatile("cbi %0, %1" : : "I"(port), "I"(Bit));
    }
    static void drive() { __asm__ volatile("sbi %0, %1" : : "I"(port - 1), "I"(Bit)); }
    /// Makes it an input again, held as its level says: up by a resistor inside, or not.
    static void release() { __asm__ volatile("cbi %0, %1" : : "I"(port - 1), "I"(Bit)); }
    [[gnu::always_inline]] static bool is_high() {
        return (*reinterpret_cast<volatile uint8_t*>(port - 2 + 0x20) & mask) != 0;
    }

  private:
    // Addresses in the space of `in` and `out`: PORTB 5, PORTC 8, PORTD 11; below it DDRx and PINx.
    static constexpr uint8_t port = 5 + 3 * static_cast<uint8_t>(P);
};

/// A pin that is an input of the converter and nothing else.
template <uint8_t Channel> struct AvrConverterPin {
    static constexpr uint64_t id = uint64_t{1} << (24 + Channel);
    static constexpr int8_t channel = Channel;
};

} // namespace zorilla
