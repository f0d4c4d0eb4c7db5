// SPDX-License-Identifier: MIT
/// \file
/// The AVR that is compiled for, and what differs from one to the next: where a register has
/// another name, or a bit another place. Data sheets: see zorilla/board/chips/.
#pragma once

#if defined(__AVR_ATmega328P__)
#include "zorilla/board/chips/atmega328p.hpp"
#elif defined(__AVR_ATmega2560__)
#include "zorilla/board/chips/atmega2560.hpp"
#elif defined(__AVR_ATtiny85__)
#include "zorilla/board/chips/attiny85.hpp"
#else
#error                                                                                             \
    "zorilla/board/avr/ is for the ATmega328P, the ATmega2560 and the ATtiny85: compile with -mmcu=atmega328p or another of them"
#endif

#include "zorilla/board/needs.hpp"

#include <avr/io.h>
#include <stdint.h>

// Chips of up to 8 KiB have no calls and jumps that reach further than these.
#if defined(__AVR_HAVE_JMP_CALL__)
#define ZORILLA_CALL "call "
#define ZORILLA_GOTO "jmp "
#else
#define ZORILLA_CALL "rcall "
#define ZORILLA_GOTO "rjmp "
#endif

namespace zorilla::avr {

#if defined(__AVR_ATmega328P__)
using Chip = chips::Atmega328p;
#elif defined(__AVR_ATmega2560__)
using Chip = chips::Atmega2560;
#else
using Chip = chips::Attiny85;
#endif

/// A register by its address in the data space; written as a constant, it costs what its name does.
[[gnu::always_inline]] inline volatile uint8_t& at(uint16_t address) {
    return *reinterpret_cast<volatile uint8_t*>(address);
}
[[gnu::always_inline]] inline volatile uint16_t& wide_at(uint16_t address) {
    return *reinterpret_cast<volatile uint16_t*>(address);
}

/// Which of the chip's pins that is; a constant.
constexpr int pin_index(char port, uint8_t bit) {
    for (int i = 0; i < Chip::facts.pin_count; ++i)
        if (Chip::pins[i].name[0] == 'P' && Chip::pins[i].name[1] == port &&
            Chip::pins[i].name[2] == '0' + bit)
            return i;
    return -1;
}
constexpr int channel_index(int8_t channel) {
    for (int i = 0; i < Chip::facts.pin_count; ++i)
        if (Chip::pins[i].channel == channel)
            return i;
    return -1;
}
/// The same of a name such as "PD0".
constexpr int pin_named(const char* name) {
    return pin_index(name[1], static_cast<uint8_t>(name[2] - '0'));
}

/// Bits of `Needs` above those of the pins.
constexpr Bits timer_bit(int number) { return Bits::one(100 + number); }
constexpr Bits line_bit(int number) { return Bits::one(112 + number); }
constexpr Bits watchdog_bit = Bits::one(120), reference_bit = Bits::one(121);
static_assert(Chip::facts.pin_count <= 100 && Chip::facts.timer_count <= 12);

#if defined(__AVR_ATtiny85__)
constexpr uint8_t sleep_register = 0x55, sleep_bits = 1 << SE;
constexpr uint8_t watchdog_register = 0x41, overflow_register = 0x59, overflow_flags = 0x58;
constexpr uint8_t edges_register = 0x5b, edges_first = PCIE;
constexpr uint8_t reference_of_supply = 0, reference_of_own = 1 << REFS1,
                  reference_of_pin = 1 << REFS0;
#else
constexpr uint8_t sleep_register = 0x53, sleep_bits = 1 << SE;
constexpr uint8_t watchdog_register = 0x60, overflow_register = 0x6e, overflow_flags = 0x35;
constexpr uint8_t edges_register = 0x68, edges_first = 0;
constexpr uint8_t reference_of_supply = 1 << REFS0, reference_of_pin = 0;
#if defined(__AVR_ATmega2560__)
constexpr uint8_t reference_of_own = 1 << REFS1; // 1.1 V; with REFS0 it would be 2.56 V
#else
constexpr uint8_t reference_of_own = 1 << REFS1 | 1 << REFS0;
#endif
#endif

/// Pins tell of their edges in groups, each a port.
constexpr uint8_t group_count = sizeof(Chip::edge_ports);
constexpr uint16_t levels_of(uint8_t group) { return Chip::port_at(Chip::edge_ports[group]); }

/// Where it stands which edges of a group are told of.
constexpr uint16_t edge_mask_of(uint8_t group) {
#if defined(__AVR_ATtiny85__)
    return static_cast<uint16_t>(0x35 + 0 * group);
#else
    return static_cast<uint16_t>(0x6b + group);
#endif
}
[[gnu::always_inline]] inline void set_edge_mask(uint8_t group, uint8_t pins) {
#if defined(__AVR_ATtiny85__)
    at(edge_mask_of(group)) = pins;
#else
    at(edge_mask_of(group)) = static_cast<uint8_t>(pins << Chip::edge_shifts[group]);
#endif
}

/// Lets a channel's pin be no digital input, which saves power at half of the supply.
[[gnu::always_inline]] inline void unplug(int8_t channel, uint8_t bit) {
#if defined(__AVR_ATtiny85__)
    (void)channel;
    DIDR0 = static_cast<uint8_t>(DIDR0 | 1U << bit);
#else
    (void)bit;
#if defined(__AVR_ATmega2560__)
    if (channel >= 8)
        DIDR2 = static_cast<uint8_t>(DIDR2 | 1U << (channel - 8));
    else
#endif
        DIDR0 = static_cast<uint8_t>(DIDR0 | 1U << channel);
#endif
}

} // namespace zorilla::avr
