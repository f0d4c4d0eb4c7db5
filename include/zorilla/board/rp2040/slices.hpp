// SPDX-License-Identifier: MIT
/// \file
/// What the PWM slices of an RP2040 make on their pins: duties, tones, servo pulses. Data sheet,
/// chapter 4.5.
#pragma once

#include "zorilla/board/rp2040/clock.hpp"
#include "zorilla/board/rp2040/roles.hpp"

namespace zorilla {

namespace rp2040 {

template <class Pin> struct Slice {
    static constexpr uint8_t number = static_cast<uint8_t>(Pin::facts.timer);
    static constexpr uint32_t base = slices + 0x14 * number;
    static constexpr uint8_t shift = Pin::facts.half == 0 ? 0 : 16;

    /// \param counts  of a period  \param divisor  of the clock, 1 to 255
    static void set_period(uint32_t counts, uint32_t divisor) {
        at(base + 0x04) = divisor << 4;
        at(base + 0x10) = counts - 1;
    }
    static void begin(uint32_t counts, uint32_t divisor, Level off) {
        Pin::begin(off);
        set_period(counts, divisor);
        set_high(off == Level::high ? counts : 0);
        at(base) = 1;
        Pin::connect(Pin::slice);
    }
    /// Whole periods of low and of high, too. The other half stays.
    static void set_high(uint32_t counts) {
        // A register there is always written as a whole, 2.1.4.
        at(base + 0x0c) = (at(base + 0x0c) & ~(0xffffU << shift)) | counts << shift;
    }
};

} // namespace rp2040

/// A duty: of 255 parts at 7.8 kHz, or at 25 kHz of 1,920.
template <uint8_t N, Level Active, Pace At>
struct Does<Rp2040, Dimmed<RpPin<N>, Active, At>> : rp2040::OutputRole {
    using Slice = rp2040::Slice<RpPin<N>>;
    static constexpr uint32_t counts = At == Pace::fan ? 1920 : 255;
    static constexpr uint32_t parts = rp2040::part_slices;
    static constexpr Needs needs{RpPin<N>::id, rp2040::slice_bit(Slice::number),
                                 At == Pace::fan ? rp2040::fans : rp2040::duties};
    static void begin() {
        Slice::begin(counts, At == Pace::fan ? 1 : 24, detail::level_of(Active, false));
    }
    static void write(Duty duty) {
        const uint8_t n = duty.of_255();
        const uint32_t high = Active == active_high ? n : 255U - n;
        Slice::set_high((high * counts + 127) / 255);
    }
};

/// A tone, half of its period at a time, within 0.01 %.
template <uint8_t N, Level Active>
struct Does<Rp2040, Sounding<RpPin<N>, Active>> : rp2040::OutputRole {
    using Slice = rp2040::Slice<RpPin<N>>;
    static constexpr uint32_t parts = rp2040::part_slices;
    static constexpr Needs needs{RpPin<N>::id | rp2040::slice_bit(Slice::number)};
    static void begin() { Slice::begin(1000, 24, detail::level_of(Active, false)); }
    static void write(Tone tone) {
        if (tone.hertz == now_)
            return;
        now_ = tone.hertz;
        if (tone.hertz == 0) {
            Slice::set_high(Active == active_high ? 0 : 0xffff);
            return;
        }
        // The finest divisor with which a period has room; 24 for the lowest tone.
        const uint32_t clock = chips::Rp2040::facts.hertz;
        const uint32_t divisor = clock / tone.hertz / 65'536 + 1;
        const uint32_t swing = divisor * tone.hertz;
        const uint32_t counts = (clock + swing / 2) / swing;
        Slice::set_period(counts, divisor);
        Slice::set_high(counts / 2);
    }

  private:
    static inline uint16_t now_ = 0;
};

/// A pulse of 1,000 to 2,000 us every 20 ms, in steps of half a microsecond.
template <uint8_t N> struct Does<Rp2040, Servo<RpPin<N>>> : rp2040::OutputRole {
    using Slice = rp2040::Slice<RpPin<N>>;
    static constexpr uint32_t parts = rp2040::part_slices;
    static constexpr Needs needs{RpPin<N>::id, rp2040::slice_bit(Slice::number), rp2040::servos};
    static void begin() { Slice::begin(40'000, 24, Level::low); }
    static void write(Duty position) { Slice::set_high(2U * servo_pulse(position)); }
};

} // namespace zorilla
