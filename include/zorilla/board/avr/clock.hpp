// SPDX-License-Identifier: MIT
/// \file
/// Time on an AVR: timer 0, which goes on giving PWM on its two pins, at 16 MHz with 7.8 kHz, or
/// 977 Hz where no edges are timed.
/// ATmega48A/PA/88A/PA/168A/PA/328/P data sheet, chapter 15.
#pragma once

#include "zorilla/board/avr/chip.hpp"
#include "zorilla/units/time.hpp"

#include <avr/io.h>
#include <stdint.h>

namespace zorilla::avr {

/// Keeps interrupts off for a moment.
class Quiet {
  public:
    Quiet() : status_(SREG) { __asm__ volatile("cli" ::: "memory"); }
    ~Quiet() {
        __asm__ volatile("" ::: "memory");
        SREG = status_;
    }
    Quiet(const Quiet&) = delete;
    Quiet& operator=(const Quiet&) = delete;

  private:
    uint8_t status_;
};

/// Milliseconds; and, where edges are timed, microseconds of which the last is half a step of timer
/// 0 at 16 MHz.
template <uint32_t Hertz> class Clock {
    static_assert(Hertz == 16'000'000 || Hertz == 8'000'000, "the clock is 16 MHz or 8 MHz");
    /// Where edges are timed, timer 0 counts eighths of the clock, and overflows each 256 of them.
    static constexpr uint8_t counts_per_us = Hertz / 8'000'000;
    static constexpr uint16_t tick_us = 256 / counts_per_us;

  public:
    /// \tparam Bits  of the microseconds that somebody asks for: 0, 16 or 32. With none the clock
    ///     ticks, and timer 0 swings, eight times slower.
    template <uint8_t Bits> static void begin() {
        TCCR0A |= 1 << WGM01 | 1 << WGM00;
        TCCR0B = Bits > 0 ? 1 << CS01 : 1 << CS01 | 1 << CS00;
        at(overflow_register) = 1 << TOIE0;
    }
    /// The interrupt of its overflow, every 128 us or 1.024 ms at 16 MHz.
    template <uint8_t Bits> [[gnu::always_inline]] static void tick() {
        if constexpr (Bits > 0) {
            const auto low = static_cast<uint16_t>(low_ + 1);
            low_ = low;
            next_ = static_cast<uint8_t>(low + 1);
            if (Bits > 16 && low == 0)
                high_ = static_cast<uint16_t>(high_ + 1);
            // The rest may wait, an edge may not.
            __asm__ volatile("sei" ::: "memory");
        }
        // 125 parts of 8 us are a millisecond.
        constexpr uint16_t parts = (Bits > 0 ? tick_us : 8 * tick_us) / 8;
        constexpr uint8_t whole = parts / 125;
        auto part = static_cast<uint8_t>(part_ + parts % 125);
        const bool more = part >= 125;
        if (more)
            part = static_cast<uint8_t>(part - 125);
        part_ = part;
        if (whole > 0 || more)
            milliseconds_ = milliseconds_ + (more ? whole + 1U : whole);
    }
    static Instant now() {
        const Quiet quiet;
        return Instant(milliseconds_);
    }
    /// The last eight bits of that, to see cheaply whether another millisecond has begun.
    [[gnu::always_inline]] static uint8_t short_now() {
        return *reinterpret_cast<volatile uint8_t*>(&milliseconds_);
    }

    /// Microseconds, the last 16 bits.
    [[gnu::always_inline]] static uint16_t short_us_now() {
        const Quiet quiet;
        const uint8_t count = TCNT0, flags = at(overflow_flags);
        return short_us(static_cast<uint16_t>(low_ + missed(count, flags)), count);
    }
    /// The same of a moment whose ticks are known.
    [[gnu::always_inline]] static uint16_t short_us(uint16_t ticks, uint8_t count) {
        return static_cast<uint16_t>(of_counts(ticks, count));
    }
    /// Microseconds, which wrap after 71 min.
    [[gnu::always_inline]] static uint32_t long_us(uint32_t ticks, uint8_t count, uint8_t flags) {
        return of_counts(ticks + missed(count, flags), count);
    }
    /// The last 16 bits of the ticks of a moment of which the last eight were noted; it may be one
    /// ahead, where the interrupt that counts still waits.
    [[gnu::always_inline]] static uint16_t short_ticks(uint8_t noted) {
        const Quiet quiet;
        const auto next = static_cast<uint16_t>(low_ + 1);
        return static_cast<uint16_t>(next - static_cast<uint8_t>(next - noted));
    }
    /// All ticks of a moment whose lower half was noted a little while ago.
    [[gnu::always_inline]] static uint32_t ticks(uint16_t noted) {
        const Quiet quiet;
        const auto high = static_cast<uint16_t>(low_ < noted ? high_ - 1 : high_);
        return uint32_t{high} << 16 | noted;
    }

    /// Whether it has overflowed, and the interrupt still waits.
    [[gnu::always_inline]] static uint8_t missed(uint8_t count, uint8_t flags) {
        return (flags & 1 << TOV0) != 0 && count < 128 ? 1 : 0;
    }

    static inline volatile uint16_t low_ = 0; ///< ticks, for who notes them
    static inline volatile uint8_t next_ = 1; ///< the last eight bits of the next

  private:
    /// Written as bytes side by side: a small chip shifts by one bit after the other.
    [[gnu::always_inline]] static uint32_t of_counts(uint32_t ticks, uint8_t count) {
        const uint32_t counts = ticks << 8 | count;
        return counts_per_us == 2 ? counts >> 1 | (ticks & 0x0100'0000U) << 7 : counts;
    }
    static inline volatile uint32_t milliseconds_ = 0;
    static inline volatile uint16_t high_ = 0;
    static inline volatile uint8_t part_ = 0;
};

} // namespace zorilla::avr
