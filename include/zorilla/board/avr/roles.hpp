// SPDX-License-Identifier: MIT
/// \file
/// What all roles on an AVR have in common, and those that are nothing but levels of pins.
#pragma once

#include "zorilla/board/avr/pin.hpp"
#include "zorilla/board/wiring.hpp"
#include "zorilla/drive/drive.hpp"
#include "zorilla/sense/switched.hpp"

namespace zorilla {

/// The chip that is compiled for, at so many hertz.
template <uint32_t Hertz> struct AvrBoard;

namespace avr {

/// How a timer is shared; above them, how the converter's reference is.
enum How : uint8_t { duties = 1, fans, servos, references };

/// Pins of each group that tells of edges.
struct EdgePins {
    uint8_t of[3];
};
/// One pin among them.
template <class Pin> constexpr EdgePins edge_pin() {
    static_assert(Pin::facts.edges >= 0, "this pin tells nobody of its edges: take one that does "
                                         "(docs/boards.md)");
    EdgePins out{};
    out.of[Pin::facts.edges] = Pin::mask;
    return out;
}

/// What a role does, unless it says otherwise.
struct Role {
    static constexpr bool is_output = false;
    static constexpr bool timed = false;    ///< whether reading it takes the time
    static constexpr int8_t channel = -1;   ///< of the converter
    static constexpr Reference reference{}; ///< of that
    static constexpr EdgePins logged{};     ///< pins whose edges it wants to know
    static constexpr EdgePins counted{};    ///< the same, from the interrupt itself
    static void begin() {}
    static void step(Instant) {}
    // Of a group of pins: which have changed, and their levels now.
    static void edge(uint8_t, uint8_t, uint8_t, uint16_t) {}
    static void count(uint8_t, uint8_t, uint8_t, uint32_t) {}
};
struct OutputRole : Role {
    static constexpr bool is_output = true;
};

constexpr Level level_of(Level active, bool is_on) {
    return (active == active_high) == is_on ? Level::high : Level::low;
}

} // namespace avr

template <uint32_t H, char P, uint8_t Bit, Pull Held>
struct Does<AvrBoard<H>, Digital<AvrPin<P, Bit>, Held>> : avr::Role {
    using Pin = AvrPin<P, Bit>;
    static constexpr Needs needs{Pin::id};
    static void begin() { Pin::set(Held == Pull::up ? Level::high : Level::low); }
    [[gnu::always_inline]] static LevelSample read() {
        return LevelSample(Pin::is_high() ? Level::high : Level::low);
    }
};

template <uint32_t H, char P, uint8_t Bit, Level Active>
struct Does<AvrBoard<H>, Switched<AvrPin<P, Bit>, Active>> : avr::OutputRole {
    using Pin = AvrPin<P, Bit>;
    static constexpr Needs needs{Pin::id};
    static void begin() { Pin::begin(avr::level_of(Active, false)); }
    [[gnu::always_inline]] static void write(OnOff value) {
        Pin::set(avr::level_of(Active, value == on));
    }
    /// Of a colour: fully on, or off.
    static void write(Duty value) { write(value == Duty() ? off : on); }
};

template <uint32_t H, Lights Lit, Level Active, class... Pins>
struct Does<AvrBoard<H>, Bar<Lit, Active, Pins...>> : avr::OutputRole {
    static constexpr Needs needs{(Pins::id | ...)};
    static void begin() { (Pins::begin(avr::level_of(Active, false)), ...); }
    static void write(Stage stage) {
        uint8_t number = 0;
        const auto lit = [stage](uint8_t i) {
            return (Lit == Lights::top ? top_led(stage, i) : bar_led(stage, i)) == on;
        };
        (Pins::set(avr::level_of(Active, lit(number++))), ...);
    }
};

template <uint32_t H, class Red, class Green, class Blue>
struct Does<AvrBoard<H>, Coloured<Red, Green, Blue>> : avr::OutputRole {
    using Board = AvrBoard<H>;
    static_assert(detail::AllGoTogether<Board, Red, Green, Blue>::passed);
    static constexpr Needs needs =
        Does<Board, Red>::needs | Does<Board, Green>::needs | Does<Board, Blue>::needs;
    static void begin() {
        Does<Board, Red>::begin();
        Does<Board, Green>::begin();
        Does<Board, Blue>::begin();
    }
    static void write(Colour value) {
        Does<Board, Red>::write(value.red);
        Does<Board, Green>::write(value.green);
        Does<Board, Blue>::write(value.blue);
    }
};

} // namespace zorilla
