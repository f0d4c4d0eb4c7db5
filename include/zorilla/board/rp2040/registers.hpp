// SPDX-License-Identifier: MIT
/// \file
/// The RP2040's registers, where this library uses them. RP2040 data sheet; chapters beside each.
#pragma once

#include "zorilla/board/chips/rp2040.hpp"
#include "zorilla/board/needs.hpp"

#include <stdint.h>

namespace zorilla::rp2040 {

[[gnu::always_inline]] inline volatile uint32_t& at(uint32_t address) {
    return *reinterpret_cast<volatile uint32_t*>(static_cast<uintptr_t>(address));
}
/// Of peripherals, 2.1.2: bits are set, or cleared, in one write.
[[gnu::always_inline]] inline void set_bits(uint32_t address, uint32_t bits) {
    at(address + 0x2000) = bits;
}
[[gnu::always_inline]] inline void clear_bits(uint32_t address, uint32_t bits) {
    at(address + 0x3000) = bits;
}

/// Interrupts by their numbers, 2.3.2.
enum Interrupt : uint8_t {
    on_timer = 0,
    on_usb = 5,
    on_pins = 13,
    on_serial0 = 20,
    on_serial1 = 21
};
/// Edges on pins come first, and interrupt all others, so that their time is right; 2.4.3.
inline void listen_to(Interrupt number) {
    if (number != on_pins) {
        const uint32_t place = 0xe000'e400 + number / 4U * 4; // NVIC_IPR
        at(place) = at(place) | 0xc0U << number % 4 * 8;
    }
    at(0xe000'e100) = 1U << number; // NVIC_ISER
}

constexpr uint32_t resets = 0x4000'c000;                   // 2.14
constexpr uint32_t clocks = 0x4000'8000;                   // 2.15
constexpr uint32_t power_on = 0x4001'0000;                 // 2.13
constexpr uint32_t pin_functions = 0x4001'4000;            // 2.19.6.1
constexpr uint32_t pads = 0x4001'c000;                     // 2.19.6.3
constexpr uint32_t crystal = 0x4002'4000;                  // 2.16
constexpr uint32_t usb_pll = 0x4002'c000;                  // 2.18
constexpr uint32_t serials[] = {0x4003'4000, 0x4003'8000}; // 4.2
constexpr uint32_t converter = 0x4004'c000;                // 4.9
constexpr uint32_t slices = 0x4005'0000;                   // 4.5
constexpr uint32_t timer = 0x4005'4000;                    // 4.6
constexpr uint32_t watchdog = 0x4005'8000;                 // 4.7
constexpr uint32_t chip_reset = 0x4006'4008;               // 2.12.8
constexpr uint32_t pins = 0xd000'0000;                     // 2.3.1.7

/// Bits of RESETS, 2.14.3.
enum Part : uint32_t {
    part_adc = 1U << 0,
    part_pins = 1U << 5 | 1U << 8,
    part_usb_pll = 1U << 13,
    part_slices = 1U << 14,
    part_timer = 1U << 21,
    part_serial0 = 1U << 22,
    part_serial1 = 1U << 23,
    part_usb = 1U << 24,
};
/// Lets parts of the chip run.
inline void release(uint32_t parts) {
    clear_bits(resets, parts);
    while ((at(resets + 8) & parts) != parts) {
    }
}

/// Keeps interrupts off for a moment.
class Quiet {
  public:
    Quiet() { __asm__ volatile("mrs %0, primask\n\tcpsid i" : "=r"(masked_) : : "memory"); }
    ~Quiet() { __asm__ volatile("msr primask, %0" : : "r"(masked_) : "memory"); }
    Quiet(const Quiet&) = delete;
    Quiet& operator=(const Quiet&) = delete;

  private:
    uint32_t masked_;
};

/// Set where interrupts were kept off for so long that edges came without their time.
inline volatile bool missed_edges = false;

/// Bits of `Needs` above those of the pins.
constexpr Bits slice_bit(int number) { return Bits::one(64 + number); }
constexpr Bits line_bit(int number) { return Bits::one(80 + number); }
constexpr Bits watchdog_bit = Bits::one(90);

} // namespace zorilla::rp2040
