// SPDX-License-Identifier: MIT
/// \file
/// The bytes of an AVR that outlive a loss of power. Data sheet, chapter 8.4.
#pragma once

#include "zorilla/board/avr/clock.hpp"

namespace zorilla::avr {

/// The bytes of an AVR (1,024 of an ATmega328P, 4,096 of an ATmega2560, 512 of an ATtiny85), for
/// `Stored`. A byte takes 3.4 ms to write and bears about
/// 100,000 writes (table 8-1); only `read` and `write` wait, and only while an earlier byte is
/// still being written.
struct Eeprom {
    static constexpr uint16_t size = Chip::facts.kept;

    static bool ready() { return !(EECR & 1 << EEPE); }
    static uint8_t read(uint16_t address) {
        while (!ready()) {
        }
        EEAR = address;
        EECR |= 1 << EERE;
        return EEDR;
    }
    static void write(uint16_t address, uint8_t byte) {
        while (!ready()) {
        }
        EEAR = address;
        EEDR = byte;
        // The second must follow the first within four cycles.
        const Quiet quiet;
        EECR |= 1 << EEMPE;
        EECR |= 1 << EEPE;
    }
};

} // namespace zorilla::avr
