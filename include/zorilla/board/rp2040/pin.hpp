// SPDX-License-Identifier: MIT
/// \file
/// One pin of an RP2040, without anything else of a board. Data sheet, chapters 2.3.1 and 2.19.
#pragma once

#include "zorilla/board/rp2040/registers.hpp"
#include "zorilla/units/level.hpp"

namespace zorilla {

/// One pin, such as `RpPin<25>`; all its functions are static. From reset until `begin` or `hold`
/// it is an input that some 50 kohm hold down.
template <uint8_t Number> struct RpPin {
    static_assert(Number < 30, "the chip has GPIO0 to GPIO29");
    static constexpr PinFacts facts = chips::Rp2040::pins[Number];
    static constexpr uint32_t mask = 1U << Number;
    static constexpr Bits id = Bits::one(Number);
    static constexpr int8_t channel = facts.channel;

    /// What a pin is connected to.
    enum Function : uint32_t { serial = 2, slice = 4, level = 5, nothing = 31 };
    static void connect(Function to) { rp2040::at(rp2040::pin_functions + 8 * Number + 4) = to; }

    /// Makes the pin an output that begins at `level`: the level is set first, so that the pin
    /// never shows the other one. It bears 12 mA.
    static void begin(Level to) {
        set(to);
        drive();
        set_pad(strongest);
        connect(level);
    }
    [[gnu::always_inline]] static void set(Level to) {
        rp2040::at(rp2040::pins + (to == Level::high ? 0x14 : 0x18)) = mask;
    }
    static void drive() { rp2040::at(rp2040::pins + 0x24) = mask; }
    /// Makes it an input again.
    static void release() { rp2040::at(rp2040::pins + 0x28) = mask; }
    /// As an input: up by a resistor inside, or by nothing.
    static void hold(bool up) {
        set_pad(up ? strongest | pulls_up : strongest);
        connect(level);
    }
    /// For the converter: no level is told from another on it, and nothing holds it.
    static void unplug() {
        set_pad(1U << 7);
        connect(nothing);
    }
    [[gnu::always_inline]] static bool is_high() {
        return (rp2040::at(rp2040::pins + 4) & mask) != 0;
    }

  private:
    /// Input enabled, 12 mA, slow edges off, a Schmitt trigger.
    static constexpr uint32_t strongest = 1U << 6 | 3U << 4 | 1U << 1, pulls_up = 1U << 3;
    static void set_pad(uint32_t bits) { rp2040::at(rp2040::pads + 4 + 4 * Number) = bits; }
};

} // namespace zorilla
