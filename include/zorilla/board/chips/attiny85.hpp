// SPDX-License-Identifier: MIT
/// \file
/// The ATtiny85: its pins, what each can do, and the registers of its timers. Data sheet
/// ATtiny25/45/85, chapters 1.1 (pins), 9.2 (edges), 10.2 (other functions of pins), 11 and 12
/// (timers 0 and 1), 21 (what pins bear).
#pragma once

#include "zorilla/board/chips/chip.hpp"

namespace zorilla::chips {

struct Attiny85 {
    static constexpr TimerFacts timers[] = {
        {TimerKind::narrow, 8, true, 0x4a, 0x53, 0x52, 0, {0x49, 0x48, 0}},
        {TimerKind::powers, 8, false, 0x50, 0x4c, 0x4f, 0x4d, {0x4e, 0x4b, 0}},
    };
    /// It has no hardware for lines: one that sends takes a timer.
    static constexpr LineFacts lines[] = {{"none", LineKind::none, 0, nullptr, nullptr},
                                          {"timer", LineKind::timer, 0, nullptr, "PB4"}};

    static constexpr const char* reset = "is the reset";
    /// PB1 can be an output of two timers, and is one of timer 0 here.
    static constexpr PinFacts pins[] = {
        {"PB0", -1, 0, 0, 0, 5, nullptr}, {"PB1", -1, 0, 1, 0, 6, nullptr},
        {"PB2", 1, -1, 0, 0, 7, nullptr}, {"PB3", 3, -1, 0, 0, 2, nullptr},
        {"PB4", 2, 1, 1, 0, 3, nullptr},  {"PB5", 0, -1, 0, 0, 1, reset},
    };

    /// Where a port's PINx lies; DDRx and PORTx follow it.
    static constexpr uint16_t port_at(char) { return 0x36; }
    static constexpr ChipFacts facts = [] {
        ChipFacts out = detail::avr_facts_of(pins, timers, lines, &port_at);
        out.name = "attiny85";
        out.title = "ATtiny85";
        out.analogue_pins = "ADC1 to ADC3";
        out.digital_pins = "PB0 to PB4";
        out.core = "attiny85";
        out.hertz = 8'000'000;
        out.flash = 8'192;
        out.ram = 512;
        out.kept = 512;
        out.ram_begins = 0x60;
        out.reference_pin = "PB0";
        out.legs = 8;
        return out;
    }();

    /// The ports whose edges come together, and how far its mask is shifted from the port's bits.
    static constexpr char edge_ports[] = {'B'};
    static constexpr uint8_t edge_shifts[] = {0};
};

} // namespace zorilla::chips
