// SPDX-License-Identifier: MIT
/// \file
/// One pin of an AVR, without anything else of a board.
#pragma once

#include "zorilla/board/avr/chip.hpp"
#include "zorilla/units/level.hpp"

#include <stdint.h>

namespace zorilla {

/// One pin, such as `AvrPin<'B', 0>`; all its functions are static. At power-up it is an input that
/// nothing holds.
template <char Port, uint8_t Bit> struct AvrPin {
    static constexpr int index = avr::pin_index(Port, Bit);
    static_assert(index >= 0, "this chip has no pin of that name");
    static constexpr PinFacts facts = avr::Chip::pins[index];
    static constexpr uint8_t bit = Bit;
    static constexpr uint8_t mask = 1U << Bit;
    static constexpr Bits id = Bits::one(index);
    /// Of the converter; -1: none.
    static constexpr int8_t channel = facts.channel;

    /// Makes the pin an output that begins at `level`: the level is set first, so that the pin
    /// never shows the other one.
    static void begin(Level level) {
        set(level);
        drive();
    }

    /// Two cycles, and one instruction for each level. An interrupt cannot come between. Of the
    /// ports H to L of an ATmega2560 some six; no interrupt of the library writes to a port of
    /// those.
    [[gnu::always_inline]] static void set(Level level) {
        if constexpr (near)
            // Written out, since a compiler would read, change and write the whole port.
            if (level == Level::high)
                __asm__ volatile("sbi %0, %1" : : "I"(port), "I"(Bit));
            else
                __asm__ volatile("cbi %0, %1" : : "I"(port), "I"(Bit));
        else if (level == Level::high)
            avr::at(in + 2) = static_cast<uint8_t>(avr::at(in + 2) | mask);
        else
            avr::at(in + 2) = static_cast<uint8_t>(avr::at(in + 2) & ~mask);
    }
    static void drive() {
        if constexpr (near)
            __asm__ volatile("sbi %0, %1" : : "I"(port - 1), "I"(Bit));
        else
            avr::at(in + 1) = static_cast<uint8_t>(avr::at(in + 1) | mask);
    }
    /// Makes it an input again, held as its level says: up by a resistor inside, or not.
    static void release() {
        if constexpr (near)
            __asm__ volatile("cbi %0, %1" : : "I"(port - 1), "I"(Bit));
        else
            avr::at(in + 1) = static_cast<uint8_t>(avr::at(in + 1) & ~mask);
    }
    /// As an input: up by a resistor inside, or by nothing.
    [[gnu::always_inline]] static void hold(bool up) { set(up ? Level::high : Level::low); }
    [[gnu::always_inline]] static bool is_high() { return (avr::at(in) & mask) != 0; }

  private:
    static constexpr uint16_t in = avr::Chip::port_at(Port); ///< PINx; then DDRx and PORTx
    static constexpr bool near = in < 0x40;
    /// PORTx in the space of `sbi`.
    static constexpr uint8_t port = near ? in - 0x20 + 2 : 0;
};

/// A pin that is an input of the converter and nothing else.
template <uint8_t Channel> struct AvrConverterPin {
    static constexpr int index = avr::channel_index(Channel);
    static constexpr Bits id = Bits::one(index);
    static constexpr int8_t channel = Channel;
};

} // namespace zorilla
