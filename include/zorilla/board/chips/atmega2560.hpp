// SPDX-License-Identifier: MIT
/// \file
/// The ATmega2560: its pins, what each can do, and the registers of its timers. Data sheet
/// ATmega640/1280/1281/2560/2561, chapters 1 (pins), 13.3 (their other functions), 15 (edges), 16,
/// 17 and 20 (timers), 31 (what pins bear).
#pragma once

#include "zorilla/board/chips/chip.hpp"

namespace zorilla::chips {

struct Atmega2560 {
    static constexpr TimerFacts timers[] = {
        {TimerKind::narrow, 8, true, 0x44, 0x45, 0x46, 0, {0x47, 0x48, 0}},
        {TimerKind::wide, 16, false, 0x80, 0x81, 0x84, 0x86, {0x88, 0x8a, 0x8c}},
        {TimerKind::narrow, 8, false, 0xb0, 0xb1, 0xb2, 0, {0xb3, 0xb4, 0}},
        {TimerKind::wide, 16, false, 0x90, 0x91, 0x94, 0x96, {0x98, 0x9a, 0x9c}},
        {TimerKind::wide, 16, false, 0xa0, 0xa1, 0xa4, 0xa6, {0xa8, 0xaa, 0xac}},
        {TimerKind::wide, 16, false, 0x120, 0x121, 0x124, 0x126, {0x128, 0x12a, 0x12c}},
    };
    /// Its second, third and fourth line take the pins of others, and so are asked for by name.
    static constexpr LineFacts lines[] = {{"serial0", LineKind::serial, 0, "PE0", "PE1"},
                                          {"serial1", LineKind::serial, 1, "PD2", "PD3"},
                                          {"serial2", LineKind::serial, 2, "PH0", "PH1"},
                                          {"serial3", LineKind::serial, 3, "PJ0", "PJ1"}};
    /// Where the registers of each line begin, with its UCSRnA.
    static constexpr uint16_t line_at[] = {0xc0, 0xc8, 0xd0, 0x130};

