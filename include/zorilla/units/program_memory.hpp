// SPDX-License-Identifier: MIT
/// \file
/// Constant tables where each chip keeps constants cheapest.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stdint.h>

#if defined(__AVR__)
// On the 8-bit chips a constant would be copied to RAM at start-up unless it is put into program
// memory by name. (avr-libc's own attribute for this is not known to clang.)
#define ZORILLA_PROGRAM_MEMORY __attribute__((section(".progmem.data")))
#else
#define ZORILLA_PROGRAM_MEMORY
#endif

namespace zorilla::detail {

/// Reads one 16-bit entry of a table declared with `ZORILLA_PROGRAM_MEMORY`.
inline int16_t load_entry(const int16_t* entry) {
#if defined(__AVR__)
    int16_t value;
    // The pointer moves by two; "z" is the only register pair that reads program memory.
    __asm__("lpm %A0, Z+\n\tlpm %B0, Z+" : "=&r"(value), "+z"(entry));
    return value;
#else
    return *entry;
#endif
}

/// Reads one 32-bit number of a table declared with `ZORILLA_PROGRAM_MEMORY`.
inline uint32_t load_long(const uint32_t* number) {
#if defined(__AVR__)
    const auto* halves = reinterpret_cast<const int16_t*>(number);
    const auto low = static_cast<uint16_t>(load_entry(halves));
    const auto high = static_cast<uint16_t>(load_entry(halves + 1));
    return uint32_t{high} << 16 | low;
#else
    return *number;
#endif
}

/// Reads one character of a text declared with `ZORILLA_PROGRAM_MEMORY`.
inline char load_character(const char* character) {
#if defined(__AVR__)
    char value;
    __asm__("lpm %0, Z" : "=r"(value) : "z"(character));
    return value;
#else
    return *character;
#endif
}

} // namespace zorilla::detail
