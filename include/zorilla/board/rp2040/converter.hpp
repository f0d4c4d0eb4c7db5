// SPDX-License-Identifier: MIT
/// \file
/// The converter of an RP2040. Data sheet, chapter 4.9.
#pragma once

#include "zorilla/board/rp2040/roles.hpp"
#include "zorilla/sense/sample.hpp"

namespace zorilla {

namespace rp2040 {

/// As a pass begins, every channel is converted twice, and the second code taken: the first may
/// still hold some of the channel before. That takes 4 us for each.
class Converter {
  public:
    static void begin() {
        release(part_adc);
        at(converter) = 1;
        while (!is_ready()) {
        }
    }
    template <int8_t Channel> static Sample take() {
        uint32_t code = 0;
        for (uint8_t turn = 0; turn < 2; ++turn) {
            at(converter) = 1U | 1U << 2 | uint32_t{Channel} << 12;
            // 96 of its cycles; one that does not come is missing.
            uint8_t left = 200;
            while (!is_ready())
                if (--left == 0)
                    return Sample();
            if ((at(converter) & 1U << 9) != 0) // it did not come to a result
                return Sample();
            code = at(converter + 4);
        }
        return Sample(static_cast<uint16_t>(code));
    }

  private:
    static bool is_ready() { return (at(converter) & 1U << 8) != 0; }
};

} // namespace rp2040

template <uint8_t N, Reference Against>
struct Does<Rp2040, Analogue<RpPin<N>, Against>> : rp2040::Role {
    static_assert(RpPin<N>::channel >= 0, "this pin is none of the converter's: take adc0 to adc3");
    static_assert(Against == Reference::supply, "the RP2040 measures against its supply alone");
    static constexpr Needs needs{RpPin<N>::id};
    static constexpr int8_t channel = RpPin<N>::channel;
    static void begin() { RpPin<N>::unplug(); }
};

} // namespace zorilla
