// SPDX-License-Identifier: MIT
/// \file
/// What the timers of an AVR make on their pins: duties, tones, servo pulses.
/// Data sheet of the ATmega328P, chapters 15, 16, 18; of the ATtiny85, chapters 11, 12.
#pragma once

#include "zorilla/board/avr/roles.hpp"

namespace zorilla {

namespace avr {

/// A timer of the chip, by its number in the data sheet.
template <int Number> struct Timer {
    static constexpr TimerFacts facts = Chip::timers[Number];
    static constexpr bool is_wide = facts.kind == TimerKind::wide;
    static constexpr bool has_powers = facts.kind == TimerKind::powers;

    static void set_mode(uint8_t bits) { at(facts.mode) = bits; }
    /// For duties: 256 counts of an eighth of the clock.
    static void begin_duties() {
        if constexpr (is_wide) {
            at(facts.control) = static_cast<uint8_t>(at(facts.control) | 1 << WGM00); // 8 bits
            set_mode(1 << 3 | 2); // WGMn2, and an eighth
        } else if constexpr (has_powers) {
            at(facts.top) = 255;
            begin_powers(4);
        } else if constexpr (!facts.runs_clock) {
            at(facts.control) = static_cast<uint8_t>(at(facts.control) | 1 << WGM01 | 1 << WGM00);
            set_mode(2);
        } // else the clock starts it
    }
    /// A period of its own. \param counts  of the clock, or of eighths of it
    static void begin_period(uint16_t counts, bool eighths) {
        wide_at(facts.top) = static_cast<uint16_t>(counts - 1);
        at(facts.control) = static_cast<uint8_t>(at(facts.control) | 1 << WGM01); // mode 14
        set_mode(static_cast<uint8_t>(1 << 4 | 1 << 3 | (eighths ? 2 : 1)));
    }
    /// Of an ATtiny85's timer 1, for duties; both halves go on as they are connected.
    static void begin_powers(uint8_t step) {
        at(facts.control) = static_cast<uint8_t>((at(facts.control) & 0x30) | 1 << 6 | step);
        at(facts.mode) = static_cast<uint8_t>(at(facts.mode) | 1 << 6);
    }
};

/// One output of a timer.
template <class Pin> struct TimerPin : Timer<(Pin::facts.timer < 0 ? 0 : Pin::facts.timer)> {
    static_assert(Pin::facts.timer >= 0,
                  "no timer drives this pin: take one that a timer does (docs/boards.md)");
    static constexpr int number = Pin::facts.timer;
    static constexpr uint8_t half = static_cast<uint8_t>(Pin::facts.half);
    using Base = Timer<number>;
    /// Connects the pin: it is high until the compare value, or toggles there; or not at all.
    enum class Pinned : uint8_t { none = 0, toggles = 1, high_until = 2 };
    static void connect(Pinned how) {
        // Of an ATtiny85's timer 1 each half has its own register.
        volatile uint8_t& control =
            at(Base::has_powers && half == 1 ? Base::facts.mode : Base::facts.control);
        constexpr uint8_t shift = Base::has_powers ? 4 : 6 - 2 * half;
        control =
            static_cast<uint8_t>((control & ~(3U << shift)) | static_cast<unsigned>(how) << shift);
    }
    static void compare(uint16_t value) {
        if constexpr (Base::is_wide)
            wide_at(Base::facts.compare[half]) = value;
        else
            at(Base::facts.compare[half]) = static_cast<uint8_t>(value);
    }
};

} // namespace avr

/// A duty: of 256 parts, or at 25 kHz of 640 at 16 MHz (of 160 at 8 MHz on an ATtiny85). Nothing
/// and all are levels, without a spike.
template <uint32_t H, char P, uint8_t Bit, Level Active, Pace At>
struct Does<AvrBoard<H>, Dimmed<AvrPin<P, Bit>, Active, At>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(At == Pace::usual || can_at_fan_pace(Timer::facts),
                  "this pin's timer cannot swing at 25 kHz: take one of 16 bits (PB1 or PB2 of an "
                  "ATmega328P)");
    /// Half of the clock on an ATtiny85, whose timer has 8 bits.
    static constexpr uint16_t fan_counts = H / (Timer::has_powers ? 2 : 1) / 25'000;
    static constexpr Needs needs{Pin::id, avr::timer_bit(Timer::number),
                                 At == Pace::fan ? avr::fans : avr::duties};
    static void begin() {
        Pin::begin(detail::level_of(Active, false));
        if constexpr (At == Pace::usual) {
            Timer::begin_duties();
        } else if constexpr (Timer::has_powers) {
            avr::at(Timer::facts.top) = fan_counts - 1;
            Timer::begin_powers(2);
        } else {
            Timer::begin_period(fan_counts, false);
        }
    }
    static void write(Duty duty) {
        const uint8_t n = duty.of_255();
        const auto high = static_cast<uint8_t>(Active == active_high ? n : 255 - n);
        if (high == 0 || high == 255) {
            Pin::set(high == 0 ? Level::low : Level::high);
            Timer::connect(Timer::Pinned::none);
            return;
        }
        // It is high for one count more than the compare value says; on an ATtiny85's timer 1 for
        // as many as that, and all the time at its top.
        constexpr uint16_t more = Timer::has_powers ? 0 : 1;
        if constexpr (At == Pace::fan)
            Timer::compare(static_cast<uint16_t>((uint32_t{high} * fan_counts + 127) / 255 - more));
        else
            Timer::compare(high < 128 || high + 1 - more == 255
                               ? static_cast<uint8_t>(high - more)
                               : static_cast<uint8_t>(high + 1 - more));
        Timer::connect(Timer::Pinned::high_until);
    }
};

