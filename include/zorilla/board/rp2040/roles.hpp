// SPDX-License-Identifier: MIT
/// \file
/// What all roles on an RP2040 have in common, and those that are nothing but levels of pins.
#pragma once

#include "zorilla/board/pin_roles.hpp"
#include "zorilla/board/rp2040/pin.hpp"

namespace zorilla {

struct Rp2040;

namespace rp2040 {

/// How a slice is shared.
enum How : uint8_t { duties = 1, fans, servos };

/// What a role does, unless it says otherwise.
struct Role {
    static constexpr bool is_output = false;
    static constexpr bool pings = false;   ///< whether it pings, and takes turns with those that do
    static constexpr int8_t channel = -1;  ///< of the converter
    static constexpr uint8_t extra = 0;    ///< more bits than that has
    static constexpr uint32_t logged = 0;  ///< pins whose edges it wants to know
    static constexpr uint32_t counted = 0; ///< the same, from the interrupt itself
    static constexpr uint32_t parts = 0;   ///< of the chip that it needs
    static void begin() {}
    template <uint8_t> static void step(Instant) {}
    static bool is_busy() { return false; }
    static void disturb() {}
    // Of all pins: which have changed, and their levels now.
    static void edge(uint32_t, uint32_t, uint16_t) {}
    static void count(uint32_t, uint32_t, uint32_t) {}
};
struct OutputRole : Role {
    static constexpr bool is_output = true;
};

} // namespace rp2040

template <uint8_t N, Pull Held>
struct Does<Rp2040, Digital<RpPin<N>, Held>> : detail::DigitalBy<rp2040::Role, RpPin<N>, Held> {};

template <uint8_t N, Level Active>
struct Does<Rp2040, Switched<RpPin<N>, Active>>
    : detail::SwitchedBy<rp2040::OutputRole, RpPin<N>, Active> {};

template <Lights Lit, Level Active, class... Pins>
struct Does<Rp2040, Bar<Lit, Active, Pins...>>
    : detail::BarBy<rp2040::OutputRole, Lit, Active, Pins...> {};

template <class Red, class Green, class Blue>
struct Does<Rp2040, Coloured<Red, Green, Blue>>
    : detail::ColouredBy<rp2040::OutputRole, Rp2040, Red, Green, Blue> {
    static constexpr uint32_t parts =
        Does<Rp2040, Red>::parts | Does<Rp2040, Green>::parts | Does<Rp2040, Blue>::parts;
};

} // namespace zorilla
