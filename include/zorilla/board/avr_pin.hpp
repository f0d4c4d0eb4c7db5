// SPDX-License-Identifier: MIT
/// \file
/// One output pin of an AVR, without anything else of a board.
#pragma once

#include "zorilla/units/level.hpp"

#include <stdint.h>

namespace zorilla {

enum class AvrPort : uint8_t { b, c, d };

/// One output pin, such as `AvrPin<AvrPort::b, 0>`; all its functions are static.
template <AvrPort P, uint8_t Bit> struct AvrPin {
    static_assert(Bit < 8, "a port has the bits 0 to 7");

    /// Makes the pin an output that begins at `level`: the level is set first, so that the pin
    /// never shows the other one.
    static void begin(Level level) {
        set(level);
        __asm__ volatile("sbi %0, %1" : : "I"(port - 1), "I"(Bit)); // DDRx lies below PORTx
    }

    /// Two cycles, and one instruction for each level. An interrupt cannot come between.
    [[gnu::always_inline]] static void set(Level level) {
        // Written out, since a compiler would read, change and write the whole port.
        if (level == Level::high)
            __asm__ volatile("sbi %0, %1" : : "I"(port), "I"(Bit));
        else
            __asm__ volatile("cbi %0, %1" : : "I"(port), "I"(Bit));
    }

  private:
    // Addresses in the space of `in` and `out`: PORTB 5, PORTC 8, PORTD 11.
    static constexpr uint8_t port = 5 + 3 * static_cast<uint8_t>(P);
};

} // namespace zorilla
