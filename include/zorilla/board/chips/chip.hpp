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
    duty,     ///< high for a share of its time, made by a timer (PWM)
    tone,     ///< swings at a frequency, made by a timer
    servo,    ///< a pulse of 1 to 2 ms every 20 ms, made by a timer
};

/// What full scale of the converter stands for; the same for all channels of a device.
enum class Reference : uint8_t {
    supply,
    internal, ///< the chip's own, of an ATmega328P 1.0 to 1.2 V
    external, ///< a voltage on a pin for it, of an ATmega328P AREF
};

/// A pin by the name of the data sheet.
struct PinFacts {
    const char* name;
    int8_t channel;    ///< of the converter; -1: none
    int8_t timer;      ///< whose output it can be; -1: none
    int8_t leg;        ///< of the package with 28 legs; 0: only larger ones have it
    const char* taken; ///< what it carries from the start, as a sentence goes on; null: nothing
};

/// A timer.
struct TimerFacts {
    uint8_t bits;
    bool runs_clock; ///< it goes on counting the time, and gives duties beside it alone
};

/// Whether a timer can do that, if nothing else wants it.
constexpr bool can(const TimerFacts& timer, PinWay way) {
    // A servo's 20 ms take steps that are fine enough: 16 bits.
    return way == PinWay::duty ||
           (!timer.runs_clock &&
            (way == PinWay::tone || (way == PinWay::servo && timer.bits == 16)));
}
/// Whether two outputs of one timer go together: duties and servos share its period, a tone is one.
constexpr bool go_together(PinWay a, PinWay b) { return a == b && a != PinWay::tone; }

} // namespace zorilla
