// SPDX-License-Identifier: MIT
/// \file
/// What a board does with nothing but levels of pins, whatever the chip. For boards alone.
#pragma once

#include "zorilla/board/wiring.hpp"
#include "zorilla/drive/drive.hpp"
#include "zorilla/sense/switched.hpp"

namespace zorilla::detail {

constexpr Level level_of(Level active, bool is_on) {
    return (active == active_high) == is_on ? Level::high : Level::low;
}

/// \tparam Base  what a role of the board does, unless it says otherwise
template <class Base, class Pin, Pull Held> struct DigitalBy : Base {
    static constexpr Needs needs{Pin::id};
    static void begin() { Pin::hold(Held == Pull::up); }
    [[gnu::always_inline]] static LevelSample read() {
        return LevelSample(Pin::is_high() ? Level::high : Level::low);
    }
};

template <class Base, class Pin, Level Active> struct SwitchedBy : Base {
    static constexpr Needs needs{Pin::id};
    static void begin() { Pin::begin(level_of(Active, false)); }
    [[gnu::always_inline]] static void write(OnOff value) {
        Pin::set(level_of(Active, value == on));
    }
    /// Of a colour: fully on, or off.
    static void write(Duty value) { write(value == Duty() ? off : on); }
};

template <class Base, Lights Lit, Level Active, class... Pins> struct BarBy : Base {
    static constexpr Needs needs{(Pins::id | ...)};
    static void begin() { (Pins::begin(level_of(Active, false)), ...); }
    static void write(Stage stage) {
        uint8_t number = 0;
        const auto lit = [stage](uint8_t i) {
            return (Lit == Lights::top ? top_led(stage, i) : bar_led(stage, i)) == on;
        };
        (Pins::set(level_of(Active, lit(number++))), ...);
    }
};

template <class Base, class Board, class Red, class Green, class Blue> struct ColouredBy : Base {
    static_assert(AllGoTogether<Board, Red, Green, Blue>::passed);
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

} // namespace zorilla::detail
