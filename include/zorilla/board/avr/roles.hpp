// SPDX-License-Identifier: MIT
/// \file
/// What all roles on an AVR have in common, and those that are nothing but levels of pins.
#pragma once

#include "zorilla/board/avr/pin.hpp"
#include "zorilla/board/pin_roles.hpp"

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
    static constexpr bool pings = false;  ///< whether it pings, and takes turns with those that do
    static constexpr int8_t channel = -1; ///< of the converter
    static constexpr uint8_t extra = 0;   ///< more bits than that has
    static constexpr Reference reference{}; ///< of that
    static constexpr EdgePins logged{};     ///< pins whose edges it wants to know
    static constexpr uint8_t log_size = 0;  ///< and how many of them may wait
    static constexpr EdgePins counted{};    ///< the same, from the interrupt itself
    static void begin() {}
    template <uint8_t> static void step(Instant) {}
    // Of a group of pins: which have changed, and their levels now.
    static void edge(uint8_t, uint8_t, uint8_t, uint16_t) {}
    // Edges of a group were not told of for a while.
    static void disturb(uint8_t) {}
    static void count(uint8_t, uint8_t, uint8_t, uint32_t) {}
};
struct OutputRole : Role {
    static constexpr bool is_output = true;
};

} // namespace avr

template <uint32_t H, char P, uint8_t Bit, Pull Held>
struct Does<AvrBoard<H>, Digital<AvrPin<P, Bit>, Held>>
    : detail::DigitalBy<avr::Role, AvrPin<P, Bit>, Held> {};

template <uint32_t H, char P, uint8_t Bit, Level Active>
struct Does<AvrBoard<H>, Switched<AvrPin<P, Bit>, Active>>
    : detail::SwitchedBy<avr::OutputRole, AvrPin<P, Bit>, Active> {};

template <uint32_t H, Lights Lit, Level Active, class... Pins>
struct Does<AvrBoard<H>, Bar<Lit, Active, Pins...>>
    : detail::BarBy<avr::OutputRole, Lit, Active, Pins...> {};

template <uint32_t H, class Red, class Green, class Blue>
struct Does<AvrBoard<H>, Coloured<Red, Green, Blue>>
    : detail::ColouredBy<avr::OutputRole, AvrBoard<H>, Red, Green, Blue> {};

} // namespace zorilla
