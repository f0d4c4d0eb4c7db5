// SPDX-License-Identifier: MIT
/// \file
/// The ATmega328P: its pins, what each can do, and the registers of its timers. Data sheet
/// ATmega48A/PA/88A/PA/168A/PA/328/P, chapters 1.1 (pins), 13 (edges), 14.3 (other functions of
/// pins), 15, 16 and 18 (timers 0, 1 and 2), 28 (what pins bear).
#pragma once

#include "zorilla/board/chips/chip.hpp"

namespace zorilla::chips {

struct Atmega328p {
    static constexpr TimerFacts timers[] = {
        {TimerKind::narrow, 8, true, 0x44, 0x45, 0x46, 0, {0x47, 0x48, 0}},
        {TimerKind::wide, 16, false, 0x80, 0x81, 0x84, 0x86, {0x88, 0x8a, 0}},
        {TimerKind::narrow, 8, false, 0xb0, 0xb1, 0xb2, 0, {0xb3, 0xb4, 0}},
    };
    static constexpr LineFacts lines[] = {{"serial", LineKind::serial, 0, "PD0", "PD1"}};

    static constexpr const char* crystal = "carries the crystal that the clock runs on";
    static constexpr const char* receives = "is where the serial line receives";
    static constexpr const char* sends = "is where the serial line sends";
    /// PC6 is the reset pin, and so no pin at all.
    static constexpr PinFacts pins[] = {
        {"PB0", -1, -1, 0, 0, 14, nullptr}, {"PB1", -1, 1, 0, 0, 15, nullptr},
        {"PB2", -1, 1, 1, 0, 16, nullptr},  {"PB3", -1, 2, 0, 0, 17, nullptr},
        {"PB4", -1, -1, 0, 0, 18, nullptr}, {"PB5", -1, -1, 0, 0, 19, nullptr},
        {"PB6", -1, -1, 0, 0, 9, crystal},  {"PB7", -1, -1, 0, 0, 10, crystal},
        {"PC0", 0, -1, 0, 1, 23, nullptr},  {"PC1", 1, -1, 0, 1, 24, nullptr},
        {"PC2", 2, -1, 0, 1, 25, nullptr},  {"PC3", 3, -1, 0, 1, 26, nullptr},
        {"PC4", 4, -1, 0, 1, 27, nullptr},  {"PC5", 5, -1, 0, 1, 28, nullptr},
        {"ADC6", 6, -1, 0, -1, 0, nullptr}, {"ADC7", 7, -1, 0, -1, 0, nullptr},
        {"PD0", -1, -1, 0, 2, 2, receives}, {"PD1", -1, -1, 0, 2, 3, sends},
        {"PD2", -1, -1, 0, 2, 4, nullptr},  {"PD3", -1, 2, 1, 2, 5, nullptr},
        {"PD4", -1, -1, 0, 2, 6, nullptr},  {"PD5", -1, 0, 1, 2, 11, nullptr},
        {"PD6", -1, 0, 0, 2, 12, nullptr},  {"PD7", -1, -1, 0, 2, 13, nullptr},
    };

    /// Where a port's PINx lies; DDRx and PORTx follow it.
    static constexpr uint16_t port_at(char port) {
        return static_cast<uint16_t>(0x23 + 3 * (port - 'B'));
    }
    static constexpr ChipFacts facts = [] {
        ChipFacts out = detail::avr_facts_of(pins, timers, lines, &port_at);
        out.name = "atmega328p";
        out.title = "ATmega328P";
        out.analogue_pins = "ADC0 to ADC7";
        out.digital_pins = "PB0 to PB5, PC0 to PC5 or PD2 to PD7";
        out.core = "atmega328p";
        out.hertz = 16'000'000;
        out.flash = 32'768;
        out.ram = 2'048;
        out.kept = 1'024;
        out.ram_begins = 0x100;
        out.legs = 28;
        return out;
    }();

    /// The ports whose edges come together, and how far its mask is shifted from the port's bits.
    static constexpr char edge_ports[] = {'B', 'C', 'D'};
    static constexpr uint8_t edge_shifts[] = {0, 0, 0};
};

} // namespace zorilla::chips