/// A tone, half of its period at a time. On a timer of 16 bits within 0.13 %; on timer 2, which has
/// 8 bits, within 1.6 %; on timer 1 of an ATtiny85 within 0.4 %. Cost: a change about 1,000 cycles,
/// else 20.
template <uint32_t H, char P, uint8_t Bit, Level Active>
struct Does<AvrBoard<H>, Sounding<AvrPin<P, Bit>, Active>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(!Timer::facts.runs_clock,
                  "timer 0 is the clock's and cannot make a tone: take a pin of another timer "
                  "(PB1, PB2, PB3 or PD3 of an ATmega328P)");
    static constexpr Needs needs{Pin::id | avr::timer_bit(Timer::number)};
    static void begin() { Pin::begin(detail::level_of(Active, false)); }
    static void write(Tone tone) {
        if (tone.hertz == now_)
            return;
        now_ = tone.hertz;
        Timer::connect(Timer::Pinned::none);
        Pin::set(detail::level_of(Active, false));
        if (tone.hertz == 0)
            return;
        if constexpr (Timer::is_wide) {
            // From 200 Hz on whole counts of the clock fit, else eighths of it.
            const bool eighths = tone.hertz < H / 80'000;
            const uint16_t top = counts(eighths ? 16 : 2, tone.hertz);
            Timer::set_mode(static_cast<uint8_t>(1 << 3 | (eighths ? 2 : 1)));
            // The first compare value is where it begins anew.
            avr::wide_at(Timer::facts.compare[0]) = static_cast<uint16_t>(top - 1);
            if constexpr (Timer::half != 0)
                Timer::compare(static_cast<uint16_t>(top - 1));
            // Else it could run once past the new value, up to its end.
            avr::wide_at(Timer::facts.count) = 0;
        } else if constexpr (Timer::has_powers) {
            // The finest step with which it has room.
            uint8_t step = 1;
            uint32_t top = half_period(tone.hertz);
            while (top > 256) {
                ++step;
                top = (top + 1) >> 1;
            }
            avr::at(Timer::facts.control) =
                static_cast<uint8_t>((avr::at(Timer::facts.control) & 0x30) | 1 << 7 | step);
            avr::at(Timer::facts.top) = static_cast<uint8_t>(top - 1);
            Timer::compare(static_cast<uint8_t>(top - 1));
            avr::at(Timer::facts.count) = 0;
        } else {
            // A 1st, 8th, 32nd, 64th, 128th, 256th or 1024th of the clock: the finest with which it
            // has room. In half counts, so that it is rounded at the end.
            uint8_t step = 0;
            uint32_t halves = half_period(tone.hertz) << 1;
            while (step < 6 && halves >= 2 * 256 + 1) {
                ++step;
                uint8_t shift = step == 1 ? 3 : step == 2 || step == 6 ? 2 : 1;
                do
                    halves >>= 1;
                while (--shift != 0);
            }
            const auto top = static_cast<uint16_t>((halves + 1) >> 1);
            avr::at(Timer::facts.control) =
                static_cast<uint8_t>(avr::at(Timer::facts.control) | 1 << WGM01);
            Timer::set_mode(static_cast<uint8_t>(step + 1));
            const auto last = static_cast<uint8_t>(top > 256 ? 255 : top - 1);
            avr::at(Timer::facts.compare[0]) = last;
            if constexpr (Timer::half != 0)
                Timer::compare(last);
            avr::at(Timer::facts.count) = 0;
        }
        Timer::connect(Timer::Pinned::toggles);
    }

  private:
    static uint16_t counts(uint8_t divisor, uint16_t hertz) {
        return static_cast<uint16_t>((H / divisor + hertz / 2) / hertz);
    }
    static uint32_t half_period(uint16_t hertz) { return (H / 2 + hertz / 2) / hertz; }
    static inline uint16_t now_ = 0;
};

/// A pulse of 1,000 to 2,000 us every 20 ms, in steps of half a microsecond at 16 MHz.
template <uint32_t H, char P, uint8_t Bit>
struct Does<AvrBoard<H>, Servo<AvrPin<P, Bit>>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(Timer::is_wide,
                  "a servo needs a timer of 16 bits: take PB1 or PB2 of an ATmega328P");
    static constexpr uint16_t counts_per_us = H / 8'000'000;
    static constexpr Needs needs{Pin::id, avr::timer_bit(Timer::number), avr::servos};
    static void begin() {
        Pin::begin(Level::low);
        Timer::begin_period(20'000U * counts_per_us, true);
    }
    static void write(Duty position) {
        Timer::compare(static_cast<uint16_t>(servo_pulse(position) * counts_per_us - 1));
        Timer::connect(Timer::Pinned::high_until);
    }
};

} // namespace zorilla
