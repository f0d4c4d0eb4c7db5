// SPDX-License-Identifier: MIT
/// \file
/// The ATmega328P: its pins, what each can do, and what `zorilla/board/atmega328p.hpp` takes of
/// them. Data sheet ATmega48A/PA/88A/PA/168A/PA/328/P, chapters 1.1 (pins), 14.3 (their other
/// functions), 15, 16 and 18 (timers 0, 1 and 2).
#pragma once

#include "zorilla/board/chips/chip.hpp"

namespace zorilla::chips {

struct Atmega328p {
    static constexpr const char* name = "atmega328p";
    static constexpr uint8_t converter_bits = 10;
    /// Which reference has so many millivolts, at a supply of 5 V; chapter 29, table "ADC
    /// characteristics". 0 is that of who measures against the supply.
    static constexpr Reference reference_of(int32_t millivolts) {
        return millivolts == 0 || millivolts >= 4'500       ? Reference::supply
               : millivolts >= 1'000 && millivolts <= 1'200 ? Reference::internal
                                                            : Reference::external;
    }
    static constexpr int32_t least_reference = 1'000, most_reference = 5'500; ///< mV

    static constexpr TimerFacts timers[] = {{8, true}, {16, false}, {8, false}};

    static constexpr const char* crystal = "carries the crystal that the clock runs on";
    static constexpr const char* receives = "is where the serial line receives";
    static constexpr const char* sends = "is where the serial line sends";
    /// PC6 is the reset pin, and so no pin at all.
    static constexpr PinFacts pins[] = {
        {"PB0", -1, -1, 14, nullptr}, {"PB1", -1, 1, 15, nullptr},  {"PB2", -1, 1, 16, nullptr},
        {"PB3", -1, 2, 17, nullptr},  {"PB4", -1, -1, 18, nullptr}, {"PB5", -1, -1, 19, nullptr},
        {"PB6", -1, -1, 9, crystal},  {"PB7", -1, -1, 10, crystal}, {"PC0", 0, -1, 23, nullptr},
        {"PC1", 1, -1, 24, nullptr},  {"PC2", 2, -1, 25, nullptr},  {"PC3", 3, -1, 26, nullptr},
        {"PC4", 4, -1, 27, nullptr},  {"PC5", 5, -1, 28, nullptr},  {"ADC6", 6, -1, 0, nullptr},
        {"ADC7", 7, -1, 0, nullptr},  {"PD0", -1, -1, 2, receives}, {"PD1", -1, -1, 3, sends},
        {"PD2", -1, -1, 4, nullptr},  {"PD3", -1, 2, 5, nullptr},   {"PD4", -1, -1, 6, nullptr},
        {"PD5", -1, 0, 11, nullptr},  {"PD6", -1, 0, 12, nullptr},  {"PD7", -1, -1, 13, nullptr},
    };
};

} // namespace zorilla::chips
