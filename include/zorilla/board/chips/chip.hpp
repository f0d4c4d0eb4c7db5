// SPDX-License-Identifier: MIT
/// \file
/// What there is to know of a chip before anything is wired to it, as plain constants: for the chip
/// and for the desk alike.
#pragma once

#include <stdint.h>

namespace zorilla {

/// How something uses a pin.
enum class PinWay : uint8_t {
    input,    ///< read as high or low
    analogue, ///< read by the converter
    level,    ///< set high or low
    edges,    ///< read by the moments at which it changes
    duty,     ///< high for a share of its time, made by a timer (PWM)
    tone,     ///< swings at a frequency, made by a timer
    servo,    ///< a pulse of 1 to 2 ms every 20 ms, made by a timer
    line,     ///< the bits of a line, made by a timer
};

/// What full scale of the converter stands for; the same for all channels of a device.
enum class Reference : uint8_t {
    supply,
    internal, ///< the chip's own, of the 8-bit chips 1.0 to 1.2 V
    external, ///< a voltage on a pin for it, such as AREF of an ATmega328P
};

/// A pin by the name of the data sheet.
struct PinFacts {
    const char* name;
    int8_t channel;    ///< of the converter; -1: none
    int8_t timer;      ///< whose output it can be; -1: none
    int8_t half;       ///< which output of that: 0 (A), 1 (B), 2 (C)
    int8_t edges;      ///< which group of pins tells of its edges together; -1: none does
    int8_t leg;        ///< of the package that hobbyists buy; 0: it has none for it
    const char* taken; ///< what it carries from the start, as a sentence goes on; null: nothing
};

/// How a timer is set up.
enum class TimerKind : uint8_t {
    narrow, ///< 8 bits, 0 or 2 of an ATmega
    wide,   ///< 16 bits of an ATmega, with a period of its own
    powers, ///< timer 1 of an ATtiny85: 8 bits, any power of two of the clock
    slice,  ///< one of the RP2040: 16 bits, with a period and a divisor of its own
};

/// A timer. The addresses of its registers are those of the data space; 0 where it has none.
struct TimerFacts {
    TimerKind kind;
    uint8_t bits;
    bool runs_clock; ///< it goes on counting the time, and gives duties beside it alone
    uint16_t control, mode, count, top, compare[3];
};

/// How a chip talks to the outside.
enum class LineKind : uint8_t {
    none,
    serial, ///< by hardware for it, both ways
    timer,  ///< by a timer, which sends alone
    usb,    ///< by a plug, as a serial port, both ways
};

/// A line to the outside.
struct LineFacts {
    const char* name;
    LineKind kind;
    uint8_t number;       ///< among those of its kind
    const char* receives; ///< the pin; null: none
    const char* sends;    ///< the pin; null: none

    /// Whether commands can come in.
    constexpr bool hears() const { return kind == LineKind::serial || kind == LineKind::usb; }
};

/// All of a chip, for who finds it by its name.
struct ChipFacts {
    const char *name, *title;
    const char *analogue_pins, *digital_pins; ///< in words, for who has named another
    const char* core;                         ///< what its compiler calls it
    uint32_t hertz, flash, ram, kept;         ///< kept: bytes that outlive a loss of power
    uint16_t ram_begins;                      ///< data address
    int32_t supply;                           ///< mV; no pin bears more
    int32_t least_reference, most_reference;  ///< mV
    int32_t internal_reference;               ///< mV; 0: none
    const char* reference_pin; ///< which one from outside takes; null: one that is for that alone
    uint8_t legs;              ///< of the package that hobbyists buy
    uint8_t converter_bits;
    uint8_t pin_milliamperes;
    uint16_t all_milliamperes;
    const PinFacts* pins;
    uint8_t pin_count;
    const TimerFacts* timers;
    uint8_t timer_count;
    const LineFacts* lines; ///< the first is taken where none is named
    uint8_t line_count;
    uint16_t (*port_at)(char port); ///< where the PINx of an AVR lies; DDRx and PORTx follow it

    /// Which reference has so many millivolts; 0 is that of who measures against the supply.
    constexpr Reference reference_of(int32_t millivolts) const {
        return millivolts == 0 || millivolts * 10 >= supply * 9 ? Reference::supply
               : internal_reference != 0 && millivolts >= internal_reference - 100 &&
                       millivolts <= internal_reference + 100
                   ? Reference::internal
                   : Reference::external;
    }
};

namespace detail {

/// A chip with its tables, of which nothing else is known yet.
template <uint8_t Pins, uint8_t Timers, uint8_t Lines>
constexpr ChipFacts facts_of(const PinFacts (&pins)[Pins], const TimerFacts (&timers)[Timers],
                             const LineFacts (&lines)[Lines]) {
    ChipFacts out{};
    out.pins = pins;
    out.pin_count = Pins;
    out.timers = timers;
    out.timer_count = Timers;
    out.lines = lines;
    out.line_count = Lines;
    return out;
}
/// The same, with what all AVRs have in common.
template <uint8_t Pins, uint8_t Timers, uint8_t Lines>
constexpr ChipFacts avr_facts_of(const PinFacts (&pins)[Pins], const TimerFacts (&timers)[Timers],
                                 const LineFacts (&lines)[Lines], uint16_t (*port_at)(char port)) {
    ChipFacts out = facts_of(pins, timers, lines);
    out.supply = 5'000;
    out.least_reference = 1'000;
    out.most_reference = 5'500;
    out.internal_reference = 1'100;
    out.converter_bits = 10;
    out.pin_milliamperes = 20;
    out.all_milliamperes = 200;
    out.port_at = port_at;
    return out;
}

} // namespace detail

/// Whether a timer makes that.
constexpr bool is_made_by_timer(PinWay way) { return way >= PinWay::duty; }
/// Whether a timer can do that, if nothing else wants it.
constexpr bool can(const TimerFacts& timer, PinWay way) {
    // A servo's 20 ms take steps that are fine enough: 16 bits.
    return way == PinWay::duty ||
           (!timer.runs_clock &&
            (way == PinWay::tone || (way == PinWay::servo && timer.bits == 16)));
}
/// Whether it can swing at 25 kHz, finely enough, as a fan with four wires wants it.
constexpr bool can_at_fan_pace(const TimerFacts& timer) { return timer.kind != TimerKind::narrow; }
/// Whether two outputs of one timer go together: duties and servos share its period, a tone is one.
constexpr bool go_together(PinWay a, PinWay b) { return a == b && a != PinWay::tone; }

} // namespace zorilla
