// SPDX-License-Identifier: MIT
/// \file
/// What pins do in a device, whatever the chip: each role is a small type over the board's pins,
/// and has no members. `Wiring` (wiring.hpp) puts them together.
///
///     using Roost = Analogue<Board::adc0>;
///     using Lamp = Switched<Board::pb0, active_low>;
///     using Blower = Dimmed<Board::pd3>;
#pragma once

#include "zorilla/board/chips/chip.hpp"
#include "zorilla/units/level.hpp"

#include <stdint.h>

namespace zorilla {

/// A voltage, as a code of the converter. Read: `Sample`, the newest code; missing if none came
/// since it was last read.
/// \tparam Extra  0 to 3 bits more than the converter has: 4, 16 or 64 conversions one right after
///     the other are added up for them, which needs noise of about one count
template <class Pin, Reference Against = Reference::supply, uint8_t Extra = 0> struct Analogue {
    static_assert(Extra <= 3, "oversampling gives 1 to 3 extra bits");
};

/// What holds an input that nothing drives.
enum class Pull : uint8_t { none, up };
/// High or low. Read: `LevelSample`.
template <class Pin, Pull Held = Pull::none> struct Digital {};

/// How long an echo lasts after a ping, to 4 us while all other roles are at work. Read: `Echo`;
/// each read takes what came of the ping before, and starts the next, at most every 60 ms: sooner,
/// what comes back late from the one would be taken for the other's. A read that comes sooner gives
/// the last echo again. Several take turns, each at most every 60 ms times their number, so that
/// none hears another's ping.
template <class PingPin, class Pin> struct EchoTime {};

/// A one-wire humidity sensor. `start` asks it; read: `FrameSample`, once its answer is there.
template <class Pin> struct FrameLine {};

/// Counts falling edges. Read: `PulseSample`.
/// \tparam Shortest  microseconds; an edge sooner than this after the last is a glitch
template <class Pin, uint32_t Shortest = 0> struct Pulses {};

/// Set on or off. Write: `OnOff`. The power of a probe, too.
template <class Pin, Level Active = active_high> struct Switched {};

/// How fast a duty swings.
enum class Pace : uint8_t {
    usual, ///< as the clock's timer does; beyond what an eye sees, for LEDs, motors and pads
    fan,   ///< 25 kHz, beyond what an ear hears, as fans with four wires want it
};
/// On for a share of its time. Write: `Duty`.
template <class Pin, Level Active = active_high, Pace At = Pace::usual> struct Dimmed {};

/// Three colours, each `Switched` or `Dimmed`. Write: `Colour`.
template <class Red, class Green, class Blue> struct Coloured {};

/// Which lights of a row are lit.
enum class Lights : uint8_t {
    all, ///< from the first to that of the stage
    top, ///< that of the stage alone
};
/// A row of lights. Write: `Stage`.
template <Lights Lit, Level Active, class... Pins> struct Bar {};

/// A tone, 31 Hz to 20 kHz. Write: `Tone`.
template <class Pin, Level Active = active_high> struct Sounding {};

/// A pulse of 1 to 2 ms, every 20 ms. Write: `Duty`, from one end to the other.
template <class Pin> struct Servo {};

/// Text out and in, 8 bits, no parity, one stop bit. See `Wiring::send` and `Wiring::line`.
/// \tparam Number  of the chip's serial lines
template <uint32_t Baud, uint8_t Number = 0> struct SerialLine {};
/// The same, out only: the other pin is free, and no memory goes for lines.
template <uint32_t Baud, uint8_t Number = 0> struct SerialOut {};
/// The same by the USB plug of a chip that has one, as a serial port (CDC-ACM), both ways.
struct UsbLine {};

/// Resets the chip when a pass has hung, 250 ms after it was due. However long it is from pass to
/// pass.
struct Watchdog {};

/// What the chip was last reset by.
enum class ResetCause : uint8_t { power, button, low_voltage, watchdog };

} // namespace zorilla
