// SPDX-License-Identifier: MIT
/// \file
/// What the timers of an AVR make on their pins: duties, tones, servo pulses.
/// ATmega48A/PA/88A/PA/168A/PA/328/P data sheet, chapters 15, 16, 18.
#pragma once

#include "zorilla/board/avr/roles.hpp"

#include <avr/io.h>

namespace zorilla {

namespace avr {

/// The timer of a pin. Half A of a timer is one of its two outputs, half B the other.
template <class Pin> struct TimerPin {
    static_assert(sizeof(Pin) == 0, "no timer drives this pin: take PB1, PB2, PB3, PD3, PD5, PD6");
};
template <uint8_t Number, bool A> struct TimerHalf {
    static constexpr uint8_t timer = Number;
    static constexpr bool is_a = A;
    /// Connects the pin: it is high until the compare value, or toggles there; or not at all.
    enum class Pinned : uint8_t { none = 0, toggles = 1, high_until = 2 };
    static void connect(Pinned how) {
        volatile uint8_t& control = Number == 0 ? TCCR0A : Number == 1 ? TCCR1A : TCCR2A;
        const uint8_t shift = A ? 6 : 4;
        control =
            static_cast<uint8_t>((control & ~(3U << shift)) | static_cast<unsigned>(how) << shift);
    }
    static void compare(uint16_t value) {
        if constexpr (Number == 0)
            (A ? OCR0A : OCR0B) = static_cast<uint8_t>(value);
        else if constexpr (Number == 1)
            (A ? OCR1A : OCR1B) = value;
        else
            (A ? OCR2A : OCR2B) = static_cast<uint8_t>(value);
    }
};
template <> struct TimerPin<AvrPin<AvrPort::d, 6>> : TimerHalf<0, true> {};
template <> struct TimerPin<AvrPin<AvrPort::d, 5>> : TimerHalf<0, false> {};
template <> struct TimerPin<AvrPin<AvrPort::b, 1>> : TimerHalf<1, true> {};
template <> struct TimerPin<AvrPin<AvrPort::b, 2>> : TimerHalf<1, false> {};
template <> struct TimerPin<AvrPin<AvrPort::b, 3>> : TimerHalf<2, true> {};
template <> struct TimerPin<AvrPin<AvrPort::d, 3>> : TimerHalf<2, false> {};

/// Timer 1 with a period of its own, fast PWM up to ICR1 (mode 14). \param eighths  of the clock
inline void long_period(uint16_t counts, bool eighths) {
    ICR1 = static_cast<uint16_t>(counts - 1);
    TCCR1A |= 1 << WGM11;
    TCCR1B = static_cast<uint8_t>(1 << WGM13 | 1 << WGM12 | (eighths ? 1 << CS11 : 1 << CS10));
}

} // namespace avr

/// A duty: of 256 parts, or at 25 kHz of 640 at 16 MHz. Nothing and all are levels, without a
/// spike.
template <uint32_t H, AvrPort P, uint8_t Bit, Level Active, Pace At>
struct Does<Atmega328pAt<H>, Dimmed<AvrPin<P, Bit>, Active, At>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(At == Pace::usual || Timer::timer == 1,
                  "only timer 1 can swing at 25 kHz here: take PB1 or PB2");
    static constexpr uint16_t fan_counts = H / 25'000;
    static constexpr Needs needs{Pin::id, avr::timer_bit(Timer::timer),
                                 At == Pace::fan ? avr::fans : avr::duties};
    static void begin() {
        Pin::begin(avr::level_of(Active, false));
        if constexpr (At == Pace::fan) {
            avr::long_period(fan_counts, false);
        } else if constexpr (Timer::timer == 1) {
            TCCR1A |= 1 << WGM10; // fast PWM, 8 bits
            TCCR1B = 1 << WGM12 | 1 << CS11;
        } else if constexpr (Timer::timer == 2) {
            TCCR2A |= 1 << WGM21 | 1 << WGM20;
            TCCR2B = 1 << CS21;
        } // timer 0 is started by the clock
    }
    static void write(Duty duty) {
        const uint8_t n = duty.of_255();
        const auto high = static_cast<uint8_t>(Active == active_high ? n : 255 - n);
        if (high == 0 || high == 255) {
            Pin::set(high == 0 ? Level::low : Level::high);
            Timer::connect(Timer::Pinned::none);
            return;
        }
        // It is high for one count more than the compare value says.
        if constexpr (At == Pace::fan)
            Timer::compare(static_cast<uint16_t>((uint32_t{high} * fan_counts + 127) / 255 - 1));
        else
            Timer::compare(high < 128 ? static_cast<uint8_t>(high - 1) : high);
        Timer::connect(Timer::Pinned::high_until);
    }
};

/// A tone, half of its period at a time. On timer 1 within 0.13 %; on timer 2, which has 8 bits,
/// within 1.6 %. Cost: a change about 1,000 cycles, else 20.
template <uint32_t H, AvrPort P, uint8_t Bit, Level Active>
struct Does<Atmega328pAt<H>, Sounding<AvrPin<P, Bit>, Active>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(Timer::timer != 0,
                  "timer 0 is the clock's and cannot make a tone: take PB1, PB2, PB3 or PD3");
    static constexpr Needs needs{Pin::id | avr::timer_bit(Timer::timer)};
    static void begin() { Pin::begin(avr::level_of(Active, false)); }
    static void write(Tone tone) {
        if (tone.hertz == now_)
            return;
        now_ = tone.hertz;
        Timer::connect(Timer::Pinned::none);
        Pin::set(avr::level_of(Active, false));
        if (tone.hertz == 0)
            return;
        if constexpr (Timer::timer == 1) {
            // From 200 Hz on whole counts of the clock fit, else eighths of it.
            const bool eighths = tone.hertz < H / 80'000;
            const uint16_t top = counts(eighths ? 16 : 2, tone.hertz);
            TCCR1B = static_cast<uint8_t>(1 << WGM12 | (eighths ? 1 << CS11 : 1 << CS10));
            OCR1A = OCR1B = static_cast<uint16_t>(top - 1);
            TCNT1 = 0; // else it could run once past the new value, up to its end
        } else {
            // The finest step with which it has room.
            constexpr uint8_t shifts[] = {0, 3, 5, 6, 7, 8, 10};
            uint8_t step = 0;
            uint32_t top = half_period(tone.hertz);
            while (step < 6 && (top + (1U << shifts[step] >> 1)) >> shifts[step] > 256)
                ++step;
            top = (top + (1U << shifts[step] >> 1)) >> shifts[step];
            TCCR2A |= 1 << WGM21;
            TCCR2B = static_cast<uint8_t>(step + 1);
            OCR2A = OCR2B = static_cast<uint8_t>(top > 256 ? 255 : top - 1);
            TCNT2 = 0;
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
template <uint32_t H, AvrPort P, uint8_t Bit>
struct Does<Atmega328pAt<H>, Servo<AvrPin<P, Bit>>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    using Timer = avr::TimerPin<Pin>;
    static_assert(Timer::timer == 1, "a servo needs timer 1 here: take PB1 or PB2");
    static constexpr uint16_t counts_per_us = H / 8'000'000;
    static constexpr Needs needs{Pin::id, avr::timer_bit(1), avr::servos};
    static void begin() {
        Pin::begin(Level::low);
        avr::long_period(20'000U * counts_per_us, true);
    }
    static void write(Duty position) {
        Timer::compare(static_cast<uint16_t>(servo_pulse(position) * counts_per_us - 1));
        Timer::connect(Timer::Pinned::high_until);
    }
};

} // namespace zorilla