    /// PB7 can be an output of two timers, and is one of timer 0 here.
    static constexpr PinFacts pins[] = {
        {"PA0", -1, -1, 0, -1, 78, nullptr}, {"PA1", -1, -1, 0, -1, 77, nullptr},
        {"PA2", -1, -1, 0, -1, 76, nullptr}, {"PA3", -1, -1, 0, -1, 75, nullptr},
        {"PA4", -1, -1, 0, -1, 74, nullptr}, {"PA5", -1, -1, 0, -1, 73, nullptr},
        {"PA6", -1, -1, 0, -1, 72, nullptr}, {"PA7", -1, -1, 0, -1, 71, nullptr},
        {"PB0", -1, -1, 0, 0, 19, nullptr},  {"PB1", -1, -1, 0, 0, 20, nullptr},
        {"PB2", -1, -1, 0, 0, 21, nullptr},  {"PB3", -1, -1, 0, 0, 22, nullptr},
        {"PB4", -1, 2, 0, 0, 23, nullptr},   {"PB5", -1, 1, 0, 0, 24, nullptr},
        {"PB6", -1, 1, 1, 0, 25, nullptr},   {"PB7", -1, 0, 0, 0, 26, nullptr},
        {"PC0", -1, -1, 0, -1, 53, nullptr}, {"PC1", -1, -1, 0, -1, 54, nullptr},
        {"PC2", -1, -1, 0, -1, 55, nullptr}, {"PC3", -1, -1, 0, -1, 56, nullptr},
        {"PC4", -1, -1, 0, -1, 57, nullptr}, {"PC5", -1, -1, 0, -1, 58, nullptr},
        {"PC6", -1, -1, 0, -1, 59, nullptr}, {"PC7", -1, -1, 0, -1, 60, nullptr},
        {"PD0", -1, -1, 0, -1, 43, nullptr}, {"PD1", -1, -1, 0, -1, 44, nullptr},
        {"PD2", -1, -1, 0, -1, 45, nullptr}, {"PD3", -1, -1, 0, -1, 46, nullptr},
        {"PD4", -1, -1, 0, -1, 47, nullptr}, {"PD5", -1, -1, 0, -1, 48, nullptr},
        {"PD6", -1, -1, 0, -1, 49, nullptr}, {"PD7", -1, -1, 0, -1, 50, nullptr},
        {"PE0", -1, -1, 0, -1, 2, nullptr},  {"PE1", -1, -1, 0, -1, 3, nullptr},
        {"PE2", -1, -1, 0, -1, 4, nullptr},  {"PE3", -1, 3, 0, -1, 5, nullptr},
        {"PE4", -1, 3, 1, -1, 6, nullptr},   {"PE5", -1, 3, 2, -1, 7, nullptr},
        {"PE6", -1, -1, 0, -1, 8, nullptr},  {"PE7", -1, -1, 0, -1, 9, nullptr},
        {"PF0", 0, -1, 0, -1, 97, nullptr},  {"PF1", 1, -1, 0, -1, 96, nullptr},
        {"PF2", 2, -1, 0, -1, 95, nullptr},  {"PF3", 3, -1, 0, -1, 94, nullptr},
        {"PF4", 4, -1, 0, -1, 93, nullptr},  {"PF5", 5, -1, 0, -1, 92, nullptr},
        {"PF6", 6, -1, 0, -1, 91, nullptr},  {"PF7", 7, -1, 0, -1, 90, nullptr},
        {"PG0", -1, -1, 0, -1, 51, nullptr}, {"PG1", -1, -1, 0, -1, 52, nullptr},
        {"PG2", -1, -1, 0, -1, 70, nullptr}, {"PG3", -1, -1, 0, -1, 28, nullptr},
        {"PG4", -1, -1, 0, -1, 29, nullptr}, {"PG5", -1, 0, 1, -1, 1, nullptr},
        {"PH0", -1, -1, 0, -1, 12, nullptr}, {"PH1", -1, -1, 0, -1, 13, nullptr},
        {"PH2", -1, -1, 0, -1, 14, nullptr}, {"PH3", -1, 4, 0, -1, 15, nullptr},
        {"PH4", -1, 4, 1, -1, 16, nullptr},  {"PH5", -1, 4, 2, -1, 17, nullptr},
        {"PH6", -1, 2, 1, -1, 18, nullptr},  {"PH7", -1, -1, 0, -1, 27, nullptr},
        {"PJ0", -1, -1, 0, 1, 63, nullptr},  {"PJ1", -1, -1, 0, 1, 64, nullptr},
        {"PJ2", -1, -1, 0, 1, 65, nullptr},  {"PJ3", -1, -1, 0, 1, 66, nullptr},
        {"PJ4", -1, -1, 0, 1, 67, nullptr},  {"PJ5", -1, -1, 0, 1, 68, nullptr},
        {"PJ6", -1, -1, 0, 1, 69, nullptr},  {"PJ7", -1, -1, 0, -1, 79, nullptr},
        {"PK0", 8, -1, 0, 2, 89, nullptr},   {"PK1", 9, -1, 0, 2, 88, nullptr},
        {"PK2", 10, -1, 0, 2, 87, nullptr},  {"PK3", 11, -1, 0, 2, 86, nullptr},
        {"PK4", 12, -1, 0, 2, 85, nullptr},  {"PK5", 13, -1, 0, 2, 84, nullptr},
        {"PK6", 14, -1, 0, 2, 83, nullptr},  {"PK7", 15, -1, 0, 2, 82, nullptr},
        {"PL0", -1, -1, 0, -1, 35, nullptr}, {"PL1", -1, -1, 0, -1, 36, nullptr},
        {"PL2", -1, -1, 0, -1, 37, nullptr}, {"PL3", -1, 5, 0, -1, 38, nullptr},
        {"PL4", -1, 5, 1, -1, 39, nullptr},  {"PL5", -1, 5, 2, -1, 40, nullptr},
        {"PL6", -1, -1, 0, -1, 41, nullptr}, {"PL7", -1, -1, 0, -1, 42, nullptr},
    };

    /// Where a port's PINx lies; DDRx and PORTx follow it.
    static constexpr uint16_t port_at(char port) {
        return static_cast<uint16_t>(port <= 'G'   ? 0x20 + 3 * (port - 'A')
                                     : port == 'H' ? 0x100
                                                   : 0x103 + 3 * (port - 'J'));
    }
    static constexpr ChipFacts facts = [] {
        ChipFacts out = detail::avr_facts_of(pins, timers, lines, &port_at);
        out.name = "atmega2560";
        out.title = "ATmega2560";
        out.analogue_pins = "ADC0 to ADC15";
        out.digital_pins =
            "PA0 to PA7, and so on to PL0 to PL7 (there is no PI; of PG, PG0 to PG5)";
        out.core = "atmega2560";
        out.hertz = 16'000'000;
        out.flash = 262'144;
        out.ram = 8'192;
        out.kept = 4'096;
        out.ram_begins = 0x200;
        out.legs = 100;
        return out;
    }();

    /// The ports whose edges come together, and how far its mask is shifted from the port's bits.
    static constexpr char edge_ports[] = {'B', 'J', 'K'};
    static constexpr uint8_t edge_shifts[] = {0, 1, 0};
};

} // namespace zorilla::chips
