// SPDX-License-Identifier: MIT
/// \file
/// The converter of an RP2040. Data sheet, chapter 4.9.
#pragma once

#include "zorilla/board/rp2040/roles.hpp"
#include "zorilla/sense/sample.hpp"

namespace zorilla {

namespace rp2040 {

/// As a pass begins, every channel is converted twice, and the second code taken: the first may
/// still hold some of the channel before. That takes 4 us for each; where it is to have more bits,
/// 5, 17 or 65 conversions of 2 us, all but the first added up.
class Converter {
  public:
    static void begin() {
        release(part_adc);
        at(converter) = 1;
        while (!is_ready()) {
        }
    }
    template <int8_t Channel, uint8_t Extra> static Sample take() {
        uint32_t sum = 0;
        for (uint8_t turn = 0; turn < 1 + (1 << 2 * Extra); ++turn) {
            at(converter) = 1U | 1U << 2 | uint32_t{Channel} << 12;
            // 96 of its cycles; one that does not come is missing.
            uint8_t left = 200;
            while (!is_ready())
                if (--left == 0)
                    return Sample();
            if ((at(converter) & 1U << 9) != 0) // it did not come to a result
                return Sample();
            sum += turn == 0 ? 0 : at(converter + 4);
        }
        return Sample(static_cast<uint16_t>(sum >> Extra));
    }

  private:
    static bool is_ready() { return (at(converter) & 1U << 8) != 0; }
};

} // namespace rp2040

template <uint8_t N, Reference Against, uint8_t Extra>
struct Does<Rp2040, Analogue<RpPin<N>, Against, Extra>> : rp2040::Role {
    static constexpr uint8_t extra = Extra;
    static_assert(RpPin<N>::channel >= 0, "this pin is none of the converter's: take adc0 to adc3");
    static_assert(Against == Reference::supply, "the RP2040 measures against its supply alone");
    static constexpr Needs needs{RpPin<N>::id};
    static constexpr int8_t channel = RpPin<N>::channel;
    static void begin() { RpPin<N>::unplug(); }
};

} // namespace zorilla
